"""What an address calls a picture: the stem of its file, or what stands for it where that is none of the picture's."""

import re
from functools import lru_cache
from urllib.parse import unquote, unquote_plus

from pickcrate import media
from pickcrate.addresses.ranks import SHORTEST_HASH, STAND_IN, has_word, is_opaque, names_any, rank
from pickcrate.addresses.url import file_parts, folder_of, is_web, last_segment, path_of, site, split_extension
from pickcrate.text.lazyre import lazy

_SCRIPT_EXTENSIONS = frozenset(("php", "asp", "aspx", "ashx", "cgi", "jsp", "html", "htm"))


def plain_stem(filename: str) -> str:
    """Return a file's name without the extensions of image types."""
    while media.by_extension(split_extension(filename)[1]) is not None:  # kite.jpg.webp
        filename = split_extension(filename)[0]
    return filename.strip()


_QUALITIES = ("default", "native", "color", "colour", "gray", "grey", "bitonal")
"""what files of image services are called (IIIF Image API 3.0, 4.4; and as earlier versions and others spell it)"""

# The picture's own name in the address of a region, a tile or a description (IIIF Image API 3.0, 3; DZI; Zoomify).
_KEPT_IN_TILES = lazy(
    r"/([^/]+)/(?:full|square|(?:pct:)?[\d.]+(?:,[\d.]+){3})/[^/]+/!?[\d.]+"
    rf"/(?:{'|'.join(_QUALITIES)})\.\w+$"
    r"|/([^/]+)/info\.json$|/([^/]+)/(?:ImageProperties\.xml|TileGroup\d+/\d+-\d+-\d+\.\w+)$"
    r"|/([^/]+)_files/(?:\d+/\d+_\d+\.\w+)?$|/([^/]+)\.dzi$",
    re.IGNORECASE,
)

_TILED_FILES = frozenset(("", *_QUALITIES, "info", "imageproperties"))


def _may_be_tiled(segment: str) -> bool:
    """Tell whether the last segment of an address may be one of those: the expression is slow to find out."""
    base, _, extension = segment.lower().rpartition(".")
    has_numbers = ("-" in base or "_" in base) and base.replace("-", "").replace("_", "").isdigit()
    return has_numbers or base in _TILED_FILES or extension == "dzi"


def is_stand_in(address: str) -> bool:
    """Tell whether a file is called what placeholders are called: each of several pictures may show it meanwhile."""
    return rank(file_parts(address)[0]) == STAND_IN


@lru_cache(maxsize=4)  # it is asked of one picture several times, one after the other
def stem(address: str) -> str:
    """Return the name that an address gives a picture: its last path segment without extensions.

    An address whose last segment is a program (``view.php?id=7``) or blank is told apart by its query; where that
    carries the address of a picture (``image?url=%2Fhall%2Fred.jpg``), it is named after it.
    """
    if address.startswith("cid:"):  # RFC 2392
        return plain_stem(unquote(address[4:]).partition("@")[0])
    if not is_web(address) and not address.startswith("file:"):
        return ""
    segment = last_segment(address)
    if _may_be_tiled(segment) and (kept := _KEPT_IN_TILES.search(path_of(address))) is not None:
        return plain_stem(unquote(unquote(next(filter(None, kept.groups())))).rpartition("/")[2])
    if not segment and "?" not in address:
        segment = unquote(path_of(address).rstrip("/").rpartition("/")[2])
    name, extension = split_extension(segment)
    if media.by_extension(extension) is None and extension.lower() not in _SCRIPT_EXTENSIONS:
        name = segment
    name = plain_stem(name)
    if (names_any(name) or name.isdecimal()) and (whose := _whose_version(address)):
        return whose
    name = _without_fingerprint(name)
    if "?" not in address:
        return name or site(address)
    query = address.partition("?")[2]
    if query and media.by_extension(extension) is None and (carried := _carried(query)):
        return carried
    if query and _is_program(name, extension):
        name = f"{name} {unquote_plus(query)}".replace("&", " ").replace("=", "-")
    return name.strip() or site(address)


# What programs that build sites put behind a file's name, so that caches take a changed file for a new one.
_FINGERPRINT = lazy(r"[._-](?:[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}|([0-9a-f]{8,64}))\Z")
_LENGTHS = frozenset((8, 10, 12, 16, 20, 32, 40, 64))
_OFTEN = 3
_TURNS = lazy(r"(?<=\d)(?=[a-f])|(?<=[a-f])(?=\d)")


def _without_fingerprint(name: str) -> str:
    """Return a file's name without the hash of its bytes behind it: ``red.3f2a1c9d`` is ``red``.

    Short ones behind a hyphen must look like one: ``hall-b1912045`` is a number of an inventory.
    """
    match = _FINGERPRINT.search(name)
    if match is None or not has_word(base := name[: match.start()]) or is_opaque(base):
        return name
    token = match[1] or ""
    turns = len(_TURNS.findall(token))
    is_likely = len(token) in _LENGTHS and turns > 0
    is_sure = name[match.start()] == "." or len(token) >= SHORTEST_HASH or turns >= _OFTEN
    return base if not token or (is_likely and is_sure) else name


_MOST_AROUND = 3
"""folders of an address that are looked at"""


def _whose_version(address: str) -> str:
    """Return the name of the picture whose version an address is: ``red-delta.jpg/large``; empty if it says none."""
    for folder in unquote(path_of(address)).split("/")[-2 : -2 - _MOST_AROUND : -1]:
        name, extension = split_extension(folder)
        if media.by_extension(extension) is not None:
            return plain_stem(name)
    return ""


def _carried(query: str) -> str:
    """Return the name of the picture whose address, or path, a query carries in one of its values; empty if none."""
    for part in query.split("&"):
        field, _, value = part.partition("=")
        if field in _SHOWN_INSTEAD:
            continue
        value = unquote(value).partition("?")[0]
        base, extension = split_extension(value.rpartition("/")[2])
        if media.by_extension(extension) is not None:
            return plain_stem(base)
    return ""


_SHOWN_INSTEAD = frozenset(("d", "default", "defaultImage", "fallback", "placeholder", "onerror"))
"""parameters that name what is shown where there is no picture"""


def asks_a_program(address: str) -> bool:
    """Tell whether a stem is made of what a program was asked with, which says little: ``show id-7 w-150``."""
    return "?" in address and _is_program(*file_parts(address)) and not _carried(address.partition("?")[2])


def _is_program(name: str, extension: str) -> bool:
    """Tell whether a file's name is that of a program, which its query asks for one of many pictures."""
    return not name or extension.lower() in _SCRIPT_EXTENSIONS


def stem_with_folder(address: str) -> str:
    """Return the folder and the stem of an address, where the folder says something: ``3337465-640x360``."""
    folder = folder_of(address)
    return f"{folder}-{stem(address)}" if folder and not names_any(folder) else ""
