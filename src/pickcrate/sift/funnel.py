"""The funnel: of how many pictures found, how many each criterion dropped, and how many are left."""

from collections import Counter

from msgspec import Struct, field

from pickcrate.values.image import Image, Ruling


class Step(Struct, frozen=True):
    """One criterion: how many it dropped, and on how many it could not decide."""

    criterion: str
    dropped: int
    unsure: int


class Funnel(Struct):
    """The count so far. ``found`` is always the sum of what was dropped and what is ``picked``."""

    found: int = 0
    picked: int = 0
    _order: dict[str, None] = field(default_factory=dict)
    _dropped: Counter[str] = field(default_factory=Counter)
    _unsure: Counter[str] = field(default_factory=Counter)
    unsure_picks: Counter[str] = field(default_factory=Counter)
    """pictures that are left although a criterion could not decide, by its name"""

    def add(self, image: Image) -> None:
        """Count one image with its verdicts."""
        self.found += 1
        self.picked += image.is_picked
        dropped = False
        for verdict in image.verdicts:
            self._order.setdefault(verdict.criterion)
            if verdict.ruling is Ruling.DROP and not dropped:
                dropped = True
                self._dropped[verdict.criterion] += 1
            if verdict.ruling is Ruling.UNSURE:
                self._unsure[verdict.criterion] += 1
                self.unsure_picks[verdict.criterion] += image.is_picked

    def steps(self, order: tuple[str, ...]) -> list[Step]:
        """Return the criteria that had a say, in ``order``; those that are not in it come last."""
        names = sorted(self._order, key=lambda name: order.index(name) if name in order else len(order))
        return [Step(name, self._dropped[name], self._unsure[name]) for name in names]
