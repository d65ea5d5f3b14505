"""Files that are read at any position: also a part of a package that lies there as it is, however large."""

import io
from collections.abc import Callable
from typing import BinaryIO, cast

_PIECE = 131_072


class Positioned(io.RawIOBase):
    """A file that knows where it is read; how large it is, and what stands where, a subclass says."""

    def __init__(self) -> None:
        self._position = 0

    def size(self) -> int:
        """Return how many bytes it has."""
        raise NotImplementedError

    def fill(self, position: int, buffer: bytearray) -> int:
        """Fill ``buffer`` from a position on, and return with how many bytes."""
        raise NotImplementedError

    def readable(self) -> bool:
        """Say yes: it is for reading."""
        return True

    def seekable(self) -> bool:
        """Say yes: it may be read in any order."""
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go to a position, as in any file, and return it."""
        start = {io.SEEK_SET: 0, io.SEEK_CUR: self._position}.get(whence)
        self._position = max(0, (self.size() if start is None else start) + offset)
        return self._position

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        """Fill ``buffer`` from where it is."""
        read = self.fill(self._position, buffer)
        self._position += read
        return read

    def buffered(self) -> BinaryIO:
        """Return the same file, read in larger pieces."""
        return io.BufferedReader(cast("io.RawIOBase", self), _PIECE)


class _Window(Positioned):
    def __init__(self, file: BinaryIO, offset: int, size: int) -> None:
        super().__init__()
        self._file = file
        self._offset = offset
        self._size = size

    def size(self) -> int:
        return self._size

    def fill(self, position: int, buffer: bytearray) -> int:
        self._file.seek(self._offset + position)
        piece = self._file.read(max(0, min(len(buffer), self._size - position)))
        buffer[: len(piece)] = piece
        return len(piece)

    def close(self) -> None:
        self._file.close()
        super().close()


def window(open_file: Callable[[], BinaryIO], offset: int, size: int) -> BinaryIO:
    """Return ``size`` bytes of a file from an offset on, opened anew."""
    return _Window(open_file(), offset, size).buffered()
