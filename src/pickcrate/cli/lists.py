"""Events to output: tables for people, lists for programs and files, row by row as they come."""

import sys
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.files import put_in_place, text_in_place
from pickcrate.cli.listing import (
    PageLines,
    TableLine,
    Totals,
    of_no_licence,
    print_funnel,
    print_table,
    print_totals,
    table_line,
)
from pickcrate.cli.looked import Looked
from pickcrate.cli.terminal import Out, say_error
from pickcrate.cli.text import count, harmless, shown
from pickcrate.cli.vain import Vain
from pickcrate.errors import UsageError
from pickcrate.orders.setting import Format
from pickcrate.read.lists.picklist import COLUMNS
from pickcrate.record import (
    PLAN_COLUMNS,
    Row,
    csv_lines,
    image_row,
    plan_row,
    to_json,
)
from pickcrate.run.events import (
    CrateOpened,
    Found,
    ItemPageRead,
    ItemPagesRead,
    ListOpened,
    LookEvent,
    NextPagesRead,
    PackEvent,
    PageRead,
    Planned,
    RowRefused,
    SourceFailed,
)
from pickcrate.run.sources.opening import typed_path
from pickcrate.values.image import Image

if TYPE_CHECKING:
    from pickcrate.orders.order import Order

_FORMATS = {".csv": Format.CSV, ".jsonl": Format.JSONL, ".txt": Format.URLS}
_ROWS_AT_A_TIME = 1000
"""Rows of a list that share one layout of columns: lists stream, so the widest of all is not known."""

Sink = Callable[[Row], None]


_MOST_CRATES = 3
"""that are named of those that hold pictures"""


def rows_to(stream: TextIO, form: Format, columns: tuple[str, ...]) -> Sink:
    """Return what writes a row to ``stream`` in the format ``form``; on a terminal without what would steer that."""
    plain: Callable[[str], str] = _on_terminal if stream.isatty() else str
    match form:
        case Format.CSV:
            stream.writelines(csv_lines((columns,)))

            def sink(row: Row) -> None:
                stream.writelines(map(plain, csv_lines(((row[column] for column in columns),))))
        case Format.JSONL:

            def sink(row: Row) -> None:
                stream.write(plain(to_json(row)) + "\n")
        case _:

            def sink(row: Row) -> None:
                if row["pick"]:
                    stream.write(plain(without_userinfo(row["url"])) + "\n")

    return sink


def _on_terminal(text: str) -> str:
    return harmless(text.replace("\r\n", "\n"))


def write_json(row: Row) -> None:
    """Write one row to standard output as a line of JSON."""
    rows_to(data_stream(), Format.JSONL, ())(row)


@contextmanager
def saving(path: Path | None, columns: tuple[str, ...] | None = None) -> Iterator[Sink | None]:
    """Open ``--save`` FILE for rows of ``columns``, a look's if there are none.

    It is put in place when all of them are written, or not at all.
    """
    if path is None:
        yield None
        return
    if path.suffix.lower() == ".parquet":
        from pickcrate.parquet import writing  # noqa: PLC0415 (few lists are that)

        with put_in_place(path, "--save") as beside, writing(str(beside), columns or COLUMNS) as sink:
            yield sink
        return
    form = _FORMATS.get(path.suffix.lower())
    if form is None:
        hint = "end it in .csv, .jsonl, .parquet or .txt"
        raise UsageError(f"--save {path}: the file's ending says its format", hint=hint)
    with text_in_place(path, "--save") as file:
        yield rows_to(file, form, columns or COLUMNS)


def show_look(
    events: Iterable[LookEvent], out: Out, form: Format, saver: Sink | None, looked: Looked, *, everything: bool
) -> None:
    """Print what ``look`` finds, as a table on ``out`` or as data on standard output, and note it in ``looked``.

    What was dropped is left out unless ``everything`` is wanted; a pick list holds it in any case.
    """
    order = looked.order
    looked.totals = Totals(through=order.through, folders=tuple(_on_disk(order)))
    data = rows_to(data_stream(), form, COLUMNS) if form is not Format.TABLE else None
    group: list[TableLine] = []
    pages = PageLines(out)

    def print_group() -> None:
        if group:
            print_table(out, group)
            group.clear()

    for event in (vain := Vain(order, looked.typed)).through(events):
        match event:
            case Found(image, name):
                looked.totals.add(image)
                is_wanted = image.is_picked or everything
                if saver or (data and is_wanted):
                    row = image_row(image, name) if form is not Format.URLS or saver else _address_row(image)
                    for sink in filter(None, (data if is_wanted else None, saver)):
                        sink(row)
                if data is None and is_wanted:
                    group.append(table_line(event))
                    if len(group) >= _ROWS_AT_A_TIME:
                        print_group()
            case PageRead():
                print_group()
                looked.add_page(event)
                pages.show(event)
            case _:
                print_group()
                looked.totals.unread += isinstance(event, SourceFailed)
                looked.complete &= note(event, out)
    print_group()
    if looked.totals.funnel.found and data is None:
        print_totals(out, looked.totals)
    elif looked.totals.funnel.found:
        print_funnel(out, looked.totals.funnel)
    vain.print_to(out)


def _on_disk(order: "Order") -> Iterator[str]:
    """Yield the addresses of what the sources are on the disk, and of the folder of their site."""
    for named in (*order.sources, *((str(order.root),) if order.root is not None else ())):
        try:
            path = typed_path(named)
            if path is not None and path.exists():
                yield f"{path.resolve().as_uri()}/"
        except (OSError, ValueError, RuntimeError):  # an address may be no path at all
            continue


def show_plan(events: Iterable[LookEvent | Planned], out: Out, form: Format, looked: Looked) -> int:
    """Print the path that each picture would get, or as data on standard output; return how many there are."""
    paths = there = open_names = 0
    elsewhere = Counter[str]()
    funnel, pages = looked.totals.funnel, PageLines(out)
    data = rows_to(data_stream(), form, (*COLUMNS, *PLAN_COLUMNS)) if form is not Format.TABLE else None
    for event in events:
        match event:
            case Planned(image, path, is_there, is_final, other):
                paths, there = paths + 1, there + is_there
                if data is not None:
                    data(plan_row(image, str(path), is_there=is_there, elsewhere=other))
                if other:
                    elsewhere[other] += 1
                elif data is None:
                    open_names += not is_final
                    label = ("there    ", "dim") if is_there else ("would be ", "green")
                    out.line(label, shown(str(path)), ("" if is_final else "  .?", "dim"))
            case Found(image):
                funnel.add(image)
            case PageRead():
                looked.add_page(event)
                pages.show(event)
            case _:
                if isinstance(event, ItemPagesRead):
                    looked.add_items(event)
                note(event, out)
    if funnel.found > funnel.picked:
        print_funnel(out, funnel)
    others = (in_others(elsewhere),) if elsewhere else ()
    wanted = f"{count(paths - there - elsewhere.total(), 'picture')} would be fetched"
    out.line((", ".join((wanted, f"{there:,} there already", *others)), "bold"))
    if unlicensed := of_no_licence(funnel.unsure_picks["licence"]):
        out.line((unlicensed, "cyan"))
    if open_names:
        out.line((".? the ending comes from the bytes; a name that the server gives comes before it", "dim"))
    return paths


def _address_row(image: Image) -> Row:
    """Return all that a list of addresses needs: the whole row costs as much as all else about a picture."""
    return {"pick": True, "url": image.url}


def in_others(crates: Counter[str]) -> str:
    """Return in words which other crates hold pictures, and how many of them."""
    held = ", ".join(f"{number:,} in {shown(name)}" for name, number in crates.most_common(_MOST_CRATES))
    return f"{crates.total():,} in other crates ({held})"


def note(event: LookEvent | PackEvent | Planned, out: Out) -> bool:
    """Print what is to be said of a source; return whether nothing is wrong with it."""
    match event:
        case ListOpened(source, guessed):
            out.line((shown(source), "bold"), (f"  {shown(guessed)}" if guessed else "", "dim"))
        case RowRefused(source, flaw):
            out.line((f"{shown(source)}: {shown(flaw.detail)}", "yellow"))
        case ItemPageRead(done, of):
            out.passing(f"item {done:,} of {of:,}")
        case ItemPagesRead() as read:
            out.line((_items_read(read), "cyan"))
        case NextPagesRead(_, pages, end):
            out.line((f"{count(pages, 'page')} of the list: {end.value.format(more=2 * pages)}", "cyan"))
        case CrateOpened(path, regained, moved, had_other_title):
            if had_other_title:
                known = f"this page's crate is {shown(path.name)}, where it goes on"
                out.line((f"{known}; --crate '{{page}}' makes one for each title", "cyan"))
            if regained:
                known = f"{count(regained, 'picture')} of it {'is' if regained == 1 else 'are'} known"
                out.line((f"{shown(str(path))} had lost its ledger: {known} by its list, crate.csv", "yellow"))
            if moved:
                out.line((f"{count(moved, 'file')} renamed or sorted since: known by the bytes", "cyan"))
        case SourceFailed(_, error):
            say_error(error.message, error.hint)
        case _:
            pass
    return isinstance(event, ListOpened | NextPagesRead | ItemPageRead | ItemPagesRead | CrateOpened)


def _items_read(read: ItemPagesRead) -> str:
    """Return how many of a list's items were gone to, and what came of it."""
    pages = f"{read.pages:,} of {count(read.items, 'item page')}"
    came = f"{pages} read, with {count(read.pictures, 'picture')} of their items"
    if not read.known:
        return came if read.items else "no items with pages of their own here"
    known = f"{count(read.known, 'item')} passed over, of which the crate has the pictures"
    return f"{came}; {known}" if read.items else known


def data_stream() -> TextIO:
    """Return standard output as UTF-8 whatever the locale says: it carries data."""
    if hasattr(sys.stdout, "reconfigure"):
        sys.stdout.reconfigure(encoding="utf-8", errors="surrogateescape", newline="")
    return sys.stdout
