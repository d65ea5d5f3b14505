"""The pages in a folder and the folders in it: each a source of its own, whatever the others are."""

from collections.abc import Callable, Iterator, Set
from pathlib import Path

from msgspec.structs import replace

from pickcrate.addresses.url import absolute, is_picture_path
from pickcrate.errors import SourceError
from pickcrate.fetch.brought import Brought
from pickcrate.read.data.datafile import DATA_ENDINGS, MOST_LISTS, MOST_OF_A_LIST
from pickcrate.read.fields.contenttype import PAGE_EXTENSIONS
from pickcrate.read.recognise import LISTS, WINDOW, Kind, is_marked_up, names_a_picture
from pickcrate.run.sources.opened import OWN, Expected, Opened, opened_bytes, opened_file, unreadable
from pickcrate.values.flaw import Flaw
from pickcrate.values.trust import Trust

_SAVED_ENDINGS = tuple(".mhtml .mht .webarchive .har .warc .warc.gz .wacz .eml .url .webloc .desktop".split())
"""of files that hold a page with all that it needs, or lead to one: in a folder each stands for itself"""

_DOCUMENT_ENDINGS = tuple(".pdf .docx .pptx .odt .odp .epub".split())
"""of files that are pages where a folder has neither pages nor pictures"""

_NOTES = frozenset(
    (".md", ".markdown", ".mkd", ".mdx", ".qmd", ".rmd", ".adoc", ".asciidoc", ".rst", ".org", ".textile")
)
"""endings of files that are pages where a folder has no others"""


def open_folder(folder: Path, source: str, brought: Brought, most: int) -> Iterator[Opened]:
    """Yield the pages in a folder; of one without any its pictures, as a list, or its documents.

    Raises SourceError if there is nothing.

    They may read all in it, and ``/`` stands for it; a file that holds a page with all that it needs has no more.
    """
    root = folder.resolve()
    inside = _files(root, folder, lambda path: is_page(path) or _is_saved(path)) or _files(root, folder, _is_note)
    pictures = [] if inside else _files(root, folder, lambda path: is_picture_path(path.name))
    if not (inside or pictures):
        inside = _files(root, folder, lambda path: path.name.lower().endswith(_DOCUMENT_ENDINGS))
    if not inside:
        yield from _pictures(source, root, folder, brought, pictures)
        return
    tops = {path.resolve().relative_to(root).parts[0] for path in inside}
    site = root / tops.pop() if len(tops) == 1 else root  # a copy of a site may lie in a folder of its name
    trust = brought.enter(OWN, root, site) if site.is_dir() else brought.enter(OWN, root)
    if len(inside) == 1 and is_page(inside[0]):
        real = inside[0].resolve()
        yield opened_bytes(str(inside[0]), real.read_bytes(), Expected(most), address=real.as_uri(), trust=trust)
        return
    for page in inside:
        yield _one_of_many(page, most, trust) if is_page(page) else _saved_in_folder(page, brought, most)


def _files(root: Path, folder: Path, is_meant: Callable[[Path], bool]) -> list[Path]:
    """Return the files of a folder that are meant, in order; no link leads out of it."""
    meant = (path for path in folder.rglob("*") if is_meant(path) and path.is_file())
    return sorted(path for path in meant if path.resolve().is_relative_to(root))


def _pictures(source: str, root: Path, folder: Path, brought: Brought, pictures: list[Path]) -> Iterator[Opened]:
    """Yield the data in a folder that names its pictures, and a list of the addresses of the others.

    Raises SourceError if there are none, or it is a crate.
    """
    from pickcrate.crate.places import is_crate  # noqa: PLC0415 (few sources are such folders)

    if not pictures or is_crate(folder):
        raise _no_page(source, folder)
    trust = brought.enter(OWN, root)
    left = dict.fromkeys(path.resolve().as_uri() for path in pictures)
    for path, octets, named in _data_of(root, folder, left.keys()):
        if named.isdisjoint(left):  # other data has named them already
            continue
        yield Opened(str(path), Kind.DATA, octets, path.resolve().as_uri(), trust, is_one_of_many=True)
        left = {address: None for address in left if address not in named}
    if left:
        yield Opened(source, Kind.ADDRESSES, "\n".join(left).encode(), root.as_uri(), trust)


def _data_of(root: Path, folder: Path, pictures: Set[str]) -> Iterator[tuple[Path, bytes, frozenset[str]]]:
    """Yield each file of data that names some of the pictures beside it, as JSON, with their addresses.

    Many are of one picture each, as cameras and albums leave them beside it: those are not read.
    """
    from pickcrate.finders.data.jsondata import in_json  # noqa: PLC0415 (few sources are such folders)
    from pickcrate.read.anydata import json_of  # noqa: PLC0415

    paths = _files(root, folder, lambda path: path.name.lower().endswith(DATA_ENDINGS))
    for path in paths if len(paths) <= MOST_LISTS else ():
        try:
            octets = path.read_bytes() if path.stat().st_size <= MOST_OF_A_LIST else b""
        except OSError:  # the pictures are listed all the same
            continue
        data = json_of(octets, path.name.lower()) or b""
        raw = (entry.url for entry in in_json(data.decode("utf-8-sig", "replace")))
        named = pictures & {absolute(one, path.resolve().as_uri()) for one in raw}
        if named:
            yield path, data, frozenset(filter(None, named))


def _no_page(source: str, folder: Path) -> SourceError:
    from pickcrate.crate.places import LIST, is_crate  # noqa: PLC0415 (something is wrong)

    if is_crate(folder):
        hint = f"its list is {folder / LIST}; pickcrate sheet shows what is in it"
        return SourceError(f"{source} is a crate, and no page", hint=hint)
    hint = "a page is a file that ends in .html or .htm, or a saved one (.mhtml, .webarchive, .har, .warc)"
    return SourceError(f"{source}: a folder with no page and no picture in it", hint=hint)


def is_page(path: Path) -> bool:
    """Tell whether a file is a page by its name."""
    return path.suffix.lower().removeprefix(".") in PAGE_EXTENSIONS


def _is_saved(path: Path) -> bool:
    return path.name.lower().endswith(_SAVED_ENDINGS)


def _is_note(path: Path) -> bool:
    """Tell whether a file is a note that names pictures: of those a folder may have many that do not."""
    if path.suffix.lower() not in _NOTES:
        return False
    try:
        with path.open("rb") as file:
            head = file.read(WINDOW)
    except OSError:
        return False
    return names_a_picture(head) or is_marked_up(head)


def _saved_in_folder(path: Path, brought: Brought, most: int) -> Opened:
    """Return a file of a folder that holds a page with all that it needs; one that cannot be read keeps no other."""
    real, why = path.resolve(), "is no saved page"
    try:
        with real.open("rb") as file:
            opened = opened_file(str(path), file, brought, Expected(most), path=real, in_place=True)
        if opened.kind not in LISTS:
            return replace(opened, is_one_of_many=True)
    except OSError as error:
        why = unreadable(error)
    except SourceError as error:
        why = error.message.removeprefix(f"{path} ")
    return Opened(str(path), Kind.PAGE, b"", real.as_uri(), OWN, is_one_of_many=True, flaws=(Flaw("file", why),))


def _one_of_many(page: Path, most: int, trust: Trust) -> Opened:
    """Return a page of a folder, which is one by its file's name: whatever is in it, the others are read as well."""
    real, octets = page.resolve(), b""
    opened = Opened(str(page), Kind.PAGE, octets, real.as_uri(), trust, is_one_of_many=True)
    try:
        octets = real.read_bytes()
        known = opened_bytes(str(page), octets, Expected(most), address=opened.address, trust=trust)
    except OSError as error:
        return replace(opened, flaws=(Flaw("file", unreadable(error)),))
    except SourceError:  # it is empty, or a text
        return replace(opened, octets=octets)
    return replace(opened, octets=known.octets, kind=Kind.PAGE if known.kind in LISTS else known.kind)
