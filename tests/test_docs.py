"""The docs hold: what they tell a reader to type is taken as it stands, and does what they say on the demo site."""

import itertools
import re
import shlex
from importlib.resources import files
from pathlib import Path

import click
import pytest

from conftest import Program
from pickcrate.cli.program import app
from pickcrate.orders.setting import Command
from reference import reference

ROOT = Path(__file__).parent.parent
README = (ROOT / "README.md").read_text(encoding="utf-8")
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
SITE = "https://kites.example"


def lines_of(text: str) -> list[str]:
    """Return the command lines in a text, without the remarks beside them."""
    lines = re.findall(r"^ +(?:\w*\$ +)?(pickcrate .+)$", text, re.MULTILINE)
    return [re.sub(r"(?: {3,}| +# ).*", "", line) for line in lines]


TYPED = [line for page in PAGES for line in lines_of(page.read_text(encoding="utf-8"))]


def parsed(line: str) -> click.Context:
    """Return what the program makes of a line before it does anything; a usage error if it takes it not."""
    arguments = shlex.split(line)[1:]
    outer = app.make_context("pickcrate", arguments[:1])
    name, command, _ = app.resolve_command(outer, arguments[:1])
    assert command is not None
    return command.make_context(name, arguments[1:], parent=outer)


@pytest.mark.parametrize("line", dict.fromkeys(TYPED))
def test_what_the_docs_say_to_type_is_taken(line: str) -> None:
    assert parsed(line).args == []


def test_what_the_helps_say_to_type_is_taken(run: Program) -> None:
    told = [line for command in Command for line in lines_of(run(command, "--help").out)]
    assert len(told) > 2 * len(Command)
    for line in told:
        assert parsed(line).args == [], line


ELSEWHERE = (
    "--open",
    "--browser",
    "--base",
    "s3://",
    "demo",
    "/iiif/",
    "2026-11-",
    ".har",
    ".pdf",
    "photos.csv",
    "sitemap.xml",
)
"""what needs a window, a browser, a store, or sources that a reader has and the demo site has not"""

PASSED_OVER = "winter-lantern"
"""that it is no picture is what the README shows: an address that is mentioned there"""


def test_the_journey_of_the_readme(run: Program, museum: str, tmp_path: Path) -> None:
    """From the first look to the audit, one after the other and in one folder."""
    text = files("pickcrate.demo").joinpath("site/catalogue.html").read_text(encoding="utf-8")
    for name in ("page.html", "Catalogue.html"):
        (tmp_path / name).write_text(text.replace("<head>", f'<head><base href="{museum}/">'), encoding="utf-8")
    (tmp_path / "museum.csv").write_text(f"Photo,Maker,Year\n{museum}/originals/long-dragon.jpg,Ysolde Marrow,1962\n")
    run("look", f"{museum}/catalogue.html", "--limit", "2", "--save", "picks.csv")
    journey = [line for line in lines_of(README) if not any(part in line for part in ELSEWHERE)]
    assert len(journey) > 25
    for line in journey:
        done = run(*shlex.split(line.replace(SITE, museum))[1:])
        assert done.code == (4 if PASSED_OVER in line else 0), (line, done.err)
    crates = {path.name for path in (tmp_path / "crates").iterdir()}
    assert crates >= {"kites", "prints", "makers", "makers.zip", "kites.bagit"}
    assert (tmp_path / "crates/makers/Ysolde Marrow 1962.jpg").exists()


def test_the_readme_has_the_options_that_there_are(run: Program) -> None:
    assert reference() in README  # else: python tools/reference.py
    for command in Command:
        helped = set(re.findall(r"(?<![\w-])--[a-z][\w-]+", run(command, "--help").out.partition("Examples:")[0]))
        rows = re.findall(r"^\| (`-.*`) \| ([a-z, ]+) \|", reference(), re.MULTILINE)
        told = [
            re.findall(r"`(--[\w-]+)", options)
            for options, of in rows
            if command
            in of.replace("all", "look, pack, why, sheet, audit, save, compare, alike, seal, haul").split(", ")
        ]
        assert set(itertools.chain(*told)) == helped - {"--help"}


def test_the_docs_link_what_there_is() -> None:
    for page in PAGES:
        for target in re.findall(r"\]\(([^)#:]+)\)", page.read_text(encoding="utf-8")):
            assert (page.parent / target).exists(), (page.name, target)
