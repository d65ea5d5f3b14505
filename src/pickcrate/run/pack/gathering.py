"""Pictures that come in tiles: each tile is a request like any other, and when all are there they are put together."""

from collections.abc import Iterator
from itertools import islice
from queue import SimpleQueue
from threading import Thread
from typing import BinaryIO, cast

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.crate.assembling import assemble
from pickcrate.crate.incoming import Incoming
from pickcrate.crate.store import Crate
from pickcrate.crate.tiles import TileFolder, drop_forgotten, unfit
from pickcrate.fetch.exchange import Failure, Reply, Request
from pickcrate.fetch.patience import may_pass
from pickcrate.run.pack.job import Job
from pickcrate.values.cause import Cause
from pickcrate.values.tiling import Level

_NOT_OF_THE_WHOLE = frozenset(
    "content-length content-type content-disposition content-encoding content-digest content-md5 digest etag "
    "last-modified repr-digest x-goog-hash".split()
)
"""header fields of an answer that say something of one tile, and nothing of the picture"""


class Grid(Struct, eq=False):
    """One way to put a picture together, on its way."""

    job: Job
    level: Level
    folder: TileFolder
    is_over: bool = False
    """all its tiles are there, or one cannot be had"""
    reply: Reply | None = None
    """the last answer: what its server says of the use of its pictures"""


class Part(Struct):
    """One tile that was asked for: the token of its request."""

    grid: Grid
    place: int


class Gathering:
    """The pictures of one run that are put together, one at a time, in a thread of its own."""

    def __init__(self, crate: Crate) -> None:
        self._crate = crate
        self._asked: SimpleQueue[tuple[Grid, BinaryIO]] = SimpleQueue()
        self._made: SimpleQueue[tuple[Grid, BinaryIO, str | OSError]] = SimpleQueue()
        self._told: list[tuple[Job, Failure | None]] = []
        self._thread: Thread | None = None
        self._pending = 0

    def requests(self, job: Job) -> Iterator[Request]:
        """Yield the requests for the tiles of a picture that are not there; of a new one for the first alone.

        If that is not what it should be, none of the others is.
        """
        if self._thread is None:
            drop_forgotten(self._crate.places)
            self._thread = Thread(target=self._serve, daemon=True)
            self._thread.start()
        level = job.candidate.tiles[job.grid]
        grid = Grid(job, level, TileFolder(self._crate.places, level))
        if not grid.folder.left:
            self._put_together(grid)
            return
        asker = job.candidate.asker or job.image.asker
        is_new = grid.folder.left == len(grid.folder.tiles)
        for place, tile in islice(grid.folder.missing(), 1 if is_new else None):
            spool = self._crate.spool
            yield Request(tile.url, referer=asker.page, trust=asker.trust, spool=spool, token=Part(grid, place))

    def came(self, part: Part, reply: Reply) -> None:
        """Take a tile, or note that it cannot be had. Raises OSError."""
        grid = part.grid
        octets = _octets(reply)
        if grid.is_over:
            return
        tile = grid.folder.tiles[part.place]
        if reply.failure is not None:
            self._fail(grid, reply.failure, tile.url)
        elif words := unfit(tile, octets):
            self._fail(grid, Failure(Cause.CONTENT, words), tile.url)
        else:
            grid.folder.put(part.place, octets)
            grid.reply = reply
            if not grid.folder.left:
                self._put_together(grid)
            elif grid.folder.left == len(grid.folder.tiles) - 1:
                self._told.append((grid.job, None))

    def take(self, *, waits_for_all: bool = False) -> Iterator[tuple[Job, Reply | Failure | None]]:
        """Yield the pictures that are put together as answers, and why others cannot be. Raises OSError.

        None comes with a picture whose first tile is there: the others are to be asked for.
        """
        while self._told:
            yield self._told.pop()
        while self._pending and (waits_for_all or not self._made.empty()):
            grid, spooled, said = self._made.get()
            self._pending -= 1
            if isinstance(said, OSError):
                raise said
            if said:
                spooled.close()
                grid.folder.drop()
                yield grid.job, Failure(Cause.CONTENT, said)
                continue
            spooled.flush()
            yield grid.job, self._as_reply(grid, spooled)

    def finish(self, job: Job) -> None:
        """Delete the tiles of a picture that is in its place."""
        for level in job.candidate.tiles[: job.grid + 1]:
            TileFolder(self._crate.places, level).drop()

    def _fail(self, grid: Grid, failure: Failure, url: str) -> None:
        """Give a grid up. What came is kept if the rest may be had another day."""
        grid.is_over = True
        if not may_pass(failure):
            grid.folder.drop()
        self._told.append((grid.job, replace(failure, words=f"tile {url}: {failure.words}")))

    def _put_together(self, grid: Grid) -> None:
        grid.is_over = True
        self._pending += 1
        self._asked.put((grid, self._crate.spool()))

    def _serve(self) -> None:
        while True:
            grid, out = self._asked.get()
            try:
                said: str | OSError = assemble(grid.level, grid.folder.tiles, grid.folder.path, out)
            except OSError as error:
                said = error
            except Exception as error:  # noqa: BLE001 (tiles may be made to trip up any decoder)
                said = f"its tiles cannot be put together: {type(error).__name__}"
            self._made.put((grid, out, said))

    def _as_reply(self, grid: Grid, spooled: BinaryIO) -> Reply:
        fields = grid.reply.headers if grid.reply is not None else {}
        kept = {name: value for name, value in fields.items() if name not in _NOT_OF_THE_WHOLE}
        size = cast("Incoming", spooled).path.stat().st_size
        request = Request(grid.job.candidate.url, token=grid.job)
        etag = {"etag": version_of(grid.level)}
        return Reply(request, request.url, 200, kept | etag, spooled=spooled, size=size, is_all=True)


def version_of(level: Level) -> str:
    """Return what tells a picture that is put together from a later one: as an entity tag (RFC 9110, 8.8.3)."""
    return f'"tiles-{level.version[:32]}"'


def _octets(reply: Reply) -> bytes:
    """Return the body of a reply; a file that it is in is deleted."""
    if reply.spooled is None:
        return reply.octets
    spooled = cast("Incoming", reply.spooled)
    octets = spooled.path.read_bytes()
    spooled.close()
    return octets
