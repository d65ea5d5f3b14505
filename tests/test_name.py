"""Names: patterns, fallbacks, and what three systems allow."""

from datetime import date

import pytest
from hypothesis import given, strategies as st

from pickcrate.addresses.stems import stem
from pickcrate.errors import UsageError
from pickcrate.name import LONGEST_NAME, Naming, finish, key, legal, parse_shelf, patterns, shape
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.reference import Reference, Words

DAY = date(2026, 3, 20)


def image(url: str = "https://galewick.example/red-delta.jpg", **words: str) -> Image:
    shown = Reference(
        url, url, "https://galewick.example/hall.html", FoundIn.IMG, "img", "src", 0, words=Words(**words)
    )
    return Image(7, "hall", shown, (shown,), page_title="The hall", extra=(("Shelf mark", "K/12"),))


@pytest.mark.parametrize(
    ("texts", "words", "expected"),
    [
        ((), {}, "red-delta"),
        (("{alt}",), {"alt": "Kites: a / b\\c \n d?"}, "Kites - a - b-c d-"),
        (("{n:03} {alt}",), {"alt": "A kite"}, "007 A kite"),
        (("{alt}", "{caption}", "{stem}"), {"caption": "Old: red"}, "Old - red"),
        (("{alt}",), {"alt": "  "}, "red-delta"),
        (("{alt}",), {"alt": " . / -"}, "red-delta"),
        (("{alt}", "{caption}"), {"alt": "undefined", "caption": "N/A"}, "red-delta"),
        (("{alt}",), {"alt": "_images/Ebb.sled.png"}, "Ebb.sled"),
        (("{alt}",), {"alt": "image\\sled.gif"}, "sled"),
        (("{site} {date} {page}",), {}, "galewick.example 2026-03-20 The hall"),
        (("{folder}",), {"url": "https://galewick.example/hall/1912%20kites/large.jpg"}, "1912 kites"),
        (("{column[Shelf mark]}",), {}, "K-12"),
        (("{column[nothing]}", "{k}"), {}, "1"),
        (("{{{stem}}}",), {}, "{{red-delta}}"),  # braces stay doubled until the file fills in late fields
        (("{stem:.3} {width:05}",), {}, "red {width:05}"),
        (("{alt}",), {"alt": "con"}, "_con"),
        (("{alt}",), {"alt": "../../etc/passwd"}, "-..-etc-passwd"),
        (("{alt}",), {"alt": "a\u202egpj.exe\x00\x1b[1m"}, "agpj.exe[1m"),
        (("{alt}",), {"alt": "CAFE\u0301 "}, "CAF\u00c9"),
    ],
)
def test_spell(texts: tuple[str, ...], words: dict[str, str], expected: str) -> None:
    assert Naming(patterns(texts), DAY).spell(image(**words)) == expected


PLAIN = [
    (("{n:03} {alt}",), "Caf\u00e9 M\u00fcller\u2019s \u2013 Stra\u00dfe (1912)!", "007-cafe-mullers-strasse-1912"),
    (("{n}_({alt:.6}) {width}x{height}",), "Red Delta", "7_-red-de-{width:}x{height:}"),
    (("{alt}",), "\u0417\u043c\u0435\u0439 \u2014 \u51e7\u3001\u7a7a", "\u0437\u043c\u0435\u0439-\u51e7-\u7a7a"),  # of no Latin letters
    (("{alt}",), "\u0939\u093f\u0928\u094d\u0926\u0940", "\u0939\u093f\u0928\u094d\u0926\u0940"),  # their vowels are marks
    (("{alt}", "{stem}"), "?!", "red-delta"),
]  # fmt: skip


@pytest.mark.parametrize(("texts", "alt", "expected"), PLAIN)
def test_plain_names(texts: tuple[str, ...], alt: str, expected: str) -> None:
    naming = Naming(patterns(texts), DAY, parse_shelf("{heading}/{alt}!"), is_plain=True)
    names = [naming.spell(image(alt=alt, heading="Two: new"), k).rpartition("/") for k in (1, 3)]
    assert [name for *_, name in names] == [expected, f"{expected}-3"]
    assert {shelf.partition("/")[0] for shelf, *_ in names} == {"two-new"}
    taken = {naming.spell(image(alt=alt), k) for k in (1, 2)}
    assert naming.next_free(image(alt=alt), taken.__contains__) == naming.spell(image(alt=alt), 3)


@pytest.mark.parametrize(
    ("url", "words", "expected"),
    [
        ("large.jpg", {"alt": "Red delta"}, "Red delta"),
        ("large.jpg", {"alt": "undefined", "title": "null", "caption": "Red delta"}, "Red delta"),
        ("hqdefault.jpg", {"alt": "photo", "title": "Red delta"}, "Red delta"),
        ("image.php?kite=7&w=150", {"alt": "Red delta"}, "Red delta"),
        ("image.php?kite=7&w=150", {}, "image kite-7 w-150"),
        ("image.php?src=/hall/blue.jpg", {"alt": "Red delta"}, "blue"),
        ("blue.jpg?w=150", {"alt": "Red delta"}, "blue"),
        ("8f3a9c1be77d4.jpg", {"alt": "Red delta"}, "Red delta"),
        ("51aBcDeFgHL.jpg", {"alt": "Red delta"}, "Red delta"),
        ("TutImgRadA0103.jpg", {"alt": "Red delta"}, "TutImgRadA0103"),
        ("AP1GczN_x-9kQ2bYz0LmT7=w1200-h800", {"alt": "Red delta"}, "Red delta"),
        ("lh3Ab9Xk2Qm7Zp4Lw8Rt1Yv6=s0", {"alt": "Red delta"}, "Red delta"),
        ("XRJNC6XQy4FZworHxsQKe.jpg", {"alt": "Red delta"}, "Red delta"),
        ("9156bd04ly1gzofhomcm4j20zk0p5jrw.jpg", {"alt": "Red delta"}, "Red delta"),
        ("f5a572920ee8e7688512409b914aa26d09404ea62ee34-jRa0qo_fw658.jpg", {"alt": "Red delta"}, "Red delta"),
        ("f5a572920ee8e7688512409b914aa26d-blue2.jpg", {"alt": "Red delta"}, "f5a572920ee8e7688512409b914aa26d-blue2"),
        ("IMG20240512at1030am2xwide.jpg", {"alt": "Red delta"}, "IMG20240512at1030am2xwide"),
        ("TheQuickKite2026Jumps4Times.jpg", {"alt": "Red delta"}, "TheQuickKite2026Jumps4Times"),
        ("P1040234.jpg", {"alt": "Red delta"}, "Red delta"),
        ("P1040234.jpg", {"alt": "P1040234.JPG", "caption": "IMG_2041"}, "P1040234"),
        ("DSC_0042.jpg", {"title": "Red delta"}, "Red delta"),
        ("PXL_20260512_101112345.jpg", {"alt": "Red delta"}, "Red delta"),
        ("WhatsApp%20Image%202026-05-12%20at%2010.11.12.jpeg", {"alt": "Red delta"}, "Red delta"),
        ("20260512_101112(1).jpg", {"alt": "Red delta"}, "Red delta"),
        ("20260512-storm.jpg", {"alt": "Red delta"}, "20260512-storm"),
        ("IMG_red.jpg", {"alt": "Red delta"}, "IMG_red"),
        ("1600x1200x3.jpg", {"alt": "Red delta"}, "1600x1200x3"),
        ("large.jpg", {}, "large"),
        ("images/large.jpg", {}, "large"),
        ("images/spacer.gif", {"alt": "Red delta"}, "spacer"),
        ("hall/3337/640x360.jpg", {}, "3337-640x360"),
        ("hall/3337/640x360.jpg", {"alt": "Red delta"}, "Red delta"),
        ("849/medium_16-9.jpg", {"alt": "Red delta"}, "Red delta"),
        ("849/photo-640x360.jpg", {}, "849-photo-640x360"),
        ("kite_16-9.jpg", {"alt": "Red delta"}, "kite_16-9"),
        ("ac796a52db3f16bbdb6557d3d89d1c5a.jpg", {"alt": "Red delta"}, "Red delta"),
        ("ac796a52db3f16bbdb6557d3d89d1c5a.jpg", {}, "ac796a52db3f16bbdb6557d3d89d1c5a"),
        ("150_150_29af8fad-f94a-4174-b59d-4ab390fc5ff9.jpg", {"alt": "Red delta"}, "Red delta"),
        ("ac796a52db3f16bbdb6557d3d89d1c5a-kite.jpg", {"alt": "Red"}, "ac796a52db3f16bbdb6557d3d89d1c5a-kite"),
        ("20261127143512345678.jpg", {"alt": "Red delta"}, "20261127143512345678"),
        ("image-7.jpg", {"alt": "Red delta"}, "image-7"),
        ("big-kite.jpg", {"alt": "Red delta"}, "big-kite"),
    ],
)
def test_a_name_that_any_picture_may_have_gives_way_to_words(url: str, words: dict[str, str], expected: str) -> None:
    named, stemmed = Naming((), DAY), Naming(patterns(["{stem}"]), DAY)
    assert named.spell(image(f"https://galewick.example/{url}", **words)) == expected
    assert stemmed.spell(image("https://galewick.example/large.jpg", alt="Red delta")) == "large"


def test_equal_numbers_are_told_apart_by_words() -> None:
    taken = {"1", "1 Red delta", "1 Red delta 2", "2", "2 2"}
    naming = Naming((), DAY)
    assert naming.next_free(image("https://g.example/a/1.jpg", alt="Storm kite"), taken.__contains__) == "1 Storm kite"
    assert naming.next_free(image("https://g.example/a/1_1.jpg", alt="Red"), {"1_1"}.__contains__) == "1_1 Red"
    assert naming.next_free(image("https://g.example/b/1.jpg", alt="Red delta"), taken.__contains__) == "1 Red delta 3"
    assert naming.next_free(image("https://g.example/c/2.jpg", alt="2"), taken.__contains__) == "2 3"
    own = Naming(patterns(["{stem}"]), DAY)
    assert own.next_free(image("https://g.example/a/1.jpg", alt="Storm kite"), taken.__contains__) == "1 2"


def test_equal_names_are_numbered_and_late_fields_filled_in() -> None:
    plain, own = Naming((), DAY), Naming(patterns(["{alt}-{k}"]), DAY)
    assert [plain.spell(image(), k) for k in (1, 2, 11)] == ["red-delta", "red-delta 2", "red-delta 11"]
    assert own.spell(image(alt="x"), 2) == "x-2"
    ended = [
        Naming(patterns([text]), DAY).spell(image(alt="x"), 1)
        for text in ("{alt}.JPG", "{alt}.{type}", "{alt}.v2", ".png")
    ]
    assert ended == ["x", "x", "x.v2", "png"]  # the bytes say the extension
    known = Measures(Measure(800, Grade.ACTUAL), Measure(600, Grade.ACTUAL), type=Measure("jpeg", Grade.ACTUAL))
    assert finish("{{a}} {width:05}x{height} {shape} {type}", known) == "{a} 00800x600 landscape jpeg.jpg"
    assert [shape(100, 98), shape(98, 100), shape(100, 90), shape(90, 100)] == [
        "square",
        "square",
        "landscape",
        "portrait",
    ]


@pytest.mark.parametrize(
    "text",
    ["{nothing}", "{alt.x}", "{alt[0]}", "{alt!r}", "{n:{k}}", "{n:zz}", "{", "a/b", "{alt:d}", "{k:>99999999999}"],
)
def test_bad_patterns_say_so(text: str) -> None:
    with pytest.raises(UsageError) as caught:
        patterns([text])
    assert "--name" in caught.value.message
    assert "--name" in caught.value.hint


@pytest.mark.parametrize(
    ("url", "expected"),
    [
        ("https://g.example/a/red%20delta.jpg?x=1", "red delta"),
        ("https://g.example/a/kite.jpg.webp", "kite"),
        ("https://g.example/a/poster-1920x1080", "poster-1920x1080"),
        ("https://g.example/v1.2", "v1.2"),
        ("https://g.example/view.php?id=7&s=l", "view id-7 s-l"),
        ("https://g.example/_next/image?url=%2Fhall%2FIMG_2041.jpg&w=640&q=75", "IMG_2041"),
        ("https://g.example/thumb.php?w=300&src=/hall/red.delta.png", "red.delta"),
        ("https://g.example/image?url=https%3A%2F%2Fh.example%2Fhall.webp%3Fv%3D1", "hall"),
        ("https://g.example/image.php?page=hall.html", "image page-hall.html"),
        ("https://g.example/red.jpg?next=blue.jpg", "red"),
        ("https://g.example/view?id=7", "view"),
        ("https://g.example/?id=7", "id-7"),
        ("https://g.example/", "g.example"),
        ("https://g.example/hall/red-delta.jpg/large", "red-delta"),
        ("https://g.example/7/red-delta.jpg/medium.png", "red-delta"),
        ("https://g.example/get/red-delta.jpg/12", "red-delta"),
        ("https://g.example/red-delta.jpg/jcr:content/renditions/original", "red-delta"),
        ("https://g.example/red-delta.jpg;jsessionid=A1.node2", "red-delta"),
        ("https://g.example/kites/red-delta/", "red-delta"),
        ("https://g.example/get.php?name=Red+delta", "get name-Red delta"),
        ("https://g.example/hall/large.jpg", "large"),
        ("https://g.example/a/red.3f2a1c9d.jpg", "red"),
        ("https://g.example/a/red-delta-9c1e7a2f04b8.webp", "red-delta"),
        ("https://g.example/a/kite_3f2a1c9d-1b2c-4d3e-8f4a-1234567890ab.png", "kite"),
        ("https://g.example/a/3f2a1c9d-1b2c-4d3e-8f4a-1234567890ab.png", "3f2a1c9d-1b2c-4d3e-8f4a-1234567890ab"),
        ("https://g.example/a/hall-b1912045.jpg", "hall-b1912045"),
        ("https://g.example/a/kite-20260512.jpg", "kite-20260512"),
        ("https://g.example/face/8f3a?d=https%3A%2F%2Fg.example%2Fdefault.jpg", "8f3a"),
        ("https://g.example/%FCber.png", "über"),
        ("file:///home/maud/%C3%BCber.png", "über"),
    ],
)
def test_stem(url: str, expected: str) -> None:
    assert stem(url) == expected


@given(st.text(max_size=400))
def test_names_are_legal_everywhere(text: str) -> None:
    name = legal(text)
    assert name
    assert len(name.encode()) <= LONGEST_NAME
    assert not set(name) & set('<>:"/\\|?*\0\n\r\t')
    assert name == name.strip(" .")
    assert name.partition(".")[0].rstrip().upper() not in {"CON", "NUL", "AUX", "PRN", "COM1", "LPT9", "CLOCK$"}
    assert key(name) == key(name.swapcase()) or not name.isascii()


@pytest.mark.parametrize("name", ["NUL", "nul .txt", "CLOCK$", "com1.tar.gz", "CRATE.csv", "failed.csv", "sheet.html"])
def test_names_that_are_taken(name: str) -> None:
    assert legal(name) == f"_{name}"
