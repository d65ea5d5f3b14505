"""The demo site, counted by hand, and the demo command on it."""

import subprocess
import sys
from email.message import Message
from pathlib import Path
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import pytest

import pickcrate
from conftest import Program


def test_the_museum_is_a_real_server(museum: str) -> None:
    def get(path: str, **fields: str) -> tuple[int, bytes, Message]:
        request = Request(f"{museum}/{path}", headers={name.replace("_", "-"): value for name, value in fields.items()})
        try:
            with urlopen(request) as answer:
                return answer.status, answer.read(), answer.headers
        except HTTPError as error:
            with error:
                return error.code, error.read(), error.headers

    status, whole, headers = get("originals/red-delta.jpg")
    assert (status, headers["Content-Type"], headers["Accept-Ranges"]) == (200, "image/jpeg", "bytes")
    assert get("originals/red-delta.jpg", If_None_Match=headers["ETag"])[0] == 304
    assert get("originals/red-delta.jpg", If_Modified_Since=headers["Last-Modified"])[0] == 304
    status, part, fields = get("originals/red-delta.jpg", Range="bytes=10-19")
    assert (status, part, fields["Content-Range"]) == (206, whole[10:20], f"bytes 10-19/{len(whole)}")
    assert get("originals/red-delta.jpg", Range="bytes=-5")[1] == whole[-5:]
    assert get("originals/red-delta.jpg", Range="bytes=10-19", If_Range='"old"')[0] == 200
    assert get("originals/red-delta.jpg", Range=f"bytes={len(whole)}-")[0] == 416
    assert get("view?id=3")[2]["Content-Type"] == "image/jpeg"
    assert [get(path)[0] for path in ("nothing", "../server.py", "%2e%2e/server.py", "originals")] == [404] * 4


@pytest.mark.parametrize(
    ("page", "found", "larger"),
    [("index.html", 9, 1), ("catalogue.html", 21, 12), ("regions.html", 20, 9), ("news/spring-festival.html", 15, 3),
     ("storm.html", 13, 0), ("visitors.html", 8, 0), ("hall.html", 19, 2), ("object.html", 12, 4), ("shop.html", 14, 6),
     ("wings.html", 14, 6), ("do-not-touch.html", 14, 0), ("reading-room.html", 14, 0)],
)  # fmt: skip
def test_pages_counted_by_hand(museum: str, page: str, found: int, larger: int) -> None:
    images = pickcrate.look(f"{museum}/{page}")
    assert len(images) == found
    assert sum(image.url != image.shown.url for image in images) == larger


def test_the_reading_room_wants_its_book_signed_first(run: Program, museum: str) -> None:
    page = f"{museum}/reading-room.html"
    assert (
        "6 thumbnails without a larger version lead to a page: --through 1 looks for it there" in run("look", page).out
    )
    assert run("look", page, "--through", "1", "--format", "urls").out.count("/scans/") == 0
    rows = run("pack", page, "--crate", "scans", "--through", "2", "--format", "jsonl").rows
    leaves = [row for row in rows if "album leaf" in (row["alt"] or "")]
    assert [(row["outcome"], row["width"] >= 1500) for row in leaves] == [("fetched", True)] * 6
    assert all(row["evidence"].startswith("on the page behind it") for row in leaves)


def test_packing_by_program(museum: str, tmp_path: Path) -> None:
    outcomes = pickcrate.pack(f"{museum}/catalogue.html", crate="k", into=tmp_path, name=["{alt}", "{stem}"])
    kites = [o for o in outcomes if o.measures.width and o.measures.width.value >= 1500]
    assert len(kites) == 12
    assert (tmp_path / "k" / "A broad red kite with a cream keel, high over the dunes.jpg").is_file()


def test_demo_command(run: Program, tmp_path: Path) -> None:
    first = run("demo", "--port", "0")
    assert first.code == 0, first
    assert "13 pictures fetched" in first.out
    assert "13 there already" in first.out
    assert "13 files of the ledger looked at: all as they were fetched" in first.out
    assert (tmp_path / "kites-to-pick.html").is_file()
    assert len(list((tmp_path / "crates" / "kites").glob("[!.]*"))) == 14  # and the list


def test_demo_serve_says_what_to_try(run: Program) -> None:
    command = [sys.executable, "-u", "-m", "pickcrate", "demo", "--serve", "--port", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        address = process.stdout.readline().partition(" is at ")[2].split()[0]
        line = process.stdout.readline().split()
        assert line[:2] == ["pickcrate", "look"]
        assert run(*line[1:]).code == 0
        assert run("look", address).code == 0
        process.terminate()


def test_version_and_help(run: Program) -> None:
    assert run("--version").out == f"pickcrate {pickcrate.__version__}\n"
    for command in ("look", "pack", "why", "sheet", "audit", "save", "demo"):
        assert f"pickcrate {command}" in run(command, "--help").out.split("Examples:")[1]
    assert "look" in run("--help").out
