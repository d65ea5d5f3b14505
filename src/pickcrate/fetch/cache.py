"""Answers kept between runs, so that looking again asks for little: pages, sheets, and the first bytes of pictures.

A bounded and disposable SQLite file in the standard cache directory, for its owner's eyes only. Keys are hashes, and of
an answer's header fields only those are kept that are needed: no address that was asked for or led to, with a password
or a signature in it, and no cookie that the user brought can be read from the file. Whatever goes wrong with it, the
run goes on without.
"""

import json
import os
import sqlite3
import time
from collections.abc import Mapping
from contextlib import ExitStack, closing, suppress
from hashlib import sha256
from pathlib import Path

from msgspec import Struct
from msgspec.structs import astuple

from pickcrate.fetch.exchange import Beginning, Failure, Reply, Request
from pickcrate.sqlite import SQLITE_ERRORS
from pickcrate.text.numerals import whole
from pickcrate.values.cause import Cause

MAX_BYTES = 256_000_000
"""What all bodies together may take."""

MAX_BODY = 8_000_000
"""A body larger than this is not kept."""

_AT_LEAST = 600.0
"""Seconds for which an answer is good, whatever it says but ``no-store``: narrowing a look must not ask again."""

_AT_MOST = 7 * 86_400.0

_FEW_QUESTIONS = 64
"""After so many it pays to know all keys: a question to the file costs as much as writing a small picture."""
_MOST_KEYS = 100_000
"""Keys that are known by heart, 100 bytes each; of more, each is asked for."""

_SCHEMA = """
CREATE TABLE IF NOT EXISTS answers (
    key BLOB PRIMARY KEY, stored_at REAL NOT NULL, fresh_until REAL NOT NULL, size INTEGER NOT NULL,
    whole INTEGER NOT NULL, status INTEGER NOT NULL, url TEXT NOT NULL, fields TEXT NOT NULL, cookies TEXT NOT NULL,
    failure TEXT NOT NULL, private INTEGER NOT NULL, complete INTEGER NOT NULL, octets BLOB NOT NULL
) WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS answers_by_age ON answers (stored_at, size);
"""
_VERSION = 5


# Answers that say something of the address, not of a bad moment (RFC 9110, 15).
_KEPT_STATUSES = frozenset((200, 203, 206, 300, 400, 401, 403, 404, 405, 406, 410, 414, 415, 416, 451))


# What requests of one key have in common (RFC 9110, 12.5.5).
_IN_THE_KEY = frozenset(
    "accept accept-encoding accept-language accept-charset authorization origin range user-agent dnt "
    "sec-ch-ua sec-fetch-dest sec-fetch-mode sec-fetch-site save-data upgrade-insecure-requests".split()
)

# What is asked of an answer again: what it is, how to read it, whether it is still the same, what it allows.
_KEPT_FIELDS = frozenset(
    "age cache-control content-disposition content-digest content-encoding content-length content-md5 content-range "
    "content-type date digest etag expires last-modified link refresh repr-digest retry-after tdm-policy "
    "tdm-reservation vary x-robots-tag".split()
)


class Kept(Struct, frozen=True):
    """An answer out of the cache, with the cookies that it set (in the Netscape format)."""

    reply: Reply
    cookies: tuple[str, ...]
    is_private: bool
    """it came from a private address"""


class _Row(Struct, frozen=True):
    """A row of the file."""

    stored_at: float
    size: int
    whole: int
    status: int
    url: str
    fields: dict[str, str]
    cookies: tuple[str, ...]
    failure: str
    is_private: bool
    is_all: bool
    octets: bytes

    @property
    def has_validator(self) -> bool:
        """Whether its server can be asked if it is still the same."""
        return bool(self.fields.get("etag") or self.fields.get("last-modified"))

    def kept(self, request: Request) -> Kept:
        """Return what is kept as the answer to a request."""
        octets = self.octets[: request.first] if request.first else self.octets
        reply = Reply(
            request=request,
            url=self.url or request.url,
            status=self.status,
            headers=self.fields,
            octets=octets,
            size=len(octets),
            modified=_modified(self.fields),
            failure=_failure(self.failure) if self.failure else None,
            is_all=self.is_all,
            age=max(0.0, time.time() - self.stored_at),
        )
        return Kept(reply, self.cookies, self.is_private)


class Cache:
    """The answers of earlier runs. ``path`` None: of this run only."""

    def __init__(self, path: Path | None, *, fresh: bool = False, credentials: str = "") -> None:
        """Make ready; the file is opened or made when it is first needed.

        With ``fresh`` what it holds is passed over, and written anew.
        """
        self._since = time.time() if fresh else 0.0
        self._credentials = credentials
        self._path = path
        self._is_opened = self._holds_any = self._keeps_more = False
        self._connection: sqlite3.Connection | None = None
        self._questions = 0
        self._keys: set[bytes] | None = None
        """all that the file holds; None while few were asked for"""

    @property
    def _db(self) -> sqlite3.Connection | None:
        """The open file; None if it cannot be used."""
        if not self._is_opened:
            self._is_opened = True
            self._connection = _open(self._path)
            if self._connection is not None:
                self._holds_any = self._connection.execute("SELECT 1 FROM answers LIMIT 1").fetchone() is not None
        return self._connection

    def answer(self, request: Request) -> Kept | Beginning | None:
        """Return the kept answer to a request, or its first bytes; None if there is nothing that is still good.

        Of what is on its way into a crate the rest may be asked for under a validator (RFC 9110, 13.1.5).
        """
        row = self._row(request)
        if row is None or (row.failure and not request.is_guess):
            return None
        if not row.whole and (not request.first or row.size < request.first):
            validator = strong_validator(row.fields) if request.spool is not None else ""
            return Beginning(row.octets, validator) if validator else None
        if request.asks_anew and not _is_fresh_by_its_word(row):
            return None
        return row.kept(request)

    def former(self, request: Request) -> Kept | None:
        """Return an answer that is not good by itself, but whose server can be asked whether it is still the same.

        RFC 9111, 4.3.1. None if there is none, or with ``fresh``.
        """
        row = self._row(request, good=False) if not self._since else None
        if row is None or not row.whole or row.status != 200 or row.failure or not row.has_validator:
            return None
        return row.kept(request)

    def keep(self, reply: Reply, *, is_whole: bool, cookies: tuple[str, ...], is_private: bool = False) -> None:
        """Keep an answer if it may be kept; ``is_whole`` tells whether its body is all there."""
        lifetime = _lifetime(reply)
        # Where it was led to is written down only if there is nothing secret in it; what was asked for is known again.
        led_to = "" if reply.url == reply.request.url else reply.url
        if "?" in led_to or "@" in led_to.partition("://")[2].partition("/")[0]:
            return
        if lifetime is None or reply.status not in _KEPT_STATUSES or reply.size > MAX_BODY or self._db is None:
            return
        # A refusal is remembered of what we made up, and of nothing that a person or a page names.
        if reply.failure is not None and not (reply.request.is_guess and reply.failure.status):
            return
        if not is_whole and (reply.failure is not None or "content-encoding" in reply.headers):
            return
        now = time.time()
        key = self._key(reply.request)
        failure = json.dumps(astuple(reply.failure)) if reply.failure else ""
        row = (
            key,
            now,
            now + lifetime,
            len(reply.octets),
            int(is_whole),
            reply.status,
            led_to,
            json.dumps(
                {name: value for name, value in reply.headers.items() if name in _KEPT_FIELDS} | _was_set(reply)
            ),
            json.dumps(cookies),
            failure,
            int(is_private),
            int(reply.is_all),
            reply.octets,
        )
        try:
            self._db.execute(f"INSERT OR REPLACE INTO answers VALUES ({', '.join('?' * len(row))})", row)  # noqa: S608
        except SQLITE_ERRORS:
            self._connection = None
        self._holds_any = self._keeps_more = True
        if self._keys is not None:
            self._keys.add(key)

    def commit(self) -> None:
        """Write down what was kept, so that no other run has to wait."""
        try:
            if self._connection is not None:
                self._connection.commit()
        except SQLITE_ERRORS:
            self._connection = None

    def close(self) -> None:
        """Write down what was kept; let go of what is old, or too much."""
        if self._connection is None:
            return
        with suppress(*SQLITE_ERRORS), closing(self._connection) as database:
            if self._keeps_more:
                self._make_room(database)
        self._connection = None

    def _make_room(self, database: sqlite3.Connection) -> None:
        with database:
            database.execute("DELETE FROM answers WHERE stored_at < ?", (time.time() - _AT_MOST,))
            (total,) = database.execute("SELECT coalesce(sum(size), 0) FROM answers").fetchone()
            ages = database.execute("SELECT key, size FROM answers ORDER BY stored_at").fetchall()
            for key, size in ages:
                if total <= MAX_BYTES:
                    break
                database.execute("DELETE FROM answers WHERE key = ?", (key,))
                total -= size
        database.execute("PRAGMA incremental_vacuum").fetchall()

    def _row(self, request: Request, *, good: bool = True) -> _Row | None:
        database = self._db
        if database is None or not self._holds_any:
            return None
        key = self._key(request)
        query = (
            "SELECT stored_at, size, whole, status, url, fields, cookies, failure, private, complete, octets"
            " FROM answers WHERE key = ? AND fresh_until > ? AND stored_at >= ?"
        )
        try:
            if not self._may_hold(database, key):
                return None
            moment = time.time() if good else -1.0
            found = database.execute(query, (key, moment, self._since)).fetchone()
            if found is None:
                return None
            stored_at, size, whole, status, url, fields, cookies, failure, private, is_all, octets = found
            known = (url, json.loads(fields), tuple(json.loads(cookies)), failure, bool(private), bool(is_all), octets)
            return _Row(stored_at, size, whole, status, *known)
        except (*SQLITE_ERRORS, ValueError, TypeError):
            self._connection = None
            return None

    def _may_hold(self, database: sqlite3.Connection, key: bytes) -> bool:
        """Tell whether the file may hold a key; what another run adds after the first questions does not count."""
        self._questions += 1
        if self._questions == _FEW_QUESTIONS:
            keys = database.execute("SELECT key FROM answers INDEXED BY answers_by_age LIMIT ?", (_MOST_KEYS + 1,))
            known = {key for (key,) in keys}
            self._keys = known if len(known) <= _MOST_KEYS else None
        return self._keys is None or key in self._keys

    def _key(self, request: Request) -> bytes:
        parts = (request.url, request.accept, request.form, request.visit, self._credentials)
        return sha256("\0".join(parts).encode("utf-8", "surrogatepass")).digest()


def _open(path: Path | None) -> sqlite3.Connection | None:
    """Open the cache's file; one that is broken, or of another version, is made anew."""
    if path is None:
        db = sqlite3.connect(":memory:")
        db.executescript(_SCHEMA)
        return db
    for _ in range(2):
        try:
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            # Made before SQLite makes it, readable by its owner only: pages of a signed-in user may be in it.
            descriptor = os.open(path, os.O_CREAT | os.O_RDWR | getattr(os, "O_NOFOLLOW", 0), 0o600)
            with suppress(OSError, AttributeError):  # it may be there from elsewhere, readable by others
                os.fchmod(descriptor, 0o600)
            os.close(descriptor)
            return _made_ready(sqlite3.connect(path, timeout=5))
        except sqlite3.OperationalError:  # locked, or a folder that cannot be written
            return None
        except SQLITE_ERRORS:
            with suppress(OSError):
                for suffix in ("", "-wal", "-shm"):
                    path.with_name(path.name + suffix).unlink(missing_ok=True)
        except OSError:
            return None
    return None


def _made_ready(database: sqlite3.Connection) -> sqlite3.Connection:
    """Return the cache's file, ready for answers; where it cannot be made so it is closed, and can be deleted."""
    with ExitStack() as on_error:
        on_error.callback(database.close)
        database.execute("PRAGMA auto_vacuum = INCREMENTAL")
        database.execute("PRAGMA journal_mode = WAL")
        database.execute("PRAGMA synchronous = OFF")
        if database.execute("PRAGMA user_version").fetchone()[0] not in {0, _VERSION}:
            database.executescript("DROP TABLE IF EXISTS answers")
        database.executescript(_SCHEMA)
        database.execute(f"PRAGMA user_version = {_VERSION}")
        on_error.pop_all()
    return database


def _was_set(reply: Reply) -> dict[str, str]:
    """Return that cookies were set, if they were, without saying which."""
    return {"set-cookie": ""} if "set-cookie" in reply.headers else {}


def _lifetime(reply: Reply) -> float | None:
    """Return the seconds for which an answer may be used, or None if it may not be kept (RFC 9111, 4.2 and 5.2.2).

    Departs: an answer is good for ten minutes even if it wants to be asked for again (``no-cache``, ``max-age=0``),
    and for a week at most; what the user names is held to the standard (``_is_fresh_by_its_word``). What may differ by
    more than requests of one key have in common is kept only to ask whether it is still the same.
    """
    directives = _directives(reply.headers)
    vary = {name.strip().lower() for name in reply.headers.get("vary", "").split(",")} - {""}
    if "no-store" in directives or "*" in vary:
        return None
    if not vary <= _IN_THE_KEY:
        return 0.0
    return min(_AT_MOST, max(_AT_LEAST, _stated_lifetime(reply.headers, directives) or 0.0))


def _is_fresh_by_its_word(row: _Row) -> bool:
    """Tell whether an answer is fresh as RFC 9111, 4.2 has it; one that says nothing of that, for ten minutes.

    What can be asked about cheaply is asked about.
    """
    directives = _directives(row.fields)
    if row.has_validator or "no-cache" in directives:
        return False
    stated = _stated_lifetime(row.fields, directives)
    if stated is None:
        return "must-revalidate" not in directives and time.time() - row.stored_at < _AT_LEAST
    return time.time() - row.stored_at < stated


def _directives(fields: Mapping[str, str]) -> dict[str, str]:
    """RFC 9111, 5.2: the directives of ``Cache-Control``."""
    directives: dict[str, str] = {}
    for part in fields.get("cache-control", "").lower().split(","):
        name, _, value = part.strip().partition("=")
        directives[name] = value.strip('"')
    return directives


def _stated_lifetime(fields: Mapping[str, str], directives: Mapping[str, str]) -> float | None:
    """Return the seconds from its arrival for which an answer says that it is fresh; None if it does not say."""
    lifetime: float | None = None
    if (age := whole(directives.get("max-age", ""))) is not None:
        lifetime = float(age)
    elif "expires" in fields:
        expires = _date(fields["expires"])
        lifetime = expires - (_date(fields.get("date", "")) or time.time()) if expires is not None else 0.0
    if lifetime is None:
        return None
    return lifetime - float(whole(fields.get("age", "")) or 0)


def strong_validator(fields: Mapping[str, str]) -> str:
    """Return what If-Range may hold (RFC 9110, 13.1.5): a strong entity tag, or a date that is strong (8.8.2.2)."""
    tag = fields.get("etag", "")
    if tag:
        return "" if tag.startswith("W/") else tag
    modified, date = _date(fields.get("last-modified", "")), _date(fields.get("date", ""))
    return fields["last-modified"] if modified is not None and date is not None and date - modified >= 1 else ""


def _failure(kept: str) -> Failure:
    cause, words, status = json.loads(kept)
    return Failure(Cause(cause), words, status)


def _modified(fields: Mapping[str, str]) -> int | None:
    date = _date(fields.get("last-modified", ""))
    return int(date) if date is not None else None


def _date(field: str) -> float | None:
    if not field:
        return None
    from email.utils import parsedate_to_datetime  # noqa: PLC0415 (a tenth of a small look)

    try:
        return parsedate_to_datetime(field).timestamp()
    except (ValueError, OverflowError):
        return None
