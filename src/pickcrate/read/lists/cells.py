"""What the cells of a list hold: the address of a picture, or several, as shops export all pictures of a thing."""

import re
from base64 import b64decode
from collections.abc import Callable, Iterator, Mapping

from pickcrate.addresses.url import is_network_path, is_picture_path, lacks_scheme, looks_like_web
from pickcrate.media import BY_NAME
from pickcrate.media.header import Header, read_header
from pickcrate.read.lists.addresslist import addresses_among
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.text.surrogates import read_json

Row = Mapping[str, object]
"""the cells of a row, by header"""

_BEFORE_ADDRESS = lazy(r"(?<![\s,;|])[\s,;|]++(?=(?:https?:)?//)", re.IGNORECASE)
_BETWEEN_PATHS = lazy(r"[,;|\n]")
_SHOWS = lazy(r"<img\b", re.IGNORECASE)
_SOURCES = lazy(r"<img\b[^<>]{0,2000}?\ssrc\s{0,3}=\s{0,3}[\"']?([^\"'\s>]{1,2000})", re.IGNORECASE)
_SEPARATORS = ",;| \t\r\n"
"""what stands between the addresses in one cell"""

_IN_BASE64 = r"iVBORw0KGgo|\\?/9j\\?/|R0lGOD[dl]h|UklGR[\w+\\/]{5,8}XRUJQ|AAAA[\w+\\/]{2,4}Z0eXBh"
HELD_PICTURE = rf"{_IN_BASE64}|data:image\\?/"
"""how a text begins that is a PNG, JPEG, GIF, WebP or AVIF in base64 (RFC 4648, 4), or an address that holds a
picture's bytes (RFC 2397); in JSON a slash may be escaped"""

_BEGINS_AS_PICTURE = lazy(HELD_PICTURE)
_PICTURE_IN_BASE64 = lazy(r"(?:" + _IN_BASE64 + r")[A-Za-z0-9+/\s]{40,}+=*+\s*+")
_SEVERAL = 2
_HEAD = 400
"""characters in which a picture in base64 says what it is"""


def is_address(text: str) -> bool:
    """Tell whether a cell holds the address of something on the web, or of a picture that is in the cell itself."""
    if _BEGINS_AS_PICTURE.match(text) is not None:
        return text.startswith("data:") or _PICTURE_IN_BASE64.fullmatch(text) is not None
    return (looks_like_web(text) or is_network_path(text)) and " " not in text


def is_bare_address(text: str) -> bool:
    """Tell whether a cell holds an address without its scheme: what may be a site beside a picture's own address."""
    return lacks_scheme(text) and " " not in text


def is_entry(text: str) -> bool:
    """Tell whether a cell may hold the address of a picture, relative or not: no header does."""
    return is_address(text) or is_picture_path(text)


def holds(cell: str, is_one: Callable[[str], bool]) -> bool:
    """Tell whether one of the addresses in a cell is of a kind."""
    if "." not in cell and "//" not in cell and _BEGINS_AS_PICTURE.match(cell) is None:  # as most of very many
        return False
    return any(map(is_one, addresses_in_cell(cell)))


def is_made_of(cell: str, is_one: Callable[[str], bool]) -> bool:
    """Tell whether a cell holds addresses of a kind and no words besides."""
    return ("." in cell or "//" in cell) and all(map(is_one, addresses_in_cell(cell)))


def addresses_in_cell(text: str) -> list[str]:
    """Return the several addresses that one cell holds; the whole text if it is one, or none."""
    text = text.strip()
    if _BEGINS_AS_PICTURE.match(text) is not None and (held := with_address(text)).startswith("data:"):
        return [held]
    several = _BEFORE_ADDRESS.split(text)
    if len(several) > 1:
        return [address for one in several if (address := one.rstrip(_SEPARATORS))]
    paths = [path.strip() for path in _BETWEEN_PATHS.split(text.rstrip(_SEPARATORS))]
    return paths if len(paths) > 1 and all(map(is_picture_path, paths)) else [text]


def with_address(text: str) -> str:
    """Return a picture in base64 as an address that holds it; any other text as it is."""
    if _PICTURE_IN_BASE64.fullmatch(text) is None:
        return text
    plain = "".join(text.split())
    try:
        header = read_header(b64decode(plain[:_HEAD]))
    except ValueError:
        return text
    return address_holding(header, plain) if header is not None else text


def address_holding(header: Header, plain: str) -> str:
    """Return the address of a picture that holds its bytes, which are ``plain`` in base64 (RFC 2397)."""
    return f"data:{BY_NAME[header.type].media_types[0]};base64,{plain}"


def wrapped_addresses(text: str) -> list[str]:
    """Return the addresses in a cell that is none itself: a formula, markup, data, or a file's name with its address.

    ``=IMAGE("https://…")``, ``<img src="…">``, ``["https://…"]``, ``red.jpg (https://…)``. Of markup the pictures.
    """
    if "/" not in text:
        return []
    if _SHOWS.search(text) is not None:
        found = _SOURCES.findall(text)
    else:
        plain = text.replace("\\/", "/") if text.lstrip()[:1] in {"[", "{", '"'} else text
        found = list(addresses_among(plain))
    return list(dict.fromkeys(filter(None, found)))


def addresses_of(value: object, *, splits_text: bool) -> Iterator[str]:
    """Yield the addresses in a value, text or a list of it; in each text there may be several if ``splits_text``."""
    for text in value if isinstance(value, list) else [value]:
        if not isinstance(text, str) or not text.strip():
            continue
        found = addresses_in_cell(text) if splits_text else [with_address(text)]
        if splits_text and not all(map(is_entry, found)) and (wrapped := wrapped_addresses(text)):
            found = wrapped
        yield from _without_names(found)


def _without_names(found: list[str]) -> list[str]:
    """Return addresses without the names of files, and the words, that stand before them: ``save red.jpg https://…``."""
    if len(found) < _SEVERAL or not is_address(found[-1]):
        return found
    return [one for one in found if is_address(one) or ("/" in one and " " not in one)]


def as_cell(value: object) -> str:
    """Return a value of a list that is more than text as a cell would have it."""
    return "\n".join(map(str, value)) if isinstance(value, list) else str(value)


def text_in(row: Row, header: str) -> str:
    """Return the text of a cell, without the spaces around it; empty if there is none."""
    value = row.get(header)
    if value is None:
        return ""
    return value.strip() if isinstance(value, str) else str(value)


def number_in(row: Row, header: str) -> int | None:
    """Return the whole number that a cell holds; None if it holds anything else."""
    return whole(text_in(row, header))


def parsed(value: object) -> object:
    """Return what a cell holds as JSON text, or holds already; None if it is no JSON."""
    if not isinstance(value, str):
        return value
    try:
        found: object = read_json(value)
    except (ValueError, RecursionError):
        return None
    return found
