"""Look: sources to pages to references to images, with their candidates and names-to-be. Keeps no picture."""

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from pickcrate.addresses import absolute, brief, is_web
from pickcrate.errors import PickCrateError, SourceError, UsageError
from pickcrate.fetch.brought import Brought, BroughtOnly
from pickcrate.fetch.exchange import Fetcher, Reply
from pickcrate.fetch.private import names_private
from pickcrate.fullsize import resolve
from pickcrate.fullsize.proof import Lessons
from pickcrate.group import group
from pickcrate.name import Naming, key
from pickcrate.read.addresslist import read_addresses
from pickcrate.read.document import original_address, read_document
from pickcrate.read.reading import Body, Document, Reading
from pickcrate.read.recognise import LISTS, Kind
from pickcrate.run.contest import contest
from pickcrate.run.events import Found, ListOpened, LookEvent, PageRead, RowRefused, SourceFailed
from pickcrate.run.following import follow
from pickcrate.run.order import Order
from pickcrate.run.probes import Probes
from pickcrate.run.proving import prove
from pickcrate.run.sources import Opened, open_source, opened_reply, page_request
from pickcrate.run.surveying import Survey, survey
from pickcrate.sift import settle, sift
from pickcrate.sift.furniture import mark
from pickcrate.values import Flaw, Image, Page, Reference, Rights, Unsure

_NOTHING = Rights()
_NOTHING_SAID: Mapping[str, Rights] = {}
_ROWS_AT_A_TIME = 256
_PAGES_AT_A_TIME = 16


def look(order: Order, fetcher: Fetcher, brought: Brought) -> Iterator[LookEvent]:
    """Yield what is found, source by source.

    With a single source its error is raised; with several it is an event, and SourceError is raised at the end only
    if none could be read.
    """
    looking = _Looking(order, _base(order), fetcher, brought, Probes(fetcher))
    number, read = 1, 0
    for source in order.sources:
        try:
            for opened in open_source(source, fetcher):
                if opened.folder is not None:
                    brought.folders.append(opened.folder)
                for event in looking.into(opened, number):
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


def _read(opened: Opened, limit: int) -> Reading:
    """Return what a source other than a list holds."""
    octets, address = opened.octets, opened.address
    match opened.kind:
        case Kind.MESSAGE:
            from pickcrate.read.mime import read_mime

            return read_mime(octets, address)
        case Kind.LOG:
            from pickcrate.read.har import read_har

            return read_har(octets)
        case Kind.ARCHIVE:
            from pickcrate.read.warc import read_warc

            return read_warc(octets)
        case Kind.PACKAGE:
            from pickcrate.read.package import read_package

            return read_package(octets, address, limit)
        case Kind.FEED:
            from pickcrate.read.feed import read_xml_feed

            return read_xml_feed(octets, address)
        case Kind.JSON_FEED:
            from pickcrate.read.feed import read_json_feed

            return read_json_feed(octets, address)
        case Kind.PICTURE:
            reading = Reading(bodies={address: Body(lambda: octets)})
            reading.add_picture(address, "source")
            return reading
        case _:
            return Reading(documents=[Document(octets, address, opened.charset, opened.fields)])


@dataclass(frozen=True, slots=True)
class _Looking:
    """One run's looking: its order, and what it reads through."""

    order: Order
    base: str
    fetcher: Fetcher
    brought: Brought
    probes: Probes
    lessons: Lessons = field(default_factory=Lessons)

    def into(self, opened: Opened, number: int) -> Iterator[LookEvent]:
        """Yield what one opened source holds, its images numbered from ``number``."""
        if opened.kind in LISTS:
            yield from self._into_list(opened, number)
            return
        reading = _read(opened, self.order.manners.max_file)
        self.brought.bodies.update(reading.bodies)
        if reading.complete:
            yield from self._into_record(opened, reading, number)
            return
        known: set[str] = set()
        for document in reading.documents:
            page, surveyed = self._survey(opened, document)
            known.update(reference.url for reference in surveyed.references)
            flaws = (*reading.flaws, *surveyed.flaws)
            head = PageRead(opened.source, page.address, page.title, 0, flaws)
            reading.flaws.clear()
            for event in self._page(head, surveyed.references, number, surveyed.rights):
                number += isinstance(event, Found)
                yield event
        rest = [reference for reference in reading.references if reference.url not in known]
        if rest or reading.flaws or not reading.documents:
            yield from self._page(PageRead(opened.source, opened.address, "", 0, tuple(reading.flaws)), rest, number)

    def _into_list(self, opened: Opened, number: int) -> Iterator[LookEvent]:
        columns = dict(self.order.columns)
        rows: Iterator[Image | Flaw]
        if opened.kind is Kind.ADDRESSES and not columns:
            yield ListOpened(opened.source)
            rows = read_addresses(opened.lines(), source=opened.source, first_number=number)
        else:
            from pickcrate.read.table import open_csv, open_json_lines, read_rows

            opener = open_json_lines if opened.kind is Kind.JSON_LINES else open_csv
            table = opener(opened.lines(), opened.source, columns)
            yield ListOpened(opened.source, table.guessed)
            rows = read_rows(table, source=opened.source, base=self.base, first_number=number)
        # Rows are taken some at a time: what has to be asked for is asked for in batches.
        at_a_time = _PAGES_AT_A_TIME if self.order.lists_pages else _ROWS_AT_A_TIME
        while batch := list(itertools.islice(rows, at_a_time)):
            images = [row for row in batch if isinstance(row, Image)]
            if self.order.lists_pages:
                yield from (RowRefused(opened.source, row) for row in batch if isinstance(row, Flaw))
                for event in self._into_pages(images, number):
                    number += isinstance(event, Found)
                    yield event
                continue
            images = [image if image.candidates else resolve(image, full=bool(self.order.full)) for image in images]
            sifted = iter(self._sift(self._enlarge(images) if self.order.full else images))
            for row in batch:
                yield RowRefused(opened.source, row) if isinstance(row, Flaw) else Found(next(sifted))

    def _into_pages(self, rows: list[Image], number: int) -> Iterator[LookEvent]:
        """Yield what the pages of a list hold, in its order; they are fetched in one batch."""
        requests = {row.url: page_request(row.url) for row in rows if not row.declined}
        replies = {r.request.url: r for r in self.fetcher.fetch(requests.values()) if isinstance(r, Reply)}
        for url in requests:
            try:
                opened = opened_reply(brief(url), replies[url])
                for event in self.into(opened, number):
                    number += isinstance(event, Found)
                    yield event
            except PickCrateError as error:
                yield SourceFailed(brief(url), error)

    def _into_record(self, opened: Opened, reading: Reading, number: int) -> Iterator[LookEvent]:
        """Yield the pictures of a record of what was loaded, with the words that its pages have for them."""
        said: dict[str, Reference] = {}
        title = ""
        for document in reading.documents:
            page, surveyed = self._survey(opened, document, BroughtOnly(self.brought, self.order.manners.max_file))
            title = title or page.title
            for reference in surveyed.references:
                said.setdefault(reference.url, reference)
        references = [
            replace(said[recorded.url], cluster=recorded.cluster) if recorded.url in said else recorded
            for recorded in reading.references
        ]
        address = reading.documents[0].address if reading.documents else opened.address
        head = PageRead(opened.source, address, title, 0, tuple(reading.flaws))
        yield from self._page(head, references, number, is_record=True)

    def _page(
        self,
        head: PageRead,
        references: list[Reference],
        number: int,
        rights: Mapping[str, Rights] = _NOTHING_SAID,
        *,
        is_record: bool = False,
    ) -> Iterator[LookEvent]:
        """Yield a page and its images: ``head`` with their count, and each with its candidates, guesses proved."""
        full = self.order.full is not False
        grouped = group(references, source=head.source, title=head.title, first_number=number)
        images = mark(resolve(image, full=full) for image in grouped)
        if rights:
            images = [replace(image, rights=self._heeded(image, rights)) for image in images]
        images = [sift(image, self.order.criteria, early=True) for image in images]
        if full and not is_record:
            # Nothing is asked of pictures that are out already.
            larger = {image.number: image for image in self._enlarge([image for image in images if image.is_picked])}
            images = [larger.get(image.number, image) for image in images]
        yield replace(head, images=len(images))
        yield from map(Found, self._sift(images))

    def _heeded(self, image: Image, rights: Mapping[str, Rights]) -> Rights:
        """Return what is said of the use of one picture, of it alone or of all on its page."""
        of_page = rights.get(image.shown.page, _NOTHING)
        own = next((rights[r.url] for r in image.references if r.url in rights), _NOTHING)
        bar = of_page.bar if self.order.manners.robots else ""
        return replace(of_page, bar=bar, credit=own.credit, licence=own.licence or of_page.licence)

    def _enlarge(self, images: list[Image]) -> list[Image]:
        """Return ``images`` with their larger versions sought and proved."""
        images = contest(images, self.probes, self.lessons)
        images = prove(images, self.probes, self.lessons, self.order.rules)
        if not self.order.through:
            return images
        levels, target = self.order.through, self.order.target
        return follow(images, self.fetcher, self.probes, self.lessons, levels=levels, target=target)

    def _sift(self, images: list[Image]) -> list[Image]:
        """Return ``images`` with all verdicts; what is undecided is settled by its first bytes, in one batch."""
        criteria, sort = self.order.criteria, self.order.choice.sort
        images = [sift(self.probes.measured(image), criteria) if image.is_picked else image for image in images]
        wanted = {image.number for image in images if image.is_picked and sort.is_unknown_of(image)}
        if self.order.measures_all:
            wanted |= {image.number for image in images if image.is_picked and image.best.measures.width is None}
        if self.order.unsure is Unsure.SETTLE and criteria.needs_size:
            wanted |= {image.number for image in images if image.is_undecided}
        if wanted:
            self.probes.read({image.url: image.shown.page for image in images if image.number in wanted})
            images = [
                sift(self.probes.measured(image), criteria) if image.number in wanted else image for image in images
            ]
        return [settle(image, self.order.unsure) for image in images]

    def _survey(self, opened: Opened, document: Document, fetcher: Fetcher | None = None) -> tuple[Page, Survey]:
        """Read one document and all that it is made of."""

        def read(base: str) -> tuple[Page, Survey]:
            page = read_document(
                document.octets,
                source=opened.source,
                address=document.address,
                charset=document.charset,
                base=base,
                fields=document.fields,
            )
            known = (original_address(page), page.base)
            if opened.folder is not None and any(is_web(url) and not names_private(url) for url in known):
                self.brought.strangers.add(page.address)
            return page, survey(
                page,
                fetcher or self.fetcher,
                frames=self.order.frames,
                asked=self.order.asked,
                region=self.order.region,
            )

        page, surveyed = read(self.base)
        if self.base or opened.kind is not Kind.PAGE or opened.folder is None:
            return page, surveyed
        # Saved without its pictures, a page's relative addresses mean the place that it came from.
        original = original_address(page)
        if original and not any(self.brought.has_file(reference.url) for reference in surveyed.references):
            return read(original)
        return page, surveyed


def named(events: Iterator[LookEvent], naming: Naming) -> Iterator[LookEvent]:
    """Yield ``events``, picks with the names that ``pack`` would give in an empty crate: equal ones numbered."""
    taken: dict[str, int] = {}
    given: dict[str, str] = {}
    for event in events:
        if not isinstance(event, Found) or not event.image.is_picked:
            yield event
            continue
        image = event.image
        if image.url not in given:
            name = naming.spell(image)
            k = taken[key(name)] = taken.get(key(name), 0) + 1
            given[image.url] = name if k == 1 else naming.spell(image, k)
        yield Found(image, given[image.url])
