"""Addresses by the WHATWG URL standard: making them absolute, and reading what they say.

An address is sent as the page wrote it, normalised by the standard and nothing more: ``%7E`` and ``%zz`` stay as
they are, since a signature may cover them.
"""

from urllib.parse import unquote_to_bytes

import ada_url

from pickcrate import media

WEB_SCHEMES = ("http://", "https://")


def absolute(raw: str, base: str) -> str | None:
    """Return ``raw`` against ``base`` as an absolute address without its fragment, or None if it is not one.

    WHATWG URL, section 4.4 (URL parsing). The fragment is never sent to a server, so two addresses that differ
    only there are one picture.
    """
    try:
        joined: str = ada_url.join_url(base, raw)
    except ValueError:
        return None
    # Attributes may hold lone surrogates after decoding; ada writes U+FFFD for them, as the standard does.
    return joined.partition("#")[0]


def is_web(address: str) -> bool:
    """Tell whether an absolute address is fetched over HTTP."""
    return address.startswith(WEB_SCHEMES)


def looks_like_web(text: str) -> bool:
    """Tell whether somebody who typed ``text`` meant an address (any case, as people type)."""
    return text[:8].lower().startswith(WEB_SCHEMES)


def origin(address: str) -> str:
    """Return the scheme, host and port of an absolute web address: what a connection is kept for."""
    scheme, _, rest = address.partition("://")
    authority = rest.partition("/")[0].partition("?")[0].rpartition("@")[2]
    return f"{scheme}://{authority}"


def site(address: str) -> str:
    """Return the host of an address without its port, or an empty text for addresses without a host."""
    if not is_web(address):
        return ""
    host = origin(address).partition("://")[2]
    return host if host.endswith("]") else host.rpartition(":")[0] or host


def without_userinfo(address: str) -> str:
    """Return the address with any user name and password taken out, for lists, logs and messages."""
    scheme, separator, rest = address.partition("://")
    authority, slash, path = rest.partition("/")
    return f"{scheme}{separator}{authority.rpartition('@')[2]}{slash}{path}" if "@" in authority else address


def path_of(address: str) -> str:
    """Return the path of an absolute address, still percent-encoded."""
    rest = address.partition("://")[2]
    path = rest.partition("?")[0].partition("#")[0]
    return path[path.find("/") :] if "/" in path else "/"


def last_segment(address: str) -> str:
    """Return the last segment of the path, decoded; bytes that are not UTF-8 are read as windows-1252."""
    octets = unquote_to_bytes(path_of(address).rpartition("/")[2])
    try:
        return octets.decode("utf-8")
    except UnicodeDecodeError:
        return octets.decode("windows-1252", "replace")


def split_extension(segment: str) -> tuple[str, str]:
    """Split ``"red-delta.jpg"`` into ``("red-delta", "jpg")``; the extension is empty if there is none."""
    stem, dot, extension = segment.rpartition(".")
    return (stem, extension) if dot and stem else (segment, "")


def image_type(address: str) -> media.ImageType | None:
    """Return the image type that the last segment's extension claims, or None."""
    return media.by_extension(split_extension(last_segment(address))[1])
