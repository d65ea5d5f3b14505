"""From a list to its items: their own pages, what of those is theirs, and lists that do not behave."""

import json
from base64 import b64encode
from pathlib import Path
from zipfile import ZipFile

import pytest

from conftest import Program, Server, picture
from pickcrate.items.belonging import ItemPage, strangers
from pickcrate.items.entries import entries
from pickcrate.read.pages.document import read_document
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.item import Item
from pickcrate.values.reference import Reference

ROOT = "https://galewick.example/"
DELTA, FOIL = Item("Delta", f"{ROOT}delta"), Item("Foil", f"{ROOT}foil")


def image(number: int, name: str, item: Item = DELTA, *, furniture: str = "", is_framed: bool = False) -> Image:
    shown = Reference(f"{ROOT}{name}", name, ROOT, FoundIn.IMG, "img", "src", number, item=item, is_framed=is_framed)
    return Image(number, "x", shown, (shown,), furniture=furniture)


def test_what_of_an_items_page_is_the_items() -> None:
    delta = ItemPage(
        frozenset((f"{ROOT}delta", f"{ROOT}delta/")),
        (image(1, "t/delta-150x150.jpg"),),
        (
            image(10, "delta.jpg"),
            image(11, "logo.png", is_framed=True),
            image(12, "banner.jpg"),
            image(13, "t/foil-150x150.jpg", FOIL),  # of the strip of related things
            image(14, "star.png", furniture="small"),
            image(15, "delta-back.jpg"),
            image(16, "list.jpg"),
        ),
    )
    foil = ItemPage(
        frozenset((f"{ROOT}foil",)),
        (image(2, "t/foil-150x150.jpg", FOIL),),
        (image(20, "foil.jpg", FOIL), image(21, "banner.jpg", FOIL), image(22, "t/delta-150x150.jpg", DELTA)),
    )
    told = strangers([delta, foil], {f"{ROOT}list.jpg"})
    assert told == {
        11: "in the frame of its page",
        12: "on the pages of 2 items",
        13: "of another thing, Foil",
        14: "it dresses its page: small",
        16: "on the list itself",
        21: "on the pages of 2 items",
        22: "of another thing, Delta",
    }


def test_what_is_in_an_items_own_folder_is_the_items() -> None:
    viewer = Item("One", f"{ROOT}a/spring/1.html")
    spring = ItemPage(frozenset((f"{ROOT}a/spring/",)), (), (image(10, "a/1.jpg", viewer), image(11, "foil.jpg", FOIL)))
    autumn = ItemPage(frozenset((f"{ROOT}a/autumn/index.html",)), (), (image(20, "a/spring/2.jpg", viewer),))
    assert strangers([spring, autumn], ()) == {11: "of another thing, Foil", 20: "of another thing, One"}
    beside = ItemPage(frozenset((f"{ROOT}a/spring/2.html",)), (), ())
    assert strangers([spring, beside], ())[10] == "of another thing, One"  # the folder is not this item's alone


def test_from_the_prints_to_the_kites(run: Program, museum: str, tmp_path: Path) -> None:
    line = (f"{museum}/prints.html", "--items", "all", "--next-pages", "9", "--as-shown")
    done = run("look", *line, "--format", "jsonl")
    kites = [row for row in done.rows if not row["furniture"]]
    assert len(kites) == 36
    assert [row["item"] for row in kites[:4]] == ["Red Delta", "Red Delta", "Red Delta", "Harbour Diamond"]
    assert {row["url"].rpartition("/")[2].partition(".")[0] for row in kites[:3]} == {
        "red-delta",
        "red-delta-sail",
        "red-delta-keel",
    }
    assert kites[0]["columns"]["Made by"] == "Ysolde Marrow"
    assert kites[0]["page"] == f"{museum}/kite/red-delta.html"
    assert "6 of 6 item pages read, with 18 pictures of their items" in done.err
    everything = run("look", *line, "--all", "--format", "jsonl").rows
    reasons = {v["reason"] for row in everything for v in row["verdicts"] if v["criterion"] == "items"}
    assert {"its item's page has 3 pictures of it", "on the pages of 6 items", "of another thing, Octopus"} <= reasons
    named = ("--name", "{item} {k}", "--shelf", "{item}", "--crate", "c", "--furniture", "drop")
    assert run("pack", *line, *named).code == 0
    files = sorted(
        path.relative_to(tmp_path / "crates/c").as_posix() for path in (tmp_path / "crates/c").rglob("*.jpg")
    )
    assert len(files) == 36
    assert files[:3] == ["Eight Cell Foil/Eight Cell Foil 1.jpg", "Eight Cell Foil/Eight Cell Foil 2.jpg",
                         "Eight Cell Foil/Eight Cell Foil 3.jpg"]  # fmt: skip
    assert "36 there already" in run("pack", *line, *named).out
    unnamed = run("pack", *line, "--furniture", "drop", "--dry-run", "--as-shown").out
    assert unnamed.count("crates/Prints of our kites · Galewick Kite Museum/") == 36
    first = run("look", f"{museum}/prints.html", "--items", "2", "--text", "Diamond", "--as-shown", "--format", "jsonl")
    assert [row["item"] for row in first.rows] == ["Harbour Diamond"] * 3


def test_what_an_items_own_page_says_of_it_is_added(run: Program, web: Server) -> None:
    for name in ("Delta", "Foil"):
        facts = f"<table><tr><th>Maker<td>Ino of {name}<tr><th>Year<td>1962<tr><th>Sail<td>silk</table>"
        (web.www / f"{name}.html").write_text(f"<h1>{name}</h1><img src={name}.jpg><img src={name}-2.jpg>{facts}")
    cards = "".join(f"<li><a href={n}.html><img src={n}-s.jpg></a><h3>{n}</h3>Year: 1963" for n in ("Delta", "Foil"))
    (web.www / "list.html").write_text(f"<h1>Kites</h1><ul>{cards}</ul>")
    rows = run("look", f"{web.address}/list.html", "--items", "all", "--format", "jsonl").rows
    assert [(row["item"], row["columns"]) for row in rows if row["url"].endswith("-2.jpg")] == [
        (name, {"Year": "1963", "Maker": f"Ino of {name}", "Sail": "silk"}) for name in ("Delta", "Foil")
    ]


def test_items_whose_pages_do_not_behave(run: Program, web: Server) -> None:
    cards = "".join(f"<li><a href={n}.html><img src=t{n}.png> Kite {n}</a>" for n in "abcd")
    (web.www / "list.html").write_text(f"<h1>Kites</h1><ul>{cards}</ul>")
    for n in "abcd":
        (web.www / f"t{n}.png").write_bytes(picture("PNG", (90, ord(n))))
    top = "<title>x</title><img src=top.png>"
    (web.www / "a.html").write_text(f"{top}<h1>Kite a</h1><img src=a1.png><img src=a2.png>")
    (web.www / "b.html").write_text(f"{top}<h1>Sign in</h1><p>This is for members.")
    (web.www / "d.html").write_bytes(picture("PNG", (9, 9)))
    done = run("look", f"{web.address}/list.html", "--items", "all", "--as-shown", "--no-robots", "--format", "jsonl")
    assert [row["url"].rpartition("/")[2] for row in done.rows] == ["tb.png", "tc.png", "td.png", "a1.png", "a2.png"]
    assert done.code == 1
    assert "c.html: the server answered 404" in done.err
    assert "2 of 4 item pages read, with 2 pictures of their items" in done.err
    # A page that several items lead to is the own page of none.
    (web.www / "list.html").write_text(
        f"<h1>Kites</h1><ul>{cards.replace('.html', '').replace('href=', 'href=all#')}</ul>"
    )
    done = run("look", f"{web.address}/list.html", "--items", "all", "--as-shown", "--no-robots", "--fresh")
    assert "no items with pages of their own here" in done.out
    assert run("look", f"{web.address}/list.html", "--items", "many").code == 2


HEAD = "<header><nav><ul><li><a href=/>Home</a><li><a href=/kites>Kites</a><li><a href=/about>About us</a></ul></nav></header>"
FOOT = "<footer><ul><li><a href=/imprint>Imprint</a><li><a href=/terms>Terms</a><li><a href=/map>Map</a></ul></footer>"
PAGER = "<p class=pages><a href=/?p=1>1</a> <a href=/?p=2>2</a> <a href=/?p=3>3</a> <a href=/?p=2>Next</a></p>"

LISTS = [
    # an index of a blog: titles in headings, with tags, dates and "read more" beside them
    (
        "".join(
            f"<article><h2><a href=/p/{n}>Note {n}</a></h2><time><a href=/2025/{n}>May</a></time><p>Wind.</p>"
            f"<ul class=tags><li><a href=/tag/a>wind</a><li><a href=/tag/{n}>sea</a></ul><a href=/p/{n}>Read more</a></article>"
            for n in ("one", "two", "three")
        ),
        [("Note one", "p/one"), ("Note two", "p/two"), ("Note three", "p/three")],
    ),
    # a directory: lines of a list, or cells of a table
    ("<h1>Albums</h1><ul><li><a href=/a/spring>Spring</a> (12)<li><a href=/a/autumn>Autumn</a> (9)</ul>",
     [("Spring", "a/spring"), ("Autumn", "a/autumn")]),
    ("<table><tr><th>Keeper<tr><td><a href=/k/pell>Pell</a><td>Guide<tr><td><a href=/k/ino>Ino</a><td>Smith</table>",
     [("Pell", "k/pell"), ("Ino", "k/ino")]),
    # cards that are one link each
    ("<div><a href=/c/1><h3>Sled</h3><p>Low</p></a></div><div><a href=/c/2><h3>Foil</h3><p>High</p></a></div>",
     [("Sled", "c/1"), ("Foil", "c/2")]),
    # classes that speak of what the page is, an id for each heading, a date before the title, a sign on it
    ("".join(f"<article class=archive-article><header class=archive-article-header><time><a href=/{n}>May 3</a></time>"
             f"<h2 id={n} class=archive-title><a href=/{n}>📂 Kite {n}</a></h2></header></article>" for n in "ab"),
     [("Kite a", "a"), ("Kite b", "b")]),
    ("<ul>" + "".join(f"<li><a href=/{n}><time>05-03</time><div class=entry-title>Kite {n}</div></a>" for n in "ab") + "</ul>",
     [("Kite a", "a"), ("Kite b", "b")]),
    ("<ul><li><a href=/a>May 3 - Kite a</a><li><a href=/b>Kite b (2025-05-03)</a></ul>", [("Kite a", "a"), ("Kite b", "b")]),
    # each entry has a header of its own, that is no page's
    ("".join(f"<div class=post><span class=header><a href=/{n}>Kite {n}</a></span></div>" for n in "abcd"),
     [(f"Kite {n}", n) for n in "abcd"]),
    # titles that are called so; some in parts of another shape; one alone
    ("<div class=card><p class='title big'><a href=/a>Kite a</a></p></div><div><p class=title><a href=/b>Kite b</a></p></div>",
     [("Kite a", "a"), ("Kite b", "b")]),
    ("<h2><a href=/a>Kite a</a></h2><p><a href=/tag/x>x</a>", [("Kite a", "a")]),
    # a server's own index of a folder; topics with their pages, writers and last posts
    ("<pre><a href='?C=N;O=D'>Name</a> <a href='?C=M;O=A'>Last modified</a><hr><a href=/>Parent Directory</a> -\n"
     "<a href=a/>red/</a> 2025-01-01 10:00 -\n<a href=b/>box/</a> 2025-01-02 10:00 -</pre>", [("red/", "a/"), ("box/", "b/")]),
    ("<table>" + "".join(f"<tr><td><a href=/t/{n}>Topic {n}</a> <a href=/t/{n}?p=2>2</a><td>3<td><a href=/u/{n}>Ino {n}</a>"
                         f"<td><a href=/l/{n}>Pell</a>" for n in "ab") + "</table>", [("Topic a", "t/a"), ("Topic b", "t/b")]),
    # headings that are no links, above "read more"; an alphabet; cards without headings; the way back
    ("".join(f"<div><h2>Kite {n}</h2><p>Wind.</p><a href=/{n}>Read more</a></div>" for n in "ab"), [("Kite a", "a"), ("Kite b", "b")]),
    ("<p><a href=/az/a>A</a> <a href=/az/b>B</a> <a href=/az/c>C</a></p><ul><li><a href=/k/1>Box<li><a href=/k/2>Delta</ul>",
     [("Box", "k/1"), ("Delta", "k/2")]),
    ("".join(f"<div><a href=/{n}><div>Kite {n}</div><div class=price>3 €</div></a></div>" for n in "ab"), [("Kite a", "a"), ("Kite b", "b")]),
    ("<p><a href=x.html>Red</a><br><a href=y.html>Box</a><br><a href=/>Home</a></p>", [("Red", "x.html"), ("Box", "y.html")]),
    # a title and its site in one line; people and their workshops; buttons that all say the same; a text below each heading
    ("<table>" + "".join(f"<tr><td class=title><a href=/s/{n}>Kite {n}</a> (<a href=/from/{n}>x</a>)<tr><td><a href=/u/{n}>Ino {n}</a>"
                         for n in "ab") + "</table>", [("Kite a", "s/a"), ("Kite b", "s/b")]),
    ("<ul>" + "".join(f"<li><a href=/p/{n}>Ino {n}</a>, <a href=/w/{n}>Loft {n}</a>" for n in "ab") + "</ul>", [("Ino a", "p/a"), ("Ino b", "p/b")]),
    ("".join(f"<div><h5>Kite {n}</h5><p>Wind.</p><a class=btn href=/{n}>Go there</a></div>" for n in "ab"), [("Kite a", "a"), ("Kite b", "b")]),
    ("".join(f"<h3>Kite {n}</h3><p>Wind. <a href=/{n}>More »</a></p>" for n in "ab"), [("Kite a", "a"), ("Kite b", "b")]),
    ("<ul><li><a href=/k/1>Arch</a><li><a href=/k/2>Box</a></ul><div id=catlinks><ul>" + "".join(f"<li><a href=/c/{n}>Sort {n}</a>" for n in "abc") + "</ul></div>",
     [("Arch", "k/1"), ("Box", "k/2")]),
    ("<table><tr><td><a href=/a>Kite a</a><td><a href=/b>Kite b</a><tr><td><a href=/c>Kite c</a></table>", [(f"Kite {n}", n) for n in "abc"]),
    # links that are laid over their entries, below a card, and to the same site with www.
    ("".join(f"<div><h3 id=h{n}>Kite {n}</h3><a href=/{n} aria-labelledby=h{n} class=over></a></div>" for n in "ab"), [("Kite a", "a"), ("Kite b", "b")]),
    ("".join(f"<div><h4>Kite {n}</h4><div class=card__footer><a class=button href=/{n}>View all of it</a></div></div>" for n in "ab"),
     [("Kite a", "a"), ("Kite b", "b")]),
    ("<ul>" + "".join(f"<li><a href=https://www.galewick.example/{n}>Kite {n}</a>" for n in "ab") + "</ul>",
     [(f"Kite {n}", f"https://www.galewick.example/{n}") for n in "ab"]),
    # no list: a text with links, links away from the site, pictures
    ("<p>We flew <a href=/x>the delta</a> and came home.</p>", []),
    ("<p>We have <a href=/x>the delta</a>, <a href=/y>a box</a> and <a href=/z>a star</a> to show this year, and more of them in the loft.</p>", []),
    ("<ul><li><a href=https://else.example/1>One</a><li><a href=https://else.example/2>Two</a><li><a href=a.jpg>Pic</a></ul>", []),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "expected"), LISTS)
def test_entries_without_pictures(markup: str, expected: list[tuple[str, str]]) -> None:
    document = f"<!doctype html><body>{HEAD}<main>{markup}{PAGER}</main><aside><h3><a href=/z>Z</a></h3></aside>{FOOT}"
    page = read_document(document.encode(), source="x", address=f"{ROOT}list")
    assert [(item.title, item.url.removeprefix(ROOT)) for item in entries(page)] == expected


def test_an_index_without_pictures(run: Program, web: Server) -> None:
    posts = "".join(f"<article><h2><a href=/{n}.html>Note {n}</a></h2><p>Wind.</p></article>" for n in "abc")
    (web.www / "index.html").write_text(f"<main><h1>Notes</h1>{posts}</main>")
    for n in "abc":
        (web.www / f"{n}.html").write_text(
            f"<img src=banner.png><h1>Note {n}</h1><p>Wind.</p><img src={n}1.png><img src={n}2.png>"
        )
    line = ("look", f"{web.address}/index.html", "--items", "2", "--as-shown", "--no-robots", "--format", "jsonl")
    rows = run(*line).rows
    assert [(row["item"], row["url"].rpartition("/")[2]) for row in rows] == [
        ("Note a", "a1.png"), ("Note a", "a2.png"), ("Note b", "b1.png"), ("Note b", "b2.png")]  # fmt: skip


def test_an_index_goes_on_and_its_items_are_gone_to_once(run: Program, web: Server) -> None:
    post = "<article><h2><a href=/{0}>Note {0}</a></h2><p>Wind.</p></article>"
    (web.www / "index.html").write_text(post.format("a") + post.format("b") + "<a href=/index2.html>Older posts</a>")
    (web.www / "index2.html").write_text(post.format("b") + post.format("c"))
    for n in "abc":  # the server answers /a with a redirect to /a/
        (web.www / n).mkdir()
        (web.www / n / "index.html").write_text(f"<h1><a href=/{n}>Note {n}</a></h1><img src=1.png>")
    line = ("look", f"{web.address}/index.html", "--items", "all", "--next-pages", "3", "--as-shown", "--no-robots")
    done = run(*line, "--format", "jsonl")
    assert [(row["item"], row["url"].removeprefix(web.address)) for row in done.rows] == [
        ("Note a", "/a/1.png"), ("Note b", "/b/1.png"), ("Note c", "/c/1.png")]  # fmt: skip
    assert "2 pages of the list: it ends there" in done.err


def test_lists_in_folders_packages_and_logs(run: Program, tmp_path: Path) -> None:
    cards = "".join(f"<li><a href={n}.html><img src=t{n}.png> Kite {n}</a>" for n in "ab")
    strip = "<h2>See also</h2><ul><li><a href={0}.html><img src=t{0}.png> Kite {0}</a></ul>"
    pages = {"z-list.html": f"<h1>Kites</h1><ul>{cards}</ul>"}
    pages |= {f"{n}.html": f"<h1>Kite {n}</h1><img src={n}1.png>{strip.format(o)}" for n, o in ("ab", "ba")}
    pictures = {f"{name}.png": picture("PNG", (90, 80 + place)) for place, name in enumerate(("ta", "tb", "a1", "b1"))}
    (tmp_path / "saved").mkdir()
    entries = []
    with ZipFile(tmp_path / "saved.zip", "w") as package:
        for name, body in {**{name: text.encode() for name, text in sorted(pages.items())}, **pictures}.items():
            (tmp_path / "saved" / name).write_bytes(body)
            package.writestr(name, body)
            kind = "image/png" if name.endswith("png") else "text/html"
            content = {"mimeType": kind, "encoding": "base64", "text": b64encode(body).decode()}
            entries.append({"request": {"url": ROOT + name}, "response": {"status": 200, "content": content}})
    (tmp_path / "saved.har").write_text(json.dumps({"log": {"version": "1.2", "entries": entries}}))
    for source in ("saved", "saved.zip", "saved.har"):
        done = run("look", source, "--items", "all", "--as-shown", "--format", "jsonl")
        assert [(row["item"], row["url"].rpartition("/")[2]) for row in done.rows] == [
            ("Kite a", "a1.png"), ("Kite b", "b1.png")], source  # fmt: skip
        assert "2 of 2 item pages read, with 2 pictures of their items" in done.err


def test_a_list_that_shows_no_pictures_says_what_looks_into_its_pages(run: Program, tmp_path: Path) -> None:
    entries = "".join(f"<li><a href={name}.html>Kite {name}</a>" for name in "abcd")
    said = "it lists 4 entries: --items 3 looks into the pages of the first"
    (tmp_path / "list.html").write_text(f"<h1>Kites</h1><ul>{entries}</ul>")
    assert said in run("look", "list.html").err
    (tmp_path / "list.html").write_text(f"<header><img src=logo.png></header><h1>Kites</h1><ul>{entries}</ul>")
    assert said in run("look", "list.html").out
    assert "entries:" not in run("look", "list.html", "--items", "1").out
    (tmp_path / "list.html").write_text(f"<h1>Kites</h1><img src=kites.jpg width=900 height=600><ul>{entries}</ul>")
    assert "entries:" not in run("look", "list.html").out


NEWS = """<rss version="2.0" xmlns:dc="d" xmlns:media="m" xmlns:atom="a" xmlns:content="c"><channel><title>Kite &amp;amp; news</title>
<atom:link rel="next" href="more.xml"/><item><title><![CDATA[<b>Red</b> &amp; long]]></title><link>red.html</link>
<dc:creator>Ino Vale</dc:creator><category>Delta</category><category>Red</category><category/><guid>7</guid><comments>3</comments>
<media:content url="red.png" medium="image"/><media:thumbnail url="red-s.png"/>
<content:encoded>&lt;h2&gt;Flown&lt;/h2&gt;&lt;img src="red.png" alt="Front"&gt;&lt;img src="back.png"&gt;</content:encoded></item>
<item><title>Box</title><link>box.html</link><description>Words alone</description></item></channel></rss>"""
MORE = """<rss version="2.0"><channel><title>Kite news</title><item><title>Foil</title><link>foil.html</link>
<enclosure url="foil.png" type="image/png"/></item></channel></rss>"""


def test_the_entries_of_a_feed_are_items(run: Program, web: Server) -> None:
    (web.www / "news.xml").write_text(NEWS)
    (web.www / "more.xml").write_text(MORE)
    for name in ("red", "box", "foil"):
        (web.www / f"{name}.html").write_text(f"<h1>{name}</h1><img src={name}-large.png width=900 height=700>")
    feed = f"{web.address}/news.xml"
    rows = run("look", feed, "--format", "jsonl").rows
    assert [(row["url"].rpartition("/")[2], row["item"], row["alt"]) for row in rows] == [
        ("red.png", "Red & long", "Front"), ("back.png", "Red & long", None)]  # fmt: skip
    assert rows[0]["columns"] == {"creator": "Ino Vale", "category": "Delta, Red"}
    assert (rows[0]["item_url"], rows[0]["candidates"][0]["url"]) == (
        f"{web.address}/red.html", f"{web.address}/red-s.png")  # fmt: skip
    assert rows[0]["item_from"] == "entry 1 of the feed “Kite & news”; named by its title"
    assert "the list has further pages" in run("look", feed).out
    done = run("look", feed, "--items", "all", "--next-pages", "3", "--format", "jsonl")
    assert [(row["url"].rpartition("/")[2], row["item"]) for row in done.rows] == [
        ("red-large.png", "Red & long"), ("box-large.png", "Box"), ("foil-large.png", "Foil")]  # fmt: skip
    assert "2 pages of the list: it ends there" in done.err
    assert [row["item"] for row in run("look", feed, "--within", "h2 + img", "--format", "jsonl").rows] == [
        "Red & long"
    ]
    assert "2 found → region −2" in run("look", feed, "--within", "table").out


def test_the_items_of_a_json_feed(run: Program, tmp_path: Path) -> None:
    entry = {"title": "Red", "url": f"{ROOT}red", "image": "/a.png", "authors": [{"name": "Ino"}, {}], "tags": ["x", 1]}
    whole = {"version": "https://jsonfeed.org/version/1.1", "title": "News", "items": [{"title": "No page"}, entry]}
    (tmp_path / "feed.json").write_text(json.dumps(whole))
    (row,) = run("look", "feed.json", "--base", ROOT, "--format", "jsonl").rows
    assert (row["item"], row["item_url"], row["columns"]) == ("Red", f"{ROOT}red", {"authors": "Ino", "tags": "x"})


def test_what_a_pages_scripts_bring_is_named_in_the_data(run: Program, web: Server) -> None:
    (web.www / "app.html").write_text("<title>Kites</title><div id=app></div><script src=app.js></script>")
    (web.www / "app.js").write_text('fetch("kites.json").then(show)')
    kites = [{"attributes": {"title": f"Kite {n}", "maker": "Ino", "image": f"i/{n}.jpg"}} for n in "ab"]
    (web.www / "kites.json").write_text(json.dumps({"data": kites}))
    rows = run("look", f"{web.address}/app.html", "--format", "jsonl").rows
    assert [(row["item"], row["columns"]) for row in rows] == [(f"Kite {n}", {"maker": "Ino"}) for n in "ab"]


LISTINGS = {
    "lines": '<h1>Index of /photos</h1><pre><a href="../">../</a>\n<a href="2025/">2025/</a> 01-Jan-2026 10:00 -\n<a href="two%20rooms/">two rooms/</a> 01-Jan-2026 -\n<a href="a.jpg">a.jpg</a> 12K</pre>',
    "a list": "<h1>Directory listing for /photos/</h1><ul><li><a href='2025/'>2025/</a><li><a href='two%20rooms/'>two rooms/</a><li><a href=a.jpg>a.jpg</a></ul>",
    "a table": "<table><tr><th>Name<th>Size<tr><td><a href='/'>Parent Directory</a><td>-<tr><td><a href='2025/'>2025/</a><td>-<tr><td><a href='two%20rooms/'>two rooms/</a><td>-</table>",
}


@pytest.mark.parametrize("name", LISTINGS)
def test_folders_of_a_listing_are_its_entries(name: str) -> None:
    page = read_document(LISTINGS[name].encode(), source="x", address="https://galewick.example/photos/")
    assert [(entry.title, entry.url.removeprefix(page.address)) for entry in entries(page)] == [
        ("2025", "2025/"), ("two rooms", "two%20rooms/")
    ]  # fmt: skip


def test_folders_in_folders_of_a_listing_are_gone_into(run: Program, web: Server) -> None:
    inside = {"": ["2024", "two rooms"], "2024/": ["may"], "2024/may/": [], "two rooms/": ["box"], "two rooms/box/": []}
    for place, (folder, names) in enumerate(inside.items()):
        (web.www / "photos" / folder).mkdir(parents=True, exist_ok=True)
        links = "".join(f"<a href='{name.replace(' ', '%20')}/'>{name}/</a>\n" for name in names)
        picture_link = f"<a href=k{place}.png>k{place}.png</a>"
        (web.www / "photos" / folder / "index.html").write_text(f"<h1>Index</h1><pre>{links}{picture_link}</pre>")
    line = ("look", f"{web.address}/photos/", "--no-robots", "--as-shown")
    assert "it lists 2 folders: --items all looks into them, and into those inside" in run(*line).out
    done = run(*line, "--items", "all", "--format", "jsonl")
    assert [(row["item"], row["url"].rpartition("/")[2]) for row in done.rows] == [
        (None, "k0.png"), ("2024", "k1.png"), ("two rooms", "k3.png"), ("2024/may", "k2.png"), ("two rooms/box", "k4.png")]  # fmt: skip
    assert "4 of 4 item pages read" in done.err
    assert "3 of 3 item pages read" in run(*line, "--items", "3").out
    # A server that has the same folder in every folder is left in the end.
    (web.www / "photos/index.html").write_text("<pre><a href='loop/'>loop/</a> <a href=k0.png>k0.png</a></pre>")
    (web.www / "photos/loop").symlink_to(web.www / "photos")
    assert "9 of 9 item pages read" in run(*line, "--items", "all", "--fresh").out
