"""What a page in a browser has asked for and still waits for, as far as that is worth waiting for."""

import time
from collections import Counter

from playwright.sync_api import Request

from pickcrate.addresses.url import origin
from pickcrate.text.lazyre import lazy

_NEVER_ENDS = frozenset(("media", "websocket", "eventsource", "ping"))
_OFTEN = 4
"""How often a page asks for the very same, with nothing done to it meanwhile, until that counts as polling."""

_LEAST = 4.0
"""Seconds that each request of a site may take that has held one open."""

_LONGEST_FORM = 4096
_STAMP = lazy(r"\b1\d{12}\b|\b0\.\d{6,20}\b")
"""a time in milliseconds, or a random number, with which one address is written anew each time"""


class Pending:
    """The requests of a page that are under way, without those that never end and those that only look for news."""

    def __init__(self, longest: float) -> None:
        """Wait for none that is under way for more than ``longest`` seconds: it is held open until there is news.

        From then on, others of its site are given less time.
        """
        self._longest = longest
        self._holding = set[str]()
        self._begun: dict[Request, float] = {}
        self._asked = Counter[str]()
        self._last = time.monotonic()

    def begin(self, request: Request) -> None:
        """Take note of a request."""
        if self._is_poll(request):
            return
        self._last = time.monotonic()
        if request.resource_type not in _NEVER_ENDS:
            self._begun[request] = self._last

    def end(self, request: Request) -> None:
        """Take note of the end of a request, or that it will have none."""
        if self._begun.pop(request, None) is not None:
            self._last = time.monotonic()

    def count_anew(self) -> None:
        """Count anew how often the same is asked for: something was done to the page, which may bring more.

        Of what was polling so far, one request is waited for.
        """
        self._asked = Counter({what: _OFTEN - 1 for what, times in self._asked.items() if times > _OFTEN})

    def any_left(self) -> bool:
        """Tell whether anything is under way that is worth waiting for."""
        now = time.monotonic()
        for request, begun in list(self._begun.items()):
            site = origin(request.url)
            if now - begun > (_LEAST if site in self._holding else self._longest):
                self._holding.add(site)
                del self._begun[request]
        return bool(self._begun)

    def is_quiet(self, seconds: float) -> bool:
        """Tell whether nothing was asked for, or came, for so long, and nothing is awaited."""
        return time.monotonic() - self._last > seconds and not self.any_left()

    def _is_poll(self, request: Request) -> bool:
        form = request.post_data_buffer or b""
        if len(form) > _LONGEST_FORM:
            return False
        what = _STAMP.sub("", f"{request.url} {form.decode('latin-1')}")
        self._asked[what] += 1
        return self._asked[what] > _OFTEN
