"""What the browser loads for a page: the bytes of it, and what the page's scripts do with its pictures."""

from contextlib import suppress
from typing import Any

from msgspec.structs import replace
from playwright.sync_api import Error, Frame, Page, Request, Response

from pickcrate.addresses.url import is_web
from pickcrate.browser.functions import Functions
from pickcrate.browser.visited import Answer, Visited
from pickcrate.fetch.spool import Spool
from pickcrate.finders.fetched import may_hold_data
from pickcrate.media import essence
from pickcrate.media.header import is_image

_MOST_ANSWERS = 10_000
_NOT_KEPT = frozenset(("media", "font", "script", "websocket", "eventsource", "ping"))
_MAY_BE_PICTURES = frozenset(("image", "other", "fetch", "xhr"))


class Answers:
    """The answers that come for one page and its parts; what is worth it is kept with the visit."""

    def __init__(
        self, page: Page, functions: Functions, visited: Visited, spool: Spool, most: int, *, keeps: bool
    ) -> None:
        """Keep bytes in ``spool``, of no more than ``most`` each; with ``keeps`` of scripts and fonts as well."""
        self._functions = functions
        self._visited = visited
        self._spool = spool
        self._most = most
        self._keeps = keeps
        self._finished: list[Request] = []
        self._known: set[tuple[str, int]] = set()
        """the bodies that came, by their addresses without a query, and by hashes of them"""
        self._unread: dict[str, tuple[str, str]] = {}
        """pictures whose bytes a script took as a blob, so that the browser has none: by where redirects ended, the
        addresses that were asked for, and the lengths that were stated"""
        page.on("requestfinished", self._came)

    def _came(self, request: Request) -> None:
        kind = request.resource_type
        if self._keeps or kind not in _NOT_KEPT or (kind == "script" and may_hold_data(request.url)):
            self._finished.append(request)

    def drain(self, *, at_least: int = 1) -> None:
        """Take the bytes of what came since the last time, if it is so much: the browser lets go of them."""
        # They are asked of the page's own process.
        if len(self._finished) < at_least or self._functions.do("ping") is None:
            return
        waiting, self._finished = self._finished, []
        for request in waiting:
            if len(self._visited.answers) >= _MOST_ANSWERS:
                return
            with suppress(Error):  # it has let go of it already: it is fetched like any other
                self._keep(request)

    @property
    def unread(self) -> list[str]:
        """The addresses of pictures that came, and of which neither the browser nor the page has the bytes."""
        return [asked for asked, _ in self._unread.values()]

    def _keep(self, request: Request) -> None:
        response = request.response()
        if response is None or response.status != 200 or self._is_too_large(response):
            return
        media_type = essence(response.headers.get("content-type", ""))
        octets = response.body()
        is_listed = media_type.startswith("image/") and is_web(response.url) and len(self._unread) < _MOST_ANSWERS
        if not octets and is_listed:
            self._unread[response.url] = _first_asked(request), response.headers.get("content-length", "")
        if not octets or len(octets) > self._most:
            return
        body = self._spool.put(octets, media_type, response.url)
        if body is None:
            return
        # A script that asks again and again makes each address another one, by the time: it is one picture.
        known = response.url.partition("?")[0], hash(octets)
        is_new = known not in self._known
        self._known.add(known)
        is_picture = is_new and request.resource_type in _MAY_BE_PICTURES and is_image(media_type, octets)
        fields = dict(response.headers)
        self._visited.answers.append(Answer(_first_asked(request), response.url, media_type, body, fields, is_picture))

    def _is_too_large(self, response: Response) -> bool:
        length = response.headers.get("content-length", "")
        return length.isdecimal() and int(length) > self._most

    def learn(self, frame: Frame) -> None:
        """Take what the page's scripts did with its pictures: what they handed over, and what they replaced."""
        handed = _pairs(self._functions.do("handed", frame=frame))
        known = {answer.asked: answer for answer in self._visited.answers} if handed else {}
        for blob, address in handed:
            answer = known.get(blob)
            asked, length = self._unread.get(address, ("", ""))
            if answer is not None and asked and length in {"", str(len(answer.body.load()))}:
                del self._unread[address]
                self._visited.answers.append(replace(answer, asked=asked, url=address))
        self._visited.replaced += _pairs(self._functions.do("replaced", frame=frame))


def _first_asked(request: Request) -> str:
    """Return the address that was asked for, before any redirect."""
    while request.redirected_from is not None:
        request = request.redirected_from
    return request.url


def _pairs(told: Any) -> list[tuple[str, str]]:
    """Return the pairs of addresses that a page has told: it may tell anything."""
    pairs = [tuple(pair) for pair in told if isinstance(pair, list)] if isinstance(told, list) else []
    return [(pair[0], pair[1]) for pair in pairs if len(pair) == 2 and all(isinstance(said, str) for said in pair)]
