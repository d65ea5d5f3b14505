"""A feed as one list: its entries are the items, and what each of them shows comes in their order."""

import itertools
from collections.abc import Callable, Iterable, Iterator

from msgspec.structs import replace

from pickcrate.errors import PickCrateError
from pickcrate.item import NO_ITEM, NextPage
from pickcrate.read.reading import Document, Reading
from pickcrate.run.events import PageRead
from pickcrate.run.opened import Opened
from pickcrate.run.readings import loaded
from pickcrate.run.surveying import Survey
from pickcrate.values import Reference

ReadDocument = Callable[[Document, bytes], tuple[PageRead, Survey]]
"""Returns a document, and what it refers to."""


def survey_feed(opened: Opened, reading: Reading, read: ReadDocument, *, has_region: bool) -> tuple[PageRead, Survey]:
    """Return a feed as a page, with all its references: those that it names itself, and those of its entries' HTML.

    What it names stands in no element, and so outside any region that was asked for.

    Raises what ``read`` raises for a region that none of its entries has.
    """
    surveyed = Survey(trust=opened.trust, rights=dict(reading.rights), entries=reading.entries)
    surveyed.next_page = NextPage(reading.next_page) if reading.next_page else None
    surveyed.references = [
        replace(reference, trust=opened.trust) for reference in _in_order(reading, read, surveyed, has_region)
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


def _in_order(reading: Reading, read: ReadDocument, surveyed: Survey, has_region: bool) -> Iterator[Reference]:
    """Yield the references of a feed, and add to the survey what its documents say besides."""
    references = [replace(one, is_outside=True) for one in reading.references] if has_region else reading.references
    numbers = itertools.count()
    named = 0
    lacking: PickCrateError | None = None
    has_read = False
    for document, octets in loaded(reading):
        yield from _numbered(references[named : document.after], numbers)
        named = document.after
        try:
            head, inner = read(document, octets)
        except PickCrateError as error:
            lacking = lacking or error
            continue
        has_read = True
        reading.flaws.extend(head.flaws)
        surveyed.rights |= inner.rights
        surveyed.passed += inner.passed
        own = inner.references
        if document.item != NO_ITEM:
            own = [replace(reference, item=document.item) for reference in own]
        yield from _numbered(own, numbers)
    if lacking is not None and not has_read:
        raise lacking
    yield from _numbered(references[named:], numbers)


def _numbered(references: Iterable[Reference], numbers: Iterator[int]) -> Iterator[Reference]:
    """Yield references with their clusters numbered anew, since each document has a series of its own."""
    anew: dict[int, int] = {}
    for reference in references:
        if reference.cluster not in anew:
            anew[reference.cluster] = next(numbers)
        yield replace(reference, cluster=anew[reference.cluster])
