"""The forms of items: for an element with a picture in it, the units that it is or belongs to. A row a form."""

import re
from collections.abc import Callable
from functools import cached_property, lru_cache
from itertools import islice
from typing import TYPE_CHECKING

from msgspec import Struct

from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.finders.tree import has_between
from pickcrate.items.data.structured import MARKED, is_article, is_thing
from pickcrate.items.ground import CELL_ROLES, TABLE_ROLES, Ground
from pickcrate.items.likes import Likes
from pickcrate.items.runs import Runs
from pickcrate.items.unit import Chain, Unit
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import ItemForm

if TYPE_CHECKING:
    from pickcrate.items.tables.reading import TableReading

_FRAME_ROLES = frozenset(
    ("navigation", "banner", "contentinfo", "search", "menubar", "menu", "toolbar", "tablist", "dialog", "alert")
)
_FRAME_NAMES = lazy(
    r"(?:site|page|main|global|top|bottom|primary|secondary|sub|doc|side|left|right|mobile|desktop|sticky)?[-_]*"
    r"(?:nav|navbar|navigation|menu|menubar|drawer|offcanvas|sidenav|footer|header|masthead|toolbar|topbar|"
    r"breadcrumbs?|pagination|pager|socials?|share|sharing|follow|networks|lang|languages?|"
    r"cookies?[-_]*(?:consent|banner|notice|bar|popup|law|message)|gdpr|consent)"
    r"(?:[-_]*(?:links|icons|bar|menu|nav|header|footer|list|container|wrapper|inner|area|buttons|media))?",
    re.IGNORECASE,
)
_NAVIGATION = "nav, [role=navigation]"
_MAIN = "main, [role=main], article"
_LEAST_ARTICLES = 2
_OF_OTHER_FORMS = frozenset(
    ("td", "th", "tr", "tbody", "thead", "tfoot", "li", "dt", "dd", "body", "head", "source", "caption", "colgroup")
)
_MOST_NESTED, _MOST_AROUND = 8, 200
"""Tables inside one another that are read, and elements around one that are looked at."""
_LONGEST_NAMES = 400
_MOST_FRAMES = 3
"""Elements of one name that may be of the page's frame: a page has one header, or one for each kind of screen."""

_MOST_FRAME_NAMES = 100
"""Names that are looked for, each in all of the page."""

_LONG_TEXT = 80
"""Characters of a paragraph that is no part of a page's frame."""

_WHOLES = frozenset(("body", "html", "main"))
_PART_OF = frozenset(("article", "section", "li", "td", "figure"))


class Forms:
    """The units of one page, from the elements that its pictures stand in."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        self.likes = Likes(ground)
        self.runs = Runs(ground, self.likes)
        self._tables: dict[int, TableReading | None] = {}
        self._widths: dict[int, set[int]] = {}
        self._chains: dict[int, tuple[Chain | None, bool]] = {}
        self._terms: dict[int, dict[int, Unit]] = {}
        self._places: dict[int, dict[int, tuple[int, int]]] = {}
        self._frames: dict[str, bool] = {}
        self._parts = ground.inherited(lambda outer: True if ground.tags[outer] in _PART_OF else None, otherwise=False)
        learnt: set[int] = set()
        for spot in ground.spots:
            for outer in ground.above(spot.element):
                if outer in learnt:
                    break
                learnt.add(outer)
                self.likes.learn(outer)

    def chain(self, element: int) -> tuple[Chain | None, bool]:
        """Return the units that ``element`` lies in, and whether it stands in the page's frame."""
        if (found := self._chains.get(element)) is not None:
            return found
        ground = self.ground
        path: list[int] = []
        known: tuple[Chain | None, bool] = (None, False)
        for outer in ground.above(element):
            if outer in self._chains:
                known = self._chains[outer]
                break
            path.append(outer)
        for inner in reversed(path):
            chain, is_framed = known
            is_framed = is_framed or (chain is None and self._is_frame(inner))
            tag, role = ground.tags[inner], ground.attributes(inner).get("role")
            for form in () if is_framed else FORMS:
                if form.tags and tag not in form.tags and role not in form.roles:
                    continue
                if form.units is _part and chain is not None and self._is_named_before(chain.unit, inner):
                    continue  # what is right above it names it
                unit = form.units(self, inner)
                if unit is not None and (chain is None or chain.unit is not unit):
                    chain = Chain(unit, chain)
            known = self._chains[inner] = (chain, is_framed)
        return known

    def _is_named_before(self, unit: Unit, element: int) -> bool:
        """Tell whether an element is in a run that begins before it, with words that name it, and has no heading."""
        ground = self.ground
        is_run = unit.form is ItemForm.RUN and ground.parent[unit.start] == ground.parent[element]
        return is_run and unit.start < element and not ground.has_within(element, HEADING_SELECTOR)

    def table(self, element: int) -> "TableReading | None":
        """Return what the table around a cell lists."""
        ground = self.ground
        table = next(
            (
                outer
                for outer in islice(ground.above(ground.parent[element]), _MOST_AROUND)
                if ground.tags[outer] == "table" or ground.attribute(outer, "role") in TABLE_ROLES
            ),
            None,
        )
        if table is None:
            return None
        reading = self._read(table)
        if reading is not None and reading.lists_nothing:
            reading.read_as_rows(self._rows_beside(ground.parent[table]))
        return reading

    def _read(self, table: int) -> "TableReading | None":
        """Return what an element that is a table lists; None if it has no rows, or lies too deep in others."""
        from pickcrate.items.tables.reading import TableReading  # noqa: PLC0415 (most pages have no table)
        from pickcrate.items.tables.table import read_table  # noqa: PLC0415

        ground = self.ground
        if table not in self._tables:
            around = sum(ground.tags[outer] == "table" for outer in islice(ground.above(table), _MOST_AROUND))
            read = read_table(ground, table) if around <= _MOST_NESTED else None
            self._tables[table] = TableReading(ground, read) if read is not None else None
        return self._tables[table]

    def _rows_beside(self, parent: int) -> set[int]:
        """Return how many columns the tables in ``parent`` have that list rows."""
        known = self._widths.get(parent)
        if known is None:
            tables = (child for child in self.ground.children(parent) if self.ground.tags[child] == "table")
            readings = (self._read(table) for table in tables)
            known = self._widths[parent] = {reading.rows_of for reading in readings if reading is not None} - {0}
        return known

    def whole(self, form: ItemForm, element: int, *, place: int = 0, like: int = 1) -> Unit:
        """Return the unit that is an element with all in it."""
        ground = self.ground
        return Unit(form, (ground.nodes[element],), element, ground.end[element], place, like=like)

    def place_among(self, element: int) -> tuple[int, int]:
        """Return which of its parent's children with its tag an element is, from 1, and how many those are."""
        ground = self.ground
        parent = ground.parent[element]
        if parent not in self._places:
            self._places[parent] = {}
            alike: dict[str, list[int]] = {}
            for child in ground.children(parent) if parent >= 0 else ():
                alike.setdefault(ground.tags[child], []).append(child)
            for children in alike.values():
                self._places[parent].update((child, (place, len(children))) for place, child in enumerate(children, 1))
        return self._places[parent].get(element, (1, 1))

    def terms(self, parent: int) -> dict[int, Unit]:
        """Return, of each child of a list of terms, the term with what is said of it (HTML standard, 4.4.9)."""
        known = self._terms.get(parent)
        if known is None:
            known = self._terms[parent] = self._groups_of(parent)
        return known

    def _groups_of(self, parent: int) -> dict[int, Unit]:
        ground = self.ground
        groups: list[list[int]] = []
        was_term = False
        for child in ground.children(parent):
            is_term = ground.tags[child] == "dt"
            # Terms that follow one another are names of one thing, unless each has a picture of its own.
            is_next = is_term and (not was_term or ground.pictures(child) > 0)
            if is_next or not groups or ground.tags[child] == "div":
                groups.append([child])
            else:
                groups[-1].append(child)
            was_term = is_term
        found: dict[int, Unit] = {}
        for place, members in enumerate(groups, 1):
            nodes = tuple(ground.nodes[member] for member in members)
            unit = Unit(ItemForm.TERM, nodes, members[0], ground.end[members[-1]], place, like=len(groups))
            found.update((member, unit) for member in members)
        return found

    def _is_frame(self, element: int) -> bool:
        """Tell whether an element is of the page's frame: what a page shows on every page of its site."""
        ground = self.ground
        tag, attributes = ground.tags[element], ground.attributes(element)
        if tag == "nav" or attributes.get("role") in _FRAME_ROLES:
            return True
        if tag == "header" and self._heads_the_page(element):
            return False
        # An address says whose page it is (HTML standard, 4.3.10); several are a list of people or places.
        if tag in {"header", "footer"} or (tag == "address" and len(ground.selected("address")) == 1):
            return not self._parts.of(ground.parent[element])
        names = f"{attributes.get('id') or ''} {attributes.get('class') or ''}"
        if len(names) <= 1 or tag in _WHOLES:
            return False
        is_named_so = any(map(self._is_name_of_frame, _frame_names(names[:_LONGEST_NAMES])))
        is_head = "header" in names.lower() and self._heads_the_page(element)
        return is_named_so and not is_head and not self._holds_the_page(element)

    def _heads_the_page(self, element: int) -> bool:
        """Tell whether an element is the head of what the page is about: it has its title, and leads nowhere."""
        return self.ground.has_within(element, "h1") and not self.ground.has_within(element, _NAVIGATION)

    def _holds_the_page(self, element: int) -> bool:
        """Tell whether what the page is about stands in an element that only its name makes part of the frame.

        An end tag may be missing, or be behind everything.
        """
        ground = self.ground
        if 2 * ground.length(element) <= ground.length(0) or 2 * ground.pictures(element) <= ground.pictures(0):
            return False
        return has_between(self._long_paragraphs, element + 1, ground.end[element]) or ground.has_within(element, _MAIN)

    @cached_property
    def _long_paragraphs(self) -> list[int]:
        """The paragraphs that are no part of a page's frame, in order."""
        return [number for number in self.ground.selected("p") if self.ground.length(number) >= _LONG_TEXT]

    def _is_name_of_frame(self, name: str) -> bool:
        """Tell whether few elements have a name that a part of the page's frame may have: each entry may have one."""
        known = self._frames.get(name)
        if known is None and len(self._frames) < _MOST_FRAME_NAMES:
            known = self._frames[name] = len(self.ground.selected(f'[class~="{name}"]')) <= _MOST_FRAMES
        return bool(known)


@lru_cache(maxsize=1_024)
def _frame_names(names: str) -> tuple[str, ...]:
    """Return those of an element's names that a part of a page's frame may have."""
    return tuple(filter(_FRAME_NAMES.fullmatch, names.split()))


class Form(Struct, frozen=True):
    """A row of the table of forms: how a unit is known by an element that holds a picture."""

    units: Callable[[Forms, int], Unit | None]
    tags: frozenset[str] = frozenset()
    """of the elements that may be such; any, if there are none"""
    roles: frozenset[str | None] = frozenset()


def _run(forms: Forms, element: int) -> Unit | None:
    parent = forms.ground.parent[element]
    return forms.runs.of(parent, element) if parent >= 0 else None


def _term(forms: Forms, element: int) -> Unit | None:
    parent = forms.ground.parent[element]
    if parent < 0 or forms.ground.tags[parent] != "dl":
        return None
    return forms.terms(parent).get(element)


def _cell(forms: Forms, element: int) -> Unit | None:
    table = forms.table(element)
    return table.unit(element) if table is not None else None


def _marked(forms: Forms, element: int) -> Unit | None:
    ground = forms.ground
    if not ground.selected(MARKED) or not is_thing(ground, element):
        return None
    if is_article(ground, element):  # one alone is the page, and its pictures only interrupt its text
        _, like = forms.place_among(element)
        if like < _LEAST_ARTICLES:
            return None
    return forms.whole(ItemForm.MARKED, element)


def _entry(forms: Forms, element: int) -> Unit | None:
    place, like = forms.place_among(element)
    return forms.whole(ItemForm.ENTRY, element, place=place, like=like)


def _part(forms: Forms, element: int) -> Unit | None:
    """Return the unit that is one of several alike, here or in another parent of the same shape."""
    ground, likes = forms.ground, forms.likes
    parent = ground.parent[element]
    tag, role = ground.tags[element], ground.attribute(element, "role")
    if parent < 0 or tag in _OF_OTHER_FORMS or ground.tags[parent] == "dl":
        return None
    form = ItemForm.ARTICLE if tag == "article" or role == "article" else ItemForm.LIKE
    form = ItemForm.FIGURE if tag == "figure" else form
    if (like := likes.of(parent).get(element)) is not None:
        return forms.whole(form, element, like=like.pictured)
    if (likes.shape(parent), likes.shape(element)) in likes.patterns:
        return forms.whole(form, element)
    return None


FORMS = (
    Form(_run),
    Form(_term, frozenset(("dt", "dd", "div"))),
    Form(_cell, frozenset(("td", "th")), CELL_ROLES),
    Form(_marked),
    Form(_entry, frozenset(("li",)), frozenset(("listitem",))),
    Form(_part),
)
"""The outermost first of those that one element may have."""
