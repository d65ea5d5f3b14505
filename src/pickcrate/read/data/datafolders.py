"""Folders that data states beside the files in them: ``{"imagePath": "img/", "images": [{"file": "red.jpg"}]}``.

And lists of what is in a folder, as servers and programs write them: ``[{"type": "file", "name": "red.jpg"}]``.
"""

import json
from typing import Any
from urllib.parse import quote

from msgspec import Struct

from pickcrate.addresses.ranks import SMALL, names_a_version, rank, words_in
from pickcrate.addresses.url import is_picture_path
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

_STATES_A_FOLDER = lazy(rb"(?i)(?:path|folder|dir|directory|base|root|prefix|url)\"\s{0,9}:\s{0,9}\"[^\"]{0,500}/\"")
_LISTS_FILES = lazy(rb"\"type\"\s{0,9}:\s{0,9}\"file\"")
_SAYS_WHERE = frozenset("url href src path link download_url".split())
"""by what a file in a list says where it is itself"""

_FOLDER_WORDS = frozenset("path folder dir directory base root prefix".split())
_WORDS = frozenset(("title", "alt", "caption", "description"))
"""names of what is said of a picture, though it may be said by the name of its file"""

_PICTURE, _THUMBNAIL = "image", "thumbnail"
"""what the two versions are called that the folders make of one name"""

_DEEPEST = 60


class _Folders(Struct, frozen=True):
    """The folders of pictures and of their thumbnails, as data states them; empty where it states none."""

    pictures: str = ""
    thumbnails: str = ""


def in_folders(octets: bytes) -> bytes:
    """Return JSON with the names of picture files behind the folders that it states; as it is if it states none."""
    states_folders, lists_files = _STATES_A_FOLDER.search(octets) is not None, _LISTS_FILES.search(octets) is not None
    if not (states_folders or lists_files):
        return octets
    try:
        parsed = read_json(octets)
    except (ValueError, RecursionError):
        return octets
    parsed = _located(parsed, "./", 0) if lists_files else parsed
    parsed = _placed(parsed, _Folders(), 0) if states_folders else parsed
    return json.dumps(parsed, ensure_ascii=False).encode("utf-8", "replace")


def _located(value: Any, folder: str, depth: int) -> Any:
    """Return a list of files and of folders with where each picture is, as seen from the list."""
    if depth > _DEEPEST:
        return value
    if isinstance(value, list):
        return [_located(inner, folder, depth + 1) for inner in value]
    if not isinstance(value, dict):
        return value
    name = str(value.get("name") or "").strip("/")
    if value.get("type") == "file":
        is_picture = _is_name_alone(name) and _SAYS_WHERE.isdisjoint(value)
        return value | {"name": "", _PICTURE: folder + quote(name)} if is_picture else value
    if value.get("type") == "directory" and name not in {"", ".", ".."}:
        folder = f"{folder}{quote(name)}/"
    return {key: _located(inner, folder, depth + 1) for key, inner in value.items()}


def _placed(value: Any, folders: _Folders, depth: int) -> Any:
    """Return a value with the names of files in it behind the folders that stand around it."""
    if depth > _DEEPEST:
        return value
    if isinstance(value, str):
        return folders.pictures + value if _is_name_alone(value) else value
    if isinstance(value, list):
        return [_placed(inner, folders, depth + 1) for inner in value]
    if not isinstance(value, dict):
        return value
    stated = {key: said for key, said in value.items() if _is_folder(key, said)}
    if stated:
        folders = _folders(stated)
    placed: dict[str, Any] = {}
    for key, inner in value.items():
        if key in stated or key.lower() in _WORDS:
            placed[key] = inner
        elif isinstance(inner, str) and folders.thumbnails and rank(key) <= SMALL:
            placed[key] = folders.thumbnails + inner if _is_name_alone(inner) else inner
        elif isinstance(inner, str) and folders.thumbnails and _is_name_alone(inner):
            placed[key if names_a_version(key) else _PICTURE] = folders.pictures + inner
            placed.setdefault(_THUMBNAIL, folders.thumbnails + inner)
        else:
            placed[key] = _placed(inner, folders, depth + 1)
    return placed


def _is_folder(key: str, said: object) -> bool:
    return isinstance(said, str) and said.endswith("/") and not _FOLDER_WORDS.isdisjoint(words_in(key))


def _folders(stated: dict[str, str]) -> _Folders:
    """Return the folders by what they are called: that of thumbnails, and the best of the others."""
    small = [said for key, said in stated.items() if rank(key) <= SMALL]
    others = sorted((key for key in stated if rank(key) > SMALL), key=rank)
    return _Folders(stated[others[-1]] if others else "", small[0] if small else "")


def _is_name_alone(text: str) -> bool:
    """Tell whether a text is the name of a picture file, without its folder."""
    return "/" not in text and is_picture_path(text)
