"""The elements of a page as numbers in document order: what lies in what is then a question of numbers."""

import sys
from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

from selectolax.lexbor import LexborNode

from pickcrate.elements.around import Inherited
from pickcrate.elements.selectors import readable
from pickcrate.elements.words import Texts
from pickcrate.values.page import Page

T = TypeVar("T")


class Tree:
    """One page's elements, numbered from 0, each with its parent and with where it ends."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self.nodes: list[LexborNode] = list(page.tree.css("*"))
        self.number = {node.mem_id: number for number, node in enumerate(self.nodes)}
        self.tags = [node.tag or "" for node in self.nodes]
        self.parent: list[int] = []
        """the number of each element's parent; -1 for the root"""
        self.end = list(range(1, len(self.nodes) + 1))
        """the number after that of the last element inside each"""
        open_ones: list[int] = []
        for number, node in enumerate(self.nodes):
            parent = node.parent
            above = self.number.get(parent.mem_id, -1) if parent is not None else -1
            while open_ones and open_ones[-1] != above:
                self.end[open_ones.pop()] = number
            open_ones.append(number)
            self.parent.append(above)
        for number in open_ones:
            self.end[number] = len(self.nodes)
        self._selected: dict[str, list[int]] = {}
        self._attributes: dict[int, dict[str, str | None]] = {}
        self.texts = Texts(len(page.text))

    def attributes(self, number: int) -> dict[str, str | None]:
        """Return an element's attributes; asked for again, they cost nothing."""
        known = self._attributes.get(number)
        if known is None:
            known = self._attributes[number] = self.nodes[number].attributes
        return known

    def attribute(self, number: int, name: str) -> str:
        """Return the value of an element's attribute; an empty text if it has none."""
        return self.attributes(number).get(name) or ""

    def text(self, number: int) -> str:
        """Return the text inside an element, as ``text_of`` does."""
        return self.texts.of(self.nodes[number])

    def children(self, number: int) -> Iterator[int]:
        """Yield the elements right inside an element."""
        child, end = number + 1, self.end[number]
        while child < end:
            yield child
            child = self.end[child]

    def behind(self, number: int) -> int | None:
        """Return the next sibling of an element; None if it is the last."""
        behind = self.end[number]
        return behind if behind < len(self.nodes) and self.parent[behind] == self.parent[number] else None

    def above(self, number: int) -> Iterator[int]:
        """Yield an element and those around it, the innermost first."""
        while number >= 0:
            yield number
            number = self.parent[number]

    def inherited(self, ask: Callable[[int], T | None], otherwise: T) -> Inherited[int, T]:
        """Return what elements have from those around them."""
        return Inherited(self.above, int, ask, otherwise)

    def holds(self, outer: int, inner: int) -> bool:
        """Tell whether an element is another or lies in it."""
        return outer <= inner < self.end[outer]

    def span(self, node: LexborNode) -> tuple[int, int]:
        """Return a node's number, and the number after that of the last element inside it."""
        number = self.number[node.mem_id]
        return number, self.end[number]

    def contains(self, node: LexborNode, selector: str) -> bool:
        """Tell whether an element has another inside it that ``selector`` selects."""
        return self.has_within(self.number[node.mem_id], selector)

    def is_or_contains(self, node: LexborNode, selector: str) -> bool:
        """Tell whether ``selector`` selects an element or another inside it."""
        return has_between(self.selected(selector), *self.span(node))

    def selected(self, selector: str) -> list[int]:
        """Return the numbers of the elements that ``selector`` selects, in order."""
        known = self._selected.get(selector)
        if known is None:
            found = self._page.tree.css(readable(selector))
            known = self._selected[selector] = sorted({self.number[node.mem_id] for node in found})
        return known

    def within(self, number: int, selector: str, most: int = sys.maxsize) -> list[int]:
        """Return the numbers of the elements inside an element that ``selector`` selects, the first ``most``."""
        selected = self.selected(selector)
        start, end = bisect_left(selected, number + 1), bisect_left(selected, self.end[number])
        return selected[start : min(end, start + most)]

    def has_within(self, number: int, selector: str) -> bool:
        """Tell whether an element has another inside it that ``selector`` selects."""
        return has_between(self.selected(selector), number + 1, self.end[number])


def has_between(numbers: Sequence[int], start: int, end: int) -> bool:
    """Tell whether one of ``numbers``, which are in order, is at least ``start`` and below ``end``."""
    at = bisect_left(numbers, start)
    return at < len(numbers) and numbers[at] < end


def count_between(numbers: Sequence[int], start: int, end: int) -> int:
    """Return how many of ``numbers``, which are in order, are at least ``start`` and below ``end``."""
    return bisect_left(numbers, end) - bisect_left(numbers, start)
