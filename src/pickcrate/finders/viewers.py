"""What a page hands to a viewer of pictures: manifests (IIIF, Presentation API), and files of data."""

import itertools
import re
from collections.abc import Iterator
from urllib.parse import unquote

from pickcrate.addresses import is_web, origin
from pickcrate.finders.strings import unescape, without_references
from pickcrate.findings import Need, NeedKind
from pickcrate.lazyre import lazy
from pickcrate.page import Page
from pickcrate.read.datafile import data_of

_MOST = 8
"""Manifests, files of data, or scripts of one page that are read, of each kind."""

_MOST_MENTIONS = 1_000
SIGNS_OF_MANIFESTS = ("manifest", "iiif-content=")
SIGNS_OF_DATA_FILES = (".json",)
"""of which a page that names any mentions one"""

# It begins with a letter in both cases, and ignores case from there on: so only such letters are looked at.
_HANDED = lazy(
    r"[Mm](?i:anifest(?:(?<![a-z]manifest)|(?<=[^a-z]iiifmanifest)|(?<=[^a-z]iiif[-_]manifest))"
    r"(?:[-_]?(?:id|uri|url|src))?)[\"']?\s*+[:=]\s*+[\"']([^\"'\s<>]{6,2000})[\"']"
)
"""an attribute, or a setting of a script"""

_IN_QUERY = lazy(r"[?&;](?:iiif-content|manifest)=((?:https?:|https?%3A)[^\"'&\s<>]{6,2000})", re.IGNORECASE)
"""what is dragged to other viewers (Content State API 1.0, 2.2.2)"""

_LIKELY = lazy(r"iiif|manifest(?:\.json)?/?(?:[?#]|$)", re.IGNORECASE)
_DATA_FILE = lazy(r"[\"'(=]([^\"'\s<>()=]{1,500}\.json(?:\?[^\"'\s<>()]{0,300})?)[\"')]", re.IGNORECASE)
_FEW = 3
"""Pictures that a page may show beside those that its scripts bring: its logo, an icon."""

_NO_DATA = lazy(
    r"^info\.json|manifest|package|config|setting|locale|lang|i18n|translation|schema|tsconfig", re.IGNORECASE
)


def find_data_files(page: Page, shown: int, *, names_any: bool) -> Iterator[Need]:
    """Yield what a page that shows hardly a picture itself has its pictures in: files of data that its source names.

    If it names none, its own scripts, of its site, may: those are to be read. A file of data has what it has.
    """
    if shown > _FEW or data_of(page.text) is not None:
        return
    found = data_files(page, page.text) if names_any else []
    yield from found
    if not found and not shown:
        scripts = (page.resolve(node.attributes.get("src") or "") for node in page.tree.css("script[src]"))
        own = dict.fromkeys(url for url in scripts if url is not None and origin(url) == origin(page.address))
        yield from (Need(NeedKind.SCRIPT, url) for url in list(own)[:_MOST])


def data_files(page: Page, text: str) -> list[Need]:
    """Return the files of data that a page's source, or a script of its, names; relative addresses are the page's."""
    found: dict[str, None] = {}
    for match in itertools.islice(_DATA_FILE.finditer(text), _MOST_MENTIONS):
        url = page.resolve(without_references(unescape(match[1])))
        if url is not None and _NO_DATA.search(url.rpartition("/")[2]) is None:
            found[url] = None
    return [Need(NeedKind.DATA, url) for url in list(found)[:_MOST]]


def find_manifests(page: Page) -> Iterator[Need]:
    """Yield what a page says to be a manifest, by the source of the page: markup and scripts alike."""
    handed = (unescape(match[1]) for match in _HANDED.finditer(page.text))
    asked = (unquote(match[1]) for match in _IN_QUERY.finditer(page.text))
    found: dict[str, None] = {}
    for raw in itertools.islice(itertools.chain(handed, asked), _MOST_MENTIONS):
        url = page.resolve(without_references(raw))
        if url is not None and is_web(url) and _LIKELY.search(url) is not None:
            found[url] = None
    for url in list(found)[:_MOST]:
        yield Need(NeedKind.IIIF, url)
