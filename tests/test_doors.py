"""The two doors by themselves: what robots.txt allows, what a source brings along, what a ledger remembers."""

import csv
import errno
import os
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import closing
from datetime import date
from pathlib import Path

import pytest

import pickcrate
from conftest import Program, Server, picture
from pickcrate.crate import moving
from pickcrate.crate.incoming import Arrival, Unfit
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from pickcrate.crate.store import Crate
from pickcrate.errors import CrateError, PickCrateError
from pickcrate.fetch import brought as brought_module
from pickcrate.fetch.brought import Brought, BroughtOnly
from pickcrate.fetch.exchange import Failure, Reply, Request
from pickcrate.fetch.failures import of_status
from pickcrate.fetch.resultcodes import of_transfer
from pickcrate.fetch.robots import rules
from pickcrate.fetch.spool import Spool
from pickcrate.name import Naming, patterns
from pickcrate.read.reading import StoredBody
from pickcrate.values.cause import Cause
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.reference import Reference
from pickcrate.values.trust import PUBLIC

SITE = "https://g.example"
NAMING = Naming(patterns([]), date(2026, 3, 20))


def robots(status: int, text: bytes = b"", failure: Failure | None = None) -> Reply:
    return Reply(
        Request(f"{SITE}/robots.txt"), f"{SITE}/robots.txt", status, {}, text, failure=failure or of_status(status)
    )


@pytest.mark.parametrize(
    ("reply", "path", "allowed"),
    [
        (robots(200, b"User-agent: *\nDisallow: /attic/"), "/attic/a.png", False),
        (robots(200, b"User-agent: *\nDisallow: /attic/\nAllow: /attic/open"), "/attic/open.png", True),
        (robots(200, b"\xef\xbb\xbfUser-agent: pickcrate\nDisallow: /"), "/a.png", False),
        (robots(200, b"User-agent: other\nDisallow: /"), "/a.png", True),
        (robots(200, b"User-agent: PickCrate/0.1 (kites)\nDisallow: /"), "/a.png", False),
        (
            robots(
                200, b"User-agent: other\nFoo: bar\nSitemap: /s.xml\n\nUser-agent: pickcrate\n# c\nDisallow: /x # c"
            ),
            "/x.png",
            False,
        ),
        (
            robots(
                200, b"User-agent: pickcrate\nCrawl-delay: 3\nUser-agent: other\nDisallow: /\nUser-agent: *\nAllow: /"
            ),
            "/x.png",
            False,
        ),
        (robots(200, b"User-agent: pickcrates\nDisallow: /"), "/a.png", True),
        (robots(200, b"User-agent: pick\nDisallow: /"), "/a.png", True),
        (robots(200, b"User-agent: *kites\nDisallow: /"), "/a.png", True),
        (robots(200, b"User-agent: *\nDisallow: /*.gif$"), "/a.gif", False),
        (robots(200, b"<html>not found</html>"), "/a.png", True),
        (robots(404), "/a.png", True),  # RFC 9309, 2.3.1.3: unavailable
        (robots(410), "/a.png", True),
        (robots(503), "/a.png", False),  # 2.3.1.4: unreachable
        (robots(0, failure=of_transfer(7, "")), "/a.png", False),
    ],
)
def test_robots(reply: Reply, path: str, *, allowed: bool) -> None:
    assert (rules(reply).refusal(SITE + path) is None) is allowed


def test_failures_have_words() -> None:
    assert of_status(206) is None
    assert [of_status(n) for n in (404, 599)] == [
        Failure(Cause.STATUS, "the server answered 404 Not Found", 404), Failure(Cause.STATUS, "the server answered 599 unknown status", 599)]  # fmt: skip
    assert of_transfer(6, "") == Failure(Cause.HOST, "unknown host")
    assert of_transfer(1, "Received HTTP/0.9 when not allowed").cause is Cause.PROTOCOL
    assert of_transfer(99, "libcurl says") == Failure(Cause.TRANSFER, "libcurl says")
    assert of_transfer(99, "").words == "transfer error 99"


@pytest.mark.parametrize(
    ("url", "octets"),
    [
        ("data:,a%20b", b"a b"),
        ("data:image/png;base64,aGk=", b"hi"),
        ("data:image/png;base64,a%47k", b"hi"),
        ("data:text/plain;charset=utf-8;base64 , a G k = ", b"hi"),
        ("data:nothing", None),
        ("data:;base64,!!", None),
        ("data:;base64,W%0C%20A", b"X"),
        ("data:;base64,WA==", b"X"),
        ("data:;base64,WA=", None),
        ("data:;base64,W%3DA", None),
        ("data:;base64,W", None),
        ("data:;base64;x,WA", b"WA"),
        ("blob:https://g.example/1", None),
    ],
)
def test_what_needs_no_network(url: str, octets: bytes | None) -> None:
    (reply,) = BroughtOnly(Brought(), 100).fetch([Request(url)])
    assert isinstance(reply, Reply)
    assert reply.octets == (octets or b"")
    assert (reply.failure is None) is (octets is not None)


def test_records_ask_no_network() -> None:
    (reply,) = BroughtOnly(Brought(), 100).fetch([Request(f"{SITE}/a.png")])
    assert isinstance(reply, Reply)
    assert reply.failure == Failure(Cause.MISSING, "not in the record")
    (reply,) = BroughtOnly(Brought(), 1).fetch([Request("data:,ab")])
    assert isinstance(reply, Reply)
    assert reply.failure == Failure(Cause.SIZE, "larger than --max-file")


@pytest.mark.parametrize("is_full", [False, True])
def test_what_sources_bring_along_beyond_the_memory_is_kept_on_the_disk(
    monkeypatch: pytest.MonkeyPatch, *, is_full: bool
) -> None:
    class Full:
        def seek(self, _place: int) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        def close(self) -> None:
            pass

    monkeypatch.setattr(brought_module, "_MOST_HELD", 5)
    if is_full:
        monkeypatch.setattr("pickcrate.fetch.spool.TemporaryFile", Full)
        with pytest.raises(PickCrateError, match="the folder for temporary files cannot be written: no space left"):
            Spool().put(b"1234")
    loads: list[str] = []

    def body(name: str, octets: bytes) -> StoredBody:
        return StoredBody(lambda: loads.append(name) or octets, "image/png", is_held=True)  # type: ignore[func-returns-value]

    small, large = body("small", b"1234"), body("large", b"abcdefgh")
    brought = Brought()
    trust = brought.enter(PUBLIC)
    brought.hold(trust, {"cid:small": small, "cid:large": large, f"{SITE}/large": large})
    for url, octets in {"cid:small": b"1234", "cid:large": b"abcdefgh", f"{SITE}/large": b"abcdefgh"}.items():
        whole, beginning = (
            brought.answer(Request(url, trust=trust), 99),
            brought.answer(Request(url, trust=trust, first=3), 99),
        )
        assert whole is not None
        assert beginning is not None
        assert (whole.octets, beginning.octets, beginning.size) == (octets, octets[:3], len(octets))
    assert loads.count("large") == (5 if is_full else 1)


def image(number: int, url: str) -> Image:
    shown = Reference(url, url, "", FoundIn.LIST, "", "", number)
    return Image(number, "list", shown, (shown,))


def test_names_are_reserved_in_order_and_for_good(tmp_path: Path) -> None:
    urls = [f"{SITE}/{n}/kite.png" for n in range(40)]
    with Crate(tmp_path / "c") as crate:
        names = [crate.reserve(image(n, url), NAMING).name for n, url in enumerate(urls)]
    assert names == ["kite", *(f"kite {n}" for n in range(2, 41))]
    with Crate(tmp_path / "c") as crate:
        assert [crate.reserve(image(n, url), NAMING).name for n, url in enumerate(reversed(urls))] == names[::-1]
        assert crate.reserve(image(9, f"{SITE}/KITE.png"), NAMING).name == "KITE 41"


@pytest.fixture
def crate(tmp_path: Path) -> Iterator[Crate]:
    with Crate(tmp_path / "c") as opened:
        yield opened


def arrived(crate: Crate, octets: bytes) -> Arrival:
    arrival = crate.take_in(octets, None, 1_774_000_000)
    assert isinstance(arrival, Arrival)
    return arrival


def test_publishing_never_replaces(crate: Crate) -> None:
    entry = crate.reserve(image(1, f"{SITE}/a.png"), NAMING)
    red, blue = picture(), picture(colour="blue")
    assert crate.publish(entry, arrived(crate, red)) == "a.png"
    assert (
        crate.publish(entry, arrived(crate, red)) == "a.png"
    )  # the same bytes: a run was killed before it wrote this down
    assert crate.publish(entry, arrived(crate, blue)) is None
    assert (crate.root / "a.png").read_bytes() == red
    (crate.root / "b.png").symlink_to("/etc/passwd")
    other = crate.reserve(image(2, f"{SITE}/b.png"), NAMING)
    assert other.name == "b"
    assert crate.publish(other, arrived(crate, blue)) is None
    assert crate.rename(other, image(2, f"{SITE}/b.png"), NAMING).name == "b 2"


def test_a_file_system_without_hard_links(crate: Crate, monkeypatch: pytest.MonkeyPatch) -> None:
    refused = []

    def refuse(*paths: object) -> None:
        refused.append(paths)
        raise OSError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(os, "link", refuse)
    monkeypatch.setattr(moving, "_exclusive_rename", lambda: None)
    entry = crate.reserve(image(1, f"{SITE}/a.png"), NAMING)
    assert crate.publish(entry, arrived(crate, picture())) == "a.png"
    assert crate.publish(entry, arrived(crate, picture(colour="blue"))) is None
    assert (crate.root / "a.png").read_bytes() == picture()
    assert refused


def _unended(kind: str) -> Unfit:
    return Unfit(is_picture=True, words=f"cut short: this {kind} has no end")


def test_what_is_no_whole_picture_leaves_nothing(crate: Crate) -> None:
    assert crate.take_in(b"<html>", None, None) == Unfit(is_picture=False, words="not an image")
    assert crate.take_in(picture("JPEG", (99, 99))[:-40], None, None) == _unended("JPEG")
    spool = crate.spool()
    spool.write(picture()[:50])
    spool.flush()
    assert crate.take_in(b"", spool, None) == _unended("PNG")
    for nothing in (
        picture("JPEG", (99, 99))[:100],
        picture()[:45],
        picture("GIF")[:14],
        b"<svg xmlns='http://www.w3.org/2000/svg'>",
    ):
        assert isinstance(crate.take_in(nothing, None, None, is_all=True), Unfit)
    assert not list((crate.root / ".pickcrate" / "incoming").iterdir())


def test_what_its_server_has_without_an_end_is_kept_and_marked(run: Program, web: Server, tmp_path: Path) -> None:
    octets = {
        "a.gif": picture("GIF", (90, 60))[:-1],
        "b.png": picture("PNG", (90, 60))[:-12],
        "c.jpg": picture("JPEG", (90, 60))[:-40],
    }
    for name, cut in octets.items():
        (web.www / name).write_bytes(cut)
    (web.www / "p.html").write_text("".join(f"<img src={name}>" for name in octets) + "<img src=whole.png>")
    (web.www / "whole.png").write_bytes(picture("PNG", (90, 61)))
    done = run("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots", "--format", "jsonl")
    assert {row["file"]: row["unended"] for row in done.rows} == dict.fromkeys(octets, True) | {"whole.png": None}
    run(
        "look", f"{web.address}/p.html", "--width", "1..", "--no-robots", "--fresh"
    )  # it keeps what it has read in full
    assert (
        "without an end, as its server has it"
        in run("pack", f"{web.address}/p.html", "--crate", "d", "--no-robots").out
    )
    with (tmp_path / "crates/c/crate.csv").open() as file:
        assert [row["unended"] for row in csv.DictReader(file)] == ["yes", "yes", "yes", ""]
    audit = run("audit", "c", "--repair")
    assert (audit.code, audit.out.count("has no end")) == (0, 3)
    (tmp_path / "crates/c/b.png").write_bytes(picture())
    assert [row["trouble"] for row in run("audit", "c", "--format", "jsonl").rows] == ["unended", "altered", "unended"]


def test_ledgers_of_the_future_are_left_alone(tmp_path: Path) -> None:
    places = Places(tmp_path)
    places.inner.mkdir()
    Ledger(places).close()
    with closing(sqlite3.connect(places.ledger)) as database, database:
        database.execute("PRAGMA user_version = 99")
    with pytest.raises(CrateError, match="another version"):
        Ledger(places)


def test_a_full_disk_stops_cleanly(web: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for n in range(30):
        (web.www / f"{n}.png").write_bytes(picture(size=(20 + n, 9)))
    (tmp_path / "list.txt").write_text("\n".join(f"{web.address}/{n}.png" for n in range(30)))
    monkeypatch.chdir(tmp_path)
    real, calls = os.write, iter(range(1000))

    def full(descriptor: int, octets: bytes) -> int:
        if next(calls) >= 12:
            raise OSError(errno.ENOSPC, "No space left on device")
        return real(descriptor, octets)

    monkeypatch.setattr(os, "write", full)
    with pytest.raises(CrateError, match="the disk is full"):
        pickcrate.pack("list.txt", crate="c")
    monkeypatch.undo()
    monkeypatch.chdir(tmp_path)
    kept = {path.name: path.read_bytes() for path in (tmp_path / "crates" / "c").glob("*.png")}
    assert 1 <= len(kept) <= 12
    pickcrate.pack("list.txt", crate="c")
    files = {path.name: path.read_bytes() for path in (tmp_path / "crates" / "c").glob("*.png")}
    assert len(files) == 30
    assert kept.items() <= files.items()


def test_a_killed_run_goes_on(web: Server, tmp_path: Path) -> None:
    for n in range(120):
        (web.www / f"{n:03}.png").write_bytes(picture(size=(20 + n, 9)))
    (tmp_path / "list.txt").write_text("\n".join(f"{web.address}/{n:03}.png" for n in range(120)))
    command = [
        sys.executable,
        "-m",
        "pickcrate",
        "pack",
        "list.txt",
        "--crate",
        "c",
        "--pause",
        "0.01",
        "--per-site",
        "2",
    ]
    crate = tmp_path / "crates" / "c"
    for most in (5, 60):
        process = subprocess.Popen(command, cwd=tmp_path, stdout=subprocess.DEVNULL)
        while len(list(crate.glob("*.png"))) < most and process.poll() is None:
            time.sleep(0.01)
        process.send_signal(signal.SIGKILL)
        process.wait()
    web.requests()
    with closing(sqlite3.connect(crate / ".pickcrate" / "ledger.sqlite")) as ledger:
        held = {url for (url,) in ledger.execute("SELECT url FROM picture WHERE state = 'held'")}
    assert subprocess.run(command, cwd=tmp_path, stdout=subprocess.DEVNULL, check=False).returncode == 0
    assert not {f"{web.address}{path}" for path in web.requests()} & held
    assert {path.name: path.read_bytes() for path in crate.glob("*.png")} == {
        path.name: path.read_bytes() for path in web.www.glob("*.png")
    }
    assert len((crate / "crate.csv").read_text().splitlines()) == 121
    assert not list((crate / ".pickcrate" / "incoming").iterdir())
