"""What a look came to, and what to do where it found nothing."""

from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.cli.listing import GOES_ON, Totals, what_is_listed
from pickcrate.read.recognise import DATA, OF_ENTRIES, Kind
from pickcrate.run.events import ItemPagesRead, PageRead
from pickcrate.sift.ranges import Range
from pickcrate.values.findings import NO_BASE, SIGN_IN

if TYPE_CHECKING:
    from pickcrate.orders.order import Order

_WHERE_TO_LOOK = {
    Kind.PAGE: "pictures that scripts load are not in the page itself: --browser visits it in yours, and takes them",
    Kind.MESSAGE: "its own files hold none, and nor do the pages in it",
    Kind.PLIST: "its own resources hold none, and nor does the page in it",
    Kind.LOG: "load the page with the network panel open, scroll to its end, and save the log again",
    Kind.PACKAGE: "it holds no picture, no page that shows one, and no list of web addresses",
    Kind.PDF: "it holds no picture as a file: what it shows is drawn with lines",
    Kind.ARCHIVE: "it holds no picture, and no page that shows one",
    Kind.FEED: "its entries may have theirs on pages of their own: --list-of pages looks into those",
    Kind.JSON_FEED: "its items may have theirs on pages of their own: --list-of pages looks into those",
    Kind.DATA: "--raw REGEX takes addresses that nothing there says to be a picture's",
    Kind.XML: "--raw REGEX takes addresses that nothing there says to be a picture's",
    Kind.BOOKMARKS: "--list-of pages looks into the pages that it leads to",
    Kind.SUBSCRIPTIONS: "--list-of pages looks into the feeds and pages that it leads to",
}


_KEPT = (
    "what scripts load is not in a page on the disk: --browser visits its address on the web, pickcrate save keeps all"
)


class Looked(Struct):
    """What a look came to."""

    order: "Order"
    typed: frozenset[str]
    """the settings that were typed, or stand in a slip"""
    totals: Totals = field(default_factory=Totals)
    kinds: set[Kind] = field(default_factory=set)
    lacks_base: bool = False
    asks_to_sign_in: bool = False
    has_kept_pages: bool = False
    """whether there are pages on the disk, which no browser visits"""
    complete: bool = True
    source: str = ""
    """that of the last page"""
    pages_of_source: int = 0
    bare_of_source: int = 0
    """those of its pages without a picture"""

    def add_page(self, page: PageRead) -> None:
        """Count one page, and note what is to be said of it at the end."""
        if page.source != self.source:
            self.source, self.pages_of_source, self.bare_of_source = page.source, 0, 0
        if not page.is_rest:
            self.pages_of_source += 1
            self.bare_of_source += not page.images
            self.totals.pages += 1
            self.totals.bare += not page.images
        elif page.images and self.pages_of_source == self.bare_of_source == 1:  # a document's text shows none of them
            self.totals.bare -= 1
        if not self.order.items:
            self.totals.entries = max(self.totals.entries, page.entries)
        self.totals.listed_folders = max(self.totals.listed_folders, page.folders)
        self.totals.goes_on |= bool(page.next_page) and not self.order.next_pages
        self.totals.has_untold |= self.order.items > 0 and page.kind in OF_ENTRIES and not page.entries
        self.kinds.add(page.kind)
        self.has_kept_pages |= page.kind is Kind.PAGE and page.address.startswith("file:")
        kinds = {flaw.kind for flaw in page.flaws}
        self.lacks_base |= NO_BASE in kinds
        self.asks_to_sign_in |= SIGN_IN in kinds

    def add_items(self, read: ItemPagesRead) -> None:
        """Count the items of one list that were passed over."""
        self.totals.known_items += read.known

    @property
    def has_nothing_new(self) -> bool:
        """Whether nothing is left because the crate has the pictures of a list's items."""
        return self.totals.known_items > 0 and not self.totals.funnel.picked

    @property
    def hint(self) -> str:
        """What to do where nothing was found, by the kind of source, or nothing is left."""
        if self.totals.funnel.found or self.totals.pages > self.totals.bare:
            return self._exact or "look --all shows which criterion dropped each of them"
        if self.lacks_base:
            return "say with --base URL where the page came from"
        if self.asks_to_sign_in:
            return "--browser --profile NAME --show-browser signs in, once"
        if self.order.browsing.is_on and not self.has_kept_pages:
            return "--shot page.png shows what the browser saw; --wait, --wait-for and --press go further"
        if listed := what_is_listed(self.totals):
            return listed
        if self.totals.goes_on and self.kinds <= DATA:
            return GOES_ON
        if self.has_kept_pages:
            return _KEPT
        return next((words for kind, words in _WHERE_TO_LOOK.items() if kind in self.kinds), "")

    @property
    def _exact(self) -> str:
        """What to do about a range that is a single number, which hardly a picture meets."""
        dropping = [step.criterion for step in self.totals.funnel.steps(()) if step.dropped]
        asked = ((name, getattr(self.order.criteria, name, None)) for name in dropping)
        ranges = ((name, one) for name, one in asked if isinstance(one, Range))
        exact = ((name, one.text) for name, one in ranges if one.low == one.high)
        name, text = next(exact, ("", ""))
        return f"--{name} {text} takes just that: --{name} {text}.. takes what is larger as well" if name else ""
