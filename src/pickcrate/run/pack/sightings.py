"""What a run sees of pages, for the crate: what it has of them that is gone, and what was left out measures."""

from collections import deque
from collections.abc import Iterator
from datetime import UTC, datetime

from pickcrate.addresses.url import brief, is_web
from pickcrate.crate.entry import VERSION_MARK
from pickcrate.crate.ledger import Ledger
from pickcrate.run.events import Found, ListEnd, ListOpened, LookEvent, NextPagesRead, PageRead, SinceLast
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measures

_MOST_MEASURED = 100_000
"""Pictures that are left out before the crate is opened: of more the last ones are written down."""

_WHOLE = frozenset((ListEnd.LAST, ListEnd.NOTHING_NEW))
"""the ends of lists that were read to their last pages"""


class Sightings:
    """The pages that one run reads, and the addresses that they have. Of lists nothing is remembered."""

    def __init__(self, *, is_on: bool) -> None:
        self.is_on = is_on
        """whether it is of any use: a new crate has nothing that may be gone"""
        self._pages: set[str] = set()
        self._sees_all = True
        """whether lists were read to their ends: else what new entries have pushed on may be on a later page"""
        self._addresses: set[str] = set()
        self.measured = deque[tuple[str, Measures]](maxlen=_MOST_MEASURED)
        """what pictures measure that were left out, until it is written down"""
        self.has_source = False
        """whether a page or a list was read, and not the crate itself"""
        self.new = self.changed = self.larger = 0
        self.doubles: list[tuple[int, int]] = []
        """rows of this run with the bytes of an earlier row: that row, and theirs"""

    def through(self, events: Iterator[LookEvent]) -> Iterator[LookEvent]:
        """Yield events, each taken down."""
        for event in events:
            self.note(event)
            yield event

    def note(self, event: LookEvent) -> None:
        """Take down what a page has, whatever criteria say of it."""
        self.has_source |= isinstance(event, PageRead | ListOpened)
        if isinstance(event, Found) and not event.image.is_picked:
            self._note_measured(event.image)
        if not self.is_on:
            return
        if isinstance(event, NextPagesRead) and event.end not in _WHOLE:
            self._sees_all = False
        if isinstance(event, PageRead):
            self._pages.add(brief(event.address))
        elif isinstance(event, Found) and self._pages:
            image = event.image
            self._pages.add(brief(image.shown.page))
            self._addresses.update(brief(reference.url) for reference in image.references)
            self._addresses.update(brief(candidate.url) for candidate in image.candidates)

    def _note_measured(self, image: Image) -> None:
        """Take down what a picture measures that is left out by its first bytes, which are not asked for again."""
        width = image.best.measures.width
        if width is not None and width.grade is Grade.PROBED and is_web(image.url):
            self.measured.append((brief(image.url), image.best.measures))

    def note_page(self, address: str) -> None:
        """Take down an earlier address of a page that was read."""
        self._pages.add(address)

    def summary(self, ledger: Ledger) -> SinceLast:
        """Return what is new, changed and gone, and write down what is gone."""
        absent: dict[int, bool] = {}
        """rows that the pages are without, and whether they were before"""
        back: list[int] = []
        if self._pages:
            columns = ("seq", "page", "gone_at", "address", "url", "shown_url")
            for seq, page, gone_at, address, *others in ledger.held(columns):
                if page not in self._pages:
                    continue
                known = (str(address).partition(VERSION_MARK)[0], *others)
                is_there = not self._addresses.isdisjoint(known)
                if is_there and gone_at:
                    back.append(int(str(seq)))
                elif not is_there:
                    absent[int(str(seq))] = bool(gone_at)
        for old, new in self.doubles:
            if absent.pop(old, None) is not None:  # it is there under another address
                ledger.come_again(old, new)
                self.new -= 1
        gone = [seq for seq, was_gone in absent.items() if not was_gone] if self._sees_all else []
        if gone or back:
            ledger.note_gone(gone, back, datetime.now(UTC).isoformat(timespec="seconds"))
        return SinceLast(self.new, self.changed, self.larger, len(gone))
