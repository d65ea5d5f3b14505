"""The names of an archive's members: what those mean of which it does not say that they are UTF-8.

ZIP: APPNOTE 4.4.4, appendix D. A tar has bytes (POSIX.1-2017, ustar), whatever their writer's code page was.
"""

import struct
import zlib
from collections.abc import Callable, Iterable, Sequence
from urllib.parse import unquote
from zipfile import ZipInfo

from pickcrate.read.pages.decode import decode

_IS_UTF8 = 0x800
_UNICODE_PATH = 0x7075
_CODE_PAGES = "cp437 cp850 cp866 cp1252 cp1251 cp1250 shift_jis gb18030 big5 euc_kr cp1253 cp1255 cp1256".split()
_MOST_TRIED = 50
_MOST_TEXT = 1_000_000


def names_of(members: Sequence[ZipInfo], pages: Callable[[], Iterable[bytes]]) -> dict[ZipInfo, str]:
    """Return the path of each member: UTF-8, what the archive itself adds in Unicode, or a code page.

    Of code pages the one is meant by whose names most of the references in ``pages`` lead somewhere.
    """
    names: dict[ZipInfo, str] = {}
    unknown: dict[ZipInfo, bytes] = {}
    for member in members:
        if member.flag_bits & _IS_UTF8 or member.orig_filename.isascii():
            names[member] = member.filename
            continue
        octets = member.orig_filename.encode("cp437", "replace")  # as zipfile has decoded it
        name = _as_utf8(octets) or _unicode_path(member, octets)
        if name:
            names[member] = name
        else:
            unknown[member] = octets
    return names | dict(zip(unknown, _by_code_page(list(unknown.values()), pages), strict=True))


def in_unicode(names: Sequence[str], pages: Callable[[], Iterable[bytes]]) -> list[str]:
    """Return the names of a tar's members, of which tarfile escapes the bytes that are not UTF-8, in Unicode."""
    escaped = {name: name.encode("utf-8", "surrogateescape") for name in names if not name.isprintable()}
    unknown = {name: octets for name, octets in escaped.items() if not _as_utf8(octets)}
    known = dict(zip(unknown, _by_code_page(list(unknown.values()), pages), strict=True))
    return [known.get(name, name) for name in names]


def _by_code_page(names: list[bytes], pages: Callable[[], Iterable[bytes]]) -> list[str]:
    if not names:
        return []
    code_page = _code_page(names[:_MOST_TRIED], pages())
    return [octets.decode(code_page, "replace") for octets in names]


def _as_utf8(octets: bytes) -> str:
    try:
        return octets.decode("utf-8")
    except UnicodeDecodeError:
        return ""


def _unicode_path(member: ZipInfo, octets: bytes) -> str:
    """Return the name in the Unicode path field (APPNOTE 4.6.9), if it was written for this name."""
    extra = member.extra
    while len(extra) >= 4:
        kind, size = struct.unpack_from("<HH", extra)
        field, extra = extra[4 : 4 + size], extra[4 + size :]
        if kind == _UNICODE_PATH and len(field) > 5 and field[0] == 1:
            (crc,) = struct.unpack_from("<I", field, 1)
            return _as_utf8(field[5:]) if crc == zlib.crc32(octets) else ""
    return ""


def _code_page(names: Sequence[bytes], pages: Iterable[bytes]) -> str:
    texts = [decode(page[:_MOST_TEXT]).text for page in pages]
    said = "\n".join((*texts, *map(unquote, texts)))

    def found(code_page: str) -> int:
        return sum(_last(name, code_page) in said for name in names)

    return max(_CODE_PAGES, key=found)  # the first of equals


def _last(name: bytes, code_page: str) -> str:
    """Return the last part of a path; what no page says where the bytes are none of that code page's."""
    try:
        return name.decode(code_page).replace("\\", "/").rpartition("/")[2]
    except UnicodeDecodeError:
        return "\0"
