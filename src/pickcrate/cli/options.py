"""Settings as options: each command's are made from the table, and its help shows them under their headings."""

import inspect
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.core import TyperCommand

from pickcrate.frozen import frozen
from pickcrate.run.settings import Command, Group, Input, Setting, of_command

_TYPES: dict[Input, Any] = {
    Input.TEXT: str,
    Input.TEXTS: list[str],
    Input.FLAG: bool,
    Input.WHOLE: int,
    Input.DECIMAL: float,
    Input.FILE: Path,
}
_FIRST = "Most people need"
_MOST_COMMON = 5
_EXPLICIT = "COMMANDLINE"


@frozen
class Given:
    """What was typed: arguments and settings by their names, and which settings were typed at all."""

    command: Command
    values: dict[str, Any]
    typed: frozenset[str]

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


def taking(command: Command, **arguments: Any) -> Callable[[Callable[[Given], None]], Callable[..., None]]:
    """Return what makes a command of a function: with these arguments, and with the settings that it takes."""

    def decorate(function: Callable[[Given], None]) -> Callable[..., None]:
        def run(context: typer.Context, **given: Any) -> None:
            typed = {name for name in given if _is_typed(context, name)}
            function(Given(command, given, frozenset(typed)))

        first = inspect.Parameter("context", inspect.Parameter.POSITIONAL_OR_KEYWORD, annotation=typer.Context)
        parameters = [first]
        for name, annotation in arguments.items():
            parameters.append(inspect.Parameter(name, inspect.Parameter.KEYWORD_ONLY, annotation=annotation))
        for name, setting in of_command(command).items():
            kind = inspect.Parameter.KEYWORD_ONLY
            parameters.append(
                inspect.Parameter(name, kind, default=setting.default, annotation=_annotation(name, setting))
            )
        run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
        run.__annotations__ = {parameter.name: parameter.annotation for parameter in parameters}
        run.__doc__, run.__name__ = function.__doc__, function.__name__
        return run

    return decorate


def _is_typed(context: typer.Context, name: str) -> bool:
    source = context.get_parameter_source(name)
    return source is not None and source.name == _EXPLICIT


def _annotation(name: str, setting: Setting) -> Any:
    """Return what Typer makes an option of."""
    kind: Any = setting.choices or _TYPES[setting.input]
    words = f"{setting.help} [default: {setting.default_words}]" if setting.default_words else setting.help
    extra: dict[str, Any] = {}
    if setting.completions is not None:
        extra["autocompletion"] = _completing(setting)
    option = typer.Option(
        setting.spelled(name),
        metavar=setting.metavar or None,
        help=words,
        min=setting.least,
        max=setting.most,
        show_default=not setting.default_words,
        **extra,
    )
    return Annotated[kind if setting.default is not None else kind | None, option]


def _completing(setting: Setting) -> Callable[[str], list[str]]:
    def complete(incomplete: str) -> list[str]:
        return [word for word in (setting.completions or list)() if word.startswith(incomplete)]

    return complete


class Grouped(TyperCommand):
    """A command whose help shows its options under the headings of the table, the most common ones first."""

    def format_options(self, ctx: Any, formatter: Any) -> None:
        """Write arguments and options, heading by heading."""
        known = of_command(Command(self.name or ""))
        common = sorted((name for name in known if known[name].common), key=lambda name: known[name].common)
        first: dict[str, tuple[str, str] | None] = dict.fromkeys(common[:_MOST_COMMON])
        headings = ("Arguments", _FIRST, *(group.value for group in Group))
        records: dict[str, list[tuple[str, str]]] = {heading: [] for heading in headings}
        for parameter in self.get_params(ctx):
            record = parameter.get_help_record(ctx)
            name = parameter.name or ""
            if record is None:
                continue
            if parameter.param_type_name == "argument":
                records["Arguments"].append((parameter.metavar or name.upper(), record[1]))
            elif name in first:
                first[name] = record
            else:
                records[known[name].group if name in known else Group.OUTPUT].append(record)
        records[_FIRST] = [record for record in first.values() if record is not None]
        for heading, lines in records.items():
            if lines:
                with formatter.section(heading):
                    formatter.write_dl(lines)
