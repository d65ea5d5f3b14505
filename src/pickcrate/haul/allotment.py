"""Which row goes into which load: by site, so that one site is only ever asked by one worker at a time.

Sites are told apart by a hash of their hosts into GROUPS groups: what is counted is of one size, however many sites
there are. Sites of one group share a load; a group that is too large for one is split into a chain of loads, by a
hash of the address, and these are packed one after another.
"""

from collections.abc import Sequence
from zlib import crc32

from msgspec import Struct

from pickcrate.addresses.url import absolute, site

GROUPS = 1 << 20
NO_SITE = 0
"""the group of rows that have no web address"""

_ROOM = 1.05
"""A chain is cut for so much more than it holds: hashes do not fill all its loads alike."""


class Allotment(Struct, frozen=True):
    """The load of each group, or the first of its chain; how many its chain has; how many loads there are at all."""

    first: list[int]
    parts: list[int]
    loads: int
    chains: tuple[tuple[int, int], ...]


def allot(counts: Sequence[int], most: int) -> Allotment:
    """Return which load each group goes into; ``counts`` has the rows of each, ``most`` is how many a load may have."""
    first = [0] * len(counts)
    parts = [1] * len(counts)
    chains: list[tuple[int, int]] = []
    load, filled = 0, 0
    for group, count in enumerate(counts):
        if not count:
            continue
        if filled and filled + count > most:
            load, filled = load + 1, 0
        first[group] = load
        if count > most:
            parts[group] = -int(-count * _ROOM // most)
            chains.append((load, parts[group]))
            load += parts[group]
        else:
            filled += count
    return Allotment(first, parts, load + bool(filled), tuple(chains))


def group_of(authority: str) -> int:
    """Return the group of an address by its authority (RFC 3986, 3.2), as the address has it."""
    address = absolute(f"http://{authority}/", "about:blank") if authority else None
    host = site(address) if address is not None else ""
    return 1 + crc32(host.encode()) % (GROUPS - 1) if host else NO_SITE


def part_of(address: str) -> int:
    """Return a number by which a chain is cut: the same for the same address."""
    return crc32(address.encode("utf-8", "surrogatepass"))
