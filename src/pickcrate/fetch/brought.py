"""Bytes that a source brings along: pictures beside a saved page, parts of an archive. Read without any request."""

import os
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import unquote
from weakref import finalize

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import decode_data, is_web, path_of
from pickcrate.errors import PickCrateError
from pickcrate.fetch.exchange import MEMORY_BYTES, Failure, Reply, Request, Traffic
from pickcrate.fetch.failures import too_large
from pickcrate.hashes import sha256
from pickcrate.read.reading import StoredBody
from pickcrate.text.lazyre import lazy
from pickcrate.values.cause import Cause
from pickcrate.values.trust import Trust

if TYPE_CHECKING:
    from pickcrate.fetch.spool import Spool

_MOST_HELD = 100_000_000
"""Bytes of bodies that are held in memory; what is more is kept on the disk."""

_DRIVE = lazy(r"^/([A-Za-z]:/)")


class _Holding(Struct):
    """What one source brought: the folders that it may read from, and the bytes that it holds, by absolute address."""

    folders: tuple[Path, ...] = ()
    bodies: Mapping[str, StoredBody] = field(default_factory=dict)
    roots: tuple[str, ...] = ()
    """of a package on disk, the addresses for which ``/`` may stand in its pages"""


class Brought:
    """What the sources of one run brought along, each for itself: no source answers for another.

    ``root`` is the folder of a site on disk: a source in it may read from all of it.
    """

    def __init__(self, root: Path | None = None) -> None:
        self._holdings: list[_Holding] = [_Holding()]
        self._root = root.resolve() if root is not None else None
        self._room = _MOST_HELD
        self._spool: Spool | None = None

    def enter(self, trust: Trust, *folders: Path) -> Trust:
        """Return ``trust`` for a source of its own, which may read from ``folders`` and nowhere else on the disk."""
        own = tuple(folder.resolve() for folder in folders)
        if self._root is not None and any(folder.is_relative_to(self._root) for folder in own):
            own = (self._root, *own)
        self._holdings.append(_Holding(own))
        return replace(trust, source=len(self._holdings) - 1)

    def hold(self, trust: Trust, bodies: Mapping[str, StoredBody], *, package: str = "") -> None:
        """Keep what a source holds, for the requests that come of it; of a package on disk, with its address."""
        holding = self._holdings[trust.source]
        holding.bodies = {**holding.bodies, **self._spooled(bodies)}
        if package.startswith("file:"):
            tops = {url[len(package) :].split("/")[1] for url in bodies if url.startswith(f"{package}/")}
            holding.roots = (package, *(f"{package}/{top}" for top in tops if len(tops) == 1))

    def _spooled(self, bodies: Mapping[str, StoredBody]) -> dict[str, StoredBody]:
        """Return bodies, those in memory on the disk if there is no more room for them: a run may have many sources."""
        known: dict[int, StoredBody] = {}  # a body may answer to several addresses
        kept = dict(bodies)
        for url, body in bodies.items():
            if not body.is_held:
                continue
            if (spooled := known.get(id(body.load))) is None:
                octets = body.load()
                self._room -= len(octets)
                spooled = body if self._room >= 0 else self._put(octets, body)
            kept[url] = known[id(body.load)] = spooled
        return kept

    def _put(self, octets: bytes, body: StoredBody) -> StoredBody:
        """Return a body as it is kept on the disk; as it was, if that has no room either."""
        from pickcrate.fetch.spool import Spool  # noqa: PLC0415 (few runs hold so much)

        try:
            if self._spool is None:
                self._spool = Spool()
                finalize(self, self._spool.close)
            return self._spool.put(octets, body.media_type, body.address) or body
        except PickCrateError:
            return body

    def keep(self, octets: bytes) -> StoredBody:
        """Return bytes as they are kept on the disk while the run lasts; in memory, if that has no room."""
        return self._put(octets, StoredBody(lambda: octets, is_held=True))

    def holds(self, url: str, trust: Trust) -> bool:
        """Tell whether a source brought along what is at an address: in itself, or as a file beside it."""
        return bool(self.beside(url, trust))

    def beside(self, url: str, trust: Trust) -> str:
        """Return the address of what a source brought along for one: itself, or a file's; empty if there is nothing."""
        holding = self._holdings[trust.source]
        if url in holding.bodies:
            return url
        if not url.startswith("file:"):
            return ""
        held = (f"{root}{path_of(url)}" for root in holding.roots)
        return next((inside for inside in held if inside in holding.bodies), "") or self._file(url, trust)

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source holds for an address; empty if it has to be asked for.

        Two archives may hold different pictures under one address.
        """
        body = self._holdings[trust.source].bodies.get(url)
        return sha256(body.load()).hexdigest() if body is not None else ""

    def answer(self, request: Request, limit: int) -> Reply | None:
        """Return the reply to a request that needs no network, or None if it needs one."""
        holding = self._holdings[request.trust.source]
        if (body := holding.bodies.get(request.url)) is not None:
            octets, size = body.first(request.first) if request.first else (body.load(), 0)
            reply = _held(request, octets, body.media_type, limit, size=size)
            return replace(reply, url=body.address or request.url)
        if is_web(request.url):
            return None
        if request.url.startswith("data:"):
            decoded = decode_data(request.url)
            if decoded is None:
                return _failed(request, Failure(Cause.ADDRESS, "a malformed data: address"))
            return _held(request, decoded[1], decoded[0], limit)
        if not request.url.startswith("file:"):
            scheme = request.url.partition(":")[0]
            return _failed(request, Failure(Cause.SCHEME, f"a {scheme}: address cannot be fetched"))
        return self._from_disk(request, holding.folders, limit)

    def _from_disk(self, request: Request, folders: tuple[Path, ...], limit: int) -> Reply:
        if not folders:
            return _failed(request, Failure(Cause.OUTSIDE, "a file on this disk, which a page of the web may not read"))
        path = path_of_file(request.url)
        try:
            real = path.resolve(strict=True)
            if not any(real.is_relative_to(folder) for folder in folders):
                words = "outside the folder of the saved page (--root DIR says which folder is its site)"
                return _failed(request, Failure(Cause.OUTSIDE, words))
            if not real.is_file():
                return _failed(request, Failure(Cause.MISSING, "not a file"))
            size = real.stat().st_size
            if size > limit:
                return _failed(request, too_large(0))
            with real.open("rb") as file:
                octets = file.read(request.first or -1)
        except (FileNotFoundError, NotADirectoryError):  # as well: in a package, which has no such member
            where = "--base URL takes it from the web, --root DIR from its site on the disk"
            return _failed(request, Failure(Cause.MISSING, f"not beside the saved page or the list ({where})"))
        except (OSError, ValueError, RuntimeError) as error:
            words = (getattr(error, "strerror", None) or str(error)).lower()
            return _failed(request, Failure(Cause.UNREADABLE, f"cannot be read: {words}"))
        return _held(request, octets, "", limit, size=size)

    def _file(self, url: str, trust: Trust) -> str:
        """Return the address of the file inside one of a source's folders that a ``file:`` address leads to."""
        holding = self._holdings[trust.source]
        folders = holding.folders
        try:
            if not _may_be_there(url, folders):
                return ""
            named = path_of_file(url)
            path = named if holding.roots else _found(named, folders)
            if not path.is_file():
                return ""
            real = path.resolve(strict=True)
        except (OSError, ValueError, RuntimeError):
            return ""
        if not any(real.is_relative_to(folder) for folder in folders):
            return ""
        return url if path == named else path.as_uri()


class BroughtOnly(Struct, frozen=True):
    """A fetcher that never asks the network: for records of what was loaded, which are taken as they are."""

    brought: Brought
    limit: int

    def fetch(self, requests: Iterable[Request]) -> Iterator[Reply | Traffic]:
        """Yield a reply for every request, in order."""
        for request in requests:
            reply = self.brought.answer(request, self.limit)
            yield reply if reply is not None else _failed(request, Failure(Cause.MISSING, "not in the record"))

    def version(self, url: str, trust: Trust) -> str:
        """Return the hash of the bytes that a source brought along for an address; empty if it did not."""
        return self.brought.version(url, trust)

    def close(self) -> None:
        """Do nothing: there is nothing to close."""


def path_of_file(url: str) -> Path:
    """Return the path that a ``file:`` address names; file:///C:/kites is C:/kites (RFC 8089, appendix E.2)."""
    return Path(_name_of_file(url))


def _name_of_file(url: str) -> str:
    return _DRIVE.sub(r"\1", unquote(path_of(url), errors="surrogateescape"))


def _may_be_there(url: str, folders: tuple[Path, ...]) -> bool:
    """Tell whether a ``file:`` address names a file, as it is or inside a folder.

    Most links of a saved page do not, and a path as an object costs more than asking the disk.
    """
    name = _name_of_file(url)
    inside = os.path.splitdrive(name)[1]
    places = (name, *(f"{folder}{inside}" for folder in folders))
    return any(map(os.path.isfile, places))


def _found(path: Path, folders: tuple[Path, ...]) -> Path:
    """Return ``path``, or what it is in the first of ``folders`` that has it: ``/`` is a site's own folder there."""
    if path.is_absolute() and not any(path.is_relative_to(folder) for folder in folders):
        inside = path.relative_to(path.anchor)
        return next((found for folder in folders if (found := folder / inside).is_file()), path)
    return path


def _held(request: Request, octets: bytes, media_type: str, limit: int, *, size: int = 0) -> Reply:
    """Return what is at hand as the answer that a server would give: as far as it was asked for, or in a file.

    ``size`` is that of the whole, where ``octets`` may be its beginning.
    """
    size = size or len(octets)
    if size > min(limit, request.most or limit):
        return _failed(request, too_large(request.most if size <= limit else 0))
    headers = {"content-length": str(size), **({"content-type": media_type} if media_type else {})}
    spooled = None
    if request.first:
        octets = octets[: request.first]
    elif request.spool is not None and size > MEMORY_BYTES:
        spooled = request.spool()
        spooled.write(octets)
        spooled.flush()
        octets = b""
    return Reply(
        request,
        request.url,
        status=200,
        headers=headers,
        octets=octets,
        spooled=spooled,
        size=size,
        is_all=True,
        trust=request.trust,
    )


def _failed(request: Request, failure: Failure) -> Reply:
    return Reply(request, request.url, failure=failure, trust=request.trust)
