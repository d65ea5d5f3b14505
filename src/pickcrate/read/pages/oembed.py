"""oEmbed 1.0, section 2.3.4.1: the answer of a site that tells the picture of one of its pages."""

from msgspec import Struct

from pickcrate.text.surrogates import read_json

MEDIA_TYPE = "application/json+oembed"


class Photo(Struct, frozen=True):
    """The picture that a page is about, with its width in pixels where that is stated."""

    url: str
    width: int | None = None


def read_photo(octets: bytes) -> Photo | None:
    """Return the photo of an oEmbed answer, or None if it is of another type, or none at all."""
    try:
        answer = read_json(octets)
    except (ValueError, RecursionError):
        return None
    if not isinstance(answer, dict) or answer.get("type") != "photo" or not isinstance(answer.get("url"), str):
        return None
    width = answer.get("width")
    return Photo(answer["url"], width if isinstance(width, int) and width > 0 else None)
