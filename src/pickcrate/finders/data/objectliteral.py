"""Object and array literals of scripts (ECMA-262, 13.2.4 and 13.2.5), for the data in them.

What a value computes is put together if it is of constants (``folder + "red.jpg"``); what is given to a function as all
there is counts as the value (``require("red.jpg")``). Other values are passed over: functions, sums, choices.
"""

import re
from collections.abc import Callable, Iterator

from msgspec import Struct, field

from pickcrate.finders.data.strings import OF_TEMPLATE, unescape
from pickcrate.text.lazyre import lazy

_STRING = r"\"(?:[^\"\\\n]|\\.)*+\"|'(?:[^'\\\n]|\\.)*+'"
_UNCLOSED = rf"\"(?:[^\"\\\n]|\\.)*+|'(?:[^'\\\n]|\\.)*+|`{OF_TEMPLATE}"
_COMMENT = r"//[^\n]*+|/\*[^*]*+(?:\*(?!/)[^*]*+)*+(?:\*/|\Z)"
_REGULAR_EXPRESSION = r"/(?![/*])(?:[^/\\\[\n]|\\.|\[(?:[^\]\\\n]|\\.){0,200}+\]){1,1000}+/[a-z]*+"
"""a literal of one (ECMA-262, 12.9.5), where a value begins"""

_BRACKET = r"(?P<opens>[{\[(])|(?P<closes>[}\])])"
# What is closed nowhere is taken up to where it ends: to look for that at each of its signs would take the square.
_TOKEN = lazy(
    rf"\s++|{_COMMENT}|(?P<string>{_STRING}|`(?:[^`\\$]|\\.|\$(?!\{{))*+`)|(?P<template>`{OF_TEMPLATE}`|{_UNCLOSED})"
    rf"|{_BRACKET}|(?P<parts>[,:;])|(?P<word>[\w$.+-]++)|(?P<sign>.)",
    re.DOTALL,
)
_PASSED_OVER = lazy(
    rf"[^\"'`/{{}}()\[\]]++|(?<=[=(,:!&|?;]){_REGULAR_EXPRESSION}|{_COMMENT}|{_STRING}|`{OF_TEMPLATE}`|{_UNCLOSED}"
    rf"|{_BRACKET}|.",
    re.DOTALL,
)
_PLAIN_WORD = lazy(r"[+-]?\.?\d[\w.+-]*+|true|false|null")
_GIVEN_ALONE = lazy(rf"\(\s*+({_STRING})\s*+\)", re.DOTALL)
_EXPRESSION = lazy(_REGULAR_EXPRESSION)
_DEEPEST = 60
_LONGEST_PASSED_OVER = 4_000
"""Characters of one value that is no data: where more are, it is a program."""

Literal = dict[str, object] | list[object]
StringAt = Callable[[int], str | None]
"""returns the string that the expression of constants at a place of the script is; None if it is none"""


def _no_string(_at: int) -> None:
    return None


class Read(Struct):
    """What was read of a literal: its value, where that ends, and where stands in it what is no data."""

    value: Literal
    end: int
    passed_over: list[tuple[int, int]] = field(default_factory=list)
    reached: int = 0
    """up to where it was read, to find that the rest is a program"""


class Effort(Struct):
    """How many characters of a page's scripts may still be read: that takes thirty times as long as JSON does."""

    left: int = 2_000_000

    def read(self, text: str, start: int, string_at: StringAt = _no_string) -> Read:
        """Return what ``read_literal`` does of a literal at ``start``."""
        read = read_literal(text, start, start + self.left, string_at)
        self.left -= max(read.end, read.reached) - start
        return read


def read_literal(text: str, start: int, stop: int, string_at: StringAt = _no_string) -> Read:
    """Return the object or array that begins at ``start``; what stands before ``stop`` of it, and before a program.

    What is given to a function, in its parentheses, is an array as well. Numbers are texts, as written.
    """
    return _Reading(text, start, stop, string_at).all()


class _Reading:
    """One literal being read: the objects and arrays that are open, and the value that is."""

    def __init__(self, text: str, start: int, stop: int, string_at: StringAt) -> None:
        self._text = text
        self._at = self._reached = start
        self._stop = stop
        self._string_at = string_at
        self._open: list[Literal] = []
        self._whole: Literal = []
        self._passed_over: list[tuple[int, int]] = []
        self._begin(start)

    def all(self) -> Read:
        """Read up to the end of the literal, or to what is none."""
        if not self._text.startswith(("{", "[", "("), self._at):
            return Read(self._whole, self._at)
        for match in self._tokens(_TOKEN):
            if not self._take(match):
                break
        return Read(self._whole, self._at, self._passed_over, self._reached)

    def _begin(self, at: int, key: str | None = None) -> None:
        """Begin with the key of a value, or with the value itself, as the open object or array has it."""
        self._key = key
        self._started = at
        self._tokens_of_value = 0
        self._said: str | None = None
        self._is_word = False
        self._may_be_sum = True

    def _tokens(self, token: re.Pattern[str]) -> Iterator[re.Match[str]]:
        """Yield what stands one behind the other and counts, up to where no more is read."""
        while self._at < self._stop:
            match = token.match(self._text, self._at, self._stop)
            if match is None:
                return
            self._at = match.end()
            if match.lastgroup is not None:
                yield match

    def _take(self, match: re.Match[str]) -> bool:
        """Take in what stands next; return whether the literal goes on."""
        kind, text = match.lastgroup, match[0]
        if kind == "opens":
            return self._enter(match)
        if kind == "closes" or text == ",":
            self._put(match.start())
            self._begin(match.end())
            if kind == "closes":
                self._open.pop()
            return bool(self._open)
        if text == ";":
            return False
        if text == ":" and self._said is not None and self._may_be_key():
            self._begin(match.end(), self._said)
            return True
        if not self._tokens_of_value:
            self._started = match.start()
            if text == "/" and (expression := _EXPRESSION.match(self._text, self._started)) is not None:
                self._at = expression.end()
            self._said = unescape(text[1:-1]) if kind == "string" else text
            self._is_word = kind == "word"
        self._tokens_of_value += 1 if kind in {"string", "word"} else 2
        return True

    def _may_be_key(self) -> bool:
        """Tell whether what was read last is the key of a value: one string, or one word, in an object."""
        return self._key is None and self._tokens_of_value == 1 and isinstance(self._open[-1], dict)

    def _enter(self, match: re.Match[str]) -> bool:
        """Go into an object or array, or pass over what is none, to its end."""
        mark = match[0]
        is_value = not self._open or not isinstance(self._open[-1], dict) or self._key is not None
        if not self._tokens_of_value and is_value and (mark != "(" or not self._open):
            made: Literal = {} if mark == "{" else []
            self._hold(made)
            self._open.append(made)
            self._begin(match.end())
            return len(self._open) <= _DEEPEST
        if not self._tokens_of_value:
            self._started = match.start()
        alone = _GIVEN_ALONE.match(self._text, match.start()) if self._is_call() else None
        if alone is not None:
            self._said, self._is_word, self._at = unescape(alone[1][1:-1]), False, alone.end()
            return True
        self._tokens_of_value += 2
        self._may_be_sum = False
        if self._pass_over(match.start()):
            return True
        self._reached, self._at = self._at, self._started  # what is in it is looked for by itself
        return False

    def _is_call(self) -> bool:
        """Tell whether one name is all that was read of a value: behind it stands what is given to a function."""
        is_value = self._key is not None or isinstance(self._open[-1], list)
        return self._tokens_of_value == 1 and self._is_word and is_value

    def _pass_over(self, start: int) -> bool:
        """Go to the end of what stands in brackets; return whether it has one near."""
        depth = 1
        stop = start + _LONGEST_PASSED_OVER
        for match in self._tokens(_PASSED_OVER):
            depth += (match.lastgroup == "opens") - (match.lastgroup == "closes")
            if not depth:
                return True
            if self._at > stop:
                return False
        return False

    def _put(self, end: int) -> None:
        """Put the value that was read where it belongs, if it is data."""
        if self._tokens_of_value == 1:
            is_plain = not self._is_word or _PLAIN_WORD.fullmatch(self._said or "") is not None
            said = self._said if is_plain else self._string_at(self._started)
            if said is not None:
                self._hold(said)
        elif self._tokens_of_value:
            said = self._string_at(self._started) if self._may_be_sum else None
            if said is None:
                self._passed_over.append((self._started, end))
            else:
                self._hold(said)

    def _hold(self, value: object) -> None:
        """Put a value into the open object or array: at the end, or under its key."""
        if not self._open:
            if isinstance(value, dict | list):
                self._whole = value
            return
        holder = self._open[-1]
        if isinstance(holder, list):
            holder.append(value)
        elif self._key is not None:
            holder[self._key] = value
