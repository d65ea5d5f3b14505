"""A page behind a thumbnail: which thumbnails lead to one, and which picture there is the same one, larger."""

import re
from collections.abc import Iterable

from msgspec import Struct

from pickcrate.addresses.ranks import UNSAID
from pickcrate.addresses.url import (
    SHORTEST_STEM,
    bare_stem,
    claims_no_image,
    file_parts,
    image_type,
    is_drawing,
    is_web,
    path_of,
    without_fragment,
)
from pickcrate.read.fields.contenttype import PAGE_EXTENSIONS
from pickcrate.text.enlarging import says_full_size
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.reference import Reference, Role

_PAGES = PAGE_EXTENSIONS | {"php", "asp", "aspx", "jsp", "cgi", ""}
_FRONT_PAGES = frozenset(("", "index", "home", "default"))
_LARGER = lazy(r"original|full|high|large|download|hi-?res|\d{3,}\s*[x×]\s*\d{3,}", re.IGNORECASE)
_FURNITURE = lazy(r"\b(?:header|footer|nav|aside)\b", re.IGNORECASE)
_SMALLEST = 50
"""Pixels of a side: what a page lays out smaller than this is an icon and no thumbnail."""

_LARGE = 1600
"""Pixels of a width: what a page itself has in this size is no thumbnail."""

_LEAST_SCORE = 3


def leads_to_page(image: Image) -> str:
    """Return the page that a thumbnail leads to, or that of its item; an empty text if it leads to none.

    Pictures that are larger already, drawings, icons, and what leads to a site's front page or to the page itself lead
    nowhere.
    """
    shown = image.shown
    if not shown.is_laid_out or is_drawing(shown.url) or _is_icon(shown) or _is_large(image):
        return ""
    here = {without_fragment(shown.page), without_fragment(shown.home)}
    links = (link for link in (shown.link, image.item.url) if link and without_fragment(link) not in here)
    return next(filter(_may_be_page, links), "")


def _is_large(image: Image) -> bool:
    """Tell whether something larger than a thumbnail is known: more than what it is on other screens."""
    if image.url == image.shown.url:
        return False
    own = [reference for reference in image.references if reference.url == image.url]
    return not own or not all(map(_is_of_thumbnail, own))


def _is_of_thumbnail(reference: Reference) -> bool:
    """Tell whether an address is one of a thumbnail's own sizes, or what a script puts in its place."""
    if reference.role is Role.SIZE:
        return (reference.width or 0) < _LARGE
    return reference.role is Role.SHOWN or (reference.role is Role.LAZY and reference.rank <= UNSAID)


def _is_icon(shown: Reference) -> bool:
    return _is_small(shown) or _FURNITURE.search(shown.element) is not None


def _is_small(shown: Reference) -> bool:
    """Tell whether a picture is laid out as small as icons are, as far as its page states its sides."""
    return any(side is not None and side < _SMALLEST for side in (shown.box.width, shown.box.height))


def _may_be_page(link: str) -> bool:
    """Tell whether a link may lead to a page with a picture on it: to no file, and to no site's front page."""
    if not is_web(link):
        return False
    if image_type(link) is not None and not claims_no_image(link):
        return False
    name, extension = file_parts(link)
    if name.lower() in _FRONT_PAGES and path_of(link).count("/") <= 1 and "?" not in link:
        return False
    return extension.lower() in _PAGES or "?" in link or not claims_no_image(link)


class Match(Struct, frozen=True):
    """A picture on the page behind a thumbnail; one that is named alike may have another shape: a crop."""

    image: Image
    is_kin: bool


def matches(images: Iterable[Image], thumbnail: Image) -> list[Match]:
    """Return the pictures of the page behind that may be ``thumbnail``, likeliest first."""
    images = [image for image in images if not image.url.startswith("data:")]
    largest = max((_area(image) for image in images), default=0)
    shown = [image for image in images if _is_shown_large(image) and image.url != thumbnail.url]
    sole = shown[0] if len(shown) == 1 else None
    scored: list[tuple[int, Image, bool]] = []
    for image in images:
        is_kin = _is_kin(image, thumbnail)
        score = 10 * is_kin
        score += 2 * (largest > 0 and _area(image) == largest) + image.shown.is_laid_out
        score += 3 * (image.shown.found_in == FoundIn.META and image.shown.attribute in {"content", "href"})
        words, own = image.shown.words, thumbnail.shown.words
        score += 2 * bool(own.alt and own.alt in {words.alt, words.title, words.caption})
        score += 5 * (image.shown.found_in == FoundIn.LINK and _is_larger(words.link_text, words.title))
        score += _LEAST_SCORE * (image is sole)  # however it is called: its shape has to prove it
        score -= 6 * bool(_FURNITURE.search(image.shown.element))
        score -= 10 * (0 < _area(image) < _SMALLEST**2)
        if score >= _LEAST_SCORE and image.url != thumbnail.url:
            scored.append((score, image, is_kin))
    scored.sort(key=lambda entry: -entry[0])
    return [Match(image, is_kin) for _, image, is_kin in scored]


def _is_larger(*said: str) -> bool:
    """Tell whether a link says that it leads to a larger version."""
    return _LARGER.search(" ".join(said)) is not None or any(map(says_full_size, said))


def _is_shown_large(image: Image) -> bool:
    """Tell whether a page shows a picture for its own sake: not small, and not as part of its frame."""
    return image.shown.is_laid_out and not _is_icon(image.shown)


def _area(image: Image) -> int:
    box = image.shown.box
    return (box.width or 0) * (box.height or 0)


def _is_kin(image: Image, thumbnail: Image) -> bool:
    own = bare_stem(thumbnail.shown.url)
    names = {bare_stem(image.url), *(bare_stem(reference.url) for reference in image.references)}
    return len(own) >= SHORTEST_STEM and own in names
