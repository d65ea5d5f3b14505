"""Lines for people to paste into their shell: whatever a page was called, they do what they say and no more."""

import os
import shlex
from collections.abc import Sequence

from pickcrate.text.lazyre import lazy

# Inside double quotes cmd expands %NAME%, PowerShell $name and `; neither shell can quote for the other.
_NOT_FOR_WINDOWS = lazy(r"[%$`\"\x00-\x1f]")
_PLAIN = lazy(r"[A-Za-z0-9_./:=,+@~-]+")


def command_line(words: Sequence[str], *, for_windows: bool = os.name == "nt") -> str:
    """Return ``words`` as a line that the user's shell takes apart into just these words.

    Empty if there is no such line: on Windows, where a word holds what one of its shells would expand.
    """
    if not for_windows:
        return shlex.join(words)
    if any(map(_NOT_FOR_WINDOWS.search, words)):
        return ""
    return " ".join(word if _PLAIN.fullmatch(word) else _in_double_quotes(word) for word in words)


def _in_double_quotes(word: str) -> str:
    """Quote as the C runtime reads arguments: backslashes before the closing quote are doubled."""
    backslashes = len(word) - len(word.rstrip("\\"))
    return '"' + word + "\\" * backslashes + '"'


def as_operand(path: str) -> str:
    """Return a path that no command takes for an option."""
    return f"./{path}" if path.startswith("-") else path
