"""The whole program from Python: what the commands do, with settings as keywords and results to work on.

Every result is a sequence of values that shows itself as a gallery in a notebook, and becomes a data frame or a file.
"""

import io
import sys
import warnings
from collections.abc import Callable, Generator, Iterable, Iterator, Mapping
from contextlib import closing
from datetime import date
from functools import cached_property
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any, Generic, TypeVar, cast, overload

from pickcrate.comparison import Comparison, Difference
from pickcrate.errors import PickCrateError, UsageError
from pickcrate.fetch.brought import Brought
from pickcrate.orders.keywords import naming_keywords, ordered
from pickcrate.orders.order import Destination, Order
from pickcrate.orders.setting import Command
from pickcrate.orders.settings import CRATES
from pickcrate.run import doors
from pickcrate.run.auditing import Audited, audit as audited, crate_or_source, locate
from pickcrate.run.events import (
    CrateOpened,
    Found,
    LookEvent,
    PackEvent,
    PageRead,
    RowRefused,
    Settled,
    SinceLast,
    SourceFailed,
    Withdrawn,
)
from pickcrate.values.image import Image
from pickcrate.values.outcome import Ending, Outcome

if TYPE_CHECKING:
    import pandas as pd

    from pickcrate.crate.inspection import Discrepancy
    from pickcrate.sheets.tile import Tile

T = TypeVar("T")
E = TypeVar("E")

Source = str | Path | bytes | IO[Any]
"""An address or a path; the bytes of a page, a list or whatever else is a source; or an open file of such."""

_MOST_IN_GALLERY = 48
_WHOLE_NUMBERS = frozenset(("number", "width", "height", "bytes", "shown_width", "shown_height"))
"""columns of numbers that may be missing, which a frame would have as floats else"""


class PickCrateWarning(UserWarning):
    """A source of several that could not be read, or a row of a list that is no picture's."""


class _Results(Generic[T]):
    """A sequence of values, and how they are shown and kept. Not a ``Sequence``: data frames take those apart."""

    def __init__(self, values: Iterable[T]) -> None:
        self._values = tuple(values)

    def __len__(self) -> int:
        return len(self._values)

    def __iter__(self) -> Iterator[T]:
        return iter(self._values)

    @overload
    def __getitem__(self, place: int) -> T: ...
    @overload
    def __getitem__(self, place: slice) -> tuple[T, ...]: ...
    def __getitem__(self, place: int | slice) -> T | tuple[T, ...]:
        return self._values[place]

    def rows(self) -> list[dict[str, Any]]:
        """Return a dictionary for each, with the columns that the command line's lists have."""
        raise NotImplementedError

    def to_pandas(self) -> "pd.DataFrame":
        """Return a data frame with a row for each. Raises UsageError without pandas."""
        try:
            import pandas as pd  # noqa: PLC0415
        except ModuleNotFoundError:
            raise UsageError("data frames need pandas", hint="pip install 'pickcrate[pandas]'") from None
        frame = pd.DataFrame(self.rows())
        whole = {name: "Int64" for name in frame.columns if name.removeprefix("old_") in _WHOLE_NUMBERS}
        return frame.astype(whole)

    def __arrow_c_stream__(self, requested_schema: object = None) -> object:
        """Return the rows as a stream of Arrow's (C stream interface, PyCapsule), as polars and DuckDB ask for them."""
        try:
            import pyarrow as pa  # type: ignore[import-untyped]  # noqa: PLC0415
        except ModuleNotFoundError:
            raise UsageError("Arrow tables need pyarrow", hint="pip install pyarrow") from None
        from pickcrate.record import to_json  # noqa: PLC0415

        rows = [{k: to_json(v) if isinstance(v, list | dict) else v for k, v in row.items()} for row in self.rows()]
        return pa.Table.from_pylist(rows).__arrow_c_stream__(requested_schema)

    def save(self, path: str | Path) -> Path:
        """Write the rows to a ``.csv`` or ``.jsonl`` file, or their addresses to a ``.txt``; return its path."""
        from pickcrate.cli.lists import saving  # noqa: PLC0415

        rows = self.rows()
        with naming_keywords(), saving(Path(path), tuple(rows[0]) if rows else None) as write:
            for row in rows:
                assert write is not None  # noqa: S101 (there is a path)
                write(row)
        return Path(path)

    def _tiles(self) -> "list[Tile]":
        return []

    @cached_property
    def _shown(self) -> str:
        from pickcrate.cli.gallery import gallery  # noqa: PLC0415 (only a notebook shows one)

        return gallery(repr(self), self._tiles(), len(self))

    def _repr_mimebundle_(self, **_: object) -> dict[str, str]:
        """Return what a notebook shows: previews with their names and sizes, all in the page itself."""
        return {"text/plain": repr(self), "text/html": self._shown}


class Pictures(_Results[Image]):
    """The pictures of a look that meet its criteria, in the order of the page."""

    def __init__(self, events: list[LookEvent], tiles: "Callable[[list[Found]], list[Tile]]") -> None:
        self._found = [event for event in events if isinstance(event, Found) and event.image.is_picked]
        super().__init__(event.image for event in self._found)
        self.dropped = tuple(e.image for e in events if isinstance(e, Found) and not e.image.is_picked)
        """those that a criterion dropped; their verdicts say which"""
        self.pages = tuple(event for event in events if isinstance(event, PageRead))
        self.failures = tuple(event for event in events if isinstance(event, SourceFailed | RowRefused))
        """sources, and rows of lists, that could not be read"""
        self._preview = tiles

    def __repr__(self) -> str:
        dropped = f", {len(self.dropped)} dropped" if self.dropped else ""
        failed = f", {len(self.failures)} sources or rows failed" if self.failures else ""
        return f"<{_count(len(self), 'picture')}{dropped}{failed}>"

    def rows(self) -> list[dict[str, Any]]:
        """Return a dictionary for each picture: one row of a pick list."""
        from pickcrate.record import image_row  # noqa: PLC0415

        return [image_row(event.image, event.name) for event in self._found]

    def _tiles(self) -> "list[Tile]":
        return self._preview(self._found[:_MOST_IN_GALLERY])


class Packed(_Results[Outcome]):
    """What became of each picture of a pack, in the order of the pictures, and the crate that they are in."""

    def __init__(self, outcomes: Iterable[Outcome], crate: Path | None, events: "list[PackEvent]") -> None:
        super().__init__(outcomes)
        self.crate = crate
        """its folder; None if no picture was there to put into one"""
        self.failures = tuple(event for event in events if isinstance(event, SourceFailed | RowRefused))
        self.since = next((event for event in events if isinstance(event, SinceLast)), None)
        """what changed since the last run into this crate; None if this is the first"""

    @property
    def failed(self) -> tuple[Outcome, ...]:
        """Pictures that could not be had, each with its error."""
        return tuple(outcome for outcome in self if outcome.ending is Ending.FAILED)

    @property
    def files(self) -> tuple[Path, ...]:
        """The files of the pictures that are in the crate, each once."""
        if self.crate is None:
            return ()
        names = dict.fromkeys(outcome.file for outcome in self if outcome.file)
        return tuple(self.crate / name for name in names)

    def __repr__(self) -> str:
        counts = [(sum(outcome.ending is ending for outcome in self), ending.value) for ending in Ending]
        said = ", ".join(f"{number} {what}" for number, what in counts if number) or "no pictures"
        return f"<{said}{f' in {self.crate}' if self.crate is not None else ''}>"

    def rows(self) -> list[dict[str, Any]]:
        """Return a dictionary for each picture, with what became of it."""
        from pickcrate.record import outcome_row  # noqa: PLC0415

        return [dict(outcome_row(outcome)) for outcome in self]

    def _tiles(self) -> "list[Tile]":
        from pickcrate.run.previewing import preview_files  # noqa: PLC0415

        there = [outcome for outcome in self if outcome.file]
        return preview_files(self.crate, there[:_MOST_IN_GALLERY]) if self.crate is not None else []


class Changes(_Results[Difference]):
    """What came, went and changed between two collections of pictures; how many are the same is ``same``.

    ``passed_over`` is how many look like furniture on a page and are left out, since the crate has none.
    """

    def __init__(self, found: Comparison, write_page: Callable[[Path], None], failures: list[LookEvent]) -> None:
        super().__init__(found.differences)
        self.same = found.same
        self.passed_over = found.passed_over
        self.failures = tuple(failures)
        self._write_page = write_page

    def __repr__(self) -> str:
        from pickcrate.cli.comparing import counted  # noqa: PLC0415

        return f"<{counted(Comparison(tuple(self), self.same, self.passed_over))}>"

    def rows(self) -> list[dict[str, Any]]:
        """Return a dictionary for each difference, with both sides in it."""
        from pickcrate.cli.comparing import row  # noqa: PLC0415

        return [row(difference) for difference in self]

    def save(self, path: str | Path) -> Path:
        """Write the rows to a ``.csv`` or ``.jsonl``, or a page with both sides to an ``.html``; return its path."""
        from pickcrate.cli.sheets import PAGES  # noqa: PLC0415

        if Path(path).suffix.lower() not in PAGES:
            return super().save(path)
        with naming_keywords():
            self._write_page(Path(path))
        return Path(path)


class Findings(_Results["Discrepancy"]):
    """What an audit found wrong with the files of a crate; empty if all are as they were fetched."""

    def __init__(self, found: "Iterable[Discrepancy]", files: int) -> None:
        super().__init__(found)
        self.files = files
        """how many files the ledger knows of"""

    def __repr__(self) -> str:
        return f"<{_count(self.files, 'file')} looked at, {len(self)} not as fetched>"

    def rows(self) -> list[dict[str, Any]]:
        """Return a dictionary for each finding."""
        return [{"trouble": one.trouble.value, "file": one.file, "words": one.words} for one in self]


def look(sources: tuple[Source, ...], settings: Mapping[str, Any], on_event: Callable[[Any], None] | None) -> Pictures:
    """Return the pictures of ``sources``; see ``pickcrate.look``."""
    with naming_keywords():
        order, _ = _order(Command.LOOK, sources, settings)
        brought = Brought(order.root)
        events = _gathered(order, doors.look(order, brought=brought), on_event)
    return Pictures(events, lambda found: doors.tiles(order, brought, found))


def pack(sources: tuple[Source, ...], settings: Mapping[str, Any], on_event: Callable[[Any], None] | None) -> Packed:
    """Fetch the pictures of ``sources`` into a crate; see ``pickcrate.pack``."""
    outcomes: dict[int, list[Outcome]] = {}
    with naming_keywords():
        order, destination = _order(Command.PACK, sources, settings)
        events = _gathered(order, doors.pack(order, destination), on_event)
    for event in events:
        if isinstance(event, Settled):
            outcomes.setdefault(event.outcome.image.number, []).append(event.outcome)
        elif isinstance(event, Withdrawn):
            outcomes.pop(event.outcome.image.number, None)
    crate = next((event.path for event in events if isinstance(event, CrateOpened)), None)
    in_order = (outcome for number in sorted(outcomes) for outcome in outcomes[number])  # a failure may come first
    return Packed(in_order, crate, events)


def compare(old: str | Path, new: str | Path | None, since: str | date | None, settings: Mapping[str, Any]) -> Changes:
    """Return what changed between two crates, lists or pages; see ``pickcrate.compare``."""
    from pickcrate.cli import comparing  # noqa: PLC0415
    from pickcrate.cli.terminal import Out  # noqa: PLC0415

    named = [str(old), *([str(new)] if new is not None else [])]
    with naming_keywords():
        order, _ = _order(Command.COMPARE, tuple(named), {k: v for k, v in settings.items() if k != "into"})
        between = comparing.sides(named, str(since) if since is not None else None, Path(settings.get("into", CRATES)))
        events = _gathered(order, doors.compare(order, between), None)
    found = next((event for event in events if isinstance(event, Comparison)), Comparison((), 0))

    def write_page(path: Path) -> None:
        comparing.check(path)
        heading = comparing.heading(between, found, order.today)
        pairs = doors.pairs(order, between, found.differences)
        comparing.write(path, heading, pairs, Out(io.StringIO(), quiet=True))

    return Changes(found, write_page, [event for event in events if isinstance(event, SourceFailed | RowRefused)])


def audit(crate: str | Path, into: str | Path) -> Findings:
    """Return what is wrong with the files of a crate or a store; see ``pickcrate.audit``."""
    from pickcrate.crate.inspection import Discrepancy  # noqa: PLC0415
    from pickcrate.haul.auditing import StoreAudited, audit as store_audited  # noqa: PLC0415
    from pickcrate.stores.hauled import hauled_at, is_haul  # noqa: PLC0415

    named = str(crate)
    events = store_audited(hauled_at(named)) if is_haul(named) else audited(locate(named, Path(into)))
    found: list[Discrepancy] = []
    files = 0
    for event in events:
        match event:
            case Discrepancy():
                found.append(event)
            case StoreAudited():
                files = event.pictures
            case Audited():
                files = event.files
    return Findings(found, files)


def sheet(sources: tuple[Source, ...], out: Path, settings: Mapping[str, Any]) -> Path:
    """Write a contact sheet; see ``pickcrate.sheets``."""
    from pickcrate.cli import sheets  # noqa: PLC0415
    from pickcrate.run.previewing import preview_crate  # noqa: PLC0415
    from pickcrate.sheets.page import Heading  # noqa: PLC0415
    from pickcrate.sheets.tile import Tile  # noqa: PLC0415

    with naming_keywords():
        sheets.check(out)
        order, destination = _order(Command.SHEET, sources, settings)
        is_named = len(sources) == 1 and isinstance(sources[0], str | Path)
        root = crate_or_source(str(sources[0]), destination.into) if is_named else None
        if root is not None:
            sheets.write(out, sheets.heading_of_crate(root, order.today), list(preview_crate(root)))
            return out
        events = _gathered(order, doors.sheet(order), None)
        title = next((event.title for event in events if isinstance(event, PageRead)), "")
        heading = Heading(title or "Contact sheet", ", ".join(order.sources), order.today)
        sheets.write(out, heading, [event for event in events if isinstance(event, Tile)])
    return out


def _order(command: Command, sources: tuple[Source, ...], settings: Mapping[str, Any]) -> tuple[Order, Destination]:
    """Return the order that sources and keywords make; what is no address and no path is handed over as it is."""
    named: list[str] = []
    handed: dict[str, IO[bytes]] = {}
    for place, source in enumerate(sources, 1):
        if isinstance(source, str | Path):
            named.append(str(source))
            continue
        if not isinstance(source, bytes | bytearray | memoryview) and not hasattr(source, "read"):
            hint = "it is a text, a path, bytes, or an open file; several are given one after the other"
            raise UsageError(f"source {place} is a {type(source).__name__}", hint=hint)
        name = f"source {place}"
        handed[name] = _as_file(source)
        named.append(name)
    return ordered(command, tuple(named), settings, handed)


def _as_file(source: Any) -> IO[bytes]:
    """Return the bytes of a source as an open file: of a text file what lies beneath it."""
    if isinstance(source, bytes | bytearray | memoryview):
        return io.BytesIO(source)
    if isinstance(source, io.TextIOBase):
        beneath: IO[bytes] | None = getattr(source, "buffer", None)
        return beneath if beneath is not None else io.BytesIO(source.read().encode())
    return cast("IO[bytes]", source)


def _gathered(order: Order, events: Generator[E, None, None], on_event: Callable[[E], None] | None) -> list[E]:
    """Return the events of a run, each told as it comes; what could not be read of several is a warning as well."""

    def run() -> list[E]:
        gathered: list[E] = []
        with closing(events):
            for event in events:
                if on_event is not None:
                    on_event(event)
                gathered.append(event)
        return gathered

    gathered = _beside_loop(run) if order.browsing.is_on and _has_loop() else run()
    for event in gathered:
        if isinstance(event, SourceFailed):
            warnings.warn(f"{event.source}: {event.error.message}", PickCrateWarning, stacklevel=5)
        elif isinstance(event, RowRefused):
            warnings.warn(f"{event.source}: {event.flaw.detail}", PickCrateWarning, stacklevel=5)
    return gathered


def _has_loop() -> bool:
    """Tell whether an event loop runs in this thread, as in a notebook: then who runs it has loaded asyncio."""
    asyncio: Any = sys.modules.get("asyncio")
    try:
        return asyncio is not None and asyncio.get_running_loop() is not None
    except RuntimeError:
        return False


def _beside_loop(call: Callable[[], list[E]]) -> list[E]:
    """Run something in a thread: what drives the browser refuses to run in a notebook's own event loop."""
    from concurrent.futures import ThreadPoolExecutor  # noqa: PLC0415

    with ThreadPoolExecutor(1) as thread:
        return thread.submit(call).result()


def _count(number: int, what: str) -> str:
    return f"{number:,} {what}{'' if number == 1 else 's'}"


__all__ = ["Changes", "Findings", "Packed", "PickCrateError", "PickCrateWarning", "Pictures", "Source"]
