"""What a script spells of a name that stands for several values: ``i + 1``, ``String(i).padStart(3, "0")``.

ECMAScript 2024: 13.8 (the additive operators), 13.14 (the conditional operator), 22.1.3 (methods of strings). An
expression is a column: one value for each number of the loop, or one alone.
"""

import math
import re
from collections.abc import Callable, Mapping

from pickcrate.finders.data.loops import NAME
from pickcrate.finders.data.strings import unescape
from pickcrate.text.lazyre import lazy

Value = int | str
Column = list[Value]
Read = tuple[Column, int]
"""a column, and where its expression ends"""

_DEEPEST, _MOST_STEPS = 8, 60
_LONGEST, _MOST_MADE = 4_000, 100_000
"""characters of a value, and of all that is made in one script"""

_LONGEST_UNKNOWN, _MOST_GIVEN = 300, 6
"""characters of what a function is given that is no expression of ours; how much it may be given"""

_SPACE = lazy(r"\s{0,20}+")
_DECIMAL = lazy(r"-?\d{1,15}(?:\.\d{1,15})?")
_NUMBER = lazy(r"-?\d{1,9}(?![\w.])")
_NAME = lazy(rf"(?<![\w$.]){NAME}")
_STRING = lazy(r"String\s{0,3}\(")
_JOIN = lazy(r"\]\s{0,20}\.join\(\s{0,20}")
_BRACKET = lazy(r"[()]")
_METHOD = lazy(r"\s{0,20}\.(?P<name>padStart|toString|toLowerCase|slice|substr|substring|concat|replace|replaceAll)\(")
_ADDS = lazy(r"\s{0,20}(?P<sign>[+-])(?![+=-])\s{0,20}")
_COMPARES = lazy(r"\s{0,20}(?P<sign><=?|>=?|[=!]==?)\s{0,20}")
_CHOOSES, _OR = lazy(r"\s{0,20}\?(?![.?])\s{0,20}"), lazy(r"\s{0,20}:\s{0,20}")
_PATTERN = lazy(r"/(?P<pattern>(?:[^/\\\n]|\\.){1,60})/(?P<flags>[gim]{0,3})")
_PLAIN_PATTERN = lazy(r"(?:[\w{}%#@:, -]|\\[^\w\s])+")


class Spelling:
    """The reading of expressions of one script, within bounds; what is of anything else is none."""

    def __init__(self, text: str, end_of: Mapping[int, int], column_of: Callable[[str, int], Column | None]) -> None:
        """Read ``text``, whose literals begin and end as ``end_of`` says; ``column_of`` returns that of a name."""
        self._text = text
        self._end_of = end_of
        self._column_of = column_of
        self._left = 0
        self._room = _MOST_MADE

    def operand(self, at: int) -> Read | None:
        """Return what stands before or behind a plus sign and begins at a place."""
        self._left = _MOST_STEPS
        return self._operand(at, 0)

    def expression(self, at: int) -> Read | None:
        """Return what begins at a place, all of it."""
        self._left = _MOST_STEPS
        return self._expression(at, 0)

    def _expression(self, at: int, depth: int) -> Read | None:
        read = self._sum(at, depth)
        compares = _COMPARES.match(self._text, read[1]) if read is not None else None
        if read is not None and compares is not None:
            right = self._sum(compares.end(), depth)
            read = self._both(read[0], right, _COMPARED[compares["sign"]])
        chooses = _CHOOSES.match(self._text, read[1]) if read is not None else None
        if read is None or chooses is None:
            return read if compares is None else None  # whether something is so is no part of an address
        yes = self._expression(chooses.end(), depth + 1)
        otherwise = _OR.match(self._text, yes[1]) if yes is not None else None
        no = self._expression(otherwise.end(), depth + 1) if otherwise is not None else None
        if yes is None or no is None or (columns := self._even(read[0], yes[0], no[0])) is None:
            return None
        return [one if is_so else other for is_so, one, other in zip(*columns, strict=True)], no[1]

    def _sum(self, at: int, depth: int) -> Read | None:
        read = self._operand(self._behind_space(at), depth)
        while read is not None and (adds := _ADDS.match(self._text, read[1])) is not None:
            right = self._operand(adds.end(), depth)
            read = self._both(read[0], right, _added if adds["sign"] == "+" else _subtracted)
        return read

    def _both(self, left: Column, right: Read | None, operation: Callable[[Value, Value], Value]) -> Read | None:
        columns = self._even(left, right[0]) if right is not None else None
        if right is None or columns is None:
            return None
        return self._kept([operation(one, other) for one, other in zip(*columns, strict=True)], right[1])

    def _operand(self, at: int, depth: int) -> Read | None:
        self._left -= 1
        if depth > _DEEPEST or self._left < 0 or self._room <= 0:
            return None
        read = self._primary(at, depth)
        while read is not None and (method := _METHOD.match(self._text, read[1])) is not None:
            read = self._called(read[0], method, depth)
        return read

    def _primary(self, at: int, depth: int) -> Read | None:
        if (end := self._end_of.get(at)) is not None:
            literal = self._text[at + 1 : end - 1]
            return ([unescape(literal)], end) if self._text[at] != "`" or "${" not in literal else None
        if (match := _NUMBER.match(self._text, at)) is not None:
            return [int(match[0])], match.end()
        if self._text.startswith("[", at):
            return self._joined(self._behind_space(at + 1), depth)
        if self._text.startswith("(", at):
            return self._closed(self._expression(at + 1, depth + 1), ")")
        if (match := _STRING.match(self._text, at)) is not None:
            read = self._closed(self._expression(match.end(), depth + 1), ")")
            return (list(map(str, read[0])), read[1]) if read is not None else None
        match = _NAME.match(self._text, at)
        column = self._column_of(match[0], at) if match is not None else None
        return (column, match.end()) if match is not None and column else None

    def _called(self, column: Column, method: re.Match[str], depth: int) -> Read | None:
        """Return what a method makes of each value."""
        name = method["name"]
        given, end = self._given(method.end(), depth, of_replace=name.startswith("replace"))
        fewest, most = _GIVEN[name]
        if end < 0 or not fewest <= len(given) <= most:
            return None
        if (columns := self._even(column, *given)) is None:
            return None
        return self._kept([_MADE[name](*values) for values in zip(*columns, strict=True)], end)

    def _even(self, *columns: Column) -> list[Column] | None:
        """Return columns as long as the longest: one value stands for all of them.

        None if there are several lengths, or more in them than there is room for.
        """
        longest = max(map(len, columns))
        if not {1, longest}.issuperset(map(len, columns)):
            return None
        sizes = (sum(len(str(value)) for value in column) * (longest // len(column)) for column in columns)
        return [column * (longest // len(column)) for column in columns] if sum(sizes) <= self._room else None

    def _kept(self, column: Column, end: int) -> Read | None:
        """Return what was made; None if there is no room for it any more."""
        sizes = [len(str(value)) for value in column]
        self._room -= sum(sizes)
        return (column, end) if self._room > 0 and max(sizes) <= _LONGEST else None

    def _given(self, at: int, depth: int, *, of_replace: bool) -> tuple[list[Column], int]:
        """Return what a method is given, and where that ends; -1 if it is none of ours.

        What ``replace`` looks for may be a regular expression that has only plain words in it. What it puts there may
        be anything: a place that nobody knows what to fill with stays.
        """
        given: list[Column] = []
        pattern = _PATTERN.match(self._text, at) if of_replace else None
        if pattern is not None and _PLAIN_PATTERN.fullmatch(pattern["pattern"]) is not None:
            given.append([pattern["pattern"].replace("\\", "")])
            at = pattern.end()
        while not self._text.startswith(")", at := self._behind_space(at)):
            if given:
                if not self._text.startswith(",", at):
                    return given, -1
                at = self._behind_space(at + 1)
            read = self._expression(at, depth + 1)
            if read is None and not (of_replace and given):
                return given, -1
            column, at = read if read is not None else (given[0], self._end_of_unknown(at))
            given.append(column)
        return given, at + 1

    def _end_of_unknown(self, at: int) -> int:
        """Return where what a function is given ends that is no expression of ours, before its closing bracket."""
        opened = 0
        for match in _BRACKET.finditer(self._text, at, at + _LONGEST_UNKNOWN):
            opened += 1 if match[0] == "(" else -1
            if opened < 0:
                return match.start()
        return len(self._text)

    def _joined(self, at: int, depth: int) -> Read | None:
        """Return what a list is that is joined where it stands: ``["i", name].join("/")``."""
        columns: list[Column] = []
        while (read := self._expression(at, depth + 1)) is not None:
            columns.append(read[0])
            at = self._behind_space(read[1])
            if not self._text.startswith(",", at):
                break
            at = self._behind_space(at + 1)
        joins = _JOIN.match(self._text, at) if columns else None
        separator = self._expression(joins.end(), depth + 1) if joins is not None else None
        closed = self._closed(separator, ")")
        if closed is None or (even := self._even(closed[0], *columns)) is None:
            return None
        return self._kept([str(by).join(map(str, values)) for by, *values in zip(*even, strict=True)], closed[1])

    def _closed(self, read: Read | None, mark: str) -> Read | None:
        if read is None:
            return None
        end = self._behind_space(read[1])
        return (read[0], end + 1) if self._text.startswith(mark, end) else None

    def _behind_space(self, at: int) -> int:
        space = _SPACE.match(self._text, at)
        return space.end() if space is not None else at


def _number(value: Value) -> float:
    """Return a value as a number, as operators do (ECMAScript, 7.1.4); not a number (NaN) if it is none."""
    text = str(int(value)) if isinstance(value, int) else value.strip() or "0"
    return float(text) if _DECIMAL.fullmatch(text) is not None else math.nan


def _added(left: Value, right: Value) -> Value:
    """Add numbers, or put texts behind each other (ECMAScript, 13.15.3)."""
    if isinstance(left, int) and isinstance(right, int):
        return left + right
    return f"{left}{right}"[: _LONGEST + 1]


def _subtracted(left: Value, right: Value) -> Value:
    difference = _number(left) - _number(right)
    return int(difference) if difference.is_integer() else "NaN"


_COMPARED: dict[str, Callable[[Value, Value], bool]] = {
    "<": lambda left, right: _number(left) < _number(right),
    "<=": lambda left, right: _number(left) <= _number(right),
    ">": lambda left, right: _number(left) > _number(right),
    ">=": lambda left, right: _number(left) >= _number(right),
    "==": lambda left, right: str(left) == str(right),
    "===": lambda left, right: left == right,
    "!=": lambda left, right: str(left) != str(right),
    "!==": lambda left, right: left != right,
}


def _padded(value: Value, width: Value, fill: Value = " ") -> str:
    """Fill a text up at its start (ECMAScript, 22.1.3.17)."""
    missing = max(_place(width) - len(str(value)), 0)
    return (str(fill) * missing)[:missing] + str(value)


def _sliced(value: Value, start: Value, end: Value = "") -> str:
    """Return a part of a text, counted from its end by what is negative (ECMAScript, 22.1.3.22)."""
    return str(value)[_place(start) : _place(end) if end != "" else None]


def _part(value: Value, start: Value, length: Value = "") -> str:
    """Return so many characters of a text (ECMAScript, B.2.2.1)."""
    rest = str(value)[_place(start) :]
    return rest[: max(_place(length), 0)] if length != "" else rest


def _place(value: Value) -> int:
    """Return a place in a text, or a width; what is no number is the first."""
    number = _number(value)
    return 0 if math.isnan(number) else int(max(-_LONGEST, min(number, _LONGEST)))


def _replaced(value: Value, what: Value, by: Value) -> str:
    """Put a text in the places that a template has for it; where that gets too long it stays as it is."""
    text, place = str(value), str(what)
    is_short = bool(place) and len(text) + text.count(place) * len(str(by)) <= _LONGEST
    return text.replace(place, str(by)) if is_short else text


_MADE: dict[str, Callable[..., str]] = {
    "padStart": _padded,
    "toString": lambda value, *_: str(value),
    "toLowerCase": lambda value, *_: str(value).lower(),
    "slice": _sliced,
    "substr": _part,
    "substring": _sliced,
    "concat": lambda *values: "".join(map(str, values)),
    "replace": _replaced,
    "replaceAll": _replaced,
}
"""what methods make of a text, and of what they are given"""

_GIVEN = {"padStart": (1, 2), "toString": (0, 1), "toLowerCase": (0, 0), "slice": (1, 2), "substr": (1, 2)}
_GIVEN |= {"substring": (1, 2), "concat": (1, _MOST_GIVEN), "replace": (2, 2), "replaceAll": (2, 2)}
"""how much each is given, at least and at most"""
