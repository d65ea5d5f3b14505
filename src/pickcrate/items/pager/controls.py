"""What leads on from a page beside its links: buttons, forms, choices, and elements that load more when they are seen.

HTML standard, 4.10.21.3 (form submission: what a form asks for), 4.10.10 (``option``), 8.1.8.1 (event handlers).
"""

from collections.abc import Iterator
from urllib.parse import urlencode

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.elements.around import inherited_by_nodes
from pickcrate.elements.words import text_of
from pickcrate.read.pages.forms import SUBMITTING, control_kind
from pickcrate.read.pages.scripted import MAY_BE_ADDRESS, goes_to
from pickcrate.values.page import Page
from pickcrate.values.reference import fold

_MOST_CONTROLS = 2_000
_MOST_FIELDS, _MOST_IN_FORM = 40, 1_000
_FIELDS = "input, button, select, textarea"
_LONGEST_ADDRESS = 2_000
_LONGEST_LABEL = 40
_LOADING = tuple(
    f"{start}{name}" for start in ("", "data-") for name in ("hx-get", "next-url", "next-href", "next-page")
)
_NAMED = ("data-next", "data-nextpage", "data-next-page-url", "data-url", "data-href", "data-load-more-url", "onclick")
_ATTRIBUTES = (*_LOADING, *_NAMED)
_CONTROLS = ", ".join(f"[{name}]" for name in _ATTRIBUTES) + ", option[value], turbo-frame[src][loading=lazy]"
_VALUED = {"option": "value", "turbo-frame": "src"}


class Control(Struct, frozen=True):
    """An element that a person uses to go on: where it leads, as the page writes it, and what it says."""

    raw: str
    label: str
    says_next: bool
    """whether the name of the attribute that says where it leads says that it leads on"""


def controls(page: Page) -> Iterator[Control]:
    """Yield the controls of a page, the first _MOST_CONTROLS; those whose value is no address are left out."""
    for node in page.tree.css(_CONTROLS)[:_MOST_CONTROLS]:
        attributes = node.attributes
        if "disabled" in attributes:
            continue
        if node.tag in _VALUED:
            yield from _control(attributes.get(_VALUED[node.tag]), "", "")
        for name in _ATTRIBUTES:
            if value := attributes.get(name):
                yield from _control(goes_to(value) if name == "onclick" else value, name, _label(node))
    for form, fields in forms_of(page):
        if (form.attributes.get("method") or "get").strip().lower() == "get":
            yield from _submissions(form, fields[:_MOST_FIELDS])


def forms_of(page: Page) -> Iterator[tuple[LexborNode, list[LexborNode]]]:
    """Yield the forms of a page, each with its fields and buttons, the first _MOST_IN_FORM.

    Those of a form inside another are not the outer one's (HTML standard, 4.10.17.3: form owner).
    """
    forms = page.tree.css("form")[:_MOST_CONTROLS]
    if not forms:
        return
    owners = inherited_by_nodes(lambda outer: outer.mem_id if outer.tag == "form" else None, otherwise=0)
    fields: dict[int, list[LexborNode]] = {}
    for node in page.tree.css(_FIELDS):
        own = fields.setdefault(owners.of(node), [])
        if len(own) < _MOST_IN_FORM:
            own.append(node)
    yield from ((form, fields.get(form.mem_id, [])) for form in forms)


def spoken_of_picture(node: LexborNode) -> str:
    """Return what the picture in an element, or a drawing, says to those who do not see it."""
    inner = node.css_first("img[alt], [aria-label], svg title")
    if inner is None:
        return ""
    return fold(inner.attributes.get("alt") or inner.attributes.get("aria-label")) or text_of(inner)


def spoken(node: LexborNode) -> str:
    """Return what an element says: its words, or what it says to those who do not see it, or its picture's words."""
    attributes = node.attributes
    said = text_of(node) or fold(attributes.get("aria-label") or attributes.get("title") or attributes.get("value"))
    return (said or spoken_of_picture(node))[:_LONGEST_LABEL]


def _label(node: LexborNode) -> str:
    """Return what a button says, or an element with words alone: what holds others is read for nothing."""
    is_plain = node.first_child is None or (node.first_child.is_text_node and node.first_child.next is None)
    return spoken(node) if is_plain or node.tag in {"a", "button"} else ""


def _control(raw: str | None, name: str, label: str) -> Iterator[Control]:
    raw = (raw or "").strip()
    if len(raw) <= _LONGEST_ADDRESS and MAY_BE_ADDRESS.match(raw) is not None:
        yield Control(raw, label, says_next="next" in name)


def _submissions(form: LexborNode, fields: list[LexborNode]) -> Iterator[Control]:
    """Yield what each button of a form asks for that has nothing to fill in."""
    given: list[tuple[str, str]] = []
    buttons: list[LexborNode] = []
    for node in fields:
        kind, name = control_kind(node), node.attributes.get("name")
        if kind in SUBMITTING:
            buttons.append(node)
        elif kind == "hidden" and name:
            given.append((name, node.attributes.get("value") or ""))
        elif name:
            return
    action = (form.attributes.get("action") or "").partition("?")[0]
    for button in buttons:
        name = button.attributes.get("name")
        sent = [*given, (name, button.attributes.get("value") or "")] if name else given
        if sent:
            yield from _control(f"{action}?{urlencode(sent)}", "", spoken(button))
