"""Items: what a person sees, on golden layouts; what it is used for; and pages that are made to take long."""

import csv
import json
import re
from base64 import b64encode
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from urllib.parse import quote

import pytest

from conftest import Program
from layouts import ANY, HELD, HOME, LAYOUTS, Seen
from pickcrate.finders import find
from pickcrate.group import group
from pickcrate.items import itemised
from pickcrate.items.ground import Ground
from pickcrate.items.naming import Naming
from pickcrate.items.said.junk import says_nothing, without_price
from pickcrate.read.data.datafile import DATA_FIELDS, as_page
from pickcrate.read.pages.document import read_document
from pickcrate.values.image import Image


def images_of(markup: str) -> dict[str, Image]:
    page = read_document(f"<!doctype html><body>{markup}".encode(), source="x", address=HOME)
    findings = find(page)
    images = group(itemised(page, findings.references, findings.pieces), source="x")
    return {image.shown.url.rpartition("/")[2].partition(".")[0]: image for image in images}


def seen(markup: str) -> dict[str, Seen]:
    return {
        name: Seen(
            image.item.title,
            image.shown.words.heading,
            image.item.url.removeprefix(HOME),
            dict(image.item.columns),
        )
        for name, image in images_of(markup).items()
    }


@pytest.mark.parametrize("name", LAYOUTS)
def test_what_a_person_sees(name: str) -> None:
    markup, expected = LAYOUTS[name]
    found = seen(markup)
    for picture, wanted in expected.items():
        told = found[picture]
        assert (replace(told, heading=ANY) if wanted.heading == ANY else told) == wanted, picture


FRAME = "<header><nav><ul><li><a href=/x><img src=/logo.svg></a><li><a href=/y>Shop</a></ul></nav></header><main>{}</main><footer><a href=/t>Terms</a></footer>"
IMG = re.compile(r"<img\b([^>]*)>")
DRESSED: dict[str, Callable[[str], str]] = {
    "in a frame": FRAME.format,
    "in boxes": lambda markup: IMG.sub(r"<div class=frame><div><img\1></div></div>", markup),
    "in spans": lambda markup: IMG.sub(r"<span class=frame><img\1></span>", markup),
    "with spaces and comments": lambda markup: IMG.sub(r"<!-- p --><img\1>", re.sub(">(?=<)", ">\n  ", markup)),
    "in capitals": lambda markup: re.sub(r"<(/?)(\w+)", lambda match: f"<{match[1]}{match[2].upper()}", markup),
    "with copies for browsers without scripts": lambda markup: IMG.sub(r"<img\1><noscript><img\1></noscript>", markup),
    "behind what waits": lambda markup: IMG.sub(
        r"<img class=blur src=data:image/gif;base64,R0lGODlhAQABAAA><img\1>", markup
    ),
    "with signs": lambda markup: IMG.sub(r"<svg class=i width=12 height=12><path d=M0 /></svg><img\1>", markup),
}
"""what does not change what a person sees"""


@pytest.mark.parametrize("how", DRESSED)
def test_what_does_not_change_what_a_person_sees(how: str) -> None:
    for name, (markup, expected) in LAYOUTS.items():
        found = seen(DRESSED[how](markup))
        told = {picture: replace(found[picture], heading=ANY) for picture in expected}
        assert told == {picture: replace(wanted, heading=ANY) for picture, wanted in expected.items()}, name


AROUND = {
    "boxes": "<div id=page><div class=inner>{}</div></div>",
    "the main part": "<main>{}</main>",
    "a table of one cell": "<table><tr><td>{}</td></tr></table>",
    "what centres it": "<center>{}</center>",
    "boxes of a script": "<div id=root><div><div role=banner><a href=/>Home</a></div><div role=main>{}</div><div role=contentinfo>(c)</div></div></div>",
}
"""what goes around all of a page, and changes nothing at all, nor the headings"""


@pytest.mark.parametrize("how", AROUND)
def test_what_goes_around_all_of_a_page(how: str) -> None:
    for name, (markup, expected) in LAYOUTS.items():
        bare, around = seen(markup), seen(AROUND[how].replace("{}", markup))
        assert {picture: around[picture] for picture in expected} == {picture: bare[picture] for picture in expected}, (
            name
        )


OF_A_PAGE = re.compile(r"<script|<style|style=|<template|<h1|<\w+-|on\w+=|'")
"""what a piece is no place for, or the quotation marks around it"""


@pytest.mark.parametrize("how", HELD)
def test_what_is_held_for_a_script_to_show_is_read_as_a_page(how: str) -> None:
    layouts = {name: layout for name, layout in LAYOUTS.items() if OF_A_PAGE.search(layout[0]) is None}
    assert len(layouts) > 150
    for name, (markup, expected) in layouts.items():
        shown, held = images_of(markup), images_of(HELD[how](markup))
        for picture in expected:
            told = [(found.item.title, found.item.url, found.candidates) for found in (shown[picture], held[picture])]
            assert told[0] == told[1], name


CAPTIONS: list[tuple[str, dict[str, str]]] = [
    ("<div class=wp-caption><a href=b.jpg><img src=a.jpg></a><p class=wp-caption-text>Ino at the ebb</p></div>", {"a": "Ino at the ebb"}),
    ("<div class=thumbinner><img src=a.jpg><div class=thumbcaption>An old sled</div></div>", {"a": "An old sled"}),
    ("<table class=tr-caption-container><tr><td><img src=a.jpg><tr><td class=tr-caption>Low tide</table>", {"a": "Low tide"}),
    ("<div class=figure><img src=a.jpg><p class=caption>Drag<a class=headerlink href=#f>¶</a></p></div>", {"a": "Drag"}),
    ("<div class=imageblock><div class=content><img src=a.jpg></div><div class=title>Figure 1. Bridle</div></div>", {"a": "Figure 1. Bridle"}),
    ("<img src=a.jpg aria-describedby=d><p id=d>The sail loft in May</p>", {"a": "The sail loft in May"}),
    ("<p><a><img src=a.jpg></a><p>Fig. 3: Lift<p><img src=b.jpg><br>Abb. 2 – Leine<p>Figure 4 shows", {"a": "Fig. 3: Lift", "b": "Abb. 2 – Leine"}),
    ("<p><img src=a.jpg></p><p>Figure 4 shows the loft.</p><p><img src=b.jpg><p>Photo of the pier.", {"a": "", "b": ""}),
    ("<div role=figure aria-labelledby=d><img src=a.jpg><p id=d>Reel and line</p></div>", {"a": "Reel and line"}),
    ("<div><img src=a.jpg><img src=b.jpg title=#c></div><div id=c class=rail-caption>Dusk</div>", {"a": "", "b": "Dusk"}),
    ("<div><p><img src=a.jpg><p>" + "It blew all day. " * 300 + "<p class=caption>Lines</div>", {"a": ""}),
    ("<figure aria-label='Reel, spare'><img src=a.jpg></figure>", {"a": "Reel, spare"}),
    ("<a href=big.jpg data-title=Lift-off title=Open><img src=a.jpg></a>", {"a": "Lift-off"}),
    ("<a data-src=big.jpg data-caption='The loft' data-title=x href='javascript:;'><img src=a.jpg></a>", {"a": "The loft"}),
    ("<a href=b.jpg data-sub-html='&lt;h4>Dawn&lt;/h4>&lt;p>Pier' title=Open><img src=a.jpg></a>", {"a": "Dawn Pier"}),
    ("<a href=b.jpg data-sub-html=#c><img src=a.jpg></a><div id=c style=display:none>Dusk</div>", {"a": "Dusk"}),
    ("<a href=/post title='The whole story'><img src=a.jpg></a><a href=b.jpg title=Reel><img src=c.jpg alt=Reel></a>", {"a": "", "c": ""}),
    ("<div><img src=a.jpg data-caption='The loft in May'></div>", {"a": "The loft in May"}),
    ("<div itemscope itemtype=https://schema.org/ImageObject><img src=a.jpg><meta itemprop=caption content='Low tide'></div>", {"a": "Low tide"}),
    ("<p><img src=a.jpg><br><em>The loft in May</em></p><p><a><img src=b.jpg></a></p><p><small>Low <b>tide</b></small></p>", {"a": "The loft in May", "b": "Low tide"}),
    ("<table><tr><td><img src=a.jpg><tr><td>The loft in May</table>", {"a": "The loft in May"}),
    ("<table><tr><td><img src=a.jpg><tr><td><a href=/>Home</a> <a href=/kites>All kites</a></table>", {"a": ""}),
    ("<p><img src=a.jpg> <em>A wind</em> that turned.</p><p><img src=b.jpg></p><p><em>A wind</em> that turned.</p>", {"a": "", "b": ""}),
    # whose caption it is, where there are several
    ("<div><img src=a.jpg><p class=caption>One</p><img src=b.jpg><p class=caption>Two</p></div>", {"a": "One", "b": "Two"}),
    ("<div><p class=caption>One</p><img src=a.jpg><p class=caption>Two</p><img src=b.jpg></div>", {"a": "One", "b": ""}),
    ("<div class=pair><img src=a.jpg><img src=b.jpg><div class=caption-text>Both</div></div>", {"a": "Both", "b": "Both"}),
    ("<figure><img src=a.jpg><figcaption>Its own</figcaption><p class=caption>Another</p></figure>", {"a": "Its own"}),
    ("<table><tr><td><img src=a.jpg><td><img src=b.jpg><tr><td class=caption>One<td class=caption>Two</table>", {"a": "One", "b": "Two"}),
    ("<table><tr><td class=caption>One<td class=caption>Two<tr><td><img src=a.jpg><td><img src=b.jpg></table>", {"a": "One", "b": "Two"}),
    # what is none: above a list, of something else that has one, of a film, of something far off, hidden, on a button, only how to look at it
    ("<div><img src=a.jpg><div class=player-captions>English</div></div>", {"a": ""}),
    ("<div><p class=caption>Tools</p><i><img src=a.jpg></i><i><img src=b.jpg></i><i><img src=c.jpg></i><i><img src=d.jpg></i><i><img src=e.jpg></i></div>", {"a": ""}),
    ("<div><div class=figure><p class=caption>The menu</p><pre>x</pre></div><img src=a.jpg></div>", {"a": ""}),
    ("<main><img src=a.jpg><div><div><p class=caption>Table 1</p></div></div></main>", {"a": ""}),
    ("<div><img src=a.jpg><p class=caption hidden>Old</p><button class=caption-on>Words</button></div>", {"a": ""}),
    ("<img src=a.jpg aria-describedby=d><p id=d class=sr-only>Opens a window</p>", {"a": ""}),
    ("<div><img src=a.jpg><p class=caption>Click to enlarge</p></div>", {"a": ""}),
    ("<div><div><p class=caption>Rooms</p><ul><li>One</ul></div><img src=a.jpg></div>", {"a": ""}),
    ("<div><img src=a.jpg><p class=caption>The hall</p><ul><li>wind</ul></div>", {"a": "The hall"}),
    ("<div><img src=a.jpg><p class=caption role=heading>Rooms</p></div>", {"a": ""}),
    ("<p><img src=a.jpg></p><p>plt.show() draws it</p>", {"a": ""}),
    ("<p><img src=a.jpg></p><p>Pl. IV: The mill</p>", {"a": "Pl. IV: The mill"}),
    ("<div><img src=a.jpg><p class=caption>(source code, png, hires.png, pdf)</p></div>", {"a": ""}),
]  # fmt: skip


def test_what_no_name_and_no_heading_says() -> None:
    """Buttons in a heading, a dash before a name, counts, addresses, and what a switch says are left out."""
    markup = """<h2>Kites <a class=btn-add href=/new>Add new</a> <button></button></h2>{}<h2><button>Lofts</button></h2><img src=loft.jpg>"""
    units = (
        ("red", "Yes<p>- Mira Tolland"),
        ("blue", "26.6k<p>Blue Box"),
        ("green", "https://galewick.example/green<p>Green Sled"),
        ("grey", "No<p>Grey Delta"),
    )
    found = seen(markup.format("".join(f"<div class=unit><img src={name}.jpg><p>{said}</div>" for name, said in units)))
    assert [found[name].item for name, _ in units] == ["Mira Tolland", "Blue Box", "Green Sled", "Grey Delta"]
    assert (found["red"].heading, found["loft"].heading) == ("Kites", "Lofts")


@pytest.mark.parametrize(("markup", "captions"), CAPTIONS)
def test_captions(markup: str, captions: dict[str, str]) -> None:
    copied = IMG.sub(lambda match: f"{match[0].replace(' src=', ' data-src=')}<noscript>{match[0]}</noscript>", markup)
    for found in (images_of(markup), images_of(copied)):
        assert {name: found[name].shown.words.caption for name in captions} == captions


RECORDS = {
    "a node": '{"node": {"title": "T", "maker": "M", "image": {"url": "U"}}}',
    "attributes": '{"type": "kites", "attributes": {"name": "T", "maker": "M", "photo": "U"}}',
    "fields": '{"sys": {"id": "1"}, "fields": {"title": "T", "maker": "M", "image": {"fields": {"file": {"url": "U"}}}}}',
    "markup": '{"title": {"rendered": "T"}, "maker": "M", "content": {"rendered": "<p><img src=\'U\'></p>"}}',
    "an index": '{"_id": "1", "_source": {"title": "T", "maker": "M", "image": "U"}}',
    "lists of one": '{"title": ["T"], "maker": ["M"], "image": ["U"]}',
    "languages": '{"title": {"de": "T", "fr": "Autre"}, "maker": "M", "image": "U"}',
    "spans": '{"data": {"title": [{"type": "heading1", "text": "T"}], "maker": "M", "image": {"url": "U"}}}',
    "a map": '{"type": "Feature", "geometry": {"type": "Point"}, "properties": {"name": "T", "maker": "M", "photo": "U"}}',
    "variants": '{"title": "T", "maker": "M", "variants": [{"title": "Small", "image": "U"}, {"title": "Large"}]}',
    "vocabularies": '{"metadata": {"dc": {"dc:title": "T", "maker": "M"}}, "edm:isShownBy": "U"}',
    "parts of a title": '{"DescriptiveDetail": {"TitleDetail": {"TitleElement": {"TitleText": "T"}}}, "maker": "M", "ResourceLink": "U"}',
    "an answer of SPARQL": '{"item": {"type": "uri", "value": "/k/1"}, "itemLabel": {"type": "literal", "value": "T"}, '
    '"maker": {"type": "literal", "value": "M"}, "pic": {"type": "uri", "value": "U"}}',
}


@pytest.mark.parametrize("name", RECORDS)
def test_what_data_says_of_a_thing_in_what_it_is_wrapped_in(name: str) -> None:
    kites = (("Red Delta", "Ino Vale", "/i/a.jpg"), ("Blue Box", "Ysolde Marrow", "/i/b.jpg"))
    records = [
        RECORDS[name].replace('"T"', f'"{title}"').replace('"M"', f'"{maker}"').replace("U", url)
        for title, maker, url in kites
    ]
    found = seen(f'<script type=application/json>{{"items": [{",".join(records)}]}}</script>')
    assert [(found[n].item, found[n].columns.get("maker")) for n in "ab"] == [kite[:2] for kite in kites]


STATE = '[{"title": "Red Delta", "image": "/i/a.jpg"}, {"title": "Blue Box", "image": "/i/b.jpg"}]'
SCRIPTS = {
    "a cache of objects": '<script>s = {"ROOT": {"kites": [{"__ref": "K:1"}, {"__ref": "K:2"}]}, "K:1": {"title": "Red Delta", "image": '
    '{"__ref": "I:1"}}, "K:2": {"title": "Blue Box", "image": {"__ref": "I:2"}}, "I:1": {"url": "/i/a.jpg"}, "I:2": {"url": "/i/b.jpg"}}</script>',
    "a flat list": '<script type=application/json>[["Reactive", 1], {"kites": 2, "state": 3}, [4, 5], {}, {"title": 6, "image": 7}, '
    '{"title": 8, "image": 9}, "Red Delta", "/i/a.jpg", "Blue Box", "/i/b.jpg"]</script>',
    "a flat list with the places of names": '<script>ctx.enqueue("[{\\"_1\\":2},\\"kites\\",[3,8],{\\"_4\\":5,\\"_6\\":7,\\"_1\\":-7},\\"title\\",'
    '\\"Red Delta\\",\\"image\\",\\"/i/a.jpg\\",{\\"_4\\":9,\\"_6\\":10},\\"Blue Box\\",\\"/i/b.jpg\\"]")</script>',
    "what a function is given": "<script>window.state=(function(a,b,c,d,e){return {n:e,kites:[{title:a,image:b},{title:c,image:d}]}}"
    '( "Red Delta", "\\u002Fi\\u002Fa.jpg",\n"Blue Box","/i/b.jpg",void 0));</script>',
    "files without their folder": '<script>var kites = [{title: "Red Delta", file: "a.jpg"}, {title: "Blue Box", file: "b.jpg"}];'
    'for (const kite of kites) show("/i/" + kite.file);</script>',
    "pairs": '<x-island props=\'{"kites": [1, [[0, {"title": [0, "Red Delta"], "image": [0, "/i/a.jpg"]}], '
    '[0, {"title": [0, "Blue Box"], "image": [0, "/i/b.jpg"]}]]]}\'></x-island>',
    "a script's own writing": "<div x-data=\"{ kites: [{title: 'Red Delta', image: '/i/a.jpg'}, {title: 'Blue Box', image: '/i/b.jpg'}] }\"></div>",
    "with its kind": '<div data-snapshot=\'{"kites": [[{"title": "Red Delta", "image": "/i/a.jpg"}, {"s": "arr"}], '
    '[{"title": "Blue Box", "image": "/i/b.jpg"}, {"s": "arr"}]]}\'></div>',
    "percent-encoded": f'<script>s = JSON.parse(decodeURIComponent("{quote(STATE)}"))</script>',
    "in base64": f'<script>s = JSON.parse(atob("{b64encode(STATE.encode()).decode()}"))</script>',
    "rows": '<script>var rows = [["Red Delta", "Ino", "/i/a.jpg"], ["Blue Box", "Ino", "/i/b.jpg"]];</script>',
    "addresses by names": '<script type=application/json>{"Red Delta": "/i/a.jpg", "Blue Box": "/i/b.jpg"}</script>',
    "several by names": '<script type=application/json>{"Red Delta": ["/i/a.jpg"], "Blue Box": ["/i/b.jpg"]}</script>',
    "names by addresses": '<script type=application/json>{"/i/a.jpg": "Red Delta", "/i/b.jpg": {"title": "Blue Box"}}</script>',
    "names by addresses, in more": '<script type=application/json>{"v": {"/i/a.jpg": {"caption": "Red Delta"}, "/i/b.jpg": {"caption": "Blue Box"}}}</script>',
    "columns": '<script type=application/json>{"name": {"0": "Red Delta", "1": "Blue Box"}, "url": {"0": "/i/a.jpg", "1": "/i/b.jpg"}}</script>',
    "nodes of linked data": '<script type=application/json>{"@context": "x", "@graph": [{"@id": "#1", "dc:title": "Red Delta"}, {"@id": "#2", "dc:title": "Blue Box"}, '
    '{"@id": "#3", "edm:aggregatedCHO": {"@id": "#1"}, "edm:isShownBy": {"@id": "/i/a.jpg"}}, '
    '{"@id": "#4", "edm:aggregatedCHO": {"@id": "#2"}, "edm:isShownBy": [{"@id": "/i/b.jpg"}], "hasPart": {"@id": "#4"}}]}</script>',
    "lists of pairs": '<script type=application/json>[[{"key": "name", "value": "Red Delta"}, {"key": "image", "value": "/i/a.jpg"}], '
    '[{"key": "name", "value": "Blue Box"}, {"key": "image", "value": "/i/b.jpg"}]]</script>',
    "pairs in a record": '<script type=application/json>[{"metadata": [{"label": "Title", "value": "Red Delta"}, {"label": "Photo", "value": "/i/a.jpg"}]}, '
    '{"metadata": [{"label": "Title", "value": "Blue Box"}, {"label": "Photo", "value": "/i/b.jpg"}]}]</script>',
    "notes": '<script type=application/json>[{"title": "Red Delta", "body": "Look: ![it](/i/a.jpg) flies"}, {"title": "Blue Box", "body": "![](/i/b.jpg)"}]</script>',
    "rows with heads": '<script>draw([["Photo", "Kite"], ["/i/a.jpg", "Red Delta"], ["/i/b.jpg", "Blue Box"]])</script>',
    "pushed": "<script>k.push({title: 'Red Delta', image: '/i/a.jpg'}); k.push({title: 'Blue Box', image: '/i/b.jpg'});</script>",
    "calls": "<script>add('/i/a.jpg', 'fade', 'Red Delta', 800); add('/i/b.jpg', 'fade', 'Blue Box', 600);</script>",
    "made anew": "<script>s[0] = new Slide('/i/a.jpg', 'Red Delta'); s[1] = new Slide('/i/b.jpg', 'Blue Box');</script>",
    "elements": "<script>s[0] = ['/i/a.jpg', 'Red Delta']; s[1] = new Array('/i/b.jpg', 'Blue Box');</script>",
    "side by side, by number": "<script>p[0]='/i/a.jpg'; t[0]='Red Delta'; p[1]='/i/b.jpg'; t[1]='Blue Box';</script>",
    "properties of elements": "<script>k[0].pic = '/i/a.jpg'; k[0].text = 'Red Delta'; k[1].pic = '/i/b.jpg'; k[1].text = 'Blue Box';</script>",
    "one behind the other": "<script>var k = ['/i/a.jpg', 'Red Delta', '/i/b.jpg', 'Blue Box'];</script>",
    "side by side": "<script>var p = ['/i/a.jpg', '/i/b.jpg'], t = ['Red Delta', 'Blue Box'];</script>",
    "options": "<script>$.show([{src: '/i/a.jpg', opts: {caption: 'Red Delta'}}, {src: '/i/b.jpg', opts: {caption: 'Blue Box'}}])</script>",
    "side by side, in new arrays": "<script>p = new Array('/i/a.jpg', '/i/b.jpg'); t = new Array('Red Delta', 'Blue Box');</script>",
    "side by side, in an object": "<script>d = {t: ['Red Delta', 'Blue Box'], p: ['/i/a.jpg', '/i/b.jpg']};</script>",
    "beside functions": "<script>new App({el: at('#app'), go(n) {return {n}}, data: {kites: [{title: 'Red Delta', image: '/i/a.jpg', show: () => go(1)}, "
    "{title: say('Blue Box'), wide: !0, image: need('/i/b.jpg'), sides: [2 * 3, /[{]/]}]}, made: function () { this.n = 1; }})</script>",
    "what a function returns": "<script>state = (function (a) { return {kites: [{title: 'Red Delta', wide: a, image: '/i/a.jpg'}, {title: 'Blue Box', "
    "wide: a, image: '/i/b.jpg'}]} }(800))</script>",
    "addresses put together": "<script>const at = '/i'; k = [{title: 'Red Delta', image: at + '/a.jpg'}, {title: 'Blue Box', image: `${at}/b.jpg`}]</script>",
    "a block of its own kind": f"<script type=kites/state>{json.dumps({'state': STATE})}</script>",
    "a hidden field": f"<textarea hidden>{STATE}</textarea>",
    "a hidden comment": f"<code style='display: none'><!-- {STATE} --></code>",
    "windows of a map": "<i data-popup='<b>Red Delta</b><div><img src=/i/a.jpg>'></i><i data-popup='<b>Blue Box</b><div><img src=/i/b.jpg>'></i>",
    "what is done when it is clicked on": "<button onclick=\"show('/i/a.jpg', 'Red Delta')\">Open</button><button onclick=\"show('/i/b.jpg', 'Blue Box')\">Open</button>",
    "what is sent when it is clicked on": "<b @click=\"$send('box', {src: '/i/a.jpg', title: 'Red Delta'})\">Open</b><b @click=\"$send('box', {src: '/i/b.jpg', title: 'Blue Box'})\">Open</b>",
    "links to a script": "<a href=\"javascript:show('/i/a.jpg', 'Red Delta')\">Open</a> <a href=\"javascript:show('/i/b.jpg', 'Blue Box')\">Open</a>",
    "one attribute of several": "<k-card :kite=\"{title: 'Red Delta', image: '/i/a.jpg'}\"></k-card><k-card :kite=\"{title: 'Blue Box', image: '/i/b.jpg'}\"></k-card>",
    "markup": "<script>m.bind('<b>Red Delta</b><img src=\"/i/a.jpg\">'); m.bind('<b>Blue Box</b><img src=\"/i/b.jpg\">');</script>",
}  # fmt: skip


@pytest.mark.parametrize("name", SCRIPTS)
def test_what_scripts_say_of_pictures(name: str) -> None:
    found = seen(f"<h1>Kites</h1>{SCRIPTS[name]}")
    assert {picture: told.item for picture, told in found.items()} == {"a": "Red Delta", "b": "Blue Box"}


WORDS_IN_DATA = {
    "beside the address": (
        [{"src": "/a.jpg", "alt": "A delta", "caption": "Red delta, 1912. Photo: Ino Hallas"}, {"src": "/b.jpg"}],
        {"a": ("A delta", "Red delta, 1912. Photo: Ino Hallas"), "b": ("", "")},
    ),
    "around it, in markup": (
        {
            "hero": {
                "photo_caption": {"rendered": "<p>At <b>dawn</b></p>"},
                "image": {"url": "/a.jpg", "alternativeText": "The hall"},
            }
        },
        {"a": ("The hall", "At dawn")},
    ),
    "a caption of several": (
        {"caption": "Both sides", "alt": "x", "images": ["/a.jpg", "/b.jpg"]},
        {"a": ("x", "Both sides"), "b": ("x", "Both sides")},
    ),
    "in place of one, beside others": (
        {"alt": "The hall", "src": "/a.jpg", "more": [{"src": "/b.jpg"}, {"src": "/c.jpg"}]},
        {"a": ("The hall", ""), "b": ("", ""), "c": ("", "")},
    ),
    "at one place without a name": (
        {"first": {"alt": "A delta", "src": "/a.jpg"}, "kites": [{"name": "Red", "src": "/a.jpg"}]},
        {"a": ("A delta", "")},
    ),
    "no words": (
        {"hall": {"alt": "https://galewick.example/alt", "altitude": "12 m", "src": "/a.jpg"}},
        {"a": ("", "")},
    ),
}


@pytest.mark.parametrize("name", WORDS_IN_DATA)
def test_what_data_has_in_words_for_a_picture_is_said_of_it(name: str) -> None:
    data, expected = WORDS_IN_DATA[name]
    found = images_of(f"<h1>Kites</h1><script type=application/json>{json.dumps({'page': data})}</script>")
    assert {key: (image.shown.words.alt, image.shown.words.caption) for key, image in found.items()} == expected


def test_linked_data_describes_pictures_themselves() -> None:
    pictures = [
        {
            "@type": "ImageObject",
            "contentUrl": "/a.jpg",
            "name": "Red delta",
            "caption": "Over the dunes",
            "width": 1200,
        },
        {
            "@type": "ImageObject",
            "contentUrl": "/b.jpg",
            "caption": "Blue box (Photo: Ino Hallas)",
            "locationCreated": "Ebb",
        },
    ]
    for around in ({"@type": "ImageGallery", "image": pictures}, {"@graph": pictures}):
        found = images_of(f"<h1>Kites</h1><script type=application/ld+json>{json.dumps(around)}</script>")
        items = {key: (image.shown.item.title, dict(image.shown.item.columns)) for key, image in found.items()}
        assert items == {"a": ("Red delta", {}), "b": ("Blue box", {"locationCreated": "Ebb"})}
        assert found["a"].shown.words.caption == "Over the dunes"
    of_kite = {"@type": "Product", "name": "Red Delta", "image": pictures}
    found = images_of(f"<h1>Kites</h1><script type=application/ld+json>{json.dumps(of_kite)}</script>")
    assert {image.shown.item.title for image in found.values()} == {"Red Delta"}


def test_lists_that_only_look_as_if_they_had_places() -> None:
    assert seen('<script>x = [{"_1": [2], "image": "/i/a.jpg"}, "title", "Red"]</script>')["a"].item == ""


def test_a_title_in_a_drawing_says_what_is_shown() -> None:
    drawing = "<svg><title>Red Delta</title><g><image href=a.jpg /></g><g><title>Ice Box</title><image href=b.jpg /></g></svg>"
    assert [image.shown.words.alt for image in images_of(f"<title>Kites</title>{drawing}").values()] == [
        "Red Delta",
        "Ice Box",
    ]


def test_a_page_that_was_read_may_be_read_again() -> None:
    page = read_document(
        b"<template><img src=a.png><template><img src=b.png></template></template>", source="x", address=HOME
    )
    assert [[one.raw for one in find(page).references] for _ in "12"] == [["a.png", "b.png"]] * 2


WHERE_DATA_STANDS = (
    "var n = !0, k = @, z = 1;",
    "export default {data() {return {kites: @, busy: !1}}, methods: {a() {}}}",
    "window.k = window.k || @;",
    "const k = () => @;",
    "const k = () => ({items: @});",
    "@.forEach(k => draw(k));",
    "for (const k of @) draw(k);",
    "class Gallery { items = @; draw() {} }",
    "var k = big ? @ : [];",
    "var k = /* all */ @ // end",
    "k = [...old, ...@];",
    "const kites: Kite[] = @ as const;",
    "var o = {re: /\\/[{]/, kites: @};",
    "(self.w = self.w || []).push([[1], {7: (e, t, n) => {n.d(t, {Z: () => r}); const r = @}}]);",
    "$(() => $('#g').on('click', function () {$(this).show({all: !0, of: @})}))",
    "let a = 1\nlet k = @\nlet b = 2",
)


@pytest.mark.parametrize("script", WHERE_DATA_STANDS)
def test_data_is_read_wherever_a_script_has_it(script: str) -> None:
    kites = "{title: 'Red Delta', thumb: '/t/a.jpg', src: '/f/a.jpg'@}, {title: 'Blue Box', thumb: '/t/b.jpg', src: '/f/b.jpg'@}"
    for more in ("", ", sides: 2 * n, go() { return 1 }"):
        found = images_of(f"<script>{script.replace('@', '[' + kites.replace('@', more) + ']')}</script>")
        told = {name: (image.item.title, len({one.url for one in image.references})) for name, image in found.items()}
        assert told == {"a": ("Red Delta", 2), "b": ("Blue Box", 2)}, more


def test_what_scripts_say_for_themselves_names_nothing() -> None:
    for script in (
        "show('/i/a.jpg', 'easeIn'); show('/i/b.jpg', 'easeOut');",
        "load('/i/a.jpg', 'Image'); load('/i/b.jpg', 'Image');",
        "a = [['/i/a.jpg', '1'], ['/i/b.jpg', '2']]; f('/i/b.jpg', f('x'));",
        'x = [{"a": 0, "b": 1}, "/i/a.jpg"]; y = [["Ref", 0]];',
    ):
        assert {told.item for told in seen(f"<script>{script}</script>").values()} == {""}, script


def test_data_that_names_somebody_else_and_a_file_about_one_thing() -> None:
    rows = [f'{{"author": {{"name": "Ino {n}"}}, "photo": "/i/{n}.jpg"}}' for n in "ab"]
    assert seen(f"<script type=application/json>[{','.join(rows)}]</script>")["a"].item == ""
    alone = b'{"title": "Red Delta", "images": [{"src": "/i/a.jpg"}, {"src": "/i/b.jpg"}]}'
    page = read_document(as_page(alone), source="x", address=HOME, fields=DATA_FIELDS)
    assert [one.item.title for one in itemised(page, find(page).references)] == ["Red Delta", "Red Delta"]


SIGNS = """<h2>Reefing</h2><ul><li><p><span>All sails</span>: only those that are marked with a <span class=sign>
<img src=a.png> </span> sign, on the spar, are taken in.<li><p><span>Loose sails</span>: those with a <span> <img src=b.png>
</span> on the spar.</ul><ol><li><b>Open</b> &gt; <b>the bag</b>.<p><img src=c.jpg><li>Take <img src=d.png alt=""> (Reel) or
<img src=e.png> to tie the <b>long line</b>.<p><img src=f.jpg><li>a low kite <img src=g.jpg width=200> that flies</ol>"""


def test_what_a_program_is_still_to_fill_in_is_no_name() -> None:
    cards = "".join(f"<div><img src={name}.jpg alt='{{{{ kite.name }}}}'><h3>${{title}}</h3></div>" for name in "ab")
    found = images_of(f"{cards}<div><img src=c.jpg><h3>Ice Box</h3></div>")
    assert [(found[name].item.title, found[name].shown.words.alt) for name in "abc"] == [
        ("", ""),
        ("", ""),
        ("Ice Box", ""),
    ]


def test_a_sign_in_the_midst_of_a_sentence_is_named_by_nothing_and_dresses_the_page() -> None:
    found = images_of(SIGNS)
    titles = {name: image.item.title for name, image in found.items()}
    assert titles == dict(
        zip(
            "abcdefg",
            ("", "", "Open > the bag.", "", "", "Take (Reel) or to tie the long line.", "a low kite"),
            strict=True,
        )
    )
    assert [name for name, image in found.items() if image.shown.is_in_sentence] == ["a", "b", "d", "e"]


def test_words_that_stand_right_behind_a_name_are_none_of_it() -> None:
    cards = "".join(
        f"<div><img src={n}.jpg><span>{name}</span><span>View</span></div>"
        for n, name in (("a", "Red Delta"), ("b", "Ice Box"))
    )
    assert [kite.item for kite in seen(cards).values()] == ["Red Delta", "Ice Box"]
    dated = "".join(
        f"<div><img src={n}.jpg><p><span>{year}</span><span>{name}</span></p></div>"
        for n, name, year in (("a", "Red Delta", 1912), ("b", "Ice Box", 1955))
    )
    assert [kite.item for kite in seen(dated).values()] == ["Red Delta", "Ice Box"]
    headed = "<li><img src=a.jpg><h3><span>Red Delta</span><span>1912</span></h3><li><img src=b.jpg><h3>Ice Box</h3>"
    assert [kite.item for kite in seen(headed).values()] == ["Red Delta 1912", "Ice Box"]
    parts = "".join(
        f"<div><img src={n}.jpg><em>Night</em><em>{end}</em></div>" for n, end in (("a", "fall"), ("b", "jar"))
    )
    assert [kite.item for kite in seen(parts).values()] == ["Nightfall", "Nightjar"]


@pytest.mark.parametrize(
    ("line", "is_of_people"),
    [
        ("Maud Ferrow (1912–1987)", True),
        ("Maud Ferrow (British, 1912 - 1987)", True),
        ("Maud Ferrow, b. 1931", True),
        ("by Maud Ferrow", True),
        ("Maker: Maud Ferrow", True),
        ("Ferrow kites, 1931–1935", False),
        ("Ferrow Delta (1912)", False),
        ("Ferrow Delta, 2011-2040", False),
    ],
)
def test_who_made_something_comes_behind_what_it_is(line: str, *, is_of_people: bool) -> None:
    lots = "".join(
        f"<div><img src={n}.jpg><p>{line.replace('Ferrow', n)}</p><p>{n} silk</p></div>" for n in ("Ash", "Elm")
    )
    assert [kite.item == f"{n} silk" for n, kite in seen(lots).items()] == [is_of_people] * 2


FIELDS_ALONE = [
    "Maker: {maker}",
    "Maker: <a href=/m/{n}>{maker}</a>",
    "<dl><dt>Maker<dd><a href=/m/{n}>{maker}</a></dl>",
    "<dl><dt>Cloth<dd>silk {n}<dt>Maker<dd>{maker}<dt>Year<dd>1912<dt>Place<dd>Ness<dt>Size<dd>2 m</dl>",
    "<table><tr><th>Cloth<td>silk {n}<tr><th>Maker<td>{maker}</table>",
    "<p><b>Cloth:</b> silk {n}</p><p><b>Maker:</b> {maker}</p>",
    "<div><span class=label>Cloth</span> <span class=value>silk {n}</span></div>",
]


@pytest.mark.parametrize("fields", FIELDS_ALONE)
def test_what_has_a_label_names_nothing_that_its_picture_names(fields: str) -> None:
    def cards(alt: str) -> list[tuple[str, str]]:
        makers = enumerate(("Ino Hallas", "Maud Ferrow", "Tam Orrin"))
        lines = (f"<img src={n}.jpg alt='{alt.format(n=n)}'><br>{fields.format(n=n, maker=m)}" for n, m in makers)
        return [(kite.item, kite.url) for kite in seen("".join(f"<li>{line}" for line in lines)).values()]

    assert cards("Kite no {n}") == [(f"Kite no {n}", "") for n in range(3)]
    without = {title for title, _ in cards("photo")}  # then a field is all that tells them apart
    assert len(without) == 3
    assert "Cloth" not in without


def test_words_that_name_nothing() -> None:
    nothing = (
        "12 crowns", "€ 4.50", "ab 9,00 €", "￥1,200", "from £20", "Add to cart", "Weiterlesen", "もっと見る", "3 May 2025",
        "2025-05-03", "May 3, 2025", "vor 3 Tagen", "2 hours ago", "12", "No. 5", "(24)", "★★★★☆", "12 reviews", "photo", "Bild",
        "IMG_2041.jpg", "DSC 0042", "Slide 3 of 9", "Click to enlarge", "Sold out", "-20 %", "new!", "PNG", "or", "High resolution",
        "преди 1 час", "5 минут назад", "2 godziny temu", "há 3 dias", "3 uur geleden", "igår", "Plus de vues", "More views",
        "4.0 (12 reviews)", "4.5 out of 5 stars", "Rated 4,5 out of 5 (1.204)", "No reviews yet", "Only 2 left in stock", "Save 20%",
        "3 beds · 2 baths · 110 m²", "(Klik om te vergroten)", "Bild anklicken zum Vergrößern", "Cliquez sur l'image pour l'agrandir",
        "Haga clic en la imagen para ampliar", "Klikk for større bilde", "Kliknij, aby powiększyć", "Нажмите, чтобы увеличить",
        "クリックで拡大", "点击放大", "Note:", "Hinweis", "Click the picture for a larger version",
    )  # fmt: skip
    names = (
        "Red Delta",
        "Sun",
        "May",
        "Saturday",
        "Kite No. 5",
        "99 kites",
        "Foto der Woche",
        "Oktoberfest",
        "Read on, sailor",
        "Buyan",
        "Fa sostenuto",
        "3 of Hearts",
        "3 beds",
        "Only 2 kites",
        "Save our sails",
        "Large delta",
        "No original",
        "Le Grand Bleu",
    )
    assert [text for text in nothing if not says_nothing(text)] == []
    assert [text for text in names if says_nothing(text)] == []
    assert without_price("Red Delta, print, 12 crowns") == "Red Delta, print"
    assert without_price("Ebb, 1962") == "Ebb, 1962"


def test_the_words_are_those_of_the_place_that_is_meant(run: Program, tmp_path: Path) -> None:
    row = "<tr><td><img src=a.png><td>{}<td>1911</table>"
    (tmp_path / "p.html").write_text(
        "<h2>Reds</h2><table><tr><th>Picture<th>Name<th>Year"
        + row.format("Red sled")
        + "<h2>Loans</h2><table><tr><th>Picture<th>Lender<th>Year"
        + row.format("Ebb Hall")
    )
    (one,) = run("look", "p.html", "--format", "jsonl").rows
    (other,) = run("look", "p.html", "--under", "Loans", "--format", "jsonl").rows
    assert (one["item"], one["heading"], other["item"], other["heading"]) == ("Red sled", "Reds", "Ebb Hall", "Loans")
    assert other["columns"] == {"Lender": "Ebb Hall", "Year": "1911"}


def test_items_in_names_shelves_criteria_and_lists(run: Program, museum: str, tmp_path: Path) -> None:
    prints = f"{museum}/prints.html"
    chosen = ("--furniture", "drop", "--as-shown")
    assert [row["item"] for row in run("look", prints, *chosen, "--text", "Dag", "--format", "jsonl").rows] == [
        "Octopus"
    ]
    out = run("look", prints, *chosen).out
    assert "Surveyor's Box" in out
    assert "(under" not in out
    done = run(
        "pack", prints, *chosen, "--crate", "c", "--name", "{item} {k}", "--shelf", "{heading}/{column[Made by]}"
    )
    assert done.code == 0
    assert (tmp_path / "crates/c/Printed this spring/Ysolde Marrow/Red Delta 1.jpg").is_file()
    with (tmp_path / "crates/c/crate.csv").open(encoding="utf-8", newline="") as file:
        first = next(csv.DictReader(file))
    assert (first["item"], json.loads(first["columns"])) == (
        "Red Delta",
        {"Made by": "Ysolde Marrow", "Size": "40 × 27 cm"},
    )
    assert first["item_url"] == f"{museum}/kite/red-delta.html"
    run("sheet", "c", "--out", "c.html")
    assert '"item": "Red Delta"' in (tmp_path / "c.html").read_text()
    # A pick list knows them as well, and whatever its owner adds to it.
    run("look", f"{museum}/makers.html", *chosen, "--save", "picks.csv")
    named = ("--name", "{column[Maker]}, {column[Region]}", "--dry-run", "--crate", "m")
    assert "Ino Hallas, Eastern Isles.jpg" in run("pack", "picks.csv", *named).out
    story = run("why", f"{museum}/makers.html", "7").out
    assert "row 2 of the table “Makers of the four regions”; named by its header cell" in story
    assert story.splitlines()[1:3] == run("why", "picks.csv", "7").out.splitlines()[1:3]


def test_pages_that_are_made_to_take_long() -> None:
    """Each is read to its end, with no more looks at its elements than a few for each of them."""
    pages = (
        "<table>" + "<tr><td rowspan=65534 colspan=1000><img src=a.jpg><td>x" * 1_000 + "</table>",
        "<ul><li><img src=a.jpg>x" * 1_500,
        "<div itemscope itemtype=https://schema.org/Product><img src=a.jpg><b itemprop=name>x</b>" * 1_000,
        "<table><tr><td><img src=a.jpg><td>" * 1_500,
        "<dl>" + "<dt><img src=a.jpg>" * 2_000,
        "<div>" + "".join(f"<p><img src={n}.jpg> Kite {n}</p>" for n in range(2_000)),
        "<h1>x</h1>" + "<h2>y</h2><section><img src=a.jpg>" * 1_000,
    )
    for markup in pages:
        page = read_document(f"<!doctype html><body>{markup}".encode(), source="x", address=HOME)
        references = find(page).references
        ground = Ground(page, references)
        allowed = ground.effort
        Naming(ground).items()
        assert ground.effort > -2_001
        assert allowed < 15 * len(ground.nodes) + 20_001
        assert len(itemised(page, references)) == len(references)
