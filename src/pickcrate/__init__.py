"""Pick Crate: collect the pictures of a web page, full size and well named, into one folder."""

from typing import TYPE_CHECKING, Unpack

from pickcrate.version import __version__

if TYPE_CHECKING:
    from pickcrate.run.settings import PackSettings, Settings
    from pickcrate.values import Candidate, Image, Outcome

__all__ = ["__version__", "candidates", "look", "pack"]


def look(*sources: str, **settings: "Unpack[Settings]") -> "list[Image]":
    """Return the images of ``sources`` (addresses or paths), each with its candidates, best first.

    ``settings`` are the options of the command line as keywords: ``under="Two"``, ``not_url=["logo"]``. Images that a
    criterion dropped are among them; ``is_picked`` tells. Raises a PickCrateError if the source (of several: every
    one) cannot be read, or a setting cannot mean anything.
    """
    from pickcrate.run import doors  # noqa: PLC0415 (what a command needs is imported when it needs it)
    from pickcrate.run.events import Found  # noqa: PLC0415
    from pickcrate.run.keywords import naming_keywords, ordered  # noqa: PLC0415
    from pickcrate.run.settings import Command  # noqa: PLC0415

    with naming_keywords():
        order, _ = ordered(Command.LOOK, sources, settings)
        return [event.image for event in doors.look(order) if isinstance(event, Found)]


def pack(*sources: str, **settings: "Unpack[PackSettings]") -> "list[Outcome]":
    """Fetch the images of ``sources`` into a crate and return what became of each.

    ``settings`` are the options of the command line as keywords: ``crate="kites"``, ``name=["{alt}", "{stem}"]``.
    Raises a PickCrateError if the sources cannot be read or the crate cannot be written; a picture that fails is an
    outcome.
    """
    from pickcrate.run import doors  # noqa: PLC0415
    from pickcrate.run.events import Settled, Withdrawn  # noqa: PLC0415
    from pickcrate.run.keywords import naming_keywords, ordered  # noqa: PLC0415
    from pickcrate.run.settings import Command  # noqa: PLC0415

    outcomes: dict[int, list[Outcome]] = {}
    with naming_keywords():
        order, destination = ordered(Command.PACK, sources, settings)
        for event in doors.pack(order, destination):
            if isinstance(event, Settled):
                outcomes.setdefault(event.outcome.image.number, []).append(event.outcome)
            elif isinstance(event, Withdrawn):
                outcomes.pop(event.outcome.image.number, None)
    return [outcome for of_one in outcomes.values() for outcome in of_one]


def candidates(url: str) -> "list[Candidate]":
    """Return what the address of a picture alone suggests for a larger version, best first, unproved.

    Forms that are unmistakable come before plausible ones; the list is empty where the address says nothing.
    """
    from pickcrate.addresses import absolute  # noqa: PLC0415
    from pickcrate.fullsize.address import from_address  # noqa: PLC0415

    whole = absolute(url, "about:blank")
    return from_address(whole) if whole is not None else []
