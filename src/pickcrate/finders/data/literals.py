"""Image addresses in text that is no markup: what is one, and those among the string literals of scripts.

Weaker evidence than markup, so the rules are strict: an address must end its path in an image extension, and must
not be a piece of a longer expression. A wrong address is worse than none here.
"""

import re
from collections import deque
from collections.abc import Callable, Iterator
from urllib.parse import unquote

from pickcrate.finders.data.constants import Constants, sums
from pickcrate.finders.data.encoded import BASE64_LITERAL, decoded
from pickcrate.finders.data.named import may_be_address, may_hold_named, named_in_script
from pickcrate.finders.data.strings import (
    LONGEST_ADDRESS,
    string_literals,
    unescape,
    without_references,
)
from pickcrate.finders.srcset import ImageCandidateString, parse_srcset
from pickcrate.media import ANY_EXTENSION, EXTENSIONS
from pickcrate.read.lists.addresslist import addresses_among
from pickcrate.text.lazyre import lazy

# The look-ahead makes it four times as fast: most dots are followed by no letter that could begin an extension.
_FIRST_LETTERS = "".join(sorted({e[0] for e in EXTENSIONS}))
EXTENSION = lazy(rf"\.(?=[{_FIRST_LETTERS}])(?:{ANY_EXTENSION})(?![\w-])", re.IGNORECASE)
_IN_NO_PATH = lazy(r"[\s<>{}|\\^`\"'*]")
_BEGINS_AS_PATH = lazy(r"(?:(?:https?:)?//|\.{0,2}/|[\w.~%-]+/)(?=[^\s/])")
_WRITTEN_OUT = lazy(r"(?<=\S) (?=\S)|(?<=\w)'(?=\w)")
"""what a browser takes in an address as it is: the spaces and apostrophes of a file's name"""

_OTHERWISE_HAD = lazy(r"(?!https?:|file:)[a-z][a-z0-9+.-]{1,20}://", re.IGNORECASE)
"""a scheme of a store, or of one program (``s3://``, ``public://``): no browser has anything from there"""

_IN_NO_QUERY = lazy(r"[\s<>\"']")
_QUERY = lazy(r"[?#]")
_PIECED_BEFORE = lazy(r"[+]\s*$")
_PIECED_AFTER = lazy(r"\s*[+]")
_IS_SHOWN = lazy(r"(?:\.(?:src|href)\s*=|\bopen\s*\(|\(\s*[\"'](?:src|href)[\"']\s*,)\s*\Z")
"""before what a script shows, or opens: ``pic.src = …``, ``window.open(…)``, ``setAttribute("src", …)``"""


_COMPARED = lazy(r"\.(?:split|(?:lastI|i)ndexOf|includes|(?:start|end)sWith)\(\s{0,9}\Z")
"""before what a string is only looked through for: ``src.endsWith("none.jpg")``"""

_SOUGHT = r"(?:\"[^\"\n]{0,80}\"|'[^'\n]{0,80}'|/[^/\n]{1,80}/[a-z]{0,4})"
_EXCHANGED = lazy(rf"\.replace(?:All)?\(\s{{0,9}}(?:{_SOUGHT}\s{{0,9}},\s{{0,9}})?\Z")
"""before what is exchanged in an address, and what for: ``src.replace("_s.jpg", "_l.jpg")``"""

_MOST_BEFORE = 120
_DATA_IN_STRING = lazy(r"\\\"[\w$@-]{1,40}\\\"\s{0,3}:|['`]\s{0,3}[\[{]")
"""data that is itself a string: ``"{\\"image\\": …}"``"""

_NAMED_VALUE = lazy(r"[{\[,]\s{0,9}\"[\w$@-]{1,40}\"\s{0,9}:")
"""a name with its value in data"""

_SUBSTITUTED = lazy(r"\$\{([^{}`]++)")
"""an expression in a template, up to what is nested in it"""

_HOLDS_MORE = lazy(r"[<\"]|url\(|!\[")
"""what a string has that is a piece of a page, of a style, or data"""

_IS_SRCSET = lazy(r"\s\d{1,5}(?:\.\d{1,3})?[wx]\s*\Z")
"""the descriptor that a srcset ends in"""

_FOLDER = lazy(r"/(?:[\"'`]|\$\{)")
"""how a literal ends that others are put behind"""

_INNER_ATTRIBUTE = lazy(
    r"(?<![\w-])(?:src(?:set)?|href|data-[\w-]++|poster)\s*+=\s*+(?:\"([^\"<>]*)\"|'([^'<>]*)'|([^\s\"'<>]+))",
    re.IGNORECASE,
)
_INNER_IMG = lazy(
    r"<img\b[^<>]{0,1000}?\ssrc\s{0,3}=\s{0,3}(?:\"([^\"<>]{2,2000})\"|'([^'<>]{2,2000})')", re.IGNORECASE
)
_ANY_ADDRESS = lazy(r"(?:(?:https?:)?//|\.{0,2}/)[^\s<>{}|\"'\\$\[\]]+(?<![/=])", re.IGNORECASE)
"""an address of anything, without signs by which a template marks what it puts there"""

_INNER_URL = lazy(r"url\(\s*+(?:\"([^\"]++)\"|'([^']++)'|([^\"'()\s]++))\s*+\)", re.IGNORECASE)
_SHOWN_IN_MARKDOWN = lazy(
    r"!\[[^\[\]\n]{0,500}\]\(\s{0,9}<?((?!(?!https?:)[a-z]{1,20}:)[^\s()<>]{1,2000})", re.IGNORECASE
)
"""the address of a picture in a text (CommonMark 0.31, 6.4)"""

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
    if extension.lower() not in EXTENSIONS or not stem or stem[-1] in "/=" or _OTHERWISE_HAD.match(path) is not None:
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


def listed(text: str) -> list[str]:
    """Return the addresses of a value that is one, or has several and nothing between them but a separator."""
    for separator in (",", ";", "|", None):
        pieces = text.split(separator)
        if len(pieces) > 1 and all(map(is_address, pieces)):
            return [piece.strip() for piece in pieces]
    return [text] if is_address(text) else []


def sizes_in(text: str) -> list[ImageCandidateString]:
    """Return the entries of a text that is the value of a srcset, and says so by its descriptors."""
    entries = parse_srcset(text) if _IS_SRCSET.search(text) is not None else []
    are_sizes = all((entry.width or entry.density) and _may_be_one(entry.url) for entry in entries)
    return entries if are_sizes else []


def _may_be_one(url: str) -> bool:
    return is_address(url) or may_be_address(url)


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
    if not (named or holds_data or holds_base64 or holds_img(text) or EXTENSION.search(text)):
        return
    has_folder = not is_handler and _FOLDER.search(text) is not None
    for start, end, strings in expressions(text, of_page):
        literal = text[start + 1 : end - 1]
        if strings is None and EXTENSION.search(literal) is None and not holds_img(literal):
            if start in named:
                yield named[start]
            elif holds_data and may_hold_named(plain := unescape(literal)):
                yield from in_script(plain, depth + 1)
            elif holds_base64 and (plain := decoded(literal)) != literal:
                yield from in_piece(plain, depth) if _HOLDS_MORE.search(plain) else listed(plain)
            continue
        if text[start] == "`" and depth < _MOST_AROUND:
            for expression in _SUBSTITUTED.findall(literal):
                yield from in_script(expression, depth + 1)
        is_shown = _IS_SHOWN.search(text, max(0, start - 30), start) is not None
        is_piece = strings is None and (is_summed(text, start, end) or _is_part(text, start, literal))
        for plain in map(decoded, strings or (unescape(literal),)):
            if _HOLDS_MORE.search(plain) is not None:
                yield from in_piece(plain, depth)
            elif not is_piece:
                yield from _in_string(plain, is_shown=is_shown, has_folder=has_folder)


def _in_string(text: str, *, is_shown: bool, has_folder: bool) -> Iterator[str]:
    """Yield the address that a whole string is, or those that it lists."""
    if is_shown and is_file(text):
        yield text.strip()
        return
    if is_shown and "?" in text:  # a page is opened with the picture's address in its query
        yield from in_query(text)
        return
    found = listed(text) or [entry.url for entry in sizes_in(text)]
    if is_shown or not has_folder or all(map(says_where, found)):
        yield from found


def expressions(
    text: str, of_page: Callable[[], Constants] | None = None
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


def is_summed(text: str, start: int, end: int) -> bool:
    """Tell whether more than a literal is in its expression."""
    if text[start] == "`" and "${" in text[start:end]:
        return True
    return bool(_PIECED_BEFORE.search(text, max(0, start - 20), start) or _PIECED_AFTER.match(text, end))


def _is_part(text: str, start: int, literal: str) -> bool:
    """Tell whether a literal is what an address is looked through for, or a part of one that gives way to another."""
    before = text[max(0, start - _MOST_BEFORE) : start].rstrip()
    if not before.endswith(("(", ",")):
        return False
    if _COMPARED.search(before) is not None:
        return True
    return not says_where(literal) and _EXCHANGED.search(before) is not None


def in_piece(text: str, depth: int = 0) -> Iterator[str]:
    """Yield the image addresses in a string that is itself a piece of a page, of a style, or of data.

    Data may hold pieces of pages in its own strings.
    """
    if depth < _MOST_AROUND and not text.lstrip().startswith("<") and _NAMED_VALUE.search(text) is not None:
        yield from in_script(text, depth + 1)
        return
    if "<" in text:
        yield from in_markup(text)
    if "url(" in text:
        yield from in_urls(text)
    yield from _in_words(text)
    if '"' in text and "<" not in text and depth < _MOST_AROUND:
        yield from in_script(text, depth + 1)


def in_rows(text: str) -> Iterator[str]:
    """Yield the image addresses of a text whose rows are data, or pieces of a page."""
    for row in text.split("\n"):  # other ends of lines may stand in strings
        if EXTENSION.search(row) is not None or may_hold_named(row):
            yield from in_piece(row, 0)


def _in_words(text: str) -> Iterator[str]:
    """Yield the image addresses in a text: those that Markdown shows, and whole ones among words."""
    shown = in_markdown(text) if "![" in text else ()
    whole = filter(is_address, addresses_among(text)) if "://" in text and "<" not in text else ()
    yield from dict.fromkeys((*shown, *whole))


def in_markdown(text: str) -> Iterator[str]:
    """Yield the addresses of the image files that a text in Markdown shows."""
    yield from filter(is_file, _SHOWN_IN_MARKDOWN.findall(text))


def in_urls(text: str) -> Iterator[str]:
    """Yield the image addresses that are marked as addresses, as in a style."""
    for match in _INNER_URL.finditer(text):
        raw = match[match.lastindex or 1].strip()
        if is_file(raw):
            yield raw


def holds_img(text: str) -> bool:
    """Tell whether a text may have an ``img`` in it, whose address needs no extension; in JSON it may be escaped."""
    return "<img" in text or "<IMG" in text or "\\u003cimg" in text or "\\u003Cimg" in text


def _is_any_address(raw: str) -> bool:
    return _ANY_ADDRESS.fullmatch(raw.strip()) is not None


def in_markup(text: str) -> Iterator[str]:
    """Yield the image addresses in the attributes of a piece of markup."""
    if holds_img(text):
        shown = (without_references(match[1] or match[2] or "") for match in _INNER_IMG.finditer(text))
        yield from (raw for raw in shown if not is_address(raw) and _is_any_address(raw))
    for match in _INNER_ATTRIBUTE.finditer(text):
        raw = without_references(match[1] or match[2] or match[3] or "")
        if is_address(raw):
            yield raw
        elif EXTENSION.search(raw) is not None and (entries := parse_srcset(raw)):
            yield from (entry.url for entry in entries if is_address(entry.url))
