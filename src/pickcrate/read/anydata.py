"""What a script asks its server for, as JSON: JSON itself, a value a line, tables of text, and XML."""

import csv
import json

from pickcrate.read.recognise import Kind, recognise

_DECLARATION = b"<?xml version='1.0'?>"
_SEPARATORS = {".csv": ",", ".tsv": "\t"}
_MOST_ROWS = 100_000


def json_of(octets: bytes, path: str) -> bytes | None:
    """Return an answer as JSON; None if it is no data. ``path`` is that of its address: its ending names its format."""
    plain = octets.removeprefix(b"\xef\xbb\xbf").lstrip()
    if plain.startswith((b"{", b"[")):
        is_of_lines = plain.startswith(b"{") and path.endswith((".jsonl", ".ndjson"))
        return b"[" + b",".join(filter(None, map(bytes.strip, plain.splitlines()))) + b"]" if is_of_lines else plain
    if (separator := _SEPARATORS.get(path[-4:].lower())) is not None and not plain.startswith(b"<"):
        return _of_table(plain.decode("utf-8", "replace"), separator)
    is_undeclared = path.endswith(".xml") and not plain.startswith(b"<?xml")
    if recognise(_DECLARATION + plain if is_undeclared else plain) is not Kind.XML:
        return None
    from pickcrate.read.data.xmldata import as_json  # noqa: PLC0415 (few pages have any)

    return as_json(octets)


def _of_table(text: str, separator: str) -> bytes | None:
    """Return the rows of a table as objects, by the heads above their columns (RFC 4180); None if it is broken."""
    try:
        rows = [
            row
            for _, row in zip(range(_MOST_ROWS), csv.DictReader(text.splitlines(), delimiter=separator), strict=False)
        ]
    except csv.Error:
        return None
    told = ({name: said for name, said in row.items() if name and isinstance(said, str)} for row in rows)
    return json.dumps(list(told), ensure_ascii=False).encode("utf-8", "replace")
