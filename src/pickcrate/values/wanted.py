"""What an order wants of a page: which part of it, and what is to be found there besides."""

from enum import StrEnum

from msgspec import Struct

from pickcrate.text.expression import Expression


class Region(Struct, frozen=True):
    """Parts of a page: elements that CSS selectors select, or what texts introduce. Both: where they overlap."""

    within: tuple[str, ...] = ()
    under: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.within or self.under)

    def __str__(self) -> str:
        within = (f"--within {selector!r}" for selector in self.within)
        return " ".join((*within, *(f"--under {text!r}" for text in self.under)))


NOWHERE = Region()


class Asked(Struct, frozen=True):
    """``--raw`` patterns (the first group counts, if there is one) and ``--attr`` names."""

    patterns: tuple[Expression, ...] = ()
    attributes: frozenset[str] = frozenset()
    sought: str = ""
    """a part of an address that somebody asks about: where it is mentioned and passed over is to be said"""


class Unsure(StrEnum):
    """What becomes of a picture that a criterion cannot decide on."""

    SETTLE = "settle"
    """its first bytes, and in the end its file, are asked; what cannot be known is kept"""
    KEEP = "keep"
    DROP = "drop"


class Again(StrEnum):
    """What becomes of pictures that the crate has already."""

    SKIP = "skip"
    REFRESH = "refresh"
    """those that changed are fetched, as far as their servers tell"""
    REPLACE = "replace"
    """all are fetched, and those that were moved or deleted are put back"""


class KnownItems(StrEnum):
    """What becomes of the own pages of items that the crate has pictures from."""

    VISIT = "visit"
    SKIP = "skip"
