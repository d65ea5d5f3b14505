"""The second door: files into a crate, whole or not at all, and never over another.

A picture is written beside its place, checked to be the image it claims, and then moved in by linking, which fails
where a file is already. No file is fsynced: a crash of the whole machine may lose the last seconds, a killed process
loses nothing.
"""

import errno
import hashlib
import os
import secrets
import shutil
import socket
import sqlite3
import time
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import BinaryIO, Self, cast

from pickcrate.addresses import brief
from pickcrate.crate.ledger import HOLDER, Entry, Ledger
from pickcrate.crate.moving import NO_HARD_LINKS, move_in
from pickcrate.errors import CrateError
from pickcrate.media.ending import ends_whole
from pickcrate.media.header import Header, read_header
from pickcrate.name import Naming, finish, key
from pickcrate.record import CRATE_COLUMNS, csv_lines
from pickcrate.values import Grade, Image, Measure, Measures

INNER = ".pickcrate"
LIST = "crate.csv"
FAILED = "failed.csv"
SHEET = "sheet.html"
FAILED_COLUMNS = (
    "pick", "number", "url", "shown_url", "page", "found_in", "alt", "caption", "evidence", "name", "error",
)  # fmt: skip
COMMIT_SECONDS = 0.2
"""What a killed run may have to fetch once more; a commit a picture would cost as much as the picture."""

_ROOM = 16_000_000
"""Bytes of the disk that are left free; of a small one, a twentieth."""

_HEAD_BYTES = 262_144
_TAIL_BYTES = 65_536


class Incoming:
    """A large body on its way in: a file in the crate's own temporary folder."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._file = path.open("xb", buffering=0)

    def write(self, octets: bytes) -> int:
        """Append ``octets``."""
        _write_all(self._file.fileno(), octets)
        return len(octets)

    def writelines(self, pieces: Iterable[bytes]) -> None:
        """Append every piece."""
        for piece in pieces:
            self.write(piece)

    def flush(self) -> None:
        """Hand all bytes to the operating system."""
        self._file.flush()

    def finish(self) -> None:
        """Close the file and keep it."""
        self._file.close()

    def close(self) -> None:
        """Close and delete the file."""
        self._file.close()
        self.path.unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class Arrival:
    """A whole picture in a file of the temporary folder."""

    measures: Measures
    sha256: str
    beside: Path


class Crate:
    """An open crate. All is for the run's own thread but ``take_in``, which any thread may call."""

    def __init__(self, root: Path, *, strays_of: Path | None = None) -> None:
        """Open the crate at ``root``, making it if it is not there; CrateError if that cannot be.

        ``strays_of`` is the folder whose files no name may be given to, if it is another.
        """
        self.root = root
        self._folder = str(root)
        self._temporary = root / INNER / "incoming"
        self._committed_at = 0.0
        try:
            self._temporary.mkdir(parents=True, exist_ok=True)
            self.ledger = Ledger(root / INNER / "ledger.sqlite")
            (root / INNER / HOLDER).write_text(f"{os.getpid()} {socket.gethostname()} {time.time():.0f}\n")
            self.drop_incoming()
            if strays_of is None:
                self.clear()
            self._strays = _stems(strays_of or root)
            self._check_room()
        except OSError as error:
            raise unwritable(root, error) from error

    def __enter__(self) -> Self:
        return self

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> None:
        try:
            (self.root / INNER / HOLDER).unlink(missing_ok=True)
            self.ledger.close()
        except sqlite3.Error as broken:
            error = error or broken
        if isinstance(error, sqlite3.Error):
            raise self._explained(error) from error

    def _explained(self, error: sqlite3.Error) -> CrateError:
        full = OSError(errno.ENOSPC, "") if "full" in str(error) else OSError(0, str(error))
        return unwritable(self.root, full)

    def reserve(self, image: Image, naming: Naming) -> Entry:
        """Return the row of ``image``: the one it has, or a new one with the first name that nobody has."""
        address = brief(image.url)
        if self.ledger.had_rows and (known := self.ledger.find(address)) is not None:
            return known
        name = naming.spell(image)
        entry = None if key(name) in self._strays else self.ledger.reserve(address, name)
        if entry is None and (known := self.ledger.find(address)) is not None:
            return known
        while entry is None:
            entry = self.ledger.reserve(address, self._next_name(image, naming))
        return entry

    def rename(self, entry: Entry, image: Image, naming: Naming) -> Entry:
        """Give a row whose place turned out to be taken by a stray file the next free name."""
        self._strays.add(key(entry.name))
        return self.ledger.rename(entry, self._next_name(image, naming))

    def name_anew(self, entry: Entry, image: Image, naming: Naming) -> Entry:
        """Give a row the name that is right now that more is known of its picture, or the next free one."""
        name = naming.spell(image)
        if key(name) == key(entry.name):
            return entry
        is_taken = key(name) in self._strays or self.ledger.name_is_taken(name)
        return self.ledger.rename(entry, self._next_name(image, naming) if is_taken else name)

    def _next_name(self, image: Image, naming: Naming) -> str:
        """Return a free name from the second on: double the number to a free one, then go back by halves."""

        def taken(k: int) -> bool:
            name = naming.spell(image, k)
            return key(name) in self._strays or self.ledger.name_is_taken(name)

        low, high = 1, 2
        while taken(high):
            low, high = high, high * 2
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if taken(middle) else (low, middle)
        return naming.spell(image, high)

    def holds(self, entry: Entry) -> bool:
        """Tell whether the crate got this picture before, even if its owner has moved or deleted the file since."""
        return entry.state == "held"

    def is_there(self, entry: Entry) -> bool:
        """Tell whether the file of a held picture is where it was put."""
        return bool(entry.file) and os.path.lexists(f"{self._folder}/{entry.file}")

    def spool(self) -> BinaryIO:
        """Return a new file for a body too large for memory. Raises OSError."""
        self._check_room()
        return cast("BinaryIO", Incoming(self._temporary / secrets.token_hex(8)))

    def take_in(self, octets: bytes, spooled: BinaryIO | None, modified: int | None) -> Arrival | str:
        """Look at what came and write it beside its place; in words why it is no whole picture. Raises OSError."""
        incoming = cast("Incoming", spooled) if spooled is not None else None
        if incoming is not None:
            head, tail, size = _ends(incoming.path)
        else:
            head, tail, size = octets, octets[-_TAIL_BYTES:], len(octets)
        header = read_header(head)
        problem = "" if header else "not an image"
        if header is not None and not ends_whole(header.type, tail, size, head):
            problem = f"cut short: this {header.type.upper()} has no end"
        if header is None or problem:
            if incoming is not None:
                incoming.close()
            return problem
        if incoming is not None:
            incoming.finish()
            # Here, in a writer's thread, and not as it comes: hashing costs more than fetching.
            beside, sha256 = incoming.path, digest(incoming.path).hex()
        else:
            beside, sha256 = self._temporary / secrets.token_hex(8), hashlib.sha256(octets).hexdigest()
            self._check_room(len(octets))
            _write(beside, octets)
        if modified is not None:
            os.utime(beside, (modified, modified))
        return Arrival(measures_of_file(header, size), sha256, beside)

    def publish(self, entry: Entry, arrival: Arrival) -> str | None:
        """Move a picture into its place and return the file's name; None if another file is there already.

        A file that is there with the very same bytes is taken for this picture: a run was stopped between moving
        it in and writing that down. Raises OSError.
        """
        name = finish(entry.name, arrival.measures)
        final = self.root / name
        if "/" in name:
            self._make_shelf(final.parent)
        if move_in(arrival.beside, final):
            return name
        if _has_content(final, arrival.sha256):
            self.discard(arrival)
            return name
        return None

    def set_aside(self, entry: Entry, today: date) -> str:
        """Keep a held picture's file under a dated name as well, and return that; empty if its file is another's too.

        The file keeps its place until a new version is put there. Raises OSError.
        """
        if self.ledger.shares_file(entry):
            return ""
        old = self.root / entry.file
        for aside in dated(old, today):
            if _move_in_copy(old, aside) or _has_content(aside, entry.sha256):
                name = aside.relative_to(self.root).as_posix()
                self.ledger.set_aside(entry, name)
                return name
        return ""

    def put_in_place(self, entry: Entry, arrival: Arrival) -> str | None:
        """Put a new version where the old one is, which was set aside; as ``publish`` if its ending is another."""
        name = finish(entry.name, arrival.measures)
        if name != entry.file:
            return self.publish(entry, arrival)
        arrival.beside.replace(self.root / name)
        return name

    def take_over(self, same: Entry, file: str) -> None:
        """Make ``file`` the place of bytes that came for a later picture first: the earlier one gives them its name.

        Else which of two pictures with the same bytes names the file would depend on which transfer ended first.
        """
        self.ledger.move(same.file, file, same.sha256)

    def let_go(self, file: str, sha256: str) -> None:
        """Delete a file that was set aside and replaced by one with another ending."""
        self.ledger.leave(file, sha256)

    def clear(self) -> None:
        """Delete what is to leave, now that all that was written down survives the process. Raises OSError."""
        self.ledger.commit()
        for file, sha256 in self.ledger.leaving():
            if not self.ledger.is_held(file) and _has_content(self.root / file, sha256):
                (self.root / file).unlink()
        self.ledger.commit()

    def _make_shelf(self, folder: Path) -> None:
        """Make a sub-folder; CrateError if a symbolic link leads out of the crate there."""
        folder.mkdir(parents=True, exist_ok=True)
        if not folder.resolve().is_relative_to(self.root.resolve()):
            raise CrateError(f"{folder} leads out of the crate", hint="remove that link, or use another --shelf")

    def discard(self, arrival: Arrival) -> None:
        """Forget what was written beside its place and not moved in."""
        arrival.beside.unlink(missing_ok=True)

    def record(self, entry: Entry) -> None:
        """Write a finished row; it survives the process within COMMIT_SECONDS."""
        self.ledger.write(entry)
        now = time.monotonic()
        if now - self._committed_at > COMMIT_SECONDS:
            self.ledger.commit()
            self._committed_at = now

    def _check_room(self, size: int = 0) -> None:
        """Stop while there is still room to write down what was fetched. Raises OSError."""
        disk = shutil.disk_usage(self.root)
        if disk.free - size < min(_ROOM, disk.total // 20):
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    def drop_incoming(self) -> None:
        """Delete what was on its way in: of a run that was killed, or that is over. Raises OSError."""
        for leftover in self._temporary.iterdir():
            leftover.unlink()

    def write_list(self) -> None:
        """Write ``crate.csv`` anew, one row a held picture, and ``failed.csv``, a pick list of what failed.

        That is gone when nothing is failing. Raises CrateError if they cannot be written.
        """
        if self.ledger.is_listed and (self.root / LIST).is_file():
            return
        self._write_csv(LIST, CRATE_COLUMNS, self.ledger.held(CRATE_COLUMNS))
        failed = [_failed_row(entry) for entry in self.ledger.rows("failed")]
        if failed:
            self._write_csv(FAILED, FAILED_COLUMNS, failed)
        else:
            (self.root / FAILED).unlink(missing_ok=True)
        self.ledger.mark_listed()

    def _write_csv(self, name: str, columns: tuple[str, ...], rows: Iterable[Iterable[object]]) -> None:
        beside = self._temporary / name
        try:
            with beside.open("w", encoding="utf-8", newline="") as file:
                file.writelines(csv_lines((columns,)))
                file.writelines(csv_lines(rows))
            beside.replace(self.root / name)
        except OSError as error:
            raise unwritable(self.root / name, error) from error


def _stems(folder: Path) -> set[str]:
    """Return the names of a folder's files, without their endings, as names are compared."""
    return {key(path.stem) for path in folder.iterdir()} if folder.is_dir() else set()


@contextmanager
def rehearsed(root: Path) -> Iterator[Crate]:
    """Open a copy of the crate at ``root`` that is thrown away: names are given out as they would be there."""
    with TemporaryDirectory() as folder:
        ledger = root / INNER / "ledger.sqlite"
        if ledger.is_file():
            copy = Path(folder) / INNER / "ledger.sqlite"
            copy.parent.mkdir()
            address = f"{ledger.resolve().as_uri()}?mode=ro"
            with closing(sqlite3.connect(address, uri=True)) as original, closing(sqlite3.connect(copy)) as target:
                original.backup(target)
        known = root if not ledger.is_file() else None
        with Crate(Path(folder), strays_of=known) as crate:
            yield crate


def _failed_row(entry: Entry) -> tuple[object, ...]:
    """Return a failed picture as a row of FAILED_COLUMNS: a pick list's, with the reason."""
    name = entry.name.replace("{{", "{").replace("}}", "}")
    url, shown = entry.address, entry.shown_url or entry.address
    return (
        True,
        entry.seq,
        url,
        shown,
        entry.page,
        "list",
        entry.alt,
        entry.caption,
        entry.evidence,
        name,
        entry.error,
    )


def measures_of(entry: Entry) -> Measures:
    """Return the measures that the ledger has of a held picture."""
    return Measures(
        width=Measure(entry.width, Grade.ACTUAL) if entry.width is not None else None,
        height=Measure(entry.height, Grade.ACTUAL) if entry.height is not None else None,
        bytes=Measure(entry.bytes, Grade.ACTUAL) if entry.bytes is not None else None,
        type=Measure(entry.type, Grade.ACTUAL) if entry.type else None,
    )


def unwritable(path: Path, error: OSError) -> CrateError:
    """Return what to tell a person whose crate cannot be written."""
    if error.errno in {errno.ENOSPC, errno.EDQUOT}:
        return CrateError(
            f"the disk is full: {path}", hint="make room and run the same line again: it goes on from here"
        )
    reason = (error.strerror or str(error)).lower()
    return CrateError(f"cannot write into {path}: {reason}", hint="choose another place with --into or --crate")


def measures_of_file(header: Header, size: int) -> Measures:
    """Return the measures of a whole file of ``size`` bytes."""
    return Measures(
        width=Measure(header.width, Grade.ACTUAL) if header.width else None,
        height=Measure(header.height, Grade.ACTUAL) if header.height else None,
        bytes=Measure(size, Grade.ACTUAL),
        type=Measure(header.type, Grade.ACTUAL),
    )


def _ends(path: Path) -> tuple[bytes, bytes, int]:
    with path.open("rb") as file:
        head = file.read(_HEAD_BYTES)
        size = file.seek(0, os.SEEK_END)
        file.seek(max(0, size - _TAIL_BYTES))
        return head, file.read(), size


def _write(path: Path, octets: bytes) -> None:
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | getattr(os, "O_BINARY", 0), 0o666)
    try:
        _write_all(descriptor, octets)
    finally:
        os.close(descriptor)


def _write_all(descriptor: int, octets: bytes) -> None:
    view = memoryview(octets)
    while view:
        view = view[os.write(descriptor, view) :]


def digest(path: Path, algorithm: str = "sha256") -> bytes:
    """Return the digest of a file. Raises OSError."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, algorithm).digest()


def dated(path: Path, today: date) -> Iterator[Path]:
    """Yield names for an older version of a file: with the day, then numbered."""
    for k in range(1, 10_000):
        number = "" if k == 1 else f" {k}"
        yield path.with_name(f"{path.stem} ({today.isoformat()}{number}){path.suffix}")


def _move_in_copy(path: Path, copy: Path) -> bool:
    """Give a file a second name; False if something is there already."""
    try:
        os.link(path, copy)
    except FileExistsError:
        return False
    except OSError as error:
        if error.errno not in NO_HARD_LINKS:
            raise
        try:
            with path.open("rb") as old, copy.open("xb") as new:
                shutil.copyfileobj(old, new)
        except FileExistsError:
            return False
        shutil.copystat(path, copy)
    return True


def _has_content(path: Path, sha256: str) -> bool:
    if path.is_symlink() or not path.is_file():
        return False
    return digest(path).hex() == sha256
