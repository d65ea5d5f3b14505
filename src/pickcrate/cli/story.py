"""What ``why`` prints: how one picture was found, and what became of every address that may be a larger version."""

import textwrap
from collections.abc import Iterable, Iterator

from rich.cells import cell_len

from pickcrate.addresses import brief
from pickcrate.cli.terminal import Out, Piece
from pickcrate.cli.text import shown
from pickcrate.errors import NothingPickedError
from pickcrate.run.events import Found, LookEvent
from pickcrate.values import Candidate, Image, Reference, Ruling


def find_picture(events: Iterable[LookEvent], which: str) -> Found:
    """Return the picture with a number, or the first that any address of is ``which``.

    Raises NothingPickedError with the numbers that there are.
    """
    numbers: list[int] = []
    for event in events:
        if isinstance(event, Found):
            numbers.append(event.image.number)
            if which == str(event.image.number) or which in _addresses(event.image):
                return event
    there = f"its pictures are numbered {numbers[0]} to {numbers[-1]}" if numbers else "it has no pictures"
    raise NothingPickedError(f"there is no picture {shown(which)} here: {there}", hint="pickcrate look lists them")


def print_story(out: Out, found: Found) -> None:
    """Print all that is known of one picture."""
    for line in story(found.image, found.name):
        out.line(*(_hanging(line, out.width) if out.is_terminal else line))


def _hanging(line: list[Piece], width: int) -> list[Piece]:
    """Return a line of notes broken where the terminal ends, what follows set in; addresses stay whole."""
    text, style = line[-1][:2] if not isinstance(line[-1], str) else (line[-1], "")
    bare = text.lstrip(" ")
    if len(line) > 1 or not bare or cell_len(text) <= width:
        return line
    margin = " " * (len(text) - len(bare))
    broken = textwrap.fill(
        bare,
        width,
        initial_indent=margin,
        subsequent_indent=f"{margin}  ",
        break_long_words=False,
        break_on_hyphens=False,
    )
    return [(broken, style)]


def plain_story(image: Image, name: str) -> str:
    """Return all that is known of one picture as plain text."""
    lines = ("".join(piece if isinstance(piece, str) else piece[0] for piece in line) for line in story(image, name))
    return "\n".join(lines)


def story(image: Image, given: str) -> Iterator[list[Piece]]:
    """Yield the lines that tell of one picture, and of the name that it is given."""
    words = image.shown.words
    name = f"  {shown(given)}" if given else ""
    yield [(f"Picture {image.number}", "bold"), name, (f"  {shown(brief(image.shown.page))}", "dim")]
    said = {
        "alt": words.alt,
        "title": words.title,
        "caption": words.caption,
        "under": words.heading,
        "link text": words.link_text,
        "credit": image.rights.credit,
        "licence": image.rights.licence,
    }
    for label, text in said.items():
        if text:
            yield [(f"  {label:10}", "dim"), shown(text)]
    if image.is_hidden:
        yield [("  hidden    ", "dim"), "the page's own markup or style sheets keep it from being shown"]
    if image.furniture:
        yield [("  furniture ", "dim"), image.furniture]
    if image.verdicts:
        yield [("Criteria", "bold")]
    for verdict in image.verdicts:
        style = {Ruling.KEEP: "green", Ruling.DROP: "red", Ruling.UNSURE: "yellow"}[verdict.ruling]
        reason = f" · {shown(verdict.reason)}" if verdict.reason else ""
        yield [(f"  {verdict.ruling.value:6} ", style), verdict.criterion, (reason, "dim")]
    yield [("Found", "bold")]
    for reference in image.references:
        yield ["  ", (shown(brief(reference.url)), "", brief(reference.url))]
        yield [(f"    {shown(_place(reference))}", "dim")]
    yield [("Would fetch, best first" if image.is_picked else "Its addresses, best first; none is fetched", "bold")]
    for candidate in image.candidates:
        yield from _candidate(candidate)
    if image.tried:
        yield [("Tried, and not used", "bold")]
        for candidate in image.tried:
            yield from _candidate(candidate)


def _place(reference: Reference) -> str:
    """Return where a reference stands: what was looked at, its descriptor, line and element."""
    descriptor = f"{reference.width}w" if reference.width else ""
    if reference.density and not descriptor:
        descriptor = f"{reference.density:g}x"
    line = f"line {reference.line}" if reference.line else ""
    found_in = f"{reference.found_in} {reference.attribute}".strip()
    return "  ".join(filter(None, (found_in, descriptor, line, reference.element)))


def _candidate(candidate: Candidate) -> Iterator[list[Piece]]:
    yield ["  ", (shown(brief(candidate.url)), "", brief(candidate.url))]
    notes = [str(candidate.evidence)]
    width, height = candidate.measures.width, candidate.measures.height
    sides = "×".join(str(side.value) if side else "?" for side in (width, height))
    if (width or height) and sides not in candidate.outcome:
        grade = (width or height).grade.value if width or height else ""  # type: ignore[union-attr]
        notes.append(f"{sides} {grade}")
    if candidate.outcome:
        notes.append(candidate.outcome)
    yield [(f"    {shown(' · '.join(notes))}", "dim")]


def _addresses(image: Image) -> set[str]:
    known = {reference.url for reference in image.references} | {candidate.url for candidate in image.candidates}
    return known | {brief(address) for address in known}
