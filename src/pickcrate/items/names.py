"""What an item may be called: the ways in which a part of a page is named, the best first."""

import re
from bisect import bisect_left
from collections.abc import Callable, Iterator
from functools import cached_property

from msgspec import Struct

from pickcrate.addresses.url import is_template
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.items.data.attributes import names_in
from pickcrate.items.facts import labelled_values
from pickcrate.items.ground import Ground
from pickcrate.items.said.junk import (
    NAMING_PEOPLE,
    heads_a_gallery,
    is_credit,
    is_date,
    is_figure,
    is_path,
    is_place_in_list,
    is_price,
    says_nothing,
    without_price,
    without_tail,
)
from pickcrate.items.said.labels import carriers, label_of, tip_of
from pickcrate.items.said.lines import COLONS, LABEL_AND_VALUE, Line
from pickcrate.items.said.posts import is_post, written_on
from pickcrate.items.unit import Unit
from pickcrate.text.headers import NAMING
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import ItemForm, NamedBy
from pickcrate.values.reference import fold

BY_LINES = frozenset((NamedBy.LINE, NamedBy.BOLD))
"""what names a unit by words in it that nothing says to be a title"""

_BYLINE = lazy(r"(?:by|von|par|por|di|da|door|av|af)\s+(\S).*", re.IGNORECASE)
"""a line that says who made something, unless a small letter follows"""

_LONGEST_TITLE = 200
_MOST_DRAWN = 5
_LONGEST_LINE = 110
_LONGEST_SENTENCE = 70
_DASHES, _HYPHEN, _ANY_COLON = "—– ", "- ", "".join(COLONS)
_NAMING_ANYTHING = NAMING | NAMING_PEOPLE
_SENTENCE_ENDS = " .,;"
_ENDS = ("", " ", ",", ":")
"""what may stand behind a name that a line begins with"""

_FULL_STOPS = (".", "!", "?", "。")
_SAID = lazy(r"[\"“„«”»「].{4,}[\"”“»«」]\W*")
_SET_OFF = lazy(r"\s*[·•|–—]\s")
_SITE = lazy(r"\(?\s*(?:[\w-]{1,60}\.){1,4}[a-z]{2,12}\s*\)?")
_TO_PEOPLE = lazy(
    r"(?:https?://[^/]+/)?/?(?:@|~|(?:u|users?|members?|profiles?|people|authors?|artists?|photographers?|creators?)/)",
    re.IGNORECASE,
)
"""addresses of the pages of people, as sites have them where everybody may add something"""

_ENDS_OF_LIVES = frozenset(")0123456789")
_LIVED = lazy(
    r"[(,]\s?(?:[^\W\d]{3,20},\s)?(?:(?:b\.|born|geb\.|\*|n\.|née?)\s?\d{4}|(?:c\.\s?)?(1\d{3})\s?[-–]\s?(?:c\.\s?)?([12]\d{3}))\)?\Z",
    re.IGNORECASE,
)
"""how the years of somebody's life stand behind a name: (1912–1987), (British, 1912–1987), (b. 1931)"""

_LONGEST_LIFE, _SHORTEST_LIFE = 60, 18
"""characters; years, as works are made over some as well"""

_MAY_BE_POSTS = frozenset((ItemForm.ARTICLE, ItemForm.ENTRY, ItemForm.ROW))
_MAY_BE_CREDITS = frozenset((NamedBy.HEADING, NamedBy.TITLED, NamedBy.PROPERTY))
"""what is marked up as a title is one, though it reads like a credit"""


class Title(Struct, frozen=True):
    """What a unit may be called, what says so, and where that leads to, as the page writes it."""

    text: str
    named_by: NamedBy = NamedBy.LINE
    link: str = ""
    is_label: bool = False
    """whether it reads like a label: no name, if others of its kind have the same"""


_LEADING_ON, _MOST_IN_NAME = ",;", 4
"""how an entry may end where more follows, and how many words a name may have before a comma"""


class Named:
    """A unit with all that may name it: its lines, where its picture leads, the name that its markup states."""

    def __init__(self, tree: Ground, unit: Unit, lines: list[Line], link: str, stated: str) -> None:
        self.tree = tree
        self.unit = unit
        self.lines = lines
        self.link = link
        self.stated = stated

    @cached_property
    def plain(self) -> list[Line]:
        """Its lines but for those that name nothing: buttons, times, what says nothing."""
        lines = (line for line in self.lines if not (line.is_control or line.is_time))
        return [line for line in lines if not says_nothing(line.text) or _has_price_besides(line)]

    @cached_property
    def short(self) -> list[Line]:
        """Those that are as short as a name; last what names a unit only where nothing else does."""
        is_all_one_link = len(self.plain) > 1 and len({line.link for line in self.plain}) == 1
        short = [line for line in self.plain if _is_short(line, is_link=bool(line.link) and not is_all_one_link)]
        return sorted(short, key=_comes_last)

    @cached_property
    def people(self) -> list[Line]:
        """Those of the short ones that lead to whoever made what the picture shows."""
        return [line for line in self.short if _is_of_people(line, self.link)]

    @cached_property
    def own(self) -> list[Line]:
        """The other short ones."""
        return [line for line in self.short if line not in self.people]

    @cached_property
    def values(self) -> set[str]:
        """What in it has a label beside it that is not that of a name. A row has heads of columns, a term is one."""
        is_labelled = bool(self.unit.columns) or self.unit.form is ItemForm.TERM
        return set() if is_labelled else labelled_values(self.tree, self.unit, self.lines)

    def leading_to(self, is_meant: Callable[[Line], bool]) -> str:
        """Return where the first line that is meant leads to, of those that lead anywhere."""
        return next((line.link for line in self.lines if line.link and is_meant(line)), "")


def names_of(named: Named) -> Iterator[Title]:
    """Yield what a unit may be called, the best first."""
    for way in _WAYS:
        for title in way(named):
            text = fold(title.text)[:_LONGEST_TITLE].lstrip(_DASHES).removeprefix(_HYPHEN)
            is_any = title.named_by in _MAY_BE_CREDITS or not is_credit(text)
            if text and is_any and not (is_template(text) or _leads_on(text) or is_path(text)):
                yield Title(text.rstrip(_LEADING_ON), title.named_by, title.link, title.is_label)


def _leads_on(text: str) -> bool:
    """Tell whether a text is a part of a sentence that goes on behind it."""
    return text.endswith(",") and len(text.split()) > _MOST_IN_NAME


def _by_property(named: Named) -> Iterator[Title]:
    """Yield what its markup states: microdata, RDFa, microformats, JSON-LD."""
    if named.stated:
        yield Title(named.stated, NamedBy.PROPERTY, named.leading_to(lambda line: named.stated in line.text))


def _by_headings(named: Named) -> Iterator[Title]:
    """Yield its headings: those of the highest level first, of equal ones those that lead where the picture does.

    Of a page the one goes before that is its title: others may name its site.
    """
    headings = [line for line in named.lines if line.level and not is_figure(line.text)]
    headings = [line for line in headings if not (heads_a_gallery(line.text) or _only_leads_on(line.text))]
    headings.sort(key=lambda line: (line.level, bool(named.link) and line.link != named.link))
    if named.unit.form is ItemForm.PAGE:
        # Its lines are without small print, and may not go as far as the title.
        titles = [line for line in headings if named.unit.name.startswith(line.text)]
        headings.sort(key=lambda line: line not in titles)
        if not titles:
            yield Title(named.unit.name, NamedBy.HEADING)
    for line in headings:
        yield Title(_apart_from_figures(line) or line.text, NamedBy.HEADING, line.link)
    if not headings:
        yield from _drawn_headings(named)


def _only_leads_on(text: str) -> bool:
    """Tell whether a heading only leads to what stands below it: "See also:"."""
    return text.endswith(COLONS) and says_nothing(text)


def _drawn_headings(named: Named) -> Iterator[Title]:
    """Yield what stands for the pictures that are headings: text that is drawn."""
    tree, unit = named.tree, named.unit
    inside = tree.selected(HEADING_SELECTOR)
    first = bisect_left(inside, unit.start)
    for number in inside[first : min(first + _MOST_DRAWN, bisect_left(inside, unit.end))]:
        drawn = tree.photos_in(number, tree.end[number], most=1) if not tree.length(number) else []
        if drawn and not says_nothing(alt := tree.alts[drawn[0]]):
            yield Title(alt, NamedBy.HEADING, named.link)


def _by_place(named: Named) -> Iterator[Title]:
    """Yield the name that its place gives it: a row's header cell."""
    name = named.unit.name
    if name and not is_place_in_list(name):
        yield Title(name, named.unit.named_by, named.leading_to(lambda line: line.text == name))


def _by_class(named: Named) -> Iterator[Title]:
    """Yield the lines whose class says that they are a title."""
    for line in named.plain:
        if line.is_titled and not line.is_caption:
            yield Title(_apart_from_figures(line) or line.text, NamedBy.TITLED, line.link)


def _by_fields(named: Named) -> Iterator[Title]:
    """Yield what stands behind a label, or below one, that says that it is a name: "Title: Red Delta"."""
    for line, below in zip(named.lines, (*named.lines[1:], None), strict=False):
        label = LABEL_AND_VALUE.fullmatch(line.text)
        if label is not None and label[1].casefold() in NAMING:
            yield Title(label[2], NamedBy.LINE, line.link)
        elif (
            below is not None
            and line.text.rstrip(_ANY_COLON).casefold() in NAMING
            and _is_short(below, is_link=bool(below.link))
        ):
            yield Title(below.text, NamedBy.LINE, below.link)


def _by_what_was_written(named: Named) -> Iterator[Title]:
    """Yield how a post begins: who wrote it is told of many."""
    if named.unit.like > 1 or named.unit.form in _MAY_BE_POSTS:
        lines = (line for line in named.plain if not (line.is_side or line.is_caption))
        if is_post(named.tree, named.unit.start, named.unit.end) and (text := written_on(lines)):
            link = named.link or named.leading_to(lambda line: line.is_time)  # when it was written leads to it alone
            yield Title(text, NamedBy.WRITTEN, link)


def _by_terms(named: Named) -> Iterator[Title]:
    """Yield the terms of a list of terms."""
    if named.unit.form is ItemForm.TERM:
        yield from (Title(line.text, NamedBy.TERM, line.link) for line in named.plain if line.is_term)


def _by_links(named: Named) -> Iterator[Title]:
    """Yield the lines that lead where the picture does, if that sets them apart from the others."""
    if not named.link:
        return
    whole = [line for line in named.plain if line.is_linked and line.link == named.link]
    if len(whole) < len(named.plain):
        yield from (Title(line.text, NamedBy.LINK, line.link) for line in whole if len(line.text) <= _LONGEST_LINE)


def _by_label(named: Named) -> Iterator[Title]:
    """Yield the label that it has for those who do not see it."""
    if label := label_of(named.tree, named.unit):
        yield Title(label, NamedBy.LABEL)


def _by_captions(named: Named) -> Iterator[Title]:
    """Yield its captions, or the bold words that one begins with."""
    for line in named.plain:
        if line.is_caption and not is_place_in_list(line.text):
            yield Title(line.bold if _is_lead(line) else _name_in(line), NamedBy.CAPTION, line.link)


def _by_bold_words(named: Named) -> Iterator[Title]:
    """Yield the bold words that lines begin with: short lines first, then sentences."""
    yield from (Title(line.bold, NamedBy.BOLD, line.link) for line in named.own if _is_lead(line))
    for line in named.plain:
        if line not in named.short and _is_lead(line) and len(line.bold) <= _LONGEST_SENTENCE:
            yield Title(line.bold.rstrip("."), NamedBy.BOLD, line.link)


def _by_words_before_a_colon(named: Named) -> Iterator[Title]:
    """Yield the bold words, with a colon, that one of several begins with: "Red Delta: made in 1912"."""
    if named.unit.like < 2 or not named.lines:
        return
    bold = named.lines[0].bold
    words = bold.rstrip(_ANY_COLON).rstrip()
    if words == bold or len(words) > _LONGEST_LINE or says_nothing(words) or words[-1].isdigit():  # "Step 1: …"
        return
    if not any(line.bold.endswith(COLONS) for line in named.lines[1:]):
        yield Title(words, NamedBy.BOLD, named.lines[0].link, is_label=True)


def _by_lines(named: Named) -> Iterator[Title]:
    """Yield its short lines, first the one that stands for its picture as well."""
    titles = [Title(_bare(_name_in(line)), NamedBy.LINE, line.link) for line in named.own]
    alt = by_alt(named) if len(titles) > 1 else None
    said = alt.text if alt is not None and not is_place_in_list(alt.text) else ""
    yield from sorted(titles, key=lambda title: not _begins_with(title.text, said))


def _begins_with(text: str, name: str) -> bool:
    """Tell whether a line is a name, alone or with something set off behind it."""
    return text.startswith(name) and text[len(name) : len(name) + 1] in _ENDS


def _by_choices(named: Named) -> Iterator[Title]:
    """Yield what one of several says only beside a box to tick: what is chosen, if others do not say the same."""
    if named.unit.like > 1 and not named.plain:
        controls = (line for line in named.lines if line.is_control and not says_nothing(line.text))
        yield from (Title(line.text, NamedBy.LABEL, line.link, is_label=True) for line in controls)


def _by_tip(named: Named) -> Iterator[Title]:
    """Yield what appears when the pointer rests on its picture."""
    if tip := tip_of(named.tree, named.unit):
        yield Title(tip, NamedBy.LABEL, named.link)


def _by_attributes(named: Named) -> Iterator[Title]:
    """Yield what it is called for programs, by the attributes of its picture, of the link around that, or its own."""
    for number in carriers(named.tree, named.unit):
        for name in names_in(named.tree.tags[number], named.tree.attributes(number)):
            if len(name) <= _LONGEST_LINE and not says_nothing(name):
                yield Title(name, NamedBy.LABEL, named.link)


def _by_people(named: Named) -> Iterator[Title]:
    """Yield who made what the picture shows, if nothing says what that is; what stands for the picture goes before."""
    if named.people and (title := by_alt(named)) is not None:
        yield title
    yield from (Title(line.text, NamedBy.LINE, line.link) for line in named.people)


_WAYS: tuple[Callable[[Named], Iterator[Title]], ...] = (
    _by_property,
    _by_headings,
    _by_place,
    _by_class,
    _by_fields,
    _by_what_was_written,
    _by_terms,
    _by_links,
    _by_label,
    _by_captions,
    _by_bold_words,
    _by_words_before_a_colon,
    _by_lines,
    _by_choices,
    _by_tip,
    _by_attributes,
    _by_people,
)
"""how a unit is named, what is surest first"""


def _is_lead(line: Line) -> bool:
    """Tell whether a line begins with bold words that name something: no label, no price."""
    if not line.bold or line.bold.endswith(COLONS):
        return False
    return not says_nothing(line.bold) and not is_price(line.bold)


def is_of_people(text: str) -> bool:
    """Tell whether a line says who made something: "by Ino Hallas", "Maker: Ino Hallas"."""
    return _BYLINE.fullmatch(text) is not None or _names_people(text)


def _names_people(text: str) -> bool:
    """Tell whether a line names somebody by a label, or with the years of a life: "Ino Hallas (1912–1987)"."""
    label = LABEL_AND_VALUE.fullmatch(text)
    if label is not None and label[1].casefold() in NAMING_PEOPLE:
        return True
    lived = _LIVED.search(text[-_LONGEST_LIFE:]) if text[-1:] in _ENDS_OF_LIVES else None
    return lived is not None and (lived[1] is None or int(lived[2]) - int(lived[1]) >= _SHORTEST_LIFE)


def _comes_last(line: Line) -> bool:
    """Tell whether a line names a unit only where no other does: who, when, a number in a list, what somebody said."""
    return (
        line.is_side
        or _names_people(line.text)
        or is_place_in_list(line.text)
        or _SAID.fullmatch(line.text) is not None
    )


def _name_in(line: Line) -> str:
    """Return a line's words without the figures behind them: a price, or what stands beside its link."""
    return _apart_from_figures(line) or without_price(without_tail(line.text))


def _apart_from_figures(line: Line) -> str:
    """Return the words of a line's link, if all besides say nothing or are set off behind it.

    A place in a list, a year, a size, a site say nothing, nor does who made it: "Red Delta · Ino", "Red Delta by Ino".
    """
    if not line.linked or says_nothing(line.linked):
        return ""
    is_set_off = _SET_OFF.match(line.text.removeprefix(line.linked)) is not None and line.text.startswith(line.linked)
    byline = _BYLINE.fullmatch(line.besides)
    besides = line.besides.lstrip(_SENTENCE_ENDS)
    is_beside = any((is_figure(besides), _SITE.fullmatch(besides), is_credit(besides)))
    return line.linked if is_set_off or is_beside or (byline is not None and byline[1].isupper()) else ""


def _is_of_people(line: Line, link: str) -> bool:
    """Tell whether a line leads to somebody's own page, and the picture to another: who made what the picture shows."""
    return bool(line.link and link) and line.link != link and _TO_PEOPLE.match(line.link) is not None


def _is_short(line: Line, *, is_link: bool) -> bool:
    """Tell whether a line is as short as a name, and no price, date, credit, sentence or label.

    ``is_link`` is whether it leads somewhere else than all that is around it.
    """
    text = line.text
    if _has_price_besides(line):
        return True
    if len(text) > _LONGEST_LINE or is_price(text) or is_date(text) or is_credit(text):
        return False
    byline = _BYLINE.fullmatch(text)
    if byline is not None and byline[1].isupper():  # a name follows
        return False
    if line.bold and line.bold == text:
        return not text.endswith(COLONS)
    label = LABEL_AND_VALUE.fullmatch(text)
    is_naming = label is not None and label[1].casefold() in _NAMING_ANYTHING
    if label is not None and not is_link:
        return is_naming
    if label is not None and not is_naming and says_nothing(label[1]):  # a button, and its file
        return False
    is_sentence = text.endswith(_FULL_STOPS) and len(text) > _LONGEST_SENTENCE
    return not is_sentence and not text.endswith(COLONS)


def _has_price_besides(line: Line) -> bool:
    """Tell whether a line is a linked name, and a price before it or behind it."""
    return bool(line.linked) and is_price(line.besides) and not says_nothing(line.linked)


def _bare(text: str) -> str:
    """Return a line without the label that says that it is a name."""
    label = LABEL_AND_VALUE.fullmatch(text)
    return label[2] if label is not None and label[1].casefold() in _NAMING_ANYTHING else text


def by_alt(named: Named) -> Title | None:
    """Return the alternative text of a unit's first picture, if it says anything."""
    tree, unit = named.tree, named.unit
    alt = next((tree.alts[number] for number in tree.photos_in(unit.start, unit.end, most=1)), "")
    return None if says_nothing(alt) else Title(alt, NamedBy.ALT, named.link)
