"""Slips: a whole order in a TOML file (v1.0), to be run again; and the standing settings of a folder or a person.

A key is a setting's name in the table, or ``sources``. Several orders in one file are tables with names, and what
stands before the first of them holds for each. ``${NAME}`` is a variable of the environment, ``$${NAME}`` the text
itself.
"""

import json
import os
import re
import tomllib
from collections.abc import Iterable, Iterator, Mapping
from difflib import get_close_matches
from keyword import iskeyword
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from pickcrate.addresses.url import looks_like_web
from pickcrate.errors import UsageError
from pickcrate.orders.given import value_of
from pickcrate.orders.setting import Group, Input, Setting
from pickcrate.orders.settings import in_slips, table
from pickcrate.text.lazyre import lazy
from pickcrate.tilde import without_tilde

SOURCES = "sources"
_MOST_BYTES = 1_000_000
_VARIABLE = lazy(r"(?<!\$)\$\{([A-Za-z_][A-Za-z0-9_]*)\}")
_ESCAPED = lazy(r"\$(\$\{[A-Za-z_][A-Za-z0-9_]*\})")
_SPELT = lazy(r"(\$\{[A-Za-z_][A-Za-z0-9_]*\})")
_USERINFO = lazy(r"(?<=://)[^\s/?#\"'<>\\@]*@")
_NO_NAME = lazy(r"[^A-Za-z0-9]+")
_RUNS_PROGRAMS = frozenset(("browser_path", "browser_at"))
"""what a folder that came from somebody else may not decide"""

_EXAMPLES = {
    Input.TEXT: '"text"',
    Input.TEXTS: '["one", "another"]',
    Input.FLAG: "true",
    Input.WHOLE: "4",
    Input.COUNT: "4",
    Input.DECIMAL: "1.5",
    Input.FILE: '"kites.txt"',
}
_BY_METAVAR = {"RANGE": '"800.."', "SIZE": '"20MB"', "PIXELS": '"50MP"', "NUMBERS": '"1..5,9"', "CSS": '"main figure"'}
_KINDS: dict[Input, tuple[type, ...]] = {
    Input.TEXT: (str,),
    Input.TEXTS: (str, list),
    Input.FLAG: (bool,),
    Input.WHOLE: (int,),
    Input.COUNT: (int, str),
    Input.DECIMAL: (int, float),
    Input.FILE: (str,),
    Input.CHOICE: (str,),
}
_HEADER = lazy(r"\s*\[\s*([^\[\]]+?)\s*\]\s*(?:#.*)?$")
_OPTION = lazy(r"--([a-z][a-z-]*)")


class Slip(Struct, frozen=True):
    """What a file states: sources, settings by their names as the command line has them, and where each stands."""

    sources: tuple[str, ...] = ()
    settings: Mapping[str, Any] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)


def read_slip(named: str | Path) -> Slip:
    """Return the order in a slip; of one that holds several, ``FILE:NAME`` says which.

    Raises UsageError with the line of what cannot mean anything.
    """
    path, name = _parted(str(named))
    return _File(path).order(name)


def read_standing(path: Path, *, is_own: bool) -> Slip:
    """Return the standing settings in a file: the user's own, or those of a folder. Raises UsageError."""
    file = _File(path)
    for key, value in file.told.items():
        if isinstance(value, dict) or key == SOURCES:
            raise file.wrong(key, "standing settings are no orders", hint="sources and tables belong into a slip")
        if key in _RUNS_PROGRAMS and not is_own:
            raise file.wrong(
                key, "a folder's settings may not choose a program", hint="it may stand in your own settings"
            )
    return file.order("")


def _parted(named: str) -> tuple[Path, str]:
    """Return the file and the name of an order in it, after the last colon, if no file is called so."""
    path, colon, name = named.rpartition(":")
    if not colon or without_tilde(named).is_file() or "/" in name or "\\" in name:
        return without_tilde(named), ""
    return without_tilde(path), name


class _File:
    """One file of settings: its text, and what it states."""

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            octets = path.read_bytes()[:_MOST_BYTES]
            self._text = octets.decode("utf-8-sig")
            self.told: dict[str, Any] = tomllib.loads(self._text)
        except (OSError, UnicodeDecodeError) as error:
            reason = (error.strerror or str(error)).lower() if isinstance(error, OSError) else "it is not UTF-8"
            raise UsageError(
                f"{path} cannot be read: {reason}", hint="pickcrate pack … --save-slip makes one"
            ) from error
        except (tomllib.TOMLDecodeError, RecursionError) as error:
            raise UsageError(
                f"{path} is not TOML: {error}", hint='a line is KEY = VALUE, as in width = "800.."'
            ) from error

    def order(self, name: str) -> Slip:
        """Return one order of the file."""
        orders = {key: value for key, value in self.told.items() if isinstance(value, dict)}
        chosen: dict[str, Any] = {}
        if name:
            if name not in orders:
                known = f"its orders are {', '.join(orders)}" if orders else "it holds one order, without a name"
                raise UsageError(f"{self.path} has no order called {name!r}", hint=known)
            chosen = orders[name]
        elif orders:
            hint = f"say which: {self.path}:{next(iter(orders))}; its orders are {', '.join(orders)}"
            raise UsageError(f"{self.path} holds orders, and none was named", hint=hint)
        common = {key: value for key, value in self.told.items() if not isinstance(value, dict)}
        settings: dict[str, Any] = {}
        places: dict[str, str] = {}
        sources: tuple[str, ...] = ()
        for order, section in ((common, ""), (chosen, name)):
            for key, value in order.items():
                if key == SOURCES:
                    sources = tuple(self._sources(value, section))
                else:
                    settings[_named(key)] = self._setting(key, value, section)
                places[_named(key)] = self._place(key, section)
        return Slip(sources, settings, places)

    def _sources(self, value: Any, section: str) -> Iterator[str]:
        values = [value] if isinstance(value, str) else value
        if not isinstance(values, list) or not all(isinstance(source, str) for source in values):
            hint = 'sources = ["https://kites.example/", "page.html"]'
            raise self.wrong(SOURCES, "it is a list of texts", section, hint=f"for example {hint}")
        for source in values:
            expanded = self._expanded(source, SOURCES, section)
            if not expanded.strip():
                raise self.wrong(SOURCES, "one of them is empty", section, hint="name a page, or leave it out")
            yield self._beside(expanded)

    def _setting(self, key: str, value: Any, section: str) -> Any:
        """Return a setting as the command line would have it. Raises UsageError for what cannot mean anything."""
        setting = table().get(_named(key))
        if setting is None or _named(key) not in in_slips():
            close = get_close_matches(key.replace("-", "_"), [SOURCES, *map(_key, in_slips())], n=1)
            hint = f"did you mean {close[0]}?" if close else "settings are called as the options, with _ for -"
            raise self.wrong(key, "there is no such setting", section, hint=hint)
        if not _is_of_kind(setting, value):
            raise self.wrong(
                key, f"{spelled(value)} is of the wrong kind", section, hint=f"for example {key} = {_example(setting)}"
            )
        if isinstance(value, list):
            value = [self._expanded(one, key, section) for one in value]
        elif isinstance(value, str):
            value = self._expanded(value, key, section)
        if setting.input is Input.FILE:
            if not str(value).strip():
                raise self.wrong(key, "it is empty", section, hint="name a path, or leave it out")
            value = Path(self._beside(value, must_be_there=False))
        try:
            value_of(setting, setting.option(_named(key)), value)
        except UsageError as error:
            raise self.wrong(key, _by_key(error.message, key), section, hint=_by_key(error.hint, key)) from None
        if setting.input is Input.TEXTS:
            return [value] if isinstance(value, str) else value
        return setting.choices(value) if setting.choices is not None else value

    def _expanded(self, text: str, key: str, section: str) -> str:
        """Return a text with variables of the environment in their places."""

        def variable(match: re.Match[str]) -> str:
            if match[1] not in os.environ:
                hint = f"set it before the run: export {match[1]}=…"
                raise self.wrong(key, f"the environment has no {match[1]}", section, hint=hint)
            return os.environ[match[1]]

        return _ESCAPED.sub(r"\1", _VARIABLE.sub(variable, text))

    def _beside(self, text: str, *, must_be_there: bool = True) -> str:
        """Return a path that counts from the file's folder; what is an address, or no path there, as it is."""
        if looks_like_web(text) or text == "-":
            return text
        beside = self.path.parent / without_tilde(text)  # which is the second alone where that is absolute
        try:
            return str(beside) if not must_be_there or beside.exists() else text
        except (OSError, ValueError):  # too long for a path, or with a zero in it
            return text

    def wrong(self, key: str, words: str, section: str = "", *, hint: str) -> UsageError:
        """Return what is to be said of a key."""
        return UsageError(f"{self._place(key, section)}: {key}: {words}", hint=hint)

    def _place(self, key: str, section: str) -> str:
        """Return the file and the line of a key, which tomllib does not tell."""
        line, inside = 0, ""
        start = re.compile(rf"\s*[\"']?{re.escape(key)}[\"']?\s*[.=]")
        for number, text in enumerate(self._text.splitlines(), 1):
            if (header := _HEADER.match(text)) is not None:
                inside = header[1].strip().strip("\"'")
            elif inside == section and start.match(text):
                line = number
                break
        return f"{self.path}, line {line}" if line else str(self.path)


def _named(key: str) -> str:
    """Return the name of a setting by its key, which may be a word that Python keeps for itself: ``except``."""
    return f"{key}_" if iskeyword(key) else key


def _key(name: str) -> str:
    return name.rstrip("_")


def _is_of_kind(setting: Setting, value: Any) -> bool:
    if isinstance(value, bool):
        return setting.input is Input.FLAG
    if isinstance(value, list):
        return setting.input is Input.TEXTS and all(isinstance(one, str) for one in value)
    return isinstance(value, _KINDS[setting.input])


def _example(setting: Setting) -> str:
    if setting.choices is not None:
        return f'"{next(iter(setting.choices))}"'
    return _BY_METAVAR.get(setting.metavar, _EXAMPLES[setting.input])


def _by_key(text: str, key: str) -> str:
    """Return a message about an option as one about a key: ``for example --width 800..`` as ``width = "800.."``."""
    option = table()[_named(key)].option(_named(key))
    text = text.removeprefix(f"{option} ")
    example = re.sub(rf"{re.escape(option)} '?([^']+)'?$", lambda match: f'{key} = "{match[1]}"', text)
    return _OPTION.sub(lambda match: match[1].replace("-", "_"), example)


def written(sources: Iterable[str], settings: Mapping[str, Any], path: Path) -> tuple[str, list[str]]:
    """Return the text of a slip at ``path``, and the variables of the environment that its secrets are to come from.

    ``settings`` are those that differ from their defaults, as the command line has them.
    """
    secrets = _Secrets()
    kept = [secrets.without_userinfo(_from(path, source), "SOURCE") for source in sources]
    lines = [f"# An order of Pick Crate: pickcrate pack --slip {path.name}"]
    if kept:
        lines.append(f"{SOURCES} = {spelled(kept)}")
    for group in Group:
        rows = [name for name, row in table().items() if row.group is group and name in settings and name in in_slips()]
        if rows:
            lines += ["", f"# {group.value}"]
        for name in rows:
            value = secrets.taken_out(name, table()[name], settings[name])
            if table()[name].input is Input.FILE:
                value = _from(path, str(value), is_path=True)
            lines.append(f"{_key(name)} = {spelled(value)}")
    return "\n".join(lines) + "\n", secrets.variables


class _Secrets:
    """What is taken out of a slip on its way, each with the variable that stands in its place."""

    def __init__(self) -> None:
        self.variables: list[str] = []

    def taken_out(self, name: str, setting: Setting, value: Any) -> Any:
        if isinstance(value, list | tuple):
            return [self.taken_out(name, setting, one) for one in value]
        if not isinstance(value, str):
            return value
        if setting.is_secret:
            field_name, colon, said = value.partition(":")
            return f"{field_name}{colon} {self._variable(field_name, said)}"
        return self.without_userinfo(_SPELT.sub(r"$\1", value), name)

    def without_userinfo(self, text: str, name: str) -> str:
        return _USERINFO.sub(lambda match: f"{self._variable(f'{name} userinfo', match[0])}@", text)

    def _variable(self, named: str, said: str) -> str:
        """Return the variable for a secret; one that is one already stays."""
        if (known := _VARIABLE.search(said)) is not None:
            return known[0]
        base = name = f"PICKCRATE_{_NO_NAME.sub('_', named).strip('_').upper()}"
        for number in range(2, 1_000):
            if name not in self.variables:
                break
            name = f"{base}_{number}"
        self.variables.append(name)
        return f"${{{name}}}"


def _from(path: Path, text: str, *, is_path: bool = False) -> str:
    """Return a path as it counts from a slip's folder; what is no path there is, as it is."""
    if looks_like_web(text) or text == "-" or Path(text).is_absolute():
        return text
    try:
        if not is_path and not Path(text).exists():
            return text
        return Path(os.path.relpath(text, path.parent)).as_posix()
    except (OSError, ValueError):
        return text


def spelled(value: Any) -> str:
    """Return a value as TOML spells it (1.0, String, Integer, Float, Boolean, Array)."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return repr(value)
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(spelled, value))}]"
    # The escapes of JSON are TOML's as well; but for DEL, which JSON leaves as it is.
    return json.dumps(str(value), ensure_ascii=False).replace("\x7f", "\\u007f")
