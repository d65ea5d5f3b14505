"""Patterns for addresses and words: a piece of text, a glob where it has ``*``, or ``re:`` and a regular expression."""

import re
from dataclasses import dataclass
from functools import cached_property

from pickcrate.errors import UsageError


@dataclass(frozen=True)
class Pattern:
    """One pattern; case is ignored. A glob matches the whole, the others anywhere; ``?`` is itself."""

    text: str
    expression: str

    @cached_property
    def _compiled(self) -> re.Pattern[str]:
        return re.compile(self.expression, re.IGNORECASE | re.DOTALL)

    def matches(self, text: str) -> bool:
        """Tell whether ``text`` has it."""
        return self._compiled.search(text) is not None


def parse_pattern(text: str, option: str) -> Pattern:
    """Return the pattern that ``text`` spells; a UsageError names ``option``."""
    if not text.strip():
        raise UsageError(f"{option} is blank", hint=f"for example {option} kite")
    if text.startswith("re:"):
        try:
            re.compile(text[3:])
        except re.error as error:
            hint = f"for example {option} 're:kite-\\d+'"
            raise UsageError(f"{option} {text!r} is not a regular expression: {error}", hint=hint) from None
        return Pattern(text, text[3:])
    if "*" in text:
        return Pattern(text, r"\A" + ".*".join(map(re.escape, text.split("*"))) + r"\Z")
    return Pattern(text, re.escape(text))
