"""Between a picture and what a ledger's row remembers of it: its words, its page and its item."""

import json
from typing import Any

from pickcrate.addresses import brief
from pickcrate.crate.ledger import Entry
from pickcrate.crate.store import measures_of
from pickcrate.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.record import to_json
from pickcrate.values import AS_SHOWN, Basis, Candidate, Evidence, Image, Reference, Trust, Words

_LONGEST_COLUMNS = 20_000
"""Characters of what is said of an item: a list may have a book in a cell."""


def said_of(image: Image) -> dict[str, Any]:
    """Return what is remembered of a picture besides its file, by the names of a ledger's columns."""
    shown, item = image.shown, image.item
    columns = to_json(image.columns) if image.columns else ""
    return {
        "shown_url": brief(shown.url),
        "page": brief(shown.page),
        "alt": shown.words.alt,
        "caption": shown.words.caption,
        "item": item.title,
        "item_url": brief(item.url),
        "columns": columns if len(columns) <= _LONGEST_COLUMNS else "",
    }


def remembered(entry: Entry, number: int) -> Image:
    """Return the picture that ``entry`` is of; its best address is the one it was asked for by."""
    shown = Reference(
        url=entry.shown_url or entry.web_address,
        raw=entry.web_address,
        page=entry.page,
        found_in="list",
        element="",
        attribute="",
        cluster=number,
        words=Words(alt=entry.alt, caption=entry.caption),
        trust=Trust(private=True),  # it was fetched before, and its owner asks for it again
        item=_item(entry),
    )
    urls = dict.fromkeys(url for url in (entry.web_address, entry.url, entry.shown_url) if url)
    measures = measures_of(entry)
    evidence = Evidence(Basis.LISTED, entry.evidence) if entry.evidence else AS_SHOWN
    candidates = tuple(Candidate(url, evidence, measures) for url in urls)
    return Image(number=number, source="crate", shown=shown, references=(shown,), candidates=candidates)


def _item(entry: Entry) -> Item:
    if not (entry.item or entry.item_url or entry.columns):
        return NO_ITEM
    try:
        columns = json.loads(entry.columns or "{}")
    except ValueError:  # a ledger of a stranger may hold anything
        columns = {}
    said = tuple((str(name), str(text)) for name, text in columns.items()) if isinstance(columns, dict) else ()
    return Item(entry.item, entry.item_url, said, ItemForm.LISTED, NamedBy.LISTED)
