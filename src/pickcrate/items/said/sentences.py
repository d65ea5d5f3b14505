"""Pictures that are signs in the midst of a sentence."""

from collections.abc import Callable

from selectolax.lexbor import LexborNode

from pickcrate.elements.words import INLINE
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_PLAIN_INLINE = frozenset("b strong i em span u code kbd font tt var samp sub sup cite q abbr".split())
_SIGNS = frozenset(("img", "svg"))
_GOING_ON = frozenset(",;.)")
_LED_TO = frozenset(",(:")
_MOST_AROUND_SIGN = 3
_MOST_BLANK = 20
_LARGEST_SIGN = 64
"""Pixels of a side of a picture that stands in a line of text"""

_NAMED_SIGN = lazy(r"\([^()]{1,40}\)\s*[,.;a-zà-ÿ]")
"""behind a sign that is called something: ``press <img> (Run) to run it``"""


def is_in_sentence(picture: LexborNode) -> bool:
    """Tell whether a picture is a sign in the midst of a sentence: words stand before it, and go on behind it."""
    if picture.tag not in _SIGNS:
        return False
    after = _text_beside(picture, lambda node: node.next)
    if not after or not (after[0].islower() or after[0] in _GOING_ON or _NAMED_SIGN.match(after)):
        return False
    before = _text_beside(picture, lambda node: node.prev)[-1:]
    if not (before.isalnum() or before in _LED_TO):
        return False
    attributes = picture.attributes
    return not any((whole(attributes.get(side) or "") or 0) > _LARGEST_SIGN for side in ("width", "height"))


def _text_beside(node: LexborNode, step: Callable[[LexborNode], LexborNode | None]) -> str:
    """Return the text right beside an element or an inline one around it; blank if there is none."""
    inner: LexborNode | None = node
    for _ in range(_MOST_AROUND_SIGN):
        beside = step(inner) if inner is not None else None
        for _ in range(_MOST_BLANK):
            if beside is None:
                break
            if beside.is_element_node and beside.tag not in _PLAIN_INLINE:
                return ""
            if text := (beside.text_content or "").strip():
                return text
            beside = step(beside)
        inner = inner.parent if inner is not None else None
        if inner is None or inner.tag not in INLINE:
            break
    return ""
