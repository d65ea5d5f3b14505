"""The entries of feeds as items: what each is called, its own page, and what the feed says of it."""

from collections.abc import Iterable, Iterator

from lxml import etree
from msgspec import Struct

from pickcrate.addresses.url import looks_like_web
from pickcrate.elements.words import text_in
from pickcrate.read.data.xmltree import local_name
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.values.reference import fold

_MOST_FIELDS = 60
_LONGEST_FIELD = 200
"""Characters of what is said of an entry: more are its text."""

_TELL_NO_MORE = frozenset("title link guid id comments description summary content encoded body loc".split())
"""what an entry's title and address come from, counters, and its text"""

_SAID_BY_ATTRIBUTE = ("label", "term")
"""of a category (RFC 4287, 4.2.2)"""

_OF_OBJECT = ("date_published", "date_modified", "authors", "author", "tags", "language")
"""what JSON Feed 1.1 says of an item, and 1.0 said"""


class Place(Struct, frozen=True):
    """Where an entry is: which of its feed, what that is called, and the entry's own page; empty if it has none."""

    number: int
    feed: str
    page: str


def item_of_element(entry: etree._Element, title: str, place: Place) -> Item:
    """Return the item that an entry in XML is; NO_ITEM if it has no title, as in sitemaps."""
    return _item(title, place, _said_in(entry))


def item_of_object(entry: dict[str, object], place: Place) -> Item:
    """Return the item that an entry of a JSON Feed is; NO_ITEM if it has no title."""
    said = ((name, value) for name in _OF_OBJECT for value in _texts(entry.get(name)))
    return _item(str(entry.get("title") or ""), place, said)


def _item(title: str, place: Place, said: Iterable[tuple[str, str]]) -> Item:
    """Return an item; what is said in several elements of one name is put together."""
    named = text_in(title)
    if not named:
        return NO_ITEM
    columns: dict[str, list[str]] = {}
    for name, value in said:
        text = fold(value)
        is_short = 0 < len(text) <= _LONGEST_FIELD and "<" not in text
        if is_short and not looks_like_web(text) and (name in columns or len(columns) < _MOST_FIELDS):
            columns.setdefault(name, []).append(text)
    joined = tuple((name, ", ".join(dict.fromkeys(values[:_MOST_FIELDS]))) for name, values in columns.items())
    return Item(named, place.page, joined, ItemForm.POST, NamedBy.STATED, place.number, place.feed)


def _said_in(entry: etree._Element) -> Iterator[tuple[str, str]]:
    """Yield what the simple elements of an entry say, by their names as they are written."""
    for element in (child for child in entry if isinstance(child.tag, str)):  # others are comments
        name = local_name(element)
        if name.lower() in _TELL_NO_MORE:
            continue
        if len(element):  # somebody (RFC 4287, 3.2)
            yield from ((name, inner.text or "") for inner in element if str(inner.tag).endswith("}name"))
            continue
        by_attribute = (said for attribute in _SAID_BY_ATTRIBUTE if (said := element.get(attribute)))
        yield name, element.text or next(by_attribute, "")


def _texts(value: object) -> list[str]:
    """Return the texts that a value is, holds, or names somebody by."""
    values = value if isinstance(value, list) else [value]
    named = (one.get("name") if isinstance(one, dict) else one for one in values[:_MOST_FIELDS])
    return [one for one in named if isinstance(one, str)]
