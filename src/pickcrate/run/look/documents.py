"""Pages and records to references to images, with their candidates: what a look finds in a source that is no list."""

import itertools
from collections.abc import Callable, Generator, Iterator, Mapping
from functools import partial
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import brief, is_web
from pickcrate.errors import PickCrateError
from pickcrate.fetch.brought import BroughtOnly
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.fetch.private import names_private
from pickcrate.fullsize import resolve
from pickcrate.group import group
from pickcrate.read.data.datafile import DATA_FIELDS
from pickcrate.read.pages.document import likely_home, original_address, read_document, saved
from pickcrate.read.pages.rights import claims_of_caption, claims_of_fields
from pickcrate.read.reading import Document, Reading
from pickcrate.read.recognise import DATA, FEEDS, Kind
from pickcrate.run.events import Found, LookEvent, PageRead, SourceFailed
from pickcrate.run.look.feeds import survey_feed
from pickcrate.run.look.further import Known, Listing, further_pages
from pickcrate.run.look.listed import OF_PAGES, add_listed
from pickcrate.run.look.means import Means
from pickcrate.run.look.probes import Probes
from pickcrate.run.look.recorded import Said, answered, is_drawn
from pickcrate.run.look.repeated import each_once
from pickcrate.run.sources.opened import Opened
from pickcrate.run.sources.opening import opened_reply
from pickcrate.run.sources.readings import loaded, read_source
from pickcrate.run.sources.together import order_documents
from pickcrate.run.survey.surveying import Survey, survey
from pickcrate.sift import sift
from pickcrate.sift.furniture import doubtful, is_plain, mark
from pickcrate.values.claims import Claim, Rights
from pickcrate.values.findings import NO_BASE
from pickcrate.values.flaw import Flaw
from pickcrate.values.image import Image
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NextPage
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference
from pickcrate.values.trust import Asker
from pickcrate.values.wanted import NOWHERE, KnownItems, Region, Unsure

if TYPE_CHECKING:
    from pickcrate.run.look.entering import Entered, Held

_NOTHING = Rights()
_OF_MANY = frozenset((Kind.PACKAGE, Kind.ARCHIVE))
_WHOLE = frozenset((Kind.MESSAGE, Kind.PLIST, Kind.PDF))
"""sources that have all that they need inside, and are not the user's own work: they name no file of the disk"""

_MOST_FURTHER = 1_000


class Documents(Struct, frozen=True):
    """The documents of one run's looking."""

    means: Means
    look_into: Callable[[Opened, int, int], Iterator[LookEvent]]
    """what looks into a source that one of them leads to: with the number of its first picture, and its level"""

    def into(self, opened: Opened, number: int, level: int, listed: Known | None) -> Iterator[LookEvent]:
        """Yield what a source other than a list holds; see ``Looking.into``."""
        opened, reading = self._reading(opened)
        if opened.kind in FEEDS:
            yield from self._into_feed(opened, reading, number, level, listed or Known())
            return
        if self.means.order.items:
            order_documents(reading)
        if reading.complete:
            fetcher = BroughtOnly(self.means.brought, self.means.order.manners.max_file)
            self.means.probes(opened)  # sizes may be asked for, as those of a record's pictures always are
            inside = replace(self.means, fetcher=fetcher, is_inside=True)
            yield from Documents(inside, self.look_into).into_record(opened, reading, number)
            return
        known: set[str] = set()
        for event in self._into_documents(opened, reading, number, listed, known):
            number += isinstance(event, Found)
            yield event
        is_letter = opened.is_own and opened.kind in _WHOLE  # others write those
        trust = opened.trust.fallen() if is_letter else opened.trust
        rest = [replace(reference, trust=trust) for reference in reading.references if reference.url not in known]
        if rest or reading.flaws or not (reading.documents or reading.further):
            flaws, is_rest = tuple(reading.flaws), bool(reading.documents)
            head = PageRead(opened.source, opened.address, reading.title, 0, flaws, opened.kind, is_rest=is_rest)
            for event in self._page(head, Survey(rest, rights=reading.rights), number, self.means.probes(opened)):
                number += isinstance(event, Found)
                yield event
        if reading.further and level < self.means.order.frames:
            yield from self.into_further(opened, reading.further, number, level)

    def _reading(self, opened: Opened) -> tuple[Opened, Reading]:
        """Return what a source holds; what it brings along is held for who asks for it under the source's trust."""
        reading = read_source(opened, self.means.order.manners.max_file, self.means.brought)
        if reading.bodies:
            if not opened.trust.source:
                opened = replace(opened, trust=self.means.brought.enter(opened.trust))
            package = opened.address if opened.kind is Kind.PACKAGE else ""
            self.means.brought.hold(opened.trust, reading.bodies, package=package)
        return opened, reading

    def _into_feed(
        self, opened: Opened, reading: Reading, number: int, level: int, listed: Known
    ) -> Iterator[LookEvent]:
        """Yield what a feed or a sitemap holds, its entries taken together, and what goes on from it."""
        head, surveyed = read = self._survey_feed(opened, reading)
        if surveyed.references or head.flaws or not reading.further:
            for event in self._into_list_from(opened, read, number, listed):
                number += isinstance(event, Found)
                yield event
        if reading.further and level < self.means.order.frames:
            yield from self.into_further(opened, reading.further, number, level)

    def _survey_feed(self, opened: Opened, reading: Reading) -> tuple[PageRead, Survey]:
        def read(document: Document, octets: bytes, region: Region) -> tuple[PageRead, Survey]:
            return self._survey(opened, document, octets, region=region)

        return survey_feed(opened, reading, read, self.means.order.criteria.region)

    def _into_documents(
        self, opened: Opened, reading: Reading, number: int, listed: Known | None, known: set[str]
    ) -> Iterator[LookEvent]:
        """Yield what the pages of a source hold, and note the addresses in ``known``."""
        filenames = {reference.url: reference.filename for reference in reading.references if reference.filename}
        for document, octets in loaded(reading):
            if listed is not None and listed.has_read(document.address):
                continue
            head, surveyed = self._survey(opened, document, octets)
            urls = {one.url for one in surveyed.references}
            if document.fields is DATA_FIELDS and urls and urls <= known:  # other data has named them already
                continue
            surveyed.references = [_named(reference, filenames, document.item) for reference in surveyed.references]
            known.update(reference.url for reference in surveyed.references)
            head = replace(head, title=head.title or document.item.title, flaws=(*reading.flaws, *head.flaws))
            reading.flaws.clear()
            first = replace(opened, octets=octets, address=document.address)
            for event in self._into_list_from(first, (head, surveyed), number, listed or Known()):
                if isinstance(event, Found):
                    number += 1
                    known.update(reference.url for reference in event.image.references)
                yield event

    def _into_list_from(
        self, opened: Opened, read: tuple[PageRead, Survey], number: int, listed: Known
    ) -> Iterator[LookEvent]:
        """Yield what a page holds that was read, and the further pages of the list that begins on it."""
        head, surveyed = read
        for event in self._page(head, surveyed, number, self.means.probes(opened), listed=listed):
            number += isinstance(event, Found)
            yield event
        if self.means.order.next_pages and opened.kind in OF_PAGES:
            listing = Listing(opened, surveyed.next_page, number, listed)
            yield from further_pages(listing, self.means.order.next_pages, self.means.fetcher, self._next_page)

    def _next_page(self, opened: Opened, number: int, listed: Known) -> Generator[LookEvent, None, NextPage | None]:
        """Yield what one further page of a list holds; return where the list goes on."""
        opened, reading = self._reading(opened)
        if opened.kind in FEEDS:
            head, surveyed = self._survey_feed(opened, reading)
        else:
            head, surveyed = self._only_page(opened, reading)
        yield from self._page(head, surveyed, number, self.means.probes(opened), listed=listed)
        return surveyed.next_page

    def _only_page(self, opened: Opened, reading: Reading, region: Region | None = None) -> tuple[PageRead, Survey]:
        """Return what the page is that a source is, and holds; nothing, with the reason, where it could not be read."""
        if not reading.documents:
            return PageRead(opened.source, opened.address, "", 0, tuple(reading.flaws), opened.kind), Survey()
        (document,) = reading.documents
        return self._survey(opened, document, document.load(), region=region)

    def into_further(self, opened: Opened, urls: list[str], number: int, level: int) -> Iterator[LookEvent]:
        """Yield what the sources hold that a source leads to: the sitemaps of an index."""
        asker = Asker(opened.address, opened.trust)
        requests = [
            Request(url, referer=asker.page, trust=asker.trust, asks_anew=True)
            for url in dict.fromkeys(urls[:_MOST_FURTHER])
        ]
        replies = {r.request.url: r for r in self.means.fetcher.fetch(requests) if isinstance(r, Reply)}
        for request in requests:
            try:
                further = opened_reply(brief(request.url), replies[request.url], self.means.expected)
                for event in self.look_into(further, number, level + 1):
                    number += isinstance(event, Found)
                    yield event
            except PickCrateError as error:
                yield SourceFailed(brief(request.url), error)

    def into_record(self, opened: Opened, reading: Reading, number: int) -> Iterator[LookEvent]:
        """Yield the pictures of a record of what was loaded, with the words that its pages have for them.

        If its lists are to be gone through, what they lead to comes first, as far as the record has it.
        """
        said, title = Said(), ""
        listed, shown = Known(), set[str]()
        known = {recorded.url for recorded in reading.references}
        for document, octets in loaded(reading):
            if listed.has_read(document.address):
                continue
            page, surveyed = self._survey(opened, document, octets)
            title = title or page.title
            said.learn(surveyed.references)
            if not surveyed.entries and not (self.means.order.next_pages and surveyed.next_page):
                continue
            of_record = [r for r in surveyed.references if r.url in known or is_drawn(r)]
            read = page, replace(surveyed, references=of_record)
            first = replace(opened, octets=octets, address=document.address)
            for event in self._into_list_from(first, read, number, listed):
                if isinstance(event, Found):
                    number += 1
                    shown.update(reference.url for reference in event.image.references)
                yield event
        if (data := answered(reading)) is not None:
            said.learn(self._survey(opened, data, data.load())[1].references)
        # What is drawn in a page itself was never asked for.
        recorded = said.in_order(r for r in (*reading.references, *said.drawn(known)) if r.url not in shown)
        if shown and not recorded:
            return
        references = [
            replace(said.of(reference), cluster=cluster, trust=opened.trust)
            for cluster, reference in enumerate(recorded)
        ]
        address = reading.documents[0].address if reading.documents else opened.address
        head = PageRead(opened.source, address, title, 0, tuple(reading.flaws), opened.kind)
        yield from self._page(head, Survey(references), number, self.means.probes(opened), has_lists=False)

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
        pages = [self._images(head, surveyed, number, listed, probes)]
        listed = listed if listed is not None else Known()
        entered: Entered | None = None
        if has_lists and self.means.order.items > len(listed.items):
            entered = yield from self._entered(head, surveyed, pages[0], number, listed)
            pages = [self._sifted_early(images) for images in (entered.images, *entered.pages)]
        if self.means.order.full is not False and not self.means.is_inside:
            pages = self._with_larger(pages, probes)
        if not self.means.order.criteria.furniture and self.means.order.unsure is Unsure.SETTLE:
            pages = self._told_by_size(pages, probes)
        found = list(itertools.chain.from_iterable(pages))
        yield replace(head, images=len(found))
        sifted = each_once(self.means.sifted(found, probes))
        if self.means.order.compares_shown:
            from pickcrate.run.look.alike import without_twins  # noqa: PLC0415 (it needs NumPy)

            sifted = without_twins(sifted, self.means.fetcher)
        yield from map(Found, sifted)
        if entered is not None:
            yield entered.summary

    def _entered(
        self, head: PageRead, surveyed: Survey, images: list[Image], number: int, listed: Known
    ) -> "Generator[LookEvent, None, Entered]":
        """Yield how far it is, and what failed; return what the pages of a list's items hold."""
        from pickcrate.run.look.entering import OnList, enter_items  # noqa: PLC0415 (few looks go to items)

        asker = Asker(head.address, surveyed.trust)
        on_list = OnList(
            images,
            surveyed.entries,
            asker,
            head.source,
            number,
            beside=listed.beside_items,
            gone_to=listed.items,
            is_of_answers=head.kind in DATA,
        )
        if self.means.is_inside:
            on_list = replace(on_list, may_be_read=partial(self.means.brought.holds, trust=surveyed.trust))
        elif not self.means.order.browsing.is_on:  # what a route leads to is a script's to show
            on_list = replace(on_list, may_be_read=lambda address: "#" not in address)
        if self.means.order.known_items is KnownItems.SKIP and self.means.holdings is not None:
            lists = {brief(address) for address in (head.address, *listed.pages)}
            on_list = replace(on_list, is_known=partial(self.means.holdings.has_page, lists=lists))
        limit = self.means.order.items - len(listed.items)
        entered = yield from enter_items(on_list, limit, self.means.fetcher, partial(self._item_page, head.title))
        yield from entered.failures
        return entered

    def _with_larger(self, pages: list[list[Image]], probes: Probes) -> list[list[Image]]:
        """Return the images of pages, in place of those that are picked the largest versions that are proved."""
        drops = not self.means.order.criteria.furniture
        images = itertools.chain.from_iterable(pages)
        # Nothing is asked of pictures that are out already.
        picked = [image for image in images if image.is_picked and not (drops and is_plain(image))]
        enlarged = zip(picked, self.means.enlarge(picked, probes), strict=True)
        larger = {image.number: image for shown, image in enlarged if image is not shown}
        if not larger:
            return pages
        # Furniture is told by sizes as well.
        return [mark(larger.get(image.number, image) for image in images) for images in pages]

    def _told_by_size(self, pages: list[list[Image]], probes: Probes) -> list[list[Image]]:
        """Return the images of pages marked as furniture once more, where their size decides, and nothing said it."""
        asked = [image for images in pages for image in doubtful(images) if image.is_picked and not image.best.tiles]
        if not asked:
            return pages
        measured = self.means.known_to_crate(asked)
        asked = [image for image in asked if image.number not in measured]
        probes.read({image.url: image.best_asker for image in asked})
        measured |= {image.number: probes.measured(image) for image in asked}
        return [mark(measured.get(image.number, image) for image in images) for images in pages]

    def _images(
        self, head: PageRead, surveyed: Survey, number: int, listed: Known | None, probes: Probes
    ) -> list[Image]:
        """Return the images of one page, with what is known of them before anything is asked for."""
        full = self.means.order.full is not False
        grouped = group(
            surveyed.references, source=head.source, title=head.title, first_number=number, joins_sizes=full
        )
        if listed is not None:
            grouped = listed.new(grouped, number)
        images = mark(self.means.measured([resolve(image, full=full) for image in grouped], probes))
        if surveyed.rights or any(image.shown.words.caption or image.shown.item.columns for image in images):
            images = [replace(image, rights=self._heeded(image, surveyed.rights)) for image in images]
        return self._sifted_early(images)

    def _sifted_early(self, images: list[Image]) -> list[Image]:
        return [sift(image, self.means.order.criteria, early=True) for image in images]

    def _item_page(self, list_title: str, opened: Opened, number: int) -> "Held":
        """Return what an item's own page holds; the part that was asked for, and the title, are the list's.

        A crate is named after the list, whichever item comes first today.
        """
        from pickcrate.run.look.entering import Held  # noqa: PLC0415 (few looks go to items)

        if opened.kind is Kind.PDF:  # one that is damaged ends nothing
            opened = replace(opened, is_one_of_many=True)
        opened, reading = self._reading(opened)
        head, surveyed = self._only_page(opened, reading, NOWHERE)
        folders = [entry for entry in surveyed.entries if entry.form is ItemForm.FOLDER]
        probes = self.means.probes(opened)
        return Held(self._images(replace(head, title=list_title), surveyed, number, None, probes), folders)

    def _heeded(self, image: Image, rights: Mapping[str, Rights]) -> Rights:
        """Return what is said of the use of one picture, of it alone or of all on its page."""
        of_page = rights.get(image.shown.page, _NOTHING)
        own = itertools.chain.from_iterable(rights[r.url].claims for r in image.references if r.url in rights)
        claims = (*own, *_own_claims(image.shown), *of_page.claims)
        bar = of_page.bar if self.means.order.manners.robots else ""
        return replace(of_page, bar=bar, claims=tuple(dict.fromkeys(claims)))

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
            where = self.means.order.criteria.region if region is None else region
            page, surveyed = self._read_document(opened, document, octets, fetcher or self.means.fetcher, where)
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
            page.called,
            0,
            tuple(surveyed.flaws),
            opened.kind,
            opened.age,
            tuple(surveyed.passed),
            is_one_of_many=opened.is_one_of_many or opened.kind in _OF_MANY,
            next_page=surveyed.next_page.url if surveyed.next_page is not None else "",
            entries=surveyed.unasked,
            folders=surveyed.folders,
            likely_home=likely_home(page) if self._lacks_some(opened, surveyed) else "",
        )
        return head, surveyed

    def _lacks_some(self, opened: Opened, surveyed: Survey) -> bool:
        """Tell whether pictures of a page on disk are not beside it, or are named by what nothing can be made of."""
        if opened.kind is not Kind.PAGE or opened.is_one_of_many:
            return False
        on_disk = (reference.url for reference in surveyed.references if reference.url.startswith("file:"))
        has_no_base = any(flaw.kind == NO_BASE for flaw in surveyed.flaws)
        return has_no_base or any(not self.means.brought.holds(url, opened.trust) for url in on_disk)

    def _read_document(
        self, opened: Opened, document: Document, octets: bytes, fetcher: Fetcher, region: Region
    ) -> tuple[Page, Survey]:
        page = read_document(
            octets,
            source=opened.source,
            address=document.address,
            base=self.means.base,
            fields=document.fields,
            trust=opened.trust,
        )
        if opened.is_own and (opened.kind in _WHOLE or _is_of_the_web(page)):
            page = replace(page, trust=page.trust.fallen())
        if not self.means.base and opened.kind in {Kind.PAGE, Kind.PACKAGE}:
            page = saved(page, partial(self.means.brought.beside, trust=opened.trust))
        order = self.means.order
        surveyed = survey(page, fetcher, frames=order.frames, asked=order.asked, region=region)
        add_listed(surveyed, page, opened, self.means)
        return page, surveyed


def _own_claims(shown: Reference) -> Iterator[Claim]:
    """Yield what stands with a picture of its use: in its caption, in the fields of its item."""
    yield from claims_of_caption(shown.words.caption)
    yield from claims_of_fields(shown.item.columns)


def _named(reference: Reference, filenames: Mapping[str, str], item: Item) -> Reference:
    """Return a reference with what its source calls the file, and as of an item, if it belongs to none on its page."""
    filename = filenames.get(reference.url, "")
    item = item if reference.item == NO_ITEM else reference.item
    return replace(reference, filename=filename or reference.filename, item=item)


def _is_of_the_web(page: Page) -> bool:
    """Tell whether a page from disk says that it was saved from the public web: it is trusted no more than that."""
    known = (page.address, original_address(page), page.base)
    return any(is_web(url) and not names_private(url) for url in known)
