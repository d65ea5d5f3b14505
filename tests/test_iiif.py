"""IIIF as a source: manifests of both versions, collections, and the description of one image."""

import json
from typing import Any

import pytest

from conftest import Program, Server, picture
from pickcrate.read.data.iiif import read_iiif
from pickcrate.read.recognise import Kind, recognise

AT = "https://library.example/iiif/kites/manifest.json"
SERVICE = "https://images.example/iiif"


def image_2(name: str) -> dict[str, Any]:
    service = {
        "@context": "http://iiif.io/api/image/2/context.json",
        "@id": f"{SERVICE}/{name}",
        "profile": "http://iiif.io/api/image/2/level2.json",
    }
    resource = {"@id": f"{SERVICE}/{name}/full/600,/0/default.jpg", "@type": "dctypes:Image", "service": service}
    return {"@type": "oa:Annotation", "motivation": "sc:painting", "resource": resource}


VERSION_2 = {
    "@context": "http://iiif.io/api/presentation/2/context.json", "@type": "sc:Manifest", "@id": AT, "label": "The kites of Galewick",
    "attribution": "Galewick Kite Museum", "metadata": [{"label": [{"@value": "Maker", "@language": "en"}], "value": "Ysolde Marrow"}],
    "sequences": [{"canvases": [
        {"@type": "sc:Canvas", "label": "Red delta", "images": [image_2("k1")]},
        {"@type": "sc:Canvas", "label": {"@value": "Box kite"}, "images": [image_2("k2")]},
    ]}, {"canvases": [{"label": "another order", "images": [image_2("k1")]}]}],
}  # fmt: skip


def canvas_3(label: str, body: dict[str, Any]) -> dict[str, Any]:
    return {
        "type": "Canvas",
        "label": {"en": [label]},
        "items": [{"type": "AnnotationPage", "items": [{"type": "Annotation", "body": body}]}],
    }


def image_3(name: str) -> dict[str, Any]:
    return {
        "id": f"{SERVICE}/{name}/full/max/0/default.jpg",
        "type": "Image",
        "service": [{"id": f"{SERVICE}/{name}/", "type": "ImageService3", "profile": "level1"}],
    }


VERSION_3 = {
    "@context": ["http://www.w3.org/ns/anno.jsonld", "http://iiif.io/api/presentation/3/context.json"],
    "id": AT, "type": "Manifest", "label": {"none": ["Kites"]}, "rights": "http://creativecommons.org/licenses/by/4.0/",
    "requiredStatement": {"label": {"en": ["Credit"]}, "value": {"en": ["Galewick", "Museum"]}},
    "items": [
        canvas_3("Red delta", image_3("k1")),
        canvas_3("Plain file", {"id": "/files/plain.jpg", "type": "Image"}),
        canvas_3("Two lights", {"type": "Choice", "items": [image_3("day"), image_3("night")]}),
        canvas_3("A film", {"id": "/files/film.mp4", "type": "Video"}),
    ],
}  # fmt: skip
COLLECTION = {
    "@context": "http://iiif.io/api/presentation/3/context.json", "id": AT, "type": "Collection", "label": {"en": ["All"]},
    "items": [{"id": "https://library.example/a.json", "type": "Manifest"}, {"id": "/b.json", "type": "Collection"}, {"type": "Manifest"}],
}  # fmt: skip
INFO = {
    "@context": "http://iiif.io/api/image/3/context.json",
    "id": f"{SERVICE}/k1",
    "type": "ImageService3",
    "protocol": "http://iiif.io/api/image",
    "width": 9000,
    "height": 6000,
}


def read(told: object) -> list[tuple[str, list[str]]]:
    """Return the label of each picture with its addresses."""
    found: dict[int, tuple[str, list[str]]] = {}
    for reference in read_iiif(json.dumps(told).encode(), AT).references:
        found.setdefault(reference.cluster, (reference.item.title, []))[1].append(reference.url.removeprefix(SERVICE))
    return list(found.values())


def test_manifests_of_both_versions() -> None:
    assert read(VERSION_2) == [
        ("Red delta", ["/k1/full/600,/0/default.jpg", "/k1/full/full/0/default.jpg", "/k1/full/max/0/default.jpg"]),
        ("Box kite", ["/k2/full/600,/0/default.jpg", "/k2/full/full/0/default.jpg", "/k2/full/max/0/default.jpg"]),
    ]
    assert read(VERSION_3) == [
        ("Red delta", ["/k1/full/max/0/default.jpg", "/k1/full/full/0/default.jpg"]),
        ("Plain file", ["https://library.example/files/plain.jpg"]),
        ("Two lights", ["/day/full/max/0/default.jpg", "/day/full/full/0/default.jpg"]),
    ]
    assert read(INFO) == [("", ["/k1/full/max/0/default.jpg"])]
    reading = read_iiif(json.dumps(VERSION_2).encode(), AT)
    assert reading.title == "The kites of Galewick"
    assert reading.references[0].item.columns == (("Maker", "Ysolde Marrow"), ("Attribution", "Galewick Kite Museum"))
    columns = dict(read_iiif(json.dumps(VERSION_3).encode(), AT).references[0].item.columns)
    assert columns == {"Credit": "Galewick; Museum", "Rights": "http://creativecommons.org/licenses/by/4.0/"}
    assert read_iiif(json.dumps(COLLECTION).encode(), AT).further == [
        "https://library.example/a.json",
        "https://library.example/b.json",
    ]


@pytest.mark.parametrize("told", [VERSION_2, VERSION_3, COLLECTION, INFO])
@pytest.mark.parametrize("indent", [None, 2])
def test_they_are_told_by_their_content(told: object, indent: int | None) -> None:
    assert recognise(json.dumps(told, indent=indent).encode()) is Kind.IIIF


@pytest.mark.parametrize(
    "told",
    [
        [],
        7,
        {},
        {"items": 3},
        {"sequences": [{"canvases": [{"images": [{"resource": {"@id": 7}}]}]}]},
        {"items": [{"type": "Canvas", "label": {"en": {"x": [[[["deep"]]]]}}}]},
    ],
)
def test_what_is_no_manifest_is_said(told: object) -> None:
    reading = read_iiif(json.dumps(told).encode(), AT)
    assert not reading.references
    assert reading.flaws


def test_a_manifest_is_packed_by_its_labels(run: Program, web: Server) -> None:
    for number, (name, sides) in enumerate((("k1", (900, 600)), ("k2", (800, 800)))):
        for size, scale in (("max", 1), ("600,", 3)):
            folder = web.www / "iiif" / name / "full" / size / "0"
            folder.mkdir(parents=True)
            drawn = picture("JPEG", (sides[0] // scale, sides[1] // scale), colour=(number, 9, 9))
            (folder / "default.jpg").write_bytes(drawn)
    (web.www / "manifest.json").write_text(json.dumps(VERSION_2).replace(SERVICE, f"{web.address}/iiif"))
    done = run(
        "pack", f"{web.address}/manifest.json", "--name", "{item}", "--crate", "c", "--no-robots", "--format", "jsonl"
    )
    assert done.code == 0, done
    assert [(row["file"], row["width"], row["item"]) for row in done.rows] == [
        ("Red delta.jpg", 900, "Red delta"),
        ("Box kite.jpg", 800, "Box kite"),
    ]
    assert done.rows[0]["columns"]["Maker"] == "Ysolde Marrow"
    assert [row["credit"] for row in done.rows] == ["Galewick Kite Museum"] * 2
    (web.www / "all.json").write_text(
        json.dumps({**COLLECTION, "items": [{"id": f"{web.address}/manifest.json", "type": "Manifest"}]})
    )
    assert run("look", f"{web.address}/all.json", "--format", "urls", "--no-robots").out.count("/full/max/0/") == 2


HANDED = [
    '<div id=viewer data-manifest="{}"></div>',
    "<script>Viewer({{manifestId: '{}', canvas: 2}})</script>",
    '<script type=application/json>{{"windows": [{{"manifestUri": "{}"}}]}}</script>',
    '<a href="https://viewers.example/?manifest={}">Drag</a>',
    '<link rel=alternate type=\'application/ld+json;profile="http://iiif.io/api/presentation/2/context.json"\' href="{}">',
]


@pytest.mark.parametrize("markup", HANDED)
def test_a_page_with_a_viewer_holds_what_the_manifest_does(markup: str, run: Program, web: Server) -> None:
    (web.www / "iiif").mkdir()
    (web.www / "iiif" / "manifest.json").write_text(json.dumps(VERSION_3).replace(SERVICE, f"{web.address}/iiif"))
    (web.www / "p.html").write_text(
        "<h1>Kites</h1><img src=logo.png>" + markup.format(f"{web.address}/iiif/manifest.json")
    )
    rows = run("look", f"{web.address}/p.html", "--format", "jsonl", "--no-robots").rows
    assert {(row["credit"], row["licence_url"]) for row in rows[-3:]} == {
        ("Galewick; Museum", "http://creativecommons.org/licenses/by/4.0/")
    }
    assert [(row["item"], row["found_in"]) for row in rows[-3:]] == [
        ("Red delta", "iiif"),
        ("Plain file", "iiif"),
        ("Two lights", "iiif"),
    ]


def test_what_is_called_a_manifest_and_is_none_says_nothing(run: Program, web: Server) -> None:
    (web.www / "manifest.json").write_text('{"name": "Kites", "icons": []}')
    (web.www / "p.html").write_text(
        "<img src=a.png><script>x = {manifest: '/manifest.json', b: {manifestUrl: '/iiif/none'}}</script>"
    )
    done = run("look", f"{web.address}/p.html", "--format", "jsonl", "--no-robots")
    assert (len(done.rows), "manifest" in done.err) == (1, False)
