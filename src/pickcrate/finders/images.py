"""``img`` and the ``picture`` around it (HTML standard, 4.8.1 to 4.8.4): ``src``, ``srcset``, ``source``."""

import re
from collections.abc import Iterable, Iterator

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate import media
from pickcrate.addresses import ranks
from pickcrate.addresses.stems import is_stand_in
from pickcrate.addresses.url import claims_no_image, image_type, is_web, named_alike
from pickcrate.finders.alone import first_of_several, picture_alone
from pickcrate.finders.data.literals import in_query, in_script
from pickcrate.finders.data.strings import without_references
from pickcrate.finders.layers import opened_by
from pickcrate.finders.place import DEEPEST_ASKED, Finder, Place, target_of
from pickcrate.finders.srcset import parse_srcset
from pickcrate.finders.style.mediaqueries import least_density
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Box, Reference, Role

_STANDS_FOR_SHAPES = "v:shapes"
"""an attribute of an ``img`` that a word processor made of a drawing"""

_DRAWN = lazy(r"<v:imagedata\b[^<>]{0,500}?\ssrc=\"([^\"<>]{1,1000})\"", re.IGNORECASE)
_MOST_PRESSED = 4
"""elements around a picture that may be a button"""

_MOST_BEFORE = 4
"""nodes before an ``img`` that are looked at"""

_OTHER_EYES = lazy(r"prefers-(?:color-scheme|contrast|reduced-motion)|forced-colors|\bprint\b", re.IGNORECASE)
"""of media queries (Media Queries Level 5): who gets this one gets another picture, and no larger one"""

_IN_A_BOX = lazy(r"(?:light|fancy|colou?r|thick|swipe|shadow|slim)box", re.IGNORECASE)
_LONGEST_NAMES = 300
_LEAST_SCREEN = lazy(r"(?:min-width\s*:|width\s*>=?)\s*(\d{1,5})", re.IGNORECASE)


def _find_img(place: Place) -> list[Reference]:
    picture, instead_of = place.around.picture, _object_around(place)
    outer = next((node for node in (instead_of, picture) if node is not None), place.node)
    prototype = place.prototype(FoundIn.IMG, cluster=outer)
    found: list[Reference] = []
    if (shown := place.at(prototype, "src", place.get("src"))) is not None:
        found.append(shown if instead_of is None else replace(shown, role=Role.SIZE))
    sizes = list(candidates(place, prototype, role=Role.SIZE))
    if sizes and not found:  # srcset alone: its first entry is as good a shown picture as any
        sizes[0] = replace(sizes[0], role=Role.SHOWN)
    elif (plain := _for_plain_screens(sizes)) is not None and plain.url != found[0].url:
        found[0] = replace(found[0], role=Role.LAZY, rank=ranks.UNSAID)
        sizes = [replace(one, role=Role.SHOWN) if one is plain else one for one in sizes]
    if found and _STANDS_FOR_SHAPES in place.attributes:
        found += _drawn_before(place, prototype)
    # Where a script has yet to say what is shown, the link may know the original.
    return [*found, *sizes, *link_around(place, prototype), *in_layer(place, prototype)]


def _for_plain_screens(sizes: list[Reference]) -> Reference | None:
    """Return what a srcset has for plain screens: it is shown, and ``src`` by old browsers alone (HTML, 4.8.4.3.8)."""
    plain = (one for one in sizes if not one.width and one.density in {None, 1.0})
    return next((one for one in plain if is_web(one.url) and not is_stand_in(one.url)), None)


def _object_around(place: Place) -> LexborNode | None:
    """Return the ``object`` around an ``img`` that is shown where the picture of that cannot be (HTML, 4.8.7)."""
    outer = place.node.parent
    if outer is None or outer.tag != "object":
        return None
    url = place.resolve(outer.attributes.get("data") or "")
    return outer if url is not None and loads_image(outer.attributes.get("type") or "", url) else None


def loads_image(declared: str, url: str) -> bool:
    """Tell whether an ``object`` or ``embed`` loads an image: its type says so, or else its address."""
    return (media.by_media_type(declared) if declared else image_type(url)) is not None


def in_layer(place: Place, prototype: Reference) -> Iterator[Reference]:
    """Yield the picture that is alone in the layer of the page which opens when this one is pressed."""
    layers = place.walk.layers
    if not layers or place.around.depth > DEEPEST_ASKED:
        return
    named = (name for opener in _openers(place) for name in opened_by(opener.attributes))
    layer = next((layers[name] for name in named if name in layers), None)
    picture = picture_alone(place.walk, layer) if layer is not None else None
    if picture is None or picture.mem_id == place.node.mem_id:
        return
    attributes = picture.attributes
    raw = next(filter(None, (attributes.get(name) for name in ("src", "data-src"))), "")
    if (url := place.resolve(raw)) is not None and is_web(url):
        yield replace(prototype, url=url, raw=raw, found_in=FoundIn.LINK, attribute="id", role=Role.LINK, box=Box())


def _openers(place: Place) -> Iterator[LexborNode]:
    """Yield what may be pressed where a picture is shown: itself, the link around it, what holds it alone."""
    yield place.node
    if place.around.link is not None:
        yield place.around.link
    picture = place.around.picture
    outer = place.node.parent if picture is None else picture.parent
    for climbed in range(_MOST_PRESSED):
        if outer is None or (climbed and not _is_alone_in(place, outer)):
            return
        yield outer
        outer = outer.parent


def _is_alone_in(place: Place, container: LexborNode) -> bool:
    alone = picture_alone(place.walk, container)
    return alone is not None and alone.mem_id == place.node.mem_id


def _drawn_before(place: Place, prototype: Reference) -> Iterator[Reference]:
    """Yield the picture that a comment before an ``img`` draws, which only stands for it.

    A page that a word processor saved has its pictures twice: as they are in the document, in vector markup that one
    old browser read, and reduced to the size on the page for all others.
    """
    before = place.node.prev
    for _ in range(_MOST_BEFORE):
        if before is None:
            return
        drawn = _DRAWN.search(before.comment_content or "") if before.is_comment_node else None
        if (
            drawn is not None
            and (reference := place.at(prototype, "v:imagedata", without_references(drawn[1]))) is not None
        ):
            yield replace(reference, role=Role.LAZY, rank=ranks.LARGE)
            return
        before = before.prev


def _find_source(place: Place) -> list[Reference]:
    if place.around.picture is None:  # a source of audio or video
        return []
    prototype = place.prototype(FoundIn.PICTURE, cluster=place.around.picture, role=Role.SIZE)
    widest = max((int(pixels) for pixels in _LEAST_SCREEN.findall(place.get("media"))), default=0)
    prototype = replace(prototype, media_type=place.get("type").strip().lower(), rank=min(widest, 9999))
    if _OTHER_EYES.search(place.get("media")) is None:
        return list(_for_screens(candidates(place, prototype), least_density(place.get("media"))))
    found = list(candidates(place, replace(prototype, cluster=place.walk.new_cluster())))
    return [replace(found[0], role=Role.SHOWN), *found[1:]] if found else []


def _for_screens(sizes: Iterable[Reference], density: float | None) -> Iterator[Reference]:
    """Yield sizes for screens of at least a density, which is that of those that have no descriptor."""
    for one in sizes:
        yield one if density is None or one.density or one.width else replace(one, density=density)


def candidates(
    place: Place, prototype: Reference, attribute: str = "srcset", role: Role | None = None
) -> Iterator[Reference]:
    """Yield a reference for each valid image candidate string of a srcset."""
    value = place.get(attribute)
    for entry in parse_srcset(value) if value else ():
        reference = place.at_entry(prototype, attribute, entry, role=role)
        if reference is not None:
            yield reference


def link_around(place: Place, prototype: Reference) -> Iterator[Reference]:
    """Yield the image file that the picture is a link to: mostly its original."""
    link = place.node if place.node.tag == "a" else place.around.link
    raw = target_of(link.attributes).strip() if link is not None else ""
    url = place.resolve(raw)
    if link is None or url is None or _is_of_another(place, link, url):
        return
    element = prototype.element if link is place.node else prototype.element.rpartition(" > ")[0]
    declared = (link.attributes.get("type") or "").strip().lower()
    # What a picture links to is laid out nowhere.
    where = replace(
        prototype,
        found_in=FoundIn.LINK,
        element=element,
        attribute="href",
        role=Role.LINK,
        box=Box(),
        media_type=declared,
        filename=saved_as(link),
    )
    is_image = image_type(url) is not None
    named = [] if is_image else _named_in_link(raw, url)
    for inner in named:
        if (address := place.resolve(inner)) is not None:
            yield replace(where, url=address, raw=inner, role=Role.LAZY, rank=ranks.LARGE)
    if is_image or (not named and is_web(url) and not claims_no_image(url) and _says_image(link)):
        yield replace(where, url=url, raw=raw)
    elif named and is_web(url) and not claims_no_image(url):
        # A script that is given a file's name shows a page with it, or sends the file itself.
        yield replace(where, url=url, raw=raw, role=Role.LAZY, rank=ranks.UNSAID)


def saved_as(link: LexborNode) -> str:
    """Return the name that a link gives the file behind it (``download``; HTML, 4.6.5); empty if it gives none."""
    return (link.attributes.get("download") or "").replace("\\", "/").rpartition("/")[2]


def _is_of_another(place: Place, link: LexborNode, url: str) -> bool:
    """Tell whether what a link around several pictures leads to is that of the first, or of one that is named like it.

    ``url`` is where it leads.
    """
    first = first_of_several(place.walk, link) if link is not place.node else None
    if first is None or first == place.node.mem_id:
        return False
    shown = place.resolve(place.get("src"))
    return shown is None or not named_alike(shown, url)


def _named_in_link(raw: str, url: str) -> list[str]:
    """Return the image files that a link names: a page shows the one in its query, or a script opens it."""
    if "?" not in raw and raw[:11].lower() != "javascript:":
        return []
    return list(in_query(raw) if is_web(url) else in_script(raw, is_handler=True))


def _says_image(link: LexborNode) -> bool:
    """Tell whether a link around a picture says that its target is an image: ``data-type=image``.

    One that opens in a box above the page (``class=lightbox``) says so as well, and one that saves what it leads to.
    """
    attributes = link.attributes
    names = f"{attributes.get('class') or ''} {attributes.get('rel') or ''}"
    if _IN_A_BOX.search(names[:_LONGEST_NAMES]) is not None or "data-lightbox" in attributes:
        return True
    if "download" in attributes and not claims_no_image(attributes["download"] or ""):
        return True
    said = (value for name, value in attributes.items() if name == "type" or name.endswith("-type"))
    return any((value or "").strip().lower().partition("/")[0] == "image" for value in said)


IMG = Finder(_find_img, tags=("img",))
SOURCE = Finder(_find_source, tags=("source",))
