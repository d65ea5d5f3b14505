"""Requests in line, site by site: each site in its turn, and none beyond its number of connections."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field

from pickcrate.fetch import robots
from pickcrate.fetch.exchange import Manners, Request


@dataclass(slots=True)
class Site:
    """One origin: its requests in line, what is under way, when the next may start, and its rules."""

    origin: str
    waiting: deque[Request] = field(default_factory=deque)
    active: int = 0
    next_at: float = 0.0
    rules: robots.Rules | None = None
    asking_rules: bool = False
    names_private: bool = False
    """its host is spelled as a private address"""
    refusals: int = 0
    """in a row"""

    def has_room(self, manners: Manners, now: float) -> bool:
        """Tell whether one more request may start."""
        return self.active < manners.per_site and now >= self.next_at


class Line:
    """The requests of one batch that are drawn and wait, site by site, each site in its turn."""

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

    def add(self, site: Site, request: Request) -> None:
        """Put a request behind those that wait for its site."""
        if not site.waiting:
            self._sites.append(site)
        site.waiting.append(request)
        self.waiting += 1

    def take(self, site: Site) -> None:
        """Take a site's first request out of the line."""
        site.waiting.popleft()
        self.waiting -= 1

    def turn(self) -> Iterator[Site]:
        """Yield each site in line once; those with requests left go to the end of the line."""
        for _ in range(len(self._sites)):
            site = self._sites.popleft()
            yield site
            if site.waiting:
                self._sites.append(site)
