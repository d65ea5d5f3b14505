"""Proving what addresses suggest: the first bytes of a guess, and of what is known, in rounds of one batch each."""

from collections import Counter, deque
from dataclasses import dataclass, replace

from pickcrate.addresses import origin
from pickcrate.fullsize.address import from_address, is_sure
from pickcrate.fullsize.proof import Lesson, Lessons, proves
from pickcrate.fullsize.userrules import BY_RULE, UserRule
from pickcrate.media.header import Header
from pickcrate.run.probes import Probes, probed
from pickcrate.values import Candidate, Image

_MOST_GUESSES = 6
"""Guesses tried for one picture."""


@dataclass(slots=True)
class _Case:
    """One image with the guesses that are left to try."""

    image: Image
    known: str
    guesses: deque[Candidate]

    @property
    def lesson(self) -> Lesson:
        return self.guesses[0].evidence, origin(self.known)


def prove(images: list[Image], probes: Probes, lessons: Lessons, rules: tuple[UserRule, ...]) -> list[Image]:
    """Return ``images``, each with a proved guess in front of its candidates where there is one.

    A guess that proves wrong leaves no trace: the image stays as its page has it.
    """
    proved = {image.number: image for image in images}
    cases = [_Case(image, image.url, deque(_guesses(image.url, rules))) for image in images]
    while cases:
        now, later = _next_round(cases, lessons, proved)
        probes.read({url: case.image.asker for case in now for url in _to_read(case, lessons)})
        for case in now:
            guess, lesson = case.guesses[0], case.lesson
            header = probes.header(guess.url)
            if _is_proved(case, header, probes.header(case.known)):
                lessons.proofs[lesson] += 1
                outcome = f"proved: {probes.words(guess.url)}, and {probes.words(case.known)} is known"
                proved[case.image.number] = _with(case.image, replace(guess, outcome=outcome), header)
            else:
                lessons.failures[lesson] += not probes.failed_for_now(guess.url)
                failed = replace(
                    case.guesses.popleft(), outcome=f"{probes.words(guess.url)}; {probes.words(case.known)} is known"
                )
                proved[case.image.number] = case.image = replace(case.image, tried=(*case.image.tried, failed))
                later.append(case)
        cases = later
    return [proved[image.number] for image in images]


def _guesses(url: str, rules: tuple[UserRule, ...]) -> list[Candidate]:
    """Return what to try for an address: the user's rules first, then the table."""
    own = [made for rule in rules if (made := rule.apply(url)) is not None]
    return [*own, *from_address(url)[:_MOST_GUESSES]]


def _next_round(cases: list[_Case], lessons: Lessons, proved: dict[int, Image]) -> tuple[list[_Case], list[_Case]]:
    """Return the cases to try now, and those that wait for what these teach; settle what needs no try."""
    now: list[_Case] = []
    later: list[_Case] = []
    trying: Counter[Lesson] = Counter()
    for case in cases:
        while case.guesses and lessons.is_hopeless(case.lesson):
            case.guesses.popleft()
        if not case.guesses:
            continue
        if lessons.is_proved(case.lesson) and is_sure(case.guesses[0]):
            proved[case.image.number] = _with(case.image, case.guesses[0], None)
        elif lessons.is_proved(case.lesson):
            now.append(case)
        elif trying[case.lesson] < lessons.most_at_once(case.lesson):
            trying[case.lesson] += 1
            now.append(case)
        else:
            later.append(case)
    return now, later


def _to_read(case: _Case, lessons: Lessons) -> tuple[str, ...]:
    """Return the addresses to look at; where a convention holds on a site, what it leads to is enough."""
    guess = case.guesses[0].url
    return (guess,) if lessons.is_proved(case.lesson) else (case.known, guess)


def _is_proved(case: _Case, header: Header | None, known: Header | None) -> bool:
    guess, box = case.guesses[0], case.image.shown.box
    if known is not None:
        return proves(header, known, crops=is_sure(guess) or guess.evidence.startswith(BY_RULE))
    laid_out = Header("", box.width or 1, box.height or 1)
    return proves(header, laid_out, crops=True)


def _with(image: Image, guess: Candidate, header: Header | None) -> Image:
    if header is None:
        guess = replace(guess, evidence=f"{guess.evidence}, as proved on this site")
    else:
        guess = replace(guess, measures=probed(header))
    return replace(image, candidates=(guess, *image.candidates))
