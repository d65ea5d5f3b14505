"""Which failures may pass, and how long to wait for that: exponential backoff with full jitter, and ``Retry-After``."""

import time
from collections.abc import Mapping

from pickcrate.fetch.exchange import Failure

MOST_IN_A_ROW = 8
"""Refusals of one site without a success between them, after which it is left alone."""

_BASE = 0.5
_LONGEST = 30.0
_LONGEST_ASKED = 120.0
"""Seconds that a server may ask to be waited for; a longer time ends the tries."""

# An answer that is no HTTP may be what a lying server left on the connection behind an earlier one.
# Agreeing on a secure connection fails as well where a busy server breaks it off.
_PASSING_KINDS = frozenset(("reset", "cut", "timeout", "refused", "resume", "protocol", "tls"))
_PASSING_STATUSES = frozenset((408, 425, 429, 500, 502, 503, 504, 507, 520, 521, 522, 523, 524))
_REFUSALS = frozenset(("reset", "timeout", "refused", "host", "tls", "status 403", "status 429", "status 503"))

LEFT_ALONE = Failure("site", f"its site was left alone after {MOST_IN_A_ROW} refusals in a row")


def wait(failure: Failure, status: int, fields: Mapping[str, str], attempt: int) -> float | None:
    """Return the seconds to wait before the next try, or None if another would not help.

    RFC 9110, 10.2.3 (Retry-After: seconds, or a date). ``attempt`` counts from 0.
    """
    if failure.kind not in _PASSING_KINDS and status not in _PASSING_STATUSES:
        return None
    asked = _asked(fields.get("retry-after", ""))
    if asked is not None:
        return asked if asked <= _LONGEST_ASKED else None
    from random import uniform  # noqa: PLC0415 (most runs wait for nothing)

    return uniform(0, min(_LONGEST, _BASE * 2**attempt))  # noqa: S311 (jitter, no secret)


def may_pass(failure: Failure) -> bool:
    """Tell whether an answer may be had another day."""
    kind, _, status = failure.kind.partition(" ")
    return (
        kind in _PASSING_KINDS or kind == LEFT_ALONE.kind or (status.isdecimal() and int(status) in _PASSING_STATUSES)
    )


def is_refusal(failure: Failure) -> bool:
    """Tell whether an answer is one of a site that does not want, or cannot take, any more requests."""
    return failure.kind in _REFUSALS


def _asked(field: str) -> float | None:
    if field.strip().isdecimal():
        return float(field.strip()[:9])
    from email.utils import parsedate_to_datetime  # noqa: PLC0415 (hardly an answer has it)

    try:
        return max(0.0, parsedate_to_datetime(field).timestamp() - time.time())
    except (ValueError, OverflowError):
        return None
