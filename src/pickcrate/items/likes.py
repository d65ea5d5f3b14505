"""Repetition: which elements of one parent are of one shape.

Nothing is asked of names: two elements are alike by their tags, their first classes, or what they are made of.
"""

import re
from bisect import bisect_left
from functools import lru_cache
from itertools import accumulate

from msgspec import Struct

from pickcrate.finders.place import HEADINGS
from pickcrate.finders.tree import has_between
from pickcrate.items.ground import Ground
from pickcrate.text.lazyre import lazy

_ENTRIES = frozenset(("li", "article", "figure"))
MOST_CHILDREN = 50_000
_LONGEST_LIKE, _LONGEST_CARD = 700, 3_000
"""Characters of text in one of several alike, on the average: more is prose."""
_LONGEST_BETWEEN = 150
_SENTENCE = 45
"""Characters of a paragraph that is one of a text, at least."""
_STATES = lazy(
    r"(?:is|has|js)-.*|active|current|selected|first|last|odd|even|clones?|cloned|"
    r"[a-z]{1,20}-(?:active|current|cloned?|selected|initialized|duplicate|visible|next|prev)(?:-[a-z]{1,20})?|"
    r"visible|hidden|show|shown|open|in-view|lazy\w*|loaded|fade|animated|new|sale|featured|"
    r"big|large|small|wide|tall|left|right|alt",
    re.IGNORECASE,
)

Shape = tuple[str, ...]


class Like(Struct, frozen=True):
    """The elements of one parent that are of one shape; those with a picture are ``pictured``."""

    shape: Shape
    members: tuple[int, ...]
    pictured: int


class Likes:
    """What repeats on a page, parent by parent."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground
        self._likes: dict[int, dict[int, Like]] = {}
        self._shapes: dict[int, Shape] = {}
        self.patterns: set[tuple[Shape, Shape]] = set()
        """the shapes of parents and of the parts that repeat in them, where a class tells them from others"""

    def learn(self, parent: int) -> None:
        """Remember what repeats in ``parent``: the same may stand alone in another like it."""
        for like in self.of(parent).values():
            shapes = self.shape(parent), like.shape
            if any(len(shape) > 1 for shape in shapes) and like.shape[0] != "*":
                self.patterns.add(shapes)

    def of(self, parent: int) -> dict[int, Like]:
        """Return, of each child that is one of several alike, what it is one of."""
        known = self._likes.get(parent)
        if known is None:
            known = self._likes[parent] = self._find(parent)
        return known

    def shape(self, number: int) -> Shape:
        """Return an element's tag, and what it is by its first class that is no state, or by its ``id``."""
        known = self._shapes.get(number)
        if known is None:
            ground = self._ground
            attributes = ground.attributes(number)
            named = _first_kind((attributes.get("class") or "")[:400])
            if not named and (identity := attributes.get("id")):
                named = f"#{_kind(identity[:80])}"
            known = self._shapes[number] = (ground.tags[number], named) if named else (ground.tags[number],)
        return known

    def _find(self, parent: int) -> dict[int, Like]:
        ground = self._ground
        if ground.pictures(parent) < 2:
            return {}
        children = [child for _, child in zip(range(MOST_CHILDREN), ground.children(parent), strict=False)]
        telling = ground.telling(parent)
        pictured = [child for child in children if has_between(telling, child, ground.end[child])]
        if len(pictured) < 2 or is_text(ground, children, pictured):
            return {}
        held = frozenset(pictured)
        lengths = [0, *accumulate(map(ground.length, children))]
        found: dict[int, Like] = {}
        shapes: dict[Shape, list[int]] = {}
        for child in children:
            shapes.setdefault(self.shape(child), []).append(child)
        rest: list[int] = []
        for shape, members in shapes.items():
            if not self._note(found, shape, members, held, (children, lengths)):
                rest.extend(members)
        made: dict[Shape, list[int]] = {}
        for child in sorted(rest):
            made.setdefault(self._made_of(child), []).append(child)
        for shape, members in made.items():
            if len(shape) > 2:
                self._note(found, shape, members, held, (children, lengths))
        return found

    def _note(
        self,
        found: dict[int, Like],
        shape: Shape,
        members: list[int],
        held: frozenset[int],
        all_of: tuple[list[int], list[int]],
    ) -> bool:
        pictured = [member for member in members if member in held]
        if len(pictured) < 2 or len(pictured) * 2 < len(members) or self._is_prose(pictured, members, *all_of):
            return False
        like = Like(shape, tuple(members), len(pictured))
        found.update((member, like) for member in members)
        return True

    def _is_prose(self, pictured: list[int], members: list[int], children: list[int], lengths: list[int]) -> bool:
        """Tell whether pictures only interrupt a text: long parts, or long texts between them.

        ``lengths`` are those of the texts of the first none, one, two … of ``children``.
        """
        ground = self._ground
        tag = ground.tags[pictured[0]]
        longest = _LONGEST_CARD if all(map(self._is_card, pictured)) else _LONGEST_LIKE
        if tag not in _ENTRIES and sum(map(ground.length, pictured)) > longest * len(pictured):
            return True
        if tag in {"li", "tr"}:
            return False
        first, last = bisect_left(children, pictured[0]), bisect_left(children, pictured[-1])
        inside = sum(ground.length(member) for member in members if pictured[0] <= member < pictured[-1])
        return lengths[last] - lengths[first] - inside > _LONGEST_BETWEEN * (len(pictured) - 1)

    def _is_card(self, number: int) -> bool:
        """Tell whether a part is a picture with a heading and one text, however long that is."""
        tags = [self._ground.tags[child] for _, child in zip(range(8), self._ground.children(number), strict=False)]
        return len(set(HEADINGS).intersection(tags)) == 1 and tags.count("p") <= 1

    def _made_of(self, number: int) -> Shape:
        """Return what an element without a class in common with others is made of: the tags right inside it."""
        tags = (self._ground.tags[child] for _, child in zip(range(8), self._ground.children(number), strict=False))
        return ("*", self._ground.tags[number], *tags)


def is_text(ground: Ground, children: list[int], pictured: list[int]) -> bool:
    """Tell whether pictures stand between the paragraphs of a text: several sentences, and some in between."""
    paragraphs = [
        child
        for child in children
        if ground.tags[child] == "p" and ground.length(child) >= _SENTENCE and not ground.pictures(child)
    ]
    return len(paragraphs) > 1 and any(pictured[0] < paragraph < pictured[-1] for paragraph in paragraphs)


@lru_cache(maxsize=1_024)
def _first_kind(classes: str) -> str:
    """Return the first class that says what an element is; empty if none does."""
    return next(filter(None, map(_kind, classes.split())), "") if classes else ""


def _kind(name: str) -> str:
    """Return a class without what tells one of its kind from the next; empty if it only says in what state it is."""
    bare = name.rstrip("0123456789").rstrip("-_")
    return "" if _STATES.fullmatch(name) else bare
