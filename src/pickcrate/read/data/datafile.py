"""JSON that names pictures: a file of it, read as a page that holds nothing else, and what scripts were answered."""

from collections.abc import Iterable, Iterator
from urllib.parse import quote

from pickcrate.addresses.url import last_segment
from pickcrate.media import essence
from pickcrate.read.data.datafolders import in_folders
from pickcrate.read.reading import StoredBody
from pickcrate.text.lazyre import lazy

DATA_ENDINGS = (".json", ".geojson", ".jsonl", ".ndjson", ".csv", ".tsv", ".xml", ".kml")
MOST_OF_A_LIST, MOST_LISTS = 4_000_000, 20
"""Bytes of a file that says what others beside it are, and how many may do so"""

DATA_FIELDS = {"content-type": "text/html; charset=utf-8"}

_DOCTYPE, _BEGINS, _ENDS = "<!doctype html>", "<script type=application/json>", "</script>"
_LARGEST, _MOST = 4_000_000, 16_000_000
"""Bytes of one answer, and of all of a page."""

_SHORTEST_NAME = 5
_STEP = lazy(rb"[^/\"\\?#\n]+")
_OPENS_DATA = (b"{", b"[")
_PLAIN_TYPES = frozenset(("text/plain", "application/octet-stream", ""))
"""what servers call data that they know nothing of"""


def as_page(octets: bytes) -> bytes:
    """Return a page that holds the data and nothing else."""
    return _DOCTYPE.encode() + _as_block(octets)


def as_script_page(scripts: Iterable[str]) -> bytes:
    """Return a page that holds scripts as one, so that what is constant in one is known in the others."""
    text = "\n".join(scripts).replace("</", "<\\/")  # which says the same in a string
    return f"{_DOCTYPE}<script>{text}{_ENDS}".encode("utf-8", "replace")


def data_of(text: str) -> str | None:
    """Return the JSON text of a page that holds data and nothing else, as ``as_page`` makes them; None of others."""
    before = _DOCTYPE + _BEGINS
    return text[len(before) : -len(_ENDS)] if text.startswith(before) else None


def data_blocks(bodies: Iterable[StoredBody], pictures: Iterable[str]) -> bytes:
    """Return the markup of a data block for each answer that names one of the pictures which a page has loaded.

    It says what they are called, and where the originals are. What else scripts are answered is of no picture:
    settings, counts, words of their language.
    """
    names = _names(pictures)
    return b"".join(_as_block(octets) for octets in _data_in(bodies) if _names_any(octets, names))


def _as_block(octets: bytes) -> bytes:
    """Return the element that holds the data in a page (HTML standard, 4.12.1: data blocks)."""
    # "<" cannot end the block where it is escaped, which JSON allows in its texts (RFC 8259, 7).
    plain = in_folders(octets.removeprefix(b"\xef\xbb\xbf")).replace(b"<", b"\\u003c")
    return _BEGINS.encode() + plain + _ENDS.encode()


def _data_in(bodies: Iterable[StoredBody]) -> Iterator[bytes]:
    """Yield what is JSON, whatever its server calls it, as far as there is room for it."""
    room = _MOST
    for body in bodies:
        media_type = essence(body.media_type)
        if not (media_type.endswith("json") or media_type in _PLAIN_TYPES):
            continue
        octets = body.load()
        if len(octets) > _LARGEST or not octets.lstrip().startswith(_OPENS_DATA):
            continue
        room -= len(octets)
        if room < 0:
            return
        yield octets


def _names_any(octets: bytes, names: frozenset[bytes]) -> bool:
    """Tell whether data has one of the names, as the last step of an address or as a text; in linear time."""
    return any(match[0] in names for match in _STEP.finditer(octets))


def _names(pictures: Iterable[str]) -> frozenset[bytes]:
    """Return what pictures are called, as data may have it: as a server has the name, or as an address has it."""
    names = dict.fromkeys(form for name in map(last_segment, pictures) for form in (name, quote(name, safe="%")))
    return frozenset(name.encode() for name in names if len(name) >= _SHORTEST_NAME)
