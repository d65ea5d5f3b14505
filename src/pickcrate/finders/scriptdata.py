"""Data that stands in a script: ``state = {"photo": {"url": "…"}}``, ``JSON.parse("…")``, rows of pushed data.

JSON, and literals of the language that are nothing but data: ``{photo: {url: '…'}}``.
"""

import json
import re
from collections.abc import Iterator
from itertools import islice

from msgspec import Struct

from pickcrate.finders.jsondata import OPENS_JSON, in_json
from pickcrate.finders.literals import EXTENSION, says_where
from pickcrate.finders.named import may_hold_named
from pickcrate.finders.objectliteral import Effort
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.finders.strings import literal_span, unescape
from pickcrate.lazyre import lazy

_BEFORE_DATA = lazy(
    r"(?:[=(,]\s{0,9}|\breturn\s{1,9}|^\w{1,9}:)(?=[{\[]\s{0,99}[{\[\"'\w])|\bJSON\.parse\(\s{0,9}(?=[\"'`])",
    re.MULTILINE,
)
"""what data stands behind: a sign of assignment, a parenthesis, the number of a row"""

_MOST_TRIED = 20_000
_MOST_READ = 8_000_000
"""Characters of one text that are read as JSON, in all: what is a script's own notation ends that early, or late."""

_SHORTEST = 40
_WINDOW, _GROWTH = 4_096, 16
_LONGEST_MARK = 10
"""characters of a number or a word, or of an escape, that may be cut off"""

_NEAR = 2_000
"""Characters from where a literal begins to the first address in it."""

_DECODER = json.JSONDecoder(parse_int=str)


class Held(Struct, frozen=True):
    """Data in a script: where it begins, what it is in JSON, and the addresses in it."""

    start: int
    text: str
    entries: list[ImageCandidateString]


def parted(text: str, effort: Effort) -> tuple[str, list[Held]]:
    """Return a script without the data in it that names pictures, and these data.

    ``effort`` is what may be spent on literals of the language on one page. Data whose files need a folder before them
    are left to who reads the script.
    """
    kept: list[str] = []
    found: list[Held] = []
    read_up_to = 0
    for start, end, data in _data_in(text, effort):
        entries = list(in_json(data))
        if entries and all(says_where(entry.url) for entry in entries):
            kept.append(text[read_up_to:start])
            read_up_to = end
            found.append(Held(start, data, entries))
    return "null".join((*kept, text[read_up_to:])), found


def _data_in(text: str, effort: Effort) -> Iterator[tuple[int, int, str]]:
    """Yield where data that may name pictures begins and ends in a script, with what it is in JSON: the outermost."""
    left, read_up_to, address = _MOST_READ, 0, -1
    for before in islice(_BEFORE_DATA.finditer(text), _MOST_TRIED):
        start = before.end()
        if start < read_up_to or left <= 0:
            continue
        end, data = _string_at(text, start) if text[start] in "\"'`" else _value_at(text, start)
        left -= max(end - start, 0)
        if not data and text[start] in OPENS_JSON:
            address = _next_address(text, start) if address < start else address
            if address - start < _NEAR:
                end, data = _literal_at(text, start, effort)
        if data and len(data) >= _SHORTEST and (EXTENSION.search(data) is not None or may_hold_named(data)):
            read_up_to = end
            yield start, end, data


def _string_at(text: str, start: int) -> tuple[int, str]:
    """Return where a string literal ends, and the JSON that it is; nothing if it is none."""
    span = literal_span(text, start)
    if span is None:
        return start, ""
    plain = unescape(text[span[0] + 1 : span[1] - 1])
    return span[1], plain if plain.lstrip()[:1] in OPENS_JSON else ""


def _value_at(text: str, start: int) -> tuple[int, str]:
    """Return where a JSON value ends, and the value as it stands there; how far it was read if it is none.

    It is read in windows that grow: an error counts the lines before it, which would be all of the text's each time.
    """
    size = _WINDOW
    while True:
        part = text[start : start + size]
        try:
            _, end = _DECODER.raw_decode(part)
        except json.JSONDecodeError as error:
            if start + size >= len(text) or not _goes_on(part, error.pos):
                return start + error.pos, ""
            size *= _GROWTH
        except (ValueError, RecursionError):
            return start + len(part), ""
        else:
            return start + end, part[:end]


def _goes_on(part: str, at: int) -> bool:
    """Tell whether a value was cut off where it could not be read on: near the end, or in the last string."""
    return at >= len(part) - _LONGEST_MARK or (part[at] == '"' and literal_span(part, at) is None)


def _next_address(text: str, start: int) -> int:
    """Return where the next image extension stands in a text; behind its end if there is none."""
    found = EXTENSION.search(text, start)
    return found.start() if found is not None else len(text) + _NEAR


def _literal_at(text: str, start: int, effort: Effort) -> tuple[int, str]:
    """Return where a literal of the language ends, and it in JSON; how far it was read if it is no data alone."""
    value, end = effort.read(text, start)
    return end, json.dumps(value, ensure_ascii=False) if value is not None else ""
