"""A few thousand inputs of the fuzzer, always the same; and what it, or somebody, found once, each by its kind."""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

import fuzz
from conftest import HANGS
from pickcrate.addresses.url import bare_stem
from pickcrate.finders.region import elements_of
from pickcrate.read.data.feed import read_xml_feed
from pickcrate.read.fields.digests import mismatch
from pickcrate.read.fields.disposition import served_name
from pickcrate.read.lists.cells import addresses_in_cell
from pickcrate.read.pages.bounds import MOST_ATTRIBUTES, within_bounds
from pickcrate.read.pages.document import read_document
from pickcrate.values.page import Page
from pickcrate.values.wanted import Region

SITE = Path(fuzz.__file__).parent.parent / "src" / "pickcrate" / "demo" / "site"


def test_no_input_raises_or_takes_long() -> None:
    assert [(trouble.target, trouble.what) for trouble in fuzz.fuzz(3_000, 20261126, [SITE])] == []


def test_the_whole_program_meets_the_worst() -> None:
    tool = Path(fuzz.__file__).with_name("whole.py")
    done = subprocess.run(
        [sys.executable, tool, "3", "--seed", "5"], capture_output=True, check=False, text=True, timeout=HANGS
    )
    assert (done.returncode, done.stdout) == (0, "36 commands, 0 kinds of trouble\n"), done


def page(markup: str) -> Page:
    return read_document(markup.encode(), source="x", address=fuzz.HOME)


def look(markup: str) -> Callable[[], object]:
    return lambda: fuzz.TARGETS["page"](f"<!doctype html>{markup}".encode())


def under(markup: str) -> Callable[[], object]:
    return lambda: elements_of(page(markup), Region(under=("kite",)))


FOR_EVER = 20.0
"""Seconds of a processor. It is no timing: each takes a second or two, and took minutes."""

DIGITS = "9" * 5000
ROOMS = "".join(f"<h2>Room {n}</h2><div><p>words</p><ul><li><img src={n}.png></ul></div>" for n in range(5000))
# Each took minutes, hours or gigabytes, or ended the run, before its kind was closed off.
ONCE_SLOW: dict[str, Callable[[], object]] = {
    "comments in a declaration": look("<style>p{" + "/**/" * 40 + "url(x)}</style><p>"),
    "extensions in a literal": look("<script>x='" + "a.jpg" * 390 + "|'</script>"),
    "escaped quotes": look("<script>x=" + '\\"' * 100_000 + " a.jpg</script>"),
    "a name of repeated names": look("<p " + "data-" * 40_000 + "> a.jpg"),
    "separators in a cell": lambda: addresses_in_cell(", " * 500_000 + "x"),
    "size marks": lambda: bare_stem("https://k.example/a" + "-s" * 100_000 + ".jpg"),
    "a table of pictures": look("<table>" + "<tr><td><img src=a.png>" * 5_000),
    "a figure of pictures": look("<figure>" + "<img src=a.png>" * 5_000),
    "sheets that hide": look("<style>.a{display:none}</style>" * 500 + "<p class=a>x</p>" * 500),
    "nested nesting selectors": look("<style>" + "& &{" * 25 + "background:url(a.png)" + "}" * 25 + "</style><p>x"),
    "a selector of selectors": look("<style>" + "p," * 50_000 + "b{background:url(a.png)}</style>" + "<p>x" * 500),
    "an item of media": lambda: read_xml_feed(b"<rss><item>" + b"<thumbnail url='a.jpg'/>" * 10_000 + b"</item></rss>", fuzz.HOME),
    "a digest of one name": lambda: mismatch({"digest": "a" * 90_000}, lambda _: b""),
    "metadata": look("<meta property=og:image content=/x.png>" * 5_000),
    "a heading among many": under(ROOMS + "<h2>kite</h2><img src=a.png>"),
    "landmarks in landmarks": look("<header>" * 4_500 + "<a href=b.html>wing</a>" * 20_000),
    "forms in forms": look("<video></form><form>" * 2_000 + "<p><b>x</b>" * 20_000),
    "labels in labels": look("<figure><img src=a.png><ul><li><b class=value>x</b>" * 1_200 + "<b class=value>x</b>" * 20_000),
    "a heading far down": under("<div>" * 3_000 + "<h2>kite</h2>" + ROOMS),
    "attributes with signs in them": look("<p " + " ".join(f'a{n}="<>"' for n in range(100_000)) + ">"),
    "digits in a sheet": look(f"<style>p{{background:image-set(url(a.png) {DIGITS}x)}}</style><p>"),
    "digits in a srcset": look(f"<img src=a.png srcset='b.png {DIGITS}w, c.png {DIGITS}x'><link rel=icon href=i.png sizes={DIGITS}x1>"),
    "digits in a level": under(f"<p role=heading aria-level={DIGITS}>kite</p><img src=a.png>"),
    "digits in a reference": look(f"<script>x='&#{DIGITS};/a.jpg;'</script>"),
    "an encoded word that is none": lambda: served_name('attachment; filename="=?utf-8?b?A?="'),
    "parts in parts": lambda: fuzz.TARGETS["recognise"](b"Content-Type: multipart/mixed; boundary=b\n\n--b\n" * 3_000),
}  # fmt: skip


@pytest.mark.parametrize("name", ONCE_SLOW)
def test_what_was_slow_once(name: str) -> None:
    assert fuzz.least_seconds(ONCE_SLOW[name], FOR_EVER) < FOR_EVER


def test_attributes_are_counted_and_not_their_spaces() -> None:
    fine = f"<p title='{' ' * 30_000}'><img src=a.png>"
    assert within_bounds(fine) == (fine, None)
    many = "<b>x</b>" * 3_000 + "<p " + " ".join(f"a{n}='>'" for n in range(MOST_ATTRIBUTES + 1)) + ">"
    assert within_bounds(many)[0] == "<b>x</b>" * 3_000
