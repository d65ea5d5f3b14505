"""What a page hands to a viewer of pictures: manifests (IIIF, Presentation API)."""

import re
from collections.abc import Iterator
from itertools import chain, islice
from urllib.parse import unquote

from pickcrate.addresses.url import is_web
from pickcrate.finders.data.strings import unescape, without_references
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Need, NeedKind
from pickcrate.values.page import Page

_MOST = 8
"""Manifests of one page that are read."""

_MOST_MENTIONS = 1_000
SIGNS_OF_MANIFESTS = ("manifest", "iiif-content=")
"""of which a page that hands over any mentions one"""

# It begins with a letter in both cases, and ignores case from there on: so only such letters are looked at.
_HANDED = lazy(
    r"[Mm](?i:anifest(?:(?<![a-z]manifest)|(?<=[^a-z]iiifmanifest)|(?<=[^a-z]iiif[-_]manifest))"
    r"(?:[-_]?(?:id|uri|url|src))?)[\"']?\s*+[:=]\s*+[\"']([^\"'\s<>]{6,2000})[\"']"
)
"""an attribute, or a setting of a script"""

_IN_QUERY = lazy(r"[?&;](?:iiif-content|manifest)=((?:https?:|https?%3A)[^\"'&\s<>]{6,2000})", re.IGNORECASE)
"""what is dragged to other viewers (Content State API 1.0, 2.2.2)"""

_LIKELY = lazy(r"iiif|manifest(?:\.json)?/?(?:[?#]|$)", re.IGNORECASE)


def find_manifests(page: Page) -> Iterator[Need]:
    """Yield what a page says to be a manifest, by the source of the page: markup and scripts alike."""
    handed = (unescape(match[1]) for match in _HANDED.finditer(page.text))
    asked = (unquote(match[1]) for match in _IN_QUERY.finditer(page.text))
    found: dict[str, None] = {}
    for raw in islice(chain(handed, asked), _MOST_MENTIONS):
        url = page.resolve(without_references(raw))
        if url is not None and is_web(url) and _LIKELY.search(url) is not None:
            found[url] = None
    for url in list(found)[:_MOST]:
        yield Need(NeedKind.IIIF, url)
