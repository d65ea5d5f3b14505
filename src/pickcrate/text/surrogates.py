"""Surrogates: how JSON and scripts write characters beyond U+FFFF, and what is left of a pair that was cut.

RFC 8259, 7 and 8.2; ECMAScript, 6.1.4. A lone one is no character (Unicode 15, D76), and no text with it can be written
in any encoding: it is U+FFFD here, as the Encoding standard has it.
"""

import json
import re
from collections.abc import Callable
from typing import Any

from pickcrate.text.lazyre import lazy

_ANY = lazy("[\ud800-\udfff]")
_ANY_ESCAPED = lazy(r"\\u[dD][89a-fA-F]")
_ESCAPED = lazy(
    r"\\(?:\\|u[dD][89abAB][0-9a-fA-F]{2}\\u[dD][c-fC-F][0-9a-fA-F]{2}|(?P<lone>u[dD][89a-fA-F][0-9a-fA-F]{2}))"
)
"""a backslash that is one, a pair, or what is none"""

_Number = Callable[[str], object]


def joined(text: str) -> str:
    """Return a text whose pairs of surrogates are the characters that they stand for, and lone ones U+FFFD."""
    if text.isascii() or _ANY.search(text) is None:
        return text
    return text.encode("utf-16-le", "surrogatepass").decode("utf-16-le", "replace")


def read_json(text: str | bytes, *, parse_int: _Number | None = None, parse_float: _Number | None = None) -> Any:
    """Return the value that a text of JSON is, as ``json.loads`` does, without lone surrogates.

    Raises ValueError if it is no JSON, RecursionError if it is nested too deep.
    """
    if isinstance(text, bytes):
        text = joined(text.decode(json.detect_encoding(text), "surrogatepass"))
    if _ANY_ESCAPED.search(text) is not None:
        text = _ESCAPED.sub(_without_lone, text)
    return json.loads(text, parse_int=parse_int, parse_float=parse_float)


def _without_lone(match: re.Match[str]) -> str:
    return "\\ufffd" if match["lone"] else match[0]
