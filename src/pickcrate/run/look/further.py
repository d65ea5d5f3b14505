"""Further pages of a list: one after the other, as each says where the next one is, to the end or to the limit."""

from collections.abc import Callable, Generator, Iterator

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import brief, without_fragment
from pickcrate.errors import PickCrateError, SourceError
from pickcrate.fetch.exchange import Fetcher, Reply
from pickcrate.read.reading import Loaded
from pickcrate.read.recognise import DATA, FEEDS, Kind
from pickcrate.run.events import Found, ListEnd, LookEvent, NextPagesRead, SourceFailed
from pickcrate.run.sources.opened import Expected, Opened
from pickcrate.run.sources.opening import opened_reply
from pickcrate.run.survey.asking import MOST_OF_A_PART, onward_request
from pickcrate.values.image import Image
from pickcrate.values.item import NextPage
from pickcrate.values.trust import Asker

ReadPage = Callable[[Opened, int, "Known"], Generator[LookEvent, None, NextPage | None]]
"""Yields what a page of the list holds, its images numbered from a number on; returns where the list goes on."""

_BEGINNING = 2_000

_NOT_THERE = frozenset((400, 404, 410, 416, 422))
"""what interfaces answer who asks for a page behind the last one"""


class Known(Struct):
    """What the pages of one list have shown so far: what stands on every one of them is listed once."""

    addresses: set[str] = field(default_factory=set)
    beside_items: set[str] = field(default_factory=set)
    """what the pages of its items show that is no item's"""
    items: set[str] = field(default_factory=set)
    """the own pages of the items that were gone to"""
    pages: set[str] = field(default_factory=set)
    """those that were read"""
    parts: set[str] = field(default_factory=set)
    """where pictures were found: in pages, and in what those are made of"""

    def has_read(self, address: str) -> bool:
        """Tell whether a page was read already, as one of the list or as an item's."""
        return without_fragment(address) in self.items or without_fragment(address) in self.pages

    def new(self, images: list[Image], number: int) -> list[Image]:
        """Return the images that were not listed yet, numbered from ``number``, and note them."""
        new = [image for image in images if image.shown.url not in self.addresses]
        self.addresses.update(image.shown.url for image in new)
        self.parts.update(without_fragment(image.shown.page) for image in new)
        return [replace(image, number=place) for place, image in enumerate(new, number)]


class Listing(Struct, frozen=True):
    """A list of which the first page was read: where it goes on, and the number of the next picture."""

    opened: Opened
    next_page: NextPage | None
    number: int
    known: Known


def further_pages(listing: Listing, limit: int, fetcher: Fetcher, read: ReadPage) -> Iterator[LookEvent]:
    """Yield what up to ``limit`` pages hold that come after the first of a list.

    It ends at a page that names no next one, or one that was read; or that shows nothing new but furniture, unless it
    was read as a part of the one before: a list without an end is a trap. A page that cannot be had ends it too, and
    what was found stays.
    """
    following, asker, number = listing.next_page, listing.opened, listing.number
    visited = listing.known.pages
    visited.add(without_fragment(asker.address))
    turned = (asker.loaded or Loaded()).turned
    pages, end = 1 + turned.pages, ListEnd.ENOUGH if turned.goes_on else ListEnd.LAST
    stated: set[tuple[Kind, bool]] = set()
    while following is not None and (asked := _asked(following)) not in visited:
        if following.is_guess and _sort(asker) in stated:  # those before said where they go on
            break
        if not following.is_guess:
            stated.add(_sort(asker))
        if pages > limit:
            end = ListEnd.ENOUGH
            break
        visited.add(asked)
        try:
            further = _opened(following, asker, fetcher)
        except SourceError as error:
            yield SourceFailed(brief(following.url), error)
            end = ListEnd.FAILED
            break
        if further is None:
            break
        visited.add(without_fragment(further.address))
        was_part = without_fragment(further.address) in listing.known.parts  # what a page would load is read with it
        asker, pages = further, pages + 1
        new = 0
        reading = read(further, number, listing.known)
        while True:
            try:
                event = next(reading)
            except StopIteration as ended:
                following = ended.value
                break
            except PickCrateError as error:  # it may lack the part that was asked for
                yield SourceFailed(brief(following.url), error)
                following, new = None, 1
                end = ListEnd.FAILED
                break
            if isinstance(event, Found):
                number += 1
                new += not event.image.furniture
            yield event
        if not (new or was_part):
            end = ListEnd.NOTHING_NEW
            pages -= 1
            break
    yield NextPagesRead(asker.source, pages, end)


def _asked(page: NextPage) -> str:
    """Return what tells a page from others: of one that is posted, a hash of what is sent, which may be long."""
    return f"{page.url}#{hash(page.form)}" if page.form else page.url


def _opened(page: NextPage, asker: Opened, fetcher: Fetcher) -> Opened | None:
    """Return the page, or the feed, that came; None if it was a guess, and is not there.

    Raises SourceError if it cannot be had.
    """
    is_of_answers = asker.kind in DATA
    request = onward_request(page.url, Asker(asker.address, asker.trust), is_of_answers=is_of_answers)
    if page.form:
        request = replace(request, form=page.form, is_visit=False)
    reply = next((reply for reply in fetcher.fetch([request]) if isinstance(reply, Reply)), None)
    if reply is None:
        raise SourceError(f"{brief(request.url)}: no answer came")
    if page.is_guess and _is_not_there(reply):
        return None
    opened = opened_reply(brief(request.url), reply, Expected(MOST_OF_A_PART, takes_data=True))
    if opened.kind is Kind.DATA and not is_of_answers:
        opened = _put_into_page(opened)
    if opened.kind not in _may_follow(asker.kind):
        wanted = asker.kind if asker.kind in FEEDS | DATA else Kind.PAGE
        raise SourceError(f"{brief(request.url)} is a {opened.kind.value}, not a {wanted.value}")
    return replace(opened, source=asker.source)


def _may_follow(kind: Kind) -> frozenset[Kind]:
    """Return of what kinds the further pages of a source are: those of a feed are feeds, those of data are data."""
    if kind in FEEDS:
        return frozenset((kind,))
    return DATA if kind in DATA else DATA | {Kind.PAGE, Kind.TEXT}


def _is_not_there(reply: Reply) -> bool:
    """Tell whether there is no page behind the last one that was had."""
    return reply.failure.status in _NOT_THERE if reply.failure is not None else not reply.octets.strip()


def _put_into_page(opened: Opened) -> Opened:
    """Return an answer that brings a piece of a page in JSON as that piece, and any other as it is."""
    from pickcrate.items.data.answers import page_of_answer  # noqa: PLC0415 (few lists load more so)
    from pickcrate.read.data.datafile import DATA_FIELDS  # noqa: PLC0415

    markup = page_of_answer(opened.octets.decode("utf-8-sig", "replace"))
    if not markup:
        return opened
    return replace(opened, kind=Kind.PAGE, octets=markup.encode("utf-8", "replace"), fields=DATA_FIELDS)


def _sort(opened: Opened) -> tuple[Kind, bool]:
    """Return of what sort a page of a list is: pieces of pages go on otherwise than whole ones do."""
    from pickcrate.items.pager.pager import is_piece  # noqa: PLC0415 (few looks need it)

    return opened.kind, opened.kind is Kind.PAGE and is_piece(opened.octets[:_BEGINNING].decode("latin-1"))
