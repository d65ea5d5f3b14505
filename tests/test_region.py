"""Where on the page: golden layouts, each with what a person would mean by the words that introduce a part of it."""

from pathlib import Path

import pytest

from conftest import Program
from pickcrate.finders.region import elements_of
from pickcrate.read.pages.document import read_document
from pickcrate.values.wanted import Region

LAYOUTS = [
    # headings of a flat page
    ("<h2>Reds</h2><img id=a><p><img id=b></p><h2>Blues</h2><img id=c>", "reds", "ab"),
    ("<h1>Kites</h1><img id=a><h2>Reds</h2><img id=b><h3>Small</h3><img id=c><h2>Blues</h2><img id=d>", "Reds", "bc"),
    ("<h1>Kites</h1><img id=a><h2>Reds</h2><img id=b><h2>Blues</h2><img id=c>", "kites", "abc"),
    # sections, with a heading in a header, and pictures outside
    ("<section><header><h2>Reds</h2></header><img id=a></section><section><h2>Blues</h2><img id=b></section><footer><img id=c></footer>", "Reds", "a"),
    ("<article><h2>Reds</h2><img id=a></article><aside><img id=b></aside>", "Reds", "a"),
    # a heading in a wrapper of its own beside its content
    ("<div><div class=title><h2>Reds</h2></div><div><img id=a></div></div><div><div class=title><h2>Blues</h2></div><div><img id=b></div></div>", "Reds", "a"),
    ("<div class=title><h2>Reds</h2></div><div><img id=a></div><div class=title><h2>Blues</h2></div><div><img id=b></div>", "Reds", "a"),
    # cards whose heading stands below the picture
    ("<div><img id=a><h3>Reds</h3></div><div><img id=b><h3>Blues</h3></div>", "Blues", "b"),
    ("<ul><li><a><img id=a></a><h4>Reds</h4></li><li><a><img id=b></a><h4>Blues</h4></li></ul>", "Reds", "a"),
    # captions
    ("<table><caption>Reds</caption><tr><td><img id=a></table><table><caption>Blues</caption><tr><td><img id=b></table>", "Reds", "a"),
    ("<p>Reds of the north, 1911</p><table><tr><td><img id=a></table><p>Blues</p><table><tr><td><img id=b></table>", "reds", "a"),
    ("<figure><figure><img id=a></figure><img id=b><figcaption>Reds</figcaption></figure><img id=c>", "Reds", "ab"),
    ("<fieldset><legend>Reds</legend><img id=a></fieldset><img id=b>", "Reds", "a"),
    ("<details><summary>Reds</summary><img id=a></details><details><summary>Blues</summary><img id=b></details>", "Reds", "a"),
    ("<div class=wp-caption><img id=a><p class=wp-caption-text>Reds</p></div><div class=wp-caption><img id=b><p class=wp-caption-text>Blues</p></div>", "Reds", "a"),
    ("<div><img id=a><p class=caption>Blues</p><img id=b><p class=caption>Reds</p><img id=c></div>", "Reds", "b"),
    # a term of a list, a row that is one cell
    ("<dl><dt>Reds<dd><img id=a><dd><img id=b><dt>Blues<dd><img id=c></dl>", "Reds", "ab"),
    ("<table><tr><th colspan=2>Reds<tr><td><img id=a><td>1<tr><th colspan=2>Blues<tr><td><img id=b><td>2</table>", "Reds", "a"),
    # bold lines that stand for headings
    ("<p><b>Reds</b></p><p><img id=a></p><p>More <b>kites</b></p><p><img id=b></p><p><strong>Blues</strong></p><img id=c>", "Reds", "ab"),
    ("<div style='font-weight: bold'>Reds</div><img id=a><div style='font-weight:700'>Blues</div><img id=b>", "Reds", "a"),
    ("<b>Reds</b><br><img id=a><br><b>Blues</b><br><img id=b>", "Blues", "b"),
    # a line above a list or a gallery; a label
    ("<p>Our reds:</p><ul><li><img id=a></ul><p>Our blues:</p><ul><li><img id=b></ul>", "blues", "b"),
    ("<p>Reds</p><div class=grid><img id=a><img id=b></div><p>Nothing more</p><img id=c>", "Reds", "ab"),
    ("<section aria-label='All reds'><img id=a></section><section aria-label=Blues><img id=b></section>", "reds", "a"),
    ("<div role=heading aria-level=2>Reds</div><img id=a><div role=heading aria-level=2>Blues</div><img id=b>", "Reds", "a"),
    # a heading wins over a line that has the words as well; the exact one over one that only holds them
    ("<p>Reds</p><ul><li><img id=a></ul><h2>Reds</h2><img id=b>", "Reds", "b"),
    ("<h2>Reds and blues</h2><img id=a><h2>Reds</h2><img id=b>", "Reds", "b"),
    # several: those that there are
    ("<h2>Reds</h2><img id=a><h2>Greens</h2><img id=b><h2>Blues</h2><img id=c>", "blues | reds | yellows", "ac"),
    # as somebody types it
    ("<h2>M&uuml;ller’s reds&nbsp;– new</h2><img id=a><h2>Mullers</h2><img id=b>", "muller's reds - NEW", "a"),
    # two parts with the same words are both meant
    ("<h2>1911: reds</h2><img id=a><h2>Blues</h2><img id=b><h2>1912: reds</h2><img id=c>", "reds", "ac"),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "under", "expected"), LAYOUTS)
def test_what_words_introduce(markup: str, under: str, expected: str) -> None:
    page = read_document(
        f"<!doctype html><title>x</title><body>{markup}".encode(), source="x", address="https://k.example/"
    )
    inside = elements_of(page, Region(under=tuple(under.split(" | "))))
    assert "".join(img.attributes["id"] or "" for img in page.tree.css("img") if img.mem_id in inside) == expected


def test_within_and_under_on_the_museums_pages(run: Program, museum: str) -> None:
    def names(*options: str) -> list[str]:
        return [
            row["shown_url"].rpartition("/")[2] for row in run("look", *options, "--as-shown", "--format", "jsonl").rows
        ]

    regions = f"{museum}/regions.html"
    assert len(names(regions, "--under", "Kites of the four regions")) == 12
    assert names(regions, "--within", "tbody tr:nth-child(-n+2)") == ["six-corner-sun.jpg", "mill-wheel.jpg"]
    assert len(names(regions, "--within", "tbody tr:nth-child(n+3)")) == 10
    assert names(regions, "--within", "header .social", "--within", "tr:nth-child(1) td")[:3] == [
        "flock.png",
        "ringside.png",
        "playback.png",
    ]
    none = run("look", regions, "--under", "Submarines")
    assert none.code == 4
    assert "no heading or caption of Kites by region · Galewick Kite Museum holds 'Submarines'" in none.err
    assert "there are: “Kites by region”; “Kites of the four regions, with their makers”" in none.err
    bad = run("look", regions, "--within", "td[")
    assert (bad.code, "--within 'td[' is not a CSS selector" in bad.err) == (2, True)


def test_an_entry_of_a_feed_is_introduced_by_its_title(run: Program, tmp_path: Path) -> None:
    entries = "".join(
        f"<item><title>{title}</title><link>https://k.example/{name}</link><description>&lt;h3&gt;{title} at {when}&lt;/h3&gt;"
        f'&lt;img src="https://k.example/{name}.jpg"&gt;</description>'
        f'<enclosure url="https://k.example/{name}-2.jpg" type="image/jpeg"/></item>'
        for title, name, when in (("Inö’s delta", "a", "dawn"), ("A box", "b", "dusk"))
    )
    (tmp_path / "feed.xml").write_text(
        f'<rss version="2.0"><channel><title>Kites</title>{entries}</channel></rss>', "utf-8"
    )
    cases = {("--under", "ino's"): "a a-2", ("--under", "dusk"): "b", ("--within", "h3 + img"): "a b"}
    for options, expected in cases.items():
        rows = run("look", "feed.xml", *options, "--format", "jsonl").rows
        assert " ".join(row["name"] for row in rows) == expected
    none = run("look", "feed.xml", "--under", "Submarines")
    assert (none.code, "no entry of Kites is called so" in none.err, "“A box”" in none.err) == (4, True, True)
    (tmp_path / "list.csv").write_text("Title,Image\nRed,https://k.example/a.jpg\n")
    assert "--under: it is for pages, and there is none here" in run("look", "list.csv", "--under", "Red").out
