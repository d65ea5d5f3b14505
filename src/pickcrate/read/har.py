"""A browser's network log: HAR 1.2. Every image response in it is a picture, with its bytes where the log has them."""

import json
from base64 import b64decode
from typing import Any

from pickcrate.addresses import absolute, is_web
from pickcrate.media import by_media_type
from pickcrate.media.header import read_header
from pickcrate.read.reading import Body, Document, Reading
from pickcrate.values import Flaw


def read_har(octets: bytes) -> Reading:
    """Return what a log recorded; entries that are not as the format says are flaws."""
    reading = Reading(complete=True)
    try:
        entries = json.loads(octets.decode("utf-8-sig", "replace"))["log"]["entries"]
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        reading.flaws.append(Flaw("log", f"the log cannot be read: {error}"))
        return reading
    for place, entry in enumerate(entries if isinstance(entries, list) else ()):
        try:
            _read_entry(entry, reading)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            reading.flaws.append(Flaw("log", f"entry {place} is not as HAR 1.2 says: {error}"))
    return reading


def _read_entry(entry: dict[str, Any], reading: Reading) -> None:
    response = entry["response"]
    if not 200 <= int(response["status"]) < 300:
        return
    url = absolute(entry["request"]["url"], "about:blank")
    if url is None or not (is_web(url) or url.startswith(("data:", "file:"))):
        return
    content = response.get("content") or {}
    media_type = str(content.get("mimeType") or "")
    text = content.get("text")
    body = None
    if isinstance(text, str) and text:
        body = b64decode(text) if content.get("encoding") == "base64" else text.encode("utf-8", "surrogatepass")
    if body is not None and int(response["status"]) != 206:
        reading.bodies[url] = Body(lambda body=body: body, media_type)  # type: ignore[misc]
    if (body is not None and read_header(body[:4096]) is not None) or by_media_type(media_type) is not None:
        if all(reference.url != url for reference in reading.references[-50:]):
            reading.add_picture(url, "log")
    elif body is not None and media_type.startswith(("text/html", "application/xhtml")):
        reading.documents.append(Document(body, url, "utf-8" if content.get("encoding") != "base64" else ""))
