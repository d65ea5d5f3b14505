"""How programs keep pictures in data: which addresses are one picture, which of them is the original, what it is called."""

import json
import re
from collections.abc import Callable

import pytest

from pickcrate.finders import find
from pickcrate.fullsize import resolve
from pickcrate.group import group
from pickcrate.items import itemised
from pickcrate.read.data.datafile import DATA_FIELDS, as_page
from pickcrate.read.data.inlined import taken_out
from pickcrate.read.data.xmldata import as_json
from pickcrate.read.pages.document import read_document
from pickcrate.read.recognise import Kind, recognise
from pickcrate.values.findings import NeedKind

AT = "https://galewick.example/api/kites"
U = "https://galewick.example/u/"


def pictures(data: object, address: str = AT) -> list[tuple[str, str]]:
    """Return what the pictures in data are called, and where the best version of each is."""
    text = data if isinstance(data, bytes) else json.dumps(data).encode()
    page = read_document(as_page(text), source="", address=address, fields=DATA_FIELDS)
    images = group(itemised(page, find(page).references), source="")
    return [(image.shown.item.title, resolve(image).candidates[0].url) for image in images]


def sized(name: str, width: int, height: int = 0) -> dict[str, object]:
    return {"url": f"/u/{name}.jpg", "width": width, "height": height or width // 2}


DELTA = [("Delta", f"{U}delta.jpg")]
ONE: dict[str, object] = {
    "sizes by their names beside the original, in any order": {"title": "Delta", "photo": {
        "name": "delta.jpg", "width": 3000, "height": 1500, "ext": ".jpg", "formats": {
            "large": {"name": "large_delta.jpg", **sized("large_delta", 1000)}, "thumbnail": sized("thumb_delta", 200)},
        "url": "/u/delta.jpg", "previewUrl": None}},
    "sizes that only the program knows": {"title": "Delta", "photo": {
        "filename": "delta.jpg", **sized("delta", 3000), "sizes": {"card": sized("delta-768", 768), "tablet": sized("delta-1024", 1024)}}},
    "plain addresses by sizes": {"title": "Delta", "photo": {"url": "/u/delta.jpg", "sizes": {
        "medium": "/u/delta-300x200.jpg", "medium-width": 300, "large": "/u/delta-1024x683.jpg", "large-width": 1024}}},
    "no size is the original, but the largest is called so": {"title": "Delta", "images": {
        "web": sized("delta_web", 893), "print": sized("delta_print", 2404), "full": sized("delta", 4838)}},
    "a crop for small screens in an object of its own": {"title": "Delta", "photo": {
        "dimensions": {"width": 3000, "height": 2000}, "url": "/u/delta.jpg",
        "mobile": {"dimensions": {"width": 300, "height": 300}, "url": "/u/delta.jpg?rect=0,0,9,9&w=300"}}},
    "a word for a size behind the name": {"title": "Delta", "primaryImage": "/u/delta.jpg", "primaryImageSmall": "/u/delta-web.jpg"},
    "the same over HTTP and HTTPS": {"title": "Delta", "url": f"{U}delta.jpg", "plain_url": f"http:{U[6:]}delta.jpg"},
    "the same over HTTPS as well": {"title": "Delta", "image": {"url": f"http:{U[6:]}delta.jpg", "secure_url": f"{U}delta.jpg"}},
    "a list of widths beside the source": {"title": "Delta", "preview": {
        "source": sized("delta", 3000), "resolutions": [sized("delta-108", 108), sized("delta-216", 216)]}},
    "a srcset beside it": {"title": "Delta", "photo": {"url": "/u/delta.jpg", "responsiveImage": {
        "src": "/u/delta.jpg?w=600", "srcSet": "/u/delta.jpg?w=300 300w, /u/delta.jpg?w=600 600w"}}},
    "sides in the names, and what is full": {"title": "Delta", "url_75x75": "/u/d_75.jpg", "url_170x135": "/u/d_170.jpg",
        "url_fullxfull": "/u/delta.jpg", "html_url": "/kites/delta.jpg"},
    "codes for widths that are told": {"title": "Delta", "url_t": "/u/d_t.jpg", "width_t": 100, "url_o": "/u/delta.jpg", "width_o": "3000"},
    "a width behind the name": {"title": "Delta", "uri": "/u/delta.jpg", "uri150": "/u/delta-150.jpg"},
    "sizes of one ratio, two of one width": {"title": "Delta", "images": {
        "original": sized("delta", 480), "downsized": sized("delta-d", 480), "fixed_height_small": sized("delta-s", 178, 89)}},
    "words that are written as one": {"primaryTitle": "Delta", "imageLinks": {
        "smallThumbnail": "/u/d-5.jpg", "thumbnail": "/u/d-1.jpg", "extraLarge": "/u/delta.jpg"}},
    "resources that say what they are": {"title": "Delta", "resources": [
        {"label": "High-resolution JPEG", "url": "/u/delta.jpg", "width": 6000}, {"label": "Thumbnail Image", "url": "/u/d-t.jpg"}]},
    "a thumbnail beside it, called otherwise": {"title": "Delta", "featuredImage": "/u/delta.jpg", "thumbnail": "/u/d-t.jpg"},
    "a list of sizes of one file": {"title": "Delta", "photo": [sized("s/delta", 320), sized("delta", 1600)]},
    "what says that it is a picture": {"title": "Delta", "media": [{"type": "image", "url": "/u/delta.jpg", "thumbnail_url": "/u/d-t.jpg"}]},
    "an id in a store, and what the file is called": {"title": "Delta", "files": [
        {"filename": "delta.jpg", "uri": {"value": "public://delta.jpg", "url": "/u/delta.jpg"}}]},
}  # fmt: skip


@pytest.mark.parametrize("how", ONE)
def test_what_is_one_picture(how: str) -> None:
    assert pictures({"docs": [ONE[how], {"title": "other"}]}) == DELTA


IN_SCRIPTS: dict[str, Callable[[str], str]] = {
    "a state": "window.state = {};".format,
    "given to a function": "show('kites', {})".format,
    "a text that is parsed": lambda text: f"state = JSON.parse({json.dumps(text)})",
    "pieces that are pushed": lambda text: (
        f"queue.push([1,{json.dumps(f'3:{text[:40]}')}]);queue.push([1,{json.dumps(text[40:])}])"
    ),
    "a literal of the language": lambda text: (
        "var kites = " + re.sub(r'"([a-zA-Z_]\w*)":', r"\1:", text).replace('"', "'")
    ),
    "behind what is no data": lambda text: f"var one = {{a: 1, b: x()}}, two = [{{c: '/x'}}]; return {text}",
}


@pytest.mark.parametrize("where", IN_SCRIPTS)
@pytest.mark.parametrize("how", ONE)
def test_data_in_a_script_is_read_as_data(how: str, where: str) -> None:
    markup = f"<!doctype html><script>{IN_SCRIPTS[where](json.dumps(ONE[how]))}</script>"
    page = read_document(markup.encode(), source="", address=AT)
    images = group(find(page).references, source="")
    assert [resolve(image).candidates[0].url for image in images] == [f"{U}delta.jpg"]


def test_what_data_says_of_a_thing_by_the_names_of_others() -> None:
    told = {"displayName": "Delta", "year": 1911, "artist": {"name": "Ino Hallas", "portrait": "/u/ino.jpg"}, "image": "/u/d.jpg",
            "guilds": [{"title": "Hazel"}, {"title": "Birch"}], "scan": {"title": "Front", "url": "/u/s.jpg"}, "size": {"value": 9}}  # fmt: skip
    page = read_document(as_page(json.dumps({"docs": [told, {"title": "x"}]}).encode()), source="", address=AT)
    images = group(itemised(page, find(page).references), source="")
    (image,) = [image for image in images if image.url.endswith("d.jpg")]
    assert dict(image.item.columns) == {"year": "1911", "artist": "Ino Hallas", "guilds": "Hazel, Birch"}


OTHERS: list[tuple[object, list[tuple[str, str]]]] = [
    # A name, and a page, by all the words of what they are called; but not what is called so of others.
    ([{"displayName": name, "userName": "ino", "image": f"/u/{name}.jpg"} for name in ("Delta", "Foil")],
     [("Delta", f"{U}Delta.jpg"), ("Foil", f"{U}Foil.jpg")]),
    ([{"kiteName": name, "title_size": 9, "image": f"/u/{name}.jpg"} for name in ("Delta", "Foil")],
     [("Delta", f"{U}Delta.jpg"), ("Foil", f"{U}Foil.jpg")]),
    ([{"fileName": name, "categoryName": "Kites", "image": f"/u/{name}.jpg"} for name in ("d1", "f1")],
     [("", f"{U}d1.jpg"), ("", f"{U}f1.jpg")]),
    # The only one in a section; a file with a title is none, nor is what a thing with pictures has one of.
    ({"sections": [{"title": "Hall", "items": [{"title": "Delta", "image": {"url": "/u/d.jpg"}}]},
                   {"title": "Loft", "items": [{"title": "Foil", "image": "/u/f.jpg"}]}]},
     [("Delta", f"{U}d.jpg"), ("Foil", f"{U}f.jpg")]),
    ({"docs": [{"title": "Delta", "files": [{"title": "Front view", "url": "/u/d.jpg", "thumbnail": "/u/t.jpg"}]}, {"title": "x"}]},
     [("Delta", f"{U}d.jpg")]),
    ({"docs": [{"title": "Delta", "image": "/u/d.jpg", "variants": [{"title": "Default", "image": "/u/v.jpg"}]}, {"title": "x"}]},
     [("Delta", f"{U}d.jpg"), ("Delta", f"{U}v.jpg")]),
    # Addresses without an extension: in markup, in a srcset.
    ([{"title": "Delta", "body": "<p>It flew.</p><img src='/u/9'>"}, {"title": "x"}], [("Delta", f"{U}9")]),
    ([{"title": "Delta", "photo": {"src": "/u/9", "srcset": "/u/9 320w, /u/9l 1600w"}}, {"title": "x"}], [("Delta", f"{U}9l")]),
    # What is of several pictures stays several.
    ({"docs": [{"title": "Delta", "photos": [sized("a", 320), sized("b", 1600)]}, {"title": "x"}]},
     [("Delta", f"{U}a.jpg"), ("Delta", f"{U}b.jpg")]),
    ({"images": {"front": "/u/a.jpg", "back": "/u/b.jpg"}}, [("", f"{U}a.jpg"), ("", f"{U}b.jpg")]),
    ({"image": "/u/a.jpg", "image_10": "/u/b.jpg"}, [("", f"{U}a.jpg"), ("", f"{U}b.jpg")]),
    ({"image_2019": "/u/a.jpg", "image_2020": "/u/b.jpg"}, [("", f"{U}a.jpg"), ("", f"{U}b.jpg")]),
    ({"logo": "/u/a.png", "sizes": {"large": "/u/b.jpg", "small": "/u/c.jpg"}}, [("", f"{U}a.png"), ("", f"{U}b.jpg")]),
    # A name in small letters says that it is a picture's address; a type says it of any.
    ({"title": "Delta", "primaryimageurl": "https://galewick.example/u/urn-3:d"}, [("Delta", f"{U}urn-3:d")]),
    ({"title": "Delta", "edmPreview": ["https://galewick.example/u/7f3a"]}, [("Delta", f"{U}7f3a")]),
    ({"title": "Delta", "edmPreview": ["/u/7f3a"], "edmIsShownBy": ["/u/d.jpg"]}, [("Delta", f"{U}d.jpg")]),
    # What has a name and a picture in an object of its own; nobody who has to do with it names it.
    ([{"photo": f"/u/{name}.jpg", "user": {"name": "Ina", "avatar": f"/a/{name}.jpg"}, "no": 7} for name in ("red", "sled")],
     [("", f"{U}red.jpg"), ("", "https://galewick.example/a/red.jpg"), ("", f"{U}sled.jpg"), ("", "https://galewick.example/a/sled.jpg")]),
    ([{"id": {"video": "7"}, "snippet": {"title": name, "thumbnails": {"high": {"url": f"/u/{name}-h.jpg"}, "maxres": {"url": f"/u/{name}.jpg"}}}}
      for name in ("Delta", "Foil")], [("Delta", f"{U}Delta.jpg"), ("Foil", f"{U}Foil.jpg")]),
    ([{"species_guess": name, "photo": f"/u/{name}.jpg"} for name in ("Red kite", "Sled")],
     [("Red kite", f"{U}Red%20kite.jpg"), ("Sled", f"{U}Sled.jpg")]),
    ({"title": "Delta", "bildUrl": "https://galewick.example/u/7f3a"}, [("Delta", f"{U}7f3a")]),
    ({"media": [{"type": "StillImage", "format": "image/jpeg", "title": "Delta", "identifier": "/u/9f"}]}, [("Delta", f"{U}9f")]),
    # Where data of a file is, is no file; nor is the place of an object in its store.
    ({"items": [{"name": "hall/d.jpg", "mediaLink": "/u/d.jpg?m", "selfLink": "/o/d.jpg", "contentType": "image/jpeg"}]},
     [("hall/d.jpg", f"{U}d.jpg?m")]),
    ({"pages": [{"pageUrl": "/u/1.jpg", "html_url": "/p/1.jpg"}, {"pageUrl": "/u/2.jpg"}]}, [("", f"{U}1.jpg"), ("", f"{U}2.jpg")]),
    # It is as it was put into a page.
    ([{"title": "Delta", "src": "/u/d.jpg?w=9&amp;s=f0"}, {"title": "Foil"}], [("Delta", f"{U}d.jpg?w=9&s=f0")]),
    # Sizes of one image of a service, and its base.
    ({"titles": [{"title": "Delta"}], "image_thumbnail": f"{U}d.tif.jp2/full/!99,99/0/default.jpg", "image_iiif_id": f"{U}d.tif.jp2",
      "image_native": f"{U}d.tif.jp2/full/full/0/native.jpg"}, [("Delta", f"{U}d.tif.jp2/full/!99,99/0/default.jpg")]),
    # What it shows is its name where it has none; one of several of a whole has its own.
    ([{"alt_description": name, "urls": {"small": f"/u/{name}-s.jpg", "full": f"/u/{name}.jpg"}} for name in ("Delta", "Foil")],
     [("Delta", f"{U}Delta.jpg"), ("Foil", f"{U}Foil.jpg")]),
    ({"items": [{"object": {"content": "It flew.", "attachment": [{"name": "Delta", "url": "/u/d.jpg"}]}}]}, [("Delta", f"{U}d.jpg")]),
    # Several addresses in one text.
    *(({"title": "Delta", "images": mark.join((f"{U}a.jpg", f"{U}b.jpg"))}, [("Delta", f"{U}a.jpg"), ("Delta", f"{U}b.jpg")])
      for mark in (",", "; ", "|", "\n")),
    ({"title": "Delta", "image": "/u/one,two.jpg"}, [("Delta", f"{U}one,two.jpg")]),
    # A key is a name where all of them are, and nothing else names what they are of.
    ({"Delta": "/u/d.jpg", "Foil": {"img": "/u/f.jpg"}}, [("Delta", f"{U}d.jpg"), ("Foil", f"{U}f.jpg")]),
    ({"title": "Delta", "views": {"Front": "/u/a.jpg", "Back": "/u/b.jpg"}}, [("Delta", f"{U}a.jpg"), ("Delta", f"{U}b.jpg")]),
    ({"one": "/u/a.jpg", "two": "/u/b.jpg"}, [("", f"{U}a.jpg"), ("", f"{U}b.jpg")]),
    # Vocabularies, and feeds in JSON.
    ({"@graph": [{"dcterms:title": name, "foaf:depiction": {"@id": f"/u/{name}"}} for name in ("Delta", "Foil")]},
     [("Delta", f"{U}Delta"), ("Foil", f"{U}Foil")]),
    ({"image": {"@id": "https://galewick.example/#/image/7"}}, []),
    ({"items": [{"title": "Delta", "enclosure": {"link": "/u/d", "type": "image/jpeg"}}]}, [("Delta", f"{U}d")]),
    ({"entry": [{"title": {"$t": "Delta"}, "media$group": {"media$content": [sized("d", 1600)], "media$thumbnail": [sized("s", 72)]}}]},
     [("Delta", f"{U}d.jpg")]),
    # What refers to a file names it (JSON:API 1.1, compound documents; others have links of their own).
    ({"data": [{"type": "kites", "id": "1", "attributes": {"title": "Delta"},
                "relationships": {"photo": {"data": {"type": "files", "id": "7"}}}}],
      "included": [{"type": "files", "id": "7", "attributes": {"filename": "d.jpg", "uri": {"url": "/u/d.jpg"}}}]},
     [("Delta", f"{U}d.jpg")]),
    ({"items": [{"fields": {"title": "Delta", "photo": {"sys": {"type": "Link", "linkType": "Asset", "id": "7"}}}}],
      "includes": {"Asset": [{"sys": {"id": "7", "type": "Asset"}, "fields": {"file": {"url": "/u/d.jpg"}}}]}}, [("Delta", f"{U}d.jpg")]),
    ([{"title": name, "url_private": f"/u/{name}.jpg", "url_private_download": f"/d/{name}.jpg", "thumb_64": f"/u/{name}-64.jpg", "thumb_360": f"/u/{name}-360.jpg"}
      for name in ("Delta", "Foil")], [("Delta", f"{U}Delta.jpg"), ("Foil", f"{U}Foil.jpg")]),
    # A size of it, by what its file is called.
    ({"title": "Delta", "source_url": "/u/red-delta.jpg", "details": {"sizes": {"medium": {"width": 300, "source_url": "/u/red-delta-300x200.jpg"}}}},
     [("Delta", f"{U}red-delta.jpg")]),
    # What is in a folder, and below it.
    ([{"type": "file", "name": "red delta.jpg", "size": 9}, {"type": "directory", "name": "2026"}, {"type": "file", "name": "a.txt"}],
     [("", f"{AT.rpartition('/')[0]}/red%20delta.jpg")]),
    ([{"type": "directory", "name": ".", "contents": [{"type": "directory", "name": "a b", "contents": [{"type": "file", "name": "c d.png"}]}]}],
     [("a b", f"{AT.rpartition('/')[0]}/a%20b/c%20d.png")]),
    ([{"type": "file", "name": "red delta.jpg", "download_url": "/u/9.jpg"}], [("red delta.jpg", f"{U}9.jpg")]),
    # What somebody wrote, where nothing has a name.
    ([{"full_text": "Red delta! https://kites.example/7 #wind #sea", "media": [{"media_url": "/u/1.jpg"}]},
      {"full_text": "It flew over the dunes. " * 9, "media": [{"media_url": "/u/2.jpg"}]}],
     [("Red delta!", f"{U}1.jpg"), ("It flew over the dunes.", f"{U}2.jpg")]),
    ({"posts": [{"record": {"text": "A day of wind"}, "embed": {"images": [{"fullsize": "/u/1.jpg", "alt": ""}]}},
                {"record": {"text": "Now\nit flew"}, "embed": {"images": [{"fullsize": "/u/2.jpg", "alt": "Delta"}]}}]},
     [("A day of wind", f"{U}1.jpg"), ("Delta", f"{U}2.jpg")]),
    ([{"photo": "/u/1.jpg", "text": ["The ", {"type": "bold", "text": "mill"}, " turns"]}, {"photo": "/u/2.jpg", "text": "風の日の凧"},
      {"photo": "/u/3.jpg", "status": "published", "text": " ".join(["word"] * 60)}],
     [("The mill turns", f"{U}1.jpg"), ("風の日の凧", f"{U}2.jpg"), (f"{' '.join(['word'] * 16)}…", f"{U}3.jpg")]),
]  # fmt: skip


@pytest.mark.parametrize(("data", "expected"), OTHERS)
def test_what_data_says_of_its_pictures(data: object, expected: list[tuple[str, str]]) -> None:
    assert pictures(data) == expected


def test_the_base_of_an_image_of_a_service_is_read() -> None:
    data = [{"title": "Delta", "iiifbaseuri": f"{U}iiif/7"}, {"title": "Foil", "image_iiif_id": f"{U}iiif/8"}]
    page = read_document(as_page(json.dumps(data).encode()), source="", address=AT, fields=DATA_FIELDS)
    needed = [need.url for need in find(page).needs if need.kind is NeedKind.TILES]
    assert needed == [f"{U}iiif/7/info.json", f"{U}iiif/8/info.json"]


def test_a_blurred_piece_beside_an_address_stays_what_it_is() -> None:
    held = "data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7"
    for beside, count in (({"src": "/u/d.jpg"}, 0), ({"title": "Delta"}, 1)):
        assert len(taken_out(json.dumps({"base64": held} | beside).encode(), AT)[1]) == count


def test_where_the_objects_of_a_store_are() -> None:
    bucket = b"<ListBucketResult><Name>kites</Name><NextMarker>z.jpg</NextMarker><Contents><Key>a b/d#1.jpg</Key></Contents></ListBucketResult>"
    for address, folder in (
        ("https://s3.galewick.example/kites?list-type=2", "kites/"),
        ("https://kites.galewick.example/", ""),
    ):
        assert (
            pictures(as_json(bucket, address), address)[0][1]
            == f"{address[: address.index('/', 8)]}/{folder}a%20b/d%231.jpg"
        )
    blobs = (
        "<EnumerationResults ServiceEndpoint='https://g.example/' ContainerName='kites'><Prefix>a</Prefix>"
        "<Blobs><Blob><Name>a b/d.jpg</Name></Blob></Blobs><NextMarker>2!k</NextMarker></EnumerationResults>"
    )
    assert as_json(b"<ListBucketResult>none</ListBucketResult>") == b'"none"'
    told = as_json(blobs.encode())
    assert json.loads(told)["next"] == "?restype=container&comp=list&marker=2%21k&prefix=a"
    assert pictures(told) == [("", "https://g.example/kites/a%20b/d.jpg")]


@pytest.mark.parametrize(
    ("text", "urls"),
    [
        ("See ![Delta](/u/delta.jpg 'Red') and ![Box](<box.png>).", [f"{U}delta.jpg", "https://galewick.example/api/box.png"]),
        ("[img]https://g.example/delta.jpg[/img]", ["https://g.example/delta.jpg"]),
        ("Flown in May: https://g.example/delta.jpg, and again.", ["https://g.example/delta.jpg"]),
        ("![Held](attachment:red.png) [Read](/u/more.jpg) in delta.jpg", []),
        ("<b>See https://g.example/delta.jpg</b>", []),
    ],
)  # fmt: skip
def test_texts_in_data_name_pictures(text: str, urls: list[str]) -> None:
    assert [url for _, url in pictures({"title": "Delta", "body": text})] == urls
    octets = json.dumps({"body": text}).encode()
    assert not urls or recognise(octets) is Kind.DATA
