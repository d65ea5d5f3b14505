"""Following thumbnails to the pages behind them: those pages in one batch, then the proof of what is chosen there.

A page that shows nothing larger may be one in between, wanting one more click; that is followed as well, up to the
number of pages that was asked for.
"""

import itertools
import time
from collections.abc import Container, Hashable, Iterator
from typing import Final, cast

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import brief, origin
from pickcrate.elements.selectors import starred
from pickcrate.errors import UsageError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.finders import find
from pickcrate.fullsize import resolve
from pickcrate.fullsize.onward import Lead, onward as clicks
from pickcrate.fullsize.proof import Lesson, Lessons, proves
from pickcrate.fullsize.viewer import Match, leads_to_page, matches
from pickcrate.group import group
from pickcrate.media.header import Header, read_header
from pickcrate.orders.order import Onward
from pickcrate.read.pages.document import read_document
from pickcrate.read.recognise import WINDOW
from pickcrate.run.look.probes import Probes, probed
from pickcrate.run.look.rounds import ask
from pickcrate.run.survey.asking import MOST_OF_A_PART, PAGE_ACCEPT
from pickcrate.run.survey.pages import photo_reference, read_page
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate, Image
from pickcrate.values.page import Page
from pickcrate.values.trust import Asker, Trust

_MOST_PAGES = 2000
_MOST_CHOICES = 3
_LONGEST_DELAY = 10.0
_EACH: Final = "each by itself"

_Visit = tuple[str, str, str]
"""The address, the form sent there, and whether it is the second time (with a cookie that the first one set)."""


class _Trail(Struct, frozen=True):
    """One image, the click that comes next, and the largest version seen on the way."""

    image: Image
    step: Lead
    asker: Asker
    been: tuple[str, ...] = ()
    known: Header | None = None

    @property
    def visit(self) -> _Visit:
        """What this click asks for."""
        return self.step.url, self.step.form, "again" if self.step.url in self.been else ""


class _Answer(Struct, frozen=True):
    """What was behind a click: pictures and further clicks, or a picture itself."""

    trust: Trust
    images: tuple[Image, ...] = ()
    steps: tuple[Lead, ...] = ()
    header: Header | None = None


class _Reached(Struct):
    """A trail with what was behind its click, which pictures there may be its own, and the one that is."""

    trail: _Trail
    answer: _Answer
    chosen: list[Match]
    best: Candidate | None = None

    @property
    def is_kin(self) -> bool:
        """Whether the likeliest is named like the thumbnail."""
        return bool(self.chosen) and self.chosen[0].is_kin


def follow(
    images: list[Image],
    fetcher: Fetcher,
    probes: Probes,
    lessons: Lessons,
    onward: Onward,
) -> list[Image]:
    """Return ``images``, those that lead to a page with the same picture, larger, with that in front."""
    following = _Following(fetcher, probes, lessons, onward, {image.number: image for image in images})
    trails = [_Trail(image, Lead(page), image.asker) for image in images if (page := leads_to_page(image))]
    trails = trails[:_MOST_PAGES]
    for level in range(onward.levels):
        trails = following.walk(trails, level)
    return [following.found[image.number] for image in images]


class _Following(Struct, frozen=True):
    """One page's thumbnails on their way."""

    fetcher: Fetcher
    probes: Probes
    lessons: Lessons
    onward: Onward
    found: dict[int, Image]

    def walk(self, trails: list[_Trail], level: int) -> list[_Trail]:
        """Take one step on every trail, and return those that lead further."""
        answers = self._visit(trails)
        reached: list[_Reached] = []
        for trail in trails:
            answer = answers.get(trail.visit)
            if answer is None:
                continue
            if answer.header is not None:
                self._take_picture(trail, answer.header)
            reached.append(_Reached(trail, answer, matches(answer.images, trail.image)[:_MOST_CHOICES]))
        ask(_Choosing(self, level), list(reached), self.probes)
        return [onward for one in reached for onward in self._onward(one)]

    def _visit(self, trails: list[_Trail]) -> dict[_Visit, _Answer]:
        """Fetch what the trails ask for, each once, in one batch; no earlier than the pages said."""
        wanted = {trail.visit: trail for trail in trails}
        if delay := max((trail.step.delay for trail in trails), default=0.0):
            time.sleep(min(delay, _LONGEST_DELAY))
        requests = [
            Request(
                url,
                accept=PAGE_ACCEPT,
                referer=trail.asker.page,
                trust=trail.asker.trust,
                most=MOST_OF_A_PART,
                form=form,
                visit=visit,
                cookies=trail.step.cookies,
                token=trail.visit,
                is_visit=not form,
            )
            for (url, form, visit), trail in wanted.items()
        ]
        answers: dict[_Visit, _Answer] = {}
        for reply in self.fetcher.fetch(requests):
            if isinstance(reply, Reply) and reply.failure is None:
                visited: _Visit = reply.request.token  # type: ignore[assignment]
                answers[visited] = self._read(reply)
        return answers

    def _read(self, reply: Reply) -> _Answer:
        if (header := read_header(reply.octets[:WINDOW])) is not None:
            return _Answer(reply.trust, header=header)
        page = read_page(reply, source=reply.request.url)
        if page is None:
            photo = photo_reference(reply, reply.url, 0)
            images = group([photo], source=reply.url) if photo is not None else []
            return _Answer(reply.trust, tuple(map(resolve, images)))
        steps = clicks(page, reply.headers.get("refresh", ""))
        if not steps and "set-cookie" in reply.headers:
            steps = [Lead(reply.request.url)]
        # What a page says of its pictures holds for who comes by a thumbnail as well.
        images = [] if page.rights.bar and self.onward.heeds_robots else _images(page, self.onward.target)
        return _Answer(reply.trust, tuple(images), tuple(steps))

    def _take_picture(self, trail: _Trail, header: Header) -> None:
        """Take what is a picture where a page was expected: a link to the file under another name."""
        self.probes.read({trail.image.url: trail.image.asker})
        if not trail.step.form and proves(header, self._known(trail), crops=True):
            self._keep(trail, Candidate(trail.step.url, Evidence(Basis.LINK), probed(header)))

    def proved(self, trail: _Trail, chosen: list[Match], stand_ins: set[int]) -> Candidate | None:
        """Keep and return the first choice, in its largest version, that proves to be the thumbnail's picture."""
        for choice in chosen:
            for candidate in choice.image.candidates[:2]:
                header = self.probes.header(candidate.url)
                if header is None or self.probes.fingerprint(candidate.url) in stand_ins:
                    continue
                if proves(header, self._known(trail), crops=choice.is_kin):
                    return self._keep(trail, replace(candidate, measures=probed(header)), choice.image.asker)
        return None

    def believe(self, trail: _Trail, choice: Match) -> Candidate:
        """Keep and return what is not looked at, since others of its site proved right."""
        best = choice.image.candidates[0]
        believed = replace(best, evidence=replace(best.evidence, is_believed=True))
        return self._keep(trail, believed, choice.image.asker)

    def _known(self, trail: _Trail) -> Header | None:
        return trail.known or self.probes.header(trail.image.url)

    def _keep(self, trail: _Trail, candidate: Candidate, asker: Asker | None = None) -> Candidate:
        """Put a candidate in front of an image's; ``asker`` is the page behind it that names it, if one does."""
        if asker is not None:
            evidence = replace(candidate.evidence, behind=brief(trail.step.url))
            candidate = replace(candidate, evidence=evidence, asker=asker)
        image = self.found[trail.image.number]
        others = (known for known in image.candidates if known.url != candidate.url)
        self.found[image.number] = replace(image, candidates=(candidate, *others))
        return candidate

    def _onward(self, reached: _Reached) -> Iterator[_Trail]:
        """Yield where a trail leads further: on to what promises more than was found, or past a page in between."""
        trail, answer, chosen, best = reached.trail, reached.answer, reached.chosen, reached.best
        known = self.probes.header(best.url) if best is not None else trail.known
        steps = [step for step in answer.steps if best is None or step.is_larger]
        if chosen and (page := leads_to_page(chosen[0].image)):
            steps.insert(0, Lead(page))
        been = (*trail.been, trail.step.url)
        for step in steps[:2]:
            onward_trail = _Trail(trail.image, step, Asker(trail.step.url, answer.trust), been, known)
            if been.count(step.url) < 2:
                yield onward_trail


class _Choosing(Struct, frozen=True):
    """The question which picture on a page behind is the thumbnail's; a site that proved itself twice is believed."""

    following: _Following
    level: int
    guesses: Container[str] = ()

    def lesson(self, case: _Reached) -> Hashable:
        """Return the site and the level; None where the picture that is named alike is believed."""
        lesson = self._lesson(case)
        if case.is_kin and self.following.lessons.is_proved(lesson):
            case.best = self.following.believe(case.trail, case.chosen[0])
            return None
        return lesson if case.is_kin else _EACH

    def most_at_once(self, lesson: Hashable) -> int:
        """Return how many pages are looked at before learning from them; what is named otherwise teaches nothing."""
        if lesson is _EACH:
            return _MOST_PAGES
        return self.following.lessons.most_at_once(cast("Lesson", lesson))

    def wanted(self, case: _Reached) -> dict[str, Asker]:
        """Return the thumbnail and what may be the same picture."""
        wanted = {case.trail.image.url: case.trail.image.asker} if case.chosen else {}
        for choice in case.chosen:
            wanted |= {candidate.url: choice.image.asker for candidate in choice.image.candidates[:2]}
        return wanted

    def judge(self, cases: list[_Reached]) -> Iterator[_Reached]:
        """Keep what proves to be the thumbnail's picture."""
        lessons = self.following.lessons
        stand_ins = self.following.probes.stand_ins(
            (candidate.url, case.trail.image.url)
            for case in cases
            for choice in case.chosen
            for candidate in choice.image.candidates[:2]
        )
        for case in cases:
            case.best = self.following.proved(case.trail, case.chosen, stand_ins)
            if case.is_kin:
                is_first = case.best is not None and case.best.url == case.chosen[0].image.candidates[0].url
                (lessons.proofs if is_first else lessons.failures)[self._lesson(case)] += 1
        yield from ()

    def _lesson(self, case: _Reached) -> Lesson:
        return f"behind, {self.level}", origin(case.trail.step.url)


def _images(page: Page, target: str) -> list[Image]:
    if target:
        node = _select(page, target)
        if node is None:
            return []
        part = read_document(
            node.encode("utf-8", "replace"),
            source=page.source,
            address=page.address,
            base=page.base,
            fields={"content-type": "text/html; charset=utf-8"},
            trust=page.trust,
        )
        page = replace(part, encoding=page.encoding)  # queries are sent in that of the page
    return [resolve(image) for image in group(find(page, itertools.count()).references, source=page.source)]


def _select(page: Page, target: str) -> str | None:
    """Return the markup of the first element that ``--target`` selects; UsageError if it is no selector."""
    try:
        node = page.tree.css_first(starred(target))
    except Exception as error:
        raise UsageError(
            f"--target {target!r} is not a CSS selector", hint="for example --target 'main img'"
        ) from error
    return node.html if node is not None else None
