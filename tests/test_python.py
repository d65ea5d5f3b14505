"""The whole program from Python: results, sources, failures, and the notebook of the docs."""

import ast
import io
import json
import re
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pyarrow as pa  # type: ignore[import-untyped]
import pytest

import pickcrate
from conftest import Server, picture
from pickcrate.errors import UsageError
from pickcrate.python import PickCrateWarning
from pickcrate.run.events import Found, PageRead, Settled

DOCS = Path(__file__).parent.parent / "docs"


@pytest.fixture
def hall(web: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> str:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    for n, name in enumerate("ab"):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (30 + n, 20), (n, 0, 99)))
    (web.www / "p.html").write_text("<title>Hall</title><img src=a.png alt='<b>Ay'><img src=b.png><img src=none.png>")
    return f"{web.address}/p.html"


def test_a_look_shows_itself_and_becomes_other_things(hall: str, tmp_path: Path) -> None:
    seen: list[Any] = []
    found = pickcrate.look(hall, width="..30", not_url="none", on_event=seen.append)
    assert (len(found), [image.url[-5:] for image in found], repr(found)) == (1, ["a.png"], "<1 picture, 2 dropped>")
    assert found[0] is found[:1][0]
    assert [type(event) for event in seen] == [PageRead, Found, Found, Found]
    shown = found._repr_mimebundle_()["text/html"]
    assert ("data:image/" in shown, "&lt;b&gt;Ay" in shown, "<b>Ay" in shown, "30×20" in shown) == (
        True,
        True,
        False,
        True,
    )
    frame = found.to_pandas()
    assert list(frame["width"]) == [30]
    assert pa.table(found).column("url").to_pylist() == [f"{hall[:-6]}a.png"]
    assert found.save(tmp_path / "picks.csv").read_text().startswith("pick,number")
    assert found.save("picks.txt").read_text() == f"{hall[:-6]}a.png\n"
    assert [outcome.file for outcome in pickcrate.pack(tmp_path / "picks.csv", crate="k")] == ["a.png"]
    with pytest.raises(UsageError, match="save"):
        found.save("picks.xls")


def test_a_pack_tells_its_crate_and_what_failed(hall: str, tmp_path: Path) -> None:
    seen: list[Any] = []
    packed = pickcrate.pack(hall, crate="kites", on_event=seen.append, retries=0)
    assert packed.crate == Path("crates/kites")
    assert [path.name for path in packed.files] == ["a.png", "b.png"]
    assert all(path.is_file() for path in packed.files)
    assert [outcome.reason for outcome in packed.failed] == ["the server answered 404 Not Found"]
    assert repr(packed) == "<2 fetched, 1 failed in crates/kites>"
    assert sum(isinstance(event, Settled) for event in seen) == 3
    assert packed._repr_mimebundle_()["text/html"].count("data:image/") == 2
    assert list(packed.to_pandas()["outcome"]) == ["fetched", "fetched", "failed"]
    again = pickcrate.pack(hall, crate="kites", retries=0)
    assert (packed.since, again.since is not None, len(pickcrate.audit("kites"))) == (None, True, 0)
    (tmp_path / "crates" / "kites" / "a.png").unlink()
    findings = pickcrate.audit(Path("crates/kites"))
    assert [(one.trouble.value, one.file) for one in findings] == [("missing", "a.png")]
    changes = pickcrate.compare("kites", hall, since=None)
    assert [(row["change"], row["url"][-8:]) for row in changes.rows()] == [("came", "none.png")]
    assert (changes.same, repr(changes)) == (2, "<1 came · 2 the same>")
    assert "came" in changes.save("c.html").read_text()
    assert changes.save("c.jsonl").read_text().count("\n") == 1
    assert pickcrate.sheet("kites", out="k.html") == Path("k.html")
    assert pickcrate.sheet(hall, out=tmp_path / "p.html", width="31..").is_file()


def test_sources_may_be_handed_over(hall: str, tmp_path: Path) -> None:
    markup = f"<img src={hall[:-6]}a.png><img src=b.png>"
    (tmp_path / "saved.html").write_text(markup)
    (tmp_path / "b.png").write_bytes(picture())
    for source in (markup.encode(), io.BytesIO(markup.encode()), io.StringIO(markup), bytearray(markup.encode())):
        assert [image.url for image in pickcrate.look(source, base=hall)] == [f"{hall[:-6]}a.png", f"{hall[:-6]}b.png"]  # type: ignore[arg-type]
    for mode in ("r", "rb"):
        with (tmp_path / "saved.html").open(mode) as file:
            assert pickcrate.look(file)[1].url == (tmp_path / "b.png").as_uri()
    rows = b"url\n" + hall[:-6].encode() + b"a.png\n"
    assert [outcome.file for outcome in pickcrate.pack(rows, crate="r")] == ["a.png"]
    with pytest.raises(UsageError, match="source 2 is a int"):
        pickcrate.look(hall, 7)  # type: ignore[arg-type]
    with pytest.raises(UsageError, match="no source"):
        pickcrate.look()


def test_what_fails_is_told(hall: str) -> None:
    with pytest.warns(PickCrateWarning, match="no such file"):
        found = pickcrate.look(hall, "none.html")
    assert (len(found), [failure.source for failure in found.failures]) == (3, ["none.html"])
    with pytest.warns(PickCrateWarning, match="line 2 is not a web address"):
        assert len(pickcrate.look(f"{hall[:-6]}a.png\nkite\n".encode()).failures) == 1


def test_a_slip_is_an_order_for_programs_too(hall: str, tmp_path: Path) -> None:
    (tmp_path / "s.toml").write_text(f'sources = ["{hall}"]\nwidth = "31.."\nsave = "x.csv"\n')
    assert [image.url[-5:] for image in pickcrate.look(slip="s.toml", not_url="none")] == ["b.png"]
    assert len(pickcrate.look(slip=tmp_path / "s.toml", width="..31", not_url="none")) == 2


def test_one_document_is_searched_without_a_network() -> None:
    found = pickcrate.find(
        "<img src=a.png><style>p { background: url(b.png) }</style><p>", address="https://kites.example/x/"
    )
    assert [(one.url, one.found_in) for one in found] == [
        ("https://kites.example/x/a.png", "img"),
        ("https://kites.example/x/b.png", "css"),
    ]
    assert pickcrate.find(b"<meta charset=utf-8><p>nothing") == []


def test_importing_it_brings_hardly_anything() -> None:
    code = "import sys, pickcrate; print(*sorted(m for m in sys.modules if m.startswith(('pickcrate', 'click', 'PIL', 'pycurl'))))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["pickcrate", "pickcrate.version"]


def test_the_code_of_the_page_on_python_runs(
    museum: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    (tmp_path / "kites.csv").write_text(f"Photo,Maker\n{museum}/originals/red-delta.jpg,Ysolde Marrow\n")
    page = b"<img src=originals/long-dragon.jpg><img src=originals/mill-wheel.jpg>"
    names: dict[str, Any] = {"response": SimpleNamespace(content=page)}
    told = (DOCS / "python.md").read_text(encoding="utf-8").replace("https://kites.example", museum)
    blocks = re.findall(r"```python\n(.+?)```", told, re.DOTALL)
    for block in blocks:
        exec(compile(block, "python.md", "exec"), names)
    assert len(blocks) == 3
    assert (len(names["kites"]), names["packed"].failed) == (12, ())
    assert "already there A green box kite of two cells.jpg" in capsys.readouterr().out


def test_the_notebook_runs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    names: dict[str, Any] = {}
    shown = 0
    for cell in json.loads((DOCS / "kites.ipynb").read_text(encoding="utf-8"))["cells"]:
        if cell["cell_type"] != "code":
            continue
        tree = ast.parse("".join(cell["source"]))
        last = tree.body.pop() if isinstance(tree.body[-1], ast.Expr) else None
        exec(compile(tree, "notebook", "exec"), names)
        value: Any = (
            eval(compile(ast.Expression(last.value), "notebook", "eval"), names) if isinstance(last, ast.Expr) else None
        )
        if hasattr(value, "_repr_mimebundle_"):
            shown += "data:image/" in value._repr_mimebundle_()["text/html"]
    assert (shown, len(names["kites"]), len(names["packed"]), len(names["changes"])) == (2, 8, 13, 0)
