"""Pictures that a page names in its metadata: ``link``, ``meta``, microdata, RDFa, and the ``Link`` header.

HTML standard 4.6.7 (link types) and 5 (microdata); the Open Graph protocol; RDFa Lite 1.1; RFC 8288.
"""

import re
from collections.abc import Iterable, Iterator

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.addresses import ranks
from pickcrate.addresses.linkfield import links_in
from pickcrate.addresses.url import absolute, claims_no_image, image_type, path_of
from pickcrate.finders.alone import picture_alone, shows_a_picture
from pickcrate.finders.data.jsondata import in_json
from pickcrate.finders.data.literals import is_address, says_where
from pickcrate.finders.images import candidates
from pickcrate.finders.place import DEEPEST_ASKED, Finder, Place, Walk
from pickcrate.finders.srcset import parse_srcset
from pickcrate.read.pages.oembed import MEDIA_TYPE
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Need, NeedKind
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role, fold

_ICONS = frozenset(
    "icon favicon touch-icon apple-touch-icon apple-touch-icon-precomposed touch-startup-image "
    "apple-touch-startup-image mask-icon fluid-icon".split()
)
_PICTURES = _ICONS | {"image_src"}
_OF_PAGES = frozenset("canonical shortlink next prev stylesheet".split())
"""relations of pages and sheets, whatever their names end in"""

_META = lazy(
    r"(?:og:image(?::(?:secure_)?url)?|twitter:image(?::src|[0-3])?|thumbnail|image|"
    r"[a-z]{2,20}[.:_-]image(?:[.:_-](?:full|large|url|src|thumb))?|"
    r"msapplication-(?:tileimage|(?:square|wide)\d+x\d+logo))",
    re.IGNORECASE,
)
PICTURE_PROPERTIES = frozenset(
    "image thumbnail thumbnailurl contenturl logo photo screenshot primaryimageofpage".split()
)
_OF_PICTURE = lazy(r":(?:secure_url|url|src)\Z")
_MOST_BEHIND = 24
"""nodes behind a picture in metadata that are asked for its words"""

_MOST_AROUND = 8
"""Elements around a property that are asked for the item that it belongs to."""

_SIZES = lazy(r"(\d{1,6})x(\d{1,6})", re.IGNORECASE)


def _find_link_element(place: Place) -> Iterable[Reference | Need]:
    relations = set(place.get("rel").lower().split())
    if "manifest" in relations and (url := place.resolve(place.get("href"))) is not None:
        yield Need(NeedKind.MANIFEST, url)
    if place.get("type").strip().lower() == MEDIA_TYPE and (url := place.resolve(place.get("href"))) is not None:
        yield Need(NeedKind.OEMBED, url)
    if "iiif.io/api/presentation" in place.get("type") and (url := place.resolve(place.get("href"))) is not None:
        yield Need(NeedKind.IIIF, url)
    preloads = "preload" in relations or "prefetch" in relations
    is_said = place.get("type").strip().lower().startswith("image/") or (
        preloads and place.get("as").lower() == "image"
    )
    # What a link without a type leads to may be a picture by its name: an enclosure, a thumbnail, an original.
    may_be = not place.get("type") and relations.isdisjoint(_OF_PAGES)
    is_image = is_said or (may_be and image_type(place.resolve(place.get("href")) or "") is not None)
    if not relations & _PICTURES and not is_image:
        return
    relation = "icon" if relations & _ICONS else ""
    prototype = replace(
        place.prototype(FoundIn.META, cluster=place.node), media_type=place.get("type"), relation=relation
    )
    if (size := _SIZES.fullmatch(place.get("sizes"))) is not None:
        prototype = replace(prototype, width=int(size[1]))
    sizes = list(candidates(place, replace(prototype, role=Role.SIZE, width=None), "imagesrcset"))
    if (reference := place.at(prototype, "href", place.get("href"))) is not None:
        yield reference
    elif sizes:  # the address may be left out, for browsers that do not know this attribute
        sizes[0] = replace(sizes[0], role=Role.SHOWN)
    yield from sizes


def _find_meta(place: Place) -> Iterable[Reference]:
    name = place.get("property") or place.get("name") or place.get("itemprop")
    content = place.get("content")
    if content.lstrip().startswith("{"):
        yield from _in_data(place, content)
        return
    is_named = _META.fullmatch(name.strip()) is not None or name.strip().lower() in PICTURE_PROPERTIES
    is_named = is_named or (name.strip().lower() == "url" and _is_of_picture(place.node))
    if not is_named and not (says_where(content) and is_address(content)):
        return
    # A card's "image" may be any text; an address has a path.
    if "/" not in content and "." not in content:
        return
    relation = "icon" if name.strip().lower().startswith("msapplication-") else ""
    prototype = replace(_in_its_place(place, name), relation=relation)
    reference = place.at(prototype, "content", content)
    if reference is None or claims_no_image(reference.url):
        return
    if path_of(reference.url) != "/" or "?" in reference.url:  # the front page of a site is no picture of it
        alt = _alternative(place.node, name)
        yield replace(reference, words=replace(reference.words, alt=alt)) if alt else reference


def _alternative(node: LexborNode, name: str) -> str:
    """Return what is said in place of a picture in metadata: of the properties behind it, up to the next such picture.

    Open Graph protocol, structured properties: ``og:image``, then ``og:image:alt``.
    """
    base = _OF_PICTURE.sub("", name.strip().lower())
    behind = node.next
    for _ in range(_MOST_BEHIND):
        if behind is None:
            break
        if behind.is_element_node and behind.tag == "meta":
            attributes = behind.attributes
            said = (attributes.get("property") or attributes.get("name") or "").strip().lower()
            if said == base:
                break
            if said == f"{base}:alt":
                return fold(attributes.get("content") or "")
        behind = behind.next
    return ""


def _thing_around(node: LexborNode) -> LexborNode | None:
    """Return the item that a property belongs to (Microdata 5.2.4; RDFa Lite, 2.2)."""
    outer = node.parent
    for _ in range(_MOST_AROUND):
        if outer is None or not outer.is_element_node:
            return None
        if "itemscope" in outer.attributes or "typeof" in outer.attributes:
            return outer
        outer = outer.parent
    return None


def _is_picture(thing: LexborNode) -> bool:
    kinds = f"{thing.attributes.get('itemtype') or ''} {thing.attributes.get('typeof') or ''}"
    return any(kind.endswith("imageobject") for kind in kinds.lower().split())


def _is_of_picture(node: LexborNode) -> bool:
    """Tell whether the item that a property belongs to is a picture, by its type or by what it is to another item."""
    thing = _thing_around(node)
    if thing is None:
        return False
    names = thing.attributes.get("itemprop") or ""
    return _is_picture(thing) or not PICTURE_PROPERTIES.isdisjoint(names.lower().split())


def _in_its_place(place: Place, names: str) -> Reference:
    """Return a reference to what a property names: the original of the one picture that its item shows, or another."""
    is_content = "contenturl" in names.lower() and place.around.depth <= DEEPEST_ASKED
    thing = _thing_around(place.node) if is_content else None
    shown = picture_alone(place.walk, thing) if thing is not None and _is_picture(thing) else None
    if shown is None:
        return place.prototype(FoundIn.META, cluster=place.node)
    return replace(place.prototype(FoundIn.META, cluster=shown, role=Role.LAZY), rank=ranks.LARGE)


def _in_data(place: Place, content: str) -> Iterator[Reference]:
    """Yield the pictures of a ``meta`` whose content is JSON, as publishers describe a page to those who count it."""
    for raw in (entry.url for entry in in_json(content)):
        if (reference := place.at(place.prototype(FoundIn.META), "content", raw)) is not None:
            yield reference


def _find_property(place: Place) -> Iterable[Reference]:
    """Microdata 5.2.4 and RDFa Lite: the value of a picture property is its ``src``, ``href``, ``data`` or text."""
    names = f"{place.get('itemprop')} {place.get('property')}".lower().replace(":", " ").split()
    is_its_address = place.node.tag == "link" and "url" in names and _is_of_picture(place.node)
    if place.node.tag in {"img", "meta"} or not (is_its_address or PICTURE_PROPERTIES.intersection(names)):
        return
    if place.node.tag == "a" and shows_a_picture(place.node):  # its picture has the link already, to a page or a file
        return
    for attribute in ("href", "src", "data", "resource", "content"):
        if (raw := place.get(attribute)).strip():
            reference = place.at(_in_its_place(place, " ".join(names)), attribute, raw)
            if reference is not None and not claims_no_image(reference.url):
                yield reference
            return


def find_in_link_field(walk: Walk) -> Iterator[Reference]:
    """Yield the pictures of a response's ``Link`` fields: icons and preloaded images, with their sizes."""
    page = walk.page
    for link in links_in(page.link_field, page.address) if page.link_field else ():
        preloads = "preload" in link.relations and link.parameters.get("as", "").lower() == "image"
        if not (link.relations & _PICTURES or preloads):
            continue
        shown = Reference(
            link.url,
            link.raw,
            page.address,
            FoundIn.META,
            "Link field",
            link.parameters["rel"],
            walk.new_cluster(),
            trust=page.trust,
            relation="icon" if link.relations & _ICONS else "",
            media_type=link.parameters.get("type", ""),
        )
        yield shown
        for entry in parse_srcset(link.parameters.get("imagesrcset", "")) if preloads else ():
            if (url := absolute(entry.url, page.address)) is not None:
                size = {"width": entry.width, "density": entry.density}
                yield replace(shown, url=url, raw=entry.url, attribute="imagesrcset", role=Role.SIZE, **size)


LINK_ELEMENT = Finder(_find_link_element, tags=("link",))
META = Finder(_find_meta, tags=("meta",))
PROPERTY = Finder(_find_property, attributes=("itemprop", "property"))
