"""A small picture of a picture, made by us: nothing of the original's bytes is passed on, but of SVG."""

from contextlib import nullcontext
from io import BytesIO
from math import ceil
from threading import Lock
from typing import TYPE_CHECKING

from msgspec import Struct

from pickcrate.media import MANY_PIXELS, MOST_PIXELS
from pickcrate.media.header import read_header

if TYPE_CHECKING:
    from PIL.Image import Image as Picture

SIDES = (800, 560, 400, 280, 200, 140)
"""Longest sides in pixels that are tried in turn until the preview is small enough."""

_LARGE = Lock()
"""held while a picture of many pixels is decoded"""

_NEARLY = 0.8
"""Of the side that is wanted, what a preview may have as well."""

_QUALITY = 74
_LEAST_BYTES = 0.06
"""What a pixel of a photograph takes when it is encoded with that quality."""


class Preview(Struct, frozen=True):
    """An encoded picture of at most the first of SIDES, which a browser can show."""

    media_type: str
    octets: bytes


def make_preview(octets: bytes, budget: int) -> Preview | str:
    """Return a preview of about ``budget`` bytes at most; in words why there can be none. Raises nothing.

    An SVG stays as it is: as the source of an ``img`` it can run no script and load nothing (SVG 2, 2.2.2: secure
    animated mode).
    """
    header = read_header(octets)
    if header is None:
        return "not an image"
    pixels = (header.width or 0) * (header.height or 0)
    if header.type != "svg" and pixels > MOST_PIXELS:
        return "too many pixels to preview"
    if header.type == "svg":
        return Preview("image/svg+xml", octets) if len(octets) <= 4 * budget else "too large a drawing to preview"
    sides = _fitting(header.width or SIDES[0], header.height or SIDES[0], budget)
    with _LARGE if pixels > MANY_PIXELS else nullcontext():
        picture = decode(octets, sides[0])
    if isinstance(picture, str):
        return picture
    preview = Preview("", b"")
    for side in sides:
        preview = _encode(picture, side)
        if len(preview.octets) <= budget:
            break
    return preview


def _fitting(width: int, height: int, budget: int) -> tuple[int, ...]:
    """Return those of SIDES that may fit: encoding what does not costs more than all else."""
    for at, side in enumerate(SIDES):
        share = min(1.0, side / max(width, height))
        if share**2 * width * height * _LEAST_BYTES <= budget:
            return SIDES[at:]
    return SIDES[-1:]


def decode(octets: bytes, side: int = SIDES[0]) -> "Picture | str":
    """Return the first frame, upright, at most ``side`` pixels wide and high; in words why it cannot be decoded."""
    from PIL import Image, ImageOps, UnidentifiedImageError  # noqa: PLC0415 (only a sheet needs it)

    try:
        picture: Picture = Image.open(BytesIO(octets))
        if picture.width * picture.height > MOST_PIXELS:  # what the header's reader could not tell
            return "too many pixels to preview"
        # A JPEG is decoded to a half, a quarter or an eighth: where that is nearly as large, it is not shrunk again.
        share = min(1.0, _NEARLY * side / max(picture.size))
        picture.draft("RGB", (ceil(picture.width * share), ceil(picture.height * share)))
        mode = "RGBA" if picture.has_transparency_data else "RGB"
        # Shrunk first where the mode allows it: a copy of all pixels less. Colours of a palette do not mix.
        small = picture if picture.mode in {"RGB", "L", "RGBA", "LA", "CMYK"} else picture.convert(mode)
        small.thumbnail((side, side), Image.Resampling.HAMMING)  # as sharp as bicubic, in half of the time
        upright = ImageOps.exif_transpose(small).convert(mode)
    except UnidentifiedImageError:
        return "this type cannot be previewed"
    except Exception:  # noqa: BLE001 (decoders raise what they trip over)
        return "it cannot be decoded"
    return upright


def _encode(picture: "Picture", side: int) -> Preview:
    from PIL import Image  # noqa: PLC0415

    small = picture
    if max(picture.size) > side:
        small = picture.copy()
        small.thumbnail((side, side), Image.Resampling.HAMMING)
    buffer = BytesIO()
    small.save(buffer, "WEBP", quality=_QUALITY, method=0)  # the others take twice the time for a tenth of the size
    return Preview("image/webp", buffer.getvalue())
