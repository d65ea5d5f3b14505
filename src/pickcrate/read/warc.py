"""A web archive: WARC 1.0 and 1.1 (ISO 28500), plain or gzipped. Every image response is a picture."""

import io
from contextlib import redirect_stderr
from typing import Any

from pickcrate.addresses import absolute
from pickcrate.media import by_media_type
from pickcrate.media.header import read_header
from pickcrate.read.reading import Body, Document, Reading
from pickcrate.values import Flaw


def read_warc(octets: bytes) -> Reading:
    """Return what an archive recorded; a record that cannot be read ends the reading with a flaw."""
    from warcio.archiveiterator import ArchiveIterator  # noqa: PLC0415 (only for archives)

    reading = Reading(complete=True)
    stream = io.BytesIO(octets)
    records = ArchiveIterator(stream)
    try:
        with redirect_stderr(io.StringIO()):  # warcio writes there what it thinks of a broken record
            for record in records:
                if record.rec_type in {"response", "resource"}:
                    _read_record(record, reading)
    except Exception as error:  # noqa: BLE001 (warcio raises whatever it trips over in broken bytes)
        reading.flaws.append(Flaw("archive", f"the archive cannot be read to its end: {error}"))
    return reading


def _read_record(record: Any, reading: Reading) -> None:
    url = absolute(record.rec_headers.get_header("WARC-Target-URI", "").strip("<>"), "about:blank")
    headers = record.http_headers
    if url is None or (headers is not None and headers.get_statuscode() not in {"200", "203"}):
        return
    said = headers.get_header("Content-Type", "") if headers else record.rec_headers.get_header("Content-Type", "")
    media_type, _, parameters = (said or "").partition(";")
    body: bytes = record.content_stream().read()
    if by_media_type(media_type) is not None or read_header(body[:4096]) is not None:
        if url not in reading.bodies:
            reading.add_picture(url, "archive")
        reading.bodies[url] = Body(lambda: body, media_type)
    elif media_type.strip().lower() in {"text/html", "application/xhtml+xml"}:
        charset = parameters.partition("charset=")[2].strip(" \"'")
        reading.documents.append(Document(body, url, charset))
    else:
        reading.bodies[url] = Body(lambda: body, media_type)
