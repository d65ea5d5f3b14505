"""Whatever comes from elsewhere, made worse: no input may raise, take long, or take much memory.

python tools/fuzz.py 100000            # so many inputs; --seed N for others
"""

import argparse
import bz2
import gzip
import io
import json
import lzma
import math
import plistlib
import random
import resource
import sys
import tarfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from copy import deepcopy
from dataclasses import dataclass
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

import zstandard
from openpyxl import Workbook

from pickcrate.addresses.url import absolute, brief
from pickcrate.cli.shell import command_line
from pickcrate.cli.text import shown
from pickcrate.errors import PickCrateError
from pickcrate.fetch.exchange import Reply, Request
from pickcrate.fetch.proxy import proxy_for
from pickcrate.fetch.robots import rules
from pickcrate.finders import find
from pickcrate.finders.region import elements_of
from pickcrate.fullsize import resolve
from pickcrate.fullsize.address import from_address
from pickcrate.fullsize.onward import onward
from pickcrate.group import group
from pickcrate.items import itemised
from pickcrate.items.entries import entries
from pickcrate.items.pager.pager import next_page
from pickcrate.media.ending import ends_whole
from pickcrate.media.header import read_header
from pickcrate.media.whole import header_of_file
from pickcrate.name import Naming, finish, patterns
from pickcrate.read.archives.har import read_har
from pickcrate.read.archives.mime import read_mime
from pickcrate.read.archives.package import read_package
from pickcrate.read.archives.plist import read_plist
from pickcrate.read.archives.warc import read_warc
from pickcrate.read.data.bookmarks import bookmarked
from pickcrate.read.data.datafile import as_page, as_script_page
from pickcrate.read.data.feed import read_json_feed, read_xml_feed
from pickcrate.read.data.iiif import read_iiif
from pickcrate.read.data.inlined import taken_out
from pickcrate.read.data.mets import read_mets
from pickcrate.read.data.pyramid import read_tiles
from pickcrate.read.data.xmldata import as_json
from pickcrate.read.fields.digests import mismatch
from pickcrate.read.fields.disposition import served_name
from pickcrate.read.lists.addresslist import ListOrigin, read_addresses
from pickcrate.read.lists.rows import read_rows
from pickcrate.read.lists.table import open_csv, open_json_lines
from pickcrate.read.office.office import office_page
from pickcrate.read.office.opendocumentpage import opendocument_page
from pickcrate.read.office.workbook import lists_addresses, open_workbook
from pickcrate.read.packed import unpacked
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.manifest import read_manifest
from pickcrate.read.pages.oembed import read_photo
from pickcrate.read.recognise import names_a_picture, recognise
from pickcrate.read.shortcut import target_of
from pickcrate.read.texts.textfile import as_page as text_as_page
from pickcrate.record import csv_lines, image_row, to_json
from pickcrate.sheets.preview import make_preview
from pickcrate.sift.furniture import mark
from pickcrate.stores.papers import read_haul, read_receipt
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.wanted import Region

HOME = "https://galewick.example/hall/"
SECONDS, MEGABYTES = 2.0, 1_000.0
_NAMING = Naming(patterns(["{item} {k}", "{n:03} {alt} {title}", "{caption}", "{stem}"]), date(2026, 11, 26))
_LISTED = ListOrigin("fuzz", HOME)
_LARGEST_SEED = 30_000
_TRIES = 3
_USUAL = 0.7
"""of the inputs that are tried as what they were before they were made worse"""


def _page(octets: bytes, address: str = HOME) -> None:
    page = read_document(octets, source="fuzz", address=address, fields={"link": octets[:200].decode("latin-1")})
    onward(page)
    next_page(page)
    entries(page)
    findings = find(page)
    references = itemised(page, findings.references, findings.pieces)
    images = mark(resolve(image) for image in group(references, source="fuzz", title=page.title))
    for image in images[:50]:
        from_address(image.url)
        name = _NAMING.spell(image)
        finish(name, Measures(Measure(3, Grade.ACTUAL), Measure(2, Grade.ACTUAL), None, Measure("png", Grade.ACTUAL)))
        shown(to_json(image_row(image, name))).encode()
        "".join(csv_lines([[name, image.shown.words.alt]])).encode()


def _region(octets: bytes) -> None:
    page = read_document(octets, source="fuzz", address=HOME)
    for word in ("kite", "hall", "e"):
        with suppress(PickCrateError):
            elements_of(page, Region(under=(word,)))


def _text(octets: bytes) -> None:
    names_a_picture(octets)
    _page(text_as_page(octets))
    bookmarked(octets)
    target_of(octets)


def _list(octets: bytes) -> None:
    text = octets.decode("utf-8", "replace")
    list(read_addresses(text.splitlines(), _LISTED))
    for opener in (open_csv, open_json_lines):
        try:
            table = opener(io.StringIO(text), "fuzz", {})
        except PickCrateError:
            continue
        for row in read_rows(table, _LISTED):
            if isinstance(row, Image):
                to_json(image_row(row, _NAMING.spell(row))).encode()


def _workbook(octets: bytes) -> None:
    """Read a workbook whose sheet is ``octets``, packed as it should be."""
    book, packed = Workbook(), io.BytesIO()
    book.save(packed)
    with zipfile.ZipFile(packed) as archive, zipfile.ZipFile(changed := io.BytesIO(), "w") as copy:
        for name in archive.namelist():
            copy.writestr(name, octets if "worksheets/" in name else archive.read(name))
    with suppress(PickCrateError):
        list(open_workbook(changed, "fuzz", {}, 10_000_000).rows)


def _opendocument(octets: bytes) -> None:
    """Read a spreadsheet whose content is ``octets``, packed as it should be."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", octets)
    with suppress(PickCrateError):
        list(open_workbook(packed, "fuzz", {}, 10_000_000).rows)
    lists_addresses(packed, 10_000_000)


def _office(octets: bytes) -> None:
    """Read a document all of whose parts are ``octets``, as a text, as slides, and as OpenDocument."""
    own = (
        b"<r xmlns:r='http://schemas.openxmlformats.org/officeDocument/2006/relationships'><Relationship Type='/officeDocument' "
        b"Target='w/d.xml'/></r>"
    )
    parts = {"_rels/.rels": own, "content.xml": octets}
    for read in (office_page, opendocument_page):
        page = read(lambda path: parts.get(path, octets))
        if page is not None:
            _page(page.encode("utf-8", "replace"))


def _answer(octets: bytes) -> None:
    text = octets[:5000].decode("latin-1")
    served_name(text)
    mismatch({"digest": text, "repr-digest": text, "content-md5": text}, lambda _: b"")
    rules(Reply(Request(HOME), HOME, 200, {}, octets)).refusal(HOME)
    proxy_for(HOME, "", {"https_proxy": text, "no_proxy": text})
    command_line([text])
    command_line([text], for_windows=True)
    brief(absolute(text, HOME) or "")


def _picture(octets: bytes) -> None:
    header = read_header(octets)
    header_of_file(io.BytesIO(octets[:64] + bytes(270_000) + octets[64:]))
    if header is not None:
        ends_whole(header.type, octets[-65536:], len(octets), octets)
    make_preview(octets, 20_000)


@dataclass(frozen=True)
class _Kept:
    """A store that holds one file, whatever it is asked for."""

    octets: bytes
    address: str = "fuzz"

    def read(self, _name: str) -> bytes:
        return self.octets


def _papers(octets: bytes) -> None:
    store: Any = _Kept(octets)
    with suppress(PickCrateError):
        read_haul(store)
    with suppress(PickCrateError):
        read_receipt(store, 1)


TARGETS: dict[str, Callable[[bytes], object]] = {
    "page": _page,
    "region": _region,
    "list": _list,
    "workbook": _workbook,
    "opendocument": _opendocument,
    "answer": _answer,
    "text": _text,
    "picture": _picture,
    "recognise": recognise,
    "feed": lambda octets: read_xml_feed(octets, HOME),
    "json feed": lambda octets: read_json_feed(octets, HOME),
    "log": read_har,
    "archive": lambda octets: read_warc(lambda: io.BytesIO(octets), 10_000_000),
    "package": lambda octets: read_package(lambda: io.BytesIO(octets), "file:///x.zip", 10_000_000),
    "message": lambda octets: read_mime(octets, "file:///x.mht"),
    "property list": lambda octets: read_plist(octets, "file:///x.plist"),
    "manifest": lambda octets: list(read_manifest(octets)),
    "oembed": read_photo,
    "xml": lambda octets: _page(as_page(as_json(octets))),
    "data": lambda octets: _page(as_page(octets)),
    "script": lambda octets: _page(as_script_page([octets.decode("utf-8", "replace"), "var folder = 'img/'"])),
    "mets": lambda octets: read_mets(octets, HOME),
    "office": _office,
    "iiif": lambda octets: read_iiif(octets, HOME),
    "tiles": lambda octets: read_tiles(octets, HOME),
    "papers": _papers,
    "xhtml": lambda octets: _page(octets, "file:///x.xhtml"),
    "inlined": lambda octets: taken_out(octets, "file:///x.json"),
    "packed": lambda octets: unpacked(octets, 10_000_000),
}

# What the formats are made of: pieces that are put in at random, doubled and nested.
_TOKENS: list[bytes] = [
    b"<img src=a.jpg>", b"<a href='b.jpg'>", b"</a>", b"<table>", b"<tr><td>", b"<figure>", b"<figcaption>kite", b"<svg>",
    b"<style>", b"</style>", b"<script>", b"</script>", b"{", b"}", b"url(", b")", b"/*", b"*/", b"@media x{", b"& ", b"\\",
    b'"', b"'", b"`", b"<!--", b"-->", b"<![CDATA[", b"]]>", b"&#", b"&amp;", b"\0", b"\xff\xfe", b"srcset='a.jpg 2x, b.jpg 9",
    b"data-src=", b"a.jpg", b"9" * 400, b"9" * 5000, b"=?utf-8?b?A?=", b"%", b"%zz", b"../", b"<h2>kite</h2>", b"<template>",
    b"<iframe srcdoc='", b"<div " + b"a " * 300, b"\r\n", b"\n", b",", b";", b"|", b"[" * 50, b'{"a":' * 50, b"--b\n",
    b"Content-Type: ", b"boundary=b", b"base64", b"<item>", b"<media:group>", b"data:image/png;base64,", b"-s" * 50,
    b".replace(", b'"path": "a/", ', b"fetch(", b"<k-a><template shadowrootmode=open>", b"</template>", b"<slot>", b"<slot name=s>",
    b"<b slot=s>", b"<?xml version='1.0'?>", b"<a/>", b'"iVBORw0KGgo=="', b"\xfd7zXZ\0", b"\x28\xb5\x2f\xfd",
]  # fmt: skip


@dataclass(frozen=True)
class Trouble:
    """An input that did what none may do."""

    target: str
    what: str
    octets: bytes


def seeds(folders: list[Path]) -> list[tuple[str, bytes]]:
    """Return inputs to begin with, each with what it is for: the files below the folders, and some of each format."""
    found: list[tuple[str, bytes]] = []
    for path in (path for folder in folders for path in sorted(folder.rglob("*")) if path.is_file()):
        octets = path.read_bytes()[:_LARGEST_SEED]
        if path.suffix == ".html":
            found += [("page", octets), ("page", octets), ("region", octets)]
        elif path.suffix == ".css":
            found.append(("page", b"<style>" + octets + b"</style><p class=veil>"))
        else:
            found.append(("picture", octets[:3000]))
    return [*found, *_WRITTEN, *_WRITTEN]


def _zipped() -> bytes:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as package:
        for name in ("META-INF/container.xml", "book.opf", "page.html", "kite.har", "kite.png"):
            package.writestr(name, b"<container><rootfile full-path='book.opf'/><itemref idref='a'/><img src=kite.png>")
    return packed.getvalue()


def _tarred() -> bytes:
    packed = io.BytesIO()
    with tarfile.open(fileobj=packed, mode="w", format=tarfile.PAX_FORMAT) as archive:
        for name in ("page.html", "k" * 120 + ".png", "kité.png"):
            entry = tarfile.TarInfo(name)
            entry.size = 20
            archive.addfile(entry, io.BytesIO(b"<img src=kite.png> x"))
    return packed.getvalue()[:4_000]


_RESOURCE = {
    "WebResourceURL": "https://k.example/a.png",
    "WebResourceMIMEType": "image/png",
    "WebResourceData": b"\x89PNG",
}
_ARCHIVE = {
    "WebMainResource": _RESOURCE,
    "WebSubresources": [_RESOURCE, {}],
    "WebSubframeArchives": [{"WebMainResource": {}}],
}
_WRITTEN: list[tuple[str, bytes]] = [
    ("package", _zipped()),
    ("message", b"From kay\nSubject: a\n\nFrom kay\n\n\nFrom kay\nContent-Type: message/rfc822\n\nContent-Type: text/html\n\n<img src=cid:x>"),
    ("picture", b"\0\0\0\x18ftypheic\0\0\0\0mif1heic\0\0\0\x60meta\0\0\0\0\0\0\0\x0epitm\0\0\0\0\0\1\0\0\0\x3eiprp\0\0\0\x25ipco\0\0\0\x14ispe\0\0\0\0\0\0\0\x09\0\0\0\x09\0\0\0\x09irot\1\0\0\0\x11ipma\0\0\0\0\0\0\0\1\0\1\2\x81\x82"),
    ("picture", b"II+\0\x08\0\0\0\x10\0\0\0\0\0\0\0\1\0\0\0\0\0\0\0\0\1\3\0\1\0\0\0\0\0\0\0\x09\0\0\0\0\0\0\0"),
    ("log", b'{"log":{"entries":[{"request":{"url":"https://k.example/a.png"},"response":{"status":200,"content":{"mimeType":"image/png","text":"aGk=","encoding":"base64"}}}]}}'),
    ("archive", b"WARC/1.0\r\nWARC-Type: response\r\nWARC-Target-URI: https://k.example/a.png\r\nContent-Length: 60\r\n\r\nHTTP/1.1 200 OK\r\nContent-Type: image/png\r\n\r\n\x89PNG\r\n\x1a\n"),
    ("feed", b"<rss><channel><item><title>Kite</title><enclosure url='a.png' type='image/png'/><media:group><media:content url='b.jpg' medium='image' width='90'/></media:group></item></channel></rss>"),
    ("feed", b"<feed xml:base='x/'><entry><content type='xhtml'><div><img src='a.png'/></div></content></entry></feed>"),
    ("message", b"MIME-Version: 1.0\nContent-Type: multipart/related; boundary=b\n\n--b\nContent-Type: text/html\n\n<img src=cid:x>\n--b\nContent-ID: <x>\nContent-Type: image/png\nContent-Transfer-Encoding: base64\n\naGk=\n--b--\n"),
    ("page", rb"""<script>k = [{name: "Red \ud83d\ude00", src: "a\ud83d.jpg", alt: "\ude00", by: `\u{d83d}`}]</script>
        <script type=application/json>{"k": [{"name": "Red \\ud83d", "src": "a.jpg"}, {"name": "\ud83d\ude00", "src": "b.jpg"}]}</script>"""),
    ("page", rb"""<script>n = 9; t = "<img src='{d}/{n}.jpg'>"; for (var i = 8; i <= n; i++) { h += t.replace(/\{d\}/g, 'i').replace('{n}', i < 10 ? '0' + i : i) }
        k = [['Red', 'a.jpg'], ['Box', 'b.jpg']]; k.forEach(([t, f]) => { q.src = ['i', f].join('/') }); Array.from({length: 9}, (_, i) => `i/${String(i + 1).padStart(3, '0')}.jpg`)</script>"""),
    ("text", b"= Kites\n:imagesdir: i\n\n.Red\nimage::a.png[Red,link=big.html]\nimage:b.png[Box] link:c.png[c]\n"),
    ("text", b"---\ncover: c.jpg\n---\n# K\n{{< figure src=\"a.jpg\" caption=\"Red\" >}}\n| ![](b.png) | *Box* |\n|---|---|\n- **x**\n:::{figure} d.png\n:alt: y\n:::\n"),
    ("text", b"= Kites\n\n[cols=2*]\n|===\n|image:a.png[]\n|Red\n|===\n* image:b.png[] *Box*\n"),
    ("text", b"Kites\n=====\n\n.. figure:: i/a.png\n   :alt: Red\n   :target: b.html\n\n   Words\n\n.. |x| image:: b.png\n`c <c.png>`__\n"),
    ("text", b"* Kites\n#+CAPTION: Red\n[[file:i/a.png]]\n[[c.html][./b.png]]\nh1. Kites\n!i/a.png(Red)!:b.html \"c\":c.png\n"),
    ("text", b"[b]Kites[/b] [url=c.html][img alt=Red]https://k.example/a.png[/img][/url] [img]b.png[/img]\n"),
    ("list", b"name,url,alt\nred,https://k.example/a.png,Red\n\"b\n\",https://k.example/b.png,'=x\n"),
    ("list", b'{"pick": true, "number": 1, "url": "https://k.example/a.png", "shown_url": "x", "found_in": "img", "grades": {"width": "x"}}\n'),
    ("workbook", b"<worksheet xmlns='http://schemas.openxmlformats.org/spreadsheetml/2006/main'><sheetData><row r='1'><c r='A1' t='inlineStr'><is><t>https://k.example/a.png</t></is></c><c r='B1'><v>7</v></c></row></sheetData></worksheet>"),
    ("opendocument", b"<o xmlns:office='urn:oasis:names:tc:opendocument:xmlns:office:1.0' xmlns:table='urn:oasis:names:tc:opendocument:xmlns:table:1.0' xmlns:text='urn:oasis:names:tc:opendocument:xmlns:text:1.0'><table:table table:name='k'><table:table-row table:number-rows-repeated='2'><table:table-cell table:number-columns-repeated='3'><text:p>https://k.example/a.png</text:p></table:table-cell></table:table-row></table:table></o>"),
    ("property list", plistlib.dumps(_ARCHIVE, fmt=plistlib.FMT_BINARY)),
    ("property list", plistlib.dumps(_ARCHIVE)),
    ("xml", b"<m:kites xmlns:m='m'><file MIMETYPE='image/jpeg'><at href='https://k.example/1'/></file><file>https://k.example/2.jpg<name>Red</name></file></m:kites>"),
    ("package", _tarred()),
    ("xhtml", b"<?xml version='1.0'?><html xmlns='http://www.w3.org/1999/xhtml' xmlns:h='http://www.w3.org/1999/xhtml'><title/><h:img src='a.png'/><script>a &lt; b</script><p><![CDATA[<img src=b.png>]]></p></html>"),
    ("page", b"<k-a><template shadowrootmode=open><style>b{display:none}</style><slot name=s><b>x</b></slot><slot></slot></template><img src=a.png slot=s><k-b><template shadowrootmode=open><slot></slot></template>y</k-b></k-a><iframe srcdoc='<h2>Kite</h2><img src=b.png>'></iframe>"),
    ("inlined", b'{"files": [{"name": "a.png", "data": "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNgAAAAAgABSK+kcQAAAABJRU5ErkJggg=="}]}'),
    *(("packed", pack(b"https://k.example/a.png\n" * 40)) for pack in (gzip.compress, bz2.compress, lzma.compress, zstandard.compress)),
    ("mets", b"<mets xmlns='http://www.loc.gov/METS/' xmlns:x='http://www.w3.org/1999/xlink'><fileGrp USE='MAX'><file ID='a' MIMETYPE='image/png'><FLocat x:href='a.png'/></file></fileGrp><structMap TYPE='PHYSICAL'><div ID='p' LABEL='Cover'><fptr FILEID='a'/></div></structMap><smLink x:from='p' x:to='p'/></mets>"),
    ("office", b"<document xmlns:r='http://schemas.openxmlformats.org/officeDocument/2006/relationships' xmlns:w='w'><Relationship Id='a' Target='a.png'/><style w:styleId='h'><name w:val='heading 1'/></style><p><pStyle w:val='h'/><t>Kite</t><drawing><docPr descr='Red'/><blip r:embed='a'/><txbxContent><p><t>x</t></p></txbxContent></drawing></p><tbl><tr><tc><p/></tc></tr></tbl></document>"),
    ("office", b"<presentation xmlns:r='http://schemas.openxmlformats.org/officeDocument/2006/relationships'><Relationship Id='a' Target='d.xml'/><sldId r:id='a'/><sp><ph type='title'/><t>Kite</t></sp><pic><blip r:embed='a'/></pic></presentation>"),
    ("office", b"<o xmlns:draw='d' xmlns:t='t' xmlns:x='http://www.w3.org/1999/xlink'><t:h t:outline-level='1'>Kites</t:h><draw:frame><draw:image x:href='a.png'/><s:desc>Red</s:desc></draw:frame><t:table><t:table-row><t:table-cell t:number-columns-repeated='9'>x</t:table-cell></t:table-row></t:table></o>"),
    ("data", b'{"next": "?page=2", "edges": [{"node": {"title": {"rendered": "Red"}, "image": {"url": "a.png", "sizes": [{"type": "thumb", "url": "b.png"}]}}}, {"node": {"name": "Blue", "html": "<b>B</b><img src=c.png>"}}]}'),
    ("data", b'{"imagePath": "img\\/", "thumb_dir": "t/", "k": [{"file": "a.jpg", "title": "Red <i>Delta</i>"}, {"base": "b/", "n": ["c.jpg"]}]}'),
    ("script", b'var k = [{src: "red.jpg", t: "t/red.jpg"}]; add("blue.jpg", "Blue"); i.src = folder + n + ".jpg".replace("a.jpg", "b.jpg")'),
    ("data", b'[["Reactive", 1], {"a": 2, "b": 3}, [4], {"__ref": "x"}, {"title": 5, "image": 6}, "Red", "a.png"]'),
    ("page", b"<script>k[0] = ['a.png', 'Red']; k[1] = new Array('b.png', 'Blue'); add('a.png', {t: 'x'}); f([['a.png', 'Red'], ['b.png', 'Blue']]); var p = ['a.png'], t = ['Red']</script>"),
    ("text", b"---\ntitle: Kites\n---\n# Kites\n![Red](a.png \"t\") [![b](b.png)](c.png) ![[d.png|9]] ![e][f]\n```\n![g](g.png)\n```\n[f]: h.png 'x'\n"),
    ("text", b"Ino: look https://k.example/a.png, and (https://k.example/b_(1).jpg)\n.a{background:url(c.png)} const k = {src: 'd/e.jpg'}"),
    ("text", b"kites:\n  - title: Red\n    image: i/a.png\n[[kite]]\nname = 'Box'\nimage = \"b.png\"\n@misc{c,\n url = {https://k.example/c.png},\n}\nBEGIN:VCARD\nPHOTO;X=1:d.png\n"),
    ("text", b"[InternetShortcut]\r\nURL=https://k.example/\r\n<!doctype netscape-bookmark-file-1><dl><dt><a href=https://k.example/ icon=data:,x>k</a></dl>"),
    ("json feed", b'{"version": "https://jsonfeed.org/version/1.1", "items": [{"image": "a.png", "content_html": "<img src=b.png>"}]}'),
    ("manifest", b'{"icons": [{"src": "a.png", "sizes": "96x96 48x48"}], "type": "photo", "url": "a.png", "width": 3}'),
    ("answer", b"User-agent: *\nDisallow: /*a$\nattachment; filename*=utf-8''%e2%82%ac.png; filename=\"a\\\"b.png\"\nsha-256=:AAAA:"),
]  # fmt: skip


_CANVAS = {
    "type": "Canvas", "label": {"en": ["Kite"]}, "metadata": [{"label": "Maker", "value": {"en": ["Ino"]}}],
    "images": [{"resource": {"@id": "b.jpg", "service": {"@id": "s", "profile": ["level2", {"maxWidth": 3}]}}}],
    "items": [{"items": [{"body": {"id": "a.jpg", "type": "Image", "width": 9, "service": [{"id": "i", "type": "ImageService3"}]}}]}],
}  # fmt: skip
_TOLD: list[tuple[str, object]] = [
    ("iiif", {"type": "Manifest", "label": {"en": ["Kites"]}, "rights": "x", "requiredStatement": {"value": {"en": ["B"]}},
              "provider": [{"label": {"en": ["P"]}}], "items": [_CANVAS], "sequences": [{"canvases": [_CANVAS]}]}),
    ("iiif", {"@context": "http://iiif.io/api/image/3/context.json", "id": "https://k.example/i", "type": "ImageService3",
              "width": 600, "height": 400, "tiles": [{"width": 64, "height": 64, "scaleFactors": [1, 2]}],
              "sizes": [{"width": 60, "height": 40}], "maxWidth": 300, "profile": ["level1", {"formats": ["jpg"]}]}),
    ("tiles", {"Image": {"Url": "u", "Format": "jpg", "Overlap": "1", "TileSize": "256", "Size": {"Height": "9", "Width": 12}}}),
    ("papers", {"version": 1, "id": "a", "sources": ["x"], "settings": {"width": "3"}, "columns": {"url": "u"}, "rows": 9,
                "loads": 2, "chains": [[0, 1]], "shard_bytes": 1, "has_fingerprints": True}),
    ("papers", {"version": 1, "load": 1, "rows": 1, "pictures": 1, "same": 1, "bytes": 1, "left_out": 1, "failed": 0, "refused": 0,
                "shards": [{"name": "a", "pictures": 1, "tar_bytes": 1, "tar_sha256": "x", "list_bytes": 1, "list_sha256": "y"}],
                "failures": "", "reasons": {"a": 1}, "sites": {"x": 2}, "seconds": 1.5}),
    ("list", {"pick": True, "number": 1, "url": "https://k.example/a.png", "shown_url": "https://k.example/b.png", "width": 3,
              "grades": {"width": "probed"}, "columns": {"a": "b"}, "verdicts": [{"criterion": "width", "verdict": "drop"}],
              "candidates": [{"url": "https://k.example/d.jpg", "evidence": "x", "width": 3}], "licence": "CC0-1.0"}),
    ("log", {"log": {"entries": [{"request": {"url": "https://k.example/a"}, "response": {"status": 200, "content": {"mimeType": "image/png", "text": "aGk="}}}]}}),
    ("json feed", {"items": [{"image": "a.png", "title": "t", "content_html": "<img src=b.png>", "attachments": [{"url": "c.png", "mime_type": "image/png"}]}]}),
    ("manifest", {"icons": [{"src": "a.png", "sizes": "96x96", "type": "image/png"}]}),
    ("oembed", {"type": "photo", "url": "a.png", "width": 3, "height": 4, "title": "t"}),
]  # fmt: skip
_UNLIKELY: list[object] = [
    None, True, 0, -1, 1.5, float("inf"), float("nan"), 10**30, "", "x" * 500, "a.jpg", "\0", "\ud800", [], {}, [[]], [None], {"": None}, 7, "7",
]  # fmt: skip
"""what may stand where a format says otherwise"""


def retyped(told: object, chance: random.Random) -> bytes:
    """Return JSON data in which some values are what they should not be."""
    text: Any = json.loads(json.dumps(told))
    for _ in range(chance.randint(1, 4)):
        inner: Any = text
        holder: Any = None
        key: Any = None
        while isinstance(inner, dict | list) and inner and (holder is None or chance.random() < _USUAL):
            holder, key = inner, chance.choice(list(inner) if isinstance(inner, dict) else range(len(inner)))
            inner = holder[key]
        if holder is not None:
            holder[key] = deepcopy(chance.choice(_UNLIKELY))
    return json.dumps(text).encode()


def mutated(octets: bytes, chance: random.Random) -> bytes:
    """Return an input made worse in a few places."""
    data = bytearray(octets)
    for _ in range(chance.randint(1, 8)):
        at = chance.randint(0, len(data))
        match chance.randint(0, 7):
            case 0 if data:
                data[min(at, len(data) - 1)] ^= 1 << chance.randint(0, 7)
            case 1:
                del data[at : at + chance.randint(1, 40)]
            case 2:
                data[at:at] = chance.choice(_TOKENS)
            case 3:
                data[at:at] = chance.choice(_TOKENS) * chance.choice((3, 30, 300))
            case 4:
                piece = data[at : at + chance.randint(1, 60)]
                data[at:at] = piece * chance.choice((2, 20, 200))
            case 5:
                del data[at:]
            case 6:
                other = chance.randint(0, len(data))
                data[at:at] = data[min(at, other) : max(at, other)][:2000]
            case _:
                data[at:at] = chance.randbytes(chance.randint(1, 12))
    return bytes(data[:400_000])


def fuzz(count: int, seed: int, folders: list[Path]) -> Iterator[Trouble]:
    """Try ``count`` inputs; yield those that raise or take longer than SECONDS each time that they are tried."""
    chance = random.Random(seed)
    starts = seeds(folders)
    names = list(TARGETS)
    for _ in range(count):
        if chance.random() < _USUAL:
            meant_for, start = chance.choice(starts)
            octets = mutated(start, chance)
        else:
            meant_for, told = chance.choice(_TOLD)
            octets = retyped(told, chance)
        name = meant_for if chance.random() < _USUAL else chance.choice(names)
        try:
            took = least_seconds(partial(TARGETS[name], octets), SECONDS)
        except Exception as error:  # noqa: BLE001 (that is what is looked for)
            yield Trouble(name, f"{type(error).__name__}: {error}", octets)
            continue
        if took > SECONDS:
            yield Trouble(name, f"took {took:.1f} s", octets)


def least_seconds(work: Callable[[], object], most: float) -> float:
    """Return the least processor time that some work takes; tried again if that is over ``most``: a machine is busy."""
    least = math.inf
    for _ in range(_TRIES):
        begun = time.thread_time()
        work()
        least = min(least, time.thread_time() - begun)
        if least <= most:
            break
    return least


def main() -> None:
    """Run the fuzzer and say what it found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path, help="a folder for the inputs that did what none may do")
    options = parser.parse_args()
    site = Path(__file__).parent.parent / "src" / "pickcrate" / "demo" / "site"
    kinds: Counter[str] = Counter()
    begun = time.monotonic()
    for number, trouble in enumerate(fuzz(options.count, options.seed, [site])):
        kinds[f"{trouble.target}: {trouble.what[:120]}"] += 1
        if options.keep:
            options.keep.mkdir(exist_ok=True)
            (options.keep / f"{number:05}").write_bytes(trouble.octets)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    for kind, times in kinds.most_common():
        print(f"{times:6}  {kind}")
    print(f"{options.count:,} inputs, {kinds.total()} in trouble, {time.monotonic() - begun:.0f} s, peak {peak:.0f} MB")
    sys.exit(bool(kinds) or peak > MEGABYTES)


if __name__ == "__main__":
    main()
