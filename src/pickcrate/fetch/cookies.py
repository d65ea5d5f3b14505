"""Cookies on their way between the user's file, the browser and the fetcher.

A file has them as lines (the Netscape format), or in JSON: a list of objects, as browsers give their extensions
(WebExtensions, ``cookies.Cookie``) and programs that drive them (WebDriver, 14), or such a list under ``cookies``.
"""

import json
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

_FIELDS = 7
_HTTP_ONLY = "#HttpOnly_"
_EXPIRES = ("expires", "expirationDate", "expiry")
_LATEST, _MOST_BYTES = 1e12, 10_000_000


def from_file(path: str) -> list[dict[str, Any]]:
    """Return the cookies of a file as a browser takes them; what is none is passed over. Raises OSError."""
    if not path:
        return []
    with Path(path).open("rb") as file:
        text = file.read(_MOST_BYTES).decode("utf-8-sig", "replace")
    cookies = _in_json(text) if text.lstrip().startswith(("[", "{")) else _in_lines(text.splitlines())
    return [cookie for cookie in cookies if cookie["domain"].strip(". ")]


def _in_lines(lines: Iterable[str]) -> Iterator[dict[str, Any]]:
    for line in lines:
        is_http_only = line.startswith(_HTTP_ONLY)
        fields = line.removeprefix(_HTTP_ONLY).split("\t")
        fields += [""] if len(fields) == _FIELDS - 1 else []  # of an empty value, which editors cut off
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


def _in_json(text: str) -> Iterator[dict[str, Any]]:
    value: object = None
    with suppress(ValueError, RecursionError):
        value = json.loads(text)
    listed = value.get("cookies") if isinstance(value, dict) else value
    for one in listed if isinstance(listed, list) else []:
        if not isinstance(one, dict) or not all(isinstance(one.get(name), str) for name in ("name", "value", "domain")):
            continue
        domain = one["domain"].lstrip(".")
        is_of_host = one.get("hostOnly", not one["domain"].startswith("."))
        yield {
            "name": one["name"],
            "value": one["value"],
            "domain": domain if is_of_host else f".{domain}",
            "path": str(one.get("path") or "/"),
            "secure": one.get("secure") is True,
            "httpOnly": one.get("httpOnly") is True,
            "expires": _time(map(one.get, _EXPIRES)),
        }


def _time(stated: Iterable[object]) -> int:
    """Return the first of several times that is one, in seconds since 1970; -1 for a cookie of one session."""
    times = (int(value) for value in stated if isinstance(value, int | float) and 0 < value < _LATEST)
    return next(times, -1)


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
