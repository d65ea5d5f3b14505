"""Coming back to pages whose pictures have other addresses each time: nothing is fetched twice, and nothing is lost."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from csv import DictReader
from pathlib import Path
from typing import ClassVar

import pytest

from conftest import Answering, Program, Server, picture, serving
from pickcrate.addresses.lasting import lasting, without_permit

K = "https://kites.example"


@pytest.mark.parametrize(
    ("address", "text", "is_sure"),
    [
        ("/a.jpg?Expires=17&Signature=x~y&Key-Pair-Id=K", "/a.jpg", True),
        ("/a.jpg?w=90&X-Amz-Date=1&X-Amz-Expires=60&X-Amz-Signature=0f", "/a.jpg?w=90", True),
        ("/a.jpg?X-Goog-Signature=0f&X-Goog-Date=1&X-Amz-Date=2", "/a.jpg?X-Amz-Date=2", True),
        ("/a.jpg?sv=2026&sr=b&sig=0f&se=2026&id=4", "/a.jpg?id=4", True), ("/a.jpg?hdnts=exp=1~hmac=0", "/a.jpg", True),
        ("/a.jpg;jsessionid=0123456789ABCDEF?x=1&t=2", "/a.jpg?x=1&t=2", True), ("/a.jpg?PHPSESSID=0f", "/a.jpg", True),
        ("/a.jpg?token=1&w=4", "/a.jpg?w=4", False), ("/a.jpg?w=4&_=99", "/a.jpg?w=4", False),
        ("/a.jpg?Signature=0f", "/a.jpg", False), ("/a.jpg?sig=0f", "/a.jpg", False), ("/a.jpg?Expires=9", "/a.jpg", False),
    ],
)  # fmt: skip
def test_what_of_an_address_lasts(address: str, text: str, *, is_sure: bool) -> None:
    kept = lasting(K + address)
    assert kept is not None
    assert (kept.text, kept.is_sure) == (K + text, is_sure)
    assert (K + address).startswith(kept.start)
    assert without_permit(K + address) == K + (text if is_sure else address)


@pytest.mark.parametrize("address", ["/a.jpg", "/a.jpg?w=4", "/get?id=7&size=l", "/a;b.jpg", "?" + "token=1&" * 5_000])
def test_what_lasts_as_it_is(address: str) -> None:
    assert lasting(K + address) is None


class Changing(Answering):
    """A page of which every visit has other addresses: ``/signed``, ``/token``, ``/dated``, ``/hosts``."""

    visit: ClassVar[int] = 0
    asked: ClassVar[list[str]] = []
    tags: ClassVar[bool] = True
    kites: ClassVar[list[int]] = []
    ways: ClassVar[dict[str, str]] = {
        "/signed": "/kite{n}.png?Expires={v}&Signature=s{v}{n}&Key-Pair-Id=K",
        "/token": "/kite{n}.png?hall=l&token=t{v}{n}",
        "/one": "/kite.png?token=t{v}{n}",
        "/folders": "/{v}/kite{n}.png",
    }

    def do_GET(self) -> None:
        path, _, query = self.path.partition("?")
        if path in self.ways:
            addresses = [self.ways[path].format(n=n, v=self.visit) for n in self.kites]
            self.answer(200, "".join(f"<img src='{address}'>" for address in addresses).encode(), "text/html")
        elif not path.endswith(".png"):
            self.answer(404, b"")
        else:
            name = query[-1] if path == "/kite.png" else path[-5]
            validator = f'"{name}é"'  # RFC 9110, 8.8.3: any octet from 0x80 may be in one
            tag = {"ETag": validator} if self.tags else {}
            is_known = self.tags and self.headers.get("If-None-Match") == validator
            self.asked.append("same" if is_known else "new")
            self.answer(304 if is_known else 200, b"" if is_known else picture("PNG", (60, 40 + int(name))), **tag)


@pytest.fixture
def site() -> Iterator[str]:
    Changing.visit, Changing.kites, Changing.tags = 0, [0, 1, 2], True
    Changing.asked.clear()
    with serving(Changing) as port:
        yield f"http://127.0.0.1:{port}"


def again(run: Program, page: str, *arguments: str) -> tuple[list[str], str]:
    """Visit a page once more; return what was asked for, and the line that says what came."""
    Changing.visit += 1
    Changing.asked.clear()
    done = run("pack", page, "--crate", "c", "--no-robots", "--fresh", *arguments)
    assert done.code == 0, done
    return sorted(Changing.asked), next(
        line for line in done.out.splitlines() if "picture" in line or "there already" in line
    )


def rows() -> list[dict[str, str]]:
    with Path("crates/c/crate.csv").open(encoding="utf-8", newline="") as file:
        return list(DictReader(file))


@pytest.mark.parametrize(
    ("way", "tags", "asked"),
    [("/signed", True, []), ("/token", True, ["same"] * 3), ("/token", False, ["new"] * 3), ("/folders", True, ["new"] * 3)],
)  # fmt: skip
def test_the_same_pictures_under_other_addresses(
    run: Program, site: str, way: str, *, tags: bool, asked: list[str]
) -> None:
    Changing.tags = tags
    for visit in range(3):
        assert again(run, site + way)[0] == (asked if visit else ["new"] * 3)
        assert [row["file"] for row in rows()] == ["kite0.png", "kite1.png", "kite2.png"]
        now = [site + Changing.ways[way].format(n=n, v=Changing.visit) for n in range(3)]
        assert [row["url"] for row in rows()] == now
    Changing.kites = [3, 0, 1]
    done = run("pack", site + way, "--crate", "c", "--no-robots", "--fresh")
    assert "since the last run: 1 new, 1 gone from the page" in done.out
    assert sorted(row["file"] for row in rows()) == ["kite0.png", "kite1.png", "kite2.png", "kite3.png"]
    assert run("audit", "c").code == 0


def test_another_picture_under_a_like_address_is_not_taken_for_the_one_that_is_there(run: Program, site: str) -> None:
    Changing.kites = [1]
    assert again(run, site + "/one")[0] == ["new"]
    assert again(run, site + "/one") == (["same"], "1 there already")
    Changing.kites = [2]
    assert again(run, site + "/one")[0] == ["new"]
    Changing.kites = [3, 1]  # of several none is asked about
    assert again(run, site + "/one")[0] == ["new", "new"]
    assert [row["file"] for row in rows()] == ["kite.png", "kite 2.png", "kite 3.png"]
    assert len({row["sha256"] for row in rows()}) == 3


def test_one_address_on_two_pages_and_two_versions_on_one(run: Program, site: str) -> None:
    Changing.kites = [1]
    again(run, f"{site}/one")
    Changing.visit += 1
    done = run("pack", f"{site}/one", f"{site}/one?again", "--crate", "c", "--no-robots", "--fresh")
    assert (done.code, "2 there already" in done.out) == (0, True), done
    assert [row["url"] for row in rows()] == [f"{site}/kite.png?token=t{Changing.visit}1"]
    both = Path("both.html")
    both.write_text(f"<img src={site}/kite.png?token=t{Changing.visit}1><img src={site}/kite.png?token=new2>")
    done = run("pack", "both.html", "--crate", "c", "--no-robots", "--again", "refresh")
    assert (done.code, "1 picture fetched" in done.out, "1 there already" in done.out) == (0, True, True), done
    assert [row["file"] for row in rows()] == ["kite.png", "kite 2.png"]


def test_a_picture_that_becomes_what_another_was_keeps_its_row(run: Program, web: Server) -> None:
    (web.www / "p.html").write_text("<img src=a.png><img src=b.png>")
    for name, side in (("a", 40), ("b", 50)):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60, side)))
    line = ("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots", "--fresh", "--again", "refresh")
    assert run(*line).code == 0
    (web.www / "a.png").write_bytes(picture("PNG", (60, 50)))
    (web.www / "p.html").write_text("<img src=a.png>")
    done = run(*line)
    assert "since the last run: 1 changed, 1 gone from the page" in done.out
    assert [row["url"].rpartition("/")[2] for row in rows()] == ["a.png", "b.png"]
    assert run("audit", "c").code == 0


def test_what_other_crates_and_comparisons_know_of_signed_addresses(run: Program, site: str) -> None:
    again(run, f"{site}/signed")
    Changing.visit += 1
    done = run("pack", f"{site}/signed", "--crate", "d", "--except", "c", "--no-robots", "--fresh")
    assert "3 in other crates (3 in c)" in done.out
    assert "3 the same" in run("compare", "crates/c", f"{site}/signed", "--no-robots", "--fresh").out


def test_pictures_of_a_site_that_has_another_host_or_scheme_by_now(run: Program, web: Server) -> None:
    for n in range(2):
        (web.www / f"{n}.png").write_bytes(picture("PNG", (60, 40 + n)))
    line = ("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots", "--fresh")
    for host, asked in ((web.address, {"200"}), (web.address.replace("127.0.0.1", "localhost"), {"304"})):
        (web.www / "p.html").write_text(f"<img src={host}/0.png><img src={host}/1.png>")
        web.requests()
        done = run(*line)
        assert done.code == 0
        codes = {cells[8] for cells in map(str.split, web.lines) if ".png" in cells[6]}
        assert codes == asked
        assert {row["url"] for row in rows()} == {f"{host}/0.png", f"{host}/1.png"}
    assert "2 there already" in done.out
    with closing(sqlite3.connect("crates/c/.pickcrate/ledger.sqlite")) as ledger:  # as if it had been TLS before
        for column in ("address", "url", "shown_url", "page"):
            ledger.execute(f"UPDATE picture SET {column} = replace({column}, 'http:', 'https:')")
        ledger.commit()
    assert "2 the same" in run("compare", "c", f"{web.address}/p.html", "--no-robots").out
    other = run("pack", f"{web.address}/p.html", "--crate", "d", "--except", "c", "--no-robots")
    assert "2 in other crates (2 in c)" in other.out
    web.requests()
    assert "2 there already" in run(*line).out
    assert web.requests() == ["/p.html"]
    assert {row["page"] for row in rows()} == {f"{web.address}/p.html"}
