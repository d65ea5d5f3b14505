"""The pictures on the sheets of a workbook, and in their cells, as a page: each in the row that it is laid on.

Office Open XML (ECMA-376), part 1, 20.5 (SpreadsheetML drawings).
"""

import itertools
import zipfile
from collections import defaultdict
from collections.abc import Iterator, Sequence
from html import escape
from typing import BinaryIO

from pickcrate.read.data.xmltree import within, xml_root
from pickcrate.read.office.cellpictures import pictures_in_cells
from pickcrate.read.office.office import (
    PROPERTIES,
    Load,
    main_part,
    picture,
    target_of,
    targets_of,
    titled,
)
from pickcrate.read.office.workbook import shown_rows
from pickcrate.read.office.worksheetlinks import MOST_SHEETS, elements, place_of

_MOST_ROWS, _MOST_COLUMNS = 20_000, 200
_NO_TEXT = "#VALUE!"
"""what stands in a cell whose value is a picture, for programs that know of none"""

_Laid = dict[int, dict[int, list[str]]]
"""the pictures of a sheet, as HTML, by the row and the column that they are laid on, from 0"""


def sheets_page(file: BinaryIO, load: Load) -> str | None:
    """Return the sheets of a workbook that have pictures as tables in HTML; None if none has, or it is no workbook."""
    part = main_part(load)
    root = xml_root(load(part)) if part else None
    if root is None:
        return None
    leads = targets_of(part, load)
    sheets = itertools.islice(within(root, "sheet"), MOST_SHEETS)
    named = {sheet.get("name") or "": target_of(sheet, leads) for sheet in sheets}
    laid = {title: _laid_on(path, load) for title, path in named.items() if path}
    if pictures := pictures_in_cells(part, load):
        with zipfile.ZipFile(file) as archive:
            for title, path in named.items():
                if path:
                    _add_values(laid[title], archive, path, pictures)
    tables = {title: _table(rows, laid[title]) for title, rows in shown_rows(file) if laid.get(title)}
    if not tables:
        return None
    named_tables = (f"<h2>{escape(title)}</h2>{table}" for title, table in tables.items())
    shown = named_tables if len(tables) > 1 else tables.values()
    return "".join((titled(PROPERTIES, load), *shown))


def _laid_on(sheet: str, load: Load) -> _Laid:
    """Return the pictures that are laid on a sheet."""
    laid: _Laid = defaultdict(lambda: defaultdict(list))
    for path in targets_of(sheet, load).values():
        drawing = xml_root(load(path)) if "/drawings/" in path and path.endswith(".xml") else None
        leads = targets_of(path, load) if drawing is not None else {}
        for anchor in within(drawing, "twoCellAnchor", "oneCellAnchor"):
            place = [int(said.text or 0) for said in within(anchor, "row", "col") if (said.text or "").isdecimal()][:2]
            described = next(within(anchor, "cNvPr"), None)
            alt = (described.get("descr") or "") if described is not None else ""
            for blip in within(anchor, "blip"):
                if (target := target_of(blip, leads)) and len(place) == 2:  # the column stands before the row
                    laid[place[1]][place[0]].append(picture(target, alt))
    return laid


def _add_values(laid: _Laid, archive: zipfile.ZipFile, sheet: str, pictures: list[str]) -> None:
    """Add the pictures that are the values of a sheet's cells."""
    for cell in elements(archive, sheet, "c"):
        said, place = cell.get("vm") or "", place_of(cell.get("r") or "")
        if place is not None and said.isdecimal() and 0 < int(said) <= len(pictures):
            row, column = place
            laid[row - 1][column - 1].append(pictures[int(said) - 1])


def _table(rows: Iterator[Sequence[str]], laid: _Laid) -> str:
    """Return a sheet as a table: its first row that says anything has the heads, if no picture is laid on it."""
    last = min(max(laid), _MOST_ROWS)
    written: list[str] = []
    for number, cells in enumerate(itertools.islice(itertools.chain(rows, itertools.repeat(())), last + 1)):
        pictures = laid.get(number, {})
        if not pictures and not any(cells):
            continue
        tag = "td" if written or pictures else "th"
        width = min(max(len(cells), max(pictures, default=-1) + 1), _MOST_COLUMNS)
        shown = (escape(cells[at]) if at < len(cells) and cells[at] != _NO_TEXT else "" for at in range(width))
        held = (f"<{tag}>{said}{''.join(pictures.get(at, ()))}</{tag}>" for at, said in enumerate(shown))
        written.append(f"<tr>{''.join(held)}</tr>")
    return f"<table>{''.join(written)}</table>"
