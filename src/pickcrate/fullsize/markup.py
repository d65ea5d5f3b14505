"""What the markup itself says of a larger version: the link around a picture, the largest of its sizes."""

from pickcrate.values import Candidate, Grade, Image, Measure, Measures, Reference, Role


def from_markup(image: Image) -> list[Candidate]:
    """Return the candidates that the page's own markup names, strongest first."""
    linked = [
        Candidate(reference.url, "the picture links to it")
        for reference in image.references
        if reference.role is Role.LINK and reference.url != image.shown.url
    ]
    sizes = [
        reference for reference in image.references if reference.role is Role.SIZE and _scale(reference) > _least(image)
    ]
    lazy = [
        Candidate(reference.url, f"the {reference.attribute} attribute")
        for reference in image.references
        if reference.role is Role.LAZY
    ]
    # sorted is stable: of equals the page's own order decides, as it does in a browser
    return [*linked, *map(_candidate, sorted(sizes, key=_scale, reverse=True)), *lazy]


def _least(image: Image) -> tuple[int, float]:
    """Return the scale that another size must exceed to be larger than the shown picture."""
    own = [_scale(r) for r in image.references if r.url == image.shown.url and (r.width or r.density)]
    return max(own, default=(0, 1.0))


def _scale(reference: Reference) -> tuple[int, float]:
    """Order sizes: by width descriptor where there is one, else by density (1 if the page says neither)."""
    return (reference.width or 0, reference.density if reference.density is not None else 1.0)


def _candidate(reference: Reference) -> Candidate:
    descriptor = f"{reference.width}w" if reference.width else f"{reference.density or 1:g}x"
    measures = Measures(width=Measure(reference.width, Grade.DECLARED)) if reference.width else Measures()
    return Candidate(reference.url, f"{reference.found_in} {reference.attribute} {descriptor}", measures)
