"""Audit of a store: each shard read in full and held against its receipt and its list; with repair, packed again."""

import hashlib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from msgspec import Struct

from pickcrate.crate.inspection import Discrepancy, Trouble
from pickcrate.errors import StoreError
from pickcrate.stores.hauled import Hauled, rows
from pickcrate.stores.papers import SHARDS, Receipt, Shard, receipt_name
from pickcrate.stores.store import Store

_AT_ONCE = 4


class StoreAudited(Struct, frozen=True):
    """What was looked at: shards, and pictures in them; and which loads are not whole."""

    shards: int
    pictures: int
    loads: tuple[int, ...]


def audit(hauled: Hauled) -> Iterator[Discrepancy | StoreAudited]:
    """Yield what is wrong with the shards of a haul, and at the end what was looked at."""
    store = hauled.store
    broken: set[int] = set()
    pictures = count = 0

    def inspected(pair: tuple[Receipt, Shard]) -> tuple[Receipt, Shard, list[Discrepancy]]:
        receipt, shard = pair
        return receipt, shard, list(_inspect(store, shard))

    pairs = [(receipt, shard) for receipt in hauled.receipts.values() for shard in receipt.shards]
    with ThreadPoolExecutor(_AT_ONCE) as threads:
        for receipt, shard, findings in threads.map(inspected, pairs):
            count, pictures = count + 1, pictures + shard.pictures
            if findings:
                broken.add(receipt.load)
            yield from findings
    vouched = {name for receipt in hauled.receipts.values() for name in receipt.files}
    there = {name for name, _ in store.names(SHARDS)}
    under_way = {f"{load:06}" for load in range(hauled.haul.loads) if load not in hauled.receipts}
    for receipt in hauled.receipts.values():
        if receipt.failures and receipt.failures not in there:
            broken.add(receipt.load)
            yield Discrepancy(Trouble.MISSING, receipt.failures, "the rows of its load that failed")
    for name in sorted(there - vouched):
        if name.split("/")[1] not in under_way:
            yield Discrepancy(Trouble.STRAY, name, "no receipt vouches for it")
    for load in range(hauled.haul.loads):
        if load not in hauled.receipts:
            words = "not packed yet: pickcrate haul --resume does that"
            yield Discrepancy(Trouble.MISSING, receipt_name(load), words)
    yield StoreAudited(count, pictures, tuple(sorted(broken)))


def take_back(hauled: Hauled, loads: tuple[int, ...]) -> None:
    """Take back the receipts of loads that are not whole, so that they are packed again; and what they vouched for."""
    for load in loads:
        hauled.store.delete(receipt_name(load))
        for name in hauled.receipts[load].files:
            hauled.store.delete(name)


def _inspect(store: Store, shard: Shard) -> Iterator[Discrepancy]:
    """Yield what is wrong with one shard: each picture's bytes are held against its row."""
    try:
        listed = store.read(shard.list)
        if listed is None:
            yield Discrepancy(Trouble.MISSING, shard.list, "the list of a shard")
            return
        if hashlib.sha256(listed).hexdigest() != shard.list_sha256:
            yield Discrepancy(Trouble.ALTERED, shard.list, "not the list that its receipt vouches for")
            return
        wanted = sorted({(row["offset"], row["bytes"], row["file"], row["sha256"]) for row in rows(store, shard)})
        yield from _held_against(store, shard, wanted)
    except StoreError as error:
        yield Discrepancy(Trouble.MISSING, shard.tar, error.message)


def _held_against(store: Store, shard: Shard, wanted: list[tuple[int, int, str, str]]) -> Iterator[Discrepancy]:
    """Read a tar once; yield each picture of the list whose bytes are others, and whether the tar is whole."""
    whole = hashlib.sha256()
    place = 0
    waiting = iter(wanted)
    current = next(waiting, None)
    part: Any = hashlib.sha256()
    for piece in store.pieces(shard.tar):
        whole.update(piece)
        view = memoryview(piece)
        while current is not None and current[0] < place + len(piece):
            offset, size, file, sha256 = current
            part.update(view[max(0, offset - place) : max(0, offset + size - place)])
            if offset + size > place + len(piece):
                break
            if part.hexdigest() != sha256:
                yield Discrepancy(Trouble.ALTERED, f"{shard.tar}: {file}", "its bytes are not those of the list")
            current, part = next(waiting, None), hashlib.sha256()
        place += len(piece)
    if current is not None:
        yield Discrepancy(Trouble.BROKEN, shard.tar, f"it ends after {place:,} bytes, before {current[2]}")
    elif whole.hexdigest() != shard.tar_sha256:
        yield Discrepancy(Trouble.ALTERED, shard.tar, "not the tar that its receipt vouches for")
