"""Settings for people: what is in force and where it comes from, and slips that are written."""

from pathlib import Path
from typing import Any

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.lists import write_json
from pickcrate.cli.options import Given
from pickcrate.cli.shell import command_line
from pickcrate.cli.terminal import Out, human, place
from pickcrate.cli.text import shown
from pickcrate.errors import UsageError
from pickcrate.orders.setting import Group, Setting
from pickcrate.orders.settings import in_slips, of_command, table
from pickcrate.orders.slips import SOURCES, spelled, written
from pickcrate.orders.standing import own_settings

_BY_DEFAULT = "by default"
_VALUE_WIDTH = 44


def save_slip(given: Given, path: Path) -> None:
    """Write an order to a new file, without what is secret, and say so. Raises UsageError if it cannot be written."""
    known = of_command(given.command)
    differing = {name: given[name] for name in known if name in given.typed and given[name] != known[name].default}
    text, variables = written(given.values[SOURCES], differing, path)
    try:
        with path.open("x", encoding="utf-8") as file:
            file.write(text)
    except FileExistsError:
        raise UsageError(f"--save-slip {path}: there is such a file already", hint="name another one") from None
    except (OSError, UnicodeError) as error:
        reason = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
        raise UsageError(f"--save-slip {path}: cannot be written: {reason.lower()}") from error
    out = human(data_on_output=True, quiet=bool(given.values.get("quiet")))
    line = command_line(("pickcrate", given.command.value, "--slip", str(path)))
    out.line("slip: ", place(path), (f"  (run it again: {line})", "dim"))
    if variables:
        said = "what is secret is not in it: set "
        out.line((said + ", ".join(variables) + " in the environment before you run it", "cyan"))


def show(given: Given, out: Out, *, as_data: bool) -> None:
    """Print every setting that has a value, heading by heading, with the file and line that states it."""
    rows = [(name, table()[name], *_in_force(given, name)) for name in in_slips()]
    if as_data:
        for name, setting, value, where in rows:
            write_json(
                {"setting": name, "group": setting.group.value, "value": _as_data(setting, value), "from": where}
            )
        return
    width = max(len(name) for name, *_ in rows)
    for source in given.values.get("sources") or ():
        out.line(("source  ", "bold"), shown(without_userinfo(source)))
    for group in Group:
        lines = [row for row in rows if row[1].group is group and row[2] not in (None, "")]
        if lines:
            out.line((group.value, "bold"))
        for name, setting, value, where in lines:
            is_stated = where != _BY_DEFAULT
            said = f"{'•' if is_stated else ' '} {name:{width}}  {shown(_as_text(setting, value)):{_VALUE_WIDTH}}"
            out.line((said, "bold" if is_stated else "dim"), (f"  {shown(where)}", "cyan" if is_stated else "dim"))
    out.line((f"Your own are in {shown(str(own_settings()))}, a folder's in pickcrate.toml.", "cyan"))


def _in_force(given: Given, name: str) -> tuple[Any, str]:
    """Return the value of a setting, and where it is stated."""
    if name in given.stated:
        return given.stated[name], given.places[name]
    setting = table()[name]
    return setting.default if setting.default is not None else setting.default_words, _BY_DEFAULT


def _as_data(setting: Setting, value: Any) -> Any:
    if setting.is_secret and value:
        return [f"{field.partition(':')[0]}: …" for field in value]
    return [*map(_plain, value)] if isinstance(value, list) else _plain(value)


def _plain(value: Any) -> Any:
    return value if isinstance(value, bool | int | float) or value is None else without_userinfo(str(value))


def _as_text(setting: Setting, value: Any) -> str:
    is_words = value == setting.default_words and setting.default is None
    return str(value) if is_words else spelled(_as_data(setting, value))
