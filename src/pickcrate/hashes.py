"""SHA-256 for those who may have nothing to hash: the library brings all of OpenSSL along, and is loaded when asked."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from hashlib import _Hash


def sha256(octets: bytes) -> "_Hash":
    """Return the hash of ``octets`` (FIPS 180-4)."""
    import hashlib  # noqa: PLC0415

    return hashlib.sha256(octets)
