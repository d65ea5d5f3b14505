"""References to images: which of them point at one and the same picture.

The markup ties references into clusters; clusters become one image where they share an address that says more than
"this is on the screen here". A placeholder that many pictures show while they load ties nothing together.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable
from functools import cache

from msgspec.structs import replace

from pickcrate.addresses.ranks import SMALL, STAND_IN
from pickcrate.addresses.sizednames import SizedName, sized_name
from pickcrate.addresses.stems import is_stand_in
from pickcrate.addresses.url import bare_stem, named_alike
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import OF_LINKED_DATA, FoundIn
from pickcrate.values.image import Image
from pickcrate.values.item import ItemForm
from pickcrate.values.reference import Reference, Role

_FEW = 3
"""Clusters that may share a version without being named alike."""

_SHORTEST_NAME = 6
_OF_IMG = lazy(r"(?:^| )img(?:[.#]\S*)?\Z")
_OF_SERVICE = lazy(
    r"/full/[\^!]{0,2}(?:full|max|\d{1,6},\d{0,6}|,\d{1,6}|pct:[\d.]{1,9})/0/(?:default|native|color)\.\w{3,4}\Z"
)


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


def group(
    references: Iterable[Reference],
    *,
    source: str,
    title: str = "",
    first_number: int = 1,
    joins_sizes: bool = True,
) -> list[Image]:
    """Return the images of one page in the order in which it first mentions them, numbered from ``first_number``.

    ``joins_sizes`` makes one of those that the page shows in two sizes, as the names of their files tell.
    """
    clusters: dict[int, list[Reference]] = {}
    for reference in references:
        clusters.setdefault(reference.cluster, []).append(reference)
    members = [part for cluster in map(_with_shown, clusters.values()) for part in _by_what_is_shown(cluster)]
    members = _without_signposts(_put_in_place(members))
    sets = _Sets(len(members))
    _join_equal(members, sets)
    _join_by_shared_address(members, sets)
    _join_cards(members, sets)
    if joins_sizes:
        _join_sizes(members, sets)
    together: dict[int, list[Reference]] = {}
    for index, cluster in enumerate(members):
        together.setdefault(sets.root(index), []).extend(cluster)
    _drop_what_many_name(together)
    return [
        _image(references_of_one, number, source, title)
        for number, references_of_one in enumerate(together.values(), first_number)
    ]


def _with_shown(cluster: list[Reference]) -> list[Reference]:
    """Return a cluster that shows what a script is to put in place first, where nothing is shown before."""
    if any(reference.role is Role.SHOWN for reference in cluster):
        return cluster
    own = next((reference for reference in cluster if _OF_IMG.search(reference.element) is not None), cluster[0])
    meant = _least([reference for reference in cluster if reference.is_put_in_place], own)
    if meant is None:
        return cluster
    return [replace(one, role=Role.SHOWN) if one is meant else one for one in cluster]


def _by_what_is_shown(cluster: list[Reference]) -> Iterable[list[Reference]]:
    """Part what one element shows besides its picture, as a background: it is another picture.

    Data in a page only wait for one; what else the element names is of what it shows first.
    """
    if len(cluster) == 1:
        return (cluster,)
    shown = _shown(cluster)
    parted: dict[str, list[Reference]] = defaultdict(list)
    for one in cluster:
        is_beside = one.role is Role.SHOWN and one.url != shown.url and not one.url.startswith("data:")
        parted[one.url if is_beside else ""].append(one)
    return (parted.pop(""), *parted.values())


def _image(references: list[Reference], number: int, source: str, title: str) -> Image:
    """Return the image that some references are of.

    Where nothing is said of it, the first place of which that is not true stands for it, where the page shows the
    picture again: in what is for browsers without scripts, beside its name, or in the layer that opens above a
    thumbnail, which is no more hidden than that is.
    """
    if len(references) > 1:
        references = _over_https(references)
    shown = _shown(references)
    if not _is_described(shown):
        others = (one for one in references if one.role is Role.SHOWN and one.is_on_page and one is not shown)
        other = next((one for one in others if one.is_outside == shown.is_outside and _is_described(one)), shown)
        if other.hidden and not shown.hidden:
            seen = replace(other, hidden=False)
            references = [seen if one is other else one for one in references]
            other = seen
        shown = other
    return Image(number=number, source=source, page_title=title, shown=shown, references=tuple(references))


def _over_https(references: list[Reference]) -> list[Reference]:
    """Return references of which the shown one leads over HTTPS, where another says that its server has that.

    What it led to before is what the other leads to then: it may be that nobody answers over HTTPS.
    """
    shown = _shown(references)
    secure = f"https{shown.url.removeprefix('http')}" if shown.url.startswith("http:") else ""
    other = next((one for one in references if one.url == secure), None) if secure else None
    if other is None:
        return references
    swapped = {id(shown): replace(shown, url=other.url), id(other): replace(other, url=shown.url)}
    return [swapped.get(id(one), one) for one in references]


def _put_in_place(members: list[list[Reference]]) -> list[list[Reference]]:
    """Return clusters that show what a script puts there, where they show a placeholder at first.

    A placeholder is what stands in the page itself, is called one, or is shown where several other pictures will be,
    none of which is named like it.
    """
    places = [(_shown(cluster).url, _meant(cluster)) for cluster in members]
    awaited: dict[str, set[str]] = defaultdict(set)
    for shown, meant in places:
        if meant is not None and not named_alike(shown, meant.url):
            awaited[shown].add(meant.url)
    settled: list[list[Reference]] = []
    for cluster, (shown, meant) in zip(members, places, strict=True):
        is_placeholder = shown.startswith("data:") or is_stand_in(shown) or len(awaited[shown]) > 1
        settled.append(_showing(meant, shown, cluster) if meant is not None and is_placeholder else cluster)
    return settled


def _meant(cluster: list[Reference]) -> Reference | None:
    """Return what a script puts first in the place of what is shown: the least of the versions that attributes name."""
    shown = _shown(cluster)
    is_any = shown.is_laid_out or shown.found_in in {FoundIn.DATA, FoundIn.SCRIPT}
    if shown.role is not Role.SHOWN or shown.is_put_in_place or not is_any:
        return None
    return _least([one for one in cluster if one.role in {Role.LAZY, Role.SIZE}], shown)


def _least(named: list[Reference], shown: Reference) -> Reference | None:
    """Return the least of the versions that attributes name: what an element shows before what others name for it."""

    def order(one: Reference) -> tuple[float, ...]:
        is_of_another = one.anchors != shown.anchors
        return one.role is Role.SIZE, one.rank, is_of_another, one.width or 0, one.density or 0

    return min((one for one in named if one.rank > STAND_IN), key=order, default=None)


def _showing(meant: Reference, placeholder: str, cluster: list[Reference]) -> list[Reference]:
    """Return a cluster that shows what is meant wherever it showed the placeholder."""
    return [
        replace(
            reference,
            url=meant.url,
            raw=meant.raw,
            element=meant.element,
            attribute=meant.attribute,
            width=meant.width,
            density=meant.density,
            media_type=meant.media_type,
        )
        if reference.role is Role.SHOWN and reference.url == placeholder
        else reference
        for reference in cluster
    ]


def _without_signposts(members: list[list[Reference]]) -> list[list[Reference]]:
    """Part what an icon leads to from the icon: one picture that links to several others is not any of them.

    What stands in for many while they load is none: their own addresses tell them apart.
    """
    leading: dict[frozenset[str], set[str]] = defaultdict(set)
    own = [frozenset(reference.url for reference in cluster if reference.role is not Role.LINK) for cluster in members]
    for cluster, addresses in zip(members, own, strict=True):
        if not addresses:  # a link alone
            continue
        linked = {reference.url for reference in cluster if reference.role is Role.LINK} - addresses
        leading[addresses].update(url for url in linked if not any(named_alike(address, url) for address in addresses))
    signposts = {addresses for addresses, targets in leading.items() if len(targets) > 1}
    if not signposts:
        return members
    parted: list[list[Reference]] = []
    for cluster, addresses in zip(members, own, strict=True):
        if addresses not in signposts:
            parted.append(cluster)
            continue
        parted.append([reference for reference in cluster if reference.role is not Role.LINK])
        parted += [[reference] for reference in cluster if reference.role is Role.LINK]
    return [cluster for cluster in parted if cluster]


def _join_equal(members: list[list[Reference]], sets: _Sets) -> None:
    """Join clusters that hold the same addresses, and lone addresses that occur in just one larger cluster."""
    first_of: dict[frozenset[str], int] = {}
    holders: dict[str, set[int]] = defaultdict(set)
    for index, cluster in enumerate(members):
        own = [one for one in cluster if one.rank > STAND_IN] or cluster  # what stands in for it tells nothing apart
        addresses = frozenset(_identity(reference.url) for reference in own)
        kept = first_of.setdefault(addresses, index)
        sets.join(kept, index)
        for address in addresses:
            holders[address].add(kept)
    for addresses, index in first_of.items():
        if len(addresses) == 1:
            others = holders[next(iter(addresses))] - {index}
            if len(others) == 1:
                sets.join(index, others.pop())


def _identity(address: str) -> str:
    """Return what is one of a picture's addresses over HTTP and over HTTPS, and in any size of an image service's.

    IIIF Image API 3.0, 4: ``{region}/{size}/{rotation}/{quality}.{format}`` behind the base of the image.
    """
    bare = address.removeprefix("https:").removeprefix("http:")
    if "/full/" not in bare:
        return bare
    request = _OF_SERVICE.search(bare)
    return bare[: request.start()] if request is not None else bare


def _join_by_shared_address(members: list[list[Reference]], sets: _Sets) -> None:
    """Join clusters that name one address as another version of theirs, or link to one whose name is like theirs.

    What one cluster names as a version and another shows is that picture; a stand-in, or what many clusters name
    that are not alike, is nobody's.
    """
    named: dict[str, dict[int, None]] = defaultdict(dict)
    linked: dict[str, dict[int, None]] = defaultdict(dict)
    showing: dict[str, dict[int, None]] = defaultdict(dict)
    for index, cluster in enumerate(members):
        for reference in cluster:
            if reference.role in {Role.SIZE, Role.LAZY} and reference.rank > STAND_IN:
                named[reference.url][index] = None
            elif reference.role is Role.LINK:
                linked[reference.url][index] = None
            elif reference.role is Role.SHOWN and not reference.url.startswith("data:"):
                showing[reference.url][index] = None
    shown = cache(lambda index: _shown(members[index]).url)
    for address, naming in named.items():
        indexes = [*naming, *showing.get(address, ())]
        is_of_one = len(indexes) <= _FEW and not is_stand_in(address)
        _join(indexes if is_of_one else [index for index in indexes if named_alike(shown(index), address)], sets)
    for address, linking in linked.items():
        _join([index for index in linking if named_alike(shown(index), address)], sets)


def _drop_what_many_name(together: dict[int, list[Reference]]) -> None:
    """Drop from pictures what many of them name as a version of theirs, and none is named like: a stand-in."""
    naming: dict[str, list[int]] = defaultdict(list)
    for root, references in together.items():
        for address in {reference.url for reference in references if reference.role is Role.LAZY}:
            naming[address].append(root)
    for root, references in together.items():
        shown = _shown(references).url
        dropped = {
            reference.url
            for reference in references
            if reference.role is Role.LAZY
            and len(naming[reference.url]) > _FEW
            and not (reference.url == shown or named_alike(shown, reference.url))
        }
        if dropped:
            together[root] = [r for r in references if r.url not in dropped or r.role is not Role.LAZY]


def _join_cards(members: list[list[Reference]], sets: _Sets) -> None:
    """Join a picture that the page says of itself to the one picture on it that is named like it.

    Metadata names it (for a card, to share), or a field (a link to copy, a choice).
    """
    told = {index: cluster[0] for index, cluster in enumerate(members) if cluster[0].is_told_by_name}
    if not told:
        return
    stems = {card.url: bare_stem(card.url) for card in told.values()}
    often = Counter(stems.values())
    named_so: dict[str, list[int]] = defaultdict(list)
    for index, cluster in enumerate(members):
        shown = _shown(cluster)
        if shown.is_laid_out and not shown.url.startswith("data:"):
            named_so[bare_stem(shown.url)].append(sets.root(index))
    for index, card in told.items():
        stem = stems[card.url]
        alike = set(named_so.get(stem, ()))
        is_one = often[stem] == 1 or card.attribute != OF_LINKED_DATA  # of several in data none tells which it is
        if len(alike) == 1 and len(stem) >= _SHORTEST_NAME and is_one:
            sets.join(index, alike.pop())


def _join_sizes(members: list[list[Reference]], sets: _Sets) -> None:
    """Join pictures that the page shows in two sizes, by what their files are called: in a strip below the large one.

    The smaller is a size of the larger then, and no larger version of it. What data names twice so is one as well.
    """
    named: dict[str, list[tuple[SizedName, int]]] = defaultdict(list)
    for index, cluster in enumerate(members):
        shown = _shown(cluster)
        is_seen = shown.is_laid_out or shown.found_in is FoundIn.DATA
        if shown.role is Role.SHOWN and is_seen and not shown.url.startswith("data:"):
            name = sized_name(shown.url)
            named[f"{shown.is_laid_out} {shown.is_outside} {name.bare}"].append((name, index))
    for alike in named.values():
        largest, root = max(alike, key=lambda pair: (pair[0].rank, pair[0].pixels))
        for name, index in alike:
            if name.is_smaller_than(largest):
                sets.join(root, index)
                if _shown(members[root]).hidden and not _shown(members[index]).hidden:  # it is seen, if only small
                    members[root] = [replace(reference, hidden=False) for reference in members[root]]
                members[index] = [_as_smaller(reference) for reference in members[index]]


def _as_smaller(reference: Reference) -> Reference:
    is_shown = reference.role in {Role.SHOWN, Role.LAZY} and not reference.width
    return replace(reference, role=Role.LAZY, rank=SMALL) if is_shown else reference


def _is_described(shown: Reference) -> bool:
    """Tell whether anything on a page is about this very picture."""
    words, item = shown.words, shown.item
    return bool(words.alt or words.title or words.caption or (item.title and item.form is not ItemForm.PAGE))


def _join(indexes: list[int], sets: _Sets) -> None:
    for index in indexes[1:]:
        sets.join(indexes[0], index)


def _shown(references: list[Reference]) -> Reference:
    """Return what the page puts on the screen: the first shown reference, else the first that is no link, or any.

    What an element shows comes before what metadata and data blocks name; what lies in the region that was asked for,
    before the same picture elsewhere: its words are those that are meant.
    """
    if len(references) == 1:
        return references[0]
    shown = [reference for reference in references if reference.role is Role.SHOWN]
    named = shown or [reference for reference in references if reference.role is not Role.LINK] or references
    on_screen = [reference for reference in shown if reference.is_on_page] or named
    return next((reference for reference in on_screen if not reference.is_outside), on_screen[0])
