"""Links to image files from words alone: ``a`` and ``area`` with an ``href`` (HTML standard, 4.6.2)."""

import re

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.addresses import image_type
from pickcrate.finders.images import PICTURED, only_picture, shows_a_picture
from pickcrate.finders.literals import EXTENSION, in_script
from pickcrate.finders.place import Finder, Place, Walk
from pickcrate.lazyre import lazy
from pickcrate.values import Reference, Role

_CLIMB = 4
"""Elements around a link that are looked at for the picture it may belong to."""

_LONGEST_LABEL = 60
_LARGER = lazy(
    r"original|full|large|big|zoom|enlarge|expand|magnif|high|hi-?res|download|save|view|open|lightbox|max|\d\s*[x×]\s*\d|"
    r"\b[kMG]i?B\b|^\W*$",
    re.IGNORECASE,
)


def _find_link(place: Place) -> list[Reference]:
    href = place.get("href")
    if EXTENSION.search(href) is None:  # most links; resolving an address costs twenty times as much
        return []
    raws = list(in_script(href, is_handler=True)) if href[:11].lower() == "javascript:" else [href]
    urls = [place.resolve(raw) for raw in raws]
    if not any(url is not None and image_type(url) is not None for url in urls) or shows_a_picture(place.node):
        return []
    text = place.walk.text(place.node)
    prototype = place.prototype("link", cluster=_beside(place.walk, place.node, text) or place.node, role=Role.LINK)
    words = replace(prototype.words, link_text=text)
    found = (place.at(replace(prototype, words=words), "href", raw) for raw in raws)
    return [reference for reference in found if reference is not None]


def _beside(walk: Walk, link: LexborNode, text: str) -> LexborNode | None:
    """Return the one picture that a link stands beside or lies over, if its words are about that picture's size.

    The smallest element around the link that holds a picture at all decides; if it holds other links to images as
    well, nothing does.
    """
    attributes = link.attributes
    said = " ".join(filter(None, (text, attributes.get("title"), attributes.get("aria-label"))))
    if len(said) > _LONGEST_LABEL or (said and not _LARGER.search(said)):
        return None
    container = link.parent
    for _ in range(_CLIMB):
        if container is None or not container.is_element_node or container.tag in {"body", "main", "table", "tbody"}:
            return None
        held = walk.pictures.get(container.mem_id)
        if held is None:
            held = walk.pictures[container.mem_id] = _picture_for_a_link(container)
        if held:
            return held if isinstance(held, LexborNode) else None
        container = container.parent
    return None


def _picture_for_a_link(container: LexborNode) -> LexborNode | bool:
    """Return the one picture in an element with one link to an image; True if there are several, False if none."""
    if container.css_first(PICTURED) is None:
        return False
    targets = [a.attributes.get("href") or "" for a in container.css("a[href]")]
    if sum(map(bool, map(EXTENSION.search, targets))) != 1:
        return True
    return only_picture(container) or True


LINK = Finder(_find_link, tags=("a", "area"))
