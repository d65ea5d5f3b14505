"""The contact sheet as one web page: no network, no script from elsewhere, and whatever a page said is only text."""

import base64
import hashlib
import html
import json
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from importlib.resources import files
from typing import Any

from msgspec import Struct

from pickcrate import media
from pickcrate.addresses.url import readable, without_userinfo
from pickcrate.read.lists.picklist import COLUMNS, FORMULA_STARTS
from pickcrate.record import image_row
from pickcrate.sheets.tile import Tile
from pickcrate.sift.criteria import JUDGES, addresses_of, licences_of, words_of
from pickcrate.text import typed
from pickcrate.values.foundin import CALLED
from pickcrate.values.image import Image, Ruling
from pickcrate.version import __version__

GENERATOR = "Pick Crate"
"""How a sheet says that it is one of ours: only such a one is replaced."""

# What could end the script element, or start markup, in a JSON text (HTML standard, 4.12.1.3).
_UNSAFE = {"<": "\\u003c", ">": "\\u003e", "&": "\\u0026", "\u2028": "\\u2028", "\u2029": "\\u2029"}


class Heading(Struct, frozen=True):
    """What stands above the pictures, and the command that fetches what is picked (empty if there is none)."""

    title: str
    about: str
    today: date
    line: str = ""
    root: str = ""
    """the address of the crate's folder as a file, for links to its pictures"""


def web_page(heading: Heading, tiles: Sequence[Tile], story: Callable[[Image, str], str]) -> Iterator[str]:
    """Yield the page, part by part. ``story`` tells all that is known of an image with its name."""
    parts = files("pickcrate.sheets")
    style = (parts / "sheet.css").read_text(encoding="utf-8")
    script = script_of("sheet.js")
    values = {
        "POLICY": policy_for(style=digest_of(style), script=digest_of(script)),
        "GENERATOR": f"{GENERATOR} {__version__}",
        "TITLE": html.escape(without_userinfo(heading.title)),
        "ABOUT": html.escape(without_userinfo(f"{heading.about} · {heading.today.isoformat()}")),
        "STYLE": style,
        "SCRIPT": script,
    }
    template = (parts / "sheet.html").read_text(encoding="utf-8")
    for number, part in enumerate(template.split("@@")):
        if number % 2 == 0:
            yield part
        elif part == "DATA":
            yield from _data(heading, tiles, story)
        else:
            yield values[part]


def script_of(name: str) -> str:
    """Return the script of a page, with what all scripts here have in common."""
    own = (files("pickcrate.sheets") / name).read_text(encoding="utf-8")
    return f'"use strict";\n{typed.script()}\n{own}'


def policy_for(*, style: str, script: str) -> str:
    """Return the policy of a page that loads nothing, and runs its own script and no other."""
    return (
        f"default-src 'none'; img-src data:; style-src '{style}'; script-src '{script}'; "
        "base-uri 'none'; form-action 'none'"
    )


def digest_of(text: str) -> str:
    """Return a text's source expression for a Content-Security-Policy (CSP level 3, 2.3.1)."""
    return f"sha256-{base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()}"


def _data(heading: Heading, tiles: Sequence[Tile], story: Callable[[Image, str], str]) -> Iterator[str]:
    order = [
        name for name in (*(name for name, _ in JUDGES), "alike") if any(_dropped(tile.image) == name for tile in tiles)
    ]
    known = {
        "line": heading.line,
        "columns": COLUMNS,
        "order": order,
        "criteria": [name for name, _ in JUDGES],
        "types": media.SPELLINGS,
        "places": list(CALLED),
        "formulas": FORMULA_STARTS,
    }
    yield _safe(known)[:-1] + ', "pictures": ['
    for number, tile in enumerate(tiles):
        yield (",\n" if number else "\n") + _safe(_picture(tile, heading, story(tile.image, tile.name)))
    yield "]}"


def _picture(tile: Tile, heading: Heading, story: str) -> dict[str, Any]:
    image = tile.image
    return {
        "row": image_row(image, tile.name),
        "kinds": sorted({reference.found_in for reference in image.references}),
        "words": list(dict.fromkeys(words_of(image))),
        "addresses": sorted(addresses_of(image)),
        "readable": readable(image.url),
        "licences": licences_of(image),
        "dropped": _dropped(image),
        "preview": data_address(tile),
        "note": tile.note,
        "story": story,
        "file": tile.file,
        "twins": tile.twins,
        "place_on_disk": f"{heading.root}/{_quoted(tile.file)}" if tile.file and heading.root else "",
    }


def data_address(tile: Tile) -> str:
    """Return a tile's preview as a ``data:`` address; empty if it has none."""
    if tile.preview is None:
        return ""
    return f"data:{tile.preview.media_type};base64,{base64.b64encode(tile.preview.octets).decode()}"


def _quoted(path: str) -> str:
    from urllib.parse import quote  # noqa: PLC0415

    return quote(path)


def _dropped(image: Image) -> str:
    return next((verdict.criterion for verdict in image.verdicts if verdict.ruling is Ruling.DROP), "")


def _safe(value: object) -> str:
    """Return JSON that stands safely in a script element; lone surrogates become U+FFFD."""
    text = without_userinfo(json.dumps(value, ensure_ascii=False))
    for character, escaped in _UNSAFE.items():  # a table for all of them takes as long as making the preview
        text = text.replace(character, escaped)
    return text.encode("utf-8", "replace").decode("utf-8")
