"""Addresses, data and markup in percent-encoding (RFC 3986, 2.1), base64 (RFC 4648) or signs of a framework's own."""

import re
from base64 import urlsafe_b64decode
from urllib.parse import unquote

from pickcrate.text.lazyre import lazy

_ENCODED = lazy(r"\s*(?:https?%3A%2F%2F|(?:%7B|%5B)(?:%20|%0A|%7B|%5B)*%22|%3C[a-z])", re.IGNORECASE)
"""how an address, data or markup begins in percent-encoding; a file's name may begin with a bracket, too"""

_IN_BASE64 = r"(?:eyJ|ew[o0]|W3s|W1s|WyJ|PG[A-Za-z]|PH[A-Za-z]|aHR0c)[\w+/-]{16}"
"""how data (``{"``, ``[{``, ``["``), markup or an address begins in base64 (RFC 4648, 4 and 5)"""

BASE64_VALUE = lazy(rf"=\s?[\"']?(?={_IN_BASE64})")
"""how an attribute's value begins that is in base64; its name stands before"""

BASE64_LITERAL = lazy(rf"[\"'`]{_IN_BASE64}")
_WHOLE_BASE64 = lazy(rf"\s*+{_IN_BASE64}[\w+/-]*+={{0,2}}\s*+")
_LONGEST_BASE64 = 4_000_000
"""characters of a string that are decoded"""


_SIGNS = (("&q;", '"'), ("&s;", "'"), ("&l;", "<"), ("&g;", ">"), ("&a;", "&"))
"""what a framework writes in JSON for what means something in markup; what begins all others comes last"""


def with_quotes(text: str) -> str:
    """Return JSON with its quotes, and the other signs that a framework has written otherwise."""
    if "&q;" not in text:
        return text
    for written, sign in _SIGNS:
        text = text.replace(written, sign)
    return text


def decoded(text: str) -> str:
    """Return a string in percent-encoding or base64 as what it stands for: an address as a whole, data or markup."""
    if _ENCODED.match(text) is not None:
        return unquote(text)
    if len(text) > _LONGEST_BASE64 or _WHOLE_BASE64.fullmatch(text) is None:
        return text
    try:
        return urlsafe_b64decode(text.strip().replace("+", "-").replace("/", "_").rstrip("=") + "==").decode("utf-8")
    except ValueError:
        return text
