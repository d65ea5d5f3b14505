"""The second door: files into a crate, whole or not at all, and never over another.

A picture is written beside its place, checked to be the image it claims, and then moved in, which fails where a
file is already. No file is fsynced: a crash of the whole machine may lose the last seconds, a killed process
loses nothing.
"""

import errno
import hashlib
import itertools
import os
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import BinaryIO, Self, cast

from pickcrate.addresses.url import brief
from pickcrate.crate.entry import VERSION_MARK, Entry, State
from pickcrate.crate.hashing import Hashing
from pickcrate.crate.incoming import Arrival, Incoming, Unfit, digest, look_at, measures_of_file, write
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.lists import write_credits, write_lists, write_parquet
from pickcrate.crate.lock import Lock
from pickcrate.crate.moving import copy_in, move_in
from pickcrate.crate.places import Places, dated, unwritable
from pickcrate.crate.reading import LedgerReader, in_use, told
from pickcrate.crate.regained import listed_entries
from pickcrate.errors import CrateError
from pickcrate.media import SPELLINGS
from pickcrate.name import Naming, finish, key
from pickcrate.sqlite import SQLITE_ERRORS
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure, Measures

COMMIT_SECONDS = 0.2
"""What a killed run may have to fetch once more; a commit a picture would cost as much as the picture."""

_ROOM = 16_000_000
"""Bytes of the disk that are left free; of a small one, a twentieth."""

_LOOK_AGAIN_SECONDS = 1.0
_LOOK_AGAIN_BYTES = 16_000_000
"""After what time, or after how much is written, it is looked how much room there is."""


class Crate:
    """An open crate, for the run's own thread."""

    def __init__(self, root: Path, *, strays_of: Path | None = None) -> None:
        """Open the crate at ``root``, making it if it is not there; CrateError if that cannot be.

        ``strays_of`` is the folder whose files no name may be given to, if it is another.
        """
        self.root = root
        self.places = Places(root)
        self._committed_at = 0.0
        self._hashing = Hashing()
        self._arrivals = itertools.count()
        self._beside = f"{self.places.incoming}{os.sep}"
        self._spare, self._looked_at = 0, 0.0
        try:
            self.places.check()
            self.places.incoming.mkdir(parents=True, exist_ok=True)
            self._lock = Lock(self.places.lock)
        except BlockingIOError as error:
            raise in_use(self.places) from error
        except OSError as error:
            raise unwritable(root, error) from error
        try:
            self.ledger = Ledger(self.places, listed_entries(Places(strays_of or root)))
            self._lock.sign()
            self.drop_incoming()
            if strays_of is None:
                self.clear()
            if self.ledger.had_rows and (moved := self.ledger.find_moved(self.places)):
                self.ledger.note_moved(moved)
            # What a killed run left in its place is met when the same picture comes again, and is known by its bytes.
            self._strays = set() if self.ledger.was_cut_off else _stems(strays_of or root)
        except BaseException as error:
            self._lock.release()
            if isinstance(error, OSError):
                raise unwritable(root, error) from error
            raise

    def __enter__(self) -> Self:
        return self

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> None:
        try:
            self._hashing.close()
            with told(self.places):
                self.ledger.close()
                if isinstance(error, SQLITE_ERRORS):
                    raise error
        finally:
            self._lock.release()

    def reserve(self, image: Image, naming: Naming, version: str = "") -> Entry:
        """Return the row of ``image``: the one it has, or a new one with the first name that nobody has.

        ``version`` is the hash of its bytes where its source brought them along: such a picture is not the one that
        the web has at its address, nor that of another archive.
        """
        address = f"{brief(image.url)}{VERSION_MARK}{version}" if version else brief(image.url)
        if self.ledger.had_rows and (known := self.ledger.find(address)) is not None:
            return known
        name = naming.spell(image)
        entry = None if key(name) in self._strays else self.ledger.reserve(address, name)
        if entry is None and (known := self.ledger.find(address)) is not None:
            return known
        while entry is None:
            entry = self.ledger.reserve(address, naming.next_free(image, self._is_taken))
        return entry

    def rename(self, entry: Entry, image: Image, naming: Naming) -> Entry:
        """Give a row whose place turned out to be taken by a stray file the next free name."""
        self._strays.add(key(entry.name))
        return self.ledger.rename(entry, naming.next_free(image, self._is_taken))

    def name_anew(self, entry: Entry, image: Image, naming: Naming) -> Entry:
        """Give a row the name that is right now that more is known of its picture, or the next free one."""
        name = naming.spell(image)
        if key(name) == key(entry.name):
            return entry
        return self.ledger.rename(entry, naming.next_free(image, self._is_taken) if self._is_taken(name) else name)

    def _is_taken(self, name: str) -> bool:
        return key(name) in self._strays or self.ledger.name_is_taken(name)

    def holds(self, entry: Entry) -> bool:
        """Tell whether the crate got this picture before, even if its owner has moved or deleted the file since."""
        return entry.state == State.HELD

    def is_there(self, entry: Entry) -> bool:
        """Tell whether the file of a held picture is where it was put."""
        return self.places.has(entry.file)

    def spool(self) -> BinaryIO:
        """Return a new file for a body too large for memory. Raises OSError."""
        self.check_room()
        return cast("BinaryIO", Incoming(Path(self._next_beside()), self._hashing.begin()))

    def _next_beside(self) -> str:
        """Return the path of a new file in the temporary folder, which is empty when a run begins, and ours alone."""
        return f"{self._beside}{next(self._arrivals):x}"

    def take_in(
        self,
        octets: bytes,
        spooled: BinaryIO | None,
        modified: int | None,
        *,
        is_all: bool = False,
        sha256: str = "",
    ) -> Arrival | Unfit:
        """Look at what came and write it beside its place, unless it is no whole picture. Raises OSError.

        ``is_all`` tells that all came that its server has, ``sha256`` the hash of the octets, if it was taken already.
        """
        incoming = cast("Incoming", spooled) if spooled is not None else None
        seen = look_at(octets, incoming, is_all=is_all)
        if isinstance(seen, Unfit):
            if incoming is not None:
                incoming.close()
            return seen
        if incoming is not None:
            beside, sha256 = str(incoming.path), incoming.finish(modified)
        else:
            beside, sha256 = self._next_beside(), sha256 or hashlib.sha256(octets).hexdigest()
            self.check_room(len(octets))
            write(beside, octets, modified)
        return Arrival(measures_of_file(seen.header, seen.size), sha256, beside, seen.is_unended, seen.embedded)

    def publish(self, entry: Entry, arrival: Arrival) -> str | None:
        """Move a picture into its place and return the file's name; None if another file is there already.

        A file that is there with the very same bytes is taken for this picture: a run was stopped between moving
        it in and writing that down. Raises OSError.
        """
        self.ledger.mark_unlisted()
        name = finish(entry.name, arrival.measures)
        final = self.places.spot(name)
        if final is None:  # a link is on its way, or the ledger of a stranger wants it elsewhere
            self._check_shelf(name)
            return None
        if "/" in name:
            Path(final).parent.mkdir(parents=True, exist_ok=True)
        if move_in(arrival.beside, final):
            return name
        if _has_content(Path(final), arrival.sha256):
            self.discard(arrival)
            return name
        return None

    def shelve(self, entry: Entry, shelf: str) -> str:
        """Move a held picture's file to a sub-folder, and return its new name; empty if it is not where it was put.

        Raises OSError.
        """
        old, base = self.places.of(entry.file), entry.file.rpartition("/")[2]
        if old is None or entry.file.startswith(f"{shelf}/") or not old.is_file():
            return ""
        self._check_shelf(f"{shelf}/{base}")
        (self.root / shelf).mkdir(exist_ok=True)
        stem, dot, ending = base.rpartition(".")
        for k in itertools.count(1):
            name = f"{shelf}/{base}" if k == 1 else f"{shelf}/{stem} {k}{dot}{ending}"
            if not self.ledger.is_held(name) and move_in(str(old), str(self.root / name)):
                break
        self.ledger.rename_file(entry.file, name)
        return name

    def set_aside(self, entry: Entry, today: date) -> str:
        """Keep a held picture's file under a dated name as well, and return that; empty if its file is another's too.

        The file keeps its place until a new version is put there. Raises OSError.
        """
        old = self.places.of(entry.file)
        if old is None or self.ledger.shares_file(entry):
            return ""
        for aside in dated(old, today):
            if copy_in(old, aside) or _has_content(aside, entry.sha256):
                name = aside.relative_to(self.root).as_posix()
                self.ledger.set_aside(entry, name)
                return name
        return ""

    def put_in_place(self, entry: Entry, arrival: Arrival) -> str | None:
        """Put a new version where the old one is, which was set aside; as ``publish`` if its ending is another."""
        place, kind = self.places.of(entry.file), arrival.measures.type
        if place is None or kind is None or SPELLINGS.get(place.suffix[1:].lower()) != kind.value:
            return self.publish(entry, arrival)
        Path(arrival.beside).replace(place)
        return entry.file

    def take_over(self, same: Entry, file: str) -> None:
        """Make ``file`` the place of bytes that came for a later picture first: the earlier one gives them its name.

        Else which of two pictures with the same bytes names the file would depend on which transfer ended first.
        """
        self.ledger.move(same.file, file, same.sha256)

    def drop_double(self, entry: Entry, same: Entry, arrival: Arrival) -> bool:
        """Let go of the file that ``entry`` got in a run that was killed before it wrote that down.

        Its bytes are those of ``same``, whose file came first this time. Only where that file is there: what the user
        moved is left alone. Returns whether there was such a file.
        """
        name = finish(entry.name, arrival.measures)
        place = self.places.of(name)
        if place is None or name == same.file or not _has_content(place, arrival.sha256):
            return False
        if self.ledger.is_held(name) or not self.is_there(same):
            return False
        self.ledger.leave(name, arrival.sha256)
        return True

    def let_go(self, file: str, sha256: str) -> None:
        """Delete a file that was set aside and replaced by one with another ending."""
        self.ledger.leave(file, sha256)

    def clear(self) -> None:
        """Delete what is to leave, now that all that was written down survives the process. Raises OSError."""
        self.ledger.commit()
        for file, sha256 in self.ledger.leaving():
            place = self.places.of(file)
            if place is not None and not self.ledger.is_held(file) and _has_content(place, sha256):
                place.unlink()
        self.ledger.commit()

    def _check_shelf(self, name: str) -> None:
        """Raise CrateError if a link stands where a shelf should be."""
        first = self.root / name.partition("/")[0]
        if "/" in name and first.is_symlink():
            raise CrateError(f"{first} leads out of the crate", hint="remove that link, or use another --shelf")

    def discard(self, arrival: Arrival) -> None:
        """Forget what was written beside its place and not moved in."""
        Path(arrival.beside).unlink(missing_ok=True)

    def record(self, entry: Entry) -> None:
        """Write a finished row; it survives the process within COMMIT_SECONDS."""
        self.ledger.write(entry)
        now = time.monotonic()
        if now - self._committed_at > COMMIT_SECONDS:
            self.ledger.commit()
            self._committed_at = now

    def check_room(self, size: int = 0) -> None:
        """Stop while there is still room to write down what was fetched. Raises OSError.

        The disk is asked once a second, or once in so many bytes: that takes a tenth of what a small picture takes.
        """
        now = time.monotonic()
        self._spare -= size
        if self._spare > 0 and now - self._looked_at < _LOOK_AGAIN_SECONDS:
            return
        disk = shutil.disk_usage(self.root)
        spare = disk.free - size - min(_ROOM, disk.total // 20)
        self._spare, self._looked_at = min(_LOOK_AGAIN_BYTES, spare), now
        if spare < 0:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    def drop_incoming(self) -> None:
        """Delete what was on its way in: of a run that was killed, or that is over. Raises OSError."""
        for leftover in self.places.incoming.iterdir():
            if leftover.is_symlink() or not leftover.is_dir():
                leftover.unlink()

    def write_list(self) -> None:
        """Write the lists of the crate. Raises CrateError."""
        write_lists(self.places, self.ledger)

    def write_parquet(self) -> None:
        """Write the list of the crate as Parquet. Raises CrateError, UsageError."""
        write_parquet(self.places, self.ledger)

    def write_credits(self) -> None:
        """Write the credits of its pictures. Raises CrateError."""
        write_credits(self.places, self.ledger)


def _stems(folder: Path) -> set[str]:
    """Return the names of a folder's files, without their endings, as names are compared."""
    return {key(path.stem) for path in folder.iterdir()} if folder.is_dir() else set()


@contextmanager
def rehearsed(root: Path) -> Iterator[Crate]:
    """Open a copy of the crate at ``root`` that is thrown away: names are given out as they would be there."""
    with TemporaryDirectory() as folder:
        known = Places(root)
        if known.ledger.is_file():
            copy = Places(Path(folder))
            copy.inner.mkdir()
            with LedgerReader.opened(known, for_files=True) as reader:
                reader.copy_to(copy.ledger)
        with Crate(Path(folder), strays_of=root if not known.ledger.is_file() else None) as crate:
            yield crate


def measures_of(entry: Entry) -> Measures:
    """Return the measures that the ledger has of a held picture."""
    return Measures(
        width=Measure(entry.width, Grade.ACTUAL) if entry.width is not None else None,
        height=Measure(entry.height, Grade.ACTUAL) if entry.height is not None else None,
        bytes=Measure(entry.bytes, Grade.ACTUAL) if entry.bytes is not None else None,
        type=Measure(entry.type, Grade.ACTUAL) if entry.type else None,
    )


def _has_content(path: Path, sha256: str) -> bool:
    if path.is_symlink() or not path.is_file():
        return False
    return digest(path).hex() == sha256
