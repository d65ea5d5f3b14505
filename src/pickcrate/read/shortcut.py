"""Shortcuts to a page, as desktops keep the address of one: a file of a few lines, or a property list.

The Desktop Entry specification (1.5, "Link"); the others have no standard: a section ``InternetShortcut``, and a
property list with nothing but a ``URL``.
"""

from pickcrate.addresses.url import absolute, is_web
from pickcrate.read.pages.decode import decode
from pickcrate.text.lazyre import lazy

_LARGEST = 65_536
_LINE = lazy(r"(?mi)^[ \t]*URL[ \t]*=[ \t]*(\S{1,4000})")


def target_of(octets: bytes) -> str:
    """Return the page on the web that a shortcut leads to; empty if it is none, or leads elsewhere."""
    if len(octets) > _LARGEST:
        return ""
    url = absolute(_stated(octets), "about:blank")
    return url if url is not None and is_web(url) else ""


def _stated(octets: bytes) -> str:
    if octets.startswith(b"bplist00") or b"<plist" in octets:
        import plistlib  # noqa: PLC0415 (few files are such)

        try:
            stated = plistlib.loads(octets)
        except Exception:  # noqa: BLE001 (its reader raises whatever it trips over)
            return ""
        raw = stated.get("URL") if isinstance(stated, dict) else None
        return raw if isinstance(raw, str) else ""
    match = _LINE.search(decode(octets).text)
    return match[1] if match is not None else ""
