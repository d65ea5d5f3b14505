"""Where what a browser loaded is kept while a run lasts: files in a temporary folder, named by a number."""

from pathlib import Path
from tempfile import TemporaryDirectory

from pickcrate.read.reading import StoredBody


class Spool:
    """A temporary folder for bodies. It is gone when it is closed, and with the run at the latest."""

    def __init__(self, most: int) -> None:
        """Make the folder; ``most`` is how many bytes are kept in all, 0 for no limit."""
        self._folder = TemporaryDirectory(prefix="pickcrate-", ignore_cleanup_errors=True)
        self._room = most or None
        self._files = 0

    def put(self, octets: bytes, media_type: str = "", address: str = "") -> StoredBody | None:
        """Keep a body; None if there is no room for it."""
        if self._room is not None:
            if len(octets) > self._room:
                return None
            self._room -= len(octets)
        self._files += 1
        path = Path(self._folder.name) / str(self._files)
        path.write_bytes(octets)
        return StoredBody(path.read_bytes, media_type, address)

    def close(self) -> None:
        """Remove the folder."""
        self._folder.cleanup()
