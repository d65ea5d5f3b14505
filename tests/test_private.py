"""No page of the public web leads to a private address: tried in a network namespace that has addresses of both kinds."""

import ipaddress
import json
import os
import subprocess
import sys
import threading
from collections.abc import Iterator
from http.server import ThreadingHTTPServer
from pathlib import Path
from typing import ClassVar

import pytest

from conftest import HANGS, Answering, picture
from pickcrate.fetch.private import is_private
from pickcrate.fetch.proxy import proxy_for

PUBLIC, PRIVATE = "11.22.33.44", "10.1.2.3"
HOSTS = f"""127.0.0.1 localhost
{PUBLIC} kites.example
{PRIVATE} inner.example
127.0.0.1 mixed.example
{PUBLIC} mixed.example
127.0.0.2 closed.example
{PUBLIC} closed.example
"""
ADDRESSES = [
    ("127.0.0.1", True), ("10.9.8.7", True), ("169.254.169.254", True), ("192.0.0.9", True), ("100.64.0.1", True),
    ("198.18.0.1", True), ("224.0.0.1", True), ("0.0.0.0", True), ("8.8.8.8", False), ("192.0.1.1", False),
    ("::1", True), ("fe80::1%eth0", True), ("fd00::1", True), ("fec0::1", True), ("ff02::1", True), ("2001:db8::1", True),
    ("::ffff:10.0.0.1", True), ("::ffff:8.8.8.8", False), ("64:ff9b::7f00:1", True), ("64:ff9b::808:808", False),
    ("64:ff9b:1::1", True), ("2002:7f00:1::", True), ("2002:808:808::", False), ("2600::5efe:a00:1", True),
    ("2600::1", False), ("kites.example", False),
]  # fmt: skip


@pytest.mark.parametrize(("address", "expected"), ADDRESSES)
def test_which_addresses_are_private(address: str, *, expected: bool) -> None:
    assert is_private(address) is expected


ALL = {"http_proxy": "h:1", "https_proxy": "s:1", "no_proxy": ".kites.example, 10.0.0.0/8 , tower:81"}
PROXIES = [
    ("http://other.example/", "", ALL, "h:1"), ("https://other.example/", "", ALL, "s:1"), ("http://kites.example/", "", ALL, ""),
    ("http://a.kites.example:99/", "", ALL, ""), ("http://notkites.example/", "", ALL, "h:1"), ("http://10.2.3.4/", "", ALL, ""),
    ("http://11.2.3.4/", "", ALL, "h:1"), ("http://tower:81/", "", ALL, ""), ("http://tower/", "", ALL, "h:1"),
    ("http://other.example/", "own:1", ALL, "own:1"), ("http://x.example/", "", {"https_proxy": "s:1"}, ""),
    ("http://x.example/", "", {"HTTP_PROXY": "h:1"}, ""), ("http://x.example/", "", {"ALL_PROXY": "a:1"}, "a:1"),
    ("http://x.example/", "", {"all_proxy": "a:1", "NO_PROXY": "*"}, ""),
]  # fmt: skip


@pytest.mark.parametrize(("url", "chosen", "environment", "expected"), PROXIES)
def test_which_proxy_is_used(url: str, chosen: str, environment: dict[str, str], expected: str) -> None:
    assert proxy_for(url, chosen, environment) == expected


def _secret(way: str, host: str = PRIVATE) -> str:
    return f"http://{host}/{way}.png"


def _page(way: str) -> str:
    hosts = (PRIVATE, "127.0.0.1", "inner.example", "0x7f.1", "[::ffff:10.1.2.3]", "localhost")
    shown = "".join(f"<img src='{_secret(way, host)}'>" for host in hosts)
    return (
        f"<title>Kites</title>{shown}<iframe src='{_secret(f'{way}-frame')}'></iframe><img src='/to?{_secret(way)}'>"
        f"<link rel=stylesheet href='{_secret(f'{way}-sheet')}'><link rel=manifest href='{_secret(f'{way}-manifest')}'>"
        f"<a href='/behind-{way}'><img src=/t.png></a><a href='{_secret(f'{way}-behind')}'><img src=/t2.png></a>"
        f"<a href='/to?{_secret(f'{way}-hop')}&x'><img src=/t3.png></a>"
    )


def _rows(way: str) -> str:
    row = {
        "pick": True,
        "number": 1,
        "url": _secret(way),
        "shown_url": _secret(way),
        "found_in": "img",
        "page": f"http://{PRIVATE}/",
    }
    return json.dumps(row)


SERVED = {
    "page": _page("page"),
    "behind-page": f"<title>Kite</title><img src='{_secret('viewer')}' width=900 height=600 alt=t>",
    "addresses": f"{_secret('addresses')}\n",
    "csv": f"name,url\nred,{_secret('csv')}\n",
    "jsonl": _rows("jsonl") + "\n",
    "picks": f"pick,url,shown_url,found_in,page\nyes,{_secret('picks')},{_secret('picks')},img,http://{PRIVATE}/\n",
    "rss": f"<rss><channel><item><enclosure url='{_secret('rss')}' type='image/png'/><description>&lt;img src='{_secret('html')}'></description></item></channel></rss>",
    "feed": json.dumps({"version": "https://jsonfeed.org/version/1.1", "items": [{"image": _secret("feed")}]}),
    "sitemap": f"<urlset><url><image:image><image:loc>{_secret('sitemap')}</image:loc></image:image></url></urlset>",
    "index": f"<sitemapindex><sitemap><loc>{_secret('index')}</loc></sitemap></sitemapindex>",
    "mhtml": f"MIME-Version: 1.0\nContent-Type: text/html\nContent-Location: http://{PRIVATE}/\n\n<img src='{_secret('mhtml')}'>",
    "pages": f"http://{PRIVATE}/pages.html\nhttp://inner.example/pages.html\n",
}
LOCAL = {
    "saved.html": f"<!-- saved from url=(0021)http://kites.example/ -->{_page('saved')}<iframe src=frame.html></iframe>",
    "frame.html": f"<img src='{_secret('framefile')}'>",
    "letter.eml": f"From: a@b.example\nSubject: x\nMIME-Version: 1.0\nContent-Type: text/html\n\n<img src='{_secret('letter')}'>",
    "own.html": f"<img src='{_secret('allowed-own')}'><iframe src=http://kites.example/page></iframe>",
    "own.txt": f"{_secret('allowed-list')}\n",
}
SOURCES = [
    *((f"http://{host}/{name}", ()) for host in ("kites.example", "mixed.example", "closed.example") for name in ("page", "addresses", "picks")),
    *((f"http://kites.example/{name}", ()) for name in SERVED if name not in {"page", "addresses", "picks", "pages"}),
    ("http://kites.example/pages", ("--list-of", "pages")),
    ("saved.html", ()), ("letter.eml", ()), ("own.html", ()), ("own.txt", ()), (f"http://{PRIVATE}/allowed-page", ()),
]  # fmt: skip


class Both(Answering):
    """One server at all addresses, which notes what was asked of it where."""

    asked: ClassVar[set[str]] = set()

    def do_GET(self) -> None:
        address = self.connection.getsockname()[0]
        name = self.path.lstrip("/")
        if ipaddress.ip_address(address).is_private:
            self.asked.add(name)
        if name.startswith("to?"):
            self.answer(302, b"", Location=name[3:])
        elif name == "allowed-page":
            self.answer(
                200, b"<img src=allowed-beside.png><iframe src=http://kites.example/page></iframe>", "text/html"
            )
        elif name in SERVED:
            self.answer(200, SERVED[name].encode(), "text/plain")
        elif name.endswith(".png"):
            self.answer(200, picture("PNG", (1200, 800) if "viewer" in name else (60, 40)))
        else:
            self.answer(404, b"")


def _inside() -> Iterator[str]:
    """Run every source in the namespace; yield what was asked at private addresses for each."""
    for command in ("ip link set lo up", *(f"ip addr add {address}/32 dev lo" for address in (PUBLIC, PRIVATE))):
        subprocess.run(command.split(), check=True)
    Path("hosts").write_text(HOSTS)
    subprocess.run(["mount", "--bind", "hosts", "/etc/hosts"], check=True)
    for name, text in LOCAL.items():
        Path(name).write_text(text)
    for address in (PUBLIC, PRIVATE, "127.0.0.1"):
        server = ThreadingHTTPServer((address, 80), Both)
        threading.Thread(target=server.serve_forever, daemon=True).start()
    environment = {k: v for k, v in os.environ.items() if not k.lower().endswith("_proxy")} | {
        "XDG_CACHE_HOME": str(Path.cwd())
    }
    elsewhere = {"https_proxy": f"http://{PUBLIC}:9", "no_proxy": "kites.example"}
    for number, (source, options) in enumerate(SOURCES):
        Both.asked.clear()
        line = [
            sys.executable,
            "-m",
            "pickcrate",
            "pack",
            source,
            "--crate",
            f"c{number}",
            "--through",
            "2",
            "--retries",
            "0",
            "--full",
        ]
        extra = elsewhere if number % 2 else {}  # a proxy for https alone leaves http as it is
        subprocess.run([*line, *options], capture_output=True, check=False, env=environment | extra, timeout=HANGS)
        yield f"{source} {' '.join(sorted(Both.asked - {'robots.txt'}))}".strip()


def test_public_sources_reach_no_private_address(tmp_path: Path) -> None:
    allowed = subprocess.run(["unshare", "-nm", "true"], capture_output=True, check=False)
    if allowed.returncode:
        pytest.skip("this machine allows no network namespaces")
    done = subprocess.run(
        ["unshare", "-nm", sys.executable, __file__], cwd=tmp_path, capture_output=True, text=True, check=False
    )
    assert not done.returncode, done.stderr
    told = dict(line.partition(" ")[::2] for line in done.stdout.splitlines())
    wanted = {
        "own.html": "allowed-own.png",
        "own.txt": "allowed-list.png",
        f"http://{PRIVATE}/allowed-page": "allowed-beside.png allowed-page",
    }
    wanted |= {f"http://mixed.example/{name}": name for name in ("page", "addresses", "picks")}  # typed: nothing more
    assert told == {source: wanted.get(source, "") for source, _ in SOURCES}


if __name__ == "__main__":
    for answer in _inside():
        print(answer, flush=True)  # noqa: T201
