"""Look: sources to pages to references to images, with their candidates and names-to-be. Keeps no picture."""

import itertools
from collections.abc import Generator, Iterator, Mapping
from dataclasses import field
from functools import partial

from pickcrate.addresses import absolute, brief, is_web
from pickcrate.errors import PickCrateError, SourceError, UsageError
from pickcrate.fetch.brought import Brought, BroughtOnly
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.fetch.private import names_private
from pickcrate.frozen import frozen, replace
from pickcrate.fullsize import resolve
from pickcrate.fullsize.proof import Lessons
from pickcrate.group import group
from pickcrate.items.entries import entries
from pickcrate.items.pager import next_page
from pickcrate.read.addresslist import read_addresses
from pickcrate.read.document import original_address, read_document, saved
from pickcrate.read.reading import Document, Reading
from pickcrate.read.recognise import LISTS, Kind
from pickcrate.run.contest import contest
from pickcrate.run.entering import OnList, enter_items
from pickcrate.run.events import Found, ListOpened, LookEvent, PageRead, RowRefused, SourceFailed
from pickcrate.run.following import follow
from pickcrate.run.further import Known, Listing, further_pages, is_list
from pickcrate.run.order import Order
from pickcrate.run.pages import page_request
from pickcrate.run.probes import Probes
from pickcrate.run.proving import prove
from pickcrate.run.readings import loaded, read_source
from pickcrate.run.sources import Opened, open_source, opened_reply
from pickcrate.run.surveying import Survey, survey
from pickcrate.run.together import lists_first, order_documents
from pickcrate.sift import settle, sift
from pickcrate.sift.furniture import is_plain, mark
from pickcrate.values import Asker, Flaw, Image, Page, Reference, Rights, Trust, Unsure
from pickcrate.wanted import NOWHERE, Region

_NOTHING = Rights()
_OF_PAGES = frozenset((Kind.PAGE, Kind.PACKAGE, Kind.LOG, Kind.ARCHIVE))
"""sources that may hold further pages of a list"""

_MOST_FURTHER = 1_000
_ROWS_AT_A_TIME = 256
_PAGES_AT_A_TIME = 16


def look(order: Order, fetcher: Fetcher, brought: Brought) -> Iterator[LookEvent]:
    """Yield what is found, source by source.

    With a single source its error is raised; with several it is an event, and SourceError is raised at the end only
    if none could be read.
    """
    looking = _Looking(order, _base(order), fetcher, brought)
    number, read = 1, 0
    for source in order.sources:
        listed = Known() if order.items else None
        try:
            pages = open_source(source, fetcher, brought, order.manners.max_file)
            for opened in lists_first(pages) if order.items else pages:
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


@frozen
class _Looking:
    """One run's looking: its order, and what it reads through."""

    order: Order
    base: str
    fetcher: Fetcher
    brought: Brought
    lessons: Lessons = field(default_factory=Lessons)
    probes_of: dict[Trust, Probes] = field(default_factory=dict)
    is_inside: bool = False
    """whether it is a record that is looked at, which has what it has: nothing else is asked for"""

    def into(self, opened: Opened, number: int, level: int = 0, listed: Known | None = None) -> Iterator[LookEvent]:
        """Yield what one opened source holds, its images numbered from ``number``.

        ``level`` is how many sources deep it was found. What its other pages have shown already, if they are to be
        taken together, is ``listed``.
        """
        if listed is not None and listed.has_read(opened.address):
            return
        if opened.kind in LISTS:
            yield from self._into_list(opened, number)
            return
        reading = read_source(opened, self.order.manners.max_file, self.brought)
        if reading.bodies:
            if not opened.trust.source:
                opened = replace(opened, trust=self.brought.enter(opened.trust))
            self.brought.hold(opened.trust, reading.bodies)
        if self.order.items:
            order_documents(reading)
        if reading.complete:
            fetcher = BroughtOnly(self.brought, self.order.manners.max_file)
            self._probes(opened)  # sizes may be asked for, as those of a record's pictures always are
            yield from replace(self, fetcher=fetcher, is_inside=True).into_record(opened, reading, number)
            return
        known: set[str] = set()
        for event in self._into_documents(opened, reading, number, listed, known):
            number += isinstance(event, Found)
            yield event
        is_letter = opened.is_own and opened.kind is Kind.MESSAGE  # others write those
        trust = opened.trust.fallen() if is_letter else opened.trust
        rest = [replace(reference, trust=trust) for reference in reading.references if reference.url not in known]
        if rest or reading.flaws or not (reading.documents or reading.further):
            head = PageRead(opened.source, opened.address, "", 0, tuple(reading.flaws), opened.kind)
            for event in self._page(head, Survey(rest), number, self._probes(opened)):
                number += isinstance(event, Found)
                yield event
        if reading.further and level < self.order.frames:
            yield from self._into_further(opened, reading.further, number, level)

    def _into_documents(
        self, opened: Opened, reading: Reading, number: int, listed: Known | None, known: set[str]
    ) -> Iterator[LookEvent]:
        """Yield what the pages of a source hold, and note the addresses in ``known``."""
        filenames = {reference.url: reference.filename for reference in reading.references if reference.filename}
        for document, octets in loaded(reading):
            if listed is not None and listed.has_read(document.address):
                continue
            head, surveyed = self._survey(opened, document, octets)
            surveyed.references = [_with_filename(reference, filenames) for reference in surveyed.references]
            known.update(reference.url for reference in surveyed.references)
            head = replace(head, flaws=(*reading.flaws, *head.flaws))
            reading.flaws.clear()
            for event in self._into_list_from(opened, document, octets, (head, surveyed), number, listed or Known()):
                if isinstance(event, Found):
                    number += 1
                    known.update(reference.url for reference in event.image.references)
                yield event

    def _into_list_from(
        self,
        opened: Opened,
        document: Document,
        octets: bytes,
        read: tuple[PageRead, Survey],
        number: int,
        listed: Known,
    ) -> Iterator[LookEvent]:
        """Yield what a page holds that was read, and the further pages of the list that begins on it."""
        head, surveyed = read
        for event in self._page(head, surveyed, number, self._probes(opened), listed=listed):
            number += isinstance(event, Found)
            yield event
        if self.order.next_pages and opened.kind in _OF_PAGES:
            first = replace(opened, octets=octets, address=document.address)
            listing = Listing(first, surveyed.next_page, number, listed)
            yield from further_pages(listing, self.order.next_pages, self.fetcher, self._next_page)

    def _next_page(self, opened: Opened, number: int, listed: Known) -> Generator[LookEvent, None, str]:
        """Yield what one further page of a list holds; return where the list goes on."""
        document = Document(lambda: opened.octets, opened.address, opened.fields)
        head, surveyed = self._survey(opened, document, opened.octets)
        yield from self._page(head, surveyed, number, self._probes(opened), listed=listed)
        return surveyed.next_page

    def _probes(self, opened: Opened) -> Probes:
        """Return what is known of first bytes on behalf of a source: another may have other bytes for an address."""
        return self.probes_of.setdefault(opened.trust, Probes(self.fetcher))

    def _into_further(self, opened: Opened, urls: list[str], number: int, level: int) -> Iterator[LookEvent]:
        """Yield what the sources hold that a source leads to: the sitemaps of an index."""
        asker = Asker(opened.address, opened.trust)
        requests = [
            Request(url, referer=asker.page, trust=asker.trust, asks_anew=True)
            for url in dict.fromkeys(urls[:_MOST_FURTHER])
        ]
        replies = {r.request.url: r for r in self.fetcher.fetch(requests) if isinstance(r, Reply)}
        for request in requests:
            try:
                further = opened_reply(brief(request.url), replies[request.url], self.order.manners.max_file)
                for event in self.into(further, number, level + 1):
                    number += isinstance(event, Found)
                    yield event
            except PickCrateError as error:
                yield SourceFailed(brief(request.url), error)

    def _into_list(self, opened: Opened, number: int) -> Iterator[LookEvent]:
        columns = dict(self.order.columns)
        rows: Iterator[Image | Flaw]
        if opened.kind is Kind.ADDRESSES and not columns:
            yield ListOpened(opened.source)
            rows = read_addresses(opened.lines(), source=opened.source, trust=opened.trust, first_number=number)
        else:
            from pickcrate.read.table import open_csv, open_json_lines, read_rows

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
            probes = self._probes(opened)
            sifted = iter(self._sift(self._enlarge(images, probes) if self.order.full else images, probes))
            for row in batch:
                yield RowRefused(opened.source, row) if isinstance(row, Flaw) else Found(next(sifted))

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

    def into_record(self, opened: Opened, reading: Reading, number: int) -> Iterator[LookEvent]:
        """Yield the pictures of a record of what was loaded, with the words that its pages have for them.

        If its lists are to be gone through, what they lead to comes first, as far as the record has it.
        """
        said: dict[str, Reference] = {}
        title = ""
        listed, shown = Known(), set[str]()
        known = {recorded.url for recorded in reading.references}
        for document, octets in loaded(reading):
            if listed.has_read(document.address):
                continue
            page, surveyed = self._survey(opened, document, octets)
            title = title or page.title
            if surveyed.entries or surveyed.next_page:
                of_record = [r for r in surveyed.references if r.url in known or r.url.startswith("data:")]
                read = page, replace(surveyed, references=of_record)
                for event in self._into_list_from(opened, document, octets, read, number, listed):
                    if isinstance(event, Found):
                        number += 1
                        shown.update(reference.url for reference in event.image.references)
                    yield event
            for reference in surveyed.references:
                known_so = said.get(reference.url)
                if known_so is None or (reference.is_on_page and not known_so.is_on_page):
                    said[reference.url] = reference
        drawn = [r for r in said.values() if r.url.startswith("data:") and r.url not in known]
        # What stands in a page itself was never asked for.
        recorded = [r for r in (*reading.references, *drawn) if r.url not in shown]
        references = [
            replace(said.get(reference.url, reference), cluster=cluster, trust=opened.trust)
            for cluster, reference in enumerate(recorded)
        ]
        if shown and not recorded:
            return
        address = reading.documents[0].address if reading.documents else opened.address
        head = PageRead(opened.source, address, title, 0, tuple(reading.flaws), opened.kind)
        yield from self._page(head, Survey(references), number, self._probes(opened), has_lists=False)

    def _page(
        self,
        head: PageRead,
        surveyed: Survey,
        number: int,
        probes: Probes,
        *,
        has_lists: bool = True,
        listed: Known | None = None,
    ) -> Iterator[LookEvent]:
        """Yield a page and its images: ``head`` with their count, and each with its candidates, guesses proved.

        What other pages of its list have shown already is ``listed``, and left out.
        """
        pages = [self._images(head, surveyed, number, listed)]
        entered = None
        listed = listed if listed is not None else Known()
        if self.order.items > len(listed.items) and has_lists:
            limit = self.order.items - len(listed.items)
            asker = Asker(head.address, surveyed.trust)
            on_list = OnList(pages[0], surveyed.entries, asker, head.source, number, listed.beside_items, listed.items)
            if self.is_inside:
                on_list = replace(on_list, may_be_read=partial(self.brought.holds, trust=surveyed.trust))
            entered = yield from enter_items(on_list, limit, self.fetcher, partial(self._item_page, head.title))
            yield from entered.failures
            pages = [self._sifted_early(images) for images in (entered.images, *entered.pages)]
        if self.order.full is not False and not self.is_inside:
            # Nothing is asked of pictures that are out already.
            drops = not self.order.criteria.furniture
            all_of = itertools.chain.from_iterable(pages)
            picked = [image for image in all_of if image.is_picked and not (drops and is_plain(image))]
            larger = {image.number: image for image in self._enlarge(picked, probes)}
            pages = [mark(larger.get(image.number, image) for image in images) for images in pages]
        found = list(itertools.chain.from_iterable(pages))
        yield replace(head, images=len(found))
        yield from map(Found, self._sift(found, probes))
        if entered is not None:
            yield entered.summary

    def _images(self, head: PageRead, surveyed: Survey, number: int, listed: Known | None) -> list[Image]:
        """Return the images of one page, with what is known of them before anything more is asked for."""
        grouped = group(surveyed.references, source=head.source, title=head.title, first_number=number)
        if listed is not None:
            grouped = listed.new(grouped, number)
        images = mark(resolve(image, full=self.order.full is not False) for image in grouped)
        if surveyed.rights:
            images = [replace(image, rights=self._heeded(image, surveyed.rights)) for image in images]
        return self._sifted_early(images)

    def _sifted_early(self, images: list[Image]) -> list[Image]:
        return [sift(image, self.order.criteria, early=True) for image in images]

    def _item_page(self, list_title: str, opened: Opened, number: int) -> list[Image]:
        """Return the images of an item's own page; the part that was asked for, and the title, are the list's.

        A crate is named after the list, whichever item comes first today.
        """
        document = Document(lambda: opened.octets, opened.address, opened.fields)
        head, surveyed = self._survey(opened, document, opened.octets, region=NOWHERE)
        return self._images(replace(head, title=list_title), surveyed, number, None)

    def _heeded(self, image: Image, rights: Mapping[str, Rights]) -> Rights:
        """Return what is said of the use of one picture, of it alone or of all on its page."""
        of_page = rights.get(image.shown.page, _NOTHING)
        own = next((rights[r.url] for r in image.references if r.url in rights), _NOTHING)
        bar = of_page.bar if self.order.manners.robots else ""
        return replace(of_page, bar=bar, credit=own.credit, licence=own.licence or of_page.licence)

    def _enlarge(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with their larger versions sought and proved."""
        images = contest(images, probes, self.lessons)
        images = prove(images, probes, self.lessons, self.order.rules)
        if not self.order.through:
            return images
        return follow(images, self.fetcher, probes, self.lessons, self.order.onward)

    def _sift(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with all verdicts; what is undecided is settled by its first bytes, in one batch."""
        criteria, sort = self.order.criteria, self.order.choice.sort
        images = [sift(probes.measured(image), criteria) if image.is_picked else image for image in images]
        wanted = {image.number for image in images if image.is_picked and sort.is_unknown_of(image)}
        if self.order.measures_all or self.order.browsing.is_on:
            unmeasured = (image for image in images if image.is_picked and image.best.measures.width is None)
            wanted |= {image.number for image in unmeasured if self.order.measures_all or self._is_at_hand(image)}
        if self.order.unsure is Unsure.SETTLE and criteria.needs_size:
            wanted |= {image.number for image in images if image.is_undecided}
        if wanted:
            probes.read({image.url: image.best_asker for image in images if image.number in wanted})
            images = [sift(probes.measured(image), criteria) if image.number in wanted else image for image in images]
        return [settle(image, self.order.unsure) for image in images]

    def _is_at_hand(self, image: Image) -> bool:
        return self.brought.holds(image.url, image.best_asker.trust)

    def _survey(
        self,
        opened: Opened,
        document: Document,
        octets: bytes,
        fetcher: Fetcher | None = None,
        region: Region | None = None,
    ) -> tuple[PageRead, Survey]:
        """Read one document and all that it is made of; whatever makes us trip there costs that document alone."""
        try:
            where = self.order.criteria.region if region is None else region
            page, surveyed = self._read_document(opened, document, octets, fetcher or self.fetcher, where)
        except PickCrateError:
            raise
        except Exception as error:  # noqa: BLE001 (a page may be made to trip up any code)
            words = f"this page could not be read: {type(error).__name__}: {str(error)[:200]}"
            return PageRead(opened.source, document.address, "", 0, (Flaw("page", words),), opened.kind), Survey()
        if opened.loaded is not None:
            surveyed.add_loaded(opened.loaded)
        head = PageRead(
            opened.source,
            page.address,
            page.title,
            0,
            tuple(surveyed.flaws),
            opened.kind,
            opened.age,
            tuple(surveyed.passed),
        )
        return head, surveyed

    def _read_document(
        self, opened: Opened, document: Document, octets: bytes, fetcher: Fetcher, region: Region
    ) -> tuple[Page, Survey]:
        page = read_document(
            octets,
            source=opened.source,
            address=document.address,
            base=self.base,
            fields=document.fields,
            trust=opened.trust,
        )
        if opened.is_own and (opened.kind is Kind.MESSAGE or _is_of_the_web(page)):
            page = replace(page, trust=page.trust.fallen())
        if not self.base and opened.kind in {Kind.PAGE, Kind.PACKAGE}:
            page = saved(page, partial(self.brought.holds, trust=opened.trust))
        order = self.order
        surveyed = survey(page, fetcher, frames=order.frames, asked=order.asked, region=region)
        if order.items or order.next_pages:
            surveyed.entries = entries(page)
        if order.next_pages and ((of_several := is_list(surveyed.references)) or surveyed.entries):
            surveyed.next_page = next_page(page, is_list=of_several)
        return page, surveyed


def _with_filename(reference: Reference, filenames: Mapping[str, str]) -> Reference:
    """Return a reference with the name that its source has for the file, where it has one."""
    name = filenames.get(reference.url)
    return replace(reference, filename=name) if name else reference


def _is_of_the_web(page: Page) -> bool:
    """Tell whether a page from disk says that it was saved from the public web: it is trusted no more than that."""
    known = (page.address, original_address(page), page.base)
    return any(is_web(url) and not names_private(url) for url in known)
