"""What ends a run, in words and an exit code: the only place that turns the one into the other."""

import atexit
import os
import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress

import click

from pickcrate.errors import PickCrateError

_EXIT_BY_SIGNAL = 128
"""to which a shell adds the number of the signal that ended a program"""


class QuickExit:
    """The end of the process: with ``code``, without taking apart all that it holds.

    Python does that value by value, which takes a fifth of the time of a small look. What others want done at the end
    is done before: the last of what ``atexit`` is asked for comes first, and this is asked for before all else.
    """

    def __init__(self) -> None:
        self.code: int | None = None
        """None: as Python ends by itself, with the traceback of a bug"""
        atexit.register(self._leave)

    def _leave(self) -> None:
        if self.code is None:
            return
        for stream in (sys.stdout, sys.stderr):
            with suppress(OSError, ValueError):
                stream.flush()
        os._exit(self.code)


@contextmanager
def told() -> Iterator[None]:
    """Turn what ends a run into words and an exit code."""
    try:
        yield
    except PickCrateError as error:
        from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (only what fails needs it)

        say_error(error.message, error.hint)
        raise click.exceptions.Exit(error.exit_code) from error
    except KeyboardInterrupt as asked:
        from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (only what fails needs it)

        say_error("interrupted", "run the same line again: it goes on from here")
        number = next((said for said in asked.args if isinstance(said, int)), signal.SIGINT)
        raise click.exceptions.Exit(_EXIT_BY_SIGNAL + number) from None
    except BrokenPipeError:  # the reader of our output has left, as head(1) does
        close_output()
        raise click.exceptions.Exit(0) from None
    except OSError as error:
        raise click.exceptions.Exit(output_failed(error)) from error


def output_failed(error: OSError) -> int:
    """Say that what was to be printed cannot be; return the exit code."""
    from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (only what fails needs it)

    close_output()
    what = error.filename or "standard output"
    say_error(f"{what} cannot be written: {(error.strerror or str(error)).lower()}", "what was done before is kept")
    return 1


def close_output() -> None:
    """Let nothing more be printed."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
