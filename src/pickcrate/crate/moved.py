"""Where files are that a crate's owner renamed, or sorted into folders: told by their sizes, then by their bytes."""

import os
from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from pickcrate.crate.incoming import digest
from pickcrate.crate.places import INNER, Places

Kept = tuple[str, int, str]
"""of a file that a crate holds its name, its size in bytes, and its SHA-256 hash"""


def moved_files(places: Places, held: Iterable[Kept], is_known: Callable[[str], bool]) -> dict[str, str]:
    """Return where the files of ``held`` are that are not in their places: the old name of each, and the new one.

    A file that ``is_known`` is one of the ledger's, or of ours. A copy beside a file that is still in its place is
    none that was moved; of several copies the first by its name is taken. Only files of a size that is sought are read.
    """
    sought: dict[int, dict[str, deque[str]]] = defaultdict(lambda: defaultdict(deque))
    for file, size, sha256 in held:
        if not places.has(file):
            sought[size][sha256].append(file)
    moved: dict[str, str] = {}
    for file in sorted(files_of(places.root)) if sought else ():
        place = places.of(file)
        if place is None or is_known(file) or (of_its_size := sought.get(_size(place))) is None:
            continue
        if names := of_its_size.get(_hash(place)):
            moved[names.popleft()] = file
    return moved


def files_of(root: Path) -> Iterator[str]:
    """Yield the paths of the files and links in a crate, but for those of a crate inside it."""
    folders = [""]
    while folders:
        inside = folders.pop()
        try:
            with os.scandir(root / inside) as listing:
                entries = list(listing)
        except OSError:  # one that may not be read, or that was deleted just now
            continue
        if inside and any(entry.name == INNER for entry in entries):
            continue
        for entry in entries:
            path = f"{inside}{entry.name}"
            if entry.is_dir(follow_symlinks=False):
                if path != INNER:
                    folders.append(f"{path}/")
            elif entry.is_symlink() or entry.is_file():
                yield path


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return -1


def _hash(path: Path) -> str:
    try:
        return digest(path).hex()
    except OSError:
        return ""
