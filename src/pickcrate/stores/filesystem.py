"""Whatever else fsspec knows a file system for: SFTP, SMB, HDFS, memory.

Few of them can refuse to write over a file, so a file is written beside its place and moved there; that two write
the same small file at the same moment is left to the names, which hold the hash wherever that matters.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

from pickcrate.addresses.url import without_userinfo
from pickcrate.errors import UsageError
from pickcrate.stores.store import HALF, PIECE, check_name, check_size, refused


class FilesystemStore:
    """A folder of a file system that fsspec opens."""

    def __init__(self, address: str) -> None:
        """Open the store. Raises UsageError without what its kind needs, StoreError if it cannot be reached."""
        try:
            from fsspec.core import url_to_fs  # type: ignore[import-untyped]  # noqa: PLC0415
        except ModuleNotFoundError:
            raise UsageError("stores need the haul extra", hint="pip install 'pickcrate[haul]'") from None
        self.address = address.rstrip("/")
        try:
            self._files: Any
            self._files, self._root = url_to_fs(self.address)
        except (ValueError, ImportError) as error:
            words = f"{without_userinfo(address)}: stores of this kind cannot be opened: {error}"
            raise UsageError(
                words, hint="folders, s3://, gs:// and az:// can be; others with what fsspec needs"
            ) from error
        except Exception as error:
            raise refused(self.address, "", error) from error

    def put(self, name: str, path: Path) -> None:
        """Put a file whose name holds its hash."""
        if self._size(name) != path.stat().st_size:
            self.replace(name, path)

    def create(self, name: str, octets: bytes) -> bool:
        """Write a small file unless one of that name is there; return whether that was done."""
        if self._size(name) is not None:
            return False
        self._write(name, iter((octets,)))
        return True

    def replace(self, name: str, path: Path) -> None:
        """Put a file in the place of the one of that name."""
        with path.open("rb") as file:
            self._write(name, iter(lambda: file.read(PIECE), b""))

    def read(self, name: str) -> bytes | None:
        """Return a small file; None if there is none."""
        size = self._size(name)
        if size is None:
            return None
        check_size(self.address, name, size)
        try:
            return bytes(self._files.cat_file(self._at(name)))
        except Exception as error:
            raise refused(self.address, name, error) from error

    def pieces(self, name: str) -> Iterator[bytes]:
        """Yield a file in pieces of about a megabyte."""
        try:
            with self._files.open(self._at(name), "rb") as file:
                while piece := file.read(PIECE):
                    yield piece
        except Exception as error:
            raise refused(self.address, name, error) from error

    def part(self, name: str, start: int, length: int) -> bytes:
        """Return so many bytes of a file from a place on."""
        try:
            return bytes(self._files.cat_file(self._at(name), start=start, end=start + length))
        except Exception as error:
            raise refused(self.address, name, error) from error

    def names(self, folder: str) -> Iterator[tuple[str, int]]:
        """Yield the names of the files in a folder with their sizes."""
        try:
            found = self._files.find(self._at(folder), detail=True)
        except FileNotFoundError:
            return
        except Exception as error:
            raise refused(self.address, folder, error) from error
        start = len(self._root.rstrip("/")) + 1
        for path, known in found.items():
            if not path.rpartition("/")[2].startswith(HALF):
                yield path[start:], int(known.get("size") or 0)

    def delete(self, name: str) -> None:
        """Take a file away."""
        try:
            self._files.rm_file(self._at(name))
        except FileNotFoundError:
            return
        except Exception as error:
            raise refused(self.address, name, error) from error

    def _at(self, name: str) -> str:
        check_name(self.address, name)
        return f"{self._root.rstrip('/')}/{name}"

    def _size(self, name: str) -> int | None:
        try:
            return int(self._files.size(self._at(name)) or 0)
        except FileNotFoundError:
            return None
        except Exception as error:
            raise refused(self.address, name, error) from error

    def _write(self, name: str, pieces: Iterator[bytes]) -> None:
        place = self._at(name)
        folder = place.rpartition("/")[0]
        half = f"{folder}/{HALF}{uuid4().hex}"
        try:
            self._files.makedirs(folder, exist_ok=True)
            with self._files.open(half, "wb") as file:
                for piece in pieces:
                    file.write(piece)
            self._files.mv(half, place)
        except Exception as error:
            raise refused(self.address, name, error) from error
