"""Croissant 1.0 (MLCommons): a package as a data set, its pictures a FileSet, its list a RecordSet."""

import csv
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from pickcrate.crate.entry import Entry
from pickcrate.sealing.contents import LIST, Hashes, Statement, hashes_of, media_type, read_object

METADATA = "croissant.json"
_CONFORMS_TO = "http://mlcommons.org/croissant/1.0"
_OWN = (
    "citeAs column equivalentProperty extract field fileProperty fileObject fileSet format includes isLiveDataset "
    "jsonPath key md5 parentField path recordSet references regex repeated replace samplingRate separator source "
    "subField transform"
).split()
# The context that the format prescribes (1.0, appendix 1), whose own terms are all spelled alike.
_CONTEXT: dict[str, Any] = {
    "@language": "en",
    "@vocab": "https://schema.org/",
    "conformsTo": "dct:conformsTo",
    "cr": "http://mlcommons.org/croissant/",
    "rai": "http://mlcommons.org/croissant/RAI/",
    "data": {"@id": "cr:data", "@type": "@json"},
    "dataType": {"@id": "cr:dataType", "@type": "@vocab"},
    "dct": "http://purl.org/dc/terms/",
    "examples": {"@id": "cr:examples", "@type": "@json"},
    "sc": "https://schema.org/",
    **{name: f"cr:{name}" for name in _OWN},
}
_DECODED = frozenset(("jpeg", "png", "gif", "webp", "bmp", "tiff"))
"""types that a loader of images decodes"""

_OWN_LICENCES = "Each picture has its own: see the field licence of each record."
_FIELDS = {
    "file": ("sc:Text", "The file of the picture"),
    "url": ("sc:URL", "The address that it was fetched from"),
    "page": ("sc:URL", "The page that it was found on"),
    "alt": ("sc:Text", "Its alternative text there"),
    "caption": ("sc:Text", "Its caption there"),
    "item": ("sc:Text", "The item of the page that it belongs to"),
    "width": ("sc:Integer", "Pixels"),
    "height": ("sc:Integer", "Pixels"),
    "bytes": ("sc:Integer", "The size of the file"),
    "type": ("sc:Text", "The type of the file"),
    "sha256": ("sc:Text", "The hash of the file, in hexadecimal"),
    "credit": ("sc:Text", "Who is to be named, as far as it is stated"),
    "licence": ("sc:Text", "The licence, by its SPDX name where it is a known one, as far as it is stated"),
    "licence_url": ("sc:URL", "The address of the licence"),
}


def _of_file(name: str, kind: str, what: str) -> dict[str, Any]:
    return {
        "@type": "cr:Field",
        "@id": f"image/{name}",
        "name": name,
        "description": f"The {name} of a file",
        "dataType": kind,
        "source": {"fileSet": {"@id": "pictures"}, "extract": {"fileProperty": what}},
    }


_IMAGES: dict[str, Any] = {
    "@type": "cr:RecordSet",
    "@id": "image",
    "name": "image",
    "description": "The files: each path in the folder, and the picture itself",
    "field": [_of_file("path", "sc:Text", "fullpath"), _of_file("content", "sc:ImageObject", "content")],
}


def metadata(pictures: list[Entry], listed: Hashes, said: Statement) -> dict[str, Any]:
    """Return the metadata document of a folder with these pictures and their list."""
    decoded = [entry for entry in pictures if entry.type in _DECODED]
    others = [entry for entry in pictures if entry.type not in _DECODED]
    file_sets = [
        _file_set(name, words, entries)
        for name, words, entries in (("pictures", "The pictures", decoded), ("drawings", "Other formats", others))
        if entries
    ]
    return {
        "@context": _CONTEXT,
        "@type": "sc:Dataset",
        "conformsTo": _CONFORMS_TO,
        "name": said.title,
        "description": said.description,
        "url": next((entry.page for entry in pictures if entry.page.startswith("http")), "https://example.org/"),
        "license": said.licence_url or said.licence or _OWN_LICENCES,
        "datePublished": said.today.isoformat(),
        "version": "1.0.0",
        "citeAs": ". ".join(filter(None, (said.title, said.publisher, said.today.isoformat()[:4]))),
        **({"creator": {"@type": "sc:Organization", "name": said.publisher}} if said.publisher else {}),
        "distribution": [
            {
                "@type": "cr:FileObject",
                "@id": "list",
                "name": "list",
                "description": "The list of the pictures, a row each",
                "contentUrl": listed.path,
                "contentSize": f"{listed.size} B",
                "encodingFormat": "text/csv",
                "sha256": listed.sha256,
            },
            *file_sets,
        ],
        "recordSet": [
            {
                "@type": "cr:RecordSet",
                "@id": "picture",
                "name": "picture",
                "description": "A record a picture",
                "key": {"@id": "picture/file"},
                "field": [_field(name, kind, words) for name, (kind, words) in _FIELDS.items()],
            },
            *([_IMAGES] if decoded else []),
        ],
    }


def _file_set(name: str, words: str, entries: list[Entry]) -> dict[str, Any]:
    kinds = sorted({media_type(entry) for entry in entries})
    patterns = sorted({f"*.{entry.file.rpartition('.')[2]}" for entry in entries})
    return {
        "@type": "cr:FileSet",
        "@id": name,
        "name": name,
        "description": words,
        "encodingFormat": kinds[0] if len(kinds) == 1 else kinds,
        "includes": patterns[0] if len(patterns) == 1 else patterns,
    }


def _field(name: str, kind: str, words: str) -> dict[str, Any]:
    return {
        "@type": "cr:Field",
        "@id": f"picture/{name}",
        "name": name,
        "description": words,
        "dataType": kind,
        "source": {"fileObject": {"@id": "list"}, "extract": {"column": name}},
    }


def check_croissant(root: Path) -> Iterator[str]:
    """Yield what is wrong with the list and the pictures of a package. Raises OSError, ValueError, csv.Error."""
    parts = read_object(root / METADATA).get("distribution")
    files = [part for part in parts if isinstance(part, dict)] if isinstance(parts, list) else []
    listed = next((part for part in files if part.get("@id") == "list"), None)
    if listed is None:
        yield f"{METADATA} does not say where the list is"
        return
    path = root / LIST
    if not path.is_file():
        yield f"{LIST} is missing"
        return
    if hashes_of(path, LIST).sha256 != listed.get("sha256"):
        yield f"{LIST} is not what {METADATA} says"
    with path.open(encoding="utf-8", newline="") as file:
        for row in csv.DictReader(file):
            picture = root / str(row.get("file", ""))
            if not picture.resolve().is_relative_to(root.resolve()) or not picture.is_file():
                yield f"{row.get('file')} is missing"
            elif hashes_of(picture, "").sha256 != row.get("sha256"):
                yield f"{row.get('file')} is not what {LIST} says"
