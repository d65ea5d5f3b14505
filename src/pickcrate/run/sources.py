"""Opening what the user named: a web address, a file, a folder, standard input."""

import codecs
import io
import sys
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import BinaryIO, TextIO, cast

from pickcrate.addresses import absolute, looks_like_web, without_userinfo
from pickcrate.errors import SourceError
from pickcrate.fetch.exchange import Failure, Fetcher, Reply, Request
from pickcrate.read.recognise import LISTS, WINDOW, Kind, describe, recognise

PAGE_ACCEPT = "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8"
_PAGE_SUFFIXES = frozenset((".html", ".htm", ".xhtml", ".xht", ".shtml"))
_HINTS = {
    "host": "check the address for typing errors, and that you are online",
    "refused": "check the address and its port, and that the server is up",
    "certificate": "if you trust this server, add its certificate to the file that SSL_CERT_FILE names",
    "redirects": "the page may want a cookie or a signed-in user; save it from a browser and give the file",
    "timeout": "try again, or allow more with --timeout",
    "size": "allow more with --max-file",
    "status 401": "the page wants a signed-in user; save it from a browser and give the file",
    "status 403": "the server refuses this program; save the page from a browser and give the file",
}
_WHAT_IS_READ = (
    "give the address of a web page, a saved page (.html, .mhtml, .har, .warc, .zip), or a list of addresses"
)


@dataclass(frozen=True, slots=True)
class Opened:
    """One document with what its bytes are, where it came from, and the folder it may read from, if any."""

    source: str
    kind: Kind
    octets: bytes
    address: str
    charset: str = ""
    folder: Path | None = None
    fields: Mapping[str, str] = field(default_factory=dict)
    """header fields of the response"""
    rest: BinaryIO | None = None
    """of a list, which passes row by row, what follows ``octets``"""

    def lines(self) -> TextIO:
        """Return a list's text, decoded as it is read: it is never held as a whole."""
        whole: BinaryIO = io.BytesIO(self.octets)
        if self.rest is not None:
            whole = cast("BinaryIO", io.BufferedReader(cast("io.RawIOBase", _Joined(self.octets, self.rest))))
        if self.octets.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
            encoding = "utf-16"
        else:
            encoding = "utf-8-sig" if _is_utf8(self.octets) else "windows-1252"
        return io.TextIOWrapper(whole, encoding=encoding, errors="replace", newline="")


class _Joined(io.RawIOBase):
    """The start of a file that was read already, and the rest of it."""

    def __init__(self, start: bytes, rest: BinaryIO) -> None:
        self._start = start
        self._rest = rest

    def readable(self) -> bool:
        """Say yes: it is for reading."""
        return True

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        """Fill ``buffer`` from the start, then from the rest."""
        piece = self._start[: len(buffer)] or self._rest.read(len(buffer))
        self._start = self._start[len(buffer) :]
        buffer[: len(piece)] = piece
        return len(piece)


def _is_utf8(octets: bytes) -> bool:
    decoder = codecs.getincrementaldecoder("utf-8")()  # a character may be cut at the end
    try:
        decoder.decode(octets)
    except UnicodeDecodeError:
        return False
    return True


def open_source(source: str, fetcher: Fetcher) -> Iterator[Opened]:
    """Yield the documents that ``source`` names: one, or each page in a folder and the folders in it.

    Raises SourceError if it cannot be read.
    """
    if looks_like_web(source):
        yield _from_web(source, fetcher)
    elif source == "-":
        yield _opened(source, sys.stdin.buffer, address="about:blank")
    else:
        yield from _from_disk(source)


def _from_web(source: str, fetcher: Fetcher) -> Opened:
    address = absolute(source, "about:blank")
    plain = without_userinfo(source)
    if address is None:
        raise SourceError(f"{plain}: not a well-formed address", hint="an address looks like https://example.org/kites")
    (reply,) = (answer for answer in fetcher.fetch([page_request(address)]) if isinstance(answer, Reply))
    return opened_reply(plain, reply)


def page_request(address: str) -> Request:
    """Return the request for a page that a person named."""
    return Request(address, accept=PAGE_ACCEPT, named=True, by_user=True)


def opened_reply(plain: str, reply: Reply) -> Opened:
    """Return what came for a page that a person named ``plain``; SourceError if it cannot be read."""
    if reply.failure is not None:
        raise SourceError(f"{plain}: {reply.failure.words}", hint=_hint(reply.failure))
    media_type, _, parameters = reply.headers.get("content-type", "").partition(";")
    opened = _known(plain, reply.octets, address=reply.url, media_type=media_type.strip(), charset=charset(parameters))
    return replace(opened, fields=reply.headers)


def _hint(failure: Failure) -> str:
    if failure.kind == "status 404":
        return "check the address for typing errors"
    return _HINTS.get(failure.kind, "")


def charset(parameters: str) -> str:
    """Return the charset parameter of a Content-Type (RFC 9110, 8.3.1)."""
    for parameter in parameters.split(";"):
        name, _, value = parameter.partition("=")
        if name.strip().lower() == "charset":
            return value.strip().strip('"')
    return ""


def _from_disk(source: str) -> Iterator[Opened]:
    path = Path(source).expanduser()
    try:
        if path.is_dir():
            yield from _from_folder(path, source)
            return
        real = path.resolve()
        with real.open("rb") as file:
            yield _opened(source, file, address=real.as_uri(), folder=real.parent)
    except FileNotFoundError:
        hint = _WHAT_IS_READ
        if "." in source.partition("/")[0].strip(".") and path.suffix.lower() not in _PAGE_SUFFIXES:
            hint = f"for a web page, start it with https:// as in https://{source}"
        raise SourceError(f"{source}: no such file", hint=hint) from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise SourceError(f"{source}: cannot be read: {reason.lower()}") from error


def _opened(source: str, file: BinaryIO, *, address: str, folder: Path | None = None) -> Opened:
    """Return what a file is: a list with the rest of it still to be read, anything else whole."""
    head = file.read(WINDOW)
    if recognise(head) in LISTS:
        return Opened(source, recognise(head) or Kind.ADDRESSES, head, address, folder=folder, rest=file)
    return _known(source, head + file.read(), address=address, folder=folder)


def _from_folder(folder: Path, source: str) -> Iterator[Opened]:
    pages = sorted(path for path in folder.rglob("*") if path.suffix.lower() in _PAGE_SUFFIXES and path.is_file())
    if not pages:
        raise SourceError(f"{source}: a folder with no page in it", hint="a page is a file that ends in .html or .htm")
    for page in pages:
        real = page.resolve()
        yield _known(str(page), real.read_bytes(), address=real.as_uri(), folder=folder.resolve())


def _known(
    source: str,
    octets: bytes,
    *,
    address: str,
    media_type: str = "",
    charset: str = "",
    folder: Path | None = None,
) -> Opened:
    kind = recognise(octets)
    if kind is None:
        what = describe(octets, media_type)
        said = "is empty" if what == "empty" else f"is {what}, not a page"
        raise SourceError(f"{source} {said}", hint=_WHAT_IS_READ)
    return Opened(source, kind, octets, address, charset, folder)
