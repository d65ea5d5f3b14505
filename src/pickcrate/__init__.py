"""Pick Crate: collect the pictures of a web page, full size and well named, into one folder."""

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from pickcrate.version import __version__

if TYPE_CHECKING:
    from pickcrate.values import Candidate, Image, Outcome

__all__ = ["__version__", "candidates", "look", "pack"]


def look(*sources: str, base: str = "") -> "list[Image]":
    """Return the images of ``sources`` (addresses or paths), each with its candidates, best first.

    Raises a PickCrateError if the source (of several: every one) cannot be read.
    """
    from pickcrate.run import doors  # noqa: PLC0415 (what a command needs is imported when it needs it)
    from pickcrate.run.events import Found  # noqa: PLC0415
    from pickcrate.run.order import Order  # noqa: PLC0415

    return [event.image for event in doors.look(Order(sources, base=base)) if isinstance(event, Found)]


def pack(
    *sources: str, crate: str, into: str | Path = "crates", names: Iterable[str] = (), base: str = ""
) -> "list[Outcome]":
    """Fetch the images of ``sources`` into ``into/crate`` and return what became of each.

    ``names`` are name patterns as for ``--name``. Raises a PickCrateError if the sources cannot be read or the
    crate cannot be written; a picture that fails is an outcome.
    """
    from pickcrate.name import patterns  # noqa: PLC0415
    from pickcrate.run import doors  # noqa: PLC0415
    from pickcrate.run.events import Settled  # noqa: PLC0415
    from pickcrate.run.order import Destination, Order  # noqa: PLC0415

    order = Order(sources, base=base, names=patterns(names))
    events = doors.pack(order, Destination(crate, Path(into)))
    return [event.outcome for event in events if isinstance(event, Settled)]


def candidates(url: str) -> "list[Candidate]":
    """Return what the address of a picture alone suggests for a larger version, best first, unproved.

    Forms that are unmistakable come before plausible ones; the list is empty where the address says nothing.
    """
    from pickcrate.addresses import absolute  # noqa: PLC0415
    from pickcrate.fullsize.address import from_address  # noqa: PLC0415

    whole = absolute(url, "about:blank")
    return from_address(whole) if whole is not None else []
