"""What ``sheet`` does with tiles: one web page, or paper, written whole or not at all."""

from collections.abc import Iterable, Sequence
from datetime import date
from pathlib import Path

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.files import put_in_place, text_in_place
from pickcrate.cli.listing import PageLines
from pickcrate.cli.lists import note
from pickcrate.cli.looked import Looked
from pickcrate.cli.options import Given
from pickcrate.cli.shell import as_operand, command_line
from pickcrate.cli.story import plain_story
from pickcrate.cli.terminal import Out, place
from pickcrate.cli.text import count, size
from pickcrate.crate.places import SHEET
from pickcrate.errors import CrateError, NothingPickedError, UsageError
from pickcrate.orders.setting import Command, Group
from pickcrate.orders.settings import of_command
from pickcrate.run.events import LookEvent, PageRead, Progress
from pickcrate.run.previewing import preview_crate
from pickcrate.sheets.page import GENERATOR, Heading, web_page
from pickcrate.sheets.tile import Tile

PAGES = frozenset((".html", ".htm"))
"""endings of the files that a web page is written to"""

_PAPER = (".png", ".pdf")
_NOT_PASSED_ON = frozenset((Group.CHOOSE, Group.OUTPUT))
"""settings of a sheet that mean nothing to what is picked on it"""


def gather(
    events: Iterable[LookEvent | Progress | Tile], out: Out, looked: Looked | None = None
) -> tuple[list[Tile], str, bool]:
    """Print what goes on; return the tiles, the title of the first page, and whether every source could be read.

    What its pages said is noted in ``looked``.
    """
    tiles: list[Tile] = []
    title, complete = "", True
    pages = PageLines(out)
    for event in events:
        match event:
            case Tile():
                tiles.append(event)
            case PageRead():
                title = title or event.title
                if looked is not None:
                    looked.add_page(event)
                pages.show(event)
            case Progress():
                pass
            case _:
                complete &= note(event, out)
    if not tiles:
        hint = looked.hint if looked is not None else ""
        raise NothingPickedError("no pictures found, so no sheet was made", hint=hint)
    return tiles, title, complete


def check(path: Path) -> None:
    """Raise UsageError or CrateError if no sheet can be written there, before anything is asked for."""
    if path.suffix.lower() not in {*PAGES, *_PAPER}:
        raise UsageError(f"--out {path}: the file's ending says its format", hint="end it in .html, .png or .pdf")
    if path.exists() and path.suffix.lower() in PAGES and not _is_ours(path):
        raise CrateError(f"{path} is there and is no contact sheet", hint="say another file with --out")
    if not path.parent.is_dir():
        raise UsageError(f"--out {path}: there is no folder {path.parent}")


def write(path: Path, heading: Heading, tiles: Sequence[Tile]) -> None:
    """Write the sheet in the format that the ending of ``path`` says; PickCrateError if it cannot be."""
    kind = path.suffix.lower()
    if kind in PAGES:
        with text_in_place(path, "--out") as file:
            file.writelines(web_page(heading, tiles, plain_story))
    else:
        from pickcrate.sheets.paper import write_paper  # noqa: PLC0415 (Pillow and its fonts)

        with put_in_place(path, "--out") as beside:
            write_paper(
                beside, kind, heading, [tile for tile in tiles if tile.image.is_picked and not tile.image.furniture]
            )


def told(path: Path, tiles: Sequence[Tile], out: Out) -> None:
    """Print what was made."""
    picked = [tile.image for tile in tiles if tile.image.is_picked]
    furniture = sum(bool(image.furniture) for image in picked)
    bare = sum(tile.preview is None for tile in tiles)
    parts = [f"{count(len(tiles), 'picture')} on the sheet", f"{len(picked) - furniture:,} picked"]
    if furniture:
        parts.append(f"{furniture:,} look like furniture, and are out until you show them")
    if bare:
        parts.append(f"{bare:,} without a preview")
    out.line((" · ".join(parts), "bold"))
    out.line("sheet: ", place(path), (f"  ({size(path.stat().st_size)})", "dim"))


def pack_line(given: Given) -> tuple[str, list[str]]:
    """Return the ``pack`` command that takes what a ``sheet`` command took: what is picked is added to it.

    A sheet is passed on, so what may be secret is left out; what that was comes with it.
    """
    kept: list[str] = []
    secret: list[str] = []
    for source in given["sources"]:
        kept.append(source if source == "-" else as_operand(without_userinfo(source)))
        if without_userinfo(source) != source:
            secret.append("the password in an address")
    for name, setting in of_command(given.command).items():
        if name not in given.typed or Command.PACK not in setting.commands or setting.group in _NOT_PASSED_ON:
            continue
        option = setting.option(name)
        words = given.words(name)
        if setting.is_secret or any(without_userinfo(word) != word for word in words):
            secret.append(option)
        else:
            kept += words
    return command_line(("pickcrate", "pack", *kept)), list(dict.fromkeys(secret))


def leave_in(root: Path, today: date, out: Out) -> None:
    """Leave a sheet of a crate in it."""
    check(root / SHEET)
    tiles, _, _ = gather(preview_crate(root), out)
    write(root / SHEET, heading_of_crate(root, today), tiles)
    out.line("sheet: ", place(root / SHEET))


def heading_of_crate(root: Path, today: date) -> Heading:
    """Return what stands above a crate's pictures."""
    return Heading(root.name, f"the crate {root}", today, root=root.resolve().as_uri())


def _is_ours(path: Path) -> bool:
    try:
        with path.open("rb") as file:
            return f'name="generator" content="{GENERATOR}'.encode() in file.read(4096)
    except OSError:
        return False
