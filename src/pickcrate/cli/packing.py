"""What ``pack`` prints: a bar on a terminal, a line a picture elsewhere, and the end of the run in three lines."""

from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, nullcontext
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct, field

from pickcrate.addresses.url import brief
from pickcrate.cli.listing import PageLines, may_be_page, of_no_licence, print_funnel, print_may_be_pages
from pickcrate.cli.lists import data_stream, in_others, note, rows_to
from pickcrate.cli.looked import Looked
from pickcrate.cli.shell import as_operand, command_line
from pickcrate.cli.terminal import Out, Piece, bars, place
from pickcrate.cli.text import count, cut, harmless, shown, size
from pickcrate.cli.vain import Vain
from pickcrate.crate.places import FAILED, LIST
from pickcrate.errors import NothingPickedError
from pickcrate.orders.setting import Format
from pickcrate.orders.settings import CRATES
from pickcrate.read.lists.picklist import COLUMNS
from pickcrate.record import OUTCOME_COLUMNS, outcome_row
from pickcrate.run.events import (
    Archived,
    CrateOpened,
    Found,
    ItemPageRead,
    ItemPagesRead,
    ListOpened,
    Moved,
    NextPagesRead,
    PackEvent,
    PageRead,
    Progress,
    RowRefused,
    Settled,
    SinceLast,
    SourceFailed,
    Withdrawn,
)
from pickcrate.run.sources.opened import NOT_TRUSTED
from pickcrate.sift.criteria import licences_of
from pickcrate.sift.funnel import Funnel
from pickcrate.values.cause import Cause
from pickcrate.values.outcome import Ending, Outcome

if TYPE_CHECKING:
    from rich.console import Group

_MOST_REASONS = 3
_MOST_HINTS = 2
_MOST_IN_FLIGHT = 4
_SIGNS_IN = "some may be for signed-in visitors only: --browser --profile NAME --show-browser signs in, once"
_MORE_GENTLY = "the site was asked for too much at once: later, or with --per-site 1 --pause 2"
_NEXT = {
    Cause.PAGE: _SIGNS_IN,
    Cause.SITE: _MORE_GENTLY,
    Cause.SIZE: "--max-file SIZE takes larger ones",
    Cause.TIMEOUT: "--timeout S waits longer",
    Cause.CERTIFICATE: NOT_TRUSTED,
}
"""what to do next, by the cause of a failure"""
_NEXT_ON_STATUS = {
    401: _SIGNS_IN,
    403: "the server refuses this program: --browser takes what the page shows in yours",
    429: _MORE_GENTLY,
    503: _MORE_GENTLY,
}
_PACKING = "packing"


class Tally(Struct):
    """What a run came to, so far."""

    fetched: int = 0
    bytes: int = 0
    there: int = 0
    same: int = 0
    gone: int = 0
    reasons: Counter[str] = field(default_factory=Counter)
    """why pictures failed, and how many for each reason"""
    unread: int = 0
    """pages and other sources that could not be read"""
    unread_said: list[str] = field(default_factory=list)
    """which and why, of the first ones"""
    causes: Counter[tuple[Cause, int]] = field(default_factory=Counter)
    """causes of those failures, each with its HTTP status, or 0"""
    elsewhere: Counter[str] = field(default_factory=Counter)
    """other crates that hold pictures already, and how many of them"""
    left_out: Counter[str] = field(default_factory=Counter)
    """criteria that files turned out not to meet, and how many for each"""
    funnel: Funnel = field(default_factory=Funnel)
    into: Path = CRATES
    looked: Looked | None = None
    """what the pages said of themselves, for what to do where they show no pictures"""
    crate: Path | None = None
    unnamed: int = 0
    """those that failed, and are entries of a list whose addresses say nothing of an image"""
    unlicensed: int = 0
    """those that were fetched although their licence matters, and none is stated for them"""
    since: SinceLast | None = None
    """what changed since the last run, if there was one"""
    complete: bool = True
    """whether every source and every row could be read"""

    @property
    def done(self) -> int:
        """How many pictures are done with."""
        return self.fetched + self.there + self.elsewhere.total() + self.left_out.total() + self.failures

    @property
    def failures(self) -> int:
        """How many pictures failed."""
        return self.reasons.total()

    def note(self, event: PackEvent) -> None:
        """Count what an event says."""
        match event:
            case Found(image):
                self.funnel.add(image)
            case Settled(outcome):
                self.add(outcome)
            case Withdrawn(outcome):
                self.fetched -= 1
                self.bytes -= outcome.measures.bytes.value if outcome.measures.bytes else 0
            case CrateOpened(path):
                self.crate = path
            case PageRead() if self.looked is not None:
                self.looked.add_page(event)
            case ItemPagesRead() if self.looked is not None:
                self.looked.add_items(event)
            case SinceLast():
                self.since = event
            case SourceFailed(_, error):
                self.unread += 1
                if self.unread <= _MOST_REASONS:
                    self.unread_said.append(error.message)
            case _:
                pass

    @property
    def _asks_for_licences(self) -> bool:
        return self.looked is not None and bool(self.looked.order.criteria.licence)

    def add(self, outcome: Outcome) -> None:
        """Count one outcome."""
        match outcome.ending:
            case Ending.FETCHED:
                self.fetched += 1
                self.same += outcome.same_as_other
                self.bytes += outcome.measures.bytes.value if outcome.measures.bytes else 0
                self.unlicensed += self._asks_for_licences and not licences_of(outcome.image)
            case Ending.ALREADY_THERE:
                self.there += 1
                self.gone += bool(outcome.reason)
            case Ending.LEFT_OUT:
                self.left_out[outcome.left_out_by] += 1
            case Ending.ELSEWHERE:
                self.elsewhere[outcome.left_out_by] += 1
            case Ending.FAILED:
                self.reasons[outcome.reason] += 1
                if outcome.why is not None:
                    self.causes[outcome.why] += 1
                self.unnamed += may_be_page(outcome.image)


class View(Protocol):
    """What shows the events of a run as they come."""

    def show(self, event: PackEvent) -> None:
        """Show one event."""


class LineView:
    """A line a picture: for files, pipes and people who scroll."""

    def __init__(self, out: Out) -> None:
        self._out = out
        self._slowed: set[str] = set()

    def show(self, event: PackEvent) -> None:
        """Print the line of a picture that is done."""
        if self._out.quiet:
            return
        match event:
            case Settled(outcome):
                self._out.line(*outcome_line(outcome))
            case Progress(slowed=slowed) if slowed:
                print_slowed(self._out, slowed, self._slowed)
            case Withdrawn(outcome, why):
                self._out.line(("withdrawn ", "yellow"), shown(outcome.file), (f"  ({shown(why)})", "dim"))
            case Moved(old, new):
                said = "  (the same bytes, and first on the page)"
                self._out.line(("moved    ", "dim"), f"{shown(old)} → {shown(new)}", (said, "dim"))
            case _:
                pass


class BarView:
    """One bar for the whole run; failures as they happen, above it."""

    def __init__(self, out: Out) -> None:
        from rich.live import Live  # noqa: PLC0415 (only a terminal needs it)

        self._out = out
        self._pictures = bars(out)
        self._live = Live(self._pictures, console=out.console, transient=True, refresh_per_second=8)
        self._bar = self._pictures.add_task(_PACKING, total=None, traffic="")
        self._done = 0
        self._received = 0
        self._started_at = self._pictures.get_time()
        self._slowed: set[str] = set()

    @contextmanager
    def live(self) -> Iterator[None]:
        """Keep the bar on the screen."""
        with self._live:
            yield

    def show(self, event: PackEvent) -> None:
        """Move the bar, or print a failure above it."""
        match event:
            case Progress():
                seconds = max(0.1, self._pictures.get_time() - self._started_at)
                traffic = f"{size(event.received)}  {size(event.received / seconds)}/s"
                self._pictures.update(self._bar, total=event.wanted, traffic=traffic)
                self._live.update(self._with_flight(event.under_way))
                print_slowed(self._out, event.slowed, self._slowed)
            case ItemPageRead(done, of):
                self._pictures.update(self._bar, description=f"item {done:,} of {of:,}")
            case ItemPagesRead():
                self._pictures.update(self._bar, description=_PACKING)
            case Settled(outcome):
                self._pictures.advance(self._bar)
                if outcome.ending is Ending.FAILED:
                    self._out.line(*outcome_line(outcome))
            case _:
                pass

    def _with_flight(self, under_way: tuple[str, ...]) -> "Group":
        """Return the bar with a few of the files that are in flight below it."""
        from rich.console import Group  # noqa: PLC0415
        from rich.text import Text  # noqa: PLC0415

        width = max(20, self._out.width - 4)
        names = [cut(shown(brief(address)), width).rstrip() for address in under_way[:_MOST_IN_FLIGHT]]
        if len(under_way) > len(names):
            names.append(f"and {len(under_way) - len(names)} more")
        return Group(self._pictures, *(Text(f"  {name}", "dim") for name in names))


def print_slowed(out: Out, sites: Iterable[str], told: set[str]) -> None:
    """Print which sites are asked more slowly from now on, each once; they are noted in ``told``."""
    for site in sites:
        if site not in told:
            told.add(site)
            words = "it refuses what it is asked for so fast: from now on one at a time, and with a pause"
            out.line(("slower   ", "yellow"), shown(site), (f"  {words}", "dim"))


def outcome_line(outcome: Outcome) -> list[Piece]:
    """Return one outcome as a line, in pieces of text with their styles."""
    what = shown(outcome.file or brief(outcome.url))
    match outcome.ending:
        case Ending.FAILED:
            return [("failed   ", "red"), (what, ""), (f"  {shown(outcome.error)}", "dim")]
        case Ending.LEFT_OUT:
            return [("left out ", "yellow"), (what, ""), (f"  {shown(outcome.error)}", "dim")]
        case Ending.ELSEWHERE:
            return [("elsewhere ", "dim"), (what, ""), (f"  {shown(outcome.error)}", "dim")]
        case Ending.ALREADY_THERE:
            note = f"  {shown(outcome.error)}" if outcome.error else ""
            return [("there    ", "dim"), (what, ""), (note, "dim")]
        case Ending.FETCHED:
            measures = outcome.measures
            sides = [str(side.value) if side else "?" for side in (measures.width, measures.height)]
            weight = size(measures.bytes.value) if measures.bytes else ""
            said = ["the same bytes as another address" if outcome.same_as_other else shown(outcome.error)]
            said += ["without an end, as its server has it"] if outcome.is_unended else []
            note = f"  ({'; '.join(filter(None, said))})" if any(said) else ""
            return [("fetched  ", "green"), (what, ""), (f"  {'×'.join(sides)}  {weight}{note}", "dim")]


def _again(crate: Path, into: Path) -> str:
    """Return the line that tries again what failed, for the user's shell; else the list that it is in."""
    failed, name = str(crate / FAILED), crate.relative_to(into).as_posix()
    elsewhere = () if into == CRATES else ("--into", str(into))
    line = command_line(("pickcrate", "pack", as_operand(failed), "--crate", name, *elsewhere))
    return harmless(line) if line else shown(failed)


def _changes(since: SinceLast) -> str:
    """Return what changed since the last run, as ``3 new, 1 changed, 2 gone from the page``; empty if nothing did."""
    said = {
        "new": since.new,
        "changed": since.changed,
        "larger now": since.larger,
        "gone from the page": since.gone,
    }
    return ", ".join(f"{number:,} {what}" for what, number in said.items() if number)


def _print_failures(out: Out, tally: Tally) -> None:
    """Print why pictures failed, the most frequent reasons first."""
    told = [f"{number:,} × {shown(reason)}" for reason, number in tally.reasons.most_common(_MOST_REASONS)]
    more = tally.failures - sum(number for _, number in tally.reasons.most_common(_MOST_REASONS))
    out.line(("failed: ", "red"), "; ".join([*told, *([f"{more:,} for other reasons"] if more else [])]))
    causes = (why for why, _ in tally.causes.most_common())
    hints = dict.fromkeys(_NEXT_ON_STATUS.get(status) or _NEXT.get(cause) for cause, status in causes)
    for hint in islice(filter(None, hints), _MOST_HINTS):
        out.line((f"  → {hint}", "cyan"))
    if not tally.fetched + tally.there:
        print_may_be_pages(out, tally.unnamed, tally.failures)


def show_pack(events: Iterable[PackEvent], out: Out, form: Format, into: Path, looked: Looked | None = None) -> Tally:
    """Print what ``pack`` does in the folder of crates ``into``, and how it ended, even when it is interrupted.

    What its pages said is noted in ``looked``.
    """
    funnel = looked.totals.funnel if looked is not None else Funnel()
    tally, pages = Tally(into=into, looked=looked, funnel=funnel), PageLines(out)
    vain = Vain(looked.order, looked.typed) if looked is not None else Vain(None, ())
    archive: Path | None = None
    columns = (*COLUMNS, *OUTCOME_COLUMNS)
    data = rows_to(data_stream(), form, columns) if form is not Format.TABLE else None
    bar = BarView(out) if out.is_terminal and not out.quiet else None
    view: View = bar or LineView(out)
    try:
        with bar.live() if bar else nullcontext():
            for event in vain.through(events):
                tally.note(event)
                match event:
                    case Found():  # which are many, and show nothing
                        continue
                    case Settled(outcome):
                        if data:
                            data(outcome_row(outcome))
                    case Progress():
                        pass
                    case Archived(path):
                        archive = path
                    case PageRead():
                        pages.show(event)
                    case (
                        RowRefused() | SourceFailed() | ListOpened() | NextPagesRead() | ItemPagesRead() | CrateOpened()
                    ):
                        tally.complete &= note(event, out)
                    case _:
                        pass
                view.show(event)
    finally:
        if tally.funnel.found > tally.funnel.picked:
            print_funnel(out, tally.funnel)
        if tally.done:
            print_end(out, tally, archive)
    vain.print_to(out)
    tally.complete &= not tally.failures
    return tally


def _came_to(tally: Tally) -> Iterator[str]:
    """Yield what became of the pictures, a number each."""
    if tally.fetched or not (tally.there or tally.elsewhere):
        same = f"; {tally.same} with the bytes of another, stored once" if tally.same else ""
        yield f"{count(tally.fetched, 'picture')} fetched ({size(tally.bytes)}{same})"
    if tally.there:
        gone = f" ({tally.gone} of them moved or deleted since, left as they are)" if tally.gone else ""
        yield f"{tally.there:,} there already{gone}"
    if tally.elsewhere:
        yield in_others(tally.elsewhere)
    if tally.left_out:
        by = ", ".join(f"{number:,} by {name}" for name, number in tally.left_out.most_common())
        yield f"{tally.left_out.total():,} left out ({by})"
    if tally.failures:
        yield f"{tally.failures:,} failed"


def _print_unread(out: Out, tally: Tally) -> None:
    """Print which sources could not be read, and why, of the first ones."""
    more = tally.unread - len(tally.unread_said)
    told = "; ".join([*map(shown, tally.unread_said), *([f"{more:,} more"] if more else [])])
    out.line((f"{count(tally.unread, 'source')} could not be read: ", "red"), told)


def print_end(out: Out, tally: Tally, archive: Path | None = None) -> None:
    """Print what came, what was there, what failed and why, and where the crate is."""
    crate = tally.crate
    out.line((" · ".join(_came_to(tally)), "bold"))
    if tally.since is not None and (changes := _changes(tally.since)):
        out.line((f"since the last run: {changes}", "cyan"))
    if robots := tally.left_out["robots"]:
        words = f"robots are asked not to take {count(robots, 'picture')}"
        out.line((f"{words}: --no-robots takes {'it' if robots == 1 else 'them'} all the same", "cyan"))
    if unlicensed := of_no_licence(tally.unlicensed):
        out.line((unlicensed, "cyan"))
    if tally.reasons:
        _print_failures(out, tally)
    if tally.unread:
        _print_unread(out, tally)
    if crate is not None and (crate / FAILED).is_file():
        out.line((f"what failed is listed for another try: {_again(crate, tally.into)}", "cyan"))
    if crate is not None:
        out.line("crate: ", place(crate), (f"  (its list: {shown(str(crate / LIST))})", "dim"))
    if archive is not None:
        out.line("archive: ", place(archive))


def tell_if_nothing_came(out: Out, tally: Tally, looked: Looked) -> None:
    """Say that nothing is new; raise NothingPickedError if nothing came of a run that was to bring something."""
    if looked.has_nothing_new:
        out.line(("nothing new", "bold"))
        return
    if tally.funnel.found and not tally.funnel.picked:
        raise NothingPickedError("no picture is left", hint=looked.hint)
    if not tally.done:
        raise NothingPickedError("no pictures found: no crate was made or changed", hint=looked.hint)
    if set(tally.left_out) == {"robots"} and tally.done == tally.left_out.total():
        raise NothingPickedError("no picture is left: robots are asked not to take any of them")
    if tally.done == tally.left_out.total():
        raise NothingPickedError("no picture is left: none of the files is what was asked for")
