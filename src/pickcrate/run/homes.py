"""Where pictures are held, crate or store: their rows with what they look like, and their bytes."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from pickcrate.addresses.url import without_userinfo
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import StoreError, UsageError
from pickcrate.run.auditing import locate
from pickcrate.run.pack.twinned import Home, fingerprint_of, octets_of, remember
from pickcrate.stores.hauled import Hauled, hauled_at, is_haul, picture, rows
from pickcrate.stores.papers import Shard
from pickcrate.twins.fingerprint import Fingerprint, from_text

_TEXTS = ("file", "url", "page", "alt", "item", "item_url", "sha256", "fingerprint")


def home(name: str, into: Path) -> Home:
    """Return the crate or the store that is named. Raises UsageError, StoreError."""
    return StoreHome(name) if is_haul(name) else CrateHome(locate(name, into))


class CrateHome:
    """A crate, by its folder."""

    def __init__(self, root: Path) -> None:
        self.root: Path | None = root
        self.name, self.address = root.name, str(root)
        self._places = Places(root)

    def held(self) -> Iterator[tuple[Entry, Fingerprint | None]]:
        """Yield each file with its fingerprint, which the ledger has from now on."""
        remember(self._places.root)
        seen: set[str] = set()
        with LedgerReader.opened(self._places, for_files=True) as ledger:
            for entry in ledger.rows(State.HELD):
                if entry.file not in seen and self._places.has(entry.file):
                    seen.add(entry.file)
                    yield entry, fingerprint_of(self._places, entry)

    def octets(self, entry: Entry) -> bytes:
        """Return the file of a row; nothing where it cannot be read."""
        return octets_of(self._places, entry)


class StoreHome:
    """What a haul has left in a store, if its lists tell what pictures look like."""

    root: Path | None = None

    def __init__(self, address: str) -> None:
        self._hauled: Hauled = hauled_at(address)
        self.address = without_userinfo(address)
        self.name = self.address.rstrip("/").rpartition("/")[2]
        self._places: dict[str, tuple[Shard, dict[str, Any]]] = {}
        if not self._hauled.haul.has_fingerprints:
            hint = "haul its list with --fingerprints; of a crate they are made when they are needed"
            raise UsageError(f"{self.address}: its lists do not tell what pictures look like", hint=hint)

    def held(self) -> Iterator[tuple[Entry, Fingerprint | None]]:
        """Yield each file with its fingerprint, as its list has that."""
        for shard in self._hauled.shards:
            for row in rows(self._hauled.store, shard):
                if row["file"] not in self._places:
                    self._places[row["file"]] = shard, {name: row[name] for name in ("file", "offset", "bytes")}
                    told: dict[str, Any] = {name: row[name] or "" for name in _TEXTS}
                    told |= {name: row[name] for name in ("width", "height", "bytes")}
                    yield Entry(row["row"], row["url"], row["file"], **told), from_text(told["fingerprint"])

    def octets(self, entry: Entry) -> bytes:
        """Return the file of a row; nothing where it cannot be read."""
        try:
            return picture(self._hauled.store, *self._places[entry.file])
        except (KeyError, StoreError):
            return b""
