"""Documents inside a page, followed by the run: frames, objects that are pages; ``srcdoc`` is here already.

HTML standard 4.8.5 to 4.8.7 and 16.3. A frame whose address is an image's is that image.
"""

from collections.abc import Iterable

from pickcrate.addresses.url import file_parts, image_type, is_web
from pickcrate.finders.place import Finder, Place
from pickcrate.media import essence
from pickcrate.read.fields.contenttype import PAGE_EXTENSIONS, PAGE_TYPES
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Need, NeedKind
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference

_LATER = lazy(r"data-(?:[a-z]{1,20}-)?(?:src|original|url)")
"""what a script makes the address of a frame once it is seen, or agreed to"""


def _find_frame(place: Place) -> Iterable[Reference | Need]:
    if place.get("srcdoc"):
        return ()  # HTML, 4.8.5: it goes before src; the walk over inner documents reads it
    names = ("src", *filter(_LATER.fullmatch, place.attributes))
    return next(filter(None, (_at(place, name) for name in names)), ())


def _at(place: Place, name: str) -> tuple[Reference | Need, ...]:
    """Return what the document is that an attribute names, if there can be one."""
    reference = place.at(place.prototype(FoundIn.FRAME, cluster=place.node), name, place.get(name))
    if reference is None:
        return ()
    if image_type(reference.url) is not None:
        return (reference,) if name == "src" else ()
    if is_web(reference.url) or reference.url.startswith(("file:", "cid:")):
        return (Need(NeedKind.FRAME, reference.url, place.node.mem_id),)
    return ()


def _find_embedded(place: Place) -> Iterable[Reference | Need]:
    """Return the page that an ``object`` or an ``embed`` shows, by its type, or else by its address."""
    name = "data" if place.node.tag == "object" else "src"
    declared = essence(place.get("type"))
    if declared:
        return _at(place, name) if declared in PAGE_TYPES else ()
    url = place.resolve(place.get(name))
    return _at(place, name) if url is not None and file_parts(url)[1].lower() in PAGE_EXTENSIONS else ()


FRAME = Finder(_find_frame, tags=("iframe", "frame"))
EMBEDDED = Finder(_find_embedded, tags=("object", "embed"))
