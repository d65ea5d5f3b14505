"""What a page hands to a viewer of pictures: manifests (IIIF, Presentation API), and files of data."""

import re
from collections.abc import Iterator
from itertools import chain, islice
from urllib.parse import unquote

from pickcrate.addresses import is_web, last_segment, origin
from pickcrate.finders.literals import EXTENSION
from pickcrate.finders.strings import unescape, without_references
from pickcrate.findings import Need, NeedKind
from pickcrate.lazyre import lazy
from pickcrate.page import Page
from pickcrate.read.datafile import data_of

_MOST = 8
"""Manifests, files of data, or scripts of one page that are read, of each kind."""

_MOST_MENTIONS, _LONGEST_TAG = 1_000, 20_000
SIGNS_OF_MANIFESTS = ("manifest", "iiif-content=")
SIGNS_OF_DATA_FILES = (".json", ".xml", "fetch(", "getjson(", ".get(", ".load(", ".open(", "axios(", "hx-get")
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
_DATA_FILE = lazy(r"[\"'(=]([^\"'\s<>()=]{1,500}\.(?:json|xml)(?:\?[^\"'\s<>()]{0,300})?)[\"')]", re.IGNORECASE)
_CALLED_AFTER_DATA = lazy(
    r"(?:photo|picture|image|img|foto|bild|slide|album|gallery|galleries|catalog(?:ue)?|collection|exhibit|artwork|product|item)"
    r"(?=s?(?:list|data|array|names|info|files|items|[^a-z]))|(?<![a-z])(?:data|list|works|entries)(?![a-z])",
    re.IGNORECASE,
)
_LIBRARY = lazy(r"\.min\.|jquery|bundle|vendor|polyfill|slider|slideshow|carousel|[-_.]v?\d+\.\d", re.IGNORECASE)
_SEVERAL, _MOST_BETWEEN = 2, 1_000
"""Pictures that a script has at least, and characters of it for each, if it is their list."""

_ASKED = lazy(
    r"(?:\bfetch|\bgetJSON|\$\.get|\.load|\baxios(?:\.get)?|\.open\(\s{0,9}[\"'][Gg](?:ET|et)[\"']\s{0,9},)"
    r"(?:(?<=,)|\()\s{0,9}[\"'`]([^\"'`\s<>${}]{2,500})[\"'`]"
)
"""what a page's own scripts ask for (Fetch standard; XMLHttpRequest standard, ``open``), in whole addresses"""

_PIECE = lazy(r"\bhx-get=[\"']([^\"'\s<>]{2,500})[\"']")
"""an attribute that says what is put into its element"""

_FEW = 3
"""Pictures that a page may show beside those that its scripts bring: its logo, an icon."""

_NO_DATA = lazy(
    r"^info\.json|manifest|package|config|setting|locale|lang|i18n|translation|schema|tsconfig"
    r"|sitemap|rss|feed|atom|crossdomain|search|wlwmanifest|rsd\.|osd\.",
    re.IGNORECASE,
)


def find_data_files(page: Page, shown: int, *, names_any: bool) -> Iterator[Need]:
    """Yield what a page that shows hardly a picture itself has its pictures in: files of data that its source names.

    If it names none, its own scripts, of its site, may: those are to be read. A file of data has what it has. Scripts
    that are called after pictures, or data, may hold those of any page.
    """
    if data_of(page.text) is not None:
        return
    found = _named_files(page) if names_any and shown <= _FEW else []
    yield from found
    if ".js" not in page.text:
        return
    scripts = (page.resolve(node.attributes.get("src") or "") for node in page.tree.css("script[src]"))
    own = dict.fromkeys(url for url in scripts if url is not None and origin(url) == origin(page.address))
    likely = own if not found and not shown else filter(may_hold_data, own)
    yield from (Need(NeedKind.SCRIPT, url) for url in islice(likely, _MOST))


def may_hold_data(url: str) -> bool:
    """Tell whether a script is called after pictures, or data: ``photos.js``, ``gallery-data.js``."""
    name = last_segment(url)
    return _CALLED_AFTER_DATA.search(name) is not None and _LIBRARY.search(name) is None


def names_pictures(script: str) -> bool:
    """Tell whether a script is little else than a list of pictures, and no program that has a few of its own."""
    pictures = sum(1 for _ in islice(EXTENSION.finditer(script), len(script) // _MOST_BETWEEN + _SEVERAL))
    return pictures >= _SEVERAL and pictures * _MOST_BETWEEN >= len(script)


def data_files(page: Page, script: str) -> list[Need]:
    """Return the files of data that a script of a page names; relative addresses are the page's."""
    return _of_data(page, _DATA_FILE.finditer(script))


def _named_files(page: Page) -> list[Need]:
    """Return the files of data that a page names in its tags and its own scripts, and whatever those ask for.

    What is no data may be a piece of the page. What the page's text speaks of is none.
    """
    text = page.text
    in_tags = chain(_DATA_FILE.finditer(text), _PIECE.finditer(text))
    script = "\n".join(node.text() for node in page.tree.css("script:not([src])"))
    in_scripts = chain(_DATA_FILE.finditer(script), _ASKED.finditer(script))
    return _of_data(page, chain((match for match in in_tags if _is_in_tag(text, match.start())), in_scripts))


def _is_in_tag(text: str, at: int) -> bool:
    """Tell whether a place is in a tag, and not in one of a link: that leads a reader to what it names."""
    start = max(0, at - _LONGEST_TAG)
    tag = text.rfind("<", start, at)
    return tag > text.rfind(">", start, at) and text[tag : tag + 3].lower() != "<a "


def _of_data(page: Page, named: Iterator[re.Match[str]]) -> list[Need]:
    found: dict[str, None] = {}
    for match in islice(named, _MOST_MENTIONS):
        url = page.resolve(without_references(unescape(match[1])))
        if url is not None and _NO_DATA.search(url.rpartition("/")[2]) is None:
            found[url] = None
    return [Need(NeedKind.DATA, url) for url in list(found)[:_MOST]]


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
