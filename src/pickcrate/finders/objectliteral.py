"""Object and array literals of scripts (ECMA-262, 13.2.4 and 13.2.5) that are data: JSON, but that names may be bare.

What calls or computes anything is no data, and nothing is made of it.
"""

import re
from collections.abc import Iterator

from msgspec import Struct

from pickcrate.finders.strings import unescape
from pickcrate.lazyre import lazy

_TOKEN = lazy(
    r"\s++|//[^\n]*+|/\*[^*]*+(?:\*(?!/)[^*]*+)*+\*/"
    r"|(?P<string>\"(?:[^\"\\\n]|\\.)*+\"|'(?:[^'\\\n]|\\.)*+'|`(?:[^`\\$]|\\.|\$(?!\{))*+`)"
    r"|(?P<mark>[{}\[\]():,])|(?P<word>[\w$.+-]++)",
    re.DOTALL,
)
_DEEPEST = 60

Literal = dict[str, object] | list[object]


class Effort(Struct):
    """How many characters of a page's scripts may still be read: that takes thirty times as long as JSON does."""

    left: int = 2_000_000

    def read(self, text: str, start: int) -> tuple[Literal | None, int]:
        """Return what ``read_literal`` does of a literal at ``start``."""
        value, end = read_literal(text, start, start + self.left)
        self.left -= end - start
        return value, end


def read_literal(text: str, start: int, stop: int) -> tuple[Literal | None, int]:
    """Return the object or array that begins at ``start``, and where it ends, before ``stop``.

    What is given to a function, in its parentheses, is an array as well. None if it is none, or not data alone, and how
    far it was read. Numbers and other words are texts, as written.
    """
    is_call = text.startswith("(", start)
    end = start
    holders: list[Literal] = []
    key: str | None = None
    said: str | None = None
    for mark, word, end in _tokens(text, start, stop):
        if not mark or mark == ":":
            key, said = (said, None) if mark else (key, word)
            continue
        if mark in {"(", ")"} and (not is_call or len(holders) != (mark == ")")):
            break  # it computes something
        if mark in {"{", "[", "("}:
            made: Literal = {} if mark == "{" else []
            _put(holders, key, made)
            holders.append(made)
        else:
            _put(holders, key, said)
            if mark != "," and holders and (whole := holders.pop()) is not None and not holders:
                return whole, end
        key = said = None
        if not 0 < len(holders) <= _DEEPEST:
            break
    return None, end


def _tokens(text: str, at: int, stop: int) -> Iterator[tuple[str, str, int]]:
    """Yield the marks and words from a place on, each with where it ends, up to what is neither."""
    while at < stop:
        token = _TOKEN.match(text, at)
        if token is None:
            return
        at = token.end()
        if token.lastgroup is not None:
            mark, string, word = token["mark"], token["string"], token["word"]
            yield mark or "", unescape(string[1:-1]) if string is not None else word or "", at


def _put(holders: list[Literal], key: str | None, value: object) -> None:
    """Put a value where it stands, if there is one: at the end of an array, or under its key."""
    if not holders or value is None:
        return
    holder = holders[-1]
    if isinstance(holder, list):
        holder.append(value)
    elif key is not None:
        holder[key] = value
