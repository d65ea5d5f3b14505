"""Which words a page's source has, in any case. Expressions that ignore case take a hundred times as long."""

from collections.abc import Collection

_AT_A_TIME = 1_000_000
"""Characters that are looked through at a time: no copy is made of a whole page."""


def mentioned(text: str, words: Collection[str]) -> frozenset[str]:
    """Return which of some words, ASCII and in lower case, stand in ``text`` in any case."""
    left = {word: word.encode() for word in words}
    overlap = max(map(len, words))
    for start in range(0, len(text), _AT_A_TIME):
        octets = text[start : start + _AT_A_TIME + overlap].encode("utf-8", "surrogatepass").lower()
        for word in [word for word, encoded in left.items() if encoded in octets]:
            del left[word]
    return frozenset(words) - left.keys()
