"""What happens between two visits: to the crate, whose owner renames and sorts; to the page, which has more."""

import itertools
import json
import os
import shutil
from csv import DictReader
from io import BytesIO
from pathlib import Path
from typing import ClassVar

import pytest
from PIL import Image

from conftest import Answering, Program, Server, picture, serving

NAMES = ("red", "blue", "gold")
MOMENTS = itertools.count(1_800_000_000)


@pytest.fixture
def page(web: Server) -> str:
    for n, name in enumerate(NAMES):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60 + n, 40), (n, 0, 0)))
    (web.www / "p.html").write_text("".join(f"<p><img src={name}.png alt='{name} kite'>" for name in NAMES))
    return f"{web.address}/p.html"


def listed() -> dict[str, dict[str, str]]:
    with Path("crates/k/crate.csv").open(encoding="utf-8", newline="") as file:
        return {row["url"].rpartition("/")[2]: row for row in DictReader(file)}


def pack(run: Program, page: str, *options: str) -> str:
    done = run("pack", page, "--crate", "k", "--no-robots", "--fresh", *options)
    assert done.code == 0
    return done.out


def change(path: Path, octets: bytes) -> None:
    """Put another picture in a file's place, at another time: entity tags are made of that, and of its size."""
    path.write_bytes(octets)
    moment = next(MOMENTS)
    os.utime(path, (moment, moment))


def sort_out(crate: Path) -> None:
    """Rename one file, sort another into a folder, and put a copy of the third beside it."""
    (crate / "red.png").rename(crate / "My red.png")
    (crate / "best").mkdir()
    (crate / "blue.png").rename(crate / "best" / "blue.png")
    shutil.copyfile(crate / "gold.png", crate / "gold copy.png")


def test_files_that_their_owner_renamed_are_known(run: Program, web: Server, page: str) -> None:
    pack(run, page)
    crate = Path("crates/k")
    sort_out(crate)
    audited = run("audit", "k")
    assert (audited.code, audited.out.splitlines()) == (
        1,
        [
            "moved    My red.png  it was red.png",
            "moved    best/blue.png  it was blue.png",
            "stray    gold copy.png  the ledger knows nothing of it",
            "3 files of the ledger looked at: 2 moved · 1 stray",
        ],
    )
    run("sheet", "k")
    assert "crates/k/best/blue.png" in Path("sheet.html").read_text()
    assert listed()["red.png"]["file"] == "red.png"  # who only reads leaves no trace
    web.requests()
    again = pack(run, page)
    assert web.requests() == ["/p.html"]
    assert "2 files renamed or sorted since: known by the bytes" in again
    assert "moved or deleted" not in again
    files = ["My red.png", "best/blue.png", "gold.png"]
    assert [row["file"] for row in listed().values()] == files
    change(web.www / "red.png", picture("PNG", (60, 40), "green"))
    assert "My red.png  60×40" in pack(run, page, "--again", "refresh")
    assert [row["file"] for row in listed().values()] == files
    (crate / "My red.png").rename(crate / "RED.PNG")
    change(web.www / "red.png", picture("PNG", (60, 40), "brown"))
    assert "RED.PNG  60×40" in pack(run, page, "--again", "refresh")
    assert "renamed" not in pack(run, page)


def test_files_that_were_renamed_are_known_by_the_list_alone(run: Program, web: Server, page: str) -> None:
    pack(run, page)
    sort_out(Path("crates/k"))
    shutil.rmtree("crates/k/.pickcrate")
    web.requests()
    assert "3 pictures of it are known by its list" in pack(run, page)
    assert web.requests() == ["/p.html"]
    assert {row["file"] for row in listed().values()} == {"My red.png", "best/blue.png", "gold.png"}


def test_repairing_a_crate_notes_where_its_files_are(run: Program, page: str) -> None:
    pack(run, page)
    sort_out(Path("crates/k"))
    Path("crates/k/gold copy.png").unlink()
    assert run("audit", "k", "--repair").code == 0
    assert listed()["red.png"]["file"] == "My red.png"
    assert run("audit", "k").out == "3 files of the ledger looked at: all as they were fetched\n"
    Path("crates/k/gold.png").write_bytes(b"")
    Path("crates/k/My red.png").unlink()
    assert "2 pictures fetched" in run("audit", "k", "--repair").out


def test_a_page_with_another_title_goes_on_in_its_crate(run: Program, web: Server, page: str) -> None:
    body = (web.www / "p.html").read_text()
    for title in ("Kites (12 new)", "Kites (13 new)"):
        (web.www / "p.html").write_text(f"<title>{title}</title>{body}")
        done = run("pack", page, "--no-robots", "--fresh")
    assert "3 there already" in done.out
    assert "this page's crate is Kites (12 new), where it goes on" in done.out
    assert "would be fetched, 3 there already" in run("pack", page, "--no-robots", "--dry-run").out
    Path("crates/Kites (12 new)").rename("crates/mine")
    assert "crate: crates/mine" in run("pack", page, "--no-robots").out
    assert "3 pictures fetched" in run("pack", page, "--no-robots", "--crate", "{page}").out
    assert "crate: crates/Kites (13 new)" in run("pack", page, "--no-robots").out  # the one that has its title now
    (web.www / "p.html").write_text("<p>Closed for the winter")
    done = run("pack", page, "--no-robots", "--fresh", "--crate", "mine")
    assert (done.code, "no pictures found: no crate was made or changed" in done.err) == (4, True)


def test_the_list_of_a_crate_says_what_the_page_says_today(run: Program, web: Server, page: str) -> None:
    pack(run, page)
    old = {name: row["alt"] for name, row in listed().items()}
    body = (web.www / "p.html").read_text()
    (web.www / "p.html").write_text(body.replace("red kite", "Red delta, 1912").replace("alt='blue kite'", ""))
    (web.www / "q.html").write_text("<img src=gold.png alt='Not what it is'>")
    web.requests()
    pack(run, page)
    pack(run, f"{web.address}/q.html")
    assert web.requests() == ["/p.html", "/q.html"]
    assert {name: row["alt"] for name, row in listed().items()} == old | {"red.png": "Red delta, 1912"}


def test_what_the_crate_has_is_not_probed_again(run: Program, web: Server, page: str) -> None:
    (web.www / "p.html").write_text((web.www / "p.html").read_text() + "<img src=tiny.png>")
    (web.www / "tiny.png").write_bytes(picture("PNG", (10, 40)))
    body = (web.www / "p.html").read_text()
    for crate in (("--crate", "k"), ()):  # named, or found again by the page
        line = ("pack", page, *crate, "--no-robots", "--width", "50..")
        shutil.rmtree("cache", ignore_errors=True)
        assert "3 pictures fetched" in run(*line).out
        (web.www / "p.html").write_text(f"<title>Another</title>{body}")
        for options, asked in (((), []), (("--dry-run",), []), (("--fresh",), ["/tiny.png"])):
            shutil.rmtree("cache")
            web.requests()
            assert "3 there already" in run(*line, *options).out
            assert sorted(web.requests()) == ["/p.html", *asked]  # and what was left out only if that is wanted
    run(*line, "--again", "refresh", "--fresh")
    assert {"/red.png", "/tiny.png"} <= set(web.requests())
    assert "1 picture fetched" in run(*line[:-2]).out


def test_what_may_be_on_a_page_that_was_not_read_is_not_gone(run: Program, web: Server, page: str) -> None:
    def show(*names: str) -> None:
        cards = [f"<li><img src={name}.png alt={name}>" for name in names]
        following = "<a rel=next href=p2.html>Next page</a>"
        (web.www / "p.html").write_text(f"<ul>{''.join(cards[:2])}</ul>{following}")
        (web.www / "p2.html").write_text(f"<ul>{''.join(cards[2:4])}</ul>{following.replace('p2', 'p3')}")
        (web.www / "p3.html").write_text(f"<ul>{''.join(cards[4:])}</ul>")

    show("red", "blue", "gold")
    (web.www / "pink.png").write_bytes(picture("PNG", (70, 40), "pink"))
    pack(run, page, "--next-pages", "all")
    show("pink", "red", "blue", "gold")
    (web.www / "p2.html").unlink()  # where the second is by now
    done = run("pack", page, "--crate", "k", "--no-robots", "--fresh", "--next-pages", "all")
    assert (done.code, "since the last run: 1 new\n" in done.out) == (1, True)
    show("pink", "red", "gold")
    assert "1 gone from the page" in pack(run, page, "--next-pages", "all")


def test_pages_of_items_that_the_crate_has_are_passed_over(run: Program, web: Server) -> None:
    def show(*names: str) -> None:
        cards = "".join(f"<li><a href=o/{n}.html><img src=t/{n}.png></a><h3>{n} kite</h3>" for n in names)
        (web.www / "p.html").write_text(f"<ul>{cards}</ul>")
        for place, name in enumerate(names):
            colour = (ord(name[0]), ord(name[1]), ord(name[2]))
            (web.www / "t" / f"{name}.png").write_bytes(picture("PNG", (16, 12), colour))
            (web.www / "o" / f"{name}.html").write_text(f"<img src=../f/{name}-1.png><img src=../f/{name}-2.png>")
            for n in (1, 2):
                (web.www / "f" / f"{name}-{n}.png").write_bytes(picture("PNG", (160 + n, 120 + place), colour))

    for folder in "tof":
        (web.www / folder).mkdir()
    show("red", "blue", "gold")
    line = ("pack", f"{web.address}/p.html", "--crate", "k", "--no-robots", "--fresh", "--items")
    assert "6 pictures fetched" in run(*line, "all", "--known-items", "skip").out
    web.requests()
    again = run(*line, "all", "--known-items", "skip")
    assert (again.code, again.out.splitlines()[-1]) == (0, "nothing new")
    assert run(*line, "all", "--known-items", "skip", "--dry-run").code == 0
    assert web.requests() == ["/p.html", "/p.html"]
    show("pink", "red", "blue", "gold")
    (web.www / "f" / "pink-2.png").unlink()
    assert "3 items passed over" in run(*line, "all", "--known-items", "skip").out
    assert {path for path in web.requests() if path.startswith("/o/")} <= {"/o/pink.html", "/o/red.html"}
    show("lime", "pink", "red", "blue", "gold")
    came = run(*line, "1", "--known-items", "skip")  # the next one, and one that is not finished is not passed over
    assert "lime-1.png" in came.out
    came = run(*line, "1", "--known-items", "skip")
    assert "pink-2.png" in came.out
    web.requests()
    assert "5 of 5 item pages read" in run(*line, "all", "--known-items", "skip", "--again", "refresh").out


def test_pages_behind_thumbnails_that_the_crate_has_are_passed_over(run: Program, web: Server) -> None:
    def show(*names: str) -> None:
        links = (f"<a href=v/{name}.html><img src=t/{name}.png alt={name}></a>" for name in names)
        (web.www / "p.html").write_text("".join(links))
        for place, name in enumerate(names):
            (web.www / "t" / f"{name}.png").write_bytes(shapes(80, 60, len(name)))
            (web.www / "v" / f"{name}.html").write_text(f"<img src=../b/{name}-{place}1.png>")
            (web.www / "b" / f"{name}-{place}1.png").write_bytes(shapes(320, 240, len(name)))

    for folder in "tvb":
        (web.www / folder).mkdir()
    show("red", "blue")
    line = ("pack", f"{web.address}/p.html", "--crate", "k", "--no-robots", "--fresh", "--through", "1")
    assert "2 pictures fetched" in run(*line, "--known-items", "skip").out
    show("red", "blue", "crimson")
    web.requests()
    assert "1 picture fetched" in run(*line, "--known-items", "skip").out
    assert {path for path in web.requests() if path.startswith("/v/")} == {"/v/crimson.html"}
    run(*line)
    assert {path for path in web.requests() if path.startswith("/v/")} == {
        "/v/red.html",
        "/v/blue.html",
        "/v/crimson.html",
    }


def test_lists_add_to_what_is_known(run: Program, page: str) -> None:
    web = page.removesuffix("/p.html")
    for text in (
        "url,title,maker\n{0}/red.png,Red,Ina\n{0}/blue.png,Blue,Ino\n",
        "url,title,year\n{0}/red.png,Red Delta,1912\n{0}/blue.png,,\n",
    ):
        Path("list.csv").write_text(text.format(web))
        assert run("pack", "list.csv", "--crate", "k", "--no-robots").code == 0
    said = {name: json.loads(row["columns"]) for name, row in listed().items()}
    assert said["red.png"] == {"url": f"{web}/red.png", "title": "Red Delta", "maker": "Ina", "year": "1912"}
    assert (said["blue.png"]["maker"], said["blue.png"]["title"]) == ("Ino", "Blue")
    changed = Path("crates/k/crate.csv").stat().st_mtime_ns
    run("pack", "list.csv", "--crate", "k", "--no-robots")
    assert Path("crates/k/crate.csv").stat().st_mtime_ns == changed  # and nothing is written where nothing is new


class Moving(Answering):
    """A page that is at ``/new`` from the second visit on, and has lost a picture by then."""

    pages: ClassVar[dict[str, str]] = {"/old": "<img src=1.png alt=One><img src=2.png alt=Two>"}

    def do_GET(self) -> None:
        if self.path.endswith(".png"):
            self.answer(200, picture("PNG", (60, 40), (int(self.path[1]), 0, 0)))
        elif self.path in self.pages:
            self.answer(200, self.pages[self.path].encode(), "text/html")
        else:
            self.answer(301 if self.path == "/old" else 404, b"", "text/html", Location="/new")


def test_a_page_that_moved_is_still_the_page_of_its_pictures(run: Program) -> None:
    with serving(Moving) as port:
        page = f"http://127.0.0.1:{port}/old"
        pack(run, page)
        Moving.pages = {"/new": "<img src=1.png alt=Uno>"}
        assert "1 there already" in (again := pack(run, page))
    assert "since the last run: 1 gone from the page" in again
    row = listed()["1.png"]
    assert (row["alt"], row["page"].rpartition("/")[2]) == ("Uno", "new")


def shapes(width: int, height: int, seed: int) -> bytes:
    """Return a picture with something to see on it, the same at each size."""
    buffer = BytesIO()
    tiles = Image.frombytes("L", (4, 3), bytes((seed * 37 + n * n * 71) % 256 for n in range(12)))
    tiles.resize((width, height), Image.Resampling.NEAREST).save(buffer, "PNG")
    return buffer.getvalue()


@pytest.fixture
def linked(web: Server) -> Server:
    """A page of one picture, which links to its larger version."""
    (web.www / "s").mkdir()
    (web.www / "f").mkdir()
    (web.www / "s" / "red.png").write_bytes(shapes(80, 60, 1))
    (web.www / "f" / "red.png").write_bytes(shapes(320, 240, 1))
    (web.www / "p.html").write_text("<a href=f/red.png><img src=s/red.png alt='Red kite'></a>")
    return web


def kept() -> list[str]:
    """Return the pictures in the crate, and the sizes that its list says."""
    assert {row["file"] for row in listed().values()} <= {path.name for path in Path("crates/k").iterdir()}
    return [f"{row['file']} {row['width']}×{row['height']}" for row in listed().values()]


def test_a_larger_version_takes_the_place_of_the_smaller(run: Program, linked: Server) -> None:
    page = f"{linked.address}/p.html"
    pack(run, page, "--as-shown")
    assert kept() == ["red.png 80×60"]
    came = pack(run, page)
    assert "since the last run: 1 larger now" in came
    assert "a larger version came: the old one is red (" in came
    assert kept() == ["red.png 320×240"]
    linked.requests()
    assert "1 there already" in pack(run, page)
    (linked.www / "p.html").write_text("<img src=s/red.png alt='Red kite'>")
    assert "1 there already" in pack(run, page)  # what is shown is a smaller version of what is there
    assert len(list(Path("crates/k").glob("*.png"))) == 2
    assert "1 there already" in pack(run, page, "--again", "refresh")
    assert kept() == ["red.png 320×240"]
    change(linked.www / "f" / "red.png", shapes(320, 240, 7))
    assert "1 changed" in pack(run, page, "--again", "refresh")
    assert "1 there already" in pack(run, page, "--again", "replace")
    assert kept() == ["red.png 320×240"]
    assert "1 picture fetched" in pack(run, page, "--as-shown")


def test_originals_that_are_elsewhere_by_now(run: Program, linked: Server) -> None:
    page = f"{linked.address}/p.html"
    pack(run, page)
    (linked.www / "big").mkdir()
    (linked.www / "f" / "red.png").rename(linked.www / "big" / "red.png")
    (linked.www / "p.html").write_text("<a href=big/red.png><img src=s/red.png alt='Red kite'></a>")
    came = pack(run, page)
    assert ("1 there already" in came, "since the last run" in came) == (True, False)
    assert [(row["file"], row["url"].rpartition("/")[0][-3:]) for row in listed().values()] == [("red.png", "big")]
    assert "1 there already" in pack(run, page, "--again", "refresh")


def test_what_is_no_larger_version_of_what_is_there(run: Program, linked: Server) -> None:
    page = f"{linked.address}/p.html"
    pack(run, page, "--as-shown")
    (linked.www / "f" / "red.png").unlink()
    assert "1 there already" in pack(run, page)
    (linked.www / "s" / "red.png").write_bytes(shapes(80, 60, 5))
    (linked.www / "f" / "red.png").write_bytes(shapes(320, 240, 5))  # another picture took their places
    (linked.www / "p.html").write_text("<a href=f/red.png?1><img src=s/red.png alt='Red kite'></a>")
    assert "1 new" in pack(run, page)
    assert kept() == ["red.png 80×60", "red 2.png 320×240"]


def test_a_smaller_version_that_was_deleted_may_come_larger(run: Program, linked: Server) -> None:
    page = f"{linked.address}/p.html"
    pack(run, page, "--as-shown")
    Path("crates/k/red.png").unlink()
    assert "1 picture fetched" in pack(run, page)
    assert kept() == ["red.png 320×240"]
    Path("crates/k/red.png").unlink()
    (linked.www / "p.html").write_text("<img src=s/red.png alt='Red kite'>")
    assert "1 of them moved or deleted since" in pack(run, page)
