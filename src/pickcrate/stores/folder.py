"""A folder as a store."""

import errno
import os
import shutil
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

from pickcrate.stores.store import HALF, PIECE, check_name, check_size, refused


class FolderStore:
    """Files of a folder and the folders in it; each is written beside its place, and moved there whole."""

    def __init__(self, root: Path) -> None:
        self.address = str(root)
        self._root = root

    def put(self, name: str, path: Path) -> None:
        """Put a file whose name holds its hash; it is moved there, if it is on the same disk."""
        if not self._place(name).exists():
            self._publish(name, path)

    def create(self, name: str, octets: bytes) -> bool:
        """Write a small file unless one of that name is there; return whether that was done."""
        place = self._place(name)
        half = place.with_name(f"{HALF}{uuid4().hex}")
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            half.write_bytes(octets)
            os.link(half, place)  # unlike a rename this fails where a file is
        except FileExistsError:
            return False
        except OSError as error:
            raise refused(self.address, name, error) from error
        finally:
            half.unlink(missing_ok=True)
        return True

    def replace(self, name: str, path: Path) -> None:
        """Put a file in the place of the one of that name."""
        self._publish(name, path)

    def read(self, name: str) -> bytes | None:
        """Return a small file; None if there is none."""
        try:
            place = self._place(name)
            check_size(self.address, name, place.stat().st_size)
            return place.read_bytes()
        except FileNotFoundError:
            return None
        except OSError as error:
            raise refused(self.address, name, error) from error

    def pieces(self, name: str) -> Iterator[bytes]:
        """Yield a file in pieces of about a megabyte."""
        try:
            with self._place(name).open("rb") as file:
                while piece := file.read(PIECE):
                    yield piece
        except OSError as error:
            raise refused(self.address, name, error) from error

    def part(self, name: str, start: int, length: int) -> bytes:
        """Return so many bytes of a file from a place on."""
        try:
            with self._place(name).open("rb") as file:
                file.seek(start)
                return file.read(length)
        except OSError as error:
            raise refused(self.address, name, error) from error

    def names(self, folder: str) -> Iterator[tuple[str, int]]:
        """Yield the names of the files in a folder with their sizes."""
        try:
            for path in self._place(folder).rglob("*"):
                if not path.name.startswith(HALF) and path.is_file():
                    yield path.relative_to(self._root).as_posix(), path.stat().st_size
        except OSError as error:
            raise refused(self.address, folder, error) from error

    def delete(self, name: str) -> None:
        """Take a file away."""
        try:
            self._place(name).unlink(missing_ok=True)
        except OSError as error:
            raise refused(self.address, name, error) from error

    def _place(self, name: str) -> Path:
        check_name(self.address, name)
        return self._root / name

    def _publish(self, name: str, path: Path) -> None:
        place = self._place(name)
        half = place.with_name(f"{HALF}{uuid4().hex}")
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            try:
                path.replace(place)
            except OSError as error:
                if error.errno != errno.EXDEV:
                    raise
                shutil.copyfile(path, half)
                half.replace(place)
        except OSError as error:
            raise refused(self.address, name, error) from error
        finally:
            half.unlink(missing_ok=True)
