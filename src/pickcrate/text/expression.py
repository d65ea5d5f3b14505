"""Regular expressions of the user's own: what is wrong with one is said in words, and none runs for ever."""

import re
import warnings
from collections.abc import Iterator
from typing import TYPE_CHECKING

from pickcrate.errors import UsageError

if TYPE_CHECKING:
    import regex

SECONDS = 2.0
"""What one expression may take over one text."""


class Expression:
    """An expression with the option that it was given with; it is compiled by ``regex``, which has a time limit."""

    def __init__(self, text: str, option: str, hint: str, *, typed: str = "", ignore_case: bool = False) -> None:
        """Compile ``text``, which stands in what was ``typed``; UsageError if it cannot mean anything."""
        import regex  # noqa: PLC0415 (only where a user has one)

        self._said = f"{option} {_short(typed or text)}"
        self._hint = hint
        flags = regex.IGNORECASE | regex.DOTALL if ignore_case else 0
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                self._compiled = regex.compile(text, flags)
        except (regex.error, re.error, RecursionError, OverflowError, MemoryError) as error:
            words = str(error) or type(error).__name__
            raise UsageError(f"{self._said} is not a regular expression: {words}", hint=hint) from None

    @property
    def groups(self) -> int:
        """How many groups it has."""
        return int(self._compiled.groups)

    def search(self, text: str) -> "regex.Match[str] | None":
        """Return the first place in ``text`` that it matches; UsageError if that takes too long."""
        try:
            return self._compiled.search(text, timeout=SECONDS)
        except TimeoutError:
            raise self._too_slow() from None

    def find_all(self, text: str) -> "Iterator[regex.Match[str]]":
        """Yield all places in ``text`` that it matches; UsageError if they take too long together."""
        try:
            yield from self._compiled.finditer(text, timeout=SECONDS)
        except TimeoutError:
            raise self._too_slow() from None

    def check_replacement(self, replacement: str) -> None:
        """Raise a UsageError if ``replacement`` names a group that there is not, even where nothing matches."""
        import regex  # noqa: PLC0415

        try:
            anything = regex.compile(f"(?:{self._compiled.pattern})|").match("", timeout=SECONDS)
            anything.expand(replacement) if anything is not None else None
        except (regex.error, re.error, IndexError, ValueError) as error:
            raise UsageError(f"{self._said}: {error}", hint=self._hint) from None

    def _too_slow(self) -> UsageError:
        return UsageError(
            f"{self._said} was stopped: it ran for {SECONDS:g} seconds on one text",
            hint="a repetition inside a repetition, or of alternatives that fit alike, is what mostly takes so long",
        )


def _short(text: str) -> str:
    return repr(text if len(text) <= 80 else f"{text[:80]}…")
