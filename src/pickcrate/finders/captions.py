"""Captions that are such by their class alone, as in blogs, wikis and manuals older than ``figcaption``."""

from collections.abc import Callable
from itertools import islice

from pickcrate.finders.place import not_displayed
from pickcrate.finders.tree import Tree

CALLED_CAPTION = "[class*=caption], [class*=Caption], .gallerytext, :is(.imageblock, .figure, .mediaobject) > .title"
_NONE_BY_TAG = frozenset(("button", "label", "input", "select", "figcaption", "caption", "track", "body"))
_LISTS = frozenset(("ul", "ol", "dl", "nav"))
_CLIMBED = 3
"""Elements around a caption in which its picture is looked for."""

_WHOLES = frozenset(("body", "main", "article", "section", "html"))
"""what holds very much: a caption's picture is in there only if both stand right in it"""

_FIGURES = frozenset(("figure", "example", "table", "listing", "equation"))
"""what has a caption of its own, by its tag or by the class that manuals give it"""


def is_called_caption(tree: Tree, number: int) -> bool:
    """Tell whether an element that CALLED_CAPTION selects may be a picture's caption: it is seen, and not a film's."""
    attributes = tree.attributes(number)
    if tree.tags[number] in _NONE_BY_TAG or not_displayed(attributes):
        return False
    return attributes.get("role") != "heading" and "captions" not in (attributes.get("class") or "").lower()


def holder_of(tree: Tree, number: int, has_picture: Callable[[int], bool]) -> int | None:
    """Return the element around a caption that holds its picture too; None if there is none near it."""
    for climbed, outer in enumerate(islice(tree.above(tree.parent[number]), _CLIMBED)):
        if climbed and (tree.tags[outer] in _WHOLES or _heads_a_list(tree, number)):
            break
        if has_picture(outer):
            return outer
        if tree.tags[outer] in _FIGURES or not _FIGURES.isdisjoint(tree.attribute(outer, "class").split()):
            break  # what it is about is no picture
    return None


def _heads_a_list(tree: Tree, number: int) -> bool:
    """Tell whether a list follows an element: it is the heading of a menu, where no picture stands right beside it."""
    behind = tree.behind(number)
    return behind is not None and tree.tags[behind] in _LISTS
