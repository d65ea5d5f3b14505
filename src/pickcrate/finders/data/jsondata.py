"""Image addresses in JSON, with the sizes that it states for them; and in what is written as a script writes data."""

import re
from collections.abc import Container, Iterable, Iterator, Mapping
from itertools import chain, pairwise

from pickcrate.finders.data.encoded import decoded
from pickcrate.finders.data.literals import (
    EXTENSION,
    holds_img,
    in_markdown,
    in_markup,
    in_piece,
    in_script,
    in_urls,
    is_address,
    is_file,
    listed,
    sizes_in,
)
from pickcrate.finders.data.named import (
    may_be_address,
    may_hold_named,
    named_strings,
    says_from_where,
    without_file_names,
)
from pickcrate.finders.data.strings import DEEPEST, MOST_VALUES
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.media import ANY_EXTENSION
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

_DESCRIPTOR = lazy(r"(\d{1,5})(w|x|px)")
_NUMBER = lazy(r"\d{2,4}")
_LEAST_STEP = 1.15
"""how much larger a width is than the next smaller one"""

_STATES_SIZES = lazy(
    rf"\"(?:w(?:idth)?|\d{{1,5}}(?:w|x|px)?)\"\s{{0,9}}:|\.(?:{ANY_EXTENSION})(?:[?#][^\"]{{0,999}}+)?\"\s{{0,9}}:",
    re.IGNORECASE,
)
"""a name in JSON that is a size, says one, or is an address"""
OPENS_JSON = frozenset("{[")
_LONGEST_KEYS = 80


def in_notation(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a value in JSON, with the widths that it states, or in a script's own notation."""
    parsed = parsed_json(text)
    yield from map(ImageCandidateString, in_script(text)) if parsed is None else _in_parsed(text, parsed)


def in_json(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a JSON text, with the widths that it states; none if it is not JSON."""
    parsed = parsed_json(text)
    if parsed is not None:
        yield from _in_parsed(text, parsed)


def _in_parsed(text: str, parsed: object) -> Iterator[ImageCandidateString]:
    sized = {entry.url: entry for entry in _sized(parsed)} if _STATES_SIZES.search(text) is not None else {}
    found = list(_strings_of(parsed))
    whole = {raw.rpartition("/")[2]: raw for raw in found if says_from_where(raw)}
    for raw in found:
        entry = sized.pop(raw, None) or ImageCandidateString(raw)
        if not _is_end_of_another(raw, whole):
            yield entry
    yield from sized.values()  # names of an object, not strings in it


def _is_end_of_another(raw: str, whole: Mapping[str, str]) -> bool:
    """Tell whether a path is the end of an address in the same data that says from where it is, by their last steps."""
    is_path = "/" in raw and not says_from_where(raw)
    return is_path and whole.get(raw.rpartition("/")[2], "").endswith(f"/{raw}")


def parsed_json(text: str) -> object:
    """Return the value that a JSON text is, whole numbers as text however long they are; None if it is none."""
    try:
        parsed: object = read_json(text, parse_int=str)
    except (ValueError, RecursionError):
        return None
    return parsed


def keys_in(text: str, known: Container[str]) -> dict[str, str]:
    """Return under which keys a JSON text has the ``known`` strings, the outermost first: ``user.avatar``.

    Lists have no keys, and of what stands in several places the first counts. Empty if it is no JSON.
    """
    found: dict[str, str] = {}
    waiting: list[tuple[object, str, int]] = [(parsed_json(text) if text.lstrip()[:1] in OPENS_JSON else None, "", 0)]
    left = MOST_VALUES
    while waiting and left:
        value, keys, depth = waiting.pop()
        left -= 1
        if isinstance(value, str):
            if value in known:
                found.setdefault(value, keys)
        elif depth < DEEPEST and isinstance(value, dict):
            inside = ((inner, f"{keys}.{name}"[-_LONGEST_KEYS:].lstrip(".")) for name, inner in reversed(value.items()))
            waiting.extend((inner, path, depth + 1) for inner, path in inside)
        elif depth < DEEPEST and isinstance(value, list):
            waiting.extend((inner, keys, depth + 1) for inner in reversed(value))
    return found


def _strings_of(parsed: object) -> Iterator[str]:
    for string, is_named in named_strings(parsed):
        raw = decoded(string)
        if is_address(raw) or (is_named and (may_be_address(raw) or is_file(raw))):
            yield from listed(raw.strip()) or (raw.strip(),)
        elif sizes := sizes_in(raw):
            yield from (entry.url for entry in sizes)
        elif EXTENSION.search(raw) is not None or holds_img(raw):
            yield from listed(raw) or in_piece(raw)


def in_block(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a data block of a type of its own (HTML, 4.12.1): JSON, markup, or Markdown."""
    is_json = text.lstrip()[:1] in OPENS_JSON
    if is_json and (EXTENSION.search(text) is not None or may_hold_named(text) or holds_img(text)):
        yield from in_json(text)
    if is_json:
        return
    if "<" in text:
        yield from map(ImageCandidateString, chain(in_markup(text), in_urls(text)))
    if "![" in text:
        yield from map(ImageCandidateString, in_markdown(text))


def _sized(parsed: object) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a JSON value with the widths that it states for them.

    A width stands beside the address (``{"url": …, "width": 800}``) or is its value (``{"…": [800, 600]}``).
    """
    waiting: list[tuple[object, int | None, int]] = [(parsed, None, 0)]
    left = MOST_VALUES
    while waiting and left:
        value, width, depth = waiting.pop()
        left -= 1
        if isinstance(value, str):
            if is_address(value):
                yield ImageCandidateString(value.strip(), width)
        elif depth < DEEPEST and isinstance(value, dict):
            for name, inner in value.items():
                if is_address(name):
                    yield ImageCandidateString(name.strip(), _first_number(inner))
            if described := _described(value):
                yield from described
                continue
            addresses = [inner for inner in value.values() if isinstance(inner, str) and is_address(inner)]
            stated = _first_number(value.get("width", value.get("w"))) if len(addresses) == 1 else None
            waiting.extend((inner, stated, depth + 1) for _, inner in reversed(without_file_names(value)))
        elif depth < DEEPEST and isinstance(value, list):
            waiting.extend((inner, None, depth + 1) for inner in reversed(value))


def _described(value: dict[str, object]) -> list[ImageCandidateString]:
    """Return the addresses of an object whose names are sizes, a srcset's or in pixels: ``{"1x": …, "2x": …}``."""
    sizes = {name: size_called(name) for name in value}
    if None in sizes.values() and are_widths(value):
        sizes = {name: (int(name), None) for name in value}
    found = [
        ImageCandidateString(inner.strip(), *size)
        for name, inner in value.items()
        if isinstance(inner, str) and is_address(inner) and (size := sizes[name]) is not None
    ]
    return found if len(found) == len(value) > 1 else []


def size_called(name: str) -> tuple[int | None, float | None] | None:
    """Return the width or the density that a name in data is: ``2x``, ``800w``, ``800px``; None if it is none."""
    match = _DESCRIPTOR.fullmatch(name)
    if match is None:
        return None
    return (None, float(match[1])) if match[2] == "x" else (int(match[1]), None)


def are_widths(names: Iterable[str]) -> bool:
    """Tell whether names are numbers as widths are: round, and in steps; years and identifiers follow each other."""
    if not all(map(_NUMBER.fullmatch, names)):
        return False
    widths = sorted(map(int, names))
    is_round = all(width % 5 == 0 or width % 8 == 0 for width in widths)
    return is_round and all(larger >= smaller * _LEAST_STEP for smaller, larger in pairwise(widths))


def _first_number(value: object) -> int | None:
    """Return a width that JSON states: a number, a number as text, or the first of a pair."""
    if isinstance(value, list) and value:
        value = value[0]
    if isinstance(value, str) and value.isdecimal() and len(value) < 6:
        value = int(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    return int(value) if 0 < value < 1e5 else None
