"""The pages of one source, a folder, an archive, a log, taken together: its lists come before what they lead to."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import TypeVar

from pickcrate.addresses.url import without_fragment
from pickcrate.items.entries import entries
from pickcrate.read.pages.document import read_document
from pickcrate.read.reading import Reading
from pickcrate.run.sources.opened import Opened
from pickcrate.run.sources.readings import MOST_OCTETS, loaded
from pickcrate.values.page import Page

P = TypeVar("P")


def lists_first(pages: Iterable[Opened]) -> Iterator[Opened]:
    """Yield the pages of a folder, those first that lead to most of the others; a source alone stays alone.

    If there is no room to hold them all, the rest follows as it comes.
    """
    waiting = iter(pages)
    held: list[Opened] = []
    room = MOST_OCTETS
    for opened in waiting:
        held.append(opened)
        room -= len(opened.octets)
        if room < 0 or opened.rest is not None:  # a list is read as it comes
            break
    if len(held) > 1:
        addresses = [opened.address for opened in held]
        held = _in_order(held, addresses, lambda opened: _page(opened.octets, opened.address, opened.fields))
    yield from held
    yield from waiting


def order_documents(reading: Reading) -> None:
    """Put the pages of a package, a log or an archive in order: those first that lead to most of the others."""
    if len(reading.documents) < 2:
        return
    flaws = list(reading.flaws)
    pages = list(loaded(reading))
    reading.flaws[:] = flaws  # they are said when the pages are read
    addresses = [document.address for document, _ in pages]
    ordered = _in_order(pages, addresses, lambda page: _page(page[1], page[0].address, page[0].fields))
    reading.documents[: len(ordered)] = [document for document, _ in ordered]


def _page(octets: bytes, address: str, fields: Mapping[str, str]) -> Page:
    return read_document(octets, source="", address=address, fields=fields)


def _in_order(pages: Sequence[P], addresses: Sequence[str], read: Callable[[P], Page]) -> list[P]:
    """Return pages in the order of how many of the others their entries are; those of which as many, as they were."""
    known = set(map(without_fragment, addresses))
    leads = [-_leads(page, known, read) for page in pages]
    return [pages[place] for place in sorted(range(len(pages)), key=leads.__getitem__)]


def _leads(page: P, known: set[str], read: Callable[[P], Page]) -> int:
    try:
        return sum(entry.url in known for entry in entries(read(page)))
    except Exception:  # noqa: BLE001 (a page may be made to trip up any code; what is wrong is said when it is read)
        return 0
