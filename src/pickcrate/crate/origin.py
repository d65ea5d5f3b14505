"""The page that a crate was called after: it is found again by that when the page has another title next week."""

from pathlib import Path

from pickcrate.addresses.url import without_scheme
from pickcrate.crate.places import INNER, Places

_FILE = "origin"
_LONGEST = 8_192
"""Bytes of the file that has the page's address."""


def note_origin(places: Places, page: str) -> None:
    """Note that a crate is called after a page, unless it was called after another before. Raises OSError."""
    path = places.inner / _FILE
    if not path.is_symlink() and not path.exists():
        path.write_text(f"{page}\n", encoding="utf-8")


def crate_called_after(page: str, into: Path) -> Path | None:
    """Return the crate in a folder that was called after this page; of several the one that was filled last."""
    own = without_scheme(page)
    found = [origin for origin in into.glob(f"*/{INNER}/{_FILE}") if without_scheme(_page_in(origin)) == own]
    return max(found, key=_filled_at).parent.parent if found else None


def _page_in(origin: Path) -> str:
    if origin.is_symlink() or origin.parent.is_symlink():
        return ""
    try:
        with origin.open("rb") as file:
            return file.read(_LONGEST).decode("utf-8", "replace").removesuffix("\n")
    except OSError:
        return ""


def _filled_at(origin: Path) -> float:
    try:
        return Places(origin.parent.parent).ledger.stat().st_mtime
    except OSError:
        return 0.0
