"""A plain list of addresses, one a line; blank lines and lines that start with ``#`` are passed over."""

from collections.abc import Iterable, Iterator

from pickcrate.addresses import absolute, is_web
from pickcrate.values import Flaw, Image, Reference


def read_addresses(lines: Iterable[str], *, source: str, first_number: int = 1) -> Iterator[Image | Flaw]:
    """Yield an image a line, in order, without holding the list; a line that is no web address is a flaw.

    Lists pass without grouping: what the list's writer names twice is two rows.
    """
    number = first_number
    for place, line in enumerate(lines, 1):
        raw = line.strip().removeprefix("\ufeff")
        if not raw or raw.startswith("#"):
            continue
        url = absolute(raw, "about:blank")
        if url is None or not is_web(url):
            yield Flaw("address", f"line {place} is not a web address: {raw[:80]}")
            continue
        reference = Reference(url=url, raw=raw, page="", found_in="list", element="", attribute="", cluster=number)
        yield Image(number=number, source=source, shown=reference, references=(reference,))
        number += 1
