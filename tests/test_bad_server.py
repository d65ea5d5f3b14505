"""A server that lies, stalls, loops and floods: each picture ends as it should, and the rest goes on."""

import gzip
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import ClassVar

import pytest

from conftest import HANGS, Answering, Program, picture, serving

KITE = picture("PNG", (60, 40))
LARGE, OTHER = picture("BMP", (900, 600)), picture("BMP", (900, 600), "blue")
GREEN, WHITE = picture("BMP", (900, 600), "green"), picture("BMP", (900, 600), "white")
AMBER, PLAIN = picture("BMP", (60, 40), "orange"), picture("BMP", (60, 40), "grey")
VIEW, SKY, STRAW = (picture("BMP", (60, 40), colour) for colour in ("teal", "skyblue", "khaki"))
"""those of 900 x 600 have 1.6 MB: more than is kept in memory"""
BOMB = gzip.compress(KITE + bytes(64_000_000), 9)


class Bad(Answering):
    """Each path is a way to behave badly."""

    asked: ClassVar[Counter[str]] = Counter()
    stops: ClassVar[bool] = False

    def do_GET(self) -> None:
        self.close_connection = True
        self.asked[self.path] += 1
        name = self.path.strip("/").partition(".")[0].replace("-", "_")
        with suppress(OSError):  # the client had enough
            getattr(self, name, self.page)(self.asked[self.path])

    def page(self, _: int) -> None:
        body = "".join(f"<img src={name}>" for name in self.path.partition("?")[2].split(",")).encode()
        self.head(200 if "page" in self.path else 404, {"Content-Type": "text/html"}, len(body))
        self.wfile.write(body)

    def head(self, status: int, fields: dict[str, str], length: int | None) -> None:
        self.send_response(status)
        for name, value in fields.items():
            self.send_header(name, value)
        if length is not None:
            self.send_header("Content-Length", str(length))
        self.end_headers()

    def stall(self, _: int) -> None:
        self.head(200, {"Content-Type": "image/png"}, len(KITE))
        self.wfile.write(KITE[:20])
        self.wait(HANGS)

    def silent(self, _: int) -> None:
        self.wait(HANGS)

    def trickle(self, _: int) -> None:
        self.head(200, {"Content-Type": "image/png"}, len(KITE))
        for octet in KITE:
            self.wfile.write(bytes((octet,)))
            self.wait(1)

    def loop(self, _: int) -> None:
        self.head(302, {"Location": "/loop.png"}, 0)

    def astray(self, _: int) -> None:
        self.head(302, {"Location": "file:///etc/passwd"}, 0)

    def too_long(self, _: int) -> None:
        """Announce more than there is."""
        self.head(200, {"Content-Type": "image/png"}, len(KITE) + 50)
        self.wfile.write(KITE)

    def too_short(self, _: int) -> None:
        self.head(200, {"Content-Type": "image/png"}, len(KITE) - 20)
        self.wfile.write(KITE)

    def misnamed(self, _: int) -> None:
        self.head(200, {"Content-Type": "text/html"}, len(KITE))
        self.wfile.write(KITE)

    def web_page(self, _: int) -> None:
        body = b"<!DOCTYPE html><title>Please sign in</title>"
        self.head(200, {"Content-Type": "image/jpeg"}, len(body))
        self.wfile.write(body)

    def bomb(self, _: int) -> None:
        self.head(200, {"Content-Type": "image/png", "Content-Encoding": "gzip"}, len(BOMB))
        self.wfile.write(BOMB)

    def endless(self, _: int) -> None:
        self.head(200, {"Content-Type": "image/png"}, None)
        self.wfile.write(KITE[:-12])
        while not self.stops:
            self.wfile.write(bytes(100_000))

    def headers_without_end(self, _: int) -> None:
        self.send_response(200)
        while not self.stops:
            self.wfile.write(b"X-More: " + b"x" * 4000 + b"\r\n")

    def no_ranges(self, times: int) -> None:
        """Cut the first answer; take no notice of the range that the second try asks for."""
        self.head(200, {"Content-Type": "image/bmp", "ETag": '"1"'}, len(LARGE))
        self.wfile.write(LARGE[: 1_200_000 if times == 1 else len(LARGE)])

    def wrong_range(self, times: int) -> None:
        """Cut the first answer; answer what asks for the rest with the wrong part, what asks for all with all."""
        if "Range" in self.headers:
            self.part(OTHER, 10, len(OTHER))
        else:
            self.head(200, {"Content-Type": "image/bmp", "ETag": '"1"'}, len(OTHER))
            self.wfile.write(OTHER[: 1_200_000 if times == 1 else len(OTHER)])

    def unasked_part(self, times: int) -> None:
        """Answer the first request, which asks for all, with a part."""
        self.part(AMBER, 10 if times == 1 else 0, len(AMBER))

    def short_part(self, times: int) -> None:
        """Cut the first answer; answer what asks for the rest with less than the rest, as a server may."""
        if times == 1:
            self.head(200, {"Content-Type": "image/bmp", "ETag": '"1"'}, len(GREEN))
            self.wfile.write(GREEN[:1_200_000])
        else:
            start = int(self.headers["Range"].removeprefix("bytes=").removesuffix("-"))
            self.part(GREEN, start, min(start + 300_000, len(GREEN)))

    def empty_rest(self, times: int) -> None:
        """Cut the first answer; answer what asks for the rest with nothing at all."""
        self.head(200, {"Content-Type": "image/bmp", "ETag": '"1"'}, 0 if times == 2 else len(WHITE))
        self.wfile.write(WHITE[: (1_200_000, 0, len(WHITE))[times - 1]])

    def not_packed(self, _: int) -> None:
        """Say gzip of what is plain."""
        self.head(200, {"Content-Type": "image/png", "Content-Encoding": "gzip"}, len(STRAW))
        self.wfile.write(STRAW)

    def no_coding(self, _: int) -> None:
        """Say the encoding of a text where a compression belongs."""
        self.head(200, {"Content-Type": "image/png", "Content-Encoding": "UTF-8"}, len(PLAIN))
        self.wfile.write(PLAIN)

    def badly_packed(self, _: int) -> None:
        octets = gzip.compress(KITE)
        self.head(200, {"Content-Type": "image/png", "Content-Encoding": "gzip"}, len(octets))
        self.wfile.write(octets[:30] + bytes(len(octets) - 30))

    def camera(self, _: int) -> None:
        """Send one picture after another for as long as somebody looks."""
        self.head(200, {"Content-Type": "multipart/x-mixed-replace; boundary=--next"}, None)
        while not self.stops:
            self.wfile.write(b"--next\r\nContent-Type: image/bmp\r\n\r\n" + VIEW + b"\r\n")

    def camera_that_counts(self, _: int) -> None:
        self.head(200, {"Content-Type": 'multipart/x-mixed-replace; boundary="next"'}, None)
        while not self.stops:
            self.wfile.write(b"--next\r\nContent-Length: %d\r\n\r\n" % len(SKY) + SKY + b"\r\n")

    def camera_that_stops(self, _: int) -> None:
        self.head(200, {"Content-Type": "multipart/x-mixed-replace; boundary=next"}, None)
        self.wfile.write(b"--next\r\nContent-Type: image/bmp\r\n\r\n" + KITE[:50])

    def camera_without_end(self, _: int) -> None:
        """Send one picture that never ends."""
        self.head(200, {"Content-Type": "multipart/x-mixed-replace; boundary=next"}, None)
        self.wfile.write(b"--next\r\n\r\n" + KITE[:-12])
        while not self.stops:
            self.wfile.write(bytes(100_000))

    def hall(self, _: int) -> None:
        """Announce more of a page than there is."""
        body = b"<!doctype html><title>Hall</title><img src=/misnamed.jpg>"
        self.head(200, {"Content-Type": "text/html"}, len(body) + 9)
        self.wfile.write(body)

    def list(self, _: int) -> None:
        body = b"http://127.0.0.1/a.png\nhttp://127.0.0.1/b.png\n"
        self.head(200, {"Content-Type": "text/plain"}, len(body) + 9)
        self.wfile.write(body)

    def private(self, _: int) -> None:
        self.head(401, {"Content-Type": "text/html"}, 0)

    def sign_in(self, _: int) -> None:
        body = b"<!doctype html><title>Galewick</title><form><input type=Password></form>"
        self.head(200, {"Content-Type": "text/html"}, len(body))
        self.wfile.write(body)

    def gate(self, _: int) -> None:
        body = b"<!doctype html><title>Galewick</title><p>Are you of age?<form method=post><button name=a>Yes, go in</button></form>"
        self.head(200, {"Content-Type": "text/html"}, len(body))
        self.wfile.write(body)

    def part(self, octets: bytes, start: int, end: int) -> None:
        fields = {"Content-Type": "image/bmp", "ETag": '"1"', "Content-Range": f"bytes {start}-{end - 1}/{len(octets)}"}
        self.head(206, fields, end - start)
        self.wfile.write(octets[start:end])

    def wait(self, seconds: float) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until and not self.stops:
            time.sleep(0.02)


@pytest.fixture
def bad() -> Iterator[str]:
    Bad.asked, Bad.stops = Counter(), False
    with serving(Bad) as port:
        yield f"http://127.0.0.1:{port}"
        Bad.stops = True


ENDS = {
    "stall.png": "timed out: nothing came for too long, or next to nothing",
    "silent.png": "timed out: nothing came for too long, or next to nothing",
    "trickle.png": "timed out: nothing came for too long, or next to nothing",
    "loop.png": "redirected in a loop",
    "astray.png": "redirected to what is no web address",
    "too-long.png": "the connection was cut before the end",
    "web-page.jpg": "a web page came instead of an image",
    "bomb.png": "larger than --max-file",
    "endless.png": "larger than --max-file",
    "missing.png": "the server answered 404 Not Found",
    "badly-packed.png": "the answer's compression is broken",
    "camera-that-stops.png": "the connection was cut before the end",
}
COME = {
    "misnamed.jpg": ("misnamed.png", KITE),
    "too-short.png": ("too-short.png", KITE[:-20]),
    "no-ranges.bmp": ("no-ranges.bmp", LARGE),
    "wrong-range.bmp": ("wrong-range.bmp", OTHER),
    "unasked-part.bmp": ("unasked-part.bmp", AMBER),
    "short-part.bmp": ("short-part.bmp", GREEN),
    "empty-rest.bmp": ("empty-rest.bmp", WHITE),
    "not-packed.bmp": ("not-packed.bmp", STRAW),
    "no-coding.bmp": ("no-coding.bmp", PLAIN),
    "camera.cgi": ("camera.bmp", VIEW),
    "camera-that-counts.cgi": ("camera-that-counts.bmp", SKY),
}


def test_each_ends_as_it_should(run: Program, bad: str) -> None:
    page = f"{bad}/page?{','.join([*ENDS, 'headers-without-end.png', *COME])}"
    conduct = (
        "--no-robots",
        "--timeout",
        "2",
        "--retries",
        "3",
        "--max-file",
        "8MB",
        "--at-once",
        "20",
        "--per-site",
        "20",
    )
    begun = time.monotonic()
    done = run("pack", page, "--crate", "c", "--as-shown", *conduct, "--format", "jsonl")
    assert time.monotonic() - begun < HANGS
    rows = {row["shown_url"].rpartition("/")[2]: row for row in done.rows}
    assert {name: rows[name]["error"] for name in ENDS} == ENDS
    assert rows["headers-without-end.png"]["outcome"] == "failed"
    assert {name: rows[name]["file"] for name in COME} == {name: file for name, (file, _) in COME.items()}
    assert all(Path("crates/c", file).read_bytes() == octets for file, octets in COME.values())
    assert done.code == 1
    assert {path.name for path in Path("crates/c").iterdir()} == {
        ".pickcrate",
        "crate.csv",
        "failed.csv",
        *(f for f, _ in COME.values()),
    }
    assert not list(Path("crates/c/.pickcrate/incoming").iterdir())
    assert [name for name, row in rows.items() if row["unended"]] == ["too-short.png"]
    assert Bad.asked["/missing.png"] == Bad.asked["/bomb.png"] == Bad.asked["/too-short.png"] == 1
    assert Bad.asked["/stall.png"] == 4
    assert Bad.asked["/badly-packed.png"] == 2


def test_a_page_that_was_cut_short_shows_what_came(run: Program, bad: str) -> None:
    done = run("look", f"{bad}/hall", "--no-robots", "--retries", "0", "--format", "jsonl")
    assert [row["shown_url"] for row in done.rows] == [f"{bad}/misnamed.jpg"]
    assert "cut before the end: its pictures are those of the part that came" in done.err
    listed = run("look", f"{bad}/list", "--no-robots", "--retries", "0")  # what it lists is nobody's guess
    assert (listed.code, "the connection was cut before the end" in listed.err) == (3, True)


def test_what_to_do_next_is_said(run: Program, bad: str) -> None:
    done = run("pack", f"{bad}/page?private.png,web-page.jpg,bomb.png", "--no-robots", "--max-file", "8MB")
    assert "signed-in visitors only: --browser --profile NAME --show-browser signs in" in done.out
    assert "--max-file SIZE takes larger ones" in done.out
    for command in (("look",), ("pack",), ("sheet",), ("pack", "--dry-run")):
        done = run(*command, f"{bad}/sign-in", "--no-robots")
        assert (done.code, "--profile NAME --show-browser signs in" in done.err) == (4, True), done
    assert "a button says “Yes, go in”: --browser --press 'Yes, go in' presses it" in run("look", f"{bad}/gate").out


def test_a_camera_whose_picture_never_ends_fills_no_memory(run: Program, bad: str) -> None:
    done = run("pack", f"{bad}/page?camera-without-end.png", "--no-robots", "--as-shown", "--crate", "c")
    assert "larger than 16 MB, the most that is read of a part" in done.out
