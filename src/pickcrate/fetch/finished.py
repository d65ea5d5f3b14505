"""The reply that a finished transfer makes: what libcurl knows of it, and what came in its body."""

from collections.abc import Mapping

import pycurl

from pickcrate.fetch import failures, private, resultcodes
from pickcrate.fetch.body import Body, part_of
from pickcrate.fetch.exchange import Failure, Reply
from pickcrate.fetch.line import Errand
from pickcrate.values.cause import Cause
from pickcrate.values.trust import Trust

_CUT = resultcodes.of_transfer(pycurl.E_PARTIAL_FILE, "")
_BROKEN = resultcodes.of_transfer(pycurl.E_BAD_CONTENT_ENCODING, "")
_PACKED = (b"\x1f\x8b", b"\x28\xb5\x2f\xfd")
"""how gzip (RFC 1952, 2.3.1) and Zstandard data (RFC 8878, 3.1.1) begin"""

_CUT_SHORT = frozenset((Cause.CUT, Cause.RESET, Cause.TIMEOUT))


def reply_of(curl: pycurl.Curl, errand: Errand, body: Body, failure: Failure | None, trust: Trust) -> Reply:
    """Return what came of an errand; ``failure`` is libcurl's, which is passed over where enough has come."""
    status = int(curl.getinfo(pycurl.RESPONSE_CODE))
    fields = body.fields()
    failure = _failure(status, errand, body, fields, failure)
    if failure is None and body.file is not None:
        body.file.flush()
    is_of_use = failure is None or (errand.request.is_visit and status == 200 and failure.cause in _CUT_SHORT)
    modified = int(curl.getinfo(pycurl.INFO_FILETIME))
    # RFC 9112, 6.3: over HTTP/1 an answer may also end where its connection does, wherever that is.
    is_framed = not fields.keys().isdisjoint(("content-length", "transfer-encoding"))
    is_framed = is_framed or curl.getinfo(pycurl.INFO_HTTP_VERSION) >= pycurl.CURL_HTTP_VERSION_2
    return Reply(
        request=errand.request,
        url=errand.url,
        status=status,
        headers=fields,
        is_all=failure is None and is_framed,
        octets=b"".join(body.chunks) if is_of_use else b"",
        spooled=body.file if failure is None else None,
        size=body.size,
        modified=modified if modified >= 0 else None,
        failure=failure,
        trust=trust,
    )


def _failure(
    status: int, errand: Errand, body: Body, fields: Mapping[str, str], stopped: Failure | None
) -> Failure | None:
    """Return what is wrong with an answer, if anything is; ``stopped`` is why libcurl did not see its end."""
    failure = None if body.is_enough else _broken_off(status, errand, body) or stopped
    is_unchanged = status == 304 and errand.request.known is not None
    if failure is None and not is_unchanged:
        failure = failures.of_status(status)
    failure = failure or _of_part(status, body, fields)
    if failure is None and errand.takes_as_sent and body.begins_with(_PACKED):
        failure = _BROKEN
    return private.REFUSED if failure is not None and errand.was_refused else failure


def _broken_off(status: int, errand: Errand, body: Body) -> Failure | None:
    """Return why we took no more of an answer, if that was us."""
    if body.is_beyond:
        return failures.BEYOND
    if body.is_wrong_part or (status == 416 and body.resumes):
        return failures.WRONG_PART
    if body.size > body.limit:
        is_ours = body.lacks_part or body.limit == errand.request.most
        return failures.too_large(body.limit if is_ours else 0)
    return None


def _of_part(status: int, body: Body, fields: Mapping[str, str]) -> Failure | None:
    """Return what is wrong with an answer that is a part (206), that was to be one, or that comes in parts.

    Nobody asked for it, or it ends too early: a server may send less than was asked for, and says so in
    ``Content-Range`` only (RFC 9110, 15.3.7). Or nothing came at all, neither the rest nor the whole.
    """
    if body.lacks_part or (body.asks_for_rest and body.resumes):  # not even a first chunk has settled what it is
        return _CUT
    if status != 206 or body.is_enough:
        return None
    start, total = part_of(fields) or (0, None)  # what does not say which part it is may be all
    is_short = total is not None and body.size < total and not body.request.first
    if body.asks_for_rest:
        return _CUT if is_short else None
    return failures.WRONG_PART if start or is_short else None
