"""Strips of other things on the page of one: "You may also like"."""

from bisect import bisect_left
from itertools import islice

from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.items.ground import Ground, heading_level
from pickcrate.items.said.junk import heads_others

Spans = list[tuple[int, int]]
"""where parts of a page begin, and end, in order and apart from each other"""

_MOST_HEADINGS, _MOST_CLIMBED = 500, 100


def spans_of_others(ground: Ground) -> Spans:
    """Return the parts of a page that stand below a heading that says that they are of other things.

    A heading of the first level says what the page itself is about.
    """
    headings = ground.selected(HEADING_SELECTOR)[:_MOST_HEADINGS]
    spans: Spans = []
    for place, number in enumerate(headings):
        level = heading_level(ground, number)
        is_inside = bool(spans) and number < spans[-1][1]
        if level > 1 and not is_inside and heads_others(ground.text(number)):
            behind = (other for other in headings[place + 1 :] if heading_level(ground, other) <= level)
            spans.append((number, min(next(behind, len(ground.nodes)), _end_of_part(ground, number))))
    return spans


def is_within(spans: Spans, number: int) -> bool:
    """Tell whether an element stands in one of the parts."""
    at = bisect_left(spans, (number + 1, 0)) - 1
    return at >= 0 and number < spans[at][1]


def _end_of_part(ground: Ground, heading: int) -> int:
    """Return the end of the smallest element around a heading that has pictures behind it."""
    ends = (ground.end[outer] for outer in islice(ground.above(heading), _MOST_CLIMBED))
    return next((end for end in ends if ground.pictures_between(heading, end)), ground.end[heading])
