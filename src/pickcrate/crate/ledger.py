"""The ledger: which files a crate holds, from where, since when. One SQLite file; one writes, anybody may read.

A row is a picture that an order asked for, in the order in which names were given out. Its name is reserved before
the first byte is asked for and stays its own, whatever becomes of the download.
"""

import shutil
import sqlite3
from collections.abc import Generator, Iterable, Iterator
from contextlib import ExitStack, closing, contextmanager
from enum import StrEnum
from operator import attrgetter
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Self

from msgspec import NODEFAULT, Struct
from msgspec.structs import fields, replace

from pickcrate.crate.begun import Begun
from pickcrate.crate.lock import holder, is_held
from pickcrate.crate.places import Places
from pickcrate.errors import CrateError
from pickcrate.name import key


class State(StrEnum):
    """What became of the picture of a row."""

    RESERVED = "reserved"
    HELD = "held"
    LEFT_OUT = "left out"
    FAILED = "failed"


_SCHEMA_VERSION = 6
_SCHEMA = """
CREATE TABLE picture (
  seq INTEGER PRIMARY KEY,
  address TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  name_key TEXT NOT NULL UNIQUE,
  state TEXT NOT NULL CHECK (state IN ('reserved', 'held', 'left out', 'failed')),
  file TEXT, url TEXT, sha256 TEXT, bytes INTEGER, type TEXT, width INTEGER, height INTEGER,
  etag TEXT, last_modified TEXT, fetched_at TEXT,
  shown_url TEXT, page TEXT, alt TEXT, caption TEXT, credit TEXT, licence TEXT, evidence TEXT, error TEXT, tdm TEXT,
  sought TEXT, left_out_by TEXT, unended TEXT, item TEXT, item_url TEXT, columns TEXT,
  gone_at TEXT, licence_url TEXT, terms_url TEXT, credit_from TEXT, licence_from TEXT, terms_from TEXT,
  fingerprint TEXT
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
# What a version before 4 said in one text for people: why a larger one is sought, and what left a picture out.
_FROM_3 = """
ALTER TABLE picture ADD COLUMN sought TEXT;
ALTER TABLE picture ADD COLUMN left_out_by TEXT;
ALTER TABLE picture ADD COLUMN unended TEXT;
UPDATE picture SET sought = error, error = NULL WHERE state = 'held' AND error IS NOT NULL;
UPDATE picture SET left_out_by = substr(error, 1, instr(error, ':') - 1) WHERE state = 'left out' AND error LIKE '%:%';
"""
_FROM_4 = """
ALTER TABLE picture ADD COLUMN item TEXT;
ALTER TABLE picture ADD COLUMN item_url TEXT;
ALTER TABLE picture ADD COLUMN columns TEXT;
"""
# What a version before 6 had as the licence was mostly its address.
_FROM_5 = """
ALTER TABLE picture ADD COLUMN gone_at TEXT;
ALTER TABLE picture ADD COLUMN licence_url TEXT;
ALTER TABLE picture ADD COLUMN terms_url TEXT;
ALTER TABLE picture ADD COLUMN credit_from TEXT;
ALTER TABLE picture ADD COLUMN licence_from TEXT;
ALTER TABLE picture ADD COLUMN terms_from TEXT;
ALTER TABLE picture ADD COLUMN fingerprint TEXT;
UPDATE picture SET licence_url = licence, licence = NULL WHERE licence LIKE 'http%';
"""
_UPGRADES = {
    0: _SCHEMA + _SINCE_3,
    2: _FROM_2 + _SINCE_3 + _FROM_3 + _FROM_4 + _FROM_5,
    3: _FROM_3 + _FROM_4 + _FROM_5,
    4: _FROM_4 + _FROM_5,
    5: _FROM_5,
}


VERSION_MARK = "#sha256-"
"""between an address and the hash of the bytes that a source brought along for it"""


class Entry(Struct, frozen=True):
    """One row of the ledger. ``name`` is as spelled (see ``pickcrate.name``); times are UTC, ISO 8601."""

    seq: int
    address: str
    name: str
    state: str = State.RESERVED
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
    evidence: str = ""
    credit: str = ""
    licence: str = ""
    error: str = ""
    tdm: str = ""
    sought: str = ""
    """of a held picture: why a larger version of it was not had, which is asked for again; empty if it was"""
    left_out_by: str = ""
    """the criterion, or the robots rule, that the picture did not meet"""
    unended: str = ""
    """``yes`` if the file has no end, as its server has it"""
    item: str = ""
    item_url: str = ""
    columns: str = ""
    """what is said of its item by header, term or label: a JSON object"""
    gone_at: str = ""
    """when its page was first seen without it; empty if it is still there"""
    licence_url: str = ""
    terms_url: str = ""
    credit_from: str = ""
    licence_from: str = ""
    terms_from: str = ""
    """who says what is said of its use"""
    fingerprint: str = ""
    """what it looks like, once somebody asked; ``-`` if that says nothing"""

    @property
    def web_address(self) -> str:
        """The address by which it was asked for, without what tells apart what several archives hold for it."""
        return self.address.partition(VERSION_MARK)[0]


_MOST_RESERVED = 1_000

_LONGEST_LOG = 10_000
"""Pages of 4 kB in the write-ahead log before they are moved into the ledger, for which the disk is waited for."""

_MEND = "bring it back from a copy, or move it away to begin a new one: files stay as they are"

_COLUMNS = Entry.__struct_fields__
_DEFAULTS = tuple("" if field.default is NODEFAULT else field.default for field in fields(Entry))
_KINDS = tuple(int if "int" in str(field.type) else str for field in fields(Entry))
_SELECT = f"SELECT {', '.join(_COLUMNS)} FROM picture"  # noqa: S608 (our own column names)
_USUAL = _COLUMNS[: _COLUMNS.index("evidence") + 1]
"""what most rows have: the others, each of which costs as much as one that is filled, are left out of their INSERT"""
_HAS_NAME = "SELECT 1 FROM picture WHERE name_key = ?1 UNION ALL SELECT 1 FROM former_name WHERE name_key = ?1"
_RESERVE = (
    "INSERT OR IGNORE INTO picture (address, name, name_key, state) SELECT ?1, ?2, ?3, 'reserved'"
    " WHERE NOT EXISTS (SELECT 1 FROM former_name WHERE name_key = ?3)"
)
_GIVEN = "nullif(?, '')"
"""A blank text is stored as NULL."""

_UPDATE = f"UPDATE picture SET {', '.join(f'{c} = {_GIVEN}' for c in _COLUMNS[1:])} WHERE seq = ?"  # noqa: S608


def _insert(columns: tuple[str, ...]) -> str:
    values = ", ".join(_GIVEN for _ in columns)
    return f"INSERT INTO picture ({', '.join(columns)}, name_key) VALUES ({values}, ?)"  # noqa: S608


_INSERT, _INSERT_USUAL = _insert(_COLUMNS), _insert(_USUAL)
_all_of, _usual_of, _others_of = attrgetter(*_COLUMNS), attrgetter(*_USUAL), attrgetter(*_COLUMNS[len(_USUAL) :])
_changed_of = attrgetter(*_COLUMNS[1:], "seq")


class LedgerReader:
    """A ledger that is read, while a run fills it or from a disk that cannot be written. Nothing is written."""

    def __init__(self, database: sqlite3.Connection) -> None:
        self._db = database

    @classmethod
    @contextmanager
    def opened(cls, places: Places) -> Iterator[Self]:
        """Open the ledger of a crate for reading; CrateError if it cannot be read, now or later."""
        places.check()
        _refuse_empty(places)
        with told(places), ExitStack() as stack:
            database = stack.enter_context(closing(_connect_to_read(places, stack)))
            (version,) = database.execute("PRAGMA user_version").fetchone()
            _refuse_others(version, places)
            if version != _SCHEMA_VERSION:
                database = stack.enter_context(closing(_upgraded_copy(database, version)))
            database.execute(f"{_SELECT} LIMIT 1").fetchone()
            yield cls(database)

    def held(self, columns: tuple[str, ...]) -> Generator[tuple[object, ...], None, None]:
        """Yield these columns of every held picture, in the order of names."""
        yield from self._db.execute(
            f"SELECT {', '.join(columns)} FROM picture WHERE state = 'held' ORDER BY seq"  # noqa: S608 (column names)
        )

    def rows(self, state: State) -> Iterator[Entry]:
        """Yield the rows in a state, in the order of names."""
        for row in self._db.execute(f"{_SELECT} WHERE state = ? ORDER BY seq", (state,)):
            yield _entry(row)

    def former(self) -> Iterator[tuple[int, str, str, str]]:
        """Yield of each older version its row's number, its file, its hash, and when it was fetched."""
        yield from self._db.execute(
            "SELECT seq, file, sha256, coalesce(fetched_at, '') FROM former_version ORDER BY seq"
        )

    def aside_files(self) -> set[str]:
        """Return the files that hold older versions, and those that are to leave when the crate is next written to."""
        query = "SELECT file FROM former_version UNION SELECT file FROM leaving"
        return {str(file) for (file,) in self._db.execute(query)}

    def copy_to(self, path: Path) -> None:
        """Copy the ledger, as it is now, to a new file."""
        with closing(sqlite3.connect(path)) as target:
            self._db.backup(target)


class Ledger(LedgerReader):
    """An open ledger for the run that writes it; the crate's lock is held by who opens it."""

    def __init__(self, places: Places) -> None:
        """Open or make the ledger of a crate; CrateError if it cannot be."""
        # Rows wait to be written together: one statement for many costs a tenth of one each.
        self._unwritten: list[Entry] = []
        self._unwritten_contents: dict[str, Entry] = {}
        self._reserved: dict[int, Entry] = {}
        self._new: list[Entry] = []
        """rows that were reserved, and of those the ones that are done with, which the file does not have yet"""
        self._waiting_names: set[str] = set()
        self._waiting_addresses: set[str] = set()
        """those of rows that the file does not have yet"""
        self._last_done = 0
        with told(places):
            is_made = not places.ledger.exists()
            if is_made:
                _make(places.ledger)
            _refuse_empty(places)
            self._db = sqlite3.connect(places.ledger, isolation_level=None, timeout=1)
            self._db.execute("PRAGMA journal_mode = WAL")
            # A killed process loses nothing; a lost power supply the last moments, which the next run fetches again.
            self._db.execute("PRAGMA synchronous = NORMAL")
            self._db.execute(f"PRAGMA wal_autocheckpoint = {_LONGEST_LOG}")
            (version,) = self._db.execute("PRAGMA user_version").fetchone()
            _refuse_others(version, places)
            self._db.execute("BEGIN IMMEDIATE")
            _upgrade(self._db, version)
            self._db.execute(f"{_SELECT} LIMIT 1").fetchone()
            self._db.execute("COMMIT")
            self.is_listed = self._db.execute("SELECT 1 FROM listed").fetchone() is not None
            """whether the crate's lists say all that the ledger does"""
            self.was_cut_off = not is_made and not self.is_listed
            """whether a run was killed, which may have left files in their places and not their rows"""
            self.had_rows = self._db.execute("SELECT 1 FROM picture LIMIT 1").fetchone() is not None
            """whether a picture may well be known: then it is looked for before it is named"""
        self._begun = None if self.had_rows else Begun()

    def find(self, address: str) -> Entry | None:
        """Return the row of the picture that was asked for at ``address``."""
        if self._begun is not None and not self._begun.addresses.may_have(address):
            return None
        self._flush()
        row = self._db.execute(f"{_SELECT} WHERE address = ?", (address,)).fetchone()
        return _entry(row) if row else None

    def find_content(self, sha256: str) -> Entry | None:
        """Return the first row whose file has these bytes."""
        if self._begun is not None and not self._begun.contents.may_have(sha256):
            return None
        if (unwritten := self._unwritten_contents.get(sha256)) is not None:
            return unwritten
        row = self._db.execute(f"{_SELECT} WHERE sha256 = ? ORDER BY seq LIMIT 1", (sha256,)).fetchone()
        return _entry(row) if row else None

    def reserve(self, address: str, name: str) -> Entry | None:
        """Give ``name`` to the picture at ``address`` and return its new row.

        None if that picture has a row, or another has that name, in any case or normalisation.
        """
        name_key = key(name)
        if self._begun is not None:
            return self._reserve_later(self._begun, address, name, name_key)
        self._begin()
        cursor = self._db.execute(_RESERVE, (address, name, name_key))
        return Entry(cursor.lastrowid or 0, address, name) if cursor.rowcount else None

    def _reserve_later(self, begun: Begun, address: str, name: str, name_key: str) -> Entry | None:
        """Reserve a row in a ledger that this run began: it is in the file when the next rows are written."""
        if begun.names.may_have(name_key) and self._has_name(name_key):
            return None
        if begun.addresses.may_have(address) and (address in self._waiting_addresses or self._has_address(address)):
            return None
        entry = Entry(begun.add(address, name_key), address, name)
        self._reserved[entry.seq] = entry
        self._waiting_names.add(name_key)
        self._waiting_addresses.add(address)
        if len(self._reserved) > _MOST_RESERVED:
            self._flush()
        return entry

    def _has_name(self, name_key: str) -> bool:
        return name_key in self._waiting_names or self._db.execute(_HAS_NAME, (name_key,)).fetchone() is not None

    def _has_address(self, address: str) -> bool:
        return self._db.execute("SELECT 1 FROM picture WHERE address = ?", (address,)).fetchone() is not None

    def name_is_taken(self, name: str) -> bool:
        """Tell whether a spelled name is reserved, in any case or normalisation."""
        name_key = key(name)
        may_be = self._begun is None or self._begun.names.may_have(name_key)
        return may_be and self._has_name(name_key)

    def rename(self, entry: Entry, name: str) -> Entry:
        """Give a row another name. Nobody gets the old one: that would depend on which transfer ended first."""
        self._flush()
        self._begin()
        self._db.execute("INSERT OR IGNORE INTO former_name VALUES (?)", (key(entry.name),))
        self._db.execute("UPDATE picture SET name = ?, name_key = ? WHERE seq = ?", (name, key(name), entry.seq))
        if self._begun is not None:
            self._begun.names.add(key(name))
        return replace(entry, name=name)

    def write(self, entry: Entry) -> None:
        """Write a row that was reserved before; it is in the file when it is committed."""
        if self.is_listed:
            self._set_listed(False)
        is_new = self._reserved.pop(entry.seq, None) is not None
        (self._new if is_new else self._unwritten).append(entry)
        self._last_done = max(self._last_done, entry.seq)
        if entry.state == State.HELD:
            if self._begun is not None:
                self._begun.contents.add(entry.sha256)
            self._unwritten_contents.setdefault(entry.sha256, entry)

    def _flush(self, *, up_to: int | None = None) -> None:
        """Write what waits; of the rows that are only reserved those with numbers below ``up_to``, or all of them."""
        if not (self._unwritten or self._new or self._reserved):
            return
        self._begin()
        usual, others = [], []
        reserved = [entry for entry in self._reserved.values() if up_to is None or entry.seq < up_to]
        for entry in (*self._new, *reserved):
            if any(_others_of(entry)):
                others.append((*_all_of(entry), key(entry.name)))
            else:
                usual.append((*_usual_of(entry), key(entry.name)))
        for statement, rows in ((_INSERT_USUAL, usual), (_INSERT, others)):
            if rows:
                self._db.executemany(statement, rows)
        if self._unwritten:
            self._db.executemany(_UPDATE, map(_changed_of, self._unwritten))
        self._new.clear()
        for entry in reserved:
            del self._reserved[entry.seq]
        self._waiting_names = {key(entry.name) for entry in self._reserved.values()}
        self._waiting_addresses = {entry.address for entry in self._reserved.values()}
        self._unwritten.clear()
        self._unwritten_contents.clear()

    def commit(self) -> None:
        """Make all that was written so far survive the process.

        Pictures behind the last one that is done are not: the next run would reserve the same names for them again,
        and each of their rows would be written twice.
        """
        self._flush(up_to=self._last_done)
        if self._db.in_transaction:
            self._db.execute("COMMIT")

    def held(self, columns: tuple[str, ...]) -> Generator[tuple[object, ...], None, None]:
        """Yield these columns of every held picture, in the order of names."""
        self._flush()
        yield from super().held(columns)

    def rows(self, state: State) -> Iterator[Entry]:
        """Yield the rows in a state, in the order of names."""
        self._flush()
        yield from super().rows(state)

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

    def rename_file(self, old: str, new: str) -> None:
        """Note that a file was moved within its crate."""
        self._flush()
        self._begin()
        self._db.execute("UPDATE picture SET file = ? WHERE file = ?", (new, old))
        self._set_listed(False)

    def leave(self, file: str, sha256: str) -> None:
        """Note that a file is to be deleted."""
        self._begin()
        self._db.execute("INSERT OR REPLACE INTO leaving VALUES (?, ?)", (file, sha256))

    def mark_listed(self) -> None:
        """Note that the crate's lists were written, and that nothing has changed since."""
        self._flush()
        self._set_listed(True)
        self.commit()

    def mark_unlisted(self) -> None:
        """Note that the crate is about to change, for the run after this one, should this one be killed."""
        if self.is_listed:
            self._set_listed(False)
            self.commit()

    def _set_listed(self, everything: bool) -> None:
        self._begin()
        self._db.execute("DELETE FROM listed")
        if everything:
            self._db.execute("INSERT INTO listed VALUES (1)")
        self.is_listed = everything

    def leaving(self) -> list[tuple[str, str]]:
        """Return the files that are to be deleted, with their hashes, and forget them."""
        self._begin()
        files = self._db.execute("SELECT file, sha256 FROM leaving").fetchall()
        self._db.execute("DELETE FROM leaving")
        return [(str(file), str(sha256)) for file, sha256 in files]

    def is_held(self, file: str) -> bool:
        """Tell whether a file is that of a picture."""
        self._flush()
        return self._db.execute("SELECT 1 FROM picture WHERE file = ?", (file,)).fetchone() is not None

    def set_aside(self, entry: Entry, file: str) -> None:
        """Note that the version of a picture that its row describes is now in ``file``."""
        self._begin()
        row = (file, entry.seq, entry.sha256, entry.fetched_at)
        self._db.execute("INSERT OR REPLACE INTO former_version VALUES (?, ?, ?, ?)", row)

    def keep_fingerprint(self, seq: int, text: str) -> None:
        """Keep what a held picture looks like."""
        self._flush()
        self._begin()
        self._db.execute("UPDATE picture SET fingerprint = ? WHERE seq = ?", (text, seq))

    def note_gone(self, gone: Iterable[int], back: Iterable[int], at: str) -> None:
        """Note which rows' pages are without their pictures since ``at``, and which have them again."""
        self._flush()
        self._begin()
        self._db.executemany("UPDATE picture SET gone_at = ? WHERE seq = ?", ((at, seq) for seq in gone))
        self._db.executemany("UPDATE picture SET gone_at = NULL WHERE seq = ?", ((seq,) for seq in back))

    def close(self) -> None:
        """Commit, with all that is reserved, and close the file."""
        self._flush()
        self.commit()
        self._db.close()

    def _begin(self) -> None:
        if not self._db.in_transaction:
            self._db.execute("BEGIN")


def _make(path: Path) -> None:
    """Make a ledger that is whole from the moment it is there: a killed run leaves none, or a good one."""
    beside = path.with_name(f"{path.name}.new")
    beside.unlink(missing_ok=True)
    with closing(sqlite3.connect(beside, isolation_level=None)) as database:
        _upgrade(database, 0)
    beside.rename(path)


def _upgrade(database: sqlite3.Connection, version: int) -> None:
    """Bring a ledger to this version."""
    if version == _SCHEMA_VERSION:
        return
    for statement in filter(str.strip, _UPGRADES[version].split(";")):
        database.execute(statement)
    database.execute(f"PRAGMA user_version = {_SCHEMA_VERSION}")


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
    copy = sqlite3.connect(":memory:", isolation_level=None)
    database.backup(copy)
    _upgrade(copy, version)
    return copy


def _refuse_empty(places: Places) -> None:
    if not places.ledger.stat().st_size:
        raise CrateError(f"the ledger {places.ledger} is empty: something has cut it off", hint=_MEND)


def _refuse_others(version: int, places: Places) -> None:
    if version not in _UPGRADES.keys() - {0} | {_SCHEMA_VERSION}:
        raise CrateError(
            f"the ledger {places.ledger} was written by another version of Pick Crate",
            hint="use that version, or another crate",
        )


def _entry(row: tuple[object, ...]) -> Entry:
    """Return a row as an entry; what is not of the kind that its column holds is passed over."""
    known = [
        value if type(value) is kind else default for value, kind, default in zip(row, _KINDS, _DEFAULTS, strict=True)
    ]
    return Entry(*known)  # type: ignore[arg-type]


@contextmanager
def told(places: Places) -> Iterator[None]:
    """Turn what SQLite or the disk says of a ledger into words and what to do."""
    try:
        yield
    except sqlite3.Error as error:
        raise _explained(error, places) from error


def _explained(error: sqlite3.Error, places: Places) -> CrateError:
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
