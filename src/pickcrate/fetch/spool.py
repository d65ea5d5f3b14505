"""Where bodies are kept while a run lasts: one file without a name, gone with the run however it ends."""

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import partial
from tempfile import TemporaryFile
from threading import Lock

from pickcrate.errors import PickCrateError
from pickcrate.read.reading import StoredBody


class Spool:
    """A temporary file for bodies, one behind the other. Raises PickCrateError if the disk has no room for it."""

    def __init__(self, most: int = 0) -> None:
        """Open the file; ``most`` is how many bytes are kept in all, 0 for no limit."""
        with _told():
            self._file = TemporaryFile()  # noqa: SIM115 (it is open as long as the run)
        self._lock = Lock()
        self._most = most
        self._size = 0

    def put(self, octets: bytes, media_type: str = "", address: str = "") -> StoredBody | None:
        """Keep a body; None if that would be more than is kept in all."""
        if self._most and self._size + len(octets) > self._most:
            return None
        with self._lock, _told():
            start, self._size = self._size, self._size + len(octets)
            self._file.seek(start)
            self._file.write(octets)
            self._file.flush()
        size = len(octets)
        return StoredBody(
            partial(self._load, start, size, size),
            media_type,
            address,
            size=size,
            begin=partial(self._load, start, size),
        )

    def _load(self, start: int, size: int, most: int) -> bytes:
        with self._lock:
            self._file.seek(start)
            return self._file.read(min(size, most))

    def close(self) -> None:
        """Let go of the file, and so of all that it holds."""
        with suppress(OSError):  # what it did not write is of no use any more
            self._file.close()


@contextmanager
def _told() -> Iterator[None]:
    try:
        yield
    except OSError as error:
        why = (error.strerror or str(error)).lower()
        hint = "make room there, or set TMPDIR to another folder"
        raise PickCrateError(f"the folder for temporary files cannot be written: {why}", hint=hint) from error
