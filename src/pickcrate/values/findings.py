"""What a step finds in a document, besides references: what else must be read, what is hidden, what was passed over."""

from enum import Enum

from msgspec import Struct

from pickcrate.values.flaw import Flaw
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference

NO_BASE = "base"
"""the flaw of a page whose relative addresses cannot be made absolute"""

SIGN_IN = "sign-in"
"""the flaw of a page that shows nothing before somebody signs in"""


class NeedKind(Enum):
    """What kind of document a page needs before all its pictures are known."""

    SHEET = "style sheet"
    FRAME = "frame"
    MANIFEST = "manifest"
    OEMBED = "oEmbed answer"
    IIIF = "IIIF manifest"
    DATA = "data file"
    SCRIPT = "script"
    TILES = "tile description"


class Need(Struct, frozen=True):
    """A document that a step must see before it can go on; the run fetches it and calls the step again."""

    kind: NeedKind
    url: str
    anchor: int = 0
    """the element that has it, by its number in the page's tree"""


class Piece(Struct, frozen=True):
    """A document inside another, as a page by itself: the content of a template, markup that a script is to show."""

    page: Page
    references: tuple[Reference, ...]
    """as they stand in it; those of the document around have the same clusters"""


class Findings(Struct, frozen=True):
    """What a step found in one document: references in its order, and what else must be read."""

    references: tuple[Reference, ...]
    needs: tuple[Need, ...] = ()
    flaws: tuple[Flaw, ...] = ()
    hidden: frozenset[int] = frozenset()
    """elements that the document's own sheets keep from being shown, with all in them"""
    pieces: tuple[Piece, ...] = ()


class Hiding(Struct, frozen=True):
    """Elements, by their numbers in the page's tree, that a sheet keeps from being shown."""

    anchors: frozenset[int]


class Passing(Enum):
    """Why what a page mentions is no picture of it."""

    COMMENT = "in a comment"
    UNAPPLIED = "in a style rule that applies to nothing on the page"
    FONT = "in a style rule about fonts"
    PIECE = "in a script, as a piece of what is put together there, or without a folder"
    NO_EXTENSION = "without the ending of an image, in a place that may lead to anything"
    NO_ADDRESS = "not an address that a browser would understand"
    TO_BE_FILLED = "a template of an address, which a script is to fill in"
    OTHER_KIND = "with the ending of another kind of file"
    LEADS_ELSEWHERE = "a link to a page"
    PLACEHOLDER = "shown only until a script puts the picture there"
    NO_PLACE = "in a place that shows no picture"


class PassedOver(Struct, frozen=True):
    """A mention of an address that was passed over: why, where, and what stands there."""

    kind: Passing
    where: str
    said: str
    selector: str = ""
    line: int = 0


Finding = Reference | Need | Hiding
"""What stands at one place of a document."""


def button_to_press(label: str) -> Flaw:
    """Return what is said of a button on a page, behind which there may be more."""
    return Flaw("button", f"a button says “{label}”: --browser --press {label!r} presses it")


def button_for_more(label: str, *, is_visited: bool = False) -> Flaw:
    """Return what is said of a button that brings more of a list, on a page that a browser has visited or not."""
    options = "--next-pages 9" if is_visited else "--browser --next-pages 9"
    return Flaw("button", f"a button says “{label}”: {options} presses it, up to nine times")
