"""What stands between a visitor and a page that shows no picture: a sign-in, or a button to press before all else."""

from collections.abc import Iterator

from pickcrate.elements.words import text_of
from pickcrate.items.pager.controls import spoken
from pickcrate.read.pages.forms import control_kind
from pickcrate.values.findings import SIGN_IN, button_to_press
from pickcrate.values.flaw import Flaw
from pickcrate.values.page import Page

_SIGNS_IN = 'input[type="password" i]'
_BUTTONS = "button, [role=button], input[type=submit i], input[type=button i]"
_FIELDS = "input, select, textarea"
_FILLED_IN = frozenset(("text", "email", "search", "select", "textarea", "tel", "url", "file"))
_MOST_BUTTONS, _MOST_FIELDS = 3, 40
_LONGEST_SAID = 1_000
"""Characters of a page that has little to say but what it asks: one that goes on by a button alone"""


def bars(page: Page) -> Iterator[Flaw]:
    """Yield what a page that shows nothing asks of its visitors first."""
    if page.tree.css_first(_SIGNS_IN) is not None:
        yield Flaw(SIGN_IN, "it asks to sign in")
    elif label := _way_on(page):
        yield button_to_press(label)


def _way_on(page: Page) -> str:
    """Return what the first of a few buttons says, on a page that has hardly anything else."""
    buttons = page.tree.css(_BUTTONS)
    kinds = {control_kind(field) for field in page.tree.css(_FIELDS)[:_MOST_FIELDS]}
    body = page.tree.body
    if not 0 < len(buttons) <= _MOST_BUTTONS or kinds & _FILLED_IN or body is None:
        return ""
    return spoken(buttons[0]) if len(text_of(body)) <= _LONGEST_SAID else ""
