"""The one door for pages: those that the user names, frames, and what is behind a thumbnail.

From a request to a reply to a page, with its encoding, its rights, its trust and its limits, whoever asks for it.
"""

from pickcrate.addresses.url import absolute
from pickcrate.fetch.exchange import Reply
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.oembed import read_photo
from pickcrate.read.recognise import Kind, recognise
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference


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
    return Reference(
        url, photo.url, page, FoundIn.META, reply.url, "content", cluster, width=photo.width, trust=reply.trust
    )
