"""What data has in words for a picture: what is to be said in its place, and to be written below it."""

from enum import Enum

from pickcrate.items.data.texts import plain_text, text_of_value
from pickcrate.items.said.junk import says_nothing, without_tail
from pickcrate.text.headers import words_of

_ALT, _CAPTION = "alt", "caption"
"""what is in the name of a property that has such words"""

_ALTERNATIVE, _CAPTIONS = frozenset(("alt", "alternative", "alttext")), frozenset(("caption", "captiontext"))
_BESIDE_WORDS = frozenset(
    "text tag html plain rendered raw accessibility description image img photo photograph picture main media lead "
    "thumbnail".split()
)
"""words beside those in the names of properties, which say that a text is a picture's"""

_WHETHER = frozenset("show has is hide no enable disable use with allow closed".split())
"""words in the name of a property that tells whether there is something"""

_LONGEST_WORDS = 1_000
"""characters of what is said of a picture"""


class InWords(Enum):
    """What words are to a picture."""

    ALTERNATIVE = "to be said in its place"
    CAPTION = "to be written below it"


def name_in_caption(caption: object) -> object:
    """Return a caption as a name: without what stands behind its sentences, as whose the picture is."""
    return without_tail(plain_text(caption)) if isinstance(caption, str) else caption


def words_for_picture(value: dict[str, object]) -> tuple[str, str]:
    """Return what an object has to be said in place of its picture, and to be written below that; empty texts if none.

    The alternative text (``alt``, ``imageAlt``, ``alternativeText``) and the caption (``caption``, ``photo_caption``).
    """
    said: dict[InWords, str] = {}
    for key, inner in value.items():
        if (kind := words_called(key)) is not None and not said.get(kind):
            said[kind] = _sayable(text_of_value(inner))
    return said.get(InWords.ALTERNATIVE, ""), said.get(InWords.CAPTION, "")


def words_called(key: str) -> InWords | None:
    """Return what a property has in words for a picture, by what it is called; None if it has no such words.

    A caption may be one whatever of: ``media_to_caption``, but not ``showCaption``.
    """
    lowered = key.lower()
    if _CAPTION in lowered:
        own = words_of(key)
        is_last = lowered.endswith(_CAPTION) and own.isdisjoint(_WHETHER)
        return InWords.CAPTION if is_last or own <= _CAPTIONS | _BESIDE_WORDS else None
    own = words_of(key) if _ALT in lowered else frozenset()
    return InWords.ALTERNATIVE if own & _ALTERNATIVE and own <= _ALTERNATIVE | _BESIDE_WORDS else None


def _sayable(text: str) -> str:
    """Return a text that may be said of a picture; empty for an address, or a text that is no text."""
    return "" if "://" in text or says_nothing(text) else text[:_LONGEST_WORDS]
