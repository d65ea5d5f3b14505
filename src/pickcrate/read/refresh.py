"""Where a page sends its readers on its own: HTML standard, 4.2.5.3 (pragma directives, the refresh state)."""

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from pickcrate.addresses import absolute, is_web, without_fragment
from pickcrate.lazyre import lazy

if TYPE_CHECKING:
    from selectolax.lexbor import LexborNode

_PRAGMA = lazy(rb"(?i)http-equiv\s*+=\s*+[\"']?\s*+refresh")
_WINDOW = 65_536
_LONGEST = 4_000
_SPACE = "\t\n\x0c\r "
_DIGITS = "0123456789"
_MOST_SECONDS = 10
"""a page that stays for longer is one to be read"""


def refreshes_to(octets: bytes, address: str, fields: Mapping[str, str]) -> str:
    """Return the address on the web that a page leads on to by itself; empty if it stays, or comes again.

    The ``Refresh`` field of its response leads on as well. What does so in a ``noscript`` is for other readers than
    those that a page is written for.
    """
    for value, base in _values(octets, address, fields):
        seconds, raw = parse_refresh(value)
        url = absolute(raw, base) if raw and seconds <= _MOST_SECONDS else None
        if url is not None and is_web(url) and without_fragment(url) != without_fragment(address):
            return url
    return ""


def _values(octets: bytes, address: str, fields: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    if value := fields.get("refresh", ""):
        yield value, address
    if _PRAGMA.search(octets, 0, _WINDOW) is None:
        return
    from pickcrate.read.document import read_document  # noqa: PLC0415 (few pages lead on)

    page = read_document(octets[:_WINDOW], source=address, address=address, fields=fields)
    for meta in page.tree.css("meta[http-equiv=refresh i][content]"):
        if not _is_for_some(meta):
            yield meta.attributes.get("content") or "", page.base


def _is_for_some(node: "LexborNode") -> bool:
    return node.parent is not None and node.parent.tag in {"noscript", "template"}


def parse_refresh(value: str) -> tuple[int, str]:
    """Return how many seconds a page stays, and the address as written that it leads to; empty if that is itself."""
    text = value[:_LONGEST].lstrip(_SPACE)
    after = text.lstrip(_DIGITS)
    digits = text[: len(text) - len(after)]
    rest = after.lstrip(_DIGITS + ".")
    if (not digits and after[:1] != ".") or (rest and rest[0] not in _SPACE + ";,"):
        return 0, ""
    rest = rest.lstrip(_SPACE)
    rest = rest[1:].lstrip(_SPACE) if rest[:1] in {";", ","} else rest
    named = rest[3:].lstrip(_SPACE) if rest[:3].lower() == "url" else ""
    rest = named[1:].lstrip(_SPACE) if named[:1] == "=" else rest
    rest = rest[1:].partition(rest[0])[0] if rest[:1] in {'"', "'"} else rest
    return min(int(digits[:9] or 0), 10**9), rest.strip(_SPACE)
