"""Waiting for a page: until it has loaded, and until it has done what a screen or a button makes it do."""

import time

from playwright.sync_api import Frame, Page, Response

from pickcrate.browser.functions import Functions
from pickcrate.browser.pending import Pending
from pickcrate.media import essence

_SETTLED = 0.5
"""Seconds without a request, after which a page counts as quiet."""

_LONGEST = 10.0
"""Seconds that a page may take to be quiet: when it was opened, and after a screen or a button."""

_STEP_SETTLED = 0.15
_A_MOMENT = 20
"""milliseconds"""

_LONGEST_PUT_OFF = 1.5
"""Seconds that are waited for what a script has put off, as until something has faded"""

_STREAM = "text/event-stream"
"""of answers that go on for as long as the page is there (HTML standard, server-sent events)"""


class Quiet:
    """What one page is waited for, and for how long."""

    def __init__(self, page: Page, functions: Functions) -> None:
        self._page = page
        self._functions = functions
        self._pending = Pending(_LONGEST)
        page.on("request", self._pending.begin)
        page.on("response", self._answered)
        page.on("requestfinished", self._pending.end)
        page.on("requestfailed", self._pending.end)

    def after_load(self) -> None:
        """Wait until a page that was opened has loaded what it is made of."""
        self._until_quiet(_SETTLED)

    def after_step(self) -> None:
        """Wait until what a step has made the page ask for is there."""
        if self._pending.any_left():
            self._until_quiet(_STEP_SETTLED)

    def when_done(self, frame: Frame) -> None:
        """Wait until what a step has made the page ask for is there, and scripts have done what they put off."""
        left = _LONGEST_PUT_OFF * 1000
        while True:
            self.after_step()
            due = self._functions.do("due", frame=frame)
            if not due or left <= 0:
                return
            pause = min(float(due), left) + _A_MOMENT
            self._page.wait_for_timeout(pause)
            left -= pause

    def _answered(self, response: Response) -> None:
        if essence(response.headers.get("content-type", "")) == _STREAM:
            self._pending.end(response.request)

    def _until_quiet(self, settled: float) -> None:
        """Wait until nothing was asked for and nothing is awaited for a while, and no longer than _LONGEST."""
        end = time.monotonic() + _LONGEST
        self._pending.count_anew()
        while time.monotonic() < end:
            self._page.wait_for_timeout(50)
            if self._pending.is_quiet(settled):
                return
