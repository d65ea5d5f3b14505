"""A document in PDF (ISO 32000-2), as a page: its pictures, as the document holds them, with the words around them.

What a browser prints is such a document: it has the structure of the page, and what its pictures lead to. It is read
in a process of its own, as a few bytes of it may stand for any amount of work; what that says is told by ``Told``.
"""

import hashlib
from collections.abc import Iterable, Iterator
from contextlib import suppress
from enum import StrEnum
from io import BytesIO
from itertools import groupby
from typing import Protocol

from msgspec import DecodeError, Struct, field, json
from msgspec.structs import replace

from pickcrate.read.pdf import html as pdfhtml, layout as pdflayout
from pickcrate.read.pdf.page import Box, Leaf, Piece
from pickcrate.read.pdf.pdfium import Pdf, PdfPage, PdfPicture, UnreadableError

_MOST_LEAVES, _MOST_WRITTEN = 5_000, 50_000_000
_MOST_PICTURES, _MOST_OCTETS = 20_000, 4_000_000_000
_LONGEST_TOLD = 65_536

LIBRARY = "pypdfium2"


class Trouble(StrEnum):
    """Why nothing can be read of a PDF."""

    LOCKED = "locked"
    DAMAGED = "damaged"


class Told(Struct, frozen=True, omit_defaults=True):
    """One line of what the process writes; as many bytes follow as it says."""

    size: int = 0
    name: str = ""
    """of a picture, the bytes of whose file follow: its address, relative to the document"""
    is_leaf: bool = False
    """whether a page follows, a ``Leaf`` in JSON"""
    title: str = ""
    flaw: str = ""
    """what is wrong"""
    trouble: Trouble | None = None
    is_end: bool = False
    """whether the document was read to its end"""


class Stream(Protocol):
    """What such a process writes."""

    def readline(self, most: int, /) -> bytes:
        """Return the next line, of ``most`` bytes at most."""

    def read(self, size: int, /) -> bytes:
        """Return as many bytes; fewer at the end."""


def told(file: Stream) -> Iterator[tuple[Told, bytes]]:
    """Yield what a process writes, with the bytes that follow each; as far as it is whole."""
    with suppress(DecodeError):
        while line := file.readline(_LONGEST_TOLD):
            one = json.decode(line, type=Told)
            octets = file.read(one.size) if one.size else b""
            if len(octets) < one.size:
                return
            yield one, octets


def html_of(leaves: Iterable[Leaf]) -> str:
    """Return the HTML of pages, each read by its structure, or else by where things stand."""
    alike = (list(group) for _, group in groupby(leaves, key=lambda leaf: leaf.is_tagged))
    return "".join(
        pdfhtml.html_of(some) if some[0].is_tagged else "".join(map(pdflayout.html_of, some)) for some in alike
    )


def pages(octets: bytes) -> Iterator[tuple[Told, bytes]]:
    """Yield what is told of a PDF: its title, each picture when it first comes, and each page."""
    try:
        yield from _Document(Pdf(BytesIO(octets))).told()
    except UnreadableError as error:
        yield Told(trouble=Trouble.LOCKED if error.is_locked else Trouble.DAMAGED), b""
    yield Told(is_end=True), b""


class _Document(Struct):
    """A PDF while it is read."""

    pdf: Pdf
    names: dict[bytes, str] = field(default_factory=dict)
    """the addresses of pictures, by hashes: one that is shown again has one, one that cannot be read has none"""
    shown: int = 0
    octets: int = 0
    """how many pictures its pages show, and the bytes of all that are told of"""

    def told(self) -> Iterator[tuple[Told, bytes]]:
        """Yield what is told of it."""
        yield Told(title=self.pdf.title()), b""
        written = 0
        for number in range(len(self.pdf)):
            if number >= _MOST_LEAVES or written > _MOST_WRITTEN or self._is_full:
                left = len(self.pdf) - number
                yield Told(flaw=f"the PDF is too long: its last {left:,} pages are left out"), b""
                return
            try:
                for one in self._page(number):
                    written += one[0].size * one[0].is_leaf
                    yield one
            except Exception:  # noqa: BLE001 (a document may be made to trip up any code)
                yield Told(flaw=f"page {number + 1} of the PDF cannot be read"), b""

    def _page(self, number: int) -> Iterator[tuple[Told, bytes]]:
        page, shown = self.pdf.page(number), list[Piece]()
        for picture in page.pictures():
            self.shown += 1
            hashed = hashlib.blake2b(picture.data(), digest_size=16).digest()
            if hashed not in self.names:
                yield self._taken(picture, hashed, number)
            if name := self.names[hashed]:
                shown.append(Piece(picture.box, picture=name, mark=picture.mark))
        octets = json.encode(_leaf(page, shown))
        page.close()
        yield Told(len(octets), is_leaf=True), octets

    def _taken(self, picture: PdfPicture, hashed: bytes, number: int) -> tuple[Told, bytes]:
        """Return a picture that is shown for the first time; a flaw if it cannot be made a file."""
        octets = b""
        with suppress(Exception):  # as above
            octets = picture.as_file()
        self.octets += len(octets)
        behind = f"-{picture.place + 1}" if picture.place else ""
        self.names[hashed] = f"page-{number + 1}{behind}/picture{picture.ending}" if octets else ""
        if octets:
            return Told(len(octets), self.names[hashed]), octets
        return Told(flaw=f"a picture on page {number + 1} of the PDF is too large, or cannot be read"), b""

    @property
    def _is_full(self) -> bool:
        return self.shown >= _MOST_PICTURES or self.octets >= _MOST_OCTETS


def _leaf(page: PdfPage, shown: list[Piece]) -> Leaf:
    links = list(page.links())
    return Leaf([_leading(piece, links) for piece in (*shown, *page.runs())], page.structure())


def _leading(piece: Piece, links: list[tuple[Box, str]]) -> Piece:
    """Return a piece with what it leads to."""
    url = next((url for where, url in links if where.covers(piece.box)), "")
    return replace(piece, link=url) if url else piece
