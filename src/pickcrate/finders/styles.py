"""Where style stands in a page: ``style`` elements and attributes, and linked sheets (HTML standard, 4.2.6, 4.6.7)."""

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from pickcrate.addresses.stems import is_stand_in
from pickcrate.addresses.url import is_drawing
from pickcrate.finders.images import in_layer, link_around
from pickcrate.finders.place import Finder, Place
from pickcrate.finders.style.css import StyleSheet, find_in_declarations, find_in_sheet, held_in, names_used
from pickcrate.values.findings import Finding, Need, NeedKind
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role

_MOST_USES = 20
"""Custom properties that one attribute uses"""


def _find_style_element(place: Place) -> Iterable[Finding]:
    page, walk = place.walk.page, place.walk
    scope = page.scopes.get(place.node.mem_id, 0)
    sheet = StyleSheet(place.node.text(), page.base, page, place.prototype(FoundIn.CSS), walk.effort, scope)
    return find_in_sheet(sheet, walk.numbers)


def _find_style_attribute(place: Place) -> Iterable[Reference | Need]:
    style = place.get("style")
    if "(" not in style:
        return ()
    page = place.walk.page
    where = place.prototype(FoundIn.CSS, cluster=place.node)
    found = list(find_in_declarations(StyleSheet(style, page.base, page, where), place.walk.numbers))
    if "--" in style:
        found += _held(place, where, style)
    clusters = {reference.cluster for reference in found if isinstance(reference, Reference)}
    if len(clusters) != 1:
        return found
    references = (item for item in found if isinstance(item, Reference))
    needs = [item for item in found if isinstance(item, Need)]
    # One background is the element's picture: what its attributes and its link name belongs to it.
    own = [replace(one, cluster=where.cluster) for one in references]
    shown = place.resolve(place.get("src")) or ""
    if is_drawing(shown) or is_stand_in(shown):  # which keeps the place, as in pages that a program saved as one file
        own = [one if is_drawing(one.url) else replace(one, role=Role.LAZY) for one in own]
    return [*own, *needs, *link_around(place, where), *in_layer(place, where)]


def _held(place: Place, where: Reference, style: str) -> Iterator[Reference]:
    """Yield the pictures that custom properties of the page's own sheets hold, and an attribute takes from those."""
    walk = place.walk
    if walk.held is None:
        walk.held = {}
        for node in walk.page.tree.css("style"):
            for one in held_in(StyleSheet(node.text(), walk.page.base, walk.page, where), walk.numbers):
                walk.held.setdefault(one.attribute, []).append(one)
    for name in names_used(style)[:_MOST_USES]:
        known = walk.held.get(name, ())
        clusters = {reference.cluster: next(walk.numbers) for reference in known}
        for one in known:
            same = replace(where, url=one.url, raw=one.raw, attribute=name, role=one.role, density=one.density)
            yield replace(same, cluster=clusters[one.cluster])


def _find_linked_sheet(place: Place) -> Iterable[Reference | Need]:
    relations = place.get("rel").lower().split()
    url = place.resolve(place.get("href"))
    if url is None or "stylesheet" not in relations or "alternate" in relations:
        return ()
    return (Need(NeedKind.SHEET, url),)


STYLE_ELEMENT = Finder(_find_style_element, tags=("style",))
STYLE_ATTRIBUTE = Finder(_find_style_attribute, attributes=("style",))
LINKED_SHEET = Finder(_find_linked_sheet, tags=("link",))
