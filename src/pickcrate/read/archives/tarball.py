"""The files of a tar (POSIX.1-2017, pax: ustar Interchange Format), where they lie in it."""

import tarfile
from collections.abc import Iterator
from threading import Lock
from typing import BinaryIO

from msgspec import Struct

MOST_MEMBERS = 100_000


class Stored(Struct, frozen=True):
    """One file: its path as the tar has it, and where its bytes lie."""

    path: str
    offset: int
    size: int


class Tar:
    """A tar that is open for reading; what it holds is read from any thread, a piece at a time."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._lock = Lock()

    def files(self) -> Iterator[Stored]:
        """Yield its regular files, in its order, of the first MOST_MEMBERS of it.

        Raises what tarfile trips over where it is damaged, or cut off.
        """
        with tarfile.open(fileobj=self._file, mode="r:") as archive:
            for _ in range(MOST_MEMBERS):
                if (member := archive.next()) is None:
                    self._file.seek(archive.offset)
                    if self._file.read(tarfile.BLOCKSIZE).strip(b"\0"):  # it ends in blank blocks, or with a file
                        raise tarfile.ReadError(f"what begins at byte {archive.offset} is no file")
                    return
                archive.members.clear()  # type: ignore[attr-defined]  # they would be kept
                if member.isreg() and not member.issparse():
                    yield Stored(member.name, member.offset_data, member.size)

    def load(self, stored: Stored, most: int) -> bytes:
        """Return the first ``most`` bytes of a file; what is left of it if the tar ends before it does."""
        with self._lock:
            self._file.seek(stored.offset)
            return self._file.read(min(stored.size, most))
