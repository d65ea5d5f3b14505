"""A browser's network log: HAR 1.2. Every image response in it is a picture, with its bytes where the log has them."""

from base64 import b64decode
from collections.abc import Callable
from typing import Any

from pickcrate.addresses.url import absolute, is_web
from pickcrate.media import essence
from pickcrate.media.header import is_image
from pickcrate.read.fields.contenttype import PAGE_TYPES
from pickcrate.read.reading import Document, Reading, StoredBody
from pickcrate.text.surrogates import read_json
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn

_NOT_MODIFIED = 304
_HELD_AS_TEXT = {"content-type": "text/html; charset=utf-8"}
"""what the log decoded, we encode again"""


def read_har(octets: bytes, beside: Callable[[str], bytes] | None = None) -> Reading:
    """Return what a log recorded; entries that are not as the format says are flaws.

    ``beside`` loads the file of a body that is kept outside the log (``content._file``), by its name.
    """
    reading = Reading(complete=True)
    try:
        entries = read_json(octets.decode("utf-8-sig", "replace"))["log"]["entries"]
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        reading.flaws.append(Flaw("log", f"the log cannot be read: {error}"))
        return reading
    for place, entry in enumerate(entries if isinstance(entries, list) else ()):
        if reading.is_full:
            reading.flaws.append(Flaw("log", "the log holds too much: the rest of it is left out"))
            break
        try:
            _read_entry(entry, reading, beside)
        except (KeyError, TypeError, ValueError, AttributeError, OverflowError) as error:
            reading.flaws.append(Flaw("log", f"entry {place} is not as HAR 1.2 says: {error}"))
    return reading


def _read_entry(entry: dict[str, Any], reading: Reading, beside: Callable[[str], bytes] | None) -> None:
    response = entry["response"]
    status = int(response["status"])
    content = response.get("content") or {}
    media_type = str(content.get("mimeType") or "")
    load = _loader(content, beside)
    # A browser that had it already asks only whether it changed; the log has the body all the same.
    if not (200 <= status < 300 or (status == _NOT_MODIFIED and load is not None)):
        return
    url = absolute(entry["request"]["url"], "about:blank")
    if url is None or not (is_web(url) or url.startswith(("data:", "file:"))):
        return
    body = load() if load is not None else b""
    if body and load is not None and status != 206:
        reading.bodies[url] = StoredBody(load, media_type, is_held=bool(content.get("text")))
    if is_image(media_type, body):
        if url not in reading.pictured:
            reading.pictured.add(url)
            reading.add_picture(url, FoundIn.LOG)
    elif body and load is not None and essence(media_type) in PAGE_TYPES:
        reading.documents.append(
            Document(load, url, _HELD_AS_TEXT if content.get("encoding") != "base64" else {"content-type": media_type})
        )


def _loader(content: dict[str, Any], beside: Callable[[str], bytes] | None) -> Callable[[], bytes] | None:
    """Return what loads the body of an answer; None if the log does not have it."""
    text, name = content.get("text"), content.get("_file")
    if isinstance(text, str) and text:
        body = b64decode(text) if content.get("encoding") == "base64" else text.encode("utf-8", "surrogatepass")
        return lambda: body
    if isinstance(name, str) and name and beside is not None:
        return lambda: beside(name)
    return None
