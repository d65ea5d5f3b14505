"""Lists of strings in a script: as a literal, or as what a string is split into.

ECMAScript 2024, 13.2.4 (array literals), 22.1.3.23 (``split``).
"""

from collections.abc import Mapping
from functools import cached_property

from pickcrate.finders.data.pieces import Places
from pickcrate.finders.data.strings import unescape
from pickcrate.text.lazyre import lazy

_LIST_BEGINS = lazy(r"(?:\[|new\s{1,9}Array\()\s*+")
_LIST_GOES_ON = lazy(r"\s*+,\s*+")
_LIST_ENDS = lazy(r"\s*+[\])]")
_SPLIT = lazy(r"\.split\(\s{0,3}(?:\"(?P<by>[^\"\\\n]{1,3})\"|'(?P<sign>[^'\\\n]{1,3})')\s{0,3}\)")
_LIST_OF_STRINGS = lazy(r"\[(?=\s{0,20}[\"'`])|[\"'`](?=[^\"'`\n]{1,2000}[\"'`]\.split\()")


class Arrays:
    """The lists of one script."""

    def __init__(self, text: str, end_of: Mapping[int, int]) -> None:
        """Read ``text``, whose literals begin and end as ``end_of`` says."""
        self._text = text
        self._end_of = end_of

    def at(self, at: int) -> tuple[Places, int] | None:
        """Return the strings of a list that begins at a place, and its end; None if anything else is in it.

        One may be what a string is split into.
        """
        splits = _SPLIT.match(self._text, self._end_of[at]) if at in self._end_of else None
        if splits is not None:
            parts = unescape(self._text[at + 1 : self._end_of[at] - 1]).split(splits["by"] or splits["sign"])
            return Places(parts), splits.end()
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
        return (Places(strings), ends.end()) if ends is not None else None

    @cached_property
    def by_end(self) -> dict[int, Places]:
        """All lists that stand in the script, by where they end."""
        read = (self.at(match.start()) for match in _LIST_OF_STRINGS.finditer(self._text))
        return {end: places for places, end in filter(None, read)}
