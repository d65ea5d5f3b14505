"""How what is typed for a setting becomes its value. Each raises UsageError, naming the option that it is told.

What a reader needs is imported when it reads: the table of settings is there before anything else is.
"""

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from pickcrate.errors import UsageError
from pickcrate.text.numerals import whole

if TYPE_CHECKING:
    from pickcrate.fullsize.userrules import UserRule
    from pickcrate.name import NamePattern
    from pickcrate.sift.patterns import Pattern
    from pickcrate.sift.ranges import Numbers, Range
    from pickcrate.text.expression import Expression
    from pickcrate.values.foundin import FoundIn


MOST_ITEMS = 2_000
"""pages of items that one list leads to, at most"""

MOST_PAGES = 200
"""further pages of one list"""


def texts(given: Iterable[str], option: str) -> tuple[str, ...]:  # noqa: ARG001 (all readers are told it)
    """Return what was given, once or several times."""
    return tuple(given)


def listed(given: Iterable[str], option: str) -> tuple[str, ...]:  # noqa: ARG001
    """Return values that may be given one by one or with commas, lower case."""
    return tuple(part.strip().lower() for value in given for part in value.split(",") if part.strip())


def how_many(most: int) -> "Callable[[int | str, str], int]":
    """Return the reader of a number up to ``most``, which ``all`` stands for."""

    def read(given: int | str, option: str) -> int:
        said = "" if isinstance(given, bool) else str(given).strip().lower()
        number = most if said == "all" else whole(said)
        if number is None or number > most:
            wrong = f"{option} {given!r} is no number up to {most:,}, nor all"
            raise UsageError(wrong, hint=f"for example {option} 5")
        return number

    return read


def raw(given: Iterable[str], option: str) -> "tuple[Expression, ...]":
    """Return expressions that addresses are taken from the raw source by."""
    from pickcrate.text.expression import Expression

    hint = rf"""for example {option} '"full": *"([^"]+)"'"""
    return tuple(Expression(text, option, hint) for text in given)


def attributes(given: Iterable[str], option: str) -> frozenset[str]:
    """Return names of attributes."""
    import re

    names = [name.strip() for name in given]
    for name in names:
        if not re.fullmatch(r"[A-Za-z_][\w-]*", name):
            raise UsageError(
                f"{option} {name!r} is not the name of an attribute", hint=f"for example {option} data-full"
            )
    return frozenset(map(str.lower, names))


def rules(given: Iterable[str], option: str) -> "tuple[UserRule, ...]":
    """Return resizing conventions of the user's own."""
    from pickcrate.fullsize.userrules import parse_rule

    return tuple(parse_rule(text, option) for text in given)


def rules_file(given: str | Path, option: str) -> "tuple[UserRule, ...]":
    """Return the conventions in a file."""
    from pickcrate.fullsize.userrules import parse_rules

    try:
        return tuple(parse_rules(Path(given).read_text(encoding="utf-8"), str(given)))
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"{option} {given}: cannot be read: {error}") from error


def ranged(quantity: str) -> "Callable[[str, str], Range]":
    """Return the reader of ranges of a quantity, by its name in ``sift.ranges``."""

    def read(given: str, option: str) -> "Range":
        from pickcrate.sift import ranges

        return ranges.parse_range(given, option, getattr(ranges, quantity))

    return read


def numbers(given: str, option: str) -> "Numbers":
    """Return numbers of pictures."""
    from pickcrate.sift.ranges import parse_numbers

    return parse_numbers(given, option)


def patterned(given: Iterable[str], option: str) -> "tuple[Pattern, ...]":
    """Return patterns for addresses or words."""
    from pickcrate.sift.patterns import parse_pattern

    return tuple(parse_pattern(text, option) for text in given)


def place_names() -> Iterable[str]:
    """Return what the kinds of places are called in which pictures are found."""
    from pickcrate.values.foundin import CALLED

    return CALLED


def places(given: Iterable[str], option: str) -> "tuple[FoundIn, ...]":
    """Return kinds of places in which pictures are found."""
    from pickcrate.values.foundin import CALLED

    names = listed(given, option)
    if unknown := next((name for name in names if name not in CALLED), ""):
        raise UsageError(f"{option} {unknown!r} is no such place", hint=f"places are {', '.join(CALLED)}")
    return tuple(CALLED[name] for name in names)


def type_names() -> Iterable[str]:
    """Return the names of image types."""
    from pickcrate import media

    return sorted(media.BY_NAME)


def types(given: Iterable[str], option: str) -> tuple[str, ...]:
    """Return image types by any of their spellings."""
    from pickcrate import media

    names = []
    for name in listed(given, option):
        kind = media.SPELLINGS.get(name.removeprefix("."))
        if kind is None:
            raise UsageError(f"{option} {name!r} is no image type", hint=f"types are {', '.join(type_names())}")
        names.append(kind)
    return tuple(names)


def shape_names() -> Iterable[str]:
    """Return the names of shapes."""
    from pickcrate.name import SHAPES

    return SHAPES


def shapes(given: Iterable[str], option: str) -> tuple[str, ...]:
    """Return shapes."""
    names = listed(given, option)
    for name in names:
        if name not in shape_names():
            raise UsageError(f"{option} {name!r} is no shape", hint=f"shapes are {', '.join(shape_names())}")
    return names


def kept(given: str, option: str) -> bool:  # noqa: ARG001
    """Return whether pictures of a kind stay."""
    return given == "keep"


def dropped(given: str, option: str) -> bool:  # noqa: ARG001
    """Return whether pictures of a kind go."""
    return given == "drop"


def pages(given: str, option: str) -> bool:  # noqa: ARG001
    """Return whether the addresses of a list are pages."""
    return given == "pages"


def columns(given: Iterable[str], option: str) -> tuple[tuple[str, str], ...]:
    """Return which column of a list is what."""
    from pickcrate.read.lists.table import FIELDS

    found = []
    for text in given:
        name, equals, header = (part.strip() for part in text.partition("="))
        if not (equals and header) or name not in FIELDS:
            hint = f"for example {option} url=Photo; fields are {', '.join(FIELDS)}"
            raise UsageError(f"{option} {text!r}: a column is FIELD=HEADER", hint=hint)
        found.append((name, header))
    return tuple(found)


def size(given: str, option: str) -> int:
    """Return a size in bytes."""
    from pickcrate.sift.ranges import parse_size

    return parse_size(given, option)


def pixels(given: str, option: str) -> int:
    """Return a number of pixels."""
    from pickcrate.sift.ranges import parse_pixels

    return parse_pixels(given, option)


def cookie_file(given: str | Path, option: str) -> str:
    """Return the path of a file that holds cookies."""
    from pickcrate.fetch.cookies import from_file

    hint = "cookies are lines in the Netscape format, or JSON as extensions of browsers export them"
    path = Path(given)
    if not path.is_file():
        raise UsageError(f"{option} {given}: no such file", hint=hint)
    try:
        cookies = from_file(str(path))
    except OSError as error:
        raise UsageError(f"{option} {given}: cannot be read: {error.strerror}") from error
    if not cookies:
        raise UsageError(f"{option} {given}: there are no cookies in it", hint=hint)
    return str(path)


def shot(given: str | Path, option: str) -> str:
    """Return the path of a picture that can be written."""
    path = Path(given)
    if path.suffix.lower() != ".png":
        raise UsageError(f"{option} {given}: the file's ending says its format", hint="end it in .png")
    if not path.parent.is_dir():
        raise UsageError(f"{option} {given}: no such folder", hint="make it, or name another")
    return str(path)


def debugging_address(given: str, option: str) -> str:
    """Return the address at which a browser takes commands."""
    if not given.startswith(("http://", "https://", "ws://", "wss://")):
        raise UsageError(f"{option} {given!r} is no address", hint=f"for example {option} http://127.0.0.1:9222")
    return given


def text_of_path(given: str | Path, option: str) -> str:  # noqa: ARG001
    """Return a path as text."""
    return str(given)


def header_fields(given: Iterable[str], option: str) -> tuple[str, ...]:
    """Return header fields; a message shows a field's name alone, since its value may be secret."""
    fields = tuple(given)
    for field in fields:
        if ":" not in field or any(c in field for c in "\r\n"):
            hint = f"for example {option} 'Accept-Language: fi'"
            raise UsageError(f"{option} {field.partition(':')[0]!r}: a field is NAME: VALUE", hint=hint)
    return fields


def plain_folder(given: str, option: str) -> str:
    """Return the name of a sub-folder that every system takes."""
    from pickcrate.name import is_legal_folder

    if not is_legal_folder(given):
        raise UsageError(f"{option} {given!r} cannot be a folder's name", hint=f"for example {option} twins")
    return given


def seal_kind_names() -> Iterable[str]:
    """Return the standards that a package may follow."""
    from pickcrate.sealing.contents import SealKind

    return [kind.value for kind in SealKind]


def seal_kinds(given: Iterable[str], option: str) -> tuple[str, ...]:
    """Return standards that a package is to follow."""
    kinds = listed(given, option)
    for kind in kinds:
        if kind not in seal_kind_names():
            raise UsageError(f"{option} {kind!r} is no kind", hint=f"kinds are {', '.join(seal_kind_names())}")
    return tuple(dict.fromkeys(kinds))


def names(given: Sequence[str], option: str) -> "tuple[NamePattern, ...]":  # noqa: ARG001
    """Return patterns of names."""
    from pickcrate.name import patterns

    return patterns(given)


def shelf(given: str, option: str) -> "tuple[NamePattern, ...]":  # noqa: ARG001
    """Return the pattern of a path of folders."""
    from pickcrate.name import parse_shelf

    return parse_shelf(given)


def existing_folder(given: str | Path, option: str) -> Path:
    """Return the path of a folder that is there. Raises UsageError."""
    path = Path(given)
    if not path.is_dir():
        raise UsageError(f"{option} {given}: there is no such folder")
    return path


def folder(given: str | Path, option: str) -> Path:  # noqa: ARG001
    """Return a folder's path."""
    return Path(given)
