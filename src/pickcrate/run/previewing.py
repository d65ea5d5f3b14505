"""Previewing: a tile for each picture of a look, from what the page itself shows of it; or for each of a crate."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from itertools import islice
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import measures_of_file
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import StoreError, UsageError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.media.header import read_header
from pickcrate.run.events import Found, LookEvent, Progress
from pickcrate.run.pack.remembering import remembered
from pickcrate.sheets.preview import Preview, make_preview
from pickcrate.sheets.tile import Tile
from pickcrate.stores.hauled import Hauled, picture, rows
from pickcrate.stores.papers import Shard
from pickcrate.values.measures import Measures
from pickcrate.values.outcome import Outcome

MOST_PICTURES = 5000
_ALL_PREVIEWS = 18_000_000
"""Bytes that all previews of a sheet may come to; in the page they take a third more."""

_LARGEST_PREVIEW = 90_000
_TOLD_OF_A_ROW = ("file", "url", "shown_url", "page", "alt", "caption", "type", "item", "item_url", "columns")
_THREADS = 2
"""Pillow leaves the interpreter free while it decodes."""


def preview(found: Iterator[LookEvent], fetcher: Fetcher) -> Iterator[LookEvent | Progress | Tile]:
    """Yield what is no picture as it comes, then a tile a picture, in order.

    A tile takes what the page shows: a thumbnail where there is one. What no criterion of the order is about to keep
    is previewed as well, but for what robots are asked not to take.
    """
    pictures: list[Found] = []
    for event in found:
        if not isinstance(event, Found):
            yield event
            continue
        pictures.append(event)
        if len(pictures) > MOST_PICTURES:
            raise UsageError(
                f"a sheet holds {MOST_PICTURES:,} pictures at most", hint="narrow it down, or say --limit 1000"
            )
    budget = _budget(len(pictures))
    requests = {
        event.image.shown.url: Request(
            event.image.shown.url, referer=event.image.asker.page, trust=event.image.asker.trust
        )
        for event in pictures
        if not event.image.rights.bar
    }
    previews: dict[str, Preview | str] = {}
    measures: dict[str, Measures] = {}
    with ThreadPoolExecutor(_THREADS) as makers:
        made: dict[str, Future[Preview | str]] = {}
        for item in fetcher.fetch(requests.values()):
            if not isinstance(item, Reply):
                yield Progress(len(requests), len(made), item.received, item.under_way)
            elif item.failure is not None:
                previews[item.request.url] = item.failure.words
            else:
                made[item.request.url] = makers.submit(make_preview, item.octets, budget)
                measures[item.request.url] = _measured(item.octets)
        previews |= {url: future.result() for url, future in made.items()}
    for event in pictures:
        if (known := measures.get(event.image.url)) is not None:  # what is shown is what would be fetched
            event = replace(event, image=event.image.measured(known))  # noqa: PLW2901
        yield _tile(event, previews.get(event.image.shown.url, "robots are asked not to take it"))


def preview_crate(root: Path) -> Iterator[Tile]:
    """Yield a tile for each picture that the crate at ``root`` holds."""
    places = Places(root)
    with LedgerReader.opened(places, for_files=True) as ledger:
        entries = list(islice(ledger.rows(State.HELD), MOST_PICTURES + 1))
    if len(entries) > MOST_PICTURES:
        raise UsageError(f"a sheet holds {MOST_PICTURES:,} pictures at most", hint="this crate has more")
    budget = _budget(len(entries))
    groups: dict[int, int] = {}
    if any(entry.fingerprint for entry in entries):
        from pickcrate.run.pack.twinned import known_groups  # noqa: PLC0415 (it needs NumPy)

        groups = known_groups(entries)

    def tile(entry: Entry) -> Tile:
        event = Found(remembered(entry, entry.seq), entry.file)
        twins = groups.get(entry.seq, 0)
        return replace(_tile(event, _of_file(places, entry.file, budget)), file=entry.file, twins=twins)

    with ThreadPoolExecutor(_THREADS) as makers:
        yield from makers.map(tile, entries)


def preview_haul(hauled: Hauled, limit: int | None) -> Iterator[Tile]:
    """Yield a tile for each picture that a haul has left in its store, or for the first of them."""
    found = ((shard, row) for shard in hauled.shards for row in rows(hauled.store, shard))
    held = list(islice(found, min(limit or MOST_PICTURES + 1, MOST_PICTURES + 1)))
    if len(held) > MOST_PICTURES:
        raise UsageError(
            f"a sheet holds {MOST_PICTURES:,} pictures at most",
            hint="this store has more: --limit 1000 shows the first",
        )
    budget = _budget(len(held))

    def tile(number: int, shard: Shard, row: Mapping[str, Any]) -> Tile:
        told: dict[str, Any] = {name: row[name] or "" for name in _TOLD_OF_A_ROW}
        told |= {name: row[name] for name in ("width", "height", "bytes")}
        entry = Entry(number, row["url"], row["file"], **told)
        event = Found(remembered(entry, number), entry.file)
        try:
            seen = make_preview(picture(hauled.store, shard, row), budget)
        except StoreError as error:
            seen = error.message
        return _tile(event, seen)

    with ThreadPoolExecutor(_THREADS) as makers:
        yield from makers.map(tile, range(1, len(held) + 1), *zip(*held, strict=True))


def preview_files(root: Path, outcomes: list[Outcome]) -> list[Tile]:
    """Return a tile for each picture that a run has put into a crate, or found there."""
    places, budget = Places(root), _budget(len(outcomes))

    def tile(outcome: Outcome) -> Tile:
        image = outcome.image.measured(outcome.measures)
        found = _of_file(places, outcome.file, budget)
        return replace(_tile(Found(image, outcome.file), found), file=outcome.file)

    with ThreadPoolExecutor(_THREADS) as makers:
        return list(makers.map(tile, outcomes))


def preview_held(files: Sequence[Callable[[], bytes]]) -> list[Preview | str]:
    """Return a preview of each file that is held somewhere; in words why there is none."""
    budget = _budget(len(files))

    def preview(octets: Callable[[], bytes]) -> Preview | str:
        return make_preview(octets(), budget)

    with ThreadPoolExecutor(_THREADS) as makers:
        return list(makers.map(preview, files))


def file_of(places: Places, file: str) -> bytes | str:
    """Return the bytes of a file of a crate; in words why there are none."""
    path = places.of(file)
    try:
        return path.read_bytes() if path is not None else "not in its crate"
    except OSError:
        return "moved or deleted since it was fetched"


def _of_file(places: Places, file: str, budget: int) -> Preview | str:
    octets = file_of(places, file)
    return make_preview(octets, budget) if isinstance(octets, bytes) else octets


def _measured(octets: bytes) -> Measures:
    header = read_header(octets)
    return measures_of_file(header, len(octets)) if header is not None else Measures()


def _budget(pictures: int) -> int:
    return min(_LARGEST_PREVIEW, _ALL_PREVIEWS // max(1, pictures))


def _tile(event: Found, preview: Preview | str) -> Tile:
    if isinstance(preview, str):
        return Tile(event.image, event.name, note=preview)
    return Tile(event.image, event.name, preview)
