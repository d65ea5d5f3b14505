"""Where a page sends its readers on its own: by its refresh state, or by its script.

HTML standard, 4.2.5.3 (pragma directives) and 7.2.4 (the ``Location`` interface).
"""

from collections.abc import Iterator, Mapping
from itertools import chain
from typing import TYPE_CHECKING

from pickcrate.addresses.url import absolute, is_web, without_fragment
from pickcrate.text.lazyre import lazy

if TYPE_CHECKING:
    from selectolax.lexbor import LexborNode

_PRAGMA = lazy(rb"(?i)http-equiv\s*+=\s*+[\"']?\s*+refresh")
_GOES_TO = lazy(
    r"(?<![\w$])location(?:\s*+\.\s*+href)?\s*+(?:=|\.\s*+(?:replace|assign)\s*+\()\s*+"
    r"([\"'])(?P<raw>[^\"'\s<>]{1,2000}+)\1(?!\s*+\+)"
)
_ASKS = lazy(r"\b(?:if|switch)\b|&&|\|\||\s\?\s")
_SHOWS = "img, picture, svg, canvas, video, audio, iframe, frame, object, embed, form, table, ul, [style*='url(']"
_LARGEST_OF_NOTHING = 16_384
_MOST_WORDS = 30
"""of a page that only says that it leads on"""

_WINDOW = 65_536
_LONGEST = 4_000
_SPACE = "\t\n\x0c\r "
_DIGITS = "0123456789"
_MOST_SECONDS = 10
"""a page that stays for longer is one to be read"""


def refreshes_to(octets: bytes, address: str, fields: Mapping[str, str]) -> str:
    """Return the address on the web that a page leads on to by itself; empty if it stays, or comes again.

    The ``Refresh`` field of its response leads on as well, and a script where there is nothing else. What does so in a
    ``noscript`` is for other readers than those that a page is written for.
    """
    refreshes = ((parse_refresh(value), base) for value, base in _values(octets, address, fields))
    stated = ((raw, base) for (seconds, raw), base in refreshes if seconds <= _MOST_SECONDS)
    for raw, base in chain(stated, _scripted(octets, address)):
        url = absolute(raw, base) if raw else None
        if url is not None and is_web(url) and without_fragment(url) != without_fragment(address):
            return url
    return ""


def _values(octets: bytes, address: str, fields: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    if value := fields.get("refresh", ""):
        yield value, address
    if _PRAGMA.search(octets, 0, _WINDOW) is None:
        return
    from pickcrate.read.pages.document import read_document  # noqa: PLC0415 (few pages lead on)

    page = read_document(octets[:_WINDOW], source=address, address=address, fields=fields)
    for meta in page.tree.css("meta[http-equiv=refresh i][content]"):
        if not _is_for_some(meta):
            yield meta.attributes.get("content") or "", page.base


def _scripted(octets: bytes, address: str) -> Iterator[tuple[str, str]]:
    """Yield where a page that shows nothing goes by its script (HTML standard, 7.2.4: the ``Location`` interface).

    Nothing where a script may ask first, or others are loaded, which may show something.
    """
    if len(octets) > _LARGEST_OF_NOTHING or b"location" not in octets:
        return
    from pickcrate.read.pages.document import read_document  # noqa: PLC0415 (few pages lead on)

    page = read_document(octets, source=address, address=address)
    scripts = page.tree.css("script")
    if any("src" in script.attributes for script in scripts) or page.tree.css_first(_SHOWS) is not None:
        return
    body = page.tree.body
    text = "\n".join((*(script.text() for script in scripts), (body.attributes.get("onload") or "") if body else ""))
    page.tree.strip_tags(["script", "style", "noscript", "title"])
    said = body.text().split() if body is not None else []
    targets = {match["raw"] for match in _GOES_TO.finditer(text)}
    if len(targets) == 1 and len(said) <= _MOST_WORDS and _ASKS.search(text) is None:
        yield targets.pop().replace("\\/", "/"), page.base


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
