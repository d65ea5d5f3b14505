"""What an item is called, where its own page is, and what is said of it: read from its lines."""

import re
from collections.abc import Iterator
from itertools import islice

from msgspec import Struct

from pickcrate.addresses import leads_somewhere
from pickcrate.finders.words import text_in
from pickcrate.item import ItemForm, NamedBy
from pickcrate.items.ground import LABELLED, SAYS_A_TITLE, Ground
from pickcrate.items.junk import (
    NAMING,
    heads_a_gallery,
    is_credit,
    is_date,
    is_figure,
    is_file_name,
    is_place_in_list,
    is_price,
    says_nothing,
    without_price,
)
from pickcrate.items.lines import Line, lines_of
from pickcrate.items.structured import NO_THING, Thing, thing_in
from pickcrate.items.unit import Unit
from pickcrate.lazyre import lazy
from pickcrate.values import fold

_LONGEST_TITLE = 200
_LONGEST_LINE = 110
_LONGEST_SENTENCE = 70
_LONGEST_LABEL, _LONGEST_VALUE = 32, 200
_MOST_COLUMNS = 60
_MOST_WORDS_OF_LABEL = 4
_MOST_TITLES = 4
_MOST_LINKS = 100
_LABELLED = lazy(r"([^\W\d][^:：\n\d]{0,40}?)\s?(?::\s++|：\s*+)(\S.*)")
_BYLINE = lazy(r"(?:by|von|par|por|di|da|door|av|af)\s+(\S).*", re.IGNORECASE)
_CREDIT = lazy(
    r"(?:foto|photo|image|picture|bild|credits?|source)(?:\s(?:credits?|courtesy(?:\sof)?|source|by))?\s*:.*|©.*",
    re.IGNORECASE,
)
_SAID = lazy(r"[\"“„«”»「].{4,}[\"”“»«」]\W*")
_SITE = lazy(r"\(?\s*(?:[\w-]{1,60}\.){1,4}[a-z]{2,12}\s*\)?")
_TO_PEOPLE = lazy(
    r"(?:https?://[^/]+/)?/?(?:@|~|(?:u|users?|members?|profiles?|people|authors?|artists?|photographers?|creators?)/)",
    re.IGNORECASE,
)
"""addresses of the pages of people, as sites have them where everybody may add something"""


class Title(Struct, frozen=True):
    """What a unit may be called, what says so, and where that leads to, as the page writes it."""

    text: str
    named_by: NamedBy = NamedBy.LINE
    link: str = ""


_UNTITLED = Title("")


class Told(Struct, frozen=True):
    """What was read of one unit; without a title it is no item."""

    title: Title = _UNTITLED
    columns: tuple[tuple[str, str], ...] = ()
    stated_address: str = ""
    """what its markup says that its page is"""
    link: str = ""
    """where its picture leads, or else the one place that anything in it leads to"""

    @property
    def address(self) -> str:
        """Where its own page is, as the page writes it: what is stated, where its title leads, or its picture."""
        title = "" if self.title.link.startswith("#") else self.title.link
        return self.stated_address or title or self.link or self.title.link


def read_unit(tree: Ground, unit: Unit, link: str, outer_link: str) -> Told:
    """Return what a unit is called and what is said in it.

    ``link`` is where its picture leads to, if it does; ``outer_link`` is where a link around all of it leads.
    """
    thing, lines = _read(tree, unit, outer_link)
    title = next(_titles(tree, unit, lines, link, thing.name), _UNTITLED)
    columns = dict(unit.columns) or dict(_fields(tree, unit, lines, title.text))
    if thing.columns:
        columns |= {name: value for name, value in thing.columns if name not in columns}
    lead = link or _only_link(tree, unit, lines) or _laid_over(tree, unit)[1]
    return Told(title, tuple(columns.items())[:_MOST_COLUMNS], thing.url, lead)


def titles_of(tree: Ground, unit: Unit, link: str, outer_link: str) -> list[Title]:
    """Return what a unit may be called, the best first."""
    thing, lines = _read(tree, unit, outer_link)
    return list(islice(_titles(tree, unit, lines, link, thing.name), _MOST_TITLES))


def _read(tree: Ground, unit: Unit, outer_link: str) -> tuple[Thing, list[Line]]:
    """Return what the markup of a unit says of it, and its lines; nothing once the page's effort is spent."""
    if tree.effort < 0:
        return NO_THING, []
    lines, seen = lines_of(unit.nodes, outer_link)
    tree.effort -= seen
    return thing_in(tree, unit), lines


def _titles(tree: Ground, unit: Unit, lines: list[Line], link: str, structured: str) -> Iterator[Title]:
    """Yield what a unit may be called, the best first."""
    for text, named_by, leads_to in _names(tree, unit, lines, link, structured):
        is_titled = named_by in {NamedBy.HEADING, NamedBy.TITLED, NamedBy.PROPERTY}
        if (folded := fold(text)[:_LONGEST_TITLE]) and (is_titled or not is_credit(folded)):
            yield Title(folded, named_by, leads_to)


def _names(
    tree: Ground, unit: Unit, lines: list[Line], link: str, structured: str
) -> Iterator[tuple[str, NamedBy, str]]:
    """Yield what a unit may be called, the best first, each with what says so and where it leads to."""
    if structured:
        yield (
            structured,
            NamedBy.PROPERTY,
            next((line.link for line in lines if line.link and structured in line.text), ""),
        )
    headings = [line for line in lines if line.level and not (is_figure(line.text) or heads_a_gallery(line.text))]
    headings.sort(key=lambda line: (line.level, bool(link) and line.link != link))
    plain = [line for line in lines if not line.is_control and not line.is_time and not says_nothing(line.text)]
    yield from ((_apart_from_figures(line) or line.text, NamedBy.HEADING, line.link) for line in headings)
    if unit.name:
        yield unit.name, unit.named_by, next((line.link for line in lines if line.link and line.text == unit.name), "")
    titled = [line for line in plain if line.is_titled and not line.is_caption]
    yield from ((_apart_from_figures(line) or line.text, NamedBy.TITLED, line.link) for line in titled)
    if unit.form is ItemForm.TERM:
        yield from ((line.text, NamedBy.TERM, line.link) for line in plain if line.is_term)
    if link and sum(line.link == link for line in plain) <= max(1, sum(1 for line in plain if line.link)):
        whole = [line for line in plain if line.link == link and line.is_linked]
        if len({line.link for line in plain}) > 1 or len(whole) < len(plain):
            yield from ((line.text, NamedBy.LINK, line.link) for line in whole if len(line.text) <= _LONGEST_LINE)
    if label := _label(tree, unit):
        yield label, NamedBy.LABEL, ""
    for line in plain:
        if line.is_caption:
            yield (line.bold if _is_lead(line) else _name_in(line)), NamedBy.CAPTION, line.link
    short = sorted(filter(_is_short, plain), key=_comes_last)
    people = [line for line in short if _is_of_people(line, link)]
    own = [line for line in short if line not in people]
    yield from ((line.bold, NamedBy.BOLD, line.link) for line in own if _is_lead(line))
    long = (line for line in plain if line not in short and _is_lead(line) and len(line.bold) <= _LONGEST_SENTENCE)
    yield from ((line.bold.rstrip("."), NamedBy.BOLD, line.link) for line in long)
    yield from ((_bare(_name_in(line)), NamedBy.LINE, line.link) for line in own)
    if tip := _tip(tree, unit):
        yield tip, NamedBy.LABEL, link
    if people and (alt := _alt(tree, unit)):
        yield alt, NamedBy.ALT, link
    yield from ((line.text, NamedBy.LINE, line.link) for line in people)


def _is_lead(line: Line) -> bool:
    """Tell whether a line begins with bold words that name something: no label, no price."""
    return (
        bool(line.bold)
        and not line.bold.endswith((":", "："))
        and not says_nothing(line.bold)
        and not is_price(line.bold)
    )


def _comes_last(line: Line) -> bool:
    """Tell whether a line names a unit only where no other does: who, when, a number in a list, what somebody said."""
    return line.is_side or is_place_in_list(line.text) or _SAID.fullmatch(line.text) is not None


def _name_in(line: Line) -> str:
    """Return a line's words without the figures behind them: a price, or what stands beside its link."""
    return _apart_from_figures(line) or without_price(line.text)


def _apart_from_figures(line: Line) -> str:
    """Return the words of a line's link, if all besides say nothing: a place in a list, a year, a size, a site."""
    if not line.linked or says_nothing(line.linked):
        return ""
    return line.linked if is_figure(line.besides) or _SITE.fullmatch(line.besides) is not None else ""


def _is_of_people(line: Line, link: str) -> bool:
    """Tell whether a line leads to somebody's own page, and the picture to another: who made what the picture shows."""
    return bool(line.link and link) and line.link != link and _TO_PEOPLE.match(line.link) is not None


def _is_short(line: Line) -> bool:
    text = line.text
    if len(text) > _LONGEST_LINE or is_price(text) or is_date(text) or _CREDIT.fullmatch(text):
        return False
    byline = _BYLINE.fullmatch(text)
    if byline is not None and byline[1].isupper():  # a name follows
        return False
    if line.bold and line.bold == text:
        return not text.endswith((":", "："))
    is_sentence = text.endswith((".", "!", "?", "。")) and len(text) > _LONGEST_SENTENCE
    label = _LABELLED.fullmatch(text)
    if label is not None and not line.link:
        return label[1].casefold() in NAMING
    if label is not None and says_nothing(label[1]) and label[1].casefold() not in NAMING:  # a button, and its file
        return False
    return not is_sentence and not text.endswith((":", "："))


def _bare(text: str) -> str:
    """Return a line without the label that says that it is a name."""
    label = _LABELLED.fullmatch(text)
    return label[2] if label is not None and label[1].casefold() in NAMING else text


def _label(tree: Ground, unit: Unit) -> str:
    """Return the label that the unit's element has for those who do not see it, or the link that opens it has."""
    root = unit.start
    if not tree.selected("[aria-label], [aria-labelledby], a[href^='#']"):
        return ""
    if len(unit.nodes) != 1 or unit.nodes[0].mem_id != tree.nodes[root].mem_id:
        return ""
    label = tree.label_of(root)
    if not label:
        inner = [n for n in tree.within(root, "a[href][aria-label]")[:_MOST_LINKS] if tree.pictures(n)]
        label = fold(tree.attribute(inner[0], "aria-label")) if inner else _laid_over(tree, unit)[0]
    if not label and (identity := tree.attribute(root, "id")) and len(identity) <= _LONGEST_LABEL:
        label = tree.opener_of(identity)
    return "" if says_nothing(label) else label


def _laid_over(tree: Ground, unit: Unit) -> tuple[str, str]:
    """Return what an empty link in a unit says, and where it leads: one is laid over all of it. Blank if there is none.

    Several that are empty are signs that a style sheet draws.
    """
    links = tree.within(unit.start, "a[href]")[:_MOST_LINKS]
    empty = [number for number in links if tree.end[number] == number + 1 and not tree.length(number)]
    hrefs = {tree.attribute(number, "href").strip() for number in empty}
    if len(hrefs) != 1 or not leads_somewhere(href := hrefs.pop()):
        return "", ""
    return fold(tree.attribute(empty[0], "aria-label") or tree.attribute(empty[0], "title")), href


def _tip(tree: Ground, unit: Unit) -> str:
    """Return the title that the unit's picture or its link has as an attribute: what is said where nothing else is."""
    links = tree.within(unit.start, "a[href]")[:_MOST_LINKS]
    linked = [n for n in (unit.start, *links) if tree.tags[n] == "a" and tree.pictures(n)]
    pictured = tree.photos_in(unit.start, unit.end, most=1)
    for number in (*linked[:1], *pictured):
        for name, text in tree.attributes(number).items():
            if text and text[0] != "#" and SAYS_A_TITLE.fullmatch(name) and not says_nothing(said := text_in(text)):
                return said
    return ""


def _alt(tree: Ground, unit: Unit) -> str:
    """Return the alternative text of a unit's first picture."""
    alt = next((tree.alts[number] for number in tree.photos_in(unit.start, unit.end, most=1)), "")
    return "" if says_nothing(alt) else alt


def _only_link(tree: Ground, unit: Unit, lines: list[Line]) -> str:
    """Return the one place that anything in a unit leads to, but for who made it; empty if there are several.

    Of several the one on the page's own site: others tell friends.
    """
    about = (line for line in lines if line.link and _BYLINE.fullmatch(line.text) is None)
    links = {line.link for line in about if leads_somewhere(line.link)}
    if len(links) > 1:
        links = {link for link in links if (url := tree.page.resolve(link)) is not None and tree.page.leads_on(url)}
    return links.pop() if len(links) == 1 and unit.form is not ItemForm.PAGE else ""


def _fields(tree: Ground, unit: Unit, lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    """Yield what is said of a unit by label: lists of terms, small tables of facts, label and value lines."""
    if not (tree.may_have_fields or any(":" in line.text or "：" in line.text for line in lines)):
        return
    seen: set[str] = set()
    for said, value in (*_terms(tree, unit), *_facts(tree, unit), *_labelled(tree, unit), *_label_lines(lines, title)):
        label = said.strip(" :：\u00a0")
        if label and value and label not in seen and len(label) <= _LONGEST_LABEL:
            seen.add(label)
            yield label, value[:_LONGEST_VALUE]


def _terms(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the pairs of the lists of terms inside a unit (HTML standard, 4.4.9)."""
    if unit.form is ItemForm.TERM:
        return
    for root in _roots(tree, unit):
        term = ""
        for number in tree.within(root, "dt, dd"):
            if tree.tags[number] == "dt":
                term = tree.text(number)
            elif term and not tree.pictures(number):  # a thing of its own
                yield term, tree.text(number)


def _facts(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the rows of tables inside a unit that are a header and a cell."""
    if unit.form in {ItemForm.ROW, ItemForm.COLUMN, ItemForm.CELL}:
        return
    for root in _roots(tree, unit):
        for row in tree.within(root, "tr"):
            cells = list(tree.children(row))
            if len(cells) == 2 and tree.tags[cells[1]] == "td" and not tree.pictures(row):
                yield tree.text(cells[0]), tree.text(cells[1])


def _labelled(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the pairs of an element that is called a label and the one behind it."""
    for root in _roots(tree, unit):
        for number in tree.within(root, LABELLED):
            follower = tree.end[number]
            if (
                follower < len(tree.nodes)
                and tree.parent[follower] == tree.parent[number]
                and not tree.pictures(follower)
            ):
                yield tree.text(number), tree.text(follower)


def _label_lines(lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    for line, follower in zip(lines, (*lines[1:], None), strict=False):
        if line.level or line.is_control or line.text == title:
            continue
        if len(line.text) > _LONGEST_LABEL + _LONGEST_VALUE:
            continue
        label, value = "", ""
        if (match := _LABELLED.fullmatch(line.text)) is not None:
            label, value = match[1], match[2]
        elif follower is not None and line.text.endswith((":", "：")) and not (follower.level or follower.is_control):
            label, value = line.text[:-1].strip(), follower.text
        if is_file_name(value.casefold()):
            continue
        if label and len(label.split()) <= _MOST_WORDS_OF_LABEL and not says_nothing(f"{label}: {value}"):
            yield label, value


def _roots(tree: Ground, unit: Unit) -> list[int]:
    return [tree.number[node.mem_id] for node in unit.nodes if node.is_element_node]
