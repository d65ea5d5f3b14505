"""Which of several pictures in one element is meant, if only one is."""

from selectolax.lexbor import LexborNode

from pickcrate.finders.data.literals import EXTENSION
from pickcrate.finders.place import Walk, dimension

PICTURED = 'img, image, input[type="image"], [style*="url("]'
"""elements that show a picture of their own"""

_SMALLEST = 40
"""Pixels of a side: less is an icon on a picture, not the picture."""

_LONGEST_BLURRED = 4_000
"""Characters of an address that holds a picture reduced to a few pixels, which waits for the picture itself"""

_MOST_COMPARED = 100
"""Pictures in one element of which one may be meant: of more none is."""

_MOST_AROUND = 3
"""elements between a picture and a ``noscript`` around it"""


def only_picture(container: LexborNode) -> LexborNode | None:
    """Return the one picture in an element; None if there is none, or several."""
    meant = _meant(container.css(PICTURED))
    return meant[0] if len(meant) == 1 else None


def picture_alone(walk: Walk, container: LexborNode) -> LexborNode | None:
    """Return what ``only_picture`` does, of an element that many others on the page may ask for."""
    if container.mem_id not in walk.alone:
        walk.alone[container.mem_id] = only_picture(container)
    return walk.alone[container.mem_id]


def first_of_several(walk: Walk, link: LexborNode) -> int | None:
    """Return the first of several pictures in a link, by its node; None if there is only one."""
    if link.mem_id not in walk.first_in_link:
        pictured = link.css(PICTURED)
        meant = _meant(pictured) or pictured
        walk.first_in_link[link.mem_id] = meant[0].mem_id if len(pictured) > 1 else None
    return walk.first_in_link[link.mem_id]


def shows_a_picture(link: LexborNode) -> bool:
    """Tell whether a link wraps an ``img`` or a background, so that its target belongs to that picture."""
    return link.css_first(PICTURED) is not None or "url(" in (link.attributes.get("style") or "")


def _meant(pictured: list[LexborNode]) -> list[LexborNode]:
    """Return those of several pictures that are meant to be looked at.

    An icon beside another is none, nor is what waits for its address, or in the place of another: data in the page.
    What ``noscript`` holds stands for the one before it.
    """
    if not 1 < len(pictured) <= _MOST_COMPARED:
        return pictured
    large = [node for node in pictured if not _is_small(node)]
    shown = [node for node in large if not _waits(node)] or large
    return [node for node in shown if not _is_for_no_scripts(node)] or shown


def _is_small(node: LexborNode) -> bool:
    attributes = node.attributes
    sides = [dimension(attributes.get(side) or "") for side in ("width", "height")]
    return any(side is not None and side < _SMALLEST for side in sides)


def _waits(node: LexborNode) -> bool:
    """Tell whether nothing says what an element will show: it has no address, or only data that keep the place."""
    attributes = node.attributes
    if node.tag != "img":
        style = attributes.get("style") or ""
        return style.count("url(") == 1 and "url(data:" in style.replace("'", "").replace('"', "")
    src = attributes.get("src") or ""
    if attributes.get("srcset") or (src and not (src.startswith("data:") and len(src) <= _LONGEST_BLURRED)):
        return False
    others = (value for name, value in attributes.items() if name != "src" and value)
    return not any("/" in value or EXTENSION.search(value) for value in others)


def _is_for_no_scripts(node: LexborNode) -> bool:
    outer = node.parent
    for _ in range(_MOST_AROUND):
        if outer is None or outer.tag == "noscript":
            break
        outer = outer.parent
    return outer is not None and outer.tag == "noscript"
