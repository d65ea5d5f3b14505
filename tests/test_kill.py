"""Promise 3: killed at any moment, the same line goes on and ends as if nothing had happened.

``KILLS=200 pytest tests/test_kill.py`` kills it at 200 moments over 500 pictures.
"""

import os
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import closing
from csv import DictReader
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from random import Random
from typing import ClassVar

import pytest
from PIL import Image

from conftest import Answering, serving

KILLS = int(os.environ.get("KILLS", "6"))
PICTURES = 500 if KILLS > 50 else 150


def kite(number: int) -> bytes:
    """Different pictures; each tenth has the bytes of the one before, each fortieth is large enough for a spool."""
    number -= number % 10 == 9
    side = 620 if number % 40 == 7 else 40
    buffer = BytesIO()
    kind = "BMP" if side > 40 else "PNG"
    Image.new("RGB", (side, side), (number % 251, number // 251, 9)).save(buffer, kind)
    return buffer.getvalue()


class Hall(Answering):
    """A page of pictures; some are named by the server, many alike, some are not there."""

    asked: ClassVar[list[str]] = []

    def do_GET(self) -> None:
        self.asked.append(self.path)
        if self.path == "/robots.txt" or "gone" in self.path:
            self.answer(404, b"")
        elif self.path == "/":
            page = "".join(f'<img src="{address(n)}" alt="kite {n % 7}">' for n in range(PICTURES))
            self.answer(200, page.encode(), "text/html")
        else:
            number = int(self.path.partition("-")[2].partition(".")[0])
            named = {"Content_Disposition": f'inline; filename="delta {number % 5}.png"'} if number % 3 == 0 else {}
            self.answer(200, kite(number), "image/png", **named)


def address(number: int) -> str:
    return f"/{number % 4}/{'gone' if number % 50 == 49 else 'kite'}-{number}.png"


@pytest.fixture
def hall() -> Iterator[str]:
    with serving(Hall) as port:
        yield f"http://127.0.0.1:{port}"


KILLED = """
import os, signal
from pickcrate.__main__ import main
from pickcrate.crate import store
store.COMMIT_SECONDS, publish, left = 1e9, store.Crate.publish, [40]
def publish_some(*given):
    left[0] -= 1
    return publish(*given) if left[0] else os.kill(os.getpid(), signal.SIGKILL)
store.Crate.publish, store.Crate.clear = publish_some, lambda crate: None
main()
"""
"""forty pictures are in their places, and only the first is written down"""


def pack(site: str, into: Path, *, shelf: str = "{type}", code: str = "") -> subprocess.Popen[bytes]:
    program = [sys.executable, *(["-c", code] if code else ["-m", "pickcrate"])]
    line = [*program, "pack", f"{site}/", "--as-shown", "--crate", "c", "--into", str(into), "--quiet"]
    patterns = ["--name", "{stem}", *(["--shelf", shelf] if shelf else [])]
    environment = {**os.environ, "XDG_CACHE_HOME": str(into / "cache")}
    return subprocess.Popen([*line, *patterns], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def state(crate: Path) -> tuple[dict[str, str], list[dict[str, str]]]:
    """Return the files with their digests, and the rows of the list without their times."""
    files = {
        path.relative_to(crate).as_posix(): sha256(path.read_bytes()).hexdigest()
        for path in crate.rglob("*")
        if path.is_file()
        and ".pickcrate/ledger" not in path.as_posix()
        and path.name not in {"crate.csv", "failed.csv"}
    }
    with (crate / "crate.csv").open(encoding="utf-8", newline="") as stream:
        return files, [{name: cell for name, cell in row.items() if name != "fetched_at"} for row in DictReader(stream)]


def held(crate: Path) -> set[str]:
    ledger = crate / ".pickcrate" / "ledger.sqlite"
    if not ledger.is_file():
        return set()
    with closing(sqlite3.connect(ledger)) as db:
        if not db.execute("SELECT 1 FROM sqlite_master WHERE name = 'picture'").fetchone():
            return set()
        return {path for (path,) in db.execute("SELECT address FROM picture WHERE state = 'held'")}


def test_killed_at_any_moment(hall: str, tmp_path: Path) -> None:
    assert pack(hall, tmp_path / "whole").wait() == 1  # some are gone
    undisturbed = state(tmp_path / "whole" / "c")
    assert len(undisturbed[0]) > PICTURES * 0.8
    random = Random(7)
    in_the_middle = 0
    for number in range(KILLS):
        into = tmp_path / str(number)
        Hall.asked.clear()
        process, moment = pack(hall, into), random.randrange(PICTURES)
        while len(Hall.asked) < moment and process.poll() is None:  # told by what was asked, however fast that is
            time.sleep(0.001)
        time.sleep(random.uniform(0, 0.1))
        process.send_signal(signal.SIGKILL)
        process.wait()
        had = {known.removeprefix(hall) for known in held(into / "c")}
        in_the_middle += 0 < len(had) < PICTURES * 0.97
        Hall.asked.clear()
        assert pack(hall, into).wait() == 1
        assert had.isdisjoint(Hall.asked), number
        assert state(into / "c") == undisturbed, number
        assert not list((into / "c" / ".pickcrate" / "incoming").iterdir())
    assert in_the_middle
    sys.stdout.write(f"{KILLS} kills, {in_the_middle} of them in the middle of the transfers\n")


def test_a_file_that_was_put_in_place_and_not_written_down_is_no_second_copy(hall: str, tmp_path: Path) -> None:
    """Of two pictures with the same bytes the later one came first, and the run was killed before it wrote that down."""
    assert pack(hall, tmp_path).wait() == 1
    crate = tmp_path / "c"
    undisturbed = state(crate)
    with closing(sqlite3.connect(crate / ".pickcrate" / "ledger.sqlite")) as db, db:
        (crate / "png" / "kite-29.png").write_bytes(kite(28))
        db.execute("UPDATE picture SET state = 'reserved', file = '', sha256 = '' WHERE address LIKE '%/kite-29.png'")
    assert pack(hall, tmp_path).wait() == 1
    assert state(crate) == undisturbed
    # The same bytes where the user moved them are the user's.
    (crate / "png" / "kite-28.png").rename(crate / "png" / "kite-29.png")
    with closing(sqlite3.connect(crate / ".pickcrate" / "ledger.sqlite")) as db, db:
        db.execute("UPDATE picture SET state = 'reserved', file = '', sha256 = '' WHERE address LIKE '%/kite-29.png'")
    assert pack(hall, tmp_path).wait() == 1
    assert (crate / "png" / "kite-29.png").is_file()


@pytest.mark.parametrize("shelf", ["", "{type}"])
def test_files_whose_rows_were_lost_are_known_by_their_bytes(hall: str, tmp_path: Path, shelf: str) -> None:
    assert pack(hall, tmp_path / "whole", shelf=shelf).wait() == 1
    crate = tmp_path / "killed" / "c"
    assert pack(hall, crate.parent, shelf=shelf, code=KILLED).wait() == -signal.SIGKILL
    assert len(list(crate.rglob("*.png"))) > 20 > len(held(crate))
    assert pack(hall, crate.parent, shelf=shelf).wait() == 1
    assert state(crate) == state(tmp_path / "whole" / "c")
