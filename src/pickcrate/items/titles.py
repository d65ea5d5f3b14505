"""What is read of an item: what it is called, where its own page is, and what is said of it."""

from collections.abc import Iterator
from itertools import islice

from msgspec import Struct

from pickcrate.addresses.url import leads_somewhere
from pickcrate.items.data.structured import NO_THING, Thing, thing_in
from pickcrate.items.facts import facts_of
from pickcrate.items.ground import Ground
from pickcrate.items.names import BY_LINES, Named, Title, by_alt, is_of_people, names_of
from pickcrate.items.said.labels import laid_over
from pickcrate.items.said.lines import Line, lines_of
from pickcrate.items.unit import Unit
from pickcrate.values.item import ItemForm

_MOST_COLUMNS = 60
_MOST_TITLES = 12
UNTITLED = Title("")


class Told(Struct, frozen=True):
    """What was read of one unit; without a title it is no item."""

    title: Title = UNTITLED
    columns: tuple[tuple[str, str], ...] = ()
    stated_address: str = ""
    """what its markup says that its page is"""
    links: tuple[str, ...] = ()
    """where its picture leads, and the one place that anything in it leads to"""

    @property
    def addresses(self) -> tuple[str, ...]:
        """Where its own page may be, as the page writes it: what is stated, where its title leads, or its picture."""
        title = self.title.link
        within = title.startswith("#")
        return (self.stated_address, "" if within else title, *self.links, title if within else "")


def read_unit(tree: Ground, unit: Unit, link: str, outer_link: str) -> Told:
    """Return what a unit is called and what is said in it.

    ``link`` is where its picture leads to, if it does; ``outer_link`` is where a link around all of it leads.
    """
    thing, lines = _read(tree, unit, outer_link)
    named = Named(tree, unit, lines, link, thing.name)
    title = next(_titles(named), UNTITLED)
    columns = dict(unit.columns) or dict(facts_of(tree, unit, lines, title.text))
    if thing.columns:
        columns |= {name: value for name, value in thing.columns if name not in columns}
    links = link, _only_link(named), laid_over(tree, unit)[1]
    return Told(title, tuple(columns.items())[:_MOST_COLUMNS], thing.url, links)


def _titles(named: Named) -> Iterator[Title]:
    """Yield what a unit may be called, the best first: values that have a label come behind its picture's words.

    They are no names where nothing is like it: one of several things may be told by where it was made.
    """
    held: list[Title] = []
    for title in names_of(named):
        if title.named_by in BY_LINES and title.text in named.values:
            held.append(title)
        else:
            yield title
    if held and (alt := by_alt(named)) is not None:
        yield alt
    if named.unit.like > 1:
        yield from held


def titles_of(tree: Ground, unit: Unit, link: str, outer_link: str) -> list[Title]:
    """Return what a unit may be called, the best first."""
    thing, lines = _read(tree, unit, outer_link)
    return list(islice(_titles(Named(tree, unit, lines, link, thing.name)), _MOST_TITLES))


def _read(tree: Ground, unit: Unit, outer_link: str) -> tuple[Thing, list[Line]]:
    """Return what the markup of a unit says of it, and its lines; nothing once the page's effort is spent."""
    if tree.effort < 0:
        return NO_THING, []
    lines, seen = lines_of(unit.nodes, outer_link)
    tree.effort -= seen
    return thing_in(tree, unit), lines


def _only_link(named: Named) -> str:
    """Return the one place that anything in a unit leads to, but for what it has a label for: who made it.

    Empty if there are several. Of several the one on the page's own site: others tell friends.
    """
    page = named.tree.page
    about = [line for line in named.lines if line.link and not is_of_people(line.text) and leads_somewhere(line.link)]
    links = {line.link for line in about}
    if len(links) > 1:
        links = {link for link in links if (url := page.resolve(link)) is not None and page.leads_on(url)}
    if len(links) != 1 or named.unit.form is ItemForm.PAGE:
        return ""
    link = links.pop()
    return "" if all(line.text in named.values for line in about if line.link == link) else link
