"""Pictures that a server keeps as a pyramid of tiles: their sizes, and the tiles that each size is put together of."""

from collections.abc import Iterator
from enum import Enum

from msgspec import Struct

from pickcrate.text.numerals import ceiling

MOST_TILES = 10_000
"""Of one picture: more are no picture that anybody puts together from outside."""

_MOST_TRIES = 4
"""Levels of a picture that are tried, one after the other."""


class Layout(Enum):
    """How a pyramid names its tiles; its value is what that is called."""

    IIIF_2 = "IIIF"
    """Image API 1 and 2: the size of a region is asked for as ``w,`` (2.1, 4.7 canonical URI syntax)"""
    IIIF_3 = "IIIF 3"
    """Image API 3: as ``w,h`` (3.0, 4.7)"""
    DEEP_ZOOM = "Deep Zoom"
    ZOOMIFY = "Zoomify"


class Tile(Struct, frozen=True):
    """One tile: its address, the size of its file, and where its own part lies in the picture. All in pixels.

    ``margin`` is what is left of and above its own part in the file: what its neighbours have as well.
    """

    url: str
    size: tuple[int, int]
    place: tuple[int, int]
    own: tuple[int, int]
    margin: tuple[int, int] = (0, 0)
    fullest: tuple[int, int] = (0, 0)
    """the size of a tile in the middle: some servers fill those at the edges up to it"""


class Level(Struct, frozen=True):
    """One size of a picture as a grid of tiles. ``number`` is the level's name in its layout: its scale, for IIIF."""

    layout: Layout
    root: str
    """what all addresses of its tiles begin with"""
    ending: str
    """and end with"""
    number: int
    width: int
    height: int
    tile_width: int
    tile_height: int
    overlap: int = 0
    """pixels of a neighbour that a tile has on each side"""
    before: int = 0
    """tiles of smaller levels, which Zoomify counts along"""
    stored: tuple[int, int] = (0, 0)
    """the size of the whole picture, which IIIF counts regions in"""
    version: str = ""
    """a hash of the description: tiles of another one are not of this picture"""

    def __str__(self) -> str:
        said = f"{self.tiles:,} {self.layout.value} tile{'' if self.tiles == 1 else 's'}"
        is_smaller = (self.width, self.height) != self.stored
        return f"{said} of a smaller size (it is kept in {self.stored[0]}×{self.stored[1]})" if is_smaller else said

    @property
    def columns(self) -> int:
        """Tiles side by side."""
        return ceiling(self.width, self.tile_width)

    @property
    def rows(self) -> int:
        """Tiles one below the other."""
        return ceiling(self.height, self.tile_height)

    @property
    def tiles(self) -> int:
        """How many tiles there are."""
        return self.columns * self.rows

    @property
    def pixels(self) -> int:
        """Width times height."""
        return self.width * self.height

    def plan(self) -> Iterator[Tile]:
        """Yield the tiles row by row."""
        for row in range(self.rows):
            for column in range(self.columns):
                yield self._tile(column, row)

    def _tile(self, column: int, row: int) -> Tile:
        left, top = column * self.tile_width, row * self.tile_height
        own = (min(self.tile_width, self.width - left), min(self.tile_height, self.height - top))
        margin = (min(left, self.overlap), min(top, self.overlap))
        right = min(self.overlap, self.width - left - own[0])
        below = min(self.overlap, self.height - top - own[1])
        size = (margin[0] + own[0] + right, margin[1] + own[1] + below)
        fullest = (self.tile_width + 2 * self.overlap, self.tile_height + 2 * self.overlap)
        return Tile(self._address(column, row, own), size, (left, top), own, margin, fullest)

    def _address(self, column: int, row: int, own: tuple[int, int]) -> str:
        match self.layout:
            case Layout.DEEP_ZOOM:
                return f"{self.root}{self.number}/{column}_{row}{self.ending}"
            case Layout.ZOOMIFY:
                group = (self.before + row * self.columns + column) // 256
                return f"{self.root}TileGroup{group}/{self.number}-{column}-{row}{self.ending}"
            case _:
                return f"{self.root}{self._region(column, row)}/{self._scaled(own)}{self.ending}"

    def _region(self, column: int, row: int) -> str:
        """Return the region that a tile shows, in pixels of the stored picture (Image API 3.0, 4.1; 2.1, 4.1)."""
        if self.tiles == 1:
            return "full"
        left, top = column * self.tile_width * self.number, row * self.tile_height * self.number
        width = min(self.tile_width * self.number, self.stored[0] - left)
        height = min(self.tile_height * self.number, self.stored[1] - top)
        return f"{left},{top},{width},{height}"

    def _scaled(self, own: tuple[int, int]) -> str:
        """Return the canonical size (4.7): static trees have files of these names and no others."""
        is_stored = self.tiles == 1 and self.number == 1
        if self.layout is Layout.IIIF_3:
            return "max" if is_stored else f"{own[0]},{own[1]}"
        return "full" if is_stored else f"{own[0]},"


class Whole(Struct, frozen=True):
    """A version that one request brings, with the size that it is announced to have."""

    url: str
    width: int
    height: int

    @property
    def pixels(self) -> int:
        """Width times height."""
        return self.width * self.height


class Tiling(Struct, frozen=True):
    """What a description says of one picture: where it is, the stored size, and the versions that can be had."""

    layout: Layout
    address: str
    """of the description"""
    width: int
    height: int
    levels: tuple[Level, ...] = ()
    """largest first; of one size there may be several, with larger tiles first"""
    wholes: tuple[Whole, ...] = ()
    """largest first"""

    def within(self, most_pixels: int) -> tuple[Level, ...]:
        """Return the largest levels that have no more pixels and tiles than are put together, largest first."""
        fitting = [level for level in self.levels if level.pixels <= most_pixels and level.tiles <= MOST_TILES]
        return tuple(fitting[:_MOST_TRIES])
