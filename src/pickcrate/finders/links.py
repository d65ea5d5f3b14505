"""Links to image files from words alone: ``a`` and ``area`` with an ``href`` (HTML standard, 4.6.2)."""

import re
from collections.abc import Callable, Mapping

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate import media
from pickcrate.addresses.url import bare_stem, claims_no_image, image_type, is_web, split_extension
from pickcrate.finders.alone import PICTURED, only_picture, picture_alone, shows_a_picture
from pickcrate.finders.data.attributevalues import in_value
from pickcrate.finders.data.literals import EXTENSION, in_script
from pickcrate.finders.images import saved_as
from pickcrate.finders.place import DEEPEST_ASKED, Finder, Place, Walk
from pickcrate.text.enlarging import says_full_size
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role

_CLIMB = 4
"""Elements around a link that are looked at for the picture it may belong to."""

_LONGEST_LABEL = 60
_LARGER = lazy(
    r"original|full|large|big|zoom|enlarge|expand|magnif|high|hi-?res|download|save|view|open|lightbox|max|\d\s*[x×]\s*\d|"
    r"\b[kMG]i?B\b|^\W*$",
    re.IGNORECASE,
)
_FORMAT = lazy(
    r"\b(?:jpe?g|png|gif|webp|tiff?|svg|avif|\d{3,5}\s?(?:px|w|pixels)|small|medium|[smlx]{1,3})\b", re.IGNORECASE
)
"""what is said of one of several sizes or formats, where its name says as well that it is one"""

_SAYING = frozenset(("type", "download"))
"""attributes by which a link says what it leads to"""

_MOST_SIZES = 12


def _find_link(place: Place) -> list[Reference]:
    href, declared = place.get("href"), _declared_type(place.attributes)
    if declared is None and EXTENSION.search(href) is None:  # most links; to resolve an address costs twenty times that
        return _find_by_words(place, href) if _says_full_size(place.walk, place.node, place.attributes) else []
    raws = _targets(href)
    urls = [place.resolve(raw) for raw in raws]
    is_image = declared is not None or any(url is not None and image_type(url) is not None for url in urls)
    if not is_image or shows_a_picture(place.node):
        return []
    text = place.walk.text(place.node)
    prototype = place.prototype(FoundIn.LINK, cluster=_beside(place, text, raws) or place.node, role=Role.LINK)
    prototype = replace(prototype, media_type=declared or "")
    words = replace(prototype.words, link_text=text)
    found = (place.at(replace(prototype, words=words), "href", raw) for raw in raws)
    name = saved_as(place.node)
    return [replace(reference, filename=name) for reference in found if reference is not None]


def _find_by_words(place: Place, href: str) -> list[Reference]:
    """Return what a link leads to that says so by its words alone: it is of the picture beside it, or of none."""
    if (url := place.resolve(href)) is None or not is_web(url) or claims_no_image(url) or shows_a_picture(place.node):
        return []
    text = place.walk.text(place.node)
    picture = _beside(place, text, [href])
    if picture is None:
        return []
    prototype = place.prototype(FoundIn.LINK, cluster=picture, role=Role.LINK)
    found = place.at(replace(prototype, words=replace(prototype.words, link_text=text)), "href", href)
    return [replace(found, filename=saved_as(place.node))] if found is not None else []


def _says_full_size(walk: Walk, link: LexborNode, attributes: Mapping[str, str | None]) -> bool:
    """Tell whether a link that names no image says that it leads to one in full size, or saves what it leads to."""
    href = attributes.get("href") or ""
    if href[:1] in {"", "#"} or (":" in href[:11] and not href.startswith("http")):
        return False
    if "download" in attributes:
        return not attributes["download"]
    return says_full_size(walk.text(link) or attributes.get("title") or attributes.get("aria-label") or "")


def _declared_type(attributes: Mapping[str, str | None]) -> str | None:
    """Return the media type of the image that a link says to lead to; None if it says nothing of the kind.

    It says so by its ``type``, or by the name that its target is to be saved under (``download``; HTML, 4.6.2).
    """
    if _SAYING.isdisjoint(attributes):  # as most
        return None
    kind = media.by_media_type(attributes.get("type") or "")
    if kind is None and (name := attributes.get("download")):
        kind = media.by_extension(split_extension(name)[1])
    return kind.media_types[0] if kind is not None else None


def _targets(href: str) -> list[str]:
    """Return the addresses that a link leads to: those of its script, if it is one."""
    return list(in_script(href, is_handler=True)) if href[:11].lower() == "javascript:" else [href]


def _beside(place: Place, text: str, targets: list[str]) -> LexborNode | None:
    """Return the one picture that a link stands beside or lies over, if its words are about that picture's size.

    If they are about something else, it belongs to that picture where it leads to a file that is named so.
    The smallest element around the link that holds a picture at all decides; if it holds other links to images as
    well, nothing does.
    """
    walk, link = place.walk, place.node
    attributes = link.attributes
    said = " ".join(filter(None, (text, attributes.get("title"), attributes.get("aria-label"))))
    is_about_size = not said or _LARGER.search(said) is not None or says_full_size(said)
    is_said = is_about_size or any(map(str.isalpha, said))  # a number may be that of another picture
    if len(said) > _LONGEST_LABEL or not is_said or place.around.depth > DEEPEST_ASKED:
        return None
    inner, container = link, link.parent
    for _ in range(_CLIMB):
        if container is None or not container.is_element_node or container.tag in {"table", "tbody"}:
            return None
        held = walk.pictures.get(container.mem_id)
        if held is None:
            is_whole = container.tag in {"body", "main"}
            held = walk.pictures[container.mem_id] = is_whole or _picture_for_a_link(place, container)
        if isinstance(held, LexborNode):
            return held if is_about_size or _is_named_as(place, held, targets) else None
        if held:
            return _next_to(place, inner, targets) if is_about_size or _FORMAT.search(said) else None
        inner, container = container, container.parent
    return None


def _picture_for_a_link(place: Place, container: LexborNode) -> LexborNode | bool:
    """Return the one picture in an element whose links to images are to it; True if there are several, False if none.

    To it lead one link, or several that differ from its name in what marks a size alone.
    """
    if container.css_first(PICTURED) is None:
        return False
    links = ((a, a.attributes) for a in container.css("a[href]"))
    hrefs = (said.get("href") or "" for a, said in links if _may_lead_to_image(place.walk, a, said))
    targets = [target for href in hrefs for target in _targets(href)]
    picture = only_picture(container) if 0 < len(targets) <= _MOST_SIZES else None
    if picture is None or (len(targets) > 1 and not _is_named_as(place, picture, targets)):
        return True
    return picture


def _may_lead_to_image(walk: Walk, link: LexborNode, attributes: Mapping[str, str | None]) -> bool:
    is_named = EXTENSION.search(attributes.get("href") or "") is not None or _declared_type(attributes) is not None
    return is_named or _says_full_size(walk, link, attributes)


def _next_to(place: Place, block: LexborNode, targets: list[str]) -> LexborNode | None:
    """Return the one picture of the element right behind a block of links, or right before it, if it is named so."""
    for beside in (_element(block.next, lambda node: node.next), _element(block.prev, lambda node: node.prev)):
        picture = picture_alone(place.walk, beside) if beside is not None else None
        if picture is not None and _is_named_as(place, picture, targets):
            return picture
    return None


def _element(node: LexborNode | None, step: Callable[[LexborNode], LexborNode | None]) -> LexborNode | None:
    """Return the first element from ``node`` on, past blank texts alone."""
    while node is not None and node.is_text_node and not (node.text_content or "").strip():
        node = step(node)
    return node if node is not None and node.is_element_node else None


def _is_named_as(place: Place, picture: LexborNode, targets: list[str]) -> bool:
    """Tell whether all ``targets`` are named as a picture is, sizes aside."""
    values = [value for value in picture.attributes.values() if value and EXTENSION.search(value)]
    own = _stems(place, [entry.url for value in values for entry in in_value(value)])
    stems = _stems(place, targets)
    return bool(stems) and stems <= own


def _stems(place: Place, raws: list[str]) -> set[str]:
    """Return what addresses are called, sizes aside."""
    return {bare_stem(url) for url in map(place.resolve, raws) if url is not None}


LINK = Finder(_find_link, tags=("a", "area"))
