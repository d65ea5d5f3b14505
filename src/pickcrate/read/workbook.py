"""A list in a workbook, as spreadsheets save it: the first sheet that holds web addresses, row by row.

What is a link and shows other words (a hyperlink, a formula that makes one or shows a picture) has its address in a
column of its own.

Office Open XML (ECMA-376), part 1, 18 (SpreadsheetML), and 18.3.1.73 for how many rows a sheet may have.
"""

import itertools
import re
import warnings
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime, time
from functools import partial
from typing import TYPE_CHECKING, BinaryIO

from pickcrate.errors import PickCrateError, SourceError
from pickcrate.lazyre import lazy
from pickcrate.read.table import SAMPLE_ROWS, Row, Table, chosen_columns, guess_columns, is_address, is_own, plain_cell
from pickcrate.values import Flaw

if TYPE_CHECKING:
    from openpyxl.workbook import Workbook

_MOST_SHEETS, _MOST_ROWS = 20, 1_048_576
_MOST_CELLS = 10_000_000
"""A row has 16,384 if its last has something: a small file may have very many."""

_MOST_ABOVE = 50
"""Rows above the first with an address: titles, blanks, and the headers."""

_MOST_AS_A_WHOLE, _MOST_LINKED = 20_000_000, 1_000_000
"""Bytes of the sheets of a workbook, and cells of a sheet, where links behind words are looked for: in memory."""

_MARKS = (b"<hyperlink", b"HYPERLINK(", b"IMAGE(")
_IN_FORMULA = lazy(r"=\s*(?:_xlfn\.)?(?:HYPERLINK|IMAGE)\(\s*\"([^\"]{8,2000})\"", re.IGNORECASE)
"""a formula that makes a link, or shows a picture (ECMA-376, part 1, 18.17.7)"""

_Cells = tuple[str, ...]
"""a row, as it is shown"""

_Links = dict[str, dict[int, dict[int, str]]]
"""the addresses behind cells, by the sheet's title, by column and by row, both from 1"""


def open_workbook(file: BinaryIO, source: str, chosen: Mapping[str, str], most: int) -> Table:
    """Open the list in a workbook that unpacks to ``most`` bytes; ``chosen`` maps fields to headers.

    Raises UsageError, SourceError.
    """
    with _readable(source):
        _check_size(file, source, most)
        links = _links_in(_loaded(file, whole=True)) if _may_have_links(file) else {}
        rows, lines = _sheet_with_addresses(_loaded(file), links)
    has_header = not any(map(is_address, rows[0])) if rows else False
    headers = list(rows[0]) if has_header else [str(place) for place in range(1, len(rows[0]) + 1 if rows else 1)]
    table = Table(iter(()), chosen_columns(chosen, headers, has_header))
    sample = [list(row) for row in rows[has_header:][:SAMPLE_ROWS]]
    guess_columns(table, headers, sample, source)

    def read() -> Iterator[Row | Flaw]:
        try:
            for cells in itertools.chain(rows[has_header:], lines):
                if any(cells):
                    yield dict(zip(headers, map(plain_cell, cells), strict=False))
        except Exception as error:  # noqa: BLE001 (a workbook may be broken anywhere, and its reader says so in any way)
            yield Flaw("row", f"the rest of it cannot be read: {str(error)[:200]}")

    table.rows = read()
    return table


def lists_addresses(file: BinaryIO, most: int) -> bool:
    """Tell whether a workbook is a list: a sheet of it holds web addresses."""
    try:
        open_workbook(file, "", {}, most)
    except PickCrateError:
        return False
    return True


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


def _loaded(file: BinaryIO, *, whole: bool = False) -> "Workbook":
    """Return a workbook with what its cells show, row by row; as a ``whole`` with the formulas and the links."""
    import openpyxl  # noqa: PLC0415 (only such lists need it)

    warnings.filterwarnings("ignore", module=r"openpyxl\b")  # of looks that it does not keep
    return openpyxl.load_workbook(file, read_only=not whole, data_only=not whole, keep_links=False)


def _may_have_links(file: BinaryIO) -> bool:
    """Tell whether a workbook has links behind words, and is small enough to be read as a whole for them."""
    with zipfile.ZipFile(file) as archive:
        sheets = [member for member in archive.infolist() if member.filename.startswith("xl/worksheets/")]
        if sum(member.file_size for member in sheets) > _MOST_AS_A_WHOLE:
            return False
        return any(mark in archive.read(member) for member in sheets for mark in _MARKS)


def _links_in(workbook: "Workbook") -> _Links:
    """Return the web addresses behind the cells of each sheet: of a hyperlink, or in a formula."""
    found: _Links = {}
    for sheet in workbook.worksheets[:_MOST_SHEETS]:
        links: dict[int, dict[int, str]] = {}
        found[sheet.title] = links
        is_vast = sheet.max_row * sheet.max_column > _MOST_LINKED  # all of them would be made, blank ones too
        for cell in () if is_vast else itertools.chain.from_iterable(sheet.iter_rows()):
            target = cell.hyperlink.target if cell.hyperlink is not None else None
            if not target and isinstance(cell.value, str) and (match := _IN_FORMULA.match(cell.value)) is not None:
                target = match[1]
            if target and is_address(target) and cell.value != target and cell.column and cell.row:
                links.setdefault(cell.column, {})[cell.row] = target
    return found


def _sheet_with_addresses(workbook: "Workbook", links: _Links) -> tuple[list[_Cells], Iterator[_Cells]]:
    """Return the first rows of the list in a workbook, from its headers on, and the others.

    Where no sheet holds addresses, those of the first that holds anything.
    """
    first: tuple[list[_Cells], Iterator[_Cells]] = ([], iter(()))
    for sheet in workbook.worksheets[:_MOST_SHEETS]:
        behind = links.get(sheet.title, {})
        lines = _lines(sheet.iter_rows(values_only=True))
        numbered = [(number, cells) for number, cells in itertools.islice(lines, _MOST_ABOVE) if any(cells)]
        width = max((len(cells) for _, cells in numbered), default=0)
        wide = partial(_with_links, width=width, behind=behind)
        head = [wide(line) for line in numbered]
        at = next((place for place, cells in enumerate(head) if any(map(is_address, cells)) or is_own(cells)), None)
        if at is not None:
            start = at if is_own(head[at]) or at == 0 else at - 1
            if start < at:  # the headers
                head[start] = (*head[start][:width], *(f"{head[start][column - 1]} link" for column in behind))
            return head[start:], map(wide, lines)
        if head and not first[0]:
            first = head, map(wide, lines)
    return first


def _with_links(line: tuple[int, _Cells], width: int, behind: dict[int, dict[int, str]]) -> _Cells:
    """Return a row as wide as others, with the addresses behind its cells after them."""
    number, cells = line
    return (*cells[:width], *[""] * (width - len(cells)), *(column.get(number, "") for column in behind.values()))


def _lines(rows: Iterable[tuple[object, ...]]) -> Iterator[tuple[int, _Cells]]:
    """Yield the rows of a sheet as they are shown, numbered from 1; a ValueError ends those of too many cells."""
    left = _MOST_CELLS
    for number, cells in enumerate(itertools.islice(rows, _MOST_ROWS), 1):
        left -= len(cells)
        if left < 0:
            raise ValueError(f"it has more than {_MOST_CELLS:,} cells")
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
