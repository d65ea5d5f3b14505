"""Which part of those around a picture is its item, and what that is called, beside others of its kind."""

import re
from bisect import bisect_left
from collections import Counter
from functools import cached_property
from itertools import islice

from msgspec.structs import replace

from pickcrate.addresses.url import (
    bare_stem,
    image_type,
    is_front_page,
    is_of_site,
    is_other_page,
    is_web,
    last_segment,
    leads_somewhere,
    path_of,
)
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.finders.tree import has_between
from pickcrate.items.data.embedded import things_in_data
from pickcrate.items.data.linkeddata import linked_data, things_by_address
from pickcrate.items.data.structured import NO_THING, Thing
from pickcrate.items.forms import Forms
from pickcrate.items.ground import Ground, Spot, heading_level
from pickcrate.items.names import BY_LINES, Title
from pickcrate.items.others import is_within, spans_of_others
from pickcrate.items.page import page_unit
from pickcrate.items.said.junk import inventory_of, says_nothing
from pickcrate.items.said.sentences import is_in_sentence
from pickcrate.items.titles import UNTITLED, Told, read_unit, titles_of
from pickcrate.items.unit import Unit
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy

_BY_WORDS = frozenset((NamedBy.LINK, NamedBy.CAPTION, NamedBy.BOLD, NamedBy.LINE, NamedBy.TITLED))
"""what may name a part of a page by words that are of something in it"""

_FEW = 5
"""Pictures of one thing in an item that has a name: each is not an item of its own, though its words differ."""
_MOST_HELD = 60
_MOST_AROUND = 12
"""Units around a picture that are looked at, from the innermost."""
_LEAST_TILES = 3
_SEVERAL = 2
_MOST_COMPARED = 200
_MOST_AT_TOP = 8
_LONGEST_BESIDE = 40
_COUNTED = lazy(r"\W{0,2}(?:no\.?\s?)?(\d{1,3})\s?[.):–-]\s+(\S.*)", re.IGNORECASE)

_NO_LEVEL = 9
_CLIMBED = 3
"""Elements around an item that may be a link around all of it."""


class Naming:
    """Which unit of those around it is the item of a picture, and what it is called."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground
        self._forms = Forms(ground)
        self._tables = ground.inherited(lambda outer: outer if ground.tags[outer] == "table" else None, otherwise=-1)
        self._told: dict[Unit, Told] = {}
        self._items: dict[Unit, Item] = {}
        self._used: dict[Unit, None] = {}
        self._said: dict[int, Thing] = {}
        self._tell_apart_by_alt: dict[int, bool] = {}
        linked = linked_data(ground)
        self._linked = [entry for entry in linked if not entry.is_picture]
        self._described = things_by_address([entry for entry in linked if entry.is_picture])
        self._others = spans_of_others(ground)
        self._parts, rest = self._parts_and_rest()
        self._page = self._page_unit(rest)
        self._data = things_by_address(self._linked)
        self._data_by_page = {self._address(thing.url): thing for thing in self._data.values() if thing.url}
        self._data_by_stem = self._by_stem()

    def _parts_and_rest(self) -> tuple[dict[int, tuple[int, str]], list[int]]:
        """Return the innermost units with a name around any picture, and the pictures on the page that are in none.

        Of the units the starts, with their ends and titles; of the pictures their elements.
        """
        parts: dict[int, tuple[int, str]] = {}
        rest: list[int] = []
        for spot in self._ground.spots:
            chain, is_framed = self._forms.chain(spot.element)
            unit = next((unit for unit in islice(chain or (), _MOST_AROUND) if self._read(unit).title.text), None)
            if unit is not None and spot.is_link:
                continue  # words that lead to a picture may be those of one that is seen
            if unit is not None:
                parts[unit.start] = unit.end, self._read(unit).title.text
            elif spot.is_on_screen and not (is_framed or is_within(self._others, spot.element)):
                rest.append(spot.element)
        return parts, rest

    def _page_unit(self, pictures: list[int]) -> Unit | None:
        """Return the unit of a page about one thing, of the pictures that are in no other item with a name."""
        taken = [(start, end) for start, (end, _) in self._parts.items()]
        return page_unit(self._ground, pictures, taken, self._linked) if pictures else None

    def items(self) -> dict[int, Item]:
        """Return the item of each picture, by its cluster; NO_ITEM for one that has none."""
        chosen = {spot.cluster: self._unit(spot) for spot in self._ground.spots}
        self._tell_apart([unit for unit, by_alt in chosen.values() if unit is not None and not by_alt])
        items: dict[int, Item] = {}
        for spot in self._ground.spots:
            unit, by_alt = chosen[spot.cluster]
            items[spot.cluster] = self._item(spot, unit, by_alt=by_alt)
        return items

    def _item(self, spot: Spot, unit: Unit | None, *, by_alt: bool) -> Item:
        item = NO_ITEM if unit is None else self._item_of(unit, spot, by_alt=by_alt)
        if not item.title and (spot.is_held or spot.is_link):
            known = self.said_of(spot)
            item = self._of_data(known, item) if known.name or known.columns else item
        thing = self._thing_of(spot, item) if self._linked else None
        return item if thing is None else self._of_data(thing, item)

    def said_of(self, spot: Spot) -> Thing:
        """Return what data blocks say of a picture that nothing but they or a link name; NO_THING if it is shown."""
        if not (spot.is_held or spot.is_link):
            return NO_THING
        if (known := self._said.get(spot.cluster)) is None:
            known = self._said[spot.cluster] = self._look_up(spot)
        return known

    def _look_up(self, spot: Spot) -> Thing:
        told = (data[raw] for data in (self._embedded, self._described) for raw in spot.addresses if raw in data)
        files = (last_segment(raw) for raw in spot.addresses)  # where a script puts a folder before them
        return next(told, None) or next((self._embedded[file] for file in files if file in self._embedded), NO_THING)

    def _thing_of(self, spot: Spot, item: Item) -> Thing | None:
        """Return the thing of the page's data that a picture is of: by its address, its item's page, its name."""
        thing = next((self._data[address] for address in spot.addresses if address in self._data), None)
        if thing is None and item.url:
            thing = self._data_by_page.get(item.url)
        if thing is None:
            stems = map(bare_stem, spot.addresses[1 : 2 * _FEW : 2])
            thing = next(filter(None, map(self._data_by_stem.get, stems)), None)
        if thing is None and (not item.title or item.form is ItemForm.PAGE) and self._data_by_page:
            leads = self._address(self._ground.link_around(spot.element, spot.element, climb=_CLIMBED))
            thing = self._data_by_page.get(leads) if leads else None
        if thing is None and item.form is ItemForm.PAGE:
            thing = next((entry.thing for entry in self._linked if entry.thing.name == item.title), None)
        return thing

    def _tell_apart(self, units: list[Unit]) -> None:
        """Pass over what most parts of a kind begin with: what all are called names none of them."""
        kinds: dict[object, dict[Unit, None]] = {}
        for unit in units:
            kinds.setdefault(self._kind(unit), {})[unit] = None
        for alike in kinds.values():
            self._call_without_places(list(alike))
            self._call_by_names_beside_codes(list(alike))
            first = Counter(self._read(unit).title.text for unit in alike)
            if len(alike) > 1 and max(first.values()) * 2 > len(alike):
                self._call_by_their_own(list(alike))

    def _call_without_places(self, alike: list[Unit]) -> None:
        """Take off the numbers that count all parts of a kind before their titles: "1. …", "2. …"."""
        counted = [_COUNTED.fullmatch(self._read(unit).title.text) for unit in alike]
        places = {match[1] for match in counted if match is not None}
        if len(alike) < _SEVERAL or len(places) < len(alike):
            return
        for unit, match in zip(alike, counted, strict=True):
            told = self._told[unit]
            if match is not None and not says_nothing(match[2]):
                self._told[unit] = replace(told, title=replace(told.title, text=match[2]))

    def _call_by_names_beside_codes(self, alike: list[Unit]) -> None:
        """Call parts of a kind by what else they say, if all begin with a number of one inventory: "GK-101"."""
        titles = [self._read(unit).title for unit in alike]
        inventories = [inventory_of(title.text) for title in titles if title.named_by in BY_LINES]
        if len(inventories) < max(len(alike), _SEVERAL) or not inventories[0] or len(set(inventories)) > 1:
            return
        names: dict[str, tuple[Unit, Title]] = {}
        for unit in alike:
            for title in self._titles(unit):
                if not inventory_of(title.text):
                    names[title.text] = unit, title
                    break
        if len(names) == len(alike):
            self._told |= {unit: replace(self._told[unit], title=title) for unit, title in names.values()}

    def _titles(self, unit: Unit) -> list[Title]:
        return titles_of(self._ground, unit, *self._links(unit))

    def _call_by_their_own(self, alike: list[Unit]) -> None:
        """Call parts of a kind by the first of their titles that most others do not have."""
        titles = {unit: self._titles(unit) for unit in alike}
        said = Counter(text for unit in alike for text in {title.text for title in titles[unit]})
        for unit, told in ((unit, self._told[unit]) for unit in alike):
            usual = UNTITLED if told.title.is_label else told.title
            own = next((title for title in titles[unit] if said[title.text] * 2 <= len(alike)), usual)
            if told.title.named_by is not NamedBy.PROPERTY:
                self._told[unit] = replace(told, title=own)

    def _kind(self, unit: Unit) -> object:
        """Return what parts of one kind have in common: their form, and their parent or its shape."""
        ground, likes = self._ground, self._forms.likes
        parent = ground.parent[unit.start]
        if parent < 0 or unit.form in {ItemForm.ROW, ItemForm.COLUMN, ItemForm.CELL, ItemForm.PAGE}:
            return (unit.form, self._tables.of(unit.start))
        pattern = likes.shape(parent), likes.shape(unit.start)
        return (unit.form, pattern if pattern in likes.patterns else parent)

    def _by_stem(self) -> dict[str, Thing | None]:
        """Return things by what their pictures are called, sizes aside; None where several have one name."""
        found: dict[str, Thing | None] = {}
        for raw, thing in self._data.items():
            url = self._ground.page.resolve(raw) or raw
            if image_type(url) is not None:
                stem = bare_stem(url)
                found[stem] = thing if found.get(stem, thing) is thing else None
        return found

    def is_framed(self, spot: Spot) -> bool:
        """Tell whether a picture stands in the page's frame."""
        return self._forms.chain(spot.element)[1]

    def titled(self) -> list[tuple[int, int]]:
        """Return the spans whose headings are titles: those of items, and of what is like them beside them.

        Of a thing that is a document, with pictures in several of its sections, only the first heading is its title.
        """
        ground = self._ground
        units = [unit for unit in self._used if unit.form is not ItemForm.PAGE]
        starts = sorted(unit.start for unit in units)
        spans: dict[int, int] = {}
        for unit in units:
            if ground.pictures_between(unit.start, unit.end) > _MOST_HELD:
                continue
            if (below_title := self._sections_begin(unit)) is not None:
                spans[unit.start] = below_title
                continue
            spans[unit.start] = unit.end
            parent = ground.parent[unit.start]
            like = self._forms.likes.of(parent).get(unit.start) if parent >= 0 else None
            if like is not None and like.members[0] not in spans:
                level = self._level_in(unit.start, unit.end)
                ends = ((member, ground.end[member]) for member in like.members)
                spans.update(
                    (start, end)
                    for start, end in ends
                    if not has_between(starts, start + 1, end) and self._level_in(start, end) >= level
                )
        return list(spans.items())

    def _sections_begin(self, unit: Unit) -> int | None:
        """Return where the sections of a unit begin, below its title; None if it is no document.

        In one several sections have pictures; of what is marked up, and the only one of its kind, any of more than two.
        """
        headings = self._ground.selected(HEADING_SELECTOR)
        first, last = bisect_left(headings, unit.start), bisect_left(headings, unit.end)
        inside = headings[first : min(last, first + _MOST_COMPARED)]
        levels = [heading_level(self._ground, number) for number in inside]
        if len(inside) <= _SEVERAL or levels[0] >= min(levels[1:]):
            return None
        sections = inside[1:]
        pictured = map(self._ground.pictures_between, sections, [*sections[1:], unit.end])
        is_whole = unit.form is ItemForm.MARKED and unit.like <= 1
        several = 1 if is_whole and len(sections) > _SEVERAL else _SEVERAL
        return inside[0] + 1 if sum(map(bool, pictured)) >= several else None

    def _level_in(self, start: int, end: int) -> int:
        """Return the level of the first heading from one element to before another; one too low if there is none."""
        headings = self._ground.selected(HEADING_SELECTOR)
        at = bisect_left(headings, start)
        return heading_level(self._ground, headings[at]) if at < len(headings) and headings[at] < end else _NO_LEVEL

    def _unit(self, spot: Spot) -> tuple[Unit | None, bool]:
        """Return the innermost unit around a picture that has a name, and whether that is the picture's own words."""
        chain, is_framed = self._forms.chain(spot.element)
        if is_framed or is_in_sentence(self._ground.nodes[spot.element]) or spot.element in self._logos:
            return None, False
        tile: Unit | None = None
        first: Unit | None = None
        for unit in islice(chain or (), _MOST_AROUND):
            if not spot.is_on_screen and unit.form is not ItemForm.MARKED:
                continue
            if self._read(unit).title.text and not self._is_called_by_a_part(unit):
                if tile is not None and self._are_many(tile, unit):
                    return tile, True
                if first is not None and tile is None and self._is_among_tiles(first, unit):
                    return None, False
                return unit, False
            first = first or unit
            if tile is None and self._is_tile(unit, spot):
                tile = unit
        if self._page is not None and spot.is_on_screen and self._is_of_page(self._page, spot.element):
            return self._page, False
        return tile, tile is not None

    @cached_property
    def _logos(self) -> frozenset[int]:
        """The one or two pictures at the top of a page that lead to itself, or to the front page of its site."""
        top = islice((spot.element for spot in self._ground.spots if spot.is_on_screen), _MOST_AT_TOP)
        logos = frozenset(filter(self._leads_home, top))
        return logos if len(logos) <= _SEVERAL else frozenset()

    def _leads_home(self, number: int) -> bool:
        page = self._ground.page
        href = self._ground.link_around(number, number, climb=_CLIMBED)
        url = page.resolve(href) if href else None
        if url is None:
            return False
        own = page.home if is_web(url) else page.address
        is_top = path_of(url).count("/") == 1 or not is_other_page(url, own)
        return is_top and is_front_page(url, own)

    def _is_of_page(self, page: Unit, element: int) -> bool:
        """Tell whether what stands in no item is of what the page is about, and not of other things."""
        return page.start <= element < page.end and not is_within(self._others, element)

    def _is_called_by_a_part(self, unit: Unit) -> bool:
        """Tell whether the words that a unit is called by are those of another in it, and name what that shows."""
        title = self._read(unit).title
        if title.named_by not in _BY_WORDS:
            return False
        starts = self._parts_called.get(title.text, [])
        at = bisect_left(starts, unit.start)
        ends = ((start, self._parts[start][0]) for start in starts[at : at + _FEW])
        return any(end <= unit.end and (start, end) != (unit.start, unit.end) for start, end in ends)

    @cached_property
    def _parts_called(self) -> dict[str, list[int]]:
        """Where the innermost units with a name begin that are called the same, in order."""
        starts: dict[str, list[int]] = {}
        for start, (_, title) in sorted(self._parts.items()):
            starts.setdefault(title, []).append(start)
        return starts

    def _are_many(self, tile: Unit, unit: Unit) -> bool:
        """Tell whether the tiles in a unit with a name are things of their own: very many, or each with its page."""
        ground = self._ground
        parent = ground.parent[tile.start]
        held = len(ground.photos_in(unit.start, unit.end, _FEW + 1))
        if held < _SEVERAL:
            return False
        if held > _FEW:
            return True
        pictured = ground.photos_in(parent, ground.end[parent], _FEW)
        pages = {self._address(ground.link_around(number, parent)) for number in pictured}
        return "" not in pages and len(pages) == len(pictured) >= _LEAST_TILES

    def _is_among_tiles(self, unit: Unit, outer: Unit) -> bool:
        """Tell whether a wordless unit is one of many things of their own, though its picture's words say nothing."""
        ground = self._ground
        parent = ground.parent[unit.start]
        if parent < 0 or not self._alts_differ(parent) or not self._are_many(unit, outer):
            return False
        alts = [ground.alts[number] for number in ground.photos_in(parent, ground.end[parent], _MOST_COMPARED)]
        return 2 * sum(map(says_nothing, alts)) < len(alts)

    def _is_tile(self, unit: Unit, spot: Spot) -> bool:
        """Tell whether a wordless unit is one of several that are told apart by the words of their pictures alone."""
        ground = self._ground
        if says_nothing(spot.alt) or len(ground.photos_in(unit.start, unit.end, _SEVERAL)) > 1:
            return False
        if unit.like < _LEAST_TILES and self._kin[self._kind(unit)] < _LEAST_TILES:
            return False
        parent = ground.parent[unit.start]
        if parent < 0 or ground.length(parent) > _LONGEST_BESIDE * unit.like:
            return False
        return self._alts_differ(parent)

    @cached_property
    def _embedded(self) -> dict[str, Thing]:
        """What data blocks say of the pictures that nothing but they name."""
        return things_in_data(self._ground)

    @cached_property
    def _kin(self) -> Counter[object]:
        """How many units of each kind stand right around a picture: tiles may stand in several columns."""
        chains = (self._forms.chain(spot.element)[0] for spot in self._ground.spots)
        return Counter(self._kind(unit) for unit in {chain.unit: None for chain in chains if chain is not None})

    def _alts_differ(self, parent: int) -> bool:
        """Tell whether the words of the pictures in an element differ, and do not only repeat what the page is of."""
        if parent not in self._tell_apart_by_alt:
            ground = self._ground
            alts = [ground.alts[number] for number in ground.photos_in(parent, ground.end[parent], _MOST_COMPARED)]
            is_of_page = self._page is not None and sum(self._page.name in alt for alt in alts) * 10 >= len(alts) * 7
            self._tell_apart_by_alt[parent] = not is_of_page and len(set(alts)) * 10 >= len(alts) * 7
        return self._tell_apart_by_alt[parent]

    def _read(self, unit: Unit) -> Told:
        known = self._told.get(unit)
        if known is None:
            known = self._told[unit] = read_unit(self._ground, unit, *self._links(unit))
        return known

    def _links(self, unit: Unit) -> tuple[str, str]:
        """Return where a unit's first linked picture leads, and where a link around all of the unit leads."""
        ground = self._ground
        if unit.form is ItemForm.PAGE:
            return "", ""
        pictured = ground.pictured_in(unit.start, unit.end, _FEW)
        linked = ((number, ground.link_around(number, unit.start)) for number in pictured)
        link = next((href for number, href in linked if href and not self._is_sign(number, href)), "")
        outer_link = ground.link_around(unit.start, unit.start, climb=_CLIMBED)
        return link or outer_link, outer_link

    def _is_sign(self, number: int, href: str) -> bool:
        """Tell whether a picture that stands on the page again and again leads to another site: a network's sign."""
        ground = self._ground
        home = ground.page.home
        if not is_web(home) or ground.often(number) < _SEVERAL:
            return False
        url = ground.page.resolve(href)
        return url is not None and is_web(url) and not is_of_site(url, home)

    def _item_of(self, unit: Unit, spot: Spot, *, by_alt: bool) -> Item:
        self._used[unit] = None
        if not by_alt and unit in self._items:
            return self._items[unit]
        told = self._read(unit)
        title, named_by = (spot.alt, NamedBy.ALT) if by_alt else (told.title.text, told.title.named_by)
        url = next(filter(None, map(self._address, told.addresses)), "")
        columns = tuple((label, value) for label, value in told.columns if label != title)
        item = Item(title, url, columns, unit.form, named_by, unit.place, unit.of, unit.like)
        return item if by_alt else self._items.setdefault(unit, item)

    def _of_data(self, thing: Thing, item: Item) -> Item:
        """Return an item with what a data block says of it."""
        form = item.form if item is not NO_ITEM else ItemForm.DATA
        columns = item.columns or thing.columns
        url = self._address(thing.url) or item.url
        return Item(thing.name, url, columns, form, NamedBy.PROPERTY, item.place, item.of, item.like)

    def _address(self, raw: str) -> str:
        """Return an item's own page as an absolute address; empty for a picture, a part of this page, or none."""
        page, written = self._ground.page, raw.strip()
        url = page.resolve(written) if leads_somewhere(written) else None
        if url is None:
            return ""
        _, mark, fragment = written.partition("#")
        whole = f"{url}{mark}{fragment}" if "#" not in url else url
        return whole if page.is_another(whole) else ""
