"""Where a list goes on: the link to its next page, as a reader would find it.

HTML standard, 4.6.7.16 (link type ``next``); RFC 8288 (the ``Link`` field); WAI-ARIA 1.2, 6.6 (``aria-current``).
"""

import re
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from pickcrate.addresses import is_other_page, site, without_fragment
from pickcrate.find.words import text_of
from pickcrate.items.junk import NEXT_PAGES
from pickcrate.numerals import whole
from pickcrate.values import Page, fold

_MOST_LINKS = 5_000
_MOST_NUMBERS = 300
_CLIMB = 4
_LONGEST_LABEL = 40
_EDGES = " \u00a0.,:;…()[]|"
_ARROWS = "›»→▶⟩❯>▸≫⇒➔➜"
_BACKWARD_ARROWS = "‹«←◀⟨❮<◂≪⇐"
"""before the words that lead to older entries"""
_SIGN = re.compile(rf"[{_ARROWS}]{{1,2}}")
_CALENDAR = re.compile(r"(?:^|[-_ ])(?:calendar|calendrier|kalender|datepicker|month|cal)(?:$|[-_ ])", re.IGNORECASE)
_DISABLED = re.compile(r"(?:^|[-_ ])(?:disabled|inactive)(?:$|[-_ ])", re.IGNORECASE)
_CURRENT = re.compile(r"(?:^|[-_ ])(?:current|active|selected|on|here)(?:$|[-_ ])", re.IGNORECASE)
# The one number of an address that counts pages, or the entries before one.
_COUNTER = re.compile(
    r"(?:[?&](?:page|p|pg|paged|pagenum|page_no|pageno|start|offset|from|seite|pagina|pag|b_start(?::int)?)=|/(?:page|p|seite|pagina|pag)[/-]?|"
    r"[-_](?:page|p|seite)?)(\d{1,6})(?=$|[/&#.])",
    re.IGNORECASE,
)  # fmt: skip


def next_page(page: Page) -> str:
    """Return the address of the page with which the list on ``page`` goes on; empty if it does not.

    Never that of another site, of this page, of a picture, nor what a calendar leads to.
    """
    seen: set[str] = set()
    for raw in _leads(page):
        url = page.resolve(raw)
        if url is None or raw.startswith("#") or url in seen:
            continue
        seen.add(url)
        if site(url) == site(page.address) and is_other_page(url, page.address):
            return without_fragment(url)
    return ""


def _leads(page: Page) -> Iterator[str]:
    """Yield addresses, as written, the best first."""
    links = [link for link in page.tree.css("a[href]")[:_MOST_LINKS] if _is_open(link)]
    yield from _by_relation(page, links)
    labelled = [(link, _label(link)) for link in links]
    yield from (
        _href(link)
        for link, label in labelled
        if label.strip(_EDGES + _ARROWS + _BACKWARD_ARROWS).casefold() in NEXT_PAGES
    )
    numbered = [
        (link, int(label)) for link, label in labelled if label.isascii() and label.isdecimal() and len(label) < 7
    ]
    yield from _after_current(numbered[:_MOST_NUMBERS])
    known: dict[int, bool] = {}
    yield from (_href(link) for link, label in labelled if _SIGN.fullmatch(label) and _has_numbers_beside(link, known))
    yield from _counted_on(page, links)


def _by_relation(page: Page, links: list[LexborNode]) -> Iterator[str]:
    for link in (*page.tree.css("link[rel][href]"), *links):
        if "next" in (link.attributes.get("rel") or "").lower().split():
            yield _href(link)
    for value, parameters in re.findall(r"<([^<>]{1,2000})>([^,<]{0,500})", page.link_header[:20_000]):
        relations = re.search(r";\s*rel\s*=\s*\"?([^\";]{1,200})", parameters)
        if relations is not None and "next" in relations[1].lower().split():
            yield value


def _href(link: LexborNode) -> str:
    return (link.attributes.get("href") or "").strip()


def _label(link: LexborNode) -> str:
    """Return what a link says: its words, or what it says to those who do not see it."""
    attributes = link.attributes
    words = text_of(link)
    if not words.strip(_EDGES + _ARROWS):
        words = fold(attributes.get("aria-label") or attributes.get("title")) or words
    return words[:_LONGEST_LABEL].strip(_EDGES)


def _is_open(link: LexborNode) -> bool:
    """Tell whether a link can be followed: it is not disabled, and in no calendar."""
    node: LexborNode | None = link
    for _ in range(_CLIMB + 2):
        if node is None or not node.is_element_node:
            return True
        attributes = node.attributes
        names = f"{attributes.get('class') or ''} {attributes.get('id') or ''}"[:300]
        if _CALENDAR.search(names) or node.tag == "time":
            return False
        if node.mem_id == link.mem_id and (attributes.get("aria-disabled") == "true" or _DISABLED.search(names)):
            return False
        node = node.parent
    return True


def _after_current(numbered: list[tuple[LexborNode, int]]) -> Iterator[str]:
    """Yield where the number after the current one leads: the current is marked, or is the one that is no link."""
    current: dict[int, set[str]] = {}
    for link, number in numbered:
        container = link.parent
        for _ in range(_CLIMB):
            if container is None or not container.is_element_node or container.tag in {"body", "main", "html"}:
                break
            if container.mem_id not in current:
                current[container.mem_id] = _current_in(container)
            if str(number - 1) in current[container.mem_id]:
                yield _href(link)
                break
            container = container.parent


def _current_in(container: LexborNode) -> set[str]:
    """Return the numbers in an element that are marked as the current one, or are no links."""
    found: set[str] = set()
    for node in container.css("[aria-current], [class], span, b, strong, em, li")[:_MOST_NUMBERS]:
        attributes = node.attributes
        is_marked = "aria-current" in attributes or _CURRENT.search((attributes.get("class") or "")[:200]) is not None
        is_link = node.tag == "a" or node.css_first("a[href]") is not None
        if (is_marked or not is_link) and (said := text_of(node).strip(_EDGES)).isdecimal():
            found.add(said)
    for child in container.iter(include_text=True):
        if child.is_text_node:
            found.update(re.findall(r"\d+", (child.text_content or "")[:200]))
    return found


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
    """Tell whether an element holds at least two numbers."""
    nodes = container.css("a[href], span, li")[:_MOST_NUMBERS]
    return sum(text_of(node).strip(_EDGES).isdecimal() for node in nodes) > 1


def _counted_on(page: Page, links: list[LexborNode]) -> Iterator[str]:
    """Yield the link whose address is this page's but for the number that counts pages, the next higher one."""
    own = _counted(page.address)
    higher: dict[int, str] = {}
    for link in links:
        url = page.resolve(_href(link))
        counted = _counted(url) if url is not None else None
        if counted is None:
            continue
        rest, number = counted
        is_next = (
            rest == own[0] and number > own[1]
            if own is not None
            else number == _SECOND and _is_first(page.address, rest)
        )
        if is_next:
            higher.setdefault(number, _href(link))
    if higher:
        yield higher[min(higher)]


_SECOND = 2


def _counted(address: str) -> tuple[str, int] | None:
    """Return an address without the number that counts pages, and that number; None if it has none, or several."""
    found = list(_COUNTER.finditer(address))
    if len(found) != 1:
        return None
    start, end = found[0].span(1)
    return address[:start] + address[end:], whole(found[0][1]) or 0


def _is_first(address: str, rest: str) -> bool:
    """Tell whether an address is that of the first page, which does not count itself."""
    return rest.startswith(without_fragment(address).rstrip("/"))
