"""Loops of scripts, and what the names in them stand for: numbers that are counted, the entries of a list.

ECMAScript 2024, 14.7.4 and 14.7.5 (``for``), 23.1.2.1, 23.1.3.15 and 23.1.3.21 (``Array.from``, ``forEach``, ``map``),
20.1.2 (``Object.entries``, ``keys``, ``values``).
"""

import re
from collections.abc import Iterator

from msgspec import Struct

from pickcrate.text.lazyre import lazy

NAME = r"[A-Za-z_$][\w$]{0,40}+"
_PARTS = r"\[(?P<parts>[\w$\s,]{1,200}+)\]"
_LOOP = lazy(rf"\bfor\s{{0,3}}\(\s{{0,3}}(?:(?:var|let)\s{{1,3}})?(?P<name>{NAME})\s{{0,3}}=")
_COUNTS = lazy(
    rf"\s{{0,3}}(?P<first>\d{{1,4}})\s{{0,3}}(?:,[^;()]{{0,60}}+)?;\s{{0,3}}(?P<name>{NAME})\s{{0,3}}(?P<bound><=?|>=?)\s{{0,3}}"
    rf"(?P<last>\d{{1,4}}|{NAME})\s{{0,3}};\s{{0,3}}"
    r"(?:(?P=name)\s{0,3}(?P<by>\+\+|--)|(?P<before>\+\+|--)\s{0,3}(?P=name)|(?P=name)\s{0,3}(?P<sign>[+-])=\s{0,3}1)\s{0,3}\)"
)
"""behind the name in a loop that counts up or down by one"""

_EACH = lazy(
    rf"(?<=[\w$)\]])\.(?:forEach|map|flatMap)\(\s{{0,3}}(?:function\b\s{{0,3}})?\(?\s{{0,3}}(?:(?P<name>{NAME})|{_PARTS})"
)
_OF = lazy(
    rf"\bfor\s{{0,3}}\(\s{{0,3}}(?:const|let|var)\s{{1,3}}(?:(?P<name>{NAME})\s{{1,3}}|{_PARTS}\s{{0,3}})of\s{{1,3}}"
)
_LISTED = rf"(?:Object\.(?P<kind>entries|keys|values)\(\s{{0,3}}(?P<object>{NAME})\s{{0,3}}\)|(?P<list>{NAME}))"
_LISTED_BEFORE = lazy(rf"(?<![\w$.]){_LISTED}\Z")
_LISTED_BEHIND = lazy(rf"{_LISTED}\s{{0,3}}\)")
_FILLED = lazy(
    rf"\bArray\.from\(\s{{0,3}}\{{\s{{0,3}}length\s{{0,3}}:\s{{0,3}}(?P<length>\d{{1,4}}|{NAME})\s{{0,3}}\}}\s{{0,3}},\s{{0,3}}"
    rf"(?:function\b\s{{0,3}})?\(\s{{0,3}}{NAME}\s{{0,3}},\s{{0,3}}(?P<index>{NAME})\s{{0,3}}\)"
    rf"|\bArray\((?P<size>\d{{1,4}}|{NAME})\)(?:\.keys\(\)\]?\.(?:map|forEach)\(\s{{0,3}}\(?|(?:\.fill\([^()]{{0,20}}\)|\])"
    rf"\.(?:map|forEach)\(\s{{0,3}}\(\s{{0,3}}{NAME}\s{{0,3}},)\s{{0,3}}(?P<key>{NAME})"
)
"""lists of nothing but places: ``Array.from({length: 12}, (_, i) => …)``, ``[...Array(12).keys()].map(i => …)``"""

_LONGEST_LISTED = 70
_MOST_COUNTED = 1_000
_PART_OF = {"keys": 0, "values": 1}


class Counts(Struct, frozen=True):
    """What a loop counts: from a number on, up or down, to a bound that may be the name of a number."""

    first: int
    bound: str
    last: str
    step: int

    def numbers(self, last: int | None) -> list[str]:
        """Return the numbers as they are spelled; none if there are too many, or nobody knows the bound."""
        if last is None or (self.step > 0) is not self.bound.startswith("<"):
            return []
        numbers = range(self.first, last + (self.step if self.bound.endswith("=") else 0), self.step)
        return list(map(str, numbers)) if len(numbers) <= _MOST_COUNTED else []


class Loop(Struct, frozen=True):
    """A loop: where it begins, and the name that it gives values to: numbers, or the entries of a list."""

    start: int
    name: str
    counts: Counts | None = None
    listed: str = ""
    """the name of the list that it goes through"""
    ends: int = -1
    """where the list ends that it goes through, if that stands there itself"""
    part: int | None = None
    """which part of each entry the name stands for"""


def loops_in(text: str) -> Iterator[Loop]:
    """Yield the loops of a script, one for each name."""
    yield from map(_counting, _LOOP.finditer(text))
    for match in _FILLED.finditer(text):
        name, length = match["index"] or match["key"], match["length"] or match["size"]
        yield Loop(match.end(), name, Counts(0, "<", length, 1))  # inside what is called for each
    for match in _EACH.finditer(text):
        listed = _LISTED_BEFORE.search(text, max(0, match.start() - _LONGEST_LISTED), match.start())
        yield from _through(match, listed, ends=match.start())
    for match in _OF.finditer(text):
        if (listed := _LISTED_BEHIND.match(text, match.end())) is not None:
            yield from _through(match, listed, ends=-1)


def _counting(match: re.Match[str]) -> Loop:
    counts = _COUNTS.match(match.string, match.end())
    if counts is None or counts["name"] != match["name"]:
        return Loop(match.start(), match["name"])
    step = 1 if (counts["by"] or counts["before"] or counts["sign"]).startswith("+") else -1
    return Loop(match.start(), match["name"], Counts(int(counts["first"]), counts["bound"], counts["last"], step))


def _through(match: re.Match[str], listed: re.Match[str] | None, *, ends: int) -> Iterator[Loop]:
    """Yield the names that stand for the entries of a list, or for their parts."""
    kind = listed["kind"] if listed is not None else None
    name = (listed["object"] or listed["list"]) if listed is not None else ""
    if match["name"]:
        yield Loop(match.start(), match["name"], listed=name, ends=ends, part=_PART_OF.get(kind or ""))
        return
    for place, part in enumerate(match["parts"].split(",")):
        if part.strip():
            yield Loop(match.start(), part.strip(), listed=name, ends=ends, part=place)
