"""Documents in PDF: what a browser prints is its page again, and others are read by where things stand."""

import subprocess
from email.message import EmailMessage
from io import BytesIO
from pathlib import Path
from zipfile import ZipFile

import pytest
from PIL import Image

from conftest import Program, Server, kite, picture
from pickcrate.errors import SourceError
from pickcrate.fetch.brought import Brought
from pickcrate.read.pdf import html as pdfhtml, layout as pdflayout
from pickcrate.read.pdf.page import Box, Leaf, Part, Piece
from pickcrate.read.recognise import Kind
from pickcrate.run.sources import apart
from pickcrate.run.sources.opened import OWN, Opened

LEADING = "https://kites.example/originals/red.jpg"


def pdf(*objects: bytes, trailer: bytes = b"") -> bytes:
    """Return a document of some objects, numbered from 1, the first its catalogue (ISO 32000-2, 7.5)."""
    written, places = bytearray(b"%PDF-1.7\n"), []
    for number, one in enumerate(objects, start=1):
        places.append(len(written))
        written += b"%d 0 obj\n%s\nendobj\n" % (number, one)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    head = b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1)
    ending = b"trailer<</Size %d/Root 1 0 R%s>>\nstartxref\n%d\n%%%%EOF"
    return bytes(written) + head + table + ending % (len(objects) + 1, trailer, len(written))


def stream(content: bytes, entries: bytes = b"") -> bytes:
    return b"<<%s/Length %d>>stream\n%s\nendstream" % (entries, len(content), content)


def image(octets: bytes, width: int, height: int, entries: bytes) -> bytes:
    return stream(octets, b"/Type/XObject/Subtype/Image/Width %d/Height %d%s" % (width, height, entries))


def sheet(content: bytes, *images: bytes, links: bytes = b"", trailer: bytes = b"", turn: int = 0) -> bytes:
    """Return a document of one page, with some images, I0 and on, and a font F."""
    named = b"".join(b"/I%d %d 0 R" % (number, number + 6) for number in range(len(images)))
    resources = b"<</Font<</F 5 0 R>>/XObject<<%s>>>>" % named
    page = b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 600 800]/Contents 4 0 R/Resources %s/Annots[%s]/Rotate %d>>"
    font = b"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
    pages = b"<</Type/Pages/Kids[3 0 R]/Count 1>>"
    catalogue = b"<</Type/Catalog/Pages 2 0 R>>"
    return pdf(catalogue, pages, page % (resources, links, turn), stream(content), font, *images, trailer=trailer)


def said(text: str, left: int, bottom: int, size: int = 10) -> bytes:
    return b"BT /F %d Tf 1 0 0 1 %d %d Tm (%s) Tj ET\n" % (size, left, bottom, text.encode("latin-1"))


def drawn(name: str, left: int, bottom: int, width: int, height: int) -> bytes:
    return b"q %d 0 0 %d %d %d cm /%s Do Q\n" % (width, height, left, bottom, name.encode())


def jpeg(seed: int) -> bytes:
    written = BytesIO()
    kite(seed).save(written, "JPEG")
    return written.getvalue()


_JPEG = b"/ColorSpace/DeviceRGB/BitsPerComponent 8/Filter/DCTDecode"
_PLAIN = b"/ColorSpace/DeviceRGB/BitsPerComponent 8"


def brochure() -> bytes:
    link = b"<</Type/Annot/Subtype/Link/Rect[50 500 250 650]/A<</S/URI/URI(%s)>>>>" % LEADING.encode()
    masked = _PLAIN + b"/SMask 9 0 R"
    return sheet(
        b"".join((
            drawn("I0", 50, 500, 200, 150), drawn("I1", 300, 500, 60, 40), drawn("I0", 50, 200, 20, 15),
            said("Kites of the coast", 50, 700, 24), said("Red Delta, made by", 50, 485), said("Ysolde Marrow", 50, 473),
            said("A sled in two colours", 365, 515), said("The museum keeps what the wind has left of them. " * 9, 50, 400),
        )),
        image(jpeg(1), 600, 400, _JPEG), image(bytes(range(24)), 4, 2, masked), b"null",
        image(bytes([255] * 4 + [0] * 4), 4, 2, b"/ColorSpace/DeviceGray/BitsPerComponent 8"),
        links=link,
    )  # fmt: skip


def test_a_page_without_structure_is_read_by_where_things_stand(run: Program, tmp_path: Path) -> None:
    (tmp_path / "brochure.pdf").write_bytes(brochure())
    rows = run("look", "brochure.pdf", "--format", "jsonl", "--as-shown").rows
    told = [(row["shown_url"].partition(".pdf/")[2], row["caption"], row["heading"], row["link"]) for row in rows]
    assert told == [
        ("page-1/picture.jpg", "Red Delta, made by Ysolde Marrow", "Kites of the coast", LEADING),
        ("page-1-2/picture.png", "A sled in two colours", "Kites of the coast", None),
    ]
    assert [(row["width"], row["height"]) for row in rows] == [(600, 400), (4, 2)]
    run("pack", "brochure.pdf", "--as-shown", "--crate", "b")
    crate = tmp_path / "crates" / "b"
    assert (crate / "Red Delta, made by Ysolde Marrow.jpg").read_bytes() == jpeg(1)  # as the document has it
    with Image.open(crate / "A sled in two colours.png") as made:
        assert made.mode == "RGBA"
        assert [made.getpixel((0, row)) for row in (0, 1)] == [(0, 1, 2, 255), (12, 13, 14, 0)]
    assert "2 there already" in run("pack", "brochure.pdf", "--as-shown", "--crate", "b").out


@pytest.mark.parametrize(
    ("turn", "matrix"), [(90, b"0 1 -1 0 600 0"), (180, b"-1 0 0 -1 600 800"), (270, b"0 -1 1 0 0 800")]
)
def test_pages_that_are_shown_turned(run: Program, tmp_path: Path, turn: int, matrix: bytes) -> None:
    """What is drawn turned on a page that is shown turned back stands upright for who reads it."""
    words = (
        said("Red Delta", 50, 485)
        + said("made by", 110, 485)
        + said("Ysolde Marrow", 50, 473)
        + said("Elsewhere", 300, 700)
    )
    content = b"q %s cm %s%s Q" % (matrix, drawn("I0", 50, 500, 200, 150), words)
    (tmp_path / "turned.pdf").write_bytes(sheet(content, image(jpeg(1), 600, 400, _JPEG), turn=turn))
    rows = run("look", "turned.pdf", "--format", "jsonl").rows
    assert [row["caption"] for row in rows] == ["Red Delta made by Ysolde Marrow"]


def test_what_a_browser_prints_leads_to_the_originals(run: Program, museum: str, tmp_path: Path) -> None:
    printed = [f"--print-to-pdf={tmp_path / 'catalogue.pdf'}", f"{museum}/catalogue.html"]
    subprocess.run(["chromium", "--headless", "--no-sandbox", *printed], check=True, capture_output=True)
    page = run("look", f"{museum}/catalogue.html", "--found-in", "img", "--furniture", "drop", "--format", "jsonl").rows
    rows = run("look", "catalogue.pdf", "--allow-private", "--furniture", "drop", "--format", "jsonl").rows
    names = ("alt", "caption", "url", "item", "link")
    told = {row["url"]: tuple(row[name] for name in names) for row in rows}
    linked = [row for row in page if row["link"] and row["url"] == row["link"]]
    assert len(linked) == 12
    assert {row["url"]: told[row["url"]] for row in linked} == {
        row["url"]: tuple(row[name] for name in names) for row in linked
    }
    number = next(row["number"] for row in rows if row["url"] == linked[0]["url"])
    assert "a private address" in run("why", "catalogue.pdf", number).out  # others write such documents


def part(kind: str, *held: Part | int, alt: str = "", spans: tuple[int, int] = (1, 1)) -> Part:
    return Part(kind, alt, spans, dict(enumerate(held)))


def at(left: float, bottom: float, width: float = 90, height: float = 10) -> Box:
    return Box(left, bottom, left + width, bottom + height)


STRUCTURES = {
    "a figure with its caption": (
        [Piece(at(0, 50, 60, 40), picture="p.jpg", mark=1, link="/red"), Piece(at(0, 30), "Red & blue", 10, mark=2)],
        [part("Figure", part("Figure", 1, alt="A kite"), part("Caption", 2))],
        '<figure><a href="/red"><img src="p.jpg" width=80 height=53 alt="A kite"></a>'
        "<figcaption>Red &amp; blue</figcaption></figure>",
    ),
    "a table, and a picture in it that says nothing": (
        [Piece(at(0, 50, 20, 20), picture="p.jpg"), Piece(at(30, 55), "Ino Hallas", 10, mark=3),
         Piece(at(130, 55), "1954", 10, mark=4)],
        [part("Table", part("Caption", part("TR")), part("TR", part("TH", 3), part("TD", 4, spans=(1, 2))))],
        '<table><caption><tr></tr></caption><tr><th><img src="p.jpg" width=27 height=27>Ino Hallas</th>'
        "<td colspan=2>1954</td></tr></table>",
    ),
    "a picture is of what follows it, not of what stands above": (
        [Piece(at(0, 50, 60, 40), picture="p.jpg"), Piece(at(0, 92), "Above", 10, mark=1),
         Piece(at(0, 20), "Below", 10, mark=2)],
        [part("P", 1), part("P", 2)],
        '<p>Above</p><p><img src="p.jpg" width=80 height=53>Below</p>',
    ),
    "heads and feet of sheets are left out, backgrounds kept": (
        [Piece(at(0, 500, 600, 300), picture="p.jpg"), Piece(at(0, 0), "Page 1 of 3"), Piece(at(0, 90), "Kites", 10, mark=1)],
        [part("NonStruct", part("H2", 1))],
        '<div><img src="p.jpg" width=800 height=400></div><div><h2>Kites</h2></div>',
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", STRUCTURES)
def test_structures(name: str) -> None:
    pieces, parts, html = STRUCTURES[name]
    assert pdfhtml.html_of([Leaf(pieces, dict(enumerate(parts)))]) == html


def test_what_goes_on_on_the_next_page_is_one() -> None:
    """Each page tells of the elements that it has something of, by their places in the whole."""
    first = Leaf(
        [Piece(at(0, 50), picture="p.jpg", mark=0), Piece(at(0, 20), "The end ", mark=1)],
        {2: Part("Art", held={0: part("P", 0)}), 3: part("P", 1)},
    )
    second = Leaf(
        [Piece(at(0, 700), "Red Delta", mark=0), Piece(at(0, 600), "The end", mark=1)],
        {2: Part("Art", held={1: part("H3", 0)}), 3: Part("P", held={1: 1})},
    )
    img = '<img src="p.jpg" width=120 height=13>'
    assert pdfhtml.html_of([first, second]) == f"<article><p>{img}</p><h3>Red Delta</h3></article><p>The end </p>"


def words(text: str, left: float, bottom: float, size: float = 10) -> Piece:
    return Piece(Box(left, bottom, left + len(text) * size / 2, bottom + size), text, size)


PICTURE = Piece(at(50, 500, 120, 90), picture="p.jpg")
IMG = '<img src="p.jpg" width=160 height=120>'
LAYOUTS = {
    "a caption below, on two lines": (
        [PICTURE, words("A long", 50, 485), words("dragon", 50, 474)],
        f"<figure>{IMG}<figcaption>A long dragon</figcaption></figure>",
    ),
    "runs of one word, and of two": (
        [PICTURE, words("T", 50, 485), words("am", 55, 485), words("Oke", 70, 485)],
        f"<figure>{IMG}<figcaption>Tam Oke</figcaption></figure>",
    ),
    "a card": (
        [PICTURE, words("12 crowns", 50, 485), words("Red Delta", 50, 462, 16), words("by Ino", 50, 440),
         words("Other things are told of in this line", 50, 400)],
        f"<article>{IMG}<p>12 crowns</p><h3>Red Delta</h3><p>by Ino</p></article>"
        "<p>Other things are told of in this line</p>",
    ),
    "no card, but the head of a text": (
        [PICTURE, words("A dragon", 50, 485), words("Of wind", 50, 460, 16), *(
            words("It has been told that wind", 50, 445 - 11 * line) for line in range(20))],
        f"<figure>{IMG}<figcaption>A dragon</figcaption></figure><h2>Of wind</h2>"
        f"<p>{' '.join(['It has been told that wind'] * 20)}</p>",
    ),
    "beside it, and nothing far off": (
        [PICTURE, words("A sled", 180, 540), words("Elsewhere", 400, 540)],
        f"<figure>{IMG}<figcaption>A sled</figcaption></figure><p>Elsewhere</p>",
    ),
    "nothing without pictures": ([words("Only words", 50, 500)], ""),
}  # fmt: skip


@pytest.mark.parametrize("name", LAYOUTS)
def test_layouts(name: str) -> None:
    pieces, html = LAYOUTS[name]
    assert pdflayout.html_of(Leaf(pieces)) == html


LOCKED = b"/Encrypt<</Filter/Standard/V 1/R 2/P -4/O(%s)/U(%s)>>/ID[(1)(1)]" % (b"o" * 32, b"u" * 32)


@pytest.mark.parametrize(
    ("octets", "words"),
    [
        (brochure()[:3000], "is a PDF that is damaged, or cut off\n  → get it once more"),
        (b"%PDF-1.7 and nothing else", "is a PDF that is damaged"),
        (sheet(b"", trailer=LOCKED), "is encrypted\n  → open it with its password, and print it into another PDF"),
    ],
)
def test_what_cannot_be_read_is_said(run: Program, tmp_path: Path, octets: bytes, words: str) -> None:
    (tmp_path / "bad.pdf").write_bytes(octets)
    done = run("look", "bad.pdf")
    assert (done.code, words in done.err) == (3, True), done.err


def test_a_folder_of_documents_is_read_as_far_as_it_can_be(run: Program, tmp_path: Path) -> None:
    (tmp_path / "papers").mkdir()
    (tmp_path / "papers" / "a.pdf").write_bytes(b"%PDF-1.7 and nothing else")
    (tmp_path / "papers" / "b.pdf").write_bytes(brochure())
    done = run("look", "papers")
    assert "is a PDF that is damaged" in done.out
    assert "2 pictures on 2 pages, 1 of them without any" in done.out
    (tmp_path / "papers" / "c.png").write_bytes(picture())
    assert "1 picture" in run("look", "papers").out  # a folder of pictures is that


def test_items_may_lead_to_documents(run: Program, web: Server) -> None:
    (web.www / "a.pdf").write_bytes(brochure())
    (web.www / "b.pdf").write_bytes(brochure()[:3000])
    (web.www / "red.png").write_bytes(picture())
    entry = "<li><a href={0}.pdf><img src=red.png?{0} width=90 height=120>Brochure {0}</a></li>"
    (web.www / "list.html").write_text(f"<ul>{entry.format('a')}{entry.format('b')}</ul>")
    done = run("look", f"{web.address}/list.html", "--items", "all", "--as-shown", "--format", "jsonl")
    told = [(row["url"].rpartition("/")[2], row["item"], row["caption"]) for row in done.rows if row["pick"]]
    assert told == [
        ("red.png?b", "Brochure b", None),
        ("picture.jpg", "Brochure a", "Red Delta, made by Ysolde Marrow"),
    ]


def packed(members: dict[str, bytes]) -> bytes:
    """Return a package of files, by their names."""
    octets = BytesIO()
    with ZipFile(octets, "w") as package:
        for name, held in members.items():
            package.writestr(name, held)
    return octets.getvalue()


def test_what_came_with_a_mail_is_looked_into(run: Program, tmp_path: Path) -> None:
    photos = packed({"fair/red delta.png": picture(), "fair/readme.txt": b"of the fair"})
    mail = EmailMessage()
    mail["Subject"], mail["From"] = "The fair", "ino@kites.example"
    mail.set_content("See what came.")
    sent = {
        "photos.zip": photos,
        "brochure.pdf": brochure(),
        "half.pdf": brochure()[:3000],
        "half.zip": photos[:60],
    }
    for name, octets in sent.items():
        mail.add_attachment(octets, "application", "octet-stream", filename=name)
    (tmp_path / "fair.eml").write_bytes(bytes(mail))
    done = run("look", "fair.eml", "--as-shown", "--format", "jsonl")
    captions = ("Red Delta, made by Ysolde Marrow", "A sled in two colours")
    told = {(row["name"], row["item"]) for row in done.rows}
    assert told == {("red delta", "The fair"), *zip(captions, captions, strict=True)}
    assert "half.pdf is a PDF that is damaged" in done.err
    assert "half.zip: the package cannot be read" in done.err


def test_a_package_of_documents_is_those_and_no_deeper(run: Program, tmp_path: Path) -> None:
    deep = packed({"inner.zip": packed({"deep.pdf": brochure(), "deep.txt": b""}), "other.txt": b""})
    (tmp_path / "papers.zip").write_bytes(packed({"a.pdf": brochure(), "deep.zip": deep, "read me.txt": b""}))
    rows = run("look", "papers.zip", "--as-shown", "--format", "jsonl").rows
    assert [row["name"] for row in rows] == ["Red Delta, made by Ysolde Marrow", "A sled in two colours"]


def bomb(levels: int, width: int) -> bytes:
    """Return a document whose page is drawn of groups of groups: ``width`` of them in each, ``levels`` deep."""
    groups = [
        stream(b"/G Do " * width, b"/Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<</XObject<</G %d 0 R>>>>" % (level + 6))
        for level in range(levels)
    ]  # fmt: skip
    page = b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</XObject<</G 5 0 R>>>>>>"
    pages = b"<</Type/Pages/Kids[3 0 R]/Count 1>>"
    return pdf(b"<</Type/Catalog/Pages 2 0 R>>", pages, page, stream(b"/G Do"), *groups, b"null")


def test_a_document_that_asks_for_too_much_work_is_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(apart, "_PATIENCE", 1.0)
    opened = Opened("bomb.pdf", Kind.PDF, bomb(24, 2), "file:///bomb.pdf", OWN)
    with pytest.raises(SourceError, match=r"bomb\.pdf asks for more work than a document does"):
        apart.read_pdf(opened, 1_000_000, Brought().keep)


def test_without_the_library_it_is_said_how_to_get_it(
    run: Program, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(apart, "find_spec", lambda _: None)
    (tmp_path / "brochure.pdf").write_bytes(brochure())
    assert "documents in PDF need pypdfium2\n  → pip install 'pickcrate[pdf]'" in run("look", "brochure.pdf").err
