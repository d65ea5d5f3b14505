"""What markup says of larger versions: attributes, links, data blocks; and which of several is the largest."""

import re
from pathlib import Path

import pytest

from conftest import Program, Server, picture
from layouts import HELD
from pickcrate.addresses.ranks import rank
from pickcrate.finders import find
from pickcrate.fullsize import resolve
from pickcrate.fullsize.viewer import leads_to_page
from pickcrate.group import group
from pickcrate.read.pages.document import read_document
from pickcrate.values.image import Image


def images(markup: str) -> list[Image]:
    page = read_document(f"<!doctype html>{markup}".encode(), source="x", address="https://kites.example/hall/")
    return [resolve(image) for image in group(find(page).references, source="x")]


# Each shows /small/91zz.jpg, and says somewhere that /full/8a1b2c.jpg is that picture, larger.
LARGER = [
    '<a href="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<a href="#" data-src="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<div data-src="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></div>',
    '<img src="/small/91zz.jpg" data-zoom-image="/full/8a1b2c.jpg">',
    '<a href="#" data-image="/m/2.jpg" data-zoom-image="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<div data-thumb="/small/91zz.jpg"><a href="/shop/x.html"><img src="/small/91zz.jpg" data-src="/m/x-600x400.jpg" data-large_image="/full/8a1b2c.jpg" data-large_image_width=1600></a></div>',
    '<a href="/p.html" data-large-src="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<a href="javascript:;" onclick="popup(\'/full/8a1b2c.jpg\')"><img src="/small/91zz.jpg"></a>',
    '<a href="javascript:popup(\'/full/8a1b2c.jpg\',800,600)"><img src="/small/91zz.jpg"></a>',
    '<a href="view.php?img=/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<img src="/small/91zz.jpg" onclick="window.open(\'/full/8a1b2c.jpg\')">',
    '<ul><li data-thumb="/small/91zz.jpg" data-src="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></li></ul>',
    '<a href="/att/"><img src="/small/91zz.jpg" data-medium-file="/m/q.jpg" data-large-file="/l/q.jpg" data-orig-file="/full/8a1b2c.jpg"></a>',
    '<img src="/small/91zz.jpg" data-magnify="/full/8a1b2c.jpg">',
    '<p><!--[if gte vml 1]><v:shape id="x"><v:imagedata src="/full/8a1b2c.jpg" o:title="Red"/></v:shape><![endif]--><![if !vml]><img src="/small/91zz.jpg" v:shapes="x"><![endif]></p>',
    '<img src="/small/91zz.jpg" data-big="/full/8a1b2c.jpg">',
    '<img src="/small/91zz.jpg" data-product-image="/small/91zz.jpg" data-product-zoom="/full/8a1b2c.jpg">',
    '<figure data-full="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></figure>',
    '<li data-responsive="/small/91zz.jpg 375" data-src="/full/8a1b2c.jpg"><a href=""><img src="/small/91zz.jpg"></a></li>',
    '<img src="data:image/gif;base64,R0lGODlhAQABAAAAACw=" data-lazy="/small/91zz.jpg"><noscript><a href="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a></noscript>',
    '<img src="/small/91zz.jpg"><script type="application/json">{"items":[{"thumb":"/small/91zz.jpg","medium":"/m/1.jpg","full":"/full/8a1b2c.jpg"}]}</script>',
    '<img src="/small/91zz.jpg"><script>var g=[{thumb:"/small/91zz.jpg",image:"/full/8a1b2c.jpg"},{thumb:"/t/b.jpg",image:"/f/b9.jpg"}];</script>',
    '<img src="/small/91zz.jpg"><script>g.push({"msrc":"/small/91zz.jpg","src":"/full/8a1b2c.jpg","w":1600,"h":900})</script>',
    '<img src="/small/91zz.jpg"><script type="application/ld+json">{"@type":"ImageObject","contentUrl":"/full/8a1b2c.jpg","thumbnailUrl":"/small/91zz.jpg"}</script>',
    '<figure><img src="/small/91zz.jpg"><figcaption>Red <a href="/full/8a1b2c.jpg">Download original</a></figcaption></figure>',
    '<ul><li><img src="/small/91zz.jpg"><a href="/full/8a1b2c.jpg" class=zoom>+</a></li><li><img src="/t/o.jpg"><a href="/f/o2.jpg">+</a></li></ul>',
    '<div class=item><img src="/small/91zz.jpg"><a class=overlay href="/full/8a1b2c.jpg"></a></div>',
    '<img src="/small/91zz.jpg" data-options=\'{"full":"/full/8a1b2c.jpg","thumb":"/small/91zz.jpg"}\'>',
    '<div data-gallery=\'{"full":"/full/8a1b2c.jpg"}\'><img src="/small/91zz.jpg"></div>',
    '<img src="/small/91zz.jpg" data-srcset="/m/1.jpg 600w, /full/8a1b2c.jpg 2000w">',
    '<a href="/full/8a1b2c.jpg" style="background-image:url(/small/91zz.jpg)"></a>',
    '<div style="background-image:url(/small/91zz.jpg)" data-full="/full/8a1b2c.jpg"></div>',
    '<a href="/full/8a1b2c.jpg"><span style="background:url(/small/91zz.jpg)"></span></a>',
    '<picture><source media="(min-width:1200px)" srcset="/full/8a1b2c.jpg"><source media="(min-width:600px)" srcset="/m/m.jpg"><img src="/small/91zz.jpg"></picture>',
    '<picture><source type=image/webp srcset="/w/m.webp 800w, /w/l.webp 1600w"><img src="/small/91zz.jpg" srcset="/m/1.jpg 800w, /full/8a1b2c.jpg 2400w"></picture>',
    '<a itemprop="contentUrl" href="/full/8a1b2c.jpg"><img itemprop="thumbnailUrl" src="/small/91zz.jpg"></a>',
    "<a href=\"#\" rel=\"{gallery: 'g1', smallimage: '/m/1.jpg', largeimage: '/full/8a1b2c.jpg'}\"><img src=\"/small/91zz.jpg\"></a>",
    '<button data-full-image="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></button>',
    '<input type=image src="/small/91zz.jpg" data-large="/full/8a1b2c.jpg">',
    '<a class="image lightbox" href="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></a>',
    '<a href="/full/8a1b2c.jpg"><svg><image href="/small/91zz.jpg"/></svg></a>',
    '<div class=slide data-zoom="/full/8a1b2c.jpg"><div class=in><img src="/small/91zz.jpg"></div></div>',
    '<div data-zoom="/full/8a1b2c.jpg"><img src="/icons/mag.png" width=16><img src="/small/91zz.jpg"></div>',
    '<div data-bg="/small/91zz.jpg" data-bg-hidpi="/full/8a1b2c.jpg"></div>',
    '<div data-background-image="/small/91zz.jpg" data-background-image-hd="/full/8a1b2c.jpg"></div>',
    '<zoom-image full="/full/8a1b2c.jpg"><img src="/small/91zz.jpg"></zoom-image>',
    '<img src="/small/91zz.jpg" data-desktop="/full/8a1b2c.jpg" data-mobile="/m/mob.jpg">',
    '<a href="#at-91zz"><img src="/small/91zz.jpg"></a><div class=lightbox id=at-91zz><img src="/icons/x.png" width=16><img src="/full/8a1b2c.jpg"></div>',
    '<a href="#" data-target="#at-91zz"><img src="/small/91zz.jpg"></a><div class="modal fade" id=at-91zz><h4>Red</h4><img src="/full/8a1b2c.jpg"></div>',
    '<button popovertarget=at-91zz><img src="/small/91zz.jpg"></button><div popover id=at-91zz><img src="/full/8a1b2c.jpg"></div>',
    '<button onclick="show(\'at-91zz\')"><img src="/small/91zz.jpg"></button><dialog id=at-91zz><img src="/full/8a1b2c.jpg"></dialog>',
    '<img src="/small/91zz.jpg" onclick="document.querySelector(\'#at-91zz\').showModal()"><dialog id=at-91zz><img src="/full/8a1b2c.jpg"></dialog>',
    '<svg><a xlink:href="/full/8a1b2c.jpg"><image xlink:href="/small/91zz.jpg"/></a></svg>',
    "<style>p{background:url(/small/91zz.jpg)}@media(-webkit-min-device-pixel-ratio:2){p{background:url(/full/8a1b2c.jpg)}}</style><p>",
    '<picture><source srcset="/full/8a1b2c.jpg" media="(min-resolution: 192dpi)"><img src="/small/91zz.jpg"></picture>',
    '<picture><source srcset="/full/8a1b2c.jpg" media="(-webkit-min-device-pixel-ratio:2)"><source srcset="/m/m.jpg" media="(resolution >= 1.5x)"><img src="/small/91zz.jpg"></picture>',
    '<figure itemscope itemtype="https://schema.org/ImageObject"><meta itemprop=contentUrl content="/full/8a1b2c.jpg"><img itemprop=thumbnail src="/small/91zz.jpg"></figure>',
    '<p vocab="https://schema.org/" typeof="ImageObject"><img property="thumbnailUrl" src="/small/91zz.jpg"><link property="contentUrl" href="/full/8a1b2c.jpg">',
]


@pytest.mark.parametrize("markup", LARGER)
def test_where_markup_names_a_larger_version(markup: str) -> None:
    small = [image for image in images(markup) if any("91zz" in reference.url for reference in image.references)]
    assert [image.url for image in small] == ["https://kites.example/full/8a1b2c.jpg"]


@pytest.mark.parametrize("how", HELD)
def test_where_markup_that_is_held_for_a_script_names_a_larger_version(how: str) -> None:
    for markup in (markup for markup in LARGER if re.search("<script|<style|<input|noscript", markup) is None):
        urls = [[image.url for image in images(text)] for text in (markup, HELD[how](markup))]
        assert sorted(urls[0]) == sorted(urls[1]), markup


# Each shows /small/91zz.jpg, and an address beside it is still to be filled in.
TO_BE_FILLED = [
    """<script>s = '<a href="/full/' + id + '.jpg"><img src="/small/91zz.jpg"></a>'</script>""",
    """<script>s = `<a href="/full/${id}-large.jpg"><img src="/small/91zz.jpg"></a>`</script>""",
    """<script>s = base + '/full.jpg"><img src="/small/91zz.jpg" data-big="' + big + '.jpg">'</script>""",
    """<template><a href="/full/{{ id }}.jpg"><img src="/small/91zz.jpg"></a></template>""",
    """<script type=text/template><img src="/small/91zz.jpg" data-full="/full/<%= id %>.jpg"></script>""",
    """<img src="{{ small }}"><img src="${at}/red.jpg"><img src="<%= red %>.jpg"><p style="background: url({% red %}.jpg)"><img src="/small/91zz.jpg">""",
    """<div data-more='<img src="/small/91zz.jpg" data-full="/full/[[id]].jpg">'></div>""",
]


@pytest.mark.parametrize("markup", TO_BE_FILLED)
def test_an_address_that_is_to_be_filled_in_is_none(markup: str) -> None:
    assert [image.url for image in images(markup)] == ["https://kites.example/small/91zz.jpg"]


# Addresses that are called nothing, but are a picture's by what the link, or the attribute, says.
SAID_TO_BE_ONE = [
    ("<a href=/get/8 type=image/jpeg><img src=/small/91zz.jpg></a>", "/get/8"),
    ("<a href=/get/8 download><img src=/small/91zz.jpg></a>", "/get/8"),
    ("<img src=/small/91zz.jpg data-fullsize-photo=/get/8>", "/get/8"),
    ("<figure data-master-file=/get/8><img src=/small/91zz.jpg></figure>", "/get/8"),
    (
        "<figure data-detail-url=/get/8 data-url=/get/9><img src=/small/91zz.jpg data-file=/get/7></figure>",
        "/small/91zz.jpg",
    ),
    ("""<a href=# data-item='{"src": "/get/8", "w": 2400, "h": 1600}'><img data-src=/small/91zz.jpg></a>""", "/get/8"),
    ("<a href=/get/8.zip download><img src=/small/91zz.jpg></a>", "/small/91zz.jpg"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8 download='Red kite.jpg'>Download</a></figure>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8 type='image/tiff; q=1'>full size</a></figure>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8 download>Save</a></figure>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8>View full size (2.1 MB)</a></figure>", "/get/8"),
    ("<div><a href=/kites/7><img src=/small/91zz.jpg></a><h3>Red</h3><a href=/get/8>En grand</a></div>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8 title='Bild vergrößern'><i></i></a></figure>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8>查看原图</a></figure>", "/get/8"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8>Full list</a></figure>", "/small/91zz.jpg"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8>Original recipe</a></figure>", "/small/91zz.jpg"),
    ("<figure><img src=/small/91zz.jpg><a href=/red.html>Full size</a></figure>", "/small/91zz.jpg"),
    ("<figure><img src=/small/91zz.jpg><a href='#full'>Full size</a></figure>", "/small/91zz.jpg"),
    ("<figure><img src=/small/91zz.jpg><a href=/get/8 download=list.csv>Download</a></figure>", "/small/91zz.jpg"),
]


@pytest.mark.parametrize(("markup", "larger"), SAID_TO_BE_ONE)
def test_addresses_that_are_said_to_be_a_pictures(markup: str, larger: str) -> None:
    assert [image.url for image in images(markup)] == [f"https://kites.example{larger}"]


def test_a_link_alone_that_says_that_it_leads_to_a_picture() -> None:
    found = images(
        "<a href=/get/8 download=red.png>Red</a> <a href=/get/9 type=image/webp>Box</a> <a href=/get/7>Hall</a>"
    )
    assert [(image.url[-1], image.shown.media_type) for image in found] == [("8", "image/png"), ("9", "image/webp")]


def test_a_link_that_names_the_file_names_the_picture(run: Program, tmp_path: Path) -> None:
    (tmp_path / "p.html").write_text(
        "<figure><img src=t1.jpg><a href=/get/8 download='C:\\x\\Red kite.jpg'>Download</a></figure>"
        "<p><a href=/get/9 download=blue.jpg><img src=t2.jpg></a><a href=/get/7 download=sled.png>Sled</a>"
    )
    rows = run("look", "p.html", "--base", "https://kites.example/", "--format", "jsonl").rows
    assert [row["name"] for row in rows] == ["Red kite", "blue", "sled"]
    shown = run("look", "p.html", "--base", "https://kites.example/", "--format", "jsonl", "--as-shown").rows
    assert [row["name"] for row in shown] == ["t1", "t2", "sled"]


def test_a_script_that_is_given_a_name_may_send_that_file(run: Program, web: Server) -> None:
    (web.www / "get").write_bytes(picture("JPEG", (200, 100), "navy"))
    (web.www / "t.jpg").write_bytes(picture("JPEG", (50, 25), "navy"))
    (web.www / "p.html").write_text("<a href='get?file=red.jpg'><img src=t.jpg></a>")
    (row,) = run("look", f"{web.address}/p.html", "--no-robots", "--format", "jsonl").rows
    assert (row["url"], row["evidence"]) == (f"{web.address}/get?file=red.jpg", "the picture links to it")


IN_TWO_PLACES = [
    "<img {}=/k/kite-1600x1200.jpg><img {}=/k/kite-150x150.jpg>",
    "<meta property=og:image content=/k/kite-delta-large.jpg><img {}=/k/kite-delta.jpg>",
    "<img {0}=/k/red.svg data-fallback=/k/a.png><img {0}=/k/red.svg data-fallback=/k/b.png>",
]


@pytest.mark.parametrize(
    "name", ["src", "data-src", "data-lazy-src", "src=data:image/gif;base64,R0lGODlhAQABAAA data-src"]
)
@pytest.mark.parametrize("markup", IN_TWO_PLACES)
def test_what_a_script_puts_in_place_is_shown_there(markup: str, name: str) -> None:
    (image,) = images(markup.format(name, name))
    assert image.url.endswith(("/kite-1600x1200.jpg", "/kite-delta-large.jpg", "/red.svg"))


DRESSED = {
    "in a picture": r"<picture><source type=image/webp srcset=/w/9.webp>\1</picture>",
    "in a span": r"<span class=frame>\1</span>",
    "in boxes": r"<div class=frame><div>\1</div></div>",
    "behind an icon": r"<img src=/icons/z.png width=16 height=16>\1",
    "behind what waits for it": r'<img class=blur src="data:image/gif;base64,R0lGODlhAQABAAAAACw=">\1',
    "before a copy for browsers without scripts": r'\1<noscript><img src="/small/91zz.jpg"></noscript>',
}
"""what changes nothing of an ``img``"""

SHOWN = re.compile(r'(<img src="/small[^>]*>)')


@pytest.mark.parametrize("how", DRESSED)
@pytest.mark.parametrize("markup", [markup for markup in LARGER if "<picture" not in markup and "<v:" not in markup])
def test_what_does_not_change_where_a_larger_version_is_named(markup: str, how: str) -> None:
    dressed = SHOWN.sub(DRESSED[how], markup)
    small = [image for image in images(dressed) if any("91zz" in reference.url for reference in image.references)]
    assert [image.url for image in small] == ["https://kites.example/full/8a1b2c.jpg"]


@pytest.mark.parametrize("markup", [markup for markup in LARGER if "lightbox id=" in markup or "dialog" in markup])
def test_a_background_opens_a_layer_as_a_picture_does(markup: str) -> None:
    shown = re.sub(r'<img src="(/small[^"]*)"([^>]*)>', r'<i style="background-image:url(\1)"\2></i>', markup)
    assert next(image.url for image in images(shown)) == "https://kites.example/full/8a1b2c.jpg"


def test_src_is_for_browsers_that_know_no_srcset() -> None:
    (image,) = images("<img src=/old.jpg srcset='/plain.jpg, /dense.jpg 2x'>")
    assert [one.url[22:] for one in image.candidates] == ["dense.jpg", "old.jpg", "plain.jpg"]
    assert image.shown.url.endswith("/plain.jpg")
    (waiting,) = images(
        "<img src=/a.jpg srcset='data:image/gif;base64,R0lGODlhAQABAAAAACw=' data-srcset='/b.jpg 900w'>"
    )
    assert (waiting.shown.url[22:], waiting.url[22:]) == ("a.jpg", "b.jpg")


def numbered(markup: str, number: int) -> str:
    """Return markup with names of its own, as the next of several pictures has it."""
    for name in ("91zz", "8a1b2c", "/m/", "/l/", "/w/", "/t/", "/f/"):
        edge = "/" if name.startswith("/") else ""
        markup = markup.replace(name, f"{edge}{number}{name.strip('/')}{number}{edge}")
    return markup


@pytest.mark.parametrize("markup", LARGER)
@pytest.mark.parametrize("meanwhile", ["", "/blank.gif", "data:image/gif;base64,R0lGODlhAQABAAAAACw="])
def test_where_several_name_larger_versions_and_show_one_meanwhile(markup: str, meanwhile: str) -> None:
    if meanwhile and "data-src" not in markup:
        markup = markup.replace('src="/small/91zz.jpg"', f'src="{meanwhile}" data-src="/small/91zz.jpg"')
    found = images("".join(numbered(markup, number) for number in (3, 4)))
    small = [image for image in found if any("91zz" in reference.url for reference in image.references)]
    assert [image.url for image in small] == [f"https://kites.example/full/{n}8a1b2c{n}.jpg" for n in (3, 4)]


IN_SEVERAL_SIZES = [
    "<div><img src=/s/delta-300.jpg><p>Get: <a href=/f/delta-800.jpg>800 px</a> <a href=/f/delta-1600.jpg>1600 px</a></p></div>",
    "<p><a href=/f/delta_orig.jpg>JPEG</a>, <a href=/f/delta_s.jpg>small</a></p><figure><img src=/s/delta.jpg></figure>",
    "<figure><img src=/s/delta_t.jpg></figure><p>(<a href=/f/delta.png>png</a>, <a href=/f/delta.svg>svg</a>)</p>",
]


@pytest.mark.parametrize("markup", IN_SEVERAL_SIZES)
def test_links_to_one_picture_in_several_sizes_are_that_picture(markup: str) -> None:
    both = images(f"{markup}<p>And then:</p>{markup.replace('delta', 'rokkaku')}")
    assert [image.shown.url.partition("/s/")[2][:5] for image in both] == ["delta", "rokka"]
    assert ["/f/" in image.url and len(image.candidates) for image in both] == [3, 3]


NAMED = [
    "<div><img src=/s/delta.jpg><h3><a href=/f/delta.jpg>The red one</a></h3></div>",
    "<table><tr><td><a href=/f/delta.jpg>The red one</a><td>1911<td><img src=/s/delta_thumb.jpg></table>",
]


@pytest.mark.parametrize("markup", NAMED)
def test_a_name_may_lead_to_the_picture_that_stands_beside_it(markup: str) -> None:
    both = images(f"{markup}<p>And then:</p>{markup.replace('delta', 'rokkaku')}")
    assert [image.url.rpartition("/")[2] for image in both] == ["delta.jpg", "rokkaku.jpg"]


def test_the_largest_of_several_linked_sizes_is_fetched(run: Program, web: Server) -> None:
    sides = {"delta-300.jpg": 30, "delta-640.jpg": 64, "delta-1600.jpg": 160, "delta-800.jpg": 80}
    for name, side in sides.items():
        (web.www / name).write_bytes(picture("JPEG", (side, side), "navy"))
    (web.www / "delta.tif").write_bytes(picture("TIFF", (120, 120), "navy"))
    links = "".join(f"<a href={name}>{name[6:-4]} px</a> " for name in sides)
    (web.www / "p.html").write_text(f"<div><img src=delta-300.jpg><p>{links}<a href=delta.tif>TIFF</a></p></div>")
    (row,) = run("look", f"{web.address}/p.html", "--no-robots", "--format", "jsonl").rows
    assert (row["width"], row["url"].rpartition("/")[2]) == (160, "delta-1600.jpg")


IN_TWO_SIZES = [
    ("/u/a-150x150.jpg", "/u/a-1600x1200.jpg"), ("/u/a-300x200.jpg", "/u/a.jpg"), ("/u/thumbs/1.jpg", "/u/1.jpg"),
    ("/u/thumbs/1.jpg", "/u/large/1.jpg"), ("/u/tn_a.png", "/u/a.jpg"), ("/u/small/a.jpg", "/u/a.jpg"), ("/u/a.jpg", "/u/a_original.jpg"),
    ("/u/a-thumb.jpg?v=2", "/u/a.jpg?v=2"), ("/59x46/h/he0327x.jpg", "/220x170/h/he0327x.jpg"), ("/a/w300h165/the-mill.jpg", "/a/w620h342/the-mill.jpg"), ("/u/150x200/the-mill.jpg", "/u/318x200/the-mill.jpg"),
]  # fmt: skip
IN_NO_TWO_SIZES = [
    ("/u/plate-10.jpg", "/u/plate-11.jpg"), ("/u/plate-640.jpg", "/u/plate-1024.jpg"), ("/u/a-30x40.jpg", "/u/a-50x70.jpg"), ("/u/a.jpg", "/v/a.jpg"),
    ("/u/a_thumb.jpg", "/u/a-300x200.jpg"), ("/u/a-thumb.jpg?v=2", "/u/a.jpg?v=3"), ("/u/sled-small.jpg", "/u/sled.jpg"), ("/i.php?a=1", "/i.php?a=2"), ("/u/a.jpg", "/u/a.png"),
    ("/u/house_l.jpg", "/u/house_r.jpg"), ("/u/thumbs/1.jpg", "/u/2.jpg"),
    ("/300x200/auto.png", "/600x400/auto.png"), ("/ads/468x60/1.gif", "/ads/728x90/1.gif"), ("/u/300x200/the-mill.jpg", "/v/600x400/the-mill.jpg"), ("/u/placeholder_300x200.svg", "/u/placeholder_600x400.svg"),
]  # fmt: skip


def test_numbered_servers_have_the_same() -> None:
    one, other = "<img src=//img1.kites.example/u/a-300x200.jpg>", "<img src=//img3.kites.example/u/a.jpg>"
    assert [image.url for image in images(one + other)] == ["https://img3.kites.example/u/a.jpg"]
    assert len(images(one + other.replace("img3", "art3"))) == 2


@pytest.mark.parametrize(("small", "large"), IN_TWO_SIZES)
def test_what_a_page_shows_in_two_sizes_is_one_picture(small: str, large: str) -> None:
    for markup in (
        f"<img src={large} alt=Big><img src={small}>",
        f"<img src={small}><img src={large} alt=Big>",
        f"<img src=data:, data-src={large} alt=Big><img src=data:, data-src={small}>",
    ):
        (image,) = images(markup)
        assert (image.url, image.shown.words.alt) == (f"https://kites.example{large}", "Big")


@pytest.mark.parametrize(("one", "other"), IN_NO_TWO_SIZES)
def test_what_is_named_alike_is_not_always_one_picture(one: str, other: str) -> None:
    assert len(images(f"<img src={one}><img src={other}>")) == 2


def test_what_turns_out_to_be_one_file_is_listed_once(run: Program, web: Server) -> None:
    for name, sides in (("kite.jpg", (200, 100)), ("kite@50.jpg", (50, 25)), ("kite@20x20_crop.jpg", (20, 20))):
        (web.www / name).write_bytes(picture("JPEG", sides, "navy"))
    (web.www / "p.html").write_text(
        "<a href=kite.jpg><img src=kite@50.jpg></a><p>x</p><p><img src=kite@20x20_crop.jpg></p>"
    )
    page = f"{web.address}/p.html"
    (row,) = run("look", page, "--no-robots", "--format", "jsonl").rows
    assert row["url"].endswith("/kite.jpg")
    assert "2 found → repeated −1 → 1 picked" in run("look", page, "--no-robots").out
    assert "the same file as picture 1" in run("why", page, "2", "--no-robots").out
    assert len(run("look", page, "--no-robots", "--as-shown", "--format", "jsonl").rows) == 2


NOT_ITS_LARGER = [
    # an icon that leads to several pictures is not one of them
    "<img src=/small/91zz.jpg><a href=/full/8a1b2c.jpg>The hall in 1911</a>",
    "<div><img src=/small/91zz.jpg><img src=/small/b.jpg><a href=/full/8a1b2c.jpg>zoom</a></div>",
    "<div><img src=/small/91zz.jpg><a href=/full/8a1b2c.jpg>+</a><a href=/full/b.jpg>+</a></div>",
    # a name that leads to a file that is called otherwise
    "<div><img src=/small/91zz.jpg> <a href=/full/8a1b2c.jpg>Red Delta</a></div>",
    # numbers that may count
    "<div><img src=/small/91zz-640.jpg></div><div><img src=/small/91zz.jpg><a href=/full/91zz-641.jpg>641</a></div>",
    # formats and sizes of something that is called otherwise
    "<div><img src=/small/91zz.jpg><a href=/full/8a1b2c.jpg>JPEG</a><a href=/full/8a1b2c.png>PNG</a></div>",
    "<p><a href=/full/8a1b2c.jpg>JPEG</a></p><figure><img src=/small/91zz.jpg></figure>",
    "<p><a href=/full/8a1b2c.jpg>800 px</a></p><figure><img src=/small/91zz.jpg><img src=/small/8a1b2c.jpg></figure>",
    '<img src=/small/91zz.jpg><script>x = {image: "/small/91zz.jpg", hover: "/full/8a1b2c.jpg"}</script>',
    '<img src=/small/91zz.jpg><script>x = [{src: "/small/91zz.jpg"}, {src: "/full/8a1b2c.jpg"}]</script>',
    '<img src=/small/91zz.jpg data-placeholder="/full/8a1b2c.jpg">',
    # what stands in for a picture that cannot be had, and what is shown while the pointer lies over one
    """<img src=/small/91zz.jpg onerror="this.onerror=null;this.src='/full/8a1b2c.jpg'">""",
    """<img src=/small/91zz.jpg @error="$el.src='/full/8a1b2c.jpg'">""",
    """<img src=/small/91zz.jpg onmouseover="this.src='/full/8a1b2c.jpg'" onmouseout="this.src='/small/91zz.jpg'">""",
    """<div onmouseenter="show('/full/91zz-2.jpg')"><img src=/small/91zz.jpg alt="91zz-1"></div>""",
    # a part of the page that a picture leads to; a layer with several pictures
    "<a href=#room><img src=/small/91zz.jpg></a><section id=room><img src=/full/8a1b2c.jpg></section>",
    "<a href=#room><img src=/small/91zz.jpg></a><div role=tabpanel id=room hidden><img src=/full/8a1b2c.jpg></div>",
    "<a href=#room><img src=/small/91zz.jpg></a><dialog id=room><img src=/full/8a1b2c.jpg><img src=/full/b.jpg></dialog>",
    # what an element around several pictures names, and does not call larger; what lies behind
    "<section data-cover=/full/8a1b2c.jpg><img src=/small/91zz.jpg><img src=/small/b.jpg></section>",
    "<div data-bg=/full/8a1b2c.jpg><img src=/small/91zz.jpg></div>",
    "<div data-brand-logo=/full/8a1b2c.jpg><img src=/small/91zz.jpg></div>",
    "<img src=/small/91zz.jpg data-none=/full/8a1b2c.jpg>"
    + "".join(f"<img src=/small/{n}.jpg data-none=/full/8a1b2c.jpg>" for n in "qrst"),
]


@pytest.mark.parametrize("markup", NOT_ITS_LARGER)
def test_what_is_another_picture(markup: str) -> None:
    (small,) = [image for image in images(markup) if image.shown.url.endswith("91zz.jpg")]
    assert small.url == small.shown.url


def test_what_is_shown_while_the_pointer_lies_over_a_picture_is_another() -> None:
    found = images("<img src=/a.jpg onmouseenter=\"this.src='/b.jpg'\"><img src=/c.jpg onclick=\"open('/d.jpg')\">")
    assert [image.url[-6:] for image in found] == ["/a.jpg", "/b.jpg", "/d.jpg"]
    (thumbnail,) = images("<img src=/t/kite-7.jpg onmouseover=\"main.src='/m/kite-7.jpg'\">")  # shown elsewhere
    assert thumbnail.url.endswith("/m/kite-7.jpg")
    for name in ("data-hover", "data-rollover-src", "data-secondary-image", "data-back"):
        assert [i.url[-6:] for i in images(f"<img src=/a.jpg {name}=/b.jpg data-zoom=/d.jpg>")] == ["/d.jpg", "/b.jpg"]


def test_a_thumbnail_without_words_has_those_of_the_layer_that_it_opens() -> None:
    (image,) = images(
        "<a href=#red><img src=/t/1.jpg></a><figure hidden class=lightbox id=red><img src=/f/9.jpg><figcaption>Red delta</figcaption></figure>"
    )
    assert (image.url[-8:], image.shown.words.caption, image.shown.hidden) == ("/f/9.jpg", "Red delta", False)


EACH_A_PICTURE = [
    ("<a href=/full/a.jpg><img src=/t/a.jpg><img src=/t/b.jpg></a>", "/full/a.jpg /t/b.jpg"),
    ("<div data-images='[\"/g/1.jpg\",\"/g/2.jpg\",\"/g/3.jpg\"]'><img src=/g/1.jpg></div>", "/g/1.jpg /g/2.jpg /g/3.jpg"),
    ("<img src=/a.jpg data-images='[\"/g/1.jpg\",\"/g/2.jpg\"]'>", "/a.jpg /g/1.jpg /g/2.jpg"),
    ("<img src=/x.jpg data-image1=/1.jpg data-image2=/2.jpg data-src-2x=/x2.jpg>", "/x2.jpg /1.jpg /2.jpg"),
    ("<div data-before=/b.jpg data-after=/a.jpg></div><img src=/c.jpg data-after=/d.jpg>", "/b.jpg /a.jpg /c.jpg /d.jpg"),
    ("<img src=/v/red.jpg data-variant-blue=/v/blue.jpg data-variant-green=/v/green.jpg>", "/v/red.jpg /v/blue.jpg /v/green.jpg"),
    ("<script type=application/json>{\"image1\":\"/1.jpg\",\"image2\":\"/2.jpg\"}</script>", "/1.jpg /2.jpg"),
    ("<picture><source media='(prefers-color-scheme: dark)' srcset='/d.png 1x, /d2.png 2x'><img src=/l.png></picture>",
     "/d2.png /l.png"),
    ("<img src=/a.jpg lowsrc=/low.jpg data-thumb=/t.jpg><img src=/blank.gif data-thumb=/t2.jpg>", "/a.jpg /t2.jpg"),
    ("<link rel=preload as=image imagesrcset='/p/1.jpg 400w, /p/2.jpg 800w'>", "/p/2.jpg"),
    ("<img src=data:, data-src='{\"1x\": \"/a1.jpg\", \"2x\": \"/a2.jpg\"}'><img src=/b.jpg data-sizes='{\"400w\": \"/b4.jpg\", \"900w\": \"/b9.jpg\"}'>",
     "/a2.jpg /b9.jpg"),
    ("<img src=/k_180x.jpg data-src='/k_{width}x.jpg?v=7' data-widths='[180, 540, 1080]'><img data-src=/n_{width}x.jpg>", "/k_1080x.jpg?v=7"),
    ("<div class=lazy data-bgset='/g/4.jpg 400w, /g/8.jpg 800w'></div>", "/g/8.jpg"),
    ("<div data-full=/l/1.jpg><img src=/t/1.jpg><img src=/heart.png></div>", "/l/1.jpg /heart.png"),
    ("<img src=/h/delta-300px.jpg><img src=/h/delta.jpg><img src=/h/md/sled.jpg><img src=/h/xl/sled.jpg>", "/h/delta.jpg /h/xl/sled.jpg"),
    ("<img src=/h/300w/red-delta.jpg><img src=/h/w900/red-delta.jpg>", "/h/w900/red-delta.jpg"),
    ("<img src=/h/lamp-300w.jpg><img src=/h/lamp-500w.jpg><img src=/h/cart-w124.jpg><img src=/h/cart-w140.jpg>",
     "/h/lamp-300w.jpg /h/lamp-500w.jpg /h/cart-w124.jpg /h/cart-w140.jpg"),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "expected"), EACH_A_PICTURE)
def test_what_are_pictures_of_their_own(markup: str, expected: str) -> None:
    found = {image.url.removeprefix("https://kites.example") for image in images(markup)}
    assert found == set(expected.split())


@pytest.mark.parametrize(
    ("link", "leads"), [("#", False), ("#box-1", False), ("?id=7", True), ("kite.html#top", True), ("/", False)]
)
def test_what_leads_to_a_page_of_its_own(link: str, *, leads: bool) -> None:
    (image,) = images(f"<a href='{link}'><img src=/t.jpg width=200 height=150></a>")
    assert bool(leads_to_page(image)) is leads


@pytest.mark.parametrize(
    "drawing", ["<svg viewBox='0 0 9 9'><path d=M0 /></svg>", "<img src='data:image/svg+xml,%3Csvg/%3E'>"]
)
def test_a_drawing_leads_to_nothing_larger(drawing: str) -> None:
    (image,) = images(f"<a href=/kites/red>{drawing} Red</a>")
    assert not leads_to_page(image)


def test_a_stand_in_ties_nothing_together() -> None:
    lazy = "".join(
        f"<img src=/blank.gif data-placeholder=/blank.gif data-src=/k/{name}.jpg>"
        for name in ("red", "mill", "crow", "box")
    )
    assert [image.url[-8:] for image in images(lazy)] == ["/red.jpg", "mill.jpg", "crow.jpg", "/box.jpg"]


LINKED_DATA = '<script type="application/ld+json">{{"@type": "Product", "image": {}}}</script>'.format
TOLD = [
    '<meta property="og:image" content="/up/kite-red.jpg">',
    '<div itemscope itemtype="https://schema.org/Product"><link itemprop=image href="/up/kite-red.jpg"></div>',
    LINKED_DATA('"/up/kite-red.jpg"'),
    '<script type="application/ld+json">{"@type": "Photograph", "name": "Red", "image": "/up/kite-red.jpg"}</script>',
    LINKED_DATA('[{"@type": "ImageObject", "contentUrl": "/up/kite-red.jpg"}]'),
]


@pytest.mark.parametrize("markup", TOLD)
def test_what_a_page_tells_is_the_picture_that_is_named_alike(markup: str) -> None:
    (card,) = images(f'{markup}<img src="/t/kite-red-thumb.jpg">')
    assert (card.shown.url[-18:], card.url[-16:]) == ("kite-red-thumb.jpg", "/up/kite-red.jpg")


def test_of_several_that_a_page_tells_and_that_are_named_alike_none_is_it() -> None:
    found = images(LINKED_DATA('["/a/kite-red.jpg", "/b/kite-red.jpg"]') + '<img src="/t/kite-red-thumb.jpg">')
    assert [image.url[-18:] for image in found if image.shown.found_in == "img"] == ["kite-red-thumb.jpg"]


@pytest.mark.parametrize(
    ("name", "expected"),
    [
        ("data-full-src", 3), ("dataHiRes", 2), ("data-hires", 3), ("zoomImage", 2), ("data-src", 1), ("image_large_url", 2),
        ("data-largeimg", 2), ("imgbig", 2), ("data-thumbsrc", -1), ("data-imgurl", 1), ("data-medium-file", 0), ("thumbUrl", -1), ("data-thumb-full", -1), ("data-large-placeholder", -2),
    ],
)  # fmt: skip
def test_what_names_say_of_size(name: str, expected: int) -> None:
    assert rank(name) == expected


def test_the_largest_of_several_is_found_by_looking(run: Program, web: Server) -> None:
    for folder, size in (("s", (60, 40)), ("m", (90, 60)), ("l", (300, 200)), ("x", (20, 10))):
        (web.www / folder).mkdir()
        for n in range(6):
            (web.www / folder / f"{n}.png").write_bytes(picture("PNG", size, (n, 0, 0)))
    (web.www / "p.html").write_text(
        "".join(f"<a href=/m/{n}.png rev=/l/{n}.png><img src=/s/{n}.png data-extra=/x/{n}.png></a>" for n in range(6))
        + "<a href=/x/0.png><img src=/m/1.png></a>"
    )
    rows = run("look", f"{web.address}/p.html", "--format", "jsonl", "--no-robots").rows
    asked = web.requests()
    assert {row["url"].split("/")[-2] for row in rows if "/s/" in row["shown_url"]} == {"l"}
    assert len(asked) <= 1 + 2 * 4 + 2 + 5  # and five guesses for the one in a folder called m
    outcomes = {c["url"].split("/")[-2]: c["outcome"] for c in rows[0]["candidates"]}
    assert outcomes == {"m": "PNG 90×60", "x": "PNG 20×10", "s": "PNG 60×40"}


def test_of_two_as_large_the_shown_one_is_meant_unless_a_name_says_otherwise(run: Program, web: Server) -> None:
    for n, name in enumerate("ab"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (60, 40), (n, 0, 0)))
    for attribute, meant in (("data-what", "a.png"), ("data-src", "b.png"), ("data-zoom", "b.png")):
        (web.www / "p.html").write_text(f"<img src=a.png {attribute}=b.png>")
        found = run("look", f"{web.address}/p.html", "--format", "urls", "--no-robots", "--fresh").out.split()
        assert [url.rpartition("/")[2] for url in found] == [meant]


def test_a_site_may_tell_which_picture_a_page_is_about(run: Program, web: Server) -> None:
    (web.www / "big").mkdir()
    (web.www / "big" / "0042.png").write_bytes(picture("PNG", (600, 400)))
    (web.www / "s.png").write_bytes(picture("PNG", (60, 40)))
    (web.www / "leaf.html").write_text(
        '<link rel=alternate type=application/json+oembed href="/tell.json"><p>A kite</p>'
    )
    (web.www / "tell.json").write_text('{"type": "photo", "url": "/big/0042.png", "width": 600, "height": 400}')
    (web.www / "p.html").write_text("<a href=leaf.html><img src=s.png></a>")
    assert run("look", f"{web.address}/leaf.html", "--format", "urls").out == f"{web.address}/big/0042.png\n"
    through = run("look", f"{web.address}/p.html", "--through", "2", "--format", "urls", "--no-robots").out
    assert through == f"{web.address}/big/0042.png\n"


# Addresses that nothing but their place says to be images.
UNSAID = [
    ('<img src="/small/91zz.jpg" data-srcset="/i/1?w=300 300w, /i/1?w=1200 1200w">', "/i/1?w=1200"),
    ('<img src="/small/91zz.jpg" data-lazy-srcset="/i/300 1x, /i/600 2x">', "/i/600"),
    ('<img src="/small/91zz.jpg" data-bgset="/i/8-300 300w, /i/8-1200 1200w">', "/i/8-1200"),
    ('<a data-type=image href="/media/5"><img src="/small/91zz.jpg"></a>', "/media/5"),
    ('<a type="image/jpeg" href="/media/5"><img src="/small/91zz.jpg"></a>', "/media/5"),
    ('<a data-type=video href="/media/5"><img src="/small/91zz.jpg"></a>', "/small/91zz.jpg"),
    ('<a data-type=image href="/media/5.html"><img src="/small/91zz.jpg"></a>', "/small/91zz.jpg"),
    ('<img src="/small/91zz.jpg" data-srcset="lazy loading">', "/small/91zz.jpg"),
]


@pytest.mark.parametrize(("markup", "best"), UNSAID)
def test_versions_whose_addresses_say_nothing(markup: str, best: str) -> None:
    (image,) = images(markup)
    assert image.best.url.removeprefix("https://kites.example") == best


@pytest.mark.parametrize(
    ("markup", "script", "found"),
    [
        ("<script src=/js/wall.js></script><p>Kites</p>", "fetch('/data/kites.json').then(show)", 2),
        ("<script>fetch('/data/kites.json')</script><script src=/js/none.js></script>", "", 2),
        ("<script src=/js/wall.js></script><img src=/a.png>", "fetch('/data/kites.json')", 1),
        ("<script src=/js/wall.js></script>", "load('/data/config.json')", 0),
    ],
)
def test_a_page_without_pictures_holds_those_of_the_data_that_its_scripts_name(
    markup: str, script: str, found: int, run: Program, web: Server
) -> None:
    (web.www / "js").mkdir()
    (web.www / "data").mkdir()
    (web.www / "js" / "wall.js").write_text(script)
    for name in ("kites", "config"):
        (web.www / "data" / f"{name}.json").write_text('{"kites": [{"src": "/big/red.png"}, {"src": "/big/box.png"}]}')
    (web.www / "p.html").write_text(f"<title>Kites</title>{markup}")
    rows = run("look", f"{web.address}/p.html", "--format", "jsonl", "--no-robots").rows
    assert len(rows) == found


RESPONSIVE = [
    "<img src=s.jpg srcset='s.jpg 1x, m.jpg 2x'>",
    "<picture><source srcset='s.jpg 60w, m.jpg 120w'><img src=s.jpg></picture>",
    "<img data-src=s.jpg>",
    "<img class=lazy src=data:image/gif;base64,R0lGODlhAQABAAAAACw= data-srcset='s.jpg 60w, m.jpg 120w'>",
    "<div style='background-image:url(s.jpg)'></div>",
    "<div data-bg=s.jpg></div>",
]


def test_thumbnails_of_any_kind_lead_to_their_pages(run: Program, web: Server) -> None:
    for name, side in (("s", 60), ("m", 120), ("l", 300)):
        (web.www / f"{name}.jpg").write_bytes(picture("JPEG", (side, side // 2), "navy"))
    (web.www / "large.html").write_text("<main><img src=l.jpg></main>")
    (web.www / "small.html").write_text("<main><img src=s2.jpg></main>")
    (web.www / "s2.jpg").write_bytes(picture("JPEG", (100, 50), "navy"))
    for thumbnail in RESPONSIVE:
        for page in ("large", "small"):  # one shows less than the thumbnail's own largest size
            (web.www / "p.html").write_text(f"<a href={page}.html>{thumbnail}</a>")
            order = ("look", f"{web.address}/p.html", "--through", "1", "--no-robots", "--fresh", "--format", "jsonl")
            (row,) = run(*order).rows
            own = "m.jpg" if "m.jpg" in thumbnail else "s2.jpg"
            assert row["url"].rpartition("/")[2] == ("l.jpg" if page == "large" else own), thumbnail


BEHIND = [
    "<img src=l.jpg>",
    "<img data-src=l.jpg>",
    "<img class=lazy src=data:image/gif;base64,R0lGODlhAQABAAAAACw= data-src=l.jpg><noscript><img src=l.jpg></noscript>",
    "<picture><source srcset='m.jpg 120w, l.jpg 300w'><img src=m.jpg></picture>",
    "<div style='background-image:url(l.jpg)'></div>",
    "<div class=zoom data-zoom-image=l.jpg><img src=m.jpg></div>",
    "<canvas></canvas><a href=l.jpg>Download original</a>",
]


@pytest.mark.parametrize("shown", BEHIND)
def test_the_page_behind_shows_its_picture_in_any_way(run: Program, web: Server, shown: str) -> None:
    for name, side in (("s", 60), ("m", 120), ("l", 300)):
        (web.www / f"{name}.jpg").write_bytes(picture("JPEG", (side, side // 2), "navy"))
    (web.www / "p.html").write_text("<a href=v.html><img src=s.jpg></a>")
    (web.www / "v.html").write_text(f"<header><a href=/><img src=logo.png width=30></a></header><main>{shown}</main>")
    (row,) = run("look", f"{web.address}/p.html", "--through", "1", "--no-robots", "--fresh", "--format", "jsonl").rows
    assert row["url"].rpartition("/")[2] == "l.jpg"


@pytest.mark.parametrize(
    "lead", ["<h3><a href=v{n}.html>Kite {n}</a></h3>", "<p>Kite {n}</p><a href=v{n}.html>Full size</a>"]
)
def test_a_name_or_words_below_a_picture_lead_to_its_page_as_the_picture_does(
    run: Program, web: Server, lead: str
) -> None:
    for n in range(3):
        (web.www / f"s{n}.jpg").write_bytes(picture("JPEG", (60, 30), f"#{n}0{n}090"))
        (web.www / f"l{n}.jpg").write_bytes(picture("JPEG", (300, 150), f"#{n}0{n}090"))
        (web.www / f"v{n}.html").write_text(f"<main><img src=l{n}.jpg></main>")
    cards = "".join(f"<div class=card><img src=s{n}.jpg>{lead.format(n=n)}</div>" for n in range(3))
    (web.www / "p.html").write_text(f"<h1>Kites</h1>{cards}")
    rows = run("look", f"{web.address}/p.html", "--through", "1", "--no-robots", "--fresh", "--format", "jsonl").rows
    assert [row["url"].rpartition("/")[2] for row in rows] == ["l0.jpg", "l1.jpg", "l2.jpg"]
