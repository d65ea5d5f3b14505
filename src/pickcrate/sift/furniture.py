"""Furniture: pictures that dress a page rather than belong to it, told from where they stand and what they are.

Icons, logos, spacers, trackers, sprites, rules, buttons, avatars, badges. What is judged is the picture that would be
fetched: a spacer that a script puts a photograph in place of is that photograph, an emblem whose original was proved is
that original. A picture that differs from item to item is what the items are about, however small; the same one in
every item dresses them. Words in addresses and classes are the weakest evidence: they only add to another sign, unless
a small drawing's own file is called a button, an icon or a placeholder.
"""

import re
from collections.abc import Callable, Iterable
from urllib.parse import unquote

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import decode_data, file_parts, is_drawing, is_front_page, is_of_site, is_web
from pickcrate.items.said.posts import Face
from pickcrate.sift import called
from pickcrate.sift.seen import (
    BADGE,
    BUTTON,
    ICON,
    OFTEN,
    Seen,
    all_seen,
    alone,
    is_free,
    is_nameless,
    is_payment,
    leads_away,
    name_of,
)
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure
from pickcrate.values.reference import Role

_ENOUGH = 2
_TRACKER, _LOW, _SMALL, _LARGE = 3, 24, 72, 400
"""Pixels of a side: a tracker or spacer, a row of stars, still small, no furniture."""

_AS_SMALL, _AS_LARGE = (16, 16), (1_600, 1_200)
"""sides of what is an icon for sure, and of what is none"""

_RULE, _BANNER = 8, 4
"""How many times as long as high a line across a page is; and a banner above it."""

_LONGEST_EMPTY = 1_000
_DRAWN = lazy(rb"<(?:path|rect|circle|ellipse|line|poly|text|image|use|foreignobject)", re.IGNORECASE)
_WRITTEN = lazy(r"comment|reply|replies|message|review|byline|author|testimonial|chat|thread|post-?meta")
_NO_SCRIPT = lazy(r"(?:^|> )noscript\b")
_STRAY = lazy(r"(?:html\S* > )?body\S* > img\S*")
_ADVERTISEMENTS = frozenset(
    ((468, 60), (728, 90), (970, 250), (970, 90), (300, 250), (336, 280), (160, 600), (120, 600), (234, 60), (320, 50))
)
_WEB_BUTTONS = frozenset(((88, 31), (80, 15)))
"""the usual sizes of buttons that name a standard, a program or a network"""
_PROGRAMS = frozenset(("php", "cgi", "pl", "asp", "aspx"))
_PHOTOGRAPHS = frozenset(("jpg", "jpeg", "png", "webp", "avif"))


def mark(images: Iterable[Image]) -> list[Image]:
    """Return the images of one page, with the reason on each that looks like furniture."""
    images = list(images)
    pairs = ((seen.image, _reason(seen)) for seen in all_seen(images))
    return [replace(image, furniture=reason) if image.furniture != reason else image for image, reason in pairs]


def doubtful(images: Iterable[Image]) -> list[Image]:
    """Return the images of one page of which their size would decide, and it is not known."""
    images = list(images)
    unsized = {image.number for image in images if alone(image).longer is None}
    small, large = (_told_if(images, unsized, sides) for sides in (_AS_SMALL, _AS_LARGE))
    return [image for image in images if image.number in unsized and small[image.number] != large[image.number]]


def _told_if(images: list[Image], unsized: set[int], sides: tuple[int, int]) -> dict[int, bool]:
    """Return which images would be furniture if those without a size had these sides."""
    width, height = (Measure(side, Grade.DECLARED) for side in sides)
    sized = [
        image.measured(replace(image.best.measures, width=width, height=height)) if image.number in unsized else image
        for image in images
    ]
    return {seen.image.number: bool(_reason(seen)) for seen in all_seen(sized)}


def is_plain(image: Image) -> bool:
    """Tell whether a picture is furniture whatever larger version of it there may be: a page's icon, a tracker."""
    seen = alone(image)
    return bool(_icon_of_page(seen) or ((_spacer(seen) or _empty(seen)) and len(image.candidates) <= 1))


# --- the signs ---


def _icon_of_page(seen: Seen) -> str:
    """Hold of a ``link`` whose relation is an icon's, of a manifest's icon, of a tile (HTML standard, 4.6.7.8)."""
    shown = seen.image.shown
    if shown.found_in != FoundIn.META:
        return ""
    if shown.relation == "icon":
        return "the page's icon"
    return "an icon of the web application" if shown.attribute == "icons" else ""


def _spacer(seen: Seen) -> str:
    if seen.shorter is None or seen.shorter > _TRACKER or (seen.longer or 0) >= _LARGE:
        return ""
    return f"{seen.shorter} pixel{'' if seen.shorter == 1 else 's'} on one side: a spacer or a tracker"


def _empty(seen: Seen) -> str:
    """Hold of a drawing in its own address on which nothing is drawn: it keeps the place of a picture to come."""
    url = seen.image.url
    if not is_drawing(url) or len(url) > _LONGEST_EMPTY:
        return ""
    decoded = decode_data(url)
    is_empty = decoded is not None and _DRAWN.search(decoded[1]) is None
    return "an empty drawing, which holds a picture's place" if is_empty else ""


def _drawn_by_sheet(seen: Seen) -> str:
    is_drawn = seen.image.shown.found_in == FoundIn.CSS and is_drawing(seen.image.url)
    return "a drawing that a style sheet holds itself" if is_drawn else ""


def _in_frame(seen: Seen) -> str:
    return "in the page's frame (header, footer, navigation)" if seen.image.shown.is_framed else ""


def _strip_in_frame(seen: Seen) -> str:
    """Hold of what a style lays behind a bar of the page's frame, however wide it is; a photograph there is high."""
    shown = seen.image.shown
    is_strip = seen.shorter is not None and seen.shorter <= BADGE and shown.found_in == FoundIn.CSS
    return "a strip behind the page's frame" if is_strip and shown.is_framed else ""


def _backdrop(seen: Seen) -> str:
    shown = seen.image.shown
    last = shown.element.rpartition(" > ")[2].partition(".")[0].partition("#")[0].lower()
    is_old = shown.found_in == FoundIn.BACKGROUND
    # Custom properties only hold what others draw.
    is_drawn = shown.found_in == FoundIn.CSS and not shown.attribute.startswith("--")
    is_whole = is_drawn and last in {"body", "html", ":root", "*"}
    return "the background of the page, or of a table" if is_old or is_whole else ""


def _pointer(seen: Seen) -> str:
    """Hold of what a style gives the pointer as its shape (CSS Basic User Interface 4, 5.1.1)."""
    shown = seen.image.shown
    is_one = shown.found_in == FoundIn.CSS and shown.attribute == "cursor"
    return "the shape of the pointer" if is_one else ""


def _sprite(seen: Seen) -> str:
    shown = seen.image.shown
    is_of_rule = shown.found_in == FoundIn.CSS and len(shown.anchors) > OFTEN
    return "one style rule gives it to several elements" if is_of_rule else ""


def _pseudo(seen: Seen) -> str:
    """Hold of a background of what a style sheet puts before or behind an element (CSS Pseudo-Elements 4, 4)."""
    shown = seen.image.shown
    is_made = shown.found_in == FoundIn.CSS and re.search(r"::|:(?:before|after)\b", shown.element) is not None
    return "before or behind an element, by a style rule" if is_made else ""


def _icon(seen: Seen) -> str:
    """Hold of what is as small as an icon, but for what an item is about; of a drawing in the page even so."""
    is_drawn = seen.image.shown.found_in == FoundIn.SVG and seen.is_at_most(_LOW)
    is_icon = seen.is_at_most(ICON) and (is_drawn or not seen.is_about)
    return f"as small as an icon ({seen.longer} pixels)" if is_icon else ""


def _small(seen: Seen) -> str:
    if not seen.is_at_most(_SMALL) or seen.is_at_most(ICON) or seen.is_about:
        return ""
    return f"small ({seen.longer} pixels)"


def _low(seen: Seen) -> str:
    is_low = seen.shorter is not None and seen.shorter <= _LOW and (seen.longer or 0) <= BADGE
    return f"low ({seen.shorter} pixels)" if is_low and not seen.is_at_most(_SMALL) and not seen.is_about else ""


def _line(seen: Seen) -> str:
    says_something = any(map(str.isalnum, seen.image.shown.words.alt))
    if seen.longer is None or not seen.shorter or seen.is_about or says_something:
        return ""
    return "a line across" if seen.longer >= _RULE * seen.shorter and seen.shorter <= ICON else ""


def _in_every_item(seen: Seen) -> str:
    is_usual = seen.items >= OFTEN and seen.items * 10 >= seen.image.item.like * 6
    return f"the same in {seen.items} items" if is_usual else ""


def _repeated(seen: Seen) -> str:
    return f"shown {seen.places} times" if seen.places >= OFTEN and not seen.is_about else ""


def _often_and_small(seen: Seen) -> str:
    """Hold of the same small picture again and again: a bullet, a star, an arrow."""
    return "again and again, and small" if seen.places >= OFTEN and seen.is_at_most(_SMALL) else ""


def _home(seen: Seen) -> str:
    """Hold of a picture outside all items that leads to the front page of its site: that site's logo."""
    image = seen.image
    link = image.shown.link
    home = image.shown.home if is_web(link) else image.shown.page
    leads = is_web(link) or link.startswith("file:")
    is_logo = leads and is_free(image.item) and is_front_page(link, home)
    return "it leads to the front page" if is_logo else ""


def _banner(seen: Seen) -> str:
    """Hold of what is far wider than high and leads to the front page: the head of an old page, however large."""
    is_wide = seen.shorter is not None and (seen.longer or 0) >= _BANNER * seen.shorter
    return "a banner" if is_wide and _home(seen) else ""


def _button(seen: Seen) -> str:
    item = seen.image.item
    is_one = (seen.row > 1 and is_nameless(item)) or (seen.row >= OFTEN and is_free(item))
    return f"one of {seen.row} low pictures that lead somewhere" if is_one else ""


def _elsewhere(seen: Seen) -> str:
    """Hold of a small picture without words of its own that leads to another site: a badge, a button of a network."""
    nameless = is_nameless(seen.image.item)
    is_badge = seen.is_at_most(BUTTON) or (seen.shorter is not None and seen.shorter <= ICON) or _is_wide(seen)
    nameless |= (seen.longer, seen.shorter) in _WEB_BUTTONS
    return "small, and leads to another site" if leads_away(seen.image) and nameless and is_badge else ""


def _passes_on(seen: Seen) -> str:
    """Hold of what leads to another site with an address of this one in its query: it tells others of the page."""
    shown = seen.image.shown
    if "?" not in shown.link or not leads_away(seen.image) or not is_web(shown.home):
        return ""
    values = (unquote(part.partition("=")[2]) for part in shown.link.partition("?")[2].split("&"))
    is_passed = any(is_web(value) and is_of_site(value, shown.home) for value in values)
    return "it passes the page on to another site" if is_passed else ""


def _is_wide(seen: Seen) -> bool:
    """Tell whether a picture is as low as a button and at least twice as wide."""
    return seen.shorter is not None and seen.shorter <= BUTTON and (seen.longer or 0) >= 2 * seen.shorter


def _advertisement(seen: Seen) -> str:
    """Hold of a picture of a size that is sold for advertisements, and that leads to another site."""
    away = leads_away(seen.image)
    return "of an advertisement's size, and leads to another site" if away and seen.sides in _ADVERTISEMENTS else ""


def _in_sentence(seen: Seen) -> str:
    return "a sign in the midst of a sentence" if seen.image.shown.is_in_sentence else ""


def _drawing(seen: Seen) -> str:
    """Hold of a drawing in the page itself that is small, or of which nothing says that it is not."""
    shown = seen.image.shown
    is_drawn = shown.found_in == FoundIn.SVG and shown.url.startswith("data:") and not seen.is_about
    return "drawn in the page" if is_drawn and (seen.longer is None or seen.longer <= _SMALL) else ""


def _face(seen: Seen) -> str:
    """Hold of a small face beside the picture that an item is about."""
    if seen.face is Face.NONE:
        return ""
    if seen.has_other_beside:
        return "a face beside something else"
    image = seen.image
    words = f"{image.shown.element} {name_of(image.url)} {image.shown.words.alt}".casefold()
    return "a face beside what somebody wrote" if _WRITTEN.search(words) else ""


def _keyed(seen: Seen) -> str:
    """Hold of a face or a mark, by its key, beside the picture that a thing in data is about."""
    return seen.keyed.value if seen.keyed is not None else ""


def _first(seen: Seen) -> str:
    return "the first of the page" if seen.is_first and is_free(seen.image.item) else ""


def _dressing(seen: Seen) -> str:
    """Hold of a background that a style sheet gives to something that is no item."""
    image = seen.image
    is_dressing = image.shown.found_in == FoundIn.CSS and image.shown.attribute != "style" and is_free(image.item)
    return "a background by a style sheet" if is_dressing else ""


def _network(seen: Seen) -> str:
    """Hold of what leads to another site, and is no picture of an item with words of its own."""
    is_small = seen.longer is None or seen.longer <= BADGE
    away = is_small and is_nameless(seen.image.item) and leads_away(seen.image)
    return "it leads to another site" if away else ""


def _payment(seen: Seen) -> str:
    """Hold of one of several marks of ways to pay."""
    return "the mark of a way to pay" if seen.payments > 1 and is_payment(seen.image) else ""


def _counter(seen: Seen) -> str:
    """Hold of what asks another site or a program for something that is no file, as a page without scripts does alone.

    Or as none of its parts does: it stands right in the page. It counts visits.
    """
    image = seen.image
    is_small = (seen.longer or 0) <= _TRACKER or (seen.longer, seen.shorter) in _WEB_BUTTONS
    if image.shown.words.alt or not is_small or not is_web(image.url):
        return ""
    extension = file_parts(image.url)[1].lower()
    is_asked_for = extension in _PROGRAMS or not is_of_site(image.url, image.shown.home)
    if extension in _PHOTOGRAPHS or not is_asked_for:
        return ""
    elements = [reference.element for reference in image.references]
    if all(map(_NO_SCRIPT.search, elements)):
        return "for browsers without scripts alone: a counter or an advertisement"
    is_stray = "?" in image.url and all(map(_STRAY.fullmatch, elements))
    return "beside all that the page shows, with parameters and no file: a counter" if is_stray else ""


class _Sign(Struct, frozen=True):
    """A row of the table: what speaks for furniture, in words or empty, and how much that weighs."""

    weight: int
    holds: Callable[[Seen], str]
    whatever_size: bool = False
    """it holds of large pictures, and of those that have a larger version, as well"""


SIGNS = (
    _Sign(2, _icon_of_page, whatever_size=True),
    _Sign(2, _spacer, whatever_size=True),
    _Sign(2, _empty, whatever_size=True),
    _Sign(2, _backdrop, whatever_size=True),
    _Sign(2, _pointer, whatever_size=True),
    _Sign(2, _advertisement, whatever_size=True),
    _Sign(2, called.made_by_a_program),
    _Sign(2, _sprite),
    _Sign(2, _drawn_by_sheet),
    _Sign(2, _pseudo),
    _Sign(2, _in_frame),
    _Sign(2, _strip_in_frame, whatever_size=True),
    _Sign(2, _home),
    _Sign(2, _banner, whatever_size=True),
    _Sign(2, called.leads_to_licence),
    _Sign(2, _icon),
    _Sign(2, _line, whatever_size=True),
    _Sign(2, _button),
    _Sign(2, _in_every_item),
    _Sign(2, _often_and_small),
    _Sign(2, _elsewhere),
    _Sign(2, _passes_on),
    _Sign(2, _face),
    _Sign(2, _keyed),
    _Sign(2, called.said_by_a_mark),
    _Sign(2, called.steering),
    _Sign(2, called.leading),
    _Sign(2, called.kind_of_file),
    _Sign(2, called.acting),
    _Sign(2, called.offering),
    _Sign(2, called.admonition),
    _Sign(2, _payment),
    _Sign(2, called.control),
    _Sign(2, called.placeholder),
    _Sign(2, called.missing, whatever_size=True),
    _Sign(2, called.captcha),
    _Sign(2, _counter),
    _Sign(1, _small),
    _Sign(1, _low),
    _Sign(1, _repeated),
    _Sign(1, _in_sentence),
    _Sign(1, _drawing),
    _Sign(1, _first),
    _Sign(1, _network),
    _Sign(1, _dressing),
    _Sign(1, called.words),
)


def _reason(seen: Seen) -> str:
    """Return what speaks for furniture, if it is enough; an empty text if not."""
    is_large = (seen.longer is not None and seen.longer >= _LARGE) or _is_linked_original(seen.image)
    weight = 0
    reasons = []
    for sign in SIGNS:
        if is_large and not sign.whatever_size:
            continue
        if words := sign.holds(seen):
            weight += sign.weight
            reasons.append(words)
    return "; ".join(reasons) if weight >= _ENOUGH else ""


def _is_linked_original(image: Image) -> bool:
    """Tell whether the page links the picture to a larger file of its own, or to itself: an icon is not offered so."""
    linked = {reference.url for reference in image.references if reference.role is Role.LINK}
    return bool(linked) and (image.url != image.shown.url or image.url in linked)
