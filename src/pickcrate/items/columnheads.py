"""Heads of columns above rows that are no table's: of ``div``, ``li`` and ``span`` that are laid out as one."""

from collections.abc import Iterator
from itertools import islice

from pickcrate.finders.place import HEADINGS
from pickcrate.items.ground import LONGEST_LABEL, Ground
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm

LONGEST_VALUE = 200
"""Characters of what is said of something, at most."""

_FEWEST_CELLS = 3
_NO_CELLS = frozenset(("img", "picture", "a", "p", *HEADINGS))
"""what parts of a card are, and no cells of a row"""


def headed(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the parts of a row that is made of any elements, by the heads in the first row beside it or above it."""
    if unit.form not in {ItemForm.LIKE, ItemForm.ENTRY} or unit.like < 2 or len(unit.nodes) != 1:
        return
    cells = list(tree.children(unit.start))
    if len(cells) < _FEWEST_CELLS or not _NO_CELLS.isdisjoint(tree.tags[n] for n in cells):
        return
    head = _head_row(tree, unit.start)
    labels = list(islice(tree.children(head), len(cells) + 1)) if head is not None else []
    if len(labels) != len(cells) or not _NO_CELLS.isdisjoint(tree.tags[n] for n in labels):
        return
    said = [tree.text(label) for label in labels]
    if len(set(said)) == len(said) and all(len(label) <= LONGEST_LABEL for label in said):
        pairs = zip(said, cells, strict=True)
        yield from ((label, tree.text(cell)[:LONGEST_VALUE]) for label, cell in pairs if label and tree.text(cell))


def _head_row(tree: Ground, row: int) -> int | None:
    """Return the row of heads of a row: the first of its parent, or of a part before its parent; None without one."""
    parent = tree.parent[row]
    first = next(tree.children(parent), None) if parent >= 0 else None
    if first is not None and first != row and _is_head_of(tree, first, row):
        return first
    outer = tree.parent[parent] if parent >= 0 else -1
    first = next(tree.children(outer), None) if outer >= 0 else None
    if first is None or first == parent:
        return None
    inner = next(tree.children(first), None)
    return next((one for one in (inner, first) if one is not None and _is_head_of(tree, one, row)), None)


def _is_head_of(tree: Ground, head: int, row: int) -> bool:
    """Tell whether an element without a picture is made as a row is, or is called a head."""
    names, others = (tree.attribute(number, "class").lower().split() for number in (head, row))
    return not tree.pictures(head) and (names[:1] == others[:1] != [] or any("head" in name for name in names))
