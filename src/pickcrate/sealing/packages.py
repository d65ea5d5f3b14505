"""Sealing: a package beside a crate, whole or not at all; and checking one, whichever standards it follows."""

import csv
import json
import tarfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from msgspec import Struct, field

from pickcrate.crate.entry import Entry
from pickcrate.crate.places import Places, unwritable
from pickcrate.errors import CrateError, UsageError
from pickcrate.record import write_csv
from pickcrate.sealing import bagit, croissant, rocrate
from pickcrate.sealing.contents import (
    LIST,
    Hashes,
    SealKind,
    Statement,
    copy_in,
    hashes_of,
    held_pictures,
    list_rows,
)

_MOST_MEMBERS = 5_000_000


class Sealed(Struct, frozen=True):
    """A package that was made: where, of how many pictures; and how many of the crate are not where they were put."""

    path: Path
    pictures: int
    bytes: int
    gone: int


class Checked(Struct):
    """What a check of a package came to: the standards that it follows, and what is wrong."""

    kinds: list[SealKind] = field(default_factory=list)
    findings: list[str] = field(default_factory=list)


def seal(
    places: Places, kinds: tuple[SealKind, ...], target: Path, state: Callable[[list[Entry]], Statement]
) -> Sealed:
    """Make a package of a crate at ``target``; ``state`` says what is to be said of its pictures.

    Raises UsageError if something is there, CrateError for a crate that holds nothing or is not as it was fetched.
    """
    if target.exists():
        raise UsageError(f"{target} is there already", hint="name another place with --out, or move it away")
    pictures, gone = held_pictures(places)
    if not pictures:
        raise CrateError(f"{places.root} holds no picture to seal", hint="pickcrate pack fetches some")
    said = state(pictures)
    try:
        with _beside(target) as building:
            size = _build(places, pictures, kinds, said, building)
            if SealKind.TAR in kinds:
                packed = target.with_name(f".{target.name}.tar.part")
                try:
                    write_tar(building, packed)
                    packed.rename(target)
                finally:
                    packed.unlink(missing_ok=True)
            else:
                building.rename(target)
    except OSError as error:
        raise unwritable(target, error) from error
    return Sealed(target, len(pictures), size, gone)


@contextmanager
def _beside(target: Path) -> Iterator[Path]:
    """Yield a folder to build in, which is gone at the end if it was not moved into its place."""
    with TemporaryDirectory(prefix=f".{target.name}.", dir=target.parent) as folder:
        building = Path(folder) / "package"
        building.mkdir()
        yield building


def _build(places: Places, pictures: list[Entry], kinds: tuple[SealKind, ...], said: Statement, root: Path) -> int:
    """Fill the folder of a package; return the bytes of its pictures. In a bag all but tag files is payload."""
    is_bag = SealKind.BAGIT in kinds
    inside = root / bagit.PAYLOAD if is_bag else root
    inside.mkdir(exist_ok=True)
    files = [copy_in(places, entry, inside / entry.file, entry.file) for entry in pictures]
    size = sum(one.size for one in files)
    is_described = SealKind.RO_CRATE in kinds or SealKind.CROISSANT in kinds
    payload = [*files]
    if is_described or not is_bag:
        listed = _write_list(inside / LIST, pictures)
        payload.append(listed)
        if SealKind.CROISSANT in kinds:
            payload.append(_write_json(inside / croissant.METADATA, croissant.metadata(pictures, listed, said)))
        if SealKind.RO_CRATE in kinds:
            told = rocrate.metadata(pictures, files, listed, said)
            payload.append(_write_json(inside / rocrate.METADATA, told))
    if is_bag:
        _write_list(root / LIST, pictures)
        in_bag = [Hashes(f"{bagit.PAYLOAD}/{one.path}", one.size, one.sha256, one.sha512) for one in payload]
        bagit.write_bag(root, in_bag, said, [LIST])
    return size


def _write_list(path: Path, pictures: list[Entry]) -> Hashes:
    with path.open("x", encoding="utf-8", newline="") as file:
        write_csv(file, list_rows(pictures))
    return hashes_of(path, path.name)


def _write_json(path: Path, told: dict[str, Any]) -> Hashes:
    text = json.dumps(told, ensure_ascii=False, indent=1).encode("utf-8", "replace").decode("utf-8")
    path.write_text(f"{text}\n", encoding="utf-8")
    return hashes_of(path, path.name)


def write_tar(root: Path, target: Path) -> None:
    """Write a folder as a tar (POSIX.1-2001, pax) whose bytes depend on its files alone: in order, without owners.

    Raises OSError.
    """
    with tarfile.open(target, "x", format=tarfile.PAX_FORMAT) as archive:
        for path in sorted((path for path in root.rglob("*") if path.is_file()), key=lambda path: path.as_posix()):
            member = tarfile.TarInfo(path.relative_to(root).as_posix())
            member.size, member.mode, member.mtime = path.stat().st_size, 0o644, 0
            with path.open("rb") as file:
                archive.addfile(member, file)


def check(package: Path) -> Checked:
    """Return which standards a package follows, and what is wrong with it. Raises UsageError if it is none."""
    try:
        if package.is_file():
            with TemporaryDirectory() as folder:
                _unpacked(package, Path(folder))
                checked = _check_folder(Path(folder), package)
                checked.kinds.append(SealKind.TAR)
                return checked
        return _check_folder(package, package)
    except (OSError, ValueError, csv.Error, tarfile.TarError, RecursionError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        words = f"{package} cannot be checked: {reason[:1].lower()}{reason[1:]}"
        raise UsageError(words, hint="pickcrate seal CRATE --as bagit makes one") from error


def _unpacked(package: Path, folder: Path) -> None:
    with tarfile.open(package) as archive:
        for count, member in enumerate(archive):
            if count > _MOST_MEMBERS:
                raise ValueError("it has too many members")
            archive.extract(member, folder, filter="data")


def _check_folder(root: Path, package: Path) -> Checked:
    checked = Checked()
    is_bag = (root / bagit.DECLARATION).is_file()
    inside = root / bagit.PAYLOAD if is_bag else root
    if is_bag:
        checked.kinds.append(SealKind.BAGIT)
        checked.findings += bagit.check_bag(root)
    if (inside / rocrate.METADATA).is_file():
        checked.kinds.append(SealKind.RO_CRATE)
        checked.findings += rocrate.check_rocrate(inside)
    if (inside / croissant.METADATA).is_file():
        checked.kinds.append(SealKind.CROISSANT)
        checked.findings += croissant.check_croissant(inside)
    if not checked.kinds and package.is_file() and (root / LIST).is_file():
        checked.findings += _check_list(root)
    elif not checked.kinds:
        hint = "a package has a bagit.txt, an ro-crate-metadata.json or a croissant.json, or is a tar of pictures"
        raise UsageError(f"{package} is no package that is known here", hint=hint)
    checked.findings = list(dict.fromkeys(checked.findings))
    return checked


def _check_list(root: Path) -> Iterator[str]:
    """Hold the pictures of a package against its list."""
    with (root / LIST).open(encoding="utf-8", newline="") as file:
        for row in csv.DictReader(file):
            path = root / str(row.get("file", ""))
            if not path.resolve().is_relative_to(root.resolve()) or not path.is_file():
                yield f"{row.get('file')} is missing"
            elif hashes_of(path, "").sha256 != row.get("sha256"):
                yield f"{row.get('file')} is not what {LIST} says"


def default_target(root: Path, kinds: tuple[SealKind, ...]) -> Path:
    """Return where a package goes if no place is named: beside the crate."""
    ending = SealKind.TAR if SealKind.TAR in kinds else kinds[0]
    return root.with_name(f"{root.name}.{ending.value}")
