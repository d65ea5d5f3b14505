"""Documents inside a page: ``iframe`` and ``frame``, followed by the run, and ``srcdoc``, which is here already.

HTML standard 4.8.5 and 16.3. A frame whose address is an image's is that image.
"""

from collections.abc import Iterable

from pickcrate.addresses import image_type, is_web
from pickcrate.finders.place import Finder, Place
from pickcrate.findings import Need, NeedKind
from pickcrate.values import Reference


def _find_frame(place: Place) -> Iterable[Reference | Need]:
    if place.get("srcdoc"):
        return ()  # HTML, 4.8.5: it goes before src; the walk over inner documents reads it
    reference = place.at(place.prototype("frame", cluster=place.node), "src", place.get("src"))
    if reference is None:
        return ()
    if image_type(reference.url) is not None:
        return (reference,)
    if is_web(reference.url) or reference.url.startswith(("file:", "cid:")):
        return (Need(NeedKind.FRAME, reference.url, place.node.mem_id),)
    return ()


FRAME = Finder(_find_frame, tags=("iframe", "frame"))
