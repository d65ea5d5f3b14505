"""A server that behaves badly: what is tried again, continued, given up; and addresses that no page may reach."""

import time
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from threading import Lock
from typing import ClassVar

import pytest

from conftest import Answering, Program, picture, serving
from pickcrate.fetch.exchange import Failure, Manners, Reply, Request
from pickcrate.fetch.line import Errand, Site
from pickcrate.fetch.pace import Pace
from pickcrate.fetch.patience import wait
from pickcrate.fetch.private import is_private, names_private
from pickcrate.fetch.resultcodes import of_transfer
from pickcrate.values.cause import Cause

KITE = picture("PNG", (60, 40)) + b""
BIG = picture("BMP", (400, 400))
PAGES = {
    "album": "<a href=full.bmp><img src=thumb.png></a>",
    "wall": "".join(f"<a href=slow{n}.bmp><img src=thumb{n}.png></a>" for n in range(4)),
}
NOT_THERE = Failure(Cause.STATUS, "", 404)


class Bad(Answering):
    """Answers by path, and by how often it was asked for it."""

    asked: ClassVar[Counter[str]] = Counter()
    ranges: ClassVar[list[str]] = []
    keys: ClassVar[set[tuple[str, str]]] = set()
    order: ClassVar[list[tuple[str, str]]] = []
    taken: ClassVar[list[float]] = [0.0]
    turn: ClassVar[Lock] = Lock()

    def do_GET(self) -> None:
        path = self.path.partition("?")[0]
        self.asked[path] += 1
        times = self.asked[path]
        self.order.append((self.headers["Host"].partition(":")[0], path))
        self.keys.add((self.headers["Host"].partition(":")[0], self.headers.get("X-Key", "")))
        match path.strip("/").partition(".")[0]:
            case "page":
                body = "".join(f"<img src={name}>" for name in self.path.partition("?")[2].split(","))
                self.answer(200, body.encode(), "text/html")
            case name if name in PAGES:
                self.answer(200, PAGES[name].encode(), "text/html")
            case name if name.startswith("slow"):
                self.answer(200 if times > 1 else 503, picture("BMP", (400, 400), (int(name[-1]), 0, 0)))
            case "full":
                self.answer(503 if times in {2, 3} else 200, BIG, "image/bmp")
            case name if name.startswith("thumb"):
                self.answer(200, KITE)
            case "busy":
                self.answer(200 if times > 2 else 503, KITE)
            case "later":
                self.answer(200 if times > 1 else 429, KITE, Retry_After="1")
            case name if name.startswith("limited"):
                self._limited(name)
            case "never":
                self.answer(429, KITE, Retry_After="86400")
            case "cut":
                self._cut(times)
            case "out":
                self.send_response(302)
                self.send_header("Location", f"http://localhost:{self.server.server_port}/busy.png")  # type: ignore[attr-defined]
                self.send_header("Content-Length", "0")
                self.end_headers()
            case name:
                self.answer(403 if name.startswith("deny") else 404, b"")

    def _limited(self, name: str) -> None:
        """Answer one request in a twentieth of a second, and refuse the others, as a limit of a rate does."""
        with self.turn:
            is_refused = time.monotonic() - self.taken[-1] < 0.05
            if not is_refused:
                self.taken.append(time.monotonic())
        self.answer(503 if is_refused else 200, picture("PNG", (60, 40 + int(name[7:]))))

    def _cut(self, times: int) -> None:
        """Send half at first, then the rest, if it is asked for as it should be."""
        wanted = self.headers.get("Range", "")
        self.ranges.append(f"{wanted} {self.headers.get('If-Range', '')}".strip())
        start = int(wanted.removeprefix("bytes=").partition("-")[0]) if wanted else 0
        self.send_response(206 if wanted else 200)
        if wanted:
            self.send_header("Content-Range", f"bytes {start}-{len(BIG) - 1}/{len(BIG)}")
        self.send_header("ETag", '"one"')
        self.send_header("Content-Type", "image/bmp")
        self.send_header("Content-Length", str(len(BIG) - start))
        self.end_headers()
        self.wfile.write(BIG[start : len(BIG) // 2] if times == 1 else BIG[start:])
        self.close_connection = True


@pytest.fixture
def bad() -> Iterator[str]:
    Bad.asked, Bad.ranges, Bad.keys, Bad.order = Counter(), [], set(), []
    with serving(Bad) as port:
        yield f"http://127.0.0.1:{port}"


def test_what_may_pass_is_waited_for(run: Program, bad: str) -> None:
    begun = time.monotonic()
    done = run("pack", f"{bad}/page?busy.png,later.png,gone.png", "--crate", "c", "--no-robots", "--as-shown")
    assert time.monotonic() - begun >= 1
    assert Bad.asked == {"/page": 1, "/busy.png": 3, "/later.png": 2, "/gone.png": 1}
    assert (done.code, "2 pictures fetched" in done.out) == (1, True)
    assert "what failed is listed for another try: pickcrate pack crates/c/failed.csv --crate c" in done.out
    rows = Path("crates/c/failed.csv").read_text(encoding="utf-8").splitlines()
    assert len(rows) == 2
    assert "the server answered 404 Not Found" in rows[1]
    again = run("pack", "crates/c/failed.csv", "--crate", "c", "--no-robots")
    assert (again.code, Bad.asked["/gone.png"]) == (1, 2)
    run("pack", f"{bad}/page?never.png", "--crate", "d", "--no-robots", "--as-shown", "--retries", "9")
    assert Bad.asked["/never.png"] == 1  # a day is too long


def test_a_broken_transfer_is_continued(run: Program, bad: str) -> None:
    done = run("pack", f"{bad}/page?cut.bmp", "--crate", "c", "--no-robots", "--as-shown")
    assert done.code == 0, done
    assert Bad.ranges == ["", f'bytes={len(BIG) // 2}- "one"']
    assert Path("crates/c/cut.bmp").read_bytes() == BIG


def test_a_thumbnail_that_stood_in_for_its_original_gives_way_to_it(run: Program, bad: str) -> None:
    line = ("pack", f"{bad}/album", "--crate", "c", "--no-robots", "--retries", "0")
    (first, second, third, fourth) = (run(*line) for _ in range(4))
    assert "full.bmp: the server answered 503" in first.out
    assert "a larger version could not be had: the server answered 503" in second.out
    assert "1 there already\n" in second.out
    assert "a larger version came: the old one is full (" in third.out
    assert (fourth.code, "1 there already\n" in fourth.out, Bad.asked["/full.bmp"]) == (0, True, 4)
    assert Path("crates/c/full.bmp").read_bytes() == BIG


def test_a_busy_moment_teaches_nothing(run: Program, bad: str) -> None:
    done = run("pack", f"{bad}/wall", "--crate", "c", "--no-robots", "--retries", "0")
    assert (done.code, sorted(path.name for path in Path("crates/c").glob("*.*p"))) == (
        0,
        [f"slow{n}.bmp" for n in range(4)],
    )


def test_a_site_that_keeps_refusing_is_left_alone(run: Program, bad: str) -> None:
    page = f"{bad}/page?" + ",".join(f"deny{n}.png" for n in range(40))
    done = run("pack", page, "--crate", "c", "--no-robots", "--as-shown", "--at-once", "1")
    assert done.code == 1
    assert sum(times for path, times in Bad.asked.items() if "deny" in path) == 8
    assert "32 × its site was left alone after 8 refusals in a row" in done.out


def test_a_site_that_limits_its_rate_is_asked_at_its_pace(run: Program, bad: str) -> None:
    page = f"{bad}/page?" + ",".join(f"limited{n}.png" for n in range(20))
    done = run("pack", page, "--crate", "c", "--no-robots", "--as-shown")
    assert (done.code, "20 pictures fetched" in done.out) == (0, True), done
    assert done.out.count("it refuses what it is asked for so fast") == 1
    assert sum(times for path, times in Bad.asked.items() if "limited" in path) < 40


class Alone(Answering):
    """A server that has one connection at a time, and closes any other."""

    only: ClassVar[Lock] = Lock()

    def handle(self) -> None:
        if self.only.acquire(blocking=False):
            with suppress(OSError):
                super().handle()
            self.only.release()

    def do_GET(self) -> None:
        if self.path == "/":
            self.answer(200, b"".join(b"<img src=%d.png>" % n for n in range(5)), "text/html")
        else:
            self.answer(200, picture("PNG", (60, 40 + int(self.path[1]))))


def test_a_site_that_takes_one_connection_gives_all_its_pictures(run: Program) -> None:
    with serving(Alone) as port:
        done = run("pack", f"http://127.0.0.1:{port}/", "--crate", "c", "--no-robots", "--as-shown")
    assert "5 pictures fetched" in done.out, done.err


def test_a_pace() -> None:
    pace = Pace()
    pace.refuse("a", 1, 2)
    pace.refuse("a", 3, 4)  # it may be at fault itself
    assert (pace.interval, pace.refused) == (0, 1)
    pace.refuse("b", 4, 5)
    first = pace.interval
    pace.refuse("c", 4, 5)  # it was asked for before
    assert pace.interval == first > 0
    pace.refuse("c", 6, 7)
    assert pace.interval == 2 * first
    pace.answer()
    assert 0.9 * 2 * first < pace.interval < 2 * first
    for _ in range(200):
        pace.answer()
    assert pace.interval == 0
    for n in range(10):
        assert not pace.is_hopeless
        pace.refuse(str(n), 10 + n, 10 + n)
    assert pace.is_hopeless
    assert pace.interval <= 32


def test_a_list_in_the_order_of_its_sites_is_fetched_from_several(run: Program, bad: str) -> None:
    other = bad.replace("127.0.0.1", "localhost")
    Path("list.txt").write_text("\n".join(f"{site}/nothing{n}.png" for site in (bad, other) for n in range(400)))
    run("pack", "list.txt", "--crate", "c", "--no-robots", "--per-site", "1", "--at-once", "2")
    hosts = [host for host, _ in Bad.order]
    assert hosts.count("localhost") == hosts.count("127.0.0.1") == 400
    assert hosts.index("localhost") < 100


def test_a_network_that_is_gone_for_a_while_is_waited_for() -> None:
    site = Site("https://kites.example")
    errands = [Errand(Request(f"{site.origin}/{n}.png"), site, f"{site.origin}/{n}.png") for n in range(2)]
    lost = Failure(Cause.HOST, "unknown host")
    replies = [Reply(errand.request, errand.url, failure=lost) for errand in errands]
    assert errands[0].wait(Manners(), replies[0], lost) is None  # there may be no such host
    site.came(Reply(errands[0].request, errands[0].url, status=200), errands[0].url, 1)
    assert errands[0].wait(Manners(), replies[0], lost) is not None
    for begun_at, (errand, reply) in enumerate(zip(errands, replies, strict=True), 2):
        errand.attempt = 9
        assert errand.wait(Manners(), reply, lost) is None
        site.came(reply, errand.url, begun_at)
    assert errands[1].wait(Manners(), replies[1], lost) == site.pace.interval > 0


def test_a_public_page_cannot_reach_private_addresses(run: Program, bad: str, tmp_path: Path) -> None:
    pictures = f"<img src={bad}/busy.png><img src=http://localhost:1/a.png>"
    (tmp_path / "saved.html").write_text(f"<link rel=canonical href=https://kites.example/>{pictures}")
    done = run("pack", "saved.html", "--crate", "c", "--as-shown")
    assert done.code == 1
    assert "a private address, which a public page may not reach (--allow-private allows it)" in done.out
    assert not Bad.asked
    assert (
        run("pack", "saved.html", "--crate", "c", "--as-shown", "--allow-private", "--no-robots").out.count(
            "fetched  busy"
        )
        == 1
    )
    # One that does not say where it is from is the user's own.
    (tmp_path / "mine.html").write_text(f"<img src={bad}/busy.png>")
    assert run("pack", "mine.html", "--crate", "d", "--as-shown", "--no-robots").code == 0


def test_what_is_for_one_site_goes_to_no_other(run: Program, bad: str) -> None:
    page = (f"{bad}/page?out.png", "--as-shown", "--header", "X-Key: secret")
    done = run("pack", *page, "--crate", "c")
    assert (done.code, Bad.keys) == (0, {("127.0.0.1", "secret"), ("localhost", "")})
    assert Bad.asked["/robots.txt"] == 2  # the other site's is asked for as well


PRIVATE = "127.0.0.1 10.1.2.3 192.168.0.7 169.254.169.254 0.0.0.0 100.64.0.1 ::1 fe80::1%eth0 fd00::1 ::ffff:10.0.0.1 64:ff9b::7f00:1 224.0.0.1".split()
PUBLIC = "93.184.216.34 2606:2800:220:1::1 ::ffff:93.184.216.34".split()


def test_which_addresses_are_private() -> None:
    assert [address for address in PRIVATE if not is_private(address)] == []
    assert [address for address in PUBLIC if is_private(address)] == []
    assert all(map(names_private, ("http://localhost/", "http://nas.local/a", "http://[::1]:8/", "http://127.1.1.1/")))
    assert not any(map(names_private, ("http://kites.example/", "http://[", "http://localhost.example/")))


@pytest.mark.parametrize(
    ("failure", "status", "fields", "waits"),
    [
        (Failure(Cause.RESET, ""), 0, {}, True), (Failure(Cause.HOST, ""), 0, {}, False), (NOT_THERE, 404, {}, False),
        (Failure(Cause.STATUS, "", 503), 503, {"retry-after": "7"}, True), (Failure(Cause.CERTIFICATE, ""), 0, {}, False),
        (of_transfer(92, "HTTP/2 stream 7 was not closed cleanly"), 0, {}, True), (of_transfer(35, ""), 0, {}, True),
        (Failure(Cause.STATUS, "", 503), 503, {"retry-after": "Fri, 31 Dec 2100 00:00:00 GMT"}, False),
        (Failure(Cause.STATUS, "", 500), 500, {"retry-after": "soon"}, True), (Failure(Cause.STATUS, "", 501), 501, {}, False),
    ],
)  # fmt: skip
def test_which_failures_may_pass(failure: Failure, status: int, fields: dict[str, str], waits: bool) -> None:
    delay = wait(failure, status, fields, 2)
    assert (delay is not None) is waits
    if delay is not None and fields.get("retry-after", "").isdecimal():
        assert delay == 7
