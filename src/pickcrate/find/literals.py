"""Image addresses in text that is no markup: attribute values, JSON, JavaScript strings.

Weaker evidence than markup, so the rules are strict: an address must end its path in an image extension, and must
not be a piece of a longer expression. A wrong address is worse than none here.
"""

import html
import json
import re
from collections.abc import Iterator

from pickcrate.find.srcset import ImageCandidateString, parse_srcset
from pickcrate.media import IMAGE_TYPES

_EXTENSIONS = "|".join(sorted((e for kind in IMAGE_TYPES for e in kind.address_extensions), key=len, reverse=True))
# The look-ahead makes it four times as fast: most dots are followed by no letter that could begin an extension.
_FIRST_LETTERS = "".join(sorted({e[0] for kind in IMAGE_TYPES for e in kind.address_extensions}))
EXTENSION = re.compile(rf"\.(?=[{_FIRST_LETTERS}])(?:{_EXTENSIONS})(?![\w-])", re.IGNORECASE)
_ADDRESS = re.compile(
    rf"(?:(?:https?:)?//[^\s/?#]+/|[^\s?#:<>{{}}|\\^`\"'*]*?)[^\s?#<>{{}}|\\^`\"'*]*[^\s/?#<>{{}}|\\^`\"'*=]"
    rf"\.(?:{_EXTENSIONS})(?:[?#][^\s<>\"']*)?",
    re.IGNORECASE,
)
_ABSOLUTE = re.compile(r"(?:https?:)?//", re.IGNORECASE)
_STRING = re.compile(r"\"((?:[^\"\\\n]|\\.)*)\"|'((?:[^'\\\n]|\\.)*)'|`((?:[^`\\$]|\\.|\$(?!\{))*)`", re.DOTALL)
_ESCAPE = re.compile(r"\\(?:u\{([0-9a-fA-F]{1,6})\}|u([0-9a-fA-F]{4})|x([0-9a-fA-F]{2})|(.))", re.DOTALL)
_PLAIN_ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "v": "\v", "0": "\0", "\n": ""}
_PIECED_BEFORE = re.compile(r"[+]\s*$")
_PIECED_AFTER = re.compile(r"\s*[+]")
_INNER_ATTRIBUTE = re.compile(
    r"\b(?:src|href|data-[\w-]+|poster)\s*=\s*(?:\"([^\"<>]*)\"|'([^'<>]*)'|([^\s\"'<>]+))", re.IGNORECASE
)
_INNER_URL = re.compile(r"url\(\s*[\"']?([^\"'()\s]+)[\"']?\s*\)", re.IGNORECASE)
_LONGEST_ADDRESS = 2000
_DEEPEST = 60
_MOST_IN_JSON = 20_000


def is_address(text: str) -> bool:
    """Tell whether a whole text is the address of an image file."""
    return len(text) <= _LONGEST_ADDRESS and _ADDRESS.fullmatch(text.strip()) is not None


def says_where(text: str) -> bool:
    """Tell whether an address says more than a bare file name does: a folder, a host."""
    return "/" in text.partition("?")[0]


def in_value(value: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of an attribute's value: itself, a srcset's, a ``url()``'s, or those of its JSON."""
    text = value.strip()
    if EXTENSION.search(text) is None:
        return
    if is_address(text):
        yield ImageCandidateString(text)
    elif text[:1] in {"{", "["}:
        yield from map(ImageCandidateString, in_json(text))
    elif "url(" in text.lower():
        yield from (ImageCandidateString(raw) for raw in _INNER_URL.findall(text) if is_address(raw))
    elif "<" in text:
        yield from map(ImageCandidateString, _in_markup(text))
    else:
        entries = parse_srcset(text)
        if entries and all(is_address(entry.url) for entry in entries):
            yield from entries


def in_json(text: str) -> Iterator[str]:
    """Yield the image addresses among the strings of a JSON text; none if it is not JSON."""
    try:
        parsed = json.loads(text, parse_int=str, parse_float=str)
    except (ValueError, RecursionError):
        return
    yield from (raw for raw in strings_of(parsed) if is_address(raw))


def strings_of(parsed: object) -> Iterator[str]:
    """Yield every string of a parsed JSON value, in order; values nested too deep are left out."""
    waiting: list[tuple[object, int]] = [(parsed, 0)]
    left = _MOST_IN_JSON
    while waiting and left:
        value, depth = waiting.pop()
        left -= 1
        if isinstance(value, str):
            yield value
        elif depth < _DEEPEST and isinstance(value, dict):
            waiting.extend((inner, depth + 1) for inner in reversed(value.values()))
        elif depth < _DEEPEST and isinstance(value, list):
            waiting.extend((inner, depth + 1) for inner in reversed(value))


def in_script(text: str) -> Iterator[str]:
    """Yield the image addresses among the string literals of a script, unescaped.

    A string that is put together with others (``"img/" + name + ".png"``) is only a piece; a bare file name without
    a folder mostly is, too.
    """
    if EXTENSION.search(text) is None:
        return
    for match in _STRING.finditer(text):
        literal = match[1] or match[2] or match[3] or ""
        if EXTENSION.search(literal) is None:
            continue
        plain = unescape(literal)
        if "<" in plain:
            yield from (raw for raw in _in_markup(plain) if says_where(raw))
            continue
        pieced = _PIECED_BEFORE.search(text, max(0, match.start() - 20), match.start()) or _PIECED_AFTER.match(
            text, match.end()
        )
        if not pieced and is_address(plain) and says_where(plain):
            yield plain.strip()


def unescape(literal: str) -> str:
    """Return the text of a JavaScript or JSON string literal (ECMAScript, 12.9.4), character references undone."""

    def plain(match: re.Match[str]) -> str:
        code = match[1] or match[2] or match[3]
        if code:
            return chr(min(int(code, 16), 0x10FFFF))
        return _PLAIN_ESCAPES.get(match[4], match[4])

    text = _ESCAPE.sub(plain, literal) if "\\" in literal else literal
    return html.unescape(text) if "&" in text and ";" in text else text


def _in_markup(text: str) -> Iterator[str]:
    for match in _INNER_ATTRIBUTE.finditer(text):
        raw = html.unescape(match[1] or match[2] or match[3] or "")
        if is_address(raw):
            yield raw
