"""Bytes to text by the HTML standard, 13.2.3.2 (determining the character encoding)."""

import re
from collections.abc import Iterable, Mapping
from urllib.parse import quote_from_bytes, urlencode

from msgspec import Struct

from pickcrate.read.pages.encodings import SENT_AS_UTF_8, decoded, encoded, is_of_pairs, name_of
from pickcrate.text.lazyre import lazy

PRESCAN_BYTES = 1024
_SPACE = b"\t\n\x0c\r "
_TAG = lazy(rb"</?[A-Za-z]")
_META = lazy(rb"<meta[\t\n\x0c\r /]", re.IGNORECASE)
_CHARSET = lazy(rb"charset[\t\n\x0c\r ]*=[\t\n\x0c\r ]*", re.IGNORECASE)
_XML_ENCODING = lazy(rb"""encoding[\x00-\x20]*=[\x00-\x20]*(["'])([^"']*)\1""")
_NOT_ASCII = lazy(r"[^\x00-\x7f]+")
_STAYS_IN_QUERY = "!$%()*+,-./:=?@[\\]^_`{|}~"
"""besides letters and digits; ``&`` and ``;`` are kept by the standard, and make up references here"""

_LEAST_OF_PAIRS = 8
"""characters that are no accident"""

_BOMS = ((b"\xef\xbb\xbf", "utf-8"), (b"\xfe\xff", "utf-16be"), (b"\xff\xfe", "utf-16le"))


class Decoded(Struct, frozen=True):
    """Text, and the encoding it was read by (its name in the Encoding standard)."""

    text: str
    encoding: str
    is_tentative: bool = False
    """whether that was guessed, so that a meta element may still say otherwise (HTML standard, 13.2.3.5)"""


def decode(octets: bytes, transport: str = "", *, is_stored: bool = False) -> Decoded:
    """Decode a document; ``transport`` is the charset of the ``Content-Type`` header, if there was one.

    ``is_stored`` tells that it lies on the disk, where a program may have kept its text and not its bytes. Never fails:
    what does not decode becomes U+FFFD.
    """
    for bom, encoding in _BOMS:  # step 1: BOM sniffing
        if octets.startswith(bom):
            return Decoded(decoded(octets[len(bom) :], encoding), encoding)
    if (name := _label(transport.encode("ascii", "ignore"))) is not None:  # step 4: the transport layer
        return Decoded(decoded(octets, name), name)
    if (name := unmarked(octets)) is not None:
        return Decoded(decoded(octets, name), name)
    if (name := prescan(octets)) is not None:  # step 5: prescan
        return read_as(octets, name, is_stored=is_stored)
    try:  # step 8: autodetection, which the standard leaves open; valid UTF-8 is hardly ever anything else
        return Decoded(octets.decode("utf-8"), "utf-8", is_tentative=True)
    except UnicodeDecodeError:  # step 9: the fallback of western locales
        return Decoded(decoded(octets, "windows-1252"), "windows-1252", is_tentative=True)


def unmarked(octets: bytes) -> str | None:
    """Return the encoding of markup in UTF-16 without a byte order mark: each octet of its first characters has a zero.

    The standard's prescan knows of XML declarations in it alone.
    """
    if octets[1:2] == octets[3:4] == b"\0" and octets[:1] == b"<":
        return "utf-16le"
    return "utf-16be" if octets[:1] == octets[2:3] == b"\0" and octets[1:2] == b"<" else None


def with_mark(octets: bytes, charset: str) -> bytes:
    """Return a document that its server says to be in UTF-16, and that looks so, with a byte order mark."""
    name = named(charset)
    marks = {encoding: bom for bom, encoding in _BOMS if encoding != "utf-8"}
    if name not in marks or octets.startswith(tuple(marks.values())) or b"\0" not in octets[:PRESCAN_BYTES]:
        return octets
    return marks[name] + octets


def prescan(octets: bytes) -> str | None:
    """Return the encoding that the first 1024 bytes declare, by 13.2.3.2 "prescan a byte stream"."""
    head = octets[:PRESCAN_BYTES]
    fallback = _xml_encoding(head)  # step 1
    position = head.find(b"<")
    while 0 <= position < len(head):
        if head.startswith(b"<!--", position):
            end = head.find(b"-->", position + 2)
            position = end + 2 if end >= 0 else len(head)
        elif _is_meta(head, position):
            found, position = _meta(head, position + 5)
            if found is not None:
                return found
        elif _TAG.match(head, position):
            position = _skip_tag(head, position)
        elif head[position : position + 2] in {b"<!", b"</", b"<?"}:
            end = head.find(b">", position)
            position = end if end >= 0 else len(head)
        position = head.find(b"<", position + 1)
    return fallback


def _xml_encoding(head: bytes) -> str | None:
    """HTML standard, "get an XML encoding": the declaration must start the document."""
    if not head.startswith(b"<?xml"):
        return None
    end = head.find(b">")
    match = _XML_ENCODING.search(head, 0, end if end >= 0 else len(head))
    name = _label(match[2]) if match else None
    return "utf-8" if name in {"utf-16be", "utf-16le"} else name


def _is_meta(head: bytes, position: int) -> bool:
    return _META.match(head, position) is not None


def _meta(head: bytes, position: int) -> tuple[str | None, int]:
    """Read one meta element; return the encoding it declares and the position of its end."""
    seen: set[bytes] = set()
    got_pragma = False
    need_pragma: bool | None = None
    charset: str | None = None
    while True:
        attribute, position = _attribute(head, position)
        if attribute is None:
            break
        name, value = attribute
        if name in seen:
            continue
        seen.add(name)
        if name == b"http-equiv":
            got_pragma = got_pragma or value == b"content-type"
        elif name == b"content" and charset is None:
            charset = _from_content(value)
            need_pragma = True if charset is not None else need_pragma
        elif name == b"charset":
            charset = _label(value)
            need_pragma = False
    if position >= len(head):  # it ran out of bytes, which ends the prescan
        return None, position
    if need_pragma is None or (need_pragma and not got_pragma) or charset is None:
        return None, position
    return _declared(charset), position


def _declared(charset: str) -> str:
    """Return the encoding that a meta element means: one that shows that it is not UTF-16 means UTF-8."""
    if charset in {"utf-16be", "utf-16le"}:
        return "utf-8"
    return "windows-1252" if charset == "x-user-defined" else charset


def declared(attributes: Mapping[str, str | None]) -> str | None:
    """Return the encoding that a meta element declares to the parser (HTML standard, 13.2.6.4.4 "meta")."""
    charset = named(attributes.get("charset") or "")
    if charset is None and (attributes.get("http-equiv") or "").lower() == "content-type":
        charset = _from_content((attributes.get("content") or "").lower().encode("ascii", "ignore"))
    return _declared(charset) if charset is not None else None


def read_as(octets: bytes, encoding: str, *, is_stored: bool = False) -> Decoded:
    """Decode a document by the encoding that it declares.

    One that ``is_stored`` may be in UTF-8 all the same: its text was kept, with what it declares. Then that is still
    the encoding in which its links are sent.
    """
    rewritten = _rewritten(octets, encoding) if is_stored and encoding != "utf-8" else None
    return Decoded(decoded(octets, encoding) if rewritten is None else rewritten, encoding)


def _rewritten(octets: bytes, encoding: str) -> str | None:
    """Return a document as UTF-8, if it can be nothing else: letters of one byte hardly ever make up UTF-8."""
    try:
        text = octets.decode("utf-8")
    except UnicodeDecodeError:
        return None
    least = _LEAST_OF_PAIRS if is_of_pairs(encoding) else 1
    return text if sum(map(len, _NOT_ASCII.findall(text))) >= least else None


def encode_query(raw: str, encoding: str) -> str:
    """Return an address with its query percent-encoded in the document's encoding (URL standard, 4.4 and 1.3).

    What that encoding does not have is written as a decimal character reference; UTF-16 documents send UTF-8.
    """
    if raw.isascii() or encoding in SENT_AS_UTF_8 or "?" not in raw:
        return raw
    path, mark, rest = raw.partition("?")
    query, hash_mark, fragment = rest.partition("#")
    if "#" in path or query.isascii():
        return raw
    sent = _NOT_ASCII.sub(lambda run: quote_from_bytes(encoded(run[0], encoding), _STAYS_IN_QUERY), query)
    return f"{path}{mark}{sent}{hash_mark}{fragment}"


def encode_form(entries: Iterable[tuple[str, str]], encoding: str) -> str:
    """Return what a form sends, as a document in that encoding has it sent (URL standard, 5.2; HTML, 4.10.22.8).

    What that encoding does not have is written as a decimal character reference; UTF-16 documents send UTF-8.
    """
    if encoding in SENT_AS_UTF_8 or encoding == "x-user-defined":
        return urlencode(list(entries))
    return urlencode([(encoded(name, encoding), encoded(value, encoding)) for name, value in entries])


def _from_content(value: bytes) -> str | None:
    """HTML standard, 2.4.4: extracting a character encoding from a meta element."""
    match = _CHARSET.search(value)
    if match is None:
        return None
    rest = value[match.end() :]
    if rest[:1] in {b'"', b"'"}:
        end = rest.find(rest[:1], 1)
        return _label(rest[1:end]) if end > 0 else None
    return _label(re.split(rb"[\t\n\x0c\r ;]", rest, maxsplit=1)[0])


def _skip_tag(head: bytes, position: int) -> int:
    while position < len(head) and head[position] not in _SPACE + b">":
        position += 1
    while True:
        attribute, position = _attribute(head, position)
        if attribute is None:
            return position


def _attribute(head: bytes, position: int) -> tuple[tuple[bytes, bytes] | None, int]:
    """HTML standard, 13.2.3.2 "get an attribute": lower-cased name and value, and the position behind it."""
    end = len(head)
    while position < end and head[position] in _SPACE + b"/":  # step 1
        position += 1
    if position >= end or head[position] == ord(">"):  # step 2
        return None, position
    start = position
    while position < end and head[position] not in _SPACE + b"/>" and (head[position] != ord("=") or position == start):
        position += 1  # step 4
    name = head[start:position].lower()
    while position < end and head[position] in _SPACE:  # steps 5 and 6
        position += 1
    if position >= end or head[position] != ord("="):  # step 7
        return (name, b""), position
    position += 1
    while position < end and head[position] in _SPACE:  # step 9
        position += 1
    if position < end and head[position] in b"\"'":  # step 10
        close = head.find(head[position : position + 1], position + 1)
        if close < 0:
            return None, end
        return (name, head[position + 1 : close].lower()), close + 1
    start = position
    while position < end and head[position] not in _SPACE + b">":  # step 11
        position += 1
    return (name, head[start:position].lower()), position


def named(label: str) -> str | None:
    """Return the Encoding standard's name for a label, or None if the standard does not know it."""
    return _label(label.encode("ascii", "ignore"))


def _label(label: bytes) -> str | None:
    return name_of(label.decode("ascii", "ignore"))
