"""What the members of a list in data are: objects that say it themselves, or rows of texts beside a picture."""

from pickcrate.finders.data.literals import is_address
from pickcrate.items.data.records import LONGEST_FIELD, fields_of, is_name, led_by, shows, thing_of
from pickcrate.items.data.structured import Thing
from pickcrate.items.data.texts import plain_text
from pickcrate.text.lazyre import lazy

_LEAST_CELLS, _MOST_CELLS = 4, 20
_CODE = lazy(r"[a-z0-9_.:/#@$-]*|[a-z]+(?:[A-Z][a-z0-9]*)+|[A-Z][a-z0-9]+(?:[A-Z][a-z0-9]+)+")
"""what is for a program alone: it has neither a space nor a capital that begins it, or one for each of its words"""


def things_of(values: list[object]) -> list[Thing | None]:
    """Return what the members of a list are, each as it says itself: objects, or rows of texts beside a picture.

    The cells of such rows may stand one behind the other in it.
    """
    if len(values) > 1 and all(_is_row(value) for value in values):
        return _of_rows([value for value in values if isinstance(value, list)])
    if wide := _width_of_rows(values):
        rows = [list(map(str, values[start : start + wide])) for start in range(0, len(values), wide)]
        return [thing for thing in _of_rows(rows) for _ in range(wide)]
    return list(map(_of_member, values))


def _width_of_rows(values: list[object]) -> int:
    """Return how many texts in a list belong together, each time one of them a picture's address; 0 if none do."""
    if len(values) < _LEAST_CELLS or not all(isinstance(value, str) for value in values):
        return 0
    pictures = [place for place, value in enumerate(values) if is_address(str(value))]
    wide = pictures[1] - pictures[0] if len(pictures) > 1 else 0
    is_even = wide > 1 and len(values) == wide * len(pictures) and pictures == [*range(pictures[0], len(values), wide)]
    return wide if is_even and wide <= _MOST_CELLS else 0


def _of_member(value: object) -> Thing | None:
    """Return what a member of a list is: an object, the only one in a pair with a name, or what a markup shows."""
    if isinstance(value, dict):
        return thing_of(value)
    if (fields := fields_of(value)) is not None:
        return thing_of(fields)
    if isinstance(value, list) and len(value) <= _MOST_CELLS:
        things = [thing for one in value if isinstance(one, dict) and (thing := thing_of(one)) is not None]
        return things[0] if len(things) == 1 else None
    if isinstance(value, str) and (name := led_by(value)):
        return Thing(name)
    return None


def _is_row(value: object) -> bool:
    """Tell whether a value is a list of texts."""
    return isinstance(value, list) and 1 < len(value) <= _MOST_CELLS and all(isinstance(one, str) for one in value)


def _of_rows(rows: list[list[str]]) -> list[Thing | None]:
    """Return what rows of texts are, if each shows a picture; a first one without any has the heads of the others."""
    has_heads = not any(map(shows, rows[0]))
    heads, told = (rows[0], rows[1:]) if has_heads else ([], rows)
    if not all(any(map(shows, row)) for row in told):
        return [None for _ in rows]
    things = [_of_row(name, row, heads) for name, row in zip(_names_of(told), told, strict=True)]
    return [None, *things] if has_heads else things


def _of_row(name: str, row: list[str], heads: list[str]) -> Thing | None:
    """Return what a row is, with its other texts by the heads above them; None without a name."""
    fields = ((head, said) for head, said in zip(heads, row, strict=False) if _is_field(head, said))
    return Thing(plain_text(name), "", tuple((head, said) for head, said in fields if said != name)) if name else None


def _names_of(rows: list[list[str]]) -> list[str]:
    """Return what rows are called: by their first column of names that differ, or by what their markup shows."""
    for at in range(min(map(len, rows))):
        column = [row[at] for row in rows]
        if _are_names(column):
            return column
    return [next(filter(None, map(led_by, row)), "") for row in rows]


def _are_names(column: list[str]) -> bool:
    """Tell whether texts may be what things are called: most of them differ."""
    if any(shows(text) or not is_said(text) or not is_name(plain_text(text)) for text in column):
        return False
    return 2 * len(set(column)) > len(column)


def is_said(text: str) -> bool:
    """Tell whether a text is for people, and not for a program alone."""
    return _CODE.fullmatch(text) is None


def _is_field(head: str, said: str) -> bool:
    return bool(head) and 0 < len(said) <= LONGEST_FIELD and not shows(said)
