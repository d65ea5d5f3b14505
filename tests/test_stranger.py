"""A crate from a stranger, and crates that are damaged: nothing is followed out of them, and each is said in a line."""

import csv
import os
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from conftest import Program, Server, picture
from pickcrate.crate.lock import Lock
from pickcrate.name import finish
from pickcrate.values.measures import Grade, Measure, Measures

KITE = picture("PNG", (60, 40))


@pytest.fixture
def line(web: Server) -> tuple[str, ...]:
    for name in "ab":
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60, ord(name))))
    (web.www / "p.html").write_text("<title>Kites</title><img src=a.png><img src=b.png>")
    return ("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots")


@pytest.fixture
def outside(tmp_path: Path) -> Path:
    folder = tmp_path / "outside"
    folder.mkdir()
    (folder / "mine.txt").write_text("mine")
    (folder / "mine.png").write_bytes(KITE)
    return folder


def everything(folder: Path) -> dict[str, tuple[bytes, int]]:
    """Return what is in a folder, with when it was changed."""
    return {
        str(path.relative_to(folder)): (path.read_bytes() if path.is_file() else b"", path.lstat().st_mtime_ns)
        for path in sorted(folder.rglob("*"))
    }


def change_rows(statement: str, *values: object) -> None:
    with closing(sqlite3.connect("crates/c/.pickcrate/ledger.sqlite")) as ledger, ledger:
        ledger.execute(statement, values)


ORDERS: list[tuple[str, ...]] = [
    ("audit", "c"),
    ("audit", "c", "--repair"),
    ("sheet", "c"),
    ("pack",),
    ("pack", "--dry-run"),
]


def linked(name: str) -> Callable[[Path], None]:
    def make(outside: Path) -> None:
        place = Path("crates/c/.pickcrate", name)
        shutil.rmtree(place) if place.is_dir() else place.unlink(missing_ok=True)
        place.symlink_to(outside if name == "incoming" else outside / "mine.txt")

    return make


@pytest.mark.parametrize("order", ORDERS, ids=" ".join)
@pytest.mark.parametrize("name", ["incoming", "holder", "ledger.sqlite", "ledger.sqlite-wal"])
def test_links_among_our_own_files(
    run: Program, line: tuple[str, ...], outside: Path, name: str, order: tuple[str, ...]
) -> None:
    run(*line)
    linked(name)(outside)
    before = everything(outside)
    done = run(*(line if order[0] == "pack" else order), *(order[1:] if order[0] == "pack" else ()))
    assert (done.code, "is a link" in done.err) == (5, True), done
    assert everything(outside) == before


@pytest.mark.parametrize("order", ORDERS, ids=" ".join)
@pytest.mark.parametrize(
    "file",
    ["../../outside/mine.png", "/etc/passwd", "shelf/mine.png", "b.png/../../../outside/mine.png", ".pickcrate/holder"],
)
def test_rows_that_lead_outside(
    run: Program, line: tuple[str, ...], outside: Path, file: str, order: tuple[str, ...]
) -> None:
    run(*line)
    Path("crates/c/shelf").symlink_to(outside)
    change_rows(
        "UPDATE picture SET file = ?, name = ?, sha256 = ? WHERE seq = 1", file, file.removesuffix(".png"), "0" * 64
    )
    change_rows("INSERT INTO leaving VALUES (?, ?)", file, "0" * 64)
    before = everything(outside)
    done = run(*(line if order[0] == "pack" else order), *(order[1:] if order[0] == "pack" else ()))
    assert done.code in {0, 1, 5}, done
    assert everything(outside) == before


def test_reading_a_crate_writes_nothing(run: Program, line: tuple[str, ...], tmp_path: Path) -> None:
    run(*line)
    crate = tmp_path / "crates" / "c"
    before = everything(crate)
    assert run("audit", "c").code == 0
    assert run("sheet", "c", "--out", "s.html").code == 0
    assert run(*line, "--dry-run").code == 0
    assert everything(crate) == before


def test_a_crate_is_read_while_a_run_fills_it(run: Program, line: tuple[str, ...], tmp_path: Path) -> None:
    run(*line)
    inner = tmp_path / "crates" / "c" / ".pickcrate"
    lock = Lock(inner / "holder")
    lock.sign()
    with closing(sqlite3.connect(inner / "ledger.sqlite", isolation_level=None)) as writer:
        writer.execute("BEGIN IMMEDIATE")
        writer.execute("UPDATE picture SET alt = 'under way'")
        assert "2 files of the ledger" in run("audit", "c").out
        assert "2 there already" in run(*line, "--dry-run").out
        refused = run(*line)
    lock.release()
    assert (refused.code, f"process {os.getpid()} on" in refused.err) == (5, True)


def cut(path: Path) -> None:
    path.write_bytes(b"")


def scribble(path: Path) -> None:
    octets = bytearray(path.read_bytes())
    octets[4096:12_000] = b"kite" * 1976
    path.write_bytes(octets)


def unreadable(path: Path) -> None:
    """What SQLite says of such a table is in no encoding."""
    path.write_bytes(path.read_bytes().replace(b"CREATE TABLE picture", b"CREATE T\xceBLE picture"))


def without_rows(path: Path) -> None:
    with closing(sqlite3.connect(path)) as ledger, ledger:
        ledger.execute("DROP TABLE picture")


def newer(path: Path) -> None:
    with closing(sqlite3.connect(path)) as ledger, ledger:
        ledger.execute("PRAGMA user_version = 99")


DAMAGES = [
    (cut, "is empty"), (scribble, "is damaged"), (unreadable, "is damaged"), (without_rows, "is damaged"), (newer, "another version"),
    (lambda path: path.write_bytes(b"no ledger " * 999), "is no ledger"),
    (lambda path: (path.parent.parent / "crate.csv").unlink() or (path.parent.parent / "crate.csv").mkdir(), "crate.csv is a folder"),
    (lambda path: (path.parent.parent / "failed.csv").mkdir(), "failed.csv is a folder"),
]  # fmt: skip


@pytest.mark.parametrize("order", [("audit", "c"), ("pack",), ("pack", "--dry-run")], ids=" ".join)
@pytest.mark.parametrize(("damage", "words"), DAMAGES)
def test_damage_is_said_in_a_line(
    run: Program, line: tuple[str, ...], damage: Callable[[Path], object], words: str, order: tuple[str, ...]
) -> None:
    run(*line)
    damage(Path("crates/c/.pickcrate/ledger.sqlite"))
    kept = {path.name for path in Path("crates/c").glob("*.png")}
    done = run(*(line if order[0] == "pack" else order), *(order[1:] if order[0] == "pack" else ()))
    assert (done.code, words in done.err, len(done.err.splitlines())) == (5, True, 2), done
    assert {path.name for path in Path("crates/c").glob("*.png")} == kept


def test_our_own_names_are_nobody_elses(run: Program, web: Server) -> None:
    (web.www / "a.png").write_bytes(KITE)
    (web.www / "p.html").write_text("<title>K</title><h2>Crate.csv</h2><img src=a.png>")
    order = ("pack", f"{web.address}/p.html", "--crate", "c", "--shelf", "{heading}", "--no-robots")
    assert run(*order).code == run(*order).code == 0
    assert Path("crates/c/_Crate.csv/a.png").read_bytes() == KITE
    assert len(list(csv.DictReader(Path("crates/c/crate.csv").read_text(encoding="utf-8").splitlines()))) == 1


@pytest.mark.parametrize(
    "spelled", ["{0}", "{width.__class__}", "{x}", "{", "}", "{width:>999999999}", "{width:q}", "a{{b}}"]
)
def test_names_of_a_stranger_are_only_text(spelled: str) -> None:
    measures = Measures(Measure(30, Grade.ACTUAL), Measure(20, Grade.ACTUAL), None, Measure("png", Grade.ACTUAL))
    assert len(finish(spelled, measures)) < 40


OUTPUTS = [(("look", "p.html"), ">/dev/full"), (("look", "p.html", "--format", "jsonl"), ">/dev/full"), (("pack", "p.html"), ">/dev/full"),
           (("look", "p.html"), ">&-"), (("pack", "p.html"), ">&- 2>&-")]  # fmt: skip


@pytest.mark.parametrize(("arguments", "where"), OUTPUTS)
def test_where_nothing_can_be_printed(tmp_path: Path, arguments: tuple[str, ...], where: str) -> None:
    (tmp_path / "a.png").write_bytes(KITE)
    (tmp_path / "p.html").write_text("<img src=a.png>" * 3)
    line = f"exec {sys.executable} -m pickcrate {' '.join(arguments)} {where}"
    done = subprocess.run(["sh", "-c", line], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert done.stderr.count("pickcrate: standard output") == ("2>&-" not in where)
    assert "Traceback" not in done.stderr
    assert "Exception" not in done.stderr
