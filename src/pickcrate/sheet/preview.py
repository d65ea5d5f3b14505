"""A small picture of a picture, made by us: nothing of the original's bytes is passed on, but of SVG."""

import warnings
from dataclasses import dataclass
from io import BytesIO
from typing import TYPE_CHECKING

from pickcrate.media.header import read_header

if TYPE_CHECKING:
    from PIL.Image import Image as Picture

SIDES = (800, 560, 400, 280, 200, 140)
"""Longest sides in pixels that are tried in turn until the preview is small enough."""

_MOST_PIXELS = 120_000_000
_QUALITY = 74
_LEAST_BYTES = 0.06
"""What a pixel of a photograph takes when it is encoded with that quality."""


@dataclass(frozen=True, slots=True)
class Preview:
    """An encoded picture of at most the first of SIDES, which a browser can show."""

    media_type: str
    octets: bytes


def make_preview(octets: bytes, budget: int) -> Preview | str:
    """Return a preview of about ``budget`` bytes at most; in words why there can be none. Raises nothing.

    An SVG stays as it is: as the source of an ``img`` it can run no script and load nothing (SVG 2, 2.2.2: secure
    animated mode).
    """
    header = read_header(octets[:262_144])
    if header is None:
        return "not an image"
    if header.type == "svg":
        return Preview("image/svg+xml", octets) if len(octets) <= 4 * budget else "too large a drawing to preview"
    picture = decode(octets)
    if isinstance(picture, str):
        return picture
    preview = Preview("", b"")
    for side in SIDES:
        share = min(1.0, side / max(picture.size))
        if side > SIDES[-1] and share**2 * picture.width * picture.height * _LEAST_BYTES > budget:
            continue  # it would not fit: encoding costs more than all else
        preview = _encode(picture, side)
        if len(preview.octets) <= budget:
            break
    return preview


def decode(octets: bytes) -> "Picture | str":
    """Return the first frame, upright, at most SIDES[0] pixels wide and high; in words why it cannot be decoded."""
    from PIL import Image, ImageOps, UnidentifiedImageError  # noqa: PLC0415 (only a sheet needs it)

    Image.MAX_IMAGE_PIXELS = _MOST_PIXELS
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture = Image.open(BytesIO(octets))
            picture.draft("RGB", (SIDES[0], SIDES[0]))
            has_alpha = picture.has_transparency_data
            upright = ImageOps.exif_transpose(picture).convert("RGBA" if has_alpha else "RGB")
            upright.thumbnail((SIDES[0], SIDES[0]))
    except UnidentifiedImageError:
        return "this type cannot be previewed"
    except Image.DecompressionBombError:
        return "too many pixels to preview"
    except Exception:  # noqa: BLE001 (decoders raise what they trip over)
        return "it cannot be decoded"
    return upright


def _encode(picture: "Picture", side: int) -> Preview:
    small = picture
    if max(picture.size) > side:
        small = picture.copy()
        small.thumbnail((side, side))
    buffer = BytesIO()
    small.save(buffer, "WEBP", quality=_QUALITY, method=2)
    return Preview("image/webp", buffer.getvalue())
