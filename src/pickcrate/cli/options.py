"""The options that commands share, in the groups of the design; each group knows what it makes of its options.

A command takes a group as one parameter: ``expanded`` spells it out for Typer, option by option, and puts it together
again when the command runs.
"""

import dataclasses
import functools
import inspect
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, get_type_hints

import typer

from pickcrate.errors import UsageError

if TYPE_CHECKING:
    from pickcrate.fullsize.userrules import UserRule
    from pickcrate.run.order import Destination


@dataclass(frozen=True, slots=True)
class Where:
    """Where on the page to look."""

    base: Annotated[str, typer.Option(metavar="URL", help="Make relative addresses absolute against this one.")] = ""
    frames: Annotated[int, typer.Option(metavar="N", min=0, max=9, help="Follow frames so many levels deep.")] = 1
    raw: Annotated[
        list[str] | None,
        typer.Option(metavar="REGEX", help="Take addresses from the raw source as well; the first group counts."),
    ] = None
    attr: Annotated[
        list[str] | None,
        typer.Option(metavar="NAME", help="Take addresses from this attribute, whatever they look like."),
    ] = None

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order."""
        from pickcrate.find.asked import asked_for

        return {"base": self.base, "frames": self.frames, "asked": asked_for(self.raw or [], self.attr or [])}


@dataclass(frozen=True, slots=True)
class Larger:
    """Which version of each picture to want."""

    full: Annotated[
        bool | None,
        typer.Option(
            "--full/--as-shown",
            help="Fetch the larger version that can be found, or what is shown. [default: full for pages]",
        ),
    ] = None
    rule: Annotated[
        list[str] | None,
        typer.Option(metavar="RULE", help="How a larger address is made of a small one: 'PATTERN => REPLACEMENT'."),
    ] = None
    rules: Annotated[Path | None, typer.Option(metavar="FILE", help="A file of such rules, one a line.")] = None
    through: Annotated[
        int, typer.Option(metavar="N", min=0, max=9, help="Follow a thumbnail's link through up to N pages.")
    ] = 0
    target: Annotated[str, typer.Option(metavar="CSS", help="Which part of such a page holds the picture.")] = ""

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a rule is none."""
        return {"full": self.full, "rules": self._rules(), "through": self.through, "target": self.target}

    def _rules(self) -> "tuple[UserRule, ...]":
        from pickcrate.fullsize.userrules import parse_rule, parse_rules

        rules = [parse_rule(text) for text in self.rule or ()]
        if self.rules is not None:
            try:
                rules += parse_rules(self.rules.read_text(encoding="utf-8"), str(self.rules))
            except (OSError, UnicodeDecodeError) as error:
                raise UsageError(f"--rules {self.rules}: cannot be read: {error}") from error
        return tuple(rules)


@dataclass(frozen=True, slots=True)
class Conduct:
    """How to behave towards sites."""

    at_once: Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Transfers at once, over all sites.")] = 8
    per_site: Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Connections to one site.")] = 4
    pause: Annotated[float, typer.Option(min=0, metavar="S", help="Seconds between two requests to one site.")] = 0
    timeout: Annotated[
        float, typer.Option(min=0.1, metavar="S", help="Give up after so many seconds without progress.")
    ] = 30
    max_file: Annotated[str, typer.Option(metavar="SIZE", help="Refuse anything larger.")] = "100MB"
    robots: Annotated[
        bool, typer.Option("--robots/--no-robots", help="Heed the robots.txt of the pictures' sites.")
    ] = True
    fresh: Annotated[
        bool, typer.Option("--fresh", help="Ask again for pages and sizes that were looked at a short while ago.")
    ] = False

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a size is none."""
        from pickcrate.cli.quantities import parse_size
        from pickcrate.fetch.exchange import Manners

        manners = Manners(
            at_once=self.at_once,
            per_site=self.per_site,
            pause=self.pause,
            timeout=self.timeout,
            max_file=parse_size(self.max_file, "--max-file"),
            robots=self.robots,
            fresh=self.fresh,
        )
        return {"manners": manners}


@dataclass(frozen=True, slots=True)
class Into:
    """Where pictures go, and under which names."""

    crate: Annotated[str, typer.Option(metavar="NAME", help="The crate's name. [default: the page's title]")] = ""
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates")
    name: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN",
            help="How files are named, as in '{n:03} {alt}'; repeat it: the first whose fields are known is used. "
            "[default: {stem}]",
        ),
    ] = None

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a pattern is none."""
        from pickcrate.name import patterns

        return {"names": patterns(tuple(self.name or ()))}

    def destination(self) -> "Destination":
        """Return the crate that is named."""
        from pickcrate.run.order import Destination

        return Destination(self.crate, self.into)


Group = Where | Larger | Conduct | Into


def expanded(command: Callable[..., None]) -> Callable[..., None]:
    """Return ``command`` with each parameter that is a group spelt out as that group's options."""
    hints = get_type_hints(command, include_extras=True)
    parameters: list[inspect.Parameter] = []
    groups: dict[str, tuple[Any, list[str]]] = {}
    for name, parameter in inspect.signature(command).parameters.items():
        if not dataclasses.is_dataclass(hints[name]):
            parameters.append(parameter.replace(annotation=hints[name], kind=inspect.Parameter.KEYWORD_ONLY))
            continue
        options = get_type_hints(hints[name], include_extras=True)
        groups[name] = (hints[name], list(options))
        parameters += [
            inspect.Parameter(
                field.name, inspect.Parameter.KEYWORD_ONLY, default=field.default, annotation=options[field.name]
            )
            for field in dataclasses.fields(hints[name])
        ]

    @functools.wraps(command)
    def run(**given: Any) -> None:
        made = {
            name: group(**{option: given.pop(option) for option in fields}) for name, (group, fields) in groups.items()
        }
        command(**made, **given)

    run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {parameter.name: parameter.annotation for parameter in parameters}
    del run.__wrapped__
    return run
