"""What of an address changes from visit to visit, while it leads to the same picture: permits, and what evades caches.

A permit is a signature, with what it covers besides the address: until when it holds, who asked for it.
"""

import re

from msgspec import Struct

from pickcrate.addresses.url import without_scheme
from pickcrate.text.lazyre import lazy

_IN_PATH = lazy(r";(?:jsessionid|sid)=[\w.!~-]{8,200}", re.IGNORECASE)
"""a session in the path, for visitors without cookies (Jakarta Servlet 6.0, 7.1.3)"""

_SESSIONS = frozenset(("jsessionid", "phpsessid", "aspsessionid"))
_OF_HEADERS = lazy(r"(x-[a-z]{2,8}-)signature")
"""a header field of a signed request in its query; all that begins alike goes with it"""

_EXPIRES = frozenset(("expires", "policy"))
_WITH_SIGNATURE = frozenset(
    "signature expires policy key-pair-id awsaccesskeyid ossaccesskeyid googleaccessid accesskeyid".split()
)
_WITH_SIG = frozenset("sig sv se st sr sp spr sip ss srt skoid sktid skt ske sks skv sdd saoid suoid scid".split())
_AT_EDGES = frozenset(("hdnts", "hdnea", "hdntl", "__token__"))
OF_PERMITS = frozenset(
    "sig signature sign hmac hash hm oh policy key-pair-id signed token verify hdnts hdnea __token__ auth "
    "st ttl exp expires ex se sp sv sr".split()
)
"""parameters that may be a signature, or what one covers"""

_EVADING = frozenset(
    "_ t ts time timestamp date cb cachebuster cache cachebust nocache bust rnd rand random r v ver version rev".split()
)
"""parameters that may only keep a cache from answering"""

_MAY_CHANGE = (
    OF_PERMITS
    | _WITH_SIGNATURE
    | _EVADING
    | frozenset("oe is e expire expiry valid validuntil key sid session".split())
)
_LONGEST = 4_000
_MOST_PARAMETERS = 40


class Lasting(Struct, frozen=True):
    """What of an address stays the same."""

    text: str
    """the address without what changes"""
    start: str
    """the address up to what changes: so begin all that are the same but for that"""
    is_sure: bool
    """whether what changes says nothing of the picture for certain; else another picture may be there"""


def lasting(address: str) -> Lasting | None:
    """Return what of an address stays the same from visit to visit; None if all of it may."""
    if ("?" not in address and ";" not in address) or len(address) > _LONGEST:
        return None
    path, _, query = address.partition("?")
    parts = query.split("&") if query else []
    if len(parts) > _MOST_PARAMETERS:
        return None
    session = _IN_PATH.search(path)
    names = [part.partition("=")[0].lower() for part in parts]
    permit = _permit(names)
    left_out = permit or (frozenset() if session else _MAY_CHANGE.intersection(names))
    if session is None and not left_out:
        return None
    kept = [part for part, name in zip(parts, names, strict=True) if name not in left_out]
    bare = path if session is None else path[: session.start()] + path[session.end() :]
    if session is not None:
        start = path[: session.start() + 1]
    else:
        first = next(place for place, name in enumerate(names) if name in left_out)
        start = f"{path}?{''.join(f'{part}&' for part in parts[:first])}"
    return Lasting("?".join(filter(None, (bare, "&".join(kept)))), start, is_sure=bool(session or permit))


def known_by(address: str) -> str:
    """Return what an address is known by at any visit: without its scheme, which TLS changes, and without permits."""
    return without_scheme(without_permit(address))


def without_permit(address: str) -> str:
    """Return an address without what says nothing of the picture for certain."""
    kept = lasting(address)
    return kept.text if kept is not None and kept.is_sure else address


def _permit(names: list[str]) -> frozenset[str]:
    """Return the parameters of a query that are a permit, and nothing besides."""
    known = frozenset(names)
    found = known & (_AT_EDGES | _SESSIONS)
    for name in names:
        if (signed := _OF_HEADERS.fullmatch(name)) is not None:
            found |= {other for other in known if other.startswith(signed[1])}
    if "signature" in known and not known.isdisjoint(_EXPIRES):
        found |= known & _WITH_SIGNATURE
    if {"sig", "se", "sv"} <= known:
        found |= known & _WITH_SIG
    return found
