"""Pictures that belong together as one web page: each set of them side by side, and nothing from elsewhere."""

import html
from base64 import b64encode
from collections import Counter
from collections.abc import Iterator, Sequence
from enum import Enum
from importlib.resources import files

from msgspec import Struct

from pickcrate.addresses.url import without_userinfo
from pickcrate.comparison import Holding
from pickcrate.sheets.page import GENERATOR, digest_of, policy_for, script_of
from pickcrate.sheets.preview import Preview
from pickcrate.text.typed import unmarked
from pickcrate.version import __version__


class Side(Struct, frozen=True):
    """One of the pictures that are side by side: its preview, or in words why there is none."""

    label: str
    holding: Holding | None
    """None: there is no picture at this side, and the label says so"""
    preview: Preview | str = ""


class Row(Struct, frozen=True):
    """Pictures that belong together, and how; the one that they are named after."""

    kind: Enum
    known: Holding
    sides: tuple[Side, ...]


class Heading(Struct, frozen=True):
    """What stands above the rows: what the page is of, what there is to know about it, and what is not in it."""

    title: str
    about: str
    beside: str = ""


def page_side_by_side(heading: Heading, rows: Sequence[Row]) -> Iterator[str]:
    """Yield the page, part by part; whatever a page or a list said is only text."""
    parts = files("pickcrate.sheets")
    style = (parts / "sheet.css").read_text(encoding="utf-8") + (parts / "sidebyside.css").read_text(encoding="utf-8")
    script = script_of("sidebyside.js")
    values = {
        "POLICY": policy_for(style=digest_of(style), script=digest_of(script)),
        "GENERATOR": f"{GENERATOR} {__version__}",
        "TITLE": _text(heading.title),
        "ABOUT": _text(heading.about),
        "STYLE": style,
        "SCRIPT": script,
        "BESIDE": _text(heading.beside),
        "KINDS": "".join(_kinds(rows)),
    }
    template = (parts / "sidebyside.html").read_text(encoding="utf-8")
    for number, part in enumerate(template.split("@@")):
        if number % 2 == 0:
            yield part
        elif part == "ROWS":
            yield from map(_row, rows)
        else:
            yield values[part]


def _kinds(rows: Sequence[Row]) -> Iterator[str]:
    counts = Counter(row.kind for row in rows)
    for kind in type(rows[0].kind) if rows else ():
        if counts[kind]:
            box = f'<input type="checkbox" checked value="{kind.name.lower()}">'
            yield f'<label class="kind {kind.name.lower()}">{box} {kind.value} <b>{counts[kind]:,}</b></label>'


def _row(row: Row) -> str:
    known = row.known
    of_all = (side.holding for side in row.sides if side.holding is not None)
    words = " ".join(f"{one.file} {one.item} {one.alt} {one.url} {one.page}" for one in of_all)
    title = known.file or known.item or known.alt or known.url.rpartition("/")[2]
    return (
        f'<li class="row" data-kind="{row.kind.name.lower()}" data-words="{_text(unmarked(words))}">'
        f'<p class="what"><span class="kind {row.kind.name.lower()}">{row.kind.value}</span> '
        f"<strong>{_text(title)}</strong> {_text(known.item if known.item != title else known.alt)}</p>"
        f'<div class="sides">{"".join(map(_side, row.sides))}</div></li>\n'
    )


def _side(side: Side) -> str:
    holding = side.holding
    if holding is None:
        return f'<figure class="none"><div class="face"><span>{_text(side.label)}</span></div></figure>'
    if isinstance(side.preview, str):
        face = f"<span>{_text(side.preview)}</span>"
    else:
        octets = b64encode(side.preview.octets).decode()
        face = f'<img alt="{_text(side.label)}" src="data:{side.preview.media_type};base64,{octets}">'
    sides = f"{holding.width}×{holding.height}" if holding.pixels else ""
    size = f"{holding.bytes / 1000:,.1f} kB" if holding.bytes else ""
    facts = " · ".join(filter(None, (side.label, holding.file, sides, size)))
    return (
        f'<figure><div class="face">{face}</div><figcaption>{_text(facts)}<br>'
        f'<span class="address">{_text(holding.url)}</span></figcaption></figure>'
    )


def _text(text: str) -> str:
    return html.escape(without_userinfo(text)).encode("utf-8", "replace").decode("utf-8")
