"""Which of the addresses in data, or in an attribute, are versions of one picture, by what it says of them."""

import re
from collections.abc import Container, Iterator, Sequence

from msgspec import Struct

from pickcrate.addresses import ranks
from pickcrate.addresses.sizednames import sized_name
from pickcrate.finders.data.attributevalues import by_condition
from pickcrate.finders.data.datasizes import Version, families_in_data
from pickcrate.finders.data.jsondata import OPENS_JSON, size_called
from pickcrate.finders.data.literals import EXTENSION, is_address, sizes_in
from pickcrate.finders.data.strings import FARTHEST, name_before, string_literals, unescape
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.text.lazyre import lazy

_NEXT_OBJECT = lazy(r"[^{}]*\}\s*,\s*[\w\"'-]+\s*:\s*\{[^{}]*")
_NEXT_OF_LIST = lazy(r"[^{}\[\]]*\}\s*,\s*\{[^{}\[\]]*")
_INTO_OBJECT = lazy(r"[^{}\[\]]*,(?:\s*[\w\"'-]+\s*:\s*\{){1,2}[^{}\[\]]*")
_INTO_LIST = lazy(r"[^{}\[\]]*\}\s*,\s*[\w\"'-]+\s*:\s*\[\s*\{[^{}\[\]]*")
_OUT_OF_OBJECT = lazy(r"[^{}\[\]]*\}\s*,[^{}\[\]]*")
_LABEL = lazy(
    r"(?<![\w-])[\"']?(?:type|kind|rel|label|name|size|format|quality|variant|version|role|profile|use)[\"']?\s{0,9}:"
    r"\s{0,9}[\"']([\w -]{1,30})[\"']",
    re.IGNORECASE,
)
"""a property that may say of which size a picture is, and what it says"""

_SIDE = lazy(r"(?<![\w-])[\"']?(w|h)(?:idth|eight)?[\"']?\s{0,9}:\s{0,9}[\"']?(\d{1,5})(?![\d.])", re.IGNORECASE)
_LEAST_LADDER, _LEAST_SPREAD, _SAME_RATIO = 3, 2.0, 0.02
"""pictures of a list that are one in several sizes; how many times as wide the largest is as the smallest; and what
their ratios of sides may differ by"""

_SIDES = lazy(r"(\d{1,5})(?:x\d{2,4})?(?!\d)")


def parted(text: str, entries: Sequence[ImageCandidateString], *, rank: int, shows_one: bool) -> list[list[Version]]:
    """Return the addresses of a value or of data, a list for each picture, the smallest version first.

    Of one picture are what data names as versions of one, what is for several kinds of screens, the entries of a
    srcset, and addresses that differ by their stated widths alone. ``shows_one`` says that the element shows a picture:
    sizes that are stated in data are of that then. What is not named is of ``rank``.
    """
    if conditions := by_condition(text):
        return [_by_rank([Version(entry.url, rank=_rank_for(conditions[entry.url])) for entry in entries])]
    named: dict[str, tuple[int, Version]] = {}
    known = {entry.url for entry in entries}
    several = [*families_in_data(text, known), *families(text, known)] if len(entries) > 1 else []
    for number, family in enumerate(several):
        for version in family:
            named.setdefault(version.url, (number, version))
    others = [entry for entry in entries if entry.url not in named]
    is_one_set = any(entry.is_sized for entry in others) and (
        text.lstrip()[:1] not in OPENS_JSON or _are_sizes_of_one(others, shows_one=shows_one)
    )
    pictures: dict[int | str, list[Version]] = {}
    for entry in entries:
        plain = Version(entry.url, entry.width, entry.density, rank=rank)
        key, version = named.get(entry.url, ("" if is_one_set else _bare(entry), plain))
        pictures.setdefault(key, []).append(version)
    return list(map(_by_rank, pictures.values()))


def _by_rank(versions: list[Version]) -> list[Version]:
    return sorted(versions, key=lambda one: (*ranks.in_order(one.rank), one.width or 0, one.density or 0))


def _rank_for(condition: str) -> int:
    """Return how large the picture for screens of a kind is: for those wider than something, or by their name.

    What is for any screen ("default") stands in for nothing.
    """
    if condition in {"<", ">"}:
        return ranks.SMALL if condition == "<" else ranks.LARGE
    return ranks.LARGE if "min-" in condition else max(ranks.rank(condition), ranks.SMALL)


def _are_sizes_of_one(entries: list[ImageCandidateString], *, shows_one: bool) -> bool:
    """Tell whether all that data states sizes of is one picture: each is of another size, and it is that of an element.

    Densities are of one picture anyway.
    """
    sizes = {entry.width or entry.density for entry in entries}
    return len(sizes) == len(entries) and (shows_one or any(entry.density for entry in entries))


def _bare(entry: ImageCandidateString) -> str:
    """Return an address without the width that is stated for it, and without words for sizes."""
    if entry.width is None:
        return entry.url
    width = str(entry.width)
    without = _SIDES.sub(lambda match: "" if match[1] == width else match[0], entry.url)
    return sized_name(without).bare


class _Named(Struct, frozen=True):
    """An address in data: the name that it stands under, the object that it stands in, and what is before it."""

    text: str
    name: str
    begins: bool
    """whether an object of versions begins with it"""
    is_labelled: bool
    """whether a property beside it says of which size it is: ``{"type": "thumb", "url": …}``"""
    around: str
    """its object, if that holds no other; blank if it is larger"""
    between: str
    """from the address before it on"""
    is_far: bool
    """whether that is too far away to have to do with it"""
    sizes: list[ImageCandidateString]
    """the entries of a srcset, if it is one"""


def families(text: str, known: Container[str] = ()) -> list[list[Version]]:
    """Return the addresses of a script or a JSON text that are versions of one picture, a list for each picture.

    Those are neighbours in one object whose names are about sizes, and differ in that: ``{thumb: …, full: …}``, also
    where each is an object of its own (``{"thumb": {"url": …}, "full": {"url": …}}``), or says of itself which it is
    (``[{"type": "thumb", "url": …}, …]``), and the entries of a srcset in it; or they are sizes themselves
    (``{"1x": …, "2x": …}``). What is ``known`` for an address need not end in an image extension; what is not, is none.
    """
    addresses = list(_named_addresses(text, known))
    found = _ladders(addresses)
    family: list[Version] = []
    for one in addresses:
        size = size_called(one.name.rpartition(" ")[2])
        is_far = not family or one.is_far or (size is not None and "}" in one.between)
        is_again = one.is_labelled and any(version.name == one.name for version in family)
        if one.begins or is_far or is_again or not _are_neighbours(family[-1].name, one):
            _close(family, found)
            family = []
        if one.sizes:
            family += _of_srcset(one.sizes, one.name)
        elif size is not None:
            family.append(Version(one.text, *size, one.name))
        elif ranks.names_a_version(name := one.name) or ranks.names_a_version(name := one.name.rpartition(" ")[2]):
            family.append(Version(one.text, name=name, rank=ranks.rank(name)))
    _close(family, found)
    return found


def _named_addresses(text: str, known: Container[str]) -> Iterator[_Named]:
    """Yield the addresses among the string literals of a text."""
    previous = 0
    for start, end in string_literals(text):
        literal = text[start + 1 : end - 1]
        if EXTENSION.search(literal) is None and (not known or literal[:1] not in {"h", "/", "\\"}):
            continue
        plain = unescape(literal).strip()
        is_one = plain in known if known else is_address(plain)
        sizes = [] if is_one else sizes_in(plain)
        if not (sizes or is_one):
            continue
        between = text[max(previous, start - FARTHEST) : start]
        name, begins = name_before(between)
        around = _object_around(text, start, end)
        label = _label_in(around) if not begins and ranks.rank(name) == ranks.UNSAID else ""
        is_far = start - previous > FARTHEST
        name = f"{label} url" if label else name
        yield _Named(plain, name, begins, bool(label), around, between, is_far, sizes)
        previous = end


def _ladders(addresses: list[_Named]) -> list[list[Version]]:
    """Return the lists of pictures that state their sides, and by those are one picture in several sizes.

    They have one ratio of sides, and each is larger than the one before, or each smaller; a gallery's are not so. What
    stands before the list, larger than all in it, is the picture itself: ``{"source": {…}, "resolutions": [{…}, …]}``.
    """
    found: list[list[Version]] = []
    ladder: list[tuple[Version, float]] = []
    previous: tuple[Version, float] | None = None
    for one in addresses:
        step = _step(one)
        if step is not None and not one.is_far and _goes_on(ladder, step, one):
            ladder.append(step)
        else:
            _close_ladder(ladder, found)
            is_inside = not one.is_far and _INTO_LIST.fullmatch(_bare_of(one.between)) is not None
            ladder = [first for first in (previous if is_inside else None, step) if first is not None]
        previous = step
    _close_ladder(ladder, found)
    return found


def _step(one: _Named) -> tuple[Version, float] | None:
    """Return an address with the width that its object states, and the ratio of its sides."""
    if one.sizes:
        return None
    sides = {side.lower(): int(stated) for side, stated in _SIDE.findall(one.around)}
    width, height = sides.get("w", 0), sides.get("h", 0)
    return (Version(one.text, width, name=one.name), width / height) if width and height else None


def _goes_on(ladder: list[tuple[Version, float]], step: tuple[Version, float], one: _Named) -> bool:
    """Tell whether a picture is the next size of a ladder, by its sides and by what is between the two."""
    if not ladder or _NEXT_OF_LIST.fullmatch(_bare_of(one.between)) is None:
        return False
    return abs(step[1] / ladder[-1][1] - 1) <= _SAME_RATIO


def _close_ladder(ladder: list[tuple[Version, float]], found: list[list[Version]]) -> None:
    """Add a ladder that is long enough, and whose sizes are in order but for the first."""
    versions = [version for version, _ in ladder]
    widths = [version.width or 0 for version in versions]
    listed = widths[1:] if widths and widths[0] == max(widths) else widths
    is_sorted = listed in (sorted(set(listed)), sorted(set(listed), reverse=True))
    if len(versions) >= _LEAST_LADDER and is_sorted and max(widths) >= _LEAST_SPREAD * min(widths):
        found.append(versions)


def _object_around(text: str, start: int, end: int) -> str:
    """Return the object that holds an address and no other object; blank if it is larger."""
    opens = text.rfind("{", max(0, start - FARTHEST), start)
    closes = text.find("}", end, end + FARTHEST)
    is_alone = opens >= 0 and closes >= 0 and "}" not in text[opens:start] and "{" not in text[end:closes]
    return text[opens:closes] if is_alone else ""


def _label_in(around: str) -> str:
    """Return what a property of an object says of the size of its picture; empty if none does."""
    labels = (label for label in _LABEL.findall(around) if ranks.names_a_version(label))
    return next((label for label in labels if ranks.rank(label) != ranks.UNSAID), "")


def _of_srcset(entries: list[ImageCandidateString], name: str) -> list[Version]:
    """Return the entries of a srcset in data as versions: the largest is large, the others are not."""
    largest = max(entries, key=lambda entry: entry.width or entry.density or 0)
    sizes = ((entry.url, ranks.LARGE if entry is largest else ranks.MEDIUM) for entry in entries)
    return [Version(url, name=name or "srcset", rank=rank) for url, rank in sizes]


def _are_neighbours(before: str, one: _Named) -> bool:
    """Tell whether two addresses are of one object, or one of an object in that of the other, by what is between them.

    The inner object's name must say a size: ``{"url": …, "thumbnail": {"url": …}}``.
    """
    between, name = one.between, one.name
    if "{" not in between and "}" not in between:
        return True
    bare = _bare_of(between)
    if "{" not in bare and "}" not in bare:
        return True
    if " " in before and _NEXT_OBJECT.fullmatch(bare) is not None:
        return True
    if one.is_labelled and _is_of_sized_object(before) and _NEXT_OF_LIST.fullmatch(bare) is not None:
        return True
    return (_is_of_sized_object(name) and _INTO_OBJECT.fullmatch(bare) is not None) or (
        _is_of_sized_object(before) and _OUT_OF_OBJECT.fullmatch(bare) is not None
    )


def _bare_of(between: str) -> str:
    """Return what is between two addresses without what its strings say."""
    pieces, at = [], 0
    for start, end in string_literals(between):
        pieces.append(between[at:start])
        at = end
    return '""'.join((*pieces, between[at:]))


def _is_of_sized_object(name: str) -> bool:
    """Tell whether a name has that of the object before it, and that says a size."""
    return " " in name and ranks.rank(name) != ranks.UNSAID


def _close(family: list[Version], found: list[list[Version]]) -> None:
    sizes = {(version.rank, version.width, version.density) for version in family}
    if len({version.url for version in family}) > 1 and len(sizes) > 1:
        found.append(family)
