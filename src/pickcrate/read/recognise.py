"""What the bytes of a source are, by content and never by name."""

import re
from enum import StrEnum

from pickcrate.media.header import read_header

_WINDOW = 4096
_BOM = b"\xef\xbb\xbf"
_LEADING = re.compile(rb"(?:\s+|<!--.*?-->|<\?.*?\?>)+", re.DOTALL)
_MARKUP = re.compile(rb"<(?:!doctype\s+html|[a-z][a-z0-9:-]*(?=[\s/>]))", re.IGNORECASE)
_ADDRESS_LINE = re.compile(rb"\s*(?:#[^\n]*\n\s*)*https?://[^\s<>\"]+[ \t]*(?:\r?\n|\Z)", re.IGNORECASE)
_FAMILIAR = (
    (b"%PDF-", "a PDF document"),
    (b"PK\x03\x04", "a ZIP archive"),
    (b"\x1f\x8b", "gzip data"),
    (b"\x7fELF", "a program"),
    (b"{", "JSON data"),
    (b"[", "JSON data"),
)


class Kind(StrEnum):
    """What a source may be."""

    PAGE = "page"
    ADDRESSES = "addresses"


def recognise(octets: bytes) -> Kind | None:
    """Return what ``octets`` (the start of a source at least) are, or None if Pick Crate cannot read them."""
    head = octets[:_WINDOW]
    if read_header(head) is not None and not _looks_like_html(head):
        return None
    if _ADDRESS_LINE.match(head):
        return Kind.ADDRESSES
    return Kind.PAGE if _looks_like_html(head) else None


def describe(octets: bytes, media_type: str = "") -> str:
    """Say what bytes that are no source are, for a message: ``"a PNG picture"``, ``"a PDF document"``."""
    head = octets[:_WINDOW]
    if not head.strip():
        return "empty"
    if (header := read_header(head)) is not None:
        return f"a {header.type.upper()} picture"
    for magic, words in _FAMILIAR:
        if head.lstrip().startswith(magic):
            return words
    if media_type and not media_type.startswith(("text/html", "application/octet-stream")):
        return f"of type {media_type}"
    return "plain text without any markup" if b"\0" not in head else "binary data"


def _looks_like_html(head: bytes) -> bool:
    if head.startswith((b"\xfe\xff", b"\xff\xfe")):
        head = head[2:].replace(b"\0", b"")
    elif b"\0" in head[:512]:
        return False
    head = head.removeprefix(_BOM)
    leading = _LEADING.match(head)
    start = leading.end() if leading else 0
    # A fragment may open with words; a tag in the first kilobytes tells it from plain text.
    return bool(_MARKUP.match(head, start) or _MARKUP.search(head))
