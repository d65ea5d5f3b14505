"""The table from libcurl's result codes to words that a person can act on."""

import pycurl

from pickcrate.fetch.exchange import Failure
from pickcrate.values.cause import Cause

_HTTP2_STREAM, _HTTP3, _QUIC_CONNECT = 92, 95, 96
"""codes of libcurl that pycurl has no names for"""

_BROKE = (Cause.RESET, "the connection broke")
_WORDS: dict[int, tuple[Cause, str]] = {
    pycurl.E_UNSUPPORTED_PROTOCOL: (Cause.SCHEME, "not an address that can be fetched over HTTP"),
    pycurl.E_URL_MALFORMAT: (Cause.ADDRESS, "not a well-formed address"),
    pycurl.E_COULDNT_RESOLVE_PROXY: (Cause.PROXY, "the proxy's host name is unknown"),
    pycurl.E_COULDNT_RESOLVE_HOST: (Cause.HOST, "unknown host"),
    pycurl.E_COULDNT_CONNECT: (Cause.REFUSED, "no connection: the server refused it or cannot be reached"),
    pycurl.E_OPERATION_TIMEDOUT: (Cause.TIMEOUT, "timed out: nothing came for too long, or next to nothing"),
    pycurl.E_SSL_CONNECT_ERROR: (Cause.TLS, "no secure connection could be agreed on"),
    pycurl.E_PEER_FAILED_VERIFICATION: (
        Cause.CERTIFICATE,
        "the server's certificate does not match or is not trusted",
    ),
    pycurl.E_SSL_CACERT_BADFILE: (Cause.CERTIFICATE, "the file of trusted certificates cannot be read"),
    pycurl.E_TOO_MANY_REDIRECTS: (Cause.REDIRECTS, "redirected in a loop"),
    pycurl.E_GOT_NOTHING: (Cause.RESET, "the server closed the connection without an answer"),
    pycurl.E_PARTIAL_FILE: (Cause.CUT, "the connection was cut before the end"),
    pycurl.E_SEND_ERROR: (Cause.RESET, "the connection broke while asking"),
    pycurl.E_SEND_FAIL_REWIND: _BROKE,
    pycurl.E_RECV_ERROR: _BROKE,
    pycurl.E_HTTP2: _BROKE,
    _HTTP2_STREAM: _BROKE,
    _HTTP3: _BROKE,
    _QUIC_CONNECT: _BROKE,
    pycurl.E_BAD_CONTENT_ENCODING: (Cause.ENCODING, "the answer's compression is broken"),
    pycurl.E_FTP_WEIRD_SERVER_REPLY: (Cause.PROTOCOL, "the answer is not HTTP"),
}


def of_transfer(code: int, words: str) -> Failure:
    """Return the failure for a libcurl result code; ``words`` are libcurl's own, for codes the table lacks."""
    if "HTTP/0.9" in words:  # an answer without a status line; libcurl has no code of its own for it
        code = pycurl.E_FTP_WEIRD_SERVER_REPLY
    cause, plain = _WORDS.get(code, (Cause.TRANSFER, words or f"transfer error {code}"))
    return Failure(cause, plain)
