"""The tiles of a picture on their way, kept in the crate until it is put together: a broken run goes on from them."""

import shutil
import time
from collections.abc import Iterator
from hashlib import sha256
from pathlib import Path

from pickcrate.crate.incoming import write
from pickcrate.crate.places import Places
from pickcrate.media import MOST_PIXELS
from pickcrate.media.header import read_header
from pickcrate.values.tiling import Level, Tile

_KEPT_SECONDS = 7 * 24 * 3600
"""After that what a broken run left is fetched anew: the picture may be another by now."""


class TileFolder:
    """The tiles of one grid that are there."""

    def __init__(self, places: Places, level: Level) -> None:
        """Open the folder, making it if it is not there. Raises OSError."""
        self.key = sha256(repr(level).encode()).hexdigest()
        self._folder = places.tiles / self.key[:32]
        self._folder.mkdir(parents=True, exist_ok=True)
        self._there = {int(path.name) for path in self._folder.iterdir() if path.name.isdecimal()}
        self.tiles = list(level.plan())

    @property
    def left(self) -> int:
        """How many tiles are not there yet."""
        return len(self.tiles) - len(self._there)

    def missing(self) -> Iterator[tuple[int, Tile]]:
        """Yield the tiles that are not there, with their places in the grid."""
        for place, tile in enumerate(self.tiles):
            if place not in self._there:
                yield place, tile

    def put(self, place: int, octets: bytes) -> None:
        """Keep a tile: whole, or not at all. Raises OSError."""
        beside = self._folder / "beside"
        write(str(beside), octets, None)
        beside.replace(self.path(place))
        self._there.add(place)

    def path(self, place: int) -> Path:
        """Return where a tile is kept."""
        return self._folder / str(place)

    def drop(self) -> None:
        """Delete the tiles."""
        shutil.rmtree(self._folder, ignore_errors=True)
        self._there.clear()


def drop_forgotten(places: Places) -> None:
    """Delete tiles of broken runs that nobody went on with for a week. Raises OSError."""
    if not places.tiles.is_dir():
        return
    now = time.time()
    for folder in places.tiles.iterdir():
        if folder.is_symlink() or not folder.is_dir():
            folder.unlink()
        elif now - folder.stat().st_mtime > _KEPT_SECONDS:
            shutil.rmtree(folder, ignore_errors=True)


def unfit(tile: Tile, octets: bytes) -> str:
    """Return in words why what came is not the tile that was asked for; empty if it is.

    Every tile is measured: servers list sizes that they do not send. At the edges of a picture some fill tiles up to
    their full size; what is beyond the edge is cut off.
    """
    header = read_header(octets)
    if header is None:
        return "not an image"
    sides = header.sides
    if sides is None or sides.pixels > MOST_PIXELS:
        return f"a tile cannot be {header.width or '?'}×{header.height or '?'}"
    compared = zip(sides, tile.size, tile.fullest, strict=True)
    if all(side == wanted or wanted < side <= fullest for side, wanted, fullest in compared):
        return ""
    return f"{sides.width}×{sides.height} came instead of {tile.size[0]}×{tile.size[1]}"
