"""Proving what addresses suggest: the first bytes of a guess are held against what is known.

Many servers answer any address at all with some picture. So a site that a guess seems to prove right on is asked once
for an address that cannot exist, and guesses that bring the same bytes for different pictures prove nothing.
"""

from collections import defaultdict, deque
from collections.abc import Hashable, Iterator
from typing import cast

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import origin, split_extension
from pickcrate.fullsize.address import from_address
from pickcrate.fullsize.proof import Lesson, Lessons, proves
from pickcrate.fullsize.userrules import UserRule
from pickcrate.media.header import Header
from pickcrate.run.look.probes import Probes, probed
from pickcrate.run.look.rounds import ask
from pickcrate.values.evidence import Basis
from pickcrate.values.image import Candidate, Image
from pickcrate.values.trust import Asker

_MOST_GUESSES = 8
"""Guesses of the table that are tried for one picture; those that its site has taught to be hopeless do not count."""

_SIZES = frozenset((Basis.SIZE, Basis.SHOWN))
_MOST_SIZES = 2
"""smaller sizes whose addresses are asked what they suggest"""

_ANY_NUMBER = 1_000_000


class _Case(Struct):
    """One image with the guesses that are left to try."""

    image: Image
    known: Candidate
    guesses: deque[Candidate]
    tries: int
    """guesses that may still be tried"""

    doubts_site: bool = False
    """its guess looks right: the site is to be asked for what cannot exist"""

    @property
    def guess(self) -> Candidate:
        return self.guesses[0]

    @property
    def lesson(self) -> Lesson:
        return str(self.guess.evidence), origin(self.known.url)


def prove(images: list[Image], probes: Probes, lessons: Lessons, rules: tuple[UserRule, ...]) -> list[Image]:
    """Return ``images``, each with a proved guess in front of its candidates where there is one.

    A guess that proves wrong leaves no trace: the image stays as its page has it.
    """
    proving = _Proving(probes, lessons, {image.number: image for image in images})
    cases = [_case(image, rules) for image in images]
    ask(proving, cases, probes)
    ask(proving, [case for case in cases if not case.tries and proving.renew(case)], probes)
    return [proving.told(image.number) for image in images]


def _case(image: Image, rules: tuple[UserRule, ...]) -> _Case:
    """Return an image with what to try for its address: the user's rules first, then the table."""
    own = [made for rule in rules if (made := rule.apply(image.url)) is not None]
    guesses = from_address(image.url) or _from_other_sizes(image)
    return _Case(image, image.best, deque([*own, *guesses]), len(own) + _MOST_GUESSES)


def _from_other_sizes(image: Image) -> list[Candidate]:
    """Return what the addresses of smaller sizes suggest that has the name of the largest, without its end.

    ``red-1536x1024`` may well be how a picture was called before it came to its site; beside ``red-300x200`` it is
    ``red`` in a size.
    """
    folder, _, largest = image.url.rpartition("/")
    named = {candidate.url for candidate in image.candidates}
    for size in [one.url for one in image.candidates[1:] if one.evidence.basis in _SIZES][:_MOST_SIZES]:
        suggested = [one for one in from_address(size) if one.url not in named and one.url.startswith(f"{folder}/")]
        found = [one for one in suggested if largest.startswith(split_extension(one.url.rpartition("/")[2])[0])]
        if found:
            return found
    return []


class _Proving:
    """The question whether guesses are right."""

    def __init__(self, probes: Probes, lessons: Lessons, proved: dict[int, Image]) -> None:
        self.proved = proved
        self._probes = probes
        self._lessons = lessons
        self.guesses: set[str] = set()
        self._right: defaultdict[int | None, list[_Case]] = defaultdict(list)
        """cases whose guess proved right, by the bytes that it brought"""
        self._taught: dict[int, Lesson] = {}
        """what the guess that proved right for an image was an example of"""

    def lesson(self, case: _Case) -> Hashable:
        """Return the convention and the site, or None if no guess is left, or the first is believed."""
        while case.guesses and self._lessons.is_hopeless(case.lesson):
            case.guesses.popleft()
        if not case.guesses or not case.tries:
            return None
        if self._lessons.is_proved(case.lesson) and case.guess.evidence.is_sure:
            believed = replace(case.guess, evidence=replace(case.guess.evidence, is_believed=True))
            self.proved[case.image.number] = _with(case.image, believed)
            return None
        return case.lesson

    def told(self, number: int) -> Image:
        """Return an image as it is proved; a plausible guess that is the only one of its kind on its site says so."""
        image = self.proved[number]
        evidence, lesson = image.best.evidence, self._taught.get(number)
        if lesson is None or evidence.basis is not Basis.ADDRESS or evidence.is_sure or self._lessons.is_proved(lesson):
            return image
        lone = replace(image.best, evidence=replace(evidence, is_lone=True))
        return replace(image, candidates=(lone, *image.candidates[1:]))

    def renew(self, case: _Case) -> bool:
        """Give a case whose tries are used up what others of its site have taught since; tell whether that is any."""
        place = origin(case.known.url)
        case.guesses = deque(guess for guess in case.guesses if self._lessons.is_proved((str(guess.evidence), place)))
        case.tries = len(case.guesses)
        return bool(case.guesses)

    def most_at_once(self, lesson: Hashable) -> int:
        """Return any number for what is proved already, and only plausible: each of it is looked at."""
        known = cast("Lesson", lesson)
        return _ANY_NUMBER if self._lessons.is_proved(known) else self._lessons.most_at_once(known)

    def wanted(self, case: _Case) -> dict[str, Asker]:
        """Return the guess, and what is known where that is not decided by what the site taught."""
        asker = case.image.asker
        wanted = {case.guess.url: asker}
        if not self._lessons.is_proved(case.lesson):
            wanted[case.known.url] = case.known.asker or asker
        if case.doubts_site:
            wanted[self._probes.nowhere(case.guess.url)] = asker
        self.guesses |= wanted.keys() - {case.known.url}
        return wanted

    def judge(self, cases: list[_Case]) -> Iterator[_Case]:
        """Hold each guess against what is known, and against what came for others."""
        for case in cases:
            header = self._probes.header(case.guess.url)
            if header is None or not self._is_larger(case, header):
                yield from self._wrong(case)
            elif not self._probes.was_asked(self._probes.nowhere(case.guess.url)):
                case.doubts_site = True
                yield case
            elif self._probes.is_placeholder(case.guess.url):
                yield from self._wrong(case, "what this site answers to any address")
            elif others := self._same_bytes(case):
                for other in (*others, case):
                    yield from self._wrong(other, "the same bytes came for another picture")
            else:
                self._accept(case, header)

    def _is_larger(self, case: _Case, header: Header) -> bool:
        known, box = self._probes.header(case.known.url), case.image.shown.box
        if known is not None:
            is_own = case.guess.evidence.basis is Basis.RULE
            evidence = case.guess.evidence
            return proves(header, known, crops=evidence.is_sure or is_own, equals=evidence.is_original)
        return proves(header, Header("", box.width or 1, box.height or 1), crops=True)

    def _same_bytes(self, case: _Case) -> list[_Case]:
        """Return the cases of other pictures whose guess brought the same bytes, and forget that they were right."""
        print_ = self._probes.fingerprint(case.guess.url)
        known = self._probes.fingerprint(case.known.url)
        same = [
            other
            for other in self._right[print_]
            if other.guess.url != case.guess.url
            and (known is None or self._probes.fingerprint(other.known.url) != known)
        ]
        for other in same:
            self._right[print_].remove(other)
            self._lessons.proofs[other.lesson] -= 1
        return same

    def _held_against(self, case: _Case) -> str:
        """Return what a guess was held against, for people; empty if that was not asked for, or could not be had."""
        url = case.known.url
        return f"held against {self._probes.words(url)}" if self._probes.header(url) is not None else ""

    def _accept(self, case: _Case, header: Header) -> None:
        probes = self._probes
        self._lessons.proofs[case.lesson] += 1
        self._taught[case.image.number] = case.lesson
        self._right[probes.fingerprint(case.guess.url)].append(case)
        words = ", ".join(filter(None, (probes.words(case.guess.url), self._held_against(case))))
        proved = replace(case.guess, outcome=f"proved: {words}", measures=probed(header))
        self.proved[case.image.number] = _with(case.image, proved)

    def _wrong(self, case: _Case, why: str = "") -> Iterator[_Case]:
        """Take down that a guess is not right; yield its case for the next one."""
        probes = self._probes
        self._lessons.failures[case.lesson] += not probes.failed_for_now(case.guess.url)
        against = self._held_against(case) if probes.header(case.guess.url) is not None else ""
        words = "; ".join(filter(None, (probes.words(case.guess.url), why, against)))
        failed = replace(case.guesses.popleft(), outcome=words)
        case.doubts_site = False
        case.tries -= 1
        self.proved[case.image.number] = case.image = replace(case.image, tried=(*case.image.tried, failed))
        yield case


def _with(image: Image, guess: Candidate) -> Image:
    return replace(image, candidates=(guess, *image.candidates))
