"""Look: sources to pages to references to images, with their candidates and names-to-be. Keeps no picture."""

import io
from collections.abc import Iterator

from pickcrate.addresses import absolute
from pickcrate.errors import PickCrateError, SourceError, UsageError
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher
from pickcrate.find import find
from pickcrate.fullsize import resolve
from pickcrate.group import group
from pickcrate.name import Naming, key
from pickcrate.read.addresslist import read_addresses
from pickcrate.read.document import read_document
from pickcrate.read.recognise import Kind
from pickcrate.run.events import Found, ListOpened, LookEvent, PageRead, RowRefused, SourceFailed
from pickcrate.run.order import Order
from pickcrate.run.sources import Opened, open_source
from pickcrate.values import Flaw


def look(order: Order, fetcher: Fetcher, brought: Brought) -> Iterator[LookEvent]:
    """Yield what is found, source by source.

    With a single source its error is raised; with several it is an event, and SourceError is raised at the end only
    if none could be read.
    """
    base = _base(order)
    number, read = 1, 0
    for source in order.sources:
        try:
            for opened in open_source(source, fetcher):
                if opened.folder is not None:
                    brought.folders.append(opened.folder)
                for event in _look_into(opened, order, base, number):
                    if isinstance(event, Found):
                        number = event.image.number + 1
                    yield event
            read += 1
        except PickCrateError as error:
            if len(order.sources) == 1:
                raise
            yield SourceFailed(source, error)
    if not read:
        raise SourceError("none of the sources could be read")


def _base(order: Order) -> str:
    if not order.base:
        return ""
    base = absolute(order.base, "about:blank")
    if base is None or base.startswith("about:"):
        raise UsageError(
            f"--base {order.base!r} is not a whole address",
            hint="for example --base https://example.org/kites/",
        )
    return base


def _look_into(opened: Opened, order: Order, base: str, number: int) -> Iterator[LookEvent]:
    if opened.kind is Kind.ADDRESSES:
        yield ListOpened(opened.source)
        # TextIOWrapper decodes as it reads: the list is never held as text too
        lines = io.TextIOWrapper(io.BytesIO(opened.octets), encoding="utf-8", errors="replace")
        for row in read_addresses(lines, source=opened.source, first_number=number):
            if isinstance(row, Flaw):
                yield RowRefused(opened.source, row)
            else:
                yield Found(resolve(row, full=bool(order.full)))
        return
    page = read_document(opened.octets, source=opened.source, address=opened.address, charset=opened.charset, base=base)
    images = group(page, find(page), first_number=number)
    yield PageRead(page.source, page.address, page.title, len(images), page.flaws)
    for image in images:
        yield Found(resolve(image, full=order.full is not False))


def named(events: Iterator[LookEvent], naming: Naming) -> Iterator[LookEvent]:
    """Yield ``events`` with the names that ``pack`` would give in an empty crate: equal ones numbered."""
    taken: dict[str, int] = {}
    given: dict[str, str] = {}
    for event in events:
        if not isinstance(event, Found):
            yield event
            continue
        image = event.image
        if image.url not in given:
            name = naming.spell(image)
            k = taken[key(name)] = taken.get(key(name), 0) + 1
            given[image.url] = name if k == 1 else naming.spell(image, k)
        yield Found(image, given[image.url])
