"""The size of a JPEG, from its marker segments (ITU-T T.81, annex B)."""

import struct
from collections.abc import Iterator

_SEGMENT = struct.Struct(">BBH")
_SOF_MARKERS = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xC8, 0xCC}
_STANDALONE_MARKERS = frozenset((0x01, *range(0xD0, 0xD8)))
_LAST_MARKERS = frozenset((0xD9, 0xDA))
"""End of image, and the start of scan data: no frame header may follow"""

_MOST_SEGMENTS = 10_000
_EXIF = b"Exif\0\0"


def shown_size(octets: bytes) -> tuple[int, int] | None:
    """Return width and height in pixels as shown, by the frame header and the Exif orientation before it.

    Any prefix of a file may be given: None if the frame header is not there. Raises struct.error or IndexError where
    an Exif directory is cut off.
    """
    is_turned = False
    for at, marker, length in _segments(octets):
        if marker in _SOF_MARKERS:
            if at + 9 > len(octets):
                return None
            height, width = struct.unpack_from(">HH", octets, at + 5)
            return (height, width) if is_turned else (width, height)
        if marker == 0xE1 and octets.startswith(_EXIF, at + 4):
            is_turned = _exif_orientation(octets[at + 10 : at + 2 + length]) >= 5
    return None


def later_part(octets: bytes) -> tuple[int, bytes] | None:
    """Return where in the file the segments go on that are not here, and what a part from there must begin with.

    None if no frame header can follow.
    """
    at, before = 2, octets[:2]
    for start, marker, length in _segments(octets):
        at = start + 2 + length
        if marker in _SOF_MARKERS:
            return (start, before) if start > len(before) else None
        if marker in _LAST_MARKERS:
            return None
        if marker == 0xE1 and octets.startswith(_EXIF, start + 4):
            if at > len(octets):
                return (start, before) if start > len(before) else None
            before = octets[:2] + octets[start:at]
    return at, before


def _segments(octets: bytes) -> Iterator[tuple[int, int, int]]:
    """Yield position, marker and length of each marker segment whose first four bytes are there."""
    at = 2
    for _ in range(_MOST_SEGMENTS):
        if at + 4 > len(octets):
            return
        mark, marker, length = _SEGMENT.unpack_from(octets, at)
        if mark != 0xFF or marker == 0xFF:  # garbage between segments: decoders look for the next marker
            at = octets.find(b"\xff", at + 1)
            if at < 0:
                return
        elif marker in _STANDALONE_MARKERS:
            at += 2
        else:
            yield at, marker, length
            if marker in _LAST_MARKERS:
                return
            at += 2 + max(length, 2)


def _exif_orientation(tiff: bytes) -> int:
    """Exif 3.0, 4.6.5: tag 0x0112 of IFD0; 5 to 8 are turned by a quarter."""
    order = {b"II": "<", b"MM": ">"}.get(tiff[:2])
    if order is None or len(tiff) < 8:
        return 1
    (ifd,) = struct.unpack_from(f"{order}I", tiff, 4)
    if ifd + 2 > len(tiff):
        return 1
    (count,) = struct.unpack_from(f"{order}H", tiff, ifd)
    for entry in range(ifd + 2, min(ifd + 2 + 12 * count, len(tiff) - 11), 12):
        tag, _, _, value = struct.unpack_from(f"{order}HHIH", tiff, entry)
        if tag == 0x0112:
            return int(value)
    return 1
