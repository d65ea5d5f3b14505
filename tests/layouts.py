"""Golden layouts: what a person calls what each picture shows, where its page is, what is said of it, and the section."""

import tomllib
from dataclasses import dataclass, field
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
