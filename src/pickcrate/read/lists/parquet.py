"""A list in Parquet: its rows in batches, never the whole.

Its cells may be the pictures themselves, as sets of data have them: bytes, alone or beside the path of their file.
"""

import itertools
from base64 import b64encode
from collections.abc import Iterator, Mapping
from typing import Any, BinaryIO

from pickcrate.errors import SourceError, UsageError
from pickcrate.media.header import read_header
from pickcrate.read.lists.cells import Row, address_holding, as_cell
from pickcrate.read.lists.table import SAMPLE_ROWS, Table, chosen_columns, each_address, guess_columns
from pickcrate.values.flaw import Flaw

_ROWS_AT_A_TIME, _PICTURES_AT_A_TIME = 2_048, 16
_ADDRESSES = ("url", "src", "href", "uri", "path")
"""what the address is called in a cell that is an object"""

_BYTES, _PATH = "bytes", "path"


def open_parquet(file: BinaryIO, source: str, chosen: Mapping[str, str]) -> Table:
    """Open a list in Parquet; ``chosen`` maps fields to headers. Raises UsageError, SourceError."""
    try:
        import pyarrow as pa  # type: ignore[import-untyped]  # noqa: PLC0415 (only such lists need it)
        import pyarrow.parquet as pq  # type: ignore[import-untyped]  # noqa: PLC0415
    except ModuleNotFoundError:
        raise UsageError("lists in Parquet need pyarrow", hint="pip install 'pickcrate[data]'") from None
    try:
        opened = pq.ParquetFile(file, pre_buffer=False)  # else all of it is read at once
        has_bytes = any("binary" in str(kind) for kind in opened.schema_arrow.types)
        batches = opened.iter_batches(batch_size=_PICTURES_AT_A_TIME if has_bytes else _ROWS_AT_A_TIME)
        first = next(batches, None)
        head = [_plain(row) for row in first.to_pylist()] if first is not None else []
    except (pa.ArrowException, OSError, ValueError) as error:
        raise SourceError(f"{source}: cannot be read as Parquet: {error}") from error
    headers = list(dict.fromkeys((*opened.schema_arrow.names, *itertools.chain.from_iterable(head))))
    table = Table(iter(()), chosen_columns(chosen, headers, has_header=True), headers=headers)
    sample = [[as_cell(row[header]) if header in row else "" for header in headers] for row in head[:SAMPLE_ROWS]]
    guess_columns(table, sample, source)
    if (path := f"{table.columns['url']}.{_PATH}") in headers:
        table.columns.setdefault("name", path)

    def rows() -> Iterator[Row | Flaw]:
        yield from head
        try:
            yield from map(_plain, itertools.chain.from_iterable(batch.to_pylist() for batch in batches))
        except (pa.ArrowException, OSError, ValueError) as error:
            yield Flaw("row", f"the rest of it cannot be read: {str(error)[:200]}")

    table.rows = each_address(rows(), table, splits_text=False)  # those of a haul are one each
    return table


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    """Return a row with the addresses of its pictures; what else an object in a cell has is cells of their own."""
    plain: dict[str, Any] = {}
    for header, value in row.items():
        plain[header] = [_address(one) for one in value] if isinstance(value, list) else _address(value)
        if isinstance(value, dict) and plain[header] is not value:
            besides = {name: said for name, said in value.items() if said != plain[header]}
            plain |= {f"{header}.{name}": _besides(name, said) for name, said in besides.items() if name != _BYTES}
    return plain


def _address(value: Any) -> Any:
    """Return the address in a cell, with the picture in it if that is there; the cell itself if it is neither."""
    octets = value.get(_BYTES) if isinstance(value, dict) else value
    if isinstance(octets, bytes) and (header := read_header(octets)) is not None:
        return address_holding(header, b64encode(octets).decode())
    if not isinstance(value, dict):
        return value
    return next((said for name in _ADDRESSES if isinstance(said := value.get(name), str) and said), value)


def _besides(name: str, said: Any) -> Any:
    """Return what stands beside a picture; of the path of its file the name, as its folders were somebody else's."""
    return said.replace("\\", "/").rpartition("/")[2] if name == _PATH and isinstance(said, str) else said
