"""The ``Content-Type`` field (RFC 9110, 8.3), as servers, logs and archives have it."""

from collections.abc import Mapping

PAGE_TYPES = frozenset(("text/html", "application/xhtml+xml"))
"""media types of pages (HTML standard, 17.1 and 17.3)"""

PAGE_EXTENSIONS = frozenset(("html", "htm", "xhtml", "xht", "shtml"))
"""how the names of their files end, without the dot"""


def content_type(fields: Mapping[str, str]) -> tuple[str, str]:
    """Return the media type, lower case, and the charset that header fields state; empty where they state neither."""
    media_type, _, parameters = fields.get("content-type", "").partition(";")
    for parameter in parameters.split(";"):
        name, _, value = parameter.partition("=")
        if name.strip().lower() == "charset":
            return media_type.strip().lower(), value.strip().strip("\"'")
    return media_type.strip().lower(), ""
