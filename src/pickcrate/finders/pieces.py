"""Pieces of markup that a page holds for its scripts to show: in blocks, in strings of scripts and data, in attributes.

Their pictures are known by then, by stricter rules than those of a page: what is to fill a template is no address.
Each piece is read as a page by itself, for what ties its addresses together, and for the words beside them.
"""

from collections import defaultdict
from collections.abc import Callable, Container, Iterable, Iterator
from typing import cast

from msgspec.structs import replace
from selectolax.lexbor import LexborHTMLParser, LexborNode

from pickcrate.finders.data.jsondata import OPENS_JSON, parsed_json
from pickcrate.finders.data.literals import expressions, is_summed
from pickcrate.finders.data.named import named_strings
from pickcrate.finders.data.strings import unescape
from pickcrate.finders.scripts import JAVASCRIPT, hidden_text
from pickcrate.media import essence
from pickcrate.read.pages.bounds import within_bounds
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Finding, Piece
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference

_MOST_TEXT = 4_000_000
"""characters of all pieces of a page"""

_MAY_SHOW = lazy(r"(?:<|\\u003[cC])(?:img|picture|a|div|li|figure|span)\b")
_SUBSTITUTION = lazy(r"\$\{[^{}]*+\}")
"""what a template puts into its string (ECMA-262, 13.2.8)"""

_PLUS = lazy(r"\s*+\+\s*+")
_VALUE = "\x1f"
"""stands where a script puts a value that is not known: in words it is a blank"""


def may_hold_markup(text: str) -> bool:
    """Tell whether a text may have markup in it that shows pictures, as it is or in strings."""
    return _MAY_SHOW.search(text) is not None


def page_of(page: Page, markup: str) -> Page:
    """Return a piece of markup as a page by itself, at the address of the one that has it."""
    text, _ = within_bounds(markup)
    document = page.tree.create_node("html")
    document.inner_html = text  # with a head and a body
    return replace(_in_tree_of(page, document), text=text, scopes={}, flaws=(), link_field="")


def page_in(page: Page, fragment: LexborNode) -> Page:
    """Return the content of a template as a page by itself, with the text and the address of the one around.

    It gets a body around it, in its place: whoever looks for it again finds it there.
    """
    inside = list(fragment.iter(include_text=True))
    if len(inside) == 1 and inside[0].tag == "body":
        return _in_tree_of(page, inside[0])
    body = page.tree.create_node("body")
    if inside:
        inside[0].insert_before(body, move=True)
    for child in inside:
        body.insert_child(child, move=True)
    return _in_tree_of(page, body)


def _in_tree_of(page: Page, root: LexborNode) -> Page:
    """Return a page of elements that a page's tree has made: a tree of their own would take a quarter of a megabyte."""
    return replace(page, tree=cast("LexborHTMLParser", root))


def read_in_pieces(
    page: Page, holders: Iterable[LexborNode], found: list[Finding], search: Callable[[Page], list[Reference]]
) -> tuple[list[Finding], Piece | None]:
    """Return findings with the pictures in pieces of markup as these tie their addresses together.

    ``holders`` are elements that may have such pieces, ``search`` returns what is found in a page. All are one page,
    which comes as well: the same attribute of many elements has things of one kind, as the windows of a map are.
    """
    known = _known_in({holder.mem_id for holder in holders}, found)
    markups: dict[int, str] = {}
    room = _MOST_TEXT
    for holder in holders:
        markup = _markup_of(holder) if holder.mem_id in known else ""
        room -= len(markup)
        if markup and room >= 0:
            markups[holder.mem_id] = markup
    if not markups:
        return found, None
    inner = page_of(page, _side_by_side(list(markups.values())))
    own = {url: one for number in markups for url, one in known[number].items()}
    told = _told_of(own, search(inner))
    read: dict[int, list[Reference]] = defaultdict(list)
    for one in told:
        read[one.cluster].append(_in_place_of(own.get(one.url) or next(iter(own.values())), one))
    return _with_read(found, known, read), Piece(inner, tuple(told))


def _side_by_side(markups: list[str]) -> str:
    """Return pieces as one, in which the end of each closes what it leaves open (HTML standard, 13.2.6.4.7)."""
    return markups[0] if len(markups) == 1 else "".join(f"<section>{markup}</section>" for markup in markups)


def _known_in(holders: set[int], found: list[Finding]) -> dict[int, dict[str, Reference]]:
    """Return what is known of the pictures in each holder, by address, without those that are found elsewhere too."""
    known: dict[int, dict[str, Reference]] = defaultdict(dict)
    references = [item for item in found if isinstance(item, Reference)]
    elsewhere = {one.cluster for one in references if not (holders.issuperset(one.anchors) and _is_held(one))}
    for one in references:
        if one.cluster not in elsewhere:
            known[one.anchors[0]].setdefault(one.url, one)
    return known


def _is_held(reference: Reference) -> bool:
    """Tell whether a reference was found in what an element holds, and is not what it shows or leads to itself."""
    return reference.found_in in {FoundIn.DATA, FoundIn.SCRIPT} and len(reference.anchors) == 1


def _told_of(known: Container[str], found: list[Reference]) -> list[Reference]:
    """Return what was found of the pictures that are known, without addresses that have values in them."""
    clusters = {one.cluster for one in found if one.url in known}
    return [one for one in found if one.cluster in clusters and _VALUE not in one.raw]


def _in_place_of(known: Reference, told: Reference) -> Reference:
    """Return a reference in a piece as one in the element that has the piece."""
    return replace(
        told,
        found_in=known.found_in,
        element=known.element,
        attribute=known.attribute,
        anchors=known.anchors,
        line=known.line,
        hidden=known.hidden or told.hidden,
        is_put_in_place=known.is_put_in_place,
    )


def _with_read(
    found: list[Finding], known: dict[int, dict[str, Reference]], read: dict[int, list[Reference]]
) -> list[Finding]:
    """Return findings with what was read in the place of what was known of it, where that is all there."""
    clusters: dict[tuple[int, str], list[int]] = defaultdict(list)
    for number, references in read.items():
        for one in references:
            clusters[one.anchors[0], one.url].append(number)
    left_out = {
        one.cluster for holder, told in known.items() for one in told.values() if (holder, one.url) not in clusters
    }
    settled: list[Finding] = []
    for item in found:
        numbers = clusters.get((item.anchors[0], item.url)) if isinstance(item, Reference) and item.anchors else None
        if numbers is None or not isinstance(item, Reference) or item.cluster in left_out:
            settled.append(item)
            continue
        for number in numbers:
            settled += read.pop(number, ())
        numbers.clear()  # they are there now, for all that name the same
    return settled


def _markup_of(holder: LexborNode) -> str:
    """Return the markup in a script, or in the attributes of another element."""
    if holder.tag == "script":
        return _of_script(holder.text() or "", essence(holder.attributes.get("type") or ""))
    attributes = holder.attributes
    texts = filter(None, (hidden_text(holder, attributes), *attributes.values()))
    return _joined(string for text in texts for string in _of_text(text))


def _of_script(text: str, kind: str) -> str:
    """Return the markup in a script: all of a block of a type of its own, and what is in strings."""
    if "json" in kind:
        return _joined(_strings_in(parsed_json(text)))
    return _joined(_strings_of(text)) if kind in JAVASCRIPT else text


def _of_text(text: str) -> Iterator[str]:
    """Yield a text that may be markup, or the strings in it if it is data."""
    parsed = parsed_json(text) if text[:1] in OPENS_JSON and "<" in text else None
    return _strings_in(parsed) if parsed is not None else iter((text,))


def _joined(strings: Iterable[str]) -> str:
    """Return the strings that are markup, one behind the other."""
    return "".join(string for string in strings if "<" in string)


def _strings_in(value: object) -> Iterator[str]:
    """Yield the strings in a value of JSON, in their order."""
    return (string for string, _ in named_strings(value))


def _strings_of(text: str) -> Iterator[str]:
    """Yield what the string literals of a script say, those in one sum as one."""
    summed: list[str] = []
    read_up_to = 0
    for start, end, strings in expressions(text):
        literal = text[start + 1 : end - 1]
        if strings is None and is_summed(text, start, end):
            is_next = summed and _PLUS.fullmatch(text, read_up_to, start) is not None
            summed += ("" if is_next else _VALUE, unescape(_SUBSTITUTION.sub(_VALUE, literal)))
            read_up_to = end
            continue
        yield "".join(summed)
        summed = []
        for string in strings or (unescape(literal),):
            yield from _of_text(string)
    yield "".join(summed)
