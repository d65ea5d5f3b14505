"""Survey: one page with all that it is made of. Sheets, frames and manifests are asked for in rounds, one batch each.

A round costs as long as its slowest answer, so the whole takes as long as the longest chain: a page, its sheet, the
sheet that it imports.
"""

import itertools
from collections.abc import Iterable, Iterator

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import absolute, brief, path_of, site
from pickcrate.errors import PickCrateError
from pickcrate.fetch.exchange import Failure, Fetcher, Reply, Request
from pickcrate.finders import find
from pickcrate.finders.fetched import data_files, names_pictures
from pickcrate.finders.passed import passed_in_sheet, passed_over
from pickcrate.finders.place import INLINE_SCRIPTS
from pickcrate.finders.region import elements_of
from pickcrate.finders.style.css import StyleSheet, find_in_sheet
from pickcrate.finders.style.effort import Effort
from pickcrate.items import itemised
from pickcrate.read.data.pyramid import read_tiles
from pickcrate.read.fields.contenttype import content_type
from pickcrate.read.pages.document import read_document, saved
from pickcrate.read.pages.sheet import decode_sheet
from pickcrate.read.reading import Loaded
from pickcrate.read.recognise import Kind, recognise
from pickcrate.run.survey.asking import MOST_OF_A_PART, PAGE_ACCEPT
from pickcrate.run.survey.pages import photo_reference, read_page
from pickcrate.values.cause import Cause
from pickcrate.values.claims import Rights
from pickcrate.values.findings import Finding, Hiding, Need, NeedKind, PassedOver, Piece
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import NO_ITEM, Item, NextPage
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference
from pickcrate.values.trust import PUBLIC, Trust
from pickcrate.values.wanted import NOWHERE, Asked, Region

_MOST_DOCUMENTS = 400
_MOST_ROUNDS = 12
_MOST_ANSWERS = 8
_MOST_HELD = 64_000_000
_MOST_TAGS = 1_000_000
"""What the parts of one page may come to, in bytes; and tags of all its frames."""

_NO_ROOM = Failure(Cause.SIZE, f"left out: the parts of its page come to more than {_MOST_HELD // 1_000_000} MB")
_ACCEPT = {
    NeedKind.SHEET: "text/css,*/*;q=0.1",
    NeedKind.FRAME: PAGE_ACCEPT,
    NeedKind.OEMBED: "application/json,*/*;q=0.5",
    NeedKind.DATA: "application/json,*/*;q=0.5",
    NeedKind.SCRIPT: "text/javascript,*/*;q=0.1",
    NeedKind.TILES: "application/xml,application/ld+json,application/json,*/*;q=0.5",
    NeedKind.IIIF: "application/ld+json,application/json,*/*;q=0.5",
    NeedKind.MANIFEST: "application/manifest+json,application/json,*/*;q=0.5",
}

_SAY_THEMSELVES = frozenset((FoundIn.IIIF, FoundIn.VIEWER))
"""where pictures were found that say themselves what they belong to, and stand in no element"""

_WHOLE_PAGES, _LONGEST_OPENING = (b"<!doctype", b"<html", b"<?xml"), 20
"""how what is no piece of a page begins"""

_OFFERED = frozenset((NeedKind.OEMBED, NeedKind.IIIF, NeedKind.DATA, NeedKind.TILES, NeedKind.SCRIPT))
"""what a page offers to programs: it is followed on our own, and nothing is amiss without it"""


class _Want(Struct, frozen=True):
    """A need with the page that has it, how many frames deep that page is, and whether it lies in the region."""

    need: Need
    page: Page
    level: int
    is_inside: bool = True


class Survey(Struct):
    """What a page and all that it is made of refer to, in the order of reading."""

    references: list[Reference] = field(default_factory=list)
    flaws: list[Flaw] = field(default_factory=list)
    trust: Trust = PUBLIC
    """of the page"""
    rights: dict[str, Rights] = field(default_factory=dict)
    """what is said of the use of pictures, by the addresses of their pages or by their own"""
    entries: list[Item] = field(default_factory=list)
    """the entries of the list that the page is, of which it may show no pictures, if that was asked for"""
    unasked: int = 0
    """how many entries there are, if that was not asked for, and the page shows few pictures"""
    folders: int = 0
    """how many folders there are in a listing of files, if that was not asked for"""
    next_page: NextPage | None = None
    """where the list on the page goes on, if that was asked for and it does"""
    answers: list[Page] = field(default_factory=list)
    """the data that names pictures of the page, each as a page of its own: a list may go on in one"""
    passed: list[PassedOver] = field(default_factory=list)
    """where an address that somebody asks about is mentioned, and is no picture"""

    def add_loaded(self, loaded: Loaded) -> None:
        """Add what a browser loaded for a page and its markup does not have, or no more, and what it has to say."""
        known = {reference.url for reference in self.references}
        last = max((reference.cluster for reference in self.references), default=0)
        more = [picture for picture in loaded.pictures if picture.url not in known]
        self.references += [replace(picture, cluster=last + place) for place, picture in enumerate(more, 1)]
        self.flaws += loaded.flaws


def survey(page: Page, fetcher: Fetcher, *, frames: int, asked: Asked, region: Region = NOWHERE) -> Survey:
    """Return all references of ``page``, following frames ``frames`` levels deep. What cannot be had is a flaw.

    Raises what ``elements_of`` raises for a region that the page does not have.
    """
    surveying = _Surveying(fetcher, frames, asked, elements_of(page, region) if region else None)
    surveying.result.trust = page.trust
    waiting = surveying.take_page(page, 0)
    for _ in range(_MOST_ROUNDS):
        if not waiting:
            break
        waiting = surveying.round(waiting)
    if waiting or surveying.left_out:
        words = f"the page is made of more than {_MOST_DOCUMENTS} documents, or of too large ones: the rest is left out"
        surveying.result.flaws.append(Flaw("size", words))
    if not surveying.result.references:
        from pickcrate.run.survey.barred import bars  # noqa: PLC0415 (most pages show something)

        surveying.result.flaws.extend(bars(page))
    surveying.mark_hidden()
    surveying.itemise()
    return surveying.result


class _Surveying:
    """One page's survey on its way."""

    def __init__(self, fetcher: Fetcher, frames: int, asked: Asked, inside: frozenset[int] | None) -> None:
        self.result = Survey()
        self._inside = inside
        self._hidden: set[int] = set()
        self._pages: list[Page] = []
        self._pieces: dict[int, tuple[Piece, ...]] = {}
        self._places: dict[int, list[int]] = {}
        self.left_out = 0
        self._fetcher = fetcher
        self._frames = frames
        self._asked = asked
        self._numbers = itertools.count()
        self._effort = Effort()
        self._room = _MOST_HELD
        self._tags = _MOST_TAGS
        self._replies: dict[str, Reply] = {}
        self._seen: set[tuple[NeedKind, str, str]] = set()

    def round(self, waiting: list[_Want]) -> list[_Want]:
        """Read what is waited for, in one batch, and return what that needs in its turn."""
        new = {want.need.url: want for want in waiting if want.need.url not in self._replies}
        room = _MOST_DOCUMENTS - len(self._replies)
        self.left_out += max(0, len(new) - room)
        for reply in self._fetcher.fetch(_requests(list(new.values())[:room])):
            if isinstance(reply, Reply):
                self._replies[reply.request.url] = self._within_room(reply)
        return [wanted for want in waiting for wanted in self._read_guarded(want)]

    def _within_room(self, reply: Reply) -> Reply:
        """Return a reply, without its body if that is more than may still be held of one page's parts."""
        self._room -= len(reply.octets)
        return reply if self._room >= 0 else replace(reply, octets=b"", failure=_NO_ROOM)

    def _read_guarded(self, want: _Want) -> list[_Want]:
        """Read one part; whatever it makes us trip over costs that part and no more."""
        try:
            return self._read(want)
        except PickCrateError:
            raise
        except Exception as error:  # noqa: BLE001 (a page may be made to trip up any code)
            words = f"{want.need.kind.value} {brief(want.need.url)} could not be read: {type(error).__name__}: {error}"
            self.result.flaws.append(Flaw(want.need.kind.value, words[:300]))
            return []

    def take_page(self, page: Page, level: int, *, is_inside: bool = True) -> list[_Want]:
        """Take what is found in a page that is ``level`` frames deep; return what it needs.

        A page in a frame lies in the region if its frame does.
        """
        self._pages.append(page)  # as long as it lives, no element of another page has a number of its elements
        if page.rights != Rights():
            self.result.rights[page.address] = page.rights
        self.result.rights.update(page.picture_rights)
        findings = find(page, self._numbers, self._asked)
        self._pieces[id(page)] = findings.pieces
        self._hidden |= findings.hidden
        self.result.flaws.extend((*page.flaws, *findings.flaws))
        if self._asked.sought:
            self.result.passed.extend(passed_over(page, self._asked.sought))
        return self._take((*findings.references, *findings.needs), page, level, is_inside)

    def mark_hidden(self) -> None:
        """Mark what stands in elements that a sheet keeps from being shown."""
        if self._hidden:
            self.result.references = [
                replace(reference, hidden=True)
                if not reference.hidden and reference.anchors and self._hidden.issuperset(reference.anchors)
                else reference
                for reference in self.result.references
            ]

    def itemise(self) -> None:
        """Tell of each reference which item of its page it belongs to, and under which heading."""
        references = self.result.references
        for page in self._pages:
            places = self._places.get(id(page), [])
            try:
                told = itemised(page, [references[place] for place in places], self._pieces[id(page)])
            except Exception as error:  # noqa: BLE001 (a page may be made to trip up any code)
                words = f"the items of the page could not be told: {type(error).__name__}: {str(error)[:200]}"
                self.result.flaws.append(Flaw("items", words))
                continue
            for place, reference in zip(places, told, strict=True):
                references[place] = reference

    def _read(self, want: _Want) -> list[_Want]:
        kind, reply = want.need.kind, self._replies.get(want.need.url)
        if reply is None:
            return []
        if reply.failure is not None and kind in _OFFERED:  # what most sites offer says nothing of pictures
            return []
        if reply.failure is not None:
            url, why = want.need.url, reply.failure.words
            self.result.flaws.append(Flaw(kind.value, f"{kind.value} {brief(url)}: {why}", site(url), why))
            return []
        if kind in _OFFERED and kind is not NeedKind.OEMBED:
            return self._take(self._of_offered(kind, reply, want.page), want.page, want.level, want.is_inside)
        if kind is not NeedKind.FRAME:
            part = _part(want, reply, self._numbers, self._effort)
            if self._asked.sought and kind is NeedKind.SHEET:
                self.result.passed.extend(passed_in_sheet(_sheet(want, reply, self._effort), self._asked.sought))
            return self._take(part, want.page, want.level, want.is_inside)
        self._tags -= reply.octets.count(b"<")
        if self._tags < 0:
            self.left_out += 1
            return []
        inner = read_page(reply, source=want.page.source)
        if inner is None:
            return []
        if want.page.beside is not None:
            inner = saved(inner, want.page.beside)
        return self.take_page(inner, want.level + 1, is_inside=want.is_inside)

    def _of_offered(self, kind: NeedKind, reply: Reply, page: Page) -> Iterable[Finding]:
        """Return what stands in something that a page offers to programs."""
        match kind:
            case NeedKind.IIIF:
                return self._of_manifest(reply, page)
            case NeedKind.TILES:
                return self._of_tiles(reply, page)
            case NeedKind.SCRIPT:
                return self._of_script(reply, page)
            case _:
                return self._of_data(reply, page)

    def _of_data(self, reply: Reply, page: Page) -> Iterator[Reference]:
        """Yield the pictures that a file of data names, or a piece of a page; what those lead to is not followed.

        A whole page is no piece of another: an attribute may name the next one.
        """
        from pickcrate.items.data.answers import page_of_answer  # noqa: PLC0415 (few pages need it)
        from pickcrate.read.anydata import json_of  # noqa: PLC0415
        from pickcrate.read.data.datafile import DATA_FIELDS, as_page  # noqa: PLC0415

        data = json_of(reply.octets, path_of(reply.url))
        begins = reply.octets.lstrip()[:_LONGEST_OPENING].lower()
        if data is None and (not begins.startswith(b"<") or begins.startswith(_WHOLE_PAGES)):
            return
        markup = page_of_answer(data.decode("utf-8", "replace")) if data is not None else ""
        document = reply.octets if data is None else markup.encode("utf-8", "replace") or as_page(data)
        # A script puts an address into the page, whose base it is relative to, wherever the data came from.
        where = {"source": page.source, "address": reply.url, "base": page.base}
        inner = read_document(document, **where, fields=DATA_FIELDS, trust=reply.trust)
        found = self._references_of(inner)
        if found and len(self.result.answers) < _MOST_ANSWERS:
            self.result.answers.append(replace(inner, base=reply.url, link_field=reply.headers.get("link", "")))
        yield from found

    def _references_of(self, inner: Page) -> list[Reference]:
        """Return the references in a document that is no part of the page as it is shown, with their items."""
        findings = find(inner, self._numbers)
        return itemised(inner, findings.references, findings.pieces)

    def _of_script(self, reply: Reply, page: Page) -> Iterator[Finding]:
        """Yield the files of data that a script names, and its pictures if it is a list of them.

        Addresses are the page's, and what it has only parts of, as names without their folder, may be put together by
        the page's other scripts.
        """
        from pickcrate.read.data.datafile import DATA_FIELDS, as_script_page  # noqa: PLC0415 (few pages need it)

        script = reply.octets.decode("utf-8", "replace")
        yield from data_files(page, script)
        if not names_pictures(script):
            return
        document = as_script_page([script, *(node.text() for node in page.tree.css(INLINE_SCRIPTS))])
        where = {"source": page.source, "address": page.address, "base": page.base}
        inner = read_document(document, **where, fields=DATA_FIELDS, trust=reply.trust)
        yield from self._references_of(inner)

    def _of_tiles(self, reply: Reply, page: Page) -> Iterator[Reference]:
        """Yield the picture in tiles that a description is of."""
        if recognise(reply.octets) is Kind.IIIF:
            yield from self._of_manifest(reply, page)
        elif recognise(reply.octets) is Kind.TILES:
            for reference in read_tiles(reply.octets, reply.url).references:
                yield replace(reference, cluster=next(self._numbers), page=page.address, trust=reply.trust)

    def _of_manifest(self, reply: Reply, page: Page) -> Iterator[Reference]:
        """Yield the pictures of an IIIF manifest, each with the item that it is there."""
        from pickcrate.read.data.iiif import read_iiif  # noqa: PLC0415 (few pages need it)

        if recognise(reply.octets) is not Kind.IIIF:
            return
        reading = read_iiif(reply.octets, reply.url)
        self.result.rights.update(reading.rights)
        clusters: dict[int, int] = {}
        for reference in reading.references:
            if reference.cluster not in clusters:
                clusters[reference.cluster] = next(self._numbers)
            yield replace(reference, cluster=clusters[reference.cluster], page=page.address, trust=reply.trust)

    def _take(self, found: Iterable[Finding], owner: Page, level: int, is_inside: bool) -> list[_Want]:
        wanted: list[_Want] = []
        for item in found:
            if isinstance(item, Hiding):
                self._hidden |= item.anchors
                continue
            anchors = item.anchors if isinstance(item, Reference) else (item.anchor,)
            lies_inside = is_inside and (self._inside is None or level > 0 or not self._inside.isdisjoint(anchors))
            if isinstance(item, Reference):
                if item.found_in not in _SAY_THEMSELVES and item.item == NO_ITEM:
                    self._places.setdefault(id(owner), []).append(len(self.result.references))
                self.result.references.append(item if lies_inside else replace(item, is_outside=True))
                continue
            # The same sheet in another frame may select other things there.
            mark = (item.kind, item.url, owner.address if item.kind is NeedKind.SHEET else "")
            if mark not in self._seen and (item.kind is not NeedKind.FRAME or level < self._frames):
                self._seen.add(mark)
                is_frame = item.kind is NeedKind.FRAME
                wanted.append(_Want(item, owner, level, lies_inside if is_frame else is_inside))
        return wanted


def _requests(batch: Iterable[_Want]) -> Iterator[Request]:
    """Yield the requests of a round; an address that several need is asked for once."""
    for want in {want.need.url: want for want in batch}.values():
        yield Request(
            want.need.url,
            accept=_ACCEPT[want.need.kind],
            referer=want.page.address,
            trust=want.page.trust,
            # A page is shown with its sheets; a frame is a page that we follow on our own.
            named=want.need.kind not in {NeedKind.FRAME, *_OFFERED},
            most=MOST_OF_A_PART,
        )


def _sheet(want: _Want, reply: Reply, effort: Effort) -> StyleSheet:
    """Return the style sheet that came, of the page that needs it."""
    text = decode_sheet(reply.octets, content_type(reply.headers)[1], want.page.encoding)
    where = Reference("", "", want.page.address, FoundIn.CSS, reply.url, "", 0, trust=reply.trust)
    return StyleSheet(text, reply.url, want.page, where, effort)


def _part(want: _Want, reply: Reply, numbers: Iterator[int], effort: Effort) -> Iterator[Finding]:
    """Yield what a sheet or a manifest refers to."""
    page = want.page
    where = Reference("", "", page.address, FoundIn.CSS, reply.url, "", 0, trust=reply.trust)
    if want.need.kind is NeedKind.SHEET:
        yield from find_in_sheet(_sheet(want, reply, effort), numbers)
        return
    if want.need.kind is NeedKind.OEMBED:
        photo = photo_reference(reply, page.address, next(numbers))
        yield from () if photo is None else (photo,)
        return
    from pickcrate.read.pages.manifest import read_manifest  # noqa: PLC0415 (few pages need it)

    for image in read_manifest(reply.octets):
        url = absolute(image.src, reply.url)
        if url is not None:
            known = replace(where, found_in=FoundIn.META, attribute="icons", cluster=next(numbers), width=image.width)
            yield replace(known, url=url, raw=image.src[:200])
