"""A page of a PDF without structure as HTML, by where things stand: paragraphs, headings, what is of a picture."""

from collections.abc import Iterable, Iterator, Sequence
from html import escape
from statistics import median

from msgspec import Struct

from pickcrate.read.pdf.html import picture
from pickcrate.read.pdf.page import Box, Leaf, Piece

# All in sizes of the font.
_SAME_LINE = 0.5
"""how far apart the feet of two runs on one line are at most"""

_SPACE, _COLUMNS_APART = 0.2, 2.0
"""the gap between two runs of a line that is a space, and the one that is more"""

_LINES_APART = 0.9
"""the gap between two lines of a paragraph at most"""

_BELOW_PICTURE, _BELOW_WORDS = 2.5, 2.0
"""the gap between a picture and what is said of it at most, and to what more is said"""

_SAME_SIZE = 0.15
_HEADING = 1.25
"""how much larger than most words the words of a heading are at least"""

_LONGEST_HEADING, _LONGEST_SAID = 150, 300
_MOST_SAID = 8
"""paragraphs below a picture"""

_MOST_CAPTIONED, _MOST_BESIDE = 200, 1_000
"""pictures, and paragraphs, of a page that are held against each other"""

_WITHIN = 0.6
"""how much of what is said of a picture lies below it, or beside it, at least"""

_WIDEST = 3
"""how many times as wide as its picture what is said of it is at most, if both begin on one edge"""


class _Block(Struct):
    """A paragraph, or a heading: lines in one size, one below the other."""

    box: Box
    size: float
    text: str


def html_of(leaf: Leaf) -> str:
    """Return the HTML of a page that has no structure, from its top to its bottom."""
    pictures = [piece for piece in leaf.pieces if piece.picture]
    if not pictures:
        return ""
    blocks = list(_blocks(_lines(piece for piece in leaf.pieces if piece.text.strip())))
    usual = median([block.size for block in blocks for _ in block.text[::10]] or [0.0])
    said = _said_of(pictures[:_MOST_CAPTIONED], blocks, usual)
    placed = {id(block) for below in said for block in below}
    alone = ((block.box, _written(block, usual, "h2")) for block in blocks if id(block) not in placed)
    shown = ((piece.box, _figure(piece, below, usual)) for piece, below in zip(pictures, said, strict=False))
    others = ((piece.box, f"<div>{picture(piece)}</div>") for piece in pictures[_MOST_CAPTIONED:])
    return "".join(html for _, html in sorted((*alone, *shown, *others), key=lambda one: (-one[0].top, one[0].left)))


def _written(block: _Block, usual: float, heading: str) -> str:
    tag = heading if _is_heading(block, usual) else "p"
    return f"<{tag}>{escape(block.text)}</{tag}>"


def _figure(shown: Piece, below: Sequence[_Block], usual: float) -> str:
    """Return a picture with what is said of it: its caption, or all that a card has."""
    if not below:
        return f"<div>{picture(shown)}</div>"
    if len(below) == 1 and not _is_heading(below[0], usual):
        return f"<figure>{picture(shown)}<figcaption>{escape(below[0].text)}</figcaption></figure>"
    return f"<article>{picture(shown)}{''.join(_written(block, usual, 'h3') for block in below)}</article>"


def _lines(runs: Iterable[Piece]) -> Iterator[_Block]:
    """Yield lines: runs that follow one another, and stand beside one another."""
    line: _Block | None = None
    for run in runs:
        if line is not None and _goes_on(line, run):
            gap = run.box.left - line.box.right > _SPACE * line.size and not line.text.endswith(" ")
            line.text += f"{' ' if gap else ''}{run.text}"
            line.box, line.size = line.box.together(run.box), max(line.size, run.size)
            continue
        if line is not None:
            yield line
        line = _Block(run.box, run.size, run.text)
    if line is not None:
        yield line


def _goes_on(line: _Block, run: Piece) -> bool:
    size = max(line.size, run.size)
    is_level = abs(line.box.bottom - run.box.bottom) <= _SAME_LINE * size
    return is_level and -size < run.box.left - line.box.right < _COLUMNS_APART * size


def _blocks(lines: Iterable[_Block]) -> Iterator[_Block]:
    """Yield paragraphs: lines that follow one another in one size, one below the other."""
    block: _Block | None = None
    for line in lines:
        line.text = " ".join(line.text.split())
        if block is not None and _is_below(block, line):
            block.text = f"{block.text} {line.text}"
            block.box = block.box.together(line.box)
            continue
        if block is not None:
            yield block
        block = line
    if block is not None:
        yield block


def _is_below(block: _Block, line: _Block) -> bool:
    gap = block.box.bottom - line.box.top
    is_close = -line.size / 2 < gap <= _LINES_APART * line.size
    is_alike = abs(block.size - line.size) <= _SAME_SIZE * line.size
    return is_close and is_alike and _shared(block.box.left, block.box.right, line.box.left, line.box.right) > 0


def _said_of(pictures: Sequence[Piece], blocks: Sequence[_Block], usual: float) -> list[list[_Block]]:
    """Return what is said of each picture: what stands below it, one below the other, or beside it."""
    near: list[list[_Block]] = [[] for _ in pictures]
    for block in (block for block in blocks[:_MOST_BESIDE] if any(map(str.isalpha, block.text))):
        apart, place = min((_apart(block, shown.box), place) for place, shown in enumerate(pictures))
        if apart < float("inf"):
            near[place].append(block)
    return [_chain(shown.box, theirs, usual) for shown, theirs in zip(pictures, near, strict=True)]


def _chain(shown: Box, near: list[_Block], usual: float) -> list[_Block]:
    """Return those of the blocks near a picture that follow it without a gap, up to the head of a long text."""
    chain: list[_Block] = []
    edge, gap = shown, _BELOW_PICTURE
    for block in sorted(near, key=lambda block: _apart(block, shown)):
        if len(chain) == _MOST_SAID or edge.apart_from(block.box) > gap * block.size:
            break
        if len(block.text) > _LONGEST_SAID:
            heads = (place for place, one in enumerate(chain) if _is_heading(one, usual))
            return chain[: next(heads, len(chain))]
        chain.append(block)
        edge, gap = block.box, _BELOW_WORDS
    return chain


def _apart(block: _Block, shown: Box) -> float:
    """Return how far words are from a picture that they stand below, or to the right of; infinite if elsewhere."""
    box, slack = block.box, block.size / 2
    is_in_column = _shared(box.left, box.right, shown.left, shown.right) >= _WITHIN
    is_aligned = abs(box.left - shown.left) <= slack and box.width <= _WIDEST * shown.width
    if (is_in_column or is_aligned) and (below := shown.bottom - box.top) >= -slack:
        return abs(below)
    is_level = _shared(box.bottom, box.top, shown.bottom, shown.top) >= _WITHIN
    if is_level and (beside := box.left - shown.right) >= -slack:
        return abs(beside)
    return float("inf")


def _is_heading(block: _Block, usual: float) -> bool:
    return block.size >= _HEADING * usual > 0 and len(block.text) <= _LONGEST_HEADING


def _shared(low: float, high: float, other_low: float, other_high: float) -> float:
    """Return how much of the first of two stretches the second covers, between 0 and 1."""
    covered = min(high, other_high) - max(low, other_low)
    return max(covered, 0.0) / max(high - low, 0.001)
