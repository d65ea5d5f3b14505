"""The program as a whole: its own options, and what stands in the command lines of its commands."""

import click

from pickcrate.cli.options import Operand, Program
from pickcrate.version import __version__


def examples(*lines: str) -> str:
    """Return an epilog with worked examples, a line each (the mark keeps them from being filled)."""
    return "\b\nExamples:\n" + "\n".join(f"  {line}" for line in lines)


def _tell_version(context: click.Context, _: click.Parameter, is_wanted: bool) -> None:
    if is_wanted:
        click.echo(f"pickcrate {__version__}")
        context.exit()


def _tell_completion(context: click.Context, _: click.Parameter, shell: str | None) -> None:
    if shell is not None:
        from click.shell_completion import get_completion_class  # noqa: PLC0415 (seldom asked for)

        complete = get_completion_class(shell)
        assert complete is not None  # noqa: S101 (it is one of the choices)
        click.echo(complete(context.command, {}, "pickcrate", "_PICKCRATE_COMPLETE").source())
        context.exit()


app = Program(
    name="pickcrate",
    no_args_is_help=True,
    help="Collect the pictures of a web page, full size and well named, into one folder: the crate.",
    params=[
        click.Option(
            ["--version"],
            is_flag=True,
            is_eager=True,
            expose_value=False,
            callback=_tell_version,
            help="Print the version and leave.",
        ),
        click.Option(
            ["--completion"],
            type=click.Choice(["bash", "zsh", "fish"]),
            is_eager=True,
            expose_value=False,
            callback=_tell_completion,
            help="Print what makes this shell complete commands and options, for its start-up file.",
        ),
    ],
)

SOURCES = Operand(
    "sources",
    "SOURCE",
    "A web address, a saved page, network log, archive, feed, text or list, a folder of those or of pictures, "
    "a store of a haul, or -.",
    is_one=False,
    is_needed=False,
)
LISTS = Operand(
    "sources",
    "LIST",
    "Parquet, a workbook, CSV, JSON Lines or addresses: a file, a folder, a glob, or an address in a store.",
    is_one=False,
    is_needed=False,
)
SOURCES_OR_CRATE = Operand(
    "sources",
    "SOURCE|CRATE",
    "What look takes; or a crate: its path, or its name under --into.",
    is_one=False,
    is_needed=False,
)
OLD_AND_NEW = Operand(
    "sources", "OLD [NEW]", "Crates, by path or name, or what look takes; one crate alone with --since.", is_one=False
)
SEVERAL_CRATES = Operand(
    "sources", "CRATE|STORE", "Crates, by their paths or their names under --into; stores of hauls.", is_one=False
)
CRATE_OR_PACKAGE = Operand("crate", "CRATE", "A crate, by its path or its name under --into; with --check a package.")
PAGE = Operand("page", "PAGE", "The address of a web page.")
SOURCE_AND_WHICH = Operand(
    "sources",
    "SOURCE... NUMBER|TEXT",
    "What look was asked about; then the picture's number there, its address or a part of it, or words about it.",
    is_one=False,
)
CRATE_OR_STORE = Operand("crate", "CRATE|STORE", "A crate, by its path or its name under --into; or a haul's store.")
