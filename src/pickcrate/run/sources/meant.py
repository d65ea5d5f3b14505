"""What somebody may have meant who named a source that is not there: a slip of the pen has an answer of its own."""

import re
from difflib import get_close_matches
from fnmatch import fnmatchcase
from itertools import islice
from pathlib import Path

from pickcrate.crate.places import is_crate
from pickcrate.run.sources.folders import is_page
from pickcrate.run.sources.opened import WHAT_IS_READ

_HOST = re.compile(r"[\w-]+(?:\.[\w-]+)+(?::\d+)?(?:/|\Z)|localhost(?::\d+)?(?:/|\Z)", re.IGNORECASE)
_ALMOST_WEB = re.compile(
    r"(?P<scheme>[a-z]{2,8})[:;.,]?[/\\]{1,3}(?P<rest>(?:[\w-]+\.)+[\w-]+(?:[:/?#].*)?)", re.IGNORECASE
)
_OTHER_SUFFIXES = frozenset(
    ".mhtml .mht .webarchive .har .warc .wacz .gz .zip .epub .kmz .pdf "
    ".csv .tsv .txt .json .jsonl .xlsx .ods .parquet .xml".split()
)
_ALIKE = 0.7
_MOST_NAMES = 5_000


def address_meant(source: str) -> str:
    """Return the address of the web that was meant, with its scheme as it should be; empty if none was."""
    match = _ALMOST_WEB.fullmatch(source.strip())
    if match is None or not (scheme := get_close_matches(match["scheme"].lower(), ("https", "http"), 1, _ALIKE)):
        return ""
    return f"{scheme[0]}://{match['rest']}"


def hint_for(source: str, path: Path) -> str:
    """Return what to do about a source that is no file: the one that was meant, or what a source may be."""
    if address := address_meant(source):
        return f"did you mean {address}?"
    names = _names_beside(path)
    if any(sign in path.name for sign in "*?[") and any(fnmatchcase(name, path.name) for name in names):
        return "* stands for names where the shell sees it: not in quotes"
    bare = path.with_name(path.name.partition("#")[0].partition("?")[0] or path.name)
    whole = {name.lower(): name for name in names}
    stems = {Path(name).stem.lower(): name for name in names}
    close = get_close_matches(bare.stem.lower(), stems, 1, _ALIKE)
    if name := whole.get(bare.name.lower()) or (stems[close[0]] if close else ""):
        return f"did you mean {path.with_name(name)}?"
    is_file = (is_page(path) or path.suffix.lower() in _OTHER_SUFFIXES) and "/" not in source
    may_be_web = _HOST.match(source) is not None and not is_file
    return f"for a web page, start it with https:// as in https://{source}" if may_be_web else WHAT_IS_READ


def _names_beside(path: Path) -> list[str]:
    try:
        return [one.name for one in islice(path.parent.iterdir(), _MOST_NAMES)]
    except (OSError, ValueError):
        return []


def crate_meant(name: str, into: Path) -> str:
    """Ask for the crate under ``into`` whose name is most like one that no crate has; empty if none is."""
    folders = islice(into.iterdir(), _MOST_NAMES) if into.is_dir() else ()
    crates = {one.name.lower(): one.name for one in folders if is_crate(one)}
    return next((f"did you mean {crates[close]}?" for close in get_close_matches(name.lower(), crates, 1, _ALIKE)), "")
