"""Look: sources to pages to references to images, with their candidates and names-to-be. Keeps no picture."""

import itertools
from collections.abc import Iterator
from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.addresses import absolute, brief
from pickcrate.errors import PickCrateError, SourceError, UsageError
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher, Reply
from pickcrate.fullsize import resolve
from pickcrate.fullsize.proof import Lessons
from pickcrate.read.addresslist import read_addresses
from pickcrate.read.recognise import LISTS, Kind
from pickcrate.run.asking import page_request
from pickcrate.run.events import Found, ListOpened, LookEvent, RowRefused, SourceFailed
from pickcrate.run.order import Order
from pickcrate.run.probes import Probes
from pickcrate.run.sources import Opened, open_source, opened_reply
from pickcrate.sift import settle, sift
from pickcrate.values import Flaw, Image, Trust, Unsure

if TYPE_CHECKING:
    from pickcrate.run.further import Known

_ROWS_AT_A_TIME = 256
_PAGES_AT_A_TIME = 16


def look(order: Order, fetcher: Fetcher, brought: Brought) -> Iterator[LookEvent]:
    """Yield what is found, source by source.

    With a single source its error is raised; with several it is an event, and SourceError is raised at the end only
    if none could be read.
    """
    looking = Looking(order, _base(order), fetcher, brought)
    number, read = 1, 0
    for source in order.sources:
        listed = None
        try:
            most = order.manners.max_file
            pages = open_source(source, fetcher, brought, most, handed=order.handed.get(source))
            if order.items:
                from pickcrate.run.further import Known
                from pickcrate.run.together import lists_first

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
    """One run's looking: its order, and what it reads through."""

    order: Order
    base: str
    fetcher: Fetcher
    brought: Brought
    lessons: Lessons = field(default_factory=Lessons)
    probes_of: dict[Trust, Probes] = field(default_factory=dict)
    is_inside: bool = False
    """whether it is a record that is looked at, which has what it has: nothing else is asked for"""

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
        from pickcrate.run.documents import Documents

        yield from Documents(self).into(opened, number, level, listed)

    def probes(self, opened: Opened) -> Probes:
        """Return what is known of first bytes on behalf of a source: another may have other bytes for an address."""
        return self.probes_of.setdefault(opened.trust, Probes(self.fetcher))

    def enlarge(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with their larger versions sought and proved."""
        from pickcrate.run.contest import contest
        from pickcrate.run.proving import prove

        plain = [image for image in images if image.shown.tiling is None]
        larger = contest(plain, probes, self.lessons)
        larger = prove(larger, probes, self.lessons, self.order.rules)
        if self.order.through:
            from pickcrate.run.following import follow

            larger = follow(larger, self.fetcher, probes, self.lessons, self.order.onward)
        by_number = {image.number: image for image in larger}
        return self.tiled([by_number.get(image.number, image) for image in images], probes)

    def tiled(self, images: list[Image], probes: Probes, *, full: bool = True) -> list[Image]:
        """Return ``images``, those that are kept in tiles with the largest version that can be had in front."""
        from pickcrate.run.tiled import tiled

        return tiled(images, self.fetcher, probes, self.order.max_pixels, full=full)

    def sifted(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with all verdicts; what is undecided is settled by its first bytes, in one batch."""
        criteria, sort = self.order.criteria, self.order.choice.sort
        images = [sift(probes.measured(image), criteria) if image.is_picked else image for image in images]
        wanted = {image.number for image in images if image.is_picked and sort.is_unknown_of(image)}
        if self.order.measures_all or self.order.browsing.is_on:
            unmeasured = (image for image in images if image.is_picked and image.best.measures.width is None)
            wanted |= {image.number for image in unmeasured if self.order.measures_all or self._is_at_hand(image)}
        if self.order.unsure is Unsure.SETTLE and criteria.needs_size:
            wanted |= {image.number for image in images if image.is_undecided}
        wanted -= {image.number for image in images if image.best.tiles}  # no address has those as they will be
        if wanted:
            probes.read({image.url: image.best_asker for image in images if image.number in wanted})
            images = [sift(probes.measured(image), criteria) if image.number in wanted else image for image in images]
        return [settle(image, self.order.unsure) for image in images]

    def _into_list(self, opened: Opened, number: int) -> Iterator[LookEvent]:
        columns = dict(self.order.columns)
        rows: Iterator[Image | Flaw]
        if opened.kind is Kind.ADDRESSES and not columns:
            yield ListOpened(opened.source)
            rows = read_addresses(opened.lines(), source=opened.source, trust=opened.trust, first_number=number)
        else:
            from pickcrate.read.table import Table, open_csv, open_json_lines, read_rows

            if opened.kind is Kind.HAUL:
                table = Table(opened.rows, {"url": "url"}, is_pick_list=True)
            elif opened.kind is Kind.PARQUET:
                from pickcrate.read.parquet import open_parquet

                table = open_parquet(opened.file(), opened.source, columns)
            else:
                opener = open_json_lines if opened.kind is Kind.JSON_LINES else open_csv
                table = opener(opened.lines(), opened.source, columns)
            yield ListOpened(opened.source, table.guessed)
            rows = read_rows(table, source=opened.source, base=self.base, trust=opened.trust, first_number=number)
        # Rows are taken some at a time: what has to be asked for is asked for in batches.
        at_a_time = _PAGES_AT_A_TIME if self.order.lists_pages else _ROWS_AT_A_TIME
        while batch := list(itertools.islice(rows, at_a_time)):
            images = [row for row in batch if isinstance(row, Image)]
            if self.order.lists_pages:
                yield from (RowRefused(opened.source, row) for row in batch if isinstance(row, Flaw))
                for event in self._into_pages(images, opened.is_own, number):
                    number += isinstance(event, Found)
                    yield event
                continue
            images = [image if image.candidates else resolve(image, full=bool(self.order.full)) for image in images]
            probes = self.probes(opened)
            enlarge = self.enlarge if self.order.full else self._as_listed
            sifted = iter(self.sifted(enlarge(images, probes), probes))
            for row in batch:
                yield RowRefused(opened.source, row) if isinstance(row, Flaw) else Found(next(sifted))

    def _as_listed(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return the images of a list as it has them; of a description of tiles the picture that it describes."""
        from pickcrate.fullsize.description import is_description

        has_descriptions = any(is_description(image.url) for image in images)
        return self.tiled(images, probes, full=False) if has_descriptions else images

    def _into_pages(self, rows: list[Image], is_own: bool, number: int) -> Iterator[LookEvent]:
        """Yield what the pages of a list hold, in its order; they are fetched in one batch.

        ``is_own`` tells a list of the user's own: its addresses are as good as typed.
        """
        requests = {row.url: page_request(row.url, row.asker, typed=is_own) for row in rows if not row.declined}
        replies = {r.request.url: r for r in self.fetcher.fetch(requests.values()) if isinstance(r, Reply)}
        for url in requests:
            try:
                opened = opened_reply(brief(url), replies[url], self.order.manners.max_file)
                for event in self.into(opened, number):
                    number += isinstance(event, Found)
                    yield event
            except PickCrateError as error:
                yield SourceFailed(brief(url), error)

    def _is_at_hand(self, image: Image) -> bool:
        return self.brought.holds(image.url, image.best_asker.trust)
