"""What is packed as a whole: gzip (RFC 1952), bzip2, xz and Zstandard (RFC 8878), or a ZIP of one file."""

import io
from collections.abc import Callable
from typing import Any, BinaryIO

_GZIP, _BZIP2, _XZ, _ZSTD = b"\x1f\x8b", b"BZh", b"\xfd7zXZ\0", b"\x28\xb5\x2f\xfd"
FORMATS = {_GZIP: "gzip", _BZIP2: "bzip2", _XZ: "xz", _ZSTD: "Zstandard"}
"""how such a file begins, and what it is called"""

MAGIC = tuple(FORMATS)

_ASIDE = "__MACOSX/"
"""what one system puts beside each file of a ZIP: what it knows of it besides"""

_FEW, _HEAD = 10, 65_536
_PIECE = 1_000_000
_LARGEST_WINDOW = 1 << 27
"""bytes that Zstandard may look back: more has to be asked for where a file is made, too"""


def unpacked(octets: bytes, most: int) -> tuple[bytes, bool]:
    """Return what packed data holds, ``most`` bytes and a piece at most, and whether it could be read to its end."""
    pieces: list[bytes] = []
    size = 0
    try:
        with _opened(octets) as stream:
            while size <= most and (piece := stream.read1(_PIECE)):
                pieces.append(piece)
                size += len(piece)
        is_whole = size >= _stated_size(octets)
    except Exception:  # noqa: BLE001 (each has a class of its own for what is broken)
        is_whole = False
    return b"".join(pieces), is_whole


def only_file(file: BinaryIO, most: int, is_meant: Callable[[bytes], bool]) -> bytes | None:
    """Return the one file that a ZIP holds, if its beginning is of the kind that is meant.

    None if it holds several, it is broken, or larger than ``most`` bytes.
    """
    import zipfile  # noqa: PLC0415

    try:
        archive = zipfile.ZipFile(file)
        names = archive.infolist()
        files = [info for info in names[:_FEW] if not (info.is_dir() or info.filename.startswith(_ASIDE))]
        if len(files) != 1 or len(names) > _FEW or files[0].file_size > most:
            return None
        with archive.open(files[0]) as stream:
            head = stream.read(_HEAD)
            if not is_meant(head):
                return None
            octets = head + stream.read(most + 1 - len(head))
    except Exception:  # noqa: BLE001 (zipfile raises whatever it trips over in broken bytes)
        return None
    return octets if len(octets) <= most else None


def _stated_size(octets: bytes) -> int:
    """Return how many bytes the first frame of Zstandard data says that it holds: its end is not missed otherwise."""
    if not octets.startswith(_ZSTD):
        return 0
    import zstandard  # noqa: PLC0415

    stated = zstandard.get_frame_parameters(octets).content_size
    return 0 if stated == zstandard.CONTENTSIZE_UNKNOWN else stated


def _opened(octets: bytes) -> Any:
    file = io.BytesIO(octets)
    if octets.startswith(_BZIP2):
        import bz2  # noqa: PLC0415

        return bz2.BZ2File(file)
    if octets.startswith(_XZ):
        import lzma  # noqa: PLC0415

        return lzma.LZMAFile(file)
    if octets.startswith(_ZSTD):
        import zstandard  # noqa: PLC0415

        return zstandard.ZstdDecompressor(max_window_size=_LARGEST_WINDOW).stream_reader(file, read_across_frames=True)
    import gzip  # noqa: PLC0415 (few sources are packed)

    return gzip.GzipFile(fileobj=file)
