"""What names a row of a table: its header cell, the column of names, where its picture leads, what no other says."""

from functools import cached_property

from pickcrate.addresses.url import is_picture_path, leads_somewhere
from pickcrate.items.ground import Ground
from pickcrate.items.said.junk import NAMING_PEOPLE, says_nothing
from pickcrate.items.said.lines import lines_of
from pickcrate.items.tables.headers import Headers
from pickcrate.items.tables.table import Cell, Table
from pickcrate.text.headers import NAMING
from pickcrate.values.item import NamedBy

_GROUP_SCOPES = frozenset(("colgroup", "rowgroup"))
_LONGEST_NAME, _LONGEST_TOLD = 120, 60
_MOST_LINKS = 3
_FULL_STOP = (".", "。")
_MOST_COMPARED = 200
"""Rows that are held against one another: what differs in as many does in all."""


class RowNames:
    """What the rows of one table are called."""

    def __init__(self, tree: Ground, table: Table, headers: Headers) -> None:
        self._tree = tree
        self._table = table
        self._headers = headers

    def of(self, cells: list[Cell], pictured: Cell) -> tuple[str, NamedBy]:
        """Return what names a row: its header cell, else that of the column of names, else the first that may."""
        own = [cell for cell in cells if cell.height <= pictured.height and cell.y not in self._headers.rows]
        headers = [cell for cell in own if cell.is_header and cell is not pictured and cell.scope not in _GROUP_SCOPES]
        if pictured.is_header:
            headers.append(pictured)
        if name := self._first(headers):
            return name, NamedBy.HEADER_CELL
        labels = self._headers.labels(pictured.y)
        likely = self._by_likelihood(own, pictured, labels) if labels else self._by_difference(own, pictured)
        name = self._first(likely)
        return (name, NamedBy.CELL) if name else ("", NamedBy.LINE)

    def in_cell(self, cell: Cell) -> str:
        """Return the first line in a cell that may be a name; empty if there is none."""
        if len(self._table.text(cell)) > _LONGEST_NAME:
            return ""
        lines, _ = lines_of([self._tree.nodes[cell.element]])
        first = next((line for line in lines if not says_nothing(line.text) and not line.is_control), None)
        return first.text if first is not None else ""

    def _first(self, cells: list[Cell]) -> str:
        return next((name for cell in cells if (name := self.in_cell(cell))), "")

    def _by_likelihood(self, cells: list[Cell], pictured: Cell, labels: dict[int, str]) -> list[Cell]:
        """Return the cells of a row in the order in which they may name it, some of them twice."""
        named = [cell for cell in cells if heads_names(labels.get(cell.x, ""))]
        people = [cell for cell in cells if heads_names(labels.get(cell.x, ""), NAMING_PEOPLE)]
        around = self._links_in(pictured)
        leading = [(cell, links) for cell in cells if not cell.pictures and (links := self._links_in(cell))]
        linked = [cell for cell, _ in leading]
        same = [cell for cell, links in leading if links & around]
        with_picture = [pictured] if self._table.text(pictured) else []
        headless = [] if labels.get(pictured.x, "") else with_picture
        first = min((cell.x for cell in people), default=0)
        before = [cell for cell in cells if cell.x < first and cell.x in self._telling]
        told = [cell for cell in cells if cell.x in self._telling]
        return [*named, *headless, *same, *before, *people, *linked, *with_picture, *told, *cells]

    def _by_difference(self, cells: list[Cell], pictured: Cell) -> list[Cell]:
        """Return the cells that may name a row without headers: what leads where its picture does, or tells it apart.

        None if what stands first tells it apart.
        """
        worded = [cell for cell in cells if not cell.pictures and not says_nothing(self._table.text(cell))]
        around = self._links_in(pictured)
        leading = [cell for cell in worded if (links := self._links_in(cell)) and (not around or links & around)]
        if around or len(leading) == 1:
            return leading
        is_told = not worded or worded[0].x in self._telling
        return [] if is_told else [cell for cell in worded if cell.x in self._telling]

    def _links_in(self, cell: Cell) -> set[str]:
        tree = self._tree
        links = (tree.attribute(number, "href") for number in tree.within(cell.element, "a[href]", _MOST_LINKS))
        return {link for link in links if leads_somewhere(link) and not is_picture_path(link)}

    @cached_property
    def _telling(self) -> frozenset[int]:
        """The columns in which every row with a picture says something else, and no sentences."""
        ys = sorted({cell.y for cell in self._table.cells if cell.pictures and cell.y not in self._headers.rows})
        ys = ys[:_MOST_COMPARED]
        found: set[int] = set()
        for x in range(self._table.width if len(ys) > 1 else 0):
            cells = [cell for y in ys if (cell := self._table.at.get((x, y))) is not None and not cell.pictures]
            said = {text for cell in cells if 0 < len(text := self._table.text(cell)) <= _LONGEST_TOLD}
            are_sentences = 2 * sum(text.endswith(_FULL_STOP) for text in said) > len(said)
            if len(said) == len(ys) and not are_sentences and not any(map(says_nothing, said)):
                found.add(x)
        return frozenset(found)


def heads_names(label: str, words: frozenset[str] = NAMING) -> bool:
    """Tell whether a label stands over names, by any of its first words: ``Name of the kite``."""
    return not words.isdisjoint(label.casefold().split()[:3])
