"""Audit: what became of a crate's files, and how it is mended."""

from pathlib import Path

import pytest

from conftest import Program, Server, picture


@pytest.fixture
def crate(run: Program, web: Server, tmp_path: Path) -> Path:
    for n, name in enumerate(("red", "mill", "crow", "box")):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (40 + n, 30), (n, 0, 0)))
    (web.www / "twin.png").write_bytes((web.www / "box.png").read_bytes())
    (web.www / "p.html").write_text("".join(f"<img src={n}.png>" for n in ("red", "mill", "crow", "box", "twin")))
    assert run("pack", f"{web.address}/p.html", "--crate", "kites", "--no-robots").code == 0
    return tmp_path / "crates" / "kites"


def test_a_crate_as_it_was_left(run: Program, crate: Path) -> None:
    done = run("audit", "kites")
    assert (done.code, done.out) == (0, "4 files of the ledger looked at: all as they were fetched\n")
    assert run("audit", crate).code == 0


def test_what_happened_to_files_is_told_and_mended(run: Program, crate: Path) -> None:
    (crate / "red.png").unlink()
    (crate / "mill.png").write_bytes(picture("PNG", (9, 9)))
    (crate / "notes.txt").write_text("my notes")
    done = run("audit", "kites")
    assert done.code == 1
    assert done.out.splitlines() == [
        "missing  red.png  moved or deleted since it was fetched",
        "altered  mill.png  its bytes are not those that were fetched",
        "stray    notes.txt  the ledger knows nothing of it",
        "4 files of the ledger looked at: 1 missing · 1 altered · 1 stray",
    ]
    mended = run("audit", "kites", "--repair")
    assert "2 pictures fetched" in mended.out
    assert (crate / "red.png").is_file()
    aside = list(crate.glob("mill (*).png"))
    assert len(aside) == 1
    assert aside[0].read_bytes() == picture("PNG", (9, 9))
    assert "2 stray" in run("audit", "kites").out
    listed = (crate / "crate.csv").read_text().splitlines()
    assert len(listed) == 6


@pytest.mark.usefixtures("crate")
def test_a_file_that_was_never_whole(run: Program, web: Server) -> None:
    octets = bytearray(picture("PNG", (300, 200), (1, 2, 3)))
    middle = octets.index(b"IDAT") + 20
    octets[middle : middle + 8] = b"\0" * 8  # its end is there, but not what is between
    (web.www / "bad.png").write_bytes(bytes(octets))
    (web.www / "q.html").write_text("<img src=bad.png>")
    assert run("pack", f"{web.address}/q.html", "--crate", "kites", "--no-robots").code == 0
    done = run("audit", "kites")
    assert (done.code, "broken   bad.png  cannot be decoded" in done.out) == (1, True)
    for line in (("audit", "kitse"), ("pack", f"{web.address}/not-asked-for.html", "--except", "Kite", "--no-robots")):
        assert "did you mean kites?" in run(*line).err
    for side in ("sheet", "kitse"), ("compare", "kitse", "kites"):
        done = run(*side)
        assert (done.code, "did you mean kites?" in done.err) == (3, True)


def test_no_crate_there(run: Program) -> None:
    done = run("audit", "nothing")
    assert (done.code, "nothing: no crate there, nor under crates" in done.err) == (2, True)
