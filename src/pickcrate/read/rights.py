"""What a page, or the answer with a picture, says of the use of pictures.

Robots rules (the ``robots`` meta element and the ``X-Robots-Tag`` field, in which directives may be for one robot by
its name), and reservations of text and data mining (TDM Reservation Protocol, W3C community report 2024, 6.1 and 6.3).
"""

import re
from collections.abc import Iterable, Mapping

from selectolax.lexbor import LexborHTMLParser

from pickcrate.values import Rights

_ABOUT_IMAGES = frozenset(("noimageindex", "noimageai", "noai"))
_ABOUT_THIS_FILE = _ABOUT_IMAGES | {"noindex", "none"}
_SCOPE = re.compile(r"\s*([A-Za-z0-9_-]+)\s*:\s*(.*)", re.DOTALL)
_WITH_VALUES = frozenset(("unavailable_after", "max-snippet", "max-image-preview", "max-video-preview"))


def rights_of_answer(fields: Mapping[str, str], robot: str) -> Rights:
    """Return what the header fields of an answer say of the file that came with it."""
    bar = _directive(fields.get("x-robots-tag", "").splitlines(), robot, _ABOUT_THIS_FILE)
    return Rights(bar, _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", "")))


def rights_on_page(tree: LexborHTMLParser, fields: Mapping[str, str], robot: str) -> Rights:
    """Return what a page and the header fields that it came with say of the page's pictures."""
    said: dict[str, list[str]] = {}
    for element in tree.css("meta[name][content]"):
        name = (element.attributes.get("name") or "").strip().lower()
        said.setdefault(name, []).append(element.attributes.get("content") or "")
    lines = [*said.get("robots", []), *said.get(robot, []), *fields.get("x-robots-tag", "").splitlines()]
    reservation = _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", ""))
    if not reservation:
        reservation = _reservation(_first(said, "tdm-reservation"), _first(said, "tdm-policy"))
    return Rights(_directive(lines, robot, _ABOUT_IMAGES), reservation)


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
