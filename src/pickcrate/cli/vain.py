"""Which options had nothing to work on in a run: a slip of the pen would change nothing, and nobody would know."""

from collections.abc import Callable, Collection, Iterable, Iterator
from typing import TYPE_CHECKING, TypeVar

from msgspec import Struct

from pickcrate.addresses.url import is_web
from pickcrate.cli.terminal import Out
from pickcrate.fullsize.viewer import leads_to_page
from pickcrate.run.events import Found, ListOpened, NextPagesRead, PageRead
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image

if TYPE_CHECKING:
    from pickcrate.orders.order import Order

E = TypeVar("E")


class _Option(Struct, frozen=True):
    """An option that needs something to work on: what an order says of it, and what is told where it had nothing."""

    given: "Callable[[Order], object]"
    in_vain: str


_OPTIONS = {
    "raw": _Option(lambda order: order.asked.patterns, "--raw: nothing that it matches is an address"),
    "attr": _Option(
        lambda order: order.asked.attributes, "--attr: no element has such an attribute, with an address in it"
    ),
    "rule": _Option(lambda order: order.rules, "--rule: no address is as it says"),
    "column": _Option(lambda order: order.columns, "--column: it names columns of lists, and there is none here"),
    "next-pages": _Option(lambda order: order.next_pages, "--next-pages: there is no list here that goes on"),
    "list-of": _Option(lambda order: order.lists_pages, "--list-of pages: there is no list here"),
    "through": _Option(lambda order: order.through, "--through: no thumbnail here leads to a page"),
    "within": _Option(lambda order: order.criteria.region.within, "--within: it is for pages, and there is none here"),
    "under": _Option(lambda order: order.criteria.region.under, "--under: it is for pages, and there is none here"),
    "browser": _Option(
        lambda order: order.browsing.is_on, "--browser: it visits pages on the web, and there is none here"
    ),
}
"""the first two under the names of what they find"""


class Vain:
    """The typed options of an order that nothing has come of yet; what stands in a file is meant for other runs too."""

    def __init__(self, order: "Order | None", typed: Collection[str]) -> None:
        given = (name for name, option in _OPTIONS.items() if order is not None and option.given(order))
        self._options = {name for name in given if name.replace("-", "_") in typed}
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
                if image.shown.found_in is not FoundIn.LIST:
                    self._options -= {"within", "under"}
                if "rule" in self._options and self._is_ruled(image):
                    self._options.remove("rule")
                if "through" in self._options and _leads_on(image):
                    self._options.remove("through")
            case ListOpened():
                self._options -= {"column", "list-of"}
            case NextPagesRead():
                self._options.discard("next-pages")
            case PageRead(address=address) if is_web(address):
                self._options.discard("browser")
            case _:
                pass

    def _is_ruled(self, image: Image) -> bool:
        urls = [reference.url for reference in image.references]
        return any(rule.apply(url) is not None for rule in self._rules for url in urls)

    def print_to(self, out: Out) -> None:
        """Say which options changed nothing, of a run that found pictures: of another there is more to say."""
        for name, option in _OPTIONS.items():
            if name in self._options and self._has_pictures:
                out.line((option.in_vain, "yellow"))


def _leads_on(image: Image) -> bool:
    """Tell whether a thumbnail leads to a page, or its larger version was found on one."""
    return bool(leads_to_page(image)) or any(candidate.evidence.behind for candidate in image.candidates)
