"""Pictures that turn out to be one file: a page shows it cut to several shapes, and the address behind each is one."""

from enum import StrEnum

from msgspec.structs import replace

from pickcrate.fullsize.description import service_of
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate, Image, Ruling, Verdict


class DroppedAs(StrEnum):
    """What a look drops a picture as, besides criteria."""

    REPEATED = "repeated"
    """another picture of the source is the same file"""


def each_once(images: list[Image]) -> list[Image]:
    """Return ``images``; of those that would be fetched from one address all are dropped but one.

    The first of those that stand in an item is kept, or else the first; the others are versions of it. So it is with
    the tiles of one picture, which a viewer shows side by side.
    """
    kept: dict[str, Image] = {}
    alike: dict[str, list[Image]] = {}
    for image in images:
        if image.is_picked:
            source = _source(image)
            alike.setdefault(source, []).append(image)
            known = kept.setdefault(source, image)
            if image.item.title and not known.item.title:
                kept[source] = image
    repeated = {source: of_one for source, of_one in alike.items() if len(of_one) > 1}
    if not repeated:
        return images
    return [
        _told(image, kept[source], repeated[source])
        if image.is_picked and (source := _source(image)) in repeated
        else image
        for image in images
    ]


def _source(image: Image) -> str:
    """Return the address that an image would be fetched from, or that of the description of its tiles.

    The whole of a picture is called ``full`` and ``max`` (IIIF Image API 2.1, 4.2).
    """
    url = image.url
    return url.replace("/full/full/", "/full/max/") if "/full/full/" in url and service_of(url) else url


def _told(image: Image, kept: Image, alike: list[Image]) -> Image:
    if image is not kept:
        verdict = Verdict(DroppedAs.REPEATED, Ruling.DROP, f"the same file as picture {kept.number}")
        return replace(image, verdicts=(*image.verdicts, verdict))
    known = {candidate.url for candidate in image.candidates}
    shown = dict.fromkeys(other.shown.url for other in alike if other.shown.url not in known)
    further = (Candidate(url, Evidence(Basis.BESIDE)) for url in shown)
    return replace(image, candidates=(*image.candidates, *further))
