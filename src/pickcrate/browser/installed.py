"""The browser that is installed: Chromium, Chrome or Edge. None is downloaded."""

import shutil
import sys

from pickcrate.errors import UsageError
from pickcrate.tilde import without_tilde

_COMMANDS = (
    "chromium",
    "chromium-browser",
    "google-chrome",
    "google-chrome-stable",
    "microsoft-edge",
    "microsoft-edge-stable",
)
_PLACES = {
    "darwin": (
        "/Applications/Google Chrome.app/Contents/MacOS/Google Chrome",
        "/Applications/Chromium.app/Contents/MacOS/Chromium",
        "/Applications/Microsoft Edge.app/Contents/MacOS/Microsoft Edge",
    ),
    "win32": (
        "C:/Program Files/Google/Chrome/Application/chrome.exe",
        "C:/Program Files (x86)/Google/Chrome/Application/chrome.exe",
        "C:/Program Files/Microsoft/Edge/Application/msedge.exe",
        "C:/Program Files (x86)/Microsoft/Edge/Application/msedge.exe",
    ),
}
_ADVICE = {
    "darwin": "install Chrome, Edge or Chromium in Applications",
    "win32": "install Chrome, or repair Edge in Settings > Apps",
}
_ADVICE_ELSEWHERE = "install one (Debian, Ubuntu: apt install chromium; Fedora: dnf install chromium)"


def browser_program(chosen: str) -> str:
    """Return the path of the browser's program: ``chosen``, or the first that is found.

    Raises UsageError if there is none, with what to install.
    """
    if chosen:
        named = without_tilde(chosen)
        found = shutil.which(str(named)) or shutil.which(str(named.absolute()))
        if found is None:
            raise UsageError(f"--browser-path {chosen}: no such program", hint="give the path of the browser's program")
        return found
    for name in (*_COMMANDS, *_PLACES.get(sys.platform, ())):
        if (path := shutil.which(name)) is not None:
            return path
    advice = _ADVICE.get(sys.platform, _ADVICE_ELSEWHERE)
    raise UsageError("no Chromium, Chrome or Edge found", hint=f"{advice}, or say where it is with --browser-path")
