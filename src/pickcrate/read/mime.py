"""Pages saved as one MIME message: MHTML (RFC 2557) and mail (RFC 5322, 2045), with ``cid:`` pictures (RFC 2392)."""

from email import message_from_bytes
from email.message import Message

from pickcrate.addresses import absolute
from pickcrate.media.header import read_header
from pickcrate.read.reading import Body, Document, Reading

_BLANK_BASE = "cid:"


def read_mime(octets: bytes, address: str) -> Reading:
    """Return the root document of a message, its other documents as bodies, and every image part.

    ``address`` is the file's own, for a root that does not say where it came from.
    """
    message = message_from_bytes(octets)
    base = _header(message, "Content-Location") or _header(message, "Content-Base") or address
    parts = [part for part in message.walk() if not part.is_multipart()]
    start = message.get_param("start")
    root = next((p for p in parts if start and _header(p, "Content-ID") == start), None)
    root = root or next((p for p in parts if p.get_content_type() in {"text/html", "application/xhtml+xml"}), None)
    reading = Reading()
    for place, part in enumerate(parts):
        body = part.get_payload(decode=True)
        if not isinstance(body, bytes):
            continue
        addresses = _addresses(part, base)
        if part is root:
            said = _header(message, "Snapshot-Content-Location")
            own = next((a for a in addresses if not a.startswith("cid:")), "") or said or address
            reading.documents.append(Document(lambda body=body: body, own, _fields(part)))  # type: ignore[misc]
        is_image = part.get_content_maintype() == "image" or read_header(body[:4096]) is not None
        if is_image and not addresses:
            addresses = [f"cid:part{place}"]
        for one in addresses:
            reading.bodies.setdefault(one, Body(lambda body=body: body, part.get_content_type(), addresses[0]))  # type: ignore[misc]
        if is_image:
            filename = part.get_filename() or ""
            reading.add_picture(addresses[0], "archive", filename=filename.replace("\\", "/").rpartition("/")[2])
    return reading


def _addresses(part: Message, base: str) -> list[str]:
    """Return the addresses that a part answers to: its location, absolute (RFC 2557, 5), and its ``cid:``."""
    found: list[str] = []
    location = "".join(_header(part, "Content-Location").split())
    if location and (url := absolute(location, base)) is not None:
        found.append(url)
    if identity := _header(part, "Content-ID").strip("<> "):
        url = absolute(f"cid:{identity}", _BLANK_BASE)
        found.append(url or f"cid:{identity}")
    return found


def _fields(part: Message) -> dict[str, str]:
    try:
        return {"content-type": f"text/html; charset={part.get_content_charset() or ''}"}
    except (LookupError, ValueError):
        return {}


def _header(part: Message, name: str) -> str:
    return str(part.get(name) or "").strip()
