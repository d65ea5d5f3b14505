"""The first picture of an answer that replaces it again and again, as cameras send them: ``multipart/x-mixed-replace``.

HTML standard, 7.4.2.3 (each part takes the place of the one before); RFC 2046, 5.1 (how parts stand between lines of
their boundary).
"""

from collections.abc import Mapping

from pickcrate.media import essence
from pickcrate.text.lazyre import lazy

DELIMITERS = (b"--", b"\r\n--", b"\n--")
"""how the body of such an answer begins"""

_MEDIA_TYPE = "multipart/x-mixed-replace"
_BOUNDARY = lazy(r"(?i);\s*+boundary\s*+=\s*+(?:\"([^\"]{1,70})\"|([^\s;\"]{1,70}))")
_END_OF_FIELDS = lazy(rb"\r?\n\r?\n")
_LENGTH = lazy(rb"(?im)^content-length:[ \t]*(\d{1,12})[ \t]*\r?$")
_LONGEST_FIELDS = 16_384
"""bytes that a boundary and the fields of a part may come to"""

LARGEST = 16_000_000
"""bytes that may come until a first part is there: they are held in memory"""


class FirstPart:
    """Takes the body of such an answer as it arrives, and what is in its first part."""

    def __init__(self, boundary: str) -> None:
        # Some cameras state the boundary with the two hyphens that go before it in the body.
        self._delimiter = b"\n--" + boundary.removeprefix("--").encode("latin-1", "replace")
        self._octets = bytearray()
        self._start = 0
        """of the part's body; 0 until its fields came"""
        self._length: int | None = None
        self._seen = 0
        """up to where no boundary begins"""

    def add(self, chunk: bytes) -> bytes | None:
        """Take more; return the body of the first part once all of it is there."""
        self._octets += chunk
        if not self._start and not self._find_start():
            return None
        if self._length is not None:
            end = self._start + self._length
            return bytes(self._octets[self._start : end]) if len(self._octets) >= end else None
        end = self._octets.find(self._delimiter, max(self._start - 1, self._seen))
        if end < 0:
            self._seen = max(0, len(self._octets) - len(self._delimiter))
            return None
        end -= self._octets[end - 1 : end] == b"\r"
        return bytes(self._octets[self._start : end])

    def _find_start(self) -> bool:
        """Find where the fields of the first part end; False if they are not there yet."""
        fields = _END_OF_FIELDS.search(self._octets, 0, _LONGEST_FIELDS)
        if fields is None:
            return False
        self._start = fields.end()
        stated = _LENGTH.search(self._octets, 0, fields.end())
        self._length = int(stated[1]) if stated is not None else None
        return True


def first_part(fields: Mapping[str, str]) -> FirstPart | None:
    """Return what takes the first part of an answer with these fields; None if it does not come in such parts."""
    field = fields.get("content-type", "")
    stated = _BOUNDARY.search(field) if essence(field) == _MEDIA_TYPE else None
    return FirstPart(stated[1] or stated[2]) if stated is not None else None
