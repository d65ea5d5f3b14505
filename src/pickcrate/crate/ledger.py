"""The ledger: which files a crate holds, from where, since when. One SQLite file; one writes, anybody may read.

A row is a picture that an order asked for, in the order in which names were given out. Its name is reserved before
the first byte is asked for and stays its own, whatever becomes of the download.
"""

import sqlite3
from collections.abc import Generator, Iterable, Iterator
from contextlib import ExitStack, closing
from operator import attrgetter
from pathlib import Path

from msgspec.structs import replace

from pickcrate.crate.begun import Begun
from pickcrate.crate.entry import COLUMNS, Entry, State, entry_of
from pickcrate.crate.places import Places
from pickcrate.crate.reading import ENDED, LISTED, SELECT, LedgerReader, refuse_empty, refuse_others, told
from pickcrate.crate.schema import upgrade
from pickcrate.name import key
from pickcrate.values.measures import Measures

_MOST_RESERVED = 1_000

_LONGEST_LOG = 10_000
"""Pages of 4 kB in the write-ahead log before they are moved into the ledger, for which the disk is waited for."""

_USUAL = COLUMNS[: COLUMNS.index("evidence") + 1]
"""what most rows have: the others, each of which costs as much as one that is filled, are left out of their INSERT"""
_HAS_NAME = "SELECT 1 FROM picture WHERE name_key = ? UNION ALL SELECT 1 FROM former_name WHERE name_key = ?"
_RESERVE = (
    "INSERT OR IGNORE INTO picture (address, name, name_key, state) SELECT ?, ?, ?, 'reserved'"
    " WHERE NOT EXISTS (SELECT 1 FROM former_name WHERE name_key = ?)"
)
_GIVEN = "nullif(?, '')"
"""A blank text is stored as NULL."""

_UPDATE = f"UPDATE picture SET {', '.join(f'{c} = {_GIVEN}' for c in COLUMNS[1:])} WHERE seq = ?"  # noqa: S608


_BUT_NAMES = tuple(column for column in COLUMNS if column not in {"seq", "name"})
_SAID = f"SELECT {', '.join(_BUT_NAMES)} FROM picture WHERE seq = ?"  # noqa: S608
_COME_AGAIN = f"UPDATE picture SET {', '.join(f'{column} = ?' for column in _BUT_NAMES)} WHERE seq = ?"  # noqa: S608


def _insert(columns: tuple[str, ...]) -> str:
    values = ", ".join(_GIVEN for _ in columns)
    return f"INSERT INTO picture ({', '.join(columns)}, name_key) VALUES ({values}, ?)"  # noqa: S608


_INSERT, _INSERT_USUAL = _insert(COLUMNS), _insert(_USUAL)
_INSERT_LISTED = _INSERT.replace("INSERT", "INSERT OR IGNORE", 1)
_all_of, _usual_of, _others_of = attrgetter(*COLUMNS), attrgetter(*_USUAL), attrgetter(*COLUMNS[len(_USUAL) :])
_changed_of = attrgetter(*COLUMNS[1:], "seq")


class Ledger(LedgerReader):
    """An open ledger for the run that writes it; the crate's lock is held by who opens it."""

    def __init__(self, places: Places, listed: Iterable[Entry] = ()) -> None:
        """Open or make the ledger of a crate; CrateError if it cannot be.

        One that is made knows the pictures that are ``listed``.
        """
        self.moved = {}
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
        with told(places), ExitStack() as on_error:
            is_made = not places.ledger.exists()
            self.regained = _make(places.ledger, listed) if is_made else 0
            """how many pictures are known from a list, as the ledger was gone"""
            refuse_empty(places)
            self._db = sqlite3.connect(places.ledger, isolation_level=None, timeout=1)
            on_error.callback(self._db.close)
            self._db.execute("PRAGMA journal_mode = WAL")
            # A killed process loses nothing; a lost power supply the last moments, which the next run fetches again.
            self._db.execute("PRAGMA synchronous = NORMAL")
            self._db.execute(f"PRAGMA wal_autocheckpoint = {_LONGEST_LOG}")
            (version,) = self._db.execute("PRAGMA user_version").fetchone()
            refuse_others(version, places)
            self._db.execute("BEGIN IMMEDIATE")
            upgrade(self._db, version)
            self._db.execute(f"{SELECT} LIMIT 1").fetchone()
            self._db.execute("COMMIT")
            self.is_listed = self._db.execute("SELECT 1 FROM listed").fetchone() is not None
            """whether the crate's lists say all that the ledger does"""
            self.was_cut_off = not is_made and not self.is_listed
            """whether a run was killed, which may have left files in their places and not their rows"""
            self.had_rows = self._db.execute("SELECT 1 FROM picture LIMIT 1").fetchone() is not None
            """whether a picture may well be known: then it is looked for before it is named"""
            on_error.pop_all()
        self._begun = None if self.had_rows else Begun()

    def find(self, address: str) -> Entry | None:
        """Return the row of the picture that was asked for at ``address``."""
        if self._begun is not None and not self._begun.addresses.may_have(address):
            return None
        self._flush()
        return super().find(address)

    def origins(self, most: int) -> list[str]:
        """Return the schemes and hosts of the addresses on the web that most pictures are held from."""
        self._flush()
        query = (
            "SELECT substr(address, 1, instr(substr(address, 9), '/') + 7) AS origin FROM picture"
            " WHERE state = 'held' AND address LIKE 'http%' GROUP BY origin ORDER BY count(*) DESC LIMIT ?"
        )
        return [str(found) for (found,) in self._db.execute(query, (most,))]

    def beginning(self, start: str, most: int) -> list[Entry]:
        """Return the rows whose addresses begin so, in the order of addresses, ``most`` at most."""
        self._flush()
        query = f"{SELECT} WHERE address >= ? AND address < ? ORDER BY address LIMIT ?"
        return list(map(entry_of, self._db.execute(query, (start, f"{start}\U0010ffff", most))))

    def thumbnails(self) -> dict[str, str]:
        """Return the addresses of held pictures that were shown smaller, by those of what was shown for one of them."""
        self._flush()
        return super().thumbnails()

    def find_content(self, sha256: str) -> Entry | None:
        """Return the first row whose file has these bytes."""
        if self._begun is not None and not self._begun.contents.may_have(sha256):
            return None
        if (unwritten := self._unwritten_contents.get(sha256)) is not None:
            return unwritten
        row = self._db.execute(f"{SELECT} WHERE sha256 = ? ORDER BY seq LIMIT 1", (sha256,)).fetchone()
        return entry_of(row) if row else None

    def reserve(self, address: str, name: str) -> Entry | None:
        """Give ``name`` to the picture at ``address`` and return its new row.

        None if that picture has a row, or another has that name, in any case or normalisation.
        """
        name_key = key(name)
        if self._begun is not None:
            return self._reserve_later(self._begun, address, name, name_key)
        self._begin()
        cursor = self._db.execute(_RESERVE, (address, name, name_key, name_key))
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
        if name_key in self._waiting_names:
            return True
        return self._db.execute(_HAS_NAME, (name_key, name_key)).fetchone() is not None

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

    def mark_ended(self) -> None:
        """Note that a run has seen all that it was to see, and its lists are written."""
        if self.is_listed:
            self._begin()
            self._db.execute("UPDATE listed SET everything = ?", (ENDED,))
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
            self._db.execute("INSERT INTO listed VALUES (?)", (LISTED,))
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
        return super().is_held(file)

    def note_moved(self, moved: dict[str, str]) -> None:
        """Note where files are now."""
        self._flush()
        self._begin()
        super().note_moved(moved)
        self._set_listed(False)

    def set_aside(self, entry: Entry, file: str) -> None:
        """Note that the version of a picture that its row describes is now in ``file``."""
        self._begin()
        row = (file, entry.seq, entry.sha256, entry.fetched_at)
        self._db.execute("INSERT OR REPLACE INTO former_version VALUES (?, ?, ?, ?)", row)

    def come_again(self, old: int, new: int) -> None:
        """Put what a later row says in the row of the same picture, but for its name, and drop the later one."""
        self._flush()
        self._begin()
        row = self._db.execute(_SAID, (new,)).fetchone()
        self._db.execute("DELETE FROM picture WHERE seq = ?", (new,))
        self._db.execute(_COME_AGAIN, (*row, old))
        self._set_listed(False)

    def keep_measured(self, measured: Iterable[tuple[str, Measures]]) -> None:
        """Keep what pictures measure that are not fetched, by their addresses."""
        rows = (
            (address, *(side.value if side is not None else None for side in (of.width, of.height, of.bytes, of.type)))
            for address, of in measured
        )
        self._begin()
        self._db.executemany("INSERT OR REPLACE INTO measured VALUES (?, ?, ?, ?, ?)", rows)

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


def _make(path: Path, listed: Iterable[Entry]) -> int:
    """Make a ledger that is whole from the moment it is there: a killed run leaves none, or a good one.

    Return how many of the ``listed`` pictures it knows. Of several addresses with one file each has a name of its own.
    """
    beside = path.with_name(f"{path.name}.new")
    beside.unlink(missing_ok=True)
    known = 0
    with closing(sqlite3.connect(beside, isolation_level=None)) as database:
        upgrade(database, 0)
        database.execute("BEGIN")
        for entry in listed:
            for name in (entry.name, f"{entry.name} ~{entry.seq}"):
                if database.execute(_INSERT_LISTED, (*_all_of(replace(entry, name=name)), key(name))).rowcount:
                    known += 1
                    break
        database.execute("COMMIT")
    beside.rename(path)
    return known
