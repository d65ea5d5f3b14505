"""What a reader makes of a source that is more than one document: documents, references, and bytes brought along."""

from collections.abc import Callable, Mapping
from typing import Any, BinaryIO

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.text.surrogates import read_json
from pickcrate.values.claims import Rights
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import NO_ITEM, Item
from pickcrate.values.reference import Reference
from pickcrate.values.tiling import Tiling

Open = Callable[[], BinaryIO]
"""opens a source that is read where it lies, each time anew"""

MOST_REFERENCES = 100_000
MOST_DOCUMENTS = 10_000
"""Of one source: more are no person's page."""


class Document(Struct, frozen=True):
    """One document with its address, and what its transport said of it; loaded when it is read."""

    load: Callable[[], bytes]
    address: str
    fields: Mapping[str, str] = field(default_factory=dict)
    """header fields of the response, lower case"""
    item: Item = NO_ITEM
    """what its pictures are of, where its source says that: an entry of a feed, a mail"""
    after: int = 0
    """how many references its source has before it"""


class StoredBody(Struct, frozen=True):
    """Bytes that a source holds for an address; loaded when they are asked for."""

    load: Callable[[], bytes]
    media_type: str = ""
    address: str = ""
    """where it came from, if it is asked for by another address (``cid:``): relative addresses in it start there"""
    size: int = 0
    """in bytes, where ``begin`` is given"""
    begin: Callable[[int], bytes] | None = None
    """loads as many of its first bytes, where that is less work than loading all"""
    is_held: bool = False
    """whether its bytes are in memory already"""

    def first(self, most: int) -> tuple[bytes, int]:
        """Return its first ``most`` bytes, and how many it has in all."""
        if self.begin is not None:
            return self.begin(most), self.size
        octets = self.load()
        return octets[:most], len(octets)


class Turned(Struct, frozen=True):
    """How many further pages of its list pressing has brought on a page, and whether it would bring more."""

    pages: int = 0
    goes_on: bool = False


class Loaded(Struct, frozen=True):
    """What a browser loaded for a page besides the page itself: pictures, and what is wrong with the visit."""

    pictures: tuple[Reference, ...] = ()
    flaws: tuple[Flaw, ...] = ()
    turned: Turned = Turned()


class Attached(Struct, frozen=True):
    """A file in a source that is a source by itself: a document that was sent with a mail, or in a package of them."""

    name: str
    load: Callable[[], bytes]
    item: Item = NO_ITEM
    """what its pictures are of, if nothing in it says more"""


class Reading(Struct):
    """What a source holds.

    ``complete`` is for records of what was loaded (a network log, a web archive): its pictures are those it recorded,
    each a picture of its own, and nothing else is asked for.
    """

    documents: list[Document] = field(default_factory=list)
    references: list[Reference] = field(default_factory=list)
    bodies: dict[str, StoredBody] = field(default_factory=dict)
    flaws: list[Flaw] = field(default_factory=list)
    further: list[str] = field(default_factory=list)
    """further sources that it leads to: the sitemaps of an index"""
    pages: list[str] = field(default_factory=list)
    """the own pages of its entries: of a feed, a sitemap, a file of bookmarks"""
    entries: list[Item] = field(default_factory=list)
    """those of its entries that have a title and a page of their own"""
    next_page: str = ""
    """where a feed goes on; empty if it does not say (RFC 5005, 3)"""
    title: str = ""
    attached: list[Attached] = field(default_factory=list)
    rights: dict[str, Rights] = field(default_factory=dict)
    """what it says of the use of single pictures, by their addresses"""
    complete: bool = False
    pictured: set[str] = field(default_factory=set)
    """of a record: addresses that are a picture of it already"""

    @property
    def is_full(self) -> bool:
        """Whether it holds as much as is taken from one source."""
        most = max(len(self.references), len(self.pages))
        return most >= MOST_REFERENCES or len(self.documents) >= MOST_DOCUMENTS

    def take_in(self, other: "Reading", item: Item) -> None:
        """Add what another source holds, as of an item where it says nothing else itself."""
        self.documents += (replace(one, item=item) if one.item == NO_ITEM else one for one in other.documents)
        for reference in other.references:
            own = item if reference.item == NO_ITEM else reference.item
            self.references.append(replace(reference, cluster=len(self.references), item=own))
        self.bodies.update(other.bodies)
        self.flaws += other.flaws

    def json_object(self, octets: bytes, what: str) -> dict[str, Any] | None:
        """Return the JSON object that a source is; None, and a flaw, if ``what`` it is to be is not one."""
        try:
            told = read_json(octets.decode("utf-8-sig", "replace"))
        except (ValueError, RecursionError) as error:
            self.flaws.append(Flaw(what, f"the {what} is not JSON: {error}"))
            return None
        if isinstance(told, dict):
            return told
        self.flaws.append(Flaw(what, f"the {what} is no JSON object"))
        return None

    def add_document(self, html: str, address: str, item: Item, after: int) -> None:
        """Add a piece of HTML as a document, behind so many references."""
        octets = html.encode("utf-8", "replace")
        fields = {"content-type": "text/html; charset=utf-8"}
        self.documents.append(Document(lambda: octets, address, fields, item, after))

    def add_picture(self, url: str, found_in: FoundIn, **known: Any) -> int:
        """Add a reference to a picture that the source itself names, and return its cluster: one of its own."""
        cluster = len(self.references)
        plain = Reference(url, url[:200], "", found_in, "", "", cluster)
        self.references.append(replace(plain, **known) if known else plain)
        return self.references[-1].cluster

    def add_tiled(self, tiling: Tiling, found_in: FoundIn, **known: Any) -> int:
        """Add a reference to a picture that is kept in tiles, and return its cluster.

        What it shows is the largest version that one request brings.
        """
        return self.add_picture(tiling.wholes[0].url, found_in, tiling=tiling, **known)
