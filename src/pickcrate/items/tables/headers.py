"""The headers of a table: which of its rows are made of them, and what they say of each column."""

from bisect import bisect_left
from collections import Counter

from pickcrate.items.ground import Ground
from pickcrate.items.tables.table import Cell, Table

_MOST_HEADER_ROWS = 8
_LONGEST_HEADER = 60
_LEAST_ROWS = 3
"""of a table without header cells, if the first is one of headers"""

_MOST_WITH_PICTURES = 0.8


class Headers:
    """The rows of headers of one table."""

    def __init__(self, tree: Ground, table: Table) -> None:
        self._tree = tree
        self._table = table
        self._known: dict[int, dict[int, str]] = {}
        self.rows = self._marked_rows()
        if not self.rows and self._begins_with_headers():
            self.rows.add(0)
        self._sorted = sorted(self.rows)

    def labels(self, y: int) -> dict[int, str]:
        """Return the words of each column's headers for a row: the lowest, with those above where it is not alone."""
        last = bisect_left(self._sorted, y) - 1
        if last < 0:
            last = len(self._sorted) - 1
        known = self._known.get(last)
        if known is None:
            known = self._known[last] = self._labels_of(self._block(last))
        return known

    def _block(self, last: int) -> list[int]:
        """Return the rows of headers that follow one another down to one, from the top."""
        block: list[int] = []
        for row in reversed(self._sorted[: last + 1]):
            if block and (row != block[-1] - 1 or len(block) == _MOST_HEADER_ROWS):
                break
            block.append(row)
        return block[::-1]

    def _labels_of(self, block: list[int]) -> dict[int, str]:
        stacks: dict[int, list[str]] = {}
        for x in range(self._table.width):
            cells = dict.fromkeys(self._table.at.get((x, y)) for y in block)
            texts = [self._table.text(cell) for cell in cells if cell is not None]
            if said := [text for text in texts if text]:
                stacks[x] = said
        lowest = Counter(stack[-1] for stack in stacks.values())
        return {
            x: stack[-1] if lowest[stack[-1]] == 1 else " ".join(dict.fromkeys(stack)) for x, stack in stacks.items()
        }

    def _marked_rows(self) -> set[int]:
        """Return the rows of a head and those of header cells alone, but for one that is a single cell."""
        rows: set[int] = set()
        for y in range(len(self._table.rows)):
            cells = [cell for cell in self._table.row(y) if cell.y == y]
            is_alone = len(cells) + len(rows) <= 1
            if not is_alone and self._is_marked(y, cells):
                rows.add(y)
        return rows

    def _is_marked(self, y: int, cells: list[Cell]) -> bool:
        tree, table = self._tree, self._table
        told = [cell for cell in cells if cell.pictures or table.text(cell)]
        if any(cell.width >= table.width for cell in told):
            return False
        if tree.tags[tree.parent[table.rows[y]]] == "thead":
            return True
        return bool(told) and all(cell.is_header and cell.scope != "row" for cell in told)

    def _begins_with_headers(self) -> bool:
        """Tell whether the first row of a table without header cells says what stands in each column."""
        table = self._table
        first = table.row(0)
        if len(table.rows) < _LEAST_ROWS or any(cell.is_header or cell.pictures for cell in first):
            return False
        if len(first) != table.width or len(first) < 2:
            return False
        worded = [cell for cell in first if 0 < len(table.text(cell)) <= _LONGEST_HEADER]
        # Above the pictures there may be nothing.
        rest = [cell for cell in first if cell not in worded]
        are_blank = len(rest) <= 1 and all(not table.text(cell) and self._has_pictures(cell.x) for cell in rest)
        return len(worded) > 1 and are_blank and self._is_unlike_the_others(worded)

    def _has_pictures(self, x: int) -> bool:
        return any(cell.pictures for cell in self._table.column(x))

    def _is_unlike_the_others(self, first: list[Cell]) -> bool:
        """Tell whether a first row of plain cells is bold, or has neither pictures nor numbers, as those below have."""
        tree, table = self._tree, self._table
        if all(tree.has_within(cell.element, "b, strong") for cell in first):
            return True
        below = [row for y in range(1, len(table.rows)) if (row := table.row(y)) and row[0].width < table.width]
        pictured = [any(cell.pictures for cell in row) for row in below]
        has_numbers = any(map(str.isdigit, "".join(table.text(cell) for cell in first)))
        return not has_numbers and sum(pictured) >= max(1, _MOST_WITH_PICTURES * len(below))
