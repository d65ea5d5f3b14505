"""Captions: what a page says beside a picture, in an element whose class says so, or that the picture names.

``figcaption`` and ``caption`` (HTML standard, 4.4.13 and 4.9.2) are read where pictures are found; what is older than
they are, or made for other programs, has a class or WAI-ARIA's properties instead, or only the number of its figure.
"""

from bisect import bisect_left
from collections import Counter
from collections.abc import Iterator
from itertools import islice, takewhile

from pickcrate.addresses.url import image_type
from pickcrate.elements.words import text_in
from pickcrate.finders.captions import CALLED_CAPTION, holder_of, is_called_caption
from pickcrate.finders.place import not_displayed
from pickcrate.items.ground import SAYS_A_CAPTION, Ground, Spot
from pickcrate.items.said.junk import ClassKind, class_kind, is_numbered, says_nothing
from pickcrate.values.reference import fold

_LONGEST = 1_000
"""Characters: more is a text, and no caption."""

_LONGEST_FIGURE = 3_000
"""Characters of a figure with its caption, and what else it says"""

_CLIMBED = 3
"""Elements around a picture that may be the figure that it stands in."""

_MOST_TOGETHER = 4
"""Pictures that may have one caption together, if it stands before or behind them all."""

_POINTING = ("title", "data-caption")
"""the attributes of a picture that may be the place of its caption on the page"""

_MOST_NAMED = 3
_SEVERAL = 2
_ROWS_IN = frozenset(("table", "tbody", "thead", "tfoot"))
_CELLS = frozenset(("td", "th", "body"))
_BLOCKS = frozenset(("p", "div", "center", "figure", "section"))
_SLANTED = frozenset(("em", "i", "small", "cite"))
_PASSED = frozenset(("br", "noscript"))
_LONGEST_SET_APART = 300
"""characters in italics or small print: more is no caption"""


def captions_of(ground: Ground) -> dict[int, str]:
    """Return the captions of a page's pictures, by their elements; what has a ``figcaption`` may have none here."""
    pointed_at = dict(_pointed_at(ground))
    found = {picture: ground.text(caption) for picture, caption in pointed_at.items()}
    taken = frozenset(pointed_at.values())
    beside = [(caption, holder) for caption, holder in _beside(ground) if caption not in taken]
    several = Counter(container for _, container in beside)
    rows = _Rows(ground)
    for caption, container in beside:
        text = ground.text(caption)
        pictures = rows.across(caption, container)
        if pictures is None:
            pictures = _pictures(ground, caption, container, is_alone=several[container] == 1)
        for picture in pictures:
            found.setdefault(picture, text)
    has_names = ground.selected("[aria-describedby], [role=figure], figure[aria-label], figure[aria-labelledby]")
    for spot in ground.spots:
        if spot.is_on_screen and spot.element not in found:
            text = (_named(ground, spot.element) if has_names else "") or _when_opened(ground, spot)
            text = text or _stated(ground, spot.element) or _numbered(ground, spot.element)
            if text := text or _set_apart(ground, spot.element):
                found[spot.element] = text
    return found


def _pointed_at(ground: Ground) -> Iterator[tuple[int, int]]:
    """Yield the pictures that name their captions by a fragment, each with that element: ``title="#about-red"``."""
    for spot in ground.spots:
        for name in _POINTING if spot.is_on_screen else ():
            value = ground.attribute(spot.element, name)
            caption = ground.of_id(value[1:]) if value[:1] == "#" else None
            if caption is not None and 0 < ground.length(caption) <= _LONGEST:
                yield spot.element, caption


def _beside(ground: Ground) -> Iterator[tuple[int, int]]:
    """Yield the elements that are captions by their class, each with the element around it that holds its picture."""
    behind = 0
    for number in ground.selected(CALLED_CAPTION):
        if number < behind or ground.pictures(number) or not is_called_caption(ground, number):
            continue
        behind = ground.end[number]
        holder = holder_of(ground, number, lambda outer: ground.pictures(outer) > 0)
        says_something = 0 < ground.length(number) <= _LONGEST and not says_nothing(ground.text(number))
        if holder is not None and says_something and _is_near(ground, number, holder):
            yield number, holder


def _is_near(ground: Ground, caption: int, container: int) -> bool:
    """Tell whether what holds a caption and a picture is a figure of both; of a long text they must be neighbours."""
    if ground.length(container) <= _LONGEST_FIGURE:
        return True
    branch = caption
    for outer in takewhile(lambda outer: outer != container, ground.above(caption)):
        branch = outer
    return any(map(ground.pictures, _neighbours(ground, branch)))


def _neighbours(ground: Ground, number: int) -> Iterator[int]:
    """Yield the sibling before an element and the one behind it, as far as there are such."""
    before = ground.nodes[number].prev
    while before is not None and not before.is_element_node:
        before = before.prev
    if before is not None and before.mem_id in ground.number:
        yield ground.number[before.mem_id]
    if (behind := ground.behind(number)) is not None:
        yield behind


def _pictures(ground: Ground, caption: int, container: int, *, is_alone: bool) -> list[int]:
    """Return the pictures that a caption is about: the one before it, or the one behind it where none is before."""
    start, end = container, ground.end[container]
    before, behind = ground.pictures_between(start, caption), ground.pictures_between(caption, end)
    if is_alone and not (before and behind) and before + behind <= _MOST_TOGETHER:
        return ground.pictured_in(start, end, _MOST_TOGETHER)
    if is_alone and not before:  # above more than a few it is a heading
        return []
    last = ground.last_pictured_in(start, caption)
    return [last] if last is not None else ground.pictured_in(caption, end, 1)


class _Rows:
    """Rows of a table whose cells are captions of the pictures in the row above or below."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground
        self._cells: dict[int, list[int]] = {}

    def across(self, caption: int, container: int) -> list[int] | None:
        """Return the pictures in the cell above a caption's, or else in the one below; None if it is in no such row."""
        ground = self._ground
        if ground.tags[container] not in _ROWS_IN:
            return None
        inner = takewhile(lambda outer: outer != container, ground.above(caption))
        cell = next((outer for outer in inner if ground.tags[ground.parent[outer]] == "tr"), None)
        if cell is None or len(cells := self._cells_of(ground.parent[cell])) < _SEVERAL:
            return None
        place = bisect_left(cells, cell)
        for beside in filter(ground.pictures, _neighbours(ground, ground.parent[cell])):
            if len(others := self._cells_of(beside)) == len(cells):
                return ground.pictured_in(others[place], ground.end[others[place]], _MOST_TOGETHER)
        return None

    def _cells_of(self, row: int) -> list[int]:
        if row not in self._cells:
            self._cells[row] = list(self._ground.children(row))
        return self._cells[row]


def _named(ground: Ground, picture: int) -> str:
    """Return what a picture, or the figure around it, names as its description (WAI-ARIA 1.2, 5.2.8.6 and 5.4)."""
    text = _of_names(ground, picture, "aria-describedby")
    for outer in islice(ground.above(ground.parent[picture]), _CLIMBED):
        if text:
            break
        if ground.tags[outer] == "figure" or ground.attribute(outer, "role") == "figure":
            text = _of_names(ground, outer, "aria-labelledby") or fold(ground.attribute(outer, "aria-label"))
    return "" if not text or says_nothing(text) else text


def _when_opened(ground: Ground, spot: Spot) -> str:
    """Return what is shown below a picture that its link opens on the page: an attribute of either says it."""
    outer = islice(ground.above(ground.parent[spot.element]), _CLIMBED)
    link = next((number for number in outer if ground.tags[number] == "a"), None)
    if link is None:
        return ""
    target = ground.page.resolve(ground.attribute(link, "href"))
    if not ground.attribute(link, "data-src") and (target is None or image_type(target) is None):
        return ""
    for number in (link, spot.element):
        attributes = ground.attributes(number).items()
        said = {name: text for name, text in attributes if text and SAYS_A_CAPTION.fullmatch(name)}
        for name in sorted(said, key=lambda name: (not name.endswith("caption"), name == "title", name)):
            text = said[name].strip()
            text = ground.text_of_id(text[1:]) if text[:1] == "#" else text_in(text)
            if text != spot.alt and not says_nothing(text):
                return text
    return ""


def _stated(ground: Ground, picture: int) -> str:
    """Return the caption that a picture has in an attribute, or as a property of the picture that it is marked up as.

    schema.org ``caption``, in microdata (HTML standard, 5.2.4).
    """
    if (text := text_in(ground.attribute(picture, "data-caption"))) and not says_nothing(text):
        return text
    for outer in islice(ground.above(ground.parent[picture]), _CLIMBED):
        if ground.attribute(outer, "itemtype").lower().endswith("imageobject"):
            told = next(iter(ground.within(outer, "[itemprop=caption]", 1)), None)
            return ground.text(told) or fold(ground.attribute(told, "content")) if told is not None else ""
    return ""


def _set_apart(ground: Ground, picture: int) -> str:
    """Return the words in italics or small print right below a picture that is alone, or in a row of its own below it.

    ``<p><img><br><em>The loft in May</em></p>``, ``<p><img></p><p><em>…</em></p>``, a table of two rows of one cell.
    """
    for outer in islice(ground.above(picture), 1 + _CLIMBED):
        if ground.length(outer) or ground.pictures(outer) > 1:
            break
        below = _next(ground, outer)
        if below is None or ground.pictures(below) or not 0 < ground.length(below) <= _LONGEST_SET_APART:
            continue
        is_all = ground.tags[outer] in _BLOCKS or ground.length(below) == ground.length(ground.parent[outer])
        if _is_second_of_two_rows(ground, below) or (is_all and _is_slanted(ground, below)):
            text = ground.text(below)
            leads_on = len(ground.within(below, "a[href]", _SEVERAL)) == _SEVERAL  # to the pages around, below a banner
            return "" if leads_on or " " not in text or says_nothing(text) else text
    return ""


def _is_second_of_two_rows(ground: Ground, row: int) -> bool:
    """Tell whether an element is the second of the two rows of a table, and has one cell."""
    rows = [*islice(ground.children(ground.parent[row]), _SEVERAL + 1)]
    is_second = ground.tags[row] == "tr" and len(rows) == _SEVERAL and rows[1] == row
    return is_second and len([*islice(ground.children(row), _SEVERAL)]) == 1


def _next(ground: Ground, number: int) -> int | None:
    """Return the next sibling of an element that is seen there; None if it has none."""
    behind = ground.behind(number)
    while behind is not None and ground.tags[behind] in _PASSED:
        behind = ground.behind(behind)
    return behind


def _is_slanted(ground: Ground, number: int) -> bool:
    """Tell whether all words of an element are in one that sets them apart, or it is that itself."""
    for _ in range(_CLIMBED):
        if ground.tags[number] in _SLANTED:
            return True
        inner = [child for child in islice(ground.children(number), _SEVERAL + 1) if ground.length(child)]
        if len(inner) != 1 or ground.length(inner[0]) != ground.length(number):
            return False
        number = inner[0]
    return False


def _numbered(ground: Ground, picture: int) -> str:
    """Return the words behind a picture that begin with the number of a figure: in the same block, or in the next."""
    for outer in islice(ground.above(picture), 1 + _CLIMBED):
        if ground.tags[outer] in _CELLS or ground.pictures(outer) > _MOST_TOGETHER:
            break
        behind = ground.behind(outer)
        for block in (outer, behind) if behind is not None else (outer,):
            is_alone = block == outer or not ground.pictures(block)
            if is_alone and 0 < ground.length(block) <= _LONGEST and is_numbered(text := ground.text(block)):
                return text
        if ground.length(outer):
            break
    return ""


def _of_names(ground: Ground, number: int, attribute: str) -> str:
    """Return the words of the elements that an attribute names, as far as a person sees them."""
    names = ground.attribute(number, attribute).split()[:_MOST_NAMED]
    named = [element for name in names if (element := ground.of_id(name)) is not None]
    return fold(" ".join(ground.text(element) for element in named if _is_seen(ground, element)))


def _is_seen(ground: Ground, number: int) -> bool:
    attributes = ground.attributes(number)
    return not not_displayed(attributes) and class_kind(attributes.get("class") or "") is not ClassKind.HIDDEN
