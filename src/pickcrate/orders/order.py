"""The order: everything a user asked of one run, frozen before anything is done."""

import re
from collections.abc import Mapping
from datetime import date
from itertools import chain
from pathlib import Path
from typing import IO, Any

from msgspec import Struct, field

from pickcrate.addresses.url import looks_like_web
from pickcrate.browser.browsing import Browsing
from pickcrate.errors import UsageError
from pickcrate.fetch.exchange import Manners
from pickcrate.fullsize.userrules import UserRule
from pickcrate.name import NamePattern, Naming
from pickcrate.orders.choice import Choice
from pickcrate.orders.given import values
from pickcrate.orders.setting import Group
from pickcrate.orders.settings import CRATES, MAX_PIXELS, table
from pickcrate.sift.criteria import Criteria
from pickcrate.values.wanted import Again, Asked, KnownItems, Region, Unsure


class Onward(Struct, frozen=True):
    """How thumbnails are followed: through how many pages, to which part of them (CSS), heeding robots or not."""

    levels: int
    target: str
    heeds_robots: bool


class Order(Struct, frozen=True):
    """One run: where to look, which version of each picture to want, how to behave.

    ``full`` is None for what each kind of source does by itself: pages full size, lists as listed.
    """

    sources: tuple[str, ...]
    base: str = ""
    root: Path | None = None
    """the folder of the site that pages on disk are of"""
    full: bool | None = None
    frames: int = 1
    """levels of frames that are followed"""
    rules: tuple[UserRule, ...] = ()
    """the user's own resizing conventions, tried before the table's"""
    max_pixels: int = MAX_PIXELS
    """of a picture that is put together of tiles"""
    through: int = 0
    """pages behind a thumbnail that are gone through to its original"""
    items: int = 0
    """items of a list whose own pages are read"""
    next_pages: int = 0
    """further pages of a list that are read"""
    target: str = ""
    """a CSS selector for the part of such a page that holds the picture"""
    asked: Asked = field(default_factory=Asked)
    """what is to be found besides, by the user's own patterns and attributes"""
    columns: tuple[tuple[str, str], ...] = ()
    """of lists: which column is what, as field and header (or number)"""
    lists_pages: bool = False
    """whether lists hold the addresses of pages, to be looked into"""
    criteria: Criteria = field(default_factory=Criteria)
    unsure: Unsure = Unsure.SETTLE
    measures_all: bool = False
    """whether the first bytes of every picture are looked at, decided or not"""
    choice: Choice = field(default_factory=Choice)
    names: tuple[NamePattern, ...] = ()
    has_plain_names: bool = False
    shelf: tuple[NamePattern, ...] = ()
    drops_alike: bool = False
    """whether of pictures that are twins only the best is wanted"""
    compares_shown: bool = False
    """whether twins are told by what a page shows, since nothing is fetched"""
    again: Again = Again.SKIP
    known_items: KnownItems = KnownItems.VISIT
    excepts: tuple[str, ...] = ()
    """crates, by their paths or names, whose pictures are not fetched again"""
    manners: Manners = field(default_factory=Manners)
    browsing: Browsing = field(default_factory=Browsing)
    today: date = field(default_factory=date.today)
    handed: Mapping[str, IO[bytes]] = field(default_factory=dict)
    """sources that a program hands over as they are, by the names that they have in ``sources``"""

    @property
    def onward(self) -> Onward:
        """How thumbnails are followed to the pages behind them."""
        return Onward(self.through, self.target, self.manners.robots)

    @property
    def has_lists(self) -> bool:
        """Whether further pages are read than the sources name."""
        return self.lists_pages or self.next_pages > 0

    @property
    def naming(self) -> Naming:
        """How this run spells names."""
        return Naming(self.names, self.today, self.shelf, self.has_plain_names)


class Destination(Struct, frozen=True):
    """The crate that a run packs into: its name (empty: from the first page) under a folder."""

    name: str = ""
    into: Path = CRATES
    credits: bool = False
    """whether the credits of its pictures are written into it"""
    parquet: bool = False
    """whether its list is written as Parquet as well"""
    archived: bool = False
    """whether the finished crate is made into one archive as well"""


def make_order(sources: tuple[str, ...], given: Mapping[str, Any]) -> tuple[Order, Destination]:
    """Return the order that settings make, and where it packs to.

    Raises UsageError for a setting that cannot mean anything, alone or with the others.
    """
    parts = values(given)
    if given.get("target") and not given.get("through"):
        raise UsageError("--target says which picture on a page behind a thumbnail", hint="it goes with --through 1")
    orders = parts.get("order", {})
    browsing = Browsing(further=orders.get("next_pages", 0), **parts.get("browsing", {}))
    _refuse_browser_settings(given, browsing)
    region = Region(**parts.get("region", {}))
    order = Order(
        sources=tuple(chain.from_iterable(map(_apart, sources))),
        criteria=Criteria(region=region, **parts.get("criteria", {})),
        asked=Asked(**parts.get("asked", {})),
        choice=Choice(**parts.get("choice", {})),
        manners=Manners(**parts.get("manners", {})),
        browsing=browsing,
        **orders,
    )
    return order, Destination(**parts.get("destination", {}))


def _apart(source: str) -> list[str]:
    """Return the addresses in what was given as one source: a shell keeps lines together that stand in quotes.

    What mails and texts put around an address is none of it (RFC 3986, appendix C).
    """
    bare = source.strip(" \t\n\r<>\"'“”")
    return re.split(r"\s+(?=https?://)", bare) if looks_like_web(bare) else [source]


def _refuse_browser_settings(given: Mapping[str, Any], browsing: Browsing) -> None:
    """Refuse settings of the browser where there is none, and those that do not go together."""
    for name, row in table().items():
        is_given = row.group is Group.BROWSER and given.get(name) not in (None, [], (), row.default)
        if is_given and not browsing.is_on:
            raise UsageError(f"{row.option(name)} is about pages in a browser", hint="it goes with --browser")
    if browsing.at and (given.get("profile") or given.get("show_browser") or given.get("browser_path")):
        raise UsageError(
            "--browser-at is a browser that is open already", hint="its profile and its window are its own"
        )
