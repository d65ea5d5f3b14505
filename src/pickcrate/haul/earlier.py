"""Which rows of a list earlier hauls hold already: their addresses, by 64 bits of a hash of each."""

from collections.abc import Iterable, Iterator
from typing import Any

from pickcrate.addresses.url import brief, without_scheme
from pickcrate.read.lists.addresslist import ListOrigin
from pickcrate.stores.hauled import Hauled, addresses
from pickcrate.text.lazyre import lazy
from pickcrate.twins.fingerprint import numpy

_ORIGIN = ListOrigin("")
_ROWS_AT_A_TIME = 1_000_000
_IS_PLAIN = lazy(
    r"https?://(?=[a-z])[a-z0-9.-]+(?:/(?!\.)[A-Za-z0-9._~!$&'()*+,;=:@%-]*)+(?:\?[A-Za-z0-9._~!$&()*+,;=:@%/?-]*)?"
)
"""an address that is written as the web writes it: parsing takes twenty times as long"""


class Earlier:
    """The addresses that some stores hold: eight bytes each.

    Of a list of a hundred million rows one in two thousand times a row is taken for one of as many addresses that is
    not there.
    """

    def __init__(self, stores: Iterable[Hauled]) -> None:
        """Read the lists of all shards. Raises StoreError."""
        self._np = numpy()
        found = [self._hashed(some) for some in _some_at_a_time(url for store in stores for url in addresses(store))]
        self._known = self._np.unique(self._np.concatenate(found)) if found else self._np.empty(0, self._np.int64)

    def hold(self, written: list[str | None]) -> Any:
        """Return of each address, as a list has it, whether it is held: an array of truth values."""
        texts = [text or "" for text in written]
        held = self._are_known(self._hashed(texts))
        rest = [place for place in self._np.flatnonzero(~held) if _IS_PLAIN.fullmatch(texts[place]) is None]
        urls = [_ORIGIN.resolve(texts[place]) if texts[place] else None for place in rest]
        held[rest] = self._are_known(self._hashed([brief(url) if url is not None else "" for url in urls]))
        return held

    def _hashed(self, texts: list[str]) -> Any:
        return self._np.fromiter(map(hash, map(without_scheme, texts)), self._np.int64, len(texts))

    def _are_known(self, hashes: Any) -> Any:
        if not len(self._known):
            return self._np.zeros(len(hashes), bool)
        places = self._np.searchsorted(self._known, hashes)
        places[places == len(self._known)] = 0
        return self._known[places] == hashes


def _some_at_a_time(urls: Iterator[str]) -> Iterator[list[str]]:
    some: list[str] = []
    for url in urls:
        some.append(url)
        if len(some) >= _ROWS_AT_A_TIME:
            yield some
            some = []
    if some:
        yield some
