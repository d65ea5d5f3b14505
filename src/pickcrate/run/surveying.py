"""Survey: one page with all that it is made of. Sheets, frames and manifests are asked for in rounds, one batch each.

A round costs as long as its slowest answer, so the whole takes as long as the longest chain: a page, its sheet, the
sheet that it imports.
"""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field

from pickcrate.addresses import absolute
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.find import find
from pickcrate.find.asked import Asked
from pickcrate.find.css import Sheet, find_in_sheet
from pickcrate.read.document import read_document
from pickcrate.read.manifest import read_manifest
from pickcrate.read.recognise import Kind, recognise
from pickcrate.read.sheet import decode_sheet
from pickcrate.run.sources import charset
from pickcrate.values import Flaw, Need, NeedKind, Page, Reference

_MOST_DOCUMENTS = 400
_MOST_ROUNDS = 12
_ACCEPT = {
    NeedKind.SHEET: "text/css,*/*;q=0.1",
    NeedKind.FRAME: "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8",
    NeedKind.MANIFEST: "application/manifest+json,application/json,*/*;q=0.5",
}


@dataclass(frozen=True, slots=True)
class _Want:
    """A need with the page that has it, and how many frames deep that page is."""

    need: Need
    page: Page
    level: int


@dataclass(slots=True)
class Survey:
    """What a page and all that it is made of refer to, in the order of reading."""

    references: list[Reference] = field(default_factory=list)
    flaws: list[Flaw] = field(default_factory=list)


def survey(page: Page, fetcher: Fetcher, *, frames: int, asked: Asked) -> Survey:
    """Return all references of ``page``, following frames ``frames`` levels deep. What cannot be had is a flaw."""
    numbers = itertools.count()
    result = Survey()
    replies: dict[str, Reply] = {}
    seen: set[tuple[NeedKind, str, str]] = set()
    left = _MOST_DOCUMENTS

    def take(found: Iterator[Reference | Need] | tuple[Reference | Need, ...], owner: Page, level: int) -> list[_Want]:
        wanted: list[_Want] = []
        for item in found:
            if isinstance(item, Reference):
                result.references.append(item)
                continue
            # The same sheet in another frame may select other things there.
            mark = (item.kind, item.url, owner.address if item.kind is NeedKind.SHEET else "")
            if mark in seen or (item.kind is NeedKind.FRAME and level >= frames):
                continue
            seen.add(mark)
            wanted.append(_Want(item, owner, level))
        return wanted

    def take_page(inner: Page, level: int) -> list[_Want]:
        findings = find(inner, numbers, asked)
        result.flaws.extend((*inner.flaws, *findings.flaws))
        return take((*findings.references, *findings.needs), inner, level)

    waiting = take_page(page, 0)
    for _ in range(_MOST_ROUNDS):
        if not waiting:
            break
        batch, left = waiting[:left], max(0, left - len(waiting))
        replies |= _fetch([want for want in batch if want.need.url not in replies], fetcher)
        waiting = []
        for want in batch:
            reply = replies[want.need.url]
            if reply.failure is not None:
                kind = want.need.kind.value
                result.flaws.append(Flaw(kind, f"{kind} {want.need.url}: {reply.failure.words}"))
            elif want.need.kind is NeedKind.FRAME:
                inner = _frame(want, reply)
                waiting.extend(take_page(inner, want.level + 1) if inner is not None else [])
            else:
                waiting.extend(take(_part(want, reply, numbers), want.page, want.level))
    if waiting:
        result.flaws.append(
            Flaw("size", f"the page is made of more than {_MOST_DOCUMENTS} documents: the rest is left out")
        )
    return result


def _fetch(batch: list[_Want], fetcher: Fetcher) -> dict[str, Reply]:
    """Return the replies to a round by the address asked for; an address that several need is asked for once."""
    requests = {
        want.need.url: Request(
            want.need.url,
            accept=_ACCEPT[want.need.kind],
            referer=want.page.address,
            # A page is shown with its sheets; a frame is a page that we follow on our own.
            named=want.need.kind is not NeedKind.FRAME,
        )
        for want in batch
    }
    replies = fetcher.fetch(requests.values())
    return {reply.request.url: reply for reply in replies if isinstance(reply, Reply)}


def _frame(want: _Want, reply: Reply) -> Page | None:
    if recognise(reply.octets) is not Kind.PAGE:
        return None
    _, _, parameters = reply.headers.get("content-type", "").partition(";")
    return read_document(
        reply.octets,
        source=want.page.source,
        address=reply.url,
        charset=charset(parameters),
        links=reply.headers.get("link", ""),
    )


def _part(want: _Want, reply: Reply, numbers: Iterator[int]) -> Iterator[Reference | Need]:
    """Yield what a sheet or a manifest refers to."""
    page = want.page
    where = Reference("", "", page.address, "css", reply.url, "", 0)
    if want.need.kind is NeedKind.SHEET:
        _, _, parameters = reply.headers.get("content-type", "").partition(";")
        text = decode_sheet(reply.octets, charset(parameters), page.encoding)
        yield from find_in_sheet(Sheet(text, reply.url, page, where), numbers)
        return
    for image in read_manifest(reply.octets):
        url = absolute(image.src, reply.url)
        if url is not None:
            yield Reference(url, image.src, page.address, "meta", reply.url, "icons", next(numbers), width=image.width)
