"""The string literals of scripts and of JSON: where they begin and end, what they say, the name that each stands under.

ECMAScript, 12.9.4 (string literals); RFC 8259, 7 (strings of JSON).
"""

import re
from collections.abc import Iterator

from pickcrate.addresses.ranks import UNSAID, names_a_version, rank
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import joined

_QUOTE = lazy(r"[\"'`]")
# A substitution of a template, with a few objects and templates in it: what is nested deeper ends the template.
_SUBSTITUTION = r"\$\{(?:[^{}`]++|\{[^{}`]{0,300}+\}|`[^`]{0,300}+`){0,6}+\}"
OF_TEMPLATE = rf"(?:[^`\\$]++|\\.|{_SUBSTITUTION}|\$(?!\{{))*+"
# What may stand between the quotes of a literal (ECMAScript, 12.9.4 and 12.9.6): up to its end, or a line's.
_INSIDE = {
    '"': lazy(r"(?:[^\"\\\n]++|\\.)*+", re.DOTALL),
    "'": lazy(r"(?:[^'\\\n]++|\\.)*+", re.DOTALL),
    "`": lazy(OF_TEMPLATE, re.DOTALL),
}
_LITERAL = lazy(rf"\"(?:[^\"\\\n]++|\\.)*+(\")?|'(?:[^'\\\n]++|\\.)*+(')?|`{OF_TEMPLATE}(`)?", re.DOTALL)
"""a literal, or what begins as one and is not closed: then it has no group"""

_ESCAPE = lazy(r"\\(?:u\{([0-9a-fA-F]{1,6})\}|u([0-9a-fA-F]{4})|x([0-9a-fA-F]{2})|(.))", re.DOTALL)
_PLAIN_ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "v": "\v", "0": "\0", "\n": ""}
_WORD_AT_END = lazy(r"[\w$-]++\Z")
_QUOTES = ('"', "'")
_LONGEST_NAME = 160
LONGEST_ADDRESS, DEEPEST, MOST_VALUES = 2_000, 60, 500_000
"""characters of an address, and values in one another and in all, that are looked at in a script or in JSON"""

FARTHEST = 300
"""characters between a name and its address, or between two addresses of one object"""


def string_literals(text: str) -> Iterator[tuple[int, int]]:
    """Yield where the string literals of a script begin and end, their quotes included; in linear time.

    A quote that is closed nowhere on its line opens none. Which one closes does not depend on where a literal began,
    so what closes nothing for one quote does not for a later one either, up to the same place.
    """
    hopeless = dict.fromkeys(_INSIDE, 0)
    at = 0
    while True:
        for literal in _LITERAL.finditer(text, at):
            if literal.lastindex is None:
                break
            yield literal.span()
        else:
            return
        # Other literals may begin inside what was none: those are looked for one by one.
        at = literal.start() + 1
        hopeless[literal[0][0]] = literal.end()
        while at < max(hopeless.values()):
            quote = _QUOTE.search(text, at)
            if quote is None:
                return
            mark, start = quote[0], quote.start()
            at = start + 1
            if start < hopeless[mark]:
                continue
            inside = _INSIDE[mark].match(text, at)
            end = inside.end() if inside else at
            if text.startswith(mark, end):
                at = end + 1
                yield start, at
            else:
                hopeless[mark] = end


def literal_at(text: str, start: int) -> str | None:
    """Return what the string literal says that begins at ``start``; None if none does."""
    span = literal_span(text, start)
    return unescape(text[span[0] + 1 : span[1] - 1]) if span is not None else None


def literal_span(text: str, start: int) -> tuple[int, int] | None:
    """Return where the string literal at ``start`` begins and ends, its quotes included; None if there is none."""
    literal = _LITERAL.match(text, start)
    return literal.span() if literal is not None and literal.lastindex is not None else None


def unescape(literal: str) -> str:
    """Return the text of a JavaScript or JSON string literal (ECMAScript, 12.9.4), character references undone."""

    def plain(match: re.Match[str]) -> str:
        code = match[1] or match[2] or match[3]
        if code:
            return chr(min(int(code, 16), 0x10FFFF))
        return _PLAIN_ESCAPES.get(match[4], match[4])

    text = joined(_ESCAPE.sub(plain, literal)) if "\\" in literal else literal
    return without_references(text) if "&" in text and ";" in text else text


def without_references(text: str) -> str:
    """Return ``text`` with its character references undone; as it is if one of them is too large a number."""
    if "&" not in text:
        return text
    import html  # noqa: PLC0415 (its table is large, and most literals have none)

    try:
        return html.unescape(text)
    except ValueError:
        return text


def name_before(before: str) -> tuple[str, bool]:
    """Return the name that an address stands under, and whether an object of versions begins with it.

    Where its own name says nothing of size, that of the object which holds it is part of it.
    """
    name, start = _name_at_end(before.rstrip().removesuffix("[").rstrip())
    if not name:
        return "", False
    brace = before.rfind("{", 0, start)
    inside = before[brace + 1 : start].rstrip()
    if brace < 0 or "}" in inside or (inside and not inside.endswith(",")):
        return name, False
    if names_a_version(name) and rank(name) != UNSAID:
        return name, True
    outer, _ = _name_at_end(before[:brace].rstrip())
    return f"{outer} {name}" if outer else name, False


def _name_at_end(text: str) -> tuple[str, int]:
    """Return the name before the colon that a text ends in, and where that begins, with its quote; blank if none."""
    if not text.endswith(":"):
        return "", 0
    bare = text[:-1].rstrip()
    bare = bare[:-1] if bare.endswith(_QUOTES) else bare
    match = _WORD_AT_END.search(bare, max(0, len(bare) - _LONGEST_NAME))
    if match is None:
        return "", 0
    return match[0], match.start() - bare.startswith(_QUOTES, match.start() - 1)
