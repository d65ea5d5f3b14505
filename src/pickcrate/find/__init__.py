"""From a page to its references. A new place where pictures hide is one module here and one row of FINDERS."""

import itertools
from collections.abc import Iterable, Iterator

from selectolax.lexbor import LexborHTMLParser, LexborNode

from pickcrate.find import embedded, frames, images, lazy, links, metadata, scripts, styles
from pickcrate.find.asked import Asked, find_in_named, find_in_source
from pickcrate.find.place import HEADINGS, Finder, Place, Walk
from pickcrate.values import Finding, Findings, Flaw, Hiding, Need, Page, Reference

FINDERS: tuple[Finder, ...] = (
    metadata.LINK_ELEMENT,
    metadata.META,
    metadata.PROPERTY,
    images.IMG,
    images.SOURCE,
    links.LINK,
    embedded.BUTTON,
    embedded.POSTER,
    embedded.BACKGROUND,
    embedded.OBJECT,
    embedded.SVG_IMAGE,
    embedded.SVG_USE,
    embedded.SVG,
    styles.STYLE_ELEMENT,
    styles.STYLE_ATTRIBUTE,
    styles.LINKED_SHEET,
    scripts.SCRIPT,
    frames.FRAME,
)

_NOTHING = Asked()
_MOST_INNER_DOCUMENTS = 1000
"""Templates and ``srcdoc`` frames, one inside the other or side by side: more are no page's."""

_BY_TAG: dict[str, list[Finder]] = {}
_BY_ATTRIBUTE: dict[str, list[Finder]] = {}
for _finder in FINDERS:
    for _tag in _finder.tags:
        _BY_TAG.setdefault(_tag, []).append(_finder)
    for _attribute in _finder.attributes:
        _BY_ATTRIBUTE.setdefault(_attribute, []).append(_finder)
_WANTED = (*_BY_TAG, *HEADINGS, *(f"[{name}]" for name in _BY_ATTRIBUTE))


def find(page: Page, numbers: Iterator[int] | None = None, asked: Asked = _NOTHING) -> Findings:
    """Return every reference to an image in ``page``, in document order, and what must be read besides.

    ``numbers`` gives clusters their numbers: hand the same iterator to all documents of one page. ``asked`` is what
    the user wants found besides.
    """
    walk = Walk(page, numbers if numbers is not None else itertools.count())
    found: list[Finding] = list(metadata.find_in_link_header(walk))
    inner = 0
    flaws: list[Flaw] = []
    waiting: list[LexborHTMLParser | LexborNode] = [page.tree]
    found.extend(find_in_source(walk, asked))
    carriers = lazy.carriers(page.text) - asked.attributes
    while waiting:
        tree = waiting.pop()
        found.extend(_search(walk, tree, carriers, asked))
        documents = list(_inner_documents(tree))
        inner += len(documents)
        if inner > _MOST_INNER_DOCUMENTS:
            flaws.append(
                Flaw("depth", f"more than {_MOST_INNER_DOCUMENTS:,} documents inside the page: the rest is left out")
            )
            break
        waiting.extend(reversed(documents))
    return Findings(
        references=tuple(item for item in found if isinstance(item, Reference)),
        needs=tuple(dict.fromkeys(item for item in found if isinstance(item, Need))),
        flaws=tuple(flaws),
        hidden=frozenset(itertools.chain.from_iterable(item.anchors for item in found if isinstance(item, Hiding))),
    )


def _search(walk: Walk, tree: LexborHTMLParser | LexborNode, carriers: set[str], asked: Asked) -> Iterable[Finding]:
    """Yield what stands in one tree, which is the page's or that of a document inside it."""
    # One :is() and not a list of selectors: Lexbor returns a node once for each of a list that it matches.
    for node in tree.css(
        f":is({', '.join((*_WANTED, *(f'[{name}]' for name in sorted(carriers | asked.attributes))))})"
    ):
        tag = (node.tag or "").lower()  # SVG has feImage
        if tag in HEADINGS:
            walk.heading = walk.text(node)
        place = Place(walk, node, node.attributes)
        for finder in _BY_TAG.get(tag, ()):
            yield from finder.find(place)
        if not _BY_ATTRIBUTE.keys().isdisjoint(place.attributes):
            for name in sorted(_BY_ATTRIBUTE.keys() & place.attributes.keys()):
                for finder in _BY_ATTRIBUTE[name]:
                    yield from finder.find(place)
        if not carriers.isdisjoint(place.attributes):
            yield from lazy.find_in_attributes(place, carriers)
        if not asked.attributes.isdisjoint(place.attributes):
            yield from find_in_named(place, asked)


def _inner_documents(tree: LexborHTMLParser | LexborNode) -> Iterator[LexborHTMLParser | LexborNode]:
    """Yield the documents that ``tree`` holds: the content of templates, and ``srcdoc`` frames."""
    yield from tree.template_fragments()
    for frame in tree.css("iframe[srcdoc]"):
        text = frame.attributes.get("srcdoc")
        if text:
            yield LexborHTMLParser(text)
