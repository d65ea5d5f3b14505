"""Text for a terminal: safe, cut to width, and sizes as people say them."""

from pickcrate.addresses.url import without_userinfo

# A page's text must not move the cursor, set a title or turn the writing direction: C0 and DEL become their
# pictures (U+2400 block); C1, line and paragraph separators and the bidirectional controls U+FFFD.
_SHOWN = (
    {code: 0x2400 + code for code in range(0x20)}
    | {0x7F: 0x2421}
    | dict.fromkeys(range(0x80, 0xA0), 0xFFFD)
    | dict.fromkeys((0x61C, 0x200E, 0x200F, *range(0x2028, 0x202F), *range(0x2066, 0x206A)), 0xFFFD)
    | dict.fromkeys(range(0xD800, 0xE000), 0xFFFD)
)


def shown(text: str) -> str:
    """Return ``text`` as a person may see it: control characters as visible symbols, no passwords in addresses.

    The one function between foreign text and a terminal or a log.
    """
    text = without_userinfo(text)
    return text if text.isprintable() else text.translate(_SHOWN)


_HARMLESS = {code: picture for code, picture in _SHOWN.items() if code != 0x0A}


def harmless(text: str) -> str:
    """Return ``text``, lines and all, without what moves a cursor or turns the writing direction."""
    return text if text.isprintable() else text.translate(_HARMLESS)


# Our own signs where an encoding lacks them; what a page says becomes question marks there.
_SIGNS = str.maketrans({
    "→": "->", "×": "x", "·": "|", "−": "-", "…": "...", "“": '"', "”": '"', "’": "'", "–": "-", "█": "#", "␛": "?",
})  # fmt: skip


def writable(text: str, encoding: str | None) -> str:
    """Return ``text`` as far as it can be written in ``encoding``: a terminal or a file may have few letters."""
    if text.isascii():  # as every encoding of a terminal has it
        return text
    try:
        text.encode(encoding or "utf-8")
    except UnicodeEncodeError:
        plain = text.translate(_SIGNS)
        return plain.encode(encoding or "utf-8", "replace").decode(encoding or "utf-8", "replace")
    except LookupError:
        return text.encode("ascii", "replace").decode()
    return text


_ONE_CELL = str.maketrans(dict.fromkeys("‘’“”„…–—•→←", "-"))
"""signs beyond the letters that take one cell each, and stand in many a list"""

_COMBINING = "\u0300"
"""the first of the characters that may take no cell, or two"""


def cells(text: str) -> int:
    """Return how many cells of a terminal a text takes."""
    if text.isascii():  # as most are
        return len(text)
    plain = text.translate(_ONE_CELL)
    if max(plain) < _COMBINING and plain.isprintable():
        return len(text)
    from rich.cells import cell_len  # noqa: PLC0415

    return cell_len(text)


def in_cells(text: str, width: int) -> str:
    """Return a text in exactly ``width`` cells, padded, or cut at its end."""
    if cells(text) <= width and len(text) == cells(text):
        return text.ljust(width)
    from rich.cells import set_cell_size  # noqa: PLC0415

    return set_cell_size(text, width)


def cut(text: str, width: int) -> str:
    """Return ``text`` in exactly ``width`` cells, padded, or cut in its middle where names differ least."""
    if cells(text) <= width:
        return in_cells(text, width)
    if width < 5:
        return in_cells(text, max(width, 0))
    head = (width - 1) * 3 // 5
    tail = width - 1 - head
    end = text[-tail:]
    while cells(end) > tail:
        end = end[1:]
    return in_cells(in_cells(text, head) + "…" + end, width)


def ending_cut(text: str, width: int) -> str:
    """Return ``text`` in at most ``width`` cells, cut at its end: for words, which say most at their start."""
    if cells(text) <= width:
        return text
    return in_cells(text, max(width - 1, 0)).rstrip() + "…"


def size(octets: float) -> str:
    """Return a number of bytes as ``"812 B"``, ``"18.4 kB"``, ``"3.1 MB"`` (powers of 1000)."""
    for unit in ("B", "kB", "MB"):
        if octets < 1000:
            return f"{octets:.0f} {unit}" if unit == "B" or octets >= 100 else f"{octets:.1f} {unit}"
        octets /= 1000
    return f"{octets:.1f} GB"


def ago(seconds: float) -> str:
    """Return ``"20 seconds ago"``, ``"3 minutes ago"`` or ``"2 hours ago"``."""
    for length, noun in ((3600, "hour"), (60, "minute")):
        if seconds >= length:
            return f"{count(int(seconds // length), noun)} ago"
    return f"{count(int(seconds), 'second')} ago"


def count(number: int, noun: str) -> str:
    """Return ``"1 picture"`` or ``"3 pictures"``."""
    return f"{number:,} {noun}" if number == 1 else f"{number:,} {noun}s"
