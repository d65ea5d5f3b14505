"""What ``look`` prints: a page's pictures in columns, then what they come to."""

from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct, field

from pickcrate.addresses.url import brief, image_type
from pickcrate.cli.shell import as_operand, command_line
from pickcrate.cli.terminal import Out, Piece, place
from pickcrate.cli.text import ago, cells, count, cut, ending_cut, harmless, shown
from pickcrate.fullsize.viewer import leads_to_page
from pickcrate.run.events import Found, PageRead
from pickcrate.sift.criteria import JUDGES
from pickcrate.sift.funnel import Funnel
from pickcrate.values.evidence import Basis
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image, Ruling
from pickcrate.values.measures import Grade, Measure

if TYPE_CHECKING:
    from pickcrate.browser.visited import Visited

_LEGEND = (
    ("~", "~ as the page declares it"),
    ("(", "( ) as laid out, the file may differ"),
    ("?", "? not known yet"),
)
_GAP = "  "
_NOTE = 4
_WIDEST_NOTE = 24
_LEAST_REST = 24
_LEAST_MISSED = (3, _NOTE, 1)
"""columns that go first where a terminal is narrow: where it was found, the note, the type"""
_MOST_SAID = 10_000
GOES_ON = "the list has further pages: --next-pages 9 reads up to nine of them"
_LEAST_ENTRIES, _FEW_ENTRIES = 2, 3
"""that are gone to first, to see what comes of it"""
ORDER = (*(name for name, _ in JUDGES), "alike", "limit")
"""the criteria in the order in which they are held against a picture"""


class PageLines:
    """The lines above the pictures of pages, as they are read.

    What is wrong is said once, of the first page that has it; of a folder, a book or an archive the pages without
    pictures are passed over.
    """

    def __init__(self, out: Out) -> None:
        self._out = out
        self._said: set[str] = set()

    def show(self, page: PageRead) -> None:
        """Print the line of a page, and what is wrong with it."""
        out, flaws = self._out, [flaw for flaw in page.flaws if flaw.detail not in self._said]
        self._said.update(flaw.detail for flaw in flaws[: max(0, _MOST_SAID - len(self._said))])
        if page.is_one_of_many and not page.images and not flaws:
            return
        title = f"{shown(page.title)}  " if page.title else ""
        where = brief(page.address) if not page.address.startswith("about:") else "standard input"
        out.line((title, "bold"), (shown(where), "dim", where))
        if page.age is not None:
            out.line((f"  as it was {ago(page.age)}; --fresh asks again", "dim"))
        for words in _together(flaws):
            out.line((f"  {shown(words)}", "yellow"))
        if page.likely_home:
            home = shown(brief(page.likely_home))
            out.line((f"  what is not beside it may be where most of its links lead: --base {home}", "cyan"))


def _together(flaws: Sequence[Flaw]) -> list[str]:
    """Return what is wrong with a page, in a line each; parts of one host that failed alike in one line."""
    alike = Counter((flaw.kind, flaw.host, flaw.reason) for flaw in flaws if flaw.host)
    lines: dict[str, None] = {}
    for flaw in flaws:
        number = alike[flaw.kind, flaw.host, flaw.reason]
        several = f"{count(number, flaw.kind)} of {flaw.host}: {flaw.reason}"
        lines[several if number > 1 else flaw.detail] = None
    return list(lines)


def print_kept(out: Out, visited: "Visited", path: Path) -> None:
    """Print what was kept of a page, and what can be done with it."""
    where = brief(visited.url)
    out.line((shown(where), "dim", where))
    for flaw in visited.flaws:
        out.line((f"  {shown(flaw.detail)}", "yellow"))
    pictures = sum(answer.is_picture for answer in visited.answers)
    out.line(f"kept: {count(len(visited.answers), 'file')}, {count(pictures, 'picture')} of them, in ", place(path))
    line = command_line(("pickcrate", "look", as_operand(str(path))))
    if line:
        out.line((f"read it again with: {harmless(line)}", "cyan"))


class TableLine(Struct, frozen=True):
    """What a line of a table says of one picture: less is held than of the picture."""

    cells: tuple[str, ...]
    leads_to: str
    is_dim: bool


def table_line(found: Found) -> TableLine:
    """Return the line of a picture that was found."""
    image = found.image
    is_dim = not image.is_picked or image.is_hidden or bool(image.furniture)
    return TableLine(_cells(found), brief(image.url), is_dim)


def print_table(out: Out, lines: Sequence[TableLine]) -> None:
    """Print a line a picture, fitted to the width of ``out``."""
    rows = [line.cells for line in lines]
    headers = ("#", "type", "width × height", "found in", "note", "name", "words")
    widths = [max(cells(row[n]) for row in (headers, *rows)) for n in range(len(headers))]
    widths[_NOTE] = min(widths[_NOTE], _WIDEST_NOTE) if any(row[_NOTE] for row in rows) else 0
    rest = _rest(widths, out.width)
    for column in _LEAST_MISSED:
        if rest < _LEAST_REST:
            widths[column] = 0
            rest = _rest(widths, out.width)
    widths[5] = min(widths[5], max(16, rest * 2 // 5), max(rest, 8))
    widths[6] = max(0, rest - widths[5])
    out.line(("".join(text for text, _ in _line(headers, widths)).rstrip(), "bold"))
    for line in lines:
        style, pieces = "dim" if line.is_dim else "", _line(line.cells, widths)
        out.line(*((text, style, line.leads_to) if is_name else (text, style) for text, is_name in pieces))


class Totals(Struct):
    """What the pictures of a look come to; counted as they come, since lists are long."""

    funnel: Funnel = field(default_factory=Funnel)
    pages: int = 0
    bare: int = 0
    """pages without pictures"""
    where: Counter[str] = field(default_factory=Counter)
    larger: int = 0
    behind: int = 0
    furniture: int = 0
    marks: set[str] = field(default_factory=set)
    through: int = 0
    """pages behind a thumbnail that were gone through"""
    known_items: int = 0
    """items that were passed over, as the crate has the pictures from their pages"""
    folders: tuple[str, ...] = ()
    """addresses of what the sources are on the disk, and of their site: pages may read in there"""
    outside: int = 0
    """pictures in files that the page that names them may not read"""
    goes_on: bool = False
    """whether a page shows a list that has further pages, which were not asked for"""
    has_untold: bool = False
    """whether items were asked for of entries without titles, whose pages only a list of pages goes to"""
    unread: int = 0
    """pages and other sources that could not be read"""
    entries: int = 0
    """of a list that a page is, with pages of their own"""
    listed_folders: int = 0
    """of a listing of files that a page is"""
    unnamed: int = 0
    """entries of lists whose addresses say nothing of an image"""

    def add(self, image: Image) -> None:
        """Count one picture."""
        self.funnel.add(image)
        if image.is_picked:
            self.where[image.shown.found_in] += 1
            self.larger += image.url != image.shown.url
            self.behind += bool(leads_to_page(image))
            self.furniture += bool(image.furniture)
            self.marks.update(_size(image))
            self.outside += self._is_outside(image)
            self.unnamed += may_be_page(image)

    def _is_outside(self, image: Image) -> bool:
        page, url = image.shown.page, image.url
        if not (url.startswith("file:") and page.startswith("file:")):
            return False
        return not url.startswith((f"{page.rpartition('/')[0]}/", *self.folders))


def may_be_page(image: Image) -> bool:
    """Tell whether an entry of a list may be a page: its address says nothing of an image, nor does anything else."""
    return image.shown.found_in == FoundIn.LIST and image.best.measures.type is None and image_type(image.url) is None


def print_may_be_pages(out: Out, unnamed: int, number: int) -> None:
    """Say what to do with a list that may be one of pages: most of its addresses say nothing of an image."""
    if unnamed * 2 > number:
        out.line(("if these are the addresses of pages: --list-of pages looks into them", "cyan"))


def what_is_listed(totals: Totals) -> str:
    """Return what to do with a listing of files that has folders, or a page that lists and shows no pictures of it."""
    entries, folders = totals.entries, totals.listed_folders
    if folders:
        them = "it" if folders == 1 else "them"
        return f"it lists {count(folders, 'folder')}: --items all looks into {them}, and into those inside"
    if entries < _LEAST_ENTRIES or totals.furniture < totals.funnel.picked:
        return ""
    return f"it lists {entries:,} entries: --items {min(entries, _FEW_ENTRIES)} looks into the pages of the first"


def of_no_licence(kept: int) -> str:
    """Return what is to be said of pictures whose licence matters and is not stated; empty if there are none."""
    return f"no licence is stated for {kept:,} of them: --unsure drop leaves those out" if kept else ""


def _hints_of_pictures(totals: Totals) -> Iterator[str]:
    """Yield what may be done about pictures that somebody may not want, or not so."""
    if totals.furniture:
        look = "looks" if totals.furniture == 1 else "look"
        words = f"{totals.furniture} {look} like furniture (icons, logos, spacers, …)"
        yield f"{words}: --furniture drop leaves them out"
    if unlicensed := of_no_licence(totals.funnel.unsure_picks["licence"]):
        yield unlicensed
    if totals.behind:
        leads = "leads" if totals.behind == 1 else "lead"
        words = f"{count(totals.behind, 'thumbnail')} without a larger version {leads} to a page"
        looks = "looks for it there" if not totals.through else "goes one page further"
        yield f"{words}: --through {totals.through + 1} {looks}"
    if totals.outside:
        lie = "lies" if totals.outside == 1 else "lie"
        words = f"{totals.outside:,} {lie} outside the page's own folder, and it may read nowhere else"
        yield f"{words}: --root DIR says which folder its site is, --base URL where it is on the web"


def _hints_of_lists(totals: Totals) -> Iterator[str]:
    """Yield how the items of a list, and its further pages, are had."""
    if listed := what_is_listed(totals):
        yield listed
    if totals.has_untold:
        yield "its entries have no titles: --list-of pages looks into their own pages"
    if totals.goes_on:
        yield GOES_ON


def print_totals(out: Out, totals: Totals) -> None:
    """Print how many pictures there are, and where they were found; explain the marks that the table used."""
    funnel, where = totals.funnel, totals.where
    found = count(funnel.found, "picture")
    without = f", {totals.bare:,} of them without any" if totals.bare else ""
    parts = [f"{found} on {count(totals.pages, 'page')}{without}" if totals.pages else found]
    if funnel.picked < funnel.found or len(funnel.steps(ORDER)) > 0:
        print_funnel(out, funnel)
        parts = [f"{funnel.picked:,} picked"]
    if len(where) > 1:
        parts.append(", ".join(f"{number} {kind}" for kind, number in where.most_common()))
    if totals.larger:
        parts.append(f"{totals.larger} with a larger version")
    out.line((" · ".join(parts), "bold"))
    if totals.unread:
        out.line((f"{count(totals.unread, 'source')} could not be read", "red"))
    for hint in _hints_of_pictures(totals):
        out.line((hint, "cyan"))
    print_may_be_pages(out, totals.unnamed, funnel.picked)
    for hint in _hints_of_lists(totals):
        out.line((hint, "cyan"))
    legend = [words for mark, words in _LEGEND if mark in totals.marks]
    if legend:
        out.line((" · ".join(legend), "dim"))


def print_funnel(out: Out, funnel: Funnel) -> None:
    """Print how the number fell, criterion by criterion."""
    pieces: list[Piece] = [(f"{funnel.found:,} found", "")]
    for step in funnel.steps(ORDER):
        pieces.append((" → ", "dim"))
        pieces.append((step.criterion, ""))
        pieces.append((f" −{step.dropped:,}", "yellow" if step.dropped else "dim"))
        if step.unsure:
            pieces.append((f" ({step.unsure:,} not known)", "dim"))
    out.line(*pieces, (" → ", "dim"), (f"{funnel.picked:,} picked", "bold"))


def _rest(widths: Sequence[int], width: int) -> int:
    """Return what the columns before the name leave of a line, for the name and the words."""
    before = [column for column in widths[:5] if column]
    return width - sum(before) - len(_GAP) * (len(before) + 1)


def _line(cells: Sequence[str], widths: Sequence[int]) -> list[tuple[str, bool]]:
    """Return a row in pieces, with whether each is the name."""
    number, *middle, name, words = cells
    fitted = [cut(cell, width) for cell, width in zip(middle, widths[1:5], strict=True) if width]
    before = _GAP.join((number.rjust(widths[0]), *fitted, ""))
    about = ending_cut(words, widths[6]) if widths[6] > 0 else ""
    named = cut(name, widths[5])
    bare = named.rstrip()
    return [(before, False), (bare, True), (f"{named[len(bare) :]}{_GAP}{about}".rstrip() if about else "", False)]


def _cells(event: Found) -> tuple[str, ...]:
    image = event.image
    about = _about(image)
    kind = image.best.measures.type.value if image.best.measures.type else image.claimed_type or "?"
    return (str(image.number), kind, _size(image), _found_in(image), _note(image), shown(event.name), shown(about))


def _about(image: Image) -> str:
    """Return the words about a picture: its item's title, and what else is said of the picture alone."""
    words = image.shown.words
    title = image.item.title
    caption = words.caption if words.caption != image.item.of else ""  # that of a table is of all its rows
    said = words.alt or caption or ("" if title else words.link_text) or words.title
    if title:
        return title if not said or said.casefold() in title.casefold() else f"{title} · {said}"
    return said or (f"(under “{words.heading}”)" if words.heading else "")


def _note(image: Image) -> str:
    """Return what dropped a picture, or what is to be said of one that is kept."""
    for verdict in image.verdicts:
        if verdict.ruling is Ruling.DROP:
            return f"out: {verdict.criterion} {shown(verdict.measured)}".rstrip()
    return "furniture" if image.furniture else "hidden" if image.is_hidden else ""


_LED_BY = {Basis.LINK: "link", Basis.TILES: "tiles"}
"""what led to a larger version, in a word"""


def _found_in(image: Image) -> str:
    """Return where the shown picture stands and, behind an arrow, where its larger version was found."""
    where = image.shown.found_in
    if image.url == image.shown.url:
        return where
    larger = next((r for r in image.references if r.url == image.url), None)
    if larger is None:
        evidence = image.best.evidence
        return f"{where} → {'page' if evidence.behind else _LED_BY.get(evidence.basis, 'address')}"
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
