"""One picture of a sheet: what is known of it, and a small picture to look at."""

from msgspec import Struct

from pickcrate.sheets.preview import Preview
from pickcrate.values.image import Image


class Tile(Struct, frozen=True):
    """A picture with its name-to-be and its preview; in words why there is none. ``file`` is its place in a crate."""

    image: Image
    name: str
    preview: Preview | None = None
    note: str = ""
    file: str = ""
    twins: int = 0
    """the number of the group of twins that it is in; 0 if none is known"""
