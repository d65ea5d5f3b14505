"""Bytes that a source brings along: pictures beside a saved page, read without any request."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from urllib.parse import unquote

from pickcrate.addresses import decode_data, is_web, path_of
from pickcrate.fetch.exchange import Failure, Reply, Request, Traffic
from pickcrate.read.reading import Body

_DRIVE = re.compile(r"^/([A-Za-z]:/)")


@dataclass(slots=True)
class Brought:
    """What the sources of one run brought along. A page from disk reads inside its own folder and nowhere else."""

    folders: list[Path] = field(default_factory=list)
    bodies: dict[str, Body] = field(default_factory=dict)
    """what archives hold, by absolute address"""
    strangers: set[str] = field(default_factory=set)
    """pages from disk that say they were saved from the public web: they are trusted no more than it"""

    def answer(self, request: Request, limit: int) -> Reply | None:
        """Return the reply to a request that needs no network, or None if it needs one."""
        if (body := self.bodies.get(request.url)) is not None:
            octets = body.load()
            return replace(_held(request, octets, body.media_type, limit), url=body.address or request.url)
        if is_web(request.url):
            return None
        if request.url.startswith("data:"):
            decoded = decode_data(request.url)
            if decoded is None:
                return _failed(request, "address", "a malformed data: address")
            return _held(request, decoded[1], decoded[0], limit)
        if not request.url.startswith("file:"):
            scheme = request.url.partition(":")[0]
            return _failed(request, "scheme", f"a {scheme}: address cannot be fetched")
        return self._from_disk(request, limit)

    def _from_disk(self, request: Request, limit: int) -> Reply:
        path = _path(request.url)
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
        return _held(request, octets, "", limit)

    def has_file(self, url: str) -> bool:
        """Tell whether a ``file:`` address leads to a file inside one of the folders."""
        if not url.startswith("file:"):
            return False
        try:
            real = _path(url).resolve(strict=True)
        except (OSError, ValueError, RuntimeError):
            return False
        return real.is_file() and any(real.is_relative_to(folder) for folder in self.folders)


@dataclass(frozen=True, slots=True)
class BroughtOnly:
    """A fetcher that never asks the network: for records of what was loaded, which are taken as they are."""

    brought: Brought
    limit: int

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, in order."""
        for request in requests:
            reply = self.brought.answer(request, self.limit)
            yield reply if reply is not None else _failed(request, "missing", "not in the record")

    def close(self) -> None:
        """Do nothing: there is nothing to close."""


def _path(url: str) -> Path:
    """Return the path that a ``file:`` address names; file:///C:/kites is C:/kites (RFC 8089, appendix E.2)."""
    return Path(_DRIVE.sub(r"\1", unquote(path_of(url), errors="surrogateescape")))


def _held(request: Request, octets: bytes, media_type: str, limit: int) -> Reply:
    if len(octets) > limit:
        return _failed(request, "size", "larger than --max-file")
    headers = {"content-type": media_type} if media_type else {}
    return Reply(request, request.url, status=200, headers=headers, octets=octets, size=len(octets))


def _failed(request: Request, kind: str, words: str) -> Reply:
    return Reply(request, request.url, failure=Failure(kind, words))
