"""Image addresses in text that is no markup: attribute values, JSON, JavaScript strings.

Weaker evidence than markup, so the rules are strict: an address must end its path in an image extension, and must
not be a piece of a longer expression. A wrong address is worse than none here.
"""

import itertools
import json
import re
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from urllib.parse import unquote

from pickcrate.finders.constants import Constants, sums
from pickcrate.finders.encoded import BASE64_LITERAL, decoded
from pickcrate.finders.named import may_be_address, may_hold_named, named_in_script, named_strings
from pickcrate.finders.srcset import ImageCandidateString, parse_srcset
from pickcrate.finders.strings import (
    DEEPEST,
    LONGEST_ADDRESS,
    MOST_VALUES,
    string_literals,
    unescape,
    without_references,
)
from pickcrate.lazyre import lazy
from pickcrate.media import ANY_EXTENSION, EXTENSIONS

# The look-ahead makes it four times as fast: most dots are followed by no letter that could begin an extension.
_FIRST_LETTERS = "".join(sorted({e[0] for e in EXTENSIONS}))
EXTENSION = lazy(rf"\.(?=[{_FIRST_LETTERS}])(?:{ANY_EXTENSION})(?![\w-])", re.IGNORECASE)
_IN_NO_PATH = lazy(r"[\s<>{}|\\^`\"'*]")
_BEGINS_AS_PATH = lazy(r"(?:(?:https?:)?//|\.{0,2}/|[\w.~%-]+/)(?=[^\s/])")
_WRITTEN_OUT = lazy(r"(?<=\S) (?=\S)|(?<=\w)'(?=\w)")
"""what a browser takes in an address as it is: the spaces and apostrophes of a file's name"""

_IN_NO_QUERY = lazy(r"[\s<>\"']")
_QUERY = lazy(r"[?#]")
_PIECED_BEFORE = lazy(r"[+]\s*$")
_PIECED_AFTER = lazy(r"\s*[+]")
_IS_SHOWN = lazy(r"(?:\.(?:src|href)\s*=|\bopen\s*\(|\(\s*[\"'](?:src|href)[\"']\s*,)\s*\Z")
"""before what a script shows, or opens: ``pic.src = …``, ``window.open(…)``, ``setAttribute("src", …)``"""

_DESCRIPTOR = lazy(r"(\d{1,5})(w|x|px)")
_NUMBER = lazy(r"\d{2,4}")
_LEAST_STEP = 1.15
"""how much larger a width is than the next smaller one"""

_STATES_SIZES = lazy(
    rf"\"(?:w(?:idth)?|\d{{1,5}}(?:w|x|px)?)\"\s{{0,9}}:|\.(?:{ANY_EXTENSION})(?:[?#][^\"]{{0,999}}+)?\"\s{{0,9}}:",
    re.IGNORECASE,
)
"""a name in JSON that is a size, says one, or is an address"""

_PAIRS = lazy(r"[A-Za-z_]\w{0,40}=(?!=)")
"""how names with values begin, as in a query: ``file=red.jpg&title=Red``"""

_OPTION = lazy(r"\s*+(?!(?:https?|ftp|file|data|blob|cid|mid)\s*:)[A-Za-z][\w-]{0,40}+\s*+:", re.IGNORECASE)
"""how a name of an option begins, that is no scheme of an address"""

_FOR_ADDRESS = lazy(r"(?:src|ur[li]|poster)$", re.IGNORECASE)
_BETWEEN_OPTIONS = lazy(r"[;,\n]")
_DATA_IN_STRING = lazy(r"\\\"[\w$@-]{1,40}\\\"\s{0,3}:|['`]\s{0,3}[\[{]")
"""data that is itself a string: ``"{\\"image\\": …}"``"""

_NAMED_VALUE = lazy(r"[{\[,]\s{0,9}\"[\w$@-]{1,40}\"\s{0,9}:")
"""a name with its value in data"""

_SUBSTITUTED = lazy(r"\$\{([^{}`]++)")
"""an expression in a template, up to what is nested in it"""

_HOLDS_MORE = lazy(r"[<\"]|url\(")
"""what a string has that is a piece of a page, of a style, or data"""

_IS_SRCSET = lazy(r"\s\d{1,5}(?:\.\d{1,3})?[wx]\s*\Z")
"""the descriptor that a srcset ends in"""

_FOLDER = lazy(r"/(?:[\"'`]|\$\{)")
"""how a literal ends that others are put behind"""

_INNER_ATTRIBUTE = lazy(
    r"(?<![\w-])(?:src(?:set)?|href|data-[\w-]++|poster)\s*+=\s*+(?:\"([^\"<>]*)\"|'([^'<>]*)'|([^\s\"'<>]+))",
    re.IGNORECASE,
)
_INNER_URL = lazy(r"url\(\s*+(?:\"([^\"]++)\"|'([^']++)'|([^\"'()\s]++))\s*+\)", re.IGNORECASE)
_BRACKETED = lazy(r"(?:\[[^\[\]]++\][\s,]*+)++")
_IN_BRACKETS = lazy(r"\[\s*+(?P<url>[^\s,\[\]\"']++)\s*+,(?P<condition>[^\[\]\"']*+)\]")
_COMPARED = lazy(r"(?:[<>]=?\s*+\d\w*+\s*+:[^,<>]++,?+\s*+)++")
_BEHIND_SIGN = lazy(r"(?P<condition>[<>])=?\s*+\d\w*+\s*+:\s*+(?P<url>[^\s,<>]++)")
_OPENS_JSON = frozenset("{[")
_MOST_AROUND = 2
"""strings inside one another that are looked into: data in a string of data in a script"""


def is_address(text: str) -> bool:
    """Tell whether a whole text is the address of an image file."""
    text = text.strip()
    if len(text) > LONGEST_ADDRESS or text[:4].lower() == "url(":
        return False
    query = _QUERY.search(text)
    path = text[: query.start()] if query else text
    stem, _, extension = path.rpartition(".")
    if extension.lower() not in EXTENSIONS or not stem or stem[-1] in "/=":
        return False
    if _IN_NO_PATH.search(path) and not _is_written_out(path, stem):
        return False
    return query is None or _IN_NO_QUERY.search(text, query.start()) is None


def _is_written_out(path: str, stem: str) -> bool:
    """Tell whether a path that ends in an image extension is one with spaces in it, and neither a sentence nor a list.

    It says where it lies from its first character on, and ends once.
    """
    if _BEGINS_AS_PATH.match(path) is None or EXTENSION.search(stem) is not None:
        return False
    return _IN_NO_PATH.search(_WRITTEN_OUT.sub("", path)) is None


def is_file(text: str) -> bool:
    """Tell whether a text that something else says to be an address is one of an image file: "Red kite.jpg" as well."""
    return is_address(text) or is_address(f"./{text.strip()}")


def says_where(text: str) -> bool:
    """Tell whether an address says more than a bare file name does: a folder, a host."""
    return "/" in text.partition("?")[0]


def in_value(value: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of an attribute's value: itself, a srcset's, a ``url()``'s, or those of its JSON."""
    text = decoded(value.strip())
    if EXTENSION.search(text) is None:
        if text[:1] in _OPENS_JSON and may_hold_named(text):
            yield from in_json(text)
        return
    if _PAIRS.match(text) is not None:
        yield from map(ImageCandidateString, in_query(f"?{text}"))
    elif by_screen := by_condition(text):
        yield from map(ImageCandidateString, by_screen)
    elif densities := by_density(text, is_address):
        yield from densities
    elif listed := _declared(text) or _listed(text):
        yield from map(ImageCandidateString, listed)
    elif text[:1] in _OPENS_JSON:
        yield from in_notation(text)
    elif "url(" in text.lower():
        yield from map(ImageCandidateString, _in_urls(text))
    elif "<" in text:
        yield from map(ImageCandidateString, _in_markup(text))
    else:
        entries = parse_srcset(text)
        if entries and all(is_address(entry.url) for entry in entries):
            yield from entries


def _listed(text: str) -> list[str]:
    """Return the addresses of a value that is one, or has several and nothing between them but a separator."""
    for separator in (",", ";", "|", None):
        pieces = text.split(separator)
        if len(pieces) > 1 and all(map(is_address, pieces)):
            return [piece.strip() for piece in pieces]
    return [text] if is_address(text) else []


def sizes_in(text: str) -> list[ImageCandidateString]:
    """Return the entries of a text that is the value of a srcset, and says so by its descriptors."""
    entries = parse_srcset(text) if _IS_SRCSET.search(text) is not None else []
    return entries if all(is_address(entry.url) and (entry.width or entry.density) for entry in entries) else []


def _declared(text: str) -> list[str]:
    """Return the addresses of a value that has options as a style has declarations: ``src: red.jpg; fit: cover``.

    A bare file name counts where its option is for an address: ``File: red.jpg`` may be words.
    """
    if _OPTION.match(text) is None:
        return []
    options = [option for option in _BETWEEN_OPTIONS.split(text) if option.strip()]
    if not all(map(_OPTION.match, options)):
        return []
    parts = (option.partition(":") for option in options)
    named = [(name.strip(), value.strip(" \t\n\"'")) for name, _, value in parts]
    return [value for name, value in named if is_address(value) and (says_where(value) or _FOR_ADDRESS.search(name))]


def by_density(text: str, is_one: Callable[[str], object]) -> list[ImageCandidateString]:
    """Return the two addresses of a value that has one for plain and one for fine screens: ``a.jpg|a-2x.jpg``."""
    plain, bar, fine = text.partition("|")
    if not bar or not is_one(plain.strip()) or not is_one(fine.strip()):
        return []
    return [ImageCandidateString(plain.strip(), density=1.0), ImageCandidateString(fine.strip(), density=2.0)]


def by_condition(text: str) -> dict[str, str]:
    """Return the addresses of a value that has one for each kind of screen, with the condition of each.

    ``[red-s.jpg, small], [red-l.jpg, (min-width: 800px)]``, or ``<768:red-s.jpg, >768:red-l.jpg``.
    """
    for whole, each in ((_BRACKETED, _IN_BRACKETS), (_COMPARED, _BEHIND_SIGN)):
        if whole.fullmatch(text) is not None:
            found = (match.groupdict() for match in each.finditer(text))
            return {match["url"]: match["condition"] for match in found if is_address(match["url"])}
    return {}


def in_notation(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a value in JSON, with the widths that it states, or in a script's own notation."""
    parsed = _parsed(text)
    yield from map(ImageCandidateString, in_script(text)) if parsed is None else _in_parsed(text, parsed)


def in_json(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a JSON text, with the widths that it states; none if it is not JSON."""
    parsed = _parsed(text)
    if parsed is not None:
        yield from _in_parsed(text, parsed)


def _in_parsed(text: str, parsed: object) -> Iterator[ImageCandidateString]:
    sized = {entry.url: entry for entry in _sized(parsed)} if _STATES_SIZES.search(text) is not None else {}
    for raw in _strings_of(parsed):
        yield sized.pop(raw) if raw in sized else ImageCandidateString(raw)
    yield from sized.values()  # names of an object, not strings in it


def _parsed(text: str) -> object:
    """Return the value that a JSON text is, whole numbers as text however long they are; None if it is none."""
    try:
        parsed: object = json.loads(text, parse_int=str)
    except (ValueError, RecursionError):
        return None
    return parsed


def _strings_of(parsed: object) -> Iterator[str]:
    for string, is_named in named_strings(parsed):
        raw = decoded(string)
        if is_address(raw) or (is_named and (may_be_address(raw) or is_file(raw))):
            yield raw.strip()
        elif sizes := sizes_in(raw):
            yield from (entry.url for entry in sizes)
        elif EXTENSION.search(raw) is not None:
            yield from _in_piece(raw, 0)


def in_block(text: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a data block of a type of its own (HTML standard, 4.12.1): JSON, or markup."""
    is_json = text.lstrip()[:1] in _OPENS_JSON
    if is_json and (EXTENSION.search(text) is not None or may_hold_named(text)):
        yield from in_json(text)
    elif "<" in text and not is_json:
        yield from map(ImageCandidateString, _in_markup(text))


def _sized(parsed: object) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of a JSON value with the widths that it states for them.

    A width stands beside the address (``{"url": …, "width": 800}``) or is its value (``{"…": [800, 600]}``).
    """
    waiting: list[tuple[object, int | None, int]] = [(parsed, None, 0)]
    left = MOST_VALUES
    while waiting and left:
        value, width, depth = waiting.pop()
        left -= 1
        if isinstance(value, str):
            if is_address(value):
                yield ImageCandidateString(value.strip(), width)
        elif depth < DEEPEST and isinstance(value, dict):
            for name, inner in value.items():
                if is_address(name):
                    yield ImageCandidateString(name.strip(), _first_number(inner))
            if described := _described(value):
                yield from described
                continue
            addresses = [inner for inner in value.values() if isinstance(inner, str) and is_address(inner)]
            stated = _first_number(value.get("width", value.get("w"))) if len(addresses) == 1 else None
            waiting.extend((inner, stated, depth + 1) for inner in reversed(value.values()))
        elif depth < DEEPEST and isinstance(value, list):
            waiting.extend((inner, None, depth + 1) for inner in reversed(value))


def _described(value: dict[str, object]) -> list[ImageCandidateString]:
    """Return the addresses of an object whose names are sizes, a srcset's or in pixels: ``{"1x": …, "2x": …}``."""
    sizes = {name: size_called(name) for name in value}
    if None in sizes.values() and _are_widths(value):
        sizes = {name: (int(name), None) for name in value}
    found = [
        ImageCandidateString(inner.strip(), *size)
        for name, inner in value.items()
        if isinstance(inner, str) and is_address(inner) and (size := sizes[name]) is not None
    ]
    return found if len(found) == len(value) > 1 else []


def size_called(name: str) -> tuple[int | None, float | None] | None:
    """Return the width or the density that a name in data is: ``2x``, ``800w``, ``800px``; None if it is none."""
    match = _DESCRIPTOR.fullmatch(name)
    if match is None:
        return None
    return (None, float(match[1])) if match[2] == "x" else (int(match[1]), None)


def _are_widths(names: Iterable[str]) -> bool:
    """Tell whether names are numbers as widths are: round, and in steps; years and identifiers follow each other."""
    if not all(map(_NUMBER.fullmatch, names)):
        return False
    widths = sorted(map(int, names))
    is_round = all(width % 5 == 0 or width % 8 == 0 for width in widths)
    return is_round and all(larger >= smaller * _LEAST_STEP for smaller, larger in itertools.pairwise(widths))


def _first_number(value: object) -> int | None:
    """Return a width that JSON states: a number, a number as text, or the first of a pair."""
    if isinstance(value, list) and value:
        value = value[0]
    if isinstance(value, str) and value.isdecimal() and len(value) < 6:
        value = int(value)
    return int(value) if isinstance(value, int | float) and not isinstance(value, bool) and 0 < value < 1e5 else None


def in_query(link: str) -> Iterator[str]:
    """Yield the image addresses among the values of a link's query: ``view.php?img=/full/red.jpg``."""
    for part in link.partition("?")[2].partition("#")[0].split("&"):
        value = unquote(part.partition("=")[2] or part)
        if is_address(value):
            yield value


def in_script(
    text: str, depth: int = 0, *, is_handler: bool = False, of_page: Callable[[], Constants] | None = None
) -> Iterator[str]:
    """Yield the image addresses among the string literals of a script, unescaped.

    A string that is put together with others (``"img/" + name + ".png"``) is only a piece, unless they are constants
    (``constants.sums``). A bare file name is one, too, where the script has a folder to put before it; but not in an
    ``img`` or a ``url()``, nor where it is given to a ``src`` or to what opens it, nor in what is done when a picture
    is clicked on (``is_handler``). ``depth`` counts the strings around; ``of_page`` returns what is constant in all
    scripts of the page.
    """
    named = named_in_script(text)
    holds_data = depth < _MOST_AROUND and _DATA_IN_STRING.search(text) is not None
    holds_base64 = BASE64_LITERAL.search(text) is not None
    if not (named or holds_data or holds_base64 or EXTENSION.search(text)):
        return
    has_folder = not is_handler and _FOLDER.search(text) is not None
    for start, end, strings in _expressions(text, of_page):
        literal = text[start + 1 : end - 1]
        if strings is None and EXTENSION.search(literal) is None:
            if start in named:
                yield named[start]
            elif holds_data and may_hold_named(plain := unescape(literal)):
                yield from in_script(plain, depth + 1)
            elif holds_base64 and (plain := decoded(literal)) != literal:
                yield from _in_piece(plain, depth) if _HOLDS_MORE.search(plain) else _listed(plain)
            continue
        if text[start] == "`" and depth < _MOST_AROUND:
            for expression in _SUBSTITUTED.findall(literal):
                yield from in_script(expression, depth + 1)
        is_shown = _IS_SHOWN.search(text, max(0, start - 30), start) is not None
        is_piece = strings is None and _is_piece(text, start, end)
        for plain in map(decoded, strings or (unescape(literal),)):
            if _HOLDS_MORE.search(plain) is not None:
                yield from _in_piece(plain, depth)
            elif not is_piece:
                yield from _in_string(plain, is_shown=is_shown, has_folder=has_folder)


def _in_string(text: str, *, is_shown: bool, has_folder: bool) -> Iterator[str]:
    """Yield the address that a whole string is, or those that it lists."""
    if is_shown and is_file(text):
        yield text.strip()
        return
    found = _listed(text) or [entry.url for entry in sizes_in(text)]
    if is_shown or not has_folder or all(map(says_where, found)):
        yield from found


def _expressions(
    text: str, of_page: Callable[[], Constants] | None
) -> Iterator[tuple[int, int, tuple[str, ...] | None]]:
    """Yield where the string literals of a script begin and end; instead of those with constants beside them the whole.

    That comes with the strings that it may make.
    """
    whole = deque(sums(text, of_page))
    read_up_to = 0
    for start, end in string_literals(text):
        while whole and whole[0].start <= start:
            summed = whole.popleft()
            read_up_to = summed.end
            yield summed.start, read_up_to, summed.strings
        if start >= read_up_to:
            yield start, end, None
    for summed in whole:
        yield summed.start, summed.end, summed.strings


def _is_piece(text: str, start: int, end: int) -> bool:
    """Tell whether more than a literal is in its expression."""
    if text[start] == "`" and "${" in text[start:end]:
        return True
    return bool(_PIECED_BEFORE.search(text, max(0, start - 20), start) or _PIECED_AFTER.match(text, end))


def _in_piece(text: str, depth: int) -> Iterator[str]:
    """Yield the image addresses in a string that is itself a piece of a page, of a style, or of data.

    Data may hold pieces of pages in its own strings.
    """
    if depth < _MOST_AROUND and not text.lstrip().startswith("<") and _NAMED_VALUE.search(text) is not None:
        yield from in_script(text, depth + 1)
        return
    if "<" in text:
        yield from _in_markup(text)
    if "url(" in text:
        yield from _in_urls(text)
    if '"' in text and "<" not in text and depth < _MOST_AROUND:
        yield from in_script(text, depth + 1)


def in_rows(text: str) -> Iterator[str]:
    """Yield the image addresses of a text whose rows are data, or pieces of a page."""
    for row in text.split("\n"):  # other ends of lines may stand in strings
        if EXTENSION.search(row) is not None or may_hold_named(row):
            yield from _in_piece(row, 0)


def _in_urls(text: str) -> Iterator[str]:
    """Yield the image addresses that are marked as addresses, as in a style."""
    for match in _INNER_URL.finditer(text):
        raw = match[match.lastindex or 1].strip()
        if is_file(raw):
            yield raw


def _in_markup(text: str) -> Iterator[str]:
    for match in _INNER_ATTRIBUTE.finditer(text):
        raw = without_references(match[1] or match[2] or match[3] or "")
        if is_address(raw):
            yield raw
        elif EXTENSION.search(raw) is not None and (entries := parse_srcset(raw)):
            yield from (entry.url for entry in entries if is_address(entry.url))
