"""What an address says of the size of its picture: ``kite-300x200.jpg``, ``thumbs/kite.jpg``, ``kite_tn.jpg``.

Numbers alone say nothing here: ``plate-640`` may be the plate behind ``plate-639``. Nor do words that may be of the
thing itself (``sled-small``). Sides in a folder's name count before a file with a name that is hardly any other's
(``300x200/red-delta-1962.jpg``): services for placeholders have addresses of little else. Of servers that are numbered
(``img2.kites.example``) one has what the other has.
"""

from math import inf

from msgspec import Struct

from pickcrate.addresses.ranks import STAND_IN, UNSAID, names_any, rank
from pickcrate.addresses.url import file_parts, origin, path_of
from pickcrate.text.lazyre import lazy

_WORDS = "thumbs?|thumbnails?|tn|orig|originals?|lowres|hires"
_SIDES = r"\d{2,4}x\d{2,4}|w\d{2,4}[-_x]?h\d{2,4}"
_SIDE = r"\d{3,4}(?:px|x)"  # lamp-300w may be of 300 watts, and car-w124 a model
_BEHIND = lazy(rf"[-_.@]({_WORDS}|(?:{_SIDES})(?:px)?|{_SIDE})\Z")
_BEFORE = lazy(rf"\A({_WORDS}|{_SIDES}|{_SIDE})[-_.](?=.*[a-z])")
_SIZES = f"{_WORDS}|small|mini|medium|large|big|full|fullsize|preview|xs|sm|md|xl"
_FOLDER, _SIDED_FOLDER = lazy(_SIZES), lazy(rf"{_SIZES}|{_SIDES}|{_SIDE}|\d{{3,4}}w|w\d{{3,4}}")
_OF_ITS_OWN = lazy(r"(?=.*\d).{5}|.{8}")
_NUMBERED_SERVER = lazy(r"(://[a-z]+)\d{1,2}(?=\.[\w-]+\.)")
_NUMBERED = lazy(r"\d{3}")
_LETTERS = lazy(r"[a-z]+")
_BOTH_SIDES = lazy(r"w?(\d+)[-_xh]+(\d+)")
_ONE_SIDE = lazy(r"w?(\d+)(?:w|px|x)?\Z")
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
    name = file_parts(address)[0].lower()
    if len(name) > _LONGEST or rank(name) == STAND_IN:  # placeholders are made in any size
        return SizedName(address)
    marks: list[str] = []
    for expression in (*[_BEHIND] * _MOST_MARKS, _BEFORE):
        match = expression.search(name)
        if match is not None and len(name) > len(match[0]):
            marks.append(match[1])
            name = name[: match.start()] + name[match.end() :]
    folders = path_of(address).lower().split("/")[:-1]
    if names_any(name) and rank(name) != UNSAID and any(map(_NUMBERED.search, folders)):  # /plates/8496/large.jpg
        marks.append(name)
        name = _LETTERS.sub("", name)
    of_size = _SIDED_FOLDER if _OF_ITS_OWN.match(name) else _FOLDER
    marks += [folder for folder in folders if of_size.fullmatch(folder)]
    server = _NUMBERED_SERVER.sub(r"\1", origin(address), count=1)
    bare = "/".join([server, *(folder for folder in folders if not of_size.fullmatch(folder)), name])
    bare += "?" + address.partition("?")[2]
    if (pixels := next(filter(None, map(_pixels, marks)), 0)) > 0:
        return SizedName(bare, UNSAID, pixels)
    words = [rank(mark) for mark in marks]
    return SizedName(bare, min(words), 0) if words else SizedName(bare)


def _pixels(mark: str) -> int:
    """Return how many pixels a mark says: of one side those of a square; 0 if it says none."""
    if (sides := _BOTH_SIDES.match(mark)) is not None:
        return int(sides[1]) * int(sides[2])
    side = _ONE_SIDE.match(mark)
    return int(side[1]) ** 2 if side is not None else 0
