"""Sections: the heading under which a place of a page stands, never the title of an item beside it."""

import re
from bisect import bisect_left
from collections.abc import Iterable, Sequence
from itertools import islice

from msgspec import Struct

from pickcrate.addresses.url import is_template
from pickcrate.elements.around import Inherited
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.finders.tree import has_between
from pickcrate.items.ground import Ground, heading_level
from pickcrate.items.said.junk import is_price
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import fold

_CONTAINERS = frozenset(
    ("section", "article", "aside", "main", "body", "td", "th", "li", "fieldset", "details", "dialog", "nav", "footer")
)
_TOPMOST = frozenset(("body", "html", "main"))
_LAYOUT = frozenset(("table", "tbody", "thead", "tfoot", "tr"))
_LANDMARKS = frozenset(("nav", "footer", "aside"))
_FRAME = _LANDMARKS | {"header"}
_SECTIONS = frozenset(("section", "article", "figure"))
_MOST_CLIMBED = 200
_MOST_BELOW = 50
_SUBTITLE = lazy(r"sub-?(?:title|head(?:ing|er|line)?)|tagline|\b(?:lead|deck|kicker|text-muted)\b", re.IGNORECASE)
_NONE = -2
"""no heading, and none further out either"""

_CONTROLS = "button, [role=button], a[class*=btn], a[class*=button], .dropdown-menu"
_MOST_CONTROLS = 8


def headings_of(tree: Ground, places: Iterable[int], titled: Sequence[tuple[int, int]]) -> dict[int, str]:
    """Return the heading of the section in which each of ``places`` stands, in words.

    ``titled`` are the spans of items, whose headings are titles of theirs and of nothing else.
    """
    headings = [(number, level) for number, level in _free(tree, titled) if not is_price(tree.text(number))]
    scopes = [(number, level, end) for (number, level), end in zip(headings, _ends(tree, headings), strict=True)]
    found: dict[int, str] = {}
    said: dict[int, str] = {}
    landmarks = tree.inherited(lambda outer: outer if tree.region(outer) in _LANDMARKS else None, -1)
    main = [heading for heading in headings if landmarks.of(heading[0]) == -1]
    topmost = next((number for number in tree.selected("h1") if tree.text(number)), None)
    layout = _Layout(tree, main, topmost, _around_all(tree, main), sorted(start for start, _ in titled))
    below = tree.inherited(layout.below, None)
    open_ones: list[tuple[int, int, int]] = []
    upcoming = 0
    for place in sorted(set(places)):
        while upcoming < len(scopes) and scopes[upcoming][0] < place:
            while open_ones and open_ones[-1][2] <= scopes[upcoming][0]:
                open_ones.pop()
            open_ones.append(scopes[upcoming])
            upcoming += 1
        while open_ones and open_ones[-1][2] <= place:
            open_ones.pop()
        landmark = landmarks.of(place)
        heading = next((number for number, level, _ in reversed(open_ones) if level == 1 or number > landmark), None)
        if heading is None:
            heading = below.of(place)
        if heading is not None and heading != _NONE:
            if heading not in said:
                said[heading] = _said(tree, heading)
            found[place] = said[heading]
    return found


def _said(tree: Ground, heading: int) -> str:
    """Return what a heading says but for the buttons beside its words: "Kites", and not "Kites Add New"."""
    text = tree.text(heading)
    for control in reversed(tree.within(heading, _CONTROLS, _MOST_CONTROLS)):
        if words := tree.text(control):
            before, _, behind = text.rpartition(words)
            text = fold(f"{before} {behind}")
    return text or tree.text(heading)


class _Layout(Struct, frozen=True):
    """What decides whether a heading is meant where a picture stands above it."""

    tree: Ground
    headings: list[tuple[int, int]]
    """those in no landmark, with their levels"""
    topmost: int | None
    """the first heading of the first level"""
    page: frozenset[int]
    """the elements around all of the page"""
    items: list[int]
    """where those items begin that have headings of their own"""

    def below(self, outer: int) -> int | None:
        """Return the heading of an element, if it has one that does not stand behind items.

        Of the page as a whole only a heading of the first level is meant, or the topmost of several. What stands in
        its frame is under none (_NONE).
        """
        tree, headings = self.tree, self.headings
        tag = tree.region(outer)
        if tag in _FRAME:
            return _NONE
        if tag in _LAYOUT:
            return None  # what stands in one cell is no heading of the next
        first = bisect_left(headings, (outer, 0))
        if first == len(headings) or headings[first][0] >= tree.end[outer]:
            return None
        inside = [heading for heading in headings[first : first + _MOST_BELOW] if heading[0] < tree.end[outer]]
        number, level = min(inside, key=lambda heading: heading[1])
        if tag not in _TOPMOST and outer not in self.page:
            return None if has_between(self.items, outer, number) else number
        return number if level == 1 and (self.topmost is None or number <= self.topmost) else _NONE


def _around_all(tree: Ground, headings: Sequence[tuple[int, int]]) -> frozenset[int]:
    """Return the elements that go around all of a page, as layouts have one: what stands in them stands on the page.

    They are around all of several headings of the highest level, or around all that the body says and shows.
    """
    if not headings:
        return frozenset()
    levels = [level for _, level in headings]
    has_several = levels.count(min(levels)) > 1
    first, last = headings[0][0], headings[-1][0]
    around = [outer for outer in tree.above(tree.parent[first]) if tree.holds(outer, last)]
    found: set[int] = set()
    is_all = True
    for outer in reversed(around):
        is_all = is_all and (tree.region(outer) in _TOPMOST or _is_all_of_its_parent(tree, outer))
        if is_all or has_several:
            found.add(outer)
    return frozenset(found)


def _is_all_of_its_parent(tree: Ground, number: int) -> bool:
    """Tell whether a plain element is all that the one around it says and shows, but for landmarks."""
    if tree.region(number) in _SECTIONS:
        return False
    parent = tree.parent[number]
    others = (other for other in tree.children(parent) if other != number and tree.region(other) not in _FRAME)
    if any(tree.pictures(other) or tree.text(other) for other in others):
        return False
    pieces = tree.nodes[parent].iter(include_text=True)
    return not any(piece.is_text_node and (piece.text_content or "").strip() for piece in pieces)


def _free(tree: Ground, titled: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return the headings, with their levels, that stand in none of ``titled``."""
    spans = sorted(titled)
    free: list[tuple[int, int]] = []
    at, end = 0, -1
    for number in tree.selected(HEADING_SELECTOR):
        while at < len(spans) and spans[at][0] <= number:
            end = max(end, spans[at][1])
            at += 1
        text = tree.text(number)
        if number >= end and text and not is_template(text) and not _is_subtitle(tree, number):
            free.append((number, heading_level(tree, number)))
    return free


def _is_subtitle(tree: Ground, number: int) -> bool:
    """Tell whether a heading only says more of the one right before it: by its class, or in a group of headings."""
    before = tree.nodes[number].prev
    while before is not None and not before.is_element_node:
        before = before.prev
    above = tree.number.get(before.mem_id, -1) if before is not None else -1
    if above < 0 or not 0 < heading_level(tree, above) < heading_level(tree, number):
        return False
    return tree.tags[tree.parent[number]] == "hgroup" or _SUBTITLE.search(tree.attribute(number, "class")) is not None


def _ends(tree: Ground, headings: list[tuple[int, int]]) -> list[int]:
    """Return where the section of each heading ends: at the next that is no lower, or with what holds it."""
    before, after = _rivals([level for _, level in headings])
    numbers = [number for number, _ in headings]
    containers = tree.inherited(lambda outer: outer if tree.region(outer) in _CONTAINERS else None, 0)
    return [
        _end(
            containers,
            tree,
            number,
            numbers[before[place]] if before[place] is not None else -1,  # type: ignore[index]
            numbers[after[place]] if after[place] is not None else len(tree.nodes),  # type: ignore[index]
        )
        for place, number in enumerate(numbers)
    ]


def _rivals(levels: list[int]) -> tuple[list[int | None], list[int | None]]:
    """Return, of each heading, the places of the last one before it and of the first one after it that are no lower."""
    before: list[int | None] = [None] * len(levels)
    after: list[int | None] = [None] * len(levels)
    open_ones: list[int] = []
    for place, level in enumerate(levels):
        while open_ones and levels[open_ones[-1]] >= level:
            closed = open_ones.pop()
            after[closed] = place
            if levels[closed] == level:
                before[place] = closed
        if before[place] is None and open_ones:
            before[place] = open_ones[-1]
        open_ones.append(place)
    return before, after


def _end(containers: Inherited[int, int], tree: Ground, number: int, before: int, after: int) -> int:
    block = number
    for outer in islice(tree.above(number), 1, _MOST_CLIMBED):
        if tree.region(outer) in _TOPMOST or outer <= before or after < tree.end[outer]:
            break
        block = outer
        if tree.region(outer) in _CONTAINERS:
            break
    if block != number and tree.pictures_between(tree.end[number], tree.end[block]):
        return min(after, tree.end[block])
    return min(after, tree.end[containers.of(block if block != number else tree.parent[number])])
