"""What every transfer asks of libcurl, whatever its address."""

import os
from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import pycurl

from pickcrate.fetch.exchange import Manners

if TYPE_CHECKING:
    from pickcrate.fetch.line import Errand

OpenSocket = Callable[["Handle", int, Any], Any]
"""Makes the socket for a handle's connection, of a purpose and to an address as libcurl describes them."""

BUFFER = 262_144
"""Bytes that are taken from a connection at a time: each time costs a call into Python."""


_UNSAID = object()


class Handle:
    """One of libcurl's easy handles: it behaves as ``manners`` say, and is used again and again."""

    def __init__(self, manners: Manners, share: pycurl.CurlShare, open_socket: OpenSocket) -> None:
        self.curl = pycurl.Curl()
        self.errand: Errand | None = None
        """what it is under way for"""
        self._said: dict[int, object] = {}
        self._last: tuple[tuple[int, Any], ...] = ()
        for option, value in _options(manners, share).items():
            self.curl.setopt(option, value)
        self.curl.setopt(pycurl.OPENSOCKETFUNCTION, lambda purpose, address: open_socket(self, purpose, address))

    def tell_all(self, *options: tuple[int, Any]) -> None:
        """Set several options, unless all of them are set so already."""
        if options != self._last:
            self._last = options
            for option, value in options:
                self.tell(option, value)

    def tell(self, option: int, value: Any) -> None:
        """Set an option, unless it is set so already: most are the same for one picture after another."""
        if self._said.get(option, _UNSAID) != value:
            self._said[option] = value
            self.curl.setopt(option, list(map(_octets, value)) if option == pycurl.HTTPHEADER else value)

    def send_form(self, form: str) -> None:
        """Ask by POST with a form's fields; by GET where it is empty."""
        if form:
            self.curl.setopt(pycurl.POSTFIELDS, form)
            self._said.pop(pycurl.HTTPGET, None)
        else:
            self.tell(pycurl.HTTPGET, 1)


def _octets(field: str) -> str | bytes:
    """Return a header field as libcurl takes it: a server's own validator may have any octets (RFC 9110, 5.5)."""
    if field.isascii():
        return field
    try:
        return field.encode("latin-1")  # as such fields are read
    except UnicodeEncodeError:
        return field.encode("utf-8", "replace")  # what somebody typed


def _options(manners: Manners, share: pycurl.CurlShare) -> dict[int, Any]:
    """Return what holds for every transfer."""
    options: dict[int, Any] = {
        pycurl.NOSIGNAL: 1,
        pycurl.PROTOCOLS: pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS,
        pycurl.FOLLOWLOCATION: 0,
        pycurl.BUFFERSIZE: BUFFER,
        pycurl.PATH_AS_IS: 1,
        pycurl.ACCEPT_ENCODING: "",
        pycurl.OPT_FILETIME: 1,
        pycurl.COOKIEFILE: "",
        pycurl.SHARE: share,
        pycurl.USERAGENT: manners.user_agent,
        pycurl.NOPROXY: "",  # who is asked directly is decided with the proxy, for each address
        pycurl.CONNECTTIMEOUT_MS: max(1, int(manners.timeout * 1000)),
    }
    if manners.rate:
        rate = max(1, manners.rate // manners.at_once)
        options[pycurl.MAX_RECV_SPEED_LARGE] = rate
        options[pycurl.BUFFERSIZE] = min(BUFFER, max(1024, rate // 8))  # more would come in bursts
    return options


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
