"""What the fetchers of one run share, and what they hand to libcurl."""

import os
import re
from collections.abc import Iterable

import pycurl

from pickcrate.addresses.url import site as host_of
from pickcrate.fetch import robots
from pickcrate.fetch.cache import Cache
from pickcrate.fetch.exchange import Request
from pickcrate.fetch.pace import Pace


class Descriptor:
    """A socket for libcurl, which makes a copy of its own: ours is closed as soon as it is let go."""

    def __init__(self, number: int) -> None:
        self._number = number

    def fileno(self) -> int:
        """Return the descriptor."""
        return self._number

    def __del__(self) -> None:
        os.close(self._number)


class Shared:
    """What the fetchers of one run share: the cache, the rules of sites, connections, and cookies (for this run)."""

    def __init__(self, cache: Cache, cookies: str = "") -> None:
        """Make an empty jar, or one with the cookies of a file."""
        self.cache = cache
        self.rules: dict[str, robots.Rules] = {}
        self.paces: dict[str, Pace] = {}
        """of sites, by their origins"""
        self.private_origins: set[str] = set()
        """origins whose answers came from private addresses"""
        self.mixed_origins: set[str] = set()
        """origins whose names have private addresses beside public ones: a connection may lead to either"""
        self.typed_origins: set[str] = set()
        """origins that the user typed: the user's own header fields and passwords go there and nowhere else"""
        self.share = pycurl.CurlShare()
        """libcurl's own: cookies, and connections, as a site may allow one alone, or a few"""
        for shared in (pycurl.LOCK_DATA_COOKIE, pycurl.LOCK_DATA_CONNECT):
            self.share.setopt(pycurl.SH_SHARE, shared)
        self._jar = pycurl.Curl()
        self._jar.setopt(pycurl.COOKIEFILE, "")
        self._jar.setopt(pycurl.SHARE, self.share)
        if cookies:
            from pickcrate.fetch.cookies import as_lines, from_file  # noqa: PLC0415 (few runs have any)

            self.set_cookies(as_lines(from_file(cookies)))

    def set_for(self, request: Request) -> None:
        """Set the cookies that a page's script set before it asked: for the page's own site, as a browser would."""
        if not request.cookies:  # as most
            return
        host = host_of(request.referer)
        lines = []
        for cookie in request.cookies:
            name, _, value = cookie.partition("=")
            if not re.search(r"[\t\r\n;]", cookie):
                lines.append(f"{host}\tFALSE\t/\tFALSE\t0\t{name}\t{value}")
        self.set_cookies(lines)

    def set_cookies(self, lines: Iterable[str]) -> None:
        """Put cookies, in the Netscape format, where the next requests take them from."""
        for line in lines:
            self._jar.setopt(pycurl.COOKIELIST, line)
