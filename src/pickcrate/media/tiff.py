"""The size of a TIFF, from its first directory (TIFF 6.0, section 2).

BigTIFF, whose magic number is 43, has offsets and counts of eight bytes.
"""

import struct
from typing import NamedTuple

_WIDTH, _HEIGHT, _ORIENTATION = 256, 257, 274
_SHORT, _LONG8 = 3, 16


class _Layout(NamedTuple):
    """How a file writes its numbers."""

    order: str
    is_big: bool

    @property
    def offset(self) -> struct.Struct:
        return struct.Struct(self.order + ("Q" if self.is_big else "I"))

    @property
    def offset_at(self) -> int:
        return 8 if self.is_big else 4


def shown_size(octets: bytes) -> tuple[int | None, int | None]:
    """Return width and height in pixels as shown; None for what the first directory does not say in these bytes.

    Raises struct.error where the file is cut off before it says where its directory is.
    """
    layout = _layout(octets)
    order, is_big = layout
    (directory,) = layout.offset.unpack_from(octets, layout.offset_at)
    head, each = (8, 20) if is_big else (2, 12)
    if directory + head > len(octets):
        return None, None
    (count,) = struct.unpack_from(f"{order}{'Q' if is_big else 'H'}", octets, directory)
    values: dict[int, int] = {}
    for entry in range(directory + head, min(directory + head + each * count, len(octets) - each + 1), each):
        tag, kind = struct.unpack_from(f"{order}HH", octets, entry)
        form = {_SHORT: "H", _LONG8: "Q"}.get(kind, "I") if is_big else "H" if kind == _SHORT else "I"
        (values[tag],) = struct.unpack_from(order + form, octets, entry + (12 if is_big else 8))
    width, height = values.get(_WIDTH), values.get(_HEIGHT)
    return (height, width) if values.get(_ORIENTATION, 1) >= 5 else (width, height)


def later_part(octets: bytes) -> tuple[int, bytes] | None:
    """Return where in the file its directory is, and what a part from there must begin with; None if it is here.

    Raises struct.error where the file is cut off.
    """
    layout = _layout(octets)
    at, offset = layout.offset_at, layout.offset
    (directory,) = offset.unpack_from(octets, at)
    start = at + offset.size
    return (directory, octets[:at] + offset.pack(start)) if directory > start else None


def _layout(octets: bytes) -> _Layout:
    return _Layout("<" if octets[:2] == b"II" else ">", is_big=b"+" in octets[2:4])
