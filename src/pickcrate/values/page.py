"""A document that was read: its address, its base, its tree, and what its addresses mean."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.addresses.url import absolute, is_network_path, is_of_site, is_other_page, is_template, is_web
from pickcrate.values.claims import Rights
from pickcrate.values.flaw import Flaw
from pickcrate.values.trust import PUBLIC, Trust

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser


class Page(Struct, frozen=True):
    """One decoded document with its address and its base URL (HTML standard, 2.4.3 document base URLs)."""

    source: str
    address: str
    base: str
    title: str
    text: str
    encoding: str
    tree: "LexborHTMLParser"
    """the flat tree: what shadow roots and frames in its text hold stands where it is shown"""
    heading: str = ""
    """its first heading of the first level, if it has no title"""
    scopes: Mapping[int, int] = field(default_factory=dict)
    """which shadow root or frame an element of one is of, by its ``mem_id``: a sheet dresses its own, and no other"""
    flaws: tuple[Flaw, ...] = ()
    trust: Trust = PUBLIC
    link_field: str = ""
    """the values of the response's ``Link`` fields (RFC 8288), joined by commas"""
    rights: Rights = Rights()
    """what it says of all its pictures"""
    picture_rights: Mapping[str, Rights] = field(default_factory=dict)
    """what it says of single ones, by their addresses"""
    saved_from: str = ""
    """of a page on disk, its address on the web: what its relative addresses mean that nothing beside it answers to"""
    beside: Callable[[str], str] | None = None
    """of a page on disk: returns where the file is that an address means, made absolute against ``base``; or nothing"""

    @property
    def called(self) -> str:
        """What people call it: its title, or its heading."""
        return self.title or self.heading

    @property
    def home(self) -> str:
        """Where it is on the web, or was when it was saved; of a page that never was there, where it lies."""
        is_moved = is_web(self.base) and not is_web(self.address)
        return self.saved_from or (self.base if is_moved else self.address)

    def leads_on(self, url: str) -> bool:
        """Tell whether an address is that of another page of its site, on the web or on the disk it was saved to."""
        is_own = is_of_site(url, self.address) or is_of_site(url, self.home)
        return is_own and self.is_another(url)

    def is_another(self, url: str) -> bool:
        """Tell whether an address may be that of another page, of whatever site, and no picture's."""
        return is_other_page(url, self.address) and is_other_page(url, self.home)

    def resolve(self, raw: str) -> str | None:
        """Return ``raw`` as an absolute address: what is beside a saved page, else what it meant on the web.

        None for what is none, or is still to be filled in.
        """
        if is_template(raw):
            return None
        url = absolute(raw, self.saved_from if self.saved_from and is_network_path(raw) else self.base)
        if url is not None and not url.startswith("file:"):
            return url
        meant = absolute(raw, self.saved_from) if self.saved_from else None
        return self._found(url) or meant or url

    def resolve_from(self, raw: str, base: str) -> str | None:
        """Return ``raw`` as an absolute address, as a style sheet at ``base`` means it; None as ``resolve`` does."""
        if is_template(raw):
            return None
        url = absolute(raw, base)
        return self._found(url) or url

    def _found(self, url: str | None) -> str:
        """Return where the file is that a ``file:`` address means; empty if it is not looked for, or not there."""
        if self.beside is None or url is None or not url.startswith("file:"):
            return ""
        is_own = not self.saved_from and url.startswith(self.address.rpartition("/")[0] + "/")
        return "" if is_own else self.beside(url)
