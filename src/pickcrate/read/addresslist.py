"""A plain list of addresses, one a line; blank lines and lines that start with ``#`` are passed over."""

from collections.abc import Iterable, Iterator

from pickcrate.addresses import absolute, is_web
from pickcrate.values import PUBLIC, Flaw, Image, Reference, Trust


def addresses_in(lines: Iterable[str]) -> Iterator[tuple[int, str]]:
    """Yield what may be an address on each line, with the line's number."""
    for place, line in enumerate(lines, 1):
        address = line.strip().removeprefix("\ufeff")
        if address and not address.startswith("#"):
            yield place, address


def read_addresses(
    lines: Iterable[str], *, source: str, trust: Trust = PUBLIC, first_number: int = 1
) -> Iterator[Image | Flaw]:
    """Yield an image a line, in order, without holding the list; a line that is no picture's address is a flaw.

    Lists pass without grouping: what the list's writer names twice is two rows.
    """
    number = first_number
    for place, raw in addresses_in(lines):
        url = absolute(raw, "about:blank")
        if url is None or not (is_web(url) or url.startswith(("file:", "data:"))):
            yield Flaw("address", f"line {place} is not a web address: {raw[:80]}")
            continue
        reference = Reference(url, raw, "", "list", "", "", number, trust=trust)
        yield Image(number=number, source=source, shown=reference, references=(reference,))
        number += 1
