"""What is where in a crate, and what to say when it cannot be written there.

Nothing in a crate is followed out of it: it may come from a stranger.
"""

import errno
import os
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from stat import S_ISLNK

from pickcrate.errors import CrateError
from pickcrate.name import OWN_NAMES, key
from pickcrate.tilde import without_tilde

INNER = ".pickcrate"
_NO_STEPS = frozenset(("", ".", ".."))
LIST, FAILED, SHEET, CREDITS, CREDITS_PAGE, PARQUET = OWN_NAMES
_LEDGER = "ledger.sqlite"


class Places:
    """The paths of one crate."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self._start = f"{root}{os.sep}"
        self.inner = root / INNER
        self.ledger = self.inner / _LEDGER
        self.lock = self.inner / "holder"
        self.incoming = self.inner / "incoming"
        self.tiles = self.inner / "tiles"
        self.list = root / LIST
        self.failed = root / FAILED
        self.sheet = root / SHEET
        self.credits = root / CREDITS
        self.parquet = root / PARQUET
        self.credits_page = root / CREDITS_PAGE

    def check(self) -> None:
        """Raise CrateError if something of ours is a link, or a folder where a file should be."""
        beside = (self.inner / f"{_LEDGER}{suffix}" for suffix in ("-wal", "-shm", "-journal"))
        for path in (self.inner, self.incoming, self.tiles, self.ledger, self.lock, *beside):
            if path.is_symlink():
                raise CrateError(
                    f"{path} is a link, which no crate has there", hint="remove it, or use another --crate"
                )
        for path in (self.list, self.failed, self.ledger, self.lock):
            if path.is_dir():
                raise CrateError(f"{path} is a folder, where the crate keeps a file", hint="move it away")

    def of(self, file: str) -> Path | None:
        """Return the place of a picture's file; None if it would lie outside the crate, or be reached by a link.

        ``file`` is as the ledger has it: steps of a path with ``/`` between them.
        """
        place = self.spot(file)
        return Path(place) if place is not None and not os.path.islink(place) else None  # noqa: PTH114 (a text)

    def has(self, file: str) -> bool:
        """Tell whether something is at a picture's place that is no link."""
        place = self.spot(file)
        if place is None:
            return False
        try:
            return not S_ISLNK(os.lstat(place).st_mode)
        except (OSError, ValueError):
            return False

    def spot(self, file: str) -> str | None:
        """Return the place where a picture's file is to be put, as a text, which costs a tenth of a Path.

        As ``of``, but for what stands there already.
        """
        if "\\" in file or "\0" in file or file[1:2] == ":":
            return None
        if file[:1].isalnum() and file.isascii() and "/" not in file:  # as most: one step, and not into INNER
            return self._start + file
        steps = file.split("/")
        if not _NO_STEPS.isdisjoint(steps) or key(steps[0]) == INNER:
            return None
        for count in range(1, len(steps)):
            if os.path.islink(self._start + "/".join(steps[:count])):  # noqa: PTH114
                return None
        return self._start + file


def is_crate(root: Path) -> bool:
    """Tell whether a folder is a crate."""
    return Places(root).ledger.is_file()


def crate_at(name: str, into: Path) -> Path | None:
    """Return the folder of a crate that is named by its path, or by its name under ``into``; None if it is none."""
    try:
        paths = (without_tilde(name), into / name)
        return next((path for path in paths if is_crate(path)), None)
    except (OSError, ValueError):  # an address may be no path at all
        return None


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
