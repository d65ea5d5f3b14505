"""The built program, run as a user runs it: against nginx, against files, and against what goes wrong."""

import csv
import json
import os
import re
import signal
import socket
import sqlite3
import ssl
import subprocess
import sys
import tarfile
import threading
import time
from contextlib import suppress
from io import BytesIO
from pathlib import Path

import pytest

from conftest import HANGS, HEEDING, Program, Server, picture, wait_until


def files(crate: Path) -> dict[str, bytes]:
    lists = {"crate.csv", "failed.csv"}
    return {path.name: path.read_bytes() for path in crate.iterdir() if path.is_file() and path.name not in lists}


def listed(crate: Path) -> list[dict[str, str]]:
    with (crate / "crate.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


@pytest.fixture
def hall(web: Server) -> Server:
    """A page with what pages have: thumbnails, doubles, wrong extensions, pages in place of pictures."""
    www = web.www
    (www / "a.png").write_bytes(picture("PNG", (30, 20), "red"))
    (www / "b.png").write_bytes(picture("JPEG", (40, 40), "blue"))  # its name lies
    (www / "small.jpg").write_bytes(picture("JPEG", (10, 10), "green"))
    (www / "sub").mkdir()
    (www / "sub" / "A.png").write_bytes(picture("PNG", (31, 20), "teal"))
    (www / "copy.png").write_bytes((www / "a.png").read_bytes())
    (www / "login.html").write_text("<!doctype html><title>Sign in</title>")
    (www / "login").mkdir()
    (www / "cut.png").write_bytes(picture("PNG", (200, 200))[:45])
    (www / "empty.png").write_bytes(b"")
    (www / "hall.html").write_text(
        """<meta charset=utf-8><title>The hall</title><img src=a.png alt="=cmd|' /C calc'!A0"><img src=/b.png>
        <a href=gone/big.jpg><img src=small.jpg alt=""></a><img src=sub/A.png alt="Teal \x1b[31m"><img src=copy.png>
        <img src=login/members.jpg><img src=nothing.png><img src=cut.png><img src=empty.png>
        <img src=moved/a.png?again=1><a href=a.png>the first once more</a>"""
    )
    return web


def test_pack_and_pack_again(built: Program, hall: Server, tmp_path: Path) -> None:
    line = ("pack", f"{hall.address}/hall.html", "--crate", "kites")
    first = built(*line)
    crate = tmp_path / "crates" / "kites"
    held = files(crate)
    assert sorted(held) == ["A 2.png", "a.png", "b.jpg", "small.jpg"]
    assert held["small.jpg"] == (hall.www / "small.jpg").read_bytes()  # the larger version was gone: the shown one
    assert held["A 2.png"] == (hall.www / "sub" / "A.png").read_bytes()  # a name that differs in case only
    assert first.code == 1
    for words in (
        "login/members.jpg  a web page came instead of an image",
        "nothing.png  the server answered 404 Not Found",
        "cut.png  cut short: this PNG has no end",
        "empty.png  an empty answer",
        "6 pictures fetched",
        "2 with the bytes of another",
        "4 failed",
        "1 × cut short: this PNG has no end",
        "crate: crates/kites",
    ):
        assert words in first.out
    assert "\x1b" not in first.out

    rows = listed(crate)
    assert [row["file"] for row in rows] == ["a.png", "b.jpg", "small.jpg", "A 2.png", "a.png", "a.png"]
    assert rows[0]["alt"] == "'=cmd|' /C calc'!A0"  # no spreadsheet runs it
    assert rows[1]["type"] == "jpeg"
    assert (rows[1]["width"], rows[1]["height"], rows[1]["bytes"]) == ("40", "40", str(len(held["b.jpg"])))
    assert rows[2]["url"].endswith("/small.jpg")
    assert rows[2]["evidence"] == "as shown"
    assert (crate / "a.png").stat().st_mtime == int((hall.www / "a.png").stat().st_mtime)

    hall.requests()
    again = built(*line)
    asked = hall.requests()
    assert not {"/a.png", "/b.png", "/small.jpg", "/sub/A.png", "/copy.png"} & set(asked)
    assert "6 there already · 4 failed" in again.out
    assert files(crate) == held
    assert asked.count("/robots.txt") <= 1


def test_what_the_user_moved_or_put_there_stays(run: Program, hall: Server, tmp_path: Path) -> None:
    crate = tmp_path / "crates" / "k"
    crate.mkdir(parents=True)
    (crate / "a.png").write_bytes(b"mine")
    line = ("pack", f"{hall.address}/hall.html", "--crate", "k")
    run(*line)
    assert (crate / "a.png").read_bytes() == b"mine"
    assert (crate / "a 2.png").read_bytes() == (hall.www / "a.png").read_bytes()
    (crate / "b.jpg").unlink()
    again = run(*line)
    assert "b.jpg  moved or deleted since; left as you left it" in again.out
    assert not (crate / "b.jpg").exists()


def test_what_was_hardly_meant_is_said(run: Program, hall: Server) -> None:
    hall_page = f"{hall.address}/hall.html"
    done = run(
        "look", f"{hall_page}\n{hall_page}", "--width", "30..", "--width=31..", "--next-pages", "all", "--all", "--all"
    )
    assert done.out.count("/hall.html") == 2  # two lines in quotes are two sources
    assert "--width is given 2 times: only the last counts" in done.err
    assert "--all is given" not in done.err
    assert "--next-pages '201' is no number up to 200, nor all" in run("look", hall_page, "--next-pages", "201").err


def test_names_of_a_pattern(run: Program, hall: Server, tmp_path: Path) -> None:
    done = run(
        "pack",
        f"{hall.address}/hall.html",
        "--crate",
        "n",
        "--name",
        "{n:02} {alt} {width}",
        "--name",
        "{n:02}",
        "--quiet",
    )
    assert done.out == ""
    names = sorted(files(tmp_path / "crates" / "n"))
    assert names == ["01 =cmd-' - C calc'!A0 30.png", "02.jpg", "03.jpg", "04 Teal [31m 31.png"]


def test_lists_and_data(built: Program, hall: Server, tmp_path: Path) -> None:
    page = f"{hall.address}/hall.html"
    rows = built("look", page, "--format", "jsonl").rows
    assert [row["number"] for row in rows] == list(range(1, 11))
    third = rows[2]
    assert third["url"] == third["shown_url"] == f"{hall.address}/small.jpg"  # what it links to is gone
    assert third["evidence"] == "as shown"
    assert [(c["url"][-11:], c["outcome"]) for c in third["candidates"]] == [
        ("one/big.jpg", "the server answered 410 Gone")
    ]
    assert built("look", page, "--as-shown", "--format", "urls").out.splitlines()[2].endswith("/small.jpg")
    saved = built("look", page, "--format", "csv", "--save", "x.jsonl")
    assert len((tmp_path / "x.jsonl").read_text().splitlines()) == 10
    assert next(csv.DictReader(saved.out.splitlines()))["name"] == "a"
    assert built("look", page, "--save", "x.txt").code == 0
    packed = built("pack", "x.txt", "--crate", "from list", "--format", "jsonl")
    assert [row["outcome"] for row in packed.rows].count("fetched") == 6
    assert all(row["sha256"] for row in packed.rows if row["outcome"] == "fetched")
    assert "crate: crates/from list" in packed.err


def test_a_list_streams_and_says_what_is_no_address(run: Program, hall: Server, tmp_path: Path) -> None:
    (tmp_path / "list.txt").write_text(f"# kites\n{hall.address}/a.png\n\nnot an address\n{hall.address}/a.png\n")
    done = run("pack", "list.txt", "--crate", "l")
    assert done.code == 1
    assert "line 4 is not a web address" in done.out
    assert "1 picture fetched" in done.out
    assert [path for path in hall.requests() if path == "/a.png"] == ["/a.png"]


def test_look_and_dry_run_and_pack_say_one_name(run: Program, tmp_path: Path) -> None:
    for page, shown in {"one": "red", "two": "blue"}.items():
        paths = [f"{n}/{name}.png" for n, name in enumerate(("Kite", "kite", "Kite 2", "kite", "Kite 3"))]
        for n, path in enumerate(paths):
            (tmp_path / page / path).parent.mkdir(parents=True)
            (tmp_path / page / path).write_bytes(picture("PNG", (30 + n, 20), shown))
        (tmp_path / page / "page.html").write_text("".join(f'<img src="{path}">' for path in paths))
    (tmp_path / "list.txt").write_text("https://kites.example/1.png\nhttps://kites.example/kite.png\n")
    line = ("one/page.html", "two/page.html")
    rows = [json.loads(row) for row in run("look", *line, "--format", "jsonl").out.splitlines()]
    names = [row["name"] for row in rows]
    assert len(set(map(str.lower, names))) == len(names) == 10
    planned = [json.loads(row) for row in run("pack", *line, "--dry-run", "--format", "jsonl").out.splitlines()]
    assert (
        [Path(row["file"]).name for row in planned] == [row["name"] for row in planned] == [f"{n}.png" for n in names]
    )
    assert [row["width"] for row in rows] == [*range(30, 35)] * 2  # what lies beside a page is measured
    packed = [json.loads(row) for row in run("pack", *line, "--format", "jsonl").out.splitlines()]
    assert {row["number"]: row["file"] for row in packed} == {row["number"]: f"{row['name']}.png" for row in rows}
    twice = [json.loads(row) for row in run("look", "list.txt", "list.txt", "--format", "jsonl").out.splitlines()]
    assert [row["name"] for row in twice] == ["1", "kite", "1", "kite"]  # one address is one picture


def test_robots_are_heeded(run: Program, hall: Server) -> None:
    (hall.www / "robots.txt").write_bytes(b"\xef\xbb\xbfUser-agent: *\nDisallow: /sub/\n")
    page = f"{hall.address}/hall.html"
    hall.requests()
    assert "sub/A.png  the site's robots.txt asks not to" in run("pack", page, "--crate", "r").out
    assert hall.requests().count("/robots.txt") == 1
    assert "fetched  A" in run("pack", page, "--crate", "r", "--no-robots").out


def test_saved_page_reads_only_its_own_folder(built: Program, tmp_path: Path) -> None:
    (tmp_path / "secret.png").write_bytes(picture())
    saved = tmp_path / "saved"
    (saved / "page_files").mkdir(parents=True)
    (saved / "page_files" / "ü 1.png").write_bytes(picture(colour="blue"))
    (saved / "page_files" / "out.png").symlink_to(tmp_path / "secret.png")
    (saved / "page.html").write_text(
        "<img src='page_files/%C3%BC 1.png'><img src=../secret.png><img src=page_files/out.png>"
        "<img src='file:///etc/passwd'><img src=page_files>"
    )
    done = built("pack", "saved/page.html", "--crate", "s")
    assert sorted(files(tmp_path / "crates" / "s")) == ["ü 1.png"]
    assert done.out.count("outside the folder of the saved page") >= 3
    folder = built("look", "saved", "--base", "https://galewick.example/", "--format", "urls")
    assert folder.out.splitlines()[0] == "https://galewick.example/page_files/%C3%BC%201.png"


BAD = [
    (("look", "none.html"), 3, "none.html: no such file", "give the address"),
    (("look", "galewick.example/hall"), 3, "no such file", "https://galewick.example/hall"),
    (("look", "empty"), 3, "empty: a folder with no page and no picture in it", ".html"),
    (("look", "crate"), 3, "crate is a crate, and no page", "its list is crate/crate.csv"),
    (("look", "k" * 300), 3, "cannot be read: file name too long", ""),
    (("look", "nil.html"), 3, "nil.html is empty", ""),
    (("look", "paper.html"), 3, "paper.html is a PDF that is damaged, or cut off", ""),
    (("look", "words.txt"), 3, "words.txt is plain text without any markup, not a page", ""),
    (("look", "http://no-such-host.invalid/"), 3, "unknown host", "check the address"),
    (("look", "http://127.0.0.1:1/"), 3, "no connection", "port"),
    (("look", "http://[/"), 3, "not a well-formed address", ""),
    (("look", "WEB/loop/"), 3, "redirected in a loop", "--browser visits it as you"),
    (("look", "WEB/nothing.html"), 3, "the server answered 404 Not Found", "typing errors"),
    (("look", "bare.html"), 4, "no pictures found", ""),
    (("pack", "bare.html"), 4, "no pictures found", ""),
    (("pack", "page.html", "--crate", "../out"), 2, "--crate '../out' leads out", "--into"),
    (("pack", "page.html", "--crate", "/tmp/out"), 2, "leads out", "--into"),
    (("pack", "page.html", "--crate", "C:\\out"), 2, "leads out", "--into"),
    (("look", "page.html", "--width", "7"), 4, "no picture is left", "--width 7.. takes what is larger as well"),
    (("look", "page.html", "--found-in", "nowhere"), 2, "--found-in 'nowhere' is no such place", "img, picture"),
    (("look", "~nobody7/page.html"), 3, "~nobody7/page.html: no such file", ""),
    (("pack", "page.html", "--crate", "x", "--into", "page.html"), 5, "cannot write into page.html/x", "--into"),
    (("pack", "page.html", "--name", "{nope}"), 2, "there is no field {nope}", "{stem}"),
    (("pack", "page.html", "--max-file", "huge"), 2, "--max-file 'huge' is not a size", "20MB"),
    (("look", "page.html", "--base", "kites"), 2, "--base 'kites' is not a whole address", "https://"),
    (("look", "page.html", "--save", "x.doc"), 2, "the file's ending says its format", ".csv"),
    (("look", "page.html", "--save", "no/x.csv"), 1, "cannot be written: no such file", ""),
    (("look", "page.html", "--bogus"), 2, "No such option", ""),
    (("look", "page.html", "--raw", "(" * 3000), 2, "is not a regular expression", ""),
    (("look", "page.html", "--url", "re:a{99999999999}"), 2, "is not a regular expression", ""),
    (("look", "page.html", "--raw", "(x|xx)+y"), 2, "was stopped: it ran for 2 seconds", "repetition inside"),
    (("look", "page.html", "--only", "9" * 5000), 2, "no picture has so large a number", ""),
]  # fmt: skip


@pytest.mark.parametrize(("arguments", "code", "message", "hint"), BAD)
def test_bad_input(
    run: Program, web: Server, tmp_path: Path, arguments: tuple[str, ...], code: int, message: str, hint: str
) -> None:
    (tmp_path / "empty").mkdir()
    (tmp_path / "crate" / ".pickcrate").mkdir(parents=True)
    (tmp_path / "crate" / ".pickcrate" / "ledger.sqlite").touch()
    (tmp_path / "nil.html").write_text("")
    (tmp_path / "kite.html").write_bytes(picture())
    (tmp_path / "paper.html").write_bytes(b"%PDF-1.7 kites")
    (tmp_path / "words.txt").write_text("Dear museum, no pictures here.")
    (tmp_path / "bare.html").write_text("<!doctype html><p>Nothing to see")
    (tmp_path / "page.html").write_text(f"<img src=kite.html alt={'x' * 60}>")
    done = run(*(part.replace("WEB", web.address) for part in arguments))
    assert done.code == code, done
    assert message in done.err
    assert hint in done.err
    assert not (tmp_path / "crates").exists()
    assert not list(tmp_path.glob(".x*"))


def test_one_bad_source_of_two_does_not_stop_the_other(built: Program, hall: Server) -> None:
    done = built("pack", "none.html", f"{hall.address}/hall.html", "--crate", "two")
    assert done.code == 1
    assert "none.html: no such file" in done.err
    assert "6 pictures fetched" in done.out
    assert built("look", "none.html", "nil.html").code == 3


def test_one_run_at_a_time(run: Program, hall: Server, tmp_path: Path) -> None:
    line = ("pack", f"{hall.address}/hall.html", "--crate", "k")
    run(*line)
    other = sqlite3.connect(tmp_path / "crates" / "k" / ".pickcrate" / "ledger.sqlite")
    other.execute("BEGIN EXCLUSIVE")
    (tmp_path / "crates" / "k" / ".pickcrate" / "holder").write_text("4711 tower 1795449600\n")
    try:
        done = run(*line)
    finally:
        other.close()
    assert done.code == 5
    assert re.search(
        r"another run is writing into this crate \(.*k\): process 4711 on tower, since \d\d:\d\d", done.err
    )
    (tmp_path / "crates" / "k" / ".pickcrate" / "ledger.sqlite").write_bytes(b"no ledger at all" * 100)
    assert "is no ledger" in run(*line).err


def test_passwords_are_not_written_down(run: Program, hall: Server, tmp_path: Path) -> None:
    page = f"{hall.address.replace('http://', 'http://maud:s3cret@')}/hall.html"
    looked = run("look", page, "--format", "csv", "--save", "x.jsonl")
    packed = run("pack", page, "--crate", "k")
    assert "6 pictures fetched" in packed.out
    told = looked.out + looked.err + packed.out + packed.err
    assert "s3cret" not in told
    for path in (tmp_path / "x.jsonl", *(tmp_path / "crates").rglob("*")):
        assert path.is_dir() or b"s3cret" not in path.read_bytes(), path


class Crooked:
    """A server that answers badly: each path is one way."""

    def __init__(self, ways: dict[str, list[bytes | float]]) -> None:
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.address = f"http://127.0.0.1:{self._socket.getsockname()[1]}"
        self._ways = ways
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                connection, _ = self._socket.accept()
            except OSError:
                return
            threading.Thread(target=self._answer, args=(connection,), daemon=True).start()

    def _answer(self, connection: socket.socket) -> None:
        with connection:
            path = connection.recv(65536).split(b" ")[1].decode()
            try:
                for part in self._ways.get(
                    path, [b"HTTP/1.1 404 No\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"]
                ):
                    if isinstance(part, bytes):
                        connection.sendall(part)
                    else:
                        time.sleep(part)
            except OSError:
                pass

    def close(self) -> None:
        self._socket.close()


def head(length: int, kind: str = "image/png") -> bytes:
    return f"HTTP/1.1 200 OK\r\nContent-Type: {kind}\r\nContent-Length: {length}\r\nConnection: close\r\n\r\n".encode()


def test_a_crooked_server(run: Program, tmp_path: Path) -> None:
    octets = picture("PNG", (64, 64))
    large = picture("BMP", (800, 600), "pink")  # 1.4 MB: over what is kept in memory
    server = Crooked(
        {
            "/cut.png": [head(len(octets)), octets[:50]],
            "/stall.png": [head(len(octets)), octets[:50], 20.0],
            "/mute.png": [],
            "/endless.png": [head(10**10), *[b"\0" * 1_000_000] * 8],
            "/noise.png": [b"what?\r\n\r\n"],
            "/fine.png": [head(len(octets)), octets],
            "/large.bmp": [head(len(large), "image/bmp"), large],
        }
    )
    (tmp_path / "list.txt").write_text("\n".join(f"{server.address}/{name}" for name in (
        "cut.png", "stall.png", "mute.png", "endless.png", "noise.png", "fine.png", "large.bmp")))  # fmt: skip
    done = run("pack", "list.txt", "--crate", "c", "--timeout", "1", "--max-file", "4MB")
    server.close()
    crate = tmp_path / "crates" / "c"
    assert files(crate) == {"fine.png": octets, "large.bmp": large}
    assert not list((crate / ".pickcrate" / "incoming").iterdir())
    for words in (
        "cut.png  the connection was cut before the end",
        "stall.png  timed out",
        "mute.png  the server closed the connection without an answer",
        "endless.png  larger than --max-file",
        "noise.png  the answer is not HTTP",
        "2 pictures fetched",
        "5 failed",
        "; 2 for other reasons",
    ):
        assert words in done.out, done.out


@pytest.mark.parametrize(("asks", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143), (signal.SIGHUP, 129)])
def test_what_came_is_kept_when_the_run_is_asked_to_end(tmp_path: Path, asks: signal.Signals, code: int) -> None:
    octets = picture("PNG", (64, 64))
    server = Crooked({"/fine.png": [head(len(octets)), octets], "/slow.png": [head(len(octets)), octets[:9], 30.0]})
    (tmp_path / "list.txt").write_text(f"{server.address}/fine.png\n{server.address}/slow.png\n")
    command = [sys.executable, "-c", HEEDING, "pack", "list.txt", "--crate", "c"]
    process = subprocess.Popen(
        command, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    crate = tmp_path / "crates" / "c"
    wait_until((crate / "fine.png").exists)
    process.send_signal(asks)
    out, err = process.communicate(timeout=HANGS)
    server.close()
    assert process.returncode == code
    assert "interrupted" in err
    assert "run the same line again" in err
    assert "1 picture fetched" in out
    assert "Traceback" not in err
    assert [row["file"] for row in listed(crate)] == ["fine.png"]


def test_certificate_that_does_not_match(run: Program, tmp_path: Path) -> None:
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=other.example",
         "-keyout", tmp_path / "key.pem", "-out", tmp_path / "cert.pem"],
        check=True, capture_output=True,
    )  # fmt: skip
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(tmp_path / "cert.pem", tmp_path / "key.pem")
    listener = socket.create_server(("127.0.0.1", 0))

    def shake_hands() -> None:
        connection, _ = listener.accept()
        with connection, suppress(OSError):
            context.wrap_socket(connection, server_side=True).close()

    threading.Thread(target=shake_hands, daemon=True).start()
    done = run("look", f"https://127.0.0.1:{listener.getsockname()[1]}/")
    listener.close()
    assert done.code == 3
    assert "certificate does not match or is not trusted" in done.err
    assert "SSL_CERT_FILE" in done.err


def test_what_is_no_character_is_written_as_one_that_says_so(built: Program, hall: Server, tmp_path: Path) -> None:
    (hall.www / "a\U0001fa81.png").write_bytes(picture("PNG", (60, 40)))
    shown = r"""[{"name": "Red \ud83e\ude81 \ud83e", "src": "a\ud83e\ude81.png", "alt": "At \ude81 dawn", "by": "\ud83e"}, {"name": "Blue", "src": "b.png"}]"""
    for page in (
        f"<script type=application/json>{shown}</script>",
        f"<script>k = {shown.replace('}]', ', n: 1 + x}]')}</script>",
    ):
        (hall.www / "s.html").write_text(page)
        for kind in ("csv", "jsonl", "txt", "parquet"):
            assert built("look", f"{hall.address}/s.html", "--fresh", "--save", f"s.{kind}").code == 0
        done = built(
            "pack",
            f"{hall.address}/s.html",
            "--fresh",
            "--only",
            "1",
            "--name",
            "{item} {alt}",
            "--crate",
            "s",
            "--format",
            "jsonl",
        )
        row = json.loads((tmp_path / "s.jsonl").read_text().splitlines()[0])
        assert (done.code, row["item"], row["alt"], row["columns"]) == (
            0,
            "Red \U0001fa81 \ufffd",
            "At \ufffd dawn",
            {"by": "\ufffd"},
        )


@pytest.mark.skipif(sys.platform != "linux", reason="names of files are characters elsewhere")
def test_files_whose_names_are_in_no_encoding(run: Program, tmp_path: Path) -> None:
    folder = tmp_path / os.fsdecode(b"s\xe9ite")
    folder.mkdir()
    (folder / os.fsdecode(b"bl\xe5.png")).write_bytes(picture("PNG", (60, 40)))
    (folder / "i.html").write_text("<img src=bl%E5.png>")
    source = str(folder / "i.html")
    for arguments in (
        ("look", source, "--save", "s.csv"),
        ("sheet", source, "--out", "s.html"),
        ("pack", source, "--crate", "c"),
    ):
        assert run(*arguments).code == 0
    row = next(csv.DictReader((tmp_path / "s.csv").read_text(encoding="utf-8-sig").splitlines()))
    assert row["source"].endswith("s\ufffdite/i.html")
    with tarfile.open(tmp_path / "s.tar", "w", format=tarfile.USTAR_FORMAT, encoding="latin-1") as tar:
        for name, octets in (
            ("s\xe9/i.html", b"<img src=bl%E5.png><img src=\xe9.png>"),
            ("s\xe9/\xe9.png", picture("PNG", (60, 41))),
        ):
            member = tarfile.TarInfo(name)
            member.size = len(octets)
            tar.addfile(member, BytesIO(octets))
    assert run("look", "s.tar", "--format", "jsonl").rows[1]["height"] == 41


def test_a_page_cannot_write_on_the_terminal(run: Program, tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text("<title>\x1b]0;owned\x07</title><img src=a.png alt='\x1b[2J\u202egpj' title=t>")
    done = run("look", "page.html")
    assert "\x1b" not in done.out
    assert "␛[2J" in done.out
    assert "\u202e" not in done.out


IN_VAIN = [
    (("--raw", r"nope\d+"), "--raw: nothing that it matches is an address"),
    (("--attr", "data-nope"), "--attr: no element has such an attribute"),
    (("--rule", "/nope/ => /"), "--rule: no address is as it says"),
    (("--column", "url=Photo"), "--column: it names columns of lists, and there is none here"),
    (("--through", "1"), "--through: no thumbnail here leads to a page"),
    (("--list-of", "pages"), "--list-of pages: there is no list here"),
    (("--browser",), "--browser: it visits pages on the web, and there is none here"),
    (("--raw", r"\w+\.jpg", "--attr", "data-large"), ""),
]


@pytest.mark.parametrize(("options", "said"), IN_VAIN)
@pytest.mark.parametrize("command", ["look", "pack"])
def test_options_that_change_nothing_are_told(
    run: Program, tmp_path: Path, command: str, options: tuple[str, ...], said: str
) -> None:
    (tmp_path / "red.png").write_bytes(picture())
    (tmp_path / "p.html").write_text("<img src=red.png data-large=large.png><script>a = 'other.jpg'</script>")
    done = run(command, "p.html", *options, *(["--found-in", "img"] if command == "pack" else []))
    ours = ("--raw", "--attr", "--rule", "--column", "--browser", "--through", "--list-of")
    told = [line for line in done.out.splitlines() if line.startswith(ours)]
    assert (len(told), all(said in line for line in told)) == (bool(said), True)
    (tmp_path / "p.html").write_text("<script>fetch('/kites').then(show)</script>")
    assert "what scripts load is not in a page on the disk" in run(command, "p.html", *options).err


def test_what_stands_in_a_file_is_no_slip_of_the_pen(run: Program, tmp_path: Path) -> None:
    (tmp_path / "p.html").write_text("<img src=red.png>")
    (tmp_path / "pickcrate.toml").write_text("through = 1\n")
    assert "--through" not in run("look", "p.html").out
    assert "--through: no thumbnail here leads to a page" in run("look", "p.html", "--through", "1").out


def test_pictures_without_a_licence_are_kept_and_told(run: Program, tmp_path: Path) -> None:
    (tmp_path / "red.png").write_bytes(picture())
    (tmp_path / "p.html").write_text("<img src=red.png>")
    for line in (("look",), ("pack", "--dry-run"), ("pack",)):
        done = run(*line, "p.html", "--licence", "CC BY*")
        assert "no licence is stated for 1 of them: --unsure drop leaves those out" in done.out
        assert run(*line, "p.html", "--licence", "CC BY*", "--unsure", "drop").code == 4
