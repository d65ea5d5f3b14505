"""Requests in line, site by site: each site in its turn, and none beyond its number of connections."""

import time
from collections import deque
from collections.abc import Iterator
from random import uniform

from msgspec import Struct, field

from pickcrate.fetch import patience, robots
from pickcrate.fetch.body import Body
from pickcrate.fetch.cache import Kept
from pickcrate.fetch.exchange import Beginning, Failure, Known, Manners, Reply, Request
from pickcrate.fetch.pace import BROKEN, BUSY, MOST_TRIES, Pace
from pickcrate.fetch.patience import MOST_IN_A_ROW
from pickcrate.values.cause import Cause
from pickcrate.values.trust import PUBLIC, Trust


class Site(Struct):
    """One origin: its requests in line, what is under way, when the next may start, and its rules."""

    origin: str
    waiting: "deque[Errand]" = field(default_factory=deque)
    active: int = 0
    next_at: float = 0.0
    rules: robots.Rules | None = None
    asking_rules: bool = False
    names_private: bool = False
    """its host is spelled as a private address"""
    proxy: str = ""
    """what it is asked through; empty if directly"""
    refusals: int = 0
    """in a row"""
    pace: Pace = field(default_factory=Pace)
    """how fast it is asked, by whoever asks it in this run"""

    def has_room(self, manners: Manners, now: float) -> bool:
        """Tell whether one more request may start."""
        at_once = 1 if self.pace.interval else manners.per_site
        return self.active < at_once and now >= self.next_at

    def begin(self, manners: Manners, now: float) -> None:
        """Note that a request starts, for when the next may."""
        pause = manners.pause * uniform(0.5, 1.5) if manners.pause else 0.0  # noqa: S311 (jitter, no secret)
        if pause or self.pace.interval:
            self.next_at = now + max(pause, self.pace.interval)

    def is_too_much(self, reply: Reply) -> bool:
        """Tell whether a site says, or shows, that it is asked too much: others are answered, and this is refused."""
        broke = reply.failure is not None and reply.failure.cause in BROKEN and not reply.status
        return reply.status in BUSY or (broke and self.pace.has_answered)

    def came(self, reply: Reply, url: str, begun_at: float) -> None:
        """Note what came of a request that was begun at some time."""
        if reply.failure is None:  # as most
            self.refusals = 0
            self.pace.answer()
        elif self.is_too_much(reply):
            self.pace.refuse(url, begun_at, time.monotonic())
            if self.pace.is_hopeless:
                self.refusals = MOST_IN_A_ROW
        elif reply.status:
            self.pace.answer()

    def failed(self, failure: Failure) -> None:
        """Note that a request was given up."""
        self.refusals = self.refusals + 1 if patience.is_refusal(failure) else 0


class Errand(Struct):
    """One request and how far it is: where it was sent on to, what came of it, how often it was tried."""

    request: Request
    site: Site
    """that of ``url``"""
    url: str
    trust: Trust = PUBLIC
    """the request's; less once the public web has sent it on"""
    hops: int = 0
    attempt: int = 0
    body: Body | None = None
    beginning: Beginning | None = None
    """its first bytes, as an earlier run saw them"""
    former: Kept | None = None
    """the answer of an earlier run, which may still be the right one"""
    for_rules: bool = False
    drops_form: bool = False
    was_refused: bool = False
    takes_as_sent: bool = False
    """its body is not unpacked: an answer before was not packed as it said"""

    @property
    def form(self) -> str:
        """The form that is sent: a redirect may have turned POST into GET."""
        return "" if self.drops_form else self.request.form

    @property
    def known(self) -> Known | None:
        """The validators to ask with: of what the asker has, or of what an earlier run was answered here."""
        if self.request.known is not None or self.former is None or self.url != self.former.reply.url:
            return self.request.known
        fields = self.former.reply.headers
        return Known(fields.get("etag", ""), fields.get("last-modified", ""))

    def wait(self, manners: Manners, reply: Reply, failure: Failure) -> float | None:
        """Return the seconds to wait before the next try; None if there is none.

        At a busy site that is asked at its pace it is tried as often as it takes.
        """
        pace = self.site.pace
        is_paced = pace.interval > 0 and manners.retries > 0 and self.site.is_too_much(reply)
        if self.attempt >= (MOST_TRIES if is_paced else manners.retries) or self.site.refusals >= MOST_IN_A_ROW:
            return None
        # A host that was known a moment ago: it is the network that is gone.
        if failure.cause is Cause.HOST and pace.has_answered:
            failure = Failure(Cause.REFUSED, failure.words)
        asked = patience.wait(failure, reply.status, reply.headers, self.attempt)
        return pace.interval if is_paced and asked is not None and "retry-after" not in reply.headers else asked

    def go(self, site: Site, url: str, trust: Trust, *, with_form: bool) -> None:
        """Go on to where an answer sends it, trusted as the answer is."""
        self.drops_form |= not with_form
        self.site, self.url, self.trust, self.hops = site, url, trust, self.hops + 1

    def drop(self) -> None:
        """Throw away what came of it so far."""
        if self.body is not None:
            self.body.close()

    def start_over(self, site: Site) -> None:
        """Go back to the request's own address for another try."""
        self.site, self.url, self.trust, self.hops = site, self.request.url, self.request.trust, 0
        self.drops_form = False
        self.attempt += 1


class Line:
    """The errands of one batch that are drawn and wait, site by site, each site in its turn."""

    def __init__(self, source: Iterator[Request]) -> None:
        self.waiting = 0
        self._source = source
        self._drawn_out = False
        self._sites: deque[Site] = deque()

    @property
    def is_over(self) -> bool:
        """Whether every request was drawn and taken."""
        return self._drawn_out and not self.waiting

    @property
    def next_at(self) -> float:
        """When the first site that pauses may go on."""
        return min((site.next_at for site in self._sites), default=0.0)

    def draw(self) -> Request | None:
        """Return the next request of the batch, or None if that was all."""
        request = None if self._drawn_out else next(self._source, None)
        self._drawn_out = request is None
        return request

    def add(self, errand: Errand) -> None:
        """Put an errand behind those that wait for its site."""
        site = errand.site
        if not site.waiting:
            self._sites.append(site)
        site.waiting.append(errand)
        self.waiting += 1

    def take(self, site: Site) -> None:
        """Take a site's first errand out of the line."""
        site.waiting.popleft()
        self.waiting -= 1

    def turn(self) -> Iterator[Site]:
        """Yield each site in line once; those with requests left go to the end of the line."""
        for _ in range(len(self._sites)):
            site = self._sites.popleft()
            yield site
            if site.waiting:
                self._sites.append(site)
