"""From an image to its candidates: the addresses where its full-size original may live, best first."""

from msgspec.structs import replace

from pickcrate.fullsize.markup import called_smaller, from_markup
from pickcrate.values.evidence import AS_SHOWN
from pickcrate.values.image import Candidate, Image
from pickcrate.values.measures import Grade, Measure, Measures

_NOTHING_KNOWN = Measures()


def resolve(image: Image, *, full: bool = True) -> Image:
    """Return ``image`` with its candidates, each address once, the shown picture behind those that may be larger.

    With ``full`` off the shown picture is the only candidate.
    """
    width = image.shown.width
    known = Measures(width=Measure(width, Grade.DECLARED)) if width else _NOTHING_KNOWN
    shown = Candidate(image.shown.url, AS_SHOWN, known)
    if not full:
        return replace(image, candidates=(shown,))
    unique: dict[str, Candidate] = {}
    for candidate in from_markup(image):
        if candidate.url != shown.url:
            unique.setdefault(candidate.url, candidate)
    below = called_smaller(image)
    larger = (candidate for candidate in unique.values() if candidate.url not in below)
    smaller = (candidate for candidate in unique.values() if candidate.url in below)
    return replace(image, candidates=(*larger, shown, *smaller))
