"""Names of a very long list on the disk, in a file that goes away by itself."""

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import ExitStack, contextmanager
from hashlib import blake2b

from pickcrate.errors import PickCrateError
from pickcrate.values.trust import Trust


class Spilled:
    """Names that are given, with the addresses of their pictures, in flat memory.

    A hash stands for an address or a name. That two of ten million share one of 64 bits happens in one list of
    hundreds of thousands; the name that is shown is then a wrong one, and ``pack`` gives the right one.
    """

    def __init__(self) -> None:
        """Open the file. Raises PickCrateError if there is no room for it."""
        self._trusts: list[Trust] = []
        """whose names they are, by their numbers in the file"""
        with _told(), ExitStack() as on_error:
            self._disk = sqlite3.connect("", isolation_level=None)  # a file without a name
            on_error.callback(self._disk.close)
            for line in ("synchronous = OFF", "journal_mode = OFF", "cache_size = -32000", "locking_mode = EXCLUSIVE"):
                self._disk.execute(f"PRAGMA {line}")
            self._disk.execute("CREATE TABLE taken (name INTEGER PRIMARY KEY)")
            self._disk.execute("CREATE TABLE given (address INTEGER, trust INTEGER, name TEXT)")
            self._disk.execute("CREATE INDEX given_by_address ON given (address)")
            self._disk.execute("BEGIN")
            on_error.pop_all()

    def to(self, address: str) -> list[tuple[Trust, str]]:
        """Return the names that pictures of an address have, each with whose it is."""
        found = self._disk.execute("SELECT trust, name FROM given WHERE address = ?", (_hash(address),))
        return [(self._trusts[number], name) for number, name in found]

    def has(self, name_key: str) -> bool:
        """Tell whether a picture has a name, as names are compared."""
        return self._disk.execute("SELECT 1 FROM taken WHERE name = ?", (_hash(name_key),)).fetchone() is not None

    def note(self, address: str, given: Iterable[tuple[Trust, str, str]]) -> None:
        """Take down names of one address: whose, the name, and that as names are compared.

        Raises PickCrateError if there is no room for more.
        """
        with _told():
            for trust, name, name_key in given:
                if trust not in self._trusts:
                    self._trusts.append(trust)
                self._disk.execute("INSERT OR IGNORE INTO taken VALUES (?)", (_hash(name_key),))
                row = _hash(address), self._trusts.index(trust), name
                self._disk.execute("INSERT INTO given VALUES (?, ?, ?)", row)

    def close(self) -> None:
        """Let the file go."""
        self._disk.close()


@contextmanager
def _told() -> Iterator[None]:
    """Turn what SQLite says of a full disk into words and what to do."""
    try:
        yield
    except sqlite3.Error as error:
        hint = "make room there, or do without names: --save to a .txt, or --format urls alone"
        raise PickCrateError(f"the folder for temporary files is full: {error}", hint=hint) from error


def _hash(text: str) -> int:
    return int.from_bytes(blake2b(text.encode("utf-8", "surrogatepass"), digest_size=8).digest(), "big", signed=True)
