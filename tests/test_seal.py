"""Sealed crates: packages that the standards' own validators pass, and checks that find what is wrong with one."""

import csv
import hashlib
import json
import shutil
import tarfile
from importlib.resources import files
from pathlib import Path

import bagit as reference  # type: ignore[import-untyped]
import mlcroissant  # type: ignore[import-untyped]
import pytest
import requests
from rocrate_validator import models, services  # type: ignore[import-untyped]
from rocrate_validator.utils.http import HttpRequester  # type: ignore[import-untyped]

from conftest import Program, Server, picture
from pickcrate.sealing.bagit import check_bag

pytestmark = pytest.mark.filterwarnings("ignore::DeprecationWarning")  # of the validators


@pytest.fixture
def crate(run: Program, web: Server, tmp_path: Path) -> Path:
    """A crate with a shelf, names to encode, and credits."""
    for n, name in enumerate(("a", "b", "c")):
        (web.www / f"{name}.png").write_bytes(picture("PNG", (30 + n, 20), (n, 0, 99)))
    (web.www / "d.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"><path d="M0 0h4"/></svg>'
    )
    licence = "<a rel=license href='https://creativecommons.org/licenses/by/4.0/'>CC</a>"
    (web.www / "p.html").write_text(
        f"<title>Hall</title><figure><img src=a.png alt='Red délta'><figcaption>Photo: Ilse {licence}</figcaption></figure>"
        "<img src=b.png><img src=c.png alt='Kite & co'><img src=d.svg>"
    )
    done = run(
        "pack", f"{web.address}/p.html", "--crate", "kites", "--shelf", "{type}", "--name", "{alt}", "--name", "{stem}"
    )
    assert done.code == 0, done
    return tmp_path / "crates" / "kites"


def test_a_bag_is_valid(run: Program, crate: Path) -> None:
    done = run("seal", "kites", "--as", "bagit", "--publisher", "Galewick Kite Museum")
    assert (done.code, "4 pictures sealed" in done.out) == (0, True)
    bag = reference.Bag(str(crate.with_name("kites.bagit")))
    bag.validate(processes=1)
    assert bag.info["Source-Organization"] == "Galewick Kite Museum"
    assert sorted(bag.algorithms) == ["sha256", "sha512"]
    assert (bag.has_oxum(), min(bag.payload_files())) == (True, "data/png/Kite & co.png")
    assert (Path(str(bag)) / "crate.csv").is_file()
    assert run("seal", "--check", bag).code == 0
    again = run("seal", "kites", "--as", "bagit")
    assert (again.code, "is there already" in again.err) == (2, True)


def told_by_validator(package: Path, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Return what RO-Crate's validator has against a package; the context comes from the reference library."""
    answer = requests.Response()
    answer.status_code, answer.headers["Content-Type"] = 200, "application/ld+json"
    answer._content = (files("rocrate") / "data" / "ro-crate.jsonld").read_bytes()
    monkeypatch.setattr(HttpRequester, "get", lambda *_, **__: answer, raising=False)
    settings = services.ValidationSettings(
        rocrate_uri=str(package), profile_identifier="ro-crate-1.2", requirement_severity=models.Severity.REQUIRED
    )
    return [str(issue.message) for issue in services.validate(settings).get_issues()]


def test_an_ro_crate_is_valid(run: Program, crate: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert run("seal", "kites", "--as", "ro-crate").code == 0
    package = crate.with_name("kites.ro-crate")
    assert told_by_validator(package, monkeypatch) == []
    graph = {node["@id"]: node for node in json.loads((package / "ro-crate-metadata.json").read_text())["@graph"]}
    red = graph["png/Red%20d%C3%A9lta.png"]
    assert (red["creditText"], red["license"]) == ("Ilse", {"@id": "https://creativecommons.org/licenses/by/4.0/"})
    assert (red["sha256"], graph[red["isPartOf"]["@id"]]["@type"]) == (
        hashlib.sha256((package / "png" / "Red délta.png").read_bytes()).hexdigest(), "WebPage",
    )  # fmt: skip
    assert graph["png/Kite%20&%20co.png"]["contentSize"] == str((package / "png" / "Kite & co.png").stat().st_size)
    broken = json.loads((package / "ro-crate-metadata.json").read_text())
    del broken["@graph"][1]["license"], broken["@graph"][1]["datePublished"]
    (package / "ro-crate-metadata.json").write_text(json.dumps(broken))
    assert told_by_validator(package, monkeypatch) != []


def test_a_croissant_is_loaded_by_its_own_library(run: Program, crate: Path) -> None:
    assert run("seal", "kites", "--as", "croissant").code == 0
    package = crate.with_name("kites.croissant")
    loaded = mlcroissant.Dataset(jsonld=str(package / "croissant.json"))
    assert not loaded.metadata.issues.errors
    assert not loaded.metadata.issues.warnings
    records = list(loaded.records("picture"))
    assert {record["picture/file"].decode() for record in records} == {
        "png/Red délta.png", "png/b.png", "png/Kite & co.png", "svg/d.svg",
    }  # fmt: skip
    assert {record["image/content"].size for record in loaded.records("image")} == {(30, 20), (31, 20), (32, 20)}


def test_one_package_may_be_all_three(run: Program, crate: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    package = crate.with_name("all")
    line = ("--as", "bagit", "--as", "ro-crate,croissant", "--description", "Three\nkites")
    assert run("seal", "kites", *line, "--out", package).code == 0
    reference.Bag(str(package)).validate(processes=1)
    assert told_by_validator(package / "data", monkeypatch) == []
    assert not mlcroissant.Dataset(jsonld=str(package / "data" / "croissant.json")).metadata.issues.errors
    checked = run("seal", "--check", package)
    assert (checked.code, "bagit and ro-crate and croissant: complete" in checked.out) == (0, True)
    assert "External-Description: Three kites" in (package / "bag-info.txt").read_text()


@pytest.mark.usefixtures("crate")
def test_a_tar_is_the_same_for_the_same_crate(run: Program, tmp_path: Path) -> None:
    for name in ("one.tar", "two.tar"):
        assert run("seal", "kites", "--as", "tar", "--out", tmp_path / name).code == 0
    assert (tmp_path / "one.tar").read_bytes() == (tmp_path / "two.tar").read_bytes()
    with tarfile.open(tmp_path / "one.tar") as archive:
        names = archive.getnames()
        assert names == sorted(names)
        assert {(member.uid, member.mtime, member.uname) for member in archive} == {(0, 0, "")}
    assert run("seal", "--check", tmp_path / "one.tar").code == 0
    run("seal", "kites", "--as", "tar", "--as", "bagit", "--out", tmp_path / "bag.tar")
    checked = run("seal", "--check", tmp_path / "bag.tar")
    assert (checked.code, "bagit and tar: complete" in checked.out) == (0, True)
    octets = bytearray((tmp_path / "one.tar").read_bytes())
    octets[octets.index(b"IDAT") + 6] ^= 1
    (tmp_path / "one.tar").write_bytes(octets)
    assert "is not what crate.csv says" in run("seal", "--check", tmp_path / "one.tar").out


DAMAGES = [
    ("kites.bagit", "data/png/b.png", b"x", "data/png/b.png is not what the sha256 manifest says"),
    ("kites.bagit", "data/png/b.png", None, "data/png/b.png is missing"),
    ("kites.bagit", "data/new.png", b"x", "data/new.png is in no sha256 manifest"),
    ("kites.bagit", "bag-info.txt", b"Payload-Oxum: 1.1\n", "and bag-info.txt says 1.1"),
    ("kites.bagit", "manifest-sha256.txt", b"abc\n", "cannot be checked: manifest-sha256.txt, line 1"),
    ("kites.ro-crate", "png/b.png", b"x", "png/b.png is not what ro-crate-metadata.json says"),
    ("kites.ro-crate", "png/b.png", None, "png/b.png is missing"),
    ("kites.ro-crate", "ro-crate-metadata.json", b"{}", "has no graph"),
    ("kites.ro-crate", "ro-crate-metadata.json", b'{"@graph": [{"@id": []}, 5]}', "crate.csv is not described"),
    (
        "kites.ro-crate",
        "ro-crate-metadata.json",
        b'{"@graph": [{"@id": "./", "hasPart": {"@id": ["x"]}}]}',
        "['x'] is a part that is not",
    ),
    (
        "kites.ro-crate",
        "ro-crate-metadata.json",
        b'{"@graph": [{"@id": "./", "hasPart": 5}]}',
        "what has no @id is a part",
    ),
    (
        "kites.ro-crate",
        "ro-crate-metadata.json",
        b'{"@graph": [{"@id": "./", "hasPart": {"@id": "../a"}}, {"@id": "../a"}]}',
        "../a leads out of",
    ),
    ("kites.ro-crate", "ro-crate-metadata.json", b"[" * 100_000, "cannot be checked"),
    ("kites.croissant", "croissant.json", b'{"distribution": 5}', "does not say where the list is"),
    ("kites.croissant", "croissant.json", b"[]", "croissant.json is no JSON object"),
    ("kites.croissant", "crate.csv", None, "crate.csv is missing"),
    ("kites.croissant", "png/b.png", b"x", "png/b.png is not what crate.csv says"),
    ("kites.bagit", "bagit.txt", b"Version: 1\n", "bagit.txt does not say which version it is of"),
    ("kites.bagit", "manifest-sha256.txt", b"0a  ../../x\n", "../../x leads out of the bag"),
    ("kites.croissant", "crate.csv", b"file\nx.png\n", "crate.csv is not what croissant.json says"),
    ("kites.croissant", "png/b.png", None, "png/b.png is missing"),
]


@pytest.mark.parametrize(("package", "name", "octets", "words"), DAMAGES)
def test_a_check_says_what_is_wrong(
    package: str, name: str, octets: bytes | None, words: str, run: Program, crate: Path
) -> None:
    run("seal", "kites", "--as", package.partition(".")[2])
    path = crate.with_name(package) / name
    path.unlink() if octets is None else path.write_bytes(octets)
    checked = run("seal", "--check", crate.with_name(package))
    assert (checked.code in {1, 2}, words in checked.out + checked.err) == (True, True), checked


def test_only_what_is_as_it_was_fetched_is_sealed(run: Program, crate: Path) -> None:
    (crate / "png" / "b.png").unlink()
    done = run("seal", "kites", "--as", "ro-crate")
    assert (done.code, "1 picture moved or deleted since, and not in it" in done.out) == (0, True)
    with (crate.with_name("kites.ro-crate") / "crate.csv").open(encoding="utf-8", newline="") as file:
        assert "png/b.png" not in {row["file"] for row in csv.DictReader(file)}
    (crate / "png" / "Kite & co.png").write_bytes(b"other")
    altered = run("seal", "kites", "--as", "bagit")
    assert (altered.code, "is not as it was fetched" in altered.err, "audit kites" in altered.err) == (5, True, True)
    assert sorted(path.name for path in crate.parent.iterdir()) == ["kites", "kites.ro-crate"]
    shutil.rmtree(crate / "png")
    shutil.rmtree(crate / "svg")
    assert run("seal", "kites", "--as", "tar").code == 5
    for wrong in (
        ("kites",),
        ("kites", "--as", "zip"),
        ("none", "--as", "tar"),
        ("--check", crate),
        ("--check", "none"),
    ):
        assert run("seal", *wrong).code == 2


def test_manifests_encode_what_the_standard_says(tmp_path: Path) -> None:
    (tmp_path / "data").mkdir()
    (tmp_path / "data" / "100%\n.png").write_bytes(b"x")
    (tmp_path / "bagit.txt").write_text("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n")
    (tmp_path / "manifest-sha256.txt").write_text(f"{hashlib.sha256(b'x').hexdigest().upper()} *data/100%25%0A.png\n")
    assert list(check_bag(tmp_path)) == []
