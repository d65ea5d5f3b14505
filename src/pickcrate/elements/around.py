"""What an element of a page has from those around it."""

from collections.abc import Callable, Iterable, Iterator
from operator import attrgetter
from typing import Generic, TypeVar

from selectolax.lexbor import LexborNode

N = TypeVar("N")
T = TypeVar("T")


class Inherited(Generic[N, T]):
    """What an element has from the innermost around it, itself included, that has an answer; each is asked once.

    ``around`` yields an element and those around it, the innermost first; ``key`` tells elements apart.
    """

    def __init__(
        self, around: Callable[[N], Iterable[N]], key: Callable[[N], int], ask: Callable[[N], T | None], otherwise: T
    ) -> None:
        self._around = around
        self._key = key
        self._ask = ask
        self._otherwise = otherwise
        self._known: dict[int, T] = {}

    def of(self, element: N) -> T:
        """Return the answer for an element."""
        path: list[int] = []
        found = self._otherwise
        for outer in self._around(element):
            key = self._key(outer)
            if key in self._known:
                found = self._known[key]
                break
            path.append(key)
            if (answer := self._ask(outer)) is not None:
                found = answer
                break
        self._known.update(dict.fromkeys(path, found))
        return found


def inherited_by_nodes(ask: Callable[[LexborNode], T | None], otherwise: T) -> Inherited[LexborNode, T]:
    """Return what the nodes of a tree have from those around them."""
    return Inherited(_nodes_around, attrgetter("mem_id"), ask, otherwise)


def _nodes_around(node: LexborNode) -> Iterator[LexborNode]:
    outer: LexborNode | None = node
    while outer is not None:
        yield outer
        outer = outer.parent
