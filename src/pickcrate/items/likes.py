"""Repetition: which elements of one parent are of one shape, and how pictures and words alternate in it.

Nothing is asked of names: two elements are alike by their tags, their first classes, or what they are made of.
"""

import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from itertools import accumulate, pairwise

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.finders.place import HEADINGS
from pickcrate.item import ItemForm, NamedBy
from pickcrate.items.ground import Ground, heading_level
from pickcrate.items.junk import says_nothing
from pickcrate.items.lines import is_in_sentence
from pickcrate.items.unit import Unit
from pickcrate.lazyre import lazy

_ENTRIES = frozenset(("li", "article", "figure"))
_MOST_CHILDREN = 50_000
_LONGEST_LIKE, _LONGEST_CARD = 700, 3_000
"""Characters of text in one of several alike, on the average: more is prose."""
_LONGEST_BETWEEN = 150
_LONGEST_RUN = 260
_LONGEST_ENTRY = 600
"""Characters in a run that begins with a heading, on the average, if all runs are made alike."""
_SENTENCE = 45
"""Characters of a paragraph that is one of a text, at least."""
_SEVERAL = 3
_OPENING_LEVEL, _LONGEST_OPENING = 7, 80
_LONGEST_JUNK = 40
"""Characters of what may stand on a picture and say nothing: a badge, a price."""
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
        self._runs: dict[int, dict[int, Unit]] = {}
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
        children = [child for _, child in zip(range(_MOST_CHILDREN), ground.children(parent), strict=False)]
        pictured = [child for child in children if ground.pictures(child)]
        if len(pictured) < 2 or self._is_text(children, pictured):
            return {}
        lengths = [0, *accumulate(map(ground.length, children))]
        found: dict[int, Like] = {}
        shapes: dict[Shape, list[int]] = {}
        for child in children:
            shapes.setdefault(self.shape(child), []).append(child)
        rest: list[int] = []
        for shape, members in shapes.items():
            if not self._note(found, shape, members, (children, lengths)):
                rest.extend(members)
        made: dict[Shape, list[int]] = {}
        for child in sorted(rest):
            made.setdefault(self._made_of(child), []).append(child)
        for shape, members in made.items():
            if len(shape) > 2:
                self._note(found, shape, members, (children, lengths))
        return found

    def _is_text(self, children: list[int], pictured: list[int]) -> bool:
        """Tell whether pictures stand between the paragraphs of a text: several sentences, and some in between."""
        ground = self._ground
        paragraphs = [
            child
            for child in children
            if ground.tags[child] == "p" and ground.length(child) >= _SENTENCE and not ground.pictures(child)
        ]
        return len(paragraphs) > 1 and any(pictured[0] < paragraph < pictured[-1] for paragraph in paragraphs)

    def _note(
        self, found: dict[int, Like], shape: Shape, members: list[int], all_of: tuple[list[int], list[int]]
    ) -> bool:
        ground = self._ground
        pictured = [member for member in members if ground.pictures(member)]
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

    # --- runs ---

    def run(self, parent: int, child: int) -> Unit | None:
        """Return the run of picture and words in ``parent`` that a child with a picture belongs to, if there is one."""
        known = self._runs.get(parent)
        if known is None:
            known = self._runs[parent] = dict(self._find_runs(parent))
        return known.get(child)

    def _may_have_runs(self, parent: int) -> bool:
        """Tell whether there is a heading right inside ``parent``, or more than one picture with hardly a word."""
        ground = self._ground
        wordless = 0
        for child in ground.children(parent):
            if heading_level(ground, child) or _opening(ground, child):
                return True
            wordless += ground.pictures(child) > 0 and ground.length(child) <= _LONGEST_JUNK
        return wordless > 1

    def _find_runs(self, parent: int) -> Iterator[tuple[int, Unit]]:
        ground = self._ground
        if ground.pictures(parent) < 2 or ground.tags[parent] in {"table", "tbody", "tr", "ul", "ol", "dl", "picture"}:
            return
        if not self._may_have_runs(parent):
            return
        kids = list(_kids(ground, parent))
        if sum(kid.has_picture for kid in kids) < 2:
            return
        children = [kid.number for kid in kids if kid.number >= 0]
        is_text = self._is_text(children, [kid.number for kid in kids if kid.has_picture])
        segments = _by_headings(kids)
        longest = _LONGEST_RUN
        if segments and (is_text or len(segments) >= _SEVERAL) and _are_alike(kids, segments):
            longest = _LONGEST_ENTRY
        elif is_text:
            return
        else:
            segments = _within_headings(kids, segments) or segments or _by_pictures(kids)
        length = sum(ground.length_of(kids[place].node) for start, end in segments for place in range(start, end))
        if not segments or length > longest * len(segments):
            return
        for start, end in segments:
            nodes = tuple(kid.node for kid in kids[start:end])
            elements = [kid.number for kid in kids[start:end] if kid.number >= 0]
            name = ground.text(elements[0]) if kids[start].level == _OPENING_LEVEL else ""
            end_of = ground.end[elements[-1]]
            unit = Unit(
                ItemForm.RUN, nodes, elements[0], end_of, name=name, named_by=NamedBy.HEADING, like=len(segments)
            )
            yield from ((kid.number, unit) for kid in kids[start:end] if kid.has_picture)


class _Kid(Struct, frozen=True):
    """One child of a parent of runs: what it is to the run."""

    node: LexborNode
    number: int
    """of the element; -1 for a text"""
    kind: str
    has_picture: bool
    level: int = 0
    """of a heading, 1 to 6; 0 for what is none"""

    @property
    def is_picture(self) -> bool:
        """Whether it is a picture without words."""
        return self.kind == "picture"

    @property
    def has_words(self) -> bool:
        return self.kind not in {"picture", "break"}


def _kids(ground: Ground, parent: int) -> Iterator[_Kid]:
    """Yield the children that a person sees."""
    for _, node in zip(range(_MOST_CHILDREN), ground.nodes[parent].iter(include_text=True), strict=False):
        if node.is_text_node:
            if (node.text_content or "").strip():
                yield _Kid(node, -1, "text", has_picture=False)
            continue
        number = ground.number.get(node.mem_id, -1)
        if number < 0:
            continue
        tag, length = ground.tags[number], ground.length(number)
        if is_in_sentence(node):
            yield _Kid(node, number, "text", has_picture=False)
        elif ground.pictures(number):
            is_wordless = not length or (length <= _LONGEST_JUNK and says_nothing(ground.text(number)))
            yield _Kid(node, number, "picture" if is_wordless else "both", has_picture=True)
        elif tag in {"br", "hr"}:
            yield _Kid(node, number, "break", has_picture=False)
        elif length:
            level = heading_level(ground, number) or _opening(ground, number)
            yield _Kid(node, number, "heading" if level else tag, has_picture=False, level=level)


def _opening(ground: Ground, number: int) -> int:
    """Return the level of a button that opens the panel behind it, which is lower than any heading; 0 for others."""
    if ground.tags[number] != "button" or not 0 < ground.length(number) <= _LONGEST_OPENING:
        return 0
    return 0 if says_nothing(ground.text(number)) else _OPENING_LEVEL


def _by_headings(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return the runs that begin with a heading of one level each, if there are such, most with a picture."""
    levels = Counter(kid.level for kid in kids if kid.level)
    if not levels:
        return []
    level, often = max(levels.items(), key=lambda entry: entry[1])
    first_heading = next(place for place, kid in enumerate(kids) if kid.level == level)
    first_picture = next(place for place, kid in enumerate(kids) if kid.has_picture)
    if often < 2 or first_picture < first_heading:
        return []
    bounds = [place for place, kid in enumerate(kids) if 0 < kid.level <= level] + [len(kids)]
    segments = [(start, end) for start, end in pairwise(bounds) if kids[start].level == level]
    pictured = [(start, end) for start, end in segments if any(kid.has_picture for kid in kids[start:end])]
    return pictured if len(pictured) > 1 and len(pictured) >= 0.6 * len(segments) else []


def _within_headings(kids: list[_Kid], segments: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return the runs of pictures and words that stand under headings, if there are several under most of those."""
    runs: list[tuple[int, int]] = []
    several = 0
    for start, end in segments:
        inner = _by_pictures(kids[start + 1 : end])
        several += bool(inner)
        runs += [(start + 1 + first, start + 1 + last) for first, last in inner]
    return runs if several * 2 > len(segments) else []


def _are_alike(kids: list[_Kid], segments: list[tuple[int, int]]) -> bool:
    """Tell whether nearly all runs are made of the same kinds of children, in the same order."""
    patterns = Counter(tuple(kid.kind for kid in kids[start:end]) for start, end in segments)
    return patterns.most_common(1)[0][1] >= 0.8 * len(segments)


def _by_pictures(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return the runs of a picture (or several side by side) with the words behind or before it."""
    groups: list[tuple[int, int]] = []
    for place, kid in enumerate(kids):
        if not kid.is_picture:
            continue
        if groups and not any(between.has_words for between in kids[groups[-1][1] : place]):
            groups[-1] = (groups[-1][0], place + 1)
        else:
            groups.append((place, place + 1))
    if len(groups) < 2:
        return []
    gaps = [_pattern(kids[end:start]) for (_, end), (start, _) in pairwise(groups)]
    usual, often = Counter(gaps).most_common(1)[0]
    if often < 0.6 * len(gaps):
        return []
    head, tail = _pattern(kids[: groups[0][0]]), _pattern(kids[groups[-1][1] :])
    size = len(usual)
    if tail[:size] == usual and not (head[-size:] == usual and tail != usual and head == usual):
        last = groups[-1][1] + _reach(kids[groups[-1][1] :], size)
        ends = [*(start for start, _ in groups[1:]), last]
        return [(start, end) for (start, _), end in zip(groups, ends, strict=True)]
    if head[-size:] == usual:
        first = groups[0][0] - _reach(kids[: groups[0][0]][::-1], size)
        starts = [first, *(end for _, end in groups[:-1])]
        return [(start, end) for start, (_, end) in zip(starts, groups, strict=True)]
    return []


def _pattern(kids: list[_Kid]) -> tuple[str, ...]:
    """Return the kinds of what has words."""
    return tuple(kid.kind for kid in kids if kid.has_words)


def _reach(kids: list[_Kid], words: int) -> int:
    """Return how many children hold the first ``words`` that have words."""
    for place, kid in enumerate(kids):
        words -= kid.has_words
        if words == 0:
            return place + 1
    return len(kids)


@lru_cache(maxsize=1_024)
def _first_kind(classes: str) -> str:
    """Return the first class that says what an element is; empty if none does."""
    return next(filter(None, map(_kind, classes.split())), "") if classes else ""


def _kind(name: str) -> str:
    """Return a class without what tells one of its kind from the next; empty if it only says in what state it is."""
    bare = name.rstrip("0123456789").rstrip("-_")
    return "" if _STATES.fullmatch(name) else bare
