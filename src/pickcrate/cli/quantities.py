"""Quantities as people type them."""

import re

from pickcrate.errors import UsageError

_SIZE = re.compile(r"\s*([0-9]+(?:\.[0-9]+)?)\s*(?:([kmg])(i?)b?|b)?\s*\Z", re.IGNORECASE)
_POWERS = {"": 0, "k": 1, "m": 2, "g": 3}


def parse_size(text: str, option: str) -> int:
    """Return bytes: ``100MB`` and ``100M`` are powers of 1000, ``100MiB`` of 1024; a UsageError names ``option``."""
    match = _SIZE.match(text)
    if match is None:
        raise UsageError(f"{option} {text!r} is not a size", hint=f"for example {option} 20MB")
    return int(float(match[1]) * (1024 if match[3] else 1000) ** _POWERS[(match[2] or "").lower()])
