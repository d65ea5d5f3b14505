"""What came, went and changed between two collections of pictures: values to values, each in one pass over both.

Two holdings are one picture by the address that they came from, then by their bytes, then by what a page shows of them;
what is left on both sides of one item is a picture in the place of another.
"""

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator
from enum import StrEnum

from msgspec import Struct

from pickcrate.addresses.lasting import known_by
from pickcrate.media.sides import Sides


class Change(StrEnum):
    """What became of a picture."""

    CAME = "came"
    WENT = "went"
    CHANGED = "changed"
    """one address, other bytes"""
    LARGER = "larger now"
    """the same picture, as far as its address and shape tell, with more pixels"""
    REPLACED = "replaced"
    """the same item or place, another picture"""
    MOVED = "moved"
    """the same bytes under another address or name"""


class Holding(Struct, frozen=True):
    """One picture of a crate, a list or a page. Pixels and bytes are 0 where they are not known."""

    url: str
    """where it came from, or would be fetched from"""
    asked: str = ""
    """the address that it was asked for by, if that is another"""
    shown_url: str = ""
    page: str = ""
    item: str = ""
    item_url: str = ""
    alt: str = ""
    file: str = ""
    sha256: str = ""
    width: int = 0
    height: int = 0
    bytes: int = 0
    fingerprint: str = ""
    """what it looks like, where a crate's ledger has that"""

    @property
    def pixels(self) -> int:
        """Width times height."""
        return self.width * self.height


class Difference(Struct, frozen=True):
    """One picture that is not the same on both sides; there is no old one of what came, no new one of what went."""

    change: Change
    old: Holding | None
    new: Holding | None


class Comparison(Struct, frozen=True):
    """All differences, in the order of the new side, then what went in that of the old; and how many are the same."""

    differences: tuple[Difference, ...]
    same: int
    passed_over: int = 0
    """furniture of a page, of which the crate that it is held against has none"""


def compare(old: Iterable[Holding], new: Iterable[Holding]) -> Comparison:
    """Return what became of each picture of ``old``, and which of ``new`` were not there."""
    pairing = _Pairing(_each_once(old), _each_once(new))
    # The address of bytes is the strongest tie. A thumbnail's address is one only where nothing else shows it.
    pairing.by(lambda one: (one.url,), several=True)
    pairing.by(lambda one: (known_by(one.url),), several=True)
    pairing.by(lambda one: (one.asked or one.url,), several=True)
    pairing.by(lambda one: (one.sha256,), several=True)
    pairing.by(lambda one: (one.shown_url,), several=False)
    pairing.by(lambda one: (one.item_url,), several=True)
    pairing.by(lambda one: (one.page, one.item) if one.item else ("",), several=True)
    pairing.by(lambda one: (one.page, one.alt) if one.alt else ("",), several=False)
    found = [*pairing.differences()]
    return Comparison(tuple(one for one in found if one is not None), found.count(None))


def _each_once(side: Iterable[Holding]) -> list[Holding]:
    """Return the pictures of a side without what a list names twice."""
    known: dict[tuple[str, ...], Holding] = {}
    for one in side:
        known.setdefault((one.url, one.asked, one.page, one.item, one.file), one)
    return [*known.values()]


class _Pairing:
    """Which pictures of two sides belong together."""

    def __init__(self, old: list[Holding], new: list[Holding]) -> None:
        self._old, self._new = old, new
        self._partner: dict[int, int] = {}
        """of each new picture that has one, the old one"""
        self._left: dict[int, None] = dict.fromkeys(range(len(old)))
        """the old pictures without a partner, in their order"""

    def by(self, key: Callable[[Holding], tuple[Hashable, ...]], *, several: bool) -> None:
        """Tie pictures that share a key, the first of one side to the first of the other.

        Without ``several`` only where there is one of it on each side. A blank key ties nothing.
        """
        old: defaultdict[tuple[Hashable, ...], list[int]] = defaultdict(list)
        for place in self._left:
            if all(mark := key(self._old[place])):
                old[mark].append(place)
        if not old:
            return
        new: defaultdict[tuple[Hashable, ...], list[int]] = defaultdict(list)
        for place, holding in enumerate(self._new):
            if place not in self._partner and (mark := key(holding)) in old:
                new[mark].append(place)
        for mark, places in new.items():
            others = old[mark]
            if several or len(places) == len(others) == 1:
                for place, other in zip(places, others, strict=False):
                    self._partner[place] = other
                    del self._left[other]

    def differences(self) -> Iterator[Difference | None]:
        """Yield what became of each picture; None of one that is the same."""
        for place, new in enumerate(self._new):
            if place not in self._partner:
                yield Difference(Change.CAME, None, new)
                continue
            old = self._old[self._partner[place]]
            change = _change(old, new)
            yield Difference(change, old, new) if change is not None else None
        for place in self._left:
            yield Difference(Change.WENT, self._old[place], None)


def _change(old: Holding, new: Holding) -> Change | None:
    """Return what became of one picture; None if it is the same, as far as is known of both sides."""
    is_one_address = not _addresses(old).isdisjoint(_addresses(new))
    if old.sha256 and old.sha256 == new.sha256:
        is_renamed = bool(old.file and new.file) and old.file != new.file
        return None if is_one_address and not is_renamed else Change.MOVED
    is_shown_as_one = bool(old.shown_url) and old.shown_url == new.shown_url
    if not is_one_address and not is_shown_as_one:
        return Change.REPLACED
    if _is_larger(new, old):
        return Change.LARGER
    are_known = bool(old.sha256 and new.sha256)
    if are_known or _differ(old, new):
        return Change.CHANGED if is_one_address else Change.REPLACED
    return None if is_one_address else Change.MOVED


def _addresses(one: Holding) -> set[str]:
    return set(map(known_by, filter(None, (one.url, one.asked))))


def _is_larger(new: Holding, old: Holding) -> bool:
    if not old.pixels or new.pixels <= old.pixels:
        return False
    return Sides(new.width, new.height).is_of_one_shape_with(Sides(old.width, old.height))


def _differ(old: Holding, new: Holding) -> bool:
    """Tell whether what is known of both tells them apart: their sizes in pixels or in bytes."""
    pixels = bool(old.pixels and new.pixels) and (old.width, old.height) != (new.width, new.height)
    return pixels or bool(old.bytes and new.bytes and old.bytes != new.bytes)
