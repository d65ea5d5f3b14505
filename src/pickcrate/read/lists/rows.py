"""Rows of a list to pictures, one a row."""

from collections.abc import Iterator

from pickcrate.read.lists.addresslist import ListOrigin
from pickcrate.read.lists.cells import Row, number_in, text_in
from pickcrate.read.lists.picklist import DECLINED, as_picked, is_declined
from pickcrate.read.lists.table import WORDS, Further, Table
from pickcrate.read.pages.rights import aspect_of_label, claims_of_fields
from pickcrate.values.claims import Claimant, Rights
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.reference import Reference, Words


def read_rows(table: Table, origin: ListOrigin, *, first_number: int = 1) -> Iterator[Image | Flaw]:
    """Yield an image a row, as the row has it; a row without an address is a flaw."""
    number, place = first_number - 1, 0
    for row in table.rows:
        place += not isinstance(row, Further)
        if isinstance(row, Flaw):
            yield row
            continue
        raw = text_in(row, table.columns["url"])
        url = origin.resolve(raw, is_picked=table.is_pick_list) if raw else None
        if url is None:
            yield Flaw("address", f"row {place} has no web address: {raw[:80] or '(blank)'}{origin.advice(raw)}")
            continue
        stated = number_in(row, "number") if table.is_pick_list else None
        number = stated if stated is not None and stated > number else number + 1
        yield _image(row, table, url, number, origin)


def _image(row: Row, table: Table, url: str, number: int, origin: ListOrigin) -> Image:
    held_in = table.columns["url"] if url.startswith("data:") else ""  # a picture is nothing that is said of it
    words = {name: text_in(row, table.columns.get(name, name)) for name in WORDS}
    shown = Reference(
        url=url,
        raw=url,
        page=text_in(row, table.columns.get("page", "page")),
        found_in=FoundIn.LIST,
        element="",
        attribute="",
        cluster=number,
        words=Words(**words),
        link=text_in(row, table.columns.get("link", "link")) if table.columns["url"] != "link" else "",
        trust=origin.trust,
    )
    extra = tuple((header, text_in(row, header)) for header in row if header != held_in)
    claims = claims_of_fields((field for field in extra if aspect_of_label(field[0]) is not None), Claimant.LIST)
    image = Image(
        number=number,
        source=origin.source,
        shown=shown,
        references=(shown,),
        list_title="" if table.is_pick_list else origin.title,
        rights=Rights(claims=claims),
        extra=extra,
        name=text_in(row, table.columns["name"]) if "name" in table.columns else "",
        declined=DECLINED if table.choices and is_declined(row, table.choices) else "",
    )
    return as_picked(image, row) if table.is_pick_list else image
