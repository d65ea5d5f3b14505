"""Where in a page something stands: its surroundings, the words around it, and references made from there."""

import re
from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Protocol

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.addresses.url import is_fragment, is_template, leads_somewhere
from pickcrate.elements.around import inherited_by_nodes
from pickcrate.elements.words import Texts
from pickcrate.finders.data.constants import Constants
from pickcrate.finders.data.objectliteral import Effort as Literals
from pickcrate.finders.layers import layers_of
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.finders.style.effort import Effort
from pickcrate.read.pages.decode import encode_query
from pickcrate.read.pages.scripted import LEADS
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Finding
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Box, Reference, Role, Words, fold

_PATH_STEPS = 5
_DIMENSION = lazy(r"[\t\n\x0c\r ]*\+?([0-9]+)(?:\.[0-9]*)?(?![0-9.]*%)")
_NOT_DISPLAYED = lazy(r"(?:^|;)\s*(?:display\s*:\s*none|visibility\s*:\s*hidden)\b", re.IGNORECASE)
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
HEADING_SELECTOR = ", ".join((*HEADINGS, "[role=heading]"))
"""what is a heading (HTML standard, 4.3.6; WAI-ARIA 1.2, ``heading``)"""

LEADING = frozenset("prev previous next up home start begin first last top contents toc index".split())
"""what a page says of the pages around it (HTML standard, 4.6.7; HTML 4.01, 6.12)"""

DEEPEST_ASKED = 200
"""Elements around one that is still asked for the picture inside it: each look costs all of it."""

_MOST_HEAD_LINKS = 200
_MOST_OF_LITERALS = 500_000
"""characters of the scripts of a page that are read as literals"""

_OF_TEX = lazy(r"\s{0,9}\\(?:includegraphics|begin|psfig|eps\w+|centerline|special|resizebox|scalebox)\b")
"""the command that drew a picture, which manuals that were converted from TeX have as its alternative text"""

_ALTERNATIVES = ("alt", "aria-label", "data-alt")
"""the attributes that hold what is said in place of a picture; the last is for a script that puts it there"""

_SAYS_ITSELF = frozenset(("option", "object"))
"""elements whose own text says what is seen there (HTML standard, 4.8.7: the fallback content of an ``object``)"""

SCRIPTS = "script:not([src])"
INLINE_SCRIPTS = f"{SCRIPTS}:not([type*=json i])"
"""the scripts and the data in a page; the scripts alone"""

_MOST_SCRIPT = 2_000_000
"""characters of a page's scripts that are read for what is constant in all of them"""


class Surroundings(Struct, frozen=True):
    """What an element's ancestors, itself included, are to a picture inside it; nearest ones win."""

    path: tuple[str, ...] = ()
    link: LexborNode | None = None
    picture: LexborNode | None = None
    figure: LexborNode | None = None
    table: LexborNode | None = None
    hidden: bool = False
    in_svg: bool = False
    depth: int = 0
    leads: str = ""
    """where an element leads that is no link, as written"""


class Walk:
    """One pass over a page in document order, remembering what was learnt of each ancestor.

    Every ancestor is looked at once a page, so the cost is linear however deep the page nests.
    """

    def __init__(self, page: Page, numbers: Iterator[int]) -> None:
        self.page = page
        self.heading = ""
        self.numbers = numbers
        self._surroundings: dict[int, Surroundings] = {}
        self._texts = Texts(len(page.text))
        self._captions: dict[int, str] = {}
        self.effort = Effort()
        """what the page's own sheets may still cost"""
        self._clusters: dict[int, int] = {}
        self.pictures: dict[int, LexborNode | bool] = {}
        """of elements looked at: the picture that a link in it may belong to, True if there are several, else False"""
        self.alone: dict[int, LexborNode | None] = {}
        """of elements looked at: the only picture in it"""
        self.first_in_link: dict[int, int | None] = {}
        self.literals = Literals(_MOST_OF_LITERALS)
        """of links looked at: the first of several pictures in it"""
        self.held: dict[str, list[Reference]] | None = None
        """the pictures that custom properties of the page's own sheets hold, once somebody asked for them"""
        self._leading: dict[str, str] | None = None
        self.lacks_base = False
        """whether there are relative addresses, and no base for them"""
        self.has_read_pieces = False
        """whether the data that its scripts have in pieces was read, with the first of them"""
        self.holders: list[LexborNode] = []
        """elements that may hold pieces of markup for a script to show"""
        self._lines = Lines(page.text)

    def inside(self, page: Page) -> "Walk":
        """Return a walk over a document inside the page, whose text is a part of the page's."""
        inner = Walk(page, self.numbers)
        # What all of them cost together is bounded. They stay in memory: no two nodes have one ``mem_id``.
        inner.literals, inner.effort = self.literals, self.effort
        inner._texts, inner._lines = self._texts, self._lines
        return inner

    def take_over(self, inner: "Walk") -> None:
        """Take over what was learnt of a document inside the page."""
        self.lacks_base |= inner.lacks_base
        self.holders += inner.holders

    @cached_property
    def constants(self) -> Constants:
        """What is constant in all scripts of the page, taken together."""
        scripts = self.page.tree.css(INLINE_SCRIPTS)
        return Constants("\n".join(script.text() for script in scripts)[:_MOST_SCRIPT], is_shared=True)

    @cached_property
    def layers(self) -> dict[str, LexborNode]:
        """The layers of the page that a click puts in front of it, by their ``id``."""
        return layers_of(self.page.tree)

    def surroundings(self, node: LexborNode) -> Surroundings:
        """Return the surroundings that ``node`` makes for what is inside it."""
        above: list[LexborNode] = []
        climb: LexborNode | None = node
        known = Surroundings()
        while climb is not None and climb.is_element_node:
            if (remembered := self._surroundings.get(climb.mem_id)) is not None:
                known = remembered
                break
            above.append(climb)
            climb = climb.parent
        for element in reversed(above):
            known = _inside(known, element)
            self._surroundings[element.mem_id] = known
        return known

    def text(self, node: LexborNode | None) -> str:
        """Return the text inside ``node``, as ``text_of`` does."""
        return self._texts.of(node) if node is not None else ""

    def caption(self, holder: LexborNode | None, tag: str) -> str:
        """Return the text of the caption of a figure or a table, an element of the tag ``tag``; empty if none is."""
        if holder is None:
            return ""
        known = self._captions.get(holder.mem_id)
        if known is None:
            own = next((child for child in holder.iter() if child.tag == tag), None)
            # A table's caption is right inside it; one further in is that of a table inside.
            inner = self._captions_within.get(holder.mem_id) if own is None else own
            known = self._captions[holder.mem_id] = self.text(inner)
        return known

    @cached_property
    def _captions_within(self) -> dict[int, LexborNode]:
        """The first caption inside each figure, at whatever depth, that is not one of a figure inside it."""
        figures = inherited_by_nodes(lambda outer: outer.mem_id if outer.tag == "figure" else None, otherwise=0)
        captions: dict[int, LexborNode] = {}
        for caption in self.page.tree.css("figcaption"):
            captions.setdefault(figures.of(caption), caption)
        return captions

    def cluster(self, node: LexborNode) -> int:
        """Return the number of the cluster that ``node`` stands for; an ``img`` is one with a ``picture`` around it."""
        if node.tag == "img" and (outer := node.parent) is not None and outer.tag == "picture":
            node = outer
        number = self._clusters.get(node.mem_id)
        if number is None:
            number = self._clusters[node.mem_id] = self.new_cluster()
        return number

    def new_cluster(self) -> int:
        """Return the number of a cluster of its own."""
        return next(self.numbers)

    def resolve(self, raw: str) -> str | None:
        """Return ``raw`` against the page's base URL, or None if it is blank or no address."""
        if not raw.strip():
            return None
        url = self.page.resolve(encode_query(raw, self.page.encoding))
        self.lacks_base |= url is None and self.page.base.startswith("about:")
        return url

    def relation_of(self, link: LexborNode | None, url: str) -> str:
        """Return what the target of a link is to the page, as the link says, and a ``link`` of the page's head."""
        if link is None:
            return ""
        if self._leading is None:
            heads = self.page.tree.css("link[rel][href]")[:_MOST_HEAD_LINKS]
            told = ((self.page.resolve(head.attributes.get("href") or ""), _relation(head)) for head in heads)
            self._leading = {target: relation for target, relation in told if target and relation in LEADING}
        return f"{_relation(link)} {self._leading.get(url, '')}".strip()

    def point(
        self,
        prototype: Reference,
        attribute: str,
        raw: str,
        *,
        role: Role | None = None,
        entry: ImageCandidateString | None = None,
    ) -> Reference | None:
        """Return ``prototype`` pointing at ``raw``; None if that is no address, or one of a place on the page."""
        raw = raw.strip()
        url = self.resolve(raw)
        if url is None or url.startswith(("about:", "javascript:", "mailto:", "blob:")) or raw.startswith("#"):
            return None
        # Spelled out: a changed copy takes longer than all else about a reference.
        return Reference(
            url,
            raw,
            prototype.page,
            prototype.found_in,
            prototype.element,
            attribute,
            prototype.cluster,
            role or prototype.role,
            prototype.words,
            prototype.box,
            prototype.width if entry is None else entry.width,
            prototype.density if entry is None else entry.density,
            prototype.media_type,
            prototype.link,
            prototype.hidden,
            "",
            self.line(raw),
            prototype.rank,
            prototype.anchors,
            prototype.is_outside,
            prototype.trust,
            prototype.relation,
            web_page=prototype.web_page,
        )

    def line(self, raw: str) -> int:
        """Return the line on which ``raw`` stands next, or 0."""
        return self._lines.of(raw)


class Lines:
    """Finds the lines of raw values that are asked for in document order, in time linear in the page."""

    _MOST_MISSES = 64
    """Values that are spelled differently in the source (character references) cost a search to its end each."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._position = 0
        self._line = 1
        self._misses = 0

    def of(self, raw: str) -> int:
        """Return the line of the next place where ``raw`` stands, or 0 if it is not found."""
        if self._misses >= self._MOST_MISSES or not raw:
            return 0
        found = self._text.find(raw, self._position)
        if found < 0 and "&" in raw:
            found = self._text.find(raw.replace("&", "&amp;"), self._position)
        if found < 0:
            self._misses += 1
            return 0
        self._line += self._text.count("\n", self._position, found)
        self._position = found
        return self._line


class Place(Struct, frozen=True):
    """One element that a finder looks at: the node, its attributes, and the walk that came by it."""

    walk: Walk
    node: LexborNode
    attributes: dict[str, str | None]

    @property
    def around(self) -> Surroundings:
        """What the ancestors of the node are to it."""
        parent = self.node.parent
        return self.walk.surroundings(parent) if parent is not None else Surroundings()

    def constants(self) -> Constants:
        """Return what is constant in all scripts of the page."""
        return self.walk.constants

    def get(self, attribute: str) -> str:
        """Return an attribute's value, or an empty text."""
        return self.attributes.get(attribute) or ""

    def resolve(self, raw: str) -> str | None:
        """Return ``raw`` against the page's base URL, or None if it is blank or no address."""
        return self.walk.resolve(raw)

    def prototype(self, found_in: FoundIn, *, cluster: LexborNode | None = None, role: Role = Role.SHOWN) -> Reference:
        """Return a reference with all that is known of this place, for its address to be filled in."""
        around = self.around
        # Of a link that is the picture of the file behind it, none is around.
        is_link = found_in is not FoundIn.LINK and self.node.tag == "a" and bool(target_of(self.attributes))
        link_element = self.node if is_link else around.link
        href = target_of(link_element.attributes).strip() if link_element is not None else ""
        if (leads := self.get(LEADS) or around.leads) and not leads_somewhere(href):
            href = leads
        link = (self.resolve(href) or "") if href else ""
        if href.startswith("#"):  # a place on the page, which the resolved address does not say
            link = f"{link}#"
        return Reference(
            url="",
            raw="",
            page=self.walk.page.address,
            found_in=found_in,
            element=" > ".join((*around.path[1 - _PATH_STEPS :], step(self.node.tag or "", self.attributes))),
            attribute="",
            cluster=self.walk.cluster(cluster) if cluster is not None else self.walk.new_cluster(),
            role=role,
            words=self.words(around, link_element),
            box=Box(dimension(self.get("width")), dimension(self.get("height"))),
            link=link,
            hidden=around.hidden or not_displayed(self.attributes),
            anchors=(self.node.mem_id,),
            trust=self.walk.page.trust,
            relation=self.walk.relation_of(link_element, link),
            web_page=self.walk.page.home,
        )

    def words(self, around: Surroundings, link: LexborNode | None) -> Words:
        """Return the words around this place, and those of its link."""
        walk = self.walk
        said = next(filter(None, map(self.get, _ALTERNATIVES)), "")
        if not said and (instead := self._instead()) is not None:
            said = walk.text(instead)
        return Words(
            alt=_said(said),
            title=_said(self.get("title")),
            caption=walk.caption(around.figure, "figcaption") or walk.caption(around.table, "caption"),
            heading=walk.heading,
            link_text=walk.text(link),
        )

    def _instead(self) -> LexborNode | None:
        """Return the element whose text says what is seen here: a choice, or what stands for an ``object``; or None."""
        if self.node.tag in _SAYS_ITSELF:
            return self.node
        outer = self.node.parent if self.node.tag == "input" else None
        return outer if outer is not None and outer.tag == "label" else None

    def at(self, prototype: Reference, attribute: str, raw: str, *, role: Role | None = None) -> Reference | None:
        """Return ``prototype`` pointing at ``raw``; None if that is no address, or one of a place on the page."""
        return self.walk.point(prototype, attribute, raw, role=role)

    def at_entry(
        self, prototype: Reference, attribute: str, entry: ImageCandidateString, *, role: Role | None = None
    ) -> Reference | None:
        """Return ``prototype`` pointing at an image candidate string, with its descriptor."""
        return self.walk.point(prototype, attribute, entry.url, role=role, entry=entry)


class Find(Protocol):
    """What a finder does: look at one place, return what stands there."""

    def __call__(self, place: Place, /) -> Iterable[Finding]:
        """Return the references at ``place``, the shown one first, and what must be read besides."""


class Finder(Struct, frozen=True):
    """A finder's row in the table: which elements it wants to see, and what it does there.

    Elements are given by their tag names, by attributes they have, or by both, each alone being enough.
    """

    find: Find
    tags: tuple[str, ...] = ()
    attributes: tuple[str, ...] = ()


def _inside(outer: Surroundings, element: LexborNode) -> Surroundings:
    tag, attributes = element.tag or "", element.attributes
    return Surroundings(
        (*outer.path[1 - _PATH_STEPS :], step(tag, attributes)),
        element if tag == "a" and target_of(attributes) else outer.link,
        element if tag == "picture" else outer.picture,
        element if tag == "figure" else outer.figure,
        element if tag == "table" else outer.table,
        outer.hidden or not_displayed(attributes),
        outer.in_svg or tag == "svg",
        outer.depth + 1,
        attributes.get(LEADS) or outer.leads,
    )


def _said(text: str) -> str:
    """Return what an attribute says to people; nothing where it is for a program to fill in, to find, or to draw."""
    return "" if is_template(text) or is_fragment(text) or _OF_TEX.match(text) is not None else fold(text)


def target_of(attributes: dict[str, str | None]) -> str:
    """Return where an ``a`` leads: one in a drawing may say so as links in XML did (SVG 2, 16.1.6)."""
    return attributes.get("href") or attributes.get("xlink:href") or ""


def _relation(element: LexborNode) -> str:
    return (element.attributes.get("rel") or "").strip().lower()


def step(tag: str, attributes: dict[str, str | None]) -> str:
    """Return one step of an element path as a CSS selector: ``"img#map"``, ``"div.grid"``, ``"td"``."""
    if identity := attributes.get("id"):
        return f"{tag}#{identity.strip()[:40]}"
    classes = (attributes.get("class") or "").split()
    return f"{tag}.{classes[0][:40]}" if classes else tag


def not_displayed(attributes: dict[str, str | None]) -> bool:
    """Tell whether an element's own markup keeps it from being shown (``hidden``, or an inline style)."""
    if "hidden" in attributes:
        return True
    style = attributes.get("style")
    return bool(style) and _NOT_DISPLAYED.search(style or "") is not None


def dimension(value: str) -> int | None:
    """Return a dimension attribute in pixels (HTML standard, 2.3.4.4); percentages are no pixels."""
    if value.isdecimal() and value.isascii():  # as most are
        return int(value[:9])
    match = _DIMENSION.match(value)
    return int(match[1][:9]) if match else None
