"""Feeds and sitemaps: Atom (RFC 4287), RSS 2.0 and 1.0 with Media RSS or products, JSON Feed 1.1, image sitemaps.

Feeds are often not well-formed (a bare ``&``, ``&nbsp;``, a blank line before the declaration), so the parser recovers.
Entities of a feed's own are not expanded, and nothing is loaded from elsewhere.
"""

import io
import re
from collections.abc import Iterator
from html.entities import name2codepoint
from itertools import islice

from lxml import etree
from msgspec.structs import replace

from pickcrate.addresses.url import absolute, image_type, looks_like_web
from pickcrate.elements.words import text_in
from pickcrate.media import by_media_type
from pickcrate.read.data.feeditem import Place, item_of_element, item_of_object
from pickcrate.read.data.xmltree import local
from pickcrate.read.reading import Reading
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import NO_ITEM, Item
from pickcrate.values.reference import Box, Role, Words, fold

_LINKED_BY_ATTRIBUTE = {
    "enclosure": ("url",),
    "content": ("url", "src"),
    "thumbnail": ("url",),
    "link": ("href",),
    "image": ("href", "url"),
}
_ITS_MEDIA = frozenset(("enclosure", "content", "thumbnail"))
_BY_RELATION = {"image": "content", "thumbnail": "thumbnail"}
_ADDRESS_AS_TEXT = frozenset(("logo", "icon", "image_link", "additional_image_link"))
_ENCODING = lazy(rb"(?<=\s)encoding=[\"'][\w.:-]{1,40}[\"'](?=[^<>]{0,100}\?>)")
_HTML = frozenset(("encoded", "description", "summary", "content", "body", "title", "subtitle"))
_SHOWS = frozenset(("img", "picture", "video", "object", "svg"))
_MOST_TOLD = 40
"""elements in a picture of a feed, or in a group of them, that are asked for its words"""

_PREFIX = lazy(r"(?<=<)(/?)[\w.-]+:")
_FEEDS = frozenset(("rss", "feed", "rdf"))
_ENTRIES = frozenset(("item", "entry", "url", "sitemap"))
_MOST_ELEMENTS = 3_000_000
_BASE = "{http://www.w3.org/XML/1998/namespace}base"
_ABOUT = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}about"
# An ampersand that begins no reference that XML knows; what stands in a CDATA section is none.
_AMPERSAND = lazy(
    rb"<!\[CDATA\[.*?(?:\]\]>|\Z)|&(?!(?:amp|lt|gt|quot|apos|#\d+|#x[0-9A-Fa-f]+);)(?:(\w{2,8});)?", re.DOTALL
)


def read_xml_feed(octets: bytes, address: str) -> Reading:
    """Return the pictures of a feed or sitemap in XML, its entries' HTML as documents, and an index's sitemaps."""
    reading = Reading()
    if octets.startswith((b"\xff\xfe", b"\xfe\xff")):
        octets = _ENCODING.sub(b"", octets.decode("utf-16", "replace").encode("utf-8", "replace"), count=1)
    octets = _AMPERSAND.sub(_escaped, octets.lstrip(b"\t\n\r "))
    feed = _Feed(reading, address, has_bases=b"base" in octets)
    depth = 0
    try:
        events = etree.iterparse(
            io.BytesIO(octets), ("start", "end"), recover=True, resolve_entities=False, no_network=True, huge_tree=False
        )
        for count, (event, element) in enumerate(events):
            depth += 1 if event == "start" else -1
            if count > _MOST_ELEMENTS or reading.is_full:
                reading.flaws.append(Flaw("feed", "the feed is too large: the rest of it is left out"))
                break
            if event == "end" and (depth == 0 or (_name(element) in _ENTRIES and len(element))):
                feed.read(element)
        if events.error_log and not (reading.documents or reading.references or reading.further):
            reading.flaws.append(Flaw("feed", f"the feed is not well-formed: {events.error_log[0].message.strip()}"))
    except (etree.XMLSyntaxError, ValueError, LookupError) as error:
        reading.flaws.append(Flaw("feed", f"the feed cannot be read to its end: {error}"))
    return reading


def _escaped(match: re.Match[bytes]) -> bytes:
    if match[0].startswith(b"<"):
        return match[0]
    name = (match[1] or b"").decode("ascii", "ignore")
    return b"&#%d;" % name2codepoint[name] if name in name2codepoint else b"&amp;" + match[0][1:]


class _Feed:
    """One feed while it is read: an entry at a time, which is forgotten then."""

    def __init__(self, reading: Reading, address: str, *, has_bases: bool) -> None:
        self._reading = reading
        self._address = address
        self._has_bases = has_bases
        self._title: str | None = None
        self._count = 0
        self._item = NO_ITEM
        self._page = ""
        self._named = 0
        """references before the entry: its HTML, which has words for its pictures, comes before those of its own"""

    def read(self, entry: etree._Element) -> None:
        """Take the pictures and the HTML of an entry, or of the whole, whose entries were taken before."""
        if _name(entry) in _FEEDS:
            channel = _channel(entry)
            self._reading.title = text_in(_text_of(channel, "title"))
            self._reading.next_page = self._next_page(channel)
        if _name(entry) == "sitemap":
            url = absolute(_text_of(entry, "loc"), self._address)
            self._reading.further += [url] if url is not None and _text_of(entry, "loc") else []
        else:
            title = text_in(_text_of(entry, "title"))
            words = Words(title=title)
            self._item, self._page = NO_ITEM, self._address
            self._named = len(self._reading.references)
            if _name(entry) in _ENTRIES:
                self._enter(entry, title)
            with_thumbnails = self._with_thumbnails(entry, words)
            for element in entry.iterdescendants():
                if element not in with_thumbnails:
                    self._element(element, _name(element), entry, words)
        entry.clear()

    def _enter(self, entry: etree._Element, title: str) -> None:
        """Take note of what an entry is, and of its own page."""
        if self._title is None:
            self._title = text_in(_text_of(_channel(entry.getroottree().getroot()), "title"))
        self._count += 1
        page = self._page_of(entry)
        self._item = item_of_element(entry, title, Place(self._count, self._title, page))
        self._page = page or self._address
        if page:
            self._reading.pages.append(page)
            self._reading.entries += [self._item] if self._item.title else []

    def _next_page(self, channel: etree._Element) -> str:
        links = (child for child in channel if _name(child) == "link" and child.get("rel") == "next")
        raw = next((link.get("href", "") for link in links), "")
        return (absolute(raw, self._base(channel)) or "") if raw else ""

    def _element(self, element: etree._Element, name: str, entry: etree._Element, words: Words) -> None:
        if name == "image" and (raw := _text_of(element, "loc")):  # the image extension of sitemaps
            own = Words(title=fold(_text_of(element, "title")), caption=fold(_text_of(element, "caption")))
            self._add(raw, element, own)
        elif name == "image" and (raw := _text_of(element, "url")):  # an RSS channel's
            self._add(raw, element, Words(title=fold(_text_of(element, "title"))))
        elif name in _ADDRESS_AS_TEXT and (raw := (element.text or "").strip()):
            self._add(raw, element, words)
        elif name == "group":
            self._renditions(_pictures_in(element), words)
        elif (raw := _linked(element, name)) and _is_picture(element, name, raw):
            if not _is_given(element.getparent()):
                self._add(raw, element, words)
        elif name in _HTML and "<" in (html := _html(element, name)):
            self._reading.add_document(html, self._link_of(entry), self._item, self._named)

    def _with_thumbnails(self, entry: etree._Element, words: Words) -> set[etree._Element]:
        """Take the one picture of an entry that stands beside its thumbnails, and return the elements of both.

        Media RSS, media:thumbnail: those of an entry are of what the entry has. OPDS 1.2, 7.2 has links to the two.
        """
        renditions = [rendition for rendition in _pictures_in(entry) if _medium(rendition[1]) in _ITS_MEDIA]
        addresses = {raw.strip() for raw, element in renditions if _medium(element) != "thumbnail"}
        if len(addresses) != 1 or all(_medium(element) != "thumbnail" for _, element in renditions):
            return set()
        self._renditions(renditions, words)
        return {element for _, element in renditions}

    def _renditions(self, renditions: list[tuple[str, etree._Element]], words: Words) -> None:
        """Take the renditions of one picture (Media RSS, media:group): the largest that says so is in front."""
        contents = [rendition for rendition in renditions if _medium(rendition[1]) != "thumbnail"]
        thumbnails = [rendition for rendition in renditions if _medium(rendition[1]) == "thumbnail"]
        if not contents:  # thumbnails of a film: a picture each
            for raw, element in thumbnails:
                self._add(raw, element, words)
            return
        cluster = None
        are_sized = all(element.get("width") for _, element in contents)
        for raw, element in (*contents, *thumbnails):
            role = Role.SHOWN if cluster is None else Role.SIZE
            # By its width a thumbnail would be larger than what says nothing of its own.
            is_sized = are_sized or _medium(element) != "thumbnail"
            added = self._add(raw, element, words, role=role, cluster=cluster, is_sized=is_sized)
            cluster = added if cluster is None else cluster

    def _add(
        self,
        raw: str,
        element: etree._Element,
        words: Words,
        role: Role = Role.SHOWN,
        cluster: int | None = None,
        *,
        is_sized: bool = True,
    ) -> int | None:
        """Add a picture, and return its cluster."""
        url = absolute(raw.strip(), self._base(element))
        if url is None or not raw.strip():
            return cluster
        width, height = (whole(element.get(side, "").strip()) for side in ("width", "height"))
        known = {"cluster": cluster} if cluster is not None else {}
        width, height = (width, height) if is_sized else (None, None)
        return self._reading.add_picture(
            url,
            FoundIn.FEED,
            page=self._page,
            words=_own_words(element, words),
            item=self._item,
            box=Box(width, height),
            width=width,
            role=role,
            media_type=element.get("type", "").strip().lower(),
            **known,
        )

    def _base(self, element: etree._Element) -> str:
        """XML Base, 4: the nearest ``xml:base``, each against the one above it; the feed's address if there is none."""
        if not self._has_bases:
            return self._address
        stated = [raw for e in (element, *element.iterancestors()) if (raw := e.get(_BASE))]
        base = self._address
        for raw in reversed(stated):
            base = absolute(raw, base) or base
        return base

    def _link_of(self, entry: etree._Element) -> str:
        """Return what the addresses in an entry's HTML are relative to: its xml:base, else its own page."""
        own = self._base(entry)
        return own if own != self._address else self._page_of(entry) or own

    def _page_of(self, entry: etree._Element) -> str:
        """Return the own page of an entry; empty if it states none.

        That is its ``loc`` in a sitemap, its link (RFC 4287, 4.2.7.2; RSS 2.0), or its identifier where that is an
        address (``guid``; RSS 1.0, 5.5: ``rdf:about``).
        """
        links = [child for child in entry if _name(child) == "link" and child.get("rel", "alternate") == "alternate"]
        stated = [_text_of(entry, "loc")]
        stated += [child.get("href") or (child.text or "").strip() for child in links]
        stated += filter(looks_like_web, (_text_of(entry, "guid"), entry.get(_ABOUT, "")))
        raw = next(filter(None, stated), "")
        return absolute(raw, self._base(entry)) or "" if raw else ""


def _channel(feed: etree._Element) -> etree._Element:
    """Return the element with what is said of the whole feed."""
    return next((child for child in feed if _name(child) == "channel"), feed)


def _medium(element: etree._Element) -> str:
    """Return what an element has of the media of an entry, by its name; a link by the last step of its relation."""
    name = _name(element)
    return _BY_RELATION.get(element.get("rel", "").rpartition("/")[2], name) if name == "link" else name


def _own_words(element: etree._Element, words: Words) -> Words:
    """Return what is said of a picture, or of its group, else of its entry (Media RSS: optional elements)."""
    parent = element.getparent()
    holders = [element, parent] if parent is not None and _name(parent) == "group" else [element]
    told = [child for holder in holders for child in islice(holder, _MOST_TOLD)]
    title, caption = (
        next((said for child in told if _name(child) == name and (said := text_in(child.text or ""))), "")
        for name in ("title", "description")
    )
    return replace(words, title=title or words.title, caption=caption or words.caption)


def _linked(element: etree._Element, name: str) -> str:
    return next((raw for attribute in _LINKED_BY_ATTRIBUTE.get(name, ()) if (raw := element.get(attribute))), "")


def _pictures_in(parent: etree._Element) -> list[tuple[str, etree._Element]]:
    """Return the pictures that are right inside an element, each with its address."""
    named = ((_linked(element, _name(element)), element) for element in parent if isinstance(element.tag, str))
    return [(raw, element) for raw, element in named if raw and _is_picture(element, _name(element), raw)]


def _is_given(parent: etree._Element | None) -> bool:
    """Tell whether what is around a picture gives it: a group all of its own, a picture its thumbnail."""
    if parent is None:
        return False
    name = _name(parent)
    return name == "group" or (name == "content" and _is_picture(parent, name, _linked(parent, name)))


def _is_picture(element: etree._Element, name: str, raw: str) -> bool:
    kind, medium = element.get("type", ""), element.get("medium", "")
    is_said = name in {"thumbnail", "image"} or medium == "image" or element.get("rel") == "image"
    if is_said or by_media_type(kind) is not None:
        return bool(raw)
    # Relative addresses have no path of their own yet.
    whole_address = absolute(raw, "https://feed.invalid/") or ""
    return not (kind or medium) and name != "link" and image_type(whole_address) is not None


def _html(element: etree._Element, name: str) -> str:
    """Return an entry's HTML, of a title only if it shows something: escaped in the text, or as elements."""
    if len(element) and any(_name(inner) in _SHOWS for inner in element.iterdescendants()):
        return _PREFIX.sub(r"\1", str(etree.tostring(element, encoding="unicode", with_tail=False)))
    text = element.text or ""
    return text if "title" not in name or "<img" in text else ""


def _text_of(entry: etree._Element, name: str) -> str:
    """Return the text of the first child of that name, in any namespace."""
    return next(("".join(map(str, child.itertext())) for child in entry if _name(child) == name), "").strip()


def _name(element: etree._Element) -> str:
    tag = element.tag
    return local(tag).lower() if isinstance(tag, str) else ""


def read_json_feed(octets: bytes, address: str) -> Reading:
    """Return the pictures of a JSON Feed 1.1, and its items' HTML as documents."""
    reading = Reading()
    feed = reading.json_object(octets, "feed")
    if feed is None:
        return reading
    reading.title = fold(feed["title"]) if isinstance(feed.get("title"), str) else ""
    reading.next_page = _json_address(feed.get("next_url"), address)
    items = feed.get("items")
    entries = [entry for entry in (items if isinstance(items, list) else ()) if isinstance(entry, dict)]
    for number, entry in enumerate(entries, 1):
        page = _json_address(entry.get("url") or entry.get("external_url"), address)
        item = item_of_object(entry, Place(number, reading.title, page))
        if page:
            reading.pages.append(page)
            reading.entries += [item] if item.title else []
        if isinstance(html := entry.get("content_html"), str):
            own = _json_address(entry.get("url"), address) or address
            reading.add_document(html, own, item, len(reading.references))
        _read_object(reading, entry, address, item)
    _read_object(reading, feed, address, NO_ITEM)
    return reading


def _read_object(reading: Reading, told: dict[str, object], address: str, item: Item) -> None:
    """Take the pictures that a feed, or an item of it, names itself."""
    words = Words(title=_json_title(told))
    for raw, title in _json_pictures(told):
        own = replace(words, title=title) if title else words
        if url := _json_address(raw, address):
            reading.add_picture(url, FoundIn.FEED, page=item.url or address, words=own, item=item)


def _json_title(told: dict[str, object]) -> str:
    return fold(str(told.get("title") or ""))


def _json_address(raw: object, address: str) -> str:
    return (absolute(raw, address) or "") if isinstance(raw, str) and raw else ""


def _json_pictures(item: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield the addresses of the pictures of a feed or an item, each with its own title, which attachments may have."""
    for name in ("image", "banner_image", "icon", "favicon"):
        if isinstance(raw := item.get(name), str) and raw:
            yield raw, ""
    attachments = item.get("attachments")
    for attachment in attachments if isinstance(attachments, list) else ():
        if isinstance(attachment, dict) and by_media_type(str(attachment.get("mime_type") or "")) is not None:
            yield str(attachment.get("url") or ""), _json_title(attachment)
