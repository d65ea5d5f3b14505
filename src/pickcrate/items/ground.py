"""The ground that items are looked for on: a page's tree, with where its pictures stand."""

from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable
from functools import cached_property
from itertools import islice

from msgspec import Struct, field
from selectolax.lexbor import LexborNode

from pickcrate.addresses.url import leads_somewhere
from pickcrate.elements.words import UNREAD
from pickcrate.finders.tree import Tree, count_between
from pickcrate.items.said.junk import is_path
from pickcrate.read.pages.scripted import LEADS
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference, Role, fold

_EFFORT, _EFFORT_A_NODE = 20_000, 12
LABELLED = (
    ".label, .key, .term, .field-label, .field-name, .attr-label, .spec-label, .spec-name, .meta-label, .info-label"
)
"""elements whose class says that they say what the one behind them is"""

LABELS_BY_STEM = ", ".join(f"[class*='{mark}{word}']" for mark in "-_" for word in ("key", "label", "term"))
"""those that do if the one behind them is called its value: ``spec-key`` and ``spec-value``"""

VALUES = ".value, .val, [class$='-value'], [class$='_value'], [class$='-val'], [class$='_val']"
"""elements whose class says that the one before them says what they are"""

LABELLED_CELLS = ", ".join(f"{tag}[data-{name}]" for tag in ("td", "div", "li", "span") for name in ("label", "th"))
"""cells that hold the head of their column, for where a screen is too narrow for the row of heads"""

_MARKS_OF_FIELDS = f"dt, tr, {LABELLED}, {LABELS_BY_STEM}, {VALUES}, {LABELLED_CELLS}"

CELL_ROLES: frozenset[str | None] = frozenset(("cell", "gridcell", "columnheader", "rowheader"))
TABLE_ROLES = frozenset(("table", "grid", "treegrid"))
"""what cells and tables may be that are made of other elements (WAI-ARIA 1.2, 5.4)"""

_SAYS_A_TITLE = r"title|data-(?:[a-z]+-)?(?:title|caption)"
SAYS_A_TITLE = lazy(_SAYS_A_TITLE)
"""attributes that say what a picture is called, or what is written below it where it is opened"""

SAYS_A_CAPTION = lazy(rf"{_SAYS_A_TITLE}|data-(?:[a-z]+-)?(?:description|desc|html)")
"""attributes that may say what is written below a picture where it is opened"""

_PAIRING = frozenset(("li", "div", "p"))
_PAIRED = frozenset("span div p b strong small em i label".split())
"""elements that may be a label and its value, and those that they are in"""

LONGEST_LABEL, MOST_WORDS_OF_LABEL = 32, 4
"""Characters and words of what says what something is, at most."""

_MOST_CLIMBED = 200
"""elements around one that are looked at for a link"""

_MOST_NAMED = 5
_MOST_TO_ONE = 4
"""Pictures in an entry, with the signs beside one"""

_LARGEST_SIGN = 32
"""Pixels of a side of a picture that is a sign beside others"""

_LONGEST_SIGN = 500
"""Characters of the address of a picture that is in the page itself: longer ones are pictures of something."""

_OF_ROLES = {
    "navigation": "nav",
    "contentinfo": "footer",
    "complementary": "aside",
    "banner": "header",
    "main": "main",
    "article": "article",
    "region": "section",
}
"""elements that roles stand for (HTML Accessibility API Mappings 1.0, 3.4)"""

OPENERS = "a[href^='#'], [role=tab][aria-controls]:not([href])"
"""what leads to an element of the page itself"""

_HOLDING = frozenset((FoundIn.DATA, FoundIn.SCRIPT))
_SHOWN, _ON_IMG = 2, 1
"""how sure it is that a picture stands where a reference to it does"""

_MOST_DRESSED = 3
"""Elements that one rule of a sheet gives a picture: more are dressed by it."""


class Spot(Struct):
    """One picture on a page: its element, and what is known of it there."""

    element: int
    cluster: int
    alt: str
    is_on_screen: bool
    is_link: bool
    """whether it is words that lead to it, and is not seen there itself"""
    is_held: bool
    """whether an attribute, a script or data names it, and nothing that shows it"""
    addresses: list[str] = field(default_factory=list)
    """as the page writes them, and absolute"""


class Ground(Tree):
    """A page's tree, with the elements in which its pictures stand."""

    def __init__(self, page: Page, references: Iterable[Reference]) -> None:
        super().__init__(page)
        self.page = page
        self.spots = self._spots(references)
        self.alts = {spot.element: spot.alt for spot in self.spots if spot.is_on_screen}
        copies = self._copies()
        self._pictures = sorted(number for number in self.alts if number not in copies)
        signs = {spot.element for spot in self.spots if self._is_sign(spot)}
        self._photos = [number for number in self._pictures if number not in signs]
        self._shown = {spot.element: spot.addresses[1] for spot in self.spots}
        self._often = Counter(spot.addresses[1] for spot in self.spots)
        self._by_id: dict[str, int] | None = None
        self._regions: dict[int, str] | None = None
        self._openers: dict[str, int] | None = None
        self._lengths: list[int] | None = None
        self.effort = _EFFORT_A_NODE * len(self.nodes) + _EFFORT
        """how many nodes may still be looked at for words: parts inside parts inside parts are read again and again"""

    def _spots(self, references: Iterable[Reference]) -> list[Spot]:
        """Return one spot a cluster: where its shown reference stands, else the first on an ``img``, or of all."""
        stands: dict[int, tuple[int, Reference, int]] = {}
        addresses: dict[int, list[str]] = {}
        for reference in references:
            addresses.setdefault(reference.cluster, []).extend((reference.raw, reference.url))
            is_shown = reference.role is Role.SHOWN
            settled = stands[reference.cluster][0] if reference.cluster in stands else -1
            if settled >= (_SHOWN if is_shown else _ON_IMG):
                continue
            anchors = reference.anchors if len(reference.anchors) <= _MOST_DRESSED else ()
            number = next((self.number[anchor] for anchor in anchors if anchor in self.number), -1)
            surety = _SHOWN if is_shown else _ON_IMG if self.tags[number] == "img" else 0
            if number >= 0 and surety > settled:
                stands[reference.cluster] = surety, reference, number
        return [
            Spot(
                number,
                cluster,
                "" if is_path(reference.words.alt) else reference.words.alt or reference.words.title,
                reference.is_on_page,
                reference.found_in is FoundIn.LINK,
                reference.found_in in _HOLDING or not reference.is_on_page,
                addresses[cluster],
            )
            for cluster, (_, reference, number) in stands.items()
        ]

    def _is_sign(self, spot: Spot) -> bool:
        """Tell whether a picture may be a sign beside others: a drawing, a small one, words that lead to one."""
        if spot.is_link:
            return True
        addresses, said = spot.addresses[1::2], self.attributes(spot.element)
        is_held = all(address.startswith("data:") and len(address) < _LONGEST_SIGN for address in addresses)
        if self.tags[spot.element] == "svg" or is_held:
            return True
        return all(0 < (whole(said.get(side) or "") or 0) <= _LARGEST_SIGN for side in ("width", "height"))

    def _copies(self) -> set[int]:
        """Return the pictures that stand on the page again for browsers without scripts."""
        if "noscript" not in self.page.text and "NOSCRIPT" not in self.page.text:
            return set()
        for_no_scripts = set(self.selected("noscript img"))
        shown = {one for spot in self.spots if spot.element not in for_no_scripts for one in spot.addresses}
        return {
            spot.element
            for spot in self.spots
            if spot.element in for_no_scripts and not shown.isdisjoint(spot.addresses)
        }

    @property
    def may_have_fields(self) -> bool:
        """Whether anything on the page says something by a term, in a table, or behind a label."""
        return bool(self.selected(_MARKS_OF_FIELDS))

    @cached_property
    def pairs(self) -> list[tuple[int, str, str]]:
        """The elements that are a label and its value: two parts with words, no more, and a label that others have.

        An element, the label and the value each, in the order of the page.
        """
        end = self.end
        twos = [row for row in range(len(end) - 2) if (second := end[row + 1]) < end[row] == end[second]]
        rows = [row for row in twos if self._may_be_a_pair(row, row + 1, end[row + 1])]
        labels = Counter(self.text(row + 1) for row in rows)
        return [(row, label, self.text(end[row + 1])) for row in rows if labels[label := self.text(row + 1)] > 1]

    def _may_be_a_pair(self, row: int, label: int, value: int) -> bool:
        if self.tags[row] not in _PAIRING or self.tags[label] not in _PAIRED or self.tags[value] not in _PAIRED:
            return False
        length = self.length(label)
        is_all = length + self.length(value) == self.length(row)
        if not (is_all and 0 < length <= LONGEST_LABEL and self.length(value)) or self.pictures(row):
            return False
        said = self.text(label)
        return said[:1].isalpha() and not any(map(str.isdigit, said)) and len(said.split()) <= MOST_WORDS_OF_LABEL

    def pictures(self, number: int) -> int:
        """Return how many pictures an element holds, itself included."""
        return self.pictures_between(number, self.end[number])

    def pictures_between(self, start: int, end: int) -> int:
        """Return how many elements with a picture have a number of at least ``start`` and below ``end``."""
        return count_between(self._pictures, start, end)

    def pictured_in(self, start: int, end: int, most: int) -> list[int]:
        """Return the first elements with a picture, ``most`` at most, from the number ``start`` to below ``end``."""
        first, last = bisect_left(self._pictures, start), bisect_left(self._pictures, end)
        return self._pictures[first : min(last, first + most)]

    def photos_in(self, start: int, end: int, most: int) -> list[int]:
        """Return the first elements with a picture as ``pictured_in`` does, without signs where there are others."""
        first, last = bisect_left(self._photos, start), bisect_left(self._photos, end)
        return self._photos[first : min(last, first + most)] or self.pictured_in(start, end, most)

    def telling(self, number: int) -> list[int]:
        """Return the elements with a picture that tell what repeats inside an element, in order, those outside as well.

        They are all but the signs beside others: each entry may have a few that are buttons.
        """
        photos = count_between(self._photos, number, self.end[number])
        return self._photos if photos * _MOST_TO_ONE >= self.pictures(number) else self._pictures

    def often(self, number: int) -> int:
        """Return how many times the picture of an element stands on the page."""
        return self._often.get(self._shown.get(number, ""), 0)

    @cached_property
    def _leading(self) -> frozenset[int]:
        """The elements that lead somewhere and are no links."""
        return frozenset(self.selected(f"[{LEADS}]"))

    def link_around(self, number: int, outermost: int, climb: int = 0) -> str:
        """Return where the link around an element leads, as written, that is no further out than ``outermost``.

        With ``climb``, so many elements further out.
        """
        for outer in islice(self.above(number), _MOST_CLIMBED):
            if self.tags[outer] == "a" and leads_somewhere(href := self.attribute(outer, "href").strip()):
                return href
            if outer in self._leading:
                return self.attribute(outer, LEADS)
            if outer <= outermost:
                climb -= 1
            if climb < 0:
                break
        return ""

    def last_pictured_in(self, start: int, end: int) -> int | None:
        """Return the last element with a picture from the number ``start`` to below ``end``; None if there is none."""
        at = bisect_left(self._pictures, end) - 1
        return self._pictures[at] if at >= 0 and self._pictures[at] >= start else None

    def region(self, number: int) -> str:
        """Return the tag of an element, or that of which its role makes it one (WAI-ARIA 1.2, 5.3.4 landmarks)."""
        if self._regions is None:
            roles = ((role, self.attribute(role, "role").strip().lower()) for role in self.selected("[role]"))
            self._regions = {element: _OF_ROLES[role] for element, role in roles if role in _OF_ROLES}
        return self._regions.get(number) or self.tags[number]

    def text_of_id(self, identity: str) -> str:
        """Return the text inside the element that has an ``id``; an empty text if none has."""
        named = self.of_id(identity)
        return self.text(named) if named is not None else ""

    def of_id(self, identity: str) -> int | None:
        """Return the element that has an ``id``; None if none has."""
        if self._by_id is None:
            self._by_id = {}
            for number in self.selected("[id]"):
                self._by_id.setdefault(self.attribute(number, "id"), number)
        return self._by_id.get(identity)

    def label_of(self, number: int) -> str:
        """Return the label of an element for those who do not see it, or the words that it names for one.

        WAI-ARIA 1.2, 5.2.8.4.
        """
        names = self.attribute(number, "aria-labelledby").split()[:_MOST_NAMED]
        return fold(self.attribute(number, "aria-label")) or fold(" ".join(map(self.text_of_id, names)))

    def opener_of(self, identity: str) -> str:
        """Return what the one link, or tab, says that leads to an element of the page (WAI-ARIA 1.2, ``tab``)."""
        if self._openers is None:
            self._openers = {}
            for number in self.selected(OPENERS):
                target = self.attribute(number, "href")[1:] or self.attribute(number, "aria-controls").strip()
                self._openers[target] = -1 if target in self._openers else number
        opener = self._openers.get(identity, -1)
        return self.text(opener) if opener >= 0 else ""

    def length(self, number: int) -> int:
        """Return how many characters of text an element holds, without white space at the ends of its texts."""
        if self._lengths is None:
            self._lengths = self._text_lengths()
        return self._lengths[number]

    def _text_lengths(self) -> list[int]:
        """Return the lengths of the texts in all elements, each text looked at once."""
        lengths = [
            0 if tag in UNREAD else len(node.text(deep=False, strip=True))
            for tag, node in zip(self.tags, self.nodes, strict=True)
        ]
        for number in range(len(lengths) - 1, 0, -1):
            if self.parent[number] >= 0:
                lengths[self.parent[number]] += lengths[number]
        return lengths

    def length_of(self, node: LexborNode) -> int:
        """Return how many characters of text an element or a text holds."""
        number = self.number.get(node.mem_id)
        return self.length(number) if number is not None else len((node.text_content or "").strip())


def heading_level(tree: Ground, number: int) -> int:
    """Return the level of a heading, 1 to 6; 0 for what is none (HTML standard, 4.3.6; WAI-ARIA 1.2, ``heading``)."""
    tag = tree.tags[number]
    if len(tag) == 2 and tag[0] == "h" and tag[1] in "123456":
        return int(tag[1])
    if tree.attribute(number, "role") != "heading":
        return 0
    stated = tree.attribute(number, "aria-level").strip()
    return int(stated) if stated in {"1", "2", "3", "4", "5", "6"} else 2
