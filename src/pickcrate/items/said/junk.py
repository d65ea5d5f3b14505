"""What is no name of anything: prices, buttons, dates, numbers, badges, and words that only say "picture".

The words are in ``words``. Every expression is held against one short line, and cannot backtrack far.
"""

import re
from enum import Enum
from functools import lru_cache

from pickcrate.addresses.url import is_file_path, is_fragment, is_template, is_web
from pickcrate.items.said.phrases import PHRASES
from pickcrate.text.enlarging import says_full_size
from pickcrate.text.lazyre import lazy

_LONGEST = 160
_LONGEST_CLASSES = 400
_LONGEST_FIGURE = 20
"""Characters of what a caption says before its number"""


_PHRASES = {
    kind: tuple(phrase.strip() for phrase in text.strip().replace("\n", "|").split("|"))
    for kind, text in PHRASES.items()
}
NEXT = frozenset(_PHRASES["next"])
"""what the link to the next page of a list says, or that to the next text"""

NEXT_PAGES = NEXT.union(_PHRASES["next_pages"])
"""what the link to the next page of a list says"""

_NO_LISTS = frozenset(_PHRASES["no_lists"])
_WORDS = r"[^\W_]\S{0,24}(?: \S{1,24}){0,2}"
_MORE_OF, _MORE_BY_BUTTON = (
    lazy("|".join(re.escape(phrase).replace("…", _WORDS) for phrase in _PHRASES[kind]))
    for kind in ("more_of", "more_by_button")
)

NAMING_PEOPLE = frozenset(_PHRASES["people"])
"""what one says that stands over names of people"""

_GALLERIES = frozenset(_PHRASES["galleries"])
_OTHERS = lazy(rf"(?:{'|'.join(map(re.escape, _PHRASES['others']))})\S{{0,20}}(?:\s.*)?", re.DOTALL)
_LONGEST_OVER_OTHERS = 80
_READ_ON = frozenset(_PHRASES["read_on"])
_GOING_ON = (", ", "; ", ") ")
"""how the rest of a sentence begins"""

_SAYS_NOTHING = _READ_ON.union(
    *(_PHRASES[kind] for kind in ("buttons", "files", "badges", "pictures", "galleries", "labels", "remarks"))
)


def brings_more(words: str, *, of_button: bool = False) -> bool:
    """Tell whether words, without capitals, say that more of a list comes, and of what: "show more kites".

    A button may say less than a link: "more kites".
    """
    if not _NO_LISTS.isdisjoint(words.split()):
        return False
    return _MORE_OF.fullmatch(words) is not None or (of_button and _MORE_BY_BUTTON.fullmatch(words) is not None)


def _any_of(kind: str) -> str:
    """Return an expression for any phrase of a kind, the longest first."""
    return "|".join(re.escape(phrase) for phrase in sorted(_PHRASES[kind], key=len, reverse=True))


def _compiled(*parts: str) -> re.Pattern[str]:
    return lazy("".join(parts), re.IGNORECASE)


_CURRENCY = rf"(?:[$€£¥￥₹₽₩₺₴₪฿₫₱]|(?:{_any_of('currencies')})\b\.?)"
_NUMBER = "\\d[\\d.,'\u00a0\u202f ]*(?:[-–—]|\\d)?"
_PRICE = _compiled(
    rf"[^\w$€£¥￥₹₽₩]*(?:(?:{_any_of('before_prices')})\s*:?\s*)*",
    rf"(?:{_CURRENCY}\s*{_NUMBER}|{_NUMBER}\s*{_CURRENCY})",
)
_UNITS = "no|nr|nº|n°|№|vol|p|pp|px|cm|mm|m|km|kg|g|kb|mb|gb|x|×|pcs?|stk"
_NUMERIC = _compiled(rf"[\W\d_]*+(?:{_UNITS}|(?<=\d)k|(?<=°)[cf])?[\W\d_]*+")
_LASTING = _compiled(
    r"(?:\d{1,4}\s?(?:d|h|m|s|days?|hours?|hrs?|mins?|minutes?|secs?|seconds?|tage?|std)\b[\s:,.]*+){1,4}"
)
"""how long something lasts, or has left: 02d 03h 10m"""

_COUNTED = _compiled(rf"[(\[]?\d[\d.,]*\+?\s*(?:{_any_of('counted')})(?:\s+ago|\s+read|\s+left)?[)\]]?\W*")
_RATED = _compiled(
    rf"\W*(?:(?:{_any_of('before_ratings')})\s+)?",
    r"\d(?:[.,]\d{1,2})?(?:\s*(?:out\s+of|of|von|sur|de|su|van|av|/)\s*\d{1,3})?",
    rf"(?:\s*(?:{_any_of('counted')}))?(?:\s*\(\s*\d[\d.,]*k?\s*(?:{_any_of('counted')})?\s*\))?\W*",
)
"""how good something is, and how many say so: 4.5 out of 5 stars (12 reviews)"""

_OFFERED = _compiled(
    rf"(?:{_any_of('before_offers')})\s+(?:{_CURRENCY}\s*)?\d[\d.,]*\s*(?:%|{_CURRENCY}|left)(?:\s+(?:off|in\s+stock))?\W*"
)
_MONTH = rf"(?:{_any_of('months')})\w{{0,9}}\.?"
_DAY_OF_MONTH = r"\d{1,2}(?:st|nd|rd|th|\.|º|er)?"
_DATE = _compiled(
    rf"\W*(?:(?:{_any_of('before_dates')})\s*(?:on|le|el|am)?\s*:?\s*)?(?:(?:{_any_of('days')})\W+)?(?:",
    rf"{_DAY_OF_MONTH}\s*(?:de\s+|of\s+)?{_MONTH}(?:\s*(?:de\s+)?,?\s*\d{{2,4}})?|",
    rf"{_MONTH}\s*\d{{1,2}}(?:st|nd|rd|th)?\b,?(?:\s*\d{{4}})?|{_MONTH}\s+\d{{4}}|",
    r"\d{4}[-/.]\d{1,2}[-/.]\d{1,2}|\d{1,2}[-/.]\d{1,2}[-/.]\d{2,4}|\d{4}年(?:\d{1,2}月)?(?:\d{1,2}日)?)",
    r"(?:\s*(?:,|at|um|à|·|-|T)?\s*\d{1,2}[:.h]\d{2}(?::\d{2})?\s*(?:am|pm|uhr|z)?)?\W*",
)
_AGO = _compiled(
    rf"\W*(?:\d+|an?|one)\s*\w{{1,9}}\s+(?:{_any_of('ago')})\W*|",
    rf"(?:{_any_of('before_ago')})\s+\d+\s*\w{{1,9}}\W*|{_any_of('near_days')}",
)
_PART_OF = _compiled(
    r"(?:photo|picture|image|foto|bild|slide|figure|fig\.?|abb\.?|page|seite)\s*",
    r"\d+(?:\s*(?:of|/|von|de|sur)\s*\d+)?[.:]?",
)
_TELLS_TO = _compiled(
    r"(?:click|tap|press|klick|cliquez|haga clic|clicca)\b.*|",
    r"(?:view|open|enlarge|show) (?:full|large|larger|original|image|photo|picture)\b.*",
)
_FORMAT = rf"(?:[\w-]{{1,20}}\.)?(?:{_any_of('files')})"
_FORMATS = _compiled(rf"{_FORMAT}(?:\s?[,/|·]\s?{_FORMAT}){{0,5}}")
"""what a picture is offered in: (source code, png, hires.png, pdf)"""
_CREDIT = _compiled(
    rf"\W*(?:©|\(c\)\s|(?:{_any_of('credits')})",
    r"(?:\s+(?:photos?|credits?|courtesy|source))?\.?\s*(?:[:：©]|\bby\s)).*",
)
"""whose a picture is, which is not what it is of"""
_NUMBERED = _compiled(
    rf"[(\[]?(?:{_any_of('figures')})(?:\.?\s?\d{{1,3}}|(?:\.\s?|\s)(?:[ivxlc]{{1,6}}|[a-z]))",
    r"(?:[.-]\d{1,3}){0,2}[a-z]?",
    r"\s?[.:)\]–—|-]\s?(?=\S)",
)
_IN_A_LIST = _compiled(
    rf"[(\[]?(?:{_any_of('numbering')})\.?\s?[:#]?\s?",
    r"(?:[a-z]{1,3}[-./]?)?\d[\d./-]*[a-z]?[)\].:]?",
)
_GAP = lazy(r"(?<=[.!?…)»”|–—])\s+(?=\S)|\s+(?=[(\[])")
_SET_OFF = " |–—"
_LONGEST_CAPTION = 400
_WITH_A_FIGURE = lazy(r"([^()\[\]]+)[(\[]([^()\[\]]{1,20})[)\]]")
"""Download (2.1 MB)"""

_FIGURES_APART = lazy(r"\s[·|•]\s")
_LABELLED_COUNT = _compiled(r"[^\W\d]{1,20}:\s?\d[\d.,]*k?|\d[\d.,]*\s?[^\W\d]{1,12}[²³.]?")
"""one of several figures in a line: Views: 12; 3 beds; 110 m²"""
_IN_INVENTORY = lazy(
    r"([A-Z]{2,5}(?:[-–./ ][A-Z]{1,4}){0,2})[-–./ ]?\d{3,}(?:[-./]\d{1,4}){0,3}[a-z]?|(U)\+[0-9A-F]{4,6}"
)
_FILE_NAME = _compiled(r"[\w%+.-]+\.(?:jpe?g|png|gif|webp|avif|svg|bmp|tiff?|heic)")
_CAMERA_NAME = _compiled(
    r"(?:dscf?n?|img|image|pic|picture|photo|foto|bild|p|scan|slide|screenshot)[-_ ]?#?\d+(?:[-_ ]?\d+)*"
)
_DIGIT = lazy(r"\d")
_FIRST_WORD = lazy(r"[\W_]*+(\w+)")
_BEFORE_FIGURES = "before_prices", "before_dates", "days", "before_ago", "before_ratings", "before_offers", "currencies"
_BEGINS_A_FIGURE = frozenset(phrase.split()[0] for kind in _BEFORE_FIGURES for phrase in _PHRASES[kind]).union(
    _UNITS.replace("?", "").split("|"), ("n", "pc", "a", "an", "one")
)
"""with what word a number, a count, a price or a date begins, where not with a digit or a month"""
_NOTHING_AT_ALL = (_NUMERIC, _LASTING, _COUNTED, _RATED, _OFFERED, _DATE, _AGO)
_EDGES = " .,:;!?…»›>→•·|-–—+*()[]<«‹←★☆✓✔#"
_MOST_PRICES, _WORDS_OF_PRICE, _LONGEST_PRICE = 3, 2, 14
_BEFORE_A_PRICE = (", ", " – ", " — ", " - ", " · ", " | ")

_HIDDEN = frozenset(
    "sr-only sr_only screen-reader-text visually-hidden visuallyhidden screenreader assistive-text".split()
)
_PARTS = r"(?:[a-z0-9]+[-_]{1,2})*"
_TITLE = _compiled(
    _PARTS, r"(?:title|name|heading|headline|ttl|titre|titel|titulo|titolo)(?:[-_]{1,2}(?:link|text|wrap|main))?"
)
_CAPTION = _compiled(_PARTS, r"caption(?:[-_]{1,2}text)?")
_SIDE = _compiled(_PARTS, rf"(?:{_any_of('side_classes')})(?:[-_]{{1,2}}(?:name|text|label|line|info))?")
_OF_OTHERS = _compiled(
    _PARTS,
    r"(?:sub|user|author|file|section|page|site|brand|vendor|category|shop|seller|byline|store)[-_]?(?:title|name)",
)
"""classes of titles and names of something else than the item"""


class ClassKind(Enum):
    """What a class says of the words in its element."""

    HIDDEN = "for other readers than those who see the page"
    TITLE = "the title or the name of what it stands in"
    CAPTION = "a caption"
    SIDE = "beside the matter: who, when, how much, how good"


@lru_cache(maxsize=4_096)
def says_nothing(text: str) -> bool:
    """Tell whether a short text names nothing: a price, a date, a number, what stands on a button, or "photo"."""
    if len(text) > _LONGEST:
        return False
    if text.startswith(_GOING_ON) or is_fragment(text) or (is_web(text) and " " not in text):
        return True
    bare = text.strip(_EDGES).casefold()
    if text.endswith((")", "]")) and (match := _WITH_A_FIGURE.fullmatch(text)) is not None and is_figure(match[2]):
        bare = match[1].strip(_EDGES).casefold()
    if not bare or bare in _SAYS_NOTHING or is_file_name(bare) or _TELLS_TO.fullmatch(text) is not None:
        return True
    if is_template(text) or is_figure(text):
        return True
    if _DIGIT.search(text) is None and says_full_size(text):  # with its sides it may be one of several
        return True
    return any(kind.fullmatch(bare) is not None for kind in (_PART_OF, _FORMATS))


def heads_a_gallery(text: str) -> bool:
    """Tell whether a heading stands over further pictures of what the page is about, and names nothing."""
    return text.strip(_EDGES).casefold() in _GALLERIES


def heads_others(text: str) -> bool:
    """Tell whether a heading stands over pictures of other things than what its page is about: "Related kites"."""
    bare = text.strip(_EDGES).casefold().replace("’", "'")
    return len(bare) <= _LONGEST_OVER_OTHERS and _OTHERS.fullmatch(bare) is not None


def is_credit(text: str) -> bool:
    """Tell whether a text says whose a picture is."""
    return len(text) <= _LONGEST and _CREDIT.fullmatch(text) is not None


def reads_on(text: str) -> bool:
    """Tell whether a text is what a link says that leads to the page of what it stands beside: "read more"."""
    return text.strip(_EDGES).casefold() in _READ_ON


def is_figure(text: str) -> bool:
    """Tell whether a text is only a number, a count, a price or a date: nothing that a heading would say."""
    if len(text) > _LONGEST:
        return False
    if _DIGIT.search(text) is None:  # most texts
        return not any(map(str.isalpha, text)) or _AGO.fullmatch(text) is not None
    if not _may_be_a_figure(text):  # and most others
        return False
    if any(kind.fullmatch(text) is not None for kind in _NOTHING_AT_ALL) or is_price(text):
        return True
    parts = _FIGURES_APART.split(text)
    return len(parts) > 1 and all(_LABELLED_COUNT.fullmatch(part) is not None or is_figure(part) for part in parts)


def _may_be_a_figure(text: str) -> bool:
    """Tell by its first word whether a text with a digit may be a figure; to look it up is faster than to try all."""
    first = _FIRST_WORD.match(text)
    if first is None:
        return False
    word = first[1].casefold()
    return word[0].isdecimal() or word in _BEGINS_A_FIGURE or word.startswith(_PHRASES["months"])


def is_price(text: str) -> bool:
    """Tell whether a text is a price, or begins with one and says little else."""
    if _DIGIT.search(text) is None:  # as most texts are
        return False
    match = _PRICE.match(text[:_LONGEST])
    return match is not None and len(text) - match.end() <= max(14, match.end())


def is_numbered(text: str) -> bool:
    """Tell whether a text is a caption with a number before it ("Fig. 3: …"), as in reports, papers and books."""
    begins_so = text[:_LONGEST_FIGURE].lstrip("([").casefold().startswith(_PHRASES["figures"])
    return begins_so and _NUMBERED.match(text) is not None


def inventory_of(text: str) -> str:
    """Return the letters of the inventory of which a text is a number, "GK-101"; empty if it is none.

    Code points have one as well (Unicode standard, appendix A): "U+2603".
    """
    match = _IN_INVENTORY.fullmatch(text)
    return (match[1] or match[2]) if match is not None else ""


def is_place_in_list(text: str) -> bool:
    """Tell whether a text is the number that a thing has in a list ("Lot 12"): its name only where nothing else is."""
    return _IN_A_LIST.fullmatch(text) is not None


def is_date(text: str) -> bool:
    """Tell whether a text is a date or a time."""
    return len(text) <= _LONGEST and (_DATE.fullmatch(text) is not None or _AGO.fullmatch(text) is not None)


def is_file_name(text: str) -> bool:
    """Tell whether a text is the name of a file, or what a camera calls one."""
    if "." in text and _FILE_NAME.fullmatch(text) is not None:
        return True
    return _DIGIT.search(text) is not None and _CAMERA_NAME.fullmatch(text) is not None


def is_path(text: str) -> bool:
    """Tell whether a text is where the file of a picture lies; in data that may be all that an object is called."""
    return ("/" in text or "\\" in text) and is_file_path(text)


def without_tail(text: str) -> str:
    """Return a caption without what stands behind its sentences: whose a picture is, or what leads on.

    "The mill in snow. Photo: Ino Hallas", "The mill in snow (Foto: Ino Hallas)", "What a wind! Read more"
    """
    for gap in _GAP.finditer(text[:_LONGEST_CAPTION]):
        tail, before = text[gap.end() :], text[: gap.start()].rstrip(_SET_OFF)
        leads_on = " " in tail and tail[0].isalpha() and reads_on(tail)  # "open" in brackets says what it is
        if (is_credit(tail) or leads_on) and not says_nothing(before):
            return before
    return text


def without_price(text: str) -> str:
    """Return a caption without the prices that it ends in: "Red Delta, print, 12 crowns", "Red Delta £12 – £15"."""
    for _ in range(_MOST_PRICES):
        shorter = _without_last_price(text)
        if shorter == text:
            break
        text = shorter
    return text


def _without_last_price(text: str) -> str:
    for mark in _BEFORE_A_PRICE:
        before, found, last = text.rpartition(mark)
        if found and is_price(last) and not says_nothing(before):
            return before
    if _DIGIT.search(text[-_LONGEST_PRICE:]) is None:
        return text
    words = text.split(" ")
    for count in range(1, min(_WORDS_OF_PRICE, len(words) - 1) + 1):
        before = " ".join(words[:-count])
        if _PRICE.fullmatch(" ".join(words[-count:])) is not None and not says_nothing(before):
            return before
    return text


@lru_cache(maxsize=4_096)
def class_kind(classes: str) -> ClassKind | None:
    """Return what a class says of the words in its element; None if it says nothing of them."""
    names = classes[:_LONGEST_CLASSES].split()
    if not _HIDDEN.isdisjoint(names):
        return ClassKind.HIDDEN
    for name in names:
        if _TITLE.fullmatch(name) is not None and _OF_OTHERS.fullmatch(name) is None:
            return ClassKind.TITLE
    if any(_CAPTION.fullmatch(name) is not None for name in names):
        return ClassKind.CAPTION
    return ClassKind.SIDE if any(_SIDE.fullmatch(name) is not None for name in names) else None
