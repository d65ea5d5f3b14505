"""Look: sources to pages to references to images, with their candidates and names-to-be. Keeps no picture."""

import itertools
from collections.abc import Iterator
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.stems import plain_stem
from pickcrate.addresses.url import absolute, brief, is_web, last_segment, split_extension
from pickcrate.errors import PickCrateError, SourceError, UsageError
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher, Reply
from pickcrate.fullsize import resolve
from pickcrate.orders.order import Order
from pickcrate.read.lists.addresslist import ListOrigin, listed_image, read_addresses
from pickcrate.read.recognise import LISTS, OF_ENTRIES, Kind
from pickcrate.run.events import Found, ListOpened, LookEvent, RowRefused, SourceFailed
from pickcrate.run.look.means import Means
from pickcrate.run.sources.opened import WHAT_IS_READ, Expected, Opened
from pickcrate.run.sources.opening import open_source, opened_reply
from pickcrate.run.survey.asking import page_request
from pickcrate.values.flaw import Flaw
from pickcrate.values.image import Image

if TYPE_CHECKING:
    from pickcrate.read.lists.table import Table
    from pickcrate.run.look.further import Known
    from pickcrate.run.look.holdings import Holdings

_ROWS_AT_A_TIME, _CHARACTERS_AT_A_TIME = 256, 8_000_000
"""of a list, of which an address may hold all bytes of its picture"""

_PAGES_AT_A_TIME = 16
_MAY_BE_SHORTCUTS = frozenset((Kind.SHORTCUT, Kind.PLIST))


def look(order: Order, fetcher: Fetcher, brought: Brought, holdings: "Holdings | None" = None) -> Iterator[LookEvent]:
    """Yield what is found, source by source; ``holdings`` is what the crate knows that it is for.

    With a single source its error is raised; with several it is an event, and SourceError is raised at the end only
    if none could be read.
    """
    looking = Looking(Means(order, _base(order), fetcher, brought, holdings=holdings))
    number, read = 1, 0
    for source in order.sources:
        listed = None
        try:
            expected = Expected(order.manners.max_file, _text_is(order))
            pages = open_source(source, fetcher, brought, expected, handed=order.handed.get(source))
            if order.items:
                from pickcrate.run.look.further import Known
                from pickcrate.run.sources.together import lists_first

                pages, listed = lists_first(pages), Known()
            for opened in pages:
                for event in looking.into(opened, number, listed=listed):
                    if isinstance(event, Found):
                        number = event.image.number + 1
                    yield event
            read += 1
        except PickCrateError as error:
            if len(order.sources) == 1:
                raise
            yield SourceFailed(source, error)
    if not read:
        raise SourceError("none of the sources could be read")


def _called(address: str) -> str:
    """Return what a list is called: the name of its file; blank if it has none."""
    return plain_stem(split_extension(last_segment(address))[0])


def _leads_to(opened: Opened) -> str:
    """Return the page that a shortcut of the user's own leads to; empty if it is none, or leads elsewhere."""
    from pickcrate.read.shortcut import target_of

    return target_of(opened.octets) if opened.is_own else ""


def _is_load(table: "Table") -> bool:
    """Tell whether a list is the load of a haul."""
    from pickcrate.stores.papers import ROW

    return ROW in table.headers


def _text_is(order: Order) -> Kind | None:
    if order.columns:
        return Kind.CSV
    return Kind.ADDRESSES if order.lists_pages else None


def _base(order: Order) -> str:
    if not order.base:
        return ""
    base = absolute(order.base, "about:blank")
    if base is None or base.startswith("about:"):
        raise UsageError(
            f"--base {order.base!r} is not a whole address", hint="for example --base https://example.org/kites/"
        )
    return base


class Looking(Struct, frozen=True):
    """Looking into sources: each by its kind, and what they lead to."""

    means: Means

    def into(self, opened: Opened, number: int, level: int = 0, listed: "Known | None" = None) -> Iterator[LookEvent]:
        """Yield what one opened source holds, its images numbered from ``number``.

        ``level`` is how many sources deep it was found. What its other pages have shown already, if they are to be
        taken together, is ``listed``.
        """
        if listed is not None and listed.has_read(opened.address):
            return
        if opened.kind in LISTS:
            yield from self._into_list(opened, number)
            return
        if opened.kind in _MAY_BE_SHORTCUTS and (target := _leads_to(opened)):
            origin = ListOrigin(opened.source, trust=opened.trust)
            yield from self._into_pages([listed_image(target, target, origin, number)], opened.is_own, number)
            return
        if opened.kind is Kind.SHORTCUT:  # one that is served may lead to itself
            said = "leads to no page of the web" if opened.is_own else "is a shortcut, and no page"
            raise SourceError(f"{opened.source} {said}", hint=WHAT_IS_READ)
        if opened.kind in OF_ENTRIES and self.means.order.lists_pages:
            yield from self._into_entries(opened, number, level)
            return
        from pickcrate.run.look.documents import Documents

        yield from Documents(self.means, self.into).into(opened, number, level, listed)

    def _into_list(self, opened: Opened, number: int) -> Iterator[LookEvent]:
        origin = ListOrigin(
            opened.source,
            self.means.base,
            opened.address,
            opened.trust,
            title=_called(opened.address),
            is_of_pages=self.means.order.lists_pages,
        )
        rows: Iterator[Image | Flaw]
        if opened.kind is Kind.ADDRESSES and not self.means.order.columns:
            yield ListOpened(opened.source)
            rows = read_addresses(opened.lines(), origin, first_number=number)
        else:
            from pickcrate.read.lists.rows import read_rows

            table = self._table(opened)
            if opened.kind is Kind.PARQUET and _is_load(table):  # it lies wherever a worker has put it
                origin = replace(origin, home="about:blank")
            yield ListOpened(opened.source, table.guessed)
            rows = read_rows(table, origin, first_number=number)
        yield from (RowRefused(opened.source, flaw) for flaw in opened.flaws)
        # Rows are taken some at a time: what has to be asked for is asked for in batches.
        at_a_time = _PAGES_AT_A_TIME if self.means.order.lists_pages else _ROWS_AT_A_TIME
        while batch := _batch(rows, at_a_time):
            images = [row for row in batch if isinstance(row, Image)]
            if self.means.order.lists_pages:
                yield from (RowRefused(opened.source, row) for row in batch if isinstance(row, Flaw))
                for event in self._into_pages(images, opened.is_own, number):
                    number += isinstance(event, Found)
                    yield event
                continue
            is_full, probes = bool(self.means.order.full), self.means.probes(opened)
            images = [image if image.candidates else resolve(image, full=is_full) for image in images]
            enlarge = self.means.enlarge if is_full else self.means.as_listed
            sifted = iter(self.means.sifted(enlarge(images, probes), probes))
            for row in batch:
                yield RowRefused(opened.source, row) if isinstance(row, Flaw) else Found(next(sifted))

    def _into_entries(self, opened: Opened, number: int, level: int) -> Iterator[LookEvent]:
        """Yield what the own pages of the entries of a feed, a sitemap or a file of bookmarks hold, each page once."""
        from pickcrate.run.look.documents import Documents
        from pickcrate.run.sources.readings import read_source

        reading = read_source(opened, self.means.order.manners.max_file, self.means.brought)
        yield ListOpened(opened.source)
        yield from (RowRefused(opened.source, flaw) for flaw in reading.flaws)
        origin = ListOrigin(opened.source, trust=opened.trust, title=reading.title or _called(opened.address))
        urls = iter(dict.fromkeys(filter(is_web, reading.pages)))
        while batch := list(itertools.islice(urls, _PAGES_AT_A_TIME)):
            images = [listed_image(url, url, origin, number) for url in batch]
            for event in self._into_pages(images, opened.is_own, number):
                number += isinstance(event, Found)
                yield event
        if reading.further and level < self.means.order.frames:  # the sitemaps of an index
            yield from Documents(self.means, self.into).into_further(opened, reading.further, number, level)

    def _table(self, opened: Opened) -> "Table":
        """Return a list with columns, opened; several columns with addresses may be named."""
        from pickcrate.read.lists.table import Table, open_csv, open_json_lines

        columns = dict(self.means.order.columns)
        urls = [header for name, header in self.means.order.columns if name == "url"]
        if urls:
            columns["url"] = urls[0]
        if opened.kind is Kind.HAUL:
            table = Table(opened.rows, {"url": "url"}, is_pick_list=True)
        elif opened.kind is Kind.PARQUET:
            from pickcrate.read.lists.parquet import open_parquet

            table = open_parquet(opened.file(), opened.source, columns)
        elif opened.kind is Kind.WORKBOOK:
            from pickcrate.read.office.workbook import open_workbook

            table = open_workbook(opened.file(), opened.source, columns, self.means.order.manners.max_file)
        else:
            opener = open_json_lines if opened.kind is Kind.JSON_LINES else open_csv
            table = opener(opened.lines(), opened.source, columns)
        for header in urls[1:]:
            table.take_also(header)
        return table

    def _into_pages(self, rows: list[Image], is_own: bool, number: int) -> Iterator[LookEvent]:
        """Yield what the pages of a list hold, in its order; they are fetched in one batch.

        ``is_own`` tells a list of the user's own: its addresses are as good as typed. What is a list again, among
        them, is one of pictures: a list may name itself.
        """
        inside = Looking(replace(self.means, order=replace(self.means.order, lists_pages=False), is_listed=True))
        requests = {row.url: page_request(row.url, row.asker, typed=is_own) for row in rows if not row.declined}
        replies = {r.request.url: r for r in self.means.fetcher.fetch(requests.values()) if isinstance(r, Reply)}
        for url in requests:
            try:
                opened = opened_reply(brief(url), replies[url], self.means.expected)
                for event in inside.into(opened, number):
                    if isinstance(event, Found):
                        number += 1
                        event = Found(replace(event.image, list_title=rows[0].list_title))  # noqa: PLW2901
                    yield event
            except PickCrateError as error:
                yield SourceFailed(brief(url), error)


def _batch(rows: Iterator[Image | Flaw], most: int) -> list[Image | Flaw]:
    """Return the next rows of a list: ``most`` at most, fewer of those whose addresses are long."""
    batch: list[Image | Flaw] = []
    room = _CHARACTERS_AT_A_TIME
    for row in itertools.islice(rows, most):
        batch.append(row)
        room -= len(row.url) if isinstance(row, Image) else 0
        if room < 0:
            break
    return batch
