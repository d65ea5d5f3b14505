"""What is done for each picture, counted: nothing grows faster than the page or the list, or is done for nothing."""

import hashlib
import io
import itertools
import random
import shutil
import sqlite3
import subprocess
import sys
from collections import Counter, deque
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import date
from pathlib import Path
from types import FrameType

import pytest
from msgspec.structs import replace

from conftest import picture
from pickcrate.crate.entry import State
from pickcrate.crate.hashing import Hashed, Hashing
from pickcrate.crate.incoming import Arrival
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from pickcrate.crate.store import Crate
from pickcrate.finders import find
from pickcrate.finders.mentions import mentioned
from pickcrate.finders.style.css import StyleSheet, find_in_sheet
from pickcrate.finders.style.effort import Effort
from pickcrate.name import Naming
from pickcrate.read.pages.document import read_document
from pickcrate.record import csv_lines, write_csv
from pickcrate.run.events import Found
from pickcrate.run.look.names import named
from pickcrate.values.evidence import AS_SHOWN
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Candidate, Image
from pickcrate.values.reference import Reference
from shapes import SHAPES, Shape, looked

NAMING = Naming((), date(2026, 11, 26))


@contextmanager
def calls_counted() -> Iterator[Counter[str]]:
    """Count the calls that are made, of our own functions and of others."""
    made: Counter[str] = Counter()

    def note(_frame: FrameType, event: str, _arg: object) -> None:
        made[event] += 1

    sys.setprofile(note)
    try:
        yield made
    finally:
        sys.setprofile(None)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda shape: shape.name.replace(" ", "-"))
def test_looking_at_twice_as_much_takes_twice_as_many_calls(shape: Shape) -> None:
    counts = []
    looked(shape.make(20).encode())  # what is made ready once is not counted
    for times in (1, 2, 4):
        octets = shape.make(shape.size * times // 50).encode()
        with calls_counted() as made:
            looked(octets)
        counts.append(made["call"] + made["c_call"])
    assert counts[1] < 2.4 * counts[0], counts
    assert counts[2] < 2.4 * counts[1], counts


def image(number: int, url: str = "") -> Image:
    shown = Reference(url or f"https://kites.example/kite-{number}.png", "", "", FoundIn.LIST, "", "", number)
    return Image(number, "kites.txt", shown, (shown,), candidates=(Candidate(shown.url, AS_SHOWN),))


def test_a_new_crate_is_asked_nothing_and_written_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[object] = []
    usage = shutil.disk_usage

    def counted(path: Path) -> object:
        asked.append(path)
        return usage(path)

    monkeypatch.setattr(shutil, "disk_usage", counted)
    statements: list[str] = []
    with Crate(tmp_path / "c") as crate:
        crate.ledger._db.set_trace_callback(statements.append)
        for number in range(100):
            entry = crate.reserve(image(number), NAMING)
            arrival = crate.take_in(picture(size=(8, 8 + number)), None, None)
            assert isinstance(arrival, Arrival)
            assert crate.ledger.find_content(arrival.sha256) is None
            file = crate.publish(entry, arrival)
            crate.record(replace(entry, state=State.HELD, file=file or "", sha256=arrival.sha256))
        crate.ledger.commit()
    kinds = Counter(statement.split()[0] for statement in statements)
    assert kinds["INSERT"] == 100
    assert not kinds["SELECT"]
    assert not kinds["UPDATE"]
    assert len(asked) <= 3  # the disk, once a second


def test_rows_that_many_are_drawn_ahead_of_are_written_once(tmp_path: Path) -> None:
    """As a run does it: names are given out far ahead of what is done, and what is done is committed every moment."""
    statements: list[str] = []
    with Crate(tmp_path / "c") as crate:
        ahead = deque(crate.reserve(image(number), NAMING) for number in range(300))
        crate.ledger._db.set_trace_callback(statements.append)
        for number in range(300, 900):
            ahead.append(crate.reserve(image(number), NAMING))
            done = ahead.popleft()
            crate.record(replace(done, state=State.HELD, file=f"{done.name}.png", sha256=f"s{number}"))
            if number % 20 == 0:
                crate.ledger.commit()
        crate.ledger._db.set_trace_callback(None)
    kinds = Counter(statement.split()[0] for statement in statements)
    assert 581 <= kinds["INSERT"] <= 600  # each that is done, and none that is only drawn
    assert not kinds["UPDATE"]
    with Crate(tmp_path / "c") as crate:  # what was only drawn is reserved all the same, as this run ended in order
        assert [crate.reserve(image(number), NAMING).seq for number in range(900)] == list(range(1, 901))


def filled(places: Places, seed: int, *, knows_nothing: bool) -> list[object]:
    """Do the same with a ledger as its crate would, in an order of chance; return all that it answered."""
    chance = random.Random(seed)
    answers: list[object] = []
    with closing(Ledger(places)) as ledger:
        if knows_nothing:
            ledger._begun = None  # as one that had rows: it looks for everything
        entries = []
        for _ in range(400):
            address, name = f"a{chance.randrange(60)}", chance.choice("kKiIöÖ") + str(chance.randrange(40))
            match chance.randrange(6):
                case 0 | 1:
                    entry = ledger.reserve(address, name)
                    entries += [entry] if entry is not None else []
                    answers.append(entry)
                case 2 if entries:
                    entry = chance.choice(entries)
                    ledger.write(
                        replace(entry, state=State.HELD, file=f"{entry.name}.png", sha256=f"s{chance.randrange(9)}")
                    )
                case 3 if entries:
                    at = chance.randrange(len(entries))
                    if not ledger.name_is_taken(name):
                        entries[at] = ledger.rename(entries[at], name)
                case 4:
                    found = ledger.find_content(f"s{chance.randrange(9)}")
                    answers += [
                        ledger.find(address),
                        ledger.name_is_taken(name),
                        found and found.sha256,
                        ledger.is_held(f"{name}.png"),
                    ]
                case _:
                    ledger.commit()
        answers.append(list(ledger.held(("seq", "address", "name", "file", "sha256"))))
    return answers


@pytest.mark.parametrize("seed", range(8))
def test_what_a_new_ledger_does_not_look_for_is_not_there(seed: int, tmp_path: Path) -> None:
    given = []
    for knows_nothing in (False, True):
        places = Places(tmp_path / str(knows_nothing))
        places.inner.mkdir(parents=True)
        given.append(filled(places, seed, knows_nothing=knows_nothing))
        with closing(sqlite3.connect(places.ledger)) as database:
            given.append(database.execute("SELECT * FROM picture ORDER BY seq").fetchall())
    assert given[0] == given[2]
    assert given[1] == given[3]


def test_names_beyond_those_in_memory_are_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    found = [Found(replace(image(number % 37), number=number)) for number in range(200)]
    found += [
        Found(replace(image(0), candidates=(Candidate(f"https://b.example/{n}/kite-3.png", AS_SHOWN),))) for n in "abc"
    ]

    def names() -> list[str]:
        events = named(iter(found), NAMING, lambda _url, _trust: "")
        return [event.name for event in events if isinstance(event, Found)]

    in_memory = names()
    assert len(set(in_memory)) == 40
    monkeypatch.setattr("pickcrate.run.look.names._MOST_IN_MEMORY", 10)
    assert names() == in_memory


def test_rules_for_what_a_page_does_not_have_cost_no_search_of_it() -> None:
    rules = "".join(f".of-another-page-{n} {{ background: url(no-{n}.jpg) }}" for n in range(2_000))
    kept = r".Kite b, #none { background: url(a.jpg) } .k\:ite { background: url(b.jpg) } [lang=en].no-such { color: url(c.jpg) }"
    text = f"<style>{rules}{kept}</style><p class=kite lang=en><b class=k:ite>Kite</b>" + "<i>kite</i>" * 2_000
    page = read_document(text.encode(), source="", address="https://kites.example/")
    effort = Effort()
    sheet = StyleSheet(rules + kept, page.base, page, find(page).references[0], effort)
    found = [
        item.url.rpartition("/")[2] for item in find_in_sheet(sheet, itertools.count()) if isinstance(item, Reference)
    ]
    assert found == ["a.jpg", "b.jpg"]
    assert Effort().characters - effort.characters < 100 * len(text)
    other = read_document(b"<p class=of-another-page-7>Kite", source="", address="https://kites.example/2")
    in_other = find_in_sheet(replace(sheet, page=other), itertools.count())
    assert [item.url[-8:] for item in in_other if isinstance(item, Reference)] == ["no-7.jpg"]


def test_hashes_are_those_of_all_that_came() -> None:
    bodies = [random.Random(n).randbytes(n * 4_001) for n in range(40)]
    expected = [hashlib.sha256(body).hexdigest() for body in bodies]
    with closing(Hashed[int]()) as small:
        taken: list[tuple[int, str]] = []
        for number, body in enumerate(bodies):
            small.give(number, body)
            taken += small.take(most_left=5)
            assert small.pending <= 5
        taken += small.take(most_left=0)
    assert taken == list(enumerate(expected))
    with closing(Hashing()) as hashing:
        running = [hashing.begin() for _ in bodies]
        for at in range(0, 160_000, 7_000):  # all at once, piece by piece
            for one, body in zip(running, bodies, strict=True):
                one.add([body[at : at + 3_000], body[at + 3_000 : at + 7_000]])
        assert [one.hexdigest() for one in running] == expected
        assert all(one.is_done for one in running)


def modules_after(folder: Path, *line: str) -> set[str]:
    """Return the modules that a command has loaded when it is done."""
    code = "import sys; from pickcrate.__main__ import main\ntry: main()\nexcept SystemExit: print(*sys.modules)"
    done = subprocess.run([sys.executable, "-c", code, *line], cwd=folder, capture_output=True, text=True, check=True)
    return set(done.stdout.splitlines()[-1].split())


def test_lists_are_written_the_same_whether_a_cell_needs_care_or_not() -> None:
    chance = random.Random(5)
    cells = [
        *(
            "a",
            "=x",
            "-1",
            "'=b",
            "x@y",
            "http://u:p@h/x",
            "\rfoo",
            "\nfoo",
            '"q',
            '",=',
            "a,b",
            "\uff1dx",
            "a\nb",
            "\r",
        ),
        *(",=1", 'a,"=x', "'", "'a", "", "plain", "https://kites.example/red-delta.jpg"),
    ]
    for _ in range(2_000):
        rows = [
            [chance.choice([*cells, None, 5]) for _ in range(chance.randint(1, 6))] for _ in range(chance.randint(1, 5))
        ]
        stream = io.StringIO(newline="")
        write_csv(stream, rows)
        assert stream.getvalue() == "".join(csv_lines(rows)), rows


def test_words_are_found_in_any_case_and_across_what_is_looked_through_at_a_time(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr("pickcrate.finders.mentions._AT_A_TIME", 16)
    words = ("manifest", ".dzi", "kite", "zoom")
    for at in range(40):
        text = "\ud83e" * at + "ManiFEST" + "\u0130" * (40 - at) + ".DZI"
        assert mentioned(text, words) == {"manifest", ".dzi"}, at
    assert mentioned("", words) == frozenset()


def test_a_page_on_disk_is_looked_at_without_what_the_network_needs(tmp_path: Path) -> None:
    (tmp_path / "kite.png").write_bytes(picture())
    (tmp_path / "kites.html").write_text("<title>Kites</title><img src=kite.png alt=Kite>")
    modules = modules_after(tmp_path, "look", "kites.html")
    assert "pickcrate.run.look.documents" in modules
    assert modules.isdisjoint(("pycurl", "hashlib", "sqlite3", "socket", "PIL", "rich.console", "tomllib"))


def test_a_list_is_packed_without_what_pages_need(tmp_path: Path) -> None:
    (tmp_path / "kite.png").write_bytes(picture())
    (tmp_path / "kites.txt").write_text((tmp_path / "kite.png").as_uri())
    modules = modules_after(tmp_path, "pack", "kites.txt", "--crate", "c")
    assert "pickcrate.run.pack.filling" in modules
    assert modules.isdisjoint(("pickcrate.finders", "pickcrate.items", "selectolax", "PIL", "rich.console", "tomllib"))
