"""All references to one picture, with the addresses that it may be fetched from, and what the criteria say of it."""

from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import image_type
from pickcrate.media import by_media_type
from pickcrate.values.claims import Rights
from pickcrate.values.evidence import AS_SHOWN, Evidence
from pickcrate.values.item import NO_ITEM, Item, ItemForm
from pickcrate.values.measures import Measures
from pickcrate.values.reference import Reference, Role
from pickcrate.values.tiling import Level
from pickcrate.values.trust import Asker


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
