"""Private addresses: what no page of the public web may make us connect to."""

import ipaddress
from functools import lru_cache

from pickcrate.addresses.url import site
from pickcrate.fetch.exchange import Failure
from pickcrate.values.cause import Cause

REFUSED = Failure(Cause.PRIVATE, "a private address, which a public page may not reach (--allow-private allows it)")

# IANA, IPv4 Special-Purpose Address Registry (RFC 6890): what is not globally reachable; and multicast (RFC 5771).
_NOT_PUBLIC_4 = tuple(
    ipaddress.IPv4Network(network)
    for network in (
        "0.0.0.0/8", "10.0.0.0/8", "100.64.0.0/10", "127.0.0.0/8", "169.254.0.0/16", "172.16.0.0/12", "192.0.0.0/24",
        "192.0.2.0/24", "192.88.99.0/24", "192.168.0.0/16", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24",
        "224.0.0.0/4", "240.0.0.0/4",
    )
)  # fmt: skip
# RFC 4291, 2.4: only this is global unicast. Loopback, link-local, unique and site-local addresses, multicast,
# 64:ff9b:1::/48 (RFC 8215) and whatever comes lie outside it.
_GLOBAL_6 = ipaddress.IPv6Network("2000::/3")
_NOT_PUBLIC_6 = tuple(map(ipaddress.IPv6Network, ("2001::/23", "2001:db8::/32", "3fff::/20")))
_NAT64 = ipaddress.IPv6Network("64:ff9b::/96")
_ISATAP = (0x00005EFE, 0x02005EFE)
_LOCAL_NAMES = (".localhost", ".local", ".internal", ".home.arpa", ".localdomain")


@lru_cache(maxsize=4096)
def is_private(address: str) -> bool:
    """Tell whether an IP address is not one of the public internet: loopback, private, link-local, metadata, and so on.

    IANA's special-purpose registries (RFC 6890); an IPv6 address that carries an IPv4 address is judged by that.
    """
    try:
        ip = ipaddress.ip_address(address.partition("%")[0].strip("[]"))
    except ValueError:
        return False
    if isinstance(ip, ipaddress.IPv4Address):
        return any(ip in network for network in _NOT_PUBLIC_4)
    carried = _carried(ip)
    if carried is not None:
        return any(carried in network for network in _NOT_PUBLIC_4)
    return ip not in _GLOBAL_6 or any(ip in network for network in _NOT_PUBLIC_6)


def _carried(ip: ipaddress.IPv6Address) -> ipaddress.IPv4Address | None:
    """Return the IPv4 address that an IPv6 address stands for.

    Mapped (RFC 4291, 2.5.5.2), 6to4 (RFC 3056), Teredo (RFC 4380), NAT64 (RFC 6052), ISATAP (RFC 5214).
    """
    if (inner := ip.ipv4_mapped or ip.sixtofour or (ip.teredo[1] if ip.teredo else None)) is not None:
        return inner
    if ip in _NAT64 or (int(ip) >> 32) & 0xFFFFFFFF in _ISATAP:
        return ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
    return None


def names_private(url: str) -> bool:
    """Tell whether an address names a private host outright: an IP address, or a name that is always local."""
    host = site(url).strip("[]").rstrip(".").lower()
    return is_private(host) or host == "localhost" or host.endswith(_LOCAL_NAMES)


@lru_cache(maxsize=4096)
def is_mixed(host: str) -> bool:
    """Tell whether a name leads to public addresses as well as to private ones: then it is its owner's, not ours.

    Asks the resolver; only for hosts from which an answer came that is private.
    """
    import socket  # noqa: PLC0415 (a saved page asks nobody)

    try:
        found = socket.getaddrinfo(host.strip("[]"), None, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        return False
    return any(not is_private(str(where[0])) for *_, where in found)
