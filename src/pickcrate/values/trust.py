"""What may be asked for on behalf of a page."""

from msgspec import Struct


class Trust(Struct, frozen=True):
    """What may be asked for on behalf of a source, and of all that comes of it: its pages, frames and pictures.

    It is made when the source is opened, and only ever falls on the way: what comes from the public web may reach no
    private address, whoever asked for it.
    """

    source: int = 0
    """the source whose folder and whose bytes are its own; 0 if it brought nothing along"""
    private: bool = False
    """whether private addresses may be asked"""

    def fallen(self) -> "Trust":
        """Return the same for what comes from the public web."""
        return Trust(self.source) if self.private else self


PUBLIC = Trust()


class Asker(Struct, frozen=True):
    """Who asks for an address: the page that names it, and how far that is trusted."""

    page: str
    trust: Trust
