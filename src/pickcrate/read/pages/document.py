"""One document's bytes to a page: decoded, parsed, with its base URL and its title."""

import re
from collections import Counter
from collections.abc import Callable, Mapping
from operator import itemgetter

from msgspec.structs import replace
from selectolax.lexbor import LexborHTMLParser

from pickcrate.addresses.url import absolute, is_web, origin
from pickcrate.elements.words import text_of
from pickcrate.read.fields.contenttype import content_type
from pickcrate.read.pages.bounds import within_bounds
from pickcrate.read.pages.decode import declared, decode, read_as
from pickcrate.read.pages.flattree import flatten
from pickcrate.read.pages.rights import rights_of_pictures, rights_on_page
from pickcrate.read.pages.scripted import open_links
from pickcrate.read.pages.xhtml import as_html, is_xhtml
from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw
from pickcrate.values.page import Page
from pickcrate.values.trust import PUBLIC, Trust
from pickcrate.version import ROBOTS_TOKEN

_NO_FIELDS: Mapping[str, str] = {}
_MARK_OF_THE_WEB = lazy(r"<!--\s*saved from url=\(\d+\)\s*(\S+?)\s*-->", re.IGNORECASE)
_LONGEST_HEAD = 8_192
_MOST_HEADINGS = 100
_MOST_LINKS, _SEVERAL_LINKS = 2_000, 3
_SAYS_WHERE_FROM = (("link[rel~=canonical i][href]", "href"), ("meta[property='og:url' i][content]", "content"))


def read_document(
    octets: bytes,
    *,
    source: str,
    address: str,
    base: str = "",
    fields: Mapping[str, str] = _NO_FIELDS,
    trust: Trust = PUBLIC,
) -> Page:
    """Return the page that ``octets`` hold.

    ``address`` is where it came from (absolute), ``fields`` are the response's header fields, ``base`` is the base URL
    that the user demands instead of the document's own, ``trust`` that of the answer or the file. Any bytes make a
    page; what is wrong in them stands in its flaws.
    """
    is_stored = address.startswith(("file:", "about:"))
    decoded = decode(octets, content_type(fields)[1], is_stored=is_stored)
    is_xml = is_xhtml(decoded.text, fields, address)
    tree, text, beyond = _parsed(decoded.text, is_xml=is_xml)
    if decoded.is_tentative and not is_xml and (encoding := _late_encoding(tree)) not in {None, decoded.encoding}:
        decoded = read_as(octets, str(encoding), is_stored=is_stored)
        tree, text, beyond = _parsed(decoded.text, is_xml=False)
    flaws: list[Flaw] = [beyond] if beyond is not None else []
    page_base = base or _document_base(tree, address, flaws)
    title = _title_of(tree)
    scopes = flatten(tree, text)
    open_links(tree, text)
    return Page(
        source=source,
        address=address,
        base=page_base,
        title=title,
        text=text,
        encoding=decoded.encoding,
        tree=tree,
        heading="" if title else next(filter(None, map(text_of, tree.css("h1")[:_MOST_HEADINGS])), ""),
        scopes=scopes,
        flaws=tuple(flaws),
        trust=trust,
        link_field=fields.get("link", ""),
        rights=rights_on_page(tree, page_base, fields, ROBOTS_TOKEN),
        picture_rights=rights_of_pictures(tree, text, page_base),
    )


def _title_of(tree: LexborHTMLParser) -> str:
    """Return the title of a document (HTML standard, 3.1.5); drawings in it have titles of their own."""
    named = tree.css_first("title:not(svg *)")
    return " ".join(named.text().split()) if named is not None else ""


def _parsed(text: str, *, is_xml: bool) -> tuple[LexborHTMLParser, str, Flaw | None]:
    """Return the tree of a document, its text as far as that is within bounds, and the flaw if it is not."""
    text, beyond = within_bounds(text)
    if not is_xml:
        return LexborHTMLParser(text), text, beyond
    markup, beyond_as_html = within_bounds(as_html(text))  # an empty element has two tags in HTML
    return LexborHTMLParser(markup), text, beyond or beyond_as_html


def _late_encoding(tree: LexborHTMLParser) -> str | None:
    """HTML standard, 13.2.3.5: a meta element behind the bytes of the prescan changes the encoding."""
    metas = tree.css("meta[charset], meta[http-equiv][content]")
    return next((name for meta in metas if (name := declared(meta.attributes)) is not None), None)


def original_address(page: Page) -> str:
    """Return where a saved page says that it came from: the mark of the web, its canonical link, or ``og:url``."""
    head = page.text[:_LONGEST_HEAD]
    mark = _MARK_OF_THE_WEB.search(head) if "url=(" in head else None
    if mark is not None and (url := absolute(mark[1], "about:blank")) is not None and is_web(url):
        return url
    for selector, attribute in _SAYS_WHERE_FROM:
        element = page.tree.css_first(selector)
        url = absolute(element.attributes.get(attribute) or "", "about:blank") if element is not None else None
        if url is not None and is_web(url):
            return url
    return ""


def likely_home(page: Page) -> str:
    """Return the site that a page on disk leads to more than to all others: hardly another than its own.

    Empty if there is none, or the page says itself where it was saved from.
    """
    if page.saved_from or is_web(page.base):
        return ""
    links = page.tree.css("a[href^='http' i]")[:_MOST_LINKS]
    urls = [absolute(link.attributes.get("href") or "", "about:blank") for link in links]
    sites = Counter(origin(url) for url in urls if url is not None and is_web(url))
    likely, often = max(sites.items(), key=itemgetter(1), default=("", 0))
    return f"{likely}/" if often >= _SEVERAL_LINKS and 2 * often > sites.total() else ""


def saved(page: Page, beside: Callable[[str], str]) -> Page:
    """Return a page that may lie on disk with files beside it, to which its relative addresses lead first.

    ``beside`` returns where the file is that an address means; an empty text if there is none.

    What a browser wrote into a folder of its own (``Kites_files`` beside ``Kites.html``) never was on the web there.
    """
    if not page.address.startswith(("file:", "about:")):
        return page
    name = page.address.rpartition(".")[0]

    def of_the_disk(url: str) -> str:
        return url if url.startswith(name) and "/" in url[len(name) :] else beside(url)

    if is_web(page.base):
        return replace(page, base=page.address, saved_from=page.base, beside=of_the_disk)
    return replace(page, saved_from=original_address(page), beside=of_the_disk)


def _document_base(tree: LexborHTMLParser, address: str, flaws: list[Flaw]) -> str:
    """HTML standard, 2.4.3: the first ``base`` element with an ``href``, against the document's address.

    Departs: a ``file:`` base on a page from the web is ignored, as are ``data:`` and ``javascript:`` ones (4.2.3).
    """
    element = tree.css_first("base[href]")
    if element is None:
        return address
    raw = element.attributes.get("href") or ""
    base = absolute(raw, address)
    if base is None or base.startswith(("data:", "javascript:")):
        flaws.append(Flaw("base", f"<base href> is not an address: {raw!r}"))
        return address
    if base.startswith("file:") and not address.startswith("file:"):
        flaws.append(Flaw("base", f"<base href> points into the reader's own disk: {raw!r}"))
        return address
    return base
