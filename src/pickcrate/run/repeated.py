"""Pictures that turn out to be one file: a page shows it cut to several shapes, and the address behind each is one."""

from enum import StrEnum

from msgspec.structs import replace

from pickcrate.values import Image, Ruling, Verdict


class DroppedAs(StrEnum):
    """What a look drops a picture as, besides criteria."""

    REPEATED = "repeated"
    """another picture of the source is the same file"""


def each_once(images: list[Image]) -> list[Image]:
    """Return ``images``; of those that would be fetched from one address all are dropped but one.

    The first of those that stand in an item is kept, or else the first.
    """
    kept: dict[str, Image] = {}
    for image in images:
        if image.is_picked and not image.best.tiles:
            known = kept.setdefault(image.url, image)
            if image.item.title and not known.item.title:
                kept[image.url] = image
    return [_kept_as(image, kept[image.url]) if image.url in kept else image for image in images]


def _kept_as(image: Image, kept: Image) -> Image:
    if image is kept or not image.is_picked:
        return image
    verdict = Verdict(DroppedAs.REPEATED, Ruling.DROP, f"the same file as picture {kept.number}")
    return replace(image, verdicts=(*image.verdicts, verdict))
