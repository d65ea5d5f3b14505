"""The ledger: which files a crate holds, from where, since when. One SQLite file, one writer at a time.

A row is a picture that an order asked for, in the order in which names were given out. Its name is reserved before
the first byte is asked for and stays its own, whatever becomes of the download.
"""

import sqlite3
from collections.abc import Iterator
from dataclasses import MISSING, dataclass, fields, replace
from datetime import datetime
from operator import attrgetter
from pathlib import Path

from pickcrate.errors import CrateError
from pickcrate.name import key

HOLDER = "holder"
"""The file beside the ledger in which a run says that it has it."""

_SCHEMA_VERSION = 3
_SCHEMA = """
CREATE TABLE picture (
  seq INTEGER PRIMARY KEY,
  address TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  name_key TEXT NOT NULL UNIQUE,
  state TEXT NOT NULL CHECK (state IN ('reserved', 'held', 'left out', 'failed')),
  file TEXT, url TEXT, sha256 TEXT, bytes INTEGER, type TEXT, width INTEGER, height INTEGER,
  etag TEXT, last_modified TEXT, fetched_at TEXT,
  shown_url TEXT, page TEXT, alt TEXT, caption TEXT, credit TEXT, licence TEXT, evidence TEXT, error TEXT, tdm TEXT
);
CREATE INDEX picture_by_content ON picture (sha256) WHERE sha256 IS NOT NULL;
CREATE INDEX picture_by_file ON picture (file) WHERE file IS NOT NULL;
"""
_SINCE_3 = """
CREATE TABLE former_name (name_key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE former_version (
  file TEXT PRIMARY KEY, seq INTEGER NOT NULL REFERENCES picture, sha256 TEXT, fetched_at TEXT
) WITHOUT ROWID;
CREATE TABLE listed (everything INTEGER NOT NULL);
CREATE TABLE leaving (file TEXT PRIMARY KEY, sha256 TEXT NOT NULL) WITHOUT ROWID;
"""
_FROM_2 = "ALTER TABLE picture ADD COLUMN tdm TEXT;"


@dataclass(frozen=True, slots=True)
class Entry:
    """One row of the ledger. ``name`` is as spelled (see ``pickcrate.name``); times are UTC, ISO 8601."""

    seq: int
    address: str
    name: str
    state: str = "reserved"
    file: str = ""
    url: str = ""
    sha256: str = ""
    bytes: int | None = None
    type: str = ""
    width: int | None = None
    height: int | None = None
    etag: str = ""
    last_modified: str = ""
    fetched_at: str = ""
    shown_url: str = ""
    page: str = ""
    alt: str = ""
    caption: str = ""
    credit: str = ""
    licence: str = ""
    evidence: str = ""
    error: str = ""
    tdm: str = ""


_COLUMNS = tuple(field.name for field in fields(Entry))
_DEFAULTS = tuple(None if field.default is MISSING else field.default for field in fields(Entry))
_SELECT = f"SELECT {', '.join(_COLUMNS)} FROM picture"  # noqa: S608 (our own column names)
_UPDATE = f"UPDATE picture SET {', '.join(f'{c} = ?' for c in _COLUMNS[1:])} WHERE seq = ?"  # noqa: S608


class Ledger:
    """An open ledger. It holds the lock on its crate until it is closed."""

    def __init__(self, path: Path) -> None:
        """Open or make the ledger at ``path``; CrateError if it cannot be, or another run holds it."""
        # Rows wait to be written together: one statement for many costs a tenth of one each.
        self._unwritten: list[Entry] = []
        self._unwritten_contents: dict[str, Entry] = {}
        try:
            self._db = sqlite3.connect(path, isolation_level=None, timeout=0)
            self._db.execute("PRAGMA locking_mode = EXCLUSIVE")
            self._db.execute("PRAGMA journal_mode = WAL")
            # A killed process loses nothing; a lost power supply the last moments, which the next run fetches again.
            self._db.execute("PRAGMA synchronous = NORMAL")
            self._db.execute("BEGIN IMMEDIATE")
            self._prepare(path)
            self._db.execute("COMMIT")
            self.is_listed = self._db.execute("SELECT 1 FROM listed").fetchone() is not None
            """whether the crate's lists say all that the ledger does"""
            self.had_rows = self._db.execute("SELECT 1 FROM picture LIMIT 1").fetchone() is not None
            """whether a picture may well be known: then it is looked for before it is named"""
        except sqlite3.Error as error:
            raise _explained(error, path) from error

    def _prepare(self, path: Path) -> None:
        (version,) = self._db.execute("PRAGMA user_version").fetchone()
        if version in {0, 2}:
            script = (_FROM_2 if version else _SCHEMA) + _SINCE_3
            for statement in filter(str.strip, script.split(";")):
                self._db.execute(statement)
            self._db.execute(f"PRAGMA user_version = {_SCHEMA_VERSION}")
        elif version != _SCHEMA_VERSION:
            raise CrateError(
                f"the ledger {path} was written by another version of Pick Crate",
                hint="use that version, or another crate",
            )

    def find(self, address: str) -> Entry | None:
        """Return the row of the picture that was asked for at ``address``."""
        self._flush()
        row = self._db.execute(f"{_SELECT} WHERE address = ?", (address,)).fetchone()
        return _entry(row) if row else None

    def find_content(self, sha256: str) -> Entry | None:
        """Return the first row whose file has these bytes."""
        if (unwritten := self._unwritten_contents.get(sha256)) is not None:
            return unwritten
        row = self._db.execute(f"{_SELECT} WHERE sha256 = ? ORDER BY seq LIMIT 1", (sha256,)).fetchone()
        return _entry(row) if row else None

    def reserve(self, address: str, name: str) -> Entry | None:
        """Give ``name`` to the picture at ``address`` and return its new row.

        None if that picture has a row, or another has that name, in any case or normalisation.
        """
        self._begin()
        cursor = self._db.execute(
            "INSERT OR IGNORE INTO picture (address, name, name_key, state) SELECT ?1, ?2, ?3, 'reserved'"
            " WHERE NOT EXISTS (SELECT 1 FROM former_name WHERE name_key = ?3)",
            (address, name, key(name)),
        )
        return Entry(seq=cursor.lastrowid or 0, address=address, name=name) if cursor.rowcount else None

    def name_is_taken(self, name: str) -> bool:
        """Tell whether a spelled name is reserved, in any case or normalisation."""
        query = "SELECT 1 FROM picture WHERE name_key = ?1 UNION ALL SELECT 1 FROM former_name WHERE name_key = ?1"
        return self._db.execute(query, (key(name),)).fetchone() is not None

    def rename(self, entry: Entry, name: str) -> Entry:
        """Give a row another name. Nobody gets the old one: that would depend on which transfer ended first."""
        self._begin()
        self._db.execute("INSERT OR IGNORE INTO former_name VALUES (?)", (key(entry.name),))
        self._db.execute("UPDATE picture SET name = ?, name_key = ? WHERE seq = ?", (name, key(name), entry.seq))
        return replace(entry, name=name)

    def write(self, entry: Entry) -> None:
        """Write a row that was reserved before; it is in the file when it is committed."""
        if self.is_listed:
            self._set_listed(False)
        self._unwritten.append(entry)
        if entry.state == "held":
            self._unwritten_contents.setdefault(entry.sha256, entry)

    def _flush(self) -> None:
        if self._unwritten:
            self._begin()
            self._db.executemany(_UPDATE, map(_values, self._unwritten))
            self._unwritten.clear()
            self._unwritten_contents.clear()

    def commit(self) -> None:
        """Make all that was written so far survive the process."""
        self._flush()
        if self._db.in_transaction:
            self._db.execute("COMMIT")

    def held(self, columns: tuple[str, ...]) -> Iterator[tuple[object, ...]]:
        """Yield these columns of every held picture, in the order of names."""
        self._flush()
        yield from self._db.execute(
            f"SELECT {', '.join(columns)} FROM picture WHERE state = 'held' ORDER BY seq"  # noqa: S608 (column names)
        )

    def rows(self, state: str) -> Iterator[Entry]:
        """Yield the rows in a state, in the order of names."""
        self._flush()
        for row in self._db.execute(f"{_SELECT} WHERE state = ? ORDER BY seq", (state,)):
            yield _entry(row)

    def shares_file(self, entry: Entry) -> bool:
        """Tell whether the file of a row is that of another row as well."""
        self._flush()
        query = "SELECT 1 FROM picture WHERE file = ? AND seq <> ?"
        return self._db.execute(query, (entry.file, entry.seq)).fetchone() is not None

    def move(self, old: str, new: str, sha256: str) -> None:
        """Give every row whose file is ``old`` the file ``new``; the old one is to leave, even if we are killed."""
        self._flush()
        self._begin()
        self._db.execute("UPDATE picture SET file = ? WHERE file = ?", (new, old))
        self._set_listed(False)
        self.leave(old, sha256)

    def leave(self, file: str, sha256: str) -> None:
        """Note that a file is to be deleted."""
        self._begin()
        self._db.execute("INSERT OR REPLACE INTO leaving VALUES (?, ?)", (file, sha256))

    def mark_listed(self) -> None:
        """Note that the crate's lists were written, and that nothing has changed since."""
        self._flush()
        self._set_listed(True)
        self.commit()

    def _set_listed(self, everything: bool) -> None:
        self._begin()
        self._db.execute("DELETE FROM listed")
        if everything:
            self._db.execute("INSERT INTO listed VALUES (1)")
        self.is_listed = everything

    def leaving(self) -> list[tuple[str, str]]:
        """Return the files that are to be deleted, with their digests, and forget them."""
        self._begin()
        files = self._db.execute("SELECT file, sha256 FROM leaving").fetchall()
        self._db.execute("DELETE FROM leaving")
        return files

    def is_held(self, file: str) -> bool:
        """Tell whether a file is that of a picture."""
        return self._db.execute("SELECT 1 FROM picture WHERE file = ?", (file,)).fetchone() is not None

    def set_aside(self, entry: Entry, file: str) -> None:
        """Note that the version of a picture that its row describes is now in ``file``."""
        self._begin()
        row = (file, entry.seq, entry.sha256, entry.fetched_at)
        self._db.execute("INSERT OR REPLACE INTO former_version VALUES (?, ?, ?, ?)", row)

    def former_files(self) -> set[str]:
        """Return the files that hold older versions."""
        return {file for (file,) in self._db.execute("SELECT file FROM former_version")}

    def close(self) -> None:
        """Commit, and let go of the lock."""
        self.commit()
        self._db.close()

    def _begin(self) -> None:
        if not self._db.in_transaction:
            self._db.execute("BEGIN")


def _entry(row: tuple[object, ...]) -> Entry:
    known = [default if value is None else value for value, default in zip(row, _DEFAULTS, strict=True)]
    return Entry(*known)  # type: ignore[arg-type]


_values_of = attrgetter(*_COLUMNS[1:], "seq")


def _values(entry: Entry) -> list[object]:
    """Return a row's values as _UPDATE wants them; a blank text is stored as NULL."""
    return [None if value == "" else value for value in _values_of(entry)]


def _holder(path: Path) -> str:
    """Return who holds a ledger, as its run has written down; empty if it has not."""
    try:
        number, host, since = path.with_name(HOLDER).read_text(encoding="utf-8").split()
        clock = datetime.fromtimestamp(int(since)).astimezone().strftime("%H:%M")
    except (OSError, ValueError):
        return ""
    return f": process {number} on {host}, since {clock}"


def _explained(error: sqlite3.Error, path: Path) -> CrateError:
    if "locked" in str(error):
        return CrateError(
            f"another run is writing into this crate ({path.parent.parent}){_holder(path)}",
            hint="wait for it to end, or use another --crate",
        )
    if isinstance(error, sqlite3.DatabaseError) and "not a database" in str(error):
        return CrateError(f"{path} is no ledger", hint="move it away, or use another --crate")
    return CrateError(f"the ledger {path} cannot be written: {error}", hint="use another --crate or --into")
