"""Words as somebody types them who looks for them: a page writes “Müller’s – new”, a keyboard has Muller's - new.

Unicode Standard Annex 15 (NFKC, NFKD); Unicode Technical Standard 10, section 8.2 (asymmetric search).
"""

import re
import unicodedata
from collections.abc import Callable, Iterable

from pickcrate.text.lazyre import lazy

_SIGNS = (
    dict.fromkeys("‘’‚‛′´`ʼ‹›", "'")
    | dict.fromkeys("“”„‟″«»", '"')
    | dict.fromkeys("‐‑‒–—―−⁃", "-")
    | dict.fromkeys("\u00ad\u200b\u200c\u200d\u200e\u200f\u2060\ufeff", "")
    | {"×": "x"}
)
"""what a keyboard has for them; nothing for soft hyphens, places where a line may break, marks of a direction"""

_LETTERS = {"æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "ħ": "h", "ı": "i"}
"""those whose mark Unicode does not take apart"""

# Sought and replaced, since ``str.translate`` takes five times as long.
_SIGN = lazy(f"[{''.join(_SIGNS)}]")
_LETTER = lazy(f"[{''.join(_LETTERS)}]")
_MARKS = lazy("[\u0300-\u036f]+")
"""those on Latin, Greek and Cyrillic letters"""

_MARKS_ON_LATIN = lazy("(?<=[a-z])[\u0300-\u036f]+")


def plain(text: str) -> str:
    """Return ``text`` for comparing: small letters, and signs as a keyboard has them."""
    if text.isascii():
        return text.replace("`", "'").casefold()
    return unicodedata.normalize("NFKC", _SIGN.sub(lambda sign: _SIGNS[sign[0]], text)).casefold()


def unmarked(text: str) -> str:
    """Return ``text`` for comparing, as ``plain`` does, and without the marks on its letters."""
    return plain(text) if text.isascii() else _without(_MARKS, text)


def unmarked_latin(text: str) -> str:
    """Return ``text`` as ``unmarked`` does, but for scripts in which a letter with a mark is another: й is no и."""
    return plain(text) if text.isascii() else _without(_MARKS_ON_LATIN, text)


def _without(marks: re.Pattern[str], text: str) -> str:
    bare = marks.sub("", unicodedata.normalize("NFKD", plain(text)))
    # Letters are themselves put together in some scripts: Hangul, kana.
    return unicodedata.normalize("NFC", _LETTER.sub(lambda letter: _LETTERS[letter[0]], bare))


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


def script() -> str:
    """Return the same as a script: ``plain``, ``unmarked`` and ``foldingFor``, with the tables of this module."""
    import json  # noqa: PLC0415 (most runs make no page)
    import pkgutil  # noqa: PLC0415

    tables = f"const SIGNS = {json.dumps(_SIGNS)};\nconst LETTERS = {json.dumps(_LETTERS)};\n"
    return tables + (pkgutil.get_data("pickcrate.text", "typed.js") or b"").decode()
