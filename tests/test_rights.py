"""Whose a picture is, and under which licence: what files, pages and captions say, each with who says it."""

import json
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from PIL import Image, PngImagePlugin

from conftest import Program, Server, picture
from pickcrate.credits import Credit, as_html, as_markdown
from pickcrate.media.embedded import embedded
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.rights import claims_of_caption, claims_of_fields, claims_of_file
from pickcrate.values.claims import Aspect, Claim, Claimant, Rights
from pickcrate.values.licences import licence_address, licence_name

LICENCES = {
    "https://creativecommons.org/licenses/by-nc-sa/4.0/": "CC-BY-NC-SA-4.0",
    "http://www.creativecommons.org/licenses/by/3.0/deed.en": "CC-BY-3.0",
    "https://creativecommons.org/licenses/by-sa/3.0/de/": "CC-BY-SA-3.0-DE",
    "https://creativecommons.org/licenses/by/3.0/fr/": "CC BY 3.0 FR",
    "https://creativecommons.org/publicdomain/zero/1.0/": "CC0-1.0",
    "https://creativecommons.org/publicdomain/mark/1.0/": "CC-PDM-1.0",
    "https://spdx.org/licenses/MIT.html": "MIT",
    "https://www.gnu.org/licenses/fdl-1.3.html": "GFDL-1.3",
    "https://rightsstatements.org/vocab/InC/1.0/": "In Copyright",
    "https://kites.example/terms": "",
    "CC BY-SA 4.0": "CC-BY-SA-4.0",
    "CC-BY 2.0": "CC-BY-2.0",
    "CC0": "CC0-1.0",
    "Creative Commons Attribution-NonCommercial-ShareAlike 4.0 International": "CC-BY-NC-SA-4.0",
    "Creative Commons Attribution 4.0": "CC-BY-4.0",
    "Creative Commons Namensnennung - Nicht kommerziell - Keine Bearbeitungen 4.0 International": "CC-BY-NC-ND-4.0",
    "Creative Commons Reconocimiento-CompartirIgual 3.0": "CC-BY-SA-3.0",
    "Licence Creative Commons BY-SA 4.0": "CC-BY-SA-4.0",
    "Public Domain Mark 1.0": "CC-PDM-1.0",
    "All rights reserved": "All rights reserved",
    "cc-by-nc": "CC BY-NC",
    "Red Delta, CC BY-SA": "CC BY-SA",
    "sent with cc by mail": "sent with cc by mail",
}


@pytest.mark.parametrize(("said", "name"), LICENCES.items())
def test_known_licences_have_short_names(said: str, name: str) -> None:
    assert licence_name(said) == name
    if name.startswith("CC-BY") and said.startswith("http"):
        assert licence_name(licence_address(name)) == name


CAPTIONS = [
    ("The red delta. Photo: Ilse Marrow", "Ilse Marrow"), ("Photo by Ilse Marrow | Galewick", "Ilse Marrow"),
    ("Foto: Ilse Marrow/Galewick.", "Ilse Marrow/Galewick"), ("Bild: Tam Orrin", "Tam Orrin"), ("Crédit photo : Ilse", "Ilse"),
    ("At dusk (© 2019–2021 Galewick Kite Museum)", "Galewick Kite Museum"), ("Copyright 2020 Tam Orrin", "Tam Orrin"),
    ("Courtesy of the Galewick Kite Museum", "the Galewick Kite Museum"), ("Фото: Ильзе", "Ильзе"), ("写真：凧博物館", "凧博物館"),
    ("Foto di Tam Orrin", "Tam Orrin"), ("The photo shows a kite by the sea", ""), ("A photograph", ""), ("Image of a kite", ""),
    ("Foto van Ina Hallas", "Ina Hallas"), ("Foto de una cometa", ""), ("Images: 12", ""), ("Image de la Lune", ""), ("Фотограф: Ильзе", "Ильзе"),
    ("Per gentile concessione di Ina Hallas", "Ina Hallas"), ("写真提供：凧博物館", "凧博物館"), ("Crédits photos : Ilse", "Ilse"),
    ("Credits were given. He flew on", ""), ("", ""),
    ("Red Delta by Ilse Marrow, CC BY 4.0", "Ilse Marrow"), ("Dusk, by Tam Orrin is licensed under a CC BY-SA 2.0 licence", "Tam Orrin"),
    ("Red Delta, CC BY 4.0", ""), ("Kites by the sea", ""),
]  # fmt: skip


@pytest.mark.parametrize(("caption", "credit"), CAPTIONS)
def test_captions_say_it_outright(caption: str, credit: str) -> None:
    assert Rights(claims=claims_of_caption(caption)).credit == credit


FIELDS: list[tuple[tuple[tuple[str, str], ...], tuple[str, str]]] = [
    ((("Photographer", "Ilse Marrow"), ("Maker", "Tam")), ("Ilse Marrow", "")),
    ((("Photo by", "\u00a9 2020 Ilse"), ("Licence", "CC BY 4.0")), ("Ilse", "CC-BY-4.0")),
    ((("Author", "Ilse"), ("License", "https://creativecommons.org/licenses/by/3.0/")), ("Ilse", "CC-BY-3.0")),
    ((("Author", "Ilse"), ("Rights", "ask us")), ("", "")),
    (
        (("creditLine", "Gift of the school"), ("artist_display", "Ilse"), ("isPublicDomain", "true")),
        ("Gift of the school", "public domain"),
    ),
    (
        (
            ("dcCreator", "Ilse"),
            ("public_domain", "true"),
            ("rights", "https://creativecommons.org/publicdomain/zero/1.0/"),
        ),
        ("Ilse", "CC0-1.0"),
    ),
    (
        (("attribution", "(c) Ilse, some rights reserved (CC BY-NC)"), ("license_code", "cc-by-nc")),
        ("Ilse, some rights reserved", "CC BY-NC"),
    ),
    ((("rightsHolder", "Galewick"), ("rights", "ask us"), ("Name", "Red"), ("public", "true")), ("Galewick", "")),
    ((("Photo", "red.jpg"), ("Copyright", "2020"), ("By", "Tam"), ("Credit card", "yes")), ("", "")),
]


@pytest.mark.parametrize(("fields", "expected"), FIELDS)
def test_fields_say_it_by_their_labels(fields: tuple[tuple[str, str], ...], expected: tuple[str, str]) -> None:
    rights = Rights(claims=claims_of_fields(fields))
    assert (rights.credit, rights.licence) == expected


def test_a_caption_may_name_a_licence() -> None:
    rights = Rights(claims=claims_of_caption("Photo: Ilse Marrow, CC BY-SA 4.0"))
    assert (rights.licence, rights.licence_url) == ("CC-BY-SA-4.0", "https://creativecommons.org/licenses/by-sa/4.0/")
    assert Rights(claims=claims_of_caption("Red delta, 1912. Public domain.")).licence == "public domain"
    assert Rights(claims=claims_of_caption("How the public domain came to Galewick")).licence == ""


def test_the_strongest_claim_counts_and_none_are_mixed() -> None:
    claims = (
        Claim(Aspect.CREDIT, "the page", Claimant.PAGE),
        Claim(Aspect.CREDIT, "Ilse", Claimant.CAPTION, "Photo:"),
        Claim(Aspect.LICENCE, "CC BY 4.0", Claimant.LIST, "the file: XMP cc:license"),
        Claim(Aspect.CREDIT, "Tam", Claimant.FILE, "IPTC Creator"),
    )
    rights = Rights(claims=claims)
    assert (rights.credit, rights.origin(Aspect.CREDIT)) == ("Tam", "the file: IPTC Creator")
    assert (rights.licence, rights.terms_url, rights.origin(Aspect.TERMS)) == ("CC-BY-4.0", "", "")


PAGE = """<title>Hall</title>
<script type="application/ld+json">{"@type": "ImageObject", "contentUrl": "/ld.png", "creditText": "Galewick",
 "creator": "Ilse", "license": "https://creativecommons.org/licenses/by/4.0/", "acquireLicensePage": "/ask"}</script>
<div itemscope itemtype="https://schema.org/ImageObject"><img itemprop=contentUrl src=micro.png>
 <span itemprop=creator>Tam Orrin</span><a itemprop=license href="https://creativecommons.org/publicdomain/zero/1.0/">CC0</a></div>
<div vocab="https://schema.org/" typeof=ImageObject><img property=contentUrl src=rdfa.png><meta property=copyrightNotice content="Ilse 2020"></div>
<figure><img src=figure.png><figcaption>Dusk. Photo: Tam <a rel=license href="https://creativecommons.org/licenses/by-sa/4.0/">CC</a></figcaption></figure>
<figure><img src=marked.png><figcaption>Noon <span class="photo-credit">Foto: Ilse Marrow</span></figcaption></figure>
<div itemscope><img src=data.png data-photographer="Photo: Ilse"><span property="cc:attributionName">Ilse Marrow</span></div>
<div><img src=one.png><img src=two.png><a rel=license href=/some>licence</a></div>
"""


def test_a_page_says_it_in_many_ways(run: Program, web: Server) -> None:
    for name in ("ld", "micro", "rdfa", "figure", "marked", "data", "one", "two"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (30, 20), (len(name), 2, ord(name[0]))))
    (web.www / "p.html").write_text(PAGE)
    rows = {
        row["url"].rpartition("/")[2]: row for row in run("look", f"{web.address}/p.html", "--format", "jsonl").rows
    }
    told = {
        name: (row["credit"], row["credit_from"], row["licence"], row["licence_from"]) for name, row in rows.items()
    }
    data, beside = "the page's data on it", "the page beside it"
    assert told == {
        "ld.png": ("Galewick", f"{data}: creditText", "CC-BY-4.0", f"{data}: license"),
        "micro.png": ("Tam Orrin", f"{data}: creator", "CC0-1.0", f"{data}: license"),
        "rdfa.png": ("Ilse 2020", f"{data}: copyrightNotice", None, None),
        "figure.png": ("Tam", "its caption: Photo:", "CC-BY-SA-4.0", f"{beside}: a link to its licence"),
        "marked.png": ("Ilse Marrow", f"{beside}: marked as its credit", None, None),
        "data.png": ("Ilse Marrow", f"{beside}: marked as its credit", None, None),
        "one.png": (None, None, None, None),
        "two.png": (None, None, None, None),
    }
    assert rows["ld.png"]["terms_url"] == f"{web.address}/ask"
    kept = run("look", f"{web.address}/p.html", "--licence", "CC-BY*", "--all", "--format", "jsonl").rows
    said = {
        row["url"].rpartition("/")[2]: [v["verdict"] for v in row["verdicts"] if v["criterion"] == "licence"]
        for row in kept
    }
    assert (said["ld.png"], said["micro.png"], said["one.png"]) == (["keep"], ["drop"], ["unsure"])
    strict = run(
        "look", f"{web.address}/p.html", "--licence", "re:^CC", "--unsure", "drop", "--format", "urls"
    ).out.split()
    assert [url.rpartition("/")[2] for url in strict] == ["ld.png", "micro.png", "figure.png"]
    why = run("why", f"{web.address}/p.html", "figure.png").out
    assert "licence   CC-BY-SA-4.0  (the page beside it: a link to its licence)" in why


XMP = """<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description
 xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmpRights="http://ns.adobe.com/xap/1.0/rights/"
 xmlns:plus="http://ns.useplus.org/ldf/xmp/1.0/" xmpRights:WebStatement="{statement}">
 <dc:creator><rdf:Seq><rdf:li>Ilse Marrow</rdf:li><rdf:li>Tam Orrin</rdf:li></rdf:Seq></dc:creator>
 <plus:Licensor><rdf:Seq><rdf:li><plus:LicensorURL>https://kites.example/ask</plus:LicensorURL></rdf:li></rdf:Seq></plus:Licensor>
</rdf:Description></rdf:RDF></x:xmpmeta>"""
BY = "https://creativecommons.org/licenses/by/4.0/"


def iptc(**fields: str) -> bytes:
    """Return an APP13 segment with IPTC-IIM records."""
    numbers = {"creator": 80, "credit": 110, "notice": 116}
    records = b"".join(
        b"\x1c\x02" + bytes([numbers[name]]) + len(text).to_bytes(2, "big") + text.encode()
        for name, text in fields.items()
    )
    block = b"Photoshop 3.0\08BIM\x04\x04\0\0" + len(records).to_bytes(4, "big") + records + b"\0" * (len(records) % 2)
    return b"\xff\xed" + (len(block) + 2).to_bytes(2, "big") + block


def jpeg(*, exif: dict[int, str] | None = None, xmp: str = "", segment: bytes = b"") -> bytes:
    known = Image.Exif()
    known.update(exif or {})
    more: dict[str, Any] = {"exif": known} if exif else {}
    octets = picture("JPEG", (40, 30), xmp=xmp.encode(), **more) if xmp else picture("JPEG", (40, 30), **more)
    return octets[:2] + segment + octets[2:]


def test_files_say_it_themselves() -> None:
    both = jpeg(
        exif={0x8298: "(c) Galewick", 0x013B: "Tam"},
        xmp=XMP.format(statement=BY),
        segment=iptc(creator="Ilse", credit="Ilse/Galewick"),
    )
    rights = Rights(claims=claims_of_file(embedded(both)))
    assert (rights.credit, rights.origin(Aspect.CREDIT)) == ("Ilse/Galewick", "the file: IPTC Credit Line")
    assert (rights.licence, rights.origin(Aspect.LICENCE)) == ("CC-BY-4.0", "the file: XMP xmpRights:WebStatement")
    assert rights.terms_url == "https://kites.example/ask"
    page = Rights(claims=claims_of_file(embedded(jpeg(xmp=XMP.format(statement="https://kites.example/terms")))))
    assert (page.credit, page.licence, page.licence_url) == ("Ilse Marrow, Tam Orrin", "", "")
    assert (
        Rights(claims=claims_of_file(embedded(jpeg(exif={0x8298: "© 2020 Tam Orrin, CC BY 4.0"})))).licence
        == "CC-BY-4.0"
    )
    info = PngImagePlugin.PngInfo()
    info.add_text("Author", "Ilse")
    buffer = BytesIO()
    Image.new("RGB", (4, 4)).save(buffer, "PNG", pnginfo=info)
    assert [field.name for field in embedded(buffer.getvalue())] == ["PNG Author"]
    assert embedded(picture("JPEG")) == ()


@pytest.mark.parametrize("cut", [20, 60, 200, 400])
def test_broken_metadata_says_nothing(cut: int) -> None:
    octets = jpeg(exif={0x8298: "x" * 300}, xmp=XMP.format(statement="&#0;"), segment=iptc(creator="Ilse"))
    embedded(octets[:cut])
    embedded(octets[:30] + b"\xff" * cut + octets[30 + cut :])


def test_a_crate_names_who_is_to_be_credited(run: Program, web: Server, tmp_path: Path) -> None:
    (web.www / "a.jpg").write_bytes(jpeg(segment=iptc(creator="Ilse Marrow")))
    (web.www / "b.png").write_bytes(picture())
    (web.www / "c.jpg").write_bytes(jpeg(xmp=XMP.format(statement="https://creativecommons.org/licenses/by-nc/4.0/")))
    (web.www / "p.html").write_text(
        "<figure><img src=a.jpg alt='Red *delta* <b>'><figcaption>Photo: Somebody</figcaption></figure><img src=b.png><img src=c.jpg>"
    )
    done = run(
        "pack", f"{web.address}/p.html", "--crate", "c", "--credits", "--licence", "CC-BY-4.0", "--format", "jsonl"
    )
    assert [(row["outcome"], row["credit"], row["credit_from"]) for row in done.rows][:1] == [
        ("fetched", "Ilse Marrow", "the file: IPTC Creator")
    ]
    assert [row["outcome"] for row in done.rows] == ["fetched", "fetched", "left out"]
    crate = tmp_path / "crates" / "c"
    text = (crate / "credits.md").read_text()
    assert r"[Red \*delta\* \<b\>](<" in text
    assert "by Ilse Marrow (the file: IPTC Creator), no licence is stated" in text
    page = (crate / "credits.html").read_text()
    assert ("Red *delta* &lt;b&gt;</a>" in page, page.count("<li>")) == (True, 2)
    assert run("audit", "c").code == 0
    assert "credit_from" in (crate / "crate.csv").read_text().splitlines()[0]


def test_credits_have_the_form_that_is_recommended() -> None:
    one = Credit(
        "a.jpg",
        "Red",
        "Ilse",
        "its caption",
        "CC-BY-4.0",
        BY,
        "its list",
        "",
        "https://kites.example/p",
        "https://kites.example/a.jpg",
    )
    assert "".join(as_markdown("k", [one])).splitlines()[2] == (
        "- **a.jpg**: [Red](<https://kites.example/p>), by Ilse (its caption), "
        rf"[CC\-BY\-4.0](<{BY}>) (its list), [the picture](<https://kites.example/a.jpg>)"
    ).replace("**a.jpg**", "**a.jpg**")
    assert f'<a href="{BY}">CC-BY-4.0</a>' in "".join(as_html("k", [one]))


def test_the_metadata_of_a_page_may_name_its_licence(run: Program, tmp_path: Path) -> None:
    head = '<meta name="DC.rights" content="{}"><img src=a.png data-credit="Photo: Tam">'
    (tmp_path / "p.html").write_text(head.format("https://creativecommons.org/licenses/by/4.0/"))
    (row,) = run("look", "p.html", "--format", "jsonl").rows
    assert (row["licence"], row["licence_from"]) == ("CC-BY-4.0", "the page, of all it has: dc.rights")
    assert (row["credit"], row["credit_from"]) == ("Tam", "the page beside it: data-credit")
    (tmp_path / "p.html").write_text(head.format("ask us"))
    assert run("look", "p.html", "--format", "jsonl").rows[0]["licence"] is None


def test_what_stands_beside_is_bounded() -> None:
    page = "<div>" + "<p class=credit>x</p>" * 3000 + "<img src=a.png>" * 3000 + "</div>"
    assert read_document(page.encode(), source="s", address="https://kites.example/", fields={}).picture_rights == {}


LICENSED = {"name": "CC BY 4.0", "url": "https://creativecommons.org/licenses/by/4.0/"}
IN_DATA: list[tuple[object, list[tuple[str | None, str | None]]]] = [
    ([{"title": "Delta", "image": "/u/1.jpg", "license_url": LICENSED["url"], "creator": "Ilse"},
      {"title": "Foil", "image": "/u/2.jpg", "rights": [LICENSED["url"]], "photographer": {"name": "Tam"}}],
     [("Ilse", "CC-BY-4.0"), ("Tam", "CC-BY-4.0")]),
    ({"lido": {"titleWrap": "Delta", "resource": {"linkResource": "/u/1.jpg", "rightsResource": {
        "rightsType": {"conceptID": LICENSED["url"]}, "rightsHolder": {"legalBodyName": {"appellationValue": "Galewick"}}}}}},
     [("Galewick", "CC-BY-4.0")]),
    ([{"title": "Delta", "image": "/u/1.jpg", "rights": ["Public domain", LICENSED["url"]], "author": ["Ilse", "Tam"]},
      {"title": "Foil", "image": "/u/2.jpg", "accessCondition": {"type": "use", "$t": "CC BY 4.0"}, "status": "on view"}],
     [("Ilse, Tam", "CC-BY-4.0"), (None, "CC-BY-4.0")]),
    # Of each picture of one thing, and of none that has a name.
    ({"title": "Wind", "photos": [{"url": "/u/1.jpg", "license": LICENSED, "photographer": "Ilse"}, {"url": "/u/2.jpg", "license": "CC0"}]},
     [("Ilse", "CC-BY-4.0"), (None, "CC0-1.0")]),
    ({"photos": [{"url": "/u/1.jpg", "attribution": "(c) Ilse (CC BY-NC)", "license_code": "cc-by-nc"}, {"url": "/u/2.jpg"}]},
     [("Ilse", "CC BY-NC"), (None, None)]),
    # As deep as it is said, in markup as well; where it is said twice, it is not clear of what.
    ({"pages": {"7": {"title": "Delta", "info": [{"url": "/u/1.jpg", "more": {
        "Artist": {"value": "<a href=x>Ilse</a>"}, "LicenseUrl": {"value": LICENSED["url"]}}}]}, "8": {"title": "Foil", "info": []}}},
     [("Ilse", "CC-BY-4.0")]),
    ([{"title": "Delta", "image": "/u/1.jpg", "parts": {"a": {"license": "CC0"}, "b": {"license": "CC BY 4.0"}}},
      {"title": "Foil", "image": "/u/2.jpg", "is_public_domain": True, "license": "ask us"}], [(None, None), (None, "public domain")]),
]  # fmt: skip


@pytest.mark.parametrize(("data", "expected"), IN_DATA)
def test_data_says_whose_its_pictures_are(
    run: Program, data: object, expected: list[tuple[str | None, str | None]]
) -> None:
    rows = run(
        "look", "-", "--base", "https://galewick.example/", "--format", "jsonl", input=json.dumps(data, indent=1)
    ).rows
    assert [(row["credit"], row["licence"]) for row in rows] == expected


def test_a_list_says_whose_its_pictures_are(run: Program, tmp_path: Path) -> None:
    (tmp_path / "l.csv").write_text(
        "Photo,Photographer,Licence\nhttps://k.example/1.jpg,Ilse,CC BY 4.0\nhttps://k.example/2.jpg,,ask us\n"
    )
    rows = run("look", "l.csv", "--format", "jsonl").rows
    assert [(row["credit"], row["credit_from"], row["licence"]) for row in rows] == [
        ("Ilse", "its list: Photographer", "CC-BY-4.0"), (None, None, None)]  # fmt: skip
