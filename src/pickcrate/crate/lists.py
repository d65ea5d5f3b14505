"""The lists of a crate, written anew at the end of each run that changed anything."""

from collections.abc import Iterable
from contextlib import closing
from pathlib import Path

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places, unwritable
from pickcrate.crate.reading import LedgerReader
from pickcrate.credits import Credit, as_html, as_markdown
from pickcrate.name import with_single_braces
from pickcrate.parquet import rows_of, writing
from pickcrate.record import CRATE_COLUMNS, write_csv

FAILED_COLUMNS = (
    "pick", "number", "url", "shown_url", "page", "found_in", "alt", "caption", "item", "item_url", "columns",
    "evidence", "name", "error",
)  # fmt: skip


def write_lists(places: Places, ledger: Ledger) -> None:
    """Write ``crate.csv`` anew, one row a held picture, and ``failed.csv``, a pick list of what failed.

    That is gone when nothing is failing. Nothing is written where nothing changed. Raises CrateError if they cannot be.
    """
    if ledger.is_listed and places.list.is_file():
        return
    with closing(ledger.held(CRATE_COLUMNS)) as held:  # a full disk may end it early: nothing is left open then
        _write(places.list, places.incoming, CRATE_COLUMNS, held)
    failed = [_failed_row(entry) for entry in ledger.rows(State.FAILED)]
    if failed:
        _write(places.failed, places.incoming, FAILED_COLUMNS, failed)
    else:
        places.failed.unlink(missing_ok=True)
    ledger.mark_listed()


def write_parquet(places: Places, ledger: LedgerReader) -> None:
    """Write the crate's list as ``crate.parquet`` as well. Raises CrateError, UsageError without the library."""
    beside = places.incoming / places.parquet.name
    try:
        with writing(str(beside), CRATE_COLUMNS) as sink:
            for row in rows_of(ledger.held(CRATE_COLUMNS), CRATE_COLUMNS):
                sink(row)
        beside.replace(places.parquet)
    except OSError as error:
        raise unwritable(places.parquet, error) from error


def write_credits(places: Places, ledger: LedgerReader) -> None:
    """Write the credits of all pictures that the crate holds, as a text and as a web page. Raises CrateError."""
    said = [_credit_of(entry) for entry in ledger.rows(State.HELD)]
    for path, lines in (
        (places.credits, as_markdown(places.root.name, said)),
        (places.credits_page, as_html(places.root.name, said)),
    ):
        beside = places.incoming / path.name
        try:
            with beside.open("w", encoding="utf-8", newline="") as file:
                file.writelines(lines)
            beside.replace(path)
        except OSError as error:
            raise unwritable(path, error) from error


def _credit_of(entry: Entry) -> Credit:
    return Credit(
        entry.file,
        entry.item or entry.alt or entry.caption,
        entry.credit,
        entry.credit_from,
        entry.licence,
        entry.licence_url,
        entry.licence_from,
        entry.terms_url,
        entry.page,
        entry.url,
    )


def _write(path: Path, temporary: Path, columns: tuple[str, ...], rows: Iterable[Iterable[object]]) -> None:
    beside = temporary / path.name
    try:
        with beside.open("w", encoding="utf-8", newline="") as file:
            write_csv(file, (columns,))
            write_csv(file, rows)
        beside.replace(path)
    except OSError as error:
        raise unwritable(path, error) from error


def _failed_row(entry: Entry) -> tuple[object, ...]:
    """Return a failed picture as a row of FAILED_COLUMNS: a pick list's, with the reason."""
    name = with_single_braces(entry.name)
    url, shown = entry.web_address, entry.shown_url or entry.web_address
    return (
        "yes",
        entry.seq,
        url,
        shown,
        entry.page,
        "list",
        entry.alt,
        entry.caption,
        entry.item,
        entry.item_url,
        entry.columns,
        entry.evidence,
        name,
        entry.error,
    )
