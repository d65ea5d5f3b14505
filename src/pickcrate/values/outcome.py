"""What became of one pick."""

from enum import StrEnum

from msgspec import Struct

from pickcrate.values.cause import Cause
from pickcrate.values.image import Image
from pickcrate.values.measures import Measures


class Ending(StrEnum):
    """What became of one pick."""

    FETCHED = "fetched"
    ALREADY_THERE = "already there"
    LEFT_OUT = "left out"
    """its file is not what was asked for"""
    ELSEWHERE = "in another crate"
    FAILED = "failed"


class LeftOutBy(StrEnum):
    """What left a picture out, besides criteria, as the ledger has it."""

    ROBOTS = "robots"
    """its server asks robots not to take it"""
    ROBOTS_TXT = "robots.txt"
    """its site's rules ask not to fetch it: asked anew each time"""
    EXCEPT = "except"
    """another crate holds it"""
    ALIKE = "alike"
    """it has a better twin"""


class Outcome(Struct, frozen=True):
    """What became of one pick: the file in the crate, or the reason why there is none.

    ``url`` is the address whose bytes were kept (or tried last). ``error`` is what was said of each address that
    failed, ``reason`` what was said of the last. ``same_as_other``: these bytes were in the crate already, under
    another address. ``is_unended``: the file has no end, as its server has it.
    """

    image: Image
    ending: Ending
    url: str
    file: str = ""
    measures: Measures = Measures()
    sha256: str = ""
    error: str = ""
    reason: str = ""
    same_as_other: bool = False
    is_unended: bool = False
    left_out_by: str = ""
    """the criterion that it did not meet, or the other crate that holds it"""
    why: tuple[Cause, int] | None = None
    """the cause of the failure that ``reason`` tells of, and the HTTP status that it is, or 0"""
