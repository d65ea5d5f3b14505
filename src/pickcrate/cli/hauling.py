"""What ``haul`` prints: how the list was split, how far its loads are, and what all of it came to."""

import os
import time
from collections import Counter
from collections.abc import Generator, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any, Protocol

from msgspec import Struct, field

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.log import Log
from pickcrate.cli.options import Given
from pickcrate.cli.shell import as_operand, command_line
from pickcrate.cli.terminal import Out, bars
from pickcrate.cli.text import count, harmless, shown, size
from pickcrate.errors import NothingPickedError, StoreError, UsageError
from pickcrate.haul.cluster import check_extra
from pickcrate.haul.conducting import Crew, Form, conduct, order
from pickcrate.haul.events import Begun, HaulEvent, LoadDone, LoadFailed, SplitDone, Waiting
from pickcrate.haul.splitting import Read, Split
from pickcrate.haul.working import Report
from pickcrate.orders.given import values
from pickcrate.orders.order import make_order
from pickcrate.orders.setting import Group
from pickcrate.orders.settings import MOST_WORKERS, of_command
from pickcrate.stores import HAUL
from pickcrate.stores.hauled import ordered
from pickcrate.stores.opening import open_store, scheme
from pickcrate.stores.papers import FAILED, Haul, Receipt, read_haul
from pickcrate.stores.store import Store
from pickcrate.tilde import without_tilde

_MOST_TOLD = 3
_MOVE_EVERY = 0.25
"""Seconds between two moves of the bar: a thousand workers tell more often than anybody looks."""
_OF_NOBODY = frozenset(("resume", "workers", "cluster", "scratch", "quiet", "log", "no_settings"))
"""settings that are of a run, and not of what is hauled"""


Events = Generator[HaulEvent, None, None]


def haul(given: Given, out: Out, log: Log) -> bool:
    """Haul a list, or go on with a haul; return whether every picture came. Raises PickCrateError."""
    check_extra()
    crew = _crew(given)
    store, known = _store(given)
    with _view(out) as view:
        if known is None:
            crew.check()
            for event in _shown(_ordered(given, store), view, log):
                if isinstance(event, SplitDone):
                    _tell_split(event.split, out)
            known = ordered(store)
        tally = _Tally(known)
        for event in _shown(conduct(store, known, crew), view, log):
            tally.note(event)
    _tell_end(tally, store, out)
    if tally.is_complete and not tally.sum("pictures"):
        raise NothingPickedError("no picture is left: none of the rows is what was asked for")
    return tally.is_complete


def _store(given: Given) -> tuple[Store, Haul | None]:
    """Return the store, and the haul that it holds if that is to be gone on with. Raises UsageError."""
    if given["resume"] is not None:
        typed = [name for name in given.typed if name not in _OF_NOBODY and name != "sources"]
        if given["sources"] or typed:
            what = ", ".join(["a list"] * bool(given["sources"]) + given.options(*typed))
            hint = "leave it out; only --workers, --cluster and --scratch may be others than before"
            raise UsageError(f"what is hauled stands in the store: {what} cannot apply", hint=hint)
        store = open_store(_whole(given["resume"]))
        return store, _understood(store, ordered(store))
    if not given["sources"] or given["to"] is None:
        what = "no list is named" if not given["sources"] else "no store is named"
        raise UsageError(what, hint="pickcrate haul LIST --to STORE, or pickcrate haul --resume STORE")
    made, _ = make_order(tuple(given["sources"]), given.settings)
    if any(pattern.numbers_all for pattern in (*made.names, *made.shelf)):
        hint = "names begin with the number of the row in the list: leave {n} out"
        raise UsageError("--name with {n}: a picture's number would depend on how the list is split", hint=hint)
    store = open_store(_whole(given["to"]))
    known = read_haul(store)
    ordered_now = tuple(map(without_userinfo, _sources(given))), _kept(given), given["fingerprints"]
    if known is not None and (known.sources, known.settings, known.has_fingerprints) != ordered_now:
        hint = f"go on with that: pickcrate haul --resume {store.address}; or name another folder of the store"
        raise UsageError(f"{store.address} holds another haul", hint=hint)
    return store, known


def _understood(store: Store, known: Haul) -> Haul:
    """Return a haul whose settings make an order; StoreError if they do not: the store may come from a stranger."""
    try:
        make_order((), known.given)
    except (UsageError, KeyError, TypeError, ValueError) as error:
        said = error.message if isinstance(error, UsageError) else f"there is no setting {error}"
        hint = "the store was altered, or is of a newer Pick Crate"
        raise StoreError(f"{store.address}/{HAUL}: {said}", hint=hint) from error
    return known


def _whole(address: str) -> str:
    """Return the address of a store, or the whole path of a folder: workers may be in another one."""
    return address if scheme(address) else str(without_tilde(address).resolve())


def _sources(given: Given) -> tuple[str, ...]:
    return tuple(one if scheme(one) else str(without_tilde(one).absolute()) for one in given["sources"])


def _kept(given: Given) -> dict[str, Any]:
    """Return the settings that are not as they would be anyway, as the store keeps them."""
    known = of_command(given.command)
    told = given.settings.items()
    differing = {name: value for name, value in told if value not in (None, (), [], known[name].default)}
    kept = {name: value for name, value in differing.items() if known[name].group is not Group.HAUL}
    return {name: list(value) if isinstance(value, tuple) else value for name, value in kept.items()}


def _ordered(given: Given, store: Store) -> Events:
    chosen = dict(make_order((), given.settings)[0].columns)
    shard = values({"shard": given["shard"]})["haul"]["shard"]
    scratch = str(given["scratch"]) if given["scratch"] is not None else ""
    earlier = tuple(map(_whole, given["earlier"] or ()))
    form = Form(given["load"], shard, given["fingerprints"], scratch, earlier)
    yield from order(store, _sources(given), _kept(given), chosen, form)


def _crew(given: Given) -> Crew:
    if given["workers"] is not None and given["cluster"] is not None:
        raise UsageError("--workers starts some here, and --cluster has its own", hint="leave one of them out")
    scratch = str(given["scratch"].absolute()) if given["scratch"] is not None else ""
    workers = given["workers"] or min(MOST_WORKERS, os.cpu_count() or 1)
    return Crew(workers, given["cluster"] or "", scratch)


class _Tally(Struct):
    """What a haul came to so far, all of its runs together."""

    haul: Haul
    receipts: dict[int, Receipt] = field(default_factory=dict)
    given_up: dict[int, str] = field(default_factory=dict)
    before: int = 0
    """loads that earlier runs have packed"""

    def note(self, event: HaulEvent) -> None:
        """Take down an event."""
        match event:
            case Begun(_, known):
                self.receipts |= {receipt.load: receipt for receipt in known}
                self.before = len(known)
            case LoadDone(receipt):
                self.receipts[receipt.load] = receipt
            case LoadFailed(load, words, True):
                self.given_up[load] = words
            case _:
                pass

    def sum(self, name: str) -> int:
        """Return the sum of a number of all receipts."""
        return sum(getattr(receipt, name) for receipt in self.receipts.values())

    @property
    def is_complete(self) -> bool:
        """Whether every load is packed, and every row of it came or was left out."""
        is_all = len(self.receipts) == self.haul.loads
        return is_all and not self.sum("failed") and not self.sum("refused")


class _View(Protocol):
    """What shows the events of a haul as they come."""

    def show(self, event: HaulEvent) -> None:
        """Show one event."""


class _Lines:
    """A line a load: for files, pipes and people who scroll."""

    def __init__(self, out: Out) -> None:
        self._out = out
        self._loads = 0
        self._had_workers = True

    def show(self, event: HaulEvent) -> None:
        """Print what became of a load."""
        match event:
            case Begun(haul, known, workers, is_own):
                self._loads = haul.loads
                _tell_begun(haul, known, workers, self._out, is_own=is_own)
            case LoadDone(receipt):
                self._out.line(*_load_line(receipt, self._loads))
            case LoadFailed(load, words, is_given_up):
                then = "it is left for a later run" if is_given_up else "it is tried again"
                self._out.line((f"load {load + 1:,} ", "red"), shown(words), (f"  ({then})", "dim"))
            case Waiting(loads, workers):
                if not workers and self._had_workers:
                    self._out.line(("no worker is there: ", "yellow"), f"{count(loads, 'load')} waiting for one")
                self._had_workers = bool(workers)
            case _:
                pass


class _Bar:
    """One bar of rows for the whole haul, with what came and what is in trouble; what ends loads stands above it."""

    def __init__(self, out: Out) -> None:
        from rich.live import Live  # noqa: PLC0415 (only a terminal needs it)

        self._lines = _Lines(out)
        self._bars = bars(out)
        self._live = Live(self._bars, console=out.console, transient=True, refresh_per_second=4)
        self._bar = self._bars.add_task("reading the list", total=None, traffic="rows")
        self._reports: dict[int, Report] = {}
        self._rows, self._bytes, self._failed = 0, 0, 0
        self._done, self._loads = 0, 0
        self._began_at = time.monotonic()
        self._sites: Counter[str] = Counter()
        self._worst = ""
        """the site with the most failures"""
        self._moved_at = 0.0

    @contextmanager
    def live(self) -> Iterator[None]:
        """Keep the bar on the screen."""
        with self._live:
            yield

    def show(self, event: HaulEvent) -> None:
        """Move the bar, or print above it."""
        match event:
            case Read(rows, is_second):
                what = "splitting it" if is_second else "reading the list"
                self._bars.update(self._bar, description=what, completed=rows)
                return
            case Begun(haul, known):
                self._rows = sum(receipt.rows for receipt in known)
                self._began_at = time.monotonic()
                self._done, self._loads = len(known), haul.loads
                self._bars.reset(self._bar, total=haul.rows - haul.passed_over, completed=self._rows)
            case Report(load):
                self._reports[load] = event
            case LoadDone(receipt):
                self._reports.pop(receipt.load, None)
                self._done += 1
                self._rows += receipt.rows
                self._bytes += receipt.bytes
                self._failed += receipt.failed
                self._sites.update(receipt.sites)
                self._worst = max((self._worst, *receipt.sites), key=self._sites.__getitem__)
            case _:
                pass
        self._lines.show(event)
        if isinstance(event, Begun | LoadDone) or time.monotonic() - self._moved_at >= _MOVE_EVERY:
            self._move()

    def _move(self) -> None:
        self._moved_at = time.monotonic()
        under_way = self._reports.values()
        octets = self._bytes + sum(report.bytes for report in under_way)
        failed = self._failed + sum(report.failed for report in under_way)
        counted = ((number + self._sites[site], site) for report in under_way for site, number in report.sites)
        _, worst = max(((self._sites[self._worst], self._worst), *counted))
        seconds = max(0.1, time.monotonic() - self._began_at)
        said = [f"{size(octets)}  {size(octets / seconds)}/s"]
        said += [f"{failed:,} failed"] if failed else []
        said += [f"most at {shown(worst)}"] if worst else []
        rows = self._rows + sum(report.done for report in under_way)
        loads = f"{self._done:,} of {count(self._loads, 'load')}"
        self._bars.update(self._bar, description=loads, completed=rows, traffic=" · ".join(said))


@contextmanager
def _view(out: Out) -> Iterator[_View]:
    if not out.is_terminal or out.quiet:
        yield _Lines(out)
        return
    bar = _Bar(out)
    with bar.live():
        yield bar


def _shown(events: Events, view: _View, log: Log) -> Iterator[HaulEvent]:
    """Yield events, each shown and written down; who leaves ends the haul in order."""
    with closing(events):
        for event in events:
            view.show(event)
            _note(log, event)
            yield event


def _note(log: Log, event: HaulEvent) -> None:
    match event:
        case SplitDone(split):
            log.write("split", f"{split.rows} rows", f"{split.loads} loads")
        case LoadDone(receipt):
            counts = f"{receipt.pictures} pictures", f"{receipt.failed} failed", f"{receipt.bytes} bytes"
            log.write("load", str(receipt.load + 1), *counts, f"{receipt.seconds} s")
        case LoadFailed(load, words, is_given_up):
            log.write("load failed", str(load + 1), words, "given up" if is_given_up else "")
        case _:
            pass


def _tell_split(split: Split, out: Out) -> None:
    chained = ", some of them one site's, one after another" if split.chains else ""
    out.line(f"{count(split.rows - split.passed_over, 'row')} in {count(split.loads, 'load')}{chained}")
    if split.passed_over:
        out.line((f"  {count(split.passed_over, 'row')} besides that earlier hauls hold", "cyan"))
    if split.guessed:
        out.line((f"  {shown(split.guessed)} (--column says otherwise)", "dim"))
    for path, number in split.unread.items():
        out.line((f"  {shown(path)}: {count(number, 'row')} cannot be read", "yellow"))


def _tell_begun(haul: Haul, known: tuple[Receipt, ...], workers: int, out: Out, *, is_own: bool) -> None:
    if known:
        out.line((f"goes on: {len(known):,} of {count(haul.loads, 'load')} packed already", "cyan"))
    if workers or len(known) < haul.loads:
        out.line((f"{count(workers, 'worker')} {'of this machine' if is_own else 'of the cluster'}", "dim"))


def _load_line(receipt: Receipt, loads: int) -> list[tuple[str, str]]:
    facts = [f"{count(receipt.pictures, 'picture')}", size(receipt.bytes)]
    facts += [f"{receipt.same:,} the same address"] if receipt.same else []
    facts += [f"{receipt.left_out:,} left out"] if receipt.left_out else []
    facts += [f"{receipt.failed:,} failed"] if receipt.failed else []
    facts += [f"{receipt.refused:,} without an address"] if receipt.refused else []
    said = f"  {receipt.seconds:,.0f} s, {count(len(receipt.shards), 'shard')}"
    return [("packed  ", "green"), (f"load {receipt.load + 1:,} of {loads:,}: {' · '.join(facts)}", ""), (said, "dim")]


def _tell_end(tally: _Tally, store: Store, out: Out) -> None:
    """Print what a haul came to, what failed and why, and what to do next."""
    found, rest = tally.receipts.values(), tally.haul.loads - len(tally.receipts)
    shards = sum(len(receipt.shards) for receipt in found)
    parts = [f"{count(tally.sum('pictures'), 'picture')} in {count(shards, 'shard')} ({size(tally.sum('bytes'))})"]
    parts += [f"{count(same, 'row')} with the address of another"] if (same := tally.sum("same")) else []
    for name, words in (("left_out", "left out"), ("failed", "failed")):
        parts += [f"{tally.sum(name):,} {words}"] if tally.sum(name) else []
    parts += [f"{count(refused, 'row')} without a web address"] if (refused := tally.sum("refused")) else []
    out.line((" · ".join(parts), "bold"))
    for name, words in (("reasons", "failed: "), ("sites", "most of them at: ")):
        counted: Counter[str] = Counter()
        for receipt in found:
            counted.update(getattr(receipt, name))
        if counted:
            told = (f"{number:,} × {shown(what or 'no site')}" for what, number in counted.most_common(_MOST_TOLD))
            out.line((words, "red"), "; ".join(told))
    where = _where(store)
    if rest:
        out.line((f"{count(rest, 'load')} of {tally.haul.loads:,} not packed: ", "red"), _line("--resume", where))
    elif tally.sum("failed"):
        again = _line(as_operand(f"{where}/{FAILED}"), "--to", f"{where}-again")
        out.line((f"what failed is a list for another haul: {again}", "cyan"))
    out.line("store: ", (shown(where), "bold"))


def _where(store: Store) -> str:
    """Return where a store is: of a folder below this one the path from here."""
    if scheme(store.address):
        return without_userinfo(store.address)
    path = Path(store.address)
    return str(path.relative_to(Path.cwd())) if path.is_relative_to(Path.cwd()) else str(path)


def _line(*words: str) -> str:
    made = command_line(("pickcrate", "haul", *words))
    return harmless(made) if made else shown(" ".join(words))
