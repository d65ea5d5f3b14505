"""What a page lists, as far as that is of interest: the entries that have pages of their own, and where it goes on."""

from collections.abc import Sequence
from urllib.parse import unquote

from pickcrate.addresses.url import is_web
from pickcrate.read.data.datafile import data_of
from pickcrate.read.recognise import DATA, FEEDS, Kind
from pickcrate.run.look.means import Means
from pickcrate.run.sources.opened import Opened
from pickcrate.run.survey.surveying import Survey
from pickcrate.values.findings import button_for_more
from pickcrate.values.foundin import FoundIn
from pickcrate.values.item import ItemForm, NextPage
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference, Role

OF_PAGES = FEEDS | DATA | {Kind.PAGE, Kind.PACKAGE, Kind.LOG, Kind.ARCHIVE, Kind.PLIST}
"""sources that may hold further pages of a list"""

_LEAST_OF_A_GALLERY = 4
"""Pictures of a page that is a list, though none has a name."""

_FEW_SHOWN, _LARGEST_OF_FEW = 3, 100_000


def add_listed(surveyed: Survey, page: Page, opened: Opened, means: Means) -> None:
    """Add the entries of the list that a page is, and where it goes on.

    What nobody asked for is looked for on one page alone: it takes longer than finding its pictures.
    """
    order, is_of_pages = means.order, opened.kind in OF_PAGES
    has_items = order.items > 0 or order.next_pages > 0
    is_one = opened.kind is Kind.PAGE or opened.kind in DATA
    is_alone = is_one and not (opened.is_one_of_many or means.is_listed)
    is_of_files = is_alone and _lists_files(surveyed.references)
    is_bare = is_alone and len(order.sources) == 1 and (is_of_files or _shows_few(surveyed.references))
    if has_items or (is_bare and _may_list(page)):
        from pickcrate.items.entries import entries  # noqa: PLC0415 (few looks need it)

        listed = entries(page)
        if has_items:
            surveyed.entries = listed
        elif is_of_files:
            surveyed.folders = sum(entry.form is ItemForm.FOLDER for entry in listed)
        else:
            surveyed.unasked = len(listed)
    of_several = opened.kind in DATA or (is_of_pages and _is_list(surveyed.references))
    wanted = order.next_pages > 0
    following: NextPage | None = None
    is_listed = of_several or bool(is_of_pages and surveyed.entries)
    if is_listed or (wanted and is_of_pages):
        from pickcrate.items.pager.pager import next_page  # noqa: PLC0415 (few looks need it)

        # Who did not ask for more is told of pages of a list alone: what is next to a text may be another text.
        # Who did gets what speaks of pages from any page: one of two pictures may well be the last but one.
        following = next_page(page, is_list=of_several and wanted)
    if following is None and is_of_pages:
        following = _after_answers(surveyed.answers)
    surveyed.next_page = following if following is None or wanted or not following.is_guess else None
    if is_listed and surveyed.next_page is None:
        _add_button(surveyed, page, opened)


def _after_answers(answers: Sequence[Page]) -> NextPage | None:
    """Return where a list goes on whose pictures a script of the page is told of, as far as an answer says it."""
    if not answers:
        return None
    from pickcrate.items.pager.pager import next_page  # noqa: PLC0415 (few looks need it)

    return next(filter(None, map(next_page, answers)), None)


def _add_button(surveyed: Survey, page: Page, opened: Opened) -> None:
    """Add, of a page that no browser has visited, which button may bring more of its list."""
    if opened.loaded is not None or not is_web(page.address):
        return
    from pickcrate.items.pager.pager import label_of_more  # noqa: PLC0415 (few looks need it)

    if label := label_of_more(page):
        surveyed.flaws.append(button_for_more(label))


def _is_list(references: list[Reference]) -> bool:
    """Tell whether a page shows several things: what comes after a page about one thing is another page's business."""
    titles = set()
    addresses = set()
    for reference in references:
        if reference.role is not Role.SHOWN or reference.is_framed or not reference.is_on_page:
            continue
        addresses.add(reference.url)
        if reference.item.form is not ItemForm.PAGE:
            titles.add(reference.item.title)
    return len(titles) > 1 or len(addresses) >= _LEAST_OF_A_GALLERY


def _shows_few(references: Sequence[Reference]) -> bool:
    return sum(reference.is_on_page for reference in references) <= _FEW_SHOWN


def _lists_files(references: Sequence[Reference]) -> bool:
    """Tell whether a page is a server's listing of files: a link to a picture says the file's name, and no more."""
    links = (reference for reference in references if reference.found_in == FoundIn.LINK)
    return any(unquote(reference.raw) == reference.words.link_text for reference in links)


def _may_list(page: Page) -> bool:
    """Tell whether a page is not large, and has links: what it lists may be of interest."""
    is_small = len(page.text) <= _LARGEST_OF_FEW
    return is_small and (page.tree.css_first("a[href]") is not None or data_of(page.text) is not None)
