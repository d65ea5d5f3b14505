"""Text for a terminal: safe, cut to width, and sizes as people say them."""

from rich.cells import cell_len, set_cell_size

# A page's text must not move the cursor, set a title or turn the writing direction: C0 and DEL become their
# pictures (U+2400 block), C1 and the bidirectional controls U+FFFD.
_SHOWN = (
    {code: 0x2400 + code for code in range(0x20)}
    | {0x7F: 0x2421}
    | dict.fromkeys(range(0x80, 0xA0), 0xFFFD)
    | dict.fromkeys((0x61C, 0x200E, 0x200F, *range(0x202A, 0x202F), *range(0x2066, 0x206A)), 0xFFFD)
    | dict.fromkeys(range(0xD800, 0xE000), 0xFFFD)
)


def shown(text: str) -> str:
    """Return ``text`` with control characters as visible symbols."""
    return text.translate(_SHOWN)


def cut(text: str, width: int) -> str:
    """Return ``text`` in exactly ``width`` cells, padded, or cut in its middle where names differ least."""
    if cell_len(text) <= width:
        return set_cell_size(text, width)
    if width < 5:
        return set_cell_size(text, max(width, 0))
    head = (width - 1) * 3 // 5
    tail = width - 1 - head
    end = text[-tail:]
    while cell_len(end) > tail:
        end = end[1:]
    return set_cell_size(set_cell_size(text, head) + "…" + end, width)


def ending_cut(text: str, width: int) -> str:
    """Return ``text`` in at most ``width`` cells, cut at its end: for words, which say most at their start."""
    if cell_len(text) <= width:
        return text
    return set_cell_size(text, max(width - 1, 0)).rstrip() + "…"


def size(octets: float) -> str:
    """Return a number of bytes as ``"812 B"``, ``"18.4 kB"``, ``"3.1 MB"`` (powers of 1000)."""
    for unit in ("B", "kB", "MB"):
        if octets < 1000:
            return f"{octets:.0f} {unit}" if unit == "B" or octets >= 100 else f"{octets:.1f} {unit}"
        octets /= 1000
    return f"{octets:.1f} GB"


def count(number: int, noun: str) -> str:
    """Return ``"1 picture"`` or ``"3 pictures"``."""
    return f"{number:,} {noun}" if number == 1 else f"{number:,} {noun}s"
