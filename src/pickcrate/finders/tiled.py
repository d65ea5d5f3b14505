"""Pictures that a page shows through a viewer of tiles: by the address of their description, or described in a script.

Deep Zoom (``.dzi``), Zoomify (``ImageProperties.xml``), IIIF Image API (``info.json``). What is named is read before it
counts; what stands in a script counts as it stands, if it says the size and where the tiles are.
"""

import itertools
import re
from collections.abc import Iterator

from pickcrate.addresses.url import absolute, claims_no_image, image_type
from pickcrate.finders.data.namedfiles import files_ending
from pickcrate.finders.data.strings import string_literals, unescape, without_references
from pickcrate.finders.place import Walk
from pickcrate.read.data.pyramid import DEEP_ZOOM_SCHEMA, deep_zoom_of, zoomify
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.values.findings import Finding, Need, NeedKind
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference
from pickcrate.values.tiling import Tiling

_MOST = 200
"""Pictures in tiles of one page."""

_MOST_MENTIONS = 1_000
_WIDEST = 4_000
"""Characters of an object in a script, or of a list of descriptions, that are looked at."""

_PROPERTIES = "ImageProperties.xml"
SIGNS = (
    ".dzi", "info.json", "zoomif", "imageproperties", "deepzoom", "deep-zoom", "tilesource", "seadragon", "showimage(",
    "iiif",
)  # fmt: skip
"""of which a page that has any pictures in tiles mentions one"""

_END_OF_DESCRIPTION = lazy(r"\.(?=[djx])(?:dzi|json|xml)(?:\?[^\"'\s<>()]{0,300}+)?(?=[\"')&])", re.IGNORECASE)
_IS_DESCRIPTION = lazy(r".*[^/](?:\.dzi|/info\.json)|(?:.*/)?ImageProperties\.xml", re.IGNORECASE | re.DOTALL)
# An expression that begins with one of a few letters is looked for by those.
_NAMED = lazy(
    r"[DdSsTtZz](?i:(?<=d)eep[-_]?zoom|(?<=d)zi|(?<=s)eadragon|(?<=t)ile[-_]?source|(?<=z)oomify)"
    r"[\w-]{0,30}[\"']?\s*+[:=]\s*+[\"']([^\"'\s<>]{3,500})[\"']"
)
"""an attribute, a variable or a setting that is called after what it holds"""

_LIST_OF_SOURCES = lazy(r"[Tt](?i:ile[-_]?sources?)[\"']?\s*+[:=]\s*+\[")
_ZOOMIFY_FOLDER = lazy(
    r"[zstZ](?:(?<=z)oomifyImagePath=([^\"'&\s<>]{1,500})"
    r"|(?<=\bs)howImage\(\s*+[\"'][^\"']{0,200}[\"']\s*+,\s*+[\"']([^\"'\s<>]{1,500})[\"']"
    r"|(?<=\bt)ileLayer\.zoomify\(\s*+[\"']([^\"'\s<>]{1,500})[\"']"
    r"|(?<=\bZ)oomify\(\s*+\{[^{}]{0,300}?\burl[\"']?\s*+:\s*+[\"']([^\"'\s<>]{1,500})[\"'])"
)
_IMAGE_SERVICE = lazy(
    r"[Ii](?i:iif(?:[-_]?(?:base|image|img|service)){1,2}[-_]?(?:ur[il]|id)?|(?:ma?ge?)[-_]?iiif[-_]?(?:id|ur[il]|base)?)"
    r"\"\s*+:\s*+\"(https?:[^\"\s<>]{6,500})\""
)
"""where data has the base of an image of the IIIF Image API (3.0, 2: ``{scheme}://{server}{/prefix}/{identifier}``)"""

_IS_REQUEST = lazy(r"/(?:info|manifest)(?:\.json)?$|/default\.\w{3,4}$|/native\.\w{3,4}$")
_TILE_SERVICE = lazy(r"[Zz](?i:oomifytileservice)")
_FIELD = lazy(
    r"[\"']?\b(Url|Format|Overlap|TileSize|Width|Height|tilesUrl)[\"']?\s*+:\s*+[\"']?([^\"',}\s]{1,500})",
    re.IGNORECASE,
)
_PATTERN = lazy(r"\{(?:g|z|x|y|TileGroup|tileIndex)\}", re.IGNORECASE)


def find_tilings(walk: Walk) -> Iterator[Finding]:
    """Yield what a page's source says of pictures in tiles: descriptions to read, and pictures that it describes."""
    text = walk.page.text
    described = dict.fromkeys(itertools.chain(_deep_zooms(walk.page), _zoomify_services(walk.page)))
    known = {tiling.address for tiling in described}
    for tiling in list(described)[:_MOST]:
        yield _reference(walk, tiling)
    named: dict[str, None] = {}
    for raw in itertools.islice(itertools.chain(_descriptions(text), _image_services(text)), _MOST_MENTIONS):
        url = walk.page.resolve(without_references(unescape(raw)))
        if url is not None and url.startswith(("http:", "https:", "file:")) and url not in known:
            named[url] = None
    for url in list(named)[:_MOST]:
        yield Need(NeedKind.TILES, url)


def _reference(walk: Walk, tiling: Tiling) -> Reference:
    page, shown = walk.page, tiling.wholes[0].url
    return Reference(
        shown,
        shown[:200],
        page.address,
        FoundIn.VIEWER,
        "script",
        "",
        walk.new_cluster(),
        trust=page.trust,
        tiling=tiling,
    )


def _descriptions(text: str) -> Iterator[str]:
    """Yield the addresses of descriptions, as they are written."""
    for _, name in files_ending(text, _END_OF_DESCRIPTION):
        if _IS_DESCRIPTION.fullmatch(name.partition("?")[0]) is not None:
            yield name
    for match in _NAMED.finditer(text):
        is_zoomify = "zoomify" in match[0][: match.start(1) - match.start()].lower()
        if match[1].lower().partition("?")[0].endswith((".xml", ".dzi", ".json")):
            yield match[1]
        elif is_zoomify and (folder := _folder(match[1])):
            yield folder
    for match in _LIST_OF_SOURCES.finditer(text):
        window = text[match.end() : match.end() + _WIDEST].partition("]")[0]
        for start, end in string_literals(window):
            if window[start + 1 : end - 1].lower().endswith((".xml", ".dzi", ".json")):
                yield window[start + 1 : end - 1]
    for match in _ZOOMIFY_FOLDER.finditer(text):
        if folder := _folder(next(filter(None, match.groups()))):
            yield folder


def _image_services(text: str) -> Iterator[str]:
    """Yield the addresses of the descriptions of images whose base is told in data."""
    for match in _IMAGE_SERVICE.finditer(text):
        if _IS_REQUEST.search(match[1]) is None:
            yield f"{match[1].rstrip('/')}/info.json"


def _folder(raw: str) -> str:
    """Return the address of the description in a folder of Zoomify's; empty if it is a file of another kind."""
    raw = unescape(raw).partition("?")[0]
    if (pattern := _PATTERN.search(raw)) is not None:
        raw = raw[: pattern.start()].rpartition("/")[0]
    if raw.endswith(_PROPERTIES):
        return raw
    as_address = f"https://any.example/{raw.lstrip('/')}"
    is_file = claims_no_image(as_address) or image_type(as_address) is not None or "/" not in raw
    return "" if is_file else f"{raw.rstrip('/')}/{_PROPERTIES}"


def _deep_zooms(page: Page) -> Iterator[Tiling]:
    """Yield the pictures that objects of Deep Zoom's schema in scripts describe (``{Image: {xmlns: …, Url: …}}``)."""
    at = page.text.find(DEEP_ZOOM_SCHEMA)
    for _ in range(_MOST):
        if at < 0:
            return
        fields = _fields_around(page.text, at)
        size = {"Width": fields.get("width"), "Height": fields.get("height")}
        if (root := page.resolve(unescape(fields.get("url", "")))) is not None and fields.get("url"):
            said = {"Url": root, "TileSize": fields.get("tilesize"), "Overlap": fields.get("overlap"), "Size": size}
            description = f"{root.rstrip('/').removesuffix('_files')}.dzi"
            tiling = deep_zoom_of({**said, "Format": fields.get("format", "jpg")}, description, "")
            yield from () if tiling is None else (tiling,)
        at = page.text.find(DEEP_ZOOM_SCHEMA, at + 1)


def _zoomify_services(page: Page) -> Iterator[Tiling]:
    """Yield the pictures that objects in scripts describe, with their size and the folder of their tiles."""
    for match in itertools.islice(_TILE_SERVICE.finditer(page.text), _MOST):
        fields = _fields_around(page.text, match.start())
        root = absolute(unescape(fields.get("tilesurl", "")), page.base) if fields.get("tilesurl") else None
        sides = [whole(fields.get(name, "")) or 0 for name in ("width", "height", "tilesize")]
        if root is not None and (tiling := zoomify(f"{root.rstrip('/')}/", *sides)) is not None:
            yield tiling


def _fields_around(text: str, at: int) -> dict[str, str]:
    """Return the fields, their names in lower case, of the object in a script that a place lies in."""
    start = text.rfind("{", max(0, at - _WIDEST), at)
    if start < 0:
        return {}
    depth, end = 0, min(len(text), start + _WIDEST)
    for place in range(start, end):
        depth += (text[place] == "{") - (text[place] == "}")
        if not depth:
            end = place
            break
    return {match[1].lower(): match[2] for match in _FIELD.finditer(text, start, end)}
