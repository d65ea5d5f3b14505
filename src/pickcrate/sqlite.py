"""What the ledgers of crates and the cache have in common: how SQLite fails."""

import sqlite3

SQLITE_ERRORS = (sqlite3.Error, UnicodeDecodeError)
"""what SQLite raises; of a damaged file it may say what is wrong with it in words that are in no encoding"""
