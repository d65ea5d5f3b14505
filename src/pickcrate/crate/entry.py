"""One row of a ledger: a picture that was asked for, and what became of it."""

from enum import StrEnum

from msgspec import NODEFAULT, Struct
from msgspec.structs import fields


class State(StrEnum):
    """What became of the picture of a row."""

    RESERVED = "reserved"
    HELD = "held"
    LEFT_OUT = "left out"
    FAILED = "failed"


VERSION_MARK = "#sha256-"
"""between an address and the hash of the bytes that a source brought along for it"""


class Entry(Struct, frozen=True):
    """One row of the ledger. ``name`` is as spelled (see ``pickcrate.name``); times are UTC, ISO 8601."""

    seq: int
    address: str
    name: str
    state: str = State.RESERVED
    file: str = ""
    url: str = ""
    sha256: str = ""
    bytes: int | None = None
    type: str = ""
    width: int | None = None
    height: int | None = None
    etag: str = ""
    last_modified: str = ""
    fetched_at: str = ""
    shown_url: str = ""
    page: str = ""
    alt: str = ""
    caption: str = ""
    evidence: str = ""
    credit: str = ""
    licence: str = ""
    error: str = ""
    tdm: str = ""
    sought: str = ""
    """of a held picture: why a larger version of it was not had, which is asked for again; empty if it was"""
    left_out_by: str = ""
    """the criterion, or the robots rule, that the picture did not meet"""
    unended: str = ""
    """``yes`` if the file has no end, as its server has it"""
    item: str = ""
    item_url: str = ""
    columns: str = ""
    """what is said of its item by header, term or label: a JSON object"""
    gone_at: str = ""
    """when its page was first seen without it; empty if it is still there"""
    licence_url: str = ""
    terms_url: str = ""
    credit_from: str = ""
    licence_from: str = ""
    terms_from: str = ""
    """who says what is said of its use"""
    fingerprint: str = ""
    """what it looks like, once somebody asked; ``-`` if that says nothing"""

    @property
    def web_address(self) -> str:
        """The address by which it was asked for, without what tells apart what several archives hold for it."""
        return self.address.partition(VERSION_MARK)[0]


COLUMNS = Entry.__struct_fields__
_DEFAULTS = tuple("" if field.default is NODEFAULT else field.default for field in fields(Entry))
NUMBERS = frozenset(field.name for field in fields(Entry) if "int" in str(field.type))
_KINDS = tuple(int if name in NUMBERS else str for name in COLUMNS)


def entry_of(row: tuple[object, ...]) -> Entry:
    """Return a row as an entry; what is not of the kind that its column holds is passed over."""
    known = [
        value if type(value) is kind else default for value, kind, default in zip(row, _KINDS, _DEFAULTS, strict=True)
    ]
    return Entry(*known)  # type: ignore[arg-type]
