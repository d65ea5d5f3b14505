"""Filling one open crate: the best address of each picture, then the next best, until every picture is done."""

import heapq
import time
from collections import deque
from collections.abc import Iterator
from contextlib import closing
from typing import TYPE_CHECKING

from msgspec.structs import replace

from pickcrate.addresses.url import brief
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import Arrival, Unfit, digest
from pickcrate.crate.store import Crate, measures_of
from pickcrate.fetch.exchange import Failure, Fetcher, Reply, Request
from pickcrate.fetch.patience import may_pass
from pickcrate.name import finish
from pickcrate.orders.order import Order
from pickcrate.read.fields.digests import announces_any, mismatch
from pickcrate.read.fields.disposition import served_name
from pickcrate.read.pages.rights import rights_of_answer, with_file
from pickcrate.run.events import Found, LookEvent, PackEvent, Progress, Settled, Withdrawn
from pickcrate.run.pack.admission import Admission
from pickcrate.run.pack.arriving import Arriving, HeldBack
from pickcrate.run.pack.doubts import STAND_IN, Doubts
from pickcrate.run.pack.elsewhere import Elsewhere
from pickcrate.run.pack.gathering import Gathering, Part
from pickcrate.run.pack.job import (
    Job,
    Smaller,
    as_elsewhere,
    as_held,
    as_left_out,
    job_of,
    seen_fields,
    told,
    validator_fields,
    why_unfit,
)
from pickcrate.run.pack.publishing import Placed, Publishing
from pickcrate.run.pack.remembering import held_row, said_of, told_time
from pickcrate.run.pack.revisits import Revisits
from pickcrate.run.pack.sightings import Sightings
from pickcrate.values.cause import Cause
from pickcrate.values.image import Image, Verdict
from pickcrate.values.measures import Measures
from pickcrate.values.outcome import Ending, LeftOutBy, Outcome
from pickcrate.version import ROBOTS_TOKEN

if TYPE_CHECKING:
    from pickcrate.run.pack.twinned import TwinsOfRun

_FIRST_OF_SMALLER = 262_144
"""Bytes of what a page shows that are held against a larger version: all of nearly every thumbnail."""


class Filling:
    """One run into one open crate."""

    def __init__(
        self,
        order: Order,
        crate: Crate,
        fetcher: Fetcher,
        elsewhere: Elsewhere,
        sightings: Sightings,
        twins: "TwinsOfRun | None" = None,
    ) -> None:
        self._order = order
        self._naming = order.naming
        self._crate = crate
        self._fetcher = fetcher
        self._elsewhere = elsewhere
        self._admission = Admission(order, crate, elsewhere)
        self._events = deque[PackEvent]()
        self._jobs: dict[int, Job] = {}
        self._next_tries = deque[Job]()
        self._held_back: list[HeldBack] = []
        self._failed: set[int] = set()
        self._doubts = Doubts(crate)
        self._renewed: set[int] = set()
        self._arriving = Arriving()
        self._gathering = Gathering(crate)
        self._publishing = Publishing(order, crate)
        self._revisits = Revisits(crate, self._jobs, sightings, seeks_full=order.full is not False)
        self._sightings = sightings
        self._twins = twins
        self._placed: dict[int, Image] = {}
        """pictures of this run that may have to give way to a better twin, by their rows"""
        sightings.is_on &= crate.ledger.had_rows
        self._wanted = 0
        self._done = 0

    def run(self, found: Iterator[LookEvent]) -> Iterator[PackEvent]:
        """Fetch until every picture is done; the next best addresses in line with what is still to be found."""
        events = self._events
        with closing(self._arriving):
            while True:
                for item in self._fetcher.fetch(self._requests(found)):
                    if not isinstance(item, Reply):
                        events.append(Progress(self._wanted, self._done, item.received, item.under_way, item.slowed))
                    elif isinstance(item.request.token, Smaller):
                        self._smaller_came(item.request.token, item)
                    elif isinstance(item.request.token, Part):
                        self._gathering.came(item.request.token, item)
                    elif item.failure is not None:
                        self._refused(job_of(item), item.failure)
                    elif item.status == 304:
                        self._unchanged(job_of(item))
                    else:
                        self._arriving.give(item)
                    self._take_hashed()
                    while events:
                        yield events.popleft()
                self._take_hashed(waits_for_all=True)
                while events:
                    yield events.popleft()
                if not self._next_tries:
                    break
            if self._crate.ledger.had_rows and self._sightings.has_source:
                yield self._sightings.summary(self._crate.ledger)

    def _take_hashed(self, *, waits_for_all: bool = False) -> None:
        """Take the pictures whose hashes are there; wait for them if too many are not."""
        for reply, sha256 in self._arriving.take(waits_for_all=waits_for_all):
            self._came(reply, sha256)
        for job, made in self._gathering.take(waits_for_all=waits_for_all):
            if isinstance(made, Reply):
                self._came(made)
            elif made is not None:
                self._not_gathered(job, made)
            else:
                self._next_tries.append(job)
        if self._held_back:
            self._release()

    def _requests(self, found: Iterator[LookEvent]) -> Iterator[Request]:
        while True:
            while self._next_tries:
                yield from self._requests_of(self._next_tries.popleft())
            event = next(found, None)
            if event is None:
                return
            self._events.append(event)
            self._sightings.note(event)
            if self._sightings.measured:
                self._crate.ledger.keep_measured(self._sightings.measured)
                self._sightings.measured.clear()
            if isinstance(event, Found) and event.image.is_picked:
                self._wanted += 1
                job = self._admit(event.image)
                if job is not None:
                    yield from self._requests_of(job)

    def _requests_of(self, job: Job) -> Iterator[Request]:
        """Yield the request for a version; and, if that is only believed, for what it is to be a larger version of."""
        job.smaller = None
        if job.candidate.tiles:
            yield from self._gathering.requests(job)
            return
        if (known := job.known_version) is not None:
            job.smaller = Smaller(job)
            asker = known.asker or job.image.asker
            yield Request(known.url, referer=asker.page, trust=asker.trust, first=_FIRST_OF_SMALLER, token=job.smaller)
        yield self._admission.request(job)

    def _admit(self, image: Image) -> Job | None:
        """Return the job that ``image`` makes, or None if it is done without a request."""
        version = self._fetcher.version(image.url, image.asker.trust)
        known = self._revisits.known(image) if not version else None
        if isinstance(known, Job):
            self._jobs[known.entry.seq] = known
            return known
        entry = self._revisits.retold(known or self._crate.reserve(image, self._naming, version), image)
        if entry.seq in self._jobs:
            self._jobs[entry.seq].twins.append(image)
            return None
        if entry.seq in self._failed:
            self._settle(Outcome(image, Ending.FAILED, image.url, error=entry.error, reason=entry.error))
            return None
        admitted = self._admission.admit(image, entry, was_renewed=entry.seq in self._renewed)
        if isinstance(admitted, Outcome):
            self._settle(admitted)
            return None
        self._jobs[entry.seq] = admitted
        return admitted

    def _take_in(self, reply: Reply, sha256: str) -> Arrival | Failure:
        """Look at one answer and write it beside its place."""
        arrival = self._crate.take_in(reply.octets, reply.spooled, reply.modified, is_all=reply.is_all, sha256=sha256)
        if isinstance(arrival, Unfit):
            return why_unfit(arrival, reply)
        if not announces_any(reply.headers):
            return arrival

        def digest_of(algorithm: str) -> bytes:
            return bytes.fromhex(arrival.sha256) if algorithm == "sha256" else digest(arrival.beside, algorithm)

        wrong = mismatch(reply.headers, digest_of)
        if wrong:
            self._crate.discard(arrival)
        return Failure(Cause.CONTENT, wrong) if wrong else arrival

    def _came(self, reply: Reply, sha256: str = "") -> None:
        """Take in what came, if it is what was asked for, and put it in its place."""
        job, arrival = job_of(reply), self._take_in(reply, sha256)
        if isinstance(arrival, Failure):
            self._refused(job, arrival)
        elif job.smaller is not None and job.smaller.octets is None:
            job.smaller.waiting = replace(reply, octets=b"", spooled=None), arrival  # it is on the disk by now
        else:
            self._judge(job, reply, arrival)

    def _smaller_came(self, smaller: Smaller, reply: Reply) -> None:
        """Take note of a picture that a page shows, and go on with the larger version if that came first."""
        smaller.octets = reply.octets if reply.failure is None else b""
        if smaller.waiting is not None:
            larger, arrival = smaller.waiting
            smaller.waiting = None
            self._judge(smaller.job, larger, arrival)

    def _judge(self, job: Job, reply: Reply, arrival: Arrival) -> None:
        """Put a picture in its place, if it is what was asked for."""
        if job.is_doubtful and arrival.sha256 != job.entry.sha256 and self._doubts.is_another(job, arrival):
            self._revisits.deny(job, self._crate.reserve(job.image, self._naming))
        if doubt := self._doubts.of(job, arrival):
            self._crate.discard(arrival)
            if doubt is STAND_IN and (discredited := self._doubts.discredited(job, arrival)) is not None:
                self._withdraw(*discredited)
            self._refused(job, doubt)
            return
        if arrival.embedded:
            job.image = replace(job.image, rights=with_file(job.image.rights, arrival.embedded))
        if (other := self._elsewhere.crate_with(arrival.sha256)) and not job.renews:
            self._crate.discard(arrival)
            self._leave_elsewhere(job, arrival, other)
            return
        objection = self._admission.barred(reply) or self._admission.objection(
            job.image, job.candidate, arrival.measures
        )
        if objection is None and not job.renews:
            objection = self._lesser_twin(job, arrival)
        if objection is not None and job.seeks_larger:
            self._crate.discard(arrival)
            self._refused(job, Failure(Cause.CONTENT, told(objection)))
            return
        if objection is not None and not job.renews:
            self._crate.discard(arrival)
            self._leave_out(job, arrival, objection)
            return
        field = reply.headers.get("content-disposition", "")
        served = served_name(field) if field else ""
        if served and not job.renews and self._naming.uses_stem(job.image):
            bare = replace(reply, octets=b"", spooled=None)  # it is on the disk by now
            heapq.heappush(self._held_back, HeldBack(job.entry.seq, bare, arrival, served))
        else:
            self._place(reply, arrival)

    def _withdraw(self, job: Job, entry: Entry) -> None:
        """Take a picture out of the crate again, and go on to its next address."""
        self._crate.let_go(entry.file, entry.sha256)
        self._crate.record(replace(entry, state=State.RESERVED, file="", sha256="", sought=""))
        self._crate.clear()
        self._done -= 1
        outcome = Outcome(job.image, Ending.FETCHED, job.candidate.url, file=entry.file, measures=measures_of(entry))
        self._events.append(Withdrawn(outcome))
        job.entry = replace(entry, state=State.RESERVED, file="", sha256="")
        job.twins = []  # they were told already
        self._jobs[entry.seq] = job
        self._refused(job, STAND_IN)

    def _release(self) -> None:
        """Place what was held back and has no earlier picture before it any more."""
        while self._held_back and self._held_back[0].seq == min(self._jobs):
            held = heapq.heappop(self._held_back)
            job = job_of(held.reply)
            job.image = replace(job.image, served=held.served)
            job.entry = self._crate.name_anew(job.entry, job.image, self._naming)
            self._place(held.reply, held.arrival)

    def _place(self, reply: Reply, arrival: Arrival) -> None:
        job = job_of(reply)
        if job.renews and arrival.sha256 == job.entry.sha256:
            self._crate.discard(arrival)
            self._crate.record(replace(job.entry, **validator_fields(reply)))
            self._unchanged(job)
            return
        placed = self._publishing.place(job, arrival)
        if placed.moved is not None:
            self._events.append(placed.moved)
        if not placed.same:
            self._doubts.believe(job)
        self._keep(reply, arrival, placed)
        self._publishing.clear_after(placed)

    def _lesser_twin(self, job: Job, arrival: Arrival) -> Verdict | None:
        """Return which twin of a picture is better than it; None if it has none, or is the better one itself."""
        if self._twins is None:
            return None
        found = self._twins.judge(job.entry.seq, arrival)
        for lesser in found.give_way:
            self._give_way(lesser, finish(job.entry.name, arrival.measures))
        if found.note:
            job.said.append(found.note)
        return found.verdict

    def _give_way(self, entry: Entry, better: str) -> None:
        """Take a picture of this run out of the crate again, since a better twin of it came."""
        said = f"like {better}, which is better"
        self._crate.let_go(entry.file, entry.sha256)
        left = replace(entry, state=State.LEFT_OUT, left_out_by=LeftOutBy.ALIKE, file="", sha256="")
        self._crate.record(replace(left, error=f"{LeftOutBy.ALIKE}: {said}"))
        self._crate.clear()
        assert self._twins is not None  # noqa: S101 (who asks knows of one)
        self._twins.forget(entry)
        self._done -= 1
        image = self._placed[entry.seq]
        outcome = Outcome(image, Ending.FETCHED, entry.url, file=entry.file, measures=measures_of(entry))
        self._events.append(Withdrawn(outcome, said))
        self._settle(as_left_out(image, entry.url, measures_of(entry), LeftOutBy.ALIKE, f"{LeftOutBy.ALIKE}: {said}"))

    def _leave_elsewhere(self, job: Job, arrival: Arrival, other: str) -> None:
        """Remember which crate holds the bytes of a file, but not its hash: no other picture is stored as the same."""
        url = job.candidate.url
        self._crate.record(
            replace(job.entry, state=State.LEFT_OUT, left_out_by=LeftOutBy.EXCEPT, error=other, url=brief(url))
        )
        self._finish(job, as_elsewhere(job.image, url, arrival.measures, other))

    def _leave_out(self, job: Job, arrival: Arrival, objection: Verdict) -> None:
        """Remember what its file turned out to be, so that the same order does not fetch it again."""
        url, reason, criterion = job.candidate.url, told(objection), objection.criterion
        left_out = replace(job.entry, **seen_fields(arrival), state=State.LEFT_OUT, url=brief(url), error=reason)
        self._crate.record(replace(left_out, left_out_by=criterion))
        self._finish(job, as_left_out(job.image, url, arrival.measures, criterion, reason))

    def _keep(self, reply: Reply, arrival: Arrival, placed: Placed) -> None:
        job, rights = job_of(reply), rights_of_answer(reply.headers, ROBOTS_TOKEN)
        reservation = rights.reservation or job.image.rights.reservation
        entry = held_row(job, arrival, placed.file, reply.headers, told_time(int(time.time())), reservation)
        if self._twins is not None:
            entry = self._twins.note(entry)
            self._placed[entry.seq] = job.image
        self._crate.record(entry)
        notes = job.said
        self._sightings.larger += job.seeks_larger
        self._sightings.changed += job.renews and not job.seeks_larger
        self._sightings.new += not job.renews and not self._crate.holds(job.entry)
        if placed.same and not job.renews:
            self._sightings.doubles.append((placed.same, entry.seq))
        if placed.aside:
            changed = "a larger version came" if job.seeks_larger else "it changed"
            notes = [*notes, f"{changed}: the old one is {placed.aside}"]
        outcome = Outcome(
            job.image,
            Ending.FETCHED,
            job.candidate.url,
            file=placed.file,
            measures=arrival.measures,
            sha256=arrival.sha256,
            error="; ".join(notes),
            same_as_other=placed.same > 0,
            is_unended=arrival.is_unended,
        )
        if job.candidate.tiles:
            self._gathering.finish(job)
        self._finish(job, outcome)

    def _not_gathered(self, job: Job, failure: Failure) -> None:
        """Go on to another way of cutting a picture up, if that may help, or to its next address."""
        may_help = not may_pass(failure) and failure.cause not in {Cause.TOTAL, Cause.ROBOTS}
        if may_help and job.grid + 1 < len(job.candidate.tiles):
            levels = job.candidate.tiles[job.grid : job.grid + 2]
            if levels[0].pixels != levels[1].pixels:
                job.said.append(f"{failure.words}; a smaller size is put together instead")
            job.grid += 1
            self._next_tries.append(job)
        else:
            self._refused(job, failure)

    def _unchanged(self, job: Job) -> None:
        if job.is_doubtful:
            self._revisits.confirm(job)
        self._finish(job, as_held(job.image, job.entry, ""))

    def _refused(self, job: Job, failure: Failure) -> None:
        """Go on to the picture's next address, or give it up."""
        if job.is_doubtful and not job.seeks_larger:
            self._revisits.deny(job, self._crate.reserve(job.image, self._naming))
        words, url = failure.words, job.candidate.url
        job.may_pass |= may_pass(failure)
        job.said.append(f"{brief(url)}: {words}" if len(job.candidates) > 1 else words)
        # A limit of the user's own is no reason for a thumbnail: the same line again brings the original.
        if job.attempt + 1 < len(job.candidates) and failure.cause is not Cause.TOTAL:
            job.attempt += 1
            self._next_tries.append(job)
            return
        error = "; ".join(job.said)
        if job.seeks_larger:
            self._finish(job, self._revisits.still_smaller(job))
            return
        if failure.cause is Cause.ROBOTS and not job.renews:
            reason = f"{LeftOutBy.ROBOTS}: {words}"
            left_out = replace(job.entry, state=State.LEFT_OUT, left_out_by=LeftOutBy.ROBOTS_TXT, error=reason)
            self._crate.record(left_out)
            self._finish(job, replace(as_left_out(job.image, url, Measures(), LeftOutBy.ROBOTS, reason), error=error))
            return
        self._failed.add(job.entry.seq)
        if job.renews:
            error += "; the file that is there is kept"
        else:
            self._crate.record(
                replace(
                    job.entry,
                    state=State.FAILED,
                    **said_of(job.image),
                    evidence=str(job.image.best.evidence),
                    error=error,
                )
            )
        why = (failure.cause, failure.status)
        self._finish(job, Outcome(job.image, Ending.FAILED, url, error=error, reason=words, why=why))

    def _finish(self, job: Job, outcome: Outcome) -> None:
        del self._jobs[job.entry.seq]
        if job.renews:
            self._renewed.add(job.entry.seq)
        self._settle(outcome)
        for twin in job.twins:
            ending = Ending.ALREADY_THERE if outcome.ending is Ending.FETCHED else outcome.ending
            self._settle(replace(outcome, image=twin, ending=ending))

    def _settle(self, outcome: Outcome) -> None:
        self._done += 1
        self._events.append(Settled(outcome))
