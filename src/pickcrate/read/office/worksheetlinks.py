"""What stands behind the cells of a workbook: the targets of hyperlinks, and the addresses in formulas.

ECMA-376, part 1, 18.3.1.47 (hyperlink) and 18.17.7 (functions); part 2, 9.3 (relationships). The parts are read as a
stream: of what a library makes of them, blank cells and all, a small file may make very much.
"""

import re
import zipfile
from collections.abc import Iterator
from typing import TYPE_CHECKING, BinaryIO

from pickcrate.read.lists.cells import is_address
from pickcrate.read.office.office import targets_of
from pickcrate.text.lazyre import lazy

if TYPE_CHECKING:
    from lxml import etree

MOST_SHEETS, MOST_LINKS = 20, 200_000
MOST_CELLS = 10_000_000
"""A row has 16,384 if its last has something: a small file may have very many."""

_BOOK = "xl/workbook.xml"
_ID = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"
_CELL = lazy(r"([A-Z]{1,3})(\d{1,7})(?![A-Z\d])")
_IN_FORMULA = lazy(r"\s*(?:_xlfn\.)?(?:HYPERLINK|IMAGE)\(\s*\"([^\"]{8,2000})\"", re.IGNORECASE)
"""a formula that makes a link, or shows a picture"""

Links = dict[int, dict[int, str]]
"""the web addresses behind the cells of a sheet, by column and by row, both from 1"""


def links_in(file: BinaryIO) -> dict[str, Links]:
    """Return the web addresses behind the cells of a workbook, by the titles of its sheets.

    Raises whatever it trips over in broken bytes.
    """
    with zipfile.ZipFile(file) as archive:
        targets = _targets(archive, _BOOK)
        named = [(element.get("name") or "", element.get(_ID) or "") for element in elements(archive, _BOOK, "sheet")]
        return {title: _links_of(archive, targets[one]) for title, one in named[:MOST_SHEETS] if one in targets}


def _links_of(archive: zipfile.ZipFile, part: str) -> Links:
    targets = _targets(archive, part)
    found: Links = {}
    left = MOST_LINKS
    for element in elements(archive, part, "c", "hyperlink"):
        if element.tag.endswith("}c"):
            formula = _IN_FORMULA.match(element.findtext("{*}f") or "")
            url, place = formula[1] if formula is not None else "", element.get("r") or ""
        else:
            url, place = targets.get(element.get(_ID) or "", ""), element.get("ref") or ""
        cell = place_of(place) if is_address(url) else None
        if cell is not None and left:
            left -= 1
            row, column = cell
            found.setdefault(column, {})[row] = url
    return found


def place_of(reference: str) -> tuple[int, int] | None:
    """Return the row and the column, both from 1, of a cell, or of the first of several: "B3", "AA7:AB9"."""
    cell = _CELL.match(reference)
    if cell is None:
        return None
    column = 0
    for letter in cell[1]:
        column = 26 * column + ord(letter) - ord("A") + 1
    return int(cell[2]), column


def _targets(archive: zipfile.ZipFile, part: str) -> dict[str, str]:
    known = frozenset(archive.namelist())
    return targets_of(part, lambda path: archive.read(path) if path in known else b"")


def elements(archive: zipfile.ZipFile, part: str, *names: str) -> Iterator["etree._Element"]:
    """Yield the elements of a part that have one of some names; each is gone when the next is asked for."""
    from lxml import etree  # noqa: PLC0415 (only workbooks with links need it)

    tags = [f"{{*}}{name}" for name in names]
    with archive.open(part) as stream:
        for _, element in etree.iterparse(stream, tag=tags, resolve_entities=False, no_network=True):
            yield element
            element.clear()
            for outer in (element, element.getparent()):  # what was read before, in its row, and the rows before
                while outer is not None and (before := outer.getprevious()) is not None:
                    before.getparent().remove(before)
