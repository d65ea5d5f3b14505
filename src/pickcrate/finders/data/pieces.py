"""What the operands of a sum stand for, and the strings that they make together."""

import itertools
import re
from collections.abc import Iterable

from msgspec import Struct

from pickcrate.media import ANY_EXTENSION
from pickcrate.text.lazyre import lazy

MOST_STRINGS = 5_000
"""of all that a script puts together"""

_LONGEST = 4_000
"""characters of a string"""

_MOST_COLUMNS = 20
_IS_FOLDER = lazy(r"(?:https?:)?//.*|.*/")
_IS_FILE = lazy(rf"\.(?:{ANY_EXTENSION})(?:[?#].*)?\Z", re.IGNORECASE)
_IS_PLAIN = lazy(r"[a-z0-9][a-z0-9_-]{0,80}")
NAMES_A_FILE = lazy(rf"\.(?:{ANY_EXTENSION})\b", re.IGNORECASE)


class Places(Struct):
    """What a list has in its places, or what objects have under one name."""

    strings: list[str]
    name_files: bool = True
    """whether they tell one file from another, and are not any words"""
    are_plain: bool = True
    """whether each is a word that a file may be called by, in small letters: it is, where an extension follows"""


Piece = str | Places | None
"""what one operand stands for: a string, any of a list, or what is no constant"""


def places_of(values: list[str], *, may_be_plain: bool) -> Places:
    """Return what objects have under one name as the places of a list; plain words if those may be files."""
    return Places(
        values,
        name_files=all(map(_IS_FILE.search, values)),
        are_plain=may_be_plain and len(set(values)) > 1 and all(map(_IS_PLAIN.fullmatch, values)),
    )


def piece_of(column: Iterable[object]) -> Piece:
    """Return values as an operand."""
    strings = list(map(str, column))
    return Places(strings) if len(strings) > 1 else strings[0]


def columns_of(value: object, *, may_be_plain: bool) -> list[Places]:
    """Return what rows of strings have in each place; of an object its keys, and what it has under them."""
    rows = [*value.items()] if isinstance(value, dict) else value
    if not isinstance(rows, list) or not rows or len(rows) > MOST_STRINGS:
        return []
    shortest = min(len(row) if isinstance(row, list | tuple) else 0 for row in rows)
    columns = ([str(row[place]) for row in rows] for place in range(min(shortest, _MOST_COLUMNS)))
    return [places_of(column, may_be_plain=may_be_plain) for column in columns]


def shared_folder(values: list[str]) -> str | None:
    """Return the folder that all values are."""
    return values[0] if len(set(values)) == 1 and _IS_FOLDER.fullmatch(values[0]) else None


def spelled(pieces: list[Piece]) -> tuple[str, ...]:
    """Return the strings that pieces make, one for each place of the lists in them; nothing if those do not match."""
    if sum(len(piece) for piece in pieces if isinstance(piece, str)) > _LONGEST:
        return ()
    lists = [piece for piece in pieces if isinstance(piece, Places)]
    if not lists:
        return _short(["".join(map(str, pieces))])
    lengths = {len(places.strings) for places in lists}
    are_files = any(places.name_files for places in lists) or any(map(_make_files, pieces, pieces[1:]))
    if len(lengths) > 1 or not are_files:
        return ()
    columns = (piece.strings if isinstance(piece, Places) else itertools.repeat(piece or "") for piece in pieces)
    return _short(map("".join, zip(*columns, strict=False)))


def _make_files(piece: Piece, behind: Piece) -> bool:
    """Tell whether a piece is of plain words, and what stands behind it begins with the extension of a file."""
    if not isinstance(piece, Places) or not isinstance(behind, str):
        return False
    return piece.are_plain and NAMES_A_FILE.match(behind) is not None


def _short(strings: Iterable[str]) -> tuple[str, ...]:
    """Return the first strings, those that are too long for an address left out."""
    return tuple(string for string in itertools.islice(strings, MOST_STRINGS) if len(string) <= _LONGEST)
