"""What a page itself says of its things: microdata, RDFa, microformats, and JSON-LD matched by address.

HTML standard, 5 (microdata); RDFa Lite 1.1; microformats2; JSON-LD 1.1 with the words of schema.org.
"""

import json
from collections.abc import Iterator
from enum import Enum

from msgspec import Struct

from pickcrate.items.ground import Ground
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm
from pickcrate.values.reference import fold

# Kinds of things that are a page, a part of one, or who publishes it, and not what its pictures show.
_LISTED = "listitem"
_NO_THINGS = frozenset(
    "webpage website webpageelement wpheader wpfooter wpsidebar sitenavigationelement breadcrumb breadcrumblist "
    "listitem itemlist offer aggregateoffer aggregaterating rating review imageobject imagegallery mediaobject "
    "videoobject searchaction organization collectionpage itempage aboutpage contactpage profilepage "
    "searchresultspage offercatalog postaladdress geocoordinates quantitativevalue brand contactpoint propertyvalue "
    "monetaryamount entrypoint interactioncounter museum localbusiness store place corporation library "
    "newsmediaorganization ngo educationalorganization governmentorganization".split()
)
_ARTICLES = frozenset("article newsarticle blogposting report techarticle scholarlyarticle socialmediaposting".split())
_LISTING_PROPERTIES = frozenset(
    "itemlistelement item mainentity haspart isrelatedto issimilarto employee member blogpost".split()
)
_MICROFORMATS = frozenset(
    "h-card h-entry h-product h-item h-event h-recipe h-resume h-review h-listing hproduct hentry vcard hrecipe vevent "
    "hlisting".split()
)
_MICROFORMAT_PROPERTIES = frozenset(("p-name", "fn", "entry-title", "u-url", "p-summary"))
_NAMES = ("name", "headline", "title", "p-name", "fn", "entry-title", "summary")
_PREFIXES = ("p-", "u-", "fn", "entry-")
_ADDRESSES = ("url", "u-url", "mainEntityOfPage", "sameAs")
_MOST_VALUES = 20
_VALUE_OF = {"time": "datetime", "data": "value", "meter": "value"}
"""the attributes that hold the values of elements for programs"""

_NOT_FIELDS = frozenset(
    "name headline title image url thumbnail thumbnailurl contenturl photo logo offers mainentityofpage "
    "itemlistelement sameas position availability itemcondition aggregaterating review description articlebody text "
    "potentialaction isrelatedto issimilarto isvariantof hasvariant".split()
)
MARKED = "[itemprop], [property], .p-name, .fn, .entry-title, .u-url, [itemscope], [typeof]"
"""what is marked up as a thing, or as a property of one"""

_NAME_KEYS = ("name", "headline", "title")
_PICTURE_KEYS = ("image", "photo", "thumbnailUrl")
_DEEPEST, _MOST_OBJECTS, _MOST_FIELDS, _MOST_TEXT = 40, 20_000, 40, 4_000_000


class Thing(Struct, frozen=True):
    """What a page says of one thing: its name, the address of its page, and its other properties."""

    name: str = ""
    url: str = ""
    columns: tuple[tuple[str, str], ...] = ()
    is_by_key: bool = False
    """whether nothing but the key under which it stands in data is its name"""

    is_written: bool = False
    """whether its name is only how a text begins"""


NO_THING = Thing()


def is_thing(tree: Ground, number: int) -> bool:
    """Tell whether an element is marked up as a thing of its own."""
    attributes = tree.attributes(number)
    if "itemscope" in attributes:
        is_value = "itemprop" in attributes and not _is_listed(attributes)
        return not is_value and _is_thing_kind(attributes.get("itemtype") or "")
    if attributes.get("typeof"):
        return _is_thing_kind(attributes.get("typeof") or "")
    classes = attributes.get("class")
    return bool(classes) and not _MICROFORMATS.isdisjoint((classes or "").split())


def is_article(tree: Ground, number: int) -> bool:
    """Tell whether an element is marked up as a text: an article, an entry of a blog."""
    attributes = tree.attributes(number)
    kinds = _kinds(f"{attributes.get('itemtype') or ''} {attributes.get('typeof') or ''}")
    return not _ARTICLES.isdisjoint(kinds) or not {"h-entry", "hentry"}.isdisjoint(
        (attributes.get("class") or "").split()
    )


def _is_listed(attributes: dict[str, str | None]) -> bool:
    """Tell whether a thing is a member of a list: the property that it is the value of says so."""
    return not _LISTING_PROPERTIES.isdisjoint((attributes.get("itemprop") or "").lower().split())


def _is_thing_kind(kinds: str) -> bool:
    names = _kinds(kinds)
    return bool(names) and _NO_THINGS.isdisjoint(names)


def _kinds(types: str) -> set[str]:
    return {kind.rstrip("/").rpartition("/")[2].rpartition(":")[2].lower() for kind in types.split()}


def thing_in(tree: Ground, unit: Unit) -> Thing:
    """Return what the markup of a unit says of it; nothing of the things inside it, or once the effort is spent."""
    if len(unit.nodes) != 1 or unit.end - unit.start > _MOST_OBJECTS or not tree.selected(MARKED) or tree.effort < 0:
        return NO_THING
    name = url = ""
    columns: dict[str, str] = {}
    for stated in _stated(tree, unit):
        if not name and not stated.is_thing and stated.name in _NAMES:
            name = tree.text(stated.element) or stated.value
        elif not url and not stated.is_thing and stated.name in _ADDRESSES:
            url = tree.attribute(stated.element, "href") or tree.attribute(stated.element, "content")
        elif stated.is_field:
            columns.setdefault(stated.name, stated.value)
    said, title = fold(name), unit.name.casefold()
    if unit.form is ItemForm.PAGE and said and not (said.casefold() in title or title in said.casefold()):
        return NO_THING  # another thing on the page
    return Thing(said, url, tuple(columns.items())[:_MOST_FIELDS])


class _Property(Struct, frozen=True):
    """A property that an element states, and its value; if that is a thing of its own, what it is called."""

    name: str
    element: int
    value: str
    is_thing: bool = False

    @property
    def is_field(self) -> bool:
        """Whether it is worth a column."""
        return bool(self.value) and self.name.lower() not in _NOT_FIELDS and not self.name.startswith(_PREFIXES)


def _stated(tree: Ground, unit: Unit) -> Iterator[_Property]:
    """Yield the properties of a unit; an offer's are its own, those of other things in it are not."""
    is_microformat = not _MICROFORMATS.isdisjoint(tree.attribute(unit.start, "class").split())
    skip = unit.start
    for number in _marked(tree, unit, is_microformat=is_microformat):
        tree.effort -= 1
        if number < skip:
            continue
        properties = _properties(tree.attributes(number), is_microformat=is_microformat)
        is_scope = _is_scope(tree, number)
        if not properties:
            if is_scope and _is_of_the_page(tree, number):
                skip = tree.end[number]
        elif is_scope and any(name.lower() == "offers" for name in properties):
            skip = number + 1
        elif is_scope:
            skip = tree.end[number]
            yield _Property(properties[0], number, _name_inside(tree, number), is_thing=True)
        else:
            value = _value(tree, number)
            yield from (_Property(name, number, value) for name in properties)


def _is_scope(tree: Ground, number: int) -> bool:
    attributes = tree.attributes(number)
    return "itemscope" in attributes or bool(attributes.get("typeof"))


def _is_of_the_page(tree: Ground, number: int) -> bool:
    """Tell whether a scope is no part of what it stands in, but says of the page what it is, or whose it is."""
    attributes = tree.attributes(number)
    return not _is_thing_kind(f"{attributes.get('itemtype') or ''} {attributes.get('typeof') or ''}")


def _properties(attributes: dict[str, str | None], *, is_microformat: bool) -> list[str]:
    """Return the properties that an element has the value of, without their vocabularies."""
    stated = f"{attributes.get('itemprop') or ''} {attributes.get('property') or ''}".split()
    properties = [entry.rpartition(":")[2] for entry in stated]
    if is_microformat:
        properties += [name for name in (attributes.get("class") or "").split() if name in _MICROFORMAT_PROPERTIES]
    return properties


def _marked(tree: Ground, unit: Unit, *, is_microformat: bool) -> Iterator[int]:
    if is_microformat:
        yield from sorted(
            {
                *tree.within(unit.start, "[itemprop], [property]"),
                *tree.within(unit.start, ".p-name, .fn, .entry-title, .u-url"),
            }
        )
    else:
        yield from tree.within(unit.start, "[itemprop], [property], [itemscope], [typeof]")


def _name_inside(tree: Ground, number: int) -> str:
    """Return what the thing is called that is the value of a property: a brand, a maker."""
    named = tree.within(number, "[itemprop=name], [property=name]", most=1)
    return (tree.attribute(named[0], "content") or tree.text(named[0])) if named else tree.text(number)


def _value(tree: Ground, number: int) -> str:
    """Return a property's value as text (HTML standard, 5.2.4): what an attribute says that is for it, else its words.

    Departs: of what leads somewhere it is the words as well, as they are seen.
    """
    attributes = tree.attributes(number)
    for name in ("content", _VALUE_OF.get(tree.tags[number], "content")):
        if (stated := attributes.get(name)) is not None:
            return fold(stated)
    return tree.text(number)


class Linked(Struct, frozen=True):
    """A thing in JSON-LD: of what kind it is, in lower case, what is said of it, and the addresses of its pictures."""

    kind: str
    thing: Thing
    pictures: list[str]


def linked_data(tree: Ground) -> list[Linked]:
    """Return the things with names in the JSON-LD of a page."""
    objects: list[Linked] = []
    for number in tree.selected('script[type="application/ld+json"]'):
        text = tree.nodes[number].text()
        if text and len(text) <= _MOST_TEXT:
            try:
                objects.extend(_objects(json.loads(text)))
            except (ValueError, RecursionError):
                continue
    return objects


def things_by_address(objects: list[Linked]) -> dict[str, Thing]:
    """Return the things of JSON-LD by the raw addresses of their pictures and of their pages; an article is a page."""
    articles = sum(entry.kind in _ARTICLES for entry in objects)
    found: dict[str, Thing] = {}
    for entry in objects:
        if entry.kind in _ARTICLES and articles < 2:
            continue
        for address in (*entry.pictures, *([entry.thing.url] if entry.thing.url else [])):
            found.setdefault(address, entry.thing)
    return found


def _objects(parsed: object) -> Iterator[Linked]:
    """Yield the things with names in a JSON text, from the outside in."""
    waiting: list[tuple[object, int]] = [(parsed, 0)]
    seen = 0
    while waiting and seen < _MOST_OBJECTS:
        value, depth = waiting.pop()
        seen += 1
        if depth > _DEEPEST:
            continue
        if isinstance(value, list):
            waiting.extend((inner, depth + 1) for inner in reversed(value))
        elif isinstance(value, dict):
            waiting.extend((inner, depth + 1) for inner in reversed(value.values()) if isinstance(inner, dict | list))
            if (linked := _linked(value)) is not None:
                yield linked


def _linked(value: dict[str, object]) -> Linked | None:
    """Return the thing that an object of JSON-LD is, if it is one and has a name."""
    kind = _kind(value.get("@type"))
    name = next((text for key in _NAME_KEYS if isinstance(text := value.get(key), str)), "")
    pictures = [address for key in _PICTURE_KEYS for address in _addresses(value.get(key))]
    # A ListItem is a place in a list of pages; one with a picture is the thing there, written short.
    is_thing_listed = kind == _LISTED and bool(pictures)
    if not name or not kind or (kind in _NO_THINGS and not is_thing_listed):
        return None
    url = value.get("url") or value.get("@id")
    return Linked(kind, Thing(fold(name), url if isinstance(url, str) else "", tuple(_fields(value))), pictures)


def _addresses(value: object, depth: int = 0) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, list) and depth < 3:
        for inner in value[:100]:
            yield from _addresses(inner, depth + 1)
    elif isinstance(value, dict) and depth < 3:
        for key in ("contentUrl", "url", "thumbnailUrl", "@id"):
            yield from _addresses(value.get(key), depth + 1)


def _kind(stated: object) -> str:
    """Return the first of the types that an object of JSON-LD has, without its vocabulary, in lower case."""
    first = stated[0] if isinstance(stated, list) and stated else stated
    return str(first or "").rpartition("/")[2].lower()


def _fields(value: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield the properties of an object: plain values, quantities, the names of the things that it names."""
    for key, inner in list(value.items())[:_MOST_FIELDS]:
        if key == "additionalProperty":  # schema.org: PropertyValue, with its own name
            for entry in (inner if isinstance(inner, list) else [inner])[:_MOST_FIELDS]:
                if isinstance(entry, dict) and (name := _said(entry.get("name"))) and (said := _quantity(entry)):
                    yield name, said
        elif not key.startswith("@") and key.lower() not in _NOT_FIELDS and (said := _said(inner)):
            yield key, said


def _said(value: object) -> str:
    """Return a value of JSON-LD as words: of several all, of a thing its name."""
    if isinstance(value, list):
        return ", ".join(filter(None, (_said(inner) for inner in value[:_MOST_VALUES] if not isinstance(inner, list))))
    if isinstance(value, dict):
        return _said(value["name"]) if isinstance(value.get("name"), str) else _quantity(value)
    return fold(str(value)) if isinstance(value, str | int | float) and not isinstance(value, bool) else ""


def _quantity(value: dict[str, object]) -> str:
    """Return a schema.org QuantitativeValue or PropertyValue as words, with its unit."""
    amount, unit = value.get("value"), value.get("unitText") or value.get("unitCode")
    said = _said(amount) if not isinstance(amount, dict | list) else ""
    return f"{said} {unit}" if said and isinstance(unit, str) else said


class PageKind(Enum):
    """What a page says that it is (Open Graph protocol, ``og:type``)."""

    ARTICLE = "a text"
    THING = "the page of one thing"


def page_kind(ground: Ground, objects: list[Linked], title: str) -> PageKind | None:
    """Return what a page with a title says that it is; None if it says nothing of use."""
    named = next((entry for entry in objects if entry.thing.name.casefold() == title.casefold()), None)
    if named is not None:
        return PageKind.ARTICLE if named.kind in _ARTICLES else PageKind.THING
    for number in ground.selected("meta[property='og:type']"):
        kind = ground.attribute(number, "content").strip().lower()
        if kind in {"article", "blog"}:
            return PageKind.ARTICLE
        if kind.startswith(("product", "og:product", "book", "profile", "music.", "video.")):
            return PageKind.THING
    return _kind_of_marked(ground, title)


def _kind_of_marked(ground: Ground, title: str) -> PageKind | None:
    """Return what the one thing that a page marks up says that the page is, if that is not called otherwise."""
    things = [number for number in ground.selected("[itemscope], [typeof]") if is_thing(ground, number)]
    if len(things) != 1:
        return None
    named = next(iter(ground.within(things[0], "[itemprop=name], [property=name]")), None)
    if named is not None and _value(ground, named).casefold() != title.casefold():
        return None
    return PageKind.ARTICLE if is_article(ground, things[0]) else PageKind.THING
