"""What a page's JSON-LD says: the things in it by the addresses of their pictures, and what the page itself is.

JSON-LD 1.1 with the words of schema.org.
"""

from collections.abc import Iterator
from enum import Enum

from msgspec import Struct

from pickcrate.items.data.structured import (
    ARTICLES,
    MOST_FIELDS,
    MOST_OBJECTS,
    NO_THINGS,
    NOT_FIELDS,
    Thing,
    is_article,
    is_thing,
    value_of,
)
from pickcrate.items.ground import Ground
from pickcrate.items.said.junk import without_tail
from pickcrate.text.surrogates import read_json
from pickcrate.values.reference import fold

_LISTED = "listitem"
_OF_PICTURES = frozenset(("imageobject", "photograph"))
"""kinds of things that are pictures themselves"""

_NAME_KEYS = ("name", "headline", "title")
_PICTURE_KEYS = ("image", "photo", "thumbnailUrl")
_FILE_KEYS = ("contentUrl", "url", "thumbnailUrl", "@id")
_OF_FILES = frozenset("width height encodingFormat contentSize inLanguage representativeOfPage caption".split())
"""what is said of a picture's file, and is no field"""

_MOST_VALUES = 20
_DEEPEST, _MOST_TEXT = 40, 4_000_000


class Linked(Struct, frozen=True):
    """A thing in JSON-LD: of what kind it is, in lower case, what is said of it, and the addresses of its pictures."""

    kind: str
    thing: Thing
    pictures: list[str]

    @property
    def is_picture(self) -> bool:
        """Whether it is a picture itself (schema.org ImageObject), and not what one shows."""
        return self.kind in _OF_PICTURES


def linked_data(tree: Ground) -> list[Linked]:
    """Return the things with names in the JSON-LD of a page, and the pictures of which it says something."""
    objects: list[Linked] = []
    for number in tree.selected('script[type="application/ld+json"]'):
        text = tree.nodes[number].text()
        if text and len(text) <= _MOST_TEXT:
            try:
                objects.extend(_objects(read_json(text)))
            except (ValueError, RecursionError):
                continue
    return objects


def things_by_address(objects: list[Linked]) -> dict[str, Thing]:
    """Return the things of JSON-LD by the raw addresses of their pictures and of their pages; an article is a page."""
    articles = sum(entry.kind in ARTICLES for entry in objects)
    found: dict[str, Thing] = {}
    for entry in objects:
        if entry.kind in ARTICLES and articles < 2:
            continue
        for address in (*entry.pictures, *([entry.thing.url] if entry.thing.url else [])):
            found.setdefault(address, entry.thing)
    return found


def _objects(parsed: object) -> Iterator[Linked]:
    """Yield the things with names in a JSON text, from the outside in."""
    waiting: list[tuple[object, int]] = [(parsed, 0)]
    seen = 0
    while waiting and seen < MOST_OBJECTS:
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
    if kind in _OF_PICTURES:
        return _described(value, kind)
    name = next((text for key in _NAME_KEYS if isinstance(text := value.get(key), str)), "")
    pictures = [address for key in _PICTURE_KEYS for address in _addresses(value.get(key))]
    # A ListItem is a place in a list of pages; one with a picture is the thing there, written short.
    is_thing_listed = kind == _LISTED and bool(pictures)
    if not name or not kind or (kind in NO_THINGS and not is_thing_listed):
        return None
    url = value.get("url") or value.get("@id")
    return Linked(kind, Thing(fold(name), url if isinstance(url, str) else "", tuple(_fields(value))), pictures)


def _described(value: dict[str, object], kind: str) -> Linked | None:
    """Return a picture with what is said of it: called by its name, or else by its caption."""
    name, caption = (fold(said) if isinstance(said := value.get(key), str) else "" for key in ("name", "caption"))
    if not (name or caption):
        return None
    fields = tuple((label, said) for label, said in _fields(value) if label not in _OF_FILES)
    thing = Thing(name or without_tail(caption), "", fields, caption=caption)
    return Linked(kind, thing, list(_addresses(value)))


def _addresses(value: object, depth: int = 0) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, list) and depth < 3:
        for inner in value[:100]:
            yield from _addresses(inner, depth + 1)
    elif isinstance(value, dict) and depth < 3:
        for key in _FILE_KEYS:
            yield from _addresses(value.get(key), depth + 1)


def _kind(stated: object) -> str:
    """Return the first of the types that an object of JSON-LD has, without its vocabulary, in lower case."""
    first = stated[0] if isinstance(stated, list) and stated else stated
    return str(first or "").rpartition("/")[2].lower()


def _fields(value: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield the properties of an object: plain values, quantities, the names of the things that it names."""
    for key, inner in list(value.items())[:MOST_FIELDS]:
        if key == "additionalProperty":  # schema.org: PropertyValue, with its own name
            for entry in (inner if isinstance(inner, list) else [inner])[:MOST_FIELDS]:
                if isinstance(entry, dict) and (name := _said(entry.get("name"))) and (said := _quantity(entry)):
                    yield name, said
        elif not key.startswith("@") and key.lower() not in NOT_FIELDS and (said := _said(inner)):
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
        return PageKind.ARTICLE if named.kind in ARTICLES else PageKind.THING
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
    if named is not None and value_of(ground, named).casefold() != title.casefold():
        return None
    return PageKind.ARTICLE if is_article(ground, things[0]) else PageKind.THING
