"""Ranges as people type them: ``A..B``, ``A..``, ``..B`` or ``A``, ends included, in the units of what they bound."""

import re
from collections.abc import Callable

from msgspec import Struct

from pickcrate.errors import UsageError
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_OTHERWISE = lazy(
    r">=?\s*([\w.:/]+)|<=?\s*([\w.:/]+)|([\w.:/]*\w)\s*(?:-|–|\s+to\s+|,)\s*(\w[\w.:/]*)|([\w.:/]*\w)\s*(?:\+|-|–)"
)
"""a range as others write it: ``>=800``, ``<800``, ``800-1200``, ``800+``"""

_NUMBER = lazy(r"[0-9]+(?:\.[0-9]+)?")
_SCALED = lazy(r"([0-9]+(?:\.[0-9]+)?)\s*(?:([kmg])(i?))?(px|p|b)?", re.IGNORECASE)
_POWERS = {"": 0, "k": 1, "m": 2, "g": 3}
_RATIO = lazy(r"([0-9]+(?:\.[0-9]+)?)\s*[:/]\s*([0-9]+(?:\.[0-9]+)?)")
_SINGLE_RATIO = 0.01
"""A single ratio is met within one per cent: 4:3 in whole pixels seldom is exact."""


class Range(Struct, frozen=True):
    """Bounds, both included; None where there is none. ``text`` is what was typed."""

    low: float | None
    high: float | None
    text: str

    def holds(self, value: float) -> bool:
        """Tell whether ``value`` lies inside."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)


def _plain(text: str) -> float:
    match = _SCALED.fullmatch(text)
    if match is None or match[2] or (match[4] or "").lower() not in {"", "px"}:
        raise ValueError(text)
    return float(match[1])


def _pixels(text: str) -> float:
    match = _SCALED.fullmatch(text)
    if match is None or match[3] or (match[4] or "").lower() == "b":
        raise ValueError(text)
    return float(match[1]) * float(1000 ** _POWERS[(match[2] or "").lower()])


def _bytes(text: str) -> float:
    match = _SCALED.fullmatch(text)
    if match is None or (match[4] or "").lower() not in {"", "b"}:
        raise ValueError(text)
    return float(match[1]) * float((1024 if match[3] else 1000) ** _POWERS[(match[2] or "").lower()])


def _ratio(text: str) -> float:
    match = _RATIO.fullmatch(text)
    if match is not None and float(match[2]):
        return float(match[1]) / float(match[2])
    if _NUMBER.fullmatch(text):
        return float(text)
    raise ValueError(text)


class Quantity(Struct, frozen=True):
    """What a range is of: how one end of it is read, what to call it, and a range that works."""

    read: Callable[[str], float]
    words: str
    example: str


WIDTH = Quantity(_plain, "pixels", "800..")
HEIGHT = Quantity(_plain, "pixels", "600..2000")
PIXELS = Quantity(_pixels, "pixels (0.5MP, 500k)", "0.5MP..")
RATIO = Quantity(_ratio, "a ratio of width to height (4:3, 1.5)", "4:3..16:9")
BYTES = Quantity(_bytes, "a size (20kB is 20000 bytes, 20KiB 20480)", "20kB..5MB")


def parse_range(text: str, option: str, quantity: Quantity) -> Range:
    """Return the range that ``text`` spells; a UsageError names the option, what it got, and one that works."""
    hint = f"for example {option} {quantity.example}"
    low, dots, high = (part.strip() for part in text.partition(".."))
    try:
        ends = [quantity.read(end) if end else None for end in (low, high)]
    except ValueError as error:
        meant = _as_meant(text, quantity)
        hint = f"a range is A..B, A.., ..B or A: {option} {meant}" if meant else hint
        raise UsageError(f"{option} {text!r}: {str(error)!r} is not {quantity.words}", hint=hint) from None
    if not (low or high):
        raise UsageError(f"{option} {text!r}: a range is A..B, A.., ..B or A", hint=hint)
    if not dots:
        slack = ends[0] * _SINGLE_RATIO if quantity is RATIO and ends[0] is not None else 0.0
        return Range((ends[0] or 0) - slack, (ends[0] or 0) + slack, text)
    if ends[0] is not None and ends[1] is not None and ends[0] > ends[1]:
        raise UsageError(
            f"{option} {text!r} is upside down", hint=f"the smaller end comes first: {option} {high}..{low}"
        )
    return Range(ends[0], ends[1], text)


def _as_meant(text: str, quantity: Quantity) -> str:
    """Return the range that is written in another way than ours, as ours; empty if it is none."""
    match = _OTHERWISE.fullmatch(text.strip())
    if match is None:
        return ""
    least, most, low, high, more = match.groups()
    try:
        for end in filter(None, match.groups()):
            quantity.read(end)
    except ValueError:
        return ""
    return f"{least or low or more or ''}..{most or high or ''}"


def parse_size(text: str, option: str) -> int:
    """Return bytes: ``100MB`` and ``100M`` are powers of 1000, ``100MiB`` of 1024; a UsageError names ``option``."""
    try:
        return int(_bytes(text.strip()))
    except (ValueError, OverflowError):
        raise UsageError(f"{option} {text!r} is not a size", hint=f"for example {option} 20MB") from None


def parse_pixels(text: str, option: str) -> int:
    """Return a number of pixels: ``200MP`` and ``200M`` are millions; a UsageError names ``option``."""
    try:
        return int(_pixels(text.strip()))
    except (ValueError, OverflowError):
        raise UsageError(f"{option} {text!r} is no number of pixels", hint=f"for example {option} 50MP") from None


class Numbers(Struct, frozen=True):
    """A set of picture numbers, as ranges."""

    spans: tuple[tuple[int, int | None], ...]
    text: str

    def __contains__(self, number: int) -> bool:
        return any(low <= number and (high is None or number <= high) for low, high in self.spans)


def parse_numbers(text: str, option: str) -> Numbers:
    """Return the numbers that ``1..5,9`` spells; a UsageError names ``option``."""
    hint = f"for example {option} 1..5,9"
    spans: list[tuple[int, int | None]] = []
    for part in text.split(","):
        match = re.fullmatch(r"\s*([0-9]+)\s*(\.\.)?\s*([0-9]+)?\s*", part)
        if match is None or (match[3] and not match[2]):
            spelled = re.sub(r"(?<=[0-9])\s*[-–]\s*(?=[0-9])", "..", text)
            hint = f"for example {option} {spelled}" if spelled != text else hint
            raise UsageError(f"{option} {text!r} is no list of numbers", hint=hint)
        low = whole(match[1])
        high = whole(match[3]) if match[3] else None if match[2] else low
        if low is None or (match[3] and high is None):
            raise UsageError(f"{option} {text[:40]!r}: no picture has so large a number", hint=hint)
        if high is not None and high < low:
            raise UsageError(f"{option} {text!r}: {part.strip()} is upside down", hint=hint)
        spans.append((low, high))
    return Numbers(tuple(spans), text)
