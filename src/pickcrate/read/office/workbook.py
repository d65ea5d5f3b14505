"""A list in a workbook, as spreadsheets save it: the first sheet that holds web addresses, row by row.

If none does, it is the first that holds paths of pictures.
What is a link and shows other words (a hyperlink, a formula that makes one or shows a picture) has its address in a
column of its own.

Office Open XML (ECMA-376), part 1, 18 (SpreadsheetML), and 18.3.1.73 for how many rows a sheet may have; and
OpenDocument.
"""

import itertools
import warnings
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime, time
from functools import partial
from typing import TYPE_CHECKING, BinaryIO

from pickcrate.addresses.url import is_picture_path
from pickcrate.errors import PickCrateError, SourceError
from pickcrate.read.lists.cells import Row, holds, is_address, is_entry
from pickcrate.read.lists.picklist import is_own, plain_cell
from pickcrate.read.lists.table import SAMPLE_ROWS, Table, chosen_columns, each_address, guess_columns
from pickcrate.read.office.opendocument import OpenDocument, is_opendocument, links_in_document, open_document
from pickcrate.read.office.worksheetlinks import MOST_CELLS, MOST_SHEETS, Links, links_in
from pickcrate.values.flaw import Flaw

if TYPE_CHECKING:
    from openpyxl.workbook import Workbook

    _Book = Workbook | OpenDocument

_MOST_ROWS = 1_048_576
_MOST_ABOVE = 50
"""Rows above the first with an address: titles, blanks, and the headers."""

_PICTURES = ("xl/media/", "Pictures/")
_Test = Callable[[str], bool]
"""tells whether a cell may be an address"""

_Cells = tuple[str, ...]
"""a row, as it is shown"""


def open_workbook(file: BinaryIO, source: str, chosen: Mapping[str, str], most: int) -> Table:
    """Open the list in a workbook that unpacks to ``most`` bytes; ``chosen`` maps fields to headers.

    Raises UsageError, SourceError.
    """
    with _readable(source):
        _check_size(file, source, most)
        rows, lines = _sheet_with(is_address, _loaded(file), _links(file))
        if not _is_list(rows, is_address):
            rows, lines = _sheet_with(is_picture_path, _loaded(file), {})
    has_header = not any(holds(cell, is_entry) for cell in rows[0]) if rows else False
    headers = list(rows[0]) if has_header else [str(place) for place in range(1, len(rows[0]) + 1 if rows else 1)]
    table = Table(iter(()), chosen_columns(chosen, headers, has_header), headers=headers, has_header=has_header)
    sample = [list(row) for row in rows[has_header:][:SAMPLE_ROWS]]
    guess_columns(table, sample, source)

    def read() -> Iterator[Row | Flaw]:
        try:
            for cells in itertools.chain(rows[has_header:], lines):
                if any(cells):
                    yield dict(zip(headers, map(plain_cell, cells), strict=False))
        except Exception as error:  # noqa: BLE001 (a workbook may be broken anywhere, and its reader says so in any way)
            yield Flaw("row", f"the rest of it cannot be read: {str(error)[:200]}")

    table.rows = each_address(read(), table)
    return table


def shown_rows(file: BinaryIO) -> Iterator[tuple[str, Iterator[_Cells]]]:
    """Yield the sheets of a workbook, each by its title with its rows as they are shown, blank ones as well."""
    for sheet in _loaded(file).worksheets[:MOST_SHEETS]:
        yield sheet.title, (cells for _, cells in _lines(sheet.iter_rows(values_only=True)))


def lists_addresses(file: BinaryIO, most: int) -> bool:
    """Tell whether a workbook is a list: a sheet of it shows web addresses, or else has them behind its cells.

    The paths of pictures make it one as well, if it holds no pictures itself.
    """
    try:
        with _readable(""):
            _check_size(file, "", most)
            shown, _ = _sheet_with(is_address, _loaded(file), {})
            if not _is_list(shown, is_address):
                shown, _ = _sheet_with(is_address, _loaded(file), _links(file))
            if _is_list(shown, is_address) or _holds_pictures(file):
                return _is_list(shown, is_address)
            shown, _ = _sheet_with(is_picture_path, _loaded(file), {})
    except PickCrateError:
        return False
    return _is_list(shown, is_picture_path)


def _holds_pictures(file: BinaryIO) -> bool:
    with zipfile.ZipFile(file) as archive:
        return any(name.startswith(_PICTURES) for name in archive.namelist())


def _is_list(rows: list[_Cells], is_one: _Test) -> bool:
    return any(is_own(cells) or any(holds(cell, is_one) for cell in cells) for cells in rows)


@contextmanager
def _readable(source: str) -> Iterator[None]:
    try:
        yield
    except PickCrateError:
        raise
    except Exception as error:
        raise SourceError(f"{source}: cannot be read as a workbook: {str(error)[:200]}") from error


def _check_size(file: BinaryIO, source: str, most: int) -> None:
    """Raise a SourceError for a workbook that unpacks to over ``most`` bytes: no member holds more than it says."""
    with zipfile.ZipFile(file) as archive:
        if sum(member.file_size for member in archive.infolist()) > most:
            hint = "allow more with --max-file"
            raise SourceError(f"{source}: larger than --max-file when it is unpacked", hint=hint)


def _loaded(file: BinaryIO) -> "_Book":
    if is_opendocument(file):
        return open_document(file)
    import openpyxl  # noqa: PLC0415 (only such lists need it)

    warnings.filterwarnings("ignore", module=r"openpyxl\b")  # of looks that it does not keep
    return openpyxl.load_workbook(file, read_only=True, data_only=True, keep_links=False)


def _links(file: BinaryIO) -> dict[str, Links]:
    return links_in_document(file) if is_opendocument(file) else links_in(file)


def _sheet_with(is_one: _Test, workbook: "_Book", links: dict[str, Links]) -> tuple[list[_Cells], Iterator[_Cells]]:
    """Return the first rows of the list in a workbook, from its headers on, and the others.

    Where no sheet holds an address, those of the first that holds anything.
    """
    first: tuple[list[_Cells], Iterator[_Cells]] = ([], iter(()))
    for sheet in workbook.worksheets[:MOST_SHEETS]:
        lines = _lines(sheet.iter_rows(values_only=True))
        numbered = [(number, cells) for number, cells in itertools.islice(lines, _MOST_ABOVE) if any(cells)]
        width = max((len(cells) for _, cells in numbered), default=0)
        behind = {n: column for n, column in links.get(sheet.title, {}).items() if _says_more(n, column, numbered)}
        wide = partial(_with_links, width=width, behind=behind)
        head = [wide(line) for line in numbered]
        at = next((place for place, cells in enumerate(head) if _is_list([cells], is_one)), None)
        if at is not None:
            start = at if is_own(head[at]) or at == 0 else at - 1
            if start < at:  # the headers
                head[start] = (*head[start][:width], *(f"{head[start][column - 1]} link" for column in behind))
            return head[start:], map(wide, lines)
        if head and not first[0]:
            first = head, map(wide, lines)
    return first


def _says_more(column: int, behind: dict[int, str], rows: list[tuple[int, _Cells]]) -> bool:
    """Tell whether there are addresses behind the cells of a column, and not only those that they show."""
    return any(behind.get(number, "") not in {"", *cells[column - 1 : column]} for number, cells in rows)


def _with_links(line: tuple[int, _Cells], width: int, behind: Links) -> _Cells:
    """Return a row as wide as others, with the addresses behind its cells after them."""
    number, cells = line
    return (*cells[:width], *[""] * (width - len(cells)), *(column.get(number, "") for column in behind.values()))


def _lines(rows: Iterable[tuple[object, ...]]) -> Iterator[tuple[int, _Cells]]:
    """Yield the rows of a sheet as they are shown, numbered from 1; a ValueError ends those of too many cells."""
    left = MOST_CELLS
    for number, cells in enumerate(itertools.islice(rows, _MOST_ROWS), 1):
        left -= len(cells)
        if left < 0:
            raise ValueError(f"it has more than {MOST_CELLS:,} cells")
        yield number, tuple(map(_said, cells))


def _said(value: object) -> str:
    """Return what a cell shows."""
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    if isinstance(value, datetime) and value.time() == time():
        return value.date().isoformat()
    return str(value).strip()
