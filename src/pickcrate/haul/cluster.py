"""The cluster: workers of this machine, or a Dask scheduler that the user has. Its public interface, as it is."""

import logging
import os
import queue
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from importlib.util import find_spec
from tempfile import TemporaryDirectory
from typing import Any
from uuid import uuid4

from msgspec import Struct, to_builtins

from pickcrate.errors import PickCrateError, UsageError
from pickcrate.garbage import collect_seldom
from pickcrate.haul.working import Report, Task, failure_words, pack_load
from pickcrate.stores.papers import Receipt

_TOPIC = "pickcrate"
_LOUD = ("distributed", "asyncio", "tornado")
_PATIENCE = "20s"
_DEAF = "import signal\nsignal.signal(signal.SIGINT, signal.SIG_IGN)\n"
"""what a worker of this machine runs first: Ctrl-C reaches it too, and it is the client that ends it"""

_SETTINGS = {
    "distributed.worker.preload": [_DEAF],
    "distributed.scheduler.allowed-failures": 2,
    "distributed.scheduler.worker-ttl": "10 minutes",  # a worker that writes a large tar may not speak for a while
    "distributed.worker.profile.enabled": False,  # it would look at the packing thread a hundred times a second
    "distributed.worker.memory.spill": False,
    "distributed.worker.memory.target": False,
    "distributed.diagnostics.nvml": False,
}


class Ended(Struct, frozen=True):
    """What became of one try to pack a load: its receipt, or what ended it in words."""

    load: int
    receipt: Receipt | None
    words: str = ""
    is_lost: bool = False
    """whether nobody knows, since the scheduler is gone"""


class Cluster:
    """A cluster that loads are given to; what comes of them is taken from ``news``."""

    def __init__(self, client: Any, *, is_own: bool) -> None:
        self._client = client
        self.is_own = is_own
        self._news: queue.SimpleQueue[Ended | Report] = queue.SimpleQueue()
        self._futures: dict[int, Any] = {}
        client.subscribe_topic(_TOPIC, self._heard)

    @property
    def workers(self) -> int:
        """How many workers there are now."""
        try:
            return len(self._client.scheduler_info(n_workers=-1)["workers"])
        except Exception:  # noqa: BLE001 (a scheduler that has gone away can fail in many ways)
            return 0

    def give(self, task: Task) -> None:
        """Give a load to whichever worker is free first."""
        key = f"load-{task.load:06}-{uuid4().hex}"  # a second try is none that is known already
        future = self._client.submit(_work, task, key=key, pure=False)
        self._futures[task.load] = future
        future.add_done_callback(lambda done: self._news.put(_ended(task.load, done)))

    def news(self, seconds: float) -> Ended | Report | None:
        """Return what is new; None if nothing was for so many seconds. Raises PickCrateError without a scheduler."""
        try:
            told = self._news.get(timeout=seconds)
        except queue.Empty:
            if self._client.status not in {"running", "connecting"}:
                raise _gone() from None
            return None
        if isinstance(told, Ended):
            self._futures.pop(told.load, None)
            if told.is_lost:
                raise _gone()
        return told

    def call_back(self) -> None:
        """Take back what no worker has begun."""
        with suppress(Exception):
            self._client.cancel(list(self._futures.values()), force=True)

    def _heard(self, event: Any) -> None:
        with suppress(TypeError, ValueError, KeyError):
            _, told = event  # to which the scheduler has added who says so
            sites = tuple((str(site), int(number)) for site, number in told["sites"])
            self._news.put(Report(told["load"], told["done"], told["failed"], told["bytes"], sites))


def _work(task: Task) -> Receipt | str:
    """Pack a load, in the process of a worker. What ends it is told in words: no exception has to cross the line."""
    from distributed import get_worker  # noqa: PLC0415 (only workers come here)

    worker = get_worker()
    collect_seldom()

    def tell(report: Report) -> None:
        worker.log_event(_TOPIC, to_builtins(report))

    try:
        return pack_load(task, tell)
    except (PickCrateError, OSError) as error:
        return failure_words(error)


def _ended(load: int, future: Any) -> Ended:
    """Return what became of a load, by its future. Workers that died under it are counted by the scheduler."""
    if future.status == "finished":
        result = future.result()
        return Ended(load, None, result) if isinstance(result, str) else Ended(load, result)
    if future.status == "error":
        error = future.exception()
        is_killed = type(error).__name__ == "KilledWorker"
        return Ended(load, None, "the workers that packed it were killed" if is_killed else failure_words(error))
    return Ended(load, None, is_lost=True)


@contextmanager
def own_cluster(workers: int, scratch: str) -> Iterator[Cluster]:
    """Start workers on this machine, a process each, and stop them at the end. Raises UsageError, PickCrateError."""
    library = _library()
    with _silent(), library.config(_SETTINGS), TemporaryDirectory(prefix="workers-", dir=scratch or None) as folder:
        try:
            local = library.local(
                n_workers=workers,
                threads_per_worker=1,
                dashboard_address=None,
                silence_logs=logging.CRITICAL,
                local_directory=folder,
            )
        except (OSError, TimeoutError, RuntimeError) as error:
            raise PickCrateError(f"no workers could be started: {error}", hint="fewer of them: --workers 1") from error
        with local, library.client(local) as client:
            yield Cluster(client, is_own=True)


@contextmanager
def cluster_at(address: str) -> Iterator[Cluster]:
    """Use the workers of a scheduler. Raises UsageError, PickCrateError if it is not there."""
    library = _library()
    with _silent():
        try:
            client = library.client(address, timeout=_PATIENCE)
        except (OSError, TimeoutError, ValueError) as error:
            hint = "give the address that dask scheduler printed, as in tcp://head:8786"
            raise PickCrateError(f"no scheduler answers at {address}", hint=hint) from error
        with client:
            yield Cluster(client, is_own=False)


class _Library(Struct, frozen=True):
    """What is used of Dask."""

    client: Callable[..., Any]
    local: Callable[..., Any]
    config: Callable[..., Any]


def check_extra() -> None:
    """Raise UsageError where something is missing that a haul needs, before its list is read."""
    missing = [name for name in ("distributed", "numpy", "pyarrow") if find_spec(name) is None]
    if missing:
        raise UsageError(f"a haul needs {', '.join(missing)}", hint="pip install 'pickcrate[haul]'")


def _library() -> _Library:
    os.environ.setdefault("DASK_DISTRIBUTED__LOGGING__DISTRIBUTED", "critical")  # before it is imported
    import dask  # noqa: PLC0415 (only a haul needs it)
    from distributed import Client, LocalCluster  # noqa: PLC0415

    return _Library(Client, LocalCluster, dask.config.set)


@contextmanager
def _silent() -> Iterator[None]:
    """Keep what a library says of its inner life from the user's terminal."""
    known = (*logging.root.manager.loggerDict, *_LOUD)
    loggers = [logging.getLogger(name) for name in dict.fromkeys(known) if name.partition(".")[0] in _LOUD]
    before = [logger.level for logger in loggers]
    for logger in loggers:
        logger.setLevel(logging.CRITICAL)
    try:
        yield
    finally:
        for logger, level in zip(loggers, before, strict=True):
            logger.setLevel(level)


def _gone() -> PickCrateError:
    return PickCrateError("the scheduler has gone away", hint="start it again, and go on with pickcrate haul --resume")
