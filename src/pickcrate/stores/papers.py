"""The papers of a haul, as its store keeps them: what was ordered, and a receipt for each load that was packed."""

import json
from collections.abc import Mapping
from typing import Any

from msgspec import Struct, field, to_builtins

from pickcrate.errors import StoreError
from pickcrate.stores import HAUL
from pickcrate.stores.store import Store

LOADS = "loads"
"""ID/000007.parquet: the rows of a load, as its worker packs them"""
SHARDS = "shards"
"""000007/001-HASH.tar: pictures of a load; 001-HASH.parquet: the list of these; failed-HASH.parquet: what failed"""
RECEIPTS = "receipts"
"""000007.json: the proof that a load is packed, and into which shards"""
FAILED = "failed.parquet"
"""at the end: all rows that failed, to be hauled again"""
ROW = "haul_row"
"""the column of a load with the number of each row in the whole list, from 1"""

_VERSION = 1
_MOST_LOADS = 10_000_000
_MOST_ROWS = 10**15


class Haul(Struct, frozen=True):
    """What was ordered: the lists, the settings as the command line has them, and how the rows were split."""

    id: str
    sources: tuple[str, ...]
    settings: Mapping[str, Any]
    columns: Mapping[str, str]
    """which column of the lists is what: field to header"""
    rows: int
    loads: int
    chains: tuple[tuple[int, int], ...]
    """loads of one site, which are packed one after another: the first, and how many"""
    shard_bytes: int
    has_fingerprints: bool = False
    """whether lists are to tell what each picture looks like"""
    passed_over: int = 0
    """rows that earlier hauls hold, and that are in no load"""

    @property
    def given(self) -> dict[str, Any]:
        """The settings of each of its loads."""
        return {**self.settings, "column": [f"{name}={header}" for name, header in self.columns.items()]}

    @property
    def digits(self) -> int:
        """How many digits the number of a row has, in names."""
        return max(6, len(str(self.rows)))


class Shard(Struct, frozen=True):
    """One tar of pictures with its list: the name that both have, their sizes in bytes and their hashes (SHA-256)."""

    name: str
    pictures: int
    tar_bytes: int
    tar_sha256: str
    list_bytes: int
    list_sha256: str

    @property
    def tar(self) -> str:
        """The name of its pictures' file in the store."""
        return f"{SHARDS}/{self.name}.tar"

    @property
    def list(self) -> str:
        """The name of its list in the store."""
        return f"{SHARDS}/{self.name}.parquet"


class Receipt(Struct, frozen=True):
    """What became of a load: of each of its rows one of these counts has it."""

    load: int
    rows: int
    pictures: int
    """that are in its shards"""
    same: int
    """rows with the address of an earlier one, whose picture that is"""
    bytes: int
    """of its shards"""
    left_out: int
    failed: int
    refused: int
    """rows without a web address"""
    shards: tuple[Shard, ...] = ()
    failures: str = ""
    """the file in the store with the rows that failed; empty if none did"""
    reasons: Mapping[str, int] = field(default_factory=dict)
    """why rows failed, and how many for each reason: the most frequent ones"""
    sites: Mapping[str, int] = field(default_factory=dict)
    """of which sites they are: those with the most"""
    seconds: float = 0.0

    @property
    def files(self) -> tuple[str, ...]:
        """The names of all files in the store that it vouches for."""
        of_shards = (name for shard in self.shards for name in (shard.tar, shard.list))
        return (*of_shards, *((self.failures,) if self.failures else ()))


def load_name(haul: Haul, load: int) -> str:
    """Return the name of a load's rows in the store."""
    return f"{LOADS}/{haul.id}/{load:06}.parquet"


def load_folder(load: int) -> str:
    """Return the folder of a load's shards in the store."""
    return f"{SHARDS}/{load:06}"


def receipt_name(load: int) -> str:
    """Return the name of a load's receipt in the store."""
    return f"{RECEIPTS}/{load:06}.json"


def as_json(paper: Haul | Receipt) -> bytes:
    """Return a paper as it is kept."""
    return f"{json.dumps({'version': _VERSION, **to_builtins(paper)}, ensure_ascii=False, indent=1)}\n".encode()


def read_haul(store: Store) -> Haul | None:
    """Return what was ordered of a store; None if nothing was. Raises StoreError."""
    octets = store.read(HAUL)
    if octets is None:
        return None
    told = _object(store, HAUL, octets)
    try:
        chains = tuple((_whole(first), _whole(count)) for first, count in told["chains"])
        haul = Haul(
            id=_text(told["id"]),
            sources=tuple(map(_text, told["sources"])),
            settings=dict(told["settings"]),
            columns={_text(name): _text(header) for name, header in told["columns"].items()},
            rows=_whole(told["rows"]),
            loads=_whole(told["loads"]),
            chains=chains,
            shard_bytes=_whole(told["shard_bytes"]),
            has_fingerprints=told["has_fingerprints"] is True,
            passed_over=_whole(told.get("passed_over", 0)),
        )
        _check(haul)
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise _not_ours(store, HAUL) from error
    return haul


def _check(haul: Haul) -> None:
    """Raise ValueError for numbers and names that no haul has: its id names folders of workers."""
    is_named = haul.id.isascii() and haul.id.isalnum() and len(haul.id) <= 64
    is_sized = 0 <= haul.passed_over <= haul.rows <= _MOST_ROWS
    is_sized &= 0 <= haul.loads <= _MOST_LOADS and haul.shard_bytes > 0
    place = 0
    for first, count in haul.chains:
        is_sized &= place <= first and count > 0
        place = first + count
    if not (is_named and is_sized and place <= haul.loads):
        raise ValueError


def read_receipt(store: Store, load: int) -> Receipt | None:
    """Return the receipt of a load; None if it has none. Raises StoreError."""
    name = receipt_name(load)
    octets = store.read(name)
    return receipt_of(store, name, octets) if octets is not None else None


def receipt_of(store: Store, name: str, octets: bytes) -> Receipt:
    """Return the receipt that is kept as ``octets``. Raises StoreError."""
    told = _object(store, name, octets)
    numbers = ("load", "rows", "pictures", "same", "bytes", "left_out", "failed", "refused")
    try:
        receipt = Receipt(
            **{name: _whole(told[name]) for name in numbers},
            shards=tuple(map(_shard, told["shards"])),
            failures=_text(told["failures"]),
            reasons={_text(reason): _whole(count) for reason, count in told["reasons"].items()},
            sites={_text(site): _whole(count) for site, count in told["sites"].items()},
            seconds=float(told["seconds"]),
        )
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise _not_ours(store, name) from error
    if receipt_name(receipt.load) != name:
        raise _not_ours(store, name)
    return receipt


def _shard(told: Mapping[str, Any]) -> Shard:
    return Shard(
        _text(told["name"]),
        _whole(told["pictures"]),
        _whole(told["tar_bytes"]),
        _text(told["tar_sha256"]),
        _whole(told["list_bytes"]),
        _text(told["list_sha256"]),
    )


def _object(store: Store, name: str, octets: bytes) -> Mapping[str, Any]:
    try:
        told = json.loads(octets)
    except (ValueError, RecursionError) as error:
        raise _not_ours(store, name) from error
    if not isinstance(told, dict) or not isinstance(told.get("version"), int):
        raise _not_ours(store, name)
    if told["version"] > _VERSION:
        hint = "use the newer Pick Crate that wrote it"
        raise StoreError(f"{store.address}/{name} is of a newer kind than this program knows", hint=hint)
    return told


def _text(value: object) -> str:
    if not isinstance(value, str):
        raise TypeError
    return value


def _whole(value: object) -> int:
    if not isinstance(value, int):
        raise TypeError
    return value


def _not_ours(store: Store, name: str) -> StoreError:
    hint = "name the folder that pickcrate haul --to wrote, or bring the file back from a copy"
    return StoreError(f"{store.address}/{name} is not as pickcrate haul writes it", hint=hint)
