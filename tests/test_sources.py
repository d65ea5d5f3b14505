"""What a source may be: each kind made on the spot, told by its content, and packed with the bytes that it brings."""

import base64
import bz2
import csv
import gzip
import io
import itertools
import json
import lzma
import os
import plistlib
import shutil
import tarfile
import threading
import zipfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import BinaryIO

import brotli
import pyarrow as pa  # type: ignore[import-untyped]
import pyarrow.parquet as pq  # type: ignore[import-untyped]
import pytest
import zstandard
from openpyxl import Workbook

from conftest import Program, Server, picture
from pickcrate.read.data.datafolders import in_folders
from pickcrate.read.lists.addresslist import ListOrigin, addresses_in
from pickcrate.read.lists.cells import addresses_in_cell
from pickcrate.read.office import opendocument as opendocumentrows
from pickcrate.read.office.workbook import open_workbook
from pickcrate.read.pages.refresh import parse_refresh
from pickcrate.read.recognise import Kind, recognise
from pickcrate.read.texts import textfile

RED, BLUE, TEAL = (picture("PNG", (30 + n, 20), colour) for n, colour in enumerate(("red", "blue", "teal")))
AWAY = "https://galewick.invalid"  # never resolves: what comes from there was brought along


def packed(run: Program, tmp_path: Path, *arguments: str) -> dict[str, bytes]:
    done = run("pack", *arguments, "--crate", "c")
    assert done.code == 0, done
    return {p.name: p.read_bytes() for p in (tmp_path / "crates" / "c").iterdir() if p.is_file() and p.suffix != ".csv"}


def base64_lines(octets: bytes) -> str:
    return base64.encodebytes(octets).decode()


MHTML = f"""From: <Saved by a browser>
Snapshot-Content-Location: {AWAY}/hall/list.html
Subject: The hall
MIME-Version: 1.0
Content-Type: multipart/related; type="text/html"; boundary="--b"

----b
Content-Type: text/html; charset=utf-8
Content-ID: <root@mhtml.blink>
Content-Transfer-Encoding: quoted-printable
Content-Location: {AWAY}/hall/list.html

<title>The hall</title><link rel=3Dstylesheet href=3Dcid:css-1@x><img src=3D"red.png" alt=3D"R=C3=B6d">
<iframe src=3D"cid:frame-1@x"></iframe><p class=3Dback>
----b
Content-Type: text/css
Content-ID: <css-1@x>
Content-Location: {AWAY}/style/a.css

.back {{ background: url(../img/teal.png) }} .none {{ background: url(never.png) }}
----b
Content-Type: text/html
Content-ID: <frame-1@x>

<img src="cid:blue@x">
----b
Content-Type: image/png
Content-Transfer-Encoding: base64
Content-Location: {AWAY}/hall/red.png

{base64_lines(RED)}
----b
Content-Type: image/png
Content-Transfer-Encoding: base64
Content-ID: <blue@x>

{base64_lines(BLUE)}
----b
Content-Type: image/png
Content-Transfer-Encoding: base64
Content-Location: {AWAY}/img/teal.png

{base64_lines(TEAL)}
----b--
"""

MAIL = f"""From: maud@galewick.invalid
Subject: Kites
MIME-Version: 1.0
Content-Type: multipart/mixed; boundary=m

--m
Content-Type: text/html; charset=utf-8

<p>See <img src="cid:red@x" alt="Red"></p>
--m
Content-Type: image/png; name="sunset.png"
Content-ID: <red@x>
Content-Transfer-Encoding: base64
Content-Disposition: inline; filename="red kite.png"

{base64_lines(RED)}
--m
Content-Type: application/octet-stream
Content-Transfer-Encoding: base64
Content-Disposition: attachment; filename="C:\\\\pictures\\\\blue kite.png"

{base64_lines(BLUE)}
--m--
"""


def har(*entries: tuple[str, str, bytes]) -> str:
    return json.dumps({"log": {"version": "1.2", "entries": [
        {"request": {"url": url}, "response": {"status": 200, "content": {
            "mimeType": kind, "text": base64.b64encode(body).decode(), "encoding": "base64"}}}
        for url, kind, body in entries
    ] + [{"request": {}}, {"request": {"url": "x"}, "response": {"status": 404}}]}})  # fmt: skip


@pytest.mark.parametrize("held", ["base64", "data:"])
@pytest.mark.parametrize("form", ["csv", "jsonl"])
def test_pictures_in_the_cells_of_a_list(run: Program, tmp_path: Path, form: str, held: str) -> None:
    large = RED + os.urandom(90_000)  # so that the first row is longer than what a source is known by
    large = large[: -len(b"IEND\xaeB`\x82")] + b"IEND\xaeB`\x82"
    start = "data:image/png;base64," if held == "data:" else ""
    rows = [(name, start + base64.b64encode(octets).decode()) for name, octets in (("Red", large), ("Blue", BLUE))]
    if form == "csv":
        text = "name,photo\n" + "".join(f'{name},"{cell}"\n' for name, cell in rows)
    else:
        text = "\n".join(json.dumps({"name": name, "photo": cell}) for name, cell in rows)
    (tmp_path / "k").write_text(text)
    assert packed(run, tmp_path, "k") == {"Red.png": large, "Blue.png": BLUE}
    assert [row["columns"] for row in run("look", "k", "--format", "jsonl").rows] == [{"name": "Red"}, {"name": "Blue"}]
    (tmp_path / "k").write_text("photo,name\n/9j/red.jpg,Red\n/9j/4AAQ,Blue\n")  # paths
    done = run("look", "k", "--base", "https://kites.example/", "--format", "urls")
    assert done.out.split() == ["https://kites.example/9j/red.jpg", "https://kites.example/9j/4AAQ"]


def test_data_may_name_its_pictures_behind_much_else(run: Program, tmp_path: Path) -> None:
    shape = {"type": "Polygon", "coordinates": [[[n / 7, n / 9] for n in range(9_000)]]}
    kites = [{"title": name, "image": f"https://k.example/{name}.jpg"} for name in ("Red", "Blue")]
    for before in ({"about": "kites " * 30_000}, {"geometry": shape}):
        (tmp_path / "k.json").write_text(json.dumps({**before, "kites": kites}))
        assert [row["item"] for row in run("look", "k.json", "--format", "jsonl").rows] == ["Red", "Blue"]
        (tmp_path / "k.json").write_text(json.dumps({**before, "kites": 7}))
        assert "k.json is JSON data, not a page" in run("look", "k.json").err


def test_pictures_that_data_in_xml_holds_itself(run: Program, tmp_path: Path) -> None:
    book = "<?xml version='1.0'?><book xmlns:l='http://www.w3.org/1999/xlink'><image l:href='#red.jpg'/>"
    book += f"<binary id='red.jpg' content-type='image/jpeg'>\n{base64_lines(RED)}</binary><i>{base64_lines(BLUE)}</i></book>"
    (tmp_path / "k.fb2").write_text(book)
    assert packed(run, tmp_path, "k.fb2") == {"red.png": RED, "2-picture.png": BLUE}
    held = "<note><title>{}</title><resource><data encoding='base64'>{}</data>{}</resource></note>"
    named = "<about><file-name>IMG_1.png</file-name></about>"
    notes = held.format("Red delta", base64_lines(RED), named) + held.format("Blue box", base64_lines(BLUE), "")
    (tmp_path / "notes.enex").write_text(f"<?xml version='1.0'?><notes>{notes}</notes>")
    told = [(row["name"], row["item"]) for row in run("look", "notes.enex", "--format", "jsonl").rows]
    assert told == [("IMG_1", "Red delta"), ("Blue box", "Blue box")]


PACKED: dict[str, Callable[[bytes], bytes]] = {
    "gzip": gzip.compress,
    "bzip2": lambda octets: bz2.compress(octets, 1),
    "xz": lzma.compress,
    "zstd": zstandard.compress,
}
ROWS_TO_PACK = b"".join(b"%s/%d-%s.jpg\n" % (AWAY.encode(), n, os.urandom(9).hex().encode()) for n in range(20_000))


@pytest.mark.parametrize("how", PACKED)
def test_what_is_packed_as_a_whole_is_unpacked(run: Program, tmp_path: Path, how: str) -> None:
    pack, half = PACKED[how], len(ROWS_TO_PACK) // 2
    half = ROWS_TO_PACK.index(b"\n", half) + 1
    whole = pack(ROWS_TO_PACK)
    (tmp_path / "tar").write_bytes(pack(tarred({"p.html": b"<img src=red.png>", "red.png": RED})))
    assert packed(run, tmp_path, "tar") == {"red.png": RED}
    for octets, count, words in (
        (pack(ROWS_TO_PACK[:half]) + pack(ROWS_TO_PACK[half:]), 20_000, ""),
        (whole[: len(whole) // 2], None, "it is damaged, or cut off: what stands before that was read"),
    ):
        (tmp_path / "list").write_bytes(octets)
        done = run("look", "list", "--format", "urls")
        assert words in done.err
        assert (len(done.out.split()) == count) if count else (0 < len(done.out.split()) < 15_000)
        assert done.code == (1 if words else 0)
    (tmp_path / "list").write_bytes(whole)
    assert "larger than --max-file when it is unpacked" in run("look", "list", "--max-file", "300kB").err
    (tmp_path / "list").write_bytes(pack(b"https://kites.example/a.jpg\n")[:9])
    assert "is packed, and damaged: nothing of it can be read" in run("look", "list").err


IN_ONE_ZIP: dict[str, bytes] = {
    "list.txt": f"{AWAY}/red.png\n{AWAY}/blue.png\n".encode(),
    "list.csv": f"Photo,Kite\n{AWAY}/red.png,Red\n".encode(),
    "mail.eml": f"From: a@b\nSubject: Kite\nMIME-Version: 1.0\nContent-Type: text/html\n\n<img src={AWAY}/red.png>".encode(),
    "feed.xml": f'<?xml version="1.0"?><rss version="2.0"><item><enclosure url="{AWAY}/red.png" type="image/png"/></item></rss>'.encode(),
    "notes.md": f"![Red]({AWAY}/red.png)".encode(),
    "held.json": json.dumps({"name": "red", "image": base64.b64encode(RED).decode()}).encode(),
}


@pytest.mark.parametrize("name", IN_ONE_ZIP)
def test_a_zip_of_one_file_is_that_file(run: Program, tmp_path: Path, name: str) -> None:
    with zipfile.ZipFile(tmp_path / "one.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, IN_ONE_ZIP[name])
        archive.writestr(f"__MACOSX/._{name}", b"what one system knows besides")
    (tmp_path / name).write_bytes(IN_ONE_ZIP[name])
    for source in ("one.zip", "-"):
        done = run("look", source, "--format", "jsonl", input=(tmp_path / "one.zip").read_bytes())
        plain = run("look", name, "--format", "jsonl").rows
        assert [(row["name"], row["alt"], row["item"], row["columns"]) for row in done.rows] == [
            (row["name"], row["alt"], row["item"], row["columns"]) for row in plain]  # fmt: skip
        assert done.rows


def test_what_is_no_source_is_named_and_told_what_to_do_with(run: Program, tmp_path: Path) -> None:
    with (tmp_path / "film").open("wb") as film:
        film.write(b"\0\0\0\x18ftypmp42")
        film.truncate(1 << 40)
    for name, start, words, hint in (
        ("old.xls", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "a document of an older office program", "save it as"),
        ("k.rar", b"Rar!\x1a\x07\x01\0", "a RAR archive", "unpack it"),
        ("k.db", b"SQLite format 3\0", "a database", "as CSV"),
    ):
        (tmp_path / name).write_bytes(start + bytes(600))
        done = run("look", name)
        assert (f"{name} is {words}, not a page" in done.err, hint in done.err, done.code) == (True, True, 3)
    assert "film is binary data, not a page" in run("look", "film").err


IN_PARQUET: dict[str, list[object]] = {
    "bytes": [RED, BLUE],
    "with paths": [{"bytes": RED, "path": "hall/Red kite.png"}, {"bytes": BLUE, "path": None}],
    "several": [[RED, BLUE]],
    "texts": [base64.b64encode(RED).decode(), base64_lines(BLUE)],
    "objects": [{"url": f"{AWAY}/red.png", "width": 3}, {"url": f"{AWAY}/blue.png", "width": 4}],
}


@pytest.mark.parametrize("how", IN_PARQUET)
def test_pictures_in_the_cells_of_parquet(run: Program, tmp_path: Path, how: str) -> None:
    pq.write_table(pa.table({"photo": IN_PARQUET[how]}), tmp_path / "k.parquet")
    rows = run("look", "k.parquet", "--format", "jsonl").rows
    if how == "objects":
        assert [(row["url"], row["columns"]["photo.width"]) for row in rows] == [
            (f"{AWAY}/red.png", "3"),
            (f"{AWAY}/blue.png", "4"),
        ]
        return
    assert [(row["width"], row["bytes"], row["grades"]["width"]) for row in rows] == [
        (30, len(RED), "probed"), (31, len(BLUE), "probed"),
    ]  # fmt: skip
    names = {"with paths": ["Red kite", "picture"]}.get(how, ["picture", "picture 2"])
    assert [row["name"] for row in rows] == names
    for _ in "again":
        assert packed(run, tmp_path, "k.parquet") == {f"{names[0]}.png": RED, f"{names[1]}.png": BLUE}


IN_JSON: dict[str, object] = {
    "base64": [{"title": "Red", "image": base64.b64encode(RED).decode()}, {"title": "Blue", "image": base64_lines(BLUE)}],
    "addresses": [{"title": name, "photo": f"data:image/png;base64,{base64.b64encode(octets).decode()}"}
                  for name, octets in (("Red", RED), ("Blue", BLUE))],
    "a notebook": {"cells": [{"attachments": {"red.png": {"image/png": base64.b64encode(RED).decode()}}},
                             {"outputs": [{"data": {"image/png": base64_lines(BLUE), "text/plain": ["<Figure>"]}}]}]},
    "called": {"files": [{"filename": "Red kite.png", "content": base64.b64encode(RED).decode()},
                         {"content": base64.b64encode(BLUE).decode(), "name": "kite 7.png", "size": 92}]},
}  # fmt: skip


@pytest.mark.parametrize("how", IN_JSON)
def test_pictures_that_data_holds_itself(run: Program, tmp_path: Path, how: str) -> None:
    (tmp_path / "k.json").write_text(json.dumps(IN_JSON[how]))
    others = {"called": ("Red kite.png", "kite 7.png"), "a notebook": ("1-picture.png", "2-picture.png")}
    names = others.get(how, ("Red.png", "Blue.png"))
    assert packed(run, tmp_path, "k.json") == dict(zip(names, (RED, BLUE), strict=True))
    rows = run("look", "-", "--format", "jsonl", input=(tmp_path / "k.json").read_bytes()).rows
    items = {"a notebook": [None, None], "called": [None, None]}
    assert [row["item"] for row in rows] == items.get(how, ["Red", "Blue"])


def test_what_a_record_has_comes_in_the_order_of_its_pages(run: Program, tmp_path: Path) -> None:
    page = b"<meta property=og:image content=red.png><img src=red.png><img src=blue.png><img src=not-there.png>"
    entries = [("stray.png", TEAL), ("blue.png", BLUE), ("red.png", RED)]
    pictures = [(f"{AWAY}/{name}", "image/png", octets) for name, octets in entries]
    (tmp_path / "k.har").write_text(har(*pictures, (f"{AWAY}/", "text/html", page)))
    urls = run("look", "k.har", "--format", "urls").out.split()
    assert [url.rpartition("/")[2] for url in urls] == ["red.png", "blue.png", "stray.png"]


CODINGS = {"": bytes, "gzip": gzip.compress, "br": brotli.compress, "zstd": zstandard.compress}


def warc(*, compressed: bool, coding: str = "") -> bytes:
    page = f"<title>Old</title><img src=red.png alt=Red><img src={AWAY}/elsewhere.png>".encode()
    records: list[bytes] = []
    for name, kind, body in (
        ("", "text/html", page),
        ("red.png", "image/png", RED),
        ("blue", "application/octet-stream", BLUE),
    ):
        coded = CODINGS[coding](body)
        said = f"Content-Encoding: {coding}\r\nTransfer-Encoding: chunked\r\n" if coding else ""
        coded = b"%x\r\n%s\r\n0\r\n\r\n" % (len(coded), coded) if coding else coded
        block = f"HTTP/1.1 200 OK\r\nContent-Type: {kind}\r\n{said}\r\n".encode() + coded
        head = (
            f"WARC/1.0\r\nWARC-Type: response\r\nWARC-Target-URI: {AWAY}/{name}\r\nWARC-Date: 2026-03-20T12:00:00Z\r\n"
            f"WARC-Record-ID: <urn:uuid:00000000-0000-0000-0000-00000000000{len(records)}>\r\n"
            f"Content-Type: application/http; msgtype=response\r\nContent-Length: {len(block)}\r\n\r\n"
        )
        record = head.encode() + block + b"\r\n\r\n"
        records.append(gzip.compress(record, mtime=0) if compressed else record)
    return b"".join(records)


def test_mhtml_with_sheet_frame_and_cid(run: Program, tmp_path: Path) -> None:
    (tmp_path / "saved").write_text(MHTML)
    assert packed(run, tmp_path, "saved") == {"red.png": RED, "blue.png": BLUE, "teal.png": TEAL}
    rows = run("look", "saved", "--format", "jsonl").rows
    assert {(row["url"], row["found_in"], row["alt"]) for row in rows} == {
        (f"{AWAY}/hall/red.png", "img", "Röd"),
        ("cid:blue@x", "img", None),
        (f"{AWAY}/img/teal.png", "css", None),
    }


@pytest.mark.parametrize("form", [plistlib.FMT_BINARY, plistlib.FMT_XML])
def test_page_saved_as_a_property_list(run: Program, tmp_path: Path, form: plistlib.PlistFormat) -> None:
    def resource(url: str, kind: str, octets: bytes) -> dict[str, object]:
        said: dict[str, object] = {"WebResourceURL": url, "WebResourceMIMEType": kind, "WebResourceData": octets}
        return {**said, "WebResourceTextEncodingName": "windows-1252"} if kind == "text/html" else said

    page = "<title>The hall</title><img src=red.png alt=Röd><iframe src=/frame.html></iframe><p class=back>"
    frame = {"WebMainResource": resource(f"{AWAY}/frame.html", "text/html", b"<img src=blue>"),
             "WebSubresources": [resource(f"{AWAY}/blue", "", BLUE), "odd", {"WebResourceURL": 3}]}  # fmt: skip
    archive = {
        "WebMainResource": resource(f"{AWAY}/hall/list.html", "text/html", page.encode("cp1252")),
        "WebSubresources": [resource(f"{AWAY}/hall/red.png", "image/png", RED)],
        "WebSubframeArchives": [frame],
    }
    (tmp_path / "saved").write_bytes(plistlib.dumps(archive, fmt=form))
    assert packed(run, tmp_path, "saved") == {"red.png": RED, "blue.png": BLUE}
    rows = run("look", "saved", "--format", "jsonl").rows
    assert [(row["url"], row["alt"]) for row in rows] == [(f"{AWAY}/hall/red.png", "Röd"), (f"{AWAY}/blue", None)]
    (tmp_path / "cut").write_bytes((tmp_path / "saved").read_bytes()[:300])
    assert run("look", "cut").code in {3, 4}


def test_mail_with_inline_and_attached_pictures(run: Program, tmp_path: Path) -> None:
    (tmp_path / "letter").write_text(MAIL)
    assert packed(run, tmp_path, "letter") == {"red kite.png": RED, "blue kite.png": BLUE}


def test_network_log_is_taken_as_it_is(run: Program, tmp_path: Path) -> None:
    page = f"<title>Loaded</title><a href={AWAY}/big.png><img src=red.png alt=Red></a>".encode()
    (tmp_path / "log").write_text(har(
        (f"{AWAY}/", "text/html", page), (f"{AWAY}/red.png", "image/png", RED),
        (f"{AWAY}/api?picture=2", "application/octet-stream", BLUE), (f"{AWAY}/d.svg", "image/svg+xml", b"<svg xmlns='x'></svg>"),
    ))  # fmt: skip
    assert sorted(packed(run, tmp_path, "log")) == ["api.png", "d.svg", "red.png"]
    rows = run("look", "log", "--format", "jsonl").rows
    assert [row["url"] for row in rows] == [f"{AWAY}/red.png", f"{AWAY}/api?picture=2", f"{AWAY}/d.svg"]
    assert rows[0]["alt"] == "Red"


def test_what_scripts_were_answered_names_the_pictures_of_a_log(run: Program, tmp_path: Path) -> None:
    kites = [
        {"title": "Red </script>Delta", "picture": {"url": "/img/r.png"}},
        {"title": "Evening Star", "picture": {"url": "/img/bl\u00fce.png"}},
    ]
    settings = {"title": "Galewick", "logo": f"{AWAY}/img/teal.png", "hosts": ["a" * 40]}
    (tmp_path / "log").write_text(har(
        (f"{AWAY}/wall", "text/html", b"<title>Wall</title><div id=root></div><script src=app.js></script>"),
        (f"{AWAY}/api/settings", "application/json", json.dumps(settings).encode()),
        (f"{AWAY}/api/kites?page=1", "text/plain; charset=utf-8", json.dumps({"data": kites}, ensure_ascii=False).encode()),
        (f"{AWAY}/img/r.png", "image/png", RED), (f"{AWAY}/img/bl%C3%BCe.png", "image/png", BLUE),
    ))  # fmt: skip
    rows = run("look", "log", "--format", "jsonl").rows
    # A name that is too short for one says nothing; the data is of both.
    assert [(row["url"], row["item"]) for row in rows] == [
        (f"{AWAY}/img/r.png", "Red Delta"),
        (f"{AWAY}/img/bl%C3%BCe.png", "Evening Star"),
    ]


@pytest.mark.parametrize(("compressed", "coding"), [(False, ""), (True, ""), *((False, coding) for coding in CODINGS)])
def test_web_archive(run: Program, tmp_path: Path, *, compressed: bool, coding: str) -> None:
    (tmp_path / "old").write_bytes(warc(compressed=compressed, coding=coding))
    assert packed(run, tmp_path, "old") == {"red.png": RED, "blue.png": BLUE}


def changed(octets: bytes, starts: list[int], how: str) -> bytes:
    """An archive of three records, of which the second is not whole, or the last."""
    second, third = starts[1:]
    return {
        "a byte of its start": octets[:second] + b"\0" + octets[second + 1 :],
        "bytes in it": octets[: second + 60] + b"\xff" * 4 + octets[second + 64 :],
        "cut short": octets[: third - 30] + octets[third:],
        "hardly begun": octets[: second + 40] + octets[third:],
        "something between": octets[:second] + b"\0junk" * 20 + octets[second:],
        "the end": octets[:-50],
    }[how]


DAMAGES = ["a byte of its start", "cut short", "something between", "the end"]


@pytest.mark.parametrize(
    ("how", "compressed"), [("bytes in it", True), ("hardly begun", True), *itertools.product(DAMAGES, [False, True])]
)
def test_a_damaged_web_archive_is_read_on_behind_the_damage(
    run: Program, tmp_path: Path, how: str, *, compressed: bool
) -> None:
    whole = warc(compressed=compressed)
    starts = [place for place in range(len(whole)) if whole.startswith((b"WARC/", b"\x1f\x8b\x08"), place)]
    (tmp_path / "old").write_bytes(changed(whole, starts, how))
    done = run("look", "old", "--format", "jsonl")
    assert f"the archive is damaged at byte {starts[2] if how == 'the end' else starts[1]:,}:" in done.err
    assert {"red.png" if how == "the end" else "blue"} <= {row["url"].rpartition("/")[2] for row in done.rows}


def test_a_web_archive_that_was_compressed_as_a_whole(run: Program, tmp_path: Path) -> None:
    (tmp_path / "old").write_bytes(gzip.compress(warc(compressed=False)))
    assert packed(run, tmp_path, "old") == {"red.png": RED, "blue.png": BLUE}
    (tmp_path / "large").write_bytes(gzip.compress(warc(compressed=False) + bytes(10_000)))
    assert "compressed in one piece, which is larger than --max-file" in run("look", "large", "--max-file", "1kB").out


def test_what_an_archive_has_under_another_address(run: Program, tmp_path: Path) -> None:
    def record(kind: str, name: str, fields: str, body: bytes = b"") -> bytes:
        block = b"HTTP/1.1 200 OK\r\nContent-Type: image/png\r\n\r\n" + body
        head = f"WARC/1.1\r\nWARC-Type: {kind}\r\nWARC-Target-URI: {AWAY}/{name}\r\n{fields}Content-Type: application/http\r\n"
        return f"{head}Content-Length: {len(block)}\r\n\r\n".encode() + block + b"\r\n\r\n"

    digest = "WARC-Payload-Digest: sha1:AAAA\r\n"
    (tmp_path / "old").write_bytes(
        record("revisit", "before.png", digest)
        + record("response", "red.png", digest, RED)
        + record("revisit", "named.png", f"WARC-Refers-To-Target-URI: {AWAY}/red.png\r\n")
        + record("revisit", "unknown.png", "WARC-Payload-Digest: sha1:BBBB\r\n")
    )
    rows = run("look", "old", "--format", "jsonl").rows
    assert [row["url"].rpartition("/")[2] for row in rows] == ["red.png", "before.png", "named.png"]


def test_sizes_are_known_of_what_a_source_brings_along(run: Program, tmp_path: Path) -> None:
    large = picture("PNG", (700, 500), "red")
    page = f"<img src={AWAY}/red.png>"
    (tmp_path / "warc").write_bytes(warc(compressed=True))
    (tmp_path / "har").write_text(
        har((f"{AWAY}/", "text/html", page.encode()), (f"{AWAY}/red.png", "image/png", large))
    )
    (tmp_path / "mhtml").write_text(MHTML)
    zipped({"page.html": "<img src=red.png>", "red.png": large}, tmp_path / "zip")
    for name, size in {
        "warc": (30, 20, len(RED)),
        "har": (700, 500, len(large)),
        "mhtml": (30, 20, len(RED)),
        "zip": (700, 500, len(large)),
    }.items():
        row = run("look", name, "--format", "jsonl").rows[0]
        assert (row["width"], row["height"], row["bytes"]) == size, name


def test_package_and_folder_of_pages(run: Program, tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "book", "w") as book:
        book.writestr("text/one.xhtml", "<?xml version='1.0'?><html><img src='../img/red.png'/></html>")
        book.writestr("text/two.html", "<img src='../../../outside.png'>")
        book.writestr("img/red.png", RED)
        book.writestr("cover.png", BLUE)
    done = run("pack", "book", "--crate", "c")
    assert "1 failed" in done.out
    assert "2 pictures fetched" in done.out
    with zipfile.ZipFile(tmp_path / "book") as book:
        book.extractall(tmp_path / "pages")
    assert "red.png" in run("pack", "pages", "--crate", "d").out


def test_a_folder_of_saved_pages(run: Program, tmp_path: Path) -> None:
    folder = tmp_path / "saved"
    (folder / "old").mkdir(parents=True)
    (folder / "hall.MHTML").write_text(MHTML)
    (folder / "old" / "crawl.warc.gz").write_bytes(warc(compressed=True))
    (folder / "empty.mht").write_text("")
    (folder / "list.har").write_text("https://galewick.invalid/a.png\n")
    (folder / "page.html").write_text("<img src=beside.png>")
    (folder / "beside.png").write_bytes(picture("PNG", (9, 9), "black"))
    (folder / "book.zip").write_bytes(b"a file to download")
    done = run("look", "saved", "--format", "jsonl")
    names = [row["url"].rpartition("/")[2] for row in done.rows]
    assert names == ["red.png", "teal.png", "cid:blue@x", "red.png", "blue", "beside.png"]
    assert ("is empty" in done.err, "is no saved page" in done.err, done.code) == (True, True, 0)
    for page in ("page.html", "list.har", "empty.mht", "hall.MHTML"):
        (folder / page).unlink()
    assert packed(run, tmp_path, "saved") == {"red.png": RED, "blue.png": BLUE}


RELATIVE = [
    ("Photo,Title\nphotos/red kite.png,Red\nphotos/blue.png,Blue\n", ["--name", "{column[Title]}"]),
    (
        "Maker’s photo,Näme\nphotos/red kite.png,Red\nphotos/blue.png,Blue\n",
        ["--column", "url=maker's photo", "--name", "{column[name]}"],
    ),
    ('{"Photo": "photos/red kite.png"}\n{"Photo": "photos/blue.png"}\n', []),
    ("# two\nphotos/red kite.png\nphotos/blue.png\n", []),
    ("photos/red kite.png,Red\nphotos/blue.png,Blue\n", ["--name", "{column[2]}"]),
    ("Title;Photo\nRed;./photos/red%20kite.png?v=1\nBlue;photos/blue.png\n", []),
]


@pytest.mark.parametrize(("text", "options"), RELATIVE)
def test_a_list_with_relative_addresses(
    run: Program, web: Server, tmp_path: Path, text: str, options: list[str]
) -> None:
    for root in (tmp_path, web.www):
        (root / "photos").mkdir()
        (root / "photos" / "red kite.png").write_bytes(RED)
        (root / "photos" / "blue.png").write_bytes(BLUE if root is tmp_path else TEAL)
        (root / "list.txt").write_text(text)
    names = {"Red.png", "Blue.png"} if options else {"red kite.png", "blue.png"}
    beside = packed(run, tmp_path, "list.txt", *options)
    assert (set(beside), set(beside.values())) == (names, {RED, BLUE})  # beside the list
    for source in (["list.txt", "--base", f"{web.address}/"], [f"{web.address}/list.txt"]):
        rows = run("look", *source, "--format", "jsonl").rows
        assert [row["url"].partition("?")[0] for row in rows] == [
            f"{web.address}/photos/{n}.png" for n in ("red%20kite", "blue")
        ]
    shutil.rmtree(tmp_path / "photos")
    assert "not beside the saved page or the list (--base URL" in run("pack", "list.txt", "--crate", "d").out


def test_a_workbook_with_relative_addresses(run: Program, tmp_path: Path) -> None:
    (tmp_path / "photos").mkdir()
    (tmp_path / "photos" / "red.png").write_bytes(RED)
    book = Workbook()
    assert book.active is not None
    for row in (("The archive",), (), ("No.", "File", "Kite"), (1, "photos/red.png", "Red"), (2, "away/blue", "Blue")):
        book.active.append(row)
    book.save(tmp_path / "list.xlsx")
    done = run("look", "list.xlsx", "--format", "jsonl")
    assert [(row["name"], row["width"], row["columns"]["Kite"]) for row in done.rows] == [("red", 30, "Red")]
    assert "row 2 has no web address: away/blue (--base URL" in done.err
    named = run("look", "list.xlsx", "--column", "url=File", "--base", AWAY, "--format", "urls")
    assert named.out.splitlines() == [f"{AWAY}/photos/red.png", f"{AWAY}/away/blue"]


WORK = """<oai xmlns="o"><mets:mets xmlns:mets="http://www.loc.gov/METS/" xmlns:xlink="http://www.w3.org/1999/xlink">
<mets:dmdSec><mods><titleInfo><title>Log of the north mast</title></titleInfo></mods></mets:dmdSec><mets:fileSec>
<mets:fileGrp USE="THUMBS"><mets:file ID="t1" MIMETYPE="image/jpeg"><mets:FLocat xlink:href="t/1.jpg"/></mets:file></mets:fileGrp>
<mets:fileGrp USE="DEFAULT"><mets:file ID="d1" MIMETYPE="image/jpeg"><mets:FLocat xlink:href="d/1"/></mets:file>
<mets:file ID="d2" MIMETYPE="image/jpeg"><mets:FLocat xlink:href="d/2"/></mets:file></mets:fileGrp>
<mets:fileGrp USE="FULLTEXT"><mets:file ID="x1" MIMETYPE="text/xml"><mets:FLocat xlink:href="x/1.xml"/></mets:file></mets:fileGrp>
<mets:fileGrp USE="archive image"><mets:file ID="m1"><mets:FLocat xlink:href="m/1.tif"/></mets:file></mets:fileGrp></mets:fileSec>
<mets:structMap TYPE="LOGICAL"><mets:div ID="c1" LABEL="Spring"/></mets:structMap><mets:structMap TYPE="PHYSICAL"><mets:div>
<mets:div ID="p1" LABEL="Cover"><mets:fptr FILEID="d1"/><mets:fptr FILEID="x1"/><mets:fptr FILEID="t1"/><mets:fptr FILEID="m1"/></mets:div>
<mets:div ID="p2" TYPE="page" ORDERLABEL="2r"><mets:fptr><mets:area FILEID="d2"/></mets:fptr></mets:div>
<mets:div ID="p3" TYPE="page"><mets:fptr FILEID="x1"/></mets:div></mets:div></mets:structMap>
<mets:structLink><mets:smLink xlink:from="c1" xlink:to="p1"/></mets:structLink></mets:mets>"""


def test_the_parts_of_a_digitised_work(run: Program, tmp_path: Path) -> None:
    (tmp_path / "work.xml").write_text(WORK.replace('href="', f'href="{AWAY}/'))
    rows = run("look", "work.xml", "--format", "jsonl").rows
    told = [(row["item"], row["heading"], row["url"].removeprefix(f"{AWAY}/"), len(row["candidates"])) for row in rows]
    work = "Log of the north mast"
    assert told == [("Cover", "Spring", "m/1.tif", 2), ("page 2r", work, "d/2", 0)]
    assert rows[0]["item_from"] == f"part 1 of the record “{work}”; named by its label"


XML = {
    "METS, by the type that a file states": (
        '<mets:mets xmlns:mets="m" xmlns:xlink="x"><mets:file MIMETYPE="image/jpeg"><mets:FLocat xlink:href="https://k.example/0001"/>'
        '</mets:file><mets:file MIMETYPE="text/xml"><mets:FLocat xlink:href="https://k.example/0002"/></mets:file></mets:mets>',
        ["0001"],
    ),
    "TEI, beside it": (
        '<TEI xmlns="t"><graphic url="a.png"/><p>x<graphic url="b/c d.png"/></p></TEI>',
        ["a.png", "c%20d.png"],
    ),
    "RDF that is no feed": (
        '<rdf:RDF xmlns:rdf="r" xmlns:e="e"><e:isShownBy rdf:resource="https://k.example/1.jpg"/></rdf:RDF>',
        ["1.jpg"],
    ),
    "an export": (
        "<?xml version='1.0'?><!-- kites --><kites><kite><name>Red</name><thumb>https://k.example/1t.jpg</thumb>"
        "<large type='jpeg'>https://k.example/1.jpg</large></kite><kite><name>Blue</name>"
        "<large>https://k.example/2.jpg</large></kite><text><![CDATA[<img src='https://k.example/3.jpg'>]]></text>",
        ["1t.jpg", "2.jpg", "3.jpg"],
    ),
    "products": (
        '<rss xmlns:g="g"><channel><item><g:title>Red</g:title><g:image_link>https://k.example/1.jpg</g:image_link>'
        "<g:additional_image_link>https://k.example/2.jpg</g:additional_image_link></item></channel></rss>",
        ["1.jpg", "2.jpg"],
    ),
    "no file of data": ('<my-app xmlns:k="k"><img src=a.png><img src=b.png></my-app>', ["a.png", "b.png"]),
}


@pytest.mark.parametrize("name", XML)
def test_files_of_data_in_xml(run: Program, tmp_path: Path, name: str) -> None:
    text, expected = XML[name]
    (tmp_path / "data").write_text(text)
    rows = run("look", "data", "--format", "jsonl").rows
    assert [row["shown_url"].rpartition("/")[2] for row in rows] == expected
    if name == "an export":
        assert [(row["url"][-5:], row["item"]) for row in rows] == [
            ("1.jpg", "Red"),
            ("2.jpg", "Blue"),
            ("3.jpg", None),
        ]


def test_a_source_may_be_what_a_command_writes(run: Program, tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    writer = threading.Thread(target=(tmp_path / "pipe").write_bytes, args=(warc(compressed=True),))
    writer.start()
    rows = run("look", "pipe", "--format", "jsonl").rows
    writer.join()
    assert [(row["url"], row["width"]) for row in rows] == [(f"{AWAY}/red.png", 30), (f"{AWAY}/blue", 31)]


SEVERAL = [
    ('Name,Images\nRed,"{a}, {b}"\nBlue,{c}\n', []),
    ('Name,Images\nRed,"{a};{b}"\nBlue,{c}\n', []),
    ("Name,Images\nRed,{a}|{b}\nBlue,{c}\n", []),
    ('Name,Images\nRed,"{a}\n{b}"\nBlue,{c}\n', []),
    ("Name\tOne\tTwo\tPage\nRed\t{a}\t{b}\tx\nBlue\t{c}\t\tx\n", ["--column", "url=one", "--column", "url=3"]),
    ('{{"name": "Red", "images": ["{a}", "{b}"]}}\n{{"name": "Blue", "images": ["{c}"]}}\n', []),
]


LINES = [
    "{0}\n{1}",
    "1. {0}\n2. {1}",
    "{0} {1}",
    "[Red]({0})\n[Blue]({1})",
    "[img]{0}[/img]\n[img]{1}[/img]",
    "Red: {0}, blue: {1}.",
]


@pytest.mark.parametrize("text", LINES)
def test_lines_that_hold_addresses(run: Program, tmp_path: Path, text: str) -> None:
    urls = ["https://k.example/red.jpg", "https://k.example/blue.jpg"]
    (tmp_path / "list").write_text(text.format(*urls) + "\n")
    assert run("look", "list", "--as-shown", "--format", "urls").out.split() == urls


WRAPPED = [
    '"=IMAGE(""{0}"",1)"',
    '"=HYPERLINK(""{0}"",""the kite"")"',
    '"<p>Red<img class=x src=""{0}"" alt=x><a href=""https://k.example/page"">more</a>"',
    "![Red]({0})",
    '"[""{0}""]"',
    '"{{""url"":""{1}""}}"',
    "red.jpg ({0})",
    "{0} (2 MB)",
    "<{0}>",
    "See {0}.",
]
"""how a cell may hold an address that is not the address itself"""


@pytest.mark.parametrize("cell", WRAPPED)
def test_addresses_within_the_words_of_a_cell(run: Program, tmp_path: Path, cell: str) -> None:
    urls = ["https://k.example/red_(1).jpg", "https://k.example/blue.jpg"]
    cells = [cell.format(url, url.replace("/", "\\/")) for url in urls]
    (tmp_path / "list").write_text("Name,Picture\n" + "".join(f"Kite {n},{one}\n" for n, one in enumerate(cells)))
    done = run("look", "list", "--format", "jsonl")
    assert [(row["url"], row["name"]) for row in done.rows] == [(urls[0], "Kite 0"), (urls[1], "Kite 1")]


@pytest.mark.parametrize(("text", "options"), SEVERAL)
@pytest.mark.parametrize("stem", ["https://k.example/", "photos/"])
def test_several_pictures_in_one_row_of_a_list(
    run: Program, tmp_path: Path, text: str, options: list[str], stem: str
) -> None:
    (tmp_path / "list").write_text(text.format(**{name: f"{stem}{name}.jpg" for name in "abc"}))
    rows = run("look", "list", *options, "--format", "jsonl").rows
    assert [(row["url"][-5:], row["name"]) for row in rows] == [("a.jpg", "Red"), ("b.jpg", "Red 2"), ("c.jpg", "Blue")]


AS_PEOPLE_WRITE_THEM = [
    ("www.kites.example/hall", "https://www.kites.example/hall"), ("kites.org", "https://kites.org/"),
    ("hall.kites.fi:8080/a?b", "https://hall.kites.fi:8080/a?b"), ("- https://k.example/a", "https://k.example/a"),
    ("12) \"https://k.example/a\",", "https://k.example/a"), ("HTTP://k.example/a;", "http://k.example/a"),
    ("notes.md", None), ("hall/www.kites.example", None), ("www.kites.example/a.jpg", "file:///k/www.kites.example/a.jpg"),
    ("1. kite.jpg", "file:///k/1.%20kite.jpg"), ("a.jpg,", None), ("ino@kites.org", None),
]  # fmt: skip


@pytest.mark.parametrize(("line", "expected"), AS_PEOPLE_WRITE_THEM)
def test_addresses_as_people_write_them(line: str, expected: str | None) -> None:
    origin = ListOrigin("list.txt", home="file:///k/list.txt")
    assert [origin.resolve(entry.address) for entry in addresses_in([line])] == [expected]


TITLED = [
    ("{a}\tRed delta\n{a}?b\tBlue box\n", "2", "Red delta"),
    ("Produkt,Titel,Bild\nK-1,Roter Drachen,{a}\n", "Titel", "Roter Drachen"),
    ("SKU,Product name,Image\nK-1,Red delta,{a}\n", "Product name", "Red delta"),
    ("\u540d\u79f0;\u56fe\u7247\n\u7ea2;{a}\n", "\u540d\u79f0", "\u7ea2"),
    ("Item no,Maker,Image\n7,Ino Hallas,{a}\n", "", "8f3a9c1be77d4"),
    ("Product,title,Image\nK-1,Red delta,{a}\n", "", "Red delta"),
]


@pytest.mark.parametrize(("text", "header", "name"), TITLED)
def test_titles_in_lists_name_what_its_address_does_not(
    run: Program, tmp_path: Path, text: str, header: str, name: str
) -> None:
    (tmp_path / "list.csv").write_text(text.replace("{a}", "https://kites.example/f/8f3a9c1be77d4.jpg"), "utf-8")
    done = run("look", "list.csv")
    assert (f"titles from “{header}”" in done.out, "titles from" in done.out) == (bool(header), bool(header))
    assert run("look", "list.csv", "--format", "jsonl").rows[0]["name"] == name


COLUMNS = [
    ("# exported in May\n\nweb page;Titel;Foto (URL)\n{p};Red;{a}\n", "Foto (URL)", "web page", ""),
    ("record_url,url,Image\n{p},{p},{a}\n", "Image", "record_url", ""),
    ("thumbnail_url,image_url,Description\n{a}-t.jpg,{a},Painted silk\n", "image_url", "", "Painted silk"),
    ("url,thumbnail\n{a},{a}-t.jpg\n", "url", "", ""),
    ("#,site,photo\n1,kites.example,{a}\n", "photo", "", ""),
    ("Picture page,Scan\n{a}.jpg,{a}\n", "Picture page", "", ""),
    ("tytuł,strona,zdjęcie,opis\nRed,{p},{a},Painted silk\n", "zdjęcie", "strona", "Painted silk"),
]


@pytest.mark.parametrize(("text", "address", "page", "caption"), COLUMNS)
def test_which_column_is_what_by_the_words_of_its_header(
    run: Program, tmp_path: Path, text: str, address: str, page: str, caption: str
) -> None:
    found = {"a": "https://kites.example/media/9", "p": "https://kites.example/kites/9"}
    (tmp_path / "list.csv").write_text(text.format(**found))
    (row,) = run("look", "list.csv", "--format", "jsonl").rows
    assert row["columns"][address] == row["url"]
    assert (row["page"] or "", row["caption"] or "") == (found["p"] if page else "", caption)


def test_a_list_without_schemes(run: Program, tmp_path: Path) -> None:
    (tmp_path / "list.csv").write_text("Maker;Site\nIno;www.kites.example/ino\nTam;kites.org/tam\n")
    (tmp_path / "list.txt").write_text("www.kites.example/ino\nkites.org/tam\n")
    (tmp_path / "bare.csv").write_text("Ino,www.kites.example/ino\nTam,kites.org/tam\n")
    for name in ("list.csv", "list.txt", "bare.csv"):
        urls = run("look", name, "--format", "urls").out.split()
        assert urls == ["https://www.kites.example/ino", "https://kites.org/tam"]
    for photo in ("https://kites.example/a.jpg", "photos/a.jpg"):  # a site beside it is no picture's address
        (tmp_path / "both.csv").write_text(f"Site;Foto\nkites.org;{photo}\nwww.kites.org;{photo}\n")
        assert "addresses from the column “Foto”" in run("look", "both.csv").out


def test_of_several_columns_with_addresses_it_is_said_which_is_taken(run: Program, tmp_path: Path) -> None:
    text = f"Photo,Page,Back\n{AWAY}/a.jpg,{AWAY}/a,{AWAY}/b.jpg\n{AWAY}/c.jpg {AWAY}/d.jpg,x,\nnone,x,x\n"
    (tmp_path / "list").write_text(text)
    done = run("look", "list")
    assert "addresses from the column “Photo” (not from “Page”, “Back”)" in done.out
    assert ("row 3 has no web address: none" in done.out, "3 pictures" in done.out) == (True, True)


def test_a_list_that_may_be_one_of_pages_says_so(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "hall.html").write_text("<img src=red.png>")
    (web.www / "red.png").write_bytes(RED)
    said = "if these are the addresses of pages: --list-of pages looks into them"
    (tmp_path / "list.csv").write_text(f"name,website\nHall,{web.address}/hall.html\n")
    for line in (("look", "list.csv"), ("pack", "list.csv", "--crate", "c")):
        assert said in run(*line).out
    assert "1 picture on 1 page" in run("look", "list.csv", "--list-of", "pages").out
    (tmp_path / "list.csv").write_text(f"name,photo\nRed,{web.address}/red.png\n")
    assert said not in run("look", "list.csv").out


PLAIN_SITEMAP = '<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{}</urlset>'
ALTERNATE = '<x:link xmlns:x="http://www.w3.org/1999/xhtml" rel="alternate" hreflang="nl" href="nl/{}"/>'
OF_ENTRIES: list[tuple[str, str, str, str]] = [
    (PLAIN_SITEMAP, f"<url>{ALTERNATE}<loc>{{}}</loc></url>", "entries", ""),
    (
        "<rss><channel><title>Kite news</title><link>x</link>{}</channel></rss>",
        "<item><title>t</title><link>{}</link></item>",
        "Kite news",
        "",
    ),
    (
        "<rss><channel><link>x</link>{}</channel></rss>",
        '<item><guid>{}</guid><guid isPermaLink="false">n</guid></item>',
        "entries",
        "",
    ),
    (
        '<feed xmlns="http://www.w3.org/2005/Atom"><title>News</title>{}</feed>',
        '<entry><link rel="self" href="x"/><link href="{}"/></entry>',
        "News",
        "",
    ),
    (
        '{{"version": "https://jsonfeed.org/version/1.1", "title": "News", "items": [{}]}}',
        '{{"id": "1", "url": "{}"}}',
        "News",
        ", ",
    ),
    (
        "<!DOCTYPE NETSCAPE-Bookmark-file-1><H1>Bookmarks</H1><DL><p>{}</DL>",
        '<DT><A HREF="{}" ICON="data:image/gif;base64,R0lGODlhAQABAAAAACw=">t</A>',
        "entries",
        "",
    ),
    (
        '<?xml version="1.0"?><opml version="2.0"><head><title>Kites I read</title></head><body><outline text="Coast">{}</outline></body></opml>',
        '<outline type="rss" text="t" xmlUrl="{}" htmlUrl="https://kites.example/none"/><outline text="no address"/>',
        "Kites I read",
        "",
    ),
    ("# pages\n{}", "<{}>", "entries", "\n"),
]


@pytest.mark.parametrize(("around", "entry", "title", "between"), OF_ENTRIES)
def test_a_list_of_pages_may_be_a_feed_a_sitemap_or_bookmarks(
    run: Program, web: Server, tmp_path: Path, around: str, entry: str, title: str, between: str
) -> None:
    (web.www / "red.png").write_bytes(RED)
    names = ("hall.html", "loft.html", "hall.html")
    for name in names:
        (web.www / name).write_text(f"<title>{name}</title><img src=red.png?{name}>")
    listed = between.join(entry.format(*[f"{web.address}/{name}"] * entry.count("{}")) for name in names)
    (tmp_path / "entries.xml").write_text(around.format(listed))
    pages = {
        row["page"].rpartition("/")[2]
        for row in run("look", "entries.xml", "--list-of", "pages", "--format", "jsonl").rows
    }
    assert pages == {"hall.html", "loft.html"}
    run("pack", "entries.xml", "--list-of", "pages", "--into", "c")
    assert [crate.name for crate in (tmp_path / "c").iterdir()] == [title]  # whichever entry comes first next week


def test_how_many_pages_of_a_list_could_not_be_read(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "hall.html").write_text("<img src=red.png>")
    (web.www / "red.png").write_bytes(RED)
    (tmp_path / "list").write_text("\n".join(f"{web.address}/{name}" for name in ("a", "hall.html", "b", "c", "d")))
    done = run("pack", "list", "--list-of", "pages", "--crate", "c")
    assert "4 sources could not be read: " in done.out
    assert ("/a: the server answered 404 Not Found; " in done.out, "; 1 more" in done.out, done.code) == (True, True, 1)
    assert "4 sources could not be read" in run("look", "list", "--list-of", "pages").out


def test_no_more_pages_are_read_than_the_limit_needs(run: Program, web: Server, tmp_path: Path) -> None:
    for n in range(60):
        (web.www / f"{n}.html").write_text(
            f"<img src=a{n}.png width=90 height=90><img src=b{n}.png width=90 height=90>"
        )
    (tmp_path / "list").write_text("\n".join(f"{web.address}/{n}.html" for n in range(60)))
    line = ("look", "list", "--list-of", "pages", "--limit", "3")
    assert "2 pages of the list: --limit is reached, and the next ones were not read" in run(*line).out
    assert sum(".html" in line for line in web.requests()) <= 16
    assert "120 found → limit −117 → 3 picked" in run(*line, "--sort", "url").out


def test_a_list_of_pages_may_be_an_index_of_sitemaps_and_name_itself(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "red.png").write_bytes(RED)
    (web.www / "hall.html").write_text("<img src=red.png>")
    (web.www / "own.xml").write_text(PLAIN_SITEMAP.format(f"<url><loc>{web.address}/hall.html</loc></url>"))
    index = "<sitemapindex><sitemap><loc>{}</loc></sitemap></sitemapindex>"
    (tmp_path / "index.xml").write_text(index.format(f"{web.address}/own.xml"))
    assert "1 picture on 1 page" in run("look", "index.xml", "--list-of", "pages").out
    assert "--list-of pages looks into those" in run("look", "index.xml").err
    (tmp_path / "news.xml").write_text(
        f"<rss><item><enclosure url='{web.address}/red.png' type='image/png'/></item></rss>"
    )
    assert "its entries have no titles: --list-of pages looks into" in run("look", "news.xml", "--items", "all").out
    (web.www / "own.txt").write_text(f"{web.address}/own.txt\n")
    assert [
        row["url"] for row in run("look", f"{web.address}/own.txt", "--list-of", "pages", "--format", "jsonl").rows
    ] == [f"{web.address}/own.txt"]


NOTE = """---
title: "Kites of the coast"
---
# Kites
![Red delta](kites/red.png "The red one")
[![Box](box-s.png)](box.png) ![[loft.png|300]] ![][one] `![code](no.png)`
```
![code](no.png)
```
## Workshop
![Bridle](<in use.png>) <img src=html.png>
[one]: https://galewick.invalid/one.jpg "One"
"""
TEXTS: list[tuple[str, list[tuple[str, str]]]] = [
    (NOTE, [("red", "Red delta"), ("box", "Box"), ("loft", ""), ("one", ""), ("in use", "Bridle"), ("html", "")]),
    (
        f"Ino: look at this {AWAY}/a.jpg\nPell: and {AWAY}/b_(1).png?w=9, too ({AWAY}/c.webp)!\n{AWAY}/d",
        [("a", ""), ("b_(1)", ""), ("c", "")],
    ),
    (f"26/11/2026, 10:02 - Pell: look {AWAY}/a.jpg\n26/11/2026, 10:03 - Ino: {AWAY}/b.jpg", [("a", ""), ("b", "")]),
    (
        "= Kites of the coast\n:imagesdir: i\n\n.The red one\nimage::a.png[Red delta,link=big.html]\n\n"
        ":files: i\n----\nimage::no.png[]\n----\nSee image:{files}/b.png[Box, 300] and link:c.png[the loft].\n",
        [("a", "Red delta"), ("b", "Box"), ("c", "")],
    ),
    (
        "Kites\n=====\n\n.. figure:: i/a.png\n   :alt: Red delta\n   :target: big.html\n\n   The red one\n\n"
        ".. |box| image:: b.png\n",
        [("a", "Red delta"), ("b", "box")],
    ),
    (
        "Kites are shown so::\n\n  .. image:: no.png\n\n.. code:: rst\n\n   .. image:: no.png\n\n.. image:: i/\n   a.png\n   :alt: Red delta\n"
        ".. image:: b.png\n\n::\n\n    .. image:: no.png\n",
        [("a", "Red delta"), ("b", "")],
    ),
    (
        "![Red\n*delta*](a.png) and ![Box [of\n  Ino]\n][b]\n\n![loft]\n![no] \\![loft] ![a\n\nb](no.png)\n\n"
        "[LOFT]: c.png 'The  loft'\n[b]: b.png\n",
        [("a", "Red delta"), ("b", "Box [of Ino]"), ("c", "loft")],
    ),
    (
        "import Red, { x } from './hall/a.png';\nimport Card from './card'\n\n# Kites\n\n<img src={Red.src} alt='Red delta' /> {x}\n"
        "<Card photo={require('./b.png').default}/>\n<img src={'c.png'}/><img src={none}/>\n",
        [("a", "Red delta"), ("b", ""), ("c", "")],
    ),
    ("> ![The box\n> of Ino](a.png)\n\n![x [y](z)](b.png)", [("a", "The box of Ino"), ("b", "x y")]),
    ("* Kites\n#+CAPTION: The red one\n[[file:i/a.png]]\n[[c.html][./b.png]]\n", [("a", ""), ("b", "")]),
    ("h1. Kites\n\n!i/a.png(Red delta)!:big.html and !b.png!\n", [("a", "Red delta"), ("b", "")]),
    (
        f'[b]Kites[/b]\n[url={AWAY}/c.html][img alt="Red delta"]{AWAY}/a.png[/img][/url]\n[img]{AWAY}/b[/img]',
        [("a", "Red delta"), ("b", "")],
    ),
    ("body { color: red; background: url('a.jpg') }\n.wall { background-image: url(b.png) }", [("a", ""), ("b", "")]),
    ("const kites = [{src: 'hall/a.jpg', name: '</script>'}, {src: \"b.png\"}];", [("a", ""), ("b", "")]),
]


@pytest.mark.parametrize(("text", "expected"), TEXTS)
def test_a_text_that_names_pictures(run: Program, tmp_path: Path, text: str, expected: list[tuple[str, str]]) -> None:
    (tmp_path / "text").write_text(text)
    rows = run("look", "text", "--format", "jsonl").rows
    assert [(row["name"].partition(".")[0], row["alt"] or "") for row in rows] == expected
    done = run("pack", "text", "--dry-run", "--limit", "1")
    assert text is not NOTE or "crates/Kites of the coast/" in done.out


GRIDS = """Kites
=====

| Picture | Name | Maker |
|---|:-:|---|
| ![](a.jpg) | Red \\| Delta | Ino Hallas |
| ![](b.jpg) | Blue Box | Mira Tolland
Then:
> - ![](c.jpg) **Crow**, 1912
> - [x] ![](d.jpg) **Gull**, 1920
>   - ![](e.jpg)
>     Tern

Lofts
---
| ![](f.jpg) | ![](g.jpg) |
|:---:|:---:|
| *Pike* | *Heron* |

- - -
1912. was a good year
![](h.jpg "Swift")
"""


def test_tables_and_lists_in_notes(run: Program, tmp_path: Path) -> None:
    (tmp_path / "grids.md").write_text(GRIDS)
    rows = run("look", "grids.md", "--format", "jsonl").rows
    assert [(row["name"], row["item"], row["heading"]) for row in rows] == [
        ("a", "Red | Delta", "Kites"),
        ("b", "Blue Box", "Kites"),
        ("c", "Crow", "Kites"),
        ("d", "Gull", "Kites"),
        ("e", "Tern", "Kites"),
        ("f", "Pike", "Lofts"),
        ("g", "Heron", "Lofts"),
        ("h", None, "Lofts"),
    ]
    assert rows[0]["columns"] == {"Name": "Red | Delta", "Maker": "Ino Hallas"}


GRIDS_IN = {
    "AsciiDoc": '= Kites\n\n[cols="1,2,1"]\n.Deltas\n|===\n|Picture |Name |Maker\n\n|image:a.png[]\n|Red \\| Delta\n|Ino Hallas\n\n'
    "a|image::b.png[] |Blue Box |Pell\n|===\n\n* image:c.png[] *Crow*\n** image:d.png[] _Gull_\n",
    "AsciiDoc without a head": "= Kites\n\n|===\n|image:a.png[]\n|Red \\| Delta\n\n|image:b.png[]\n|Blue Box\n|===\n\n"
    ". image:c.png[] Crow\n. image:d.png[] Gull\n",
    "reStructuredText": "Kites\n=====\n\n.. list-table:: Deltas\n\n   * - .. image:: a.png\n     - Red | Delta\n   * - .. image:: b.png\n"
    "     - Blue Box\n\nSleds\n\n* Crow\n\n  .. image:: c.png\n\n* Gull\n\n  .. image:: d.png\n",
    "Org": "* Kites\n| Picture | Name | Maker |\n|---+---+---|\n| [[file:a.png]] | Red \\| Delta | Ino Hallas |\n| [[file:b.png]] | Blue Box | Pell |\n"
    "- [[file:c.png]] *Crow*\n- [[file:d.png]] *Gull*\n",
    "Textile": "h1. Kites\n\n|_. Picture |_. Name |_. Maker |\n| !a.png! | Red \\| Delta | Ino Hallas |\n| !b.png! | Blue Box | Pell |\n\n"
    "# !c.png! *Crow*\n# !d.png! *Gull*\n",
}


@pytest.mark.parametrize("notation", GRIDS_IN)
def test_tables_and_lists_in_other_notations(run: Program, tmp_path: Path, notation: str) -> None:
    (tmp_path / "text").write_text(GRIDS_IN[notation])
    rows = {row["name"]: row for row in run("look", "text", "--format", "jsonl").rows}
    assert [rows[name]["item"] for name in "abcd"] == ["Red | Delta", "Blue Box", "Crow", "Gull"]
    has_heads = "Ino Hallas" in GRIDS_IN[notation]
    assert rows["a"]["columns"] == ({"Name": "Red | Delta", "Maker": "Ino Hallas"} if has_heads else None)


POST = """+++
title = "Kites of the coast"
cover = "i/cover.jpg"
images = ["i/one.jpg", 'i/two.jpg' ]
+++
{{< figure src="i/a.jpg" alt="Red" caption="The loft in May" >}}
{% img left /i/b.jpg 300 200 'Gull' %} {{% note %}} {% raw a.css %}
{{<image url='i/c.jpg?w=9' title="Tern">}}

:::{figure} i/d.png
:alt: Pike

Pike in
the wind
:::

``` {figure} none.png
```
"""


@pytest.mark.parametrize("mark", ["+++", "---"])
def test_shortcodes_directives_and_front_matter_of_notes(run: Program, tmp_path: Path, mark: str) -> None:
    (tmp_path / "post").write_text(POST.replace("+++", mark))
    rows = run("look", "post", "--format", "jsonl").rows
    assert [(row["name"], row["alt"], row["caption"]) for row in rows] == [
        ("cover", None, None),
        ("one", None, None),
        ("two", None, None),
        ("a", "Red", "The loft in May"),
        ("b", "Gull", None),
        ("c", "Tern", None),
        ("d", "Pike", "Pike in the wind"),
    ]
    assert "crates/Kites of the coast/" in run("pack", "post", "--dry-run").out


def test_emphasis_in_notes(run: Program, tmp_path: Path) -> None:
    (tmp_path / "note.md").write_text(
        "# Kites of *spring* and `wind`\n\n![The __red__ one, A*](a_b_c.jpg)\n*The loft in May*\n\n"
        "A snake_case_name, 2 * 3 * 4 and \\*stars\\*\n## A **loud** one\n![x](<d *e*.jpg>)\n"
    )
    first, second = run("look", "note.md", "--format", "jsonl").rows
    assert (first["alt"], first["caption"], first["name"]) == ("The red one, A*", "The loft in May", "a_b_c")
    assert (second["heading"], second["caption"], second["name"]) == (
        "A loud one",
        None,
        "d - e-",
    )  # as file names may be
    assert "crates/Kites of spring and wind/" in run("pack", "note.md", "--dry-run").out


LABELLED = {
    "a list in YAML": "kites:\n  - title: Red delta\n    images:\n      - file: i/a.jpg\n        alt: Front\n"
    "      - file: i/a2.jpg\n    maker: Ino Hallas\n\n  - title: 'Blue box'\n    image: i/b.jpg\n    maker: Pell\n",
    "a map in YAML": "# of the coast\nred-delta:\n  title: Red delta\n  image: i/a.jpg\n  maker: Ino Hallas\n"
    "blue-box:\n  title: Blue box\n  image: i/b.jpg\n  maker: Pell\n",
    "TOML": '[[kite]]\ntitle = "Red delta"\nimage = "i/a.jpg"\nmaker = "Ino Hallas"\n\n'
    '[[kite]]\ntitle = "Blue box"\nimage = "i/b.jpg"\nmaker = "Pell"\n',
    "sections": "[Red delta]\nimage=AWAY/i/a.jpg\nmaker=Ino Hallas\n; the other\n[Blue box]\nimage=AWAY/i/b.jpg\nmaker=Pell\n",
    "blocks": "Name: Red delta\nPhoto: i/a.jpg\nMaker: Ino Hallas\n\nName: Blue box\nPhoto: i/b.jpg\nMaker: Pell\n",
    "a bibliography": "@misc{a,\n title = {Red delta},\n url = {AWAY/i/a.jpg},\n maker = {Ino Hallas}\n}\n"
    "@misc{b,\n title = {Blue box},\n url = {AWAY/i/b.jpg},\n maker = {Pell}\n}\n",
    "cards": "BEGIN:VCARD\nFN:Red delta\nPHOTO;TYPE=home:AWAY/i/a.jpg\nMAKER:Ino Hallas\nEND:VCARD\n"
    "BEGIN:VCARD\nFN:Blue box\nPHOTO:AWAY/i/b.jpg\nMAKER:Pell\nEND:VCARD\n",
}


@pytest.mark.parametrize("kind", LABELLED)
def test_records_of_labelled_lines(run: Program, tmp_path: Path, kind: str) -> None:
    (tmp_path / "kites").write_text(LABELLED[kind].replace("AWAY", AWAY))
    rows = run("look", "kites", "--format", "jsonl").rows
    told = {row["url"].rpartition("/")[2]: (row["item"], row["columns"].popitem()[1]) for row in rows}
    assert (told["a.jpg"], told["b.jpg"]) == (("Red delta", "Ino Hallas"), ("Blue box", "Pell"))


def test_one_record_of_labelled_lines_is_all_that_its_file_is_about(run: Program, tmp_path: Path) -> None:
    (tmp_path / "kite.yaml").write_text("title: Red delta\nimage: i/a.jpg\nmaker: Ino Hallas\n")
    assert [row["item"] for row in run("look", "kite.yaml", "--format", "jsonl").rows] == ["Red delta"]


def test_names_in_the_lines_above_addresses(run: Program, tmp_path: Path) -> None:
    (tmp_path / "kites").write_text(f"Red delta\n{AWAY}/a.jpg\n\nBlue box\n{AWAY}/b.jpg\n")
    assert [row["link_text"] for row in run("look", "kites", "--format", "jsonl").rows] == ["Red delta", "Blue box"]


def test_what_only_looks_like_labels_is_a_text(run: Program, tmp_path: Path) -> None:
    (tmp_path / "chat").write_text(f"Ino: {AWAY}/a.jpg\nPell: how it flies!\nIno: look at {AWAY}/b.jpg\n" * 2)
    urls = run("look", "chat", "--format", "urls").out.split()
    assert urls == [f"{AWAY}/a.jpg", f"{AWAY}/b.jpg"]


FIELDS_OF_XML = {
    "sizes": '<kite><name>NAME</name><image size="small">AWAY/t/FILE</image><image size="large">AWAY/FILE</image></kite>',
    "access": '<mods><titleInfo><title>NAME</title></titleInfo><location><url access="preview">AWAY/t/FILE</url>'
    '<url access="raw object">AWAY/FILE</url></location></mods>',
    "an answer to a query": '<result><binding name="itemLabel"><literal>NAME</literal></binding><binding name="image">'
    "<uri>AWAY/FILE</uri></binding></result>",
    "words with emphasis": '<fig><label>Figure 1</label><caption><p><b>NAME</b></p></caption><graphic href="AWAY/FILE"/></fig>',
    "named fields": '<row><field name="title">NAME</field><field name="image">AWAY/FILE</field></row>',
    "elements of a schema": '<item><dcvalue element="title">NAME</dcvalue><dcvalue element="identifier">AWAY/FILE</dcvalue></item>',
    "a record of a library": '<record><datafield tag="245"><subfield code="a">NAME /</subfield><subfield code="c">Ino</subfield></datafield>'
    '<datafield tag="856"><subfield code="u">AWAY/FILE</subfield></datafield></record>',
}


@pytest.mark.parametrize("kind", FIELDS_OF_XML)
def test_fields_of_xml_that_their_attributes_name(run: Program, tmp_path: Path, kind: str) -> None:
    one = FIELDS_OF_XML[kind].replace("AWAY", AWAY)
    kites = {"a.jpg": "Red delta", "b.jpg": "Blue box"}
    rows = "".join(one.replace("NAME", name).replace("FILE", file) for file, name in kites.items())
    (tmp_path / "kites").write_text(f'<?xml version="1.0"?><kites>{rows}</kites>')
    found = run("look", "kites", "--format", "jsonl").rows
    assert {row["url"].removeprefix(f"{AWAY}/"): row["item"] for row in found} == kites


DATA: list[tuple[str, list[str]]] = [
    (
        '{"items": [{"href": "AWAY/p/1", "contentType": "image/png"}, {"href": "AWAY/v/1", "contentType": "video/mp4"}]}',
        ["p/1"],
    ),
    (
        '{"attachment": [{"type": "Document", "mediaType": "image/jpeg", "url": "AWAY/m/9f3a", "name": "Red"}], "url": "AWAY/n/1"}',
        ["m/9f3a"],
    ),
    (
        '{"results": [{"name": "Red", "image_url": "AWAY/i/1"}, {"name": "Box", "image_url": "AWAY/i/2"}]}',
        ["i/1", "i/2"],
    ),
]


@pytest.mark.parametrize(("data", "expected"), DATA)
def test_data_whose_pictures_have_no_endings(run: Program, tmp_path: Path, data: str, expected: list[str]) -> None:
    (tmp_path / "data").write_text(data.replace("AWAY", AWAY))
    assert run("look", "data", "--format", "urls").out.split() == [f"{AWAY}/{path}" for path in expected]


def test_a_folder_of_notes_is_read_where_it_has_no_pages(run: Program, tmp_path: Path) -> None:
    (tmp_path / "notes").mkdir()
    (tmp_path / "notes" / "red.png").write_bytes(RED)
    (tmp_path / "notes" / "a.md").write_text("![Red](red.png)")
    (tmp_path / "notes" / "b.md").write_text("no picture here")
    (tmp_path / "notes" / "b.mdx").write_text("![Two](red.png)")
    (tmp_path / "notes" / "c.rst").write_text(".. image:: red.png\n   :alt: Again\n")
    (tmp_path / "notes" / "d.rst").write_text("no picture here")
    rows = run("look", "notes", "--format", "jsonl").rows
    assert [(row["alt"], row["width"]) for row in rows] == [("Red", 30), ("Two", 30), ("Again", 30)]
    (tmp_path / "notes" / "page.html").write_text("<img src=red.png alt=Page>")
    assert [row["alt"] for row in run("look", "notes", "--format", "jsonl").rows] == ["Page"]


def test_a_folder_of_pictures_is_a_list_of_them(run: Program, tmp_path: Path) -> None:
    (tmp_path / "photos" / "red").mkdir(parents=True)
    (tmp_path / "photos" / "red" / "a b.png").write_bytes(RED)
    (tmp_path / "photos" / "teal.PNG").write_bytes(TEAL)
    (tmp_path / "photos" / "notes.txt").write_text("x")
    (tmp_path / "out.png").write_bytes(RED)
    (tmp_path / "photos" / "link.png").symlink_to(tmp_path / "out.png")
    rows = run("look", "photos", "--format", "jsonl").rows
    assert [(row["name"], row["width"]) for row in rows] == [("a b", 30), ("teal", 32)]
    assert len(packed(run, tmp_path, "photos")) == 2
    assert "is a crate, and no page" in run("look", "crates/c").err


SHORTCUTS = {
    "a.url": "[InternetShortcut]\r\nIconIndex=0\r\nURL={}\r\n",
    "a.desktop": "[Desktop Entry]\nType=Link\nURL={}\n",
    "a.webloc": "<?xml version='1.0'?><plist version='1.0'><dict><key>URL</key><string>{}</string></dict></plist>",
}


@pytest.mark.parametrize("name", SHORTCUTS)
def test_a_shortcut_leads_to_its_page(run: Program, web: Server, tmp_path: Path, name: str) -> None:
    (web.www / "hall.html").write_text("<title>Hall</title><img src=red.png>")
    (web.www / "red.png").write_bytes(RED)
    (tmp_path / "saved").mkdir()
    (tmp_path / "saved" / name).write_text(SHORTCUTS[name].format(f"{web.address}/hall.html"))
    for source in (f"saved/{name}", "saved", f"view-source:{web.address}/hall.html"):
        assert [row["page"] for row in run("look", source, "--format", "jsonl").rows] == [f"{web.address}/hall.html"]
    (web.www / name).write_text(SHORTCUTS[name].format(f"{web.address}/{name}"))
    assert run("look", f"{web.address}/{name}").code != 0  # it leads to itself
    (tmp_path / name).write_text(SHORTCUTS[name].format("file:///etc"))
    assert run("look", name).code != 0


def test_words_with_addresses_of_pages_are_a_list_of_them(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "hall.html").write_text("<img src=red.png>")
    (tmp_path / "notes").write_text(f"1. {web.address}/hall.html\n- the hall: <{web.address}/hall.html>.\n")
    assert "--list-of pages looks into the pages that it names" in run("look", "notes").err
    assert "1 picture on 1 page" in run("look", "notes", "--list-of", "pages").out
    shutil.copy(tmp_path / "notes", web.www / "notes.txt")
    assert "1 picture on 1 page" in run("look", f"{web.address}/notes.txt", "--list-of", "pages").out


def test_a_text_of_one_line_makes_no_page_that_is_much_larger() -> None:
    line = " ".join(f"see https://kites.example/{n}.jpg" for n in range(2_000)).encode()
    assert len(textfile.as_page(line)) < 20 * len(line)


def test_a_list_of_pages_beside_it(run: Program, tmp_path: Path) -> None:
    (tmp_path / "hall").mkdir()
    (tmp_path / "hall" / "a.html").write_text("<img src=red.png>")
    (tmp_path / "hall" / "red.png").write_bytes(RED)
    (tmp_path / "list").write_text("# pages\nhall/a.html\nhall/none.html\n")
    (tmp_path / "list.csv").write_text("name,page\nHall,hall/a.html\n")
    done = run("look", "list", "--list-of", "pages", "--format", "jsonl")
    assert [row["width"] for row in done.rows] == [30]
    assert "none.html: not beside the saved page or the list" in done.err
    named = run("look", "list.csv", "--list-of", "pages", "--column", "url=page", "--format", "jsonl")
    assert [row["width"] for row in named.rows] == [30]


def test_what_one_cell_holds_is_parted_before_addresses_alone() -> None:
    for whole in ("https://k.example/x,y;z.jpg?a=1,2", "data:image/png;base64,//8A,//", "Kite, red.jpg", "", "x | y"):
        assert addresses_in_cell(whole) == [whole]
    assert addresses_in_cell(" //k.example/a , HTTP://k.example/b;") == ["//k.example/a", "HTTP://k.example/b"]
    assert addresses_in_cell(", https://k.example/a.jpg") == ["https://k.example/a.jpg"]
    assert addresses_in_cell("a.jpg|b c.png |") == ["a.jpg", "b c.png"]


def opendocument(*rows: str, before: Sequence[str] = ("",)) -> bytes:
    """A spreadsheet whose last sheet has these rows; others stand before it."""
    names = "".join(
        f' xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text")
    )
    sheets = "".join(
        f"<table:table table:name='{n}'>{inner}</table:table>" for n, inner in enumerate((*before, "".join(rows)))
    )
    content = f'<office:document{names} xmlns:xlink="http://www.w3.org/1999/xlink"><office:spreadsheet>{sheets}</office:spreadsheet></office:document>'
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as package:
        package.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        package.writestr("content.xml", content.replace("<p>", "<text:p>").replace("</p>", "</text:p>"))
    return packed.getvalue()


def test_a_list_in_an_opendocument(run: Program, tmp_path: Path) -> None:
    def row(*cells: str, times: str = "") -> str:
        return f"<table:table-row{times}>{''.join(f'<table:table-cell{cell}</table:table-cell>' for cell in cells)}</table:table-row>"

    repeated = ' table:number-rows-repeated="{}"'
    blank = row(' table:number-columns-repeated="16384">', times=repeated.format(1_048_000))
    link = f"><p><text:a xlink:href='{AWAY}/large.png'>see</text:a></p>"
    (tmp_path / "list.ods").write_bytes(opendocument(
        row("><p>The archive</p>"), row(">"), row("><p>Photo</p>", "><p>Year</p>", "><p>More</p>", ' table:number-columns-repeated="9">'),
        row(f"><p>{AWAY}/red.png</p>", ' office:value-type="float" office:value="1962"><p>1.962,00</p>', link),
        row(f"><p>{AWAY}/blue.png</p>", ' table:number-columns-repeated="2"><p>x</p>', times=repeated.format(2)), blank,
    ))  # fmt: skip
    done = run("look", "list.ods", "--format", "jsonl")
    assert "from the column “Photo” (not from “More link”)" in done.err
    names = [(row["url"].rpartition("/")[2], row["columns"]["Year"]) for row in done.rows]
    assert names == [("red.png", "1962"), ("blue.png", "x"), ("blue.png", "x")]
    assert run("look", "list.ods", "--column", "url=More link", "--format", "urls").out.split() == [f"{AWAY}/large.png"]
    (tmp_path / "other.ods").write_bytes(opendocument(row("><p>no list</p>")))
    assert run("look", "other.ods").code == 4
    (tmp_path / "broken.ods").write_bytes(
        (tmp_path / "list.ods").read_bytes().replace(b"table:table-row", b"table:table-raw", 1)
    )
    assert run("look", "broken.ods").code in {0, 4}


def test_a_sheet_of_an_opendocument_is_read_whole_and_those_before_it_not_again(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    passes: list[object] = []
    read = opendocumentrows._elements

    def counted(file: BinaryIO) -> Iterator[object]:
        passes.append(file)
        return read(file)

    monkeypatch.setattr(opendocumentrows, "_elements", counted)

    def row(text: str) -> str:
        return f"<table:table-row><table:table-cell><p>{text}</p></table:table-cell></table:table-row>"

    addresses = [f"{AWAY}/{number}.png" for number in range(120)]
    for sheets in (2, 8):
        before = passes.copy()
        file = io.BytesIO(opendocument(*map(row, addresses), before=sheets * [200 * row("none")]))
        rows = list(open_workbook(file, "list.ods", {}, 1_000_000).rows)
        assert [next(iter(row.values())) for row in rows if isinstance(row, dict)] == addresses
        assert len(passes) - len(before) == 3  # for the heads of all, for links, and for the list


def test_columns_that_are_named_make_a_list_of_any_text(run: Program, tmp_path: Path) -> None:
    (tmp_path / "list").write_text("Id;Path\n1;photos/7\n2;n/a\n3;\n")
    assert "plain text without any markup" in run("look", "list").err
    named = ("look", "list", "--column", "url=path", "--format", "urls")
    assert run(*named, "--base", AWAY).out.splitlines() == [f"{AWAY}/photos/7", f"{AWAY}/n/a"]
    done = run(*named)
    assert "row 1 has no web address: photos/7 (--base URL says what it counts from)" in done.err
    assert "row 3 has no web address: (blank)" in done.err
    assert (
        run(*named[:3], "url=2", "--base", AWAY, "--limit", "1", "--format", "urls").out.strip() == f"{AWAY}/photos/7"
    )


def zipped(members: Mapping[str, object], path: Path, renamed: tuple[bytes, bytes] = (b"", b"")) -> str:
    with zipfile.ZipFile(path, "w") as package:
        for name, content in members.items():
            package.writestr(name, content if isinstance(content, bytes) else str(content))
    path.write_bytes(path.read_bytes().replace(*renamed) if renamed[0] else path.read_bytes())
    return path.name


def tarred(members: Mapping[str, bytes]) -> bytes:
    packed = io.BytesIO()
    with tarfile.open(fileobj=packed, mode="w") as archive:
        for name, content in members.items():
            entry = tarfile.TarInfo(name)
            entry.size = len(content)
            archive.addfile(entry, io.BytesIO(content))
    return packed.getvalue()


def test_a_tar_is_a_package(run: Program, tmp_path: Path) -> None:
    long = f"{'hall/' * 30}red.png"
    page = f"<img src={long}><img src=../teal.png>".encode()
    tar = tarred({"./site/page.html": page, f"site/{long}": RED, "teal.png": TEAL})
    (tmp_path / "site.tar").write_bytes(tar)
    (tmp_path / "site.tgz").write_bytes(gzip.compress(tar))
    for name in ("site.tar", "site.tgz"):
        assert [row["width"] for row in run("look", name, "--format", "jsonl").rows] == [30, 32]
    for name, damaged in (("cut", tar[: tar.index(TEAL) + 9]), ("broken", tar.replace(b"teal.png\0", b"teal.pnX\0"))):
        (tmp_path / f"{name}.tar").write_bytes(damaged)
        done = run("pack", f"{name}.tar", "--crate", name)
        assert ("the package is damaged" in done.out, "fetched  red.png" in done.out, done.code) == (True, True, 1)


def test_a_package_may_come_from_a_stream(run: Program, tmp_path: Path) -> None:
    members = {"hall/page.html": b"<img src=../img/red.png>", "img/red.png": RED}
    zipped(members, tmp_path / "p.zip")
    for octets in (tarred(members), gzip.compress(tarred(members)), (tmp_path / "p.zip").read_bytes()):
        rows = run("look", "-", "--format", "jsonl", input=octets).rows
        assert [(row["name"], row["width"]) for row in rows] == [("red", 30)]


@pytest.mark.parametrize("encoding", ["utf-8", "shift_jis", "cp850", "cp1251"])
def test_names_in_a_package_that_does_not_say_what_they_are_in(run: Program, tmp_path: Path, encoding: str) -> None:
    name = {"shift_jis": "\u51e7", "cp1251": "\u0437\u043c\u0435\u0439"}.get(encoding, "dr\u00f6m")
    octets = name.encode(encoding)
    bare = b"Z" * len(octets)
    page = f"<meta charset=utf-8><img src='{name}.png'>"
    package = zipped({"page.html": page, f"{bare.decode()}.png": RED}, tmp_path / "p.zip", (bare, octets))
    assert packed(run, tmp_path, package) == {f"{name}.png": RED}


def test_members_are_known_by_their_content(run: Program, tmp_path: Path) -> None:
    members = {"page": "<!doctype html><img src=kite>", "kite": RED, "doc.xml": "<w:t><img src=no.png></w:t>"}
    assert packed(run, tmp_path, zipped(members, tmp_path / "p")) == {"kite.png": RED}
    office = {"word/document.xml": "<w:document/>", "[Content_Types].xml": "<Types/>", "word/media/image1.png": TEAL}
    done = run("pack", zipped(office, tmp_path / "kites.docx"), "--crate", "d")
    assert "fetched  image1.png" in done.out
    assert "no member" not in done.err


def test_what_cannot_be_read_of_a_package_is_told(run: Program, tmp_path: Path) -> None:
    members = {"a.html": "<img src=a.png>", "b.html": "<img src=b.png>" + "words " * 2_000}
    whole = tmp_path / zipped(members, tmp_path / "p.zip")
    broken = whole.read_bytes().replace(
        b"words words words wo", b"words words words we", 1
    )  # its checksum is another's
    encrypted = whole.read_bytes()
    for record, flag in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        start = encrypted.index(record)
        encrypted = encrypted[: start + flag] + b"\x01" + encrypted[start + flag + 1 :]
    for octets, words, left in (
        (broken, "b.html cannot be read to its end: it is broken", 1),
        (encrypted, "a.html cannot be read: it is encrypted", 1),
    ):
        whole.write_bytes(octets)
        done = run("look", "p.zip")
        assert (words in done.out, f"{left} picture on 2 pages" in done.out) == (True, True)


@pytest.mark.parametrize("how", ["stored", "deflated", "tar", "stream"])
def test_web_archives_in_a_package_are_read_where_they_lie(run: Program, tmp_path: Path, how: str) -> None:
    whole = warc(compressed=True)
    starts = [place for place in range(len(whole)) if whole.startswith(b"\x1f\x8b\x08", place)]
    archives = {"archive/a.warc.gz": whole[: starts[2]], "archive/b.warc.gz": whole[starts[2] :] + bytes(3_000)}
    members = {"datapackage.json": b"{}", "pages/pages.jsonl": b'{"url": "https://k.example/"}', **archives}
    kind = zipfile.ZIP_DEFLATED if how == "deflated" else zipfile.ZIP_STORED
    with zipfile.ZipFile(tmp_path / "k.wacz", "w", kind) as package:
        for name, octets in members.items():
            package.writestr(name, octets)
    octets = tarred(members) if how == "tar" else (tmp_path / "k.wacz").read_bytes()
    (tmp_path / "k.wacz").write_bytes(octets)
    most = () if how == "deflated" else ("--max-file", "2kB")  # what is packed is unpacked in memory
    done = run("look", "-", "--format", "urls", *most, input=octets) if how == "stream" else None
    if done is None:
        assert packed(run, tmp_path, "k.wacz", *most) == {"red.png": RED, "blue.png": BLUE}
    else:
        assert [url.rpartition("/")[2] for url in done.out.split()] == ["red.png", "blue"]


KML = """<kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>Red Delta</name><description><![CDATA[
<img src="files/1.png">]]></description></Placemark><Placemark><name>Blue Sled</name><description><![CDATA[<b>By Ino</b>
<img src="files/2.png">]]></description></Placemark></Document></kml>"""
NAMED_BY = {
    "doc.kml": KML,
    "export.json": json.dumps(
        [{"title": "Red Delta", "image": "files/1.png"}, {"title": "Blue Sled", "image": "files/2.png"}]
    ),
    "list.csv": "Title,File\nRed Delta,files/1.png\nBlue Sled,files/2.png\n",
}


def placed(members: dict[str, str | bytes], path: Path, *, in_folder: bool) -> str:
    """Return a ZIP or a folder with the members."""
    if not in_folder:
        return zipped(members, path.with_suffix(".zip"))
    shutil.rmtree(path, ignore_errors=True)
    for name, content in members.items():
        (path / name).parent.mkdir(parents=True, exist_ok=True)
        (path / name).write_bytes(content.encode() if isinstance(content, str) else content)
    return str(path)


@pytest.mark.parametrize("in_folder", [False, True])
@pytest.mark.parametrize("name", NAMED_BY)
def test_data_beside_pictures_without_pages_says_what_they_are(
    run: Program, tmp_path: Path, name: str, *, in_folder: bool
) -> None:
    there = partial(placed, path=tmp_path / "k", in_folder=in_folder)
    members: dict[str, str | bytes] = {
        name: NAMED_BY[name], "files/1.png": RED, "files/2.png": BLUE, "files/3.png": TEAL
    }  # fmt: skip
    rows = run("look", there(members), "--format", "jsonl").rows
    assert [(row["item"], row["url"].rpartition("/")[2], row["width"]) for row in rows] == [
        ("Red Delta", "1.png", 30), ("Blue Sled", "2.png", 31), (None, "3.png", 32),
    ]  # fmt: skip
    again = run("look", there({**members, "z.json": NAMED_BY["export.json"]}), "--format", "jsonl").rows
    assert len(again) == 3
    beside = {f"files/{n}.json": json.dumps({"title": f"files/{n}.png"}) for n in range(30)}
    assert run("look", there({**members, **beside}), "--format", "jsonl").rows[0]["item"] is None
    rows = run("look", there({**members, "notes.html": "<p>By Ino"}), "--format", "jsonl").rows
    assert [row["item"] for row in rows] == ([] if in_folder else [None] * 3)


def test_a_book_is_read_in_its_order(run: Program, tmp_path: Path) -> None:
    book = {
        "META-INF/container.xml": "<container xmlns='urn:oasis:names:tc:opendocument:xmlns:container'><rootfiles>"
        "<rootfile full-path='OPS/book.opf'/></rootfiles></container>",
        "OPS/book.opf": "<package xmlns='http://www.idpf.org/2007/opf'><manifest><item id='a' href='a.xhtml'/><item id='b' href='b.html'/>"
        "<item id='z' href='text/z%20z.xhtml'/></manifest><spine><itemref idref='z'/><itemref idref='b'/><itemref idref='a'/></spine></package>",
        "OPS/a.xhtml": "<html><img src='a.png'/></html>", "OPS/text/z z.xhtml": "<html><img src='../z.png'/></html>",
        "OPS/a.png": RED, "OPS/z.png": BLUE, "OPS/b.html": "<html><head><title/></head><img src='b.png'/></html>",
    }  # fmt: skip
    urls = run("look", zipped(book, tmp_path / "b.epub"), "--format", "urls").out.split()
    assert [url.rpartition("/")[2] for url in urls] == ["z.png", "b.png", "a.png"]
    book["META-INF/container.xml"] = "<container>&x;"
    assert len(run("look", zipped(book, tmp_path / "b.epub"), "--format", "urls").out.split()) == 2


@pytest.mark.parametrize("is_packed", [True, False])
def test_a_log_with_its_bodies_in_files(run: Program, tmp_path: Path, *, is_packed: bool) -> None:
    page = f"<img src='data:image/png;base64,{base64.b64encode(TEAL).decode()}' alt=Teal><img src=red.png alt=Red>"
    log = json.loads(har((f"{AWAY}/", "text/html", page.encode())))
    kept = {"a1.png": RED, "../secret.png": BLUE, "none.bin": b""}
    for n, name in enumerate(kept):
        content = {"mimeType": "image/png" if n < 2 else "text/html", "_file": name}
        log["log"]["entries"].append({"request": {"url": f"{AWAY}/{('red.png', 'secret.png', 'none')[n]}"},
                                      "response": {"status": 200, "content": content}})  # fmt: skip
    (tmp_path / "in").mkdir()
    for name, octets in kept.items():
        (tmp_path / "in" / name).write_bytes(octets)
    (tmp_path / "in" / "kites.har").write_text(json.dumps(log))
    source = "in/kites.har"
    if is_packed:
        source = zipped({"har.har": json.dumps(log), "a1.png": RED}, tmp_path / "kites.har.zip")
    done = run("pack", source, "--crate", "c", "--format", "jsonl")
    held = {row["alt"]: row["file"] for row in done.rows if row["outcome"] == "fetched"}
    assert held == {"Red": "red.png", "Teal": "Teal.png"}
    assert [row["outcome"] for row in done.rows if "secret" in row["url"]] == ["failed"]


def part(kind: str, body: bytes | str, **fields: str) -> str:
    octets = body.encode() if isinstance(body, str) else body
    said = "".join(f"{name.replace('_', '-')}: {value}\n" for name, value in fields.items())
    return f"Content-Type: {kind}\nContent-Transfer-Encoding: base64\n{said}\n{base64_lines(octets)}"


def mail(kind: str, *parts: str, subject: str = "Kites", **fields: str) -> str:
    said = "".join(f"{name.replace('_', '-')}: {value}\n" for name, value in fields.items())
    inside = "".join(f"--{subject}\n{one}\n" for one in parts)
    return f"From: kay@k.example\nSubject: {subject}\n{said}MIME-Version: 1.0\nContent-Type: {kind}; boundary={subject}\n\n{inside}--{subject}--\n"


def test_mail_as_it_is_kept_and_forwarded(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "away.png").write_bytes(TEAL)
    inline = part("image/png", RED, Content_ID="<a+b@x>", Content_Disposition="inline; filename=red-delta.png")
    first = mail("multipart/related", part("text/html", "<img src='cid:a%2Bb@x' alt=''>"), inline, subject="One")
    forwarded = mail("multipart/mixed", part("text/html", f"<img src='{web.address}/away.png'>"), subject="Two")
    second = mail(
        "multipart/mixed", part("text/html", "<p>See below</p>"), part("image/png", BLUE), f"Content-Type: message/rfc822\n\n{forwarded}",
        part("text/html", f"<img src='{AWAY}/gone.png'>"), subject="Three",
    )  # fmt: skip
    nested = "Content-Type: message/rfc822\n\n" * 3_000
    (tmp_path / "kept.mbox").write_text(
        f"From kay Mon Jan  5\n{first}\n\nFrom x\n{nested}\n\nFrom kay Tue Jan  6\n{second}"
    )
    rows = run("look", "kept.mbox", "--allow-private", "--format", "jsonl").rows
    assert {row["url"].rpartition("/")[2]: row["item"] for row in rows}["away.png"] == "Two"
    assert {row["item_from"] for row in rows if row["item"] == "One"} == {"message 1; named by its title"}
    done = run("pack", "kept.mbox", "--crate", "c", "--allow-private", "--format", "jsonl")
    assert {row["name"]: row["url"] for row in done.rows if row["file"]} == {
        "red-delta.png": "cid:a+b@x", "away.png": f"{web.address}/away.png", "part1-1.png": "cid:part1-1"}  # fmt: skip
    assert [row["url"] for row in done.rows if not row["file"]] == [f"{AWAY}/gone.png"]


def test_a_style_sheet_of_a_saved_page_that_has_no_address_but_its_own(run: Program, tmp_path: Path) -> None:
    sheet = ".a { background: url(img/red.png) } .b { background-image: image-set('img/blue.png' 1x, url(cid:t@x) 2x) }"
    saved = mail(
        "multipart/related",
        part("text/html", "<link rel=stylesheet href=cid:css@x><p class=a><p class=b>", Content_Location=f"{AWAY}/rooms/list.html"),
        part("text/css", sheet, Content_ID="<css@x>"), part("image/png", RED, Content_Location=f"{AWAY}/rooms/img/red.png"),
        part("image/png", BLUE, Content_Location=f"{AWAY}/rooms/img/blue.png"), part("image/png", TEAL, Content_ID="<t@x>"),
        Snapshot_Content_Location=f"{AWAY}/rooms/list.html",
    )  # fmt: skip
    (tmp_path / "page.mhtml").write_text(saved)
    found = run("look", "page.mhtml", "--as-shown", "--format", "jsonl").rows
    assert [(row["shown_url"], row["found_in"]) for row in found] == [
        (f"{AWAY}/rooms/img/red.png", "css"), (f"{AWAY}/rooms/img/blue.png", "css")]  # fmt: skip
    assert set(packed(run, tmp_path, "page.mhtml")) == {"red.png", "t.png"}  # the one of two densities


ATOM = """<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom" xmlns:media="http://search.yahoo.com/mrss/">
<logo>WEB/logo.png</logo><entry><title>Red</title><link href="WEB/red/"/><link rel="enclosure" type="image/png" href="/a.png"/>
<media:thumbnail url="t.png" width="90" height="60"/><media:content url="film.mp4" type="video/mp4"/>
<content type="html">&lt;img src="in.png" alt="inside"&gt;</content></entry></feed>"""
RSS = """<rss version="2.0" xmlns:content="http://purl.org/rss/1.0/modules/content/"><channel><image><url>WEB/ch.png</url></image>
<item><title>Blue</title><link>WEB/blue/</link><enclosure url="WEB/b.png" type="image/png"/><enclosure url="x.mp3" type="audio/mpeg"/>
<content:encoded><![CDATA[<img src="deep.png">]]></content:encoded></item></channel></rss>"""
SITEMAP = """<!-- map --><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9" xmlns:image="http://www.google.com/schemas/sitemap-image/1.1">
<url><loc>WEB/hall.html</loc><image:image><image:loc>WEB/one.png</image:loc><image:caption>One</image:caption></image:image></url></urlset>"""
JSON_FEED = json.dumps({"version": "https://jsonfeed.org/version/1.1", "icon": "WEB/i.png", "items": [
    {"title": "T", "image": "x.png", "content_html": "<img src=/y.png>", "attachments": [{"url": "z.png", "mime_type": "image/png"}]}]})  # fmt: skip

BROKEN = """

<?xml version="1.0" encoding="utf-8"?><!DOCTYPE rss [<!ENTITY kite "k.png"><!ENTITY all SYSTEM "file:///etc/passwd">]>
<rss xmlns:itunes="http://www.itunes.com/dtds/podcast-1.0.dtd"><channel><itunes:image href="/cover.png"/><item>
<title>Wind & water&nbsp;&all;</title><enclosure url="/a.png?x=1&y=2" type="image/png"/><enclosure url="&kite;" type="image/png"/>
<description>&lt;img src="WEB/in.png"&gt; & more</description></item>"""
GROUPS = """<feed xmlns="http://www.w3.org/2005/Atom" xmlns:media="http://search.yahoo.com/mrss/" xml:base="/deep/"><entry xml:base="er/">
<title>Delta</title><media:group><media:content url="s.png" width="90" medium="image"/><media:content url="l.png" width="900" medium="image"/>
<media:thumbnail url="t.png"/></media:group><content type="image/png" src="own.png"/></entry>
<entry><content type="xhtml"><div xmlns="http://www.w3.org/1999/xhtml"><p><img src="x.png"/></p></div></content></entry></feed>"""
THUMBNAILS = """<rss version="2.0" xmlns:media="http://search.yahoo.com/mrss/"><channel>
<item><enclosure url="/a.jpg" type="image/jpeg"/><media:content url="/a.jpg" medium="image"/><media:thumbnail url="/a-t.jpg"/></item>
<item><enclosure url="/film.mp4" type="video/mp4"/><media:thumbnail url="/still.jpg"/></item>
<item><media:content url="/d.jpg" type="image/jpeg"/><media:thumbnail url="/d-t.jpg" width="100" height="70"/></item>
<item><media:content url="/b" type="image/png"/><media:content url="/c.jpg"/><media:thumbnail url="/t.jpg"/></item></channel></rss>"""
UNESCAPED = """<rss version="2.0" xmlns:h="http://www.w3.org/1999/xhtml" xmlns:itunes="http://www.itunes.com/dtds/podcast-1.0.dtd">
<channel><itunes:link rel="image" href="/logo.png"/><item><title>One &lt;img src="/t.png"&gt;</title><link>WEB/1</link>
<h:body><h:p>Red <h:img src="red.png" alt="Red"/></h:p></h:body></item><item><title>Less &lt; more</title><link>WEB/2/</link>
<description>Blue <img src="blue.png"/> kite</description></item></channel></rss>"""

CATALOGUE = """<feed xmlns="http://www.w3.org/2005/Atom"><entry><title>Red</title>
<link rel="http://opds-spec.org/image" type="image/jpeg" href="/a.jpg"/>
<link rel="http://opds-spec.org/image/thumbnail" type="image/jpeg" href="/a-t.jpg"/></entry></feed>"""

FEEDS = [
    ("catalogue", CATALOGUE, ["/a.jpg"]),
    ("broken", BROKEN, ["/in.png", "/a.png?x=1&y=2", "/&kite;", "/cover.png"]),
    ("utf-16", BROKEN.strip().replace("utf-8", "utf-16"), ["/in.png", "/a.png?x=1&y=2", "/&kite;", "/cover.png"]),
    ("groups", GROUPS, ["/deep/er/l.png", "/deep/er/own.png", "/deep/x.png"]),
    ("thumbnails", THUMBNAILS, ["/a.jpg", "/still.jpg", "/d.jpg", "/b", "/c.jpg", "/t.jpg"]),
    ("atom", ATOM, ["/red/in.png", "/a.png", "/t.png", "/logo.png"]),
    ("rss", RSS, ["/blue/deep.png", "/b.png", "/ch.png"]),
    ("sitemap", SITEMAP, ["/one.png"]),
    ("unescaped", UNESCAPED, ["/t.png", "/red.png", "/2/blue.png", "/logo.png"]),
    ("json", JSON_FEED, ["/y.png", "/x.png", "/z.png", "/i.png"]),
]


def test_pictures_of_a_feed_have_words_of_their_own(run: Program, tmp_path: Path) -> None:
    (
        tmp_path / "f.xml"
    ).write_text("""<rss xmlns:media="http://search.yahoo.com/mrss/"><channel><item><title>A flight</title>
    <media:content url="https://k.example/a.jpg"><media:title>Red &amp;amp; delta</media:title><media:description>Over the dunes</media:description>
    </media:content></item><item><title>Two</title><media:group><media:description>From both sides</media:description>
    <media:content url="https://k.example/b.jpg" type="image/jpeg"/></media:group></item></channel></rss>""")
    attached = {
        "title": "Box",
        "attachments": [{"url": "https://k.example/c.png", "mime_type": "image/png", "title": "Its frame"}],
    }
    (tmp_path / "f.json").write_text(json.dumps({"version": "https://jsonfeed.org/version/1.1", "items": [attached]}))
    found = [row for name in ("f.xml", "f.json") for row in run("look", name, "--format", "jsonl").rows]
    assert [(row["title"], row["caption"], row["item"]) for row in found] == [
        ("Red & delta", "Over the dunes", "A flight"), ("Two", "From both sides", "Two"), ("Its frame", None, "Box")]  # fmt: skip


@pytest.mark.parametrize(("name", "text", "expected"), FEEDS)
def test_feeds_and_sitemaps(run: Program, web: Server, name: str, text: str, expected: list[str]) -> None:
    (web.www / name).write_text(text.replace("WEB", web.address), encoding="utf-16" if name == "utf-16" else "utf-8")
    rows = run("look", f"{web.address}/{name}", "--format", "jsonl").rows
    assert [row["url"].removeprefix(web.address) for row in rows] == expected
    if name == "sitemap":
        assert rows[0]["caption"] == "One"


def test_the_sitemaps_of_an_index_are_followed(run: Program, web: Server) -> None:
    (web.www / "one.xml.gz").write_bytes(gzip.compress(SITEMAP.replace("WEB", web.address).encode()))
    (web.www / "two.xml").write_text(SITEMAP.replace("WEB", web.address).replace("one.png", "two.png"))
    places = "".join(
        f"<sitemap><loc>{web.address}/{name}</loc></sitemap>" for name in ("one.xml.gz", "two.xml", "none.xml")
    )
    (web.www / "index.xml").write_text(f"<sitemapindex>{places}</sitemapindex>")
    done = run("look", f"{web.address}/index.xml", "--format", "urls", "--as-shown")
    assert done.out.split() == [f"{web.address}/one.png", f"{web.address}/two.png"]
    assert "404" in done.err
    assert run("look", f"{web.address}/index.xml", "--frames", "0").code == 4


def test_a_bare_picture_and_standard_input(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "kite").write_bytes(RED)
    assert packed(run, tmp_path, f"{web.address}/kite") == {"kite.png": RED}
    assert web.requests() == ["/kite"]
    page = run("look", "-", "--base", "https://g.example/", "--format", "urls", input="<p>Red: <img src=a.png>")
    assert page.out == "https://g.example/a.png\n"


def test_bytes_in_the_page_itself(run: Program, tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(
        f"<img src='data:image/png;base64,{base64.b64encode(RED).decode()}' alt='Red kite'><img src='data:image/png;base64,%%%'>"
        "<svg width=8 height=8><title>A dot</title><circle r=3 /></svg><svg><use href='#x'></use></svg><svg></svg>"
    )
    done = run("pack", "page.html", "--crate", "c")
    crate = tmp_path / "crates" / "c"
    assert (crate / "Red kite.png").read_bytes() == RED
    assert (crate / "A dot.svg").read_bytes().startswith(b'<svg xmlns="http://www.w3.org/2000/svg"')
    assert "1 failed" in done.out
    assert "there    Red kite.png" in run("pack", "page.html", "--crate", "c").out


def test_saved_pages_know_where_they_came_from(run: Program, tmp_path: Path) -> None:
    marked = "<!-- saved from url=(0030)https://galewick.example/hall/ --><img src=a.png><img src='page_files/b.png'>"
    (tmp_path / "page.html").write_text(marked)
    assert run("look", "page.html", "--format", "urls").out.split()[0] == "https://galewick.example/hall/a.png"
    (tmp_path / "page_files").mkdir()
    (tmp_path / "page_files" / "b.png").write_bytes(RED)
    assert run("look", "page.html", "--format", "urls").out.split()[1] == (tmp_path / "page_files" / "b.png").as_uri()


@pytest.mark.parametrize(
    ("value", "expected"),
    [
        ("0;url=kites.html", (0, "kites.html")),
        (" 5 ; URL = 'kites.html' rest", (5, "kites.html")),
        ("0, kites.html", (0, "kites.html")),
        ("1.5 kites.html", (1, "kites.html")),
        (".5;url=\"a'b.html", (0, "a'b.html")),
        ("0;urls.html", (0, "urls.html")),
        ("300", (300, "")),
        ("0;", (0, "")),
        ("now;url=kites.html", (0, "")),
        ("0url=kites.html", (0, "")),
        ("", (0, "")),
    ],
)
def test_what_a_refresh_says(value: str, expected: tuple[int, str]) -> None:
    assert parse_refresh(value) == expected


def test_a_page_that_leads_on_by_itself(run: Program, web: Server) -> None:
    (web.www / "kites.html").write_text("<title>Kites</title><img src=a.png>")
    for name, head, leads in (
        ("moved", "<base href=/x/><meta http-equiv=Refresh content='0; url=../kites.html'>", True),
        ("twice", "<meta http-equiv=refresh content='2;moved.html'>", True),
        ("slow", "<meta http-equiv=refresh content='60;url=kites.html'>", False),
        ("again", "<meta http-equiv=refresh content='0;url=again.html#top'>", False),
        ("plain", "<noscript><meta http-equiv=refresh content='0;url=kites.html'></noscript>", False),
        ("round", "<meta http-equiv=refresh content='0;url=dance.html'>", False),
        ("dance", "<meta http-equiv=refresh content='0;url=round.html'>", False),
        ("goes", "<script>window.location.href = 'kites.html';</script>", True),
        ("told", '<script>function go() { location.replace("\\/kites.html") } go()</script>', True),
        ("asks", "<script>if (old) location = 'kites.html'</script>", False),
        ("loads", "<script>location = 'kites.html'</script><script src=a.js></script>", False),
        ("pieces", "<script>location = 'kites.html' + search</script>", False),
        ("shows", "<script>location = 'kites.html'</script><canvas></canvas>", False),
        ("either", "<script>location = 'kites.html'; location = 'moved.html'</script>", False),
    ):
        (web.www / f"{name}.html").write_text(f"<head>{head}</head><p>Moved.")
        urls = run("look", f"{web.address}/{name}.html", "--as-shown", "--format", "urls").out.split()
        assert urls == ([f"{web.address}/a.png"] if leads else []), name


def test_a_saved_page_is_of_the_site_that_it_came_from(run: Program, tmp_path: Path) -> None:
    markup = (
        "<ul>"
        + "".join(f"<li><a href=/kite/{n}><img src=/{n}.png width=60></a><b>Kite {n}</b>" for n in (1, 2))
        + "</ul><a href=https://www.galewick.example/><img src=home.png></a><a href=https://k.example/><img src=net.png width=60></a>"
        "<a href='/hall?page=3'>Next page</a>"
    )
    (tmp_path / "page.html").write_text(f"<link rel=canonical href='https://galewick.example/hall?page=2'>{markup}")
    (tmp_path / "bare.html").write_text(markup)
    for line in (("page.html",), ("bare.html", "--base", "https://galewick.example/hall?page=2")):
        rows = run("look", *line, "--as-shown", "--format", "jsonl").rows
        told = [row["furniture"] or "" for row in rows]
        assert ["front page" in words for words in told] == [False, False, True, False]
        assert ["another site" in words for words in told] == [False, False, False, True]
        assert "the list has further pages" in run("look", *line, "--as-shown").out


def test_parts_of_one_host_that_cannot_be_had_are_told_of_in_one_line(
    run: Program, web: Server, tmp_path: Path
) -> None:
    sheets = "".join(f"<link rel=stylesheet href={web.address}/{n}.css>" for n in range(3))
    (tmp_path / "page.html").write_text(f"{sheets}<link rel=stylesheet href=away.css><img src=a.png>")
    lines = run("look", "page.html", "--as-shown", "--allow-private").out.splitlines()
    host = web.address.partition("://")[2].partition(":")[0]
    assert lines[1].strip() == f"3 style sheets of {host}: the server answered 404 Not Found"
    assert lines[2].strip().startswith(f"style sheet {(tmp_path / 'away.css').as_uri()}: not beside the saved page")


@pytest.mark.parametrize(
    "says",
    [
        "<!-- saved from url=(0030){0}/rooms/list.html -->",
        "<link rel=canonical href={0}/rooms/list.html>",
        "<meta property=og:url content={0}/rooms/list.html>",
        "<base href={0}/rooms/>",
    ],
)
def test_what_is_not_beside_a_saved_page_comes_from_its_own_address(
    run: Program, web: Server, tmp_path: Path, says: str
) -> None:
    for path, octets in (("kites/big.png", BLUE), ("rooms/twice.png", picture("PNG", (90, 60))), ("full/s.png", TEAL)):
        (web.www / path).parent.mkdir(exist_ok=True)
        (web.www / path).write_bytes(octets)
    files = tmp_path / "Rooms_files"
    files.mkdir()
    for name, octets in (
        ("a.png", RED),
        ("lazy.gif", picture("GIF", (1, 1))),
        ("s.png", picture("PNG", (15, 10), "teal")),
    ):
        (files / name).write_bytes(octets)
    html = (
        says.format(web.address) + "<img src=Rooms_files/a.png><img src=Rooms_files/lazy.gif data-src=/kites/big.png>"
        "<img src=./Rooms_files/s.png srcset='twice.png 2x'><a href=../full/s.png><img src=Rooms_files/s.png></a>"
        "<img src=Rooms_files/gone.png>"
    )
    (tmp_path / "Rooms.html").write_text(html)
    done = run("pack", "Rooms.html", "--crate", "c", "--allow-private", "--format", "jsonl")
    urls = [
        row["url"].removeprefix(web.address).rpartition("Rooms_files")[2]
        for row in sorted(done.rows, key=lambda row: row["number"])
    ]
    assert urls == ["/a.png", "/kites/big.png", "/rooms/twice.png", "/full/s.png", "/gone.png"]
    assert [row["outcome"] for row in done.rows].count("fetched") == 4
    assert "not beside the saved page" in next(row["error"] for row in done.rows if row["error"])
    (web.www / "kites" / "big.png").unlink()  # a spacer is no picture to fall back on
    last = run("pack", "Rooms.html", "--crate", "d", "--allow-private", "--fresh", "--format", "jsonl").rows
    assert [row["outcome"] for row in last if "lazy" in row["shown_url"]] == ["failed"]


@pytest.mark.parametrize(
    ("octets", "kind"),
    [
        (RED, Kind.PICTURE),
        (MHTML.encode(), Kind.MESSAGE),
        (MHTML.replace("\n", "\r\n").encode(), Kind.MESSAGE),
        (har().encode(), Kind.LOG),
        (warc(compressed=True), Kind.ARCHIVE),
        (gzip.compress(b"hello", mtime=0), None),
        (ATOM.encode(), Kind.FEED),
        (b"<?xml version='1.0'?><!DOCTYPE html><html>", Kind.PAGE),
        (b"Kites: a <b>page</b> that starts with a colon", Kind.PAGE),
        (b"https://g.example/a.png\n", Kind.ADDRESSES),
        (b"https://g.example/a.png is <b>nice</b>", Kind.PAGE),
        ("<p>a".encode("utf-16-le"), Kind.PAGE),
        (b"<!doctype html><p>a ki\0te", Kind.PAGE),
        (b"\x7fELF\0\0 <b>", None),
        (b"$('#kites').append(\"<li class='k'><img src=a.png>\");", Kind.TEXT),
        (b"// kites\nvar more = '<p>' + name;", Kind.TEXT),
        (b"(function () { show('red', `<img src=a.png>`) })()", Kind.TEXT),
        (b"(\xb5/\xfd\x04\0 = 'a <b", None),
        (b"\x1f\x8b\x08\0 ![a](b.png)", None),
        (b'Kites ("red") that <b>fly</b>', Kind.PAGE),
        (b"It's a <b>kite's</b> tail", Kind.PAGE),
        (b'{"a": 1}', None),
        (b"\0\1\2", None),
    ],
)
def test_kinds_are_told_from_content(octets: bytes, kind: Kind | None) -> None:
    assert recognise(octets) is kind


def test_what_we_wrote_is_recognised_whatever_its_words(run: Program, tmp_path: Path) -> None:
    (tmp_path / "files").mkdir()
    (tmp_path / "files" / "a.png").write_bytes(RED)
    large = "data:image/svg+xml," + "%3Csvg xmlns='http://www.w3.org/2000/svg'%3E" + "x" * 200_000
    words = '&lt;p&gt;&lt;img src=x&gt; "log" "entries"\n\n<!doctype html>'
    (tmp_path / "p.html").write_text(
        f"<title>t</title><img src=files/a.png alt='{words}' title='<html><body>'><img src=\"{large}\" alt='<p>'>"
    )
    rows = run("look", "p.html", "--format", "jsonl").rows
    for name in ("l.csv", "l.jsonl", "l.txt"):
        run("look", "p.html", "--save", name)
        again = run("look", name, "--format", "jsonl").rows
        keys = ("url", "alt", "title", "found_in", "number") if name != "l.txt" else ("url",)
        assert [[row[key] for key in keys] for row in again] == [[row[key] for key in keys] for row in rows], name
        assert run("pack", name, "--crate", f"c{name}", "--only", "1").code == 0, name


def test_what_is_no_page_keeps_no_other_of_its_folder_from_being_read(
    run: Program, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    contents = {
        "a": "<img src=a.png>",
        "b": "",
        "c": "words",
        "d": "https://k.example/1\n",
        "e": "<p>",
        "f": "<img src=f.png>",
    }
    (tmp_path / "all").mkdir()
    for name, text in contents.items():
        (tmp_path / f"all/{name}.html").write_text(text)
    read_bytes = Path.read_bytes

    def refused(path: Path) -> bytes:
        if path.name == "e.html":
            raise PermissionError(13, "Permission denied")
        return read_bytes(path)

    monkeypatch.setattr(Path, "read_bytes", refused)
    done = run("look", "all")
    assert (done.code, "2 pictures on 6 pages, 4 of them without any" in done.out) == (0, True)
    assert "e.html\n  cannot be read: permission denied" in done.out


def test_a_saved_page_that_does_not_say_where_it_is_from_leads_there(run: Program, tmp_path: Path) -> None:
    links = "".join(f"<a href=https://kites.example/rooms/{n}>room</a>" for n in range(3))
    away = "<a href=https://looms.example/a>a</a><a href=https://looms.example/b>b</a>"
    (tmp_path / "beside.png").write_bytes(RED)
    said = "what is not beside it may be where most of its links lead: --base https://kites.example/"
    for name, markup, is_said in (
        ("away.html", f"{links}{away}<img src=/img/red.png>", True),
        ("beside.html", f"{links}{away}<img src=beside.png>", False),
        ("many.html", f"{links}{away}<a href=https://nets.example/>n</a><img src=/img/red.png>", False),
        ("told.html", f"<link rel=canonical href=https://kites.example/a>{links}<img src=/img/red.png>", False),
    ):
        (tmp_path / name).write_text(markup)
        assert (said in run("look", name).out) is is_said, name
    assert said in run("look", "-", input=f"{links}<img src=red.png>").out


def test_addresses_without_a_scheme_are_of_the_web_in_any_list(run: Program, tmp_path: Path) -> None:
    lists = {
        "l.txt": "# kites\n//cdn.kites.example/red.jpg\n//cdn.kites.example/blue.jpg?w=1\n",
        "l.csv": "kite,picture\nRed,//cdn.kites.example/red.jpg\nBlue,//cdn.kites.example/blue.jpg?w=1\n",
        "l.jsonl": '{"picture": "//cdn.kites.example/red.jpg"}\n{"picture": "//cdn.kites.example/blue.jpg?w=1"}\n',
    }
    for name, text in lists.items():
        (tmp_path / name).write_text(text)
        urls = [row["url"] for row in run("look", name, "--format", "jsonl", "--as-shown").rows]
        assert urls == ["https://cdn.kites.example/red.jpg", "https://cdn.kites.example/blue.jpg?w=1"], name


def test_no_source_answers_for_another(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "logo.png").write_bytes(BLUE)
    (web.www / "s.mht").write_bytes(
        MHTML.replace(f"{AWAY}/hall/red.png", f"{web.address}/logo.png")
        .replace("red.png", f"{web.address}/logo.png")
        .encode()
    )
    (web.www / "p.html").write_text(
        f"<img src=logo.png alt=own><img src='{(tmp_path / 'saved_files' / 'x.png').as_uri()}' alt=mine>"
    )
    (tmp_path / "saved_files").mkdir()
    (tmp_path / "saved_files" / "x.png").write_bytes(TEAL)
    (tmp_path / "saved.html").write_text("<img src=saved_files/x.png alt=beside>")
    done = run(
        "pack",
        f"{web.address}/s.mht",
        "saved.html",
        f"{web.address}/p.html",
        "--crate",
        "c",
        "--name",
        "{alt}",
        "--format",
        "jsonl",
        "--no-robots",
    )
    kept = {row["alt"]: (Path("crates/c") / row["file"]).read_bytes() for row in done.rows if row["file"]}
    assert (kept["own"], kept["beside"], kept["Röd"]) == (BLUE, TEAL, RED)
    alone = run("pack", f"{web.address}/p.html", "--crate", "d", "--name", "{alt}", "--format", "jsonl", "--no-robots")
    assert [row["error"] for row in alone.rows if row["alt"] == "mine"] == [
        "a file on this disk, which a page of the web may not read"
    ]


def test_two_logs_have_different_pictures_for_one_address(run: Program, tmp_path: Path) -> None:
    (tmp_path / "one").write_text(har((f"{AWAY}/kite.png", "image/png", RED)))
    (tmp_path / "two").write_text(har((f"{AWAY}/kite.png", "image/png", BLUE), (f"{AWAY}/a.png", "image/png", TEAL)))
    for order in (("one", "two"), ("one", "two", "--sort", "width"), ("two", "one")):
        crate = f"c{'-'.join(order)}"
        rows = run("pack", *order, "--crate", crate, "--format", "jsonl").rows
        kept = {(row["source"], row["url"][-8:]): Path("crates", crate, row["file"]).read_bytes() for row in rows}
        assert kept == {("one", "kite.png"): RED, ("two", "kite.png"): BLUE, ("two", "id/a.png"): TEAL}
        assert "3 there already" in run("pack", *order, "--crate", crate).out


def test_a_folder_is_not_read_beyond_its_links(run: Program, tmp_path: Path) -> None:
    (tmp_path / "elsewhere.html").write_text("<img src=https://g.example/elsewhere.png>")
    (tmp_path / "pages").mkdir()
    (tmp_path / "pages" / "in.html").write_text("<img src=https://g.example/in.png>")
    (tmp_path / "pages" / "out.html").symlink_to(tmp_path / "elsewhere.html")
    assert run("look", "pages", "--format", "urls", "--as-shown").out == "https://g.example/in.png\n"


def test_a_source_that_trips_its_reader_costs_itself_alone(
    run: Program, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "log").write_text(har((f"{AWAY}/red.png", "image/png", RED)))
    (tmp_path / "p.html").write_text("<img src=https://g.example/a.png><video poster=https://g.example/b.png></video>")

    def trip(*_: object) -> None:
        raise ZeroDivisionError("a kite in the works")

    monkeypatch.setattr("pickcrate.read.archives.har.read_har", trip)
    monkeypatch.setattr("pickcrate.finders.embedded.POSTER.find.__code__", trip.__code__)
    done = run("look", "log", "p.html", "--as-shown")
    assert "this network log cannot be read: ZeroDivisionError: a kite in the works" in done.out
    assert "<video> could not be read: ZeroDivisionError" in done.out
    assert "1 picture" in done.out


GALLERY = [{"src": "k/1.jpg", "thumb": "t/1.jpg", "title": "</script>"}, {"src": "k/2.jpg", "thumb": "t/2.jpg"}]


def test_a_file_of_data_that_names_pictures(run: Program, tmp_path: Path) -> None:
    (tmp_path / "gallery.json").write_text(json.dumps(GALLERY))
    rows = run("look", "gallery.json", "--base", "https://kites.example/hall/", "--format", "jsonl", "--as-shown").rows
    assert [row["url"].removeprefix("https://kites.example/hall/") for row in rows] == ["t/1.jpg", "t/2.jpg"]
    (tmp_path / "other.json").write_text('{"kites": ["red", "blue"]}')
    assert run("look", "other.json").code != 0


@pytest.mark.parametrize(
    ("markup", "found"),
    [
        ("<script>fetch('data/gallery.json').then(show)</script>", 2),
        ("<div data-source='data/gallery.json'></div>", 2),
        ("<script>wall.load('data/gallery.xml')</script><a href=sitemap.xml>Map</a>", 2),
        ("<script>fetch(`/answers?of=kites`).then(show); fetch(`/answers?of=${more}`)</script>", 2),
        ("<script>asked.open('GET', \"/answers\", true)</script>", 2),
        ("<script>const API = '/answers'; fetch(API + '?of=kites'); fetch(API + more)</script>", 2),
        (
            "<script>const at = '/ans'; const to = 'wers'; fetch(new Request(`${at}${to}`)); fetch(`${at}${no}`)</script>",
            2,
        ),
        (
            "<script>let at = '/none'; $.ajax({type: 'GET', url: '/answers', success: show}); at = '/x'; fetch(at)</script>",
            2,
        ),
        ("<div data-endpoint=/answers></div><a href=data/none.json>None</a><p>see 'data/none.xml'", 2),
        ("<link rel=preload as=fetch href=/answers crossorigin>", 2),
        ("<object><param name=flashvars value='width=9&file=data/gallery.xml&x=1'></object>", 2),
        ("<script>d3.csv('data/gallery.csv').then(draw)</script>", 2),
        ("<script>fetch('data/gallery.jsonl')</script>", 2),
        ("<part-of-page src=/piece></part-of-page>", 2),
        ("<article data-url=/next.html></article>", 0),
        ("<div hx-get='/piece' hx-trigger=load></div>", 2),
        ("<div up-defer up-href='/piece'></div>", 2),
        ("<div data-ajax-url='/piece'></div>", 2),
        ("<script>$('#wall').load('/piece #list')</script>", 2),
        ("<script>$.post('/answers', form); send('/answers')</script>", 0),
        ("<script>fetch('data/gallery.json')</script>" + "".join(f"<img src=/{n}.png>" for n in range(9)), 0),
        ("<script>fetch('data/none.json'); load('locale.json')</script>", 0),
    ],
)
def test_a_page_without_pictures_has_those_of_the_data_that_its_scripts_name(
    markup: str, found: int, run: Program, web: Server
) -> None:
    (web.www / "data").mkdir()
    for name in ("data/gallery.json", "answers"):
        (web.www / name).write_text(json.dumps(GALLERY))
    (web.www / "data" / "gallery.csv").write_text("title,image\nRed,t/1.jpg\nBlue,t/2.jpg\n")
    (web.www / "data" / "gallery.jsonl").write_text('{"image": "t/1.jpg"}\n\n{"image": "t/2.jpg"}\n')
    (web.www / "next.html").write_text("<!DOCTYPE html><img src=t/1.jpg>")
    (web.www / "piece").write_text("<p><img src=t/1.jpg alt=Red><img src=t/2.jpg alt=Blue>")
    (web.www / "data" / "gallery.xml").write_text(
        "<gallery imagePath='l/' thumbPath='t/'><image><file>1.jpg</file></image><image><file>2.jpg</file></image></gallery>"
    )
    (web.www / "p.html").write_text(f"<title>Kites</title><img src=/logo.png>{markup}")
    done = run("look", f"{web.address}/p.html", "--format", "urls", "--as-shown", "--no-robots")
    assert done.out.count(f"{web.address}/t/") == found  # as a script that shows them there would have them
    assert not {"/locale.json", "/sitemap.xml", "/data/none.xml", "/x"} & set(web.requests())


FOLDERS: list[tuple[object, object]] = [
    ({"base": "img/", "names": ["a.jpg", "/b.jpg", "c"]}, {"base": "img/", "names": ["img/a.jpg", "/b.jpg", "c"]}),
    (
        {"imagePath": "l/", "thumbPath": "t/", "kites": [{"filename": "a.jpg", "title": "red.jpg"}]},
        {
            "imagePath": "l/",
            "thumbPath": "t/",
            "kites": [{"image": "l/a.jpg", "thumbnail": "t/a.jpg", "title": "red.jpg"}],
        },
    ),
    (
        {"largeFolder": "l/", "folder": "m/", "k": [{"src": "a.jpg", "thumb": "b.jpg"}, {"dir": "n/", "src": "a.jpg"}]},
        {
            "largeFolder": "l/",
            "folder": "m/",
            "k": [{"src": "l/a.jpg", "thumb": "l/b.jpg"}, {"dir": "n/", "src": "n/a.jpg"}],
        },
    ),
    ({"path": "kites", "file": "a.jpg", "url": "/k/"}, {"path": "kites", "file": "a.jpg", "url": "/k/"}),
]


@pytest.mark.parametrize(("data", "placed"), FOLDERS)
def test_folders_that_data_states_stand_before_its_files(data: object, placed: object) -> None:
    assert json.loads(in_folders(json.dumps(data).replace("/", r"\/").encode())) == placed


@pytest.mark.parametrize("octets", [b'{"path": "a/", "x": ', b'{"path": "a/", "x": ' + b"[" * 5000])
def test_data_that_is_broken_stays_as_it_is(octets: bytes) -> None:
    assert in_folders(octets) == octets


def test_a_list_may_be_a_workbook(run: Program, web: Server, tmp_path: Path) -> None:
    for n in range(3):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (20 + n, 10), (n, 9, 9)))
    book = Workbook()
    assert book.active is not None
    book.active.append(["Read me first"])
    sheet = book.create_sheet("Kites")
    rows: list[list[object]] = [["Catalogue"], [], ["No", "Photo", "Maker", "Seen"]]
    rows += [[n + 1, f"{web.address}/{n}.png", "Ino", date(2025, 3, n + 1)] for n in range(3)] + [[9, "lost"]]
    for row in rows:
        sheet.append(row)
    book.save(tmp_path / "kites.xlsx")
    pattern = "{column[Maker]} {column[No]} {column[Seen]}"
    named = run("pack", "kites.xlsx", "--name", pattern, "--crate", "d", "--format", "jsonl")
    assert [row["file"] for row in named.rows] == [f"Ino {n} 2025-03-0{n}.png" for n in (1, 2, 3)]
    assert ("from the column “Photo”" in named.err, "row 4 has no web address: lost" in named.err) == (True, True)
    (web.www / "kites.xlsx").write_bytes((tmp_path / "kites.xlsx").read_bytes())
    assert run("look", f"{web.address}/kites.xlsx", "--format", "urls").out.count(".png") == 3
    assert "larger than --max-file" in run("look", "kites.xlsx", "--max-file", "1kB").out
    # links behind words, and formulas that make links or show pictures
    for place, said in enumerate(
        ("see", f'=IMAGE("{web.address}/1.png")', f'=HYPERLINK("{web.address}/2.png", "see")')
    ):
        sheet.cell(4 + place, 2).value = said
    sheet.cell(4, 2).hyperlink = f"{web.address}/0.png"
    book.save(tmp_path / "links.xlsx")
    linked = run("pack", "links.xlsx", "--name", "{column[Maker]} {column[No]}", "--crate", "e", "--format", "jsonl")
    assert [row["file"] for row in linked.rows] == [f"Ino {n}.png" for n in (1, 2, 3)]
    assert "from the column “Photo link”" in linked.err


def test_a_pick_list_may_come_back_as_a_workbook(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "p.html").write_text("<img src=0.png alt='=kite'><img src=1.png>")
    for n in range(2):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (20 + n, 10), (n, 9, 9)))
    assert run("look", f"{web.address}/p.html", "--save", "picks.csv").code == 0
    book = Workbook()
    assert book.active is not None
    with (tmp_path / "picks.csv").open(encoding="utf-8-sig", newline="") as file:
        for place, cells in enumerate(csv.reader(file)):
            book.active.append(["no", *cells[1:]] if place == 2 else cells)
    book.save(tmp_path / "picks.xlsx")
    done = run("pack", "picks.xlsx", "--name", "{alt}", "--crate", "c", "--format", "jsonl")
    assert [(row["file"], row["alt"]) for row in done.rows] == [("=kite.png", "=kite")]
    octets = (tmp_path / "picks.xlsx").read_bytes()
    (tmp_path / "cut.xlsx").write_bytes(octets[: len(octets) // 2])
    assert run("look", "cut.xlsx").code in {3, 4}


@pytest.mark.parametrize(
    ("name", "text", "picked"),
    [
        ("few.csv", "Pick,URL\nyes,{0}\n,{1}\nno,{2}\n", [0]),
        ("few.csv", "url,pick,notes\n{0},1.0,\n{1},0.0,red\n{2},1.0,\n", [0, 2]),
        ("few.csv", "sep=;\npick;name;url\nkeep;Red, blue;{0}\ndrop;Crow;{1}\n", [0]),
        ("few.jsonl", '{{"url": "{0}", "pick": true}}\n{{"url": "{1}", "pick": false}}\n', [0]),
        ("draft.csv", "Pick,Player,Photo\n1,Ino,{0}\n2,Pell,{1}\n,Ysolde,{2}\n", [0, 1, 2]),
    ],
)
def test_a_list_of_few_columns_says_yes_or_no(
    run: Program, tmp_path: Path, name: str, text: str, picked: list[int]
) -> None:
    kites = [f"https://galewick.example/{n}.jpg" for n in range(3)]
    (tmp_path / name).write_text(text.format(*kites))
    assert [row["url"] for row in run("look", name, "--format", "jsonl").rows] == [kites[n] for n in picked]


def test_a_list_may_be_parquet(run: Program, web: Server, tmp_path: Path) -> None:
    for n in range(3):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (20 + n, 10), (n, 9, 9)))
    (web.www / "p.html").write_text("".join(f"<img src={n}.png alt='kite {n}'>" for n in range(3)))
    assert run("look", f"{web.address}/p.html", "--save", "picks.parquet", "--width", "21..").code == 0
    table = pq.read_table(tmp_path / "picks.parquet")
    assert (table.column("width").to_pylist(), table.column("pick").to_pylist()) == ([20, 21, 22], [False, True, True])
    done = run("pack", "picks.parquet", "--crate", "c", "--parquet", "--format", "jsonl")
    assert [(row["file"], row["alt"]) for row in done.rows] == [("1.png", "kite 1"), ("2.png", "kite 2")]
    assert pq.read_table(tmp_path / "crates" / "c" / "crate.parquet").column("bytes").to_pylist()[0] > 20
    assert run("audit", "c").code == 0
    rows = {"Photo": [f"{web.address}/{n}.png" for n in range(3)], "Maker": ["Ilse", "Tam", None]}
    pq.write_table(pa.table(rows), tmp_path / "in.parquet")
    named = run("pack", "in.parquet", "--name", "{column[Maker]}", "--crate", "d", "--format", "jsonl")
    assert [row["file"] for row in named.rows] == ["Ilse.png", "Tam.png", "2.png"]
    octets = (tmp_path / "in.parquet").read_bytes()
    (tmp_path / "cut.parquet").write_bytes(octets[:60])
    cut = run("look", "cut.parquet")
    assert (cut.code, "cannot be read as Parquet" in cut.err) == (3, True)


def test_of_a_folder_only_the_pages_with_pictures_have_a_line_and_what_is_wrong_is_said_once(
    run: Program, tmp_path: Path
) -> None:
    site = tmp_path / "site"
    site.mkdir()
    for name, inside in (("a", "<img src=a.png>"), ("b", "words"), ("c", "<img src=a.png>"), ("d", "")):
        (site / f"{name}.html").write_text(f"<title>Page {name}</title><link rel=stylesheet href=gone.css>{inside}")
    (site / "a.png").write_bytes(picture("PNG", (30, 20)))
    out = run("look", "site").out
    assert [line[:6] for line in out.splitlines() if line.startswith("Page")] == ["Page a", "Page c"]
    assert out.count("gone.css") == 1
    assert "2 pictures on 4 pages, 2 of them without any" in out
    assert "Page b" in run("look", "site/b.html").out


def test_a_site_on_disk_is_read_as_its_server_would_serve_it(run: Program, tmp_path: Path) -> None:
    for name, text in {
        "site/rooms/hall.html": "<link rel=stylesheet href=/css/all.css><img src=/img/a.png><img src=../img/b.png><p>x",
        "site/css/all.css": "p{background:url(/img/c.png)}",
        "site/rooms/side.html": "<iframe src=/rooms/hall.html></iframe><img src=/../outside.png>",
    }.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(text)
    (tmp_path / "site/img").mkdir()
    for name, colour in (("a", "red"), ("b", "teal"), ("c", "navy")):
        (tmp_path / f"site/img/{name}.png").write_bytes(picture("PNG", (30, 20), colour))
    (tmp_path / "outside.png").write_bytes(picture("PNG", (30, 20), "black"))
    images = {(tmp_path / f"site/img/{name}.png").resolve().as_uri() for name in "abc"}
    for crate, source in (("whole", ["site"]), ("one", ["site/rooms/hall.html", "--root", "site"])):
        done = run("pack", *source, "--crate", crate, "--format", "jsonl")
        assert {row["url"] for row in done.rows if row["outcome"] == "fetched"} == images
        assert not any(row["file"] == "outside.png" for row in done.rows)
    (tmp_path / "copy").mkdir()
    shutil.copytree(tmp_path / "site", tmp_path / "copy/kites.example")
    run("pack", "copy", "--crate", "copied")
    assert len(list((tmp_path / "crates/copied").glob("*.png"))) == 3
    for folder, name in ((tmp_path / "site", "bare"), (tmp_path / "copy", "named")):
        package = shutil.make_archive(str(tmp_path / name), "zip", folder)
        run("pack", package, "--crate", name)
        assert len(list((tmp_path / "crates" / name).glob("*.png"))) == 3
    alone = run("pack", "site/rooms/hall.html", "--crate", "alone")
    assert "--root DIR" in alone.out + alone.err
    assert not list((tmp_path / "crates/alone").glob("*.png"))
    assert run("look", "site/rooms/hall.html", "--root", "nowhere").code == 2
    typed = (tmp_path / "site/rooms/hall.html").as_uri()
    assert len(run("look", f"{typed}#top", "--root", "site", "--format", "jsonl").rows) == 3
    assert len(run("look", (tmp_path / "site").as_uri(), "--format", "jsonl").rows) > 3
    assert "no such file" in run("look", "file:///nowhere/hall.html").err
    for host in ("127.0.0.1:8425/hall.html", "localhost:8425", "kites.example/hall.html", "kites.example"):
        assert f"https://{host}" in run("look", host).err
    assert "https://" not in run("look", "hall.html").err
    said = "lie outside the page's own folder"
    assert said in run("look", "site/rooms/hall.html").out
    assert not any(
        said in run("look", *source).out
        for source in (["site"], ["bare.zip"], ["site/rooms/hall.html", "--root", "site"])
    )


COMMANDS = [
    "name,command\nred,save -o red.jpg {0}\nblue,save -o blue.jpg {1}\n",
    "save -o,red.jpg,{0}\nsave -o,blue.jpg,{1}\n",
    "Save as;Where\nred.jpg;{0}\nblue.jpg;{1}\n",
    "red.jpg\t{0}\nblue.jpg\t{1}\n",
]
"""sheets that somebody made to fetch pictures by, with the names that they are to have"""


@pytest.mark.parametrize("text", COMMANDS)
def test_sheets_of_commands(run: Program, tmp_path: Path, text: str) -> None:
    urls = ["https://k.example/a1.jpg", "https://k.example/a2.jpg"]
    (tmp_path / "list").write_text(text.format(*urls))
    done = run("look", "list", "--format", "jsonl")
    assert [(row["url"], row["name"]) for row in done.rows] == [(urls[0], "red"), (urls[1], "blue")]


@pytest.mark.parametrize("quote", ["", "'", '"'])
def test_lines_of_commands(run: Program, tmp_path: Path, quote: str) -> None:
    urls = ["https://k.example/a1.jpg", "https://k.example/a2.jpg"]
    lines = [
        f"save -o {quote}{name}{quote} {quote}{url}{quote}\n"
        for name, url in zip(("r d.jpg" if quote else "r\\ d.jpg", "b.jpg"), urls, strict=True)
    ]
    (tmp_path / "list").write_text("".join(lines))
    done = run("look", "list", "--format", "jsonl")
    assert [(row["url"], row["name"]) for row in done.rows] == [(urls[0], "r d"), (urls[1], "b")]
    (tmp_path / "paths.csv").write_text("Front,Back\na.jpg,b.jpg\nc.jpg,d.jpg\n")
    assert [row["name"] for row in run("look", "paths.csv", "--format", "jsonl").rows] == ["a", "c"]


@pytest.mark.parametrize("between", [": ", " - ", " = ", "  "])
def test_words_beside_the_addresses_of_a_list(run: Program, tmp_path: Path, between: str) -> None:
    (tmp_path / "list").write_text(
        f"Red delta{between}https://k.example/1.jpg\nBlue box{between}https://k.example/2.jpg\n"
    )
    assert [row["title"] for row in run("look", "list", "--format", "jsonl").rows] == ["Red delta", "Blue box"]
    (tmp_path / "list").write_text(
        "https://k.example/1.jpg\nhttps://k.example/2.jpg  Blue box\nhttps://k.example/a b.jpg\n"
    )
    rows = run("look", "list", "--format", "jsonl").rows
    assert [(row["url"][18:], row["title"]) for row in rows] == [
        ("1.jpg", None),
        ("2.jpg", "Blue box"),
        ("a%20b.jpg", None),
    ]
    (tmp_path / "list").write_text("save https://k.example/1.jpg\nsave -q https://k.example/2.jpg\n")
    assert [row["title"] for row in run("look", "list", "--format", "jsonl").rows] == [None, None]


def test_braces_in_names_go_through_a_pick_list(run: Program, tmp_path: Path) -> None:
    (tmp_path / "p.html").write_text("<img src='https://k.example/{a,b}.jpg'>")
    run("look", "p.html", "--save", "picks.csv")
    assert [row["name"] for row in run("look", "picks.csv", "--format", "jsonl").rows] == ["{a,b}"]


def test_a_script_of_commands(run: Program, tmp_path: Path) -> None:
    lines = (
        "#!/bin/sh\nmkdir out\nsave -o 'out/red.jpg' 'https://k.example/get?id=7'\nsave https://k.example/8 -o b.jpg\n"
    )
    (tmp_path / "fetch.sh").write_text(lines)
    done = run("look", "fetch.sh", "--format", "jsonl")
    assert [(row["url"][18:], row["name"]) for row in done.rows] == [("get?id=7", "red"), ("8", "b")]
    assert "line 2 is not a web address: mkdir out" in done.err
    (tmp_path / "list.txt").write_text("https://k.example/a.jpg 'red.jpg'\nhttps://k.example/Red kite.jpg\n")
    rows = run("look", "list.txt", "--format", "jsonl").rows
    assert [(row["url"][18:], row["name"]) for row in rows] == [("a.jpg", "red"), ("Red%20kite.jpg", "Red kite")]
    (tmp_path / "server.log").write_text('GET /i/red.jpg 200 "https://k.example/hall"\n')
    assert [row["url"][-10:] for row in run("look", "server.log", "--format", "jsonl").rows] == []
