"""Inspection: the files of a crate held against its ledger, each read in full."""

import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from pickcrate.crate.incoming import digest
from pickcrate.crate.ledger import Entry, Ledger
from pickcrate.crate.places import FAILED, INNER, LIST, SHEET

_MOST_PIXELS = 400_000_000
"""Pixels that are still decoded: a picture may be made to fill memory."""

_DECODED = frozenset(("jpeg", "png", "gif", "webp", "bmp", "tiff"))


class Trouble(StrEnum):
    """What may be wrong with a file."""

    MISSING = "missing"
    ALTERED = "altered"
    BROKEN = "broken"
    STRAY = "stray"


@dataclass(frozen=True, slots=True)
class Finding:
    """One file that is not as the ledger says; a stray has no row there."""

    trouble: Trouble
    file: str
    words: str
    entry: Entry | None = None


def inspect(root: Path, ledger: Ledger) -> Iterator[Finding | None]:
    """Yield a finding, or None, for each file that the ledger knows; then the strays."""
    known: set[str] = set()
    for entry in ledger.rows("held"):
        if entry.file not in known:
            known.add(entry.file)
            yield _inspect(root / entry.file, entry)
    ours = {LIST, FAILED, SHEET, *ledger.former_files()}
    for path in sorted(root.rglob("*")):
        name = path.relative_to(root).as_posix()
        if path.is_file() and name not in known and name not in ours and not name.startswith(f"{INNER}/"):
            yield Finding(Trouble.STRAY, name, "the ledger knows nothing of it")


def _inspect(path: Path, entry: Entry) -> Finding | None:
    if not path.is_file():
        return Finding(Trouble.MISSING, entry.file, "moved or deleted since it was fetched", entry)
    try:
        found = digest(path).hex()
    except OSError as error:
        return Finding(Trouble.BROKEN, entry.file, f"cannot be read: {(error.strerror or str(error)).lower()}", entry)
    if found != entry.sha256:
        return Finding(Trouble.ALTERED, entry.file, "its bytes are not those that were fetched", entry)
    problem = _decode(path) if entry.type in _DECODED else ""
    return Finding(Trouble.BROKEN, entry.file, problem, entry) if problem else None


def _decode(path: Path) -> str:
    """Return why a picture cannot be decoded in full; empty if it can."""
    from PIL import Image  # noqa: PLC0415 (an audit only)

    Image.MAX_IMAGE_PIXELS = _MOST_PIXELS
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path) as picture:
                for frame in range(getattr(picture, "n_frames", 1)):
                    picture.seek(frame)
                    picture.load()
    except Image.DecompressionBombError:
        return f"more than {_MOST_PIXELS // 1_000_000} megapixels: it is not decoded"
    except Exception as error:  # noqa: BLE001 (decoders raise what they trip over)
        return f"cannot be decoded: {str(error)[:100]}"
    return ""
