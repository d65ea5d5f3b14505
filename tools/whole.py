"""The whole program against the worst of pages, servers and crates: no command may end in a traceback.

python tools/whole.py 100              # so many of each; --seed N for others, --only pages|servers|crates
"""

import argparse
import base64
import contextlib
import gzip
import io
import json
import os
import random
import shutil
import socketserver
import sys
import tempfile
import threading
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path

from PIL import Image

import pickcrate.cli.app  # noqa: F401 (its commands are the program's)
from fuzz import mutated, seeds
from pickcrate.cli.program import app

SITE = Path(__file__).parent.parent / "src" / "pickcrate" / "demo" / "site"
_ENDINGS = {
    "page": "html",
    "xhtml": "xhtml",
    "log": "har",
    "archive": "warc",
    "feed": "xml",
    "message": "mhtml",
    "list": "csv",
    "data": "json",
    "package": "zip",
    "text": "txt",
    "workbook": "xlsx",
    "picture": "png",
    "plist": "webarchive",
    "office": "docx",
    "pdf": "pdf",
}
_WORDS = [
    *(
        "\\ud83d",
        "\u202e",
        "\x00",
        "\x1b[31m",
        "../../etc/x",
        "CON",
        "a" * 300,
        "\u0301" * 40,
        "=1+1",
        "\ufeff",
        "\r\n",
    ),
    *(
        "%00",
        "<script>",
        "\"'`",
        "{n}",
        "👩‍👩‍👧",
        "ﷺ",
        "\u2028",
        ".",
        "..",
        " ",
        "~",
        "$HOME",
        "-rf",
        "\\\\srv\\x",
        "kite",
    ),
]
_NAMES = [
    [],
    ["--name", "{item} {alt} {n}"],
    ["--name", "{title}", "--shelf", "{heading}"],
    ["--name", "{caption}", "--shelf", "{page}/{item}"],
    ["--shelf", "{site}/{date}/{alt}"],
]
_FIELDS = (
    b"Content-Type Content-Length Content-Encoding Content-Disposition Last-Modified ETag Retry-After Cache-Control Age "
    b"Date Expires Location Content-Range Content-Digest Digest Content-MD5 Link Set-Cookie Transfer-Encoding Vary "
    b"Refresh X-Robots-Tag Repr-Digest Strict-Transport-Security Content-Location WWW-Authenticate"
).split()
_VALUES = [
    *(
        b"\xff\xfe",
        b"\x00",
        b"a" * 9000,
        "日本".encode(),
        b"%",
        b'"',
        b"filename*=UTF-8''%ff%00..%2f..%2fx",
        b";;;,,,=",
    ),
    *(b"-1", b"99999999999999999999", b"Mon, 99 Foo 2026 25:61:61 GMT", b"\x1b[31m", b"nan", b"bytes 5-2/1", b"<b>"),
]
_PLACES = [
    *(b"/p0.png", b"//", b"http://", b"file:///etc/passwd", b"http://127.0.0.1:1/", b"javascript:x", b"\xff\xff"),
    *(b"?" + b"x" * 5000, b"http://[::1", b"data:image/png;base64,xx"),
]
_STATUSES = [
    *[200] * 12,
    206,
    204,
    301,
    302,
    303,
    307,
    308,
    304,
    400,
    401,
    403,
    404,
    410,
    416,
    429,
    500,
    503,
    100,
    999,
    0,
]
_REDIRECTS = range(300, 309)
_TO_SERVERS = ["--allow-private", "--retries", "0", "--timeout", "3"]
_TAKES_SETTINGS = frozenset(("look", "why", "sheet", "pack", "compare"))

Commands = list[list[str]]


def drawn(chance: random.Random, kind: str = "PNG") -> bytes:
    """Return a picture of a random size and colour."""
    octets, sides = io.BytesIO(), (20 + chance.randint(0, 60), 10 + chance.randint(0, 60))
    Image.new("RGB", sides, (chance.randint(0, 255), 9, 9)).save(octets, kind)
    return octets.getvalue()


def page(chance: random.Random) -> bytes:
    """Return a page whose words are the worst that there are, with pictures of its own."""
    parts = [f"<title>{chance.choice(_WORDS)}</title>"]
    for _ in range(chance.randint(1, 5)):
        a, b, c, d = (chance.choice(_WORDS) + chance.choice(["", "x", chance.choice(_WORDS)]) for _ in range(4))
        kite = f"data:image/png;base64,{base64.b64encode(drawn(chance)).decode()}"
        said = [f'"{word}"' if word.startswith("\\u") else json.dumps(word) for word in (a, b, c, d)]
        data = f'{{"name": {said[0]}, "src": "{kite}", "alt": {said[1]}, {said[2]}: {said[3]}}}'
        a, b = (word.replace('"', "&quot;") for word in (a, b))
        forms = [
            f'<figure><img src="{kite}" alt="{a}" title="{b}"><figcaption>{c}</figcaption></figure>',
            f'<script type=application/json>{{"k": [{data}, {{"name": "B", "src": "b.png"}}]}}</script>',
            f'<a href="{a}"><img src="{b}.png" alt="{c}"></a>',
            f'<h2>{a}</h2><div class=card><img src="{kite}"><h3>{b}</h3><p>{c}: {d}</p></div>',
            f'<style>.a{{background:url("{a}.png")}}</style><div class=a>{b}</div>',
        ]
        parts.append(chance.choice(forms))
    return "".join(parts).encode("utf-8", "surrogatepass")


def pages(chance: random.Random, count: int) -> Iterator[Commands]:
    """Yield what is done with each of so many pages, lists and archives."""
    starts = seeds([SITE])
    for number in range(count):
        meant_for, start = chance.choice(starts)
        is_page = chance.random() < 0.6
        name = "x.html" if is_page else f"x.{_ENDINGS.get(meant_for, 'html')}"
        Path(name).write_bytes(page(chance) if is_page else mutated(start, chance))
        crate, names = f"c{number % 3}", chance.choice(_NAMES)
        yield [
            ["look", name, "--save", chance.choice(["o.csv", "o.jsonl", "o.parquet"]), "--items", "2"],
            ["look", name, "--format", "jsonl", "--all"],
            ["why", name, "1"],
            ["sheet", name, "--out", "o.html"],
            ["pack", name, "--crate", crate, "--sheet", *names],
            ["pack", name, "--crate", crate, *names],
            ["audit", crate],
            ["compare", name, f"crates/{crate}", "--out", "k.html"],
            ["alike", crate],
            [
                "seal",
                crate,
                "--as",
                chance.choice(["bagit", "ro-crate", "croissant", "tar"]),
                "--out",
                f"{number}.sealed",
            ],
        ]


def answer(chance: random.Random) -> bytes:
    """Return an answer over HTTP with a picture, or what is left of one."""
    body = drawn(chance, chance.choice(["PNG", "JPEG", "GIF", "WEBP"]))
    body = mutated(body, chance) if chance.random() < 0.3 else body
    status = chance.choice(_STATUSES)
    kinds = [b"image/png", b"image/jpeg", b"text/html", b"application/octet-stream", b""]
    fields = [(b"Content-Type", chance.choice(kinds)), (b"Connection", b"close")]
    if chance.random() < 0.15:
        fields.append((b"Content-Encoding", chance.choice([b"gzip", b"br", b"zstd", b"foo", b"gzip, br"])))
        body = gzip.compress(body) if chance.random() < 0.5 else body
    fields += [(chance.choice(_FIELDS), chance.choice(_VALUES)) for _ in range(chance.randint(0, 5))]
    if status in _REDIRECTS:
        fields.append((b"Location", chance.choice(_PLACES)))
    if chance.random() < 0.85:
        fields.append((b"Content-Length", str(len(body) + chance.choice([0, 0, 0, 0, -5, 5, 1000])).encode()))
    reason = chance.choice([b"OK", b"", b"\xff", b"X" * 300])
    head = b"".join(name + b": " + value + b"\r\n" for name, value in fields)
    return b"HTTP/1.%d %d %s\r\n%s\r\n%s" % (chance.randint(0, 1), status, reason, head, body)


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = daemon_threads = True
    answers: dict[str, bytes]

    def handle_error(self, *_: object) -> None:
        """Say nothing: who asks may leave at any time."""


class _Handler(socketserver.StreamRequestHandler):
    timeout = 5
    server: _Server

    def handle(self) -> None:
        line = self.rfile.readline(70_000).split()
        while self.rfile.readline(70_000).strip():
            pass
        path = line[1].decode("latin-1").partition("?")[0] if len(line) > 1 else "/"
        self.wfile.write(self.server.answers.get(path, b"HTTP/1.1 404 No\r\nConnection: close\r\n\r\n"))


def servers(chance: random.Random, count: int) -> Iterator[Commands]:
    """Yield what is done with each of so many sites whose answers are wrong."""
    with _Server(("127.0.0.1", 0), _Handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        home = f"http://127.0.0.1:{server.server_address[1]}/"
        links = "".join(f'<a href=/q{n}.html><img src=/p{n}.png alt="k {n}"></a>' for n in range(8))
        for _ in range(count):
            field = chance.choice(_FIELDS) + b": " + chance.choice(_VALUES) + b"\r\n" if chance.random() < 0.5 else b""
            head = b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nConnection: close\r\n" + field
            server.answers = {f"/p{n}.png": answer(chance) for n in range(8)}
            server.answers |= {f"/q{n}.html": answer(chance) for n in range(3)}
            server.answers |= {"/robots.txt": answer(chance)} if chance.random() < 0.4 else {}
            server.answers["/"] = (
                head + b"\r\n<title>K</title>" + links.encode() + b"<a rel=next href=/q1.html>next</a>"
            )
            yield [
                ["look", home, "--full", "--width", "10..", *_TO_SERVERS],
                ["look", home, "--through", "1", "--next-pages", "3", *_TO_SERVERS],
                ["pack", home, "--crate", "s", *_TO_SERVERS],
                ["pack", home, "--crate", "s", "--again", chance.choice(["refresh", "replace"]), *_TO_SERVERS],
                ["pack", home, "--crate", "t", "--items", "3", "--name", "{date} {alt}", *_TO_SERVERS],
                ["why", home, "1", *_TO_SERVERS],
            ]
        server.shutdown()


def crates(chance: random.Random, count: int) -> Iterator[Commands]:
    """Yield what is done with each of so many crates that are damaged."""
    tell(["pack", f"{SITE}/catalogue.html", f"{SITE}/hall.html", "--crate", "d"])
    shutil.copytree("crates/d", "whole")
    for number in range(count):
        shutil.rmtree("crates/d")
        shutil.copytree("whole", "crates/d")
        files = sorted(path for path in Path("crates/d").rglob("*") if path.is_file())
        ours = [path for path in files if path.suffix in {".sqlite", ".csv"} or ".pickcrate" in path.parts]
        for _ in range(chance.randint(1, 3)):
            spoil(chance.choice(ours if chance.random() < 0.6 else files), chance)
        yield [
            ["audit", "d", *chance.choice([[], ["--repair"]])],
            ["pack", f"{SITE}/catalogue.html", "--crate", "d", *chance.choice([[], ["--again", "refresh"]])],
            ["sheet", "d", "--out", "z.html"],
            ["alike", "d"],
            ["compare", "d", f"{SITE}/hall.html"],
            ["seal", "d", "--as", "bagit", "--out", f"s{number}"],
            ["look", "crates/d/crate.csv"],
        ]


def spoil(path: Path, chance: random.Random) -> None:
    """Do something to a file that its owner would not."""
    if not path.is_file() or path.is_symlink():
        return
    octets = path.read_bytes()
    match chance.randint(0, 9):
        case 0:
            path.unlink()
        case 1:
            path.unlink()
            path.mkdir()
        case 2:
            path.write_bytes(b"")
        case 3:
            path.unlink()
            path.symlink_to("/etc/hostname")
        case _:
            path.write_bytes(mutated(octets, chance))


def tell(arguments: list[str]) -> str:
    """Run a command, and return what it raised, with where; empty if it ended as commands do."""
    quiet = [io.TextIOWrapper(io.BytesIO(), encoding="utf-8") for _ in range(2)]
    own = ["--no-settings"] if arguments[0] in _TAKES_SETTINGS else []
    try:
        with contextlib.redirect_stdout(quiet[0]), contextlib.redirect_stderr(quiet[1]):
            app([*arguments, *own])
    except SystemExit:
        return ""
    except Exception:  # noqa: BLE001 (that is what is looked for)
        return "\n".join(traceback.format_exc().strip().splitlines()[-5:])
    return ""


KINDS: dict[str, Callable[[random.Random, int], Iterator[Commands]]] = {
    "pages": pages,
    "servers": servers,
    "crates": crates,
}


def main() -> None:
    """Run the program so often, and say what it raised."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", choices=KINDS)
    options = parser.parse_args()
    found: dict[str, list[str]] = {}
    runs = 0
    with tempfile.TemporaryDirectory() as folder:
        os.chdir(folder)
        os.environ["XDG_CACHE_HOME"] = folder
        for kind in [options.only] if options.only else KINDS:
            chance = random.Random(options.seed)
            for commands in KINDS[kind](chance, options.count):
                for arguments in chance.sample(commands, 4):
                    runs += 1
                    if raised := tell(arguments):
                        found.setdefault(raised, arguments)
        os.chdir("/")
    for raised, arguments in found.items():
        print(f"pickcrate {' '.join(arguments)}\n{raised}\n")
    print(f"{runs:,} commands, {len(found)} kinds of trouble")
    sys.exit(bool(found))


if __name__ == "__main__":
    main()
