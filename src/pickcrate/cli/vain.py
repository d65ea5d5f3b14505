"""Which options had nothing to work on in a run: a slip of the pen would change nothing, and nobody would know."""

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, TypeVar

from pickcrate.cli.terminal import Out
from pickcrate.run.events import Found, ListOpened, NextPagesRead
from pickcrate.values import Image

if TYPE_CHECKING:
    from pickcrate.run.order import Order

E = TypeVar("E")

_SAID = {
    "raw": "--raw: nothing that it matches is an address",
    "attr": "--attr: no element has such an attribute, with an address in it",
    "rule": "--rule: no address is as it says",
    "column": "--column: it names columns of lists, and there is none here",
    "next-pages": "--next-pages: there is no list here that goes on",
}


class Vain:
    """The options of an order that nothing has come of yet."""

    def __init__(self, order: "Order | None") -> None:
        self._options = {option for option, given in _asked_in(order) if given} if order is not None else set()
        self._rules = order.rules if order is not None else ()
        self._has_pictures = False

    def through(self, events: Iterable[E]) -> Iterator[E]:
        """Yield events, and take note of what comes of the options."""
        for event in events:
            if self._options:
                self._note(event)
            yield event

    def _note(self, event: object) -> None:
        match event:
            case Found(image):
                self._has_pictures = True
                self._options -= {reference.found_in for reference in image.references}
                if "rule" in self._options and self._is_ruled(image):
                    self._options.remove("rule")
            case ListOpened():
                self._options.discard("column")
            case NextPagesRead():
                self._options.discard("next-pages")
            case _:
                pass

    def _is_ruled(self, image: Image) -> bool:
        urls = [reference.url for reference in image.references]
        return any(rule.apply(url) is not None for rule in self._rules for url in urls)

    def print_to(self, out: Out) -> None:
        """Say which options changed nothing, of a run that found pictures: of another there is more to say."""
        for option, words in _SAID.items():
            if option in self._options and self._has_pictures:
                out.line((words, "yellow"))


def _asked_in(order: "Order") -> Iterator[tuple[str, object]]:
    """Yield what an order says of each option; nothing true for one that is not given."""
    yield "raw", order.asked.patterns
    yield "attr", order.asked.attributes
    yield "rule", order.rules
    yield "column", order.columns
    yield "next-pages", order.next_pages
