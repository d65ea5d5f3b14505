"""Finding and grouping: golden pages, each with the images a reader would count by hand."""

import re
from collections.abc import Callable
from html import unescape
from importlib.resources import files

import pytest
from hypothesis import given, settings, strategies as st

from pickcrate.finders import find
from pickcrate.fullsize import resolve
from pickcrate.group import group
from pickcrate.items import itemised
from pickcrate.read.fields.contenttype import content_type
from pickcrate.read.pages.decode import decode
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.xhtml import as_html
from pickcrate.sift.furniture import mark
from pickcrate.values.image import Image

HOME = "https://galewick.example/rooms/list.html"
SITE = files("pickcrate.demo").joinpath("site")


def images(html: str | bytes, address: str = HOME, charset: str = "", base: str = "") -> list[Image]:
    octets = html.encode() if isinstance(html, str) else html
    page = read_document(
        octets, source=address, address=address, fields={"content-type": f"text/html; charset={charset}"}, base=base
    )
    return [resolve(image) for image in group(find(page).references, source=address, title=page.called)]


def shown(html: str, address: str = HOME, **options: str) -> list[str]:
    return [image.shown.url.removeprefix("https://galewick.example/") for image in images(html, address, **options)]


ADDRESSES = [
    ("<img src=a.png>", ["rooms/a.png"]),
    ("<img src=/a.png>", ["a.png"]),
    ("<img src=../a.png><img src=./../b.png>", ["a.png", "b.png"]),
    ("<img src=//kites.example/a.png>", ["https://kites.example/a.png"]),
    ("<img src='a b.png'>", ["rooms/a%20b.png"]),
    ("<img src=' \n a.png\t'>", ["rooms/a.png"]),
    ("<img src='a\nb.png'>", ["rooms/ab.png"]),  # URL standard: tab and newline are removed
    ("<img src='Drachen über.png'>", ["rooms/Drachen%20%C3%BCber.png"]),
    ("<img src='a.png?x=1&amp;y=2#top'>", ["rooms/a.png?x=1&y=2"]),
    ("<img src='a.png?x=1&y=%7Ez%zz'>", ["rooms/a.png?x=1&y=%7Ez%zz"]),
    ("<img src='a&#x1;.png'>", ["rooms/a%01.png"]),
    ("<img src='http://['><img src=''><img>", []),
    ("<base href=/far/away/><img src=a.png>", ["far/away/a.png"]),
    ("<base target=_top><base href=x/><base href=y/><img src=a.png>", ["rooms/x/a.png"]),
    ("<base href='file:///etc/'><img src=a.png>", ["rooms/a.png"]),
    ("<base href='javascript:0'><img src=a.png>", ["rooms/a.png"]),
    ("<a href=big.jpg>A kite</a><a href=page.html>no</a><a href=x.JPEG?size=1>yes</a>", ["rooms/big.jpg", "rooms/x.JPEG?size=1"]),
    ("<img src=a.png><img src='../rooms/a.png'><img src=/rooms/a.png#x>", ["rooms/a.png"]),
    ("<svg><image href=a.png /></svg><image src=b.png>", ["rooms/a.png", "rooms/b.png"]),
]  # fmt: skip


@pytest.mark.parametrize(("html", "expected"), ADDRESSES)
def test_addresses_are_absolute_by_the_url_standard(html: str, expected: list[str]) -> None:
    assert shown(html) == expected


def test_base_option_and_file_base() -> None:
    assert shown("<img src=a.png>", base="https://galewick.example/elsewhere/") == ["elsewhere/a.png"]
    assert shown("<img src='a b.png'>", "file:///home/maud/page.html") == ["file:///home/maud/a%20b.png"]
    on_disk = "<img src=//cdn.kites.example/a.png><img src=//share/b.png><img src=///c.png>"
    expected = ["https://cdn.kites.example/a.png", "file://share/b.png", "file:///c.png"]
    assert shown(on_disk, "file:///home/maud/page.html") == expected


GROUPS = [
    # (page, [(shown, what pack would fetch, evidence)])
    ("<a href=big.jpg><img src=small.jpg></a>", [("small.jpg", "big.jpg", "the picture links to it")]),
    ("<a href=page.html><img src=small.jpg></a>", [("small.jpg", "small.jpg", "as shown")]),
    ("<a href=big.jpg>words</a> <a href=big.jpg><img src=small.jpg></a>", [("small.jpg", "big.jpg", "the picture links to it")]),
    ("<img src=a.jpg srcset='b.jpg 300w, c.jpg 900w, d.jpg 600w'>", [("a.jpg", "c.jpg", "img srcset 900w")]),
    ("<img src=a.jpg srcset='a.jpg 900w, b.jpg 300w'>", [("a.jpg", "a.jpg", "as shown")]),
    ("<img src=a.jpg srcset='a.jpg, b.jpg 2x'>", [("a.jpg", "b.jpg", "img srcset 2x")]),
    ("<img srcset='a.jpg 1x, b.jpg 3x'>", [("a.jpg", "b.jpg", "img srcset 3x")]),
    ("<picture><source srcset='a.webp 2x' type=image/webp><img src=a.jpg></picture>", [("a.jpg", "a.webp", "picture srcset 2x")]),
    ("<video><source srcset=a.jpg></video>", []),
    # a link to copy, and a choice, by their names; not that of another picture
    ("<img src=/t/red-delta_thumb.jpg><input value=/i/red-delta.jpg>", [("/t/red-delta_thumb.jpg", "red-delta.jpg", "the value attribute")]),
    ("<img src=/t/red-delta.jpg><option value=/i/blue-sled.jpg>", [("/t/red-delta.jpg", "red-delta.jpg", "as shown"), ("/i/blue-sled.jpg", "blue-sled.jpg", "as shown")]),
    # one placeholder shown by many pictures ties nothing together, and is itself one picture
    ("<img src=x.gif><a href=one.jpg><img src=x.gif></a><a href=two.jpg><img src=x.gif></a>",
     [("x.gif", "x.gif", "as shown"), ("one.jpg", "one.jpg", "as shown"), ("two.jpg", "two.jpg", "as shown")]),
    # a placeholder gives way to what is put in its place, where it can be told for one
    ("<img src=x.gif data-src=a.jpg><img src=x.gif data-src=b.jpg data-full=c.jpg>",
     [("a.jpg", "a.jpg", "as shown"), ("b.jpg", "c.jpg", "the data-full attribute")]),
    ("<img src='data:image/gif;base64,R0lGODlhAQABAAAAACw=' data-srcset='a.jpg 400w, b.jpg 800w'>", [("a.jpg", "b.jpg", "data data-srcset 800w")]),
    ("<img src=spacer.gif data-src=a.jpg><div data-original=b.jpg><img src=blank.gif alt=B></div>", [("a.jpg", "a.jpg", "as shown"), ("b.jpg", "b.jpg", "as shown")]),
    ("<img src=x.gif data-src='a.jpg|a-fine.jpg'><img src=x.gif data-src='b.jpg|b-fine.jpg'>",
     [("a.jpg", "a-fine.jpg", "data data-src 2x"), ("b.jpg", "b-fine.jpg", "data data-src 2x")]),
    ("<img src=x.gif data-kinds='[a-s.jpg, small], [a.jpg, (min-width: 800px)]'><img src=y.gif data-src='&lt;768:b-s.jpg, >768:b.jpg'>",
     [("x.gif", "a.jpg", "the data-kinds attribute"), ("y.gif", "b.jpg", "the data-src attribute")]),
    ("<img src=a-s.jpg data-src=a.jpg><img src=y.jpg data-src=b.jpg>", [("a-s.jpg", "a.jpg", "the data-src attribute"), ("y.jpg", "b.jpg", "the data-src attribute")]),
    # a background for each screen, under names that only say how large it is
    ("<style>#m{background:url(7/640x360.jpg)}@media(min-width:9em){#m{background:url(7/1800x440.jpg)}}#n{background:url(7/300x200.jpg)}</style>"
     "<p id=m><p id=n>", [("7/640x360.jpg", "1800x440.jpg", "css background"), ("7/300x200.jpg", "300x200.jpg", "as shown")]),
    ("<style>#m{background:url(7/large.jpg)}@media(max-width:9em){#m{background:url(7/mobile.jpg);background:url(8/mobile.jpg)}}</style><p id=m>",
     [("7/large.jpg", "large.jpg", "as shown"), ("8/mobile.jpg", "mobile.jpg", "as shown")]),
    # versions that only their names' words for a size tell apart, in a folder of one thing; a shirt's sizes are two
    ("<img src=/rooms/849/medium_16-9.jpg><img src=/rooms/849/large_16-9.jpg><img src=/rooms/849/large.jpg>"
     "<img src=/rooms/small.jpg><img src=/rooms/large.jpg>",
     [("/rooms/849/large_16-9.jpg", "large_16-9.jpg", "as shown"), ("/rooms/849/large.jpg", "large.jpg", "as shown"),
      ("/rooms/small.jpg", "small.jpg", "as shown"), ("/rooms/large.jpg", "large.jpg", "as shown")]),
    # two thumbnails of one original are one picture; two pictures that link to one plan are two
    ("<a href=kite.jpg><img src=kite-s.jpg></a><a href=kite.jpg><img src=kite-m.jpg></a>", [("kite-s.jpg", "kite.jpg", "the picture links to it")]),
    ("<a href=plan.png><img src=one.jpg></a><a href=plan.png><img src=two.jpg></a>",
     [("one.jpg", "plan.png", "the picture links to it"), ("two.jpg", "plan.png", "the picture links to it")]),
    # without a src, what a script puts there is what is shown
    ("<a href=kite.jpg><img data-src=kite-s.jpg></a><a href=sled.jpg><img></a>",
     [("kite-s.jpg", "kite.jpg", "the picture links to it"), ("sled.jpg", "sled.jpg", "as shown")]),
    ("<a href=plan.png><img data-src=one.jpg></a><a href=plan.png><img data-src=two.jpg></a>",
     [("one.jpg", "plan.png", "the picture links to it"), ("two.jpg", "plan.png", "the picture links to it")]),
    ("<a href=kite.jpg><img><noscript><img src=kite-s.jpg></noscript></a><a href=sled.jpg><i data-bg=sled-s.jpg></i></a>",
     [("kite-s.jpg", "kite.jpg", "the picture links to it"), ("sled-s.jpg", "sled.jpg", "the picture links to it")]),
    ("<a href=kite.jpg><img src=zoom.gif width=16><img src=kite-s.jpg></a>", [("zoom.gif", "zoom.gif", "as shown"), ("kite-s.jpg", "kite.jpg", "the picture links to it")]),
    # beside what an element shows, its attributes name that picture larger
    ("<zoom-img src=a.jpg data-large=b.jpg></zoom-img><embed src=c.jpg data-full=d.jpg><video poster=e.jpg data-poster=f.jpg></video>",
     [("a.jpg", "b.jpg", "the data-large attribute"), ("c.jpg", "d.jpg", "the data-full attribute"), ("e.jpg", "f.jpg", "the data-poster attribute")]),
    # of several versions in attributes the smallest is shown, wherever it stands, and none is lost
    ("<li data-src=/1.jpg data-thumb=/1-s.jpg></li><li data-thumb=/2-s.jpg data-src=/2.jpg></li><b data-s=/3-s.jpg data-m=/3-m.jpg data-l=/3.jpg></b>",
     [("/1-s.jpg", "1.jpg", "the data-src attribute"), ("/2-s.jpg", "2.jpg", "the data-src attribute"), ("/3-s.jpg", "3.jpg", "the data-l attribute")]),
    ("<i data-placeholder=/p.jpg data-src=/a.jpg></i><i data-320=/b-320.jpg data-1280=/b-1280.jpg></i>",
     [("/a.jpg", "a.jpg", "as shown"), ("/b-320.jpg", "b-1280.jpg", "the data-1280 attribute")]),
    # data of several pictures in one attribute: versions of each, sizes of one, one each
    ("""<i data-k='[{"thumb": "/1-s.jpg", "full": "/1.jpg"}, {"full": "/2.jpg", "thumb": "/2-s.jpg"}]'></i>""",
     [("/1-s.jpg", "1.jpg", "the data-k attribute"), ("/2-s.jpg", "2.jpg", "the data-k attribute")]),
    ("""<i data-k='[{"url": "/1.jpg", "thumbnail": {"url": "/1-s.jpg"}}, {"thumbnail": {"url": "/2-s.jpg"}, "url": "/2.jpg"}]'></i>""",
     [("/1-s.jpg", "1.jpg", "the data-k attribute"), ("/2-s.jpg", "2.jpg", "the data-k attribute")]),
    ("""<i data-k='[{"src": "/kite-01.jpg", "w": 1600, "h": 1200}, {"src": "/kite-02.jpg", "w": 1200, "h": 1600}]'></i>""",
     [("/kite-01.jpg", "kite-01.jpg", "as shown"), ("/kite-02.jpg", "kite-02.jpg", "as shown")]),
    ("""<i data-k='[{"src": "/kite-300.jpg", "w": 300}, {"src": "/kite-900.jpg", "w": 900}]'></i><img src=/a.jpg data-k='{"/b.jpg": [300, 200], "/c.jpg": [900, 600]}'>""",
     [("/kite-300.jpg", "kite-900.jpg", "data data-k 900w"), ("/a.jpg", "c.jpg", "data data-k 900w")]),
    # a srcset in data, sizes for names, and stated widths
    ("""<i data-k='[{"src": "/1.jpg", "srcset": "/1-300.jpg 300w, /1-900.jpg 900w"}, {"src": "/2.jpg", "srcset": "/2-300.jpg 300w, /2-900.jpg 900w"}]'></i>""",
     [("/1-300.jpg", "1-900.jpg", "the data-k attribute"), ("/2-300.jpg", "2-900.jpg", "the data-k attribute")]),
    ("""<script>k = [{src: "/1.jpg", srcset: "/1-300.jpg 300w, /1-900.jpg 900w"}]; l = "/2-1x.jpg 1x, /2-2x.jpg 2x"</script>""",
     [("/1-300.jpg", "1-900.jpg", "the srcset attribute"), ("/2-1x.jpg", "2-2x.jpg", "the srcset attribute")]),
    ("""<script type=application/json>{"1": {"320": "/1-320.jpg", "1280": "/1-1280.jpg"}, "2": {"2019": "/2-2019.jpg", "2020": "/2-2020.jpg"},
     "3": [{"url": "/3-300.jpg", "width": 300}, {"url": "/3-900.jpg", "width": 900}, {"url": "/4-300.jpg", "width": 300}]}</script>""",
     [("/1-320.jpg", "1-1280.jpg", "data 1280w"), ("/2-2019.jpg", "2-2019.jpg", "as shown"), ("/2-2020.jpg", "2-2020.jpg", "as shown"),
      ("/3-300.jpg", "3-900.jpg", "data 900w"), ("/4-300.jpg", "4-300.jpg", "as shown")]),
    ("""<i data-k='[{"1x": "/a.jpg", "2x": "/b.jpg"}, {"1x": "/c.jpg", "2x": "/d.jpg"}]'></i><script>k = {one: {"300px": "/e.jpg", "900px": "/f.jpg"}}</script>""",
     [("/a.jpg", "b.jpg", "data data-k 2x"), ("/c.jpg", "d.jpg", "data data-k 2x"), ("/e.jpg", "f.jpg", "script 900w")]),
    ("""<i data-k='{"101": "/kite-101.jpg", "102": "/kite-102.jpg"}'></i><i data-k='{"500": "/kite-500.jpg", "505": "/kite-505.jpg"}'></i>""",
     [(f"/kite-{number}.jpg", f"kite-{number}.jpg", "as shown") for number in (101, 102, 500, 505)]),
    ("<i data-k='[a.jpg, (default)], [b.jpg, (large)]'></i>", [("a.jpg", "b.jpg", "the data-k attribute")]),
    ("""<a data-k='[{"thumb": "/1-s.jpg", "full": "/1.jpg"}, {"thumb": "/2-s.jpg", "full": "/2.jpg"}]'><img src=/2-s.jpg></a>""",
     [("/1-s.jpg", "1.jpg", "the data-k attribute"), ("/2-s.jpg", "2.jpg", "the data-k attribute")]),
]  # fmt: skip


@pytest.mark.parametrize(("html", "expected"), GROUPS)
def test_references_to_one_picture_are_one_image(html: str, expected: list[tuple[str, str, str]]) -> None:
    found = [(image.shown.raw, image.url.rpartition("/")[2], str(image.best.evidence)) for image in images(html)]
    assert found == expected
    assert [image.number for image in images(html)] == list(range(1, len(expected) + 1))


def test_a_type_that_only_the_markup_states() -> None:
    page = (
        "<object data=/1 type=image/png></object><a href=/2.php type='image/jpeg'><img src=/3></a><img src=/4.gif>"
        "<picture><source srcset=/5 type=image/webp><img src=/6></picture><input type=image src=/7>"
    )
    assert [image.claimed_type for image in images(page)] == ["png", "jpeg", "gif", "", ""]


def test_what_is_seen_small_is_not_hidden() -> None:
    small, large = "<img src=/849/medium.jpg>", "<img src=/849/large.jpg style=display:none>"
    assert [image.is_hidden for image in images(small + large)] == [False]
    assert [image.is_hidden for image in images(large)] == [True]


def test_words_sizes_and_places() -> None:
    html = """<title> The  hall </title><h1>Kites</h1><section class=old id=o><h2>Old <i>ones</i></h2>
      <figure><a href=plan.html title=no><img class='thumb x' src=a.jpg alt=' A
      kite ' title=T width=120px height='50%'></a><figcaption>Red,  1911</figcaption></figure></section>
      <table><caption>By region</caption><tr><td style='DISPLAY:none'><img src=b.jpg aria-label=hid></td></tr></table>"""
    one, other = images(html)
    words = one.shown.words
    assert (words.alt, words.title, words.caption, words.heading) == ("A kite", "T", "Red, 1911", "Old ones")
    assert (one.shown.box.width, one.shown.box.height) == (120, None)
    assert one.shown.link == "https://galewick.example/rooms/plan.html"
    assert one.shown.element == "body > section#o > figure > a > img.thumb"
    assert one.page_title == "The hall"
    assert (other.shown.words.caption, other.shown.words.alt, other.shown.hidden) == ("By region", "hid", True)


@pytest.mark.parametrize(
    ("html", "title"),
    [
        ("<svg><g><title>Menu</title></g></svg><h1>The <b>loft</b></h1><h1>Two</h1><img src=a.jpg>", "The loft"),
        ("<svg><title>Menu</title></svg><body><title>The hall</title><h1>Kites</h1><img src=a.jpg>", "The hall"),
        ("<title> </title><h1><img src=a.jpg></h1><h2>Kites</h2>", ""),
    ],
)
def test_the_title_of_a_page(html: str, title: str) -> None:
    assert images(html)[-1].page_title == title


@pytest.mark.parametrize(
    ("octets", "transport", "expected"),
    [
        (b"\xef\xbb\xbf<meta charset=latin1>\xc3\xbc", "", "utf-8"),
        (b"\xff\xfe<\0p\0>\0", "utf-8", "utf-16le"),
        (b"<\0?\0x\0m\0l\0", "", "utf-16le"),
        (b"\0<\0p\0>", "", "utf-16be"),
        (b"<meta charset=koi8-r>\xc1", "windows-1251", "windows-1251"),
        (b"<meta charset=koi8-r>\xc1", "", "koi8-r"),
        (b"<!-- <meta charset=koi8-r> --><meta charset='iso-8859-2'>", "", "iso-8859-2"),
        (b'<META http-equiv="Content-Type" content="text/html; charset=shift_jis">', "", "shift_jis"),
        (b'<meta content="text/html; charset=shift_jis">', "", "utf-8"),  # no pragma: not a declaration
        (b"<a title='<meta charset=koi8-r>'>", "", "utf-8"),
        (b"<meta charset=utf-16le>\xe9", "", "utf-8"),
        (b"<meta charset=x-user-defined>\xe9", "", "windows-1252"),
        (b'<?xml version="1.0" encoding="iso-8859-5"?><p>', "", "iso-8859-5"),
        (b"<p>" + b" " * 1100 + b"<meta charset=koi8-r>\xe9", "", "windows-1252"),
        ("<p>über".encode(), "no-such-charset", "utf-8"),
        (b"<p>\xfcber", "", "windows-1252"),
        (b"<meta charset=koi8-r title='<p>", "", "utf-8"),  # it runs out of bytes
        (b"<meta charset=koi8-r", "", "utf-8"),
    ],
)
def test_encoding_by_the_standard(octets: bytes, transport: str, expected: str) -> None:
    assert decode(octets, transport).encoding == expected


@pytest.mark.parametrize(
    ("field", "expected"),
    [
        ("TEXT/HTML ; Charset=GBK", ("text/html", "GBK")),
        ('text/html; x="a;charset=koi8-r"; charset="gbk"', ("text/html", "gbk")),
        ("text/html; charset='gbk'; charset=koi8-r", ("text/html", "gbk")),
        ("text/html;charset=gbk, text/html", ("text/html", "gbk")),
        ("image/png;; charset", ("image/png", "")),
    ],
)
def test_what_a_content_type_states(field: str, expected: tuple[str, str]) -> None:
    assert content_type({"content-type": field}) == expected


@pytest.mark.parametrize("label", ["windows-1251", "koi8-r", "euc-jp", "gb2312", "iso-8859-1"])
def test_a_stored_page_may_be_in_utf_8_whatever_it_declares(label: str) -> None:
    words = {"euc-jp": "赤い凧と青い凧の部屋", "gb2312": "红风筝和蓝风筝的房间", "iso-8859-1": "Küste"}.get(
        label, "Воздушные змеи"
    )
    for head in (f"<meta charset={label}>", " " * 1_100 + f"<meta charset={label}>"):
        markup = f"{head}<title>{words}</title><a href='?q={words}'><img src=a.jpg></a>"
        served = read_document(markup.encode(label), source="s", address="https://galewick.example/a.html")
        for octets in (markup.encode(), markup.encode(label)):
            stored = read_document(octets, source="s", address="file:///rooms/a.html", base="https://galewick.example/")
            assert (stored.title, stored.encoding) == (words, served.encoding)
    assert read_document(markup.encode(), source="s", address="https://galewick.example/a.html").title != words


NAMESPACES = (
    "xmlns='http://www.w3.org/1999/xhtml' xmlns:s='http://www.w3.org/2000/svg' xmlns:h='http://www.w3.org/1999/xhtml'"
)


@pytest.mark.parametrize(
    ("xhtml", "expected"),
    [
        ("<title/><a id='k'/><br/><hr></hr><p class=\"a/>b\"/>", "<title></title><a id='k'></a><br><hr><p class=\"a/>b\"></p>"),
        ("<p><![CDATA[a < b & <i/>]]></p><!-- <a/> --><?x <a/> ?>", "<p>a &lt; b &amp; &lt;i/></p><!-- <a/> -->"),
        ("<script>'?a&copy=1&amp;b'</script>", "<script>'?a&copy=1&b'</script>"),
        ("<script>a &lt; '&lt;/b>'</script><style><![CDATA[a > b{}</style>]]></style><b>&lt;</b>",
         "<script>a < '<\\/b>'</script><style>a > b{}<\\/style></style><b>&lt;</b>"),
        (f"<k {NAMESPACES}><s:image/><h:img/><epub:switch/></k>", f"<k {NAMESPACES}><image></image><img><epub:switch></epub:switch></k>"),
        ("<!DOCTYPE html [ <!ENTITY k '<a/>'> ]><p/>", "<!DOCTYPE html><p></p>"),
        ("a < b <i title='<'/> <p", "a < b <i title='<'/> <p"),  # no XML
    ],
)  # fmt: skip
def test_xhtml_is_the_same_as_html(xhtml: str, expected: str) -> None:
    assert as_html(xhtml) == expected


@pytest.mark.parametrize(
    ("address", "fields", "start", "is_xml"),
    [
        ("https://k.example/", {"content-type": "application/xhtml+xml; charset=utf-8"}, "", True),
        ("https://k.example/a.xhtml", {"content-type": "text/html"}, "<?xml version='1.0'?>", False),
        ("file:///k/a.XHTML?v=1", {}, "", True),
        ("file:///k/a.html", {}, "<?xml version='1.0'?>\n", True),
        ("file:///k/a.html", {}, "", False),
    ],
)
def test_which_pages_are_xml(address: str, fields: dict[str, str], start: str, is_xml: bool) -> None:
    octets = f"{start}<html {NAMESPACES}><head><title/></head><body><img src='\u00e9.jpg'/></body></html>".encode()
    found = find(read_document(octets, source="", address=address, fields=fields)).references
    assert [reference.raw for reference in found] == ["\u00e9.jpg"] * is_xml


@pytest.mark.parametrize(
    ("html", "expected"),
    [
        ("<meta charset=koi8-r>", "koi8-r"),
        ("<meta http-equiv=content-type content='text/html; CHARSET=shift_jis'>", "shift_jis"),
        ("<meta charset=utf-16>", "utf-8"),
        ("<!-- <meta charset=koi8-r> --><script>'<meta charset=koi8-r>'</script>", "windows-1252"),
        ("<meta charset=none><meta name=x><meta content='charset=koi8-r'><meta charset=latin2>", "iso-8859-2"),
    ],
)
def test_an_encoding_behind_the_prescan(html: str, expected: str) -> None:
    octets = b"<!-- " + b" " * 1100 + b" -->" + html.encode() + b"\xc1"
    assert read_document(octets, source="x", address="https://galewick.example/").encoding == expected


@pytest.mark.parametrize(
    ("charset", "raw", "expected"),
    [
        ("shift_jis", "a?k=\u6b63#\u6b63", "a?k=%90%B3"),
        ("koi8-r", "\u044f?\u044f\u20ac", "%D1%8F?%D1%26%238364%3B"),
        ("utf-8", "?\u044f", "?%D1%8F"),
        ("utf-16le", "?\u044f", "?%D1%8F"),
        ("koi8-r", "k#?\u044f", "k"),
        ("latin1", "?a=\xe9&\xe9", "?a=%E9&%E9"),
    ],
)
def test_a_query_is_in_the_encoding_of_the_page(charset: str, raw: str, expected: str) -> None:
    octets = (b"\xff\xfe" if charset == "utf-16le" else b"") + f'<img src="{raw}">'.encode(charset, "xmlcharrefreplace")
    page = read_document(
        octets, source="x", address="https://k.example/", fields={"content-type": f"text/html; charset={charset}"}
    )
    assert [r.url for r in find(page).references] == [f"https://k.example/{expected}"]


PIECES = st.lists(
    st.sampled_from(["<img", "<a", "<source", "<picture>", "</a>", "<table>", "<svg>", "<base", "src=", "srcset=", "href=", "a.jpg", "'", '"', ">", ",", "2x", "1w", "/", "&", "\x00",
                     "<k-a><template shadowrootmode=open>", "</template>", "<slot", "name=s>", "<b slot=s>", "<iframe srcdoc="])
    | st.text(max_size=8),
    max_size=40,
)  # fmt: skip


@settings(max_examples=200, deadline=None)
@given(st.binary(max_size=400) | PIECES.map(lambda pieces: " ".join(pieces).encode("utf-8", "surrogatepass")))
def test_any_bytes_give_references_and_never_raise(octets: bytes) -> None:
    for image in images(octets):
        assert image.url
        assert image.candidates[-1].url == image.shown.url


TAG = re.compile(r"""<(/?)([A-Za-z][\w-]*)((?:\s+[^\s=>"'/]+(?:\s*=\s*(?:"[^"]*"|'[^']*'|[^\s"'>]+))?)*)\s*/?>""")
ATTRIBUTE = re.compile(r"""([^\s=>"'/]+)(?:\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'>]+)))?""")
RAW = re.compile(
    r"<(script|style|noscript|svg|title|textarea)\b.*?</\1\s*>|<!--.*?-->|<!doctype[^>]*>", re.DOTALL | re.IGNORECASE
)


def outside_of_raw_text(markup: str, change: Callable[[re.Match[str]], str]) -> str:
    """Return the markup with each tag as ``change`` has it, but for what is in scripts, sheets and drawings."""
    pieces, at = [], 0
    for raw in RAW.finditer(markup):
        pieces += [TAG.sub(change, markup[at : raw.start()]), raw[0]]
        at = raw.end()
    return "".join([*pieces, TAG.sub(change, markup[at:])])


def in_capitals(tag: re.Match[str]) -> str:
    return f"<{tag[1]}{tag[2].upper()}{tag[3]}>"


def backwards(tag: re.Match[str]) -> str:
    attributes = [attribute[0] for attribute in ATTRIBUTE.finditer(tag[3])]
    return f"<{tag[1]}{tag[2]} {' '.join(reversed(attributes))} >" if attributes else tag[0]


def in_references(tag: re.Match[str]) -> str:
    def written(attribute: re.Match[str]) -> str:
        if attribute.lastindex == 1:
            return attribute[0]
        value = unescape(attribute[2] or attribute[3] or attribute[4] or "")
        characters = (one if one.isalnum() else f"&#x{ord(one):x};" for one in value)
        return f'{attribute[1]}="{"".join(characters)}"'

    return f"<{tag[1]}{tag[2]}{ATTRIBUTE.sub(written, tag[3])}>"


WRITTEN: dict[str, Callable[[str], bytes]] = {
    "elements in capitals": lambda text: outside_of_raw_text(text, in_capitals).encode(),
    "attributes in another order": lambda text: outside_of_raw_text(text, backwards).encode(),
    "values in character references": lambda text: outside_of_raw_text(text, in_references).encode(),
    "lines as Windows ends them": lambda text: text.replace("\n", "\r\n").encode(),
    "UTF-16": lambda text: text.encode("utf-16"),
    "UTF-8 with a mark": lambda text: text.encode("utf-8-sig"),
    "a box around it": lambda text: re.sub(r"(<body[^>]*>)", r"\1<div><div>", text).encode(),
    "a comment behind each link": lambda text: text.replace("</a>", "</a><!-- a -->").encode(),
}
"""ways to write the same page"""


@pytest.mark.parametrize("page", sorted(path.name for path in SITE.iterdir() if path.name.endswith(".html")))
def test_how_a_page_is_written_does_not_matter(page: str) -> None:
    def seen(octets: bytes) -> list[tuple[object, ...]]:
        document = read_document(octets, source="x", address=HOME)
        images = mark(group(itemised(document, find(document).references), source="x"))
        return [
            (image.url, image.shown.words, image.shown.link, image.shown.hidden, image.furniture, image.item.title,
             image.columns, sorted((reference.url, reference.found_in) for reference in image.references))
            for image in images
        ]  # fmt: skip

    text = SITE.joinpath(page).read_text(encoding="utf-8")
    expected = seen(text.encode())
    for how, write in WRITTEN.items():
        assert seen(write(text)) == expected, how


@pytest.mark.parametrize(
    ("markup", "said"),
    [
        (
            "<meta property=og:image content=/a.jpg><meta property=og:image:width content=9><meta property=og:image:alt content=Red>",
            "Red",
        ),
        (
            "<meta property=og:image content=/a.jpg><meta property=og:image content=/b.jpg><meta property=og:image:alt content=Red>",
            "",
        ),
        ("<meta name=twitter:image:src content=/a.jpg><meta name=twitter:image:alt content=Red>", "Red"),
        ("<img data-src=/a.jpg data-alt=Red>", "Red"),
        ("<object data=/a.png type=image/png>Red <b>delta</b></object>", "Red delta"),
        ("<svg aria-label=Red><g><image href=/a.jpg /></g></svg>", "Red"),
        ("<img data-src=/a.jpg><noscript><img src=/a.jpg alt=Red></noscript>", "Red"),
        ("<p><img src=/a.jpg></p><p><img src=/a.jpg alt=Red></p>", "Red"),
        (r"<img src=/a.gif alt='\includegraphics{p/red.eps}'>", ""),
    ],
)
def test_what_is_said_in_place_of_a_picture(markup: str, said: str) -> None:
    page = read_document(markup.encode(), source="x", address=HOME)
    assert group(find(page).references, source="x")[0].shown.words.alt == said
