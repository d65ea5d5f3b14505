"""Whether two pictures are twins: by their fingerprints first, then by what is seen of both, side by side.

A fingerprint alone would take two charts with one frame for twins: before anything is dropped, both pictures are
laid over each other and no part may differ by more than encoding and scaling do.
"""

from enum import Enum
from typing import Any

from pickcrate.twins.fingerprint import Box, Fingerprint, corners, middle, numpy, raster_of

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
_WHOLE: Box = (0, 0, 256, 256)
_PARTS = (*map(middle, range(1, 19, 1)), *(box for cut in range(6, 30, 2) for box in corners(cut)))
"""Crops that are laid over a whole picture, finer than those that have fingerprints."""


class Likeness(Enum):
    """How alike two pictures are."""

    TWINS = "twins"
    PERHAPS = "perhaps"
    DIFFERENT = "different"


def distance(one: Fingerprint, other: Fingerprint) -> int:
    """Return how many bits differ: of both wholes, or of one with the other a little cropped."""
    pairs = [(one.whole, other.whole)]
    pairs += [(one.whole, crop) for crop in other.crops] + [(crop, other.whole) for crop in one.crops]
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


def look_the_same(one: bytes, other: bytes) -> bool:
    """Tell whether two pictures' files look the same when they are laid over each other, one of them perhaps cropped.

    The finer one is seen no finer than the coarser: else scaling would look like a difference.
    """
    np = numpy()
    rasters = [raster_of(octets) for octets in (one, other)]
    if any(raster is None for raster in rasters):
        return False
    sides = [raster.size for raster in rasters if raster is not None]
    side = max(16, min(_SIDE, *(min(size) for size in sides)))
    large = [raster.resize((256, 256), 4) for raster in rasters if raster is not None]
    pairs = [(_WHOLE, _WHOLE), *((_WHOLE, part) for part in _PARTS), *((part, _WHOLE) for part in _PARTS)]

    def seen(boxes: tuple[Box, Box], pixels: int) -> list[Any]:
        views = (raster.resize((pixels, pixels), 4, box) for raster, box in zip(large, boxes, strict=True))
        return [np.asarray(view, np.float32) for view in views]

    # Where the two may lie over each other is looked for coarsely, and only the likeliest places in full.
    coarse = [float(abs(np.subtract(*seen(boxes, _COARSE))).mean()) for boxes in pairs]
    likeliest = sorted(range(len(pairs)), key=coarse.__getitem__)[:_MOST_PLACES]
    return any(
        coarse[place] <= _MOST_COARSE and _is_close(*seen(pairs[place], side), is_crop=place > 0) for place in likeliest
    )


def _is_close(one: Any, other: Any, *, is_crop: bool) -> bool:
    """Tell whether two arrays of pixels differ nowhere by more than encoding and scaling do."""
    difference = abs(one - other).mean(axis=2)
    if difference.mean() > (_MOST_MEAN_OF_CROP if is_crop else _MOST_MEAN):
        return False
    side = difference.shape[0]
    blocks = min(_BLOCKS, side // 4)
    edge = side // blocks * blocks
    parts = difference[:edge, :edge].reshape(blocks, side // blocks, blocks, side // blocks).mean(axis=(1, 3))
    return bool(parts.max() <= (_MOST_IN_BLOCK_OF_CROP if is_crop else _MOST_IN_BLOCK))
