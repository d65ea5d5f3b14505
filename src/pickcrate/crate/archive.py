"""One ZIP archive of a crate: its pictures, its list and its credits, written whole or not at all."""

import zipfile
from pathlib import Path

from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import CREDITS, CREDITS_PAGE, LIST, PARQUET, Places, unwritable
from pickcrate.errors import CrateError

_MARK = b"a crate, packed by Pick Crate"
"""the archive's comment: one that has it may be replaced by a newer one"""


def archive(places: Places, ledger: Ledger) -> Path:
    """Write the archive of a crate beside it, in place of an older one of the same; return its path.

    Raises CrateError if it cannot be written, or if a file that is no such archive is in its place.
    """
    root = places.root
    path = root.with_name(f"{root.name}.zip")
    beside = root.with_name(f".{root.name}.zip.part")
    if path.exists() and not _is_ours(path):
        raise CrateError(f"{path} is no archive of a crate", hint="move it away, or use another --crate")
    names = dict.fromkeys(str(file) for (file,) in ledger.held(("file",)))
    try:
        with zipfile.ZipFile(beside, "w", strict_timestamps=False) as packed:
            packed.comment = _MARK
            for name in (*names, LIST, CREDITS, CREDITS_PAGE, PARQUET):
                place = places.of(name)
                if place is not None and place.is_file():  # deleted by its owner: it stays so
                    packed.write(place, f"{root.name}/{name}", zipfile.ZIP_STORED)
        beside.replace(path)
    except OSError as error:
        raise unwritable(path, error) from error
    finally:
        beside.unlink(missing_ok=True)
    return path


def _is_ours(path: Path) -> bool:
    try:
        with zipfile.ZipFile(path) as packed:
            return packed.comment == _MARK
    except (OSError, zipfile.BadZipFile):
        return False
