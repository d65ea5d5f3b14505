"""The transfer loop: libcurl's multi interface, a few connections a site, robots.txt before a site's first answer.

Requests are drawn from their iterable only as there is room, so a list of a million addresses costs no memory.
"""

import os
import signal
import threading
import time
from collections import deque
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import lru_cache
from random import uniform
from types import FrameType
from typing import Any, BinaryIO

import pycurl

from pickcrate.addresses import is_web, origin
from pickcrate.fetch import failures, robots
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Failure, Manners, Reply, Request, Traffic

MEMORY_BYTES = 1_000_000
"""A body larger than this goes to the request's spool, if it has one."""

_LOOKAHEAD = 256
"""Requests drawn ahead and waiting, so that one slow site does not keep the others idle."""

_TICK = 0.1
_MAX_REDIRECTS = 10


class _Body:
    """Takes a body as it arrives: in memory at first, then in a spool; stops it at ``limit`` bytes."""

    __slots__ = ("chunks", "error", "file", "is_enough", "limit", "moved_at", "request", "size")

    def __init__(self, request: Request, limit: int) -> None:
        self.request = request
        self.limit = limit
        self.chunks: list[bytes] = []
        self.size = 0
        self.file: BinaryIO | None = None
        self.error: OSError | None = None
        self.is_enough = False
        self.moved_at = time.monotonic()

    def write(self, chunk: bytes) -> int | None:
        """Take one chunk; anything but None makes libcurl end the transfer."""
        self.size += len(chunk)
        self.moved_at = time.monotonic()
        if self.size > self.limit:
            return -1
        if self.request.first and self.size >= self.request.first:
            self.chunks.append(chunk)
            self.is_enough = True
            return -1
        try:
            if self.file is not None:
                self.file.write(chunk)
                return None
            self.chunks.append(chunk)
            if self.size > MEMORY_BYTES and self.request.spool is not None:
                self.file = self.request.spool()
                self.file.writelines(self.chunks)
                self.chunks.clear()
        except OSError as error:  # a full disk; raised again outside libcurl's callback
            self.error = error
            return -1
        return None

    def close(self) -> None:
        """Throw away what came."""
        if self.file is not None:
            self.file.close()


@dataclass(slots=True)
class _Site:
    """One origin: its requests in line, what is under way, when the next may start, and its rules."""

    origin: str
    waiting: deque[Request] = field(default_factory=deque)
    active: int = 0
    next_at: float = 0.0
    rules: robots.Rules | None = None
    asking_rules: bool = False

    def has_room(self, manners: Manners, now: float) -> bool:
        """Tell whether one more request may start."""
        return self.active < manners.per_site and now >= self.next_at


class _Line:
    """The requests of one batch that are drawn and wait, site by site, each site in its turn."""

    def __init__(self, source: Iterator[Request]) -> None:
        self.waiting = 0
        self._source = source
        self._drawn_out = False
        self._sites: deque[_Site] = deque()

    @property
    def is_over(self) -> bool:
        return self._drawn_out and not self.waiting

    @property
    def next_at(self) -> float:
        return min((site.next_at for site in self._sites), default=0.0)

    def draw(self) -> Request | None:
        request = None if self._drawn_out else next(self._source, None)
        self._drawn_out = request is None
        return request

    def add(self, site: _Site, request: Request) -> None:
        if not site.waiting:
            self._sites.append(site)
        site.waiting.append(request)
        self.waiting += 1

    def take(self, site: _Site) -> None:
        site.waiting.popleft()
        self.waiting -= 1

    def turn(self) -> Iterator[_Site]:
        """Yield each site in line once; those with requests left go to the end of the line."""
        for _ in range(len(self._sites)):
            site = self._sites.popleft()
            yield site
            if site.waiting:
                self._sites.append(site)


@dataclass(slots=True)
class _Transfer:
    """One request under way on a handle."""

    request: Request
    site: _Site
    body: _Body
    header_lines: list[bytes]
    for_rules: bool = False


class CurlFetcher:
    """The fetcher over libcurl; one to a run, so that connections and robots.txt are reused between batches."""

    def __init__(self, manners: Manners, brought: Brought, rules: dict[str, robots.Rules] | None = None) -> None:
        """Make a fetcher; ``rules`` is what was learnt of sites' robots.txt, shared by the fetchers of one run."""
        self.manners = manners
        self._rules = rules if rules is not None else {}
        self.brought = brought
        self._multi = pycurl.CurlMulti()
        self._idle: list[pycurl.Curl] = []
        self._sites: dict[str, _Site] = {}
        self._active: dict[pycurl.Curl, _Transfer] = {}
        self._received = 0

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, as they come, and a Traffic ten times a second.

        Raises OSError when a spool cannot be written, KeyboardInterrupt on Ctrl-C.
        """
        line = _Line(iter(requests))
        last_tick = time.monotonic()
        try:
            with _interrupt_between_callbacks() as check_interrupt:
                while True:
                    yield from self._draw(line)
                    yield from self._start(line)
                    if line.is_over and not self._active:
                        return
                    self._multi.perform()
                    yield from self._finished()
                    check_interrupt()
                    now = time.monotonic()
                    if now - last_tick >= _TICK:
                        last_tick = now
                        yield from self._stalled(now)
                        yield self._traffic()
                    if self._active:
                        self._multi.select(_TICK)
                    elif line.waiting:
                        time.sleep(min(_TICK, max(0.0, line.next_at - now)))
        finally:
            self._abandon()

    def close(self) -> None:
        """Close all connections."""
        self._abandon()
        for handle in self._idle:
            handle.close()
        self._idle.clear()
        self._multi.close()

    def _site(self, url: str) -> _Site:
        key = origin(url)
        site = self._sites.get(key)
        if site is None:
            known = self._rules.get(key) if self.manners.robots else robots.Anything()
            site = self._sites[key] = _Site(key, rules=known)
        return site

    def _draw(self, line: "_Line") -> Iterator[Reply]:
        """Draw requests into the line while there is room; yield what needs no network at once."""
        while line.waiting < _LOOKAHEAD and (request := line.draw()) is not None:
            at_hand = self.brought.answer(request, self.manners.max_file)
            if at_hand is not None:
                yield at_hand
            else:
                line.add(self._site(request.url), request)

    def _start(self, line: "_Line") -> Iterator[Reply]:
        """Start what may start now; yield the replies to requests that a site's robots.txt refuses."""
        now = time.monotonic()
        for site in line.turn():
            while site.waiting and len(self._active) < self.manners.at_once and site.has_room(self.manners, now):
                request = site.waiting[0]
                if not request.named and site.rules is None:
                    if not site.asking_rules:
                        site.asking_rules = True
                        self._begin(Request(f"{site.origin}/robots.txt", named=True), site, for_rules=True)
                    break
                line.take(site)
                refusal = site.rules.refusal(request.url) if site.rules and not request.named else None
                if refusal is not None:
                    yield Reply(request, request.url, failure=refusal)
                    continue
                self._begin(request, site)
                if self.manners.pause:
                    site.next_at = now + self.manners.pause * uniform(0.5, 1.5)  # noqa: S311 (jitter, no secret)

    def _traffic(self) -> Traffic:
        under_way = self._active.values()
        received = self._received + sum(transfer.body.size for transfer in under_way)
        return Traffic(received, tuple(transfer.request.url for transfer in under_way))

    def _begin(self, request: Request, site: _Site, *, for_rules: bool = False) -> None:
        handle = self._idle.pop() if self._idle else self._new_handle()
        limit = robots.MAX_BYTES if for_rules else self.manners.max_file
        transfer = _Transfer(request, site, _Body(request, limit), [], for_rules)
        handle.setopt(pycurl.URL, request.url)
        if request.url.startswith("https:") and (trusted := _trusted_certificates()):
            handle.setopt(pycurl.CAINFO, trusted)
        fields = [f"Accept: {request.accept}"]
        if request.first:
            fields += [f"Range: bytes=0-{request.first - 1}", "Accept-Encoding: identity"]
        handle.setopt(pycurl.HTTPHEADER, fields)
        # As browsers do by default (Referrer Policy, 3.7): another site learns the origin only.
        referer = request.referer if origin(request.referer) == site.origin else f"{origin(request.referer)}/"
        handle.setopt(pycurl.REFERER, referer if is_web(request.referer) else "")
        handle.setopt(pycurl.WRITEFUNCTION, transfer.body.write)
        handle.setopt(pycurl.HEADERFUNCTION, transfer.header_lines.append)
        self._active[handle] = transfer
        site.active += 1
        self._multi.add_handle(handle)

    def _new_handle(self) -> pycurl.Curl:
        handle = pycurl.Curl()
        options: dict[int, Any] = {
            pycurl.NOSIGNAL: 1,
            pycurl.PROTOCOLS: pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS,
            pycurl.REDIR_PROTOCOLS: pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS,
            pycurl.FOLLOWLOCATION: 1,
            pycurl.MAXREDIRS: _MAX_REDIRECTS,
            pycurl.PATH_AS_IS: 1,
            pycurl.ACCEPT_ENCODING: "",
            pycurl.OPT_FILETIME: 1,
            pycurl.USERAGENT: self.manners.user_agent,
            pycurl.CONNECTTIMEOUT_MS: max(1, int(self.manners.timeout * 1000)),
        }
        for option, value in options.items():
            handle.setopt(option, value)
        return handle

    def _finished(self) -> Iterator[Reply]:
        more = 1
        while more:
            more, succeeded, failed = self._multi.info_read()
            for handle in succeeded:
                yield from self._settle(handle, None)
            for handle, code, words in failed:
                yield from self._settle(handle, failures.of_transfer(code, words))

    def _stalled(self, now: float) -> Iterator[Reply]:
        """Give up what has not moved for too long (libcurl's own watch takes an average, and longer)."""
        late = now - self.manners.timeout
        for handle in [handle for handle, transfer in self._active.items() if transfer.body.moved_at < late]:
            yield from self._settle(handle, failures.of_transfer(pycurl.E_OPERATION_TIMEDOUT, ""))

    def _settle(self, handle: pycurl.Curl, failure: Failure | None) -> Iterator[Reply]:
        transfer = self._active.pop(handle)
        transfer.site.active -= 1
        self._received += transfer.body.size
        reply = _reply(handle, transfer, failure)
        self._multi.remove_handle(handle)
        self._idle.append(handle)
        if transfer.body.error is not None:
            transfer.body.close()
            raise transfer.body.error
        if transfer.for_rules:
            transfer.site.rules = self._rules[transfer.site.origin] = robots.rules(reply)
        else:
            yield reply

    def _abandon(self) -> None:
        """Drop what is under way: the batch was left before its end."""
        for handle, transfer in self._active.items():
            self._multi.remove_handle(handle)
            handle.close()
            transfer.body.close()
        self._active.clear()
        for site in self._sites.values():
            site.active = 0
            site.waiting.clear()
            site.asking_rules = False


def _reply(handle: pycurl.Curl, transfer: _Transfer, failure: Failure | None) -> Reply:
    body = transfer.body
    status = int(handle.getinfo(pycurl.RESPONSE_CODE))
    if body.is_enough:
        failure = None
    elif body.size > body.limit:
        failure = failures.of_transfer(pycurl.E_FILESIZE_EXCEEDED, "")
    failure = failure or failures.of_status(status)
    if failure is not None:
        body.close()
        body.file = None
    elif body.file is not None:
        body.file.flush()
    modified = int(handle.getinfo(pycurl.INFO_FILETIME))
    return Reply(
        request=transfer.request,
        url=str(handle.getinfo(pycurl.EFFECTIVE_URL)),
        status=status,
        headers=_headers(transfer.header_lines),
        octets=b"".join(body.chunks),
        spooled=body.file,
        size=body.size,
        modified=modified if modified >= 0 else None,
        failure=failure,
    )


def _headers(lines: list[bytes]) -> dict[str, str]:
    """Return the last response's fields (RFC 9112, section 5); repeated ones are joined by a comma."""
    fields: dict[str, str] = {}
    for line in lines:
        if line.startswith(b"HTTP/"):
            fields.clear()
            continue
        name, colon, value = line.decode("latin-1").partition(":")
        if colon:
            name, value = name.strip().lower(), value.strip()
            fields[name] = f"{fields[name]}, {value}" if name in fields else value
    return fields


@lru_cache(maxsize=1)
def _trusted_certificates() -> str:
    """Return the file of trusted certificates: SSL_CERT_FILE, else the system's, else libcurl's own (empty)."""
    import ssl  # noqa: PLC0415 (not for plain HTTP)

    paths = ssl.get_default_verify_paths()
    chosen = os.environ.get("SSL_CERT_FILE") or paths.cafile or ""
    if not chosen:
        # An interpreter built elsewhere may look in a place that this system does not have.
        usual = (
            "/etc/ssl/certs/ca-certificates.crt",
            "/etc/pki/tls/certs/ca-bundle.crt",
            "/etc/ssl/cert.pem",
        )
        chosen = next((path for path in usual if os.path.exists(path)), "")  # noqa: PTH110 (start-up stays light)
    return chosen


@contextmanager
def _interrupt_between_callbacks() -> Iterator[Any]:
    """Hold Ctrl-C until the loop asks: raised inside a libcurl callback it would be printed and lost.

    A second Ctrl-C is not held. Outside the main thread signals are somebody else's business.
    """
    pressed = False

    def check() -> None:
        if pressed:
            raise KeyboardInterrupt

    if threading.current_thread() is not threading.main_thread():
        yield check
        return

    def note(_number: int, _frame: FrameType | None) -> None:
        nonlocal pressed
        if pressed:
            raise KeyboardInterrupt
        pressed = True

    before = signal.signal(signal.SIGINT, note)
    try:
        yield check
    finally:
        signal.signal(signal.SIGINT, before)
