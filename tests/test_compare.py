"""What changed: two collections held against each other, a crate since a day, and what another crate holds."""

import csv
import io
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from conftest import Program, Server, picture
from pickcrate.comparison import Holding, compare
from pickcrate.crate.lock import Lock
from pickcrate.crate.places import Places

A, B, C = (f"https://kites.example/{name}.jpg" for name in "abc")
PAGE = "https://kites.example/hall.html"


def one(url: str = A, **known: Any) -> Holding:
    return Holding(url, **known)


CHANGES = [
    # old, new, what became of them
    ([one()], [one()], {}),
    ([], [one()], {"came": 1}),
    ([one()], [], {"went": 1}),
    ([one(sha256="x")], [one(sha256="y")], {"changed": 1}),
    ([one(sha256="x")], [one()], {}),
    ([one(width=30, height=20)], [one(width=40, height=20)], {"changed": 1}),
    ([one(width=30, height=20, sha256="x")], [one(width=300, height=200, sha256="y")], {"larger now": 1}),
    ([one(width=300, height=200, sha256="x")], [one(width=30, height=20, sha256="y")], {"changed": 1}),
    ([one(bytes=7)], [one(bytes=8)], {"changed": 1}),
    ([one(sha256="x")], [one(B, sha256="x")], {"moved": 1}),
    ([one(sha256="x", file="a.jpg")], [one(sha256="x", file="red.jpg")], {"moved": 1}),
    ([one(sha256="x", file="a.jpg")], [one(sha256="x")], {}),
    ([one(shown_url=C, width=3, height=2)], [one(B, shown_url=C, width=9, height=6)], {"larger now": 1}),
    ([one(shown_url=C, sha256="x")], [one(B, shown_url=C, sha256="y")], {"replaced": 1}),
    # what several pictures show is a stand-in, and ties nothing
    ([one(A, shown_url=C), one(B, shown_url=C)], [one(f"{A}?2", shown_url=C)], {"came": 1, "went": 2}),
    ([one(item_url=C, sha256="x")], [one(B, item_url=C, sha256="y")], {"replaced": 1}),
    ([one(item_url=C), one(B, item_url=C)], [one(B, item_url=C), one(f"{B}?2", item_url=C)], {"replaced": 1}),
    ([one(page=PAGE, item="Red")], [one(B, page=PAGE, item="Red")], {"replaced": 1}),
    ([one(page=PAGE, alt="Red")], [one(B, page=PAGE, alt="Red")], {"replaced": 1}),
    ([one(page=PAGE, alt="Red")], [one(B, page=f"{PAGE}?2", alt="Red")], {"came": 1, "went": 1}),
    ([one(B, asked=A)], [one(A)], {}),
    # a list may name a picture twice
    ([one(A), one(A)], [one(A)], {}),
    ([one(A)], [one(A), one(B), one(A)], {"came": 1}),
    ([one(A, page=PAGE), one(A, page=f"{PAGE}?2")], [one(A, page=PAGE)], {"went": 1}),
]  # fmt: skip


@pytest.mark.parametrize(("old", "new", "changes"), CHANGES)
def test_what_became_of_each(old: list[Holding], new: list[Holding], changes: dict[str, int]) -> None:
    found = compare(old, new)
    counted: dict[str, int] = {}
    for difference in found.differences:
        counted[difference.change.value] = counted.get(difference.change.value, 0) + 1
    assert counted == changes
    assert len(found.differences) + found.same >= max(len(set(old)), len(set(new)))


@pytest.fixture
def hall(web: Server) -> Server:
    """A page with four pictures, of which one has a larger version behind it."""
    for n, name in enumerate("abcd"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (20 + n, 10), (n, 9, 9)))
    show(web, "a.png", "b.png", "c.png", "d.png")
    return web


def show(web: Server, *names: str) -> None:
    shown = "".join(f'<img src={name} alt="<b>{Path(name).stem}">' for name in names)
    (web.www / "p.html").write_text(f"<title>Hall</title>{shown}")


def test_two_crates_and_a_page_are_compared(built: Program, hall: Server, tmp_path: Path) -> None:
    page = f"{hall.address}/p.html"
    built("pack", page, "--crate", "old")
    (hall.www / "b.png").write_bytes(picture("PNG", (21, 10), "blue"))
    (hall.www / "c.png").write_bytes(picture("PNG", (220, 100), "lime"))
    (hall.www / "sub").mkdir()
    (hall.www / "d.png").rename(hall.www / "sub" / "d.png")
    (hall.www / "e.png").write_bytes(picture("PNG", (50, 10), "black"))
    show(hall, "b.png", "c.png", "sub/d.png", "e.png")
    held = built("compare", "old", page, "--format", "jsonl", "--fresh")
    told = {row["url"].removeprefix(hall.address): row["change"] for row in held.rows}
    assert told == {"/sub/d.png": "replaced", "/e.png": "came", "/a.png": "went"}
    built("pack", page, "--crate", "new", "--fresh")
    places = Places(tmp_path / "crates" / "new")
    lock = Lock(places.lock)  # as a run would hold it
    done = built("compare", "old", "new", "--out", tmp_path / "c.html", "--format", "csv")
    lock.release()
    rows = {row["url"].removeprefix(hall.address): row for row in csv.DictReader(io.StringIO(done.out))}
    assert {url: row["change"] for url, row in rows.items()} == {
        "/b.png": "changed", "/c.png": "larger now", "/sub/d.png": "moved", "/e.png": "came", "/a.png": "went",
    }  # fmt: skip
    assert (rows["/sub/d.png"]["old_url"], rows["/c.png"]["old_width"]) == (f"{hall.address}/d.png", "22")
    text = (tmp_path / "c.html").read_text()
    assert (text.count('class="row"'), text.count("data:image/"), "<b>a" in text, "&lt;b&gt;a" in text) == (
        5,
        8,
        False,
        True,
    )
    plain = built("compare", "old", "new")
    assert (plain.code, "1 came · 1 went · 1 changed · 1 larger now · 1 moved · 0 the same" in plain.out) == (0, True)
    listed = built("compare", tmp_path / "crates" / "old" / "crate.csv", "new", "--format", "urls")
    assert listed.out.split() == [f"{hall.address}/{name}.png" for name in "bce"]
    over = built("compare", "old", "new", "--out", tmp_path / "crates" / "old" / "crate.csv")
    assert (over.code, "it is a web page" in over.err) == (2, True)


def test_a_crate_tells_what_became_of_it_since_a_day(built: Program, hall: Server, tmp_path: Path) -> None:
    page = f"{hall.address}/p.html"
    assert "since the last run" not in built("pack", page, "--crate", "k").out
    ledger = tmp_path / "crates" / "k" / ".pickcrate" / "ledger.sqlite"
    with closing(sqlite3.connect(ledger)) as database, database:
        database.execute("UPDATE picture SET fetched_at = '2026-01-01T10:00:00+00:00'")
    (hall.www / "b.png").write_bytes(picture("PNG", (42, 20), "blue"))
    (hall.www / "e.png").write_bytes(picture("PNG", (50, 10), "black"))
    show(hall, "b.png", "c.png", "d.png", "e.png")
    again = built("pack", page, "--crate", "k", "--again", "refresh", "--fresh")
    assert "since the last run: 1 new, 1 changed, 1 gone from the page" in again.out
    told = built("compare", "k", "--since", "2026-02-01", "--format", "jsonl").rows
    assert {(row["file"], row["change"]) for row in told} == {
        ("e.png", "came"),
        ("b.png", "larger now"),
        ("a.png", "went"),
    }
    assert [row["old_width"] for row in told if row["file"] == "b.png"] == [21]
    assert built("compare", "k", "--since", "2025-01-01").out.endswith("0 the same\n")
    assert "since the last run" not in built("pack", page, "--crate", "k", "--limit", "1", "--fresh").out
    show(hall, "a.png")
    assert "4 gone from the page" in built("pack", page, "--crate", "k", "--fresh").out
    gone = built("compare", "k", "--since", "2026-02-01", "--format", "jsonl").rows
    assert {row["file"] for row in gone if row["change"] == "went"} == {"b.png", "c.png", "d.png", "e.png"}
    for wrong in (("compare", "k"), ("compare", "k", "--since", "soon"), ("compare", page, "--since", "2026-01-01")):
        assert built(*wrong).code == 2


def test_what_another_crate_holds_is_not_fetched_again(built: Program, hall: Server, tmp_path: Path) -> None:
    page = f"{hall.address}/p.html"
    built("pack", page, "--crate", "kites 1", "--only", "1..2")
    (hall.www / "copy.png").write_bytes((hall.www / "a.png").read_bytes())
    show(hall, "a.png", "copy.png", "c.png")
    line = ("pack", page, "--crate", "kites {date}", "--except", "kites *", "--fresh", "--as-shown")
    # One of the two is told by its bytes alone.
    assert (
        "2 pictures would be fetched, 0 there already, 1 in other crates (1 in kites 1)"
        in built(*line, "--dry-run").out
    )
    hall.requests()
    done = built(*line)
    assert (done.code, "1 picture fetched" in done.out, "2 in other crates (2 in kites 1)" in done.out) == (
        0,
        True,
        True,
    )
    assert "/a.png" not in hall.requests()
    again = built(*line)
    assert (again.code, "1 there already · 2 in other crates" in again.out) == (0, True)
    assert "/copy.png" not in hall.requests()
    [crate] = [path for path in (tmp_path / "crates").iterdir() if path.name != "kites 1"]
    assert [path.name for path in crate.glob("*.png")] == ["c.png"]
    assert "2 pictures fetched" in built(*line[:4], "--fresh", "--as-shown").out
    assert built("pack", page, "--except", "none").code == 2


def test_furniture_that_was_left_out_did_not_come(run: Program, web: Server) -> None:
    for name, side in (("a", 300), ("b", 290), ("icon", 16)):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (side, side), "red"))
    page, bar = f"{web.address}/page.html", "<nav><img src=icon.png width=16 height=16></nav>"
    (web.www / "page.html").write_text(f"{bar}<img src=a.png>")
    run("pack", page, "--crate", "bare", "--furniture", "drop", "--no-robots")
    run("pack", page, "--crate", "all", "--no-robots")
    (web.www / "page.html").write_text(f"{bar}<img src=a.png><img src=b.png>")
    bare = run("compare", "bare", page, "--no-robots", "--fresh").out
    assert "1 came · 1 the same · 1 passed over that look like furniture" in bare
    assert "1 came · 2 the same\n" in run("compare", "all", page, "--no-robots").out
    assert "1 went · 1 the same · 1 passed over" in run("compare", page, "bare", "--no-robots").out


def test_what_a_crate_has_from_another_page_did_not_come(run: Program, web: Server) -> None:
    bar = "<nav><img src=icon.png width=16 height=16></nav><img src=both.png>"
    for name, side in (("a", 300), ("b", 290), ("both", 280), ("icon", 16)):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (side, side), "red"))
    pages = [f"{web.address}/{name}.html" for name in "ab"]
    for name in "ab":
        (web.www / f"{name}.html").write_text(f"{bar}<img src={name}.png>")
    run("pack", *pages, "--crate", "both", "--no-robots")
    for page in pages:
        assert run("compare", "both", page, "--no-robots").out.endswith("\n3 the same\n")
        assert run("compare", page, "both", "--no-robots").out.endswith("\n3 the same\n")


def test_what_a_frame_shows_came_only_if_it_did(run: Program, web: Server) -> None:
    (web.www / "a.png").write_bytes(picture("PNG", (30, 20), "red"))
    (web.www / "b.png").write_bytes(picture("PNG", (30, 20), "blue"))
    (web.www / "frame.html").write_text("<img src=b.png>")
    (web.www / "page.html").write_text("<img src=a.png><iframe src=frame.html></iframe>")
    page = f"{web.address}/page.html"
    run("pack", page, "--crate", "framed", "--no-robots")
    assert "2 the same" in run("compare", "framed", page, "--no-robots").out
    (web.www / "frame.html").write_text("<img src=b.png><img src=c.png>")
    assert "1 came · 2 the same" in run("compare", "framed", page, "--no-robots", "--fresh").out
