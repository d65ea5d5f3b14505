"""What an address says of the size of its picture: ``kite-300x200.jpg``, ``thumbs/kite.jpg``, ``kite_large.jpg``.

Numbers alone say nothing here: ``plate-640`` may be the plate behind ``plate-639``.
"""

from math import inf

from msgspec import Struct

from pickcrate.addresses import last_segment, origin, path_of, split_extension
from pickcrate.lazyre import lazy
from pickcrate.ranks import SMALL, UNSAID, rank

_WORDS = "thumbs?|thumbnails?|tn|th|small|mini|previews?|medium|large|big|full|fullsize|orig|originals?"
_LETTERS = "st"
_SIDES = r"\d{2,4}x\d{2,4}"
_BEHIND = lazy(rf"[-_.@]({_WORDS}|[{_LETTERS}]|{_SIDES}(?:px)?)\Z")
_BEFORE = lazy(rf"\A({_WORDS}|[{_LETTERS}])[-_.]")
_FOLDER = lazy(rf"{_WORDS}|{_SIDES}")
_BOTH_SIDES = lazy(r"(\d+)x(\d+)")
_LEAST_PIXELS = 10_000
"""Of the larger of two: two smaller numbers may be of something else."""

_MOST_MARKS = 4
_LONGEST = 300


class SizedName(Struct, frozen=True):
    """An address without what marks a size in it, and how large the marks say that its picture is."""

    bare: str
    rank: int = UNSAID
    """by words; ranks.UNSAID without any"""
    pixels: float = inf
    """by width and height; 0 where only words tell, infinite where nothing does: so are originals named"""

    def is_smaller_than(self, other: "SizedName") -> bool:
        """Tell whether the names say that this is the other picture, smaller. Words and sides are not compared."""
        if self.bare != other.bare:
            return False
        if self.pixels and other.pixels:
            return self.pixels < other.pixels >= _LEAST_PIXELS
        if {self.pixels, other.pixels} <= {0, inf}:
            return self.rank < other.rank
        return False


def sized_name(address: str) -> SizedName:
    """Return what an absolute address says of its picture's size."""
    name = split_extension(last_segment(address))[0].lower()
    if len(name) > _LONGEST:
        return SizedName(address)
    marks: list[str] = []
    for expression in (*[_BEHIND] * _MOST_MARKS, _BEFORE):
        match = expression.search(name)
        if match is not None and len(name) > len(match[0]):
            marks.append(match[1])
            name = name[: match.start()] + name[match.end() :]
    folders = path_of(address).lower().split("/")[:-1]
    marks += [folder for folder in folders if _FOLDER.fullmatch(folder)]
    bare = "/".join([origin(address), *(folder for folder in folders if not _FOLDER.fullmatch(folder)), name])
    bare += "?" + address.partition("?")[2]
    sides = [match for mark in marks if (match := _BOTH_SIDES.match(mark)) is not None]
    if sides:
        return SizedName(bare, UNSAID, int(sides[0][1]) * int(sides[0][2]))
    words = [SMALL if mark in _LETTERS else rank(mark) for mark in marks]
    return SizedName(bare, min(words), 0) if words else SizedName(bare)
