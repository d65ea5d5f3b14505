"""What a crate holds, by its list: for a ledger that is gone. Who copies files leaves out what begins with a dot."""

import csv
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

from msgspec.structs import replace

from pickcrate.addresses.url import brief
from pickcrate.crate.entry import NUMBERS, Entry, State
from pickcrate.crate.moved import moved_files
from pickcrate.crate.places import Places
from pickcrate.name import OWN_NAMES, with_doubled_braces
from pickcrate.read.lists.picklist import plain_cell
from pickcrate.record import CRATE_COLUMNS
from pickcrate.text.lazyre import lazy

_HASH = lazy(r"[0-9a-f]{64}")
_NEEDED = frozenset(("file", "url", "sha256", "bytes"))
_LONGEST_NUMBER = 15


def listed_entries(places: Places) -> Iterator[Entry]:
    """Yield the pictures in the list of a crate whose files are there, and as large as it says.

    Those that their owner has moved within the crate are told by their bytes. What a list does not say is not known of
    them: validators, former versions, what failed. A list that is none of ours, or is broken, gives what could be read.
    """
    if places.list.is_symlink():
        return
    there: set[str] = set()
    absent: list[Entry] = []
    for entry in _listed(places.list):
        if places.has(entry.file):
            there.add(entry.file)
            if _size(places, entry.file) == entry.bytes:
                yield entry
        else:
            absent.append(entry)
    kept = ((entry.file, entry.bytes or 0, entry.sha256) for entry in absent)
    moved = moved_files(places, kept, lambda file: file in there or file in OWN_NAMES)
    yield from (replace(entry, file=moved[entry.file]) for entry in absent if entry.file in moved)


def _listed(path: Path) -> Iterator[Entry]:
    """Yield what a crate's list says, as far as it can be read."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as stream:
            rows = csv.reader(stream)
            header = next(rows, [])
            if not _NEEDED.issubset(header):
                return
            for number, cells in enumerate(rows, 1):
                entry = _entry(number, dict(zip(header, map(plain_cell, cells), strict=False)))
                if entry is not None:
                    yield entry
    except (OSError, ValueError, csv.Error):
        return


def _size(places: Places, file: str) -> int:
    place = places.of(file)
    return place.stat().st_size if place is not None and place.is_file() else -1


def _entry(number: int, said: dict[str, str]) -> Entry | None:
    if not _NEEDED.issubset(said) or _HASH.fullmatch(said["sha256"]) is None or not said["url"]:
        return None
    known = {name: _value(name, said[name]) for name in CRATE_COLUMNS if name in said}
    stem = with_doubled_braces(str(PurePosixPath(said["file"]).with_suffix("")))
    return Entry(number, brief(said["url"]), stem, State.HELD, **known)  # type: ignore[arg-type]


def _value(name: str, cell: str) -> str | int | None:
    if name not in NUMBERS:
        return cell
    return int(cell) if cell.isdecimal() and len(cell) <= _LONGEST_NUMBER else None
