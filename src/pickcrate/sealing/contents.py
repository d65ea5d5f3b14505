"""What of a crate goes into a package: pictures that are as they were fetched, and what the ledger says of them."""

import hashlib
import json
import shutil
from collections.abc import Iterator
from datetime import date
from enum import StrEnum
from itertools import chain
from pathlib import Path
from typing import Any

from msgspec import Struct

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import CrateError
from pickcrate.media import BY_NAME
from pickcrate.record import CRATE_COLUMNS

LIST = "crate.csv"
_PIECE = 1 << 20
_MOST_BYTES = 500_000_000
"""of a document that describes a package"""


class SealKind(StrEnum):
    """The standards that a package may follow; several at once, but for tar, which holds the others."""

    BAGIT = "bagit"
    RO_CRATE = "ro-crate"
    CROISSANT = "croissant"
    TAR = "tar"


class Statement(Struct, frozen=True):
    """What is said of a package as a whole."""

    title: str
    description: str
    publisher: str
    today: date
    fetched: str
    """the day that the newest picture was fetched; empty without any"""
    licence: str
    licence_url: str
    """of all pictures, if it is one and the same; else empty"""


class Hashes(Struct, frozen=True):
    """A file of a package: its path there, its size in bytes, its hashes in hexadecimal."""

    path: str
    size: int
    sha256: str
    sha512: str


def held_pictures(places: Places) -> tuple[list[Entry], int]:
    """Return a row for each file of a crate that is where it was put, by its name; and how many are not.

    Several rows may have one file: the first stands for it.
    """
    there: dict[str, Entry] = {}
    gone: set[str] = set()
    with LedgerReader.opened(places, for_files=True) as ledger:
        for entry in ledger.rows(State.HELD):
            if places.has(entry.file):
                there.setdefault(entry.file, entry)
            else:
                gone.add(entry.file)
    return [there[file] for file in sorted(there)], len(gone)


def statement(places: Places, pictures: list[Entry], *, description: str, publisher: str, today: date) -> Statement:
    """Return what is to be said of a package of some pictures."""
    pages = list(dict.fromkeys(entry.page for entry in pictures if entry.page))
    where = f" from {pages[0]}" if len(pages) == 1 else f" from {len(pages):,} pages" if pages else ""
    number = f"{len(pictures):,} picture{'' if len(pictures) == 1 else 's'}"
    licences = {(entry.licence, entry.licence_url) for entry in pictures}
    same = licences.pop() if len(licences) == 1 else ("", "")
    return Statement(
        places.root.name,
        description or f"{number} collected{where}, each with its source, its hash, and what is said of its use.",
        publisher,
        today,
        max((entry.fetched_at for entry in pictures), default="")[:10],
        *same,
    )


def copy_in(places: Places, entry: Entry, target: Path, path: str) -> Hashes:
    """Copy a picture into a package; CrateError if it is not as it was fetched. Raises OSError.

    ``path`` is what it is called in the package.
    """
    source = places.of(entry.file)
    if source is None:
        raise _altered(places, entry.file)
    target.parent.mkdir(parents=True, exist_ok=True)
    sha256, sha512, size = hashlib.sha256(), hashlib.sha512(), 0
    with source.open("rb") as file, target.open("xb") as copy:
        while piece := file.read(_PIECE):
            copy.write(piece)
            sha256.update(piece)
            sha512.update(piece)
            size += len(piece)
    if sha256.hexdigest() != entry.sha256:
        raise _altered(places, entry.file)
    shutil.copystat(source, target)
    return Hashes(path, size, sha256.hexdigest(), sha512.hexdigest())


def hashes_of(file: Path, path: str) -> Hashes:
    """Return the hashes of a file that is called ``path`` in its package. Raises OSError."""
    sha256, sha512, size = hashlib.sha256(), hashlib.sha512(), 0
    with file.open("rb") as opened:
        while piece := opened.read(_PIECE):
            sha256.update(piece)
            sha512.update(piece)
            size += len(piece)
    return Hashes(path, size, sha256.hexdigest(), sha512.hexdigest())


def list_rows(pictures: list[Entry]) -> Iterator[tuple[object, ...]]:
    """Yield the rows of the list that goes along: as a crate's own, of the pictures that are in the package."""
    return chain((CRATE_COLUMNS,), (tuple(getattr(entry, name) for name in CRATE_COLUMNS) for entry in pictures))


def media_type(entry: Entry) -> str:
    """Return the media type of a picture's file."""
    return BY_NAME[entry.type].media_types[0] if entry.type in BY_NAME else "application/octet-stream"


def _altered(places: Places, file: str) -> CrateError:
    hint = f"pickcrate audit {places.root.name} says what is wrong, and --repair mends it"
    return CrateError(f"{places.root / file} is not as it was fetched: no package is made of that", hint=hint)


def read_object(path: Path) -> dict[str, Any]:
    """Return the JSON object that describes a package. Raises OSError, and ValueError if it is none."""
    if path.stat().st_size > _MOST_BYTES:
        raise ValueError(f"{path.name} is too large")
    told = json.loads(path.read_text(encoding="utf-8"))
    if not isinstance(told, dict):
        raise ValueError(f"{path.name} is no JSON object")  # noqa: TRY004 (of its text, not of a type)
    return told
