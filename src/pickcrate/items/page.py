"""A page about one thing: its heading is that thing's name, and the pictures that are no other item's are of it."""

from bisect import bisect_left
from collections.abc import Iterator
from itertools import takewhile

from pickcrate.finders.tree import count_between
from pickcrate.items.data.linkeddata import Linked, PageKind, page_kind
from pickcrate.items.ground import LABELLED, VALUES, Ground
from pickcrate.items.said.junk import is_credit, says_nothing
from pickcrate.items.said.lines import LABEL_AND_VALUE, lines_of
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm, NamedBy
from pickcrate.values.reference import fold

_BESIDE = ("nav", "footer", "aside", "li")
"""elements that are beside what a page is about, or a part of it"""
_LONG_PARAGRAPH = 200
_MOST_LONG = 2
_LEAST_FACTS = 2
_LONGEST_LABEL = 24
_LONGEST_RECORD = 3_000
"""Characters of a page that is only a record of one thing, not a text with tables in it."""

_LINES = "li, p, div, td"
_APART = "nav, footer, aside"
_LONGEST_FACTS = 400
"""Characters of a paragraph, or of an entry, that says some facts, one a line"""

_MOST_HEADINGS, _SHORTEST_TITLE = 200, 3
_LABELS = f"{LABELLED}, {VALUES}"
_LEAST_IN_GALLERY = 3
_LONGEST_BETWEEN = 40
_LONGEST_TEXT = 300


def page_unit(ground: Ground, own: list[int], taken: list[tuple[int, int]], objects: list[Linked]) -> Unit | None:
    """Return the unit that is the page's content if the page is about one thing, else None.

    ``own`` are the elements whose pictures are no other item's, ``taken`` the spans of the items that there are, and
    ``objects`` what the page's JSON-LD speaks of. What speaks for it: a kind that the page gives itself, a list of
    facts, a gallery of its own, pictures that are called what the page is called. A text in long paragraphs speaks
    against it, as do several headings of the first level.
    """
    title = _title(ground)
    if title is None:
        return None
    kind = page_kind(ground, objects, ground.text(title))
    if kind is PageKind.ARTICLE:
        return None
    root = _content(ground, title)
    own = [number for number in own if ground.holds(root, number)]
    has_facts = _has_facts(ground, root, taken) or _is_named_after(ground, own, ground.text(title))
    is_thing = kind is PageKind.THING
    if not is_thing and not has_facts and not _is_gallery(ground, root, own):
        return None
    if not is_thing and (_interrupt(ground, own) or (not has_facts and _long_paragraphs(ground, root) > _MOST_LONG)):
        return None
    node = ground.nodes[root]
    return Unit(ItemForm.PAGE, (node,), root, ground.end[root], name=ground.text(title), named_by=NamedBy.PAGE)


def _title(ground: Ground) -> int | None:
    """Return the heading that is the page's title: the only ``h1``, or the one that the page's title begins with.

    Some themes have the name of the site in an ``h1``, and some have one in each part of the page.
    """
    beside = ground.inherited(lambda outer: True if _is_beside(ground, outer) else None, otherwise=False)
    titles = [n for n in ground.selected("h1") if ground.text(n) and not beside.of(n)]
    said = fold(ground.page.title).casefold()
    if len(titles) == 1 and (not said or _begins_with(said, ground.text(titles[0]))):
        return titles[0]
    headings = ground.selected("h1, h2, h3")[:_MOST_HEADINGS]
    begun = [n for n in headings if _begins_with(said, ground.text(n)) and not beside.of(n)]
    if len({ground.text(n) for n in begun}) == 1:
        return begun[0]
    return titles[0] if len(titles) == 1 else None


def _begins_with(said: str, heading: str) -> bool:
    """Tell whether a title in small letters begins with a heading, and goes on with another word if it does."""
    behind = said.removeprefix(heading.casefold())
    return len(heading) >= _SHORTEST_TITLE and behind != said and not behind[:1].isalnum()


def _is_beside(ground: Ground, outer: int) -> bool:
    """Tell whether what stands in an element is beside what the page is about."""
    return ground.region(outer) in _BESIDE or (ground.tags[outer] == "tr" and not _lays_out(ground, outer))


def _lays_out(ground: Ground, row: int) -> bool:
    """Tell whether a table's row is there for the page's layout: most of what the page says stands in it."""
    return 2 * ground.length(row) > ground.length(0)


def _content(ground: Ground, title: int) -> int:
    """Return the smallest element around the page's heading that holds pictures and is a main part of the page."""
    for outer in ground.above(title):
        if ground.region(outer) in {"main", "article", "body"} and ground.pictures(outer):
            return outer
    return 0


def _has_facts(ground: Ground, root: int, taken: list[tuple[int, int]]) -> bool:
    """Tell whether the content has a list of terms, a table of facts, or labels with their values, of its own."""
    beside = [*taken, *((n, ground.end[n]) for n in ground.within(root, ", ".join(_BESIDE)))]
    terms = [n for n in ground.within(root, "dt") if not ground.pictures(ground.parent[n])]
    is_short = ground.length(root) <= _LONGEST_RECORD
    rows = [n for n in ground.within(root, "tr") if not ground.pictures(n) and _is_fact(ground, n, is_short=is_short)]
    labels = [n for n in ground.within(root, _LABELS) if not ground.pictures(ground.parent[n])]
    if any(len(list(_outside(facts, beside))) >= _LEAST_FACTS for facts in (terms, rows, labels)):
        return True
    return is_short and _says_facts(ground, root, [*taken, *((n, ground.end[n]) for n in ground.within(root, _APART))])


def _says_facts(ground: Ground, root: int, beside: list[tuple[int, int]]) -> bool:
    """Tell whether lines of the content are a label and a value each: "Maker: Ino Hallas"."""
    found = 0
    for number in _outside(ground.within(root, _LINES), beside):
        if not 0 < ground.length(number) <= _LONGEST_FACTS:
            continue
        if ground.pictures(number) or ground.has_within(number, _LINES):
            continue
        lines, seen = lines_of((ground.nodes[number],))
        ground.effort -= seen
        fields = (LABEL_AND_VALUE.fullmatch(line.text) for line in lines)
        found += sum(field is not None and _is_field(field[1], field[2]) for field in fields)
        if found >= _LEAST_FACTS or ground.effort < 0:
            break
    return found >= _LEAST_FACTS


def _is_field(label: str, value: str) -> bool:
    is_short = len(label) <= _LONGEST_LABEL and len(value) <= _LONGEST_BETWEEN
    return is_short and not is_credit(f"{label}: {value}") and not says_nothing(label)


def _outside(numbers: list[int], spans: list[tuple[int, int]]) -> Iterator[int]:
    """Yield those of ``numbers``, which are in order, that lie in none of ``spans``."""
    waiting, end = sorted(spans, reverse=True), -1
    for number in numbers:
        while waiting and waiting[-1][0] <= number:
            end = max(end, waiting.pop()[1])
        if number >= end:
            yield number


def _is_named_after(ground: Ground, own: list[int], title: str) -> bool:
    """Tell whether the words of most of several pictures name what the page's heading names."""
    telling = set(ground.telling(0))
    alts = [ground.alts.get(number, "").casefold() for number in own if number in telling]
    named = sum(title.casefold() in alt for alt in alts)
    return named * 10 >= len(alts) * 7 > 0


def _is_fact(ground: Ground, row: int, *, is_short: bool) -> bool:
    """Tell whether a row is a header and a value; on a short page, any label and a value."""
    cells = list(ground.children(row))
    if len(cells) != 2 or ground.tags[cells[1]] != "td":
        return False
    if ground.tags[cells[0]] == "th" or not is_short:
        return ground.tags[cells[0]] == "th"
    label = ground.text(cells[0]) if 0 < ground.length(cells[0]) <= _LONGEST_LABEL else ""
    return label[:1].isalpha() and not any(map(str.isdigit, label)) and not ground.within(cells[0], "a[href]")


def _interrupt(ground: Ground, own: list[int]) -> bool:
    """Tell whether pictures only interrupt a text: there is much of it between them, or around most of them."""
    if _between(ground, own) > _LONGEST_TEXT * len(own):
        return True
    paragraphs = [n for n in ground.selected("p") if ground.length(n) > _LONG_PARAGRAPH]
    return 2 * sum(_is_among(ground, number, paragraphs) for number in own) > len(own) > 0


def _is_among(ground: Ground, picture: int, paragraphs: list[int]) -> bool:
    """Tell whether a picture stands between two of ``paragraphs``, side by side with both."""
    at = bisect_left(paragraphs, picture)
    if not 0 < at < len(paragraphs):
        return False
    parent = ground.parent[paragraphs[at]]
    return ground.parent[paragraphs[at - 1]] == parent and ground.holds(parent, picture)


def _between(ground: Ground, own: list[int]) -> int:
    """Return how many characters of text the smallest element has that holds all of some pictures."""
    around = own[0] if own else -1
    while around >= 0 and not ground.holds(around, own[-1]):
        around = ground.parent[around]
    return ground.length(around) if around >= 0 else 0


def _is_gallery(ground: Ground, root: int, own: list[int]) -> bool:
    """Tell whether most of the pictures that are no items stand together in one part, with hardly a word between."""
    if len(own) < _LEAST_IN_GALLERY:
        return False
    blank = sum(says_nothing(ground.alts.get(number, "")) for number in own)
    if blank * 10 < len(own) * 7:
        return False
    in_order = sorted(own)
    around_most = takewhile(lambda outer: outer != root, ground.above(in_order[len(own) // 2]))
    held = ((outer, count_between(in_order, outer, ground.end[outer])) for outer in around_most)
    return any(
        count >= _LEAST_IN_GALLERY and count * 10 >= len(own) * 7 and ground.length(outer) <= _LONGEST_BETWEEN * count
        for outer, count in held
    )


def _long_paragraphs(ground: Ground, root: int) -> int:
    return sum(1 for n in ground.within(root, "p", 500) if ground.length(n) > _LONG_PARAGRAPH)
