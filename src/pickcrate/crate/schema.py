"""The tables of a ledger, and what makes those of an earlier version into them."""

import sqlite3

VERSION = 7
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
# What pictures measure that a criterion left out before they were fetched.
_FROM_6 = """
CREATE TABLE measured (
  address TEXT PRIMARY KEY, width INTEGER, height INTEGER, bytes INTEGER, type TEXT
) WITHOUT ROWID;
"""
_NEW = _SCHEMA + _SINCE_3 + _FROM_6
_STEPS = {2: _FROM_2 + _SINCE_3, 3: _FROM_3, 4: _FROM_4, 5: _FROM_5, 6: _FROM_6}
"""what makes each version into the next"""

KNOWN_VERSIONS = frozenset((*_STEPS, VERSION))


def upgrade(database: sqlite3.Connection, version: int) -> None:
    """Bring a ledger to this version."""
    if version == VERSION:
        return
    steps = "".join(step for since, step in _STEPS.items() if since >= version) if version else _NEW
    for statement in filter(str.strip, steps.split(";")):
        database.execute(statement)
    database.execute(f"PRAGMA user_version = {VERSION}")
