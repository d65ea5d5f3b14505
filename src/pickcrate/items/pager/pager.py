"""Where a list goes on: the link to its next page, as a reader would find it.

HTML standard, 4.6.7.16 (link type ``next``); RFC 8288 (the ``Link`` field); WAI-ARIA 1.2, 6.6 (``aria-current``).
"""

import itertools
import re
from collections import defaultdict
from collections.abc import Callable, Iterator
from functools import cached_property

from msgspec import Struct

from pickcrate.addresses.linkfield import links_in
from pickcrate.addresses.url import is_web, leads_somewhere, path_of, without_fragment
from pickcrate.finders.data.strings import unescape
from pickcrate.items.data.answers import NEXT_NAMED, answer_of, next_of_answer
from pickcrate.items.pager.controls import controls, spoken
from pickcrate.items.pager.counting import Place, place_of, readings_of
from pickcrate.items.pager.cursors import further_answers, next_by_count
from pickcrate.items.pager.pagelinks import ARROWS, EDGES, Link, label_of, link_of, open_links
from pickcrate.items.pager.pagenumbers import (
    MOST_NUMBERS,
    after_current,
    after_gap,
    has_numbers_beside,
    number_said,
    numbers_around,
)
from pickcrate.items.pager.posted import Posting
from pickcrate.items.said.junk import NEXT, NEXT_PAGES, brings_more
from pickcrate.read.data.datafile import data_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import NextPage
from pickcrate.values.page import Page

_BUTTONS = "button, [role=button], input[type=button i], a:not([href]), a[href^='#'], a[href^='javascript:' i]"
_MOST_BUTTONS = 1_000
_MOST_TARGETS = 2
_MOST_IN_DATA = 200
_SECOND = 2
_MOST_DIGITS = 6
_BACKWARD_ARROWS = "‹«←◀⟨❮<◂≪⇐"
"""before the words that lead to older entries"""
_SIGN = lazy(rf"[{ARROWS}]{{1,2}}")
_HOW_MANY = lazy(r"\s+\(?\d{1,6}\)?(?:\s+[^\W\d]{1,20})?$")
"""behind the words that lead on: "next 20", "next 20 results" """
_HOW_MANY_MORE = lazy(r"(?<=\s)\d{1,6}\s+")
"""among them: "load 20 more" """
_NEXT_CLASS = lazy(
    r"(?:^|\s)(?:[a-z]+[-_]{1,2})*next(?:[-_]{1,2}(?:page|link|button|btn|posts?))?(?:$|\s)", re.IGNORECASE
)
_COMMENTS = lazy(r"#(?:comment|respond|repl|disqus)")
_NEXT_IN_DATA = lazy(
    rf"\b{NEXT_NAMED}\\?[\"']?\s?[:=]\s?\\?[\"']([^\"'\s<>{{}}]{{1,2000}})[\"']",
    re.IGNORECASE,
)
"""a key of a data block, or a variable of a script, that says where a list goes on"""
_SIGNS_IN = lazy(r"/(?:log|sign)[-_]?(?:in|on|up|out)(?:\.\w+)?/?$|/(?:register|anmelden|connexion)/?$", re.IGNORECASE)
_AT_ONCE = lazy(r"[?&](?:per|per[-_]?page|limit|page[-_]?size|size|rows)=\d{1,4}(?=&|$)", re.IGNORECASE)
"""how many entries a page shows"""
_OPENS_PAGE, _FAR = lazy(r"<(?:!doctype|html|head|body|title)[\s>]", re.IGNORECASE), 2_000
_DIGITS = lazy(r"\d+")


class _Lead(Struct, frozen=True):
    """A link that may lead on, as written; whether it speaks of pages or entries, and not of the next thing."""

    raw: str
    is_of_pages: bool


class _Leading:
    """A page with all on it that can be followed: its links with what they say, and what a script makes one."""

    def __init__(self, page: Page, own: Place) -> None:
        self.page = page
        self.own = own
        self.posting = Posting(page)
        self.labelled = [(self.posting.link(link), label_of(link)) for link in open_links(page)]
        self.controls = [*controls(page), *self.posting.controls()]

    @cached_property
    def said(self) -> list[tuple[str, str]]:
        """Where each leads, and what it says."""
        links = [(link.raw, label) for link, label in self.labelled]
        return links + [(control.raw, control.label) for control in self.controls]


def next_page(page: Page, *, is_list: bool = True) -> NextPage | None:
    """Return the page with which the list on ``page`` goes on; None if it does not.

    One whose address counts on from that of this page comes before others. Those must speak of pages where this
    one's address counts already, and unless the page ``is_list`` for sure: next to a text is another text. Never
    that of another site, of this page, of a picture, nor what a calendar leads to.
    """
    if (data := data_of(page.text)) is not None:
        return _after_answer(page, data)
    own = readings_of(page.home)
    other: NextPage | None = None
    leading = _Leading(page, own[0])
    for lead in (lead for way in _WAYS for lead in way(leading)):
        following = _asked_for(page, lead.raw)
        if following is None and other is None:
            following = leading.posting.page(lead.raw)
        if following is None or _SIGNS_IN.search(path_of(following.url)):
            continue
        there = readings_of(following.url)
        goes_on = (here.goes_on_at(at, is_said=lead.is_of_pages) for here, at in zip(own, there, strict=True))
        if not following.form and any(goes_on):
            return following
        if other is None and (lead.is_of_pages or (is_list and own[0].number is None)):
            other = following
    return other or _after_piece(page)


def _after_piece(page: Page) -> NextPage | None:
    """Return the piece of a page that may come after one: it has no pager, and its address counts."""
    further = next_by_count(page.address) if is_web(page.address) and is_piece(page.text) else ""
    return NextPage(further, is_guess=True) if further and page.leads_on(further) else None


def is_piece(text: str) -> bool:
    """Tell whether markup is a piece of a page, as what loads more of a list is answered."""
    return _OPENS_PAGE.search(text, 0, _FAR) is None


def _after_answer(page: Page, data: str) -> NextPage | None:
    """Return the answer that comes after a file of data: where it says itself, or by what it was asked for with."""
    answer = answer_of(data)
    for raw in (*next_of_answer(answer), *_in_link_field(page)):
        if (following := _asked_for(page, raw)) is not None:
            return following
    further = further_answers(answer, page.address) if is_web(page.address) else ()
    return next((NextPage(one.url, is_guess=one.is_guess) for one in further if page.leads_on(one.url)), None)


def _in_link_field(page: Page) -> Iterator[str]:
    """Yield what the field of the response says to be the next page."""
    for link in links_in(page.link_field, page.address) if page.link_field else ():
        if "next" in link.relations:
            yield link.url


def _asked_for(page: Page, raw: str) -> NextPage | None:
    """Return the page that a link leads to, if it may be a further one of the list."""
    url = page.resolve(raw)
    if url is None or raw.startswith("#") or not page.leads_on(url) or _shows_more_at_once(url, page):
        return None
    return NextPage(without_fragment(url))


def _shows_more_at_once(url: str, page: Page) -> bool:
    """Tell whether an address is this page's but for how many entries it shows."""
    bare = _AT_ONCE.sub("", url)
    return bare != url and any(bare == _AT_ONCE.sub("", own) for own in (page.address, page.home))


def says_more(label: str) -> bool:
    """Tell whether a button says that it brings more of a list, and not merely the next thing."""
    words = _words_of(label)
    return (words in NEXT_PAGES and words not in NEXT) or brings_more(words, of_button=True)


def says_next(label: str) -> bool:
    """Tell whether what stands among the numbers of pages says that it leads to the next one."""
    return _words_of(label) in NEXT_PAGES or _SIGN.fullmatch(label.strip()) is not None


def label_of_more(page: Page) -> str:
    """Return what a button says that brings more of the list on a page, by a script; empty if there is none."""
    buttons = (node for node in page.tree.css(_BUTTONS)[:_MOST_BUTTONS] if "disabled" not in node.attributes)
    return next(filter(says_more, map(spoken, buttons)), "")


def _words_of(label: str) -> str:
    """Return what a link or a button says, without arrows around it and without how many it leads to."""
    words = label.strip(EDGES + ARROWS + _BACKWARD_ARROWS).casefold()
    without_count = _HOW_MANY_MORE.sub("", words)
    if without_count in NEXT_PAGES or brings_more(without_count):
        return without_count
    return _HOW_MANY.sub("", words)


def _by_relation(leading: _Leading) -> Iterator[_Lead]:
    """Yield what is said to be the next page, by a link or by the field of the response."""
    page = leading.page
    for link in (*map(link_of, page.tree.css("link[rel][href]")), *(link for link, _ in leading.labelled)):
        if "next" in (link.attributes.get("rel") or "").lower().split():
            yield _Lead(link.raw, is_of_pages=False)
    yield from (_Lead(url, is_of_pages=False) for url in _in_link_field(page))


def _by_words(leading: _Leading) -> Iterator[_Lead]:
    """Yield what says that it leads on: "next page", "older entries", "next 20"."""
    said = [(raw, _words_of(label)) for raw, label in leading.said]
    for raw, words in _of_one_list([(raw, words) for raw, words in said if words in NEXT_PAGES]):
        yield _Lead(raw, is_of_pages=words not in NEXT)


def _by_name(leading: _Leading) -> Iterator[_Lead]:
    """Yield the controls whose name says so."""
    yield from (_Lead(control.raw, is_of_pages=False) for control in leading.controls if control.says_next)


def _by_number(leading: _Leading) -> Iterator[_Lead]:
    """Yield the number after that of this page."""
    numbered = [
        (link, int(number))
        for link, label in leading.labelled
        if _is_number(number := number_said(label)) and _COMMENTS.search(link.raw) is None
    ][:MOST_NUMBERS]
    here = numbers_around([(link, number) for link, number in numbered if _leads_here(leading.page, link)])
    yield from (_Lead(raw, is_of_pages=True) for raw in after_current(numbered, here))


def _by_range(leading: _Leading) -> Iterator[_Lead]:
    """Yield the entries after those of this page: "21 - 40"."""
    yield from (_Lead(raw, is_of_pages=True) for raw in after_gap(leading.labelled))


def _by_arrow(leading: _Leading) -> Iterator[_Lead]:
    """Yield the arrows among the numbers of pages, and those to this page's address with a number that counts."""
    known: dict[int, bool] = {}
    signs = [(link, label) for link, label in leading.labelled if _SIGN.fullmatch(label)]
    of_one = {raw for raw, _ in _of_one_list([(link.raw, label) for link, label in signs])}
    for link, _ in signs:
        if link.raw in of_one and (has_numbers_beside(link.node, known) or _begins_to_count(leading, link.raw)):
            yield _Lead(link.raw, is_of_pages=True)


def _by_address(leading: _Leading) -> Iterator[_Lead]:
    """Yield the address that is this page's but for the number that counts pages, the next higher one."""
    higher: dict[int, str] = {}
    for raw, _ in leading.said:
        number = _counted_on(leading, raw)
        if number is not None:
            higher.setdefault(number, raw)
    if higher:
        yield _Lead(higher[min(higher)], is_of_pages=True)


def _in_data(leading: _Leading) -> Iterator[_Lead]:
    """Yield what data blocks and scripts call the next page, if its address counts on from this page's."""
    for match in itertools.islice(_NEXT_IN_DATA.finditer(leading.page.text), _MOST_IN_DATA):
        raw = unescape(match[1].rstrip("\\"))
        if _counted_on(leading, raw) is not None:
            yield _Lead(raw, is_of_pages=True)


def _by_class(leading: _Leading) -> Iterator[_Lead]:
    """Yield the links without words that are called "next"."""
    wordless = (link for link, label in leading.labelled if not label)
    yield from (_Lead(link.raw, is_of_pages=False) for link in wordless if _is_called_next(link))


def _by_more(leading: _Leading) -> Iterator[_Lead]:
    """Yield what says that it brings more of something, at this page's own address with another query.

    At another address there may be more of anything, and where several say so each is of a part of the page.
    """
    own = path_of(leading.page.home)
    saying = (raw for raw, label in leading.said if brings_more(_words_of(label)))
    found = {url: raw for raw in saying if (url := leading.page.resolve(raw)) is not None}
    here = [raw for url, raw in found.items() if leading.own.host in url and path_of(url) == own]
    if len(found) == 1:
        yield from (_Lead(raw, is_of_pages=True) for raw in here)


_WAYS: tuple[Callable[[_Leading], Iterator[_Lead]], ...] = (
    _by_relation,
    _by_words,
    _by_name,
    _by_number,
    _by_range,
    _by_arrow,
    _by_address,
    _in_data,
    _by_class,
    _by_more,
)
"""how a list leads on, what is surest first"""


def _of_one_list(said: list[tuple[str, str]]) -> list[tuple[str, str]]:
    """Return the links that say where one list goes on: what says the same and leads to many places is of as many."""
    targets: dict[str, set[str]] = defaultdict(set)
    for raw, words in said:
        if leads_somewhere(raw):
            targets[words].add(raw)
    return [(raw, words) for raw, words in said if len(targets[words]) <= _MOST_TARGETS]


def _is_number(label: str) -> bool:
    return label.isascii() and label.isdecimal() and len(label) <= _MOST_DIGITS


def _leads_here(page: Page, link: Link) -> bool:
    """Tell whether a link leads to the page that it stands on."""
    url = page.resolve(link.raw)
    return url is not None and without_fragment(url) in map(without_fragment, (page.address, page.home))


def _is_called_next(link: Link) -> bool:
    """Tell whether a link without words, or the entry that it is, has a class that says that it leads on."""
    around = link.node.parent.attributes.get("class") if link.node.parent is not None else ""
    return _NEXT_CLASS.search(f"{link.attributes.get('class') or ''} {around or ''}"[:300]) is not None


def _begins_to_count(leading: _Leading, raw: str) -> bool:
    """Tell whether an address is this page's, which has no number, but for one: of entries it may be any."""
    url = leading.page.resolve(raw) if leading.own.number is None and _DIGITS.search(raw) is not None else None
    return url is not None and (place := place_of(url)).number is not None and leading.own.goes_on_at(place)


def _counted_on(leading: _Leading, raw: str) -> int | None:
    """Return the number of a page further on, if an address is this page's but for that."""
    own = leading.own
    url = leading.page.resolve(raw) if _DIGITS.search(raw) is not None else None
    if url is None or own.host not in url:
        return None
    place = place_of(url)
    if place.number is None or not own.goes_on_at(place):
        return None
    is_further = place.number == _SECOND if own.number is None else place.number > own.number
    return place.number if is_further else None
