"""Items: the smallest repeated parts of a page that hold its pictures, what a person would call them, and sections.

A part is an item where the page says so (tables, lists, articles, markup of things) or where it repeats; it is the
innermost that has a name. What has no name, and what only interrupts a text, is none.
"""

from collections.abc import Iterable

from msgspec.structs import replace

from pickcrate.item import Item
from pickcrate.items.ground import Ground
from pickcrate.items.naming import Naming
from pickcrate.items.sections import headings_of
from pickcrate.values import Page, Reference, Words


def itemised(page: Page, references: Iterable[Reference]) -> list[Reference]:
    """Return the references of one page, each with the item that its picture belongs to, and its section's heading."""
    references = list(references)
    if not references:
        return references
    ground = Ground(page, references)
    if not ground.spots:
        return references
    naming = Naming(ground)
    items = naming.items()
    places = [spot.element for spot in ground.spots if spot.is_on_screen]
    headings = headings_of(ground, places, naming.titled())
    told = {
        spot.cluster: (items[spot.cluster], headings.get(spot.element, ""), naming.is_framed(spot))
        for spot in ground.spots
    }
    return [_with(reference, told) for reference in references]


def _with(reference: Reference, told: dict[int, tuple[Item, str, bool]]) -> Reference:
    if reference.cluster not in told:
        return reference
    item, heading, is_framed = told[reference.cluster]
    words = reference.words
    if words.heading != heading:
        words = Words(words.alt, words.title, words.caption, heading, words.link_text)
    return replace(reference, item=item, words=words, is_framed=is_framed)
