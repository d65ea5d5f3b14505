"""Descriptions of pyramids of static tiles: Deep Zoom (``.dzi``, in XML or JSON) and Zoomify (``ImageProperties.xml``).

Deep Zoom: the DZI schema of 2008 and 2009. Its levels are numbered from a single pixel up, each twice the one before;
tiles share ``Overlap`` pixels with each neighbour. Zoomify: tiers from one tile up; its tiles are counted through all
tiers, in groups of 256.
"""

from collections.abc import Callable
from typing import Any

from pickcrate.addresses.url import absolute
from pickcrate.hashes import sha256
from pickcrate.media import by_extension
from pickcrate.read.reading import Reading
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import ceiling, whole
from pickcrate.text.surrogates import read_json
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.tiling import Layout, Level, Tiling, Whole

DEEP_ZOOM_SCHEMA = "schemas.microsoft.com/deepzoom/200"
_MOST_SIDE = 2_000_000
_MOST_OVERLAP = 64
_LONGEST = 65_536
"""Bytes of a description: it says a dozen words."""

_BEGINNING = lazy(
    rb"(?:<\?[^<>]{0,300}>\s*|<!--[^<>]{0,2000}-->\s*){0,5}<(?:\w{1,20}:)?(?:Image\s[^<>]{0,2000}TileSize|IMAGE_PROPERTIES\s)"
    rb"|\{\s*\"Image\"\s*:\s*\{[^{}]{0,2000}\"(?:TileSize|Url|xmlns)\""
)
_ATTRIBUTE = lazy(r"([A-Za-z]{1,40})\s*=\s*[\"']([^\"'<>]{0,2000})[\"']")
_ELEMENT = lazy(r"<\s*(?:\w+:)?(Image|Size|IMAGE_PROPERTIES)\b([^<>]{0,4000})", 0)


def is_pyramid(head: bytes) -> bool:
    """Tell whether a source begins as the description of a pyramid does."""
    names_one = b"Image" in head or b"IMAGE_PROPERTIES" in head  # as few sources do
    return names_one and _BEGINNING.match(head[:_LONGEST]) is not None


def read_tiles(octets: bytes, address: str) -> Reading:
    """Return the one picture that a tile description is of."""
    reading = Reading()
    tiling = read_pyramid(octets, address)
    if tiling is None:
        reading.flaws.append(Flaw("tiles", "the description does not say how large its picture and its tiles are"))
    else:
        reading.add_tiled(tiling, FoundIn.VIEWER, page=address)
    return reading


def read_pyramid(octets: bytes, address: str) -> Tiling | None:
    """Return the picture that a description is of; None if it is none, or says nonsense."""
    version = sha256(octets).hexdigest()
    text = octets[:_LONGEST].decode("utf-8-sig", "replace").strip()
    if text.startswith("{"):
        try:
            told = read_json(text)
        except (ValueError, RecursionError):
            return None
        image = told.get("Image") if isinstance(told, dict) else None
        return deep_zoom_of(image, address, version) if isinstance(image, dict) else None
    elements = {match[1]: dict(_ATTRIBUTE.findall(match[2])) for match in _ELEMENT.finditer(text)}
    if (said := elements.get("IMAGE_PROPERTIES")) is not None:
        sides = [whole(said.get(name, "")) or 0 for name in ("WIDTH", "HEIGHT", "TILESIZE", "NUMTILES")]
        return zoomify(address.rpartition("/")[0] + "/", *sides, version=version)
    if "Image" in elements and "Size" in elements:
        return deep_zoom_of({**elements["Image"], "Size": elements["Size"]}, address, version)
    return None


def deep_zoom_of(image: dict[str, Any], address: str, version: str) -> Tiling | None:
    """Return the picture that a Deep Zoom ``Image`` describes; its tiles lie at ``Url``, or beside the description."""
    size = image.get("Size")
    if not isinstance(size, dict):
        return None
    width, height = _side(size.get("Width")), _side(size.get("Height"))
    tile, overlap = _side(image.get("TileSize")), _side(image.get("Overlap"))
    ending = str(image.get("Format", "jpg"))
    if not (width and height and tile) or overlap > min(tile, _MOST_OVERLAP) or by_extension(ending) is None:
        return None
    path, question, query = address.partition("?")
    root = absolute(str(image["Url"]), address) if image.get("Url") else f"{path.rpartition('.')[0]}_files/"
    if root is None:
        return None
    root = root if root.endswith("/") else f"{root}/"
    top = (max(width, height) - 1).bit_length()

    def level(number: int) -> Level:
        divisor = 1 << (top - number)
        sides = (ceiling(width, divisor), ceiling(height, divisor))
        # What the description is asked for with is asked for with its tiles: a signature, mostly.
        last = f".{ending}{question}{query}"
        return Level(
            Layout.DEEP_ZOOM, root, last, number, *sides, tile, tile, overlap, stored=(width, height), version=version
        )

    return _pyramid(Layout.DEEP_ZOOM, address, level, top)


def zoomify(root: str, width: int, height: int, tile: int, tiles: int = 0, *, version: str = "") -> Tiling | None:
    """Return the picture of a Zoomify folder: the size of the picture and of a tile, and how many tiles there are.

    Some programs halve a tier's size and drop the half pixel, others keep it; the number of tiles tells which did,
    and without it the pixel is dropped.
    """
    tile = tile or 256
    if not (0 < width <= _MOST_SIDE and 0 < height <= _MOST_SIDE and 1 < tile <= _MOST_SIDE):
        return None
    for halved in (_halved_down, _halved_up):
        sizes = [(width, height)]
        while max(sizes[-1]) > tile:
            sizes.append((halved(width, len(sizes)), halved(height, len(sizes))))
        sizes.reverse()
        counts = [ceiling(wide, tile) * ceiling(high, tile) for wide, high in sizes]
        if not tiles or sum(counts) == tiles:
            break

    def level(number: int) -> Level:
        before = sum(counts[:number])
        return Level(
            Layout.ZOOMIFY,
            root,
            ".jpg",
            number,
            *sizes[number],
            tile,
            tile,
            before=before,
            stored=(width, height),
            version=version,
        )

    return _pyramid(Layout.ZOOMIFY, f"{root}ImageProperties.xml", level, len(sizes) - 1)


def _pyramid(layout: Layout, address: str, level: Callable[[int], Level], top: int) -> Tiling:
    """Return the pyramid of levels from 0 to ``top``; those of one tile are whole versions."""
    levels = tuple(level(number) for number in range(top, -1, -1))
    single = [(next(one.plan()).url, one.width, one.height) for one in levels if one.tiles == 1]
    wholes = tuple(Whole(*version) for version in single[:1])
    largest = levels[0]
    return Tiling(layout, address, largest.width, largest.height, levels, wholes)


def _halved_down(side: int, times: int) -> int:
    return max(1, side >> times)


def _halved_up(side: int, times: int) -> int:
    return ceiling(side, 1 << times)


def _side(value: object) -> int:
    """Return a length in pixels, given as a number or as its digits; 0 for what is none."""
    number = value if isinstance(value, int) and not isinstance(value, bool) else whole(str(value).strip())
    return number if number is not None and 0 < number <= _MOST_SIDE else 0
