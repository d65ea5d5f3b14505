"""The numbers of pages, in a row below a list: which is the current one, and where the next one leads."""

import re
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from pickcrate.elements.words import text_of
from pickcrate.items.pager.pagelinks import CLIMB, EDGES, LONGEST_LABEL, Link
from pickcrate.text.lazyre import lazy

MOST_NUMBERS = 300
_FEW_WORDS = 8
_SETS_OFF = {"span", "b", "strong", "em", "a"}
_CURRENT = lazy(r"(?:^|[-_ ])(?:current|active|selected|on|here)(?:$|[-_ ])", re.IGNORECASE)
_RANGE = lazy(r"[(\[]?(\d{1,6})\s?(?:-|–|to|bis|à)\s?(\d{1,6})[)\]]?", re.IGNORECASE)
_DIGITS, _LONG_WORD = lazy(r"\d+"), lazy(r"[^\W\d_]{3,}")
_BEHIND_NUMBERS = frozenset("ジ頁页")
_OF_HOW_MANY = lazy(r"(?<!\d)\d{1,6}\s?(?:/|\w{1,4})\s?\d{1,6}(?!\d)")
"""the number of a page and of all pages: "1 / 4", "2 of 9" """


_SAID_OF_PAGE = lazy(
    r"(?:page|seite|página|pagina|pàgina|strona|sid[ae]|sivu|oldal|sayfa|стран\w{2,4}|ページ)\W{1,3}(\d{1,6})"
    r"|第?\s?(\d{1,6})\s?(?:ページ|頁|页)",
    re.IGNORECASE,
)
"""the number of a page, as it is said to those who do not see it: "Page 2", "第2頁" """


def number_said(label: str) -> str:
    """Return the number that a label is, alone or as that of a page: its digits; empty if it is none."""
    if label.isdecimal():
        return label
    said = _SAID_OF_PAGE.fullmatch(label) if label[-1:].isdecimal() or label[-1:] in _BEHIND_NUMBERS else None
    return (said[1] or said[2]) if said is not None else ""


def after_gap(labelled: list[tuple[Link, str]]) -> Iterator[str]:
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


def numbers_around(numbered: list[tuple[Link, int]]) -> dict[int, set[str]]:
    """Return which numbers stand in each element not far around one."""
    found: dict[int, set[str]] = {}
    for link, number in numbered:
        container = link.node.parent
        for _ in range(CLIMB):
            if container is None:
                break
            found.setdefault(container.mem_id, set()).add(str(number))
            container = container.parent
    return found


def after_current(numbered: list[tuple[Link, int]], here: dict[int, set[str]]) -> Iterator[str]:
    """Yield where the number after the current one leads.

    The current is marked, or is the one that is no link, or is in ``here``: the numbers in an element that lead to this
    page.
    """
    current: dict[int, set[str]] = {}
    said: dict[int, str] = {}
    for link, number in numbered:
        if _stands_behind(link.node, str(number - 1)):
            yield link.raw
            continue
        container = link.node.parent
        for _ in range(CLIMB):
            if container is None or not container.is_element_node or container.tag in {"body", "main", "html"}:
                break
            if container.mem_id not in current:
                found = _current_in(container, said) | here.get(container.mem_id, set())
                current[container.mem_id] = found if found and _is_made_of_numbers(container) else set()
            if str(number - 1) in current[container.mem_id]:
                yield link.raw
                break
            container = container.parent


def _stands_behind(link: LexborNode, number: str) -> bool:
    """Tell whether right before a link an element says a number without leading anywhere."""
    before = link.prev
    if before is not None and before.is_text_node and not (before.text_content or "").strip(EDGES):
        before = before.prev
    if before is None or before.tag not in _SETS_OFF or _leads(before):
        return False
    return before.css_first("a[href]") is None and number_said(text_of(before).strip(EDGES)) == number


def _current_in(container: LexborNode, known: dict[int, str]) -> set[str]:
    """Return the numbers in an element that are marked as the current one, or are no links.

    ``known`` are the numbers of elements that were read: those that are looked at lie in one another.
    """
    found: set[str] = set()
    set_off: set[str] = set()
    for node in container.css("[aria-current], [class], span, b, strong, em, li, a:not([href])")[:MOST_NUMBERS]:
        attributes = node.attributes
        is_marked = "aria-current" in attributes or _CURRENT.search((attributes.get("class") or "")[:200]) is not None
        if not is_marked and node.css_first("a[href]") is not None:
            continue
        if node.mem_id not in known:
            known[node.mem_id] = number_said(text_of(node).strip(EDGES))
        if not known[node.mem_id]:
            continue
        if is_marked or not _is_in_link(node, container):
            found.add(known[node.mem_id])
        elif not _leads(node):
            set_off.add(known[node.mem_id])
    if len(set_off) == 1:  # the only number in bold is the current one; where all stand in boxes none is
        found |= set_off
    for child in container.iter(include_text=True):
        if child.is_text_node:
            found.update(re.findall(r"\d+", (child.text_content or "")[:200]))
    return found


def _is_in_link(node: LexborNode, container: LexborNode) -> bool:
    """Tell whether an element is a link, or lies in one that lies in ``container``."""
    outer: LexborNode | None = node
    for _ in range(CLIMB):
        if outer is None or outer.mem_id == container.mem_id:
            return False
        if _leads(outer):
            return True
        outer = outer.parent
    return False


def _leads(node: LexborNode) -> bool:
    """Tell whether an element is a link; one without an address holds a link's place (HTML standard, 4.6.1)."""
    return node.tag == "a" and "href" in node.attributes


def has_numbers_beside(link: LexborNode, known: dict[int, bool]) -> bool:
    """Tell whether an arrow stands among the numbers of pages, and not on a carousel.

    ``known`` says it of the containers that were looked at: a page may have thousands of arrows in one.
    """
    container = link.parent
    for _ in range(CLIMB - 1):
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
    nodes = container.css("a[href], span, li")[:MOST_NUMBERS]
    said = [text_of(node).strip(EDGES) for node in nodes]
    if sum(map(bool, map(number_said, said))) > 1:
        return True
    return any(len(text) <= LONGEST_LABEL and _OF_HOW_MANY.search(text) is not None for text in said)


def _is_made_of_numbers(container: LexborNode) -> bool:
    """Tell whether an element holds about as many numbers as words: a row of pages, and no table with counts in it."""
    text = text_of(container)
    return len(_LONG_WORD.findall(text)) <= max(_FEW_WORDS, len(_DIGITS.findall(text)))
