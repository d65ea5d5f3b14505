"""What institutions publish of their pictures: IIIF manifests, collections, and the description of one image.

Presentation API 2.1 and 3.0: a canvas is an item with its label, and each picture painted on it is one picture. Image
API 2.1 and 3.0: the largest that its server gives is asked for by ``max`` (4.2), or as version 2.0 has it, ``full``.
"""

from collections.abc import Iterator
from typing import Any

from pickcrate.addresses.url import absolute, is_web
from pickcrate.hashes import sha256
from pickcrate.read.data.iiifimage import image_service, is_image_service, is_third
from pickcrate.read.reading import MOST_REFERENCES, Reading
from pickcrate.values.claims import Aspect, Claim, Claimant, Rights
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import Item, ItemForm, NamedBy
from pickcrate.values.reference import Role, Words, fold

_NAMED, _WHOLE = 2, 3
"""How large a version is by what names it: the manifest's own address, and all that the server has."""

_NOTHING_SAID = Rights()
_MOST_PAIRS = 60
_MOST_PARTS = 20_000
"""Parts of one list that are looked at."""


def read_iiif(octets: bytes, address: str) -> Reading:
    """Return the pictures that a manifest or an image's description names, or what a collection leads to."""
    reading = Reading()
    told = reading.json_object(octets, "manifest")
    if told is None:
        return reading
    if is_image_service(told):
        tiling = image_service(told, address, sha256(octets).hexdigest())
        if tiling is None:
            reading.flaws.append(Flaw("iiif", "the description does not say how large its picture is"))
        else:
            reading.add_tiled(tiling, FoundIn.IIIF, page=address, attribute="service")
        return reading
    reading.title = _text(told.get("label"))
    reading.further = [url for part in _members(told) if (url := _address(part, address)) is not None]
    said = (*_pairs(told.get("metadata")), *_rights(told))
    rights = Rights(claims=tuple(_claims(told)))
    for place, canvas in enumerate(_canvases(told), 1):
        label = _text(canvas.get("label"))
        columns = (*_pairs(canvas.get("metadata")), *said)[:_MOST_PAIRS]
        item = Item(label, "", columns, ItemForm.CANVAS, NamedBy.LABEL, place, reading.title)
        for resource in _painted(canvas):
            if len(reading.references) >= MOST_REFERENCES:
                reading.flaws.append(Flaw("iiif", "the manifest holds too much: the rest of it is left out"))
                return reading
            url = _add_image(reading, resource, address, item, reading.title)
            if url and rights != _NOTHING_SAID:
                reading.rights[url] = rights
    if not reading.references and not reading.further:
        reading.flaws.append(Flaw("iiif", "the manifest names no picture"))
    return reading


def _add_image(reading: Reading, resource: dict[str, Any], address: str, item: Item, heading: str) -> str:
    """Add one picture: the address that the manifest has for it, and the largest that its image service gives.

    Return the last of its addresses; an empty text if it has none.
    """
    service = next(filter(is_image_service, _dicts(resource.get("service"))), None)
    versions: list[tuple[str, int]] = []
    width = resource.get("width")
    if (shown := _address(resource, address)) is not None:
        versions.append((shown, _NAMED))
    if service is not None and (root := _address(service, address)) is not None:
        root = root.rstrip("/")
        # What is deprecated in one version is unknown to the other: the first bytes tell which it is.
        names = ("max", "full") if is_third(service) else ("full", "max")
        versions += [(f"{root}/full/{name}/0/default.jpg", _WHOLE) for name in names]
    versions = list(dict(reversed(versions)).items())[::-1]
    words = Words(alt=item.title, heading=heading)
    cluster: int | None = None
    for place, (url, rank) in enumerate(versions):
        role = Role.SHOWN if place == 0 else Role.LAZY
        attribute = "body" if rank == _NAMED else "service"
        known: dict[str, Any] = {"words": words, "item": item, "role": role, "rank": rank, "attribute": attribute}
        if isinstance(width, int) and width > 0 and rank == _WHOLE:  # as it is stored: what comes may be less
            known["width"] = width
        if cluster is not None:
            known["cluster"] = cluster
        added = reading.add_picture(url, FoundIn.IIIF, page=address, **known)
        cluster = added if cluster is None else cluster
    return versions[-1][0] if versions else ""


def _canvases(told: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Yield the canvases of a manifest: its own (3.0, 5.3), or those of its first sequence (2.1, 5.2)."""
    if _kind(told) == "Canvas":
        yield told
    for part in _dicts(told.get("items")):
        if _kind(part) == "Canvas":
            yield part
    for sequence in _dicts(told.get("sequences"))[:1]:
        yield from _dicts(sequence.get("canvases"))


def _painted(canvas: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Yield the images that are painted on a canvas; of a choice the first, which is what is shown."""
    bodies = [image.get("resource") for image in _dicts(canvas.get("images"))]
    for page in _dicts(canvas.get("items")):
        bodies += [note.get("body") for note in _dicts(page.get("items"))]
    for body in bodies:
        for one in _dicts(body):
            choice = _dicts(one.get("default")) or _dicts(one.get("items")) or _dicts(one.get("item"))
            image = choice[0] if choice and _kind(one) in {"Choice", "oa:Choice"} else one
            if _kind(image) in {"Image", "dctypes:Image", ""}:
                yield image


def _members(told: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """Yield the manifests and collections that a collection holds."""
    for name in ("manifests", "collections", "members", "items"):
        for part in _dicts(told.get(name)):
            if name != "items" or _kind(part) in {"Manifest", "Collection"}:
                yield part


def _rights(told: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """Yield what a manifest says of its use, as it is to be shown (3.0, 3.1 and 2.1, 3.3)."""
    for required in _dicts(told.get("requiredStatement")):
        yield from _pairs([required])
    for name, label in (("attribution", "Attribution"), ("rights", "Rights"), ("license", "Licence")):
        if text := _text(told.get(name)):
            yield label, text
    for provider in _dicts(told.get("provider")):
        if text := _text(provider.get("label")):
            yield "Provider", text


def _claims(told: dict[str, Any]) -> Iterator[Claim]:
    """Yield what a manifest says of the use of its pictures."""
    for aspect, said in ((Aspect.CREDIT, _credit(told)), (Aspect.LICENCE, _licence(told))):
        if said:
            yield Claim(aspect, said, Claimant.MANIFEST)


def _credit(told: dict[str, Any]) -> str:
    """Return who is to be named with the pictures."""
    required = next((_text(statement.get("value")) for statement in _dicts(told.get("requiredStatement"))), "")
    return required or _text(told.get("attribution"))


def _licence(told: dict[str, Any]) -> str:
    said = _text(told.get("rights")) or _text(told.get("license"))
    return said if is_web(said) else ""


def _pairs(metadata: object) -> Iterator[tuple[str, str]]:
    for pair in _dicts(metadata)[:_MOST_PAIRS]:
        label, value = _text(pair.get("label")), _text(pair.get("value"))
        if label and value:
            yield label, value


def _kind(told: dict[str, Any]) -> str:
    """Return the type, without the prefix that version 2 has: ``sc:Canvas``."""
    kind = told.get("type") or told.get("@type")
    return str(kind).removeprefix("sc:") if isinstance(kind, str) else ""


def _address(told: dict[str, Any], base: str) -> str | None:
    raw = told.get("id") or told.get("@id")
    url = absolute(raw, base) if isinstance(raw, str) else None
    return url if url is not None and (is_web(url) or url.startswith("file:")) else None


def _dicts(value: object) -> list[dict[str, Any]]:
    """Return the objects in a list; of a single object that alone."""
    values = value[:_MOST_PARTS] if isinstance(value, list) else [value]
    return [one for one in values if isinstance(one, dict)]


def _text(value: object, depth: int = 0) -> str:
    """Return a text in the first language that it is given in (3.0, 4; 2.1, 4.3)."""
    if isinstance(value, str):
        return fold(value)
    if depth > 4:
        return ""
    if isinstance(value, list):
        texts = (_text(one, depth + 1) for one in value[:_MOST_PAIRS])
        return fold("; ".join(filter(None, texts)) if depth else next(filter(None, texts), ""))
    if isinstance(value, dict):
        if "@value" in value:
            return _text(value["@value"], depth + 1)
        chosen = next((value[code] for code in ("none", "en") if code in value), next(iter(value.values()), ""))
        return _text(chosen, depth + 1)
    return ""
