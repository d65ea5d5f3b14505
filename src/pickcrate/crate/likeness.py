"""Whether a picture that came may be the one that a page shows smaller: as far as their greys can tell."""

from io import BytesIO
from math import sqrt

from pickcrate.media import MOST_PIXELS
from pickcrate.media.header import Header, read_header, sides_of
from pickcrate.media.sides import Sides
from pickcrate.media.whole import header_of_file

_SIDE = 24
"""Pixels of the greys that are compared."""

_DRAFT = 160
_LEAST_ALIKE = 0.75
"""Correlation below which two pictures are not one: of re-encoded and scaled ones it is over 0.9."""

_SURELY_ALIKE = 0.9
_LEAST_CONTRAST = 4.0
"""Standard deviation of greys, of 255, below which a picture shows too little to tell it from others."""

_SPACER = Sides(1, 1)
_CENTRES = (1.0, 0.9, 0.8, 0.7)
"""Parts of a picture, around its middle, that a thumbnail of it may show."""

Greys = tuple[float, ...]


def unlike(path: str, shown: bytes | str) -> str:
    """Return in words why the picture in a file cannot be what ``shown`` shows smaller, bytes or the path of a file.

    Empty if it may be.

    It may not be smaller on either side; of the same shape it must look alike. Another shape is that of a thumbnail
    that shows a part, which greys cannot tell. Of what cannot be decoded nothing is said.
    """
    known, header = _header(shown), _header(path)
    smaller, larger = sides_of(known), sides_of(header)
    if smaller is None or larger is None or _are_drawn(known, header) or smaller == _SPACER:
        return ""
    if larger.is_smaller_than(smaller):
        return f"smaller than what is shown, {smaller.width}×{smaller.height}"
    if not larger.is_of_one_shape_with(smaller) or larger.pixels > MOST_PIXELS:
        return ""
    thumbnail = _greys(shown, (1.0,))
    parts = _greys(path, _CENTRES)
    if not thumbnail or not parts:
        return ""
    alike = max(_correlation(thumbnail[0], part) for part in parts)
    return "" if alike >= _LEAST_ALIKE else "another picture than the one that is shown"


def shows_more(larger: bytes, smaller: bytes) -> bool:
    """Tell whether one picture is a larger version of another, both seen whole and alike."""
    known, sides = sides_of(read_header(smaller)), sides_of(read_header(larger))
    if known is None or sides is None or sides.pixels > MOST_PIXELS:
        return False
    is_larger = sides.width > known.width and sides.height > known.height
    if not (is_larger and sides.is_of_one_shape_with(known)):
        return False
    greys = _greys(smaller, (1.0,)) + _greys(larger, (1.0,))
    return len(greys) == 2 and _correlation(*greys) >= _SURELY_ALIKE


def _header(source: str | bytes) -> Header | None:
    if isinstance(source, bytes):
        return read_header(source)
    with open(source, "rb") as file:  # noqa: PTH123 (a path as text)
        return header_of_file(file)


def _are_drawn(*headers: Header | None) -> bool:
    """Tell whether one of them is a drawing, which has no pixels of its own."""
    return any(header is not None and header.type == "svg" for header in headers)


def _greys(source: str | bytes, parts: tuple[float, ...]) -> list[Greys]:
    """Return the greys of parts of a picture around its middle; none of what shows too little, or cannot be decoded."""
    from PIL import Image, ImageOps  # noqa: PLC0415 (only where something is believed)

    try:
        with Image.open(BytesIO(source) if isinstance(source, bytes) else source) as picture:
            picture.draft("L", (_DRAFT, _DRAFT))
            grey = ImageOps.exif_transpose(picture).convert("LA").convert("L")
            found = []
            for part in parts:
                left, top = grey.width * (1 - part) / 2, grey.height * (1 - part) / 2
                box = (left, top, grey.width - left, grey.height - top)
                found.append(tuple(map(float, grey.resize((_SIDE, _SIDE), Image.Resampling.BOX, box).tobytes())))
    except Exception:  # noqa: BLE001 (decoders raise what they trip over)
        return []
    return [greys for greys in found if _deviation(greys) >= _LEAST_CONTRAST]


def _deviation(greys: Greys) -> float:
    mean = sum(greys) / len(greys)
    return sqrt(sum((grey - mean) ** 2 for grey in greys) / len(greys))


def _correlation(one: Greys, other: Greys) -> float:
    """Return Pearson's correlation of two pictures' greys: 1 for the same but for brightness and contrast."""
    mean, other_mean = sum(one) / len(one), sum(other) / len(other)
    product = sum((a - mean) * (b - other_mean) for a, b in zip(one, other, strict=True)) / len(one)
    return product / (_deviation(one) * _deviation(other))
