"""Pages saved as one MIME message: MHTML (RFC 2557) and mail (RFC 5322, 2045), with ``cid:`` pictures (RFC 2392)."""

from collections.abc import Iterator
from email.errors import MessageError
from email.header import decode_header, make_header
from email.message import Message
from email.parser import BytesFeedParser
from functools import partial
from urllib.parse import quote

from msgspec import Struct

from pickcrate.addresses.url import absolute
from pickcrate.media.header import read_header
from pickcrate.read.fields.contenttype import PAGE_TYPES
from pickcrate.read.reading import Attached, Document, Reading, StoredBody
from pickcrate.read.recognise import DOCUMENTS, WINDOW, recognise
from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.values.reference import fold

_BLANK_BASE = "cid:"
_FIELDS = ("From", "To", "Date")
"""what is said of a mail's pictures (RFC 5322, 3.6)"""

_MOST_MESSAGES = 10_000
_PIECE = 65_536
# RFC 4155: a line goes before each message of a mailbox, and a blank one before that.
_BETWEEN = lazy(rb"(?:\A|\r?\n\r?\n)From [^\r\n]*\r?\n")


def read_mime(octets: bytes, address: str) -> Reading:
    """Return the pages of a message, or of each in a mailbox and each that is forwarded, with every image part.

    Documents inside a page are bodies. ``address`` is the file's own, for a page that does not say where it came from.
    """
    reading = Reading()
    for number, message in enumerate(_messages(octets, reading)):
        if number >= _MOST_MESSAGES or reading.is_full:
            reading.flaws.append(Flaw("message", f"more than {_MOST_MESSAGES:,} messages: the rest is left out"))
            break
        _read_message(message, number, address, reading)
    return reading


def _messages(octets: bytes, reading: Reading) -> Iterator[Message]:
    """Yield each message of a mailbox, and behind it those that it forwards; one that cannot be read is a flaw."""
    is_mailbox = octets.startswith(b"From ")
    starts = [match.end() for match in _BETWEEN.finditer(octets)] if is_mailbox else []
    starts = starts or [0]
    for start, end in zip(starts, (*starts[1:], len(octets)), strict=True):
        try:
            waiting = [_parsed(memoryview(octets)[start:end])]
        except Exception as error:  # noqa: BLE001 (the parser recurses, and raises whatever it trips over)
            reading.flaws.append(Flaw("message", f"a message cannot be read: {type(error).__name__}"))
            continue
        while waiting:
            message = waiting.pop()
            yield message
            waiting.extend(reversed([part for part in _inside(message, forwarded=True) if part is not message]))


def _parsed(octets: memoryview) -> Message:
    """Return a message, read piece by piece: at once it would be held as text of four bytes a character."""
    parser = BytesFeedParser()
    for start in range(0, len(octets), _PIECE):
        parser.feed(bytes(octets[start : start + _PIECE]))
    return parser.close()


def _inside(message: Message, *, forwarded: bool) -> Iterator[Message]:
    """Yield the parts of a message that hold something themselves, or the messages that it forwards."""
    waiting = [message]
    while waiting:
        part = waiting.pop()
        if not part.is_multipart():
            if not forwarded:
                yield part
        elif part.get_content_maintype() != "message":
            waiting.extend(reversed(part.get_payload()))  # type: ignore[arg-type]
        elif forwarded:
            yield from part.get_payload()  # type: ignore[misc]


class _Part(Struct, frozen=True):
    """One part that holds something: its bytes, and the addresses it answers to, its location first."""

    message: Message
    octets: bytes
    addresses: list[str]

    @property
    def is_page(self) -> bool:
        return self.message.get_content_type() in PAGE_TYPES

    @property
    def is_source(self) -> bool:
        """Whether it is a document or a package, which has pictures of its own."""
        is_text = self.message.get_content_maintype() in {"text", "image"}
        return not is_text and recognise(self.octets[:WINDOW]) in DOCUMENTS

    @property
    def is_image(self) -> bool:
        return self.message.get_content_maintype() == "image" or read_header(self.octets[:4096]) is not None


def _read_message(message: Message, number: int, address: str, reading: Reading) -> None:
    location = _header(message, "Content-Location") or _header(message, "Snapshot-Content-Location")
    base = location or _header(message, "Content-Base") or address
    parts = list(_parts(message, base))
    root = _root(message, parts)
    home = next((a for a in root.addresses if not a.startswith("cid:")), "") if root is not None else ""
    home = home or absolute(base, address) or address
    item = _item(message, number + 1) if not location and base == home else NO_ITEM
    for place, part in enumerate(parts):
        if part.is_source:
            name = _filename(part.message) or f"part{number}-{place}"
            reading.attached.append(Attached(name, partial(bytes, part.octets), item))
            continue
        load = partial(bytes, part.octets)
        if part is root or (part.is_page and not part.addresses):  # a mail may go on in another part
            reading.documents.append(Document(load, home, _fields(part.message), item))
        addresses = part.addresses
        if part.is_image and not addresses:
            addresses = [f"cid:part{number}-{place}"]
        # RFC 2557, 5: what has no location of its own has that of the message.
        own = addresses[0] if addresses and not addresses[0].startswith("cid:") else home
        for one in addresses:
            body = StoredBody(load, part.message.get_content_type(), own, is_held=True)
            reading.bodies.setdefault(one, body)
        if part.is_image:
            reading.add_picture(addresses[0], FoundIn.ARCHIVE, filename=_filename(part.message), item=item)


def _item(message: Message, place: int) -> Item:
    """Return what a mail is called, by its subject, with who wrote it and when; NO_ITEM if it has none."""
    subject = _decoded(message, "Subject")
    if not subject:
        return NO_ITEM
    columns = tuple((name, said) for name in _FIELDS if (said := _decoded(message, name)))
    return Item(subject, "", columns, ItemForm.MESSAGE, NamedBy.STATED, place)


def _decoded(message: Message, name: str) -> str:
    """Return a header field with its encoded words undone (RFC 2047); as it is if they are broken."""
    said = _header(message, name)
    try:
        return fold(str(make_header(decode_header(said))))
    except (ValueError, LookupError, MessageError):
        return fold(said)


def _parts(message: Message, base: str) -> Iterator[_Part]:
    for part in _inside(message, forwarded=False):
        octets = part.get_payload(decode=True)
        part.set_payload("")  # it is not held twice
        if isinstance(octets, bytes):
            yield _Part(part, octets, _addresses(part, base))


def _root(message: Message, parts: list[_Part]) -> _Part | None:
    """Return the page that a message shows (RFC 2387, 3.2): the part that it starts with, else its first page."""
    start = message.get_param("start")
    named = (part for part in parts if start and _header(part.message, "Content-ID") == start)
    return next(named, None) or next((part for part in parts if part.is_page), None)


def _addresses(part: Message, base: str) -> list[str]:
    """Return the addresses that a part answers to: its location, absolute (RFC 2557, 5), and its ``cid:``."""
    found: list[str] = []
    location = "".join(_header(part, "Content-Location").split())
    if location and (url := absolute(location, base)) is not None:
        found.append(url)
    if identity := _header(part, "Content-ID").strip("<> "):
        url = absolute(f"cid:{quote(identity)}", _BLANK_BASE)
        found.append(url or f"cid:{identity}")
    return list(dict.fromkeys(found))


def _filename(part: Message) -> str:
    return (part.get_filename() or "").replace("\\", "/").rpartition("/")[2]


def _fields(part: Message) -> dict[str, str]:
    try:
        return {"content-type": f"text/html; charset={part.get_content_charset() or ''}"}
    except (LookupError, ValueError):
        return {}


def _header(part: Message, name: str) -> str:
    return str(part.get(name) or "").strip()
