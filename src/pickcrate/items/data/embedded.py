"""What a page's data blocks say of pictures that no element shows: pages that a script draws have them in lists.

A member of a list, or of an object of objects, of which several have a name, is a thing; an address inside it is a
picture of the innermost one.
"""

import re
from collections import defaultdict
from collections.abc import Container, Iterable, Iterator
from functools import cache
from itertools import chain, islice

from msgspec.structs import replace

from pickcrate.addresses.ranks import names_a_picture
from pickcrate.addresses.url import is_picture_path
from pickcrate.finders.data.constants import Constants, reader
from pickcrate.finders.data.encoded import decoded, with_quotes
from pickcrate.finders.data.literals import EXTENSION, holds_img, in_markup, is_address, listed
from pickcrate.finders.data.objectliteral import Effort
from pickcrate.finders.data.pushed import put_together
from pickcrate.finders.data.scriptdata import data_in
from pickcrate.finders.data.strings import literal_at
from pickcrate.finders.lazy import is_handler
from pickcrate.finders.place import SCRIPTS
from pickcrate.finders.scripts import JAVASCRIPT, hidden_text
from pickcrate.items.data.datarows import is_said, things_of
from pickcrate.items.data.owned import rights_in
from pickcrate.items.data.picturewords import words_for_picture
from pickcrate.items.data.records import fields_of, is_file, is_name, thing_of
from pickcrate.items.data.revived import Targets, revived
from pickcrate.items.data.scriptrows import rows_in
from pickcrate.items.data.structured import Thing
from pickcrate.items.ground import Ground
from pickcrate.media import essence
from pickcrate.read.data.datafile import data_of
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json

_LEAST_NAMED = 2
_OPENS_DATA = ("{", "[")
_DEEPEST, _MOST_VALUES, _MOST_TEXT = 40, 100_000, 8_000_000
_MOST_ROWS = 10_000
_MOST_DISGUISED = 20
_DISGUISED = lazy(r"JSON\.parse\(\s*+(?:window\.)?(?:decodeURI(?:Component)?|unescape|atob)\(\s*+(?=[\"'`])")
"""before a string that is data once it is decoded"""

_ROW = lazy(r"(?:[0-9a-f]{1,8}:)?(?=[{\[])")
"""how a row of data begins that a server sends piece by piece, to be drawn by a script"""

_IN_MARKDOWN, _LONGEST_NOTE = lazy(r"!\[[^\[\]]{0,500}\]\(\s?([^\s()]{1,2000})"), 200_000
"""a picture in a note, as data keeps it (CommonMark 0.31, 6.4)"""

_Value = tuple[object, int, Thing | None]
"""a value, how deep it lies, and the thing that it is in"""


def things_in_data(ground: Ground) -> dict[str, Thing]:
    """Return what data blocks say of the pictures in them, by their raw addresses."""
    found: dict[str, Thing] = {}
    pictures = {address for spot in ground.spots if not spot.is_on_screen for address in spot.addresses}
    is_file = data_of(ground.page.text) is not None
    for value in chain(_in_scripts(ground), _in_attributes(ground)):
        _read(revived(value), pictures, found, is_file=is_file)
    return found


def _whole(value: object) -> Thing | None:
    """Return what a file of data is about: an object with a name, or the only one in objects of one member each."""
    for _ in range(_DEEPEST):
        if not isinstance(value, dict):
            return None
        thing = thing_of(value)
        if thing is not None or len(value) != 1:
            return thing
        value = next(iter(value.values()))
    return None


def _in_scripts(ground: Ground) -> Iterator[object]:
    """Yield the values that data blocks are, that scripts assign, and that are in their strings."""
    effort = Effort()
    scripts: list[str] = []

    @cache
    def of_page() -> Constants:
        return Constants("\n".join(scripts)[:_MOST_TEXT], is_shared=True)

    for number in ground.selected(SCRIPTS):
        kind = essence(ground.attribute(number, "type"))
        text = ground.nodes[number].text() or ""
        if kind == "application/ld+json" or len(text) > _MOST_TEXT:
            continue
        if "json" in kind or (kind not in JAVASCRIPT and text.lstrip().startswith(_OPENS_DATA)):
            yield from values_in(with_quotes(text))
            continue
        scripts.append(text)
    for text in scripts:
        for data in data_in(text, effort, reader(text, of_page)):
            yield from values_in(data.text)
        for said in _strings_behind(_DISGUISED, text):
            yield from values_in(decoded(said))
        yield from rows_in(text, effort)
    for row in islice(put_together(scripts).split("\n"), _MOST_ROWS):
        if (begins := _ROW.match(row)) is not None:
            yield from values_in(row[begins.end() :])


def _in_attributes(ground: Ground) -> Iterator[object]:
    """Yield the values in the attributes of elements that show nothing by themselves, and in what is hidden in them.

    Those in the same attribute of several elements are members of one list; what is done when they are clicked on, or
    so, are rows of one script.
    """
    effort = Effort()
    members: dict[str, list[object]] = defaultdict(list)
    handlers: list[str] = []
    for number in dict.fromkeys(spot.element for spot in ground.spots if spot.is_held or spot.is_link):
        attributes = ground.attributes(number)
        for name, said in (*attributes.items(), ("", hidden_text(ground.nodes[number], attributes))):
            if said and is_handler(name, said):
                handlers.append(said)
            elif said and said.startswith(_OPENS_DATA):
                members[name].append(next(values_in(said), None) or effort.read(said, 0).value)
            elif said and "{" in said:
                for data in data_in(said, effort, reader(said)):
                    yield from values_in(data.text)
    for values in members.values():
        yield from (values,) if len(values) > 1 else values
    yield from rows_in(";\n".join(handlers), effort)


def _strings_behind(begins: re.Pattern[str], text: str) -> Iterator[str]:
    """Yield what the string literals of a script say that stand behind what ``begins`` finds."""
    literals = (literal_at(text, match.end()) for match in islice(begins.finditer(text), _MOST_DISGUISED))
    return filter(None, literals)


def values_in(text: str) -> Iterator[object]:
    """Yield the value that a text of JSON is."""
    try:
        yield read_json(text[:_MOST_TEXT], parse_int=str, parse_float=str)
    except (ValueError, RecursionError):
        return


def _read(root: object, pictures: Container[str], found: dict[str, Thing], *, is_file: bool) -> None:
    """Note the thing of each address in a value: of an image file, or that is known to be one of ``pictures``.

    In a file of data, which is about nothing else, what is in no thing is of the whole, and a list may have one member.
    """
    waiting: list[_Value] = [(root, 0, _whole(root) if is_file else None)]
    targets, followed = Targets(root), set[int]()
    entered: dict[tuple[int, bool], object] = {}
    for _ in range(_MOST_VALUES):
        if not waiting:
            return
        value, depth, thing = waiting.pop()
        key = (id(value), thing is None)
        if key in entered:  # what stands in several places, or holds itself
            continue
        if isinstance(value, dict | list):
            entered[key] = value  # and is not forgotten: another may be where it was
        if isinstance(value, str):
            is_data = value.startswith(_OPENS_DATA)
            if thing is not None and not is_data:
                found.update((one, _first_named(found.get(one), thing)) for one in _addresses_in(value, pictures))
            if is_data and depth <= _DEEPEST:  # an answer that is kept as the text that came
                waiting.extend((revived(inner), depth + 1, thing) for inner in values_in(value))
        elif depth <= _DEEPEST:
            thing = _owned(value, thing, pictures)
            may_be_one = is_file and (thing is None or thing.is_written or not thing.name)
            inside = _inside(value, targets, followed, may_be_one=may_be_one)
            waiting.extend((inner, depth + 1, _inner(own, thing)) for inner, own in reversed(inside))


def _first_named(known: Thing | None, thing: Thing) -> Thing:
    """Return the first thing with a name that a picture is of, with the words for it of one before that has none."""
    if known is None:
        return thing
    if known.name or not thing.name:
        return known
    columns = thing.columns or known.columns
    return replace(thing, columns=columns, alt=thing.alt or known.alt, caption=thing.caption or known.caption)


def _owned(value: object, thing: Thing | None, pictures: Container[str]) -> Thing | None:
    """Return the thing that an object is of, with what the object says of the picture that it names.

    What is said in place of one picture is not said of the several of a list in it.
    """
    if isinstance(value, list):
        is_of_several = sum(isinstance(one, dict) for one in value) > 1
        return replace(thing, alt="") if thing is not None and thing.alt and is_of_several else thing
    if not isinstance(value, dict):
        return thing
    alt, caption = words_for_picture(value)
    texts = (said for said in value.values() if isinstance(said, str))
    rights = dict(rights_in(value)) if any(_addresses_in(said, pictures) for said in texts) else {}
    if not (alt or caption or rights):
        return thing
    outer = thing or Thing()
    columns = tuple((dict(outer.columns) | rights).items())
    return replace(outer, columns=columns, alt=alt or outer.alt, caption=caption or outer.caption)


def _inner(own: Thing | None, outer: Thing | None) -> Thing | None:
    """Return the thing that a value is of: what it is itself, unless that is called after its file, or by a key.

    What has a name of its own in a post has the page of that, if it has none.
    """
    if own is None or outer is None:
        return own or outer
    if own.is_by_key or is_picture_path(own.name):
        return outer
    return replace(own, url=own.url or outer.url) if outer.is_written else own


def _inside(
    value: object, targets: Targets, followed: set[int], *, may_be_one: bool
) -> list[tuple[object, Thing | None]]:
    """Return what is inside a value, each with the thing that it is by itself; what it stands for only once."""
    if isinstance(value, list):
        return _members(value, may_be_one=may_be_one)
    if not isinstance(value, dict):
        return []
    target = targets.of(value)
    if target is None and len(value) >= _LEAST_NAMED and all(map(is_address, value)):
        return list(zip(value, map(_said_of_picture, value.values()), strict=True))
    if target is None:
        inside = [*value.values()]
        are_objects = all(isinstance(inner, dict) for inner in inside)
        members = _members(inside, may_be_one=may_be_one) if are_objects else []
        return members if any(thing is not None for _, thing in members) else _by_keys(value)
    if id(target) in followed:
        return []
    followed.add(id(target))
    return [(target, thing_of(target) if isinstance(target, dict) else None)]


def _by_keys(value: dict[str, object]) -> list[tuple[object, Thing | None]]:
    """Return what is in an object, as things that its keys are the names of, if all of those are names."""
    may_be_named = len(value) >= _LEAST_NAMED and all(map(_may_be_called, value.values()))
    are_names = may_be_named and all(is_said(key) and is_name(key) for key in value)
    if are_names:
        return [(inner, Thing(key, is_by_key=True)) for key, inner in value.items()]
    is_section = not any(map(names_a_picture, value))
    return [_only_member(inner) if is_section else (inner, None) for inner in value.values()]


def _may_be_called(value: object) -> bool:
    """Tell whether a value may be what its key is the name of: an object, a picture's address, or several of them."""
    if isinstance(value, list):
        return bool(value) and all(isinstance(one, str) and is_address(one) for one in value)
    return isinstance(value, dict) or (isinstance(value, str) and is_address(value))


def _said_of_picture(said: object) -> Thing | None:
    """Return the thing that something says of a picture whose address it stands behind: an object, or its name."""
    if isinstance(said, dict):
        return thing_of(said)
    return Thing(said) if isinstance(said, str) and is_name(said) else None


def _only_member(inner: object) -> tuple[object, Thing | None]:
    """Return the thing that a list of one has: the only one in a section, which has no picture of its own."""
    member = inner[0] if isinstance(inner, list) and len(inner) == 1 else None
    if not isinstance(member, dict) or not any(map(names_a_picture, member)):
        return inner, None
    thing = thing_of(member) if not is_file(member) else None
    return (member, thing) if thing is not None else (inner, None)


def _addresses_in(text: str, pictures: Container[str]) -> Iterable[str]:
    """Return the addresses of pictures that a text is, or has in its markup."""
    if text in pictures:
        return (text.strip(),)
    if is_address(text) or EXTENSION.search(text) is not None or holds_img(text):
        return listed(text.strip()) or [*in_markup(text), *_IN_MARKDOWN.findall(text[:_LONGEST_NOTE])]
    return ()


def _members(values: list[object], *, may_be_one: bool) -> list[tuple[object, Thing | None]]:
    """Return the members of a list, each with the thing that it is, if several of them have names, or the only one."""
    if fields_of(values) is not None:
        return [(value, None) for value in values]
    things = things_of(values)
    least = 1 if may_be_one and len(values) == 1 else _LEAST_NAMED
    if sum(thing is not None for thing in things) < least:
        return [(value, None) for value in values]
    return list(zip(values, things, strict=True))
