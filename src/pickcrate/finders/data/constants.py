"""Strings that a script puts together of constants: ``folder + "red.jpg"``, ``"img/" + names[i] + ".jpg"``.

ECMAScript, 13.8.1 (the addition operator), 13.2.8 (template literals), 14.3 (declarations). A name counts if all of
the script gives it one string or one list of strings, and no function has a parameter of that name, unless all of the
script is that function, called with a string for it. A property (``photo.file``, or ``({file}) =>``) stands for what
the script's objects have under its name, if all of that are files, or words before an extension, or it is a folder.
What a script does not say itself may be said by the others of its page, all taken together. In a loop a name stands for
what that counts, or goes through (``loops``), and in a short script for what is made of that (``spelling``).
"""

import re
from bisect import bisect_right
from collections.abc import Callable, Iterator
from functools import cache, cached_property, partial

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.finders.data.arrays import Arrays
from pickcrate.finders.data.loops import NAME, Loop, loops_in
from pickcrate.finders.data.objectliteral import Effort
from pickcrate.finders.data.pieces import (
    MOST_STRINGS,
    NAMES_A_FILE,
    Piece,
    Places,
    columns_of,
    piece_of,
    places_of,
    shared_folder,
    spelled,
)
from pickcrate.finders.data.spelling import Column, Spelling
from pickcrate.finders.data.strings import string_literals, unescape
from pickcrate.text.lazyre import lazy

_INDEX = r"\[[^\[\]\n\"'`]{1,40}+\]"
_HOLDER = rf"(?P<holder>(?:{NAME}(?:{_INDEX})?+\.){{1,4}})?"
_GIVEN = lazy(
    rf"(?<![\w$.])(?P<name>{NAME})(?P<index>{_INDEX})?+\s{{0,9}}"
    r"(?:[-+*/%&|^?]{1,3}=|\+\+|--|(?P<gives>=(?![=>])\s{0,9}))"
)
"""a name, or one place of a list, and what gives it a value"""

_FARTHEST_IN_LOOP = 2_000
"""characters behind the beginning of a loop that are still in it: what it makes of its number stands near"""

_PARAMETERS = lazy(
    r"(\b(?:for|if|while|switch|with)\s{0,3})?+\(([^()]{1,300}+)\)\s{0,9}(?:=>|\{)|(?<![\w$.])([\w$]{1,40}+)\s{0,9}=>"
)
"""those of a function, but for what only stands like them behind a word of the language"""

_TAKEN_APART = lazy(
    r"\{([\w$\s,:]{1,200}+)\}\s{0,9}(?:(?:,\s{0,3}[\w$]{1,40}\s{0,3})?\)\s{0,9}(?:=>|\{)|=(?![=>])|of\b)"
)
"""the names that stand for the properties of an object (ECMAScript, 14.3.3): ``({title, file: name}) => …``"""

_IN_PARAMETERS = lazy(NAME)
_CALLED_AT_ONCE = lazy(r"\(\s{0,9}function\s{0,3}\(([\w$,\s]{1,50000}+)\)\s{0,9}\{")
"""the head of a function that is called where it stands"""

_CALLS_IT = lazy(r"\s{0,9}\)?\s{0,9}\(")
_IN_CODE = lazy(r"([\"'`,()\[\]{}])\s*+")
_MOST_BESIDES = 200
"""characters of a script besides such a function and what it is given: its names may mean something else in others"""

_KEY_BEFORE = lazy(
    rf"(?:[{{,]\s{{0,20}}(?:({NAME})|[\"']({NAME})[\"'])\s{{0,9}}:|\bthis\.({NAME})\s{{0,9}}=)\s{{0,9}}\Z"
)
_PLUS = lazy(r"\s{0,20}\+(?![+=])\s{0,20}")
_PLUS_BEFORE = lazy(rf"(?:(?<![\w$.]){_HOLDER}({NAME})(?:{_INDEX})?+|[\"'`])\s{{0,20}}\+\s{{0,20}}\Z")
_OPERAND = lazy(rf"{_HOLDER}(?P<name>{NAME})(?P<index>{_INDEX})?+")
_GOES_ON = lazy(r"\s{0,9}[.(\[]")
"""behind what is only where an operand begins: ``folder.length``"""

_ENDS = lazy(r"[^\S\n]{0,9}(?:[;,)}\]\n]|\Z)")
_PUT_IN = lazy(r"\$\{\s{0,3}([^{}`]{1,200}?)\s{0,3}\}")
_SPELLS = lazy(
    rf"(?<![\w$.]){NAME}\.(?:replace(?:All)?|concat)\(|[\"'`](?=\.(?:concat|replace(?:All)?)\()|\[(?=[^\[\]]{{1,200}}\]\s{{0,9}}\.join\()"
)
"""where a script may put an address together without a plus sign"""

_INTEGER = lazy(r"\d{1,4}(?=\s{0,9}(?:[;,)\n]|\Z))")
_IS_ADDED = lazy(rf"[\"'`]\s{{0,20}}\+(?![+=])|\+\s{{0,20}}[\"'`]|\$\{{|\w\s{{0,20}}\+\s{{0,20}}{NAME}\[")
_LOOK_BACK, _KEY_LOOK_BACK = 140, 80
"""characters before an operand in which the one before it begins; before a value in which its key does"""

_MOST_OPERANDS, _MOST_READ = 20, 100_000
"""of one expression; and characters of a script that are read as rows of a list"""

_LONGEST_BY_HAND = 20_000
"""characters of a script whose plain words, and sums of two names, may be files: longer ones are programs"""

_LONGEST_GIVEN = 300
"""characters of a string that is put together for a name: each name may be longer than the last"""


class Sum(Struct, frozen=True):
    """An expression of constants, where it begins and ends, and the strings that it may make."""

    start: int
    end: int
    strings: tuple[str, ...]


def sums(text: str, of_page: "Callable[[], Constants] | None" = None) -> Iterator[Sum]:
    """Yield the expressions of a script that are put together of constants, in order; in linear time.

    ``of_page`` returns the constants of all scripts of its page; it is called if they are needed.
    """
    is_by_hand = len(text) <= _LONGEST_BY_HAND and ("+" in text or _SPELLS.search(text) is not None)
    if is_by_hand or _IS_ADDED.search(text) is not None:
        yield from Constants(text, of_page).sums()


def reader(text: str, of_page: "Callable[[], Constants] | None" = None) -> Callable[[int], str | None]:
    """Return what returns the one string that the expression at a place of a script is; None if it is none.

    The constants are read when it is first asked for.
    """
    constants = cache(partial(Constants, text, of_page))
    return lambda at: constants().string_at(at)


class Constants:
    """The names of a script that stand for one string or one list of strings each."""

    def __init__(self, text: str, of_page: "Callable[[], Constants] | None" = None, *, is_shared: bool = False) -> None:
        """Read the constants of a script; ``of_page`` returns those of all scripts of its page.

        Of what others share (``is_shared``) the parameters of functions do not matter: those are each script's own.
        """
        self._text = text
        self._of_page = of_page
        self._end_of = dict(string_literals(text))
        self._start_of = {end: start for start, end in self._end_of.items()}
        self._starts = list(self._end_of)
        self._strings: dict[str, str | None] = {}
        self._lists: dict[str, Places | None] = {}
        self._integers: dict[str, int] = {}
        self._rows: dict[str, list[Places]] = {}
        self._made_in_loops: dict[str, tuple[int, Places]] = {}
        self._arrays = Arrays(text, self._end_of)
        self._effort = Effort(_MOST_READ)
        is_by_hand = len(text) <= _LONGEST_BY_HAND and not is_shared
        self._spelling = Spelling(text, self._end_of, self._column_of) if is_by_hand else None
        self._loops = [] if is_shared else sorted(loops_in(text), key=lambda loop: loop.start)
        self._taken_apart = {} if is_shared else _taken_apart(text)
        for match in () if is_shared else _PARAMETERS.finditer(text):
            if not match[1]:
                self._forget(*_IN_PARAMETERS.findall(match[2] or match[3]))
        for match in _GIVEN.finditer(text):
            if self._is_code(match.start()):
                self._give(match["name"], match.end() if match["gives"] else None, is_place=bool(match["index"]))
        if not is_shared:
            self._strings |= self._given_at_once()

    def _given_at_once(self) -> dict[str, str]:
        """Return the strings that the parameters of a function stand for that is called where it stands.

        Programs that send data keep apart what it has several times: ``(function(a,b){return {title:a}}("Red",1))``.
        """
        head = _CALLED_AT_ONCE.search(self._text)
        body = self._parts(head.end() - 1) if head is not None else None
        call = _CALLS_IT.match(self._text, body[-1]) if body else None
        given = self._parts(call.end() - 1) if call is not None else None
        if head is None or not given or len(self._text) - (given[-1] - head.start()) > _MOST_BESIDES:
            return {}
        names = _IN_PARAMETERS.findall(head[1])
        if len(names) != len(given) - 1:
            return {}
        pairs = ((name, self.string_at(at)) for name, at in zip(names, given, strict=False))
        return {name: said for name, said in pairs if said is not None}

    def _parts(self, opens: int) -> list[int] | None:
        """Return where the parts between the commas in a pair of brackets begin, and last where that ends."""
        parts: list[int] = []
        depth, read_up_to = 0, opens
        for match in _IN_CODE.finditer(self._text, opens):
            at, mark = match.start(), match[1]
            if at < read_up_to:
                continue
            if mark in "\"'`":
                read_up_to = self._end_of.get(at, at + 1)
            elif mark != ",":
                depth += 1 if mark in "([{" else -1
            if not depth:
                return [*parts, match.end()]
            if depth == 1 and (mark == "," or at == opens):
                parts.append(match.end())
        return None

    def sums(self) -> Iterator[Sum]:
        """Yield what is put together of them, and the templates that have some in them."""
        left, read_up_to = MOST_STRINGS, 0
        for start in self._beginnings():
            added = self._added(start) if start >= read_up_to and left > 0 else None
            if added is None:
                continue
            left -= max((len(piece.strings) for piece in added[0] if isinstance(piece, Places)), default=1)
            if strings := spelled(added[0]):
                read_up_to = added[1]
                yield Sum(start, read_up_to, strings)

    def _beginnings(self) -> list[int]:
        """Return where expressions begin that add something, or are a template."""
        begin_of: dict[int, int | None] = {}  # of the expression that an operand behind a plus sign is in
        for match in filter(lambda match: self._is_code(match.start()), _PLUS.finditer(self._text)):
            before = self._operand_before(match.end())
            begin_of[match.end()] = before if before is None else begin_of.get(before, before)
        templates = (start for start in self._starts if start not in begin_of and self._is_put_together(start))
        spelled = (match.start() for match in _SPELLS.finditer(self._text))
        calls = (self._start_of.get(at + 1, at) for at in spelled if self._is_code(at) or at + 1 in self._start_of)
        begun = (start for start in begin_of.values() if start is not None)
        return sorted({*templates, *begun, *(calls if self._spelling is not None else ())})

    def _is_put_together(self, start: int) -> bool:
        """Tell whether a literal is a template with something put into it."""
        return self._text[start] == "`" and "${" in self._text[start : self._end_of[start]]

    def _is_code(self, at: int) -> bool:
        """Tell whether a place is inside no literal."""
        index = bisect_right(self._starts, at) - 1
        return index < 0 or self._end_of[self._starts[index]] <= at

    def _forget(self, *names: str) -> None:
        """Note that names stand for more than one value."""
        self._strings.update(dict.fromkeys(names))
        self._lists.update(dict.fromkeys(names))
        for name in names:
            self._integers.pop(name, None)
            self._rows.pop(name, None)
            self._made_in_loops.pop(name, None)

    def _give(self, name: str, at: int | None, *, is_place: bool) -> None:
        """Note what a name, or a place of its list, is given: what begins at ``at``, or what is no constant (None)."""
        is_number = at is not None and _INTEGER.match(self._text, at) is not None
        string = self.string_at(at) if at is not None and not is_number else None
        listed = self._lists.get(name)
        if is_place and listed is not None and string is not None:
            listed.strings.append(string)
        elif is_place or at is None or name in self._strings or name in self._lists:
            self._forget(name)
        elif string is not None:
            self._strings[name] = string
        else:
            read = self._arrays.at(at)
            is_all = read is not None and _GOES_ON.match(self._text, read[1]) is None
            self._lists[name] = read[0] if read is not None and is_all else None
            if read is None:
                self._give_otherwise(name, at)

    def _give_otherwise(self, name: str, at: int) -> None:
        """Note what a name is given that is no string and no list of strings: a number, rows, what a loop makes."""
        if (match := _INTEGER.match(self._text, at)) is not None:
            self._integers[name] = int(match[0])
        elif self._spelling is None:
            return
        elif self._text.startswith(("[[", "{"), at):
            self._rows[name] = columns_of(self._effort.read(self._text, at).value, may_be_plain=True)
        elif (read := self._spelling.expression(at)) is not None and _ENDS.match(self._text, read[1]) is not None:
            made = piece_of(read[0])
            if isinstance(made, Places):
                self._made_in_loops[name] = at, made
            else:
                self._strings[name] = made

    def string_at(self, at: int) -> str | None:
        """Return the one string that an expression is, which begins at a place; None if it may be anything else."""
        pieces, end = self._added(at) or ([None], at)
        strings = [piece for piece in pieces if isinstance(piece, str)]
        is_all = len(strings) == len(pieces) and _ENDS.match(self._text, end) is not None
        is_short = len(strings) == 1 or sum(map(len, strings)) <= _LONGEST_GIVEN
        return "".join(strings) if is_all and is_short else None

    def _operand_before(self, at: int) -> int | None:
        """Return where the operand before a plus sign begins that ends at ``at``; None if it is none of ours."""
        match = _PLUS_BEFORE.search(self._text, max(0, at - _LOOK_BACK), at)
        if match is None:
            return None
        return match.start() if match[2] else self._start_of.get(match.start() + 1)

    def _added(self, start: int) -> tuple[list["Piece"], int] | None:
        """Return the operands of the sum of constants that begins at a place, and its end; None if it is none."""
        pieces: list[Piece] = []
        at = start
        for _ in range(_MOST_OPERANDS):
            operand = self._operand(at)
            if operand is None:
                return None
            more, end = operand
            pieces += more
            plus = _PLUS.match(self._text, end)
            if plus is None:
                return pieces, end
            at = plus.end()
        return None

    def _operand(self, at: int) -> tuple[list["Piece"], int] | None:
        """Return what an operand is made of, and where it ends; None if it is no constant."""
        end = self._end_of.get(at)
        if end is not None:
            pieces = self._literal(at, end)
        elif (match := _OPERAND.match(self._text, at)) is not None:
            pieces, end = [self._counted(match, at) or self._named(match)], match.end()
        else:
            return self._spelled_at(at)
        return self._spelled_at(at) if None in pieces or _GOES_ON.match(self._text, end) else (pieces, end)

    def _spelled_at(self, at: int) -> tuple[list["Piece"], int] | None:
        """Return what an operand makes of a name that stands for several values; None if it is nothing of the kind."""
        read = self._spelling.operand(at) if self._spelling is not None else None
        if read is None or _GOES_ON.match(self._text, read[1]) is not None:
            return None
        return [piece_of(read[0])], read[1]

    def _column_of(self, name: str, at: int) -> Column | None:
        """Return the values that a name stands for at a place: numbers are numbers there."""
        places = self._in_loop(name, at)
        if places is not None:
            is_counted = all(map(str.isdecimal, places.strings))
            return [int(value) if is_counted and str(int(value)) == value else value for value in places.strings]
        constant = self._integers.get(name, self._strings.get(name))
        return [constant] if constant is not None else None

    def _counted(self, match: re.Match[str], at: int) -> Places | None:
        """Return what a name alone, or one place of it, stands for in the loop around a place of the script."""
        if match["holder"]:
            return None
        if not match["index"]:
            return self._in_loop(match["name"], at)
        loop = self._loop_around(match["name"], at)
        place = match["index"][1:-1].strip()
        return self._given_by(replace(loop, part=int(place))) if loop is not None and place.isdecimal() else None

    def _in_loop(self, name: str, at: int) -> Places | None:
        """Return what a name stands for in the loop around a place, the innermost that gives it values."""
        made = self._made_in_loops.get(name)
        if made is not None and 0 < at - made[0] <= _FARTHEST_IN_LOOP:
            return made[1]
        loop = self._loop_around(name, at)
        return self._given_by(loop) if loop is not None else None

    def _loop_around(self, name: str, at: int) -> Loop | None:
        """Return the innermost loop around a place that gives values to a name."""
        inner = bisect_right(self._loops, at, key=lambda loop: loop.start)
        for place in range(inner - 1, -1, -1):
            loop = self._loops[place]
            if at - loop.start > _FARTHEST_IN_LOOP:
                break
            if loop.name == name:
                return loop
        return None

    def _given_by(self, loop: Loop) -> Places | None:
        """Return the values that a loop gives to its name."""
        if loop.counts is not None:
            last = int(loop.counts.last) if loop.counts.last.isdecimal() else self._integers.get(loop.counts.last)
            numbers = loop.counts.numbers(last)
            return Places(numbers) if numbers else None
        if loop.part is not None:
            rows = self._rows.get(loop.listed, [])
            return rows[loop.part] if loop.part < len(rows) else None
        if loop.listed:
            return self._lists.get(loop.listed)
        return self._arrays.by_end.get(loop.ends) if self._spelling is not None else None

    def _named(self, match: re.Match[str]) -> "Piece":
        """Return what a name stands for, or the places of its list, or what objects have under its name."""
        if match["holder"] and match["index"]:
            return None
        name = match["name"]
        if not match["holder"] and self._strings.get(name) is None and name in self._taken_apart:
            return self._properties.get(self._taken_apart[name])
        is_said = name in self._properties if match["holder"] else name in self._strings or name in self._lists
        if not is_said and self._of_page is not None and self._is_by_a_file(match):
            return self._of_page()._named(match)  # noqa: SLF001 (it is one of these)
        if match["holder"]:
            return self._properties.get(name)
        return (self._lists if match["index"] else self._strings).get(name)

    def _is_by_a_file(self, match: re.Match[str]) -> bool:
        """Tell whether the name of a file stands near an operand: only then others are asked for what it is."""
        start = max(0, match.start() - _LOOK_BACK)
        return NAMES_A_FILE.search(match.string, start, match.end() + _LOOK_BACK) is not None

    @cached_property
    def _properties(self) -> dict[str, "str | Places"]:
        """What the objects of the script have under each name: one folder, or a list."""
        listed: dict[str, list[str]] = {}
        for start, end in self._end_of.items():
            match = _KEY_BEFORE.search(self._text, max(0, start - _KEY_LOOK_BACK), start)
            if match is not None:
                listed.setdefault(match[match.lastindex or 1], []).append(unescape(self._text[start + 1 : end - 1]))
        may_be_plain = len(self._text) <= _LONGEST_BY_HAND
        return {
            name: shared_folder(values) or places_of(values, may_be_plain=may_be_plain)
            for name, values in listed.items()
        }

    def _literal(self, start: int, end: int) -> list["Piece"]:
        """Return what a literal says; of a template its pieces and what is put between them."""
        literal = self._text[start + 1 : end - 1]
        if not self._is_put_together(start):
            return [unescape(literal)]
        pieces: list[Piece] = []
        at = 0
        for match in _PUT_IN.finditer(literal):
            piece = self._put_in(start + 1 + match.start(1), start + 1 + match.end(1))
            if piece is None:
                return [None]
            pieces += unescape(literal[at : match.start()]), piece
            at = match.end()
        return [None] if literal.count("${") > len(pieces) // 2 else [*pieces, unescape(literal[at:])]

    def _put_in(self, at: int, end: int) -> "Piece":
        """Return what a template has between ``${`` and ``}``."""
        match = _OPERAND.match(self._text, at, end)
        if match is not None and match.end() == end:
            return self._counted(match, at) or self._named(match)
        if self._spelling is None:
            return None
        inner = self._text[at:end]
        spelling = Spelling(inner, dict(string_literals(inner)), lambda name, _: self._column_of(name, at))
        read = spelling.expression(0)
        return piece_of(read[0]) if read is not None and not inner[read[1] :].strip() else None


def _taken_apart(text: str) -> dict[str, str]:
    """Return the properties that names stand for where objects are taken apart."""
    pairs = (entry.partition(":") for match in _TAKEN_APART.finditer(text) for entry in match[1].split(","))
    return {(own or of).strip(): of.strip() for of, _, own in pairs if of.strip()}
