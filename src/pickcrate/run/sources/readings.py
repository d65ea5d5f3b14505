"""What a source other than a list holds: each kind of source with its reader, and the bytes of its pages."""

from collections.abc import Iterator
from functools import partial
from urllib.parse import quote

from msgspec.structs import replace

from pickcrate.addresses.url import absolute
from pickcrate.errors import PickCrateError
from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Request
from pickcrate.read.reading import Document, Reading, StoredBody
from pickcrate.read.recognise import Kind
from pickcrate.run.sources.opened import NOWHERE, OF_A_STREAM, OF_MEMBERS, Expected, Opened, opened_bytes
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn

_MOST_ATTACHED = 100
MOST_OCTETS = 200_000_000
"""Of all pages that one source holds."""


def read_source(opened: Opened, limit: int, brought: Brought, *, is_attached: bool = False) -> Reading:
    """Return what a source other than a list holds; whatever it makes its reader trip over is a flaw of it.

    So is what came with it, but for what that has with it. Raises PickCrateError for one that cannot be read at all,
    unless it is one of many.
    """
    try:
        reading = _read_as_kind(opened, limit, brought)
    except PickCrateError as error:
        if not opened.is_one_of_many:
            raise
        reading = Reading(flaws=[Flaw("source", error.message.removeprefix(f"{opened.source} "))])
    except Exception as error:  # noqa: BLE001 (a source may be made to trip up any code)
        words = f"this {opened.kind.value} cannot be read: {type(error).__name__}: {str(error)[:200]}"
        reading = Reading(flaws=[Flaw("source", words)])
    reading.flaws[:0] = opened.flaws
    if reading.attached and not is_attached:
        _take_in_attached(reading, opened, limit, brought)
    return reading


def _read_as_kind(opened: Opened, limit: int, brought: Brought) -> Reading:
    octets, address = opened.octets, opened.address
    match opened.kind:
        case Kind.MESSAGE:
            from pickcrate.read.archives.mime import read_mime

            return read_mime(octets, address)
        case Kind.LOG:
            from pickcrate.read.archives.har import read_har

            return read_har(octets, partial(_beside, opened, limit, brought))
        case Kind.ARCHIVE | Kind.PACKAGE | Kind.PDF:
            return _read_in_place(opened, limit, brought)
        case Kind.PLIST:
            from pickcrate.read.archives.plist import read_plist

            return read_plist(octets, address)
        case Kind.FEED | Kind.JSON_FEED | Kind.BOOKMARKS | Kind.SUBSCRIPTIONS:
            return _of_entries(opened)
        case Kind.PICTURE | Kind.TILES | Kind.IIIF | Kind.METS:
            return _of_pictures(opened)
        case Kind.DATA | Kind.XML:
            reading = Reading()
            _add_data(reading, opened)
            return reading
        case _:
            return Reading(documents=[_document(opened)])


def _take_in_attached(reading: Reading, opened: Opened, limit: int, brought: Brought) -> None:
    """Add what the documents and packages hold that came with a source; of one that cannot be read, the reason."""
    if (left := len(reading.attached) - _MOST_ATTACHED) > 0:
        words = f"there are more than {_MOST_ATTACHED} documents in it: {left:,} are left out"
        reading.flaws.append(Flaw("attachment", words))
    home = OF_A_STREAM if opened.address == NOWHERE else opened.address
    for place, attached in enumerate(reading.attached[:_MOST_ATTACHED], start=1):
        address = f"{home}/{place}/{quote(attached.name, errors='replace')}"
        try:
            octets = attached.load()
            inside = opened_bytes(attached.name, octets, Expected(limit), address=address, trust=opened.trust)
            held = read_source(inside, limit, brought, is_attached=True) if inside.kind in OF_MEMBERS else Reading()
        except PickCrateError as error:
            reading.flaws.append(Flaw("attachment", error.message))
            continue
        held.flaws = [Flaw(flaw.kind, f"{attached.name}: {flaw.detail}") for flaw in held.flaws]
        reading.take_in(held, attached.item)


def _read_in_place(opened: Opened, limit: int, brought: Brought) -> Reading:
    """Return a source that may be larger than the memory."""
    match opened.kind:
        case Kind.ARCHIVE:
            from pickcrate.read.archives.warc import read_warc

            return read_warc(opened.file, limit)
        case Kind.PDF:
            from pickcrate.run.sources.apart import read_pdf

            return read_pdf(opened, limit, brought.keep)
        case _:
            from pickcrate.read.archives.package import read_package

            return read_package(opened.file, opened.address, limit)


def _of_entries(opened: Opened) -> Reading:
    """Return a source whose entries have pages of their own."""
    octets, address = opened.octets, opened.address
    match opened.kind:
        case Kind.BOOKMARKS:
            from pickcrate.read.data.bookmarks import bookmarked

            return Reading(documents=[_document(opened)], pages=bookmarked(octets))
        case Kind.SUBSCRIPTIONS:
            from pickcrate.read.data.bookmarks import subscribed

            title, pages = subscribed(octets)
            return Reading(pages=pages, title=title)
        case Kind.JSON_FEED:
            from pickcrate.read.data.feed import read_json_feed

            return read_json_feed(octets, address)
        case _:
            from pickcrate.read.data.feed import read_xml_feed

            reading = read_xml_feed(octets, address)
            if not (reading.documents or reading.references or reading.further):  # RDF may be of anything
                _add_data(reading, replace(opened, kind=Kind.XML))
            return reading


def _of_pictures(opened: Opened) -> Reading:
    """Return a source that is a picture, or describes pictures and nothing else."""
    octets, address = opened.octets, opened.address
    match opened.kind:
        case Kind.PICTURE:
            reading = Reading(bodies={address: StoredBody(lambda: octets)})
            reading.add_picture(address, FoundIn.SOURCE)
            return reading
        case Kind.TILES:
            from pickcrate.read.data.pyramid import read_tiles

            return read_tiles(octets, address)
        case Kind.METS:
            from pickcrate.read.data.mets import read_mets

            reading = read_mets(octets, address)
            if not reading.references:  # its parts are not told of, or it names pictures in a way of its own
                _add_data(reading, replace(opened, kind=Kind.XML))
            return reading
        case _:
            from pickcrate.read.data.iiif import read_iiif

            return read_iiif(octets, address)


def _add_data(reading: Reading, opened: Opened) -> None:
    """Add a source that is data, with the pictures that it holds itself."""
    from pickcrate.read.data.datafile import DATA_FIELDS, as_page
    from pickcrate.read.data.inlined import taken_out

    data = opened.octets
    if opened.kind is Kind.XML:
        from pickcrate.read.data.xmldata import as_json

        data = as_json(data, opened.address)
    data, bodies = taken_out(data, OF_A_STREAM if opened.address == NOWHERE else opened.address)
    reading.bodies.update(bodies)
    fields = DATA_FIELDS | ({"link": link} if (link := opened.fields.get("link", "")) else {})
    reading.documents.append(Document(lambda: as_page(data), opened.address, fields))


def _document(opened: Opened) -> Document:
    """Return a source that is one page, or may be read as one."""
    if opened.kind is not Kind.TEXT:
        return Document(lambda: opened.octets, opened.address, opened.fields)
    from pickcrate.read.texts import textfile

    return Document(lambda: textfile.as_page(opened.octets), opened.address, textfile.TEXT_FIELDS)


def loaded(reading: Reading) -> Iterator[tuple[Document, bytes]]:
    """Yield the documents of a source with their bytes, as far as there is room for them; the rest is a flaw."""
    room = MOST_OCTETS
    for document in reading.documents:
        octets = document.load()
        room -= len(octets)
        if room < 0:
            words = f"more than {MOST_OCTETS // 1_000_000} MB of pages: the rest is left out"
            reading.flaws.append(Flaw("size", words))
            return
        yield document, octets


def _beside(opened: Opened, limit: int, brought: Brought, name: str) -> bytes:
    """Return the file that lies beside a source on disk; nothing where there is none, or it is none of its own."""
    url = absolute(quote(name), opened.address)
    reply = brought.answer(Request(url, trust=opened.trust), limit) if url and url.startswith("file:") else None
    return reply.octets if reply is not None else b""
