"""The process in which ``apart`` has a PDF read: it may take so much, and no more.

The document is on standard input, and what it holds goes to standard output:
``python -m pickcrate.run.sources.confined``.
"""

import sys
from contextlib import suppress

from msgspec import json

from pickcrate.read.pdf.pdf import pages

_MOST_MEMORY, _MOST_SECONDS = 3 << 30, 900
"""bytes of memory, and seconds of processor time"""


def _limit() -> None:
    """Bound what this process may take, where the system can."""
    try:
        import resource  # noqa: PLC0415 (not every system has it)
    except ModuleNotFoundError:  # on Windows
        return
    for kind, most in ((resource.RLIMIT_AS, _MOST_MEMORY), (resource.RLIMIT_CPU, _MOST_SECONDS)):
        _, hard = resource.getrlimit(kind)
        with suppress(ValueError, OSError):
            resource.setrlimit(kind, (most if hard == resource.RLIM_INFINITY else min(most, hard), hard))


def _main() -> None:
    _limit()
    octets = sys.stdin.buffer.read()
    with suppress(BrokenPipeError):
        for one, behind in pages(octets):
            sys.stdout.buffer.write(json.encode(one) + b"\n" + behind)
            sys.stdout.buffer.flush()


if __name__ == "__main__":
    _main()
