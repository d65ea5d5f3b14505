"""The names that ``pack`` would give in an empty crate, for those who look."""

import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from hashlib import blake2b

from pickcrate.addresses import brief
from pickcrate.errors import PickCrateError
from pickcrate.name import Naming, key
from pickcrate.run.events import Found, LookEvent
from pickcrate.values import Trust

_MOST_IN_MEMORY = 100_000


def named(events: Iterator[LookEvent], naming: Naming, version: Callable[[str, Trust], str]) -> Iterator[LookEvent]:
    """Yield ``events``, picks with the names that ``pack`` would give in an empty crate: equal ones numbered.

    ``version`` is the hash of what a source brought along for an address: with other bytes it is another picture.
    """
    with closing(_Given()) as given:
        for event in events:
            if not isinstance(event, Found) or not event.image.is_picked:
                yield event
                continue
            url, trust = event.image.url, event.image.asker.trust
            same = (
                name
                for other, name in given.to(brief(url))
                if other.source == trust.source or version(url, other) == version(url, trust)
            )
            name = next(same, None)
            if name is None:
                name = naming.spell(event.image)
                if given.is_taken(name):
                    name = naming.next_free(event.image, given.is_taken)
                given.note(brief(url), trust, name)
            yield Found(event.image, name)


class _Given:
    """Names that are given: in memory for a page or a list of usual length, then on the disk, in a file that goes away.

    There a hash stands for an address or a name. That two of ten million share one of 64 bits happens in one list of
    hundreds of thousands; the name that is shown is then a wrong one, and ``pack`` gives the right one.
    """

    def __init__(self) -> None:
        self._taken: set[str] = set()
        self._given: dict[str, list[tuple[Trust, str]]] = {}
        self._trusts: list[Trust] = []
        """whose names are on the disk, by their numbers there"""
        self._disk: sqlite3.Connection | None = None

    def to(self, address: str) -> list[tuple[Trust, str]]:
        """Return the names that pictures of an address have, each with whose it is."""
        if (known := self._given.get(address)) is not None or self._disk is None:
            return known or []
        found = self._disk.execute("SELECT trust, name FROM given WHERE address = ?", (_hash(address),))
        return [(self._trusts[number], name) for number, name in found]

    def is_taken(self, name: str) -> bool:
        """Tell whether a picture has a name already."""
        if key(name) in self._taken:
            return True
        found = self._disk and self._disk.execute("SELECT 1 FROM taken WHERE name = ?", (_hash(key(name)),)).fetchone()
        return bool(found)

    def note(self, address: str, trust: Trust, name: str) -> None:
        """Take down a name. Raises PickCrateError if there is no room for more."""
        if self._disk is None and len(self._taken) < _MOST_IN_MEMORY:
            self._taken.add(key(name))
            self._given.setdefault(address, []).append((trust, name))
            return
        try:
            if self._disk is None:
                self._disk = _opened()
            if trust not in self._trusts:
                self._trusts.append(trust)
            self._disk.execute("INSERT OR IGNORE INTO taken VALUES (?)", (_hash(key(name)),))
            row = _hash(address), self._trusts.index(trust), name
            self._disk.execute("INSERT INTO given VALUES (?, ?, ?)", row)
            for other, former in self._given.pop(address, ()):  # an address is all in one place
                self.note(address, other, former)
        except sqlite3.Error as error:
            hint = "make room there, or do without names: --save to a .txt, or --format urls alone"
            raise PickCrateError(f"the folder for temporary files is full: {error}", hint=hint) from error

    def close(self) -> None:
        """Let the file go."""
        if self._disk is not None:
            self._disk.close()


def _opened() -> sqlite3.Connection:
    disk = sqlite3.connect("", isolation_level=None)  # a file without a name, which goes away by itself
    for line in ("synchronous = OFF", "journal_mode = OFF", "cache_size = -32000", "locking_mode = EXCLUSIVE"):
        disk.execute(f"PRAGMA {line}")
    disk.execute("CREATE TABLE taken (name INTEGER PRIMARY KEY)")
    disk.execute("CREATE TABLE given (address INTEGER, trust INTEGER, name TEXT)")
    disk.execute("CREATE INDEX given_by_address ON given (address)")
    disk.execute("BEGIN")
    return disk


def _hash(text: str) -> int:
    return int.from_bytes(blake2b(text.encode("utf-8", "surrogatepass"), digest_size=8).digest(), "big", signed=True)
