"""Words as somebody types them who looks for them: a page writes “Müller’s – new”, a keyboard has Muller's - new.

Unicode Standard Annex 15 (NFKC, NFKD); Unicode Technical Standard 10, section 8.2 (asymmetric search).
"""

import unicodedata
from collections.abc import Callable, Iterable

_QUOTES, _DOUBLE_QUOTES = "‘’‚‛′´`ʼ‹›", "“”„‟″«»"
_DASHES = "‐‑‒–—―−⁃"
_UNSEEN = "\u00ad\u200b\u200c\u200d\u200e\u200f\u2060\ufeff"
"""soft hyphens, places where a line may break, marks of a direction"""

_AT_A_KEYBOARD = str.maketrans(
    dict.fromkeys(_QUOTES, "'")
    | dict.fromkeys(_DOUBLE_QUOTES, '"')
    | dict.fromkeys(_DASHES, "-")
    | dict.fromkeys(_UNSEEN)
    | {"×": "x"}
)
_WITHOUT_MARKS = str.maketrans(
    dict.fromkeys(map(chr, range(0x0300, 0x0370)))
    | {"æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "ħ": "h", "ı": "i"}
)
"""the marks on Latin, Greek and Cyrillic letters, and letters whose mark Unicode does not take apart"""


def plain(text: str) -> str:
    """Return ``text`` for comparing: small letters, and signs as a keyboard has them."""
    if text.isascii():
        return text.replace("`", "'").casefold()
    return unicodedata.normalize("NFKC", text.translate(_AT_A_KEYBOARD)).casefold()


def unmarked(text: str) -> str:
    """Return ``text`` for comparing, as ``plain`` does, and without the marks on its letters."""
    if text.isascii():
        return plain(text)
    taken_apart = unicodedata.normalize("NFKD", plain(text)).translate(_WITHOUT_MARKS)
    return unicodedata.normalize("NFC", taken_apart)  # whose letters are themselves put together: Hangul, kana


def folding_for(sought: str) -> Callable[[str], str]:
    """Return how ``sought``, and what it is looked for in, are to be written for comparing.

    Letters without marks stand for those with any; whoever types a mark means it.
    """
    return unmarked if unmarked(sought) == plain(sought) else plain


def named(sought: str, names: Iterable[str]) -> str | None:
    """Return the one of ``names`` that is ``sought``, or the first that is it for who types it; None if none is."""
    names = tuple(names)
    if sought in names:
        return sought
    fold = folding_for(sought)
    wanted = fold(sought)
    return next((name for name in names if fold(name) == wanted), None)
