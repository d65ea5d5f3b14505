"""Files that a user named to be written: put in place when they are whole, or not at all."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TextIO

from pickcrate.errors import PickCrateError


@contextmanager
def put_in_place(path: Path, option: str) -> Iterator[Path]:
    """Yield a path to write to, which is moved to ``path`` at the end.

    Raises a PickCrateError that names ``option`` if it cannot be written.
    """
    beside = path.with_name(f".{path.name}.part")
    try:
        yield beside
        beside.replace(path)
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise PickCrateError(f"{option} {path}: cannot be written: {reason}") from error
    finally:
        if beside.parent.is_dir():
            beside.unlink(missing_ok=True)


@contextmanager
def text_in_place(path: Path, option: str) -> Iterator[TextIO]:
    """Yield a text in UTF-8 to write to, which is at ``path`` once it is whole; what is no character becomes ``?``.

    Raises a PickCrateError that names ``option`` if it cannot be written.
    """
    with put_in_place(path, option) as beside, beside.open("w", encoding="utf-8", errors="replace", newline="") as file:
        yield file
