"""Where on the page: ``--within`` by CSS selectors, ``--under`` by the words that introduce a part of it.

``--under`` means what a reader would mean. What introduces a part is a heading, a caption, a legend, a summary, a
term, a bold line standing for a heading, a row of a table that is one cell, or a line right above a table or list;
what it introduces goes on to the next of its kind, or to the end of what holds both.
"""

import re
from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.elements.selectors import starred
from pickcrate.errors import NothingPickedError, UsageError
from pickcrate.finders.captions import CALLED_CAPTION, holder_of, is_called_caption
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.finders.tree import Tree, has_between
from pickcrate.text.numerals import whole
from pickcrate.text.typed import folding_for
from pickcrate.values.page import Page
from pickcrate.values.reference import fold
from pickcrate.values.wanted import Region

_HOLDERS = {"caption": "table", "figcaption": "figure", "legend": "fieldset", "summary": "details"}
_CONTAINERS = frozenset(
    ("section", "article", "aside", "main", "body", "td", "li", "fieldset", "details", "dialog", "nav")
)
_OTHER_SIGNS = "caption, figcaption, legend, summary, dt, tr, p, div, span, b, strong, [aria-label], li, center"
_SIGNS = f"{HEADING_SELECTOR}, {_OTHER_SIGNS}, {CALLED_CAPTION}"
_LISTS = frozenset(("table", "ul", "ol", "dl", "figure", "div", "section", "picture"))
_BOLD_LEVEL, _LINE_LEVEL = 7, 9
_CAPTION = 1
"""the rank of captions, behind headings"""
_LONGEST_LINE = 200
_MOST_SHOWN = 12
_MOST_PARTS = 200
"""Headings with the same words: each of them introduces a part of its own."""

_PICTURED = "img, picture, svg, image, video, object, [style*='url('], [data-src], iframe"


def elements_of(page: Page, region: Region) -> frozenset[int]:
    """Return the numbers of all elements in a region of ``page``.

    Raises UsageError for a selector that is none, NothingPickedError where no heading or caption holds any of the
    texts, with those that there are.
    """
    inside: frozenset[int] | None = None
    if region.within:
        inside = _numbers(node for selector in region.within for node in _select(page, selector))
    if region.under:
        found = _numbers(introduced(page, region.under))
        inside = found if inside is None else inside & found
    return inside if inside is not None else frozenset()


def introduced(page: Page, texts: Sequence[str]) -> list[LexborNode]:
    """Return the elements that the headings or captions holding ``texts`` introduce; of pages, each may have some."""
    tree = Tree(page)
    signs = list(_signs(tree))
    chosen = [sign for text in texts for sign in _holding(text, signs)]
    if not chosen:
        hint = "; ".join(f"“{sign.text[:60]}”" for sign in _distinct(signs)[:_MOST_SHOWN])
        raise NothingPickedError(
            f"no heading or caption of {page.called or page.address} holds {' or '.join(map(repr, texts))}",
            hint=f"there are: {hint}" if hint else "the page has neither headings nor captions; --within takes CSS",
        )
    return [node for sign in chosen for node in _part(sign, signs, tree)]


class _Sign(Struct, frozen=True):
    """An element that introduces something: its words, what kind it is, and how high its level is (1 is highest)."""

    node: LexborNode
    text: str
    rank: int
    level: int


def _holding(text: str, signs: Sequence[_Sign]) -> list[_Sign]:
    """Return the signs that hold a text, of the best kind that does: those that say just that, if there are any."""
    as_typed = folding_for(text)
    wanted = as_typed(fold(text))
    holding = [sign for sign in signs if wanted in as_typed(sign.text)]
    best = min((sign.rank for sign in holding), default=0)
    chosen = [sign for sign in holding if sign.rank == best]
    exact = [sign for sign in chosen if as_typed(sign.text) == wanted]
    return (exact or chosen)[:_MOST_PARTS]


def _signs(tree: Tree) -> Iterator[_Sign]:
    for number in tree.selected(_SIGNS):
        sign = _sign(tree.nodes[number], tree)
        if sign is not None and sign.text:
            yield sign


def _sign(node: LexborNode, tree: Tree) -> _Sign | None:
    tag, attributes = node.tag or "", node.attributes
    if re.fullmatch("h[1-6]", tag):
        return _Sign(node, tree.texts.of(node), 0, int(tag[1]))
    if attributes.get("role") == "heading":
        return _Sign(node, tree.texts.of(node), 0, whole(attributes.get("aria-level") or "2") or 2)
    if tag in _HOLDERS:
        return _Sign(node, tree.texts.of(node), _CAPTION, 0)
    if _captioned(node, tree):
        return _Sign(node, tree.texts.of(node), _CAPTION, 0)
    if tag == "dt" or (tag == "tr" and _is_one_cell(node, tree)):
        return _Sign(node, tree.texts.of(node), 2, 0)
    if attributes.get("aria-label") and tag in {"section", "article", "div", "ul", "ol", "nav", "table", "aside"}:
        return _Sign(node, fold(attributes["aria-label"]), 2, -1)
    if tag in {"p", "div", "b", "strong", "center", "span"} and _is_bold_line(node, tree):
        return _Sign(node, tree.texts.of(node), 3, _BOLD_LEVEL)
    if tag in {"p", "div", "span", "center"} and _stands_above(node, tree):
        return _Sign(node, tree.texts.of(node), 4, _LINE_LEVEL)
    return None


def _captioned(node: LexborNode, tree: Tree) -> list[LexborNode]:
    """Return what an element that is a caption by its class is about; nothing for one that is none.

    That is what holds both, or, where that holds other captions, the picture before it, else the one behind it.
    """
    number, end = tree.span(node)
    called_so, pictures = tree.selected(CALLED_CAPTION), tree.selected(_PICTURED)
    is_called_so = has_between(called_so, number, number + 1)
    if not is_called_so or not is_called_caption(tree, number) or has_between(pictures, number, end):
        return []
    holder = holder_of(tree, number, lambda outer: tree.has_within(outer, _PICTURED))
    if holder is None:
        return []
    if not has_between(called_so, holder + 1, number) and not has_between(called_so, end, tree.end[holder]):
        return [tree.nodes[holder]]
    behind = bisect_left(pictures, number)
    before = behind - 1 if has_between(pictures, holder + 1, number) else behind
    return [tree.nodes[pictures[before]]]


def _is_one_cell(row: LexborNode, tree: Tree) -> bool:
    if tree.contains(row, "img"):
        return False
    cells = [child for child in row.iter() if child.tag in {"td", "th"}]
    span = whole(cells[0].attributes.get("colspan") or "1") if len(cells) == 1 else 1
    return span is not None and span > 1 and not tree.contains(cells[0], "td, th")


def _is_bold_line(node: LexborNode, tree: Tree) -> bool:
    """Tell whether a block is nothing but one bold line, or a bold element is all there is of its line."""
    if tree.contains(node, "img, table, ul, ol, p"):
        return False
    if node.tag in {"b", "strong"}:
        parent = node.parent
        is_own = parent is not None and parent.tag in {"body", "main", "section", "article", "td", "center"}
        return is_own and 0 < len(tree.texts.of(node)) <= _LONGEST_LINE
    start, end = tree.span(node)
    bold = tree.selected("b, strong")
    at = bisect_left(bold, start + 1)
    style = (node.attributes.get("style") or "")[:1000].replace(" ", "").lower()
    is_bold = node.tag != "span" and re.search(r"font-weight:(?:bold|[6-9]00)", style) is not None
    has_bold = at < len(bold) and bold[at] < end
    if not (has_bold or is_bold):
        return False
    text = tree.texts.of(node)
    if not text or len(text) > _LONGEST_LINE:
        return False
    return tree.text(bold[at]) == text if has_bold else is_bold


def _stands_above(node: LexborNode, tree: Tree) -> bool:
    """Tell whether a short line stands right above a table, a list, or something else that holds pictures."""
    if tree.contains(node, "img, table, ul, ol, p, div") or _below(node, tree) is None:
        return False
    return 0 < len(tree.texts.of(node)) <= _LONGEST_LINE


def _below(node: LexborNode, tree: Tree) -> LexborNode | None:
    """Return the table, list or gallery right below a line."""
    following = _next_element(node)
    if following is None or following.tag not in _LISTS:
        return None
    return following if tree.is_or_contains(following, "img, svg, picture, [data-src]") else None


def _part(sign: _Sign, signs: list[_Sign], tree: Tree) -> Iterable[LexborNode]:
    """Return what a sign introduces."""
    node = sign.node
    if sign.node.tag in _HOLDERS:
        holder = _ancestor(node, _HOLDERS[node.tag or ""])
        return [holder] if holder is not None else []
    if sign.rank == _CAPTION:
        return _captioned(node, tree)
    if sign.level == -1:
        return [node]
    if sign.level == _LINE_LEVEL:
        below = _below(node, tree)
        return [below] if below is not None else []
    if node.tag in {"dt", "tr"}:
        return _rest(node, tree)
    return _section(sign, signs, tree)


def _section(sign: _Sign, signs: list[_Sign], tree: Tree) -> Iterable[LexborNode]:
    """Return what a heading introduces: what comes after it, up to the next that is no lower, in what holds it.

    Where nothing after it holds a picture (a card whose heading stands below its picture) it is the largest element
    around the heading that no other heading shares.
    """
    rivals = _rivals(sign, signs, tree)
    block = sign.node
    while (outer := block.parent) is not None and outer.tag not in {"body", "html", "main", None}:
        start, end = tree.span(outer)
        if has_between(rivals, start + 1, end):
            break
        block = outer
        if outer.tag in _CONTAINERS:
            break
    after = list(_following(sign.node, block, rivals, tree))
    if any(tree.is_or_contains(node, _PICTURED) for node in after):
        return after
    if block.mem_id != sign.node.mem_id and tree.is_or_contains(block, _PICTURED):
        return [block]
    container = sign.node.parent
    while container is not None and container.tag not in _CONTAINERS and container.parent is not None:
        container = container.parent
    return list(_following(sign.node, container, rivals, tree)) if container is not None else after


def _rivals(sign: _Sign, signs: list[_Sign], tree: Tree) -> list[int]:
    """Return the numbers of the headings that are no lower than ``sign``, and neither in it nor around it."""
    start, end = tree.span(sign.node)
    numbers = (tree.span(other.node) for other in signs if 0 < other.level <= sign.level)
    return [first for first, last in numbers if not start <= first < end and not first <= start < last]


def _following(start: LexborNode, container: LexborNode, rivals: list[int], tree: Tree) -> Iterator[LexborNode]:
    """Yield what comes after ``start`` inside ``container`` in document tree, up to the first of ``rivals``.

    An element that holds a rival is entered, not taken whole.
    """
    node: LexborNode | None = start
    while node is not None and node.mem_id != container.mem_id:
        sibling = _next_element(node)
        while sibling is not None:
            first, last = tree.span(sibling)
            if has_between(rivals, first, last):
                yield from _up_to(sibling, rivals, tree)
                return
            yield sibling
            sibling = _next_element(sibling)
        node = node.parent


def _up_to(element: LexborNode, rivals: list[int], tree: Tree) -> Iterator[LexborNode]:
    """Yield the parts of an element, which holds a rival or is one, before the first of them."""
    holder: LexborNode | None = element
    while holder is not None:
        inner = None
        number, _ = tree.span(holder)
        if has_between(rivals, number, number + 1):
            return
        for child in holder.iter():
            if not child.is_element_node:
                continue
            first, last = tree.span(child)
            if has_between(rivals, first, last):
                inner = child
                break
            yield child
        holder = inner


def _rest(node: LexborNode, tree: Tree) -> Iterator[LexborNode]:
    """Yield what stands after a term or a row, up to the next that introduces something itself."""
    sibling = _next_element(node)
    while sibling is not None and not (sibling.tag == node.tag and _sign(sibling, tree) is not None):
        yield sibling
        sibling = _next_element(sibling)


def _ancestor(node: LexborNode, tag: str) -> LexborNode | None:
    climb = node.parent
    while climb is not None and climb.tag != tag:
        climb = climb.parent
    return climb


def _next_element(node: LexborNode) -> LexborNode | None:
    following = node.next
    while following is not None and not following.is_element_node:
        following = following.next
    return following


def _select(page: Page, selector: str) -> list[LexborNode]:
    try:
        return list(page.tree.css(starred(selector)))
    except Exception as error:
        raise UsageError(
            f"--within {selector!r} is not a CSS selector", hint="for example --within 'main .gallery'"
        ) from error


def _numbers(nodes: Iterable[LexborNode]) -> frozenset[int]:
    numbers: set[int] = set()
    for node in nodes:
        if node.mem_id not in numbers:  # else it lies in one that is there with all in it
            numbers.add(node.mem_id)
            numbers.update(inner.mem_id for inner in node.css("*"))
    return frozenset(numbers)


def _distinct(signs: Iterable[_Sign]) -> list[_Sign]:
    """Return the signs worth showing, each text once: headings and captions, and bold lines if there are no others."""
    unique = {sign.text: sign for sign in signs if sign.rank < 4}
    return sorted(unique.values(), key=lambda sign: sign.rank)
