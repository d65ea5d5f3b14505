"""What becomes of a picture before anything is asked for: it is done already, or there is a job to do."""

from msgspec.structs import replace

from pickcrate.addresses.url import brief
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.store import Crate, measures_of
from pickcrate.fetch.exchange import Known, Reply, Request
from pickcrate.orders.order import Order
from pickcrate.read.pages.rights import rights_of_answer
from pickcrate.run.pack.elsewhere import Elsewhere
from pickcrate.run.pack.gathering import version_of
from pickcrate.run.pack.job import LEFT, Job, as_elsewhere, as_held, as_left_out, larger_versions, told
from pickcrate.sift import sift
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate, Image, Ruling, Verdict
from pickcrate.values.measures import Measures
from pickcrate.values.outcome import LeftOutBy, Outcome
from pickcrate.values.wanted import Again
from pickcrate.version import ROBOTS_TOKEN


class Admission:
    """What one run into one crate asks of pictures before it asks for them."""

    def __init__(self, order: Order, crate: Crate, elsewhere: Elsewhere) -> None:
        self._order = order
        self._crate = crate
        self._elsewhere = elsewhere
        self._judges_files = order.criteria.is_any

    def admit(self, image: Image, entry: Entry, *, was_renewed: bool) -> Job | Outcome:
        """Return the job that ``image`` makes, or its outcome if it is done without a request.

        ``was_renewed`` tells that this run has asked already whether it changed.
        """
        if self._crate.holds(entry):
            return self._renewal(image, entry, was_renewed=was_renewed)
        if other := self._elsewhere.crate_with(brief(image.url)):
            return as_elsewhere(image, image.url, Measures(), other)
        if entry.left_out_by == LeftOutBy.EXCEPT and self._elsewhere.has(entry.error):
            return as_elsewhere(image, entry.url, Measures(), entry.error)
        if entry.state == State.LEFT_OUT and (reason := self._still_left_out(image, entry)):
            return as_left_out(image, entry.url, measures_of(entry), entry.left_out_by, reason)
        return Job(image, entry, image.candidates)

    def _still_left_out(self, image: Image, entry: Entry) -> str:
        """Return why a picture that was left out before still is, without asking for it; empty if it may not be."""
        if entry.left_out_by in {LeftOutBy.ROBOTS_TXT, LeftOutBy.EXCEPT}:
            return ""
        if entry.left_out_by == LeftOutBy.ALIKE:
            return entry.error if self._order.drops_alike else ""
        if entry.left_out_by == LeftOutBy.ROBOTS:
            return entry.error if self._order.manners.robots and self._order.again is Again.SKIP else ""
        objection = self.objection(image, image.candidates[0], measures_of(entry))
        return told(objection) if objection is not None else ""

    def _renewal(self, image: Image, entry: Entry, *, was_renewed: bool) -> Job | Outcome:
        """Return the job of asking whether a picture that the crate has changed, if that is wanted."""
        there = self._crate.is_there(entry)
        if was_renewed:
            return as_held(image, entry, "" if there else LEFT)
        if there and (larger := larger_versions(image, entry)):
            return Job(image, entry, larger, renews=True, seeks_larger=True)
        same = tuple(candidate for candidate in image.candidates if brief(candidate.url) == entry.url)
        if not same and entry.url and brief(image.url) == entry.shown_url:  # the page shows the thumbnail alone by now
            same = (Candidate(entry.url, Evidence(Basis.LISTED, entry.evidence)),)
        match self._order.again:
            case Again.SKIP:
                return as_held(image, entry, "" if there else LEFT)
            case Again.REFRESH if not there:
                return as_held(image, entry, LEFT)
            case Again.REFRESH if same and same[0].tiles and entry.etag == version_of(same[0].tiles[0]):
                return as_held(image, entry, "")  # its description was read anew, and says the same
            case _:
                return Job(image, entry, same or image.candidates, renews=there)

    def request(self, job: Job) -> Request:
        """Return the request for the version that is being tried."""
        asker = job.candidate.asker or job.image.asker
        return Request(
            job.candidate.url,
            referer=asker.page,
            trust=asker.trust,
            spool=self._crate.spool,
            known=self._known_of(job),
            token=job,
        )

    def _known_of(self, job: Job) -> Known | None:
        """Return what the server is told of what the crate has, so that it need not send that again."""
        entry = job.entry
        if job.seeks_larger or not job.renews:  # what the crate has is of another version, or nothing
            return None
        if job.is_doubtful:
            return Known(entry.etag, "")
        is_same = self._order.again is Again.REFRESH and brief(job.candidate.url) == entry.url
        return Known(entry.etag, entry.last_modified) if is_same else Known("", "")

    def objection(self, image: Image, candidate: Candidate, measures: Measures) -> Verdict | None:
        """Return why a picture is not what was asked for, now that its file is known; None if it is."""
        if not self._judges_files:
            return None
        seen = replace(candidate, measures=measures)
        sifted = sift(replace(image, candidates=(seen, *image.candidates)), self._order.criteria)
        return next((verdict for verdict in sifted.verdicts if verdict.ruling is Ruling.DROP), None)

    def barred(self, reply: Reply) -> Verdict | None:
        """Return why the server asks not to keep the file that it sent; None if it does not."""
        bar = rights_of_answer(reply.headers, ROBOTS_TOKEN).bar if self._order.manners.robots else ""
        if not bar:
            return None
        return Verdict(LeftOutBy.ROBOTS, Ruling.DROP, f"its server says {bar} (--no-robots takes it all the same)")
