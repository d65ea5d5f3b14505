"""Whether two pictures are twins: by their fingerprints first, then by what is seen of both, side by side.

A fingerprint alone would take two charts with one frame for twins: before anything is dropped, both pictures are
laid over each other and no part may differ by more than encoding and scaling do.
"""

from collections.abc import Callable
from enum import Enum
from itertools import product
from typing import TYPE_CHECKING, Any, cast

from msgspec import Struct

from pickcrate.twins.fingerprint import SMOOTH, WHOLE, Box, Fingerprint, corners, middle, numpy, raster_of, sides

if TYPE_CHECKING:
    from PIL.Image import Image as Raster

TWINS = 19
"""Of 256 bits: up to so many differ between twins."""

PERHAPS = 40
"""Up to so many, a person is to look: nothing is dropped."""

_COLOURS = 18.0
"""Mean difference of the colours of the grid, of 255."""

_SIDE = 128
_BLOCKS = 16
_MOST_MEAN, _MOST_MEAN_OF_CROP = 5.0, 3.5
_MOST_IN_BLOCK, _MOST_IN_BLOCK_OF_CROP = 26.0, 15.0
"""Mean difference over all, and over the block that differs most, of 255; a crop may be laid where it fits best."""


_COARSE, _MOST_COARSE, _MOST_PLACES = 24, 14.0, 4
_STEPS = (1.0, 0.5, 0.25)
_PATTERN, _MOST_REPEATED = 64, 0.8
_BLOCKS, _PLAIN, _LEAST_DRAWN = 16, 8.0, 0.1
"""Of blocks in a row, those whose greys deviate more are drawn on; with a smaller share of them a picture is sparse."""
_PARTS = (*map(middle, range(1, 19, 1)), *(box for cut in range(6, 30, 2) for box in (*corners(cut), *sides(cut))))
"""Crops that are laid over a whole picture, finer than those that have fingerprints."""


class Likeness(Enum):
    """How alike two pictures are."""

    TWINS = "twins"
    PERHAPS = "perhaps"
    DIFFERENT = "different"


def distance(one: Fingerprint, other: Fingerprint) -> int:
    """Return how many bits differ: of both wholes, or of one with the other a little cropped."""
    pairs = [(one.whole, other.whole)]
    pairs += [(one.whole, crop) for crop in other.each_crop] + [(crop, other.whole) for crop in one.each_crop]
    return min(_closest(*pair) for pair in pairs)


def _closest(one: bytes, other: bytes) -> int:
    return (int.from_bytes(one) ^ int.from_bytes(other)).bit_count()


def by_fingerprint(one: Fingerprint, other: Fingerprint) -> Likeness:
    """Return how alike two pictures are, as far as their fingerprints tell."""
    colours = sum(abs(a - b) for a, b in zip(one.colours, other.colours, strict=True)) / len(one.colours)
    bits = distance(one, other)
    if bits > PERHAPS or colours > _COLOURS:
        return Likeness.DIFFERENT
    return Likeness.TWINS if bits <= TWINS else Likeness.PERHAPS


class View(Struct, frozen=True):
    """A picture as it is laid over others: 256 pixels wide and high, whatever its shape."""

    raster: "Raster"
    half: int
    """of its shorter side, in pixels"""


def view_of(octets: bytes) -> View | None:
    """Return what is seen of a picture's file; None if it cannot be decoded."""
    raster = raster_of(octets)
    return View(raster.resize((256, 256), SMOOTH), min(raster.size) // 2) if raster is not None else None


def look_the_same(one: bytes, other: bytes) -> bool:
    """Tell whether two pictures' files look the same; see ``are_seen_alike``."""
    return are_seen_alike(view_of(one), view_of(other))


def are_seen_alike(one: View | None, other: View | None) -> bool:
    """Tell whether two pictures look the same when they are laid over each other, one of them perhaps cropped.

    The finer one is seen no finer than half of the coarser: else scaling would look like a difference.
    """
    if one is None or other is None:
        return False
    side = max(16, min(_SIDE, one.half, other.half))
    rasters = [one.raster, other.raster]
    if _is_close(*(_seen(raster, WHOLE, side) for raster in rasters)):
        return True
    if any(_repeats(raster) or _is_sparse(raster) for raster in rasters):
        return False
    return any(_is_crop_of(small, large, side) for small, large in (rasters, rasters[::-1]))


def _is_crop_of(small: "Raster", large: "Raster", side: int) -> bool:
    """Tell whether one picture is the other, a little cropped.

    Where it may lie is looked for coarsely, and only the likeliest places are looked at in full.
    """
    part = _seen(small, WHOLE, _COARSE)

    def apart(box: Box) -> float:
        return float(abs(part - _seen(large, box, _COARSE)).mean())

    likeliest = sorted((apart(box), box) for box in _PARTS)[:_MOST_PLACES]
    return any(
        coarse <= _MOST_COARSE
        and _is_close(_seen(small, WHOLE, side), _seen(large, _fitted(apart, box), side), is_crop=True)
        for coarse, box in likeliest
    )


def _seen(raster: "Raster", box: Box, pixels: int) -> Any:
    return numpy().asarray(raster.resize((pixels, pixels), SMOOTH, box), "float32")


def _repeats(raster: "Raster") -> bool:
    """Tell whether a picture is one pattern over and over, as stripes are: a crop of it may be one of any like it.

    That is, whether it looks like itself some way off (autocorrelation of its greys, by the lag).
    """
    np = numpy()
    greys = np.asarray(raster.convert("L").resize((_PATTERN, _PATTERN), SMOOTH), np.float64)
    spectrum = np.fft.rfft2(greys - greys.mean(), (2 * _PATTERN, 2 * _PATTERN))
    sums = np.fft.irfft2(abs(spectrum) ** 2)
    lags = np.minimum(np.arange(2 * _PATTERN), 2 * _PATTERN - np.arange(2 * _PATTERN))
    overlap = np.outer(_PATTERN - lags, _PATTERN - lags) / _PATTERN**2
    far = np.hypot(*np.meshgrid(lags, lags)) >= _PATTERN // 4
    looked_at = far & (overlap >= 0.3)
    return bool((sums[looked_at] / overlap[looked_at]).max() >= _MOST_REPEATED * sums[0, 0])


def _is_sparse(raster: "Raster") -> bool:
    """Tell whether a picture is little more than a plain ground, as an icon of one shape: others are a crop of it."""
    greys = numpy().asarray(raster.convert("L"), "float32")
    blocks = greys.reshape(_BLOCKS, 256 // _BLOCKS, _BLOCKS, 256 // _BLOCKS).std(axis=(1, 3))
    return bool((blocks > _PLAIN).mean() < _LEAST_DRAWN)


def _fitted(apart: Callable[[Box], float], box: Box) -> Box:
    """Return a box with its edges moved to where both pictures fit best.

    A crop's edge seldom falls where one was looked for, and in a fine texture half a pixel is seen.
    """
    best = apart(box)
    for step in _STEPS:
        for edge, move in product(range(4), (-step, step)):
            edges = list(box)
            edges[edge] = min(256.0, max(0.0, edges[edge] + move))
            moved = cast(Box, tuple(edges))
            if (found := apart(moved)) < best:
                best, box = found, moved
    return box


def _is_close(one: Any, other: Any, *, is_crop: bool = False) -> bool:
    """Tell whether two arrays of pixels differ nowhere by more than encoding and scaling do."""
    difference = abs(one - other).mean(axis=2)
    if difference.mean() > (_MOST_MEAN_OF_CROP if is_crop else _MOST_MEAN):
        return False
    side = difference.shape[0]
    blocks = min(_BLOCKS, side // 4)
    edge = side // blocks * blocks
    parts = difference[:edge, :edge].reshape(blocks, side // blocks, blocks, side // blocks).mean(axis=(1, 3))
    return bool(parts.max() <= (_MOST_IN_BLOCK_OF_CROP if is_crop else _MOST_IN_BLOCK))
