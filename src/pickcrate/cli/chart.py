"""``look --chart FILE``: every picture by width and height, and the sizes of the files, to choose thresholds by."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from msgspec import Struct, field

from pickcrate.errors import PickCrateError, UsageError
from pickcrate.run.events import Found
from pickcrate.values.image import Image

if TYPE_CHECKING:
    from pickcrate.sift.criteria import Criteria
    from pickcrate.sift.ranges import Range

E = TypeVar("E")

_ENDINGS = frozenset((".png", ".svg", ".pdf"))
# Told apart by people who do not see red and green as two (Okabe and Ito, 2008).
_COLOURS = {
    "jpeg": "#0072b2", "png": "#009e73", "webp": "#e69f00", "gif": "#cc79a7", "svg": "#d55e00", "avif": "#56b4e9",
}  # fmt: skip
_OTHER = "#6b6f76"


class Points(Struct):
    """What the chart needs of each picture: width, height (pixels), bytes, type, and whether it is picked."""

    rows: list[tuple[int | None, int | None, int | None, str, bool]] = field(default_factory=list)

    def through(self, events: Iterable[E]) -> Iterator[E]:
        """Yield ``events``, noting their pictures."""
        for event in events:
            if isinstance(event, Found):
                self.rows.append(_row(event.image))
            yield event


@contextmanager
def charting(path: Path | None, criteria: "Criteria") -> Iterator[Points | None]:
    """Note pictures, and draw the chart at the end; UsageError if it cannot be drawn, before anything is asked for."""
    if path is None:
        yield None
        return
    if path.suffix.lower() not in _ENDINGS:
        raise UsageError(f"--chart {path}: the file's ending says its format", hint="end it in .png, .svg or .pdf")
    try:
        import matplotlib as mpl  # noqa: PLC0415 (an extra)
    except ImportError:
        raise UsageError(
            "--chart needs Matplotlib, which is not installed", hint="pip install 'pickcrate[chart]' brings it"
        ) from None
    mpl.use("Agg")
    points = Points()
    yield points
    try:
        _draw(path, points, criteria)
    except OSError as error:
        raise PickCrateError(f"--chart {path}: cannot be written: {(error.strerror or str(error)).lower()}") from error


def _row(image: Image) -> tuple[int | None, int | None, int | None, str, bool]:
    measures = image.best.measures
    known = (measures.width, measures.height, measures.bytes)
    width, height, weight = (measure.value if measure is not None else None for measure in known)
    return width, height, weight, measures.type.value if measures.type else "", image.is_picked


def _draw(path: Path, points: Points, criteria: "Criteria") -> None:
    from matplotlib.figure import Figure  # noqa: PLC0415

    figure = Figure(figsize=(11, 6), dpi=120, layout="constrained")
    sides, weights = figure.subplots(1, 2, width_ratios=(3, 2))
    _scatter(sides, points)
    _box(sides, criteria.width, criteria.height)
    _weigh(weights, points, criteria.bytes)
    figure.savefig(path)


def _scatter(axes: Any, points: Points) -> None:
    known = [(width, height, kind, kept) for width, height, _, kind, kept in points.rows if width and height]
    for kind in sorted({kind for _, _, kind, _ in known}):
        colour = _COLOURS.get(kind, _OTHER)
        for kept in (True, False):
            chosen = [(width, height) for width, height, this, is_kept in known if this == kind and is_kept is kept]
            if not chosen:
                continue
            xs, ys = zip(*chosen, strict=True)
            label = f"{kind or 'type not known'}, {'kept' if kept else 'dropped'} ({len(chosen):,})"
            face = colour if kept else "none"
            axes.scatter(xs, ys, s=34, facecolors=face, edgecolors=colour, alpha=0.85, label=label, zorder=3)
    axes.set(xscale="log", yscale="log", xlabel="width in pixels", ylabel="height in pixels")
    missing = len(points.rows) - len(known)
    about = f"{len(known):,} pictures by their size" if known else "no sizes known"
    axes.set_title(f"{about}; {missing:,} of no known size" if missing and known else about, fontsize=10, loc="left")
    for axis in (axes.xaxis, axes.yaxis):
        axis.set_major_formatter(lambda value, _: f"{value:,.0f}")
    axes.grid(visible=True, which="major", color="#dddddd", zorder=0)
    if known:
        axes.legend(fontsize=8, loc="best")


def _box(axes: Any, width: "Range | None", height: "Range | None") -> None:
    """Draw the current ranges; a side without a bound runs to the edge."""
    if width is None and height is None:
        return
    left, right = axes.get_xlim()
    low, high = axes.get_ylim()
    x1, x2 = _ends(width, left, right)
    y1, y2 = _ends(height, low, high)
    axes.plot((x1, x2, x2, x1, x1), (y1, y1, y2, y2, y1), linestyle="--", color="#222222", linewidth=1.2, zorder=4)
    axes.set(xlim=(min(left, x1), max(right, x2)), ylim=(min(low, y1), max(high, y2)))


def _ends(wanted: "Range | None", least: float, most: float) -> tuple[float, float]:
    if wanted is None:
        return least, most
    return wanted.low or least, wanted.high or most


def _weigh(axes: Any, points: Points, wanted: "Range | None") -> None:
    kept = [weight for _, _, weight, _, is_kept in points.rows if weight and is_kept]
    dropped = [weight for _, _, weight, _, is_kept in points.rows if weight and not is_kept]
    axes.set(xlabel="bytes of the file", ylabel="pictures")
    if not (kept or dropped):
        axes.set_title("no file sizes known", fontsize=10, loc="left")
        return
    from numpy import geomspace  # noqa: PLC0415 (Matplotlib brings it)

    edges = geomspace(min(kept + dropped) * 0.9, max(kept + dropped) * 1.1, 25)
    axes.hist([kept, dropped], bins=edges, stacked=True, color=["#0072b2", "#c9ccd1"], label=["kept", "dropped"])
    axes.set(xscale="log")
    axes.xaxis.set_major_formatter(lambda value, _: f"{value / 1000:,.3g} kB")
    for end in (wanted.low, wanted.high) if wanted is not None else ():
        if end:
            axes.axvline(end, linestyle="--", color="#222222", linewidth=1.2)
    axes.set_title(f"{len(kept) + len(dropped):,} files by their weight", fontsize=10, loc="left")
    axes.legend(fontsize=8)
