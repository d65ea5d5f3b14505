"""Requests in line, site by site: each site in its turn, and none beyond its number of connections."""

import time
from collections import deque
from collections.abc import Iterator
from random import uniform

from msgspec import Struct, field

from pickcrate.fetch import robots
from pickcrate.fetch.body import Body
from pickcrate.fetch.cache import Kept
from pickcrate.fetch.exchange import Beginning, Known, Manners, Request
from pickcrate.fetch.pace import BUSY, MOST_TRIES, Pace
from pickcrate.fetch.patience import MOST_IN_A_ROW
from pickcrate.values import PUBLIC, Trust


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
    is_mixed: bool = False
    """its name has private addresses beside public ones: a connection that is there may lead to either"""
    proxy: str = ""
    """what it is asked through; empty if directly"""
    refusals: int = 0
    """in a row"""
    pace: Pace | None = None
    """at which it is asked, once it said that it is asked too much"""

    def has_room(self, manners: Manners, now: float) -> bool:
        """Tell whether one more request may start."""
        at_once = 1 if self.pace is not None and self.pace.interval else manners.per_site
        return self.active < at_once and now >= self.next_at

    def begin(self, manners: Manners, now: float) -> None:
        """Note that a request starts, for when the next may."""
        pause = manners.pause * uniform(0.5, 1.5) if manners.pause else 0.0  # noqa: S311 (jitter, no secret)
        pause = max(pause, self.pace.interval) if self.pace is not None else pause
        if pause:
            self.next_at = now + pause

    def answered(self, status: int, url: str, begun_at: float) -> None:
        """Note what came of a request that was begun at some time."""
        if status in BUSY:
            self.pace = self.pace or Pace()
            self.pace.refuse(url, begun_at, time.monotonic())
            if self.pace.is_hopeless:
                self.refusals = MOST_IN_A_ROW
        elif self.pace is not None and status:
            self.pace.answer()


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

    def most_tries(self, manners: Manners, status: int) -> int:
        """Return how often it may be tried: of a busy site that is asked at its pace as often as it takes."""
        is_paced = status in BUSY and self.site.pace is not None and self.site.pace.interval > 0
        return MOST_TRIES if is_paced and manners.retries else manners.retries

    def go(self, site: Site, url: str, trust: Trust, *, with_form: bool) -> None:
        """Go on to where an answer sends it, trusted as the answer is."""
        self.drops_form |= not with_form
        self.site, self.url, self.trust, self.hops = site, url, trust, self.hops + 1

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
