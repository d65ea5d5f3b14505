"""``pickcrate demo``: the museum's site, left up to try things on, or walked through command by command."""

import time
from pathlib import Path

import click

from pickcrate.cli import terminal
from pickcrate.cli.shell import command_line
from pickcrate.cli.terminal import Out
from pickcrate.demo.server import DemoSite
from pickcrate.errors import PickCrateError
from pickcrate.orders.settings import CRATES

_TRY = (
    ("look", "{site}/catalogue.html"),
    ("pack", "{site}/catalogue.html", "--crate", "kites"),
    ("sheet", "{site}/catalogue.html", "--open"),
    ("look", "{site}/hall.html"),
    ("why", "{site}/hall.html", "10"),
    ("look", "{site}/regions.html", "--through", "1"),
    ("look", "{site}/reading-room.html", "--through", "2"),
    ("look", "{site}/shop.html"),
    ("look", "{site}/prints.html", "--items", "all", "--next-pages", "9"),
    ("look", "{site}/wall.html", "--browser", "--press", "More prints"),
    ("why", "{site}/do-not-touch.html", "7"),
    ("pack", "{site}/regions.html", "--crate", "regions", "--name", "{n:02} {alt}"),
    (
        "pack",
        "{site}/news/spring-festival.html",
        "--crate",
        "festival",
        "--name",
        "{caption}",
        "--name",
        "{alt}",
    ),
    ("pack", "{site}/storm.html", "--crate", "storm"),
)


def serve(port: int) -> None:
    """Leave the site up until Ctrl-C, and say what to try on it."""
    out = terminal.human()
    with DemoSite(port) as site:
        out.line("The Galewick Kite Museum is at ", (f"{site.address}/", "bold"), "  Try:")
        for line in _TRY:
            out.line((f"  {_line(line, site.address)}", "cyan"))
        out.line(("Ctrl-C takes it down.", "dim"))
        try:
            while True:
                time.sleep(3600)
        except KeyboardInterrupt:
            out.line("Closed.")


def walk(app: click.Command, port: int, into: Path) -> None:
    """Run look, sheet, pack and audit on the catalogue and in the reading room, each as a user would type it."""
    out = terminal.human()
    elsewhere = () if into == CRATES else ("--into", str(into))
    with DemoSite(port) as site:
        page = f"{site.address}/catalogue.html"
        steps: tuple[tuple[str, tuple[str, ...]], ...] = (
            ("What pictures does the catalogue of the Galewick Kite Museum hold?", ("look", page)),
            (
                "Eight of them only dress the page. Look at the others before fetching them, on a sheet to pick on:",
                ("sheet", page, "--furniture", "drop", "--out", "kites-to-pick.html"),
            ),
            (
                "Fetch them, the originals rather than the thumbnails, into a crate named kites:",
                ("pack", page, "--furniture", "drop", "--crate", "kites", *elsewhere),
            ),
            (
                "Once more: what is there already is not asked for again.",
                ("pack", page, "--furniture", "drop", "--crate", "kites", *elsewhere),
            ),
            (
                "The reading room shows thumbnails; its scans are two pages on. --through passes those between:",
                (
                    "pack",
                    f"{site.address}/reading-room.html",
                    *("--through", "2", "--furniture", "drop", "--crate", "scans", *elsewhere),
                ),
            ),
            ("Months later: is every file still what was fetched?", ("audit", "kites", *elsewhere)),
        )
        for words, line in steps:
            _step(app, out, words, line)
    out.line("\nNow try it yourself: ", ("pickcrate demo --serve", "cyan"), " leaves the museum's site up.")


def _step(app: click.Command, out: Out, words: str, line: tuple[str, ...]) -> None:
    out.line((f"\n{words}", "bold"))
    out.line((f"$ {_line(line)}", "cyan"))
    code = app(list(line), standalone_mode=False)
    if code:
        raise PickCrateError(f"the demo stopped: this step ended with exit code {code}")


def _line(line: tuple[str, ...], site: str = "") -> str:
    words = (part.replace("{site}", site) if site else part for part in line)
    return command_line(("pickcrate", *words))
