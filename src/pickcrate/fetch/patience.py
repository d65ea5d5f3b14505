"""Which failures may pass, and how long to wait for that: exponential backoff with full jitter, and ``Retry-After``."""

import time
from collections.abc import Mapping

from pickcrate.fetch.exchange import Failure
from pickcrate.values.cause import Cause

MOST_IN_A_ROW = 8
"""Refusals of one site without a success between them, after which it is left alone."""

_BASE = 0.5
_LONGEST = 30.0
_LONGEST_ASKED = 120.0
"""Seconds that a server may ask to be waited for; a longer time ends the tries."""

# An answer that is no HTTP may be what a lying server left on the connection behind an earlier one.
# Agreeing on a secure connection fails as well where a busy server breaks it off.
_PASSING = frozenset((Cause.RESET, Cause.CUT, Cause.TIMEOUT, Cause.REFUSED, Cause.RESUME, Cause.PROTOCOL, Cause.TLS))
_PASSING_STATUSES = frozenset((408, 425, 429, 500, 502, 503, 504, 507, 520, 521, 522, 523, 524))
_REFUSALS = frozenset((Cause.RESET, Cause.TIMEOUT, Cause.REFUSED, Cause.HOST, Cause.TLS))
_REFUSING_STATUSES = frozenset((403, 429, 503))

LEFT_ALONE = Failure(Cause.SITE, f"its site was left alone after {MOST_IN_A_ROW} refusals in a row")


def wait(failure: Failure, status: int, fields: Mapping[str, str], attempt: int) -> float | None:
    """Return the seconds to wait before the next try, or None if another would not help.

    RFC 9110, 10.2.3 (Retry-After: seconds, or a date). ``attempt`` counts from 0.
    """
    if failure.cause not in _PASSING and status not in _PASSING_STATUSES:
        return None
    asked = _asked(fields.get("retry-after", ""))
    if asked is not None:
        return asked if asked <= _LONGEST_ASKED else None
    from random import uniform  # noqa: PLC0415 (most runs wait for nothing)

    return uniform(0, min(_LONGEST, _BASE * 2**attempt))  # noqa: S311 (jitter, no secret)


def may_pass(failure: Failure) -> bool:
    """Tell whether an answer may be had another day."""
    return failure.cause in _PASSING or failure.cause is Cause.SITE or failure.status in _PASSING_STATUSES


def is_refusal(failure: Failure) -> bool:
    """Tell whether an answer is one of a site that does not want, or cannot take, any more requests."""
    return failure.cause in _REFUSALS or failure.status in _REFUSING_STATUSES


def _asked(field: str) -> float | None:
    if field.strip().isdecimal():
        return float(field.strip()[:9])
    from email.utils import parsedate_to_datetime  # noqa: PLC0415 (hardly an answer has it)

    try:
        return max(0.0, parsedate_to_datetime(field).timestamp() - time.time())
    except (ValueError, OverflowError):
        return None
