"""The commands and their options: arguments to one frozen order, the run's events to words or data.

Only Typer is imported here at the start; what a command needs is imported when it runs.
"""

import enum
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from pickcrate.errors import NothingPickedError, PickCrateError, UsageError
from pickcrate.version import __version__

if TYPE_CHECKING:
    from pickcrate.find.asked import Asked
    from pickcrate.fullsize.userrules import UserRule
    from pickcrate.run.order import Order

app = typer.Typer(
    name="pickcrate",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="Collect the pictures of a web page, full size and well named, into one folder: the crate.",
)

EXIT_INTERRUPTED = 130


class Format(enum.StrEnum):
    """What a command prints on standard output."""

    TABLE = "table"
    CSV = "csv"
    JSONL = "jsonl"
    URLS = "urls"


Sources = Annotated[
    list[str],
    typer.Argument(
        metavar="SOURCE",
        help="A web address, a saved page, network log, archive, feed or list, a folder of pages, or -.",
    ),
]
Base = Annotated[str, typer.Option(metavar="URL", help="Make relative addresses absolute against this one.")]
Frames = Annotated[int, typer.Option(metavar="N", min=0, max=9, help="Follow frames so many levels deep.")]
Rule = Annotated[
    list[str] | None,
    typer.Option(metavar="RULE", help="How a larger address is made of a small one: 'PATTERN => REPLACEMENT'."),
]
Rules = Annotated[Path | None, typer.Option(metavar="FILE", help="A file of such rules, one a line.")]
Through = Annotated[
    int, typer.Option(metavar="N", min=0, max=9, help="Follow a thumbnail's link through up to N pages.")
]
Target = Annotated[str, typer.Option(metavar="CSS", help="Which part of such a page holds the picture.")]
Raw = Annotated[
    list[str] | None,
    typer.Option(metavar="REGEX", help="Take addresses from the raw source as well; the first group counts."),
]
Attr = Annotated[
    list[str] | None, typer.Option(metavar="NAME", help="Take addresses from this attribute, whatever they look like.")
]
Full = Annotated[
    bool | None,
    typer.Option(
        "--full/--as-shown",
        help="Fetch the larger version that can be found, or what is shown. [default: full for pages]",
    ),
]
AtOnce = Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Transfers at once, over all sites.")]
PerSite = Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Connections to one site.")]
Pause = Annotated[float, typer.Option(min=0, metavar="S", help="Seconds between two requests to one site.")]
Timeout = Annotated[float, typer.Option(min=0.1, metavar="S", help="Give up after so many seconds without progress.")]
MaxFile = Annotated[str, typer.Option(metavar="SIZE", help="Refuse anything larger.")]
Robots = Annotated[bool, typer.Option("--robots/--no-robots", help="Heed the robots.txt of the pictures' sites.")]
Quiet = Annotated[
    bool, typer.Option("--quiet", help="Print nothing but what ends the run; the exit code tells the rest.")
]
OutputFormat = Annotated[Format, typer.Option("--format", help="What to print: a table for people, or data.")]


@app.callback(invoke_without_command=True)
def _pickcrate(
    version: Annotated[bool, typer.Option("--version", help="Print the version and leave.", is_eager=True)] = False,
) -> None:
    if version:
        typer.echo(f"pickcrate {__version__}")
        raise typer.Exit


@app.command(
    epilog="Example: pickcrate look https://kites.example/catalogue.html --save kites.csv",
)
def look(
    sources: Sources,
    base: Base = "",
    full: Full = None,
    rule: Rule = None,
    rules: Rules = None,
    through: Through = 0,
    target: Target = "",
    frames: Frames = 1,
    raw: Raw = None,
    attr: Attr = None,
    output: OutputFormat = Format.TABLE,
    save: Annotated[
        Path | None,
        typer.Option(metavar="FILE", help="Write the list to a .csv, .jsonl or .txt file as well."),
    ] = None,
    at_once: AtOnce = 8,
    per_site: PerSite = 4,
    pause: Pause = 0,
    timeout: Timeout = 30,
    max_file: MaxFile = "100MB",
    robots: Robots = True,
    quiet: Quiet = False,
) -> None:
    """List the pictures of a page, with their addresses, sizes and words. Keeps no picture."""
    from pickcrate.cli import lists, terminal

    out = terminal.human(data_on_output=output is not Format.TABLE, quiet=quiet)
    with _told():
        from pickcrate.run import doors

        manners = _manners(at_once, per_site, pause, timeout, max_file, robots)
        order = _order(
            sources,
            (),
            manners,
            asked=_asked(raw, attr),
            rules=_rules(rule, rules),
            base=base,
            full=full,
            frames=frames,
            through=through,
            target=target,
        )
        with lists.saving(save) as saver:
            tally = lists.show_look(doors.look(order), out, str(output), saver)
        if not tally.found:
            raise NothingPickedError("no pictures found", hint="pictures that scripts load are not in the page itself")
    raise typer.Exit(0 if tally.complete else 1)


@app.command(
    epilog='Example: pickcrate pack https://kites.example/catalogue.html --crate kites --name "{alt}" --name "{stem}"',
)
def pack(
    sources: Sources,
    crate: Annotated[str, typer.Option(metavar="NAME", help="The crate's name. [default: the page's title]")] = "",
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates"),
    name: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN",
            help="How files are named, as in '{n:03} {alt}'; repeat it: the first whose fields are known is used. "
            "[default: {stem}]",
        ),
    ] = None,
    base: Base = "",
    full: Full = None,
    rule: Rule = None,
    rules: Rules = None,
    through: Through = 0,
    target: Target = "",
    frames: Frames = 1,
    raw: Raw = None,
    attr: Attr = None,
    output: OutputFormat = Format.TABLE,
    at_once: AtOnce = 8,
    per_site: PerSite = 4,
    pause: Pause = 0,
    timeout: Timeout = 30,
    max_file: MaxFile = "100MB",
    robots: Robots = True,
    quiet: Quiet = False,
) -> None:
    """Fetch the pictures of a page into a crate. Run it again to go on, or for what is new."""
    from pickcrate.cli import lists, terminal

    out = terminal.human(data_on_output=output is not Format.TABLE, quiet=quiet)
    with _told():
        from pickcrate.run import doors
        from pickcrate.run.order import Destination

        manners = _manners(at_once, per_site, pause, timeout, max_file, robots)
        order = _order(
            sources,
            tuple(name or ()),
            manners,
            asked=_asked(raw, attr),
            rules=_rules(rule, rules),
            base=base,
            full=full,
            frames=frames,
            through=through,
            target=target,
        )
        tally = lists.show_pack(doors.pack(order, Destination(crate, into)), out, str(output))
        if not tally.settled:
            raise NothingPickedError("no pictures found, so no crate was made")
    raise typer.Exit(0 if tally.complete else 1)


@app.command(epilog="Example: pickcrate why https://kites.example/catalogue.html 7")
def why(
    source: Annotated[str, typer.Argument(metavar="SOURCE", help="What look was asked about.")],
    which: Annotated[str, typer.Argument(metavar="NUMBER|URL", help="The picture's number in look, or its address.")],
    base: Base = "",
    full: Full = None,
    rule: Rule = None,
    rules: Rules = None,
    through: Through = 0,
    target: Target = "",
    frames: Frames = 1,
    raw: Raw = None,
    attr: Attr = None,
    timeout: Timeout = 30,
    max_file: MaxFile = "100MB",
    robots: Robots = True,
) -> None:
    """Tell how one picture was found, and what became of each address that may be larger."""
    from pickcrate.cli import story, terminal

    with _told():
        from pickcrate.run import doors

        order = _order(
            [source],
            (),
            _manners(8, 4, 0, timeout, max_file, robots),
            asked=_asked(raw, attr),
            rules=_rules(rule, rules),
            base=base,
            full=full,
            frames=frames,
            through=through,
            target=target,
        )
        story.print_story(terminal.human(), story.find_picture(doors.look(order), which))


@app.command(epilog="Example: pickcrate demo --serve")
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


def _manners(at_once: int, per_site: int, pause: float, timeout: float, max_file: str, robots: bool) -> dict[str, Any]:
    return {
        "at_once": at_once,
        "per_site": per_site,
        "pause": pause,
        "timeout": timeout,
        "max_file": max_file,
        "robots": robots,
    }


def _asked(raw: list[str] | None, attr: list[str] | None) -> "Asked":
    from pickcrate.find.asked import asked_for

    return asked_for(raw or [], attr or [])


def _rules(given: list[str] | None, file: Path | None) -> "tuple[UserRule, ...]":
    from pickcrate.fullsize.userrules import parse_rule, parse_rules

    rules = [parse_rule(text) for text in given or ()]
    if file is not None:
        try:
            rules += parse_rules(file.read_text(encoding="utf-8"), str(file))
        except (OSError, UnicodeDecodeError) as error:
            raise UsageError(f"--rules {file}: cannot be read: {error}") from error
    return tuple(rules)


def _order(sources: list[str], names: tuple[str, ...], manners: dict[str, Any], **wanted: Any) -> "Order":
    from pickcrate.cli.quantities import parse_size
    from pickcrate.fetch.exchange import Manners
    from pickcrate.name import patterns
    from pickcrate.run.order import Order

    largest = parse_size(manners["max_file"], "--max-file")
    return Order(
        sources=tuple(sources),
        names=patterns(names),
        manners=Manners(**(manners | {"max_file": largest})),
        **wanted,
    )


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
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise typer.Exit(0) from None


def run() -> None:
    """Run the command line; the entry point."""
    app()
