"""Pictures that a crate has from an earlier visit, under addresses that have changed since."""

from msgspec.structs import replace

from pickcrate.addresses import brief
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.store import Crate
from pickcrate.lasting import Lasting, lasting
from pickcrate.run.job import Job
from pickcrate.run.remembering import retold
from pickcrate.run.sightings import Sightings
from pickcrate.values import Image

_MOST_ALIKE = 20
"""Rows whose addresses begin alike that are looked at: of more, one is hardly the only one."""


class Revisits:
    """What one run into one open crate meets again under another address.

    ``jobs`` are those under way, by their rows.
    """

    def __init__(self, crate: Crate, jobs: dict[int, Job], sightings: Sightings) -> None:
        self._crate = crate
        self._jobs = jobs
        self._sightings = sightings
        self._asked: dict[str, Job] = {}
        """what the server was asked about, by the address of today"""
        self._asked_about: set[int] = set()

    def known(self, image: Image) -> Entry | Job | None:
        """Return the row of a picture that the crate has for certain, with its new address, or the job of asking.

        None for all that is new, or is known by its very address. The server is asked by its entity tag alone (RFC
        9110, 8.8.3): pictures that were put there at one time have one date.
        """
        if not self._crate.ledger.had_rows:
            return None
        address = brief(image.url)
        kept = lasting(address)
        if (asked := self._asked.get(address)) is not None:
            return asked.entry
        if kept is None or self._crate.ledger.find(address) is not None:
            return None
        rows = self._crate.ledger.beginning(kept.start, _MOST_ALIKE)
        alike = [entry for entry in rows if entry.state == State.HELD and _is_at(entry.address, kept)]
        if kept.is_sure:
            return self._with_address(alike[0], image) if alike else None
        entry = alike[0] if len(alike) == 1 else None
        if entry is None or entry.seq in self._jobs or entry.seq in self._asked_about:
            return None
        if not (entry.etag and _is_at(entry.url, kept)):
            return None
        self._asked_about.add(entry.seq)
        job = self._asked[address] = Job(image, entry, image.candidates, renews=True, is_doubtful=True)
        return job

    def confirm(self, job: Job) -> None:
        """Give a picture that turned out to be the one that the crate has its new address."""
        del self._asked[brief(job.image.url)]
        job.entry, job.is_doubtful = self._with_address(job.entry, job.image), False

    def deny(self, job: Job, new: Entry) -> None:
        """Go on with a picture that turned out to be another one as with any that is ``new``."""
        del self._asked[brief(job.image.url)]
        del self._jobs[job.entry.seq]
        job.entry, job.renews, job.is_doubtful = new, False, False
        self._jobs[new.seq] = job

    def retold(self, entry: Entry, image: Image) -> Entry:
        """Return the row of a picture with what its page says of it today, if the crate has it."""
        told = retold(entry, image) if self._crate.holds(entry) else entry
        if told is not entry:
            self._crate.record(told)
        if told.page != entry.page:  # its page has moved, and shows it still
            self._sightings.note_page(entry.page)
        return told

    def _with_address(self, entry: Entry, image: Image) -> Entry:
        address, kept = brief(image.url), lasting(entry.url)
        is_same = kept is not None and _is_at(address, kept)
        moved = replace(entry, address=address, url=address if is_same else entry.url, shown_url=brief(image.shown.url))
        self._crate.record(moved)
        return moved


def _is_at(address: str, kept: Lasting) -> bool:
    other = lasting(address)
    return other is not None and other.text == kept.text
