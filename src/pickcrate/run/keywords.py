"""Settings as keywords of a program: the same table, and messages that name the keyword instead of the option."""

import re
from collections.abc import Mapping
from typing import Any

from pickcrate.errors import UsageError
from pickcrate.run.order import Destination, Order, make_order
from pickcrate.run.settings import table

_OPTION = re.compile(r"--([a-z][a-z-]*)(?:[ =](?!is |and |says |that |it |to |cannot )('[^']*'|[^\s,;:()]+))?")


def ordered(sources: tuple[str, ...], settings: Mapping[str, Any]) -> tuple[Order, Destination]:
    """Return the order that keywords make; UsageError names keywords, TypeError what is none."""
    try:
        return make_order(sources, settings)
    except UsageError as error:
        raise UsageError(_in_keywords(error.message), hint=_in_keywords(error.hint)) from error


def _in_keywords(text: str) -> str:
    """Return a message with its options as keywords: ``--not-url logo`` is ``not_url='logo'``."""

    def keyword(match: re.Match[str]) -> str:
        name = match[1].replace("-", "_")
        if name not in table():
            return match[0]
        return f"{name}={match[2] if match[2].startswith(chr(39)) else repr(match[2])}" if match[2] else name

    return _OPTION.sub(keyword, text)
