"""The nouns of the flow, complete once built: reference, image, candidate, measure, pick, outcome."""

from enum import Enum, StrEnum
from typing import Generic, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses import image_type
from pickcrate.cause import Cause
from pickcrate.claims import Rights
from pickcrate.evidence import AS_SHOWN, Evidence
from pickcrate.foundin import OF_LINKED_DATA, FoundIn
from pickcrate.item import NO_ITEM, Item, ItemForm
from pickcrate.media import by_media_type
from pickcrate.tiling import Level, Tiling

T = TypeVar("T")


class Grade(StrEnum):
    """How a measure is known: the page says so, the first bytes say so, or the whole file was seen."""

    DECLARED = "declared"
    PROBED = "probed"
    ACTUAL = "actual"


class Measure(Struct, Generic[T], frozen=True):
    """One measured value (pixels, bytes, or a type's name) with its grade."""

    value: T
    grade: Grade


class Measures(Struct, frozen=True):
    """What is known of one address: pixels as shown (EXIF orientation applied), bytes, type."""

    width: Measure[int] | None = None
    height: Measure[int] | None = None
    bytes: Measure[int] | None = None
    type: Measure[str] | None = None


class Flaw(Struct, frozen=True):
    """Something wrong in a page: its kind, and where or what it was. Never an exception."""

    kind: str
    detail: str
    host: str = ""
    """whose part of the page could not be had"""
    reason: str = ""
    """why it could not"""


class Trust(Struct, frozen=True):
    """What may be asked for on behalf of a source, and of all that comes of it: its pages, frames and pictures.

    It is made when the source is opened, and only ever falls on the way: what comes from the public web may reach no
    private address, whoever asked for it.
    """

    source: int = 0
    """the source whose folder and whose bytes are its own; 0 if it brought nothing along"""
    private: bool = False
    """whether private addresses may be asked"""

    def fallen(self) -> "Trust":
        """Return the same for what comes from the public web."""
        return Trust(self.source) if self.private else self


PUBLIC = Trust()


class Asker(Struct, frozen=True):
    """Who asks for an address: the page that names it, and how far that is trusted."""

    page: str
    trust: Trust


class Role(Enum):
    """What a reference is to its picture."""

    SHOWN = "shown"
    """what the page puts on the screen"""
    SIZE = "size"
    """the same picture in another size or format, as the markup itself says"""
    LAZY = "lazy"
    """what a script is to put in place of the shown one: an address in some other attribute"""
    LINK = "link"
    """an image file that the picture, or a text, links to"""


LONGEST_WORDS = 300
"""Characters kept of any one caption, heading or link text: a link may wrap a whole page."""


def fold(text: str | None) -> str:
    """Return words with white space folded, cut to LONGEST_WORDS characters."""
    return " ".join((text or "")[: 4 * LONGEST_WORDS].split())[:LONGEST_WORDS]


class Words(Struct, frozen=True):
    """The words around a picture; an empty text where there are none."""

    alt: str = ""
    title: str = ""
    caption: str = ""
    heading: str = ""
    link_text: str = ""


class Box(Struct, frozen=True):
    """The size in which a page lays a picture out, in CSS pixels: ``width`` and ``height`` attributes."""

    width: int | None = None
    height: int | None = None


class Reference(Struct, frozen=True):
    """One place in a page that points at an image.

    References that the markup ties together (an ``img``, its ``srcset``, the ``picture`` and the link around it)
    carry one ``cluster``. ``width`` is the width descriptor of an image candidate string, ``density`` its pixel
    density descriptor (HTML standard, 4.8.4.2.1 srcset attributes).
    """

    url: str
    raw: str
    page: str
    found_in: FoundIn
    element: str
    attribute: str
    cluster: int
    role: Role = Role.SHOWN
    words: Words = Words()
    box: Box = Box()
    width: int | None = None
    density: float | None = None
    media_type: str = ""
    link: str = ""
    hidden: bool = False
    filename: str = ""
    """the name that an archive, a mail or a link gives the picture"""
    line: int = 0
    """in the page's source, from 1; 0 where it cannot be told"""
    rank: int = 0
    """how large a version it is by the name it was found under, or by the screen it is meant for: more is larger"""
    anchors: tuple[int, ...] = ()
    """the elements that it stands in or dresses, by their numbers in the page's tree"""
    is_outside: bool = False
    """it lies outside the region of the page that was asked for"""
    trust: Trust = PUBLIC
    """of the page that it stands in"""
    relation: str = ""
    """what its element is to the page, or its link's target, in lower case (HTML standard, 4.6.7 link types)"""
    item: Item = NO_ITEM
    """the repeated part of the page that it stands in"""
    is_framed: bool = False
    """it stands in the page's frame (header, footer, navigation), which is the same all over a site"""
    is_in_sentence: bool = False
    """it is a sign in the midst of a sentence, which goes on behind it"""
    tiling: Tiling | None = None
    """of a picture that is kept in tiles: what its description says of it"""
    is_put_in_place: bool = False
    """an attribute of an element names it, which a script makes the element's picture"""
    web_page: str = ""
    """of a page on disk, where it is on the web"""

    @property
    def home(self) -> str:
        """Where its page is on the web, also where it was saved to disk; else where that lies."""
        return self.web_page or self.page

    @property
    def is_told_by_name(self) -> bool:
        """Whether its name alone tells which picture of the page it is: metadata has it, or a field or a choice."""
        return (self.found_in, self.attribute) in _TOLD_BY_NAME and self.relation != "icon"

    @property
    def is_on_page(self) -> bool:
        """Whether the page itself has it, and not what it says to programs: metadata, a data block, a script."""
        return self.is_put_in_place or self.found_in not in _SAID_TO_PROGRAMS

    @property
    def is_laid_out(self) -> bool:
        """Whether the page lays it out, at once or when a script has put it in place: an ``img``, a background."""
        return self.is_put_in_place or self.found_in in _LAID_OUT


_TOLD_BY_NAME = frozenset(
    ((FoundIn.META, "content"), (FoundIn.META, "href"), (FoundIn.DATA, "value"), (FoundIn.DATA, OF_LINKED_DATA))
)
_LAID_OUT = frozenset((FoundIn.IMG, FoundIn.PICTURE, FoundIn.CSS, FoundIn.BACKGROUND, FoundIn.SVG))
_SAID_TO_PROGRAMS = frozenset((FoundIn.META, FoundIn.DATA, FoundIn.SCRIPT))


class Candidate(Struct, frozen=True):
    """A URL that may be a larger version of an image, with the evidence for it."""

    url: str
    evidence: Evidence
    measures: Measures = Measures()
    outcome: str = ""
    """what became of it when it was held against what is known; empty if that was not asked"""
    asker: Asker | None = None
    """the page that names it, if that is not the one that shows the picture"""
    tiles: tuple[Level, ...] = ()
    """of a version that comes in tiles, whose address is their description's: the grids to put it together of, in the
    order in which they are tried"""


class Ruling(StrEnum):
    """What a criterion says of an image."""

    KEEP = "keep"
    DROP = "drop"
    UNSURE = "unsure"


class Unsure(StrEnum):
    """What becomes of a picture that a criterion cannot decide on."""

    SETTLE = "settle"
    """its first bytes, and in the end its file, are asked; what cannot be known is kept"""
    KEEP = "keep"
    DROP = "drop"


class Again(StrEnum):
    """What becomes of pictures that the crate has already."""

    SKIP = "skip"
    REFRESH = "refresh"
    """those that changed are fetched, as far as their servers tell"""
    REPLACE = "replace"
    """all are fetched, and those that were moved or deleted are put back"""


class KnownItems(StrEnum):
    """What becomes of the own pages of items that the crate has pictures from."""

    VISIT = "visit"
    SKIP = "skip"


class Verdict(Struct, frozen=True):
    """What one criterion says of an image, and why."""

    criterion: str
    ruling: Ruling
    reason: str
    measured: str = ""
    """what it was held against, of a criterion of measures"""


class Image(Struct, frozen=True):
    """All references to one picture, grouped, with the addresses to fetch it from, best first.

    ``number`` is its place in the run's one series, the same whatever else is asked. ``candidates`` is empty until
    the full-size step; after it, it is never empty and the shown picture is one of them, behind all that may be
    larger. ``extra`` holds what a list said of the picture beyond its address, by the list's own headers.
    """

    number: int
    source: str
    shown: Reference
    references: tuple[Reference, ...]
    page_title: str = ""
    list_title: str = ""
    """what the list is called that it or its page is from: its title, or its file's name"""
    candidates: tuple[Candidate, ...] = ()
    tried: tuple[Candidate, ...] = ()
    """guesses that proved wrong"""
    extra: tuple[tuple[str, str], ...] = ()
    furniture: str = ""
    """why it looks like a picture that dresses the page; empty if it does not"""
    name: str = ""
    """the name that its list gives it"""
    served: str = ""
    """the file name that its server gives it"""
    declined: str = ""
    """why the pick list that it comes from says no to it; empty if it does not"""
    rights: Rights = Rights()
    """what its page says of its use"""
    stranger: str = ""
    """why it is not one of an item whose page was read: another thing's, or only its thumbnail; empty if it is"""
    verdicts: tuple[Verdict, ...] = ()

    @property
    def asker(self) -> Asker:
        """Who asks for its addresses: the page that shows it, trusted as little as the least of what names them."""
        trust = self.shown.trust
        is_alone = len(self.references) == 1
        if trust.private and not is_alone and not all(reference.trust.private for reference in self.references):
            trust = trust.fallen()
        return Asker(self.shown.page, trust)

    @property
    def best_asker(self) -> Asker:
        """Who asks for the address that ``pack`` would fetch."""
        return self.best.asker or self.asker

    @property
    def item(self) -> Item:
        """The item that its picture belongs to: that of what is shown, else of another place that has one.

        Data that names the picture says more of it than what its whole page is about.
        """
        shown = self.shown.item
        if len(self.references) == 1 or not (shown is NO_ITEM or shown.form is ItemForm.PAGE):
            return shown
        items = [reference.item for reference in self.references if not reference.is_outside]
        if shown is NO_ITEM:
            return next((item for item in items if item is not NO_ITEM), NO_ITEM)
        return next((item for item in items if item.form is ItemForm.DATA), shown)

    @property
    def columns(self) -> dict[str, str]:
        """What is said of it by header, term or label: on its page, and in the list that it comes from."""
        return dict((*self.item.columns, *self.extra))

    @property
    def is_picked(self) -> bool:
        """Whether no criterion dropped it."""
        return not self.verdicts or all(verdict.ruling is not Ruling.DROP for verdict in self.verdicts)

    @property
    def is_undecided(self) -> bool:
        """Whether no criterion dropped it, and one could not decide."""
        return self.is_picked and any(verdict.ruling is Ruling.UNSURE for verdict in self.verdicts)

    @property
    def is_hidden(self) -> bool:
        """Whether the page shows it nowhere."""
        shown = [reference for reference in self.references if reference.role is Role.SHOWN]
        return bool(shown) and all(reference.hidden for reference in shown)

    @property
    def best(self) -> Candidate:
        """The address that ``pack`` would fetch, with its evidence."""
        return self.candidates[0] if self.candidates else Candidate(self.shown.url, AS_SHOWN)

    def measured(self, measures: Measures) -> "Image":
        """Return the image with what is known of the file at its best address."""
        return replace(self, candidates=(replace(self.best, measures=measures), *self.candidates[1:]))

    @property
    def url(self) -> str:
        """The address that ``pack`` would fetch."""
        return self.best.url

    @property
    def claimed_type(self) -> str:
        """The type that its best address claims, or else the markup that names it; empty if neither does."""
        url = self.url
        claimed = image_type(url)
        if claimed is None:
            stated = (one.media_type for one in self.references if one.media_type and one.url == url)
            claimed = next(filter(None, map(by_media_type, stated)), None)
        return claimed.name if claimed is not None else ""


class Ending(StrEnum):
    """What became of one pick."""

    FETCHED = "fetched"
    ALREADY_THERE = "already there"
    LEFT_OUT = "left out"
    """its file is not what was asked for"""
    ELSEWHERE = "in another crate"
    FAILED = "failed"


class Outcome(Struct, frozen=True):
    """What became of one pick: the file in the crate, or the reason why there is none.

    ``url`` is the address whose bytes were kept (or tried last). ``error`` is what was said of each address that
    failed, ``reason`` what was said of the last. ``same_as_other``: these bytes were in the crate already, under
    another address. ``is_unended``: the file has no end, as its server has it.
    """

    image: Image
    ending: Ending
    url: str
    file: str = ""
    measures: Measures = Measures()
    sha256: str = ""
    error: str = ""
    reason: str = ""
    same_as_other: bool = False
    is_unended: bool = False
    left_out_by: str = ""
    """the criterion that it did not meet, or the other crate that holds it"""
    why: tuple[Cause, int] | None = None
    """the cause of the failure that ``reason`` tells of, and the HTTP status that it is, or 0"""
