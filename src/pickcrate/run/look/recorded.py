"""What the pages of a record of what was loaded say of the pictures that it has."""

from collections.abc import Iterable

from pickcrate.read.data.datafile import DATA_FIELDS, data_blocks
from pickcrate.read.reading import Document, Reading
from pickcrate.values.reference import Reference


def is_drawn(reference: Reference) -> bool:
    """Tell whether a picture is in the page itself."""
    return reference.url.startswith("data:")


def answered(reading: Reading) -> Document | None:
    """Return the data that the scripts of a record's first page were answered, as a page; None if it has none."""
    blocks = data_blocks(reading.bodies.values(), [reference.url for reference in reading.references])
    if not blocks or not reading.documents:
        return None
    return Document(lambda: blocks, reading.documents[0].address, DATA_FIELDS)


class Said:
    """What the pages of a record say of its pictures; of one that several have, what shows it says more."""

    def __init__(self) -> None:
        self._by_address: dict[str, Reference] = {}

    def learn(self, references: list[Reference]) -> None:
        """Note what one page says."""
        for reference in references:
            earlier = self._by_address.get(reference.url)
            if earlier is None or (reference.is_on_page and not earlier.is_on_page):
                self._by_address[reference.url] = reference

    def of(self, recorded: Reference) -> Reference:
        """Return what is said of a picture that was recorded; that it was, if nothing is."""
        return self._by_address.get(recorded.url, recorded)

    def in_order(self, recorded: Iterable[Reference]) -> list[Reference]:
        """Return pictures in the order of the pages that have them; those that none has come last, as they were."""
        places = {url: place for place, url in enumerate(self._by_address)}
        return sorted(recorded, key=lambda reference: places.get(reference.url, len(places)))

    def drawn(self, known: set[str]) -> list[Reference]:
        """Return the pictures that are drawn in the pages themselves, but for those that are known."""
        return [r for r in self._by_address.values() if is_drawn(r) and r.url not in known]
