"""Following thumbnails to the pages behind them: those pages in one batch, then the proof of what is chosen there."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace

from pickcrate.addresses import brief
from pickcrate.errors import UsageError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.find import find
from pickcrate.fullsize import resolve
from pickcrate.fullsize.proof import proves
from pickcrate.fullsize.viewer import BEHIND, choose, leads_to_page
from pickcrate.group import group
from pickcrate.read.document import read_document
from pickcrate.read.recognise import Kind, recognise
from pickcrate.run.probes import Probes, probed
from pickcrate.run.sources import PAGE_ACCEPT, charset
from pickcrate.values import Candidate, Image, Page

_MOST_PAGES = 2000
_MOST_CHOICES = 3


@dataclass(slots=True)
class _Thumbnail:
    """One image, and the page behind it that is to be read next."""

    image: Image
    page: str


def follow(images: list[Image], fetcher: Fetcher, probes: Probes, *, levels: int, target: str) -> list[Image]:
    """Return ``images``, those that lead to a page with the same picture, larger, with that in front.

    ``levels`` is how many pages one behind the other are gone through; ``target`` is a CSS selector for the part of
    such a page that holds the picture.
    """
    found = {image.number: image for image in images}
    waiting = [_Thumbnail(image, page) for image in images if (page := leads_to_page(image))][:_MOST_PAGES]
    asked: set[str] = set()
    for _ in range(levels):
        wanted = {thumbnail.page: thumbnail.image.shown.page for thumbnail in waiting}
        pages = {page.source: _images(page, target) for page in _read_pages(wanted, asked, fetcher)}
        choices = [
            (thumbnail, choose(pages[thumbnail.page], thumbnail.image)[:_MOST_CHOICES])
            for thumbnail in waiting
            if thumbnail.page in pages
        ]
        _probe_choices(choices, probes)
        waiting = []
        for thumbnail, chosen in choices:
            best = _proved(thumbnail.image, chosen, probes)
            if best is not None:
                candidate = replace(best, evidence=f"{BEHIND}, {brief(thumbnail.page)}: {best.evidence}")
                found[thumbnail.image.number] = _in_front(thumbnail.image, candidate)
            elif chosen and (further := leads_to_page(chosen[0][0])):
                waiting.append(_Thumbnail(thumbnail.image, further))
    return [found[image.number] for image in images]


def _read_pages(wanted: dict[str, str], asked: set[str], fetcher: Fetcher) -> Iterator[Page]:
    """Yield the pages that could be read, as they come; their source is the address that was asked for.

    A page that was asked for before is not asked for again.
    """
    requests = [Request(url, accept=PAGE_ACCEPT, referer=page) for url, page in wanted.items() if url not in asked]
    asked.update(wanted)
    for reply in fetcher.fetch(requests):
        if isinstance(reply, Reply) and reply.failure is None and recognise(reply.octets) is Kind.PAGE:
            _, _, parameters = reply.headers.get("content-type", "").partition(";")
            yield read_document(reply.octets, source=reply.request.url, address=reply.url, charset=charset(parameters))


def _images(page: Page, target: str) -> list[Image]:
    if target:
        node = _select(page, target)
        if node is None:
            return []
        page = read_document(node.encode("utf-8", "replace"), source=page.source, address=page.address, base=page.base)
    return [resolve(image) for image in group(find(page, itertools.count()).references, source=page.source)]


def _select(page: Page, target: str) -> str | None:
    """Return the markup of the first element that ``--target`` selects; UsageError if it is no selector."""
    try:
        node = page.tree.css_first(target)
    except Exception as error:
        raise UsageError(
            f"--target {target!r} is not a CSS selector", hint="for example --target 'main img'"
        ) from error
    return node.html if node is not None else None


def _probe_choices(choices: list[tuple[_Thumbnail, list[tuple[Image, bool]]]], probes: Probes) -> None:
    """Read the first bytes of each thumbnail and of what may be the same picture, in one batch."""
    wanted: dict[str, str] = {}
    for thumbnail, chosen in choices:
        if chosen:
            wanted[thumbnail.image.shown.url] = thumbnail.image.shown.page
        for image, _ in chosen:
            wanted |= {candidate.url: thumbnail.page for candidate in image.candidates[:2]}
    probes.read(wanted)


def _proved(thumbnail: Image, chosen: list[tuple[Image, bool]], probes: Probes) -> Candidate | None:
    """Return the first choice, in its largest version, that proves to be the thumbnail's picture."""
    for image, is_kin in chosen:
        for candidate in image.candidates[:2]:
            header = probes.header(candidate.url)
            if header is not None and proves(header, probes.header(thumbnail.shown.url), crops=is_kin):
                return replace(candidate, measures=probed(header))
    return None


def _in_front(image: Image, candidate: Candidate) -> Image:
    others: Iterator[Candidate] = (known for known in image.candidates if known.url != candidate.url)
    return replace(image, candidates=(candidate, *others))
