"""The table of settings: what Python's keywords take and say, and that a default is the same wherever it stands."""

from pathlib import Path
from typing import Any, get_type_hints

import pytest

import pickcrate
from conftest import picture
from pickcrate.errors import UsageError
from pickcrate.orders.order import make_order
from pickcrate.orders.setting import Command
from pickcrate.orders.settings import LookSettings, PackSettings, of_command, table


def test_a_default_is_the_same_for_options_and_for_programs() -> None:
    settings = {name: setting.default for name, setting in table().items()}
    (order, into), (bare, bare_into) = make_order((), settings), make_order((), {})
    assert (order, into) == (bare, bare_into)


def test_keywords_are_the_options_of_their_command() -> None:
    assert "slip" in get_type_hints(LookSettings)
    for command, keywords in ((Command.LOOK, LookSettings), (Command.PACK, PackSettings)):
        made = {"slip"} | {name for name, setting in of_command(command).items() if setting.goes_to}
        assert set(get_type_hints(keywords)) == made


@pytest.mark.parametrize(
    ("settings", "message"),
    [
        ({"width": "wide"}, "width 'wide': 'wide' is not pixels"), ({"not_url": "re:("}, "not_url 're:(' is not a regular expression"),
        ({"at_once": 0}, "at_once 0 is out of range"), ({"furniture": "gone"}, "furniture 'gone'"), ({"linked": "no"}, "linked 'no'"),
        ({"width": 800}, "width 800 is no text"), ({"text": ["kite", 3]}, "text 3 is no text"), ({"url": 3}, "url 3 is no text"),
        ({"target": "img"}, "target says which picture"), ({"base": "x"}, "base 'x' is not a whole address"),
        ({"within": "[["}, "within '[['"), ({"rules": "none.txt"}, "rules none.txt: cannot be read"),
    ],
)  # fmt: skip
def test_messages_name_keywords(tmp_path: Path, settings: dict[str, Any], message: str) -> None:
    (tmp_path / "p.html").write_text("<h2>One</h2><img src=a.png>")
    with pytest.raises(UsageError) as caught:
        pickcrate.look(str(tmp_path / "p.html"), **settings)
    assert caught.value.message.startswith(message)
    assert "--" not in caught.value.message + caught.value.hint


@pytest.mark.parametrize("name", ["dry_run", "crate", "format", "widths"])
def test_what_is_no_keyword_is_refused(name: str) -> None:
    with pytest.raises(TypeError, match=rf"look\(\) got an unexpected keyword argument '{name}'"):
        pickcrate.look("p.html", **{name: True})  # type: ignore[arg-type]
    if name != "crate":
        with pytest.raises(TypeError, match=name):
            pickcrate.pack("p.html", **{name: True})  # type: ignore[arg-type]


def test_keywords_do_what_options_do(tmp_path: Path) -> None:
    for n, name in enumerate("abc"):
        (tmp_path / f"{name}.png").write_bytes(picture("PNG", (10 + 10 * n, 20)))
    page = tmp_path / "p.html"
    page.write_text("<h2>One</h2><img src=a.png><h2>Two</h2><img src=b.png alt=Bee><img src=c.png>")
    images = pickcrate.look(page, under="Two", width="..25", full=False)
    assert [image.url.rpartition("/")[2] for image in images] == ["b.png"]
    assert [image.url.rpartition("/")[2] for image in images.dropped] == ["a.png", "c.png"]
    outcomes = pickcrate.pack(str(page), crate="k", into=tmp_path, name=["{alt}", "{stem}"], not_url=("a.png",))
    assert [outcome.file for outcome in outcomes] == ["Bee.png", "c.png"]
    assert len(pickcrate.pack(str(page), crate="n", into=tmp_path, only="9")) == 0
