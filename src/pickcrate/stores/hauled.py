"""What a haul has left in a store, to be read: its receipts, the lists of its shards, single pictures out of them."""

from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

from msgspec import Struct

from pickcrate.errors import StoreError, UsageError
from pickcrate.parquet import arrow, schema_of
from pickcrate.record import SHARD_COLUMNS
from pickcrate.stores import HAUL
from pickcrate.stores.opening import open_store, scheme
from pickcrate.stores.papers import RECEIPTS, Haul, Receipt, Shard, read_haul, receipt_of
from pickcrate.stores.store import Store
from pickcrate.tilde import without_tilde
from pickcrate.values.measures import Grade

_AT_ONCE = 16
_ADDRESSES = ("url", "shown_url")
_NEEDED = ("row", "file", "url", "bytes", "sha256", "offset")
_LARGEST_PICTURE = 2_000_000_000


class Hauled(Struct, frozen=True):
    """A haul in a store, with the receipts of the loads that are packed, by their numbers."""

    store: Store
    haul: Haul
    receipts: Mapping[int, Receipt]

    @property
    def shards(self) -> Iterator[Shard]:
        """All shards, in the order of the loads."""
        return (shard for receipt in self.receipts.values() for shard in receipt.shards)


def is_haul(name: str) -> bool:
    """Tell whether somebody who typed ``name`` meant the store of a haul: an address of one, or the folder."""
    if scheme(name):
        return scheme(name) not in {"http", "https", "file", "data"}
    try:
        return (without_tilde(name) / HAUL).is_file()
    except (OSError, ValueError):
        return False


def hauled_at(address: str) -> Hauled:
    """Return the haul that a store holds. Raises UsageError if it holds none, StoreError."""
    store = open_store(address if scheme(address) else str(without_tilde(address)))
    return Hauled(store, ordered(store), receipts(store))


def ordered(store: Store) -> Haul:
    """Return what was ordered of a store. Raises UsageError if nothing was."""
    haul = read_haul(store)
    if haul is None:
        hint = "a haul begins with pickcrate haul LIST --to STORE, and is there once its list is split"
        raise UsageError(f"{store.address} holds no haul", hint=hint)
    return haul


def receipts(store: Store) -> dict[int, Receipt]:
    """Return the receipts that a store holds, by their loads, in order."""

    def read(name: str) -> Receipt | None:
        octets = store.read(name)
        return receipt_of(store, name, octets) if octets is not None else None

    names = sorted(name for name, _ in store.names(RECEIPTS) if name.endswith(".json"))
    with ThreadPoolExecutor(_AT_ONCE) as threads:
        return {receipt.load: receipt for receipt in threads.map(read, names) if receipt is not None}


def rows(store: Store, shard: Shard) -> Iterator[dict[str, Any]]:
    """Yield the rows of a shard's list, with the columns of ``record.SHARD_COLUMNS``. Raises StoreError."""
    pa, schema = arrow(), schema_of(SHARD_COLUMNS)
    with _understood(store, shard):
        for batch in _batches(store, shard):
            yield from _conformed(pa, batch, schema).to_pylist()


def addresses(hauled: Hauled) -> Iterator[str]:
    """Yield the addresses of all that is in the shards: where it came from, and what the list had for it.

    Raises StoreError.
    """
    for shard in hauled.shards:
        with _understood(hauled.store, shard):
            for batch in _batches(hauled.store, shard, _ADDRESSES):
                for column in batch.columns:
                    yield from (url for url in column.to_pylist() if isinstance(url, str) and url)


def _batches(store: Store, shard: Shard, columns: tuple[str, ...] = ()) -> Iterator[Any]:
    pa, octets = arrow(), store.read(shard.list)
    if octets is None:
        raise StoreError(f"{store.address}/{shard.list} is missing", hint="pickcrate audit tells what else is")
    opened = pa.parquet.ParquetFile(pa.BufferReader(octets))
    yield from opened.iter_batches(batch_size=2_048, columns=list(columns) or None)


@contextmanager
def _understood(store: Store, shard: Shard) -> Iterator[None]:
    """Turn what is wrong with a shard's list into words."""
    try:
        yield
    except (arrow().ArrowException, KeyError, OSError, ValueError) as error:
        words = f"{store.address}/{shard.list} cannot be read: {str(error)[:200]}"
        raise StoreError(words, hint="pickcrate audit tells what else is wrong") from error


def _conformed(pa: Any, batch: Any, schema: Any) -> Any:
    """Return a batch with the columns of a shard's list, of their types. Raises KeyError, ValueError."""
    columns = [batch.column(column.name).cast(column.type) for column in schema]
    if any(batch.column(name).null_count for name in _NEEDED):
        raise ValueError("a picture lacks what each has")
    return pa.RecordBatch.from_arrays(columns, schema=schema)


def picks(hauled: Hauled) -> Iterator[dict[str, Any]]:
    """Yield all that is in the shards as rows of a pick list, with what was measured of each picture."""
    grades = dict.fromkeys(("width", "height", "bytes", "type"), Grade.ACTUAL.value)
    for shard in hauled.shards:
        for row in rows(hauled.store, shard):
            yield {**row, "pick": True, "found_in": "list", "grades": grades}


def places(hauled: Hauled, files: Iterable[str]) -> dict[str, tuple[Shard, dict[str, Any]]]:
    """Return the shard and the row of each of some files, by their names in it."""
    wanted = {*files}
    found: dict[str, tuple[Shard, dict[str, Any]]] = {}
    for shard in hauled.shards:
        found |= {row["file"]: (shard, row) for row in rows(hauled.store, shard) if row["file"] in wanted}
        if len(found) == len(wanted):
            break
    return found


def picture(store: Store, shard: Shard, row: Mapping[str, Any]) -> bytes:
    """Return the file of a row's picture out of its shard. Raises StoreError."""
    offset, size = row["offset"], row["bytes"]
    if offset < 0 or not 0 <= size <= _LARGEST_PICTURE:
        words = f"{store.address}/{shard.list} does not say where {row['file']} is"
        raise StoreError(words, hint="pickcrate audit tells what else is wrong")
    return store.part(shard.tar, offset, size)
