"""What attributes that are made for programs call an item: ``data-name``, markup or data that a script shows."""

import re
from collections.abc import Iterator, Mapping

from selectolax.lexbor import LexborHTMLParser

from pickcrate.elements.words import text_of
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.items.data.embedded import values_in
from pickcrate.items.data.records import thing_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import fold

_CALLS = lazy(r"data-(?:[a-z]+-){0,2}name")
_SHOWS = lazy(r"data-(?:[a-z]+-){0,2}html")
_LEADS = f"{HEADING_SELECTOR}, strong, b"
_OPTION = lazy(r"(?:\A|;)\s{0,9}title\s?:\s{0,9}([^;]{1,200})", re.IGNORECASE)
"""a title among the options of a script: ``title: Red Delta; effect: fade``"""

_CODE = lazy(r"[a-z0-9_.:/#@-]*")
"""what is for a program alone: no name has neither a space nor a capital"""

_CALLS_CUSTOM = lazy(r"(?:[a-z]+-){0,2}(?:name|title|heading|headline|label|caption)")
_LONGEST = 4_000


def names_in(tag: str, attributes: Mapping[str, str | None]) -> Iterator[str]:
    """Yield what the ``data-`` attributes of an element call it; of a custom element, those of its own as well."""
    is_custom = "-" in tag
    for attribute, said in attributes.items():
        if is_custom and said and _CALLS_CUSTOM.fullmatch(attribute) is not None:
            yield fold(said[:_LONGEST])
        elif attribute.startswith("data-") and said and len(said) <= _LONGEST:
            name = _name_in(attribute, said)
            if _CODE.fullmatch(name) is None:
                yield name


def _name_in(attribute: str, said: str) -> str:
    """Return the name that one attribute says; blank if it says none."""
    if said.lstrip().startswith("{"):
        return _in_data(said)
    if _SHOWS.fullmatch(attribute):
        return _lead_of(said)
    option = _OPTION.search(said)
    if option is not None:
        return fold(option[1])
    return fold(said) if _CALLS.fullmatch(attribute) else ""


def _in_data(said: str) -> str:
    """Return what an object in JSON is called; blank if it has no name."""
    things = (thing_of(value) for value in values_in(said) if isinstance(value, dict))
    return next((thing.name for thing in things if thing is not None), "")


def _lead_of(markup: str) -> str:
    """Return the first heading or the first bold words of a piece of markup; all that it says if it has neither."""
    body = LexborHTMLParser(markup).body
    if body is None or markup[:1] in "#.":  # a selector
        return ""
    return text_of(body.css_first(_LEADS) or body)
