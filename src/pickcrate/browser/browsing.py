"""How pages are visited in a browser: the part of an order that is about it."""

from msgspec import Struct

SCREENS = 20
"""Screens that are scrolled through, where nobody says how many."""


class Browsing(Struct, frozen=True):
    """Whether pages are visited in a browser, in which one, and what is done there. Times are seconds."""

    wanted: bool = False
    scroll: int = SCREENS
    """screens, at most"""
    presses: tuple[str, ...] = ()
    """what buttons say, or CSS selectors of them"""
    further: int = 0
    """further pages of a list, at most, that are brought by pressing what leads on, where nothing else is pressed"""
    wait: float = 0.0
    """after the page came"""
    wait_for: str = ""
    """a CSS selector of what must be there"""
    shot: str = ""
    """a file for what the page looked like (PNG)"""
    is_shown: bool = False
    """whether its window is shown, for the user to do something in it first"""
    profile: str = ""
    """the name of a profile that is kept; without one it is a new one each time"""
    at: str = ""
    """the debugging address of a browser that is open already"""
    path: str = ""
    """the browser's own program"""

    @property
    def is_on(self) -> bool:
        """Whether pages are visited in a browser at all."""
        return self.wanted or bool(self.at)
