"""From a page to its references. A new place where pictures hide is one module here and one row of FINDERS."""

from collections.abc import Iterator

from pickcrate.find import images, links
from pickcrate.find.place import HEADINGS, Finder, Place, Walk
from pickcrate.values import Page, Reference

FINDERS: tuple[Finder, ...] = (images.IMG, images.SOURCE, links.LINK)

_BY_TAG: dict[str, list[Finder]] = {}
for _finder in FINDERS:
    for _tag in _finder.tags:
        _BY_TAG.setdefault(_tag, []).append(_finder)
_SELECTOR = ", ".join((*_BY_TAG, *HEADINGS))


def find(page: Page) -> Iterator[Reference]:
    """Yield every reference to an image in ``page``, in document order."""
    walk = Walk(page)
    for node in page.tree.css(_SELECTOR):
        tag = node.tag or ""
        if tag in HEADINGS:
            walk.heading = walk.text(node)
            continue
        place = Place.of(walk, node)
        for finder in _BY_TAG[tag]:
            yield from finder.find(place)
