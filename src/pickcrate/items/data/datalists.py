"""The entries of a list in data, whether it has pictures of them or not: objects with a page or an answer of their own.

JSON:API 1.1 and HAL have the address of that in ``links``, JSON-LD 1.1 in ``@id``.
"""

from collections.abc import Iterator

from pickcrate.addresses.url import without_fragment
from pickcrate.items.data.embedded import values_in
from pickcrate.items.data.records import page_of, thing_of
from pickcrate.items.data.structured import Thing
from pickcrate.values.item import Item, ItemForm, NamedBy
from pickcrate.values.page import Page

_DEEPEST, _MOST_VALUES = 8, 2_000
_MOST_MEMBERS = 5_000


def entries_of_data(page: Page, data: str) -> list[Item]:
    """Return the entries of the longest list of data whose members lead to others of its site; none if it has no such.

    One without a name goes without a title.
    """
    found: list[dict[str, Thing]] = []
    for members in _lists(next(values_in(data), None)):
        things = (thing_of(member) or Thing(url=page_of(member)) for member in members[:_MOST_MEMBERS])
        leading = ((_leads_to(page, thing), thing) for thing in things if thing.url)
        found.append({url: thing for url, thing in leading if url})
    listed = max(found, key=len, default={})
    return [
        Item(thing.name, url, thing.columns, ItemForm.ENTRY, NamedBy.PROPERTY, place, like=len(listed))
        for place, (url, thing) in enumerate(listed.items(), 1)
    ]


def _lists(root: object) -> Iterator[list[dict[str, object]]]:
    """Yield the lists of objects in a value, and objects of objects alone; not what is in the members of a list."""
    waiting: list[tuple[object, int]] = [(root, 0)]
    for value, depth in waiting:  # it grows
        inner = list(value.values()) if isinstance(value, dict) else value
        if not isinstance(inner, list) or depth > _DEEPEST:
            continue
        members = [member for member in inner if isinstance(member, dict)]
        if members and len(members) == len(inner):
            yield members
        if isinstance(value, dict) and len(waiting) < _MOST_VALUES:
            waiting.extend((one, depth + 1) for one in inner)


def _leads_to(page: Page, thing: Thing) -> str:
    url = page.resolve(thing.url)
    return without_fragment(url) if url is not None and page.leads_on(url) else ""
