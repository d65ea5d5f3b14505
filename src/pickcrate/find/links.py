"""Links to image files from words alone: ``a`` and ``area`` with an ``href`` (HTML standard, 4.6.2)."""

from dataclasses import replace

from pickcrate.addresses import image_type
from pickcrate.find.images import shows_a_picture
from pickcrate.find.literals import EXTENSION
from pickcrate.find.place import Finder, Place
from pickcrate.values import Reference, Role


def _find_link(place: Place) -> list[Reference]:
    if EXTENSION.search(place.get("href")) is None:  # most links; resolving an address costs twenty times as much
        return []
    url = place.resolve(place.get("href"))
    if url is None or image_type(url) is None or shows_a_picture(place.node):
        return []
    prototype = place.prototype("link", cluster=place.node, role=Role.LINK)
    words = replace(prototype.words, link_text=place.walk.text(place.node))
    reference = place.at(replace(prototype, words=words), "href", place.get("href"))
    return [reference] if reference is not None else []


LINK = Finder(_find_link, tags=("a", "area"))
