"""A haul from its list to the end: split, given to the workers load by load, gathered; and gone on with later."""

import shutil
import time
from collections import Counter, deque
from collections.abc import Generator, Iterator, Mapping
from contextlib import AbstractContextManager
from pathlib import Path
from tempfile import TemporaryDirectory, gettempdir
from typing import TYPE_CHECKING, Any
from uuid import uuid4

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import without_userinfo
from pickcrate.errors import StoreError, UsageError
from pickcrate.haul.cluster import Cluster, Ended, cluster_at, own_cluster
from pickcrate.haul.events import Begun, HaulEvent, LoadDone, LoadFailed, SplitDone, Waiting
from pickcrate.haul.splitting import Read, Splitter
from pickcrate.haul.working import Task, folder_of
from pickcrate.parquet import arrow
from pickcrate.stores import HAUL
from pickcrate.stores.hauled import hauled_at, receipts
from pickcrate.stores.papers import FAILED, LOADS, SHARDS, Haul, Receipt, as_json, load_name
from pickcrate.stores.store import Store

if TYPE_CHECKING:
    from pickcrate.haul.earlier import Earlier

_TRIES = 3
_AHEAD = 2
"""Loads that wait for each worker: it never waits for one."""

_TICK = 1.0
_LOOK_EVERY = 10.0
"""Seconds between two looks at who is there."""


class Crew(Struct, frozen=True):
    """Who packs: so many workers of this machine, or those of a scheduler; and where there is room for it."""

    workers: int
    scheduler: str = ""
    scratch: str = ""

    def check(self) -> None:
        """Raise PickCrateError if the scheduler does not answer: a list is not split for nobody."""
        if self.scheduler:
            with self.gather():
                pass

    def gather(self) -> AbstractContextManager[Cluster]:
        """Return the cluster, to be entered."""
        return cluster_at(self.scheduler) if self.scheduler else own_cluster(self.workers, self.scratch)


def order(
    store: Store, sources: tuple[str, ...], kept: Mapping[str, Any], chosen: dict[str, str], form: "Form"
) -> Generator[Read | SplitDone, None, None]:
    """Split a list into the store, and leave the order of the haul there when that is done.

    ``kept`` is the settings as the store may hold them. Raises UsageError if the store holds a haul already.
    """
    if store.read(HAUL) is not None:
        raise _is_there(store)
    haul_id = uuid4().hex[:12]
    splitter = Splitter(sources, chosen, form.load, _earlier(form.earlier) if form.earlier else None)
    draft = Haul(haul_id, tuple(map(without_userinfo, sources)), kept, {}, 0, 0, (), form.shard, form.has_fingerprints)

    def put(load: int, octets: bytes) -> None:
        store.create(load_name(draft, load), octets)

    folder = Path(form.scratch or gettempdir())
    folder.mkdir(parents=True, exist_ok=True)
    yield from splitter.run(folder, put)
    split = splitter.split
    haul = replace(draft, columns=split.columns, rows=split.rows, loads=split.loads, chains=split.chains)
    haul = replace(haul, passed_over=split.passed_over)
    if not store.create(HAUL, as_json(haul)):
        raise _is_there(store)
    yield SplitDone(split)


class Form(Struct, frozen=True):
    """How many rows a load has, how many bytes a shard, what lists tell besides; and where there is room to split."""

    load: int
    shard: int
    has_fingerprints: bool
    scratch: str = ""
    earlier: tuple[str, ...] = ()
    """stores of hauls that hold what is not to be had again"""


def _earlier(stores: tuple[str, ...]) -> "Earlier":
    from pickcrate.haul.earlier import Earlier  # noqa: PLC0415 (most hauls are first ones)

    return Earlier(map(hauled_at, stores))


def conduct(store: Store, haul: Haul, crew: Crew) -> Generator[HaulEvent, None, None]:
    """Have all loads packed that have no receipt yet; yield what happens.

    Who leaves it before its end takes back what no worker has begun. Raises PickCrateError without a cluster.
    """
    known = receipts(store)
    waiting = _Line(haul, {*known})
    if waiting.is_empty:
        yield Begun(haul, tuple(known.values()), 0, not crew.scheduler)
    else:
        with crew.gather() as cluster:
            yield Begun(haul, tuple(known.values()), cluster.workers, cluster.is_own)
            try:
                for event in _work_off(cluster, waiting, haul, store, crew):
                    if isinstance(event, LoadDone):
                        known[event.receipt.load] = event.receipt
                    yield event
            finally:
                cluster.call_back()
    if len(known) == haul.loads:
        _finish(store, haul, known)
        shutil.rmtree(folder_of(haul, crew.scratch), ignore_errors=True)  # a worker may be killed behind its receipt


def _work_off(cluster: Cluster, waiting: "_Line", haul: Haul, store: Store, crew: Crew) -> Iterator[HaulEvent]:
    tries: Counter[int] = Counter()
    given: set[int] = set()
    workers, looked_at = max(1, cluster.workers), time.monotonic()
    while given or not waiting.is_empty:
        while len(given) < workers * _AHEAD and (load := waiting.next()) is not None:
            given.add(load)
            cluster.give(Task(haul, store.address, load, crew.scratch))
        told = cluster.news(_TICK)
        if time.monotonic() - looked_at > _LOOK_EVERY:
            there, looked_at = cluster.workers, time.monotonic()
            workers = max(1, there)
            yield Waiting(len(given), there)
        if not isinstance(told, Ended):
            if told is not None:
                yield told
            continue
        given.discard(told.load)
        if told.receipt is not None:
            waiting.done(told.load)
            yield LoadDone(told.receipt)
            continue
        tries[told.load] += 1
        is_given_up = tries[told.load] >= _TRIES
        if is_given_up:
            waiting.give_up(told.load)
        else:
            waiting.again(told.load)
        yield LoadFailed(told.load, told.words, is_given_up)


class _Line:
    """Loads that wait to be packed. Of a chain, which is one site's, only one is ever out."""

    def __init__(self, haul: Haul, done: set[int]) -> None:
        self._rest: dict[int, deque[int]] = {}
        """of each load that is the next of its chain, those behind it"""
        in_chains: set[int] = set()
        self._ready: deque[int] = deque()
        for first, count in haul.chains:
            chain = [load for load in range(first, first + count) if load not in done]
            in_chains.update(range(first, first + count))
            if chain:
                self._ready.append(chain[0])
                self._rest[chain[0]] = deque(chain[1:])
        self._ready.extend(load for load in range(haul.loads) if load not in in_chains and load not in done)

    @property
    def is_empty(self) -> bool:
        """Whether none is ready to be given out."""
        return not self._ready

    def next(self) -> int | None:
        """Return a load to be given out; chains first, since they take the longest."""
        return self._ready.popleft() if self._ready else None

    def again(self, load: int) -> None:
        """Put a load back, behind the others."""
        self._ready.append(load)

    def done(self, load: int) -> None:
        """Let the next of a load's chain follow, before what is no chain's."""
        rest = self._rest.pop(load, None)
        if rest:
            follower = rest.popleft()
            self._rest[follower] = rest
            self._ready.appendleft(follower)

    def give_up(self, load: int) -> None:
        """Let the others of a chain follow all the same: what ended this one may not be theirs."""
        self.done(load)


def _finish(store: Store, haul: Haul, known: Mapping[int, Receipt]) -> None:
    """Leave the list of what failed, and take away what no receipt vouches for: loads, and shards of killed workers."""
    vouched = {name for receipt in known.values() for name in receipt.files}
    strays = [name for name, _ in store.names(SHARDS) if name not in vouched]
    strays += [name for name, _ in store.names(LOADS) if not name.startswith(f"{LOADS}/{haul.id}/")]
    for name in strays:
        store.delete(name)
    failed = [known[load].failures for load in sorted(known) if known[load].failures]
    if not failed:
        return
    pa = arrow()
    with TemporaryDirectory() as folder:
        path = Path(folder) / FAILED
        writer = None
        for name in failed:
            octets = store.read(name)
            if octets is None:
                raise StoreError(f"{store.address}/{name} is missing", hint="pickcrate audit tells what else is")
            table = pa.parquet.read_table(pa.BufferReader(octets))
            if writer is None:
                writer = pa.parquet.ParquetWriter(path, table.schema, compression="zstd")
            writer.write_table(table.cast(writer.schema))
        if writer is not None:
            writer.close()
            store.replace(FAILED, path)


def _is_there(store: Store) -> UsageError:
    hint = f"go on with it: pickcrate haul --resume {store.address}; or name another folder of the store"
    return UsageError(f"{store.address} holds a haul already", hint=hint)
