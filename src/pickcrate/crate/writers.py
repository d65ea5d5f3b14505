"""Threads that put pictures in their places while the run goes on asking for more.

Making a file takes the kernel longer than everything else about a small picture takes us, and leaves the
interpreter free. Plain queues, since a future and its lock cost as much as the file.
"""

from collections.abc import Callable, Iterator
from queue import SimpleQueue
from threading import Thread
from types import TracebackType
from typing import Generic, Self, TypeVar

T = TypeVar("T")
R = TypeVar("R")


class Writers(Generic[T, R]):
    """A few threads that call ``work`` on what is given to them; a context manager that ends when all is done."""

    def __init__(self, count: int, work: Callable[[T], R]) -> None:
        self.pending = 0
        self._work = work
        self._given: SimpleQueue[T | None] = SimpleQueue()
        self._done: SimpleQueue[tuple[T, R | Exception]] = SimpleQueue()
        self._threads = [Thread(target=self._serve, daemon=True, name=f"writer {n}") for n in range(count)]

    def __enter__(self) -> Self:
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for _ in self._threads:
            self._given.put(None)
        for thread in self._threads:
            thread.join()

    def give(self, item: T) -> None:
        """Hand over one item."""
        self.pending += 1
        self._given.put(item)

    def done(self, *, most_left: int) -> Iterator[tuple[T, R]]:
        """Yield what is done with its result, waiting while more than ``most_left`` are pending.

        Raises what the work raised.
        """
        while self.pending and (self.pending > most_left or not self._done.empty()):
            item, result = self._done.get()
            self.pending -= 1
            if isinstance(result, Exception):
                raise result
            yield item, result

    def _serve(self) -> None:
        while (item := self._given.get()) is not None:
            try:
                self._done.put((item, self._work(item)))
            except Exception as error:  # noqa: BLE001 (raised again in the thread that asks for results)
                self._done.put((item, error))
