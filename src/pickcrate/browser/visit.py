"""One visit to a page: it is opened, waited for, scrolled, its buttons are pressed; then it is taken as it is."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from importlib.resources import files
from typing import Any

from msgspec.structs import replace
from playwright.sync_api import (
    ElementHandle,
    Error,
    Frame,
    JSHandle,
    Page,
    Request,
    Response,
    Route,
    TimeoutError as Late,
)

from pickcrate.browser.bounded import LONGEST_GOODBYE, for_no_longer_than
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.pending import Pending
from pickcrate.browser.running import HEIGHT, WIDTH
from pickcrate.browser.visited import A_FILE, BUSY, UNFINISHED, Answer, FramePage, Visited, as_it_came, failure_of
from pickcrate.fetch.failures import of_status
from pickcrate.fetch.spool import Spool
from pickcrate.fullsize.markup import OPENED
from pickcrate.items.pager import says_more
from pickcrate.media import essence
from pickcrate.media.header import is_image
from pickcrate.read.contenttype import PAGE_TYPES
from pickcrate.values import Flaw

_SETTLED = 0.5
"""Seconds without a request, after which a page counts as quiet."""

_LONGEST_LOAD, _LONGEST_STEP = 10.0, 4.0
"""Seconds that a page may take to be quiet: when it was opened, and after a screen or a button."""

_STEP_SETTLED = 0.15
_LONGEST_CALL = 15.0
"""Seconds that a page may keep us waiting for an answer of its own."""

_MOST_PRESSES = 50
_MOST_IN_VAIN = 2
"""Presses in a row that bring no more than was there before: what unfolds a part of the page folds it up again."""

_STEPS_INSIDE = 2
"""Steps within a page, through what scrolls there and through frames, for each screen that it may be scrolled"""

_LONGEST_CLICK = 1.5
"""Seconds that something to press may take until it can be pressed"""

_MOST_ANSWERS = 10_000
_MOST_FRAMES = 400
_MOST_FRAMES_SEEN, _LEAST_SIDE = 10, 150
"""Frames in a page that are scrolled through, and pixels of the shorter side of one that shows something."""

_PAUSE, _MOST_PAUSES = 0.1, 4
"""Seconds after which a page has begun to do what a screen or a button makes it do; and how often it may take that."""

_A_MOMENT = 20
"""milliseconds"""

_LONGEST_PUT_OFF = 1.5
"""Seconds that are waited for what a script has put off, as until something has faded"""

_AFTER_WHEEL = 0.3
"""Seconds that a page may take to put another screen in the place of one"""

_DRAINED_AT = 40
"""Answers whose bytes are still in the browser."""

_STREAM = "text/event-stream"
"""of answers that go on for as long as the page is there (HTML standard, server-sent events)"""

_NOT_KEPT = frozenset(("media", "font", "script", "websocket", "eventsource", "ping"))
_MAY_BE_PICTURES = frozenset(("image", "other", "fetch", "xhr"))
PAGE = (files("pickcrate.browser") / "page.js").read_text(encoding="utf-8")
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
        self._spool = spool
        self._most = most
        self._keeps = keeps
        self._pending = Pending(_LONGEST_LOAD)
        self._finished: list[Request] = []
        self._unread: dict[str, str] = {}
        """the stated lengths of answers whose bytes the browser does not have, by their addresses"""
        self._status = 0
        self._stuck: set[Frame] = set()
        """those that do not answer"""
        self._steps_inside = _STEPS_INSIDE * browsing.scroll
        self.visited = Visited()
        page.on("request", self._pending.begin)
        page.on("response", self._answered)
        page.on("requestfinished", self._came)
        page.on("requestfailed", self._pending.end)
        page.on("dialog", lambda dialog: dialog.dismiss())
        page.on("popup", lambda popup: popup.close())

    def _answered(self, response: Response) -> None:
        if essence(response.headers.get("content-type", "")) == _STREAM:
            self._pending.end(response.request)
        if response.request.is_navigation_request() and response.frame == self._page.main_frame:
            self._status = 0 if response.status in _REDIRECTS else response.status
            if self._status:
                self._landed(response.url)
                self.visited.fields = {name.lower(): value for name, value in response.headers.items()}

    def _came(self, request: Request) -> None:
        self._pending.end(request)
        if self._keeps or request.resource_type not in _NOT_KEPT:
            self._finished.append(request)

    def open(self, url: str, referer: str, timeout: float) -> bool:
        """Go to an address; return whether a page came. If not, ``visited`` has the failure."""
        try:
            response = self._page.goto(
                url, referer=referer or None, wait_until="domcontentloaded", timeout=timeout * 1000
            )
        except Error as error:  # of an answer without a body as well: what it said is known all the same
            failed = of_status(self._status or 200) or failure_of(str(error))
            if failed.kind == "timeout" and self._status:
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
        self._until_quiet(_LONGEST_LOAD, _SETTLED)
        self._drain()
        self._wait_for()
        self._page.wait_for_timeout(self._browsing.wait * 1000)
        self._do("hideOverlays")
        self._scroll_all()
        if self._browsing.presses:
            for wanted in self._browsing.presses:
                self._press(wanted)
            self._scroll_all()
        else:
            self._offer()
        self._drain()

    def take(self) -> None:
        """Take what the page is now, with its frames, and what was loaded."""
        visited = self.visited
        frames = [frame for frame in self._page.frames if frame != self._page.main_frame][:_MOST_FRAMES]
        for frame in reversed(frames):  # inner ones first: those without an address go into the page around them
            with suppress(Error):  # a frame may go at any time
                self._take_frame(frame)
        visited.url = self._page.url
        visited.markup = str(self._result(self._page.main_frame, "document", self._keeps).json_value())
        if self._keeps:
            self._until_quiet(_LONGEST_STEP, _STEP_SETTLED)
            session = self._page.context.new_cdp_session(self._page)
            visited.in_one = str(session.send("Page.captureSnapshot", {"format": "mhtml"})["data"])
        if self._browsing.shot:
            self._shoot()
        self._drain()
        for frame in (self._page.main_frame, *frames):
            self._learn(frame)

    def _learn(self, frame: Frame) -> None:
        """Take what the page's scripts did with its pictures: what they handed over, and what they replaced."""
        handed = _pairs(self._do("handed", frame=frame))
        known = {answer.asked: answer for answer in self.visited.answers} if handed else {}
        for blob, address in handed:
            answer, length = known.get(blob), self._unread.pop(address, None)
            if answer is not None and length in {"", str(len(answer.body.load()))}:
                self.visited.answers.append(replace(answer, asked=address, url=address))
        self.visited.replaced += _pairs(self._do("replaced", frame=frame))

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

    def close(self) -> None:
        """Close the page's window."""
        with suppress(Error, TimeoutError), for_no_longer_than(LONGEST_GOODBYE):
            self._page.close()

    def _take_frame(self, frame: Frame) -> None:
        element = frame.frame_element()
        markup = str(self._result(frame, "document").json_value())
        asked = str(element.evaluate("element => element.src || ''"))
        if frame.url.startswith(("http:", "https:")):
            self.visited.frames.append(FramePage(asked or frame.url, frame.url, markup))
        else:
            element.evaluate("(element, markup) => element.setAttribute('srcdoc', markup)", markup)

    def _do(self, name: str, argument: Any = None, frame: Frame | None = None) -> Any:
        """Call a function of the page, or of a frame in it; None where that is busy or has gone elsewhere."""
        try:
            return self._result(frame or self._page.main_frame, name, argument).json_value()
        except Error:
            return None

    def _result(self, frame: Frame, name: str, argument: Any = None) -> JSHandle:
        """Return what a function of a page comes to. A page that is busy for ever does not keep us: it is an Error.

        Only a wait has a limit in time; this is one for a function that is done at once.
        """
        if frame in self._stuck:
            raise Error(BUSY.words)
        try:
            result = frame.wait_for_function(PAGE, arg=[name, argument], timeout=_LONGEST_CALL * 1000, polling=100)
        except Late as error:
            self._stuck.add(frame)
            raise Error(BUSY.words) from error
        return result.get_property("value")

    def _until_quiet(self, longest: float, settled: float) -> None:
        """Wait until nothing was asked for and nothing is awaited for a while, and no longer than that."""
        end = time.monotonic() + longest
        self._pending.count_anew()
        while time.monotonic() < end:
            self._page.wait_for_timeout(50)
            if self._pending.is_quiet(settled):
                return

    def _until_done(self, frame: Frame) -> None:
        """Wait until the scripts have done what they put off, if that is soon."""
        due = self._do("due", frame=frame)
        if due:
            self._page.wait_for_timeout(min(float(due), _LONGEST_PUT_OFF * 1000) + _A_MOMENT)

    def _wait_for(self) -> None:
        if not self._browsing.wait_for:
            return
        try:
            self._page.wait_for_selector(self._browsing.wait_for, state="attached")
        except Error as error:
            words = "did not come" if "Timeout" in str(error) else "is no CSS selector"
            self._tell(f"--wait-for {self._browsing.wait_for!r} {words}")

    def _scroll_all(self) -> None:
        """Scroll through the page, and through the frames in it that have something out of sight."""
        self._scroll()
        for frame in self._worth_seeing()[1:]:
            if self._do("isLonger", frame=frame):
                self._scroll_frame(frame)

    def _worth_seeing(self) -> list[Frame]:
        """Return the page's own frame, and those in it that are large enough to show something."""
        found = [self._page.main_frame]
        for frame in self._page.frames[:_MOST_FRAMES]:
            if len(found) > _MOST_FRAMES_SEEN:
                break
            with suppress(Error):  # a frame may go at any time
                box = frame.frame_element().bounding_box() if frame.parent_frame is not None else None
                if box is not None and min(box["width"], box["height"]) >= _LEAST_SIDE:
                    found.append(frame)
        return found

    def _scroll(self) -> None:
        """Scroll a screen at a time, as far as it goes or as was asked for; on each, through what scrolls there."""
        main = self._page.main_frame
        for _ in range(self._browsing.scroll):
            self._scroll_inside(main)
            went = self._do("scroll", _PAUSE * 1000)
            if went is None:
                return
            self._catch_up()
            if went["isAtEnd"] and not self._has_grown(main, went["height"]):
                if went["mayTurn"]:
                    self._turn_wheel()
                return
        if self._browsing.scroll:
            screens = f"{self._browsing.scroll} screen{'' if self._browsing.scroll == 1 else 's'}"
            self._tell(f"scrolled through {screens}, and it goes on: --scroll {2 * self._browsing.scroll} goes further")

    def _scroll_frame(self, frame: Frame) -> None:
        """Scroll through a frame, as far as it goes or as is left of all steps."""
        while self._steps_inside > 0:
            self._steps_inside -= 1
            self._scroll_inside(frame)
            went = self._do("scroll", _PAUSE * 1000, frame)
            self._catch_up()
            if went is None or (went["isAtEnd"] and not self._has_grown(frame, went["height"])):
                return

    def _turn_wheel(self) -> None:
        """Turn the wheel while it brings something: a page of one screen may put the next in its place by itself."""
        self._page.mouse.move(WIDTH / 2, HEIGHT / 2)
        for _ in range(self._browsing.scroll):
            before = self._do("measure")
            self._page.mouse.wheel(0, HEIGHT)
            self._page.wait_for_timeout(_AFTER_WHEEL * 1000)
            self._catch_up()
            if before is None or self._do("measure") == before:
                return

    def _scroll_inside(self, frame: Frame) -> None:
        """Scroll through strips of pictures, and lists in boxes, that are in sight; as far as is left of all steps."""
        while self._steps_inside > 0 and self._do("scrollInside", _PAUSE * 1000, frame):
            self._steps_inside -= 1
            self._catch_up()

    def _catch_up(self) -> None:
        """Wait for what a screen has made the page ask for, and take it before the browser lets go of it."""
        if self._pending.is_any:
            self._until_quiet(_LONGEST_STEP, _STEP_SETTLED)
        if len(self._finished) >= _DRAINED_AT:
            self._drain()

    def _has_grown(self, frame: Frame, height: int) -> bool:
        """Tell whether a page that seemed to be at its end is longer by now, or is a little later."""
        for _ in range(_MOST_PAUSES):
            self._until_done(frame)
            if self._pending.is_any:
                self._until_quiet(_LONGEST_STEP, _STEP_SETTLED)
            now = self._do("height", _PAUSE * 1000, frame)
            if now is None or now > height:
                return now is not None
        return False

    def _offer(self) -> None:
        """Say what may be pressed for more of a list, where nothing was to be pressed."""
        label = next(filter(says_more, self._do("labels") or ()), "")
        if label:
            self._tell(f"a button says “{label}”: --press {label!r} presses it")

    def _press(self, wanted: str) -> None:
        """Press a button while it is there and brings something new; in a frame, if the page itself has none."""
        pressed = next(filter(None, (self._press_in(frame, wanted) for frame in self._worth_seeing())), 0)
        if not pressed:
            said = "nothing to press that says so, or that may be pressed"
            self._tell(f"--press {wanted!r}: {said}")
        elif pressed == _MOST_PRESSES:
            self._tell(f"--press {wanted!r}: pressed {pressed} times, and no more")

    def _press_in(self, frame: Frame, wanted: str) -> int:
        """Press a button of one frame while it brings something new; return how often it was pressed.

        Of what a selector selects, each in turn.
        """
        pressed = in_vain = 0
        most: list[int] = []
        with self._staying(frame):
            while pressed < _MOST_PRESSES and in_vain < _MOST_IN_VAIN:
                before = self._do("measure", frame=frame)
                handle = self._result(frame, "button", wanted).as_element()
                if handle is None or before is None:
                    break
                self._click(frame, handle)
                self._page.wait_for_timeout(100)
                self._until_done(frame)
                self._until_quiet(_LONGEST_STEP, _STEP_SETTLED)
                self._drain()
                self._do("opened", OPENED, frame)
                pressed += 1
                now = self._do("measure", frame=frame)
                if self._do("isLeft", wanted, frame):
                    continue
                if now is None or now == before:
                    break
                most = most or before
                in_vain = 0 if any(new > known for new, known in zip(now, most, strict=True)) else in_vain + 1
                most = list(map(max, now, most))
        return pressed

    def _click(self, frame: Frame, handle: ElementHandle) -> None:
        """Press something as a person would; if something lies above it, as a script would."""
        try:
            handle.click(timeout=_LONGEST_CLICK * 1000)
        except Error:  # or it has gone
            self._do("press", frame=frame)

    @contextmanager
    def _staying(self, frame: Frame) -> Iterator[None]:
        """Let the page, and a frame in it, go nowhere else for a while, whatever is pressed."""

        def stay(route: Route) -> None:
            request = route.request
            if request.is_navigation_request() and request.frame in {self._page.main_frame, frame}:
                route.abort("aborted")
            else:
                route.fallback()

        self._page.route("**/*", stay)
        try:
            yield
        finally:
            with suppress(Error):
                self._page.unroute("**/*", stay)

    def _drain(self) -> None:
        """Take the bytes of what came since the last time: the browser keeps them for a while only."""
        if not self._finished or self._do("ping") is None:  # the bytes are asked of the page's own process
            return
        waiting, self._finished = self._finished, []
        for request in waiting:
            if len(self.visited.answers) >= _MOST_ANSWERS:
                return
            with suppress(Error):  # it has let go of it already: it is fetched like any other
                self._keep(request)

    def _keep(self, request: Request) -> None:
        response = request.response()
        if response is None or response.status != 200 or self._is_too_large(response):
            return
        media_type = essence(response.headers.get("content-type", ""))
        octets = response.body()
        if not octets:  # as of what a script took as a blob
            self._unread[response.url] = response.headers.get("content-length", "")
        if not octets or len(octets) > self._most:
            return
        body = self._spool.put(octets, media_type, response.url)
        if body is None:
            return
        first = request
        while first.redirected_from is not None:
            first = first.redirected_from
        is_picture = request.resource_type in _MAY_BE_PICTURES and is_image(media_type, octets)
        fields = dict(response.headers)
        self.visited.answers.append(Answer(first.url, response.url, media_type, body, fields, is_picture))

    def _is_too_large(self, response: Response) -> bool:
        length = response.headers.get("content-length", "")
        return length.isdecimal() and int(length) > self._most


def _pairs(told: Any) -> list[tuple[str, str]]:
    """Return the pairs of addresses that a page has told: it may tell anything."""
    pairs = [tuple(pair) for pair in told if isinstance(pair, list)] if isinstance(told, list) else []
    return [(pair[0], pair[1]) for pair in pairs if len(pair) == 2 and all(isinstance(said, str) for said in pair)]
