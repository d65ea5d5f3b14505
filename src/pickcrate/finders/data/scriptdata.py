"""Data that stands in a script: ``state = {"photo": {"url": "…"}}``, ``JSON.parse("…")``, rows of pushed data.

JSON, and literals of the language that are nothing but data: ``{photo: {url: '…'}}``.
"""

import json
import re
from collections import deque
from collections.abc import Callable, Iterator
from functools import partial
from itertools import islice

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.finders.data.jsondata import OPENS_JSON, in_json
from pickcrate.finders.data.literals import EXTENSION, says_where
from pickcrate.finders.data.named import may_hold_named
from pickcrate.finders.data.objectliteral import Effort, StringAt
from pickcrate.finders.data.strings import literal_span, unescape
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.text.lazyre import lazy

_SAID_BEFORE = r"(?:/\*[^*]{0,200}+\*/\s{0,9})?"
_BEFORE_DATA = lazy(
    rf"(?:(?:[=(,?:|&]|\b(?:return|default)\b|^\w{{1,9}}:)\s{{0,9}}{_SAID_BEFORE}(?=[{{\[]\s{{0,99}}[{{\[\"'\w])"
    rf"|(?:=>|\.\.\.|\bof\b|[;{{}}]|^)\s{{0,9}}{_SAID_BEFORE}(?=\[\s{{0,99}}[{{\[\"'\w]))"
    r"|\bJSON\.parse\(\s{0,9}(?=[\"'`])",
    re.MULTILINE,
)
"""what data stands behind: a sign, a word, the number of a row; a list also behind what begins a statement"""

_MOST_TRIED = 20_000
_MOST_READ = 8_000_000
"""Characters of one text that are read as JSON, in all: what is a script's own notation ends that early, or late."""

_DEEPEST_FUNCTION = 4
"""of functions among the values of data, how many in one another may have data in them"""

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


class Data(Struct, frozen=True):
    """Data that may name pictures: where it begins and ends in a script, what it is in JSON, what in it is no data."""

    start: int
    end: int
    text: str
    passed_over: list[tuple[int, int]] = []


def parted(text: str, effort: Effort, string_at: StringAt) -> tuple[str, list[Held]]:
    """Return a script without the data in it that names pictures, and these data.

    ``effort`` is what may be spent on literals of the language on one page. Data whose files need a folder before them
    are left to who reads the script, and so is what its values compute.
    """
    kept: list[str] = []
    found: list[Held] = []
    read_up_to = 0
    for data in data_in(text, effort, string_at):
        entries = list(in_json(data.text))
        if not (entries and all(says_where(entry.url) for entry in entries)):
            continue
        if data.start >= read_up_to:
            kept.append(text[read_up_to : data.start])
            kept += (text[start:end] for start, end in data.passed_over)
            read_up_to = data.end
        found.append(Held(data.start, data.text, entries))
    return ",null,".join((*kept, text[read_up_to:])), found


def data_in(text: str, effort: Effort, string_at: StringAt) -> Iterator[Data]:
    """Yield the data in a script that may name pictures: the outermost, and what is in the functions among its values.

    ``string_at`` returns what the sums of the script are.
    """
    waiting = deque([(0, len(text), 0)])
    left = _MOST_READ
    while waiting and left > 0:
        start, end, depth = waiting.popleft()
        for data in _outermost_in(text, start, end, partial(_literal_at, text, effort=effort, string_at=string_at)):
            left -= data.end - data.start
            if data.text:
                yield data
            if depth < _DEEPEST_FUNCTION:
                waiting.extend((first, last, depth + 1) for first, last in data.passed_over)
            if left <= 0:
                break


def _outermost_in(text: str, start: int, end: int, literal_at: Callable[[int], Data]) -> Iterator[Data]:
    """Yield what is read between two places of a script: the outermost data, and without a text what names none."""
    read_up_to, address = start, -1
    for before in islice(_BEFORE_DATA.finditer(text, start, end), _MOST_TRIED):
        at = before.end()
        if at < read_up_to:
            continue
        data = _string_at(text, at) if text[at] in "\"'`" else _value_at(text, at)
        if not data.text and text[at] in OPENS_JSON:
            address = _next_address(text, at) if address < at else address
            if address - at < _NEAR:
                data = literal_at(at)
        if data.text:  # what has no pictures has none in it either, but for its functions
            read_up_to = data.end
        may_name = EXTENSION.search(data.text) is not None or may_hold_named(data.text)
        yield data if may_name and len(data.text) >= _SHORTEST else replace(data, text="")


def _string_at(text: str, start: int) -> Data:
    """Return the JSON that a string literal is, if it is any."""
    span = literal_span(text, start)
    if span is None:
        return Data(start, start, "")
    plain = unescape(text[span[0] + 1 : span[1] - 1])
    return Data(start, span[1], plain if plain.lstrip()[:1] in OPENS_JSON else "")


def _value_at(text: str, start: int) -> Data:
    """Return the JSON value that begins at a place; how far it was read if it is none.

    It is read in windows that grow: an error counts the lines before it, which would be all of the text's each time.
    """
    size = _WINDOW
    while True:
        part = text[start : start + size]
        try:
            _, end = _DECODER.raw_decode(part)
        except json.JSONDecodeError as error:
            if start + size >= len(text) or not _goes_on(part, error.pos):
                return Data(start, start + error.pos, "")
            size *= _GROWTH
        except (ValueError, RecursionError):
            return Data(start, start + len(part), "")
        else:
            return Data(start, start + end, part[:end])


def _goes_on(part: str, at: int) -> bool:
    """Tell whether a value was cut off where it could not be read on: near the end, or in the last string."""
    return at >= len(part) - _LONGEST_MARK or (part[at] == '"' and literal_span(part, at) is None)


def _next_address(text: str, start: int) -> int:
    """Return where the next image extension stands in a text; behind its end if there is none."""
    found = EXTENSION.search(text, start)
    return found.start() if found is not None else len(text) + _NEAR


def _literal_at(text: str, start: int, *, effort: Effort, string_at: StringAt) -> Data:
    """Return a literal of the language, in JSON: what in it is data."""
    read = effort.read(text, start, string_at)
    return Data(start, read.end, json.dumps(read.value, ensure_ascii=False), read.passed_over)
