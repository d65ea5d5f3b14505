"""The contact sheet on paper: pages of pictures with their numbers and captions, as one PNG or one PDF."""

from collections.abc import Iterator, Sequence
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING

from pickcrate.addresses.url import without_userinfo
from pickcrate.sheets.page import Heading
from pickcrate.sheets.tile import Tile

if TYPE_CHECKING:
    from PIL.Image import Image as Picture
    from PIL.ImageDraw import ImageDraw
    from PIL.ImageFont import FreeTypeFont, ImageFont

# An A4 page at 150 dots to the inch, in pixels.
_WIDTH, _HEIGHT = 1240, 1754
_DPI = 150
_MARGIN, _GAP, _HEAD = 60, 24, 90
_COLUMNS = 4
_CELL = (_WIDTH - 2 * _MARGIN - (_COLUMNS - 1) * _GAP) // _COLUMNS
_CAPTION = 62
_ROWS = (_HEIGHT - _MARGIN - _HEAD) // (_CELL + _CAPTION + _GAP)
_MOST_ROWS_OF_PNG = 150

_INK, _QUIET, _GROUND, _SQUARE = "#1d1f23", "#5b6068", "#ffffff", "#f0eeea"
_FONTS = (
    "NotoSansCJK-Regular.ttc",
    "NotoSans-Regular.ttf",
    "DejaVuSans.ttf",
    "LiberationSans-Regular.ttf",
    "Arial Unicode.ttf",
    "arial.ttf",
)
"""Looked for where the system keeps its fonts; without any of them Pillow's own is used, which has Latin letters."""


def write_paper(path: Path, kind: str, heading: Heading, tiles: Sequence[Tile]) -> None:
    """Write the sheet to ``path``: ``.pdf`` in pages of A4, ``.png`` as one long page. Raises OSError.

    A PNG holds the first 600 pictures.
    """
    if kind == ".pdf":
        per_page = _ROWS * _COLUMNS
        starts = range(0, max(1, len(tiles)), per_page)
        pages = (_page(heading, tiles[at : at + per_page], _HEIGHT, at // per_page + 1, len(starts)) for at in starts)
        first = next(pages)
        first.save(path, "PDF", resolution=_DPI, save_all=True, append_images=pages, title=heading.title)
        return
    shown = tiles[: _MOST_ROWS_OF_PNG * _COLUMNS]
    rows = -(-len(shown) // _COLUMNS)
    height = _HEAD + max(1, rows) * (_CELL + _CAPTION + _GAP) + _MARGIN
    page = _page(heading, shown, height, 1, 1)
    page.save(path, "PNG", dpi=(_DPI, _DPI))


def _page(heading: Heading, tiles: Sequence[Tile], height: int, number: int, pages: int) -> "Picture":
    from PIL import Image, ImageDraw  # noqa: PLC0415 (only paper needs it)

    page = Image.new("RGB", (_WIDTH, height), _GROUND)
    pen = ImageDraw.Draw(page)
    large, small = _font(26), _font(16)
    pen.text((_MARGIN, 30), _fitted(pen, heading.title, large, _WIDTH - 2 * _MARGIN - 160), _INK, large)
    about = without_userinfo(f"{heading.about} · {heading.today.isoformat()}")
    pen.text((_MARGIN, 64), _fitted(pen, about, small, _WIDTH - 2 * _MARGIN), _QUIET, small)
    if pages > 1:
        pen.text((_WIDTH - _MARGIN, 38), f"{number} of {pages}", _QUIET, small, anchor="ra")
    for place, tile in enumerate(tiles):
        row, column = divmod(place, _COLUMNS)
        left = _MARGIN + column * (_CELL + _GAP)
        top = _HEAD + row * (_CELL + _CAPTION + _GAP)
        pen.rectangle((left, top, left + _CELL, top + _CELL), _SQUARE)
        _lay(page, pen, tile, (left, top))
        lines = [(text, colour) for text, colour in _captions(tile) if text]
        for line, (text, colour) in enumerate(lines):
            where = (left, top + _CELL + 5 + line * 19)
            pen.text(where, _fitted(pen, text, small, _CELL), colour, small)
    return page


def _lay(page: "Picture", pen: "ImageDraw", tile: Tile, where: tuple[int, int]) -> None:
    from PIL import Image  # noqa: PLC0415

    left, top = where
    if tile.preview is None or tile.preview.media_type == "image/svg+xml":
        words = tile.note or "a drawing (SVG)"
        font = _font(15)
        middle = (left + _CELL // 2, top + _CELL // 2)
        pen.text(middle, _fitted(pen, words, font, _CELL - 20), _QUIET, font, anchor="mm")
        return
    picture = Image.open(BytesIO(tile.preview.octets))
    picture.thumbnail((_CELL - 8, _CELL - 8))
    corner = (left + (_CELL - picture.width) // 2, top + (_CELL - picture.height) // 2)
    page.paste(picture, corner, picture if picture.mode == "RGBA" else None)


def _captions(tile: Tile) -> Iterator[tuple[str, str]]:
    image = tile.image
    measures, words = image.best.measures, image.shown.words
    yield f"{image.number}  {tile.name}", _INK
    sides = "×".join(str(side.value) if side else "?" for side in (measures.width, measures.height))
    kind = measures.type.value if measures.type else ""
    yield f"{sides if sides != '?×?' else ''} {kind}".strip(), _QUIET
    yield words.alt or words.caption or words.link_text or words.title, _QUIET


def _font(size: int) -> "FreeTypeFont | ImageFont":
    from PIL import ImageFont  # noqa: PLC0415

    for name in _FONTS:
        try:
            return ImageFont.truetype(name, size)
        except OSError:
            continue
    return ImageFont.load_default(size)


def _fitted(pen: "ImageDraw", text: str, font: "FreeTypeFont | ImageFont", width: int) -> str:
    """Return ``text`` on one line, cut with an ellipsis where it is wider than ``width`` pixels."""
    text = " ".join("".join(c if c.isprintable() else " " for c in text).split())[:300]
    if pen.textlength(text, font) <= width:
        return text
    while text and pen.textlength(f"{text}…", font) > width:
        text = text[:-1]
    return f"{text}…"
