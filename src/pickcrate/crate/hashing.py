"""SHA-256 of what comes, in threads of their own: a hash of more than a few kilobytes leaves the interpreter free.

Nothing else is worth a thread here: making a file is many short calls into the system, and after each of them a thread
waits for the interpreter longer than the call took.
"""

import hashlib
from collections.abc import Iterator
from queue import Queue, SimpleQueue
from threading import Event, Thread
from typing import Generic, TypeVar

T = TypeVar("T")

_THREADS = 2
"""for large bodies"""

_MOST_PIECES = 24
"""Pieces that wait for one thread, of half a megabyte each."""


class Hashed(Generic[T]):
    """Whole bodies, each with what it belongs to, that wait to be hashed or are: first come, first served."""

    def __init__(self) -> None:
        self.pending = 0
        self._given: SimpleQueue[tuple[T, bytes] | None] = SimpleQueue()
        self._done: SimpleQueue[tuple[T, str]] = SimpleQueue()
        self._thread: Thread | None = None

    def give(self, item: T, octets: bytes) -> None:
        """Hand over one body."""
        if self._thread is None:
            self._thread = Thread(target=self._serve, daemon=True)
            self._thread.start()
        self.pending += 1
        self._given.put((item, octets))

    def take(self, *, most_left: int) -> Iterator[tuple[T, str]]:
        """Yield what is hashed, with its hash in hexadecimal; waits while more than ``most_left`` are pending."""
        while self.pending > most_left or not self._done.empty():
            hashed = self._done.get()
            self.pending -= 1
            yield hashed

    def close(self) -> None:
        """End the thread."""
        self._given.put(None)

    def _serve(self) -> None:
        while (given := self._given.get()) is not None:
            item, octets = given
            self._done.put((item, hashlib.sha256(octets).hexdigest()))


class RunningHash:
    """The hash of one large body, piece by piece as it arrives: nothing is read a second time."""

    def __init__(self, waiting: "Queue[tuple[RunningHash, list[bytes] | None] | None]") -> None:
        self._waiting = waiting
        self._sha256 = hashlib.sha256()
        self._done = Event()
        self._is_closed = False

    @property
    def is_done(self) -> bool:
        """Whether the hash of all pieces is there, so that nobody has to wait for it."""
        return self._done.is_set()

    def add(self, pieces: list[bytes]) -> None:
        """Hand over the next pieces; waits while too many are under way."""
        self._waiting.put((self, pieces))

    def close(self) -> None:
        """Say that this was the last piece."""
        if not self._is_closed:
            self._is_closed = True
            self._waiting.put((self, None))

    def hexdigest(self) -> str:
        """Return the hash of all pieces in hexadecimal, waiting for it if it has to be."""
        self.close()
        self._done.wait()
        return self._sha256.hexdigest()

    def take(self, pieces: list[bytes] | None) -> None:
        """Work in some pieces, or the end; for the thread."""
        if pieces is None:
            self._done.set()
        else:
            self._sha256.update(b"".join(pieces))  # at once: after each the interpreter has to be waited for


class Hashing:
    """The threads for the large bodies of one crate, which start when the first comes; bodies take turns."""

    def __init__(self) -> None:
        self._queues: list[Queue[tuple[RunningHash, list[bytes] | None] | None]] = []
        self._threads: list[Thread] = []
        self._begun = 0

    def begin(self) -> RunningHash:
        """Return the hash of a new body."""
        if not self._threads:
            self._queues = [Queue(_MOST_PIECES) for _ in range(_THREADS)]
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


def _serve(waiting: "Queue[tuple[RunningHash, list[bytes] | None] | None]") -> None:
    while (given := waiting.get()) is not None:
        running, pieces = given
        running.take(pieces)
