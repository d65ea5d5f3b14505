"""Where a list goes on: the link to its next page, as a reader would find it.

HTML standard, 4.6.7.16 (link type ``next``); RFC 8288 (the ``Link`` field); WAI-ARIA 1.2, 6.6 (``aria-current``).
"""

import re
from collections import defaultdict
from collections.abc import Iterator

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.addresses import leads_somewhere, without_fragment
from pickcrate.finders.words import text_of
from pickcrate.items.controls import controls, spoken_of_picture
from pickcrate.items.counting import Place, place_of, readings_of
from pickcrate.items.junk import NEXT, NEXT_PAGES
from pickcrate.lazyre import lazy
from pickcrate.page import Page
from pickcrate.values import fold

_MOST_LINKS = 5_000
_MOST_NUMBERS = 300
_FEW_WORDS = 8
_MOST_TARGETS = 2
_CLIMB = 4
_FAR = 1_000
"""more steps than are ever climbed"""
_SECOND = 2
_LONGEST_LABEL = 40
_EDGES = " \u00a0.,:;…()[]|"
_ARROWS = "›»→▶⟩❯>▸≫⇒➔➜"
_BACKWARD_ARROWS = "‹«←◀⟨❮<◂≪⇐"
"""before the words that lead to older entries"""
_SIGN = lazy(rf"[{_ARROWS}]{{1,2}}")
_CALENDAR = lazy(
    r"(?:^|[-_ ])(?:calendar|jalendar|calendrier|kalender|datepicker|month|cal|dayweek|weekday)\d?(?:$|[-_ ])",
    re.IGNORECASE,
)
_HOW_MANY = lazy(r"\s+\(?\d{1,6}\)?(?:\s+(?:results|items|products|entries|images|pictures|photos))?$")
"""behind the words that lead on: "next 20", "next 20 results" """
_NEXT_CLASS = lazy(
    r"(?:^|\s)(?:[a-z]+[-_]{1,2})*next(?:[-_]{1,2}(?:page|link|button|btn|posts?))?(?:$|\s)", re.IGNORECASE
)
_OFF = frozenset("disabled is-disabled inactive is-inactive invisible is-invisible hidden is-hidden d-none".split())
_CURRENT = lazy(r"(?:^|[-_ ])(?:current|active|selected|on|here)(?:$|[-_ ])", re.IGNORECASE)
_COMMENTS = lazy(r"#(?:comment|respond|repl|disqus)")
_RANGE = lazy(r"[(\[]?(\d{1,6})\s?(?:-|–|to|bis|à)\s?(\d{1,6})[)\]]?", re.IGNORECASE)
_DIGITS, _LONG_WORD = lazy(r"\d+"), lazy(r"[^\W\d_]{3,}")
_OF_HOW_MANY = lazy(r"(?<!\d)\d{1,6}\s?(?:/|\w{1,4})\s?\d{1,6}(?!\d)")
"""the number of a page and of all pages: "1 / 4", "2 of 9" """


class _Link(Struct, frozen=True):
    """A link that can be followed: its element with its attributes, and where it leads, as written."""

    node: LexborNode
    attributes: dict[str, str | None]
    raw: str


class _Lead(Struct, frozen=True):
    """A link that may lead on, as written; whether it speaks of pages or entries, and not of the next thing."""

    raw: str
    is_of_pages: bool


def next_page(page: Page, *, is_list: bool = True) -> str:
    """Return the address of the page with which the list on ``page`` goes on; empty if it does not.

    One whose address counts on from that of this page comes before others. Those must speak of pages where this
    one's address counts already, and unless the page ``is_list`` for sure: next to a text is another text. Never
    that of another site, of this page, of a picture, nor what a calendar leads to.
    """
    own = readings_of(page.home)
    other = ""
    for lead in _leads(page, own[0]):
        url = page.resolve(lead.raw)
        if url is None or lead.raw.startswith("#"):
            continue
        if not page.leads_on(url):
            continue
        if any(here.goes_on_at(there) for here, there in zip(own, readings_of(url), strict=True)):
            return without_fragment(url)
        if not other and (lead.is_of_pages or (is_list and own[0].number is None)):
            other = without_fragment(url)
    return other


def _leads(page: Page, own: Place) -> Iterator[_Lead]:
    """Yield what may lead on, the best first."""
    links = list(_open_links(page))
    yield from (_Lead(raw, is_of_pages=False) for raw in _by_relation(page, links))
    labelled = [(link, _label(link)) for link in links]
    others = list(controls(page))
    said = [(link.raw, label) for link, label in labelled] + [(control.raw, control.label) for control in others]
    worded = [
        (raw, _HOW_MANY.sub("", label.strip(_EDGES + _ARROWS + _BACKWARD_ARROWS).casefold())) for raw, label in said
    ]
    for raw, word in _of_one_list([(raw, word) for raw, word in worded if word in NEXT_PAGES]):
        yield _Lead(raw, is_of_pages=word not in NEXT)
    yield from (_Lead(control.raw, is_of_pages=False) for control in others if control.says_next)
    numbered = [
        (link, int(label))
        for link, label in labelled
        if label.isascii() and label.isdecimal() and len(label) < 7 and not _COMMENTS.search(link.raw)
    ]
    numbered = numbered[:_MOST_NUMBERS]
    here = _around([(link, number) for link, number in numbered if _leads_here(page, link)])
    yield from (_Lead(raw, is_of_pages=True) for raw in _after_current(numbered, here))
    yield from (_Lead(raw, is_of_pages=True) for raw in _after_gap(labelled))
    known: dict[int, bool] = {}
    signs = [(link, label) for link, label in labelled if _SIGN.fullmatch(label)]
    of_one = {raw for raw, _ in _of_one_list([(link.raw, label) for link, label in signs])}
    for link, _ in signs:
        if link.raw in of_one and _has_numbers_beside(link.node, known):
            yield _Lead(link.raw, is_of_pages=True)
    yield from (_Lead(raw, is_of_pages=True) for raw in _counted_on(page, own, [raw for raw, _ in said]))
    yield from (_Lead(link.raw, is_of_pages=False) for link, label in labelled if not label and _is_called_next(link))


def _of_one_list(said: list[tuple[str, str]]) -> list[tuple[str, str]]:
    """Return the links that say where one list goes on: what says the same and leads to many places is of as many."""
    targets: dict[str, set[str]] = defaultdict(set)
    for raw, words in said:
        if leads_somewhere(raw):
            targets[words].add(raw)
    return [(raw, words) for raw, words in said if len(targets[words]) <= _MOST_TARGETS]


def _by_relation(page: Page, links: list[_Link]) -> Iterator[str]:
    for link in (*map(_link, page.tree.css("link[rel][href]")), *links):
        if "next" in (link.attributes.get("rel") or "").lower().split():
            yield link.raw
    for value, parameters in re.findall(r"<([^<>]{1,2000})>([^,<]{0,500})", page.link_header[:20_000]):
        relations = re.search(r";\s*rel\s*=\s*\"?([^\";]{1,200})", parameters)
        if relations is not None and "next" in relations[1].lower().split():
            yield value


def _link(node: LexborNode) -> _Link:
    attributes = node.attributes
    return _Link(node, attributes, (attributes.get("href") or "").strip())


def _label(link: _Link) -> str:
    """Return what a link says: its words, or what it says to those who do not see it."""
    attributes = link.attributes
    words = text_of(link.node)
    if not words.strip(_EDGES + _ARROWS):
        own = fold(attributes.get("aria-label") or attributes.get("title") or attributes.get("alt"))
        words = own or words or spoken_of_picture(link.node)
    return words[:_LONGEST_LABEL].strip(_EDGES)


def _open_links(page: Page) -> Iterator[_Link]:
    """Yield the links that can be followed: neither they, nor the entries that they are, are disabled or hidden.

    None that stands in a calendar.
    """
    steps: dict[int, int] = {}
    for node in page.tree.css("a[href], area[href]")[:_MOST_LINKS]:
        link, entry = _link(node), node.parent
        is_off = _is_off(link.attributes) or (entry is not None and _is_off(entry.attributes))
        if not is_off and _steps_to_calendar(node, steps) > _CLIMB + 1:
            yield link


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


def _leads_here(page: Page, link: _Link) -> bool:
    """Tell whether a link leads to the page that it stands on."""
    url = page.resolve(link.raw)
    return url is not None and without_fragment(url) in map(without_fragment, (page.address, page.home))


def _after_gap(labelled: list[tuple[_Link, str]]) -> Iterator[str]:
    """Yield where the entries after those of this page are, among links that say which they lead to ("21 - 40")."""
    ranges: dict[int, tuple[int, str]] = {}
    for link, label in labelled:
        if (match := _RANGE.fullmatch(label)) is not None and int(match[1]) < int(match[2]):
            ranges.setdefault(int(match[1]), (int(match[2]), link.raw))
    first = 1
    while first in ranges:
        first = ranges[first][0] + 1
    behind = min((start for start in ranges if start > first), default=first)
    size = max((last + 1 - start for start, (last, _) in ranges.items()), default=0)
    if behind > first and behind - first == size:  # what is missing before it, is here
        yield ranges[behind][1]


def _around(numbered: list[tuple[_Link, int]]) -> dict[int, set[str]]:
    """Return which numbers stand in each element not far around one."""
    found: dict[int, set[str]] = {}
    for link, number in numbered:
        container = link.node.parent
        for _ in range(_CLIMB):
            if container is None:
                break
            found.setdefault(container.mem_id, set()).add(str(number))
            container = container.parent
    return found


def _after_current(numbered: list[tuple[_Link, int]], here: dict[int, set[str]]) -> Iterator[str]:
    """Yield where the number after the current one leads.

    The current is marked, or is the one that is no link, or is in ``here``: the numbers in an element that lead to this
    page.
    """
    current: dict[int, set[str]] = {}
    said: dict[int, str] = {}
    for link, number in numbered:
        container = link.node.parent
        for _ in range(_CLIMB):
            if container is None or not container.is_element_node or container.tag in {"body", "main", "html"}:
                break
            if container.mem_id not in current:
                found = _current_in(container, said) | here.get(container.mem_id, set())
                current[container.mem_id] = found if found and _is_made_of_numbers(container) else set()
            if str(number - 1) in current[container.mem_id]:
                yield link.raw
                break
            container = container.parent


def _current_in(container: LexborNode, known: dict[int, str]) -> set[str]:
    """Return the numbers in an element that are marked as the current one, or are no links.

    ``known`` are the words of elements that were read: those that are looked at lie in one another.
    """
    found: set[str] = set()
    for node in container.css("[aria-current], [class], span, b, strong, em, li")[:_MOST_NUMBERS]:
        attributes = node.attributes
        is_marked = "aria-current" in attributes or _CURRENT.search((attributes.get("class") or "")[:200]) is not None
        is_link = node.tag == "a" or node.css_first("a[href]") is not None
        if not is_marked and is_link:
            continue
        if node.mem_id not in known:
            known[node.mem_id] = text_of(node).strip(_EDGES)
        if known[node.mem_id].isdecimal():
            found.add(known[node.mem_id])
    for child in container.iter(include_text=True):
        if child.is_text_node:
            found.update(re.findall(r"\d+", (child.text_content or "")[:200]))
    return found


def _is_made_of_numbers(container: LexborNode) -> bool:
    """Tell whether an element holds about as many numbers as words: a row of pages, and no table with counts in it."""
    text = text_of(container)
    return len(_LONG_WORD.findall(text)) <= max(_FEW_WORDS, len(_DIGITS.findall(text)))


def _has_numbers_beside(link: LexborNode, known: dict[int, bool]) -> bool:
    """Tell whether an arrow stands among the numbers of pages, and not on a carousel.

    ``known`` says it of the containers that were looked at: a page may have thousands of arrows in one.
    """
    container = link.parent
    for _ in range(_CLIMB - 1):
        if container is None or not container.is_element_node:
            return False
        if container.mem_id not in known:
            known[container.mem_id] = _holds_numbers(container)
        if known[container.mem_id]:
            return True
        container = container.parent
    return False


def _holds_numbers(container: LexborNode) -> bool:
    """Tell whether an element holds at least two numbers, or one that is said to be of another."""
    if not _is_made_of_numbers(container):
        return False
    nodes = container.css("a[href], span, li")[:_MOST_NUMBERS]
    said = [text_of(node).strip(_EDGES) for node in nodes]
    if sum(map(str.isdecimal, said)) > 1:
        return True
    return any(len(text) <= _LONGEST_LABEL and _OF_HOW_MANY.search(text) is not None for text in said)


def _is_called_next(link: _Link) -> bool:
    """Tell whether a link without words, or the entry that it is, has a class that says that it leads on."""
    around = link.node.parent.attributes.get("class") if link.node.parent is not None else ""
    return _NEXT_CLASS.search(f"{link.attributes.get('class') or ''} {around or ''}"[:300]) is not None


def _counted_on(page: Page, own: Place, raws: list[str]) -> Iterator[str]:
    """Yield the address that is this page's but for the number that counts pages, the next higher one."""
    higher: dict[int, str] = {}
    for raw in raws:
        url = page.resolve(raw) if _DIGITS.search(raw) is not None else None
        if url is None or own.host not in url:
            continue
        place = place_of(url)
        if place.number is None or not own.goes_on_at(place):
            continue
        if place.number > own.number if own.number is not None else place.number == _SECOND:
            higher.setdefault(place.number, raw)
    if higher:
        yield higher[min(higher)]
