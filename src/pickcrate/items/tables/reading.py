"""What a table lists: its rows, its columns, its cells, or nothing; and what it says of each."""

from bisect import bisect_left
from collections import Counter
from collections.abc import Container
from enum import Enum
from functools import cached_property

from pickcrate.items.ground import Ground
from pickcrate.items.said.junk import NAMING_PEOPLE, says_nothing
from pickcrate.items.said.lines import COLONS
from pickcrate.items.tables.headers import Headers
from pickcrate.items.tables.rownames import RowNames, heads_names
from pickcrate.items.tables.table import Cell, Table
from pickcrate.items.unit import Unit
from pickcrate.text.headers import NAMING
from pickcrate.values.item import ItemForm, NamedBy

_FEW = 3
"""Pictures in a small table that is a card of a larger one."""
_NEARLY_ALL = 0.8
_FEWEST_FACTS, _SEVERAL = 2, 2
_LONGEST_ROW = 800
"""Characters that a row of a table without headers has at most, if it is one of its like."""


class Lists(Enum):
    """What a table is a list of."""

    NOTHING = "nothing"
    ROWS = "rows"
    COLUMNS = "columns"
    CELLS = "cells"
    FACTS = "what is said of one thing"
    CAPTIONED = "pictures with their words in the cell below, above or beside"


class Side(Enum):
    """Where the words of a picture stand in a table that lays out."""

    BELOW = "below"
    ABOVE = "above"
    RIGHT = "right"
    LEFT = "left"


_SIDES = tuple(Side)
_BESIDE = (Side.RIGHT, Side.LEFT)
_NAMING_ANYTHING = NAMING | NAMING_PEOPLE
_ANY_COLON = "".join(COLONS)


class TableReading:
    """What a table lists, and the unit that a cell of it belongs to."""

    def __init__(self, tree: Ground, table: Table) -> None:
        self._tree = tree
        self._table = table
        self._units: dict[int, Unit | None] = {}
        self._pictured = sum(1 for cell in table.cells if cell.pictures)
        self._headers = Headers(tree, table)
        self._names = RowNames(tree, table, self._headers)
        self._header_rows = self._headers.rows
        self._body_rows = [y for y in range(len(table.rows)) if y not in self._header_rows]
        self._ends_in_pictures = any(cell.pictures for cell in table.row(len(table.rows) - 1))
        self._caption = self._title()
        self._words_stand = Side.BELOW
        self._holds_tables = False
        self._has_labels = True
        """whether the first column says what the rows are, if things stand side by side"""
        self.lists = self._listed()

    @property
    def lists_nothing(self) -> bool:
        """Whether it lays out, and is no list."""
        return self.lists is Lists.NOTHING

    @property
    def rows_of(self) -> int:
        """Of how many columns the rows are that the table lists, without headers; 0 if it lists something else."""
        return self._table.width if self.lists is Lists.ROWS and not self._header_rows else 0

    def read_as_rows(self, widths: Container[int]) -> None:
        """Take the table for a list of one row, if its width is one of ``widths``: of lists beside it."""
        if self.lists is Lists.NOTHING and len(self._table.rows) == 1 and self._table.width in widths:
            self.lists = Lists.ROWS

    def unit(self, cell_element: int) -> Unit | None:
        """Return the unit of a cell with a picture; None if the table lists nothing, or the cell is a header."""
        cell = self._table.by_element.get(cell_element)
        if cell is None:
            return None
        is_beside = self.lists is Lists.ROWS and self._tree.pictures(cell_element) > 0
        if bool(cell.pictures) == self._holds_tables and not is_beside:
            return None
        if cell.y in self._header_rows and self.lists is not Lists.COLUMNS:
            return None
        match self.lists:
            case Lists.ROWS:
                return self._row_unit(cell)
            case Lists.COLUMNS:
                return self._column_unit(cell)
            case Lists.CELLS:
                return self._unit(ItemForm.CELL, [cell.element], like=self._pictured)
            case Lists.CAPTIONED:
                return self._captioned_unit(cell)
            case Lists.FACTS:
                return self._whole_unit()
            case _:
                return None

    # --- what it is ---

    def _title(self) -> str:
        tree, element = self._tree, self._table.element
        caption = next((child for child in tree.children(element) if tree.tags[child] == "caption"), None)
        if caption is not None:
            return tree.text(caption)
        return " ".join(tree.attribute(element, "aria-label").split())[:200]

    def _listed(self) -> Lists:
        """Return what the table lists."""
        table = self._table
        pictured = [cell for cell in table.cells if cell.pictures and cell.y not in self._header_rows]
        if not pictured and self._pictured > 1:
            return Lists.COLUMNS  # their headers are the pictures
        self._holds_tables = self._lays_out_tables(len(pictured))
        if self._holds_tables:
            return Lists.CELLS
        if not pictured:
            return Lists.NOTHING
        rows = Counter(cell.y for cell in pictured)
        columns = Counter(cell.x for cell in pictured)
        # What goes all across is the title of rows, or a note: of no column, and of no row.
        heads = (cell for cell in table.cells if cell.is_header and cell.width < max(table.width, _SEVERAL))
        has_header_cells = any(map(table.text, heads))
        if has_header_cells and self._is_of_one_thing(pictured):
            return Lists.FACTS if self._name_of_all[0] else Lists.NOTHING
        labels = (table.text(cell) for y in range(len(table.rows)) if (cell := table.at.get((0, y))) is not None)
        if (has_header_cells or any(map(heads_names, labels))) and self._is_comparison(rows, columns):
            return Lists.COLUMNS
        if self._header_rows and self._heads_pictures(rows, columns):
            self._has_labels = False
            return Lists.COLUMNS
        if has_header_cells or self._header_rows:
            return Lists.ROWS
        if max(rows.values()) > 1 or (len(table.rows) == 1 and len(columns) > 1):
            return self._laid_out(pictured, rows)
        return self._listed_one_a_row(pictured, rows)

    def _listed_one_a_row(self, pictured: list[Cell], rows: Counter[int]) -> Lists:
        """Return what a table without headers lists that has no two pictures side by side."""
        table = self._table
        if len(rows) < 2:
            return Lists.NOTHING
        worded = [y for y in rows if any(table.text(cell) for cell in table.row(y))]
        if len(worded) * 2 < len(rows):
            return self._laid_out(pictured, rows)
        return Lists.ROWS if self._are_short(rows) else Lists.NOTHING

    def _are_short(self, rows: Counter[int]) -> bool:
        """Tell whether rows have no more words than entries of a list, on the average."""
        length = sum(len(self._table.text(cell)) for y in rows for cell in self._table.row(y))
        return length <= _LONGEST_ROW * len(rows)

    def _lays_out_tables(self, most_besides: int) -> bool:
        """Tell whether a table without headers lays out other small ones, a card in each.

        ``most_besides`` pictures stand in it and in no card: a banner above them, a line below.
        """
        tree = self._tree
        cells = [c.element for c in self._table.cells if not c.pictures and self._table.pictures(c.element)]
        is_plain = not any(cell.is_header for cell in self._table.cells)
        return (
            is_plain
            and len(cells) >= max(2, most_besides)
            and all(len(tree.photos_in(cell, tree.end[cell], _FEW + 1)) <= _FEW for cell in cells)
        )

    def _is_comparison(self, rows: Counter[int], columns: Counter[int]) -> bool:
        """Tell whether things stand side by side: pictures all along a row, and rows of facts about them."""
        table = self._table
        if len(columns) < 2 or max(rows.values()) < 2:
            return False
        if any(count < 0.6 * (table.width - 1) for count in rows.values()):
            return False
        facts = [y for y in range(len(table.rows)) if y not in rows and y not in self._header_rows]
        if len(rows) > 1 and len(facts) <= len(rows):
            return False
        first_cells = [table.at.get((0, y)) for y in (*rows, *facts)]
        labelled = [cell for cell in first_cells if cell is not None and not cell.pictures]
        return len(labelled) >= 0.8 * len(first_cells)

    def _is_of_one_thing(self, pictured: list[Cell]) -> bool:
        """Tell whether all pictures stand above, below or beside rows that are a label and a value each."""
        table = self._table
        facts = 0
        for y in range(len(table.rows)):
            own = [cell for cell in table.row(y) if cell.y == y and not cell.pictures]
            facts += len(own) == 2 and not own[1].is_header and bool(table.text(own[0]) and table.text(own[1]))
        is_whole_width = all(cell.width >= table.width for cell in pictured)
        is_in_a_row = pictured[-1].y - pictured[0].y < len(pictured)
        is_beside = len(pictured) == 1 and pictured[0].height >= facts
        return facts >= _FEWEST_FACTS and ((is_whole_width and is_in_a_row) or is_beside)

    def _heads_pictures(self, rows: Counter[int], columns: Counter[int]) -> bool:
        """Tell whether the words of a table are heads of pictures: in every column one, below a head of its own."""
        table = self._table
        heads = [self._headers.labels(next(iter(rows))).get(x) for x in columns]
        is_wordless = all(says_nothing(table.text(cell)) for cell in table.cells if cell.pictures)
        is_full = table.width == len(columns) >= max(_SEVERAL, len(rows))
        return is_full and is_wordless and all(heads) and len(set(heads)) == len(heads)

    def _laid_out(self, pictured: list[Cell], rows: Counter[int]) -> Lists:
        """Return what a table without headers is, that has several pictures side by side, or nothing but pictures."""
        wordless = [cell for cell in pictured if says_nothing(self._table.text(cell))]
        if len(wordless) * 2 <= len(pictured):
            return Lists.CELLS
        found = {side: sum(self._has_words(cell, side) for cell in wordless) for side in _SIDES}
        if self._ends_in_pictures:
            found[Side.BELOW] = 0  # what is below the first row of pictures are the words of the second
        best = max(_SIDES, key=lambda side: found[side])
        if found[Side.BELOW] == found[Side.ABOVE] == 0 and self._has_rows(wordless, rows):
            return Lists.ROWS
        if found[best] * 2 < len(wordless):
            return Lists.CELLS
        is_beside = best in _BESIDE
        self._words_stand = best
        return Lists.ROWS if is_beside and max(rows.values()) == 1 else Lists.CAPTIONED

    def _has_rows(self, wordless: list[Cell], rows: Counter[int]) -> bool:
        """Tell whether each row has several pictures, and words for all of them: next to one column there are none."""
        columns = {cell.x for cell in wordless}
        beside = [{cell.x for cell in wordless if self._partner(cell, side) is not None} for side in _BESIDE]
        if len(rows) < _SEVERAL or max(rows.values()) < _SEVERAL or columns in beside:
            return False
        said = ([self._table.text(cell) for cell in self._table.row(y)] for y in rows)
        return all(any(text and not says_nothing(text) for text in row) for row in said) and self._are_short(rows)

    def _has_words(self, cell: Cell, side: Side) -> bool:
        """Tell whether there are words beside a picture that may be of it: no price, no number."""
        partner = self._partner(cell, side)
        return partner is not None and not says_nothing(self._table.text(partner))

    def _partner(self, cell: Cell, side: Side) -> Cell | None:
        """Return the cell on one side of a picture, if that has words and no picture."""
        x, y = {
            Side.BELOW: (cell.x, cell.y + cell.height),
            Side.ABOVE: (cell.x, cell.y - 1),
            Side.RIGHT: (cell.x + cell.width, cell.y),
            Side.LEFT: (cell.x - 1, cell.y),
        }[side]
        other = self._table.at.get((x, y))
        if other is None or other.pictures or not self._table.text(other):
            return None
        return other if side in _BESIDE or other.width == cell.width else None

    # --- units ---

    def _unit(self, form: ItemForm, elements: list[int], **more: object) -> Unit:
        first = elements[0]
        known = self._units.get(first)
        if known is None or known.form is not form:
            tree = self._tree
            nodes = tuple(tree.nodes[number] for number in elements)
            end = max(tree.end[number] for number in elements)
            known = self._units[first] = Unit(form, nodes, min(elements), end, of=self._caption, **more)  # type: ignore[arg-type]
        return known

    def _captioned_unit(self, cell: Cell) -> Unit:
        partner = self._partner(cell, self._words_stand)
        return self._unit(ItemForm.CELL, [cell.element, *([partner.element] if partner else [])], like=self._pictured)

    @cached_property
    def _name_of_all(self) -> tuple[str, NamedBy]:
        """What a table of facts is about: its title, or the header across it."""
        if self._caption:
            return self._caption, NamedBy.CAPTION
        across = (cell for cell in self._table.cells if cell.is_header and cell.width > 1 and not cell.pictures)
        return next(filter(None, map(self._names.in_cell, across)), ""), NamedBy.HEADER_CELL

    def _whole_unit(self) -> Unit:
        name, named_by = self._name_of_all
        return self._unit(ItemForm.TABLE, [self._table.element], name=name, named_by=named_by)

    def _row_unit(self, cell: Cell) -> Unit | None:
        table = self._table
        ys = range(cell.y, cell.y + cell.height)
        if (known := self._units.get(table.rows[cell.y])) is not None:
            return known
        cells = list(dict.fromkeys(other for y in ys for other in table.row(y)))
        columns = self._row_columns(cells) or self._columns_beside(cell)
        name, named_by = self._names.of(cells, cell)
        if not name and cell.y in self._headed:
            name, named_by = self._headed[cell.y], NamedBy.HEADING
        if not name and not self._header_rows:
            name, named_by = next((value for label, value in columns if heads_names(label)), ""), NamedBy.CELL
        return self._unit(
            ItemForm.ROW,
            [table.rows[y] for y in ys],
            place=bisect_left(self._body_rows, cell.y) + 1,
            name=name,
            named_by=named_by,
            columns=columns,
            like=len(self._body_rows),
        )

    @cached_property
    def _headed(self) -> dict[int, str]:
        """The words of the rows that are one cell, above nearly all rows with a picture: their headings, one each."""
        table = self._table
        pictured = sorted({cell.y for cell in table.cells if cell.pictures})
        found: dict[int, str] = {}
        for y in pictured:
            above = table.row(y - 1) if y else []
            if len(above) == 1 and above[0].width >= table.width > 1 and not table.pictures(above[0].element):
                found[y] = self._names.in_cell(above[0])
        return {y: name for y, name in found.items() if name} if len(found) >= _NEARLY_ALL * len(pictured) else {}

    def _row_columns(self, cells: list[Cell]) -> tuple[tuple[str, str], ...]:
        found: dict[str, str] = {}
        for cell in cells:
            text, label = self._table.text(cell), self._headers.labels(cell.y).get(cell.x, "")
            if text and label and cell.y not in self._header_rows:
                found.setdefault(label, text)  # of a picture beside several rows, what the first says
        return tuple(found.items())

    def _facts_beside(self, pictured: Cell) -> list[tuple[Cell, Cell]]:
        """Return the rows beside a picture that are two cells each: a label and its value, if that is what they are."""
        found: list[tuple[Cell, Cell]] = []
        for y in range(pictured.y, pictured.y + pictured.height):
            own = [cell for cell in self._table.row(y) if cell.y == y and not cell.pictures and self._table.text(cell)]
            if len(own) == _SEVERAL:
                found.append((own[0], own[1]))
        return found if len(found) >= _FEWEST_FACTS else []

    @cached_property
    def _labels_beside(self) -> frozenset[str]:
        """What stands first in rows beside several pictures each: labels, which things of a kind have in common."""
        beside = (self._facts_beside(cell) for cell in self._table.cells if cell.pictures and cell.height > 1)
        said = Counter(label for facts in beside for label in {self._table.text(cell) for cell, _ in facts})
        return frozenset(label for label, times in said.items() if times > 1)

    def _columns_beside(self, pictured: Cell) -> tuple[tuple[str, str], ...]:
        """Return what the rows beside a picture say of it, a label and its value each."""
        pairs = ((self._table.text(label), self._table.text(value)) for label, value in self._facts_beside(pictured))
        return tuple((label.rstrip(_ANY_COLON), value) for label, value in pairs if label in self._labels_beside)

    def _column_unit(self, cell: Cell) -> Unit:
        table = self._table
        cells = table.column(cell.x)
        columns: dict[str, str] = {}
        named: list[Cell] = []
        for other in cells:
            label = table.at.get((0, other.y)) if self._has_labels else None
            words = table.text(label) if label is not None and label is not other else ""
            if words and (text := table.text(other)):
                columns.setdefault(words, text)
            if other.is_header or heads_names(words, _NAMING_ANYTHING):
                named.append(other)
        with_picture = [other for other in cells if other.pictures]
        plain = [other for other in cells if not other.pictures]
        name = next(filter(None, map(self._names.in_cell, (*named, *with_picture, *plain))), "")
        return self._unit(
            ItemForm.COLUMN,
            [other.element for other in cells],
            place=cell.x + (not self._has_labels),
            name=name,
            columns=tuple(columns.items()),
            like=table.width - self._has_labels,
        )
