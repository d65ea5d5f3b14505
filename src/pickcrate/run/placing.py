"""Where a crate goes: its folder, as named or after the page, below the folder of crates."""

import re
from pathlib import Path

from pickcrate.addresses.stems import stem
from pickcrate.addresses.url import brief, is_web, readable, without_userinfo
from pickcrate.crate.origin import crate_called_after
from pickcrate.crate.places import is_crate
from pickcrate.errors import UsageError
from pickcrate.name import Naming, legal, parse_pattern, with_single_braces
from pickcrate.orders.order import Destination, Order
from pickcrate.text.lazyre import lazy
from pickcrate.values.image import Image

_AROUND_TITLES = " ·•|–—:»›-"
"""what parts a title from the name of its site, and stays where that has none"""

_INDEX = lazy(r"/(?:index|default)\.\w{2,5}\Z")


def crate_root(into: Destination, first: Image, order: Order) -> Path:
    """Return the folder of the crate: as named, or after the list, or the page that the first picture is on.

    The first page of a list may be another one next week, and a page may have another title: it keeps its crate.
    """
    if not into.name:
        root, page = root_by_title(into, first), origin_of(into, first)
        return root if not page or is_crate(root) else crate_called_after(page, into.into) or root
    steps = []
    for step in crate_name(into.name).split("/"):
        naming = Naming((parse_pattern(step, "--crate"),), order.today)
        steps.append(with_single_braces(naming.spell(first)) if "{" in step else step)
    return into.into.joinpath(*steps)


def likely_root(into: Destination, order: Order) -> Path | None:
    """Return the crate that an order goes on in, as far as that can be told before anything is read; None if not."""
    if into.name:
        name = crate_name(into.name)
        root = None if "{" in name else into.into / name
    else:
        source = order.sources[0] if order.sources else ""
        root = crate_called_after(brief(source), into.into) if is_web(source) else None
    return root if root is not None and is_crate(root) else None


def root_by_title(into: Destination, first: Image) -> Path:
    """Return the folder of a crate that is called as the list or the page of its first picture is today."""
    title = first.list_title or first.page_title
    name = legal(title.strip(_AROUND_TITLES) or title or _page_name(first.shown.page) or "pictures")
    return into.into / name.replace("{", "(").replace("}", ")")  # typed as --crate they would be fields


def origin_of(into: Destination, first: Image) -> str:
    """Return the address of the page on the web that a crate is called after; empty if it is called otherwise."""
    return "" if into.name or first.list_title or not is_web(first.source) else brief(first.source)


def _page_name(page: str) -> str:
    """Return what a page without a title is called: its address on the web, as people say it, its file on the disk."""
    if not is_web(page):
        return stem(page)
    place = readable(without_userinfo(page)).partition("://")[2]
    return _INDEX.sub("", place).rstrip("/")


def crate_name(name: str) -> str:
    """Return the path below ``--into`` of a crate that was named; UsageError if it would lead elsewhere.

    The date, the site and the page may be fields in it.
    """
    if not name:
        return ""
    for known in re.findall(r"\{(\w*)", name):
        if known not in {"date", "site", "page"}:
            raise UsageError(f"--crate {name!r}: fields of a crate's name are {{date}}, {{site}} and {{page}}")
    steps = name.replace("\\", "/").split("/")
    if name.startswith(("/", "~")) or ".." in steps or re.match(r"[A-Za-z]:(?:[\\/]|\Z)", name) is not None:
        raise UsageError(
            f"--crate {name!r} leads out of the folder of crates",
            hint="a crate has a plain name; say where it goes with --into, as in --into /data --crate kites",
        )
    checked = "/".join(_legal_step(step) for step in steps if step not in {"", "."})
    if not checked:
        raise UsageError("--crate is blank", hint="for example --crate kites")
    return checked


def _legal_step(step: str) -> str:
    """Return a step of a crate's path with what no system takes replaced; one with fields is made legal with them."""
    return step.strip(" .") or "picture" if "{" in step else legal(step)
