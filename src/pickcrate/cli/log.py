"""``--log FILE``: a line an event with its time, for runs that nobody watches. Tab-separated, appended to."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import TextIO, TypeVar

from pickcrate.addresses.url import brief
from pickcrate.cli.text import shown
from pickcrate.errors import PickCrateError
from pickcrate.run.events import (
    Archived,
    CrateOpened,
    Moved,
    NextPagesRead,
    PageRead,
    RowRefused,
    Settled,
    SinceLast,
    SourceFailed,
    Withdrawn,
)

E = TypeVar("E")


@contextmanager
def logging_to(path: Path | None) -> Iterator["Log"]:
    """Open the log; PickCrateError if it cannot be written. Whatever ends the run stands in it."""
    if path is None:
        yield Log(None)
        return
    try:
        stream = path.open("a", encoding="utf-8", errors="replace", buffering=1)
    except OSError as error:
        raise PickCrateError(f"--log {path}: cannot be written: {(error.strerror or str(error)).lower()}") from error
    with stream:
        log = Log(stream)
        log.write("begun")
        try:
            yield log
        except PickCrateError as error:
            log.write("stopped", error.message)
            raise
        except KeyboardInterrupt:
            log.write("stopped", "interrupted")
            raise
        log.write("ended")


class Log:
    """A log, or none."""

    def __init__(self, stream: TextIO | None) -> None:
        self._stream = stream

    def write(self, what: str, *cells: str) -> None:
        """Write one line."""
        if self._stream is not None:
            now = datetime.now(UTC).isoformat(timespec="seconds")
            self._stream.write("\t".join((now, what, *map(shown, cells))).rstrip("\t") + "\n")

    def through(self, events: Iterable[E]) -> Iterator[E]:
        """Yield ``events``, each written down if it says what became of something."""
        if self._stream is None:
            yield from events
            return
        for event in events:
            self._note(event)
            yield event

    def _note(self, event: object) -> None:
        match event:
            case Settled(outcome):
                self.write(outcome.ending.value, outcome.file, brief(outcome.url), outcome.error)
            case PageRead():
                self.write("page", brief(event.address), event.title, f"{event.images:,} pictures")
                for flaw in event.flaws:
                    self.write("flaw", brief(event.address), flaw.detail)
            case RowRefused(source, flaw):
                self.write("row", source, flaw.detail)
            case NextPagesRead(source, pages, end):
                self.write("list", source, f"{pages} pages", end.name.lower())
            case SourceFailed(source, error):
                self.write("source failed", source, error.message)
            case SinceLast(new, changed, larger, gone):
                self.write("since the last run", f"{new} new", f"{changed} changed", f"{larger} larger", f"{gone} gone")
            case Withdrawn(outcome):
                self.write("withdrawn", outcome.file, brief(outcome.url))
            case Moved(old, new):
                self.write("moved", old, new)
            case CrateOpened(path) | Archived(path):
                self.write("crate" if isinstance(event, CrateOpened) else "archive", str(path))
            case _:
                pass
