"""Feeds and sitemaps: Atom (RFC 4287), RSS 2.0 and 1.0 with Media RSS, JSON Feed 1.1, image sitemaps."""

import json
from collections.abc import Iterator
from xml.etree import ElementTree

from pickcrate.addresses import absolute, image_type
from pickcrate.media import by_media_type
from pickcrate.read.reading import Document, Reading
from pickcrate.values import Box, Flaw, Words, fold

_LINKED_BY_ATTRIBUTE = {"enclosure": "url", "content": "url", "thumbnail": "url", "link": "href", "image": "href"}
_ADDRESS_AS_TEXT = frozenset(("logo", "icon", "url"))
_HTML = frozenset(("encoded", "description", "summary", "content"))
_ITEMS = frozenset(("item", "entry", "url", "channel", "feed"))
_DEEPEST = 100


def read_xml_feed(octets: bytes, address: str) -> Reading:
    """Return the pictures of a feed or sitemap in XML, and its entries' HTML as documents."""
    reading = Reading()
    try:
        root = ElementTree.fromstring(octets)  # noqa: S314 (expat bounds entity expansion; external ones are not read)
    except (ElementTree.ParseError, ValueError, LookupError) as error:
        reading.flaws.append(Flaw("feed", f"the feed is not well-formed: {error}"))
        return reading
    _walk(root, root, reading, address)
    return reading


def _walk(root: ElementTree.Element, item: ElementTree.Element, reading: Reading, address: str) -> None:
    """Visit elements in order; ``item`` is the entry that an element belongs to."""
    waiting = [(root, item, 0)]
    while waiting:
        element, owner, depth = waiting.pop()
        name = _name(element)
        if name in _ITEMS and len(element):
            owner = element
        _element(element, name, owner, reading, address)
        if depth < _DEEPEST:
            waiting.extend((child, owner, depth + 1) for child in reversed(element))


def _element(
    element: ElementTree.Element, name: str, owner: ElementTree.Element, reading: Reading, address: str
) -> None:
    text = (element.text or "").strip()
    if (name == "loc" and "image" in element.tag.lower()) or (
        name in _ADDRESS_AS_TEXT and text and (name != "url" or _name(owner) == "channel")
    ):  # the image extension's own namespace
        _add(reading, text, address, owner, element)
    elif (attribute := _LINKED_BY_ATTRIBUTE.get(name)) and (raw := element.get(attribute)):
        if _is_picture(element, name, raw):
            _add(reading, raw, address, owner, element)
    elif name in _HTML and "<" in (html := _html(element)):
        base = _link_of(owner, address)
        reading.documents.append(Document(html.encode("utf-8"), base, "utf-8"))


def _is_picture(element: ElementTree.Element, name: str, raw: str) -> bool:
    kind, medium = element.get("type", ""), element.get("medium", "")
    if name in {"thumbnail", "image"} or medium == "image" or by_media_type(kind) is not None:
        return True
    return not kind and not medium and name != "link" and image_type(raw) is not None


def _html(element: ElementTree.Element) -> str:
    """Return an entry's HTML: escaped in the text, or (Atom, type xhtml) as elements."""
    if len(element) and element.get("type") == "xhtml":
        return ElementTree.tostring(element, encoding="unicode").replace("html:", "")
    return element.text or ""


def _add(reading: Reading, raw: str, address: str, owner: ElementTree.Element, element: ElementTree.Element) -> None:
    url = absolute(raw, address)
    if url is None or not raw:
        return
    title = next((child.text or "" for child in owner if _name(child) == "title"), "")
    caption = next((child.text or "" for child in owner.iter() if _name(child) == "caption"), "")
    sizes = (element.get("width", ""), element.get("height", ""))
    width, height = (int(size) if size.isdecimal() else None for size in sizes)
    reading.add_picture(
        url, "feed", words=Words(title=fold(title), caption=fold(caption)), box=Box(width, height), width=width
    )


def _link_of(owner: ElementTree.Element, address: str) -> str:
    for child in owner:
        if _name(child) == "link":
            raw = child.get("href") or (child.text or "").strip()
            if raw and child.get("rel", "alternate") == "alternate":
                return absolute(raw, address) or address
    return address


def _name(element: ElementTree.Element) -> str:
    tag = element.tag
    return tag.rpartition("}")[2].lower() if isinstance(tag, str) else ""


def read_json_feed(octets: bytes, address: str) -> Reading:
    """Return the pictures of a JSON Feed 1.1, and its items' HTML as documents."""
    reading = Reading()
    try:
        feed = json.loads(octets.decode("utf-8-sig", "replace"))
    except (ValueError, RecursionError) as error:
        reading.flaws.append(Flaw("feed", f"the feed is not JSON: {error}"))
        return reading
    if not isinstance(feed, dict):
        reading.flaws.append(Flaw("feed", "the feed is no JSON object"))
        return reading
    items = feed.get("items")
    for item in [feed, *(i for i in (items if isinstance(items, list) else ()) if isinstance(i, dict))]:
        words = Words(title=fold(str(item.get("title") or "")))
        for raw in _json_addresses(item):
            if (url := absolute(raw, address)) is not None:
                reading.add_picture(url, "feed", words=words)
        if isinstance(html := item.get("content_html"), str):
            base = absolute(str(item.get("url") or address), address) or address
            reading.documents.append(Document(html.encode("utf-8", "replace"), base, "utf-8"))
    return reading


def _json_addresses(item: dict[str, object]) -> Iterator[str]:
    for name in ("image", "banner_image", "icon", "favicon"):
        if isinstance(raw := item.get(name), str) and raw:
            yield raw
    attachments = item.get("attachments")
    for attachment in attachments if isinstance(attachments, list) else ():
        if isinstance(attachment, dict) and by_media_type(str(attachment.get("mime_type") or "")) is not None:
            yield str(attachment.get("url") or "")
