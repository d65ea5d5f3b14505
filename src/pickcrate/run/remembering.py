"""From a ledger's row back to a picture, as far as the ledger knows it."""

from pickcrate.crate.ledger import Entry
from pickcrate.crate.store import measures_of
from pickcrate.values import AS_SHOWN, Basis, Candidate, Evidence, Image, Reference, Trust, Words


def remembered(entry: Entry, number: int) -> Image:
    """Return the picture that ``entry`` is of; its best address is the one it was asked for by."""
    shown = Reference(
        url=entry.shown_url or entry.web_address,
        raw=entry.web_address,
        page=entry.page,
        found_in="list",
        element="",
        attribute="",
        cluster=number,
        words=Words(alt=entry.alt, caption=entry.caption),
        trust=Trust(private=True),  # it was fetched before, and its owner asks for it again
    )
    urls = dict.fromkeys(url for url in (entry.web_address, entry.url, entry.shown_url) if url)
    measures = measures_of(entry)
    evidence = Evidence(Basis.LISTED, entry.evidence) if entry.evidence else AS_SHOWN
    candidates = tuple(Candidate(url, evidence, measures) for url in urls)
    return Image(number=number, source="crate", shown=shown, references=(shown,), candidates=candidates)
