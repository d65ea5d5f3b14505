"""Golden layouts: what a person calls what each picture shows, where its page is, what is said of it, and the section."""

import json
import re
import tomllib
from collections.abc import Callable
from dataclasses import dataclass, field
from html import escape
from pathlib import Path

HOME = "https://galewick.example/kites/"
ANY = "*"
"""a heading that a person could not tell"""


@dataclass(frozen=True, slots=True)
class Seen:
    """What a person sees of one picture; its key in a layout is its file's name."""

    item: str = ""
    heading: str = ""
    url: str = ""
    columns: dict[str, str] = field(default_factory=dict)


_TABLE = tomllib.loads(Path(__file__).with_suffix(".toml").read_text(encoding="utf-8"))
LAYOUTS: dict[str, tuple[str, dict[str, Seen]]] = {
    name: (layout["html"], {picture: Seen(**seen) for picture, seen in layout.get("seen", {}).items()})
    for name, layout in _TABLE.items()
}

HELD: dict[str, Callable[[str], str]] = {
    "a template": "<template>{}</template>".format,
    "a string of a script": lambda markup: f"<script>at('#list').innerHTML = {json.dumps(markup)}</script>",
    "sums of a script": lambda markup: (
        "<script>write(" + " + x + ".join(map(json.dumps, re.split("(?=<img)", markup))) + ")</script>"
    ),
    "a value of data": lambda markup: f"<script type=application/json>{json.dumps({'html': markup})}</script>",
    "data in a string of a script": lambda markup: (
        f"<script>more = JSON.parse({json.dumps(json.dumps({'html': markup}))})</script>"
    ),
    "a hidden field": lambda markup: f"<textarea hidden>{escape(markup)}</textarea>",
    "a hidden comment": "<code style='display: none'><!-- {} --></code>".format,
    "an attribute": lambda markup: f'<div data-more="{escape(markup)}"></div>',
}
"""what may hold a piece of a page for a script to show"""
