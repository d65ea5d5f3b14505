"""Twins: what is the same but for size, format, quality or a crop is found, and nothing else is dropped."""

import itertools
import random
import re
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest
from PIL import Image, ImageDraw

from conftest import Program, Server, encoded, kite, picture
from pickcrate.crate.entry import Entry
from pickcrate.run.pack import twinned
from pickcrate.twins.fingerprint import Fingerprint, fingerprint, from_text
from pickcrate.twins.likeness import TWINS, Likeness, by_fingerprint, distance, look_the_same
from pickcrate.twins.search import Index, near_pairs


def chart(seed: int) -> Image.Image:
    """Return a chart: the same frame and colours, other bars."""
    chance = random.Random(seed)
    image = Image.new("RGB", (600, 400), "white")
    pen = ImageDraw.Draw(image)
    pen.rectangle((50, 30, 580, 370), outline="black")
    for bar in range(8):
        pen.rectangle((70 + bar * 62, 370 - chance.randrange(20, 330), 110 + bar * 62, 370), fill=(31, 119, 180))
    return image


CHANGES: dict[str, Callable[[Image.Image], bytes]] = {
    "re-encoded": lambda image: encoded(image, "JPEG", quality=60),
    "another format": lambda image: encoded(image, "WEBP", quality=80),
    "a quarter of the size": lambda image: encoded(image.resize((150, 100)), "JPEG", quality=85),
    "twice the size": lambda image: encoded(image.resize((1200, 800))),
    "cropped": lambda image: encoded(image.crop((25, 17, 575, 383))),
    "a strip cut off": lambda image: encoded(image.crop((0, 0, 600, 372))),
    "a corner of it": lambda image: encoded(image.crop((48, 32, 600, 400)), "JPEG", quality=80),
    "with transparency": lambda image: encoded(image.convert("RGBA")),
}


@pytest.mark.parametrize("change", CHANGES)
def test_twins_are_found(change: str) -> None:
    caught = 0
    for seed in range(20):
        one, other = encoded(kite(seed)), CHANGES[change](kite(seed))
        prints = fingerprint(one), fingerprint(other)
        assert None not in prints
        caught += by_fingerprint(*prints) is Likeness.TWINS and look_the_same(one, other)  # type: ignore[arg-type]
    assert caught >= 17


def test_what_differs_is_never_dropped() -> None:
    octets = [encoded(make(seed)) for make in (kite, chart) for seed in range(60)]
    octets += [encoded(Image.new("RGB", (64, 64), (n * 20, 0, 0))) for n in range(6)]
    prints = [fingerprint(one) for one in octets]
    assert prints[-6:] == [None] * 6
    known = [one for one in prints if one is not None]
    near = list(near_pairs(known, TWINS))
    assert not [
        (a, b)
        for a, b in near
        if by_fingerprint(known[a], known[b]) is Likeness.TWINS and look_the_same(octets[a], octets[b])
    ]
    recoloured = kite(1).convert("L").convert("RGB"), kite(1)
    assert by_fingerprint(*(fingerprint(encoded(one)) for one in recoloured)) is not Likeness.TWINS  # type: ignore[arg-type]


def stripes(shift: int) -> bytes:
    """Return stripes, 20 pixels wide each, moved by some pixels: a crop of any is a crop of each."""
    image = Image.new("RGB", (300, 300), "white")
    pen = ImageDraw.Draw(image)
    for left in range(-40, 340, 40):
        pen.rectangle((left + shift, 0, left + shift + 19, 300), fill="navy")
    return encoded(image)


def test_one_pattern_over_and_over_is_twin_of_itself_alone() -> None:
    assert look_the_same(stripes(0), stripes(0))
    assert not any(look_the_same(stripes(0), stripes(shift)) for shift in (4, 8, 12))


def test_the_search_finds_what_comparing_each_with_each_does() -> None:
    prints = [fingerprint(encoded(kite(seed // 3, (600 - seed % 3 * 150, 400 - seed % 3 * 100)))) for seed in range(60)]
    known = [one for one in prints if one is not None]
    expected = {
        (a, b) for a, b in itertools.combinations(range(len(known)), 2) if distance(known[a], known[b]) <= TWINS
    }
    assert set(near_pairs(known, TWINS)) == expected
    assert len(expected) >= 40
    index = Index()
    for place, one in enumerate(known):
        index.add(place * 10, one)
    for place, one in enumerate(known):
        assert {key // 10 for key in index.near(one, TWINS)} - {place} == {
            b if a == place else a for a, b in expected if place in (a, b)
        }
    assert from_text(known[0].as_text()) == known[0]
    assert (from_text("-"), from_text("00"), Index().near(known[0], TWINS)) == (None, None, [])


def test_the_pairs_of_a_camera_that_never_moves_grow_with_its_pictures() -> None:
    one = fingerprint(encoded(kite(1)))
    assert one is not None
    pairs = set(near_pairs([one] * 1_000, TWINS))
    assert len(pairs) < 60 * 1_000
    assert {(0, later) for later in range(1, 1_000)} <= pairs


@pytest.mark.parametrize("octets", [b"", b"<svg xmlns='http://www.w3.org/2000/svg'/>", picture()[:40], picture()])
def test_what_cannot_be_seen_has_no_fingerprint(octets: bytes) -> None:
    assert fingerprint(octets) is None
    assert not look_the_same(octets, b"")


class InMemory:
    """A home of pictures that counts how often one is read."""

    def __init__(self, files: list[bytes]) -> None:
        self.name = self.address = "wall"
        self.root: Path | None = None
        self.files = files
        self.reads = 0

    def held(self) -> Iterator[tuple[Entry, Fingerprint | None]]:
        for place, octets in enumerate(self.files):
            yield Entry(place, "", f"{place}.png", bytes=len(octets)), fingerprint(octets)

    def octets(self, entry: Entry) -> bytes:
        self.reads += 1
        return self.files[entry.seq]


def test_a_picture_is_laid_over_the_best_of_its_group_and_no_other() -> None:
    sizes = [(600 - 12 * step, 400 - 8 * step) for step in range(15)]
    home = InMemory([encoded(kite(seed).resize(size)) for seed in (1, 2) for size in sizes])
    found = list(twinned.groups([home]))
    assert [len(group) for group in found] == [15, 15]
    assert all(one.likeness is Likeness.TWINS for group in found for one in group[1:])
    assert home.reads == 30


@pytest.fixture
def wall(web: Server) -> Server:
    """A page that shows two kites, in several sizes each, and one that is like no other."""
    (web.www / "1-small.jpg").write_bytes(encoded(kite(1, (300, 200)), "JPEG", quality=80))
    (web.www / "1-large.png").write_bytes(encoded(kite(1)))
    (web.www / "1-middle.webp").write_bytes(encoded(kite(1, (450, 300)), "WEBP", quality=80))
    (web.www / "2.jpg").write_bytes(encoded(kite(2), "JPEG", quality=90))
    (web.www / "2-worse.jpg").write_bytes(encoded(kite(2), "JPEG", quality=40))
    (web.www / "3.jpg").write_bytes(encoded(kite(3), "JPEG", quality=80))
    names = ("1-small.jpg", "1-large.png", "1-middle.webp", "2.jpg", "2-worse.jpg", "3.jpg")
    (web.www / "p.html").write_text("<title>Wall</title>" + "".join(f"<img src={name}>" for name in names))
    return web


def pictures(crate: Path) -> set[str]:
    return {path.name for path in crate.iterdir() if path.suffix in {".jpg", ".png", ".webp"}}


def test_only_the_best_is_kept(run: Program, wall: Server, tmp_path: Path) -> None:
    page, crates = f"{wall.address}/p.html", tmp_path / "crates"
    done = run("pack", page, "--crate", "c", "--alike", "drop", "--as-shown", "--format", "jsonl")
    assert (done.code, pictures(crates / "c")) == (0, {"1-large.png", "2.jpg", "3.jpg"})
    errors = {row["url"].rpartition("/")[2]: row["error"] for row in done.rows if row["outcome"] == "left out"}
    assert errors == {
        "1-small.jpg": "alike: like 1-large.png, which is better", "2-worse.jpg": "alike: like 2.jpg, which is better (600×400)",
        "1-middle.webp": "alike: like 1-large.png, which is better (600×400)",
    }  # fmt: skip
    wall.requests()
    again = run("pack", page, "--crate", "c", "--alike", "drop", "--as-shown", "--fresh")
    assert (again.code, "3 there already · 3 left out (3 by alike)" in again.out) == (0, True)
    assert [path for path in wall.requests() if path != "/p.html" and "robots" not in path] == []
    looked = run("look", page, "--alike", "drop", "--as-shown", "--format", "urls")
    assert {url.rpartition("/")[2] for url in looked.out.split()} == {"1-large.png", "2.jpg", "3.jpg"}
    (wall.www / "q.html").write_text("<img src=1-small.jpg><img src=2-worse.jpg>")
    other = run("pack", f"{wall.address}/q.html", "--crate", "d", "--alike", "drop", "--except", "c", "--as-shown")
    assert (other.code, "2 left out (2 by alike)" in other.out) == (4, True)


def test_what_was_there_before_stays(run: Program, wall: Server, tmp_path: Path) -> None:
    page, crate = f"{wall.address}/p.html", tmp_path / "crates" / "c"
    run("pack", page, "--crate", "c", "--as-shown", "--only", "1")
    done = run("pack", page, "--crate", "c", "--alike", "drop", "--as-shown", "--fresh")
    assert (done.code, pictures(crate)) == (0, {"1-small.jpg", "1-large.png", "2.jpg", "3.jpg"})
    assert "like 1-small.jpg of before, which stays" in done.out


def test_a_fingerprint_of_an_older_kind_is_made_anew(run: Program, wall: Server, tmp_path: Path) -> None:
    run("pack", f"{wall.address}/p.html", "--crate", "c", "--as-shown")
    ledger = tmp_path / "crates" / "c" / ".pickcrate" / "ledger.sqlite"
    with closing(sqlite3.connect(ledger)) as database, database:
        database.execute("UPDATE picture SET fingerprint = '01' || hex(zeroblob(300))")
    assert "2 groups: 3 twins" in run("alike", "c").out
    with closing(sqlite3.connect(ledger)) as database:
        texts = [text for (text,) in database.execute("SELECT fingerprint FROM picture")]
    assert len([text for text in texts if from_text(text) is not None]) == 6


def test_twins_are_shown_side_by_side(run: Program, wall: Server, tmp_path: Path) -> None:
    run("pack", f"{wall.address}/p.html", "--crate", "c", "--as-shown")
    assert run("alike", "c", "--out", "t.html").code == 0
    text = (tmp_path / "t.html").read_text()
    assert (text.count('class="row"'), text.count("data:image/")) == (2, 5)
    assert text.index("1-large.png") < text.index("1-small.jpg")
    over = run("alike", "c", "--out", "t.txt")
    assert (over.code, "it is a web page" in over.err) == (2, True)


def test_twins_are_listed_and_moved(run: Program, wall: Server, tmp_path: Path) -> None:
    run("pack", f"{wall.address}/p.html", "--crate", "c", "--as-shown")
    rows = run("alike", "c", "--format", "jsonl").rows
    assert {(row["alike"], row["file"], (row["best"] or "").rpartition("/")[2]) for row in rows} == {
        ("best", "1-large.png", ""), ("twins", "1-small.jpg", "1-large.png"), ("twins", "1-middle.webp", "1-large.png"),
        ("best", "2.jpg", ""), ("twins", "2-worse.jpg", "2.jpg"),
    }  # fmt: skip
    moved = run("alike", "c", "--move-to", "twins")
    assert (moved.code, "3 pictures moved; nothing was deleted" in moved.out) == (0, True)
    crate = tmp_path / "crates" / "c"
    assert (pictures(crate), len(pictures(crate / "twins"))) == ({"1-large.png", "2.jpg", "3.jpg"}, 3)
    assert run("audit", "c").code == 0
    assert "6 there already" in run("pack", f"{wall.address}/p.html", "--crate", "c", "--as-shown").out
    run("pack", f"{wall.address}/p.html", "--crate", "d", "--as-shown", "--only", "6")
    assert "d/3.jpg" in run("alike", "c", "d").out
    assert "no two pictures are alike" in run("alike", "d").out
    assert run("alike", "c", "--move-to", "a/b").code == 2
    assert run("alike", "none").code == 2


def test_a_larger_twin_is_said_to_be_that(run: Program, web: Server) -> None:
    for name, size in (("old", (300, 200)), ("new", (600, 400))):
        (web.www / f"{name}.jpg").write_bytes(encoded(kite(7, size), "JPEG", quality=90))
        (web.www / f"{name}.html").write_text(f"<img src={name}.jpg>")
        run("pack", f"{web.address}/{name}.html", "--crate", name, "--as-shown")
    assert [row["change"] for row in run("compare", "old", "new", "--format", "jsonl").rows] == ["came", "went"]
    run("alike", "old", "new")
    [row] = run("compare", "old", "new", "--format", "jsonl").rows
    assert (row["change"], row["old_width"], row["width"]) == ("larger now", 300, 600)


def test_a_sheet_knows_the_groups_of_twins(run: Program, wall: Server, tmp_path: Path) -> None:
    run("pack", f"{wall.address}/p.html", "--crate", "c", "--as-shown")
    run("alike", "c")
    assert run("sheet", "c", "--out", tmp_path / "s.html").code == 0
    text = (tmp_path / "s.html").read_text()
    groups = re.findall(r'"twins": (\d+)', text)
    assert (len(groups), len(set(groups)), groups.count("0")) == (6, 3, 1)
