"""What the crate that a run packs into knows of addresses already: nobody is asked for their first bytes once more."""

from collections.abc import Container, Iterable
from functools import cached_property

from pickcrate.addresses.url import brief, page_address
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.crate.store import measures_of
from pickcrate.orders.order import Destination, Order
from pickcrate.run.placing import likely_root
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate
from pickcrate.values.measures import Measures
from pickcrate.values.wanted import Again


class Holdings:
    """The pictures of the crate that an order goes on in, for a run that does not ask again for what it has.

    The crate is looked for when something is asked of it, and its ledger read from time to time, while the same run
    fills it. Each question raises CrateError where it cannot be read.
    """

    def __init__(self, into: Destination, order: Order) -> None:
        self._into = into
        self._order = order
        self._thumbnails: dict[str, str] | None = None

    @cached_property
    def _places(self) -> Places | None:
        root = likely_root(self._into, self._order) if self._order.again is Again.SKIP else None
        return Places(root) if root is not None else None

    def measures(self, urls: Iterable[str]) -> dict[str, Measures]:
        """Return what the files turned out to be that came, or were left out, from addresses."""
        if self._places is None:
            return {}
        with LedgerReader.opened(self._places) as ledger:
            found = {url: self._measures(ledger, brief(url)) for url in urls}
        return {url: measures for url, measures in found.items() if measures is not None}

    def _measures(self, ledger: LedgerReader, address: str) -> Measures | None:
        """Return what an address brings: by the file that came, or by its first bytes where that was left out."""
        entry = ledger.find(address)
        if entry is not None and _is_held(entry):
            return measures_of(entry)
        if self._order.manners.fresh:  # of what was left out the crate has no file
            return None
        return measures_of(entry) if entry is not None and _is_left_out(entry) else ledger.measured(address)

    def originals(self, shown: Iterable[str]) -> dict[str, Candidate]:
        """Return what the crate has in full size of some thumbnails, by their addresses."""
        if self._places is None:
            return {}
        with LedgerReader.opened(self._places) as ledger:
            if self._thumbnails is None:
                self._thumbnails = ledger.thumbnails()
            addresses = {url: self._thumbnails.get(brief(url)) for url in shown}
            rows = {url: ledger.find(address) for url, address in addresses.items() if address is not None}
        return {
            url: Candidate(entry.web_address, Evidence(Basis.LISTED, entry.evidence), measures_of(entry))
            for url, entry in rows.items()
            if entry is not None and _is_held(entry)
        }

    def has_page(self, address: str, lists: Container[str]) -> bool:
        """Tell whether the crate has the pictures from an item's page, as far as they were wanted.

        ``lists`` are the pages that the item stands on: a picture from there is its thumbnail.
        """
        page = self._pages.get(page_address(brief(address)))
        return page is not None and page not in lists

    @cached_property
    def _pages(self) -> dict[str, str]:
        """The pages whose pictures it has, by their addresses, and by those that lists have for them."""
        if self._places is None:
            return {}
        pages: dict[str, str] = {}
        with LedgerReader.opened(self._places) as ledger:
            for page, item_url in ledger.finished_pages():
                pages[page_address(page)] = page
                if item_url is not None:
                    pages.setdefault(page_address(item_url), page)
        return pages


def _is_held(entry: Entry) -> bool:
    """Tell whether the file of a row is what its address brings, and no smaller version that stands in for that."""
    return entry.state == State.HELD and entry.width is not None and not entry.sought


def _is_left_out(entry: Entry) -> bool:
    """Tell whether the file that an address brings was left out, once it was seen."""
    return entry.state == State.LEFT_OUT and entry.width is not None and entry.url == entry.address
