"""A ZIP or a tar of pages, or an EPUB: its pages are documents, its other files are the bytes that they refer to.

One with web archives in it is those, as WACZ has them (Web Archive Collection Zipped 1.1.1, 5.2.1).
"""

import io
import itertools
import posixpath
import struct
import zipfile
from collections.abc import Callable
from functools import partial
from typing import BinaryIO
from urllib.parse import quote, unquote

from msgspec import Struct

from pickcrate.addresses.url import image_type
from pickcrate.media.header import read_header
from pickcrate.read.archives.har import read_har
from pickcrate.read.archives.membernames import in_unicode, names_of
from pickcrate.read.archives.tarball import MOST_MEMBERS, Stored, Tar
from pickcrate.read.archives.window import window
from pickcrate.read.data.datafile import DATA_ENDINGS, DATA_FIELDS, MOST_LISTS, MOST_OF_A_LIST, as_page
from pickcrate.read.fields.contenttype import PAGE_EXTENSIONS
from pickcrate.read.reading import Attached, Document, Open, Reading, StoredBody
from pickcrate.read.recognise import DOCUMENTS, WINDOW, Kind, is_hypertext, recognise
from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn

_PAGE_ENDINGS = tuple(f".{extension}" for extension in PAGE_EXTENSIONS)
_LOG_ENDING = ".har"
_ARCHIVE_ENDINGS = (".warc", ".warc.gz")
_DATA = frozenset((Kind.DATA, Kind.XML, Kind.CSV, Kind.JSON_LINES))
_LOCAL_HEADER = struct.Struct("<26xHH")
"""of a ZIP's member, before its name, its extra field and its bytes (APPNOTE 6.3.10, 4.3.7)"""

_CONTAINER = "META-INF/container.xml"
_MANIFEST, _ENCRYPTED = "META-INF/manifest.xml", b"encryption-data"
"""where an OpenDocument says which of its parts are encrypted (ODF 1.3, part 2, 4.4)"""

_MOST_OF_A_DOCUMENT = 200_000_000
"""Bytes of all the parts of one, as often as they are named"""

_SAMPLE = 5
_ZIP = b"PK"
_OF_OFFICE = frozenset(("[Content_Types].xml", "content.xml"))
"""what a package has that an office program wrote (ECMA-376, part 2; ODF 1.3, part 2)"""

_PREVIEW = lazy(r"(?:docProps|Thumbnails)/thumbnail\.(?:png|jpe?g)")
"""what a document looks like, for those who choose a file (ECMA-376, part 2, 8.3; ODF 1.3, part 2, 3.8)"""

_HEAD = 4096
_FIELDS_OF_A_BOOK = {"content-type": "application/xhtml+xml"}
"""pages of an EPUB are XHTML, whatever they are called (EPUB 3.3, 6.1)"""


class _Member(Struct, frozen=True):
    """One file of a package: its path, its first bytes, its size in bytes, and what loads, begins or opens it."""

    path: str
    head: bytes
    load: Callable[[], bytes]
    size: int
    begin: Callable[[int], bytes]
    open: Open

    @property
    def is_archive(self) -> bool:
        """Whether it is a web archive, which is read where it lies."""
        return self.path.lower().endswith(_ARCHIVE_ENDINGS) and recognise(self.head) is Kind.ARCHIVE

    @property
    def is_page(self) -> bool:
        """Whether it is a page, whatever it is called; a page by its name is one whatever it begins with."""
        return self.path.lower().endswith(_PAGE_ENDINGS) or is_hypertext(self.head)

    @property
    def is_log(self) -> bool:
        """Whether it is a network log."""
        return self.path.lower().endswith(_LOG_ENDING) and recognise(self.head) is Kind.LOG


def read_package(open_package: Open, address: str, limit: int) -> Reading:
    """Return what a ZIP file or a tar holds: its pages, an EPUB's in the order of reading, or its web archives.

    ``open_package`` opens it, each time anew. Members over ``limit`` bytes are flaws. A member's address is the
    package's own with its path behind, so that relative addresses work inside it. Where its pages are not pages but one
    network log, that is read, with the bodies that are beside it in the package.
    """
    reading, file = Reading(), open_package()
    head = file.read(len(_ZIP))
    file.seek(0)
    try:
        members = (_of_zip if head.startswith(_ZIP) else _of_tar)(file, open_package, limit, reading)
    except Exception as error:  # noqa: BLE001 (zipfile raises whatever it trips over in broken bytes)
        reading.flaws.append(Flaw("package", f"the package cannot be read: {error}"))
        return reading
    if (log := next((member for member in members.values() if member.is_log), None)) is not None:
        return _read_log(log, members)
    if archives := [member for member in members.values() if member.is_archive]:
        return _read_archives(archives, limit, reading)
    if (manifest := members.get(_MANIFEST)) is not None and _ENCRYPTED in manifest.load():
        reading.flaws.append(Flaw("package", "it is encrypted: open it with its password, and save it without one"))
    if not _OF_OFFICE.isdisjoint(members):
        _add_office_page(reading, file, address, members)
    elif not any(member.is_page for member in members.values()):
        reading.documents.extend(_data_pages(members, address))
    order = _spine(members)
    fields = _FIELDS_OF_A_BOOK if order else {}
    for path in sorted(members, key=lambda path: (order.get(path, len(order)), path)):
        member = members[path]
        url = f"{address}/{quote(path)}"
        reading.bodies[url] = StoredBody(member.load, size=member.size, begin=member.begin)
        if member.is_page:
            reading.documents.append(Document(partial(_load_page, member, reading), url, fields))
        elif read_header(member.head) is not None or image_type(url) is not None:
            reading.add_picture(url, FoundIn.ARCHIVE)
    if not (reading.documents or reading.references):
        documents = (path for path, member in sorted(members.items()) if recognise(member.head) in DOCUMENTS)
        reading.attached.extend(Attached(path, members[path].load) for path in documents)
    return reading


def _data_pages(members: dict[str, _Member], address: str) -> list[Document]:
    """Return the data in a package without pages, which says what its pictures are: a KMZ, an export with its files.

    Many are of one picture each, as cameras and albums leave them beside it: those are none.
    """
    from pickcrate.read.anydata import json_of  # noqa: PLC0415 (few packages have any)

    def load(member: _Member) -> bytes:
        return as_page(json_of(member.load(), member.path.lower()) or b"{}")

    named_so = [member for member in members.values() if member.path.lower().endswith(DATA_ENDINGS)]
    if len(named_so) > MOST_LISTS:
        return []
    small = (member for member in named_so if member.size <= MOST_OF_A_LIST)
    data = [member for member in small if recognise(member.begin(WINDOW)) in _DATA]
    return [Document(partial(load, member), f"{address}/{quote(member.path)}", DATA_FIELDS) for member in data]


def _add_office_page(reading: Reading, file: BinaryIO, address: str, members: dict[str, _Member]) -> None:
    """Add the page that a document of an office program is."""
    from pickcrate.read.office.office import office_page  # noqa: PLC0415
    from pickcrate.read.office.officesheet import sheets_page  # noqa: PLC0415
    from pickcrate.read.office.opendocumentpage import opendocument_page  # noqa: PLC0415 (few packages are such)

    room = _MOST_OF_A_DOCUMENT

    def load(path: str) -> bytes:
        nonlocal room
        octets = members[path].load() if path in members and room > 0 else b""
        room -= len(octets)
        return octets

    try:
        page = office_page(load) or sheets_page(file, load) or opendocument_page(load)
    except Exception as error:  # noqa: BLE001 (a document may be made to trip up any code)
        reading.flaws.append(Flaw("document", f"the document cannot be read: {str(error)[:200]}"))
        return
    previews = [f'<link rel=icon href="{path}">' for path in members if _PREVIEW.fullmatch(path)]
    if page is not None or previews:
        octets = "".join((page or "", *previews)).encode("utf-8", "replace")
        fields = {"content-type": "text/html; charset=utf-8"}
        reading.documents.append(Document(lambda: octets, f"{address}/", fields))


def _of_tar(file: BinaryIO, open_package: Open, limit: int, reading: Reading) -> dict[str, _Member]:
    """Return the members of a tar by their paths; of several with one path the last is what it stands for."""
    tar = Tar(file)
    held: list[Stored] = []
    try:
        held.extend(tar.files())
    except Exception:  # noqa: BLE001 (tarfile raises whatever it trips over in broken bytes)
        reading.flaws.append(Flaw("package", "the package is damaged, or cut off: what stands before that was read"))
    pages = (stored for stored in held if stored.path.lower().endswith(_PAGE_ENDINGS))
    names = in_unicode(
        [stored.path for stored in held],
        lambda: (tar.load(stored, limit) for stored in itertools.islice(pages, _SAMPLE)),
    )
    members: dict[str, _Member] = {}
    for name, stored in zip(names, held, strict=True):
        path = posixpath.normpath(name).lstrip("/")
        if stored.size > limit and not path.lower().endswith(_ARCHIVE_ENDINGS):
            reading.flaws.append(Flaw("package", f"{path}: larger than --max-file"))
            continue
        begin, size = partial(tar.load, stored), stored.size
        where = partial(window, open_package, stored.offset, size)
        members[path] = _Member(path, begin(_HEAD), partial(begin, limit), size, begin, where)
    return members


def _of_zip(file: BinaryIO, open_package: Open, limit: int, reading: Reading) -> dict[str, _Member]:
    """Return the members of a ZIP by their paths."""
    archive = zipfile.ZipFile(file)
    infos = [info for info in archive.infolist()[:MOST_MEMBERS] if not info.is_dir()]
    pages = (info for info in infos if info.filename.lower().endswith(_PAGE_ENDINGS))
    names = names_of(infos, lambda: (_load(archive, info, limit) for info in itertools.islice(pages, _SAMPLE)))
    members: dict[str, _Member] = {}
    unread: dict[str, list[str]] = {}
    for info in infos:
        path = names[info].replace("\\", "/").lstrip("/")
        is_in_place = path.lower().endswith(_ARCHIVE_ENDINGS) and info.compress_type == zipfile.ZIP_STORED
        if info.file_size > limit and not is_in_place:  # what it claims; reading stops there all the same
            reading.flaws.append(Flaw("package", f"{path}: larger than --max-file"))
            continue
        head = _load(archive, info, min(limit, _HEAD))
        if info.file_size and not head:
            unread.setdefault(_why_unread(info), []).append(path)
        load, begin = partial(_load, archive, info, limit), partial(_load, archive, info)
        where = partial(_in_place, open_package, info) if is_in_place else partial(_unpacked, load)
        members[path] = _Member(path, head, load, info.file_size, begin, where)
    for why, paths in unread.items():
        words = f"{paths[0]} cannot be read: it {why}"
        several = f"{len(paths):,} files cannot be read ({paths[0]}, …): each {why}"
        reading.flaws.append(Flaw("package", words if len(paths) == 1 else several))
    return members


def _in_place(open_package: Open, info: zipfile.ZipInfo) -> BinaryIO:
    """Open a member that is not packed where it lies. Raises struct.error where it does not lie where it should."""
    with open_package() as package:
        package.seek(info.header_offset)
        name, extra = _LOCAL_HEADER.unpack(package.read(_LOCAL_HEADER.size))
    return window(open_package, info.header_offset + _LOCAL_HEADER.size + name + extra, info.file_size)


def _unpacked(load: Callable[[], bytes]) -> BinaryIO:
    return io.BytesIO(load())


def _read_archives(archives: list[_Member], limit: int, flawed: Reading) -> Reading:
    """Return what the web archives of a package recorded, with the flaws of the package."""
    from pickcrate.read.archives.warc import read_warc  # noqa: PLC0415 (few packages hold any)

    reading = Reading(complete=True, flaws=flawed.flaws)
    for archive in archives:
        try:
            read_warc(archive.open, limit, reading)
        except (struct.error, OSError, ValueError):
            reading.flaws.append(Flaw("package", f"{archive.path} is not where the package says"))
    return reading


def _why_unread(info: zipfile.ZipInfo) -> str:
    """Return why nothing of a member could be read (APPNOTE 6.3.10, 4.4.4: bit 0 of the general purpose flag)."""
    return "is encrypted" if info.flag_bits & 1 else "is broken, or compressed in a way that is not known here"


def _load_page(member: _Member, reading: Reading) -> bytes:
    """Return a page's bytes; one that turns out to be broken behind its beginning is a flaw."""
    octets = member.load()
    if member.head and not octets:
        reading.flaws.append(Flaw("package", f"{member.path} cannot be read to its end: it is broken"))
    return octets


def _read_log(log: _Member, members: dict[str, _Member]) -> Reading:
    folder = posixpath.dirname(log.path)

    def beside(name: str) -> bytes:
        member = members.get(posixpath.normpath(posixpath.join(folder, name)))
        return member.load() if member is not None else b""

    return read_har(log.load(), beside)


def _spine(members: dict[str, _Member]) -> dict[str, int]:
    """Return the places of an EPUB's pages in the order of reading (EPUB 3.3, 4.2.5 and 5.7); none if it is none."""
    try:
        return _read_spine(members)
    except Exception:  # noqa: BLE001 (a broken book is a ZIP of pages)
        return {}


def _read_spine(members: dict[str, _Member]) -> dict[str, int]:
    if _CONTAINER not in members:
        return {}
    from lxml import etree  # noqa: PLC0415 (only for books)

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, recover=True)
    container = etree.fromstring(members[_CONTAINER].load()[:MOST_OF_A_LIST], parser)
    root = next(container.iter("{*}rootfile")).get("full-path") or ""
    package = etree.fromstring(members[root].load()[:MOST_OF_A_LIST], parser)
    hrefs = {item.get("id"): item.get("href") or "" for item in package.iter("{*}item")}
    folder = posixpath.dirname(root)
    named = (hrefs.get(item.get("idref"), "") for item in package.iter("{*}itemref"))
    paths = (posixpath.normpath(posixpath.join(folder, unquote(href))) for href in named)
    return {path: place for place, path in enumerate(dict.fromkeys(paths))}


def _load(archive: zipfile.ZipFile, member: zipfile.ZipInfo, limit: int) -> bytes:
    """Return a member's bytes, at most ``limit`` of them; nothing if it is broken or encrypted."""
    try:
        with archive.open(member) as file:
            return file.read(limit)
    except Exception:  # noqa: BLE001 (broken, encrypted, an unknown compression: all the same to a page)
        return b""
