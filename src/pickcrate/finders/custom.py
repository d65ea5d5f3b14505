"""Custom elements (HTML standard, 4.13.3) that show a picture as ``img`` does: ``amp-img``, ``lazy-image``, and so on.

There are as many as there are authors, so it is the name's last part that decides, or else what the address says.
"""

from collections.abc import Iterator
from itertools import islice

from msgspec.structs import replace

from pickcrate.addresses.url import image_type
from pickcrate.finders.images import candidates, link_around
from pickcrate.finders.place import Place
from pickcrate.finders.srcset import parse_srcset
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role

_NAME = lazy(r"<([a-z]++(?:-[a-z0-9]++)++)(?=[\s>/])")
_MOST_TAGS, _MOST_NAMES = 100_000, 50
_PICTURES = frozenset(("img", "image", "picture", "photo", "anim", "thumb", "thumbnail", "avatar"))
ATTRIBUTES = ("src", "srcset", "poster")


def names_in(source: str) -> list[str]:
    """Return the names of the custom elements in a page's source, the first _MOST_NAMES of them."""
    found = (match[1] for match in islice(_NAME.finditer(source), _MOST_TAGS))
    return list(islice(dict.fromkeys(found), _MOST_NAMES))


def is_picture(place: Place) -> bool:
    """Tell whether an element is a custom one that shows a picture, or one of several sizes."""
    return "-" in (place.node.tag or "") and (_has_source(place) or bool(parse_srcset(place.get("srcset"))))


def _has_source(place: Place) -> bool:
    """Tell whether a custom element has a ``src``, and shows a picture by its name or by that."""
    url = place.resolve(place.get("src"))
    return url is not None and ((place.node.tag or "").rpartition("-")[2] in _PICTURES or image_type(url) is not None)


def find_in_custom(place: Place) -> Iterator[Reference]:
    """Yield the picture that a custom element shows, with its other sizes, and the one that stands for its film."""
    prototype = place.prototype(FoundIn.IMG, cluster=place.node)
    shown = place.at(prototype, "src", place.get("src")) if _has_source(place) else None
    if shown is not None:
        yield shown
    sizes = list(candidates(place, prototype, role=Role.SIZE))
    if sizes and shown is None:
        sizes[0] = replace(sizes[0], role=Role.SHOWN)
    yield from sizes
    if shown is not None or sizes:
        yield from link_around(place, prototype)
    poster = place.at(place.prototype(FoundIn.VIDEO), "poster", place.get("poster"))
    if poster is not None:
        yield poster
