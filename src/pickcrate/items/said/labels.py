"""What a part of a page is called for those who do not see it, or where the pointer rests on its picture."""

from collections.abc import Iterator
from itertools import islice

from pickcrate.addresses.url import leads_somewhere
from pickcrate.elements.words import text_in
from pickcrate.items.ground import LONGEST_LABEL, OPENERS, SAYS_A_TITLE, Ground
from pickcrate.items.said.junk import says_nothing
from pickcrate.items.unit import Unit
from pickcrate.values.reference import fold

_MOST_LINKS = 100
"""of a unit that are looked at"""


def laid_over(tree: Ground, unit: Unit) -> tuple[str, str]:
    """Return what an empty link in a unit says, and where it leads: one is laid over all of it. Blank if there is none.

    Several that are empty are signs that a style sheet draws.
    """
    links = tree.within(unit.start, "a[href]", _MOST_LINKS)
    empty = [number for number in links if tree.end[number] == number + 1 and not tree.length(number)]
    hrefs = {tree.attribute(number, "href").strip() for number in empty}
    if len(hrefs) != 1 or not leads_somewhere(href := hrefs.pop()):
        return "", ""
    return fold(tree.attribute(empty[0], "aria-label") or tree.attribute(empty[0], "title")), href


def label_of(tree: Ground, unit: Unit) -> str:
    """Return the label that the unit's element has for those who do not see it, or the link that opens it has."""
    root = unit.start
    if not tree.selected(f"[aria-label], [aria-labelledby], {OPENERS}"):
        return ""
    if len(unit.nodes) != 1 or unit.nodes[0].mem_id != tree.nodes[root].mem_id:
        return ""
    label = tree.label_of(root)
    if not label:
        inner = [n for n in tree.within(root, "a[href][aria-label]", _MOST_LINKS) if tree.pictures(n)]
        label = fold(tree.attribute(inner[0], "aria-label")) if inner else laid_over(tree, unit)[0]
    if not label and (identity := tree.attribute(root, "id")) and len(identity) <= LONGEST_LABEL:
        label = tree.opener_of(identity)
    return "" if says_nothing(label) else label


def tip_of(tree: Ground, unit: Unit) -> str:
    """Return the title that the unit's picture or its link has as an attribute: what is said where nothing else is."""
    for number in carriers(tree, unit):
        for name, text in tree.attributes(number).items():
            if text and text[0] != "#" and SAYS_A_TITLE.fullmatch(name) and not says_nothing(said := text_in(text)):
                return said
    return ""


def carriers(tree: Ground, unit: Unit) -> Iterator[int]:
    """Yield the elements whose attributes may say what a unit is: its picture's link, its picture, its own."""
    links = tree.within(unit.start, "a[href]", _MOST_LINKS)
    linked = (n for n in (unit.start, *links) if tree.tags[n] == "a" and tree.pictures(n))
    yield from islice(linked, 1)
    yield from tree.photos_in(unit.start, unit.end, most=1)
    yield unit.start
