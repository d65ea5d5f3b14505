"""Further pages of a list that are asked for by POST: with a button of a form, or a script that sends the page's form.

HTML standard, 4.10.22.3 (form submission), 4.10.22.4 (the entry list). Servers that keep all of a page in one form let
its links send that, with what was pressed in two fields of their own: ``__doPostBack('grid', 'Page$2')``.
"""

from collections.abc import Iterator
from functools import cached_property

from selectolax.lexbor import LexborNode

from pickcrate.addresses.url import origin, without_fragment
from pickcrate.items.pager.controls import Control, forms_of, spoken
from pickcrate.items.pager.pagelinks import Link
from pickcrate.items.said.junk import NEXT
from pickcrate.read.pages.decode import encode_form
from pickcrate.read.pages.forms import NOTHING_SENT, SUBMITTING, control_kind
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.values.item import NextPage
from pickcrate.values.page import Page

_MOST_POSTED = 200
_LONGEST_SCRIPT = 2_000
_LONGEST_FORM = 2_000_000
"""Characters of what is sent: a page's state may have a hundred thousand."""

_SENDS_PAGE = lazy(
    r"(?:__doPostBack|WebForm_PostBackOptions)\(\s{0,9}[\"']([^\"']{1,300})[\"']\s{0,9},\s{0,9}[\"']([^\"']{0,300})[\"']"
)
_TARGET, _ARGUMENT = "__EVENTTARGET", "__EVENTARGUMENT"
_STATES = frozenset(("__VIEWSTATE", _TARGET, "javax.faces.ViewState"))
"""fields of a form that is the whole page, and not something to fill in"""

_SCHEME = "posted"
_NEVER_SENT = frozenset(("button", "reset", "file"))


class Posting:
    """What one page has that is posted: each under an address that no page has, so that it is read as a link."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._forms = page.tree.css("form[method=post i]")
        self._sent: list[tuple[LexborNode, list[tuple[str, str]]]] = []
        self._entries: dict[int, list[tuple[str, str]] | None] = {}
        """what each form sends, None if that is too long"""

    @cached_property
    def _fields(self) -> dict[int, list[LexborNode]]:
        return {form.mem_id: fields for form, fields in forms_of(self._page)}

    def link(self, link: Link) -> Link:
        """Return a link that sends the page's form as one to what that brings; any other as it is."""
        script = link.raw if link.raw[:11].lower() == "javascript:" else link.attributes.get("onclick") or ""
        if not script or not self._forms or len(self._sent) >= _MOST_POSTED:
            return link
        pressed = _SENDS_PAGE.search(script[:_LONGEST_SCRIPT])
        form = self._form_of(link.node) if pressed is not None else None
        if pressed is None or form is None:
            return link
        return Link(link.node, link.attributes, self._kept(form, [(_TARGET, pressed[1]), (_ARGUMENT, pressed[2])]))

    def controls(self) -> Iterator[Control]:
        """Yield the buttons that post a form which has nothing to fill in, or is the whole page."""
        for form in self._forms:
            controls = self._fields.get(form.mem_id, [])
            is_page = any(_name(control) in _STATES for control in controls)
            if not (is_page or all(map(_is_given, controls))):
                continue
            for button in controls:
                if control_kind(button) not in SUBMITTING or "disabled" in button.attributes:
                    continue
                if len(self._sent) >= _MOST_POSTED:
                    return
                label = spoken(button)
                # The next step of an order is called "Next" as well, and is taken by posting.
                if is_page or label.casefold() not in NEXT:
                    pressed = [(_name(button), button.attributes.get("value") or "")] if _name(button) else []
                    yield Control(self._kept(form, pressed), label, says_next=False)

    def page(self, raw: str) -> NextPage | None:
        """Return what one of those addresses stands for; None for any other, and for what leads to another site."""
        scheme, _, number = raw.partition(":")
        place = whole(number) if scheme == _SCHEME else None
        if place is None or place >= len(self._sent):
            return None
        form, pressed = self._sent[place]
        url = self._page.resolve(form.attributes.get("action") or without_fragment(self._page.address))
        if url is None or origin(url) != origin(self._page.address) or form.css_first("[type=password i]") is not None:
            return None
        entries = self._entries_of(form)
        if entries is None:
            return None
        names = {name for name, _ in pressed}
        sent = [*(entry for entry in entries if entry[0] not in names), *pressed]
        return NextPage(without_fragment(url), encode_form(sent, self._page.encoding) or NOTHING_SENT)

    def _entries_of(self, form: LexborNode) -> list[tuple[str, str]] | None:
        if form.mem_id not in self._entries:
            entries = list(_entries(self._fields.get(form.mem_id, [])))
            is_short = sum(len(name) + len(value) for name, value in entries) <= _LONGEST_FORM
            self._entries[form.mem_id] = entries if is_short else None
        return self._entries[form.mem_id]

    def _form_of(self, node: LexborNode) -> LexborNode | None:
        """Return the form that an element lies in, or the page's only one."""
        around: LexborNode | None = node
        while around is not None and around.tag != "form":
            around = around.parent
        return around or (self._forms[0] if len(self._forms) == 1 else None)

    def _kept(self, form: LexborNode, pressed: list[tuple[str, str]]) -> str:
        self._sent.append((form, pressed))
        return f"{_SCHEME}:{len(self._sent) - 1}"


def _name(control: LexborNode) -> str:
    return control.attributes.get("name") or ""


def _is_given(control: LexborNode) -> bool:
    """Tell whether a control leaves a person nothing to say."""
    return control_kind(control) == "hidden" or control_kind(control) in SUBMITTING | _NEVER_SENT


def _entries(fields: list[LexborNode]) -> Iterator[tuple[str, str]]:
    """Yield what a form sends without any of its buttons, as it stands (HTML standard, 4.10.22.4)."""
    for control in fields:
        attributes, kind, name = control.attributes, control_kind(control), _name(control)
        if not name or "disabled" in attributes or kind in SUBMITTING | _NEVER_SENT:
            continue
        if kind == "select":
            yield from ((name, value) for value in _chosen(control))
        elif kind == "textarea":
            yield name, control.text()
        elif kind not in {"checkbox", "radio"}:
            yield name, attributes.get("value") or ""
        elif "checked" in attributes:
            yield name, attributes.get("value") or "on"


def _chosen(choice: LexborNode) -> list[str]:
    """Return the values of what is chosen in a ``select``: of its first option, if it says none and shows one."""
    options = choice.css("option")
    shown = [] if "multiple" in choice.attributes else options[:1]
    chosen = [option for option in options if "selected" in option.attributes] or shown
    values = [(option.attributes.get("value"), option) for option in chosen]
    return [option.text().strip() if value is None else value for value, option in values]
