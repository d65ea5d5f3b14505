"""What is where in a crate, and what to say when it cannot be written there."""

import errno
from collections.abc import Iterator
from datetime import date
from pathlib import Path

from pickcrate.errors import CrateError

INNER = ".pickcrate"
LIST = "crate.csv"
FAILED = "failed.csv"
SHEET = "sheet.html"


def dated(path: Path, today: date) -> Iterator[Path]:
    """Yield names for an older version of a file: with the day, then numbered."""
    for k in range(1, 10_000):
        number = "" if k == 1 else f" {k}"
        yield path.with_name(f"{path.stem} ({today.isoformat()}{number}){path.suffix}")


def unwritable(path: Path, error: OSError) -> CrateError:
    """Return what to tell a person whose crate cannot be written."""
    if error.errno in {errno.ENOSPC, errno.EDQUOT}:
        return CrateError(
            f"the disk is full: {path}", hint="make room and run the same line again: it goes on from here"
        )
    reason = (error.strerror or str(error)).lower()
    return CrateError(f"cannot write into {path}: {reason}", hint="choose another place with --into or --crate")
