"""What the first bytes of a picture say: its type, and its width and height where they are that early.

Our own reader, since Pillow wants whole files of some types and does not know SVG, HEIF or JPEG XL at all. Each
function follows the format's own document, named in its docstring. Nothing here decodes pixels.
"""

import re
import struct
from collections.abc import Callable

from msgspec import Struct

from pickcrate.media import by_media_type, heif, jpeg, tiff
from pickcrate.media.sides import Sides
from pickcrate.text.lazyre import lazy

_HEAD = 65_536
"""Bytes in which a picture says what it is."""


class Header(Struct, frozen=True):
    """A picture's type (a name of ``media.IMAGE_TYPES``) and its size in pixels as shown, where known."""

    type: str
    width: int | None = None
    height: int | None = None

    @property
    def sides(self) -> Sides | None:
        """Both sides, if both are known."""
        return Sides(self.width, self.height) if self.width and self.height else None


def sides_of(header: Header | None) -> Sides | None:
    """Return the sides of a picture, if its header is there and tells both."""
    return header.sides if header is not None else None


def read_header(octets: bytes) -> Header | None:
    """Return what the start of a file says of the picture, or None if it is no picture that we know.

    Any prefix may be given; with too few bytes the size is None. EXIF orientation is applied where it comes first.
    """
    for magic, offset, reader in _READERS:
        if octets.startswith(magic, offset):
            try:
                return reader(octets)
            except (struct.error, IndexError):
                return None
    return _svg(octets)


def is_image(media_type: str, octets: bytes) -> bool:
    """Tell whether what came is a picture: by what its server calls it, or by how it begins."""
    return by_media_type(media_type) is not None or read_header(octets[:_HEAD]) is not None


def _png(octets: bytes) -> Header:
    """PNG (W3C, third edition), 11.2.1 IHDR; also APNG."""
    if octets[12:16] == b"IHDR" and len(octets) >= 24:
        return Header("png", *struct.unpack_from(">II", octets, 16))
    return Header("png")


def _gif(octets: bytes) -> Header:
    """GIF89a, section 18: the logical screen; as wide and high as its first frame, if that is larger (section 20)."""
    if len(octets) < 13:
        return Header("gif", *struct.unpack_from("<HH", octets, 6)) if len(octets) >= 10 else Header("gif")
    width, height = struct.unpack_from("<HH", octets, 6)
    at = 13 + _colours(octets[10])
    while octets[at : at + 1] == b"!":  # section 24: an extension, in blocks
        at += 2
        while at < len(octets) and octets[at]:
            at += octets[at] + 1
        at += 1
    if octets[at : at + 1] == b"," and at + 9 <= len(octets):
        left, top, frame_width, frame_height = struct.unpack_from("<HHHH", octets, at + 1)
        width, height = max(width, left + frame_width), max(height, top + frame_height)
    return Header("gif", width or None, height or None)


def _colours(flags: int) -> int:
    """Return the bytes of a global colour table (section 19)."""
    return 3 << (flags & 7) + 1 if flags & 0x80 else 0


def _jpeg(octets: bytes) -> Header:
    return Header("jpeg", *(jpeg.shown_size(octets) or ()))


def _webp(octets: bytes) -> Header | None:
    """RFC 9649, section 2: RIFF container with a VP8X, VP8L or VP8 chunk first."""
    if octets[8:12] != b"WEBP":
        return None
    chunk = octets[12:16]
    if chunk == b"VP8X" and len(octets) >= 30:
        width = int.from_bytes(octets[24:27], "little") + 1
        return Header("webp", width, int.from_bytes(octets[27:30], "little") + 1)
    if chunk == b"VP8L" and len(octets) >= 25:
        bits = int.from_bytes(octets[21:25], "little")
        return Header("webp", (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1)
    if chunk == b"VP8 " and len(octets) >= 30:  # RFC 6386, 9.1: two bits of each are the scale
        width, height = struct.unpack_from("<HH", octets, 26)
        return Header("webp", width & 0x3FFF, height & 0x3FFF)
    return Header("webp")


def _bmp(octets: bytes) -> Header | None:
    """BITMAPINFOHEADER, also that of OS/2 in its short form, and BITMAPCOREHEADER; top down, the height is negative."""
    if len(octets) < 26:
        return None
    (size,) = struct.unpack_from("<I", octets, 14)
    if size == 12:
        return Header("bmp", *struct.unpack_from("<HH", octets, 18))
    if size != 16 and not 40 <= size <= 256:
        return None
    width, height = struct.unpack_from("<ii", octets, 18)
    return Header("bmp", abs(width), abs(height))


def _ico(octets: bytes) -> Header | None:
    """ICO and CUR directory: the largest entry counts; 0 stands for 256."""
    (count,) = struct.unpack_from("<H", octets, 4)
    entries = [octets[6 + 16 * n : 8 + 16 * n] for n in range(min(count, 64))]
    sizes = [((e[0] or 256), (e[1] or 256)) for e in entries if len(e) == 2]
    return Header("ico", *max(sizes)) if sizes else None


def _tiff(octets: bytes) -> Header:
    return Header("tiff", *tiff.shown_size(octets))


_AVIF_BRANDS = frozenset((b"avif", b"avis"))
_HEIC_BRANDS = frozenset((b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1"))


def _isobmff(octets: bytes) -> Header | None:
    """ISO/IEC 23008-12 (HEIF): brands of ``ftyp``, and the primary item's size.

    Where that is not told in these bytes: the largest ``ispe`` (image spatial extents) property, and ``irot``.
    """
    (length,) = struct.unpack_from(">I", octets, 0)
    brands = {octets[8:12], *(octets[at : at + 4] for at in range(16, min(length, len(octets), 256), 4))}
    kind = "avif" if brands & _AVIF_BRANDS else "heic" if brands & _HEIC_BRANDS else ""
    if not kind:
        return None
    try:
        if (shown := heif.shown_size(octets)) is not None:
            return Header(kind, *shown)
    except (struct.error, IndexError):
        pass  # cut off
    sizes = [
        struct.unpack_from(">II", octets, match.end() + 4)
        for match in re.finditer(rb"\x00\x00\x00\x14ispe", octets)
        if match.end() + 12 <= len(octets)
    ]
    if not sizes:
        return Header(kind)
    width, height = max(sizes, key=lambda size: size[0] * size[1])
    rotation = re.search(rb"\x00\x00\x00\x09irot(.)", octets, re.DOTALL)
    return Header(kind, height, width) if rotation and rotation[1][0] & 1 else Header(kind, width, height)


def _jp2(octets: bytes) -> Header:
    """ISO/IEC 15444-1, I.5.3.1: the image header box."""
    at = octets.find(b"ihdr", 0, 256)
    if at < 0 or at + 12 > len(octets):
        return Header("jp2")
    height, width = struct.unpack_from(">II", octets, at + 4)
    return Header("jp2", width, height)


def _j2k(octets: bytes) -> Header:
    """ISO/IEC 15444-1, A.5.1: a bare code stream, whose SIZ marker segment comes first."""
    if len(octets) < 24:
        return Header("j2k")
    right, bottom, left, top = struct.unpack_from(">IIII", octets, 8)
    return Header("j2k", right - left, bottom - top) if right > left and bottom > top else Header("j2k")


_JXL_RATIOS = {1: (1, 1), 2: (12, 10), 3: (4, 3), 4: (3, 2), 5: (16, 9), 6: (5, 4), 7: (2, 1)}
_JXL_SIZE_BITS = (9, 13, 18, 30)


def _jxl(octets: bytes) -> Header:
    """ISO/IEC 18181-1, annex D.2 (SizeHeader), in a bare codestream or in a ``jxlc`` or ``jxlp`` box."""
    start = 2
    if not octets.startswith(b"\xff\x0a"):
        box = re.search(rb"jxl[cp](?:.{4})?\xff\x0a", octets, re.DOTALL)
        if box is None:
            return Header("jxl")
        start = box.end()
    if len(octets) < start + 9:
        return Header("jxl")
    bits = int.from_bytes(octets[start : start + 10], "little")

    def take(count: int) -> int:
        nonlocal bits
        value = bits & ((1 << count) - 1)
        bits >>= count
        return value

    def side(small: int) -> int:
        return (take(5) + 1) * 8 if small else take(_JXL_SIZE_BITS[take(2)]) + 1

    small = take(1)
    height = side(small)
    ratio = _JXL_RATIOS.get(take(3))
    width = height * ratio[0] // ratio[1] if ratio else side(small)
    return Header("jxl", width, height)


_SVG_PROLOGUE = lazy(
    r"(?:\s+|<\?.*?\?>|<!--.*?-->|<!DOCTYPE(?!\s+html\b)[^\[>]*(?:\[.*?\]\s*)?>)*", re.DOTALL | re.IGNORECASE
)
_SVG_ROOT = lazy(r"<(?:[A-Za-z_][\w.-]*:)?svg(?=[\s>/])((?:[^>\"']|\"[^\"]*\"|'[^']*')*)")
_SVG_TAG = lazy(r"<(/?)(?:[A-Za-z_][\w.-]{0,99}+:)?svg(?=[\s>/])[^<>]{0,9999}+>")
_ELEMENT = lazy(r"</?[A-Za-z]")
_SVG_ATTRIBUTE = lazy(r"(?<![\w:-])(width|height|viewBox)\s*=\s*(?:\"([^\"]*)\"|'([^']*)')")
_SVG_LENGTH = lazy(
    r"\s*+((?:[0-9]++(?:\.[0-9]++)?+|\.[0-9]++)(?:[eE][+-]?[0-9]++)?+)\s*+(px|in|cm|mm|q|pt|pc)?\s*+\Z", re.IGNORECASE
)
_LONGEST_LENGTH = 100
# CSS Values and Units 4, 6.2: absolute lengths in pixels.
_PIXELS_PER_UNIT = {
    "": 1.0, "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72, "pc": 16.0,
}  # fmt: skip


def _svg(octets: bytes) -> Header | None:
    """SVG 2, 8.2 and 8.6: ``width`` and ``height`` of the root element, else the ``viewBox``.

    The root element must come first but for a prologue, and no element after it: an HTML page that holds an ``svg``
    is no picture, even if it begins with it.
    """
    if octets.startswith((b"\xfe\xff", b"\xff\xfe")):
        text = octets[:65536].decode("utf-16", "ignore")
    elif octets.startswith(b"\x1f\x8b"):
        return None
    else:
        text = octets[:65536].decode("utf-8", "ignore").removeprefix("\ufeff")
    if "svg" not in text:
        return None
    prologue = _SVG_PROLOGUE.match(text)
    root = _SVG_ROOT.match(text, prologue.end() if prologue else 0)
    if root is None or _goes_on(text, root.start()):
        return None
    attributes = {match[1]: match[2] or match[3] or "" for match in _SVG_ATTRIBUTE.finditer(root[1])}
    box = re.split(r"[\s,]+", attributes.get("viewBox", "").strip())
    sides = [_length(attributes.get("width", "")), _length(attributes.get("height", ""))]
    if len(box) == 4:
        natural = [_length(box[2]), _length(box[3])]
        if natural[0] and natural[1]:
            sides = _by_ratio(sides, natural[0] / natural[1]) if any(sides) else natural
    width, height = (round(side) if side else None for side in sides)
    return Header("svg", width, height)


def _goes_on(text: str, start: int) -> bool:
    """Tell whether an element follows that which begins at ``start``: XML 1.0, 2.1 has one root."""
    depth = 0
    for tag in _SVG_TAG.finditer(text, start):
        depth += -1 if tag[1] else not tag[0].endswith("/>")
        if depth == 0:
            behind = _SVG_PROLOGUE.match(text, tag.end())
            return _ELEMENT.match(text, behind.end() if behind else tag.end()) is not None
    return False


def _by_ratio(sides: list[float | None], ratio: float) -> list[float | None]:
    """Fill in the one side that an SVG leaves to its view box (SVG 2, 7.12 intrinsic sizing)."""
    width, height = sides
    if width is None and height is not None:
        return [height * ratio, height]
    return [width, width / ratio] if height is None and width is not None else sides


def _length(value: str) -> float | None:
    match = _SVG_LENGTH.match(value[:_LONGEST_LENGTH])
    if match is None:
        return None
    pixels = float(match[1]) * _PIXELS_PER_UNIT[(match[2] or "").lower()]
    return pixels if 0 < pixels < 1e9 else None


_READERS: tuple[tuple[bytes, int, Callable[[bytes], Header | None]], ...] = (
    (b"\xff\xd8\xff", 0, _jpeg),
    (b"\x89PNG\r\n\x1a\n", 0, _png),
    (b"GIF87a", 0, _gif),
    (b"GIF89a", 0, _gif),
    (b"RIFF", 0, _webp),
    (b"ftyp", 4, _isobmff),
    (b"II*\0", 0, _tiff),
    (b"MM\0*", 0, _tiff),
    (b"II+\0", 0, _tiff),
    (b"MM\0+", 0, _tiff),
    (b"\xff\x4f\xff\x51", 0, _j2k),
    (b"BM", 0, _bmp),
    (b"\0\0\1\0", 0, _ico),
    (b"\0\0\2\0", 0, _ico),
    (b"\xff\x0a", 0, _jxl),
    (b"\0\0\0\x0cJXL \r\n\x87\n", 0, _jxl),
    (b"\0\0\0\x0cjP  \r\n\x87\n", 0, _jp2),
)
