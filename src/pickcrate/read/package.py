"""A ZIP of pages, or an EPUB: its pages are documents, its other files are the bytes that they refer to."""

import io
import zipfile
from urllib.parse import quote

from pickcrate.addresses import image_type
from pickcrate.read.reading import Body, Document, Reading
from pickcrate.values import Flaw

_PAGE_ENDINGS = (".html", ".htm", ".xhtml", ".xht")
_MOST_MEMBERS = 100_000


def read_package(octets: bytes, address: str, limit: int) -> Reading:
    """Return the pages of a ZIP file, in the order of their names; members over ``limit`` bytes are flaws.

    A member's address is the package's own with its path behind, so that relative addresses work inside it.
    """
    reading = Reading()
    try:
        archive = zipfile.ZipFile(io.BytesIO(octets))
        members = [member for member in archive.infolist()[:_MOST_MEMBERS] if not member.is_dir()]
    except Exception as error:  # noqa: BLE001 (zipfile raises whatever it trips over in broken bytes)
        reading.flaws.append(Flaw("package", f"the package cannot be read: {error}"))
        return reading
    for member in sorted(members, key=lambda member: member.filename):
        url = f"{address}/{quote(member.filename.replace(chr(92), '/').lstrip('/'))}"
        if member.file_size > limit:  # what it claims; reading stops there all the same
            reading.flaws.append(Flaw("package", f"{member.filename}: larger than --max-file"))
            continue
        reading.bodies[url] = Body(lambda member=member: _load(archive, member, limit))  # type: ignore[misc]
        if member.filename.lower().endswith(_PAGE_ENDINGS):
            reading.documents.append(Document(lambda member=member: _load(archive, member, limit), url))  # type: ignore[misc]
        elif image_type(url) is not None:
            reading.add_picture(url, "archive")
    return reading


def _load(archive: zipfile.ZipFile, member: zipfile.ZipInfo, limit: int) -> bytes:
    """Return a member's bytes, at most ``limit`` of them; nothing if it is broken or encrypted."""
    try:
        with archive.open(member) as file:
            return file.read(limit)
    except Exception:  # noqa: BLE001 (broken, encrypted, an unknown compression: all the same to a page)
        return b""
