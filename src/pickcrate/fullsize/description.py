"""Where the description of a picture lies that is kept in tiles, as the address of one of its versions tells it."""

import re

from pickcrate.addresses.url import is_web, path_of
from pickcrate.text.lazyre import lazy

_LONGEST = 2_000
_DESCRIPTION = lazy(r"(?:/info\.json|/ImageProperties\.xml|\.dzi)(?:\?|\Z)", re.IGNORECASE)
_WHOLE_IN_SERVICE = lazy(
    r"^(.+)/full/(?:full|max|\^?(?:pct:[\d.]+|!?\d*,\d*))/!?0/(?:default|native|colou?r|gr[ae]y)\.\w+$", re.IGNORECASE
)
"""IIIF Image API 3.0, 2.1 (image request URI syntax), of the whole picture, upright"""

_TILE_OF_FOLDER = lazy(r"^(.*/)TileGroup\d{1,6}/\d{1,2}-\d{1,6}-\d{1,6}\.\w+$")
_TILE_OF_DEEP_ZOOM = lazy(r"^(.+)_files/\d{1,2}/\d{1,6}_\d{1,6}\.\w+$")


def is_description(url: str) -> bool:
    """Tell whether an address is that of a description itself, by its name."""
    return _DESCRIPTION.search(url) is not None


def service_of(url: str) -> str:
    """Return the description of the image service that a whole picture's address is one of; empty if it is none."""
    match = _matched(_WHOLE_IN_SERVICE, url)
    return f"{_before_path(url)}{match[1]}/info.json" if match else ""


def pyramid_of(url: str) -> str:
    """Return the description of the pyramid that a tile's address is one of; empty if it is no tile's."""
    if (match := _matched(_TILE_OF_FOLDER, url)) is not None:
        return f"{_before_path(url)}{match[1]}ImageProperties.xml"
    if (match := _matched(_TILE_OF_DEEP_ZOOM, url)) is not None:
        query = url.partition("?")[1] + url.partition("?")[2]
        return f"{_before_path(url)}{match[1]}.dzi{query}"
    return ""


def _matched(pattern: re.Pattern[str], url: str) -> re.Match[str] | None:
    return pattern.match(path_of(url)) if is_web(url) and len(url) <= _LONGEST else None


def _before_path(url: str) -> str:
    bare = url.partition("?")[0]
    return bare.removesuffix(path_of(url))
