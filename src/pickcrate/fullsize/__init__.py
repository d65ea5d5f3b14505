"""From an image to its candidates: the addresses where its full-size original may live, best first."""

from msgspec.structs import replace

from pickcrate.fullsize.markup import from_markup
from pickcrate.values import AS_SHOWN, Candidate, Grade, Image, Measure, Measures

_NOTHING_KNOWN = Measures()


def resolve(image: Image, *, full: bool = True) -> Image:
    """Return ``image`` with its candidates, each address once, the shown picture last.

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
    return replace(image, candidates=(*unique.values(), shown))
