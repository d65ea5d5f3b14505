"""A ledger that is read: while a run fills it, or from a disk that cannot be written."""

import shutil
import sqlite3
from collections.abc import Generator, Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Self

from pickcrate.crate.entry import COLUMNS, Entry, State, entry_of
from pickcrate.crate.lock import holder, is_held
from pickcrate.crate.moved import moved_files
from pickcrate.crate.places import Places
from pickcrate.crate.schema import KNOWN_VERSIONS, VERSION, upgrade
from pickcrate.errors import CrateError
from pickcrate.name import OWN_NAMES
from pickcrate.sqlite import SQLITE_ERRORS
from pickcrate.values.measures import Grade, Measure, Measures

_MEND = "bring it back from a copy, or move it away: the next pack makes one from crate.csv, and files stay as they are"
LISTED, ENDED = 1, 2
"""what the ledger says once its lists are written: that they are, and that the run came to its end"""

SELECT = f"SELECT {', '.join(COLUMNS)} FROM picture"  # noqa: S608 (our own column names)


class LedgerReader:
    """A ledger that is read, while a run fills it or from a disk that cannot be written. Nothing is written."""

    def __init__(self, database: sqlite3.Connection) -> None:
        self._db = database
        self.moved: dict[str, str] = {}
        """where files are that its owner has moved since, by their old names"""

    @classmethod
    @contextmanager
    def opened(cls, places: Places, *, for_files: bool = False) -> Iterator[Self]:
        """Open the ledger of a crate for reading; CrateError if it cannot be read, now or later.

        Who reads it ``for_files`` gets the names that they have now, also where the owner has moved them since.
        """
        places.check()
        refuse_empty(places)
        with told(places), ExitStack() as stack:
            database = stack.enter_context(closing(_connect_to_read(places, stack)))
            (version,) = database.execute("PRAGMA user_version").fetchone()
            refuse_others(version, places)
            if version != VERSION:
                database = stack.enter_context(closing(_upgraded_copy(database, version)))
            database.execute(f"{SELECT} LIMIT 1").fetchone()
            reader = cls(database)
            if for_files and (moved := reader.find_moved(places)):
                reader = cls(stack.enter_context(closing(_copied(database))))
                reader.note_moved(moved)
            yield reader

    def held(self, columns: tuple[str, ...]) -> Generator[tuple[object, ...], None, None]:
        """Yield these columns of every held picture, in the order of names."""
        yield from self._db.execute(
            f"SELECT {', '.join(columns)} FROM picture WHERE state = 'held' ORDER BY seq"  # noqa: S608 (column names)
        )

    def find(self, address: str) -> Entry | None:
        """Return the row of the picture that was asked for at ``address``."""
        row = self._db.execute(f"{SELECT} WHERE address = ?", (address,)).fetchone()
        return entry_of(row) if row else None

    def measured(self, address: str) -> Measures | None:
        """Return what a picture measures that was left out by its first bytes; None if that is not known."""
        query = "SELECT width, height, bytes, type FROM measured WHERE address = ?"
        found = self._db.execute(query, (address,)).fetchone()
        if found is None:
            return None
        *numbers, kind = found
        width, height, size = (Measure(one, Grade.PROBED) if isinstance(one, int) else None for one in numbers)
        return Measures(width, height, size, Measure(kind, Grade.PROBED) if isinstance(kind, str) else None)

    def thumbnails(self) -> dict[str, str]:
        """Return the addresses of held pictures that were shown smaller, by those of what was shown for one of them."""
        query = (
            "SELECT shown_url, min(address) FROM picture WHERE state = 'held' AND shown_url NOT IN (address, url)"
            " AND typeof(shown_url) = 'text' AND typeof(address) = 'text' GROUP BY shown_url HAVING count(*) = 1"
        )
        return dict(self._db.execute(query).fetchall())

    def rows(self, state: State) -> Iterator[Entry]:
        """Yield the rows in a state, in the order of names."""
        for row in self._db.execute(f"{SELECT} WHERE state = ? ORDER BY seq", (state,)):
            yield entry_of(row)

    def finished_pages(self) -> Iterator[tuple[str, str | None]]:
        """Yield the pages whose pictures are all there, or were left out, each with the address that an item has on it.

        That is None where several items have pictures there. A run that was stopped may not have come to the last
        pictures of a page: that page is not among them.
        """
        query = (
            "SELECT page, CASE WHEN count(DISTINCT item_url) = 1 THEN max(item_url) END FROM picture"
            " WHERE typeof(page) = 'text' GROUP BY page HAVING sum(state NOT IN ('held', 'left out')) = 0"
            " AND (max(seq) < (SELECT max(seq) FROM picture) OR ? IN (SELECT everything FROM listed))"
        )
        for page, item_url in self._db.execute(query, (ENDED,)):
            yield page, item_url if isinstance(item_url, str) else None

    def former(self) -> Iterator[tuple[int, str, str, str]]:
        """Yield of each older version its row's number, its file, its hash, and when it was fetched."""
        yield from self._db.execute(
            "SELECT seq, file, sha256, coalesce(fetched_at, '') FROM former_version ORDER BY seq"
        )

    def aside_files(self) -> set[str]:
        """Return the files that hold older versions, and those that are to leave when the crate is next written to."""
        query = "SELECT file FROM former_version UNION SELECT file FROM leaving"
        return {str(file) for (file,) in self._db.execute(query)}

    def is_held(self, file: str) -> bool:
        """Tell whether a file is that of a picture."""
        return self._db.execute("SELECT 1 FROM picture WHERE file = ?", (file,)).fetchone() is not None

    def find_moved(self, places: Places) -> dict[str, str]:
        """Return where the files are that are not in their places any more: the old name of each, and the new one."""
        query = (
            "SELECT DISTINCT file, bytes, sha256 FROM picture"
            " WHERE state = 'held' AND typeof(file) = 'text' AND typeof(bytes) = 'integer' AND typeof(sha256) = 'text'"
        )
        ours = {*OWN_NAMES, *self.aside_files()}
        return moved_files(places, self._db.execute(query), lambda file: file in ours or self.is_held(file))

    def note_moved(self, moved: dict[str, str]) -> None:
        """Note where files are now."""
        self.moved = moved
        self._db.executemany("UPDATE picture SET file = ? WHERE file = ?", ((new, old) for old, new in moved.items()))

    def copy_to(self, path: Path) -> None:
        """Copy the ledger, as it is now, to a new file."""
        with closing(sqlite3.connect(path)) as target:
            self._db.backup(target)


def _connect_to_read(places: Places, stack: ExitStack) -> sqlite3.Connection:
    """Return a connection that leaves no trace in the crate.

    Beside a run that writes, SQLite shares its files. Else the ledger is read as it lies there, or, where a run was
    killed and its last rows are still in the write-ahead log, in a copy.
    """
    path = places.ledger
    log = path.with_name(f"{path.name}-wal")
    address = f"{path.resolve().as_uri()}?mode=ro"
    if is_held(places.lock):
        return sqlite3.connect(address, uri=True, timeout=5)
    if not (log.exists() and log.stat().st_size):
        return sqlite3.connect(f"{address}&immutable=1", uri=True)
    folder = Path(stack.enter_context(TemporaryDirectory()))
    for file in (path, log):
        shutil.copyfile(file, folder / file.name)
    return sqlite3.connect(folder / path.name)


def _upgraded_copy(database: sqlite3.Connection, version: int) -> sqlite3.Connection:
    with ExitStack() as on_error:
        copy = on_error.enter_context(closing(_copied(database)))
        upgrade(copy, version)
        on_error.pop_all()
    return copy


def _copied(database: sqlite3.Connection) -> sqlite3.Connection:
    """Return a copy in memory, for what is to be changed for this reader alone."""
    with ExitStack() as on_error:
        copy = on_error.enter_context(closing(sqlite3.connect(":memory:", isolation_level=None)))
        database.backup(copy)
        on_error.pop_all()
    return copy


def refuse_empty(places: Places) -> None:
    """Raise CrateError if the ledger is a file without a byte: SQLite would take it for a new one."""
    if not places.ledger.stat().st_size:
        raise CrateError(f"the ledger {places.ledger} is empty: something has cut it off", hint=_MEND)


def refuse_others(version: int, places: Places) -> None:
    """Raise CrateError for a ledger of a version that is not known here."""
    if version not in KNOWN_VERSIONS:
        raise CrateError(
            f"the ledger {places.ledger} was written by another version of Pick Crate",
            hint="use that version, or another crate",
        )


@contextmanager
def told(places: Places) -> Iterator[None]:
    """Turn what SQLite or the disk says of a ledger into words and what to do."""
    try:
        yield
    except SQLITE_ERRORS as error:
        raise _explained(error, places) from error


def _explained(error: Exception, places: Places) -> CrateError:
    path, said = places.ledger, str(error).lower()
    if "locked" in said or "busy" in said:
        return in_use(places)
    if "full" in said:
        return CrateError(f"the disk is full: {places.root}", hint="make room and run the same line again")
    if "readonly" in said or "unable to open" in said or "permission" in said:
        return CrateError(f"the ledger {path} cannot be written: {error}", hint="use another --crate or --into")
    words = f"{path} is no ledger" if "not a database" in said else f"the ledger {path} is damaged: {error}"
    return CrateError(words, hint=_MEND)


def in_use(places: Places) -> CrateError:
    """Return what to tell a person whose crate another run has."""
    return CrateError(
        f"another run is writing into this crate ({places.root}){holder(places.lock)}",
        hint="wait for it to end, or use another --crate",
    )
