"""A part of a file, as a file of its own: what lies in a package as it is is read there, however large it is."""

import io
from collections.abc import Callable
from typing import BinaryIO, cast


class _Window(io.RawIOBase):
    def __init__(self, file: BinaryIO, offset: int, size: int) -> None:
        self._file = file
        self._offset = offset
        self._size = size
        self._position = 0

    def readable(self) -> bool:
        """Say yes: it is for reading."""
        return True

    def seekable(self) -> bool:
        """Say yes: it may be read in any order."""
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go to a position, as in any file, and return it."""
        start = {io.SEEK_SET: 0, io.SEEK_CUR: self._position, io.SEEK_END: self._size}[whence]
        self._position = max(0, start + offset)
        return self._position

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        """Fill ``buffer`` from the position on, to the end of the part at most."""
        self._file.seek(self._offset + self._position)
        piece = self._file.read(max(0, min(len(buffer), self._size - self._position)))
        buffer[: len(piece)] = piece
        self._position += len(piece)
        return len(piece)

    def close(self) -> None:
        """Close the file as well."""
        self._file.close()
        super().close()


def window(open_file: Callable[[], BinaryIO], offset: int, size: int) -> BinaryIO:
    """Return ``size`` bytes of a file from an offset on, opened anew."""
    return io.BufferedReader(cast("io.RawIOBase", _Window(open_file(), offset, size)))
