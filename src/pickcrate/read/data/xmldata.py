"""A file of data in XML: read as the same data in JSON would be.

Records of collections (LIDO, TEI, EDM), exports of shops and programs: there are as many names in them as there
are programs, so it is the values that decide, as in any data.
"""

import json
from collections.abc import Callable
from itertools import islice
from typing import TYPE_CHECKING, Any
from urllib.parse import quote, urlencode, urlsplit

from pickcrate.addresses.ranks import names_a_version
from pickcrate.addresses.url import is_picture_path
from pickcrate.media import by_media_type, states_a_type
from pickcrate.read.data.xmltree import local, xml_root

if TYPE_CHECKING:
    from lxml import etree

_MOST_ELEMENTS = 500_000
_ADDRESSES = frozenset(("href", "url", "uri", "src", "resource", "about"))
_BUCKET, _CONTAINER = "ListBucketResult", "EnumerationResults"
_OBJECTS = "Contents"
_AS_WRITTEN = "/ !$&'()*+,;=:@~"
"""what may stand in a path as it is; a space is taken as such in data"""

_PICTURE = "imageUrl"
"""what an address is called whose element says that it is an image's: it needs no extension then"""


def as_json(octets: bytes, address: str = "") -> bytes:
    """Return the data of an XML document as JSON: an element is an object of its attributes and its children.

    Names go without their namespaces. A list of objects came from ``address``. The document may be broken; what goes
    beyond a bound of its parser is left out.
    """
    root = xml_root(octets)
    value = _Reading().value(root, "", is_image=False) if root is not None else {}
    if root is not None and isinstance(value, dict):  # no text alone
        kind = local(root.tag)
        if (goes_on := _GOES_ON.get(kind)) and (further := goes_on(root)):
            value["next"] = further
        if kind in _OF_OBJECTS:
            value[_OBJECTS] = _OF_OBJECTS[kind](value, address)
    return json.dumps(value, ensure_ascii=False).encode("utf-8", "replace")


def _in_bucket(listed: dict[str, Any], address: str) -> list[Any]:
    """Return the objects of a bucket, each with where it is as seen from the address of their list.

    The bucket is in the host's name, or the last step of the path (S3 API: virtual-hosted and path-style requests).
    """
    name = str(listed.pop("Name", ""))
    for key in ("Marker", "NextMarker", "StartAfter"):  # the names of objects, where a list begins or goes on
        listed.pop(key, None)
    folder = f"{name}/" if name and urlsplit(address).path.rpartition("/")[2] == name else ""
    return [
        one | {"Key": f"./{folder}{quote(str(one['Key']), safe=_AS_WRITTEN)}"}
        for one in _several(listed.pop(_OBJECTS, []))
        if "Key" in one
    ]


def _in_container(listed: dict[str, Any], _: str) -> list[Any]:
    """Return the objects of a container (List Blobs of a blob service), each with where it is."""
    blobs = listed.pop("Blobs", None)
    root = str(listed.get("ServiceEndpoint", "")).rstrip("/")
    folder = f"{root}/{listed.get('ContainerName', '')}".rstrip("/")
    return [
        one | {"Name": "", "Url": f"{folder}/{quote(str(one['Name']))}"}
        for one in _several(blobs.get("Blob", []) if isinstance(blobs, dict) else [])
        if "Name" in one
    ]


def _several(value: Any) -> list[dict[str, Any]]:
    """Return what stands once or several times in a document as a list of objects."""
    return [one for one in (value if isinstance(value, list) else [value]) if isinstance(one, dict)]


def _of_harvest(root: "etree._Element") -> str:
    """Return where an answer of OAI-PMH 2.0 goes on (3.5, flow control), relative to its address; empty if it ends."""
    token = next(root.iter("{*}resumptionToken"), None)
    verb = token.getparent() if token is not None else None
    if token is None or verb is None or not (token.text or "").strip():
        return ""
    return f"?verb={local(verb.tag)}&resumptionToken={quote((token.text or '').strip(), safe='')}"


def _of_bucket(root: "etree._Element") -> str:
    """Return where the list of a bucket's objects goes on, relative to its address; empty if it ends.

    S3 API, ListObjectsV2 and ListObjects: by a token, or behind the last object.
    """
    said = {local(child.tag): (child.text or "").strip() for child in root if isinstance(child.tag, str)}
    keys = [(key.text or "").strip() for key in root.iterfind("{*}Contents/{*}Key")]
    if said.get("IsTruncated", "").lower() != "true":
        return ""
    if token := said.get("NextContinuationToken"):
        asked = {"list-type": "2", "continuation-token": token}
    else:
        asked = {"marker": said.get("NextMarker") or (keys[-1] if keys else "")}
    asked |= {name.lower(): said[name] for name in ("Prefix", "Delimiter") if said.get(name)}
    return f"?{urlencode(asked, quote_via=quote)}" if all(asked.values()) else ""


def _of_container(root: "etree._Element") -> str:
    """Return where the list of a container's objects goes on, relative to its address; empty if it ends."""
    said = {local(child.tag): (child.text or "").strip() for child in root if isinstance(child.tag, str)}
    if not said.get("NextMarker"):
        return ""
    asked = {"restype": "container", "comp": "list", "marker": said["NextMarker"]}
    asked |= {name.lower(): said[name] for name in ("Prefix", "Delimiter", "MaxResults") if said.get(name)}
    return f"?{urlencode(asked, quote_via=quote)}"


_GOES_ON: dict[str, Callable[["etree._Element"], str]] = {
    "OAI-PMH": _of_harvest,
    _BUCKET: _of_bucket,
    _CONTAINER: _of_container,
}
"""by the names of the root elements of answers"""

_OF_OBJECTS: dict[str, Callable[[dict[str, Any], str], list[Any]]] = {_BUCKET: _in_bucket, _CONTAINER: _in_container}


_FIELDS = frozenset(
    "field str int date property entry attribute attr dcvalue param parameter value string metadata column".split()
)
"""what elements are called whose attribute says which field they are"""

_NAMING_FIELDS = ("name", "key", "element", "label")
_BINDING = "binding"
"""what has the value of a variable in an answer to a query (SPARQL 1.1 Query Results XML Format, 2.3.1)"""

_EMPHASIS = frozenset("b i u em strong bold italic sup sub sc emph emphasis hi".split())
"""elements that only say how words are to look (JATS 1.3, TEI P5, DocBook 5)"""

_MOST_IN_PROSE = 100
"""elements in a paragraph that is one text"""

_MARC_FIELD, _MARC_PART, _MARC_TITLE = "datafield", "subfield", "245"
_MARC_NAMES = ("a", "b")
"""the parts of a title that name the thing, and what stands behind them (MARC 21, 245: Title Statement)"""


def _called(element: "etree._Element") -> str:
    """Return which property an element is of the one around it: by its tag, or by the attribute that names the field.

    A word for a size is a part of that: ``<image size="small">`` is ``image small``.
    """
    name = local(element.tag)
    if not element.attrib:
        return name
    attributes = {local(key): str(text) for key, text in element.attrib.items()}
    if name in {_MARC_FIELD, _MARC_PART}:
        code = attributes.get("tag") or attributes.get("code") or name
        return "title" if code == _MARC_TITLE else code
    if name == _BINDING:
        return attributes.get("name") or name
    if len(element):
        return name
    if name.lower() in _FIELDS:
        return next((said for key in _NAMING_FIELDS if (said := attributes.get(key))), name)
    if not is_picture_path((element.text or "").strip()):
        return name
    words = (said.partition(" ")[0] for said in attributes.values())
    return next((f"{name} {word}" for word in words if word.isalpha() and names_a_version(word)), name)


class _Reading:
    """The reading of one document: its parser bounds the depth, we the number of elements."""

    def __init__(self) -> None:
        self._left = _MOST_ELEMENTS

    def value(self, element: "etree._Element", name: str, *, is_image: bool) -> Any:
        """Return what an element holds, called ``name``; ``is_image`` says that what is around it is of an image."""
        self._left -= 1
        attributes = {local(key): str(text) for key, text in element.attrib.items()}
        is_image |= any(states_a_type(key) and _is_image_type(text) for key, text in attributes.items())
        text = (element.text or "").strip()
        if text and not len(element) and _ADDRESSES.isdisjoint(attributes):
            return _said(text, attributes) if is_image else text
        if len(element) and not attributes and (prose := _prose(element)):
            return prose
        told: dict[str, Any] = {
            _PICTURE if is_image and key in _ADDRESSES else key: stated for key, stated in attributes.items()
        }
        for child in element:
            if self._left > 0 and isinstance(child.tag, str):
                self._add(told, child, is_image=is_image)
        if name == "title" and local(element.tag) == _MARC_FIELD:
            return " ".join(str(told[part]) for part in _MARC_NAMES if part in told).rstrip(" /:;,.")
        if text:
            told.setdefault(name or "text", text)
        return told or text

    def _add(self, told: dict[str, Any], child: "etree._Element", *, is_image: bool) -> None:
        """Add a child to what its parent holds; of several that are called alike a list."""
        name = _called(child)
        inner = self.value(child, name, is_image=is_image)
        if name not in told:
            told[name] = inner
        elif isinstance(told[name], list):
            told[name].append(inner)
        else:
            told[name] = [told[name], inner]


def _prose(element: "etree._Element") -> str:
    """Return the text of an element that has others between its words, as emphasis; empty if one of them is no word.

    What has an address, or is empty, may be a picture.
    """
    within = list(islice(element.iterdescendants(), _MOST_IN_PROSE + 1))
    if len(within) > _MOST_IN_PROSE or not all(
        one.text and _ADDRESSES.isdisjoint(map(local, one.attrib)) for one in within
    ):
        return ""
    is_mixed = bool((element.text or "").strip()) and any((one.tail or "").strip() for one in within)
    is_emphasis = all(local(one.tag).lower() in _EMPHASIS for one in within)
    return " ".join("".join(map(str, element.itertext())).split()) if is_mixed or is_emphasis else ""


def _said(text: str, attributes: dict[str, str]) -> Any:
    """Return what an element of an image says: its address, and what its file is called."""
    if is_picture_path(text):
        return text
    called = {key: said for key, said in attributes.items() if "/" not in said and is_picture_path(said)}
    return called | {_PICTURE: text}


def _is_image_type(stated: str) -> bool:
    return stated.startswith("image/") or by_media_type(stated) is not None
