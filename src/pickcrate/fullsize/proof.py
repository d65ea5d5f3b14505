"""When a guessed address counts: its bytes were seen to be an image at least as large as the one known, and alike.

What a site taught is used: a convention that proved itself there needs no second proof, and one that failed there a
few times without ever proving itself is not tried again.
"""

from collections import Counter
from dataclasses import dataclass, field

from pickcrate.media.header import Header

_ENOUGH_PROOFS = 2
_ENOUGH_FAILURES = 3
_SHAPE_TOLERANCE = 0.03

Lesson = tuple[str, str]
"""A convention (the evidence of its candidates) and the origin of the address that it was applied to."""


def proves(guess: Header | None, known: Header | None, *, crops: bool) -> bool:
    """Tell whether ``guess``, read from the bytes of a guessed address, is a larger version of ``known``.

    Both sizes must be known; no side may be smaller and one must be larger. The shape must be the same within three
    per cent, but for conventions that crop (``crops``).
    """
    if guess is None or known is None or not (guess.width and guess.height and known.width and known.height):
        return False
    if guess.width < known.width or guess.height < known.height:
        return False
    if (guess.width, guess.height) == (known.width, known.height):
        return False
    ratio = (guess.width / guess.height) / (known.width / known.height)
    return crops or abs(ratio - 1) <= _SHAPE_TOLERANCE + 1 / min(known.width, known.height)


@dataclass(slots=True)
class Lessons:
    """What the sites of one run taught about conventions."""

    proofs: Counter[Lesson] = field(default_factory=Counter)
    failures: Counter[Lesson] = field(default_factory=Counter)

    def is_proved(self, lesson: Lesson) -> bool:
        """Tell whether a convention needs no more proof on this site."""
        return self.proofs[lesson] >= _ENOUGH_PROOFS and self.failures[lesson] < self.proofs[lesson]

    def is_hopeless(self, lesson: Lesson) -> bool:
        """Tell whether a convention is not to be tried on this site any more."""
        return not self.proofs[lesson] and self.failures[lesson] >= _ENOUGH_FAILURES

    def most_at_once(self, lesson: Lesson) -> int:
        """Return how many tries may be made before looking at what they taught."""
        return max(1, _ENOUGH_PROOFS - self.proofs[lesson])
