"""Compare: crates, lists and pages as holdings, and what a crate's own ledger says of the time since a day."""

from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.lasting import known_by
from pickcrate.addresses.url import brief, is_web, without_scheme
from pickcrate.comparison import Change, Comparison, Difference, Holding, compare
from pickcrate.crate.entry import VERSION_MARK, Entry, State
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.errors import StoreError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.media.header import read_header
from pickcrate.run.events import Found, LookEvent, PageRead
from pickcrate.run.previewing import file_of
from pickcrate.sheets.preview import Preview, make_preview
from pickcrate.stores.hauled import hauled_at, is_haul, picture, places
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure

MOST_SHOWN = 2_500
"""Differences on one page: each has two previews."""

_ALL_PREVIEWS = 18_000_000
_LARGEST_PREVIEW = 60_000
_THREADS = 2
_TEXTS = 9
_FIELDS = Holding.__struct_fields__
_COLUMNS = (
    "url", "address", "shown_url", "page", "item", "item_url", "alt", "file", "sha256", "width", "height", "bytes",
    "fingerprint",
)  # fmt: skip


class Sides(Struct, frozen=True):
    """The two sides that are compared, each by its crate's folder or as the source that it is; or one, since a day."""

    old: str
    old_crate: Path | None
    new: str = ""
    new_crate: Path | None = None
    since: str = ""
    """the day, ISO 8601, of a crate that is compared with itself"""


class Pair(Struct, frozen=True):
    """One difference with what there is to see of both sides; in words why there is nothing, empty without a side."""

    difference: Difference
    old: Preview | str
    new: Preview | str


def of_crate(root: Path) -> Iterator[Holding]:
    """Yield what a crate holds, read as it is, whoever writes it."""
    places = Places(root)
    with LedgerReader.opened(places, for_files=True) as ledger:
        for row in ledger.held(_COLUMNS):
            texts = [value if isinstance(value, str) else "" for value in row[:_TEXTS]]
            numbers = [value if isinstance(value, int) else 0 for value in row[_TEXTS:-1]]
            texts[1] = texts[1].partition(VERSION_MARK)[0]
            seen = row[-1] if isinstance(row[-1], str) else ""
            known: list[Any] = [*texts, *numbers, seen]
            yield Holding(**dict(zip(_FIELDS, known, strict=True)))


def of_image(image: Image) -> Holding:
    """Return a picture of a page or a list, with what was measured of it and what its list says of its file."""
    measures, said = image.best.measures, dict(image.extra)
    return Holding(
        brief(image.url),
        "",
        brief(image.shown.url),
        brief(image.shown.page),
        image.item.title,
        brief(image.item.url),
        image.shown.words.alt,
        said.get("file", ""),
        said.get("sha256", ""),
        _measured(measures.width),
        _measured(measures.height),
        _measured(measures.bytes),
    )


def _measured(measure: Measure[int] | None) -> int:
    """Return a measure that was taken: what a page declares tells no two pictures apart."""
    return measure.value if measure is not None and measure.grade is not Grade.DECLARED else 0


def compared(old: Iterator[LookEvent] | Path, new: Iterator[LookEvent] | Path) -> Iterator[LookEvent | Comparison]:
    """Yield what is said of sources that are pages or lists, and at the end how the two sides differ.

    A page is held against what a crate has from it, and of its pictures from other pages; and without its furniture,
    if the crate has none of that.
    """
    sides: list[list[Holding]] = []
    furniture: list[set[Holding]] = []
    pages: list[set[str]] = []
    for side in (old, new):
        holdings: list[Holding] = []
        dressing: set[Holding] = set()
        read: set[str] = set()
        inner: set[str] = set()  # frames, and pages that a list leads to
        if isinstance(side, Path):
            holdings.extend(of_crate(side))
        else:
            for event in side:
                if not isinstance(event, Found):
                    read |= {brief(event.address)} if isinstance(event, PageRead) else set()
                    yield event
                elif event.image.is_picked:
                    holdings.append(of_image(event.image))
                    inner.add(holdings[-1].page)
                    if event.image.furniture:
                        dressing.add(holdings[-1])
        sides.append(holdings)
        furniture.append(dressing)
        pages.append(read | inner if read else read)
    passed_over = 0
    for side, page, crate in ((old, 1, 0), (new, 0, 1)):
        if not isinstance(side, Path):
            continue
        if _has_none(sides[crate], furniture[page]):
            sides[page] = [one for one in sides[page] if one not in furniture[page]]
            passed_over += len(furniture[page])
        sides[crate] = _from_there(sides[crate], pages[page], sides[page])
    found = replace(compare(*sides), passed_over=passed_over)
    yield by_likeness(found, old, new) if isinstance(old, Path) and isinstance(new, Path) else found


def _from_there(crate: list[Holding], pages: set[str], shown: list[Holding]) -> list[Holding]:
    """Return what a crate has from pages, and from others that is on these; all of it if it has nothing of theirs."""
    there = set(map(without_scheme, pages))
    if not any(without_scheme(one.page) in there for one in crate):
        return crate
    urls = {known_by(one.url) for one in shown}
    return [one for one in crate if without_scheme(one.page) in there or not urls.isdisjoint(_asked_by(one))]


def _asked_by(one: Holding) -> set[str]:
    return {known_by(url) for url in (one.url, one.asked) if url}


def _has_none(crate: list[Holding], furniture: set[Holding]) -> bool:
    """Tell whether a crate has none of the furniture of a page: it was left out then."""
    held = {url for one in crate for url in (one.url, one.asked, one.shown_url)}
    return held.isdisjoint(url for one in furniture for url in (one.url, one.shown_url))


def by_likeness(found: Comparison, old: Path, new: Path) -> Comparison:
    """Return a comparison of two crates in which what came and is a larger twin of what went is said to be that.

    Only of pictures whose fingerprints the ledgers have: nothing is looked at for this alone.
    """
    went = [one for one in found.differences if one.change is Change.WENT and one.old and one.old.fingerprint]
    came = [one for one in found.differences if one.change is Change.CAME and one.new and one.new.fingerprint]
    if not (went and came):
        return found
    from pickcrate.run.pack.twinned import larger_twins  # noqa: PLC0415 (it needs NumPy)

    before = [one.old for one in went if one.old is not None]
    now = [one.new for one in came if one.new is not None]
    tied = {id(came[later]): went[earlier] for later, earlier in larger_twins(Places(old), before, Places(new), now)}
    gone = {id(one) for one in tied.values()}
    differences = (
        Difference(Change.LARGER, tied[id(one)].old, one.new) if id(one) in tied else one
        for one in found.differences
        if id(one) not in gone
    )
    return replace(found, differences=tuple(differences))


def history(root: Path, since: str) -> Comparison:
    """Return what a crate's own ledger says of the time since a day: what came, what changed, what is gone.

    An older version is measured by its file, if that is still there.
    """
    places, same = Places(root), 0
    found: list[Difference] = []
    gone: list[Difference] = []
    with LedgerReader.opened(places, for_files=True) as ledger:
        former = {seq: (file, sha256) for seq, file, sha256, _ in ledger.former()}
        for entry in ledger.rows(State.HELD):
            holding = holding_of(entry)
            if entry.gone_at >= since and entry.gone_at:
                gone.append(Difference(Change.WENT, holding, None))
            elif entry.fetched_at < since:
                same += 1
            elif entry.seq not in former:
                found.append(Difference(Change.CAME, None, holding))
            else:
                file, sha256 = former[entry.seq]
                before = _measured_anew(replace(holding, file=file, sha256=sha256), places)
                is_larger = any(one.change is Change.LARGER for one in compare([before], [holding]).differences)
                found.append(Difference(Change.LARGER if is_larger else Change.CHANGED, before, holding))
    return Comparison((*found, *gone), same)


def holding_of(entry: Entry) -> Holding:
    """Return a row of a crate's ledger as what is compared."""
    return Holding(
        entry.url,
        entry.web_address,
        entry.shown_url,
        entry.page,
        entry.item,
        entry.item_url,
        entry.alt,
        entry.file,
        entry.sha256,
        entry.width or 0,
        entry.height or 0,
        entry.bytes or 0,
    )


def _measured_anew(holding: Holding, places: Places) -> Holding:
    octets = file_of(places, holding.file)
    header = read_header(octets) if isinstance(octets, bytes) else None
    sides = (header.width or 0, header.height or 0) if header is not None else (0, 0)
    return replace(holding, width=sides[0], height=sides[1], bytes=len(octets) if header is not None else 0)


def _stock(name: str, shown: list[Difference]) -> Callable[[str], bytes | str]:
    """Return what gives the bytes of a file that a haul has left in a store; in words why there are none."""
    hauled = hauled_at(name)
    found = places(
        hauled, (side.file for one in shown for side in (one.old, one.new) if side is not None and side.file)
    )

    def octets(file: str) -> bytes | str:
        if file not in found:
            return "not in its store"
        try:
            return picture(hauled.store, *found[file])
        except StoreError as error:
            return error.message

    return octets


def pairs(differences: Iterable[Difference], sides: Sides, fetcher: Fetcher) -> Iterator[Pair]:
    """Yield the first differences with previews: of a crate's files, else of what a page shows."""
    old_crate, new_crate = sides.old_crate, sides.old_crate if sides.since else sides.new_crate
    shown = list(islice(differences, MOST_SHOWN))
    budget = min(_LARGEST_PREVIEW, _ALL_PREVIEWS // max(1, 2 * len(shown)))
    abroad = [one.old for one in shown if one.old is not None and old_crate is None and not is_haul(sides.old)]
    abroad += [one.new for one in shown if one.new is not None and new_crate is None and not is_haul(sides.new)]
    requests = {url: Request(url) for side in abroad if is_web(url := side.shown_url or side.url)}
    octets: dict[str, bytes | str] = {}
    for reply in fetcher.fetch(requests.values()):
        if isinstance(reply, Reply):
            octets[reply.request.url] = reply.octets if reply.failure is None else reply.failure.words

    stocks = {name: _stock(name, shown) for name in {sides.old, sides.new} if is_haul(name)}

    def preview(side: Holding | None, crate: Path | None, name: str) -> Preview | str:
        if side is None:
            return ""
        if (stock := stocks.get(name)) is not None and crate is None:
            came = stock(side.file)
        elif crate is not None:
            came = file_of(Places(crate), side.file)
        else:
            came = octets.get(side.shown_url or side.url, "not on the web")
        return make_preview(came, budget) if isinstance(came, bytes) else came

    def pair(one: Difference) -> Pair:
        return Pair(one, preview(one.old, old_crate, sides.old), preview(one.new, new_crate, sides.new))

    with ThreadPoolExecutor(_THREADS) as makers:
        yield from makers.map(pair, shown)
