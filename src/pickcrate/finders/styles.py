"""Where style stands in a page: ``style`` elements and attributes, and linked sheets (HTML standard, 4.2.6, 4.6.7)."""

from collections.abc import Iterable

from msgspec.structs import replace

from pickcrate.finders.css import StyleSheet, find_in_declarations, find_in_sheet
from pickcrate.finders.images import link_around
from pickcrate.finders.place import Finder, Place
from pickcrate.findings import Finding, Need, NeedKind
from pickcrate.values import Reference


def _find_style_element(place: Place) -> Iterable[Finding]:
    page = place.walk.page
    return find_in_sheet(
        StyleSheet(place.node.text(), page.base, page, place.prototype("css"), place.walk.effort), place.walk.numbers
    )


def _find_style_attribute(place: Place) -> Iterable[Reference | Need]:
    style = place.get("style")
    if "(" not in style:
        return ()
    page = place.walk.page
    where = place.prototype("css", cluster=place.node)
    found = list(find_in_declarations(StyleSheet(style, page.base, page, where), place.walk.numbers))
    clusters = {reference.cluster for reference in found if isinstance(reference, Reference)}
    if len(clusters) != 1:
        return found
    # One background is the element's picture: what its attributes and its link name belongs to it.
    own = [replace(item, cluster=where.cluster) if isinstance(item, Reference) else item for item in found]
    return [*own, *link_around(place, where)]


def _find_linked_sheet(place: Place) -> Iterable[Reference | Need]:
    relations = place.get("rel").lower().split()
    url = place.resolve(place.get("href"))
    if url is None or "stylesheet" not in relations or "alternate" in relations:
        return ()
    return (Need(NeedKind.SHEET, url),)


STYLE_ELEMENT = Finder(_find_style_element, tags=("style",))
STYLE_ATTRIBUTE = Finder(_find_style_attribute, attributes=("style",))
LINKED_SHEET = Finder(_find_linked_sheet, tags=("link",))
