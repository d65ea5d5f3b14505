"""Between a picture and what a ledger's row remembers of it: its words, its page and its item."""

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from msgspec.structs import replace

from pickcrate.addresses.url import brief, without_scheme
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import Arrival
from pickcrate.crate.store import measures_of
from pickcrate.record import rights_row, to_json
from pickcrate.run.pack.job import Job
from pickcrate.values.evidence import AS_SHOWN, Basis, Evidence
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Candidate, Image
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.values.reference import Reference, Words
from pickcrate.values.trust import Trust

_HELD = State.HELD  # a member of an enum takes as long to look up as a row's field to fill in
_ITEM_COLUMNS = ("item", "item_url", "columns")
_LONGEST_COLUMNS = 20_000
"""Characters of what is said of an item: a list may have a book in a cell."""


def said_of(image: Image) -> dict[str, Any]:
    """Return what is remembered of a picture besides its file, by the names of a ledger's columns."""
    shown = image.shown
    return {
        "shown_url": brief(shown.url),
        "page": brief(shown.page),
        "alt": shown.words.alt,
        "caption": shown.words.caption,
        **_item_fields(image),
    }


def _item_fields(image: Image) -> dict[str, str]:
    item = image.item
    columns = to_json(image.columns) if image.columns else ""
    return {
        "item": item.title,
        "item_url": brief(item.url),
        "columns": columns if len(columns) <= _LONGEST_COLUMNS else "",
    }


def held_row(
    job: Job, arrival: Arrival, file: str, fields: Mapping[str, str], fetched_at: str, reservation: str
) -> Entry:
    """Return the row of a picture that is in its place now; ``fields`` are those of the answer that it came with."""
    image, entry, measures = job.image, job.entry, arrival.measures
    shown, words = image.shown, image.shown.words
    width, height = measures.width, measures.height
    assert measures.bytes is not None  # noqa: S101 (the file is there)
    assert measures.type is not None  # noqa: S101
    row = Entry(
        entry.seq,
        entry.address,
        entry.name,
        _HELD,
        file,
        brief(job.candidate.url),
        arrival.sha256,
        measures.bytes.value,
        measures.type.value,
        width.value if width is not None else None,
        height.value if height is not None else None,
        fields.get("etag", ""),
        fields.get("last-modified", ""),
        fetched_at,
        brief(shown.url),
        brief(shown.page),
        words.alt,
        words.caption,
        job.evidence,
    )
    rare = _rarely_said(job, reservation, is_unended=arrival.is_unended)
    return replace(row, **rare) if rare else row


def _rarely_said(job: Job, reservation: str, *, is_unended: bool) -> dict[str, Any]:
    """Return the fields of a row that most pictures leave blank."""
    image = job.image
    said: dict[str, Any] = {}
    if image.item is not NO_ITEM or image.extra:
        said |= _item_fields(image)
    if image.rights.claims:
        said |= {name: value or "" for name, value in rights_row(image.rights).items()}
    if reservation:
        said["tdm"] = reservation
    if is_unended:
        said["unended"] = "yes"
    if job.may_pass:
        said["sought"] = "; ".join(job.said)
    return said


def is_of_page(entry: Entry, image: Image) -> bool:
    """Tell whether a row is of a picture of the page that shows one today, which may be secured by now, or moved."""
    return without_scheme(entry.page) in {without_scheme(brief(page)) for page in (image.shown.page, image.source)}


def retold(entry: Entry, image: Image) -> Entry:
    """Return the row of a picture that a crate has with what its page, or its list, says of it today.

    What is said no more stays, and so do the words of another page; the item of a page is told whole. Of its use the
    row has what was said when it was fetched: a licence that is stated later counts only where none was.
    """
    if not is_of_page(entry, image):
        return entry
    told = said_of(image)
    is_listed = image.shown.found_in is FoundIn.LIST
    if is_listed and told["columns"] != entry.columns:  # another list may say less of it
        known = _columns_of(entry)
        further = {name: text for name, text in image.columns.items() if text or name not in known}
        told["columns"] = to_json(known | further)
    is_item_told = not is_listed and any(told[name] for name in _ITEM_COLUMNS)
    said = {
        name: text
        for name, text in told.items()
        if text != getattr(entry, name) and (text or (is_item_told and name in _ITEM_COLUMNS))
    }
    if image.rights.claims and not (entry.credit or entry.licence or entry.licence_url or entry.terms_url):
        said |= {name: text for name, text in rights_row(image.rights).items() if text}
    return replace(entry, **said) if said else entry


def remembered(entry: Entry, number: int) -> Image:
    """Return the picture that ``entry`` is of; its best address is the one it was asked for by."""
    shown = Reference(
        url=entry.shown_url or entry.web_address,
        raw=entry.web_address,
        page=entry.page,
        found_in=FoundIn.LIST,
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
    said = tuple((name, str(text)) for name, text in _columns_of(entry).items())
    return Item(entry.item, entry.item_url, said, ItemForm.LISTED, NamedBy.LISTED)


def _columns_of(entry: Entry) -> dict[str, object]:
    """Return what a row remembers of its item by header; a ledger of a stranger may hold anything there."""
    try:
        columns = json.loads(entry.columns or "{}")
    except ValueError:
        return {}
    return columns if isinstance(columns, dict) else {}


@lru_cache(maxsize=1)
def told_time(seconds: int) -> str:
    """Return a time in seconds since 1970 as rows have it."""
    return datetime.fromtimestamp(seconds, UTC).isoformat()
