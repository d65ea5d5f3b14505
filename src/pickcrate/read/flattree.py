"""The flat tree of a page with shadow roots in its text: what they hold stands where it is shown.

HTML standard, 4.12.3 (``shadowrootmode``); DOM standard, 4.2.2 (slots, and what is assigned to them); CSS Scoping 1,
3.4 (flattening). So a picture in a component has its item, its heading and its caption as any other has.
"""

from typing import TYPE_CHECKING

from msgspec import Struct, field

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser, LexborNode

_ROOTS = ", ".join(f"template[{name}]" for name in ("shadowrootmode", "shadowmode", "shadowroot"))
"""as the standard spells it; as browsers do in MHTML; as some did before it was a standard"""

_HOSTS = frozenset("article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split())
"""elements that may have a shadow root (DOM standard, 4.9), besides custom elements"""

_MOST_NESTED = 50
"""shadow roots inside one another"""

_DEEPEST = 5_000
"""elements around a slot: slots may be filled with what has slots"""

_MOST_STEPS = 5_000_000
"""from slots to the elements around them, in all: about two seconds"""


def flatten(tree: "LexborHTMLParser", text: str) -> dict[int, int]:
    """Put the shadow roots of a document into its tree, which was made of ``text``.

    Returns which root each element of one is of, by its ``mem_id``. What is not shown stands in a hidden element behind
    its root: children of a host for which there is no slot, and what a slot shows where it gets none.
    """
    flat = _FlatTree(tree)
    if "<template" in text or "<TEMPLATE" in text:
        for _ in range(_MOST_NESTED):
            if not flat.attach_outermost():
                break
        flat.unwrap_slots()
    return flat.roots


class _FlatTree(Struct):
    """A tree whose shadow roots are put in their places, the outer ones first."""

    tree: "LexborHTMLParser"
    roots: dict[int, int] = field(default_factory=dict)
    _hosts: set[int] = field(default_factory=set)
    _plain: set[int] = field(default_factory=set)
    """templates that are none: of elements that have no root, or one already"""
    _filled: "dict[int, LexborNode]" = field(default_factory=dict)
    _steps: int = _MOST_STEPS

    def attach_outermost(self) -> bool:
        """Put the roots that are in no other one in their places; tell whether there were any."""
        outermost = []
        for template in self.tree.css(_ROOTS):
            host = template.parent
            if host is None or template.mem_id in self._plain:
                continue
            if host.mem_id in self._hosts or not _may_have_root(host):
                self._plain.add(template.mem_id)
                continue
            self._hosts.add(host.mem_id)
            outermost.append((template, host))
        for template, host in outermost:
            self._attach(template, host)
        return bool(outermost)

    def _attach(self, template: "LexborNode", host: "LexborNode") -> None:
        root = template.template_fragments()[0]
        self.roots.update(dict.fromkeys((node.mem_id for node in root.css("*")), template.mem_id))
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


def _may_have_root(element: "LexborNode") -> bool:
    return element.tag in _HOSTS or "-" in (element.tag or "")


def _children(node: "LexborNode") -> "list[LexborNode]":
    return list(node.iter(include_text=True))
