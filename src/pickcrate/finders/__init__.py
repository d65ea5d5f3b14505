"""From a page to its references. A new place where pictures hide is one module here and one row of FINDERS."""

import itertools
from collections.abc import Callable, Collection, Iterable, Iterator
from functools import partial

from msgspec import Struct
from selectolax.lexbor import LexborHTMLParser

from pickcrate.elements.selectors import readable
from pickcrate.finders import (
    custom,
    embedded,
    fetched,
    frames,
    images,
    lazy,
    links,
    metadata,
    scripts,
    styles,
    tiled,
    viewers,
)
from pickcrate.finders.asked import find_in_named, find_in_source
from pickcrate.finders.mentions import mentioned
from pickcrate.finders.pieces import may_hold_markup, page_in, page_of, read_in_pieces
from pickcrate.finders.place import HEADINGS, Find, Finder, Place, Walk
from pickcrate.values.findings import NO_BASE, Finding, Findings, Hiding, Need, Piece
from pickcrate.values.flaw import Flaw
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference
from pickcrate.values.wanted import Asked

FINDERS: tuple[Finder, ...] = (
    metadata.LINK_ELEMENT,
    metadata.META,
    metadata.PROPERTY,
    images.IMG,
    images.SOURCE,
    links.LINK,
    embedded.BUTTON,
    embedded.POSTER,
    embedded.CANVAS,
    embedded.BACKGROUND,
    embedded.OBJECT,
    embedded.PARAMETER,
    embedded.VALUE,
    embedded.SVG_IMAGE,
    embedded.SVG,
    styles.STYLE_ELEMENT,
    styles.STYLE_ATTRIBUTE,
    styles.LINKED_SHEET,
    scripts.SCRIPT,
    scripts.HIDDEN_TEXT,
    scripts.MARKDOWN,
    frames.FRAME,
    frames.EMBEDDED,
)

_NOTHING = Asked()
_MOST_INNER_DOCUMENTS = 1000
"""Templates and ``srcdoc`` frames, one inside the other or side by side: more are no page's."""

MOST_REFERENCES = 100_000
_MOST_NAMES = 2_000
_MOST_FLAWS = 20

_BY_TAG: dict[str, list[Find]] = {}
_BY_ATTRIBUTE: dict[str, list[Find]] = {}
for _finder in FINDERS:
    for _tag in _finder.tags:
        _BY_TAG.setdefault(_tag, []).append(_finder.find)
    for _attribute in _finder.attributes:
        _BY_ATTRIBUTE.setdefault(_attribute, []).append(_finder.find)
_SIGNS = (*tiled.SIGNS, *viewers.SIGNS_OF_MANIFESTS, *fetched.SIGNS_OF_DATA_FILES)
_HIDING = frozenset(("hidden", "style"))
"""attributes by which an element may keep what is in it from being shown"""

_WANTED = (*_BY_TAG, *HEADINGS, *(f"[{name}]" for name in _BY_ATTRIBUTE))


def find(page: Page, numbers: Iterator[int] | None = None, asked: Asked = _NOTHING) -> Findings:
    """Return every reference to an image in ``page``, in document order, and what must be read besides.

    ``numbers`` gives clusters their numbers: hand the same iterator to all documents of one page. ``asked`` is what
    the user wants found besides.
    """
    walk = Walk(page, numbers if numbers is not None else itertools.count())
    flaws: list[Flaw] = []
    signs = mentioned(page.text, _SIGNS)
    pieces: list[Piece] = []
    found = list(itertools.islice(_find(walk, asked, signs, flaws, pieces), MOST_REFERENCES + 1))
    if walk.holders:
        search = partial(_search_piece, numbers=walk.numbers, flaws=flaws)
        found, piece = read_in_pieces(page, walk.holders, found, search)
        pieces += () if piece is None else (piece,)
    if len(found) > MOST_REFERENCES:
        del found[MOST_REFERENCES:]
        flaws.append(Flaw("references", f"more than {MOST_REFERENCES:,} pictures on one page: the rest is left out"))
    shown = sum(isinstance(item, Reference) and item.is_on_page for item in found)
    names_files = not signs.isdisjoint(fetched.SIGNS_OF_DATA_FILES)
    found += _guarded("what scripts ask for", lambda: fetched.find_fetched(page, shown, names_files=names_files), flaws)
    if walk.lacks_base:
        flaws.append(Flaw(NO_BASE, "its addresses are relative, and nothing says where the page came from"))
    return Findings(
        references=tuple(item for item in found if isinstance(item, Reference)),
        needs=tuple(dict.fromkeys(item for item in found if isinstance(item, Need))),
        flaws=tuple(flaws),
        hidden=frozenset(itertools.chain.from_iterable(item.anchors for item in found if isinstance(item, Hiding))),
        pieces=tuple(pieces),
    )


def _find(walk: Walk, asked: Asked, signs: frozenset[str], flaws: list[Flaw], pieces: list[Piece]) -> Iterator[Finding]:
    """Yield what stands in the page and in the documents inside it, and note these with what is theirs."""
    yield from _guarded("the Link field", lambda: metadata.find_in_link_field(walk), flaws)
    yield from find_in_source(walk, asked)
    if not signs.isdisjoint(viewers.SIGNS_OF_MANIFESTS):
        yield from _guarded("manifests", lambda: viewers.find_manifests(walk.page), flaws)
    if not signs.isdisjoint(tiled.SIGNS):
        yield from _guarded("descriptions of tiles", lambda: tiled.find_tilings(walk), flaws)
    named = _named(walk.page.text, asked)
    yield from _search(walk, walk.page.tree, named, asked, flaws)
    for number, inner in enumerate(_inner_documents(walk.page)):
        if number == _MOST_INNER_DOCUMENTS:
            words = f"more than {_MOST_INNER_DOCUMENTS:,} documents inside the page: the rest is left out"
            flaws.append(Flaw("depth", words))
            return
        inside = walk.inside(inner)
        found = list(_search(inside, inner.tree, named, asked, flaws))
        walk.take_over(inside)
        pieces.append(Piece(inner, tuple(item for item in found if isinstance(item, Reference))))
        yield from found


class _Named(Struct, frozen=True):
    """What a page's source names that may hold addresses: attributes that have no finder, and custom elements."""

    attributes: set[str]
    elements: frozenset[str]

    def selectors(self, asked: Asked) -> Iterator[str]:
        """Yield what selects all elements in which there may be a picture."""
        yield from _WANTED
        yield from (f"[{_identifier(name)}]" for name in sorted(self.attributes | asked.attributes)[:_MOST_NAMES])
        yield from (f"{tag}[{name}]" for tag in sorted(self.elements) for name in custom.ATTRIBUTES)


def _named(text: str, asked: Asked) -> _Named:
    return _Named(lazy.carriers(text) - asked.attributes, frozenset(custom.names_in(text)))


def _identifier(name: str) -> str:
    """Return a name as selectors write it (CSSOM, 2.1: serialize an identifier): ``:src`` has a sign of theirs."""
    escaped = "".join(letter if letter.isalnum() or letter in "-_" else f"\\{letter}" for letter in name)
    return f"\\{ord(name[0]):x} {escaped[1:]}" if name[:1].isdigit() else escaped


def _search_piece(page: Page, numbers: Iterator[int], flaws: list[Flaw]) -> list[Reference]:
    """Return the references in a piece of markup that is a page by itself."""
    found = _search(Walk(page, numbers), page.tree, _named(page.text, _NOTHING), _NOTHING, flaws)
    return [item for item in found if isinstance(item, Reference)]


def _search(walk: Walk, tree: LexborHTMLParser, named: _Named, asked: Asked, flaws: list[Flaw]) -> Iterator[Finding]:
    """Yield what stands in one tree, which is the page's or that of a document inside it."""
    looks: dict[tuple[str, ...], tuple[Find, ...]] = {}  # elements with the same attributes are many
    for node in tree.css(readable(", ".join(named.selectors(asked)))):
        tag = (node.tag or "").lower()  # SVG has feImage
        if tag in HEADINGS:
            walk.heading = walk.text(node)
        place = Place(walk, node, node.attributes)
        kind = (tag, *place.attributes)
        if kind not in looks:
            looks[kind] = tuple(_looks(tag, place.attributes, named, asked))
        for look in looks[kind]:
            try:  # not ``_guarded``: at so many places its generator would be a twentieth of the search
                yield from look(place)
            except Exception as error:  # noqa: BLE001 (a page may be made to trip up any code)
                _note(tag, error, flaws)


def _note_holder(place: Place, names: Collection[str]) -> Iterable[Finding]:
    """Note an element that may have a piece of markup for a script to show: in itself, or in an attribute."""
    node = place.node
    text = (node.text() or "") if node.tag == "script" else scripts.hidden_text(node, place.attributes)
    if may_hold_markup(text) or any("<" in (said := place.get(name)) and may_hold_markup(said) for name in names):
        place.walk.holders.append(node)
    return ()


def _looks(tag: str, attributes: Collection[str], named: _Named, asked: Asked) -> Iterator[Find]:
    """Yield all that may find something at an element with these attributes."""
    yield from _BY_TAG.get(tag, ())
    if not _BY_ATTRIBUTE.keys().isdisjoint(attributes):
        for name in sorted(_BY_ATTRIBUTE.keys() & attributes):
            yield from _BY_ATTRIBUTE[name]
    if tag in named.elements:
        yield custom.find_in_custom
    if names := named.attributes.intersection(attributes):
        yield partial(lazy.find_in_attributes, names=named.attributes)
    if not asked.attributes.isdisjoint(attributes):
        yield partial(find_in_named, asked=asked)
    if names or tag == "script" or not _HIDING.isdisjoint(attributes):
        yield partial(_note_holder, names=names)


def _guarded(what: str, look: Callable[[], Iterable[Finding]], flaws: list[Flaw]) -> Iterator[Finding]:
    """Yield what a finder finds at one place; whatever it trips over there costs that place and no more."""
    try:
        yield from look()
    except Exception as error:  # noqa: BLE001 (a page may be made to trip up any code)
        _note(what, error, flaws)


def _note(what: str, error: Exception, flaws: list[Flaw]) -> None:
    if len(flaws) < _MOST_FLAWS:
        flaws.append(Flaw("finder", f"<{what}> could not be read: {type(error).__name__}: {str(error)[:100]}"))


def _inner_documents(page: Page) -> Iterator[Page]:
    """Yield the documents that a page holds, and those inside them, in order."""
    waiting = [_documents_in(page.tree, page)]
    while waiting:
        inner = next(waiting[-1], None)
        if inner is None:
            waiting.pop()
        else:
            yield inner
            waiting.append(_documents_in(inner.tree, page))


def _documents_in(tree: LexborHTMLParser, page: Page) -> Iterator[Page]:
    """Yield what the templates in one tree of a page hold, and its ``srcdoc`` frames."""
    for fragment in tree.template_fragments():
        yield page_in(page, fragment)
    for frame in tree.css("iframe[srcdoc]"):
        text = frame.attributes.get("srcdoc")
        if text:
            yield page_of(page, text)
