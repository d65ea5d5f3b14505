"""What no real page does, and what would cost the parser the square of its size: cut off before parsing, and said so.

Lexbor's time grows with the square of the depth of unclosed elements (20,000 take seconds, 100,000 minutes) and of
the attributes of one element. Pages that people make stay below both bounds by a factor of ten and more.
"""

import re
from collections import Counter

from pickcrate.values import Flaw

DEEPEST = 5_000
"""Elements open at a time."""

MOST_ATTRIBUTES = 5_000
"""Attributes of one element (counted as runs of white space in its tag)."""

_LONG_TAG = 20_000
_TAGS_THAT_COST_LITTLE = 4 * DEEPEST
"""Even if every one of them is left open, the parser takes about a second."""

_TAG = re.compile(r"<(/?)([a-zA-Z][^\s/>]*)")
_LONG = re.compile(rf"<[a-zA-Z][^<>]{{{_LONG_TAG},}}")
_MARK = re.compile(r"</?[a-zA-Z][^\s/>]*")
_SPACES = re.compile(r"\s+")
# Void elements never stay open; the others end where the next of their kind, or their parent's end, begins.
_NEVER_DEEP = frozenset(
    "a area base br button col embed frame hr img image input link meta nobr param source track wbr p li dt dd option "
    "optgroup tr td th thead tbody tfoot colgroup rb rt rtc rp html head body".split()
)
# In HTML a slash at a tag's end closes nothing; in SVG and MathML it does.
_SLASH_CLOSES_NOTHING = frozenset(
    "div span b i em strong font ul ol dl section article nav aside table form center blockquote u s small big tt code "
    "sup sub fieldset label h1 h2 h3 h4 h5 h6 main header footer figure pre".split()
)


def within_bounds(text: str) -> tuple[str, Flaw | None]:
    """Return ``text`` up to the first place that exceeds a bound, and the flaw that says so."""
    cut, words = len(text), ""
    # Splitting is five times as fast as the pattern, and nearly every page ends here.
    long = len(text) > _LONG_TAG and max(map(len, text.split(">"))) > _LONG_TAG
    for tag in _LONG.finditer(text) if long else ():
        if sum(1 for _ in _SPACES.finditer(text, tag.start(), tag.end())) > MOST_ATTRIBUTES:
            cut, words = tag.start(), f"an element has more than {MOST_ATTRIBUTES:,} attributes"
            break
    if _may_be_deep(text, cut) and (deep := _first_too_deep(text, cut)) is not None:
        cut, words = deep, f"elements are nested more than {DEEPEST:,} deep"
    return (text[:cut], Flaw("bounds", f"{words}: the page is left out from there on")) if words else (text, None)


def _may_be_deep(text: str, end: int) -> bool:
    """Tell, in a fraction of the time, whether more than DEEPEST elements of all names are left open in all."""
    if text.count("<", 0, end) <= _TAGS_THAT_COST_LITTLE:
        return False
    counts = Counter(_MARK.findall(text, 0, end))
    open_ones = ((name[1:].lower(), count - counts.get(f"</{name[1:]}", 0)) for name, count in counts.items())
    return sum(count for name, count in open_ones if count > 0 and name[0] != "/" and name not in _NEVER_DEEP) > DEEPEST


def _first_too_deep(text: str, end: int) -> int | None:
    """Return where the number of elements that were opened and not closed, each name by itself, passes DEEPEST."""
    open_of: dict[str, int] = {}
    depth = 0
    for tag in _TAG.finditer(text, 0, end):
        name = tag[2].lower()
        if name in _NEVER_DEEP:
            continue
        count = open_of.get(name, 0)
        if tag[1]:
            if count:
                open_of[name] = count - 1
                depth -= 1
        elif name in _SLASH_CLOSES_NOTHING or text[text.find(">", tag.end()) - 1] != "/":
            open_of[name] = count + 1
            depth += 1
            if depth > DEEPEST:
                return tag.start()
    return None
