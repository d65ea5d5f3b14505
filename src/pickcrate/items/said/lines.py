"""The words of a part of a page, line by line as a person sees them, each with what it looks like.

A line ends where a block begins or ends, or at a ``br`` (HTML standard, 15.3.3: what is laid out as a block).
"""

from collections.abc import Iterable, Iterator
from itertools import takewhile
from typing import NamedTuple

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.elements.words import INLINE, UNREAD, is_aside
from pickcrate.finders.alone import PICTURED
from pickcrate.finders.place import HEADINGS, not_displayed
from pickcrate.items.said.junk import ClassKind, class_kind, inventory_of, is_price
from pickcrate.items.said.sentences import is_in_sentence
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import LONGEST_WORDS, fold

_MOST_NODES = 1_500
_MOST_LINES = 60
_DIGITS_OF_YEAR = 4
_LONGEST_MAKER = 60
_LONGEST_LINE = 2 * LONGEST_WORDS
_CONTROLS = frozenset(("button", "label", "input"))
_CAPTIONS = frozenset(("figcaption", "caption", "summary", "legend"))
_UNREAD = UNREAD | {"option", "select", "textarea", "nav"}
COLONS = (":", "：")
LABEL_AND_VALUE = lazy(r"([^\W\d][^:：\n\d]{0,40}?)\s?(?::\s++|：\s*+)(\S.*)")
"""a line that is a label, and what it labels"""

_SET_APART = frozenset(("cite", "small", "time"))
_PARTS = frozenset(("a", "time"))
"""elements that are parts of a card beside others"""

_MOST_AROUND = 3
_BREAKS = frozenset(("br", "hr"))
_BLOCKS = ", ".join(("div", "p", "figure", *HEADINGS))
_PHRASES = frozenset(("code", "kbd", "samp", "var", "tt", "abbr", "cite", "q", "sub", "sup"))
"""elements that hold a part of a sentence, whatever that is made of"""

_LEVELS = {tag: level for level, tag in enumerate(HEADINGS, 1)}
_BEHIND_A_TITLE = (", ", "; ", " (", ",")
_BEHIND_A_WORK = ",;(."
"""what stands between the title of a work, in italics, and what is said of it"""

_STATED_LEVELS = {str(level): level for level in range(1, 7)}

# What a text looks like by the elements around it, as bits: a page has very many texts.
_BOLD, _CONTROL, _TIME, _CAPTION, _TITLED, _TERM, _SIDE, _STUCK, _SLANTED = (1 << bit for bit in range(9))
_OF_CLASS = {ClassKind.TITLE: _TITLED, ClassKind.CAPTION: _CAPTION, ClassKind.SIDE: _SIDE}
_OF_TAG = {
    "b": _BOLD,
    "strong": _BOLD,
    **dict.fromkeys(("i", "em", "cite"), _SLANTED),
    "time": _TIME,
    "dt": _TERM,
    "small": _SIDE,
    **dict.fromkeys(_CONTROLS, _CONTROL),
    **dict.fromkeys(_CAPTIONS, _CAPTION),
}


class _Look(NamedTuple):
    """What a text looks like by the elements around it."""

    level: int = 0
    """of the heading that it stands in; 0 for none"""
    bits: int = 0
    link: str = ""
    """where it leads to"""

    @property
    def is_title(self) -> bool:
        """Whether it stands in a heading, or in what its class calls a title."""
        return bool(self.level or self.bits & _TITLED)


_Piece = tuple[str, _Look]


class Line(Struct):
    """One line: its text, and what a person sees it by."""

    text: str
    level: int
    """of the heading that it stands in, 1 to 6; 0 for none"""
    bold: str
    """the bold words that it begins with; of a work of art, its title in italics, also behind who made it"""
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
        text = _text_of(pieces)
        if text:
            self.lines.append(_line_of(text, pieces))


def _line_of(text: str, pieces: list[_Piece]) -> Line:
    """Return the line that some pieces make up, and the words by which it is seen."""
    looks = [look for piece, look in pieces if not piece.isspace()]
    first = every = some = looks[0].bits
    for look in looks[1:]:
        every &= look.bits
        some |= look.bits
    level = min((look.level for look in looks if look.level), default=0)
    beside = _SIDE | _STUCK if level or every & _TITLED else 0
    if stuck := some & beside & ~every:  # a badge on a heading is none of its words
        pieces = [piece for piece in pieces if not piece[1].bits & stuck]
        looks = [look for piece, look in pieces if not piece.isspace()]
        text = _text_of(pieces)
    bold = _set_apart(text, pieces, first)
    link = next((look.link for look in looks if look.link), "")
    is_linked = bool(link) and all(look.link for look in looks)
    linked, besides = _by_link(pieces, link) if link and not is_linked else ("", "")
    return Line(text, level, bold, linked, besides, link, is_linked, first, every, some)


def _set_apart(text: str, pieces: list[_Piece], first: int) -> str:
    """Return the bold words that a line begins with, or slanted ones with a sign behind them that titles have."""
    if first & _BOLD and (bold := fold("".join(_at_start(pieces, _BOLD)))):
        return bold
    if not first & _SLANTED:
        return _work_in(pieces)
    slanted = fold("".join(_at_start(pieces, _SLANTED)))
    return slanted if text.removeprefix(slanted).startswith(_BEHIND_A_TITLE) else ""


def _work_in(pieces: list[_Piece]) -> str:
    """Return the slanted words of a line, if they stand behind a name as the title of what somebody made does.

    ``Maud Ferrow, <em>Red Delta</em>, 1912. Silk on bamboo``
    """
    is_slanted = [bool(look.bits & _SLANTED) for _, look in pieces]
    if True not in is_slanted:
        return ""
    start = is_slanted.index(True)
    end = next((place for place in range(start, len(pieces)) if not is_slanted[place]), len(pieces))
    before, behind = (fold("".join(text for text, _ in part)) for part in (pieces[:start], pieces[end:]))
    is_alone = True not in is_slanted[end:] and len(before) <= _LONGEST_MAKER
    is_work = is_alone and before.endswith(",") and (not behind or behind[0] in _BEHIND_A_WORK)
    return _text_of(pieces[start:end]) if is_work else ""


def _by_link(pieces: list[_Piece], link: str) -> tuple[str, str]:
    """Return the words of a line that are in a link, and those besides."""
    linked = [piece for piece, look in pieces if look.link == link]
    besides = [piece for piece, look in pieces if look.link != link]
    return fold("".join(linked)), fold(" ".join(besides))


def _text_of(pieces: list[_Piece]) -> str:
    return fold("".join([text for text, _ in pieces]) if len(pieces) > 1 else pieces[0][0])


def _at_start(pieces: list[_Piece], bit: int) -> Iterator[str]:
    """Yield the pieces that a line begins with, as far as they look so."""
    found = takewhile(lambda piece: piece[1].bits & bit or piece[0].isspace(), pieces)
    return (text for text, _ in found)


def lines_of(roots: Iterable[LexborNode], outer_link: str = "") -> tuple[list[Line], int]:
    """Return the lines of some elements and texts that follow one another, and how many nodes were looked at.

    ``outer_link`` is where a link around them leads. There are _MOST_LINES lines, of _MOST_NODES nodes, at most.
    """
    reader = _Reader()
    start = _Look(link=outer_link)
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
    """Take what is inside an element for what is read next, and end the line where it stands on lines of its own."""
    tag = node.tag or ""
    if tag in _BREAKS:
        _break(tag, look, reader)
        return
    attributes = node.attributes
    kind = class_kind(attributes.get("class") or "") if attributes else None
    if _is_unread(node, tag) or _is_unseen(attributes, kind) or is_in_sentence(node):
        return
    if tag not in INLINE:
        reader.end_line()
        waiting.append((None, look))
    elif reader.pieces and look.is_title:
        if node.prev is not None and _would_be_one(node.prev, node.first_child):
            reader.add(" ", look)
    elif reader.pieces and _stands_apart(node, tag, attributes):
        reader.end_line()
    inner = _inside(tag, attributes, kind, look)
    if look.is_title and _is_beside(node, tag):
        inner = inner._replace(bits=inner.bits | _STUCK)
    if inner.bits & _CONTROL and not look.bits & _CONTROL and _is_of_the_picture(node, tag):
        inner = inner._replace(bits=inner.bits & ~_CONTROL)
    child = node.last_child
    while child is not None:  # last first: they are taken from the end
        waiting.append((child, inner))
        child = child.prev


def _break(tag: str, look: _Look, reader: _Reader) -> None:
    """End the line; but a heading in two lines is one."""
    if tag == "br" and look.is_title:
        reader.add(" ", look)
    else:
        reader.end_line()


def _is_unread(node: LexborNode, tag: str) -> bool:
    """Tell whether nothing in an element names anything: controls, code with what it printed, what is aside."""
    if tag in _UNREAD or (tag in INLINE and node.last_child is None) or is_aside(node):
        return True
    return tag == "pre" and node.css_first(PICTURED) is None


def _is_unseen(attributes: dict[str, str | None], kind: ClassKind | None) -> bool:
    return bool(attributes) and (kind is ClassKind.HIDDEN or not_displayed(attributes))


def _is_beside(node: LexborNode, tag: str) -> bool:
    """Tell whether a part of a heading is none of the name: small print (HTML standard, 4.5.4), a price, a time."""
    if tag in {"small", "time"}:
        return True
    child = node.first_child
    return tag in INLINE and child is not None and child.is_text_node and is_price(child.text_content or "")


def _is_of_the_picture(control: LexborNode, tag: str) -> bool:
    """Tell whether a control's words are of the picture in it: what is chosen or opened, and not how."""
    if tag == "input" or control.css_first(PICTURED) is None:
        return False
    if tag == "label" or control.css_first(_BLOCKS) is not None:
        return True
    before, behind = control.prev, control.next
    while before is not None and not before.is_element_node:
        before = before.prev
    while behind is not None and not behind.is_element_node:
        behind = behind.next
    return all(node is None or node.tag == tag for node in (before, behind))


def _stands_apart(node: LexborNode, tag: str, attributes: dict[str, str | None]) -> bool:
    """Tell whether an inline element is laid out apart from the one before it, as parts of a card are: one has a class.

    A link and what is not one are parts as well, and so are words that would be one: "Red Delta" and "View", "1912" and
    "Red Delta", or a name and small print without a space between them.
    """
    if node.parent is not None and node.parent.tag in _PHRASES:
        return False
    before = node.prev
    if _OF_TAG.get(tag) == _BOLD and _said_by(node.first_child).rstrip().endswith(COLONS):  # the next label
        return True
    said = _said_by(before)
    if tag in _SET_APART and said.strip():
        return said[-1].isalnum() and _said_by(node.first_child)[:1].isalnum()
    while before is not None and before.is_text_node and not (before.text_content or "").strip():
        before = before.prev
    if before is None or not before.is_element_node or before.tag not in INLINE:
        return False
    child = node.first_child
    if child is not None and child.is_text_node and is_price(child.text_content or ""):
        return True
    if "class" in attributes or "class" in before.attributes:
        return True
    if not _PARTS.isdisjoint((_innermost(node), _innermost(before))):
        return True
    words, words_before = _said_by(child).strip(), _said_by(before.last_child).strip()
    if inventory_of(words) or inventory_of(words_before) or LABEL_AND_VALUE.fullmatch(words):
        return True
    return node.prev is not None and node.prev.mem_id == before.mem_id and _would_be_one(before, child)


def _innermost(node: LexborNode) -> str:
    """Return the tag of an element, or of the one that is all in it: ``small`` around a ``time`` is a time."""
    inner = node
    for _ in range(_MOST_AROUND):
        first = _behind_blanks(inner.first_child)
        if first is None or not first.is_element_node or _behind_blanks(first.next) is not None:
            break
        inner = first
    return inner.tag or ""


def _behind_blanks(node: LexborNode | None) -> LexborNode | None:
    """Return the first of some siblings that is an element or says something."""
    while node is not None and not (node.is_element_node or _said_by(node).strip()):
        node = node.next
    return node


def _would_be_one(before: LexborNode, child: LexborNode | None) -> bool:
    """Tell whether words of an inline element and of the one right behind it would be one: a name, a year, another."""
    said, begun = _said_by(before.last_child), _said_by(child)
    if (_is_year(said[-5:]) and begun[:1].isalpha()) or (said[-1:].isalpha() and _is_year(begun[:5])):
        return True
    return (said[-1:].islower() or said[-1:] == ")") and begun[:1].isupper() and begun[1:2].isalpha()


def _is_year(text: str) -> bool:
    """Tell whether the five characters at an edge of a text are of a year: four digits, and no more."""
    bare = text.strip()
    return len(bare) == _DIGITS_OF_YEAR and bare.isdigit()


def _said_by(child: LexborNode | None) -> str:
    return (child.text_content or "") if child is not None and child.is_text_node else ""


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
        if "aria-expanded" in attributes and "aria-haspopup" not in attributes:  # it heads what it opens
            bits &= ~_CONTROL
        if "bold" in (attributes.get("style") or ""):
            bits |= _BOLD
        link = (attributes.get("href") or "") if tag == "a" else ""
    if not (level or bits or link):
        return look
    return _Look(level or look.level, bits | look.bits, link or look.link)
