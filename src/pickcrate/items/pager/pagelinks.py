"""The links of a page that can be followed, and what they say."""

import re
from collections.abc import Iterator

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.elements.words import text_of
from pickcrate.items.pager.controls import spoken_of_picture
from pickcrate.text.lazyre import lazy
from pickcrate.values.page import Page
from pickcrate.values.reference import fold

EDGES = " \u00a0.,:;…()[]|"
ARROWS = "›»→▶⟩❯>▸≫⇒➔➜"
LONGEST_LABEL = 40
CLIMB = 4
"""elements around a link that are looked at"""

_MOST_LINKS = 5_000
_FAR = 1_000
"""more steps than are ever climbed"""

_CALENDAR = lazy(
    r"(?:^|[-_ ])(?:calendar|jalendar|calendrier|kalender|datepicker|month|cal|dayweek|weekday)\d?(?:$|[-_ ])",
    re.IGNORECASE,
)
_OFF = frozenset("disabled is-disabled inactive is-inactive invisible is-invisible hidden is-hidden d-none".split())


class Link(Struct, frozen=True):
    """A link that can be followed: its element with its attributes, and where it leads, as written."""

    node: LexborNode
    attributes: dict[str, str | None]
    raw: str


def open_links(page: Page) -> Iterator[Link]:
    """Yield the links that can be followed: neither they, nor the entries that they are, are disabled or hidden.

    None that stands in a calendar.
    """
    steps: dict[int, int] = {}
    for node in page.tree.css("a[href], area[href]")[:_MOST_LINKS]:
        link, entry = link_of(node), node.parent
        is_off = _is_off(link.attributes) or (entry is not None and _is_off(entry.attributes))
        if not is_off and _steps_to_calendar(node, steps) > CLIMB + 1:
            yield link


def link_of(node: LexborNode) -> Link:
    """Return an element with an ``href`` as a link."""
    attributes = node.attributes
    return Link(node, attributes, (attributes.get("href") or "").strip())


def label_of(link: Link) -> str:
    """Return what a link says: its words, or what it says to those who do not see it."""
    attributes = link.attributes
    words = text_of(link.node)
    if not words.strip(EDGES + ARROWS):
        own = fold(attributes.get("aria-label") or attributes.get("title") or attributes.get("alt"))
        words = own or words or spoken_of_picture(link.node)
    return words[:LONGEST_LABEL].strip(EDGES)


def _is_off(attributes: dict[str, str | None]) -> bool:
    return attributes.get("aria-disabled") == "true" or not _OFF.isdisjoint(_names(attributes).lower().split())


def _names(attributes: dict[str, str | None]) -> str:
    """Return the classes of an element and its id."""
    return f"{attributes.get('class') or ''} {attributes.get('id') or ''}"[:300]


def _steps_to_calendar(node: LexborNode | None, known: dict[int, int]) -> int:
    """Return how many elements further out the next calendar is; ``known`` says it of those that were looked at."""
    path: list[LexborNode] = []
    while node is not None and node.is_element_node and node.mem_id not in known:
        path.append(node)
        node = node.parent
    steps = known.get(node.mem_id, _FAR) if node is not None else _FAR
    for inner in reversed(path):
        is_calendar = inner.tag == "time" or _CALENDAR.search(_names(inner.attributes)) is not None
        steps = known[inner.mem_id] = 0 if is_calendar else steps + 1
    return steps
