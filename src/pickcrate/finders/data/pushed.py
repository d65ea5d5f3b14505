"""Data that a server sends piece by piece, in one script after another: ``queue.push([1, "…"])``.

The pieces end anywhere, within a string or an address. Put together they are rows, of JSON or of markup.
"""

from collections.abc import Iterable, Iterator
from itertools import islice

from pickcrate.finders.data.strings import literal_span, unescape
from pickcrate.text.lazyre import lazy

_PUSHED = lazy(r"\.push\(\[\s*+\d++\s*+,\s*+(?=\")")
_MOST_PIECES = 20
"""in one script"""

_MOST_TEXT = 8_000_000
"""characters of all pieces of a page"""


def has_pieces(text: str) -> bool:
    """Tell whether a script has pieces of data."""
    return _PUSHED.search(text) is not None


def put_together(texts: Iterable[str]) -> str:
    """Return what the pieces of data in a page's scripts say, one behind the other."""
    pieces = (unescape(text[start + 1 : end - 1]) for text in texts for start, end in _spans(text))
    return "".join(pieces)[:_MOST_TEXT]


def without_pieces(text: str) -> str:
    """Return a script whose pieces of data say nothing."""
    kept: list[str] = []
    read_up_to = 0
    for start, end in _spans(text):
        kept.append(text[read_up_to : start + 1])
        read_up_to = end - 1
    return "".join((*kept, text[read_up_to:]))


def _spans(text: str) -> Iterator[tuple[int, int]]:
    found = (literal_span(text, match.end()) for match in islice(_PUSHED.finditer(text), _MOST_PIECES))
    return filter(None, found)
