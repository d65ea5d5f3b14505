"""What is done on a page that is open: it is scrolled through, and its buttons are pressed."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from itertools import chain

from msgspec import Struct
from playwright.sync_api import ElementHandle, Error, Frame, Page, Request, Route

from pickcrate.addresses.url import without_fragment
from pickcrate.browser.answers import Answers
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.functions import MOST_FRAMES, Functions
from pickcrate.browser.quiet import Quiet
from pickcrate.browser.running import HEIGHT, WIDTH
from pickcrate.fullsize.markup import OPENED
from pickcrate.items.pager.pager import says_more, says_next
from pickcrate.read.reading import Turned
from pickcrate.values.findings import button_for_more

_MOST_PRESSES = 50
_MOST_IN_VAIN = 2
"""Presses in a row that bring no more than was there before: what unfolds a part of the page folds it up again."""

_STEPS_INSIDE = 2
"""Steps within a page, through what scrolls there and through frames, for each screen that it may be scrolled"""

_LONGEST_CLICK = 1.5
"""Seconds that something to press may take until it can be pressed"""

_MOST_FRAMES_SEEN, _LEAST_SIDE = 10, 150
"""Frames in a page that are scrolled through, and pixels of the shorter side of one that shows something."""

_PAUSE, _MOST_PAUSES = 0.1, 4
"""Seconds after which a page has begun to do what a screen or a button makes it do; and how often it may take that."""

_AFTER_WHEEL = 0.3
"""Seconds that a page may take to put another screen in the place of one"""

_SECOND = 2
"""the number of the page after the first"""

_DRAINED_AT = 40
"""Answers whose bytes are still in the browser."""


class Wanted(Struct, frozen=True):
    """What is to be pressed, by its words or a selector; or by all of its words, beside the numbers of pages."""

    said: str
    is_of_pager: bool = False

    def for_page(self) -> dict[str, object]:
        """Return it as the functions of a page take it."""
        return {"said": self.said, "isOfPager": self.is_of_pager}


class Steps:
    """The steps on one page, as far as the user lets it be gone through."""

    def __init__(
        self,
        page: Page,
        browsing: Browsing,
        functions: Functions,
        quiet: Quiet,
        answers: Answers,
        tell: Callable[[str], None],
    ) -> None:
        """Go through ``page``; what a person should know of it is told to ``tell``."""
        self._page = page
        self._browsing = browsing
        self._functions = functions
        self._quiet = quiet
        self._answers = answers
        self._tell = tell
        self._inside = _STEPS_INSIDE * browsing.scroll
        self._elsewhere = ""
        """where the page would have gone as something was pressed"""
        self._has_reloaded = False
        self._has_changed = False
        self._brought = 0
        """how often the page had more elements or other pictures after something was pressed"""

    def scroll_all(self) -> None:
        """Scroll through the page, and through the frames in it that have something out of sight."""
        self._scroll()
        for frame in self._worth_seeing()[1:]:
            if self._functions.do("isLonger", frame=frame):
                self._scroll_frame(frame)

    def _worth_seeing(self) -> list[Frame]:
        """Return the page's own frame, and those in it that are large enough to show something."""
        found = [self._page.main_frame]
        for frame in self._page.frames[:MOST_FRAMES]:
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
        self._functions.do("toTop")
        for _ in range(self._browsing.scroll):
            self._scroll_inside(main)
            went = self._functions.do("scroll", _PAUSE * 1000)
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
        while self._inside > 0:
            self._inside -= 1
            self._scroll_inside(frame)
            went = self._functions.do("scroll", _PAUSE * 1000, frame)
            self._catch_up()
            if went is None or (went["isAtEnd"] and not self._has_grown(frame, went["height"])):
                return

    def _turn_wheel(self) -> None:
        """Turn the wheel while it brings something: a page of one screen may put the next in its place by itself."""
        self._page.mouse.move(WIDTH / 2, HEIGHT / 2)
        for _ in range(self._browsing.scroll):
            before = self._functions.do("measure")
            self._page.mouse.wheel(0, HEIGHT)
            self._page.wait_for_timeout(_AFTER_WHEEL * 1000)
            self._catch_up()
            if before is None or self._functions.do("measure") == before:
                return

    def _scroll_inside(self, frame: Frame) -> None:
        """Scroll through strips of pictures, and lists in boxes, that are in sight; as far as is left of all steps."""
        while self._inside > 0 and self._functions.do("scrollInside", _PAUSE * 1000, frame):
            self._inside -= 1
            self._catch_up()

    def _catch_up(self) -> None:
        """Wait for what a screen has made the page ask for, and take it before the browser lets go of it."""
        self._quiet.after_step()
        self._answers.drain(at_least=_DRAINED_AT)

    def _has_grown(self, frame: Frame, height: int) -> bool:
        """Tell whether a page that seemed to be at its end is longer by now, or is a little later."""
        for _ in range(_MOST_PAUSES):
            self._quiet.when_done(frame)
            now = self._functions.do("height", _PAUSE * 1000, frame)
            if now is None or now > height:
                return now is not None
        return False

    def offer(self) -> None:
        """Say what may be pressed for more of a list, where nothing was to be pressed."""
        wanted = self._onward()
        if wanted is not None:
            self._tell(button_for_more(wanted.said, is_visited=True).detail)

    def _labels(self) -> list[tuple[str, bool]]:
        """Return what those say that may be pressed, and whether each is beside the numbers of pages."""
        return [(label, is_of_pager) for label, is_of_pager in self._functions.do("labels") or ()]

    def go_on(self, most: int) -> Turned:
        """Press what brings the next page of a list while it does, ``most`` times; return what came of it."""
        self._brought = 0
        if (wanted := self._onward()) is not None:
            # What takes the place of what was shown is all to be scrolled through again.
            self._press_in(self._page.main_frame, wanted, most, self._scroll if wanted.is_of_pager else None)
            return Turned(self._brought, self._brought == most and self._onward() is not None)
        while self._brought < most:
            before = self._brought
            following = Wanted(str(before + _SECOND), is_of_pager=True)
            self._press_in(self._page.main_frame, following, 1, self._scroll)
            if self._brought == before:
                break
        return Turned(self._brought, self._brought == most and self._has_number(most + _SECOND))

    def _has_number(self, number: int) -> bool:
        return any(is_of_pager and label == str(number) for label, is_of_pager in self._labels())

    def _onward(self) -> Wanted | None:
        """Return what leads on in a list: what brings more of it, or the next page among the numbers of pages."""
        labels = self._labels()
        more = (Wanted(label) for label, _ in labels if says_more(label))
        following = (Wanted(label, is_of_pager=True) for label, is_one in labels if is_one and says_next(label))
        return next(chain(more, following), None)

    def press(self, wanted: str) -> None:
        """Press a button while it is there and brings something new; in a frame, if the page itself has none."""
        self._elsewhere, self._has_reloaded, self._has_changed = "", False, False
        tries = (self._press_in(frame, Wanted(wanted), _MOST_PRESSES) for frame in self._worth_seeing())
        pressed = next(filter(None, tries), 0)
        if not pressed:
            said = "nothing to press that says so, or that may be pressed"
            self._tell(f"--press {wanted!r}: {said}")
        elif pressed == _MOST_PRESSES:
            self._tell(f"--press {wanted!r}: pressed {pressed} times, and no more")
        elif self._elsewhere:
            leads = f"leads to {self._elsewhere}: the page is not left for that, look at it as well"
            self._tell(f"--press {wanted!r} {leads}")
        elif not self._has_changed:
            self._tell(f"--press {wanted!r}: pressed, and nothing came of it")

    def _press_in(self, frame: Frame, wanted: Wanted, limit: int, look: Callable[[], None] | None = None) -> int:
        """Press a button of one frame while it brings something new; return how often it was pressed.

        Of what a selector selects, each in turn. ``look`` is called each time: waiting may not show all that came.
        """
        pressed = in_vain = 0
        most: list[int] = []
        with self._staying(frame):
            while pressed < limit and in_vain < _MOST_IN_VAIN:
                before = self._functions.do("measure", frame=frame)
                handle = self._functions.result(frame, "button", wanted.for_page()).as_element()
                if handle is None or before is None:
                    break
                is_free = self._click(frame, handle)
                self._page.wait_for_timeout(100)
                self._quiet.when_done(frame)
                self._answers.drain()
                self._functions.do("opened", OPENED, frame)
                pressed += 1
                if look is not None:
                    look()
                now = self._functions.do("measure", frame=frame)
                self._has_changed |= now != before
                self._brought += now is not None and (now[0] > before[0] or now[2:] != before[2:])
                if self._functions.do("isLeft", wanted.said, frame):
                    continue
                if now is None or now == before:
                    break
                most = most or before
                more = [new > known for new, known in zip(now, most, strict=True)]
                # What opens above the page is none of its list, however often it is opened.
                in_vain = 0 if any(more[1:]) or (more[0] and is_free) else in_vain + 1
                most = list(map(max, now, most))
        return pressed

    def _click(self, frame: Frame, handle: ElementHandle) -> bool:
        """Press something as a person would; if something lies above it, as a script would, and return False."""
        if self._functions.do("choose", frame=frame):
            return True
        try:
            handle.click(timeout=_LONGEST_CLICK * 1000)
        except Error:  # or it has gone, or the page was too busy to say that it was pressed
            return self._functions.do("press", frame=frame) is False
        return True

    def _loads_anew(self, request: Request) -> bool:
        """Tell whether the page is loaded again, as one is that asks for a visitor's age first; not a second time."""
        is_same = without_fragment(request.url) == without_fragment(self._page.url)
        return is_same and request.method == "GET" and not self._has_reloaded

    @contextmanager
    def _staying(self, frame: Frame) -> Iterator[None]:
        """Let the page, and a frame in it, go nowhere else for a while, whatever is pressed; once it may load anew."""

        def stay(route: Route) -> None:
            request = route.request
            if not request.is_navigation_request() or request.frame not in {self._page.main_frame, frame}:
                route.fallback()
            elif self._loads_anew(request):
                self._has_reloaded = True
                route.fallback()
            else:
                self._elsewhere = self._elsewhere or request.url
                route.abort("aborted")

        self._page.route("**/*", stay)
        try:
            yield
        finally:
            with suppress(Error):
                self._page.unroute("**/*", stay)
