"""A text, slides or a spreadsheet in OpenDocument (ODF 1.3, part 3), as a page: its pictures with their words."""

from collections.abc import Iterable, Iterator
from html import escape
from itertools import islice
from typing import TYPE_CHECKING
from urllib.parse import unquote

from pickcrate.read.data.xmltree import local_attribute, local_name, within, xml_root
from pickcrate.read.office.office import Load, picture, titled
from pickcrate.text.numerals import whole

if TYPE_CHECKING:
    from lxml import etree

_PART, _STYLES, _PROPERTIES = "content.xml", "styles.xml", "meta.xml"
_HREF = "{http://www.w3.org/1999/xlink}href"
_UNREAD = frozenset(("note", "annotation", "tracked-changes", "sequence-decls", "title", "desc", "forms"))
_BREAKS = frozenset(("s", "tab", "line-break"))
_PARTS = {"list": "ul", "list-item": "li", "table-row": "tr", "table-header-rows": "thead"}
_MOST_LOOKED_AT = 200
"""nodes of a box that may have a picture in them"""

_MOST_ALIKE = 100
"""cells that stand for many alike"""


def opendocument_page(load: Load) -> str | None:
    """Return a document as HTML, relative to the package; None if a package is none, or it shows no picture."""
    root = xml_root(load(_PART))
    if root is None:
        return None
    edges = list(_at_edges(xml_root(load(_STYLES))))
    if not edges and next(within(root, "image"), None) is None:
        return None
    return "".join((titled(_PROPERTIES, load), *_flow(root), *edges))


def _at_edges(styles: "etree._Element | None") -> Iterator[str]:
    """Yield what pages and slides have in common, where it shows a picture: headers, footers, frames (16.9)."""
    for master in within(styles, "master-page"):
        for part in master:
            if next(within(part, "image"), None) is not None:
                tag = "footer" if local_name(part).startswith("footer") else "header"
                yield f"<{tag}>{''.join(_flow([part]))}</{tag}>"


def _flow(elements: "Iterable[etree._Element]") -> Iterator[str]:
    """Yield the HTML of elements, or of what stands in one."""
    for child in elements:
        name = local_name(child)
        if name in _UNREAD or not isinstance(child.tag, str):
            continue
        match name:
            case "h":
                level = min(whole(local_attribute(child, "outline-level")) or 1, 6)
                yield from _wrapped(f"h{level}", child, inline=True)
            case "p":
                yield from _wrapped("p", child, inline=True)
            case "table":
                yield from _wrapped("table", child)
            case "table-cell" | "covered-table-cell":
                yield from _wrapped("td", child)
                alike = min(whole(local_attribute(child, "number-columns-repeated")) or 1, _MOST_ALIKE)
                yield "<td></td>" * (alike - 1)  # what they hold is told once
            case "list" | "list-item" | "table-row" | "table-header-rows":
                yield from _wrapped(_PARTS[name], child)
            case "page":
                yield from _wrapped("section", child)
            case "frame":
                yield from _frame(child)
            case _:
                yield from _flow(child)


def _wrapped(tag: str, element: "etree._Element", *, inline: bool = False) -> Iterator[str]:
    yield f"<{tag}>"
    yield from _inline(element) if inline else _flow(element)
    yield f"</{tag}>"


def _inline(element: "etree._Element") -> Iterator[str]:
    """Yield the HTML of what stands in a line: words, links and frames."""
    yield escape(element.text or "")
    for child in element:
        name = local_name(child)
        if name in _BREAKS:
            yield " "
        elif name == "frame":
            yield from _frame(child)
        elif name == "a" and (href := child.get(_HREF)):
            yield f'<a href="{escape(href)}">'
            yield from _inline(child)
            yield "</a>"
        elif name not in _UNREAD:
            yield from _inline(child)
        yield escape(child.tail or "")


def _frame(frame: "etree._Element") -> Iterator[str]:
    """Yield a frame: the title of a slide as a heading, a picture, or a picture with its caption in a box."""
    if local_attribute(frame, "class") == "title":
        yield from _wrapped("h2", frame)
        return
    alt = " ".join(text for name in ("title", "desc") for one in within(frame, name, deep=False) if (text := one.text))
    images = (one.get(_HREF) or "" for one in within(frame, "image", deep=False))
    yield from (picture(unquote(href.removeprefix("./")), alt) for href in images if href)
    for box in within(frame, "text-box", deep=False):
        is_pictured = any(local_name(one) == "image" for one in islice(box.iter(), _MOST_LOOKED_AT))
        tag = "figure" if is_pictured else "div"
        yield from _wrapped(tag, box)
