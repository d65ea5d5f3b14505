"""What a visit to a page brings, and why one brings nothing."""

import re

from msgspec import Struct, field

from pickcrate.fetch.exchange import Failure
from pickcrate.read.reading import StoredBody, Turned
from pickcrate.values.cause import Cause
from pickcrate.values.flaw import Flaw

A_FILE = Failure(Cause.NO_PAGE, "a file to keep, and no page")
"""what is at an address that leads to no page, and can be fetched like any other file"""

_NET_ERRORS = {
    "ERR_NAME_NOT_RESOLVED": Failure(Cause.HOST, "unknown host"),
    "ERR_CONNECTION_REFUSED": Failure(Cause.REFUSED, "no connection: the server refused it or cannot be reached"),
    "ERR_BLOCKED_BY_CLIENT": Failure(Cause.PRIVATE, "a private address, which a public page may not reach"),
    "ERR_TOO_MANY_REDIRECTS": Failure(Cause.REDIRECTS, "redirected in a loop"),
    "ERR_CERT": Failure(Cause.CERTIFICATE, "the server's certificate does not match or is not trusted"),
    "ERR_PROXY": Failure(Cause.PROXY, "the proxy cannot be reached"),
    "ERR_EMPTY_RESPONSE": Failure(Cause.RESET, "the server closed the connection without an answer"),
    "ERR_ABORTED": A_FILE,
    "Download is starting": A_FILE,
    "Timeout": Failure(Cause.TIMEOUT, "timed out: nothing came for too long, or next to nothing"),
    "crash": Failure(Cause.CRASH, "its tab crashed"),
    "closed": Failure(Cause.CRASH, "the browser was closed"),
}
BUSY = Failure(Cause.BUSY, "its scripts are busy, and it does not answer")
LIES = Failure(Cause.LIES, "its scripts answer what no page would")
UNFINISHED = Failure(Cause.UNFINISHED, "not all of it was loaded in time")
"""of a page whose answer came, and which waits for a script or a style sheet"""

_CODE = re.compile(r"net::(ERR_\w+)")


class Answer(Struct, frozen=True):
    """What was loaded for one address: where redirects ended, and its bytes."""

    asked: str
    url: str
    media_type: str
    body: StoredBody
    fields: dict[str, str] = field(default_factory=dict)
    is_picture: bool = False


class FramePage(Struct, frozen=True):
    """The document in a frame, as it was at the end: the address that the frame has, and where that led."""

    asked: str
    url: str
    markup: str


class Visited(Struct):
    """What a visit brought. With a failure there is no page."""

    url: str = ""
    markup: str = ""
    fields: dict[str, str] = field(default_factory=dict)
    """header fields of the page's own answer, lower case"""
    frames: list[FramePage] = field(default_factory=list)
    answers: list[Answer] = field(default_factory=list)
    unread: list[str] = field(default_factory=list)
    """addresses of pictures that came, and whose bytes the browser does not have: a script took them for itself"""
    replaced: list[tuple[str, str]] = field(default_factory=list)
    """addresses of pictures on the page, and those that a script put in their place"""
    flaws: list[Flaw] = field(default_factory=list)
    turned: Turned = Turned()
    shot: bytes = b""
    in_one: str = ""
    """the page with all that it shows in one message (MHTML), if that was asked for"""
    failure: Failure | None = None


def as_it_came(failure: Failure) -> Flaw:
    """Return what is said of a page that was not visited to the end."""
    return Flaw("browser", f"{failure.words}: it is taken as it came")


def failure_of(words: str) -> Failure:
    """Return the failure that a browser's words tell of."""
    if words.startswith(BUSY.words):
        return BUSY
    for mark, failure in _NET_ERRORS.items():
        if mark in words:
            return failure
    code = _CODE.search(words)
    said = code[1] if code else next((line.strip() for line in words.splitlines() if line.strip()), "")
    return Failure(Cause.BROWSER, f"the browser could not open it: {said[:160]}")
