"""Files of bookmarks, as browsers import and export them: HTML with a doctype of its own, and a link an entry.

No standard says what they are; all browsers write ``<!DOCTYPE NETSCAPE-Bookmark-file-1>`` and read nested ``dl`` lists.
"""

from selectolax.lexbor import LexborHTMLParser

from pickcrate.addresses import absolute, is_web
from pickcrate.read.decode import decode
from pickcrate.read.reading import MOST_REFERENCES


def bookmarked(octets: bytes) -> list[str]:
    """Return the addresses on the web that a file of bookmarks holds, in its order."""
    tree = LexborHTMLParser(decode(octets).text)
    hrefs = (link.attributes.get("href") or "" for link in tree.css("dt > a[href]")[:MOST_REFERENCES])
    return [url for href in hrefs if (url := absolute(href, "about:blank")) is not None and is_web(url)]
