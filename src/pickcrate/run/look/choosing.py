"""Choosing among what the criteria kept: ``--sort``, ``--limit``. Over all sources of a run, in one order."""

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from pickcrate.orders.choice import Choice, SortKey
from pickcrate.run.events import Found, ListEnd, LookEvent, NextPagesRead, PageRead
from pickcrate.values.image import Image, Ruling, Verdict


def choose(
    events: Iterator[LookEvent], choice: Choice, name_of: Callable[[Image], str], *, has_lists: bool = False
) -> Iterator[LookEvent]:
    """Yield ``events``, pictures in the order asked for, those beyond the limit dropped.

    Only a sort holds them all; the largest come first, what is not known last, equals as on the page. Of what
    ``has_lists`` of pages no more pages are read once the limit is reached.
    """
    if choice.sort is not SortKey.PAGE:
        events = _sorted(events, choice.sort, name_of)
    left, pages = choice.limit, 0
    for event in events:
        if isinstance(event, PageRead):
            if left == 0 and has_lists and pages and choice.sort is SortKey.PAGE:
                yield NextPagesRead(event.source, pages, ListEnd.LIMIT)
                return
            pages += 1
        if left is not None and isinstance(event, Found) and event.image.is_picked:
            if left:
                left -= 1
            else:
                verdict = Verdict("limit", Ruling.DROP, f"beyond the first {choice.limit:,}")
                event = Found(replace(event.image, verdicts=(*event.image.verdicts, verdict)), event.name)  # noqa: PLW2901
        yield event


def _sorted(events: Iterator[LookEvent], key: SortKey, name_of: Callable[[Image], str]) -> Iterator[LookEvent]:
    found: list[Found] = []
    for event in events:
        if isinstance(event, Found):
            found.append(event)
        else:
            yield event
    if key is SortKey.NAME:
        found.sort(key=lambda event: name_of(event.image).casefold())
    elif key is SortKey.URL:
        found.sort(key=lambda event: event.image.url)
    else:
        found.sort(key=lambda event: _size(event.image, key), reverse=True)
    yield from found


def _size(image: Image, key: SortKey) -> int:
    measures = image.best.measures
    width, height = (side.value if side else 0 for side in (measures.width, measures.height))
    match key:
        case SortKey.WIDTH:
            return width
        case SortKey.PIXELS:
            return width * height
        case _:
            return measures.bytes.value if measures.bytes else 0
