"""Cookies on their way between the user's file, the browser and the fetcher: lines in the Netscape format."""

from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

_FIELDS = 7
_HTTP_ONLY = "#HttpOnly_"


def from_file(path: str) -> list[dict[str, Any]]:
    """Return the cookies of a file as a browser takes them; lines that are none are passed over."""
    text = Path(path).expanduser().read_text(encoding="utf-8", errors="replace") if path else ""
    return list(_cookies(text.splitlines()))


def _cookies(lines: Iterable[str]) -> Iterator[dict[str, Any]]:
    for line in lines:
        is_http_only = line.startswith(_HTTP_ONLY)
        fields = line.removeprefix(_HTTP_ONLY).split("\t")
        if len(fields) != _FIELDS or fields[0].startswith("#"):
            continue
        domain, for_subdomains, path, secure, expires, name, value = fields
        yield {
            "name": name,
            "value": value,
            "domain": f".{domain.lstrip('.')}" if for_subdomains == "TRUE" else domain,
            "path": path or "/",
            "secure": secure == "TRUE",
            "httpOnly": is_http_only,
            "expires": int(expires) if expires.isdecimal() and int(expires) else -1,
        }


def as_lines(cookies: Iterable[Mapping[str, Any]]) -> list[str]:
    """Return a browser's cookies as lines; those with a character that would end a field are left out."""
    lines = []
    for cookie in cookies:
        domain = str(cookie.get("domain", ""))
        fields = (
            domain,
            "TRUE" if domain.startswith(".") else "FALSE",
            str(cookie.get("path", "/")),
            "TRUE" if cookie.get("secure") else "FALSE",
            str(max(0, int(cookie.get("expires") or 0))),
            str(cookie.get("name", "")),
            str(cookie.get("value", "")),
        )
        if not any(mark in field for field in fields for mark in "\t\r\n"):
            lines.append("\t".join(fields))
    return lines
