"""Pick Crate: collect the pictures of a web page, full size and well named, into one folder.

What is imported here is light; a function brings what it needs when it is called.
"""

from typing import TYPE_CHECKING, Any, Unpack

from pickcrate.version import __version__

if TYPE_CHECKING:
    from collections.abc import Callable
    from datetime import date
    from pathlib import Path

    from pickcrate.orders.settings import LookSettings, PackSettings
    from pickcrate.python import Changes, Findings, Packed, Pictures, Source
    from pickcrate.values.image import Candidate
    from pickcrate.values.reference import Reference

__all__ = ["__version__", "audit", "candidates", "compare", "find", "look", "pack", "sheet"]


def look(
    *sources: "Source", on_event: "Callable[[Any], None] | None" = None, **settings: "Unpack[LookSettings]"
) -> "Pictures":
    """Return the pictures of ``sources`` that meet the criteria, each with its candidates, best first.

    A source is an address, a path, the bytes of a page or a list, or an open file. ``settings`` are the options of the
    command line as keywords: ``under="Two"``, ``not_url=["logo"]``. ``on_event`` is called with each event of the run
    (``pickcrate.run.events``). The result shows itself as a gallery in a notebook; it has ``dropped``, ``failures``,
    ``rows()``, ``to_pandas()`` and ``save(path)``.

    Raises a PickCrateError if the source (of several: every one) cannot be read, or a setting cannot mean anything;
    of several a single one that fails is a PickCrateWarning, and in ``failures``.
    """
    from pickcrate import python  # noqa: PLC0415

    return python.look(sources, settings, on_event)


def pack(
    *sources: "Source", on_event: "Callable[[Any], None] | None" = None, **settings: "Unpack[PackSettings]"
) -> "Packed":
    """Fetch the pictures of ``sources`` into a crate and return what became of each, with the crate's folder.

    As ``look``, with the settings of ``pack`` besides: ``crate="kites"``, ``name=["{alt}", "{stem}"]``. The result has
    ``crate``, ``files``, ``failed``, ``since`` (what changed since the last run), and what a look's has.

    Raises a PickCrateError if the sources cannot be read or the crate cannot be written; a picture that fails is an
    outcome.
    """
    from pickcrate import python  # noqa: PLC0415

    return python.pack(sources, settings, on_event)


def compare(
    old: "str | Path",
    new: "str | Path | None" = None,
    *,
    since: "str | date | None" = None,
    into: "str | Path" = "crates",
    **settings: "Unpack[LookSettings]",
) -> "Changes":
    """Return what came, went and changed between two crates, lists or pages; of one crate ``since`` a day.

    A crate is its path, or its name under ``into``; anything else is a source as in ``look``. The result has ``same``,
    ``rows()``, ``to_pandas()`` and ``save(path)``, where an ``.html`` shows old and new side by side.
    """
    from pickcrate import python  # noqa: PLC0415

    return python.compare(old, new, since, {**settings, "into": into})


def audit(crate: "str | Path", *, into: "str | Path" = "crates") -> "Findings":
    """Hold the files of a crate against its ledger; return what is missing, altered, broken, or strays.

    ``crate`` may be the store of a haul, whose shards are held against their lists. Raises UsageError if there is no
    such crate, CrateError if its ledger cannot be read, StoreError if the store cannot be.
    """
    from pickcrate import python  # noqa: PLC0415

    return python.audit(crate, into)


def sheet(*sources: "Source", out: "str | Path" = "sheet.html", **settings: "Unpack[LookSettings]") -> "Path":
    """Write a contact sheet of a page, a list or a crate to ``out`` (.html, .png, .pdf) and return its path."""
    from pathlib import Path  # noqa: PLC0415

    from pickcrate import python  # noqa: PLC0415

    return python.sheet(sources, Path(out), settings)


def find(document: "bytes | str", *, address: str = "about:blank") -> "list[Reference]":
    """Return every reference to a picture in one document of HTML, in its order; nothing is asked for.

    ``address`` is where it came from: relative addresses start there. Style sheets and frames of its own are not read.
    """
    from pickcrate.finders import find as found_in  # noqa: PLC0415
    from pickcrate.read.pages.document import read_document  # noqa: PLC0415

    octets = document.encode() if isinstance(document, str) else document
    fields = {"content-type": "text/html; charset=utf-8"} if isinstance(document, str) else {}
    page = read_document(octets, source=address, address=address, fields=fields)
    return list(found_in(page).references)


def candidates(url: str) -> "list[Candidate]":
    """Return what the address of a picture alone suggests for a larger version, best first, unproved.

    Forms that are unmistakable come before plausible ones (``evidence.is_sure``); the list is empty where the address
    says nothing.
    """
    from pickcrate.addresses.url import absolute  # noqa: PLC0415
    from pickcrate.fullsize.address import from_address  # noqa: PLC0415

    whole = absolute(url, "about:blank")
    return from_address(whole) if whole is not None else []
