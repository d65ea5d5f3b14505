"""The entries of a list that shows no pictures of them: titles that lead to pages of their own."""

from itertools import islice

from pickcrate.addresses import is_other_page, site, without_fragment
from pickcrate.find.place import HEADING_SELECTOR, HEADINGS
from pickcrate.item import Item, ItemForm, NamedBy
from pickcrate.items.forms import Forms
from pickcrate.items.ground import Ground
from pickcrate.items.junk import NEXT_PAGES, says_nothing
from pickcrate.values import Page

_MOST_LINKS = 5_000
_LEAST = 2
_LONGEST_TITLE = 200
_STEPS = 3
_MOST_AROUND = 50
_PARTS = frozenset(("li", "tr", "article", "dt", "dd", "section", "figure", "p", "div"))
_BESIDE = frozenset(
    "tag tags category categories archive archives meta byline author date comments breadcrumb breadcrumbs sidebar "
    "widget toc related share footer".split()
)

Kind = tuple[bool, tuple[tuple[str, ...], ...]]
"""whether a link is a heading's, and the shapes of the elements around it"""


def entries(page: Page) -> list[Item]:
    """Return the entries of the list that a page is, in its order; none if it is no list.

    They are the links of one kind that lead to other pages of the site: those in headings before others, then those
    of which there are most. What stands in the page's frame, tags, dates and pagers are no entries.
    """
    ground = Ground(page, ())
    forms = Forms(ground)
    kinds: dict[Kind, dict[str, str]] = {}
    for number in ground.selected("a[href]")[:_MOST_LINKS]:
        if (found := _entry(ground, forms, number)) is not None:
            kind, url, title = found
            kinds.setdefault(kind, {}).setdefault(url, title)
    lists = [(kind, links) for kind, links in kinds.items() if len(links) >= _LEAST]
    if not lists:
        return []
    (is_heading, _), links = max(lists, key=lambda entry: (entry[0][0], len(entry[1])))
    named_by = NamedBy.HEADING if is_heading else NamedBy.LINK
    return [
        Item(title, url, (), ItemForm.ENTRY, named_by, place, like=len(links))
        for place, (url, title) in enumerate(links.items(), 1)
    ]


def _entry(ground: Ground, forms: Forms, number: int) -> tuple[Kind, str, str] | None:
    """Return of what kind a link is, where it leads and what it says, if that may be an entry."""
    page = ground.page
    url = page.resolve(ground.attribute(number, "href"))
    if url is None or site(url) != site(page.address) or not is_other_page(url, page.address):
        return None
    heading = next(iter(ground.within(number, HEADING_SELECTOR)), number)
    title = ground.text(heading)
    is_title = len(title) <= _LONGEST_TITLE and not says_nothing(title) and title.casefold() not in NEXT_PAGES
    if not is_title or forms.chain(number)[1] or _is_beside(ground, number):
        return None
    around = list(islice(ground.above(number), _STEPS + 1))
    is_heading = heading != number or any(ground.tags[outer] in HEADINGS for outer in around)
    if not is_heading and not _PARTS.intersection(ground.tags[outer] for outer in around):
        return None
    return (is_heading, tuple(forms.likes.shape(outer) for outer in around)), without_fragment(url), title


def _is_beside(ground: Ground, number: int) -> bool:
    """Tell whether a link is beside the matter of its entry, by what the elements around it are called."""
    for outer in islice(ground.above(number), _STEPS):
        attributes = ground.attributes(outer)
        names = (
            f"{attributes.get('class') or ''} {attributes.get('rel') or ''}".lower().replace("-", " ").replace("_", " ")
        )
        if not _BESIDE.isdisjoint(names[:400].split()):
            return True
    return any(ground.tags[outer] in {"aside", "time"} for outer in islice(ground.above(number), _MOST_AROUND))
