"""Lists with columns, row by row: CSV and TSV (RFC 4180) from anywhere, JSON Lines, and Pick Crate's own pick lists.

Which column holds the addresses is guessed where that is obvious, and said; ``--column`` says it outright.
"""

import csv
import itertools
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial

from msgspec import Struct, field

from pickcrate.addresses.ranks import UNSAID, names_a_picture, rank
from pickcrate.addresses.url import image_type, is_picture_path
from pickcrate.errors import SourceError, UsageError
from pickcrate.read.lists.cells import (
    Row,
    addresses_of,
    as_cell,
    holds,
    is_address,
    is_bare_address,
    is_entry,
    is_made_of,
    wrapped_addresses,
)
from pickcrate.read.lists.picklist import PICK, are_choices, is_own, plain_cell
from pickcrate.text.headers import is_naming, words_of
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.text.surrogates import read_json
from pickcrate.text.typed import named
from pickcrate.values.flaw import Flaw

FIELDS = ("url", "name", "page", "alt", "title", "caption", "heading", "link", "link_text")
"""What a column may be: the address, the name to give, the page it comes from, and words about the picture."""


_ADDRESS_HEADERS = (
    "url", "image_url", "image url", "imageurl", "image", "picture", "photo", "img", "src", "image_src", "address",
    "link", "href", "uri", "file", "media", "thumbnail", "image_link", "image link", "images", "pictures", "photos",
    "image_urls", "image urls",
)  # fmt: skip
_OF_PICTURES = frozenset(
    "foto fotos bild bilder imagen imagenes imágenes immagine immagini afbeelding afbeeldingen zdjęcie zdjęcia фото "
    "изображение obrázek snímek kuva kép billede bilde resim görsel εικόνα תמונה صورة 画像 写真 "
    "图片 圖片 照片 사진 이미지".split()
)
"""words of headers of columns with the addresses of pictures, in other languages than those of programs"""

_OF_PAGES = frozenset(
    "page webpage website permalink record seite webseite página pagina sida side sivu strona stránka страница".split()
)
"""words of headers of columns with the addresses of pages"""

_DESCRIBING = frozenset(
    "description beschreibung descripción descrizione descrição omschrijving beskrivning beskrivelse kuvaus opis popis "
    "описание 説明 描述".split()
)
"""words of headers of columns with what is said of pictures"""

_LAST = len(_ADDRESS_HEADERS)
_COMMENT = "#"
_CONTEXT = "@context"
_NAME_HEADERS = ("name", "filename", "file name", "file_name")
_CALLS_AN_ADDRESS = lazy(rf"(?:{'|'.join(_ADDRESS_HEADERS)})", re.IGNORECASE)
_DELIMITERS = ",\t;|"
_NAMES_DELIMITER = lazy(rf'"?sep=([{_DELIMITERS}])"?[{_DELIMITERS}]*', re.IGNORECASE)
WORDS = ("alt", "title", "caption", "heading", "link_text")

_LONGEST_CELL = 20_000_000
"""Characters: the address of a picture that is in the page itself holds all its bytes."""
_LONGEST_TITLE = 300
SAMPLE_ROWS = 20
_HEAD_AND_ROW = 2
_MOST_WORDS = 2
"""of a header, if that alone makes a text a list"""

_MOST_OTHERS, _MOST_NAMED = 3, 12


csv.field_size_limit(_LONGEST_CELL)  # the module has one limit for all its readers


class Further(dict[str, object]):
    """A row of a list once more, for the next of several addresses in one cell."""


class Table(Struct):
    """A list that was opened: its rows by header, and what was guessed of its columns, to be said."""

    rows: Iterator[Row | Flaw]
    columns: dict[str, str] = field(default_factory=dict)
    """field to header"""
    guessed: str = ""
    is_pick_list: bool = False
    choices: str = ""
    """header of the column that says yes or no to each row, in a list that is not our own; empty without one"""
    headers: list[str] = field(default_factory=list)
    has_header: bool = True
    further: list[str] = field(default_factory=list)
    """headers of further columns with addresses"""

    def take_also(self, wanted: str) -> None:
        """Take addresses from one more column, by its header or number. Raises UsageError."""
        self.further.append(chosen_columns({"url": wanted}, self.headers, self.has_header)["url"])


def open_csv(lines: Iterable[str], source: str, chosen: Mapping[str, str]) -> Table:
    """Open a CSV or TSV; ``chosen`` maps fields to headers or numbers of columns. Raises UsageError, SourceError."""
    lines = iter(lines)
    head = list(itertools.islice(lines, SAMPLE_ROWS))
    try:
        head, delimiter = _begun(head)
        sample = list(csv.reader(head, delimiter=delimiter))
    except csv.Error as error:
        raise SourceError(f"{source}: its columns cannot be read: {error}") from error
    first = [cell.strip() for cell in sample[0]] if sample else []
    has_header = not any(holds(cell, is_entry) or holds(cell, is_bare_address) for cell in first)
    headers = first if has_header else [str(place) for place in range(1, len(first) + 1)]
    table = Table(iter(()), chosen_columns(chosen, headers, has_header), headers=headers, has_header=has_header)
    guess_columns(table, sample[has_header:], source)

    def rows() -> Iterator[Row | Flaw]:
        reader = csv.reader(itertools.chain(head, lines), delimiter=delimiter)
        place = 0
        while True:
            try:
                cells = next(reader)
            except StopIteration:
                return
            except csv.Error as error:
                yield Flaw("row", f"line {reader.line_num} cannot be read: {error}")
                continue
            place += 1
            if (place == 1 and has_header) or not any(cells):
                continue
            yield {header: plain_cell(cell) for header, cell in zip(headers, cells, strict=False)}

    table.rows = each_address(rows(), table)
    return table


def open_json_lines(lines: Iterable[str], source: str, chosen: Mapping[str, str]) -> Table:
    """Open JSON Lines: an object, or an address as a string, on each line."""
    lines = iter(lines)
    head = list(itertools.islice(lines, SAMPLE_ROWS))
    first = next((row for row in map(_json_row, head) if isinstance(row, dict)), {})
    table = Table(iter(()), chosen_columns(chosen, list(first), has_header=True), headers=list(first))
    guess_columns(table, [list(map(as_cell, first.values()))], source)

    def rows() -> Iterator[Row | Flaw]:
        for place, line in enumerate(itertools.chain(head, lines), 1):
            if line.strip():
                row = _json_row(line)
                yield row if row is not None else Flaw("row", f"line {place} is no JSON object: {line.strip()[:60]}")

    table.rows = each_address(rows(), table)
    return table


def each_address(rows: Iterable[Row | Flaw], table: Table, *, splits_text: bool = True) -> Iterator[Row | Flaw]:
    """Yield a row for each of the addresses in it; pick lists have one a row."""
    first = table.columns["url"]
    for row in rows:
        if isinstance(row, Flaw) or table.is_pick_list:
            yield row
            continue
        several = [
            one for header in (first, *table.further) for one in addresses_of(row.get(header), splits_text=splits_text)
        ]
        if not several or several == [row.get(first)]:
            yield row
            continue
        for place, address in enumerate(several):
            yield (Further if place else dict)({**row, first: address})


def chosen_columns(chosen: Mapping[str, str], headers: list[str], has_header: bool) -> dict[str, str]:
    """Return the columns that ``--column`` names, by header or number; a UsageError lists those that there are."""
    columns: dict[str, str] = {}
    for name, wanted in chosen.items():
        if (header := named(wanted, headers)) is not None:
            columns[name] = header
        elif 0 < (place := whole(wanted) or 0) <= len(headers):
            columns[name] = headers[place - 1]
        else:
            there = ", ".join(headers) if has_header else f"1 to {len(headers)}; the list has no headers"
            raise UsageError(f"--column {name}={wanted}: there is no such column", hint=f"columns are {there}")
    return columns


def guess_columns(table: Table, rows: list[list[str]], source: str) -> None:
    """Fill in what ``--column`` left open; a SourceError if no column holds addresses."""
    headers = table.headers
    lower = [header.lower() for header in headers]
    table.is_pick_list = is_own(headers) and {"pick", "found_in"} <= set(headers)
    guessed: list[str] = []
    if not table.is_pick_list and (choices := _choices(headers, rows)):
        table.choices = choices
        guessed.append(f"picks from “{choices}”")
    if is_own(headers):
        table.columns.setdefault("url", "url")  # what is shown may be a picture where that is kept in tiles
    if "url" not in table.columns:
        guessed.append(_guess_addresses(table, rows, source))
    for known in (*WORDS, "page"):
        if known not in table.columns and known in lower:
            table.columns[known] = headers[lower.index(known)]
    described = next((header for header in headers if not words_of(header).isdisjoint(_DESCRIBING)), "")
    if described and "caption" not in table.columns:
        table.columns["caption"] = described
    if "page" not in table.columns and (page := _pages(table, rows)):
        table.columns["page"] = page
        guessed.append(f"pages from “{page}”")
    if "name" not in table.columns and (name := _names(table, rows)):
        table.columns["name"] = name
        guessed.append(f"names from “{name}”")
    if "title" not in table.columns and (title := _titles(table, rows)):
        table.columns["title"] = title
        guessed.append(f"titles from “{title}”")
    table.guessed = "" if table.is_pick_list else ", ".join(guessed)


def _choices(headers: list[str], rows: list[list[str]]) -> str:
    """Return the header of the column that says yes or no to each row, as our pick lists have it; empty without one."""
    place = next((place for place, header in enumerate(headers) if header.lower() == PICK), None)
    if place is None or not are_choices(row[place] for row in rows if place < len(row)):
        return ""
    return headers[place]


def _pages(table: Table, rows: list[list[str]]) -> str:
    """Return the header of the column with the addresses of the pages: it is called so, and no picture's are in it."""
    known = set(table.columns.values())
    for place, header in enumerate(table.headers):
        cells = [row[place] for row in rows if place < len(row) and row[place].strip()]
        is_called_so = header not in known and not words_of(header).isdisjoint(_OF_PAGES)
        if is_called_so and cells and all(is_address(cell) and image_type(cell) is None for cell in cells):
            return header
    return ""


def _names(table: Table, rows: list[list[str]]) -> str:
    """Return the header of the column of the files' names: by what it is called, or by names of files alone in it."""
    others = [place for place, header in enumerate(table.headers) if header != table.columns["url"]]
    called_so = [place for place in others if table.headers[place].lower() in _NAME_HEADERS]
    of_files = [place for place in others if _holds_file_names([row[place] for row in rows if place < len(row)])]
    if called_so:
        return table.headers[called_so[0]]
    url = table.headers.index(table.columns["url"])
    is_of_web = any(url < len(row) and holds(row[url], is_address) for row in rows)
    return table.headers[of_files[0]] if is_of_web and len(of_files) == 1 else ""


def _holds_file_names(cells: list[str]) -> bool:
    """Tell whether some cells hold the name of a picture's file each, another in each."""
    names = [name for cell in cells if (name := cell.strip())]
    return bool(names) and len(set(names)) == len(names) and all("/" not in n and is_picture_path(n) for n in names)


def _titles(table: Table, rows: list[list[str]]) -> str:
    """Return the header of the column that holds what things are called, of several the one with most letters."""
    known = set(table.columns.values())
    others = [place for place, header in enumerate(table.headers) if header not in known]
    places = [place for place in others if is_naming(table.headers[place])]
    if not table.has_header and len(others) == 1:  # words beside each address
        cells = [row[others[0]] for row in rows if others[0] < len(row)]
        places = [] if any(holds(cell, is_entry) for cell in cells) else others

    def letters(place: int) -> int:
        return sum(sum(map(str.isalpha, row[place][:_LONGEST_TITLE])) for row in rows if place < len(row))

    best = max(places, key=letters, default=-1)
    return table.headers[best] if best >= 0 and letters(best) else ""


def _guess_addresses(table: Table, rows: list[list[str]], source: str) -> str:
    """Choose the column of the addresses: one that is called so and holds some, else the first that does.

    Returns in words which that is, and which others hold some. Raises SourceError.
    """
    headers = table.headers
    holding = _columns_of(rows, len(headers), partial(holds, is_one=is_address))
    paths = _columns_of(rows, len(headers), partial(holds, is_one=is_picture_path))
    wrapped = [] if holding or paths else _columns_of(rows, len(headers), wrapped_addresses)
    bare = [] if holding or paths or wrapped else _columns_of(rows, len(headers), is_bare_address)
    named = [place for place, header in enumerate(headers) if _order(header) < _LAST]

    def order(place: int) -> tuple[bool, int]:
        cells = [row[place] for row in rows if place < len(row)]
        has_any = _is_of_pictures(headers[place]) or any(image_type(cell.strip()) is not None for cell in cells)
        return not has_any or rank(headers[place]) < UNSAID, _order(headers[place])

    best = min(holding or paths or wrapped or bare or named, key=order, default=None)
    if best is None:
        hint = f"name it: --column url=HEADER; columns are {', '.join(headers[:_MOST_NAMED])}"
        raise SourceError(f"{source}: no column of this list holds web addresses", hint=hint)
    table.columns["url"] = headers[best]
    others = [f"“{headers[place]}”" for place in holding if place != best]
    more = f" (not from {', '.join(others[:_MOST_OTHERS])})" if others else ""
    return f"addresses from the column “{headers[best]}”{more}"


def _order(header: str) -> int:
    """Return how soon a column is taken for that of the addresses, by what it is called: of equals the first is."""
    if (plain := header.lower()) in _ADDRESS_HEADERS:
        return _ADDRESS_HEADERS.index(plain)
    if _is_of_pictures(header):
        return _ADDRESS_HEADERS.index("image")
    return _LAST + (not words_of(header).isdisjoint(_OF_PAGES))


def _is_of_pictures(header: str) -> bool:
    return names_a_picture(header) or not words_of(header).isdisjoint(_OF_PICTURES)


def _columns_of(rows: list[list[str]], count: int, holds_one: Callable[[str], object]) -> list[int]:
    """Return the places of the columns in which a cell is of a kind."""
    return [place for place in range(count) if any(place < len(row) and holds_one(row[place]) for row in rows)]


def _begun(lines: list[str]) -> tuple[list[str], str]:
    """Return the first lines of a list from its headers on, and what its cells are delimited by. Raises csv.Error.

    A line above them may name that, as spreadsheets write it: ``sep=;``.
    """
    named = _NAMES_DELIMITER.fullmatch(lines[0].rstrip("\r\n")) if lines else None
    if named is not None:
        return lines[1:], named[1]
    lines = _without_comments(lines)
    return lines, _delimiter(lines)


def _without_comments(lines: list[str]) -> list[str]:
    """Return the first lines of a list without comments above it (Tabular Data on the Web, 8: ``commentPrefix``).

    A line of as many cells as the next holds the headers. Raises csv.Error.
    """
    first = next((at for at, line in enumerate(lines) if line.strip() and not line.startswith(_COMMENT)), 0)
    above, row = lines[:first][-1:], lines[first : first + 1]
    widths = [len(cells) for cells in csv.reader([*above, *row], delimiter=_delimiter(lines[first:]))] if above else []
    is_header = len(widths) == _HEAD_AND_ROW and widths[0] == widths[1] > 1
    return lines[first - is_header :]


def _delimiter(head: list[str]) -> str:
    """Return the delimiter that splits most lines into the same number of cells, above one."""

    def evenness(delimiter: str) -> tuple[int, int]:
        counts = [len(row) for row in csv.reader(head[:SAMPLE_ROWS], delimiter=delimiter) if row]
        most = max(set(counts), key=counts.count, default=1)
        return (counts.count(most) if most > 1 else 0, most)

    return max(_DELIMITERS, key=evenness)


def looks_like_csv(head: str) -> bool:
    """Tell whether a text is rows of cells with an address among them, or a single column under a header."""
    try:
        lines, delimiter = _begun(head.splitlines()[:SAMPLE_ROWS])
        rows = [row for row in csv.reader(lines, delimiter=delimiter) if row]
    except csv.Error:
        return False
    if not rows or "<" in lines[0]:
        return False
    headers = [cell.strip().lower() for cell in rows[0]]
    is_headed = any(_order(header) < _LAST and len(words_of(header)) <= _MOST_WORDS for header in headers)
    if is_headed and any(holds(cell, is_entry) for row in rows for cell in row):
        return True
    if is_headed and len(headers) > 1 and any(wrapped_addresses(cell) for row in rows for cell in row):
        return True
    if len(headers) == 1:
        return False
    # Without such a header, what has words around its addresses may be any text.
    for is_one in (is_address, is_picture_path, is_bare_address):
        if with_one := sum(any(is_made_of(cell, is_one) for cell in row) for row in rows):
            return with_one >= max(1, len(rows) // 2)
    return False


def is_headed_csv(head: str) -> bool:
    """Tell whether a text is rows of as many cells as its first, which calls one of them an address.

    Its cells may hold anything: markup, Markdown.
    """
    try:
        lines, delimiter = _begun(head.lstrip().splitlines())
        if len(lines) < _HEAD_AND_ROW or "<" in lines[0] or not _CALLS_AN_ADDRESS.search(lines[0]):
            return False
        rows = [row for row in itertools.islice(csv.reader(lines, delimiter=delimiter), SAMPLE_ROWS) if row]
    except csv.Error:
        return False
    widths = {len(row) for row in rows}
    return len(rows) > 1 and len(widths) == 1 and widths != {1} and looks_like_csv(head)


def looks_like_json_lines(head: str) -> bool:
    """Tell whether the first line is a JSON object by itself, with an address among its values.

    A picture's path is one if another such object follows, and so is an address beside objects in the first: a file of
    data may be one line as well, as is one that says by itself what its names mean (JSON-LD 1.1, 3.1), or of which all
    values are addresses.
    """
    first, _, rest = head.partition("\n")
    row = _json_row(first)
    if row is None:
        return False
    cells = [as_cell(value) for value in row.values() if isinstance(value, str | list)]
    if _json_row(rest.partition("\n")[0]) is not None:
        return any(holds(cell, is_picture_path) or holds(cell, is_address) for cell in cells)
    is_row = not (_CONTEXT in row or any(map(_holds_objects, row.values())))
    is_map = len(cells) == len(row) > 1 and all(holds(cell, is_address) for cell in cells)
    return is_row and not is_map and any(holds(cell, is_address) for cell in cells)


def _holds_objects(value: object) -> bool:
    return isinstance(value, dict) or (isinstance(value, list) and any(isinstance(inner, dict) for inner in value))


def _json_row(line: str) -> dict[str, object] | None:
    try:
        row = read_json(line)
    except (ValueError, RecursionError):
        return None
    if isinstance(row, str):
        return {"url": row}
    return row if isinstance(row, dict) else None
