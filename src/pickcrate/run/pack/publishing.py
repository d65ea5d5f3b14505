"""Putting a picture that came into its place in the crate: over nobody's file, and no bytes twice."""

from msgspec import Struct

from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import Arrival
from pickcrate.crate.store import Crate
from pickcrate.orders.order import Order
from pickcrate.run.events import Moved
from pickcrate.run.pack.job import Job
from pickcrate.values.wanted import Again


class Placed(Struct, frozen=True):
    """Where a picture is now."""

    file: str
    same: int = 0
    """the row of another picture with its bytes, so that one file is both; 0 if there is none"""
    aside: str = ""
    """where its older version is now; empty if there is none"""
    moved: Moved | None = None
    """what became of the file of another picture with its bytes"""
    let_go: tuple[str, str] | None = None
    """a file that is nobody's any more, with the hash that it has to have to be deleted"""
    has_left: bool = False
    """whether something that is to be cleared away is left of a file"""


class Publishing:
    """Puts the pictures of one run into one open crate."""

    def __init__(self, order: Order, crate: Crate) -> None:
        self._order = order
        self._crate = crate

    def place(self, job: Job, arrival: Arrival) -> Placed:
        """Put a picture in its place. Its row is not written yet: ``clear_after`` comes when it is."""
        same, old = self._same_as(arrival), job.entry
        takes_over = same is not None and self._is_earlier(job.entry, same)
        aside = self._crate.set_aside(job.entry, self._order.today) if job.renews else ""
        is_double = False
        if same is not None and not takes_over:
            is_double = self._crate.drop_double(job.entry, same, arrival)
            self._crate.discard(arrival)
            file = same.file
        else:
            file = self._put(job, arrival, over_old=bool(aside))
        moved = None
        if same is not None and takes_over:
            self._crate.take_over(same, file)
            moved = Moved(same.file, file)
        leaves = bool(aside) and file != old.file
        return Placed(
            file,
            same=same.seq if same is not None else 0,
            aside=aside,
            moved=moved,
            let_go=(old.file, old.sha256) if leaves else None,
            has_left=takes_over or leaves or is_double,
        )

    def clear_after(self, placed: Placed) -> None:
        """Clear away what a picture that is in its place leaves behind, now that its row is written."""
        if placed.let_go is not None:
            self._crate.let_go(*placed.let_go)
        if placed.has_left:
            self._crate.clear()

    def _put(self, job: Job, arrival: Arrival, *, over_old: bool) -> str:
        """Move a picture into its place and return the file's name; over its older version, if that was set aside."""
        put = self._crate.put_in_place if over_old else self._crate.publish
        file = put(job.entry, arrival)
        while not file:  # its place is taken by a file that is not ours
            job.entry = self._crate.rename(job.entry, job.image, self._order.naming)
            file = self._crate.publish(job.entry, arrival)
        return file

    def _same_as(self, arrival: Arrival) -> Entry | None:
        """Return a picture that the crate has with these bytes: they are not kept twice, even if it was moved since.

        Where the order is to put back what was moved or deleted, only if its file is there.
        """
        same = self._crate.ledger.find_content(arrival.sha256)
        known = same is not None and (self._order.again is Again.SKIP or self._crate.is_there(same))
        return same if known else None

    def _is_earlier(self, entry: Entry, same: Entry) -> bool:
        """Tell whether the bytes of a later picture came first, in this run or in one that was stopped."""
        is_new = entry.state == State.RESERVED and entry.seq < same.seq
        return is_new and self._crate.is_there(same)
