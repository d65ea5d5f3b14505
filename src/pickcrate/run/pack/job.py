"""One picture on its way into a crate, and what is written down of what became of it."""

from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import brief
from pickcrate.crate.entry import Entry
from pickcrate.crate.incoming import Arrival, Unfit
from pickcrate.crate.store import measures_of
from pickcrate.fetch.exchange import Failure, Reply
from pickcrate.media import essence
from pickcrate.values.cause import Cause
from pickcrate.values.image import Candidate, Image, Verdict
from pickcrate.values.measures import Measures
from pickcrate.values.outcome import Ending, Outcome

LEFT = "moved or deleted since; left as you left it"


class Job(Struct):
    """One picture on its way: its row, which of its addresses is being tried, and what was said of earlier ones."""

    image: Image
    entry: Entry
    candidates: tuple[Candidate, ...]
    renews: bool = False
    """the crate has it already; the question is whether it changed"""
    is_doubtful: bool = False
    """or whether it is that picture at all: its address differs in what may change from visit to visit"""
    seeks_larger: bool = False
    """what the crate has is a smaller version, since a larger one could not be had on that day"""
    may_pass: bool = False
    """a larger version may be had another day"""
    attempt: int = 0
    grid: int = 0
    """of a version that comes in tiles, which way of cutting it up is being tried"""
    said: list[str] = field(default_factory=list)
    twins: list[Image] = field(default_factory=list)
    smaller: "Smaller | None" = None
    """of a version that is only believed: what it is to be a larger version of"""

    @property
    def candidate(self) -> Candidate:
        """The version that is being tried."""
        return self.candidates[self.attempt]

    @property
    def evidence(self) -> str:
        """Why the version that is being tried is fetched, in words; of one in tiles, how it is put together."""
        tiles = self.candidate.tiles
        return str(replace(self.candidate.evidence, detail=str(tiles[self.grid])) if tiles else self.candidate.evidence)

    @property
    def known_version(self) -> Candidate | None:
        """What the version that is being tried is held against, if nobody looked at it, or nothing else is like it."""
        evidence = self.candidate.evidence
        is_checked = (evidence.is_believed or evidence.is_lone) and not self.renews
        return self.candidates[self.attempt + 1] if is_checked and self.attempt + 1 < len(self.candidates) else None


class Smaller(Struct):
    """The picture that a page shows, asked for beside a larger version of it that is only believed."""

    job: Job
    octets: bytes | None = None
    """None until it came; empty if it could not be had"""
    waiting: tuple[Reply, Arrival] | None = None
    """the larger version, which came first"""


def larger_versions(image: Image, entry: Entry) -> tuple[Candidate, ...]:
    """Return the better versions of a picture that failed when it was fetched, for reasons that may have passed."""
    urls = [brief(candidate.url) for candidate in image.candidates]
    return image.candidates[: urls.index(entry.url)] if entry.sought and entry.url in urls else ()


def as_held(image: Image, entry: Entry, note: str) -> Outcome:
    """Return the outcome of a picture that stays as the crate has it."""
    return Outcome(
        image,
        Ending.ALREADY_THERE,
        entry.url,
        file=entry.file,
        measures=measures_of(entry),
        sha256=entry.sha256,
        error=note,
        reason=note if note == LEFT else "",
    )


def told(objection: Verdict) -> str:
    """Return what left a picture out, and why."""
    return f"{objection.criterion}: {objection.reason}"


def as_left_out(image: Image, url: str, measures: Measures, criterion: str, reason: str) -> Outcome:
    """Return the outcome of a picture that a criterion left out."""
    return Outcome(image, Ending.LEFT_OUT, url, measures=measures, error=reason, reason=reason, left_out_by=criterion)


def as_elsewhere(image: Image, url: str, measures: Measures, crate: str) -> Outcome:
    """Return the outcome of a picture that another crate holds."""
    said = f"{crate} holds it already"
    return Outcome(image, Ending.ELSEWHERE, url, measures=measures, error=said, reason=said, left_out_by=crate)


def seen_fields(arrival: Arrival) -> dict[str, Any]:
    """Return what a file was seen to be, as fields of its row."""
    measures = arrival.measures
    return {
        "bytes": measures.bytes.value if measures.bytes else None,
        "type": measures.type.value if measures.type else "",
        "width": measures.width.value if measures.width else None,
        "height": measures.height.value if measures.height else None,
        "unended": "yes" if arrival.is_unended else "",
    }


def validator_fields(reply: Reply) -> dict[str, Any]:
    """Return what to ask by whether a file has changed, as fields of its row (RFC 9110, 8.8: validators)."""
    fields = reply.headers
    return {"etag": fields.get("etag", ""), "last_modified": fields.get("last-modified", "")}


def job_of(reply: Reply) -> Job:
    """Return what a reply was asked for."""
    job = reply.request.token
    assert isinstance(job, Job)  # noqa: S101 (the fetcher hands back what it was given)
    return job


def why_unfit(unfit: Unfit, reply: Reply) -> Failure:
    """Return what came instead of a whole picture, where that can be told: mostly a page that asks to sign in."""
    if not reply.size:
        return Failure(Cause.EMPTY, "an empty answer")
    if unfit.is_picture:
        return Failure(Cause.CONTENT, unfit.words)
    media_type = essence(reply.headers.get("content-type", ""))
    if media_type == "text/html" or reply.octets[:512].lstrip().lower().startswith((b"<!doctype html", b"<html")):
        return Failure(Cause.PAGE, "a web page came instead of an image")
    return Failure(Cause.CONTENT, f"{unfit.words} (the server calls it {media_type})" if media_type else unfit.words)
