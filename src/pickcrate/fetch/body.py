"""A body on its way in: in memory at first, in a file when it grows, stopped where it is enough or too much."""

import time
from collections.abc import Callable, Mapping
from functools import lru_cache, partial
from typing import BinaryIO

from pickcrate.fetch.exchange import MEMORY_BYTES, Request
from pickcrate.fetch.firstpart import DELIMITERS, LARGEST, FirstPart, first_part
from pickcrate.fetch.redirect import is_redirect
from pickcrate.text.lazyre import lazy

_LONGEST_ASIDE = 65_536
"""Bytes of a redirect's own body that are waited for."""

_UNTOLD, _OF_THE_ANSWER = -2, -1
"""What is passed over, if that is no number of bytes: unknown before the first chunk; nothing of what is wanted."""

_LONGEST = 7200.0
"""Seconds that one transfer may take; the next try goes on from there where it can."""

_OK = (b"HTTP/1.1 200 ", b"HTTP/2 200 ")
"""status lines of answers that send nobody on"""

_CONTENT_RANGE = lazy(r"bytes (\d{1,18})-\d{1,18}/(\d{1,18}|\*)")


class Allowance:
    """What all pictures of a run together may come to, in bytes; 0 for no limit."""

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self.spent = 0

    @property
    def is_spent(self) -> bool:
        """Whether nothing more may come."""
        return 0 < self.limit <= self.spent


@lru_cache(maxsize=1024)
def _field(line: bytes) -> tuple[str, str]:
    """Return a field's name in lower case, and its value: most lines come again with the next answer."""
    name, _, value = line.decode("latin-1").partition(":")
    return name.strip().lower(), value.strip()


def part_of(fields: Mapping[str, str]) -> tuple[int, int | None] | None:
    """Return where a part begins and of how many bytes it is one, None if unknown (RFC 9110, 14.4); None if untold."""
    match = _CONTENT_RANGE.fullmatch(fields.get("content-range", ""))
    return (int(match[1]), None if match[2] == "*" else int(match[2])) if match else None


class Body:
    """Takes the header lines and the body of one answer as they arrive; stops it at ``limit`` bytes.

    Where some of it is there already, from a probe or from a try that broke, only the rest is asked for: if that
    comes (206), it is put behind; if the whole comes (200), what was there is forgotten.
    """

    def __init__(self, request: Request, limit: int, allowance: Allowance | None = None, *, cuts: bool = False) -> None:
        """Make ready; with ``cuts`` a body that is too long is enough as far as it goes."""
        self.request = request
        self._cuts = cuts
        self.allowance = allowance if request.spool is not None else None
        self.limit = limit
        self.validator = ""
        self.resumes = False
        self.header_lines: list[bytes] = []
        self.chunks: list[bytes] = []
        self.size = 0
        self.file: BinaryIO | None = None
        self.error: OSError | None = None
        self.is_enough = False
        self.is_beyond = False
        self.is_wrong_part = False
        self.asks_for_rest = False
        """whether the answer under way was asked to go on from what is there"""
        self.begun_at = self.moved_at = time.monotonic()
        self._moved_size = 0
        self._passed_over = _UNTOLD
        self._part: FirstPart | None = None
        self._kept_up_to = 0
        """the size up to which nothing needs to be looked at: known when the first chunk comes"""
        self._keep: Callable[[bytes], int | None] = self.chunks.append
        """what takes the chunks up to there"""

    def begin(self) -> None:
        """Make ready for an answer: the first, or that of the next hop."""
        self.begun_at = self.moved_at = time.monotonic()
        self._moved_size, self._passed_over, self._kept_up_to = self.size, _UNTOLD, 0
        self.asks_for_rest = self.resumes

    def resume(self, validator: str, octets: bytes | None = None) -> None:
        """Make ready to take the rest of what is there, or of ``octets``, under a validator (RFC 9110, 13.1.5)."""
        if octets is not None:
            self.chunks, self.size = [octets], len(octets)
        self.validator, self.resumes = validator, True
        self._make_ready()

    def restart(self) -> None:
        """Make ready to take the whole."""
        self.close()
        self.chunks, self.size, self.resumes = [], 0, False
        self._make_ready()

    def _make_ready(self) -> None:
        self.header_lines.clear()
        self.error, self.is_enough, self.is_wrong_part = None, False, False

    def write(self, chunk: bytes) -> int | None:
        """Take one chunk; anything but None makes libcurl end the transfer."""
        if self.size + len(chunk) <= self._kept_up_to:
            self.size += len(chunk)
            return self._keep(chunk)
        if self._passed_over == _UNTOLD:
            self._passed_over = 0 if self._leads_on() else _OF_THE_ANSWER
            self._part = first_part(self.fields()) if chunk.startswith(DELIMITERS) else None
            self.limit = min(self.limit, LARGEST) if self._part is not None else self.limit
            is_kept = self._passed_over == _OF_THE_ANSWER and self._is_plain and self._part is None
            self._kept_up_to = min(self.limit, MEMORY_BYTES) if is_kept else 0
            self._keep = self.chunks.append
        return self._weigh(chunk) if self._part is None else self._take_part(self._part, chunk)

    def _weigh(self, chunk: bytes) -> int | None:
        if self._passed_over >= 0:  # what is said beside a redirect is nobody's picture
            self._passed_over += len(chunk)
            return None if self._passed_over <= _LONGEST_ASIDE else -1
        if self.resumes and not self._joins():
            return -1
        self.size += len(chunk)
        if self.size > self.limit and self._cuts:
            self.chunks.append(chunk)
            self.is_enough = True
            return -1
        if self.size > self.limit:
            return -1
        if self.allowance is not None:
            if self.allowance.is_spent:
                self.is_beyond = True
                return -1
            self.allowance.spent += len(chunk)
        if self.request.first and self.size >= self.request.first:
            self.chunks.append(chunk)
            self.is_enough = True
            return -1
        if self.file is not None:
            return self._put(self.file.write, chunk)
        self.chunks.append(chunk)
        if self.size > MEMORY_BYTES and self.request.spool is not None:
            return self._begin_spool(self.request.spool)
        return None

    def _begin_spool(self, open_spool: Callable[[], BinaryIO]) -> int | None:
        """Go on in a file; what comes from now on is put there, if nothing is to be looked at any more."""
        try:
            self.file = open_spool()
            self.file.writelines(self.chunks)
        except OSError as error:
            self.error = error
            return -1
        self.chunks.clear()
        if self._kept_up_to:
            self._kept_up_to, self._keep = self.limit, partial(self._put, self.file.write)
        return None

    def _put(self, write: Callable[[bytes], int], chunk: bytes) -> int | None:
        """Put one chunk into the file. A full disk is raised again outside libcurl's callback."""
        try:
            write(chunk)
        except OSError as error:
            self.error = error
            return -1
        return None

    def _take_part(self, part: FirstPart, chunk: bytes) -> int | None:
        """Take more of an answer that never ends; its first part is all that is wanted of it."""
        self.size += len(chunk)
        if (whole := part.add(chunk)) is not None:
            self.chunks, self.size, self.is_enough = [whole], len(whole), True
        return -1 if self.is_enough or self.size > self.limit else None

    def _joins(self) -> bool:
        """Look whether the rest comes, or the whole; False if it is another part, or none."""
        self.resumes = False
        if self._is_the_rest():
            return True
        self.is_wrong_part = self.status in {206, 416}
        if not self.is_wrong_part:
            lines = list(self.header_lines)
            self.restart()
            self.header_lines.extend(lines)
        return not self.is_wrong_part

    def begins_with(self, magic: tuple[bytes, ...]) -> bool:
        """Tell whether what came, as far as it is in memory, begins in one of some ways."""
        return bool(self.chunks) and self.chunks[0].startswith(magic)

    def is_stuck(self, now: float, patience: float, slowest: float) -> bool:
        """Tell whether nothing worth waiting for came in the last ``patience`` seconds.

        What comes more slowly than ``slowest`` bytes a second is no progress; and no transfer goes on for ever.
        """
        if self.size - self._moved_size >= slowest * (now - self.moved_at) > 0 or self._moved_size > self.size:
            self.moved_at, self._moved_size = now, self.size
        return now - self.moved_at > patience or now - self.begun_at > _LONGEST

    def close(self) -> None:
        """Throw away what came."""
        if self.file is not None:
            self.file.close()
            self.file = None

    def fields(self) -> dict[str, str]:
        """Return the last response's fields (RFC 9112, section 5), lower case; repeated ones joined by a comma."""
        fields: dict[str, str] = {}
        for name, value in map(_field, self._last_answer()[1:]):
            if name in fields:
                between = "\n" if name == "x-robots-tag" else ", "  # a robot's name counts to its line's end
                fields[name] = f"{fields[name]}{between}{value}"
            elif name:  # not the line's end that ends them
                fields[name] = value
        return fields

    def is_whole(self, status: int, fields: dict[str, str]) -> bool:
        """Tell whether what came is all that there is (RFC 9110, 14.4)."""
        if status == 206:
            return part_of(fields) == (0, self.size)
        return not self.is_enough

    @property
    def lacks_part(self) -> bool:
        """Whether what comes in parts has not even had one to its end."""
        return self._part is not None and not self.is_enough

    @property
    def status(self) -> int:
        """The last response's status; 0 if none came."""
        code = b"".join(self._last_answer()[:1]).split()[1:2]
        return int(code[0]) if code and code[0].isdigit() and len(code[0]) == 3 else 0

    def _last_answer(self) -> list[bytes]:
        """Return the header lines of the last response, its status line first."""
        lines = self.header_lines
        for place in range(len(lines) - 1, -1, -1):
            if lines[place].startswith(b"HTTP/"):
                return lines[place:]
        return []

    @property
    def _is_plain(self) -> bool:
        """Whether all that comes is kept as it is, if it is not too much."""
        is_limited = self.allowance is not None and self.allowance.limit > 0
        return not (self.resumes or self.request.first or is_limited)

    def _leads_on(self) -> bool:
        """Tell whether what comes is said beside a redirect."""
        if self.header_lines and self.header_lines[0].startswith(_OK):  # as of most
            return False
        status = self.status
        return 300 <= status < 400 and is_redirect(status, self.fields())

    def _is_the_rest(self) -> bool:
        part = part_of(self.fields())
        return self.status == 206 and part is not None and part[0] == self.size
