"""What a page says of an item by label: heads of columns, terms, small tables of facts, labels and values by line."""

from bisect import bisect_left
from collections.abc import Iterator
from itertools import islice, pairwise

from pickcrate.items.columnheads import LONGEST_VALUE, headed
from pickcrate.items.ground import (
    LABELLED,
    LABELLED_CELLS,
    LABELS_BY_STEM,
    LONGEST_LABEL,
    MOST_WORDS_OF_LABEL,
    VALUES,
    Ground,
)
from pickcrate.items.said.junk import is_file_name, is_numbered, is_price, says_nothing
from pickcrate.items.said.lines import COLONS, LABEL_AND_VALUE, Line
from pickcrate.items.unit import Unit
from pickcrate.text.headers import NAMING
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import ItemForm
from pickcrate.values.reference import fold

_LONGEST_UNMARKED = 80
"""Characters of a value that only follows bold words."""

_CARDS = frozenset((ItemForm.LIKE, ItemForm.ENTRY, ItemForm.ARTICLE, ItemForm.RUN, ItemForm.MARKED))
"""in which what stands above something says what it is; elsewhere it may head a part of a text, or another thing"""

_BETWEEN_FIELDS = lazy(r"\s[|·•]\s")
_OF_LABEL = lazy(r"(.{1,40}?)[-_]{1,2}(?:key|label|term)")
_OF_VALUE = lazy(r"(.{1,40}?)[-_]{1,2}(?:val|value|data|text|content|desc|description)")
_SEVERAL = 2
_MOST_OF_UNIT = 300
"""elements of a kind in a unit that are read for what they say of it"""

_ENDS = (". ", "; ")
_AROUND_LABELS = " :：\u00a0"


def facts_of(tree: Ground, unit: Unit, lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    """Yield what is said of a unit by label: by heads of columns, or else by terms, headers and labels in it."""
    if by_heads := list(headed(tree, unit)):
        yield from by_heads
        return
    in_markup = (_terms, _tables, _labelled, _labelled_cells) if tree.may_have_fields else ()
    in_lines = [*_label_lines(lines, title), *_bold_labels(lines, title)]
    if unit.form in _CARDS:
        in_lines += [*_labels_above(lines, title), *_pairs(tree, unit, title)]
    seen: set[str] = set()
    for said, value in (*(pair for find in in_markup for pair in find(tree, unit)), *in_lines):
        label = said.strip(_AROUND_LABELS)
        if label and value and label not in seen and len(label) <= LONGEST_LABEL:
            seen.add(label)
            yield label, value[:LONGEST_VALUE]


def labelled_values(tree: Ground, unit: Unit, lines: list[Line]) -> set[str]:
    """Return what in a unit has a label beside it that is not that of a name: "Material: silk", not "Fig. 3: Sled"."""
    in_markup = (_terms, _tables, _labelled) if tree.may_have_fields else ()
    pairs = [pair for find in in_markup for pair in find(tree, unit)]
    pairs += [*_label_lines(lines, ""), *_bold_labels(lines, "")]
    told = ((label.strip(_AROUND_LABELS), value) for label, value in pairs)
    return {
        fold(value) for label, value in told if not (label.casefold() in NAMING or is_numbered(f"{label}: {value}"))
    }


def _terms(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the pairs of the lists of terms inside a unit (HTML standard, 4.4.9)."""
    if unit.form is ItemForm.TERM:
        return
    for root in _roots(tree, unit):
        term = ""
        for number in _marked(tree, root, "dt, dd"):
            if tree.tags[number] == "dt":
                term = "" if tree.pictures(number) else tree.text(number)  # with one it is a thing, and no label
            elif term and not tree.pictures(number):  # a thing of its own
                yield term, tree.text(number)


def _tables(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the rows of tables inside a unit that are a header and a cell."""
    for root in _roots(tree, unit):
        for row in _marked(tree, root, "tr"):
            cells = [cell for cell in tree.children(row) if not tree.pictures(cell)]
            tags = [tree.tags[cell] for cell in cells]
            is_plain = tags == ["td", "td"] and not tree.pictures(row)  # beside a picture the first may be its name
            if is_plain or tags == ["th", "td"]:
                yield tree.text(cells[0]), tree.text(cells[1])


def _labelled(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the pairs of an element that is called a label and the one behind it."""
    for root in _roots(tree, unit):
        by_stem = set(_marked(tree, root, LABELS_BY_STEM))
        for number in sorted(by_stem.union(_marked(tree, root, LABELLED))):
            follower = tree.behind(number)
            if follower is None or tree.pictures(follower):
                continue
            if number in by_stem and not _is_value_of(tree, follower, number):
                continue
            yield tree.text(number), tree.text(follower)
        for number in _marked(tree, root, VALUES):
            both = list(islice(tree.children(tree.parent[number]), _SEVERAL + 1))
            if len(both) == _SEVERAL and both[1] == number and tree.text(both[0])[:1].isalpha():
                yield tree.text(both[0]), tree.text(number)


def _marked(tree: Ground, root: int, selector: str) -> list[int]:
    """Return the first elements in another that ``selector`` selects; none once the page's effort is spent."""
    if tree.effort < 0:
        return []
    found = tree.within(root, selector, _MOST_OF_UNIT)
    tree.effort -= len(found)
    return found


def _is_value_of(tree: Ground, follower: int, label: int) -> bool:
    names = (_OF_LABEL.fullmatch(name) for name in tree.attribute(label, "class").split())
    stems = {match[1] for match in names if match is not None}
    values = (_OF_VALUE.fullmatch(name) for name in tree.attribute(follower, "class").split())
    return any(match is not None and match[1] in stems for match in values)


def _labelled_cells(tree: Ground, unit: Unit) -> Iterator[tuple[str, str]]:
    """Yield the cells that hold the head of their column themselves."""
    for root in _roots(tree, unit):
        for cell in _marked(tree, root, LABELLED_CELLS):
            if not tree.pictures(cell):
                yield tree.attribute(cell, "data-label") or tree.attribute(cell, "data-th"), tree.text(cell)


def _pairs(tree: Ground, unit: Unit, title: str) -> Iterator[tuple[str, str]]:
    """Yield rows that are a label and a value by what they are made of, if the unit has several."""
    first, last = (bisect_left(tree.pairs, (number,)) for number in (unit.start + 1, unit.end))
    found = [(label, value) for _, label, value in tree.pairs[first:last] if title not in {label, value}]
    if len(found) >= _SEVERAL:
        yield from found


def _bold_labels(lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    """Yield bold words with what follows them in their line, if several lines are made so."""
    labelled: list[tuple[str, str]] = []
    for line in lines:
        value = line.text.removeprefix(line.bold).strip() if line.text.startswith(line.bold) and line.bold else ""
        is_label = line.bold[:1].isalpha() and len(line.bold.split()) <= MOST_WORDS_OF_LABEL and not line.level
        is_value = value[:1].isalnum() and len(value) <= _LONGEST_UNMARKED
        if is_label and is_value and title not in {line.bold, line.text}:
            labelled.append((line.bold, value))
    if len(labelled) >= _SEVERAL:
        yield from labelled


def _labels_above(lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    """Yield what stands on lines of its own below bold words, or below headings that are not the title, if several."""
    labelled: list[tuple[str, str]] = []
    for line, below in pairwise(lines):
        is_label = (line.level > 0 or line.bold == line.text) and line.text[:1].isalpha() and line.text != title
        is_value = not (below.level or below.bold or below.is_control) and len(below.text) <= _LONGEST_UNMARKED
        if is_label and is_value and len(line.text.split()) <= MOST_WORDS_OF_LABEL:
            labelled.append((line.text, below.text))
    if len(labelled) >= _SEVERAL:
        yield from labelled


def _besides(title: str, text: str) -> str:
    """Return what a line says behind a title that it begins with: "Red Delta. Photo: Ino Hallas"."""
    bare = title.rstrip(".")  # of a title that is a sentence
    behind = text.removeprefix(bare)
    return behind[2:] if bare and behind.startswith(_ENDS) else text


def _label_lines(lines: list[Line], title: str) -> Iterator[tuple[str, str]]:
    for line, follower in zip(lines, (*lines[1:], None), strict=False):
        if line.level or line.is_control or line.text == title:
            continue
        if len(line.text) > LONGEST_LABEL + LONGEST_VALUE:
            continue
        parts = [LABEL_AND_VALUE.fullmatch(part) for part in _BETWEEN_FIELDS.split(_besides(title, line.text))]
        pairs = [(part[1], part[2]) for part in parts if part is not None]
        if len(parts) > 1 and len(pairs) == len(parts):  # Maker: Ino Hallas | Year: 1912
            yield from pairs
        elif len(parts) == 1 and pairs:
            yield from filter(_is_label_and_value, pairs)
        elif follower is not None and line.text.endswith(COLONS) and not (follower.level or follower.is_control):
            yield from filter(_is_label_and_value, [(line.text[:-1].strip(), follower.text)])


def _is_label_and_value(pair: tuple[str, str]) -> bool:
    label, value = pair
    if not label or len(label.split()) > MOST_WORDS_OF_LABEL:
        return False
    if is_file_name(value.casefold()) or not any(map(str.isalnum, value)):
        return False
    return is_price(value) or not says_nothing(f"{label}: {value}")


def _roots(tree: Ground, unit: Unit) -> list[int]:
    return [tree.number[node.mem_id] for node in unit.nodes if node.is_element_node]
