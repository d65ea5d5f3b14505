"""Pictures in other elements than ``img``: objects, buttons, posters, old backgrounds, canvases, and SVG.

HTML standard 4.8.6 (embed), 4.8.7 (object), 4.8.8 (video), 4.10.5.1.19 (image button), 4.12.5 (canvas),
16.2 (obsolete features);
SVG 2, 12.3 (image), 5.5 (use); Filter Effects 1, 9.16 (feImage).
"""

from collections.abc import Iterable
from itertools import islice
from urllib.parse import quote

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.finders.data.attributevalues import in_value
from pickcrate.finders.images import link_around, loads_image
from pickcrate.finders.place import Finder, Place
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role, fold

_MOST_AROUND, _MOST_BEFORE_TITLE = 20, 5
"""Elements of a drawing around a picture, and children of one, among which its title is looked for"""

_LARGEST_INLINE = 200_000
"""Characters of an inline ``svg`` that are still made an address of."""


def _at(place: Place, attribute: str, found_in: FoundIn) -> Iterable[Reference]:
    prototype = place.prototype(found_in, cluster=place.node)
    if place.node.tag != "input":  # whose type is the control's
        prototype = replace(prototype, media_type=place.get("type").strip().lower())
    reference = place.at(prototype, attribute, place.get(attribute))
    return () if reference is None else (reference, *link_around(place, prototype))


def _find_button(place: Place) -> Iterable[Reference]:
    return _at(place, "src", FoundIn.INPUT) if place.get("type").strip().lower() == "image" else ()


def _find_poster(place: Place) -> Iterable[Reference]:
    return _at(place, "poster", FoundIn.VIDEO)


def _find_canvas(place: Place) -> Iterable[Reference]:
    """Return what a script has drawn: a visit in the browser writes it into ``src``, which no canvas has by itself.

    What an element says to those who do not see it may be its content (4.12.5).
    """
    said = place.walk.text(place.node)
    found = _at(place, "src", FoundIn.CANVAS)
    return [replace(one, words=replace(one.words, alt=one.words.alt or said)) for one in found]


def _find_background(place: Place) -> Iterable[Reference]:
    return _at(place, "background", FoundIn.BACKGROUND)


def _find_object(place: Place) -> Iterable[Reference]:
    """Return what an ``object`` or ``embed`` loads if its type, or else its address, says that it is an image."""
    attribute = "data" if place.node.tag == "object" else "src"
    found = _at(place, attribute, FoundIn(place.node.tag or ""))
    return [one for one in found if one.role is Role.SHOWN and loads_image(place.get("type"), one.url)]


def _find_parameter(place: Place) -> Iterable[Reference]:
    """Return the image files that an ``object`` or an ``applet`` is told to show (HTML 4.01, 13.3.2: param)."""
    return _in_value_of(place, FoundIn.OBJECT)


def _find_value(place: Place) -> Iterable[Reference]:
    """Return the image files that a choice stands for, or a field holds: a link to copy, what a script shows.

    Markup to copy shows what stands on the page already, and smaller.
    """
    value = place.get("value")
    return _in_value_of(place, FoundIn.DATA) if "/" in value and "<" not in value else ()


def _in_value_of(place: Place, found_in: FoundIn) -> Iterable[Reference]:
    entries = in_value(place.get("value"))
    found = (place.at_entry(place.prototype(found_in), "value", entry, role=Role.SHOWN) for entry in entries)
    return [reference for reference in found if reference is not None]


def _find_svg_image(place: Place) -> Iterable[Reference]:
    """SVG 2, 16.1.6: ``href`` wins over ``xlink:href``; 5.8: a ``title`` says what is shown, there or further out.

    So does a label for those who do not see it (WAI-ARIA 1.2, ``aria-label``).
    """
    attribute = "href" if place.get("href").strip() else "xlink:href"
    found = _at(place, attribute, FoundIn.SVG)
    return [replace(one, words=replace(one.words, alt=one.words.alt or _title_in_drawing(place))) for one in found]


def _title_in_drawing(place: Place) -> str:
    """Return the label or the title of an element of a drawing, or of the innermost one around it that has any."""
    around: LexborNode | None = place.node
    for _ in range(_MOST_AROUND):
        if around is None:
            break
        first = islice(around.iter(), _MOST_BEFORE_TITLE)  # SVG 2, 5.8: it is to be the first of all
        title = next((child for child in first if child.tag == "title"), None)
        label = around.attributes.get("aria-label") or ""
        if label or title is not None or around.tag == "svg":
            return fold(label) or place.walk.text(title)
        around = around.parent
    return ""


def _find_svg(place: Place) -> Iterable[Reference]:
    """Return an inline drawing as a ``data:`` address (RFC 2397): its bytes live in the page itself.

    One that takes its drawing from elsewhere (``use``, ``image``) holds no picture of its own, nor does a store of
    symbols.
    """
    node = place.node
    if place.around.in_svg or node.css_first("use, symbol, image, feimage") is not None:
        return ()
    markup = node.html or ""
    if len(markup) > _LARGEST_INLINE or node.first_child is None:
        return ()
    if "xmlns=" not in markup[: markup.find(">")]:
        markup = markup.replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"', 1)
    if "xlink:" in markup and "xmlns:xlink=" not in markup:
        markup = markup.replace("<svg", '<svg xmlns:xlink="http://www.w3.org/1999/xlink"', 1)
    prototype = place.prototype(FoundIn.SVG, cluster=node)
    title = node.css_first("title")
    words = replace(prototype.words, alt=prototype.words.alt or place.walk.text(title))
    address = f"data:image/svg+xml,{quote(markup, safe=_SAFE_IN_DATA)}"
    return (replace(prototype, url=address, raw=markup[:80], words=words, line=place.walk.line("<svg")),)


_SAFE_IN_DATA = "!$&'()*+,/:;=?@[]^`{|}~"


BUTTON = Finder(_find_button, tags=("input",))
POSTER = Finder(_find_poster, tags=("video",))
CANVAS = Finder(_find_canvas, tags=("canvas",))
BACKGROUND = Finder(_find_background, attributes=("background",))
OBJECT = Finder(_find_object, tags=("object", "embed"))
PARAMETER = Finder(_find_parameter, tags=("param",))
VALUE = Finder(_find_value, tags=("input", "option", "data"))
SVG_IMAGE = Finder(_find_svg_image, tags=("image", "feimage", "use"))
SVG = Finder(_find_svg, tags=("svg",))
