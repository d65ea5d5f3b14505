"""What the keys of data say of a picture: that it is one of a person, or the mark of a site or a firm."""

from enum import Enum

from pickcrate.addresses.ranks import ADDRESS_WORDS, UNSAID, names_a_picture, names_a_version, rank, words_in
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image

_FACES = frozenset(("avatar", "gravatar", "userpic", "headshot"))
_PEOPLE = frozenset("user author owner creator uploader poster member account actor commenter reviewer profile".split())
_MARKS = frozenset(("logo", "favicon", "badge", "watermark"))


class Keyed(Enum):
    """What a picture in data is of, besides what its thing is about; its value is how that is said."""

    FACE = "a person's picture, by its key in the data, beside something else"
    MARK = "a logo, by its key in the data, beside something else"


def keyed(image: Image) -> Keyed | None:
    """Return what the keys say that a picture stands under (``user.avatar_url``, ``site.logo``); None if it may be any.

    One of several of a person (``user.photos``) is what that has shown.
    """
    shown = image.shown
    if shown.found_in != FoundIn.DATA or not shown.attribute:
        return None
    keys = shown.attribute.replace(" ", ".").split(".")
    while len(keys) > 1 and _says_no_picture(keys[-1]):
        keys.pop()
    own = frozenset(words_in(keys[-1]))
    if own & _MARKS:
        return Keyed.MARK
    is_of_person = any(_PEOPLE.intersection(words_in(key)) for key in keys)
    is_one = names_a_picture(keys[-1]) and not any(word.endswith("s") for word in own)
    return Keyed.FACE if own & _FACES or (is_of_person and is_one) else None


def _says_no_picture(key: str) -> bool:
    """Tell whether a key is only that of an address, or of a size of what the key around it says."""
    return key.lower() in ADDRESS_WORDS or (names_a_version(key) and rank(key) != UNSAID)
