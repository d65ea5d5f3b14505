"""A list in Parquet: its rows in batches, never the whole."""

import itertools
from collections.abc import Iterator, Mapping
from typing import BinaryIO

from pickcrate.errors import SourceError, UsageError
from pickcrate.read.cells import Row, as_cell
from pickcrate.read.table import SAMPLE_ROWS, Table, chosen_columns, each_address, guess_columns
from pickcrate.values import Flaw

_ROWS_AT_A_TIME = 2_048


def open_parquet(file: BinaryIO, source: str, chosen: Mapping[str, str]) -> Table:
    """Open a list in Parquet; ``chosen`` maps fields to headers. Raises UsageError, SourceError."""
    try:
        import pyarrow as pa  # type: ignore[import-untyped]  # noqa: PLC0415 (only such lists need it)
        import pyarrow.parquet as pq  # type: ignore[import-untyped]  # noqa: PLC0415
    except ModuleNotFoundError:
        raise UsageError("lists in Parquet need pyarrow", hint="pip install 'pickcrate[data]'") from None
    try:
        opened = pq.ParquetFile(file)
        headers = list(opened.schema_arrow.names)
        batches = opened.iter_batches(batch_size=_ROWS_AT_A_TIME)
        first = next(batches, None)
        head = first.to_pylist() if first is not None else []
    except (pa.ArrowException, OSError, ValueError) as error:
        raise SourceError(f"{source}: cannot be read as Parquet: {error}") from error
    table = Table(iter(()), chosen_columns(chosen, headers, has_header=True), headers=headers)
    guess_columns(table, [list(map(as_cell, row.values())) for row in head[:SAMPLE_ROWS]], source)

    def rows() -> Iterator[Row | Flaw]:
        yield from head
        try:
            yield from itertools.chain.from_iterable(batch.to_pylist() for batch in batches)
        except (pa.ArrowException, OSError, ValueError) as error:
            yield Flaw("row", f"the rest of it cannot be read: {str(error)[:200]}")

    table.rows = each_address(rows(), table, splits_text=False)  # those of a haul are one each
    return table
