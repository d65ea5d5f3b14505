"""What a picture's file says of its maker and its use: Exif, IPTC, and XMP (ISO 16684-1; IPTC Photo Metadata 2023.2).

Only the head of the file is looked at, and only if something of the kind is in it: most web pictures have none.
"""

import re
import struct
import warnings
from collections.abc import Iterator
from io import BytesIO
from typing import Any

from msgspec import Struct

from pickcrate.text.lazyre import lazy

_HEAD_BYTES = 262_144
_MARKS = (b"Exif\0", b"eXIf", b"EXIF", b"8BIM", b"http://ns.adobe.com/xap", b"adobe:ns:meta", b"XMP ", b"tEXt", b"iTXt")
_LONGEST = 500
_MOST_XMP = 262_144
_EXIF = {0x8298: "Exif Copyright", 0x013B: "Exif Artist"}
_IPTC = {(2, 110): "IPTC Credit Line", (2, 80): "IPTC Creator", (2, 116): "IPTC Copyright Notice"}
_PNG = {"Author": "PNG Author", "Copyright": "PNG Copyright"}
_NAMESPACES = {
    "dc": "http://purl.org/dc/elements/1.1/",
    "photoshop": "http://ns.adobe.com/photoshop/1.0/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "plus": "http://ns.useplus.org/ldf/xmp/1.0/",
    "cc": "http://creativecommons.org/ns#",
}
_RDF = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}"
_LICENCE_ADDRESS = lazy(
    r"https?://(?:www\.)?creativecommons\.org/(?:licenses|publicdomain)/[^\s\"'<>()]+", re.IGNORECASE
)
_JPEG = b"\xff\xd8"
_SEGMENT = struct.Struct(">BBH")
_MARK, _SCAN = 0xFF, 0xDA
_TELLING = frozenset((0xE1, 0xED))
"""the segments of Exif and XMP (APP1), and of IPTC (APP13): most web pictures have neither"""


class Embedded(Struct, frozen=True):
    """One field of a file that says whose it is: the field's name, its text, and what it is about."""

    name: str
    text: str


CREDITS = (
    "IPTC Credit Line", "XMP photoshop:Credit", "XMP dc:creator", "IPTC Creator", "Exif Artist", "PNG Author",
    "XMP dc:rights", "IPTC Copyright Notice", "Exif Copyright", "PNG Copyright", "XMP cc:attributionName",
)  # fmt: skip
"""Fields that name who is to be credited, the most outright first."""

LICENCES = ("XMP cc:license", "XMP xmpRights:UsageTerms", "XMP xmpRights:WebStatement")
"""Fields that may name a licence: a page about the rights is one only if it is a licence's own."""

TERMS = ("XMP plus:LicensorURL", "XMP xmpRights:WebStatement")
"""Fields with the address of the terms of use, or of whom to ask."""


def embedded(head: bytes) -> tuple[Embedded, ...]:
    """Return what the first bytes of a picture's file say of whose it is. Never raises."""
    head = head[:_HEAD_BYTES]
    told = _segments_that_may(head) if head.startswith(_JPEG) else head
    if not told or not any(mark in told for mark in _MARKS):
        return ()
    try:
        return tuple(dict.fromkeys(_read(head)))
    except Exception:  # noqa: BLE001 (a picture may be made to trip up any reader; it is fetched all the same)
        return ()


def _segments_that_may(head: bytes) -> bytes:
    """Return the segments of a JPEG up to its first scan, if one of them may say whose it is (ITU-T T.81, B.1.1)."""
    place, is_told = 2, False
    while place + 4 <= len(head):
        mark, marker, length = _SEGMENT.unpack_from(head, place)
        if mark != _MARK:
            return head
        if marker == _MARK:  # a byte that fills (B.1.1.2)
            place += 1
            continue
        if marker == _SCAN:
            return head[:place] if is_told else b""
        is_told |= marker in _TELLING
        place += 2 + length
    return head


def _read(head: bytes) -> Iterator[Embedded]:
    from PIL import Image, IptcImagePlugin  # noqa: PLC0415 (hardly a picture has any of this)

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with Image.open(BytesIO(head)) as image:
            for tag, name in _EXIF.items():
                yield from _field(name, image.getexif().get(tag))
            iptc = IptcImagePlugin.getiptcinfo(image) or {}
            for record, name in _IPTC.items():
                yield from _field(name, iptc.get(record))
            for key, name in _PNG.items():
                yield from _field(name, image.info.get(key))
            xmp = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp")
    if xmp:
        yield from _of_xmp(xmp.encode() if isinstance(xmp, str) else xmp)


def _field(name: str, value: Any) -> Iterator[Embedded]:
    """Yield a field's text; of one that stands several times all, joined."""
    values = value if isinstance(value, list) else [value]
    texts = [_text(one) for one in values if one]
    if text := ", ".join(filter(None, texts))[:_LONGEST]:
        yield Embedded(name, text)


def _text(value: object) -> str:
    """Return a value as text: UTF-8, else as Windows has it; what comes after a zero byte is of the editor."""
    if isinstance(value, bytes):
        return _text(value.decode("utf-8" if _is_utf8(value) else "windows-1252", "replace"))
    return " ".join(str(value).replace("\0", " ").split())


def _is_utf8(octets: bytes) -> bool:
    try:
        octets.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def _of_xmp(octets: bytes) -> Iterator[Embedded]:
    """Yield the fields of an XMP packet (ISO 16684-1, 7: RDF serialisation), as elements or as attributes."""
    from lxml import etree  # noqa: PLC0415

    octets = octets[:_MOST_XMP].strip(b"\0 \r\n\t")
    root = etree.fromstring(octets, etree.XMLParser(resolve_entities=False, no_network=True, recover=True))
    wanted = {
        f"{{{_NAMESPACES[prefix]}}}{name}": f"XMP {prefix}:{name}"
        for prefix, name in (
            full.removeprefix("XMP ").split(":") for full in (*CREDITS, *LICENCES, *TERMS) if ":" in full
        )
    }
    for element in root.iter(etree.Element) if root is not None else ():
        for attribute, value in element.attrib.items():
            if attribute in wanted:
                yield from _field(wanted[str(attribute)], value)
        if (name := wanted.get(str(element.tag))) is not None:
            items = [item.text for item in element.iter(f"{_RDF}li") if item.text]
            resource = element.get(f"{_RDF}resource")
            yield from _field(name, items or resource or element.text)


def licence_in(text: str) -> str:
    """Return the address of a licence that stands in a text; empty if none does."""
    match = _LICENCE_ADDRESS.search(text)
    return match[0].rstrip(".,;") if match is not None else ""
