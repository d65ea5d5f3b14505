"""Digitised works as libraries describe them: METS 1.12 and 2. Each part of a work is one picture in several sizes.

The physical structural map has the parts in their order; what a file is used for says how large it is. The logical one
has the chapters, which the structural links lay over the parts.
"""

import itertools
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from pickcrate.addresses.ranks import LARGEST, MEDIUM, SMALL, UNSAID, words_in
from pickcrate.addresses.url import absolute, image_type
from pickcrate.media import by_media_type
from pickcrate.read.data.xmltree import local_name, within, xml_root
from pickcrate.read.reading import MOST_REFERENCES, Reading
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import Item, ItemForm, NamedBy
from pickcrate.values.reference import Role, Words, fold

if TYPE_CHECKING:
    from lxml import etree

_MOST_MAPS, _MOST_AROUND = 20, 5
"""structural maps that are looked at, and groups around a file"""

_XLINK = "{http://www.w3.org/1999/xlink}"
_USES = {
    SMALL: "thumb thumbs thumbnail thumbnails min preview icon teaser small",
    MEDIUM: "default presentation view reference service screen web medium normal access",
    LARGEST: "max master original archive archival preservation full highres large print",
}
_RANK_OF_USE = {word: rank for rank, words in _USES.items() for word in words.split()}
"""how large the files of a group are, by what that is used for"""


class _File(Struct, frozen=True):
    """A file of the work: its address, its media type as it is stated, and how large its group says that it is."""

    url: str
    media_type: str
    rank: int


def read_mets(octets: bytes, address: str) -> Reading:
    """Return the pictures of the parts of a work, each with its label and its chapter; none if it has no such parts.

    The document may be broken; what goes beyond a bound of its parser is left out.
    """
    reading = Reading()
    root = xml_root(octets)
    if root is None:
        return reading
    reading.title = _title(root)
    files = _files(root, address)
    chapters = _chapters(root)
    for place, part in enumerate(_parts(root), 1):
        if len(reading.references) >= MOST_REFERENCES:
            reading.flaws.append(Flaw("mets", "the record holds too much: the rest of it is left out"))
            break
        versions = {file.url: file for name in _named_by(part) if (file := files.get(name)) is not None}
        chapter = chapters.get(part.get("ID", ""), "")
        _add(reading, list(versions.values()), address, _item(part, place, reading.title), chapter)
    return reading


def _add(reading: Reading, versions: list[_File], address: str, item: Item, chapter: str) -> None:
    """Add one picture, the smallest of its files in front."""
    words = Words(alt=item.title, heading=chapter or reading.title)
    cluster: int | None = None
    for file in sorted(versions, key=lambda version: version.rank):
        known: dict[str, Any] = {"cluster": cluster} if cluster is not None else {}
        role = Role.SHOWN if cluster is None else Role.LAZY
        known |= {"role": role, "rank": file.rank, "media_type": file.media_type, "attribute": "FLocat"}
        added = reading.add_picture(file.url, FoundIn.METS, page=address, words=words, item=item, **known)
        cluster = added if cluster is None else cluster


def _item(part: "etree._Element", place: int, work: str) -> Item:
    """Return what a part is called: its label, or the number that stands on it, as a person would say it."""
    label, number = fold(part.get("LABEL", "")), fold(part.get("ORDERLABEL", ""))
    title = label or (f"{part.get('TYPE') or 'part'} {number}" if any(map(str.isalnum, number)) else "")
    columns = (("ORDERLABEL", number),) if number else ()
    return Item(title, "", columns, ItemForm.PART, NamedBy.LABEL, place, work)


def _title(root: "etree._Element") -> str:
    """Return what the work is called: by the record, or by the first title in its descriptions."""
    record = next((element for element in within(root, "mets")), root)
    said = (record.get("LABEL", ""), *("".join(map(str, title.itertext())) for title in within(root, "title")))
    return next(filter(None, map(fold, said)), "")


def _files(root: "etree._Element", address: str) -> dict[str, _File]:
    """Return the pictures among the files of a work, by their identifiers."""
    files: dict[str, _File] = {}
    for element in within(root, "file"):
        location = next(within(element, "FLocat"), None)
        raw = (location.get(f"{_XLINK}href") or location.get("LOCREF") or "") if location is not None else ""
        url = absolute(raw.strip(), address) if raw.strip() else None
        stated = element.get("MIMETYPE", "").strip().lower()
        is_picture = by_media_type(stated) is not None if stated else url is not None and image_type(url) is not None
        if url is not None and is_picture:
            files.setdefault(element.get("ID", ""), _File(url, stated, _rank(element)))
    return files


def _rank(file: "etree._Element") -> int:
    """Return how large a file is by its use, or by that of a group around it (METS 1.12: ``fileGrp``, ``USE``)."""
    groups = itertools.islice(file.iterancestors(), _MOST_AROUND)
    for one in (file, *(group for group in groups if local_name(group) == "fileGrp")):
        ranks = [_RANK_OF_USE[word] for word in words_in(one.get("USE", "")) if word in _RANK_OF_USE]
        if ranks:
            return min(ranks)
    return UNSAID


def _parts(root: "etree._Element") -> Iterator["etree._Element"]:
    """Yield the parts of a work that files are of: of its physical map, or of the first that has any."""
    maps = sorted(
        itertools.islice(within(root, "structMap"), _MOST_MAPS),
        key=lambda one: one.get("TYPE", "").lower() != "physical",
    )
    for structure in maps:
        parts = [part for part in within(structure, "div") if next(_named_by(part), None) is not None]
        if parts:
            yield from parts
            return


def _named_by(part: "etree._Element") -> Iterator[str]:
    """Yield the identifiers of the files of a part itself, and not of the parts in it."""
    for pointer in part:
        if local_name(pointer) == "fptr":
            named = (pointer.get("FILEID"), *(area.get("FILEID") for area in within(pointer, "area")))
            yield from filter(None, named)


def _chapters(root: "etree._Element") -> dict[str, str]:
    """Return the labels of the innermost chapters that parts are in, by the identifiers of the parts."""
    labels = {div.get("ID", ""): fold(div.get("LABEL", "")) for div in within(root, "div") if div.get("LABEL")}
    chapters: dict[str, str] = {}
    for link in within(root, "smLink"):
        label = labels.get(link.get(f"{_XLINK}from", ""), "")
        if label:
            chapters[link.get(f"{_XLINK}to", "")] = label
    return chapters
