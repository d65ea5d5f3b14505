"""Opening what the user named: a web address, a file, a folder, standard input."""

import codecs
import io
import re
import sys
import zlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import IO, BinaryIO, TextIO, cast

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses import absolute, is_web, looks_like_web, without_userinfo
from pickcrate.errors import SourceError
from pickcrate.fetch.brought import Brought, path_of_file
from pickcrate.fetch.exchange import Failure, Fetcher, Reply, Request
from pickcrate.lazyre import lazy
from pickcrate.read.contenttype import content_type
from pickcrate.read.reading import Loaded
from pickcrate.read.recognise import LISTS, WINDOW, Kind, describe, recognise
from pickcrate.read.refresh import refreshes_to
from pickcrate.run.asking import page_request
from pickcrate.stores import HAUL
from pickcrate.values import Asker, Flaw, Trust

_OWN = Trust(private=True)
"""what the user typed, or has on the disk"""

_HOST = lazy(r"[\w-]+(?:\.[\w-]+)+(?::\d+)?(?:/|\Z)|localhost(?::\d+)?(?:/|\Z)", re.IGNORECASE)
_PAGE_SUFFIXES = frozenset((".html", ".htm", ".xhtml", ".xht", ".shtml"))
_SAVED_ENDINGS = (".mhtml", ".mht", ".webarchive", ".har", ".warc", ".warc.gz", ".eml")
"""of files that hold a page with all that it needs: in a folder each stands for itself"""

_OTHER_SUFFIXES = frozenset(
    ".mhtml .mht .webarchive .har .warc .gz .zip .epub .csv .tsv .txt .json .jsonl .xlsx .parquet .xml".split()
)
_HINTS = {
    "host": "check the address for typing errors, and that you are online",
    "refused": "check the address and its port, and that the server is up",
    "certificate": "if you trust this server, add its certificate to the file that SSL_CERT_FILE names",
    "redirects": "the page may want a cookie or a signed-in user: --browser visits it as you",
    "timeout": "try again, or allow more with --timeout",
    "size": "allow more with --max-file",
    "status 401": "the page wants a signed-in user: --browser --profile NAME --show-browser signs in, once",
    "status 403": "the server refuses this program: --browser visits the page in yours",
}
_MOST_REFRESHES = 5
_READ_IN_PLACE = frozenset((Kind.PACKAGE, Kind.ARCHIVE))
"""sources that may be larger than the memory"""

_PIECE = 131_072
_WHAT_IS_READ = (
    "give the address of a web page, a saved page (.html, .mhtml, .webarchive, .har, .warc, .zip), "
    "or a list of addresses"
)


class Opened(Struct, frozen=True):
    """One document with what its bytes are, where it came from, and how far what it names is trusted."""

    source: str
    kind: Kind
    octets: bytes
    address: str
    trust: Trust
    fields: Mapping[str, str] = field(default_factory=dict)
    """header fields of the response"""
    age: float | None = None
    """seconds since it was fetched, if it is an answer that was kept"""
    loaded: Loaded | None = None
    """what was loaded with a page, if it was visited in a browser"""
    is_one_of_many: bool = False
    """it is a page among those of a folder"""
    flaws: tuple[Flaw, ...] = ()
    """why nothing could be read of it"""
    rest: BinaryIO | None = None
    """of a list, which passes row by row, what follows ``octets``"""
    path: Path | None = None
    """of a package or an archive on the disk, which is read there part by part; ``octets`` is its beginning"""
    rows: Iterator[Mapping[str, object]] = iter(())
    """of a haul in a store, the rows of its shards' lists"""

    @property
    def is_own(self) -> bool:
        """Whether it is the user's own: from the disk or standard input, and not served."""
        return not is_web(self.address)

    def file(self) -> BinaryIO:
        """Return a list, a package or an archive as a file that may be read in any order: Parquet begins at its end."""
        if self.path is not None:
            return io.BufferedReader(cast("io.RawIOBase", _OnDisk(self.path)), _PIECE)
        if self.rest is not None and self.rest.seekable():
            self.rest.seek(0)
            return self.rest
        return io.BytesIO(self.octets + (self.rest.read() if self.rest is not None else b""))

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


class _OnDisk(io.RawIOBase):
    """A file that is open only while it is read: what was found in it is loaded from there as long as the run lasts."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._position = 0

    def readable(self) -> bool:
        """Say yes: it is for reading."""
        return True

    def seekable(self) -> bool:
        """Say yes: it may be read in any order."""
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go to a position, as in any file, and return it."""
        start = {io.SEEK_SET: 0, io.SEEK_CUR: self._position}.get(whence)
        self._position = (self._path.stat().st_size if start is None else start) + offset
        return self._position

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        """Fill ``buffer`` from the position on."""
        with self._path.open("rb", buffering=0) as file:
            file.seek(self._position)
            read = file.readinto(buffer) or 0
        self._position += read
        return read


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


def open_source(
    source: str, fetcher: Fetcher, brought: Brought, most: int, *, handed: IO[bytes] | None = None
) -> Iterator[Opened]:
    """Yield the documents that ``source`` names: one, or each page in a folder and the folders in it.

    ``most`` is how many bytes a packed one may unpack to. What a program hands over is read as it is. Raises
    SourceError if it cannot be read.
    """
    if handed is not None:
        name = getattr(handed, "name", "")
        path = Path(name).resolve() if isinstance(name, str) and name and Path(name).is_file() else None
        yield _opened(source, cast("BinaryIO", handed), brought, most, path=path)
    elif looks_like_web(source):
        yield _from_web(source, fetcher, most)
    elif source == "-":
        if sys.stdin is None:
            raise SourceError("standard input is closed", hint=_WHAT_IS_READ)
        yield _opened(source, sys.stdin.buffer, brought, most)
    elif (path := typed_path(source)) is None or (path / HAUL).is_file():
        yield _from_store(source, brought)
    else:
        yield from _from_disk(source, path, brought, most)


def typed_path(source: str) -> Path | None:
    """Return the path of what is on the disk, as it is typed or as a browser shows it (RFC 8089); None of a store."""
    if source[:5].lower() == "file:":
        return path_of_file(source)
    return None if "://" in source else Path(source).expanduser()


def _from_store(source: str, brought: Brought) -> Opened:
    """Return what a haul has left in a store, as a pick list of all that is in its shards."""
    from pickcrate.stores.hauled import hauled_at, picks  # noqa: PLC0415 (few sources are stores)

    rows = picks(hauled_at(source))
    return Opened(without_userinfo(source), Kind.HAUL, b"", "about:blank", brought.enter(_OWN), rows=rows)


def typed_request(source: str) -> Request:
    """Return the request for a page whose address the user typed. Raises SourceError if it is none of the web."""
    address = absolute(source, "about:blank") if looks_like_web(source) else None
    if address is None:
        plain = without_userinfo(source)
        raise SourceError(f"{plain}: not a well-formed address", hint="an address looks like https://example.org/kites")
    return page_request(address, Asker("", _OWN), typed=True)


def _from_web(source: str, fetcher: Fetcher, most: int) -> Opened:
    """Return what is at an address that the user typed, or where the page there leads on by itself."""
    request = typed_request(source)
    for _ in range(_MOST_REFRESHES):
        (reply,) = (answer for answer in fetcher.fetch([request]) if isinstance(answer, Reply))
        onward = refreshes_to(reply.octets, reply.url, reply.headers) if reply.failure is None else ""
        if not onward:
            break
        request = page_request(onward, Asker(reply.url, reply.trust), typed=False)
    return opened_reply(without_userinfo(source), reply, most)


def opened_reply(plain: str, reply: Reply, most: int) -> Opened:
    """Return what came for a page that a person named ``plain``; SourceError if it cannot be read."""
    if reply.failure is not None:
        raise failed_source(plain, reply.failure)
    media_type, _ = content_type(reply.headers)
    opened = _known(plain, reply.octets, most, address=reply.url, trust=reply.trust, media_type=media_type)
    return replace(opened, fields=reply.headers, age=reply.age, loaded=reply.loaded)


def failed_source(source: str, failure: Failure) -> SourceError:
    """Return the error of a source that could not be had, with what to do next."""
    return SourceError(f"{without_userinfo(source)}: {failure.words}", hint=_hint(failure))


def _hint(failure: Failure) -> str:
    if failure.kind == "status 404":
        return "check the address for typing errors"
    return _HINTS.get(failure.kind, "")


def _from_disk(source: str, path: Path, brought: Brought, most: int) -> Iterator[Opened]:
    try:
        if path.is_dir():
            yield from _from_folder(path, source, brought, most)
            return
        real = path.resolve()
        with real.open("rb") as file:
            yield _opened(source, file, brought, most, path=real, in_place=file.seekable())
    except FileNotFoundError:
        is_file = (_is_page(path) or path.suffix.lower() in _OTHER_SUFFIXES) and "/" not in source
        may_be_web = _HOST.match(source) is not None and not is_file
        hint = f"for a web page, start it with https:// as in https://{source}" if may_be_web else _WHAT_IS_READ
        raise SourceError(f"{source}: no such file", hint=hint) from None
    except (OSError, ValueError, RuntimeError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise SourceError(f"{source}: cannot be read: {reason.lower()}") from error


def _opened(
    source: str, file: BinaryIO, brought: Brought, most: int, path: Path | None = None, *, in_place: bool = False
) -> Opened:
    """Return what a file is: a list with the rest of it still to be read, anything else whole.

    What may be large is left where it is if ``in_place`` says that ``path`` has what ``file`` has. A page reads inside
    its own folder and nowhere else; a list may name files below the current folder as well.
    """
    address = path.as_uri() if path is not None else "about:blank"
    folders = [path.parent] if path is not None else []
    head = file.read(WINDOW)
    kind = recognise(head)
    if kind is not None and kind in LISTS and kind is not Kind.WORKBOOK:
        return Opened(source, kind, head, address, brought.enter(_OWN, *folders, Path.cwd()), rest=file)
    if in_place and kind in _READ_IN_PLACE:
        return Opened(source, kind, head, address, brought.enter(_OWN, *folders), path=path)
    opened = _known(source, head + file.read(), most, address=address, trust=brought.enter(_OWN, *folders))
    return opened if opened.kind not in LISTS else replace(opened, trust=brought.enter(_OWN, *folders, Path.cwd()))


def _from_folder(folder: Path, source: str, brought: Brought, most: int) -> Iterator[Opened]:
    root = folder.resolve()
    pages = [path for path in folder.rglob("*") if (_is_page(path) or _is_saved(path)) and path.is_file()]
    inside = sorted(path for path in pages if path.resolve().is_relative_to(root))  # no link leads out of it
    if not inside:
        raise _no_page(source, folder)
    tops = {path.resolve().relative_to(root).parts[0] for path in inside}
    site = root / tops.pop() if len(tops) == 1 else root  # a copy of a site may lie in a folder of its name
    trust = brought.enter(_OWN, root, site) if site.is_dir() else brought.enter(_OWN, root)
    if len(inside) == 1 and _is_page(inside[0]):
        real = inside[0].resolve()
        yield _known(str(inside[0]), real.read_bytes(), most, address=real.as_uri(), trust=trust)
        return
    for page in inside:
        yield _one_of_many(page, most, trust) if _is_page(page) else _saved_in_folder(page, brought, most)


def _no_page(source: str, folder: Path) -> SourceError:
    from pickcrate.crate.places import LIST, is_crate  # noqa: PLC0415 (something is wrong)

    if is_crate(folder):
        hint = f"its list is {folder / LIST}; pickcrate sheet shows what is in it"
        return SourceError(f"{source} is a crate, and no page", hint=hint)
    hint = "a page is a file that ends in .html or .htm, or a saved one (.mhtml, .webarchive, .har, .warc)"
    return SourceError(f"{source}: a folder with no page in it", hint=hint)


def _is_page(path: Path) -> bool:
    return path.suffix.lower() in _PAGE_SUFFIXES


def _is_saved(path: Path) -> bool:
    return path.name.lower().endswith(_SAVED_ENDINGS)


def _saved_in_folder(path: Path, brought: Brought, most: int) -> Opened:
    """Return a file of a folder that holds a page with all that it needs; one that cannot be read keeps no other."""
    real, why = path.resolve(), "is no saved page"
    try:
        with real.open("rb") as file:
            opened = _opened(str(path), file, brought, most, path=real, in_place=True)
        if opened.kind not in LISTS:
            return replace(opened, is_one_of_many=True)
    except OSError as error:
        why = f"cannot be read: {(error.strerror or str(error)).lower()}"
    except SourceError as error:
        why = error.message.removeprefix(f"{path} ")
    return Opened(str(path), Kind.PAGE, b"", real.as_uri(), _OWN, is_one_of_many=True, flaws=(Flaw("file", why),))


def _one_of_many(page: Path, most: int, trust: Trust) -> Opened:
    """Return a page of a folder, which is one by its file's name: whatever is in it, the others are read as well."""
    real, octets = page.resolve(), b""
    opened = Opened(str(page), Kind.PAGE, octets, real.as_uri(), trust, is_one_of_many=True)
    try:
        octets = real.read_bytes()
        known = _known(str(page), octets, most, address=opened.address, trust=trust)
    except OSError as error:
        words = f"cannot be read: {(error.strerror or str(error)).lower()}"
        return replace(opened, flaws=(Flaw("file", words),))
    except SourceError:  # it is empty, or a text
        return replace(opened, octets=octets)
    return replace(opened, octets=known.octets, kind=Kind.PAGE if known.kind in LISTS else known.kind)


def _known(source: str, octets: bytes, most: int, *, address: str, trust: Trust, media_type: str = "") -> Opened:
    kind = recognise(octets)
    if kind is None and octets.startswith(b"\x1f\x8b"):
        octets = _unpacked(source, octets, most)
        kind = recognise(octets)
    if kind is None:
        what = describe(octets, media_type)
        said = "is empty" if what == "empty" else f"is {what}, not a page"
        raise SourceError(f"{source} {said}", hint=_WHAT_IS_READ)
    if kind is Kind.WORKBOOK and not _is_list(octets, most):
        kind = Kind.PACKAGE
    return Opened(source, kind, octets, address, trust)


def _is_list(workbook: bytes, most: int) -> bool:
    """Tell whether a workbook lists addresses; another may hold pictures, as any package does."""
    from pickcrate.read.workbook import lists_addresses  # noqa: PLC0415 (few sources are workbooks)

    return lists_addresses(io.BytesIO(workbook), most)


def _unpacked(source: str, octets: bytes, most: int) -> bytes:
    """Return what gzip data holds (RFC 1952): a sitemap is often kept so."""
    try:
        unpacked = zlib.decompressobj(31).decompress(octets, most + 1)
    except zlib.error:
        return octets
    if len(unpacked) > most:
        raise SourceError(f"{source}: larger than --max-file when it is unpacked", hint=_HINTS["size"])
    return unpacked
