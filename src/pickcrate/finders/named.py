"""Picture addresses without an image extension, by the names that they stand under in data: ``"imageUrl": "/i/9f3a"``.

Services that scale pictures give them such addresses. A name must say that it is one of a picture, or the object that
it stands in must state a width and a height.
"""

import re
from collections.abc import Iterator
from itertools import islice

from pickcrate.addresses import absolute, claims_no_image, is_picture_path
from pickcrate.finders.strings import (
    DEEPEST,
    FARTHEST,
    LONGEST_ADDRESS,
    MOST_VALUES,
    name_before,
    string_literals,
    unescape,
)
from pickcrate.lazyre import lazy
from pickcrate.media import states_a_type
from pickcrate.ranks import UNSAID, names_a_picture, names_a_version, rank

_ADDRESS = lazy(r"(?:(?:https?:)?//[\w.:-]{3,255})?/[^\s<>{}\"'\\/][^\s<>{}\"'\\]*+")
_ANYWHERE = "https://galewick.example/"
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

_GAP = 20
"""characters between two strings of a list, at most"""

_OWN_PAGE = frozenset("src urls slug permalink title name headline".split())
"""names beside which a ``url`` is that of a page"""


def may_be_address(text: str) -> bool:
    """Tell whether a text may be the address of a picture, which does not say so; one of a folder is none."""
    text = text.strip()
    if len(text) > LONGEST_ADDRESS or text.endswith("/") or _ADDRESS.fullmatch(text) is None:
        return False
    url = absolute(text, _ANYWHERE)
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
    """Return what is in an object, without what the file is called that it has the address of, and where data of it is.

    An object inside it may have the address: ``{"filename": "kite.png", "uri": {"url": "/files/kite.png"}}``.
    """
    pairs = [(name, said) for name, said in value.items() if _OF_PAGES.fullmatch(name) is None]
    inner = [said for _, one in pairs if isinstance(one, dict) for said in one.values() if isinstance(said, str)]
    if not any(isinstance(said, str) and says_from_where(said) for _, said in pairs):
        ends = {said.rpartition("/")[2] for said in inner if says_from_where(said)}
        return [(name, said) for name, said in pairs if not (isinstance(said, str) and said in ends)]
    is_typed = any(isinstance(said, str) and states_a_type(name) and said[:6] == "image/" for name, said in pairs)
    return [
        (name, said)
        for name, said in pairs
        if not (isinstance(said, str) and _names_a_file(name, said.rpartition("/")[2] if is_typed else said))
    ]


def says_from_where(text: str) -> bool:
    """Tell whether a text begins as an address does that has a host, or begins at the root."""
    return text.startswith(("/", "http:", "https:"))


def _names_a_file(name: str, said: str) -> bool:
    """Tell whether data says under a name what the file of a picture is called, without a folder."""
    return name.lower() in _NAMES_OF_FILES and "/" not in said and is_picture_path(said)


def _named_in(value: dict[str, object], *, is_named: bool) -> set[str]:
    """Return the names in an object whose values are pictures; ``is_named`` says that the object itself is called one.

    Beside a name of a picture, names for sizes are its versions.
    """
    texts = [(name, said) for name, said in value.items() if isinstance(said, str)]
    named = {name for name in value if names_a_picture(name) and _SERVICE not in name.lower()}
    has_picture = any(name in named for name, _ in texts)
    is_sized = all(str(value.get(side, "")).isdecimal() for side in ("width", "height"))
    if is_named or is_sized:
        named |= {"src", "uri", "contentUrl"}.intersection(value)
        named |= {"@id"} if "#" not in str(value.get("@id", "#")) else set()  # else it is a part of a page
        named |= {"url"} if is_sized or _OWN_PAGE.isdisjoint(value) else set()
    if any(said[:6].lower() == "image/" and states_a_type(name) for name, said in texts):
        stated = (name for name in _ADDRESSES if isinstance(value.get(name), str))
        named.update(islice(stated, 1))
    if any(_names_a_file(name, said) for name, said in texts):
        named |= {"url", "href", "src", "uri"}.intersection(value)
    if is_named:
        named |= _WRAPS.intersection(value)
    if has_picture:
        named |= {"contentUrl"}.intersection(value)
    if is_named or has_picture:
        named |= {name for name in value if names_a_version(name) and rank(name) != UNSAID}
    return named


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
