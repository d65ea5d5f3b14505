"""Regular expressions that are compiled when they are first used.

Compiling takes a hundred times as long as importing: of the expressions for whole pages a list needs none.
"""

import re
from typing import Any, AnyStr, cast


def lazy(text: AnyStr, flags: int = 0) -> re.Pattern[AnyStr]:
    """Return what behaves as ``re.compile(text, flags)``."""
    return cast("re.Pattern[AnyStr]", _Lazy(text, flags))


class _Lazy:
    def __init__(self, text: str | bytes, flags: int) -> None:
        self._source = text, flags

    def __getattr__(self, name: str) -> Any:
        """Return a method of the compiled expression; it is an attribute of ours from then on."""
        text, flags = self._source
        method = self.__dict__[name] = getattr(re.compile(text, flags), name)
        return method
