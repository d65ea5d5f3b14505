"""Pictures as a notebook shows them: previews with names and sizes, in markup that loads nothing from elsewhere."""

import html
from collections.abc import Sequence

from pickcrate.addresses.url import without_userinfo
from pickcrate.sheets.page import data_address
from pickcrate.sheets.tile import Tile

_GRID = "display:grid;grid-template-columns:repeat(auto-fill,minmax(150px,1fr));gap:10px;margin:6px 0"
_CARD = "border:1px solid #8884;border-radius:6px;overflow:hidden;font:12px system-ui,sans-serif;margin:0"
_FACE = "display:grid;place-items:center;height:130px;background:#8882"
_IMG = "max-width:100%;max-height:130px;object-fit:contain;margin:0"
_WORDS = "padding:4px 8px 6px;overflow:hidden;text-overflow:ellipsis;white-space:nowrap"


def gallery(heading: str, tiles: Sequence[Tile], of: int) -> str:
    """Return the markup of a gallery; ``of`` is how many pictures there are, of which it may show the first."""
    more = f" · the first {len(tiles)} are shown" if len(tiles) < of and tiles else ""
    cards = "".join(map(_card, tiles))
    grid = f'<div style="{_GRID}">{cards}</div>' if tiles else ""
    return f"<div><p>{_text(heading.strip('<>'))}{more}</p>{grid}</div>"


def _card(tile: Tile) -> str:
    image, address = tile.image, data_address(tile)
    face = f'<img style="{_IMG}" src="{address}" alt="{_text(image.shown.words.alt)}">' if address else _text(tile.note)
    measures = image.best.measures
    sides = "×".join(str(side.value) for side in (measures.width, measures.height) if side is not None)
    name = _text(tile.file or tile.name or image.url.rpartition("/")[2])
    title = _text(image.url)
    return (
        f'<figure style="{_CARD}" title="{title}"><div style="{_FACE}">{face}</div>'
        f'<figcaption style="{_WORDS}"><b>{image.number}</b> {name}<br>{sides or "&nbsp;"}</figcaption></figure>'
    )


def _text(text: str) -> str:
    return html.escape(without_userinfo(text)).encode("utf-8", "replace").decode("utf-8")
