"""What somebody wrote with a picture, in data where nothing has a name: a post, a note, a message."""

from pickcrate.items.junk import says_nothing
from pickcrate.lazyre import lazy

_WRITTEN = (
    *("full_text", "fulltext", "caption", "description", "content", "text", "body", "message", "status", "post"),
    *("selftext", "summary", "note", "comment"),
)
"""under which name it stands, the best first"""

_LONGEST, _SHORTEST_SENTENCE = 120, 20
_MOST = 20_000
_MOST_PIECES = 200
_ADDRESS = lazy(r"(?:https?://|www\.)[^\s<>\"]{1,2000}")
_SENTENCE = lazy(r"[.!?…](?=\s|$)|[。！？]")
_TAGS = ("#", "@")
_WIDE = "\u2e80"
"""from here on are scripts that put no spaces between words"""


def written_in(value: dict[str, object]) -> list[object]:
    """Return what somebody may have written, of an object whose properties have plain names, the best first."""
    return [value[key] for key in _WRITTEN if value.get(key)]


def text_in(value: object) -> str:
    """Return a text that is one, or comes in pieces, some of them objects: of links, of other styles."""
    pieces = value[:_MOST_PIECES] if isinstance(value, list) else [value]
    said = (piece.get("text") if isinstance(piece, dict) else piece for piece in pieces)
    return "".join(piece for piece in said if isinstance(piece, str))[:_MOST]


def lead_of(text: str) -> str:
    """Return how a text begins: its first line of several words, without addresses and the tags at its end.

    Of a line that is long, the first sentence; of that, as many words as a name may have. Empty if it is but a word.
    """
    lines = map(_without_tags, _ADDRESS.sub("", text).splitlines())
    line = next(filter(_says_something, lines), "")
    if len(line) <= _LONGEST:
        return line
    ends = (match.end() for match in _SENTENCE.finditer(line, _SHORTEST_SENTENCE, _LONGEST))
    if end := next(ends, 0):
        return line[:end]
    return f"{line[:_LONGEST].rpartition(' ')[0] or line[:_LONGEST]}…"


def _without_tags(line: str) -> str:
    words = line.split()
    while words and words[-1].startswith(_TAGS):
        words.pop()
    return " ".join(words)


def _says_something(line: str) -> bool:
    return (" " in line or line > _WIDE) and not says_nothing(line)
