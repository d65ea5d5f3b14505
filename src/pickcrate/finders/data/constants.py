"""Strings that a script puts together of constants: ``folder + "red.jpg"``, ``"img/" + names[i] + ".jpg"``.

ECMAScript, 13.8.1 (the addition operator), 13.2.8 (template literals), 14.3 (declarations). A name counts if all of
the script gives it one string or one list of strings, and no function has a parameter of that name, unless all of the
script is that function, called with a string for it. A property (``photo.file``, or ``({file}) =>``) stands for what
the script's objects have under its name, if all of that are files, or words before an extension, or it is a folder.
What a script does not say itself may be said by the others of its page, all taken together. What a loop counts
(``for (i = 1; i <= 24; i++)``, 14.7.4) stands for its numbers in the loop.
"""

import itertools
import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator
from functools import cache, cached_property, partial

from msgspec import Struct

from pickcrate.finders.data.strings import string_literals, unescape
from pickcrate.media import ANY_EXTENSION
from pickcrate.text.lazyre import lazy

_NAME = r"[A-Za-z_$][\w$]{0,40}+"
_INDEX = r"\[[^\[\]\n\"'`]{1,40}+\]"
_HOLDER = rf"(?P<holder>(?:{_NAME}(?:{_INDEX})?+\.){{1,4}})?"
_GIVEN = lazy(
    rf"(?<![\w$.])(?P<name>{_NAME})(?P<index>{_INDEX})?+\s{{0,9}}"
    r"(?:[-+*/%&|^?]{1,3}=|\+\+|--|(?P<gives>=(?![=>])\s{0,9}))"
)
"""a name, or one place of a list, and what gives it a value"""

_LOOP = lazy(rf"\bfor\s{{0,3}}\(\s{{0,3}}(?:(?:var|let)\s{{1,3}})?(?P<name>{_NAME})\s{{0,3}}=")
_COUNTS = lazy(
    r"\s{0,3}(?P<first>\d{1,4})\s{0,3};\s{0,3}(?P<name>[\w$]{1,41}+)\s{0,3}(?P<less><=?)\s{0,3}(?P<last>\d{1,4})\s{0,3};"
    r"\s{0,3}(?:(?P=name)\s{0,3}\+\+|\+\+\s{0,3}(?P=name)|(?P=name)\s{0,3}\+=\s{0,3}1)\s{0,3}\)"
)
"""behind the name in a loop that counts up by one"""

_EACH = lazy(
    rf"(?<=[\w$])\.(?:forEach|map|flatMap)\(\s{{0,3}}(?:function\b\s{{0,3}})?\(?\s{{0,3}}(?P<name>{_NAME})"
    rf"|\bfor\s{{0,3}}\(\s{{0,3}}(?:const|let|var)\s{{1,3}}(?P<one>{_NAME})\s{{1,3}}of\s{{1,3}}(?P<of>{_NAME})\s{{0,3}}\)"
)
"""what is done for each of a list (ECMAScript, 23.1.3.15, 23.1.3.21, 14.7.5)"""

_NAME_BEFORE = lazy(rf"(?<![\w$.]){_NAME}\Z")
_FARTHEST_IN_LOOP = 2_000
"""characters behind the beginning of a loop that are still in it: what it makes of its number stands near"""

_MOST_COUNTED, _LONGEST_NAME = 1_000, 42
_PARAMETERS = lazy(
    r"(\b(?:for|if|while|switch|with)\s{0,3})?+\(([^()]{1,300}+)\)\s{0,9}(?:=>|\{)|(?<![\w$.])([\w$]{1,40}+)\s{0,9}=>"
)
"""those of a function, but for what only stands like them behind a word of the language"""

_TAKEN_APART = lazy(
    r"\{([\w$\s,:]{1,200}+)\}\s{0,9}(?:(?:,\s{0,3}[\w$]{1,40}\s{0,3})?\)\s{0,9}(?:=>|\{)|=(?![=>])|of\b)"
)
"""the names that stand for the properties of an object (ECMAScript, 14.3.3): ``({title, file: name}) => …``"""

_IN_PARAMETERS = lazy(_NAME)
_CALLED_AT_ONCE = lazy(r"\(\s{0,9}function\s{0,3}\(([\w$,\s]{1,50000}+)\)\s{0,9}\{")
"""the head of a function that is called where it stands"""

_CALLS_IT = lazy(r"\s{0,9}\)?\s{0,9}\(")
_IN_CODE = lazy(r"([\"'`,()\[\]{}])\s*+")
_MOST_BESIDES = 200
"""characters of a script besides such a function and what it is given: its names may mean something else in others"""

_KEY_BEFORE = lazy(
    rf"(?:[{{,]\s{{0,20}}(?:({_NAME})|[\"']({_NAME})[\"'])\s{{0,9}}:|\bthis\.({_NAME})\s{{0,9}}=)\s{{0,9}}\Z"
)
_IS_FOLDER = lazy(r"(?:https?:)?//.*|.*/")
_IS_FILE = lazy(rf"\.(?:{ANY_EXTENSION})(?:[?#].*)?\Z", re.IGNORECASE)
_IS_PLAIN = lazy(r"[a-z0-9][a-z0-9_-]{0,80}")
_NAMES_A_FILE = lazy(rf"\.(?:{ANY_EXTENSION})\b", re.IGNORECASE)
_LIST_BEGINS = lazy(r"(?:\[|new\s{1,9}Array\()\s*+")
_LIST_GOES_ON = lazy(r"\s*+,\s*+")
_LIST_ENDS = lazy(r"\s*+[\])]")
_PLUS = lazy(r"\s{0,20}\+(?![+=])\s{0,20}")
_PLUS_BEFORE = lazy(rf"(?:(?<![\w$.]){_HOLDER}({_NAME})(?:{_INDEX})?+|[\"'`])\s{{0,20}}\+\s{{0,20}}\Z")
_OPERAND = lazy(rf"{_HOLDER}(?P<name>{_NAME})(?P<index>{_INDEX})?+")
_GOES_ON = lazy(r"\s{0,9}[.(\[]")
"""behind what is only where an operand begins: ``folder.length``"""

_ENDS = lazy(r"[^\S\n]{0,9}(?:[;,)}\]\n]|\Z)")
_SUBSTITUTION = lazy(rf"\$\{{\s{{0,3}}{_HOLDER}(?P<name>{_NAME})(?P<index>{_INDEX})?+\s{{0,3}}\}}")
_IS_ADDED = lazy(rf"[\"'`]\s{{0,20}}\+(?![+=])|\+\s{{0,20}}[\"'`]|\$\{{|\w\s{{0,20}}\+\s{{0,20}}{_NAME}\[")
_LOOK_BACK, _KEY_LOOK_BACK = 140, 80
"""characters before an operand in which the one before it begins; before a value in which its key does"""

_MOST_OPERANDS, _MOST_STRINGS = 20, 5_000
"""of one expression; of all that a script puts together"""

_LONGEST_BY_HAND = 20_000
"""characters of a script whose plain words, and sums of two names, may be files: longer ones are programs"""

_LONGEST, _LONGEST_GIVEN = 4_000, 300
"""characters of a string, and of one that is put together for a name: each name may be longer than the last"""


class _Places(Struct):
    """What a list has in its places, or what objects have under one name."""

    strings: list[str]
    name_files: bool = True
    """whether they tell one file from another, and are not any words"""
    are_plain: bool = True
    """whether each is a word that a file may be called by, in small letters: it is, where an extension follows"""


class _Loop(Struct, frozen=True):
    """A loop: where it begins, the name that it gives values to, and the numbers that it counts, if it does that."""

    start: int
    name: str
    numbers: _Places | None = None
    listed: str = ""
    """the name of the list that it goes through"""


class Sum(Struct, frozen=True):
    """An expression of constants, where it begins and ends, and the strings that it may make."""

    start: int
    end: int
    strings: tuple[str, ...]


def sums(text: str, of_page: "Callable[[], Constants] | None" = None) -> Iterator[Sum]:
    """Yield the expressions of a script that are put together of constants, in order; in linear time.

    ``of_page`` returns the constants of all scripts of its page; it is called if they are needed.
    """
    if _IS_ADDED.search(text) is not None or (len(text) <= _LONGEST_BY_HAND and "+" in text):
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
        self._lists: dict[str, _Places | None] = {}
        self._loops = [] if is_shared else sorted(_loops(text), key=lambda loop: loop.start)
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
        left, read_up_to = _MOST_STRINGS, 0
        for start in self._beginnings():
            added = self._added(start) if start >= read_up_to and left > 0 else None
            if added is None:
                continue
            left -= max((len(piece.strings) for piece in added[0] if isinstance(piece, _Places)), default=1)
            if strings := _spelled(added[0]):
                read_up_to = added[1]
                yield Sum(start, read_up_to, strings)

    def _beginnings(self) -> list[int]:
        """Return where expressions begin that add something, or are a template."""
        begin_of: dict[int, int | None] = {}  # of the expression that an operand behind a plus sign is in
        for match in filter(lambda match: self._is_code(match.start()), _PLUS.finditer(self._text)):
            before = self._operand_before(match.end())
            begin_of[match.end()] = before if before is None else begin_of.get(before, before)
        templates = (start for start in self._starts if start not in begin_of and self._is_put_together(start))
        return sorted({*templates, *(start for start in begin_of.values() if start is not None)})

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

    def _give(self, name: str, at: int | None, *, is_place: bool) -> None:
        """Note what a name, or a place of its list, is given: what begins at ``at``, or what is no constant (None)."""
        string = self.string_at(at) if at is not None else None
        listed = self._lists.get(name)
        if is_place and listed is not None and string is not None:
            listed.strings.append(string)
        elif is_place or at is None or name in self._strings or name in self._lists:
            self._forget(name)
        elif string is not None:
            self._strings[name] = string
        else:
            self._lists[name] = self._list(at)

    def string_at(self, at: int) -> str | None:
        """Return the one string that an expression is, which begins at a place; None if it may be anything else."""
        pieces, end = self._added(at) or ([None], at)
        strings = [piece for piece in pieces if isinstance(piece, str)]
        is_all = len(strings) == len(pieces) and _ENDS.match(self._text, end) is not None
        is_short = len(strings) == 1 or sum(map(len, strings)) <= _LONGEST_GIVEN
        return "".join(strings) if is_all and is_short else None

    def _list(self, at: int) -> _Places | None:
        """Return the strings of a list that begins at a place; None if anything else is in it."""
        begins = _LIST_BEGINS.match(self._text, at)
        if begins is None:
            return None
        strings: list[str] = []
        at = begins.end()
        while (end := self._end_of.get(at)) is not None:
            strings.append(unescape(self._text[at + 1 : end - 1]))
            goes_on = _LIST_GOES_ON.match(self._text, end)
            at = goes_on.end() if goes_on else end
        ends = _LIST_ENDS.match(self._text, at)
        return _Places(strings) if ends and _GOES_ON.match(self._text, ends.end()) is None else None

    def _operand_before(self, at: int) -> int | None:
        """Return where the operand before a plus sign begins that ends at ``at``; None if it is none of ours."""
        match = _PLUS_BEFORE.search(self._text, max(0, at - _LOOK_BACK), at)
        if match is None:
            return None
        return match.start() if match[2] else self._start_of.get(match.start() + 1)

    def _added(self, start: int) -> tuple[list["_Piece"], int] | None:
        """Return the operands of the sum of constants that begins at a place, and its end; None if it is none."""
        pieces: list[_Piece] = []
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

    def _operand(self, at: int) -> tuple[list["_Piece"], int] | None:
        """Return what an operand is made of, and where it ends; None if it is no constant."""
        end = self._end_of.get(at)
        if end is not None:
            pieces = self._literal(at, end)
        elif (match := _OPERAND.match(self._text, at)) is not None:
            pieces, end = [self._counted(match, at) or self._named(match)], match.end()
        else:
            return None
        return None if None in pieces or _GOES_ON.match(self._text, end) else (pieces, end)

    def _counted(self, match: re.Match[str], at: int) -> _Places | None:
        """Return what a name stands for in the loop around a place, the innermost that gives it values."""
        if match["holder"] or match["index"]:
            return None
        inner = bisect_right(self._loops, at, key=lambda loop: loop.start)
        for place in range(inner - 1, -1, -1):
            loop = self._loops[place]
            if at - loop.start > _FARTHEST_IN_LOOP:
                break
            if loop.name == match["name"]:
                return self._lists.get(loop.listed) if loop.listed else loop.numbers
        return None

    def _named(self, match: re.Match[str]) -> "_Piece":
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
        return _NAMES_A_FILE.search(match.string, start, match.end() + _LOOK_BACK) is not None

    @cached_property
    def _properties(self) -> dict[str, "str | _Places"]:
        """What the objects of the script have under each name: one folder, or a list."""
        listed: dict[str, list[str]] = {}
        for start, end in self._end_of.items():
            match = _KEY_BEFORE.search(self._text, max(0, start - _KEY_LOOK_BACK), start)
            if match is not None:
                listed.setdefault(match[match.lastindex or 1], []).append(unescape(self._text[start + 1 : end - 1]))
        return {name: _shared(values) or self._places(values) for name, values in listed.items()}

    def _places(self, values: list[str]) -> _Places:
        """Return what objects have under one name as the places of a list."""
        may_be_plain = len(self._text) <= _LONGEST_BY_HAND and len(set(values)) > 1
        return _Places(
            values,
            name_files=all(map(_IS_FILE.search, values)),
            are_plain=may_be_plain and all(map(_IS_PLAIN.fullmatch, values)),
        )

    def _literal(self, start: int, end: int) -> list["_Piece"]:
        """Return what a literal says; of a template its pieces and what is put between them."""
        literal = self._text[start + 1 : end - 1]
        if not self._is_put_together(start):
            return [unescape(literal)]
        pieces: list[_Piece] = []
        at = 0
        for match in _SUBSTITUTION.finditer(literal):
            pieces += unescape(literal[at : match.start()]), self._counted(match, start) or self._named(match)
            at = match.end()
        has_others = literal.count("${") > len(pieces) // 2
        return [None] if has_others else [*pieces, unescape(literal[at:])]


_Piece = str | _Places | None
"""what one operand stands for: a string, any of a list, or what is no constant"""


def _taken_apart(text: str) -> dict[str, str]:
    """Return the properties that names stand for where objects are taken apart."""
    pairs = (entry.partition(":") for match in _TAKEN_APART.finditer(text) for entry in match[1].split(","))
    return {(own or of).strip(): of.strip() for of, _, own in pairs if of.strip()}


def _loops(text: str) -> Iterator[_Loop]:
    """Yield the loops of a script."""
    yield from map(_counting, _LOOP.finditer(text))
    for match in _EACH.finditer(text):
        before = _NAME_BEFORE.search(text, max(0, match.start() - _LONGEST_NAME), match.start())
        if listed := match["of"] or (before[0] if before is not None else ""):
            yield _Loop(match.start(), match["one"] or match["name"], listed=listed)


def _counting(match: re.Match[str]) -> _Loop:
    counts = _COUNTS.match(match.string, match.end())
    if counts is None or counts["name"] != match["name"]:
        return _Loop(match.start(), match["name"])
    numbers = range(int(counts["first"]), int(counts["last"]) + (counts["less"] == "<="))
    is_short = 0 < len(numbers) <= _MOST_COUNTED
    return _Loop(match.start(), match["name"], _Places(list(map(str, numbers))) if is_short else None)


def _shared(values: list[str]) -> str | None:
    """Return the folder that all values are."""
    return values[0] if len(set(values)) == 1 and _IS_FOLDER.fullmatch(values[0]) else None


def _spelled(pieces: list[_Piece]) -> tuple[str, ...]:
    """Return the strings that pieces make, one for each place of the lists in them; nothing if those do not match."""
    if sum(len(piece) for piece in pieces if isinstance(piece, str)) > _LONGEST:
        return ()
    lists = [piece for piece in pieces if isinstance(piece, _Places)]
    if not lists:
        return _short(["".join(map(str, pieces))])
    lengths = {len(places.strings) for places in lists}
    are_files = any(places.name_files for places in lists) or any(map(_make_files, pieces, pieces[1:]))
    if len(lengths) > 1 or not are_files:
        return ()
    columns = (piece.strings if isinstance(piece, _Places) else itertools.repeat(piece or "") for piece in pieces)
    return _short(map("".join, zip(*columns, strict=False)))


def _make_files(piece: _Piece, behind: _Piece) -> bool:
    """Tell whether a piece is of plain words, and what stands behind it begins with the extension of a file."""
    if not isinstance(piece, _Places) or not isinstance(behind, str):
        return False
    return piece.are_plain and _NAMES_A_FILE.match(behind) is not None


def _short(strings: Iterable[str]) -> tuple[str, ...]:
    """Return the first strings, those that are too long for an address left out."""
    return tuple(string for string in itertools.islice(strings, _MOST_STRINGS) if len(string) <= _LONGEST)
