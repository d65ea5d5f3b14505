"""Why what came may not be the picture that was asked for, though it is one: it is held against what is known."""

from pickcrate.crate.entry import Entry
from pickcrate.crate.incoming import Arrival
from pickcrate.crate.likeness import unlike
from pickcrate.crate.store import Crate
from pickcrate.fetch.exchange import Failure
from pickcrate.run.pack.job import Job
from pickcrate.values.cause import Cause

_SPACER = Failure(Cause.CONTENT, "a spacer of one pixel, which holds the picture's place")
STAND_IN = Failure(Cause.CONTENT, "the same bytes came for another picture: a stand-in, and not the original")
_NO_LARGER = Failure(Cause.CONTENT, "not larger than what the crate has")


class Doubts:
    """What one run into one open crate holds pictures against."""

    def __init__(self, crate: Crate) -> None:
        self._crate = crate
        self._believed: dict[int, Job] = {}
        """pictures of this run that came from addresses that were only believed"""

    def of(self, job: Job, arrival: Arrival) -> Failure | None:
        """Return why what came is not the picture after all: a spacer, or what other pictures have as well."""
        if job.attempt or job.seeks_larger:
            sides = (arrival.measures.width, arrival.measures.height)
            if all(side is not None and side.value == 1 for side in sides):
                return _SPACER
        if job.seeks_larger:
            return self._of_larger(job, arrival)
        if job.renews:
            return None
        if job.smaller is not None and job.smaller.octets and (why := unlike(arrival.beside, job.smaller.octets)):
            return Failure(Cause.CONTENT, why)
        return STAND_IN if job.candidate.evidence.is_believed and self._double(job, arrival) is not None else None

    def _of_larger(self, job: Job, arrival: Arrival) -> Failure | None:
        """Return why what came does not take the place of the smaller version that the crate has."""
        if arrival.sha256 == job.entry.sha256:
            return None
        if not job.is_doubtful and (why := self._unlike_held(job, arrival)):  # else ``is_another`` has looked
            return Failure(Cause.CONTENT, why)
        width, height = arrival.measures.width, arrival.measures.height
        known = (job.entry.width or 0) * (job.entry.height or 0)
        return _NO_LARGER if width and height and width.value * height.value <= known else None

    def is_another(self, job: Job, arrival: Arrival) -> bool:
        """Tell whether what came is another picture than the one that the crate has, whose bytes it has not."""
        return not job.seeks_larger or bool(self._unlike_held(job, arrival))

    def _unlike_held(self, job: Job, arrival: Arrival) -> str:
        place = self._crate.places.of(job.entry.file)
        if place is None or job.entry.width is None:
            return ""
        try:
            return unlike(arrival.beside, str(place))
        except OSError:
            return ""

    def believe(self, job: Job) -> None:
        """Note that a picture came from an address that was only believed."""
        if job.candidate.evidence.is_believed:
            self._believed[job.entry.seq] = job

    def discredited(self, job: Job, arrival: Arrival) -> tuple[Job, Entry] | None:
        """Return the picture that has to leave again, as another one's address brought its bytes.

        Of two addresses that were believed, and brought the same, neither was right.
        """
        same = self._double(job, arrival)
        placed = self._believed.pop(same.seq, None) if same is not None else None
        return (placed, same) if placed is not None and same is not None else None

    def _double(self, job: Job, arrival: Arrival) -> Entry | None:
        same = self._crate.ledger.find_content(arrival.sha256)
        return same if same is not None and same.seq != job.entry.seq else None
