"""The table from libcurl's result codes to words that a person can act on."""

import pycurl

from pickcrate.fetch.exchange import Failure

_HTTP2_STREAM, _HTTP3, _QUIC_CONNECT = 92, 95, 96
"""codes of libcurl that pycurl has no names for"""

_BROKE = ("reset", "the connection broke")
_WORDS: dict[int, tuple[str, str]] = {
    pycurl.E_UNSUPPORTED_PROTOCOL: ("scheme", "not an address that can be fetched over HTTP"),
    pycurl.E_URL_MALFORMAT: ("address", "not a well-formed address"),
    pycurl.E_COULDNT_RESOLVE_PROXY: ("proxy", "the proxy's host name is unknown"),
    pycurl.E_COULDNT_RESOLVE_HOST: ("host", "unknown host"),
    pycurl.E_COULDNT_CONNECT: ("refused", "no connection: the server refused it or cannot be reached"),
    pycurl.E_OPERATION_TIMEDOUT: ("timeout", "timed out: nothing came for too long, or next to nothing"),
    pycurl.E_SSL_CONNECT_ERROR: ("tls", "no secure connection could be agreed on"),
    pycurl.E_PEER_FAILED_VERIFICATION: (
        "certificate",
        "the server's certificate does not match or is not trusted",
    ),
    pycurl.E_SSL_CACERT_BADFILE: ("certificate", "the file of trusted certificates cannot be read"),
    pycurl.E_TOO_MANY_REDIRECTS: ("redirects", "redirected in a loop"),
    pycurl.E_GOT_NOTHING: ("reset", "the server closed the connection without an answer"),
    pycurl.E_PARTIAL_FILE: ("cut", "the connection was cut before the end"),
    pycurl.E_SEND_ERROR: ("reset", "the connection broke while asking"),
    pycurl.E_SEND_FAIL_REWIND: _BROKE,
    pycurl.E_RECV_ERROR: _BROKE,
    pycurl.E_HTTP2: _BROKE,
    _HTTP2_STREAM: _BROKE,
    _HTTP3: _BROKE,
    _QUIC_CONNECT: _BROKE,
    pycurl.E_BAD_CONTENT_ENCODING: ("encoding", "the answer's compression is broken"),
    pycurl.E_FTP_WEIRD_SERVER_REPLY: ("protocol", "the answer is not HTTP"),
}


def of_transfer(code: int, words: str) -> Failure:
    """Return the failure for a libcurl result code; ``words`` are libcurl's own, for codes the table lacks."""
    if "HTTP/0.9" in words:  # an answer without a status line; libcurl has no code of its own for it
        code = pycurl.E_FTP_WEIRD_SERVER_REPLY
    kind, plain = _WORDS.get(code, ("transfer", words or f"transfer error {code}"))
    return Failure(kind, plain)
