"""The crate's own file: moved in where nothing is, on every file system, by every version, on a full disk."""

import errno
import os
import shutil
import sqlite3
from collections import namedtuple
from contextlib import closing
from datetime import date
from pathlib import Path

import pytest

from conftest import Program, Server, picture
from pickcrate.crate import moving
from pickcrate.crate.entry import State
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places, dated, unwritable
from pickcrate.crate.store import Crate

Usage = namedtuple("Usage", "total used free")


def refuse(*_: object) -> None:
    raise OSError(errno.EPERM, "not here")


@pytest.mark.parametrize("system", ["rename", "link", "neither"])
def test_nothing_is_moved_over_a_file(system: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    if system != "rename":
        monkeypatch.setattr(moving, "_exclusive_rename", lambda: None)
    if system == "neither":  # FAT has no links
        monkeypatch.setattr(os, "link", refuse)
    beside, final = tmp_path / "beside", tmp_path / "final"
    beside.write_text("new")
    assert moving.move_in(beside, final)
    assert (final.read_text(), beside.exists()) == ("new", False)
    beside.write_text("newer")
    assert not moving.move_in(beside, final)
    assert (final.read_text(), beside.read_text()) == ("new", "newer")
    (tmp_path / "link").symlink_to(tmp_path / "nowhere")
    assert not moving.move_in(beside, tmp_path / "link")
    assert moving.copy_in(final, tmp_path / "copy")
    assert not moving.copy_in(beside, tmp_path / "copy")
    assert (tmp_path / "copy").read_text() == "new"
    with pytest.raises(OSError, match="No such file"):
        moving.move_in(tmp_path / "none", tmp_path / "other")


def test_a_rename_that_the_file_system_does_not_know(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(moving, "_exclusive_rename", lambda: lambda _old, _new: errno.EINVAL)
    (tmp_path / "beside").write_text("new")
    assert moving.move_in(tmp_path / "beside", tmp_path / "final")
    monkeypatch.setattr(moving, "_exclusive_rename", lambda: lambda _old, _new: errno.EACCES)
    (tmp_path / "beside").write_text("new")
    with pytest.raises(PermissionError):
        moving.move_in(tmp_path / "beside", tmp_path / "other")


IN_6 = ("gone_at", "licence_url", "terms_url", "credit_from", "licence_from", "terms_from", "fingerprint")
SINCE = {
    2: ("tdm", "sought", "left_out_by", "unended", "item", "item_url", "columns", *IN_6),
    3: ("sought", "left_out_by", "unended", "item", "item_url", "columns", *IN_6),
    4: ("item", "item_url", "columns", *IN_6),
    5: IN_6,
    6: (),
}


@pytest.mark.parametrize("version", SINCE)
def test_a_ledger_of_a_version_before_is_taken_over(run: Program, web: Server, tmp_path: Path, version: int) -> None:
    (web.www / "p.html").write_text("<img src=a.png><img src=b.png>")
    for name in "ab":
        (web.www / f"{name}.png").write_bytes(picture("PNG", (40, ord(name))))
    line = ("pack", f"{web.address}/p.html", "--crate", "c", "--no-robots")
    run(*line)
    path = tmp_path / "crates" / "c" / ".pickcrate" / "ledger.sqlite"
    with closing(sqlite3.connect(path)) as db, db:
        db.execute("DROP TABLE measured")
        for table in ("former_name", "former_version", "listed", "leaving") if version < 3 else ():
            db.execute(f"DROP TABLE {table}")
        for column in SINCE[version]:
            db.execute(f"ALTER TABLE picture DROP COLUMN {column}")
        db.execute(f"PRAGMA user_version = {version}")
    web.requests()
    assert "2 there already" in run(*line, "--fresh").out
    assert web.requests() == ["/p.html"]
    assert run("audit", "c").code == 0
    with closing(sqlite3.connect(path)) as db, db:
        db.execute("PRAGMA user_version = 99")
    done = run(*line)
    assert (done.code, "was written by another version of Pick Crate" in done.err) == (5, True)


def test_a_disk_that_is_nearly_full(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    free = 50_000_000
    monkeypatch.setattr(shutil, "disk_usage", lambda _path: Usage(10**12, 0, free))
    with Crate(tmp_path / "c") as crate:
        free = 16_000_100
        assert not isinstance(crate.take_in(picture(), None, None), str)
        free = 16_000_001
        with pytest.raises(OSError, match="No space left") as caught:
            crate.take_in(picture(), None, None)
        free = 15_999_999
        with pytest.raises(OSError, match="No space left"):
            crate.spool()
        free = 50_000_000
    told = unwritable(tmp_path / "c", caught.value)
    assert (told.message, told.exit_code) == (f"the disk is full: {tmp_path / 'c'}", 5)
    free = 1
    with Crate(tmp_path / "c") as crate:  # to be looked at, a crate needs no room
        assert not list(crate.ledger.rows(State.HELD))
        with pytest.raises(OSError, match="No space left"):
            crate.check_room()


def test_what_was_abandoned_holds_nobody_up_when_the_crate_is_closed(tmp_path: Path) -> None:
    with Crate(tmp_path / "c") as crate:
        spools = [crate.spool() for _ in range(80)]  # more than wait for the threads that hash
    for spool in spools:
        spool.close()
    assert not list((tmp_path / "c" / ".pickcrate" / "incoming").iterdir())


def test_names_that_were_given_up_are_given_to_nobody(tmp_path: Path) -> None:
    places = Places(tmp_path)
    places.inner.mkdir()
    with closing(Ledger(places)) as ledger:
        first = ledger.reserve("http://g.example/1", "download")
        assert first is not None
        renamed = ledger.rename(first, "red delta")
        assert renamed.name == "red delta"
        assert ledger.reserve("http://g.example/2", "Download") is None
        assert ledger.name_is_taken("DOWNLOAD")
        assert ledger.reserve("http://g.example/2", "download 2") is not None


def test_names_of_older_versions() -> None:
    names = dated(Path("c/red delta.jpg"), date(2026, 11, 23))
    assert [next(names).name for _ in range(3)] == [
        "red delta (2026-11-23).jpg", "red delta (2026-11-23 2).jpg", "red delta (2026-11-23 3).jpg"]  # fmt: skip
