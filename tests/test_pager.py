"""Further pages of a list: where it goes on, by golden cases, and how a run follows it to its end."""

import json
from pathlib import Path
from urllib.parse import parse_qs, urljoin, urlsplit

import pytest
from selectolax.lexbor import LexborNode

from conftest import Answering, Program, Server, picture, serving
from pickcrate.elements.words import text_of
from pickcrate.items.pager.pager import next_page as following_page, says_more
from pickcrate.read.pages.document import read_document
from pickcrate.values.page import Page

ROOT = "https://galewick.example"


def next_page(page: Page, *, is_list: bool = True) -> str:
    """Return where a list goes on, with what is posted there behind a space."""
    following = following_page(page, is_list=is_list)
    return f"{following.url} {following.form}".strip() if following is not None else ""


WORDS = "weiter|página siguiente|dalej|následující stránka|ďalšia strana|επόμενη σελίδα|ileri|дальше|העמוד הבא|صفحه بعد|下頁|다음페이지"

NEXT: list[tuple[str, str, str]] = [
    *(("/kites", f"<a href=/kites?after=red>{words}</a>", "/kites?after=red") for words in WORDS.split("|")),
    # link relations
    ("/kites", "<head><link rel=next href=/kites?page=2><link rel=prev href=/x>", "/kites?page=2"),
    ("/kites", "<a rel='next nofollow' href=/kites/2>on</a>", "/kites/2"),
    ("/kites", "<a rel=next href=https://other.example/2>on</a>", ""),
    ("/kites", "<a rel=next href=/kites#top>on</a><a rel=next href=big.jpg>on</a>", ""),
    ("/kites_398.html", "<a rel=next href=/kites_398.html?page=2>on</a>", "/kites_398.html?page=2"),
    ("/kites_398.html", "<a rel=next href=/kites_399.html?page=2>on</a>", ""),
    # words, and what says them to those who do not see them
    ("/kites", "<a href=?p=2>Next</a>", "/kites?p=2"),
    ("/kites", "<span>1</span> <a href=?p=1>2</a> <a href=?p=2>3</a>", "/kites?p=1"),
    ("/kites?p=1", "<a href=?p=0>1</a> <span>2</span> <a href=?p=2>3</a>", "/kites?p=2"),
    ("/kites", "<a href=/kites/older>« Older posts</a>", "/kites/older"),
    ("/kites", "<a href=?s=2>Nächste Seite »</a>", "/kites?s=2"),
    ("/kites", "<a href=?start=20>next 20 records »</a>", "/kites?start=20"),
    ("/kites", "<a href=?ab=50>Nächste 50 Treffer</a>", "/kites?ab=50"),
    ("/album/5", "<a href=/album/5/b>Older photos</a>", "/album/5/b"),
    ("/kites", "<a href=?s=2>Page suivante</a>", "/kites?s=2"),
    ("/kites", "<a href=?s=2>次のページ</a>", "/kites?s=2"),
    ("/kites", "<a href=?s=2 aria-label='Next page'><svg></svg></a>", "/kites?s=2"),
    ("/kites", "<a href=?s=2 title=Next>›</a>", "/kites?s=2"),
    ("/kites", "<a href=/kites?after=k9>Load more</a>", "/kites?after=k9"),
    ("/kites", "<a href=?from=k9>Show 20 more kites</a>", "/kites?from=k9"),
    ("/kites", "<a href=?from=k9>Weitere Drachen laden</a>", "/kites?from=k9"),
    ("/kites", "<a href=?from=k9>Voir plus de cerfs-volants</a>", "/kites?from=k9"),
    ("/kites", "<a href=?d=all>View more details</a><a href=/drums?from=d9>View more drums</a>", ""),
    ("/shop", "<a href=?of=kites>More kites</a>", ""),
    ("/shop", "<a href=?of=kites>View more kites</a><a href=?of=drums>View more drums</a>", ""),
    ("/kites", "<a class=disabled href=?p=2>Next</a><a aria-disabled=true href=?p=3>Next</a>", ""),
    ("/kites", "<a href='#'>Next</a><a href='javascript:void(0)'>Next</a>", ""),
    # never the next article, a sort order, a language, a calendar
    ("/storm", "<a href=/calm>Next: The calm</a><a href=/calm>Next article</a><a href=/calm>Next post</a>", ""),
    ("/kites", "<a href=?sort=2>Price</a><a href=/fr/kites>Français</a><a href=?view=2>Grid</a>", ""),
    ("/events", "<table class=calendar><tr><td><a href=/events?p=2>»</a><td><a href=?d=2>2</a><td>1</table>", ""),
    ("/events", "<div id=event-calendar><a href=/2025/06>Next</a></div>", ""),
    ("/", "<ul><li><a href=/c/4>Show more</a><li><a href=/c/5>Show more</a><li><a href=/c/6>Show more</a></ul>", ""),
    ("/", "<ul><li>Red delta by Ines <a href='/red#comments'>2</a><li>Storm kite by Tom <b>1</b></ul>", ""),
    ("/hall", "<table><tr><td>Red delta, flown since the spring of the year by Ines and Tom of the Galewick guild<td>1<td>"
     "<a href=/flights?of=7>2</a><td><a href=/thanks?of=7>»</a></table>", ""),
    ("/hall", "<table><tr><td>Mo<td>Tu<tr><td class=dayweek1><a href=/events?day=2>2</a><td>1</table>", ""),
    ("/kites", "<span>‹</span> <a href='/kites?start=24'>›</a>", "/kites?start=24"),
    ("/kites", "<span>‹</span> <a href='/kites?of=24'>›</a><a href='/owls?start=24'>›</a>", ""),
    ("/kites", "<a>1</a> <a href=/b>2</a> <a href=/c>3</a>", "/b"),
    ("/b", "<ul><li><a href=/kites>1</a><li><a><span>2</span></a><li><a href=/c>3</a></ul>", "/c"),
    # the number after the current one
    ("/kites", "<nav><span>1</span> <a href=/b>2</a> <a href=/c>3</a></nav>", "/b"),
    ("/b", "<nav><a href=/kites>1</a> <a href=/b aria-current=page>2</a> <a href=/c>3</a></nav>", "/c"),
    ("/b", "<ul><li><a href=/kites>1</a><li class=active><a href=/b>2</a><li><a href=/c>3</a></ul>", "/c"),
    ("/b", "<p>Pages: <a href=/kites>1</a> <b>2</b> <a href=/c>3</a></p>", "/c"),
    ("/b", "<p><a href=/kites>1</a> [2] <a href=/c>3</a></p>", "/c"),
    ("/c", "<p><a href=/kites>1</a> <a href=/b>2</a> <b>3</b></p>", ""),
    ("/c", "<p><a href=/k><i><b>1</b></i></a> <a href=/b><span>2</span></a> <b>3</b></p>", ""),
    ("/c", "<p><a href=/k><span>1</span></a> <a href=/b><span>2</span></a> <b>3</b> <a href=/d><span>4</span></a></p>", "/d"),
    ("/k", "<h2>Kites</h2><p>a great many words about the kites of this museum</p><b>1</b> <a href=/b>2</a>", "/b"),
    ("/c", "<p><a href=/k>1</a> <a href='/b?x'><b>2</b></a> <a href=/d>3</a> <a href=/e>4</a></p>", "/d"),
    ("/c?o=0", "<p><a href=/c?o=0>1</a> <a href=/c?o=60>2</a> <a href=/c?o=120>3</a></p>", "/c?o=60"),
    ("/b", "<p><a href=/k><i>Page</i> 1</a> <b><i>Page </i>2</b> <a href=/c><i>Page </i>3</a></p>", "/c"),
    ("/b", "<p><a href=/k>第1頁</a> <b>第2頁</b> <a href=/c>第3頁</a></p>", "/c"),
    ("/b", "<p><a href=/k>Hall 1</a> <b>Hall 2</b> <a href=/c>Hall 3</a></p>", ""),
    # entries from one to another, of which those of this page are the ones that are missing
    ("/r", "<a href='/r?from=21&to=40'>21 - 40</a><a href='/r?from=41&to=60'>41 - 60</a>", "/r?from=21&to=40"),
    ("/r2", "<a href=/r>1–20</a> 21–40 <a href=/r3>41–60</a> <a href=/r4>61–80</a>", "/r3"),
    ("/r3", "<a href=/r>1–20</a> <a href=/r2>21–40</a>", ""),
    ("/r", "<a href=/ages>3-6</a><a href=/ages2>7-14</a><a href=/sizes>90-120</a>", ""),
    ("/kites", "<map name=m><area href=/b.html alt=Next></map><img src=n.gif usemap=#m>", "/b.html"),
    # an arrow among numbers, and one on a carousel
    ("/kites", "<ul><li>1<li><a href=/x>4</a><li><a href=/b>›</a></ul>", "/b"),
    ("/kites", "<div class=carousel><a href=/slide>›</a></div>", ""),
    # an address that counts on
    ("/list?page=2&q=kite", "<a href='/list?page=1&q=kite'>a</a><a href='/list?page=4&q=kite'>b</a><a href='/list?page=3&q=kite'>c</a>", "/list?page=3&q=kite"),
    ("/list?start=20", "<a href=/list?start=0>a</a><a href=/list?start=40>b</a><a href=/list?start=60>c</a>", "/list?start=40"),
    ("/blog", "<a href=/blog/page/2/>archive</a><a href=/blog/page/3/>archive</a>", "/blog/page/2/"),
    ("/list?page=2", "<a href=/other?page=3>a</a><a href=/list?page=1>b</a>", ""),
    ("/list?q=kite&cursor=b", "<a href='/list?q=kite&cursor=a'>Prev</a><a href='/list?q=kite&cursor=c'>Next</a>", "/list?q=kite&cursor=c"),
    ("/index.html", "<a href=index2.html>a</a><a href=index4.html>b</a>", "/index2.html"),
    ("/2026/10", "<a href=/2026/11>a</a><a href=/2026/9>b</a>", ""),
    # an address that counts on comes before others; what is next to the last page is no page of the list
    ("/notes/", "<link rel=next href=/notes/reds/><b>1</b> <a href=/notes/page/2/>2</a>", "/notes/page/2/"),
    ("/notes/page/4/", "<link rel=next href=/notes/reds/><a href=/notes/page/3/>3</a> <b>4</b>", ""),
    # an arrow beside what says which page of how many it is; a link that is there and not shown
    ("/kites", "<ul><li>Page 1 / 4<li><a href=/b>⟩</a><li><a href=/d>⟫</a></ul>", "/b"),
    ("/kites", "<div class=is-invisible><a href=/page/5/>Next</a></div>", ""),
    # a picture's words, and a class where there are no words
    ("/kites", "<a href=page2.html><img src=next.gif alt='Next page'></a>", "/page2.html"),
    ("/kites", "<a href=?s=2><svg><title>Next</title></svg></a>", "/kites?s=2"),
    ("/kites", "<li class=pagination-next><a href=?after=k9><i></i></a>", "/kites?after=k9"),
    ("/kites", "<a class=nextel href=/a><i></i></a><a class=next href=/b>The calm</a>", ""),
    ("/kites", "<a href=/k?s=b>Next 20</a>", "/k?s=b"),
    ("/kites", "<a href=//www.galewick.example/kites?page=2>2</a>", "//www.galewick.example/kites?page=2"),
    # data blocks and scripts, where the address counts on
    ("/kites", '<script>{"paging": {"next": "https:\\/\\/galewick.example\\/kites?page=2\\u0026s=a"}}</script>', "/kites?page=2&s=a"),
    ("/kites", '<script>var nextPageUrl = "/kites?page=2", next_url = "/calm"</script>', "/kites?page=2"),
    ("/kites", '<script>{"next": {"title": "/kites?page=2"}, "next": "/storm", "text": "/kites?page=4"}</script>', ""),
    # neither how many are shown at once, nor where one signs in
    ("/kites", "Per page: <b>1</b> <a href=/kites?per=2>2</a> <a href=/kites?per=3>3</a>", ""),
    ("/kites?page=1&limit=9", "<b>1</b> <a href='/kites?page=2&limit=9'>2</a>", "/kites?page=2&limit=9"),
    ("/kites", "<a href='/login?next=/kites'>Next</a>", ""),
    # what is no link: buttons, choices, forms, and what loads when it is seen
    ("/kites", "<button data-url=/kites?s=b>Load more</button>", "/kites?s=b"),
    ("/kites", "<button data-url=more2.html>Show more</button><button data-next-page=2>Load more</button>", "/more2.html"),
    ("/kites", "<button disabled data-url=/kites?s=b>Load more</button>", ""),
    ("/kites", "<button data-url=/share?s=b>Share</button><button data-next='{\"a\": \"/b\"}'>Load more</button>", ""),
    ("/kites", "<div data-next-url=/more?s=b></div>", "/more?s=b"),
    ("/kites", "<div hx-get=/kites?page=2 hx-trigger=revealed></div><div hx-get=/kites/1/card>", "/kites?page=2"),
    ("/kites", "<turbo-frame src=/kites?page=2 loading=lazy></turbo-frame>", "/kites?page=2"),
    ("/kites", "<button onclick=\"location.href='?s=2'\">Next</button><p onclick='go(1)'>Next", "/kites?s=2"),
    ("/kites?page=1", "<select><option value=?page=1>1<option value=?page=2>2<option value=/fr>fr</select>", "/kites?page=2"),
    ("/kites", "<form action=/kites><input type=hidden name=s value='2 b'><button>Next</button></form>", "/kites?s=2+b"),
    ("/kites", "<form method=post><input type=hidden name=s value=2><button>Next</button></form>", ""),
    ("/kites", "<form><input name=q><input type=hidden name=page value=2><button>Next</button></form>", ""),
]  # fmt: skip

OF_A_TEXT: list[tuple[str, str]] = [
    ("<a rel=next href=/calm>The calm</a><a href=/calm>Next »</a>", ""),
    ("<a href=/older>Older posts</a>", "/older"),
    ("<a rel=next href=/storm?page=2>on</a>", "/storm?page=2"),
    ("<p>Pages: <b>1</b> <a href=/storm/2>2</a></p>", "/storm/2"),
    ("<a href=/storm?after=kite-9>Next</a>", "/storm?after=kite-9"),
    ("<a rel=next href=/storm?p=57>The calm</a>", ""),
    ("<a rel=next href=/storm?p=2>on</a>", "/storm?p=2"),
    ("<a href=/storm?id=2>Next</a>", ""),
    ("<div data-next-url=/calm></div><a class=next href=/calm><i></i></a>", ""),
]
"""what may be a text, or a list of titles: what leads on must speak of pages"""


@pytest.mark.parametrize(("address", "markup", "expected"), NEXT)
def test_where_a_list_goes_on(address: str, markup: str, expected: str) -> None:
    page = read_document(f"<!doctype html>{markup}".encode(), source="x", address=ROOT + address)
    assert next_page(page) == (urljoin(ROOT, expected) if expected else "")


@pytest.mark.parametrize(("markup", "expected"), OF_A_TEXT)
def test_what_is_next_to_a_text_is_another_text(markup: str, expected: str) -> None:
    page = read_document(f"<!doctype html>{markup}".encode(), source="x", address=f"{ROOT}/storm")
    assert next_page(page, is_list=False) == (ROOT + expected if expected else "")


_STATE = "<input type=hidden name=__VIEWSTATE value=a+b><input name=q value=kite><input type=checkbox name=c checked>"
_PRESSED = "/kites __VIEWSTATE=a%2Bb&q=kite&c=on&__EVENTTARGET=grid&__EVENTARGUMENT="


def _sending(argument: str) -> str:
    return f"javascript:__doPostBack('grid','{argument}')"


POSTED: list[tuple[str, str]] = [
    (f'<form method=post>{_STATE}1 <a href="{_sending("2")}">2</a> <a href="{_sending("3")}">3</a></form>', f"{_PRESSED}2"),
    (f'<form method=POST>{_STATE}<a href="#" onclick="{_sending("on")};return false">Next page</a></form>', f"{_PRESSED}on"),
    (f"<form method=post>{_STATE}<select name=s><option>a<option selected value=2>b</select><input type=submit name=go "
     "value='Next page'></form>", "/kites __VIEWSTATE=a%2Bb&q=kite&c=on&s=2&go=Next+page"),
    ("<form method=post action=/more><input type=hidden name=page value=2><button>Load more</button></form>",
     "/more page=2"),
    ("<form method=post action=/more><button>Load more</button></form>", "/more ="),
    # what asks for something, signs in, or leads to another site; what sends nothing
    ("<form method=post><input name=q><button>Next page</button></form>", ""),
    (f"<form method=post>{_STATE}<input type=password name=p><button>Next page</button></form>", ""),
    ("<form method=post action=https://other.example/><input type=hidden name=p value=2><button>Next page</button></form>", ""),
    (f'<p><a href="{_sending("2")}">Next page</a>', ""),
    (f"<form method=post>{_STATE}<a href=/kites?page=2>Next</a><a href='posted:7'>Next page</a></form>", "/kites?page=2"),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "expected"), POSTED)
def test_pages_that_are_posted(markup: str, expected: str) -> None:
    page = read_document(f"<!doctype html>{markup}".encode(), source="x", address=f"{ROOT}/kites")
    assert next_page(page) == (ROOT + expected if expected else "")


def test_what_is_posted_is_in_the_encoding_of_its_page() -> None:
    form = "<form method=post><input type=hidden name=q value='Käfer ★'><button>Load more</button></form>"
    markup = f"<!doctype html><meta charset=latin1>{form}".encode("cp1252", "xmlcharrefreplace")
    assert next_page(read_document(markup, source="x", address=f"{ROOT}/")) == f"{ROOT}/ q=K%E4fer+%26%239733%3B"


def test_a_list_that_is_posted_is_followed_to_its_end(run: Program) -> None:
    class Grid(Answering):
        """Five pages of four kites, whose number is in what is posted."""

        def do_GET(self) -> None:
            self.page(1) if self.path == "/" else self.answer(200, picture("PNG", (300, 200), (len(self.path), 9, 9)))

        def do_POST(self) -> None:
            sent = parse_qs(self.rfile.read(int(self.headers["Content-Length"])).decode())
            assert sent["__VIEWSTATE"] == ["s"]
            self.page(int(sent["__EVENTARGUMENT"][0]))

        def page(self, number: int) -> None:
            kites = "".join(f"<li><img src=/{number}{side}.png alt='Kite {number}{side}'>" for side in "abcd")
            numbers = (n if n == number else f'<a href="{_sending(str(n))}">{n}</a>' for n in range(1, 6))
            onward = " ".join(map(str, numbers))
            form = f"<form method=post><input type=hidden name=__VIEWSTATE value=s>{onward}</form>"
            self.answer(200, f"<ul>{kites}</ul>{form}".encode(), "text/html")

    with serving(Grid) as port:
        line = ("look", f"http://127.0.0.1:{port}/", "--format", "jsonl", "--next-pages")
        assert [row["alt"] for row in run(*line, "9").rows] == [
            f"Kite {n}{side}" for n in range(1, 6) for side in "abcd"
        ]
        done = run(*line, "2")
        assert len(done.rows) == 12
        assert "it goes on" in done.err


class Loading(Answering):
    """Three pages of two kites: the first whole, the others as its button would load them, in several ways."""

    def do_GET(self) -> None:
        asked = urlsplit(self.path)
        number = int(parse_qs(asked.query).get("page", ["1"])[0])
        kites = "".join(f"<li><img src=/{number}{side}.png><h3>Kite {number}{side}</h3></li>" for side in "ab")
        if number > 3:
            self.answer(404 if asked.path == "/bare" else 200, b"", "text/html")
        elif asked.path.startswith("/whole"):
            button = f"<button data-url='{asked.path[6:]}?page=2'>Load more</button>"
            self.answer(200, f"<title>Kites</title><ul>{kites}</ul>{button}".encode(), "text/html")
        elif asked.path == "/markup":
            further = f"/markup?page={number + 1}" if number < 3 else None
            self.answer(200, json.dumps({"html": kites, "next": further}).encode(), "application/json")
        elif asked.path == "/data":
            rows = [{"title": f"Kite {number}{side}", "image": f"/{number}{side}.png"} for side in "ab"]
            self.answer(200, json.dumps({"page": number, "pages": 3, "kites": rows}).encode(), "application/json")
        else:
            self.answer(200, kites.encode(), "text/html")


@pytest.mark.parametrize("way", ["markup", "data", "bare", "open"])
def test_what_a_button_loads_is_a_piece_of_the_page_or_data(run: Program, way: str) -> None:
    with serving(Loading) as port:
        done = run("look", f"http://127.0.0.1:{port}/whole/{way}", "--next-pages", "9", "--format", "jsonl")
        assert [row["item"] for row in done.rows] == [f"Kite {number}{side}" for number in (1, 2, 3) for side in "ab"]
        assert "3 pages of the list: it ends there" in done.err


def test_a_button_that_brings_more_is_told(run: Program, web: Server) -> None:
    kites = "".join(f"<li><img src=/{n}.png alt='Kite {n}'>" for n in range(4))
    (web.www / "p.html").write_text(f"<ul>{kites}</ul><button>Next</button><button class=more>Load 20 more</button>")
    said = "a button says “Load 20 more”: --browser --next-pages 9 presses it, up to nine times"
    assert said in run("look", f"{web.address}/p.html").out
    assert "a button says" not in run("look", str(web.www / "p.html")).out  # which no browser visits


@pytest.mark.parametrize(
    ("label", "more"),
    [
        ("Load 20 more", True), ("More prints", True), ("Mehr Drachen", True), ("Show 12 more kites ▾", True),
        ("Next", False), ("More", False), ("More info", False), ("More actions", False), ("Show more details", False),
        ("More than twenty kites are for sale", False),
    ],
)  # fmt: skip
def test_what_a_button_says_that_brings_more_of_a_list(label: str, more: bool) -> None:
    assert says_more(label) == more


def test_a_link_field() -> None:
    fields = {"link": '</kites?page=1>; rel=prev, </kites?page=3>; rel="next"'}
    page = read_document(b"<p>x", source="x", address=f"{ROOT}/kites?page=2", fields=fields)
    assert next_page(page) == f"{ROOT}/kites?page=3"


def test_a_list_is_followed_to_its_end(run: Program, museum: str, tmp_path: Path) -> None:
    prints = f"{museum}/prints.html"
    chosen = ("--furniture", "drop", "--as-shown")
    done = run("look", prints, "--next-pages", "9", *chosen, "--format", "jsonl")
    assert [row["item"] for row in done.rows][5:9] == ["Octopus", "Six Corner Sun", "Striped Sled", "Eight Cell Foil"]
    assert "3 pages of the list: it ends there" in done.err
    assert "the list has further pages: --next-pages 9" in run("look", prints, *chosen).out
    assert "further pages" not in run("look", prints, "--next-pages", "1", *chosen).out
    numbers = [row["number"] for row in done.rows]
    assert numbers == sorted(set(numbers))
    assert (
        "2 pages of the list: it goes on, and --next-pages 4 reads more" in run("look", prints, "--next-pages", "1").out
    )
    # What stands on every page is listed once; a page about one thing is no list.
    logos = [row for row in run("look", prints, "--next-pages", "9", "--format", "jsonl").rows if "logo" in row["url"]]
    assert len(logos) == 1
    assert "1 page of the list" in run("look", f"{museum}/object.html", "--next-pages", "9").out
    # Without a server, from a folder; and into a crate, where a second run asks for nothing.
    assert run("pack", prints, "--next-pages", "9", *chosen, "--crate", "c", "--name", "{item}").code == 0
    assert len(list((tmp_path / "crates/c").glob("*.jpg"))) == 12
    assert (
        "12 there already" in run("pack", prints, "--next-pages", "9", *chosen, "--crate", "c", "--name", "{item}").out
    )


def test_lists_that_never_end_or_break_off(run: Program, museum: str, web: Server) -> None:
    assert (
        "1 page of the list: the next one shows nothing new"
        in run("look", f"{museum}/almanac", "--next-pages", "50").out
    )
    items = "<h2>Reds</h2><ul><li><img src={0}a.png>Sled<li><img src={0}b.png>Foil</ul><a rel=next href={1}>Next</a>"
    (web.www / "p1.html").write_text(items.format(1, "p2.html"))
    (web.www / "p2.html").write_text(items.format(2, "p1.html"))
    done = run("look", f"{web.address}/p1.html", "--next-pages", "9", "--no-robots")
    assert "2 pages of the list: it ends there" in done.out  # it leads back to the first
    (web.www / "p2.html").write_text(items.format(2, "p4.html"))
    done = run("look", f"{web.address}/p1.html", "--next-pages", "9", "--no-robots", "--fresh")
    assert (done.code, "4 pictures on 2 pages" in done.out) == (1, True)
    assert "p4.html: the server answered 404" in done.err
    assert "the next one could not be read" in done.out
    # The part that was asked for is not on the second page: what was found stays.
    (web.www / "p2.html").write_text(items.format(2, "p3.html").replace("Reds", "Blues"))
    done = run("look", f"{web.address}/p1.html", "--next-pages", "9", "--no-robots", "--fresh", "--under", "Reds")
    assert (done.code, "2 picked" in done.out, "no heading or caption" in done.err) == (1, True, True)
    # A page that robots are asked to leave alone is not followed.
    (web.www / "robots.txt").write_text("User-agent: *\nDisallow: /p2\n")
    done = run("look", f"{web.address}/p1.html", "--next-pages", "9", "--fresh")
    assert (done.code, "robots.txt" in done.err) == (1, True)


def test_a_page_of_arrows_is_read_once_and_not_once_an_arrow(monkeypatch: pytest.MonkeyPatch) -> None:
    read = 0

    def counted(node: LexborNode) -> str:
        nonlocal read
        read += 1
        return text_of(node)

    for module in ("pagelinks", "pagenumbers"):
        monkeypatch.setattr(f"pickcrate.items.pager.{module}.text_of", counted)
    arrows = "".join(f"<li><a href=https://elsewhere.example/{n}>›</a></li>" for n in range(300))
    markup = f"<ul>{arrows}</ul>".encode()
    assert next_page(read_document(markup, source="x", address="https://galewick.example/kites/")) == ""
    assert 300 <= read < 10 * 300
