"""The ``Content-Type`` field (RFC 9110, 8.3), as servers, logs and archives have it."""

from collections.abc import Mapping

from pickcrate.media import essence
from pickcrate.text.lazyre import lazy

PAGE_TYPES = frozenset(("text/html", "application/xhtml+xml"))
"""media types of pages (HTML standard, 17.1 and 17.3)"""

PAGE_EXTENSIONS = frozenset(("html", "htm", "xhtml", "xht", "shtml"))
"""how the names of their files end, without the dot"""


_PARAMETER = lazy(r';\s*+([^\s;="]++)\s*+=\s*+(?:"((?:[^"\\]++|\\.)*+)"?|([^;,]*+))')


def content_type(fields: Mapping[str, str]) -> tuple[str, str]:
    """Return the media type, lower case, and the charset that header fields state; empty where they state neither.

    Of a parameter that is there twice the first counts (MIME Sniffing standard, 4.4). Departs: quotes of one stroke
    around a charset are quotes as well.
    """
    field = fields.get("content-type", "")
    for name, quoted, token in _PARAMETER.findall(field) if ";" in field else ():
        if name.lower() == "charset":
            return essence(field), (quoted or token).strip().strip("'")
    return essence(field), ""
