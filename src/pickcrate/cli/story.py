"""What ``why`` prints: how one picture was found, and what became of every address that may be a larger version."""

import textwrap
from collections.abc import Iterable, Iterator

from msgspec import Struct

from pickcrate.addresses.url import brief, without_userinfo
from pickcrate.cli.shell import as_operand, command_line
from pickcrate.cli.terminal import Out, Piece
from pickcrate.cli.text import cells, shown
from pickcrate.errors import NothingPickedError, UsageError
from pickcrate.run.events import Found, LookEvent, PageRead
from pickcrate.sift.criteria import addresses_of, words_of
from pickcrate.text.typed import folding_for
from pickcrate.values.claims import Aspect
from pickcrate.values.findings import PassedOver
from pickcrate.values.image import Candidate, Image, Ruling
from pickcrate.values.item import NO_ITEM
from pickcrate.values.licences import licence_name
from pickcrate.values.reference import Reference

_LEAST_TEXT = 3
"""Characters of a part of an address: fewer are in all of them."""


def ask_which(source: str) -> None:
    """Raise UsageError where a source is named and no picture of it."""
    line = command_line(("pickcrate", "why", as_operand(without_userinfo(source)), "3"))
    if source:
        raise UsageError(
            "no picture is named",
            hint=f"{line or 'pickcrate why SOURCE 3'}: its number in look, or a part of its address or its words",
        )


class Answer(Struct, frozen=True):
    """What was found of a picture that somebody asked about: the picture, or where it is mentioned."""

    picture: Found | None
    others: tuple[int, ...] = ()
    """numbers of further pictures that have the text"""
    passed: tuple[PassedOver, ...] = ()


def find_picture(events: Iterable[LookEvent], which: str) -> Answer:
    """Return the picture with a number or an address, else the first with ``which`` in an address, or in its words.

    Raises NothingPickedError, with the numbers that there are, for what the page does not even mention.
    """
    fold = folding_for(which)
    wanted = fold(which)
    numbers: list[int] = []
    partly: list[Found] = []
    said: list[Found] = []
    passed: list[PassedOver] = []
    for event in events:
        if isinstance(event, PageRead):
            passed.extend(event.passed)
        if not isinstance(event, Found):
            continue
        numbers.append(event.image.number)
        addresses = _addresses(event.image)
        if which == str(event.image.number) or which in addresses:
            return Answer(event)
        if len(which) < _LEAST_TEXT:
            continue
        if any(wanted in fold(address) for address in addresses):
            partly.append(event)
        elif any(wanted in fold(words) for words in (event.name, *words_of(event.image))):
            said.append(event)
    if having := partly or said:
        return Answer(having[0], tuple(found.image.number for found in having[1:]))
    if passed:
        return Answer(None, passed=tuple(dict.fromkeys(passed)))
    there = f"its pictures are numbered {numbers[0]} to {numbers[-1]}" if numbers else "it has no pictures"
    if which.isdecimal():
        raise NothingPickedError(f"there is no picture {shown(which)} here: {there}", hint="pickcrate look lists them")
    raise NothingPickedError(
        f"nothing here mentions {shown(which)}: {there}",
        hint="what scripts load is not in the page itself: --browser visits it in yours",
    )


def print_answer(out: Out, answer: Answer, which: str) -> None:
    """Print what was found of a picture that somebody asked about."""
    if answer.picture is not None:
        print_story(out, answer.picture)
        if answer.others:
            out.line((f"Others with {shown(which)}: {', '.join(map(str, answer.others))}", "cyan"))
        return
    out.line(
        (f"No picture has {shown(which)} in an address or its words. It is mentioned, and was passed over:", "bold")
    )
    for mention in answer.passed:
        line = f"  line {mention.line}" if mention.line else ""
        out.line(f"  {shown(mention.where)}", (line, "dim"))
        selector = f": {shown(mention.selector)}" if mention.selector else ""
        out.line((f"    {mention.kind.value}{selector}", "yellow"))
        out.line((f"    {shown(mention.said)}", "dim"))
    out.line(("--attr NAME takes addresses from an attribute, --raw REGEX from anywhere in the source", "cyan"))


def print_story(out: Out, found: Found) -> None:
    """Print all that is known of one picture."""
    for line in story(found.image, found.name):
        out.line(*(_hanging(line, out.width) if out.is_terminal else line))


def _hanging(line: list[Piece], width: int) -> list[Piece]:
    """Return a line of notes broken where the terminal ends, what follows set in; addresses stay whole."""
    text, style = line[-1][:2] if not isinstance(line[-1], str) else (line[-1], "")
    bare = text.lstrip(" ")
    if len(line) > 1 or not bare or cells(text) <= width:
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
    name = f"  {shown(given)}" if given else ""
    yield [(f"Picture {image.number}", "bold"), name, (f"  {shown(brief(image.shown.page))}", "dim")]
    yield from _words(image)
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
    # What a script puts in place stands once in the page, as what is shown and as what the attribute names.
    places = {(reference.url, reference.line, reference.element): reference for reference in reversed(image.references)}
    for reference in reversed(places.values()):
        yield ["  ", (shown(brief(reference.url)), "", brief(reference.url))]
        yield [(f"    {shown(_place(reference))}", "dim")]
    yield [("Would fetch, best first" if image.is_picked else "Its addresses, best first; none is fetched", "bold")]
    for candidate in image.candidates:
        yield from _candidate(candidate)
    if image.tried:
        yield [("Tried, and not used", "bold")]
        for candidate in image.tried:
            yield from _candidate(candidate)


def _words(image: Image) -> Iterator[list[Piece]]:
    """Yield what is said of a picture: its item, with where that is from, and the words around it."""
    words, item = image.shown.words, image.item
    said = {
        "item": item.title,
        "its page": item.url,
        "alt": words.alt,
        "title": words.title,
        "caption": words.caption,
        "under": words.heading,
        "link text": words.link_text,
    }
    for label, text in said.items():
        if text:
            yield [(f"  {label:10}", "dim"), shown(text)]
        if label == "item" and item is not NO_ITEM:
            yield [(f"            {shown(item.said)}", "dim")]
    for claim in image.rights.claims:
        text = licence_name(claim.text) or claim.text if claim.aspect is Aspect.LICENCE else claim.text
        yield [(f"  {claim.aspect.value:10}", "dim"), shown(text), (f"  ({shown(claim.origin)})", "dim")]
    for header, text in image.columns.items():
        yield [("  column    ", "dim"), f"{shown(header)}: {shown(text)}"]


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
    if (width or height) and not candidate.outcome:
        grade = (width or height).grade.value if width or height else ""  # type: ignore[union-attr]
        notes.append(f"{sides} {grade}")
    if candidate.outcome:
        notes.append(candidate.outcome)
    yield [(f"    {shown(' · '.join(notes))}", "dim")]


def _addresses(image: Image) -> set[str]:
    known = addresses_of(image)
    return known | {brief(address) for address in known}
