"""Texts that name pictures and are no page: notes, style sheets, scripts, chats, logs. Read as a page."""

import json
from html import escape

from pickcrate.read.data import datafile
from pickcrate.read.lists.addresslist import addresses_among, without_addresses, words_beside
from pickcrate.read.pages.decode import decode
from pickcrate.read.recognise import is_markdown
from pickcrate.read.texts.labelled import labelled
from pickcrate.read.texts.lightweight import from_lightweight
from pickcrate.read.texts.markdown import from_markdown
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import fold

TEXT_FIELDS = {"content-type": "text/html; charset=utf-8"}

_OF_CODE = frozenset(";{}=(,")
"""signs of which a line of a script has one, beside the addresses in it"""

_OF_STYLE = lazy(r"[{;][^{};:]{0,200}:[^{};]{0,500}(?<![\w-])url\(")


def as_page(octets: bytes) -> bytes:
    """Return a text as a page that shows the pictures that it names."""
    text = decode(octets).text
    if is_markdown(octets):
        page = from_markdown(text.replace("\r\n", "\n"))
    elif html := from_lightweight(text.replace("\r\n", "\n")):
        page = html
    elif _OF_STYLE.search(text) is not None:  # declarations are read without asking what they are for
        page = f'<div style="{escape(text)}"></div>'
    elif records := labelled(text):
        return datafile.as_page(json.dumps(records).encode())
    else:
        page = _with_links(text) + "<script>" + _as_script(text).replace("</", "<\\/") + "</script>"
    return f"<!doctype html>{page}".encode("utf-8", "replace")


def _with_links(text: str) -> str:
    """Return the addresses in a text as links, each line's with what is said in it besides, or in the line above it."""
    lines = text.splitlines()
    pairs = zip(["", *lines], lines, strict=False)
    return "".join(_linked(line, above) for above, line in pairs if "://" in line)


def _linked(line: str, above: str) -> str:
    said = words_beside(line) or ("" if "://" in above else fold(above))
    words = escape(said)  # cut: a text of one line may have very many addresses
    return "".join(f'<p><a href="{escape(address)}">{words}</a>' for address in addresses_among(line))


def _as_script(text: str) -> str:
    """Return a text without the lines of words around an address: what is in quotes there may be any name."""
    return "\n".join(line for line in text.splitlines() if "://" not in line or not _is_of_words(line))


def _is_of_words(line: str) -> bool:
    return _OF_CODE.isdisjoint(without_addresses(line))
