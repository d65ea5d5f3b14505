"""What the markup itself says of a larger version: the link around a picture, its sizes, attributes, data blocks."""

from math import inf

from pickcrate.addresses.ranks import SMALL, STAND_IN, UNSAID, rank
from pickcrate.addresses.stems import is_stand_in
from pickcrate.addresses.url import bare_stem, last_segment, split_extension
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import MOST_DIGITS
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.foundin import OF_LINKED_DATA, FoundIn
from pickcrate.values.image import Candidate, Image
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.reference import Reference, Role

OPENED = "data-opened"
"""the attribute that a visit gives a thumbnail: the address of the picture that it opened when it was pressed"""

_TOLD = {
    "content": Evidence(Basis.CARD, "meta"),
    "href": Evidence(Basis.CARD, "meta"),
    OF_LINKED_DATA: Evidence(Basis.CARD, "linked"),
}
_FIELD = Evidence(Basis.ATTRIBUTE, "value")
_NUMBER = lazy(r"\d+")


def from_markup(image: Image) -> list[Candidate]:
    """Return the candidates that the page's own markup names, strongest first."""
    elsewhere = [reference for reference in image.references if reference.url != image.shown.url]
    linked = _linked([reference.url for reference in elsewhere if reference.role is Role.LINK])
    larger, others = _deferred(image)
    by_name = [reference for reference in elsewhere if reference.is_told_by_name]
    cards = [Candidate(reference.url, _TOLD.get(reference.attribute, _FIELD)) for reference in by_name]
    return [*linked, *larger, *_sizes(image), *others, *cards]


def _sizes(image: Image) -> list[Candidate]:
    """Return the image candidate strings that are larger than what is shown, the largest first."""
    least = _least(image)
    sizes = [reference for reference in image.references if reference.role is Role.SIZE and _scale(reference) > least]
    sizes.sort(key=_scale, reverse=True)  # it is stable: of equals the page's own order decides, as in a browser
    return list(map(_candidate, sizes))


def _deferred(image: Image) -> tuple[list[Candidate], list[Candidate]]:
    """Return what attributes for scripts name: what is called larger than what is shown, and the rest."""
    lazy = [reference for reference in image.references if reference.role is Role.LAZY and reference.rank > STAND_IN]
    # Whatever else names it: what is called a thumbnail once, is one.
    ranks: dict[str, int] = {}
    for reference in lazy:
        ranks[reference.url] = min(reference.rank, ranks.get(reference.url, reference.rank))
    lazy.sort(key=lambda reference: (reference.width or 0, ranks[reference.url]), reverse=True)
    larger = [_named(reference) for reference in lazy if ranks[reference.url] > UNSAID]
    others = [_named(reference) for reference in lazy if ranks[reference.url] <= UNSAID]
    return larger, others


def _linked(urls: list[str]) -> list[Candidate]:
    """Return the files that a picture links to: of several, what their names say that is larger comes first.

    How each is named is a kind of evidence of its own: the sizes of one picture are named as those of the next.
    """
    if len(urls) == 1:
        return [Candidate(urls[0], Evidence(Basis.LINK))]
    marks = {url: last_segment(url).lower().replace(bare_stem(url), "", 1) for url in urls}
    ordered = sorted(marks, key=lambda url: _size_said(marks[url]), reverse=True)
    return [Candidate(url, Evidence(Basis.LINK, marks[url])) for url in ordered]


def _size_said(mark: str) -> tuple[int, float]:
    """Return how large a mark of size in a name says that its picture is; one without any is the original."""
    bare = split_extension(mark)[0].strip("-_.")
    numbers = [int(digits) for digits in _NUMBER.findall(bare) if len(digits) <= MOST_DIGITS]
    return rank(bare), max(numbers, default=0) if bare else inf


def called_smaller(image: Image) -> set[str]:
    """Return the versions that are called smaller than a picture, unless that only holds their place."""
    shown = image.shown.url
    if shown.startswith("data:") or is_stand_in(shown):
        return set()
    lazy = (reference for reference in image.references if reference.role is Role.LAZY)
    return {reference.url for reference in lazy if STAND_IN < reference.rank <= SMALL}


def _least(image: Image) -> tuple[int, float, int]:
    """Return the scale that another size must exceed to be larger than the shown picture."""
    own = [_scale(r) for r in image.references if r.url == image.shown.url and (r.width or r.density)]
    return max(own, default=(0, 1.0, 0))


def _scale(reference: Reference) -> tuple[int, float, int]:
    """Order sizes: by width descriptor where there is one, else by density (1 if the page says neither), by screen."""
    return (reference.width or 0, reference.density if reference.density is not None else 1.0, reference.rank)


def _candidate(reference: Reference) -> Candidate:
    """Return another size; one without a descriptor says nothing of how large it is, and will be looked at."""
    density = f"{reference.density:g}x" if reference.density is not None else ""
    descriptor = f"{reference.width}w" if reference.width else density
    evidence = Evidence(Basis.SIZE, f"{reference.found_in} {reference.attribute}".rstrip(), descriptor)
    return Candidate(reference.url, evidence, _declared(reference))


def _named(reference: Reference) -> Candidate:
    """Return what an attribute or a data block names as a version."""
    if reference.found_in == FoundIn.LINK:
        return Candidate(reference.url, Evidence(Basis.IN_LINK if reference.rank > UNSAID else Basis.LINK))
    if reference.attribute == "src" and reference.found_in == FoundIn.IMG:
        return Candidate(reference.url, Evidence(Basis.BESIDE))
    if reference.attribute == OPENED:
        return Candidate(reference.url, Evidence(Basis.OPENED))
    basis = Basis.DATA if reference.element == "script" else Basis.ATTRIBUTE
    return Candidate(reference.url, Evidence(basis, reference.attribute or "a name"), _declared(reference))


def _declared(reference: Reference) -> Measures:
    return Measures(width=Measure(reference.width, Grade.DECLARED)) if reference.width else Measures()
