"""Pack: what look finds, fetched into a crate in rounds: the best address of each picture, then the next best."""

import re
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import cast

from pickcrate.addresses import brief
from pickcrate.crate.ledger import Entry
from pickcrate.crate.store import Arrival, Crate, measures_of, rehearsed, unwritable
from pickcrate.crate.writers import Writers
from pickcrate.errors import UsageError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.name import Naming, legal, parse_pattern, settled
from pickcrate.run.events import (
    CrateOpened,
    Found,
    LookEvent,
    PackEvent,
    Planned,
    Progress,
    Settled,
)
from pickcrate.run.order import Destination, Order
from pickcrate.sift import sift
from pickcrate.values import Ending, Image, Measures, Outcome, Ruling

_WRITERS = 1
"""Threads that write files. Two are slower: the kernel makes files of one folder one at a time."""

_MOST_UNWRITTEN = 64
"""Pictures that may wait in memory for a writer."""


@dataclass(slots=True)
class _Job:
    """One picture on its way: its row, which of its candidates is being tried, and what was said of earlier ones."""

    image: Image
    entry: Entry
    attempt: int = 0
    said: list[str] = field(default_factory=list)
    twins: list[Image] = field(default_factory=list)

    @property
    def candidate_url(self) -> str:
        return self.image.candidates[self.attempt].url


def pack(order: Order, found: Iterator[LookEvent], fetcher: Fetcher, into: Destination) -> Iterator[PackEvent]:
    """Fetch every picture of ``found`` into the crate; yield what happens.

    The crate is opened when the first picture is there to put into it. Whatever ends the run, Ctrl-C and a full
    disk included, what was fetched is written down and listed.
    """
    crate_name(into.name)  # what is wrong with it is said before anything is asked for
    ahead = deque[PackEvent]()
    first = _first_pick(found, ahead)
    yield from _drained(ahead)
    if first is None:
        return
    root = crate_root(into, first.image, order)
    with Crate(root) as crate:
        yield CrateOpened(root)
        packing = _Packing(order, crate, fetcher)
        try:
            yield from packing.run(_chain(first, found))
        except OSError as error:
            raise unwritable(root, error) from error
        finally:
            crate.ledger.commit()
            crate.write_list()


def plan(order: Order, found: Iterator[LookEvent], into: Destination) -> Iterator[LookEvent | Planned]:
    """Yield ``found``, and after each pick the path that ``pack`` would give it. No picture is fetched."""
    crate_name(into.name)
    ahead = deque[PackEvent]()
    first = _first_pick(found, ahead)
    yield from cast("deque[LookEvent]", ahead)
    if first is None:
        return
    root = crate_root(into, first.image, order)
    with rehearsed(root) as crate:
        for event in _chain(first, found):
            yield event
            if isinstance(event, Found) and event.image.is_picked:
                entry = crate.reserve(event.image, order.naming)
                measures = event.image.best.measures
                there = crate.holds(entry)
                path = root / (entry.file if there else settled(entry.name, measures))
                yield Planned(event.image, path, is_there=there, is_settled=there or measures.type is not None)


def crate_root(into: Destination, first: Image, order: Order) -> Path:
    """Return the folder of the crate: as named, or after the page that the first picture is on."""
    if not into.name:
        return into.into / legal(first.page_title or first.shown.page or "pictures")
    steps = []
    for step in crate_name(into.name).split("/"):
        naming = Naming((parse_pattern(step, "--crate"),), order.today)
        steps.append(naming.spell(first).replace("{{", "{").replace("}}", "}") if "{" in step else step)
    return into.into.joinpath(*steps)


def crate_name(name: str) -> str:
    """Return the path below ``--into`` of a crate that was named; UsageError if it would lead elsewhere.

    The date, the site and the page may be fields in it.
    """
    if not name:
        return ""
    for known in re.findall(r"\{(\w*)", name):
        if known not in {"date", "site", "page"}:
            raise UsageError(f"--crate {name!r}: fields of a crate's name are {{date}}, {{site}} and {{page}}")
    steps = name.replace("\\", "/").split("/")
    if name.startswith(("/", "~")) or ".." in steps or ":" in steps[0]:
        raise UsageError(
            f"--crate {name!r} leads out of the folder of crates",
            hint="a crate has a plain name; say where it goes with --into, as in --into /data --crate kites",
        )
    checked = "/".join(_legal_step(step) for step in steps if step not in {"", "."})
    if not checked:
        raise UsageError("--crate is blank", hint="for example --crate kites")
    return checked


def _legal_step(step: str) -> str:
    """Return a step of a crate's path with what no system takes replaced; one with fields is made legal with them."""
    return step.strip(" .") or "picture" if "{" in step else legal(step)


def _first_pick(found: Iterator[LookEvent], ahead: deque[PackEvent]) -> Found | None:
    for event in found:
        if isinstance(event, Found) and event.image.is_picked:
            return event
        ahead.append(event)
    return None


def _chain(first: Found, rest: Iterator[LookEvent]) -> Iterator[LookEvent]:
    yield first
    yield from rest


def _drained(events: deque[PackEvent]) -> Iterator[PackEvent]:
    while events:
        yield events.popleft()


class _Packing:
    """One run into one open crate."""

    def __init__(self, order: Order, crate: Crate, fetcher: Fetcher) -> None:
        self._naming = order.naming
        self._criteria = order.criteria
        self._crate = crate
        self._fetcher = fetcher
        self._events = deque[PackEvent]()
        self._jobs: dict[int, _Job] = {}
        self._again: list[_Job] = []
        self._failed: set[int] = set()
        self._writers: Writers[Reply, Arrival | str] = Writers(_WRITERS, self._take_in)
        self._wanted = 0
        self._settled = 0

    def run(self, found: Iterator[LookEvent]) -> Iterator[PackEvent]:
        """Fetch in rounds until every picture is settled."""
        with self._writers:
            requests: Iterator[Request] | None = self._first_round(found)
            while requests is not None:
                for item in self._fetcher.fetch(requests):
                    if isinstance(item, Reply):
                        if item.failure is None:
                            self._writers.give(item)
                        else:
                            self._refused(_job(item), item.failure.words)
                    else:
                        progress = Progress(self._wanted, self._settled, item.received, item.under_way)
                        self._events.append(progress)
                    self._collect(most_left=_MOST_UNWRITTEN)
                    yield from _drained(self._events)
                self._collect(most_left=0)
                yield from _drained(self._events)
                jobs, self._again = self._again, []
                requests = map(self._request, jobs) if jobs else None

    def _first_round(self, found: Iterator[LookEvent]) -> Iterator[Request]:
        for event in found:
            self._events.append(event)
            if not isinstance(event, Found) or not event.image.is_picked:
                continue
            self._wanted += 1
            job = self._admit(event.image)
            if job is not None:
                yield self._request(job)

    def _admit(self, image: Image) -> _Job | None:
        """Return the job that ``image`` makes, or None if it is settled without a request."""
        entry = self._crate.reserve(image, self._naming)
        if self._crate.holds(entry):
            there = self._crate.is_there(entry)
            outcome = Outcome(
                image,
                Ending.ALREADY_THERE,
                entry.url,
                file=entry.file,
                measures=measures_of(entry),
                sha256=entry.sha256,
                error="" if there else "moved or deleted since; left as you left it",
            )
            self._settle(outcome)
        elif entry.state == "left out" and (reason := self._objection(image, 0, measures_of(entry))):
            measures = measures_of(entry)
            self._settle(Outcome(image, Ending.LEFT_OUT, entry.url, measures=measures, error=reason, reason=reason))
        elif entry.seq in self._jobs:
            self._jobs[entry.seq].twins.append(image)
        elif entry.seq in self._failed:
            self._settle(Outcome(image, Ending.FAILED, image.url, error=entry.error, reason=entry.error))
        else:
            job = self._jobs[entry.seq] = _Job(image, entry)
            return job
        return None

    def _request(self, job: _Job) -> Request:
        return Request(job.candidate_url, referer=job.image.shown.page, spool=self._crate.spool, token=job)

    def _take_in(self, reply: Reply) -> Arrival | str:
        """Look at one answer and write it beside its place; runs in a writer's thread."""
        arrival = self._crate.take_in(reply.octets, reply.spooled, reply.modified)
        return _in_full(arrival, reply) if isinstance(arrival, str) else arrival

    def _collect(self, *, most_left: int) -> None:
        """Move in what the writers are done with; wait for them while more than ``most_left`` are pending."""
        for reply, arrival in self._writers.done(most_left=most_left):
            job = _job(reply)
            if isinstance(arrival, str):
                self._refused(job, arrival)
                continue
            if reason := self._objection(job.image, job.attempt, arrival.measures):
                self._crate.discard(arrival)
                self._leave_out(job, arrival, reason)
                continue
            same = self._crate.ledger.find_content(arrival.sha256)
            known = same.file if same is not None and self._crate.is_there(same) else ""
            file: str | None = known
            while not file:
                file = self._crate.publish(job.entry, arrival)
                if not file:  # its place is taken by a file that is not ours
                    job.entry = self._crate.rename(job.entry, job.image, self._naming)
            self._crate.discard(arrival)
            self._keep(reply, arrival, file, same_as_other=bool(known))

    def _objection(self, image: Image, attempt: int, measures: Measures) -> str:
        """Return why a picture is not what was asked for, now that its file is known; empty if it is."""
        candidate = replace(image.candidates[attempt], measures=measures)
        seen = sift(replace(image, candidates=(candidate, *image.candidates)), self._criteria)
        objections = (verdict for verdict in seen.verdicts if verdict.ruling is Ruling.DROP)
        return next((f"{verdict.criterion}: {verdict.reason}" for verdict in objections), "")

    def _leave_out(self, job: _Job, arrival: Arrival, reason: str) -> None:
        """Remember what its file turned out to be, so that the same order does not fetch it again."""
        url = job.image.candidates[job.attempt].url
        self._crate.record(replace(_seen(job.entry, arrival), state="left out", url=brief(url), error=reason))
        outcome = Outcome(job.image, Ending.LEFT_OUT, url, measures=arrival.measures, error=reason, reason=reason)
        self._finish(job, outcome)

    def _keep(self, reply: Reply, arrival: Arrival, file: str, *, same_as_other: bool) -> None:
        job, measures = _job(reply), arrival.measures
        shown, candidate = job.image.shown, job.image.candidates[job.attempt]
        self._crate.record(
            replace(
                _seen(job.entry, arrival),
                state="held",
                file=file,
                url=brief(candidate.url),
                sha256=arrival.sha256,
                etag=reply.headers.get("etag", ""),
                last_modified=reply.headers.get("last-modified", ""),
                fetched_at=datetime.now(UTC).isoformat(timespec="seconds"),
                shown_url=brief(shown.url),
                page=brief(shown.page),
                alt=shown.words.alt,
                caption=shown.words.caption,
                evidence=candidate.evidence,
                error="",
            )
        )
        outcome = Outcome(
            job.image,
            Ending.FETCHED,
            candidate.url,
            file=file,
            measures=measures,
            sha256=arrival.sha256,
            error="; ".join(job.said),
            same_as_other=same_as_other,
        )
        self._finish(job, outcome)

    def _refused(self, job: _Job, words: str) -> None:
        """Go on to the picture's next address in the next round, or give it up."""
        job.said.append(f"{brief(job.candidate_url)}: {words}" if len(job.image.candidates) > 1 else words)
        job.attempt += 1
        if job.attempt < len(job.image.candidates):
            self._again.append(job)
            return
        job.attempt -= 1
        error = "; ".join(job.said)
        self._failed.add(job.entry.seq)
        shown = job.image.shown
        self._crate.record(
            replace(
                job.entry,
                state="failed",
                shown_url=brief(shown.url),
                page=brief(shown.page),
                alt=shown.words.alt,
                caption=shown.words.caption,
                evidence=job.image.best.evidence,
                error=error,
            )
        )
        self._finish(job, Outcome(job.image, Ending.FAILED, job.candidate_url, error=error, reason=words))

    def _finish(self, job: _Job, outcome: Outcome) -> None:
        del self._jobs[job.entry.seq]
        self._settle(outcome)
        for twin in job.twins:
            ending = Ending.ALREADY_THERE if outcome.ending is Ending.FETCHED else outcome.ending
            self._settle(replace(outcome, image=twin, ending=ending))

    def _settle(self, outcome: Outcome) -> None:
        self._settled += 1
        self._events.append(Settled(outcome))


def _seen(entry: Entry, arrival: Arrival) -> Entry:
    """Return a row with what its file was seen to be."""
    measures = arrival.measures
    return replace(
        entry,
        bytes=measures.bytes.value if measures.bytes else None,
        type=measures.type.value if measures.type else "",
        width=measures.width.value if measures.width else None,
        height=measures.height.value if measures.height else None,
    )


def _job(reply: Reply) -> _Job:
    job = reply.request.token
    assert isinstance(job, _Job)  # noqa: S101 (the fetcher hands back what it was given)
    return job


def _in_full(words: str, reply: Reply) -> str:
    """Say what came instead of an image, where that can be told: mostly a page that asks to sign in."""
    media_type = reply.headers.get("content-type", "").partition(";")[0].strip()
    start = reply.octets[:512].lstrip().lower()
    if not reply.size:
        return "an empty answer"
    if words == "not an image" and (start.startswith((b"<!doctype html", b"<html")) or media_type == "text/html"):
        return "a web page came instead of an image"
    return f"{words} (the server calls it {media_type})" if media_type else words
