"""Bytes that a source brings along: pictures beside a saved page, read without any request."""

import re
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import unquote

from pickcrate.addresses import is_web, path_of
from pickcrate.fetch.exchange import Failure, Reply, Request

_DRIVE = re.compile(r"^/([A-Za-z]:/)")


@dataclass(slots=True)
class Brought:
    """What the sources of one run brought along. A page from disk reads inside its own folder and nowhere else."""

    folders: list[Path] = field(default_factory=list)

    def answer(self, request: Request, limit: int) -> Reply | None:
        """Return the reply to a request that needs no network, or None if it needs one."""
        if is_web(request.url):
            return None
        if not request.url.startswith("file:"):
            scheme = request.url.partition(":")[0]
            return _failed(request, "scheme", f"a {scheme}: address cannot be fetched")
        # file:///C:/kites on Windows is C:/kites (RFC 8089, appendix E.2)
        path = Path(_DRIVE.sub(r"\1", unquote(path_of(request.url), errors="surrogateescape")))
        try:
            real = path.resolve(strict=True)
            if not any(real.is_relative_to(folder) for folder in self.folders):
                return _failed(
                    request,
                    "outside",
                    "outside the folder of the saved page (name that larger folder instead of the page)",
                )
            if not real.is_file():
                return _failed(request, "missing", "not a file")
            if real.stat().st_size > limit:
                return _failed(request, "size", "larger than --max-file")
            octets = real.read_bytes()
        except (OSError, ValueError, RuntimeError) as error:
            missing = isinstance(error, FileNotFoundError)
            reason = "not beside the saved page" if missing else f"cannot be read: {error}"
            return _failed(request, "missing" if missing else "unreadable", reason)
        return Reply(request, request.url, status=200, octets=octets, size=len(octets))


def _failed(request: Request, kind: str, words: str) -> Reply:
    return Reply(request, request.url, failure=Failure(kind, words))
