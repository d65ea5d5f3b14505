"""What the tests share: pictures made on the spot, the built program, and two real servers."""

import json
import os
import random
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from io import BytesIO, TextIOWrapper
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from PIL import Image, ImageDraw

import pickcrate.cli.app  # noqa: F401 (its commands are the program's)
from pickcrate.cli.program import app
from pickcrate.demo.server import DemoSite
from pickcrate.values.claims import Aspect, Claim, Claimant, Rights
from pickcrate.values.evidence import AS_SHOWN
from pickcrate.values.image import Candidate, Image as Found  # fmt: skip
from pickcrate.values.measures import Grade, Measure, Measures  # fmt: skip
from pickcrate.values.reference import Reference, Words  # fmt: skip

NGINX = """
daemon off; worker_processes 1; pid {root}/pid; error_log {root}/error.log; events {{ }}
http {{
  access_log {root}/access.log; log_format agent '$http_user_agent';
  types {{ image/jpeg jpg; image/png png; image/webp webp; image/svg+xml svg; image/gif gif; text/html html; }}
  client_body_temp_path {root}/t; proxy_temp_path {root}/t; fastcgi_temp_path {root}/t; uwsgi_temp_path {root}/t;
  scgi_temp_path {root}/t;
  server {{ listen 127.0.0.1:{port}; root {root}/www; charset off;
    location /moved/ {{ rewrite ^/moved/(.*)$ /$1 redirect; }}
    location /loop/ {{ return 302 /loop/; }}
    location /login/ {{ types {{ }} default_type image/jpeg; rewrite ^ /login.html break; }}
    location /gone/ {{ return 410; }}
    location /service/ {{ rewrite ^/service/(.*)$ /fastcgi?IIIF=$1 last; }}
    location = /fastcgi {{ internal; fastcgi_pass unix:{root}/iip.socket; fastcgi_param QUERY_STRING $args;
      fastcgi_param REQUEST_METHOD $request_method; fastcgi_param SERVER_NAME 127.0.0.1; fastcgi_param HTTP_HOST a.example;
      fastcgi_param REQUEST_URI $request_uri; fastcgi_param SERVER_PROTOCOL $server_protocol; }}
  }}
}}
"""


HANGS = 300.0
"""Seconds after which something is taken to hang: many times what it takes, on a machine that others use as well."""


HEEDING = """
import signal
signal.signal(signal.SIGINT, signal.default_int_handler)
for asks in (signal.SIGTERM, signal.SIGHUP):
    signal.signal(asks, signal.SIG_DFL)
if __name__ == "__main__":
    from pickcrate.__main__ import main
    main()
"""
"""the program, which heeds what asks it to end: who starts the tests may have that ignored"""


def wait_until(is_so: Callable[[], object]) -> None:
    """Wait for what another process or thread does. Raises AssertionError if it never comes to that."""
    until = time.monotonic() + HANGS
    while not is_so():
        assert time.monotonic() < until, "it never came to that"
        time.sleep(0.02)


def is_open(port: int, host: str = "127.0.0.1") -> bool:
    """Return whether something answers on a port."""
    with socket.socket() as probe:
        return probe.connect_ex((host, port)) == 0


def picture(
    kind: str = "PNG", size: tuple[int, int] = (12, 8), colour: str | tuple[int, int, int] = "red", **options: Any
) -> bytes:
    """Return the bytes of a small picture."""
    buffer = BytesIO()
    Image.new("RGB", size, colour).save(buffer, kind, **options)
    return buffer.getvalue()


def kite(seed: int, size: tuple[int, int] = (600, 400)) -> Image.Image:
    """Return a picture of a kite before a sky, different for each seed."""
    chance = random.Random(seed)
    image = Image.new("RGB", (600, 400), tuple(chance.randrange(120, 255) for _ in range(3)))
    pen = ImageDraw.Draw(image)
    for _ in range(12):
        x, y, r = chance.randrange(600), chance.randrange(400), chance.randrange(20, 90)
        pen.ellipse((x - r, y - r, x + r, y + r), fill=tuple(chance.randrange(255) for _ in range(3)))
    pen.polygon([(chance.randrange(600), chance.randrange(400)) for _ in range(4)], fill=(180, 20, 20))
    return image if size == image.size else image.resize(size, Image.Resampling.LANCZOS)


def encoded(image: Image.Image, kind: str = "PNG", **options: int) -> bytes:
    buffer = BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


@dataclass(frozen=True)
class Ran:
    """What a run of the program came to."""

    code: int
    out: str
    err: str

    @property
    def rows(self) -> list[dict[str, Any]]:
        return [json.loads(line) for line in self.out.splitlines()]


Program = Callable[..., Ran]


@pytest.fixture
def built(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Program:
    """Run the built program in a temporary folder, as a user does."""
    monkeypatch.chdir(tmp_path)

    def call(*arguments: object, **options: Any) -> Ran:
        done = subprocess.run(
            [sys.executable, "-W", "error", "-m", "pickcrate", *map(str, arguments)],
            capture_output=True, check=False, text=True,
            env={**os.environ, "LC_ALL": "C.UTF-8", "XDG_CACHE_HOME": str(tmp_path / "cache")}, **{"timeout": HANGS, **options},
        )  # fmt: skip
        assert "Traceback" not in done.stderr, done.stderr
        return Ran(done.returncode, done.stdout, done.stderr)

    return call


@pytest.fixture
def run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Program:
    """Run the same program without its start, which takes ten times as long as the rest; here a warning is an error."""
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))

    def call(*arguments: object, input: str | bytes = "") -> Ran:  # noqa: A002 (as subprocess has it)
        monkeypatch.setattr("sys.stdin", TextIOWrapper(BytesIO(input if isinstance(input, bytes) else input.encode())))
        capsys.readouterr()
        code = 0
        try:
            app([*map(str, arguments)])
        except SystemExit as leaving:
            code = leaving.code if isinstance(leaving.code, int) else 1
        return Ran(code, *capsys.readouterr())

    return call


class Answering(BaseHTTPRequestHandler):
    """A server of the test's own: says what it is told to, and nothing on the terminal."""

    protocol_version = "HTTP/1.1"

    def answer(self, status: int, body: bytes, kind: str = "image/png", **fields: str) -> None:
        """Answer with a body; names of fields are written with ``_`` for ``-``."""
        self.send_response(status)
        for name, value in (fields | {"Content_Type": kind, "Content_Length": str(len(body))}).items():
            self.send_header(name.replace("_", "-"), value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:  # noqa: A002
        """Say nothing."""


class _Quiet(ThreadingHTTPServer):
    request_queue_size = 128

    def handle_error(self, request: object, client_address: object) -> None:
        """Say nothing of clients that had enough, or were killed."""


@contextmanager
def serving(handler: type[BaseHTTPRequestHandler]) -> Iterator[int]:
    """Serve on a free port of loopback, and yield it."""
    with _Quiet(("127.0.0.1", 0), handler) as server:
        Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
        yield server.server_port
        server.shutdown()


@dataclass(frozen=True)
class Server:
    """A running nginx: its address, the folder it serves, the requests it saw."""

    address: str
    www: Path
    log: Path

    @property
    def lines(self) -> list[str]:
        """The access log since the last call of ``requests``."""
        time.sleep(0.05)
        return self.log.read_text().splitlines()

    def requests(self) -> list[str]:
        """Return the paths asked for since the last call."""
        lines = self.lines
        self.log.write_text("")
        return [line.split('"')[1].split()[1] for line in lines]


@pytest.fixture(scope="session")
def _nginx(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    binary = shutil.which("nginx", path=f"{os.environ['PATH']}:/usr/sbin")
    assert binary, "nginx is missing: scripts/test installs it"
    root = tmp_path_factory.mktemp("nginx")
    for folder in (root, *root.parents):  # nginx's workers are not root
        if folder.stat().st_uid == os.getuid() and folder.is_relative_to(tempfile.gettempdir()):
            folder.chmod(folder.stat().st_mode | 0o055)
    (root / "www").mkdir()
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    (root / "nginx.conf").write_text(NGINX.format(root=root, port=port))
    process = subprocess.Popen([binary, "-c", root / "nginx.conf", "-e", root / "error.log"])
    wait_until(lambda: is_open(port))
    yield Server(f"http://127.0.0.1:{port}", root / "www", root / "access.log")
    process.terminate()
    process.wait()


@pytest.fixture
def web(_nginx: Server) -> Server:
    """A real web server with an empty site."""
    shutil.rmtree(_nginx.www)
    _nginx.www.mkdir()
    _nginx.requests()
    return _nginx


@pytest.fixture(scope="session")
def museum() -> Iterator[str]:
    """The demo site's address."""
    with DemoSite() as site:
        yield site.address


CRITERIA = json.loads((Path(__file__).parent / "criteria.json").read_text(encoding="utf-8"))


def criteria_images() -> list[Found]:
    """The pictures of the table of criteria, which the sheet's own filters are held against as well."""
    images = []
    for number, known in enumerate(CRITERIA["pictures"], start=1):
        url, where = known["url"], known.get("found_in", "img")
        words, hidden = Words(alt=known["alt"]), known.get("hidden", False)
        shown = Reference(url, url, "https://galewick.example/", where, where, "src", 1, words=words, hidden=hidden)
        probed = [known[name] and Measure(known[name], Grade.PROBED) if name in known else None
                  for name in ("width", "height", "bytes", "type")]  # fmt: skip
        best = Candidate(url, AS_SHOWN, Measures(*probed))
        said = (Claim(Aspect.LICENCE, known["licence"], Claimant.PAGE),) if "licence" in known else ()
        more = {"furniture": known.get("furniture", ""), "rights": Rights(claims=said)}
        images.append(Found(number, "s", shown, (shown,), candidates=(best,), **more))
    return images
