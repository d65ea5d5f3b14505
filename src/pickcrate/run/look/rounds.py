"""Rounds: what has to be looked at is asked for in batches, and each round learns from the ones before.

Pictures that are marked up alike on one site are alike in more: a few are looked at first, the others wait for what
these teach.
"""

from collections import Counter
from collections.abc import Container, Hashable, Iterable
from typing import Protocol, TypeVar

from pickcrate.run.look.probes import Probes
from pickcrate.values.trust import Asker

C = TypeVar("C")


class Question(Protocol[C]):
    """What is to be found out about each of several cases."""

    @property
    def guesses(self) -> Container[str]:
        """Addresses that we made up, as far as they are wanted."""

    def lesson(self, case: C) -> Hashable:
        """Return what cases that teach each other have in common; None for a case that is decided by now."""

    def most_at_once(self, lesson: Hashable) -> int:
        """Return how many cases of one lesson may be looked at before learning from them."""

    def wanted(self, case: C) -> dict[str, Asker]:
        """Return the addresses whose first bytes are to be read for a case, with who asks for them."""

    def judge(self, cases: list[C]) -> Iterable[C]:
        """Settle the cases that were looked at; yield those that have to be looked at again."""


def ask(question: Question[C], cases: list[C], probes: Probes) -> None:
    """Look at cases round by round, one batch of requests each, until all are decided."""
    while cases:
        now: list[C] = []
        later: list[C] = []
        trying: Counter[Hashable] = Counter()
        for case in cases:
            lesson = question.lesson(case)
            if lesson is None:
                continue
            is_due = trying[lesson] < question.most_at_once(lesson)
            trying[lesson] += is_due
            (now if is_due else later).append(case)
        wanted: dict[str, Asker] = {}
        for case in now:
            wanted |= question.wanted(case)
        probes.read(wanted, question.guesses)
        cases = [*question.judge(now), *later]
