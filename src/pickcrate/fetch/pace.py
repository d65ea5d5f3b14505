"""How fast a site is asked that says it is asked too much: more slowly while it refuses, then slowly faster again."""

from msgspec import Struct

from pickcrate.values.cause import Cause

BUSY = frozenset((429, 503))
"""Too Many Requests (RFC 6585, 4), Service Unavailable (RFC 9110, 15.6.4): what limits of a rate are answered by"""

BROKEN = frozenset((Cause.RESET, Cause.REFUSED, Cause.TLS, Cause.HOST))
"""failures at a site that has answered before: it allows few connections at once, or the network is gone for a while"""

_FIRST, _LONGEST = 0.1, 32.0
_SHORTEST = 0.02
"""Seconds between two requests that are as good as none."""

_FASTER, _SLOWER = 0.97, 1.25
_MOST_REFUSED = 10
"""Refusals in a row, each asked for later than the one before: they take a minute."""

MOST_TRIES = 30
"""Of one request, at a site that is asked at its pace."""


class Pace(Struct):
    """How fast one site is asked: as fast as manners allow, until it says that it is busy."""

    has_answered: bool = False
    interval: float = 0.0
    """seconds between two requests, of which only one is under way; 0 while only one picture was refused"""
    refused: int = 0
    """in a row, of those that were asked for at the pace of that moment"""
    last: str = ""
    """the address that was refused last"""
    since: float = 0.0
    """when the pace became what it is"""

    def refuse(self, url: str, begun_at: float, now: float) -> None:
        """Slow down, if it is not one picture alone that is refused: the fault may lie there."""
        if begun_at < self.since or url == self.last:
            return
        self.refused += 1
        if self.last:
            self.interval, self.since = min(max(_FIRST, 2 * self.interval), _LONGEST), now
        else:  # at a pace it is a little too fast
            self.interval *= _SLOWER
        self.last = url

    def answer(self) -> None:
        """Go a little faster: something came."""
        self.has_answered, self.refused, self.last = True, 0, ""
        if self.interval:
            self.interval = self.interval * _FASTER if self.interval > _SHORTEST else 0.0

    @property
    def is_hopeless(self) -> bool:
        """Whether nothing comes however slowly it is asked for."""
        return self.refused >= _MOST_REFUSED
