"""Documents, slides and workbooks as office programs save them, as a page: its pictures with the words around them.

Office Open XML (ECMA-376), part 1: 17 (WordprocessingML), 19 (PresentationML), 20 (DrawingML). What tells a picture's
name is kept, headings, paragraphs, tables and captions; how it looks is not.
"""

import ntpath
import posixpath
from collections.abc import Callable, Iterator
from html import escape
from itertools import chain, islice
from typing import TYPE_CHECKING
from urllib.parse import quote

from msgspec import Struct

from pickcrate.read.data.xmltree import local_attribute, local_name, within, xml_root
from pickcrate.text.lazyre import lazy

if TYPE_CHECKING:
    from lxml import etree

_MOST_SLIDES, _MOST_PARTS = 2_000, 200
RELATIONSHIP = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}"
PROPERTIES = "docProps/core.xml"
_STYLES = "word/styles.xml"
_UNREAD = frozenset(("del", "instrText", "delText", "footnoteReference", "Fallback", "rPr", "pPr", "sectPr", "tblPr"))
_SHAPES = frozenset(("sp", "pic", "graphicFrame"))
_DRAWN = frozenset(("docPr", "cNvPr", "blip", "imagedata", "txbxContent"))
"""of a drawing: what it is described by, its pictures, and the text in its boxes"""

_IS_FILE = lazy(r"(?:[A-Za-z]:[\\/]|\\\\|file:)[^\n]{1,1000}\.\w{2,5}\Z")
_ADDED = lazy(
    r"\s++(?:Description automatically generated(?: with [\w ]{1,20} confidence)?"
    r"|AI-generated content may be incorrect)\.?\s*+\Z"
)

_BREAKS = frozenset(("tab", "br", "cr", "noBreakHyphen"))

Load = Callable[[str], bytes]
"""returns the bytes of a part of a package; none where there is no such part"""


def main_part(load: Load) -> str:
    """Return which part of a package is the document itself (ECMA-376, part 2, 6.5.4); empty if none is."""
    return next(iter(targets_of("", load, "officeDocument").values()), "")


def office_page(load: Load) -> str | None:
    """Return a text or slides as HTML, relative to the package; None if a package holds neither."""
    part = main_part(load)
    root = xml_root(load(part)) if part else None
    if root is None:
        return None
    if local_name(root) == "document":
        words = _Text(targets_of(part, load), _styles(load)).flow(root)
        return "".join((titled(PROPERTIES, load), *words, *_at_edges(part, load)))
    if local_name(root) == "presentation":
        return "".join((titled(PROPERTIES, load), *_slides(root, part, load), *_behind_slides(part, load)))
    return None


def _parts(part: str, kind: str, load: Load) -> list[str]:
    """Return to which parts the relationships of one kind lead from a part (ECMA-376, part 1, annex A)."""
    return [*dict.fromkeys(targets_of(part, load, kind).values())][:_MOST_PARTS]


def targets_of(part: str, load: Load, kind: str = "") -> dict[str, str]:
    """Return where the relationships of a part lead, or those of one kind: to parts by their names, or to addresses.

    Those of the package as a whole are of the part without a name.
    """
    folder, name = posixpath.split(part)
    found: dict[str, str] = {}
    for element in within(xml_root(load(f"{folder}/_rels/{name}.rels".lstrip("/"))), "Relationship"):
        if kind and not (element.get("Type") or "").endswith(f"/{kind}"):
            continue
        target = element.get("Target") or ""
        if element.get("TargetMode") != "External":
            target = posixpath.normpath(posixpath.join("/", folder, target)).lstrip("/")
        found[element.get("Id") or ""] = target
    return found


def target_of(shown: "etree._Element", targets: dict[str, str]) -> str:
    """Return the part, or the address, that an element shows; empty if it says none."""
    named = (targets.get(shown.get(f"{RELATIONSHIP}{name}") or "", "") for name in ("embed", "link", "id"))
    return next(filter(None, named), "")


def titled(path: str, load: Load) -> str:
    """Return the title that a document's metadata in a part have, as an element; empty if they have none."""
    said = next((one.text or "" for one in within(xml_root(load(path)), "title")), "")
    return f"<title>{escape(said)}</title>" if said.strip() else ""


def picture(target: str, alt: str) -> str:
    """Return an ``img`` of a part of the package, or of an address."""
    src = target if "://" in target else quote(target)
    return f'<img src="{escape(src)}" alt="{escape(alt)}">'


def _styles(load: Load) -> dict[str, str]:
    """Return what the styles of a text are called, in English whatever its language is, by their identifiers."""
    names: dict[str, str] = {}
    for style in within(xml_root(load(_STYLES)), "style"):
        named = next(within(style, "name"), None)
        names[local_attribute(style, "styleId")] = local_attribute(named, "val").lower() if named is not None else ""
    return names


class _Text(Struct, frozen=True):
    """A text, or what stands on a slide: where its relationships lead, and the names of its styles."""

    targets: dict[str, str]
    styles: dict[str, str]

    def flow(self, element: "etree._Element") -> Iterator[str]:
        """Yield the HTML of what stands in an element: paragraphs and tables."""
        for child in _children(element):
            match local_name(child):
                case "p":
                    yield from self._paragraph(child)
                case "tbl":
                    yield f"<table>{''.join(map(self._row, within(child, 'tr', deep=False)))}</table>"
                case _:
                    yield from self.flow(child)

    def _row(self, row: "etree._Element") -> str:
        cells = ("".join(self.flow(cell)) for cell in within(row, "tc", deep=False))
        return f"<tr>{''.join(f'<td>{cell}</td>' for cell in cells)}</tr>"

    def _paragraph(self, paragraph: "etree._Element") -> Iterator[str]:
        properties = next(within(paragraph, "pPr", deep=False), None)
        style = next(within(properties, "pStyle", deep=False), None)
        name = self.styles.get(local_attribute(style, "val"), "") if style is not None else ""
        words = "".join(self._inline(paragraph))
        level = name.removeprefix("heading ")
        if name == "title" or (level != name and level.isdecimal()):
            tag = f"h{1 if name == 'title' else min(int(level), 6)}"
            yield f"<{tag}>{words}</{tag}>"
        else:
            yield f"<p{' class=caption' if name == 'caption' else ''}>{words}</p>"

    def _inline(self, element: "etree._Element") -> Iterator[str]:
        """Yield the HTML of what stands in a line: words, links, pictures, and the text in boxes."""
        for child in _children(element):
            name = local_name(child)
            if name == "t":
                yield escape(child.text or "")
            elif name in _BREAKS:
                yield " "
            elif name == "hyperlink" and (target := self.targets.get(child.get(f"{RELATIONSHIP}id") or "", "")):
                yield f'<a href="{escape(target)}">'
                yield from self._inline(child)
                yield "</a>"
            elif name in {"drawing", "pict", "object"}:
                yield from self.shown(child)
            else:
                yield from self._inline(child)

    def shown(self, drawing: "etree._Element") -> Iterator[str]:
        """Yield the pictures of a drawing, with what it is described by, and the text in its boxes."""
        alt = ""
        for one in _outermost(drawing, _DRAWN):
            name = local_name(one)
            if name in {"docPr", "cNvPr"}:
                alt = alt or _described(one)
            elif name == "txbxContent":
                yield from self.flow(one)
            elif target := target_of(one, self.targets):
                yield picture(target, alt)


def _described(properties: "etree._Element") -> str:
    """Return what a drawing is described by, without what programs add; of the path of a file, the name."""
    said = _ADDED.sub("", properties.get("descr") or properties.get("title") or "")
    return ntpath.splitext(ntpath.basename(said))[0] if _IS_FILE.match(said) else said


def _at_edges(part: str, load: Load) -> Iterator[str]:
    """Yield the headers and footers of a text, which its pages have in common (17.10)."""
    for kind in ("header", "footer"):
        for path in _parts(part, kind, load):
            root = xml_root(load(path))
            if root is not None:
                yield f"<{kind}>{''.join(_Text(targets_of(path, load), {}).flow(root))}</{kind}>"


def _behind_slides(part: str, load: Load) -> Iterator[str]:
    """Yield the pictures that slides have in common: those of their masters and layouts (19.3.1.42, 19.3.1.39)."""
    masters = _parts(part, "slideMaster", load)
    layouts = (layout for master in masters for layout in _parts(master, "slideLayout", load))
    for path in islice(chain(masters, layouts), _MOST_PARTS):
        root = xml_root(load(path))
        if root is not None:
            yield f"<header>{''.join(_Text(targets_of(path, load), {}).shown(root))}</header>"


def _slides(root: "etree._Element", part: str, load: Load) -> Iterator[str]:
    """Yield the slides of a presentation in their order, each as a section with its title as a heading."""
    leads = targets_of(part, load)
    named = [slide.get(f"{RELATIONSHIP}id") or "" for slide in within(root, "sldId")][:_MOST_SLIDES]
    for path in dict.fromkeys(leads[name] for name in named if name in leads):
        slide = xml_root(load(path))
        if slide is not None:
            yield f"<section>{''.join(_on_slide(slide, _Text(targets_of(path, load), {})))}</section>"


def _on_slide(slide: "etree._Element", text: _Text) -> Iterator[str]:
    """Yield what stands on a slide: its title before all else."""
    shapes = list(_outermost(slide, _SHAPES))
    for shape in sorted(shapes, key=lambda shape: not _is_title(shape)):
        if local_name(shape) == "sp" and _is_title(shape):
            yield f"<h2>{escape(' '.join(one.text or '' for one in within(shape, 't')))}</h2>"
            continue
        yield from text.shown(shape)
        if local_name(shape) != "pic":
            yield from text.flow(shape)


def _is_title(shape: "etree._Element") -> bool:
    return any((place.get("type") or "") in {"title", "ctrTitle"} for place in within(shape, "ph"))


def _children(element: "etree._Element") -> Iterator["etree._Element"]:
    return (child for child in element if isinstance(child.tag, str) and local_name(child) not in _UNREAD)


def _outermost(element: "etree._Element", names: frozenset[str]) -> Iterator["etree._Element"]:
    """Yield the elements of some names in an element that are in no other such."""
    waiting = [element]
    while waiting:
        one = waiting.pop()
        if local_name(one) in names:
            yield one
        else:
            waiting.extend(reversed([*_children(one)]))
