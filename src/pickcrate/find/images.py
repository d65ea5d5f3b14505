"""``img`` and the ``picture`` around it (HTML standard, 4.8.1 to 4.8.4): ``src``, ``srcset``, ``source``."""

from collections.abc import Iterator
from dataclasses import replace

from selectolax.lexbor import LexborNode

from pickcrate.addresses import image_type
from pickcrate.find.place import Finder, Place
from pickcrate.find.srcset import parse_srcset
from pickcrate.values import Reference, Role


def _find_img(place: Place) -> list[Reference]:
    picture = place.around.picture
    prototype = place.prototype("img", cluster=picture if picture is not None else place.node)
    found: list[Reference] = []
    if (shown := place.at(prototype, "src", place.get("src"))) is not None:
        found.append(shown)
    sizes = list(candidates(place, prototype, role=Role.SIZE))
    if sizes and not found:  # srcset alone: its first entry is as good a shown picture as any
        sizes[0] = replace(sizes[0], role=Role.SHOWN)
    found.extend(sizes)
    if found and (link := _link_around(place, prototype)) is not None:
        found.append(link)
    return found


def _find_source(place: Place) -> list[Reference]:
    if place.around.picture is None:  # a source of audio or video
        return []
    prototype = place.prototype("picture", cluster=place.around.picture, role=Role.SIZE)
    return list(candidates(place, replace(prototype, media_type=place.get("type").strip().lower())))


def candidates(
    place: Place, prototype: Reference, attribute: str = "srcset", role: Role | None = None
) -> Iterator[Reference]:
    """Yield a reference for each valid image candidate string of a srcset."""
    value = place.get(attribute)
    for entry in parse_srcset(value) if value else ():
        reference = place.at_entry(prototype, attribute, entry, role=role)
        if reference is not None:
            yield reference


def _link_around(place: Place, prototype: Reference) -> Reference | None:
    """Return the image file that the picture is a link to: mostly its original."""
    link = place.around.link
    if link is None or not prototype.link or image_type(prototype.link) is None:
        return None
    return replace(
        prototype,
        url=prototype.link,
        raw=(link.attributes.get("href") or "").strip(),
        found_in="link",
        element=prototype.element.rpartition(" > ")[0],
        attribute="href",
        role=Role.LINK,
    )


def shows_a_picture(link: LexborNode) -> bool:
    """Tell whether a link wraps an ``img``, so that its target belongs to that picture."""
    return link.css_first("img") is not None


IMG = Finder(_find_img, tags=("img",))
SOURCE = Finder(_find_source, tags=("source",))
