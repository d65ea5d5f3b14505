"""What is read of an item: what it is called, where its own page is, and what is said of it."""

from itertools import islice

from msgspec import Struct

from pickcrate.addresses import leads_somewhere
from pickcrate.item import ItemForm
from pickcrate.items.facts import facts_of
from pickcrate.items.ground import Ground
from pickcrate.items.lines import Line, lines_of
from pickcrate.items.names import BYLINE, Named, Title, laid_over, names_of
from pickcrate.items.structured import NO_THING, Thing, thing_in
from pickcrate.items.unit import Unit

_MOST_COLUMNS = 60
_MOST_TITLES = 4
UNTITLED = Title("")


class Told(Struct, frozen=True):
    """What was read of one unit; without a title it is no item."""

    title: Title = UNTITLED
    columns: tuple[tuple[str, str], ...] = ()
    stated_address: str = ""
    """what its markup says that its page is"""
    link: str = ""
    """where its picture leads, or else the one place that anything in it leads to"""

    @property
    def address(self) -> str:
        """Where its own page is, as the page writes it: what is stated, where its title leads, or its picture."""
        title = "" if self.title.link.startswith("#") else self.title.link
        return self.stated_address or title or self.link or self.title.link


def read_unit(tree: Ground, unit: Unit, link: str, outer_link: str) -> Told:
    """Return what a unit is called and what is said in it.

    ``link`` is where its picture leads to, if it does; ``outer_link`` is where a link around all of it leads.
    """
    thing, lines = _read(tree, unit, outer_link)
    title = next(names_of(Named(tree, unit, lines, link, thing.name)), UNTITLED)
    columns = dict(unit.columns) or dict(facts_of(tree, unit, lines, title.text))
    if thing.columns:
        columns |= {name: value for name, value in thing.columns if name not in columns}
    lead = link or _only_link(tree, unit, lines) or laid_over(tree, unit)[1]
    return Told(title, tuple(columns.items())[:_MOST_COLUMNS], thing.url, lead)


def titles_of(tree: Ground, unit: Unit, link: str, outer_link: str) -> list[Title]:
    """Return what a unit may be called, the best first."""
    thing, lines = _read(tree, unit, outer_link)
    return list(islice(names_of(Named(tree, unit, lines, link, thing.name)), _MOST_TITLES))


def _read(tree: Ground, unit: Unit, outer_link: str) -> tuple[Thing, list[Line]]:
    """Return what the markup of a unit says of it, and its lines; nothing once the page's effort is spent."""
    if tree.effort < 0:
        return NO_THING, []
    lines, seen = lines_of(unit.nodes, outer_link)
    tree.effort -= seen
    return thing_in(tree, unit), lines


def _only_link(tree: Ground, unit: Unit, lines: list[Line]) -> str:
    """Return the one place that anything in a unit leads to, but for who made it; empty if there are several.

    Of several the one on the page's own site: others tell friends.
    """
    about = (line for line in lines if line.link and BYLINE.fullmatch(line.text) is None)
    links = {line.link for line in about if leads_somewhere(line.link)}
    if len(links) > 1:
        links = {link for link in links if (url := tree.page.resolve(link)) is not None and tree.page.leads_on(url)}
    return links.pop() if len(links) == 1 and unit.form is not ItemForm.PAGE else ""
