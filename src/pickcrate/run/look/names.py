"""The names that ``pack`` would give in an empty crate, for those who look."""

from collections.abc import Callable, Iterator
from contextlib import closing
from typing import TYPE_CHECKING

from pickcrate.addresses.url import brief
from pickcrate.name import Naming, key, with_single_braces
from pickcrate.run.events import Found, LookEvent
from pickcrate.values.trust import Trust

if TYPE_CHECKING:
    from pickcrate.run.look.spilled import Spilled

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
            yield Found(event.image, with_single_braces(name))


class _Given:
    """Names that are given: in memory for a page or a list of usual length, then on the disk."""

    def __init__(self) -> None:
        self._taken: set[str] = set()
        self._given: dict[str, list[tuple[Trust, str]]] = {}
        self._disk: Spilled | None = None

    def to(self, address: str) -> list[tuple[Trust, str]]:
        """Return the names that pictures of an address have, each with whose it is."""
        known = self._given.get(address)
        return known if known is not None else self._disk.to(address) if self._disk is not None else []

    def is_taken(self, name: str) -> bool:
        """Tell whether a picture has a name already."""
        name_key = key(name)
        return name_key in self._taken or (self._disk is not None and self._disk.has(name_key))

    def note(self, address: str, trust: Trust, name: str) -> None:
        """Take down a name. Raises PickCrateError if there is no room for more."""
        if self._disk is None and len(self._taken) < _MOST_IN_MEMORY:
            self._taken.add(key(name))
            self._given.setdefault(address, []).append((trust, name))
            return
        if self._disk is None:
            from pickcrate.run.look.spilled import Spilled  # noqa: PLC0415 (most looks have fewer)

            self._disk = Spilled()
        given = [(trust, name), *self._given.pop(address, ())]  # an address is all in one place
        self._disk.note(address, [(trust, name, key(name)) for trust, name in given])

    def close(self) -> None:
        """Let the file go."""
        if self._disk is not None:
            self._disk.close()
