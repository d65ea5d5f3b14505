"""The names that ``pack`` would give in an empty crate, for those who look."""

from collections.abc import Callable, Iterator

from pickcrate.addresses import brief
from pickcrate.name import Naming, key
from pickcrate.run.events import Found, LookEvent
from pickcrate.values import Trust


def named(events: Iterator[LookEvent], naming: Naming, version: Callable[[str, Trust], str]) -> Iterator[LookEvent]:
    """Yield ``events``, picks with the names that ``pack`` would give in an empty crate: equal ones numbered.

    ``version`` is the hash of what a source brought along for an address: with other bytes it is another picture.
    """
    taken: set[str] = set()
    given: dict[str, list[tuple[Trust, str]]] = {}
    for event in events:
        if not isinstance(event, Found) or not event.image.is_picked:
            yield event
            continue
        url, trust = event.image.url, event.image.asker.trust
        known = given.setdefault(brief(url), [])
        same = (
            name for other, name in known if other.source == trust.source or version(url, other) == version(url, trust)
        )
        name = next(same, None)
        if name is None:
            name = naming.spell(event.image)
            if key(name) in taken:
                name = naming.next_free(event.image, lambda spelled: key(spelled) in taken)
            taken.add(key(name))
            known.append((trust, name))
        yield Found(event.image, name)
