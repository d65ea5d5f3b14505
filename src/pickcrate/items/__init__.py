"""What stands around the pictures of a page: the items that they belong to, their sections' headings, their captions.

An item is the smallest repeated part that holds a picture. A part is one where the page says so (tables, lists,
articles, markup of things) or where it repeats; it is the innermost that has a name, as a person would call it. What
has no name, and what only interrupts a text, is none.
"""

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.items.captions import captions_of
from pickcrate.items.ground import Ground
from pickcrate.items.naming import Naming
from pickcrate.items.said.sentences import is_in_sentence
from pickcrate.items.sections import headings_of
from pickcrate.values.findings import Piece
from pickcrate.values.item import Item
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference, Words


def itemised(page: Page, references: Iterable[Reference], pieces: Iterable[Piece] = ()) -> list[Reference]:
    """Return the references of one page, each with its picture's item, heading and caption.

    ``pieces`` are the documents inside it.
    """
    references = list(references)
    if not references:
        return references
    told = _told_in(page, references)
    for piece in pieces:
        for cluster, more in _told_in(piece.page, piece.references).items():
            own = told.get(cluster)
            told[cluster] = more if own is None else replace(more, item=_item(own.item, more.item))
    return [_with(reference, told.get(reference.cluster)) for reference in references]


def _item(own: Item, more: Item) -> Item:
    """Return the item of a picture in a piece: that from the data around it, or else its own."""
    if not own.title:
        return more
    return replace(own, url=own.url or more.url) if own.title == more.title else own


class _Told(Struct, frozen=True):
    """What the page around a picture says of it."""

    item: Item
    heading: str
    caption: str
    alt: str
    """what data has to be said in its place"""
    is_framed: bool
    is_in_sentence: bool


def _told_in(page: Page, references: Iterable[Reference]) -> dict[int, _Told]:
    """Return what one document says of its pictures, by their clusters."""
    ground = Ground(page, references)
    if not ground.spots:
        return {}
    naming = Naming(ground)
    items = naming.items()
    places = [spot.element for spot in ground.spots if spot.is_on_screen]
    headings = headings_of(ground, places, naming.titled())
    captions = captions_of(ground)
    told: dict[int, _Told] = {}
    for spot in ground.spots:
        said = naming.said_of(spot)
        told[spot.cluster] = _Told(
            items[spot.cluster],
            headings.get(spot.element, ""),
            captions.get(spot.element, "") if spot.is_on_screen else said.caption,
            said.alt,
            naming.is_framed(spot),
            is_in_sentence(ground.nodes[spot.element]),
        )
    return told


def _with(reference: Reference, told: _Told | None) -> Reference:
    if told is None:
        return reference
    words = reference.words
    alt, caption = words.alt or told.alt, words.caption or told.caption
    if (words.alt, words.caption, words.heading) != (alt, caption, told.heading):
        words = Words(alt, words.title, caption, told.heading, words.link_text)
    return replace(reference, item=told.item, words=words, is_framed=told.is_framed, is_in_sentence=told.is_in_sentence)
