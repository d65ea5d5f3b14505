"""Pages in a real browser: what it finds, what is not fetched twice, what it must not reach, and what goes wrong."""

import contextlib
import json
import os
import shutil
import signal
import socket
import struct
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.request import urlopen

import pytest
from PIL import Image
from playwright.sync_api import Error, Page

from conftest import HANGS, HEEDING, Answering, Program, Server, is_open, picture, serving, wait_until
from pickcrate.browser.bounded import for_no_longer_than
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.functions import PAGE
from pickcrate.browser.guard import Guard
from pickcrate.browser.pending import Pending
from pickcrate.browser.running import Running
from pickcrate.browser.visited import failure_of
from pickcrate.fetch.cookies import as_lines, from_file
from pickcrate.fetch.exchange import Manners
from pickcrate.orders.order import Order
from pickcrate.run.doors import credentials_of
from pickcrate.values.cause import Cause


@contextmanager
def opened(running: Running) -> Iterator[Page]:
    """Open a window, and end the browser with it."""
    try:
        yield running.new_page()
    finally:
        running.close()


def test_a_wall_that_a_script_hangs(run: Program, museum: str, tmp_path: Path) -> None:
    source = run("look", f"{museum}/wall.html", "--format", "urls", "--as-shown")
    assert [url.rpartition("/")[2] for url in source.out.split()] == [
        "favicon.png",
        "evening-star.webp",
        "sled.jpg",
    ]  # the second and the third are a script's
    shot = tmp_path / "wall.png"
    done = run(
        "look", f"{museum}/wall.html", "--browser", "--press", "More prints", "--shot", shot, "--format", "jsonl"
    )
    assert done.code == 0, done.err
    named = {row["url"].rpartition("/")[2]: row for row in done.rows if not row["furniture"]}
    kites = ["red-delta.jpg", "harbour-diamond.jpg", "surveyor-box.jpg", "evening-star.webp", "long-dragon.jpg",
             "grey-octopus.jpg", "six-corner-sun.jpg", "striped-sled.jpg", "eight-cell-foil.jpg", "night-crow.webp",
             "mill-wheel.jpg", "weather-ladder.jpg"]  # fmt: skip
    assert list(named) == [*kites, "sled.jpg", "crow.jpg", "foil.jpg"]
    assert named["night-crow.webp"]["item"] == "Night Crow"
    assert "originals/evening-star.webp" in str(named["evening-star.webp"])  # in a style sheet of a shadow root as well
    assert shot.read_bytes().startswith(b"\x89PNG")
    # A screen of it only: it goes on, and that is said.
    done = run("look", f"{museum}/wall.html", "--browser", "--scroll", "1", "--as-shown")
    assert "scrolled through 1 screen, and it goes on: --scroll 2 goes further" in done.out


def test_nothing_is_fetched_twice(run: Program, web: Server, tmp_path: Path) -> None:
    for name in ("a", "b", "big", "frame", "gone"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60, 40), (90, 9, ord(name[0]))))
    (web.www / "inner.html").write_text("<script>document.write('<img src=frame.png>')</script>")
    (web.www / "sheet.css").write_text("main { background: url(b.png) }")
    (web.www / "index.html").write_text(
        "<link rel=stylesheet href=sheet.css><main>Kites</main><img src=/moved/a.png><iframe src=inner.html></iframe>"
        "<script>const kite = new Image(); kite.src = ['gone', 'png'].join('.');</script>"
        "<a href=big.png><img src=a.png></a>"
    )
    line = (f"{web.address}/index.html", "--browser", "--no-robots", "--crate", "c")
    assert run("pack", *line, "--as-shown").code == 0
    files = {path.name for path in (tmp_path / "crates/c").glob("*.png")}
    assert files == {"a.png", "b.png", "frame.png", "gone.png"}
    asked = web.log.read_text().splitlines()
    ours = [line for line in asked if '"pickcrate/' in line]
    assert ours == []
    assert all("HeadlessChrome" in line and "pickcrate/" in line for line in asked)
    assert run("pack", *line).code == 0  # the larger version is sought as ever, and the browser's cookies go with it
    ours = [line for line in web.log.read_text().splitlines() if '"pickcrate/' in line]
    assert ours, "the link was never followed"
    assert all("big.png" in line for line in ours)


def test_a_list_and_its_items(run: Program, web: Server) -> None:
    cards = "for (const n of 'ab') document.body.insertAdjacentHTML('beforeend', `<li><a href=${n}.html>Kite ${n}</a>`)"
    (web.www / "index.html").write_text(f"<h1>Kites</h1><script>{cards}</script>")
    for n in "ab":
        (web.www / f"{n}1.png").write_bytes(picture("PNG", (300, 200), "red"))
        script = f"document.body.insertAdjacentHTML('beforeend', '<img src={n}1.png>')"
        (web.www / f"{n}.html").write_text(f"<h1>Kite {n}</h1><script>{script}</script>")
    line = ("look", f"{web.address}/index.html", "--browser", "--items", "all", "--no-robots", "--format", "jsonl")
    done = run(*line)
    assert [(row["item"], row["url"].rpartition("/")[2]) for row in done.rows] == [
        ("Kite a", "a1.png"), ("Kite b", "b1.png")]  # fmt: skip
    (web.www / "robots.txt").write_text("User-agent: *\nDisallow: /b.html\n")  # of what nobody named
    done = run(*(word for word in line if word != "--no-robots"), "--fresh")
    assert (done.code, [row["item"] for row in done.rows]) == (1, ["Kite a"])
    assert "b.html: the site's robots.txt asks not to" in done.err


def test_signed_in(run: Program, built: Program, museum: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert run("look", f"{museum}/members", "--browser", "--format", "urls").out == ""
    (tmp_path / "cookies.txt").write_text("127.0.0.1\tFALSE\t/\tFALSE\t0\tmember\tsigned-in\n")
    done = run("look", f"{museum}/members", "--browser", "--cookies", "cookies.txt", "--format", "jsonl")
    assert [row["caption"] for row in done.rows] == ["Long Dragon, first flight", "Octopus"]
    # A profile keeps what its browser was told.
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    line = ("look", f"{museum}/members", "--browser", "--profile", "kites", "--format", "urls")
    assert run(*line).out == ""
    running = Running(Browsing(profile="kites"), Manners())
    with opened(running) as page:
        running.allow_private(allowed=True)
        page.goto(f"{museum}/members")
        page.get_by_role("button").click()
        busy = built(*line)
        assert (busy.code, "--profile kites: in use" in busy.err) == (2, True)
    assert len(run(*line).out.split()) == 2
    assert (tmp_path / "data/pickcrate/profiles/kites").stat().st_mode & 0o077 == 0


def test_what_a_profile_is_shown_is_kept_for_it_alone() -> None:
    ways = [Browsing(), Browsing(profile="a"), *(Browsing(wanted=True, profile=name) for name in ("", "a", "b"))]
    known = [credentials_of(Order((), browsing=way)) for way in (*ways, Browsing(at="http://127.0.0.1:9222"))]
    assert known[0] == known[1]  # no browser, no profile
    assert len(set(known[2:])) == 4


def test_a_browser_that_is_open_already(run: Program, museum: str, tmp_path: Path) -> None:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    program = shutil.which("chromium") or "chromium"
    options = ["--headless", "--no-sandbox", f"--user-data-dir={tmp_path / 'own'}", f"--remote-debugging-port={port}"]
    browser = subprocess.Popen([program, *options, "--disable-background-networking", "about:blank"],
                               stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # fmt: skip
    try:
        at = f"http://127.0.0.1:{port}"
        wait_until(lambda: is_open(port))
        before = urlopen(f"{at}/json/list").read().count(b'"page"')
        done = run("look", f"{museum}/wall.html", "--browser-at", at, "--furniture", "drop", "--format", "urls")
        assert len(done.out.split()) == 13, done.err
        assert urlopen(f"{at}/json/list").read().count(b'"page"') == before
        assert browser.poll() is None
    finally:
        browser.kill()
        browser.wait()
    done = run("look", museum, "--browser-at", at)
    assert (done.code, "no browser answers there" in done.err) == (2, True)


@pytest.fixture
def guard() -> Iterator[Guard]:
    """Return a guard that listens."""
    one = Guard(timeout=HANGS)
    one.start()
    yield one
    one.close()


def ask(guard: Guard, host: str, port: int) -> int:
    """Return what the guard answers to one who wants to be connected (RFC 1928, 6)."""
    with socket.create_connection(("127.0.0.1", guard.port), timeout=HANGS) as line:
        line.sendall(b"\x05\x01\x00")
        assert line.recv(2) == b"\x05\x00"
        line.sendall(b"\x05\x01\x00\x03" + bytes([len(host)]) + host.encode() + struct.pack("!H", port))
        return line.recv(10)[1]


def test_the_guard_lets_nothing_private_through(guard: Guard, web: Server) -> None:
    port = int(web.address.rpartition(":")[2])
    refused = [ask(guard, host, port) for host in ("127.0.0.1", "localhost", "::1", "169.254.169.254", "10.0.0.1")]
    assert refused == [2] * 5
    assert guard.failures["localhost"].cause is Cause.PRIVATE
    assert ask(guard, "nobody.galewick.example", 80) == 4
    guard.allow_private(allowed=True)
    assert ask(guard, "localhost", port) == 0
    with socket.create_connection(("127.0.0.1", guard.port), timeout=30) as line:  # nginx would wait for a minute
        line.sendall(b"\x05\x01\x00\x05\x01\x00\x01\x7f\x00\x00\x01" + struct.pack("!H", port))
        line.makefile("rb").read(12)
        line.sendall(b"GET /")
        guard.allow_private(allowed=False)  # what is open is cut
        with contextlib.suppress(ConnectionResetError):
            assert line.recv(65_536) == b""


def test_what_is_only_being_connected_is_cut_as_well(guard: Guard, web: Server) -> None:
    request = b"\x05\x01\x00\x05\x01\x00\x01\x7f\x00\x00\x01" + struct.pack("!H", int(web.address.rpartition(":")[2]))
    for tenths in range(200):  # of a millisecond: one of them comes as the connection does
        guard.allow_private(allowed=True)
        with socket.create_connection(("127.0.0.1", guard.port), timeout=HANGS) as line:
            line.sendall(request)
            time.sleep(tenths % 20 / 10_000)
            guard.allow_private(allowed=False)


def test_a_public_page_reaches_nothing_private_in_the_browser(web: Server) -> None:
    (web.www / "kite.png").write_bytes(picture())
    hosts = [web.address.removeprefix("http://"), web.address.removeprefix("http://").replace("127.0.0.1", "localhost")]
    tries = "".join(
        f"new Image().src = 'http://{host}/kite.png'; fetch('http://{host}/x', {{mode: 'no-cors'}}).catch(() => 0);"
        f"try {{ new WebSocket('ws://{host}/socket') }} catch {{}} navigator.sendBeacon('http://{host}/beacon');"
        for host in hosts
    )
    with opened(Running(Browsing(wanted=True), Manners())) as page:
        page.set_content(f"<script>{tries}</script><iframe src='http://{hosts[0]}/frame'></iframe>")
        page.wait_for_timeout(1_500)
        with pytest.raises(Error):
            page.goto(f"{web.address}/kite.png")
    assert web.log.read_text() == ""


class Strange(Answering):
    """A server that does not behave: says no, sends on, hangs, offers files."""

    def do_GET(self) -> None:
        match self.path:
            case "/file":
                self.answer(200, picture("PNG", (30, 20)), Content_Disposition="attachment; filename=kite.png")
            case "/pictures.txt":
                self.answer(200, b"http://127.0.0.1/a.png\n", "text/plain")
            case "/loop":
                self.answer(302, b"", Location="/loop")
            case "/pop":
                page = b"<script>alert(1); window.open('/pop'); setInterval(() => fetch('/tick'), 50)</script><img src=/kite.png>"
                self.answer(200, page, "text/html")
            case "/buttons":
                more = "onclick=\"document.body.insertAdjacentHTML('beforeend', '<img src=/' + this.id + '.png>')\""
                buttons = (
                    f"<button id=a {more}>Delete more</button><form method=post><button id=b {more}>Show more</button></form>"
                    f"<form><input type=password><input type=button id=c value='Show more' {more}></form>"
                    f"<button id=d {more} disabled>Show more</button><a href=/gone id=e {more}>Show m&ouml;re…</a>"
                    f"<span role=button class=further aria-label=Onwards id=f {more}>›</span>"
                )
                self.answer(200, buttons.encode(), "text/html")
            case "/trap":
                trap = b"<img src=/kite.png><script>Document.prototype.querySelectorAll = () => { while (1); }</script>"
                self.answer(200, trap, "text/html")
            case "/liar":
                lies = b"<img src=/kite.png><script>Math.max = () => 'a moment'; Math.abs = () => ({})</script>"
                self.answer(200, lies, "text/html")
            case "/late":
                self.answer(200, b"<img src=/kite.png><script src=/never></script><img src=/reel.png>", "text/html")
            case "/never":
                time.sleep(8)
            case _ if self.path.endswith(".png"):
                self.answer(200, picture())
            case _:
                self.answer(404, b"", "text/html")


def test_pages_and_settings_that_do_not_behave(run: Program, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("pickcrate.browser.functions._LONGEST_CALL", 4)
    with serving(Strange) as port:
        site = f"http://127.0.0.1:{port}"
        done = run("look", f"{site}/file", "--browser", "--width", "30", "--format", "urls")  # no page: it is fetched
        assert done.out == f"{site}/file\n"
        assert run("look", f"{site}/pictures.txt", "--browser", "--format", "urls").out == "http://127.0.0.1/a.png\n"
        sources = [f"{site}/{name}" for name in ("gone", "loop", "pop", "trap", "late", "liar")]
        done = run("look", *sources, "--browser", "--wait-for", "#no", "--timeout", "4", "--format", "jsonl")
        # One never gets quiet, one answers no more, one waits for what never comes: what is there stays.
        assert [row["url"].rpartition("/")[2] for row in done.rows] == [
            *("kite.png", "kite.png", "kite.png", "reel.png", "kite.png")
        ]
        for words in (
            "it does not answer",
            "not all of it was loaded in time",
            "its scripts answer what no page would",
        ):
            assert f"{words}: it is taken as it came" in done.err
        assert done.code == 1
        for words in ("gone: the server answered 404 Not Found", "loop: redirected in a loop", "'#no' did not come"):
            assert words in done.err
    cases = [
        (("--scroll", "0"), "--scroll is about pages in a browser"),
        (("--scroll", "5"), "--scroll is about pages in a browser"),
        (("--browser", "--browser-path", "/nowhere/browser"), "--browser-path /nowhere/browser: no such program"),
        (("--browser", "--profile", "../x"), "is no name"),
        (("--browser", "--shot", "x.jpg"), "end it in .png"),
        (("--browser-at", "127.0.0.1:9222"), "is no address"),
        (("--browser-at", "http://127.0.0.1:1", "--profile", "x"), "is a browser that is open already"),
    ]
    for options, words in cases:
        done = run("look", site, *options)
        assert (done.code, words in done.err) == (2, True), done.err


class Asked:
    """A request as far as it counts for how long a page is waited for."""

    def __init__(self, url: str, resource_type: str = "fetch", form: bytes | None = None) -> None:
        self.url, self.resource_type, self.post_data_buffer = url, resource_type, form


NEWS = [Asked(f"/news?t=17{n:011}") for n in range(8)]
AWAITED: list[tuple[str, list[Asked], int]] = [
    ("each part of a list", [Asked(f"/list?page={n}") for n in range(8)], 8),
    ("the same form with other words", [Asked("/list", form=b"after=%d" % n) for n in range(8)], 8),
    ("pictures whose numbers are long", [Asked(f"/kite?id=17000000{n:02}", "image") for n in range(8)], 8),
    ("news, asked for again and again", NEWS, 4),
    ("a form that is sent again and again", [Asked("/news", form=b'{"at": 0.%d}' % (7**20 + n)) for n in range(8)], 4),
    ("a signal in a picture", [Asked(f"/seen.gif?0.12345678{n}", "image") for n in range(8)], 4),
    ("what never ends", [Asked("/reel.mp4", "media"), Asked("/feed", "websocket")], 0),
]


@pytest.mark.parametrize(("requests", "awaited"), [case[1:] for case in AWAITED], ids=[case[0] for case in AWAITED])
def test_what_is_waited_for(requests: list[Any], awaited: int, monkeypatch: pytest.MonkeyPatch) -> None:
    now = 100.0
    monkeypatch.setattr("pickcrate.browser.pending.time.monotonic", lambda: now)
    pending = Pending(longest=10)
    for request in requests:
        pending.begin(request)
    assert pending.any_left() == bool(awaited)
    now += 1
    for request in requests[:awaited]:
        assert not pending.is_quiet(0.5)
        pending.end(request)
    assert not pending.any_left()
    now += 1
    assert pending.is_quiet(0.5)
    pending.count_anew()  # a button was pressed, which may bring more
    pending.begin(requests[0])
    assert pending.any_left() == bool(awaited)
    now += 11  # it is held open
    assert pending.is_quiet(0.5)


def test_a_run_that_is_left_before_its_end_ends(built: Program, museum: str) -> None:
    done = built("why", f"{museum}/wall.html", "3", "--browser")
    assert (done.code, done.out.startswith("Picture 3  harbour-diamond")) == (0, True)


def test_what_may_be_pressed_is_said(run: Program, web: Server) -> None:
    buttons = "<button>Next</button><a href=/x>Show more</a><a href='#'>Load 20 more</a><button disabled>Older</button>"
    (web.www / "p.html").write_text(f"<p><img src=a.png>{buttons}")
    (web.www / "div.html").write_text("<img src=a.png><p>Show more<div style='cursor:pointer'>Load 20 more</div>")
    said = "a button says “Load 20 more”: --next-pages 9 presses it, up to nine times"
    for name in ("p", "div"):
        assert said in run("look", f"{web.address}/{name}.html", "--browser").out


APPENDING = """<div id=list></div><button id=more onclick="add()">Show 2 more kites</button><script>
let k = 0;
const add = () => { for (const n of [++k, ++k]) list.insertAdjacentHTML("beforeend", `<img src=/${n}.png alt="Kite ${n}">`);
                    if (k >= 8) more.remove() };
add();</script>"""
TURN = """<div><img id=slide src=/s.png alt=Slide><button>Next</button></div><div id=list></div><script>
const turn = (page) => { list.innerHTML = [1, 2].map((n) => `<img src=/${page}${n}.png alt="Kite ${page}${n}">`).join("") };
turn(1);</script>"""
TURNING = f"""{TURN}<p><button>1</button><button>2</button><button id=on>Next</button></p><script>let now = 1;
on.onclick = () => setTimeout(() => {{ turn(++now); on.disabled = now >= 4 }}, 100)</script>"""
BUSY = APPENDING.replace("for (const n", "for (const now = Date.now(); Date.now() < now + 2000;); for (const n")
NUMBERED = f"""{TURN}<nav>{"".join(f"<button onclick='turn({n})'>{n}</button>" for n in range(1, 5))}</nav>"""


@pytest.mark.parametrize(("markup", "first"), [(APPENDING, 0), (BUSY, 0), (TURNING, 1), (NUMBERED, 1)])
def test_further_pages_that_pressing_brings(run: Program, web: Server, markup: str, first: int) -> None:
    (web.www / "list.html").write_text(markup)
    line = ("look", f"{web.address}/list.html", "--browser", "--as-shown", "--format", "jsonl", "--next-pages")
    all_of_it, some = run(*line, "9"), run(*line, "1")
    assert (len(all_of_it.rows), len(some.rows)) == (8 + first, 4 + first)
    assert all_of_it.rows[first]["alt"].startswith("Kite 1")
    assert "4 pages of the list: it ends there" in all_of_it.err
    assert "2 pages of the list: it goes on, and --next-pages 4 reads more" in some.err


def test_what_only_reads_like_a_number_of_a_page_is_not_pressed(run: Program, web: Server) -> None:
    grades = "".join(f"<button onclick='turn({n})'>{n}</button>" for n in (1, 2, 3))
    (web.www / "list.html").write_text(
        f"{TURN}<p onclick='turn(2)'>2 of them are new</p><div>Your grade: {grades}</div>"
    )
    done = run("look", f"{web.address}/list.html", "--browser", "--as-shown", "--format", "jsonl", "--next-pages", "9")
    assert [row["alt"] for row in done.rows] == ["Slide", "Kite 11", "Kite 12"]


def test_what_is_pressed(run: Program, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("pickcrate.browser.steps._MOST_PRESSES", 2)
    with serving(Strange) as port:
        line = ("look", f"http://127.0.0.1:{port}/buttons", "--browser", "--format", "urls", "--as-shown")
        done = run(*line, "--press", "show MORE", "--press", ".further", "--press", "Delete")
        # Not what deletes, sends or signs in; and the link leads nowhere else meanwhile.
        assert sorted(url.rpartition("/")[2] for url in done.out.split()) == ["e.png", "f.png"]
        assert "--press 'show MORE': pressed 2 times, and no more" in done.err
        assert "--press 'Delete': nothing to press that says so, or that may be pressed" in done.err


_FIGURE = "`<figure><img src=${n}.png height=200><figcaption>Kite ${n}</figcaption></figure>`"
SHOWN_FOR_A_WHILE: dict[str, tuple[str, tuple[str, ...], list[str]]] = {
    "a long list that lets go of what is out of sight": (
        "<div id=v style='height:4000px;position:relative'></div><script>function draw() {"
        "const first = Math.min(7, Math.floor(scrollY / 400)); v.innerHTML = ''; for (let n = first + 1; n < first + 4; n++)"
        f"v.insertAdjacentHTML('beforeend', {_FIGURE}.replace('<figure', `<figure style='position:absolute;top:${{n * 400}}px'`))"
        "} onscroll = draw; draw()</script>",
        (),
        [f"Kite {n}" for n in range(1, 11)],
    ),
    "a strip that is scrolled sideways": (
        "<div id=s style='display:flex;overflow-x:auto;width:600px'></div><script>for (let n = 1; n < 9; n++)"
        f"s.insertAdjacentHTML('beforeend', {_FIGURE}.replace('<img src', '<img width=600 style=flex:none data-n'));"
        "const seen = new IntersectionObserver((all) => all.forEach((one) => {if (one.isIntersecting)"
        "one.target.src = one.target.dataset.n}), {root: s});document.querySelectorAll('img').forEach((i) => seen.observe(i))</script>",
        (),
        [f"Kite {n}" for n in range(1, 9)],
    ),
    "pages of which one is shown": (
        "<div id=g></div><button id=b aria-label=Next>›</button><script>let p = 0; function show() {g.innerHTML = '';"
        f"for (let n = p * 2 + 1; n < p * 2 + 3; n++) g.insertAdjacentHTML('beforeend', {_FIGURE}); b.disabled = p == 3}}"
        "show(); b.onclick = () => {p++; setTimeout(show, 500)}</script>",
        ("--press", "Next"),
        [f"Kite {n}" for n in range(1, 9)],
    ),
    "a button in a frame": (
        '<iframe width=800 height=400 srcdoc="<base href=/><div id=g></div><button id=b>More</button><script>let n = 0;'
        f"b.onclick = () => {{if (++n < 4) g.insertAdjacentHTML('beforeend', {_FIGURE})}}</script>\"></iframe>",
        ("--press", "More"),
        ["Kite 1", "Kite 2", "Kite 3"],
    ),
    "screens that the wheel puts in each other's place": (
        "<style>body {overflow:hidden}</style><div id=g></div><script>let n = 1; function show() {"
        f"g.innerHTML = {_FIGURE}}} show(); onwheel = () => {{if (n < 4) {{n++; show()}}}}</script>",
        (),
        [f"Kite {n}" for n in range(1, 5)],
    ),
    "a closed shadow root": (
        "<div id=h></div><script>const n = 1; h.attachShadow({mode: 'closed'}).innerHTML = " + _FIGURE + "</script>",
        (),
        ["Kite 1"],
    ),
    "bytes that a script hands over": (
        "<script>fetch('1.png').then((r) => r.arrayBuffer()).then((bytes) => {const image = new Image(); image.alt = 'Kite 1';"
        "image.src = URL.createObjectURL(new Blob([bytes], {type: 'image/png'})); document.body.append(image)});"
        "const show = (blob, n) => document.body.insertAdjacentHTML('beforeend', `<img alt='Kite ${n}' src=${URL.createObjectURL(blob)}>`);"
        "fetch('2.png').then((r) => r.blob()).then((blob) => show(blob, 2)); const asked = new XMLHttpRequest();"
        "asked.open('GET', '3.png'); asked.responseType = 'blob'; asked.onload = () => show(asked.response, 3); asked.send()</script>",
        (),
        ["Kite 1", "Kite 2", "Kite 3"],
    ),
    "what is put off until nobody scrolls": (
        "<div id=g></div><script>let n = 0, timer; function more() {for (let end = n + 4; n < end && n < 10;) {n++;"
        f"g.insertAdjacentHTML('beforeend', {_FIGURE}.replace('200', '400'))}}}} more();"
        "onscroll = () => {clearTimeout(timer); timer = setTimeout(more, 700)}</script>",
        (),
        [f"Kite {n}" for n in range(1, 11)],
    ),
    "an entrance, behind which pictures are loaded as they come into sight": (
        "<button id=b style='position:fixed;inset:0'>Come in</button><div id=g></div><script>for (let n = 1; n < 7; n++)"
        f"g.insertAdjacentHTML('beforeend', {_FIGURE}.replace('src', 'style=height:500px data-n'));"
        "const seen = new IntersectionObserver((all) => all.forEach((one) => {if (one.isIntersecting)"
        "one.target.src = one.target.dataset.n}));"
        "b.onclick = () => {b.remove(); document.querySelectorAll('img').forEach((i) => seen.observe(i))}</script>",
        ("--press", "Come in"),
        [f"Kite {n}" for n in range(1, 7)],
    ),
    "a list that begins at its lower end": (
        "<div id=g style='height:400px;overflow:auto;display:flex;flex-direction:column-reverse'></div><script>let n = 0;"
        "function more() {for (let end = n + 3; n < end && n < 9;) {n++;"
        f"g.insertAdjacentHTML('beforeend', {_FIGURE})}}}} more();"
        "g.onscroll = () => {if (g.scrollHeight + g.scrollTop - g.clientHeight < 200) more()}</script>",
        (),
        [f"Kite {n}" for n in range(1, 10)],
    ),
    "slides that fade": (
        "<style>#g {transition: opacity .4s}</style><div id=g></div><button id=b>Next</button><script>let n = 0; function show() {"
        f"n++; g.innerHTML = {_FIGURE}; g.style.opacity = 1; b.disabled = n == 4}} show(); b.onclick = () => {{g.style.opacity = 0;"
        "g.addEventListener('transitionend', show, {once: true})}</script>",
        ("--press", "Next"),
        [f"Kite {n}" for n in range(1, 5)],
    ),
    "a part that is unfolded and folded": (
        f"<button id=b>Plans</button><div id=g></div><script>const n = 1; b.onclick = () => g.innerHTML = g.innerHTML ? '' : {_FIGURE}</script>",
        ("--press", "Plans"),
        ["Kite 1"],
    ),
}


@pytest.mark.parametrize("name", SHOWN_FOR_A_WHILE)
def test_what_a_page_has_shown_keeps_its_words(run: Program, web: Server, name: str) -> None:
    markup, options, expected = SHOWN_FOR_A_WHILE[name]
    (web.www / "p.html").write_text(f"<!doctype html>{markup}")
    for n in range(1, 11):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (300 + n, 200), (n * 20, 9, 9)))
    rows = run("look", f"{web.address}/p.html", "--browser", "--as-shown", "--format", "jsonl", *options).rows
    by_address = {row["url"].rpartition("/")[2]: row["alt"] or row["caption"] for row in rows}
    assert by_address == {f"{words.split()[1]}.png": words for words in expected}
    assert len(rows) == len(expected)


def test_what_a_thumbnail_opens_is_its_original(run: Program, web: Server) -> None:
    script = (
        "document.querySelectorAll('.thumb').forEach((thumb, n) => {thumb.onclick = () => {cover.hidden = false;"
        "full.src = `${['red', 'blue'][n]}.png`}}); last.onclick = () => window.open('teal.png')"
    )
    thumbs = "".join(f"<figure><img class=thumb src={n}.png alt='Kite {n}'></figure>" for n in "abc")
    thumbs = thumbs.replace("src=c", "id=last src=c")
    cover = "<div id=cover hidden style='position:fixed;inset:0'><img id=full></div>"
    (web.www / "p.html").write_text(f"<h1>Kites</h1>{thumbs}{cover}<script>{script}</script>")
    for place, name in enumerate(("a", "b", "c", "red", "blue", "teal")):
        size = (400, 300) if len(name) > 1 else (100, 75)
        (web.www / f"{name}.png").write_bytes(picture("PNG", size, (place * 40, 9, 9)))
    rows = run("look", f"{web.address}/p.html", "--browser", "--press", ".thumb", "--format", "jsonl").rows
    found = [(row["shown_url"], row["url"], row["alt"]) for row in rows]
    names = zip("abc", ("red", "blue", "teal"), strict=True)
    assert found == [(f"{web.address}/{n}.png", f"{web.address}/{full}.png", f"Kite {n}") for n, full in names]
    assert {row["evidence"] for row in rows} == {"it opened when the picture was pressed"}


@pytest.mark.parametrize(
    ("markup", "pressed"),
    [
        ("<select id=c><option value=''>Choose<option value=a>Red<option value=b>Blue</select>", "select"),
        (
            "<label><input type=radio name=c value=a>Red</label><label><input type=radio name=c value=b>Blue</label>",
            "label",
        ),
        ("<i class=of-colour title=Red data-c=a></i><i class=of-colour title=Blue data-c=b></i>", ".of-colour"),
    ],
)
def test_what_may_be_chosen_is_chosen_and_named_after_that(
    run: Program, web: Server, markup: str, pressed: str
) -> None:
    listen = (
        "document.querySelectorAll('select, input').forEach((one) => one.onchange = () => big.src = `${one.value}.png`);"
        "document.querySelectorAll('i').forEach((one) => one.onclick = () => big.src = `${one.dataset.c}.png`)"
    )
    shop = f"<form method=post action=/buy>{markup}<button>Next</button></form><p>Kites<p>of the<p>museum"
    shop += (
        "<p><img id=big src=0.png alt=Delta><style>i { display: inline-block; padding: 9px; background: red }</style>"
    )
    (web.www / "p.html").write_text(f"<h1>Kites</h1>{shop}<script>{listen}</script>")
    for n, name in enumerate("0ab"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (300, 200), (n * 90, 9, 9)))
    done = run("look", f"{web.address}/p.html", "--browser", "--press", pressed, "--press", "Next", "--format", "jsonl")
    found = [(row["url"].rpartition("/")[2], row["title"], row["alt"]) for row in done.rows]
    assert found == [("0.png", None, "Delta"), ("a.png", "Red", "Delta"), ("b.png", "Blue", "Delta")]
    assert "--press 'Next': nothing to press" in done.err  # what would send the form is left alone


def test_a_button_is_found_by_whatever_it_is_called(run: Program, web: Server) -> None:
    buttons = (
        "<a href='javascript:void 0' onclick='add(1)'><img src=0.png alt=First></a>"
        "<button onclick='add(2)'><svg width=9 height=9><title>Second</title></svg></button>"
        "<input type=image src=0.png alt=Third onclick='add(3); return false'><div id=d>Fourth</div>"
        "<span id=s hidden>Fifth</span><button aria-labelledby=s onclick='add(5)'>→</button>"
        "<ul><li role=tab onclick='add(6)'>Sixth</ul><p class=x><b>Seventh</b></p>"
        "<a href=p2.html>About the eighth</a><div tabindex=0><button onclick='add(8)'>Eighth</button></div>"
        "<button>Ninth</button>"
    )
    once = "g.querySelector(`[alt='Kite ${n}']`) ||"  # else it would be pressed as often as may be
    add = f"const add = (n) => {once} g.insertAdjacentHTML('beforeend', `<img src=${{n}}.png alt='Kite ${{n}}'>`);"
    listen = "d.addEventListener('click', () => add(4));"
    delegate = "document.addEventListener('click', (event) => event.target.closest('.x') && add(7))"
    (web.www / "p.html").write_text(f"<div id=g></div>{buttons}<script>{add}{listen}{delegate}</script>")
    for n in range(9):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (300, 200), (n * 20, 9, 9)))
    names = ("First", "second", "Third", "Fourth", "Fifth", "Sixth", "Seventh", "eighth", "Ninth", "Tenth")
    presses = (option for name in names for option in ("--press", name))
    done = run("look", f"{web.address}/p.html", "--browser", "--format", "jsonl", *presses)
    assert {row["alt"] for row in done.rows if "Kite" in (row["alt"] or "")} == {f"Kite {n}" for n in range(1, 9)}
    assert "--press 'Ninth': pressed, and nothing came of it" in done.err
    assert "--press 'Tenth': nothing to press" in done.err


def test_where_a_press_leads(run: Program, web: Server) -> None:
    ask = "<button id=b onclick=\"document.cookie = 'old=1'; location.reload()\">I am over 18</button>"
    show = "if (document.cookie) document.body.innerHTML = `<img src=${1}.png alt=Kite>`"
    (web.www / "gate.html").write_text(f"<body>{ask}<script>{show}</script>")
    (web.www / "p.html").write_text("<img src=1.png alt=Kite><a href=p2.html>Next</a>")
    (web.www / "1.png").write_bytes(picture("PNG", (300, 200)))
    line = ("look", "--browser", "--press", "over 18", "--press", "Next", "--format", "jsonl")
    done = run(*line, f"{web.address}/gate.html")
    assert [row["alt"] for row in done.rows] == ["Kite"]
    done = run(*line, f"{web.address}/p.html")
    assert f"--press 'Next' leads to {web.address}/p2.html: the page is not left" in done.err
    assert len(done.rows) == 1


def test_a_page_that_gives_itself_another_address(run: Program, web: Server) -> None:
    script = "onload = () => history.replaceState({}, '', '/kites/red/'); b.onclick = () => g.innerHTML = ''"
    (web.www / "p.html").write_text(f"<div id=g><img src=1.png alt=Kite></div><p id=b>Clear<script>{script}</script>")
    (web.www / "1.png").write_bytes(picture("PNG", (300, 200)))
    for options in ((), ("--press", "#b")):
        done = run("look", f"{web.address}/p.html", "--browser", "--format", "jsonl", *options)
        assert [(row["url"], row["alt"], row["width"]) for row in done.rows] == [(f"{web.address}/1.png", "Kite", 300)]


def test_a_form_around_the_whole_page_is_none_to_send(run: Program, web: Server) -> None:
    more = (
        "g.childElementCount > 8 || g.insertAdjacentHTML('beforeend', `<img src=${g.childElementCount}.png alt=Kite>`)"
    )
    page = "<p>Kites</p>" * 9 + "<div id=g><img src=0.png alt=Kite></div><a onclick='more()'>More</a>"
    button = "<input type=submit value=Next onclick='more(); return false'>"
    script = f"<script>const more = () => {more}</script>"
    (web.www / "p.html").write_text(f"<form method=post action=/>{page}{button}</form>{script}")
    for n in range(9):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (300, 200), (n * 20, 9, 9)))
    for label in ("More", "Next"):
        done = run("look", f"{web.address}/p.html", "--browser", "--press", label, "--format", "urls")
        assert len(done.out.splitlines()) > 5, done.err


def test_a_thumbnail_that_gives_way_to_its_original_is_none(run: Program, web: Server) -> None:
    show = "document.querySelectorAll('img').forEach((image) => {const full = new Image(); full.onload = () => image.src = full.src;"
    names = "full.src = image.src.replace(/s(?=[.])/, 'l')})"
    (web.www / "p.html").write_text(f"<img src=as.png alt=Red><img src=bs.png alt=Blue><script>{show}{names}</script>")
    for name, gradient in (("as", "radial"), ("al", "radial"), ("bs", "radial"), ("bl", "linear")):
        drawn = Image.radial_gradient("L") if gradient == "radial" else Image.linear_gradient("L")
        drawn.resize((120, 80) if name[1] == "s" else (300, 200)).save(web.www / f"{name}.png")
    rows = run("look", f"{web.address}/p.html", "--browser", "--as-shown", "--format", "jsonl").rows
    # The second was another picture, as one of several slides is: nothing is lost.
    assert [row["url"].rpartition("/")[2] for row in rows] == ["al.png", "bl.png", "bs.png"]


def test_what_scripts_are_answered_names_pictures_and_their_originals(run: Program, web: Server) -> None:
    kites = [{"title": f"Kite {n}", "thumb": f"/thumb-{n}.png", "image": f"/{n}.png"} for n in "abcd"]
    (web.www / "kites").write_text(json.dumps({"kites": kites}))
    (web.www / "news").write_text(json.dumps({"news": [{"title": "Gale", "image": "/never.png"}]}))
    draw = "g.innerHTML = all.kites.map((kite) => `<img src=${kite.thumb}>`).join('')"
    script = f"fetch('/news'); fetch('/kites').then((answer) => answer.json()).then((all) => {draw})"
    (web.www / "p.html").write_text(f"<div id=g></div><script>{script}</script>")
    for n, (name, side) in enumerate(
        ((f"{size}{kite}", side) for kite in "abcd" for size, side in (("thumb-", 60), ("", 300)))
    ):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (side, side), (n * 30, 9, 9)))
    rows = run("look", f"{web.address}/p.html", "--browser", "--format", "jsonl").rows
    found = [(row["shown_url"], row["url"], row["item"]) for row in rows]
    assert found == [(f"{web.address}/thumb-{n}.png", f"{web.address}/{n}.png", f"Kite {n}") for n in "abcd"]


def test_what_only_a_script_has_is_found(run: Program, web: Server) -> None:
    draw = "createImageBitmap(await (await fetch(`${'kite'.toUpperCase()}.png`)).blob()).then((bits) => pen.drawImage(bits, 0, 0))"
    script = f"const pen = c.getContext('2d'); (async () => {{{draw}}})()"
    (web.www / "p.html").write_text(f"<canvas id=c></canvas><script>{script}</script>")
    (web.www / "KITE.png").write_bytes(picture("PNG", (300, 200), "red"))
    done = run("look", f"{web.address}/p.html", "--browser", "--format", "urls")
    assert done.out == f"{web.address}/KITE.png\n"
    again = (
        "for (const n of [1, 2, 3]) await fetch(`${'kite'.toUpperCase()}.png?${n}`)"  # as one asks for what may change
    )
    (web.www / "p.html").write_text(f"<script>(async () => {{{again}}})()</script>")
    assert run("look", f"{web.address}/p.html", "--browser", "--format", "urls").out == f"{web.address}/KITE.png?1\n"


DRAWN = {
    "chart": "pen.fillStyle = 'red'; pen.fillRect(9, 9, 60, 60)",
    "copy": "pen.drawImage(kite, 0, 0, 200, 100)",
    "puzzle": "pen.drawImage(kite, 0, 0, 90, 90, 99, 0, 90, 90); pen.drawImage(kite, 90, 0, 90, 90, 0, 0, 90, 90)",
    "blank": "pen.fillRect(0, 0, 200, 100)",
    "foreign": "pen.drawImage(other, 0, 0, 90, 90, 0, 0, 90, 90)",
    "hidden": "pen.fillRect(9, 9, 60, 60)",
}
DEEP = "const gl = deep.getContext('webgl'); gl.enable(gl.SCISSOR_TEST); gl.scissor(9, 9, 50, 50); gl.clearColor(1, 0, 0, 1); gl.clear(gl.COLOR_BUFFER_BIT)"


def test_what_scripts_draw_is_a_picture(run: Program, web: Server) -> None:
    """Nothing that is blank or hidden is one, nor what shows a picture of another site: that is one by itself."""
    figures = (
        f"<figure><canvas id={name} width=200 height=100></canvas><figcaption>A {name}</figcaption></figure>"
        for name in (*DRAWN, "deep")
    )
    drawing = (
        f"{{ const pen = document.getElementById('{name}').getContext('2d'); {how} }}" for name, how in DRAWN.items()
    )
    elsewhere = web.address.replace("127.0.0.1", "localhost")
    (web.www / "p.html").write_text(
        f"<style>#hidden {{ display: none }}</style>{''.join(figures)}<script>const kite = new Image(), other = new Image();"
        f"kite.src = '{web.address}/kite.png'; other.src = '{elsewhere}/kite.png';"
        f"onload = async () => {{ await Promise.all([kite.decode(), other.decode()]); {''.join(drawing)} {DEEP} }}</script>"
    )
    (web.www / "kite.png").write_bytes(picture("PNG", (200, 100), "red"))
    rows = run("look", f"{web.address}/p.html", "--browser", "--format", "jsonl", "--found-in", "canvas").rows
    itself = "data:image/png;base64,"
    assert [(row["name"], row["url"][: len(itself)], row["width"], row["height"]) for row in rows] == [
        ("A chart", itself, 200, 100),
        ("kite", web.address, 200, 100),
        ("A puzzle", itself, 200, 100),
        ("A deep", itself, 200, 100),
    ]


def test_what_a_reader_draws_in_one_place_are_pictures_each(run: Program, web: Server) -> None:
    halves = "pen.drawImage(page, 0, 0, 90, 90, 110, 0, 90, 90); pen.drawImage(page, 110, 0, 90, 90, 0, 0, 90, 90)"
    for name, how in (("puzzle", halves), ("plain", "pen.drawImage(page, 0, 0)")):
        script = (
            f"const pen = c.getContext('2d'), page = new Image(); let at = 1; page.onload = () => {{ {how} }};"
            "const show = () => { page.src = `${at}.png` }; on.onclick = () => { if (at < 4) { at += 1; show() } }; show()"
        )
        (web.www / f"{name}.html").write_text(
            f"<canvas id=c width=200 height=100></canvas><button id=on>Next</button><script>{script}</script>"
        )
    for at in range(1, 5):
        (web.www / f"{at}.png").write_bytes(picture("PNG", (200, 100), (at * 50, 99, 9)))
    line = ("--browser", "--press", "Next", "--format", "jsonl", "--found-in", "canvas")
    rows = run("look", f"{web.address}/puzzle.html", *line).rows
    assert [(row["url"][:14], row["width"], row["height"]) for row in rows] == [("data:image/png", 200, 100)] * 4
    assert len({row["url"] for row in rows}) == 4
    plain = [row["url"] for row in run("look", f"{web.address}/plain.html", *line).rows]
    assert plain == [f"{web.address}/{at}.png" for at in range(1, 5)]


def test_a_page_is_shown_by_the_fragment_of_its_address(run: Program, web: Server) -> None:
    script = "document.body.innerHTML = location.hash == '#/red' ? '<img src=red.png>' : '<img src=no.png>'"
    (web.www / "p.html").write_text(f"<body><script>{script}</script>")
    (web.www / "red.png").write_bytes(picture("PNG", (300, 200), "red"))
    rows = run("look", f"{web.address}/p.html#/red", "--browser", "--as-shown", "--format", "jsonl").rows
    assert [row["url"].rpartition("/")[2] for row in rows if row["found_in"] == "img"] == ["red.png"]


ROUTED = """<body><script>
const card = (n) => `<div class=card><a href="#/kites/${n}"><img src=/t${n}.png></a><h3>Kite ${n}</h3></div>`;
const show = () => { const [, n] = /^#.kites.(.+)/.exec(location.hash) || [];
                     document.body.innerHTML = n ? `<h1>Kite ${n}</h1><img src=/f${n}.png>` : ["a", "b", "c"].map(card).join("") };
onhashchange = show; show()</script>"""


def test_the_pages_of_items_that_a_script_shows_by_the_fragment(run: Program, web: Server) -> None:
    (web.www / "p.html").write_text(ROUTED)
    for name in ("ta", "tb", "tc", "fa", "fb", "fc"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (300, 200), (len(name), 9, ord(name[1]))))
    line = ("look", f"{web.address}/p.html", "--browser", "--as-shown", "--format", "jsonl", "--items")
    found = [(row["item"], row["item_url"], row["url"]) for row in run(*line, "2").rows]
    pages = {n: f"{web.address}/p.html#/kites/{n}" for n in "abc"}
    assert found == [("Kite c", pages["c"], f"{web.address}/tc.png")] + [
        (f"Kite {n}", pages[n], f"{web.address}/f{n}.png") for n in "ab"
    ]


def test_no_browser_at_all(run: Program, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("shutil.which", lambda _: None)
    done = run("look", "http://127.0.0.1/", "--browser")
    assert done.code == 2
    assert "no Chromium, Chrome or Edge found\n  → install one (Debian, Ubuntu: apt install chromium" in done.err
    for name in ("answers", "door", "functions", "pending", "quiet", "running", "steps", "visit"):
        monkeypatch.delitem(sys.modules, f"pickcrate.browser.{name}", raising=False)
    monkeypatch.setitem(sys.modules, "playwright.sync_api", None)
    done = run("look", "http://127.0.0.1/", "--browser")
    assert (done.code, "pip install 'pickcrate[browser]'" in done.err) == (2, True)


def test_through_a_proxy(run: Program, museum: str, guard: Guard) -> None:
    guard.allow_private(allowed=True)
    proxy = f"socks5://127.0.0.1:{guard.port}"
    done = run("look", f"{museum}/wall.html", "--browser", "--scroll", "0", "--proxy", proxy, "--format", "urls")
    assert len(done.out.split()) == 6, done.err
    done = run("look", f"{museum}/wall.html", "--browser", "--proxy", "socks5://127.0.0.1:1", "--fresh")
    assert (done.code, "the proxy cannot be reached" in done.err) == (3, True)


@pytest.fixture
def short_path() -> Iterator[Path]:
    """A temporary folder: the name of a browser's socket in it has to be shorter than 108 bytes."""
    with tempfile.TemporaryDirectory() as folder:
        yield Path(folder)


def test_killed_it_leaves_nothing_behind(museum: str, short_path: Path) -> None:
    line = [sys.executable, "-c", HEEDING, "look", f"{museum}/wall.html", "--browser", "--wait", "30"]
    environment = {**os.environ, "TMPDIR": str(short_path), "XDG_CACHE_HOME": str(short_path / "cache")}
    for stop in (signal.SIGKILL, signal.SIGINT):
        running = subprocess.Popen(line, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
        wait_until(lambda: any(short_path.glob("playwright_*/*")))
        time.sleep(1.5)
        running.send_signal(stop)
        _, said = running.communicate(timeout=HANGS)
        assert "Traceback" not in said
        wait_until(lambda: not any(short_path.glob("playwright_*")))
        assert not any(short_path.glob("p*")), list(short_path.glob("p*"))
    assert running.returncode == 130, said


NEVER_ENDS = """
import asyncio, sys
from pickcrate.browser import running
from pickcrate.cli.app import app
start = running.sync_playwright

class Starting:
    def start(self):
        playwright = start().start()
        playwright.stop = self.stop
        self.loop = asyncio.get_running_loop()
        return playwright

    def stop(self):
        raise TimeoutError

first = Starting()
running.sync_playwright = lambda: first
for _ in range(2):
    try:
        app(["look", sys.argv[1], "--browser", "--fresh", "--scroll", "0", "--format", "urls"])
    except SystemExit:
        asyncio._set_running_loop(first.loop)  # as a listener does that is left over
"""


def test_a_browser_that_does_not_end_keeps_no_other_from_starting(museum: str, tmp_path: Path) -> None:
    line = [sys.executable, "-c", NEVER_ENDS, f"{museum}/wall.html"]
    environment = {**os.environ, "XDG_CACHE_HOME": str(tmp_path)}
    done = subprocess.run(line, env=environment, capture_output=True, text=True, check=False, timeout=HANGS)
    assert len(done.stdout.split()) == 2 * 6, done.stderr


def test_a_browser_that_is_gone_is_started_anew() -> None:
    running = Running(Browsing(wanted=True), Manners())
    with opened(running) as page:
        assert page.context.browser is not None
        page.context.browser.close()
        assert running.new_page().evaluate("1 + 1") == 2


def test_where_no_other_browser_starts_the_next_page_fails(
    run: Program, museum: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("pickcrate.browser.visit.Visit.close", lambda _: False)  # as if that took too long
    programs = iter([shutil.which("chromium"), "/nosuch/browser"])
    monkeypatch.setattr("pickcrate.browser.running.browser_program", lambda _: next(programs))
    done = run("look", f"{museum}/wall.html", f"{museum}/storm.html", "--browser", "--scroll", "0", "--format", "urls")
    assert (done.code, len(done.out.split())) == (1, 6), done.err
    assert "storm.html: the browser is gone, and the browser does not start" in done.err


def test_a_program_that_never_answers_is_no_browser(
    run: Program, museum: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "hangs").write_text("#!/bin/sh\nexec sleep 1000\n")
    (tmp_path / "hangs").chmod(0o755)
    monkeypatch.setattr("pickcrate.browser.running._LONGEST_START", 1.0)
    done = run("look", f"{museum}/wall.html", "--browser", "--browser-path", "./hangs")
    assert (done.code, "the browser does not start: no answer in 1 seconds" in done.err) == (1, True), done.err


def test_a_temporary_folder_with_a_long_path(
    run: Program, museum: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    far = tmp_path / ("far-away-" * 9)
    far.mkdir()
    monkeypatch.setenv("TMPDIR", str(far))
    done = run("look", f"{museum}/wall.html", "--browser")
    assert "the path of the temporary folder is too long" in done.err
    assert "set TMPDIR to a folder with a shorter path" in done.err


def test_what_never_ends_is_given_up_in_the_thread_that_ctrl_c_interrupts() -> None:
    def wait_though_told() -> None:
        with contextlib.suppress(TimeoutError):  # as a listener of the browser does
            threading.Event().wait(30)
        threading.Event().wait(30)

    with pytest.raises(TimeoutError), for_no_longer_than(0.05):
        wait_though_told()
    with for_no_longer_than(0.05):
        assert signal.getitimer(signal.ITIMER_REAL)[0] > 0
    assert signal.getitimer(signal.ITIMER_REAL)[0] == 0
    elsewhere: list[float] = []

    def close() -> None:
        with for_no_longer_than(0.05):
            elsewhere.append(signal.getitimer(signal.ITIMER_REAL)[0])

    other = threading.Thread(target=close)
    other.start()
    other.join()
    assert elsewhere == [0]


def test_what_answers_too_late_is_not_told() -> None:
    late = "import logging, pickcrate.browser.running; logging.getLogger('playwright._impl').error('who asked?')"
    done = subprocess.run([sys.executable, "-c", late], capture_output=True, text=True, check=True)
    assert (done.stdout, done.stderr) == ("", "")


def test_cookies_on_their_way(tmp_path: Path) -> None:
    lines = [".galewick.example\tTRUE\t/\tTRUE\t1900000000\tkite\tdelta", "host.example\tFALSE\t/a\tFALSE\t0\tb\tc"]
    (tmp_path / "c").write_text(
        "# Netscape\n\n" + "\n".join(lines) + "\n#HttpOnly_h.example\tFALSE\t/\tFALSE\t0\tx\ty\nbroken\n"
    )
    cookies = from_file(str(tmp_path / "c"))
    assert [cookie["httpOnly"] for cookie in cookies] == [False, False, True]
    assert as_lines(cookies)[:2] == lines
    assert as_lines([{"name": "a\tb", "value": "c", "domain": "h"}]) == []


@pytest.mark.parametrize(("words", "cause"), [
    ("Page.goto: net::ERR_NAME_NOT_RESOLVED at http://x/", "host"), ("net::ERR_CERT_AUTHORITY_INVALID", "certificate"),
    ("Page.goto: Timeout 30000ms exceeded.", "timeout"), ("Target page, context or browser has been closed", "crash"),
    ("Page.goto: net::ERR_UNSAFE_PORT", "browser"),
])  # fmt: skip
def test_what_a_browser_says(words: str, cause: str) -> None:
    assert failure_of(words).cause == cause


@pytest.mark.parametrize("name", ["wall.har", "wall.mhtml", "wall.warc.gz"])
def test_kept_for_later(run: Program, museum: str, name: str) -> None:
    done = run("save", f"{museum}/wall.html", "--press", "More prints", "--out", name)
    assert (done.code, "17 pictures of them" in done.out, f"pickcrate look {name}" in done.out) == (0, True, True)
    rows = run("look", name, "--furniture", "drop", "--as-shown", "--format", "jsonl").rows
    assert {"Red Delta", "Night Crow"} <= {row["item"] for row in rows}
    assert {row["alt"] for row in rows if row["alt"]} == {"A sled, printed", "Another print"}


def test_what_cannot_be_kept(run: Program, museum: str, tmp_path: Path) -> None:
    done = run("save", f"{museum}/nosuch.html", "--out", "x.har")
    assert (done.code, "404" in done.err, list(tmp_path.glob("*.har"))) == (3, True, [])
    assert run("save", f"{museum}/wall.html", "--out", "x.zip").code == 2
    assert run("save", "wall.html", "--out", "x.har").code == 3


OVERLAYS = [
    ("<div style='position:fixed' id=cookie-bar>We use them. <button>Yes</button></div>", 1),
    ("<aside style='position:sticky'>May we keep cookies? <button>Yes</button></aside>", 1),
    ("<dialog open aria-label=Consent>May we?</dialog>", 1),
    (
        "<div style='position:fixed; overflow:auto'><main>Kites</main><footer>Cookie policy</footer><button>x</button></div>",
        0,
    ),
    ("<nav style='position:sticky'><a href=/privacy>Privacy</a> <button>Menu</button></nav>", 0),
    ("<div style='position:fixed'><img><img><img><img> Privacy <button>x</button></div>", 0),
    ("<div id=cookie-jar>The museum's jar of cookies <button>x</button></div>", 0),
]


def test_overlays_that_ask_for_consent_are_hidden_and_no_others() -> None:
    with opened(Running(Browsing(wanted=True), Manners())) as page:
        for markup, hidden in OVERLAYS:
            page.set_content(markup)
            assert page.evaluate(PAGE, ["hideOverlays", None]) == {"value": hidden}, markup
