"""Digests that a server announces of a file, and whether the file meets them."""

import hashlib
from base64 import b64decode
from collections.abc import Callable, Iterator, Mapping

from pickcrate.text.lazyre import lazy

_LONGEST = 4_096
"""Characters of a field that are looked at: no server announces more digests than that."""

_ALGORITHMS = {"sha-256": "sha256", "sha-512": "sha512", "md5": "md5"}
_BY_ALGORITHM = ("repr-digest", "content-digest", "digest")
_FIELDS = frozenset((*_BY_ALGORITHM, "content-md5"))
# Structured field dictionaries (RFC 9530, 2 and 3): sha-256=:base64:; without the colons as RFC 3230 had it.
_MEMBER = lazy(r"(?<![A-Za-z0-9-])([A-Za-z0-9-]++)\s*+=\s*+:?([A-Za-z0-9+/]++={0,2}):?")


def announces_any(fields: Mapping[str, str]) -> bool:
    """Tell whether a server says anything of digests, which most do not."""
    return not _FIELDS.isdisjoint(fields)


def announced(fields: Mapping[str, str]) -> Iterator[tuple[str, bytes]]:
    """Yield the digests of the whole file, as an algorithm of ``hashlib`` and its value; none of an encoded body.

    ``Repr-Digest`` and ``Content-Digest`` (RFC 9530), ``Digest`` (RFC 3230), ``Content-MD5`` (RFC 1864).
    """
    if "content-encoding" in fields or "content-range" in fields:
        return
    for name in _BY_ALGORITHM:
        for algorithm, value in _MEMBER.findall(fields.get(name, "")[:_LONGEST]):
            if algorithm.lower() in _ALGORITHMS and (octets := _decoded(value)):
                yield _ALGORITHMS[algorithm.lower()], octets
    if octets := _decoded(fields.get("content-md5", "").strip()):
        yield "md5", octets


def mismatch(fields: Mapping[str, str], digest_of: Callable[[str], bytes]) -> str:
    """Return in words which announced digest a file does not meet; empty if it meets all."""
    for algorithm, value in announced(fields):
        if len(value) == hashlib.new(algorithm, usedforsecurity=False).digest_size and digest_of(algorithm) != value:
            return f"altered on its way: it does not have the {algorithm.upper()} digest that the server announced"
    return ""


def _decoded(value: str) -> bytes:
    try:
        return b64decode(value, validate=True)
    except ValueError:
        return b""
