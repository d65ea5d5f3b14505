"""Pictures that a file of JSON holds itself, in base64 or as ``data:`` addresses: taken out of the data.

Answers of services that make pictures have them so, notebooks, and exports of programs that live in one page.
"""

import json
from base64 import b64decode
from functools import partial
from typing import Any
from urllib.parse import quote

from msgspec import Struct, field

from pickcrate.addresses.url import decode_data, is_picture_path, split_extension
from pickcrate.media.header import read_header
from pickcrate.read.lists.cells import HELD_PICTURE
from pickcrate.read.reading import StoredBody
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

_HOLDS_PICTURE = lazy(rf"\"(?:{HELD_PICTURE})".encode())
_IS_PICTURE = lazy(HELD_PICTURE)
_FROM_ROOT = ("http:", "https:", "/")
_DEEPEST, _MOST_PICTURES = 60, 10_000


def taken_out(octets: bytes, address: str) -> tuple[bytes, dict[str, StoredBody]]:
    """Return data with an address in the place of each picture that it holds, and the pictures by those addresses.

    They are as those of files in a folder of the data's own name: called as the object around them says, or in folders
    that are numbered from 1. What is no JSON, or holds no picture, comes back as it is.
    """
    if _HOLDS_PICTURE.search(octets) is None:
        return octets, {}
    taking = _TakingOut(address)
    try:
        value = taking.without(read_json(octets.decode("utf-8-sig", "replace")), 0)
    except (ValueError, RecursionError):
        return octets, {}
    return json.dumps(value, ensure_ascii=False).encode("utf-8", "replace"), taking.bodies


class _TakingOut(Struct):
    """The pictures that were found in one file of data."""

    address: str
    bodies: dict[str, StoredBody] = field(default_factory=dict)

    def without(self, value: Any, depth: int) -> Any:
        """Return a value with its pictures replaced; what is nested too deep stays as it is."""
        if isinstance(value, str):
            return self._placed(value)
        if depth > _DEEPEST:
            return value
        if isinstance(value, dict):
            return self._object(value, depth)
        return [self.without(inner, depth + 1) for inner in value] if isinstance(value, list) else value

    def _object(self, value: dict[str, Any], depth: int) -> dict[str, Any]:
        """Return an object with its pictures replaced; what calls them is no address of another picture.

        ``{"filename": "kite.png", "data": …}`` calls one, and so does ``{"kite.png": {"image/png": …}}``. What is held
        beside a picture's address is a blurred piece of that, to be shown meanwhile: it stays.
        """
        texts = {name: said for name, said in value.items() if isinstance(said, str)}
        if any(map(_says_where, texts.values())):
            return {name: inner if name in texts else self.without(inner, depth + 1) for name, inner in value.items()}
        value = self._called(value)
        replaced = ((name, inner, self.without(inner, depth + 1)) for name, inner in value.items())
        return {name if now == inner else split_extension(name)[0]: now for name, inner, now in replaced}

    def _called(self, value: dict[str, Any]) -> dict[str, Any]:
        """Return an object with the one picture that it holds called as it says, itself or in an object in it."""
        parts = {"": value, **{name: inner for name, inner in value.items() if isinstance(inner, dict)}}
        texts = [(at, name, said) for at, part in parts.items() for name, said in part.items() if isinstance(said, str)]
        calls = [text for text in texts if "/" not in text[2] and is_picture_path(text[2])]
        holds = [text for text in texts if _IS_PICTURE.match(text[2]) is not None]
        if not len(calls) == len(holds) == 1:
            return value
        (calling, called, name), (holding, held, octets) = calls[0], holds[0]
        said = {(calling, called): split_extension(name)[0], (holding, held): self._placed(octets, name)}
        for (at, key), now in said.items():
            value = value | ({at: value[at] | {key: now}} if at else {key: now})
        return value

    def _placed(self, text: str, called: str = "") -> str:
        """Return the address that a picture has from now on; a text that is none as it is."""
        picture = _picture(text) if _IS_PICTURE.match(text) is not None else b""
        header = read_header(picture) if len(self.bodies) < _MOST_PICTURES else None
        if header is None:
            return text
        number = len(self.bodies) + 1
        name = quote(called, errors="replace") or f"{number}/picture.{header.type}"
        url = f"{self.address}/{name}"
        if url in self.bodies:
            url = f"{self.address}/{number}/{name}"
        self.bodies[url] = StoredBody(partial(bytes, picture), is_held=True)
        return url


def _says_where(text: str) -> bool:
    """Tell whether a text is the address of a picture, with a host or from the root."""
    return text.startswith(_FROM_ROOT) and is_picture_path(text.partition("?")[0])


def _picture(text: str) -> bytes:
    """Return the bytes that a text stands for; none if it is no base64."""
    if text.startswith("data:"):
        return (decode_data(text) or ("", b""))[1]
    try:
        return b64decode("".join(text.split()), validate=True)
    except ValueError:
        return b""
