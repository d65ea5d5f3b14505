"""The table of resizing conventions: every row by its own examples, and addresses that must stay as they are."""

import random
import re
import time
import tomllib
from collections.abc import Iterator
from importlib.resources import files
from io import BytesIO
from pathlib import Path
from re import _parser  # type: ignore[attr-defined]  # the only way to know what a pattern says
from typing import Any

import pytest
from PIL import Image, ImageDraw

import pickcrate
from conftest import Program, Server, picture
from pickcrate.crate.likeness import unlike
from pickcrate.fullsize.conventions import TABLES, Rule, fields_of, tables
from pickcrate.fullsize.proof import Lessons, proves
from pickcrate.fullsize.query import strip
from pickcrate.media.header import Header

TEXTS = [files("pickcrate.fullsize").joinpath(name).read_text(encoding="utf-8") for name in TABLES]
TABLE = [row for text in TEXTS for row in tomllib.loads(text)["rule"]]
TOLD = [told for text in TEXTS for told in text.split("[[rule]]")[1:]]
"""what stands below each row: its examples, and what it leaves alone"""

RULES = [rule for table in tables() for rule in table.rules]
ROWS = list(zip(TOLD, RULES, strict=True))


@pytest.mark.parametrize(("told", "rule"), ROWS, ids=[row["name"] for row in TABLE])
def test_a_row_does_what_its_examples_say(told: str, rule: Rule) -> None:
    examples = re.findall(r"(?m)^# (\S+) => (\S+)$", told)
    left_alone = re.findall(r"(?m)^# (\S+) stays$", told)
    assert examples
    assert left_alone
    for shown, larger in examples:
        assert larger in [made for made, _ in rule.apply(shown)]
        assert larger in [candidate.url for candidate in pickcrate.candidates(shown)]
    for address in left_alone:
        assert [made for made, _ in rule.apply(address) if made != address] == []


def test_the_table_is_read_as_any_reader_of_its_format_reads_it() -> None:
    said = [
        {name: str(value).lower() if value is True or value is False else value for name, value in row.items()}
        for row in TABLE
    ]
    assert [fields_of(told) for told in TOLD] == said


def texts_in(parsed: Any) -> Iterator[str]:
    """Yield the texts that stand in all that a pattern, as the standard library parses it, can be found in."""
    text = ""
    for kind, value in parsed:
        name = str(kind)
        inner: Any = value[-1] if isinstance(value, tuple) else ()
        is_exact = name == "SUBPATTERN" and not value[1] & re.IGNORECASE
        if name == "LITERAL":
            text += chr(value)
        elif is_exact and all(str(kind) == "LITERAL" for kind, _ in inner):
            text += "".join(chr(code) for _, code in inner)
        else:
            yield text
            text = ""
            if is_exact or (name.endswith("_REPEAT") and value[0] >= 1):
                yield from texts_in(inner)
    yield text


def test_what_a_row_has_is_in_all_that_its_pattern_is_found_in() -> None:
    rows = [(row, rule) for row, rule in zip(TABLE, RULES, strict=True) if "has" in row]
    assert len(rows) > 100
    for row, rule in rows:
        parsed = _parser.parse(rule.path.pattern)
        assert not parsed.state.flags & re.IGNORECASE, row["name"]
        assert any(row["has"] in text for text in texts_in(parsed)), row["name"]


SIGNS = (
    "thumb Thumbnails tn s M sm tiny med preview lowres lo lq web sq crop copy half 1x 300 640 w300 300px 300w s300 sq300 "
    "c300x200 300x200 300x x200 w3-h4 w300h200 size=300 resize:3x4 h_300 small2 thumb_300 klein petites pequena mini sd XL "
    "icon bestFit getthumb fit-in normal _thumbs .thumbs SML red 4711"
).split()
SHAPES = (
    "/{}/a.jpg /{}/b/a.jpg /a-{}.jpg /a_{}.jpg /a.{}.jpg /a@{}.jpg /a--{}.jpg /{}_abc.jpg /{}-abc.jpg /{}.abc.jpg /a{}.jpg "
    "/c/{} /c7/{} /{}/c7 /c7/{}.jpg /c/a.jpg/{} /c/a.jpg_{}.png /c/a.jpg-{} /{}/{}/a.jpg /{}/{}_abc.jpg /{}/abc_{}.jpg "
    "/{}.php /c/abc/{}.jpg /{}_photos/a.jpg /{}pics/a.jpg /images{}/a.jpg /photos_{}/a.jpg /image{}/a.jpg"
).split()


def test_every_path_that_a_row_fits_has_the_sign_of_its_table() -> None:
    paths = [shape.replace("{}", sign) for shape in SHAPES for sign in SIGNS]
    (table,) = (table for table in tables() if table.sign is not None)
    fits = [(rule.name, path) for rule in table.rules for path in paths if rule.path.search(path) is not None]
    assert len({name for name, _ in fits}) > len(table.rules) * 0.7
    assert [(name, path) for name, path in fits if table.sign and table.sign.search(path) is None] == []


PIECES = (
    "/000 /a /a-b /aa_ /w_100 /1x1 /0a /.jpg .jpg /- -1 _1 - _ . x 0 a A /A0 %2F /v1 /1_1_1 __ -- /a_b, /= ~".split()
)


def took(pattern: re.Pattern[str], path: str) -> float:
    begun = time.thread_time()
    pattern.search(path)
    return time.thread_time() - begun


def test_no_row_goes_back_over_a_path_again_and_again() -> None:
    """What is made of a row's own words, four times as long, takes no more than sixteen times as long, and some."""
    for row, rule in zip(TABLE, RULES, strict=True):
        pattern = rule.path
        own = re.findall(r"[A-Za-z0-9_:.=~-]+", re.sub(r"\\.|\(\?[a-z:!=<]*|[][{}()|?*+^$]", " ", row["path"]))
        for piece in {*PIECES, *own, *(f"/{word}" for word in own)}:
            short, long = (f"/{(piece * 2_000)[:size]}{row.get('has', '')}/#" for size in (475, 1_900))
            if took(pattern, long) > 0.02:  # it may be the machine
                ratio = min(took(pattern, long) for _ in range(7)) / min(took(pattern, short) for _ in range(7))
                assert ratio < 40, (row["name"], piece)


def test_names_are_told_apart_and_sure_rows_lead() -> None:
    assert len({row["name"] for row in TABLE}) == len(TABLE)
    (best, *others) = pickcrate.candidates("https://galewick.example/wp-content/uploads/2026/03/red-300x200.jpg?w=300")
    assert best.url == "https://galewick.example/wp-content/uploads/2026/03/red.jpg"
    assert str(best.evidence).startswith("by its address: ")
    assert [c.url for c in others] == [f"{best.url}?w=300"]


SIDES = (
    "newwidth resize_width targetWidth crop_w reqw boxh width_px image[height] size.h scaleTo avatar_size longestSide "
    "thumbnailWidth percent mxw tnw wid"
).split()
QUERIES = [
    ("w=300&h=200&fit=crop", ""),
    ("v=7&w=300", "v=7"),
    ("id=12&width=300&quality=80&name=red", "id=12&name=red"),
    ("w=300&h=200&tok=abc123&media=wiki:a.jpg", "media=wiki:a.jpg"),
    ("resize=300%2C200&ssl=1", "ssl=1"),
    ("format=300w", ""),
    ("q=w_300,c_fill", ""),
    ("s=80", ""),
    ("imwidth=320&impolicy=thumb", ""),
    ("center=0.5,0.5&mode=crop&width=300&rnd=131", ""),
    ("center=.5%2C.25&w=30", ""),
    ("f=red.jpg&w=300&wm=sign.png", "f=red.jpg"),
    ("id=7&op=resize&as=webp&w=300&ratio=4:3", "id=7"),
    ("imageThumb=400", ""),
    ("amp;w=300&amp;h=200", ""),
    ("x-oss-process=image/resize,w_300/quality,q_80", ""),
    ("id=7&x-image-process=style/small", "id=7"),
    ("imageView2/2/w/300/q/75|imageslim", ""),
    ("imageMogr2/auto-orient/thumbnail/!50p", ""),
    ("imageView&thumbnail=300x200", ""),
    ("im=AspectCrop=(1,1);Resize,width=300", ""),
    ("tr=w-300,h-200&v=7", "v=7"),
    ("_ex=300x300", ""),
    ("param=300y300", ""),
    ("ca=0&ce=1&s=312x235", ""),
    ("width=300&height=200&fit=bounds&canvas=300,200&bg-color=ffffff", ""),
    ("w=300&crop-left=10&crop-top=5&aspect_ratio=1", ""),
    ("profile=thumb&w=300", ""),
    ("profile=kites&w=300", "profile=kites"),
    ("scale-down-to=512", ""),
    ("wid=300&hei=200&$product$", ""),
    ("class=thumb", ""),
    ("style=gothic", None),
    ("rxy=0.5,0.5&rmode=crop&width=300&v=7", "v=7"),
    ("max_dim=340&id=7", "id=7"),
    ("scale.width=300&scale.option=fill&v=7", "v=7"),
    ("format=jpg&name=900x900", "format=jpg&name=orig"),
    ("version=1.0&t=1600000000000&imageThumbnail=1", "version=1.0&t=1600000000000"),
    ("attachmentid=12&t=1", "attachmentid=12"),
    ("id=KITE-7&max=300", "id=KITE-7"),
    ("impolicy=resizecrop&rw=455&ra=fit", ""),
    ("aki_policy=large", ""),
    ("type=w966", ""),
    ("type=f200_200", ""),
    ("type=kites", None),
    ("cropResize=300,200", ""),
    ("geometry=300x200", ""),
    ("type=n95", None),
    ("f=300x300&format=auto", ""),
    ("f=xs&v=7", "v=7"),
    ("fitin=300:300&composite-to=*,*|300:300", ""),
    ("size=640x480&size_mode=3", ""),
    ("twic=v1/resize=300", ""),
    ("downsize=300:*&output-quality=80", ""),
    ("img_w=300", ""),
    ("image_size=small&id=7", "id=7"),
    ("mode=thumb&file=7", "file=7"),
    ("thumb&id=7", "id=7"),
    ("resolution=300x200", ""),
    ("id=300x200", None),
    ("mode=kites", None),
    ("f=red", None),
    ("preview=tinyicon&rev=7", "rev=7"),
    ("preview=1", None),
    *((f"{name}=300&id=7", "id=7") for name in SIDES),
    *((f"{name}=300&id=7", None) for name in ("bandwidth", "linewidth", "fontsize", "pagesize", "limit", "tw", "side")),
    *((f"{name}=small&id=7", "id=7") for name in ("template", "image-type", "imgType", "sizeName", "fmt")),
    ("bw=300&bh=200&id=7", "id=7"),
    ("w=300&h=&c=fill&id=7", "id=7"),
    ("io=transform:fill,width:300", ""),
    ("300x200", ""),
    ("file=thumbnail", ""),
    ("thumbnail=true&id=7", "id=7"),
    ("quality=low&id=7", "id=7"),
    ("thumbnail=12", "aid=12"),
    ("format=jpg&name=orig", None),
    ("t=1", None),
    ("h=0a1b2c3d", None),
    ("w=abc", None),
    ("im=kites", None),
    ("center=52.5,13.4&zoom=13&size=400x300", None),
    ("size=200x200&data=kites", None),
    ("cht=tx&chl=kites&chs=300x300", None),
    ("v=7", None),
    ("q=kites", None),
    ("format=jpg", None),
    ("id=7&page=2", None),
    ("itok=AbCd", None),
    ("w=", None),
    ("", None),
]


@pytest.mark.parametrize(("query", "expected"), QUERIES)
def test_sizes_in_the_query(query: str, expected: str | None) -> None:
    stripped = strip(query)
    assert (stripped.query if stripped else None) == expected


@pytest.mark.parametrize(
    ("query", "expected"),
    [
        ("id=7&size=small", ["id=7", "id=7&size=large", "id=7&size=original", "id=7&size=full"]),
        ("size=S&id=7", ["id=7", "size=L&id=7"]),
        ("quality=low&id=7", ["id=7", "quality=high&id=7"]),
        ("size=small&sig=AbCdEfGhIjKl", []),
        ("ex=65a&is=64b&hm=0a1b2c3d4e5f&width=300&height=200", ["ex=65a&is=64b&hm=0a1b2c3d4e5f"]),
        ("id=small", []),
    ],
)
def test_words_for_a_larger_size_in_the_query(query: str, expected: list[str]) -> None:
    found = pickcrate.candidates(f"https://galewick.example/photo.php?{query}")
    assert [candidate.url.partition("?")[2] for candidate in found] == expected


def test_an_address_with_two_signs_of_a_size_loses_both_first() -> None:
    found = pickcrate.candidates("https://galewick.example/album/thumbs/red-150x150.jpg")
    assert [(one.url.rpartition("/album/")[2], one.evidence.detail) for one in found[:3]] == [
        ("red.jpg", "a folder of thumbnails beside the originals, then a size behind the name"),
        ("red-150x150.jpg", "a folder of thumbnails beside the originals"),
        ("thumbs/red.jpg", "a size behind the name"),
    ]


@pytest.mark.parametrize(
    "query",
    [
        "w=300&s=0a1b2c3d4e5f",
        f"width=300&smart=true&auth={'0a1b2c3d' * 8}",
        "width=9&sig=AbCdEfGhIjKl",
        "w=3&X-Amz-Signature=00112233445566",
        "h=9&oh=00_AbCdEf12&oe=66AABBCC",
    ],
)
def test_signed_queries_are_left_alone(query: str) -> None:
    stripped = strip(query)
    assert stripped is not None
    assert stripped.signed
    assert pickcrate.candidates(f"https://galewick.example/red.jpg?{query}") == []


def test_chains_are_followed_to_their_end() -> None:
    inner = "https%3A%2F%2Fblog.example%2Fwp-content%2Fuploads%2F2026%2F03%2Fred-300x200.jpg%3Fw%3D300"
    best = pickcrate.candidates(f"https://app.example/_next/image?url={inner}&w=640&q=75")[0]
    assert best.url == "https://blog.example/wp-content/uploads/2026/03/red.jpg"


PLACES = [
    "kites",
    "hall/east",
    "2026/03",
    "img",
    "static/media",
    "files",
    "assets/photos",
    "a/b/c",
    "uploads",
    "content",
]
NAMES = [
    "red-delta.jpg", "DSC_0042.jpg", "poster-1920x1080.png", "medium-format-camera.jpg", "small-boat.jpg", "thumbs-up.png",
    "large.webp", "red_delta_2.jpg", "IMG_20260320_101112.jpg", "model-scaled-1.jpg", "thumbnail-view.png", "resize-guide.png",
    "kite.jpg?v=7", "view.php?id=7", "kite.jpg?lang=de&page=2", "0a1b2c3d4e5f60718293a4b5c6d7e8f9.jpg", "logo.svg",
    "kite@2x.png", "kite-4k.jpg", "%C3%BCber%20alles.jpg",
]  # fmt: skip
STAY = [f"https://galewick.example/{place}/{name}" for place in PLACES for name in NAMES]


def test_two_hundred_addresses_that_must_stay() -> None:
    assert len(STAY) == 200
    assert [address for address in STAY if pickcrate.candidates(address)] == []


@pytest.mark.parametrize(
    "address",
    [
        "",
        "nothing",
        "data:image/png;base64,AAAA",
        "file:///a/thumbs/b.jpg",
        "https://g.example/thumbs/b.svg",
        "http://[",
    ],
)
def test_what_has_no_candidates(address: str) -> None:
    assert pickcrate.candidates(address) == []


@pytest.mark.parametrize(
    ("guess", "known", "crops", "proved"),
    [
        ((1200, 800), (300, 200), False, True),
        ((1203, 800), (300, 200), False, True),
        ((1000, 1000), (300, 300), False, True),
        ((1200, 900), (150, 150), False, False),  # another shape
        ((1200, 900), (150, 150), True, True),  # a convention that crops
        ((300, 200), (300, 200), True, False),  # nothing won
        ((1200, 100), (300, 200), True, False),  # one side smaller
        (None, (300, 200), True, False),
        ((1200, 800), None, True, False),
    ],
)
def test_what_proves_a_guess(
    guess: tuple[int, int] | None, known: tuple[int, int] | None, *, crops: bool, proved: bool
) -> None:
    headers = [Header("jpeg", *size) if size else None for size in (guess, known)]
    assert proves(*headers, crops=crops) is proved
    is_equal = guess == known
    assert proves(*headers, crops=crops, equals=True) is (proved or is_equal)


def test_what_a_site_taught_is_used() -> None:
    lessons, lesson = Lessons(), ("a rule", "https://g.example")
    assert (lessons.most_at_once(lesson), lessons.is_proved(lesson), lessons.is_hopeless(lesson)) == (2, False, False)
    lessons.failures[lesson] += 3
    assert lessons.is_hopeless(lesson)
    lessons.proofs[lesson] += 4
    assert lessons.is_proved(lesson)
    assert not lessons.is_hopeless(lesson)


@pytest.fixture
def shop(web: Server) -> str:
    """A page of thumbnails beside originals, of traps, and of what only looks like either."""
    folder = web.www / "wp-content" / "uploads" / "2026" / "03"
    folder.mkdir(parents=True)
    for n in range(20):
        (folder / f"kite{n}-60x40.png").write_bytes(picture("PNG", (60, 40), colour=(n, 0, 0)))
        (folder / f"kite{n}.png").write_bytes(picture("PNG", (600, 400), colour=(n, 0, 0)))
    (folder / "kite7.png").unlink()
    trip = web.www / "trip"
    (trip / "thumbs").mkdir(parents=True)
    for name, size in (("map", (40, 40)), ("plan", (30, 20))):
        (trip / "thumbs" / f"{name}.png").write_bytes(picture("PNG", size))
    (trip / "map.png").write_bytes(picture("PNG", (400, 100)))  # another picture of the same name
    (trip / "plan.png").write_bytes(picture("PNG", (15, 10)))  # smaller
    (web.www / "shop.html").write_text(
        "".join(f"<img src=/wp-content/uploads/2026/03/kite{n}-60x40.png>" for n in range(20))
        + "<img src=trip/thumbs/map.png><img src=trip/thumbs/plan.png>"
    )
    return f"{web.address}/shop.html"


def test_guesses_are_proved_and_then_believed(run: Program, web: Server, shop: str) -> None:
    rows = run("look", shop, "--format", "jsonl", "--no-robots").rows
    asked = web.requests()
    larger = [row for row in rows if row["url"] != row["shown_url"]]
    assert len(larger) == 20
    assert (larger[0]["width"], larger[0]["height"], larger[0]["grades"]["width"]) == (600, 400, "probed")
    assert larger[0]["evidence"] == "by its address: a size behind the name, in an upload folder"
    assert "believed" in larger[9]["evidence"]
    assert [row["url"].rpartition("/trip/")[2] for row in rows[20:]] == ["thumbs/map.png", "thumbs/plan.png"]
    assert len(asked) <= 1 + 4 + 1 + 2 * 9  # the page, two proofs, what cannot exist, and the guesses of two traps
    assert run("look", shop, "--format", "urls", "--as-shown").out.count("60x40") == 20
    assert web.requests() == ["/shop.html"]  # whether it is still the same; nothing is guessed
    assert run("look", shop, "--format", "urls", "--no-robots", "--fresh").out.splitlines() == [
        row["url"] for row in rows
    ]
    assert sorted(web.requests()) == sorted(asked)


def test_what_a_site_taught_late_holds_for_all_its_pictures(run: Program, web: Server) -> None:
    for folder, size in (("thumbs", (30, 20)), ("photos", (600, 400))):
        (web.www / "album" / folder).mkdir(parents=True)
        for n in range(8):
            (web.www / "album" / folder / f"{n}.png").write_bytes(picture("PNG", size, f"#{n}0{n}0{n}0"))
    (web.www / "album.html").write_text("".join(f"<img src=album/thumbs/{n}.png>" for n in range(8)))
    rows = run("look", f"{web.address}/album.html", "--format", "jsonl", "--no-robots").rows
    # Of ten folders that may stand beside one of thumbnails it is the last; one picture alone tries eight of them.
    assert [row["url"].rpartition("/album/")[2] for row in rows] == [f"photos/{n}.png" for n in range(8)]
    assert len(web.requests()) < 60
    (web.www / "album.html").write_text("<img src=album/thumbs/0.png>")
    (row,) = run("look", f"{web.address}/album.html", "--format", "jsonl", "--no-robots", "--fresh").rows
    assert row["url"].endswith("/thumbs/0.png")
    assert len(web.requests()) == 1 + 1 + 8


def test_packing_falls_back_where_a_site_is_not_as_it_was_taken_for(run: Program, shop: str) -> None:
    done = run("pack", shop, "--crate", "c", "--no-robots", "--format", "jsonl")
    assert [row["outcome"] for row in done.rows] == ["fetched"] * 22
    widths = sorted(row["width"] for row in done.rows)
    assert widths == [30, 40, 60, *[600] * 19]


def test_a_name_that_only_seems_to_say_a_size_is_held_against_what_is_shown(run: Program, web: Server) -> None:
    for name, seed, size in (("gift-card", 1, (150, 100)), ("gift", 2, (600, 400)), ("delta_s", 3, (150, 100))):
        (web.www / f"{name}.png").write_bytes(scene(seed, size))
    (web.www / "delta.png").write_bytes(scene(3))
    (web.www / "p.html").write_text("<img src=gift-card.png><img src=delta_s.png>")
    done = run("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots", "--format", "jsonl")
    came = {row["url"].rpartition("/")[2]: row["width"] for row in done.rows}
    assert came == {"gift-card.png": 150, "delta.png": 600}
    (error,) = (row["error"] for row in done.rows if "gift" in row["url"])
    assert "another picture than the one that is shown" in error


def scene(seed: int, size: tuple[int, int] = (600, 400), kind: str = "PNG", part: float = 1.0) -> bytes:
    """Return a picture of bars and discs, another for each seed; of its middle, if it is a ``part`` of it."""
    chance = random.Random(seed)
    drawn = Image.new("RGB", (600, 400), (chance.randrange(256), chance.randrange(256), chance.randrange(256)))
    draw = ImageDraw.Draw(drawn)
    for _ in range(12):
        x, y, side = chance.randrange(560), chance.randrange(360), chance.randrange(40, 200)
        draw.ellipse((x, y, x + side, y + side), (chance.randrange(256), chance.randrange(256), chance.randrange(256)))
    left, top = 300 * (1 - part), 200 * (1 - part)
    buffer = BytesIO()
    drawn.crop((int(left), int(top), int(600 - left), int(400 - top))).resize(size).save(buffer, kind)
    return buffer.getvalue()


UNLIKE = [
    (scene(1), scene(1, (60, 40)), ""),
    (scene(1, kind="JPEG"), scene(1, (150, 100), "WEBP"), ""),
    (scene(1), scene(1, (90, 60), "JPEG", part=0.8), ""),  # a thumbnail of its middle
    (scene(2), scene(1, (60, 40)), "another picture"),
    (scene(2, kind="JPEG"), scene(1, (60, 40), "JPEG"), "another picture"),
    (scene(2), scene(1, (40, 40)), ""),  # a part, which may be any
    (scene(1, (50, 33)), scene(1, (60, 40)), "smaller"),
    (picture("PNG", (600, 400), colour=(9, 9, 9)), scene(1, (60, 40)), ""),  # shows nothing
    (scene(1), b"<html>", ""),
    (scene(1), b"<svg xmlns='http://www.w3.org/2000/svg' width='60' height='40'/>", ""),
    (scene(1), picture("GIF", (1, 1)), ""),
    (scene(1), scene(2, (60, 40))[:400], ""),
]


@pytest.mark.parametrize(("came", "shown", "why"), UNLIKE)
def test_whether_what_came_may_be_what_is_shown(came: bytes, shown: bytes, why: str, tmp_path: Path) -> None:
    (tmp_path / "came").write_bytes(came)
    said = unlike(str(tmp_path / "came"), shown)
    assert said.startswith(why) if why else not said


def test_what_is_believed_is_held_against_what_is_shown_when_it_comes(run: Program, web: Server) -> None:
    folder = web.www / "wp-content" / "uploads"
    folder.mkdir(parents=True)
    for n in range(10):
        (folder / f"kite-{n:03}-60x40.png").write_bytes(scene(n, (60, 40)))
        (folder / f"kite-{n:03}.png").write_bytes(scene(n))
    (folder / "kite-004.png").unlink()
    (folder / "kite-005.png").write_bytes(scene(500))
    (folder / "kite-006.png").write_bytes(scene(6, (30, 20)))
    page = "".join(f"<img src=/wp-content/uploads/kite-{n:03}-60x40.png>" for n in range(10))
    (web.www / "shop.html").write_text(page)
    shop = f"{web.address}/shop.html"
    looked = run("look", shop, "--format", "jsonl", "--no-robots").rows
    assert ["believed" in row["evidence"] for row in looked] == [False] * 2 + [True] * 8
    web.requests()
    done = run("pack", shop, "--crate", "c", "--no-robots", "--format", "jsonl")
    assert [row["width"] for row in done.rows] == [
        60 if n in {4, 5, 6} else 600 for n in (row["number"] - 1 for row in done.rows)
    ]
    said = {row["number"] - 1: row["error"] or "" for row in done.rows}
    assert "404" in said[4]
    assert "another picture than the one that is shown" in said[5]
    assert "smaller than what is shown" in said[6]
    assert all(not said[n] for n in (0, 1, 2, 3, 7, 8, 9))
    asked = web.requests()
    assert len(asked) == len(set(asked)), asked  # what was held against a version is not fetched again


def test_of_equal_size_what_the_shown_one_was_made_of_is_the_original(run: Program, web: Server) -> None:
    for name, kind in (
        ("hall.jpg", "JPEG"),
        ("hall.jpg.webp", "WEBP"),
        ("tower.png", "PNG"),
        ("tower-small.png", "PNG"),
    ):
        (web.www / name).write_bytes(scene(len(name) // 9, kind=kind))
    (web.www / "_next").mkdir()
    (web.www / "_next" / "image").write_bytes(scene(1, kind="WEBP"))  # whatever is asked, as this server has no resizer
    tags = (
        "<img src=/hall.jpg.webp>",
        "<img src='/_next/image?url=%2Ftower.png&w=600&q=75'>",
        "<img src=/tower-small.png>",
    )
    (web.www / "p.html").write_text("".join(tags))
    rows = run("look", f"{web.address}/p.html", "--format", "jsonl", "--no-robots").rows
    assert [row["url"].rpartition("/")[2] for row in rows] == ["hall.jpg", "tower.png", "tower-small.png"]
    assert "a copy in a newer format" in rows[0]["evidence"]


def test_the_one_picture_of_the_page_behind_is_it_however_it_is_called(run: Program, web: Server) -> None:
    pictures = {
        "t/red": (60, 40),
        "t/box": (60, 40),
        "t/eye": (60, 40),
        "q7": (600, 400),
        "q8": (600, 400),
        "q9": (600, 600),
    }
    for number, (name, size) in enumerate(pictures.items()):
        (web.www / name).parent.mkdir(exist_ok=True)
        (web.www / f"{name}.png").write_bytes(scene(number, size))
    (web.www / "red.html").write_text("<img src=logo.png width=40><img src=q7.png><p>Red")
    (web.www / "box.html").write_text("<img src=q7.png><img src=q8.png>")  # which of them?
    (web.www / "eye.html").write_text("<img src=q9.png>")  # of another shape
    (web.www / "p.html").write_text("".join(f"<a href={n}.html><img src=t/{n}.png></a>" for n in ("red", "box", "eye")))
    out = run("look", f"{web.address}/p.html", "--through", 1, "--no-robots", "--format", "urls").out
    assert [url.removeprefix(f"{web.address}/") for url in out.split()] == ["q7.png", "t/box.png", "t/eye.png"]
    by_script = "<a href=\"javascript:show('red.html', 640)\"><img src=t/red.png></a>"
    (web.www / "p.html").write_text(by_script)
    out = run("look", f"{web.address}/p.html", "--through", 1, "--no-robots", "--format", "urls", "--fresh").out
    assert out == f"{web.address}/q7.png\n"


def test_the_largest_size_of_a_page_is_one_in_a_size_as_the_smaller_ones_are(run: Program, web: Server) -> None:
    sizes = {
        "hall-300x200": (300, 200),
        "hall-1536x1024": (1536, 1024),
        "hall": (2400, 1600),
        "kite-1920x1280": (192, 128),
    }
    for name, size in sizes.items():
        (web.www / f"{name}.png").write_bytes(scene(4 if "hall" in name else 5, size))
    (web.www / "kite.png").write_bytes(scene(5, (240, 160)))
    hall = "<img src=hall-300x200.png srcset='hall-300x200.png 300w, hall-1536x1024.png 1536w'>"
    (web.www / "p.html").write_text(
        f"{hall}<img src=kite-1920x1280.png>"
    )  # which is called so, as far as anybody knows
    out = run("look", f"{web.address}/p.html", "--no-robots", "--format", "urls").out
    assert [url.removeprefix(f"{web.address}/") for url in out.split()] == ["hall.png", "kite-1920x1280.png"]


def test_a_size_without_a_descriptor_is_looked_at(run: Program, web: Server) -> None:
    for number, name in enumerate(("a", "b")):
        (web.www / f"{name}.png").write_bytes(scene(number, (1400, 930)))
        (web.www / f"{name}-wide.png").write_bytes(scene(number, (1000, 664) if name == "a" else (2800, 1860)))
    sources = "".join(
        f"<picture><source media='(min-width: 900px)' srcset={n}-wide.png><img src={n}.png></picture>" for n in "ab"
    )
    (web.www / "p.html").write_text(sources)
    out = run("look", f"{web.address}/p.html", "--no-robots", "--format", "urls").out
    assert [url.removeprefix(f"{web.address}/") for url in out.split()] == ["a.png", "b-wide.png"]


@pytest.fixture
def gallery(web: Server) -> str:
    """Thumbnails that lead to pages: a viewer, a page in between, another picture, nothing, the front page."""
    www = web.www
    for name, size in (
        ("kite", (60, 40)),
        ("hall", (60, 40)),
        ("map", (60, 40)),
        ("lost", (60, 40)),
        ("logo", (90, 30)),
    ):
        (www / f"thumb_{name}.png").write_bytes(picture("PNG", size, (name == "map" and "blue") or "red"))
    (www / "big").mkdir()
    (www / "big" / "kite.png").write_bytes(picture("PNG", (600, 400)))
    (www / "big" / "kite_full.png").write_bytes(picture("PNG", (1200, 800)))
    (www / "big" / "h4ll-0a1b2c.png").write_bytes(picture("PNG", (900, 600)))
    (www / "big" / "plan.png").write_bytes(picture("PNG", (500, 900)))
    around = "<header><img src=/thumb_logo.png></header><a href=hall.html><img src=thumb_hall.png width=60></a>"
    (www / "kite.html").write_text(f"{around}<main><a href=big/kite_full.png><img src=big/kite.png></a></main>")
    (www / "hall.html").write_text(
        "<p>One more click</p><img src=thumb_hall.png alt=Hall width=60><div id=v><img src=big/h4ll-0a1b2c.png width=900 height=600></div>"
    )
    (www / "map.html").write_text("<main><img src=big/plan.png width=500 height=900></main>")
    thumbs = "".join(f"<a href={name}.html><img src=thumb_{name}.png></a>" for name in ("kite", "hall", "map", "lost"))
    (www / "gallery.html").write_text(f"<a href=/><img src=thumb_logo.png></a>{thumbs}")
    return f"{web.address}/gallery.html"


def larger(rows: list[dict[str, str]]) -> dict[str, str]:
    return {
        row["shown_url"].rpartition("/")[2]: row["url"].rpartition("/")[2]
        for row in rows
        if row["url"] != row["shown_url"]
    }


def test_pages_behind_thumbnails(run: Program, web: Server, gallery: str) -> None:
    plain = run("look", gallery)
    assert "4 thumbnails without a larger version lead to a page: --through 1" in plain.out
    web.requests()
    rows = run("look", gallery, "--through", "1", "--format", "jsonl").rows
    assert larger(rows) == {"thumb_kite.png": "kite_full.png", "thumb_hall.png": "h4ll-0a1b2c.png"}
    assert rows[1]["evidence"].startswith("on the page behind it, http://127.0.0.1")
    assert (rows[1]["width"], rows[1]["grades"]["width"]) == (1200, "probed")
    asked = web.requests()
    assert len(asked) == len(set(asked))
    assert "/" not in asked
    chosen = run("look", gallery, "--through", "1", "--target", "#v img", "--format", "jsonl").rows
    assert larger(chosen) == {"thumb_hall.png": "h4ll-0a1b2c.png"}
    assert "is not a CSS selector" in run("look", gallery, "--through", "1", "--target", "[[").err
    behind = web.www / "kite.html"
    behind.write_text(f"<meta name=robots content=noimageindex>{behind.read_text()}")
    line = ("look", gallery, "--through", "1", "--fresh", "--format", "jsonl")
    assert larger(run(*line).rows) == {"thumb_hall.png": "h4ll-0a1b2c.png"}
    assert larger(run(*line, "--no-robots").rows)["thumb_kite.png"] == "kite_full.png"


def test_the_users_own_rules_come_first_and_are_proved(run: Program, museum: str, tmp_path: Path) -> None:
    (tmp_path / "mine.txt").write_text("# the museum's\n\n/small/(.+)\\.(?:jpg|png)$ => /originals/\\1.jpg\n")
    rows = run("look", f"{museum}/regions.html", "--rules", "mine.txt", "--format", "jsonl").rows
    assert len(larger(rows)) == 10  # of the others the original is of another type
    assert {row["grades"]["width"] for row in rows if row["evidence"].startswith("by your rule")} == {"probed"}
    by_page = run("look", f"{museum}/regions.html", "--through", "1", "--format", "jsonl").rows
    assert len(larger(by_page)) == 12
    for bad in ("no arrow", "( => x", "a => \\7", " => x"):
        done = run("look", f"{museum}/regions.html", "--rule", bad)
        assert done.code == 2
        assert "for example --rule" in done.err
    assert "--rules none.txt: cannot be read" in run("look", museum, "--rules", "none.txt").err


def test_why_tells_the_whole_story(run: Program, shop: str) -> None:
    proved = run("why", shop, "1", "--no-robots").out
    for words in (
        "Picture 1  kite0",
        "img src  line 1",
        "by its address: a size behind the name, in an upload folder · proved: PNG 600×400, held against PNG 60×40",
        "as shown",
    ):
        assert words in proved
    wrong = run("why", shop, shop.replace("shop.html", "trip/thumbs/map.png"), "--no-robots").out
    assert "Tried, and not used" in wrong
    assert "PNG 400×100; held against PNG 40×40" in wrong
    nothing = run("why", shop, "99", "--no-robots")
    assert nothing.code == 4
    assert "there is no picture 99 here: its pictures are numbered 1 to 22" in nothing.err


PASSED = """<!doctype html><title>Hall</title><link rel=stylesheet href=hall.css><!-- <img src="storm-old.jpg"> -->
<img src="red-k%C3%AFte.jpg" alt="Ino’s Red"><a href="storm.html">Storm</a>
<script>var n = "img/storm-" + k + ".jpg"; var u = "cdn?storm-page";</script>
<div data-x="storm/7">x</div><video src="storm.mp4"></video><p title=kite/storm.jpg>A storm-cloud came.</p>
<img src="blank-grey.gif" data-src="calm.jpg"><img src="blank-grey.gif" data-src="ebb.jpg">"""
SHEET = (
    ".none { background: url(img/storm-unused.png) }\n@font-face { src: url(storm.woff) }\n/* url(storm-done.jpg) */"
)


@pytest.mark.parametrize(
    ("text", "kinds"),
    [
        ("storm-old", ["comment"]), ("storm-unused", ["unapplied"]), ("storm.woff", ["font"]), ("storm-done", ["comment"]),
        ("img/storm-", ["piece", "unapplied"]), ("storm-page", ["no_extension"]), ("storm/7", ["no_extension"]),
        ("storm.mp4", ["other_kind"]), ("storm.html", ["leads_elsewhere"]), ("kite/storm.jpg", ["no_place"]),
        ("blank-grey", ["placeholder"]),
        ("https://elsewhere.example/img/storm-unused.png", ["unapplied"]), ("storm-cloud", []), ("tempest", []),
    ],
)  # fmt: skip
def test_why_tells_what_was_passed_over(run: Program, tmp_path: Path, text: str, kinds: list[str]) -> None:
    (tmp_path / "p.html").write_text(PASSED)
    (tmp_path / "hall.css").write_text(SHEET)
    done = run("why", "p.html", text, "--format", "jsonl")
    assert (done.code, [row["kind"] for row in done.rows]) == (4, kinds)
    assert ("nothing here mentions" in done.err) is (not kinds)
    said = run("why", "p.html", text).out
    assert ("was passed over" in said) is bool(kinds)
    for words in ("red-ki", "RED-K\u00efTE", "ino's red"):
        assert run("why", "p.html", words).out.startswith("Picture 1  red-k\u00efte")
