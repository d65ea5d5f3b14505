"""What ``look`` prints: a page's pictures in columns, then what they come to."""

from collections import Counter
from collections.abc import Sequence

from rich.cells import cell_len

from pickcrate.addresses import brief, image_type
from pickcrate.cli.terminal import Out
from pickcrate.cli.text import count, cut, ending_cut, shown
from pickcrate.fullsize.viewer import BEHIND, leads_to_page
from pickcrate.run.events import Found, PageRead
from pickcrate.values import Grade, Image, Measure

_LEGEND = (
    ("~", "~ as the page declares it"),
    ("(", "( ) as laid out, the file may differ"),
    ("?", "? not known yet"),
)
_GAP = "  "


def print_page(out: Out, page: PageRead) -> None:
    """Print the line above a page's pictures."""
    title = f"{shown(page.title)}  " if page.title else ""
    out.line((title, "bold"), (shown(brief(page.address)), "dim"))
    for flaw in page.flaws:
        out.line((f"  {shown(flaw.detail)}", "yellow"))


def print_table(out: Out, found: Sequence[Found]) -> None:
    """Print a line a picture, fitted to the width of ``out``."""
    rows = [_cells(event) for event in found]
    headers = ("#", "type", "width × height", "found in", "name", "words")
    widths = [max(cell_len(row[n]) for row in (headers, *rows)) for n in range(len(headers))]
    rest = max(20, out.width - sum(widths[:4]) - len(_GAP) * 5)
    widths[4] = min(widths[4], max(16, rest * 2 // 5))
    widths[5] = max(0, rest - widths[4])
    out.line((_line(headers, widths).rstrip(), "bold"))
    for event, row in zip(found, rows, strict=True):
        style = "dim" if event.image.shown.hidden else ""
        out.line((_line(row, widths).rstrip(), style))


def print_totals(out: Out, found: Sequence[Found], pages: int) -> None:
    """Print how many pictures there are, and where they were found; explain the marks that the table used."""
    images = [event.image for event in found]
    where = Counter(image.shown.found_in for image in images)
    larger = sum(image.url != image.shown.url for image in images)
    parts = [f"{count(len(images), 'picture')} on {count(pages, 'page')}" if pages else count(len(images), "picture")]
    if len(where) > 1:
        parts.append(", ".join(f"{number} {kind}" for kind, number in where.most_common()))
    if larger:
        parts.append(f"{larger} with a larger version")
    out.line((" · ".join(parts), "bold"))
    behind = sum(bool(leads_to_page(image)) for image in images)
    if behind:
        words = f"{count(behind, 'thumbnail')} without a larger version {'leads' if behind == 1 else 'lead'} to a page"
        out.line((f"{words}: --through 1 looks for it there", "cyan"))
    sizes = "".join(_size(image) for image in images)
    legend = [words for mark, words in _LEGEND if mark in sizes]
    if legend:
        out.line((" · ".join(legend), "dim"))


def _line(cells: Sequence[str], widths: Sequence[int]) -> str:
    number, *middle, words = cells
    fitted = [cut(cell, width) for cell, width in zip(middle, widths[1:5], strict=True)]
    return _GAP.join((number.rjust(widths[0]), *fitted, ending_cut(words, widths[5])))


def _cells(event: Found) -> tuple[str, ...]:
    image = event.image
    words = image.shown.words
    about = words.alt or words.caption or words.link_text or words.title
    if not about and words.heading:
        about = f"(under “{words.heading}”)"
    claimed = image_type(image.url)
    kind = image.best.measures.type.value if image.best.measures.type else claimed.name if claimed else "?"
    return (str(image.number), kind, _size(image), _found_in(image), shown(event.name), shown(about))


def _found_in(image: Image) -> str:
    """Return where the shown picture stands and, behind an arrow, where its larger version was found."""
    where = image.shown.found_in
    if image.url == image.shown.url:
        return where
    larger = next((r for r in image.references if r.url == image.url), None)
    if larger is None:
        return f"{where} → {'page' if image.best.evidence.startswith(BEHIND) else 'address'}"
    return f"{where} → {'srcset' if larger.attribute == 'srcset' else larger.found_in}"


def _size(image: Image) -> str:
    """Return width × height: measured as it is, declared with ``~``, as laid out on the page in brackets."""
    measures, box = image.best.measures, image.shown.box
    if measures.width or measures.height:
        return f"{_side(measures.width)}×{_side(measures.height)}"
    if image.url == image.shown.url and (box.width or box.height):
        return f"({box.width or '?'}×{box.height or '?'})"
    return "?"


def _side(measure: Measure[int] | None) -> str:
    if measure is None:
        return "?"
    return f"~{measure.value}" if measure.grade is Grade.DECLARED else str(measure.value)
