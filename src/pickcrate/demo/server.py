"""The demo site on loopback, served as a real server would: ranges, validators, content types, 404.

Only for showing: it listens on 127.0.0.1 and serves the pictures and pages that come with the program.
"""

import mimetypes
from email.utils import formatdate, parsedate_to_datetime
from hashlib import sha256
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from importlib.resources import files
from importlib.resources.abc import Traversable
from threading import Thread
from types import TracebackType
from typing import Self
from urllib.parse import unquote, urlsplit

from pickcrate import media
from pickcrate.addresses.url import split_extension
from pickcrate.demo import rooms

_MODIFIED = 1_774_000_000
"""The site's one modification time, in seconds since 1970: spring 2026. The same on each machine."""

_HOST_MARK = b"@@HOST@@"
_LARGEST_FORM = 10_000


class _Server(ThreadingHTTPServer):
    request_queue_size = 128
    """connections in line: what finds it full waits for seconds"""


class DemoSite:
    """The site while it is up; use it as a context manager."""

    def __init__(self, port: int = 0) -> None:
        """Listen on ``port`` of loopback, or on any free one if that is taken."""
        try:
            self._server = _Server(("127.0.0.1", port), _Handler)
        except OSError:
            self._server = _Server(("127.0.0.1", 0), _Handler)

    @property
    def address(self) -> str:
        """The site's front page, without the slash at its end."""
        return f"http://127.0.0.1:{self._server.server_port}"

    def __enter__(self) -> Self:
        Thread(target=self._server.serve_forever, args=(0.05,), daemon=True).start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._server.shutdown()
        self._server.server_close()


class _Handler(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    server_version = "GalewickKiteMuseum"
    sys_version = ""

    def do_GET(self) -> None:
        self._answer(send_body=True)

    def do_HEAD(self) -> None:
        self._answer(send_body=False)

    def do_POST(self) -> None:
        length = self.headers.get("Content-Length", "")
        posted = self.rfile.read(min(int(length), _LARGEST_FORM)) if length.isdecimal() else b""
        self._answer(send_body=True, form=posted.decode("utf-8", "replace"))

    def log_message(self, format: str, *args: object) -> None:  # noqa: A002 (the base class's name)
        """Say nothing: the terminal is the demo's."""

    def _answer(self, *, send_body: bool, form: str | None = None) -> None:
        url = urlsplit(self.path)
        path = unquote(url.path).lstrip("/")
        answer = rooms.enter(rooms.Visit(path, url.query, form, self.headers.get("Cookie", "")))
        if answer is not None and not answer.file:
            fields = {"Content-Type": "text/html; charset=utf-8", **answer.fields}
            self._send(answer.status, answer.page.encode(), fields.pop("Content-Type"), fields, send_body=send_body)
            return
        if answer is not None:
            path = answer.file
        found = _find(path or "index.html")
        if found is None:
            page = b"<!doctype html><title>Not here</title><h1>Not here</h1><p>The wind took it.</p>"
            self._send(HTTPStatus.NOT_FOUND, page, "text/html; charset=utf-8", send_body=send_body)
            return
        octets = found.read_bytes()
        kind = media.by_extension(split_extension(found.name)[1])
        media_type = kind.media_types[0] if kind else mimetypes.guess_type(found.name)[0] or "application/octet-stream"
        if media_type == "text/html":
            octets = octets.replace(_HOST_MARK, self.headers.get("Host", "").encode("latin-1"))
            media_type = "text/html; charset=utf-8"
        self._send_file(octets, media_type, send_body=send_body)

    def _send_file(self, octets: bytes, media_type: str, *, send_body: bool) -> None:
        """RFC 9110: validators (13.1), and a single range (14.2)."""
        etag = f'"{sha256(octets).hexdigest()[:16]}"'
        validators = {
            "ETag": etag,
            "Last-Modified": formatdate(_MODIFIED, usegmt=True),
            "Accept-Ranges": "bytes",
        }
        if self._is_current(etag):
            self._send(HTTPStatus.NOT_MODIFIED, b"", "", validators, send_body=False)
            return
        wanted = self.headers.get("Range", "")
        if wanted.startswith("bytes=") and "," not in wanted and self.headers.get("If-Range", etag) == etag:
            first, _, last = wanted.removeprefix("bytes=").partition("-")
            bounds = _range(first, last, len(octets))
            if bounds is None:
                fields = validators | {"Content-Range": f"bytes */{len(octets)}"}
                self._send(HTTPStatus.REQUESTED_RANGE_NOT_SATISFIABLE, b"", media_type, fields, send_body=send_body)
                return
            start, end = bounds
            fields = validators | {"Content-Range": f"bytes {start}-{end - 1}/{len(octets)}"}
            self._send(HTTPStatus.PARTIAL_CONTENT, octets[start:end], media_type, fields, send_body=send_body)
            return
        self._send(HTTPStatus.OK, octets, media_type, validators, send_body=send_body)

    def _is_current(self, etag: str) -> bool:
        if (held := self.headers.get("If-None-Match")) is not None:
            return held == "*" or etag in (tag.strip().removeprefix("W/") for tag in held.split(","))
        try:
            since = parsedate_to_datetime(self.headers.get("If-Modified-Since", ""))
        except ValueError:
            return False
        return since.timestamp() >= _MODIFIED

    def _send(
        self,
        status: HTTPStatus,
        octets: bytes,
        media_type: str,
        fields: dict[str, str] | None = None,
        *,
        send_body: bool,
    ) -> None:
        self.send_response(status)
        for name, value in (fields or {}).items():
            self.send_header(name, value)
        if status is not HTTPStatus.NOT_MODIFIED:
            self.send_header("Content-Length", str(len(octets)))
            self.send_header("Content-Type", media_type)
        self.end_headers()
        if send_body:
            self.wfile.write(octets)


def _find(path: str) -> Traversable | None:
    """Return the site's file at ``path``, or None; no path leads out of the site."""
    steps = path.split("/")
    if any(step in {"", ".", ".."} or "\\" in step or ":" in step for step in steps):
        return None
    found = files("pickcrate.demo").joinpath("site", *steps)
    return found if found.is_file() else None


def _range(first: str, last: str, size: int) -> tuple[int, int] | None:
    if not (first or last) or not all(part.isdecimal() for part in (first, last) if part):
        return None
    if not first:
        return (max(0, size - int(last)), size) if int(last) else None
    start, end = int(first), min(int(last) + 1, size) if last else size
    return (start, end) if start < min(end, size) else None
