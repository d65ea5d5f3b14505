"""Contest: of the versions that a page's markup names, the largest in front, as their first bytes tell.

Names of attributes and the order of markup are weaker evidence than bytes. Pictures that are marked up alike on one
site are alike in this as well: two that agree decide it for the rest.
"""

from collections import Counter
from collections.abc import Container, Hashable, Iterator
from typing import cast

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.ranks import names_a_version
from pickcrate.addresses.url import is_web, origin
from pickcrate.fullsize.proof import Lessons, largest
from pickcrate.media.header import Header
from pickcrate.run.look.probes import Probes, probed
from pickcrate.run.look.rounds import ask
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate, Image
from pickcrate.values.trust import Asker

_MOST_ENTRANTS = 4
_SHARED = 3
"""Pictures on a page that show one address: it is a stand-in while they load."""


class _Contender(Struct, frozen=True):
    """One image with the best candidate of each kind of evidence, the shown one last."""

    image: Image
    entrants: tuple[Candidate, ...]

    @property
    def case(self) -> tuple[str, ...]:
        """What pictures marked up alike on one site have in common."""
        return (origin(self.entrants[0].url), *(str(entrant.evidence.kind) for entrant in self.entrants))


def contest(images: list[Image], probes: Probes, lessons: Lessons) -> list[Image]:
    """Return ``images``, those whose markup names several versions with the largest of them in front."""
    contest_ = _Contest(images, probes, lessons)
    ask(contest_, [contender for contender in map(_contender, images) if contender is not None], probes)
    return [contest_.decided[image.number] for image in images]


class _Contest:
    """The question which version of each picture is the largest."""

    guesses: Container[str] = ()

    def __init__(self, images: list[Image], probes: Probes, lessons: Lessons) -> None:
        self.decided = {image.number: image for image in images}
        self._showing = Counter(image.shown.url for image in images)
        self._probes = probes
        self._lessons = lessons

    def lesson(self, contender: _Contender) -> Hashable:
        """Return the site and the kinds of evidence; None where those are decided."""
        if self._lessons.is_decided(contender.case):
            winner = self._lessons.winner(contender.case)
            self.decided[contender.image.number] = _in_front(contender.image, contender, winner)
            return None
        return contender.case

    def most_at_once(self, lesson: Hashable) -> int:
        """Return how many pictures are looked at before learning from them."""
        return self._lessons.most_at_first(cast("tuple[str, ...]", lesson))

    def wanted(self, contender: _Contender) -> dict[str, Asker]:
        """Return all versions, but for those whose bytes are in the page."""
        return {e.url: e.asker or contender.image.asker for e in contender.entrants if not e.url.startswith("data:")}

    def judge(self, cases: list[_Contender]) -> Iterator[_Contender]:
        """Put the largest version of each picture in front."""
        stand_ins = self._probes.stand_ins(
            (entrant.url, contender.entrants[-1].url) for contender in cases for entrant in contender.entrants[:-1]
        )
        for contender in cases:
            headers = [self._probes.header(entrant.url) for entrant in contender.entrants]
            shown = headers[-1]
            if shown is None or _is_stand_in(shown) or self._showing[contender.image.shown.url] >= _SHARED:
                headers[-1] = None  # a drawing or a stand-in says nothing of the size of what comes in its place
            for place, entrant in enumerate(contender.entrants[:-1]):
                if self._probes.fingerprint(entrant.url) in stand_ins:
                    headers[place] = None
            told = tuple(_told(candidate, self._probes) for candidate in contender.image.candidates)
            image = self.decided[contender.image.number] = replace(contender.image, candidates=told)
            if any(self._probes.failed_for_now(entrant.url) for entrant in contender.entrants):
                continue  # nothing was learnt: the page's word stands
            winner = largest(headers, headers[-1])
            if winner is not None and _says_nothing(contender.entrants[winner], headers[winner], headers[-1]):
                winner = len(headers) - 1
            self._lessons.note(contender.case, winner)
            self.decided[image.number] = _in_front(image, contender, winner)
        yield from ()


def _contender(image: Image) -> _Contender | None:
    """Return what the markup names of an image; None where it leaves no doubt: one kind of evidence, sizes declared."""
    kinds: dict[Evidence, Candidate] = {}
    # A list may hold others than the picture that was shown.
    shown = next((one for one in image.candidates if one.url == image.shown.url), image.candidates[-1])
    for candidate in image.candidates:
        if candidate is shown:
            continue
        if is_web(candidate.url) or candidate.url.startswith("file:"):
            kinds.setdefault(candidate.evidence.kind, candidate)
    entrants = tuple(kinds.values())[:_MOST_ENTRANTS]
    is_said = len(entrants) == 1 and bool(entrants[0].evidence.descriptor)
    return _Contender(image, (*entrants, shown)) if entrants and not is_said else None


def _is_stand_in(header: Header) -> bool:
    """Tell whether a picture is a drawing, or a spacer of one pixel, that holds the place of another."""
    return header.type == "svg" or (header.width, header.height) == (1, 1)


def _says_nothing(entrant: Candidate, header: Header | None, shown: Header | None) -> bool:
    """Tell whether a version is as large as the shown picture, and its name does not say that it is one of it."""
    if header is None or shown is None or (header.width, header.height) != (shown.width, shown.height):
        return False
    return entrant.evidence.basis is Basis.ATTRIBUTE and not names_a_version(entrant.evidence.detail)


def _in_front(image: Image, contender: _Contender, winner: int | None) -> Image:
    """Return the image with the winner's candidate in front; as it was if there is no winner."""
    if winner is None:
        return image
    url = contender.entrants[winner].url
    first = [candidate for candidate in image.candidates if candidate.url == url]
    rest = [candidate for candidate in image.candidates if candidate.url != url]
    return replace(image, candidates=(*first, *rest))


def _told(candidate: Candidate, probes: Probes) -> Candidate:
    """Return a candidate with what its first bytes said, if they were read."""
    header = probes.header(candidate.url)
    if header is None:
        was_asked = probes.was_asked(candidate.url)
        return replace(candidate, outcome=probes.words(candidate.url)) if was_asked else candidate
    return replace(candidate, measures=probed(header), outcome=probes.words(candidate.url))
