"""Write the README's reference of options from the table of settings.

    python tools/reference.py

What stands between the two marks in README.md is replaced.
"""

from pathlib import Path

from pickcrate.orders.setting import Command, Group, Input, Setting
from pickcrate.orders.settings import table

README = Path(__file__).parent.parent / "README.md"
START = "<!-- options: written by tools/reference.py -->\n"
END = "<!-- end of options -->\n"


def reference() -> str:
    """Return a table a group."""
    return "\n".join(_of_group(group) for group in Group)


def _of_group(group: Group) -> str:
    rows = [_row(name, setting) for name, setting in table().items() if setting.group is group]
    return "\n".join((f"### {group}", "", "| option | of | does |", "|---|---|---|", *rows, ""))


def _row(name: str, setting: Setting) -> str:
    option = ", ".join(f"`{flag}`" for flag in setting.spelled(name).split("/"))
    taken = (setting.metavar or "|".join(setting.choices or ())).replace("|", "\\|")
    if taken:
        option = f"`{setting.option(name)} {taken}`"
    of = ", ".join(command for command in Command if command in setting.commands)
    whole = ", ".join(command for command in Command if command is not Command.SETTINGS)
    of = of.replace(whole, "all")
    default = setting.default_words or (
        "" if setting.input is Input.FLAG or setting.default is None else setting.default
    )
    if isinstance(default, float):
        default = f"{default:g}"
    return f"| {option} | {of} | {setting.help.rstrip('.')}{f' (by default {default})' if default != '' else ''} |"


def main() -> None:
    text = README.read_text(encoding="utf-8")
    before, _, rest = text.partition(START)
    after = rest.partition(END)[2]
    README.write_text(f"{before}{START}\n{reference()}\n{END}{after}", encoding="utf-8")


if __name__ == "__main__":
    main()
