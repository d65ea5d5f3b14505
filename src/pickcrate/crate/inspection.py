"""Inspection: the files of a crate held against its ledger, each read in full."""

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import nullcontext
from enum import StrEnum
from pathlib import Path
from threading import Lock

from msgspec import Struct

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import digest
from pickcrate.crate.moved import files_of
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.media import MANY_PIXELS, MOST_PIXELS
from pickcrate.name import OWN_NAMES

_MOST_FRAMES = 1_000
_THREADS = 2
"""Hashing and decoding leave the interpreter free."""

_MOST_AHEAD = 64
_LARGE = Lock()
"""held while a picture of many pixels is decoded"""

_DECODED = frozenset(("jpeg", "png", "gif", "webp", "bmp", "tiff"))


class Trouble(StrEnum):
    """What may be wrong with a file."""

    MISSING = "missing"
    ALTERED = "altered"
    BROKEN = "broken"
    STRAY = "stray"
    UNENDED = "unended"
    """as it was fetched, which is without an end: no harm that came to it here"""
    MOVED = "moved"
    """renamed, or sorted into a folder, with the bytes that were fetched"""


HARMLESS = frozenset((Trouble.UNENDED, Trouble.MOVED))
"""what is told for information: every byte is as it was fetched"""


class Discrepancy(Struct, frozen=True):
    """One file that is not as the ledger says; a stray has no row there."""

    trouble: Trouble
    file: str
    words: str
    entry: Entry | None = None


def inspect(places: Places, ledger: LedgerReader) -> Iterator[Discrepancy | None]:
    """Yield a finding, or None, for each file that the ledger knows; then the strays."""
    for old, new in ledger.moved.items():
        yield Discrepancy(Trouble.MOVED, new, f"it was {old}")
    known: set[str] = set()
    under_way = deque[Future[Discrepancy | None]]()
    with ThreadPoolExecutor(_THREADS) as inspectors:
        try:
            for entry in ledger.rows(State.HELD):
                if entry.file not in known:
                    known.add(entry.file)
                    under_way.append(inspectors.submit(_inspect, places.of(entry.file), entry))
                    if len(under_way) > _MOST_AHEAD:
                        yield under_way.popleft().result()
            while under_way:
                yield under_way.popleft().result()
        finally:
            for left in under_way:
                left.cancel()
    ours = {*OWN_NAMES, *ledger.aside_files()}
    for name in sorted(files_of(places.root)):
        if name not in known and name not in ours:
            yield Discrepancy(Trouble.STRAY, name, "the ledger knows nothing of it")


def _inspect(path: Path | None, entry: Entry) -> Discrepancy | None:
    if path is None:
        words = "its place is a link, or lies outside the crate: nothing is followed there"
        return Discrepancy(Trouble.MISSING, entry.file, words, entry)
    if not path.is_file():
        return Discrepancy(Trouble.MISSING, entry.file, "moved or deleted since it was fetched", entry)
    try:
        found = digest(path).hex()
    except OSError as error:
        return Discrepancy(
            Trouble.BROKEN, entry.file, f"cannot be read: {(error.strerror or str(error)).lower()}", entry
        )
    if found != entry.sha256:
        return Discrepancy(Trouble.ALTERED, entry.file, "its bytes are not those that were fetched", entry)
    if entry.unended:
        return Discrepancy(Trouble.UNENDED, entry.file, "has no end, as its server had it")
    problem = _decode(path, entry) if entry.type in _DECODED else ""
    return Discrepancy(Trouble.BROKEN, entry.file, problem, entry) if problem else None


def _decode(path: Path, entry: Entry) -> str:
    """Return why a picture cannot be decoded in full; empty if it can."""
    if (entry.width or 0) * (entry.height or 0) > MOST_PIXELS:
        return ""  # its bytes are those that were fetched: more is not asked of one so large
    from PIL import Image  # noqa: PLC0415 (an audit only)

    is_large = (entry.width or 0) * (entry.height or 0) > MANY_PIXELS
    try:
        with _LARGE if is_large else nullcontext(), Image.open(path) as picture:
            for frame in range(min(getattr(picture, "n_frames", 1), _MOST_FRAMES)):
                picture.seek(frame)
                picture.load()
    except Exception as error:  # noqa: BLE001 (decoders raise what they trip over)
        return f"cannot be decoded: {str(error)[:100]}"
    return ""
