"""From a list to its items: the page of each is read, in batches, and its pictures take the place of the thumbnail."""

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace

from pickcrate.addresses import brief, without_fragment
from pickcrate.errors import PickCrateError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.items.belonging import ItemPage, strangers
from pickcrate.read.recognise import Kind
from pickcrate.run.events import ItemPagesRead, SourceFailed
from pickcrate.run.pages import MOST_OF_A_PART, PAGE_ACCEPT
from pickcrate.run.sources import Opened, opened_reply
from pickcrate.values import Image, ItemForm

_AT_A_TIME = 16

ReadImages = Callable[[Opened, int], list[Image]]
"""Returns the images of an item's page, numbered from a number on."""


@dataclass(slots=True)
class Entered:
    """What became of a list's items: the images of the list, and of each page that was read."""

    images: list[Image]
    pages: list[list[Image]] = field(default_factory=list)
    failures: list[SourceFailed] = field(default_factory=list)
    items: int = 0

    @property
    def summary(self) -> ItemPagesRead:
        """What is to be said of it."""
        wanted = sum(not image.stranger for images in self.pages for image in images)
        return ItemPagesRead(self.items, len(self.pages), wanted)


def enter_items(images: list[Image], limit: int, beside: set[str], fetcher: Fetcher, read: ReadImages) -> Entered:
    """Return the images of a list, and those of the pages of its first ``limit`` items, which are numbered on.

    Of a page only what is the item's is kept; the thumbnail gives way to it. An item whose page cannot be had, or
    shows nothing of its own, keeps its thumbnail. What the items of earlier pages of the list had beside them is
    ``beside``, and grows.
    """
    of_item = _by_items(images)
    wanted = {url: shown for url, shown in of_item.items() if any(image.is_picked for image in shown)}
    wanted = dict(itertools.islice(wanted.items(), limit))
    entered = Entered(images, items=len(wanted))
    number = images[-1].number + 1 if images else 1
    pages: list[ItemPage] = []
    for opened, thumbnails in _opened(wanted, fetcher, entered):
        found = [_of(image, thumbnails[0]) for image in read(opened, number)]
        number += len(found)
        pages.append(ItemPage(opened.address, tuple(thumbnails), tuple(found)))
    compared = list(pages)
    if len(pages) == 1:  # what every page shows is told from two: the next item's is looked at as well
        witness = {url: shown for url, shown in of_item.items() if url not in wanted}
        for opened, thumbnails in _opened(dict(itertools.islice(witness.items(), 1)), fetcher, Entered([])):
            compared.append(ItemPage(opened.address, tuple(thumbnails), tuple(read(opened, number))))
    others = strangers(compared, beside | {image.shown.url for image in images})
    replaced: dict[int, str] = {}
    for page in pages:
        own = [image for image in page.images if image.number not in others]
        beside |= {image.shown.url for image in page.images if image.number in others}
        entered.pages.append([replace(image, stranger=others.get(image.number, "")) for image in page.images])
        if own:
            said = f"its item's page has {len(own)} picture{'' if len(own) == 1 else 's'} of it"
            replaced |= dict.fromkeys((thumbnail.number for thumbnail in page.thumbnails), said)
    entered.images = [replace(image, stranger=replaced.get(image.number, "")) for image in images]
    return entered


def _by_items(images: list[Image]) -> dict[str, list[Image]]:
    """Return the pictures of a list by the addresses of their items' own pages.

    What several items lead to is the own page of none: a catalogue, a search.
    """
    found: dict[str, list[Image]] = {}
    for image in images:
        is_thumbnail = not (image.shown.is_framed or image.furniture or image.item.form is ItemForm.PAGE)
        if is_thumbnail and image.item.url:
            found.setdefault(without_fragment(image.item.url), []).append(image)
    return {url: shown for url, shown in found.items() if len({image.item.title for image in shown}) == 1}


def _opened(
    of_item: dict[str, list[Image]], fetcher: Fetcher, entered: Entered
) -> Iterator[tuple[Opened, list[Image]]]:
    """Yield the page of each item with its thumbnails, as far as they can be had, in the order of the list."""
    waiting = iter(of_item.items())
    while batch := list(itertools.islice(waiting, _AT_A_TIME)):
        requests = [_request(address, thumbnails[0]) for address, thumbnails in batch]
        replies = {reply.request.url: reply for reply in fetcher.fetch(requests) if isinstance(reply, Reply)}
        for address, thumbnails in batch:
            if (reply := replies.get(address)) is None:
                continue
            try:
                opened = opened_reply(brief(address), reply, MOST_OF_A_PART)
            except PickCrateError as error:
                entered.failures.append(SourceFailed(brief(address), error))
                continue
            if opened.kind is Kind.PAGE:
                yield replace(opened, source=thumbnails[0].source), thumbnails


def _request(address: str, thumbnail: Image) -> Request:
    asker = thumbnail.asker
    return Request(
        address, accept=PAGE_ACCEPT, referer=asker.page, trust=asker.trust, most=MOST_OF_A_PART, asks_anew=True
    )


def _of(image: Image, thumbnail: Image) -> Image:
    """Return a picture of an item's page as one of the item that the list shows; of another item it stays."""
    if image.item.url and without_fragment(image.item.url) != without_fragment(image.shown.page):
        return image
    references = tuple(
        reference.standing(thumbnail.item, reference.words, is_framed=reference.is_framed)
        for reference in image.references
    )
    shown = references[image.references.index(image.shown)]
    return replace(image, references=references, shown=shown)
