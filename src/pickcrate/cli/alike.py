"""What ``alike`` prints: groups of pictures that look the same, the best of each first; and what is moved."""

from collections.abc import Iterable, Sequence
from functools import partial
from pathlib import Path

from pickcrate.cli.comparing import write_page
from pickcrate.cli.lists import write_json
from pickcrate.cli.terminal import Out
from pickcrate.cli.text import count, cut, shown, size
from pickcrate.run.comparing import MOST_SHOWN, holding_of
from pickcrate.run.pack.twinned import Alike, Home
from pickcrate.run.previewing import preview_held
from pickcrate.sheets.sidebyside import Heading, Row, Side, page_side_by_side
from pickcrate.twins.likeness import Likeness

_WIDEST = 48
_SAID = {None: ("best", "green"), Likeness.TWINS: ("twin", ""), Likeness.PERHAPS: ("perhaps", "yellow")}


def show(groups: Iterable[list[Alike]], out: Out, *, as_data: bool, of_several: bool) -> list[list[Alike]]:
    """Print each group, or its pictures as data; return them all."""
    found: list[list[Alike]] = []
    for number, group in enumerate(groups, 1):
        found.append(group)
        for one in group:
            if as_data:
                write_json(_row(one, group[0], number))
            else:
                out.line(*_line(one, of_several=of_several))
        if not as_data:
            out.line("")
    twins = sum(one.likeness is Likeness.TWINS for group in found for one in group)
    perhaps = sum(one.likeness is Likeness.PERHAPS for group in found for one in group)
    said = [f"{count(len(found), 'group')}: {count(twins, 'twin')} beside the best"]
    said += [f"{perhaps:,} perhaps, for you to look at"] if perhaps else []
    out.line((" · ".join(said) if found else "no two pictures are alike", "bold"))
    return found


def _line(one: Alike, *, of_several: bool) -> list[tuple[str, str]]:
    said, style = _SAID[one.likeness]
    entry = one.entry
    file = f"{one.home.name}/{entry.file}" if of_several else entry.file
    facts = f"  {entry.width or '?'}×{entry.height or '?'}  {size(entry.bytes or 0)}"
    return [(f"{said:8} ", style), (f"{cut(shown(file), _WIDEST):{_WIDEST}}", ""), (facts, "dim")]


def _row(one: Alike, best: Alike, number: int) -> dict[str, object]:
    entry = one.entry
    return {
        "group": number,
        "alike": one.likeness.value if one.likeness is not None else "best",
        "crate": one.home.address,
        "file": entry.file,
        "best": f"{best.home.address}/{best.entry.file}" if one is not best else None,
        "width": entry.width,
        "height": entry.height,
        "bytes": entry.bytes,
        "url": entry.url,
        "page": entry.page or None,
    }


def write(path: Path, homes: Sequence[Home], groups: Sequence[Sequence[Alike]], out: Out) -> None:
    """Write a web page with each group side by side, the best first; PickCrateError if it cannot be."""
    shown_groups = groups[:MOST_SHOWN]
    previews = iter(preview_held([partial(one.home.octets, one.entry) for group in shown_groups for one in group]))
    rows = [
        Row(
            min((one.likeness for one in group if one.likeness is not None), key=list(Likeness).index),
            holding_of(group[0].entry),
            tuple(Side(_SAID[one.likeness][0], holding_of(one.entry), next(previews)) for one in group),
        )
        for group in shown_groups
    ]
    about = f"{count(len(groups), 'group')} of pictures that look the same, the best of each first"
    if len(groups) > MOST_SHOWN:
        about += f" · the first {MOST_SHOWN:,} are shown"
    heading = Heading(f"Twins in {', '.join(home.name for home in homes)}", about)
    write_page(path, page_side_by_side(heading, rows), out)


def told_moved(moved: list[tuple[Path, str, str]], out: Out) -> None:
    """Print what was moved where."""
    for _, old, new in moved:
        out.line(("moved    ", "green"), f"{shown(old)} → {shown(new)}")
    out.line((f"{count(len(moved), 'picture')} moved; nothing was deleted", "bold"))
