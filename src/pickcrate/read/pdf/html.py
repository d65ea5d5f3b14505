"""A tagged PDF as HTML: what its structure says is a heading, a figure with its caption, a table, a list.

ISO 32000-2, 14.8.4 (standard structure types). What has no place in the structure dresses the page (14.8.2.2.2): of
that, pictures are kept and words are not, as they are the heads and feet of sheets.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from html import escape
from itertools import groupby
from operator import itemgetter

from pickcrate.read.pdf.page import Box, Leaf, Part, Piece

_TAGS = {
    **{f"H{level}": f"h{level}" for level in range(1, 7)},
    "Title": "h1",
    "H": "h2",
    "P": "p",
    "BlockQuote": "blockquote",
    "L": "ul",
    "LI": "li",
    "Table": "table",
    "THead": "thead",
    "TBody": "tbody",
    "TFoot": "tfoot",
    "TR": "tr",
    "TH": "th",
    "TD": "td",
    "Caption": "figcaption",
    "Document": "div",
    "Part": "div",
    "Art": "article",
    "Sect": "section",
    "Div": "div",
    "Aside": "aside",
}
_GROUPS = {"NonStruct": "div", "LBody": "div", "Figure": "figure"}
"""elements that are blocks if they hold others; alone they are words, or a picture"""

_TABLE, _CAPTION = "Table", "Caption"
_CELLS = frozenset(("TH", "TD"))
_FARTHEST, _BEFORE = 72.0, 3
"""in points: how far from a picture words stand that are beside it; and how many times as far what is before it is"""

_MOST_PLACED, _MOST_BESIDE = 200, 2_000
"""pictures, and runs of words, of a page that are held against each other"""

_MOST_MARKS = 1_000_000
"""pieces of marked content on one page"""

_CSS_PIXELS = 96 / 72
"""to a point (CSS Values and Units 4, 6.2)"""


def html_of(leaves: Iterable[Leaf]) -> str:
    """Return the HTML of pages that have a structure, which is one for all of them."""
    tops: dict[int, Part | int] = {}
    marked: dict[int, list[Piece]] = {}
    for number, leaf in enumerate(leaves):
        words = [piece for piece in leaf.pieces if piece.mark >= 0 and piece.text]
        for place, piece in enumerate(leaf.pieces):
            mark = _mark_of(piece, words if place < _MOST_PLACED else ())
            marked.setdefault(_of_page(mark, number), []).append(piece)
        _add(tops, leaf.parts, number)
    placed = set(_marks_in(tops))
    unplaced = (piece for mark, pieces in marked.items() if mark not in placed for piece in pieces if piece.picture)
    return "".join((*(f"<div>{picture(piece)}</div>" for piece in unplaced), *_all(tops, marked, Part("", held=tops))))


def _of_page(mark: int, number: int) -> int:
    """Return what tells marked content from that of other pages (ISO 32000-2, 14.7.5.2: it is numbered on each)."""
    return number * _MOST_MARKS + min(mark, _MOST_MARKS - 2) if mark >= 0 else -1


def _add(known: dict[int, Part | int], more: Mapping[int, Part | int], number: int) -> None:
    """Add the elements that have content on a page to what others have of the same structure."""
    for place, held in more.items():
        there = known.get(place)
        if not isinstance(held, Part):
            known.setdefault(place, _of_page(held, number))
            continue
        if not isinstance(there, Part):
            known[place] = there = Part(held.kind, held.alt, held.spans)
        _add(there.held, held.held, number)


def _marks_in(parts: Mapping[int, Part | int]) -> Iterator[int]:
    for held in parts.values():
        if isinstance(held, Part):
            yield from _marks_in(held.held)
        else:
            yield held


def _mark_of(piece: Piece, words: Sequence[Piece]) -> int:
    """Return the marked content that a piece is part of; of a picture that is part of none, what stands beside it.

    Pictures without alternative text are part of none as browsers print them.
    """
    if piece.mark >= 0 or not piece.picture or not words:
        return piece.mark
    near = [other for other in words[:_MOST_BESIDE] if _gap(piece.box, other.box) <= _FARTHEST]
    alike = [other for other in near if piece.link and other.link == piece.link]
    return min(alike or near, key=lambda other: _gap(piece.box, other.box)).mark if near else -1


def _gap(shown: Box, words: Box) -> float:
    """Return how far words are from a picture; those to its left are more likely another's, those above it always."""
    if words.bottom >= shown.top:
        return float("inf")
    return shown.apart_from(words) * (_BEFORE if words.right <= shown.left else 1)


def picture(piece: Piece, alt: str = "") -> str:
    """Return a picture as HTML, as large as it is on the page, with what it leads to."""
    width, height = (max(1, round(side * _CSS_PIXELS)) for side in (piece.box.width, piece.box.height))
    said = f' alt="{escape(alt)}"' if alt else ""
    return linked(f'<img src="{escape(piece.picture)}" width={width} height={height}{said}>', piece.link)


def linked(html: str, link: str) -> str:
    """Return HTML as what leads to an address, if there is one."""
    return f'<a href="{escape(link)}">{html}</a>' if link else html


def _all(parts: Mapping[int, Part | int], marked: dict[int, list[Piece]], around: Part) -> Iterator[str]:
    """Yield the HTML of what an element of the structure holds, which takes its content out of ``marked``.

    The head of a table stands on each page that the table is on, and is said once.
    """
    known = set[str]()
    for _, held in sorted(parts.items(), key=itemgetter(0)):
        if isinstance(held, Part):
            yield from _part(held, marked, around)
            continue
        pieces = marked.pop(held, [])
        words = "".join(piece.text for piece in pieces).strip()
        if not words or words not in known:
            yield from _content(pieces, around.alt)
        known.add(words)


def _part(part: Part, marked: dict[int, list[Piece]], around: Part) -> Iterator[str]:
    tag = _tag_of(part, around.kind)
    spans = zip(("rowspan", "colspan"), part.spans, strict=True) if part.kind in _CELLS else ()
    yield f"<{tag}{''.join(f' {name}={span}' for name, span in spans if span > 1)}>" if tag else ""
    yield from _all(part.held, marked, part)
    yield f"</{tag}>" if tag else ""


def _tag_of(part: Part, around: str) -> str:
    """Return which element of HTML an element of the structure is; empty if it is none, or within a line."""
    if part.kind == _CAPTION and around == _TABLE:
        return "caption"
    if part.kind in _GROUPS and any(isinstance(held, Part) for held in part.held.values()):
        return _GROUPS[part.kind]
    return _TAGS.get(part.kind, "")


def _content(pieces: list[Piece], alt: str) -> Iterator[str]:
    for (link, is_bold, is_picture), alike in groupby(pieces, key=_kind_of):
        if is_picture:
            yield from (picture(piece, alt) for piece in alike)
        else:
            said = escape("".join(piece.text for piece in alike))
            yield linked(f"<b>{said}</b>" if is_bold else said, link)


def _kind_of(piece: Piece) -> tuple[str, bool, bool]:
    return piece.link, piece.is_bold, bool(piece.picture)
