"""A file of JSON that names pictures: read as a page would be that holds nothing else."""

DATA_FIELDS = {"content-type": "text/html; charset=utf-8"}


_BEGINS, _ENDS = "<!doctype html><script type=application/json>", "</script>"


def as_page(octets: bytes) -> bytes:
    """Return a page that holds the data in a block (HTML standard, 4.12.1: data blocks)."""
    # "<" cannot end the block where it is escaped, which JSON allows in its texts (RFC 8259, 7).
    plain = octets.removeprefix(b"\xef\xbb\xbf").replace(b"<", b"\\u003c")
    return _BEGINS.encode() + plain + _ENDS.encode()


def data_of(text: str) -> str | None:
    """Return the JSON text of a page that holds data and nothing else, as ``as_page`` makes them; None of others."""
    return text[len(_BEGINS) : -len(_ENDS)] if text.startswith(_BEGINS) else None
