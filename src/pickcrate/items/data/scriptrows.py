"""Rows that scripts give one by one: calls of one function, elements of one array, arrays that go side by side.

``add("red.jpg", "Red Delta"); add("blue.jpg", "Blue Box")``; ``pic[0] = "red.jpg"; text[0] = "Red Delta"``;
``kite[0].pic = "red.jpg"; kite[0].text = "Red Delta"``.
"""

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterable, Iterator
from itertools import chain, islice

from pickcrate.finders.data.literals import EXTENSION, is_address
from pickcrate.finders.data.objectliteral import Effort
from pickcrate.finders.data.strings import literal_at
from pickcrate.text.lazyre import lazy

_NAME = r"(?<![\w$.])([A-Za-z_$][\w$.]{0,60}+)"
_CALL = lazy(rf"(?:new\s{{1,9}})?{_NAME}\s{{0,9}}(?=\(\s{{0,99}}[\"'`{{\[])|\.(\w{{1,60}}+)(?=\([\"'`{{\[])")
_ELEMENT = lazy(
    rf"{_NAME}\s?\[\s?(\d{{1,5}})\s?\](\.[\w$]{{1,40}}+)?\s{{0,9}}=(?!=)\s{{0,9}}"
    r"(?:new\s{1,9}Array\s{0,9})?(?=[\"'`{\[(])"
)
_LIST = lazy(r"[=:]\s{0,9}(?:new\s{1,9}Array\s{0,9})?(?=[\[(]\s{0,99}[\"'`])")
_ROOM = 2_000
"""Characters from the beginning of a row in which its first picture is named"""

_MOST_ROWS, _MOST_COLUMNS = 5_000, 50
_LEAST_ROWS = 2


def rows_in(script: str, effort: Effort) -> Iterator[object]:
    """Yield what calls and assignments of a script make together, and what each is given, if that has pictures."""
    named = [match.start() for match in EXTENSION.finditer(script)]
    rows: dict[str, list[object]] = defaultdict(list)
    columns: dict[str, dict[int, str]] = defaultdict(dict)
    for match in islice(_ELEMENT.finditer(script), _MOST_ROWS):
        said = literal_at(script, match.end())
        if said is not None:
            columns[f"{match[1]}{match[3] or ''}"][int(match[2])] = said
        elif _is_near(named, match.end()):
            rows[match[1]].append(effort.read(script, match.end()).value)
    for match in islice(_CALL.finditer(script), _MOST_ROWS):
        if _is_near(named, match.end()):
            given = effort.read(script, match.end()).value
            single = given[0] if isinstance(given, list) and len(given) == 1 else given
            rows[f"{match[1] or match[2]}("].append(single)
    for members in rows.values():
        told = [one for one in members if one]
        yield told
        yield from (one for one in told if isinstance(one, dict) or (len(told) == 1 and isinstance(one, list)))
    given_one_by_one = ([said for _, said in sorted(column.items())] for column in columns.values())
    yield from side_by_side(chain(given_one_by_one, _lists_in(script, effort)))


def _lists_in(script: str, effort: Effort) -> Iterator[list[str]]:
    """Yield the lists of strings that a script gives to its variables, or an object has."""
    for match in islice(_LIST.finditer(script), _MOST_COLUMNS):
        given = effort.read(script, match.end()).value
        if isinstance(given, list) and all(isinstance(said, str) for said in given):
            yield [said for said in given if isinstance(said, str)]


def side_by_side(columns: Iterable[list[str]]) -> Iterator[list[list[str]]]:
    """Yield the rows of columns of one length, of which one has the addresses of pictures and the others have none."""
    by_length: dict[int, list[list[str]]] = defaultdict(list)
    for column in islice(columns, _MOST_COLUMNS):
        by_length[len(column)].append(column)
    for length, alike in by_length.items():
        pictures = [column for column in alike if all(map(is_address, column))]
        texts = [column for column in alike if not any(map(is_address, column))]
        if length >= _LEAST_ROWS and pictures and texts:
            yield from ([list(row) for row in zip(addresses, *texts, strict=True)] for addresses in pictures)


def _is_near(named: list[int], start: int) -> bool:
    """Tell whether a picture is named in the next characters, as the places say where any is."""
    at = bisect_left(named, start)
    return at < len(named) and named[at] - start < _ROOM
