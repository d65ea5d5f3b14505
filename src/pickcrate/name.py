"""From a pick to its name: patterns with fields, and names that are legal on Linux, macOS and Windows.

A name is made in two steps. What is known before the download is spelled at once, so that names are given out in
pick order whatever order the downloads end in; fields that only the file can tell (``{width}``) stay as fields in
the spelled name and are filled in by ``finish``.
"""

import re
import unicodedata
from collections.abc import Callable, Iterable, Mapping
from datetime import date

from msgspec import Struct

from pickcrate import media
from pickcrate.addresses.ranks import is_of_a_camera, is_opaque, names_any
from pickcrate.addresses.stems import asks_a_program, plain_stem, stem, stem_with_folder
from pickcrate.addresses.url import folder_of, is_file_path, site
from pickcrate.errors import UsageError
from pickcrate.text.lazyre import lazy
from pickcrate.text.typed import named, unmarked_latin
from pickcrate.values.image import Image
from pickcrate.values.measures import Measures

LONGEST_NAME = 230
"""Bytes of UTF-8 in a name: file systems allow 255, and a number and an extension are still to come."""

_NOT_PLAIN = lazy(r"[\x00-/:-^`{-\x7f]+")
"""ASCII but small letters, digits and the underscore"""

_OF_WORDS = "LMN"
"""categories of characters: letters, marks that some scripts write vowels with, digits"""

_OF_NO_VALUE = frozenset(("undefined", "null", "nan", "n/a", "#n/a", "[object object]"))
_EXTENSION = lazy(rf"(?<=.)\.(?:\{{type\}}|{media.ANY_EXTENSION})\Z", re.IGNORECASE)
_EXAMPLES = {
    "--name": 'for example --name "{n:03} {alt}" --name "{stem}"',
    "--shelf": 'for example --shelf "{type}" or --shelf "{page}/{shape}"',
    "--crate": 'for example --crate "{site} {date}"',
}
_NUMBER_FIELDS = ("n", "k")
_LATE_FIELDS: Mapping[str, str | int] = {"type": "jpeg", "shape": "landscape", "width": 1, "height": 1}
_FORBIDDEN = lazy(r'[<>:"/\\|?*\s]+')
_DEVICES = frozenset("con prn aux nul clock$ conin$ conout$".split()).union(
    f"{port}{digit}" for port in ("com", "lpt") for digit in "0123456789¹²³"
)
"""what Windows takes for a device, with any extension"""

OWN_NAMES = ("crate.csv", "failed.csv", "sheet.html", "credits.md", "credits.html", "crate.parquet")
"""What a crate keeps at its top, beside its inner folder: no shelf has such a name."""

_PLAIN = lazy(r"[A-Za-z0-9._()+,-]*")
_WIDE = lazy(r"\d{4}")
"""in a format specification: a number that no name is as long as"""

_JOINERS = "\u200c\u200d"


class NamePattern(Struct, frozen=True):
    """A checked ``--name`` pattern: literal texts and fields with their format specifications."""

    text: str
    parts: tuple[tuple[str, str, str], ...]
    """``(literal, field, format specification)``; the field is empty behind the last literal."""

    @property
    def numbers_all(self) -> bool:
        """Whether it holds ``{n}``, the number of a picture in its run."""
        return any(field == "n" for _, field, _ in self.parts)

    @property
    def numbers_equals(self) -> bool:
        """Whether the pattern itself tells pictures of one name apart, by ``{k}``."""
        return any(field == "k" for _, field, _ in self.parts)


def parse_pattern(text: str, option: str = "--name") -> NamePattern:
    """Return the pattern that ``text`` spells; a UsageError says what is wrong and shows one that works."""
    hint = _EXAMPLES[option]
    if "/" in text or "\\" in text:
        raise UsageError(f"{option} {text!r}: a name cannot hold / or \\", hint=hint)
    import string  # noqa: PLC0415 (most runs have no patterns)

    parts: list[tuple[str, str, str]] = []
    try:
        for literal, field, specification, conversion in string.Formatter().parse(text):
            if field is not None and (conversion or "{" in (specification or "")):
                raise UsageError(f"{option} {text!r}: a field is {{field}} or {{field:format}}", hint=hint)
            if _WIDE.search(specification or "") is not None:
                raise UsageError(f"{option} {text!r}: no name has so many characters", hint=hint)
            parts.append(
                (
                    literal,
                    _known_field(field, f"{option} {text!r}", hint) if field is not None else "",
                    specification or "",
                )
            )
            if field is not None:
                format(_sample(parts[-1][1]), specification or "")
    except ValueError as error:
        raise UsageError(f"{option} {text!r}: {error}", hint=hint) from None
    return NamePattern(text, tuple(parts))


def beginning_with(start: NamePattern, patterns: Iterable[NamePattern]) -> tuple[NamePattern, ...]:
    """Return patterns of which each begins with another one; the last of them is that alone."""
    followed = (*patterns, _GIVEN, _BY_STEM, _BY_ALT)
    dash = NamePattern("-", (("-", "", ""),))
    return (
        *(NamePattern(start.text + dash.text + one.text, start.parts + dash.parts + one.parts) for one in followed),
        start,
    )


def parse_shelf(text: str) -> tuple[NamePattern, ...]:
    """Return the patterns of a path of folders, a pattern a step; a UsageError says what is wrong with one."""
    return tuple(parse_pattern(step, "--shelf") for step in text.split("/") if step.strip())


def _known_field(field: str, pattern: str, hint: str) -> str:
    known = (*_NUMBER_FIELDS, *_FIELDS, "date", *_LATE_FIELDS)
    if field in known or re.fullmatch(r"column\[[^\[\]]+\]", field):
        return field
    fields = ", ".join(f"{{{name}}}" for name in (*known, "column[HEADER]"))
    raise UsageError(f"{pattern}: there is no field {{{field}}}", hint=f"fields are {fields}; {hint}")


def _sample(field: str) -> str | int:
    return 1 if field in _NUMBER_FIELDS else _LATE_FIELDS.get(field, "x")


class Naming(Struct, frozen=True):
    """The patterns of one run, tried in order, and the day it runs on."""

    patterns: tuple[NamePattern, ...]
    today: date
    shelf: tuple[NamePattern, ...] = ()
    """sub-folders, outermost first; one whose fields are not known is left out"""

    is_plain: bool = False
    """whether names are of small letters, digits, hyphens and underscores alone"""

    def spell(self, image: Image, k: int = 1) -> str:
        """Return the ``k``-th name for ``image`` without its extension: legal, with late fields still as fields.

        The first pattern is used whose fields are all known and not blank; if there is none, the name that a list
        gives it, ``{stem}`` or ``{alt}``; its words come before a stem that may be any picture's (``large``), is a
        hash, or only tells what a program was asked with.
        Where the pattern has no ``{k}``, names from the second on end in `` 2``, `` 3``.
        """
        for pattern in self._in_turn(image):
            pieces = self._fill(pattern, image, k)
            if pieces is not None:
                name = self._shelved(self._joined(pieces), image)
                return name if k == 1 or pattern.numbers_equals else self._nth(name, k)
        return self._shelved("picture" if k == 1 else self._nth("picture", k), image)

    def next_free(self, image: Image, is_taken: Callable[[str], bool]) -> str:
        """Return a free name from the second on: double the number to a free one, then go back by halves.

        A name that is a number itself has the picture's words behind it, before further numbers.
        """
        used = self._used(image)
        first = self.spell(image) if used is None or not used.numbers_equals else ""
        if used is _BY_STEM and _NUMBERS.fullmatch(_stem_of(image)) is not None and (said := _said_of(image)):
            first = self._shelved(self._joined([(self._written(f"{_stem_of(image)} {said}"), False)]), image)
            if not is_taken(first):
                return first

        def nth(k: int) -> str:
            return self._nth(first, k) if first else self.spell(image, k)

        low, high = 1, 2
        while is_taken(nth(high)):
            low, high = high, high * 2
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if is_taken(nth(middle)) else (low, middle)
        return nth(high)

    def uses_stem(self, image: Image) -> bool:
        """Tell whether the pattern that names ``image`` goes by the name of its file, which its server may give."""
        used = self._used(image)
        return used is not None and any(field in {"stem", "words"} for _, field, _ in used.parts)

    def _used(self, image: Image) -> NamePattern | None:
        return next((pattern for pattern in self._in_turn(image) if self._fill(pattern, image, 1) is not None), None)

    def _in_turn(self, image: Image) -> tuple[NamePattern, ...]:
        named = _stem_of(image)
        says_little = not named or _is_made_up(named) or (not image.served and asks_a_program(image.url))
        own: tuple[NamePattern, ...] = ()
        if image.name.strip():
            own = (_GIVEN,)
        elif names_any(named) or (says_little and _said_of(image)):
            own = (_WORDS,)
        return (*self.patterns, *own, _BY_STEM, _BY_ALT)

    def _shelved(self, name: str, image: Image) -> str:
        if not self.shelf:
            return name
        filled = (self._fill(pattern, image, 1) for pattern in self.shelf)
        return "/".join((*(self._joined(pieces) for pieces in filled if pieces), name))

    def _nth(self, name: str, k: int) -> str:
        return f"{name}{'-' if self.is_plain else ' '}{k}"

    def _joined(self, pieces: list[tuple[str, bool]]) -> str:
        name = _join(pieces)
        return name.strip("-") or "picture" if self.is_plain else name

    def _written(self, text: str) -> str:
        return _plainly(text) if self.is_plain else text

    def _fill(self, pattern: NamePattern, image: Image, k: int) -> list[tuple[str, bool]] | None:
        """Return the pattern's pieces, ``(text, False)`` or ``(late field, True)``; None if a field is not known."""
        pieces: list[tuple[str, bool]] = []
        for literal, field, specification in pattern.parts:
            if literal:
                pieces.append((self._written(literal), False))
            if field in _LATE_FIELDS:
                pieces.append((f"{{{field}:{specification}}}", True))
            elif field:
                value = self._value(field, image, k)
                written = self._written(format(value, specification))
                if _is_blank(str(value)) or (self.is_plain and _is_blank(written)):
                    return None
                pieces.append((written.strip("-") if self.is_plain else written, False))
        return pieces

    def _value(self, field: str, image: Image, k: int) -> str | int:
        match field:
            case "n" | "k":
                return image.number if field == "n" else k
            case "date":
                return self.today.isoformat()
            case _:
                said = _FIELDS.get(field) or _OF_NO_PATTERN.get(field)
                return said(image) if said is not None else _cell_of(image.columns, field)


def _cell_of(columns: dict[str, str], field: str) -> str:
    header = named(field[len("column[") : -1], columns)
    return columns[header] if header is not None else ""


def _stem_of(image: Image) -> str:
    return plain_stem(image.served or _filename_of(image)) or stem(image.url)


def _filename_of(image: Image) -> str:
    """Return the name that a message or a link gives the file that is fetched; empty if none does."""
    if image.url == image.shown.url:
        return image.shown.filename
    return next((one.filename for one in image.references if one.filename and one.url == image.url), "")


def _alt_of(image: Image) -> str:
    """Return the alternative text; where programs put a file there, as they do where nobody says more, its stem."""
    alt = image.shown.words.alt.strip()
    return plain_stem(re.split(r"[/\\]", alt)[-1]) if is_file_path(alt) else alt


def _said_of(image: Image) -> str:
    """Return the first words about a picture that are not any picture's, nor a hash; blank if a page has none."""
    words = image.shown.words
    said = (text.strip() for text in (words.alt, image.item.title, words.title, words.caption) if not _is_blank(text))
    telling = (text for text in said if any(map(str.isalpha, text)))
    return next((text for text in telling if not (names_any(text) or _is_made_up(plain_stem(text)))), "")


def _is_made_up(name: str) -> bool:
    """Tell whether a program made up a name that tells a picture from others, and says nothing of it."""
    return is_opaque(name) or is_of_a_camera(name)


_NUMBERS = lazy(r"\d+(?:[-_]\d+)*")


# A late field with its format specification; or a brace that was doubled. Anything else is only text.
_LATE = lazy(r"\{(type|shape|width|height)(?::((?:[^{}0-9]|[0-9]{1,3}(?![0-9])){0,20}))?\}|\{\{|\}\}")


def finish(spelled: str, measures: Measures) -> str:
    """Return a spelled name with its late fields filled in from the file, and its extension."""
    kind = measures.type.value if measures.type else ""
    extension = media.BY_NAME[kind].extension
    if "{" not in spelled and "}" not in spelled:  # as most
        return f"{spelled}.{extension}"
    width, height = (side.value if side else 0 for side in (measures.width, measures.height))
    known: dict[str, str | int] = {"type": kind, "width": width, "height": height, "shape": shape(width, height)}

    def filled(match: re.Match[str]) -> str:
        try:
            return format(known[match[1]], match[2] or "") if match[1] else match[0][0]
        except ValueError:  # a ledger of a stranger may ask for anything
            return str(known[match[1]])

    return f"{_LATE.sub(filled, spelled)}.{extension}"


def so_far(spelled: str, measures: Measures) -> str:
    """Return a spelled name as far as it is known before the file is: fields that only the file can tell stay."""
    if measures.type is not None and measures.width is not None and measures.height is not None:
        return finish(spelled, measures)
    extension = f".{media.BY_NAME[measures.type.value].extension}" if measures.type is not None else ""
    return _LATE.sub(lambda match: f"{{{match[1]}}}" if match[1] else match[0][0], spelled) + extension


SHAPES = LANDSCAPE, PORTRAIT, SQUARE = ("landscape", "portrait", "square")


def shape(width: int, height: int) -> str:
    """Return one of SHAPES (square: sides within 3 % of each other), or ``"unknown"``."""
    if not width or not height:
        return "unknown"
    if abs(width - height) <= 0.03 * max(width, height):
        return SQUARE
    return LANDSCAPE if width > height else PORTRAIT


def is_legal_folder(text: str) -> bool:
    """Tell whether a text is a folder's name that every system takes, as it stands."""
    return bool(text) and legal(text) == text and text not in OWN_NAMES


def legal(text: str) -> str:
    """Return ``text`` as a file name that Linux, macOS and Windows all take, at most LONGEST_NAME bytes."""
    return with_single_braces(_join([(text, False)]))


_FIELDS: Mapping[str, Callable[[Image], str]] = {
    "stem": _stem_of,
    "alt": _alt_of,
    "title": lambda image: image.shown.words.title,
    "caption": lambda image: image.shown.words.caption,
    "heading": lambda image: image.shown.words.heading,
    "link_text": lambda image: image.shown.words.link_text,
    "item": lambda image: image.item.title,
    "page": lambda image: image.page_title or stem(image.shown.page),
    "folder": lambda image: folder_of(image.url),
    "site": lambda image: site(image.url) or site(image.shown.page),
}
"""what a picture has for each field, besides numbers, the day and what its file tells"""

_OF_NO_PATTERN: Mapping[str, Callable[[Image], str]] = {
    "given": lambda image: plain_stem(image.name.strip()),
    "words": lambda image: _said_of(image) or stem_with_folder(image.url),
}
"""the same for fields that nobody types"""


def _is_blank(text: str) -> bool:
    """Tell whether a text has nothing to call a file by: neither letters and digits nor signs, as emoji are.

    What programs write where they know of nothing is nothing.
    """
    return text.strip().lower() in _OF_NO_VALUE or not any(unicodedata.category(one)[0] in "LNS" for one in text)


def _plainly(text: str) -> str:
    """Return a text with a hyphen for whatever is no letter, digit or underscore; Latin letters without their marks."""
    text = unmarked_latin(text).replace("'", "")
    if not text.isascii():
        text = "".join(one if one == "_" or unicodedata.category(one)[0] in _OF_WORDS else "-" for one in text)
    return _NOT_PLAIN.sub("-", text)


def with_doubled_braces(text: str) -> str:
    """Return a text as a spelled name has it: single braces stand around its late fields."""
    return text.replace("{", "{{").replace("}", "}}")


def with_single_braces(name: str) -> str:
    """Return a spelled name without late fields as a text."""
    return name.replace("{{", "{").replace("}}", "}")


def _join(pieces: list[tuple[str, bool]]) -> str:
    """Return one legal name from texts (False) and late fields (True); braces in texts are doubled."""
    if len(pieces) == 1 and not pieces[0][1] and _is_plain(pieces[0][0]):
        return pieces[0][0]
    texts = [text if late else _clean(text) for text, late in pieces]
    excess = sum(len(text.encode("utf-8")) for text in texts) - LONGEST_NAME
    if excess > 0:
        longest = max((n for n, (_, late) in enumerate(pieces) if not late), key=lambda n: len(texts[n].encode()))
        octets = texts[longest].encode("utf-8")
        texts[longest] = octets[: max(0, len(octets) - excess)].decode("utf-8", "ignore")
    joined = "".join(
        text if late else with_doubled_braces(text) for text, (_, late) in zip(texts, pieces, strict=True)
    ).strip(" .")  # Windows drops dots and spaces at the end; a dot at the start hides a file elsewhere
    return f"_{joined}" if _is_device(joined) or key(joined) in OWN_NAMES else joined or "picture"


def _is_plain(text: str) -> bool:
    """Tell whether a text is a legal name as it is, as most are."""
    if _PLAIN.fullmatch(text) is None or not 0 < len(text) <= LONGEST_NAME or "." in (text[0], text[-1]):
        return False
    return not _is_device(text) and text.lower() not in OWN_NAMES


def _is_device(name: str) -> bool:
    return name.partition(".")[0].rstrip(" ").lower() in _DEVICES


def _clean(text: str) -> str:
    if _PLAIN.fullmatch(text):
        return text
    text = unicodedata.normalize("NFC", text)
    text = "".join(c for c in text if unicodedata.category(c)[0] != "C" or c in _JOINERS or c.isspace())
    return _FORBIDDEN.sub(_replacement, text)


def _replacement(run: re.Match[str]) -> str:
    if run[0].isspace():
        return " "
    return " - " if any(c.isspace() for c in run[0]) else "-"


def key(name: str) -> str:
    """Return what two names share that a file system without case or normalisation takes for one."""
    if name.isascii():
        return name.lower()
    return unicodedata.normalize("NFC", unicodedata.normalize("NFKD", name).casefold())


def patterns(texts: Iterable[str]) -> tuple[NamePattern, ...]:
    """Return the checked patterns of ``--name``, in order; without the extensions in them, which the bytes decide."""
    return tuple(parse_pattern(_EXTENSION.sub("", text)) for text in texts)


_GIVEN = NamePattern("", (("", "given", ""),))
"""the name that a list gives a picture: no field to be typed"""

_WORDS = NamePattern("", (("", "words", ""),))
"""what a page says of a picture, where its address says nothing"""

_BY_STEM, _BY_ALT = NamePattern("{stem}", (("", "stem", ""),)), NamePattern("{alt}", (("", "alt", ""),))
