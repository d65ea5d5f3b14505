"""Pages through the browser: the fetcher's door, with a browser behind it for what a visitor would see.

What was loaded with a page is at hand for all that comes of the page, as if the page had been brought along with it.
"""

import re
import socket
import time
from base64 import b64decode
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from itertools import islice
from pathlib import Path
from random import uniform

from msgspec.structs import replace
from playwright.sync_api import Error

from pickcrate.addresses.url import absolute, is_web, origin, site, without_fragment
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.running import Running
from pickcrate.browser.visit import Visit
from pickcrate.browser.visited import A_FILE, BUSY, LIES, UNFINISHED, Answer, Visited, as_it_came, failure_of
from pickcrate.crate.likeness import shows_more
from pickcrate.errors import PickCrateError
from pickcrate.fetch import robots
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.cookies import as_lines
from pickcrate.fetch.exchange import Failure, Fetcher, Manners, Reply, Request, Traffic
from pickcrate.fetch.failures import too_large
from pickcrate.fetch.private import is_private, names_private
from pickcrate.fetch.shared import Shared
from pickcrate.fetch.spool import Spool
from pickcrate.read.data.datafile import data_blocks
from pickcrate.read.reading import Loaded, StoredBody
from pickcrate.text.lazyre import lazy
from pickcrate.values.cause import Cause
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference
from pickcrate.values.trust import Trust

_TYPE = "text/html; charset=utf-8"
"""of a document as it was in the browser, whatever it was when it came"""

_BYTES = lazy(r"data:image/[\w.+-]{1,40};base64,([A-Za-z0-9+/]{64,}={0,2})")
_MOST_REPLACED = 200
"""Pairs of pictures that are compared: each is decoded."""

_TRIPPED_UP = (Error, TypeError, ValueError, KeyError)
"""it crashed, or answers no more; or its scripts have made of what a page is built with what they like"""

_SPREAD = 0.5
_ASKED_AGAIN = frozenset((A_FILE, BUSY, UNFINISHED))
"""what is asked for once more without a browser: a file that is no page, and a page of which nothing came of a visit"""


class BrowserFetcher:
    """A fetcher that visits pages in a browser, and fetches all else through another."""

    def __init__(
        self,
        fetcher: Fetcher,
        browsing: Browsing,
        manners: Manners,
        brought: Brought,
        shared: Shared,
        go_on: Callable[[], None] | None = None,
    ) -> None:
        """Stand before ``fetcher``; ``go_on`` waits for the user, who does something in the window first."""
        self._fetcher = fetcher
        self._browsing = browsing
        self._manners = manners
        self._brought = brought
        self._shared = shared
        self._running = Running(browsing, manners)
        self._spool = Spool(manners.max_total)
        self._last: dict[str, float] = {}
        self._shots = 0
        self._go_on = go_on

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request: those without a browser first, then visits, one after the other."""
        visits: list[Request] = []

        def others() -> Iterator[Request]:
            for request in requests:
                is_visit = request.is_visit and is_web(request.url) and not self._is_at_hand(request)
                if is_visit:
                    visits.append(request)
                else:
                    yield request

        yield from self._fetcher.fetch(others())
        for request in visits:
            yield from self._visited(request)

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source brought along for an address; empty if it did not."""
        return self._fetcher.version(url, trust)

    def close(self) -> None:
        """End the browser, and forget what it loaded."""
        self._running.close()
        self._spool.close()
        self._fetcher.close()

    def _is_at_hand(self, request: Request) -> bool:
        return self._brought.holds(request.url, request.trust)

    def _visited(self, request: Request) -> Iterator[Reply | Traffic]:
        """Yield what a visit to a page brought, or a plain request for it if that was nothing."""
        if (refusal := self._refusal(request)) is not None:
            yield Reply(request, request.url, failure=refusal, trust=request.trust)
            return
        visited = self.visit(request)
        if visited.failure in _ASKED_AGAIN:
            for came in self._fetcher.fetch([request]):
                flaws = Loaded(flaws=tuple(visited.flaws))
                yield replace(came, loaded=flaws) if isinstance(came, Reply) else came
        elif visited.failure is not None:
            yield Reply(request, request.url, failure=visited.failure, trust=request.trust)
        else:
            is_inside = request.trust.private and _leads_inside(visited.url)
            yield self._reply(request, visited, request.trust if is_inside else request.trust.fallen())

    def visit(self, request: Request, *, keeps: bool = False) -> Visited:
        """Return what a visit to a page brought, or why it brought nothing.

        To be kept as a whole, it has all that was loaded, and the page in one file.
        """
        self._pause(site(request.url))
        if request.typed:
            self._running.typed_origins.add(origin(request.url))
        try:
            page = self._running.new_page()
        except PickCrateError as error:
            if not self._running.has_started:
                raise
            return Visited(failure=Failure(Cause.BROWSER, f"the browser is gone, and {error}"))
        self._running.allow_private(allowed=self._may_lead_inside(request.url, request.trust))

        def landed(url: str) -> None:  # a page of the user's own network may have sent it on, to the public web
            self._running.allow_private(allowed=self._may_lead_inside(url, request.trust))

        # Of a list that goes on at other addresses, each page is visited for itself.
        browsing = self._browsing if request.typed else replace(self._browsing, further=0)
        visit = Visit(page, browsing, self._spool, self._manners.max_file, landed, keeps=keeps)
        visited = visit.visited
        try:
            url = f"{request.url}#{request.fragment}" if request.fragment else request.url
            if visit.open(url, request.referer, self._manners.timeout):
                if self._go_on is not None and self._browsing.is_shown and request.typed:
                    self._go_on()
                visit.see()
                visit.take()
                self._shared.set_cookies(as_lines(self._running.context.cookies([visited.url])))
        except _TRIPPED_UP as error:  # what came until then is there
            failure = failure_of(str(error)) if isinstance(error, Error) else LIES
            visited.flaws.append(as_it_came(failure))
            visited.failure = None if visited.answers else failure
        finally:
            if not visit.close():
                self._running.close()
        if visited.failure is not None:
            visited.failure = self._told(visited.failure, request.url)
        visited.flaws += self._shot(visited.shot)
        return visited

    def _may_lead_inside(self, url: str, trust: Trust) -> bool:
        """Tell whether the page at an address may lead to private ones: it is one itself, and the user named it."""
        return self._manners.allow_private or (trust.private and _leads_inside(url))

    def _told(self, failure: Failure, url: str) -> Failure:
        """Return a failure as the guard knows it: to a browser, all that is refused to it is the proxy's fault."""
        guard = self._running.guard
        is_known = guard is not None and failure not in _ASKED_AGAIN and not failure.status
        return guard.failures.get(site(url).strip("[]"), failure) if guard is not None and is_known else failure

    def _refusal(self, request: Request) -> Failure | None:
        """Return why a page that nobody named is not to be visited, by its site's robots.txt."""
        if request.named or not self._manners.robots:
            return None
        place = origin(request.url)
        if place not in self._shared.rules:
            asked = Request(absolute("/robots.txt", request.url) or "", named=True, trust=request.trust)
            answer = next(reply for reply in self._fetcher.fetch([asked]) if isinstance(reply, Reply))
            self._shared.rules[place] = robots.rules(answer)
        return self._shared.rules[place].refusal(request.url)

    def _pause(self, place: str) -> None:
        if self._manners.pause and place in self._last:
            pause = self._manners.pause * uniform(1 - _SPREAD, 1 + _SPREAD)  # noqa: S311 (a rhythm, not a secret)
            time.sleep(max(0.0, self._last[place] + pause - time.monotonic()))
        self._last[place] = time.monotonic()

    def _reply(self, request: Request, visited: Visited, trust: Trust) -> Reply:
        url = without_fragment(absolute(visited.url, request.url) or request.url)
        markup, doubles = _addressed(visited)
        doubles |= _given_way(visited)
        octets, media_type = _document(visited, markup)
        if len(octets) > min(self._manners.max_file, request.most or self._manners.max_file):
            return Reply(request, url, failure=too_large(request.most), trust=trust)
        trust = self._brought.enter(trust)
        answers = list(_addressable(visited.answers, url))
        bodies: dict[str, StoredBody] = {}
        for asked, answer in answers:
            bodies[asked] = answer.body
            bodies.setdefault(without_fragment(absolute(answer.url, url) or asked), answer.body)
        loaded = [asked for asked, answer in answers if answer.is_picture and answer.asked not in doubles]
        loaded += visited.unread
        pictures = tuple(_logged(asked, url, place, trust) for place, asked in enumerate(loaded))
        for frame in visited.frames:
            document = frame.markup.encode("utf-8", "replace")
            if (kept := self._spool.put(document, _TYPE, frame.url)) is not None:
                bodies[without_fragment(absolute(frame.asked, url) or frame.url)] = kept
        bodies.pop(url, None)  # as it came; what counts is what it became
        self._brought.hold(trust, bodies)
        fields = {name: value for name, value in visited.fields.items() if not name.startswith("content-")}
        return Reply(
            request,
            url,
            status=200,
            headers={**fields, "content-type": media_type},
            octets=octets,
            size=len(octets),
            is_all=True,
            trust=trust,
            loaded=Loaded(pictures, tuple(visited.flaws), visited.turned),
        )

    def _shot(self, shot: bytes) -> list[Flaw]:
        """Put what a page looked like where the user wants it: of the second page beside that of the first."""
        if not shot:
            return []
        self._shots += 1
        path = Path(self._browsing.shot)
        if self._shots > 1:
            path = path.with_stem(f"{path.stem}-{self._shots}")
        try:
            path.write_bytes(shot)
        except OSError as error:
            with suppress(OSError):  # half a picture is none
                path.unlink()
            return [Flaw("browser", f"--shot {path}: cannot be written: {(error.strerror or str(error)).lower()}")]
        return []


def _logged(address: str, page: str, place: int, trust: Trust) -> Reference:
    """Return a picture that was loaded with a page."""
    return Reference(address, address[:200], page, FoundIn.LOG, "", "", place, trust=trust)


def _addressed(visited: Visited) -> tuple[str, set[str]]:
    """Return the markup of a page with addresses for pictures that a script loaded and handed over as their bytes.

    And which of the addresses that such bytes have for a while (``blob:``) stand for a picture that has another.
    """
    blobs = {answer.asked: hash(answer.body.load()) for answer in visited.answers if answer.url.startswith("blob:")}
    if not blobs:
        return visited.markup, set()
    pictures = [answer for answer in visited.answers if answer.is_picture and answer.asked not in blobs]
    of_bytes = {hash(answer.body.load()): answer.url for answer in pictures}
    written: set[int] = set()

    def addressed(match: re.Match[str]) -> str:
        key = hash(_bytes_in(match[1]))
        written.add(key)
        return of_bytes.get(key, match[0])

    markup = _BYTES.sub(addressed, visited.markup)
    return markup, {asked for asked, key in blobs.items() if key in of_bytes or key in written}


def _document(visited: Visited, markup: str) -> tuple[bytes, str]:
    """Return what a visit came to, and its type: the page with the data that it loaded, or a file as it came."""
    octets = markup.encode("utf-8", "replace")
    if octets:
        loaded = [answer.asked for answer in visited.answers if answer.is_picture]
        return octets + data_blocks((answer.body for answer in visited.answers), (*loaded, *visited.unread)), _TYPE
    came = next((answer for answer in visited.answers if answer.url == visited.url), None)
    if came is None:
        return b"", _TYPE
    return came.body.load(), visited.fields.get("content-type", came.media_type)


def _addressable(answers: Iterable[Answer], base: str) -> Iterator[tuple[str, Answer]]:
    """Yield what was loaded with the address that it was asked for by, as the page at ``base`` resolves it."""
    for answer in answers:
        asked = absolute(answer.asked, base)
        if asked is not None and asked.startswith(("http:", "https:", "blob:")):
            yield without_fragment(asked), answer


def _given_way(visited: Visited) -> set[str]:
    """Return the addresses of the thumbnails that gave way to their originals on the page."""
    came = {answer.asked: answer for answer in visited.answers if answer.is_picture} if visited.replaced else {}
    pairs = ((came.get(before), came.get(after)) for before, after in dict.fromkeys(visited.replaced))
    known = ((before, after) for before, after in pairs if before is not None and after is not None)
    return {
        before.asked
        for before, after in islice(known, _MOST_REPLACED)
        if shows_more(after.body.load(), before.body.load())
    }


def _bytes_in(written: str) -> bytes:
    try:
        return b64decode(written)
    except ValueError:
        return b""


def _leads_inside(url: str) -> bool:
    """Tell whether an address is one of the user's own network: by its name, or by what that leads to."""
    if names_private(url):
        return True
    try:
        found = socket.getaddrinfo(site(url).strip("[]"), None, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        return False
    return all(is_private(str(where[0])) for *_, where in found)
