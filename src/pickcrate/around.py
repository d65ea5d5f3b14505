"""What an element of a page has from those around it."""

from collections.abc import Callable
from typing import Generic, TypeVar

from selectolax.lexbor import LexborNode

T = TypeVar("T")


class Around(Generic[T]):
    """What an element has from the innermost around it, itself included, that has an answer; each is asked once."""

    def __init__(self, ask: Callable[[LexborNode], T | None], otherwise: T) -> None:
        self._ask = ask
        self._otherwise = otherwise
        self._known: dict[int, T] = {}

    def of(self, node: LexborNode) -> T:
        """Return the answer for an element."""
        path: list[int] = []
        outer: LexborNode | None = node
        answer: T | None = None
        while outer is not None and answer is None:
            if outer.mem_id in self._known:
                answer = self._known[outer.mem_id]
                break
            path.append(outer.mem_id)
            answer = self._ask(outer)
            outer = outer.parent
        found = self._otherwise if answer is None else answer
        self._known.update(dict.fromkeys(path, found))
        return found
