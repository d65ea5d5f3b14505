"""What the bytes of a source are, by content and never by name."""

import itertools
import re
import struct
import zlib
from enum import StrEnum

from pickcrate.addresses.url import is_picture_path
from pickcrate.media import ANY_EXTENSION
from pickcrate.media.header import read_header
from pickcrate.read.data.pyramid import is_pyramid
from pickcrate.read.lists.addresslist import names_one
from pickcrate.read.lists.cells import HELD_PICTURE, is_bare_address
from pickcrate.read.lists.picklist import is_own_json, is_own_list
from pickcrate.read.lists.table import SAMPLE_ROWS, is_headed_csv, looks_like_csv, looks_like_json_lines
from pickcrate.read.packed import FORMATS
from pickcrate.read.pages.decode import unmarked
from pickcrate.text.lazyre import lazy

_BOM = b"\xef\xbb\xbf"
_LEADING = lazy(
    rb"(?:\s+|<!--.*?-->|<\?.*?\?>|<!DOCTYPE(?!\s+html)[^>\[]*(?:\[.*?\]\s*)?>)+", re.DOTALL | re.IGNORECASE
)
_MARKUP = lazy(rb"<(?:!doctype\s+html|[a-z](?:[a-z0-9:-]*[a-z0-9])?(?=[\s/>]))", re.IGNORECASE)
_HYPERTEXT = lazy(rb"\s*<(?:!doctype\s+html|html[\s>])", re.IGNORECASE)
_XML_ROOT = lazy(rb"<(?:(?:[a-z0-9]+:)?(rss|feed|rdf|urlset|sitemapindex)|plist)[\s>]", re.IGNORECASE)
"""of a feed, which has a group, or of a property list"""

_ROOT = lazy(rb"<([\w.-]{1,100}:)?([\w.-]{1,100})([^<>]{0,8000})>")
_XHTML = b"http://www.w3.org/1999/xhtml"
_OF_PAGES = frozenset((b"html", b"head", b"body", b"svg"))

_ADDRESS_LINE = lazy(
    rb"\s*(?:#[^\n]*\n\s*)*<?(?:(?:https?://|file:///|data:image/|//[\w-]+\.[\w.:-]+/)[^\s<>\"]+)>?[ \t]*(?:\r?\n|\Z)",
    re.IGNORECASE,
)
_BOOKMARKS = lazy(rb"<!doctype\s+netscape-bookmark-file", re.IGNORECASE)
"""the doctype that no standard has, and every browser writes"""

_SUBSCRIPTIONS = lazy(rb"<opml[\s>]", re.IGNORECASE)

_SHORTCUT = lazy(rb"\[(?:internetshortcut|desktop entry)\][ \t]*\r?\n", re.IGNORECASE)
_SECTION = lazy(rb"\[{1,2}[A-Za-z_][^\[\]\r\n]{0,200}\]{1,2}[ \t]*\r?\n")
"""how a part of a file of settings or of data begins (TOML 1.0, Table and Array of Tables)"""

_HEADER_LINE = lazy(rb"[!-9;-~]+:[ \t\r]")
_MIME = lazy(
    rb"^(?:mime-version|content-type|snapshot-content-location|received|subject|from):", re.IGNORECASE | re.MULTILINE
)
_LOG = lazy(rb"\{\s*\"log\"\s*:\s*\{")
_METS = b"http://www.loc.gov/METS/"
"""how the namespaces of its versions begin"""

_JSON_FEED = lazy(rb"\"version\"\s*:\s*\"https?:\\?/\\?/(?:www\.)?jsonfeed\.org\\?/version")
_IIIF = lazy(
    rb"\"(?:@context|protocol)\"\s*:\s*(?:\[[^\]]{0,1000}?)?\"https?:\\?/\\?/iiif\.io\\?/api\\?/(?:presentation|image)"
)
_ENDING = b"(?:" + ANY_EXTENSION.encode() + b")"
_NAMES_A_PICTURE = lazy(
    # An address with its ending, a type, or an address under a name of pictures, also in an object or a list there.
    rb"\"[^\"\n]{1,500}\." + _ENDING + rb"(?:\?[^\"\n]{0,500})?\\?\""
    rb"|https?:\\?/\\?/[^\s\"'<>]{1,500}\." + _ENDING + rb"(?![\w-])"
    rb"|!\[[^\]\n]{0,500}\]\([^\s()]{1,500}\." + _ENDING + rb"(?![\w-])"
    rb"|(?:<|\\u003c)img[\s\\]"
    rb"|\"image\\?/[a-z+.-]{2,20}\""
    # A picture itself.
    rb"|\"(?:" + HELD_PICTURE.encode() + rb")"
    rb"|\"[\w -]{0,40}(?:image|img|photo|picture|thumb|poster)[\w -]{0,40}\"\s{0,100}:\s{0,100}(?:[\[{]\s{0,100}){0,3}"
    rb"(?:\"\w{1,20}\"\s{0,9}:\s{0,9}(?:\d{1,9}|null|\"[^\"\n]{0,80}\")\s{0,9},\s{0,100}){0,4}"
    rb"(?:\"(?:url|src|href|uri|raw|full|large|medium|small|original|regular)\"\s{0,9}:\s{0,9})?\"(?:https?:)?\\?/\\?/",
    re.IGNORECASE,
)
_NAMES_AN_ADDRESS = lazy(
    rb"\"@?(?:id|url|href|link|permalink|self|uri|isshownat|next|first)\"\s{0,100}:\s{0,100}\"(?:https?:)?\\?/",
    re.IGNORECASE,
)
_OF_MARKDOWN = (
    rb"!\[[^\]]{0,500}\][(\[]|!\[\[[^\]\n]{1,500}\]\]|^ {0,3}\[[^\[\]\n]{1,200}\]:[ \t]{1,9}\S{1,500}\." + _ENDING
)
_BEFORE_STRING = rb"[=(+:,\[?]"
_SCRIPT = lazy(
    rb"\s*+(?:(?:/\*[^*]{0,2000}+\*/|//[^\n]{0,300}+\n)\s*+){0,9}+"
    rb"(?:(?:var|let|const|import|export|if|try)\b|[!;(]|[\"']use strict[\"']|[\w$]++(?:\.[\w$]++)*+\s?[(=])"
    rb"(?:[^<\"'`]++|\"(?:[^\"<\n\\]|\\.)*+\"|'(?:[^'<\n\\]|\\.)*+'|`[^`<]*+`)*+"
    rb"(?:(?<=" + _BEFORE_STRING + rb")|(?<=" + _BEFORE_STRING + rb"\s))[\"'`][^\"'`<\n]{0,500}+<"
)
"""how a script begins whose strings have markup: with a statement, and what is the first markup is inside a string"""

_IN_A_TEXT = lazy(
    # An address on the web, a path in quotes or behind a label, a picture in Markdown, one in a style.
    rb"(?im)https?://[^\s\"'<>]{1,500}\." + _ENDING + rb"(?![\w-])"
    rb"|[\"'`][\w./%~-]{1,300}\." + _ENDING + rb"[\"'`?]"
    rb"|^[ \t]{0,80}(?:-[ \t])?[a-z_][\w-]{0,40}[ \t]?[:=][ \t]{1,4}[\w./%~-]{1,300}\." + _ENDING + rb"[ \t]{0,9}\r?$"
    rb"|" + _OF_MARKDOWN + rb"|(?<![\w-])url\(\s{0,10}[\"']?[^\s\"'()]{1,500}[\"']?\s{0,10}\)"
)
_IS_MARKDOWN = lazy(rb"(?im)" + _OF_MARKDOWN)
_OPEN_NOTES = (b"---", b"+++", b"import ")

_OF_WORKBOOKS = (b"xl/workbook.xml", b"xl/worksheets/", b"xl/_rels/")
"""names of members, which stand in a ZIP as they are (ECMA-376, part 2)"""

_OPENDOCUMENT = b"mimetypeapplication/vnd.oasis.opendocument.spreadsheet"
"""of the first member, which is stored as it is (ODF 1.3, part 2, 3.3)"""

_PDF = b"%PDF-"
"""how a PDF begins (ISO 32000-2, 7.5.2)"""

_TAR, _TAR_AT = b"ustar", 257
"""what marks a tar, and where (POSIX.1-2017, pax: ustar Interchange Format)"""

_ARRAY, _OBJECTS = lazy(rb"\[\s*[\[{\"]"), lazy(rb"\[\s*\{\s*\"")
_SAVE_ANEW = "save it as .docx, .xlsx or .pptx, or as .odt, .ods or .odp, and hand that over"
_COMPOUND, _COMPOUND_HEADER = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", 512
_ENCRYPTED = "EncryptedPackage".encode("utf-16-le")
_LOCKED = ("an encrypted document", "open it with its password, save it without one, and hand that over")
_UNPACK = "unpack it, and hand over the folder"
_FAMILIAR = (
    *((magic, f"{name} data", "") for magic, name in FORMATS.items()),
    (b"\x7fELF", "a program", ""),
    (_COMPOUND, "a document of an older office program", _SAVE_ANEW),
    (b"{\\rtf", "a document in RTF", _SAVE_ANEW),
    (b"Rar!\x1a\x07", "a RAR archive", _UNPACK),
    (b"7z\xbc\xaf\x27\x1c", "a 7z archive", _UNPACK),
    (b"SQLite format 3\0", "a database", "export the table with the addresses as CSV"),
)
"""how files begin that are no source, what they are, and what to do with them"""

_BEGINS_AS_JSON = lazy(rb"\{\s*(?:[\"}]|\Z)|\[\s*(?:[\[{\"\]\d-]|true|false|null|\Z)")


class Kind(StrEnum):
    """What a source may be."""

    PAGE = "page"
    ADDRESSES = "list of addresses"
    PICTURE = "picture"
    MESSAGE = "MHTML or mail"
    LOG = "network log"
    ARCHIVE = "web archive"
    PLIST = "property list"
    PACKAGE = "package of pages"
    PDF = "document in PDF"
    BOOKMARKS = "file of bookmarks"
    SUBSCRIPTIONS = "list of subscriptions"
    SHORTCUT = "shortcut to a page"
    FEED = "feed"
    JSON_FEED = "JSON feed"
    IIIF = "IIIF manifest"
    METS = "METS record"
    TILES = "tile description"
    DATA = "file of data"
    XML = "file of data in XML"
    TEXT = "text that names pictures"
    CSV = "list with columns"
    JSON_LINES = "list of JSON objects"
    PARQUET = "list in Parquet"
    WORKBOOK = "workbook"
    HAUL = "haul in a store"


LISTS = frozenset((Kind.ADDRESSES, Kind.CSV, Kind.JSON_LINES, Kind.PARQUET, Kind.WORKBOOK, Kind.HAUL))
"""Sources that pass row by row."""

FEEDS = frozenset((Kind.FEED, Kind.JSON_FEED))
OF_ENTRIES = FEEDS | {Kind.BOOKMARKS, Kind.SUBSCRIPTIONS}
"""Sources whose entries have pages of their own."""

DATA = frozenset((Kind.DATA, Kind.XML))
"""Sources that are answers of an interface for programs, or exports."""

DOCUMENTS = frozenset((Kind.PACKAGE, Kind.PDF, Kind.WORKBOOK))
"""Sources with pictures of their own that come with others: documents, and packages of files."""

WINDOW = 65_536
"""Bytes from the start that tell what a source is."""

FAR = 10_000_000
"""Bytes of data in which it may name its first picture."""


def recognise(octets: bytes) -> Kind | None:
    """Return what ``octets`` (the start of a source at least) are, or None if Pick Crate cannot read them."""
    head = octets[:WINDOW]
    if (kind := _kind_of_file(head)) is not None:
        return kind
    encoding = "utf-16" if head.startswith((b"\xff\xfe", b"\xfe\xff")) else unmarked(head)
    return _kind_of_text(head.decode(encoding, "ignore").encode("utf-8", "ignore") if encoding is not None else head)


def is_hypertext(head: bytes) -> bool:
    """Tell whether bytes begin as a page of HTML or XHTML does, and not as any other markup."""
    text = head.removeprefix(_BOM)
    leading = _LEADING.match(text)
    return _HYPERTEXT.match(text, leading.end() if leading else 0) is not None


def _kind_of_file(head: bytes) -> Kind | None:
    if head.startswith(b"PK\x03\x04"):
        is_workbook = _OPENDOCUMENT in head[:200] or any(name in head for name in _OF_WORKBOOKS)
        return Kind.WORKBOOK if is_workbook else Kind.PACKAGE
    if head.startswith(_TAR, _TAR_AT):
        return Kind.PACKAGE
    if _is_warc(head):
        return Kind.ARCHIVE
    if head.startswith(b"bplist00"):
        return Kind.PLIST
    if head.startswith(b"PAR1"):
        return Kind.PARQUET
    if head.startswith(_PDF):
        return Kind.PDF
    return Kind.PICTURE if read_header(head) is not None else None


def _kind_of_text(head: bytes) -> Kind | None:
    text = head.removeprefix(_BOM).lstrip()
    if is_pyramid(text):
        return Kind.TILES
    if text.startswith(b"<") and not text.startswith((b"<http", b"<//")):  # as most sources do
        return _kind_of_markup(text, head)
    if is_own_list(first_line := _first_line(text)):  # before all else: its words may hold anything
        return Kind.CSV
    if text.startswith(b"{"):
        return Kind.JSON_LINES if is_own_json(first_line) else _json_kind(text)
    if text.startswith(b"[") and ((kind := _kind_in_brackets(text)) is not None or _OBJECTS.match(text)):
        return kind
    if _ADDRESS_LINE.match(text):
        return Kind.CSV if _has_even_columns(text) else Kind.ADDRESSES
    if _is_message(text):
        return Kind.MESSAGE
    return _kind_of_words(text, head)


def _kind_of_words(text: bytes, head: bytes) -> Kind | None:
    """Return what a text is that begins with words: a list with columns or Markdown may hold markup as well."""
    if is_headed_csv(_decoded(head)):
        return Kind.CSV
    if (is_marked_up(text) or _SCRIPT.match(text) is not None) and is_plain_text(head):
        return Kind.TEXT
    return _kind_of_markup(text, head) or _kind_of_lines(text, head)


def _kind_in_brackets(text: bytes) -> Kind | None:
    if _SHORTCUT.match(text) is not None:
        return Kind.SHORTCUT
    if _SECTION.match(text) is not None:
        return Kind.TEXT if names_a_picture(text) else None
    return Kind.DATA if _ARRAY.match(text) and _NAMES_A_PICTURE.search(text) is not None else None


def _kind_of_lines(text: bytes, head: bytes) -> Kind | None:
    lines = _decoded(head)
    if looks_like_csv(lines):
        return Kind.CSV
    if _names_addresses_alone(lines) or _are_commands(lines):
        return Kind.ADDRESSES
    return Kind.TEXT if names_a_picture(text) and is_plain_text(head) else None


def _kind_of_markup(text: bytes, head: bytes) -> Kind | None:
    leading = _LEADING.match(text)
    start = leading.end() if leading else 0
    if (root := _XML_ROOT.match(text, start)) is not None:
        return Kind.FEED if root[1] else Kind.PLIST
    if _BOOKMARKS.match(text) is not None:
        return Kind.BOOKMARKS
    if _SUBSCRIPTIONS.match(text, start) is not None:
        return Kind.SUBSCRIPTIONS
    if _is_xml_data(text, start):
        return Kind.METS if _METS in text else Kind.XML
    return Kind.PAGE if _looks_like_html(head) else None


def _is_xml_data(text: bytes, at: int) -> bool:
    """Tell whether what begins at a place is XML, and neither a page nor a drawing."""
    root = _ROOT.match(text, at)
    if root is None or root[2].lower() in _OF_PAGES or _XHTML in root[3]:
        return False
    return text.startswith(b"<?xml") or bool(root[1]) or b"xmlns=" in root[3]


def _is_message(text: bytes) -> bool:
    """Tell whether a text begins as a message does (RFC 5322, 2.2); in an mbox (RFC 4155) a line goes before it."""
    if text.startswith(b"From "):
        text = text.partition(b"\n")[2]
    fields = text.partition(b"\n\n")[0].partition(b"\r\n\r\n")[0]
    return _HEADER_LINE.match(text) is not None and _MIME.search(fields) is not None


def _first_line(text: bytes) -> str:
    return text.partition(b"\n")[0].decode("utf-8", "replace")


def _has_even_columns(text: bytes) -> bool:
    """Tell whether lines that begin with an address go on with other columns: the same number of commas in each."""
    lines = [line for line in _decoded(text).splitlines()[:20] if line.strip()]
    commas = {line.count(",") for line in lines}
    return len(lines) > 1 and len(commas) == 1 and commas != {0} and looks_like_csv("\n".join(lines))


def _names_addresses_alone(text: str) -> bool:
    """Tell whether lines are the paths of pictures, or addresses without their schemes, and nothing else."""
    paths = _first_lines(text)
    return bool(paths) and (all(map(is_picture_path, paths)) or all(map(is_bare_address, paths)))


def _are_commands(text: str) -> bool:
    """Tell whether most lines name a file and the address to fetch it from, as commands do."""
    lines = _first_lines(text)
    commands = [line for line in lines if "://" in line]
    return 2 * len(commands) >= len(lines) > 0 and all(map(names_one, commands))


def _first_lines(text: str) -> list[str]:
    lines = (line.strip() for line in text.splitlines())
    return list(itertools.islice((line for line in lines if line and not line.startswith("#")), SAMPLE_ROWS))


def _decoded(octets: bytes) -> str:
    """Return the start of a list as text, without a line that is cut off at its end, but for the first of its rows."""
    encoding = "utf-16" if octets.startswith((b"\xff\xfe", b"\xfe\xff")) else "utf-8-sig"
    text = octets.decode(encoding, "replace")
    whole = text.rpartition("\n")[0]
    return whole if len(octets) >= WINDOW and "\n" in whole else text


def _json_kind(text: bytes) -> Kind | None:
    if _LOG.match(text) or (b'"log"' in text and b'"entries"' in text):
        return Kind.LOG
    if _IIIF.search(text):
        return Kind.IIIF
    if _JSON_FEED.search(text):
        return Kind.JSON_FEED
    if looks_like_json_lines(_decoded(text)):
        return Kind.JSON_LINES
    return Kind.DATA if _NAMES_A_PICTURE.search(text) is not None else None


def begins_as_json(head: bytes) -> bool:
    """Tell whether bytes may be JSON, of which it may only be said further on what it is."""
    return _BEGINS_AS_JSON.match(head.removeprefix(_BOM).lstrip()) is not None


def names_pictures_later(octets: bytes) -> bool:
    """Tell whether JSON names pictures behind its beginning: behind texts, or the shapes of a map."""
    return begins_as_json(octets[:WINDOW]) and _NAMES_A_PICTURE.search(octets, WINDOW // 2, FAR) is not None


def names_addresses(octets: bytes) -> bool:
    """Tell whether JSON that names no picture names addresses that may lead to some: it is an answer, and not large."""
    is_one = len(octets) <= FAR and begins_as_json(octets[:WINDOW])
    return is_one and _NAMES_AN_ADDRESS.search(octets) is not None


def describe(octets: bytes, media_type: str = "") -> str:
    """Say what bytes that are no source are, for a message: ``"a PDF document"``, ``"binary data"``."""
    head = octets[:WINDOW]
    if not head.strip():
        return "empty"
    if (familiar := _familiar(octets)) is not None:
        return familiar[0]
    if begins_as_json(head):
        return "JSON data"
    if media_type and not media_type.startswith(("text/html", "application/octet-stream")):
        return f"of type {media_type}"
    return "plain text without any markup" if b"\0" not in head else "binary data"


def is_of_long_lines(octets: bytes) -> bool:
    """Tell whether data is a list of JSON objects whose first line is longer than is looked at to recognise it."""
    if not octets.startswith(b"{") or b"\n" in octets[:WINDOW]:
        return False
    first, _, rest = octets.partition(b"\n")
    return rest[:WINDOW].lstrip().startswith(b"{") and looks_like_json_lines(first.decode("utf-8", "replace"))


def is_plain_text(octets: bytes) -> bool:
    """Tell whether bytes that are no source are a text all the same."""
    head = octets[:WINDOW].strip()
    if not head or b"\0" in head or _BEGINS_AS_JSON.match(head) is not None:
        return False
    return _familiar(octets) is None


def what_to_do(octets: bytes) -> str:
    """Return what helps with bytes that are no source, for a hint; empty if nothing is known that does."""
    familiar = _familiar(octets)
    return familiar[1] if familiar is not None else ""


def _familiar(octets: bytes) -> tuple[str, str] | None:
    if _is_encrypted_document(octets):
        return _LOCKED
    head = octets[:WINDOW].lstrip()
    return next(((words, hint) for magic, words, hint in _FAMILIAR if head.startswith(magic)), None)


def _is_encrypted_document(octets: bytes) -> bool:
    """Tell whether a document of Office Open XML is kept as it is with a password, in a compound file.

    MS-CFB, 2.2 (where its directory is) and 2.6; MS-OFFCRYPTO, 2.3.4.4.
    """
    if not octets.startswith(_COMPOUND) or len(octets) < _COMPOUND_HEADER:
        return False
    (shift,), (sector,) = struct.unpack_from("<H", octets, 30), struct.unpack_from("<I", octets, 48)
    start = (sector + 1) << min(shift, 12)
    return _ENCRYPTED in octets[start : start + 4_096]


def names_a_picture(head: bytes) -> bool:
    """Tell whether the beginning of a text that is nothing else names a picture."""
    return _IN_A_TEXT.search(head) is not None


def is_markdown(head: bytes) -> bool:
    """Tell whether the beginning of a text shows a picture as Markdown does, or as notes with front matter do."""
    if b"![" in head and _IS_MARKDOWN.search(head) is not None:
        return True
    if not head.startswith(_OPEN_NOTES) or b"{" not in head:
        return False
    from pickcrate.read.texts.shortcodes import has_shortcodes  # noqa: PLC0415 (few sources are texts)

    return has_shortcodes(_decoded(head))


def is_marked_up(head: bytes) -> bool:
    """Tell whether the beginning of a text shows a picture in lightweight markup; Markdown may hold HTML besides."""
    if is_markdown(head):
        return True
    if b"</" in head:
        return False
    from pickcrate.read.texts.lightweight import is_lightweight  # noqa: PLC0415 (few sources are texts)

    return is_lightweight(_decoded(head))


def _is_warc(head: bytes) -> bool:
    if not head.startswith(b"\x1f\x8b"):
        return head.startswith(b"WARC/")
    try:
        return zlib.decompressobj(31).decompress(head, 64).startswith(b"WARC/")
    except zlib.error:
        return False


def _looks_like_html(head: bytes) -> bool:
    if b"\0" in head[:512] and not is_hypertext(head):  # a parser passes over a zero or two
        return False
    # A fragment may open with words; a tag in the first kilobytes tells it from plain text.
    return _MARKUP.search(head) is not None
