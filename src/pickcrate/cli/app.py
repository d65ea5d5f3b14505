"""The commands and their options: arguments to one frozen order, the run's events to words or data.

Only Typer is imported here at the start; what a command needs is imported when it runs.
"""

import enum
import os
import sys
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from typer.core import TyperGroup

from pickcrate.addresses import without_userinfo
from pickcrate.cli.options import Conduct, Group, Into, Larger, Lists, Wanted, Where, expanded
from pickcrate.errors import NothingPickedError, PickCrateError
from pickcrate.version import __version__

if TYPE_CHECKING:
    from collections import Counter
    from contextlib import AbstractContextManager

    from pickcrate.cli.log import Log
    from pickcrate.run.order import Order


def _examples(*lines: str) -> str:
    """Return an epilog with worked examples, a line each (the mark keeps them from being filled)."""
    return "\b\nExamples:\n" + "\n".join(f"  {line}" for line in lines)


class _Commands(TyperGroup):
    """The commands; what was typed behind ``pickcrate`` is kept, for lines that repeat it."""

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        """Keep the arguments, and parse them."""
        ctx.meta[_ARGUMENTS] = list(args)
        return super().parse_args(ctx, args)


app = typer.Typer(
    name="pickcrate",
    cls=_Commands,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="Collect the pictures of a web page, full size and well named, into one folder: the crate.",
)

EXIT_INTERRUPTED = 130
_ARGUMENTS = "pickcrate.arguments"


class Format(enum.StrEnum):
    """What a command prints on standard output."""

    TABLE = "table"
    CSV = "csv"
    JSONL = "jsonl"
    URLS = "urls"


class ForOne(enum.StrEnum):
    """What ``why`` and ``audit`` print on standard output."""

    TABLE = "table"
    JSONL = "jsonl"


Sources = Annotated[
    list[str],
    typer.Argument(
        metavar="SOURCE",
        help="A web address, a saved page, network log, archive, feed or list, a folder of pages, or -.",
    ),
]
Quiet = Annotated[
    bool, typer.Option("--quiet", help="Print nothing but what ends the run; the exit code tells the rest.")
]
LogFile = Annotated[
    Path | None, typer.Option("--log", metavar="FILE", help="Write what happens to this file, a line an event.")
]
StoryFormat = Annotated[ForOne, typer.Option("--format", help="What to print: lines for people, or data.")]
OutputFormat = Annotated[Format, typer.Option("--format", help="What to print: a table for people, or data.")]


@app.callback(invoke_without_command=True)
def _pickcrate(
    version: Annotated[bool, typer.Option("--version", help="Print the version and leave.", is_eager=True)] = False,
) -> None:
    if version:
        typer.echo(f"pickcrate {__version__}")
        raise typer.Exit


@app.command(
    epilog=_examples(
        "pickcrate look https://kites.example/catalogue.html --save kites.csv",
        "pickcrate look kites.har --furniture drop --width 800.. --format urls",
    ),
)
@expanded
def look(
    sources: Sources,
    where: Where,
    larger: Larger,
    wanted: Wanted,
    listed: Lists,
    conduct: Conduct,
    output: OutputFormat = Format.TABLE,
    save: Annotated[
        Path | None,
        typer.Option(metavar="FILE", help="Write the list to a .csv, .jsonl or .txt file as well."),
    ] = None,
    everything: Annotated[bool, typer.Option("--all", help="List what was dropped as well, with the reason.")] = False,
    chart: Annotated[
        Path | None,
        typer.Option(metavar="FILE", help="Draw sizes and weights as .png, .svg or .pdf, to choose ranges by."),
    ] = None,
    log: LogFile = None,
    quiet: Quiet = False,
) -> None:
    """List the pictures of a page, with their addresses, sizes and words. Keeps no picture."""
    from pickcrate.cli import lists, terminal
    from pickcrate.cli.chart import charting

    out = terminal.human(data_on_output=output is not Format.TABLE, quiet=quiet)
    with _told(), _logged(log) as logged:
        from pickcrate.run import doors

        order = _order(sources, where, larger, wanted, listed, conduct)
        with_names = output is not Format.URLS or (save is not None and save.suffix != ".txt")
        order = replace(order, measures_all=chart is not None)
        with lists.saving(save) as saver, charting(chart, order.criteria) as points:
            found = logged.through(doors.look(order, with_names=with_names))
            found = points.through(found) if points is not None else found
            looked = lists.show_look(found, out, str(output), saver, everything=everything)
        if not looked.totals.funnel.found:
            raise NothingPickedError("no pictures found", hint="pictures that scripts load are not in the page itself")
        if not looked.totals.funnel.picked:
            raise NothingPickedError("no picture is left", hint="--all shows which criterion dropped each of them")
    raise typer.Exit(0 if looked.complete else 1)


@app.command(
    epilog=_examples(
        'pickcrate pack https://kites.example/catalogue.html --crate kites --name "{alt}" --name "{stem}"',
        "pickcrate pack picks.csv --crate kites --shelf {type} --again refresh",
    ),
)
@expanded
def pack(
    sources: Sources,
    into: Into,
    where: Where,
    larger: Larger,
    wanted: Wanted,
    listed: Lists,
    conduct: Conduct,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Print the paths that pictures would get, and fetch none.")
    ] = False,
    sheet: Annotated[bool, typer.Option("--sheet", help="Leave a contact sheet of the finished crate in it.")] = False,
    output: OutputFormat = Format.TABLE,
    log: LogFile = None,
    quiet: Quiet = False,
) -> None:
    """Fetch the pictures of a page into a crate. Run it again to go on, or for what is new."""
    from pickcrate.cli import lists, sheets, terminal

    out = terminal.human(data_on_output=output is not Format.TABLE, quiet=quiet)
    with _told(), _logged(log) as logged:
        from pickcrate.run import doors

        order = _order(sources, into, where, larger, wanted, listed, conduct)
        if dry_run:
            if not lists.show_plan(doors.plan(order, into.destination()), out):
                raise NothingPickedError("no picture is left, so no crate would be made")
            return
        destination = into.destination()
        packed = logged.through(doors.pack(order, destination))
        tally = lists.show_pack(packed, out, str(output), destination.into)
        if sheet and tally.crate is not None:
            sheets.leave_in(tally.crate, order.today, out)
        if tally.funnel.found and not tally.funnel.picked:
            raise NothingPickedError("no picture is left", hint="look --all shows which criterion dropped each of them")
        if not tally.settled:
            raise NothingPickedError("no pictures found, so no crate was made")
        if tally.settled == tally.left_out.total():
            raise NothingPickedError(_none_left(tally.left_out))
    raise typer.Exit(0 if tally.complete else 1)


@app.command(
    epilog=_examples(
        "pickcrate why https://kites.example/catalogue.html 7",
        "pickcrate why kites.html https://kites.example/thumbs/red-delta.jpg --through 1",
    )
)
@expanded
def why(
    source: Annotated[str, typer.Argument(metavar="SOURCE", help="What look was asked about.")],
    which: Annotated[str, typer.Argument(metavar="NUMBER|URL", help="The picture's number in look, or its address.")],
    where: Where,
    larger: Larger,
    wanted: Wanted,
    listed: Lists,
    conduct: Conduct,
    output: StoryFormat = ForOne.TABLE,
) -> None:
    """Tell how one picture was found, and what became of each address that may be larger."""
    from pickcrate.cli import lists, story, terminal

    with _told():
        from pickcrate.record import image_row
        from pickcrate.run import doors

        order = _order([source], where, larger, wanted, listed, conduct)
        found = story.find_picture(doors.look(order), which)
        if output is ForOne.JSONL:
            lists.write_json(image_row(found.image, found.name))
        else:
            story.print_story(terminal.human(), found)


@app.command(
    epilog=_examples(
        "pickcrate sheet https://kites.example/catalogue.html --out kites.html --open",
        "pickcrate sheet kites --out kites.pdf",
    )
)
@expanded
def sheet(
    context: typer.Context,
    sources: Annotated[
        list[str],
        typer.Argument(metavar="SOURCE|CRATE", help="What look takes; or a crate: its path, or its name under --into."),
    ],
    where: Where,
    larger: Larger,
    wanted: Wanted,
    listed: Lists,
    conduct: Conduct,
    out_file: Annotated[
        Path, typer.Option("--out", metavar="FILE", help="Where to write it: .html to pick on, .png or .pdf to print.")
    ] = Path("sheet.html"),
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates"),
    opened: Annotated[bool, typer.Option("--open", help="Show it in what opens such files.")] = False,
    quiet: Quiet = False,
) -> None:
    """Make a contact sheet of what a page holds, or a crate: to look at, and to pick on."""
    from pickcrate.cli import sheets, terminal

    out = terminal.human(quiet=quiet)
    with _told():
        from pickcrate.run import auditing, doors, previewing
        from pickcrate.sheet.page import Heading

        sheets.check(out_file)
        order = _order(sources, where, larger, wanted, listed, conduct)
        root = auditing.crate_at(sources[0], into) if len(sources) == 1 else None
        if root is not None:
            tiles, _, complete = sheets.gather(previewing.preview_crate(root), out)
            heading = sheets.heading_of_crate(root, order.today)
        else:
            tiles, title, complete = sheets.gather(doors.sheet(order), out)
            said = ", ".join(map(without_userinfo, sources))
            line, left_out = sheets.pack_line(context.meta[_ARGUMENTS][1:])
            if left_out:
                words = "left out of the pack line on the sheet, since it may be secret"
                out.line((f"{words}: {', '.join(left_out)}", "cyan"))
            heading = Heading(title or "Contact sheet", said, order.today, line=line)
        sheets.write(out_file, heading, tiles)
        sheets.told(out_file, tiles, out)
        if opened:
            typer.launch(str(out_file.resolve()))
    raise typer.Exit(0 if complete else 1)


@app.command(epilog=_examples("pickcrate audit kites", "pickcrate audit /data/crates/kites --repair"))
@expanded
def audit(
    crate: Annotated[str, typer.Argument(metavar="CRATE", help="A crate, by its path or its name under --into.")],
    conduct: Conduct,
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates"),
    repair: Annotated[
        bool, typer.Option("--repair", help="Fetch again what is missing, altered or broken; set aside what is there.")
    ] = False,
    output: StoryFormat = ForOne.TABLE,
    quiet: Quiet = False,
) -> None:
    """Hold a crate's files against its ledger: missing, altered, broken, strays."""
    from pickcrate.cli import auditing as told, lists, terminal

    out = terminal.human(data_on_output=output is not ForOne.TABLE, quiet=quiet)
    with _told():
        from pickcrate.run import auditing, doors

        root = auditing.locate(crate, into)
        findings = told.show_audit(auditing.audit(root), out, as_data=output is ForOne.JSONL)
        wrong = [finding for finding in findings if finding.entry is not None]
        complete = not findings
        if repair and wrong:
            repaired = doors.repair(root, wrong, _order([], conduct))
            tally = lists.show_pack(repaired, out, str(output), root.parent)
            complete = tally.complete and len(wrong) == len(findings)
    raise typer.Exit(0 if complete else 1)


@app.command(epilog=_examples("pickcrate demo", "pickcrate demo --serve --port 9000"))
def demo(
    serve: Annotated[bool, typer.Option("--serve", help="Leave the demo site up and say what to try on it.")] = False,
    port: Annotated[
        int, typer.Option(metavar="N", min=0, max=65535, help="The port to serve on; another if it is taken.")
    ] = 8425,
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates"),
) -> None:
    """Show the whole job on the site of the Galewick Kite Museum, which comes with the program."""
    from pickcrate.cli import tour

    with _told():
        if serve:
            tour.serve(port)
        else:
            tour.walk(app, port, into)


def _order(sources: list[str], *groups: Group) -> "Order":
    from pickcrate.run.order import Order

    wanted: dict[str, Any] = {}
    for group in groups:
        wanted |= group.order()
    if wanted.get("region"):  # it is looked up while finding, and is a criterion all the same
        wanted["criteria"] = replace(wanted["criteria"], region=str(wanted["region"]))
    return Order(sources=tuple(sources), **wanted)


def _none_left(left_out: "Counter[str]") -> str:
    if set(left_out) == {"robots"}:
        return "no picture is left: robots are asked not to take any of them"
    return "no picture is left: none of the files is what was asked for"


def _logged(path: Path | None) -> "AbstractContextManager[Log]":
    from pickcrate.cli.log import logging_to

    return logging_to(path)


@contextmanager
def _told() -> Iterator[None]:
    """Turn what ends a run into words and an exit code; the only place that does."""
    try:
        yield
    except PickCrateError as error:
        from pickcrate.cli.terminal import say_error

        say_error(error.message, error.hint)
        raise typer.Exit(error.exit_code) from error
    except KeyboardInterrupt:
        from pickcrate.cli.terminal import say_error

        say_error("interrupted", "run the same line again: it goes on from here")
        raise typer.Exit(EXIT_INTERRUPTED) from None
    except BrokenPipeError:  # the reader of our output has left, as head(1) does
        _close_output()
        raise typer.Exit(0) from None
    except OSError as error:
        raise typer.Exit(_output_failed(error)) from error


def _output_failed(error: OSError) -> int:
    """Say that what was to be printed cannot be; return the exit code."""
    from pickcrate.cli.terminal import say_error

    _close_output()
    what = error.filename or "standard output"
    say_error(f"{what} cannot be written: {(error.strerror or str(error)).lower()}", "what was done before is kept")
    return 1


def _close_output() -> None:
    """Let nothing more be printed."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def run() -> None:
    """Run the command line; the entry point."""
    if sys.stderr is None:  # closed by who started us
        sys.stderr = Path(os.devnull).open("w", encoding="utf-8")  # noqa: SIM115 (it is for as long as we run)
    if sys.stdout is None:
        sys.stderr.write("pickcrate: standard output is closed\n  → send it somewhere, as in > /dev/null\n")
        sys.exit(1)
    # What Pillow thinks of a picture is no news for a person. Our process, our filter: it is set for no program.
    warnings.filterwarnings("ignore", module=r"PIL\.")
    try:
        app()
    except SystemExit:
        try:
            sys.stdout.flush()
        except BrokenPipeError:
            _close_output()
        except OSError as error:
            sys.exit(_output_failed(error))
        raise
