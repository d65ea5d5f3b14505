"""A perceptual fingerprint: what a picture looks like, in few bytes, whatever its size and format.

256 bits of its low frequencies: greys of 64 × 64, their cosine transform without the first row and column, each
coefficient held against the median. More of it, a little cropped, find a crop of it or what it is a crop of; a
grid of colours tells apart what only its greys have in common. A picture with hardly any structure has none.
"""

import warnings
from collections.abc import Iterator
from io import BytesIO
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from pickcrate.errors import UsageError
from pickcrate.media import MOST_PIXELS
from pickcrate.media.header import read_header

if TYPE_CHECKING:
    from PIL.Image import Image as Raster

_VERSION = 2
BITS = 256
_BYTES = BITS // 8
_SIDE, _SMALL, _KEPT = 256, 64, 16
_GRID = 4
_BOX, SMOOTH = 4, 2
"""Pillow's filters BOX and BILINEAR. The second weighs by distance: two sizes of one picture come out alike;
with the first, fine lines of a chart move with the size."""
_LEAST_DEVIATION = 4.0
"""Standard deviation of greys, of 255, below which a picture has no structure to speak of."""

Box = tuple[float, float, float, float]
WHOLE: Box = (0, 0, _SIDE, _SIDE)


def middle(inset: float) -> Box:
    """Return the part of a picture of 256 × 256 that is left when so many pixels are cut off all around."""
    return inset, inset, _SIDE - inset, _SIDE - inset


def corners(cut: float) -> tuple[Box, ...]:
    """Return the parts that are left when so many pixels are cut off at two sides that meet."""
    rest = _SIDE - cut
    return (0, 0, rest, rest), (cut, 0, _SIDE, rest), (0, cut, rest, _SIDE), (cut, cut, _SIDE, _SIDE)


def sides(cut: float) -> tuple[Box, ...]:
    """Return the parts that are left when so many pixels are cut off at one side."""
    rest = _SIDE - cut
    return (0, 0, rest, _SIDE), (cut, 0, _SIDE, _SIDE), (0, 0, _SIDE, rest), (0, cut, _SIDE, _SIDE)


CROPS = (*(middle(inset) for inset in (3, 6, 9, 12, 15)), *corners(10), *corners(15), *corners(20), *sides(16))
"""Parts of a picture of 256 × 256: around its middle, from each corner, and without a strip at a side."""

_MANY = 1 + _BYTES * (1 + len(CROPS)) + _GRID * _GRID * 3


class Fingerprint(Struct, frozen=True):
    """What a picture looks like: the bits of the whole, those of its crops, and the colours of a grid, row by row."""

    whole: bytes
    crops: bytes
    """one after another"""
    colours: bytes

    def as_text(self) -> str:
        """Return it in hexadecimal, for a ledger."""
        return (bytes([_VERSION]) + self.whole + self.crops + self.colours).hex()

    @property
    def each_crop(self) -> Iterator[bytes]:
        """The bits of each crop."""
        return (self.crops[start : start + _BYTES] for start in range(0, len(self.crops), _BYTES))

    @property
    def bare(self) -> "Fingerprint":
        """It without its crops, in a third of the memory: for millions of them."""
        return Fingerprint(self.whole, b"", self.colours)


def from_text(text: str) -> Fingerprint | None:
    """Return the fingerprint that a text spells; None if it is none, or one of another version."""
    try:
        octets = bytes.fromhex(text)
    except ValueError:
        return None
    if len(octets) != _MANY or octets[0] != _VERSION:
        return None
    crops, colours = 1 + _BYTES, 1 + _BYTES * (1 + len(CROPS))
    return Fingerprint(octets[1:crops], octets[crops:colours], octets[colours:])


def numpy() -> Any:
    """Return NumPy. Raises UsageError without it."""
    try:
        import numpy as np  # noqa: PLC0415 (only twins need it)
    except ModuleNotFoundError:
        raise UsageError("looking for twins needs NumPy", hint="pip install 'pickcrate[alike]'") from None
    return np


def fingerprint(octets: bytes) -> Fingerprint | None:
    """Return the fingerprint of a picture's file; None if it cannot be decoded, or has no structure. Never raises.

    But for UsageError, without NumPy.
    """
    np = numpy()
    raster = raster_of(octets)
    if raster is None:
        return None
    small = raster.resize((_SIDE, _SIDE), SMOOTH)
    grey = small.convert("L")
    parts = np.stack([np.asarray(grey.resize((_SMALL, _SMALL), SMOOTH, box), np.float32) for box in (WHOLE, *CROPS)])
    if float(parts[0].std()) < _LEAST_DEVIATION:
        return None
    whole, *crops = _bits(np, parts)
    return Fingerprint(whole, b"".join(crops), small.resize((_GRID, _GRID), _BOX).tobytes())


def raster_of(octets: bytes) -> "Raster | None":
    """Return a picture in red, green and blue, not much larger than is looked at; None if it cannot be decoded.

    What it shows through is white. As it is shown: turned by its Exif orientation.
    """
    from PIL import Image, ImageOps  # noqa: PLC0415

    header = read_header(octets)
    if header is None or (header.width or 0) * (header.height or 0) > MOST_PIXELS:
        return None
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(BytesIO(octets)) as image:
                image.draft("RGB", (2 * _SIDE, 2 * _SIDE))
                turned = ImageOps.exif_transpose(image)
                if turned.mode in {"RGBA", "LA", "PA"} or "transparency" in turned.info:
                    layered = turned.convert("RGBA")
                    ground = Image.new("RGBA", layered.size, "white")
                    return Image.alpha_composite(ground, layered).convert("RGB")
                return turned.convert("RGB")
    except Exception:  # noqa: BLE001 (a picture may be made to trip up any decoder)
        return None


_COSINES: list[Any] = []


def _bits(np: Any, greys: Any) -> list[bytes]:
    """Return the bits of small grey pictures (DCT-II; the coefficients of frequencies 1 to 16 in both directions)."""
    if not _COSINES:
        places = (2 * np.arange(_SMALL) + 1)[None, :] * np.arange(1, _KEPT + 1)[:, None]
        _COSINES.append(np.cos(places * np.pi / (2 * _SMALL)).astype(np.float32))
    cosines = _COSINES[0]
    found = (cosines @ greys @ cosines.T).reshape(len(greys), BITS)
    return [row.tobytes() for row in np.packbits(found > np.median(found, axis=1, keepdims=True), axis=1)]
