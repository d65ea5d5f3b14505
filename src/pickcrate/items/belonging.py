"""Which pictures of an item's own page are the item's: told by holding the pages of a list against each other."""

from bisect import bisect_left
from collections import Counter
from collections.abc import Container, Sequence

from msgspec import Struct

from pickcrate.addresses.url import bare_stem, origin, page_address
from pickcrate.values.image import Image
from pickcrate.values.item import ItemForm


class ItemPage(Struct, frozen=True):
    """The own page of an item, with what the list showed of the item, and the pictures of the page."""

    addresses: frozenset[str]
    """where the list says that it is, and where it was found"""
    thumbnails: tuple[Image, ...]
    images: tuple[Image, ...]


def strangers(pages: Sequence[ItemPage], on_list: Container[str]) -> dict[int, str]:
    """Return why pictures of item pages are not their items', by the numbers of those that are not.

    What stands in the frame of a page, dresses it, is on the pages of several items or on the list itself (its
    addresses are ``on_list``), or is of another thing (a strip of related ones), is not the item's. What the list
    showed of the item, in whatever size, is.
    """
    folders = _own_folders(pages)
    alone = [
        (page, image)
        for page, folder in zip(pages, folders, strict=True)
        for image in page.images
        if not _of_another(image, page, folder)
    ]
    often = Counter(address for address, _ in {(image.shown.url, page.addresses) for page, image in alone})
    found: dict[int, str] = {}
    for page, folder in zip(pages, folders, strict=True):
        kin = {bare_stem(thumbnail.shown.url) for thumbnail in page.thumbnails}
        for image in page.images:
            other = _of_another(image, page, folder)
            if reason := other or _why_not(image, kin, often[image.shown.url], on_list):
                found[image.number] = reason
    return found


def _why_not(image: Image, kin: set[str], pages: int, on_list: Container[str]) -> str:
    if bare_stem(image.shown.url) in kin or bare_stem(image.url) in kin:
        return ""
    if image.shown.is_framed:
        return "in the frame of its page"
    if image.furniture:
        return f"it dresses its page: {image.furniture}"
    if pages > 1:
        return f"on the pages of {pages} items"
    return "on the list itself" if image.shown.url in on_list else ""


def _own_folders(pages: Sequence[ItemPage]) -> list[str]:
    """Return the folder that each item's page has for itself; empty if other items' pages are in it as well.

    What is in it is the item's: the pages of the pictures of an album.
    """
    if len(pages) == 1:
        return [""]
    ordered = sorted((address, place) for place, page in enumerate(pages) for address in page.addresses)
    folders: list[str] = []
    for place, page in enumerate(pages):
        folder = max((_folder(address) for address in page.addresses), key=len)
        start = bisect_left(ordered, (folder, 0))
        # In order, what is in a folder stands together: one more than the page's own tells whether others are there.
        inside = (entry for entry in ordered[start : start + len(page.addresses) + 1] if entry[0].startswith(folder))
        folders.append(folder if all(owner == place for _, owner in inside) else "")
    return folders


def _folder(address: str) -> str:
    """Return the folder that an address is in, with the slash at its end; of a site's front page that is the site."""
    path = address.partition("?")[0]
    return f"{path.rpartition('/')[0]}/" if len(path) > len(origin(address)) else f"{path}/"


def _of_another(image: Image, page: ItemPage, folder: str) -> str:
    """Return what a picture is of, if that is a thing with a page of its own that is neither this one nor below it."""
    item = image.item
    if not item.url or item.form is ItemForm.PAGE or page_address(item.url) in page.addresses:
        return ""
    if folder and item.url.startswith(folder):
        return ""
    return f"of another thing, {item.title or item.url}"
