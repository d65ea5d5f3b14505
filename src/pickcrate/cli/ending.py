"""What ends a run, in words and an exit code: the only place that turns the one into the other."""

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager

import click

from pickcrate.errors import PickCrateError

_EXIT_INTERRUPTED = 130


@contextmanager
def told() -> Iterator[None]:
    """Turn what ends a run into words and an exit code."""
    try:
        yield
    except PickCrateError as error:
        from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (only what fails needs it)

        say_error(error.message, error.hint)
        raise click.exceptions.Exit(error.exit_code) from error
    except KeyboardInterrupt:
        from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (only what fails needs it)

        say_error("interrupted", "run the same line again: it goes on from here")
        raise click.exceptions.Exit(_EXIT_INTERRUPTED) from None
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
