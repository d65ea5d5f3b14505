"""Shelves, crates named after the day or the site, and the paths that a run would make."""

from datetime import date
from pathlib import Path

import pytest

from conftest import Program, Server, picture


@pytest.fixture
def page(web: Server) -> str:
    for name, kind, size in (("red", "PNG", (40, 30)), ("mill", "JPEG", (30, 30)), ("crow", "PNG", (20, 50))):
        (web.www / f"{name}.{kind.lower()}").write_bytes(picture(kind, size))
    (web.www / "p.html").write_text(
        "<title>The hall</title><img src=red.png><img src=mill.jpeg><img src=crow.png alt='A/B'>"
    )
    return f"{web.address}/p.html"


def paths(root: Path) -> list[str]:
    return sorted(p.relative_to(root).as_posix() for p in root.rglob("*") if p.suffix in {".png", ".jpg"})


def test_shelves(run: Program, page: str, tmp_path: Path) -> None:
    pack = ("pack", page, "--crate", "c", "--no-robots", "--shelf", "{shape}/{type}")
    assert run(*pack).code == 0
    assert paths(tmp_path / "crates/c") == ["landscape/png/red.png", "portrait/png/crow.png", "square/jpeg/mill.jpg"]
    assert "3 there already" in run(*pack).out
    assert "landscape/png/red.png" in (tmp_path / "crates/c/crate.csv").read_text()
    assert "all as they were fetched" in run("audit", "c").out
    assert run("pack", page, "--crate", "d", "--no-robots", "--shelf", "{page}/{alt}").code == 0
    assert paths(tmp_path / "crates/d") == ["The hall/A-B/crow.png", "The hall/mill.jpg", "The hall/red.png"]
    assert "there is no field {colour}" in run(*pack[:-1], "{colour}").err


def test_a_shelf_does_not_lead_out(run: Program, page: str, tmp_path: Path) -> None:
    (tmp_path / "outside").mkdir()
    (tmp_path / "crates/c").mkdir(parents=True)
    (tmp_path / "crates/c/png").symlink_to(tmp_path / "outside")
    done = run("pack", page, "--crate", "c", "--no-robots", "--shelf", "{type}")
    assert (done.code, "leads out of the crate" in done.err) == (5, True)
    assert list((tmp_path / "outside").iterdir()) == []


def test_a_crate_for_a_day_and_a_site(run: Program, page: str, tmp_path: Path) -> None:
    assert run("pack", page, "--crate", "{page}/{date} {site}", "--no-robots").code == 0
    assert len(paths(tmp_path / "crates" / "The hall" / f"{date.today().isoformat()} 127.0.0.1")) == 3  # noqa: DTZ011
    wrong = run("pack", page, "--crate", "{alt}")
    assert (wrong.code, "fields of a crate's name are {date}, {site} and {page}" in wrong.err) == (2, True)


def test_what_a_crate_is_called_that_nobody_names(run: Program, web: Server) -> None:
    (web.www / "3").mkdir()
    for name, title in (
        ("a", "<title>The loft &middot; </title>"),
        ("3/index", "<h2>Kites</h2>"),
        ("b", "<title>·</title>"),
    ):
        (web.www / f"{name}.html").write_text(f"{title}<img src=red.png>")
    host = web.address.partition("://")[2].replace(":", "-")
    called = {"a.html": "The loft", "3/": f"{host}-3", "3/index.html": f"{host}-3", "b.html": "·"}
    for page, name in called.items():
        assert f"would be crates/{name}/red" in run("pack", f"{web.address}/{page}", "--no-robots", "--dry-run").out, (
            page
        )


def test_a_dry_run_says_what_a_run_then_does(run: Program, web: Server, page: str, tmp_path: Path) -> None:
    pack = ("pack", page, "--crate", "c", "--no-robots", "--as-shown", "--shelf", "{type}", "--name", "kite")
    (tmp_path / "crates/c").mkdir(parents=True)
    assert run(*pack, "--width", "1..", "--dry-run").out.splitlines()[1:] == [
        "would be crates/c/png/kite.png",
        "would be crates/c/jpeg/kite 2.jpg",
        "would be crates/c/png/kite 3.png",
        "3 pictures would be fetched, 0 there already",
    ]
    assert paths(tmp_path / "crates/c") == []
    assert not (tmp_path / "crates/c/.pickcrate").exists()
    assert run(*pack).code == 0
    assert paths(tmp_path / "crates/c") == ["jpeg/kite 2.jpg", "png/kite 3.png", "png/kite.png"]
    (web.www / "new.png").write_bytes(picture(size=(9, 9)))
    (web.www / "p.html").write_text("<title>The hall</title><img src=new.png><img src=red.png>")
    later = run(*pack, "--dry-run", "--fresh").out
    assert "there    crates/c/png/kite.png" in later
    assert "would be crates/c/{type}/kite 4  .?" in later
    assert ".? the ending comes from the bytes" in later
