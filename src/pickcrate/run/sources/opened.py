"""What a source is once it is opened: what its bytes are, where they lie, and how far what it names is trusted."""

import codecs
import io
from collections.abc import Iterator, Mapping
from functools import partial
from pathlib import Path
from typing import BinaryIO, TextIO, cast

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import is_web
from pickcrate.errors import SourceError
from pickcrate.fetch.brought import Brought
from pickcrate.read import packed
from pickcrate.read.archives.window import Positioned
from pickcrate.read.reading import Loaded, Open
from pickcrate.read.recognise import (
    FAR,
    LISTS,
    WINDOW,
    Kind,
    begins_as_json,
    describe,
    is_of_long_lines,
    is_plain_text,
    names_addresses,
    names_pictures_later,
    recognise,
    what_to_do,
)
from pickcrate.values.flaw import Flaw
from pickcrate.values.trust import Trust

OWN = Trust(private=True)
"""what the user typed, or has on the disk"""

WHAT_IS_READ = (
    "give the address of a web page, a saved page (.html, .mhtml, .webarchive, .har, .warc, .zip), "
    "or a list of addresses"
)
ALLOW_MORE = "allow more with --max-file"
NOT_TRUSTED = "add its certificate to the file that SSL_CERT_FILE names, or let --browser visit it: that may know more"
_READ_IN_PLACE = frozenset((Kind.PACKAGE, Kind.ARCHIVE, Kind.PDF))
"""sources that may be larger than the memory"""

OF_MEMBERS = frozenset((Kind.PACKAGE, Kind.PDF))
"""sources in which relative addresses lead to what they hold"""

_OF_PACKAGES = frozenset((None, Kind.PAGE, Kind.PICTURE, Kind.LOG, Kind.ARCHIVE, Kind.PACKAGE))
"""what is read as a part of the package that it is in, alone as well"""

_MAY_BE_DATA = frozenset((None, Kind.JSON_LINES, Kind.ADDRESSES, Kind.CSV))
"""what an answer may look like that is without members, or short, or a list of addresses"""

_MOST_OF_TEXT = 20_000_000
"""bytes that are read of a text that is no page: a log may be of any size"""

NOWHERE, OF_A_STREAM = "about:blank", "file:///-"
"""the address of what has none; and that of a package, in which relative addresses have to work"""

_WEB = b"://"


class Expected(Struct, frozen=True):
    """What is known of sources before they are opened."""

    most: int
    """how many bytes a packed one may unpack to"""
    text_is: Kind | None = None
    """what a text is that is nothing else: rows of cells if columns are named, addresses if they are to be of pages.

    A workbook is a list then, whatever is in it."""
    takes_data: bool = False
    """whether what is in JSON is data, whatever it names: what follows a list may be an answer, short or empty"""

    def kind_of(self, octets: bytes) -> Kind | None:
        """Return what the start of a source says that it is; None if it is none."""
        kind = recognise(octets)
        if self.takes_data and kind in _MAY_BE_DATA and begins_as_json(octets[:WINDOW]):
            return Kind.DATA
        is_bare = kind in {None, Kind.TEXT} and self.text_is is not None and is_plain_text(octets)
        return self.text_is if is_bare else kind


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
    """what is wrong with it as a whole: nothing could be read of it, or not all"""
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
            return _OnDisk(self.path).buffered()
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


class _OnDisk(Positioned):
    """A file that is open only while it is read: what was found in it is loaded from there as long as the run lasts."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._path = path

    def size(self) -> int:
        """Return how many bytes it has."""
        return self._path.stat().st_size

    def fill(self, position: int, buffer: bytearray) -> int:
        """Fill ``buffer`` from a position on, and return with how many bytes."""
        with self._path.open("rb", buffering=0) as file:
            file.seek(position)
            return file.readinto(buffer) or 0


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


def opened_file(
    source: str,
    file: BinaryIO,
    brought: Brought,
    expected: Expected,
    *,
    path: Path | None = None,
    in_place: bool = False,
) -> Opened:
    """Return what a file is: a list with the rest of it still to be read, anything else whole.

    What may be large is left where it is if ``in_place`` says that ``path`` has what ``file`` has. A page reads inside
    its own folder and nowhere else; a list may name files below the current folder as well.
    """
    address = path.as_uri() if path is not None else NOWHERE
    folders = [path.parent] if path is not None else []
    head = file.read(WINDOW)
    kind = expected.kind_of(head)
    if kind is not None and kind in LISTS and kind is not Kind.WORKBOOK:
        return Opened(source, kind, head, address, brought.enter(OWN, *folders, Path.cwd()), rest=file)
    if in_place and kind in _READ_IN_PLACE:
        opened = Opened(source, kind, head, address, brought.enter(OWN, *folders), path=path)
        if (inner := _only_in(kind, opened.file, expected)) is None:
            return opened
        octets = inner
    else:
        octets = _read_on(head, kind, file)
    opened = opened_bytes(source, octets, expected, address=address, trust=brought.enter(OWN, *folders))
    if kind is Kind.TEXT and file.read(1):
        words = f"the text is larger than {_MOST_OF_TEXT // 1_000_000} MB: the rest is left out"
        opened = replace(opened, flaws=(*opened.flaws, Flaw("size", words)))
    return opened if opened.kind not in LISTS else replace(opened, trust=brought.enter(OWN, *folders, Path.cwd()))


def _read_on(head: bytes, kind: Kind | None, file: BinaryIO) -> bytes:
    """Return a file as far as it is read: of what is no source, and may be of any size, no more than tells that."""
    if kind is Kind.TEXT:
        return head + file.read(_MOST_OF_TEXT)
    if kind is None and not head.startswith(packed.MAGIC):
        head += file.read(FAR) if begins_as_json(head) else b""
        if not (names_pictures_later(head) or names_addresses(head)):
            return head
    return head + file.read()


def opened_bytes(
    source: str, octets: bytes, expected: Expected, *, address: str, trust: Trust, media_type: str = ""
) -> Opened:
    """Return what bytes are; what is packed as a whole is unpacked. Raises SourceError for what is no source."""
    kind = expected.kind_of(octets)
    flaws: tuple[Flaw, ...] = ()
    if kind is None and octets.startswith(packed.MAGIC):
        octets, flaws = _unpacked(source, octets, expected.most)
        kind = expected.kind_of(octets)
    if (inner := _only_in(kind, partial(io.BytesIO, octets), expected)) is not None:
        octets, kind = inner, expected.kind_of(inner)
    if kind is None:
        if not (names_pictures_later(octets) or names_addresses(octets)):
            raise _refusal(source, octets, media_type)
        kind = Kind.DATA
    if kind is Kind.WORKBOOK and not (expected.text_is is not None or _is_list(octets, expected.most)):
        kind = Kind.PACKAGE
    if kind is Kind.DATA and is_of_long_lines(octets):
        kind = Kind.JSON_LINES
    if kind in OF_MEMBERS and address == NOWHERE:
        address = OF_A_STREAM
    return Opened(source, kind, octets, address, trust, flaws=flaws)


def _only_in(kind: Kind | None, open_package: Open, expected: Expected) -> bytes | None:
    """Return the one file of a package that holds no other, if it is a source by itself: it was packed to be sent."""
    if kind is not Kind.PACKAGE:
        return None
    return packed.only_file(open_package(), expected.most, lambda head: expected.kind_of(head) not in _OF_PACKAGES)


def _refusal(source: str, octets: bytes, media_type: str) -> SourceError:
    """Return what is said of bytes that are no source."""
    is_empty = not octets[:WINDOW].strip()
    said = "is empty" if is_empty else f"is {describe(octets, media_type)}, not a page"
    names_some = _WEB in octets[:WINDOW] and is_plain_text(octets)
    hint = "--list-of pages looks into the pages that it names" if names_some else what_to_do(octets)
    if source.lower().endswith(".toml"):
        hint = f"if it is a slip, run it with --slip {source}"
    return SourceError(f"{source} {said}", hint=hint or WHAT_IS_READ)


def unreadable(error: Exception) -> str:
    """Say that something on the disk cannot be read, and why."""
    reason: str = getattr(error, "strerror", None) or str(error)
    return f"cannot be read: {reason.lower()}"


def _is_list(workbook: bytes, most: int) -> bool:
    """Tell whether a workbook lists addresses; another may hold pictures, as any package does."""
    from pickcrate.read.office.workbook import lists_addresses  # noqa: PLC0415 (few sources are workbooks)

    return lists_addresses(io.BytesIO(workbook), most)


def _unpacked(source: str, octets: bytes, most: int) -> tuple[bytes, tuple[Flaw, ...]]:
    """Return what packed data holds, and what is wrong with it. Raises SourceError."""
    unpacked, is_whole = packed.unpacked(octets, most)
    if len(unpacked) > most:
        raise SourceError(f"{source}: larger than --max-file when it is unpacked", hint=ALLOW_MORE)
    if not (unpacked or is_whole):
        raise SourceError(f"{source} is packed, and damaged: nothing of it can be read", hint="get it once more")
    damaged = Flaw("packing", "it is damaged, or cut off: what stands before that was read")
    return unpacked, () if is_whole else (damaged,)
