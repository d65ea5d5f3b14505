"""The size of a HEIF or AVIF picture: that of its primary item, as it is shown (ISO/IEC 23008-12, ISO/IEC 14496-12)."""

import struct
from collections.abc import Iterator

_MOST_BOXES = 10_000
_LONGEST_BRANDS = 1024


def shown_size(octets: bytes) -> tuple[int, int] | None:
    """Return width and height in pixels of the primary item, with its transformations; None if they are not there.

    Any prefix of a file may be given. Raises struct.error or IndexError where a box is cut off.
    """
    meta = _find(octets, b"meta")
    if meta is None:
        return None
    inside = meta[4:]  # a full box (14496-12, 4.2): version and flags come first
    primary, properties = _find(inside, b"pitm"), _find(inside, b"iprp")
    if primary is None or properties is None:
        return None
    (item,) = struct.unpack_from(">H" if primary[0] == 0 else ">I", primary, 4)
    container = _find(properties, b"ipco")
    if container is None:
        return None
    known = list(_boxes(container))
    # What describes an item should stand before what transforms it (23008-12, 6.5.1), but cameras know no order.
    its = [known[index - 1] for index in _associated(properties, item) if 0 < index <= len(known)]
    extents = next((content for kind, content in its if kind == b"ispe"), None)
    if extents is None:
        return None
    size: tuple[int, int] = struct.unpack_from(">II", extents, 4)
    for kind, content in its:  # transformations apply in this order
        if kind == b"clap":  # 14496-12, 12.1.4
            size = _cropped(content, size)
        elif kind == b"irot" and content[0] & 1:  # 23008-12, 6.5.10
            size = size[1], size[0]
    return size


def later_part(octets: bytes) -> tuple[int, bytes] | None:
    """Return where in the file the boxes go on that are not whole here, and what a part from there must begin with.

    None if the metadata has begun: what it says in these bytes is all. Raises struct.error where a box is cut off.
    """
    (length,) = struct.unpack_from(">I", octets)
    before, at = octets[:length], length
    if not 8 <= length <= _LONGEST_BRANDS:
        return None
    for _ in range(_MOST_BOXES):
        if at + 8 > len(octets):
            break
        size, kind = struct.unpack_from(">I4s", octets, at)
        if size == 1:
            (size,) = struct.unpack_from(">Q", octets, at + 8)
        if size < 8:
            return None
        if kind == b"meta":
            break
        at += size
    return (at, before) if at > length else None


def _cropped(content: bytes, size: tuple[int, int]) -> tuple[int, int]:
    width, width_divisor, height, height_divisor = struct.unpack_from(">IIII", content)
    if not (width_divisor and height_divisor):
        return size
    sides = round(width / width_divisor), round(height / height_divisor)
    return sides if all(0 < side <= whole for side, whole in zip(sides, size, strict=True)) else size


def _associated(properties: bytes, item: int) -> Iterator[int]:
    """Yield the numbers of an item's properties (23008-12, 9.3.1), counted from one."""
    for kind, content in _boxes(properties):
        if kind != b"ipma":
            continue
        version, is_wide = content[0], bool(content[3] & 1)
        (count,) = struct.unpack_from(">I", content, 4)
        at = 8
        for _ in range(min(count, _MOST_BOXES)):
            (number,) = struct.unpack_from(">H" if version == 0 else ">I", content, at)
            at += 2 if version == 0 else 4
            associations = content[at]
            at += 1
            for _ in range(associations):
                value = struct.unpack_from(">H", content, at)[0] & 0x7FFF if is_wide else content[at] & 0x7F
                at += 2 if is_wide else 1
                if number == item:
                    yield value


def _find(octets: bytes, wanted: bytes) -> bytes | None:
    return next((content for kind, content in _boxes(octets) if kind == wanted), None)


def _boxes(octets: bytes) -> Iterator[tuple[bytes, bytes]]:
    """Yield the boxes side by side (14496-12, 4.2), with as much of their content as is there."""
    at = 0
    for _ in range(_MOST_BOXES):
        if at + 8 > len(octets):
            return
        size, kind = struct.unpack_from(">I4s", octets, at)
        start = at + 8
        if size == 1 and at + 16 <= len(octets):
            (size,) = struct.unpack_from(">Q", octets, at + 8)
            start = at + 16
        end = at + size if size else len(octets)
        if end < start:
            return
        yield kind, octets[start:end]
        at = end
