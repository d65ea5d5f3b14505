"""What the markup of a page says of its things: microdata, RDFa, microformats.

HTML standard, 5 (microdata); RDFa Lite 1.1; microformats2; with the words of schema.org.
"""

from collections.abc import Iterator

from msgspec import Struct

from pickcrate.items.ground import Ground
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm
from pickcrate.values.reference import fold

NO_THINGS = frozenset(
    "webpage website webpageelement wpheader wpfooter wpsidebar sitenavigationelement breadcrumb breadcrumblist "
    "listitem itemlist offer aggregateoffer aggregaterating rating review imageobject imagegallery mediaobject "
    "videoobject searchaction organization collectionpage itempage aboutpage contactpage profilepage "
    "searchresultspage offercatalog postaladdress geocoordinates quantitativevalue brand contactpoint propertyvalue "
    "monetaryamount entrypoint interactioncounter museum localbusiness store place corporation library "
    "newsmediaorganization ngo educationalorganization governmentorganization".split()
)
"""kinds of things that are a page, a part of one, or who publishes it, and not what its pictures show"""

ARTICLES = frozenset("article newsarticle blogposting report techarticle scholarlyarticle socialmediaposting".split())
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
_VALUE_OF = {"time": "datetime", "data": "value", "meter": "value"}
"""the attributes that hold the values of elements for programs"""

NOT_FIELDS = frozenset(
    "name headline title image url thumbnail thumbnailurl contenturl photo logo offers mainentityofpage "
    "itemlistelement sameas position availability itemcondition aggregaterating review description articlebody text "
    "potentialaction isrelatedto issimilarto isvariantof hasvariant".split()
)
MARKED = "[itemprop], [property], .p-name, .fn, .entry-title, .u-url, [itemscope], [typeof]"
"""what is marked up as a thing, or as a property of one"""

MOST_OBJECTS, MOST_FIELDS = 20_000, 40


class Thing(Struct, frozen=True):
    """What a page says of one thing: its name, the address of its page, and its other properties."""

    name: str = ""
    url: str = ""
    columns: tuple[tuple[str, str], ...] = ()
    is_by_key: bool = False
    """whether nothing but the key under which it stands in data is its name"""

    is_written: bool = False
    """whether its name is only how a text begins"""

    alt: str = ""
    """what data has to be said in place of its picture"""
    caption: str = ""
    """what data has to be written below its picture"""


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
    return not ARTICLES.isdisjoint(kinds) or not {"h-entry", "hentry"}.isdisjoint(
        (attributes.get("class") or "").split()
    )


def _is_listed(attributes: dict[str, str | None]) -> bool:
    """Tell whether a thing is a member of a list: the property that it is the value of says so."""
    return not _LISTING_PROPERTIES.isdisjoint((attributes.get("itemprop") or "").lower().split())


def _is_thing_kind(kinds: str) -> bool:
    names = _kinds(kinds)
    return bool(names) and NO_THINGS.isdisjoint(names)


def _kinds(types: str) -> set[str]:
    return {kind.rstrip("/").rpartition("/")[2].rpartition(":")[2].lower() for kind in types.split()}


def thing_in(tree: Ground, unit: Unit) -> Thing:
    """Return what the markup of a unit says of it; nothing of the things inside it, or once the effort is spent."""
    if len(unit.nodes) != 1 or unit.end - unit.start > MOST_OBJECTS or not tree.selected(MARKED) or tree.effort < 0:
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
    return Thing(said, url, tuple(columns.items())[:MOST_FIELDS])


class _Property(Struct, frozen=True):
    """A property that an element states, and its value; if that is a thing of its own, what it is called."""

    name: str
    element: int
    value: str
    is_thing: bool = False

    @property
    def is_field(self) -> bool:
        """Whether it is worth a column."""
        return bool(self.value) and self.name.lower() not in NOT_FIELDS and not self.name.startswith(_PREFIXES)


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
            value = value_of(tree, number)
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


def value_of(tree: Ground, number: int) -> str:
    """Return a property's value as text (HTML standard, 5.2.4): what an attribute says that is for it, else its words.

    Departs: of what leads somewhere it is the words as well, as they are seen.
    """
    attributes = tree.attributes(number)
    for name in ("content", _VALUE_OF.get(tree.tags[number], "content")):
        if (stated := attributes.get(name)) is not None:
            return fold(stated)
    return tree.text(number)
