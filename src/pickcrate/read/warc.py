"""A web archive: WARC 1.0 and 1.1 (ISO 28500), plain or gzipped. Every image response is a picture.

Bodies are not held: a record is read again, where it stands in the archive, when its body is asked for.
"""

import io
from collections.abc import Callable, Iterator
from contextlib import redirect_stderr
from functools import partial
from typing import Any

from pickcrate.addresses import absolute
from pickcrate.media.header import is_image
from pickcrate.read.coding import contents
from pickcrate.read.contenttype import content_type
from pickcrate.read.reading import Document, Reading, StoredBody
from pickcrate.values import Flaw


def read_warc(octets: bytes, limit: int) -> Reading:
    """Return what an archive recorded; a record that cannot be read ends the reading with a flaw.

    Of bodies over ``limit`` bytes nothing is taken.
    """
    from warcio.archiveiterator import ArchiveIterator  # noqa: PLC0415 (only for archives)

    reading = Reading(complete=True)
    records = ArchiveIterator(io.BytesIO(octets))
    revisits: list[tuple[str, str]] = []
    try:
        with redirect_stderr(io.StringIO()):  # warcio writes there what it thinks of a broken record
            for record in records:
                if reading.is_full:
                    reading.flaws.append(Flaw("archive", "the archive holds too much: the rest of it is left out"))
                    break
                offset = records.offset  # where this one starts; its method would read to its end first
                if record.rec_type in {"response", "resource"}:
                    _read_record(record, reading, partial(_load, octets, offset, limit), limit)
                elif record.rec_type == "revisit":
                    revisits.append((_target(record), _url(record.rec_headers.get_header("WARC-Refers-To-Target-URI"))))
    except Exception as error:  # noqa: BLE001 (warcio raises whatever it trips over in broken bytes)
        reading.flaws.append(Flaw("archive", f"the archive cannot be read to its end: {error}"))
    for url, original in revisits:  # ISO 28500, 6.7: the same body as one that was recorded before
        if url and url not in reading.bodies and original in reading.bodies:
            reading.bodies[url] = reading.bodies[original]
            if original in reading.pictured:
                reading.pictured.add(url)
                reading.add_picture(url, "archive")
    return reading


def _read_record(record: Any, reading: Reading, load: Callable[[], bytes], limit: int) -> None:
    url = _target(record)
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
    elif is_image(media_type, head):
        if url not in reading.pictured:
            reading.pictured.add(url)
            reading.add_picture(url, "archive")
        reading.bodies[url] = StoredBody(load, media_type)
    elif media_type in {"text/html", "application/xhtml+xml"}:
        reading.documents.append(Document(load, url, fields))
        reading.bodies[url] = StoredBody(load, media_type)
    else:
        reading.bodies[url] = StoredBody(load, media_type)


def _load(octets: bytes, offset: int, limit: int) -> bytes:
    """Return the body of the record at an offset; nothing if it cannot be read any more."""
    from warcio.archiveiterator import ArchiveIterator  # noqa: PLC0415

    stream = io.BytesIO(octets)
    stream.seek(offset)
    try:
        with redirect_stderr(io.StringIO()):
            record = next(iter(ArchiveIterator(stream)))
            return b"".join(_until(contents(record), limit))[:limit]
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


def _target(record: Any) -> str:
    return _url(record.rec_headers.get_header("WARC-Target-URI"))


def _url(raw: str | None) -> str:
    return absolute((raw or "").strip("<>"), "about:blank") or ""
