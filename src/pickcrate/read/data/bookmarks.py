"""Files of bookmarks and of subscriptions, as browsers and readers of feeds import and export them.

No standard says what bookmarks are; all browsers write ``<!DOCTYPE NETSCAPE-Bookmark-file-1>`` and read nested ``dl``
lists, a link an entry. Subscriptions are outlines in OPML (OPML 2.0, Subscription lists).
"""

from collections.abc import Iterable
from itertools import islice

from selectolax.lexbor import LexborHTMLParser

from pickcrate.addresses.url import absolute, is_web
from pickcrate.read.data.xmltree import within, xml_root
from pickcrate.read.pages.decode import decode
from pickcrate.read.reading import MOST_REFERENCES

_LEADS = ("xmlUrl", "url", "htmlUrl")
"""of an outline: its feed, what a link of it is to, the page that the feed is of"""


def bookmarked(octets: bytes) -> list[str]:
    """Return the addresses on the web that a file of bookmarks holds, in its order."""
    tree = LexborHTMLParser(decode(octets).text)
    return _on_the_web(link.attributes.get("href") or "" for link in tree.css("dt > a[href]"))


def subscribed(octets: bytes) -> tuple[str, list[str]]:
    """Return the title of a list of subscriptions, and the addresses of its feeds and links, in its order."""
    root = xml_root(octets)
    title = next((one.text or "" for one in within(root, "title")), "")
    named = (next(filter(None, map(outline.get, _LEADS)), "") for outline in within(root, "outline"))
    return " ".join(title.split()), _on_the_web(filter(None, named))


def _on_the_web(named: Iterable[str]) -> list[str]:
    whole = (absolute(one, "about:blank") for one in islice(named, MOST_REFERENCES))
    return [url for url in whole if url is not None and is_web(url)]
