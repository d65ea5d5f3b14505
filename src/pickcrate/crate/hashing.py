"""Hashes of large bodies, taken while these are still on their way: nothing is read a second time.

Hashing is slower than fetching from a fast server. Threads do it, since a hash of more than a few kilobytes leaves the
interpreter free; what they have not got to yet is bounded, and whoever brings more waits.
"""

import hashlib
from queue import Queue
from threading import Event, Thread

_THREADS = 2
_MOST_WAITING = 48
"""Pieces that wait for one thread: of a quarter of a megabyte each, as they come from a fast connection."""


class RunningHash:
    """The SHA-256 of one body, piece by piece."""

    def __init__(self, waiting: "Queue[tuple[RunningHash, bytes | None] | None]") -> None:
        self._waiting = waiting
        self._sha256 = hashlib.sha256()
        self._done = Event()
        self._is_closed = False

    @property
    def is_done(self) -> bool:
        """Whether the hash of all pieces is there, so that nobody has to wait for it."""
        return self._done.is_set()

    def add(self, octets: bytes) -> None:
        """Hand over the next piece; waits while too many are under way."""
        self._waiting.put((self, octets))

    def close(self) -> None:
        """Say that this was the last piece."""
        if not self._is_closed:
            self._is_closed = True
            self._waiting.put((self, None))

    def digest(self) -> bytes:
        """Return the hash of all pieces, waiting for it if it has to be."""
        self.close()
        self._done.wait()
        return self._sha256.digest()

    def take(self, octets: bytes | None) -> None:
        """Work in one piece, or the end; for the thread."""
        if octets is None:
            self._done.set()
        else:
            self._sha256.update(octets)


class Hashing:
    """The threads of one crate, which start when the first large body comes."""

    def __init__(self) -> None:
        self._queues: list[Queue[tuple[RunningHash, bytes | None] | None]] = []
        self._threads: list[Thread] = []
        self._begun = 0

    def begin(self) -> RunningHash:
        """Return the hash of a new body: bodies take turns among the threads."""
        if not self._threads:
            self._queues = [Queue(_MOST_WAITING) for _ in range(_THREADS)]
            self._threads = [Thread(target=_serve, args=(queue,), daemon=True) for queue in self._queues]
            for thread in self._threads:
                thread.start()
        self._begun += 1
        return RunningHash(self._queues[self._begun % _THREADS])

    def close(self) -> None:
        """End the threads, when they are done with what they have."""
        for queue in self._queues:
            queue.put(None)
        for thread in self._threads:
            thread.join()
        self._queues, self._threads = [], []


def _serve(waiting: "Queue[tuple[RunningHash, bytes | None] | None]") -> None:
    while (given := waiting.get()) is not None:
        running, octets = given
        running.take(octets)
