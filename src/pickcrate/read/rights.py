"""What a page, or the answer with a picture, says of the use of pictures.

Credits and licences; robots rules (the ``robots`` meta element and the ``X-Robots-Tag`` field, in which directives may
be for one robot by its name); reservations of text and data mining (TDM Reservation Protocol, W3C community report
2024, 6.1 and 6.3).
"""

import json
import re
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any

from pickcrate.addresses import absolute
from pickcrate.lazyre import lazy
from pickcrate.values import Rights, fold

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser

_ABOUT_IMAGES = frozenset(("noimageindex", "noimageai", "noai"))
_ABOUT_THIS_FILE = _ABOUT_IMAGES | {"noindex", "none"}
_OF_RIGHTS = frozenset(("x-robots-tag", "tdm-reservation", "tdm-policy"))
_NOTHING = Rights()
_SCOPE = lazy(r"\s*([A-Za-z0-9_-]+)\s*:\s*(.*)", re.DOTALL)
_WITH_VALUES = frozenset(("unavailable_after", "max-snippet", "max-image-preview", "max-video-preview"))


def rights_of_answer(fields: Mapping[str, str], robot: str) -> Rights:
    """Return what the header fields of an answer say of the file that came with it."""
    if _OF_RIGHTS.isdisjoint(fields):  # as of most
        return _NOTHING
    bar = _directive(fields.get("x-robots-tag", "").splitlines(), robot, _ABOUT_THIS_FILE)
    return Rights(bar, _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", "")))


def rights_on_page(tree: "LexborHTMLParser", base: str, fields: Mapping[str, str], robot: str) -> Rights:
    """Return what a page and the header fields that it came with say of the page's pictures.

    A licence is that of the page's one licence link (HTML standard, 4.6.7.11); with several it is not clear whose.
    """
    said: dict[str, list[str]] = {}
    for element in tree.css("meta[name][content]"):
        name = (element.attributes.get("name") or "").strip().lower()
        said.setdefault(name, []).append(element.attributes.get("content") or "")
    lines = [*said.get("robots", []), *said.get(robot, []), *fields.get("x-robots-tag", "").splitlines()]
    reservation = _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", ""))
    if not reservation:
        reservation = _reservation(_first(said, "tdm-reservation"), _first(said, "tdm-policy"))
    links = tree.css("a[rel~=license i][href], area[rel~=license i][href], link[rel~=license i][href]")
    licences = {absolute(link.attributes.get("href") or "", base) for link in links} - {None}
    licence = licences.pop() if len(licences) == 1 else None
    return Rights(_directive(lines, robot, _ABOUT_IMAGES), reservation, licence=licence or "")


def rights_of_pictures(tree: "LexborHTMLParser", base: str) -> dict[str, Rights]:
    """Return what a page's JSON-LD says of single pictures, by their addresses: credit and licence.

    schema.org: ImageObject with ``contentUrl``, ``url`` or ``thumbnailUrl``; ``license``; ``creditText``, ``creator``,
    ``author`` or ``copyrightNotice``.
    """
    found: dict[str, Rights] = {}
    for script in tree.css('script[type="application/ld+json" i]'):
        text = script.text()
        if "ImageObject" not in text:
            continue
        try:
            waiting: list[Any] = [json.loads(text)]
        except (ValueError, RecursionError):
            continue
        while waiting:
            node = waiting.pop()
            if isinstance(node, list):
                waiting.extend(node)
            elif isinstance(node, dict):
                waiting.extend(node.values())
                if "ImageObject" in _texts(node.get("@type")):
                    _take_picture(node, base, found)
    return found


def _take_picture(node: dict[str, Any], base: str, found: dict[str, Rights]) -> None:
    said = (_texts(node.get(name)) for name in ("creditText", "creator", "author", "copyrightNotice"))
    credit = fold(next((", ".join(texts) for texts in said if texts), ""))
    licence = absolute(next(iter(_texts(node.get("license"))), ""), base) if node.get("license") else ""
    for raw in (text for name in ("contentUrl", "url", "thumbnailUrl") for text in _texts(node.get(name))):
        if (credit or licence) and (url := absolute(raw, base)) is not None:
            found.setdefault(url, Rights(credit=credit, licence=licence or ""))


def _texts(value: object) -> list[str]:
    """Return the texts that a property holds: itself, those of a list, the name or the address of a thing."""
    if isinstance(value, str):
        return [value.strip()] if value.strip() else []
    if isinstance(value, list):
        return [text for item in value[:20] for text in _texts(item)]
    if isinstance(value, dict):
        return _texts(value.get("name") or value.get("@id") or value.get("url"))
    return []


def _first(said: Mapping[str, list[str]], name: str) -> str:
    return next(iter(said.get(name, [])), "")


def _directive(lines: Iterable[str], robot: str, wanted: frozenset[str]) -> str:
    """Return the first of ``wanted`` that is said to all robots or to ours; a robot's name counts to its line's end."""
    for line in lines:
        is_for_us = True
        for part in line.split(","):
            scope = _SCOPE.fullmatch(part)
            if scope is not None and scope[1].lower() not in _WITH_VALUES:
                is_for_us = scope[1].lower() == robot
            directive = (scope[2] if scope is not None else part).strip().lower()
            if is_for_us and directive in wanted:
                return directive
    return ""


def _reservation(value: str, policy: str) -> str:
    return f"reserved {policy.strip()}".strip() if value.strip() == "1" else ""
