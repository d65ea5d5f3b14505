"""Where bodies are kept while a run lasts: one file without a name, gone with the run however it ends."""

from functools import partial
from tempfile import TemporaryFile
from threading import Lock

from pickcrate.read.reading import StoredBody


class Spool:
    """A temporary file for bodies, one behind the other. Its OSErrors are the disk's."""

    def __init__(self, most: int = 0) -> None:
        """Open the file; ``most`` is how many bytes are kept in all, 0 for no limit."""
        self._file = TemporaryFile()  # noqa: SIM115 (it is open as long as the run)
        self._lock = Lock()
        self._most = most
        self._size = 0

    def put(self, octets: bytes, media_type: str = "", address: str = "") -> StoredBody | None:
        """Keep a body; None if there is no room for it."""
        if self._most and self._size + len(octets) > self._most:
            return None
        with self._lock:
            start, self._size = self._size, self._size + len(octets)
            self._file.seek(start)
            self._file.write(octets)
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
        self._file.close()
