"""Opening and closing the doors of one run."""

from collections.abc import Iterator
from contextlib import closing

from pickcrate.fetch.brought import Brought
from pickcrate.fetch.robots import Rules
from pickcrate.fetch.transfer import CurlFetcher
from pickcrate.run import looking, packing
from pickcrate.run.events import LookEvent, PackEvent
from pickcrate.run.order import Destination, Order


def look(order: Order) -> Iterator[LookEvent]:
    """Run ``look`` with doors of its own."""
    brought = Brought()
    with closing(CurlFetcher(order.manners, brought)) as fetcher:
        yield from looking.named(looking.look(order, fetcher, brought), order.naming)


def pack(order: Order, into: Destination) -> Iterator[PackEvent]:
    """Run ``pack`` with doors of its own: one for pages and one for pictures, since both are open at a time."""
    brought = Brought()
    rules: dict[str, Rules] = {}
    with (
        closing(CurlFetcher(order.manners, brought, rules)) as pages,
        closing(CurlFetcher(order.manners, brought, rules)) as pictures,
    ):
        yield from packing.pack(order, looking.look(order, pages, brought), pictures, into)
