"""A browser that runs: started for this run with a profile of its own, with one that is kept, or open already."""

import asyncio
import logging
import os
import re
from collections.abc import Callable
from importlib.resources import files
from typing import Any
from weakref import WeakSet

import platformdirs
from playwright.sync_api import BrowserContext, Error, Page, Playwright, Route, WebSocketRoute, sync_playwright

from pickcrate.addresses.url import origin
from pickcrate.browser.bounded import LONGEST_GOODBYE, for_no_longer_than
from pickcrate.browser.browsing import Browsing
from pickcrate.browser.guard import Guard
from pickcrate.browser.installed import browser_program
from pickcrate.errors import PickCrateError, UsageError
from pickcrate.fetch.cookies import from_file
from pickcrate.fetch.exchange import USER_AGENT, Manners
from pickcrate.fetch.private import names_private
from pickcrate.fetch.proxy import proxy_for

# What answers too late, or no more, is logged with a traceback, which goes to the terminal where nobody takes it.
for _logger in ("playwright", "asyncio"):
    logging.getLogger(_logger).addHandler(logging.NullHandler())

WIDTH, HEIGHT = 1280, 800
"""Pixels of the window, as a page lays itself out."""

SCALE = 3
"""Pixels of the screen for one of the page: the largest of what a page has for screens is what it loads."""

_LONGEST_START = 60.0
"""Seconds that a browser may take to start."""

_SWITCHES = (
    "--no-first-run",
    "--no-default-browser-check",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-quic",
    "--disable-notifications",
    "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
    "--mute-audio",
)
_GIVEN_UP: "WeakSet[asyncio.AbstractEventLoop]" = WeakSet()
"""event loops of browsers that did not end in time: whatever is left of one may count it as running again"""

_BEFORE = (files("pickcrate.browser") / "before.js").read_text(encoding="utf-8")
_PROFILE_NAME = re.compile(r"[\w][\w. -]{0,80}")
_IN_USE = re.compile(r"exitCode=21|ProcessSingleton|profile .{0,40}in use|SingletonLock", re.IGNORECASE)
_NO_DISPLAY = re.compile(r"Missing X server|\$DISPLAY|ozone_platform_x11", re.IGNORECASE)


class Running:
    """The browser of one run, started when the first page is visited."""

    def __init__(self, browsing: Browsing, manners: Manners) -> None:
        self.browsing = browsing
        self.manners = manners
        self.typed_origins: set[str] = set()
        """where the user's own header fields go"""
        self.guard: Guard | None = None
        """None where a proxy or a browser that is open already looks names up"""
        self.refuses_private = True
        own = dict(field.split(":", 1) for field in manners.fields)
        self._fields = {name.strip().lower(): value.strip() for name, value in own.items()}
        self.has_started = False
        """whether there was a browser before"""
        self._context: BrowserContext | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        self._ours: list[Callable[[], Any]] = []
        """what ends what we started, the last first"""

    @property
    def is_attached(self) -> bool:
        """Whether it is a browser that was open already."""
        return bool(self.browsing.at)

    @property
    def context(self) -> BrowserContext:
        """The windows of the run, with their cookies. Raises a PickCrateError if the browser cannot be had."""
        if self._context is None:
            self._context = self._start()
            self.has_started = True
        return self._context

    def allow_private(self, *, allowed: bool) -> None:
        """Let private addresses be reached from now on, or no more."""
        self.refuses_private = not allowed
        if self.guard is not None:
            self.guard.allow_private(allowed=allowed)

    def new_page(self) -> Page:
        """Open a window; of another browser, if this one is gone: it crashed, or somebody closed it.

        Raises a PickCrateError if no browser can be had.
        """
        try:
            return self._new_page()
        except Error:
            self.close()
        try:
            return self._new_page()
        except Error as error:
            raise self._not_started(str(error)) from error

    def _new_page(self) -> Page:
        page = self.context.new_page()
        page.set_default_timeout(self.manners.timeout * 1000)
        page.set_viewport_size({"width": WIDTH, "height": HEIGHT})
        page.add_init_script(_BEFORE)
        if self.is_attached:
            session = self.context.new_cdp_session(page)
            metrics = {"width": WIDTH, "height": HEIGHT, "deviceScaleFactor": SCALE, "mobile": False}
            session.send("Emulation.setDeviceMetricsOverride", metrics)
            session.send("Page.setDownloadBehavior", {"behavior": "deny"})
        if self.guard is None or self._fields:
            page.route("**/*", self._pass_on)
        if self.guard is None:
            page.route_web_socket(re.compile(""), self._pass_on_socket)
        return page

    def close(self) -> None:
        """End what we started, and leave what was open before as it was."""
        while self._ours:
            try:
                with for_no_longer_than(LONGEST_GOODBYE):
                    self._ours.pop()()
            except Exception:  # noqa: BLE001 (it may be gone already, with Ctrl-C as well)
                self._give_up_loop()
        self._context = None

    def _give_up_loop(self) -> None:
        """Let another loop run in this thread: what was cut off still counts as running, and no browser could start."""
        if self._loop is not None:
            _GIVEN_UP.add(self._loop)
        asyncio._set_running_loop(None)  # noqa: SLF001 (which is there for who runs a loop)

    def _start(self) -> BrowserContext:
        if asyncio._get_running_loop() in _GIVEN_UP:  # noqa: SLF001 (as above)
            asyncio._set_running_loop(None)  # noqa: SLF001
        try:
            playwright = sync_playwright().start()
            self._loop = asyncio.get_running_loop()  # the browser's own, from now on
            self._ours.append(playwright.stop)
            context = self._attached(playwright) if self.is_attached else self._launched(playwright)
        except Error as error:
            raise self._not_started(str(error)) from error
        if not self.is_attached:
            context.clear_permissions()
        return context

    def _attached(self, playwright: Playwright) -> BrowserContext:
        browser = playwright.chromium.connect_over_cdp(self.browsing.at, timeout=self.manners.timeout * 1000)
        self._ours.append(browser.close)  # which only lets go of it
        return browser.contexts[0] if browser.contexts else browser.new_context()

    def _launched(self, playwright: Playwright) -> BrowserContext:
        program = browser_program(self.browsing.path)
        how: dict[str, Any] = {
            "executable_path": program,
            "headless": not self.browsing.is_shown,
            "args": list(_SWITCHES),
            "chromium_sandbox": os.name == "nt" or os.geteuid() != 0,
            "proxy": self._proxy(),
            "handle_sigint": False,
            "timeout": _LONGEST_START * 1000,
        }
        window: dict[str, Any] = {
            "viewport": {"width": WIDTH, "height": HEIGHT},
            "device_scale_factor": SCALE,
            "accept_downloads": False,
            "service_workers": "block",
        }
        if self.browsing.profile:
            context = playwright.chromium.launch_persistent_context(_profile(self.browsing.profile), **how, **window)
            self._ours.append(context.close)
            own = str(context.pages[0].evaluate("navigator.userAgent")) if context.pages else ""
            context.set_extra_http_headers({"User-Agent": self._agent(own)})
            context.add_cookies(from_file(self.manners.cookies))  # type: ignore[arg-type]
            return context
        browser = playwright.chromium.launch(**how)
        self._ours.append(browser.close)
        own = str(browser.new_browser_cdp_session().send("Browser.getVersion")["userAgent"])  # no window is needed
        context = browser.new_context(**window, user_agent=self._agent(own))
        context.add_cookies(from_file(self.manners.cookies))  # type: ignore[arg-type]
        return context

    def _agent(self, own: str) -> str:
        """Return what to call ourselves: what the user typed, or what the browser is, with our name behind it."""
        return self.manners.user_agent if self.manners.user_agent != USER_AGENT else f"{own} {USER_AGENT}".strip()

    def _proxy(self) -> Any:
        """Return the proxy that the browser goes through: the user's, or the guard, which it starts."""
        chosen = proxy_for("https://galewick.example/", self.manners.proxy)
        if not chosen:
            self.guard = Guard(self.manners.timeout)
            self.guard.start()
            self._ours.append(self.guard.close)
            return {"server": f"socks5://127.0.0.1:{self.guard.port}", "bypass": "<-loopback>"}
        scheme, _, rest = chosen.rpartition("://")
        userinfo, _, host = rest.rpartition("@")
        name, _, password = userinfo.partition(":")
        proxy = {"server": f"{scheme or 'http'}://{host}", "bypass": os.environ.get("no_proxy", "")}
        return proxy | ({"username": name, "password": password} if name else {})

    def _is_refused(self, url: str) -> bool:
        return self.refuses_private and names_private(url)

    def _pass_on(self, route: Route) -> None:
        """Hold a request by its address, where no guard does; give it the user's own header fields."""
        url = route.request.url
        if self.guard is None and self._is_refused(url):
            route.abort("blockedbyclient")
        elif self._fields and origin(url) in self.typed_origins:
            route.continue_(headers={**route.request.headers, **self._fields})
        else:
            route.continue_()

    def _pass_on_socket(self, socket: WebSocketRoute) -> None:
        if self._is_refused(socket.url.replace("ws", "http", 1)):
            socket.close()
        else:
            socket.connect_to_server()

    def _not_started(self, words: str) -> PickCrateError:
        """Return the error of a browser that does not start, or that cannot be reached."""
        if self.is_attached:
            hint = "start it with --remote-debugging-port=9222 and a --user-data-dir of its own, and give that address"
            return UsageError(f"--browser-at {self.browsing.at}: no browser answers there", hint=hint)
        if self.browsing.profile and _IN_USE.search(words):
            hint = "close the browser window that uses it, or wait for the other run"
            return UsageError(f"--profile {self.browsing.profile}: in use", hint=hint)
        if self.browsing.is_shown and _NO_DISPLAY.search(words):
            return UsageError("--show-browser: there is no screen to show it on", hint="leave it out, or set DISPLAY")
        if "Socket path too long" in words:
            hint = "set TMPDIR to a folder with a shorter path"
            return PickCrateError("the browser does not start: the path of the temporary folder is too long", hint=hint)
        if "asyncio loop" in words:
            hint = "call it from a thread of its own, or from the command line"
            return PickCrateError(
                "a browser cannot be driven from inside an event loop (a notebook has one)", hint=hint
            )
        if "Timeout" in words:
            hint = "try again when this machine has less to do; it may be no browser: say which with --browser-path"
            return PickCrateError(f"the browser does not start: no answer in {_LONGEST_START:.0f} seconds", hint=hint)
        said = next((line.strip() for line in words.splitlines() if line.strip()), "")
        hint = "it may be too old, or no browser: say which with --browser-path"
        return PickCrateError(f"the browser does not start: {said[:200]}", hint=hint)


def _profile(name: str) -> str:
    """Return the folder of a profile that is kept."""
    if not _PROFILE_NAME.fullmatch(name):
        raise UsageError(f"--profile {name!r} is no name", hint="letters, digits, spaces, dots and dashes")
    path = platformdirs.user_data_path("pickcrate", appauthor=False) / "profiles" / name
    path.mkdir(parents=True, exist_ok=True, mode=0o700)
    return str(path)
