"""Every setting of a run, declared once: options, keywords, the reference and completion come from this table.

A row is a keyword of ``pickcrate.look`` and ``pickcrate.pack`` with its type, and, with dashes, an option of the
command line. What is typed becomes its value by ``read``, and takes its place in the order by ``goes_to``.
"""

from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path
from typing import Annotated, TypedDict

from pickcrate.browser.browsing import SCREENS
from pickcrate.orders import readers as by
from pickcrate.orders.choice import SortKey
from pickcrate.orders.setting import LIKE_LOOK, Command, Format, ForOne, Group, Holds, Input, Keep, Setting
from pickcrate.values.wanted import Again, KnownItems, Unsure

CRATES = Path("crates")
"""The folder that crates are made in, where none is named."""

MOST_WORKERS = 8
"""That are started on one machine, where no number is named."""

MAX_PIXELS = 200_000_000
"""Of a picture that is put together of tiles: it takes four bytes a pixel of memory, at most."""

_ALL = frozenset(Command) - {Command.SAVE, Command.ALIKE, Command.SEAL, Command.HAUL, Command.SETTINGS}
_TO_BROWSE = LIKE_LOOK | {Command.SAVE}
_OF_BOTH = _ALL | {Command.SAVE}
_OF_ALL = frozenset(Command)
_PACK = frozenset((Command.PACK,))
_HAUL = frozenset((Command.HAUL,))
_OF_LISTS = LIKE_LOOK | _HAUL
_LOOK = frozenset((Command.LOOK,))

Texts = str | Iterable[str]
"""One text, or several."""

# fmt: off

class Settings(TypedDict, total=False):
    """What a look is asked for; every one may be left out."""

    base: Annotated[str, Setting(
        Group.WHERE, Input.TEXT, "Make relative addresses absolute against this one.",
        "order.base", metavar="URL")]
    root: Annotated[str | Path, Setting(
        Group.WHERE, Input.FILE,
        "The folder of the site that pages on disk are of: they may read all in it, and / stands for it.",
        "order.root", by.existing_folder, metavar="DIR", default_words="a page's own folder")]
    within: Annotated[Texts, Setting(
        Group.WHERE, Input.TEXTS, "Only what lies in elements that this selects; repeat it for several.",
        "region.within", by.texts, metavar="CSS")]
    under: Annotated[Texts, Setting(
        Group.WHERE, Input.TEXTS,
        "Only the section, table, list or figure that the heading or caption with TEXT introduces; repeat it.",
        "region.under", by.texts, metavar="TEXT", common=6)]
    raw: Annotated[Texts, Setting(
        Group.WHERE, Input.TEXTS, "Take addresses from the raw source as well; the first group counts.",
        "asked.patterns", by.raw, metavar="REGEX")]
    attr: Annotated[Texts, Setting(
        Group.WHERE, Input.TEXTS, "Take addresses from this attribute, whatever they look like.",
        "asked.attributes", by.attributes, metavar="NAME")]
    frames: Annotated[int, Setting(
        Group.WHERE, Input.WHOLE, "Follow frames, and the sitemaps of an index, so many levels deep.",
        "order.frames", default=1, metavar="N", least=0, most=9)]
    items: Annotated[int | str, Setting(
        Group.WHERE, Input.COUNT, "Go to the own pages of so many items of a list for their pictures, or of all.",
        "order.items", by.how_many(by.MOST_ITEMS), metavar="N|all", default_words="0")]
    next_pages: Annotated[int | str, Setting(
        Group.WHERE, Input.COUNT, "Read so many further pages of the list that a page shows, or all.",
        "order.next_pages", by.how_many(by.MOST_PAGES), metavar="N|all", default_words="0")]

    full: Annotated[bool, Setting(
        Group.FULL, Input.FLAG, "Fetch the larger version that can be found, or what is shown.",
        "order.full", default_words="full for pages, as listed for lists", flags="--full/--as-shown",
        commands=_OF_LISTS)]
    through: Annotated[int, Setting(
        Group.FULL, Input.WHOLE, "Follow a thumbnail's link through up to N pages.",
        "order.through", default=0, metavar="N", least=0, most=9, common=7)]
    target: Annotated[str, Setting(
        Group.FULL, Input.TEXT, "Which part of such a page holds the picture.",
        "order.target", metavar="CSS")]
    rule: Annotated[Texts, Setting(
        Group.FULL, Input.TEXTS, "How a larger address is made of a small one: 'PATTERN => REPLACEMENT'; repeat it.",
        "order.rules", by.rules, metavar="RULE", commands=_OF_LISTS)]
    rules: Annotated[str | Path, Setting(
        Group.FULL, Input.FILE, "A file of such rules, one a line.",
        "order.rules", by.rules_file, metavar="FILE")]
    max_pixels: Annotated[str, Setting(
        Group.FULL, Input.TEXT, "Put no more than this together of tiles; of a larger picture, the largest size below.",
        "order.max_pixels", by.pixels, default="200MP", metavar="PIXELS", commands=_OF_LISTS)]

    width: Annotated[str, Setting(
        Group.CRITERIA, Input.TEXT, "Width in pixels, as in 800.. or 300..1200, ends included.",
        "criteria.width", by.ranged("WIDTH"), metavar="RANGE", common=4, commands=_OF_LISTS)]
    height: Annotated[str, Setting(
        Group.CRITERIA, Input.TEXT, "Height in pixels.",
        "criteria.height", by.ranged("HEIGHT"), metavar="RANGE", commands=_OF_LISTS)]
    pixels: Annotated[str, Setting(
        Group.CRITERIA, Input.TEXT, "Width times height, as in 0.5MP.. for half a megapixel and more.",
        "criteria.pixels", by.ranged("PIXELS"), metavar="RANGE", commands=_OF_LISTS)]
    ratio: Annotated[str, Setting(
        Group.CRITERIA, Input.TEXT, "Width to height, as in 4:3..16:9 or 1.2..; a single one is met within 1 %.",
        "criteria.ratio", by.ranged("RATIO"), metavar="RANGE", commands=_OF_LISTS)]
    bytes: Annotated[str, Setting(
        Group.CRITERIA, Input.TEXT, "Size of the file, as in 20kB..5MB.",
        "criteria.bytes", by.ranged("BYTES"), metavar="RANGE", commands=_OF_LISTS)]
    shape: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "landscape, portrait or square (sides within 3 %); repeat it for several.",
        "criteria.shape", by.shapes, metavar="SHAPE", completions=by.shape_names, commands=_OF_LISTS)]
    type: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "jpeg, png, webp, …; repeat it for several.",
        "criteria.type", by.types, metavar="TYPE", completions=by.type_names, commands=_OF_LISTS)]
    url: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "Any of its addresses has this: plain text, a glob with *, or re:…; repeat it.",
        "criteria.url", by.patterned, metavar="PATTERN", commands=_OF_LISTS)]
    not_url: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "The address that is fetched does not have this.",
        "criteria.not_url", by.patterned, metavar="PATTERN", commands=_OF_LISTS)]
    text: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "Its alt text, title, caption, heading, link text or item has this.",
        "criteria.text", by.patterned, metavar="PATTERN", commands=_OF_LISTS)]
    not_text: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "None of its words has this.",
        "criteria.not_text", by.patterned, metavar="PATTERN", commands=_OF_LISTS)]
    licence: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "The licence that is stated for it, by short name or address, as in 'CC-BY*'.",
        "criteria.licence", by.patterned, metavar="PATTERN", commands=_OF_LISTS)]
    found_in: Annotated[Texts, Setting(
        Group.CRITERIA, Input.TEXTS, "Where it was found: img, css, link, meta, data, script, …",
        "criteria.found_in", by.places, metavar="KIND", completions=by.place_names, commands=_OF_LISTS)]
    linked: Annotated[bool, Setting(
        Group.CRITERIA, Input.FLAG, "Only pictures that are links, or are linked to.",
        "criteria.linked", default=False, commands=_OF_LISTS)]
    furniture: Annotated[str, Setting(
        Group.CRITERIA, Input.CHOICE, "Icons, logos, spacers, trackers and the like: keep or drop them.",
        "criteria.furniture", by.kept, default=Keep.KEEP, choices=Keep, common=2, commands=_OF_LISTS)]
    hidden: Annotated[str, Setting(
        Group.CRITERIA, Input.CHOICE, "Pictures that the page does not show: keep or drop them.",
        "criteria.hidden", by.kept, default=Keep.KEEP, choices=Keep, commands=_OF_LISTS)]
    unsure: Annotated[str, Setting(
        Group.CRITERIA, Input.CHOICE, "Where a criterion cannot decide: settle (find out), keep or drop.",
        "order.unsure", default=Unsure.SETTLE, choices=Unsure, commands=_OF_LISTS)]

    alike: Annotated[str, Setting(
        Group.CHOOSE, Input.CHOICE,
        "Pictures that are the same but for size, format, quality or a small crop: keep all, or drop all but the best.",
        "order.drops_alike", by.dropped, default=Keep.KEEP, choices=Keep)]
    only: Annotated[str, Setting(
        Group.CHOOSE, Input.TEXT, "Only these numbers, as in 1..5,9.",
        "criteria.only", by.numbers, metavar="NUMBERS")]
    limit: Annotated[int, Setting(
        Group.CHOOSE, Input.WHOLE, "No more than the first N.",
        "choice.limit", metavar="N", least=1)]
    sort: Annotated[str, Setting(
        Group.CHOOSE, Input.CHOICE, "The order of pictures; by size the largest first.",
        "choice.sort", default=SortKey.PAGE, choices=SortKey)]

    column: Annotated[Texts, Setting(
        Group.LISTS, Input.TEXTS,
        "Which column of a list is what, as in url=Photo or name=3; guessed when obvious; repeat it.",
        "order.columns", by.columns, metavar="FIELD=HEADER", commands=_OF_LISTS)]
    list_of: Annotated[str, Setting(
        Group.LISTS, Input.CHOICE, "What the addresses of a list are.",
        "order.lists_pages", by.pages, default=Holds.PICTURES, choices=Holds)]

    browser: Annotated[bool, Setting(
        Group.BROWSER, Input.FLAG, "Visit pages in the installed Chromium, Chrome or Edge, and take what it loads.",
        "browsing.wanted", default=False)]
    scroll: Annotated[int, Setting(
        Group.BROWSER, Input.WHOLE, "Scroll through so many screens at most.",
        "browsing.scroll", default=SCREENS, metavar="N", least=0, most=1_000, commands=_TO_BROWSE)]
    press: Annotated[Texts, Setting(
        Group.BROWSER, Input.TEXTS,
        "Press what says this, while it brings something new, or each that this selects; repeat it.",
        "browsing.presses", by.texts, metavar="TEXT|CSS", commands=_TO_BROWSE)]
    wait: Annotated[float, Setting(
        Group.BROWSER, Input.DECIMAL, "Wait so many seconds after a page came.",
        "browsing.wait", default=0.0, metavar="S", least=0, most=600, commands=_TO_BROWSE)]
    wait_for: Annotated[str, Setting(
        Group.BROWSER, Input.TEXT, "Wait until the page has what this selects.",
        "browsing.wait_for", metavar="CSS", commands=_TO_BROWSE)]
    shot: Annotated[str | Path, Setting(
        Group.BROWSER, Input.FILE, "Write what the page looked like to this file (PNG).",
        "browsing.shot", by.shot, metavar="FILE", commands=_TO_BROWSE)]
    show_browser: Annotated[bool, Setting(
        Group.BROWSER, Input.FLAG, "Show its window: do there what is to be done, and go on with Enter.",
        "browsing.is_shown", default=False, commands=_TO_BROWSE)]
    profile: Annotated[str, Setting(
        Group.BROWSER, Input.TEXT, "Keep a profile of this name from run to run: sign in once.",
        "browsing.profile", metavar="NAME", commands=_TO_BROWSE)]
    browser_at: Annotated[str, Setting(
        Group.BROWSER, Input.TEXT, "Visit pages in a browser that is open already, at its debugging address.",
        "browsing.at", by.debugging_address, metavar="URL", commands=_TO_BROWSE)]
    browser_path: Annotated[str | Path, Setting(
        Group.BROWSER, Input.FILE, "The browser's program, if it is not found.",
        "browsing.path", by.text_of_path, metavar="FILE", commands=_TO_BROWSE)]

    at_once: Annotated[int, Setting(
        Group.MANNERS, Input.WHOLE, "Transfers at once, over all sites.",
        "manners.at_once", default=8, metavar="N", least=1, most=256, commands=_ALL | _HAUL)]
    per_site: Annotated[int, Setting(
        Group.MANNERS, Input.WHOLE, "Connections to one site.",
        "manners.per_site", default=4, metavar="N", least=1, most=256, commands=_ALL | _HAUL)]
    pause: Annotated[float, Setting(
        Group.MANNERS, Input.DECIMAL, "Seconds between two requests to one site, give or take a half.",
        "manners.pause", default=0.0, metavar="S", least=0, commands=_ALL | _HAUL)]
    timeout: Annotated[float, Setting(
        Group.MANNERS, Input.DECIMAL, "Give up after so many seconds without progress.",
        "manners.timeout", default=30.0, metavar="S", least=0.1, commands=_OF_BOTH | _HAUL)]
    retries: Annotated[int, Setting(
        Group.MANNERS, Input.WHOLE, "Tries after the first, for failures that may pass: resets, timeouts, 429, 5xx.",
        "manners.retries", default=3, metavar="N", least=0, most=20, commands=_ALL | _HAUL)]
    rate: Annotated[str, Setting(
        Group.MANNERS, Input.TEXT, "No more than this a second, over all transfers.",
        "manners.rate", by.size, metavar="SIZE", commands=_ALL | _HAUL)]
    max_file: Annotated[str, Setting(
        Group.MANNERS, Input.TEXT, "Refuse anything larger (kB is 1000, KiB 1024).",
        "manners.max_file", by.size, default="100MB", metavar="SIZE", commands=_OF_BOTH | _HAUL)]
    max_total: Annotated[str, Setting(
        Group.MANNERS, Input.TEXT, "Stop when all pictures of the run together come to this.",
        "manners.max_total", by.size, metavar="SIZE", commands=_ALL)]
    robots: Annotated[bool, Setting(
        Group.MANNERS, Input.FLAG, "Heed robots.txt, and what pages and servers say to robots.",
        "manners.robots", default=True, flags="--robots/--no-robots", commands=_ALL | _HAUL)]
    allow_private: Annotated[bool, Setting(
        Group.MANNERS, Input.FLAG, "Let public pages lead to private addresses (your own network).",
        "manners.allow_private", default=False, commands=_OF_BOTH | _HAUL)]
    proxy: Annotated[str, Setting(
        Group.MANNERS, Input.TEXT, "Go through this HTTP or SOCKS5 proxy.",
        "manners.proxy", metavar="URL", default_words="the environment's", commands=_OF_BOTH)]
    cookies: Annotated[str | Path, Setting(
        Group.MANNERS, Input.FILE, "Cookies for signed-in pages: a file in the Netscape format, or in JSON.",
        "manners.cookies", by.cookie_file, metavar="FILE", commands=_OF_BOTH)]
    header: Annotated[Texts, Setting(
        Group.MANNERS, Input.TEXTS, "A header field for the sites that are typed, and no others; repeat it.",
        "manners.fields", by.header_fields, metavar="'NAME: VALUE'", is_secret=True, commands=_OF_BOTH)]
    user_agent: Annotated[str, Setting(
        Group.MANNERS, Input.TEXT, "What to call ourselves.",
        "manners.user_agent", metavar="TEXT", commands=_OF_BOTH | _HAUL)]
    fresh: Annotated[bool, Setting(
        Group.MANNERS, Input.FLAG, "Ask again for pages and sizes that were looked at a short while ago.",
        "manners.fresh", default=False, commands=_ALL)]


class LookSettings(Settings, total=False):
    """What a look is asked for, and the slip that it may be in."""

    slip: Annotated[str | Path, Setting(
        Group.SLIPS, Input.TEXT, "Run the order in this file; what is typed comes before what it says.",
        metavar="FILE[:NAME]", commands=LIKE_LOOK | {Command.SETTINGS})]


class PackSettings(LookSettings, total=False):
    """What a pack is asked for besides."""

    crate: Annotated[str, Setting(
        Group.CRATE, Input.TEXT, "The crate's name; it may hold {date}, {site}, {page}.",
        "destination.name", metavar="NAME", default_words="the page's or list's title", commands=_PACK, common=1)]
    into: Annotated[str | Path, Setting(
        Group.CRATE, Input.FILE, "The folder that crates are made in.",
        "destination.into", by.folder, default=CRATES, metavar="DIR",
        commands=frozenset((Command.PACK, Command.SHEET, Command.AUDIT, Command.COMPARE, Command.ALIKE, Command.SEAL)))]
    name: Annotated[Texts, Setting(
        Group.CRATE, Input.TEXTS,
        "How files are named, as in '{n:03} {alt}'; repeat it: the first whose fields are known is used.",
        "order.names", by.names, metavar="PATTERN", default_words="{stem}", commands=_PACK | _HAUL, common=3)]
    plain_names: Annotated[bool, Setting(
        Group.CRATE, Input.FLAG, "Name files by small letters, digits, - and _ alone: cafe-muller-1912.",
        "order.has_plain_names", default=False, commands=_PACK | _HAUL)]
    shelf: Annotated[str, Setting(
        Group.CRATE, Input.TEXT, "Sort into sub-folders, as in '{type}' or '{page}/{shape}'.",
        "order.shelf", by.shelf, metavar="PATTERN", commands=_PACK | _HAUL)]
    again: Annotated[str, Setting(
        Group.CRATE, Input.CHOICE,
        "Pictures that the crate has: skip them, refresh those that changed, or replace all.",
        "order.again", default=Again.SKIP, choices=Again, commands=_PACK)]
    known_items: Annotated[str, Setting(
        Group.CRATE, Input.CHOICE,
        "Pages of items, and behind thumbnails, that the crate has pictures from: visit them again, or skip them.",
        "order.known_items", default=KnownItems.VISIT, choices=KnownItems, commands=_PACK)]
    except_: Annotated[Texts, Setting(
        Group.CRATE, Input.TEXTS,
        "Do not fetch what this crate holds, by address or bytes; repeat it; * stands for any part of a name.",
        "order.excepts", by.texts, metavar="CRATE", flags="--except", commands=_PACK)]
    credits: Annotated[bool, Setting(
        Group.CRATE, Input.FLAG, "Write credits.md and credits.html: the title, author, source and licence of each.",
        "destination.credits", default=False, commands=_PACK)]
    parquet: Annotated[bool, Setting(
        Group.CRATE, Input.FLAG, "Write its list as crate.parquet as well.",
        "destination.parquet", default=False, commands=_PACK)]
    zip: Annotated[bool, Setting(
        Group.CRATE, Input.FLAG, "Make one archive of the finished crate as well, beside its folder.",
        "destination.archived", default=False, commands=_PACK)]


class PrintSettings(PackSettings, total=False):
    """What a command prints and writes besides: for the command line only."""

    sheet: Annotated[bool, Setting(
        Group.CRATE, Input.FLAG, "Leave a contact sheet of the finished crate in it.",
        default=False, commands=_PACK)]
    dry_run: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "Print the paths that pictures would get, and fetch none.",
        default=False, commands=_PACK)]
    out: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Where to write it: .html to pick on, .png or .pdf to print.",
        default=Path("sheet.html"), metavar="FILE", commands=frozenset((Command.SHEET,)))]
    keep_as: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Where to keep it: a .har, .mhtml or .warc file.",
        default=Path("page.har"), metavar="FILE", flags="--out", commands=frozenset((Command.SAVE,)))]
    side_by_side: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Write a web page as well, with the pictures side by side: an .html file.",
        metavar="FILE", flags="--out", commands=frozenset((Command.COMPARE, Command.ALIKE)))]
    move_to: Annotated[str, Setting(
        Group.OUTPUT, Input.TEXT, "Move all twins but the best of each group to this sub-folder of their crate.",
        "alike.shelf", by.plain_folder, metavar="SHELF", commands=frozenset((Command.ALIKE,)))]
    as_: Annotated[Texts, Setting(
        Group.OUTPUT, Input.TEXTS, "The standard to follow: bagit, ro-crate, croissant, tar; repeat it for several.",
        "seal.kinds", by.seal_kinds, metavar="KIND", flags="--as", completions=by.seal_kind_names,
        commands=frozenset((Command.SEAL,)))]
    package: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Where to write the package.",
        metavar="PATH", default_words="beside the crate", flags="--out", commands=frozenset((Command.SEAL,)))]
    publisher: Annotated[str, Setting(
        Group.OUTPUT, Input.TEXT, "Who publishes the package, to be said in it.",
        metavar="NAME", commands=frozenset((Command.SEAL,)))]
    description: Annotated[str, Setting(
        Group.OUTPUT, Input.TEXT, "What the package is, to be said in it.",
        metavar="TEXT", default_words="how many pictures from where", commands=frozenset((Command.SEAL,)))]
    check: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "Check a package instead: that it is complete, and what it says it is.",
        default=False, commands=frozenset((Command.SEAL,)))]
    to: Annotated[str, Setting(
        Group.HAUL, Input.TEXT, "Where shards go: a folder, or a store by its address, as in s3://kites/2026-11.",
        metavar="STORE", commands=_HAUL, common=1)]
    resume: Annotated[str, Setting(
        Group.HAUL, Input.TEXT, "Go on with the haul that this store holds: what has no receipt is packed.",
        metavar="STORE", commands=_HAUL, common=2)]
    earlier: Annotated[Texts, Setting(
        Group.HAUL, Input.TEXTS, "Leave out the rows whose pictures the store of this earlier haul holds; repeat it.",
        metavar="STORE", commands=_HAUL)]
    workers: Annotated[int, Setting(
        Group.HAUL, Input.WHOLE, "Start so many workers on this machine.",
        metavar="N", default_words=f"one for each processor, {MOST_WORKERS} at most",
        least=1, most=256, commands=_HAUL, common=3)]
    cluster: Annotated[str, Setting(
        Group.HAUL, Input.TEXT, "Use the workers of this Dask scheduler instead, as in tcp://head:8786.",
        metavar="ADDRESS", commands=_HAUL, common=4)]
    load: Annotated[int, Setting(
        Group.HAUL, Input.WHOLE, "Rows of the list that a worker packs at a time.",
        default=10_000, metavar="N", least=1, most=1_000_000, commands=_HAUL)]
    shard: Annotated[str, Setting(
        Group.HAUL, Input.TEXT, "No shard is larger, if no picture is.",
        "haul.shard", by.size, default="1GB", metavar="SIZE", commands=_HAUL)]
    fingerprints: Annotated[bool, Setting(
        Group.HAUL, Input.FLAG, "Note in the lists what each picture looks like: alike finds twins across shards then.",
        default=False, commands=_HAUL)]
    scratch: Annotated[str | Path, Setting(
        Group.HAUL, Input.FILE, "Where workers keep a load until it is published.",
        metavar="DIR", default_words="the folder for temporary files", commands=_HAUL)]
    since: Annotated[str, Setting(
        Group.OUTPUT, Input.TEXT, "Of one crate: what its own ledger says of the time since this day.",
        metavar="DATE", commands=frozenset((Command.COMPARE,)))]
    open: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "Show it in what opens such files.",
        default=False, commands=frozenset((Command.SHEET, Command.COMPARE, Command.ALIKE)))]
    repair: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "Fetch again what is missing, altered or broken; set aside what is there.",
        default=False, commands=frozenset((Command.AUDIT,)))]
    format: Annotated[Format, Setting(
        Group.OUTPUT, Input.CHOICE, "What to print: a table for people, or data.",
        default=Format.TABLE, choices=Format, commands=frozenset((Command.LOOK, Command.PACK, Command.COMPARE)))]
    form: Annotated[ForOne, Setting(
        Group.OUTPUT, Input.CHOICE, "What to print: lines for people, or data.",
        default=ForOne.TABLE, choices=ForOne, flags="--format",
        commands=frozenset((Command.WHY, Command.AUDIT, Command.ALIKE, Command.SETTINGS)))]
    save: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Write the list to a .csv, .jsonl, .parquet or .txt file as well.",
        metavar="FILE", commands=_LOOK, common=5)]
    all: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "List what was dropped as well, with the reason.",
        default=False, commands=_LOOK)]
    chart: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Draw sizes and weights as .png, .svg or .pdf, to choose ranges by.",
        metavar="FILE", commands=_LOOK)]
    log: Annotated[Path, Setting(
        Group.OUTPUT, Input.FILE, "Write what happens to this file, a line an event.",
        metavar="FILE", commands=frozenset((Command.LOOK, Command.PACK, Command.HAUL)))]
    quiet: Annotated[bool, Setting(
        Group.OUTPUT, Input.FLAG, "Print nothing but what ends the run; the exit code tells the rest.",
        default=False, commands=frozenset(Command) - {Command.WHY, Command.SETTINGS})]

    save_slip: Annotated[Path, Setting(
        Group.SLIPS, Input.FILE, "Write this order to a file, to run it again.",
        metavar="FILE", commands=frozenset((Command.LOOK, Command.PACK, Command.SHEET)))]
    no_settings: Annotated[bool, Setting(
        Group.SLIPS, Input.FLAG, "Pass over standing settings: pickcrate.toml here or above, and your own.",
        default=False, commands=_OF_ALL)]


# fmt: on
@lru_cache(maxsize=1)
def table() -> dict[str, Setting]:
    """Return every row by its name, in the order of the table."""
    return {name: hint.__metadata__[0] for name, hint in PrintSettings.__annotations__.items()}


@lru_cache(maxsize=1)
def in_slips() -> tuple[str, ...]:
    """Return the names of the settings that a slip may state: all that make or show what an order is for."""
    commands = {Command.LOOK, Command.PACK, Command.SHEET}
    rows = table().items()
    return tuple(name for name, row in rows if row.group is not Group.SLIPS and not commands.isdisjoint(row.commands))


def of_command(command: Command) -> dict[str, Setting]:
    """Return the rows that a command takes."""
    return {name: setting for name, setting in table().items() if command in setting.commands}
