"""The icons of a web application's manifest (W3C Web Application Manifest, 1.9 and Image Resource)."""

import re
from collections.abc import Iterator

from msgspec import Struct

from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

_SIZES = lazy(r"(?<!\d)(\d{1,6})x(\d{1,6})(?!\d)", re.IGNORECASE)
_LISTS = ("icons", "screenshots")


class ManifestImage(Struct, frozen=True):
    """One image of a manifest: its raw address, and the largest width that it declares."""

    src: str
    width: int | None


def read_manifest(octets: bytes) -> Iterator[ManifestImage]:
    """Yield the images of a manifest; nothing if it is not one."""
    try:
        manifest = read_json(octets.decode("utf-8", "replace"))
    except (ValueError, RecursionError):
        return
    if not isinstance(manifest, dict):
        return
    shortcuts = manifest.get("shortcuts")
    holders = [manifest, *(s for s in shortcuts if isinstance(s, dict))] if isinstance(shortcuts, list) else [manifest]
    for holder in holders:
        for name in _LISTS:
            entries = holder.get(name)
            for entry in entries if isinstance(entries, list) else ():
                if isinstance(entry, dict) and isinstance(entry.get("src"), str):
                    widths = [int(width) for width, _ in _SIZES.findall(str(entry.get("sizes", "")))]
                    yield ManifestImage(entry["src"], max(widths, default=None))
