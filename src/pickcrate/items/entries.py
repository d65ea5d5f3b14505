"""The entries of a list, whether it shows pictures of them or not: titles that lead to pages of their own."""

import re
import unicodedata
from bisect import bisect_left
from itertools import islice
from urllib.parse import unquote

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import is_web, without_fragment
from pickcrate.finders.place import HEADING_SELECTOR, HEADINGS
from pickcrate.items.forms import Forms
from pickcrate.items.ground import Ground
from pickcrate.items.likes import Shape
from pickcrate.items.said.junk import NEXT_PAGES, ClassKind, brings_more, class_kind, is_date, reads_on, says_nothing
from pickcrate.items.said.lines import lines_of
from pickcrate.read.data.datafile import data_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.item import Item, ItemForm, NamedBy
from pickcrate.values.page import Page
from pickcrate.values.reference import fold

_MOST_LINKS = 5_000
_LONGEST_TITLE = 200
_STEPS = 3
_LONGEST_BESIDES = 40
"""Characters beside the links of a paragraph that lists: more are a text."""

_MOST_BEFORE = 20
_MOST_AROUND = 50
_PARTS = frozenset(("li", "tr", "article", "dt", "dd", "section", "figure", "p", "div", "pre"))
_BESIDE = frozenset(
    "tag tags category categories meta metas byline author authors date comment comments breadcrumb breadcrumbs "
    "sidebar widget toc related share footer pagination pager".split()
)
_ASIDE = frozenset(("aside", "time"))
_PARTS_BESIDE = frozenset("catlinks sidebar footer related comments breadcrumb breadcrumbs".split())
"""what the parts of a page beside its matter are called by their ``id``"""

_CARDS = frozenset("card tile teaser product box panel".split())
_BOXES = frozenset("list item items link links wrap wrapper container inner box area group cloud content".split())
_WORDS = lazy(r"[a-z]+")
_IN_AN_ALPHABET = lazy(r"[A-ZÄÖÜÅÆØА-Я](?:\s?[-–]\s?[A-ZÄÖÜÅÆØА-Я])?|0\s?[-–]\s?9|#", re.IGNORECASE)
"""what leads to a part of an index"""

_ENTRANCE = lazy(r"(?<=/)(?:index|default|home)\.\w{2,5}$", re.IGNORECASE)
_SORTS = lazy(r"[?&;](?:sort|sort_?by|order|order_?by|dir|c)=[\w-]{1,20}(?:[&;]|$)", re.IGNORECASE)
"""an address of the same list in another order"""

_BESIDE_DATES = (" - ", " – ", " — ", " · ", " | ", ": ", ", ", " (")
_SIGNS = frozenset(("So", "Sk", "Mn", "Cf", "Zs"))
"""categories of characters (Unicode Standard, 4.5): pictographs and what varies and joins them, and spaces"""


class _Kind(Struct, frozen=True):
    """What links of one list have in common."""

    is_title: bool
    """whether they stand in headings, or in what is called a title"""
    shapes: tuple[Shape, ...]
    """of the link, and of the heading or the elements around it"""


class _Entry(Struct, frozen=True):
    """A link that may be an entry: of what kind, where it leads, what it says, and its element."""

    kind: _Kind
    url: str
    title: str
    number: int
    is_folder: bool = False
    """whether it is one of a listing of files"""


def entries(page: Page) -> list[Item]:
    """Return the entries of the list that a page is, in its order; none if it is no list.

    They are the links of one kind that lead to other pages of the site: those that are titles before others, then
    those of which there are most; a title may be the only one, on the last page of a list. What stands in the page's
    frame, tags, dates and pagers are no entries. Of a file of data they are the objects that have such addresses.
    """
    if (data := data_of(page.text)) is not None:
        from pickcrate.items.data.datalists import entries_of_data  # noqa: PLC0415 (few lists are data)

        return entries_of_data(page, data)
    ground = Ground(page, ())
    forms = Forms(ground)
    kinds: dict[_Kind, dict[str, _Entry]] = {}
    for number in ground.selected("a[href]")[:_MOST_LINKS]:
        if (found := _entry(ground, forms, number)) is not None:
            kinds.setdefault(found.kind, {}).setdefault(found.url, found)
    folders = {url for links in kinds.values() for url, link in links.items() if link.is_folder}
    named = (_named(ground, kind, list(links.values())) for kind, links in kinds.items())
    # A title may be the only one, and so may a folder.
    several = [(kind, links) for kind, links in named if links]
    lists = [(kind, links) for kind, links in several if len(links) > 1 or kind.is_title or links.keys() <= folders]
    if not lists:
        return []
    kind, links = max(lists, key=lambda entry: (len(entry[1]) > 1, entry[0].is_title, len(entry[1])))
    named_by = NamedBy.HEADING if kind.is_title else NamedBy.LINK
    form = ItemForm.FOLDER if links.keys() <= folders else ItemForm.ENTRY
    return [
        Item(title, url, (), form, named_by, place, like=len(links))
        for place, (url, title) in enumerate(links.items(), 1)
    ]


def _named(ground: Ground, kind: _Kind, found: list[_Entry]) -> tuple[_Kind, dict[str, str]]:
    """Return the titles of the links of a kind, by their addresses.

    What all of them say in the same words is said of each by the heading that it stands below, or by nothing.
    """
    if len(found) > 1 and len({entry.title for entry in found}) == 1:
        headings = [_heading_beside(ground, entry.number) for entry in found]
        if None in headings or len(set(headings)) < len(headings):
            return kind, {}
        titles = [_title(ground, heading) for heading in headings if heading is not None]
        return replace(kind, is_title=True), {e.url: title for e, title in zip(found, titles, strict=True) if title}
    return kind, {entry.url: entry.title for entry in found}


def _entry(ground: Ground, forms: Forms, number: int) -> _Entry | None:
    """Return of what kind a link is, where it leads and what it says, if that may be an entry."""
    url = _leads_to(ground, number)
    if url is None:
        return None
    around = list(islice(ground.above(number), _STEPS + 1))
    heading = _heading(ground, number, around)
    title = _title(ground, number if heading is None else max(number, heading))
    if heading is None and reads_on(title) and (heading := _heading_beside(ground, number)) is not None:
        title = _title(ground, heading)
    folder = _folder(ground, number, title)
    if not (folder or _is_title(title)) or forms.chain(number)[1] or _is_beside(ground, number):
        return None
    if heading is None and not _is_part(ground, number, around):
        return None
    alike = around if heading is None else [number, heading]
    shapes = tuple(_plain(forms.likes.shape(outer)) for outer in alike)
    kind = _Kind(heading is not None, (*shapes, _place(ground, forms, number, around)))
    return _Entry(kind, url, folder or title, number, is_folder=bool(folder))


def _folder(ground: Ground, number: int, title: str) -> str:
    """Return the name of the folder that a link of a listing of files leads to; empty if it is none.

    Servers write such listings alike: the address is the name, with a slash behind it.
    """
    href = ground.attribute(number, "href").strip()
    name = href[:-1]
    is_name = href.endswith("/") and name and name[0] not in ".?#" and "/" not in name
    return unquote(name) if is_name and unquote(name) == title.removesuffix("/") else ""


def _leads_to(ground: Ground, number: int) -> str | None:
    """Return where a link leads, if that is another page of the site, further in, and not the same in other order."""
    page = ground.page
    url = page.resolve(ground.attribute(number, "href"))
    if url is None or not page.leads_on(url) or _SORTS.search(url) is not None:
        return None
    return None if _leads_up(url, page.home if is_web(url) else page.address) else without_fragment(url)


def _is_title(text: str) -> bool:
    words = text.casefold()
    if len(text) > _LONGEST_TITLE or words in NEXT_PAGES or brings_more(words):
        return False
    return not says_nothing(text) and _IN_AN_ALPHABET.fullmatch(text) is None


def _is_part(ground: Ground, number: int, around: list[int]) -> bool:
    """Tell whether a link without a heading is a part of something that may repeat, and none of a paragraph."""
    if _PARTS.isdisjoint(ground.tags[outer] for outer in around):
        return False
    return not _is_in_prose(ground, number, around)


def _is_in_prose(ground: Ground, number: int, around: list[int]) -> bool:
    """Tell whether a link stands in the midst of a paragraph that says much besides its links."""
    paragraph = next((outer for outer in around if ground.tags[outer] == "p"), None)
    if paragraph is None:
        return False
    links = ground.within(paragraph, "a[href]", _MOST_BEFORE)
    besides = ground.length(paragraph) - sum(map(ground.length, links))
    return besides > _LONGEST_BESIDES and not ground.text(paragraph).startswith(ground.text(number))


def _place(ground: Ground, forms: Forms, number: int, around: list[int]) -> Shape:
    """Return in which column of a table a link stands, or whether it is the first of its entry in a list.

    Where no column has a head, and every cell of a row has a link, the row is none of one entry.
    """
    part = next((outer for outer in around if ground.tags[outer] in {"td", "th", "li"}), None)
    if part is None:
        return ()
    if ground.tags[part] == "li":
        return ("first" if _is_first(ground, number, part) else "later",)
    cells = islice(ground.children(ground.parent[part]), _MOST_BEFORE)
    table = next((outer for outer in islice(ground.above(part), _STEPS + 1) if ground.tags[outer] == "table"), part)
    is_grid = not ground.has_within(table, "th") and all(ground.has_within(cell, "a[href]") for cell in cells)
    return () if is_grid else (str(forms.place_among(part)[0]),)


def _is_first(ground: Ground, link: int, outer: int) -> bool:
    """Tell whether a link is the first in an element around it that says something."""
    links = ground.within(outer, "a[href]", _MOST_BEFORE)
    return next((number for number in links if number == link or ground.length(number)), -1) == link


def _heading(ground: Ground, number: int, around: list[int]) -> int | None:
    """Return the heading in a link, or the one that it stands in: marked up as one, or called a title."""
    inner = next(iter(ground.within(number, HEADING_SELECTOR, most=1)), None)
    if inner is not None:
        return inner
    marked = next((outer for outer in around if ground.tags[outer] in HEADINGS), None)
    if marked is None:
        called = (outer for outer in around if class_kind(ground.attribute(outer, "class")) is ClassKind.TITLE)
        marked = next(called, None)
    return marked if marked is None or marked == number or _is_first(ground, number, marked) else None


def _heading_beside(ground: Ground, number: int) -> int | None:
    """Return the heading that a link stands below: it is what "read more" leads to the page of."""
    headings = ground.selected(HEADING_SELECTOR)
    for outer in islice(ground.above(ground.parent[number]), _STEPS):
        first, last = bisect_left(headings, outer), bisect_left(headings, ground.end[outer])
        if first < last:
            at = bisect_left(headings, number) - 1
            return headings[first] if last - first == 1 else headings[at] if at >= first else None
    return None


def _leads_up(url: str, page: str) -> bool:
    """Tell whether an address is that of a folder around a page, or its entrance: the way back."""
    folder = _ENTRANCE.sub("", url)
    return folder.endswith("/") and page.startswith(folder) and page != folder


def _title(ground: Ground, number: int) -> str:
    """Return what a link or a heading says, without dates and signs before it; of a card, its first line."""
    lines = lines_of((ground.nodes[number],), "")[0]
    said = [line for line in lines if not line.is_time and not line.is_control]
    said = [line for line in said if not line.is_side] or said
    telling = [line for line in said if not says_nothing(line.text)]
    titled = next((line.text for line in telling if line.is_titled), "")
    if not titled and telling and len(said) > 1 and ground.has_within(number, "div, p"):
        titled = telling[0].text  # a card's first line
    text = titled or " ".join(line.text for line in said) or _spoken(ground, number)
    return _without_date(_without_signs(text))


def _spoken(ground: Ground, number: int) -> str:
    """Return what a link without words says to those who do not see it: one that is laid over its entry."""
    return ground.label_of(number) or fold(ground.attribute(number, "title"))


def _without_signs(text: str) -> str:
    """Return a title without the pictographs that it begins with: a folder, a pin."""
    start = next((at for at, character in enumerate(text) if unicodedata.category(character) not in _SIGNS), 0)
    return text[start:]


def _without_date(text: str) -> str:
    """Return a title without the date before or behind it: "3 May - Red Delta", "Red Delta (2025-05-03)"."""
    for mark in _BESIDE_DATES:
        first, _, rest = text.partition(mark)
        if is_date(first) and not says_nothing(rest):
            return rest
        start, _, last = text.rpartition(mark)
        if is_date(last.removesuffix(")")) and not says_nothing(start):
            return start
    return text


def _plain(shape: Shape) -> Shape:
    """Return a shape without an ``id``, which is of one entry alone."""
    return shape[:1] if len(shape) > 1 and shape[1].startswith("#") else shape


def _is_beside(ground: Ground, number: int) -> bool:
    """Tell whether a link is beside the matter of its entry, by what the elements around it are called."""
    for outer in islice(ground.above(number), _STEPS):
        attributes = ground.attributes(outer)
        names = f"{attributes.get('class') or ''} {attributes.get('rel') or ''}".lower()[:400]
        if any(map(_says_beside, names.split())):
            return True
    around = islice(ground.above(number), _MOST_AROUND)
    return any(ground.tags[outer] in _ASIDE or ground.attribute(outer, "id") in _PARTS_BESIDE for outer in around)


def _says_beside(name: str) -> bool:
    """Tell whether a class or a relation says so, by its last word that is not only a box's: ``post-tag-list``."""
    words = [word for word in _WORDS.findall(name) if word not in _BOXES]
    is_of_card = len(words) > 1 and words[-1] == "footer" and words[0] in _CARDS
    return bool(words) and words[-1] in _BESIDE and not is_of_card
