"""Failures that are no fault of the network's, and what HTTP's status codes say."""

from pickcrate.fetch.exchange import Failure
from pickcrate.values.cause import Cause

TOO_LARGE = Failure(Cause.SIZE, "larger than --max-file")
WRONG_PART = Failure(Cause.RESUME, "another part came than was asked for")
BEYOND = Failure(Cause.TOTAL, "beyond --max-total: the same line again goes on with it")


def too_large(most: int) -> Failure:
    """Return the failure of a body that is too large: for the user, or for what it is to be (``most`` bytes)."""
    words = f"larger than {most // 1_000_000} MB, the most that is read of a part of a page"
    return Failure(Cause.SIZE, words) if most else TOO_LARGE


def of_status(status: int) -> Failure | None:
    """Return the failure that an HTTP status is, or None for a success (RFC 9110, 15.3)."""
    if 200 <= status < 300:
        return None
    from http import HTTPStatus  # noqa: PLC0415 (a page on the disk has none)

    try:
        phrase = HTTPStatus(status).phrase
    except ValueError:
        phrase = "unknown status"
    return Failure(Cause.STATUS, f"the server answered {status} {phrase}", status)
