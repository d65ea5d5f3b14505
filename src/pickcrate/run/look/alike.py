"""Twins on a page, before anything is fetched: what it shows of its pictures is compared, and the best is kept."""

from msgspec.structs import replace

from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.media.header import read_header, sides_of
from pickcrate.twins.fingerprint import Fingerprint, fingerprint
from pickcrate.twins.likeness import TWINS, Likeness, by_fingerprint, look_the_same
from pickcrate.twins.search import Index
from pickcrate.values.image import Image, Ruling, Verdict
from pickcrate.values.outcome import LeftOutBy

_MOST = 2_000
"""Pictures of a page that are compared."""

_MOST_NEAR = 8


def without_twins(images: list[Image], fetcher: Fetcher) -> list[Image]:
    """Return ``images``, those that a better one of them is a twin of dropped; as far as what is shown tells."""
    picked = [image for image in images if image.is_picked][:_MOST]
    requests = {
        image.shown.url: Request(image.shown.url, referer=image.asker.page, trust=image.asker.trust) for image in picked
    }
    octets = {
        reply.request.url: reply.octets
        for reply in fetcher.fetch(requests.values())
        if isinstance(reply, Reply) and reply.failure is None
    }
    index, best = Index(), list[tuple[Image, Fingerprint]]()
    dropped: dict[int, Verdict] = {}
    sizes = {image.number: _pixels(image, octets.get(image.shown.url, b"")) for image in picked}
    for image in sorted(picked, key=lambda image: (-sizes[image.number], image.number)):
        shown = octets.get(image.shown.url, b"")
        found = fingerprint(shown)
        if found is None:
            continue
        near = (best[key] for key in index.near(found, TWINS)[:_MOST_NEAR])
        twin = next((other for other, known in near if _are_twins(found, known, shown, octets[other.shown.url])), None)
        if twin is not None:
            dropped[image.number] = Verdict(
                LeftOutBy.ALIKE, Ruling.DROP, f"like picture {twin.number}, which is better"
            )
        else:
            index.add(len(best), found)
            best.append((image, found))
    return [
        replace(image, verdicts=(*image.verdicts, dropped[image.number])) if image.number in dropped else image
        for image in images
    ]


def _are_twins(one: Fingerprint, other: Fingerprint, octets: bytes, others: bytes) -> bool:
    return by_fingerprint(one, other) is Likeness.TWINS and (octets == others or look_the_same(octets, others))


def _pixels(image: Image, shown: bytes) -> int:
    """Return how large a picture is that would be fetched, as far as is known; else what is shown of it."""
    measures = image.best.measures
    if measures.width is not None and measures.height is not None:
        return measures.width.value * measures.height.value
    sides = sides_of(read_header(shown))
    return sides.pixels if sides is not None else 0
