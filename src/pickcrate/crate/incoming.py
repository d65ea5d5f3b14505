"""A picture on its way in: beside its place, looked at, not yet moved there."""

import hashlib
import os
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path
from typing import TypeVar

from msgspec import Struct

from pickcrate.crate.hashing import RunningHash
from pickcrate.media.embedded import Embedded, embedded
from pickcrate.media.ending import ends_whole, shows_something
from pickcrate.media.header import Header, read_header
from pickcrate.media.whole import header_of_file
from pickcrate.values.measures import Grade, Measure, Measures

T = TypeVar("T")

_HEAD_BYTES = 262_144
_TAIL_BYTES = 65_536

_PIECE = 524_288
"""Bytes of a large body that are written and hashed at a time."""


class Incoming:
    """A large body on its way in: a file in the crate's own temporary folder, hashed as it grows."""

    def __init__(self, path: Path, running: RunningHash) -> None:
        self.path = path
        self._file = path.open("xb", buffering=0)
        self._hash = running
        self._pieces: list[bytes] = []
        self._held = 0

    @property
    def is_hashed(self) -> bool:
        """Whether its hash is there, of all that came."""
        return self._hash.is_done

    def write(self, octets: bytes) -> int:
        """Append ``octets``: they come in small pieces, and are written and hashed in larger ones."""
        self._pieces.append(octets)
        self._held += len(octets)
        if self._held >= _PIECE:
            self._hand_on()
        return len(octets)

    def _hand_on(self) -> None:
        pieces, self._pieces, self._held = self._pieces, [], 0
        _write_pieces(self._file.fileno(), pieces)
        self._hash.add(pieces)

    def writelines(self, pieces: Iterable[bytes]) -> None:
        """Append every piece."""
        for piece in pieces:
            self.write(piece)

    def flush(self) -> None:
        """Say that all came, and hand the rest of it to the operating system. Raises OSError."""
        if self._pieces:
            self._hand_on()
        self._hash.close()

    def finish(self, modified: int | None) -> str:
        """Close the file, keep it, and return its SHA-256 in hexadecimal."""
        self._file.close()
        if modified is not None:
            os.utime(self.path, (modified, modified))
        return self._hash.hexdigest()

    def close(self) -> None:
        """Close and delete the file; nobody waits for its hash."""
        self._file.close()
        self.path.unlink(missing_ok=True)


class Arrival(Struct, frozen=True):
    """A whole picture in a file of the temporary folder."""

    measures: Measures
    sha256: str
    beside: str
    """the file's path"""
    is_unended: bool = False
    """whether it has no end, as its server has it"""
    embedded: tuple[Embedded, ...] = ()
    """what the file itself says of whose it is"""


class Seen(Struct, frozen=True):
    """What was seen of a body: the picture's header, its size, whether it has no end, what it says of whose it is."""

    header: Header
    size: int
    is_unended: bool
    embedded: tuple[Embedded, ...] = ()


class Unfit(Struct, frozen=True):
    """Why what came is no whole picture: it is none at all, or not all of one."""

    is_picture: bool
    words: str


_NO_PICTURE = Unfit(is_picture=False, words="not an image")


def look_at(octets: bytes, incoming: Incoming | None, *, is_all: bool) -> Seen | Unfit:
    """Return what is seen of what came, in memory or in a file; or why it is no whole picture.

    ``is_all`` tells that all came that its server has: then a picture without an end was made so.
    """
    if incoming is not None:
        header, head, tail, size = _parts(incoming.path)
    else:
        header, head, tail, size = read_header(octets), octets, octets[-_TAIL_BYTES:], len(octets)
    if header is None:
        return _NO_PICTURE
    is_unended = not ends_whole(header.type, tail, size, head)
    if is_unended and not (is_all and shows_something(header.type, head, size)):
        return Unfit(is_picture=True, words=f"cut short: this {header.type.upper()} has no end")
    return Seen(header, size, is_unended, embedded(head))


def measures_of_file(header: Header, size: int) -> Measures:
    """Return the measures of a whole file of ``size`` bytes."""
    width, height = header.width, header.height
    return Measures(
        _actual(width) if width else None,
        _actual(height) if height else None,
        Measure(size, Grade.ACTUAL),
        _actual(header.type),
    )


@lru_cache(maxsize=1024)
def _actual(value: T) -> Measure[T]:
    return Measure(value, Grade.ACTUAL)


def digest(path: str | Path, algorithm: str = "sha256") -> bytes:
    """Return the digest of a file. Raises OSError."""
    with open(path, "rb") as file:  # noqa: PTH123 (a path as text, which costs less)
        return hashlib.file_digest(file, algorithm).digest()


def _parts(path: Path) -> tuple[Header | None, bytes, bytes, int]:
    """Return a file's header, its first and last bytes, and its length."""
    with path.open("rb") as file:
        header = header_of_file(file)
        file.seek(0)
        head = file.read(_HEAD_BYTES)
        size = file.seek(0, os.SEEK_END)
        file.seek(max(0, size - _TAIL_BYTES))
        return header, head, file.read(), size


_MOST_AT_ONCE = 1_000 if hasattr(os, "writev") else 0
"""pieces that one call writes (POSIX.1-2017, writev: systems with it take 1,024)"""

_TO_WRITE = os.O_WRONLY | os.O_CREAT | os.O_TRUNC | getattr(os, "O_BINARY", 0)
_CAN_DATE_OPEN_FILES = os.utime in os.supports_fd


def write(path: str, octets: bytes, modified: int | None) -> None:
    """Write a new file, as one that was last changed at ``modified`` seconds since 1970. Raises OSError."""
    descriptor = os.open(path, _TO_WRITE, 0o666)
    try:
        _write_all(descriptor, octets)
        if modified is not None:
            os.utime(descriptor if _CAN_DATE_OPEN_FILES else path, (modified, modified))
    finally:
        os.close(descriptor)


def _write_pieces(descriptor: int, pieces: list[bytes]) -> None:
    """Write pieces one behind the other, without putting them together where the system can do so."""
    written = os.writev(descriptor, pieces) if len(pieces) <= _MOST_AT_ONCE else 0
    if written < sum(map(len, pieces)):
        _write_all(descriptor, b"".join(pieces)[written:])


def _write_all(descriptor: int, octets: bytes) -> None:
    written = os.write(descriptor, octets)
    while written < len(octets):
        written += os.write(descriptor, memoryview(octets)[written:])
