"""Answers on their way into the crate, until the hashes of their bodies are there."""

from collections import deque
from collections.abc import Iterator
from typing import cast

from msgspec import Struct

from pickcrate.crate.hashing import Hashed
from pickcrate.crate.incoming import Arrival, Incoming
from pickcrate.fetch.exchange import Reply

_MOST_SMALL = 32
_MOST_LARGE = 8
"""Answers whose hashes may be waited for: bodies in memory, and in files."""


class HeldBack(Struct, frozen=True, order=True):
    """A picture whose server gave it a name: names are given out in pick order, whatever order answers come in."""

    seq: int
    reply: Reply
    arrival: Arrival
    served: str


class Arriving:
    """Answers that came, the small ones hashed from now on, the large ones since their first bytes came."""

    def __init__(self) -> None:
        self._small = Hashed[Reply]()
        self._large = deque[Reply]()

    def give(self, reply: Reply) -> None:
        """Hand over an answer."""
        if reply.spooled is not None:
            self._large.append(reply)
        else:
            self._small.give(reply, reply.octets)

    def take(self, *, waits_for_all: bool = False) -> Iterator[tuple[Reply, str]]:
        """Yield the answers whose hashes are there, waiting for them if too many are not.

        With each comes its hash in hexadecimal; empty for a large body, whose file knows it.
        """
        yield from self._small.take(most_left=0 if waits_for_all else _MOST_SMALL)
        most_left = 0 if waits_for_all else _MOST_LARGE
        while self._large and (len(self._large) > most_left or cast("Incoming", self._large[0].spooled).is_hashed):
            yield self._large.popleft(), ""

    def close(self) -> None:
        """End the thread."""
        self._small.close()
