"""What ``compare`` prints: what came, went and changed, kind by kind, as data, or as a web page with both sides."""

from collections import Counter
from collections.abc import Iterable
from datetime import date
from pathlib import Path
from typing import Any

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.files import text_in_place
from pickcrate.cli.listing import PageLines
from pickcrate.cli.lists import data_stream, note, rows_to
from pickcrate.cli.sheets import PAGES, check as check_sheet
from pickcrate.cli.terminal import Out, place
from pickcrate.cli.text import cut, shown, size
from pickcrate.comparison import Change, Comparison, Difference, Holding
from pickcrate.errors import UsageError
from pickcrate.orders.setting import Format
from pickcrate.run.auditing import crate_or_source
from pickcrate.run.comparing import MOST_SHOWN, Pair, Sides
from pickcrate.run.events import LookEvent, PageRead
from pickcrate.sheets.sidebyside import Heading, Row, Side, page_side_by_side

COLUMNS = (
    "change", "url", "file", "page", "item", "alt", "width", "height", "bytes", "sha256",
    "old_url", "old_file", "old_width", "old_height", "old_bytes", "old_sha256",
)  # fmt: skip
_MEASURES = ("width", "height", "bytes", "sha256")
_STYLES = {
    Change.CAME: "green", Change.LARGER: "green", Change.WENT: "red", Change.CHANGED: "yellow",
    Change.REPLACED: "yellow", Change.MOVED: "cyan",
}  # fmt: skip
_WIDEST = 44


def sides(named: list[str], since: str | None, into: Path) -> Sides:
    """Return the two sides that are named, or the one with its day. Raises UsageError for what makes no comparison."""
    hint = "pickcrate compare OLD NEW, or pickcrate compare CRATE --since 2026-11-01"
    if since is None and len(named) != 2:
        are = "only one is" if len(named) == 1 else f"{len(named)} are"
        raise UsageError(f"two sides are compared, and {are} named", hint=hint)
    if since is None:
        return Sides(named[0], crate_or_source(named[0], into), named[1], crate_or_source(named[1], into))
    root = crate_or_source(named[0], into)
    if len(named) != 1 or root is None:
        raise UsageError(f"--since {since}: it is for one crate, against itself", hint=hint)
    try:
        return Sides(named[0], root, since=date.fromisoformat(since).isoformat())
    except ValueError:
        raise UsageError(f"--since {since!r} is no day", hint="for example --since 2026-11-01") from None


def check(path: Path | None) -> None:
    """Raise UsageError or CrateError if no page can be written there, before anything is asked for."""
    if path is not None and path.suffix.lower() not in PAGES:
        raise UsageError(f"--out {path}: it is a web page", hint="end it in .html")
    if path is not None:
        check_sheet(path)


def show(events: Iterable[LookEvent | Comparison], out: Out, form: Format, between: Sides) -> tuple[Comparison, bool]:
    """Print how two sides differ; return that, and whether every source could be read."""
    found, complete = Comparison((), 0), True
    pages = PageLines(out)
    for event in events:
        match event:
            case Comparison():
                found = event
            case PageRead():
                pages.show(event)
            case _:
                complete &= note(event, out)
    if form is Format.TABLE:
        out.line((title(between), "bold"))
        for change in Change:
            of_kind = [one for one in found.differences if one.change is change]
            if of_kind:
                out.line((change.value, f"bold {_STYLES[change]}"), (f"  {len(of_kind):,}", "dim"))
            for one in of_kind:
                out.line(*_line(one))
    else:
        sink = rows_to(data_stream(), form, COLUMNS)
        for one in found.differences:
            sink(row(one) | {"pick": one.change in {Change.CAME, Change.LARGER, Change.REPLACED, Change.CHANGED}})
    out.line((counted(found), "bold"))
    return found, complete


def title(between: Sides) -> str:
    """Return what is compared, in words."""
    if between.since:
        return shown(f"{between.old} since {between.since}")
    return shown(without_userinfo(f"{between.old} → {between.new}"))


def row(one: Difference) -> dict[str, Any]:
    """Return one difference as a row of COLUMNS; what went has its old address and file there as well."""
    known = one.new or one.old
    assert known is not None  # noqa: S101 (a difference has a side)
    said: dict[str, Any] = {"change": one.change.value}
    said |= {name: getattr(known, name) for name in ("url", "file", "page", "item", "alt")}
    said |= {name: getattr(one.new, name, None) for name in _MEASURES}
    said |= {f"old_{name}": getattr(one.old, name, None) for name in ("url", "file", *_MEASURES)}
    return {name: said[name] or None for name in COLUMNS}


def _line(one: Difference) -> list[tuple[str, str]]:
    old, new = one.old, one.new
    known = new or old
    assert known is not None  # noqa: S101
    name = cut(shown(known.file or known.url), _WIDEST)
    sides = " → ".join(dict.fromkeys(text for side in (old, new) if side is not None and (text := _sides(side))))
    words = known.item or known.alt
    moved = ""
    if old is not None and new is not None and one.change in {Change.MOVED, Change.REPLACED}:
        was = old.file if old.file and old.file != new.file else old.url
        moved = f"was {shown(without_userinfo(was))}"
    said = "  ".join(filter(None, (sides, moved, shown(words))))
    return [(f"  {name:{_WIDEST}}", ""), (f"  {said}", "dim")]


def _sides(side: Holding) -> str:
    return f"{side.width}×{side.height}" if side.pixels else ""


def counted(found: Comparison) -> str:
    """Return how many pictures came, went and changed, and how many are the same, in words."""
    counts = Counter(one.change for one in found.differences)
    parts = [f"{counts[change]:,} {change.value}" for change in Change if counts[change]]
    parts.append(f"{found.same:,} the same")
    if found.passed_over:
        parts.append(f"{found.passed_over:,} passed over that look like furniture, of which the crate has none")
    return " · ".join(parts)


def write(path: Path, heading: Heading, pairs: Iterable[Pair], out: Out) -> None:
    """Write the page with old and new side by side; PickCrateError if it cannot be."""
    write_page(path, page_side_by_side(heading, [_as_row(pair) for pair in pairs]), out)


def write_page(path: Path, parts: Iterable[str], out: Out) -> None:
    """Write a page and say where it is; PickCrateError if it cannot be written."""
    with text_in_place(path, "--out") as file:
        file.writelines(parts)
    out.line("page: ", place(path), (f"  ({size(path.stat().st_size)})", "dim"))


def heading(between: Sides, found: Comparison, today: date) -> Heading:
    """Return what stands above a page of differences."""
    about = f"{len(found.differences):,} differences · {today.isoformat()}"
    if len(found.differences) > MOST_SHOWN:
        about += f" · the first {MOST_SHOWN:,} are shown"
    return Heading(title(between), about, f"{found.same:,} the same")


def _as_row(pair: Pair) -> Row:
    old, new = pair.difference.old, pair.difference.new
    known = new or old
    assert known is not None  # noqa: S101 (a difference has a side)
    sides = (
        Side("before" if old is not None else "was not there", old, pair.old),
        Side("now" if new is not None else "is gone", new, pair.new),
    )
    return Row(pair.difference.change, known, sides)
