"""What a page's own scripts ask for: files of data, pieces of the page, and scripts that are lists of pictures."""

import re
from collections.abc import Iterable, Iterator
from itertools import chain, islice

from pickcrate.addresses.url import is_picture_path, last_segment, origin, without_fragment
from pickcrate.elements.selectors import readable
from pickcrate.finders.data.constants import Constants
from pickcrate.finders.data.literals import EXTENSION
from pickcrate.finders.data.namedfiles import files_ending
from pickcrate.finders.data.strings import unescape, without_references
from pickcrate.finders.place import SCRIPTS
from pickcrate.read.data.datafile import data_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Need, NeedKind
from pickcrate.values.page import Page

_MOST = 8
"""Files of data, or scripts, of one page that are read."""

_MOST_MENTIONS, _LONGEST_TAG = 1_000, 20_000
SIGNS_OF_DATA_FILES = (".json", ".xml", ".csv", ".tsv", ".ndjson")
"""of which a page that names any mentions one"""

_END_OF_DATA = lazy(r"\.(?=[cjntx])(?:jsonl?|ndjson|xml|[ct]sv)(?:\?[^\"'\s<>()&]{0,300}+)?(?=[\"')&])", re.IGNORECASE)
# An expression that begins with one of a few letters is looked for by those.
_ASKS = lazy(
    r"[fg$a.Rd](?:(?<=\bf)etch|(?<=\bg)etJSON|(?<=\$)\.get|(?<=\.)load|(?<=\ba)xios(?:\.get)?|(?<=\bR)equest"
    r"|(?<=\bd)3\.(?:[ct]sv|json)|(?<=\.)open\(\s{0,9}[\"'][Gg](?:ET|et)[\"']\s{0,9},"
    r"|(?<=\.)ajax\(\s{0,9}\{[^{}()]{0,200}?\burl\s{0,9}:)"
    r"(?:(?<=[,:])|\()\s{0,9}"
)
"""what stands before what a script asks for (Fetch standard; XMLHttpRequest standard, ``open``)"""

_END_OF_MODULE = lazy(r"\.m?js(?=[\"'])")
_BEFORE_MODULE = lazy(r"\b(?:from|import)\s{0,9}\(?\s{0,9}[\"']\Z")
"""what makes it one that a script imports (ECMAScript, 16.2.2)"""

_LONGEST_BEFORE = 30

_NAMES_DATA = {
    **dict.fromkeys(("data-url", "data-api", "data-endpoint", "data-source", "data-feed", "data-json", "hx-get"), ""),
    **dict.fromkeys(("data-ajax-url", "data-load-url"), ""),
    "up-href": "[up-defer]",
    "href": "link[rel~=preload][as=fetch]",
}
"""attributes that name data, or a piece of the page, for a script to put in its place; and of which elements"""

_CALLED_AFTER_DATA = lazy(
    r"(?:photo|picture|image|img|foto|bild|slide|album|gallery|galleries|catalog(?:ue)?|collection|exhibit|artwork|product|item)"
    r"(?=s?(?:list|data|array|names|info|files|items|[^a-z]))|(?<![a-z])(?:data|list|works|entries)(?![a-z])",
    re.IGNORECASE,
)
_LIBRARY = lazy(r"\.min\.|jquery|bundle|vendor|polyfill|slider|slideshow|carousel|[-_.]v?\d+\.\d", re.IGNORECASE)
_SEVERAL, _MOST_BETWEEN = 2, 1_000
"""Pictures that a script has at least, and characters of it for each, if it is their list."""

_FEW = 3
"""Pictures that a page may show beside those that its scripts bring: its logo, an icon."""

_NO_DATA = lazy(
    r"^info\.json|manifest|package|config|setting|locale|lang|i18n|translation|schema|tsconfig"
    r"|sitemap|rss|feed|atom|crossdomain|search|wlwmanifest|rsd\.|osd\.|\.m?js$|\.css$",
    re.IGNORECASE,
)


def find_fetched(page: Page, shown: int, *, names_files: bool) -> Iterator[Need]:
    """Yield what a page that shows hardly a picture itself has its pictures in: data and pieces that it asks for.

    If it asks for none, its own scripts, of its site, may: those are to be read. A file of data has what it has.
    Scripts that are called after pictures, or data, may hold those of any page.
    """
    if data_of(page.text) is not None:
        return
    found = _asked_for(page, names_files=names_files) if shown <= _FEW else []
    yield from found
    if ".js" not in page.text:
        return
    named = (node.attributes.get("src") or "" for node in page.tree.css("script[src]"))
    imported = (name for at, name in _files(page.text, _END_OF_MODULE) if _is_imported(page.text, at))
    resolved = map(page.resolve, chain(named, imported))
    own = dict.fromkeys(url for url in resolved if url is not None and origin(url) == origin(page.address))
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
    return _needs(page, (name for _, name in _files(script, _END_OF_DATA)))


def _files(text: str, ending: re.Pattern[str]) -> Iterator[tuple[int, str]]:
    return islice(files_ending(text, ending), _MOST_MENTIONS)


def _is_imported(text: str, at: int) -> bool:
    return _BEFORE_MODULE.search(text[max(0, at - _LONGEST_BEFORE) : at]) is not None


def _asked_for(page: Page, *, names_files: bool) -> list[Need]:
    """Return the files of data that a page names in its tags and its own scripts, and whatever those ask for.

    What is no data may be a piece of the page. What the page's text speaks of is none.
    """
    text = page.text
    in_tags = (name for at, name in _files(text, _END_OF_DATA) if _is_in_tag(text, at)) if names_files else ()
    script = "\n".join(node.text() for node in page.tree.css(SCRIPTS))
    in_scripts = (name for _, name in _files(script, _END_OF_DATA)) if script else ()
    return _needs(page, chain(in_tags, in_scripts, _asked_in(script), _said_in_attributes(page)))


def _is_in_tag(text: str, at: int) -> bool:
    """Tell whether a place is in a tag, and not in one of a link: that leads a reader to what it names."""
    start = max(0, at - _LONGEST_TAG)
    tag = text.rfind("<", start, at)
    return tag > text.rfind(">", start, at) and text[tag : tag + 3].lower() != "<a "


def _needs(page: Page, named: Iterable[str]) -> list[Need]:
    found: dict[str, None] = {}
    for raw in named:
        url = page.resolve(without_references(unescape(raw)))
        if url is not None and page.is_another(url) and _NO_DATA.search(last_segment(url)) is None:
            found[without_fragment(url)] = None
    return [Need(NeedKind.DATA, url) for url in list(found)[:_MOST]]


def _asked_in(script: str) -> Iterator[str]:
    """Yield the addresses that a script asks for, as far as they are put together of its constants."""
    asks = list(islice(_ASKS.finditer(script), _MOST_MENTIONS)) if script else []
    if not asks:
        return
    constants = Constants(script, is_shared=True)
    for address in filter(None, (constants.string_at(match.end()) for match in asks)):
        yield from address.split()[:1]  # a selector may stand behind it


def _said_in_attributes(page: Page) -> Iterator[str]:
    """Yield what attributes, and the ``src`` of custom elements, say to be put into the page."""
    selectors = (f"{of}[{name}]" for name, of in _NAMES_DATA.items())
    for node in islice(page.tree.css(readable(", ".join(selectors))), _MOST_MENTIONS):
        yield from (said for name, said in node.attributes.items() if name in _NAMES_DATA and said)
    for node in islice(page.tree.css("[src]"), _MOST_MENTIONS):
        said = node.attributes.get("src") or ""
        if "-" in (node.tag or "") and not is_picture_path(said):
            yield said
