"""The criteria of an order, and what each says of one image: keep, drop or unsure, with its reason.

One fixed order, cheapest evidence first. None of them drops on weaker evidence than it needs: size, shape and bytes are
those of the address that would be fetched, so how a page lays a picture out drops nothing.
"""

from collections.abc import Callable, Iterator

from msgspec import Struct

from pickcrate.addresses.url import readable
from pickcrate.name import shape
from pickcrate.sift.patterns import Pattern
from pickcrate.sift.ranges import Numbers, Range
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image, Ruling, Verdict
from pickcrate.values.licences import spellings
from pickcrate.values.measures import Measure
from pickcrate.values.wanted import NOWHERE, Region


class Criteria(Struct, frozen=True):
    """What an order wants of a picture; each is None or empty where it does not matter."""

    only: Numbers | None = None
    region: Region = NOWHERE
    """the part of the page that is meant; whether a picture lies in it, its references know"""
    found_in: tuple[FoundIn, ...] = ()
    linked: bool = False
    hidden: bool = True
    """whether hidden pictures are kept"""
    furniture: bool = True
    """whether furniture is kept"""
    url: tuple[Pattern, ...] = ()
    not_url: tuple[Pattern, ...] = ()
    text: tuple[Pattern, ...] = ()
    not_text: tuple[Pattern, ...] = ()
    licence: tuple[Pattern, ...] = ()
    type: tuple[str, ...] = ()
    shape: tuple[str, ...] = ()
    width: Range | None = None
    height: Range | None = None
    pixels: Range | None = None
    ratio: Range | None = None
    bytes: Range | None = None

    @property
    def is_any(self) -> bool:
        """Whether anything at all is asked of a picture."""
        return self != Criteria()

    @property
    def needs_size(self) -> bool:
        """Whether the first bytes of a picture may be needed to decide."""
        return bool(self.type or self.shape or self.width or self.height or self.pixels or self.ratio or self.bytes)


Judge = Callable[[Image, Criteria], Verdict | None]


def _only(image: Image, criteria: Criteria) -> Verdict | None:
    if criteria.only is None:
        return None
    return _ruled("only", image.number in criteria.only, f"number {image.number}")


def _pick_list(image: Image, _: Criteria) -> Verdict | None:
    return Verdict("pick", Ruling.DROP, image.declined) if image.declined else None


def _robots(image: Image, _: Criteria) -> Verdict | None:
    if not image.rights.bar:
        return None
    return Verdict("robots", Ruling.DROP, f"its page says {image.rights.bar} (--no-robots takes it all the same)")


def _items(image: Image, _: Criteria) -> Verdict | None:
    return Verdict("items", Ruling.DROP, image.stranger) if image.stranger else None


def _region(image: Image, criteria: Criteria) -> Verdict | None:
    if not criteria.region:
        return None
    inside = any(not reference.is_outside for reference in image.references)
    return _ruled("region", inside, "inside" if inside else f"outside {criteria.region}")


def _found_in(image: Image, criteria: Criteria) -> Verdict | None:
    if not criteria.found_in:
        return None
    kinds = {reference.found_in for reference in image.references}
    return _ruled("found-in", not kinds.isdisjoint(criteria.found_in), ", ".join(sorted(kinds)))


def _linked(image: Image, criteria: Criteria) -> Verdict | None:
    if not criteria.linked:
        return None
    links = any(reference.link or reference.found_in == FoundIn.LINK for reference in image.references)
    return _ruled("linked", links, "it is a link" if links else "it is no link")


def _hidden(image: Image, criteria: Criteria) -> Verdict | None:
    if criteria.hidden:
        return None
    return _ruled("hidden", not image.is_hidden, "hidden" if image.is_hidden else "shown")


def _furniture(image: Image, criteria: Criteria) -> Verdict | None:
    if criteria.furniture:
        return None
    return _ruled("furniture", not image.furniture, image.furniture or "no furniture")


def _url(image: Image, criteria: Criteria) -> Verdict | None:
    """Any known address may match, as it is or as it reads; before the full-size step there may be others to come."""
    if not criteria.url:
        return None
    if any(pattern.matches(address) for address in addresses_of(image) for pattern in criteria.url):
        return Verdict("url", Ruling.KEEP, "")
    return Verdict("url", Ruling.DROP, f"no address of it has {_listed(criteria.url)}")


def _not_url(image: Image, criteria: Criteria) -> Verdict | None:
    for pattern in criteria.not_url:
        if pattern.matches(image.url) or pattern.matches(readable(image.url)):
            return Verdict("not-url", Ruling.DROP, f"its address has {pattern.text}")
    return Verdict("not-url", Ruling.KEEP, "") if criteria.not_url else None


def _text(image: Image, criteria: Criteria) -> Verdict | None:
    if not criteria.text:
        return None
    if any(pattern.matches(words) for words in words_of(image) for pattern in criteria.text):
        return Verdict("text", Ruling.KEEP, "")
    return Verdict("text", Ruling.DROP, f"no words about it have {_listed(criteria.text)}")


def _not_text(image: Image, criteria: Criteria) -> Verdict | None:
    for pattern in criteria.not_text:
        if any(pattern.matches(words) for words in words_of(image)):
            return Verdict("not-text", Ruling.DROP, f"its words have {pattern.text}")
    return Verdict("not-text", Ruling.KEEP, "") if criteria.not_text else None


def _licence(image: Image, criteria: Criteria) -> Verdict | None:
    """By its short name or its address; what states none may have one all the same, in its file or elsewhere."""
    if not criteria.licence:
        return None
    stated = licences_of(image)
    if not stated:
        return Verdict("licence", Ruling.UNSURE, "no licence is stated")
    if any(pattern.matches(name) for name in stated for pattern in criteria.licence):
        return Verdict("licence", Ruling.KEEP, stated[0], stated[0])
    return Verdict("licence", Ruling.DROP, f"{stated[0]} is not {_listed(criteria.licence)}", stated[0])


def _type(image: Image, criteria: Criteria) -> Verdict | None:
    """By what the bytes say when that is known, by the address or the markup till then."""
    if not criteria.type:
        return None
    measured = image.best.measures.type
    name = measured.value if measured else image.claimed_type
    return (
        _ruled("type", name in criteria.type, name, name) if name else Verdict("type", Ruling.UNSURE, "type not known")
    )


def _shape(image: Image, criteria: Criteria) -> Verdict | None:
    if not criteria.shape:
        return None
    sides = _sides(image)
    if sides is None:
        return Verdict("shape", Ruling.UNSURE, "size not known")
    found = shape(*sides)
    return _ruled("shape", found in criteria.shape, f"{found}, {sides[0]}×{sides[1]}", found)


def _width(image: Image, criteria: Criteria) -> Verdict | None:
    return _in_range("width", criteria.width, image.best.measures.width)


def _height(image: Image, criteria: Criteria) -> Verdict | None:
    return _in_range("height", criteria.height, image.best.measures.height)


def _pixels(image: Image, criteria: Criteria) -> Verdict | None:
    sides = _sides(image)
    return _value_in_range("pixels", criteria.pixels, sides[0] * sides[1] if sides else None)


def _ratio(image: Image, criteria: Criteria) -> Verdict | None:
    sides = _sides(image)
    return _value_in_range("ratio", criteria.ratio, sides[0] / sides[1] if sides else None)


def _bytes(image: Image, criteria: Criteria) -> Verdict | None:
    return _in_range("bytes", criteria.bytes, image.best.measures.bytes)


JUDGES: tuple[tuple[str, Judge], ...] = (
    ("pick", _pick_list),
    ("robots", _robots),
    ("items", _items),
    ("only", _only),
    ("region", _region),
    ("found-in", _found_in),
    ("linked", _linked),
    ("hidden", _hidden),
    ("furniture", _furniture),
    ("text", _text),
    ("not-text", _not_text),
    ("licence", _licence),
    ("url", _url),
    ("not-url", _not_url),
    ("type", _type),
    ("shape", _shape),
    ("width", _width),
    ("height", _height),
    ("pixels", _pixels),
    ("ratio", _ratio),
    ("bytes", _bytes),
)
"""Every criterion by its name, in the order in which they are held against a picture."""

EARLY = frozenset(("pick", "robots", "items", "only", "region", "found-in", "linked", "hidden", "text", "not-text"))
"""Criteria that do not depend on which address of a picture is fetched; what is furniture does."""


def _in_range(name: str, wanted: Range | None, measure: Measure[int] | None) -> Verdict | None:
    return _value_in_range(name, wanted, measure.value if measure else None)


def _value_in_range(name: str, wanted: Range | None, value: float | None) -> Verdict | None:
    if wanted is None:
        return None
    if value is None:
        return Verdict(name, Ruling.UNSURE, f"{'bytes' if name == 'bytes' else 'size'} not known")
    holds, said = wanted.holds(value), f"{value:,}" if isinstance(value, int) else f"{value:g}"
    return _ruled(name, holds, said if holds else f"{said} is not in {wanted.text}", said)


def _ruled(name: str, keeps: bool, reason: str, measured: str = "") -> Verdict:
    return Verdict(name, Ruling.KEEP if keeps else Ruling.DROP, reason, measured)


def _sides(image: Image) -> tuple[int, int] | None:
    measures = image.best.measures
    if measures.width is None or measures.height is None or not measures.height.value:
        return None
    return measures.width.value, measures.height.value


def addresses_of(image: Image) -> set[str]:
    """Return all addresses that a picture is known by, as they are and as they read."""
    known = {image.url, *(r.url for r in image.references), *(c.url for c in image.candidates)}
    return known | set(map(readable, known))


def licences_of(image: Image) -> list[str]:
    """Return how the licence that is stated for a picture may be written, its short name first; its address last."""
    return [name for name in (*spellings(image.rights.licence), image.rights.licence_url) if name]


def words_of(image: Image) -> Iterator[str]:
    """Yield all words about a picture: those of each place that mentions it, and those of its item."""
    for reference in image.references:
        words = reference.words
        yield from filter(None, (words.alt, words.title, words.caption, words.heading, words.link_text))
    yield from filter(None, (image.item.title, *(text for _, text in image.item.columns)))


def _listed(patterns: tuple[Pattern, ...]) -> str:
    return " or ".join(pattern.text for pattern in patterns)
