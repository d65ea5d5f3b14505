"""Selectors as Lexbor has to be asked: where it departs from Selectors 4, what means the same and is read rightly."""

from pickcrate.text.lazyre import lazy

_BARE_FUNCTION = lazy(r"(?<![\w\-*:\])\"'\\|])(?=:(?:is|where|not|has)\()")
"""where a compound selector begins with a function

Lexbor holds such a one against the parent alone where a descendant combinator follows: of ``:is(.hall) img`` it
returns no images that lie deeper. ``*:is(.hall) img`` is the same selector (Selectors 4, 5.2: universal selector).
"""


def starred(selector: str) -> str:
    """Return a selector, or a list of them, none of whose compound selectors begins with a function."""
    return _BARE_FUNCTION.sub("*", selector)


def readable(selector: str) -> str:
    """Return one selector for what any of a list of selectors selects; what cannot be read in the list is passed over.

    It is one ``:is()``, since of a list Lexbor returns an element once for each selector that it matches.
    """
    return f":is({starred(selector)})"
