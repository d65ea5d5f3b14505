"""What the run asks of the fetcher, and what it gets back. The first of the two doors."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import BinaryIO, Protocol

from msgspec import Struct, field

from pickcrate.read.reading import Loaded
from pickcrate.values.cause import Cause
from pickcrate.values.trust import PUBLIC, Trust
from pickcrate.version import __version__

MEMORY_BYTES = 1_000_000
"""A body larger than this goes to the request's spool, if it has one."""

USER_AGENT = f"pickcrate/{__version__}"


class Manners(Struct, frozen=True):
    """How the fetcher behaves towards sites. Sizes are bytes, times are seconds."""

    at_once: int = 8
    per_site: int = 4
    pause: float = 0.0
    timeout: float = 30.0
    """without any progress, and for connecting"""
    max_file: int = 100_000_000
    max_total: int = 0
    """of all bodies that are on their way into a crate; 0 for no limit"""
    robots: bool = True
    fresh: bool = False
    """pass over what was kept of earlier runs"""
    retries: int = 3
    """tries after the first, for failures that may pass"""
    rate: int = 0
    """bytes a second over all transfers; 0 for as fast as they come"""
    allow_private: bool = False
    proxy: str = ""
    cookies: str = ""
    """a file of cookies, in the Netscape format"""
    fields: tuple[str, ...] = ()
    """header fields of the user's own, sent to the sites that were named and to no other"""
    user_agent: str = USER_AGENT


class Beginning(Struct, frozen=True):
    """The first bytes of a picture, seen by a probe, and the validator under which the rest may be asked for."""

    octets: bytes
    validator: str


class Known(Struct, frozen=True):
    """The validators of the version that is held (RFC 9110, 8.8), either of which may be empty."""

    etag: str
    last_modified: str


class Request(Struct, frozen=True):
    """One address to fetch. ``named`` is for what a person asked for by name: robots.txt is not held against it.

    A body over MEMORY_BYTES goes into a file from ``spool``; without one it stays in memory. What has a spool is on
    its way into a crate and is not kept for other runs.
    """

    url: str
    accept: str = "*/*"
    referer: str = ""
    named: bool = False
    spool: Callable[[], BinaryIO] | None = None
    trust: Trust = PUBLIC
    """of who asks: whether a private address may be asked, and whose folder and bytes are at hand"""
    typed: bool = False
    """the person typed this very address: the user's own header fields and passwords go there"""
    is_guess: bool = False
    """we made the address up: that it was refused an hour ago is worth knowing"""
    asks_anew: bool = False
    """the person names it: a kept answer counts only if its server says so, or for as long as it said"""
    first: int = 0
    """only so many bytes from the start, if not 0; a server that knows no ranges is stopped there"""
    form: str = ""
    """a form's fields (application/x-www-form-urlencoded): sent by POST"""
    visit: str = ""
    """tells apart visits to one address that may be answered differently: before a cookie was set, and after"""
    cookies: tuple[str, ...] = ()
    """cookies that the asking page's own script sets, as ``name=value``; kept for the rest of the run"""
    known: Known | None = None
    """ask only for what changed since: if nothing did, status 304 is no failure. No kept answer counts"""
    token: object = None
    """carried to the reply untouched, for the asker to know it by"""
    is_visit: bool = False
    """a page is wanted, as its visitor sees it: in a browser, where there is one"""
    fragment: str = ""
    """of the address: what a page shows in a browser may depend on it, and no server is told"""
    most: int = 0
    """bytes beyond which the answer is refused, if that is less than Manners.max_file"""


class Failure(Struct, frozen=True):
    """Why a request got no usable answer: its cause for programs, and words for people."""

    cause: Cause
    words: str
    status: int = 0
    """the HTTP status that it is, if it is one"""


class Reply(Struct, frozen=True):
    """An answer, or the failure to get one. Header names are lower case; ``url`` is where redirects ended.

    The body is in ``octets``, or in ``spooled`` (at its end, flushed) if it was too large for memory. Of a visit that
    was cut short ``octets`` has what came, beside the failure.
    """

    request: Request
    url: str
    status: int = 0
    headers: Mapping[str, str] = field(default_factory=dict)
    octets: bytes = b""
    spooled: BinaryIO | None = None
    size: int = 0
    modified: int | None = None
    """the ``Last-Modified`` field, in seconds since 1970"""
    failure: Failure | None = None
    is_all: bool = False
    """whether nothing is missing for certain: its length was announced, or its end was marked"""
    trust: Trust = PUBLIC
    """of what it holds: the request's, unless it came from the public web"""
    age: float | None = None
    """seconds since it was fetched, if it is a kept answer that nobody was asked about"""
    loaded: Loaded | None = None
    """what was loaded with a page, if it was visited in a browser"""


class Traffic(Struct, frozen=True):
    """A moment of a batch: bytes received so far, and the addresses under way."""

    received: int
    under_way: tuple[str, ...]
    slowed: tuple[str, ...] = ()
    """sites that were asked too much, and are asked more slowly since"""


class Fetcher(Protocol):
    """The door to the network."""

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, as they come; requests are drawn only as there is room for them."""

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source brought along for an address; empty if it did not."""

    def close(self) -> None:
        """Close all connections."""
