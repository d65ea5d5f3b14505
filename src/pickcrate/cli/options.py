"""The options that commands share, in the groups of the design; each group knows what it makes of its options.

A command takes a group as one parameter: ``expanded`` spells it out for Typer, option by option, and puts it together
again when the command runs.
"""

import dataclasses
import enum
import functools
import inspect
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, get_type_hints

import typer

from pickcrate.errors import UsageError
from pickcrate.run.choosing import SortKey
from pickcrate.values import Again, Unsure

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

    within: Annotated[
        list[str] | None,
        typer.Option(metavar="CSS", help="Only what lies in elements that this selects; repeat it for several."),
    ] = None
    under: Annotated[
        str,
        typer.Option(
            metavar="TEXT",
            help="Only the section, table, list or figure that the heading or caption with TEXT introduces.",
        ),
    ] = ""

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order."""
        from pickcrate.find.asked import asked_for
        from pickcrate.find.region import Region

        asked = asked_for(self.raw or [], self.attr or [])
        region = Region(tuple(self.within or ()), self.under)
        return {"base": self.base, "frames": self.frames, "asked": asked, "region": region}


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


class Holds(enum.StrEnum):
    """What the addresses of a list are."""

    PICTURES = "pictures"
    PAGES = "pages"


@dataclass(frozen=True, slots=True)
class Lists:
    """How lists are read."""

    column: Annotated[
        list[str] | None,
        typer.Option(
            metavar="FIELD=HEADER", help="Which column of a list is what, as in url=Photo or name=3; repeat it."
        ),
    ] = None
    list_of: Annotated[Holds, typer.Option(help="What the addresses of a list are.")] = Holds.PICTURES

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a column is no field."""
        from pickcrate.read.table import FIELDS

        columns = []
        for text in self.column or ():
            name, equals, header = (part.strip() for part in text.partition("="))
            if not (equals and header) or name not in FIELDS:
                hint = f"for example --column url=Photo; fields are {', '.join(FIELDS)}"
                raise UsageError(f"--column {text!r}: a column is FIELD=HEADER", hint=hint)
            columns.append((name, header))
        return {"columns": tuple(columns), "lists_pages": self.list_of is Holds.PAGES}


class Keep(enum.StrEnum):
    """Whether pictures of a kind stay."""

    KEEP = "keep"
    DROP = "drop"


_SHAPES = ("landscape", "portrait", "square")


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which pictures are wanted."""

    width: Annotated[str, typer.Option(metavar="RANGE", help="Width in pixels, as in 800.. or 300..1200.")] = ""
    height: Annotated[str, typer.Option(metavar="RANGE", help="Height in pixels.")] = ""
    pixels: Annotated[str, typer.Option(metavar="RANGE", help="Width times height, as in 0.5MP...")] = ""
    ratio: Annotated[str, typer.Option(metavar="RANGE", help="Width to height, as in 4:3..16:9 or 1.2...")] = ""
    bytes: Annotated[str, typer.Option(metavar="RANGE", help="Size of the file, as in 20kB..5MB.")] = ""
    shape: Annotated[
        list[str] | None, typer.Option(metavar="SHAPE", help="landscape, portrait or square; repeat it for several.")
    ] = None
    type: Annotated[
        list[str] | None, typer.Option(metavar="TYPE", help="jpeg, png, webp, …; repeat it for several.")
    ] = None
    url: Annotated[
        list[str] | None,
        typer.Option(metavar="PATTERN", help="Any of its addresses has this: plain text, a glob with *, or re:…."),
    ] = None
    not_url: Annotated[
        list[str] | None, typer.Option(metavar="PATTERN", help="The address that is fetched does not have this.")
    ] = None
    text: Annotated[
        list[str] | None,
        typer.Option(metavar="PATTERN", help="Its alt text, title, caption, heading or link text has this."),
    ] = None
    not_text: Annotated[list[str] | None, typer.Option(metavar="PATTERN", help="None of its words has this.")] = None
    found_in: Annotated[
        list[str] | None, typer.Option(metavar="KIND", help="Where it was found: img, css, link, meta, data, script, …")
    ] = None
    linked: Annotated[bool, typer.Option("--linked", help="Only pictures that are links, or are linked to.")] = False
    furniture: Annotated[
        Keep, typer.Option(help="Icons, logos, spacers, trackers and the like: keep or drop them.")
    ] = Keep.KEEP
    hidden: Annotated[Keep, typer.Option(help="Pictures that the page does not show: keep or drop them.")] = Keep.KEEP
    unsure: Annotated[
        Unsure, typer.Option(help="Where a criterion cannot decide: settle (find out), keep or drop.")
    ] = Unsure.SETTLE
    only: Annotated[str, typer.Option(metavar="NUMBERS", help="Only these numbers, as in 1..5,9.")] = ""
    limit: Annotated[int | None, typer.Option(metavar="N", min=1, help="No more than the first N.")] = None
    sort: Annotated[SortKey, typer.Option(help="The order of pictures; by size the largest first.")] = SortKey.PAGE

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if one cannot mean anything."""
        from pickcrate.run.choosing import Choice
        from pickcrate.sift import ranges
        from pickcrate.sift.criteria import Criteria
        from pickcrate.sift.patterns import Pattern, parse_pattern

        def ranged(text: str, option: str, quantity: ranges.Quantity) -> ranges.Range | None:
            return ranges.parse_range(text, option, quantity) if text else None

        def patterned(texts: list[str] | None, option: str) -> tuple[Pattern, ...]:
            return tuple(parse_pattern(text, option) for text in texts or ())

        criteria = Criteria(
            only=ranges.parse_numbers(self.only, "--only") if self.only else None,
            found_in=_listed(self.found_in),
            linked=self.linked,
            hidden=self.hidden is Keep.KEEP,
            furniture=self.furniture is Keep.KEEP,
            url=patterned(self.url, "--url"),
            not_url=patterned(self.not_url, "--not-url"),
            text=patterned(self.text, "--text"),
            not_text=patterned(self.not_text, "--not-text"),
            type=tuple(_type(name) for name in _listed(self.type)),
            shape=_shapes(_listed(self.shape)),
            width=ranged(self.width, "--width", ranges.WIDTH),
            height=ranged(self.height, "--height", ranges.HEIGHT),
            pixels=ranged(self.pixels, "--pixels", ranges.PIXELS),
            ratio=ranged(self.ratio, "--ratio", ranges.RATIO),
            bytes=ranged(self.bytes, "--bytes", ranges.BYTES),
        )
        choice = Choice(self.limit, self.sort)
        return {"criteria": criteria, "unsure": self.unsure, "choice": choice}


def _listed(values: list[str] | None) -> tuple[str, ...]:
    """Return values that may be given one by one or with commas."""
    return tuple(part.strip().lower() for value in values or () for part in value.split(",") if part.strip())


def _type(name: str) -> str:
    from pickcrate import media

    kind = media.BY_NAME.get(name) or media.by_extension(name) or media.by_media_type(name)
    if kind is None:
        known = ", ".join(sorted(media.BY_NAME))
        raise UsageError(f"--type {name!r} is no image type", hint=f"types are {known}")
    return kind.name


def _shapes(names: tuple[str, ...]) -> tuple[str, ...]:
    for name in names:
        if name not in _SHAPES:
            raise UsageError(f"--shape {name!r} is no shape", hint=f"shapes are {', '.join(_SHAPES)}")
    return names


@dataclass(frozen=True, slots=True)
class Conduct:
    """How to behave towards sites."""

    at_once: Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Transfers at once, over all sites.")] = 8
    per_site: Annotated[int, typer.Option(metavar="N", min=1, max=256, help="Connections to one site.")] = 4
    pause: Annotated[float, typer.Option(min=0, metavar="S", help="Seconds between two requests to one site.")] = 0
    timeout: Annotated[
        float, typer.Option(min=0.1, metavar="S", help="Give up after so many seconds without progress.")
    ] = 30
    retries: Annotated[
        int, typer.Option(metavar="N", min=0, max=20, help="Tries after the first, for failures that may pass.")
    ] = 3
    rate: Annotated[str, typer.Option(metavar="SIZE", help="No more than this a second, over all transfers.")] = ""
    allow_private: Annotated[
        bool, typer.Option("--allow-private", help="Let public pages lead to private addresses (your own network).")
    ] = False
    proxy: Annotated[
        str, typer.Option(metavar="URL", help="Go through this HTTP or SOCKS5 proxy. [default: the environment's]")
    ] = ""
    cookies: Annotated[
        Path | None,
        typer.Option(metavar="FILE", help="Cookies for signed-in pages: a file in the Netscape format."),
    ] = None
    header: Annotated[
        list[str] | None,
        typer.Option(metavar="'NAME: VALUE'", help="A header field for the sites that are named; repeat it."),
    ] = None
    user_agent: Annotated[str, typer.Option(metavar="TEXT", help="What to call ourselves.")] = ""
    max_file: Annotated[str, typer.Option(metavar="SIZE", help="Refuse anything larger.")] = "100MB"
    max_total: Annotated[
        str, typer.Option(metavar="SIZE", help="Stop when all pictures of the run together come to this.")
    ] = ""
    robots: Annotated[
        bool,
        typer.Option("--robots/--no-robots", help="Heed robots.txt, and what pages and servers say to robots."),
    ] = True
    fresh: Annotated[
        bool, typer.Option("--fresh", help="Ask again for pages and sizes that were looked at a short while ago.")
    ] = False

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a size is none."""
        from pickcrate.cli.quantities import parse_size
        from pickcrate.fetch.exchange import USER_AGENT, Manners

        for field in self.header or ():
            if ":" not in field or any(c in field for c in "\r\n"):
                raise UsageError(
                    f"--header {field.partition(':')[0]!r}: a field is NAME: VALUE",
                    hint="for example --header 'Accept-Language: fi'",
                )
        if self.cookies is not None and not self.cookies.is_file():
            raise UsageError(f"--cookies {self.cookies}: no such file", hint="it is a file in the Netscape format")
        manners = Manners(
            retries=self.retries,
            rate=parse_size(self.rate, "--rate") if self.rate else 0,
            allow_private=self.allow_private,
            proxy=self.proxy,
            cookies=str(self.cookies or ""),
            fields=tuple(self.header or ()),
            user_agent=self.user_agent or USER_AGENT,
            at_once=self.at_once,
            per_site=self.per_site,
            pause=self.pause,
            timeout=self.timeout,
            max_file=parse_size(self.max_file, "--max-file"),
            max_total=parse_size(self.max_total, "--max-total") if self.max_total else 0,
            robots=self.robots,
            fresh=self.fresh,
        )
        return {"manners": manners}


@dataclass(frozen=True, slots=True)
class Into:
    """Where pictures go, and under which names."""

    crate: Annotated[
        str,
        typer.Option(
            metavar="NAME", help="The crate's name; it may hold {date}, {site}, {page}. [default: the page's title]"
        ),
    ] = ""
    into: Annotated[Path, typer.Option(metavar="DIR", help="The folder that crates are made in.")] = Path("crates")
    shelf: Annotated[
        str, typer.Option(metavar="PATTERN", help="Sort into sub-folders, as in '{type}' or '{page}/{shape}'.")
    ] = ""
    name: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN",
            help="How files are named, as in '{n:03} {alt}'; repeat it: the first whose fields are known is used. "
            "[default: {stem}]",
        ),
    ] = None

    again: Annotated[
        Again,
        typer.Option(help="Pictures that the crate has: skip them, refresh those that changed, or replace all."),
    ] = Again.SKIP

    zip: Annotated[
        bool, typer.Option("--zip", help="Make one archive of the finished crate as well, beside its folder.")
    ] = False

    def order(self) -> dict[str, Any]:
        """Return what these options are in an order; UsageError if a pattern is none."""
        from pickcrate.name import parse_shelf, patterns

        return {"names": patterns(tuple(self.name or ())), "shelf": parse_shelf(self.shelf), "again": self.again}

    def destination(self) -> "Destination":
        """Return the crate that is named."""
        from pickcrate.run.order import Destination

        return Destination(self.crate, self.into, archived=self.zip)


Group = Where | Larger | Wanted | Lists | Conduct | Into


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
