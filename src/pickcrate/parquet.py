"""Lists as Parquet (Apache Parquet format 2): rows written some at a time, so that a list passes in flat memory.

Numbers and truths have their types; what is a list or an object is JSON text, as in a CSV.
"""

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, Protocol

from pickcrate.errors import UsageError
from pickcrate.record import to_json

_ROWS_AT_A_TIME = 8_192
_TABLES_OF_A_GROUP = 8
"""A file has its rows in groups, and each costs memory until the end: few large ones are better to read, too."""

_NUMBERS = frozenset(("number", "width", "height", "bytes", "shown_width", "shown_height", "row", "offset"))
_NUMBERS_OF_BOTH = _NUMBERS | {f"old_{name}" for name in _NUMBERS}
_TRUTHS = frozenset(("pick", "hidden", "there"))
_TYPED = _NUMBERS_OF_BOTH | _TRUTHS


class Sink(Protocol):
    """Takes rows, one by one."""

    def __call__(self, row: Mapping[str, Any]) -> None:
        """Write one row."""


def arrow() -> Any:
    """Return the library that reads and writes Parquet. Raises UsageError without it."""
    try:
        import pyarrow as pa  # type: ignore[import-untyped]  # noqa: PLC0415 (only lists in Parquet need it)
        import pyarrow.parquet  # type: ignore[import-untyped]  # noqa: PLC0415
    except ModuleNotFoundError:
        raise UsageError("lists in Parquet need pyarrow", hint="pip install 'pickcrate[data]'") from None
    pa.parquet = pyarrow.parquet
    return pa


@contextmanager
def writing(path: str, columns: tuple[str, ...]) -> Iterator[Sink]:
    """Open a file for rows of some columns. Raises UsageError without the library, OSError if it cannot be written."""
    pa = arrow()
    schema = schema_of(columns)
    typed = [name for name in columns if name in _TYPED]
    texts = [name for name in columns if name not in _TYPED]
    waiting: list[dict[str, object]] = []
    tables: list[Any] = []
    with pa.parquet.ParquetWriter(path, schema, compression="zstd") as writer:

        def flush(*, everything: bool = False) -> None:
            if waiting:
                tables.append(pa.Table.from_pylist(waiting, schema=schema))
                waiting.clear()
            if tables and (everything or len(tables) >= _TABLES_OF_A_GROUP):
                writer.write_table(pa.concat_tables(tables))
                tables.clear()

        def sink(row: Mapping[str, Any]) -> None:
            cells: dict[str, object] = {name: _text(row.get(name)) for name in texts}
            cells |= {name: row.get(name) if row.get(name) != "" else None for name in typed}
            waiting.append(cells)
            if len(waiting) >= _ROWS_AT_A_TIME:
                flush()

        yield sink
        flush(everything=True)


def schema_of(columns: tuple[str, ...]) -> Any:
    """Return what a list with these columns has in them. Raises UsageError without the library."""
    pa = arrow()
    return pa.schema([(name, _type_of(pa, name)) for name in columns])


def rows_of(values: Iterable[Iterable[object]], columns: tuple[str, ...]) -> Iterator[dict[str, object]]:
    """Yield tuples as rows of columns."""
    return (dict(zip(columns, cells, strict=True)) for cells in values)


def _type_of(pa: Any, name: str) -> Any:
    if name in _NUMBERS_OF_BOTH:
        return pa.int64()
    return pa.bool_() if name in _TRUTHS else pa.string()


def _text(value: object) -> str | None:
    if value is None or value == "":
        return None
    text = value if isinstance(value, str) else to_json(value) if isinstance(value, list | dict) else str(value)
    return text if text.isascii() else text.encode("utf-8", "replace").decode("utf-8")
