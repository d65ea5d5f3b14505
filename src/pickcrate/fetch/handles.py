"""What every transfer asks of libcurl, whatever its address."""

import os
from functools import lru_cache
from typing import Any

import pycurl

from pickcrate.fetch.exchange import Manners

BUFFER = 262_144
"""Bytes that are taken from a connection at a time: each time costs a call into Python."""


def new_handle(manners: Manners, cookies: pycurl.CurlShare) -> pycurl.Curl:
    """Return a handle that behaves as ``manners`` say and shares ``cookies``."""
    handle = pycurl.Curl()
    options: dict[int, Any] = {
        pycurl.NOSIGNAL: 1,
        pycurl.PROTOCOLS: pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS,
        pycurl.FOLLOWLOCATION: 0,
        pycurl.BUFFERSIZE: BUFFER,
        pycurl.PATH_AS_IS: 1,
        pycurl.ACCEPT_ENCODING: "",
        pycurl.OPT_FILETIME: 1,
        pycurl.COOKIEFILE: "",
        pycurl.SHARE: cookies,
        pycurl.USERAGENT: manners.user_agent,
        pycurl.NOPROXY: "",  # who is asked directly is decided with the proxy, for each address
        pycurl.CONNECTTIMEOUT_MS: max(1, int(manners.timeout * 1000)),
    }
    for option, value in options.items():
        handle.setopt(option, value)
    return handle


@lru_cache(maxsize=1)
def trusted_certificates() -> str:
    """Return the file of trusted certificates: SSL_CERT_FILE, else the system's, else libcurl's own (empty)."""
    import ssl  # noqa: PLC0415 (not for plain HTTP)

    paths = ssl.get_default_verify_paths()
    chosen = os.environ.get("SSL_CERT_FILE") or paths.cafile or ""
    if not chosen:
        # An interpreter built elsewhere may look in a place that this system does not have.
        usual = (
            "/etc/ssl/certs/ca-certificates.crt",
            "/etc/pki/tls/certs/ca-bundle.crt",
            "/etc/ssl/cert.pem",
        )
        chosen = next((path for path in usual if os.path.exists(path)), "")  # noqa: PTH110 (start-up stays light)
    return chosen
