"""Patterns for addresses and words: a piece of text, a glob where it has ``*``, or ``re:`` and a regular expression."""

from collections.abc import Callable

from msgspec import Struct

from pickcrate.errors import UsageError
from pickcrate.text.expression import Expression
from pickcrate.text.typed import folding_for, plain


class Pattern(Struct, frozen=True):
    """One pattern; case is ignored. A glob matches the whole, the others anywhere; ``?`` is itself.

    All but regular expressions are compared as somebody types them (see ``pickcrate.typed``).
    """

    text: str
    pieces: tuple[str, ...] = ()
    """of a plain text, itself; of a glob, what stands between its stars: folded"""
    fold: Callable[[str], str] = plain
    expression: Expression | None = None

    def matches(self, text: str) -> bool:
        """Tell whether ``text`` has it. Raises UsageError where a regular expression takes too long."""
        if self.expression is not None:
            return self.expression.search(text) is not None
        text = self.fold(text)
        if len(self.pieces) == 1:
            return self.pieces[0] in text
        first, *middle, last = self.pieces
        if len(text) < len(first) + len(last) or not (text.startswith(first) and text.endswith(last)):
            return False
        at, end = len(first), len(text) - len(last)
        for piece in middle:  # the first place that fits leaves most for the others
            at = text.find(piece, at, end)
            if at < 0:
                return False
            at += len(piece)
        return True


def parse_pattern(text: str, option: str) -> Pattern:
    """Return the pattern that ``text`` spells; a UsageError names ``option``."""
    if not text.strip():
        raise UsageError(f"{option} is blank", hint=f"for example {option} kite")
    if text.startswith("re:"):
        hint = f"for example {option} 're:kite-\\d+'"
        return Pattern(text, expression=Expression(text[3:], option, hint, typed=text, ignore_case=True))
    fold = folding_for(text)
    return Pattern(text, tuple(fold(text).split("*")), fold)
