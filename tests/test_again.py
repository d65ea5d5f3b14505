"""A crate over time: what changed, what robots are asked not to take, names that servers give, an archive, a log."""

import re
import shutil
import zipfile
from base64 import b64encode
from collections.abc import Iterator
from csv import DictReader
from hashlib import md5, new, sha256
from pathlib import Path
from typing import ClassVar

import pytest

from conftest import Answering, Program, Server, picture, serving
from pickcrate.read.fields.digests import mismatch
from pickcrate.read.fields.disposition import served_name
from pickcrate.read.pages.rights import rights_of_answer

RED, BLUE = picture("PNG", (60, 40), "red"), picture("PNG", (60, 40), "blue")


@pytest.fixture
def hall(web: Server) -> Server:
    (web.www / "p.html").write_text("<img src=a.png><img src=b.png><img src=c.png>")
    for n, name in enumerate("abc"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (40 + n, 30), (n, 0, 0)))
    return web


def listed(crate: str = "c") -> list[dict[str, str]]:
    with Path(f"crates/{crate}/crate.csv").open(encoding="utf-8", newline="") as file:
        return list(DictReader(file))


def test_refresh_asks_for_what_changed_and_keeps_the_old_version(run: Program, hall: Server) -> None:
    line = ("pack", f"{hall.address}/p.html", "--crate", "c", "--no-robots", "--fresh")
    run(*line)
    old = Path("crates/c/a.png").read_bytes()
    (hall.www / "a.png").write_bytes(RED)
    Path("crates/c/c.png").unlink()
    hall.requests()
    assert "3 there already" in run(*line).out
    assert hall.requests() == ["/p.html"]
    done = run(*line, "--again", "refresh")
    assert hall.requests() == ["/p.html", "/a.png", "/b.png"]
    assert "1 picture fetched (" in done.out
    assert "2 there already (1 of them moved or deleted since, left as they are)" in done.out
    (aside,) = Path("crates/c").glob("a (*).png")
    assert (aside.read_bytes(), Path("crates/c/a.png").read_bytes()) == (old, RED)
    assert [row["file"] for row in listed()] == ["a.png", "b.png", "c.png"]
    assert "1 missing" in run("audit", "c").out  # and the older version is no stray
    done = run(*line, "--again", "refresh")
    assert "3 there already" in done.out
    (hall.www / "b.png").unlink()
    done = run(*line, "--again", "refresh")
    assert (done.code, "b.png  the server answered 404 Not Found; the file that is there is kept" in done.out) == (
        1,
        True,
    )
    assert Path("crates/c/b.png").is_file()


def test_replace_fetches_all_and_puts_back(run: Program, hall: Server) -> None:
    line = ("pack", f"{hall.address}/p.html", "--crate", "c", "--no-robots", "--fresh")
    run(*line)
    Path("crates/c/c.png").unlink()
    (hall.www / "b.png").write_bytes(picture("GIF", (60, 40)))
    hall.requests()
    done = run(*line, "--again", "replace")
    assert sorted(hall.requests()) == ["/a.png", "/b.png", "/c.png", "/p.html"]
    assert "2 pictures fetched" in done.out
    names = sorted(path.name for path in Path("crates/c").iterdir() if path.suffix in {".png", ".gif"})
    assert [re.sub(r"\(.*\)", "()", name) for name in names] == ["a.png", "b ().png", "b.gif", "c.png"]
    assert run("audit", "c").code == 0


def test_bytes_that_are_known_are_not_kept_twice(run: Program, hall: Server) -> None:
    run("pack", f"{hall.address}/a.png", f"{hall.address}/b.png", "--crate", "c", "--no-robots")
    Path("crates/c/a.png").rename("crates/c/mine.png")
    (hall.www / "copy.png").write_bytes((hall.www / "a.png").read_bytes())
    assert run("pack", f"{hall.address}/copy.png", "--crate", "c", "--no-robots").code == 0
    assert sorted(path.name for path in Path("crates/c").glob("*.png")) == ["b.png", "mine.png"]
    assert [row["file"] for row in listed()] == ["mine.png", "b.png", "mine.png"]


class Telling(Answering):
    """Says things in header fields: ``/a.png?field=value``; a page of such pictures under ``/page?``."""

    said: ClassVar[dict[str, dict[str, str]]] = {
        "/download/1": {"Content-Disposition": 'attachment; filename="Red delta.png"'},
        "/download/2": {"Content-Disposition": "attachment; filename*=UTF-8''R%C3%A9d%20delta.jpg"},
        "/download/3": {"Content-Disposition": 'inline; filename="red delta.gif"'},
        "/barred.png": {"X-Robots-Tag": "otherbot: noindex\r\nX-Robots-Tag: noimageai"},
        "/altered.png": {"Content-MD5": "AAAAAAAAAAAAAAAAAAAAAA=="},
        "/reserved.png": {"TDM-Reservation": "1", "TDM-Policy": "https://kites.example/policy.json"},
    }
    page: ClassVar[str] = ""

    def do_GET(self) -> None:
        if self.path == "/page":
            self.answer(200, self.page.encode(), "text/html")
        elif self.path.startswith("/download"):
            self.answer(200, picture("PNG", (60, 40), (int(self.path[-1]), 0, 0)), **self.said.get(self.path, {}))
        else:
            self.answer(404 if self.path == "/robots.txt" else 200, RED, **self.said.get(self.path, {}))


@pytest.fixture
def telling() -> Iterator[str]:
    with serving(Telling) as port:
        yield f"http://127.0.0.1:{port}"


def test_the_name_that_the_server_gives(run: Program, telling: str) -> None:
    Telling.page = "".join(f"<img src=/download/{n}>" for n in (1, 2, 3, 4))
    done = run("pack", f"{telling}/page", "--crate", "c", "--as-shown")
    assert done.code == 0
    assert [row["file"] for row in listed()] == ["Red delta.png", "Réd delta.png", "red delta 2.png", "4.png"]
    assert "there already" in run("pack", f"{telling}/page", "--crate", "c", "--as-shown").out
    run("pack", f"{telling}/page", "--crate", "d", "--as-shown", "--name", "{n:02}")
    assert [row["file"] for row in listed("d")] == ["01.png", "02.png", "03.png", "04.png"]


def test_what_robots_are_asked_not_to_take(run: Program, telling: str) -> None:
    Telling.page = "<img src=/barred.png><img src=/reserved.png>"
    done = run("pack", f"{telling}/page", "--crate", "c", "--as-shown")
    assert (
        "left out barred.png  robots: its server says noimageai (--no-robots takes it all the same)"
        in done.out.replace(telling + "/", "")
    )
    assert "robots are asked not to take 1 picture: --no-robots takes it all the same" in done.out
    assert [(row["file"], row["tdm"]) for row in listed()] == [
        ("reserved.png", "reserved https://kites.example/policy.json")
    ]
    Telling.page = "<meta name=robots content='noindex, noimageindex'><img src=/reserved.png>"
    done = run("look", f"{telling}/page", "--as-shown", "--fresh")
    assert (done.code, "1 found → robots −1 → 0 picked" in done.out) == (4, True)
    assert run("look", f"{telling}/page", "--as-shown", "--no-robots").code == 0


LD = """<link rel="license" href="/all"><script type="application/ld+json">[{"@graph": [{"@type": ["ImageObject"],
"contentUrl": "/fine.png", "license": {"@id": "https://kites.example/by"}, "creator": [{"@type": "Person", "name": "Ilse"}, "Tam"]},
{"@type": "ImageObject", "url": "x", "license": 7}, {"@type": "ImageObject", "copyrightNotice": "no address"}]}]</script>
<script type="application/ld+json">{"@type": "ImageObject", </script>"""


def test_credits_and_licences(run: Program, telling: str) -> None:
    Telling.page = f"{LD}<img src=/fine.png><img src=/reserved.png>"
    rows = run("look", f"{telling}/page", "--as-shown", "--save", "picks.csv", "--format", "jsonl").rows
    rights = [("Ilse, Tam", "https://kites.example/by"), (None, f"{telling}/all")]
    assert [(row["credit"], row["licence_url"]) for row in rows] == rights
    run("pack", f"{telling}/page", "--crate", "c", "--as-shown")
    run("pack", "picks.csv", "--crate", "d")
    for crate in "cd":
        assert [(row["credit"] or None, row["licence_url"] or None) for row in listed(crate)[:1]] == rights[:1]
    assert "credit    Ilse, Tam" in run("why", f"{telling}/page", "1", "--as-shown").out
    Telling.page = "<a rel=license href=/one><a rel=license href=/two><img src=/fine.png>"
    assert run("look", f"{telling}/page", "--as-shown", "--fresh", "--format", "jsonl").rows[0]["licence_url"] is None


def test_what_was_altered_on_its_way_is_not_kept(run: Program, telling: str) -> None:
    Telling.page = "<img src=/altered.png><img src=/fine.png>"
    done = run("pack", f"{telling}/page", "--crate", "c", "--as-shown")
    assert (done.code, "altered on its way: it does not have the MD5 digest" in done.out) == (1, True)
    assert [row["file"] for row in listed()] == ["fine.png"]


def test_a_limit_for_the_whole_run(run: Program, web: Server) -> None:
    for n in range(6):
        (web.www / f"{n}.bmp").write_bytes(picture("BMP", (200, 170), (n, 0, 0)))  # 102 kB each
    (web.www / "p.html").write_text("".join(f"<img src={n}.bmp>" for n in range(6)))
    line = ("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots", "--at-once", "1")
    done = run(*line, "--max-total", "250kB")
    assert (done.code, "beyond --max-total: the same line again goes on with it" in done.out) == (1, True)
    assert 2 <= len(listed()) <= 3
    assert run(*line).code == 0
    assert len(listed()) == 6
    (web.www / "q.html").write_text("<a href=1.bmp><img src=thumb.png></a>")
    (web.www / "thumb.png").write_bytes(RED)
    assert run("pack", f"{web.address}/q.html", "--crate", "d", "--no-robots", "--max-total", "50kB").code == 1
    assert listed("d") == []  # and no thumbnail in its place


def test_an_archive_and_a_log(run: Program, hall: Server) -> None:
    line = ("pack", f"{hall.address}/p.html", "--crate", "c", "--no-robots", "--zip", "--log", "run.log", "--quiet")
    assert run(*line).out == ""
    with zipfile.ZipFile("crates/c.zip") as packed:
        assert packed.namelist() == ["c/a.png", "c/b.png", "c/c.png", "c/crate.csv"]
        assert packed.testzip() is None
    assert run(*line[:-3], "--quiet", "--credits").code == 0
    with zipfile.ZipFile("crates/c.zip") as packed:
        assert packed.namelist()[-3:] == ["c/crate.csv", "c/credits.md", "c/credits.html"]
    lines = [text.split("\t")[1:] for text in Path("run.log").read_text().splitlines()]
    assert [cells[0] for cells in lines] == [
        "begun",
        "page",
        "crate",
        "fetched",
        "fetched",
        "fetched",
        "archive",
        "ended",
    ]
    assert lines[3][1].endswith(".png")
    Path("crates/c.zip").write_bytes(b"my own")
    assert run(*line).code == 5
    assert Path("crates/c.zip").read_bytes() == b"my own"
    assert Path("run.log").read_text().splitlines()[-1].endswith("is no archive of a crate")


@pytest.mark.parametrize(
    ("field", "name"),
    [
        ('attachment; filename="foo.png"', "foo.png"), ("inline; filename=foo bar.png", "foo bar.png"),
        ("filename=a.png", "a.png"), ("attachment; filename*=UTF-8''foo-%c3%a4.png", "foo-ä.png"),
        ("attachment; filename=\"E.png\"; filename*=utf-8''%e2%82%ac.png", "€.png"), ("attachment", ""),
        ('attachment; filename="f\\oo.png"', "foo.png"), ('attachment; filename="a;b.png"', "a;b.png"),
        ("attachment; filename*=UTF-8''a%zz.png; filename=b.png", "b.png"), ("attachment; filename*=x''a; filename=b", "b"),
        ('attachment; name="x"; FILENAME = "c.png"', "c.png"), ('attachment; filename="../../etc/p.png"', "p.png"),
        ("attachment; filename=\"foo-Ã¤.png\"", "foo-ä.png"), ('attachment; filename="foo-%c3%a4.png"', "foo-ä.png"),
        ("attachment; filename*=ISO-8859-1''foo-%E4.png", "foo-ä.png"), ('attachment; filename="C:\\\\x\\\\d.png"', "d.png"),
        ('attachment; filename="=?UTF-8?B?Zm9vLcOkLnBuZw==?="', "foo-ä.png"), ("attachment; filename*=\"UTF-8''f-%c3%a4.png\"", "f-ä.png"),
        ("attachment; filename==?ISO-8859-1?Q?foo-=E4.png?=", "foo-ä.png"), ("attachment; filename *=UTF-8''f.png", ""),
        ("attachment; filename='foo.png'", "'foo.png'"), ('attachment; filename="foo', "foo"), ("attachment; xfilename=a.png", ""),
        ("inline; attachment; filename=a.png", "a.png"), ("attachment; filename*=UTF-8''A-%2541.png", "A-%41.png"),
        ('attachment; foo="\\"\\\\";filename="foo.png"', "foo.png"), ("attachment; filename*0=a; filename*1=b", ""),
        ("attachment; filename=a.png; filename=b.png", "a.png"), ('attachment; filename="\xe4.png"', "ä.png"),
    ],
)  # fmt: skip
def test_file_names_in_content_disposition(field: str, name: str) -> None:
    assert served_name(field) == name


SHA = b64encode(sha256(RED).digest()).decode()
MD5 = b64encode(md5(RED, usedforsecurity=False).digest()).decode()


@pytest.mark.parametrize(
    ("fields", "holds"),
    [
        ({"repr-digest": f"sha-256=:{SHA}:"}, True), ({"repr-digest": f"sha-256=:{MD5}:"}, True), ({"content-md5": MD5}, True),
        ({"content-md5": SHA}, True), ({"digest": f"SHA-256={SHA}, unixsum=30637"}, True), ({"content-digest": "md5=:x"}, True),
        ({"content-digest": f"md5=:{MD5[::-1].strip('=')}==:"}, False), ({"digest": f"sha-256={SHA[::-1].strip('=')}="}, False),
        ({"digest": f"sha-256={SHA[::-1].strip('=')}=", "content-encoding": "gzip"}, True),
    ],
)  # fmt: skip
def test_digests_that_are_announced(fields: dict[str, str], holds: bool) -> None:
    assert (mismatch(fields, lambda algorithm: new(algorithm, RED).digest()) == "") is holds


@pytest.mark.parametrize(
    ("field", "bar"),
    [
        ("noindex", "noindex"), ("nofollow, NoImageIndex", "noimageindex"), ("otherbot: noindex, noai", ""),
        ("otherbot: none\npickcrate: noai", "noai"), ("unavailable_after: 25 Jun 2030 15:00:00 PST", ""),
        ("max-image-preview: large, none", "none"), ("", ""),
    ],
)  # fmt: skip
def test_robots_rules_of_an_answer(field: str, bar: str) -> None:
    assert rights_of_answer({"x-robots-tag": field}, "pickcrate").bar == bar


def test_a_crate_that_has_lost_its_ledger_is_known_by_its_list(run: Program, web: Server, tmp_path: Path) -> None:
    for n, name in enumerate(("red", "{blue}", "=sum", "-1", "gone", "cut")):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60, 40 + n)))
    (web.www / "twin.png").write_bytes((web.www / "red.png").read_bytes())
    names = ("red.png", "%7Bblue%7D.png", "=sum.png", "-1.png", "twin.png", "gone.png", "cut.png")
    (web.www / "p.html").write_text("".join(f"<img src='{name}'>" for name in names))
    line = ("pack", f"{web.address}/p.html", "--crate", "c", "--shelf", "{type}")
    assert run(*line).code == 0
    crate = tmp_path / "crates" / "c"
    before = listed()
    files = {path: path.read_bytes() for path in (crate / "png").iterdir()}
    assert len(before) == len(names) == len(files) + 1
    shutil.rmtree(crate / ".pickcrate")
    (crate / "png" / "gone.png").unlink()
    (crate / "png" / "cut.png").write_bytes(b"cut")
    with (crate / "crate.csv").open("a") as stream:
        stream.write(f"../../p.html,{web.address}/x.png,,,,,,,,5,{'0' * 64}\nc,d\n")
    web.requests()
    assert "would be" in run(*line, "--dry-run").out
    done = run(*line)
    assert (done.code, "crates/c had lost its ledger: 5 pictures of it are known by its list" in done.out) == (0, True)
    assert [path for path in web.requests() if path.endswith("png")] == ["/gone.png", "/cut.png"]
    after = {row["url"]: row for row in listed()}
    same = [row for row in before if row["url"].rpartition("/")[2] not in {"gone.png", "cut.png"}]
    assert [after[row["url"]] for row in same] == same
    assert {path.name for path in (crate / "png").iterdir()} == {path.name for path in files} | {"cut 2.png"}
    assert "stray    png/cut.png" in run("audit", "c").out
    assert "lost its ledger" not in run(*line).out
