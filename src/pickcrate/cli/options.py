"""Settings as options: each command's are made from the table, and its help shows them under their headings."""

from collections import Counter
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from click.core import ParameterSource
from msgspec import Struct, field

from pickcrate.cli.ending import told
from pickcrate.errors import UsageError
from pickcrate.orders.setting import Command, Group, Input, Setting
from pickcrate.orders.settings import of_command
from pickcrate.tilde import without_tilde

if TYPE_CHECKING:
    from click.shell_completion import CompletionItem

_FIRST = "Most people need"
_MOST_COMMON = 5


class Given(Struct, frozen=True):
    """What was typed: arguments and settings by their names, and which settings were typed at all."""

    command: Command
    values: dict[str, Any]
    typed: frozenset[str]
    """on the line, or in a slip"""
    stated: Mapping[str, Any] = field(default_factory=dict)
    """what is not typed, and a file states"""
    places: Mapping[str, str] = field(default_factory=dict)
    """where that is: files and lines"""

    def __getitem__(self, name: str) -> Any:
        return self.values[name]

    @property
    def settings(self) -> dict[str, Any]:
        """The values of settings that make an order."""
        known = of_command(self.command)
        return {name: value for name, value in self.values.items() if name in known and known[name].goes_to}

    def words(self, name: str) -> list[str]:
        """Return a setting as it would be typed."""
        setting, value = of_command(self.command)[name], self.values[name]
        option = setting.option(name)
        if setting.input is Input.FLAG:
            return [option if value else setting.spelled(name).partition("/")[2]]
        values = value if setting.input is Input.TEXTS else [value]
        return [word for each in values for word in (option, str(each))]

    def options(self, *names: str) -> list[str]:
        """Return those of the settings that were typed, as options."""
        known = of_command(self.command)
        return [known[name].option(name) for name in names if name in self.typed]

    def options_of(self, *groups: Group) -> list[str]:
        """Return the settings of some groups that were typed, as options."""
        return self.options(*(name for name, known in of_command(self.command).items() if known.group in groups))


class FileName(click.ParamType[Any]):
    """A path, or a source, as it is typed: it need not be there. Click's own asks for a translation of its name."""

    name = "path"

    def __init__(self, made: type[str] | type[Path] = str) -> None:
        self._made = made

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        """Return what is typed as what it is to be. What is empty would be the folder one is in: it raises Exit."""
        if value == "" and param is not None and ctx is not None and not ctx.resilient_parsing:
            named = param.opts[-1] if isinstance(param, click.Option) else "an argument"
            with told():
                raise UsageError(f"{named} is empty", hint="a variable of your script may not be set")
        return self._made(value) if self._made is str else without_tilde(value)

    def shell_complete(
        self,
        ctx: click.Context,  # noqa: ARG002 (Click asks so)
        param: click.Parameter,  # noqa: ARG002
        incomplete: str,
    ) -> "list[CompletionItem]":
        """Return that shells may complete it by the names of files."""
        from click.shell_completion import CompletionItem  # noqa: PLC0415 (seldom asked for)

        return [CompletionItem(incomplete, type="file")]


class Helped(click.Command):
    """A command with a help option of its own, for which no translation is looked up either."""

    def get_help_option(self, ctx: click.Context) -> click.Option:  # noqa: ARG002 (Click asks so)
        """Return the option that shows the help."""
        return _HELP


def _show_help(context: click.Context, _: click.Parameter, is_wanted: bool) -> None:
    if is_wanted and not context.resilient_parsing:
        click.echo(context.get_help())
        context.exit()


_HELP = click.Option(
    ["-h", "--help"],
    is_flag=True,
    is_eager=True,
    expose_value=False,
    callback=_show_help,
    help="Show this message and leave.",
)


class Operand(click.Argument):
    """An argument with words for the help."""

    def __init__(self, name: str, metavar: str, words: str, *, is_one: bool = True, is_needed: bool = True) -> None:
        super().__init__([name], metavar=metavar, nargs=1 if is_one else -1, required=is_needed, type=FileName())
        self.words = words

    def make_metavar(self, ctx: click.Context) -> str:  # noqa: ARG002 (Click asks so)
        """Return how it stands in the line of usage."""
        metavar = self.metavar or ""
        return f"{metavar}..." if self.nargs < 0 and not {".", "["} & set(metavar) else metavar


class Grouped(Helped):
    """A command whose help shows its options under the headings of the table, the most common ones first."""

    def __init__(self, command: Command, operands: tuple[Operand, ...], run: Callable[[Given], None], epilog: str):
        options = [_option(name, setting) for name, setting in of_command(command).items()]
        parameters = [*operands, *options]
        super().__init__(command.value, params=parameters, callback=self._call, help=run.__doc__, epilog=epilog)
        self._command, self._run = command, run

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Read the line; of options that take one value and are given several, say that one counts."""
        given = Counter(arg.partition("=")[0] for arg in args if arg.startswith("--"))
        rest = super().parse_args(ctx, args)
        options = (one for one in self.params if isinstance(one, click.Option) and not (one.multiple or one.is_flag))
        for name, times in ((option.opts[-1], given[option.opts[-1]]) for option in options):
            if times > 1:
                from pickcrate.cli.terminal import say_error  # noqa: PLC0415 (few lines have any)

                say_error(f"{name} is given {times} times: only the last counts")
        return rest

    def _call(self, **values: Any) -> None:
        known, context = of_command(self._command), click.get_current_context()
        typed = (name for name in values if context.get_parameter_source(name) is ParameterSource.COMMANDLINE)
        meant = {name: _meant(value, known.get(name)) for name, value in values.items()}
        with told():
            self._run(_in_force(Given(self._command, meant, frozenset(typed))))

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write arguments and options, heading by heading."""
        known = of_command(self._command)
        common = sorted((name for name in known if known[name].common), key=lambda name: known[name].common)
        first: dict[str, tuple[str, str] | None] = dict.fromkeys(common[:_MOST_COMMON])
        headings = ("Arguments", _FIRST, *(group.value for group in Group))
        records: dict[str, list[tuple[str, str]]] = {heading: [] for heading in headings}
        for parameter in self.get_params(ctx):
            name = parameter.name or ""
            if isinstance(parameter, Operand):
                records["Arguments"].append((parameter.metavar or name, parameter.words))
            elif (record := parameter.get_help_record(ctx)) is not None and name in first:
                first[name] = record
            elif record is not None:
                records[known[name].group if name in known else Group.OUTPUT].append(record)
        records[_FIRST] = [record for record in first.values() if record is not None]
        for heading, lines in records.items():
            if lines:
                with formatter.section(heading):
                    formatter.write_dl(lines)


class Program(Helped, click.Group):
    """The commands in the order of their making. Each is only made when it is wanted: it has dozens of options."""

    def __init__(self, **more: Any) -> None:
        super().__init__(**more)
        self._makers: dict[str, Callable[[], Grouped]] = {}

    def taking(
        self, command: Command, *operands: Operand, epilog: str
    ) -> Callable[[Callable[[Given], None]], Callable[[Given], None]]:
        """Return what makes a command of a function: with these arguments, and with the settings that it takes."""

        def decorate(function: Callable[[Given], None]) -> Callable[[Given], None]:
            self._makers[command.value] = partial(Grouped, command, operands, function, epilog)
            return function

        return decorate

    def list_commands(self, _: click.Context) -> list[str]:
        """Return the names of all commands."""
        return [*self._makers, *self.commands]

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        """Return a command, made of its function and its settings."""
        make = self._makers.get(name)
        return make() if make is not None else super().get_command(ctx, name)

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Return the command that is named first; say what is meant where none is. Raises Exit.

        ``help``, and a command's name behind it, stand for what ``--help`` shows.
        """
        commands = self.list_commands(ctx)
        if args[0] == "help":
            args = [*args[1:2], "--help"]
        if args[0] == "--help":
            click.echo(ctx.get_help())
            ctx.exit()
        if args[0] not in commands and not args[0].startswith("-"):
            from pickcrate.addresses.url import without_userinfo  # noqa: PLC0415 (seldom needed)

            word = without_userinfo(args[0])
            with told():
                raise UsageError(f"no such command: {word}", hint=_meant_by(word, commands))
        return super().resolve_command(ctx, args)


def _meant_by(word: str, commands: list[str]) -> str:
    """Return what somebody may have meant who typed a word in the place of a command."""
    from difflib import get_close_matches  # noqa: PLC0415 (seldom needed)

    from pickcrate.cli.shell import as_operand, command_line  # noqa: PLC0415

    if "/" in word or "." in word:
        line = command_line(("pickcrate", "look", as_operand(word)))
        return f"a source comes behind a command: {line or 'pickcrate look SOURCE'}"
    close = get_close_matches(word.lower(), commands, 1)
    return f"did you mean pickcrate {close[0]}?" if close else f"the commands are {', '.join(commands)}"


def _in_force(given: Given) -> Given:
    """Return what was typed with what a slip, and the standing settings, state besides. Raises UsageError."""
    from pickcrate.orders.standing import standing_files  # noqa: PLC0415

    standing = [] if given.values.get("no_settings") else [*standing_files()]
    named = given.values.get("slip")
    if not (standing or named):
        return given
    from pickcrate.orders.slips import Slip, read_slip, read_standing  # noqa: PLC0415 (most runs have no such file)

    slip = read_slip(named) if named else Slip()
    stated: dict[str, Any] = {}
    places: dict[str, str] = {}
    for layer in (*(read_standing(path, is_own=is_own) for path, is_own in reversed(standing)), slip):
        stated |= {name: value for name, value in layer.settings.items() if name not in given.typed}
        places |= layer.places
    known = of_command(given.command)
    values = given.values | {name: value for name, value in stated.items() if name in known}
    values["sources"] = [*slip.sources, *(given.values.get("sources") or [])]
    return Given(given.command, values, given.typed.union(known.keys() & slip.settings.keys()), stated, places)


class _Whole(click.IntRange):
    name = "whole number"


class _Decimal(click.FloatRange):
    name = "number"


def _option(name: str, setting: Setting) -> click.Option:
    words = f"{setting.help} [default: {setting.default_words}]" if setting.default_words else setting.help
    extra: dict[str, Any] = {}
    if setting.completions is not None:
        extra["shell_complete"] = partial(_complete, setting)
    if setting.input is not Input.FLAG:
        extra["type"] = _type(setting)
    return click.Option(
        [name, setting.spelled(name)],
        is_flag=setting.input is Input.FLAG,
        multiple=setting.input is Input.TEXTS,
        default=getattr(setting.default, "value", setting.default),
        metavar=setting.metavar or None,
        help=words,
        show_default=not setting.default_words,
        **extra,
    )


def _type(setting: Setting) -> click.ParamType[Any]:
    match setting.input:
        case Input.WHOLE:
            least, most = setting.least, setting.most
            return _Whole(None if least is None else int(least), None if most is None else int(most))
        case Input.DECIMAL:
            return _Decimal(setting.least, setting.most)
        case Input.FILE:
            return FileName(Path)
        case Input.CHOICE if setting.choices is not None:
            return click.Choice([choice.value for choice in setting.choices])
        case _:
            return click.STRING


def _meant(value: Any, setting: Setting | None) -> Any:
    """Return what a command is given for what was typed: lists, None for an empty one, and values of enums."""
    if isinstance(value, tuple):
        return list(value) or None
    if setting is not None and setting.choices is not None and value is not None:
        return setting.choices(value)
    return value


def _complete(setting: Setting, _: click.Context, __: click.Parameter, incomplete: str) -> list[str]:
    words = (setting.completions or list)()
    return [word for word in words if word.startswith(incomplete)]
