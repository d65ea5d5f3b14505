"""Audit: a crate's files held against its ledger; with repair, what is gone or changed is fetched again."""

import os
from collections.abc import Iterator
from datetime import date
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.crate.entry import State
from pickcrate.crate.inspection import Discrepancy, Trouble, inspect
from pickcrate.crate.places import Places, crate_at, dated
from pickcrate.crate.reading import LedgerReader
from pickcrate.crate.store import Crate
from pickcrate.errors import SourceError, UsageError
from pickcrate.fetch.exchange import Fetcher
from pickcrate.fullsize.description import is_description
from pickcrate.run.events import Found
from pickcrate.run.look.probes import Probes
from pickcrate.run.look.tiled import tiled
from pickcrate.run.pack.remembering import remembered
from pickcrate.tilde import without_tilde


class Audited(Struct, frozen=True):
    """How many files were looked at so far."""

    files: int


def crate_or_source(name: str, into: Path) -> Path | None:
    """Return the folder of the crate that a source is; None if it is another source.

    Raises SourceError for what is no file and is called nearly as a crate is.
    """
    path = crate_at(name, into)
    if path is not None or "/" in name or os.path.lexists(without_tilde(name)):
        return path
    from pickcrate.run.sources.meant import crate_meant  # noqa: PLC0415 (something is wrong)

    if hint := crate_meant(name, into):
        raise SourceError(f"{name}: no such file, and no crate under {into}", hint=hint)
    return None


def locate(name: str, into: Path) -> Path:
    """Return the folder of a crate; UsageError if there is none of that name."""
    path = crate_at(name, into)
    if path is not None:
        return path
    from pickcrate.run.sources.meant import crate_meant  # noqa: PLC0415 (something is wrong)

    hint = "a crate is a folder that pickcrate pack made; one that has lost its .pickcrate is one again after a pack"
    raise UsageError(f"{name}: no crate there, nor under {into}", hint=crate_meant(name, into) or hint)


def audit(root: Path) -> Iterator[Discrepancy | Audited]:
    """Yield what is wrong with the crate at ``root``, and at the end how many files were looked at."""
    files = 0
    places = Places(root)
    with LedgerReader.opened(places, for_files=True) as ledger:
        for finding in inspect(places, ledger):
            if finding is None or finding.trouble not in {Trouble.STRAY, Trouble.MOVED}:
                files += 1
            if finding is not None:
                yield finding
    yield Audited(files)


def note_moved(root: Path) -> None:
    """Write down where files are now that their owner has moved within the crate."""
    with Crate(root) as crate:
        crate.write_list()


def release(root: Path, findings: list[Discrepancy], today: date) -> Iterator[Found]:
    """Make ready to fetch again what is missing, altered or broken, and yield it as pictures.

    A file that is there is set aside under a dated name, never written over.
    """
    with Crate(root) as crate:
        entries = [finding.entry for finding in findings if finding.entry is not None]
        for place in filter(None, (crate.places.of(entry.file) for entry in entries)):
            _set_aside(place, today)
        gone = {entry.file for entry in entries}
        for row in list(crate.ledger.rows(State.HELD)):
            if row.file in gone:  # all addresses of these bytes
                crate.ledger.write(replace(row, state=State.RESERVED, file="", sha256=""))
    yield from (Found(remembered(entry, number)) for number, entry in enumerate(entries, 1))


def described(released: Iterator[Found], fetcher: Fetcher, max_pixels: int) -> Iterator[Found]:
    """Yield pictures that are to be fetched again; of those that were put together their descriptions are read anew."""
    probes = Probes(fetcher)
    for found in released:
        if not is_description(found.image.url):
            yield found
            continue
        [image] = tiled([found.image], fetcher, probes, max_pixels, full=False)
        yield replace(found, image=image)


def _set_aside(path: Path, today: date) -> None:
    if not path.is_file():
        return
    path.rename(next(aside for aside in dated(path, today) if not aside.exists()))
