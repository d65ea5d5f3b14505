"""A haul: split by site, packed by workers that may be killed, published in stores that may fail, nothing twice."""

import bz2
import contextlib
import csv
import gzip
import hashlib
import http.client
import io
import json
import lzma
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tarfile
import threading
import time
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from http.server import ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pyarrow as pa  # type: ignore[import-untyped]
import pyarrow.parquet as pq  # type: ignore[import-untyped]
import pytest
import zstandard
from PIL import Image

import pickcrate
from conftest import (
    HANGS,
    HEEDING,
    Answering,
    Program,
    Ran,
    Server,
    encoded,
    is_open,
    kite,
    picture,
    serving,
    wait_until,
)
from pickcrate.errors import SourceError, StoreError, UsageError
from pickcrate.haul.allotment import GROUPS, allot, group_of
from pickcrate.haul.conducting import _Line
from pickcrate.haul.splitting import Splitter
from pickcrate.stores import HAUL
from pickcrate.stores.hauled import hauled_at, picks, picture as stored_picture, rows
from pickcrate.stores.opening import open_store
from pickcrate.stores.papers import Haul
from pickcrate.stores.store import Store

SITES, PICTURES = 50, 300


@pytest.mark.parametrize(
    ("counts", "most", "loads", "chains"),
    [
        ([0, 3, 0, 4, 5], 10, 2, ()),
        ([10, 10], 10, 2, ()),
        ([1] * 100, 10, 10, ()),
        ([4, 25, 4], 10, 5, ((1, 3),)),
        ([25, 0, 31], 10, 7, ((0, 3), (3, 4))),
    ],
)
def test_groups_are_allotted(counts: list[int], most: int, loads: int, chains: tuple[tuple[int, int], ...]) -> None:
    found = allot(counts, most)
    assert (found.loads, found.chains) == (loads, chains)
    filled: Counter[int] = Counter()
    for group, count in enumerate(counts):
        filled[found.first[group]] += count if found.parts[group] == 1 else 0
    assert max(filled.values(), default=0) <= most


def test_one_host_is_one_group_however_it_is_written() -> None:
    ways = ("kites.example", "KITES.Example:8080", "fan:secret@kites.example", "kites.example:443")
    assert len({group_of(way) for way in ways}) == 1
    assert (group_of(""), group_of("a b")) == (0, 0)
    assert 0 < group_of("bücher.example") == group_of("xn--bcher-kva.example") < GROUPS


def test_of_a_chain_only_one_load_is_out() -> None:
    line = _Line(Haul("x", (), {}, {}, 10, 7, ((1, 3), (5, 2)), 1), done={1, 4})
    assert [line.next() for _ in range(5)] == [2, 5, 0, None, None]
    line.done(2)
    assert (line.next(), line.next()) == (3, None)
    line.give_up(5)
    line.again(0)
    assert [line.next() for _ in range(3)] == [6, 0, None]


def split(folder: Path, most: int, *sources: Path, **columns: str) -> tuple[Splitter, dict[int, pa.Table]]:
    splitter = Splitter(tuple(map(str, sources)), columns, most)
    loads: dict[int, pa.Table] = {}
    for _ in splitter.run(folder, lambda load, octets: loads.update({load: pq.read_table(pa.BufferReader(octets))})):
        pass
    return splitter, loads


def test_a_list_is_split_by_site_in_the_order_of_its_rows(tmp_path: Path) -> None:
    addresses = [f"http://site{number % 37}.example/{number}.jpg" for number in range(900)]
    addresses += [f"https://large.example/{number % 450}.jpg" for number in range(900)]
    pq.write_table(pa.table({"url": addresses, "id": range(1800)}), tmp_path / "list.parquet")
    splitter, loads = split(tmp_path, 100, tmp_path / "list.parquet")
    found = splitter.split
    assert (found.rows, found.loads, set(loads)) == (1800, len(loads), set(range(len(loads))))
    assert sorted(number for load in loads.values() for number in load.column("haul_row").to_pylist()) == list(
        range(1, 1801)
    )
    of_site: dict[str, set[int]] = defaultdict(set)
    of_address: dict[str, set[int]] = defaultdict(set)
    for load, table in loads.items():
        numbers = table.column("haul_row").to_pylist()
        assert numbers == sorted(numbers)
        assert [number - 1 for number in numbers] == table.column("id").to_pylist()
        for address in table.column("url").to_pylist():
            of_site[address.split("/")[2]].add(load)
            of_address[address].add(load)
    ((first, count),) = found.chains
    assert of_site.pop("large.example") <= set(range(first, first + count))
    assert {len(some) for some in of_site.values()} == {len(some) for some in of_address.values()} == {1}


def test_lists_of_all_kinds_are_split(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Photo;What\nhttp://a.example/1.jpg;one\nnone;two\n", encoding="utf-8")
    with lzma.open(tmp_path / "b.csv.xz", "wt") as file:
        file.write("What,Photo,More\nthree,http://b.example/2.jpg,x\n")
    splitter, loads = split(tmp_path, 10, tmp_path / "a.csv", tmp_path / "b.csv.xz")
    table = pa.concat_tables(loads.values())
    assert (splitter.split.columns, splitter.split.rows, set(table.column_names)) == (
        {"url": "Photo"}, 3, {"Photo", "What", "More", "haul_row"},
    )  # fmt: skip
    (tmp_path / "c.jsonl").write_text(
        '{"url": "http://a.example/1.jpg"}\n{"url": "http://a.example/2.jpg", "more": [1]}\nno\n'
    )
    splitter, loads = split(tmp_path, 10, tmp_path / "c.jsonl")
    assert loads[0].column("more").to_pylist() == [None, "[1]"]
    assert sum(splitter.split.unread.values()) == 1
    (tmp_path / "d.txt").write_text("# kites\nhttp://a.example/1.jpg\n\nhttp://b.example/2.jpg\n")
    assert split(tmp_path, 1, tmp_path / "d.txt")[0].split.loads == 2
    for value, kind in ((7, "int64"), ("x", "string")):
        pq.write_table(pa.table({"url": ["http://a.example/3.jpg"], "id": [value]}), tmp_path / f"{kind}.parquet")
    assert split(tmp_path, 9, tmp_path / "int64.parquet", tmp_path / "string.parquet")[1][0].column(
        "id"
    ).to_pylist() == ["7", "x"]
    pq.write_table(pa.table({"url": [["http://a.example/3.jpg"]]}), tmp_path / "lists.parquet")
    with pytest.raises(SourceError, match="the cells of its column “url” are no addresses"):
        split(tmp_path, 9, tmp_path / "lists.parquet")
    (tmp_path / "e.csv").write_text("url,what\n")
    rows = "".join(f"http://a.example/{n * n}.jpg\n" for n in range(9_000)).encode()
    for ending, pack in (
        ("gz", gzip.compress),
        ("bz2", bz2.compress),
        ("xz", lzma.compress),
        ("zst", zstandard.compress),
    ):
        (tmp_path / f"whole.txt.{ending}").write_bytes(pack(rows))
        assert split(tmp_path, 9_000, tmp_path / f"whole.txt.{ending}")[0].split.rows == 9_000
        (tmp_path / f"cut.txt.{ending}").write_bytes(pack(rows)[:-40])
    for wrong in ("e.csv", "none*.csv", "page.html", "cut.txt.gz", "cut.txt.bz2", "cut.txt.xz"):
        (tmp_path / "page.html").write_text("<p>kites")
        with pytest.raises(SourceError):
            split(tmp_path, 10, tmp_path / wrong)
    with pytest.raises(UsageError, match="different columns"):
        split(tmp_path, 10, tmp_path / "a.csv", tmp_path / "d.txt")


@pytest.fixture(scope="session")
def objects(tmp_path_factory: pytest.TempPathFactory) -> Iterator[int]:
    """The port of a real object store."""
    server, port = object_store(tmp_path_factory.mktemp("objects"))
    with pytest.MonkeyPatch.context() as environment:
        environment.setenv("AWS_ACCESS_KEY_ID", "galewick")
        environment.setenv("AWS_SECRET_ACCESS_KEY", "kite-store")
        environment.setenv("AWS_REGION", "us-east-1")
        environment.setenv("AWS_ENDPOINT_URL", f"http://127.0.0.1:{port}")
        assert open_store("s3://kites/first").create("there", b"")
        yield port
    server.kill()  # it would take its time
    server.wait()


def object_store(root: Path) -> "tuple[subprocess.Popen[bytes], int]":
    """Start an object store; somebody else may take one of its ports between a look at it and its use."""
    who = {"name": "museum", "credentials": [{"accessKey": "galewick", "secretKey": "kite-store"}]}
    (root / "s3.json").write_text(json.dumps({"identities": [who | {"actions": ["Admin", "Read", "Write", "List"]}]}))
    for attempt in range(5):
        folder = root / str(attempt)
        folder.mkdir()
        ports = [free_port(30_000) for _ in range(4)]  # each has another one, 10,000 above it
        names = ("master.port", "volume.port", "filer.port", "s3.port")
        named = [f"-{name}={port}" for name, port in zip(names, ports, strict=True)]
        line = [str(Path(sys.executable).with_name("weed")), "server", f"-dir={folder}", "-ip=127.0.0.1", "-ip.bind=127.0.0.1", *named,
                "-s3", "-s3.port.iceberg=0", "-s3.port.lance=0", f"-s3.config={root}/s3.json", "-master.telemetry=false", "-volume.max=20", "-master.volumeSizeLimitMB=64"]  # fmt: skip
        with (folder / "log").open("w") as log:
            server = subprocess.Popen(line, stdout=log, stderr=log, cwd=folder)
        until = time.monotonic() + HANGS / 5
        while server.poll() is None and time.monotonic() < until:
            if is_open(ports[-1]):
                return server, ports[-1]
            time.sleep(0.02)
        server.kill()
        server.wait()
    raise AssertionError((folder / "log").read_text()[-2_000:])


def free_port(below: int) -> int:
    for port in range(below - os.getpid() % 5_000, 10_000, -7):
        with socket.socket() as one, socket.socket() as other:
            try:
                one.bind(("127.0.0.1", port))
                other.bind(("127.0.0.1", port + 10_000))
            except OSError:
                continue
            if port not in _GIVEN:
                _GIVEN.add(port)
                return port
    raise AssertionError


_GIVEN: set[int] = set()


@pytest.fixture(params=["folder", "s3", "memory"])
def store(request: pytest.FixtureRequest, tmp_path: Path) -> Store:
    if request.param == "s3":
        request.getfixturevalue("objects")
        return open_store(f"s3://kites/{tmp_path.name}")
    return open_store(str(tmp_path / "store") if request.param == "folder" else f"memory://{tmp_path.name}")


def test_a_store_holds_files_by_name(store: Store, tmp_path: Path) -> None:
    octets = os.urandom(3_000_000)
    for _ in range(2):
        (tmp_path / "large").write_bytes(octets)
        store.put("shards/1/a.tar", tmp_path / "large")
    assert (b"".join(store.pieces("shards/1/a.tar")) == octets, store.part("shards/1/a.tar", 5, 9)) == (
        True,
        octets[5:14],
    )
    with ThreadPoolExecutor(8) as threads:
        made = list(threads.map(lambda number: store.create("receipts/1", bytes([number])), range(8)))
    if "memory" not in store.address:  # it cannot refuse
        assert sum(made) == 1
        assert store.read("receipts/1") == bytes([made.index(True)])
    (tmp_path / "small").write_text("new")
    store.replace("receipts/1", tmp_path / "small")
    assert (store.read("receipts/1"), store.read("receipts/2"), store.create("receipts/1", b"")) == (
        b"new",
        None,
        False,
    )
    assert set(store.names("shards")) == {("shards/1/a.tar", 3_000_000)}
    assert set(store.names("none")) == set()
    store.delete("shards/1/a.tar")
    store.delete("shards/1/a.tar")
    assert set(store.names("shards")) == set()
    with pytest.raises(StoreError):
        list(store.pieces("shards/1/a.tar"))


def test_what_is_no_store_is_told(tmp_path: Path) -> None:
    for address in ("https://kites.example/x", "none://kites/x"):
        with pytest.raises(UsageError):
            open_store(address)
    with pytest.raises(StoreError, match="no name"):
        open_store(str(tmp_path)).read("../secret")


class Sites:
    """Fifty sites, each an address of loopback; how many connections of each had a request at once."""

    def __init__(self) -> None:
        self.busy: Counter[str] = Counter()
        self.most: Counter[str] = Counter()
        self.asked: Counter[str] = Counter()
        self.pause = 0.0
        self._lock = threading.Lock()

    def handler(self) -> type[Answering]:
        sites = self

        class Site(Answering):
            def do_GET(self) -> None:
                site = str(self.connection.getsockname()[0])
                number = int("".join(filter(str.isdecimal, self.path)) or 0)
                with sites._lock:
                    sites.busy[site] += 1
                    sites.most[site] = max(sites.most[site], sites.busy[site])
                    sites.asked[f"{site}{self.path}"] += 1
                time.sleep(sites.pause)
                with sites._lock:
                    sites.busy[site] -= 1
                if "none" in self.path or "robots" in self.path:
                    self.answer(404, b"", "text/plain")
                else:
                    self.answer(200, picture(size=(20 + number % 50, 20 + number // 50)))

        return Site


@pytest.fixture
def sites() -> Iterator[tuple[Sites, int]]:
    known = Sites()

    class Everywhere(ThreadingHTTPServer):
        request_queue_size = 256

        def handle_error(self, request: object, client_address: object) -> None:
            """Say nothing of clients that were killed."""

    with Everywhere(("0.0.0.0", 0), known.handler()) as server:
        threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
        yield known, server.server_port
        server.shutdown()


def test_twins_are_found_across_shards(haul: Callable[..., Ran], run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "1.png").write_bytes(encoded(kite(1)))
    (web.www / "1-small.jpg").write_bytes(encoded(kite(1, (300, 200)), "JPEG", quality=80))
    (web.www / "2.png").write_bytes(encoded(kite(2)))
    (tmp_path / "list.txt").write_text("".join(f"{web.address}/{name}\n" for name in ("1.png", "1-small.jpg", "2.png")))
    haul("list.txt", "--to", "plain", "--load", 1, "--workers", 1)
    told = run("alike", "plain")
    assert (told.code, "--fingerprints" in told.err) == (2, True)
    assert haul("list.txt", "--to", "seen", "--load", 1, "--workers", 1, "--fingerprints").code == 0
    rows = run("alike", "seen", "--format", "jsonl", "--out", "twins.html").rows
    assert [(row["alike"], row["file"]) for row in rows] == [("best", "000001-1.png"), ("twins", "000002-1-small.jpg")]
    assert (tmp_path / "twins.html").read_text().count("data:image/") == 2
    assert run("alike", "seen", "--move-to", "away").code == 2


def write_list(path: Path, port: int, *, missing: int = 0) -> None:
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(("Photo", "What"))
        for number in range(PICTURES):
            writer.writerow((f"http://127.0.0.{2 + number * 7 % SITES}:{port}/kite-{number}.png", f"a kite, {number}"))
        for number in range(missing):
            writer.writerow((f"http://127.0.0.9:{port}/none-{number}.png", f"none, {number}"))
        writer.writerow(("no address", "nothing"))


@pytest.fixture
def haul(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Callable[..., Ran]:
    """Run ``haul`` as a user does: its workers are processes of their own."""
    monkeypatch.chdir(tmp_path)
    (tmp_path / "scratch").mkdir()

    def call(*arguments: object) -> Ran:
        line = command(tmp_path, *arguments)
        done = subprocess.run(
            line, capture_output=True, check=False, text=True, timeout=HANGS, env=environment(tmp_path)
        )
        assert "Traceback" not in done.stderr + done.stdout, done.stderr
        return Ran(done.returncode, done.stdout, done.stderr)

    return call


def command(folder: Path, *arguments: object) -> list[str]:
    return [sys.executable, "-m", "pickcrate", "haul", *map(str, arguments), "--scratch", str(folder / "scratch")]


def environment(folder: Path) -> dict[str, str]:
    return {**os.environ, "LC_ALL": "C.UTF-8", "XDG_CACHE_HOME": str(folder / "cache")}


def holdings(address: str) -> dict[str, tuple[int, str]]:
    """Return the row and the hash of each picture that a haul holds, by its address; its bytes are what its row says."""
    hauled = hauled_at(address)
    found: dict[str, tuple[int, str]] = {}
    for shard in hauled.shards:
        with tarfile.open(fileobj=io.BytesIO(b"".join(hauled.store.pieces(shard.tar)))) as archive:
            members = archive.getnames()
        listed = list(rows(hauled.store, shard))
        assert members == list(dict.fromkeys(row["file"] for row in listed))
        for row in listed:
            assert row["url"] not in found
            assert hashlib.sha256(stored_picture(hauled.store, shard, row)).hexdigest() == row["sha256"]
            assert row["file"] == f"{row['row']:06}-{Path(row['url']).stem}.png"
            found[row["url"]] = (row["row"], row["sha256"])
    return found


def test_a_row_of_a_haul_may_hold_several_pictures_and_none_that_is_relative(
    haul: Callable[..., Ran], sites: tuple[Sites, int], tmp_path: Path
) -> None:
    kites = [f"http://127.0.0.2:{sites[1]}/kite-{number}.png" for number in range(3)]
    text = f'Kite,Photos\nRed,"{kites[0]}, {kites[1]}"\nBlue,{kites[2]}\nTeal,photos/teal.png\n'
    (tmp_path / "list.csv").write_text(text)
    done = haul("list.csv", "--to", "out", "--workers", 1)
    assert "4 rows in 1 load" in done.out
    assert "3 pictures in 1 shard" in done.out
    assert "1 row without a web address" in done.out
    shards = pq.read_table(next((tmp_path / "out" / "shards").rglob("*.parquet")))
    assert sorted(shards.column("url").to_pylist()) == kites


def test_what_an_earlier_haul_holds_is_left_out(
    haul: Callable[..., Ran], sites: tuple[Sites, int], tmp_path: Path
) -> None:
    known, port = sites
    kites = [f"http://127.0.0.{2 + number % 3}:{port}/kite-{number}.png" for number in range(8)]
    (tmp_path / "october.csv").write_text("Photo\n" + "\n".join(kites[:5]) + f"\nhttp://127.0.0.2:{port}/none.png\n")
    assert haul("october.csv", "--to", "october", "--workers", 1, "--retries", 0).code == 1
    written = [*kites[:3], kites[6], kites[3].replace("http:", "HTTP:"), kites[4] + "#top", kites[7]]
    (tmp_path / "november.csv").write_text("Photo\n" + "\n".join(written) + f"\nhttp://127.0.0.2:{port}/none.png\n")
    known.asked.clear()
    done = haul("november.csv", "--to", "november", "--earlier", "october", "--workers", 1, "--retries", 0)
    assert "3 rows in 1 load" in done.out
    assert "5 rows besides that earlier hauls hold" in done.out
    asked = {path for path in known.asked if "robots" not in path}
    assert asked == {"127.0.0.2/kite-6.png", "127.0.0.3/kite-7.png", "127.0.0.2/none.png"}
    hauled = hauled_at(str(tmp_path / "november"))
    files = [row["file"] for shard in hauled.shards for row in rows(hauled.store, shard)]
    assert files == ["000004-kite-6.png", "000007-kite-7.png"]  # numbers of their own list
    again = haul("october.csv", "--to", "third", "--earlier", "october", "--earlier", "november", "--workers", 1)
    assert "1 row in 1 load" in again.out
    (tmp_path / "old.txt").write_text(kites[0] + "\n")
    none = haul("old.txt", "--to", "fourth", "--earlier", "october")
    assert (none.code, "nothing new: earlier hauls hold all that the list names" in none.err) == (4, True)
    assert haul("old.txt", "--to", "fourth", "--earlier", "nowhere").code == 2


@pytest.mark.usefixtures("objects")
def test_a_haul_is_what_a_pack_would_be(
    haul: Callable[..., Ran], built: Program, sites: tuple[Sites, int], tmp_path: Path
) -> None:
    known, port = sites
    known.pause = 0.02
    write_list(tmp_path / "list.csv", port, missing=3)
    done = haul("list.csv", "--to", "s3://kites/same", "--workers", 2, "--load", 40, "--log", "log.txt", "--retries", 0)
    assert done.code == 1
    assert "304 rows in 9 loads" in done.out
    assert f"{PICTURES} pictures in 9 shards" in done.out
    assert "3 failed · 1 row without a web address" in done.out
    assert max(known.most.values()) <= 4
    assert (tmp_path / "log.txt").read_text().count("\tload\t") == 9
    built("pack", "list.csv", "--crate", "plain", "--retries", "0")
    with (tmp_path / "crates" / "plain" / "crate.csv").open() as file:
        plain = {row["url"]: row["sha256"] for row in csv.DictReader(file)}
    found = holdings("s3://kites/same")
    assert {url: sha256 for url, (_, sha256) in found.items()} == plain
    assert sorted(number for number, _ in found.values()) == list(range(1, PICTURES + 1))
    again = haul("s3://kites/same/failed.parquet", "--to", "again", "--workers", 1, "--retries", 0)
    assert "3 rows in 1 load" in again.out
    assert "3 × the server answered 404 Not Found" in again.out
    table = pq.read_table(next((tmp_path / "again" / "loads").rglob("*.parquet")))
    assert table.column("What").to_pylist() == ["none, 0", "none, 1", "none, 2"]
    known.asked.clear()
    assert "9 of 9 loads packed already" in haul("list.csv", "--to", "s3://kites/same", "--retries", 0).out
    assert not known.asked
    other = haul("list.csv", "--to", "s3://kites/same", "--width", "9..")
    assert (other.code, "holds another haul" in other.err) == (2, True)
    read(built, "s3://kites/same", tmp_path)


NGINX = """
daemon off; worker_processes 1; pid {root}/pid; error_log {root}/error.log; events {{ worker_connections 512; }}
http {{
  log_format site '$server_addr $status'; access_log {root}/access.log site; types {{ image/png png; }}
  limit_conn_zone $server_addr zone=sites:1m; limit_conn sites 2; limit_conn_status 418;
  client_body_temp_path {root}/t; proxy_temp_path {root}/t; fastcgi_temp_path {root}/t; uwsgi_temp_path {root}/t;
  scgi_temp_path {root}/t;
  server {{ {listens} root {root}; limit_rate 60k; }}
}}
"""


def test_no_site_sees_more_than_its_connections(haul: Callable[..., Ran], web: Server, tmp_path: Path) -> None:
    root = web.www / "sites"
    root.mkdir()
    port = free_port(50_000)
    listens = " ".join(f"listen 127.0.0.{2 + site}:{port};" for site in range(SITES))
    (root / "conf").write_text(NGINX.format(root=root, listens=listens))
    noise = Image.effect_noise((180, 180), 60)
    for number in range(6):
        noise.putpixel((number, 0), 255)
        noise.save(root / f"{number}.png")
    (tmp_path / "list.txt").write_text(
        "".join(f"http://127.0.0.{2 + n // 6}:{port}/{n % 6}.png\n" for n in range(6 * SITES))
    )
    nginx = shutil.which("nginx", path=f"{os.environ['PATH']}:/usr/sbin")
    assert nginx is not None
    server = subprocess.Popen([nginx, "-c", root / "conf", "-e", root / "error.log"])
    try:
        wait_until(lambda: is_open(port, "127.0.0.2"))
        done = haul("list.txt", "--to", "out", "--workers", 2, "--load", 40, "--per-site", 2, "--at-once", 32)
    finally:
        server.terminate()
        server.wait()
    assert (done.code, "300 pictures in" in done.out) == (0, True)
    answers = Counter(line.split()[1] for line in (root / "access.log").read_text().splitlines())
    assert answers["200"] == 300
    assert set(answers) == {"200", "404"}  # robots.txt, and none that came on a third connection


def read(built: Program, store: str, tmp_path: Path) -> None:
    """Hold what other commands make of a store against what is in it."""
    looked = built("look", store, "--width", "40..", "--format", "jsonl")
    assert {row["width"] for row in looked.rows} == set(range(40, 70))
    assert "300 moved · 0 the same" in built("compare", store, "plain").out  # names begin with the rows
    assert built("sheet", store, "--out", "s.html", "--limit", 30).code == 0
    assert (tmp_path / "s.html").read_text().count("data:image/") >= 30
    audited = built("audit", store)
    assert (audited.code, "300 pictures in 9 shards looked at: all as their receipts say" in audited.out) == (0, True)


def test_whoever_is_killed_nothing_is_lost_or_twice(
    haul: Callable[..., Ran], sites: tuple[Sites, int], tmp_path: Path
) -> None:
    known, port = sites
    known.pause = 0.15
    write_list(tmp_path / "list.csv", port)
    line = command(tmp_path, "list.csv", "--to", "out", "--workers", 2, "--load", 60, "--per-site", 1, "--at-once", 2)
    for victim in ("worker", "client"):
        running = subprocess.Popen(
            line, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env=environment(tmp_path)
        )
        before = known.asked.total()
        wait_until(partial(more_than, known, before + 40))
        workers = processes_of(running.pid)
        assert len(workers) == 2
        if victim == "worker":
            os.kill(workers[0], signal.SIGKILL)
            wait_until(lambda: len(list((tmp_path / "out" / "receipts").glob("*.json"))) >= 2)
        running.kill()
        running.communicate(timeout=HANGS)
        wait_until(partial(are_gone, workers))
    known.pause = 0
    done = haul("--resume", "out", "--workers", 2)
    assert (done.code, "of 6 loads packed already" in done.out, "300 pictures in 6 shards" in done.out) == (
        1,
        True,
        True,
    )
    assert len(holdings("out")) == PICTURES
    assert len(list((tmp_path / "out" / "shards").rglob("*.tar"))) == 6
    asked = [count for path, count in known.asked.items() if "robots" not in path]
    assert sum(count - 1 for count in asked) <= 40  # what was in flight, and the last moments before each kill
    assert [path for path in (tmp_path / "scratch").iterdir() if path.name.startswith("pickcrate-")] == []
    told = json.loads((tmp_path / "out" / HAUL).read_bytes())
    left = tmp_path / "scratch" / f"pickcrate-{told['id']}" / "000001"
    left.mkdir(parents=True)  # as of a worker that was killed behind its receipt
    haul("--resume", "out", "--workers", 2)
    assert not left.parent.exists()


def more_than(known: Sites, number: int) -> bool:
    return known.asked.total() > number


def are_gone(processes: list[int]) -> bool:
    return not any(Path(f"/proc/{process}").exists() for process in processes)


def processes_of(client: int) -> list[int]:
    """Return the processes of the workers that a client has started."""
    found = []
    for path in Path("/proc").iterdir():
        if path.name.isdecimal():
            try:
                parent = int((path / "stat").read_text().rpartition(")")[2].split()[1])
                is_worker = b"spawn_main" in (path / "cmdline").read_bytes()
            except OSError:
                continue
            if parent == client and is_worker:
                found.append(int(path.name))
    return sorted(found)


def test_ctrl_c_leaves_it_to_be_gone_on_with(
    haul: Callable[..., Ran], sites: tuple[Sites, int], tmp_path: Path
) -> None:
    known, port = sites
    known.pause = 0.1
    write_list(tmp_path / "list.csv", port)
    (tmp_path / "program.py").write_text(HEEDING)
    line = [
        sys.executable,
        "program.py",
        *command(tmp_path, "list.csv", "--to", "out", "--workers", 2, "--load", 60)[3:],
    ]
    running = subprocess.Popen(line, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=environment(tmp_path), start_new_session=True)  # fmt: skip
    wait_until(partial(more_than, known, 40))
    os.killpg(running.pid, signal.SIGINT)  # as a terminal does: to the workers as well
    _, said = running.communicate(timeout=HANGS)
    assert (running.returncode, "interrupted" in said) == (130, True)
    assert "Traceback" not in said, said
    done = haul("list.csv", "--to", "out", "--workers", 1)
    assert "300 pictures in 6 shards" in done.out


def test_a_terminal_shows_how_far_it_is(
    sites: tuple[Sites, int], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    known, port = sites
    known.pause = 0.1
    monkeypatch.chdir(tmp_path)
    write_list(tmp_path / "list.csv", port, missing=3)
    ours, theirs = os.openpty()
    line = command(tmp_path, "list.csv", "--to", "out", "--workers", 1, "--load", 200, "--retries", 0)
    running = subprocess.Popen(
        line, stdout=theirs, stderr=theirs, env=environment(tmp_path) | {"TERM": "xterm", "COLUMNS": "120"}
    )
    os.close(theirs)
    said = b""
    with contextlib.suppress(OSError):  # so a terminal says that nobody writes to it any more
        while piece := os.read(ours, 65_536):
            said += piece
    assert running.wait(timeout=HANGS) == 1
    shown = re.sub(r"\x1b\[[0-9;?]*[A-Za-z]", "", said.decode())
    under_way = {int(number) for number in re.findall(r"0 of 2 loads\D*(\d+)/304", shown)}
    assert any(0 < number < 200 for number in under_way), shown[-2_000:]
    assert "3 failed · most at 127.0.0.9" in shown


def failing_half(port: int) -> type[Answering]:
    """Return a handler that passes requests on to an object store, and refuses every second one that writes."""
    count = iter(range(1_000_000))

    class Door(Answering):
        def _pass_on(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
            if self.command in {"PUT", "POST"} and next(count) % 2 == 0:
                self.answer(503, b"<Error><Code>SlowDown</Code></Error>", "application/xml")
                return
            behind = http.client.HTTPConnection("127.0.0.1", port)
            behind.putrequest(self.command, self.path, skip_host=True, skip_accept_encoding=True)
            for name, value in self.headers.items():
                behind.putheader(name, value)
            behind.endheaders(body)
            answer = behind.getresponse()
            octets = answer.read()
            self.send_response(answer.status)
            for name, value in answer.getheaders():
                if name.lower() not in {"transfer-encoding", "connection", "date", "server"}:
                    self.send_header(name, value)
            if answer.getheader("Content-Length") is None:
                self.send_header("Content-Length", str(len(octets)))
            self.end_headers()
            if self.command != "HEAD":
                self.wfile.write(octets)
            behind.close()

    for method in ("GET", "PUT", "POST", "HEAD", "DELETE"):
        setattr(Door, f"do_{method}", Door._pass_on)
    return Door


def test_a_store_that_fails_half_of_the_time_gets_everything_once(
    haul: Callable[..., Ran], sites: tuple[Sites, int], objects: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    write_list(tmp_path / "list.csv", sites[1])
    with serving(failing_half(objects)) as door:
        monkeypatch.setenv("AWS_ENDPOINT_URL", f"http://127.0.0.1:{door}")
        done = haul("list.csv", "--to", "s3://kites/half", "--workers", 2, "--load", 60)
    assert "300 pictures in 6 shards" in done.out
    monkeypatch.setenv("AWS_ENDPOINT_URL", f"http://127.0.0.1:{objects}")
    assert len(holdings("s3://kites/half")) == PICTURES
    assert len(list(open_store("s3://kites/half").names("shards"))) == 12


def test_what_is_broken_in_a_store_is_found_and_hauled_again(
    haul: Callable[..., Ran], run: Program, sites: tuple[Sites, int], tmp_path: Path
) -> None:
    write_list(tmp_path / "list.csv", sites[1])
    line = (
        "list.csv",
        "--to",
        "out",
        "--workers",
        2,
        "--load",
        60,
        "--shard",
        "60kB",
        "--width",
        "30..",
        "--name",
        "{column[What]}",
    )
    done = haul(*line)
    assert "60 left out" in done.out
    shards = sorted((tmp_path / "out" / "shards").rglob("*.tar"))
    assert len(shards) > 6  # of few pictures each
    assert all(row["file"] == f"{row['row']:06}-a kite, {row['row'] - 1}.png" for row in picks(hauled_at("out")))
    octets = bytearray(shards[0].read_bytes())
    octets[700] ^= 1
    shards[0].write_bytes(octets)
    shards[1].write_bytes(shards[1].read_bytes()[:600])
    shards[2].unlink()
    shards[3].with_suffix(".parquet").write_bytes(b"PAR1")
    (shards[4].parent / "stray.tar").write_bytes(b"")
    found = run("audit", "out", "--format", "jsonl")
    assert found.code == 1
    assert {(row["trouble"], Path(row["file"].partition(":")[0]).name) for row in found.rows} == {
        ("altered", shards[0].name), ("broken", shards[1].name), ("missing", shards[2].name),
        ("altered", f"{shards[3].stem}.parquet"), ("stray", "stray.tar"),
    }  # fmt: skip
    findings = pickcrate.audit("out")
    assert (len(findings), {one.trouble for one in findings}) == (5, {"altered", "broken", "missing", "stray"})
    assert "taken back" in run("audit", "out", "--repair").out
    assert haul("--resume", "out", "--workers", 2).code == 1  # one row has no address
    assert run("audit", "out").code == 0


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        ((), 2, "no list is named"),
        (("list.csv",), 2, "no store is named"),
        (("none.csv", "--to", "out"), 3, "no such list"),
        (("list.csv", "--to", "out", "--cluster", "tcp://127.0.0.1:9", "--workers", "2"), 2, "leave one of them out"),
        (("list.csv", "--to", "out", "--name", "{n}"), 2, "leave {n} out"),
        (("list.csv", "--to", "http://kites.example/"), 2, "a store is a folder"),
        (("--resume", "out"), 2, "holds no haul"),
        (("--resume", "out", "--pause", "2"), 2, "--pause cannot apply"),
        (("list.csv", "--to", "list.csv/out"), 5, "list.csv/out"),
    ],
)
def test_what_cannot_be_hauled_is_told(
    run: Program, tmp_path: Path, arguments: tuple[str, ...], code: int, words: str
) -> None:
    (tmp_path / "list.csv").write_text("url\nhttp://127.0.0.1:9/a.png\n")
    done = run("haul", *arguments)
    assert (done.code, words in done.err) == (code, True), done.err


def test_papers_of_a_stranger_are_refused(run: Program, tmp_path: Path) -> None:
    (tmp_path / "out" / "receipts").mkdir(parents=True)
    good = {
        "version": 1,
        "id": "x",
        "sources": [],
        "settings": {},
        "columns": {},
        "rows": 1,
        "loads": 1,
        "chains": [],
        "shard_bytes": 9,
        "has_fingerprints": False,
    }
    papers: list[Any] = ["", "[]", "{", good | {"version": 2}, good | {"chains": 7}, {"version": 1}]
    papers += [
        good | {"id": "../../home"},
        good | {"loads": 10**12},
        good | {"rows": 10**16},
        good | {"chains": [[0, 9]]},
    ]
    for paper in papers:
        (tmp_path / "out" / "haul.json").write_text(paper if isinstance(paper, str) else json.dumps(paper))
        assert run("audit", "out").code == 5
    for settings in ({"kites": 1}, {"width": "wide"}, {"pause": "long"}):
        (tmp_path / "out" / "haul.json").write_text(json.dumps(good | {"settings": settings}))
        assert run("haul", "--resume", "out").code == 5
    (tmp_path / "out" / "haul.json").write_text(json.dumps(good))
    shard = {"name": "../../x", "pictures": 1, "tar_bytes": 1, "tar_sha256": "", "list_bytes": 1, "list_sha256": ""}
    counts = dict.fromkeys(("load", "rows", "pictures", "same", "bytes", "left_out", "failed", "refused", "seconds"), 0)
    receipt = {"version": 1, **counts, "shards": [shard], "failures": "", "reasons": {}, "sites": {}}
    (tmp_path / "out" / "receipts" / "000000.json").write_text(json.dumps(receipt))
    assert run("look", "out").code == 5
    found = run("audit", "out")
    assert (found.code, "is no name of a file in it" in found.out) == (1, True)
    (tmp_path / "out" / "shards" / "000000").mkdir(parents=True)
    listed = tmp_path / "out" / "shards" / "000000" / "x.parquet"
    pq.write_table(pa.table({"file": ["kite.png"], "offset": [None]}), listed)
    shard |= {"name": "000000/x", "list_sha256": hashlib.sha256(listed.read_bytes()).hexdigest()}
    (tmp_path / "out" / "receipts" / "000000.json").write_text(json.dumps(receipt | {"shards": [shard]}))
    for command_line in (("look", "out"), ("sheet", "out"), ("compare", "out", "out")):
        assert run(*command_line).code == 5
    assert run("audit", "out").code == 1
