"""Links that only a script makes: ``<a href="#" onclick="window.open('red.html')">``, ``<tr data-href="/kites/7">``.

HTML standard, 8.1.8.1 (event handlers), 7.4.2.3.3 (``javascript:`` URLs). Where such an element leads is written into
the tree, where each later step looks for it: into the ``href`` of an ``a``, or LEADS of anything else.
"""

from collections.abc import Iterator
from itertools import islice
from typing import TYPE_CHECKING

from pickcrate.addresses.url import is_picture_path, leads_somewhere
from pickcrate.text.lazyre import lazy

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser, LexborNode

LEADS = "data-pickcrate-leads"
"""the attribute of an element that is no link, and leads somewhere all the same when it is clicked"""

_SIGNS = ("onclick", "onClick", "OnClick", "ONCLICK", "javascript:", "Javascript:", "JavaScript:")
_STATED = ("data-href", "data-link")
"""one of these is in the text of a page that has any"""

_LINKS = "a:is([onclick], [href^='javascript:' i], [data-href], [data-link])"
_OTHERS = ":is([onclick], [data-href], [data-link]):not(a, html, body, form, input, select, option)"
_MOST = 5_000
_LONGEST = 2_000

_ENDS = r"([\"'])(?P<address>[^\s\"'<>]{1,1000})\1\s{0,9}(?:[,);]|\Z)"
_GOES = lazy(rf"\b(?:location(?:\.href)?\s{{0,9}}=|location\.(?:assign|replace)\(|open\()\s{{0,9}}{_ENDS}")
"""a script that goes to an address, or opens a window for it"""

_CALLS = lazy(rf"[\w$]\(\s{{0,9}}{_ENDS}")
"""a function of the page's own, called with a text"""

MAY_BE_ADDRESS = lazy(r"(?![{\[])\S*(?:[/?]|\.(?:x?html?|php|aspx?|jsp|json)\Z)")
"""how the value begins of an attribute that may hold an address, or a word for a script"""

_OF_A_PAGE = lazy(r"[^?#]*\.(?:x?html?|php\d?|aspx?|jspx?|cfm|cgi|shtml?|do)(?:[?#]\S*)?|[^?#]*\?[\w-]+=\S*")


def open_links(tree: "LexborHTMLParser", text: str) -> None:
    """Write into a tree, which was made of ``text``, where its elements lead by a script alone.

    What leads to a picture is left as it is: handlers are looked through for those.
    """
    if not any(sign in text for sign in (*_SIGNS, *_STATED)):
        return
    for link in islice(tree.css(_LINKS), _MOST):
        is_idle = not leads_somewhere((link.attributes.get("href") or "").strip())
        if is_idle and (address := _address(link, is_link=True)):
            link.attrs["href"] = address
    for element in islice(tree.css(_OTHERS), _MOST):
        if address := _address(element, is_link=False):
            element.attrs[LEADS] = address


def goes_to(script: str) -> str:
    """Return the address that the handler of a click goes to, or opens a window for; empty if it does neither."""
    going = _GOES.search(script, 0, _LONGEST)
    return going["address"] if going is not None else ""


def _address(element: "LexborNode", *, is_link: bool) -> str:
    """Return where an element leads when it is clicked, as written; empty if that is nowhere, or a picture."""
    for address in _addresses(element.attributes, is_link=is_link):
        written = address.replace("\\/", "/").strip()
        if leads_somewhere(written) and not is_picture_path(written.partition("?")[0]):
            return written
    return ""


def _addresses(attributes: dict[str, str | None], *, is_link: bool) -> Iterator[str]:
    """Yield the addresses that an element may lead to. Only in a link any function is believed to open what it gets."""
    yield from filter(MAY_BE_ADDRESS.match, filter(None, map(attributes.get, _STATED)))
    for script in filter(None, (attributes.get("onclick"), attributes.get("href") if is_link else None)):
        if address := goes_to(script):
            yield address
        elif is_link and (calling := _CALLS.search(script, 0, _LONGEST)) is not None:
            yield from filter(_OF_A_PAGE.fullmatch, (calling["address"],))
