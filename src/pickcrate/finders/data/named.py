"""Picture addresses without an image extension, by the names that they stand under in data: ``"imageUrl": "/i/9f3a"``.

Services that scale pictures give them such addresses. A name must say that it is one of a picture, or the object that
it stands in must state a width and a height.
"""

import re
from collections.abc import Iterator
from itertools import islice

from pickcrate.addresses.ranks import ADDRESS_WORDS, UNSAID, names_a_picture, names_a_version, rank
from pickcrate.addresses.url import absolute, claims_no_image, is_picture_path
from pickcrate.finders.data.strings import (
    DEEPEST,
    FARTHEST,
    LONGEST_ADDRESS,
    MOST_VALUES,
    name_before,
    string_literals,
    unescape,
)
from pickcrate.media import states_a_type
from pickcrate.text.lazyre import lazy

_ADDRESS = lazy(r"(?:(?:https?:)?//[\w.:-]{3,255})?/[^\s<>{}\"'\\/][^\s<>{}\"'\\]*+")
ANYWHERE = "https://galewick.example/"
"""where a relative address is held to be, to see what it would be"""

BEGINS_AN_ADDRESS = r"(?:https?:)?(?:\\?/|\\u002[fF])"
"""how a string begins that may be an address, in a script's or JSON's own writing"""

_BEGINS = lazy(rf"[\"'`]{BEGINS_AN_ADDRESS}")
_STANDS_ALONE = lazy(r".?[^:\[\s]$", re.DOTALL)
"""what ends just before a literal that no name stands before"""

_WRAPS = frozenset("edges node nodes items data attributes fields file sources renditions formats".split())
"""names of what only holds what is meant"""

_ADDRESSES = ("href", "url", "src", "uri", "contentUrl", "mediaLink", "accessURI", "identifier", "link", "@id", "id")
"""names of where a file is, beside what states its type (Audubon Core: ``accessURI``; Darwin Core: ``identifier``)"""

_SERVICE = "iiif"
"""what is called after it is the base of an image service: its description is read, and it is no picture's address"""

_OF_PAGES = lazy(
    r"self(?:_?link)?|(?:[a-z]+_)?(?:description|landing|html)_?ur[il]",
    re.IGNORECASE,
)
"""names of where data is that tells of a file, or the page that shows it"""

_NAMES_OF_FILES = frozenset(
    "name title alt caption description file filename file_name originalname originalfilename original_filename "
    "basename key".split()
)
"""under what names data says what a file is called, beside its address"""

_KINDS = frozenset(("image", "photo", "picture", "photograph", "imageobject"))
_KIND_NAMES = frozenset(("kind", "resource_type", "__typename", "@type"))
"""what data says that an object is, and under what names, besides those of its type"""

_GAP = 20
"""characters between two strings of a list, at most"""

_OWN_PAGE = frozenset("src urls slug permalink title name headline".split())
"""names beside which a ``url`` is that of a page"""


def may_be_address(text: str) -> bool:
    """Tell whether a text may be the address of a picture, which does not say so; one of a folder is none."""
    text = text.strip()
    if len(text) > LONGEST_ADDRESS or text.endswith("/") or _ADDRESS.fullmatch(text) is None:
        return False
    url = absolute(text, ANYWHERE)
    return url is not None and not claims_no_image(url)


def may_hold_named(text: str) -> bool:
    """Tell whether a script may name such addresses at all."""
    return _BEGINS.search(text) is not None


def named_strings(parsed: object) -> Iterator[tuple[str, bool]]:
    """Yield every string of a parsed JSON value, in order, and whether names say that it is a picture's address.

    Values nested too deep are left out.
    """
    waiting: list[tuple[object, bool, int]] = [(parsed, False, 0)]
    left = MOST_VALUES
    while waiting and left:
        value, is_named, depth = waiting.pop()
        left -= 1
        if isinstance(value, str):
            yield value, is_named
        elif depth >= DEEPEST:
            continue
        elif isinstance(value, dict):
            named = _named_in(value, is_named=is_named)
            pairs = without_file_names(value)
            waiting.extend((inner, name in named, depth + 1) for name, inner in reversed(pairs))
        elif isinstance(value, list):
            waiting.extend((inner, is_named, depth + 1) for inner in reversed(value))


def without_file_names(value: dict[str, object]) -> list[tuple[str, object]]:
    """Return the properties of an object that may hold a picture's address.

    Left out are addresses of data and of pages about the file, and what merely calls the file whose address is in the
    object, or in one inside it: ``{"filename": "kite.png", "uri": {"url": "/files/kite.png"}}``.
    """
    pairs = [(name, said) for name, said in value.items() if _OF_PAGES.fullmatch(name) is None]
    texts = {name: said for name, said in pairs if isinstance(said, str)}
    if any(map(says_from_where, texts.values())):
        is_typed = _typed_as_picture(texts)
        calling = {name for name, said in texts.items() if _calls_a_file(name, said, with_folder=is_typed)}
    else:
        ends = {address.rpartition("/")[2] for address in _addresses_inside(pairs)}
        calling = {name for name, said in texts.items() if said in ends}
    return [(name, said) for name, said in pairs if name not in calling]


def _addresses_inside(pairs: list[tuple[str, object]]) -> Iterator[str]:
    """Yield the addresses in the objects that are values of an object."""
    for inner in (said for _, said in pairs if isinstance(said, dict)):
        yield from (said for said in inner.values() if isinstance(said, str) and says_from_where(said))


def _typed_as_picture(texts: dict[str, str]) -> bool:
    """Tell whether an object states the type of an image."""
    return any(said[:6].lower() == "image/" and states_a_type(name) for name, said in texts.items())


def says_from_where(text: str) -> bool:
    """Tell whether a text begins as an address does that has a host, or begins at the root."""
    return text.startswith(("/", "http:", "https:"))


def _calls_a_file(name: str, said: str, *, with_folder: bool = False) -> bool:
    """Tell whether data says under a name what the file of a picture is called, with or without its folder."""
    if name.lower() not in _NAMES_OF_FILES:
        return False
    return is_picture_path(said.rpartition("/")[2]) if with_folder else "/" not in said and is_picture_path(said)


def _named_in(value: dict[str, object], *, is_named: bool) -> set[str]:
    """Return the names in an object whose values are pictures; ``is_named`` says that the object itself is called one.

    Beside a name of a picture, names for sizes are its versions.
    """
    texts = {name: said for name, said in value.items() if isinstance(said, str)}
    pictures = {name for name in value if names_a_picture(name) and _SERVICE not in name.lower()}
    named = pictures | _names_of_it(value, is_named=is_named)
    if _typed_as_picture(texts):
        named.update(islice((name for name in _ADDRESSES if name in texts), 1))
    if any(said.lower() in _KINDS and (name in _KIND_NAMES or states_a_type(name)) for name, said in texts.items()):
        named |= _names_of_it(value, is_named=True)
    if any(_calls_a_file(name, said) for name, said in texts.items()):
        named |= ADDRESS_WORDS.intersection(value)  # of the file whose name stands beside it
    if is_named:
        named |= _WRAPS.intersection(value)
    if is_named or not pictures.isdisjoint(texts):
        versions = {name for name in value if names_a_version(name) and rank(name) != UNSAID}
        named |= versions | {"contentUrl"}.intersection(value)
    return named


def _names_of_it(value: dict[str, object], *, is_named: bool) -> set[str]:
    """Return the names of the address in an object that is a picture: called one, or with a width and a height."""
    is_sized = all(str(value.get(side, value.get(side[0], ""))).isdecimal() for side in ("width", "height"))
    if not (is_named or is_sized):
        return set()
    names = {"src", "uri", "contentUrl"}
    if "contentUrl" not in value and "#" not in str(value.get("@id", "#")):  # else it is a part of a page
        names.add("@id")
    if is_sized or _OWN_PAGE.isdisjoint(value):
        names.add("url")
    return names.intersection(value)


def named_in_script(text: str) -> dict[int, str]:
    """Return such addresses in a script, unescaped, by where their literals begin."""
    found: dict[int, str] = {}
    sizes: dict[int, str] = {}
    has_picture, previous, list_end = False, 0, -1
    for start, end in string_literals(text) if may_hold_named(text) else ():
        if 0 < list_end <= start < list_end + _GAP and text[list_end:start].strip() == ",":  # the next of a list
            plain = unescape(text[start + 1 : end - 1]).strip()
            if may_be_address(plain):
                found[start] = plain
                previous = list_end = end
                continue
        if text[start + 1] not in "h/\\" or _STANDS_ALONE.match(text, max(0, start - 2), start) is not None:
            continue
        before = text[max(previous, start - FARTHEST) : start]
        if "{" in before or "}" in before or start - previous > FARTHEST:  # another object
            has_picture, sizes = False, {}
        previous = end
        name, _ = name_before(before)
        is_picture = names_a_picture(name)
        is_size = not is_picture and names_a_version(name) and rank(name) != UNSAID
        if not (is_picture or is_size) or not may_be_address(plain := unescape(text[start + 1 : end - 1]).strip()):
            continue
        if is_picture:
            found |= sizes
            has_picture, sizes = True, {}
            list_end = end if before.rstrip().endswith("[") else -1
        (found if has_picture else sizes)[start] = plain
    return dict(sorted(found.items()))
