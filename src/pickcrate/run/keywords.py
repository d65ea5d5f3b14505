"""Settings as keywords of a program: the same table, and messages that name the keyword instead of the option."""

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from pickcrate.errors import PickCrateError
from pickcrate.lazyre import lazy
from pickcrate.run.order import Destination, Order, make_order
from pickcrate.run.settings import Command, of_command, table

_OPTION = lazy(r"--([a-z][a-z-]*)")


def ordered(command: Command, sources: tuple[str, ...], settings: Mapping[str, Any]) -> tuple[Order, Destination]:
    """Return the order that keywords make; TypeError for what is no keyword of ``command``."""
    taken = of_command(command)
    for name in settings:
        if name not in taken or not taken[name].goes_to:
            raise TypeError(f"{command}() got an unexpected keyword argument {name!r}")
    return make_order(sources, settings)


@contextmanager
def naming_keywords() -> Iterator[None]:
    """Name keywords, and not options, in whatever is said of a run that a program has asked for."""
    try:
        yield
    except PickCrateError as error:
        raise type(error)(_in_keywords(error.message), hint=_in_keywords(error.hint)) from error


def _in_keywords(text: str) -> str:
    """Return a message with its options as keywords: ``--not-url`` is ``not_url``."""

    def keyword(match: re.Match[str]) -> str:
        name = match[1].replace("-", "_")
        return name if name in table() else match[0]

    return _OPTION.sub(keyword, text)
