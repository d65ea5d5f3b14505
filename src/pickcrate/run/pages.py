"""The one door for pages: those that the user names, frames, and what is behind a thumbnail.

From a request to a reply to a page, with its encoding, its rights, its trust and its limits, whoever asks for it.
"""

from pickcrate.addresses import absolute
from pickcrate.fetch.exchange import Reply, Request
from pickcrate.read.document import read_document
from pickcrate.read.oembed import read_photo
from pickcrate.read.recognise import Kind, recognise
from pickcrate.values import Asker, Page, Reference

PAGE_ACCEPT = "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8"
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


def onward_request(address: str, asker: Asker) -> Request:
    """Return the request for a page that we follow on our own: of an item, or a further one of a list."""
    return Request(
        address,
        accept=PAGE_ACCEPT,
        referer=asker.page,
        trust=asker.trust,
        most=MOST_OF_A_PART,
        asks_anew=True,
        is_visit=True,
    )


def read_page(reply: Reply, *, source: str, base: str = "") -> Page | None:
    """Return the page that came; None if it is none. What it says of robots and rights stands in it."""
    if reply.failure is not None or recognise(reply.octets) is not Kind.PAGE:
        return None
    return read_document(
        reply.octets,
        source=source,
        address=reply.url,
        base=base,
        fields=reply.headers,
        trust=reply.trust,
    )


def photo_reference(reply: Reply, page: str, cluster: int) -> Reference | None:
    """Return the picture that an oEmbed answer tells of ``page``; None if it tells none."""
    photo = read_photo(reply.octets)
    url = absolute(photo.url, reply.url) if photo is not None else None
    if photo is None or url is None:
        return None
    return Reference(url, photo.url, page, "meta", reply.url, "content", cluster, width=photo.width, trust=reply.trust)
