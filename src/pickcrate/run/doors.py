"""Opening and closing the doors of one run."""

import os
from collections.abc import Iterator
from contextlib import closing, contextmanager
from hashlib import sha256
from pathlib import Path

import platformdirs

from pickcrate.crate.inspection import Discrepancy
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.cache import Cache
from pickcrate.fetch.exchange import Manners
from pickcrate.fetch.shared import Shared
from pickcrate.fetch.transfer import CurlFetcher
from pickcrate.run import auditing, looking, names, packing, previewing
from pickcrate.run.choosing import choose
from pickcrate.run.events import LookEvent, PackEvent, Planned, Progress
from pickcrate.run.order import Destination, Order
from pickcrate.sheet.tile import Tile


def look(order: Order, *, with_names: bool = True) -> Iterator[LookEvent]:
    """Run ``look`` with doors of its own; without names a list passes in flat memory, however long it is."""
    brought = Brought()
    with _shared(order.manners) as shared, closing(CurlFetcher(order.manners, brought, shared)) as fetcher:
        found = choose(looking.look(order, fetcher, brought), order.choice, order.naming.spell)
        yield from names.named(found, order.naming, brought.version) if with_names else found


def pack(order: Order, into: Destination) -> Iterator[PackEvent]:
    """Run ``pack`` with doors of its own."""
    with _found_beside(order) as (found, pictures):
        yield from packing.pack(order, found, pictures, into)


def sheet(order: Order) -> Iterator[LookEvent | Progress | Tile]:
    """Run ``look``, and yield a tile for each picture, with what the page shows of it."""
    with _found_beside(order) as (found, pictures):
        yield from previewing.preview(names.named(found, order.naming, pictures.version), pictures)


def plan(order: Order, into: Destination) -> Iterator[LookEvent | Planned]:
    """Run ``pack`` up to the names that it would give."""
    brought = Brought()
    with _shared(order.manners) as shared, closing(CurlFetcher(order.manners, brought, shared)) as fetcher:
        found = choose(looking.look(order, fetcher, brought), order.choice, order.naming.spell)
        yield from packing.plan(order, found, fetcher, into)


def repair(root: Path, findings: list[Discrepancy], order: Order) -> Iterator[PackEvent]:
    """Fetch again what an audit found missing, altered or broken."""
    with (
        _shared(order.manners) as shared,
        closing(CurlFetcher(order.manners, Brought(), shared)) as pictures,
    ):
        found = auditing.release(root, findings, order.today)
        yield from packing.pack(order, found, pictures, Destination(root.name, root.parent))


@contextmanager
def _found_beside(order: Order) -> Iterator[tuple[Iterator[LookEvent], CurlFetcher]]:
    """Yield what is found and a door for the pictures: two doors, since pages and pictures are fetched at a time."""
    brought = Brought()
    with (
        _shared(order.manners) as shared,
        closing(CurlFetcher(order.manners, brought, shared)) as pages,
        closing(CurlFetcher(order.manners, brought, shared)) as pictures,
    ):
        yield choose(looking.look(order, pages, brought), order.choice, order.naming.spell), pictures


@contextmanager
def _shared(manners: Manners) -> Iterator[Shared]:
    path = platformdirs.user_cache_path("pickcrate", appauthor=False) / "answers.sqlite"
    with closing(Cache(path, fresh=manners.fresh, credentials=_credentials(manners))) as cache:
        yield Shared(cache, manners.cookies)


def _credentials(manners: Manners) -> str:
    """Return what tells apart the answers that different visitors get: a hash of all by which we may be known."""
    netrc = Path(os.environ.get("NETRC") or Path.home() / ".netrc")
    brought = b"".join(path.read_bytes() for path in (Path(manners.cookies or os.devnull), netrc) if path.is_file())
    proxies = sorted((name.lower(), value) for name, value in os.environ.items() if name.lower().endswith("_proxy"))
    said = "\n".join((*manners.fields, manners.user_agent, manners.proxy, str(proxies)))
    return sha256(brought + b"\0" + said.encode("utf-8", "surrogateescape")).hexdigest()
