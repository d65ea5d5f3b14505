"""JSON that stands in a script: ``state = {"photo": {"url": "…"}}``, ``JSON.parse("…")``, rows of pushed data."""

import json
import re
from collections.abc import Iterator
from itertools import islice

from pickcrate.finders.jsondata import OPENS_JSON, in_json
from pickcrate.finders.literals import EXTENSION, says_where
from pickcrate.finders.named import may_hold_named
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.finders.strings import literal_span, unescape
from pickcrate.lazyre import lazy

_BEFORE_DATA = lazy(
    r"(?:[=(,]\s{0,9}|\breturn\s{1,9}|^\w{1,9}:)(?=[{\[]\s{0,99}[{\[\"])|\bJSON\.parse\(\s{0,9}(?=[\"'`])", re.MULTILINE
)
"""what JSON stands behind: a sign of assignment, a parenthesis, the number of a row"""

_MOST_TRIED = 300
_MOST_READ = 8_000_000
"""Characters of one text that are read as JSON, in all: what is a script's own notation ends that early, or late."""

_SHORTEST = 40
_DECODER = json.JSONDecoder(parse_int=str)


def parted(text: str) -> tuple[str, list[tuple[str, list[ImageCandidateString]]]]:
    """Return a script without the JSON in it that names pictures, and each of those texts with the addresses in it.

    Data whose files need a folder before them are left to who reads the script.
    """
    kept: list[str] = []
    found: list[tuple[str, list[ImageCandidateString]]] = []
    read_up_to = 0
    for start, end, data in _data_in(text):
        entries = list(in_json(data))
        if entries and all(says_where(entry.url) for entry in entries):
            kept.append(text[read_up_to:start])
            read_up_to = end
            found.append((data, entries))
    return "null".join((*kept, text[read_up_to:])), found


def _data_in(text: str) -> Iterator[tuple[int, int, str]]:
    """Yield where JSON that may name pictures begins and ends in a script, with what it is: the outermost value."""
    left, read_up_to = _MOST_READ, 0
    for before in islice(_BEFORE_DATA.finditer(text), _MOST_TRIED):
        start = before.end()
        if start < read_up_to or left <= 0:
            continue
        end, data = _string_at(text, start) if text[start] in "\"'`" else _value_at(text, start)
        left -= max(end - start, 0)
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
    """Return where a JSON value ends, and the value as it stands there; how far it was read if it is none."""
    try:
        _, end = _DECODER.raw_decode(text, start)
    except json.JSONDecodeError as error:
        return error.pos, ""
    except (ValueError, RecursionError):
        return len(text), ""
    return end, text[start:end]
