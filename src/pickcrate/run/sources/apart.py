"""A source whose reader may be led astray by what it reads, and cannot be stopped from within: in a process of its own.

What came until it was stopped is kept.
"""

import os
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from html import escape
from importlib.util import find_spec
from threading import Timer
from typing import BinaryIO

from msgspec import json

from pickcrate.errors import SourceError, UsageError
from pickcrate.read.pdf.page import Leaf
from pickcrate.read.pdf.pdf import LIBRARY, Trouble, html_of, told
from pickcrate.read.reading import Reading, StoredBody
from pickcrate.run.sources.opened import Opened
from pickcrate.values.flaw import Flaw
from pickcrate.values.item import NO_ITEM

_READER = "pickcrate.run.sources.confined"
_PATIENCE = 60.0
"""seconds in which something has to come: a page, or a picture"""

_STOPPED = "asks for more work than a document does"
_TROUBLES = {
    Trouble.LOCKED: ("is encrypted", "open it with its password, and print it into another PDF"),
    Trouble.DAMAGED: ("is a PDF that is damaged, or cut off", "get it once more"),
}


def read_pdf(opened: Opened, limit: int, keep: Callable[[bytes], StoredBody]) -> Reading:
    """Return what a PDF is as a page. Raises UsageError without the library, SourceError if nothing of it can be read.

    A picture's address is the document's own with its page behind; ``keep`` takes its file, if it is of ``limit``
    bytes or less.
    """
    if find_spec(LIBRARY) is None:
        raise UsageError("documents in PDF need pypdfium2", hint="pip install 'pickcrate[pdf]'")
    reading, leaves, is_whole = Reading(), list[Leaf](), False
    with _reader_of(opened) as answers:
        for one, octets in told(answers):
            is_whole = one.is_end
            if one.trouble is not None:
                said, hint = _TROUBLES[one.trouble]
                raise SourceError(f"{opened.source} {said}", hint=hint)
            if one.flaw:
                reading.flaws.append(Flaw("document", one.flaw))
            elif one.is_leaf:
                leaves.append(json.decode(octets, type=Leaf))
            elif one.title:
                reading.title = one.title
            elif len(octets) > limit:
                reading.flaws.append(Flaw("document", f"{one.name}: larger than --max-file"))
            elif octets:
                reading.bodies[f"{opened.address}/{one.name}"] = keep(octets)
    if not (is_whole or reading.bodies):
        raise SourceError(f"{opened.source} {_STOPPED}")
    if not is_whole:
        reading.flaws.append(Flaw("document", f"the PDF {_STOPPED}: the rest is left out"))
    titled = f"<title>{escape(reading.title)}</title>" if reading.title else ""
    reading.add_document(titled + html_of(leaves), f"{opened.address}/", NO_ITEM, 0)
    return reading


@contextmanager
def _reader_of(opened: Opened) -> Iterator["_Watch"]:
    """Have a source read in a process, and give what that writes; it ends when nothing came for long, or with us."""
    # What it imports is what we import, whatever lies in the current folder.
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
    with _handed(opened) as file:
        process = subprocess.Popen(  # noqa: S603 (our own module)
            [sys.executable, "-P", "-m", _READER],
            stdin=file,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env=environment,
            start_new_session=True,  # Ctrl-C is ours to answer
        )
    watch = _Watch(process)
    try:
        yield watch
    finally:
        watch.close()


@contextmanager
def _handed(opened: Opened) -> Iterator[BinaryIO]:
    """Give a source as a file of the system: a pipe would have to be filled while it is emptied."""
    if opened.path is not None:
        with opened.path.open("rb") as file:
            yield file
        return
    with tempfile.TemporaryFile() as copy:
        copy.write(opened.octets)
        copy.seek(0)
        yield copy


class _Watch:
    """What a process writes; it is stopped if it keeps us waiting for too long."""

    def __init__(self, process: "subprocess.Popen[bytes]") -> None:
        assert process.stdout is not None  # noqa: S101 (it was asked for)
        self._process, self._file = process, process.stdout

    def readline(self, most: int) -> bytes:
        """Return the next line, of ``most`` bytes at most."""
        return self._within(lambda: self._file.readline(most))

    def read(self, size: int) -> bytes:
        """Return as many bytes; fewer at the end."""
        return self._within(lambda: self._file.read(size))

    def _within(self, ask: Callable[[], bytes]) -> bytes:
        timer = Timer(_PATIENCE, self._process.kill)
        timer.start()
        try:
            return ask()
        finally:
            timer.cancel()

    def close(self) -> None:
        """End the process, and take no more."""
        self._process.kill()
        self._process.wait()
        self._file.close()
