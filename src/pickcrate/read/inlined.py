"""Pictures that a file of JSON holds itself, in base64 or as ``data:`` addresses: taken out of the data.

Answers of services that make pictures have them so, notebooks, and exports of programs that live in one page.
"""

import json
from base64 import b64decode
from collections.abc import Callable
from functools import partial
from typing import Any

from pickcrate.addresses import decode_data, split_extension
from pickcrate.lazyre import lazy
from pickcrate.media.header import read_header
from pickcrate.read.reading import StoredBody

_BEGINS = r"iVBORw0KGgo|\\?/9j\\?/|R0lGOD[dl]h|UklGR[\w+\\/]{5,8}XRUJQ|AAAA[\w+\\/]{2,4}Z0eXBh|data:image\\?/"
"""a PNG, JPEG, GIF, WebP or AVIF in base64 (RFC 4648, 4), or an address that holds a picture's bytes (RFC 2397)"""

HOLDS_PICTURE = lazy(rf"\"(?:{_BEGINS})".encode())
_IS_PICTURE = lazy(_BEGINS)
_DEEPEST, _MOST_PICTURES = 60, 10_000


def taken_out(octets: bytes, address: str) -> tuple[bytes, dict[str, StoredBody]]:
    """Return data with an address in the place of each picture that it holds, and the pictures by those addresses.

    They are as those of files in a folder of the data's own name, numbered from 1. What is no JSON, or holds no
    picture, comes back as it is.
    """
    if HOLDS_PICTURE.search(octets) is None:
        return octets, {}
    bodies: dict[str, StoredBody] = {}

    def named(text: str) -> str:
        picture = _picture(text)
        header = read_header(picture) if len(bodies) < _MOST_PICTURES else None
        if header is None:
            return text
        url = f"{address}/{len(bodies) + 1}.{header.type}"
        bodies[url] = StoredBody(partial(bytes, picture), is_held=True)
        return url

    try:
        value = _replaced(json.loads(octets.decode("utf-8-sig", "replace")), named, 0)
    except (ValueError, RecursionError):
        return octets, {}
    return json.dumps(value, ensure_ascii=False).encode("utf-8", "replace"), bodies


def _replaced(value: Any, named: Callable[[str], str], depth: int) -> Any:
    """Return a value with its pictures replaced; what is nested too deep stays as it is."""
    if isinstance(value, str):
        return named(value) if _IS_PICTURE.match(value) is not None else value
    if depth > _DEEPEST:
        return value
    if isinstance(value, dict):
        # A name for what is inside is no address of another picture: "attachments": {"kite.png": {"image/png": …}}.
        replaced = ((name, inner, _replaced(inner, named, depth + 1)) for name, inner in value.items())
        return {name if now == inner else split_extension(name)[0]: now for name, inner, now in replaced}
    return [_replaced(inner, named, depth + 1) for inner in value] if isinstance(value, list) else value


def _picture(text: str) -> bytes:
    """Return the bytes that a text stands for; none if it is no base64."""
    if text.startswith("data:"):
        return (decode_data(text) or ("", b""))[1]
    try:
        return b64decode("".join(text.split()), validate=True)
    except ValueError:
        return b""
