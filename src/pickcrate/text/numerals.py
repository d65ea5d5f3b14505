"""Whole numbers as pages, lists and servers spell them: one may be spelled with a million digits."""

MOST_DIGITS = 15
"""Digits of a number that still means anything here; more are no number."""


def whole(text: str) -> int | None:
    """Return the number that ``text`` spells in ASCII digits and nothing else; None if it spells none."""
    if not (text.isascii() and text.isdigit()):
        return None
    digits = text.lstrip("0")
    return int(digits or "0") if len(digits) <= MOST_DIGITS else None


def ceiling(number: int, divisor: int) -> int:
    """Return how many pieces of ``divisor`` cover ``number``."""
    return -(-number // divisor)
