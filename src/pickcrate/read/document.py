"""One document's bytes to a page: decoded, parsed, with its base URL and its title."""

from selectolax.lexbor import LexborHTMLParser

from pickcrate.addresses import absolute
from pickcrate.read.decode import decode
from pickcrate.values import Flaw, Page


def read_document(octets: bytes, *, source: str, address: str, charset: str = "", base: str = "") -> Page:
    """Return the page that ``octets`` hold.

    ``address`` is where it came from (absolute), ``charset`` what the transport said, ``base`` the base URL that the
    user demands instead of the document's own. Any bytes make a page; what is wrong in them stands in its flaws.
    """
    decoded = decode(octets, charset)
    tree = LexborHTMLParser(decoded.text)
    flaws: list[Flaw] = []
    page_base = base or _document_base(tree, address, flaws)
    title = tree.css_first("title")
    return Page(
        source=source,
        address=address,
        base=page_base,
        title=" ".join(title.text().split()) if title is not None else "",
        text=decoded.text,
        encoding=decoded.encoding,
        tree=tree,
        flaws=tuple(flaws),
    )


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
