"""Servers that answer with some picture whatever they are asked for: nothing that a page shows is lost to a guess."""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import ClassVar

import pytest

from conftest import Answering, Program, picture, serving

STAND_IN = picture("PNG", (800, 600), "grey")
COUNT = 7


class Obliging(Answering):
    """A site of seven kites, whose originals are there for some of them."""

    folder: ClassVar[str] = "img"
    there: ClassVar[int] = 0
    answers_all: ClassVar[bool] = True

    def do_GET(self) -> None:
        name = self.path.removeprefix(f"/{self.folder}/")
        shown = re.fullmatch(r"kite-(\d)-300x225\.jpg", name)
        original = re.fullmatch(r"kite-(\d)\.jpg", name)
        if self.path == "/kites.html":
            kites = "".join(f"<img src=/{self.folder}/kite-{n}-300x225.jpg>" for n in range(1, COUNT + 1))
            self.answer(200, kites.encode(), "text/html")
        elif self.path == "/linked.html":
            links = "".join(
                f"<a href=/gone/{n}.jpg><img src=/{self.folder}/kite-{n}-300x225.jpg></a>" for n in range(1, COUNT + 1)
            )
            self.answer(200, links.encode(), "text/html")
        elif shown:
            self.answer(200, picture("PNG", (300, 225), (int(shown[1]) * 20, 0, 0)))
        elif original and int(original[1]) <= self.there:
            self.answer(200, picture("PNG", (800, 600), (int(original[1]) * 20, 9, 0)))
        elif self.path != "/robots.txt" and (self.answers_all or original or self.path.startswith("/gone/")):
            self.answer(200, STAND_IN)
        else:
            self.answer(404, b"")


@pytest.fixture
def site() -> Iterator[str]:
    with serving(Obliging) as port:
        yield f"http://127.0.0.1:{port}"


@pytest.mark.parametrize("folder", ["img", "wp-content/uploads/2026/03"])  # a plausible convention, and a sure one
@pytest.mark.parametrize(("there", "answers_all"), [(0, True), (0, False), (3, True), (3, False), (COUNT, True)])
def test_nothing_shown_is_lost(run: Program, site: str, folder: str, there: int, *, answers_all: bool) -> None:
    Obliging.folder, Obliging.there, Obliging.answers_all = folder, there, answers_all
    done = run("pack", f"{site}/kites.html", "--crate", "c", "--no-robots")
    assert (done.code, f"{COUNT} pictures fetched" in done.out) == (0, True), done
    files = {path.stem: path.read_bytes() for path in Path("crates/c").glob("*.png")}
    originals = {f"kite-{n}" for n in range(1, there + 1)}
    shown = {f"kite-{n}" for n in range(there + 1, COUNT + 1)}
    assert {name.removesuffix("-300x225") for name in files} == originals | shown
    assert STAND_IN not in files.values()
    assert len(set(files.values())) == COUNT
    assert f"{COUNT} there already" in run("pack", f"{site}/kites.html", "--crate", "c", "--no-robots").out


def test_what_is_gone_behind_links_leaves_the_shown_ones(run: Program, site: str) -> None:
    Obliging.there, Obliging.answers_all = 0, False
    done = run("pack", f"{site}/linked.html", "--crate", "c", "--no-robots", "--format", "jsonl")
    assert {(row["outcome"], row["width"]) for row in done.rows} == {("fetched", 300)}
