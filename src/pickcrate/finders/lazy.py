"""Pictures that a script is to put in place: any attribute whose value is an image address, a srcset or such JSON.

There are as many names for these attributes as there are programs that read them, so it is the value that decides.
Where a value has no extension, the name of an attribute of an ``img`` may still say what it is.
"""

import itertools
import re
import string
from collections import Counter
from collections.abc import Collection, Iterable, Iterator
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.addresses import ranks
from pickcrate.addresses.url import claims_no_image, counted_alike, image_type, named_alike
from pickcrate.finders import custom
from pickcrate.finders.alone import only_picture, shows_a_picture
from pickcrate.finders.data.attributevalues import by_density, in_value
from pickcrate.finders.data.datasizes import Version
from pickcrate.finders.data.encoded import BASE64_VALUE, decoded
from pickcrate.finders.data.literals import EXTENSION, in_script, is_file
from pickcrate.finders.data.named import BEGINS_AN_ADDRESS
from pickcrate.finders.data.versions import parted
from pickcrate.finders.images import link_around
from pickcrate.finders.place import DEEPEST_ASKED, Place
from pickcrate.finders.srcset import ImageCandidateString, parse_srcset
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role

# Read by other finders, or words about a picture rather than its address.
_OTHERS = frozenset(
    "src srcset imagesrcset href xlink:href data resource poster background style alt title class id name value "
    "placeholder download for content itemprop property aria-label aria-describedby type sizes media srcdoc action "
    "cite longdesc usemap ping formaction data-filename data-title data-caption data-alt data-name".split()
)
_LAZY_NAME = lazy(
    r"data-(?:[\w-]*-)?(?:src|original|lazy|image|img|full|large|zoom|hires|retina|bg|background|thumb|poster)"
    r"(?:-(?:src|url|image|img|href|2x|retina|full|large))?",
)
_FILES = ranks.ADDRESS_WORDS | {"file"}
_MAY_OPEN_PAGES = frozenset("detail expand popup lightbox print high wide hi fullscreen enlarge".split())
"""words for large pictures that an attribute with the address of a page has as well: ``data-detail-url``"""

_PICTURE_NAME = lazy(
    r"data-(?:[\w-]*-)?(?:(?:bg|background)(?:-(?:image|img|src|url))?|(?:image|img|photo|picture|thumb)-(?:src|url))"
)
"""names of attributes that can only hold the address of a picture: ``data-bg``, ``data-image-url``"""

_SET_NAME = lazy(r"data-(?:[\w-]*-)?(?:src-?set|bg-?set|image-?set|sources?-?set)")
_LOOSE_ADDRESS = lazy(r"(?:(?:https?:)?//|\.{0,2}/)[^\s<>{}|\"'\\]+", re.IGNORECASE)
_SHOWN_BY = {"object": "data", "embed": "src", "video": "poster"}
"""by what attribute elements show a picture beside their content; others by ``background``"""

_MARKS = ('"', "'", "=")
"""what a value may begin with, the last where it stands without quotation marks"""

_UNQUOTED = lazy(r"[^\s\"'<>]{0,2000}")
_EQUALS_SIGN = lazy(r"=\s?\Z")
_OPENS_DATA = lazy(r"=\s?([\"'])(?=[^\"'<>{\[/]{0,40}+[{\[])")
"""how the value of an attribute begins that holds data, or hands some to a function"""

_HOLDS_ADDRESS = lazy(rf"(?:[\"'`]|&quot;|&#34;){BEGINS_AN_ADDRESS}")

_DOT = lazy(r"&#(?:x0{0,9}2e|0{0,9}46);", re.IGNORECASE)
"""as some write all that is no letter, for safety"""

_DATA_NAME = lazy(r"data-(?<![\w-]data-)[\w-]++(?=\s*+=)")  # what it begins with comes first, and is looked for quickly
_EVENT = lazy(r"(?:on|@|v-on:|x-on:|\(|ng-(?=click|dblclick|mouse|focus|blur))([a-z]{3,20})(?:[.)].*)?")
_FAILED = frozenset(("error", "abort", "stalled"))
"""events of a picture that cannot be had: what is shown then stands in for it"""

_OPENED = frozenset(("click", "dblclick", "load", "mousedown", "mouseup", "pointerdown", "touchstart", "keydown"))
"""events that put a picture in place, or open it; what others show is another (the pointer lies over it)"""

_SWAPS_ITSELF = lazy(r"\bthis\s*\.\s*src\b")
_COUNTED = lazy(r"(.*[a-z_-])\d{1,2}")
"""a name that counts: data-image1, data-image2"""

_WIDTH_LEFT_OPEN = "{width}"
"""in an address, for a script to put in what a screen needs"""

_WIDTHS = lazy(r"(?<![\d.])\d{2,5}(?![\d.])")
_LONGEST_WIDTHS = 1_000
_LONGEST_NAME = 60
_NAME_CHARACTERS = string.ascii_letters + string.digits + "-_:.@[]()"
"""with those by which frameworks mark the attributes whose values are expressions: ``:src``, ``[src]``, ``@click``"""

_MOST_EXTENSIONS = 100_000


def carriers(source: str) -> set[str]:
    """Return the names of the attributes in ``source`` that may hold image addresses and have no finder of theirs.

    Looked for backwards from each image extension in the text, as far as the one before it: further back lies what
    that was in. This is cheaper than asking every element. Names too many do no harm: the values decide.
    """
    names: set[str] = set()
    earlier = 0
    if "&#" in source:
        source = _DOT.sub(".", source)
    for match in itertools.islice(EXTENSION.finditer(source), _MOST_EXTENSIONS):
        names.update(_names_before(source, earlier, match.start()))
        earlier = match.start()
    names.update(_names_of_data(source))
    names.update(name for value in BASE64_VALUE.finditer(source) for name in _name_before(source, value.start()))
    data_names = {name.lower() for name in _DATA_NAME.findall(source) if len(name) <= _LONGEST_NAME}
    names.update(name for name in data_names if _is_plain(name) or _SET_NAME.fullmatch(name))
    return {name.lower() for name in names} - _OTHERS


def _names_before(source: str, start: int, end: int) -> Iterator[str]:
    """Yield the names of the attributes in whose value ``end`` may lie, of values that begin behind ``start``.

    A value is open where the last mark of its kind opened it, however far back: data in an attribute is long.
    """
    for mark in _MARKS:
        at = source.rfind(mark, start, end)
        if at < 0:
            continue
        is_open = _UNQUOTED.fullmatch(source, at + 1, end) if mark == "=" else _EQUALS_SIGN.search(source, at - 2, at)
        if is_open:
            yield from _name_before(source, at)


def _names_of_data(source: str) -> Iterator[str]:
    """Yield the names of the attributes that hold data with addresses, which names in it may say to be of pictures."""
    for opening in _OPENS_DATA.finditer(source):
        end = source.find(opening[1], opening.end())
        if end > 0 and _HOLDS_ADDRESS.search(source, opening.end(), end) is not None:
            yield from _name_before(source, opening.start())


def _name_before(source: str, end: int) -> Iterator[str]:
    """Yield the name that stands before an equals sign, or before the value behind that; none if there is none."""
    before = source[max(0, end - _LONGEST_NAME) : end].rstrip("= \t\n")
    if name := before[len(before.rstrip(_NAME_CHARACTERS)) :]:
        yield name


class _Holder(Struct, frozen=True):
    """An element with such attributes: what it shows by itself, and what its attributes are to that."""

    prototype: Reference
    is_picture: bool
    inner: LexborNode | None
    """the picture in it, if it is none itself"""
    others: set[str]
    """those of its attributes that name pictures of their own"""
    shown_by: str
    """the attribute that names what it shows first; none if it shows a picture by itself"""


def find_in_attributes(place: Place, names: set[str]) -> Iterator[Reference]:
    """Yield the pictures in the attributes of ``place`` that are among ``names``."""
    node = place.node
    is_picture = node.tag in {"img", "source", "input", "image"} or custom.is_picture(place)
    looks_inside = not is_picture and place.around.depth <= DEEPEST_ASKED
    alone = only_picture(node) if looks_inside else None
    inner = alone or (node.css_first("img") if looks_inside else None)
    prototype = _prototype(place, inner, is_picture=is_picture)
    held = {
        name: _held(place, name, has_picture=prototype.role is Role.LAZY) for name in place.attributes if name in names
    }
    held = {name: entries for name, entries in held.items() if entries}
    others = _of_others(held, inner=inner, is_alone=alone is not None)
    own = [name for name in held if name not in others] if prototype.role is Role.SHOWN else []
    holder = _Holder(prototype, is_picture, inner, others, shown_by=min(own, key=_in_order, default=""))
    for name, entries in held.items():
        yield from _references(place, holder, name, entries)
    link = place.around.link
    if link is not None and inner is None and not others.issuperset(held) and not shows_a_picture(link):
        yield from link_around(place, prototype)


def _in_order(name: str) -> tuple[bool, int]:
    return ranks.in_order(ranks.rank(name))


def _prototype(place: Place, inner: LexborNode | None, *, is_picture: bool) -> Reference:
    """Return a reference to what an element shows: itself, the picture in it, or else what its attributes name."""
    picture = place.around.picture
    if is_picture:
        return place.prototype(FoundIn.DATA, cluster=place.node if picture is None else picture, role=Role.LAZY)
    shown_by = _SHOWN_BY.get(place.node.tag or "", "background")
    if "url(" in place.get("style") or place.get(shown_by):
        return place.prototype(FoundIn.DATA, cluster=place.node, role=Role.LAZY)
    if inner is not None:
        return place.prototype(FoundIn.DATA, cluster=inner, role=Role.LAZY)
    return place.prototype(FoundIn.DATA, cluster=place.node)


def _references(place: Place, holder: _Holder, name: str, entries: list[ImageCandidateString]) -> Iterator[Reference]:
    """Yield the pictures of one attribute: versions of the one that its element shows, or others."""
    shows_one = holder.prototype.role is Role.LAZY
    rank = ranks.LARGE if _event_of(name) else ranks.rank(name)
    pictures = parted(decoded(place.get(name)), entries, rank=rank, shows_one=shows_one)
    own = _own(place, holder, name, pictures)
    for versions in pictures:
        if versions is not own:
            yield from _of_another(place, holder, name, versions)
            continue
        for nth, (version, reference) in enumerate(_pointing(place, holder, name, versions)):
            # Where nothing else is shown, the first of a set is.
            is_size = version.is_sized and (holder.is_picture or (nth > 0 and not shows_one))
            role = Role.SHOWN if nth == 0 and name == holder.shown_by else Role.LAZY
            yield replace(reference, role=Role.SIZE if is_size else role, is_put_in_place=True)


def _of_another(place: Place, holder: _Holder, name: str, versions: list[Version]) -> Iterator[Reference]:
    """Yield the versions of a picture that its element does not show: the first of them is shown."""
    cluster = place.walk.new_cluster()
    for nth, (version, reference) in enumerate(_pointing(place, holder, name, versions)):
        role = Role.SHOWN if nth == 0 else Role.SIZE if version.is_sized else Role.LAZY
        yield replace(reference, role=role, cluster=cluster)


def _pointing(place: Place, holder: _Holder, name: str, versions: list[Version]) -> Iterator[tuple[Version, Reference]]:
    """Yield a reference to each version that has an address, with what is said of its size."""
    for version in versions:
        reference = place.at(holder.prototype, name, version.url)
        if reference is not None:
            sized = replace(reference, width=version.width, density=version.density, rank=version.rank)
            yield version, sized


def _own(place: Place, holder: _Holder, name: str, pictures: list[list[Version]]) -> list[Version] | None:
    """Return which of an attribute's pictures is the one that its element shows, or shows first; None if none is.

    It is the only one, or the only one in several versions, or the one that is named like it. What the pointer shows
    elsewhere must be named so in any case.
    """
    event = _event_of(name)
    is_passing = bool(event) and event not in _OPENED
    if name in holder.others or (is_passing and _SWAPS_ITSELF.search(place.get(name)) is not None):
        return None
    is_any = is_passing or len(pictures) == 1
    eligible = [versions for versions in pictures if is_any or len(versions) > 1]
    if len(eligible) == 1 and not is_passing:
        return eligible[0]
    picture = holder.inner or place.node
    shown = place.resolve(picture.attributes.get("src") or "") or ""
    urls_of = [[place.resolve(version.url) or "" for version in versions] for versions in eligible]
    own = [number for number, urls in enumerate(urls_of) if shown in urls]
    if not own:
        alike = ((number, url) for number, urls in enumerate(urls_of) for url in urls if named_alike(shown, url))
        own = list(dict.fromkeys(number for number, url in alike if not is_passing or counted_alike(shown, url)))
    return eligible[own[0]] if len(own) == 1 else None


def _held(place: Place, name: str, *, has_picture: bool) -> list[ImageCandidateString]:
    """Return the image addresses in an attribute; none in what is done when a picture cannot be had."""
    value, event = place.get(name), _event_of(name)
    if not value or event in _FAILED:
        return []
    if _WIDTH_LEFT_OPEN in value and (filled := _filled(value, place.get("data-widths"))):
        return filled
    entries = list(in_value(value)) or list(_by_name(place, name, value, has_picture=has_picture))
    if not entries and (event or _has_strings(value)):  # a handler, or options in a script's own notation
        entries = [
            ImageCandidateString(raw) for raw in in_script(value, is_handler=bool(event), of_page=place.constants)
        ]
    return entries


def _has_strings(value: str) -> bool:
    """Tell whether a value may be in a script's notation; double quotation marks are those of markup as well."""
    return "'" in value or ("<" not in value and ('"' in value or "`" in value))


def _filled(value: str, widths: str) -> list[ImageCandidateString]:
    """Return an address that leaves its width open for each of the widths that another attribute lists."""
    text = value.strip()
    listed = [int(width) for width in _WIDTHS.findall(widths[:_LONGEST_WIDTHS])]
    addresses = ((text.replace(_WIDTH_LEFT_OPEN, str(width)), width) for width in listed)
    return [ImageCandidateString(address, width) for address, width in addresses if is_file(address)]


def _of_others(held: Collection[str], *, inner: LexborNode | None, is_alone: bool) -> set[str]:
    """Return those of an element's attributes that name pictures of their own, and no versions of the one it shows.

    ``inner`` is the picture in the element, if it is not one itself, and ``is_alone`` says that it is the only one.
    """
    plain = [name for name in held if not _event_of(name)]
    others = set(filter(ranks.names_another, plain))
    counted = {name: match[1] for name in plain if (match := _COUNTED.fullmatch(name)) is not None}
    often = Counter(counted.values())
    others.update(name for name, bare in counted.items() if often[bare] > 1)
    unknown = [name for name in plain if not ranks.names_a_version(name) and ranks.rank(name) == ranks.UNSAID]
    if len(unknown) > 1:
        others.update(unknown)
    if inner is not None:  # what lies behind it, or is of one of several and does not say that it is larger
        others.update(filter(ranks.names_a_background, plain))
        others.update(name for name in plain if not is_alone and ranks.rank(name) < ranks.LARGE)
    return others


def is_handler(name: str, value: str) -> bool:
    """Tell whether an attribute says what a script does: when something happens, or where a link leads."""
    return bool(_event_of(name)) or value.lstrip()[:11].lower() == "javascript:"


@lru_cache(maxsize=1_024)
def _event_of(name: str) -> str:
    """Return the event that an attribute handles, as pages and frameworks write it (HTML standard, 8.1.8.1)."""
    match = _EVENT.fullmatch(name)
    return match[1] if match is not None else ""


@lru_cache(maxsize=1_024)
def _is_plain(name: str) -> bool:
    """Tell whether an attribute is plainly named for the address of a picture, or of a larger version of one."""
    if _LAZY_NAME.fullmatch(name) is not None:
        return True
    bare = name.removeprefix("data-")
    words = ranks.words_in(bare) if bare != name else ()
    large = {word for word in words if ranks.rank(word) >= ranks.LARGE} - _MAY_OPEN_PAGES
    return bool(large) and (words[-1] in large or words[-1] in _FILES or ranks.names_a_picture(bare))


def _by_name(place: Place, name: str, value: str, *, has_picture: bool) -> Iterable[ImageCandidateString]:
    """Return an address without an extension where an image's attribute is plainly named for one.

    Of an element around an image the name must say that it is a larger version, of one without that it is a picture.
    """
    if _SET_NAME.fullmatch(name):
        sizes = parse_srcset(value)
        return sizes if all(entry.width or entry.density for entry in sizes) else ()
    if not _is_plain(name) or not (has_picture or _PICTURE_NAME.fullmatch(name)):
        return ()
    if has_picture and place.node.tag not in {"img", "source"} and ranks.rank(name) < ranks.LARGE:
        return ()
    text = value.strip()
    if is_file(text):  # "Red kite.jpg", with no folder
        return (ImageCandidateString(text),)
    if densities := by_density(text, _LOOSE_ADDRESS.fullmatch):
        return densities
    if not _LOOSE_ADDRESS.fullmatch(text):
        return ()
    url = place.resolve(text)
    if url is None or claims_no_image(url) or (image_type(url) is None and text in {"/", "//"}):
        return ()
    return (ImageCandidateString(text),)
