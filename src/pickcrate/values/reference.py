"""One place in a page that points at a picture, with the words around it."""

from enum import Enum

from msgspec import Struct

from pickcrate.values.foundin import OF_LINKED_DATA, FoundIn
from pickcrate.values.item import NO_ITEM, Item
from pickcrate.values.tiling import Tiling
from pickcrate.values.trust import PUBLIC, Trust


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
