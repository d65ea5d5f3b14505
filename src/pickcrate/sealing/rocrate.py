"""RO-Crate 1.2: what a package is, as linked data beside its files; and whether the files are what it says."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

from pickcrate.crate.entry import Entry
from pickcrate.sealing.contents import LIST, Hashes, Statement, hashes_of, media_type, read_object
from pickcrate.version import __version__

METADATA = "ro-crate-metadata.json"
_VERSION = "https://w3id.org/ro/crate/1.2"
_OWN_LICENCES = "#licences"


def metadata(pictures: list[Entry], files: list[Hashes], listed: Hashes, said: Statement) -> dict[str, Any]:
    """Return the metadata document: ``files`` are the pictures' in their order, ``listed`` is the list."""
    pages = dict.fromkeys(entry.page for entry in pictures if entry.page.startswith("http"))
    licences = {entry.licence_url: entry.licence for entry in pictures if entry.licence_url}
    parts = [{"@id": _address(one.path)} for one in (*files, listed)]
    publisher = {"@id": "#publisher", "@type": "Organization", "name": said.publisher}
    root = {
        "@id": "./",
        "@type": "Dataset",
        "name": said.title,
        "description": said.description,
        "datePublished": said.today.isoformat(),
        **({"publisher": {"@id": "#publisher"}} if said.publisher else {}),
        "license": {"@id": said.licence_url or _OWN_LICENCES},
        "hasPart": _one_or_all(parts),
        "mentions": {"@id": "#collecting"},
    }
    own = {
        "@id": _OWN_LICENCES,
        "@type": "CreativeWork",
        "name": "Each picture has its own",
        "description": "The licence of each picture is stated with it, as far as it is known. None holds for all.",
    }
    graph: list[dict[str, Any]] = [
        {"@id": METADATA, "@type": "CreativeWork", "conformsTo": {"@id": _VERSION}, "about": {"@id": "./"}},
        root,
        *([publisher] if said.publisher else []),
        *([] if said.licence_url else [own]),
        *({"@id": url, "@type": "CreativeWork", "name": name or url} for url, name in licences.items()),
        *({"@id": page, "@type": "WebPage", "name": page} for page in pages),
        *(_picture(entry, one) for entry, one in zip(pictures, files, strict=True)),
        _file(listed, "text/csv", "The list of the pictures")
        | {"description": "A row a picture, with all that is known of it."},
        *_collecting(said, [*pages]),
    ]
    return {"@context": f"{_VERSION}/context", "@graph": graph}


def _collecting(said: Statement, pages: list[str]) -> Iterator[dict[str, Any]]:
    """Yield how the pictures came together: an action, and the program that did it."""
    software = "#pick-crate"
    # A SoftwareApplication must have an address of its own, which this one has not.
    yield {"@id": software, "@type": "CreativeWork", "name": "Pick Crate", "version": __version__}
    yield {
        "@id": "#collecting",
        "@type": "CreateAction",
        "name": "Collecting the pictures",
        "instrument": {"@id": software},
        **({"object": _one_or_all([{"@id": page} for page in pages])} if pages else {}),
        "result": {"@id": "./"},
        **({"endTime": said.fetched} if said.fetched else {}),
    }


def _picture(entry: Entry, one: Hashes) -> dict[str, Any]:
    known = _file(one, media_type(entry), entry.item or entry.alt or entry.caption or entry.file)
    known["@type"] = ["File", "ImageObject"]
    if entry.url.startswith("http"):
        known["contentUrl"] = entry.url
    if entry.page.startswith("http"):
        known["isPartOf"] = {"@id": entry.page}
    if entry.credit:
        known["creditText"] = entry.credit
    if entry.licence_url or entry.licence:
        known["license"] = {"@id": entry.licence_url} if entry.licence_url else entry.licence
    if entry.terms_url:
        known["acquireLicensePage"] = entry.terms_url
    known["description"] = entry.caption or entry.alt or f"A picture found on {entry.page or entry.url}"
    for name in ("width", "height"):
        if (pixels := getattr(entry, name)) is not None:
            known[name] = pixels
    if entry.fetched_at:
        known["sdDatePublished"] = entry.fetched_at
    return known


def _file(one: Hashes, kind: str, name: str) -> dict[str, Any]:
    return {
        "@id": _address(one.path),
        "@type": "File",
        "name": name,
        "encodingFormat": kind,
        "contentSize": str(one.size),
        "sha256": one.sha256,
    }


def _one_or_all(values: list[dict[str, str]]) -> Any:
    """Return several values, or the one that there is (1.2: a single value is no array)."""
    return values[0] if len(values) == 1 else values


def _address(path: str) -> str:
    """Return a path as a relative URI (1.2, data entities: percent-encoded)."""
    return quote(path, safe="/~!$&'()*+,;=@")


def check_rocrate(root: Path) -> Iterator[str]:
    """Yield what is wrong with the files that a metadata document describes. Raises OSError, ValueError."""
    graph = read_object(root / METADATA).get("@graph")
    if not isinstance(graph, list):
        raise ValueError(f"{METADATA} has no graph")  # noqa: TRY004 (of its text, not of a type)
    entities = {str(node.get("@id")): node for node in graph if isinstance(node, dict)}
    parts = entities.get("./", {}).get("hasPart", [])
    for part in parts if isinstance(parts, list) else [parts]:
        identity = str(part.get("@id")) if isinstance(part, dict) else ""
        node = entities.get(identity)
        if node is None:
            yield f"{identity or 'what has no @id'} is a part that is not described"
            continue
        file = root / unquote(identity)
        if not file.resolve().is_relative_to(root.resolve()):
            yield f"{identity} leads out of the package"
        elif not file.is_file():
            yield f"{unquote(identity)} is missing"
        elif isinstance(node.get("sha256"), str) and hashes_of(file, identity).sha256 != node["sha256"].lower():
            yield f"{unquote(identity)} is not what {METADATA} says"
    listed = set(map(unquote, entities))
    if LIST not in listed and (root / LIST).is_file():
        yield f"{LIST} is not described"
