"""Time looking at pages of awkward shapes at n, 2n and 4n, against bare parsing of the same pages.

    python benchmarks/shapes.py [--scale 1.0] [--only NAME]

The floor is ``selectolax`` building its tree from decoded text. "Looking" is what ``look`` does with a page that it
has: decode, parse, find, name by items, group, resolve.
"""

import argparse
import html
import json
import time
from collections.abc import Callable
from dataclasses import dataclass

from selectolax.lexbor import LexborHTMLParser

from pickcrate.finders import find
from pickcrate.fullsize import resolve
from pickcrate.group import group
from pickcrate.items import itemised
from pickcrate.read.pages.decode import decode
from pickcrate.read.pages.document import read_document


@dataclass(frozen=True)
class Shape:
    """A kind of page: its name, how it is made at a size, and the size that it is measured at first."""

    name: str
    make: Callable[[int], str]
    size: int


def images(count: int) -> str:
    """Return a page of so many pictures and nothing else."""
    return "".join(f"<img src=kite-{n}.jpg alt='Kite {n}'>" for n in range(count))


def nested(count: int) -> str:
    """Return a picture in so many elements, each in the one before, with a picture on each tenth level."""
    inner = ("<div class=room>" + (f"<img src=k{n}.jpg>" if n % 10 == 0 else "") for n in range(count))
    return "".join(inner) + "</div>" * count


def one_line(count: int) -> str:
    """Return one paragraph of so many words without a line's end, with a picture in each hundredth."""
    return "<p>" + " ".join(f"kite<img src=k{n}.jpg>" if n % 100 == 0 else "kite" for n in range(count))


def data_block(count: int) -> str:
    """Return a page whose pictures are in one block of inline JSON."""
    kites = [{"id": n, "title": f"Kite {n}", "image": f"https://kites.example/k{n}.jpg"} for n in range(count)]
    return f"<script type=application/json>{json.dumps(kites)}</script>"


def style_rules(count: int) -> str:
    """Return a page of as many elements as its style sheet has rules, each with a background."""
    rules = "".join(f".kite-{n} {{ background: url(k{n}.jpg) }}" for n in range(count))
    return f"<style>{rules}</style>" + "".join(f"<div class=kite-{n}>{n}</div>" for n in range(count))


def tables(count: int) -> str:
    """Return a page of so many small tables."""
    row = "<tr><td><img src=k{n}-{k}.jpg><td>Kite {n} {k}<td>19{k:02}"
    head = "<table><tr><th>Picture<th>Kite<th>Year"
    return "".join(head + "".join(row.format(n=n, k=k) for k in range(3)) + "</table>" for n in range(count))


def one_table(count: int) -> str:
    """Return one table with a picture in each of so many rows."""
    rows = "".join(f"<tr><td><img src=k{n}.jpg><td>Kite {n}<td>{n}" for n in range(count))
    return f"<table><tr><th>Picture<th>Kite<th>Number{rows}</table>"


def cards(count: int) -> str:
    """Return so many cards, each with a picture, its title and a line."""
    card = "<li class=card><a href=/kites/{n}><img src=k{n}.jpg><h3>Kite {n}</h3></a><p>Flown in 19{n:02}.</li>"
    return "<ul>" + "".join(card.format(n=n) for n in range(count)) + "</ul>"


def links_beside(count: int) -> str:
    """Return a block of links to images, and a block of pictures below it."""
    links = "".join(f"<a href=/full/{n}.jpg>png</a>" for n in range(count))
    return f"<div><p>{links}</p><div>{''.join(f'<img src=/small/{n}.png>' for n in range(count))}</div></div>"


def captions_beside(count: int) -> str:
    """Return a row of pictures, and a row of their captions below it."""
    pictures = "".join(f"<td><img src=/{n}.jpg>" for n in range(count))
    return f"<table><tr>{pictures}<tr>{''.join(f'<td class=caption>Kite {n}' for n in range(count))}</table>"


def data_in_an_attribute(count: int) -> str:
    """Return an element that has all of a page's data in one attribute."""
    kites = [{"title": f"Kite {n}", "image": f"/k{n}.jpg"} for n in range(count)]
    return f'<div data-hall="{html.escape(json.dumps(kites))}"></div>'


def templates(count: int) -> str:
    """Return a script of so many templates, each with a template in its substitution."""
    template = "show(`<li>${{all.map(k => `<b>${{k}}</b>`)}}<img src='/k{n}.jpg'>`);"
    return f"<script>{''.join(template.format(n=n) for n in range(count))}</script>"


def sums(count: int) -> str:
    """Return a script that puts so many folders before one name, and one folder before so many names."""
    folders = "".join(f"var d{n} = 'hall{n}/'; show(d{n} + 'red.jpg'); show('i/' + all[n] + x);" for n in range(count))
    names = ", ".join(f"'kite{n}'" for n in range(count))
    return f"<script>var all = [{names}]; {folders} show('i/' + all[n] + '.jpg')</script>"


def again(count: int) -> str:
    """Return a page that shows one picture so many times, each time with its sizes and a link."""
    return "<a href=/red><img src=/a.jpg srcset='/a.jpg 300w, /b.jpg 900w'></a> " * count


def components(count: int) -> str:
    """Return so many cards that are components: the picture is the component's, its title the page's."""
    root = "<template shadowrootmode=open><img src=k{n}.jpg><h3><slot></slot></h3></template>"
    return "<div>" + "".join(f"<k-card>{root.format(n=n)}Kite {n}</k-card>" for n in range(count)) + "</div>"


def headings_in_headings(count: int) -> str:
    """Return so many pictures, each in two headings and a list that are closed nowhere."""
    return "".join(f"<h2>hall <h3>kite {n}<ul><img src=k{n}.jpg>" for n in range(count))


def things_in_things(count: int) -> str:
    """Return so many things, each in the one before, with a value that says what it is called."""
    thing = "<li itemprop=part><b class=label>Made</b><b class=value>{n}</b><img src=k{n}.jpg><ul>"
    return "<ul>" + "".join(thing.format(n=n) for n in range(count))


def titles_in_titles(count: int) -> str:
    """Return so many titles of a page, each in the one before, with a picture that a click shows."""
    return "".join(f"kite <span><h1 onclick=\"show('k{n}.jpg')\">hall {n}" for n in range(count))


def one_address(count: int) -> str:
    """Return an element whose data has one picture so many times, some of it in markup."""
    kites = [{"title": f"Kite {n}", "image": "/k.jpg", "text": "<img src=/k.jpg>"} for n in range(count)]
    return f'<div data-hall="{html.escape(json.dumps(kites))}"></div>'


SHAPES = (
    Shape("images", images, 10_000),
    Shape("deep nesting", nested, 5_000),
    Shape("one long line", one_line, 200_000),
    Shape("inline JSON", data_block, 15_000),
    Shape("CSS rules", style_rules, 5_000),
    Shape("tables", tables, 1_250),
    Shape("one table", one_table, 12_500),
    Shape("cards", cards, 5_000),
    Shape("components", components, 5_000),
    Shape("links beside", links_beside, 5_000),
    Shape("captions beside", captions_beside, 5_000),
    Shape("data attribute", data_in_an_attribute, 5_000),
    Shape("templates", templates, 5_000),
    Shape("sums of constants", sums, 5_000),
    Shape("again and again", again, 5_000),
    Shape("headings in headings", headings_in_headings, 5_000),
    Shape("things in things", things_in_things, 5_000),
    Shape("titles in titles", titles_in_titles, 5_000),
    Shape("one address", one_address, 5_000),
)


def parsed(octets: bytes) -> float:
    """Return the seconds that parsing takes."""
    text = decode(octets).text
    started = time.perf_counter()
    LexborHTMLParser(text)
    return time.perf_counter() - started


def looked(octets: bytes) -> tuple[float, int]:
    """Return the seconds that looking takes, and how many pictures it finds."""
    started = time.perf_counter()
    page = read_document(octets, source="", address="https://kites.example/")
    pictures = [resolve(image) for image in group(itemised(page, find(page).references), source="")]
    return time.perf_counter() - started, len(pictures)


def main() -> None:
    """Print a line a shape and size."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--only", default="")
    args = parser.parse_args()
    looked(b"<img src=k.jpg>")
    for shape in SHAPES:
        if args.only not in shape.name:
            continue
        before = 0.0
        for times in (1, 2, 4):
            octets = shape.make(int(shape.size * times * args.scale)).encode()
            floor = min(parsed(octets) for _ in range(3))
            seconds, found = min(looked(octets) for _ in range(2))
            growth = f", {seconds / before:.2f} times the half" if before else ""
            print(
                f"{shape.name:14} {len(octets) / 1e6:6.2f} MB: parse {floor:6.3f} s, look {seconds:7.3f} s "
                f"({seconds / floor:5.1f} times the floor), {found:,} pictures{growth}"
            )
            before = seconds


if __name__ == "__main__":
    main()
