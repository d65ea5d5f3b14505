"""What the style sheets of one page may cost: a page may have more rules than anybody has time."""

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.read.pages.bounds import within_bounds
from pickcrate.read.pages.flattree import may_frame
from pickcrate.text.lazyre import lazy
from pickcrate.values.page import Page

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser

_MOST_HIDING_RULES = 150
"""Of all sheets of a page: what it hides is worth knowing, but not at any price."""

_MOST_SEARCHED = 1_000_000_000
"""Characters of a page times the selectors that are held against it: about two seconds."""

_FEW_SELECTORS = 32
"""Selectors that are held against a page without a look at the names in it, which costs as much as some thirty do."""

_PLAIN = lazy(r"[\w\s.#>+~*-]++")
"""a selector without escapes, attributes and functions: every class and id in it must be there"""

_NAME = lazy(r"[.#]([\w-]++)")
USE = lazy(r"var\(\s*+(--[-\w]{1,200})", re.IGNORECASE)
"""where a value takes that of a custom property (CSS Custom Properties 1, 3)"""

_MOST_USERS, _MOST_OF_ONE = 20_000, 50
"""elements whose attributes use custom properties, and those that are told of one property"""

_TEMPLATE = lazy(r"(</?)template\b", re.IGNORECASE)
_MOST_FRAMES = 1_000
"""frames with a text of their own, whose elements rules are held against"""

LONGEST_SELECTOR = 20_000
"""Characters of a rule's selectors, with those of the rules around it."""


class Effort(Struct):
    """What the sheets of one page may still cost: rules that hide, and characters that rules are held against."""

    hiding_rules: int = _MOST_HIDING_RULES
    characters: int = _MOST_SEARCHED

    asked: int = 0
    names_in: "dict[LexborHTMLParser, frozenset[str]]" = field(default_factory=dict)
    """the classes and ids of documents, in lower case: where there is no doctype, case does not count"""

    _users: dict[str, list[int]] | None = None
    _opened: "dict[LexborHTMLParser, LexborHTMLParser | None]" = field(default_factory=dict)

    def users(self, page: Page) -> dict[str, list[int]]:
        """Return the custom properties that ``style`` attributes of a page use, each with some elements that do."""
        if self._users is None:
            self._users = {}
            for node in page.tree.css("[style*='--']")[:_MOST_USERS]:
                for name in USE.findall(node.attributes.get("style") or ""):
                    known = self._users.setdefault(name, [])
                    if len(known) < _MOST_OF_ONE:
                        known.append(node.mem_id)
        return self._users

    def may_select(self, selectors: Sequence[str], page: Page) -> bool:
        """Tell whether any of some selectors may select something, by the classes and ids in them.

        Most rules of a style sheet that many pages share have names that a single page does not.
        """
        self.asked += 1
        if self.asked <= _FEW_SELECTORS:
            return True
        names = self.names_in.get(page.tree)
        if names is None:
            names = self.names_in[page.tree] = _names_in(self.opened(page) or page.tree)
        return any(
            _PLAIN.fullmatch(selector) is None or names.issuperset(map(str.lower, _NAME.findall(selector)))
            for selector in selectors
        )

    def opened(self, page: Page) -> "LexborHTMLParser | None":
        """Return a page's tree with what is in its templates and its frames' own text in the open; None if it has none.

        A selector takes templates and frames for empty (HTML standard, 4.12.3 and 4.8.5); what scripts make of
        templates is shown all the same.
        """
        if page.tree not in self._opened:
            self._opened[page.tree] = _opened(page)
        return self._opened[page.tree]

    def allows(self, selector: str, page: Page) -> bool:
        """Tell whether a selector may still be held against ``page``, and count it."""
        self.characters -= (len(page.text) + 1_000) * (1 + selector.count(","))
        return len(selector) <= LONGEST_SELECTOR and self.characters > 0


def _names_in(tree: "LexborHTMLParser") -> frozenset[str]:
    names: set[str] = set()
    for node in tree.css(":is([class], [id])"):
        attributes = node.attributes
        names.update((attributes.get("class") or "").lower().split())
        names.add((attributes.get("id") or "").lower())
    return frozenset(names)


def _opened(page: Page) -> "LexborHTMLParser | None":
    from selectolax.lexbor import LexborHTMLParser  # noqa: PLC0415 (few pages need it)

    frames = page.tree.css("iframe[srcdoc]")[:_MOST_FRAMES] if may_frame(page.text) else ()
    if not frames and page.tree.css_first("template") is None:
        return None
    text = _TEMPLATE.sub(r"\1opened-template", page.text)
    return LexborHTMLParser(within_bounds("".join((text, *(frame.attributes["srcdoc"] or "" for frame in frames))))[0])
