"""What stands on a page of a PDF: its words and pictures with their places, and the structure that tagged ones have.

Places are boxes in points (1/72 inch) from the lower left corner (ISO 32000-2, 8.3.2.3).
"""

from msgspec import Struct, field


class Box(Struct, frozen=True):
    """Where something stands, in points."""

    left: float
    bottom: float
    right: float
    top: float

    @property
    def width(self) -> float:
        """How wide it is."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """How high it is."""
        return self.top - self.bottom

    def covers(self, other: "Box") -> bool:
        """Tell whether most of another box lies in this one: its middle does, and it is not much larger."""
        x, y = (other.left + other.right) / 2, (other.bottom + other.top) / 2
        has_middle = self.left <= x <= self.right and self.bottom <= y <= self.top
        return has_middle and other.width <= 2 * self.width and other.height <= 2 * self.height

    def turned(self, degrees: int, width: float, height: float) -> "Box":
        """Return where it is on a page that is shown turned clockwise (ISO 32000-2, 7.7.3.3: ``Rotate``).

        ``width`` and ``height`` are those of the page as it lies.
        """
        match degrees:
            case 90:
                return Box(self.bottom, width - self.right, self.top, width - self.left)
            case 180:
                return Box(width - self.right, height - self.top, width - self.left, height - self.bottom)
            case 270:
                return Box(height - self.top, self.left, height - self.bottom, self.right)
            case _:
                return self

    def apart_from(self, other: "Box") -> float:
        """Return how far it is from another box; 0 if they touch."""
        across = max(other.left - self.right, self.left - other.right, 0.0)
        up = max(other.bottom - self.top, self.bottom - other.top, 0.0)
        return across + up

    def together(self, other: "Box") -> "Box":
        """Return the smallest box around this one and another."""
        left, bottom = min(self.left, other.left), min(self.bottom, other.bottom)
        return Box(left, bottom, max(self.right, other.right), max(self.top, other.top))


class Piece(Struct, frozen=True):
    """A picture, or a run of words in one font."""

    box: Box
    text: str = ""
    size: float = 0.0
    """of the font, in points"""
    is_bold: bool = False
    picture: str = ""
    """the picture's address, relative to the document; empty for words"""
    link: str = ""
    """the address that it leads to"""
    mark: int = -1
    """the identifier of the marked content that it is part of (ISO 32000-2, 14.7.5.2); -1 for none"""


class Part(Struct):
    """An element of the structure of a tagged PDF (ISO 32000-2, 14.7.2), as far as it has content on a page."""

    kind: str
    """its standard structure type (14.8.4): ``H1``, ``Figure``, ``TD``"""
    alt: str = ""
    spans: tuple[int, int] = (1, 1)
    """rows and columns of a cell (14.8.5.7)"""
    held: dict[int, "Part | int"] = field(default_factory=dict)
    """elements, and identifiers of marked content, by their places in the order of reading"""


class Leaf(Struct, frozen=True):
    """One page: its pieces in the order in which they are painted, and its structure."""

    pieces: list[Piece]
    parts: dict[int, Part] = field(default_factory=dict)

    @property
    def is_tagged(self) -> bool:
        """Whether its structure tells how it is to be read."""
        return bool(self.parts) and any(piece.mark >= 0 for piece in self.pieces)
