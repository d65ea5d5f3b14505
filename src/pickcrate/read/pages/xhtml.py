"""XHTML as HTML: the same elements, for a parser of HTML (HTML standard, 14: the XML syntax; XML 1.0, 2.4 to 3.1).

What is no XML in it stays as it is: a page is to be read as far as it can be.
"""

import re
from collections.abc import Mapping

from pickcrate.addresses.url import file_parts
from pickcrate.media import essence
from pickcrate.text.lazyre import lazy

_XHTML = "http://www.w3.org/1999/xhtml"
_HEAD = 2_000
"""characters in which a page says what it is"""

_XML_TYPES = frozenset(("application/xml", "text/xml"))
_XML_EXTENSIONS = frozenset(("xhtml", "xht"))

# XML has no < in a tag (3.1), so what is not closed ends at the next one.
_TOKEN = lazy(
    r"<!--.*?(?:-->|\Z)|<!\[CDATA\[(?P<cdata>.*?)(?:\]\]>|\Z)|(?P<instruction><\?.*?(?:\?>|\Z))"
    r"|(?P<doctype><!DOCTYPE[^>\[]*+(?:\[.*?(?:\]\s*+>|\Z)|>))"
    r"|<(?P<end>/?)(?:(?P<prefix>[\w.-]++):)?(?P<name>[\w.-]++)"
    r"(?P<rest>(?:[^<>\"'/]++|\"[^\"<]*+\"|'[^'<]*+'|/(?!>))*+)(?P<empty>/?)>",
    re.DOTALL,
)
_PREFIX = lazy(r"xmlns:([\w.-]++)\s*+=\s*+[\"']http://www\.w3\.org/(?:1999/xhtml|2000/svg|1998/Math/MathML)[\"']")
_REFERENCE = lazy(r"&(?:\w{1,32}|#\d{1,7}|#x[0-9A-Fa-f]{1,6});")
"""in XML each has its semicolon (4.1): what has none is an address's"""

_VOID = frozenset("area base br col embed hr img input link meta param source track wbr".split())
"""elements that have no end tag in HTML (13.1.2)"""

_RAW = frozenset(("script", "style"))
"""elements in whose text HTML has no references (13.1.2.1)"""


def is_xhtml(text: str, fields: Mapping[str, str], address: str) -> bool:
    """Tell whether a page is XML: by what its server calls it, else by its name, or by how it begins.

    A server's ``text/html`` is HTML whatever it begins with, as in a browser.
    """
    if stated := essence(fields.get("content-type", "")):
        return stated.endswith("+xml") or stated in _XML_TYPES
    if file_parts(address)[1].lower() in _XML_EXTENSIONS:
        return True
    head = text[:_HEAD]
    return head.lstrip().startswith("<?xml") and _XHTML in head


def as_html(text: str) -> str:
    """Return a page of XML as HTML."""
    prefixes = frozenset(_PREFIX.findall(text))
    pieces: list[str] = []
    start, raw = 0, ""
    for token in _TOKEN.finditer(text):
        said = text[start : token.start()]
        pieces.append(_unescaped(said) if raw else said)
        start = token.end()
        cdata, name = token["cdata"], token["name"]
        if cdata is not None:
            pieces.append(_unended(cdata) if raw else cdata.replace("&", "&amp;").replace("<", "&lt;"))
        elif token["doctype"]:
            pieces.append("<!DOCTYPE html>")
        elif name is None:
            pieces.append("" if token["instruction"] else token[0])
        else:
            name = name if token["prefix"] is None or token["prefix"] in prefixes else f"{token['prefix']}:{name}"
            pieces.append(_tag(name, token["rest"], is_end=bool(token["end"]), is_empty=bool(token["empty"])))
            opens = name in _RAW and not token["empty"]
            raw = name if opens and not token["end"] else "" if name == raw else raw
    pieces.append(text[start:])
    return "".join(pieces)


def _tag(name: str, rest: str, *, is_end: bool, is_empty: bool) -> str:
    if name in _VOID:
        return "" if is_end else f"<{name}{rest}>"
    if is_end:
        return f"</{name}>"
    return f"<{name}{rest}></{name}>" if is_empty else f"<{name}{rest}>"


def _unescaped(text: str) -> str:
    if "&" not in text:
        return text
    from html import unescape  # noqa: PLC0415 (its table takes a millisecond, and few pages are XML)

    return _unended(_REFERENCE.sub(lambda reference: unescape(reference[0]), text))


def _unended(text: str) -> str:
    """Return the text of a script that ends none: a slash may be escaped in what a script quotes."""
    return text.replace("</", "<\\/")
