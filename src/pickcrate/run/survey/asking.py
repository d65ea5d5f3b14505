"""The requests for pages: those that a person names, and those that we follow on our own."""

from pickcrate.fetch.exchange import Request
from pickcrate.values.trust import Asker

PAGE_ACCEPT = "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8"
DATA_ACCEPT = "application/json,application/xml;q=0.9,*/*;q=0.8"
MOST_OF_A_PART = 16_000_000
"""Bytes of a document that we follow on our own, and of any other part of a page."""


def page_request(address: str, asker: Asker, *, typed: bool) -> Request:
    """Return the request for a page that a person named: by typing its address, or in a list."""
    return Request(
        address,
        accept=PAGE_ACCEPT,
        referer=asker.page,
        named=True,
        trust=asker.trust,
        typed=typed,
        asks_anew=True,
        is_visit=True,
    )


def onward_request(address: str, asker: Asker, *, is_of_answers: bool = False) -> Request:
    """Return the request for a page that we follow on our own: of an item, or a further one of a list.

    Behind an answer of an interface for programs it is for another answer, where there is one.
    """
    url, _, fragment = address.partition("#")
    return Request(
        url,
        fragment=fragment,
        accept=DATA_ACCEPT if is_of_answers else PAGE_ACCEPT,
        referer=asker.page,
        trust=asker.trust,
        most=MOST_OF_A_PART,
        asks_anew=True,
        is_visit=True,
    )
