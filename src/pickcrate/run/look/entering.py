"""From a list to its items: the page of each is read, in batches, and its pictures take the place of the thumbnail."""

from collections.abc import Callable, Generator, Iterator, Mapping

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.addresses.url import brief, page_address
from pickcrate.errors import PickCrateError
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.items.belonging import ItemPage, strangers
from pickcrate.read.recognise import DATA, Kind
from pickcrate.run.events import ItemPageRead, ItemPagesRead, SourceFailed
from pickcrate.run.sources.opened import Expected, Opened
from pickcrate.run.sources.opening import opened_reply
from pickcrate.run.survey.asking import MOST_OF_A_PART, onward_request
from pickcrate.values.image import Image
from pickcrate.values.item import Item, ItemForm
from pickcrate.values.trust import Asker

_AT_A_TIME = 16
_IN_CRATE = "the crate has the pictures from its item's page"
_LEAST_PICTURED = 2
_OF_ITEMS = DATA | {Kind.PAGE, Kind.PDF}
"""what the own page of an item may be"""

_DEEPEST = 9
"""Folders in one another that a listing of files is gone into."""


class Held(Struct, frozen=True):
    """What an item's page holds: its images, and the folders that it lists, where it is a listing of files."""

    images: list[Image]
    folders: list[Item]


ReadPage = Callable[[Opened, int], Held]
"""Returns what an item's page holds, its images numbered from a number on."""


class Entered(Struct):
    """What became of a list's items: the images of the list, and of each page that was read."""

    images: list[Image]
    pages: list[list[Image]] = field(default_factory=list)
    failures: list[SourceFailed] = field(default_factory=list)
    items: int = 0
    known: int = 0

    @property
    def summary(self) -> ItemPagesRead:
        """What is to be said of it."""
        wanted = sum(not image.stranger for images in self.pages for image in images)
        return ItemPagesRead(self.items, len(self.pages), wanted, self.known)


Entering = Generator[ItemPageRead, None, Entered]
"""Yields after each page how far it is; returns what became of the items."""


class OnList(Struct, frozen=True):
    """What a page of a list showed: its images, its entries, who asks for what they lead to."""

    images: list[Image]
    entries: list[Item]
    asker: Asker
    source: str
    number: int
    """of the first of its images"""
    beside: set[str]
    """what items of its earlier pages had beside them; it grows"""
    gone_to: set[str]
    """the own pages of items of its earlier pages; it grows"""
    may_be_read: Callable[[str], bool] = lambda _: True
    """whether there may be a page at an address: a record has what it has"""
    is_known: Callable[[str], bool] = lambda _: False
    """whether the crate has the pictures from a page, which is passed over then"""
    is_of_answers: bool = False
    """whether it is the answer of an interface for programs, so that others of those are asked for"""

    @property
    def first_free(self) -> int:
        """The number of the next image, behind its own."""
        return self.number + len(self.images)


class _Entry(Struct, frozen=True):
    """One item of a list with a page of its own, and the thumbnails that the list has of it."""

    item: Item
    asker: Asker
    thumbnails: tuple[Image, ...] = ()
    depth: int = 1
    """of a folder, how many listings it is below the list"""

    @property
    def address(self) -> str:
        """Of its own page, which is read once, whatever part of it a link leads to."""
        return page_address(self.item.url)

    @property
    def is_wanted(self) -> bool:
        """Whether no criterion has dropped all that the list shows of it."""
        return not self.thumbnails or any(image.is_picked for image in self.thumbnails)


def enter_items(on_list: OnList, limit: int, fetcher: Fetcher, read: ReadPage) -> Entering:
    """Yield how far it is; return the images of a list and those of the pages of its first ``limit`` items.

    They are numbered on. Of a page only what is the item's is kept; the thumbnail gives way to it. An item whose
    page cannot be had, or shows nothing of its own, keeps its thumbnail. Folders in a folder of a listing of files
    are items as it is.
    """
    entries = [entry for entry in _by_address(on_list) if on_list.may_be_read(entry.address)]
    ahead = [entry for entry in entries if entry.is_wanted and entry.address not in on_list.gone_to]
    known = {entry.address: entry.thumbnails for entry in ahead if on_list.is_known(entry.address)}
    wanted = [entry for entry in ahead if entry.address not in known][:limit]
    entered = Entered(on_list.images, known=len(known))
    pages = yield from _pages(on_list, wanted, limit, fetcher, read, entered)
    entered.items = len(wanted)
    compared = [page for _, page in pages]
    if len(pages) == 1:  # what every page shows is told from two: the next item's is looked at as well
        witness = [entry for entry in entries if entry is not wanted[0]][:1]
        number = on_list.first_free + len(compared[0].images)
        further = _opened(witness, on_list, fetcher, Entered([]))
        compared += [_page(entry, opened, read(opened, number)) for entry, opened in further if opened is not None]
    others = strangers(compared, on_list.beside | {image.shown.url for image in on_list.images})
    on_list.beside.update(image.shown.url for _, page in pages for image in page.images if image.number in others)
    entered.pages = [[_told(image, entry.item, others) for image in page.images] for entry, page in pages]
    replaced = _replaced([page for _, page in pages], others)
    replaced |= {image.number: _IN_CRATE for thumbnails in known.values() for image in thumbnails}
    entered.images = [replace(image, stranger=replaced.get(image.number, "")) for image in on_list.images]
    return entered


def _pages(
    on_list: OnList, wanted: list[_Entry], limit: int, fetcher: Fetcher, read: ReadPage, entered: Entered
) -> Generator[ItemPageRead, None, list[tuple[_Entry, ItemPage]]]:
    """Yield how far it is; return the items that have a page, with it.

    The folders in a folder are added to ``wanted``, as far as ``limit`` allows.
    """
    on_list.gone_to.update(entry.address for entry in wanted)
    pages: list[tuple[_Entry, ItemPage]] = []
    number = on_list.first_free
    for done, (entry, opened) in enumerate(_opened(wanted, on_list, fetcher, entered), 1):
        yield ItemPageRead(done, len(wanted))
        if opened is None:
            continue
        held = read(opened, number)
        number += len(held.images)
        pages.append((entry, _page(entry, opened, held)))
        inside = _inside(entry, opened, held)
        new = [one for one in inside if one.address not in on_list.gone_to and on_list.may_be_read(one.address)]
        taken = new[: limit - len(wanted)]
        wanted += taken
        on_list.gone_to.update(one.address for one in taken)
    return pages


def _replaced(pages: list[ItemPage], others: Mapping[int, str]) -> dict[int, str]:
    """Return why thumbnails give way, by their number: the pages of their items have pictures of those."""
    reasons: dict[int, str] = {}
    for page in pages:
        if own := sum(image.number not in others for image in page.images):
            reason = f"its item's page has {own} picture{'' if own == 1 else 's'} of it"
            reasons |= dict.fromkeys((thumbnail.number for thumbnail in page.thumbnails), reason)
    return reasons


def _page(entry: _Entry, opened: Opened, held: Held) -> ItemPage:
    return ItemPage(_addresses(entry, opened), entry.thumbnails, tuple(held.images))


def _inside(entry: _Entry, opened: Opened, held: Held) -> list[_Entry]:
    """Return the folders in a folder, called by their way from the list."""
    if entry.item.form is not ItemForm.FOLDER or entry.depth >= _DEEPEST:
        return []
    asker = replace(entry.asker, page=opened.address)
    named = (replace(folder, title=f"{entry.item.title}/{folder.title}") for folder in held.folders)
    return [_Entry(folder, asker, depth=entry.depth + 1) for folder in named]


def _told(image: Image, item: Item, others: Mapping[int, str]) -> Image:
    """Return a picture of an item's page as the item's, or with what says that it is not."""
    if image.number in others:
        return replace(image, stranger=others[image.number])
    return _of(image, item)


def _by_address(on_list: OnList) -> list[_Entry]:
    """Return the items of a list that have a page of their own, each once, in the order of the list.

    Entries that show no picture are among them where the pictures' items are entries as well, or there are none.
    What several items lead to is the own page of none: a catalogue, a search.
    """
    pictured: dict[str, list[Image]] = {}
    for image in on_list.images:
        is_thumbnail = not (image.shown.is_framed or image.furniture or image.item.form is ItemForm.PAGE)
        if is_thumbnail and image.item.url:
            pictured.setdefault(page_address(image.item.url), []).append(image)
    pictured = {url: shown for url, shown in pictured.items() if len({image.item.title for image in shown}) == 1}
    found = {url: _Entry(shown[0].item, shown[0].asker, tuple(shown)) for url, shown in pictured.items()}
    in_words = {entry.url: _Entry(entry, on_list.asker) for entry in on_list.entries}
    if len(found) < _LEAST_PICTURED or 2 * len(found.keys() & in_words.keys()) >= len(found):
        ordered = {url: found.get(url, entry) for url, entry in in_words.items()}
        return list((ordered | found).values())
    return list(found.values())


def _opened(
    entries: list[_Entry], on_list: OnList, fetcher: Fetcher, entered: Entered
) -> Iterator[tuple[_Entry, Opened | None]]:
    """Yield each item, in the order of the list, with its page; None if that cannot be had.

    ``entries`` may grow meanwhile.
    """
    expected = Expected(MOST_OF_A_PART, takes_data=True)
    at = 0
    while batch := entries[at : at + _AT_A_TIME]:
        at += len(batch)
        requests = [onward_request(entry.address, entry.asker, is_of_answers=on_list.is_of_answers) for entry in batch]
        replies = {_asked(reply.request): reply for reply in fetcher.fetch(requests) if isinstance(reply, Reply)}
        for request, entry in zip(requests, batch, strict=True):
            opened = None
            if (reply := replies.get(_asked(request))) is not None:
                try:
                    opened = opened_reply(brief(request.url), reply, expected)
                except PickCrateError as error:
                    entered.failures.append(SourceFailed(brief(request.url), error))
            is_page = opened is not None and opened.kind in _OF_ITEMS
            yield entry, replace(opened, source=on_list.source) if opened is not None and is_page else None


def _asked(request: Request) -> tuple[str, str]:
    return request.url, request.fragment


def _addresses(entry: _Entry, opened: Opened) -> frozenset[str]:
    """Return where an item's page is: it may have been found elsewhere than where the list says."""
    return frozenset((entry.address,) if "#" in entry.address else (entry.address, page_address(opened.address)))


def _of(image: Image, item: Item) -> Image:
    """Return a picture of an item's page as one of the item that the list shows; one without a name adds nothing."""
    if not item.title:
        return image
    references = tuple(replace(reference, item=_completed(item, reference.item)) for reference in image.references)
    shown = references[image.references.index(image.shown)]
    return replace(image, references=references, shown=shown)


def _completed(item: Item, own: Item) -> Item:
    """Return the item that a list shows, with what its own page says of it besides."""
    if own.form is not ItemForm.PAGE and own.title.casefold() != item.title.casefold():
        return item
    told = {name for name, _ in item.columns}
    further = (column for column in own.columns if column[0] not in told)
    return replace(item, columns=(*item.columns, *further))
