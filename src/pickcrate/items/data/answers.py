"""Where an answer of an interface for programs goes on, by an address that it states.

JSON:API 1.1 (``links``), HAL (``_links``), Hydra (``view``), OData 4.01 (``@odata.nextLink``), Activity Streams 2.0
(``next``, and ``first`` of a collection that shows no members itself); OGC API - Features 1.0, 7.15.5, and others that
have links with a relation (RFC 8288) in a list.
"""

import re
from collections.abc import Iterator
from itertools import islice
from typing import Any

from msgspec import Struct

from pickcrate.addresses.url import is_picture_path
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

NEXT_NAMED = r"next(?:[-_]?page)?(?:[-_]?(?:url|uri|link|href|path))?"
"""what data and scripts call the address of what comes next"""

_NEXT = lazy(NEXT_NAMED, re.IGNORECASE)
_ADDRESSES = ("href", "url", "@id", "id")
_DEEPEST, _MOST_VALUES, _MOST_TEXT = 5, 2_000, 8_000_000
_MOST_LINKS = 50
_MOST_PIECES = 3
"""Texts of markup in one answer: where there are more, each is of one thing."""

_SHOWS = lazy(r"<(?:img|picture|li|article|figure|div|tr)[\s>]", re.IGNORECASE)


_MEMBERS = frozenset(
    "results items data docs records hits entries features member members value values objects rows products photos "
    "images pictures ordereditems".split()
)
"""what answers call the list of what was asked for"""


class Answer(Struct, frozen=True):
    """An answer taken apart: its objects, the outermost first, without those that are members of its lists."""

    objects: list[dict[str, Any]]
    members: int = 0
    """of the list that it is about: the one that is called so, or the longest"""


def answer_of(text: str) -> Answer:
    """Return a text of JSON taken apart; an answer without anything if it is none."""
    try:
        root = read_json(text[:_MOST_TEXT])
    except (ValueError, RecursionError):
        return Answer([])
    objects: list[dict[str, Any]] = []
    lists: list[tuple[bool, int]] = []
    waiting: list[tuple[str, object, int]] = [("", root, 0)]
    for called, value, depth in waiting:  # it grows
        if isinstance(value, list):
            lists.append((plain(called).lower() in _MEMBERS, len(value)))
        elif isinstance(value, dict) and depth <= _DEEPEST:
            objects.append(value)
            if len(waiting) < _MOST_VALUES:
                inside = ((name, inner, depth + 1) for name, inner in value.items() if not _is_of_links(name, inner))
                waiting.extend(inside)
    return Answer(objects, max(lists, default=(False, 0))[1])


def next_of_answer(answer: Answer) -> Iterator[str]:
    """Yield the addresses, as written, that an answer states for what comes next."""
    for value in answer.objects:
        for name, inner in value.items():
            if _NEXT.fullmatch(plain(name)) is not None:
                yield from _addresses(inner)
            elif _is_of_links(name, inner):
                yield from linked_as("next", inner)
    if not answer.members:
        yield from (address for value in answer.objects for address in _addresses(value.get("first")))


def page_of_answer(text: str) -> str:
    """Return the markup that an answer brings, with where it goes on as a link; empty if it brings data as well.

    Pages that load more of a list put it into themselves: ``{"html": "<li>…", "next": "/more?page=3"}``.
    """
    try:
        waiting: list[object] = [read_json(text[:_MOST_TEXT])]
    except (ValueError, RecursionError):
        return ""
    pieces: list[str] = []
    for value in islice(waiting, _MOST_VALUES):  # it grows
        if isinstance(value, str):
            if is_picture_path(value):
                return ""
            pieces += [value] if _SHOWS.search(value) is not None else []
        elif isinstance(value, dict | list):
            waiting.extend(value.values() if isinstance(value, dict) else value)
    if not 0 < len(pieces) <= _MOST_PIECES:
        return ""
    from html import escape  # noqa: PLC0415 (it is large, and few answers are pages)

    links = (f'<link rel=next href="{escape(address)}">' for address in next_of_answer(answer_of(text)))
    return "".join((*pieces, *links))


def plain(name: str) -> str:
    """Return the name of a property without its vocabulary: ``hydra:next``, ``@odata.nextLink``."""
    return name.rpartition(":")[2].rpartition(".")[2]


def _is_of_links(name: str, value: object) -> bool:
    """Tell whether a property is a list of links."""
    return plain(name).lower().strip("_") in {"links", "link"} and isinstance(value, list)


def linked_as(relation: str, links: object) -> Iterator[str]:
    """Yield where links lead that have a relation, as written: by their names in an object, or as members of a list."""
    if isinstance(links, dict):
        yield from _addresses(links.get(relation))
    for link in links[:_MOST_LINKS] if isinstance(links, list) else ():
        said = link.get("rel") if isinstance(link, dict) else None
        relations = said if isinstance(said, list) else str(said or "").split()
        if relation in relations:
            yield from _addresses(link)


def _addresses(value: object) -> Iterator[str]:
    if isinstance(value, dict):
        value = next((value[name] for name in _ADDRESSES if name in value), None)
    if isinstance(value, str) and ("/" in value or "?" in value) and " " not in value:
        yield value
