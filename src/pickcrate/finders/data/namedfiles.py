"""Names of files in text that is no markup, found by how they end: most of a page's dots end no name.

An expression that begins with what stands before a name tries every quote of a page, and takes ten times as long.
"""

import re
from collections.abc import Iterator

from pickcrate.text.lazyre import lazy

LONGEST_NAME = 500
"""Characters before the ending."""

_BREAK = lazy(r"[\"'\s<>()=&]")
_OPENS = frozenset("\"'(=")


def files_ending(text: str, ending: re.Pattern[str]) -> Iterator[tuple[int, str]]:
    """Yield the names in quotes, brackets or behind ``=`` that end as ``ending`` matches, each with its place.

    A name is no longer than LONGEST_NAME before its ending, and has no space, quote, bracket, ``=`` or ``&`` there.
    """
    for match in ending.finditer(text):
        backwards = text[max(0, match.start() - LONGEST_NAME - 1) : match.start()][::-1]
        nearest = _BREAK.search(backwards)
        if nearest is not None and nearest.start() and nearest[0] in _OPENS:
            start = match.start() - nearest.start()
            yield start, text[start : match.end()]
