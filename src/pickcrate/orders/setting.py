"""What a setting is: a row of the table in ``orders/settings.py``, and the kinds that its columns name."""

from collections.abc import Callable, Iterable
from enum import Enum, StrEnum, auto
from typing import Any

from msgspec import Struct


class Group(StrEnum):
    """The headings that settings stand under."""

    WHERE = "Where on the page"
    FULL = "Full size"
    CRITERIA = "Which pictures"
    CHOOSE = "Choosing among them"
    LISTS = "Lists"
    BROWSER = "In a browser"
    MANNERS = "Manners"
    CRATE = "The crate"
    HAUL = "The haul"
    OUTPUT = "Output"
    SLIPS = "The same again"


class Command(StrEnum):
    """The commands that take settings."""

    LOOK = "look"
    PACK = "pack"
    WHY = "why"
    SHEET = "sheet"
    AUDIT = "audit"
    SAVE = "save"
    COMPARE = "compare"
    ALIKE = "alike"
    SEAL = "seal"
    HAUL = "haul"
    SETTINGS = "settings"


class Keep(StrEnum):
    """Whether pictures of a kind stay."""

    KEEP = "keep"
    DROP = "drop"


class Holds(StrEnum):
    """What the addresses of a list are."""

    PICTURES = "pictures"
    PAGES = "pages"


class Format(StrEnum):
    """What a command prints on standard output."""

    TABLE = "table"
    CSV = "csv"
    JSONL = "jsonl"
    URLS = "urls"


class ForOne(StrEnum):
    """What ``why`` and ``audit`` print on standard output."""

    TABLE = "table"
    JSONL = "jsonl"


class Input(Enum):
    """How a setting is given on the command line."""

    TEXT = auto()
    TEXTS = auto()
    """repeatable"""
    FLAG = auto()
    WHOLE = auto()
    COUNT = auto()
    """a whole number, or a word that means all"""
    DECIMAL = auto()
    FILE = auto()
    CHOICE = auto()


LIKE_LOOK = frozenset((Command.LOOK, Command.PACK, Command.WHY, Command.SHEET, Command.COMPARE))
"""The commands that look at a source: they take what most settings are for."""


class Setting(Struct, frozen=True):
    """One row. ``goes_to`` is its place in the order, part and field; blank for what is the command's own business."""

    group: Group
    input: Input
    help: str
    goes_to: str = ""
    read: Callable[[Any, str], Any] | None = None
    """what is given, and the option's name for messages, to its value; None for what is its value already"""
    default: Any = None
    metavar: str = ""
    default_words: str = ""
    """the default in words, where its value says little"""
    choices: type[StrEnum] | None = None
    flags: str = ""
    """the option's names, where they are not its own with dashes"""
    least: float | None = None
    most: float | None = None
    completions: Callable[[], Iterable[str]] | None = None
    commands: frozenset[Command] = LIKE_LOOK
    common: int = 0
    """how soon most people need it: 1 is soonest, 0 for what few need"""
    is_secret: bool = False
    """whether its value is for nobody else's eyes"""

    def spelled(self, name: str) -> str:
        """Return the option's names on the command line, of the setting called ``name``, with a slash between two."""
        return self.flags or f"--{name.replace('_', '-')}"

    def option(self, name: str) -> str:
        """Return the option's name on the command line, of the setting called ``name``."""
        return self.spelled(name).partition("/")[0]
