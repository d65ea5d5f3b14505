"""The table of resizing conventions: every row by its own examples, and addresses that must stay as they are."""

import tomllib
from importlib.resources import files

import pytest

import pickcrate
from pickcrate.fullsize.address import Rule, rules
from pickcrate.fullsize.query import strip

TABLE = tomllib.loads(files("pickcrate.fullsize").joinpath("rules.toml").read_text(encoding="utf-8"))["rule"]
ROWS = list(zip(TABLE, rules(), strict=True))


@pytest.mark.parametrize(("row", "rule"), ROWS, ids=[row["name"] for row in TABLE])
def test_a_row_does_what_its_examples_say(row: dict[str, list[list[str]]], rule: Rule) -> None:
    assert row["example"]
    assert row["counter"]
    for shown, larger in row["example"]:
        assert rule.apply(shown) == larger
        assert larger in [candidate.url for candidate in pickcrate.candidates(shown)]
    for address in map(str, row["counter"]):
        assert rule.apply(address) in {None, address}


def test_names_are_told_apart_and_sure_rows_lead() -> None:
    assert len({row["name"] for row in TABLE}) == len(TABLE)
    (best, *others) = pickcrate.candidates("https://galewick.example/wp-content/uploads/2026/03/red-300x200.jpg?w=300")
    assert best.url == "https://galewick.example/wp-content/uploads/2026/03/red.jpg"
    assert best.evidence.startswith("by its address: ")
    assert [c.url for c in others][-1].endswith("red-300x200.jpg") or others


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
    ("amp;w=300&amp;h=200", ""),
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
    "query",
    [
        "w=300&s=0a1b2c3d4e5f",
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
