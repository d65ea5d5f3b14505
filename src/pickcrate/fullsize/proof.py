"""When a guessed address counts: its bytes were seen to be an image at least as large as the one known, and alike.

What a site taught is used: a convention that proved itself there needs no second proof, and one that failed there a
few times without ever proving itself is not tried again.
"""

from collections import Counter, defaultdict

from msgspec import Struct, field

from pickcrate.media.header import Header, sides_of

_ENOUGH_PROOFS = 2
_ENOUGH_FAILURES = 3
_ANY_NUMBER = 1_000_000

Lesson = tuple[str, str]
"""A convention (the evidence of its candidates) and the origin of the address that it was applied to."""

Case = tuple[str, ...]
"""A site, and the kinds of evidence for the versions of a picture there, in their order."""


def proves(guess: Header | None, known: Header | None, *, crops: bool, equals: bool = False) -> bool:
    """Tell whether ``guess``, read from the bytes of a guessed address, is a larger version of ``known``.

    Both sizes must be known; no side may be smaller and one must be larger, but where the convention leads to what the
    other was made of (``equals``). The shape must be the same within three per cent, but for conventions that crop
    (``crops``).
    """
    larger, smaller = sides_of(guess), sides_of(known)
    if larger is None or smaller is None or larger.is_smaller_than(smaller):
        return False
    if larger == smaller:
        return equals
    return crops or larger.is_of_one_shape_with(smaller)


def largest(headers: list[Header | None], known: Header | None) -> int | None:
    """Return which of several versions that a page names is the largest; None if none is known to be an image.

    Nothing counts that is smaller than ``known``, the shown picture, on either side; of equals the first does. The
    shape may differ: the page itself says that they are one picture, so what is shown is a crop.
    """
    best: tuple[int, int] | None = None
    for index, header in enumerate(headers):
        if header is None:
            continue
        sides, shown = header.sides, sides_of(known)
        if sides is not None and shown is not None and sides.is_smaller_than(shown):
            continue
        area = sides.pixels if sides is not None else 0
        if best is None or area > best[0]:
            best = (area, index)
    return best[1] if best is not None else None


class Lessons(Struct):
    """What the sites of one run taught about conventions."""

    proofs: Counter[Lesson] = field(default_factory=Counter)
    failures: Counter[Lesson] = field(default_factory=Counter)

    winners: defaultdict[Case, Counter[int | None]] = field(default_factory=lambda: defaultdict(Counter))

    def note(self, case: Case, winner: int | None) -> None:
        """Take down which of the versions was the largest for one picture; None if none could be seen."""
        self.winners[case][winner] += 1

    def is_decided(self, case: Case) -> bool:
        """Tell whether all pictures of a case so far, and enough of them, had the same version as their largest."""
        return len(self.winners[case]) == 1 and self.winners[case].total() >= _ENOUGH_PROOFS

    def winner(self, case: Case) -> int | None:
        """Return the version that was the largest most often."""
        return self.winners[case].most_common(1)[0][0]

    def most_at_first(self, case: Case) -> int:
        """Return how many pictures of a case may be measured before looking at what they taught."""
        agreed = len(self.winners[case]) <= 1
        return max(1, _ENOUGH_PROOFS - self.winners[case].total()) if agreed else _ANY_NUMBER

    def is_proved(self, lesson: Lesson) -> bool:
        """Tell whether a convention needs no more proof on this site."""
        return self.proofs[lesson] >= _ENOUGH_PROOFS and self.failures[lesson] < self.proofs[lesson]

    def is_hopeless(self, lesson: Lesson) -> bool:
        """Tell whether a convention is not to be tried on this site any more."""
        return not self.proofs[lesson] and self.failures[lesson] >= _ENOUGH_FAILURES

    def most_at_once(self, lesson: Lesson) -> int:
        """Return how many tries may be made before looking at what they taught."""
        return max(1, _ENOUGH_PROOFS - self.proofs[lesson])
