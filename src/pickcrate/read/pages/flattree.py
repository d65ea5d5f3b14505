"""The flat tree of a page: what its shadow roots and the frames in its text hold stands where it is shown.

HTML standard, 4.12.3 (``shadowrootmode``) and 4.8.5 (``srcdoc``); DOM standard, 4.2.2 (slots, and what is assigned to
them); CSS Scoping 1, 3.4 (flattening). So a picture in a component has its item, its heading and its caption as any
other has.
"""

from collections import deque
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.addresses.url import decode_data
from pickcrate.read.pages.bounds import within_bounds
from pickcrate.read.pages.decode import decode

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser, LexborNode

    _Parts = tuple[list[LexborNode], list[LexborNode]]

# One :is() each: of a list of selectors Lexbor returns an element once for each that it matches.
_ROOTS = "template:is([shadowrootmode], [shadowmode], [shadowroot])"
"""as the standard spells it; as browsers do in MHTML; as some did before it was a standard"""

_HOSTS = frozenset("article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split())
"""elements that may have a shadow root (DOM standard, 4.9), besides custom elements"""

_WRITTEN = ("srcdoc", "srcDoc", "SRCDOC")
"""the attribute as people write it, and as programs do"""
_FRAMES = "iframe:is([srcdoc]:not([srcdoc='']), [src^='data:text/html' i])"
_MOST_FRAMES = 1_000
_KEPT_OF_FRAMES = ("id", "class", "style", "hidden", "title", "aria-label")

_MOST_NESTED = 50
"""shadow roots and frames inside one another"""

_DEEPEST = 5_000
"""elements around a slot: slots may be filled with what has slots"""

_MOST_STEPS = 5_000_000
"""from slots to the elements around them, in all: about two seconds"""


def flatten(tree: "LexborHTMLParser", text: str) -> dict[int, int]:
    """Put the shadow roots of a document, and its frames, into its tree, which was made of ``text``.

    Returns which root or frame each element of one is of, by its ``mem_id``. What is not shown stands in a hidden
    element behind its root: children of a host for which there is no slot, and what a slot shows where it gets none.
    """
    flat = _FlatTree(tree)
    has_templates = "<template" in text or "<TEMPLATE" in text
    has_frames = may_frame(text) or "data:text/html" in text
    if has_templates or has_frames:
        flat.place_all()
        flat.unwrap_slots()
    return flat.scopes


def may_frame(text: str) -> bool:
    """Tell whether the text of a page may hold a frame's own text; asking the tree takes ten times as long."""
    return any(written in text for written in _WRITTEN)


class _FlatTree(Struct):
    """A tree whose shadow roots and frames are put in their places, the outer ones first."""

    tree: "LexborHTMLParser"
    scopes: dict[int, int] = field(default_factory=dict)
    _hosts: set[int] = field(default_factory=set)
    _filled: "dict[int, LexborNode]" = field(default_factory=dict)
    _steps: int = _MOST_STEPS
    _frames: int = 0

    def place_all(self) -> None:
        """Put all roots and frames in their places; each part of the page is looked through once."""
        waiting = deque([(0, *_inside(self.tree))])
        while waiting:
            depth, templates, frames = waiting.popleft()
            inner = [*self._attach_all(templates), *self._open_all(frames)]
            waiting.extend((depth + 1, *parts) for parts in inner if depth < _MOST_NESTED)

    def _attach_all(self, templates: "list[LexborNode]") -> "Iterator[_Parts]":
        """Put the roots that templates hold in their places; yield what is in each."""
        chosen = []
        for template in templates:  # before any of them is moved
            host, root = template.parent, _content_of(template)
            # Of several in one host the first is its root; the others are templates.
            if host is not None and root is not None and host.mem_id not in self._hosts and _may_have_root(host):
                self._hosts.add(host.mem_id)
                chosen.append((template, host, root))
        for template, host, root in chosen:
            yield _inside(root)
            self._attach(template, host, root)

    def _open_all(self, frames: "list[LexborNode]") -> "Iterator[_Parts]":
        """Put what frames hold in their places; yield what is in each."""
        for frame in frames[: _MOST_FRAMES - self._frames]:
            self._frames += 1
            attributes = frame.attributes
            shown, document = self.tree.create_node("div"), self.tree.create_node("html")
            document.inner_html = within_bounds(_text_of_frame(attributes))[0]  # with a head and a body
            shown.insert_child(document, move=True)
            for name in _KEPT_OF_FRAMES:
                if name in attributes:
                    shown.attrs[name] = attributes[name] or ""
            self._note(shown, shown.mem_id)
            yield _inside(shown)
            frame.insert_before(shown, move=True)
            frame.remove()

    def _note(self, root: "LexborNode", number: int) -> None:
        self.scopes.update(dict.fromkeys((node.mem_id for node in root.css("*")), number))

    def _attach(self, template: "LexborNode", host: "LexborNode", root: "LexborNode") -> None:
        """Put the root of a host, which its template holds, in its place, and the host's children into its slots."""
        self._note(root, template.mem_id)
        slots = {slot.attributes.get("name") or "": slot for slot in reversed(root.css("slot"))}
        unseen = self.tree.create_node("slot")
        unseen.attrs["hidden"] = ""
        for child in _children(host):
            if child.mem_id != template.mem_id:
                name = (child.attributes.get("slot") or "") if child.is_element_node else ""
                self._assign(child, slots.get(name), unseen)
        for child in _children(root):
            template.insert_before(child, move=True)
        if unseen.first_child is not None:
            template.insert_before(unseen, move=True)
        template.remove()

    def _assign(self, child: "LexborNode", slot: "LexborNode | None", unseen: "LexborNode") -> None:
        """Move a child of a host into its slot; to what is not seen if there is none, or none that is in reach."""
        if slot is None or not self._may_fill(slot):
            unseen.insert_child(child, move=True)
            return
        if slot.mem_id not in self._filled:
            self._filled[slot.mem_id] = slot
            for instead in _children(slot):
                unseen.insert_child(instead, move=True)
        slot.insert_child(child, move=True)

    def _may_fill(self, slot: "LexborNode") -> bool:
        if slot.mem_id in self._filled:
            return True
        depth, outer = 0, slot.parent
        while outer is not None and depth < _DEEPEST:
            depth, outer = depth + 1, outer.parent
        self._steps -= depth
        return outer is None and self._steps > 0

    def unwrap_slots(self) -> None:
        """Take away the slots around what fills them, which have no box of their own (CSS Display 3, 2.5)."""
        for slot in self._filled.values():
            slot.unwrap()


def _inside(part: "LexborHTMLParser | LexborNode") -> "_Parts":
    """Return the templates that may be roots, and the frames, that are in a part and in no other inside it."""
    return part.css(_ROOTS), part.css(_FRAMES)


def _content_of(template: "LexborNode") -> "LexborNode | None":
    """Return what a template holds; None for an element of SVG or MathML, which holds nothing apart from the tree."""
    found = next(iter(template.template_fragments()), None)
    is_own = found is not None and found.parent is not None and found.parent.mem_id == template.mem_id
    return found if is_own else None


def _may_have_root(element: "LexborNode") -> bool:
    return element.tag in _HOSTS or "-" in (element.tag or "")


def _text_of_frame(attributes: Mapping[str, str | None]) -> str:
    """Return the document in a frame's own attributes; ``srcdoc`` goes before ``src``."""
    if text := attributes.get("srcdoc"):
        return text
    media_type, octets = decode_data(attributes.get("src") or "") or ("", b"")
    return decode(octets, media_type.rpartition("charset=")[2]).text


def _children(node: "LexborNode") -> "list[LexborNode]":
    return list(node.iter(include_text=True))
