"""Slips and standing settings: written, read back, run again; what is wrong in one is said with its line."""

import json
from pathlib import Path
from typing import Any

import pytest

from conftest import Program, Server, picture
from pickcrate.errors import UsageError
from pickcrate.orders.setting import Input
from pickcrate.orders.settings import in_slips, table
from pickcrate.orders.slips import read_slip, read_standing, written

SAMPLES = {
    "base": "https://kites.example/", "within": ["main", "#b \"x\""], "under": ["Two \\ \x7f \u00e9"], "raw": [r"src='([^']+)'"],
    "attr": ["data-full"], "items": "all", "next_pages": "all", "target": "#big", "rule": ["/s/(.+) => /l/\\1"], "width": "800..", "height": "..900", "pixels": "0.5MP..",
    "ratio": "4:3..16:9", "bytes": "20kB..", "shape": ["square"], "type": ["jpeg", "png"], "url": ["kite"], "not_url": ["re:^x$", "${HOME}"],
    "text": ["red"], "licence": ["CC-BY*"], "not_text": ["logo"], "found_in": ["img"], "only": "1..5,9", "column": ["url=Photo"], "press": ["More"],
    "wait_for": "#x", "profile": "kites", "browser_at": "http://127.0.0.1:9222", "rate": "1MB", "max_file": "3MB", "max_total": "1GB",
    "proxy": "http://127.0.0.1:3128", "header": ["Accept-Language: fi"], "user_agent": "Galewick", "crate": "kites {date}", "max_pixels": "50MP",
    "except_": ["kites *"], "name": ["{n:03} {alt}", "{stem}"], "shelf": "{type}/{shape}",
}  # fmt: skip


def sample(name: str, folder: Path) -> Any:
    """Return a value of a setting that is not its default."""
    setting = table()[name]
    if setting.choices is not None:
        return [*setting.choices][-1] if setting.default is not [*setting.choices][-1] else next(iter(setting.choices))
    match setting.input:
        case Input.FLAG:
            return not setting.default
        case Input.WHOLE:
            return (setting.default or 0) + 1
        case Input.DECIMAL:
            return setting.default + 0.5
        case Input.FILE:
            if setting.metavar == "DIR":
                return folder
            path = folder / f"{name}.png"
            cookie = "kites.example\tFALSE\t/\tFALSE\t0\ta\tb\n"
            path.write_text(cookie if name == "cookies" else "/s/(.+) => /l/\\1\n")
            return path
        case _:
            return SAMPLES[name]


def test_a_slip_that_holds_every_setting_makes_the_round_trip(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    given = {name: sample(name, tmp_path) for name in in_slips()}
    path = tmp_path / "all.toml"
    text, variables = written(["https://kites.example/", "-"], given, path)
    path.write_text(text, encoding="utf-8")
    assert variables == ["PICKCRATE_ACCEPT_LANGUAGE"]
    monkeypatch.setenv("PICKCRATE_ACCEPT_LANGUAGE", "fi")
    slip = read_slip(path)
    assert slip.sources == ("https://kites.example/", "-")
    assert dict(slip.settings) == given
    names = [line.partition(" = ")[0] for line in text.splitlines() if " = " in line]
    assert names == ["sources", *(name.rstrip("_") for name in in_slips())]


WRONG = [
    ('user_agnt = "x"', 1, "user_agnt: there is no such setting", "did you mean user_agent?"),
    ("\n\nnot-url = 'x'", 3, "not-url: there is no such setting", "did you mean not_url?"),
    ("zebra = 1", 1, "zebra: there is no such setting", "with _ for -"),
    ("width = 800", 1, "width: 800 is of the wrong kind", 'for example width = "800.."'),
    ('width = "900..100"', 1, "width: '900..100' is upside down", 'width = "100..900"'),
    ("at_once = true", 1, "at_once: true is of the wrong kind", "for example at_once = 4"),
    ("# x\nat_once = 0", 2, "at_once: 0 is out of range", "1 to 256"),
    ('furniture = "gone"', 1, "furniture: 'gone'", "keep, drop"),
    ('into = "a\\u0000"', 1, "into: ", "no character U+0000"),
    ('log = "a\\u0000"', 1, "log: ", "no character U+0000"),
    ('into = ""', 1, "into: it is empty", "name a path"),
    ('sources = ["a.html", " "]', 1, "sources: one of them is empty", "leave it out"),
    ("text = [1]", 1, "text: [1] is of the wrong kind", 'text = ["one", "another"]'),
    ("sources = 3", 1, "sources: it is a list of texts", "sources = ["),
    ('proxy = "http://${NOT_SET_HERE}@h"', 1, "the environment has no NOT_SET_HERE", "export NOT_SET_HERE=…"),
    ('items = "many"', 1, "items: 'many' is no number", "for example items"),
    ("width = \n\n", 1, "is not TOML", "KEY = VALUE"),
    ('save_slip = "x"', 1, "save_slip: there is no such setting", ""),
]  # fmt: skip


@pytest.mark.parametrize(("text", "line", "message", "hint"), WRONG)
def test_what_is_wrong_is_said_with_its_line(text: str, line: int, message: str, hint: str, tmp_path: Path) -> None:
    (tmp_path / "s.toml").write_text(text)
    with pytest.raises(UsageError) as caught:
        read_slip(tmp_path / "s.toml")
    assert message in caught.value.message
    assert hint in caught.value.hint
    assert f"line {line}" in caught.value.message
    assert "--" not in caught.value.message + caught.value.hint


def test_of_several_orders_one_is_named(tmp_path: Path) -> None:
    path = tmp_path / "kites.toml"
    path.write_text(
        'pause = 1\nwidth = "5.."\n[museum]\nsources = "https://a.example/"\nwidth = "9.."\n[shop]\nwidth = "x"\n'
    )
    slip = read_slip(f"{path}:museum")
    assert (slip.sources, dict(slip.settings)) == (("https://a.example/",), {"pause": 1, "width": "9.."})
    assert slip.places["width"].endswith("line 5")
    for named, words in (
        (str(path), "holds orders, and none was named"),
        (f"{path}:hall", "no order called 'hall'"),
        (f"{path}:shop", "line 7: width"),
    ):
        with pytest.raises(UsageError, match=words):
            read_slip(named)


@pytest.fixture
def hall(web: Server) -> Server:
    for n, name in enumerate(("a", "b", "c")):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (10 + 10 * n, 9)))
    (web.www / "p.html").write_text("<title>Hall</title><img src=a.png alt=Ay><img src=b.png alt=Bee><img src=c.png>")
    return web


def test_an_order_is_kept_and_run_again(built: Program, hall: Server, tmp_path: Path) -> None:
    address = hall.address.replace("://", "://kite:flyer@")
    typed = ("--width", "15..", "--name", "{alt}", "--header", "X-Key: 7", "--crate", "k", "--robots")
    first = built("pack", f"{address}/p.html", *typed, "--save-slip", tmp_path / "in" / "kites.toml")
    assert (first.code, "cannot be written" in first.err) == (2, True)
    (tmp_path / "in").mkdir()
    slip = tmp_path / "in" / "kites.toml"
    first = built("pack", f"{address}/p.html", *typed, "--save-slip", slip)
    assert (first.code, "set PICKCRATE_SOURCE_USERINFO, PICKCRATE_X_KEY" in first.err) == (0, True)
    text = slip.read_text()
    assert "flyer" not in text
    assert 'header = ["X-Key: ${PICKCRATE_X_KEY}"]' in text
    assert "robots" not in text
    assert built("pack", "--slip", slip).code == 2
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("PICKCRATE_SOURCE_USERINFO", "kite:flyer")
        patch.setenv("PICKCRATE_X_KEY", "7")
        again = built("pack", "--slip", slip)
        assert (again.code, "2 there already" in again.out) == (0, True)
        wider = built("look", "--slip", slip, "--width", "..15", "--format", "jsonl")
        assert [row["url"].rpartition("/")[2] for row in wider.rows] == ["a.png"]
        assert "Bee" in built("why", "--slip", slip, "2").out
        more = built("look", "--slip", slip, f"{hall.address}/p.html", "--format", "urls")
        assert more.out.count("b.png") == 2
        sheet = built("sheet", "--slip", slip, "--out", tmp_path / "s.html")
        assert (sheet.code, "flyer" in (tmp_path / "s.html").read_text()) == (0, False)
        over = built("look", "--slip", slip, "--save-slip", slip)
    assert (over.code, "there is such a file already" in over.err, slip.read_text()) == (2, True, text)


def test_paths_count_from_the_slip(run: Program, tmp_path: Path) -> None:
    (tmp_path / "pages").mkdir()
    (tmp_path / "pages" / "p.html").write_text('<img src="a.png"><img src="b.png">')
    (tmp_path / "pages" / "a.png").write_bytes(picture())
    slip = tmp_path / "pages" / "s.toml"
    assert run("look", "pages/p.html", "--save", "picks.csv", "--save-slip", slip).code == 0
    assert 'sources = ["p.html"]' in slip.read_text()
    assert 'save = "../picks.csv"' in slip.read_text()
    assert len(run("look", "--slip", slip, "--format", "jsonl").rows) == 2


def test_standing_settings_hold_until_something_else_is_said(
    run: Program, hall: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    (tmp_path / "config" / "pickcrate").mkdir(parents=True)
    (tmp_path / "config" / "pickcrate" / "settings.toml").write_text('width = "25.."\ntype = "png"\n')
    look = ("look", f"{hall.address}/p.html", "--format", "urls")
    assert run(*look).out.count("\n") == 1
    (tmp_path / "pickcrate.toml").write_text('\nwidth = "15.."\nheader = ["X-Key: 7"]\n')
    assert run(*look).out.count("\n") == 2
    assert run(*look, "--width", "5..").out.count("\n") == 3
    assert run(*look, "--no-settings").out.count("\n") == 3
    told = {row["setting"]: row for row in run("settings", "--format", "jsonl").rows}
    assert (told["width"]["value"], told["width"]["from"]) == ("15..", "pickcrate.toml, line 2")
    assert (told["type"]["value"], told["type"]["from"].endswith("settings.toml, line 2")) == (["png"], True)
    assert (told["header"]["value"], told["at_once"]["from"]) == (["X-Key: …"], "by default")
    plain = run("settings").out
    assert ('• width          "15.."' in plain, "X-Key: 7" in plain, str(tmp_path / "config") in plain) == (
        True,
        False,
        True,
    )
    run(*look, "--save-slip", "s.toml")
    assert "width" not in (tmp_path / "s.toml").read_text()


def test_the_own_folder_in_paths(run: Program, hall: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HOME", str(tmp_path / "own"))
    (tmp_path / "own").mkdir()
    (tmp_path / "pickcrate.toml").write_text('into = "~/crates"\n')
    run("pack", f"{hall.address}/p.html", "--crate", "k", "--save-slip=~/s.toml")
    run("look", "--slip=~/s.toml", "--save=~/k.csv")
    assert {path.name for path in (tmp_path / "own").iterdir()} == {"crates", "s.toml", "k.csv"}
    assert not (tmp_path / "~").exists()


@pytest.mark.parametrize("text", ['browser_path = "/bin/sh"', 'sources = "x"', "[museum]\npause = 1"])
def test_a_folder_does_not_decide_everything(text: str, tmp_path: Path) -> None:
    (tmp_path / "pickcrate.toml").write_text(text)
    with pytest.raises(UsageError, match=r"standing|program"):
        read_standing(tmp_path / "pickcrate.toml", is_own=False)


def test_without_a_source_it_says_what_is_missing(run: Program) -> None:
    for command in ("look", "pack", "sheet"):
        done = run(command)
        assert (done.code, "no source is named" in done.err, "--slip" in done.err) == (2, True, True)
    assert json.loads(run("settings", "--format", "jsonl").out.splitlines()[0])["setting"] == "base"
    for line in (("look", ""), ("pack", "page.html", "--into", ""), ("audit", "")):  # never the folder one is in
        done = run(*line)
        assert (done.code, "is empty" in done.err, done.out) == (2, True, "")
    Path("kites.toml").write_text('sources = ["https://kites.example/"]\n')
    assert "if it is a slip, run it with --slip kites.toml" in run("look", "kites.toml").err
