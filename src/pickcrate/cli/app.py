"""The commands and their options: arguments to one frozen order, the run's events to words or data.

Only Click is imported here at the start; what a command needs is imported when it runs.
"""

import os
import sys
import warnings
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

import click
from msgspec.structs import asdict, replace

from pickcrate.addresses.url import last_segment, looks_like_web, without_userinfo
from pickcrate.cli.ending import QuickExit, close_output, output_failed, told
from pickcrate.cli.options import FileName, Given, Helped
from pickcrate.cli.program import (
    CRATE_OR_PACKAGE,
    CRATE_OR_STORE,
    LISTS,
    OLD_AND_NEW,
    PAGE,
    SEVERAL_CRATES,
    SOURCE_AND_WHICH,
    SOURCES,
    SOURCES_OR_CRATE,
    app,
    examples,
)
from pickcrate.errors import NothingPickedError, UsageError
from pickcrate.orders.setting import Command, Format, ForOne, Group
from pickcrate.orders.settings import CRATES, table

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from pickcrate.cli.log import Log
    from pickcrate.orders.order import Destination, Order


@app.taking(
    Command.LOOK,
    SOURCES,
    epilog=examples(
        "pickcrate look https://kites.example/catalogue.html --save kites.csv",
        "pickcrate look kites.har --furniture drop --width 800.. --format urls",
    ),
)
def look(given: Given) -> None:
    """List the pictures of a page: addresses, sizes and words. Keeps no picture."""
    from pickcrate.cli import lists, terminal
    from pickcrate.cli.chart import charting
    from pickcrate.cli.looked import Looked

    form, save = given["format"], given["save"]
    out = terminal.human(data_on_output=form is not Format.TABLE, quiet=given["quiet"])
    with _logged(given["log"]) as logged:
        from pickcrate.run import doors

        order, _ = _order(given["sources"], given)
        with_names = form is not Format.URLS or (save is not None and save.suffix != ".txt")
        order = replace(order, measures_all=given["chart"] is not None)
        looking = doors.look(order, with_names=with_names, go_on=terminal.wait_for_enter)
        with closing(looking), lists.saving(save) as saver, charting(given["chart"], order.criteria) as points:
            found = logged.through(looking)
            found = points.through(found) if points is not None else found
            looked = Looked(order, given.typed)
            lists.show_look(found, out, form, saver, looked, everything=given["all"])
        if not looked.totals.funnel.picked:
            words = "no picture is left" if looked.totals.funnel.found else "no pictures found"
            raise NothingPickedError(words, hint=looked.hint)
    raise click.exceptions.Exit(0 if looked.complete else 1)


@app.taking(
    Command.PACK,
    SOURCES,
    epilog=examples(
        'pickcrate pack https://kites.example/catalogue.html --crate kites --name "{alt}" --name "{stem}"',
        "pickcrate pack picks.csv --crate kites --shelf {type} --again refresh",
    ),
)
def pack(given: Given) -> None:
    """Fetch the pictures of a page into a crate. Run it again to go on, or for what is new."""
    from pickcrate.cli import lists, packing, terminal
    from pickcrate.cli.looked import Looked

    form = given["format"]
    out = terminal.human(data_on_output=form is not Format.TABLE, quiet=given["quiet"])
    with _logged(given["log"]) as logged:
        from pickcrate.run import doors

        order, destination = _order(given["sources"], given)
        looked = Looked(order, given.typed)
        if given["dry_run"]:
            _refuse(given.options("sheet", "zip"), "--dry-run makes no crate for it")
            with closing(doors.plan(order, destination, go_on=terminal.wait_for_enter)) as planned:
                if not (lists.show_plan(logged.through(planned), out, form, looked) or looked.has_nothing_new):
                    raise NothingPickedError("no picture is left, so no crate would be made", hint=looked.hint)
            return
        with closing(doors.pack(order, destination, go_on=terminal.wait_for_enter)) as packed:
            tally = packing.show_pack(logged.through(packed), out, form, destination.into, looked)
        if given["sheet"] and tally.crate is not None:
            from pickcrate.cli import sheets

            sheets.leave_in(tally.crate, order.today, out)
        packing.tell_if_nothing_came(out, tally, looked)
    raise click.exceptions.Exit(0 if tally.complete else 1)


@app.taking(
    Command.WHY,
    SOURCE_AND_WHICH,
    epilog=examples(
        "pickcrate why https://kites.example/catalogue.html 7",
        "pickcrate why kites.html https://kites.example/thumbs/red-delta.jpg --through 1",
    ),
)
def why(given: Given) -> None:
    """Tell how one picture was found, or why it was not. Tells what became of each address that may be larger."""
    from pickcrate.cli import lists, story, terminal
    from pickcrate.record import image_row
    from pickcrate.run import doors

    *sources, which = given["sources"] or [""]
    if not (sources or which.isdecimal() or "slip" in given.typed):
        story.ask_which(which)
    order, _ = _order(sources, given)
    if not which.isdecimal():
        # The page may spell a whole address in another way, but hardly its last part.
        sought = (last_segment(which) or which) if looks_like_web(which) else which
        order = replace(order, asked=replace(order.asked, sought=sought))
    with closing(doors.look(order, go_on=terminal.wait_for_enter)) as found:  # it is left at the picture
        answer = story.find_picture(found, which)
    if given["form"] is ForOne.JSONL:
        rows = [image_row(answer.picture.image, answer.picture.name)] if answer.picture else []
        rows += [{**asdict(mention), "kind": mention.kind.name.lower()} for mention in answer.passed]
        for row in rows:
            lists.write_json(row)
    else:
        story.print_answer(terminal.human(), answer, which)
    raise click.exceptions.Exit(0 if answer.picture else NothingPickedError.exit_code)


@app.taking(
    Command.SAVE,
    PAGE,
    epilog=examples(
        "pickcrate save https://kites.example/wall.html --out wall.warc.gz",
        'pickcrate save https://kites.example/wall.html --press "More kites" --out wall.har',
    ),
)
def save(given: Given) -> None:
    """Keep a page as the browser sees it, with all it loads. It is a source for later, without the site."""
    from pickcrate.cli import terminal
    from pickcrate.cli.files import put_in_place
    from pickcrate.cli.listing import print_kept

    path = given["keep_as"]
    out = terminal.human(quiet=given["quiet"])
    from pickcrate.browser.keeping import writer_of
    from pickcrate.orders.order import make_order
    from pickcrate.run import doors

    write = writer_of(path)
    order, _ = make_order((given["page"],), {**given.settings, "browser": True})
    with put_in_place(path, "--out") as beside:
        kept = doors.save(order, lambda visited: write(visited, beside), go_on=terminal.wait_for_enter)
    print_kept(out, kept, path)
    raise click.exceptions.Exit(0)


@app.taking(
    Command.SHEET,
    SOURCES_OR_CRATE,
    epilog=examples(
        "pickcrate sheet https://kites.example/catalogue.html --out kites.html --open",
        "pickcrate sheet kites --out kites.pdf",
    ),
)
def sheet(given: Given) -> None:
    """Make a contact sheet of a page or a crate, to pick on."""
    from pickcrate.cli import sheets, terminal
    from pickcrate.cli.looked import Looked

    out, sources = terminal.human(quiet=given["quiet"]), given["sources"]
    from pickcrate.run import auditing, doors, previewing
    from pickcrate.sheets.page import Heading
    from pickcrate.stores import hauled

    sheets.check(given["out"])
    order, destination = _order(sources, given)
    root = auditing.crate_or_source(sources[0], destination.into) if len(sources) == 1 else None
    if root is not None:
        others = set(Group) - {Group.OUTPUT, Group.CRATE}
        _refuse(given.options_of(*others), "a crate's sheet shows all that it holds")
        tiles, _, complete = sheets.gather(previewing.preview_crate(root), out)
        heading = sheets.heading_of_crate(root, order.today)
    elif len(sources) == 1 and hauled.is_haul(sources[0]):
        typed = [option for option in given.options_of(*set(Group) - {Group.OUTPUT}) if option != "--limit"]
        _refuse(typed, "a store's sheet shows all that it holds, or the first of it with --limit")
        tiles, _, complete = sheets.gather(previewing.preview_haul(hauled.hauled_at(sources[0]), given["limit"]), out)
        said = without_userinfo(sources[0])
        heading = Heading(last_segment(said) or said, f"the store {said}", order.today)
    else:
        with closing(doors.sheet(order, go_on=terminal.wait_for_enter)) as found:
            tiles, title, complete = sheets.gather(found, out, Looked(order, given.typed))
        said = ", ".join(map(without_userinfo, sources))
        line, left_out = sheets.pack_line(given)
        if left_out:
            words = "left out of the pack line on the sheet, since it may be secret"
            out.line((f"{words}: {', '.join(left_out)}", "cyan"))
        heading = Heading(title or "Contact sheet", said, order.today, line=line)
    sheets.write(given["out"], heading, tiles)
    sheets.told(given["out"], tiles, out)
    if given["open"]:
        click.launch(str(given["out"].resolve()))
    raise click.exceptions.Exit(0 if complete else 1)


@app.taking(
    Command.AUDIT,
    CRATE_OR_STORE,
    epilog=examples(
        "pickcrate audit kites", "pickcrate audit /data/crates/kites --repair", "pickcrate audit s3://kites/2026-11"
    ),
)
def audit(given: Given) -> None:
    """Tell what is missing, altered or broken in a crate or a store. Its files are held against its ledger or lists."""
    from pickcrate.cli import auditing as audits, packing, terminal

    form = given["form"]
    out = terminal.human(data_on_output=form is not ForOne.TABLE, quiet=given["quiet"])
    from pickcrate.run import auditing, doors
    from pickcrate.stores import hauled

    order, destination = _order([], given)
    if hauled.is_haul(given["crate"]):
        _refuse(given.options_of(Group.MANNERS, Group.CRATE), "a store is read; what is broken in it is hauled again")
        raise click.exceptions.Exit(0 if audits.audit_store(given["crate"], out, form, repairs=given["repair"]) else 1)
    if not given["repair"]:
        _refuse(given.options_of(Group.MANNERS), "an audit asks nothing of any site; it goes with --repair")
    root = auditing.locate(given["crate"], destination.into)
    findings = audits.show_audit(auditing.audit(root), out, as_data=form is ForOne.JSONL)
    wrong = [finding for finding in findings if finding.entry is not None]
    complete = not findings
    if given["repair"] and not wrong:
        auditing.note_moved(root)
    elif given["repair"]:
        repaired = doors.repair(root, wrong, order)
        tally = packing.show_pack(repaired, out, Format(form), root.parent)
        complete = tally.complete and len(wrong) == len(findings)
    raise click.exceptions.Exit(0 if complete else 1)


@app.command(cls=Helped, epilog=examples("pickcrate demo", "pickcrate demo --serve --port 9000"))
@click.option("--serve", is_flag=True, help="Leave the demo site up and say what to try on it.")
@click.option(
    "--port",
    type=click.IntRange(0, 65535),
    default=8425,
    show_default=True,
    metavar="N",
    help="The port to serve on; another if it is taken.",
)
@click.option(
    "--into", type=FileName(Path), default=CRATES, show_default=True, metavar="DIR", help=table()["into"].help
)
def demo(serve: bool, port: int, into: Path) -> None:
    """Show the whole job on the site of a made-up museum. It comes with the program: the Galewick Kite Museum."""
    from pickcrate.cli import tour

    with told():
        if serve:
            tour.serve(port)
        else:
            tour.walk(app, port, into)


@app.taking(
    Command.COMPARE,
    OLD_AND_NEW,
    epilog=examples(
        'pickcrate compare "kites 2026-11-19" "kites 2026-11-26" --out changes.html',
        "pickcrate compare kites https://kites.example/catalogue.html --format urls",
        "pickcrate compare kites --since 2026-11-01",
    ),
)
def compare(given: Given) -> None:
    """Tell what came, went and changed. Takes two crates or lists, a page and a crate, or one crate since a day."""
    from pickcrate.cli import comparing, terminal

    form = given["format"]
    out = terminal.human(data_on_output=form is not Format.TABLE, quiet=given["quiet"])
    order, destination = _order(given["sources"], given)
    sides = comparing.sides(given["sources"], given["since"], destination.into)
    comparing.check(given["side_by_side"])
    from pickcrate.run import doors

    with closing(doors.compare(order, sides, go_on=terminal.wait_for_enter)) as events:
        found, complete = comparing.show(events, out, form, sides)
    if (path := given["side_by_side"]) is not None:
        heading = comparing.heading(sides, found, order.today)
        comparing.write(path, heading, doors.pairs(order, sides, found.differences), out)
        if given["open"]:
            click.launch(str(path.resolve()))
    raise click.exceptions.Exit(0 if complete else 1)


@app.taking(
    Command.ALIKE,
    SEVERAL_CRATES,
    epilog=examples(
        "pickcrate alike kites",
        "pickcrate alike kites prints --out twins.html",
        "pickcrate alike kites --move-to twins",
    ),
)
def alike(given: Given) -> None:
    """Tell which pictures of crates or stores are the same. They may differ in size, format, quality or a crop."""
    from pickcrate.cli import alike as told_alike, comparing, terminal

    form = given["form"]
    comparing.check(given["side_by_side"])
    out = terminal.human(data_on_output=form is not ForOne.TABLE, quiet=given["quiet"])
    from pickcrate.orders import readers
    from pickcrate.run import homes
    from pickcrate.run.pack import twinned

    shelf = readers.plain_folder(given["move_to"], "--move-to") if given["move_to"] is not None else ""
    held = [homes.home(name, given["into"]) for name in given["sources"]]
    if shelf and any(home.root is None for home in held):
        _refuse(given.options("move_to"), "nothing is moved in a store")
    found = told_alike.show(twinned.groups(held), out, as_data=form is ForOne.JSONL, of_several=len(held) > 1)
    if (path := given["side_by_side"]) is not None:
        told_alike.write(path, held, found, out)
        if given["open"]:
            click.launch(str(path.resolve()))
    if shelf:
        told_alike.told_moved(twinned.move_twins(found, shelf), out)
    raise click.exceptions.Exit(0)


@app.taking(
    Command.SEAL,
    CRATE_OR_PACKAGE,
    epilog=examples(
        "pickcrate seal kites --as bagit --as ro-crate",
        "pickcrate seal kites --as tar --out kites-2026.tar",
        "pickcrate seal --check crates/kites.bagit",
    ),
)
def seal(given: Given) -> None:
    """Package a crate in an open standard, or check a package. It may be BagIt, RO-Crate, Croissant or tar."""
    from pickcrate.cli import sealing, terminal

    out = terminal.human(quiet=given["quiet"])
    if given["check"]:
        _refuse(given.options("as_", "package", "publisher", "description"), "--check makes no package")
        raise click.exceptions.Exit(0 if sealing.check(Path(given["crate"]), out) else 1)
    sealing.seal(given, out)
    raise click.exceptions.Exit(0)


@app.taking(
    Command.HAUL,
    LISTS,
    epilog=examples(
        "pickcrate haul photos.parquet --to s3://kites/2026-11 --workers 4",
        "pickcrate haul 'lists/*.csv' --to /shared/kites --cluster tcp://head:8786",
        "pickcrate haul --resume s3://kites/2026-11",
    ),
)
def haul(given: Given) -> None:
    """Pack a list that is too large for one machine. On a cluster, into shards in a store."""
    from pickcrate.cli import hauling, terminal

    out = terminal.human(quiet=given["quiet"])
    with _logged(given["log"]) as logged:
        is_complete = hauling.haul(given, out, logged)
    raise click.exceptions.Exit(0 if is_complete else 1)


@app.taking(Command.SETTINGS, epilog=examples("pickcrate settings", "pickcrate settings --slip kites.toml:museum"))
def settings(given: Given) -> None:
    """Print every setting in force, and where it comes from."""
    from pickcrate.cli import settings as told_settings, terminal

    form = given["form"]
    told_settings.show(given, terminal.human(), as_data=form is ForOne.JSONL)


def _order(sources: list[str], given: Given) -> "tuple[Order, Destination]":
    """Return the order that was given; it is written to a file as well, if that is wanted. Raises UsageError."""
    from pickcrate.orders.order import make_order

    if not sources and given.command is not Command.AUDIT:
        hint = f"pickcrate {given.command} SOURCE, or --slip FILE that names some"
        raise UsageError("no source is named", hint=hint)
    made = make_order(tuple(sources), given.settings)
    if (path := given.values.get("save_slip")) is not None:
        from pickcrate.cli.settings import save_slip

        save_slip(given, path)
    return made


def _refuse(options: list[str], why: str) -> None:
    """Refuse what was typed and cannot apply, rather than ignore it."""
    if options:
        raise UsageError(f"{', '.join(options)} cannot apply here: {why}", hint="leave it out")


def _logged(path: Path | None) -> "AbstractContextManager[Log]":
    from pickcrate.cli.log import logging_to

    return logging_to(path)


def run() -> None:
    """Run the command line; the entry point, of a process that is there for nothing else."""
    end = QuickExit()
    if sys.stderr is None:  # closed by who started us
        sys.stderr = Path(os.devnull).open("w", encoding="utf-8")  # noqa: SIM115 (it is for as long as we run)
    if sys.stdout is None:
        sys.stderr.write("pickcrate: standard output is closed\n  → send it somewhere, as in > /dev/null\n")
        sys.exit(1)
    # What Pillow thinks of a picture is no news for a person. Our process, our filter: it is set for no program.
    warnings.filterwarnings("ignore", module=r"PIL\.")
    try:
        app(prog_name="pickcrate")
    except SystemExit as asked:
        end.code = asked.code if isinstance(asked.code, int) else None
        try:
            sys.stdout.flush()
        except BrokenPipeError:
            close_output()
        except OSError as error:
            asked.code = end.code = output_failed(error)
        raise
