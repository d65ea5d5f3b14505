"""Which of many fingerprints are near each other: by bands of their bits, with NumPy, in bounded memory.

Of 16 bands of 16 bits one is the same in both wherever no more than 15 bits differ, and nearly always up to 19: so only
fingerprints that share a band are held against each other, some millions of pairs at a time. Where very many share one,
as the pictures of a camera that never moves do, each is held against the first of them alone: the pairs grow with the
pictures, and not with their square.
"""

from collections.abc import Iterator, Sequence
from typing import Any

from pickcrate.twins.fingerprint import BITS, CROPS, Fingerprint, numpy

_BANDS = 16
_AT_A_TIME = 2_000_000
MOST_WITH_CROPS = 200_000
"""Beyond so many fingerprints crops are not looked for: each is eight searches more."""


_MOST_OF_A_BAND = 50
"""Fingerprints with one value of a band, the first of them, that each other one is held against."""


class Index:
    """Fingerprints that grow one by one, as a run fetches; a search holds one against all of them."""

    def __init__(self) -> None:
        self._np = numpy()
        self._wholes = self._np.empty((1_024, BITS // 64), self._np.uint64)
        self._crops = self._np.empty((1_024, len(CROPS), BITS // 64), self._np.uint64)
        self._keys: list[int] = []

    def add(self, key: int, fingerprint: Fingerprint) -> None:
        """Add a fingerprint under a key."""
        place = len(self._keys)
        if place == len(self._wholes):
            self._wholes = self._np.concatenate((self._wholes, self._np.empty_like(self._wholes)))
            self._crops = self._np.concatenate((self._crops, self._np.empty_like(self._crops)))
        self._wholes[place] = _words(self._np, fingerprint.whole)
        self._crops[place] = _words(self._np, fingerprint.crops).reshape(-1, BITS // 64)
        self._keys.append(key)

    def near(self, fingerprint: Fingerprint, most: int) -> list[int]:
        """Return the keys of fingerprints of which up to ``most`` bits differ, nearest first."""
        np, count = self._np, len(self._keys)
        if not count:
            return []
        whole = _words(np, fingerprint.whole)
        best = np.bitwise_count(self._wholes[:count] ^ whole).sum(axis=1)
        best = np.minimum(best, np.bitwise_count(self._crops[:count] ^ whole).sum(axis=2).min(axis=1))
        for crop in fingerprint.each_crop:
            best = np.minimum(best, np.bitwise_count(self._wholes[:count] ^ _words(np, crop)).sum(axis=1))
        found = np.nonzero(best <= most)[0]
        return [self._keys[place] for place in found[np.argsort(best[found], kind="stable")]]


def near_pairs(fingerprints: Sequence[Fingerprint], most: int) -> Iterator[tuple[int, int]]:
    """Yield the places of fingerprints of which up to ``most`` bits differ, the smaller place first, each pair once.

    Of more than _MOST_OF_A_BAND that are much alike all are near to the first of them: say the best first.
    """
    np = numpy()
    wholes = np.array([_words(np, one.whole) for one in fingerprints], np.uint64).reshape(-1, BITS // 64)
    seen: set[int] = set()
    with_crops = len(fingerprints) <= MOST_WITH_CROPS
    others = [wholes]
    if with_crops:
        crops = np.array([_words(np, one.crops) for one in fingerprints], np.uint64)
        others += [*crops.reshape(-1, len(CROPS), BITS // 64).swapaxes(0, 1)]
    for number, queries in enumerate(others):
        for left, right in _joined(np, queries, wholes, most, is_same=number == 0):
            mark = min(left, right) * len(wholes) + max(left, right)
            if left != right and mark not in seen:
                seen.add(mark)
                yield min(left, right), max(left, right)


def _joined(np: Any, queries: Any, wholes: Any, most: int, *, is_same: bool) -> Iterator[tuple[int, int]]:
    """Yield the places of queries and wholes that share a band and differ in no more than ``most`` bits."""
    for band in range(_BANDS):
        values = wholes.view(np.uint16).reshape(len(wholes), _BANDS)[:, band]
        wanted = np.ascontiguousarray(queries).view(np.uint16).reshape(len(queries), _BANDS)[:, band]
        order = np.argsort(values, kind="stable").astype(np.int32)
        ordered = values[order]
        first = np.searchsorted(ordered, wanted, "left")
        counts = np.minimum(np.searchsorted(ordered, wanted, "right") - first, _MOST_OF_A_BAND)
        starts = np.concatenate(([0], np.cumsum(counts)))
        for begin, end in _chunks(np, starts):
            left = np.repeat(np.arange(begin, end, dtype=np.int32), counts[begin:end])
            offset = np.arange(len(left)) - np.repeat(starts[begin:end] - starts[begin], counts[begin:end])
            right = order[np.repeat(first[begin:end], counts[begin:end]) + offset]
            if is_same:
                kept = right < left
                left, right = left[kept], right[kept]
            near = np.bitwise_count(queries[left] ^ wholes[right]).sum(axis=1) <= most
            yield from zip(left[near].tolist(), right[near].tolist(), strict=True)


def _chunks(np: Any, starts: Any) -> Iterator[tuple[int, int]]:
    """Yield ranges of queries that have some millions of pairs together; one that has more by itself is alone."""
    begin, last = 0, len(starts) - 1
    while begin < last:
        end = int(np.searchsorted(starts, starts[begin] + _AT_A_TIME, "right")) - 1
        end = min(last, max(begin + 1, end))
        yield begin, end
        begin = end


def _words(np: Any, octets: bytes) -> Any:
    return np.frombuffer(octets, ">u8").astype(np.uint64)
