"""A feed as one list: its entries are the items, and what each of them shows comes in their order."""

import itertools
from collections.abc import Callable, Iterable, Iterator

from msgspec.structs import replace

from pickcrate.errors import NothingPickedError
from pickcrate.read.reading import Document, Reading
from pickcrate.run.events import PageRead
from pickcrate.run.sources.opened import Opened
from pickcrate.run.sources.readings import loaded
from pickcrate.run.survey.surveying import Survey
from pickcrate.text.typed import folding_for
from pickcrate.values.item import NO_ITEM, Item, NextPage
from pickcrate.values.reference import Reference
from pickcrate.values.wanted import NOWHERE, Region

ReadDocument = Callable[[Document, bytes, Region], tuple[PageRead, Survey]]
"""Returns a document, and what it refers to; what of that lies in a region."""

_MOST_SHOWN = 12


def survey_feed(opened: Opened, reading: Reading, read: ReadDocument, region: Region) -> tuple[PageRead, Survey]:
    """Return a feed as a page, with all its references: those that it names itself, and those of its entries' HTML.

    An entry is introduced by its title, as a section by its heading. What it names stands in no element, and so
    outside what a selector selects.

    Raises NothingPickedError for a region that none of its entries has.
    """
    surveyed = Survey(trust=opened.trust, rights=dict(reading.rights), entries=reading.entries)
    surveyed.next_page = NextPage(reading.next_page) if reading.next_page else None
    surveyed.references = [
        replace(reference, trust=opened.trust) for reference in _in_order(reading, read, surveyed, region)
    ]
    head = PageRead(
        opened.source,
        opened.address,
        reading.title,
        0,
        tuple(reading.flaws),
        opened.kind,
        opened.age,
        tuple(surveyed.passed),
        next_page=reading.next_page,
        entries=len(surveyed.entries),
    )
    return head, surveyed


def _in_order(reading: Reading, read: ReadDocument, surveyed: Survey, region: Region) -> Iterator[Reference]:
    """Yield the references of a feed, and add to the survey what its documents say besides."""
    references = reading.references
    if region:
        references = [replace(one, is_outside=_is_outside(one.item, region)) for one in references]
    numbers = itertools.count()
    named = 0
    has_any = not all(one.is_outside for one in references)
    for document, octets in loaded(reading):
        yield from _numbered(references[named : document.after], numbers)
        named = document.after
        inside = Region(within=region.within) if _is_introduced(document.item, region) else region
        try:
            head, inner = read(document, octets, inside)
            has_any = True
        except NothingPickedError:  # it has no such heading
            head, inner = read(document, octets, NOWHERE)
            inner.references = [replace(reference, is_outside=True) for reference in inner.references]
        reading.flaws.extend(head.flaws)
        surveyed.rights |= inner.rights
        surveyed.passed += inner.passed
        own = inner.references
        if document.item != NO_ITEM:
            own = [replace(reference, item=document.item) for reference in own]
        yield from _numbered(own, numbers)
    if region.under and not has_any:
        raise _none_has(region, reading)
    yield from _numbered(references[named:], numbers)


def _is_introduced(item: Item, region: Region) -> bool:
    """Tell whether an entry's title holds one of the texts that introduce a region."""
    return any((fold := folding_for(text))(text) in fold(item.title) for text in region.under)


def _is_outside(item: Item, region: Region) -> bool:
    return bool(region.within) or (bool(region.under) and not _is_introduced(item, region))


def _none_has(region: Region, reading: Reading) -> NothingPickedError:
    titles = dict.fromkeys(entry.title for entry in reading.entries if entry.title)
    there = "; ".join(f"“{title[:60]}”" for title in itertools.islice(titles, _MOST_SHOWN))
    words = f"no entry of {reading.title or 'the feed'} is called so, or has a heading that holds"
    return NothingPickedError(f"{words} {' or '.join(map(repr, region.under))}", hint=f"there are: {there}")


def _numbered(references: Iterable[Reference], numbers: Iterator[int]) -> Iterator[Reference]:
    """Yield references with their clusters numbered anew, since each document has a series of its own."""
    anew: dict[int, int] = {}
    for reference in references:
        if reference.cluster not in anew:
            anew[reference.cluster] = next(numbers)
        yield replace(reference, cluster=anew[reference.cluster])
