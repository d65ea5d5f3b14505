"""A crate as shards: tars of pictures with a list beside each, the same bytes for the same crate.

A tar (POSIX.1-2001, pax) has its members in the order of the list, without owners and times. The list says at which
byte of the tar each picture begins, so that one can be had without the rest.
"""

import hashlib
import io
import json
import tarfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

from msgspec import Struct, field

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.places import Places, unwritable
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import CrateError
from pickcrate.parquet import writing
from pickcrate.record import SHARD_COLUMNS, to_json
from pickcrate.run.pack.twinned import seen_text
from pickcrate.stores.papers import ROW, Haul, Shard

_BLOCK = 512
_HEADERS, _END = 5 * _BLOCK, 10_240
"""Bytes that a member's headers, one for a long name among them, and a tar's end take at most."""


class AlteredError(CrateError):
    """A picture of a load is not as it was fetched: something else wrote into the worker's folder."""


class Built(Struct, frozen=True):
    """A shard on this machine's disk, to be published: its papers, and where its two files are."""

    shard: Shard
    tar: Path
    list: Path


class _Part(Struct):
    """Pictures of one shard: their files in order, with the rows that each is of."""

    files: list[list[Entry]] = field(default_factory=list)
    bytes: int = 0


def row_of(entry: Entry) -> int:
    """Return the number of the row that a picture of a load is of, with which its name begins."""
    digits = entry.name.rpartition("/")[2].partition("-")[0].partition(" ")[0]
    return int(digits) if digits.isdecimal() else 0


def shards_of(places: Places, folder: Path, load: int, haul: Haul) -> Iterator[Built]:
    """Build the shards of a load's crate in ``folder``, one after another, none larger than the haul says.

    One picture alone may be. Raises CrateError for a picture that is not as it was fetched, or a full disk.
    """
    for number, part in enumerate(_parts(places, haul.shard_bytes), 1):
        tar, listed = folder / f"{number}.tar", folder / f"{number}.parquet"
        try:
            offsets, tar_hash = _write_tar(places, part, tar)
            _write_list(part, offsets, listed, places if haul.has_fingerprints else None)
            list_hash = hashlib.sha256(listed.read_bytes()).hexdigest()
            digest = hashlib.sha256(f"{tar_hash} {list_hash}".encode()).hexdigest()[:16]
            shard = Shard(
                f"{load:06}/{number:03}-{digest}",
                sum(map(len, part.files)),
                tar.stat().st_size,
                tar_hash,
                listed.stat().st_size,
                list_hash,
            )
        except OSError as error:
            raise unwritable(folder, error) from error
        yield Built(shard, tar, listed)


def _parts(places: Places, most: int) -> Iterator[_Part]:
    """Yield what goes into each shard. Rows of one file stay together."""
    by_file: dict[str, list[Entry]] = {}
    with LedgerReader.opened(places) as ledger:
        for entry in sorted(ledger.rows(State.HELD), key=row_of):
            by_file.setdefault(entry.file, []).append(entry)
    part = _Part()
    for entries in by_file.values():
        size = _HEADERS + _padded(entries[0].bytes or 0)
        if part.files and part.bytes + size > most - _END:
            yield part
            part = _Part()
        part.files.append(entries)
        part.bytes += size
    if part.files:
        yield part


def _write_tar(places: Places, part: _Part, target: Path) -> tuple[list[int], str]:
    """Write the tar of a shard; return where in it each file begins, and its hash. Raises CrateError, OSError."""
    offsets: list[int] = []
    with target.open("wb") as file:
        whole = _Written(file)
        with tarfile.open(fileobj=whole, mode="w", format=tarfile.PAX_FORMAT) as archive:
            for entry, *_ in part.files:
                path = places.of(entry.file)
                if path is None or not path.is_file():
                    raise _altered(places, entry.file)
                octets = path.read_bytes()
                if hashlib.sha256(octets).hexdigest() != entry.sha256:
                    raise _altered(places, entry.file)
                member = tarfile.TarInfo(entry.file)
                member.size, member.mode, member.mtime = len(octets), 0o644, 0
                archive.addfile(member, io.BytesIO(octets))
                offsets.append(archive.offset - _padded(member.size))
    return offsets, whole.sha256.hexdigest()


def _padded(size: int) -> int:
    """Return how many bytes a file takes in a tar."""
    return -(-size // _BLOCK) * _BLOCK


def _write_list(part: _Part, offsets: list[int], target: Path, seen: Places | None) -> None:
    """Write the list of a shard; with what its pictures look like if they are to be ``seen``."""
    with writing(str(target), SHARD_COLUMNS) as sink:
        for entries, offset in zip(part.files, offsets, strict=True):
            look = seen_text(seen, entries[0]) if seen is not None else ""
            for entry in entries:
                own = {"row": row_of(entry), "offset": offset, "columns": _columns(entry), "fingerprint": look}
                sink({name: own[name] if name in own else getattr(entry, name) for name in SHARD_COLUMNS})


def _columns(entry: Entry) -> str:
    """Return the columns of a picture's row in the list, without the one that every load has."""
    if not entry.columns:
        return ""
    columns = json.loads(entry.columns)
    columns.pop(ROW, None)
    return to_json(columns) if columns else ""


class _Written(io.RawIOBase):
    """A file that is hashed as it is written."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._size = 0
        self.sha256 = hashlib.sha256()

    def tell(self) -> int:
        """Return how many bytes are written."""
        return self._size

    def writable(self) -> bool:
        """Say yes: it is for writing."""
        return True

    def write(self, octets: Any, /) -> int:
        """Write the next bytes."""
        self.sha256.update(octets)
        self._size += len(octets)
        return self._file.write(octets)


def _altered(places: Places, file: str) -> AlteredError:
    hint = "something else wrote into the folder where this worker keeps its load: the load is packed anew"
    return AlteredError(f"{places.root / file} is not as it was fetched", hint=hint)
