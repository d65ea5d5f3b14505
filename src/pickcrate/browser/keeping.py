"""What a visit brought as one file, to be read again later: a log, a message, or an archive."""

import json
from base64 import b64encode
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from functools import partial
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from pickcrate.errors import UsageError
from pickcrate.version import __version__

if TYPE_CHECKING:
    from pickcrate.browser.visited import Visited

_TYPE = "text/html; charset=utf-8"
_AT_THE_END = "the document as it was at the end of the visit"
_LEFT_OUT = frozenset(("content-type", "content-encoding", "content-length", "transfer-encoding", "set-cookie"))
"""fields that speak of the body as it was sent, or are secret"""


class _Kept(Struct, frozen=True):
    """One thing that is kept: its address, its bytes, and what its server said of them."""

    url: str
    media_type: str
    octets: bytes
    fields: tuple[tuple[str, str], ...] = ()
    is_end: bool = False
    """a document as it was at the end, and not as it came"""


def writer_of(path: Path) -> "Callable[[Visited, Path], None]":
    """Return what writes a visit in the format that a file's ending says. Raises UsageError for another ending."""
    name = path.name.lower()
    found = next((write for ending, write in _WRITERS.items() if name.endswith(ending)), None)
    if found is None:
        raise UsageError(f"--out {path}: the file's ending says its format", hint="end it in .har, .mhtml or .warc.gz")
    return found


def _all(visited: "Visited") -> Iterator[_Kept]:
    """Yield all that is kept: the documents as they were at the end come first, since they have the most to say."""
    documents = [(visited.url, visited.markup), *((frame.asked, frame.markup) for frame in visited.frames)]
    for url, markup in documents:
        yield _Kept(url, _TYPE, markup.encode("utf-8", "replace"), is_end=True)
    for answer in visited.answers:
        fields = ((name, value) for name, value in answer.fields.items() if name.lower() not in _LEFT_OUT)
        plain = tuple((name, value) for name, value in fields if "\n" not in value)
        yield _Kept(answer.asked, answer.media_type, answer.body.load(), plain)


def _write_mhtml(visited: "Visited", path: Path) -> None:
    """Write a message (RFC 2557), as the browser makes it."""
    path.write_text(visited.in_one, encoding="utf-8", newline="")


def _write_har(visited: "Visited", path: Path) -> None:
    """Write a log (HAR 1.2)."""
    now = datetime.now(UTC).isoformat(timespec="milliseconds")
    log = {
        "version": "1.2",
        "creator": {"name": "Pick Crate", "version": __version__},
        "pages": [{"startedDateTime": now, "id": "page", "title": visited.url, "pageTimings": {}}],
        "entries": [_entry(kept, now) for kept in _all(visited)],
    }
    path.write_text(json.dumps({"log": log}), encoding="utf-8")


def _entry(kept: _Kept, now: str) -> dict[str, Any]:
    text = b64encode(kept.octets).decode()
    unknown: dict[str, Any] = {"cookies": [], "headersSize": -1, "bodySize": -1, "httpVersion": "HTTP/1.1"}
    return {
        "pageref": "page",
        "startedDateTime": now,
        "time": 0,
        "request": {**unknown, "method": "GET", "url": kept.url, "headers": [], "queryString": []},
        "response": {
            **unknown,
            "status": 200,
            "statusText": "OK",
            "headers": [{"name": name, "value": value} for name, value in kept.fields],
            "content": {"size": len(kept.octets), "mimeType": kept.media_type, "encoding": "base64", "text": text},
            "redirectURL": "",
        },
        "cache": {},
        "timings": {"send": 0, "wait": 0, "receive": 0},
        **({"comment": _AT_THE_END} if kept.is_end else {}),
    }


def _write_warc(visited: "Visited", path: Path, *, gzip: bool = False) -> None:
    """Write an archive (ISO 28500): what came as responses, documents as they were at the end as resources."""
    from warcio.statusandheaders import StatusAndHeaders  # noqa: PLC0415 (only for archives)
    from warcio.warcwriter import WARCWriter  # noqa: PLC0415

    with path.open("wb") as file:
        archive = WARCWriter(file, gzip=gzip)
        archive.write_record(archive.create_warcinfo_record(path.name, {"software": f"Pick Crate {__version__}"}))
        for kept in _all(visited):
            body = BytesIO(kept.octets)
            if kept.is_end:
                record = archive.create_warc_record(kept.url, "resource", payload=body, warc_content_type=_TYPE)
            else:
                fields = [("Content-Type", kept.media_type), *kept.fields]
                head = StatusAndHeaders("200 OK", fields, protocol="HTTP/1.1")
                record = archive.create_warc_record(kept.url, "response", payload=body, http_headers=head)
            archive.write_record(record)
            record.raw_stream.close()  # it leaves a temporary file of its own open


_WRITERS: "dict[str, Callable[[Visited, Path], None]]" = {
    ".har": _write_har,
    ".mhtml": _write_mhtml,
    ".mht": _write_mhtml,
    ".warc": _write_warc,
    ".warc.gz": partial(_write_warc, gzip=True),
}
