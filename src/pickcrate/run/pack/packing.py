"""Pack: what look finds, fetched into a crate; or only the paths that it would get there."""

from collections.abc import Generator, Iterator
from pathlib import Path

from pickcrate.addresses.url import brief
from pickcrate.crate.origin import note_origin
from pickcrate.crate.places import unwritable
from pickcrate.crate.store import Crate, rehearsed
from pickcrate.fetch.exchange import Fetcher
from pickcrate.name import so_far
from pickcrate.orders.order import Destination, Order
from pickcrate.run.events import Archived, CrateOpened, Found, LookEvent, PackEvent, Planned
from pickcrate.run.pack.elsewhere import Elsewhere, crates_named
from pickcrate.run.pack.filling import Filling
from pickcrate.run.pack.sightings import Sightings
from pickcrate.run.placing import crate_name, crate_root, origin_of, root_by_title


def pack(order: Order, found: Iterator[LookEvent], fetcher: Fetcher, into: Destination) -> Iterator[PackEvent]:
    """Fetch every picture of ``found`` into the crate; yield what happens.

    The crate is opened when the first picture is there to put into it. Whatever ends the run, Ctrl-C and a full
    disk included, what was fetched is written down and listed.
    """
    crate_name(into.name)  # what is wrong with names is said before anything is asked for
    excepted = list(crates_named(order.excepts, into.into))
    # Where a run takes no more than some it does not see what else is there.
    sightings = Sightings(is_on=not order.choice.limit)
    first = yield from _up_to_first_pick(sightings.through(found))
    if first is None:
        return
    root = crate_root(into, first.image, order)
    with Crate(root) as crate:
        origin = origin_of(into, first.image)
        had_other_title = bool(origin) and root != root_by_title(into, first.image)
        yield CrateOpened(root, crate.ledger.regained, len(crate.ledger.moved), had_other_title)
        others = _but(root, excepted)
        twins = None
        if order.drops_alike:
            from pickcrate.run.pack.twinned import TwinsOfRun  # noqa: PLC0415 (it needs NumPy)

            twins = TwinsOfRun(crate.places, crate.ledger, others)
        filling = Filling(order, crate, fetcher, Elsewhere(others), sightings, twins)
        try:
            crate.check_room()
            if origin:
                note_origin(crate.places, origin)
            yield from filling.run(_chain(first, found))
        except OSError as error:
            raise unwritable(root, error) from error
        finally:
            crate.drop_incoming()
            crate.ledger.commit()
            crate.write_list()
            if into.parquet:
                crate.write_parquet()
            if into.credits:
                crate.write_credits()
        if not order.choice.limit:  # which may end in the middle of a page
            crate.ledger.mark_ended()
        if into.archived:
            from pickcrate.crate.archive import archive  # noqa: PLC0415 (most crates stay folders)

            yield Archived(archive(crate.places, crate.ledger))


def plan(
    order: Order, found: Iterator[LookEvent], fetcher: Fetcher, into: Destination
) -> Iterator[LookEvent | Planned]:
    """Yield ``found``, and after each pick the path that ``pack`` would give it. No picture is fetched."""
    crate_name(into.name)
    excepted = list(crates_named(order.excepts, into.into))
    first = yield from _up_to_first_pick(found)
    if first is None:
        return
    root = crate_root(into, first.image, order)
    elsewhere = Elsewhere(_but(root, excepted))
    with rehearsed(root) as crate:
        for event in _chain(first, found):
            yield event
            if isinstance(event, Found) and event.image.is_picked:
                version = fetcher.version(event.image.url, event.image.asker.trust)
                entry = crate.reserve(event.image, order.naming, version)
                measures = event.image.best.measures
                there = crate.holds(entry)
                other = "" if there else elsewhere.crate_with(brief(event.image.url))
                path = root / (entry.file if there else so_far(entry.name, measures))
                yield Planned(event.image, path, there, is_final=there or measures.type is not None, elsewhere=other)


def _but(root: Path, crates: list[Path]) -> list[Path]:
    """Return the crates but for the one at ``root``: what that holds is there."""
    return [path for path in crates if path.resolve() != root.resolve()]


def _up_to_first_pick(found: Iterator[LookEvent]) -> Generator[LookEvent, None, Found | None]:
    """Yield what comes before the first picture that is picked, and return that; None if there is none."""
    for event in found:
        if isinstance(event, Found) and event.image.is_picked:
            return event
        yield event
    return None


def _chain(first: Found, rest: Iterator[LookEvent]) -> Iterator[LookEvent]:
    yield first
    yield from rest
