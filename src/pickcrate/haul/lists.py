"""The lists of a haul as batches of rows, from wherever they are: Parquet, CSV, JSON Lines, addresses; files and globs.

What a list's columns are is found out as for any list, once and for all of its loads.
"""

import glob
import itertools
import lzma
import zlib
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO, cast

import zstandard
from msgspec import Struct

from pickcrate.addresses.url import without_userinfo
from pickcrate.errors import SourceError, UsageError
from pickcrate.parquet import arrow
from pickcrate.read.lists.addresslist import addresses_in
from pickcrate.read.lists.parquet import open_parquet
from pickcrate.read.lists.table import Table, open_csv, open_json_lines
from pickcrate.read.office.workbook import open_workbook
from pickcrate.read.recognise import LISTS, WINDOW, Kind, recognise
from pickcrate.record import to_json
from pickcrate.run.sources.opened import Opened
from pickcrate.stores.objects import client_options
from pickcrate.stores.opening import OBJECT_STORES, scheme
from pickcrate.tilde import without_tilde
from pickcrate.values.flaw import Flaw
from pickcrate.values.trust import PUBLIC

_ROWS_AT_A_TIME = 65_536
_TEXT_AT_A_TIME = 50_000_000
"""characters"""

_MOST_UNPACKED = 1_000_000_000
"""Bytes of a workbook when it is unpacked."""

_MOST_COLUMNS = 2_000
_PACKED = (".gz", ".bz2", ".xz", ".zst")
_TEXTS = (".csv", ".tsv", ".jsonl", ".txt")
_LIST_SUFFIXES = (".parquet", ".xlsx", *_TEXTS, *(text + packed for text in _TEXTS for packed in _PACKED))
_URL = "url"


class ListFile(Struct, frozen=True):
    """One file of a list: where it is, what it is, and which of its columns is what."""

    path: str
    kind: Kind
    columns: Mapping[str, str]
    """field to header"""
    guessed: str
    is_pick_list: bool


def files_of(sources: tuple[str, ...]) -> list[str]:
    """Return the files that sources name: paths, globs, folders of lists, addresses. Raises SourceError."""
    found: list[str] = []
    for source in sources:
        some = _in_store(source) if scheme(source) else _on_disk(source)
        if not some:
            raise SourceError(f"{without_userinfo(source)}: no such list", hint="name a file, a folder, or a glob")
        found += some
    return found


def _on_disk(source: str) -> list[str]:
    path = without_tilde(source)
    if path.is_file():
        return [str(path)]
    if path.is_dir():
        return sorted(str(one) for one in path.rglob("*") if one.name.lower().endswith(_LIST_SUFFIXES))
    return sorted(glob.glob(str(path), recursive=True))  # noqa: PTH207 (a pattern may begin at the root)


def _in_store(source: str) -> list[str]:
    if not glob.has_magic(source):
        return [source]
    files, path = _file_system(source)
    try:
        return [files.unstrip_protocol(one) for one in sorted(files.glob(path))]
    except Exception as error:
        raise _unread(source, error) from error


def _file_system(source: str) -> tuple[Any, str]:
    """Return what opens the files of an address, and its path there. Raises UsageError, SourceError."""
    try:
        from fsspec.core import url_to_fs  # type: ignore[import-untyped]  # noqa: PLC0415
        from obstore.fsspec import register  # noqa: PLC0415
    except ModuleNotFoundError:
        raise UsageError("lists in stores need the haul extra", hint="pip install 'pickcrate[haul]'") from None
    register(OBJECT_STORES)
    try:
        options = {"client_options": client_options()} if scheme(source) in OBJECT_STORES else {}
        return cast("tuple[Any, str]", url_to_fs(source, **options))
    except Exception as error:
        raise _unread(source, error) from error


def _unread(path: str, error: BaseException) -> SourceError:
    reason = (getattr(error, "strerror", None) or str(error)).partition("\n")[0][:300]
    return SourceError(f"{without_userinfo(path)}: cannot be read: {without_userinfo(reason)}")


@contextmanager
def _opened(path: str) -> Iterator[BinaryIO]:
    """Open a file of a list, unpacked where its name says that it is packed. Raises SourceError."""
    try:
        if scheme(path):
            files, inside = _file_system(path)
            file = files.open(inside, "rb", compression="infer")
        elif path.lower().endswith(_PACKED):
            from fsspec import open as open_packed  # type: ignore[import-untyped]  # noqa: PLC0415 (few are packed)

            file = open_packed(path, "rb", compression="infer").open()
        else:
            file = Path(path).open("rb")  # noqa: SIM115
    except FileNotFoundError as error:
        raise SourceError(f"{without_userinfo(path)}: no such list", hint="name a file, a folder, or a glob") from error
    except (OSError, ValueError) as error:
        raise _unread(path, error) from error
    try:
        with file:
            yield file
    except (EOFError, zlib.error, lzma.LZMAError, zstandard.ZstdError) as error:  # what is packed is cut off, or broken
        raise _unread(path, error) from error


def inspect(path: str, chosen: Mapping[str, str]) -> ListFile:
    """Find out what a file of a list is, and which of its columns is what. Raises SourceError, UsageError."""
    with _opened(path) as file:
        kind, _, table = _table(path, file, chosen)
        columns = dict(table.columns) if table is not None else {"url": _URL}
        guessed, is_own = (table.guessed, table.is_pick_list) if table is not None else ("", False)
        if kind is Kind.PARQUET:
            _refuse_other_cells(path, columns["url"])
        return ListFile(path, kind, columns, guessed, is_own)


def _refuse_other_cells(path: str, header: str) -> None:
    """Raise SourceError for a column in Parquet whose cells are no texts: pictures themselves, objects, lists."""
    types, schema = arrow().types, schema_of(path)
    kind: Any = schema.field(header).type if header in schema.names else arrow().null()
    if types.is_dictionary(kind):
        kind = kind.value_type
    if not (types.is_string(kind) or types.is_large_string(kind)):
        words = f"{without_userinfo(path)}: the cells of its column “{header}” are no addresses"
        raise SourceError(words, hint="pack takes pictures, objects and lists of addresses from the cells of a list")


def _table(path: str, file: BinaryIO, chosen: Mapping[str, str]) -> tuple[Kind, bytes, Table | None]:
    """Return what a file is, its first bytes, and its rows; none for plain addresses."""
    plain = without_userinfo(path)
    try:
        head = file.read(WINDOW)
    except (OSError, EOFError, ValueError) as error:
        raise _unread(path, error) from error
    kind = recognise(head)
    if kind is None or kind not in LISTS:
        said = f"is a {kind}" if kind is not None else "is nothing that can be read" if head else "is empty"
        raise SourceError(
            f"{plain} {said}, and no list", hint="a list is Parquet, a workbook (.xlsx), CSV, JSON Lines or addresses"
        )
    if kind is Kind.PARQUET:
        return kind, head, open_parquet(file, plain, chosen)
    if kind is Kind.WORKBOOK:
        return kind, head, open_workbook(file, plain, chosen, _MOST_UNPACKED)
    if kind is Kind.ADDRESSES and not chosen:
        return kind, head, None
    lines = Opened(plain, kind, head, "about:blank", PUBLIC, rest=file).lines()
    opener = open_json_lines if kind is Kind.JSON_LINES else open_csv
    return kind, head, opener(lines, plain, chosen)


def schema_of(path: str) -> Any:
    """Return the Arrow schema of a file in Parquet. Raises SourceError."""
    pa = arrow()
    with _opened(path) as file:
        try:
            return pa.parquet.read_schema(file)
        except (pa.ArrowException, OSError, ValueError) as error:
            raise _unread(path, error) from error


def batches(listed: ListFile, unread: Counter[str], columns: tuple[str, ...] | None = None) -> Iterator[Any]:
    """Yield the rows of a file as Arrow record batches; of Parquet only some columns, if they are named.

    Rows that cannot be read are counted in ``unread``, by the file. Raises SourceError.
    """
    with _opened(listed.path) as file:
        if listed.kind is Kind.PARQUET:
            yield from _of_parquet(listed, file, columns)
        else:
            yield from _of_text(listed, file, unread)


def _of_parquet(listed: ListFile, file: BinaryIO, columns: tuple[str, ...] | None) -> Iterator[Any]:
    pa = arrow()
    try:
        opened = pa.parquet.ParquetFile(file, pre_buffer=False)  # else all of it is read at once
        named = list(columns) if columns is not None else None
        yield from opened.iter_batches(batch_size=_ROWS_AT_A_TIME, columns=named)
    except (pa.ArrowException, OSError, ValueError) as error:
        raise _unread(listed.path, error) from error


def _of_text(listed: ListFile, file: BinaryIO, unread: Counter[str]) -> Iterator[Any]:
    pa = arrow()
    chosen = {name: header for name, header in listed.columns.items() if listed.kind is not Kind.ADDRESSES}
    kind, head, table = _table(listed.path, file, chosen)
    if table is None:
        lines = Opened(listed.path, kind, head, "about:blank", PUBLIC, rest=file).lines()
        rows: Iterator[Mapping[str, object]] = ({_URL: entry.address} for entry in addresses_in(lines))
    else:
        rows = _readable(table.rows, listed.path, unread)
    for some in _some_at_a_time(rows):
        headers = list(dict.fromkeys(itertools.chain.from_iterable(some)))[:_MOST_COLUMNS]
        cells = {header: pa.array([_cell(row.get(header)) for row in some], pa.string()) for header in headers}
        yield pa.RecordBatch.from_pydict(cells)


def _some_at_a_time(rows: Iterator[Mapping[str, object]]) -> Iterator[list[Mapping[str, object]]]:
    """Yield rows in lists that have neither too many nor too much text: a list may have a book in a cell."""
    some: list[Mapping[str, object]] = []
    length = 0
    for row in rows:
        some.append(row)
        length += sum(len(cell) for cell in row.values() if isinstance(cell, str))
        if len(some) >= _ROWS_AT_A_TIME or length >= _TEXT_AT_A_TIME:
            yield some
            some, length = [], 0
    if some:
        yield some


def _readable(
    rows: Iterator[Mapping[str, object] | Flaw], path: str, unread: Counter[str]
) -> Iterator[Mapping[str, object]]:
    for row in rows:
        if isinstance(row, Flaw):
            unread[path] += 1
        else:
            yield row


def _cell(value: object) -> str | None:
    if value is None:
        return None
    if isinstance(value, str):
        return value if value.isascii() else value.encode("utf-8", "replace").decode("utf-8")
    return to_json(value) if isinstance(value, list | dict) else str(value)
