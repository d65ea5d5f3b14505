"""Content-Disposition (RFC 6266, with the values of RFC 8187): the file name that a server gives.

Where a field breaks the grammar it is read as browsers read it: names without quotes may hold spaces, bytes beyond
ASCII are UTF-8 if they can be, percent escapes and encoded words (RFC 2047) are undone, and ``filename*`` may be
quoted.
"""

import re
from urllib.parse import unquote_to_bytes

from pickcrate.text.lazyre import lazy

_PARAMETER = lazy(r"""\s*([^\s=;"]+)\s*=\s*("(?:[^"\\]|\\.)*"?|[^;]*)""", re.DOTALL)
_EXTENDED = lazy(r"(utf-8|iso-8859-1)'[^']*'([!#$&+\-.^_`|~0-9A-Za-z%]+)", re.IGNORECASE)
_ENCODED_WORD = lazy(r"=\?[^?\s]+\?[bq]\?[^?]*\?=", re.IGNORECASE)
_ESCAPE = lazy(r"%[0-9A-Fa-f]{2}")
_BROKEN_ESCAPE = lazy(r"%(?![0-9A-Fa-f]{2})")


def served_name(field: str) -> str:
    """Return the file name in a Content-Disposition field (as latin-1 text, as it came); empty if it gives none.

    ``filename*`` goes before ``filename`` (RFC 6266, 4.3); of either the first counts. Steps of a path before the
    last are dropped.
    """
    plain = extended = ""
    seen: set[str] = set()
    for name, value in _parameters(field):
        if name in seen:
            continue
        seen.add(name)
        if name == "filename":
            plain = _plain(value)
        elif name == "filename*":
            extended = _extended(value)
    return re.split(r"[/\\]", extended or plain)[-1].strip()


def _parameters(field: str) -> list[tuple[str, str]]:
    """Return the parameters, names in lower case; a field that begins with one has no disposition type."""
    kind, _, rest = field.partition(";")
    text = field if "=" in kind else rest
    found: list[tuple[str, str]] = []
    at = 0
    while at < len(text):
        match = _PARAMETER.match(text, at)
        end = match.end() if match else at
        if match:
            found.append((match[1].lower(), match[2].strip()))
        semicolon = text.find(";", end)
        at = semicolon + 1 if semicolon >= 0 else len(text)
    return found


def _plain(value: str) -> str:
    if value.startswith('"'):
        value = re.sub(r"\\(.)", r"\1", value[1:-1] if len(value) > 1 and value.endswith('"') else value[1:])
    if _ENCODED_WORD.search(value):
        from email.errors import MessageError  # noqa: PLC0415 (mail's own, seldom needed)
        from email.header import decode_header, make_header  # noqa: PLC0415

        try:
            return str(make_header(decode_header(value)))
        except (ValueError, LookupError, MessageError):
            pass
    octets = value.encode("latin-1", "replace")
    if _ESCAPE.search(value):
        try:
            return unquote_to_bytes(octets).decode("utf-8")
        except UnicodeDecodeError:
            pass
    try:
        return octets.decode("utf-8")
    except UnicodeDecodeError:
        return octets.decode("windows-1252", "replace")


def _extended(value: str) -> str:
    """RFC 8187, 3.2: ``charset'language'percent-encoded``; anything else counts for nothing."""
    match = _EXTENDED.fullmatch(value.strip('"'))
    if match is None or _BROKEN_ESCAPE.search(match[2]):
        return ""
    try:
        # What is called ISO-8859-1 is windows-1252 (Encoding standard, 4.2).
        return unquote_to_bytes(match[2]).decode("utf-8" if match[1].lower() == "utf-8" else "windows-1252")
    except UnicodeDecodeError:
        return ""
