"""A style sheet's bytes to text, by CSS Syntax 3, 3.2 (the input byte stream)."""

from pickcrate.read.pages.decode import decode, named
from pickcrate.text.lazyre import lazy

_CHARSET_RULE = lazy(rb'@charset "([\x00-\x21\x23-\x7f]{1,1000})";')


def decode_sheet(octets: bytes, transport: str, environment: str) -> str:
    """Return a sheet's text; ``environment`` is the encoding of the page that refers to it.

    A byte order mark goes before ``transport``, that before an ``@charset`` rule, that before the page's encoding.
    """
    rule = _CHARSET_RULE.match(octets)
    declared = named(rule[1].decode("ascii")) if rule else None
    if declared in {"utf-16be", "utf-16le"}:
        declared = "utf-8"
    return decode(octets, named(transport) or declared or environment or "utf-8").text
