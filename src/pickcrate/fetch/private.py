"""Private addresses: what no page of the public web may make us connect to."""

import ipaddress
from urllib.parse import urlsplit

from pickcrate.fetch.exchange import Failure

REFUSED = Failure("private", "a private address, which a public page may not reach (--allow-private allows it)")

_NAT64 = ipaddress.ip_network("64:ff9b::/96")


def is_private(address: str) -> bool:
    """Tell whether an IP address is not one of the public internet: loopback, private, link-local, metadata, and so on.

    IANA's special-purpose registries (RFC 6890); an IPv6 address that carries an IPv4 address is judged by that.
    """
    try:
        ip = ipaddress.ip_address(address.partition("%")[0])
    except ValueError:
        return False
    if isinstance(ip, ipaddress.IPv6Address):
        inner = ip.ipv4_mapped or ip.sixtofour or (ip.teredo[1] if ip.teredo else None)
        if inner is None and ip in _NAT64:
            inner = ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
        if inner is not None:
            ip = inner
    return not ip.is_global or ip.is_multicast


def names_private(url: str) -> bool:
    """Tell whether an address names a private host outright: an IP address, or a name that is always local."""
    try:
        host = (urlsplit(url).hostname or "").rstrip(".")
    except ValueError:
        return False
    return is_private(host) or host == "localhost" or host.endswith((".localhost", ".local", ".internal"))
