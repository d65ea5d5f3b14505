"""Where pictures hide: golden cases for each finder, written from the standards."""

import io
import itertools
import json
from base64 import b64encode
from collections.abc import Callable, Iterator
from urllib.parse import unquote

import pytest
from hypothesis import given, settings, strategies as st
from lxml import etree

from conftest import Program, Server, picture
from pickcrate.finders import find
from pickcrate.finders.data.jsondata import in_json
from pickcrate.finders.data.literals import in_script, is_address
from pickcrate.finders.data.strings import unescape
from pickcrate.finders.data.versions import families
from pickcrate.finders.style.css import StyleSheet, find_in_sheet
from pickcrate.group import group
from pickcrate.orders import readers
from pickcrate.read.archives.har import read_har
from pickcrate.read.archives.mime import read_mime
from pickcrate.read.archives.package import read_package
from pickcrate.read.archives.warc import read_warc
from pickcrate.read.data.feed import read_json_feed, read_xml_feed
from pickcrate.read.pages.bounds import DEEPEST, within_bounds
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.manifest import read_manifest
from pickcrate.read.pages.sheet import decode_sheet
from pickcrate.values.findings import Finding, Findings, Hiding, Need
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role
from pickcrate.values.wanted import Asked

HOME = "https://galewick.example/rooms/list.html"
ROOT = "https://galewick.example/"


def findings(html: str, links: str = "", **asked: list[str]) -> Findings:
    page = read_document(html.encode(), source="x", address=HOME, fields={"link": links})
    return find(
        page,
        asked=Asked(readers.raw(asked.get("raw", []), "--raw"), readers.attributes(asked.get("attr", []), "--attr")),
    )


def found(html: str, links: str = "", **asked: list[str]) -> list[tuple[str, str]]:
    return [(r.found_in, r.url.removeprefix(ROOT)) for r in findings(html, links, **asked).references]


IN_BASE64 = [
    b64encode(said.encode()).decode()
    for said in (
        '{"src":"/a.jpg"}',
        "<img src='/b.jpg'>",
        "https://k.example/c.jpg",
        '[{"src":"/d.jpg"},{"src":"/e.jpg"}]',
    )
]
MARKUP = [
    ("<input type=image src=go.png><input src=no.png>", [("input", "rooms/go.png")]),
    ("<video poster=p.jpg><source src=film.mp4></video>", [("video", "rooms/p.jpg")]),
    ("<object data=a.svg></object><object data=b.bin type=image/png></object><object data=c.png type=text/html></object>",
     [("object", "rooms/a.svg"), ("object", "rooms/b.bin")]),
    ('<applet code=x.class><param name=image1 value=a.jpg><param name=more value="b.jpg,c.jpg"><param name=n value=9></applet>',
     [("object", "rooms/a.jpg"), ("object", "rooms/b.jpg"), ("object", "rooms/c.jpg")]),
    ('<object data=x.swf><param name=flashvars value="file=img/a.jpg&title=b"></object><embed src=x.swf flashvars="file=b.jpg">',
     [("object", "rooms/img/a.jpg"), ("data", "rooms/b.jpg")]),
    ("<embed src=a.gif><embed src=film.swf>", [("embed", "rooms/a.gif")]),
    ("<body background=paper.gif><table background=/t.png>", [("background", "rooms/paper.gif"), ("background", "t.png")]),
    ("<canvas src=a.png>A kite</canvas><canvas></canvas>", [("canvas", "rooms/a.png")]),
    ("<svg><image href=a.png xlink:href=b.png /><image xlink:href=c.png /></svg>", [("svg", "rooms/a.png"), ("svg", "rooms/c.png")]),
    ("<svg><filter><feImage href=f.png /></filter><use href='#in' /><use xlink:href='set.svg#out' /></svg>",
     [("svg", "rooms/f.png"), ("svg", "rooms/set.svg")]),
    ("<noscript><img src=a.png></noscript>", [("img", "rooms/a.png")]),
    ("<head><noscript><link rel=icon href=i.png></noscript>", [("meta", "rooms/i.png")]),
    ("<template><img src=a.png><template><img src=b.png></template></template>", [("img", "rooms/a.png"), ("img", "rooms/b.png")]),
    ("<iframe srcdoc='&lt;img src=a.png>' src=other.html></iframe>", [("img", "rooms/a.png")]),
    ("<iframe src=photo.jpg></iframe>", [("frame", "rooms/photo.jpg")]),
    # custom elements
    ("<amp-img src=a.jpg srcset='a.jpg 640w, s.jpg 320w'><noscript><img src=a.jpg></noscript></amp-img>",
     [("img", "rooms/a.jpg"), ("img", "rooms/a.jpg"), ("img", "rooms/s.jpg"), ("img", "rooms/a.jpg")]),
    ("<lazy-image srcset='a.jpg 1x'></lazy-image><x-photo src=/photo/2></x-photo>", [("img", "rooms/a.jpg"), ("img", "photo/2")]),
    ("<x-thing src=a.png></x-thing><x-thing src=/a/b></x-thing><x-thing src=a.css></x-thing>", [("img", "rooms/a.png")]),
    ("<amp-video src=film.mp4 poster=p.jpg></amp-video><a-b poster=''></a-b>", [("video", "rooms/p.jpg")]),
    ("<map><area href=big.png></map>", [("link", "rooms/big.png")]),
    ("<a href='view.php?f=a.jpg'>x</a>", []),
    # metadata
    ("<link rel='shortcut icon' href=/f.ico><link rel=apple-touch-icon sizes=180x180 href=t.png><link rel=mask-icon href=m.svg>",
     [("meta", "f.ico"), ("meta", "rooms/t.png"), ("meta", "rooms/m.svg")]),
    ("<link rel=preload as=image href=a.jpg imagesrcset='b.jpg 400w, c.jpg 800w'><link rel=preload as=font href=f.woff>",
     [("meta", "rooms/a.jpg"), ("meta", "rooms/b.jpg"), ("meta", "rooms/c.jpg")]),
    ("<link rel=image_src href=share><link rel=canonical href=x.png>", [("meta", "rooms/share")]),
    ("<link rel=enclosure href=x.jpg><link rel=thumbnail href=/t.png><link rel=help href=x.html>", [("meta", "rooms/x.jpg"), ("meta", "t.png")]),
    ("<meta property=og:image content=/o.jpg><meta name=twitter:image content=t.png><meta name=twitter:card content=summary>"
     "<meta itemprop=image content=/m.jpg><meta name=msapplication-TileImage content=w.png><meta property=og:image:width content=9>",
     [("meta", "o.jpg"), ("meta", "rooms/t.png"), ("meta", "m.jpg"), ("meta", "rooms/w.png")]),
    ("<meta property=og:image content=https://kites.example/><script>var at = {'image': '/static/img/', 'imageUrl': '/i/9f3a'}</script>",
     [("script", "i/9f3a")]),
    ("<a itemprop=contentUrl href=/full/7>x</a><span itemprop=image>no</span><div property='schema:image' resource=/r.jpg></div>",
     [("meta", "full/7"), ("meta", "r.jpg")]),
    ("<a itemprop=contentUrl href=/photos/7><img src=a.jpg itemprop=thumbnailUrl></a>", [("img", "rooms/a.jpg")]),
    ("<link rel=favicon href=/f.ico><link rel=alternate type=image/svg+xml href=/a><link rel=alternate type=text/html href=/b.png>"
     "<link rel='stylesheet touch-icon' href=t.png>", [("meta", "f.ico"), ("meta", "a"), ("meta", "rooms/t.png")]),
    ("""<meta name=described content='{"image_url": "https://k.example/a.jpg", "pages": [{"thumb": "/b.png"}], "url": "/c"}'>"""
     "<meta name=teaser content=/t/d.jpg><meta name=file content=e.jpg><meta name=said content='see /f.jpg'>",
     [("meta", "https://k.example/a.jpg"), ("meta", "b.png"), ("meta", "t/d.jpg")]),
    # JSON-LD
    ("""<script type=application/ld+json>{"@graph": [{"@type": "Article", "image": {"@type": "ImageObject", "url": "/big",
     "thumbnailUrl": "/small.jpg"}, "url": "/article", "author": {"image": ["/a1.png", "/a2.png"]}, "logo": "plain words"}]}</script>""",
     [("data", "big"), ("data", "small.jpg"), ("data", "a1.png"), ("data", "a2.png")]),
    ("""<script type=application/ld+json>{"@type": {"@type": ["ImageObject", {}]}, "image": [{"url": 7, "contentUrl": "/c.jpg"}, null]}</script>""",
     [("data", "c.jpg")]),
    # attributes of other names
    ("<img src=blank.gif data-src=a.jpg data-caption='see b.jpg'>", [("img", "rooms/blank.gif"), ("data", "rooms/a.jpg")]),
    ("<img data-lazy-srcset='a.jpg 300w, b.jpg 900w'>", [("data", "rooms/a.jpg"), ("data", "rooms/b.jpg")]),
    ("<img src=x.gif data-original=/photo/7/full>", [("img", "rooms/x.gif"), ("data", "photo/7/full")]),
    ("<div data-what=/photo/7/full data-bg='url(&quot;/b.jpg&quot;)'></div>", [("data", "b.jpg")]),
    (f'<div data-props="{{&quot;told&quot;:&quot;{"wind " * 2_000}&quot;,&quot;a&quot;:&quot;/s/1.jpg&quot;,&quot;b&quot;:&quot;/s/2.jpg&quot;}}">',
     [("data", "s/1.jpg"), ("data", "s/2.jpg")]),
    (f"<div x-hall='kites({{told: \"{'wind ' * 2_000}\", src: \"/s/1.jpg\"}})' data-a=x/y.b><i title=\"'\" :hall=&#x2f;s&#x2f;2&#x2e;jpg></i>",
     [("data", "s/1.jpg"), ("data", "s/2.jpg")]),
    ("<b x-data='kites({all: [\"/a.jpg\"]})' z='/b.jpg;/c.jpg' y='d.jpg e.jpg' x='/f.jpg|/g.jpg|/h.jpg' :a=`/i.jpg`></b>",
     [("data", url) for url in ("a.jpg", "b.jpg", "c.jpg", "rooms/d.jpg", "rooms/e.jpg", "f.jpg", "g.jpg", "h.jpg", "i.jpg")]),
    ("<a-sky z='src: /a.jpg; repeat: 2 2'></a-sky><div data-film='mp4: /f.mp4, poster: /b.jpg' data-url=url:/c.jpg data-say='see: b.jpg, he said' data-tip='File: d.jpg; Size: 3 kB' x='dataSrc: e.jpg'></div>",
     [("data", "a.jpg"), ("data", "b.jpg"), ("data", "c.jpg"), ("data", "rooms/e.jpg")]),
    (f"<div data-all='{','.join(f'/{n:03}.jpg' for n in range(500))}'></div>", [("data", f"{n:03}.jpg") for n in range(500)]),
    ("<script>a = 'a.jpg,b.jpg'.split(','); b = 'https%3A%2F%2Fk.example%2Fc.jpg'; c = unescape('%3Cimg src=%22/d.jpg%22%3E')</script>",
     [("script", "rooms/a.jpg"), ("script", "rooms/b.jpg"), ("script", "https://k.example/c.jpg"), ("script", "d.jpg")]),
    ("""<b x="%7B%22a%22%3A%22%2Fa.jpg%22%7D"></b><script type=application/json>{"b": "https%3A%2F%2Fk.example%2Fb.jpg"}</script>""",
     [("data", "a.jpg"), ("data", "https://k.example/b.jpg")]),
    # templates: what follows one with substitutions, and what is in those
    ("<script>a = `${base}/x`; show('/a.jpg'); b = `<ul>${all.map(n => `<li>${n}</li>`)}</ul>`; c = `/b.jpg`; d = `${e ? '/c.jpg' : 'd'}`</script>",
     [("script", "a.jpg"), ("script", "b.jpg"), ("script", "c.jpg")]),
    # addresses that only a name says to be of pictures: in data in attributes, in expressions, in strings that are data, in lists
    ("""<b data-p="{&quot;imageUrl&quot;:&quot;/m/1&quot;,&quot;url&quot;:&quot;/p/1&quot;}"></b><b x-data='hall({"photo": "/m/2"})' z='{"page": "/p/2"}'></b>
     <script>push([1,"3:{\\"cover\\":\\"/m/3\\",\\"link\\":\\"/p/3\\"}"]); d = {"photos":["/m/4","/m/5"],"pages":["/p/4"]}</script>""",
     [("data", "m/1"), ("data", "m/2"), ("script", "m/3"), ("script", "m/4"), ("script", "m/5")]),
    ("""<b data-p='{"photo": {"full": "/a.jpg"}, "imageUrl": "/m/1"}'></b>""", [("data", "a.jpg"), ("data", "m/1")]),
    ("<div itemprop=image itemscope itemtype=https://schema.org/ImageObject><meta itemprop=url content=/m/1><meta itemprop=width content=9></div>"
     "<div itemprop=logo itemscope><link itemprop=url href=/m/2></div><div itemscope itemtype=https://schema.org/Product><meta itemprop=url content=/p/1></div>",
     [("meta", "m/1"), ("meta", "m/2")]),
    # data in a string that has markup in its own strings
    ("""<script>push([1,"3:{\\"told\\":\\"\\u003cp>Low <img src='/in.jpg'>\\",\\"src\\":\\"/a.jpg\\",\\"image\\":\\"/m/1\\"}"])</script>""",
     [("script", "in.jpg"), ("script", "a.jpg"), ("script", "m/1")]),
    ("<select><option value=/a.jpg>Red</option><option value=1>Blue</option><option value=b.jpg>Box</select><input type=hidden value='[&quot;/c.jpg&quot;]'>"
     "<input value=https://k.example/d.jpg><input value='&lt;img src=/e.jpg>'><script type=text/x-hall>{\"image\": \"/m/1\"}</script>",
     [("data", "a.jpg"), ("data", "c.jpg"), ("data", "https://k.example/d.jpg"), ("data", "m/1")]),
    ("""<div data-slides='[{"src":"\\/s\\/1.jpg","w":9},{"src":"/s/2.jpg"}]' class=c.png title=t.png></div>""",
     [("data", "s/1.jpg"), ("data", "s/2.jpg")]),
    ("<a href=page.html data-zoom=big.jpg><img src=small.jpg></a>", [("data", "rooms/big.jpg"), ("img", "rooms/small.jpg")]),
    ("<div data-kinds='[a.jpg, small], [part.html, large]'></div><p data-note='[see a.jpg], [b.jpg]'>",
     [("data", "rooms/a.jpg")]),
    ("<img data-src='a.jpg|a-fine.jpg'><img data-src='/photo/7|/photo/7/2x'>",
     [("data", "rooms/a.jpg"), ("data", "rooms/a-fine.jpg"), ("data", "photo/7"), ("data", "photo/7/2x")]),
    # what other scripts of the page say is constant
    ("<script>show(a + 'red.jpg'); k = `${cfg.cdn}blue.png`</script><script>var a = '/img/'; cfg = {cdn: '/c/'}</script><b onclick=\"show(a + 'c.gif')\"></b>"
     "<script>b = '/x/'; show(c + 'no.jpg')</script><script>b = '/y/'; function s(a) { return a + 'no.jpg' }</script><script>show(b + 'no.jpg')</script>",
     [("script", "img/red.jpg"), ("script", "c/blue.png"), ("data", "img/c.gif")]),
    # data, markup and addresses in base64, and in the text of what is not shown
    (f"<b data-p='{IN_BASE64[0]}'></b><i data-p={IN_BASE64[1]}></i><img data-p={IN_BASE64[2]}>"
     f"<script>d = JSON.parse(atob('{IN_BASE64[3]}')); t = 'eyJhbGciOiJIUzI1NiIsInR5cCI6IkpXVCJ9'</script>",
     [("data", "a.jpg"), ("data", "b.jpg"), ("data", "https://k.example/c.jpg"), ("script", "d.jpg"), ("script", "e.jpg")]),
    ("""<textarea hidden>{"all":["/a.jpg"]}</textarea><pre style='display:none'>&lt;img src=/b.jpg></pre><textarea>{"all":["/c.jpg"]}</textarea><p hidden>"/d.jpg"</p>""",
     [("data", "a.jpg"), ("data", "b.jpg")]),
    # as it is written: with spaces, apostrophes; no sentence, no list
    ("<img data-src='/i/Red kite.jpg'><i data-image=\"a/King's kite (2).png\"></i><img data-src='Blue kite.jpg'>"
     "<u data-note='see /i/no kite.jpg' data-what='Red kite.jpg' data-two='/i/x.jpg /i/y.jpg kite'></u>",
     [("data", "i/Red%20kite.jpg"), ("data", "rooms/a/King's%20kite%20(2).png"), ("data", "rooms/Blue%20kite.jpg")]),
    ("""<script>a = {image: "/i/Red kite.jpg"}; b = "no /i/kite.jpg"; p.src = 'Blue kite.png'; c = 'Not this kite.png'</script>""",
     [("script", "i/Red%20kite.jpg"), ("script", "rooms/Blue%20kite.png")]),
    # where a script has yet to say what is shown: the link knows the original
    ("<a href=a.jpg><img alt=A></a><a href=b.jpg><img src=''></a><a href=c.jpg><img src=about:blank></a><a href=/kite/1><img></a>",
     [("link", "rooms/a.jpg"), ("link", "rooms/b.jpg"), ("link", "rooms/c.jpg")]),
    ("<a href=a.jpg><img data-src=a-t.jpg></a><img src='#' alt='the page itself'>", [("link", "rooms/a.jpg"), ("data", "rooms/a-t.jpg")]),
    # in a style's own notation
    ("<i data-bg='url(a.jpg?v=2)'></i><b data-bg='url(&quot;Red kite (2).jpg&quot;), URL( b.jpg#x ) no-repeat'></b>",
     [("data", "rooms/a.jpg?v=2"), ("data", "rooms/Red%20kite%20(2).jpg"), ("data", "rooms/b.jpg")]),
    ("""<script type=application/json>{"back": "url(/i/a.jpg?v=3)"}</script><script>k.style = 'background: url("/i/Red kite.jpg")'</script>""",
     [("data", "i/a.jpg?v=3"), ("script", "i/Red%20kite.jpg")]),
    # rules for what is in templates and in frames
    ("<i><template shadowrootmode=open><style>b { background: url(a.jpg) } u { background: url(no.jpg) }</style><b></b></template></i>",
     [("css", "rooms/a.jpg")]),
    ("<style>.k { background: url(a.jpg) } .no { background: url(no.jpg) }</style><template><table><template><td class=k></template></table></template>",
     [("css", "rooms/a.jpg")]),
    ("<iframe srcdoc='<style>.k { background: url(a.jpg) }</style><p class=k>'></iframe>", [("css", "rooms/a.jpg")]),
    ("<iframe srcDoc='<style>.k { background: url(a.jpg) }</style><p class=k>'></iframe>", [("css", "rooms/a.jpg")]),
    ("<iframe srcdoc='<style>body.m > p { background: url(b.jpg) }</style><body class=m background=a.jpg><p>'></iframe>",
     [("css", "rooms/b.jpg"), ("background", "rooms/a.jpg")]),
    # rules in rules, and lists in functions, around elements that are no children of theirs
    ("<style>.h { i { background: url(a.jpg) } } :is(.h, .x) i { content: url(b.jpg) } :is(.x) i { content: url(no.jpg) }</style>"
     "<p class=h><b><i></i></b>", [("css", "rooms/a.jpg"), ("css", "rooms/b.jpg")]),
    # scripts
    (r"""<script>var a = {"src": "https:\/\/k.example\/\u0061.jpg?w=1", b: '/img/b.png'}, c = "/img/" + n + ".jpg", d = "x.jpg";</script>""",
     [("script", "https://k.example/a.jpg?w=1"), ("script", "img/b.png")]),
    ("""<script>el.innerHTML = "<img class=\\"k\\" src=\\"/i/c.gif\\">"; f("/i/" + "d.gif"); g(`/i/${n}.gif`)</script>""",
     [("script", "i/c.gif"), ("script", "i/d.gif")]),
    ("""<script type=application/json>{"a": ["/j/1.webp", "not one.webp", {"b": "/j/2.avif#x"}], "c": "/j/3.html"}</script>""",
     [("data", "j/1.webp"), ("data", "j/2.avif")]),
    ("""<script type=application/json>{"image": "Red kite.jpg", "note": "not a kite.jpg", "photos": ["Blue kite (2).jpg"]}</script>""",
     [("data", "rooms/Red%20kite.jpg"), ("data", "rooms/Blue%20kite%20(2).jpg")]),
    ("""<script type=text/x-shop-init>{"gallery": [{"full": "/g/1.jpg", "thumb": "/g/1-t.jpg"}]}</script>""",
     [("data", "g/1-t.jpg"), ("data", "g/1.jpg")]),
    # addresses without an extension, by the names that they stand under
    ("""<script type=application/json>{"kites": [{"heroImageUrl": "https://k.example/9f3a", "pageUrl": "/kite/1", "image": "none"},
     {"thumb": "/t/2", "full": "/f/2", "href": "/kite/2"}], "images": [{"url": "/i/3"}, {"url": "/kite/4", "title": "Ebb"}],
     "media": {"url": "/m/5", "width": 40, "height": 30}, "video": {"url": "/m/6.mp4", "width": 4, "height": 3}}</script>""",
     [("data", "https://k.example/9f3a"), ("data", "t/2"), ("data", "f/2"), ("data", "i/3"), ("data", "m/5")]),
    (r"""<script>k = {large: "https:\/\/k.example\/l1", photo: "/p/1", href: "/kite/1"}; h = {large: "/l/2", "page": "/kite/2"}</script>""",
     [("script", "p/1"), ("script", "https://k.example/l1")]),
    # bare file names: where the script has no folder for them, or shows them
    ("<script>pics = new Array('a.jpg', 'b.jpg'); n = 2</script>", [("script", "rooms/a.jpg"), ("script", "rooms/b.jpg")]),
    ("<script>d = 'img/'; pics = ['a.jpg']; p.src = 'b.jpg'; window.open('c.jpg')</script>", [("script", "rooms/b.jpg"), ("script", "rooms/c.jpg")]),
    ("<a href=\"javascript:zoom('a.jpg', 9)\">x</a><b onclick=\"zoom('b.jpg')\"></b>", [("link", "rooms/a.jpg"), ("data", "rooms/b.jpg")]),
    # JSON of several rows, and with signs of its own for quotes
    ('<script type=application/x-ndjson>{"image": "/a.jpg"}\n{"image": "/b.jpg"}</script>', [("data", "a.jpg"), ("data", "b.jpg")]),
    ('<script type=application/json>{&q;image&q;:&q;/a.jpg?x=1&a;y=2&q;}</script>', [("data", "a.jpg?x=1&y=2")]),
    # what custom properties hold, where attributes take it
    ("<style>:root{--a:url(a.png);--b:url(b.png)}</style><i style='background:var(--a)'></i><b style='mask:var( --b, none)'></b><i style=color:var(--c)>",
     [("css", "rooms/a.png"), ("css", "rooms/b.png")]),
    # what frameworks read as expressions
    ("""<img :src="'/a.jpg'"><i [src]="'/b.jpg'"></i><b :style="{backgroundImage: 'url(/c.jpg)'}"></b><s @click="zoom('/d.jpg')"></s>""",
     [("data", "a.jpg"), ("data", "b.jpg"), ("data", "c.jpg"), ("data", "d.jpg")]),
    ("<x-wall images='/a.jpg,/b.jpg'></x-wall><meta name=feed.image.full content=/c.jpg>", [("data", "a.jpg"), ("data", "b.jpg"), ("meta", "c.jpg")]),
    ("<script type=text/x-template><img src=/t.png><img src={{u}}.png></script>", [("data", "t.png")]),
    # addresses without an extension, where the name of an attribute says that it is a picture's
    ("<div data-bg=/g/9></div><i data-background-image='//c.example/x?w=9'></i><p data-image-url=/g/7><b data-bg=/v.mp4></b>"
     "<u data-bg=#fff></u><u data-image=/g/1></u><u data-background=/></u>", [("data", "g/9"), ("data", "https://c.example/x?w=9"), ("data", "g/7")]),
    ("""<script>document.write('<img alt="x" src="/g/1">'); h = "<img src='/g/" + n + "'>"; k = `<img src="/g/${n}">`</script>""", [("script", "g/1")]),
    ('<script type=application/json>{"body": "<p><img src=\\"/g/2?w=9\\">", "b": "\\u003cimg src=\\"//c.example/p\\"\\u003e"}</script>',
     [("data", "g/2?w=9"), ("data", "https://c.example/p")]),
    ("<script type=text/x-t><img src='/g/3'><img src='{{u}}'><img src='/g/{{n}}'><img src='/g/'></script>", [("data", "g/3")]),
    # Markdown that a script shows; what may be any text is left alone
    ("<script type=text/markdown># Red\n![Red](/a.jpg)</script><xmp>![](b.jpg)</xmp><textarea id=source>![](/c.jpg)</textarea>",
     [("data", "a.jpg"), ("data", "rooms/b.jpg"), ("data", "c.jpg")]),
    ("<p data-markdown>![](/a.jpg)</p><textarea data-template>![](/b.jpg)</textarea><textarea>![](/no.jpg)</textarea>",
     [("data", "a.jpg"), ("data", "b.jpg")]),
    ("<script>x = 'See ![Red](/a.jpg)'; y = 'a.jpg [x](/no.jpg)'</script>", [("script", "a.jpg")]),
]  # fmt: skip


@pytest.mark.parametrize(("html", "expected"), MARKUP)
def test_markup(html: str, expected: list[tuple[str, str]]) -> None:
    assert found(html) == expected
    shown: dict[int, set[str]] = {}
    for reference in findings(html).references:
        if reference.role is Role.SHOWN:
            shown.setdefault(reference.cluster, set()).add(reference.url)
    assert all(len(addresses) == 1 for addresses in shown.values())  # of two that are shown one would be lost


def test_link_header_and_what_the_user_asks_for() -> None:
    header = '</i.png>; rel="icon", <s.css>; rel=stylesheet, <p.jpg>; as=image; rel=preload'
    assert found("<base href=/else/>", header) == [("meta", "i.png"), ("meta", "rooms/p.jpg")]
    header = ("<a.jpg> ; as=image;crossorigin ; REL = \"x preload\"; rel=icon; imagesrcset=\"a-1.jpg 400w, a-2.jpg 800w\", "
              "<b,c.png>;title=\"<d.png>; rel=icon, \\\"\";rel=icon,<e.png>;rel=icon;anchor=\"/other\", <f.png>; rel=\"icon")  # fmt: skip
    assert found("", header) == [
        ("meta", f"rooms/{name}") for name in ("a.jpg", "a-1.jpg", "a-2.jpg", "b,c.png", "f.png")
    ]
    html = '<b data-k="u/7"></b><img src=x.gif data-k=8><script>{"full":"\\/f\\/1"}</script>'
    assert found(html, raw=['"full":"([^"]+)"'], attr=["data-k"]) == [
        ("raw", "f/1"), ("attr", "rooms/u/7"), ("img", "rooms/x.gif"), ("attr", "rooms/8"),
    ]  # fmt: skip
    asked = findings("<img src=x.gif data-k='u/7 1x, u/8 2x'>", attr=["data-k"]).references
    assert [(r.url.removeprefix(ROOT), r.density) for r in asked[1:]] == [("rooms/u/7", 1), ("rooms/u/8", 2)]


def test_data_that_comes_in_pieces_is_read_as_one() -> None:
    rows = (
        """5:["$","img",null,{"src":"/red.jpg","alt":"Red"}]\n6:{"photos":[{"src":"/b.png"},{"src":"/c.webp?v=2"}]}\n"""
    )
    rows += "7:T29,<p>Low \"wind\"</p>\n<img src='/d.gif'>\n8:" + json.dumps({"cover": "/m/1", "link": "/it's/p.html"})
    for size in (9, 24, 61):
        for first in range(size):
            cuts = [0, *range(first, len(rows), size), len(rows)]
            pieces = (json.dumps(rows[start:end]) for start, end in itertools.pairwise(cuts))
            html = "".join(f"<script>all.push([1,{piece}])</script>" for piece in pieces)
            assert {url for _, url in found(html)} == {"red.jpg", "b.png", "c.webp?v=2", "d.gif", "m/1"}, (size, first)


def test_widths_that_data_in_an_attribute_states() -> None:
    told = {"a.jpg": [800, 600], "b.jpg": "400", "c.jpg": True, "d": {"url": "d.jpg", "w": 1200.0}, "e": [["e.jpg"]]}
    sized = findings(f"<img src=s.gif data-sizes='{json.dumps(told)}'>").references[1:]
    assert {r.raw: r.width for r in sized} == {"a.jpg": 800, "b.jpg": 400, "c.jpg": None, "d.jpg": 1200, "e.jpg": None}


IN_SHADOW_ROOTS = """<style>.gone{display:none} b{background:url(b.jpg)}</style><img src=1.jpg class=shut><b></b><k-box>
<template shadowrootmode=open><style>img, .shut{display:none} b{background:url(c.jpg)}</style><b></b>
<img src=2.jpg class=gone><div><slot></slot></div><slot name=x><img src=instead.jpg></slot><k-in><template shadowmode=closed><i>
<slot name=y><img src=3.jpg></slot></i></template><slot name=z slot=y></slot></k-in></template><img src=4.jpg><p slot=x><img src=5.jpg></p>
<img slot=z src=6.jpg><img slot=none src=7.jpg><template shadowroot=open><img src=8.jpg></template></k-box>
<ul><template shadowrootmode=open><img src=9.jpg></template></ul>"""


def test_shadow_roots_are_where_they_are_shown_and_dressed_by_their_own_sheets() -> None:
    found = findings(IN_SHADOW_ROOTS)
    seen = {
        reference.raw.partition(".")[0]: not (reference.hidden or found.hidden.intersection(reference.anchors))
        for reference in found.references
    }
    shown, unseen = ("b", "1", "c", "4", "5", "6", "8", "9"), ("2", "3", "instead", "7")
    assert seen == {**dict.fromkeys(shown, True), **dict.fromkeys(unseen, False)}
    in_drawing = findings("<svg><k-a><template shadowrootmode=open><b></b><img src=a.jpg>").references
    assert "a.jpg" in [reference.raw for reference in in_drawing]
    elements = {reference.raw: reference.element for reference in found.references}
    assert elements["6.jpg"].endswith("k-box > k-in > i > img")
    assert elements["4.jpg"].endswith("k-box > div > img")


def test_frames_in_the_text_of_a_page_are_dressed_by_their_own_sheets() -> None:
    frame = "<style>p{display:none} b{background:url(b.jpg)} i{background:url(no.jpg)}</style><b></b><p><img src=1.jpg></p><img src=2.jpg>"
    found = findings(
        f"<style>img{{display:none}}</style><i></i><iframe srcdoc='{frame}' src=no.html></iframe><p><img src=3.jpg></p>"
        "<iframe src='data:text/html,%3Cimg src=4.jpg%3E'></iframe><iframe hidden srcdoc='<img src=5.jpg>'></iframe>"
    )
    seen = {r.raw: not (r.hidden or found.hidden.intersection(r.anchors)) for r in found.references}
    assert seen == {"b.jpg": True, "1.jpg": False, "2.jpg": True, "3.jpg": False, "4.jpg": True, "5.jpg": False}
    assert not found.needs
    both = "<iframe srcdoc='<img src=a.jpg>' src='data:text/html,<img src=no.jpg>'></iframe><img src=b.jpg>"
    assert [r.raw for r in findings(both).references] == ["a.jpg", "b.jpg"]
    twice = "<k-a><template shadowroot=open shadowrootmode=open><slot></slot></template><img src=a.jpg></k-a>"
    assert [r.raw for r in findings(twice).references] == ["a.jpg"]


def test_a_drawing_in_the_page_is_one_that_stands_alone() -> None:
    (drawn,) = findings("<svg viewBox='0 0 9 9'><a xlink:href='#k'><path d='M0 0h9' /></a></svg>").references
    assert drawn.url.startswith("data:image/svg+xml,")
    root = etree.fromstring(unquote(drawn.url.partition(",")[2]))
    assert (root.tag, root[0].get("{http://www.w3.org/1999/xlink}href")) == ("{http://www.w3.org/2000/svg}svg", "#k")


def test_a_background_stands_for_a_picture_that_is_only_a_drawing() -> None:
    style = "<style>:root{--k:url(data:image/png;base64,AAAA)}</style>"
    saved = "<img alt=Kite src='data:image/svg+xml,<svg xmlns=\"http://www.w3.org/2000/svg\"/>' style='background:var(--k)'>"
    drawing, kite = findings(style + saved).references
    assert (drawing.cluster, kite.role, kite.words.alt) == (kite.cluster, Role.LAZY, "Kite")


BESIDE_A_BACKGROUND = [
    # what keeps the place of a background is no picture; what is shown before it is another; data only wait behind
    ("<img src=/spacer.gif style='background:url(b.jpg)'>", ["b.jpg"]),
    ("<img src=a.jpg style='background:url(b.jpg)'>", ["a.jpg", "b.jpg"]),
    ("<img srcset='a.jpg 2x' style='background:url(b.jpg)'>", ["a.jpg", "b.jpg"]),
    ("<video poster=a.jpg style='background:url(b.jpg)'></video>", ["a.jpg", "b.jpg"]),
    ("<table background=a.jpg style='background:url(b.jpg)'></table>", ["a.jpg", "b.jpg"]),
    ("<img src=a.jpg style='background:url(data:image/gif;base64,R0lGODlhAQABAAAAACw=)'>", ["a.jpg"]),
]


@pytest.mark.parametrize(("markup", "shown"), BESIDE_A_BACKGROUND)
def test_a_background_beside_a_picture_is_another(markup: str, shown: list[str]) -> None:
    found = group(findings(markup).references, source="x")
    assert [image.url.rpartition("/")[2] for image in found] == shown


def test_what_is_chosen_by_a_picture_says_what_that_shows() -> None:
    choices = "<select><option data-img-src=/a.jpg>Red delta<option value=/b.jpg>Box</select><label><input type=radio value=/c.jpg>Sled</label>"
    assert [one.words.alt for one in findings(choices).references] == ["Red delta", "Box", "Sled"]


def test_what_is_shown_in_place_of_an_object_is_the_same_picture() -> None:
    vector = "<object data=k.svg type=image/svg+xml><img src=k-red.png></object>"
    film = "<object data=k.mp4 type=video/mp4><img src=k.png></object>"
    found = group(findings(vector + film).references, source="x")
    assert [image.url.rpartition("/")[2] for image in found] == ["k.svg", "k.png"]


def test_a_rule_for_one_element_has_the_words_of_that() -> None:
    rules = "<style>.a{background:url(a.png)}.b{--k:url(b.png)}.b{background:var(--k)}p{background:url(p.png)}</style>"
    references = findings(
        f"{rules}<i class=a aria-label=Red></i><i class=b title=Blue></i><p title=x><p title=y>"
    ).references
    assert [r.words.alt or r.words.title for r in references] == ["Red", "", "Blue"]


def test_lines_and_hidden_places() -> None:
    references = findings(
        "<p>\n<img src=a.png>\n\n<div hidden><img src='b.png?x&amp;y'></div>\n<i style='background:url(c.png)'>"
    ).references
    assert [(r.line, r.hidden) for r in references] == [(2, False), (4, True), (0, False)]


PAGE = read_document(b"<p class=a><b>x</b></p><ul><li></ul>", source="x", address=HOME)
WHERE = Reference("", "", HOME, FoundIn.CSS, "", "", 0)


def in_sheet(css: str) -> Iterator[Finding]:
    return find_in_sheet(StyleSheet(css, ROOT + "style/a.css", PAGE, WHERE), iter(range(10**6)))


CSS = [
    ("p { background: url(a.png) }", ["style/a.png"]),
    ("p { background: URL( 'a b.png' ), url(\"c.png\") }", ["style/a%20b.png", "style/c.png"]),
    ("p{background:url(a\\)b.png)}", ["style/a)b.png"]),
    ("p { background: u\\72l(a.png) }", ["style/a.png"]),
    ("p { background: url(a.png", ["style/a.png"]),
    ("/* p { background: url(no.png) } */ p { content: \"url(no.png)\"; cursor: url(../c.cur), auto }", ["c.cur"]),
    ("p { background: image-set('1x.png' 1x, url(2x.png) 2x) }", ["style/1x.png", "style/2x.png"]),
    ("p { background: -webkit-image-set(url(1.png) 1x, url(2.png) 2x); mask: src('m.svg') }", ["style/1.png", "style/2.png", "style/m.svg"]),
    ("p { background: cross-fade(url(1.png), 50% url(2.png)) }", ["style/1.png", "style/2.png"]),
    ("p { --k: url(v.png) } @media print { @supports (a: b) { p { background: url(m.png) } } }", ["style/m.png", "style/v.png"]),
    ("p { --k: url(v.png) } li { background: var(--k) }", ["style/v.png"]),
    (".none { --k: url(no.png) } .none { background: url(no.png) var(--k) }", []),
    (".none { background: url(no.png) } p:hover::before, .none { background: url(h.png) }", ["style/h.png"]),
    (".none { & p { background: url(no.png) } } p { &.a { background: url(n.png) } b { background: url(d.png) } }", ["style/n.png", "style/d.png"]),
    ("@font-face { font-family: K; src: url(k.svg) format('svg'), url(k.woff) }", []),
    ("/* x */ @font-face { src: url(k.svg) } p { filter: url(#f); behavior: url(b.htc); background: url('') }", []),
    ("@keyframes k { from { background: url(k.png) } } li { list-style: url(data:image/gif;base64,AAAA) }", ["style/k.png", "data:image/gif;base64,AAAA"]),
    ("!!bad { background: url(u.png) } ] } p { background: url(v.png) }", ["style/u.png", "style/v.png"]),
]  # fmt: skip


@pytest.mark.parametrize(("css", "expected"), CSS)
def test_style_sheets(css: str, expected: list[str]) -> None:
    assert [item.url.removeprefix(ROOT) for item in in_sheet(css) if not isinstance(item, Hiding)] == expected


def test_imports_and_sheet_encodings() -> None:
    css = "@charset 'x'; @import url(b.css) print; @import \"c.css\" layer(k); p { background: url(a.png) }"
    needs = [item.url.removeprefix(ROOT) for item in in_sheet(css) if isinstance(item, Need)]
    assert needs == ["style/b.css", "style/c.css"]
    assert decode_sheet(b'@charset "koi8-r";\xc1', "", "utf-8").endswith("а")
    assert decode_sheet(b'@charset "koi8-r";\xc3\xbc', "utf-8", "").endswith("ü")
    assert decode_sheet(b"\xfc", "", "iso-8859-1") == "ü"
    assert decode_sheet(b'@charset "utf-16le";\xc3\xbc', "", "iso-8859-1").endswith("ü")  # it was read as ASCII
    assert findings("<link rel='stylesheet' href=a.css><link rel='alternate stylesheet' href=b.css><style>@import 'c.css'</style>").needs == (
        Need(findings("<link rel=stylesheet href=a.css>").needs[0].kind, ROOT + "rooms/a.css"),
        Need(findings("<link rel=stylesheet href=a.css>").needs[0].kind, ROOT + "rooms/c.css"),
    )  # fmt: skip


@pytest.mark.parametrize(
    "text", ["a.jpg", "/a/b.PNG?x=1#y", "//k.example/a.webp", "https://k.example/a.b/c.svg", "über.png", "a%20b.gif"]
)
def test_image_addresses(text: str) -> None:
    assert is_address(text)


@pytest.mark.parametrize(
    "text",
    [
        "jpg",
        ".jpg",
        "*.jpg",
        "a b.jpg",
        "a.jpg b",
        "see a.jpg.",
        "a.jpg/edit",
        "{n}.png",
        "=.png",
        "x='a.png",
        "image/.png",
        "a.jpg,b.jpg x",
    ],
)
def test_what_is_no_image_address(text: str) -> None:
    assert not is_address(text)


FAMILIES = [
    ('x = {"thumb": "/1t.jpg", "large": "/1.jpg"}', [["/1t.jpg", "/1.jpg"]]),
    ('{"photos": [{"id": 1, "sizes": {"small": "/1s.jpg", "large": "/1.jpg"}}, {"sizes": {"small": "/2s.jpg", "large": "/2.jpg"}}]}',
     [["/1s.jpg", "/1.jpg"], ["/2s.jpg", "/2.jpg"]]),
    ('{"cover": {"large": "/c.jpg", "small": "/cs.jpg"}, "back": {"large": "/b.jpg", "small": "/bs.jpg"}}',
     [["/c.jpg", "/cs.jpg"], ["/b.jpg", "/bs.jpg"]]),
    ('{"thumb": {"w": 9, "url": "/at.jpg"}, "full": {"url": "/a.jpg"}}', [["/at.jpg", "/a.jpg"]]),
    ('[{"large": "/a.jpg"}, {"large": "/b.jpg"}]', []),
    # each says of itself which it is; a second thumbnail is another picture's
    ('[{"type": "thumb", "url": "/at.jpg"}, {"href": "/a.jpg", "rel": "original"}]', [["/at.jpg", "/a.jpg"]]),
    ("[{size: 's', url: '/1.jpg'}, {size: 'xl', url: '/2.jpg'}, {size: 's', url: '/3.jpg'}, {size: 'xl', url: '/4.jpg'}]",
     [["/1.jpg", "/2.jpg"], ["/3.jpg", "/4.jpg"]]),
    ('[{"type": "front", "url": "/a.jpg"}, {"type": "back", "url": "/b.jpg"}]', []),
    # sides of one ratio, each larger than the one before; a gallery's are not so
    ('[{"url": "/1.jpg", "width": 640, "height": 480}, {"url": "/2.jpg", "width": 300, "height": 225}, {"url": "/3.jpg", "width": 64, "height": 48}]',
     [["/1.jpg", "/2.jpg", "/3.jpg"]]),
    ('{"source": {"url": "/s.jpg", "w": 2000, "h": 1500}, "resolutions": [{"url": "/1.jpg", "w": 108, "h": 81}, {"url": "/2.jpg", "w": 960, "h": 720}]}',
     [["/s.jpg", "/1.jpg", "/2.jpg"]]),
    ('[{"url": "/1.jpg", "width": 1200, "height": 800}, {"url": "/2.jpg", "width": 1500, "height": 1000}, {"url": "/3.jpg", "width": 1600, "height": 1067}]',
     []),
    ('[{"url": "/1.jpg", "width": 600, "height": 400}, {"url": "/2.jpg", "width": 400, "height": 600}, {"url": "/3.jpg", "width": 1600, "height": 1067}]',
     []),
    # the versions of a picture in an object beside its address, and what the object around is called
    ('{"cover": {"url": "/a.jpg", "formats": {"thumbnail": {"w": 9, "url": "/at.jpg"}, "small": {"url": "/as.jpg"}}}}',
     [["/a.jpg", "/at.jpg", "/as.jpg"]]),
    ('{"front": {"url": "/a.jpg"}, "back": {"thumb": "/bt.jpg"}}', []),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected"), FAMILIES)
def test_versions_of_one_picture_in_data(text: str, expected: list[list[str]]) -> None:
    assert [[version.url for version in family] for family in families(text)] == expected


FILES = [
    ({"name": "red.jpg", "url": "/u/red_a1.jpg"}, ["/u/red_a1.jpg"]),
    ({"filename": "red.jpg", "url": "/download/5"}, ["/download/5"]),
    ({"file": "05/red.jpg", "sizes": {"full": {"file": "red.jpg", "url": "/u/05/red.jpg"}}}, ["/u/05/red.jpg"]),
    ({"title": "red.jpg", "photo": {"src": "/u/blue.jpg"}}, ["red.jpg", "/u/blue.jpg"]),
    ({"base": "/u/", "files": [{"name": "red.jpg"}]}, ["red.jpg"]),
    ({"src": "05/red.jpg", "zoom": "/u/05/blue.jpg"}, ["05/red.jpg", "/u/05/blue.jpg"]),
]


@pytest.mark.parametrize(("data", "expected"), FILES)
def test_what_a_file_is_called_beside_its_address_is_no_picture(data: object, expected: list[str]) -> None:
    assert [entry.url for entry in in_json(json.dumps(data))] == expected


def test_unescape() -> None:
    assert unescape(r"a\/b\u002Fc\x2fd\u{2f}e\n\'&amp;\q") == "a/b/c/d/e\n'&q"
    styles = (
        "e.style.background = '#fff url(/a.png) no-repeat'; s = `.x{background:url('b.png')}`; 'url(' + x + '/c.png)'"
    )
    assert list(in_script(styles)) == ["/a.png", "b.png"]
    assert list(in_script("document.write('<img src=a.png>'); t = `url(${base}/b.png)`")) == ["a.png"]
    assert list(in_script('x = JSON.parse(\'{"a": "/a.png", "b": {"c": "\\\\/b.png"}}\')')) == ["/a.png", "/b.png"]
    sized = "t = '<img srcset=\"/a.png 1x, /b.png 2x\"><source data-srcset=c.webp>'"
    assert list(in_script(sized)) == ["/a.png", "/b.png", "c.webp"]
    assert list(in_script('y = "{\\"html\\": \\"<i style=\\\\\\"background:url(/c.png)\\\\\\">\\"}"')) == ["/c.png"]
    found = in_json('{"html": "<img src=/d.png>", "in": "{\\"src\\": \\"/e.png\\"}"}')
    assert [entry.url for entry in found] == ["/d.png", "/e.png"]
    assert list(in_script("'/a.png'+x; y+\"/b.png\"; ['/c.png']")) == ["/c.png"]
    assert list(
        in_script("i.src = i.src.replace('s.png', 'l.png').replace(/thumb/g, \"a.png\").replace('/off.png', '/on.png')")
    ) == [
        "/off.png",
        "/on.png",
    ]
    assert list(in_script("if (i.src.endsWith('none.png') || names.indexOf( 'b.png') > 0) i.src = 'c.png'")) == [
        "c.png"
    ]


SUMS = [
    ("x = '/i/' + 'a' + '.jpg'", ["/i/a.jpg"]),
    ("var p = 'i/'; t[0] = p + 'a.jpg'; t[1]=p+'b.jpg';", ["i/a.jpg", "i/b.jpg"]),
    ("let a='i/', b=a+'big/'; show(b+'a.jpg')", ["i/big/a.jpg"]),
    ("const d = '/i/'; e.innerHTML = `<img src=\"${d}a.jpg\">`; x = `${d}b.png`", ["/i/a.jpg", "/i/b.png"]),
    ("var p='/i/'; document.write('<img src=\"' + p + 'a.jpg\">')", ["/i/a.jpg"]),
    ("p = 'i/'\nq.src = p + 'a.jpg'; r = 'http://k.example/' + p + 'b.jpg'", ["i/a.jpg", "http://k.example/i/b.jpg"]),
    ("q.src = 'red' + '.jpg'", ["red.jpg"]),
    # lists of strings
    ("var k = ['a.jpg', 'b.jpg']; q.src = 'i/' + k[n];", ["i/a.jpg", "i/b.jpg"]),
    ("var d = 'i/', k = new Array('a.jpg', 'b.jpg'); q.src = d + k[n % k.length];", ["i/a.jpg", "i/b.jpg"]),
    ("k = ['a', 'b']; x = `<img src='i/${k[n]}.jpg' alt='${k[n]}'>` + y; z = 'i/' + k[n] + '-l.jpg'", ["i/a-l.jpg", "i/b-l.jpg"]),
    ("var k = new Array(); k[0] = 'a.jpg'; k[1] = 'b.jpg'; function f(n) { q.src = 'i/' + k[n] }", ["i/a.jpg", "i/b.jpg"]),
    # what loops count
    ("for (var i = 1; i <= 2; i++) { d.write('<a href=\"b/' + i + '.jpg\"><img src=\"t/' + i + '.jpg\"></a>') }",
     ["b/1.jpg", "t/1.jpg", "b/2.jpg", "t/2.jpg"]),
    ("p='i/';for(n=0;n<2;++n)s+=`<img src=\"${p}k${n}.png\">`; for(n=0;n<k.length;n++) t.push('/x/'+n+'.jpg')", ["i/k0.png", "i/k1.png"]),
    ("const k=['a','b'], p='/i/';k.forEach(n=>{d.write('<img src='+p+n+'.jpg>')});for (const m of k) t.push(`/t/${m}.png`)",
     ["/i/a.jpg", "/i/b.jpg", "/t/a.png", "/t/b.png"]),
    ("const k=['a','b'];x=k.map(function (n, i) { return '/i/' + n + '.jpg' });o.map(n => '/x/' + n + '.jpg')", ["/i/a.jpg", "/i/b.jpg"]),
    ("n = 2; for (i = n; i > 0; i--) {} for (var i = 1, m = n; i <= m; i++) {} for (var k = 1; k <= n; ++k) q.src = 'i/' + k + '.jpg'",
     ["i/1.jpg", "i/2.jpg"]),
    # what is made of a number that is counted
    *((f"for (var i = 9; i <= 10; i++) {{ {script} }}", ["i/09.jpg", "i/10.jpg"]) for script in (
        "q.src = 'i/' + (i < 10 ? '0' : '') + i + '.jpg'", "var n = i < 10 ? '0' + i : i; q.src = 'i/' + n + '.jpg'",
        "q.src = 'i/' + ('0' + i).slice(-2) + '.jpg'", "q.src = `i/${String(i).padStart(2, '0')}.jpg`",
        "const n = i.toString().padStart(2, '0'); q.src = `i/${n}.jpg`", "q.src = ['i/', ('0' + i).substr(-2), '.jpg'].join('')",
        "t = '{d}/{n}.jpg'; h += t.replace(/\\{d\\}/g, 'i').replace('{n}', i < 10 ? '0' + i : i)",
    )),
    *((script, ["i/1.jpg", "i/2.jpg"]) for script in (
        "for (i = 0; i < 2; i++) q.src = 'i/' + (i + 1) + '.jpg'", "h = Array.from({length: 2}, (_, i) => `i/${i + 1}.jpg`)",
        "[...Array(2).keys()].map(i => `i/${i+1}.jpg`)", "Array(2).fill().map((_, i) => 'i/'.concat(i + 1, '.jpg'))",
        "for (i = 1; i <= 2; i++) h += 'i/{n}.jpg'.replace('{n}', i).replace('{c}', colour())",
    )),
    # lists without a name, and lists of lists
    *((script, ["i/a.jpg", "i/b.jpg"]) for script in (
        "'a b'.split(' ').forEach(n => { q.src = 'i/' + n + '.jpg' })", "['a.jpg', 'b.jpg'].forEach(n => { q.src = ['i', n].join('/') })",
        "k = 'a,b'.split(','); for (n = 0; n < 2; n++) q.src = 'i/' + k[n] + '.jpg'",
        "k = [['A', 'a.jpg'], ['B', 'b.jpg']]; k.forEach(([t, f]) => { h += `<img src=\"i/${f}\" alt=\"${t}\">` })",
        "k = [['A', 'a.jpg'], ['B', 'b.jpg']]; for (const r of k) q.src = 'i/' + r[1]",
        "k = {A: 'a.jpg', B: 'b.jpg'}; for (const [t, f] of Object.entries(k)) q.src = 'i/' + f",
        "k = {A: 'a.jpg', B: 'b.jpg'}; Object.values(k).forEach(f => { q.src = 'i/' + f })",
    )),
    # what objects have under a name
    ("k = [{file: 'a.jpg', what: 'A'}, {file: 'b.jpg', what: 'B'}]; k.map(p => `<img src=\"i/${p.file}\" alt=\"${p.what}\">`)",
     ["i/a.jpg", "i/b.jpg"]),
    ("var k = [{'src': 'a.jpg'}, {'src': 'b.jpg'}], o = {folder: 'i/'}; q.src = o.folder + k[n].src;", ["i/a.jpg", "i/b.jpg"]),
    ("k = [{kind: 'a', t: 'A kite'}, {kind: 'b', t: 'B'}]; x = `<img src='/i/${k[n].kind}.jpg' alt='${k[n].t}'>`", ["/i/a.jpg", "/i/b.jpg"]),
    *((f"k = [{{file: 'a.jpg', t: 'A'}}, {{file: 'b.jpg', t: 'B'}}]; {script}", ["i/a.jpg", "i/b.jpg"]) for script in (
        "k.map(({t, file}) => `<img src='i/${file}' alt='${t}'>`)", "k.forEach(({file: f}, n) => { q.src = 'i/' + f })",
        "for (const {file} of k) { q.src = 'i/' + file }", "k.map(one => { const {t, file} = one; return 'i/' + file })",
        "for (var n = 0; n < k.length; n++) { q.src = 'i/' + k[n].file }",
    )),
    ("var d = 'i/', k = ['a.jpg', 'b.jpg']; for (n = 0; n < k.length; n++) { q.src = d + k[n] }", ["i/a.jpg", "i/b.jpg"]),
    ("const d = 'i/'; ['x', 'y']; k = ['a.jpg', 'b.jpg']; k.forEach(n => { q.src = d+n })", ["i/a.jpg", "i/b.jpg"]),
    ("class A { constructor() { this.d = '/i/' } show() { q.src = this.d + 'a.jpg' } }", ["/i/a.jpg"]),
    # what has more in it, or may be another value elsewhere
    *((script, []) for script in (
        "x = '/i/' + n + '.jpg'", "n = 'a'; n = 'b'; x = '/i/' + n + '.jpg'", "n = 'a'; n += 'b'; x = '/i/' + n + '.jpg'",
        "n = 'a'; function f(n) { return '/i/' + n + '.jpg' }", "n = 'a'; f = n => '/i/' + n + '.jpg'",
        "n = 'a'; f = (m, n) => `/i/${n}.jpg`", "n = 'a'; x = o.n + '/a.jpg'", "n = '/i/'; x = n.b + 'a.jpg'",
        "n = '/i/'; x = f(n) + 'a.jpg'", "f(x) + '/i/' + 'a.jpg'", "n = '/i/' || m; x = n + 'a.jpg'", "n = '/i/'; x = n + 'a.jpg?t=' + t",
        "k = ['a.jpg', m]; x = '/i/' + k[n]", "k = ['a.jpg'].map(f); x = '/i/' + k[n]", "k = ['a.jpg']; k = []; x = '/i/' + k[n]",
        "k = ['a.jpg']; x = '/i/' + k", "k = ['a.jpg']; x = '/i/' + k[n][m]", "k = ['a']; j = ['b', 'c']; x = '/i/' + k[n] + j[n] + '.jpg'",
        "k = [{kind: 'a'}, {kind: 'a'}]; x = '/i/' + k[n].kind + '.jpg'", "k = [{kind: 'A kite'}, {kind: 'b'}]; x = '/i/' + k[n].kind + '.jpg'",
        "k = [{kind: 'a'}, {kind: 'b'}]; x = '/i/' + k[n].kind + '/x.jpg'", "k = {file: 'a.jpg', s: '?1', t: {s: '?2'}}; x = 'i/' + k.file + k.s",
        "for (i = 1; i < 3; i++) x = 'i/' + f(i) + '.jpg'", "for (i = 1; i < m; i++) x = 'i/' + i + '.jpg'",
        "for (i = 1; i < 3; i++) x = 'i/' + (y ? i : 'a') + '.jpg'", "n = 1; n = 2; for (i = 0; i < n; i++) x = 'i/' + i + '.jpg'",
        "for (i = 1; i < 3; i++) x = 'i/' + String(i).padStart() + '.jpg'", "x = 'i/' + " + "(" * 50 + "1" + ")" * 50 + " + '.jpg'",
        "for (i = 1; i < 3; i++) for (j = 1; j < 4; j++) x = 'i/' + (i + j) + '.jpg'",
        "s = \"n = 'a'\"; x = '/i/' + n + '.jpg'", "x = '/i/' + " + "'a' + " * 30 + "'.jpg'",
    )),
]  # fmt: skip


@pytest.mark.parametrize(("script", "expected"), SUMS)
def test_constants_of_scripts_are_added(script: str, expected: list[str]) -> None:
    assert list(in_script(script)) == expected


def test_bounds_that_no_real_page_meets() -> None:
    deep, flaw = within_bounds("<div>" * (5 * DEEPEST) + "<img src=a.png>")
    assert deep.count("<div>") == DEEPEST
    assert flaw is not None
    assert "nested more than 5,000 deep" in flaw.detail
    broad, flaw = within_bounds("<p><img " + " ".join(f"a{n}=1" for n in range(9000)) + ">")
    assert broad == "<p>"
    assert flaw is not None
    for fine in (
        "<p><li><a name=x>" * 9000,
        "<div>" * DEEPEST + "</div>" * 30_000,
        "<svg>" + "<path d=x />" * 9000 + "</svg>",
        "<div><b></b></div>" * 9000,
        "1 < 2 " * 9000,
        "<script>k = '" + "<div><b>x<\\/b><\\/div>" * 9000 + "'</script><!--" + "<div>" * 9000 + "--><p>",
        "<TEXTAREA title='>'>" + "<div>" * 30_000 + "</textarea ><p>",
    ):
        assert within_bounds(fine) == (fine, None)
    for hidden in (
        "<a title='<script>'>",
        "<!--<script>-->",
        "<!--a--!>",
        "<textarea><script></textarea>",
        "<svg><script>",
    ):
        kept, _ = within_bounds(hidden + "<div>" * (5 * DEEPEST))
        assert kept.count("<div>") < DEEPEST + 5, hidden


READERS: list[Callable[[bytes], object]] = [
    lambda octets: list(read_manifest(octets)),
    lambda octets: read_mime(octets, "file:///x"),
    read_har,
    lambda octets: read_warc(lambda: io.BytesIO(octets), 10**6),
    lambda octets: read_package(lambda: io.BytesIO(octets), "file:///x.zip", 10**6),
    lambda octets: read_xml_feed(octets, HOME),
    lambda octets: read_json_feed(octets, HOME),
]
STARTS = [
    b"",
    b'{"log":{"entries":[',
    b"WARC/1.0\r\nWARC-Type: response\r\n",
    b"PK\x03\x04",
    b"<rss><item>",
    b"MIME-Version: 1.0\nContent-Type: multipart/related; boundary=b\n\n--b\n",
]


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(STARTS), st.binary(max_size=200) | st.text(max_size=200).map(str.encode))
def test_any_bytes_are_a_reading(start: bytes, rest: bytes) -> None:
    for read in READERS:
        read(start + rest)


@given(st.text(max_size=300))
def test_any_sheet_is_read(css: str) -> None:
    list(in_sheet(css))
    list(in_sheet("p { background: url(" + css))


def test_pages_inside_a_page() -> None:
    """What is loaded at once, what a script loads later, and objects that are pages; not what shows a picture or a film."""
    html = (
        "<iframe src=a.html></iframe><iframe data-src=b.html></iframe><iframe src=about:blank data-lazy-src=c.html></iframe>"
        "<object data=d type=text/html></object><embed src=e.html><object data=x.svg></object><embed src=x.swf>"
        "<object data=f.htm></object><iframe srcdoc='<p>x' src=x.html></iframe><iframe src='javascript:x()'></iframe>"
    )
    assert [need.url.removeprefix(ROOT) for need in findings(html).needs] == [
        "rooms/a.html", "rooms/b.html", "rooms/c.html", "rooms/d", "rooms/e.html", "rooms/f.htm",
    ]  # fmt: skip


def test_sheets_frames_and_manifests_come_in_rounds(run: Program, web: Server) -> None:
    www = web.www
    for name in ("style", "inner"):
        (www / name).mkdir()
    (www / "page.html").write_text(
        "<title>All</title><link rel=stylesheet href=style/a.css><link rel=stylesheet href=style/gone.css>"
        "<link rel=manifest href=app.json><iframe src=inner/one.html></iframe><iframe src=inner/one.html></iframe><p class=k>"
    )
    (www / "style" / "a.css").write_text("@import 'b.css'; @import 'a.css'; .k { background: url(../a.png) }")
    (www / "style" / "b.css").write_text(".k { background: url(b.png) } .none { background: url(no.png) }")
    (www / "app.json").write_text(
        '{"icons": [{"src": "icon.png", "sizes": "48x48 96x96"}, 7], "shortcuts": [{"icons": [{"src": "s.png"}]}]}'
    )
    (www / "inner" / "one.html").write_text(
        "<style>p { background: url(in.png) }</style><p><img src=one.png><iframe src=two.html></iframe>"
    )
    (www / "inner" / "two.html").write_text("<img src=two.png>")
    for path in ("a.png", "style/b.png", "icon.png", "s.png", "inner/in.png", "inner/one.png", "inner/two.png"):
        (www / path).write_bytes(picture("PNG", (len(path), 9)))
    done = run("look", f"{web.address}/page.html")
    assert "6 pictures on 1 page" in done.out
    assert "style sheet" in done.out
    assert "gone.css: the server answered 404" in done.out
    asked = web.requests()
    assert sorted(set(asked)) == sorted(asked)  # nothing twice
    assert "/style/a.css" in asked
    assert "/inner/two.html" not in asked
    assert "7 pictures" in run("look", f"{web.address}/page.html", "--frames", "2").out
    assert "4 pictures" in run("look", f"{web.address}/page.html", "--frames", "0").out
    assert "6 pictures fetched" in run("pack", f"{web.address}/page.html", "--crate", "c").out


SHOWN = "".join(f"<img src=/menu-{n}.gif alt='Menu {n}'>" for n in range(6))
SCRIPTS = [
    (  # rows, with the larger versions
        f"<h1>Kites</h1>{SHOWN}<script src=js/photos.js></script>",
        'var photos = [{src: "img/red.jpg", thumb: "img/t/red.jpg", title: "Red Delta"}, {src: "img/star.jpg", title: "Evening Star"}];',
        [("img/red.jpg", "Red Delta"), ("img/star.jpg", "Evening Star")],
    ),
    (  # names alone, whose folder the page has
        "<script src=js/imagelist.js></script><script>names.forEach((n) => show('img/' + n))</script>",
        'var names = ["red.jpg", "star.jpg"]',
        [("img/red.jpg", ""), ("img/star.jpg", "")],
    ),
    (  # a page that shows nothing itself: whatever they are called
        "<script src=js/wall.js></script>",
        'add("img/red.jpg", "Red <i>Delta<\\/i>"); add("img/star.jpg", "Evening Star")',
        [("img/red.jpg", "Red Delta"), ("img/star.jpg", "Evening Star")],
    ),
    (  # a module
        "<script type=module>import kites from './js/photos.js'; draw(kites)</script>",
        "export default [{src: 'img/red.jpg', title: 'Red Delta'}, {src: 'img/star.jpg', title: 'Evening Star'}]",
        [("img/red.jpg", "Red Delta"), ("img/star.jpg", "Evening Star")],
    ),
    (  # markup that is written
        "<script src=js/gallery.js></script>",
        "document.write('<p><img src=img/red.jpg alt=\"Red Delta\">'); document.write('<p><img src=img/star.jpg alt=Star>')",
        [("img/red.jpg", "Red Delta"), ("img/star.jpg", "Star")],
    ),
    ("<script src=js/wall.js></script><img src=/a.png>", 'add("img/red.jpg", "Red"); add("img/star.jpg", "Star")', []),
    ("<script src=js/gallery.js></script>", 'icons = ["img/left.gif", "img/right.gif"];' + "show(1);" * 400, []),
    ("<script src=http://127.0.0.1:1/photos.js></script>", "", []),
]


@pytest.mark.parametrize(("page", "script", "found"), SCRIPTS)
def test_lists_of_pictures_in_scripts_of_the_site(
    run: Program, web: Server, page: str, script: str, found: list[tuple[str, str]]
) -> None:
    (web.www / "js").mkdir()
    (web.www / "p.html").write_text(page)
    for name in ("photos", "imagelist", "wall", "gallery"):
        (web.www / "js" / f"{name}.js").write_text(script)
    rows = run("look", f"{web.address}/p.html", "--format", "jsonl", "--found-in", "script").rows
    assert [(row["url"].removeprefix(f"{web.address}/"), row["item"] or "") for row in rows] == found
    asked = web.requests()
    assert sorted(set(asked)) == sorted(asked)
    # And beside a page on disk.
    rows = run("look", web.www / "p.html", "--format", "jsonl", "--found-in", "script").rows
    assert [row["item"] or "" for row in rows] == [item for _, item in found]
