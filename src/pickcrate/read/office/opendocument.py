"""A spreadsheet as OpenDocument has it (ODF 1.3, part 3, 9: tables), row by row: what ``workbook`` reads of any.

The document is read as a stream: rows and cells that stand for many alike may make a small file very large.
"""

import itertools
import zipfile
from collections.abc import Iterator
from typing import TYPE_CHECKING, BinaryIO

from msgspec import Struct

from pickcrate.read.office.worksheetlinks import MOST_LINKS, MOST_SHEETS, Links
from pickcrate.text.numerals import whole

if TYPE_CHECKING:
    from lxml import etree

_CONTENT = "content.xml"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_HREF = "{http://www.w3.org/1999/xlink}href"
_SHEET, _ROW = f"{_TABLE}table", f"{_TABLE}table-row"
_CELLS = frozenset((f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"))
_NAME = f"{_TABLE}name"
_STATED = ("value", "date-value", "boolean-value")
"""attributes of a cell's value (19.384 and following); of a text it is what the cell shows"""

_HEAD_ROWS, _MOST_IN_HEADS = 50, 1_000_000
"""rows that are kept of each sheet, and cells of all sheets"""

_MOST_COLUMNS = 16_384
_MOST_ALIKE = 10_000
"""rows that stand for many alike, and are not blank"""


_Cells = list[tuple[object, str]]
"""a row: the values of its cells, each with the address behind it"""


class Sheet(Struct):
    """One sheet of a document, by its place among them, from 0, with its first rows.

    Of most sheets nobody asks for more, and whatever stands before a row must be read to come to it.
    """

    file: BinaryIO
    place: int
    title: str
    head: list[_Cells]
    is_whole: bool = True
    """whether it has no rows besides"""

    def iter_rows(self, *, values_only: bool = True) -> Iterator[tuple[object, ...]]:  # noqa: ARG002 (as openpyxl has it)
        """Yield the rows of the sheet, each as the values of its cells."""
        rest = () if self.is_whole else itertools.islice(self._rows(), len(self.head), None)
        for cells in itertools.chain(self.head, rest):
            yield tuple(value for value, _ in cells)

    def _rows(self) -> Iterator[_Cells]:
        for place, element in _elements(self.file):
            if place > self.place:
                return
            if place == self.place and element.tag == _ROW:
                yield from itertools.repeat(*_row(element))


class OpenDocument(Struct, frozen=True):
    """The sheets of a document."""

    worksheets: list[Sheet]


def is_opendocument(file: BinaryIO) -> bool:
    """Tell whether a ZIP is an OpenDocument, whose first member says so (part 2, 3.3)."""
    with zipfile.ZipFile(file) as archive:
        return archive.namelist()[:1] == ["mimetype"]


def open_document(file: BinaryIO) -> OpenDocument:
    """Return the sheets of a spreadsheet. Raises whatever it trips over in broken bytes."""
    sheets: list[Sheet] = []
    left = _MOST_IN_HEADS
    for place, element in _elements(file):
        if place >= MOST_SHEETS:
            break
        if element.tag == _SHEET:
            sheets.append(Sheet(file, place, element.get(_NAME) or "", []))
        elif sheets[place].is_whole:
            cells, times = _row(element)
            room = min(times, _HEAD_ROWS - len(sheets[place].head)) if left > 0 else 0
            sheets[place].head += itertools.repeat(cells, room)
            sheets[place].is_whole = room == times
            left -= len(cells)
    return OpenDocument(sheets)


def links_in_document(file: BinaryIO) -> dict[str, Links]:
    """Return the web addresses behind the cells of a spreadsheet, by the titles of its sheets.

    Raises whatever it trips over in broken bytes.
    """
    found: dict[str, Links] = {}
    links: Links = {}
    number, left = 0, MOST_LINKS
    for place, element in _elements(file):
        if place >= MOST_SHEETS:
            break
        if element.tag == _SHEET:
            links = found.setdefault(element.get(_NAME) or "", {})
            number, left = 0, MOST_LINKS
            continue
        cells, times = _row(element)
        behind = [(column, url) for column, (_, url) in enumerate(cells, 1) if url]
        for row in range(number + 1, number + times + 1) if behind else ():
            for column, url in behind[:left]:
                links.setdefault(column, {})[row] = url
            left = max(left - len(behind), 0)
            if not left:
                break
        number += times
    return found


def _elements(file: BinaryIO) -> "Iterator[tuple[int, etree._Element]]":
    """Yield the sheets and their rows, each with the place of its sheet; a row is forgotten when the next is read."""
    from lxml import etree  # noqa: PLC0415 (only such lists need it)

    place = -1
    with zipfile.ZipFile(file) as archive, archive.open(_CONTENT) as content:
        events = etree.iterparse(content, ("start", "end"), tag=(_SHEET, _ROW), resolve_entities=False, no_network=True)
        for event, element in events:
            if element.tag == _SHEET and event == "start":
                place += 1
                yield place, element
            elif element.tag == _ROW and event == "end":
                yield place, element
                element.clear()
                parent = element.getparent()
                if parent is not None:
                    del parent[: parent.index(element)]


def _row(row: "etree._Element") -> tuple[_Cells, int]:
    """Return a row's cells, without blank ones at the end, and how often it stands there; blank rows count as one."""
    cells: _Cells = []
    for cell in row:
        if cell.tag in _CELLS:
            times = _times(cell, "columns", _MOST_COLUMNS - len(cells))
            cells += [(_value(cell), _link(cell))] * times
    while cells and cells[-1] == (None, ""):
        cells.pop()
    return cells, _times(row, "rows", _MOST_ALIKE) if cells else 1


def _times(element: "etree._Element", what: str, most: int) -> int:
    """Return how often a row or a cell stands there (19.675, 19.678), and no more than ``most``."""
    return min(whole(element.get(f"{_TABLE}number-{what}-repeated") or "1") or 1, max(most, 0))


def _value(cell: "etree._Element") -> object:
    stated = next((value for name in _STATED if (value := cell.get(f"{_OFFICE}{name}"))), None)
    if stated is not None:
        return stated.removesuffix(".0")
    return "\n".join("".join(map(str, part.itertext())) for part in cell if part.tag == f"{_TEXT}p") or None


def _link(cell: "etree._Element") -> str:
    return next((link.get(_HREF) or "" for link in cell.iter(f"{_TEXT}a")), "")
