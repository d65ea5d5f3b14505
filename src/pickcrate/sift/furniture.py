"""Furniture: pictures that dress a page rather than belong to it, told from evidence that is weighed and can be read.

Icons, logos, spacers, trackers, sprites, avatars. One strong sign is enough (an element of one pixel, a link relation
that says icon), of weak ones it takes two (an icon's size, a place in the header, a word in the address). What is
judged is the picture that would be fetched: a spacer that a script puts a photograph in place of is that photograph.
"""

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import replace

from pickcrate.addresses import last_segment, path_of, split_extension
from pickcrate.values import Image, Role

_ENOUGH = 2
_TRACKER, _ICON, _SMALL, _LARGE = 3, 32, 72, 400
"""Pixels of the longer side: a tracker or spacer, an icon, still small, and what is no furniture by its size."""

_OFTEN = 3
_STRONG_WORDS = re.compile(
    r"(?:^|[\W_\d])(?:spacer|pixel|1x1|tracking|tracker|beacon|sprites?|favicon|blank|transparent|clear|captcha|"
    r"hitcounter|ajax-loader|loader|loading|spinner|placeholder)(?:[\W_\d]|$)"
)
_WORDS = re.compile(
    r"(?:^|[\W_\d])(?:logos?|logotype|icons?|ico|icn|glyph|badges?|buttons?|btn|bullets?|arrows?|chevron|caret|avatars?|"
    r"gravatar|userpic|flags?|stars?|rating|emoji|emoticons?|smil(?:ey|ies|eys)|social|share|rss|feed|search|menu|"
    r"hamburger|close|play|prev|previous|next|back|up|down|left|right|checkmark|tick|cross|plus|minus|print|mail|email|"
    r"phone|cart|basket|login|user|home|edit|external|download|powered|counter|border|corner|shadow|divider|separator|"
    r"gradient|bg|background|texture|pattern|header|footer|banner|ads?|advert|sponsor|partner|payment|visit)(?:[\W_\d]|$)"
)
_FRAME = re.compile(
    r"(?:^|> )(?:header|footer|nav|aside|button)\b|\b(?:nav|menu|header|footer|masthead|sidebar|"
    r"toolbar|breadcrumbs?|social|share|badge|logo|icon)\b",
    re.IGNORECASE,
)
_BACKDROP = re.compile(r"background|bg|texture|pattern|gradient|shadow|border|corner|divider")
_ICON_RELATIONS = frozenset(("icon", "apple-touch-icon", "mask-icon", "fluid-icon"))


def mark(images: Iterable[Image]) -> list[Image]:
    """Return the images of one page, with the reason on each that looks like furniture."""
    images = list(images)
    places = Counter(image.url for image in images for r in image.references if r.role is Role.SHOWN)
    pairs = ((image, "; ".join(_evidence(image, places[image.url]))) for image in images)
    return [replace(image, furniture=reason) if reason else image for image, reason in pairs]


def _evidence(image: Image, places: int) -> list[str]:
    """Return what speaks for furniture, if it is enough; an empty list if not."""
    if strong := next(_strong(image), ""):
        return [strong]
    longer = _longer_side(image)
    if (longer is not None and longer >= _LARGE) or _is_linked_original(image):
        return []
    weak = list(_weak(image, places, longer))
    weight = sum(points for points, _ in weak)
    return [words for _, words in weak] if weight >= _ENOUGH else []


def _strong(image: Image) -> Iterator[str]:
    shown = image.shown
    longer, shorter = _longer_side(image), _shorter_side(image)
    if shorter is not None and shorter <= _TRACKER and (longer is None or longer < _LARGE):
        yield f"{shorter} pixel{'' if shorter == 1 else 's'} on one side: a spacer or a tracker"
    if shown.found_in == "meta" and shown.element.rpartition(" > ")[2].startswith("link") and _is_icon_link(image):
        yield "the page's icon"
    if match := _STRONG_WORDS.search(_name(image.url)):
        yield f"its address says {match[0].strip(_EDGES)}"


def _weak(image: Image, places: int, longer: int | None) -> Iterator[tuple[int, str]]:
    shown = image.shown
    if longer is not None and longer <= _ICON:
        yield 2, f"as small as an icon ({longer} pixels)"
    elif longer is not None and longer <= _SMALL:
        yield 1, f"small ({longer} pixels)"
    if _FRAME.search(shown.element):
        yield 1, "in the page's frame (header, footer, navigation, …)"
    if match := _WORDS.search(_name(image.url)):
        yield 1, f"its address says {match[0].strip(_EDGES)}"
    elif match := _WORDS.search(shown.words.alt.casefold()):
        yield 1, f"its words say {match[0].strip(_EDGES)}"
    if places >= _OFTEN:
        yield 1, f"shown {places} times"
    if shown.found_in == "svg" and (longer is None or longer <= _SMALL):
        yield 1, "drawn in the page"
    if shown.found_in == "meta" and "manifest" in shown.attribute + shown.element:
        yield 2, "an icon of the web application"


_EDGES = " ._-/0123456789()[]&?=%+,"


def _is_icon_link(image: Image) -> bool:
    """Tell whether a ``link`` element's picture is an icon; ``image_src`` and preloaded pictures are not."""
    return (
        image.shown.attribute == "href"
        and (image.shown.element.endswith(("link", ".icon")) and "icon" in _name(image.shown.url))
    ) or any(relation in image.shown.attribute for relation in _ICON_RELATIONS)


def _is_linked_original(image: Image) -> bool:
    """Tell whether the page links the picture to a larger file of its own: nobody does that with an icon."""
    return image.url != image.shown.url and any(reference.role is Role.LINK for reference in image.references)


def _longer_side(image: Image) -> int | None:
    sides = _sides(image)
    return max(sides) if sides else None


def _shorter_side(image: Image) -> int | None:
    sides = _sides(image)
    return min(sides) if sides else None


def _sides(image: Image) -> list[int]:
    """Return the sides that are known of what is shown: measured ones, else as laid out."""
    measures = image.best.measures
    if image.url == image.shown.url and measures.width and measures.height:
        return [measures.width.value, measures.height.value]
    box = image.shown.box
    return [side for side in (box.width, box.height) if side is not None]


def _name(address: str) -> str:
    """Return the last two segments of an address's path, lower case, without its extension."""
    if address.startswith("data:"):
        return ""
    folder = path_of(address).rpartition("/")[0].rpartition("/")[2]
    return f"{folder}/{split_extension(last_segment(address))[0]}".casefold()
