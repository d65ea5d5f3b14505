"""Contest: of the versions that a page's markup names, the largest in front, as their first bytes tell.

Names of attributes and the order of markup are weaker evidence than bytes. Pictures that are marked up alike on one
site are alike in this as well: two that agree settle it for the rest.
"""

from collections import Counter
from collections.abc import Container, Hashable, Iterator
from dataclasses import dataclass, replace
from typing import cast

from pickcrate.addresses import is_web, origin
from pickcrate.fullsize.proof import Lessons, largest
from pickcrate.media.header import Header
from pickcrate.run.probes import Probes, probed
from pickcrate.run.rounds import ask
from pickcrate.values import Asker, Candidate, Evidence, Image

_MOST_ENTRANTS = 4
_SHARED = 3
"""Pictures on a page that show one address: it is a stand-in while they load."""


@dataclass(frozen=True, slots=True)
class _Contender:
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
    ask(contest_, [entry for entry in map(_entry, images) if entry is not None], probes)
    return [contest_.settled[image.number] for image in images]


class _Contest:
    """The question which version of each picture is the largest."""

    guesses: Container[str] = ()

    def __init__(self, images: list[Image], probes: Probes, lessons: Lessons) -> None:
        self.settled = {image.number: image for image in images}
        self._showing = Counter(image.shown.url for image in images)
        self._probes = probes
        self._lessons = lessons

    def lesson(self, case: _Contender) -> Hashable:
        """Return the site and the kinds of evidence; None where those are settled."""
        if self._lessons.is_settled(case.case):
            self.settled[case.image.number] = _in_front(case.image, case, self._lessons.winner(case.case))
            return None
        return case.case

    def most_at_once(self, lesson: Hashable) -> int:
        """Return how many pictures are looked at before learning from them."""
        return self._lessons.most_entries(cast("tuple[str, ...]", lesson))

    def wanted(self, case: _Contender) -> dict[str, Asker]:
        """Return all versions, but for those whose bytes are in the page."""
        return {e.url: e.asker or case.image.asker for e in case.entrants if not e.url.startswith("data:")}

    def judge(self, cases: list[_Contender]) -> Iterator[_Contender]:
        """Put the largest version of each picture in front."""
        stand_ins = self._probes.stand_ins(
            (entrant.url, entry.entrants[-1].url) for entry in cases for entrant in entry.entrants[:-1]
        )
        for entry in cases:
            headers = [self._probes.header(entrant.url) for entrant in entry.entrants]
            shown = headers[-1]
            if shown is None or _is_stand_in(shown) or self._showing[entry.image.shown.url] >= _SHARED:
                headers[-1] = None  # a drawing or a stand-in says nothing of the size of what comes in its place
            for place, entrant in enumerate(entry.entrants[:-1]):
                if self._probes.fingerprint(entrant.url) in stand_ins:
                    headers[place] = None
            told = tuple(_told(candidate, self._probes) for candidate in entry.image.candidates)
            image = self.settled[entry.image.number] = replace(entry.image, candidates=told)
            if any(self._probes.failed_for_now(entrant.url) for entrant in entry.entrants):
                continue  # nothing was learnt: the page's word stands
            winner = largest(headers, headers[-1])
            self._lessons.note(entry.case, winner)
            self.settled[image.number] = _in_front(image, entry, winner)
        yield from ()


def _entry(image: Image) -> _Contender | None:
    """Return an image's entry, or None where the page leaves no doubt: one kind of evidence, its sizes declared."""
    kinds: dict[Evidence, Candidate] = {}
    for candidate in image.candidates[:-1]:
        if is_web(candidate.url) or candidate.url.startswith("file:"):
            kinds.setdefault(candidate.evidence.kind, candidate)
    entrants = tuple(kinds.values())[:_MOST_ENTRANTS]
    is_said = len(entrants) == 1 and bool(entrants[0].evidence.descriptor)
    return _Contender(image, (*entrants, image.candidates[-1])) if entrants and not is_said else None


def _is_stand_in(header: Header) -> bool:
    """Tell whether a picture is a drawing, or a spacer of one pixel, that holds the place of another."""
    return header.type == "svg" or (header.width, header.height) == (1, 1)


def _in_front(image: Image, entry: _Contender, winner: int | None) -> Image:
    """Return the image with the winner's candidate in front; as it was if there is no winner."""
    if winner is None:
        return image
    url = entry.entrants[winner].url
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
