"""Texts in data, as a person would read them: out of markup, the first of several, the one that an object shows."""

import re

from selectolax.lexbor import LexborHTMLParser

from pickcrate.elements.words import text_of
from pickcrate.items.said.posts import text_in
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import fold

_TEXTS = (
    *("rendered", "text", "$t", "value", "plain", "default", "en", "none", "title", "titleset", "appellationvalue"),
    *("literal", "p"),
)
"""under which name a text stands that is an object"""

_DEEPEST = 6
LONGEST_MARKUP = 20_000
_IS_MARKUP = lazy(r"</?[a-z][a-z0-9]*[\s/>]|&(?:[a-z]{2,8}|#\d{1,6}|#x[0-9a-f]{1,5});", re.IGNORECASE)
"""a tag, or a character reference (HTML standard, 13.1.4)"""


def plain_key(key: str) -> str:
    """Return the name of a property in lower case, without its vocabulary or a line before it: ``dc:title``."""
    return key.rpartition(":")[2].lstrip("_@").lower()


def plain_text(text: str) -> str:
    """Return a text as it would be shown: data may have it as markup."""
    if _IS_MARKUP.search(text) is None or len(text) > LONGEST_MARKUP:
        return fold(text)
    body = LexborHTMLParser(text).body
    return text_of(body) if body is not None else ""


def text_of_value(value: object, depth: int = 0) -> str:
    """Return a text, the first of several, or the one in an object."""
    if isinstance(value, str):
        return plain_text(value)
    if depth > _DEEPEST or not value:
        return ""
    if isinstance(value, list):
        return text_of_value(value[0], depth + 1)
    if not isinstance(value, dict):
        return ""
    plain = {plain_key(key): inner for key, inner in value.items()}
    key = next((key for key in _TEXTS if key in plain), None)
    if key is None:  # in the first language, by its code (RFC 5646, 2.1)
        key = next((key for key in plain if len(key) == 2 and key.isalpha()), None)
    if key is not None:
        return text_of_value(plain[key], depth + 1)
    inner = next(iter(plain.values()))
    return text_of_value(inner, depth + 1) if len(plain) == 1 and isinstance(inner, dict | list) else ""  # only wrapped


def whole_text(value: object) -> str:
    """Return all of a text as it would be shown, with its own lines if it is no markup."""
    text = text_of_value(value) if isinstance(value, dict) else text_in(value)
    return plain_text(text) if _IS_MARKUP.search(text) is not None else text
