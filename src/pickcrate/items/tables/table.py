"""Tables: their cells by the slots that they cover, and which of them are headers.

HTML standard, 4.9.12 (forming a table, and its header cells); WAI-ARIA 1.2 for tables that are made by roles.
"""

from bisect import bisect_left
from collections.abc import Iterator

from msgspec import Struct

from pickcrate.finders.tree import count_between
from pickcrate.items.ground import CELL_ROLES, Ground
from pickcrate.text.numerals import whole

_MOST_COLUMNS = 1_000
_MOST_SLOTS = 20_000


class Cell(Struct, frozen=True):
    """One cell: its element, the slots that it covers, and whether it is a header, of what."""

    element: int
    x: int
    y: int
    width: int
    height: int
    is_header: bool
    scope: str
    pictures: int
    """that stand in it, and in no table inside it; without signs beside those of others"""


class Table:
    """One table's cells by their slots."""

    def __init__(self, tree: Ground, element: int, rows: list[tuple[int, list[tuple[int, bool, str]]]]) -> None:
        """Place the cells of ``rows``: an element with its cells, each an element, a header or not, and a scope."""
        self._tree = tree
        self.element = element
        self._telling = tree.telling(element)
        self.rows = [row for row, _ in rows]
        self.cells: list[Cell] = []
        self.at: dict[tuple[int, int], Cell] = {}
        self.by_element: dict[int, Cell] = {}
        self._of_row: dict[int, list[Cell]] = {}
        self._of_column: dict[int, list[Cell]] = {}
        for y, (_, cells) in enumerate(rows):
            x = 0
            for number, is_header, scope in cells:
                while (x, y) in self.at:
                    x += 1
                x = self._place(number, x, y, is_header, scope)
        self.width = max((cell.x + cell.width for cell in self.cells), default=0)

    def _place(self, number: int, x: int, y: int, is_header: bool, scope: str) -> int:
        """Put a cell into its slots, and return the column after it."""
        tree = self._tree
        width = min(max(1, whole(tree.attribute(number, "colspan")) or 1), _MOST_COLUMNS)
        height = whole(tree.attribute(number, "rowspan"))
        height = len(self.rows) - y if height == 0 else min(max(1, height or 1), len(self.rows) - y)
        if len(self.at) + width * height > _MOST_SLOTS + 8 * len(self.cells):  # absurd spans are none
            width = height = 1
        nested = sum(map(self.pictures, _outermost_tables(tree, number)))
        cell = Cell(number, x, y, width, height, is_header, scope, self.pictures(number) - nested)
        self.cells.append(cell)
        self.by_element[number] = cell
        for row in range(y, y + height):
            self._of_row.setdefault(row, []).append(cell)
            for column in range(x, x + width):
                self.at.setdefault((column, row), cell)
        for column in range(x, x + width):
            self._of_column.setdefault(column, []).append(cell)
        return x + width

    def pictures(self, number: int) -> int:
        """Return how many pictures an element of the table holds, without signs beside those of others."""
        return count_between(self._telling, number, self._tree.end[number])

    def text(self, cell: Cell) -> str:
        """Return a cell's words."""
        return self._tree.text(cell.element)

    def row(self, y: int) -> list[Cell]:
        """Return the cells that cover a row, each once, from left to right."""
        return sorted(self._of_row.get(y, ()), key=lambda cell: cell.x)

    def column(self, x: int) -> list[Cell]:
        """Return the cells that cover a column, each once, from the top."""
        return sorted(self._of_column.get(x, ()), key=lambda cell: cell.y)


def read_table(tree: Ground, element: int) -> Table | None:
    """Return the table that an element is, or None if it has no rows."""
    if tree.tags[element] == "table":
        rows = [(row, list(_html_cells(tree, row))) for row in _html_rows(tree, element)]
    else:
        rows = [(row, list(_role_cells(tree, row))) for row in _role_rows(tree, element)]
    return Table(tree, element, rows) if rows else None


def _html_rows(tree: Ground, table: int) -> Iterator[int]:
    """Yield the rows: those of the head first, those of the foot last, wherever they stand (4.9.12)."""
    feet: list[int] = []
    for child in tree.children(table):
        tag = tree.tags[child]
        if tag == "tr":
            yield child
        elif tag in {"thead", "tbody"}:
            yield from (row for row in tree.children(child) if tree.tags[row] == "tr")
        elif tag == "tfoot":
            feet += [row for row in tree.children(child) if tree.tags[row] == "tr"]
    yield from feet


def _html_cells(tree: Ground, row: int) -> Iterator[tuple[int, bool, str]]:
    for child in tree.children(row):
        if tree.tags[child] in {"td", "th"}:
            yield child, tree.tags[child] == "th", tree.attribute(child, "scope").lower()


def _role_rows(tree: Ground, table: int) -> Iterator[int]:
    yield from tree.within(table, "[role=row]")


def _role_cells(tree: Ground, row: int) -> Iterator[tuple[int, bool, str]]:
    for child in tree.children(row):
        role = tree.attribute(child, "role")
        if role in CELL_ROLES:
            yield child, role.endswith("header"), {"columnheader": "col", "rowheader": "row"}.get(role, "")


def _outermost_tables(tree: Ground, element: int) -> Iterator[int]:
    """Yield the tables inside an element that are in no other inside it."""
    tables = tree.selected("table")
    at = bisect_left(tables, element + 1)
    while at < len(tables) and tables[at] < tree.end[element]:
        yield tables[at]
        at = bisect_left(tables, tree.end[tables[at]])
