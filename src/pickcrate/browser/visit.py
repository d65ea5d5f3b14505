"""One visit to a page: it is opened, waited for, scrolled, its buttons are pressed; then it is taken as it is."""

from collections.abc import Callable
from contextlib import suppress

from playwright.sync_api import Error, Frame, Page, Response

from pickcrate.browser.answers import Answers
from pickcrate.browser.bounded import LONGEST_GOODBYE, for_no_longer_than
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.functions import MOST_FRAMES, Functions
from pickcrate.browser.quiet import Quiet
from pickcrate.browser.steps import Steps
from pickcrate.browser.visited import A_FILE, UNFINISHED, FramePage, Visited, as_it_came, failure_of
from pickcrate.fetch.failures import of_status
from pickcrate.fetch.spool import Spool
from pickcrate.media import essence
from pickcrate.read.fields.contenttype import PAGE_TYPES
from pickcrate.values.cause import Cause
from pickcrate.values.flaw import Flaw

_REDIRECTS = range(300, 400)


class Visit:
    """A page in the browser, from its opening to its closing."""

    def __init__(
        self,
        page: Page,
        browsing: Browsing,
        spool: Spool,
        most: int,
        landed: Callable[[str], None],
        *,
        keeps: bool = False,
    ) -> None:
        """Visit with ``page``; ``landed`` is told where the visit ends up, before anything of that is read."""
        self._page = page
        self._landed = landed
        self._browsing = browsing
        self._keeps = keeps
        self._status = 0
        self.visited = Visited()
        self._functions = Functions(page)
        self._quiet = Quiet(page, self._functions)
        self._answers = Answers(page, self._functions, self.visited, spool, most, keeps=keeps)
        self._steps = Steps(page, browsing, self._functions, self._quiet, self._answers, self._tell)
        page.on("response", self._answered)
        page.on("dialog", lambda dialog: dialog.dismiss())
        page.on("popup", lambda popup: popup.close())

    def _answered(self, response: Response) -> None:
        if response.request.is_navigation_request() and response.frame == self._page.main_frame:
            self._status = 0 if response.status in _REDIRECTS else response.status
            if self._status:
                self._landed(response.url)
                self.visited.fields = {name.lower(): value for name, value in response.headers.items()}

    def open(self, url: str, referer: str, timeout: float) -> bool:
        """Go to an address; return whether a page came. If not, ``visited`` has the failure."""
        try:
            response = self._page.goto(
                url, referer=referer or None, wait_until="domcontentloaded", timeout=timeout * 1000
            )
        except Error as error:  # of an answer without a body as well: what it said is known all the same
            failed = of_status(self._status or 200) or failure_of(str(error))
            if failed.cause is Cause.TIMEOUT and self._status:
                failed = UNFINISHED
                self.visited.flaws.append(as_it_came(failed))
            self.visited.failure = failed
            return False
        if response is None:
            self.visited.failure = A_FILE
            return False
        self.visited.url = self._page.url
        media_type = essence(self.visited.fields.get("content-type", ""))
        if (failure := of_status(response.status)) is not None:
            self.visited.failure = failure
        elif media_type not in PAGE_TYPES:
            self.visited.failure = A_FILE
        return self.visited.failure is None

    def see(self) -> None:
        """Wait until the page is quiet, scroll through it, and press what is to be pressed."""
        self._quiet.after_load()
        self._answers.drain()
        self._wait_for()
        self._page.wait_for_timeout(self._browsing.wait * 1000)
        self._functions.do("hideOverlays")
        self._steps.scroll_all()
        if self._browsing.presses:
            for wanted in self._browsing.presses:
                self._steps.press(wanted)
            self._steps.scroll_all()
        elif self._browsing.further:
            self.visited.turned = self._steps.go_on(self._browsing.further)
            if self.visited.turned.pages:
                self._steps.scroll_all()
        else:
            self._steps.offer()
        self._answers.drain()

    def take(self) -> None:
        """Take what the page is now, with its frames, and what was loaded."""
        visited = self.visited
        frames = [frame for frame in self._page.frames if frame != self._page.main_frame][:MOST_FRAMES]
        for frame in reversed(frames):  # inner ones first: those without an address go into the page around them
            with suppress(Error):  # a frame may go at any time
                self._take_frame(frame)
        visited.url = self._page.url
        visited.markup = str(self._functions.result(self._page.main_frame, "document", self._keeps).json_value())
        if left_out := self._functions.do("undrawn"):
            self._tell(f"{left_out} of the drawings that it has shown are left out: they are too large together")
        if self._keeps:
            self._quiet.after_step()
            session = self._page.context.new_cdp_session(self._page)
            visited.in_one = str(session.send("Page.captureSnapshot", {"format": "mhtml"})["data"])
        if self._browsing.shot:
            self._shoot()
        self._answers.drain()
        for frame in (self._page.main_frame, *frames):
            self._answers.learn(frame)
        visited.unread = self._answers.unread

    def _tell(self, words: str) -> None:
        """Say what a person should know of the visit, once."""
        flaw = Flaw("browser", words)
        if flaw not in self.visited.flaws:
            self.visited.flaws.append(flaw)

    def _shoot(self) -> None:
        """Take a picture of the whole page, or of what is in sight where it is too long for one."""
        for is_whole in (True, False):
            try:
                self.visited.shot = self._page.screenshot(full_page=is_whole, scale="css", animations="disabled")
            except Error:
                continue
            return
        self._tell(f"--shot {self._browsing.shot}: the browser could not draw the page")

    def close(self) -> bool:
        """Close the page's window; return whether the browser did so in time."""
        try:
            with suppress(Error), for_no_longer_than(LONGEST_GOODBYE):  # an error: it is gone already
                self._page.close()
        except TimeoutError:
            return False
        return True

    def _take_frame(self, frame: Frame) -> None:
        element = frame.frame_element()
        markup = str(self._functions.result(frame, "document").json_value())
        asked = str(element.evaluate("element => element.src || ''"))
        if frame.url.startswith(("http:", "https:")):
            self.visited.frames.append(FramePage(asked or frame.url, frame.url, markup))
        else:
            element.evaluate("(element, markup) => element.setAttribute('srcdoc', markup)", markup)

    def _wait_for(self) -> None:
        if not self._browsing.wait_for:
            return
        try:
            self._page.wait_for_selector(self._browsing.wait_for, state="attached")
        except Error as error:
            words = "did not come" if "Timeout" in str(error) else "is no CSS selector"
            self._tell(f"--wait-for {self._browsing.wait_for!r} {words}")
