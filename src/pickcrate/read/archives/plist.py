"""A page that was saved as a property list, as a browser of one kind of computer saves it, with all that it showed.

The list is binary or XML; its names are those of the format: a main resource, sub-resources, the archives of frames.
"""

import plistlib
from collections.abc import Iterator
from functools import partial

from pickcrate.addresses.url import absolute
from pickcrate.media.header import read_header
from pickcrate.read.reading import Document, Reading, StoredBody
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn

_MAIN, _OTHERS, _FRAMES = "WebMainResource", "WebSubresources", "WebSubframeArchives"
_DATA, _ADDRESS, _TYPE, _ENCODING = (f"WebResource{name}" for name in ("Data", "URL", "MIMEType", "TextEncodingName"))
_MOST_RESOURCES = 20_000
_MOST_ARCHIVES, _DEEPEST = 1_000, 12
"""Archives of frames, side by side and inside one another: what refers to itself has no end."""


def read_plist(octets: bytes, address: str) -> Reading:
    """Return the page of a property list, with every image in it; frames are bodies.

    ``address`` is the file's own, for a page that does not say where it came from.
    """
    reading = Reading()
    try:
        archive = plistlib.loads(octets)
    except Exception as error:  # noqa: BLE001 (its reader raises whatever it trips over)
        reading.flaws.append(Flaw("source", f"the property list cannot be read: {type(error).__name__}"))
        return reading
    for place, (resource, is_page) in enumerate(_resources(archive)):
        if place >= _MOST_RESOURCES or reading.is_full:
            reading.flaws.append(Flaw("source", f"more than {_MOST_RESOURCES:,} resources: the rest is left out"))
            break
        _add(resource, reading, address, is_page=is_page)
    return reading


def _resources(archive: object) -> Iterator[tuple[dict[str, object], bool]]:
    """Yield the resources of an archive and of those of its frames, and whether each is the page itself."""
    waiting = [(archive, 0)]
    for _ in range(_MOST_ARCHIVES):
        if not waiting:
            return
        current, depth = waiting.pop()
        if not isinstance(current, dict) or depth > _DEEPEST:
            continue
        main, others, frames = (current.get(name) for name in (_MAIN, _OTHERS, _FRAMES))
        for resource in (main, *(others if isinstance(others, list) else ())):
            if isinstance(resource, dict):
                yield resource, depth == 0 and resource is main
        inner = frames[:_MOST_ARCHIVES] if isinstance(frames, list) else []
        waiting.extend((frame, depth + 1) for frame in reversed(inner))


def _add(resource: dict[str, object], reading: Reading, address: str, *, is_page: bool) -> None:
    data, raw, media_type, encoding = (resource.get(name) for name in (_DATA, _ADDRESS, _TYPE, _ENCODING))
    if not isinstance(data, bytes):
        return
    url = absolute(raw, "about:blank") if isinstance(raw, str) else None
    stated = media_type if isinstance(media_type, str) else ""
    load = partial(bytes, data)
    if is_page:
        charset = f"; charset={encoding}" if isinstance(encoding, str) else ""
        home = url if url is not None and not url.startswith("about:") else address
        reading.documents.append(Document(load, home, {"content-type": f"{stated}{charset}"} if stated else {}))
    elif url is not None:
        reading.bodies.setdefault(url, StoredBody(load, stated, url, is_held=True))
        if stated.startswith("image/") or read_header(data[:4096]) is not None:
            reading.add_picture(url, FoundIn.ARCHIVE)
