"""Contest: of the versions that a page's markup names, the largest in front, as their first bytes tell.

Names of attributes and the order of markup are weaker evidence than bytes. Pictures that are marked up alike on one
site are alike in this as well: two that agree settle it for the rest.
"""

import re
from collections import Counter
from dataclasses import dataclass, replace

from pickcrate.addresses import is_web, origin
from pickcrate.fullsize.proof import Lessons, largest
from pickcrate.run.probes import Probes, probed
from pickcrate.values import Candidate, Image

_MOST_ENTRANTS = 4
_SHARED = 3
"""Pictures on a page that show one address: it is a stand-in while they load."""

_DESCRIPTOR = re.compile(r" [\d.]+[wx]$")


@dataclass(frozen=True, slots=True)
class _Entry:
    """One image with the best candidate of each kind of evidence, the shown one last."""

    image: Image
    entrants: tuple[Candidate, ...]

    @property
    def case(self) -> tuple[str, ...]:
        """What pictures marked up alike on one site have in common."""
        return (origin(self.entrants[0].url), *(_DESCRIPTOR.sub("", entrant.evidence) for entrant in self.entrants))


def contest(images: list[Image], probes: Probes, lessons: Lessons) -> list[Image]:
    """Return ``images``, those whose markup names several versions with the largest of them in front."""
    settled = {image.number: image for image in images}
    showing = Counter(image.shown.url for image in images)
    waiting = [entry for entry in map(_entry, images) if entry is not None]
    while waiting:
        now, later = _next_round(waiting, lessons, settled)
        wanted = {entrant.url: entry.image.asker for entry in now for entrant in entry.entrants}
        probes.read({url: asker for url, asker in wanted.items() if not url.startswith("data:")})
        for entry in now:
            headers = [probes.header(entrant.url) for entrant in entry.entrants]
            shown = headers[-1]
            if shown is None or shown.type == "svg" or showing[entry.image.shown.url] >= _SHARED:
                headers[-1] = None  # a drawing or a stand-in says nothing of the size of what comes in its place
            image = replace(entry.image, candidates=tuple(_told(c, probes) for c in entry.image.candidates))
            if any(probes.failed_for_now(entrant.url) for entrant in entry.entrants):
                settled[image.number] = image  # nothing was learnt: the page's word stands
                continue
            winner = largest(headers, headers[-1])
            lessons.note(entry.case, winner)
            settled[image.number] = _in_front(image, entry, winner)
        waiting = later
    return [settled[image.number] for image in images]


def _entry(image: Image) -> _Entry | None:
    """Return an image's entry, or None where the page leaves no doubt: one kind of evidence, its sizes declared."""
    kinds: dict[str, Candidate] = {}
    for candidate in image.candidates[:-1]:
        if is_web(candidate.url) or candidate.url.startswith("file:"):
            kinds.setdefault(_DESCRIPTOR.sub("", candidate.evidence), candidate)
    entrants = tuple(kinds.values())[:_MOST_ENTRANTS]
    is_said = all(_DESCRIPTOR.search(entrant.evidence) for entrant in entrants) and len(entrants) == 1
    return _Entry(image, (*entrants, image.candidates[-1])) if entrants and not is_said else None


def _next_round(
    waiting: list[_Entry], lessons: Lessons, settled: dict[int, Image]
) -> tuple[list[_Entry], list[_Entry]]:
    """Return the entries to measure now and those that wait for what these teach; settle what is known."""
    now: list[_Entry] = []
    later: list[_Entry] = []
    trying: Counter[tuple[str, ...]] = Counter()
    for entry in waiting:
        if lessons.is_settled(entry.case):
            settled[entry.image.number] = _in_front(entry.image, entry, lessons.winner(entry.case))
        elif trying[entry.case] < lessons.most_entries(entry.case):
            trying[entry.case] += 1
            now.append(entry)
        else:
            later.append(entry)
    return now, later


def _in_front(image: Image, entry: _Entry, winner: int | None) -> Image:
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
