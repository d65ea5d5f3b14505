"""The description of one picture by an IIIF image service (``info.json``): Image API 1.1, 2.1 and 3.0.

What is asked for is always spelled canonically (3.0, 4.7; 2.1, 4.7), as static files have no other names.
"""

import json
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from pickcrate.addresses.url import absolute, is_web
from pickcrate.values.tiling import Layout, Level, Tiling, Whole

_LARGEST_REGION = 2_048
"""Pixels of a side of what is asked for at once where the server cuts any region: whole multiples of its tiles."""

_DESCRIPTION = "info.json"
_USUAL_TILE = 1_024
_MOST_SIDE = 2_000_000
_MOST_PARTS = 64
_FORMATS = frozenset(("jpg", "png", "webp", "gif", "tif"))
_CUTS = frozenset(("regionByPx",))
_LEVEL_0 = "level0"


class _Limits(Struct, frozen=True):
    """What a server gives at most (3.0, 5.3; 2.1, 5.3): sides and area in pixels, 0 for no limit."""

    width: int = 0
    height: int = 0
    area: int = 0

    def largest(self, width: int, height: int) -> tuple[int, int]:
        """Return the largest size of the same shape that is given."""
        scale = 1.0
        if self.width:
            scale = min(scale, self.width / width, (self.height or self.width) / height)
        if self.area:
            scale = min(scale, (self.area / (width * height)) ** 0.5)
        return (width, height) if scale >= 1 else (max(1, int(width * scale)), max(1, int(height * scale)))

    def allow(self, width: int, height: int) -> bool:
        return self.largest(width, height) == (width, height)


def is_image_service(told: dict[str, Any]) -> bool:
    """Tell whether an object is the description of an image, or of the service for one."""
    kind = told.get("type") or told.get("@type")
    said = (told.get("@context"), told.get("context"), told.get("protocol"), told.get("profile"), kind)
    words = json.dumps(said)
    return "iiif.io/api/image" in words or "ImageService" in words or "library.stanford.edu/iiif/image-api" in words


def is_third(service: dict[str, Any]) -> bool:
    """Tell whether a service speaks version 3."""
    said = (service.get("@context"), service.get("type"), service.get("profile"))
    return "image/3" in json.dumps(said) or service.get("type") == "ImageService3"


def image_service(told: dict[str, Any], address: str, version: str) -> Tiling | None:
    """Return the versions that an image's description offers; None if it does not say how large the picture is."""
    width, height = _number(told.get("width")), _number(told.get("height"))
    raw = told.get("id") or told.get("@id")
    said = absolute(raw, address) if isinstance(raw, str) else None
    # A description was had from where its service is (3.0, 2.2); folders that were moved still have their old address.
    is_beside = is_web(address) and address.endswith(f"/{_DESCRIPTION}")
    root = address.removesuffix(_DESCRIPTION) if is_beside or said is None or not is_web(said) else said
    if not (width and height):
        return None
    root = root.rstrip("/")
    service = _Service(told, f"{root}/", width, height, version)
    return Tiling(
        service.layout,
        f"{root}/{_DESCRIPTION}",
        width,
        height,
        tuple(service.levels()),
        tuple(dict.fromkeys(sorted(service.wholes(), key=lambda whole: -whole.pixels))),
    )


class _Service(Struct, frozen=True):
    """One description, with the root of the addresses that it is about and the size of the stored picture."""

    told: dict[str, Any]
    root: str
    width: int
    height: int
    version: str

    @property
    def layout(self) -> Layout:
        return Layout.IIIF_3 if is_third(self.told) else Layout.IIIF_2

    @property
    def is_first(self) -> bool:
        """Whether it speaks version 1, which calls the ordinary quality ``native`` (1.1, 4.4)."""
        return "library.stanford.edu" in json.dumps((self.told.get("@context"), self.told.get("profile")))

    @property
    def ending(self) -> str:
        return f"/0/{'native' if self.is_first else 'default'}.{self._format}"

    @property
    def _format(self) -> str:
        """Return JPEG, which all must have but those of level 0, or what these have instead (3.0, 4.5 and 5.5)."""
        if self.cuts:
            return "jpg"
        names = ("formats", "preferredFormats", "extraFormats")
        stated = (one for part in self.profiles for name in names for one in _parts(part.get(name)))
        known = [one for one in stated if isinstance(one, str) and one in _FORMATS]
        return "jpg" if "jpg" in known or not known else known[0]

    @property
    def profiles(self) -> list[dict[str, Any]]:
        """Where limits and features may stand: the description itself (3.0), the objects of its profile (2.1)."""
        profile = self.told.get("profile")
        return [self.told, *(part for part in _parts(profile) if isinstance(part, dict))]

    @property
    def cuts(self) -> bool:
        """Whether any region may be asked for: levels 1 and 2 must, level 0 may (Compliance, 3.0 and 2.1, 3.1)."""
        named = [part for part in _parts(self.told.get("profile")) if isinstance(part, str)]
        is_static = any(_LEVEL_0 in name for name in named)
        features = {
            feature
            for part in self.profiles
            for name in ("supports", "extraFeatures")
            for feature in _parts(part.get(name))
            if isinstance(feature, str)
        }
        return not is_static or not _CUTS.isdisjoint(features)

    @property
    def limits(self) -> _Limits:
        found = {name: _number(part.get(name)) for part in self.profiles for name in _LIMITS if part.get(name)}
        width = found.get("maxWidth", 0)
        return _Limits(width, found.get("maxHeight", 0) or width, found.get("maxArea", 0))

    def wholes(self) -> Iterator[Whole]:
        """Yield the versions that one request brings."""
        width, height = self.limits.largest(self.width, self.height)
        is_third, is_limited = self.layout is Layout.IIIF_3, (width, height) != (self.width, self.height)
        # Version 2.0 does not know "max", and in 2.1 "full" of more than is allowed is an error (4.2).
        names = ("max", "full") if is_third or is_limited else ("full", "max")
        for name in names:
            yield Whole(f"{self.root}full/{name}{self.ending}", width, height)
        for part in _parts(self.told.get("sizes")):
            sides = (_number(part.get("width")), _number(part.get("height"))) if isinstance(part, dict) else (0, 0)
            if sides[0] and sides[1] and sides[0] < width:
                size = f"{sides[0]},{sides[1]}" if is_third else f"{sides[0]},"
                yield Whole(f"{self.root}full/{size}{self.ending}", *sides)
        # Static folders have their smallest sizes as single tiles, whose region some spell in numbers.
        for level in () if self.cuts else self.levels():
            if level.tiles == 1:
                size = f"{level.width},{level.height}" if is_third else f"{level.width},"
                for region in ("full", f"0,0,{self.width},{self.height}"):
                    yield Whole(f"{self.root}{region}/{size}{self.ending}", level.width, level.height)

    def levels(self) -> Iterator[Level]:
        """Yield the sizes that can be put together of regions, largest first."""
        for scale in sorted(self._scales()):
            width, height = -(-self.width // scale), -(-self.height // scale)
            for sides in dict.fromkeys((*self._regions(), self._tile())):
                if sides[0] and sides[1]:
                    yield Level(
                        self.layout,
                        self.root,
                        self.ending,
                        scale,
                        width,
                        height,
                        *sides,
                        stored=(self.width, self.height),
                        version=self.version,
                    )

    def _scales(self) -> set[int]:
        said = [factor for tiles in self._tiles() for factor in _parts(tiles.get("scaleFactors"))]
        said += _parts(self.told.get("scale_factors"))
        scales = {factor for factor in map(_number, said) if 0 < factor <= min(self.width, self.height)}
        return scales | {1, 2, 4, 8, 16} if self.cuts else scales

    def _tiles(self) -> list[dict[str, Any]]:
        return [part for part in _parts(self.told.get("tiles")) if isinstance(part, dict)]

    def _tile(self) -> tuple[int, int]:
        """Return the sides of a tile as announced; zeros if there are none, or none that may be had."""
        tiles = self._tiles()
        width = _number(tiles[0].get("width")) if tiles else _number(self.told.get("tile_width"))
        height = _number(tiles[0].get("height")) if tiles else _number(self.told.get("tile_height"))
        return (width, height or width) if width and self.limits.allow(width, height or width) else (0, 0)

    def _regions(self) -> Iterator[tuple[int, int]]:
        """Yield the sides of regions of several tiles, where any region may be asked for and is not too large."""
        if not self.cuts:
            return
        width, height = self._tile()
        if not (width and height):
            side = _USUAL_TILE
            while side > 1 and not self.limits.allow(side, side):
                side //= 2
            yield side, side
            return
        for several in range(max(1, _LARGEST_REGION // max(width, height)), 1, -1):
            if self.limits.allow(width * several, height * several):
                yield width * several, height * several
                return


_LIMITS = ("maxWidth", "maxHeight", "maxArea")


def _number(value: object) -> int:
    """Return a length in pixels; 0 for what is none."""
    return value if isinstance(value, int) and not isinstance(value, bool) and 0 < value <= _MOST_SIDE else 0


def _parts(value: object) -> list[Any]:
    if isinstance(value, list):
        return value[:_MOST_PARTS]
    return [] if value is None else [value]
