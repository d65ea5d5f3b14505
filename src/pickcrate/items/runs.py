"""Runs: how pictures and words alternate among the children of one element, without anything around each."""

from collections import Counter
from collections.abc import Iterator
from itertools import pairwise

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.finders.tree import has_between
from pickcrate.items.ground import Ground, heading_level
from pickcrate.items.likes import MOST_CHILDREN, Likes, Shape, is_text
from pickcrate.items.said.junk import says_nothing
from pickcrate.items.said.sentences import is_in_sentence
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm, NamedBy

_LONGEST_RUN = 260
_LONGEST_ENTRY = 600
"""Characters in a run that begins with a heading, on the average, if all runs are made alike."""

_SEVERAL = 3
_BUTTON_LEVEL, _BOLD_LEVEL = 7, 8
_OPENINGS = {"button": _BUTTON_LEVEL, "p": _BOLD_LEVEL}
_LONGEST_OPENING = 80
_LONGEST_JUNK = 40
"""Characters of what may stand on a picture and say nothing: a badge, a price."""

_PART = "part"
"""what has words and several pictures: a part of the page, and of no run"""

_IDLE = "idle"
"""what has words, none of which say anything: a button, a badge"""

_PROSE = frozenset(("p", "text"))
_RULE = "hr"
_BREAKS, _WIDE = {"br": 1, _RULE: 2}, 2
"""elements that break lines; as many of them, or one rule, part what stands above from what stands below"""

_OF_OTHER_LISTS = frozenset(("table", "tbody", "tr", "ul", "ol", "dl", "picture"))
"""elements whose children are entries, and no runs"""

_MOST_VIEWS = {"figure": 2}
"""how many pictures with captions may be of what the heading above them names"""


class Runs:
    """The runs of picture and words on a page, parent by parent."""

    def __init__(self, ground: Ground, likes: Likes) -> None:
        self._ground = ground
        self._likes = likes
        self._known: dict[int, dict[int, Unit]] = {}

    def of(self, parent: int, child: int) -> Unit | None:
        """Return the run of picture and words in ``parent`` that a child with a picture belongs to, if there is one."""
        known = self._known.get(parent)
        if known is None:
            known = self._known[parent] = dict(_find_runs(self._ground, self._likes, parent))
        return known.get(child)


def _find_runs(ground: Ground, likes: Likes, parent: int) -> Iterator[tuple[int, Unit]]:
    """Yield the runs in an element, each for every child with a picture in it."""
    if not _may_have_runs(ground, parent):
        return
    kids = list(_kids(ground, likes, parent))
    if sum(kid.has_picture for kid in kids) < 2:
        return
    segments = _segments(ground, kids)
    for start, end in segments:
        unit = _unit(ground, kids[start:end], like=len(segments))
        yield from ((kid.number, unit) for kid in kids[start:end] if kid.has_picture)


def _may_have_runs(ground: Ground, parent: int) -> bool:
    """Tell whether there is a heading right inside ``parent``, or more than one picture with hardly a word."""
    if ground.pictures(parent) < 2 or ground.tags[parent] in _OF_OTHER_LISTS:
        return False
    wordless, telling = 0, ground.telling(parent)
    for child in ground.children(parent):
        if heading_level(ground, child) or _opening(ground, child):
            return True
        wordless += ground.length(child) <= _LONGEST_JUNK and has_between(telling, child, ground.end[child])
    return wordless > 1


def _segments(ground: Ground, kids: list["_Kid"]) -> list[tuple[int, int]]:
    """Return where runs begin and end among some children; none where those are a text with pictures in it."""
    children = [kid.number for kid in kids if kid.number >= 0]
    is_in_text = is_text(ground, children, [kid.number for kid in kids if kid.has_picture])
    segments = _by_rules(kids) or _by_headings(kids)
    longest = _LONGEST_RUN
    if segments and (is_in_text or len(segments) >= _SEVERAL) and _are_alike(kids, segments):
        longest = _LONGEST_ENTRY
    elif is_in_text:
        segments, longest = _before_headings(kids), _LONGEST_ENTRY
    else:
        segments = _within_headings(kids, segments) or segments or _by_pictures(kids)
    length = sum(ground.length_of(kids[place].node) for start, end in segments for place in range(start, end))
    return segments if length <= longest * len(segments) else []


def _unit(ground: Ground, kids: list["_Kid"], like: int) -> Unit:
    elements = [kid.number for kid in kids if kid.number >= 0]
    return Unit(
        ItemForm.RUN,
        tuple(kid.node for kid in kids),
        elements[0],
        ground.end[elements[-1]],
        name=ground.text(elements[0]) if kids[0].level == _BUTTON_LEVEL else "",
        named_by=NamedBy.HEADING,
        like=like,
    )


class _Kid(Struct, frozen=True):
    """One child of a parent of runs: what it is to the run."""

    node: LexborNode
    number: int
    """of the element; -1 for a text"""
    kind: str
    has_picture: bool
    level: int = 0
    """of a heading, 1 to 6; 0 for what is none"""
    shape: Shape = ()

    @property
    def is_picture(self) -> bool:
        """Whether it is a picture without words."""
        return self.kind == "picture"

    @property
    def has_words(self) -> bool:
        return not self.is_picture and self.kind not in _BREAKS

    @property
    def tells(self) -> bool:
        """Whether it has words that say something: only some entries may have a badge."""
        return self.has_words and self.kind != _IDLE


def _kids(ground: Ground, likes: Likes, parent: int) -> Iterator[_Kid]:
    """Yield the children that a person sees."""
    telling = ground.telling(parent)
    for _, node in zip(range(MOST_CHILDREN), ground.nodes[parent].iter(include_text=True), strict=False):
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
        elif has_between(telling, number, ground.end[number]):
            is_wordless = not length or (length <= _LONGEST_JUNK and says_nothing(ground.text(number)))
            kind = "picture" if is_wordless else _PART if ground.pictures(number) >= _SEVERAL else "both"
            yield _Kid(node, number, kind, has_picture=True, shape=likes.shape(number))
        elif tag in _BREAKS:
            yield _Kid(node, number, tag, has_picture=False)
        elif length:
            level = heading_level(ground, number) or _opening(ground, number)
            is_idle = not level and length <= _LONGEST_JUNK and says_nothing(ground.text(number))
            kind = "heading" if level else _IDLE if is_idle else tag
            yield _Kid(node, number, kind, has_picture=False, level=level, shape=likes.shape(number))


def _opening(ground: Ground, number: int) -> int:
    """Return the level of what stands above something without being a heading, lower than any; 0 for others.

    It is a button that opens the panel behind it, or a paragraph that is all bold.
    """
    level = _OPENINGS.get(ground.tags[number], 0)
    if not level or not 0 < ground.length(number) <= _LONGEST_OPENING:
        return 0
    if level == _BOLD_LEVEL and not _is_bold(ground, number):
        return 0
    return 0 if says_nothing(ground.text(number)) else level


def _is_bold(ground: Ground, number: int) -> bool:
    bold = ground.within(number, "b, strong")
    return bool(bold) and ground.length(bold[0]) == ground.length(number)


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
    is_list = len(pictured) > 1 and len(pictured) >= 0.6 * len(segments)
    return pictured if is_list and not any(_are_cards(kids[start:end]) for start, end in pictured) else []


def _are_cards(kids: list[_Kid]) -> bool:
    """Tell whether several alike below one heading have a picture and words each: they are things of their own."""
    shapes = Counter(kid.shape for kid in kids if kid.kind == "both" and kid.shape[0] != "p")
    return any(often > _MOST_VIEWS.get(shape[0], 1) for shape, often in shapes.items())


def _before_headings(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return the runs that begin with a picture and its heading, though paragraphs follow; none unless all do.

    Words in an element that is no paragraph are as good as a heading.
    """
    segments = _by_pictures(kids)
    for start, end in segments:
        first = next((kid for kid in kids[start:end] if kid.tells), None)
        if not kids[start].is_picture or first is None or first.kind in _PROSE:
            return []
    return segments if len(segments) >= _SEVERAL else []


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
    patterns = Counter(
        tuple(kid.kind for kid in kids[start:end] if kid.is_picture or kid.tells) for start, end in segments
    )
    return patterns.most_common(1)[0][1] >= 0.8 * len(segments)


def _by_rules(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return the runs that rules part, if there is one between any two of several pictures."""
    if all(kid.kind != _RULE for kid in kids):
        return []
    groups = _groups(kids)
    return _between_breaks(kids, groups) if len(groups) >= _SEVERAL else []


def _groups(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return where pictures begin and end, those side by side as one."""
    groups: list[tuple[int, int]] = []
    for place, kid in enumerate(kids):
        if not kid.is_picture:
            continue
        if groups and not any(between.has_words for between in kids[groups[-1][1] : place]):
            groups[-1] = (groups[-1][0], place + 1)
        else:
            groups.append((place, place + 1))
    return groups


def _by_pictures(kids: list[_Kid]) -> list[tuple[int, int]]:
    """Return the runs of a picture (or several side by side) with the words behind it, before it, or both."""
    groups = _below_title(kids, _groups(kids))
    if len(groups) < 2 or (len(groups) == 2 and not _are_of_a_kind(kids, groups)):
        return []
    if any(kid.kind == _PART for kid in kids[groups[0][0] : groups[-1][1]]):
        return []
    if parted := _between_breaks(kids, groups):
        return parted
    gaps = [_pattern(kids[end:start]) for (_, end), (start, _) in pairwise(groups)]
    usual, often = Counter(gaps).most_common(1)[0]
    if often < 0.6 * len(gaps):
        return []
    head, tail = _pattern(kids[: groups[0][0]]), _pattern(kids[groups[-1][1] :])
    size = len(usual)
    if tail[:size] == usual and not (head[-size:] == usual and tail != usual and head == usual):
        last = _behind_words(kids, groups[-1][1], size)
        ends = [*(start for start, _ in groups[1:]), last]
        return [(start, end) for (start, _), end in zip(groups, ends, strict=True)]
    if head[-size:] == usual:
        return _below_words(kids, groups, size)
    above = next((n for n in range(1, size) if head[-n:] == usual[-n:] and tail[: size - n] == usual[: size - n]), 0)
    return _between_words(kids, groups, usual, above) if above and len(groups) >= _SEVERAL else []


def _below_title(kids: list[_Kid], groups: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return where pictures stand without one above the title of them all: a logo is none of them."""
    if len(groups) <= _SEVERAL:
        return groups
    gaps = [kids[end:start] for (_, end), (start, _) in pairwise(groups)]
    title = next((kid.level for kid in gaps[0] if kid.tells), 0)
    return groups[1:] if title and all(not 0 < kid.level <= title for gap in gaps[1:] for kid in gap) else groups


def _between_breaks(kids: list[_Kid], groups: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return the runs of pictures with the words around them up to a wide break: a rule, or a blank line.

    Empty if there is no such break between two pictures, or are several.
    """
    gaps = [kids[end:start] for (_, end), (start, _) in pairwise(groups)]
    behind = [_words_behind_break(gap) for gap in gaps]
    known = [words for words in behind if words is not None]
    if len(known) < len(gaps):
        return []
    below = max(len(_pattern(gap)) - words for gap, words in zip(gaps, known, strict=True))
    before, *others = (start for start, _ in groups)
    starts = [before - _reach_to_break(kids[:before][::-1], max(known))]
    starts += [start - _reach(gap[::-1], words) for start, gap, words in zip(others, gaps, known, strict=True)]
    last = groups[-1][1]
    return list(pairwise((*starts, last + _reach_to_break(kids[last:], below))))


def _reach_to_break(kids: list[_Kid], words: int) -> int:
    """Return how many children stand before a wide break, and hold no more than some ``words``."""
    width = 0
    for place, kid in enumerate(kids):
        width = width + _BREAKS[kid.kind] if kid.kind in _BREAKS else 0
        words -= kid.tells
        if width >= _WIDE or words < 0:
            return place
    return len(kids)


def _words_behind_break(gap: list[_Kid]) -> int | None:
    """Return how many words stand behind the one wide break between two pictures; None if there is not one."""
    behind: list[int] = []
    words = width = 0
    for kid in reversed(gap):
        if kid.kind in _BREAKS:
            width += _BREAKS[kid.kind]
            if width >= _WIDE and words not in behind[-1:]:
                behind.append(words)
        else:
            words, width = words + kid.tells, 0
    return behind[0] if len(behind) == 1 else None


def _between_words(
    kids: list[_Kid], groups: list[tuple[int, int]], usual: tuple[str, ...], above: int
) -> list[tuple[int, int]]:
    """Return the runs of a picture with words before it and behind it: of the ``usual`` ones the last ``above``."""
    starts: list[int] = []
    before = 0
    for start, end in groups:
        gap = kids[before:start]
        has_its_own = _pattern(gap)[-above:] == usual[-above:]
        starts.append(start - _reach(gap[::-1], above) if has_its_own else start)
        before = end
    return list(pairwise((*starts, _behind_words(kids, before, len(usual) - above))))


def _below_words(kids: list[_Kid], groups: list[tuple[int, int]], words: int) -> list[tuple[int, int]]:
    """Return the runs of some ``words`` and the picture below them, with what says nothing below that, or else above.

    It is a button or a badge: which is seen above the first and below the last.
    """
    first = groups[0][0] - _reach(kids[: groups[0][0]][::-1], words)
    badges = next((place for place in range(first) if kids[first - 1 - place].kind != _IDLE), first)
    ends = [end for _, end in groups]
    if badges and _behind_idle(kids, ends[-1]) == ends[-1]:
        first -= badges
    else:
        ends = [_behind_idle(kids, end) for end in ends]
    return list(pairwise((first, *ends)))


def _behind_words(kids: list[_Kid], start: int, words: int) -> int:
    """Return where some ``words`` end that begin at ``start``, with the buttons behind them."""
    return _behind_idle(kids, start + _reach(kids[start:], words))


def _behind_idle(kids: list[_Kid], start: int) -> int:
    """Return the place of the first child from ``start`` on that does more than say nothing."""
    return next((place for place in range(start, len(kids)) if kids[place].kind != _IDLE), len(kids))


def _are_of_a_kind(kids: list[_Kid], groups: list[tuple[int, int]]) -> bool:
    """Tell whether runs are alike in their pictures or their words: in one card may be a badge and somebody's face."""
    pictures = {kids[start].shape for start, _ in groups}
    words = [[kid.shape for kid in kids[end:] if kid.tells][:1] for _, end in groups]
    return len(pictures) == 1 or words.count(words[0]) == len(words)


def _pattern(kids: list[_Kid]) -> tuple[str, ...]:
    """Return the kinds of what has words that say something."""
    return tuple(kid.kind for kid in kids if kid.tells)


def _reach(kids: list[_Kid], words: int) -> int:
    """Return how many children hold the first ``words`` that have words."""
    if not words:
        return 0
    for place, kid in enumerate(kids):
        words -= kid.tells
        if words == 0:
            return place + 1
    return len(kids)
