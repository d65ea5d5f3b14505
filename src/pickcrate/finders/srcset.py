"""The ``srcset`` attribute, by the HTML standard, 4.8.4.3.9 (parsing a srcset attribute)."""

import re

from msgspec import Struct

from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_SPACE = "\t\n\x0c\r "
_LEADING = lazy(r"[\t\n\x0c\r ,]*")
_URL = lazy(r"[^\t\n\x0c\r ]+")
_FLOAT = lazy(r"-?(?:[0-9]+(?:\.[0-9]+)?|\.[0-9]+)(?:[eE][+-]?[0-9]+)?\Z")


class ImageCandidateString(Struct, frozen=True):
    """One entry of a ``srcset``: its raw address and its width (pixels) or pixel density descriptor."""

    url: str
    width: int | None = None
    density: float | None = None

    @property
    def is_sized(self) -> bool:
        """Whether its width or its density is stated."""
        return self.width is not None or self.density is not None


def parse_srcset(value: str) -> list[ImageCandidateString]:
    """Return the valid image candidate strings of ``value`` in order; entries with a bad descriptor are left out."""
    found: list[ImageCandidateString] = []
    position = 0
    while True:
        position = _end(_LEADING, value, position)  # step 4
        match = _URL.match(value, position)  # step 6
        if match is None:  # step 5
            return found
        url, position = match[0], match.end()
        if url.endswith(","):  # step 8
            url = url.rstrip(",")
            descriptors: list[str] = []
        else:
            descriptors, position = _tokenize(value, position)
        candidate = _describe(url, descriptors)
        if candidate is not None:
            found.append(candidate)


def _end(pattern: re.Pattern[str], value: str, position: int) -> int:
    match = pattern.match(value, position)
    return match.end() if match else position


def _tokenize(value: str, position: int) -> tuple[list[str], int]:
    """Split descriptors at spaces, steps 8.1 to 8.3; commas inside parentheses do not end the entry."""
    tokens: list[str] = []
    start, depth = position, 0
    while position < len(value):
        character = value[position]
        if character == "(":
            depth += 1
        elif character == ")" and depth:
            depth = 0
        elif depth == 0 and (character in _SPACE or character == ","):
            if position > start:
                tokens.append(value[start:position])
            start = position + 1
            if character == ",":
                return tokens, position + 1
        position += 1
    if position > start:
        tokens.append(value[start:position])
    return tokens, position


def _describe(url: str, descriptors: list[str]) -> ImageCandidateString | None:
    """Read descriptors, steps 9 to 15: one width, or one density, or neither; a height only beside a width."""
    width: int | None = None
    density: float | None = None
    height: int | None = None
    for descriptor in descriptors:
        number, unit = descriptor[:-1], descriptor[-1:]
        if unit == "w" and (count := whole(number)) and width is None and density is None:
            width = count
        elif (
            unit == "x"
            and _FLOAT.match(number)
            and width is None
            and density is None
            and height is None
            and float(number) >= 0
        ):
            density = float(number)
        elif unit == "h" and (count := whole(number)) and height is None and density is None:
            height = count
        else:
            return None
    if height is not None and width is None:
        return None
    return ImageCandidateString(url, width, density)
