"""What other crates hold: by its address or by its bytes it is not fetched again."""

from collections.abc import Iterable, Iterator
from hashlib import blake2b
from pathlib import Path

from pickcrate.addresses.lasting import known_by
from pickcrate.crate.entry import VERSION_MARK
from pickcrate.crate.places import Places, crate_at, is_crate
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import UsageError
from pickcrate.tilde import without_tilde


def crates_named(names: Iterable[str], into: Path) -> Iterator[Path]:
    """Yield the crates that are named, by their paths or their names under ``into``; ``*`` stands for any part of one.

    Raises UsageError for a name that no crate has; a pattern may match none yet.
    """
    for name in names:
        if (found := crate_at(name, into)) is not None:
            yield found
        elif "*" in name:
            pattern = without_tilde(name)
            folder = pattern.parent if "/" in name else into
            yield from sorted(path for path in folder.glob(pattern.name) if is_crate(path))
        else:
            from pickcrate.run.sources.meant import crate_meant  # noqa: PLC0415 (something is wrong)

            hint = "it is the path of a crate, or its name there; * stands for any part of it"
            words = f"--except {name}: no crate there, nor under {into}"
            raise UsageError(words, hint=crate_meant(name, into) or hint)


class Elsewhere:
    """The addresses and the bytes that some crates hold, as short hashes: a million pictures take some 200 MB."""

    def __init__(self, roots: Iterable[Path]) -> None:
        """Read the ledgers of crates. Raises CrateError for one that cannot be read."""
        self._names: list[str] = []
        self._known: dict[int, int] = {}
        for root in roots:
            self._names.append(root.name)
            with LedgerReader.opened(Places(root)) as ledger:
                for address, *others in ledger.held(("address", "url", "sha256")):
                    for mark in {str(address).partition(VERSION_MARK)[0], *filter(None, others)}:
                        self._known.setdefault(_short(known_by(str(mark))), len(self._names) - 1)

    def has(self, name: str) -> bool:
        """Tell whether a crate is among them, by its name."""
        return name in self._names

    def crate_with(self, mark: str) -> str:
        """Return the name of the crate that holds an address, or bytes by their SHA-256; empty if none does."""
        place = self._known.get(_short(known_by(mark))) if self._known else None
        return self._names[place] if place is not None else ""


def _short(text: str) -> int:
    return int.from_bytes(blake2b(text.encode("utf-8", "surrogatepass"), digest_size=12).digest())
