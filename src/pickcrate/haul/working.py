"""What a worker does with one load: packs it as ``pack`` does, publishes its shards, leaves a receipt at the end."""

import hashlib
import shutil
import time
from collections import Counter
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path
from tempfile import gettempdir
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import site
from pickcrate.crate.entry import State
from pickcrate.crate.places import Places, is_crate, unwritable
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import PickCrateError, StoreError
from pickcrate.haul.sharding import AlteredError, row_of, shards_of
from pickcrate.name import beginning_with, parse_pattern
from pickcrate.orders.order import Destination, Order, make_order
from pickcrate.parquet import arrow
from pickcrate.run import doors
from pickcrate.run.events import Found, PackEvent, Progress, RowRefused, Settled, Withdrawn
from pickcrate.stores.opening import open_store
from pickcrate.stores.papers import (
    ROW,
    Haul,
    Receipt,
    Shard,
    as_json,
    load_folder,
    load_name,
    read_receipt,
    receipt_name,
)
from pickcrate.stores.store import Store
from pickcrate.values.outcome import Ending, Outcome

_CRATE = "crate"
_MOST_TOLD = 12
_TOLD_EVERY = 1.0
"""Seconds between two reports of how far a load is."""


class Task(Struct, frozen=True):
    """One load for a worker: whose it is, what is to be done, and where there is room for it."""

    haul: Haul
    store: str
    load: int
    scratch: str
    """a folder of the worker's machine; empty for its folder of temporary files"""


class Report(Struct, frozen=True):
    """How far a load is: rows that are done, of them failed; bytes that came; sites in trouble."""

    load: int
    done: int
    failed: int
    bytes: int
    sites: tuple[tuple[str, int], ...] = ()


Tell = Callable[[Report], None]


def pack_load(task: Task, tell: Tell) -> Receipt:
    """Pack a load and publish it; return its receipt, which may be another worker's if that was faster.

    What was fetched stays on this machine until the receipt is there: who packs the load again goes on from it.
    Raises PickCrateError for what ends the load.
    """
    store = open_store(task.store)
    if (receipt := read_receipt(store, task.load)) is not None:
        return receipt
    began = time.monotonic()
    folder = folder_of(task.haul, task.scratch) / f"{task.load:06}"
    rows = folder / "rows.parquet"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        octets = store.read(load_name(task.haul, task.load))
        if octets is None:
            words = f"{store.address}/{load_name(task.haul, task.load)} is missing"
            raise StoreError(words, hint="the store was altered: bring the file back, or haul the list into another")
        rows.write_bytes(octets)
    except OSError as error:
        raise unwritable(folder, error) from error
    tally = _Tally(task.load, tell)
    with closing(doors.pack(load_order(task, rows), Destination(_CRATE, folder))) as events:
        for event in events:
            tally.note(event)
    try:
        receipt = _published(task, store, folder, tally.counts(), began)
    except AlteredError:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    shutil.rmtree(folder, ignore_errors=True)
    with suppress(OSError):  # other loads are in it
        folder.parent.rmdir()
    return receipt


def folder_of(haul: Haul, scratch: str) -> Path:
    """Return the folder in which the workers of one machine keep the loads of a haul that they are at."""
    return Path(scratch or gettempdir()) / f"pickcrate-{haul.id}"


def load_order(task: Task, rows: Path) -> Order:
    """Return the order of a load: that of the haul, with names that begin with the number of the row."""
    order, _ = make_order((str(rows),), task.haul.given)
    number = parse_pattern(f"{{column[{ROW}]:0>{task.haul.digits}}}")
    return replace(order, names=beginning_with(number, order.names))


class _Tally:
    """What became of a load's rows so far."""

    def __init__(self, load: int, tell: Tell) -> None:
        self._load, self._tell = load, tell
        self._told_at = 0.0
        self._received = 0
        self._endings: Counter[Ending] = Counter()
        self._refused = 0
        self._dropped = 0
        self.reasons: Counter[str] = Counter()
        self.sites: Counter[str] = Counter()

    def note(self, event: PackEvent) -> None:
        """Take down an event, and tell now and then how far the load is."""
        match event:
            case Settled(outcome):
                self._add(outcome, 1)
            case Withdrawn(outcome):
                self._add(outcome, -1)
            case Found(image) if not image.is_picked:
                self._dropped += 1
            case RowRefused():
                self._refused += 1
            case Progress():
                self._received = event.received
            case _:
                pass
        now = time.monotonic()
        if now - self._told_at >= _TOLD_EVERY:
            self._told_at = now
            self._tell(self.report())

    def report(self) -> Report:
        """Return how far the load is."""
        done = self._endings.total() + self._refused + self._dropped
        failed = self._endings[Ending.FAILED]
        return Report(self._load, done, failed, self._received, tuple(self.sites.most_common(3)))

    def counts(self) -> dict[str, Any]:
        """Return what a receipt says of the rows."""
        held = self._endings[Ending.FETCHED] + self._endings[Ending.ALREADY_THERE]
        left_out = self._dropped + self._endings[Ending.LEFT_OUT]
        failed = self._endings[Ending.FAILED]
        return {
            "rows": held + left_out + failed + self._refused,
            "left_out": left_out,
            "failed": failed,
            "refused": self._refused,
            "reasons": dict(self.reasons.most_common(_MOST_TOLD)),
            "sites": dict(self.sites.most_common(_MOST_TOLD)),
        }

    def _add(self, outcome: Outcome, number: int) -> None:
        self._endings[outcome.ending] += number
        if outcome.ending is Ending.FAILED:
            self.reasons[outcome.reason] += number
            self.sites[site(outcome.image.url)] += number


def _published(task: Task, store: Store, folder: Path, counts: dict[str, Any], began: float) -> Receipt:
    """Publish what a load came to: its shards, the rows that failed, and the receipt when all of it is there."""
    shards: list[Shard] = []
    size = 0
    root = folder / _CRATE
    failures = ""
    if is_crate(root):
        for built in shards_of(Places(root), folder, task.load, task.haul):
            store.put(built.shard.tar, built.tar)
            store.put(built.shard.list, built.list)
            size += built.shard.tar_bytes
            built.tar.unlink(missing_ok=True)
            built.list.unlink(missing_ok=True)
            shards.append(built.shard)
        failures = _publish_failures(task, store, folder)
    pictures = sum(shard.pictures for shard in shards)
    counts["same"] = counts["rows"] - pictures - counts["left_out"] - counts["failed"] - counts["refused"]
    receipt = Receipt(
        load=task.load,
        pictures=pictures,
        bytes=size,
        shards=tuple(shards),
        failures=failures,
        seconds=round(time.monotonic() - began, 1),
        **counts,
    )
    if store.create(receipt_name(task.load), as_json(receipt)):
        remove_strays(store, receipt)
        return receipt
    # Another worker has packed the same load: its shards count, and ours go.
    valid = read_receipt(store, task.load) or receipt
    remove_strays(store, valid, {*receipt.files} - {*valid.files})
    return valid


def remove_strays(store: Store, receipt: Receipt, ours: set[str] | None = None) -> None:
    """Take away what is in a load's folder and is not on its receipt: all of it, or only ``ours``."""
    known = {*receipt.files}
    for name, _ in [*store.names(load_folder(receipt.load))]:
        if name not in known and (ours is None or name in ours):
            store.delete(name)


def _publish_failures(task: Task, store: Store, folder: Path) -> str:
    """Publish the rows of a load that failed, as the list has them, with the reason; return the name of the file."""
    with LedgerReader.opened(Places(folder / _CRATE)) as ledger:
        reasons = {row_of(entry): entry.error for entry in ledger.rows(State.FAILED)}
    if not reasons:
        return ""
    pa = arrow()
    table = pa.parquet.read_table(folder / "rows.parquet")
    numbers = table.column(ROW).to_pylist()
    failed = [place for place, number in enumerate(numbers) if number in reasons]
    table = table.take(pa.array(failed))
    words = pa.array([reasons[numbers[place]] for place in failed], pa.string())
    columns = [name for name in table.column_names if name not in {ROW, "error"}]
    table = table.select(columns).append_column("error", words)
    path = folder / "failed.parquet"
    pa.parquet.write_table(table, path, compression="zstd")
    name = f"{load_folder(task.load)}/failed-{hashlib.sha256(path.read_bytes()).hexdigest()[:16]}.parquet"
    store.put(name, path)
    return name


def failure_words(error: BaseException) -> str:
    """Return what to tell of a load that came to an end."""
    if isinstance(error, PickCrateError):
        return f"{error.message} ({error.hint})" if error.hint else error.message
    return f"{type(error).__name__}: {error}".strip(": ")
