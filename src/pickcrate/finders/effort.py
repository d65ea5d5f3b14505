"""What the style sheets of one page may cost: a page may have more rules than anybody has time."""

from msgspec import Struct

from pickcrate.values import Page

_MOST_HIDING_RULES = 150
"""Of all sheets of a page: what it hides is worth knowing, but not at any price."""

_MOST_SEARCHED = 1_000_000_000
"""Characters of a page times the selectors that are held against it: about two seconds."""

LONGEST_SELECTOR = 20_000
"""Characters of a rule's selectors, with those of the rules around it."""


class Effort(Struct):
    """What the sheets of one page may still cost: rules that hide, and characters that rules are held against."""

    hiding_rules: int = _MOST_HIDING_RULES
    characters: int = _MOST_SEARCHED

    def allows(self, selector: str, page: Page) -> bool:
        """Tell whether a selector may still be held against ``page``, and count it."""
        self.characters -= (len(page.text) + 1_000) * (1 + selector.count(","))
        return len(selector) <= LONGEST_SELECTOR and self.characters > 0
