"""Pick Crate's own lists of pictures: what their columns are, how they are known, and what a row of one says.

Such a list is written by ``record``, changed by hand in a spreadsheet, and read again: nothing in it is taken on trust.
"""

import csv
from collections.abc import Iterable, Iterator, Mapping

from msgspec.structs import replace

from pickcrate.media import BY_NAME
from pickcrate.read.lists.cells import Row, number_in, parsed, text_in
from pickcrate.text.lazyre import lazy
from pickcrate.values.claims import Aspect, Claim, Claimant, Rights
from pickcrate.values.evidence import AS_SHOWN, Basis, Evidence
from pickcrate.values.foundin import CALLED, FoundIn
from pickcrate.values.image import Candidate, Image
from pickcrate.values.item import NO_ITEM, Item, ItemForm, NamedBy
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.reference import Box

COLUMNS = (
    "pick", "number", "source", "page", "url", "shown_url", "shown_width", "shown_height", "found_in", "element",
    "attribute", "alt", "title", "caption", "heading", "link", "link_text", "item", "item_url", "item_from", "columns",
    "hidden", "furniture", "width", "height", "type", "bytes",
    "grades", "verdicts", "evidence", "candidates", "name", "credit", "licence",
    "licence_url", "terms_url", "credit_from", "licence_from", "terms_from",
)  # fmt: skip
"""the columns of our own pick lists: one image as CSV, and as the members of a JSON object"""

# What a spreadsheet takes for the start of a formula (and tab or return before one).
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
GUARDED = (*FORMULA_STARTS, "'")
"""what has an apostrophe in front of it in our lists: those, and what would be taken for such a one"""

_OWN_JSON = lazy(r'\{"pick": (?:true|false), "number": \d+, "source": ')
PICK = "pick"
"""what the column is called that says of each picture whether it is wanted"""

DECLINED = "its list says no"
_NO = frozenset(
    (
        "",
        *"drop skip out reject rejected exclude excluded delete remove".split(),
        *"no n nein non nee nej nei ne nie não ei нет いいえ 否 hayır".split(),
        *"false falsch faux falso onwaar falskt falsk usann fałsz epätosi ложь yanlış hamis nepravda fals".split(),
        *"0 0.0 none null - – ✗ ✘ ☐".split(),
    )
)
"""what a person writes who does not want a picture, and what spreadsheets of their languages make of FALSE"""

_YES = frozenset(
    (
        *"keep in pick picked ok".split(),
        *"y yes j ja jo o oui s si sí sim tak kyllä ano да д はい 是 evet igen".split(),
        *"true wahr vrai vero verdadero verdadeiro waar sant sand prawda tosi истина doğru igaz pravda".split(),
        *"1 1.0 x + ✓ ✔ ☑".split(),
    )
)
"""what one writes who does, for lists of others: in those of our own it is all that does not say no"""


def is_own(headers: Iterable[str]) -> bool:
    """Tell whether the headers of a list are those of one that Pick Crate wrote."""
    return {"url", "shown_url"} <= set(headers)


def are_choices(cells: Iterable[str]) -> bool:
    """Tell whether the first cells of a column that is called ``pick`` say yes or no, and not whose pick each is."""
    said = {cell.strip().lower() for cell in cells}
    return said <= _YES | _NO and not said.isdisjoint(_YES)


def is_declined(row: Row, header: str) -> bool:
    """Tell whether a row says no to its picture in the column of that ``header``."""
    return text_in(row, header).lower() in _NO


def is_own_list(head: str) -> bool:
    """Tell whether a text is the start of a CSV that Pick Crate wrote, by its first line."""
    try:
        return is_own(next(csv.reader(head.splitlines()[:1]), []))
    except csv.Error:
        return False


def is_own_json(head: str) -> bool:
    """Tell whether a text is the start of JSON Lines that Pick Crate wrote: a row may be longer than what is seen."""
    return _OWN_JSON.match(head) is not None


def plain_cell(cell: str) -> str:
    """Return a cell as it was before a spreadsheet was kept from running it."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(GUARDED) else cell


def as_picked(image: Image, row: Row) -> Image:
    """Return the picture of a row with all that a list of our own says of it besides its address and words."""
    url = image.url
    shown_url = text_in(row, "shown_url") or url
    shown = replace(
        image.shown,
        url=shown_url,
        raw=shown_url,
        found_in=CALLED.get(text_in(row, "found_in"), FoundIn.LIST),
        element=text_in(row, "element"),
        attribute=text_in(row, "attribute"),
        box=Box(number_in(row, "shown_width"), number_in(row, "shown_height")),
        hidden=text_in(row, "hidden").lower() not in _NO,
        item=_item(row),
    )
    return replace(
        image,
        source=text_in(row, "source") or image.source,
        shown=shown,
        references=(shown,),
        candidates=_candidates(row, url),
        extra=tuple((header, said) for header, said in image.extra if header not in COLUMNS),
        furniture=text_in(row, "furniture"),
        declined=_declined_for(row) if is_declined(row, PICK) else "",
        rights=Rights(claims=tuple(_claims(row))),
    )


def _claims(row: Row) -> Iterator[Claim]:
    """Yield what a pick list says of the use of a picture, and of where that was said."""
    licence = text_in(row, "licence_url") or text_in(row, "licence")
    for aspect, said in ((Aspect.CREDIT, text_in(row, "credit")), (Aspect.LICENCE, licence)):
        if said:
            yield Claim(aspect, said, Claimant.LIST, text_in(row, f"{aspect.value}_from"))
    if terms := text_in(row, "terms_url"):
        yield Claim(Aspect.TERMS, terms, Claimant.LIST, text_in(row, "terms_from"))


def _item(row: Row) -> Item:
    """Return the item that a pick list says a picture belongs to."""
    title, url, columns = text_in(row, "item"), text_in(row, "item_url"), parsed(row.get("columns"))
    if not (title or url):
        return NO_ITEM
    said = tuple((str(name), str(text)) for name, text in columns.items()) if isinstance(columns, dict) else ()
    return Item(title, url, said, ItemForm.LISTED, NamedBy.LISTED, of=text_in(row, "item_from"))


def _candidates(row: Row, url: str) -> tuple[Candidate, ...]:
    """Return the candidates that a pick list holds: its address first, and the others that were known."""
    stated = parsed(row.get("grades"))
    grades = stated if isinstance(stated, dict) else {}
    width, height, size = (_measure(row, name, grades) for name in ("width", "height", "bytes"))
    kind = text_in(row, "type") if text_in(row, "type") in BY_NAME else ""
    measures = Measures(width, height, size, Measure(kind, _grade(grades.get("type"))) if kind else None)
    candidates = [Candidate(url, _evidence(text_in(row, "evidence")), measures)]
    others = parsed(row.get("candidates"))
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
    verdicts = parsed(row.get("verdicts"))
    for verdict in verdicts if isinstance(verdicts, list) else ():
        if isinstance(verdict, dict) and verdict.get("verdict") == "drop":
            if verdict.get("criterion") == PICK:
                return str(verdict.get("reason"))
            return f"{DECLINED} ({verdict.get('criterion')}: {verdict.get('reason')})"
    return DECLINED


def _declared(value: object) -> Measure[int] | None:
    if not isinstance(value, int) or isinstance(value, bool) or value < 1:
        return None
    return Measure(value, Grade.DECLARED)


def _measure(row: Row, name: str, grades: Mapping[str, object]) -> Measure[int] | None:
    value = number_in(row, name)
    return Measure(value, _grade(grades.get(name))) if value is not None else None


def _grade(stated: object) -> Grade:
    named = (grade for grade in Grade if grade.value == stated)
    return next(named, Grade.DECLARED)
