"""Pictures that a crate has from an earlier visit, under addresses that have changed since."""

from msgspec.structs import replace

from pickcrate.addresses.lasting import Lasting, lasting
from pickcrate.addresses.stems import is_stand_in
from pickcrate.addresses.url import brief, is_web, origin, without_scheme
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.store import Crate
from pickcrate.run.pack.job import Job, as_held
from pickcrate.run.pack.remembering import is_of_page, retold
from pickcrate.run.pack.sightings import Sightings
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.outcome import Outcome

_MOST_HOSTS, _SHORTEST_TAG = 20, 10
_MOST_ALIKE = 20
"""Rows whose addresses begin alike that are looked at: of more, one is hardly the only one."""


class Revisits:
    """What one run into one open crate meets again under another address.

    ``jobs`` are those under way, by their rows.
    """

    def __init__(self, crate: Crate, jobs: dict[int, Job], sightings: Sightings, *, seeks_full: bool) -> None:
        self._crate = crate
        self._seeks_full = seeks_full
        self._thumbnails: dict[str, str] | None = None
        """the addresses that pictures were asked for by, by those of their thumbnails"""
        self._origins: list[str] | None = None
        """the schemes and hosts that most pictures are from"""
        self._jobs = jobs
        self._sightings = sightings
        self._asked: dict[str, Job] = {}
        """what the server was asked about, by the address of today"""
        self._asked_about: set[int] = set()

    def known(self, image: Image) -> Entry | Job | None:
        """Return the row that a picture has, with its new address, or the job of asking; None for all that is new."""
        if not self._crate.ledger.had_rows:
            return None
        address = brief(image.url)
        if (entry := self._crate.ledger.find(address)) is not None:
            return entry
        if (asked := self._asked.get(address)) is not None:
            return asked.entry
        return (
            self._with_other_permits(image, address)
            or self._from_other_host(image, address)
            or self._as_smaller(image, address)
        )

    def _with_other_permits(self, image: Image, address: str) -> Entry | Job | None:
        """Return the picture whose address is this one but for what changes from visit to visit.

        The server is asked by its entity tag alone (RFC 9110, 8.8.3): pictures that were put there at one time have
        one date.
        """
        kept = lasting(address)
        if kept is None:
            return None
        rows = self._crate.ledger.beginning(kept.start, _MOST_ALIKE)
        alike = [entry for entry in rows if entry.state == State.HELD and _is_at(entry.address, kept)]
        if kept.is_sure:
            return self._with_address(alike[0], image) if alike else None
        entry = alike[0] if len(alike) == 1 else None
        if entry is None or not self._may_ask(entry) or not (entry.etag and _is_at(entry.url, kept)):
            return None
        return self._ask(address, _asking(image, entry))

    def _from_other_host(self, image: Image, address: str) -> Entry | Job | None:
        """Return the picture that the crate has from this path of another host, as a site that has moved keeps them.

        With another scheme alone it is the same. Of another host the server is asked by the entity tag, if that is
        long enough to be of the bytes: then a copy of the file has it as well, and a short one comes by chance.
        """
        if not is_web(address):
            return None
        own = origin(address)
        path = address[len(own) :]
        scheme = "http" if own.startswith("https:") else "https"
        if (entry := self._held_from(f"{scheme}://{without_scheme(own)}{path}")) is not None:
            return self._with_address(entry, image)
        if image.shown.found_in is FoundIn.LIST:  # a long one may be of many sites
            return None
        if self._origins is None:
            self._origins = self._crate.ledger.origins(_MOST_HOSTS)
        found = (self._held_from(other + path) for other in self._origins)
        alike = (entry for entry in found if entry is not None and len(entry.etag) >= _SHORTEST_TAG)
        entry = next((entry for entry in alike if is_of_page(entry, image) and self._may_ask(entry)), None)
        return self._ask(address, _asking(image, entry)) if entry is not None else None

    def _held_from(self, address: str) -> Entry | None:
        """Return the row of a picture that was asked for at an address, and came from there."""
        entry = self._crate.ledger.find(address)
        return entry if entry is not None and entry.state == State.HELD and entry.url == address else None

    def _as_smaller(self, image: Image, address: str) -> Entry | Job | None:
        """Return the picture that the crate has in a smaller version, or in a larger one than is shown now."""
        urls = [brief(candidate.url) for candidate in image.candidates]
        entry, place = self._held_version(urls)
        if entry is None:
            place = len(urls) - 1
            entry = self._by_thumbnail(urls[place], image)
        if entry is None or not self._may_ask(entry):
            return None
        if entry.url in urls[:place]:
            place = urls.index(entry.url)
        if not self._crate.is_there(entry):  # its owner has deleted the smaller one: the larger one may be wanted
            return self._ask(address, Job(image, replace(entry, address=address), image.candidates)) if place else entry
        if not place:
            return entry
        larger, entry = image.candidates[:place], replace(entry, address=address)
        return self._ask(address, Job(image, entry, larger, renews=True, is_doubtful=True, seeks_larger=True))

    def _held_version(self, urls: list[str]) -> tuple[Entry | None, int]:
        """Return the row that has the address of a lesser version of a picture, and which one that is.

        What holds the place of any picture is none.
        """
        for place, url in enumerate(urls[1:], 1):
            entry = self._crate.ledger.find(url) if not is_stand_in(url) else None
            if entry is not None and entry.state == State.HELD:
                return entry, place
        return None, 0

    def _by_thumbnail(self, shown: str, image: Image) -> Entry | None:
        """Return the picture that was had in full size when its page showed this smaller version of it."""
        if not self._seeks_full or image.shown.found_in is FoundIn.LIST:
            return None
        if self._thumbnails is None:
            self._thumbnails = self._crate.ledger.thumbnails()
        entry = self._thumbnails.get(shown)
        return self._crate.ledger.find(entry) if entry else None

    def _may_ask(self, entry: Entry) -> bool:
        return entry.seq not in self._jobs and entry.seq not in self._asked_about

    def _ask(self, address: str, job: Job) -> Job:
        self._asked_about.add(job.entry.seq)
        self._asked[address] = job
        return job

    def confirm(self, job: Job) -> None:
        """Give a picture that turned out to be the one that the crate has its new address."""
        self._asked.pop(brief(job.image.url), None)
        said = {"address": brief(job.image.url), "shown_url": brief(job.image.shown.url)}
        job.entry, job.is_doubtful = replace(job.entry, url=brief(job.candidate.url), **said), False
        self._crate.record(job.entry)

    def deny(self, job: Job, new: Entry) -> None:
        """Go on with a picture that turned out to be another one as with any that is ``new``."""
        self._asked.pop(brief(job.image.url), None)
        del self._jobs[job.entry.seq]
        job.entry, job.renews, job.is_doubtful, job.seeks_larger = new, False, False, False
        job.candidates = job.image.candidates
        self._jobs[new.seq] = job

    def still_smaller(self, job: Job) -> Outcome:
        """Return the outcome of a picture that has no larger version after all; if that may be another day, it is told.

        Else its row gets the address that it is asked for by today, so that it is known by that.
        """
        if job.may_pass or not job.is_doubtful:
            why = "; ".join(job.said)
            return as_held(job.image, job.entry, f"a larger version could not be had: {why}")
        self._crate.record(job.entry)
        return as_held(job.image, job.entry, "")

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
        is_same = entry.url == entry.address or (kept is not None and _is_at(address, kept))
        moved = replace(entry, address=address, url=address if is_same else entry.url, shown_url=brief(image.shown.url))
        self._crate.record(moved)
        return moved


def _asking(image: Image, entry: Entry) -> Job:
    """Return the job of asking whether a picture is still the one of a row."""
    return Job(image, entry, image.candidates, renews=True, is_doubtful=True)


def _is_at(address: str, kept: Lasting) -> bool:
    other = lasting(address)
    return other is not None and other.text == kept.text
