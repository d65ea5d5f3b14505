"""Errors that end a run. What is wrong in a page, or with one picture, is a value and not here."""


class PickCrateError(Exception):
    """Something that stops the whole run, said for the person who started it.

    ``message`` says what happened and to what; ``hint`` says what to do next.
    """

    exit_code = 1

    def __init__(self, message: str, *, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint


class UsageError(PickCrateError):
    """An option or argument that cannot mean anything."""

    exit_code = 2


class SourceError(PickCrateError):
    """A source that could not be read."""

    exit_code = 3


class NothingPickedError(PickCrateError):
    """No picture was there to fetch."""

    exit_code = 4


class CrateError(PickCrateError):
    """A crate that cannot be written: forbidden, full, held by another run, or no crate at all."""

    exit_code = 5


class StoreError(PickCrateError):
    """A store that cannot be written or read: unknown, forbidden, out of reach, or not as it was left."""

    exit_code = 5
