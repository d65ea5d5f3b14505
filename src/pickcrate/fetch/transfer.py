"""The transfer loop: libcurl's multi interface, a few connections a site, robots.txt before a site's first answer.

Requests are drawn from their iterable only as there is room, so a list of a million addresses costs no memory.
"""

import heapq
import itertools
import socket
import time
from collections import deque
from collections.abc import Iterable, Iterator
from typing import Any

import pycurl
from msgspec.structs import replace

from pickcrate.addresses.url import is_web, origin, site as host_of, without_userinfo
from pickcrate.fetch import failures, patience, private, redirect, resultcodes, robots
from pickcrate.fetch.body import Allowance, Body
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.cache import Kept, strong_validator
from pickcrate.fetch.exchange import Beginning, Failure, Manners, Reply, Request, Traffic
from pickcrate.fetch.finished import reply_of
from pickcrate.fetch.handles import Handle, trusted_certificates
from pickcrate.fetch.interrupt import interrupt_between_callbacks
from pickcrate.fetch.line import Errand, Line, Site
from pickcrate.fetch.pace import Pace
from pickcrate.fetch.proxy import proxy_for
from pickcrate.fetch.shared import Descriptor, Shared
from pickcrate.values.cause import Cause
from pickcrate.values.trust import Trust

_LOOKAHEAD, _FURTHEST = 256, 4_096
"""Requests drawn ahead and waiting, so that a slow site does not keep others idle: as a rule, and while it does."""

_STEP = 16
"""Requests drawn beyond that at a time: pages may have to be read for them, for which what is under way waits."""

_SLOWEST = 32.0
"""Bytes a second: what comes more slowly counts as nothing."""

_TICK = 0.1


class CurlFetcher:
    """The fetcher over libcurl; one batch at a time, its connections reused between batches."""

    def __init__(self, manners: Manners, brought: Brought, shared: Shared) -> None:
        self.manners = manners
        self.brought = brought
        self._shared = shared
        self._multi = pycurl.CurlMulti()
        self._idle: list[Handle] = []
        self._sites: dict[str, Site] = {}
        self._active: dict[pycurl.Curl, tuple[Handle, Errand]] = {}
        self._line = Line(iter(()))
        self._slowed: dict[str, None] = {}
        self._received = 0
        self._allowance = Allowance(manners.max_total)
        self._delayed: list[tuple[float, int, Errand]] = []
        self._count = itertools.count()
        self._own_fields = {said.partition(":")[0].strip().lower() for said in manners.fields}

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, as they come, and a Traffic ten times a second.

        Raises OSError when a spool cannot be written, KeyboardInterrupt on Ctrl-C.
        """
        line = self._line = Line(iter(requests))
        last_tick = time.monotonic()
        finished = deque[Reply]()
        try:
            with interrupt_between_callbacks() as asked_to_end:
                while True:
                    yield from self._draw(line)
                    yield from self._start(line)
                    # The next requests are on their way before who asked takes the time for what came.
                    self._multi.perform()
                    yield from _taken(finished)
                    finished.extend(self._finished())
                    if number := asked_to_end():
                        yield from _taken(finished)  # nothing that came is lost
                        raise KeyboardInterrupt(number)
                    if not finished and line.is_over and not self._active and not self._delayed:
                        return
                    now = time.monotonic()
                    if now - last_tick >= _TICK:
                        last_tick = now
                        yield from self._stalled(now)
                        yield self._traffic()
                    if finished:
                        continue
                    if self._active:
                        self._multi.select(_TICK)
                    elif line.waiting or self._delayed:
                        due = min(
                            [*([line.next_at] if line.waiting else []), *(entry[0] for entry in self._delayed[:1])]
                        )
                        if due > now:
                            time.sleep(min(_TICK, due - now))
        finally:
            for reply in finished:
                if reply.spooled is not None:
                    reply.spooled.close()
            self._abandon()
            self._shared.cache.commit()

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source brought along for an address; empty if it did not."""
        return self.brought.version(url, trust)

    def close(self) -> None:
        """Close all connections."""
        self._abandon()
        for handle in self._idle:
            handle.curl.close()
        self._idle.clear()
        self._multi.close()

    def _site(self, url: str) -> Site:
        key = origin(url)
        site = self._sites.get(key)
        if site is None:
            known = self._shared.rules.get(key) if self.manners.robots else robots.Anything()
            proxy = proxy_for(url, self.manners.proxy)
            pace = self._shared.paces.setdefault(key, Pace())
            site = Site(key, rules=known, names_private=private.names_private(url), proxy=proxy, pace=pace)
            self._sites[key] = site
        return site

    def _draw(self, line: Line) -> Iterator[Reply]:
        """Draw requests into the line while there is room; yield what needs no network at once."""
        is_idle = len(self._active) < self.manners.at_once and line.waiting >= _LOOKAHEAD
        ahead = min(line.waiting + _STEP, _FURTHEST) if is_idle else _LOOKAHEAD
        while line.waiting < ahead and (request := line.draw()) is not None:
            at_hand = self.brought.answer(request, self.manners.max_file) or self._kept(request)
            if isinstance(at_hand, Reply):
                yield at_hand
            else:
                errand = Errand(request, self._site(request.url), request.url, request.trust, beginning=at_hand)
                line.add(errand)

    def _kept(self, request: Request) -> Reply | Beginning | None:
        """Return the answer that an earlier run got, its cookies set as they were then; or its first bytes."""
        kept = self._shared.cache.answer(request) if request.known is None else None
        if kept is None or isinstance(kept, Beginning):
            return kept
        if kept.is_private:
            self._shared.private_origins.add(origin(request.url))
            if not self._may_be_private(request.trust):
                return None
        self._shared.set_cookies(kept.cookies)
        return replace(kept.reply, trust=request.trust if kept.is_private else request.trust.fallen())

    def _start(self, line: Line) -> Iterator[Reply]:
        """Start what may start now; yield the replies to requests that a site's robots.txt refuses."""
        now = time.monotonic()
        while self._delayed and self._delayed[0][0] <= now and len(self._active) < self.manners.at_once:
            _, count, errand = heapq.heappop(self._delayed)
            forbidden = self._forbidden(errand, errand.site) if not errand.for_rules else None
            if forbidden is not None:
                errand.drop()
                yield Reply(errand.request, errand.url, failure=forbidden)
            elif errand.site.has_room(self.manners, now):
                self._begin(errand)
                errand.site.begin(self.manners, now)
            else:
                heapq.heappush(self._delayed, (now + _TICK, count, errand))
        for site in line.turn():
            while site.waiting and len(self._active) < self.manners.at_once and site.has_room(self.manners, now):
                errand = site.waiting[0]
                request = errand.request
                forbidden = self._forbidden(errand, site)
                if forbidden is not None:
                    line.take(site)
                    yield Reply(request, errand.url, failure=forbidden)
                    continue
                if not request.named and site.rules is None:
                    if not site.asking_rules:
                        self._ask_rules(site, request)
                    if site.rules is None:
                        break
                line.take(site)
                refusal = site.rules.refusal(errand.url) if site.rules and not request.named else None
                if refusal is not None:
                    yield Reply(request, errand.url, failure=refusal)
                    continue
                self._begin(errand)
                site.begin(self.manners, now)

    def _ask_rules(self, site: Site, asker: Request) -> None:
        """Ask for a site's robots.txt; it may be at a private address if the request that needs it may."""
        trust = Trust(0, asker.trust.private)
        request = Request(f"{site.origin}/robots.txt", named=True, referer=asker.referer, trust=trust, asks_anew=True)
        site.asking_rules = True
        self._begin(Errand(request, site, request.url, request.trust, for_rules=True))

    def _traffic(self) -> Traffic:
        under_way = [errand for _, errand in self._active.values()]
        received = self._received + sum(errand.body.size for errand in under_way if errand.body is not None)
        return Traffic(received, tuple(errand.request.url for errand in under_way), tuple(self._slowed))

    def _forbidden(self, errand: Errand, site: Site) -> Failure | None:
        """Return why nothing at all is asked of an errand's site."""
        if site.refusals >= patience.MOST_IN_A_ROW:
            return patience.LEFT_ALONE
        if errand.request.spool is not None and self._allowance.is_spent:
            return failures.BEYOND
        is_known = site.names_private or site.origin in self._shared.private_origins
        if is_known and not self._may_be_private(errand.trust):
            return private.REFUSED
        return None

    def _may_be_private(self, trust: Trust) -> bool:
        return trust.private or self.manners.allow_private

    def _came_privately(self, curl: pycurl.Curl, errand: Errand) -> bool:
        """Tell whether an answer came from a private address: what counts is not where its name was tried."""
        if errand.site.proxy:
            return errand.site.names_private
        return private.is_private(curl.getinfo(pycurl.PRIMARY_IP) or "")

    def _trust_of_answer(self, errand: Errand, *, is_private: bool) -> Trust:
        """Return how far an answer is trusted: whoever owns a name may put a private address beside a public one."""
        site = errand.site
        if is_private and not site.names_private and not site.proxy and private.is_mixed(host_of(errand.url)):
            self._shared.mixed_origins.add(site.origin)
            return errand.trust.fallen()
        if is_private:
            self._shared.private_origins.add(site.origin)
        return errand.trust if is_private else errand.trust.fallen()

    def _begin(self, errand: Errand) -> None:
        request = errand.request
        if errand.body is None:
            limit = self.manners.max_file
            most = robots.MAX_BYTES if errand.for_rules else min(limit, request.most or limit)
            errand.body = Body(request, most, self._allowance, cuts=errand.for_rules)
            if request.spool is None and not (request.first or request.form or request.known):
                errand.former = self._shared.cache.former(request)
            if errand.beginning is not None:
                errand.body.resume(errand.beginning.validator, errand.beginning.octets)
        self._send(errand, errand.body)

    def _send(self, errand: Errand, body: Body) -> None:
        """Put an errand under way: a first try, or another."""
        request, site, url = errand.request, errand.site, errand.url
        handle = self._idle.pop() if self._idle else Handle(self.manners, self._shared.share, self._open_socket)
        self._shared.set_for(request)
        handle.curl.setopt(pycurl.URL, url)
        if url.startswith("https:") and (trusted := trusted_certificates()):
            handle.tell(pycurl.CAINFO, trusted)
        if request.typed and not errand.hops:
            self._shared.typed_origins.add(site.origin)
        is_typed, mixed = site.origin in self._shared.typed_origins, self._shared.mixed_origins
        fields = list(self.manners.fields) if is_typed else []
        if not (is_typed and "accept" in self._own_fields):
            fields.append(f"Accept: {request.accept}")
        if request.referer and not (is_typed and "referer" in self._own_fields):
            fields.append(f"Referer: {_told_referer(request.referer, site, url)}")
        if request.first:
            fields += [f"Range: bytes=0-{request.first - 1}", "Accept-Encoding: identity"]
        elif (known := errand.known) is not None and not body.resumes:
            conditions = ("If-None-Match", known.etag), ("If-Modified-Since", known.last_modified)
            fields += [f"{name}: {value}" for name, value in conditions if value]
        elif body.resumes:
            fields += [f"Range: bytes={body.size}-", f"If-Range: {body.validator}", "Accept-Encoding: identity"]
        if errand.takes_as_sent:
            fields.append("Accept-Encoding: identity")
        handle.tell_all(
            (pycurl.HTTPHEADER, fields),
            (pycurl.HTTP_CONTENT_DECODING, not errand.takes_as_sent),
            (pycurl.NETRC, pycurl.NETRC_OPTIONAL if is_typed else pycurl.NETRC_IGNORED),
            (pycurl.PROXY, site.proxy),
            (pycurl.FRESH_CONNECT, site.origin in mixed and not self._may_be_private(errand.trust)),
        )
        handle.send_form(errand.form)
        handle.curl.setopt(pycurl.WRITEFUNCTION, body.write)
        handle.curl.setopt(pycurl.HEADERFUNCTION, body.header_lines.append)
        body.begin()
        handle.errand = errand
        self._active[handle.curl] = handle, errand
        site.active += 1
        self._multi.add_handle(handle.curl)

    def _open_socket(self, handle: Handle, _purpose: int, address: Any) -> Any:
        """Open a connection, unless it would lead to a private address that is not allowed: at each hop."""
        family, kind, protocol, where = address
        host = where[0].decode() if isinstance(where[0], bytes) else str(where[0])
        errand = handle.errand
        if errand is None:
            return pycurl.SOCKET_BAD
        is_checked = not errand.site.proxy
        if is_checked and not self._may_be_private(errand.trust) and private.is_private(host):
            errand.was_refused = True
            return pycurl.SOCKET_BAD
        return Descriptor(socket.socket(family, kind, protocol).detach())

    def _finished(self) -> Iterator[Reply]:
        more = 1
        while more:
            more, succeeded, failed = self._multi.info_read()
            for curl in succeeded:
                if (reply := self._settle(curl, None)) is not None:
                    yield reply
            for curl, code, words in failed:
                if (reply := self._settle(curl, resultcodes.of_transfer(code, words))) is not None:
                    yield reply

    def _stalled(self, now: float) -> Iterator[Reply]:
        """Give up what has not moved for too long (libcurl's own watch takes an average, and longer)."""
        slowest = min(_SLOWEST, self.manners.rate / self.manners.at_once / 2) if self.manners.rate else _SLOWEST
        for curl, (_, errand) in list(self._active.items()):
            if errand.body is not None and errand.body.is_stuck(now, self.manners.timeout, slowest):
                reply = self._settle(curl, resultcodes.of_transfer(pycurl.E_OPERATION_TIMEDOUT, ""))
                if reply is not None:
                    yield reply

    def _settle(self, curl: pycurl.Curl, failure: Failure | None) -> Reply | None:
        """Return the reply that a finished transfer is; None if it goes on: elsewhere, or with another try."""
        handle, errand = self._active.pop(curl)
        body = errand.body
        assert body is not None  # noqa: S101 (it was sent with one)
        errand.site.active -= 1
        self._received += body.size
        is_private = bool(body.header_lines) and self._came_privately(curl, errand)
        if is_private and not self._may_be_private(errand.trust):  # over a connection opened for somebody else
            errand.was_refused, failure = True, private.REFUSED
        trust = self._trust_of_answer(errand, is_private=is_private)
        reply = reply_of(curl, errand, body, failure, trust)
        if reply.status == 304 and errand.former is not None and failure is None:
            reply = self._confirmed(errand.former, reply)
        is_sent_on = failure is None and redirect.is_redirect(reply.status, reply.headers)
        if not is_sent_on and errand.request.spool is None:
            self._keep(curl, body, reply, is_private=is_private)
        self._multi.remove_handle(curl)
        self._idle.append(handle)
        if is_sent_on:
            dead_end = self._send_on(errand, reply)
            if dead_end is None:
                return None
            reply = dead_end
        if body.error is not None:
            body.close()
            raise body.error
        errand.site.came(reply, errand.url, body.begun_at)
        if reply.failure is not None:
            if errand.site.pace.interval:
                self._slowed[errand.site.origin] = None
            if self._tries_again(errand, body, reply, reply.failure):
                return None
            body.close()
            errand.site.failed(reply.failure)
        if not errand.for_rules:
            return reply
        site = self._site(errand.request.url)
        site.rules = self._shared.rules[site.origin] = robots.rules(reply)
        return None

    def _confirmed(self, former: Kept, reply: Reply) -> Reply:
        """Return a former answer that its server calls unchanged, with what is new in its fields (RFC 9111, 4.3.4)."""
        self._shared.set_cookies(former.cookies)
        fresh = {name: value for name, value in reply.headers.items() if not name.startswith("content-")}
        return replace(former.reply, headers={**former.reply.headers, **fresh}, trust=reply.trust, age=None)

    def _send_on(self, errand: Errand, reply: Reply) -> Reply | None:
        """Follow a redirect: at once on its own site, else in the line of the site that it leads to.

        Returns a reply if it cannot be followed.
        """
        url = redirect.target(reply.headers, errand.url)
        if url is None or errand.hops >= redirect.MOST_HOPS:
            return replace(reply, failure=redirect.ASTRAY if url is None else redirect.LOOP)
        here, there = errand.site, self._site(url)
        errand.go(there, url, reply.trust, with_form=reply.status in redirect.KEEP_METHOD)
        if there is not here and not errand.for_rules:
            self._line.add(errand)
            return None
        if (forbidden := self._forbidden(errand, there)) is not None:
            return replace(reply, url=url, failure=forbidden)
        refusal = here.rules.refusal(url) if here.rules is not None and not errand.request.named else None
        if refusal is not None:
            return replace(reply, url=url, failure=refusal)
        self._begin(errand)
        return None

    def _tries_again(self, errand: Errand, body: Body, reply: Reply, failure: Failure) -> bool:
        """Put what failed and may pass in line for another try; what came of it is continued if it can be."""
        if failure.cause is Cause.ENCODING and not errand.takes_as_sent:  # many say gzip, or UTF-8, of what is plain
            errand.takes_as_sent = True
            delay: float | None = 0.0
        else:
            delay = errand.wait(self.manners, reply, failure)
        if delay is None:
            return False
        validator = strong_validator(reply.headers) if reply.status in {200, 206} else ""
        if validator and body.size and failure.cause in {Cause.CUT, Cause.RESET, Cause.TIMEOUT} and not body.is_enough:
            body.resume(validator)
        else:
            body.restart()
        when = time.monotonic() + delay
        if "retry-after" in reply.headers:
            errand.site.next_at = max(errand.site.next_at, when)
        errand.start_over(self._site(errand.request.url))
        heapq.heappush(self._delayed, (when, next(self._count), errand))
        return True

    def _keep(self, curl: pycurl.Curl, body: Body, reply: Reply, *, is_private: bool) -> None:
        """Keep an answer for the runs to come, with the cookies that came on the way to it."""
        if not reply.status:
            return
        sets_some = any(line.lower().startswith(b"set-cookie:") for line in body.header_lines)
        # The jar holds what the user brought as well, and that is written down nowhere.
        cookies = curl.getinfo(pycurl.INFO_COOKIELIST) if sets_some and not self.manners.cookies else []
        whole = body.is_whole(reply.status, dict(reply.headers))
        self._shared.cache.keep(reply, is_whole=whole, cookies=tuple(cookies), is_private=is_private)

    def _abandon(self) -> None:
        """Drop what is under way: the batch was left before its end."""
        for curl in self._active:
            self._multi.remove_handle(curl)
            curl.close()
        under_way = (errand for _, errand in self._active.values())
        for errand in (*under_way, *(entry[2] for entry in self._delayed)):
            errand.drop()
        self._active.clear()
        self._delayed.clear()
        for site in self._sites.values():
            site.active = 0
            site.waiting.clear()
            site.asking_rules = False


def _taken(replies: deque[Reply]) -> Iterator[Reply]:
    """Yield replies and let go of each: who takes one is to close it."""
    while replies:
        yield replies.popleft()


def _told_referer(page: str, site: Site, url: str) -> str:
    """Return what a site is told of the page that asks: as browsers do by default (Referrer Policy, 3.7).

    Another site learns the origin only. RFC 9110, 10.1.3: without user information, and an https page tells http
    nothing.
    """
    if not is_web(page) or (page.startswith("https:") and url.startswith("http:")):
        return ""
    asking = origin(page)
    return without_userinfo(page) if asking == site.origin else f"{asking}/"
