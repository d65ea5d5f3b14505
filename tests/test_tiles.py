"""Pictures that come in tiles: descriptions, addresses of tiles, and whole pictures from real trees and a real server."""

import json
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PIL import Image, ImageChops, ImageDraw

from conftest import Program, Server, picture, wait_until
from pickcrate.addresses.stems import stem
from pickcrate.finders import find
from pickcrate.fullsize.description import is_description, pyramid_of, service_of
from pickcrate.read.data.iiif import read_iiif
from pickcrate.read.data.pyramid import read_pyramid
from pickcrate.read.pages.document import read_document
from pickcrate.read.recognise import Kind, recognise
from pickcrate.values.findings import NeedKind
from pickcrate.values.tiling import Layout, Tiling

AT = "https://kites.example/tiles/red"
SIDES = (700, 500)
DZI = (
    '<?xml version="1.0"?><Image xmlns="http://schemas.microsoft.com/deepzoom/2008" Format="{format}" Overlap="1" '
    'TileSize="254"><Size Height="{height}" Width="{width}"/></Image>'
)
DZI_JSON = {"Image": {"xmlns": "http://schemas.microsoft.com/deepzoom/2008", "Format": "jpg", "Overlap": "2", "TileSize": "256", "Size": {"Width": "700", "Height": "500"}}}  # fmt: skip
PROPERTIES = '<IMAGE_PROPERTIES WIDTH="700" HEIGHT="501" NUMTILES="{}" NUMIMAGES="1" VERSION="1.8" TILESIZE="256" />'
INFO: dict[str, Any] = {
    "@context": "http://iiif.io/api/image/2/context.json", "@id": AT, "protocol": "http://iiif.io/api/image",
    "width": 7000, "height": 5000, "tiles": [{"width": 512, "scaleFactors": [1, 2, 4]}],
    "profile": ["http://iiif.io/api/image/2/level2.json"],
}  # fmt: skip
INFO_3: dict[str, Any] = {**INFO, "@context": "http://iiif.io/api/image/3/context.json", "profile": "level2"}


def deep_zoom(width: int = 700, height: int = 500, kind: str = "jpg") -> Tiling:
    tiling = read_pyramid(DZI.format(width=width, height=height, format=kind).encode(), f"{AT}.dzi?key=7")
    assert tiling is not None
    return tiling


def described(**changes: Any) -> Tiling:
    told = {**(INFO_3 if changes.pop("third", False) else INFO), **changes}
    [reference] = read_iiif(json.dumps(told).encode(), f"{AT}/info.json").references
    assert reference.tiling is not None
    return reference.tiling


def test_deep_zoom_names_its_tiles_by_level_column_and_row() -> None:
    level = deep_zoom().levels[0]
    assert (level.number, level.columns, level.rows) == (10, 3, 2)
    last = list(level.plan())[-1]
    assert (last.url, last.size, last.place, last.own, last.margin) == (
        f"{AT}_files/10/2_1.jpg?key=7", (193, 247), (508, 254), (192, 246), (1, 1),
    )  # fmt: skip
    assert deep_zoom().wholes[0].url == f"{AT}_files/8/0_0.jpg?key=7"
    from_json = read_pyramid(json.dumps(DZI_JSON).encode(), f"{AT}.dzi")
    assert from_json is not None
    assert (from_json.levels[0].overlap, from_json.levels[0].tiles) == (2, 6)


@pytest.mark.parametrize(
    ("tiles", "sizes"), [(9, [(700, 501), (350, 250), (175, 125)]), (10, [(700, 501), (350, 251)])]
)
def test_zoomify_counts_its_tiles_through_all_tiers(tiles: int, sizes: list[tuple[int, int]]) -> None:
    tiling = read_pyramid(PROPERTIES.format(tiles).encode(), f"{AT}/ImageProperties.xml")
    assert tiling is not None
    assert [(level.width, level.height) for level in tiling.levels][: len(sizes)] == sizes
    many = read_pyramid(b'<IMAGE_PROPERTIES WIDTH="9000" HEIGHT="6000" TILESIZE="256"/>', f"{AT}/ImageProperties.xml")
    assert many is not None
    largest = many.levels[0]
    assert next(largest.plan()).url == f"{AT}/TileGroup{largest.before // 256}/{largest.number}-0-0.jpg"
    assert list(largest.plan())[-1].url.startswith(f"{AT}/TileGroup{(largest.before + largest.tiles - 1) // 256}/")


SERVICES = [
    # what is announced, the first whole version, the first tile of the first grid
    ({}, "full/full", (7000, 5000), "0,0,2048,2048/2048,"),
    ({"third": True}, "full/max", (7000, 5000), "0,0,2048,2048/2048,2048"),
    ({"profile": ["http://iiif.io/api/image/2/level0.json"]}, "full/full", (7000, 5000), "0,0,512,512/512,"),
    ({"profile": ["http://iiif.io/api/image/2/level2.json", {"maxWidth": 1200}]}, "full/max", (1200, 857), "0,0,1024,1024/1024,"),
    ({"third": True, "maxWidth": 400}, "full/max", (400, 285), "0,0,256,256/256,256"),
    ({"third": True, "maxArea": 700_000}, "full/max", (989, 707), "0,0,512,512/512,512"),
    ({"third": True, "tiles": None}, "full/max", (7000, 5000), "0,0,1024,1024/1024,1024"),
]  # fmt: skip


@pytest.mark.parametrize(("changes", "whole", "sides", "first"), SERVICES)
def test_an_image_service_is_asked_for_what_it_allows(
    changes: dict[str, Any], whole: str, sides: tuple[int, int], first: str
) -> None:
    tiling = described(**changes)
    best = tiling.wholes[0]
    assert (best.url, (best.width, best.height)) == (f"{AT}/{whole}/0/default.jpg", sides)
    assert next(tiling.levels[0].plan()).url == f"{AT}/{first}/0/default.jpg"


def test_of_static_files_only_what_is_there_is_asked_for() -> None:
    static = ["http://iiif.io/api/image/2/level0.json", {"formats": ["png"]}]
    tiling = described(width=1500, height=1100, profile=static, sizes=[{"width": 750, "height": 550}])
    assert [version.url.removeprefix(AT) for version in tiling.wholes][2:] == [
        "/full/750,/0/default.png",
        "/full/375,/0/default.png",
        "/0,0,1500,1100/375,/0/default.png",
    ]
    edge = list(tiling.levels[1].plan())[-1]
    assert (edge.url.removeprefix(AT), edge.size) == ("/1024,1024,476,76/238,/0/default.png", (238, 38))


def test_a_size_below_is_put_together_where_the_largest_is_too_large() -> None:
    tiling = described()
    assert [(level.width, level.tiles) for level in tiling.within(50_000_000)][:2] == [(7000, 12), (7000, 140)]
    assert tiling.within(10_000_000)[0].width == 3500
    assert str(tiling.within(10_000_000)[0]) == "4 IIIF tiles of a smaller size (it is kept in 7000×5000)"
    assert tiling.within(10) == ()


@pytest.mark.parametrize(
    "octets",
    [
        b'<Image TileSize="0" Format="jpg"><Size Width="9" Height="9"/></Image>',
        b'<Image TileSize="254" Overlap="9999" Format="jpg"><Size Width="9" Height="9"/></Image>',
        b'<Image TileSize="254" Format="exe"><Size Width="9" Height="9"/></Image>',
        b'<IMAGE_PROPERTIES WIDTH="99999999999" HEIGHT="7" TILESIZE="256"/>',
        b'{"Image": {"TileSize": "256", "Size": [7]}}',
        b'{"Image": 7}',
        b"<Image",
    ],
)
def test_nonsense_describes_nothing(octets: bytes) -> None:
    assert read_pyramid(octets, f"{AT}.dzi") is None


def test_descriptions_are_told_by_their_content() -> None:
    assert recognise(DZI.format(width=7, height=7, format="jpg").encode()) is Kind.TILES
    assert recognise(json.dumps(DZI_JSON).encode()) is Kind.TILES
    assert recognise(PROPERTIES.format(9).encode()) is Kind.TILES
    assert recognise(b"<!doctype html><script>Image = {xmlns: 'x', TileSize: 7}</script>") is Kind.PAGE


@pytest.mark.parametrize(
    ("url", "description", "name"),
    [
        (f"{AT}/full/300,/0/default.jpg", f"{AT}/info.json", "red"),
        (f"{AT}/full/!300,300/0/native.png", f"{AT}/info.json", "red"),
        (f"{AT}/10,10,300,300/300,/0/default.jpg", "", "red"),
        ("https://kites.example/a%2Fred.tif/full/max/0/default.jpg", "https://kites.example/a%2Fred.tif/info.json", "red"),
        (f"{AT}_files/8/0_0.jpg?key=7", f"{AT}.dzi?key=7", "red"),
        (f"{AT}/TileGroup0/0-0-0.jpg", f"{AT}/ImageProperties.xml", "red"),
        ("https://kites.example/full/red.jpg", "", "red"),
    ],
)  # fmt: skip
def test_the_address_of_a_version_tells_where_its_description_is(url: str, description: str, name: str) -> None:
    assert (service_of(url) or pyramid_of(url)) == description
    assert stem(url) == name
    assert not description or (is_description(description) and stem(description) == name)


VIEWERS = {
    "<script>V({tileSources: '/t/a.dzi'})</script>": "/t/a.dzi",
    "<script>V({tileSources: [\n '/t/a.xml', \"/t/b.xml\"]})</script>": "/t/a.xml /t/b.xml",
    '<div data-dzi="t/a.dzi?k=1&amp;m=2"></div>': "/p/t/a.dzi?k=1&m=2",
    '<a href="/iiif/red/info.json">Zoom</a>': "/iiif/red/info.json",
    "<script>Z.showImage('view', '/zoom/red')</script>": "/zoom/red/ImageProperties.xml",
    '<param name=FlashVars value="zoomifyImagePath=/zoom/red/&zoomifyX=0">': "/zoom/red/ImageProperties.xml",
    '<div class=map data-zoomify-url="/zoom/red/"></div>': "/zoom/red/ImageProperties.xml",
    '<script>new Zoomify({url: "/zoom/red/{TileGroup}/{z}-{x}-{y}.jpg", size: [9, 9]})</script>': "/zoom/red/ImageProperties.xml",
    "<script>L.tileLayer.zoomify('/zoom/red/{g}/{z}-{x}-{y}.jpg', {width: 9})</script>": "/zoom/red/ImageProperties.xml",
    '<script src="/js/zoomify.js"></script><script>zoomifyUrl = "/js/zoomify.min.js"</script>': "",
    "<p>Deep zoom and zoomify are words.</p>": "",
    "<script>fetch('/iiif/' + id + '/info.json'); fetch(id + '.dzi')</script>": "",
}


@pytest.mark.parametrize(("markup", "named"), VIEWERS.items())
def test_viewers_name_their_descriptions(markup: str, named: str) -> None:
    page = read_document(
        f"<title>Kites</title>{markup}".encode(), source="s", address="https://kites.example/p/", fields={}
    )
    needs = [need.url for need in find(page).needs if need.kind is NeedKind.TILES]
    assert " ".join(url.removeprefix("https://kites.example") for url in needs) == named


IN_SCRIPTS = [
    (
        '{Image: {xmlns: "http://schemas.microsoft.com/deepzoom/2008", Url: "/t/a_files/", Format: "png", Overlap: "1", '
        'TileSize: "254", Size: {Height: "500", Width: "700"}}}',
        Layout.DEEP_ZOOM, "https://kites.example/t/a_files/10/0_0.png",
    ),
    ('{"type": "zoomifytileservice", "width": 700, "height": 500, "tilesUrl": "\\/zoom\\/red\\/"}', Layout.ZOOMIFY, "https://kites.example/zoom/red/TileGroup0/2-0-0.jpg"),
]  # fmt: skip


@pytest.mark.parametrize(("described", "layout", "first"), IN_SCRIPTS)
def test_a_script_may_describe_a_picture_itself(described: str, layout: Layout, first: str) -> None:
    page = read_document(f"<script>V({{tileSources: {described}}})</script>".encode(), source="s", address="https://kites.example/p/", fields={})  # fmt: skip
    [reference] = find(page).references
    assert reference.tiling is not None
    assert (reference.tiling.layout, next(reference.tiling.levels[0].plan()).url) == (layout, first)


@pytest.fixture(scope="module")
def drawn(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A picture with something to see in every tile, and a pyramid of it for the server."""
    folder = tmp_path_factory.mktemp("drawn")
    image = Image.new("RGB", SIDES, "white")
    pen = ImageDraw.Draw(image)
    for step in range(0, 700, 7):
        pen.line((step, 0, 700 - step, 500), fill=(step * 3 % 256, step % 256, 255 - step % 256))
    image.save(folder / "red.png")
    tools: list[str | Path] = [
        "vips",
        "tiffsave",
        folder / "red.png",
        folder / "red.tif",
        "--tile",
        "--pyramid",
        "--compression",
        "lzw",
    ]
    subprocess.run([*tools, "--tile-width", "128", "--tile-height", "128"], check=True)
    return folder


def tree(web: Server, drawn: Path, layout: str, kind: str = "png") -> str:
    """Have the reference program write static tiles, and return the address of their description."""
    name = f"{layout}-{kind}"
    command: list[str | Path] = [
        "vips",
        "dzsave",
        drawn / "red.png",
        web.www / name,
        "--layout",
        layout,
        "--suffix",
        f".{kind}",
    ]
    subprocess.run([*command, "--tile-size", "128"], check=True)
    end = {"dz": ".dzi", "zoomify": "/ImageProperties.xml"}.get(layout, "/info.json")
    return f"{web.address}/{name}{end}"


def is_equal(path: Path, drawn: Path) -> bool:
    with Image.open(path) as one, Image.open(drawn / "red.png") as other:
        return one.size == other.size and ImageChops.difference(one.convert("RGB"), other).getbbox() is None


@pytest.mark.parametrize("layout", ["dz", "iiif", "zoomify"])
def test_static_tiles_become_the_very_picture(
    layout: str, run: Program, web: Server, drawn: Path, tmp_path: Path
) -> None:
    kind = "jpg" if layout == "zoomify" else "png"  # which knows no other
    done = run("pack", tree(web, drawn, layout, kind), "--crate", "c", "--format", "jsonl", "--name", "red")
    assert [(row["width"], row["height"], row["type"]) for row in done.rows] == [
        (*SIDES, "jpeg" if kind == "jpg" else kind)
    ]
    assert done.rows[0]["evidence"].startswith("put together of ")
    assert kind == "jpg" or is_equal(tmp_path / "crates" / "c" / "red.png", drawn)
    assert not list((tmp_path / "crates" / "c" / ".pickcrate" / "tiles").iterdir())
    assert run("audit", "c").code == 0


def test_the_tiles_that_a_viewer_shows_are_one_picture(run: Program, web: Server, drawn: Path) -> None:
    for layout, level in (("dz", 10), ("zoomify", 2)):
        root = tree(web, drawn, layout, "jpg").removesuffix(".dzi").removesuffix("/ImageProperties.xml")
        names = [
            f"{root}_files/{level}/{n}_0.jpg" if layout == "dz" else f"{root}/TileGroup0/{level}-{n}-0.jpg"
            for n in range(3)
        ]
        page = "".join(f"<img src={name}>" for name in names)
        (web.www / "p.html").write_text(f"<h1>Red</h1>{page}<img src={web.address}/pier.jpg>")
        rows = run("look", f"{web.address}/p.html", "--no-robots", "--format", "jsonl").rows
        assert [row["width"] for row in rows] == [SIDES[0], None]
        assert {row["heading"] for row in rows} == {"Red"}


def test_version_3_is_spelled_its_own_way(run: Program, web: Server, drawn: Path) -> None:
    address = tree(web, drawn, "iiif3", "jpg")
    done = run("pack", address, "--crate", "c", "--format", "jsonl")
    assert (done.rows[0]["width"], done.rows[0]["file"]) == (700, "iiif3-jpg.jpg")


@pytest.fixture
def service(web: Server, drawn: Path) -> Iterator[str]:
    """A real image server, which sends nothing wider or higher than 300 pixels at once."""
    socket = web.log.parent / "iip.socket"
    known = {
        "FILESYSTEM_PREFIX": f"{drawn}/",
        "MAX_CVT": "300",
        "VERBOSITY": "0",
        "LOGFILE": str(web.log.parent / "iip.log"),
    }
    program = shutil.which("iipsrv.fcgi", path=f"{os.environ['PATH']}:/usr/lib/iipimage-server")
    assert program, "the image server is missing: scripts/test installs it"
    process = subprocess.Popen([program, "--bind", socket], env={**os.environ, **known}, stdout=subprocess.DEVNULL)
    wait_until(socket.exists)
    socket.chmod(0o777)
    yield f"{web.address}/service/red.tif"
    process.terminate()
    process.wait()
    socket.unlink()


def test_a_server_that_limits_is_asked_for_regions(
    run: Program, web: Server, service: str, drawn: Path, tmp_path: Path
) -> None:
    (web.www / "p.html").write_text(f'<img src="{service}/full/100,/0/default.jpg" alt="Red">')
    [row] = run("look", f"{web.address}/p.html", "--format", "jsonl").rows
    assert (row["url"], row["width"], row["found_in"]) == (f"{service}/info.json", 700, "img")
    assert row["evidence"] == "put together of 6 IIIF tiles"
    done = run("pack", f"{web.address}/p.html", "--crate", "c")
    assert done.code == 0, done
    with Image.open(tmp_path / "crates" / "c" / "red.jpg") as packed, Image.open(drawn / "red.png") as original:
        assert packed.size == SIDES
        shrunk = [one.convert("L").resize((70, 50)) for one in (packed, original)]
        assert max(ImageChops.difference(*shrunk).tobytes()) < 24


def test_a_missing_tile_is_said_and_the_next_size_taken(run: Program, web: Server, drawn: Path) -> None:
    address = tree(web, drawn, "dz")
    (web.www / "dz-png_files" / "10" / "3_1.png").unlink()
    done = run("pack", address, "--crate", "c", "--format", "jsonl")
    assert (done.code, done.rows[0]["width"]) == (0, 350)
    assert "3_1.png: the server answered 404 Not Found; a smaller size" in done.rows[0]["error"]
    for folder in (web.www / "dz-png_files").iterdir():
        if folder.name.isdecimal() and int(folder.name) > 7:
            (folder / "0_0.png").write_bytes(picture(size=(9, 9)))
    whole = run("pack", address, "--crate", "d", "--format", "jsonl", "--fresh")
    assert (whole.rows[0]["width"], whole.rows[0]["url"]) == (88, f"{web.address}/dz-png.dzi")
    assert whole.rows[0]["shown_url"].endswith("/7/0_0.png")
    assert "9×9 came instead of 129×129" in whole.rows[0]["error"]


def test_what_is_put_together_is_bounded_listed_repaired_and_refreshed(
    run: Program, web: Server, drawn: Path, tmp_path: Path
) -> None:
    address, crate = tree(web, drawn, "dz"), tmp_path / "crates" / "c"
    run("look", address, "--save", tmp_path / "picks.csv")
    web.requests()
    bounded = run("pack", tmp_path / "picks.csv", "--crate", "c", "--max-pixels", "0.1MP", "--format", "jsonl")
    assert [(row["width"], row["type"]) for row in bounded.rows] == [(350, "png")]
    (crate / "dz-png.png").unlink()
    assert run("audit", "c", "--repair").code == 0
    assert is_equal(crate / "dz-png.png", drawn)
    web.requests()
    assert run("pack", address, "--crate", "c", "--again", "refresh").code == 0
    assert [path for path in web.requests() if "_files" in path] == []
    assert run("pack", address, "--crate", "d", "--max-pixels", "much").code == 2


def test_a_broken_run_goes_on_from_the_tiles_it_has(built: Program, web: Server, drawn: Path, tmp_path: Path) -> None:
    address = tree(web, drawn, "dz")
    slow = ("pack", address, "--crate", "c", "--pause", "0.2", "--per-site", "1")
    tiles = tmp_path / "crates" / "c" / ".pickcrate" / "tiles"
    with subprocess.Popen([sys.executable, "-m", "pickcrate", *slow], stdout=subprocess.DEVNULL) as running:
        while running.poll() is None and len(list(tiles.glob("*/*"))) < 3:
            time.sleep(0.02)
        running.kill()
    kept = len(list(tiles.glob("*/*")))
    assert kept > 1
    web.requests()
    assert built("pack", address, "--crate", "c").code == 0
    asked = [path for path in web.requests() if "_files/10/" in path]
    assert len(asked) <= 24 - kept + 1
    assert is_equal(tmp_path / "crates" / "c" / "dz-png.png", drawn)
