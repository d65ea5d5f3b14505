"""Records of labelled lines in a text: ``title: Red delta``, ``image = "red.jpg"``, as people write data for programs.

What such notations have in common is read: of YAML 1.2 lists and maps of plain records, TOML 1.0 and INI files, BibTeX,
vCard (RFC 6350, 3.3) and iCalendar (RFC 5545, 3.1). What lies deeper is taken for a part of its record.
"""

import re
from itertools import chain

from pickcrate.addresses.url import is_picture_path, is_web
from pickcrate.read.lists.addresslist import addresses_among
from pickcrate.text.lazyre import lazy

Record = dict[str, list[str]]
"""What one record says, by its labels: as often as each stands in it."""

_LONGEST, _LONGEST_LINE = 8_000_000, 5_000
"""characters of a text that is held against this, and of a line that may be labelled"""

_LEAST_LABELLED = 0.6
"""of the lines of a text that is made of records"""

_LABELLED = lazy(
    r"(?P<indent>[ \t]{0,80})(?P<entry>-[ \t]+)?[\"']?(?P<label>[^\W\d][\w -]{0,60}?)[\"']?(?:;[^:]{0,200})?"
    r"(?:[ \t]*:(?!//)|[ \t]*=|[ \t]{1,4}-(?=[ \t]))[ \t]*(?P<said>.*)"
)
_SECTION = lazy(r"[ \t]*\[{1,2}(?P<name>[^\[\]]{1,200})\]{1,2}[ \t]*|@\w{1,40}\{[^,]{0,200},[ \t]*")
_BETWEEN = lazy(r"[ \t]*(?:-{3}|\.{3}|\}|(?:BEGIN|END):\w+|ER[ \t]+-.*)[ \t]*", re.IGNORECASE)
_ASIDE = ("#", ";", "%", "//")
"""how a line begins that is said to people alone"""

_OPENS, _CLOSES = "\"'{", "\"'}"
_CALLED = {"fn": "name", "summary": "title", "ti": "title"}
"""labels of standards for names (RFC 6350, 6.2.1; RFC 5545, 3.8.1.12), and of bibliographies"""


def labelled(text: str) -> list[Record]:
    """Return the records of a text that is made of labelled lines; none if it is not, or has pictures besides."""
    if len(text) > _LONGEST:
        return []
    lines = [line for line in text.splitlines() if line.strip() and not line.lstrip().startswith(_ASIDE)]
    reading = _Reading()
    known = sum(reading.takes(line) for line in lines if len(line) <= _LONGEST_LINE)
    records = [record for record in reading.records if len(record) > 1 and _pictures_in(record)]
    named = sum(map(_pictures_in, records))
    is_all = named >= sum(any(map(is_picture_path, addresses_among(line))) for line in lines if "://" in line)
    return records if is_all and known >= _LEAST_LABELLED * len(lines) else []


class _Reading:
    """The records of a text, as far as it is read."""

    def __init__(self) -> None:
        self.records: list[Record] = []
        self._first: tuple[int, str] | None = None
        """how far in the record that is under way begins, and its first label; None between records"""

    def takes(self, line: str) -> bool:
        """Take one line; tell whether it is a part of a record, or stands between two."""
        section = _SECTION.fullmatch(line)
        if section is not None or _BETWEEN.fullmatch(line) is not None:
            self._first = None
            if section is not None and section["name"] and "[[" not in line:
                self._begin(-1, "")
                self._add("name", section["name"])
            return True
        match = _LABELLED.fullmatch(line)
        if match is None:
            return False
        label, said = match["label"].strip(), _bare(match["said"])
        self._place(len(match["indent"]), label, is_entry=match["entry"] is not None, is_head=not said)
        if said:
            self._add(_CALLED.get(label.lower(), label), said)
        return True

    def _place(self, indent: int, label: str, *, is_entry: bool, is_head: bool) -> None:
        """Begin a record where a label begins one: a new entry does, a head, and what began the record before."""
        begins_anew = self._first is None or self._first == (indent, label)
        is_outside = self._first is not None and indent <= self._first[0] and (is_entry or is_head)
        if is_head and (begins_anew or is_outside):
            self._first = None
        elif begins_anew or is_outside:
            self._begin(indent, label)

    def _begin(self, indent: int, label: str) -> None:
        self.records.append({})
        self._first = indent, label

    def _add(self, label: str, said: str) -> None:
        if self._first is None:
            self._begin(0, label)
        self.records[-1].setdefault(label, []).append(said)


def _bare(said: str) -> str:
    """Return what is said without quotes, braces and a comma around it."""
    said = said.strip().rstrip(",")
    while len(said) > 1 and said[0] in _OPENS and said[-1] == _CLOSES[_OPENS.index(said[0])]:
        said = said[1:-1].strip()
    return said


def _pictures_in(record: Record) -> int:
    return sum(map(_is_picture, chain(*record.values())))


def _is_picture(said: str) -> bool:
    """Tell whether something that is said is the address or the path of a picture, and nothing else."""
    return is_picture_path(said) and (is_web(said) or " " not in said)
