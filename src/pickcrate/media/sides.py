"""How wide and how high a picture is, and when two pictures may be one in two sizes."""

from typing import NamedTuple

_TOLERANCE = 0.03


class Sides(NamedTuple):
    """Width and height in pixels, both of them known."""

    width: int
    height: int

    @property
    def pixels(self) -> int:
        """Width times height."""
        return self.width * self.height

    def is_smaller_than(self, other: "Sides") -> bool:
        """Tell whether one side falls short of that of another picture."""
        return self.width < other.width or self.height < other.height

    def is_of_one_shape_with(self, smaller: "Sides") -> bool:
        """Tell whether the ratio of the sides is that of a smaller picture, within three per cent.

        Who made that one has rounded its sides: one pixel more or less is no other shape.
        """
        ratio = (self.width / self.height) / (smaller.width / smaller.height)
        return abs(ratio - 1) <= _TOLERANCE + 1 / min(smaller)
