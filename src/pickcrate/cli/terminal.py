"""The streams that people read, decided on once: colour, width, and which of them gets the human words.

Lines are made of pieces, a text or a text with its style. Rich lays them out on a terminal; a file or a pipe gets
them plain, and Rich is not even loaded.
"""

import os
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.text import harmless, shown, writable
from pickcrate.text.numerals import whole

if TYPE_CHECKING:
    from rich.console import Console
    from rich.progress import Progress
    from rich.text import Text

_WIDTH_OF_NO_TERMINAL = 100
_CLEAR_LINE = "\x1b[K"

Piece = str | tuple[str, str] | tuple[str, str, str]
"""A text; or one with its style; or one with its style and the address that it leads to."""


class Out:
    """One stream for human words. ``quiet`` drops them all."""

    _is_passing = False
    """whether the terminal, of which there is one, shows words that the next line takes the place of"""

    def __init__(self, stream: TextIO, *, quiet: bool = False) -> None:
        self.quiet = quiet
        self.is_terminal = stream.isatty()
        self._stream = stream
        self._console: Console | None = None

    @property
    def width(self) -> int:
        """Columns: the terminal's, or ``COLUMNS``, or 100 where there is neither."""
        if self.is_terminal:
            return self.console.width
        return whole(os.environ.get("COLUMNS", "")) or _WIDTH_OF_NO_TERMINAL

    @property
    def console(self) -> "Console":
        """Rich's console on this stream; only for terminals."""
        if self._console is None:
            from rich.console import Console  # noqa: PLC0415 (only a terminal needs it)

            self._console = Console(file=self._stream, highlight=False, markup=False, emoji=False, soft_wrap=True)
        return self._console

    def line(self, *pieces: Piece) -> None:
        """Print one line. What comes from a page goes through ``shown``; all goes through ``harmless`` once more."""
        if self.quiet:
            return
        if not self.is_terminal:
            text = "".join(piece if isinstance(piece, str) else piece[0] for piece in pieces)
            self._stream.write(writable(harmless(text), self._stream.encoding) + "\n")
            return
        if Out._is_passing:
            self._stream.write(_CLEAR_LINE)
            Out._is_passing = False
        self.console.print(_text(pieces, self._stream.encoding))

    def passing(self, words: str) -> None:
        """Show on a terminal how far something is, until the next line takes its place."""
        if self.is_terminal and not self.quiet:
            Out._is_passing = True
            self._stream.write(f"{_CLEAR_LINE}{words}\r")
            self._stream.flush()


def bars(out: Out) -> "Progress":
    """Return bars for a terminal: what is done, of how much, what comes in (a field ``traffic``), and how long yet."""
    from rich.progress import (  # noqa: PLC0415 (only a terminal needs it)
        BarColumn,
        MofNCompleteColumn,
        Progress,
        TextColumn,
        TimeRemainingColumn,
    )

    return Progress(
        TextColumn("{task.description}"),
        BarColumn(bar_width=30, complete_style="green", finished_style="green"),
        MofNCompleteColumn(),
        TextColumn("{task.fields[traffic]}"),
        TimeRemainingColumn(compact=True),
        console=out.console,
    )


def place(path: Path) -> Piece:
    """Return a path as a piece that leads to it."""
    return shown(str(path)), "bold", path.resolve().as_uri()


def _text(pieces: Iterable[Piece], encoding: str) -> "Text":
    from rich.style import Style  # noqa: PLC0415 (only a terminal needs it)
    from rich.text import Text  # noqa: PLC0415

    text = Text()
    for piece in pieces:
        words, style, address = (piece, "", "") if isinstance(piece, str) else (*piece, "")[:3]
        link = Style(link=address) if _is_safe(address) else Style()
        text.append(writable(harmless(words), encoding), Style.parse(style) + link)
    return text


def _is_safe(address: str) -> bool:
    """Tell whether an address may stand in a hyperlink's escape code (OSC 8): printable ASCII only."""
    is_known = address.startswith(("http://", "https://", "file://")) and without_userinfo(address) == address
    return is_known and address.isascii() and address.isprintable()


def human(*, data_on_output: bool = False, quiet: bool = False) -> Out:
    """Return where human words go: standard error where standard output carries data."""
    return Out(sys.stderr if data_on_output else sys.stdout, quiet=quiet)


def say_error(message: str, hint: str = "") -> None:
    """Print an error as every command does: what happened, then what to do next."""
    sys.stdout.flush()
    out = Out(sys.stderr)
    out.line(("pickcrate: ", "bold red"), shown(message))
    if hint:
        out.line(("  → ", "cyan"), shown(hint))


def wait_for_enter() -> None:
    """Wait until the user, who is to do something in the window of a browser first, wants to go on.

    Where nobody can press a key it does not wait: ``--wait`` and ``--wait-for`` are for scripts.
    """
    if sys.stdin is None or not sys.stdin.isatty():
        return
    Out(sys.stderr).line(("the page is open in the browser: ", "bold"), "press Enter here to go on")
    sys.stdin.readline()
