"""Settings as keywords of a program: the same table, and messages that name the keyword instead of the option."""

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import IO, Any

from msgspec.structs import replace

from pickcrate.errors import PickCrateError, UsageError
from pickcrate.orders.order import Destination, Order, make_order
from pickcrate.orders.setting import Command
from pickcrate.orders.settings import of_command, table
from pickcrate.text.lazyre import lazy

_SLIP = "slip"
_OPTION = lazy(r"--([a-z][a-z-]*)")


def ordered(
    command: Command, sources: tuple[str, ...], settings: Mapping[str, Any], handed: Mapping[str, IO[bytes]]
) -> tuple[Order, Destination]:
    """Return the order that keywords make, on top of the slip that they name.

    Of sources that are ``handed`` over as they are, ``sources`` has the names. Raises TypeError for what is no keyword
    of ``command``, UsageError for what cannot mean anything.
    """
    taken = {name for name, row in of_command(command).items() if row.goes_to}
    for name in settings:
        if name not in taken and name != _SLIP:
            raise TypeError(f"{command}() got an unexpected keyword argument {name!r}")
    given = {name: value for name, value in settings.items() if name != _SLIP}
    if settings.get(_SLIP) is not None:
        from pickcrate.orders.slips import read_slip  # noqa: PLC0415 (most programs have none)

        slip = read_slip(settings[_SLIP])
        sources = (*slip.sources, *sources)
        given = {name: value for name, value in slip.settings.items() if name in taken} | given
    if not sources:
        raise UsageError("no source is named", hint=f"{command}() takes addresses, paths, bytes or open files")
    order, destination = make_order(sources, given)
    return replace(order, handed=handed) if handed else order, destination


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
