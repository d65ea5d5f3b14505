"""One document's bytes to a page: decoded, parsed, with its base URL and its title."""

import re
from collections.abc import Mapping

from selectolax.lexbor import LexborHTMLParser

from pickcrate.addresses import absolute, is_web
from pickcrate.read.bounds import within_bounds
from pickcrate.read.contenttype import content_type
from pickcrate.read.decode import decode
from pickcrate.read.rights import rights_of_pictures, rights_on_page
from pickcrate.values import PUBLIC, Flaw, Page, Trust
from pickcrate.version import ROBOTS_TOKEN

_NO_FIELDS: Mapping[str, str] = {}
_MARK_OF_THE_WEB = re.compile(r"<!--\s*saved from url=\(\d+\)\s*(\S+?)\s*-->", re.IGNORECASE)


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
    decoded = decode(octets, content_type(fields)[1])
    text, beyond = within_bounds(decoded.text)
    tree = LexborHTMLParser(text)
    flaws: list[Flaw] = [beyond] if beyond is not None else []
    page_base = base or _document_base(tree, address, flaws)
    title = tree.css_first("title")
    return Page(
        source=source,
        address=address,
        base=page_base,
        title=" ".join(title.text().split()) if title is not None else "",
        text=text,
        encoding=decoded.encoding,
        tree=tree,
        flaws=tuple(flaws),
        trust=trust,
        link_header=fields.get("link", ""),
        rights=rights_on_page(tree, page_base, fields, ROBOTS_TOKEN),
        picture_rights=rights_of_pictures(tree, page_base),
    )


def original_address(page: Page) -> str:
    """Return where a saved page says that it came from: the mark of the web, or its canonical link; else empty."""
    mark = _MARK_OF_THE_WEB.search(page.text[:8192])
    if mark is not None and (url := absolute(mark[1], "about:blank")) is not None and is_web(url):
        return url
    canonical = page.tree.css_first("link[rel~=canonical i][href]")
    url = absolute(canonical.attributes.get("href") or "", "about:blank") if canonical is not None else None
    return url if url is not None and is_web(url) else ""


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
