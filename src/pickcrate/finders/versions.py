"""Which of the addresses in data, or in an attribute, are versions of one picture, by what it says of them."""

from collections.abc import Container, Sequence

from pickcrate import ranks
from pickcrate.finders.attributevalues import by_condition
from pickcrate.finders.jsondata import size_called
from pickcrate.finders.literals import EXTENSION, is_address, sizes_in
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.finders.strings import FARTHEST, name_before, string_literals, unescape
from pickcrate.lazyre import lazy
from pickcrate.sizednames import sized_name

_NEXT_OBJECT = lazy(r"[^{}]*\}\s*,\s*[\w\"'-]+\s*:\s*\{[^{}]*")
_INTO_OBJECT = lazy(r"[^{}\[\]]*,\s*[\w\"'-]+\s*:\s*\{[^{}\[\]]*")
_OUT_OF_OBJECT = lazy(r"[^{}\[\]]*\}\s*,[^{}\[\]]*")
_SIDES = lazy(r"(\d{1,5})(?:x\d{2,4})?(?!\d)")
_OPENS_DATA = frozenset("{[")


class Version(ImageCandidateString, frozen=True):
    """One address of a picture, by the name that it stands under in data, and how large that says it is."""

    name: str = ""
    rank: int = ranks.UNSAID


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
    for number, family in enumerate(families(text, known) if len(entries) > 1 else ()):
        for version in family:
            named.setdefault(version.url, (number, version))
    others = [entry for entry in entries if entry.url not in named]
    is_one_set = any(entry.is_sized for entry in others) and (
        text.lstrip()[:1] not in _OPENS_DATA or _are_sizes_of_one(others, shows_one=shows_one)
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


def families(text: str, known: Container[str] = ()) -> list[list[Version]]:
    """Return the addresses of a script or a JSON text that are versions of one picture, a list for each picture.

    Those are neighbours in one object whose names are about sizes, and differ in that: ``{thumb: …, full: …}``, also
    where each is an object of its own (``{"thumb": {"url": …}, "full": {"url": …}}``), and the entries of a srcset in
    it; or they are sizes themselves (``{"1x": …, "2x": …}``). What is ``known`` for an address need not end in an image
    extension.
    """
    found: list[list[Version]] = []
    family: list[Version] = []
    previous = 0
    for start, end in string_literals(text):
        literal = text[start + 1 : end - 1]
        if EXTENSION.search(literal) is None and (not known or literal[:1] not in {"h", "/", "\\"}):
            continue
        plain = unescape(literal).strip()
        sizes = [] if is_address(plain) or plain in known else sizes_in(plain)
        if not (sizes or is_address(plain) or plain in known):
            continue
        between = text[max(previous, start - FARTHEST) : start]
        name, begins = name_before(between)
        size = size_called(name.rpartition(" ")[2])
        is_far = not family or start - previous > FARTHEST or (size is not None and "}" in between)
        if begins or is_far or not _are_neighbours(family[-1].name, between, name):
            _close(family, found)
            family = []
        if sizes:
            family += _of_srcset(sizes, name)
        elif size is not None:
            family.append(Version(plain, *size, name))
        elif ranks.names_a_version(name):
            family.append(Version(plain, name=name, rank=ranks.rank(name)))
        previous = end
    _close(family, found)
    return found


def _of_srcset(entries: list[ImageCandidateString], name: str) -> list[Version]:
    """Return the entries of a srcset in data as versions: the largest is large, the others are not."""
    largest = max(entries, key=lambda entry: entry.width or entry.density or 0)
    sizes = ((entry.url, ranks.LARGE if entry is largest else ranks.MEDIUM) for entry in entries)
    return [Version(url, name=name or "srcset", rank=rank) for url, rank in sizes]


def _are_neighbours(before: str, between: str, name: str) -> bool:
    """Tell whether two addresses are of one object, or one of an object in that of the other, by what is between them.

    The inner object's name must say a size: ``{"url": …, "thumbnail": {"url": …}}``.
    """
    if "{" not in between and "}" not in between:
        return True
    pieces, at = [], 0
    for start, end in string_literals(between):
        pieces.append(between[at:start])
        at = end
    bare = '""'.join((*pieces, between[at:]))
    if ("{" not in bare and "}" not in bare) or _NEXT_OBJECT.fullmatch(bare) is not None:
        return True
    return (_is_of_sized_object(name) and _INTO_OBJECT.fullmatch(bare) is not None) or (
        _is_of_sized_object(before) and _OUT_OF_OBJECT.fullmatch(bare) is not None
    )


def _is_of_sized_object(name: str) -> bool:
    """Tell whether a name has that of the object before it, and that says a size."""
    return " " in name and ranks.rank(name) != ranks.UNSAID


def _close(family: list[Version], found: list[list[Version]]) -> None:
    sizes = {(version.rank, version.width, version.density) for version in family}
    if len({version.url for version in family}) > 1 and len(sizes) > 1:
        found.append(family)
