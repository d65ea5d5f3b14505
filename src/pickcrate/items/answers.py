"""Where an answer of an interface for programs goes on, as the conventions of those have it.

JSON:API 1.1 (``links``), HAL (``_links``), Hydra (``view``), OData 4.01 (``@odata.nextLink``), Activity Streams 2.0.
"""

import json
import re
from collections.abc import Iterator

from pickcrate.lazyre import lazy

NEXT_NAMED = r"next(?:[-_]?page)?(?:[-_]?(?:url|uri|link|href|path))?"
"""what data and scripts call the address of what comes next"""

_NEXT = lazy(NEXT_NAMED, re.IGNORECASE)
_ADDRESSES = ("href", "url", "@id", "id")
_DEEPEST, _MOST_VALUES, _MOST_TEXT = 5, 2_000, 8_000_000


def next_of_answer(text: str) -> Iterator[str]:
    """Yield the addresses, as written, that a text of JSON gives for what comes next; what is in lists is not of it."""
    try:
        waiting: list[tuple[object, int]] = [(json.loads(text[:_MOST_TEXT]), 0)]
    except (ValueError, RecursionError):
        return
    for value, depth in waiting:  # it grows
        if not isinstance(value, dict) or depth > _DEEPEST:
            continue
        for name, inner in value.items():
            if _NEXT.fullmatch(_plain(name)) is not None:
                yield from _addresses(inner)
        if len(waiting) < _MOST_VALUES:
            waiting.extend((inner, depth + 1) for inner in value.values() if isinstance(inner, dict))


def _plain(name: str) -> str:
    """Return the name of a property without its vocabulary: ``hydra:next``, ``@odata.nextLink``."""
    return name.rpartition(":")[2].rpartition(".")[2]


def _addresses(value: object) -> Iterator[str]:
    if isinstance(value, dict):
        value = next((value[name] for name in _ADDRESSES if name in value), None)
    if isinstance(value, str) and ("/" in value or "?" in value) and " " not in value:
        yield value
