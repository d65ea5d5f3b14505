"""Putting tiles together to one picture, without a seam: each tile gives its own part, at its own place.

The picture is written as its tiles are, where that type can hold it, else as PNG. JPEG is encoded with the tiles' own
tables where its blocks lie on theirs, and otherwise so that hardly anything is lost.
"""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from pickcrate.values.tiling import Level, Tile

if TYPE_CHECKING:
    from PIL.Image import Image as Raster

_LONGEST_SIDE = {"JPEG": 65_500, "WEBP": 16_383, "PNG": 1 << 30}
_BLOCK = 16
"""Pixels of a side of what JPEG encodes at a time, with its colours at half their size."""

_FINE: dict[str, dict[str, Any]] = {
    "JPEG": {"quality": 95, "subsampling": 0},
    "WEBP": {"quality": 95, "method": 4},
    "PNG": {"compress_level": 3},
}
_SAME = frozenset(("L", "RGB", "RGBA"))
_TRANSPARENT = frozenset(("RGBA", "LA", "PA", "La", "RGBa"))


def assemble(level: Level, tiles: list[Tile], path_of: Callable[[int], Path], out: BinaryIO) -> str:
    """Write the picture that ``tiles`` make to ``out``; return in words what is wrong with them, empty if nothing is.

    Raises OSError if it cannot be written.
    """
    from PIL import Image  # noqa: PLC0415 (hardly any picture comes in tiles)

    modes: set[str] = set()
    formats: set[str] = set()
    try:
        for place in range(len(tiles)):
            with Image.open(path_of(place)) as raster:
                modes.add("RGBA" if "transparency" in raster.info else raster.mode)
                formats.add(raster.format or "")
        whole = Image.new(_common(modes), (level.width, level.height))
        for place, tile in enumerate(tiles):
            with Image.open(path_of(place)) as raster:
                whole.paste(_own_part(raster, tile, whole.mode), tile.place)
    except MemoryError:
        return "more pixels than fit into memory: --max-pixels takes a smaller size"
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        return f"a tile is broken: {str(error)[:100]}"
    kind = next(iter(formats)) if len(formats) == 1 else "PNG"
    is_long = max(level.width, level.height) > _LONGEST_SIDE.get(kind, 0)
    if is_long or (kind == "JPEG" and whole.mode == "RGBA"):
        kind = "PNG"
    with Image.open(path_of(0)) as first:
        whole.save(out, kind, **_encoding(kind, level, first))
    return ""


def _common(modes: set[str]) -> str:
    """Return the mode that holds all that tiles of some modes show."""
    if len(modes) == 1 and modes <= _SAME:
        return next(iter(modes))
    if modes <= {"1", "L"}:
        return "L"
    return "RGB" if modes.isdisjoint(_TRANSPARENT) else "RGBA"


def _own_part(raster: "Raster", tile: Tile, mode: str) -> "Raster":
    left, top = tile.margin
    part = raster.crop((left, top, left + tile.own[0], top + tile.own[1]))
    return part if part.mode == mode else part.convert(mode)


def _encoding(kind: str, level: Level, first: "Raster") -> dict[str, Any]:
    """Return how to encode the whole, with the colour profile of its tiles."""
    known: dict[str, Any] = {"icc_profile": first.info["icc_profile"]} if first.info.get("icc_profile") else {}
    is_aligned = not (level.overlap or level.tile_width % _BLOCK or level.tile_height % _BLOCK)
    if kind == "JPEG" and is_aligned and first.mode in {"L", "RGB"}:
        from PIL.JpegImagePlugin import get_sampling  # noqa: PLC0415

        sampling = get_sampling(first)
        tables = getattr(first, "quantization", None)
        if tables and (sampling >= 0 or first.mode == "L"):
            return {**known, "qtables": tables, "subsampling": max(0, sampling)}
    return known | _FINE[kind]
