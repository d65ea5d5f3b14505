"""A web archive: WARC 1.0 and 1.1 (ISO 28500), plain or gzipped. Every image response is a picture.

Bodies are not held: a record is read again, where it stands in the archive, when its body is asked for. Crawls are
stopped and disks fill up, so an archive may be damaged anywhere: reading goes on with the next record that begins.
"""

import io
import re
import zlib
from collections.abc import Iterator
from contextlib import redirect_stderr
from functools import partial
from typing import Any, BinaryIO

from msgspec import Struct, field

from pickcrate.addresses.url import absolute
from pickcrate.media.header import is_image
from pickcrate.read.fields.coding import contents
from pickcrate.read.fields.contenttype import PAGE_TYPES, content_type
from pickcrate.read.reading import Document, Open, Reading, StoredBody
from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn

_RECORD = lazy(rb"WARC/[01]\.\d+\r?\n")
_MEMBER = lazy(rb"\x1f\x8b\x08[\x00-\x1f]")
"""where a gzip member may begin (RFC 1952, 2.3.1): the upper flags are reserved"""

_MOST_DAMAGES = 1_000
_MOST_FALSE_STARTS = 10_000
_MOST_READ_AGAIN = 4
"""How many times the archive's size may be read again behind damages: a record may claim any length."""

_PIECE = 65_536
_BLOCK, _PACKED_BLOCK = 1_048_576, 16_384
"""Bytes that are read at a time: a line without an end costs the square of how often, and packed ones may be a bomb."""

_GZIP = b"\x1f\x8b"
_HEAD = 256


class _Recorded(Struct):
    """What an archive's records have said so far."""

    reading: Reading
    open: Open
    limit: int
    by_digest: dict[str, str] = field(default_factory=dict)
    """addresses by the digest that their records give of the body"""
    revisits: list[tuple[str, str, str]] = field(default_factory=list)
    """an address that was recorded without its body; the address that has it, or the digest of it"""


def read_warc(open_archive: Open, limit: int, reading: Reading | None = None) -> Reading:
    """Return what an archive recorded, behind what another one did, if that is given; what is damaged is a flaw.

    ``open_archive`` opens it, each time anew. Of bodies over ``limit`` bytes nothing is taken.
    """
    reading = Reading(complete=True) if reading is None else reading
    recorded = _Recorded(reading, _in_records(open_archive, limit, reading), limit)
    with redirect_stderr(io.StringIO()):  # warcio writes there what it thinks of a broken record
        damages = _read_records(recorded)
    if damages:
        more = f", the first of {len(damages):,} places" if len(damages) > 1 else ""
        words = f"the archive is damaged at byte {damages[0]:,}{more}: the records that are whole were read"
        reading.flaws.append(Flaw("archive", words))
    for url, original, digest in recorded.revisits:
        _add_revisit(reading, url, original or recorded.by_digest.get(digest, ""))
    return reading


def _in_records(open_archive: Open, limit: int, reading: Reading) -> Open:
    """Return what opens an archive that is plain, or gzipped record by record.

    One that was gzipped as a whole can be read from its beginning only: it is unpacked.
    """
    with open_archive() as file:
        unpacker, unpacked = zlib.decompressobj(31), bytearray()
        piece = file.read(_PIECE)
        if not piece.startswith(_GZIP):
            return open_archive
        try:
            while piece and not unpacker.eof and len(unpacked) <= limit:
                unpacked += unpacker.decompress(piece, limit + 1 - len(unpacked))
                piece = unpacker.unconsumed_tail or file.read(_PIECE)
        except zlib.error:
            return open_archive
    if piece or unpacker.unused_data:
        if not unpacker.eof:
            reading.flaws.append(Flaw("archive", "it is compressed in one piece, which is larger than --max-file"))
        return open_archive
    return partial(io.BytesIO, bytes(unpacked))


def _read_records(recorded: _Recorded) -> list[int]:
    """Take all records; return where the archive is damaged, in bytes from its start."""
    damages: list[int] = []
    with recorded.open() as file:
        is_packed = file.read(len(_GZIP)) == _GZIP
        block = _PACKED_BLOCK if is_packed else _BLOCK
        start, room = 0, _MOST_DAMAGES * block + _MOST_READ_AGAIN * file.seek(0, io.SEEK_END)
        while start >= 0 and len(damages) < _MOST_DAMAGES and room >= 0:
            damaged = _read_until_damaged(recorded, file, start, block)
            if damaged is None:
                break
            room -= file.tell() - damaged
            damages.append(damaged)
            start = _next_member(file, damaged + 1) if is_packed else _next(_RECORD, file, damaged + 1)
    return damages


def _read_until_damaged(recorded: _Recorded, file: BinaryIO, start: int, block: int) -> int | None:
    """Take records from an offset on; return that of the first that is damaged, or None at the archive's end."""
    from warcio.archiveiterator import ArchiveIterator  # noqa: PLC0415 (only for archives)

    reading = recorded.reading
    file.seek(start)
    records, offset, record = ArchiveIterator(file, block_size=block), start, None
    try:
        for record in records:
            if records.err_count:  # the one before was not of the length that it claims
                return offset
            if reading.is_full:
                reading.flaws.append(Flaw("archive", "the archive holds too much: the rest of it is left out"))
                return None
            offset = records.offset  # where this one starts; its method would read to its end first
            _read_record(recorded, record, offset)
    except Exception:  # noqa: BLE001 (warcio raises whatever it trips over in broken bytes)
        return offset if records.err_count else max(offset, records.offset)
    is_cut = record is None or records.err_count or getattr(record.raw_stream, "limit", 0)
    return offset if is_cut else None


def _next_member(file: BinaryIO, start: int) -> int:
    """Return where the next gzip member begins that is a record, from an offset on; -1 if none does."""
    for _ in range(_MOST_FALSE_STARTS):
        if (start := _next(_MEMBER, file, start)) < 0:
            break
        file.seek(start)
        try:
            if _RECORD.match(zlib.decompressobj(31).decompress(file.read(_HEAD), 16)) is not None:
                return start
        except zlib.error:
            pass
        start += 1
    return -1


def _next(begins: re.Pattern[bytes], file: BinaryIO, start: int) -> int:
    """Return the offset of the next match of an expression, at most 16 bytes long, from one on; -1 without any."""
    file.seek(start)
    before = b""
    while piece := file.read(_PIECE):
        if (match := begins.search(before + piece)) is not None:
            return start - len(before) + match.start()
        start += len(piece)
        before = piece[-16:]
    return -1


def _read_record(recorded: _Recorded, record: Any, offset: int) -> None:
    if record.rec_type in {"response", "resource"}:
        _read_response(recorded, record, offset)
    elif record.rec_type == "revisit":  # ISO 28500, 6.7: the same body as one that was recorded before
        original = _url(record.rec_headers.get_header("WARC-Refers-To-Target-URI"))
        recorded.revisits.append((_target(record), original, _digest(record)))


def _read_response(recorded: _Recorded, record: Any, offset: int) -> None:
    reading, limit, url = recorded.reading, recorded.limit, _target(record)
    headers = record.http_headers
    if not url or (headers is not None and headers.get_statuscode() not in {"200", "203"}):
        return
    said = headers.get_header("Content-Type", "") if headers else record.rec_headers.get_header("Content-Type", "")
    fields = {"content-type": said or ""}
    media_type, _ = content_type(fields)
    pieces = contents(record)
    head = next(pieces, b"")
    size = len(head) + sum(len(piece) for piece in _until(pieces, limit))
    if size > limit:
        reading.flaws.append(Flaw("archive", f"{url[:200]}: larger than --max-file"))
        return
    load = partial(_load, recorded.open, offset, limit)
    begin = partial(_load, recorded.open, offset)
    if is_image(media_type, head):
        if url not in reading.pictured:
            reading.pictured.add(url)
            reading.add_picture(url, FoundIn.ARCHIVE)
    elif media_type in PAGE_TYPES:
        reading.documents.append(Document(load, url, fields))
    reading.bodies[url] = StoredBody(load, media_type, size=size, begin=begin)
    if digest := _digest(record):
        recorded.by_digest.setdefault(digest, url)


def _add_revisit(reading: Reading, url: str, original: str) -> None:
    """Give an address the body of another, if that is there."""
    if url and url not in reading.bodies and original in reading.bodies:
        reading.bodies[url] = reading.bodies[original]
        if original in reading.pictured:
            reading.pictured.add(url)
            reading.add_picture(url, FoundIn.ARCHIVE)


def _load(open_archive: Open, offset: int, most: int) -> bytes:
    """Return the first ``most`` bytes of the body of the record at an offset; nothing if it cannot be read any more."""
    from warcio.archiveiterator import ArchiveIterator  # noqa: PLC0415

    try:
        with open_archive() as stream, redirect_stderr(io.StringIO()):
            stream.seek(offset)
            record = next(iter(ArchiveIterator(stream)))
            return b"".join(_until(contents(record), most))[:most]
    except Exception:  # noqa: BLE001 (warcio raises whatever it trips over in broken bytes)
        return b""


def _until(pieces: Iterator[bytes], limit: int) -> Iterator[bytes]:
    """Yield pieces until they come to more than ``limit`` bytes."""
    size = 0
    for piece in pieces:
        yield piece
        size += len(piece)
        if size > limit:
            return


def _digest(record: Any) -> str:
    return (record.rec_headers.get_header("WARC-Payload-Digest") or "").strip()


def _target(record: Any) -> str:
    return _url(record.rec_headers.get_header("WARC-Target-URI"))


def _url(raw: str | None) -> str:
    return absolute((raw or "").strip("<>"), "about:blank") or ""
