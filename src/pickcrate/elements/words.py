"""The words inside an element, as a reader would read them."""

from selectolax.lexbor import LexborHTMLParser, LexborNode

from pickcrate.values.reference import LONGEST_WORDS, fold

# What stands in a frame, an object or a player is for browsers that have none (HTML standard, 4.8.5 to 4.8.9).
_INSTEAD = frozenset("iframe noframes noembed object video audio canvas".split())
UNREAD = frozenset(("script", "style", "template", "noscript", "head", "svg")) | _INSTEAD
# What stands in a line without a space around it (HTML standard, 15.3.3: all that is not laid out as a block).
INLINE = frozenset(
    "a abbr acronym b bdi bdo big cite code data del dfn em font i ins kbd label mark nobr q ruby s samp small span "
    "strike strong sub sup time tt u var wbr".split()
)
# What a page puts beside its words for those who write or quote it: a heading's own address, a place to edit it.
_ASIDE = frozenset(
    "headerlink header-link header-anchor heading-anchor headinganchor anchor-link anchorlink anchorjs-link hash-link "
    "permalink mw-editsection".split()
)
# What is written there is the name of a sign, and a font draws the sign.
_SIGNS = ("material-icons", "material-symbols")
_MARKS = frozenset(("¶", "#", "§", "🔗", "⚓"))
_MOST_NODES, _FEW_NODES = 2_000, 50
"""nodes of one text that are read; and those once reading the texts of a page has cost what it may"""

_NODES_OF_ANY_PAGE = 10_000
"""Nodes that reading the texts of a page may cost, and one more for each character: tables that lay out in others
take half of that, most pages a tenth."""

_ENOUGH = 4 * LONGEST_WORDS


class Texts:
    """The texts of a page's elements, each read once; what all of them cost is bounded by the page's length.

    Headings in headings, thousands deep, each have a text of thousands of nodes.
    """

    def __init__(self, page_length: int) -> None:
        self._nodes_left = _NODES_OF_ANY_PAGE + page_length
        self._known: dict[int, str] = {}

    def of(self, node: LexborNode) -> str:
        """Return the text inside ``node`` as ``text_of`` does; of few nodes once the page has cost what it may."""
        known = self._known.get(node.mem_id)
        if known is None:
            known, seen = _read(node, _MOST_NODES if self._nodes_left > 0 else _FEW_NODES)
            self._known[node.mem_id] = known
            self._nodes_left -= seen
        return known


def text_of(node: LexborNode) -> str:
    """Return the text inside ``node``, white space folded, cut as ``fold`` cuts.

    Inline elements join what they stand between, others part it. Only the first _MOST_NODES nodes are looked at.
    """
    return _read(node, _MOST_NODES)[0]


def _read(node: LexborNode, most_nodes: int) -> tuple[str, int]:
    """Return the text inside ``node``, and the number of nodes looked at for it."""
    first = node.first_child
    if first is not None and first.is_text_node and first.next is None:  # as of most links and headings
        return fold((first.text_content or "")[:_ENOUGH]), 1
    pieces: list[str] = []
    length = 0
    waiting: list[LexborNode | None] = [first]
    seen = 0
    while seen < most_nodes:
        if not waiting or length > _ENOUGH:
            break
        seen += 1
        current = waiting.pop()
        if current is None:
            pieces.append(" ")
            continue
        waiting.append(current.next) if current.next is not None else None
        if current.is_text_node:
            text = current.text_content or ""
            pieces.append(text[:_ENOUGH])
            length += len(text)
        elif current.is_element_node and current.tag not in UNREAD and not is_aside(current):
            if current.tag not in INLINE:
                pieces.append(" ")
                waiting.append(None)
            if current.first_child is not None:
                waiting.append(current.first_child)
    return fold("".join(pieces)), seen


def text_in(said: str) -> str:
    """Return the text of what may hold markup, as ``text_of`` does: of an attribute, of the title of a feed."""
    if "<" not in said and not ("&" in said and ";" in said):
        return fold(said)
    body = LexborHTMLParser(said[:_ENOUGH]).body
    return text_of(body) if body is not None else ""


def is_aside(node: LexborNode) -> bool:
    """Tell whether an element is none of the words it stands among: a link that is a mark, as headings have one."""
    if node.tag not in {"a", "span", "i"}:
        return False
    names = (node.attributes.get("class") or "")[:_ENOUGH].lower().split()
    if names and (not _ASIDE.isdisjoint(names) or any(name.startswith(_SIGNS) for name in names)):
        return True
    child = node.first_child if node.tag == "a" else None
    return child is not None and child.next is None and (child.text_content or "").strip() in _MARKS
