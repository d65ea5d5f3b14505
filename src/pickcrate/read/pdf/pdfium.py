"""PDFium's view of a PDF: the objects on a page with their places, its links, its structure, its pictures as files.

The library works in one thread at a time.
"""

import ctypes
from collections.abc import Callable, Iterator
from functools import partial
from io import BytesIO
from itertools import islice
from typing import Any, BinaryIO

from pickcrate.media import MOST_PIXELS
from pickcrate.read.pdf.page import Box, Part, Piece


class UnreadableError(Exception):
    """What is to be read is damaged, or encrypted."""

    def __init__(self, *, is_locked: bool = False) -> None:
        super().__init__()
        self.is_locked = is_locked


_MOST_OBJECTS = 100_000
"""on one page: a drawing may be of as many strokes"""

_MOST_SHOWN, _MOST_SIGNS, _MOST_LINKS = 2_000, 500_000, 300
"""pictures, signs and links on one page"""

_DEEPEST = 12
"""of groups in groups on a page"""

_DEEPEST_PART, _MOST_PARTS = 60, 200_000
"""of the structure, as far as it is looked at for one page"""

_MOST_SPANNED = 1_000
_LONGEST_SAID = 65_536
"""bytes of a text that describes something"""

_FILES = {"DCTDecode": ".jpg", "JPXDecode": ".jp2"}
"""filters whose data is the file of a picture as it is (ISO 32000-2, 7.4.8 and 7.4.9), and how it is called"""

_EFFORT = 4
"""of 9 that a PNG takes: half the time, and little more room, than the usual 6"""

_BOLD = b"bold", b"black", b"heavy"

_SURROGATES = range(0xD800, 0xE000)


def _pdfium() -> Any:
    import pypdfium2  # type: ignore[import-untyped] # noqa: PLC0415 (few sources are PDF)
    import pypdfium2.raw  # type: ignore[import-untyped] # noqa: PLC0415

    return pypdfium2


class Pdf:
    """An open PDF."""

    def __init__(self, file: BinaryIO) -> None:
        """Open one. Raises UnreadableError."""
        self._library = _pdfium()
        try:
            self._pdf = self._library.PdfDocument(file)
        except self._library.PdfiumError as error:
            raise UnreadableError(is_locked=error.err_code == self._library.raw.FPDF_ERR_PASSWORD) from error

    def __len__(self) -> int:
        """Return how many pages it has."""
        return len(self._pdf)

    def title(self) -> str:
        """Return the title that its metadata have (ISO 32000-2, 14.3.3); blank if they have none."""
        return str(self._pdf.get_metadata_value("Title")).strip()

    def page(self, number: int) -> "PdfPage":
        """Return a page, counted from 0; it is to be closed. Raises UnreadableError."""
        try:
            return PdfPage(self._library, self._pdf, self._pdf[number])
        except self._library.PdfiumError as error:
            raise UnreadableError from error


class PdfPage:
    """A page of an open PDF."""

    def __init__(self, library: Any, document: Any, page: Any) -> None:
        self._library, self._raw = library, library.raw
        self._document, self._page = document, page
        self._objects = list(islice(page.get_objects(max_depth=_DEEPEST), _MOST_OBJECTS))
        left, bottom, right, top = page.get_mediabox()
        self._turn = partial(Box.turned, degrees=page.get_rotation(), width=right - left, height=top - bottom)

    def close(self) -> None:
        """Let go of it."""
        self._page.close()

    def pictures(self) -> Iterator["PdfPicture"]:
        """Yield its pictures in the order in which they are painted."""
        drawn = (one for one in self._objects if one.type == self._raw.FPDF_PAGEOBJ_IMAGE)
        for place, one in enumerate(islice(drawn, _MOST_SHOWN)):
            if (box := self._box(one)) is not None:
                yield PdfPicture(one, place, box, self._mark(one))

    def runs(self) -> Iterator[Piece]:
        """Yield its words, a run in one font at a time, with the spaces behind it."""
        raw, text = self._raw, self._page.get_textpage()
        marks = {_address(one.raw): self._mark(one) for one in self._objects if one.type == raw.FPDF_PAGEOBJ_TEXT}
        run, places, signs = 0, list[int](), list[str]()
        for place in range(min(text.count_chars(), _MOST_SIGNS)):
            if raw.FPDFText_IsGenerated(text, place) == 1:  # a space that is only a gap, or the end of a line
                signs.append(" ")
                continue
            drawn = _address(raw.FPDFText_GetTextObject(text, place))
            if drawn != run:
                yield from self._run(text, places, signs, marks.get(run, -1))
                run, places, signs = drawn, [], []
            sign = raw.FPDFText_GetUnicode(text, place)
            places.append(place)
            signs.append(chr(sign) if 0x20 < sign < 0x110000 and sign not in _SURROGATES else " ")
        yield from self._run(text, places, signs, marks.get(run, -1))
        text.close()

    def _run(self, text: Any, places: list[int], signs: list[str], mark: int) -> Iterator[Piece]:
        """Yield a run, as high as its font is, whatever its signs are."""
        boxes = [self._box_of_sign(text, place) for place in (*places[:1], *places[-1:])]
        if boxes:
            whole = boxes[0].together(boxes[1])
            yield Piece(whole, "".join(signs), boxes[0].height, self._is_bold(text, places[0]), mark=mark)

    def _is_bold(self, text: Any, place: int) -> bool:
        """Tell whether a sign's font is called bold: its weight is only guessed of how thick its stems are."""
        flags = ctypes.c_int()
        name = _bytes_of(lambda room, size: self._raw.FPDFText_GetFontInfo(text, place, room, size, flags)).lower()
        return any(word in name for word in _BOLD)

    def _box_of_sign(self, text: Any, place: int) -> Box:
        where = self._raw.FS_RECTF()
        self._raw.FPDFText_GetLooseCharBox(text, place, where)
        return self._turn(_box_of(where))

    def links(self) -> Iterator[tuple[Box, str]]:
        """Yield where it leads to addresses on the web (ISO 32000-2, 12.6.4.8), and to which."""
        raw, at, link = self._raw, ctypes.c_int(0), self._raw.FPDF_LINK()
        for _ in range(_MOST_LINKS):
            if not raw.FPDFLink_Enumerate(self._page, at, link):
                return
            action, where = raw.FPDFLink_GetAction(link), raw.FS_RECTF()
            if raw.FPDFAction_GetType(action) != raw.PDFACTION_URI or not raw.FPDFLink_GetAnnotRect(link, where):
                continue
            url = _bytes_of(lambda *room, action=action: raw.FPDFAction_GetURIPath(self._document, action, *room))
            yield self._turn(_box_of(where)), url.decode("utf-8", "replace").strip("\0 ")

    def structure(self) -> dict[int, Part]:
        """Return the elements at the top of the document's structure, as far as they are on this page."""
        raw = self._raw
        tree = raw.FPDF_StructTree_GetForPage(self._page)
        if not tree:
            return {}
        try:
            room = iter(range(_MOST_PARTS))
            tops = zip(range(raw.FPDF_StructTree_CountChildren(tree)), room, strict=False)
            found = {place: raw.FPDF_StructTree_GetChildAtIndex(tree, place) for place, _ in tops}
            return {place: self._part(top, room, 0) for place, top in found.items() if top}
        finally:
            raw.FPDF_StructTree_Close(tree)

    def _part(self, element: Any, room: Iterator[int], depth: int) -> Part:
        raw = self._raw
        kind = self._said(raw.FPDF_StructElement_GetType, element)
        part = Part(kind, self._said(raw.FPDF_StructElement_GetAltText, element), self._spans(element, kind))
        children = max(0, raw.FPDF_StructElement_CountChildren(element)) if depth < _DEEPEST_PART else 0
        for place, _ in zip(range(children), room, strict=False):
            child = raw.FPDF_StructElement_GetChildAtIndex(element, place)
            mark = raw.FPDF_StructElement_GetChildMarkedContentID(element, place) if not child else -1
            if child:
                part.held[place] = self._part(child, room, depth + 1)
            elif mark >= 0:
                part.held[place] = mark
        return part

    def _spans(self, element: Any, kind: str) -> tuple[int, int]:
        """Return how many rows and columns a cell spans (ISO 32000-2, 14.8.5.7)."""
        raw, spans = self._raw, {"RowSpan": 1, "ColSpan": 1}
        count = raw.FPDF_StructElement_GetAttributeCount(element) if kind in {"TD", "TH"} else 0
        for place in range(min(max(0, count), len(spans) * 4)):
            attributes = raw.FPDF_StructElement_GetAttributeAtIndex(element, place)
            for name in spans:
                value, number = raw.FPDF_StructElement_Attr_GetValue(attributes, name.encode()), ctypes.c_float()
                if value and raw.FPDF_StructElement_Attr_GetNumberValue(value, number):
                    spans[name] = int(min(max(1, number.value), _MOST_SPANNED))
        return spans["RowSpan"], spans["ColSpan"]

    @staticmethod
    def _said(ask: Callable[..., int], element: Any) -> str:
        return _bytes_of(lambda *room: ask(element, *room)).decode("utf-16-le", "replace").strip("\0")

    def _mark(self, one: Any) -> int:
        """Return the identifier of the marked content that an object, or a group around it, is part of."""
        while one is not None:
            mark: int = self._raw.FPDFPageObj_GetMarkedContentID(one)
            if mark >= 0:
                return mark
            one = one.container
        return -1

    def _box(self, one: Any) -> Box | None:
        """Return where an object stands on the page, in whatever groups it is; None if it is nowhere."""
        try:
            edges = one.get_bounds()
            while (one := one.container) is not None:
                edges = one.get_matrix().on_rect(*edges)
        except self._library.PdfiumError:
            return None
        return self._turn(Box(*edges))


class PdfPicture:
    """A picture on a page of an open PDF."""

    def __init__(self, drawn: Any, place: int, box: Box, mark: int) -> None:
        self._drawn = drawn
        self.place, self.box, self.mark = place, box, mark

    @property
    def ending(self) -> str:
        """How its file is called: of a JPEG, a JPEG 2000, or of what is made a PNG."""
        return next((_FILES[name] for name in self._drawn.get_filters() if name in _FILES), ".png")

    def data(self) -> bytes:
        """Return what tells it from others: its sides, and its data as the document has it."""
        return repr(self._drawn.get_px_size()).encode() + bytes(self._drawn.get_data())

    def as_file(self) -> bytes:
        """Return its file: as it is in the document, or a PNG of what it shows there; nothing if it is too large."""
        if len(left := self._drawn.get_filters(skip_simple=True)) == 1 and left[0] in _FILES:
            return bytes(self._drawn.get_data(decode_simple=True))
        width, height = self._drawn.get_px_size()
        if not 0 < width * height <= MOST_PIXELS:
            return b""
        upright = self._drawn.get_matrix()
        upright.a, upright.b, upright.c, upright.d, upright.e, upright.f = width, 0, 0, height, 0, 0
        self._drawn.set_matrix(upright)
        shown = self._drawn.get_bitmap(render=True, scale_to_original=False).to_pil()
        if shown.mode != "RGBA" or shown.getextrema()[3] == (255, 255):  # nothing is cut out of it
            shown = self._drawn.get_bitmap(render=False).to_pil()
        written = BytesIO()
        shown.save(written, "PNG", compress_level=_EFFORT)
        return written.getvalue()


def _address(drawn: Any) -> int:
    """Return what tells an object of a page from others."""
    return ctypes.cast(drawn, ctypes.c_void_p).value or 0 if drawn else 0


def _box_of(where: Any) -> Box:
    """Return a box as the library has it, whichever corners it goes by."""
    left, right = sorted((where.left, where.right))
    bottom, top = sorted((where.bottom, where.top))
    return Box(left, bottom, right, top)


def _bytes_of(ask: Callable[..., int]) -> bytes:
    """Return a text that the library writes into room that it is given, once it has said how much it needs."""
    length = ask(None, 0)
    if not 0 < length <= _LONGEST_SAID:
        return b""
    room = ctypes.create_string_buffer(length)
    ask(room, length)
    return room.raw
