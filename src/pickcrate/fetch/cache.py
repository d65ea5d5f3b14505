"""Answers kept between runs, so that looking again asks for nothing: pages, sheets, and the first bytes of pictures.

A bounded and disposable SQLite file in the standard cache directory, for its owner's eyes only. Keys are hashes, and of
an answer's header fields only those are kept that are needed: no address that was asked for or led to, with a password
or a signature in it, and no cookie that the user brought can be read from the file. Whatever goes wrong with it, the
run goes on without.
"""

import json
import os
import sqlite3
import time
from contextlib import suppress
from dataclasses import dataclass
from email.utils import parsedate_to_datetime
from hashlib import sha256
from pathlib import Path

from pickcrate.fetch.exchange import Beginning, Failure, Reply, Request

MAX_BYTES = 256_000_000
"""What all bodies together may take."""

MAX_BODY = 8_000_000
"""A body larger than this is not kept."""

_AT_LEAST = 600.0
"""Seconds for which an answer is good, whatever it says but ``no-store``: narrowing a look must not ask again."""

_AT_MOST = 7 * 86_400.0

_SCHEMA = """
CREATE TABLE IF NOT EXISTS answers (
    key BLOB PRIMARY KEY, stored_at REAL NOT NULL, fresh_until REAL NOT NULL, size INTEGER NOT NULL,
    whole INTEGER NOT NULL, status INTEGER NOT NULL, url TEXT NOT NULL, fields TEXT NOT NULL, cookies TEXT NOT NULL,
    failure TEXT NOT NULL, private INTEGER NOT NULL, octets BLOB NOT NULL
) WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS answers_by_age ON answers (stored_at, size);
"""
_VERSION = 3

# Answers that say something of the address, not of a bad moment (RFC 9110, 15).
_KEPT_STATUSES = frozenset((200, 203, 206, 300, 400, 401, 403, 404, 405, 406, 410, 414, 415, 416, 451))


# What is asked of an answer again: what it is, how to read it, whether it is still the same, what it allows.
_KEPT_FIELDS = frozenset(
    "age cache-control content-disposition content-digest content-encoding content-length content-md5 content-range "
    "content-type date digest etag expires last-modified link refresh repr-digest retry-after tdm-policy "
    "tdm-reservation vary x-robots-tag".split()
)


@dataclass(frozen=True, slots=True)
class Kept:
    """An answer out of the cache, with the cookies that it set (in the Netscape format)."""

    reply: Reply
    cookies: tuple[str, ...]
    is_private: bool
    """it came from a private address"""


_Row = tuple[int, int, int, str, str, str, str, int, bytes]
"""size, whole, status, url, fields, cookies, failure, private, octets"""


class Cache:
    """The answers of earlier runs. ``path`` None: of this run only."""

    def __init__(self, path: Path | None, *, fresh: bool = False, credentials: str = "") -> None:
        """Open or make the file; with ``fresh`` what it holds is passed over, and written anew."""
        self._since = time.time() if fresh else 0.0
        self._credentials = credentials
        self._db = _open(path)
        self._holds_any = (
            self._db is not None and self._db.execute("SELECT 1 FROM answers LIMIT 1").fetchone() is not None
        )

    def answer(self, request: Request) -> Kept | None:
        """Return the kept answer to a request, or None if there is none that is still good."""
        row = self._row(request)
        if row is None:
            return None
        size, whole = row[:2]
        if not whole and (not request.first or size < request.first):
            return None
        return _kept(request, row)

    def former(self, request: Request) -> Kept | None:
        """Return an answer that is good no more, but whose server can be asked whether it is still the same.

        RFC 9111, 4.3.1. None if there is none, or with ``fresh``.
        """
        row = self._row(request, good=False) if not self._since else None
        if row is None or not row[1] or row[2] != 200 or row[6]:
            return None
        kept = _kept(request, row)
        return kept if kept.reply.headers.get("etag") or kept.reply.headers.get("last-modified") else None

    def beginning(self, request: Request) -> Beginning | None:
        """Return the first bytes of what is asked for, if the rest alone can be asked for (RFC 9110, 13.1.5)."""
        row = self._row(request)
        if row is None or row[1] or row[6]:
            return None
        fields = json.loads(row[4])
        validator = strong_validator(fields)
        return Beginning(row[8], validator) if validator else None

    def keep(self, reply: Reply, *, whole: bool, cookies: tuple[str, ...], is_private: bool = False) -> None:
        """Keep an answer if it may be kept; ``whole`` tells whether its body is all there."""
        lifetime = _lifetime(reply)
        # Where it was led to is written down only if there is nothing secret in it; what was asked for is known again.
        led_to = "" if reply.url == reply.request.url else reply.url
        if "?" in led_to or "@" in led_to.partition("://")[2].partition("/")[0]:
            return
        if self._db is None or lifetime is None or reply.status not in _KEPT_STATUSES or reply.size > MAX_BODY:
            return
        if reply.failure is not None and not reply.failure.kind.startswith("status"):
            return
        if not whole and (reply.failure is not None or "content-encoding" in reply.headers):
            return
        now = time.time()
        failure = json.dumps([reply.failure.kind, reply.failure.words]) if reply.failure else ""
        row = (
            self._key(reply.request),
            now,
            now + lifetime,
            len(reply.octets),
            int(whole),
            reply.status,
            led_to,
            json.dumps(
                {name: value for name, value in reply.headers.items() if name in _KEPT_FIELDS} | _was_set(reply)
            ),
            json.dumps(cookies),
            failure,
            int(is_private),
            reply.octets,
        )
        try:
            self._db.execute(f"INSERT OR REPLACE INTO answers VALUES ({', '.join('?' * len(row))})", row)  # noqa: S608
        except sqlite3.Error:
            self._db = None
        self._holds_any = True

    def commit(self) -> None:
        """Write down what was kept, so that no other run has to wait."""
        try:
            if self._db is not None:
                self._db.commit()
        except sqlite3.Error:
            self._db = None

    def close(self) -> None:
        """Write down what was kept; let go of what is old, or too much."""
        if self._db is None:
            return
        try:
            with self._db:
                self._db.execute("DELETE FROM answers WHERE stored_at < ?", (time.time() - _AT_MOST,))
                (total,) = self._db.execute("SELECT coalesce(sum(size), 0) FROM answers").fetchone()
                ages = self._db.execute("SELECT key, size FROM answers ORDER BY stored_at").fetchall()
                for key, size in ages:
                    if total <= MAX_BYTES:
                        break
                    self._db.execute("DELETE FROM answers WHERE key = ?", (key,))
                    total -= size
            self._db.execute("PRAGMA incremental_vacuum").fetchall()
            self._db.close()
        except sqlite3.Error:
            pass
        self._db = None

    def _row(self, request: Request, *, good: bool = True) -> _Row | None:
        if self._db is None or not self._holds_any:
            return None
        query = (
            "SELECT size, whole, status, url, fields, cookies, failure, private, octets FROM answers"
            " WHERE key = ? AND fresh_until > ? AND stored_at >= ?"
        )
        try:
            moment = time.time() if good else -1.0
            row: _Row | None = self._db.execute(query, (self._key(request), moment, self._since)).fetchone()
        except sqlite3.Error:
            self._db = None
            return None
        return row

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
            db = sqlite3.connect(path, timeout=5)
            db.execute("PRAGMA auto_vacuum = INCREMENTAL")
            db.execute("PRAGMA journal_mode = WAL")
            db.execute("PRAGMA synchronous = OFF")
            if db.execute("PRAGMA user_version").fetchone()[0] not in {0, _VERSION}:
                db.executescript("DROP TABLE IF EXISTS answers")
            db.executescript(_SCHEMA)
            db.execute(f"PRAGMA user_version = {_VERSION}")
        except sqlite3.OperationalError:  # locked, or a folder that cannot be written
            return None
        except sqlite3.DatabaseError:
            with suppress(OSError):
                for suffix in ("", "-wal", "-shm"):
                    path.with_name(path.name + suffix).unlink(missing_ok=True)
        except OSError:
            return None
        else:
            return db
    return None


def _kept(request: Request, row: _Row) -> Kept:
    _, _, status, url, fields, cookies, failure, is_private, octets = row
    octets = octets[: request.first] if request.first else octets
    reply = Reply(
        request=request,
        url=url or request.url,
        status=status,
        headers=json.loads(fields),
        octets=octets,
        size=len(octets),
        modified=_modified(json.loads(fields)),
        failure=Failure(*json.loads(failure)) if failure else None,
    )
    return Kept(reply, tuple(json.loads(cookies)), bool(is_private))


def _was_set(reply: Reply) -> dict[str, str]:
    """Return that cookies were set, if they were, without saying which."""
    return {"set-cookie": ""} if "set-cookie" in reply.headers else {}


def _lifetime(reply: Reply) -> float | None:
    """Return the seconds for which an answer may be used, or None if it may not be kept (RFC 9111, 4.2 and 5.2.2).

    Departs: an answer is good for ten minutes even if it wants to be asked for again (``no-cache``, ``max-age=0``),
    and for a week at most.
    """
    directives: dict[str, str] = {}
    for part in reply.headers.get("cache-control", "").lower().split(","):
        name, _, value = part.strip().partition("=")
        directives[name] = value.strip('"')
    if "no-store" in directives or reply.headers.get("vary", "").strip() == "*":
        return None
    lifetime = 0.0
    if directives.get("max-age", "").isdecimal():
        lifetime = float(directives["max-age"][:9])
    elif (expires := _date(reply.headers.get("expires", ""))) is not None:
        lifetime = expires - (_date(reply.headers.get("date", "")) or time.time())
    age = reply.headers.get("age", "")
    lifetime -= float(age[:9]) if age.isdecimal() else 0.0
    return min(_AT_MOST, max(_AT_LEAST, lifetime))


def strong_validator(fields: dict[str, str]) -> str:
    """Return what If-Range may hold (RFC 9110, 13.1.5): a strong entity tag, or a date that is strong (8.8.2.2)."""
    tag = fields.get("etag", "")
    if tag:
        return "" if tag.startswith("W/") else tag
    modified, date = _date(fields.get("last-modified", "")), _date(fields.get("date", ""))
    return fields["last-modified"] if modified is not None and date is not None and date - modified >= 1 else ""


def _modified(fields: dict[str, str]) -> int | None:
    date = _date(fields.get("last-modified", ""))
    return int(date) if date is not None else None


def _date(field: str) -> float | None:
    try:
        return parsedate_to_datetime(field).timestamp()
    except (ValueError, OverflowError):
        return None
