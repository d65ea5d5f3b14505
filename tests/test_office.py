"""Documents, slides and sheets of office programs: their pictures, named by the words around them."""

import io
import struct
from collections.abc import Iterable
from html import escape
from pathlib import Path
from zipfile import ZipFile

import pytest
from openpyxl import Workbook
from openpyxl.drawing.image import Image as SheetImage

from conftest import Program, picture
from pickcrate.read.office.office import office_page
from pickcrate.read.office.opendocumentpage import opendocument_page

_R = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_SHEETS = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_TYPES = "http://schemas.openxmlformats.org/package/2006/content-types"
_BOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml"
_NAMES = f'xmlns:w="w" xmlns:p="p" xmlns:a="a" xmlns:wp="wp" xmlns:mc="mc" xmlns:v="v" xmlns:o="o" xmlns:r="{_R}"'
_ODF = 'xmlns:office="o" xmlns:text="t" xmlns:draw="d" xmlns:svg="s" xmlns:table="b" xmlns:presentation="p" xmlns:xlink="http://www.w3.org/1999/xlink"'


def relationships(*leads: tuple[str, str, str]) -> str:
    stated = (f'<Relationship Id="{name}" Type="{_R}/{kind}" Target="{target}"/>' for name, kind, target in leads)
    return f"<Relationships>{''.join(stated)}</Relationships>"


def words(text: str, style: str = "") -> str:
    styled = f'<w:pPr><w:pStyle w:val="{style}"/></w:pPr>' if style else ""
    return f"<w:p>{styled}<w:r><w:t>{text}</w:t></w:r></w:p>"


def drawn(name: str, said: str = "") -> str:
    return f'<w:r><w:drawing><wp:docPr name="Picture 1" descr="{said}"/><a:blip r:embed="{name}"/></w:drawing></w:r>'


def text(body: str, *leads: tuple[str, str, str]) -> dict[str, str]:
    return {
        "[Content_Types].xml": "<Types/>",
        "_rels/.rels": relationships(("a", "officeDocument", "word/document.xml")),
        "docProps/core.xml": "<c><title>Kites of the coast</title></c>",
        "word/styles.xml": f"<w:styles {_NAMES}><w:style w:styleId='berschrift1'><w:name w:val='heading 1'/></w:style>"
        "<w:style w:styleId='Beschriftung'><w:name w:val='caption'/></w:style></w:styles>",
        "word/document.xml": f"<w:document {_NAMES}><w:body>{body}</w:body></w:document>",
        "word/_rels/document.xml.rels": relationships(*leads),
    }


LEAD = ("r1", "image", "media/image1.png")


def row(*cells: str) -> str:
    return f"<w:tr>{''.join(f'<w:tc>{cell}</w:tc>' for cell in cells)}</w:tr>"


LETTER = text(
    words("The north mast", "berschrift1") + f"<w:p>{drawn('r1', 'A red delta')}</w:p>" + words("Figure 1: At dusk", "Beschriftung")
    + words("Kites", "berschrift1") + "<w:tbl>" + row(words("Photo"), words("Kite"), words("Maker"))
    + row(f"<w:p>{drawn('r2')}</w:p>", words("Blue Box"), words("Ysolde Marrow"))
    + row(f"<w:p><w:r><mc:AlternateContent><mc:Choice>{drawn('r3')}</mc:Choice><mc:Fallback><w:pict><v:imagedata r:id='r2'/></w:pict>"
          "</mc:Fallback></mc:AlternateContent></w:r></w:p>", words("Long Dragon"), words("Bram Oke")) + "</w:tbl>",
    *((f"r{n}", "image", f"media/image{n}.png") for n in (1, 2, 3)),
)  # fmt: skip
SLIDE = """<p:sld {names}><p:pic><p:cNvPr descr="{said}"/><a:blip r:embed="r1"/></p:pic><p:sp><p:ph type="title"/><a:p><a:r><a:t>{title}</a:t></a:r></a:p>
</p:sp><p:sp><a:p><a:r><a:t>Built by the sea</a:t></a:r></a:p></p:sp></p:sld>"""
SLIDES = {
    "[Content_Types].xml": "<Types/>",
    "_rels/.rels": relationships(("a", "officeDocument", "ppt/presentation.xml")),
    "ppt/presentation.xml": f"<p:presentation {_NAMES}><p:sldId r:id='s2'/><p:sldId r:id='s1'/></p:presentation>",
    "ppt/_rels/presentation.xml.rels": relationships(*((f"s{n}", "slide", f"slides/slide{n}.xml") for n in (1, 2))),
    **{f"ppt/slides/slide{n}.xml": SLIDE.format(names=_NAMES, said=f"kite {n}", title=title)
       for n, title in ((1, "Blue Box"), (2, "Red Delta"))},
    **{f"ppt/slides/_rels/slide{n}.xml.rels": relationships(("r1", "image", f"../media/image{n}.png")) for n in (1, 2)},
}  # fmt: skip


def framed(name: str, said: str = "") -> str:
    return f'<draw:frame><draw:image xlink:href="Pictures/{name}.png"/><svg:desc>{said}</svg:desc></draw:frame>'


def cells(*held: str) -> str:
    made = (f"<table:table-cell>{one if '<' in one else f'<text:p>{one}</text:p>'}</table:table-cell>" for one in held)
    return f"<table:table-row>{''.join(made)}</table:table-row>"


OPEN_TEXT = (
    "<text:h text:outline-level='1'>The north mast</text:h><text:p><draw:frame><draw:text-box><text:p>"
    f"{framed('image1', 'A red delta')}<text:s/>Figure 1: At dusk</text:p></draw:text-box></draw:frame></text:p>"
    f"<table:table>{cells('Photo', 'Kite')}{cells(framed('image2'), 'Blue Box')}{cells(framed('image3'), 'Long Dragon')}</table:table>"
)
OPEN_SLIDES = "".join(
    f"<draw:page><draw:frame presentation:class='title'><draw:text-box><text:p>{title}</text:p></draw:text-box></draw:frame>"
    f"{framed(name)}</draw:page>"
    for title, name in (("Red Delta", "image1"), ("Blue Box", "image2"))
)


def write(path: Path, members: dict[str, str], pictures: Iterable[str]) -> None:
    with ZipFile(path, "w") as package:
        for name, part in members.items():
            package.writestr(name, part)
        for place, name in enumerate(pictures):
            package.writestr(name, picture("PNG", (300 + place, 200)))


def told(run: Program, name: str) -> list[tuple[str, str | None, str | None]]:
    done = run("look", name, "--format", "jsonl")
    return [(row["url"].rpartition("/")[2], row["item"], row["alt"]) for row in done.rows]


def test_texts_and_slides_are_pages(run: Program, tmp_path: Path) -> None:
    images = [f"image{n}.png" for n in (1, 2, 3)]
    write(tmp_path / "letter.docx", LETTER, [f"word/media/{name}" for name in images])
    rows = run("look", "letter.docx", "--format", "jsonl").rows
    assert [(row["url"].rpartition("/")[2], row["item"], row["alt"], row["caption"]) for row in rows] == [
        ("image1.png", "The north mast", "A red delta", "Figure 1: At dusk"),
        ("image2.png", "Blue Box", None, None), ("image3.png", "Long Dragon", None, None)]  # fmt: skip
    assert (rows[1]["columns"], rows[1]["heading"]) == ({"Kite": "Blue Box", "Maker": "Ysolde Marrow"}, "Kites")
    run("pack", "letter.docx", "--name", "{item}")
    assert (tmp_path / "crates" / "Kites of the coast" / "Blue Box.png").exists()
    write(tmp_path / "talk.pptx", SLIDES, [f"ppt/media/{name}" for name in images])
    assert told(run, "talk.pptx") == [
        ("image2.png", "Red Delta", "kite 2"), ("image1.png", "Blue Box", "kite 1"), ("image3.png", None, None)
    ]  # fmt: skip
    for name, kind, body in (("t.odt", "text", OPEN_TEXT), ("p.odp", "presentation", OPEN_SLIDES)):
        content = f"<office:document-content {_ODF}><office:body>{body}</office:body></office:document-content>"
        members = {"mimetype": f"application/vnd.oasis.opendocument.{kind}", "content.xml": content}
        write(tmp_path / name, members, [f"Pictures/{image}" for image in images])
    assert told(run, "t.odt") == [
        ("image1.png", None, "A red delta"), ("image2.png", "Blue Box", None), ("image3.png", "Long Dragon", None)
    ]  # fmt: skip
    assert [item for _, item, _ in told(run, "p.odp")] == ["Red Delta", "Blue Box", None]


@pytest.mark.parametrize(
    ("said", "alt"),
    [
        ("C:\\Users\\ino\\Red delta at dusk.jpg", "Red delta at dusk"),
        ("\\\\store\\kites\\box.PNG", "box"),
        ("file:///C:/kites/box.png", "box"),
        ("A kite in the sky\n\nDescription automatically generated with medium confidence", "A kite in the sky"),
        ("A kite\n\nAI-generated content may be incorrect.", "A kite"),
        ("C: the third kite", "C: the third kite"),
    ],
)
def test_what_a_drawing_is_described_by(said: str, alt: str) -> None:
    parts = text(f"<w:p>{drawn('r1', escape(said))}</w:p>", LEAD)
    page = office_page(lambda name: parts.get(name, "").encode()) or ""
    assert f'alt="{alt}"' in page


def test_what_all_pages_have_in_common_is_furniture(run: Program, tmp_path: Path) -> None:
    edge = f"<w:p>{drawn('r1')}</w:p>"
    leads = (LEAD, ("h1", "header", "header1.xml"), ("f1", "footer", "footer1.xml"))
    letter = text(f"<w:p>{drawn('r1', 'A red delta')}</w:p>", *leads)
    for name, root, shown in (("header1", "hdr", "image2"), ("footer1", "ftr", "image3")):
        letter[f"word/{name}.xml"] = f"<w:{root} {_NAMES}>{edge}</w:{root}>"
        letter[f"word/_rels/{name}.xml.rels"] = relationships(("r1", "image", f"media/{shown}.png"))
    write_small(tmp_path / "letter.docx", letter, "word/media", "docProps/thumbnail.png")
    talk = dict(SLIDES)
    talk["ppt/_rels/presentation.xml.rels"] = relationships(
        ("s1", "slide", "slides/slide1.xml"), ("m", "slideMaster", "m/m.xml")
    )
    talk["ppt/m/_rels/m.xml.rels"] = relationships(
        ("r1", "image", "../media/image2.png"), ("l", "slideLayout", "../l/l.xml")
    )
    talk["ppt/l/_rels/l.xml.rels"] = relationships(("r1", "image", "../media/image3.png"))
    for part, root in (("m/m", "sldMaster"), ("l/l", "sldLayout")):
        talk[f"ppt/{part}.xml"] = f"<p:{root} {_NAMES}><p:pic><a:blip r:embed='r1'/></p:pic></p:{root}>"
    write_small(tmp_path / "talk.pptx", talk, "ppt/media", "docProps/thumbnail.jpeg")
    content = f"<office:document-content {_ODF}><office:body><text:p>{framed('image1')}</text:p></office:body></office:document-content>"
    master = f"<s:header><text:p>{framed('image2')}</text:p></s:header><s:footer><text:p>{framed('image3')}</text:p></s:footer>"
    styles = f"<s:styles xmlns:s='s' {_ODF}><s:master-page>{master}</s:master-page></s:styles>"
    members = {"mimetype": "application/vnd.oasis.opendocument.text", "content.xml": content, "styles.xml": styles}
    write_small(tmp_path / "open.odt", members, "Pictures", "Thumbnails/thumbnail.png")
    for name in ("letter.docx", "talk.pptx", "open.odt"):
        done = run("look", name, "--format", "jsonl")
        seen = [(row["url"].rpartition("/")[2].partition(".")[0], row["furniture"] is not None) for row in done.rows]
        assert seen == [("image1", False), ("image2", True), ("image3", True), ("thumbnail", True)]
    write(tmp_path / "bare.docx", text(words("No picture in the text")), ["word/media/image1.png"])
    assert run("look", "bare.docx").out.splitlines()[-1] == "1 picture on 1 page"
    (tmp_path / "empty.html").write_text("<title>Closed</title>")
    done = run("look", "empty.html", "letter.docx", "bare.docx")
    assert "on 3 pages, 1 of them without any" in done.out


def write_small(path: Path, members: dict[str, str], folder: str, preview: str) -> None:
    """Write a document with a picture, two small ones, and a preview."""
    with ZipFile(path, "w") as package:
        for name, part in members.items():
            package.writestr(name, part)
        for number, side in ((1, 400), (2, 120), (3, 121)):
            package.writestr(f"{folder}/image{number}.png", picture("PNG", (side, 100)))
        package.writestr(preview, picture("JPEG" if preview.endswith("jpeg") else "PNG", (256, 192)))


def test_encrypted_documents_say_so(run: Program, tmp_path: Path) -> None:
    manifest = "<m:manifest xmlns:m='m'><m:file-entry m:full-path='content.xml'><m:encryption-data/></m:file-entry></m:manifest>"
    locked = {
        "mimetype": "application/vnd.oasis.opendocument.text",
        "content.xml": "\x07",
        "META-INF/manifest.xml": manifest,
    }
    write(tmp_path / "locked.odt", locked, ())
    done = run("look", "locked.odt")
    assert "it is encrypted: open it with its password, and save it without one" in done.out
    sector = struct.pack("<I", 1)
    header = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1".ljust(30, b"\0") + b"\x09\0" + bytes(16) + sector
    compound = header.ljust(1_024, b"\0") + "Root Entry\0EncryptedPackage".encode("utf-16-le").ljust(512, b"\0")
    for octets, words in (
        (compound, "is an encrypted document"),
        (header.ljust(2_048, b"\0"), "of an older office program"),
    ):
        (tmp_path / "locked.docx").write_bytes(octets)
        done = run("look", "locked.docx")
        assert (done.code, words in done.err) == (3, True)


def test_pictures_on_a_sheet_are_named_by_their_rows(run: Program, tmp_path: Path) -> None:
    book = Workbook()
    sheet = book.create_sheet("Kites", 0)
    sheet.append(["Kite", "Maker", "Photo"])
    for place, (kite, maker) in enumerate((("Red Delta", "Ino"), ("Blue Box", "Ysolde")), 2):
        sheet.append([kite, maker])
        drawing = SheetImage(io.BytesIO(picture("PNG", (300 + place, 200))))
        sheet.add_image(drawing, f"C{place}")
    book.save(tmp_path / "kites.xlsx")
    rows = run("look", "kites.xlsx", "--format", "jsonl").rows
    assert [(row["item"], row["columns"]["Maker"], row["width"]) for row in rows] == [
        ("Red Delta", "Ino", 302), ("Blue Box", "Ysolde", 303)]  # fmt: skip


def test_pictures_that_are_the_values_of_cells_are_named_by_their_rows(run: Program, tmp_path: Path) -> None:
    def cells(number: int, kite: str, maker: str, photo: str) -> str:
        said = (
            f'<c r="{column}{number}" t="str"><v>{text}</v></c>'
            for column, text in zip("AB", (kite, maker), strict=True)
        )
        return f'<row r="{number}">{"".join(said)}{photo}</row>'

    photo = '<c r="C{0}" t="e" vm="{1}"><v>#VALUE!</v></c>'
    rows = cells(1, "Kite", "Maker", "") + cells(2, "Red Delta", "Ino", photo.format(2, 2))
    rows += cells(3, "Blue Box", "Ysolde", photo.format(3, 1)) + cells(4, "Lost", "Bram", photo.format(4, 3))
    rel = "http://schemas.microsoft.com/office/2017/06/relationships"
    parts = ("metadata", "richData/rdrichvalue", "richData/rdrichvaluestructure", "richData/richValueRel")
    key = '<k n="_rvRel:LocalImageIdentifier" t="i"/><k n="CalcOrigin" t="i"/>'
    write(tmp_path / "kites.xlsx", {
        "[Content_Types].xml": f'<Types xmlns="{_TYPES}"><Override PartName="/xl/workbook.xml" ContentType="{_BOOK}.sheet.main+xml"/></Types>',
        "_rels/.rels": relationships(("a", "officeDocument", "xl/workbook.xml")),
        "xl/workbook.xml": f'<workbook xmlns="{_SHEETS}" xmlns:r="{_R}"><sheets><sheet name="Kites" sheetId="1" r:id="s"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": relationships(("s", "worksheet", "worksheets/sheet1.xml"), *((p, rel, f"{p}.xml") for p in parts)),
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{_SHEETS}"><sheetData>{rows}</sheetData></worksheet>',
        "xl/metadata.xml": f'<metadata xmlns="{_SHEETS}"><metadataTypes><metadataType name="XLDAPR"/><metadataType name="XLRICHVALUE"/></metadataTypes>'
        '<futureMetadata name="XLRICHVALUE"><bk><ext><rvb i="0"/></ext></bk><bk><ext><rvb i="1"/></ext></bk></futureMetadata>'
        '<valueMetadata><bk><rc t="2" v="0"/></bk><bk><rc t="2" v="1"/></bk><bk><rc t="2" v="9"/></bk></valueMetadata></metadata>',
        "xl/richData/rdrichvalue.xml": "<d><rv s='0'><v>1</v><v>5</v></rv><rv s='1'><v>0</v><v>5</v><v>At dusk</v></rv></d>",
        "xl/richData/rdrichvaluestructure.xml": f"<d><s t='_localImage'>{key}</s><s t='_localImage'>{key}<k n='Text' t='s'/></s></d>",
        "xl/richData/richValueRel.xml": f"<d xmlns:r='{_R}'><rel r:id='i1'/><rel r:id='i2'/></d>",
        "xl/richData/_rels/richValueRel.xml.rels": relationships(*((f"i{n}", "image", f"../media/image{n}.png") for n in (1, 2))),
    }, [f"xl/media/image{n}.png" for n in (1, 2)])  # fmt: skip
    found = run("look", "kites.xlsx", "--format", "jsonl").rows
    assert [(row["item"], row["columns"].get("Maker"), row["alt"], row["url"].rpartition("/")[2]) for row in found] == [
        ("Red Delta", "Ino", "At dusk", "image1.png"), ("Blue Box", "Ysolde", None, "image2.png")]  # fmt: skip


def test_what_is_nested_or_broken_costs_little() -> None:
    deep = text(
        "<w:p><w:r><w:drawing><w:txbxContent>" * 30 + drawn("r1") + "</w:txbxContent></w:drawing></w:r></w:p>" * 30
    )
    assert len(office_page(lambda path: deep.get(path, "").encode()) or "") < 2_000
    slides = SLIDES | {
        "ppt/presentation.xml": f"<p:presentation {_NAMES}>" + '<p:sldId r:id="s1"/>' * 500 + "</p:presentation>",
        "ppt/slides/slide1.xml": f"<p:sld {_NAMES}>{'<p:sp><a:p><a:t>Kite</a:t></a:p>' * 100}",
    }
    assert (
        len(office_page(lambda path: slides.get(path, "").encode()) or "") < 10_000
    )  # each slide once, and each shape
    cell = '<table:table><table:table-row><table:table-cell table:number-columns-repeated="16000">'
    content = f"<x {_ODF}>{cell * 30}{framed('a')}"
    assert len(opendocument_page(lambda path: content.encode() if path == "content.xml" else b"") or "") < 100_000
    assert office_page(lambda path: b"<a" if path else b"") is None
    assert opendocument_page(lambda _: b"") is None
