"""Which proxy a request goes through: decided here and told to libcurl, so that both mean the same.

Behind a proxy it is the proxy that looks names up: only addresses that are spelled out can be checked there.
"""

import ipaddress
import os
from collections.abc import Mapping

from pickcrate.addresses.url import origin, site


def proxy_for(url: str, chosen: str, environment: Mapping[str, str] = os.environ) -> str:
    """Return the proxy for an address: ``chosen``, else the environment's; empty if it is asked for directly.

    By curl's rules: ``http_proxy`` in lower case only (a CGI program gets HTTP_PROXY from its visitors), others in
    either, ``all_proxy`` for what has none of its own, ``no_proxy`` for hosts that are asked directly.
    """
    scheme = url.partition(":")[0]
    names = [f"{scheme}_proxy"] if scheme == "http" else [f"{scheme}_proxy", f"{scheme.upper()}_PROXY"]
    proxy = chosen or next(
        (value for name in (*names, "all_proxy", "ALL_PROXY") if (value := environment.get(name))), ""
    )
    excepted = environment.get("no_proxy") or environment.get("NO_PROXY") or ""
    return "" if proxy and _is_excepted(url, excepted) else proxy


def _is_excepted(url: str, excepted: str) -> bool:
    host = site(url).strip("[]").rstrip(".").lower()
    port = origin(url).rpartition(":")[2]
    for entry in excepted.replace(",", " ").lower().split():
        if entry == "*":
            return True
        name, _, only_port = entry.rpartition(":") if entry.count(":") == 1 else (entry, "", "")
        if only_port and only_port != port:
            continue
        name = name.strip("[]").strip(".")
        if host == name or host.endswith(f".{name}") or _is_in_network(host, name):
            return True
    return False


def _is_in_network(host: str, network: str) -> bool:
    if "/" not in network:
        return False
    try:
        return ipaddress.ip_address(host) in ipaddress.ip_network(network, strict=False)
    except (ValueError, TypeError):
        return False
