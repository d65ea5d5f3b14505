"""References to images: which of them point at one and the same picture.

The markup ties references into clusters; clusters become one image where they share an address that says more than
"this is on the screen here". A placeholder that many pictures show while they load ties nothing together.
"""

from collections import defaultdict
from collections.abc import Iterable
from itertools import takewhile

from pickcrate.addresses import last_segment, split_extension
from pickcrate.values import Image, Reference, Role


class _Sets:
    """Disjoint sets of the numbers below ``size``; the least number stands for its set."""

    def __init__(self, size: int) -> None:
        self._parent = list(range(size))

    def root(self, item: int) -> int:
        while self._parent[item] != item:
            self._parent[item] = self._parent[self._parent[item]]
            item = self._parent[item]
        return item

    def join(self, one: int, other: int) -> None:
        one, other = sorted((self.root(one), self.root(other)))
        self._parent[other] = one


def group(references: Iterable[Reference], *, source: str, title: str = "", first_number: int = 1) -> list[Image]:
    """Return the images of one page in the order in which it first mentions them, numbered from ``first_number``."""
    clusters: dict[int, list[Reference]] = {}
    for reference in references:
        clusters.setdefault(reference.cluster, []).append(reference)
    members = list(clusters.values())
    sets = _Sets(len(members))
    _join_equal(members, sets)
    _join_by_shared_address(members, sets)
    together: dict[int, list[Reference]] = {}
    for index, cluster in enumerate(members):
        together.setdefault(sets.root(index), []).extend(cluster)
    return [
        Image(
            number=number,
            source=source,
            page_title=title,
            shown=_shown(references_of_one),
            references=tuple(references_of_one),
        )
        for number, references_of_one in enumerate(together.values(), first_number)
    ]


def _join_equal(members: list[list[Reference]], sets: _Sets) -> None:
    """Join clusters that hold the same addresses, and lone addresses that occur in just one larger cluster."""
    first_of: dict[frozenset[str], int] = {}
    holders: dict[str, set[int]] = defaultdict(set)
    for index, cluster in enumerate(members):
        addresses = frozenset(reference.url for reference in cluster)
        kept = first_of.setdefault(addresses, index)
        sets.join(kept, index)
        for address in addresses:
            holders[address].add(kept)
    for addresses, index in first_of.items():
        if len(addresses) == 1:
            others = holders[next(iter(addresses))] - {index}
            if len(others) == 1:
                sets.join(index, others.pop())


def _join_by_shared_address(members: list[list[Reference]], sets: _Sets) -> None:
    """Join clusters that name one address as another size of theirs, or link to one whose name is like theirs."""
    sized: dict[str, int] = {}
    linked: dict[str, list[int]] = defaultdict(list)
    for index, cluster in enumerate(members):
        for reference in cluster:
            if reference.role in {Role.SIZE, Role.LAZY}:
                sets.join(sized.setdefault(reference.url, index), index)
            elif reference.role is Role.LINK:
                linked[reference.url].append(index)
    for address, indexes in linked.items():
        alike = [index for index in indexes if _alike(_shown(members[index]).url, address)]
        for index in alike[1:]:
            sets.join(alike[0], index)


def _alike(thumbnail: str, original: str) -> bool:
    """Tell whether two addresses are named alike enough to be one picture: half of the shorter stem in common."""
    one, other = (split_extension(last_segment(address))[0].lower() for address in (thumbnail, original))
    common = max(_common_start(one, other), _common_start(one[::-1], other[::-1]))
    return common * 2 > min(len(one), len(other)) > 0


def _common_start(one: str, other: str) -> int:
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


def _shown(references: list[Reference]) -> Reference:
    """Return what the page puts on the screen: the first shown reference, else the first of any role."""
    return next((reference for reference in references if reference.role is Role.SHOWN), references[0])
