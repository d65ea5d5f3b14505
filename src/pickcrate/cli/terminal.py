"""The streams that people read, settled once: colour, width, and which of them gets the human words.

Lines are made of pieces, a text or a text with its style. Rich lays them out on a terminal; a file or a pipe gets
them plain, and Rich is not even loaded.
"""

import shutil
import sys
from typing import TYPE_CHECKING, TextIO

from pickcrate.cli.text import shown

if TYPE_CHECKING:
    from rich.console import Console

_WIDTH_OF_NO_TERMINAL = 100

Piece = str | tuple[str, str]


class Out:
    """One stream for human words. ``quiet`` drops them all."""

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
        return shutil.get_terminal_size((_WIDTH_OF_NO_TERMINAL, 24)).columns

    @property
    def console(self) -> "Console":
        """Rich's console on this stream; only for terminals."""
        if self._console is None:
            from rich.console import Console  # noqa: PLC0415 (only a terminal needs it)

            self._console = Console(file=self._stream, highlight=False, markup=False, emoji=False, soft_wrap=True)
        return self._console

    def line(self, *pieces: Piece) -> None:
        """Print one line; pieces are trusted, so what comes from a page goes through ``shown`` first."""
        if self.quiet:
            return
        if not self.is_terminal:
            self._stream.write("".join(piece if isinstance(piece, str) else piece[0] for piece in pieces) + "\n")
            return
        from rich.text import Text  # noqa: PLC0415

        self.console.print(Text.assemble(*pieces))


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
