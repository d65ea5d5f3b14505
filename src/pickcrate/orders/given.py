"""What is given for settings, as values: read by the table's readers, held against its bounds, put in their places."""

from collections.abc import Iterable, Mapping
from typing import Any

from pickcrate.errors import UsageError
from pickcrate.orders.setting import Input, Setting
from pickcrate.orders.settings import table
from pickcrate.tilde import without_tilde


def values(given: Mapping[str, Any]) -> dict[str, dict[str, Any]]:
    """Return what is given as values, by the part of the order and the field that they go to.

    Raises UsageError for what cannot mean anything.
    """
    parts: dict[str, dict[str, Any]] = {}
    for name, value in given.items():
        setting = table()[name]
        part, _, field = setting.goes_to.partition(".")
        if not part or value is None or (isinstance(value, str | list) and not value):
            continue
        made = value_of(setting, setting.option(name), value)
        known = parts.setdefault(part, {})
        # Two settings may go to one field: rules that are typed, and those of a file.
        known[field] = (*known[field], *made) if field in known else made
    return parts


def value_of(setting: Setting, option: str, value: Any) -> Any:
    """Return what is given for a setting as its value. Raises UsageError, naming ``option``."""
    if setting.choices is not None:
        try:
            value = setting.choices(value)
        except ValueError:
            raise UsageError(f"{option} {value!r}", hint=f"it is one of {', '.join(setting.choices)}") from None
    elif setting.input in {Input.WHOLE, Input.DECIMAL} and not _is_within(setting, value):
        bounds = f"{setting.least or 0:g} to {setting.most:g}" if setting.most else f"at least {setting.least:g}"
        raise UsageError(f"{option} {value!r} is out of range", hint=f"it is {bounds}")
    elif setting.input is Input.FLAG and not isinstance(value, bool):
        raise UsageError(f"{option} {value!r}", hint="it is true or false")
    elif setting.input is Input.TEXTS:
        value = [value] if isinstance(value, str) else list(value) if isinstance(value, Iterable) else [value]
        _refuse_other_than_text(option, *value)
    elif setting.input is Input.TEXT:
        _refuse_other_than_text(option, value)
    elif setting.input is Input.FILE:
        if "\0" in str(value):
            raise UsageError(f"{option} {str(value)!r} is no path", hint="a path has no character U+0000")
        value = without_tilde(value)
    return setting.read(value, option) if setting.read is not None else value


def _refuse_other_than_text(option: str, *values: Any) -> None:
    for value in values:
        if not isinstance(value, str):
            raise UsageError(f"{option} {value!r} is no text", hint="it is given as text, as on the command line")


def _is_within(setting: Setting, value: Any) -> bool:
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return (
        is_number
        and (setting.least is None or value >= setting.least)
        and (setting.most is None or value <= setting.most)
    )
