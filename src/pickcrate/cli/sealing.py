"""What ``seal`` does: a package beside a crate, or a check of one, in words."""

from datetime import date
from pathlib import Path

from pickcrate.cli.options import Given
from pickcrate.cli.terminal import Out, place
from pickcrate.cli.text import count, shown, size
from pickcrate.crate.entry import Entry
from pickcrate.crate.places import Places
from pickcrate.errors import UsageError
from pickcrate.orders import readers
from pickcrate.run.auditing import locate
from pickcrate.sealing import packages
from pickcrate.sealing.contents import SealKind, Statement, statement


def seal(given: Given, out: Out) -> None:
    """Make a package of the crate that is named, and say so. Raises PickCrateError."""
    kinds = tuple(map(SealKind, readers.seal_kinds(given["as_"] or (), "--as")))
    if not kinds:
        hint = "--as bagit, ro-crate, croissant or tar; several are one package"
        raise UsageError("no standard is named that the package is to follow", hint=hint)
    root = locate(given["crate"], given["into"])
    places = Places(root)

    def state(pictures: list[Entry]) -> Statement:
        said = {"description": given["description"] or "", "publisher": given["publisher"] or ""}
        return statement(places, pictures, today=date.today(), **said)  # noqa: DTZ011 (the day where the user is)

    sealed = packages.seal(places, kinds, given["package"] or packages.default_target(root, kinds), state)
    out.line((f"{count(sealed.pictures, 'picture')} sealed ({size(sealed.bytes)}), as {' and '.join(kinds)}", "bold"))
    if sealed.gone:
        out.line((f"{count(sealed.gone, 'picture')} moved or deleted since, and not in it", "cyan"))
    out.line("package: ", place(sealed.path))


def check(package: Path, out: Out) -> bool:
    """Check a package, and say what is wrong; return whether nothing is."""
    if not package.exists():
        raise UsageError(f"{package}: no such package", hint="it is the folder or the tar that pickcrate seal made")
    checked = packages.check(package)
    for finding in checked.findings:
        out.line(("wrong    ", "red"), shown(finding))
    kinds = " and ".join(checked.kinds)
    said = f"{len(checked.findings):,} wrong" if checked.findings else "complete, and all as it says"
    out.line((f"{shown(str(package))}: {kinds}: {said}", "bold"))
    return not checked.findings
