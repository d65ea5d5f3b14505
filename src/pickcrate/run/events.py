"""What a run tells as it goes. The progress bar, the lists, the log and the tests read these same events."""

from enum import Enum
from pathlib import Path

from msgspec import Struct

from pickcrate.errors import PickCrateError
from pickcrate.read.recognise import Kind
from pickcrate.values.findings import PassedOver
from pickcrate.values.flaw import Flaw
from pickcrate.values.image import Image
from pickcrate.values.outcome import Outcome


class PageRead(Struct, frozen=True):
    """A page was read and its pictures are about to follow."""

    source: str
    address: str
    title: str
    images: int
    flaws: tuple[Flaw, ...] = ()
    kind: Kind = Kind.PAGE
    """of the source that it came from"""
    age: float | None = None
    """seconds since it was fetched, if an earlier run was answered and nobody was asked again"""
    passed: tuple[PassedOver, ...] = ()
    """where an address that somebody asks about is mentioned, and is no picture"""
    is_one_of_many: bool = False
    """whether it is a page among those of a folder, a book or an archive, which nobody asked for by itself"""
    is_rest: bool = False
    """whether it is no page, but what a package or a document holds besides its pages"""
    next_page: str = ""
    """where the list that it shows goes on; empty if it shows none, or does not say"""
    entries: int = 0
    """of the list that it is, which have pages of their own"""
    folders: int = 0
    """of the listing of files that it is, which were not asked for"""
    likely_home: str = ""
    """of a page on disk some of whose pictures are not beside it: the site that it may be of, where it does not say"""


class ListEnd(Enum):
    """Why no further page of a list was read; its value is how that is said."""

    LAST = "it ends there"
    ENOUGH = "it goes on, and --next-pages {more} reads more"
    NOTHING_NEW = "the next one shows nothing new, so it ends there"
    FAILED = "the next one could not be read"
    LIMIT = "--limit is reached, and the next ones were not read"


class NextPagesRead(Struct, frozen=True):
    """The further pages of a list on a web page were read, as many as were asked for or there are."""

    source: str
    pages: int
    """how many of the list were read, the first among them"""
    end: ListEnd


class ItemPageRead(Struct, frozen=True):
    """The own page of one more item of a list came, or could not be had: how many are done, and of how many."""

    done: int
    of: int


class ItemPagesRead(Struct, frozen=True):
    """The own pages of a list's items were read: how many items, pages that came, and pictures of theirs."""

    items: int
    pages: int
    pictures: int
    known: int = 0
    """items besides whose pages were passed over, as the crate has pictures from them"""


class ListOpened(Struct, frozen=True):
    """A list was opened and its pictures are about to follow, row by row; with what was guessed of its columns."""

    source: str
    guessed: str = ""


class RowRefused(Struct, frozen=True):
    """A row of a list is no picture's address."""

    source: str
    flaw: Flaw


class SourceFailed(Struct, frozen=True):
    """One source of the run could not be read; the others go on."""

    source: str
    error: PickCrateError


class Found(Struct, frozen=True):
    """A picture with its candidates, and the name it would get, where that was asked for."""

    image: Image
    name: str = ""


class CrateOpened(Struct, frozen=True):
    """The crate is open for writing."""

    path: Path
    regained: int = 0
    """how many of its pictures are known from its list alone, as its ledger was gone"""
    moved: int = 0
    """how many of its files their owner has renamed or sorted since"""
    had_other_title: bool = False
    """whether it was called after the page when that had another title"""


class Moved(Struct, frozen=True):
    """A file of this run got the name of an earlier picture, which turned out to have the same bytes."""

    old: str
    new: str


class Archived(Struct, frozen=True):
    """The finished crate is in one archive as well."""

    path: Path


class Planned(Struct, frozen=True):
    """The path that a picture would get; not final where only its bytes can tell the ending."""

    image: Image
    path: Path
    is_there: bool
    is_final: bool
    elsewhere: str = ""
    """the other crate that holds it, so that it would not be fetched"""


class Progress(Struct, frozen=True):
    """A moment of the transfer: pictures wanted so far and done, bytes received, addresses under way."""

    wanted: int
    done: int
    received: int
    under_way: tuple[str, ...]
    slowed: tuple[str, ...] = ()
    """sites that were asked too much, and are asked more slowly since"""


class Settled(Struct, frozen=True):
    """One picture is done with."""

    outcome: Outcome


class Withdrawn(Struct, frozen=True):
    """A picture that was done is not: its file turned out to be a stand-in, or the lesser of two twins."""

    outcome: Outcome
    why: str = "a stand-in: the same bytes came for another picture"


class SinceLast(Struct, frozen=True):
    """What a run into a crate that had pictures already found: how many of each are new, changed, larger, gone."""

    new: int
    changed: int
    larger: int
    gone: int
    """from pages that were read, and had them before"""


LookEvent = PageRead | ListOpened | NextPagesRead | ItemPageRead | ItemPagesRead | RowRefused | SourceFailed | Found
PackEvent = LookEvent | CrateOpened | Progress | Settled | Withdrawn | Moved | Archived | SinceLast
