"""The words of a part of a page, line by line as a person sees them, each with what it looks like.

A line ends where a block begins or ends, or at a ``br`` (HTML standard, 15.3.3: what is laid out as a block).
"""

from collections.abc import Callable, Iterable
from itertools import takewhile

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.finders.images import PICTURED
from pickcrate.finders.place import HEADINGS, not_displayed
from pickcrate.finders.words import INLINE, UNREAD, is_aside
from pickcrate.items.junk import ClassKind, class_kind, is_price
from pickcrate.lazyre import lazy
from pickcrate.numerals import whole
from pickcrate.values import LONGEST_WORDS, fold

_MOST_NODES = 1_500
_MOST_LINES = 60
_LONGEST_LINE = 2 * LONGEST_WORDS
_CONTROLS = frozenset(("button", "label", "input"))
_CAPTIONS = frozenset(("figcaption", "caption", "summary", "legend"))
_UNREAD = UNREAD | {"option", "select", "textarea", "nav"}
_PHRASES = frozenset(("code", "kbd", "samp", "var", "tt", "abbr", "cite", "q", "sub", "sup"))
"""elements that hold a part of a sentence, whatever that is made of"""

_PLAIN_INLINE = frozenset(("b", "strong", "i", "em", "span", "u", "code", "kbd"))
_NAMED_SIGN = lazy(r"\([^()]{1,40}\)\s*[,.;a-zà-ÿ]")
"""behind a sign that is called something: ``press <img> (Run) to run it``"""
_SIGNS = frozenset(("img", "svg"))
_GOING_ON = frozenset(",;.)")
_LED_TO = frozenset(",(:")
_MOST_AROUND_SIGN = 3
_MOST_BLANK = 20
_LARGEST_SIGN = 64
"""Pixels of a side of a picture that stands in a line of text"""
_LEVELS = {tag: level for level, tag in enumerate(HEADINGS, 1)}
_STATED_LEVELS = {str(level): level for level in range(1, 7)}

# What a text looks like by the elements around it, as bits: a page has very many texts.
_BOLD, _CONTROL, _TIME, _CAPTION, _TITLED, _TERM, _SIDE, _STUCK = (1 << bit for bit in range(8))
_OF_CLASS = {ClassKind.TITLE: _TITLED, ClassKind.CAPTION: _CAPTION, ClassKind.SIDE: _SIDE}
_OF_TAG = {
    "b": _BOLD,
    "strong": _BOLD,
    "time": _TIME,
    "dt": _TERM,
    **dict.fromkeys(_CONTROLS, _CONTROL),
    **dict.fromkeys(_CAPTIONS, _CAPTION),
}

_Look = tuple[int, int, str]
"""the level of the heading around a text, 0 for none; what else it looks like, in bits; where it leads to"""
_PLAIN: _Look = (0, 0, "")


class Line(Struct):
    """One line: its text, and what a person sees it by."""

    text: str
    level: int
    """of the heading that it stands in, 1 to 6; 0 for none"""
    bold: str
    """the bold words that it begins with"""
    linked: str
    """the words of the one link in it, if there are others"""
    besides: str
    """those others"""
    link: str
    """where its first words lead to"""
    is_linked: bool
    """all of it is a link"""
    _first: int
    _all: int
    _any: int

    @property
    def is_control(self) -> bool:
        """Whether it stands on a button, or beside a box to fill in."""
        return bool(self._first & _CONTROL)

    @property
    def is_time(self) -> bool:
        """Whether it is marked up as a date or a time."""
        return bool(self._first & _TIME)

    @property
    def is_caption(self) -> bool:
        """Whether it is a caption's."""
        return bool(self._first & _CAPTION)

    @property
    def is_titled(self) -> bool:
        """Whether its class says that it is a title or a name."""
        return bool(self._any & _TITLED)

    @property
    def is_term(self) -> bool:
        """Whether it is a term of a list of terms, and what follows is about it."""
        return bool(self._first & _TERM)

    @property
    def is_side(self) -> bool:
        """Whether its class says that it is beside the matter: who, when, how much."""
        return bool(self._all & _SIDE)


class _Reader:
    """Lines on their way: the pieces of the one that is not at its end."""

    def __init__(self) -> None:
        self.lines: list[Line] = []
        self.pieces: list[tuple[str, _Look]] = []
        self.length = 0

    def add(self, text: str, look: _Look) -> None:
        """Add a text to the line."""
        if self.length < _LONGEST_LINE:
            self.pieces.append((text[:_LONGEST_LINE], look))
            self.length += len(text)

    def end_line(self) -> None:
        """Make a line of the pieces so far, if they say anything."""
        if not self.pieces:
            return
        pieces, self.pieces, self.length = self.pieces, [], 0
        text = fold("".join([text for text, _ in pieces]) if len(pieces) > 1 else pieces[0][0])
        if not text:
            return
        looks = [look for piece, look in pieces if not piece.isspace()]
        first = looks[0][1]
        every = some = first
        for _, bits, _ in looks[1:]:
            every &= bits
            some |= bits
        level = min((level for level, _, _ in looks if level), default=0)
        beside = _SIDE | _STUCK if level or every & _TITLED else 0
        if stuck := some & beside & ~every:  # a badge on a heading is none of its words
            pieces = [piece for piece in pieces if not piece[1][1] & stuck]
            looks = [look for piece, look in pieces if not piece.isspace()]
            text = fold("".join([piece for piece, _ in pieces]))
        link = next((link for _, _, link in looks if link), "")
        is_linked = bool(link) and all(link for _, _, link in looks)
        bold = _leading(pieces, lambda look: bool(look[1] & _BOLD)) if first & _BOLD else ""
        linked = besides = ""
        if link and not is_linked:
            linked = fold("".join([piece for piece, look in pieces if look[2] == link]))
            besides = fold(" ".join([piece for piece, look in pieces if look[2] != link]))
        self.lines.append(Line(text, level, bold, linked, besides, link, is_linked, first, every, some))


def _leading(pieces: list[tuple[str, _Look]], looks_so: Callable[[_Look], bool]) -> str:
    """Return the words that a line begins with, as far as they look so."""
    return fold("".join([piece for piece, _ in takewhile(lambda part: part[0].isspace() or looks_so(part[1]), pieces)]))


def lines_of(roots: Iterable[LexborNode], outer_link: str = "") -> tuple[list[Line], int]:
    """Return the lines of some elements and texts that follow one another, and how many nodes were looked at.

    ``outer_link`` is where a link around them leads. There are _MOST_LINES lines, of _MOST_NODES nodes, at most.
    """
    reader = _Reader()
    start: _Look = (0, 0, outer_link) if outer_link else _PLAIN
    waiting: list[tuple[LexborNode | None, _Look]] = [(root, start) for root in reversed(list(roots))]
    seen = 0
    while waiting and seen < _MOST_NODES and len(reader.lines) < _MOST_LINES:
        seen += 1
        node, look = waiting.pop()
        if node is None:
            reader.end_line()
        elif node.is_text_node:
            reader.add(node.text_content or "", look)
        elif node.is_element_node:
            _enter(node, look, waiting, reader)
    reader.end_line()
    return reader.lines, seen


def _enter(node: LexborNode, look: _Look, waiting: list[tuple[LexborNode | None, _Look]], reader: _Reader) -> None:
    tag = node.tag or ""
    if tag in {"br", "hr"}:
        if tag == "br" and (look[0] or look[1] & _TITLED):  # a heading in two lines is one
            reader.add(" ", look)
        else:
            reader.end_line()
        return
    child = node.last_child
    if tag in _UNREAD or (child is None and tag in INLINE) or is_aside(node):
        return
    if tag == "pre" and node.css_first(PICTURED) is None:  # code, and what it printed
        return
    attributes = node.attributes
    kind = class_kind(attributes.get("class") or "") if attributes else None
    if attributes and (kind is ClassKind.HIDDEN or not_displayed(attributes)):
        return
    if is_in_sentence(node):
        return
    if tag not in INLINE:
        reader.end_line()
        waiting.append((None, look))
    elif reader.pieces and _stands_apart(node, tag, attributes) and not (look[0] or look[1] & _TITLED):
        reader.end_line()
    inner = _inside(tag, attributes, kind, look)
    if (look[0] or look[1] & _TITLED) and _is_beside(node, tag):
        inner = inner[0], inner[1] | _STUCK, inner[2]
    if tag == "label" and node.css_first(PICTURED) is not None:  # what is chosen, and not how
        inner = look
    # Last first: they are taken from the end.
    while child is not None:
        waiting.append((child, inner))
        child = child.prev


def is_in_sentence(picture: LexborNode) -> bool:
    """Tell whether a picture is a sign in the midst of a sentence: words stand before it, and go on behind it."""
    if picture.tag not in _SIGNS:
        return False
    attributes = picture.attributes
    if any((whole(attributes.get(side) or "") or 0) > _LARGEST_SIGN for side in ("width", "height")):
        return False
    after = _text_beside(picture, lambda node: node.next)
    if not (after[:1].islower() or after[:1] in _GOING_ON or _NAMED_SIGN.match(after)):
        return False
    before = _text_beside(picture, lambda node: node.prev)[-1:]
    return before.isalnum() or before in _LED_TO


def _text_beside(node: LexborNode, step: Callable[[LexborNode], LexborNode | None]) -> str:
    """Return the text right beside an element or an inline one around it; blank if there is none."""
    inner: LexborNode | None = node
    for _ in range(_MOST_AROUND_SIGN):
        beside = step(inner) if inner is not None else None
        for _ in range(_MOST_BLANK):
            if beside is None:
                break
            if beside.is_element_node and beside.tag not in _PLAIN_INLINE:
                return ""
            if text := (beside.text_content or "").strip():
                return text
            beside = step(beside)
        inner = inner.parent if inner is not None else None
        if inner is None or inner.tag not in INLINE:
            break
    return ""


def _is_beside(node: LexborNode, tag: str) -> bool:
    """Tell whether a part of a heading is none of the name: small print (HTML standard, 4.5.4), a price, a time."""
    if tag in {"small", "time"}:
        return True
    child = node.first_child
    return tag in INLINE and child is not None and child.is_text_node and is_price(child.text_content or "")


def _stands_apart(node: LexborNode, tag: str, attributes: dict[str, str | None]) -> bool:
    """Tell whether an inline element is laid out apart from the one before it, as parts of a card are: one has a class.

    A link and what is not one are parts as well.
    """
    if node.parent is not None and node.parent.tag in _PHRASES:
        return False
    before = node.prev
    while before is not None and before.is_text_node and not (before.text_content or "").strip():
        before = before.prev
    if before is None or not before.is_element_node or before.tag not in INLINE:
        return False
    both = ((tag, attributes), (before.tag, before.attributes))
    child = node.first_child
    if child is not None and child.is_text_node and is_price(child.text_content or ""):
        return True
    return any("class" in known or name in {"a", "time"} for name, known in both)


def _inside(tag: str, attributes: dict[str, str | None], kind: ClassKind | None, look: _Look) -> _Look:
    """Return what the words inside an element look like."""
    level = _LEVELS.get(tag, 0)
    bits = _OF_TAG.get(tag, 0)
    link = ""
    if attributes:
        bits |= _OF_CLASS.get(kind, 0) if kind is not None else 0
        role = attributes.get("role")
        if role == "heading":
            level = _STATED_LEVELS.get((attributes.get("aria-level") or "2").strip(), 2)
        elif role == "button":
            bits |= _CONTROL
        if "bold" in (attributes.get("style") or ""):
            bits |= _BOLD
        link = (attributes.get("href") or "") if tag == "a" else ""
    if not (level or bits or link):
        return look
    return level or look[0], bits | look[1], link or look[2]
