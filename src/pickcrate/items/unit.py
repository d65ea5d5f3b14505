"""A unit: a part of a page that may be an item, before it is known what it is called."""

from collections.abc import Iterator

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.values.item import ItemForm, NamedBy


class Unit(Struct, frozen=True):
    """A part of a page that may be an item: the elements and texts that it is made of, and what it is.

    ``start`` and ``end`` are the numbers of its first element and of the one after its last.
    """

    form: ItemForm
    nodes: tuple[LexborNode, ...]
    start: int
    end: int
    place: int = 0
    """which it is of its like, from 1; 0 if it is not counted"""
    of: str = ""
    """what it is one of: a table's caption"""
    name: str = ""
    """what its place gives it for a name: a row's header cell"""
    named_by: NamedBy = NamedBy.HEADER_CELL
    columns: tuple[tuple[str, str], ...] = ()
    like: int = 1
    """how many there are of its kind, itself among them"""

    __eq__, __hash__ = object.__eq__, object.__hash__  # two that read the same are still two


class Chain(Struct, frozen=True):
    """The units that a place lies in, the innermost first."""

    unit: Unit
    outer: "Chain | None" = None

    def __iter__(self) -> Iterator[Unit]:
        link: Chain | None = self
        while link is not None:
            yield link.unit
            link = link.outer
