"""Values to rows: one image as JSON, as CSV cells, and as a row of a crate's list. Pure text, nothing is written."""

import csv
import io
import itertools
import json
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, TextIO

from pickcrate.addresses.url import image_type, without_userinfo
from pickcrate.read.lists.picklist import FORMULA_STARTS, GUARDED
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import joined
from pickcrate.values.claims import Aspect, Rights
from pickcrate.values.image import Candidate, Image
from pickcrate.values.item import NO_ITEM
from pickcrate.values.measures import Measures
from pickcrate.values.outcome import Outcome

PLAN_COLUMNS = ("file", "there", "elsewhere")
OUTCOME_COLUMNS = ("outcome", "file", "sha256", "unended", "error")
CRATE_COLUMNS = (
    "file", "url", "shown_url", "page", "alt", "caption", "width", "height", "type", "bytes", "sha256", "credit",
    "licence", "evidence", "fetched_at", "tdm", "unended", "item", "item_url", "columns",
    "licence_url", "terms_url", "credit_from", "licence_from", "terms_from",
)  # fmt: skip
SHARD_COLUMNS = ("row", *CRATE_COLUMNS, "offset", "fingerprint")
"""of a shard's list besides: the row that a picture is of, where in the tar its file begins, what it looks like"""

Row = Mapping[str, Any]

_ENCODER = json.JSONEncoder(ensure_ascii=False, separators=(", ", ": "))
"""one for all: ``json.dumps`` makes one each time that it is asked for this"""


def rights_row(rights: Rights) -> dict[str, str | None]:
    """Return what is said of the use of a picture, and who says it; None where nobody does."""
    return {
        "credit": rights.credit or None,
        "credit_from": rights.origin(Aspect.CREDIT) or None,
        "licence": rights.licence or None,
        "licence_url": rights.licence_url or None,
        "licence_from": rights.origin(Aspect.LICENCE) or None,
        "terms_url": rights.terms_url or None,
        "terms_from": rights.origin(Aspect.TERMS) or None,
    }


def image_row(image: Image, name: str) -> dict[str, Any]:
    """Return one image as a row of COLUMNS; what is not known is None."""
    shown, best = image.shown, image.best
    words = shown.words
    measures, grades = _measures(image.claimed_type, best.measures)
    return {
        "pick": image.is_picked,
        "number": image.number,
        "source": joined(image.source),  # a file's name may be in no encoding
        "page": shown.page or None,
        "url": best.url,
        "shown_url": shown.url,
        "shown_width": shown.box.width,
        "shown_height": shown.box.height,
        "found_in": shown.found_in,
        "element": shown.element or None,
        "attribute": shown.attribute or None,
        "alt": words.alt or None,
        "title": words.title or None,
        "caption": words.caption or None,
        "heading": words.heading or None,
        "link": shown.link or None,
        "link_text": words.link_text or None,
        "item": image.item.title or None,
        "item_url": image.item.url or None,
        "item_from": image.item.said if image.item is not NO_ITEM else None,
        "columns": image.columns or None,
        "hidden": image.is_hidden,
        "furniture": image.furniture or None,
        **measures,
        "grades": grades,
        "verdicts": [
            {"criterion": verdict.criterion, "verdict": verdict.ruling.value, "reason": verdict.reason}
            for verdict in image.verdicts
        ],
        "evidence": str(best.evidence),
        "candidates": _others(image),
        "name": name or None,
        **rights_row(image.rights),
    }


def outcome_row(outcome: Outcome) -> dict[str, Any]:
    """Return one outcome as a row of COLUMNS and OUTCOME_COLUMNS, with what the file itself said."""
    row = image_row(outcome.image, "")
    claimed = image_type(outcome.url)
    measures, grades = _measures(claimed.name if claimed is not None else "", outcome.measures)
    row |= {"url": outcome.url, "name": outcome.file or None}
    if outcome.file:
        row |= {**measures, "grades": grades}
    row |= {
        "outcome": outcome.ending.value,
        "file": outcome.file or None,
        "sha256": outcome.sha256 or None,
        "unended": outcome.is_unended or None,
        "error": outcome.error or None,
    }
    return row


def plan_row(image: Image, file: str, *, is_there: bool, elsewhere: str) -> dict[str, Any]:
    """Return one picked image as a row of COLUMNS and PLAN_COLUMNS: the path that its file would get."""
    known = {"file": "" if elsewhere else file, "there": is_there, "elsewhere": elsewhere}
    return image_row(image, file.rpartition("/")[2]) | known


def to_json(row: Row | list[Any]) -> str:
    """Return a row as one line of JSON, without user names and passwords."""
    return without_userinfo(_ENCODER.encode(row))


def csv_lines(rows: Iterable[Iterable[object]]) -> Iterator[str]:
    """Yield a line a row (RFC 4180); lists as JSON text, cells that a spreadsheet would run made harmless."""
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    for cells in rows:
        writer.writerow(map(_cell, cells))
        yield buffer.getvalue()
        buffer.seek(0)
        buffer.truncate()


_STARTS = frozenset(GUARDED)
_ROWS_AT_A_TIME = 512
_UNQUOTED = re.escape("".join(_STARTS - {"\r", "\n"}))
_FORMULA = lazy(rf"[,\n](?:[{_UNQUOTED}]|\"[{_UNQUOTED}\r\n])")
"""the start of a cell that may need an apostrophe: one that begins with a line's end is quoted"""


def write_csv(stream: TextIO, rows: Iterable[Iterable[object]]) -> None:
    """Write a line a row, as ``csv_lines`` has them; of texts, numbers and None.

    Cell by cell costs five times as much as finding out that no cell of some hundred rows needs it.
    """
    pending = iter(rows)
    while some := list(itertools.islice(pending, _ROWS_AT_A_TIME)):
        text = _written(some)
        if "@" in text or _FORMULA.search("\n" + text) is not None:
            text = _written(map(_cell, cells) for cells in some)
        stream.write(text)


def _written(rows: Iterable[Iterable[object]]) -> str:
    buffer = io.StringIO()
    csv.writer(buffer).writerows(rows)
    return buffer.getvalue()


def _cell(value: object) -> str:
    if isinstance(value, str):
        if not value or (value[0] not in _STARTS and "@" not in value):  # as most
            return value
        value = without_userinfo(value)
        is_taken_for_ours = value.startswith("'") and value[1:].startswith(GUARDED)
        return f"'{value}" if is_taken_for_ours or value.startswith(FORMULA_STARTS) else value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return to_json(value) if isinstance(value, (dict, list)) else str(value)


def _measures(claimed: str, measures: Measures) -> tuple[dict[str, Any], dict[str, str]]:
    """Return the four measures and their grades; a type that is only ``claimed`` for the picture is declared."""
    known = {
        "width": measures.width,
        "height": measures.height,
        "type": measures.type,
        "bytes": measures.bytes,
    }
    values: dict[str, Any] = {name: measure.value if measure else None for name, measure in known.items()}
    grades = {name: measure.grade.value for name, measure in known.items() if measure}
    if values["type"] is None and claimed:
        values["type"], grades["type"] = claimed, "declared"
    return values, grades


def _others(image: Image) -> list[dict[str, Any]]:
    """Return every other address known for the picture: candidates, then other references, each once."""
    rows: dict[str, dict[str, Any]] = {}
    for candidate in image.candidates:
        if candidate.url != image.url:
            rows[candidate.url] = _candidate(candidate)
    for reference in image.references:
        if reference.url != image.url and reference.url not in rows:
            size = f" {reference.width}w" if reference.width else ""
            rows[reference.url] = {
                "url": reference.url,
                "evidence": f"{reference.found_in} {reference.attribute}".rstrip() + size,
                "width": reference.width,
                "height": None,
                "outcome": None,
            }
    return list(rows.values())


def _candidate(candidate: Candidate) -> dict[str, Any]:
    width, height = candidate.measures.width, candidate.measures.height
    return {
        "url": candidate.url,
        "evidence": str(candidate.evidence),
        "width": width.value if width else None,
        "height": height.value if height else None,
        "outcome": candidate.outcome or None,
    }
