"""Opening and closing the doors of one run. Who leaves a run before its end closes it, and with it the doors."""

import os
from collections.abc import Callable, Generator, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from pickcrate.errors import UsageError
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher
from pickcrate.fetch.network import LateFetcher, Network
from pickcrate.hashes import sha256
from pickcrate.orders.order import Destination, Order
from pickcrate.run.events import Found, LookEvent, PackEvent, Planned, Progress
from pickcrate.run.look import looking, names
from pickcrate.run.look.choosing import choose
from pickcrate.run.sources.opening import failed_source, typed_request

if TYPE_CHECKING:
    from pickcrate.browser.door import BrowserFetcher
    from pickcrate.browser.visited import Visited
    from pickcrate.comparison import Comparison, Difference
    from pickcrate.crate.inspection import Discrepancy
    from pickcrate.fetch.cache import Cache
    from pickcrate.run.comparing import Pair, Sides
    from pickcrate.run.look.holdings import Holdings
    from pickcrate.sheets.tile import Tile

GoOn = Callable[[], None] | None
"""Waits for the user, who does something in the window of a browser first."""


def look(
    order: Order, *, with_names: bool = True, go_on: GoOn = None, brought: Brought | None = None
) -> Generator[LookEvent, None, None]:
    """Run ``look`` with doors of its own; without names a list passes in flat memory, however long it is.

    What sources bring along goes into ``brought``, for who wants it later.
    """
    brought = brought if brought is not None else Brought(order.root)
    with _network(order) as network, closing(_pages(order, brought, network, go_on)) as fetcher:
        order = replace(order, compares_shown=order.drops_alike)
        found = _chosen(order, fetcher, brought)
        yield from names.named(found, order.naming, brought.version) if with_names else found


def pack(order: Order, into: Destination, *, go_on: GoOn = None) -> Generator[PackEvent, None, None]:
    """Run ``pack`` with doors of its own."""
    from pickcrate.run.look.holdings import Holdings
    from pickcrate.run.pack import packing

    with _found_beside(order, go_on, Holdings(into, order)) as (found, pictures):
        yield from packing.pack(order, found, pictures, into)


def sheet(order: Order, *, go_on: GoOn = None) -> "Generator[LookEvent | Progress | Tile, None, None]":
    """Run ``look``, and yield a tile for each picture, with what the page shows of it."""
    from pickcrate.run import previewing

    order = replace(order, compares_shown=order.drops_alike)
    with _found_beside(order, go_on) as (found, pictures):
        yield from previewing.preview(names.named(found, order.naming, pictures.version), pictures)


def compare(order: Order, sides: "Sides", *, go_on: GoOn = None) -> "Generator[LookEvent | Comparison, None, None]":
    """Hold two crates, lists or pages against each other; or one crate against itself, as it was on a day."""
    from pickcrate.run import comparing

    if sides.old_crate is not None and sides.since:
        yield comparing.history(sides.old_crate, sides.since)
        return

    def side(source: str, crate: Path | None) -> Path | Iterator[LookEvent]:
        return crate if crate is not None else look(replace(order, sources=(source,)), with_names=False, go_on=go_on)

    yield from comparing.compared(side(sides.old, sides.old_crate), side(sides.new, sides.new_crate))


def pairs(order: Order, sides: "Sides", differences: "tuple[Difference, ...]") -> "Iterator[Pair]":
    """Yield differences with what there is to see of both sides."""
    from pickcrate.run import comparing

    with _network(order) as network, closing(network.fetcher(Brought())) as fetcher:
        yield from comparing.pairs(differences, sides, fetcher)


def tiles(order: Order, brought: Brought, found: list[Found]) -> "list[Tile]":
    """Return a tile for each picture of a look that is over; ``brought`` is what its sources brought along."""
    from pickcrate.run import previewing
    from pickcrate.sheets.tile import Tile

    with _network(order) as network, closing(network.fetcher(brought)) as fetcher:
        return [event for event in previewing.preview(iter(found), fetcher) if isinstance(event, Tile)]


def plan(order: Order, into: Destination, *, go_on: GoOn = None) -> Generator[LookEvent | Planned, None, None]:
    """Run ``pack`` up to the names that it would give."""
    from pickcrate.run.look.holdings import Holdings
    from pickcrate.run.pack import packing

    brought = Brought(order.root)
    with _network(order) as network, closing(_pages(order, brought, network, go_on)) as fetcher:
        found = _chosen(order, fetcher, brought, Holdings(into, order))
        yield from packing.plan(order, found, fetcher, into)


def save(order: Order, write: "Callable[[Visited], None]", *, go_on: GoOn = None) -> "Visited":
    """Visit one page in a browser, and hand what came of it to ``write``. Raises SourceError if no page came."""
    with _network(order) as network, closing(_browser(order, Brought(), network, go_on)) as browser:
        visited = browser.visit(typed_request(order.sources[0]), keeps=True)
        if visited.failure is not None:
            raise failed_source(order.sources[0], visited.failure)
        write(visited)
    return visited


def repair(root: Path, findings: "list[Discrepancy]", order: Order) -> Iterator[PackEvent]:
    """Fetch again what an audit found missing, altered or broken."""
    from pickcrate.run import auditing
    from pickcrate.run.pack import packing

    with (
        _network(order) as network,
        closing(network.fetcher(Brought())) as pictures,
    ):
        released = auditing.release(root, findings, order.today)
        found = auditing.described(released, pictures, order.max_pixels)
        yield from packing.pack(order, found, pictures, Destination(root.name, root.parent))


@contextmanager
def _found_beside(
    order: Order, go_on: GoOn, holdings: "Holdings | None" = None
) -> Iterator[tuple[Iterator[LookEvent], LateFetcher]]:
    """Yield what is found and a door for the pictures: two doors, since pages and pictures are fetched at a time."""
    brought = Brought(order.root)
    with (
        _network(order) as network,
        closing(network.fetcher(brought)) as pictures,
        closing(_pages(order, brought, network, go_on)) as pages,
    ):
        yield _chosen(order, pages, brought, holdings), pictures


def _chosen(
    order: Order, fetcher: Fetcher, brought: Brought, holdings: "Holdings | None" = None
) -> Iterator[LookEvent]:
    """Yield what is found, with what is chosen of it."""
    found = looking.look(order, fetcher, brought, holdings)
    return choose(found, order.choice, order.naming.spell, has_lists=order.has_lists)


def _pages(order: Order, brought: Brought, network: Network, go_on: GoOn) -> Fetcher:
    """Return the door for pages: with a browser behind it, if they are to be visited."""
    is_browser = order.browsing.is_on
    return _browser(order, brought, network, go_on) if is_browser else network.fetcher(brought)


def _browser(order: Order, brought: Brought, network: Network, go_on: GoOn) -> "BrowserFetcher":
    """Return the door with a browser behind it. Raises UsageError without the extra that drives one."""
    try:
        from pickcrate.browser.door import BrowserFetcher
    except ModuleNotFoundError as error:
        if not (error.name or "").startswith("playwright"):
            raise
        hint = "pip install 'pickcrate[browser]'"
        raise UsageError("pages in a browser need the browser extra", hint=hint) from None
    fetcher = network.fetcher(brought)
    return BrowserFetcher(fetcher, order.browsing, order.manners, brought, network.shared, go_on)


@contextmanager
def _network(order: Order) -> Iterator[Network]:
    def open_cache() -> "Cache":
        import platformdirs

        from pickcrate.fetch.cache import Cache

        path = platformdirs.user_cache_path("pickcrate", appauthor=False) / "answers.sqlite"
        return Cache(path, fresh=order.manners.fresh, credentials=credentials_of(order))

    with closing(Network(order.manners, open_cache)) as network:
        yield network


def credentials_of(order: Order) -> str:
    """Return what tells apart the answers that different visitors get: a hash of all by which we may be known."""
    manners, browsing = order.manners, order.browsing
    netrc = Path(os.environ.get("NETRC") or Path.home() / ".netrc")
    brought = b"".join(path.read_bytes() for path in (Path(manners.cookies or os.devnull), netrc) if path.is_file())
    proxies = sorted((name.lower(), value) for name, value in os.environ.items() if name.lower().endswith("_proxy"))
    known_by = (*manners.fields, manners.user_agent, manners.proxy, str(proxies))
    said = "\n".join((*known_by, browsing.profile, browsing.at) if browsing.is_on else known_by)
    return sha256(brought + b"\0" + said.encode("utf-8", "surrogateescape")).hexdigest()
