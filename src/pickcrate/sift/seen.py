"""What the pictures of one page tell of each other: how often, in how many items, beside what, and how large."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterable

from msgspec import Struct

from pickcrate.addresses.url import file_parts, folder_of, is_of_site, is_web
from pickcrate.items.said.posts import Face, face_of
from pickcrate.sift.keyed import Keyed, keyed
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.values.reference import Reference, Role

OFTEN, _BOTH = 3, 2
BUTTON, ICON, BADGE, _AVATAR = 50, 32, 200, 128
"""Pixels, at most: of a button's height, of the sides of an icon, of a badge and of a face."""

_IDS = lazy(r"#[^\s.>]*+")
"""of elements: those of parts of a page are made of its headings"""

_PAYING = lazy(r"\.(?:payments?|pay|checkout|accepted)\b|[-_]payments?\b|\bpayments?[-_]", re.IGNORECASE)


class Seen(Struct, frozen=True):
    """One picture of a page, with what the others tell of it."""

    image: Image
    longer: int | None
    shorter: int | None
    places: int
    """how often the page shows it"""
    items: int
    """in how many items; one of them may be listed twice"""
    is_about: bool
    """it differs from item to item: it is what its item is about"""
    has_larger_beside: bool
    """its item has a picture that is at least twice as large, or whose size nothing says"""
    face: Face
    """whether it is called as that of somebody who wrote, and not large"""
    has_other_beside: bool
    """the same; of what is only perhaps a face, a picture that is none"""
    is_first: bool
    """it is the first that the page shows, and there are not several in such a place"""
    row: int
    """how many low pictures that lead somewhere stand beside it"""
    payments: int = 0
    """how many marks of ways to pay the page shows"""
    keyed: Keyed | None = None
    """what data calls it, beside another picture of its item that it does not call so"""

    @property
    def sides(self) -> tuple[int, int] | None:
        """Its width and its height, if both are known."""
        sides = _sides(self.image)
        return (sides[0], sides[1]) if len(sides) == _BOTH else None

    def is_at_most(self, side: int) -> bool:
        """Tell whether its longer side is known, and no longer."""
        return self.longer is not None and self.longer <= side


class _Sizes(Struct):
    """How large the pictures of one item are."""

    longest: int = 0
    unknown: int = 0

    def add(self, sides: list[int]) -> None:
        """Take a picture's sides into account."""
        self.longest = max(self.longest, *sides, 0)
        self.unknown += not sides

    def has_larger_than(self, sides: list[int], *, is_counted: bool = True) -> bool:
        """Tell whether a picture beside one with such sides, which may be counted itself, may be twice as large."""
        if not sides:
            return self.unknown > is_counted
        return self.unknown > 0 or self.longest >= 2 * max(*sides, 1)


def alone(image: Image) -> Seen:
    """Return what a picture tells of itself."""
    sides = _sides(image)
    longer, shorter = (max(sides), min(sides)) if sides else (None, None)
    return Seen(
        image,
        longer,
        shorter,
        places=1,
        items=0,
        is_about=False,
        has_larger_beside=False,
        face=_face(image, sides),
        has_other_beside=False,
        is_first=False,
        row=0,
    )


def all_seen(images: list[Image]) -> Iterable[Seen]:
    """Yield every picture with what the page's other pictures tell of it."""
    places: dict[str, int] = defaultdict(int)
    items: dict[str, set[Item | tuple[str, str]]] = defaultdict(set)
    of_item: dict[Item, _Sizes] = defaultdict(_Sizes)
    but_faces: dict[Item, _Sizes] = defaultdict(_Sizes)
    faces: dict[int, Face] = {}
    rows: dict[tuple[str, str], int] = defaultdict(int)
    for image in images:
        for reference in image.references:
            if reference.role is Role.SHOWN:
                places[image.url] += reference.is_on_page
                if reference.item is not NO_ITEM:
                    items[image.url].add(_what(reference.item))
        of_item[image.item].add(sides := _sides(image))
        face = faces[image.number] = _face(image, sides)
        if face is Face.NONE:
            but_faces[image.item].add(sides)
        rows[_row(image)] += _is_low(image)
    called = {image.number: keyed(image) for image in images}
    plain = Counter(image.item for image in images if called[image.number] is None)
    payments = sum(map(is_payment, images))
    alike = Counter(image.shown.element for image in images)
    by_rules = Counter((image.item.form, image.item.like) for image in images if _is_by_a_rule(image))
    first = next((image.number for image in images if _is_looked_at(image.shown)), -1)
    for image in images:
        sides = _sides(image)
        item = image.item
        often = len(items[image.url])
        face = faces[image.number]
        has_larger = item is not NO_ITEM and of_item[item].has_larger_than(sides)
        yield Seen(
            image,
            max(sides) if sides else None,
            min(sides) if sides else None,
            places[image.url],
            often,
            is_about=_is_about(item, often)
            and not (is_nameless(item) and leads_away(image))
            and not (_is_by_a_rule(image) and by_rules[item.form, item.like] == 1),
            has_larger_beside=has_larger,
            face=face,
            has_other_beside=item is not NO_ITEM
            and (but_faces[item].has_larger_than(sides, is_counted=False) if face is Face.PERHAPS else has_larger),
            is_first=image.number == first and alike[image.shown.element] < OFTEN,
            row=rows[_row(image)] if _is_low(image) else 0,
            payments=payments,
            keyed=called[image.number] if plain[item] else None,
        )


def name_of(address: str) -> str:
    """Return the last two segments of an address's path, lower case, without its extension."""
    if address.startswith("data:"):
        return ""
    return f"{folder_of(address)}/{file_parts(address)[0]}".casefold()


def _face(image: Image, sides: list[int]) -> Face:
    """Return whether a picture is called as that of somebody who wrote, if it is not known to be large."""
    if sides and max(sides) > _AVATAR:
        return Face.NONE
    classes = _IDS.sub("", image.shown.element).casefold()
    return face_of(classes, f"{name_of(image.url)} {image.shown.words.alt}".casefold(), is_small=bool(sides))


def _is_by_a_rule(image: Image) -> bool:
    """Tell whether a rule of a style sheet lays a picture behind an element: if no other item has one, it dresses."""
    is_of_sheet = image.shown.found_in == FoundIn.CSS and image.shown.attribute != "style"
    return is_of_sheet and image.item.form is not ItemForm.MARKED


def _is_about(item: Item, often: int) -> bool:
    """Tell whether a picture is the one that its item is about: the item repeats, and the picture does not."""
    if item is NO_ITEM or item.form is ItemForm.PAGE or often >= OFTEN:
        return False
    return item.form in {ItemForm.MARKED, ItemForm.DATA, ItemForm.CANVAS} or item.like > often


def _what(item: Item) -> Item | tuple[str, str]:
    """Return what tells things apart: their names and pages, where they have such; one may be listed twice."""
    is_known = item.url or not is_nameless(item)
    return (item.title, item.url) if is_known and item.title else item


def is_free(item: Item) -> bool:
    """Tell whether a picture is in no item but the page itself."""
    return item is NO_ITEM or item.form is ItemForm.PAGE


def is_nameless(item: Item) -> bool:
    """Tell whether an item has no words but those of its picture, if any."""
    return not item.title or item.named_by in {NamedBy.ALT, NamedBy.LABEL}


def leads_away(image: Image) -> bool:
    """Tell whether a picture is a link to another site."""
    link = image.shown.link
    return is_web(link) and not is_of_site(link, image.shown.home)


def _row(image: Image) -> tuple[str, str]:
    """Return what buttons that stand in one row or column have in common: where they stand."""
    return image.shown.page, image.shown.element.rpartition(" > ")[0].rpartition(" > ")[0]


def is_payment(image: Image) -> bool:
    """Tell whether a picture stands where ways to pay are shown."""
    return _PAYING.search(image.shown.element) is not None


def _is_low(image: Image) -> bool:
    """Tell whether a picture is as low and wide as a button, and leads somewhere."""
    sides = image.shown.box
    if not (sides.width and sides.height and image.shown.link):
        return False
    return sides.height <= BUTTON and sides.width >= 2 * sides.height


def _is_looked_at(shown: Reference) -> bool:
    """Tell whether a page shows a picture for its own sake, at once or when it is scrolled to: no background."""
    return shown.found_in in {FoundIn.IMG, FoundIn.PICTURE, FoundIn.SVG} or shown.is_put_in_place


def _sides(image: Image) -> list[int]:
    """Return the sides that are known of what would be fetched: measured ones, else as the page lays it out."""
    measures = image.best.measures
    if measures.width and measures.height:
        return [measures.width.value, measures.height.value]
    if image.url != image.shown.url:
        return [side.value for side in (measures.width, measures.height) if side is not None]
    box = image.shown.box
    return [side for side in (box.width, box.height) if side is not None]
