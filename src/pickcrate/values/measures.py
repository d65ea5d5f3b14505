"""How large a picture is, and how that is known."""

from enum import StrEnum
from typing import Generic, TypeVar

from msgspec import Struct

T = TypeVar("T")


class Grade(StrEnum):
    """How a measure is known: the page says so, the first bytes say so, or the whole file was seen."""

    DECLARED = "declared"
    PROBED = "probed"
    ACTUAL = "actual"


class Measure(Struct, Generic[T], frozen=True):
    """One measured value (pixels, bytes, or a type's name) with its grade."""

    value: T
    grade: Grade


class Measures(Struct, frozen=True):
    """What is known of one address: pixels as shown (EXIF orientation applied), bytes, type."""

    width: Measure[int] | None = None
    height: Measure[int] | None = None
    bytes: Measure[int] | None = None
    type: Measure[str] | None = None
