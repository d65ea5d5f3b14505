"""Splitting a list into loads: counted in a first pass, sorted into loads in a second, in bounded memory.

The rows of many loads pass through files beside each other on the disk, each of which is small enough to be sorted.
"""

from collections import Counter, deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from pickcrate.errors import NothingPickedError, SourceError, UsageError
from pickcrate.haul.allotment import GROUPS, Allotment, allot, group_of, part_of
from pickcrate.haul.lists import batches, files_of, inspect, schema_of
from pickcrate.parquet import arrow
from pickcrate.read.recognise import Kind
from pickcrate.stores.papers import ROW
from pickcrate.twins.fingerprint import numpy

if TYPE_CHECKING:
    from pickcrate.haul.earlier import Earlier

_LOAD = "haul_load"
_MOST_HEAPS = 200
_ROWS_OF_A_HEAP = 400_000
_MOST_KNOWN = 500_000
_PUTS_AT_ONCE = 4
# An address up to its path (URL standard, 4.4: backslashes are slashes to a browser).
_AUTHORITY = r"^[\x00-\x20]*[A-Za-z][A-Za-z0-9+.\-]*:[/\\]*(?P<authority>[^/\\?#]*)"


class Read(Struct, frozen=True):
    """How many rows were read so far, of the first pass or of the second."""

    rows: int
    is_second: bool = False


class Split(Struct):
    """What a list came to: its rows, its loads, and which of these are one site's."""

    rows: int = 0
    loads: int = 0
    chains: tuple[tuple[int, int], ...] = ()
    passed_over: int = 0
    """rows that earlier hauls hold"""
    largest: int = 0
    """rows of the largest load"""
    columns: dict[str, str] = field(default_factory=dict)
    """field to header, for all of its files"""
    guessed: str = ""
    unread: Counter[str] = field(default_factory=Counter)
    """rows that could not be read, by the file"""


Put = Callable[[int, bytes], None]
"""Takes the number of a load and its rows, as a file in Parquet. It is called from several threads."""


class Splitter:
    """One list on its way into loads of about ``most`` rows each."""

    def __init__(
        self, sources: tuple[str, ...], chosen: dict[str, str], most: int, earlier: "Earlier | None" = None
    ) -> None:
        """Look at the files of a list; what ``earlier`` hauls hold is left out. Raises SourceError, UsageError."""
        self._earlier = earlier
        self._pa = arrow()
        self._np = numpy()
        self._compute: Any
        import pyarrow.compute  # type: ignore[import-untyped]  # noqa: PLC0415

        self._compute = pyarrow.compute
        self._most = most
        self._files = [inspect(path, chosen) for path in files_of(sources)]
        self._groups: dict[str, int] = {}
        first = self._files[0]
        self.split = Split(columns=dict(first.columns), guessed=first.guessed)
        for file in self._files[1:]:
            if dict(file.columns) != self.split.columns or file.is_pick_list != first.is_pick_list:
                words = f"{file.path} and {first.path} have different columns"
                raise UsageError(
                    words, hint="name the column of addresses, as in --column url=Photo, or haul them apart"
                )

    def run(self, folder: Path, put: Put) -> Iterator[Read]:
        """Split the list, handing each load to ``put``; yield how far it is. ``folder`` is for what is on the way.

        Raises SourceError for a list without rows, UsageError for files that do not go together, and what ``put``
        raises.
        """
        counts = self._np.zeros(GROUPS, self._np.int64)
        types: dict[str, Any] = {}
        for listed in self._files:
            if listed.kind is Kind.PARQUET:
                self._note(types, schema_of(listed.path))
            for batch in batches(listed, self.split.unread, (self.split.columns["url"],)):
                if listed.kind is not Kind.PARQUET:
                    self._note(types, batch.schema)
                self.split.rows += batch.num_rows
                new = self._new(batch)
                self.split.passed_over += batch.num_rows - len(new)
                groups = self._groups_of(batch if len(new) == batch.num_rows else batch.take(self._pa.array(new)))
                counts += self._np.bincount(groups, minlength=GROUPS)
                yield Read(self.split.rows)
        if not self.split.rows:
            raise SourceError(f"{self._files[0].path}: a list without a row", hint="it holds one address a row")
        if self.split.rows == self.split.passed_over:
            raise NothingPickedError("nothing new: earlier hauls hold all that the list names")
        allotment = allot(counts.tolist(), self._most)
        self.split.loads, self.split.chains = allotment.loads, allotment.chains
        del counts
        with TemporaryDirectory(prefix="haul-", dir=folder) as beside:
            heaps = Path(beside)
            schema = self._pa.schema([*types.items(), (ROW, self._pa.int64())])
            yield from self._into_heaps(heaps, allotment, schema)
            filled = self._into_loads(heaps, put)
        for load in range(allotment.loads):
            if load not in filled:  # of a chain, which hashes may leave empty
                put(load, self._as_parquet(schema.empty_table()))

    def _note(self, types: dict[str, Any], found: Any) -> None:
        """Take down the columns of a file: those that two files have of different types become texts."""
        for column in found:
            if column.name in {ROW, _LOAD}:  # the list is of loads of another haul
                continue
            kind = column.type.value_type if self._pa.types.is_dictionary(column.type) else column.type
            if self._pa.types.is_null(types.setdefault(column.name, kind)):
                types[column.name] = kind
            elif types[column.name] != kind and not self._pa.types.is_null(kind):
                types[column.name] = self._pa.string()

    def _new(self, batch: Any) -> Any:
        """Return the places of the rows of a batch that no earlier haul holds, as an array of numbers."""
        if self._earlier is None:
            return self._np.arange(batch.num_rows)
        return self._np.flatnonzero(~self._earlier.hold(self._addresses(batch).to_pylist()))

    def _groups_of(self, batch: Any) -> Any:
        """Return the group of each row, as an array of numbers."""
        found = self._compute.extract_regex(self._addresses(batch), _AUTHORITY)
        authorities = self._compute.struct_field(found, "authority").fill_null("").dictionary_encode()
        known = [self._group_of(text) for text in authorities.dictionary.to_pylist()]
        return self._np.array(known, self._np.int64)[authorities.indices.to_numpy()]

    def _group_of(self, authority: str) -> int:
        group = self._groups.get(authority)
        if group is None:
            if len(self._groups) >= _MOST_KNOWN:
                self._groups.clear()
            group = self._groups[authority] = group_of(authority)
        return group

    def _addresses(self, batch: Any) -> Any:
        column = batch.column(self.split.columns["url"])
        if self._pa.types.is_dictionary(column.type):
            column = column.dictionary_decode()
        if not (self._pa.types.is_string(column.type) or self._pa.types.is_large_string(column.type)):
            column = self._as(column, self._pa.string())
        return column

    def _as(self, column: Any, kind: Any) -> Any:
        """Return a column as one of another type. Raises UsageError if it cannot be one."""
        try:
            return column.cast(kind)
        except self._pa.ArrowException as error:
            words = f"a column of the list is {column.type} in one file and cannot be {kind} as in another"
            raise UsageError(words, hint="haul the files apart") from error

    def _into_heaps(self, folder: Path, allotment: Allotment, schema: Any) -> Iterator[Read]:
        """Write each row to the heap that its load is in, with its number and its load."""
        np, pa = self._np, self._pa
        first, parts = np.array(allotment.first), np.array(allotment.parts)
        loads_of_heap = max(1, -(-_ROWS_OF_A_HEAP // self._most), -(-allotment.loads // _MOST_HEAPS))
        schema = schema.append(pa.field(_LOAD, pa.int64()))
        row = 0
        with ExitStack() as stack:
            heaps: dict[int, Any] = {}
            for listed in self._files:
                for whole in batches(listed, Counter()):
                    new = self._new(whole)
                    batch = whole if len(new) == whole.num_rows else whole.take(pa.array(new))
                    groups = self._groups_of(batch)
                    loads = self._loads_of(batch, groups, first, parts)
                    numbers = row + 1 + new  # as the list has them: names begin with those
                    row += whole.num_rows
                    order = np.argsort(loads // loads_of_heap, kind="stable")
                    table = self._conformed(batch, schema, numbers, loads).take(pa.array(order))
                    places = (loads // loads_of_heap)[order]
                    starts = np.flatnonzero(np.diff(places, prepend=-1))
                    for start, end in zip(starts, [*starts[1:], len(places)], strict=True):
                        heap = int(places[start])
                        if heap not in heaps:
                            heaps[heap] = stack.enter_context(_heap(pa, folder / f"{heap:06}", schema))
                        heaps[heap].write_batch(table.slice(start, end - start))
                    yield Read(row, is_second=True)

    def _loads_of(self, batch: Any, groups: Any, first: Any, parts: Any) -> Any:
        """Return the load of each row: its group's, or the one of its group's chain that its address says."""
        loads = first[groups]
        cut = self._np.flatnonzero(parts[groups] > 1)
        if len(cut):
            addresses = self._addresses(batch).take(self._pa.array(cut)).to_pylist()
            hashes = self._np.array([part_of(address or "") for address in addresses], self._np.int64)
            loads[cut] += hashes % parts[groups][cut]
        return loads

    def _conformed(self, batch: Any, schema: Any, numbers: Any, loads: Any) -> Any:
        """Return a batch with all columns that the list has, and its rows' numbers and loads."""
        own = {ROW: self._pa.array(numbers), _LOAD: self._pa.array(loads)}
        columns = []
        for wanted in schema:
            if wanted.name in own:
                columns.append(own[wanted.name])
            elif wanted.name in batch.schema.names:
                column = batch.column(wanted.name)
                if self._pa.types.is_dictionary(column.type):
                    column = column.dictionary_decode()
                columns.append(column if column.type == wanted.type else self._as(column, wanted.type))
            else:
                columns.append(self._pa.nulls(batch.num_rows, wanted.type))
        return self._pa.RecordBatch.from_arrays(columns, schema=schema)

    def _into_loads(self, folder: Path, put: Put) -> set[int]:
        """Hand the loads of each heap to ``put``, a few at a time; return which these are."""
        filled: set[int] = set()
        with ThreadPoolExecutor(_PUTS_AT_ONCE) as threads:
            waiting: deque[Future[None]] = deque()
            for path in sorted(folder.iterdir()):
                for load, octets in self._loads_of_heap(path):
                    filled.add(load)
                    waiting.append(threads.submit(put, load, octets))
                    if len(waiting) > _PUTS_AT_ONCE:
                        waiting.popleft().result()
                path.unlink()
            for future in waiting:
                future.result()
        return filled

    def _loads_of_heap(self, path: Path) -> Iterator[tuple[int, bytes]]:
        """Yield the loads of a heap, each as a file in Parquet, its rows in the order of the list."""
        np, pa = self._np, self._pa
        with pa.OSFile(str(path)) as file, pa.ipc.open_stream(file) as opened:
            table = opened.read_all()
        loads = table.column(_LOAD).to_numpy()
        order = np.argsort(loads, kind="stable")
        table, loads = table.drop_columns([_LOAD]).take(pa.array(order)), loads[order]
        starts = np.flatnonzero(np.diff(loads, prepend=-1))
        for start, end in zip(starts, [*starts[1:], len(loads)], strict=True):
            self.split.largest = max(self.split.largest, int(end - start))
            yield int(loads[start]), self._as_parquet(table.slice(start, end - start))

    def _as_parquet(self, table: Any) -> bytes:
        sink = self._pa.BufferOutputStream()
        self._pa.parquet.write_table(table, sink, compression="zstd")
        return bytes(sink.getvalue().to_pybytes())


def _heap(pa: Any, path: Path, schema: Any) -> Any:
    return pa.ipc.new_stream(str(path), schema, options=pa.ipc.IpcWriteOptions(compression="lz4"))
