"""BagIt (RFC 8493): the manifests and tag files of a bag, and whether a bag is complete and valid."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from pickcrate.sealing.contents import Hashes, Statement, hashes_of
from pickcrate.version import __version__

PAYLOAD = "data"
DECLARATION = "bagit.txt"
_INFO = "bag-info.txt"
_ALGORITHMS = ("sha256", "sha512")
_MOST_LINES = 5_000_000


def write_bag(root: Path, payload: list[Hashes], said: Statement, tags: Iterable[str]) -> None:
    """Write what makes a bag of a folder whose payload is in it (2.1, 2.2). ``tags`` are tag files that are there.

    Raises OSError.
    """
    (root / DECLARATION).write_text("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", encoding="utf-8")
    size = sum(one.size for one in payload)
    info = {
        "Source-Organization": said.publisher,
        "External-Description": said.description,
        "External-Identifier": said.title,
        "Bagging-Date": said.today.isoformat(),
        "Bag-Software-Agent": f"Pick Crate {__version__}",
        "Payload-Oxum": f"{size}.{len(payload)}",
    }
    lines = [f"{label}: {_one_line(value)}\n" for label, value in info.items() if value]
    (root / _INFO).write_text("".join(lines), encoding="utf-8")
    for algorithm in _ALGORITHMS:
        _write_manifest(root / f"manifest-{algorithm}.txt", payload, algorithm)
    names = [DECLARATION, _INFO, *tags, *(f"manifest-{algorithm}.txt" for algorithm in _ALGORITHMS)]
    tagged = [hashes_of(root / name, name) for name in sorted(names)]
    for algorithm in _ALGORITHMS:
        _write_manifest(root / f"tagmanifest-{algorithm}.txt", tagged, algorithm)


def _write_manifest(path: Path, files: list[Hashes], algorithm: str) -> None:
    lines = (f"{getattr(one, algorithm)}  {_encoded(one.path)}\n" for one in sorted(files, key=lambda one: one.path))
    with path.open("w", encoding="utf-8", newline="\n") as file:
        file.writelines(lines)


def check_bag(root: Path) -> Iterator[str]:
    """Yield what is wrong with a bag (3: complete, and valid). Raises OSError, ValueError for what is no manifest."""
    declared = (root / DECLARATION).read_text(encoding="utf-8-sig").split("\n")
    if not declared[0].startswith("BagIt-Version: "):
        yield f"{DECLARATION} does not say which version it is of"
    manifests = sorted(root.glob("manifest-*.txt"))
    if not manifests:
        yield "there is no manifest"
    payload = {path.relative_to(root).as_posix() for path in (root / PAYLOAD).rglob("*") if path.is_file()}
    known: dict[str, Hashes] = {}
    for manifest in (*manifests, *sorted(root.glob("tagmanifest-*.txt"))):
        algorithm = manifest.stem.partition("-")[2]
        listed = dict(_read_manifest(manifest))
        if manifest in manifests:
            yield from (f"{path} is in no {algorithm} manifest" for path in sorted(payload - listed.keys()))
        if algorithm in _ALGORITHMS:
            yield from _hold_against(root, listed, algorithm, known)
    yield from _check_oxum(root, payload)


def _hold_against(root: Path, listed: dict[str, str], algorithm: str, known: dict[str, Hashes]) -> Iterator[str]:
    """Yield what is wrong with files by one manifest; ``known`` keeps their hashes for the next."""
    for path, expected in listed.items():
        file = root / path
        if not file.resolve().is_relative_to(root.resolve()):
            yield f"{path} leads out of the bag"
        elif not file.is_file():
            yield f"{path} is missing"
        else:
            if path not in known:
                known[path] = hashes_of(file, path)
            if getattr(known[path], algorithm) != expected.lower():
                yield f"{path} is not what the {algorithm} manifest says"


def _read_manifest(path: Path) -> Iterator[tuple[str, str]]:
    with path.open(encoding="utf-8-sig") as file:
        for number, line in enumerate(file):
            if number > _MOST_LINES:
                raise ValueError(f"{path.name} has too many lines")
            parts = line.rstrip("\r\n").split(maxsplit=1)
            if len(parts) == 2:
                yield _decoded(parts[1].removeprefix("*")), parts[0]
            elif parts:
                raise ValueError(f"{path.name}, line {number + 1}: no hash and path")


def _check_oxum(root: Path, payload: set[str]) -> Iterator[str]:
    """Hold the size and number of files against what bag-info.txt says (2.2.2: Payload-Oxum)."""
    info = root / _INFO
    lines = info.read_text(encoding="utf-8-sig").splitlines() if info.is_file() else []
    oxum = next((line.partition(":")[2].strip() for line in lines if line.lower().startswith("payload-oxum:")), "")
    size = sum((root / path).stat().st_size for path in payload)
    if oxum and oxum != f"{size}.{len(payload)}":
        yield f"there are {len(payload)} files of {size} bytes, and {_INFO} says {oxum}"


def _one_line(text: str) -> str:
    return " ".join(text.split())


def _encoded(path: str) -> str:
    """Return a path as a manifest has it (2.1.3: only line breaks and the percent sign are encoded)."""
    return path.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


def _decoded(path: str) -> str:
    for spelled, plain in (("%0D", "\r"), ("%0d", "\r"), ("%0A", "\n"), ("%0a", "\n"), ("%25", "%")):
        path = path.replace(spelled, plain)
    return path
