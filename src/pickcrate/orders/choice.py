"""Which of the pictures are wanted: how many at most, and the first of what order."""

from enum import StrEnum

from msgspec import Struct

from pickcrate.values.image import Image


class SortKey(StrEnum):
    """What pictures are put in order by."""

    PAGE = "page"
    WIDTH = "width"
    PIXELS = "pixels"
    BYTES = "bytes"
    NAME = "name"
    URL = "url"

    def is_unknown_of(self, image: Image) -> bool:
        """Tell whether what this orders by is a measure that is not known of a picture."""
        measures = image.best.measures
        match self:
            case SortKey.WIDTH:
                return measures.width is None
            case SortKey.PIXELS:
                return measures.width is None or measures.height is None
            case SortKey.BYTES:
                return measures.bytes is None
            case _:
                return False


class Choice(Struct, frozen=True):
    """How many pictures are wanted at most, and the first of what order."""

    limit: int | None = None
    sort: SortKey = SortKey.PAGE
