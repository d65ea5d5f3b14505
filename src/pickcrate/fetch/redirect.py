"""Redirects (RFC 9110, 15.4 and 10.2.2): where an answer sends a request on to."""

from collections.abc import Mapping

from pickcrate.addresses.url import absolute, is_web
from pickcrate.fetch.exchange import Failure
from pickcrate.values.cause import Cause

MOST_HOPS = 10
KEEP_METHOD = frozenset((307, 308))
LOOP = Failure(Cause.REDIRECTS, "redirected in a loop")
ASTRAY = Failure(Cause.REDIRECTS, "redirected to what is no web address")
_STATUSES = frozenset((301, 302, 303, *KEEP_METHOD))


def is_redirect(status: int, fields: Mapping[str, str]) -> bool:
    """Tell whether an answer sends the request on to another address."""
    return status in _STATUSES and bool(fields.get("location"))


def target(fields: Mapping[str, str], base: str) -> str | None:
    """Return where the ``Location`` field leads, read against ``base``; None if that is no web address."""
    location = fields["location"].encode("latin-1", "replace").decode("utf-8", "replace")
    url = absolute(location, base)
    return url if url is not None and is_web(url) else None
