"""The functions of page.js, and of what they stand on, as they are called in a page and in its frames."""

from importlib.resources import files
from typing import Any

from playwright.sync_api import Error, Frame, JSHandle, Page, TimeoutError as Late

from pickcrate.browser.visited import BUSY
from pickcrate.text import typed

_LONGEST_CALL = 15.0
"""Seconds that a page may keep us waiting for an answer of its own."""

MOST_FRAMES = 400
"""Frames of a page that anything is done in."""

_PARTS = ("ground", "drawing", "seen", "pressing", "taking", "page")
"""the scripts that make up the one function which is called, in the order in which they build on each other"""

_TEXTS = [(files("pickcrate.browser") / f"{part}.js").read_text(encoding="utf-8") for part in _PARTS]
PAGE = "\n".join(("async ([name, argument]) => {", typed.script(), *_TEXTS, "}"))


class Functions:
    """What is done in one page; a frame that does not answer once is not asked again."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._stuck: set[Frame] = set()

    def do(self, name: str, argument: Any = None, frame: Frame | None = None) -> Any:
        """Call a function of the page, or of a frame in it; None where that is busy or has gone elsewhere."""
        try:
            return self.result(frame or self._page.main_frame, name, argument).json_value()
        except Error:
            return None

    def result(self, frame: Frame, name: str, argument: Any = None) -> JSHandle:
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
