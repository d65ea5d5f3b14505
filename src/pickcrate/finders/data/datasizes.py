"""Which addresses of an object in data are one picture in several sizes, by how it is put together.

Programs keep what is made of a picture beside it, in an object or a list of its own (``{"url": …, "sizes": {"small":
{"url": …}, "large": {"url": …}}}``), call its sizes by name (``{"web": {…}, "full": {…}}``), or put a word for a size
behind what they call it (``primaryImage``, ``primaryImageSmall``).
"""

import re
from collections.abc import Container, Iterator, Sequence
from itertools import chain

from pickcrate.addresses import ranks
from pickcrate.addresses.ranks import bare_name
from pickcrate.addresses.url import absolute, bare_stem
from pickcrate.finders.data.jsondata import OPENS_JSON, are_widths, parsed_json, size_called
from pickcrate.finders.data.literals import sizes_in
from pickcrate.finders.data.named import ANYWHERE
from pickcrate.finders.data.strings import DEEPEST, MOST_VALUES
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_MADE_OF_IT = frozenset(
    "sizes formats renditions versions thumbnails thumbs derivatives resolutions responsiveimage imageversions "
    "srcset".split()
)
"""what is called that holds the sizes which were made of a picture"""

_IN_SIZES = frozenset("images image imagelinks photos urls files sizes thumbnails src".split())
"""what is called that holds one picture under the names of its sizes"""

_ADDRESSES = frozenset("url href src uri sourceurl displayurl mediaurl link secureurl path file".split())
"""what the address in an object is called that says no more than that"""

_BY_SIDES = lazy(
    r"(?:url|uri|src|image|img|photo|pic|picture|thumb|thumbnail)"
    r"(?:_?(?P<width>[1-9]\d{1,3})(?:x(?:\d{2,4}|N))?|_(?:full(?:xfull)?|orig(?:inal)?)|_(?P<code>[a-z]{1,2}))?",
    re.IGNORECASE,
)
"""an address that is called by the width of its picture, by a code for that, or as the original"""

_DIMENSIONS = "dimensions"
_SAME_RATIO = 0.02
_MOST_SIZES = 50
_LEAST_WIDTH = 50
"""of a picture, in pixels: smaller numbers count pictures"""


class Version(ImageCandidateString, frozen=True):
    """One address of a picture, by the name that it stands under in data, and how large that says it is."""

    name: str = ""
    rank: int = ranks.UNSAID


class _Sized(Version, frozen=True):
    """A version with the height that is stated for it as well."""

    height: int = 0


def families_in_data(text: str, known: Container[str]) -> list[list[Version]]:
    """Return the ``known`` addresses in a JSON text that are versions of one picture, a list for each picture.

    Where all of them state a width it is that which counts; else the words for sizes do, and what the others were made
    of is the largest.
    """
    parsed = parsed_json(text) if text.lstrip()[:1] in OPENS_JSON else None
    found: list[list[Version]] = []
    taken: set[str] = set()
    waiting: list[tuple[object, int]] = [(parsed, 0)]
    for value, depth in waiting:  # it grows
        if isinstance(value, dict):
            for family in _families_of(value, known):
                versions = [version for version in family if version.url not in taken]
                if len({version.url for version in versions}) > 1:
                    found.append(_versions(versions))
                    taken.update(version.url for version in versions)
        inside = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
        if depth < DEEPEST and len(waiting) < MOST_VALUES:
            waiting.extend((inner, depth + 1) for inner in inside if isinstance(inner, dict | list))
    return found


def _families_of(value: dict[str, object], known: Container[str]) -> Iterator[list[_Sized]]:
    """Yield what an object has of one picture, each."""
    own = [_sized(value, name, said) for name, said in value.items() if isinstance(said, str) and said in known]
    made = [one for name, inner in value.items() for one in _made_of_it(name, inner, known)]
    sizes_made = {one.url for one in made}
    others = [one for one in own if one.url not in sizes_made]
    mains = [one for one in others if bare_name(one.name) in _ADDRESSES] or list(_of_picture(others))
    if made and not own:
        mains = _beside(value, made, known)
    if made and len({one.url for one in mains}) == 1:
        yield [*made, _as_original(mains[0], made)]
        return
    for name, inner in value.items():
        if bare_name(name) in _IN_SIZES and isinstance(inner, dict) and _are_of_one(sizes := _members(inner, known)):
            yield sizes
        if isinstance(inner, list) and _are_called_alike(sizes := _members(inner, known)):
            yield sizes
    yield _called_by_sides(value, own)
    yield from _called_alike(own)


def _of_picture(own: Sequence[_Sized]) -> Sequence[_Sized]:
    """Return the pictures that something is about, by what they are called: those with no other word go before."""
    called = [one for one in own if _says_picture(one.name)]
    return [one for one in called if not ranks.words_besides_size(one.name)] or called


def _says_picture(name: str) -> bool:
    """Tell whether the picture that something is about may be called so: no logo, no portrait of who made it."""
    is_bare = not ranks.words_besides_size(name)
    return is_bare or (ranks.names_a_picture(name) and not ranks.names_another(name))


def _beside(value: dict[str, object], made: Sequence[_Sized], known: Container[str]) -> list[_Sized]:
    """Return the pictures that are objects beside the sizes of one: ``{"source": {"url": …}, "resolutions": […]}``."""
    sizes = {one.url for one in made}
    others = (_described(name, inner, known) for name, inner in value.items() if bare_name(name) not in _MADE_OF_IT)
    return [one for one in chain.from_iterable(others) if one.url not in sizes]


def _made_of_it(name: str, inner: object, known: Container[str]) -> list[_Sized]:
    """Return the sizes that a property of a picture is, or holds."""
    if bare_name(name) in _MADE_OF_IT:
        return _members(inner, known)
    if ranks.rank(name) < ranks.UNSAID and ranks.names_a_version(name):
        if isinstance(inner, str) and inner in known:
            return [_Sized(inner.strip(), name=name, rank=ranks.rank(name))]
        return _described(name, inner, known)[:1]
    return []


def _members(value: object, known: Container[str]) -> list[_Sized]:
    """Return the sizes that an object has by their names, or a list of objects that state their widths."""
    if isinstance(value, list):
        listed = (one for inner in value[:_MOST_SIZES] for one in _described("", inner, known)[:1])
        return [one for one in listed if one.width]
    pairs = list(value.items()) if isinstance(value, dict) else []
    found: list[_Sized] = []
    for name, inner in pairs[:_MOST_SIZES]:
        found += _described(name, inner, known)[:1]
        if isinstance(inner, str) and inner in known:
            found.append(_Sized(inner.strip(), name=name, rank=ranks.rank(name), width=_width_called(name)))
        elif isinstance(inner, str):
            found += (_Sized(entry.url, entry.width, name=name) for entry in sizes_in(inner))
    return found


def _described(name: str, value: object, known: Container[str]) -> list[_Sized]:
    """Return the addresses of an object that describes one size, called by the ``name`` of that; none of others."""
    if isinstance(value, list) and len(value) == 1:
        value = value[0]
    if not isinstance(value, dict):
        return []
    addresses = ((key, said) for key, said in value.items() if isinstance(said, str) and said in known)
    return [_sized(value, f"{name} {key}".strip(), said) for key, said in addresses]


def _sized(value: dict[str, object], name: str, said: str) -> _Sized:
    """Return an address with the sides that its object states."""
    inner = value.get(_DIMENSIONS)
    sides = inner if isinstance(inner, dict) else value
    width, height = (_side(sides.get(side, sides.get(side[0]))) for side in ("width", "height"))
    return _Sized(said.strip(), width or _width_called(name), name=name, rank=ranks.rank(name), height=height)


def _side(value: object) -> int:
    number = whole(value) if isinstance(value, str) else value
    return number if isinstance(number, int) and not isinstance(number, bool) and 0 < number < 100_000 else 0


def _width_called(name: str) -> int | None:
    size = size_called(name.partition(" ")[0])
    return size[0] if size is not None else None


def _as_original(one: _Sized, made: Sequence[_Sized]) -> _Sized:
    """Return the picture beside its sizes as the largest, unless its name or theirs says something else."""
    is_larger = one.rank == ranks.UNSAID and all(other.rank < ranks.LARGEST for other in made)
    return _Sized(one.url, one.width, name=one.name, rank=ranks.LARGEST if is_larger else one.rank, height=one.height)


def _are_of_one(sizes: Sequence[_Sized]) -> bool:
    """Tell whether what an object has under names is one picture: all are words for sizes, or all have one ratio."""
    if len({one.url for one in sizes}) < 2:
        return False
    have_widths = len({one.width for one in sizes}) > 1
    called = [one for one in sizes if ranks.rank(one.name) != ranks.UNSAID]
    if len(called) == len(sizes):
        return have_widths or len({one.rank for one in sizes}) > 1
    return bool(called) and have_widths and _have_one_ratio(sizes)


def _are_called_alike(sizes: Sequence[_Sized]) -> bool:
    """Tell whether the members of a list are one picture: all of one ratio, and their files are called the same."""
    if len({one.width for one in sizes}) < 2 or not _have_one_ratio(sizes):
        return False
    stems = {bare_stem(absolute(one.url, ANYWHERE) or "") for one in sizes}
    return len(stems) == 1 and "" not in stems


def _have_one_ratio(sizes: Sequence[_Sized]) -> bool:
    """Tell whether all sizes state both their sides, and have one shape by them."""
    ratios = [one.width / one.height for one in sizes if one.width and one.height]
    return len(ratios) == len(sizes) and max(ratios) / min(ratios) <= 1 + _SAME_RATIO


def _called_by_sides(value: dict[str, object], own: Sequence[_Sized]) -> list[_Sized]:
    """Return the addresses of an object that are called by their widths, and the original: ``url_75x75``, ``uri150``.

    What a code of letters stands for must be told beside it: ``url_sq``, ``width_sq``.
    """
    found, others = list[_Sized](), list[_Sized]()
    for one in own:
        match = _BY_SIDES.fullmatch(one.name)
        if match is None:
            others.append(one)
            continue
        width = _side(match["width"] or value.get(f"width_{match['code']}"))
        if width >= _LEAST_WIDTH:
            found.append(_Sized(one.url, width, name=one.name))
        elif not (match["width"] or match["code"]):
            found.append(_Sized(one.url, name=one.name, rank=ranks.LARGEST))
    widths = {str(one.width) for one in found if one.width}
    if found and all(one.width and ranks.rank(one.name) < ranks.UNSAID for one in found):
        made_of = [one for one in others if not ranks.ADDRESS_WORDS.isdisjoint(ranks.words_in(one.name))]
        shortest = min((one.name for one in made_of), key=len, default="")
        if all(one.name.startswith(shortest) for one in made_of):  # thumbnails by their widths, and what they are of
            return [*found, *(_Sized(one.url, name=one.name, rank=ranks.LARGEST) for one in made_of)]
    return found if widths and len(found) > 1 and (len(widths) == 1 or are_widths(widths)) else []


def _called_alike(own: Sequence[_Sized]) -> Iterator[list[_Sized]]:
    """Yield the addresses of an object whose names differ in nothing but a word for a size."""
    alike: dict[tuple[str, ...], list[_Sized]] = {}
    for one in own:
        if kind := ranks.words_besides_size(one.name):
            alike.setdefault(kind, []).append(one)
    for family in alike.values():
        if len({one.rank for one in family}) == len(family) > 1:
            yield [_Sized(one.url, name=one.name, rank=one.rank) for one in family]


def _versions(family: Sequence[_Sized]) -> list[Version]:
    """Return the sizes of a picture by their widths where all of them have one, else by what they are called."""
    if all(one.width for one in family):
        return [Version(one.url, one.width, name=one.name) for one in family]
    return [Version(one.url, name=one.name, rank=one.rank) for one in family]
