"""Pictures that scripts and data blocks name: inline script text, JSON, JSON-LD (schema.org)."""

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from operator import itemgetter

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.addresses.ranks import LARGE, SMALL, UNSAID
from pickcrate.addresses.url import claims_no_image
from pickcrate.finders.data import constants, scriptdata
from pickcrate.finders.data.encoded import with_quotes
from pickcrate.finders.data.jsondata import in_block, in_notation, keys_in
from pickcrate.finders.data.literals import in_markdown, in_rows, in_script, is_address
from pickcrate.finders.data.pushed import has_pieces, put_together, without_pieces
from pickcrate.finders.data.versions import parted
from pickcrate.finders.metadata import PICTURE_PROPERTIES
from pickcrate.finders.place import Finder, Place, not_displayed
from pickcrate.finders.srcset import ImageCandidateString
from pickcrate.media import essence
from pickcrate.text.surrogates import read_json
from pickcrate.values.foundin import OF_LINKED_DATA, FoundIn
from pickcrate.values.reference import Reference, Role

JAVASCRIPT = frozenset(("", "module", "text/javascript", "application/javascript", "text/ecmascript", "text/babel"))
_DEEPEST = 60
_FARTHEST = 20_000
"""characters from one string of a script to the next in which that is looked for"""

_OPENS_DATA = ("{", "[", "<")
_OF_A_FILE = {"contentUrl": LARGE, "url": UNSAID, "thumbnailUrl": SMALL, "thumbnail": SMALL}
"""under what names an ImageObject has the addresses of its picture, with what they say of size"""

_OF_A_FIELD = "value"
"""an attribute of fields, which tells a picture by its name: no key of data does"""


def _find_script(place: Place) -> Iterable[Reference]:
    text = place.node.text()
    kind = essence(place.get("type"))
    if not text or len(text) < 8:
        return
    if kind == "application/ld+json":
        yield from _linked_data(place, text)
    elif "json" in kind:
        text = with_quotes(text)
        yield from _each(place, FoundIn.DATA, in_notation(text), text)
    elif kind in JAVASCRIPT:
        if has_pieces(text):
            yield from _pieces(place)
            text = without_pieces(text)
        yield from _program(place, text, partial(in_script, of_page=place.constants))
    else:  # a template, or data for one program alone
        yield from _each(place, FoundIn.DATA, in_block(text), text)


def _pieces(place: Place) -> Iterator[Reference]:
    """Yield the pictures of the data that a page's scripts have in pieces, with the first script that has one."""
    if place.walk.has_read_pieces:
        return
    place.walk.has_read_pieces = True
    scripts = (script.text() for script in place.walk.page.tree.css("script:not([src])"))
    data = put_together(scripts) or put_together((place.node.text(),))  # it may stand in a template
    yield from _program(place, data, in_rows)


def _program(place: Place, text: str, strings: Callable[[str], Iterator[str]]) -> Iterator[Reference]:
    """Yield the pictures of the data in a script, and of the ``strings`` in the rest of it, in their order."""
    rest, held = scriptdata.parted(text, place.walk.literals, constants.reader(text, place.constants))
    others = _each(place, FoundIn.SCRIPT, map(ImageCandidateString, strings(rest)), rest)
    if not held:
        yield from others
        return
    placed = [(data.start, one) for data in held for one in _each(place, FoundIn.SCRIPT, data.entries, data.text)]
    at = 0
    for one in others:
        found = text.find(one.raw, at, at + _FARTHEST)
        at = found if found >= 0 else at  # it is written otherwise there
        placed.append((at, one))
    yield from (one for _, one in sorted(placed, key=itemgetter(0)))


def _each(place: Place, found_in: FoundIn, entries: Iterable[ImageCandidateString], text: str) -> Iterator[Reference]:
    """Yield the pictures of a text, a cluster each; what the text names as versions of one are one."""
    unique = {entry.url: entry for entry in entries}
    keys = keys_in(text, unique) if found_in == FoundIn.DATA else {}
    for versions in parted(text, list(unique.values()), rank=UNSAID, shows_one=False):
        prototype = place.prototype(found_in)
        for version in versions:
            address = version.url.replace("&amp;", "&")  # data may be as it was put into a page
            name = version.name or keys.get(version.url, "")
            reference = place.at(prototype, "" if version.is_sized or name == _OF_A_FIELD else name, address)
            if reference is None:
                continue
            if address != version.url:
                reference = replace(reference, raw=version.url)
            if len(versions) > 1:
                role = Role.SIZE if version.is_sized else Role.LAZY
                size = {"width": version.width, "density": version.density}
                reference = replace(reference, role=role, rank=version.rank, **size)
            yield reference


def _linked_data(place: Place, text: str) -> Iterator[Reference]:
    """JSON-LD 1.1: picture properties of schema.org, nested and in ``@graph``; one object's are one picture."""
    try:
        parsed = read_json(text)
    except (ValueError, RecursionError):
        yield from _each(place, FoundIn.DATA, map(ImageCandidateString, in_script(text)), text)
        return
    waiting: list[tuple[object, bool, int]] = [(parsed, False, 0)]
    while waiting:
        value, wanted, depth = waiting.pop()
        if depth > _DEEPEST:
            continue
        if isinstance(value, list):
            waiting.extend((inner, wanted, depth + 1) for inner in reversed(value))
        elif isinstance(value, str):
            if wanted:
                yield from _one_picture(place, {value: ("", UNSAID)})
        elif isinstance(value, dict):
            yield from _object(place, value, wanted)
            waiting.extend(
                (inner, _names_a_picture(name, inner), depth + 1)
                for name, inner in reversed(value.items())
                if not (name in _OF_A_FILE and isinstance(inner, str) and _is_picture_object(value, wanted))
            )


def _names_a_picture(name: str, value: object) -> bool:
    return name.lower() in PICTURE_PROPERTIES and isinstance(value, str | list | dict)


def _is_picture_object(value: dict[str, object], wanted: bool) -> bool:
    kinds = value.get("@type")
    names = kinds if isinstance(kinds, list) else [kinds]
    return wanted or any(name == kind for name in names for kind in ("ImageObject", "Photograph", "Barcode"))


def _object(place: Place, value: dict[str, object], wanted: bool) -> Iterator[Reference]:
    """Yield the addresses of an ImageObject: ``contentUrl`` is the largest, ``thumbnailUrl`` the smallest."""
    if _is_picture_object(value, wanted):
        names = _OF_A_FILE.items()
        stated = {address: (name, rank) for name, rank in names if isinstance(address := value.get(name), str)}
        yield from _one_picture(place, stated)


def _one_picture(place: Place, addresses: dict[str, tuple[str, int]]) -> Iterator[Reference]:
    """Yield one picture of which a data block names several versions, each by its name and what that says of size."""
    prototype = place.prototype(FoundIn.DATA)
    for raw, (name, size) in addresses.items():
        attribute = name if len(addresses) > 1 else OF_LINKED_DATA
        reference = place.at(prototype, attribute, raw) if "/" in raw or is_address(raw) else None
        if reference is not None and not claims_no_image(reference.url):
            yield replace(reference, role=Role.LAZY if len(addresses) > 1 else Role.SHOWN, rank=size)


def hidden_text(node: LexborNode, attributes: dict[str, str | None]) -> str:
    """Return what an element that is not shown holds for a script, if that is all in it: data, or markup.

    It may be in a comment, which browsers do not take apart.
    """
    child = node.first_child
    if child is None or child.next is not None or not not_displayed(attributes):
        return ""
    said = child.comment_content if child.is_comment_node else child.text_content if child.is_text_node else ""
    text = (said or "").strip()
    return text if text.startswith(_OPENS_DATA) else ""


def _find_hidden_text(place: Place) -> Iterable[Reference]:
    """Yield the pictures of what an element that is not shown holds for a script."""
    if text := hidden_text(place.node, place.attributes):
        yield from _each(place, FoundIn.DATA, in_block(text), text)


def _find_markdown(place: Place) -> Iterable[Reference]:
    """Yield the pictures of an element whose text a script is to show, as what is written in Markdown."""
    node, attributes = place.node, place.attributes
    is_source = attributes.get("id") == "source" or "data-template" in attributes
    if node.tag != "textarea" or is_source:
        text = node.text()
        yield from _each(place, FoundIn.DATA, map(ImageCandidateString, in_markdown(text)), text)


SCRIPT = Finder(_find_script, tags=("script",))
HIDDEN_TEXT = Finder(_find_hidden_text, attributes=("hidden", "style"))
MARKDOWN = Finder(_find_markdown, tags=("textarea", "xmp"), attributes=("data-markdown",))
