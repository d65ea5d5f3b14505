"""What somebody wrote with a picture, where nothing has a name: a post, a note, a message."""

from collections.abc import Iterable
from enum import Enum

from pickcrate.items.ground import Ground
from pickcrate.items.said.junk import says_nothing
from pickcrate.items.said.lines import Line
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_WRITTEN = (
    *("full_text", "fulltext", "caption", "description", "content", "text", "body", "message", "status", "post"),
    *("selftext", "summary", "note", "comment"),
)
"""under which name it stands, the best first"""

_LONGEST, _SHORTEST_SENTENCE = 80, 20
_MOST = 20_000
_MOST_PIECES = 200
_ADDRESS = lazy(r"(?:https?://|www\.)[^\s<>\"]{1,2000}")
_SENTENCE = lazy(r"[.!?…](?=\s|$)|[。！？]")
_TAGS = ("#", "@")
_WIDE = "\u2e80"
"""from here on are scripts that put no spaces between words"""

_IS_POST = lazy(r"(?:[a-z]{1,20}[-_]{1,2})?(?:post|status|comment|message|msg|reply|review)(?:[-_]{1,2}(?:item|card))?")
"""a class of what somebody wrote"""

_SURELY, _PEOPLE = "avatars?|gravatar|userpic|commenter", "author|byline|profile|user"
_OF_FACE, _OF_WRITER, _OF_ANY = (
    lazy(rf"(?:^|[\W_\d])(?:{words})(?:[\W_\d]|$)")
    for words in (_SURELY, f"{_SURELY}|{_PEOPLE}", f"{_SURELY}|{_PEOPLE}|face|poster|rank|medal|level")
)
"""what a picture of somebody who wrote is called: that alone, people as well, other things as well"""

_LARGEST_OF_WRITER, _MOST_PICTURES = 64, 20
_OF_ROWS = frozenset(("tr", "tbody"))
_FEWEST_WORDS = 3


class Face(Enum):
    """Whether a picture is called as that of somebody who wrote."""

    NONE = "no"
    PERHAPS = "by words that other things are called by as well"
    SURE = "yes"


def face_of(classes: str, name: str, *, is_small: bool) -> Face:
    """Return whether a picture is of somebody who wrote, by its classes and what it is called, in small letters.

    A shop may sell posters, and a manual show what its users see: by such names only what ``is_small`` is a face.
    """
    if _OF_FACE.search(classes) is not None or _OF_FACE.search(name) is not None:
        return Face.SURE
    is_any = _OF_ANY.search(classes) is not None or (is_small and _OF_ANY.search(name) is not None)
    return Face.PERHAPS if is_any else Face.NONE


def is_post(tree: Ground, start: int, end: int) -> bool:
    """Tell whether a part of a page is a post with a picture: its class, or that of its table, says that it is one.

    A picture of nobody but who wrote it is none.
    """
    outer = next(one for one in tree.above(start) if tree.tags[one] not in _OF_ROWS)
    classes = tree.attribute(outer, "class").lower().split()
    if not any(_IS_POST.fullmatch(name) is not None for name in classes):
        return False
    return not all(_is_of_writer(tree, number) for number in tree.photos_in(start, end, _MOST_PICTURES))


def _is_of_writer(tree: Ground, number: int) -> bool:
    side = whole(tree.attribute(number, "width")) or 0
    classes, address = (tree.attribute(number, name).lower() for name in ("class", "src"))
    is_called = _OF_ANY.search(classes) is not None or _OF_WRITER.search(address) is not None
    return 0 < side <= _LARGEST_OF_WRITER or is_called


def written_on(lines: Iterable[Line]) -> str:
    """Return how the longest line begins, behind the name of who wrote it; empty if it is of few words."""
    longest = max(lines, key=lambda line: len(line.text), default=None)
    text = longest.text.removeprefix(longest.bold).lstrip(" :") if longest is not None else ""
    return lead_of(text) if text.count(" ") >= _FEWEST_WORDS - 1 or text > _WIDE else ""


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
