"""Lists with columns: CSV and TSV (RFC 4180) from anywhere, JSON Lines, and Pick Crate's own pick lists. Row by row.

Which column holds the addresses is guessed where that is obvious, and said; ``--column`` says it outright.
"""

import csv
import itertools
import json
from collections.abc import Callable, Iterable, Iterator, Mapping

from msgspec import Struct, field

from pickcrate.addresses import is_picture_path
from pickcrate.claims import Aspect, Claim, Claimant, Rights
from pickcrate.errors import SourceError, UsageError
from pickcrate.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.lazyre import lazy
from pickcrate.media import BY_NAME
from pickcrate.numerals import whole
from pickcrate.read.addresslist import ListOrigin
from pickcrate.read.cells import addresses_of, as_cell, holds, is_address, is_entry
from pickcrate.values import (
    AS_SHOWN,
    Basis,
    Box,
    Candidate,
    Evidence,
    Flaw,
    Grade,
    Image,
    Measure,
    Measures,
    Reference,
    Words,
)

FIELDS = ("url", "name", "page", "alt", "title", "caption", "heading", "link", "link_text")
"""What a column may be: the address, the name to give, the page it comes from, and words about the picture."""

COLUMNS = (
    "pick", "number", "source", "page", "url", "shown_url", "shown_width", "shown_height", "found_in", "element",
    "attribute", "alt", "title", "caption", "heading", "link", "link_text", "item", "item_url", "item_from", "columns",
    "hidden", "furniture", "width", "height", "type", "bytes",
    "grades", "verdicts", "evidence", "candidates", "name", "credit", "licence",
    "licence_url", "terms_url", "credit_from", "licence_from", "terms_from",
)  # fmt: skip
"""the columns of our own pick lists: one image as CSV, and as the members of a JSON object"""

_ADDRESS_HEADERS = (
    "url", "image_url", "image url", "imageurl", "image", "picture", "photo", "img", "src", "image_src", "address",
    "link", "href", "uri", "file", "media", "thumbnail", "image_link", "image link", "images", "pictures", "photos",
    "image_urls", "image urls",
)  # fmt: skip
_NAME_HEADERS = ("name", "filename", "file name", "file_name")
_DELIMITERS = ",\t;|"
_WORDS = ("alt", "title", "caption", "heading", "link_text")
_NO = frozenset(("", "no", "n", "false", "0", "none", "null"))
# What a spreadsheet takes for the start of a formula (and tab or return before one).
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
GUARDED = (*FORMULA_STARTS, "'")
"""what has an apostrophe in front of it in our lists: those, and what would be taken for such a one"""

_LONGEST_CELL = 20_000_000
"""Characters: the address of a picture that is in the page itself holds all its bytes."""
SAMPLE_ROWS = 20
_MOST_OTHERS = 3

_OWN_JSON = lazy(r'\{"pick": (?:true|false), "number": \d+, "source": ')

Row = Mapping[str, object]

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
        delimiter = _delimiter(head)
        sample = list(csv.reader(head, delimiter=delimiter))
    except csv.Error as error:
        raise SourceError(f"{source}: its columns cannot be read: {error}") from error
    first = [cell.strip() for cell in sample[0]] if sample else []
    has_header = not any(holds(cell, is_entry) for cell in first)
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


def read_rows(table: Table, origin: ListOrigin, *, first_number: int = 1) -> Iterator[Image | Flaw]:
    """Yield an image a row, as the row has it; a row without an address is a flaw."""
    number, place = first_number - 1, 0
    for row in table.rows:
        place += not isinstance(row, Further)
        if isinstance(row, Flaw):
            yield row
            continue
        raw = _text(row, table.columns["url"])
        url = origin.resolve(raw, is_picked=table.is_pick_list) if raw else None
        if url is None:
            yield Flaw("address", f"row {place} has no web address: {raw[:80] or '(blank)'}{origin.advice(raw)}")
            continue
        stated = _number(row, "number") if table.is_pick_list else None
        number = stated if stated is not None and stated > number else number + 1
        yield _image(row, table, url, number, origin)


def _image(row: Row, table: Table, url: str, number: int, origin: ListOrigin) -> Image:
    words = {name: _text(row, table.columns.get(name, name)) for name in _WORDS}
    is_own = table.is_pick_list
    shown_url = (_text(row, "shown_url") if is_own else "") or url
    shown = Reference(
        url=shown_url,
        raw=shown_url,
        page=_text(row, table.columns.get("page", "page")),
        found_in=(_text(row, "found_in") if is_own else "") or "list",
        element=_text(row, "element") if is_own else "",
        attribute=_text(row, "attribute") if is_own else "",
        cluster=number,
        words=Words(**words),
        box=Box(_number(row, "shown_width"), _number(row, "shown_height")) if is_own else Box(),
        link=_text(row, table.columns.get("link", "link")) if table.columns["url"] != "link" else "",
        hidden=is_own and _text(row, "hidden").lower() not in _NO,
        trust=origin.trust,
        item=_item(row) if is_own else NO_ITEM,
    )
    return Image(
        number=number,
        source=(_text(row, "source") if is_own else "") or origin.source,
        shown=shown,
        references=(shown,),
        candidates=_candidates(row, url) if is_own else (),
        extra=tuple((header, _text(row, header)) for header in row if not (is_own and header in COLUMNS)),
        furniture=_text(row, "furniture") if is_own else "",
        declined=_declined_for(row) if is_own and _text(row, "pick").lower() in _NO else "",
        name=_text(row, table.columns["name"]) if "name" in table.columns else "",
        rights=Rights(claims=tuple(_claims(row))) if is_own else Rights(),
    )


def _claims(row: Row) -> Iterator[Claim]:
    """Yield what a pick list says of the use of a picture, and of where that was said."""
    licence = _text(row, "licence_url") or _text(row, "licence")
    for aspect, said in ((Aspect.CREDIT, _text(row, "credit")), (Aspect.LICENCE, licence)):
        if said:
            yield Claim(aspect, said, Claimant.LIST, _text(row, f"{aspect.value}_from"))
    if terms := _text(row, "terms_url"):
        yield Claim(Aspect.TERMS, terms, Claimant.LIST, _text(row, "terms_from"))


def _item(row: Row) -> Item:
    """Return the item that a pick list says a picture belongs to."""
    title, url, columns = _text(row, "item"), _text(row, "item_url"), _parsed(row.get("columns"))
    if not (title or url):
        return NO_ITEM
    said = tuple((str(name), str(text)) for name, text in columns.items()) if isinstance(columns, dict) else ()
    return Item(title, url, said, ItemForm.LISTED, NamedBy.LISTED, of=_text(row, "item_from"))


def _candidates(row: Row, url: str) -> tuple[Candidate, ...]:
    """Return the candidates that a pick list holds: its address first, and the others that were known."""
    stated = _parsed(row.get("grades"))
    grades = stated if isinstance(stated, dict) else {}
    width, height, size = (_measure(row, name, grades) for name in ("width", "height", "bytes"))
    kind = _text(row, "type") if _text(row, "type") in BY_NAME else ""
    measures = Measures(width, height, size, Measure(kind, _grade(grades.get("type"))) if kind else None)
    candidates = [Candidate(url, _evidence(_text(row, "evidence")), measures)]
    others = _parsed(row.get("candidates"))
    for other in others if isinstance(others, list) else ():
        if isinstance(other, dict) and isinstance(other.get("url"), str):
            evidence, outcome = _evidence(str(other.get("evidence") or "")), str(other.get("outcome") or "")
            sides = Measures(_declared(other.get("width")), _declared(other.get("height")))
            candidates.append(Candidate(other["url"], evidence, sides, outcome))
    return tuple(candidates)


def _evidence(said: str) -> Evidence:
    return Evidence(Basis.LISTED, said) if said and said != str(AS_SHOWN) else AS_SHOWN


def _declined_for(row: Row) -> str:
    """Return why a pick list says no: that it does, and what dropped the picture when the list was made."""
    verdicts = _parsed(row.get("verdicts"))
    for verdict in verdicts if isinstance(verdicts, list) else ():
        if isinstance(verdict, dict) and verdict.get("verdict") == "drop":
            if verdict.get("criterion") == "pick":
                return str(verdict.get("reason"))
            return f"its list says no ({verdict.get('criterion')}: {verdict.get('reason')})"
    return "its list says no"


def _declared(value: object) -> Measure[int] | None:
    if not isinstance(value, int) or isinstance(value, bool) or value < 1:
        return None
    return Measure(value, Grade.DECLARED)


def _measure(row: Row, name: str, grades: Mapping[str, object]) -> Measure[int] | None:
    value = _number(row, name)
    return Measure(value, _grade(grades.get(name))) if value is not None else None


def _grade(stated: object) -> Grade:
    named = (grade for grade in Grade if grade.value == stated)
    return next(named, Grade.DECLARED)


def chosen_columns(chosen: Mapping[str, str], headers: list[str], has_header: bool) -> dict[str, str]:
    """Return the columns that ``--column`` names, by header or number; a UsageError lists those that there are."""
    columns: dict[str, str] = {}
    lower = {header.lower(): header for header in reversed(headers)}
    for name, wanted in chosen.items():
        if wanted in headers:
            columns[name] = wanted
        elif wanted.lower() in lower:
            columns[name] = lower[wanted.lower()]
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
    if "url" not in table.columns:
        holding, paths = (_columns_of(rows, len(headers), kind) for kind in (is_address, is_picture_path))
        named = [n for name in _ADDRESS_HEADERS for n, header in enumerate(lower) if header == name]
        best = next((n for n in named if n in (holding or paths)), next(iter([*holding, *paths, *named]), None))
        if best is None:
            hint = f"name it: --column url=HEADER; columns are {', '.join(headers[:12])}"
            raise SourceError(f"{source}: no column of this list holds web addresses", hint=hint)
        table.columns["url"] = headers[best]
        others = [f"“{headers[place]}”" for place in holding if place != best]
        more = f" (not from {', '.join(others[:_MOST_OTHERS])})" if others else ""
        guessed.append(f"addresses from the column “{headers[best]}”{more}")
    for known in (*_WORDS, "page"):
        if known not in table.columns and known in lower:
            table.columns[known] = headers[lower.index(known)]
    if "name" not in table.columns and (names := [n for n, header in enumerate(lower) if header in _NAME_HEADERS]):
        table.columns["name"] = headers[names[0]]
        guessed.append(f"names from “{headers[names[0]]}”")
    table.guessed = "" if table.is_pick_list else ", ".join(guessed)


def _columns_of(rows: list[list[str]], count: int, is_one: Callable[[str], bool]) -> list[int]:
    """Return the places of the columns in which a cell is of a kind."""
    return [place for place in range(count) if any(place < len(row) and holds(row[place], is_one) for row in rows)]


def _delimiter(head: list[str]) -> str:
    """Return the delimiter that splits most lines into the same number of cells, above one."""

    def evenness(delimiter: str) -> tuple[int, int]:
        counts = [len(row) for row in csv.reader(head[:SAMPLE_ROWS], delimiter=delimiter) if row]
        most = max(set(counts), key=counts.count, default=1)
        return (counts.count(most) if most > 1 else 0, most)

    return max(_DELIMITERS, key=evenness)


def is_own(headers: Iterable[str]) -> bool:
    """Tell whether the headers of a list are those of one that Pick Crate wrote."""
    return {"url", "shown_url"} <= set(headers)


def is_own_list(head: str) -> bool:
    """Tell whether a text is the start of a CSV that Pick Crate wrote, by its first line."""
    try:
        return is_own(next(csv.reader(head.splitlines()[:1]), []))
    except csv.Error:
        return False


def is_own_json(head: str) -> bool:
    """Tell whether a text is the start of JSON Lines that Pick Crate wrote: a row may be longer than what is seen."""
    return _OWN_JSON.match(head) is not None


def looks_like_csv(head: str) -> bool:
    """Tell whether a text is rows of cells with an address among them, or a single column under a header."""
    lines = head.splitlines()[:SAMPLE_ROWS]
    try:
        rows = [row for row in csv.reader(lines, delimiter=_delimiter(lines)) if row]
    except csv.Error:
        return False
    if not rows or "<" in lines[0]:
        return False
    headers = [cell.strip().lower() for cell in rows[0]]
    addresses = sum(any(holds(cell, is_address) for cell in row) for row in rows)
    addresses = addresses or sum(any(holds(cell, is_picture_path) for cell in row) for row in rows)
    if len(headers) == 1:
        return headers[0] in _ADDRESS_HEADERS and addresses >= 1
    return addresses >= max(1, len(rows) // 2) or (addresses >= 1 and bool(set(headers) & set(_ADDRESS_HEADERS)))


def looks_like_json_lines(head: str) -> bool:
    """Tell whether the first line is a JSON object by itself, with an address among its values.

    A picture's path is one if another such object follows: a file of data may be one line as well.
    """
    first, _, rest = head.partition("\n")
    row = _json_row(first)
    cells = [as_cell(value) for value in row.values() if isinstance(value, str | list)] if row is not None else []
    is_one_of_many = any(holds(cell, is_picture_path) for cell in cells)
    is_one_of_many &= _json_row(rest.partition("\n")[0]) is not None
    return is_one_of_many or any(holds(cell, is_address) for cell in cells)


def _json_row(line: str) -> dict[str, object] | None:
    try:
        row = json.loads(line)
    except (ValueError, RecursionError):
        return None
    if isinstance(row, str):
        return {"url": row}
    return row if isinstance(row, dict) else None


def plain_cell(cell: str) -> str:
    """Return a cell as it was before a spreadsheet was kept from running it."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(GUARDED) else cell


def _text(row: Row, header: str) -> str:
    value = row.get(header)
    if value is None:
        return ""
    return value.strip() if isinstance(value, str) else str(value)


def _number(row: Row, header: str) -> int | None:
    return whole(_text(row, header))


def _parsed(value: object) -> object:
    """Return what a cell holds as JSON text, or holds already; None if it is no JSON."""
    if not isinstance(value, str):
        return value
    try:
        parsed: object = json.loads(value)
    except (ValueError, RecursionError):
        return None
    return parsed
