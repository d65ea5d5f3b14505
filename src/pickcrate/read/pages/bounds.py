"""What no real page does, and what would cost the parser the square of its size: cut off before parsing, and said so.

Lexbor's time grows with the square of the depth of unclosed elements (20,000 take seconds, 100,000 minutes) and of
the attributes of one element; its memory with elements and attributes, some 200 bytes each. Pages that people make
stay below all bounds by a factor of ten and more.
"""

import re
from collections import Counter

from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw

DEEPEST = 5_000
"""Elements open at a time."""

MOST_ATTRIBUTES = 1_000
"""Attributes of one element."""

MOST_ATTRIBUTES_IN_ALL = 1_000_000
MOST_TAGS = 1_000_000
"""Start and end tags of a page."""

_SHORT = 20_000
"""Characters that hold too few attributes for their number to matter."""

_TAGS_THAT_COST_LITTLE = 4 * DEEPEST
"""Even if every one of them is left open, the parser takes about a second."""

_MARK = lazy(r"</?[a-zA-Z][^\s/>]*")
# HTML standard, 13.2.5.32 to 13.2.5.40: the states of a tag's attributes. A quoted value may hold < and >.
_ATTRIBUTE = r"[\s/]*+[^\s/>][^\s/>=]*+(?:\s*+=\s*+(?:\"[^\"]*+\"?|'[^']*+'?|[^\s>]*+))?+"
_START_TAG = rf"<[a-zA-Z][^\s/>]*+(?:{_ATTRIBUTE}){{0,{MOST_ATTRIBUTES}}}+"
_EACH_START_TAG = lazy(_START_TAG)
_TAG = lazy(
    rf"<!--(?:-?>|.*?(?:--!?>|\Z))|(?=<(?P<opened>[a-zA-Z][^\s/>]*)){_START_TAG}|</(?P<closed>[a-zA-Z][^\s/>]*)",
    re.DOTALL,
)
"""a comment, which ends as 13.2.5.43 to 13.2.5.52 say, or a tag"""

_RAW = {
    name: lazy(rf"</{name}(?=[\s/>])", re.IGNORECASE)
    for name in ("script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes")
}
"""elements whose content is text, whatever it looks like, up to their end tag (13.2.5.1 to 13.2.5.4, and 13.2.6.2)"""

_FOREIGN = frozenset(("svg", "math"))
"""in which it is not (13.2.6.5)"""

_UP_TO_TOO_MANY = lazy(rf"(?:[^<]*+(?:{_START_TAG}(?!{_ATTRIBUTE})|<(?![a-zA-Z])))*+")
"""all before the first start tag with more attributes; one match, since a loop over the tags takes twice as long"""

_EACH_ATTRIBUTE = lazy(_ATTRIBUTE)
_ENDS_A_NAME = " \t\n\r\f/=>"
"""an attribute's (13.2.5.33): there are no more attributes than these"""

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
    for find_excess in (_too_many_tags, _too_many_attributes, _too_deep):
        excess = find_excess(text, cut)
        if excess is not None:
            cut, words = excess
    return (text[:cut], Flaw("bounds", f"{words}: the page is left out from there on")) if words else (text, None)


def _too_many_tags(text: str, end: int) -> tuple[int, str] | None:
    if text.count("<", 0, end) <= MOST_TAGS:
        return None
    for count, tag in enumerate(_MARK.finditer(text, 0, end)):
        if count == MOST_TAGS:
            return tag.start(), f"the page has more than {MOST_TAGS:,} tags"
    return None


def _too_many_attributes(text: str, end: int) -> tuple[int, str] | None:
    if end <= _SHORT:
        return None
    within = _UP_TO_TOO_MANY.match(text, 0, end)
    excess = text.find("<", within.end() if within is not None else 0, end)
    if excess >= 0:
        return excess, f"an element has more than {MOST_ATTRIBUTES:,} attributes"
    return _too_many_in_all(text, end)


def _too_many_in_all(text: str, end: int) -> tuple[int, str] | None:
    if not _may_be_many(text, end):
        return None
    in_all = 0
    for tag in _EACH_START_TAG.finditer(text, 0, end):
        in_all += sum(1 for _ in _EACH_ATTRIBUTE.finditer(text, tag.start() + 2, tag.end()))
        if in_all > MOST_ATTRIBUTES_IN_ALL:
            return tag.start(), f"the page has more than {MOST_ATTRIBUTES_IN_ALL:,} attributes"
    return None


def _may_be_many(text: str, end: int) -> bool:
    """Tell, in a fraction of the time, whether there may be more attributes than MOST_ATTRIBUTES_IN_ALL."""
    most = MOST_ATTRIBUTES_IN_ALL
    return end > most and sum(text.count(sign, 0, end) for sign in _ENDS_A_NAME) > most


def _too_deep(text: str, end: int) -> tuple[int, str] | None:
    deep = _first_too_deep(text, end) if _may_be_deep(text, end) else None
    return (deep, f"elements are nested more than {DEEPEST:,} deep") if deep is not None else None


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
    depth = at = 0
    while (tag := _TAG.search(text, at, end)) is not None:
        at = tag.end()
        name = (tag["closed"] or tag["opened"] or "").lower()
        if not name or name in _NEVER_DEEP:
            continue
        count = open_of.get(name, 0)
        if tag["closed"]:
            if count:
                open_of[name] = count - 1
                depth -= 1
        elif name in _RAW and not any(map(open_of.get, _FOREIGN)):
            closing = _RAW[name].search(text, at, end)
            if closing is None:
                return None
            at = closing.end()
        elif name in _SLASH_CLOSES_NOTHING or text[text.find(">", at) - 1] != "/":
            open_of[name] = count + 1
            depth += 1
            if depth > DEEPEST:
                return tag.start()
    return None
